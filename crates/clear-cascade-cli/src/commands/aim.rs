//! `aim`: selectors that take an element and no others.

use std::io::Write;
use std::path::Path;

use crate::args::{self, Format};
use crate::failure::Failure;
use crate::pages::json;
use crate::{open, render};

/// `aim`
pub(super) fn aim(args: &args::Aim, page: &Path, out: &mut dyn Write, width: usize) -> Result<(), Failure> {
    let study = open::study(page, &args.page.seen)?;
    let located = study.locate(&args.element)?;
    let all = |names: &[String]| -> Result<Vec<_>, Failure> {
        let found: Result<Vec<_>, _> = names.iter().map(|n| study.locate(n)).collect();
        Ok(found?.into_iter().flat_map(|l| l.elements).collect())
    };
    let (like, not) = (all(&args.like)?, all(&args.not)?);
    let answer = study.aim(located.elements[0], &like, &not);
    if args.format == Format::Json {
        return json(&answer, out);
    }
    let subject = render::subject(&study, &located, &args.element, width);
    out.write_all(render::aim(&answer, like.len() + 1, &subject, width).as_bytes())?;
    Ok(())
}
