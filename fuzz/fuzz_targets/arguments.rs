//! The program's arguments: whatever they are, they are read or refused.
#![no_main]

use clap::Parser as _;

#[allow(dead_code, missing_docs)]
#[path = "../../crates/clear-cascade-cli/src/args.rs"]
mod args;

libfuzzer_sys::fuzz_target!(|text: &str| {
    let words = std::iter::once("clear-cascade").chain(text.split('\n')).map(std::ffi::OsString::from);
    if let Err(error) = args::Cli::try_parse_from(args::properties_last(words)) {
        assert!(!error.render().to_string().is_empty());
    }
});
