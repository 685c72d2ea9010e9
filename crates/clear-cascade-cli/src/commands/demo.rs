//! The sample site: written into a folder, then asked a few questions.

use std::ffi::OsString;
use std::fs;
use std::io::{self, Write};
use std::path::{Path, PathBuf};

use crate::args::Demo;
use crate::failure::{Failure, Refusal};
use crate::files;
use crate::paint::{self, ANSWER, QUIET, STAGE};

/// The files of the site.
const FILES: &[(&str, &str)] = &[
    ("index.html", include_str!("../../demo/index.html")),
    ("programme.html", include_str!("../../demo/programme.html")),
    ("visit.html", include_str!("../../demo/visit.html")),
    ("css/base.css", include_str!("../../demo/css/base.css")),
    ("css/theme.css", include_str!("../../demo/css/theme.css")),
    ("css/programme.css", include_str!("../../demo/css/programme.css")),
    ("css/print.css", include_str!("../../demo/css/print.css")),
    ("README.md", include_str!("../../demo/README.md")),
];

/// The questions: what one wants to know, the command, its arguments.
const QUESTIONS: &[(&str, &[&str])] = &[
    (
        "The page says gold for its headline, and the base sheet white. Why is it neither?",
        &["why", "index.html", "main h1", "color"],
    ),
    (
        "Nobody gave the opening hours a colour. Where does this one come from?",
        &["why", "visit.html", ".hours td", "color"],
    ),
    ("Why is this so small?", &["why", "programme.html", ".fineprint em", "font-size"]),
    ("Which elements does this selector take?", &["reach", "programme.html", "article.night h2"]),
];

/// Carries out a command; gives what went wrong with writing.
pub(super) type Ask<'a> = dyn FnMut(Vec<OsString>, &mut dyn Write) -> io::Result<()> + 'a;

/// Writes the site and asks the questions; `ask` carries out a command.
pub(super) fn demo(args: &Demo, out: &mut dyn Write, width: usize, ask: &mut Ask<'_>) -> Result<(), Failure> {
    let folder = match &args.folder {
        Some(given) => given.clone(),
        None => fresh(),
    };
    write_site(&folder)?;
    let shown = folder.display().to_string();
    writeln!(
        out,
        "{}",
        paint::paint(
            ANSWER,
            format!("The site of Larkspur Hill Observatory is in {shown}: three pages, four sheets, and some faults.")
        )
    )?;
    writeln!(
        out,
        "{}",
        paint::paint(
            QUIET,
            format!(
                "Its faults are listed in {}. Here are {} questions to it.",
                folder.join("README.md").display(),
                QUESTIONS.len()
            )
        )
    )?;
    for (question, words) in QUESTIONS {
        let page = folder.join(words[1]);
        let mut command: Vec<OsString> = vec!["clear-cascade".into(), words[0].into(), page.into()];
        command.extend(words[2..].iter().map(OsString::from));
        let line: Vec<String> = command.iter().map(|w| quoted(&w.to_string_lossy())).collect();
        writeln!(out, "\n{}", paint::paint(STAGE, "─".repeat(width.min(100))))?;
        writeln!(out, "{question}")?;
        writeln!(out, "{}\n", paint::paint(STAGE, format!("$ {}", line.join(" "))))?;
        ask(command, out)?;
    }
    Ok(())
}

/// A word as a shell takes it.
fn quoted(word: &str) -> String {
    let plain = word.chars().all(|c| c.is_alphanumeric() || "-_./@:".contains(c));
    if plain { word.to_owned() } else { format!("'{word}'") }
}

/// A folder below the working directory that is not there yet, or holds the site as it is written here.
fn fresh() -> PathBuf {
    let names = std::iter::once("larkspur-hill".to_owned()).chain((2..1000).map(|n| format!("larkspur-hill-{n}")));
    names
        .map(PathBuf::from)
        .find(|f| !f.exists() || differing(f).is_none())
        .unwrap_or_else(|| PathBuf::from("larkspur-hill"))
}

/// A file of the site that is there already with other contents.
fn differing(folder: &Path) -> Option<PathBuf> {
    let files = FILES.iter().map(|(name, text)| (folder.join(name), text));
    files
        .filter(|(path, _)| path.exists())
        .find(|(path, text)| fs::read_to_string(path).ok().as_deref() != Some(**text))
        .map(|(path, _)| path)
}

/// Writes the site, but never over a file with other contents.
fn write_site(folder: &Path) -> Result<(), Refusal> {
    if let Some(path) = differing(folder) {
        let hint = Some("name another folder, or none".to_owned());
        return Err(Refusal {
            hint,
            ..Refusal::new(format!("`{}` is there already and differs; nothing was written", path.display()))
        });
    }
    let refuse = |path: &Path, e: std::io::Error| Refusal::new(format!("`{}` cannot be written: {e}", path.display()));
    for (name, text) in FILES {
        let path = folder.join(name);
        if let Some(parent) = path.parent() {
            fs::create_dir_all(parent).map_err(|e| refuse(parent, e))?;
        }
        files::write(&path, text.as_bytes())?;
    }
    Ok(())
}
