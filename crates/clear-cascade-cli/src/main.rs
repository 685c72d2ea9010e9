//! The program `clear-cascade`: why does this element look as it does?

mod args;
mod comparing;
mod demo;
mod open;
mod paint;
mod render;
mod run;
mod trying;
mod web;

use std::io::Write;
use std::process::ExitCode;

fn main() -> ExitCode {
    let width = terminal_size::terminal_size().map_or(100, |(w, _)| usize::from(w.0)).clamp(40, 120);
    let mut out = anstream::stdout().lock();
    let mut err = anstream::stderr().lock();
    let code = run::run(std::env::args_os(), &mut out, &mut err, width);
    // A reader that went away, such as `head`, is no failure of ours.
    let _ = out.flush();
    ExitCode::from(code)
}
