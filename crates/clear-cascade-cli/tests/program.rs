//! The program as its users meet it: commands in, text and exit status out.

use std::path::{Path, PathBuf};
use std::process::{Command, Output};

/// The sample site.
fn site() -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join("../../demo")
}

/// Runs the program in a folder.
fn run_in(folder: &Path, args: &[&str]) -> Output {
    Command::new(env!("CARGO_BIN_EXE_clear-cascade")).args(args).current_dir(folder).output().expect("the program runs")
}

/// Runs the program on the sample site; gives what it prints, standard error behind standard output, and its status.
fn run(args: &[&str]) -> String {
    let output = run_in(&site(), args);
    let text = |bytes: &[u8]| String::from_utf8_lossy(bytes).into_owned();
    format!("{}{}exit status {}", text(&output.stdout), text(&output.stderr), output.status.code().unwrap_or(-1))
}

#[test]
fn answers_for_people() {
    insta::assert_snapshot!("why_declared", run(&["why", "programme.html", "article h2", "color"]));
    insta::assert_snapshot!("why_inherited", run(&["why", "visit.html", ".hours td", "color"]));
    insta::assert_snapshot!("why_shorthand", run(&["why", "visit.html", "#hours", "padding", "border-top"]));
    insta::assert_snapshot!("values_element", run(&["values", "visit.html", "#hours"]));
    insta::assert_snapshot!("values_page", run(&["values", "index.html"]));
    insta::assert_snapshot!("why_not_near", run(&["why-not", "index.html", ".menu a", "css/theme.css:14"]));
    insta::assert_snapshot!("why_not_loses", run(&["why-not", "programme.html", "article h2", "css/programme.css:6"]));
    insta::assert_snapshot!("aim", run(&["aim", "programme.html", "article h2", "--not", "#special h2"]));
    insta::assert_snapshot!("reach_rule", run(&["reach", "programme.html", "css/programme.css:13"]));
    insta::assert_snapshot!("reach_state", run(&["reach", "index.html", "visit.html", "a:hover, dialog:modal"]));
    insta::assert_snapshot!("reach", run(&["reach", "programme.html", "article.night h2"]));
}

#[test]
fn requests_that_cannot_be_used() {
    let empty = tempfile::tempdir().unwrap();
    std::fs::write(empty.path().join("bytes.html"), b"<p>\0\0\0").unwrap();
    let all = [
        run(&["why", "nope.html", "h1", "color"]),
        run(&["why", "css", "h1", "color"]),
        run(&["why", "index.html", "h1", "colr"]),
        run(&["why", "index.html", "h1 >> b", "color"]),
        run(&["why", "index.html", ".objcts", "color"]),
        run(&["why", "index.html", "@99", "color"]),
        run(&["values", "index.html", "--prefer", "color-scheme=drak"]),
        run(&["values", "index.html", "--viewport", "wide"]),
        run(&["reach", "index.html", "a:hoover"]),
        String::from_utf8_lossy(&run_in(empty.path(), &["values", "bytes.html"]).stderr).into_owned(),
    ];
    assert!(all[..9].iter().all(|a| a.ends_with("exit status 2")), "{all:#?}");
    insta::assert_snapshot!("refusals", all.join("\n\n"));
}

#[test]
fn values_as_lines_of_json() {
    let output = run_in(&site(), &["values", "programme.html", "--format", "ndjson"]);
    let text = String::from_utf8(output.stdout).unwrap();
    let lines: Vec<serde_json::Value> =
        text.lines().map(|l| serde_json::from_str(l).expect("each line is JSON")).collect();
    assert_eq!(lines[0]["tag"], "html");
    assert_eq!(lines[0]["at"], "programme.html:2:1");
    let numbers: Vec<u64> =
        lines.iter().filter(|l| l.get("pseudo").is_none()).filter_map(|l| l["element"].as_u64()).collect();
    assert_eq!(numbers, (0..numbers.len() as u64).collect::<Vec<_>>());
    assert!(lines.iter().all(|l| l["values"]["display"].is_string() && l["values"]["--night"] == "#10142b"));
}

#[test]
fn states_change_the_answer() {
    let color = |args: &[&str]| {
        let output = run_in(&site(), &[&["why", "index.html", ".here", "color", "--format", "json"], args].concat());
        serde_json::from_slice::<serde_json::Value>(&output.stdout).unwrap()["value"].clone()
    };
    assert_eq!(color(&[]), "rgb(135, 206, 250)");
    assert_eq!(color(&["--hover", ".here"]), "rgb(255, 255, 255)");
    assert_eq!(color(&["--hover", ".brand"]), "rgb(135, 206, 250)");
}

#[test]
fn the_demo_writes_the_site_and_never_over_what_differs() {
    let folder = tempfile::tempdir().unwrap();
    let first = run_in(folder.path(), &["demo"]);
    assert!(first.status.success());
    insta::assert_snapshot!("demo", String::from_utf8_lossy(&first.stdout));
    let page = folder.path().join("larkspur-hill/index.html");
    assert_eq!(std::fs::read(&page).unwrap(), std::fs::read(site().join("index.html")).unwrap());
    std::fs::write(&page, "mine").unwrap();
    let given = run_in(folder.path(), &["demo", "larkspur-hill"]);
    assert_eq!(given.status.code(), Some(2));
    assert_eq!(std::fs::read_to_string(&page).unwrap(), "mine");
    assert!(run_in(folder.path(), &["demo"]).status.success());
    assert!(folder.path().join("larkspur-hill-2/visit.html").is_file());
}

#[test]
fn the_faults_of_the_sample_site_are_where_its_readme_says() {
    let readme = std::fs::read_to_string(site().join("README.md")).unwrap();
    let words = [
        "!important",
        "#headline",
        "--amber",
        "h2 .far",
        "nav.menu",
        "colour",
        "color: gold",
        "8 em",
        "butto",
        "span.badge",
        "seasons.css",
        "special",
        "#special",
        "--acent",
        "h2",
        ".fineprint",
    ];
    let rows: Vec<&str> = readme.lines().filter(|l| l.starts_with("| ") && l.contains('`')).collect();
    assert_eq!(rows.len(), words.len());
    for (row, word) in rows.iter().zip(words) {
        let places = row.rsplit('|').nth(1).unwrap();
        for place in places.split('`').filter(|p| p.contains(':')) {
            let (file, line) = place.split_once(':').unwrap();
            let text = std::fs::read_to_string(site().join(file)).unwrap();
            let line = text.lines().nth(line.parse::<usize>().unwrap() - 1).unwrap();
            let found = line.contains(word)
                || (row.contains("always lose") && line.contains("color: gold"))
                || line.contains(".night");
            assert!(found, "{place} is `{line}`, without `{word}`");
        }
    }
}
