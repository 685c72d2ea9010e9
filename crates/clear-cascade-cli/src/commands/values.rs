//! `values`: the computed values of elements.

use std::io::{self, Write};
use std::num::NonZero;
use std::path::Path;
use std::sync::mpsc;

use clear_cascade::answer::{Located, Texts};
use clear_cascade::document::{ElementId, ForeignElement};
use clear_cascade::selector::PseudoElement;
use clear_cascade::{Change, Study};
use serde_json::Value;

use super::trying::left_out;
use crate::args::{self, LineFormat};
use crate::failure::Failure;
use crate::witness::{self, Claim};
use crate::{open, render};

/// `values`; whether a browser that is asked computes something else, where that is to fail.
pub(super) fn values(args: &args::Values, page: &Path, out: &mut dyn Write, width: usize) -> Result<bool, Failure> {
    let (study, loader) = open::page_with_files(page, &args.page.seen)?;
    let located = args.element.as_deref().map(|e| study.locate(e)).transpose()?;
    match (args.format, &located) {
        (LineFormat::Ndjson, Some(Located { elements, pseudo: Some(pseudo), .. })) => {
            elements
                .iter()
                .try_for_each(|id| out.write_all(line_of(&study, *id, pseudo)?.as_bytes()).map_err(Failure::from))?;
        }
        (LineFormat::Ndjson, _) => lines(&study, located.as_ref(), out)?,
        (LineFormat::Text, Some(located)) => {
            let subject = render::subject(&study, located, args.element.as_deref().unwrap_or_default(), width);
            let plain = match args.changed_by.as_deref() {
                _ if args.all => None,
                None => Some(study.attempt(&[Change::WithoutAuthor])?),
                Some(file) => Some(study.attempt(&[left_out(file)])?),
            };
            let shown = render::Shown { plain: plain.as_ref(), named: args.changed_by.as_deref(), all: args.all };
            out.write_all(render::element(&study, located, &subject, &shown, width).as_bytes())?;
        }
        (LineFormat::Text, None) => out.write_all(render::page(&study, width).as_bytes())?,
    }
    let Some(driver) = &args.witness.witness else { return Ok(false) };
    let claims = claims(&study, located.as_ref())?;
    let testimony = witness::ask(driver, (&study, &loader, &[]), &args.page.seen, claims)?;
    out.write_all(testimony.told(&study, width).as_bytes())?;
    Ok(testimony.differs() && args.witness.fail_on_difference)
}

/// The values that a browser can be asked about: those of the element that is asked about, or of all, and of what is
/// generated there.
fn claims(study: &Study, located: Option<&Located>) -> Result<Vec<Claim>, Failure> {
    let all: Vec<ElementId> = match located {
        Some(located) => located.elements.iter().take(1).copied().collect(),
        None => study.document().elements().map(|e| e.id()).collect(),
    };
    let mut claims = Vec::new();
    for id in all {
        let mut claim = |pseudo: Option<String>, property: String, value: String| {
            claims.push(Claim { element: id.number(), pseudo, property, value });
        };
        study.values(id)?.into_iter().for_each(|(property, value)| claim(None, property, value));
        for (pseudo, values) in study.generated(id)? {
            // Of others, browsers tell what the element itself has.
            let name = pseudo.to_string();
            if matches!(&*name, "::before" | "::after") {
                values.into_iter().for_each(|(property, value)| claim(Some(name.clone()), property, value));
            }
        }
    }
    Ok(claims)
}

/// How many elements are written out at once.
const RUN: usize = 16;

/// The values of elements as JSON, a line each, written out on as many threads as the machine has.
fn lines(study: &Study, located: Option<&Located>, out: &mut dyn Write) -> Result<(), Failure> {
    let document = study.document();
    let ids: Vec<_> = located.map_or_else(|| document.ids().collect(), |l| l.elements.clone());
    let mut out = io::BufWriter::with_capacity(1 << 16, out);
    let threads = std::thread::available_parallelism().unwrap_or(NonZero::<usize>::MIN);
    let threads = threads.min(NonZero::new(ids.len().div_ceil(RUN)).unwrap_or(NonZero::<usize>::MIN));
    if located.is_none() {
        study.resolve_all_on(threads);
    }
    std::thread::scope(|scope| {
        // The threads take runs of elements in turn, and wait where their texts are not fetched.
        let fetched: Vec<_> = (0..threads.get())
            .map(|first| {
                let (give, take) = mpsc::sync_channel(4);
                let runs = ids.chunks(RUN).skip(first).step_by(threads.get());
                scope.spawn(move || {
                    let (mut texts, mut most) = (Texts::of(member), 0);
                    for run in runs {
                        let mut text = String::with_capacity(most);
                        let written = run.iter().try_for_each(|id| lines_of(study, *id, &mut texts, &mut text));
                        most = most.max(text.len());
                        if give.send(written.map(|()| text)).is_err() {
                            break;
                        }
                    }
                });
                take
            })
            .collect();
        for text in (0..ids.len().div_ceil(RUN)).map_while(|run| fetched[run % threads].recv().ok()) {
            out.write_all(text?.as_bytes())?;
        }
        Ok(out.flush()?)
    })
}

/// How the line of an element starts.
fn head(study: &Study, id: ElementId) -> Result<String, ForeignElement> {
    let element = study.document().element(id)?;
    let at = study.sources().place(element.span()).map(|p| p.to_string()).unwrap_or_default();
    let (tag, at) = (Value::from(&*element.name), Value::from(at));
    Ok(format!("{{\"element\":{},\"tag\":{tag},\"at\":{at}", id.number()))
}

/// Ends a line.
fn end(lines: &mut String) {
    if lines.ends_with(',') {
        lines.pop();
    }
    lines.push_str("}}\n");
}

/// The line of a pseudo-element.
fn line_of(study: &Study, id: ElementId, pseudo: &PseudoElement) -> Result<String, ForeignElement> {
    let mut line = format!("{},\"pseudo\":{},\"values\":{{", head(study, id)?, Value::from(pseudo.to_string()));
    study.values_of(id, Some(pseudo))?.iter().for_each(|(name, value)| member(name, value, &mut line));
    end(&mut line);
    Ok(line)
}

/// Writes the lines of one element: its own, and those of its pseudo-elements.
fn lines_of<'s>(
    study: &'s Study,
    id: ElementId,
    texts: &mut Texts<'s>,
    lines: &mut String,
) -> Result<(), ForeignElement> {
    let head = head(study, id)?;
    lines.push_str(&head);
    lines.push_str(",\"values\":{");
    texts.values(study, id, lines)?;
    end(lines);
    let start = |pseudo: &PseudoElement, lines: &mut String| {
        lines.push_str(&head);
        lines.push_str(&format!(",\"pseudo\":{},\"values\":{{", Value::from(pseudo.to_string())));
    };
    texts.generated(study, id, lines, &start, &end)
}

/// Writes a member of an object, and a comma.
fn member(name: &str, value: &str, line: &mut String) {
    for (text, after) in [(name, ':'), (value, ',')] {
        if text.bytes().fold(false, |found, b| found | (b < 0x20) | (b == b'"') | (b == b'\\')) {
            line.push_str(&Value::from(text).to_string());
        } else {
            line.push('"');
            line.push_str(text);
            line.push('"');
        }
        line.push(after);
    }
}
