//! `values`: the computed values of one element, or a table of all elements.

use std::fmt::Write as _;

use clear_cascade::Study;
use clear_cascade::answer::{From, Located, Reading};
use clear_cascade::cascade::Origin;

use crate::paint::{ANSWER, QUIET, STAGE, clean, cut, pad, paint, wrap};

/// The values of one element: first what the page's styles set, then defaults, then what is inherited.
pub(crate) fn element(study: &Study, located: &Located, subject: &str, all: bool, width: usize) -> String {
    let id = located.elements[0];
    let mut out = String::new();
    let path: Vec<String> = study.document().lineage(id).map(|e| study.document().label(e)).collect();
    let path: Vec<&str> = path.iter().rev().map(String::as_str).collect();
    let _ = writeln!(out, "{}", paint(ANSWER, wrap(&path.join(" › "), width, 0)));
    out.push_str(subject);
    let readings = study.read(id);
    let author = |r: &Reading| !matches!(r.origin, Some(Origin::Defaults));
    let groups = [
        ("Set by the page", From::Declared, true),
        ("Set by browser defaults", From::Declared, false),
        ("Inherited", From::Inherited, true),
    ];
    for (title, from, by_author) in groups {
        let rows: Vec<&Reading> =
            readings.iter().filter(|r| r.from == from && (from != From::Declared || author(r) == by_author)).collect();
        if rows.is_empty() {
            continue;
        }
        let _ = writeln!(out, "\n{}", paint(STAGE, title));
        for row in folded(&rows) {
            line(&row, width, &mut out);
        }
    }
    if all {
        let _ = writeln!(out, "\n{}", paint(STAGE, "All longhands"));
        for (name, value) in study.values(id) {
            let _ = writeln!(out, "  {}  {}", pad(&name, 34), cut(&value, width.saturating_sub(38)));
        }
    } else {
        let _ =
            writeln!(out, "\n{}", paint(QUIET, "All other properties have their initial values; --all lists them."));
    }
    out
}

/// A line of the table: one property, or several sides that one declaration set alike.
struct Row {
    /// The properties.
    name: String,
    /// Their value.
    value: String,
    /// Who gave it.
    by: String,
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
            (Some(at), From::Inherited) => format!("from {} at {at}", row.by),
            (Some(at), _) => format!("{}  {at}", row.by),
            (None, _) => row.by.clone(),
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
        out.push(Row { name, value, by });
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

/// One line of the table.
fn line(row: &Row, width: usize, out: &mut String) {
    let name = pad(&row.name, 22);
    let value = cut(&row.value, (width / 3).max(24));
    let value = pad(&value, 24);
    let room = width.saturating_sub(2 + name.chars().count() + 2 + value.chars().count() + 2);
    let by = clean(&row.by);
    if by.chars().count() <= room {
        let _ = writeln!(out, "  {name}  {value}  {}", paint(QUIET, by));
    } else {
        let _ = writeln!(out, "  {name}  {}\n{}", value.trim_end(), paint(QUIET, wrap(&by, width, 26)));
    }
}

/// A table of all elements with the values one looks at first.
pub(crate) fn page(study: &Study, width: usize) -> String {
    let document = study.document();
    let mut out = String::new();
    let source = study.sources().get(document.source);
    let count = document.elements().len();
    let quirks = if document.quirks { ", in quirks mode" } else { "" };
    let _ = writeln!(out, "{}", paint(ANSWER, format!("{} has {count} elements{quirks}", clean(&source.name))));
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
    for id in document.ids() {
        let depth = document.lineage(id).count() - 1;
        let label = cut(&format!("{}{}", " ".repeat(depth.min(12)), document.label(id)), deep);
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
