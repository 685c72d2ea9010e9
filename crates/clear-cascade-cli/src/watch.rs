//! `--watch`: the same question again whenever a file of the page changes.

use std::collections::{BTreeMap, BTreeSet};
use std::io::{self, Write};
use std::path::{Path, PathBuf};
use std::sync::{Mutex, PoisonError, mpsc};
use std::time::{Duration, SystemTime};

use clear_cascade::Study;
use notify::{RecommendedWatcher, RecursiveMode, Watcher as _};
use similar::{ChangeTag, TextDiff};

use crate::failure::Refusal;
use crate::paint::{ANSWER, QUIET, paint};

/// How long after a change further ones are taken to belong to it: editors write a file in several steps.
const TOGETHER: Duration = Duration::from_millis(60);
/// What stands before a line that was not there the last time.
const NEW: &str = "▸ ";

/// When a file was last written, and its length.
type Stamp = Option<(SystemTime, u64)>;

/// The files that questions have read, wherever in the program they were opened, as they were then.
static FILES: Mutex<BTreeMap<PathBuf, Stamp>> = Mutex::new(BTreeMap::new());

/// How a file is now.
fn stamp(file: &Path) -> Stamp {
    let known = std::fs::metadata(file).ok()?;
    Some((known.modified().ok()?, known.len()))
}

/// Remembers the files that a page is made of.
pub(crate) fn remember(study: &Study) {
    let mut files = FILES.lock().unwrap_or_else(PoisonError::into_inner);
    let names = study.sources().iter().map(|(_, source)| Path::new(&source.name));
    let found = names.filter_map(|name| std::fs::canonicalize(name).ok()).filter(|file| file.is_file());
    files.extend(found.map(|file| (file.clone(), stamp(&file))));
}

/// Asks until nothing can be watched any more. `ask` writes the answer, and what is wrong, and gives the exit status.
pub(crate) fn repeat(out: &mut dyn Write, ask: &mut dyn FnMut(&mut Vec<u8>) -> u8) -> Result<u8, Refusal> {
    let mut changes = Changes::new()?;
    let mut before: Option<String> = None;
    let mut changed: Option<PathBuf> = None;
    loop {
        // Those that are not read this time, since they are gone, say, count as they are now.
        for (file, was) in FILES.lock().unwrap_or_else(PoisonError::into_inner).iter_mut() {
            *was = stamp(file);
        }
        let mut answer = Vec::new();
        let status = ask(&mut answer);
        let answer = String::from_utf8_lossy(&answer).into_owned();
        let files = FILES.lock().unwrap_or_else(PoisonError::into_inner).clone();
        let text = if files.is_empty() {
            answer.clone()
        } else {
            page(&answer, before.as_deref(), changed.as_deref(), files.len())
        };
        match out.write_all(text.as_bytes()).and_then(|()| out.flush()) {
            Ok(()) => {}
            // Who reads it is gone.
            Err(e) if e.kind() == io::ErrorKind::BrokenPipe => return Ok(status),
            Err(e) => return Err(Refusal::new(format!("the answer cannot be written: {e}"))),
        }
        if files.is_empty() {
            return match status {
                0 => Err(Refusal::new("there is no file to watch: the page is not in files")),
                status => Ok(status),
            };
        }
        before = Some(answer);
        changed = Some(changes.wait(&files)?);
    }
}

/// What is shown: what is new in it is marked.
fn page(answer: &str, before: Option<&str>, changed: Option<&Path>, files: usize) -> String {
    // For programs each answer is as it is.
    if answer.starts_with(['{', '[']) {
        return answer.to_owned();
    }
    let Some(before) = before else {
        let files = if files == 1 { "1 file is".to_owned() } else { format!("{files} files are") };
        let told = format!("{files} watched; Ctrl+C ends.");
        return format!("{answer}\n{}\n", paint(QUIET, told));
    };
    let name = changed.and_then(Path::file_name).map(|name| name.to_string_lossy().into_owned());
    let name = name.unwrap_or_default();
    let diff = TextDiff::from_lines(before, answer);
    let (mut text, mut new, mut gone) = (String::new(), 0, 0);
    for change in diff.iter_all_changes() {
        match change.tag() {
            ChangeTag::Insert => {
                new += 1;
                text.push_str(&format!("{}{}", paint(ANSWER, NEW), change.value()));
            }
            ChangeTag::Equal => text.push_str(&format!("  {}", change.value())),
            ChangeTag::Delete => gone += 1,
        }
    }
    let lines = |n: usize| if n == 1 { "1 line".to_owned() } else { format!("{n} lines") };
    let what = match (new, gone) {
        (0, 0) => "the answer is the same".to_owned(),
        (0, gone) => format!("{} gone", lines(gone)),
        (new, _) => format!("{} new, marked {}", lines(new), NEW.trim()),
    };
    // The screen is cleared, and what is above it too; where it is none, a line parts the answers.
    format!("\u{1b}[2J\u{1b}[3J\u{1b}[H{}\n\n{text}", paint(QUIET, format!("{name} changed: {what}.")))
}

/// What tells of changes.
struct Changes {
    /// What the system calls.
    watcher: RecommendedWatcher,
    /// What it told.
    told: mpsc::Receiver<notify::Result<notify::Event>>,
    /// The folders that are watched.
    folders: BTreeSet<PathBuf>,
}

/// That nothing can be watched.
fn refused(e: &dyn std::fmt::Display) -> Refusal {
    Refusal::new(format!("the files cannot be watched: {e}"))
}

impl Changes {
    /// Nothing watched yet.
    fn new() -> Result<Self, Refusal> {
        let (tell, told) = mpsc::channel();
        let watcher = notify::recommended_watcher(tell).map_err(|e| refused(&e))?;
        Ok(Self { watcher, told, folders: BTreeSet::new() })
    }

    /// Waits until one of some files is not as it was read; gives it.
    fn wait(&mut self, files: &BTreeMap<PathBuf, Stamp>) -> Result<PathBuf, Refusal> {
        // Many editors put another file in the place of one: folders tell of that.
        for folder in files.keys().filter_map(|file| file.parent()) {
            if self.folders.insert(folder.to_owned()) {
                self.watcher.watch(folder, RecursiveMode::NonRecursive).map_err(|e| refused(&e))?;
            }
        }
        loop {
            // What changed before it was watched is told by nobody.
            if let Some((file, _)) = files.iter().find(|(file, was)| stamp(file) != **was) {
                while self.told.recv_timeout(TOGETHER).is_ok() {}
                return Ok(file.clone());
            }
            self.told.recv().map_err(|e| refused(&e))?.map_err(|e| refused(&e))?;
        }
    }
}
