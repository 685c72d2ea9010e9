//! From arguments to a study of a page.

use std::collections::HashMap;
use std::fs;
use std::io::Read as _;
use std::path::{Path, PathBuf};
use std::sync::{Arc, Mutex, PoisonError};

use clear_cascade::answer::{LocateError, Located};
use clear_cascade::{FileLoader, Medium, Options, Site, States, Study};

use crate::args::{self, Seen};
use crate::web::{Fetch, Web};

/// Why a request cannot be carried out: one message, with the text it is about where there is one.
#[derive(Debug)]
pub(crate) struct Refusal {
    /// What is wrong, as one clause.
    pub(crate) message: String,
    /// What was probably meant.
    pub(crate) hint: Option<String>,
    /// The text of the question, and the bytes of it that are wrong.
    pub(crate) part: Option<(String, std::ops::Range<usize>)>,
}

impl Refusal {
    /// A message alone.
    pub(crate) fn new(message: impl Into<String>) -> Self {
        Self { message: message.into(), hint: None, part: None }
    }
}

impl From<LocateError> for Refusal {
    fn from(error: LocateError) -> Self {
        match error {
            LocateError::Selector { error, text } => {
                let range = error.span.start as usize..error.span.end as usize;
                Self { message: error.message, hint: error.hint, part: Some((text, range)) }
            }
            LocateError::Nothing { selector, hint } => {
                Self { message: format!("`{selector}` takes no element of the page"), hint, part: None }
            }
            other => Self::new(other.to_string()),
        }
    }
}

/// Opens the page of a question.
pub(crate) fn study(page: &Path, seen: &Seen) -> Result<Study, Refusal> {
    Ok(page_with_files(page, seen)?.0)
}

/// Opens the page of a question, with what its files come from.
pub(crate) fn page_with_files(page: &Path, seen: &Seen) -> Result<(Study, Web), Refusal> {
    let (files, path) = placed(page, seen)?;
    let loader = Web::new(files, fetch(seen));
    let study = Study::open_with(&loader, &path, &options(seen)?).map_err(|e| Refusal::new(e.to_string()))?;
    Ok((in_states(study, seen)?, loader))
}

/// The sites of the pages of a question, which share their sheets.
pub(crate) struct Sites<'s> {
    /// What pages are seen with.
    seen: &'s Seen,
    /// The same as options.
    options: Options,
    /// By the folder at the top, the sites met so far.
    open: Mutex<HashMap<PathBuf, Arc<Site<Web>>>>,
}

impl<'s> Sites<'s> {
    /// No sites yet.
    pub(crate) fn new(seen: &'s Seen) -> Result<Self, Refusal> {
        Ok(Self { seen, options: options(seen)?, open: Mutex::default() })
    }

    /// Opens a page beside the others of its site.
    pub(crate) fn page(&self, page: &Path) -> Result<(Study, Arc<Site<Web>>), Refusal> {
        let (files, path) = placed(page, self.seen)?;
        let root = files.root().to_owned();
        let new = || Arc::new(Site::with(Web::new(files, fetch(self.seen)), self.options.clone()));
        let site = self.open.lock().unwrap_or_else(PoisonError::into_inner).entry(root).or_insert_with(new).clone();
        let study = site.page(&path).map_err(|e| Refusal::new(e.to_string()))?;
        Ok((in_states(study, self.seen)?, site))
    }
}

/// What the files of a page come from, and the path of the page there.
fn placed(page: &Path, seen: &Seen) -> Result<(FileLoader, String), Refusal> {
    let file = page_file(page)?;
    let files = match &seen.root {
        Some(root) if !root.is_dir() => {
            return Err(Refusal::new(format!("the root `{}` is no folder", root.display())));
        }
        root => files_of(&file, root.as_deref()),
    };
    let path = files.path_of(&file).ok_or_else(|| {
        let root = files.root().display();
        Refusal::new(format!("the page `{}` is not below the root `{root}`", file.display()))
    })?;
    Ok((files, path))
}

/// What may be fetched for a question.
fn fetch(seen: &Seen) -> Fetch {
    match (seen.fetch, seen.private_addresses) {
        (false, _) => Fetch::Nothing,
        (true, false) => Fetch::Public,
        (true, true) => Fetch::Any,
    }
}

/// How large a file of a request may be: beyond any sheet or list, and an end to a device that has none.
const LARGEST: u64 = 256 << 20;

/// The text of a file of a request.
pub(crate) fn read(file: &Path) -> Result<String, Refusal> {
    let refused = |reason: String| Refusal::new(format!("`{}` cannot be read: {reason}", file.display()));
    let opened = fs::File::open(file).map_err(|e| refused(e.to_string()))?;
    let mut text = String::new();
    let read = opened.take(LARGEST + 1).read_to_string(&mut text).map_err(|e| refused(e.to_string()))?;
    if read as u64 > LARGEST { Err(refused(format!("it is larger than {} MiB", LARGEST >> 20))) } else { Ok(text) }
}

/// What pages are opened with.
fn options(seen: &Seen) -> Result<Options, Refusal> {
    let mut options = Options::default();
    options.viewing.medium = match seen.media {
        args::Medium::Screen => Medium::Screen,
        args::Medium::Print => Medium::Print,
    };
    (options.viewing.width, options.viewing.height) = seen.viewport;
    options.viewing.preferences.extend(seen.prefer.iter().cloned());
    options.alternate.clone_from(&seen.alternate);
    for sheet in &seen.user_sheet {
        let text = read(sheet)?;
        options.user_sheets.push((sheet.display().to_string(), text));
    }
    Ok(options)
}

/// The page in the states that were asked for.
fn in_states(study: Study, seen: &Seen) -> Result<Study, Refusal> {
    let titles = study.alternates();
    if let Some(title) = seen.alternate.as_ref().filter(|t| !titles.contains(t)) {
        let known = if titles.is_empty() { "the page has none".to_owned() } else { titles.join(", ") };
        return Err(Refusal::new(format!("there is no set of styles with the title `{title}`: {known}")));
    }
    let states = states(&study, seen)?;
    if states == States::default() {
        return Ok(study);
    }
    let mut viewing = study.viewing().clone();
    viewing.states = states;
    study.seen_with(viewing).map_err(|e| Refusal::new(e.to_string()))
}

/// The path of a file from the top of the site of a page.
pub(crate) fn path_in_site(file: &Path, page: &Path, seen: &Seen) -> Result<String, Refusal> {
    let files = files_of(page, seen.root.as_deref());
    let root = files.root().display();
    files.path_of(file).ok_or_else(|| Refusal::new(format!("`{}` is no file below the root `{root}`", file.display())))
}

/// The files of the site of a page: those below the root, where one is named.
fn files_of(page: &Path, root: Option<&Path>) -> FileLoader {
    root.map_or_else(|| FileLoader::around(page, Path::new(".")), FileLoader::new)
}

/// The states that are asked for.
fn states(study: &Study, seen: &Seen) -> Result<States, Refusal> {
    let all = |names: &[String]| -> Result<Vec<_>, Refusal> {
        let found: Result<Vec<Located>, LocateError> = names.iter().map(|n| study.locate(n)).collect();
        Ok(found?.into_iter().flat_map(|l| l.elements).collect())
    };
    Ok(States {
        hover: all(&seen.hover)?,
        active: all(&seen.active)?,
        focus: all(&seen.focus)?,
        visited: all(&seen.visited)?,
        target: all(&seen.target)?,
    })
}

/// Refuses pages that are not there, before anything is answered about the others.
pub(crate) fn all_there<'p>(pages: impl IntoIterator<Item = &'p PathBuf>) -> Result<(), Refusal> {
    pages.into_iter().try_for_each(|page| page_file(page).map(|_| ()))
}

/// The file of a page; for a folder its `index.html`.
fn page_file(given: &Path) -> Result<PathBuf, Refusal> {
    if !given.is_dir() {
        return match fs::metadata(given) {
            Ok(_) => Ok(given.to_owned()),
            Err(_) => Err(missing(given)),
        };
    }
    let index = given.join("index.html");
    if index.is_file() {
        return Ok(index);
    }
    let pages = pages_in(given);
    Err(if pages.is_empty() {
        Refusal::new(format!("`{}` is a folder without pages", given.display()))
    } else {
        Refusal {
            hint: Some(format!("name one of its pages: {}", pages.join(", "))),
            ..Refusal::new(format!("`{}` is a folder", given.display()))
        }
    })
}

/// The refusal for a page that is not there, with the pages that are.
fn missing(given: &Path) -> Refusal {
    let folder = given.parent().filter(|p| !p.as_os_str().is_empty()).unwrap_or(Path::new("."));
    let pages = pages_in(folder);
    let hint = (!pages.is_empty()).then(|| format!("pages in `{}`: {}", folder.display(), pages.join(", ")));
    Refusal { hint, ..Refusal::new(format!("there is no file `{}`", given.display())) }
}

/// Up to five HTML files of a folder.
fn pages_in(folder: &Path) -> Vec<String> {
    let entries = fs::read_dir(folder).into_iter().flatten().flatten();
    let mut names: Vec<String> = entries.map(|e| e.file_name().to_string_lossy().into_owned()).collect();
    names.retain(|n| n.ends_with(".html") || n.ends_with(".htm"));
    names.sort();
    names.truncate(5);
    names
}
