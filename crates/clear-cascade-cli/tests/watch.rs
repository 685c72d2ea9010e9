//! `--watch`: save, look, save.

use std::fs;
use std::io::Read as _;
use std::path::Path;
use std::process::{Child, Command, Stdio};
use std::sync::mpsc::{self, Receiver};
use std::time::{Duration, Instant};

/// A program that watches, and what it prints.
struct Watching(Child, Receiver<Vec<u8>>);

impl Watching {
    /// Starts it in a folder.
    fn start(folder: &Path, args: &[&str]) -> Self {
        let mut program = Command::new(env!("CARGO_BIN_EXE_clear-cascade"));
        let mut child = program.current_dir(folder).args(args).arg("--watch").stdout(Stdio::piped()).spawn().unwrap();
        let mut out = child.stdout.take().unwrap();
        let (tell, told) = mpsc::channel();
        std::thread::spawn(move || {
            let mut piece = [0; 4096];
            while let Ok(length @ 1..) = out.read(&mut piece) {
                let _ = tell.send(piece[..length].to_vec());
            }
        });
        Self(child, told)
    }

    /// What it prints until a text is there.
    fn until(&self, text: &str) -> String {
        let (start, mut found) = (Instant::now(), Vec::new());
        while start.elapsed() < Duration::from_secs(20) {
            found.extend(self.1.recv_timeout(Duration::from_millis(50)).unwrap_or_default());
            let so_far = String::from_utf8_lossy(&found);
            if so_far.contains(text) && so_far.ends_with('\n') {
                return so_far.into_owned();
            }
        }
        panic!("`{text}` does not come: {}", String::from_utf8_lossy(&found));
    }
}

impl Drop for Watching {
    fn drop(&mut self) {
        let _ = self.0.kill();
        let _ = self.0.wait();
    }
}

#[test]
fn an_answer_follows_the_files() {
    let folder = tempfile::tempdir().unwrap();
    let write = |name: &str, text: &str| fs::write(folder.path().join(name), text).unwrap();
    write("a.html", "<link rel=stylesheet href=a.css><p>x");
    write("a.css", "p { color: navy }");
    let watching = Watching::start(folder.path(), &["why", "a.html", "p", "color", "--short"]);
    let first = watching.until("2 files are watched");
    assert!(first.starts_with("`color` is rgb(0, 0, 128)"), "{first}");
    write("a.css", "p { color: gold }");
    let second = watching.until("▸ `color` is rgb(255, 215, 0)");
    assert!(second.contains("a.css changed: 1 line new, marked ▸."), "{second}");
    assert!(second.contains("\n  p \"x\" is @"), "{second}");
    // Another file in its place, as many editors save.
    write("b.css", "p { color: teal }");
    fs::rename(folder.path().join("b.css"), folder.path().join("a.css")).unwrap();
    watching.until("▸ `color` is rgb(0, 128, 128)");
    write("a.css", "p { color: teal; }");
    watching.until("a.css changed: the answer is the same.");
    // What is wrong meanwhile is told, and mended.
    write("a.html", "<link rel=stylesheet href=a.css><b>x");
    watching.until("takes no element of the page");
    write("a.html", "<link rel=stylesheet href=a.css><p>x");
    watching.until("▸ `color` is rgb(0, 128, 128)");
    fs::remove_file(folder.path().join("a.css")).unwrap();
    watching.until("▸ `color` is rgb(0, 0, 0)");
    fs::remove_file(folder.path().join("a.html")).unwrap();
    watching.until("there is no file `a.html`");
    std::thread::sleep(Duration::from_millis(300));
    assert!(watching.1.try_recv().is_err(), "asked again though nothing changed");
    write("a.css", "p { color: olive }");
    write("a.html", "<link rel=stylesheet href=a.css><p>x");
    watching.until("▸ `color` is rgb(128, 128, 0)");
}

#[test]
fn other_commands_watch_too_and_json_stays_json() {
    let folder = tempfile::tempdir().unwrap();
    let write = |text: &str| fs::write(folder.path().join("a.html"), text).unwrap();
    write("<style>p { colour: red }</style><p>x");
    let check = Watching::start(folder.path(), &["check", "a.html"]);
    let json = Watching::start(folder.path(), &["why", "a.html", "p", "color", "--format", "json"]);
    check.until("1 file is watched");
    let first: serde_json::Value = serde_json::from_str(&json.until("}\n")).unwrap();
    assert_eq!(first["value"], "rgb(0, 0, 0)");
    write("<style>p { color: red }</style><p>x");
    check.until("Nothing is found");
    let second: serde_json::Value = serde_json::from_str(&json.until("}\n")).unwrap();
    assert_eq!(second["value"], "rgb(255, 0, 0)");
}
