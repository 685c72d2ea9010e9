//! The order of the stages that `lib.rs` tells, held against what each file uses.

use std::path::{Path, PathBuf};

/// All files below a folder.
fn files(folder: &Path) -> Vec<PathBuf> {
    let entries = std::fs::read_dir(folder).unwrap().map(|e| e.unwrap().path());
    entries.flat_map(|path| if path.is_dir() { files(&path) } else { vec![path] }).collect()
}

/// A source without its comments and its tests.
fn code(file: &Path) -> String {
    let text = std::fs::read_to_string(file).unwrap();
    let code = text.split("#[cfg(test)]").next().unwrap_or_default();
    code.lines().filter(|l| !l.trim_start().starts_with("//")).map(|l| format!("{l}\n")).collect()
}

/// The first names of all paths from the root of the crate.
fn used(code: &str) -> Vec<&str> {
    let word = |rest: &str| rest.find(|c: char| !c.is_alphanumeric() && c != '_').unwrap_or(rest.len());
    let starts = code.match_indices("crate::").map(|(at, _)| at + "crate::".len());
    starts
        .flat_map(|at| {
            let rest = &code[at..];
            match rest.strip_prefix('{') {
                Some(list) => list[..list.find(';').unwrap_or(list.len())]
                    .split([',', '{', '}'])
                    .map(|part| &part.trim()[..word(part.trim())])
                    .collect::<Vec<_>>(),
                None => vec![&rest[..word(rest)]],
            }
        })
        .collect()
}

#[test]
fn a_stage_looks_only_at_stages_before_it() {
    let source = Path::new(env!("CARGO_MANIFEST_DIR")).join("src");
    let lib = code(&source.join("lib.rs"));
    let stages: Vec<&str> =
        lib.lines().filter_map(|l| l.trim_start_matches("pub ").strip_prefix("mod ")?.strip_suffix(';')).collect();
    let place = |name: &str| stages.iter().position(|s| *s == name);
    let mut wrong = Vec::new();
    let mut looks = 0;
    for file in files(&source) {
        let inside = file.strip_prefix(&source).unwrap().with_extension("");
        let stage = inside.iter().next().unwrap().to_string_lossy().into_owned();
        if inside.ends_with("tests") || stage == "lib" {
            continue;
        }
        let own = place(&stage).unwrap_or_else(|| panic!("`lib.rs` has no stage `{stage}`"));
        for name in used(&code(&file)) {
            looks += 1;
            match place(name) {
                Some(other) if other <= own => {}
                Some(_) => wrong.push(format!("{} looks ahead at `{name}`", inside.display())),
                // What the whole crate gives out is above all stages.
                None => wrong.push(format!("{} uses `{name}` of the crate's root", inside.display())),
            }
        }
    }
    assert!(wrong.is_empty(), "{}", wrong.join("\n"));
    assert!(stages.len() > 12 && looks > 400, "{looks} looks at {stages:?}");
}
