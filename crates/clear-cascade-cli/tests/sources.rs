//! Pages from wherever they are: the network, standard input, and files in which they were saved.

use std::fs;
use std::io::{Read as _, Write as _};
use std::net::TcpListener;
use std::path::{Path, PathBuf};
use std::process::{Command, Output, Stdio};
use std::sync::atomic::{AtomicUsize, Ordering};
use std::sync::{Arc, LazyLock};

use base64::Engine as _;
use serde_json::{Value, json};

/// The sample site.
static SITE: LazyLock<PathBuf> = LazyLock::new(|| Path::new(env!("CARGO_MANIFEST_DIR")).join("../../demo"));

/// Runs the program in a folder, with a text as standard input.
fn run(folder: &Path, args: &[&str], input: &[u8]) -> Output {
    let mut child = Command::new(env!("CARGO_BIN_EXE_clear-cascade"))
        .args(args)
        .current_dir(folder)
        .stdin(Stdio::piped())
        .stdout(Stdio::piped())
        .stderr(Stdio::piped())
        .spawn()
        .unwrap();
    let mut pipe = child.stdin.take().unwrap();
    // A program that does not read it may be gone.
    let _ = pipe.write_all(input);
    drop(pipe);
    child.wait_with_output().unwrap()
}

/// What the program prints.
fn told(folder: &Path, args: &[&str], input: &[u8]) -> String {
    let output = run(folder, args, input);
    let text = String::from_utf8(output.stdout).unwrap();
    assert!(output.status.success(), "{args:?}: {}", String::from_utf8_lossy(&output.stderr));
    text
}

/// Why the program refuses.
fn refused(folder: &Path, args: &[&str]) -> String {
    let output = run(folder, args, b"");
    assert_eq!(output.status.code(), Some(2), "{args:?}");
    String::from_utf8(output.stderr).unwrap()
}

/// The values of all elements, without the names of files.
fn values(folder: &Path, page: &str, more: &[&str], input: &[u8]) -> Vec<Value> {
    let mut args = vec!["values", page, "--format", "ndjson"];
    args.extend(more);
    let lines = told(folder, &args, input);
    let line = |line: &str| {
        let mut element: Value = serde_json::from_str(line).unwrap();
        element.as_object_mut().unwrap().remove("at");
        element
    };
    lines.lines().map(line).collect()
}

/// A server of a folder; `/moved/…` leads to what is behind it, `/away` to another server. Its address, and how often it was asked.
fn server(folder: &Path, away: &str) -> (String, Arc<AtomicUsize>) {
    let listener = TcpListener::bind("127.0.0.1:0").unwrap();
    let address = format!("http://{}", listener.local_addr().unwrap());
    let (folder, away, asked) = (folder.to_owned(), away.to_owned(), Arc::new(AtomicUsize::new(0)));
    let count = asked.clone();
    std::thread::spawn(move || {
        for stream in listener.incoming() {
            let mut stream = stream.unwrap();
            let mut request = [0; 4096];
            let length = stream.read(&mut request).unwrap_or(0);
            count.fetch_add(1, Ordering::Relaxed);
            let request = String::from_utf8_lossy(&request[..length]).into_owned();
            let path = request.split(' ').nth(1).unwrap_or("/").split('?').next().unwrap_or("/").to_owned();
            let moved = path.strip_prefix("/moved").map(str::to_owned).or((path == "/away").then(|| away.clone()));
            let file = folder.join(path.trim_start_matches('/'));
            let kind = if path.ends_with(".css") {
                "text/css"
            } else if path.ends_with(".json") {
                "application/json"
            } else {
                "text/html; charset=utf-8"
            };
            let (head, body) = match (moved, fs::read(file)) {
                (Some(to), _) => (format!("302 Found\r\nlocation: {to}"), Vec::new()),
                (None, Ok(body)) => (format!("200 OK\r\ncontent-type: {kind}"), body),
                (None, Err(_)) => ("404 Not Found".to_owned(), Vec::new()),
            };
            let head = format!("HTTP/1.1 {head}\r\ncontent-length: {}\r\nconnection: close\r\n\r\n", body.len());
            let _ = stream.write_all(head.as_bytes()).and_then(|()| stream.write_all(&body));
        }
    });
    (address, asked)
}

/// A page of the sample site saved as MHTML and as HTTP Archive, below a folder.
fn saved(folder: &Path, page: &str, sheets: &[&str]) {
    let at = "https://larkspur.example";
    let read = |name: &str| fs::read_to_string(SITE.join(name)).unwrap();
    let base64 = |text: &str| base64::engine::general_purpose::STANDARD.encode(text);
    let mut mhtml = String::from(
        "From: <Saved>\r\nMIME-Version: 1.0\r\nContent-Type: multipart/related; type=\"text/html\"; boundary=\"B\"\r\n",
    );
    let mut entries = Vec::new();
    for (name, kind) in std::iter::once((page, "text/html")).chain(sheets.iter().map(|s| (*s, "text/css"))) {
        let text = read(name);
        mhtml += &format!(
            "\r\n--B\r\nContent-Type: {kind}\r\nContent-Transfer-Encoding: base64\r\nContent-Location: {at}/{name}\r\n\r\n{}",
            base64(&text)
        );
        let content = match kind {
            "text/html" => json!({ "mimeType": "text/html; charset=utf-8", "text": text }),
            _ => json!({ "mimeType": kind, "text": base64(&text), "encoding": "base64" }),
        };
        let request = json!({ "method": "GET", "url": format!("{at}/{name}") });
        entries.push(json!({ "request": request, "response": { "status": 200, "content": content } }));
    }
    fs::write(folder.join("page.mhtml"), mhtml + "\r\n--B--\r\n").unwrap();
    let archive = json!({ "log": { "version": "1.2", "entries": entries } });
    fs::write(folder.join("page.har"), archive.to_string()).unwrap();
}

#[test]
fn the_same_page_from_anywhere_has_the_same_values() {
    let folder = tempfile::tempdir().unwrap();
    let (away, _) = server(&SITE, "");
    let (site, asked) = server(&SITE, &format!("{away}/visit.html"));
    saved(folder.path(), "visit.html", &["css/base.css", "css/theme.css"]);
    let expected = values(&SITE, "visit.html", &[], b"");
    let text = fs::read(SITE.join("visit.html")).unwrap();
    let (url, demo) = (format!("{site}/visit.html"), SITE.display().to_string());
    let file = format!("file://{}/visit.html", fs::canonicalize(&*SITE).unwrap().display());
    let (moved, moved_away) = (format!("{site}/moved/visit.html"), format!("{site}/away"));
    let ways: &[(&str, &[&str])] = &[
        (&url, &[]),
        (&format!("{url}?night=1#hours"), &[]),
        (&moved, &[]),
        (&moved_away, &[]),
        (&moved_away, &["--save", "away"]),
        ("away", &[]),
        (&file, &[]),
        ("-", &["--base", &demo]),
        ("-", &["--base", &url]),
        (&url, &["--save", "kept"]),
        ("kept", &[]),
        ("page.mhtml", &[]),
        ("page.har", &[]),
        ("page.har", &["--save", "unpacked"]),
        ("unpacked", &[]),
    ];
    for (page, more) in ways {
        assert!(values(folder.path(), page, more, &text) == expected, "{page} {more:?}");
    }
    // What was kept needs no network, whichever of its files is named; places are those of the files.
    let before = asked.load(Ordering::Relaxed);
    let host = site.trim_start_matches("http://").replace(':', "_");
    let kept = format!("kept/{host}/visit.html");
    let why = told(folder.path(), &["why", &kept, "h1", "color", "--short"], b"");
    assert!(why.contains(&format!("kept/{host}/css/theme.css:3:8")), "{why}");
    assert_eq!(asked.load(Ordering::Relaxed), before);
    let patch = told(folder.path(), &["try", "kept", "--set", "h1 { color: red }", "--patch"], b"");
    assert!(patch.starts_with(&format!("--- a/kept/{host}/css/theme.css\n")), "{patch}");
}

#[test]
fn every_command_takes_a_page_from_anywhere() {
    let folder = tempfile::tempdir().unwrap();
    let (site, _) = server(&SITE, "");
    saved(folder.path(), "visit.html", &["css/base.css", "css/theme.css"]);
    let (url, other) = (format!("{site}/visit.html"), format!("{site}/programme.html"));
    let cases: &[(&[&str], &str)] = &[
        (&["why", &url, "h1", "color"], &format!("{site}/css/theme.css:3:8")),
        (&["why", "page.mhtml", "visit.html:26", "color", "--short"], "page.mhtml/css/theme.css:7:10"),
        (&["why", "page.har", "h1", "color"], "page.har/css/theme.css:3:8"),
        (&["why-not", &url, "h1", "theme.css:14"], "does not take `h1#headline`"),
        (&["reach", &url, "page.har", ".card"], "hits 2 elements of 47"),
        (&["aim", &url, "h1"], "h1"),
        (&["compare", &url, &other, "h1"], "grid-column-end"),
        (&["compare", "page.mhtml", &url], "same"),
        (&["check", &url], "There is no property `colour`"),
        (&["try", &url, "--cut", "theme.css:7"], "Nothing was written.\n"),
        (&["report", &url, "-o", "r.html"], "shows why 1 page"),
    ];
    for (args, expected) in cases {
        let text = told(folder.path(), args, b"");
        assert!(text.contains(expected), "{args:?}: {text}");
    }
}

#[test]
fn what_cannot_be_had_is_told_plainly() {
    let folder = tempfile::tempdir().unwrap();
    let at = folder.path();
    let (site, _) = server(at, "");
    let write = |name: &str, text: &str| fs::write(at.join(name), text).unwrap();
    write("data.json", "{}");
    write("broken.har", "{\"log\": 1}");
    write("empty.har", "{\"log\": {\"entries\": []}}");
    write("plain.mhtml", "nothing of the kind");
    write("away.html", &format!("<link rel=stylesheet href={site}/a.css><p>x"));
    fs::create_dir(at.join("list")).unwrap();
    write("list/fetched.json", "[]");
    let (gone, data) = (format!("{site}/gone.html"), format!("{site}/data.json"));
    let cases: &[(&[&str], &str)] = &[
        (&[&gone], "the server answers with status 404"),
        (&[&data], "is no HTML page but `application/json`"),
        (&["http://127.0.0.1:1/"], "cannot be reached"),
        (&["http://10.0.0.1/"], "--private-addresses allows"),
        (&["http://user:pass@[::1]:1/"], "cannot be reached"),
        (&["file:///no/such/page.html"], "there is no file"),
        (&["broken.har"], "is no HTTP Archive"),
        (&["empty.har"], "no HTML page is in `empty.har`"),
        (&["plain.mhtml"], "is no saved page"),
        (&["list"], "lists no page"),
        (&["-", "--base", "nowhere"], "the base `nowhere` is no folder"),
        (&["away.html", "--base", "."], "--base is for a page from standard input"),
    ];
    for (page, expected) in cases {
        let mut args = vec!["why", page[0], "p", "color"];
        args.extend(&page[1..]);
        let why = refused(at, &args);
        assert!(why.contains(expected), "{args:?}: {why}");
    }
    let patch = refused(at, &["try", "-", "--set", "p { color: red }", "--patch"]);
    assert!(patch.contains("empty") || patch.contains("no file that a patch could change"), "{patch}");
    // A page in a file reaches nothing on this machine, however it asks.
    let page = told(at, &["why", "away.html", "p", "color", "--fetch"], b"");
    assert!(page.contains("is at a private address"), "{page}");
}

#[test]
fn saved_pages_of_all_kinds_are_read() {
    let folder = tempfile::tempdir().unwrap();
    let at = folder.path();
    let write = |name: &str, text: &str| fs::write(at.join(name), text.replace('\n', "\r\n")).unwrap();
    write(
        "relative.mht",
        "MIME-Version: 1.0\nContent-Type: multipart/related; boundary=x\n\n--x\nContent-Type: text/html
Content-Transfer-Encoding: quoted-printable\n
<link rel=3Dstylesheet href=3D\"a/b.css\"><link rel=3Dstylesheet href=3D\"cid:one@two\"><p>caf=C3=A9
--x\nContent-Type: text/css\nContent-Location: a/b.css\n\np { color: red }
--x\nContent-Type: text/css; charset=iso-8859-1\nContent-ID: <one@two>\nContent-Transfer-Encoding: quoted-printable\n
p::before { content: \"=E9\" }\n--x--\n",
    );
    write(
        "nested.mhtml",
        "MIME-Version: 1.0\nContent-Type: multipart/mixed; boundary=o\n\n--o\nContent-Type: multipart/related; boundary=r\n
--r\nContent-Type: text/html; charset=utf-8\nContent-Location: http://s.example/d/\n
<base href=\"/e/\"><link rel=stylesheet href=c.css><p>x
--r\nContent-Type: text/css\nContent-Location: http://s.example/e/c.css\n\np { color: teal }\n--r--\n--o--\n",
    );
    let page = json!({ "mimeType": "text/html", "text": "<link rel=stylesheet href=//t.example/a.css><p>x" });
    let sheet = json!({ "mimeType": "text/css", "text": "p { color: teal }" });
    let entry = |url: &str, status: u16, content: &Value| json!({ "request": { "url": url }, "response": { "status": status, "content": content } });
    let entries = [
        entry("about:blank", 0, &json!({})),
        entry("https://s.example/old", 404, &page),
        entry("https://s.example/#x", 200, &page),
        entry("https://t.example/a.css", 200, &sheet),
        entry("https://s.example/i.png", 200, &json!({ "mimeType": "image/png", "text": "!", "encoding": "base64" })),
    ];
    write("two.har", &format!("\u{feff}{}", json!({ "log": { "version": "1.2", "entries": entries } })));
    let cases = [
        ("relative.mht", "p", "color", "rgb(255, 0, 0), set by `p` in relative.mht/a/b.css:1:5."),
        ("relative.mht", "p::before", "content", "\"é\", set by `p::before` in relative.mht/cid:one@two:1:13."),
        ("relative.mht", "relative.mht:1:77", "color", "café"),
        ("nested.mhtml", "p", "color", "rgb(0, 128, 128), set by `p` in nested.mhtml/e/c.css:1:5."),
        ("nested.mhtml", "nested.mhtml/d:1:50", "color", "rgb(0, 128, 128)"),
        ("two.har", "p", "color", "rgb(0, 128, 128), set by `p` in two.har/t.example/a.css:1:5."),
        ("two.har", "two.har:1:45", "color", "rgb(0, 128, 128)"),
    ];
    for (page, element, property, expected) in cases {
        let text = told(at, &["why", page, element, property, "--short"], b"");
        assert!(text.contains(expected), "{page} {element}: {text}");
    }
}

#[test]
fn what_is_kept_stays_in_its_folder() {
    let folder = tempfile::tempdir().unwrap();
    let served = tempfile::tempdir().unwrap();
    fs::write(served.path().join("a.html"), "<link rel=stylesheet href='..%2f..%2fx.css?a=../../b'><link rel=stylesheet href=a.css?1><link rel=stylesheet href=a.css?2><p>x").unwrap();
    fs::write(served.path().join("a.css"), "p { color: navy }").unwrap();
    let (site, _) = server(served.path(), "");
    told(folder.path(), &["why", &format!("{site}/a.html"), "p", "color", "--save", "in/kept"], b"");
    let list: Value = serde_json::from_slice(&fs::read(folder.path().join("in/kept/fetched.json")).unwrap()).unwrap();
    let files: Vec<&str> = list.as_array().unwrap().iter().map(|k| k["file"].as_str().unwrap()).collect();
    assert!(files.len() == 3 && files[0].ends_with("/a.html"), "{files:?}");
    assert!(files.iter().all(|f| !f.contains("..") && folder.path().join("in/kept").join(f).is_file()), "{files:?}");
    // Nor does a list lead out of it.
    fs::write(folder.path().join("secret.css"), "p { color: gold }").unwrap();
    let out = json!([
        { "url": "http://x.example/", "file": files[0], "content_type": "text/html" },
        { "url": "http://x.example/a.css?1", "file": "../../secret.css", "content_type": "text/css" },
    ]);
    fs::write(folder.path().join("in/kept/fetched.json"), out.to_string()).unwrap();
    let why = told(folder.path(), &["why", "in/kept", "p", "color"], b"");
    assert!(why.contains("rgb(0, 0, 0)") && why.contains("not among what was kept"), "{why}");
}

/// A driver with a session of a browser; both end with it.
struct Session(std::process::Child, String);

impl Session {
    /// Starts both.
    fn start() -> Self {
        let port = TcpListener::bind("127.0.0.1:0").unwrap().local_addr().unwrap().port();
        let driver = Command::new("chromedriver").arg(format!("--port={port}")).stdout(Stdio::null()).spawn().unwrap();
        let base = format!("http://127.0.0.1:{port}/session");
        let options = json!({ "args": ["--headless=new", "--no-sandbox", "--disable-gpu", "--disable-dev-shm-usage"] });
        let body = json!({ "capabilities": { "alwaysMatch": { "goog:chromeOptions": options } } }).to_string();
        for _ in 0..100 {
            std::thread::sleep(std::time::Duration::from_millis(100));
            let Ok(mut answer) = ureq::post(&base).send(&body) else { continue };
            let answer: Value = serde_json::from_str(&answer.body_mut().read_to_string().unwrap()).unwrap();
            return Self(driver, format!("{base}/{}", answer["value"]["sessionId"].as_str().unwrap()));
        }
        panic!("the driver does not start");
    }
}

impl Drop for Session {
    fn drop(&mut self) {
        let _ = ureq::delete(&self.1).call();
        let _ = self.0.kill();
        let _ = self.0.wait();
    }
}

#[test]
#[ignore = "needs chromium and chromedriver"]
fn a_browser_bears_witness() {
    let session = Session::start();
    let folder = tempfile::tempdir().unwrap();
    saved(folder.path(), "visit.html", &["css/base.css", "css/theme.css"]);
    let (site, _) = server(&SITE, "");
    let ask = |folder: &Path, args: &[&str], status: i32| {
        let output = run(folder, &[args, &["--witness", &session.1, "--fail-on-difference"]].concat(), b"");
        let (out, err) = (String::from_utf8_lossy(&output.stdout), String::from_utf8_lossy(&output.stderr));
        assert_eq!(output.status.code(), Some(status), "{args:?}: {out}{err}");
        format!("{out}{err}")
    };
    let url = format!("{site}/visit.html");
    for (args, expected) in [
        (&["why", "visit.html", ".hours td", "color"][..], "agrees: it computes the same value."),
        (&["why", "index.html", "h1, h2", "margin", "width", "--viewport", "420x800"], "the same 15 values."),
        (&["why", &url, "li::before", "width"], "gives no computed value"),
        (&["why", &url, "h1", "line-height"], "agrees"),
        (&["why", "programme.html", "html", "--moonlight"], "agrees"),
    ] {
        let text = ask(&SITE, args, 0);
        assert!(text.contains(expected), "{args:?}: {text}");
    }
    assert!(ask(folder.path(), &["why", "page.mhtml", "h1", "color"], 0).contains("agrees"));
    let shadow =
        "<!DOCTYPE html><div><template shadowrootmode=open><style>b { color: red }</style><b>x</b></template></div>";
    fs::write(folder.path().join("shadow.html"), shadow).unwrap();
    let text = ask(folder.path(), &["why", "shadow.html", "'\"x\"'".trim_matches('\''), "color"], 0);
    assert!(text.contains("gives no computed value"), "{text}");
    // On all values of a page, what differs is known.
    let text = ask(&SITE, &["values", "visit.html"], 1);
    let rest = &text[text.find("The browser").unwrap()..];
    let differing: Vec<&str> = rest
        .lines()
        .filter(|line| line.contains(" here, "))
        .filter_map(|line| line.strip_prefix("  `")?.split('`').next())
        .collect();
    assert!(!differing.is_empty() && differing.iter().all(|p| ["border-spacing", "speak"].contains(p)), "{rest}");
    assert!(rest.contains("docs/departures.md: `speak` is `auto` at first"), "{rest}");
    // A trial is shown as it would be.
    let text =
        ask(&SITE, &["try", "visit.html", "--set", ".muted { color: red; margin: 3px }", "--cut", "theme.css:3:8"], 1);
    assert!(text.contains("agrees on") && !text.contains("`color` on"), "{text}");
    // What it cannot be told is refused.
    for (more, why) in [
        (&["--hover", "a"][..], "`--hover` cannot be told"),
        (&["--media", "print"], "`--media print` cannot be told"),
        (&["--prefer", "color-scheme=dark"], "`(prefers-color-scheme: dark)` does not hold there"),
    ] {
        let text = ask(&SITE, &[&["why", "visit.html", "h1", "color"], more].concat(), 2);
        assert!(text.contains(why), "{text}");
    }
}

#[test]
#[ignore = "needs chromium and chromedriver"]
fn a_page_is_taken_as_it_stands_in_a_browser() {
    let session = Session::start();
    let (folder, kept) = (tempfile::tempdir().unwrap(), tempfile::tempdir().unwrap());
    let page = "<!DOCTYPE html><link rel=stylesheet href=a.css><style>p { color: navy }</style><style id=off>p { top: 9px }</style>
<p id=one title='a &amp; \"b\"'>One &lt; two</p><input type=checkbox id=box><label for=box>B</label><div id=host></div><ul></ul><pre>

x</pre>
<script>
document.styleSheets[1].insertRule('p { color: teal }', 1);
document.styleSheets[0].insertRule('#one { font-size: 30px }', 1);
document.querySelector('#off').sheet.disabled = true;
document.querySelector('#box').checked = true;
const one = new CSSStyleSheet();
one.replaceSync('ul li { color: rgb(1, 2, 3) }');
document.adoptedStyleSheets = [one];
document.querySelector('ul').innerHTML = '<li class=new>made by a script';
const root = document.querySelector('#host').attachShadow({ mode: 'open' });
root.innerHTML = '<style>b { color: lime }</style><b>in</b>';
const two = new CSSStyleSheet();
two.replaceSync('b { font-style: italic }');
root.adoptedStyleSheets = [two];
</script>";
    fs::write(folder.path().join("index.html"), page).unwrap();
    fs::write(folder.path().join("a.css"), "p { margin: 3px }\n:checked + label { color: red }\n").unwrap();
    let (site, _) = server(folder.path(), "");
    let url = format!("{site}/index.html");
    let cases: &[(&str, &str, &str)] = &[
        ("#one", "color", "rgb(0, 128, 128)"),
        ("#one", "font-size", "30px"),
        ("#one", "margin-top", "3px"),
        ("#one", "top", "auto"),
        ("label", "color", "rgb(255, 0, 0)"),
        ("li.new", "color", "rgb(1, 2, 3)"),
        ("\"One < two\"", "color", "rgb(0, 128, 128)"),
        ("[title='a & \"b\"']", "color", "rgb(0, 128, 128)"),
    ];
    // Opened by its URL first; then what the session shows.
    for (i, (element, property, value)) in cases.iter().enumerate() {
        let page = if i == 0 { &*url } else { "-" };
        let text = told(kept.path(), &["why", page, element, property, "--browser", &session.1, "--save", "kept"], b"");
        assert!(text.contains(&format!("is {value}")), "{element} {property}: {text}");
        assert!(text.contains("kept/127.0.0.1_"), "{text}");
    }
    // Asked again without the browser, places and values are the same; the shadow tree came with it.
    let text = told(kept.path(), &["why", "kept", "li.new", "color"], b"");
    assert!(text.contains("is rgb(1, 2, 3)"), "{text}");
    let saved = fs::read_to_string(
        kept.path().join(format!("kept/{}/index.html", site.trim_start_matches("http://").replace(':', "_"))),
    )
    .unwrap();
    for part in [
        "<template shadowrootmode=\"open\"><style>b { color: lime }</style><b>in</b><style>b { font-style: italic; }</style></template>",
        "<pre>\n\nx</pre>",
        "checked=\"\"",
        "<style id=\"off\"></style>",
    ] {
        assert!(saved.contains(part), "{part}: {saved}");
    }
}

#[test]
fn a_driver_that_is_none_is_told() {
    let (site, _) = server(&SITE, "");
    for (driver, why) in [("http://127.0.0.1:1", "cannot be used"), (&*site, "does not speak WebDriver")] {
        let text = refused(&SITE, &["why", "visit.html", "h1", "color", "--witness", driver]);
        assert!(text.contains(why), "{text}");
        let text = refused(&SITE, &["why", "visit.html", "h1", "color", "--browser", driver]);
        assert!(text.contains(why), "{text}");
    }
}
