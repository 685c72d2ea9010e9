//! The page about the kinds of findings, made from the table of kinds.

use std::fmt::Write;
use std::fs;

use clear_cascade::review::Kind;

/// Where the page lives, from the root of the workspace.
const PAGE: &str = "docs/findings.md";

/// The text of the page.
fn page() -> String {
    let mut out = String::from(
        "# What `check` finds\n\nEach finding has a code that stays what it is. `check` tells what is wrong, and what has no effect on \
         any of the pages; with\n`--advice` it tells what is only to think about, too. Of sheets that are mostly not in use, such as those \
         of frameworks, what\nis not used or never wins counts as advice.\n\nA finding is accepted by a comment in its line or right \
         above, `/* accept CODE: reason */` in a sheet and\n`<!-- accept CODE: reason -->` in a page, or by a line `CODE FILE:LINE \
         reason` in a file that `--accept` names.\n\n| Code | Level |\n|---|---|\n",
    );
    for kind in Kind::ALL {
        let _ = writeln!(out, "| [`{0}`](#{0}) | {1} |", kind.code, kind.level.name());
    }
    for kind in Kind::ALL {
        let _ = write!(
            out,
            "\n## `{}`\n\n{} {}\n\nAccept it: {}{}\n",
            kind.code,
            kind.meaning,
            kind.matters,
            kind.accept.chars().next().map(|c| c.to_ascii_lowercase()).unwrap_or_default(),
            kind.accept.get(1..).unwrap_or_default(),
        );
        if !kind.example.with.is_empty() {
            let _ = write!(
                out,
                "\n```html\n{}\n```\n\nbut not\n\n```html\n{}\n```\n",
                kind.example.with, kind.example.without
            );
        }
    }
    out
}

/// Writes the page, or only compares the one that is there.
///
/// # Errors
/// Where it cannot be written, or is another.
pub(crate) fn run(check: bool) -> Result<(), String> {
    let text = page();
    if !check {
        return fs::write(PAGE, text).map_err(|e| format!("{PAGE}: {e}"));
    }
    match fs::read_to_string(PAGE).unwrap_or_default() == text {
        true => Ok(()),
        false => Err(format!("{PAGE} is not what the table of kinds gives; run `cargo xtask findings`")),
    }
}
