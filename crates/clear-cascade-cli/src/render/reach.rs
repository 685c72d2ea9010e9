//! `reach`: what a selector hits.

use std::fmt::Write as _;

use clear_cascade::Study;
use clear_cascade::answer::Reach;

use crate::paint::{ANSWER, QUIET, STAGE, clean, cut, pad, paint, wrap};

/// How many elements are listed at the most.
const MOST: usize = 40;

/// What a selector hits, how many, and where each stands.
pub(crate) fn reach(study: &Study, reach: &Reach, width: usize) -> String {
    let mut out = String::new();
    let count = reach.elements.len();
    let elements = if count == 1 { "element" } else { "elements" };
    let all = study.document().elements().len();
    let hits = if count == 0 { format!("none of the {all} elements") } else { format!("{count} {elements} of {all}") };
    let head = format!("`{}` hits {hits} on this page and weighs ({}).", reach.selector, weight(reach.specificity));
    let _ = writeln!(out, "{}", paint(ANSWER, wrap(&head, width, 0)));
    let _ = writeln!(out, "{}", wrap(&format!("It takes {}.", reach.reading), width, 0));
    if let Some(hint) = &reach.hint {
        let _ = writeln!(out, "{}", wrap(hint, width, 0));
    }
    if reach.parts.len() > 1 {
        let _ = writeln!(out, "\n{}", paint(STAGE, "What each part adds"));
        for part in &reach.parts {
            let _ = writeln!(
                out,
                "  {}  {}",
                pad(&cut(&part.text, 30), 30),
                paint(QUIET, format!("({})", weight(part.specificity)))
            );
        }
    }
    if !reach.declarations.is_empty() {
        let _ = writeln!(out, "\n{}", paint(STAGE, "What becomes of its declarations"));
        for one in &reach.declarations {
            let fate = match (one.wins, one.loses) {
                (wins, 0) => format!("wins on all {wins}"),
                (0, loses) => format!("loses on all {loses}"),
                (wins, loses) => format!("wins on {wins}, loses on {loses}"),
            };
            let _ = writeln!(out, "  {}  {}", pad(&cut(&one.declaration, 44), 44), fate);
            for to in &one.to {
                let _ = writeln!(out, "{}", paint(QUIET, wrap(to, width, 6)));
            }
        }
    }
    if count > 0 {
        let _ = writeln!(out, "\n{}", paint(STAGE, "What it hits"));
        for one in reach.elements.iter().take(MOST) {
            let number = pad(&format!("@{}", one.element), 6);
            let _ = writeln!(
                out,
                "  {}{}  {}",
                paint(QUIET, number),
                pad(&cut(&one.label, 40), 40),
                paint(QUIET, clean(&one.at.to_string()))
            );
        }
        if count > MOST {
            let _ =
                writeln!(out, "  {}", paint(QUIET, format!("and {} more; --format json lists them all", count - MOST)));
        }
    }
    out.push_str(&super::notes(&reach.notes, width));
    out
}

/// The three columns of a weight.
fn weight(columns: [u32; 3]) -> String {
    columns.map(|c| c.to_string()).join(", ")
}
