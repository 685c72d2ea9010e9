//! Answers as text for people.

mod aim;
mod reach;
mod tried;
mod values;
mod why;
mod why_not;

pub(crate) use aim::aim;
pub(crate) use reach::reach;
pub(crate) use tried::{comparison, tried, twins};
pub(crate) use values::{Shown, element, page};
pub(crate) use why::{together, why};
pub(crate) use why_not::why_not;

use clear_cascade::Study;
use clear_cascade::answer::Located;

use crate::paint::{self, NOTE, QUIET};

/// The line that says which element an answer is about, and how to pick another where the name fits several.
pub(crate) fn subject(study: &Study, located: &Located, asked: &str, width: usize) -> String {
    let document = study.document();
    let id = located.elements[0];
    let pseudo = located.pseudo.as_ref().map(ToString::to_string).unwrap_or_default();
    let place = study.sources().place(document.span(id));
    let label = paint::cut(&document.label(id), width / 2);
    let mut out = format!("{}\n", paint::paint(QUIET, format!("{label}{pseudo} is {id}, written at {place}")));
    let more = located.elements.len() - 1;
    if more > 0 {
        let others: Vec<String> = located.elements[1..].iter().take(3).map(ToString::to_string).collect();
        let dots = if more > 3 { ", …" } else { "" };
        let elements = if more == 1 { "element" } else { "elements" };
        let text = format!(
            "`{}` also takes {more} more {elements}: ask about {}{dots} to see another",
            paint::clean(asked),
            others.join(", ")
        );
        out.push_str(&paint::paint(QUIET, paint::wrap(&text, width, 0)));
        out.push('\n');
    }
    out
}

/// Remarks below an answer.
pub(crate) fn notes(notes: &[String], width: usize) -> String {
    if notes.is_empty() {
        return String::new();
    }
    let mut out = format!("\n{}\n", paint::paint(NOTE, "To know as well"));
    for note in notes {
        out.push_str(&paint::wrap(note, width, 2));
        out.push('\n');
    }
    out
}
