//! Two loaders of one's own: one that keeps a journal of what a page asks for, and one that puts a text in the place of a file, as
//! an editor does with what is not saved yet. `cargo run --example loaders -p clear-cascade -- demo index.html css/theme.css`.

use std::sync::Mutex;

use clear_cascade::source::{LoadError, Loaded, Url};
use clear_cascade::{FileLoader, Loader, Study};

/// What goes wrong is told as it is.
type Result<T> = std::result::Result<T, Box<dyn std::error::Error>>;

/// Passes on, and writes down what was asked for and whether it was there.
struct Journal<L> {
    /// What has the files.
    inner: L,
    /// What was asked for so far.
    asked: Mutex<Vec<String>>,
}

impl<L: Loader> Loader for Journal<L> {
    fn load(&self, url: &Url) -> std::result::Result<Loaded, LoadError> {
        let loaded = self.inner.load(url);
        let told = loaded.as_ref().map_or_else(ToString::to_string, |l| format!("{} bytes", l.bytes.len()));
        self.asked.lock().unwrap_or_else(|e| e.into_inner()).push(format!("{}: {told}", url.path()));
        loaded
    }
}

/// Passes on, but for one path.
struct Unsaved<'u, L> {
    /// What has the other files.
    inner: L,
    /// The path from the top of the site, and the text that stands there.
    text: (&'u str, &'u str),
}

impl<L: Loader> Loader for Unsaved<'_, L> {
    fn load(&self, url: &Url) -> std::result::Result<Loaded, LoadError> {
        let here = url.path().trim_start_matches('/') == self.text.0;
        if here { Ok(Loaded::new(self.text.0, self.text.1)) } else { self.inner.load(url) }
    }
}

fn main() -> Result<()> {
    let args: Vec<String> = std::env::args().skip(1).collect();
    let word = |i: usize, default: &str| args.get(i).cloned().unwrap_or_else(|| default.to_owned());
    print!("{}", answer(&word(0, "demo"), &word(1, "index.html"), &word(2, "css/theme.css"))?);
    Ok(())
}

/// What the page asks for, and the colour of its text once the sheet is emptied.
pub fn answer(root: &str, page: &str, sheet: &str) -> Result<String> {
    let loader =
        Journal { inner: Unsaved { inner: FileLoader::new(root), text: (sheet, "") }, asked: Mutex::default() };
    let study = Study::open(&loader, page)?;
    let color = study.value(study.select("body")?[0], "color").unwrap_or_default();
    let asked = loader.asked.into_inner()?.join("\n");
    Ok(format!("{asked}\nwithout {sheet}, text is {color}\n"))
}
