//! `manual`: manual pages and completions for shells, written into a folder.

use std::fs;
use std::io::Write;
use std::path::Path;

use clap::{CommandFactory as _, ValueEnum as _};
use clap_complete::Shell;

use crate::args::{Cli, Manual};
use crate::failure::{Failure, Refusal};
use crate::files;

/// `manual`
pub(super) fn manual(args: &Manual, out: &mut dyn Write) -> Result<(), Failure> {
    let mut command = Cli::command();
    command.build();
    let mut pages = 0;
    let mut page = |name: &str, command: &clap::Command| -> Result<(), Failure> {
        let mut text = Vec::new();
        clap_mangen::Man::new(command.clone()).render(&mut text)?;
        pages += 1;
        kept(&args.folder.join("man1"), &format!("{name}.1"), &text)
    };
    let name = command.get_name().to_owned();
    page(&name, &command)?;
    for sub in command.get_subcommands() {
        let name = format!("{name}-{}", sub.get_name());
        page(&name, sub)?;
    }
    let shells = Shell::value_variants();
    for shell in shells {
        let mut text = Vec::new();
        clap_complete::generate(*shell, &mut command, &name, &mut text);
        let file = clap_complete::Generator::file_name(shell, &name);
        kept(&args.folder.join("completions"), &file, &text)?;
    }
    let (folder, shells) = (args.folder.display(), shells.len());
    writeln!(out, "{folder}/man1 has {pages} manual pages, and {folder}/completions what {shells} shells need.")?;
    writeln!(
        out,
        "`man -M {folder} clear-cascade-why` shows one; how completions are read in, each shell's manual says."
    )?;
    Ok(())
}

/// Writes a file of a folder, which is made where it is not there.
fn kept(folder: &Path, name: &str, text: &[u8]) -> Result<(), Failure> {
    let refused = |e: std::io::Error| Refusal::new(format!("`{}` cannot be made: {e}", folder.display()));
    fs::create_dir_all(folder).map_err(refused)?;
    Ok(files::write(&folder.join(name), text)?)
}
