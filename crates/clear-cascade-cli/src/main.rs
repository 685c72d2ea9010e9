//! The program `clear-cascade`: why does this element look as it does?

mod args;
mod commands;
mod driver;
mod failure;
mod files;
mod open;
mod pages;
mod paint;
mod render;
mod report;
mod saved;
mod taken;
mod watch;
mod web;
mod witness;

use std::ffi::OsString;
use std::io::{self, IsTerminal as _, Write};
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
    let patch = args.iter().any(|a| a == "--patch" || a.to_string_lossy().starts_with("--patch="));
    let mut out: Box<dyn Write> = if asks_for_json(&args) || args.iter().any(|a| a == "--facts") {
        Box::new(Telling::new(stdout, paint::in_json))
    } else if patch && stdout.is_terminal() {
        Box::new(Telling::new(stdout, |c| if c == '\n' || c == '\t' { None } else { paint::visible(c) }))
    } else if patch {
        Box::new(stdout)
    } else if anstream::AutoStream::choice(&stdout) == anstream::ColorChoice::Never {
        Box::new(Plain { inner: stdout, styles: StripBytes::new(), blanks: 0 })
    } else {
        Box::new(anstream::AutoStream::auto(stdout))
    };
    let mut err = anstream::stderr().lock();
    let code = commands::run(args, &mut out, &mut err, width);
    // What stands in a buffer is written here.
    match out.flush().err().and_then(|error| failure::unwritten(&error)) {
        Some(told) => {
            let _ = writeln!(err, "{told}");
            ExitCode::from(commands::UNUSABLE)
        }
        None => ExitCode::from(code),
    }
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

/// Writes text with some characters told otherwise.
struct Telling<W> {
    /// Where it goes.
    inner: W,
    /// What stands in the place of a character; nothing where it stays.
    instead: fn(char) -> Option<String>,
    /// The start of a character whose end is not there yet.
    started: Vec<u8>,
}

impl<W: Write> Telling<W> {
    /// One that has written nothing.
    fn new(inner: W, instead: fn(char) -> Option<String>) -> Self {
        Self { inner, instead, started: Vec::new() }
    }

    /// Adds a piece of text to what is written, each character as it is to be told.
    fn tell(&mut self, piece: &[u8], out: &mut Vec<u8>) {
        self.started.extend(piece);
        let bytes = std::mem::take(&mut self.started);
        let mut add = |c: char| out.extend_from_slice(c.encode_utf8(&mut [0; 4]).as_bytes());
        let mut chunks = bytes.utf8_chunks().peekable();
        while let Some(chunk) = chunks.next() {
            for c in chunk.valid().chars() {
                match (self.instead)(c) {
                    Some(told) => told.chars().for_each(&mut add),
                    None => add(c),
                }
            }
            // Of a character that is cut off the rest comes with the next piece.
            match std::str::from_utf8(chunk.invalid()).err() {
                None => {}
                Some(error) if error.error_len().is_none() && chunks.peek().is_none() => {
                    self.started = chunk.invalid().to_vec()
                }
                Some(_) => add(char::REPLACEMENT_CHARACTER),
            }
        }
    }
}

/// How many bytes are looked at in one step.
const PIECE: usize = 256;

impl<W: Write> Write for Telling<W> {
    fn write(&mut self, text: &[u8]) -> io::Result<usize> {
        let line_ends_stay = (self.instead)('\n').is_none();
        // Without a way out for the first that does not stay, so that many are looked at in one step.
        let stay = |piece: &&[u8]| {
            piece.iter().fold(true, |all, b| all & (matches!(b, b' '..=b'~') | ((*b == b'\n') & line_ends_stay)))
        };
        let mut out = Vec::with_capacity(text.len());
        for piece in text.chunks(PIECE) {
            if self.started.is_empty() && stay(&piece) {
                out.extend_from_slice(piece);
            } else {
                self.tell(piece, &mut out);
            }
        }
        self.inner.write_all(&out)?;
        Ok(text.len())
    }

    fn flush(&mut self) -> io::Result<()> {
        self.inner.flush()
    }
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

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn characters_are_told_whole_however_they_are_written() {
        let cases: &[(&[&[u8]], &str)] = &[
            (&[b"a\xc2", b"\x9bb"], "a<U+009B>b"),
            (&[b"\xe2\x80", b"", b"\xaex"], "<U+202E>x"),
            (&["\u{e9}\u{1b}".as_bytes()], "\u{e9}\u{241b}"),
            (&[b"\xffa\xe2\x80b\xff", b"c"], "\u{fffd}a\u{fffd}b\u{fffd}c"),
            (&[b""], ""),
        ];
        for (pieces, expected) in cases {
            let mut told = Telling::new(Vec::new(), paint::visible);
            pieces.iter().for_each(|piece| told.write_all(piece).unwrap());
            assert_eq!(String::from_utf8(told.inner).unwrap(), *expected);
        }
    }
}
