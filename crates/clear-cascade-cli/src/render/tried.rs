//! `try`: what changes, elements that change alike together, the most visible first.

use std::fmt::Write as _;

use clear_cascade::answer::{Alike, Changed, Comparison, Difference, Tried, Twins};
use clear_cascade::property::PropertyId;

use super::values::folded_names;
use crate::paint::{ANSWER, NOTE, QUIET, STAGE, WON, clean, cut, pad, paint, wrap};

/// How many properties of a group are listed at the most.
const MOST: usize = 14;
/// How many groups are listed in full.
const GROUPS: usize = 12;

/// What a trial changes.
pub(crate) fn tried(tried: &Tried, width: usize) -> String {
    let mut out = String::new();
    let _ = writeln!(out, "{}", paint(ANSWER, wrap(&tried.sentence, width, 0)));
    for reason in &tried.because {
        let _ = writeln!(out, "{}", wrap(&format!("because {reason}"), width, 0));
    }
    if !tried.changes.is_empty() {
        let _ = writeln!(out, "{}", paint(QUIET, "Nothing was written; --patch prints the change of the files."));
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
            let _ = writeln!(out, "  {}", clean(one));
        }
        if list.len() > MOST {
            let _ = writeln!(out, "  {}", paint(QUIET, format!("and {} more", list.len() - MOST)));
        }
    }
    out
}

/// What differs between two elements, each value with its cause.
pub(crate) fn twins(twins: &Twins, width: usize) -> String {
    let mut out = String::new();
    let _ = writeln!(out, "{}", paint(ANSWER, wrap(&twins.sentence, width, 0)));
    if let Some(parted) = &twins.parted_at {
        let _ =
            writeln!(out, "{}", paint(QUIET, format!("both are in `{}`; from there their ways part", clean(parted))));
    }
    let rows: Vec<&Difference> = twins.differences.iter().filter(|d| !is_flow_relative(&d.property)).collect();
    let color = rows.iter().find(|d| d.property == "color");
    let mut done: Vec<String> = Vec::new();
    for row in &rows {
        let follows = color.is_some_and(|c| {
            row.property != "color" && row.property.ends_with("color") && (&c.left, &c.right) == (&row.left, &row.right)
        });
        if follows || done.contains(&row.property) {
            continue;
        }
        let same = |o: &&&Difference| {
            (&o.left, &o.right, &o.left_by, &o.right_by) == (&row.left, &row.right, &row.left_by, &row.right_by)
        };
        let sides = folded_names(&row.property)
            .filter(|(_, sides)| sides.iter().all(|s| rows.iter().filter(same).any(|o| o.property == *s)));
        let name = match sides {
            Some((name, sides)) => {
                done.extend(sides);
                name
            }
            None => row.property.clone(),
        };
        let _ = writeln!(out, "\n{}", paint(STAGE, &name));
        for (value, by) in [(&row.left, &row.left_by), (&row.right, &row.right_by)] {
            let value = if value.is_empty() { "no value".to_owned() } else { cut(value, width / 2) };
            let _ = writeln!(out, "  {}  {}", pad(&value, 28), paint(QUIET, clean(by)));
        }
    }
    out
}

/// Elements that change alike, and how.
fn one_group(group: &Alike<'_>, width: usize, out: &mut String) {
    let Some((first, pseudo)) = group.elements.first() else { return };
    let name = |label: &str| format!("{}{}", cut(label, width / 2), pseudo.as_deref().unwrap_or_default());
    let head = match group.elements.len() {
        1 => format!(
            "{}  {}",
            name(&first.label),
            paint(QUIET, format!("@{}, {}", first.element, clean(&first.at.to_string())))
        ),
        n => {
            let some: Vec<String> =
                group.elements.iter().skip(1).take(4).map(|(e, _)| format!("@{}", e.element)).collect();
            let dots = if n > 5 { ", …" } else { "" };
            let others = format!("@{}, and {} more alike: {}{dots}", first.element, n - 1, some.join(", "));
            format!("{}  {}", name(&first.label), paint(QUIET, others))
        }
    };
    let _ = writeln!(out, "\n{}", paint(STAGE, head));
    let rows = folded(&group.changes);
    for row in rows.iter().take(MOST) {
        let before = if row.1.is_empty() { "no value".to_owned() } else { cut(&row.1, 34) };
        let after = if row.2.is_empty() { "no value".to_owned() } else { cut(&row.2, 34) };
        let line = format!("  {}  {} → {}", pad(&row.0, 22), before, paint(WON, &after));
        let used = 2 + 22.max(row.0.chars().count()) + 2 + before.chars().count() + 3 + after.chars().count() + 2;
        let by = clean(&row.3);
        if used + by.chars().count() <= width {
            let _ = writeln!(out, "{line}  {}", paint(QUIET, by));
        } else {
            let _ = writeln!(out, "{line}\n{}", paint(QUIET, wrap(&by, width, 26)));
        }
    }
    if rows.len() > MOST {
        let _ = writeln!(out, "  {}", paint(NOTE, format!("and {} more properties", rows.len() - MOST)));
    }
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

/// Whether a property is the flow-relative name of another one, which is told by itself.
fn is_flow_relative(name: &str) -> bool {
    PropertyId::named(name).is_some_and(PropertyId::is_flow_relative)
}
