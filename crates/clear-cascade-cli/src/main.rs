//! The program `clear-cascade`: why does this element look as it does?

mod args;
mod commands;
mod failure;
mod open;
mod pages;
mod paint;
mod render;
mod web;

use std::ffi::OsString;
use std::io::{self, Write};
use std::process::ExitCode;

/// Much of the work is to make and drop small values, which this one is faster at than most systems' own.
#[global_allocator]
static ALLOCATOR: mimalloc::MiMalloc = mimalloc::MiMalloc;

fn main() -> ExitCode {
    let width = terminal_size::terminal_size().map_or(100, |(w, _)| usize::from(w.0)).clamp(40, 120);
    let args: Vec<OsString> = std::env::args_os().collect();
    // JSON has no colours in it that a file or pipe would have to be spared.
    let mut out: Box<dyn Write> =
        if asks_for_json(&args) { Box::new(io::stdout().lock()) } else { Box::new(anstream::stdout().lock()) };
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
    let json = |value: &str| matches!(value, "json" | "ndjson");
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
