//! `reach`: what a selector hits.

use std::fmt::Write as _;

use clear_cascade::Study;
use clear_cascade::answer::{Reach, Tally};

use crate::paint::{ANSWER, QUIET, STAGE, clean, cut, pad, paint, wrap};

/// How many elements are listed at the most.
const MOST: usize = 40;

/// What a selector hits, how many, and where each stands.
pub(crate) fn reach(study: &Study, reach: &Reach, width: usize) -> String {
    let mut out = String::new();
    let count = reach.elements.len();
    let weighs = if reach.reading.is_empty() { String::new() } else { format!(" and weighs ({})", reach.specificity) };
    let head = format!("{}{weighs}.", hits(study, reach));
    let _ = writeln!(out, "{}", paint(ANSWER, wrap(&head, width, 0)));
    if let Some(off) = &reach.off {
        let _ = writeln!(out, "{}", wrap(&format!("The rule is off: {off}."), width, 0));
    }
    if !reach.reading.is_empty() {
        let _ = writeln!(out, "{}", wrap(&format!("It takes {}.", reach.reading), width, 0));
    }
    if let Some(at) = &reach.rule_at {
        let _ = writeln!(out, "{}", paint(QUIET, format!("the rule is written at {}", clean(&at.to_string()))));
    }
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
                paint(QUIET, format!("({})", part.specificity))
            );
        }
    }
    if !reach.declarations.is_empty() {
        let head =
            if reach.declarations.len() == 1 { "What becomes of it" } else { "What becomes of its declarations" };
        let _ = writeln!(out, "\n{}", paint(STAGE, head));
        reach.declarations.iter().for_each(|one| tally(one, width, &mut out));
    }
    if count > 0 {
        let _ = writeln!(out, "\n{}", paint(STAGE, "What it hits"));
        for one in reach.elements.iter().take(MOST) {
            let number = pad(&one.element.to_string(), 6);
            let words = if one.words.is_empty() { String::new() } else { format!(" \"{}\"", one.words) };
            let name = format!("{}{}{words}", one.label, one.pseudo.as_deref().unwrap_or_default());
            let _ = writeln!(
                out,
                "  {}{}  {}",
                paint(QUIET, number),
                pad(&cut(&name, 50), 50),
                paint(QUIET, clean(&one.at.to_string()))
            );
        }
        if count > MOST {
            let _ =
                writeln!(out, "  {}", paint(QUIET, format!("and {} more; --format json lists them all", count - MOST)));
        }
    }
    out.push_str(&super::notes(&reach.notes, true, width));
    out
}

/// How many elements and pseudo-elements are hit.
fn hits(study: &Study, reach: &Reach) -> String {
    let all = study.document().elements().len();
    let count = |n: usize, what: &str| format!("{n} {what}{}", if n == 1 { "" } else { "s" });
    let pseudos = reach.elements.iter().filter(|e| e.pseudo.is_some()).count();
    let hits = match (reach.elements.len() - pseudos, pseudos) {
        (0, 0) => format!("none of the {all} elements"),
        (elements, 0) => format!("{} of {all}", count(elements, "element")),
        (0, pseudos) => count(pseudos, "pseudo-element"),
        (elements, pseudos) => {
            format!("{} of {all} and {}", count(elements, "element"), count(pseudos, "pseudo-element"))
        }
    };
    let would = if reach.off.is_some() { "would hit" } else { "hits" };
    // An attribute has no selector.
    let what =
        if reach.reading.is_empty() { format!("The {}", reach.selector) } else { format!("`{}`", reach.selector) };
    format!("{what} {would} {hits} on this page")
}

/// What becomes of one declaration, and why.
fn tally(one: &Tally, width: usize, out: &mut String) {
    let loses = one.loses - one.partly;
    let fates = [
        (one.wins, "wins on"),
        (one.partly, "wins in part on"),
        (loses, "loses on"),
        (one.off, "is off on"),
        (one.idle, "does nothing on"),
    ];
    let met: Vec<&(usize, &str)> = fates.iter().filter(|(n, _)| *n > 0).collect();
    let fate = match met.as_slice() {
        _ if one.dropped.is_some() => "was dropped".to_owned(),
        [] => "hits nothing here".to_owned(),
        [(1, _)] => met[0].1.trim_end_matches(" on").to_owned(),
        [(n, what)] => format!("{what} all {n}"),
        several => several.iter().map(|(n, what)| format!("{what} {n}")).collect::<Vec<_>>().join(", "),
    };
    let _ = writeln!(out, "  {}  {}", pad(&cut(&one.declaration, 44), 44), fate);
    for reason in one.to.iter().chain(&one.because).chain(&one.dropped) {
        let _ = writeln!(out, "{}", paint(QUIET, wrap(reason, width, 6)));
    }
}
