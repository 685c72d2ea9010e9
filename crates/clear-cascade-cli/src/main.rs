//! The program `clear-cascade`: why does this element look as it does?

mod args;
mod commands;
mod failure;
mod open;
mod pages;
mod paint;
mod render;
mod report;
mod web;

use std::ffi::OsString;
use std::io::{self, Write};
use std::process::ExitCode;

use anstream::adapter::StripBytes;

/// Much of the work is to make and drop small values, which this one is faster at than most systems' own.
#[global_allocator]
static ALLOCATOR: mimalloc::MiMalloc = mimalloc::MiMalloc;

fn main() -> ExitCode {
    let width = terminal_size::terminal_size().map_or(100, |(w, _)| usize::from(w.0)).clamp(40, 120);
    let args: Vec<OsString> = std::env::args_os().collect();
    let stdout = io::stdout().lock();
    // JSON and patches have no colours in them that a file or pipe would have to be spared.
    let mut out: Box<dyn Write> = if asks_for_json(&args)
        || args.iter().any(|a| a == "--patch" || a == "--facts" || a.to_string_lossy().starts_with("--patch="))
    {
        Box::new(stdout)
    } else if anstream::AutoStream::choice(&stdout) == anstream::ColorChoice::Never {
        Box::new(Plain { inner: stdout, styles: StripBytes::new(), blanks: 0 })
    } else {
        Box::new(anstream::AutoStream::auto(stdout))
    };
    let mut err = anstream::stderr().lock();
    let code = commands::run(args, &mut out, &mut err, width);
    // A reader that went away, such as `head`, is no failure of ours.
    let _ = out.flush();
    ExitCode::from(code)
}

/// Whether the answer is to be JSON; help never is.
fn asks_for_json(args: &[OsString]) -> bool {
    if args.iter().any(|a| a == "-h" || a == "--help") {
        return false;
    }
    let json = |value: &str| matches!(value, "json" | "ndjson" | "lines" | "sarif");
    let mut args = args.iter().map(|a| a.to_string_lossy()).take_while(|a| a != "--");
    while let Some(arg) = args.next() {
        let value =
            if arg == "--format" { args.next() } else { arg.strip_prefix("--format=").map(|v| v.to_owned().into()) };
        if value.is_some_and(|v| json(&v)) {
            return true;
        }
    }
    false
}

/// Writes text without styles, and without the spaces that they leave behind at the ends of lines.
struct Plain<W> {
    /// Where it goes.
    inner: W,
    /// What takes the styles out.
    styles: StripBytes,
    /// Spaces that something must follow.
    blanks: usize,
}

impl<W: Write> Write for Plain<W> {
    fn write(&mut self, text: &[u8]) -> io::Result<usize> {
        let mut out = Vec::with_capacity(text.len() + self.blanks);
        for byte in self.styles.strip_next(text).flatten() {
            match byte {
                b' ' => self.blanks += 1,
                b'\n' => {
                    self.blanks = 0;
                    out.push(b'\n');
                }
                other => {
                    out.resize(out.len() + self.blanks, b' ');
                    self.blanks = 0;
                    out.push(*other);
                }
            }
        }
        self.inner.write_all(&out)?;
        Ok(text.len())
    }

    fn flush(&mut self) -> io::Result<()> {
        self.inner.flush()
    }
}
