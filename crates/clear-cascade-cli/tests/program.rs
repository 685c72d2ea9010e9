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
    insta::assert_snapshot!("values_pseudo_element", run(&["values", "index.html", ".planet::marker"]));
    insta::assert_snapshot!("values_page", run(&["values", "index.html"]));
    insta::assert_snapshot!("why_not_near", run(&["why-not", "index.html", ".menu a", "css/theme.css:14"]));
    insta::assert_snapshot!("why_not_loses", run(&["why-not", "programme.html", "article h2", "css/programme.css:6"]));
    insta::assert_snapshot!("aim", run(&["aim", "programme.html", "article h2", "--not", "#special h2"]));
    insta::assert_snapshot!("reach_rule", run(&["reach", "programme.html", "css/programme.css:13"]));
    insta::assert_snapshot!("reach_state", run(&["reach", "index.html", "visit.html", "a:hover, dialog:modal"]));
    insta::assert_snapshot!("reach", run(&["reach", "programme.html", "article.night h2"]));
    insta::assert_snapshot!("try_set", run(&["try", "index.html", "--set", ".menu a { color: gold }"]));
    insta::assert_snapshot!("try_nothing", run(&["try", "index.html", "--cut", "css/theme.css:14"]));
    insta::assert_snapshot!("compare_twins", run(&["compare", "index.html", ".planet", ".planet.faint"]));
    insta::assert_snapshot!("compare_views", run(&["compare", "programme.html", "--other-viewport", "600x800"]));
    insta::assert_snapshot!(
        "values_changed_by",
        run(&["values", "visit.html", "#hours", "--changed-by", "css/theme.css"])
    );
}

#[test]
fn several_pages_are_asked_at_once() {
    let text = run(&["why", "index.html", "h1", "color", "--also", "visit.html"]);
    assert!(text.starts_with("index.html\n`color` is") && text.contains("\nvisit.html\n`color` is"), "{text}");
    let json = run(&["why-not", "index.html", "h1", "css/base.css:35", "--also", "visit.html", "--format", "json"]);
    let json: serde_json::Value = serde_json::from_str(json.rsplit_once("exit status").unwrap().0).unwrap();
    assert_eq!(json.as_array().map(Vec::len), Some(2));
}

#[test]
fn what_cannot_be_asked_is_refused_before_anything_is_answered() {
    let asked: &[(&[&str], &str)] = &[
        (&["reach", "index.html", ".menu", ".lead"], "write them as one: '.menu, .lead'"),
        (&["reach", "index.html"], "needs a page and a selector"),
        (&["try", "index.html", ".menu", "--set", "h1 { color: red }"], "there is no file `.menu`"),
        (&["why", "index.html", "h1", "h2", "color"], "write them as one: 'h1, h2'"),
        (&["try", "index.html", "--value", "css/base.css:18=red"], "add a column"),
        (&["try", "index.html", "--text", "main", "x"], "it holds other elements"),
        (&["try", "index.html", "--move", "css/theme.css=css/base.css:3"], "is no pair of two rules"),
    ];
    for (args, message) in asked {
        let output = run_in(&site(), args);
        assert!(output.stdout.is_empty() && output.status.code() == Some(2), "{args:?}");
        let told = String::from_utf8_lossy(&output.stderr).split_whitespace().collect::<Vec<_>>().join(" ");
        assert!(told.contains(message), "{args:?}: {told}");
    }
    // Options may stand between, and what starts with a hyphen may be a property or a value.
    let told = |args: &[&str]| String::from_utf8(run_in(&site(), args).stdout).unwrap();
    assert!(told(&["reach", "index.html", "--root", ".", ".menu a"]).starts_with("`.menu a` hits 3 elements"));
    assert!(told(&["why", "index.html", "h1", "-webkit-text-fill-color"]).starts_with("`-webkit-text-fill-color` is"));
    assert!(told(&["try", "index.html", "--on", "h1", "--x: 1"]).starts_with("`--x` changes on"));
    let short = told(&["why", "index.html", "h1", "color", "font-size", "--short"]);
    assert!(short.lines().count() < 8 && short.contains("39.6px") && !short.contains("contest"), "{short}");
    let both = told(&["why", "index.html", ".menu a, .menu li", "color"]);
    assert!(both.starts_with("The 6 elements part in `color`.\n\n@14 li") && both.contains("@15 a.here"), "{both}");
    let several = told(&["why", "visit.html", "th, td", "color", "font-weight", "--short"]);
    assert!(several.starts_with("The 6 elements share `color` and part in `font-weight`.\n\n@25 th"), "{several}");
    let same = told(&["why", "visit.html", "th, td", "color", "--short"]);
    assert!(same.starts_with("All 6 elements have the same `color`: rgb(170, 178, 213).\n\n@25 th"), "{same}");
}

#[test]
fn comparing_may_fail_a_pipeline() {
    let ends = |args: &[&str]| run(args).rsplit_once('\n').unwrap().1.to_owned();
    assert_eq!(ends(&["compare", ".", "../demo", "--fail-on-difference"]), "exit status 0");
    let print = ["compare", "index.html", "h2", "--other-media", "print"];
    assert_eq!(ends(&print), "exit status 0");
    assert_eq!(ends(&[&print[..], &["--fail-on-difference"]].concat()), "exit status 1");
}

/// A copy of the sample site in a fresh git repository.
fn copied_site() -> tempfile::TempDir {
    let folder = tempfile::tempdir().unwrap();
    std::fs::create_dir(folder.path().join("css")).unwrap();
    for name in [
        "index.html",
        "programme.html",
        "visit.html",
        "css/base.css",
        "css/theme.css",
        "css/programme.css",
        "css/print.css",
    ] {
        std::fs::copy(site().join(name), folder.path().join(name)).unwrap();
    }
    let text = std::fs::read_to_string(folder.path().join("css/print.css")).unwrap();
    std::fs::write(folder.path().join("css/print.css"), text.replace('\n', "\r\n")).unwrap();
    folder
}

#[test]
fn patches_apply_and_give_what_was_predicted() {
    let trials: &[&[&str]] = &[
        &["index.html", "--set", ".menu a { color: gold }"],
        &["index.html", "--set", "h2 { color: plum; margin: 0 }", "--in", "css/theme.css"],
        &["index.html", "--set", "h2 { color: plum }", "--in", "css/base.css:19"],
        &["index.html", "--on", "#headline", "color: teal !important"],
        &["programme.html", "--on", "p[style]", "margin: 0"],
        &["index.html", "--add-class", ".teaser=card"],
        &["index.html", "--drop-class", ".faint=faint"],
        &["visit.html", "--drop-class", "#hours=card", "--add-class", "#hours=plain"],
        &["index.html", "--cut", "css/theme.css:9:10"],
        &["index.html", "--cut", "css/theme.css:15"],
        &["programme.html", "--cut", "css/programme.css:9"],
        &["index.html", "--without", "css/theme.css"],
        &["index.html", "--without", "index.html"],
        &["visit.html", "--replace", "css/theme.css=css/print.css"],
        &["index.html", "--move", "css/theme.css:8=css/theme.css:2"],
        &["index.html", "--move", "css/theme.css:7=css/base.css:30"],
        &["programme.html", "--move", "css/programme.css:6=css/programme.css:14"],
        &["index.html", "--set", "a { color: red }", "--in", "css/print.css", "--media", "print"],
        &["index.html", "--cut", "css/print.css:3", "--media", "print"],
        &["index.html", "--cut", "css/base.css:21", "--add-class", "h1=lead", "--set", "em { color: lime }"],
        &["visit.html", "--cut", "css/base.css:29:39"],
        &["index.html", "--value", "css/base.css:18:6=3rem", "--value", "css/base.css:14=110%"],
        &["programme.html", "--value", "programme.html:40:15=navy"],
        &["visit.html", "--value", "css/theme.css:28:51=8em"],
        &[
            "index.html",
            "--classes",
            "h1",
            "night special",
            "--add-class",
            "h1=lead",
            "--on",
            "h1",
            "margin: 0",
            "--on",
            "h1",
            "top: 0",
        ],
        &["visit.html", "--drop-attribute", "#note", "placeholder", "--attribute", "#hours", "lang=\"fr\" & <b>"],
        &["programme.html", "--drop-attribute", "p[style]", "style", "--add-class", "p[style]=more"],
        &["index.html", "--text", "h1", "a < b & c", "--drop-class", ".faint=faint"],
        &["programme.html", "--move", "css/programme.css=css/theme.css"],
    ];
    for trial in trials {
        let folder = copied_site();
        let media: Vec<&str> = if trial.contains(&"print") { vec!["--media", "print"] } else { Vec::new() };
        let values = || {
            let output = run_in(folder.path(), &[&["values", trial[0], "--format", "ndjson"], &media[..]].concat());
            let text = String::from_utf8(output.stdout).unwrap();
            text.lines().map(|l| serde_json::from_str::<serde_json::Value>(l).unwrap()).collect::<Vec<_>>()
        };
        let json = run_in(folder.path(), &[&["try"], *trial, &["--format", "json"]].concat());
        assert!(json.status.success(), "{trial:?}: {}", String::from_utf8_lossy(&json.stderr));
        let predicted: serde_json::Value = serde_json::from_slice(&json.stdout).unwrap();
        let patch = run_in(folder.path(), &[&["try"], *trial, &["--patch"]].concat());
        let before = values();
        std::fs::write(folder.path().join("a.patch"), &patch.stdout).unwrap();
        let git =
            |args: &[&str]| Command::new("git").args(args).current_dir(folder.path()).output().expect("git is there");
        git(&["init", "-q"]);
        let applied = git(&["apply", "a.patch"]);
        assert!(
            applied.status.success(),
            "{trial:?}: {}\n{}",
            String::from_utf8_lossy(&applied.stderr),
            String::from_utf8_lossy(&patch.stdout)
        );
        // What the files give now, element by element; a sheet that is gone takes its own element along.
        let gone = |l: &serde_json::Value| trial.contains(&"--without") && (l["tag"] == "link" || l["tag"] == "style");
        let mut expected: Vec<serde_json::Value> = before.into_iter().collect();
        for change in predicted["changes"].as_array().unwrap() {
            let line =
                expected.iter_mut().find(|l| l["element"] == change["element"] && l["pseudo"] == change["pseudo"]);
            let values = line.unwrap()["values"].as_object_mut().unwrap();
            assert_eq!(values.get(change["property"].as_str().unwrap()).unwrap_or(&"".into()), &change["before"]);
            values.insert(change["property"].as_str().unwrap().to_owned(), change["after"].clone());
        }
        let bare = |list: Vec<serde_json::Value>| {
            let kept = list.into_iter().filter(|l| !gone(l));
            kept.map(|l| (l["tag"].clone(), l["pseudo"].clone(), l["values"].clone())).collect::<Vec<_>>()
        };
        let (expected, got) = (bare(expected), bare(values()));
        assert_eq!(expected.len(), got.len(), "{trial:?}");
        for (a, b) in expected.iter().zip(&got) {
            assert_eq!(a, b, "{trial:?}");
        }
    }
}

#[test]
fn sheets_of_other_sites_are_fetched_only_when_asked() {
    use std::io::{Read, Write};
    let listener = std::net::TcpListener::bind("127.0.0.1:0").unwrap();
    let port = listener.local_addr().unwrap().port();
    std::thread::spawn(move || {
        for stream in listener.incoming().take(4) {
            let mut stream = stream.unwrap();
            let mut request = [0; 2048];
            let count = stream.read(&mut request).unwrap();
            let text = String::from_utf8_lossy(&request[..count]).into_owned();
            let (status, kind, body) = if text.contains("/a.css") {
                ("200 OK", "text/css; charset=utf-8", "@import 'b.css'; p { color: green }")
            } else if text.contains("/b.css") {
                ("200 OK", "text/css", "p { margin-top: 7px }")
            } else {
                ("404 Not Found", "text/html", "")
            };
            let head = format!(
                "HTTP/1.1 {status}\r\nContent-Type: {kind}\r\nContent-Length: {}\r\nConnection: close\r\n\r\n",
                body.len()
            );
            stream.write_all(head.as_bytes()).and_then(|()| stream.write_all(body.as_bytes())).unwrap();
        }
    });
    let folder = tempfile::tempdir().unwrap();
    std::fs::write(
        folder.path().join("index.html"),
        format!("<link rel=stylesheet href=http://127.0.0.1:{port}/a.css><p>"),
    )
    .unwrap();
    let why = |args: &[&str]| {
        let output = run_in(
            folder.path(),
            &[&["why", "index.html", "p", "color", "margin-top", "--format", "json"], args].concat(),
        );
        let json: serde_json::Value = serde_json::from_slice(&output.stdout).unwrap();
        (json[0]["value"].clone(), json[1]["value"].clone(), json[0]["notes"].to_string())
    };
    let (color, _, notes) = why(&[]);
    assert!(color == "rgb(0, 0, 0)" && notes.contains("--fetch gets it"), "{notes}");
    let (color, _, notes) = why(&["--fetch"]);
    assert!(color == "rgb(0, 0, 0)" && notes.contains("private address"), "{notes}");
    let (color, margin, notes) = why(&["--fetch", "--private-addresses"]);
    assert_eq!((color, margin), ("rgb(0, 128, 0)".into(), "7px".into()), "{notes}");
}

#[test]
fn requests_that_cannot_be_used() {
    let empty = tempfile::tempdir().unwrap();
    std::fs::write(empty.path().join("bytes.html"), b"\x89PNG\r\n\x1a\n\0\0\0\rIHDR\0\0\x01\0\0\0\x01\0").unwrap();
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
    // A slip in an option is not taken for a custom property.
    assert!(run(&["why", "index.html", "h1", "--formt", "json"]).contains("'--format'"));
    insta::assert_snapshot!("refusals", all.join("\n\n"));
}

#[test]
fn custom_properties_are_no_options() {
    let first = |args: &[&str]| run(args).lines().next().unwrap().to_owned();
    let plain = first(&["why", "index.html", "h1", "--night"]);
    assert!(plain.starts_with("`--night` is #10142b"), "{plain}");
    assert_eq!(plain, first(&["why", "index.html", "--viewport", "900x900", "h1", "--", "--night"]));
    let both = first(&["why", "index.html", "h1", "--nope", "color", "--prefer", "color-scheme=dark"]);
    assert_eq!(both, "Of the 2 properties, 1 is set here and 1 has no value.");
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

/// A schema of the docs, made so strict that a member it does not describe is an error.
fn schema(name: &str) -> serde_json::Value {
    fn strict(schema: &mut serde_json::Value) {
        if let Some(object) = schema.as_object_mut() {
            if object.contains_key("properties") {
                object.entry("additionalProperties").or_insert(false.into());
            }
            object.values_mut().for_each(strict);
        }
        schema.as_array_mut().into_iter().flatten().for_each(strict);
    }
    let path = format!("{}/../../docs/schemas/{name}.schema.json", env!("CARGO_MANIFEST_DIR"));
    let mut schema = serde_json::from_str(&std::fs::read_to_string(path).unwrap()).unwrap();
    strict(&mut schema);
    schema
}

#[test]
fn json_answers_fit_their_schemas() {
    let asked: &[&[&str]] = &[
        &["why", "programme.html", "article h2", "color"],
        &["why", "visit.html", ".hours td", "color", "--nope", "border"],
        &["why", "index.html", "a::before", "content", "--viewport", "300x400"],
        &["why-not", "programme.html", "article h2", "css/programme.css:13"],
        &["why-not", "programme.html", "h2", "h2 .far"],
        &["why-not", "index.html", "h1", "#headlin"],
        &["reach", "index.html", ".menu a:hover"],
        &["reach", "index.html", "programme.html", "css/base.css:19"],
        &["aim", "programme.html", "article h2", "--not", "h1"],
        &["try", "index.html", "--set", "a { color: red !important }"],
        &["try", "index.html", "visit.html", "--cut", "css/base.css:19"],
        &["try", "index.html", "--on", "h1", "display: block"],
        &["compare", "index.html", "h1", "h2"],
        &["compare", "index.html", "--other-media", "print"],
        &["compare", "index.html", "visit.html"],
        &["values", "programme.html"],
    ];
    let mut wrong = Vec::new();
    for args in asked {
        let format = if args[0] == "values" { "ndjson" } else { "json" };
        let output = run_in(&site(), &[args, &["--format", format][..]].concat());
        let mut compiler = boon::Compiler::new();
        compiler.add_resource("schema.json", schema(args[0])).unwrap();
        let mut schemas = boon::Schemas::new();
        let compiled = compiler.compile("schema.json", &mut schemas).unwrap();
        // One document, or one a line.
        let answers: Result<Vec<_>, _> = serde_json::Deserializer::from_slice(&output.stdout).into_iter().collect();
        let answers = answers.unwrap_or_default();
        assert!(!answers.is_empty(), "{args:?}: {}", String::from_utf8_lossy(&output.stderr));
        let faults = answers.iter().filter_map(|answer| schemas.validate(answer, compiled).err());
        wrong.extend(faults.map(|error| format!("{args:?}: {error:#}")));
    }
    assert!(wrong.is_empty(), "{}", wrong.join("\n\n"));
}

#[test]
fn help_manual_pages_and_completions_say_the_same() {
    let folder = tempfile::tempdir().unwrap();
    let answer = run(&["manual", folder.path().to_str().unwrap()]);
    assert!(answer.ends_with("exit status 0"), "{answer}");
    let read = |file: &str| std::fs::read_to_string(folder.path().join(file)).unwrap();
    // Lines are broken where the terminal ends, and white space, backslashes and quotes are each format's own.
    let words = |text: &str| text.replace('\\', "").split_whitespace().collect::<Vec<_>>().join(" ");
    let help = run(&["--help"]);
    let commands = help.split("\nCommands:\n").nth(1).and_then(|c| c.split("\n\n").next()).unwrap();
    let mut names = Vec::new();
    for line in commands.replace("\n           ", " ").lines() {
        let (name, about) = line.trim().split_once(' ').unwrap();
        let about = words(about);
        let own = run(&[name, "--help"]);
        let page = read(&format!("man1/clear-cascade-{name}.1"));
        assert!(words(&own).starts_with(&format!("{about} Usage: clear-cascade {name}")), "{own}");
        assert!(words(&page).contains(&format!("clear-cascade-{name} - {about} ")), "{page}");
        for shell in ["_clear-cascade", "_clear-cascade.ps1", "clear-cascade.elv", "clear-cascade.fish"] {
            assert!(words(&read(&format!("completions/{shell}"))).contains(&about), "{shell}: {about}");
        }
        // What a command takes is told by all of them, as is what all take.
        let bash = read("completions/clear-cascade.bash");
        let taken = own.lines().filter_map(|l| l.trim_start().strip_prefix("--")?.split([' ', '[', '=']).next());
        let taken: Vec<String> = taken.map(|option| format!("--{option}")).collect();
        assert!(taken.contains(&"--watch".to_owned()), "{own}");
        for option in taken {
            assert!(words(&page).contains(&option), "{name} {option}");
            assert!(bash.split_whitespace().any(|w| w.trim_matches(['"', ')']) == option), "{name} {option}");
        }
        names.push(name.to_owned());
    }
    assert!(names.len() > 9 && names.contains(&"manual".to_owned()), "{names:?}");
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
                || (row.contains("always lose") && line.contains("color: "))
                || line.contains(".night");
            assert!(found, "{place} is `{line}`, without `{word}`");
        }
    }
}
