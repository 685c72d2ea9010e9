//! Reads along while files change, and tells what each change does to the page:
//! `cargo run --example watch -p clear-cascade -- demo index.html`.

use std::io::Write;
use std::path::Path;
use std::time::{Duration, SystemTime};

use clear_cascade::source::SourceKind;
use clear_cascade::{FileLoader, Study};

/// What goes wrong is told as it is.
type Result<T> = std::result::Result<T, Box<dyn std::error::Error>>;

fn main() -> Result<()> {
    let args: Vec<String> = std::env::args().skip(1).collect();
    let word = |i: usize, default: &str| args.get(i).cloned().unwrap_or_else(|| default.to_owned());
    watch(&word(0, "demo"), &word(1, "index.html"), usize::MAX, &mut std::io::stdout())
}

/// Waits for so many changes of the page or its sheets, and tells of each.
pub fn watch(root: &str, page: &str, changes: usize, out: &mut dyn Write) -> Result<()> {
    let files = FileLoader::new(root);
    let mut study = Study::open(&files, page)?;
    let mut seen = newest(&study);
    writeln!(out, "watching {page}")?;
    for _ in 0..changes {
        while newest(&study) == seen {
            std::thread::sleep(Duration::from_millis(100));
        }
        seen = newest(&study);
        // A file that is being written may be broken for a moment: the next change tells.
        let Ok(now) = Study::open(&files, page) else { continue };
        let compared = study.compare(&now);
        writeln!(out, "{}", compared.sentence)?;
        for change in compared.changes.iter().filter(|c| !c.echo).take(10) {
            writeln!(
                out,
                "  {} {}: {} -> {}, {}",
                change.label, change.property, change.before, change.after, change.by
            )?;
        }
        study = now;
    }
    Ok(())
}

/// When and how large the page and its sheets were written last.
fn newest(study: &Study) -> Vec<(Option<SystemTime>, u64)> {
    let own = study.sources().iter().filter(|(_, s)| matches!(s.kind, SourceKind::Page | SourceKind::Sheet));
    let state =
        |name: &str| std::fs::metadata(Path::new(name)).map(|m| (m.modified().ok(), m.len())).unwrap_or_default();
    own.map(|(_, s)| state(&s.name)).collect()
}
