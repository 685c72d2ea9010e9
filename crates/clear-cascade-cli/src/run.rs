//! One request from arguments to exit status.

use std::ffi::OsString;
use std::io::{self, Write};
use std::num::NonZero;
use std::path::Path;

use annotate_snippets::{AnnotationKind, Level, Renderer, Snippet};
use clap::Parser;
use clear_cascade::answer::{Located, Texts, Why, WhyError};
use clear_cascade::{Change, Study};
use serde_json::Value;

use crate::args::{self, Cli, Command, Format, LineFormat};
use crate::open::{self, Refusal};
use crate::paint::{STAGE, paint};
use crate::{comparing, demo, render, trying};

/// Done.
const DONE: u8 = 0;
/// Something differs, where a command is asked to fail on that.
const DIFFERS: u8 = 1;
/// The request or its input cannot be used.
const UNUSABLE: u8 = 2;

/// Carries one request out; gives the exit status.
pub(crate) fn run(
    args: impl IntoIterator<Item = OsString>,
    out: &mut dyn Write,
    err: &mut dyn Write,
    width: usize,
) -> u8 {
    let cli = match Cli::try_parse_from(args::properties_last(args)) {
        Ok(cli) => cli,
        Err(e) => {
            let help = !e.use_stderr();
            let text = e.render().ansi().to_string();
            let _ = if help { out.write_all(text.as_bytes()) } else { err.write_all(text.as_bytes()) };
            return if help { DONE } else { UNUSABLE };
        }
    };
    let done = match &cli.command {
        Command::Why(args) => {
            each(&args.page, args.format == Format::Json, out, &mut |page, out| why(args, page, out, width))
        }
        Command::Values(args) => each(&args.page, false, out, &mut |page, out| values(args, page, out, width)),
        Command::WhyNot(args) => {
            each(&args.page, args.format == Format::Json, out, &mut |page, out| why_not(args, page, out, width))
        }
        Command::Reach(args) => reach(args, out, width),
        Command::Aim(args) => {
            each(&args.page, args.format == Format::Json, out, &mut |page, out| aim(args, page, out, width))
        }
        Command::Compare(args) => match comparing::run(args, out, width) {
            Ok(true) if args.fail_on_difference => return DIFFERS,
            other => other.map(|_| ()),
        },
        Command::Try(args) => trying::run(args, out, width),
        Command::Demo(args) => demo::demo(args, out, width),
    };
    match done {
        Ok(()) => DONE,
        Err(Failure::Refused(refusal)) => {
            let _ = writeln!(err, "{}", explain(&refusal));
            UNUSABLE
        }
        // The reader has gone; there is nobody to tell.
        Err(Failure::Output) => DONE,
    }
}

/// Why a request was not carried out.
#[derive(Debug)]
pub(crate) enum Failure {
    /// It cannot be.
    Refused(Refusal),
    /// The answer could not be written.
    Output,
}

impl From<Refusal> for Failure {
    fn from(refusal: Refusal) -> Self {
        Self::Refused(refusal)
    }
}

impl From<io::Error> for Failure {
    fn from(_: io::Error) -> Self {
        Self::Output
    }
}

impl From<clear_cascade::answer::LocateError> for Failure {
    fn from(error: clear_cascade::answer::LocateError) -> Self {
        Self::Refused(error.into())
    }
}

impl From<WhyError> for Failure {
    fn from(error: WhyError) -> Self {
        Self::Refused(match error {
            WhyError::Property { name, hint } => {
                Refusal { hint, ..Refusal::new(format!("there is no property `{name}`")) }
            }
            other => Refusal::new(other.to_string()),
        })
    }
}

/// One message with the text it is about.
fn explain(refusal: &Refusal) -> String {
    let message = crate::paint::clean(&refusal.message);
    let title = Level::ERROR.primary_title(message.as_str());
    let hint = refusal.hint.as_deref().map(crate::paint::clean);
    let renderer = Renderer::styled();
    match &refusal.part {
        Some((text, range)) => {
            let end = range.end.max(range.start + 1).min(text.len().max(range.start));
            let snippet = Snippet::source(text.as_str()).annotation(AnnotationKind::Primary.span(range.start..end));
            let mut group = title.element(snippet);
            if let Some(hint) = &hint {
                group = group.element(Level::HELP.message(hint.as_str()));
            }
            renderer.render(&[group])
        }
        None => match &hint {
            Some(hint) => renderer.render(&[title.element(Level::HELP.message(hint.as_str()))]),
            None => renderer.render(&[annotate_snippets::Group::with_title(title)]),
        },
    }
}

/// Asks one question of a page, and of the others that are named with it; JSON answers become one array.
fn each(
    page: &args::Page,
    as_array: bool,
    out: &mut dyn Write,
    ask: &mut dyn FnMut(&Path, &mut dyn Write) -> Result<(), Failure>,
) -> Result<(), Failure> {
    if page.also.is_empty() {
        return ask(&page.page, out);
    }
    let pages: Vec<_> = std::iter::once(page.page.clone()).chain(page.also.iter().cloned()).collect();
    let mut texts: Vec<(String, String)> = Vec::new();
    for one in Pages::of(&pages) {
        let mut text = Vec::new();
        ask(one, &mut text)?;
        texts.push((one.display().to_string(), String::from_utf8_lossy(&text).into_owned()));
    }
    if as_array {
        let all: Vec<&str> = texts.iter().map(|(_, t)| t.trim_end()).collect();
        writeln!(out, "[{}]", all.join(",\n"))?;
        return Ok(());
    }
    for (i, (name, text)) in texts.iter().enumerate() {
        // Lines of JSON stay by themselves; each says which file it is about.
        if !text.starts_with('{') {
            writeln!(out, "{}{}", if i > 0 { "\n" } else { "" }, paint(STAGE, name))?;
        }
        out.write_all(text.as_bytes())?;
    }
    Ok(())
}

/// `why`
fn why(args: &args::Why, page: &Path, out: &mut dyn Write, width: usize) -> Result<(), Failure> {
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

/// `values`
fn values(args: &args::Values, page: &Path, out: &mut dyn Write, width: usize) -> Result<(), Failure> {
    let study = open::study(page, &args.page.seen)?;
    let located = args.element.as_deref().map(|e| study.locate(e)).transpose()?;
    match (args.format, &located) {
        (LineFormat::Ndjson, _) => lines(&study, located.as_ref(), out)?,
        (LineFormat::Text, Some(located)) => {
            let subject = render::subject(&study, located, args.element.as_deref().unwrap_or_default(), width);
            let plain = match args.changed_by.as_deref() {
                _ if args.all => None,
                None => Some(study.attempt(&[Change::WithoutAuthor])?),
                Some(file) => Some(study.attempt(&[trying::left_out(file)])?),
            };
            let shown = render::Shown { plain: plain.as_ref(), named: args.changed_by.as_deref(), all: args.all };
            out.write_all(render::element(&study, located, &subject, &shown, width).as_bytes())?;
        }
        (LineFormat::Text, None) => out.write_all(render::page(&study, width).as_bytes())?,
    }
    Ok(())
}

/// The values of elements as JSON, a line each.
fn lines(study: &Study, located: Option<&Located>, out: &mut dyn Write) -> Result<(), Failure> {
    let document = study.document();
    let ids: Vec<_> = located.map_or_else(|| document.ids().collect(), |l| l.elements.clone());
    let mut out = io::BufWriter::with_capacity(1 << 16, out);
    let mut texts = Texts::default();
    if located.is_none() {
        study.resolve_all_on(std::thread::available_parallelism().unwrap_or(NonZero::<usize>::MIN));
    }
    for id in ids {
        let tag = &*document.element(id).name;
        let at = study.sources().place(document.span(id)).to_string();
        let head = format!("\"element\":{},\"tag\":{},\"at\":{}", id.number(), Value::from(tag), Value::from(at));
        let mut lines = format!("{{{head},\"values\":{{");
        let start = lines.len();
        texts.values(study, id, &mut |name, value| member(&mut lines, start, name, value));
        lines.push_str("}}\n");
        let (mut open, mut start) = (String::new(), 0);
        texts.generated(study, id, &mut |pseudo, name, value| {
            if pseudo != open {
                lines.push_str(if open.is_empty() { "" } else { "}}\n" });
                lines.push_str(&format!("{{{head},\"pseudo\":{},\"values\":{{", Value::from(pseudo)));
                start = lines.len();
                pseudo.clone_into(&mut open);
            }
            member(&mut lines, start, name, value);
        });
        lines.push_str(if open.is_empty() { "" } else { "}}\n" });
        out.write_all(lines.as_bytes())?;
    }
    out.flush()?;
    Ok(())
}

/// Writes a member of an object that starts at a byte of the line.
fn member(line: &mut String, start: usize, name: &str, value: &str) {
    if line.len() > start {
        line.push(',');
    }
    for (i, text) in [name, value].into_iter().enumerate() {
        if i > 0 {
            line.push(':');
        }
        if text.bytes().fold(false, |found, b| found | (b < 0x20) | (b == b'"') | (b == b'\\')) {
            line.push_str(&Value::from(text).to_string());
        } else {
            line.push('"');
            line.push_str(text);
            line.push('"');
        }
    }
}

/// An answer as one JSON document.
pub(crate) fn json(answer: &impl serde::Serialize, out: &mut dyn Write) -> Result<(), Failure> {
    writeln!(out, "{}", serde_json::to_string_pretty(answer).map_err(io::Error::other)?)?;
    Ok(())
}

/// Several pages one after the other, with a bar on the terminal where it takes a while.
pub(crate) struct Pages<'p> {
    /// The pages that are left.
    left: std::slice::Iter<'p, std::path::PathBuf>,
    /// The bar.
    bar: indicatif::ProgressBar,
}

impl<'p> Pages<'p> {
    /// From how many pages on a bar is shown.
    const MANY: usize = 8;

    /// All of some pages.
    pub(crate) fn of(pages: &'p [std::path::PathBuf]) -> Self {
        let bar = if pages.len() < Self::MANY {
            indicatif::ProgressBar::hidden()
        } else {
            indicatif::ProgressBar::new(pages.len() as u64)
        };
        Self { left: pages.iter(), bar }
    }
}

impl<'p> Iterator for Pages<'p> {
    type Item = &'p Path;

    fn next(&mut self) -> Option<&'p Path> {
        let next = self.left.next().map(std::path::PathBuf::as_path);
        if next.is_some() {
            self.bar.inc(1)
        } else {
            self.bar.finish_and_clear()
        }
        next
    }
}

/// `why-not`
fn why_not(args: &args::WhyNot, page: &Path, out: &mut dyn Write, width: usize) -> Result<(), Failure> {
    let study = open::study(page, &args.page.seen)?;
    let located = study.locate(&args.element)?;
    let answer = study.why_not(located.elements[0], &args.rule)?;
    if args.format == Format::Json {
        return json(&answer, out);
    }
    let subject = render::subject(&study, &located, &args.element, width);
    out.write_all(render::why_not(&answer, &subject, width).as_bytes())?;
    Ok(())
}

/// `reach`
fn reach(args: &args::Reach, out: &mut dyn Write, width: usize) -> Result<(), Failure> {
    let Some((selector, pages)) = args.words.split_last() else { return Ok(()) };
    let mut answers = Vec::new();
    for page in pages {
        let study = open::study(Path::new(page), &args.seen)?;
        let answer = study.reach(selector)?;
        if args.format == Format::Text {
            if pages.len() > 1 {
                writeln!(out, "{}{}", if answers.is_empty() { "" } else { "\n" }, paint(STAGE, page))?;
            }
            out.write_all(render::reach(&study, &answer, width).as_bytes())?;
        }
        answers.push(answer);
    }
    match (args.format, answers.as_slice()) {
        (Format::Json, [one]) => json(one, out),
        (Format::Json, all) => json(&all, out),
        (Format::Text, _) => Ok(()),
    }
}

/// `aim`
fn aim(args: &args::Aim, page: &Path, out: &mut dyn Write, width: usize) -> Result<(), Failure> {
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
