//! `why-not`: why a rule does not take an element, or does and changes nothing.

use std::io::Write;
use std::path::Path;

use crate::args::{self, Format};
use crate::failure::Failure;
use crate::pages::json;
use crate::{open, render};

/// `why-not`
pub(super) fn why_not(args: &args::WhyNot, page: &Path, out: &mut dyn Write, width: usize) -> Result<(), Failure> {
    let study = open::study(page, &args.page.seen)?;
    let located = study.locate(&args.element)?;
    let answer = study.why_not_of(located.elements[0], located.pseudo.as_ref(), &args.rule)?;
    if args.format == Format::Json {
        return json(&answer, out);
    }
    let subject = render::subject(&study, &located, &args.element, width);
    out.write_all(render::why_not(&answer, &subject, width).as_bytes())?;
    Ok(())
}
