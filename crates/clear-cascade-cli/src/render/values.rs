//! `values`: the computed values of one element, or a table of all elements.

use std::collections::HashMap;
use std::fmt::Write as _;

use clear_cascade::answer::{Located, Reading, ValueFrom};
use clear_cascade::cascade::Origin;
use clear_cascade::document::{ElementId, ElementRef};
use clear_cascade::source::Place;
use clear_cascade::{Study, Trial};

use crate::paint::{ANSWER, NOTE, QUIET, STAGE, clean, cut, notation, pad, paint, swatch, wrap};

/// What of an element is shown.
pub(crate) struct Shown<'s> {
    /// The page to compare with: only what differs there is shown.
    pub(crate) plain: Option<&'s Trial>,
    /// The sheet that is left out in it; nothing for all styles of the page.
    pub(crate) named: Option<&'s str>,
    /// Whether all longhands are listed.
    pub(crate) all: bool,
}

/// The values of one element: its path, its edges, what the page changes, and what has no effect.
pub(crate) fn element(study: &Study, located: &Located, subject: &str, shown: &Shown<'_>, width: usize) -> String {
    let id = located.elements[0];
    let mut out = String::new();
    let around = study.document().get(id).into_iter().flat_map(ElementRef::flat_lineage);
    let path: Vec<String> = around.map(ElementRef::label).collect();
    let path: Vec<&str> = path.iter().rev().map(String::as_str).collect();
    let _ = writeln!(out, "{}", paint(ANSWER, wrap(&path.join(" › "), width, 0)));
    out.push_str(subject);
    if let Ok(Some(parsed)) = study.how_parsed(id) {
        let _ = writeln!(out, "{}", paint(NOTE, wrap(&parsed, width, 0)));
    }
    let pseudo = located.pseudo.as_ref();
    let values = study.values_of(id, pseudo).unwrap_or_default();
    edges(&values.iter().map(|(name, value)| (&**name, &**value)).collect(), &mut out);
    let readings = study.read_of(id, pseudo).unwrap_or_default();
    let plain = shown.plain.and_then(|t| t.study.values_of(t.element(id)?, pseudo).ok());
    let plain: Option<HashMap<String, String>> = plain.map(|values| values.into_iter().collect());
    let differs = |r: &Reading| {
        plain.as_ref().is_none_or(|other| {
            other.get(&r.property).map_or("", |value| value) != r.value || (shown.named.is_none() && by_author(r))
        })
    };
    let rows: Vec<&Reading> = readings.iter().filter(|r| differs(r)).collect();
    if rows.is_empty() {
        let who = match shown.named {
            None | Some("author") => {
                "No style of the page changes anything here; this is what browser defaults give.".to_owned()
            }
            Some(file) => format!("`{file}` changes nothing here."),
        };
        let _ = writeln!(out, "\n{}", wrap(&who, width, 0));
    }
    let rows = if rows.is_empty() && shown.named.is_none() { readings.iter().collect() } else { rows };
    let groups = [
        ("Set by the page", ValueFrom::Declared, true),
        ("Set by browser defaults", ValueFrom::Declared, false),
        ("Inherited", ValueFrom::Inherited, true),
    ];
    for (title, from, author) in groups {
        let rows: Vec<&Reading> = rows
            .iter()
            .copied()
            .filter(|r| r.from == from && (from != ValueFrom::Declared || by_author(r) == author))
            .collect();
        if rows.is_empty() {
            continue;
        }
        let _ = writeln!(out, "\n{}", paint(STAGE, title));
        let (custom, known): (Vec<&Reading>, Vec<&Reading>) = rows.iter().partition(|r| r.property.starts_with("--"));
        for row in folded(&known) {
            line(study, &row, width, &mut out);
        }
        // Frameworks set them by the hundred.
        if custom.len() > MOST_CUSTOM && !shown.all {
            let some: Vec<&str> = custom.iter().take(2).map(|r| r.property.as_str()).collect();
            let text = format!("{} custom properties, such as {}; --all lists them", custom.len(), some.join(", "));
            let _ = writeln!(out, "{}", paint(QUIET, wrap(&text, width, 2)));
        } else {
            folded(&custom).iter().for_each(|row| line(study, row, width, &mut out));
        }
    }
    if pseudo.is_none() {
        no_effect(study, id, width, &mut out);
    }
    if shown.all {
        let _ = writeln!(out, "\n{}", paint(STAGE, "All longhands"));
        for (name, value) in &values {
            let _ = writeln!(out, "  {}  {}", pad(name, 34), cut(value, width.saturating_sub(38)));
        }
    } else {
        let rest = "All else is as browser defaults have it, or initial; --all lists everything.";
        let _ = writeln!(out, "\n{}", paint(QUIET, rest));
    }
    out
}

/// How many custom properties are listed at the most.
const MOST_CUSTOM: usize = 6;

/// A place by as much of its path as tells its file from the others of the page.
fn short(study: &Study, place: &Place) -> String {
    let names: Vec<&str> = study.sources().iter().map(|(_, s)| s.name.as_str()).collect();
    let ends = place.file.match_indices('/').map(|(i, _)| &place.file[i + 1..]).rev();
    let fits = |end: &&str| {
        let mut all = names.iter().filter(|n| **n == *end || n.ends_with(&format!("/{end}"))).collect::<Vec<_>>();
        all.dedup();
        all.len() == 1
    };
    let file = ends.into_iter().find(fits).unwrap_or(&place.file);
    Place { file: file.to_owned(), ..place.clone() }.to_string()
}

/// Whether the page's own styles give a value.
fn by_author(reading: &Reading) -> bool {
    reading.origin.is_some_and(|o| o != Origin::Defaults)
}

/// The edges of the box as one line through it, from the outside in and out again: once down, once across.
fn edges(values: &HashMap<&str, &str>, out: &mut String) {
    let value = |p: String| {
        let text = values.get(&*p).copied().unwrap_or_default();
        text.strip_suffix("px").unwrap_or(text).to_owned()
    };
    let all = |sides: [&str; 2]| {
        let parts = sides
            .map(|s| [value(format!("margin-{s}")), value(format!("border-{s}-width")), value(format!("padding-{s}"))]);
        (parts[0].clone(), parts[1].clone())
    };
    let (down, across) = (all(["top", "bottom"]), all(["left", "right"]));
    if [&down.0, &down.1, &across.0, &across.1].into_iter().flatten().all(|v| v == "0") {
        return;
    }
    let _ = writeln!(
        out,
        "\n{}  {}",
        paint(STAGE, "Edges"),
        paint(
            QUIET,
            "px, from outside in and out again: margin ┆ border │ padding ‹ content › padding │ border ┆ margin"
        )
    );
    for (name, (before, after), (start, end), content) in
        [("across", across, ("left", "right"), "width"), ("down", down, ("top", "bottom"), "height")]
    {
        let size = value(content.to_owned());
        let text = format!(
            "{} ┆ {} │ {} ‹ {content} {} › {} │ {} ┆ {}",
            before[0],
            before[1],
            before[2],
            cut(&size, 24),
            after[2],
            after[1],
            after[0]
        );
        let _ = writeln!(out, "  {}  {}  {text}  {}", pad(name, 6), paint(QUIET, pad(start, 4)), paint(QUIET, end));
    }
}

/// What is set and does nothing on this kind of box.
fn no_effect(study: &Study, id: ElementId, width: usize, out: &mut String) {
    let found = study.without_effect(id).unwrap_or_default();
    if found.is_empty() {
        return;
    }
    let _ = writeln!(out, "\n{}", paint(NOTE, "Set, but without effect here"));
    let mut told: Vec<&str> = Vec::new();
    for one in &found {
        let key = one.reason.as_str();
        if told.contains(&key) {
            continue;
        }
        told.push(key);
        let same: Vec<&str> = found.iter().filter(|o| o.reason == one.reason).map(|o| o.property.as_str()).collect();
        let names = if same.len() > 6 {
            format!("{} and {} more", same[..5].join(", "), same.len() - 5)
        } else {
            same.join(", ")
        };
        let text = format!("{names} ({}): {}", one.at, one.reason);
        let _ = writeln!(out, "{}", wrap(&text, width, 2));
        let _ = writeln!(out, "{}", paint(QUIET, wrap(&one.passage, width, 6)));
    }
}

/// A line of the table: one property, or several sides that one declaration set alike.
struct Row {
    /// The properties.
    name: String,
    /// Their value.
    value: String,
    /// Who gave it.
    by: String,
    /// Where that is written.
    at: Option<Place>,
}

/// Folds the four sides of a box into one line where they are the same.
fn folded(rows: &[&Reading]) -> Vec<Row> {
    let mut out: Vec<Row> = Vec::new();
    let mut done: Vec<&str> = Vec::new();
    for row in rows {
        if done.contains(&row.property.as_str()) {
            continue;
        }
        let by = match (&row.at, row.from) {
            (Some(_), ValueFrom::Inherited) => format!("from {}", row.by),
            _ => row.by.clone(),
        };
        let corners = ["top-left", "top-right", "bottom-right", "bottom-left"];
        let edges = ["top", "right", "bottom", "left"];
        let sides = if row.property.ends_with("radius") { corners } else { edges };
        let side = sides.iter().find(|s| format!("-{}-", row.property).contains(&format!("-{s}-")));
        let name_of = |other: &str| side.map_or_else(String::new, |side| row.property.replacen(side, other, 1));
        let alike: Vec<&&Reading> =
            sides.iter().filter_map(|s| rows.iter().find(|r| r.property == name_of(s) && r.at == row.at)).collect();
        let (name, value) = match (alike.as_slice(), side) {
            ([top, right, bottom, left], Some(side)) => {
                done.extend(alike.iter().map(|r| r.property.as_str()));
                let values = [&*top.value, &*right.value, &*bottom.value, &*left.value];
                (row.property.replacen(&format!("-{side}"), "", 1), four(values))
            }
            _ => (row.property.clone(), row.value.clone()),
        };
        let name = if name == "top" && alike.len() == 4 { "inset".to_owned() } else { name };
        out.push(Row { name, value, by, at: row.at.clone() });
    }
    out
}

/// The name for all four sides of a property of one side, and the names of the four.
pub(crate) fn folded_names(property: &str) -> Option<(String, [String; 4])> {
    let corners = ["top-left", "top-right", "bottom-right", "bottom-left"];
    let edges = ["top", "right", "bottom", "left"];
    let sides = if property.ends_with("radius") { corners } else { edges };
    let side = sides.iter().find(|s| format!("-{property}-").contains(&format!("-{s}-")))?;
    let name = property.replacen(&format!("-{side}"), "", 1);
    let name = if name == *side { "inset".to_owned() } else { name };
    Some((name, sides.map(|s| property.replacen(side, s, 1))))
}

/// Four sides written as few as they can be, from the top clockwise.
fn four([top, right, bottom, left]: [&str; 4]) -> String {
    let all = if left != right {
        vec![top, right, bottom, left]
    } else if top != bottom {
        vec![top, right, bottom]
    } else if top != right {
        vec![top, right]
    } else {
        vec![top]
    };
    all.join(" ")
}

/// One line of the table; a colour is there to look at between its notations and who gave it.
fn line(study: &Study, row: &Row, width: usize, out: &mut String) {
    let name = pad(&row.name, 22);
    let value = cut(&row.value, (width / 3).max(24));
    let value = pad(&format!("{value}{}", notation(&row.value)), 26);
    let room = width.saturating_sub(2 + name.chars().count() + 2 + value.chars().count() + 4);
    let swatch = swatch(&row.value).unwrap_or_else(|| "  ".to_owned());
    let told = |place: Option<String>| clean(&place.map_or_else(|| row.by.clone(), |p| format!("{}  {p}", row.by)));
    let (whole, short) =
        (told(row.at.as_ref().map(ToString::to_string)), told(row.at.as_ref().map(|at| short(study, at))));
    match [&whole, &short].into_iter().find(|by| by.chars().count() <= room) {
        Some(by) => _ = writeln!(out, "  {name}  {value} {swatch} {}", paint(QUIET, by)),
        None => {
            let value = format!("{} {swatch}", value.trim_end());
            let _ = writeln!(out, "  {name}  {}\n{}", value.trim_end(), paint(QUIET, wrap(&short, width, 26)));
        }
    }
}

/// A table of all elements with the values one looks at first.
pub(crate) fn page(study: &Study, width: usize) -> String {
    let document = study.document();
    let mut out = String::new();
    let name = study.sources().get(document.source()).map(|s| clean(&s.name)).unwrap_or_default();
    let count = document.elements().len();
    let quirks = if document.quirks() { ", in quirks mode" } else { "" };
    let _ = writeln!(out, "{}", paint(ANSWER, format!("{} has {count} elements{quirks}", name)));
    let _ = writeln!(
        out,
        "{}",
        paint(
            QUIET,
            wrap("Name one to read it: clear-cascade values PAGE @N. For programs: --format ndjson.", width, 0)
        )
    );
    let deep = width.saturating_sub(70).clamp(24, 44);
    let head =
        format!("{}  {}  {}  {}  {}", pad("", 5), pad("element", deep), pad("display", 12), pad("font", 16), "color");
    let _ = writeln!(out, "\n{}", paint(STAGE, head));
    for element in document.elements() {
        let id = element.id();
        let depth = element.lineage().count() - 1;
        let label = cut(&format!("{}{}", " ".repeat(depth.min(12)), element.label()), deep);
        let value = |p: &str| study.value(id, p).unwrap_or_default();
        let font = format!("{} {}", value("font-size"), value("font-weight"));
        let _ = writeln!(
            out,
            "{}  {}  {}  {}  {}",
            paint(QUIET, pad(&id.to_string(), 5)),
            pad(&label, deep),
            pad(&cut(&value("display"), 12), 12),
            pad(&cut(&font, 16), 16),
            cut(&value("color"), 26)
        );
    }
    out
}
