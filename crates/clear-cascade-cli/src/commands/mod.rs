//! The commands: one request from arguments to exit status.

mod aim;
pub(crate) mod check;
mod comparing;
mod demo;
mod manual;
mod reach;
mod report;
mod trying;
mod values;
mod why;
mod why_not;

use std::ffi::OsString;
use std::io::Write;

use clear_cascade::Study;
use clear_cascade::answer::Located;
use clear_cascade::document::ElementId;

use crate::args::{self, Command, Format};
use crate::failure::{Failure, explain, unwritten};
use crate::pages::each;
use crate::paint::{STAGE, paint, wrap};
use crate::render;
use crate::watch;

/// Done.
const DONE: u8 = 0;
/// Something differs, where a command is asked to fail on that.
const DIFFERS: u8 = 1;
/// The request or its input cannot be used.
pub(crate) const UNUSABLE: u8 = 2;

/// Answers for each element that a name stands for, those with the same answer together.
fn each_element(
    study: &Study,
    located: &Located,
    asked: &str,
    out: &mut dyn Write,
    width: usize,
    answer: &mut dyn FnMut(ElementId) -> Result<String, Failure>,
) -> Result<(), Failure> {
    let mut found: Vec<(String, Vec<ElementId>)> = Vec::new();
    for element in &located.elements {
        let text = answer(*element)?;
        // Answers that name their element by its label are the same where the labels are.
        match found.iter_mut().find(|(known, _)| *known == text) {
            Some((_, same)) => same.push(*element),
            None => found.push((text, vec![*element])),
        }
    }
    for (i, (text, elements)) in found.iter().enumerate() {
        let names: Vec<String> =
            elements.iter().map(|e| format!("{e} {}", render::one_of(study, located, *e, asked))).collect();
        let head = wrap(&names.join(", "), width, 0);
        write!(out, "{}{}\n{text}", if i > 0 { "\n" } else { "" }, paint(STAGE, head))?;
    }
    Ok(())
}

/// Carries one request out; gives the exit status.
pub(crate) fn run(
    args: impl IntoIterator<Item = OsString>,
    out: &mut dyn Write,
    err: &mut dyn Write,
    width: usize,
) -> u8 {
    let cli = match args::read(args) {
        Ok(cli) => cli,
        Err(e) => {
            let help = !e.use_stderr();
            let text = e.render().ansi().to_string();
            let written = if help { out.write_all(text.as_bytes()) } else { err.write_all(text.as_bytes()) };
            return if help && written.is_ok() { DONE } else { UNUSABLE };
        }
    };
    if !cli.watch {
        return once(&cli.command, out, err, width);
    }
    // What is wrong is part of the answer, which is asked for again when it is mended.
    let asked = watch::repeat(out, &mut |answer| {
        let mut wrong = Vec::new();
        let status = once(&cli.command, answer, &mut wrong, width - 2);
        answer.extend(wrong);
        status
    });
    asked.unwrap_or_else(|refusal| {
        let _ = writeln!(err, "{}", explain(&refusal));
        UNUSABLE
    })
}

/// Answers a request once; gives the exit status.
fn once(command: &Command, out: &mut dyn Write, err: &mut dyn Write, width: usize) -> u8 {
    let mut differs = false;
    let done = match command {
        Command::Why(args) => each(&args.page, args.format == Format::Json, out, &mut |page, out| {
            differs |= why::why(args, page, out, width)?;
            Ok(())
        }),
        Command::Values(args) => each(&args.page, false, out, &mut |page, out| {
            differs |= values::values(args, page, out, width)?;
            Ok(())
        }),
        Command::WhyNot(args) => each(&args.page, args.format == Format::Json, out, &mut |page, out| {
            why_not::why_not(args, page, out, width)
        }),
        Command::Reach(args) => reach::reach(args, out, width),
        Command::Aim(args) => aim::aim(args, out, width),
        Command::Compare(args) => match comparing::run(args, out, width) {
            Ok(true) if args.fail_on_difference => return DIFFERS,
            other => other.map(|_| ()),
        },
        Command::Try(args) => match trying::run(args, out, width) {
            Ok(true) => return DIFFERS,
            other => other.map(|_| ()),
        },
        Command::Check(args) => match check::run(args, out, width) {
            Ok(true) => return DIFFERS,
            other => other.map(|_| ()),
        },
        Command::Report(args) => report::run(args, out),
        Command::Manual(args) => manual::manual(args, out),
        Command::Demo(args) => demo::demo(args, out, width, &mut |command, out| {
            let mut error = Vec::new();
            run(command, out, &mut error, width);
            out.write_all(&error)
        }),
    };
    match done {
        Ok(()) if differs => DIFFERS,
        Ok(()) => DONE,
        Err(Failure::Refused(refusal)) => {
            let _ = writeln!(err, "{}", explain(&refusal));
            UNUSABLE
        }
        Err(Failure::Output(error)) => match unwritten(&error) {
            Some(told) => {
                let _ = writeln!(err, "{told}");
                UNUSABLE
            }
            None => DONE,
        },
    }
}
