//! `report`: pages with all their answers as one file to look at.

use std::fs;
use std::io::{Read, Write};
use std::path::Path;

use crate::args::Report;
use crate::failure::{Failure, Refusal};
use crate::files;
use crate::open;
use crate::paint::{ANSWER, QUIET, paint};
use crate::report::{self, Subject};

use super::trying;

/// What is called large: more than this many bytes.
const LARGE: usize = 3_000_000;

/// Carries `report` out.
pub(super) fn run(args: &Report, out: &mut dyn Write) -> Result<(), Failure> {
    open::all_there(&args.pages)?;
    spared(&args.output)?;
    let mut subjects = Vec::new();
    for page in &args.pages {
        let (study, loader) = open::page_with_files(page, &args.seen)?;
        let trial = if args.changes.is_none() {
            None
        } else {
            let changes = trying::changes((&args.changes, &args.seen, page), &study)?;
            Some(study.attempt_with(&loader, &changes)?)
        };
        subjects.push(Subject { name: page.display().to_string(), study, loader, trial });
    }
    let (text, cuts) = report::page(&subjects);
    let shown = args.output.display();
    files::write(&args.output, text.as_bytes())?;
    let size = match text.len() {
        small if small < 1_000_000 => format!("{} kB", small.div_ceil(1000)),
        large => format!("{:.1} MB", large as f64 / 1e6),
    };
    let pages = if args.pages.len() == 1 { "1 page".to_owned() } else { format!("{} pages", args.pages.len()) };
    writeln!(
        out,
        "{}",
        paint(
            ANSWER,
            format!("{shown} shows why {pages} look as they do ({size}).")
                .replace("1 page look as they do", "1 page looks as it does")
        )
    )?;
    for cut in cuts {
        writeln!(out, "{cut}")?;
    }
    if text.len() > LARGE {
        writeln!(out, "It is larger than 3 MB: reports of fewer pages each are lighter to open and to send.")?;
    }
    if args.open {
        opened(&args.output)?;
    } else {
        writeln!(out, "{}", paint(QUIET, "Open it in a browser; it needs no network and nothing else."))?;
    }
    Ok(())
}

/// Refuses to write over a file that is there and is no report.
fn spared(file: &Path) -> Result<(), Refusal> {
    // A device or a pipe has nothing to lose, and may have no end.
    if !file.is_file() {
        return Ok(());
    }
    let Ok(there) = fs::File::open(file) else { return Ok(()) };
    let mut start = Vec::new();
    let read = there.take(4096).read_to_end(&mut start);
    let ours = String::from_utf8_lossy(&start).contains(report::GENERATOR);
    if read.is_ok() && ours {
        return Ok(());
    }
    Err(Refusal {
        hint: Some("name another file with -o, or take this one away".to_owned()),
        ..Refusal::new(format!("`{}` is there and is no report: it is not written over", file.display()))
    })
}

/// Opens a file in the browser of this machine.
fn opened(file: &Path) -> Result<(), Failure> {
    let (command, before): (&str, &[&str]) = if cfg!(target_os = "macos") {
        ("open", &[])
    } else if cfg!(windows) {
        ("cmd", &["/C", "start", ""])
    } else {
        ("xdg-open", &[])
    };
    let started = std::process::Command::new(command).args(before).arg(file).spawn();
    started.map(|_| ()).map_err(|e| {
        let hint = Some("open the file in a browser yourself".to_owned());
        Refusal { hint, ..Refusal::new(format!("the browser of this machine could not be started: {e}")) }.into()
    })
}
