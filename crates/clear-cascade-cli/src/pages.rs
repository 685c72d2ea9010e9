//! One question asked of several pages, and answers as JSON.

use std::io::{self, Write};
use std::path::Path;

use crate::args;
use crate::failure::Failure;
use crate::paint::{STAGE, paint};

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

/// Asks one question of a page, and of the others that are named with it; JSON answers become one array.
pub(crate) fn each(
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

/// An answer as one JSON document.
pub(crate) fn json(answer: &impl serde::Serialize, out: &mut dyn Write) -> Result<(), Failure> {
    writeln!(out, "{}", serde_json::to_string_pretty(answer).map_err(io::Error::other)?)?;
    Ok(())
}
