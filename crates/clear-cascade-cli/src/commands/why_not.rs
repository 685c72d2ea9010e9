//! `why-not`: why a rule does not take an element, or does and changes nothing.

use std::io::Write;
use std::path::Path;

use clear_cascade::document::ElementId;

use super::each_element;
use crate::args::{self, Format};
use crate::failure::Failure;
use crate::pages::json;
use crate::{open, render};

/// `why-not`
pub(super) fn why_not(args: &args::WhyNot, page: &Path, out: &mut dyn Write, width: usize) -> Result<(), Failure> {
    let study = open::study(page, &args.page.seen)?;
    let located = study.locate(&args.element)?;
    let pseudo = located.pseudo.as_ref();
    let ask = |element: ElementId| study.why_not_of(element, pseudo, &args.rule);
    match (args.each, args.format) {
        (true, Format::Json) => {
            let all: Result<Vec<_>, _> = located.elements.iter().map(|e| ask(*e)).collect();
            json(&all?, out)
        }
        (true, Format::Text) => each_element(&study, &located, &args.element, out, width, &mut |e| {
            Ok(render::why_not(&ask(e)?, "", args.notes, width))
        }),
        (false, Format::Json) => json(&ask(located.elements[0])?, out),
        (false, Format::Text) => {
            let subject = render::subject(&study, &located, &args.element, width);
            out.write_all(render::why_not(&ask(located.elements[0])?, &subject, args.notes, width).as_bytes())?;
            Ok(())
        }
    }
}
