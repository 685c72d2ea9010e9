//! `try`: what changes, elements that change alike together, the most visible first.

use std::fmt::Write as _;

use clear_cascade::answer::{Alike, Changed, Comparison, Difference, Hit, Tried, Twins};

use unicode_width::UnicodeWidthStr;

use super::values::folded_names;
use crate::paint::{ANSWER, NOTE, QUIET, STAGE, clean, cut, pad, paint, swatch, wrap};

/// How many properties of a group are listed at the most.
const MOST: usize = 14;
/// How many groups are listed in full.
const GROUPS: usize = 12;

/// What a trial changes.
pub(crate) fn tried(tried: &Tried, in_files: bool, width: usize) -> String {
    let mut out = String::new();
    let _ = writeln!(out, "{}", paint(ANSWER, wrap(&tried.sentence, width, 0)));
    for reason in &tried.because {
        let _ = writeln!(out, "{}", wrap(&format!("because {reason}"), width, 0));
    }
    if !tried.changes.is_empty() {
        let patch = if in_files { "; --patch prints the change of the files" } else { "" };
        let _ = writeln!(out, "{}", paint(QUIET, format!("Nothing was written{patch}.")));
    }
    groups(&tried.alike(), width, &mut out);
    out
}

/// Groups of elements that change alike.
fn groups(groups: &[Alike<'_>], width: usize, out: &mut String) {
    for group in groups.iter().take(GROUPS) {
        one_group(group, width, out);
    }
    if groups.len() > GROUPS {
        let rest: usize = groups[GROUPS..].iter().map(|g| g.elements.len()).sum();
        let text =
            format!("and {rest} elements in {} more groups; --format json lists them all", groups.len() - GROUPS);
        let _ = writeln!(out, "\n{}", paint(QUIET, text));
    }
}

/// What differs between two pages, or between two ways of seeing one.
pub(crate) fn comparison(comparison: &Comparison, width: usize) -> String {
    let mut out = String::new();
    let _ = writeln!(out, "{}", paint(ANSWER, wrap(&comparison.sentence, width, 0)));
    let _ = writeln!(out, "{}", paint(QUIET, wrap(&format!("paired: {}", comparison.paired), width, 0)));
    groups(&comparison.alike(), width, &mut out);
    for (list, side) in [(&comparison.only_left, "left"), (&comparison.only_right, "right")] {
        if list.is_empty() {
            continue;
        }
        let _ = writeln!(out, "\n{}", paint(STAGE, format!("Only on the {side}")));
        for one in list.iter().take(MOST) {
            let _ = writeln!(out, "  {}", clean(&format!("{} {}", one.label, one.at)));
        }
        if list.len() > MOST {
            let _ = writeln!(out, "  {}", paint(QUIET, format!("and {} more", list.len() - MOST)));
        }
    }
    out
}

/// A row of what differs between two elements: the name, how many properties it stands for, and both values.
struct Row<'t> {
    /// The property, or the name of four sides.
    name: String,
    /// How many properties that are.
    count: usize,
    /// The difference.
    of: &'t Difference,
}

/// What differs between two elements, grouped by what gives the values; `all` of it, or what shows most.
pub(crate) fn twins(twins: &Twins, subjects: &str, all: bool, width: usize) -> String {
    let mut out = String::new();
    let _ = writeln!(out, "{}", paint(ANSWER, wrap(&twins.sentence, width, 0)));
    out.push_str(subjects);
    if let Some(parted) = &twins.parted_at {
        let _ =
            writeln!(out, "{}", paint(QUIET, format!("both are in `{}`; from there their ways part", clean(parted))));
    }
    let mut groups: Vec<(&Difference, Vec<Row<'_>>)> = Vec::new();
    for row in rows(twins) {
        let same =
            |g: &&mut (&Difference, Vec<Row<'_>>)| (&g.0.left_by, &g.0.right_by) == (&row.of.left_by, &row.of.right_by);
        match groups.iter_mut().find(same) {
            Some((_, rows)) => rows.push(row),
            None => groups.push((row.of, vec![row])),
        }
    }
    let most = if all { usize::MAX } else { MOST };
    let mut left = most;
    for (cause, rows) in &groups {
        if left == 0 {
            break;
        }
        let _ = writeln!(out);
        for (side, by) in [("left", &cause.left_by), ("right", &cause.right_by)] {
            let _ = writeln!(out, "{}", paint(STAGE, wrap(&format!("{side}: {by}"), width, 0)));
        }
        let shown = &rows[..rows.len().min(left)];
        left -= shown.len();
        let column = shown.iter().map(|r| r.name.width()).max().unwrap_or_default().max(20);
        let side = |of: &dyn Fn(&Row<'_>) -> String| -> Vec<(String, usize)> {
            shown.iter().map(of).map(|v| (v.clone(), value(&v).width())).collect()
        };
        let (lefts, rights) = (side(&|r| r.of.left.clone()), side(&|r| r.of.right.clone()));
        let both = [lefts, rights].map(|list| Column::of(list.iter().map(|(v, w)| (v.as_str(), *w))));
        for row in shown {
            let name = pad(&row.name, column);
            if 2 + column + 2 + both[0].whole() + 2 + both[1].whole() <= width {
                let (a, b) = (&row.of.left, &row.of.right);
                let cells = (both[0].cell(a, &value(a)), both[1].cell(b, &value(b)));
                let _ = writeln!(out, "  {name}  {}  {}", cells.0, cells.1.trim_end());
            } else {
                let _ = writeln!(out, "  {}", row.name);
                for (side, v) in [("left", &row.of.left), ("right", &row.of.right)] {
                    let _ = writeln!(out, "{}", wrap(&format!("{side}: {}", value(v)), width, 6));
                }
            }
        }
    }
    let rest: usize = groups.iter().flat_map(|(_, rows)| rows).skip(most).map(|r| r.count).sum();
    if rest > 0 {
        let _ = writeln!(out, "\n{}", paint(NOTE, format!("and {rest} more properties; --all shows them")));
    }
    out
}

/// A value, or that there is none.
fn value(value: &str) -> String {
    if value.is_empty() { "no value".to_owned() } else { clean(value) }
}

/// A column of values, each behind a little of its colour where some are colours.
struct Column {
    /// How wide the texts are.
    width: usize,
    /// Whether some are colours.
    colours: bool,
}

impl Column {
    /// The column for some values, whose texts are so wide.
    fn of<'v>(values: impl Iterator<Item = (&'v str, usize)>) -> Self {
        let empty = Self { width: 0, colours: false };
        values.fold(empty, |c, (v, wide)| Self { width: c.width.max(wide), colours: c.colours || swatch(v).is_some() })
    }

    /// How wide it is with its colours.
    fn whole(&self) -> usize {
        self.width + if self.colours { 3 } else { 0 }
    }

    /// A value in it, filled up to its width, its colour before it.
    fn cell(&self, value: &str, text: &str) -> String {
        let gap = if self.colours { " " } else { "" };
        format!("{}{gap}{}", self.colour(value), pad(text, self.width))
    }

    /// The same with its colour behind it.
    fn cell_and_colour(&self, value: &str, text: &str) -> String {
        let gap = if self.colours { " " } else { "" };
        format!("{}{gap}{}", pad(text, self.width), self.colour(value))
    }

    /// A little of its colour, or as much room where others are colours.
    fn colour(&self, value: &str) -> String {
        swatch(value).unwrap_or_else(|| if self.colours { "  " } else { "" }.to_owned())
    }
}

/// What differs, four sides that differ alike as one.
fn rows(twins: &Twins) -> Vec<Row<'_>> {
    let plain: Vec<&Difference> = twins.differences.iter().filter(|d| !d.echo).collect();
    let mut done: Vec<String> = Vec::new();
    let mut out = Vec::new();
    for of in &plain {
        if done.contains(&of.property) {
            continue;
        }
        let same = |o: &&&Difference| {
            (&o.left, &o.right, &o.left_by, &o.right_by) == (&of.left, &of.right, &of.left_by, &of.right_by)
        };
        let sides = folded_names(&of.property)
            .filter(|(_, sides)| sides.iter().all(|s| plain.iter().filter(same).any(|o| o.property == *s)));
        match sides {
            Some((name, sides)) => {
                done.extend(sides);
                out.push(Row { name: format!("{name} (4 sides)"), count: 4, of });
            }
            None => out.push(Row { name: of.property.clone(), count: 1, of }),
        }
    }
    out
}

/// Elements that change alike, and how.
fn one_group(group: &Alike<'_>, width: usize, out: &mut String) {
    let Some(first) = group.elements.first() else { return };
    let name = |e: &Hit| format!("{}{}", cut(&e.label, width / 2), e.pseudo.as_deref().unwrap_or_default());
    let head = match group.elements.as_slice() {
        [_] => {
            format!("{}  {}", name(first), paint(QUIET, format!("{}, {}", first.element, clean(&first.at.to_string()))))
        }
        [_, rest @ ..] => {
            let some: Vec<String> = rest.iter().take(4).map(|e| e.element.to_string()).collect();
            let dots = if rest.len() > 4 { ", …" } else { "" };
            let others = if rest.iter().all(|e| name(e) == name(first)) {
                format!("{} more of these", rest.len())
            } else {
                format!("{} with the same change", kinds(rest))
            };
            format!(
                "{}  {}",
                name(first),
                paint(QUIET, format!("{}, and {others}: {}{dots}", first.element, some.join(", ")))
            )
        }
        [] => return,
    };
    let _ = writeln!(out, "\n{}", paint(STAGE, head));
    // Of a box that comes or goes, what is declared for it tells what it is; its content first.
    let mut changes = group.changes.clone();
    if group.comes.is_some() {
        let told = if group.comes == Some(true) { "no longer" } else { "not set" };
        changes.retain(|c| c.property == "content" || !(c.inherited || c.by.starts_with(told)));
        changes.sort_by_key(|c| c.property != "content");
    }
    let rows = folded(&changes);
    let shown = &rows[..rows.len().min(MOST)];
    let text = |v: &str| cut(&value(v), 34);
    let names = shown.iter().map(|r| r.0.width()).max().unwrap_or_default().max(20);
    let befores = Column::of(shown.iter().map(|r| (r.1.as_str(), text(&r.1).width())));
    let afters = Column::of(shown.iter().map(|r| (r.2.as_str(), text(&r.2).width())));
    let used = 2 + names + 2 + befores.whole() + 3 + afters.whole() + 2;
    for (name, before, after, by) in shown {
        let before = befores.cell(before, &text(before));
        let after = afters.cell_and_colour(after, &text(after));
        let (values, by) = (format!("  {}  {before} → {after}", pad(name, names)), clean(by));
        if used + by.width() <= width {
            let _ = writeln!(out, "{values}  {}", paint(QUIET, by));
        } else {
            let _ = writeln!(out, "{}\n{}", values.trim_end(), paint(QUIET, wrap(&by, width, names + 4)));
        }
    }
    if rows.len() > MOST {
        let _ = writeln!(out, "  {}", paint(NOTE, format!("and {} more properties", rows.len() - MOST)));
    }
}

/// How many of each kind some elements are, the most frequent first.
fn kinds(elements: &[Hit]) -> String {
    let mut counts: Vec<(String, usize)> = Vec::new();
    for one in elements {
        let kind = one.label.split(['#', '.']).next().unwrap_or_default();
        let kind = format!("`{}{}`", clean(kind), one.pseudo.as_deref().unwrap_or_default());
        match counts.iter_mut().find(|(k, _)| *k == kind) {
            Some((_, n)) => *n += 1,
            None => counts.push((kind, 1)),
        }
    }
    counts.sort_by_key(|(_, n)| std::cmp::Reverse(*n));
    let more: usize = counts.iter().skip(4).map(|(_, n)| n).sum();
    let mut told: Vec<String> = counts.iter().take(4).map(|(kind, n)| format!("{n} {kind}")).collect();
    if more > 0 {
        told.push(if more == 1 { "1 other".to_owned() } else { format!("{more} others") });
    }
    told.join(", ")
}

/// The changes with sides folded, and without the flow-relative names of what is listed already.
fn folded(changes: &[&Changed]) -> Vec<(String, String, String, String)> {
    let plain: Vec<&&Changed> = changes.iter().filter(|c| !c.echo).collect();
    let rows = if plain.is_empty() { changes.iter().collect() } else { plain };
    let mut out: Vec<(String, String, String, String)> = Vec::new();
    let mut done: Vec<&str> = Vec::new();
    for row in &rows {
        if done.contains(&row.property.as_str()) {
            continue;
        }
        let alike = |name: &str| {
            rows.iter().any(|o| o.property == name && o.before == row.before && o.after == row.after && o.by == row.by)
        };
        match folded_names(&row.property).filter(|(_, sides)| sides.iter().all(|s| alike(s))) {
            Some((name, sides)) => {
                done.extend(rows.iter().map(|r| r.property.as_str()).filter(|p| sides.iter().any(|s| s == p)));
                out.push((name, row.before.clone(), row.after.clone(), row.by.clone()));
            }
            None => out.push((row.property.clone(), row.before.clone(), row.after.clone(), row.by.clone())),
        }
    }
    out
}
