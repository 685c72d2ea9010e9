//! `why`: why a property has the value it has.

use std::io::Write;
use std::path::Path;

use clear_cascade::answer::Why;

use crate::args::{self, Format};
use crate::failure::Failure;
use crate::pages::json;
use crate::{open, render};

/// `why`
pub(super) fn why(args: &args::Why, page: &Path, out: &mut dyn Write, width: usize) -> Result<(), Failure> {
    let study = open::study(page, &args.page.seen)?;
    let located = study.locate(&args.element)?;
    let (element, pseudo) = (located.elements[0], located.pseudo.as_ref());
    if args.format == Format::Json {
        let mut answers: Vec<Why> = Vec::new();
        for property in &args.properties {
            for longhand in study.longhands(property)? {
                answers.push(study.why_of(element, pseudo, &longhand)?);
            }
        }
        return if let [one] = answers.as_slice() { json(one, out) } else { json(&answers, out) };
    }
    let properties: Vec<&str> = args.properties.iter().map(String::as_str).collect();
    let together = study.why_together(element, pseudo, &properties)?;
    let subject = render::subject(&study, &located, &args.element, width);
    let text = match together.groups.as_slice() {
        [group] if group.members.len() == 1 => render::why(&group.members[0].why, &subject, width),
        _ => render::together(&together, &subject, width),
    };
    out.write_all(text.as_bytes())?;
    Ok(())
}
