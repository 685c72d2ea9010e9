//! From arguments to a study of a page.

use std::collections::HashMap;
use std::fs;
use std::io::Read as _;
use std::path::{Path, PathBuf};
use std::sync::{Arc, Mutex, OnceLock, PoisonError};

use clear_cascade::answer::{LocateError, Located};
use clear_cascade::source::{LoadError, Loaded};
use clear_cascade::{Error, FileLoader, Loader as _, Medium, Options, Site, States, Study};
use url::Url;

use crate::args::{self, Seen};
use crate::failure::Refusal;
use crate::files::{self, LARGEST};
use crate::saved::{self, Store};
use crate::taken;
use crate::watch;
use crate::web::{Fetch, Web, is_loopback, is_of_web};

/// Opens the page of a question.
pub(crate) fn study(page: &Path, seen: &Seen) -> Result<Study, Refusal> {
    Ok(page_with_files(page, seen)?.0)
}

/// Opens the page of a question, with what its files come from.
pub(crate) fn page_with_files(page: &Path, seen: &Seen) -> Result<(Study, Web), Refusal> {
    if let Some(driver) = &seen.browser {
        return in_browser(driver, page, seen);
    }
    let (loader, path) = placed(page, seen)?;
    let study = Study::open_with(&loader, &path, &options(seen)?).map_err(|e| unopened(&loader, &path, e))?;
    watch::remember(&study);
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
        if let Some(driver) = &self.seen.browser {
            let (study, web) = in_browser(driver, page, self.seen)?;
            return Ok((study, Arc::new(Site::with(web, self.options.clone()))));
        }
        let (loader, path) = placed(page, self.seen)?;
        // Pages that are not files of a folder have a site of their own each.
        let root = loader.folder().unwrap_or(page).to_owned();
        let new = || Arc::new(Site::with(loader, self.options.clone()));
        let site = self.open.lock().unwrap_or_else(PoisonError::into_inner).entry(root).or_insert_with(new).clone();
        let study = site.page(&path).map_err(|e| unopened(site.loader(), &path, e))?;
        watch::remember(&study);
        Ok((in_states(study, self.seen)?, site))
    }
}

/// The refusal of a page that cannot be opened.
fn unopened(loader: &Web, path: &str, error: Error) -> Refusal {
    match error {
        Error::Page(why @ LoadError::Network(_)) if loader.folder().is_none() => {
            Refusal::new(format!("the page `{path}` could not be loaded: {why}"))
        }
        error => Refusal::new(error.to_string()),
    }
}

/// What the files of a page come from, and where the page is there: its path, or its URL.
fn placed(page: &Path, seen: &Seen) -> Result<(Web, String), Refusal> {
    let stdin = page == Path::new("-");
    if seen.base.is_some() && !stdin {
        return Err(Refusal::new("--base is for a page from standard input, `-`"));
    }
    if stdin {
        return from_input(seen);
    }
    if let Some(url) = page.to_str().and_then(url) {
        return if is_of_web(&url) { on_network(&url, seen) } else { in_file(&file_of(&url)?, seen) };
    }
    in_file(page, seen)
}

/// Opens a page as it stands in a browser.
fn in_browser(driver: &str, page: &Path, seen: &Seen) -> Result<(Study, Web), Refusal> {
    let at = match page.to_str().and_then(url) {
        _ if page == Path::new("-") => None,
        Some(url) => Some(url),
        None => {
            let file = page_file(page)?;
            let full = fs::canonicalize(&file).ok().and_then(|full| Url::from_file_path(full).ok());
            Some(full.ok_or_else(|| Refusal::new(format!("`{}` has no URL", file.display())))?)
        }
    };
    let taken = taken::page(driver, at.as_ref(), seen.viewport)?;
    let least = if is_loopback(&taken.url) { Fetch::Loopback } else { Fetch::Public };
    let least = if is_of_web(&taken.url) { least } else { Fetch::Nothing };
    let web = Web::at(&taken.url, fetch(seen, least));
    let store = store(seen)?;
    for (url, mut loaded) in taken.parts {
        if let Some(store) = &store {
            store.keep_loaded(&url, &mut loaded)?;
        }
        web.give(url, loaded);
    }
    let mut options = options(seen)?;
    (options.viewing.width, options.viewing.height) = seen.viewport.unwrap_or(taken.viewport);
    for (feature, value) in taken.preferences {
        options.viewing.preferences.entry(feature).or_insert(value);
    }
    let study =
        Study::open_with(&web, taken.url.as_str(), &options).map_err(|e| unopened(&web, taken.url.as_str(), e))?;
    Ok((in_states(study, seen)?, web))
}

/// A page in a file, or in a folder or file in which one was kept.
fn in_file(page: &Path, seen: &Seen) -> Result<(Web, String), Refusal> {
    if let Some(saved) = saved::of(page)? {
        let store = store(seen)?;
        let mut parts = saved.parts;
        parts.sort_by_key(|(url, _)| *url != saved.page);
        if let Some(store) = &store {
            parts.iter_mut().try_for_each(|(url, loaded)| store.keep_loaded(url, loaded))?;
        }
        let web = Web::at(&saved.page, fetch(seen, Fetch::Nothing)).keeping(store);
        parts.into_iter().for_each(|(url, loaded)| web.give(url, loaded));
        return Ok((web, saved.page.to_string()));
    }
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
    Ok((Web::new(files, fetch(seen, Fetch::Nothing)).keeping(store(seen)?), path))
}

/// A page on the network, with what may be fetched for it: what is on this machine only where the page is.
fn on_network(page: &Url, seen: &Seen) -> Result<(Web, String), Refusal> {
    let mut page = page.clone();
    page.set_fragment(None);
    let allowed = |page: &Url| fetch(seen, if is_loopback(page) { Fetch::Loopback } else { Fetch::Public });
    let web = Web::at(&page, allowed(&page)).keeping(store(seen)?);
    let loaded = web.load(&page);
    let at = web.found_at(&page);
    if let Some(kind) = loaded.as_ref().ok().and_then(|l| l.media_type.as_ref()).filter(|kind| !saved::is_page(kind)) {
        return Err(Refusal::new(format!("`{at}` is no HTML page but `{kind}`")));
    }
    // Where it was redirected to another site, that one is the page's.
    let fetch = allowed(&at);
    Ok((web.moved_to(&at, fetch), page.to_string()))
}

/// A page from standard input, which is read once however often it is asked about.
fn from_input(seen: &Seen) -> Result<(Web, String), Refusal> {
    /// What came, or why nothing did.
    static GIVEN: OnceLock<Result<Vec<u8>, String>> = OnceLock::new();
    let read = || {
        let mut bytes = Vec::new();
        let read = std::io::stdin().lock().take(LARGEST + 1).read_to_end(&mut bytes);
        read.map_err(|e| e.to_string()).map(|_| bytes)
    };
    let unread = |why: &str| Refusal::new(format!("standard input cannot be read: {why}"));
    let bytes = GIVEN.get_or_init(read).as_ref().map_err(|why| unread(why))?.clone();
    if bytes.len() as u64 > LARGEST {
        return Err(unread(&format!("it is larger than {} MiB", LARGEST >> 20)));
    }
    let page = Loaded::new("-", bytes);
    let base = seen.base.as_deref().unwrap_or(".");
    if let Some(url) = url(base).filter(is_of_web) {
        let least = if is_loopback(&url) { Fetch::Loopback } else { Fetch::Public };
        let web = Web::at(&url, fetch(seen, least)).keeping(store(seen)?);
        web.give(url.clone(), page);
        return Ok((web, url.to_string()));
    }
    let folder = match url(base) {
        Some(url) => file_of(&url)?,
        None => PathBuf::from(base),
    };
    if !folder.is_dir() {
        return Err(Refusal::new(format!("the base `{base}` is no folder, nor an `http:` URL")));
    }
    let files = FileLoader::new(seen.root.as_deref().unwrap_or(&folder));
    let mut url = files
        .url_of(&folder)
        .ok_or_else(|| Refusal::new(format!("the base `{base}` is not below the root `{}`", files.root().display())))?;
    // A file of that folder with a name that none has.
    if let Ok(mut path) = url.path_segments_mut() {
        path.pop_if_empty().push("-");
    }
    let web = Web::new(files, fetch(seen, Fetch::Nothing)).keeping(store(seen)?);
    web.give(url.clone(), page);
    Ok((web, url.to_string()))
}

/// A text as an absolute URL of a page: `http:`, `https:` and `file:` alone, so that `C:` stays a path.
fn url(text: &str) -> Option<Url> {
    Url::parse(text).ok().filter(|url| is_of_web(url) || url.scheme() == "file")
}

/// The path that a `file:` URL stands for.
fn file_of(url: &Url) -> Result<PathBuf, Refusal> {
    url.to_file_path().map_err(|()| Refusal::new(format!("`{url}` is no file of this machine")))
}

/// What may be fetched for a question; at least what its page needs.
fn fetch(seen: &Seen, least: Fetch) -> Fetch {
    match (seen.private_addresses, seen.fetch, least) {
        (true, true, _) | (true, false, Fetch::Public | Fetch::Loopback | Fetch::Any) => Fetch::Any,
        (_, true, Fetch::Nothing) => Fetch::Public,
        (_, _, least) => least,
    }
}

/// Where what is fetched is kept, if anywhere.
fn store(seen: &Seen) -> Result<Option<Store>, Refusal> {
    seen.save.as_deref().map(Store::new).transpose()
}

/// What pages are opened with.
fn options(seen: &Seen) -> Result<Options, Refusal> {
    let mut options = Options::default();
    options.viewing.medium = match seen.media {
        args::Medium::Screen => Medium::Screen,
        args::Medium::Print => Medium::Print,
    };
    (options.viewing.width, options.viewing.height) = seen.size();
    options.viewing.preferences.extend(seen.prefer.iter().cloned());
    options.alternate.clone_from(&seen.alternate);
    for sheet in &seen.user_sheet {
        let text = files::read(sheet)?;
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

/// Whether a word of a request names a page that there is, or one on the network or from standard input.
pub(crate) fn is_page(word: &str) -> bool {
    word == "-" || url(word).is_some() || Path::new(word).exists()
}

/// The path of a file from the top of the site of a page.
pub(crate) fn path_in_site(file: &Path, page: &Path, seen: &Seen) -> Result<String, Refusal> {
    let away = page == Path::new("-") || page.to_str().and_then(url).is_some_and(|url| is_of_web(&url));
    if away || saved::of(page)?.is_some() {
        return Err(Refusal::new(format!(
            "`{}` can take the place of a sheet of a page in files only",
            file.display()
        )));
    }
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
    let is_file = |page: &&PathBuf| *page != Path::new("-") && page.to_str().and_then(url).is_none();
    let plain = |page: &PathBuf| Ok::<_, Refusal>(saved::of(page)?.is_none());
    pages
        .into_iter()
        .filter(is_file)
        .try_for_each(|page| if plain(page)? { page_file(page).map(|_| ()) } else { Ok(()) })
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
    if given.to_str().is_some_and(|text| text.contains("://")) {
        let hint = Some("the URL of a page starts with `http:`, `https:` or `file:`".to_owned());
        return Refusal { hint, ..Refusal::new(format!("`{}` is no page", given.display())) };
    }
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
