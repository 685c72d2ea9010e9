//! The guide: each of its questions is asked again on the sample site, and the answer is what stands there.

use std::fs;
use std::path::{Path, PathBuf};
use std::process::Command;

/// Copies the files of a folder.
fn copy(from: &Path, to: &Path) {
    fs::create_dir_all(to).unwrap();
    for entry in fs::read_dir(from).unwrap().map(Result::unwrap) {
        let to = to.join(entry.file_name());
        if entry.path().is_dir() { copy(&entry.path(), &to) } else { fs::copy(entry.path(), to).map(|_| ()).unwrap() }
    }
}

/// With `INSTA_UPDATE=always`, as for snapshots, the guide is written anew.
#[test]
fn the_guide_is_true() {
    let top = Path::new(env!("CARGO_MANIFEST_DIR")).join("../..");
    let (guide, site) = (top.join("docs/guide.md"), tempfile::tempdir().unwrap());
    copy(&top.join("demo"), site.path());
    // The shell finds the program by its name.
    let folder = PathBuf::from(env!("CARGO_BIN_EXE_clear-cascade")).parent().unwrap().display().to_string();
    let path = format!("{folder}:{}", std::env::var("PATH").unwrap_or_default());
    let text = fs::read_to_string(&guide).unwrap();
    let (mut asked, mut lines) = (0, text.lines());
    let mut anew = String::new();
    while let Some(line) = lines.next() {
        anew += &format!("{line}\n");
        if line != "```console" {
            continue;
        }
        for line in lines.by_ref().take_while(|line| *line != "```") {
            let Some(command) = line.strip_prefix("$ ") else { continue };
            let mut shell = Command::new("sh");
            let output = shell.args(["-c", command]).current_dir(&site).env("PATH", &path).output().unwrap();
            assert!(output.stderr.is_empty(), "{command}: {}", String::from_utf8_lossy(&output.stderr));
            anew += &format!("{line}\n{}", String::from_utf8(output.stdout).unwrap());
            asked += 1;
        }
        anew += "```\n";
    }
    assert!(asked >= 18, "{asked} questions");
    if std::env::var("INSTA_UPDATE").is_ok_and(|update| update == "always") {
        return fs::write(&guide, &anew).unwrap();
    }
    assert!(text == anew, "the guide is not what the program says; INSTA_UPDATE=always writes it anew");
}
