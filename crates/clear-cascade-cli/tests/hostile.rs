//! What the program does where its surroundings are not what one wishes: full disks, devices, names that act on a terminal, links
//! that lead outside.

use std::path::Path;
use std::process::{Command, Output, Stdio};

/// The program in a folder.
fn run(folder: &Path, args: &[&str], out: Stdio) -> Output {
    let mut program = Command::new(env!("CARGO_BIN_EXE_clear-cascade"));
    program.current_dir(folder).args(args).stdin(Stdio::null()).stdout(out).stderr(Stdio::piped());
    program.spawn().unwrap().wait_with_output().unwrap()
}

/// A folder with files.
fn folder(files: &[(&str, &str)]) -> tempfile::TempDir {
    let folder = tempfile::tempdir().unwrap();
    for (name, text) in files {
        let at = folder.path().join(name);
        std::fs::create_dir_all(at.parent().unwrap()).unwrap();
        std::fs::write(at, text).unwrap();
    }
    folder
}

#[test]
#[cfg(target_os = "linux")]
fn a_full_disk_is_an_error_and_a_reader_that_goes_is_none() {
    let site = folder(&[("a.html", "<style>p { color: red }</style><p>1<p>2")]);
    let commands: &[&[&str]] = &[
        &["--help"],
        &["why", "a.html", "p", "color"],
        &["why", "a.html", "p", "color", "--format", "json"],
        &["values", "a.html"],
        &["why-not", "a.html", "p", "b"],
        &["reach", "a.html", "p"],
        &["aim", "a.html", "p"],
        &["try", "a.html", "--set", "p { top: 0 }"],
        &["try", "a.html", "--set", "p { top: 0 }", "--patch"],
        &["compare", "a.html", "@3", "@4"],
        &["check", "a.html"],
        &["check", "a.html", "--format", "sarif"],
        &["check", "a.html", "--facts"],
    ];
    for args in commands {
        let full = std::fs::File::options().write(true).open("/dev/full").unwrap();
        let output = run(site.path(), args, full.into());
        assert_eq!(output.status.code(), Some(2), "{args:?}");
        let told = String::from_utf8_lossy(&output.stderr);
        assert!(args[0] == "--help" || told.contains("the answer could not be written"), "{args:?}: {told}");
        let (reader, writer) = std::io::pipe().unwrap();
        drop(reader);
        let output = run(site.path(), args, writer.into());
        assert_eq!((output.stderr.len(), args[0] == "--help" || output.status.success()), (0, true), "{args:?}");
    }
}

#[test]
#[cfg(target_os = "linux")]
fn what_ends_the_program_leaves_no_half_file() {
    let site = folder(&[("a.html", "<style>p { color: red }</style><p>1<p>2")]);
    let limited = |kib: &str, args: &str| {
        let command = format!("ulimit -f {kib}; exec \"$0\" {args}");
        let program = env!("CARGO_BIN_EXE_clear-cascade");
        let output = Command::new("bash").args(["-c", &command, program]).current_dir(site.path()).output().unwrap();
        output.status.success()
    };
    let report = || std::fs::read_to_string(site.path().join("out.html")).ok();
    // A file that grows beyond the limit ends the program by a signal.
    assert!(!limited("40", "report a.html -o out.html") && report().is_none());
    assert!(limited("unlimited", "report a.html -o out.html"));
    let whole = report().unwrap();
    assert!(!limited("40", "report a.html -o out.html") && report() == Some(whole), "the one before is there still");
    assert!(!limited("1", "demo site"));
    let nowhere = run(site.path(), &["report", "a.html", "-o", "gone/out.html"], Stdio::piped());
    let told = String::from_utf8_lossy(&nowhere.stderr).into_owned();
    assert_eq!(told, "error: `gone/out.html` cannot be written: No such file or directory (os error 2)\n");
    let there = std::fs::read_dir(site.path().join("site")).unwrap().map(|entry| entry.unwrap().path());
    for file in there.filter(|path| path.extension().is_some_and(|e| e == "html" || e == "md")) {
        let (name, text) = (file.file_name().unwrap().to_owned(), std::fs::read(&file).unwrap());
        let original = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../demo").join(name);
        assert_eq!(text, std::fs::read(original).unwrap(), "{}", file.display());
    }
}

#[test]
#[cfg(target_os = "linux")]
fn memory_that_runs_out_leaves_no_half_answer() {
    let page = format!("<!DOCTYPE html><style>p {{ color: red }}</style>{}", "<p class=a>x</p>".repeat(30_000));
    let site = folder(&[("a.html", &page), ("out.html", "the one before")]);
    let limited = |kib: &str, args: &str| {
        let command = format!("ulimit -v {kib}; ulimit -c 0; exec \"$0\" {args}");
        let program = env!("CARGO_BIN_EXE_clear-cascade");
        let output = Command::new("bash").args(["-c", &command, program]).current_dir(site.path()).output().unwrap();
        (output.status.success(), output.stdout.len(), String::from_utf8_lossy(&output.stderr).into_owned())
    };
    for args in
        ["report a.html -o out.html", "why a.html p color", "check a.html", "try a.html --set 'p { top: 0 }' --patch"]
    {
        let (succeeds, written, told) = limited("45000", args);
        assert_eq!((succeeds, written, told.is_empty()), (false, 0, false), "{args}: {told}");
    }
    assert_eq!(std::fs::read_to_string(site.path().join("out.html")).unwrap(), "the one before");
    assert_eq!(std::fs::read_dir(site.path()).unwrap().count(), 2, "nothing is left beside it");
    assert!(limited("unlimited", "why a.html p color").0);
}

#[test]
#[cfg(unix)]
fn what_is_near_a_missing_file_is_told_below_the_root_only() {
    let outside = folder(&[("secret.css", "p { top: 0 }")]);
    let pages = ["CSS/Site.css", "css/sitt.css", "csss/main/site.css", "css/Out/secret.css", "css/gone/far.css"];
    let links: Vec<String> = pages.iter().map(|href| format!("<link rel=stylesheet href={href}>")).collect();
    let site =
        folder(&[("a.html", &format!("{}<p>1", links.join("\n"))), ("css/site.css", ""), ("css/main/site.css", "")]);
    std::os::unix::fs::symlink(outside.path(), site.path().join("css/out")).unwrap();
    let output = run(site.path(), &["check", "a.html", "--format", "lines"], Stdio::piped());
    let told = String::from_utf8_lossy(&output.stdout);
    let whats: Vec<&str> = told.lines().filter_map(|l| l.split_once("\"what\":\"")?.1.split('"').next()).collect();
    let reasons: Vec<&str> = whats.iter().filter_map(|what| Some(what.split_once("there is no file ")?.1)).collect();
    let expected = [
        "`CSS/Site.css`, but there is `css/site.css`: only the case of letters differs",
        "`css/sitt.css`, but there is `site.css`",
        "`csss/main/site.css`, but there is `css/main/site.css`",
        "`css/Out/secret.css`",
        "`css/gone/far.css`",
    ];
    assert_eq!(reasons, expected, "{told}");
}

#[test]
#[cfg(target_os = "linux")]
fn a_device_without_end_is_refused() {
    let site = folder(&[("a.html", "<p>1")]);
    let output = run(site.path(), &["why", "a.html", "p", "color", "--user-sheet", "/dev/zero"], Stdio::piped());
    assert_eq!(output.status.code(), Some(2));
    assert!(String::from_utf8_lossy(&output.stderr).contains("`/dev/zero` cannot be read: it is larger than"));
}

#[test]
fn what_acts_on_a_terminal_is_shown() {
    let name = "a\u{1b}[31m\u{202e}.html";
    let site =
        folder(&[(name, "<style>p { color: red } \u{9b}x { }</style><p class='\u{1b}[1m\u{9b}4m\u{2028}\u{7f}'>1")]);
    let acting =
        |text: &str| text.chars().find(|c| c.is_control() && *c != '\n' || matches!(*c, '\u{202e}' | '\u{2028}'));
    let commands: &[&[&str]] = &[
        &["why", name, "p", "color"],
        &["why", name, "p", "color", "--format", "json"],
        &["why", name, "p\u{1b}[1m", "color"],
        &["why", "gone\u{1b}[1m.html", "p", "color"],
        &["values", name],
        &["values", name, "p"],
        &["reach", name, "p"],
        &["aim", name, "p"],
        &["check", name, "--advice", "--show"],
        &["check", name, "--facts"],
        &["check", name, "--format", "lines"],
        &["try", name, "--set", "p { top: 0 }"],
    ];
    for args in commands {
        let output = run(site.path(), args, Stdio::piped());
        let text = [output.stdout, output.stderr].map(|bytes| String::from_utf8(bytes).unwrap()).concat();
        assert!(text.len() > 20);
        assert_eq!(acting(&text), None, "{args:?}: {text:?}");
    }
}

#[test]
#[cfg(unix)]
fn of_what_lies_outside_nothing_is_told() {
    let around = folder(&[("secret.css", "p { top: 0 }"), ("site/near.css", "p { top: 0 }"), ("site/a.html", "")]);
    std::os::unix::fs::symlink(around.path(), around.path().join("site/out")).unwrap();
    let site = around.path().join("site");
    for (href, told) in [
        ("out/secret.css", "`out/secret.css` lies outside the root folder"),
        ("out/secre.css", "`out/secre.css` lies outside the root folder"),
        ("out/gone/a.css", "`out/gone/a.css` lies outside the root folder"),
        ("..%2fsecret.css", "`../secret.css` lies outside the root folder"),
        ("..%2fsecre.css", "`../secre.css` lies outside the root folder"),
        ("nea.css", "there is no file `nea.css`, but there is `near.css`"),
        ("gone/a.css", "there is no file `gone/a.css`"),
    ] {
        std::fs::write(site.join("a.html"), format!("<link rel=stylesheet href='{href}'><p>1")).unwrap();
        let output = run(&site, &["check", "a.html", "--format", "lines"], Stdio::piped());
        let text = String::from_utf8(output.stdout).unwrap();
        assert!(text.contains(told), "{href}: {text}");
    }
}
