//! `why`: why a property has its value.

use std::collections::BTreeSet;
use std::io::Write;
use std::path::Path;

use clear_cascade::Study;
use clear_cascade::answer::{Located, Why};
use clear_cascade::document::ElementId;

use super::each_element;
use crate::args::{self, Format};
use crate::failure::{Failure, Refusal};
use crate::pages::json;
use crate::paint::{ANSWER, paint, wrap};
use crate::witness::{self, Claim};
use crate::{open, render};

/// How many elements with another value are named at the most.
const MOST: usize = 3;

/// `why`; whether a browser that is asked computes something else, where that is to fail.
pub(super) fn why(args: &args::Why, page: &Path, out: &mut dyn Write, width: usize) -> Result<bool, Failure> {
    let (study, loader) = open::page_with_files(page, &args.page.seen)?;
    let located = study.locate(&args.element)?;
    for property in &args.properties {
        let another = study.longhands(property).is_err() && study.locate(property).is_ok();
        if another {
            return Err(Refusal {
                hint: Some(format!("to ask about both elements, write them as one: '{}, {property}'", args.element)),
                ..Refusal::new(format!("there is no property `{property}`; it names an element of the page"))
            }
            .into());
        }
    }
    // Several selectors with commas between them ask for several elements.
    let each = args.each || study.names_several(&args.element);
    let all = if each { &located.elements[..] } else { &located.elements[..1] };
    if args.format == Format::Json {
        let mut answers: Vec<Why> = Vec::new();
        for element in all {
            for property in &args.properties {
                for longhand in study.longhands(property)? {
                    answers.push(study.why_of(*element, located.pseudo.as_ref(), &longhand)?);
                }
            }
        }
        if let ([one], false) = (answers.as_slice(), each) { json(one, out) } else { json(&answers, out) }?;
        return Ok(false);
    }
    let text = |element: ElementId, subject: &str| told(&study, &located, element, args, subject, width);
    if each {
        out.write_all(shared(&study, &located, args, width)?.as_bytes())?;
        each_element(&study, &located, &args.element, out, width, &mut |e| text(e, ""))?;
    } else {
        let subject = render::subject_and(&study, &located, &args.element, others(&study, &located, args)?, width);
        out.write_all(text(located.elements[0], &subject)?.as_bytes())?;
    }
    let Some(driver) = &args.witness.witness else { return Ok(false) };
    let mut claims = Vec::new();
    for element in all {
        for property in &args.properties {
            for property in study.longhands(property)? {
                let value = study.why_of(*element, located.pseudo.as_ref(), &property)?.value;
                let pseudo = located.pseudo.as_ref().map(ToString::to_string);
                claims.push(Claim { element: element.number(), pseudo, property, value });
            }
        }
    }
    let testimony = witness::ask(driver, (&study, &loader, &[]), &args.page.seen, claims)?;
    out.write_all(testimony.told(&study, width).as_bytes())?;
    Ok(testimony.differs() && args.witness.fail_on_difference)
}

/// In which properties several elements have the same value, and in which they part; empty for one, and for pseudo-elements.
fn shared(study: &Study, located: &Located, args: &args::Why, width: usize) -> Result<String, Failure> {
    let count = located.elements.len();
    if count < 2 || located.pseudo.is_some() {
        return Ok(String::new());
    }
    let (mut same, mut parted) = (Vec::new(), Vec::new());
    for property in &args.properties {
        for longhand in study.longhands(property)? {
            let values: BTreeSet<Option<String>> =
                located.elements.iter().map(|e| study.value(*e, &longhand)).collect();
            if values.len() == 1 { same.push(longhand) } else { parted.push(longhand) }
        }
    }
    let named = |list: &[String]| {
        let some = list.iter().take(MOST).map(|name| format!("`{name}`")).collect::<Vec<_>>().join(", ");
        if list.len() > MOST { format!("{some} and {} more", list.len() - MOST) } else { some }
    };
    let sentence = match (same.as_slice(), parted.as_slice()) {
        ([one], []) => {
            let value = study.value(located.elements[0], one).filter(|value| !value.is_empty());
            format!("All {count} elements have the same `{one}`: {}.", value.as_deref().unwrap_or("no value"))
        }
        (same, []) => format!("All {count} elements have the same {}.", named(same)),
        ([], parted) => format!("The {count} elements part in {}.", named(parted)),
        (same, parted) => format!("The {count} elements share {} and part in {}.", named(same), named(parted)),
    };
    Ok(format!("{}\n\n", paint(ANSWER, wrap(&sentence, width, 0))))
}

/// The answer for one element.
fn told(
    study: &Study,
    located: &Located,
    element: ElementId,
    args: &args::Why,
    subject: &str,
    width: usize,
) -> Result<String, Failure> {
    let properties: Vec<&str> = args.properties.iter().map(String::as_str).collect();
    let together = study.why_together(element, located.pseudo.as_ref(), &properties)?;
    if args.short {
        let members = together.groups.iter().flat_map(|g| &g.members);
        let answers = members.enumerate().map(|(i, m)| render::short(&m.why, if i == 0 { subject } else { "" }, width));
        return Ok(answers.collect());
    }
    Ok(match together.groups.as_slice() {
        [group] if group.members.len() == 1 => render::why(&group.members[0].why, subject, args.notes, width),
        _ => render::together(&together, subject, args.notes, width),
    })
}

/// Whether the other elements that the name fits have the same value, where one property is asked about.
fn others(study: &Study, located: &Located, args: &args::Why) -> Result<Option<String>, Failure> {
    let [property] = args.properties.as_slice() else { return Ok(None) };
    let longhands = study.longhands(property)?;
    let ([longhand], None) = (longhands.as_slice(), &located.pseudo) else { return Ok(None) };
    let value = |e: ElementId| study.value(e, longhand).unwrap_or_default();
    let (own, rest) = (value(located.elements[0]), &located.elements[1..]);
    let differ: Vec<ElementId> = rest.iter().copied().filter(|e| value(*e) != own).collect();
    let same = match (rest.len() - differ.len(), differ.len()) {
        (1, 0) => Some("it has the same value".to_owned()),
        (_, 0) => Some("all have the same value".to_owned()),
        (0, _) => None,
        (n, _) => Some(format!("{n} with the same value")),
    };
    let some = differ.iter().take(MOST).map(|e| {
        let value = value(*e);
        let value = if value.is_empty() { "no value" } else { value.as_str() };
        format!("{e} {} has {}", render::one_of(study, located, *e, &args.element), crate::paint::cut(value, 40))
    });
    let some: Vec<String> = same.into_iter().chain(some).collect();
    let dots = if differ.len() > MOST { ", …" } else { "" };
    Ok(Some(format!("{}{dots}; --each answers for all", some.join(", "))))
}
