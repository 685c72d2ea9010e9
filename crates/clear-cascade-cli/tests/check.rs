//! `check` on the sample site and on copies of it, over the real program.

use std::collections::BTreeSet;
use std::fs;
use std::path::{Path, PathBuf};
use std::process::{Command, Output};

use serde_json::Value;

/// The sample site.
fn site() -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join("../../demo").canonicalize().unwrap()
}

/// A copy of it that may be changed.
fn copied() -> tempfile::TempDir {
    let to = tempfile::tempdir().unwrap();
    fs::create_dir(to.path().join("css")).unwrap();
    for folder in ["", "css"] {
        for entry in fs::read_dir(site().join(folder)).unwrap().flatten().filter(|e| e.path().is_file()) {
            fs::copy(entry.path(), to.path().join(folder).join(entry.file_name())).unwrap();
        }
    }
    to
}

/// Runs `check` in a folder.
fn check(folder: &Path, args: &[&str]) -> Output {
    let program = env!("CARGO_BIN_EXE_clear-cascade");
    Command::new(program).arg("check").args(args).current_dir(folder).output().unwrap()
}

/// What it printed.
fn printed(output: &Output) -> String {
    assert!(output.stderr.is_empty(), "{}", String::from_utf8_lossy(&output.stderr));
    String::from_utf8(output.stdout.clone()).unwrap()
}

/// The findings in a folder as data.
fn findings(folder: &Path, args: &[&str]) -> Vec<Value> {
    let lines = printed(&check(folder, &[&["--format", "lines"], args].concat()));
    let all = lines.lines().map(|line| serde_json::from_str::<Value>(line).unwrap());
    all.filter(|one| one.get("code").is_some()).collect()
}

/// A place without its column.
fn line_of(finding: &Value) -> String {
    let at = finding["at"].as_str().unwrap();
    at.split(':').take(2).collect::<Vec<_>>().join(":")
}

/// The places that the sample site tells of its faults, fault by fault.
fn told() -> Vec<Vec<String>> {
    let text = fs::read_to_string(site().join("README.md")).unwrap();
    let rows = text.lines().filter(|l| l.starts_with("| ") && l.as_bytes()[2].is_ascii_digit());
    rows.map(|row| {
        let last = row.trim_end_matches(" |").rsplit(" | ").next().unwrap();
        last.split(", ").map(|place| place.trim_matches('`').to_owned()).collect()
    })
    .collect()
}

#[test]
fn the_faults_of_the_sample_site_are_found_and_nothing_else() {
    let told = told();
    assert_eq!(told.len(), 16);
    let with_advice: BTreeSet<String> = findings(&site(), &[".", "--advice"]).iter().map(line_of).collect();
    for places in &told {
        assert!(places.iter().any(|place| with_advice.contains(place)), "nothing is found at {places:?}");
    }
    let found = findings(&site(), &["."]);
    let known: BTreeSet<&String> = told.iter().flatten().collect();
    for finding in &found {
        assert!(known.contains(&line_of(finding)), "{finding}");
    }
    let each: BTreeSet<(String, String)> = found.iter().map(|f| (f["code"].to_string(), f["at"].to_string())).collect();
    assert_eq!(each.len(), found.len(), "nothing is told twice");
    insta::assert_snapshot!(printed(&check(&site(), &["."])));
    insta::assert_snapshot!("one_file", printed(&check(&site(), &["index.html", "--show", "--advice"])));
}

#[test]
fn one_patch_mends_all_that_can_be_mended_together() {
    let folder = tempfile::tempdir().unwrap();
    let twice = |n: usize| (0..n).map(|i| format!("color: rgb({i} 0 0);")).collect::<String>();
    let sheet = format!("p {{ {} }}\nb {{ {} colr: red }}\n", twice(40), twice(9));
    fs::write(folder.path().join("a.css"), &sheet).unwrap();
    let page = "<!DOCTYPE html><link rel=stylesheet href=a.css><p>a <b>b</b>";
    fs::write(folder.path().join("a.html"), page).unwrap();
    let patch = printed(&check(folder.path(), &["a.html", "--patch", "--advice"]));
    let written: Vec<&str> = patch.lines().filter(|l| l.starts_with('+') && !l.starts_with("+++")).collect();
    assert_eq!(written, ["+p { color: rgb(39 0 0); }", "+b { color: rgb(8 0 0); color: red }"], "{patch}");
}

#[test]
fn patches_apply_and_a_mended_site_is_clean() {
    let copy = copied();
    let git = |args: &[&str]| {
        let run = Command::new("git").args(args).current_dir(copy.path()).output().unwrap();
        assert!(run.status.success(), "{args:?}: {}", String::from_utf8_lossy(&run.stderr));
    };
    git(&["init", "-q"]);
    let before = findings(copy.path(), &["."]);
    let fixable: Vec<&Value> = before.iter().filter(|f| f.get("fix").is_some()).collect();
    assert!(fixable.len() >= 8, "{fixable:?}");
    // What is mended may take a place from others, which then never win: so once more.
    for round in 0..2 {
        let patch = printed(&check(copy.path(), &[".", "--patch"]));
        fs::write(copy.path().join("fix.patch"), &patch).unwrap();
        git(&["apply", "fix.patch"]);
        let after = findings(copy.path(), &["."]);
        let same = |f: &&&Value| after.iter().any(|a| (&a["code"], &a["what"]) == (&f["code"], &f["what"]));
        assert_eq!(fixable.iter().filter(same).count(), 0);
        assert!(round == 0 || after.iter().all(|f| f.get("fix").is_none()), "{after:#?}");
    }
    // One by its code and place.
    let one = printed(&check(&site(), &[".", "--patch=rule-misses@css/theme.css:12"]));
    assert!(one.contains("+h2.far {") && one.matches("\n+").count() == 2, "{one}");
    let none = check(&site(), &[".", "--patch=rule-misses@css/theme.css:13"]);
    assert_eq!(none.status.code(), Some(2));
    // The rest by hand.
    for (file, from, to) in [
        (
            "css/theme.css",
            "  h1 { color: lavender !important; letter-spacing: -0.01em; }",
            "  h1 { letter-spacing: -0.01em; }",
        ),
        ("css/theme.css", "color: gold\n", "color: gold;\n"),
        ("css/theme.css", "8 em", "8em"),
        ("css/theme.css", "span.badge { width: 3em; color: ffcc00; }\n", ""),
        ("css/base.css", "var(--amber)", "#ffbf00"),
        ("index.html", "class=\"butto\"", "class=\"button\""),
        ("programme.html", "<link rel=\"stylesheet\" href=\"css/seasons.css\">\n", ""),
        ("programme.html", " id=\"special\">Tickets", ">Tickets"),
    ] {
        let path = copy.path().join(file);
        let text = fs::read_to_string(&path).unwrap();
        assert!(text.contains(from), "{file} has no {from}");
        fs::write(path, text.replace(from, to)).unwrap();
    }
    let left = findings(copy.path(), &["."]);
    assert!(left.is_empty(), "{left:#?}");
    let text = printed(&check(copy.path(), &["."]));
    assert!(text.starts_with("Nothing is found on 3 pages with "), "{text}");
}

#[test]
fn runs_that_are_split_come_to_the_same() {
    let whole = printed(&check(&site(), &[".", "--format", "lines", "--advice"]));
    let folder = tempfile::tempdir().unwrap();
    let mut args = vec!["--format".to_owned(), "lines".to_owned(), "--advice".to_owned()];
    for page in ["visit.html", "index.html", "programme.html"] {
        let line = printed(&check(&site(), &["--facts", &format!("./{page}")]));
        assert_eq!(line.lines().count(), 1);
        let file = folder.path().join(page);
        fs::write(&file, line).unwrap();
        args.extend(["--merge".to_owned(), file.display().to_string()]);
    }
    let args: Vec<&str> = args.iter().map(String::as_str).collect();
    assert_eq!(printed(&check(&site(), &args)), whole);
    let list = folder.path().join("list");
    fs::write(&list, "./index.html\n\n./visit.html\n./programme.html\n").unwrap();
    let listed = ["--pages-from", list.to_str().unwrap(), "--format", "lines", "--advice"];
    assert_eq!(printed(&check(&site(), &listed)), whole);
    fs::write(&list, "{\"pages\":").unwrap();
    let broken = check(&site(), &["--merge", list.to_str().unwrap()]);
    assert_eq!(broken.status.code(), Some(2));
}

#[test]
fn pipelines_get_a_status_a_log_and_what_is_new() {
    let status = |args: &[&str]| check(&site(), args).status.code();
    assert_eq!(status(&["."]), Some(0));
    assert_eq!(status(&[".", "--fail-on", "wrong"]), Some(1));
    assert_eq!(status(&["visit.html", "--fail-on", "wrong"]), Some(1));
    assert_eq!(status(&["no-such.html", "--fail-on", "wrong"]), Some(1), "a page that is not there is a finding");
    let copy = copied();
    let log = printed(&check(&site(), &[".", "--format", "sarif"]));
    let log: serde_sarif::sarif::Sarif = serde_json::from_str(&log).unwrap();
    let results = log.runs[0].results.as_ref().unwrap();
    assert_eq!(results.len(), findings(&site(), &["."]).len());
    let rules = log.runs[0].tool.driver.rules.as_ref().unwrap();
    assert!(results.iter().all(|r| rules.iter().any(|rule| Some(&rule.id) == r.rule_id.as_ref())));
    // What came and what went.
    let before = printed(&check(copy.path(), &[".", "--format", "lines"]));
    fs::write(copy.path().join("before.jsonl"), before).unwrap();
    let sheet = copy.path().join("css/theme.css");
    let text = fs::read_to_string(&sheet).unwrap();
    fs::write(&sheet, format!("/* moved */\n{}", text.replace("8 em", "8em").replace("opacity: .8", "opacty: .8")))
        .unwrap();
    let news = printed(&check(copy.path(), &[".", "--since", "before.jsonl"]));
    assert!(news.starts_with("1 new finding on 3 pages with 132 elements: 1 wrong.\n"), "{news}");
    assert!(news.contains("`opacty`") && news.contains("Gone\n  css/theme.css:28:51  `8` cannot stand here"), "{news}");
    let same = check(copy.path(), &[".", "--since", "before.jsonl", "--fail-on", "dead"]);
    assert_eq!(same.status.code(), Some(1));
}
