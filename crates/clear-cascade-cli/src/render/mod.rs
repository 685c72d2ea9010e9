//! Answers as text for people.

mod aim;
pub(crate) mod check;
mod excerpt;
mod reach;
mod tried;
mod values;
mod why;
mod why_not;

pub(crate) use aim::aim;
pub(crate) use reach::reach;
pub(crate) use tried::{comparison, tried, twins};
pub(crate) use values::{Shown, element, page};
pub(crate) use why::{short, together, why};
pub(crate) use why_not::why_not;

use clear_cascade::Study;
use clear_cascade::answer::Located;
use clear_cascade::document::{ElementId, ElementRef};

use crate::paint::{self, NOTE, QUIET};

/// The line that says which element an answer is about, and how to pick another where the name fits several.
pub(crate) fn subject(study: &Study, located: &Located, asked: &str, width: usize) -> String {
    subject_and(study, located, asked, None, width)
}

/// The same with what is told of the others.
pub(crate) fn subject_and(
    study: &Study,
    located: &Located,
    asked: &str,
    others: Option<String>,
    width: usize,
) -> String {
    let id = located.elements[0];
    let span = study.document().get(id).map(ElementRef::span);
    let place = span.and_then(|span| study.sources().place(span)).map(|p| p.to_string()).unwrap_or_default();
    let name = one_of(study, located, id, asked);
    let mut out = paint::paint(QUIET, paint::wrap(&format!("{name} is {id}, written at {place}"), width, 0));
    out.push('\n');
    let more = located.elements.len() - 1;
    if more > 0 {
        let told = others.unwrap_or_else(|| {
            let some = located.elements[1..].iter().take(3);
            let some: Vec<String> = some.map(|e| format!("{e} {}", one_of(study, located, *e, asked))).collect();
            format!("ask about {}{} to see another", some.join(", "), if more > 3 { ", …" } else { "" })
        });
        let elements = if more == 1 { "element" } else { "elements" };
        let text = format!("`{}` also takes {more} more {elements}: {told}", paint::clean(asked));
        out.push_str(&paint::paint(QUIET, paint::wrap(&text, width, 0)));
        out.push('\n');
    }
    out
}

/// One of the elements that were asked about, as people find it again.
pub(crate) fn one_of(study: &Study, located: &Located, element: ElementId, asked: &str) -> String {
    let pseudo = located.pseudo.as_ref().map(ToString::to_string).unwrap_or_default();
    let label = study.document().get(element).map(ElementRef::label).unwrap_or_default();
    let told = study.described(element, asked).unwrap_or_default();
    paint::clean(&told.replacen(&label, &format!("{label}{pseudo}"), 1))
}

/// How many remarks are told in full.
const MOST_NOTES: usize = 2;

/// Remarks below an answer: all of them, or those that are few.
pub(crate) fn notes(notes: &[String], all: bool, width: usize) -> String {
    if notes.is_empty() {
        return String::new();
    }
    let mut out = format!("\n{}\n", paint::paint(NOTE, "To know as well"));
    let shown = if all || notes.len() <= MOST_NOTES { notes.len() } else { 1 };
    for note in &notes[..shown] {
        out.push_str(&paint::wrap(note, width, 2));
        out.push('\n');
    }
    if shown < notes.len() {
        let text = format!("and {} more remarks, which may not matter here; --notes shows them", notes.len() - shown);
        out.push_str(&paint::paint(QUIET, paint::wrap(&text, width, 2)));
        out.push('\n');
    }
    out
}
