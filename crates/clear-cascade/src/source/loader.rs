//! Getting bytes: from files below a root, or from memory.
//!
//! A page is taken to live on a site whose top folder is the root: `/x.css` is `x.css` in the root, and `..` never
//! leads above it, as on a server (URL Standard, "shorten a url's path"). Nothing outside the root is read.

use std::collections::HashMap;
use std::fs;
use std::path::{Path, PathBuf};

use crate::limits::LARGEST_FILE;
use bytes::Bytes;
use url::Url;

/// The bytes of a URL and the name they are shown by.
///
/// ```
/// use clear_cascade::source::Loaded;
/// let loaded = Loaded::new("site.css", "p { color: navy }").content_type("text/css; charset=\"Shift_JIS\"");
/// assert_eq!(loaded.media_type.as_deref(), Some("text/css"));
/// assert_eq!(loaded.charset.as_deref(), Some("Shift_JIS"));
/// ```
#[derive(Clone, Debug)]
#[non_exhaustive]
pub struct Loaded {
    /// The bytes as they are. Cloning them copies none.
    pub bytes: Bytes,
    /// A path that opens from the working directory, or the URL.
    pub name: String,
    /// The encoding that came with the bytes, such as a `charset` of their media type.
    pub charset: Option<String>,
    /// The media type that came with the bytes; none for a plain file.
    pub media_type: Option<String>,
}

impl Loaded {
    /// Bytes, shown by a path or URL, without a media type, as those of a plain file.
    #[must_use]
    pub fn new(name: impl Into<String>, bytes: impl Into<Vec<u8>>) -> Self {
        Self { bytes: Bytes::from(bytes.into()), name: name.into(), charset: None, media_type: None }
    }

    /// The same with what a `Content-Type` header says (MIME Sniffing, "parse a MIME type"): the media type without its parameters,
    /// and its `charset`. A header that is none says nothing.
    #[must_use]
    pub fn content_type(mut self, header: &str) -> Self {
        if let Ok(kind) = header.parse::<data_url::mime::Mime>() {
            self.charset = kind.get_parameter("charset").map(str::to_owned);
            self.media_type = Some(format!("{}/{}", kind.type_, kind.subtype));
        }
        self
    }
}

/// Why a URL could not be loaded. Each reads after "could not be loaded: ".
///
/// ```
/// use clear_cascade::{Error, MemoryLoader, Study, source::LoadError};
/// let files = MemoryLoader::default().with("index.html", "<p>");
/// let Err(Error::Page(error)) = Study::open(&files, "indx.html") else { unreachable!() };
/// assert!(matches!(&error, LoadError::Missing { path, .. } if path == "indx.html"));
/// assert!(error.to_string().contains("index.html")); // What was probably meant.
/// ```
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
#[non_exhaustive]
pub enum LoadError {
    /// There is no such file, as for `href="them.css"` where the file is `theme.css`.
    #[error("there is no file `{path}`{hint}")]
    Missing {
        /// The path that was tried.
        path: String,
        /// A near name that does exist, as a sentence part, or nothing.
        hint: String,
    },
    /// The URL is on another site and was not fetched.
    #[error("it is on another site, and nothing is fetched over the network")]
    Remote,
    /// The URL is on another site and could not be had, as a loader with access to the network says.
    #[error("{0}")]
    Network(String),
    /// The file lies outside the root, through a symbolic link.
    #[error("`{0}` lies outside the root folder")]
    Outside(String),
    /// The path is a folder.
    #[error("`{0}` is a folder")]
    Folder(String),
    /// The file is larger than a stylesheet or page is taken to be.
    #[error("`{0}` is larger than 64 MiB")]
    TooLarge(String),
    /// The bytes cannot be text.
    #[error("`{0}` is not text (it holds NUL bytes)")]
    NotText(String),
    /// The system refused.
    #[error("`{path}`: {reason}")]
    System {
        /// The path that was tried.
        path: String,
        /// What the system said.
        reason: String,
    },
}

impl LoadError {
    /// There is nothing at a path; of the names that there are, one that is near it is offered.
    ///
    /// ```
    /// use clear_cascade::source::LoadError;
    /// let error = LoadError::missing("them.css", ["site.css", "theme.css"]);
    /// assert_eq!(error.to_string(), "there is no file `them.css`, but there is `theme.css`");
    /// ```
    pub fn missing<'n>(path: impl Into<String>, near: impl IntoIterator<Item = &'n str>) -> Self {
        let path = path.into();
        let hint = crate::near::nearest(&path, near.into_iter()).map(|n| format!(", but there is `{n}`"));
        Self::Missing { hint: hint.unwrap_or_default(), path }
    }
}

/// Where pages and sheets come from.
///
/// ```
/// use clear_cascade::source::{LoadError, Loaded, Url};
/// use clear_cascade::{Loader, Study};
///
/// /// One page, and no stylesheets.
/// struct Alone(&'static str);
///
/// impl Loader for Alone {
///     fn load(&self, url: &Url) -> Result<Loaded, LoadError> {
///         match url.path() {
///             "/page.html" => Ok(Loaded::new("page.html", self.0)),
///             path => Err(LoadError::missing(path, ["page.html"])),
///         }
///     }
/// }
/// let page = Study::open(&Alone("<link rel=stylesheet href=a.css><p>Hello"), "page.html")?;
/// assert!(page.notes()[0].message.starts_with("the sheet `a.css` could not be loaded"));
/// # Ok::<(), clear_cascade::Error>(())
/// ```
pub trait Loader: Send + Sync {
    /// The bytes behind an absolute URL.
    ///
    /// # Errors
    /// A [`LoadError`] that says why not; it becomes a note, never a failure of the page.
    fn load(&self, url: &Url) -> Result<Loaded, LoadError>;

    /// Tells what is loaded next, so that a loader for which that pays can get several at once. It may do nothing, as it does
    /// unless a loader says otherwise; each is loaded by [`load`](Self::load) all the same.
    ///
    /// ```
    /// # use clear_cascade::source::{LoadError, Loaded, Url};
    /// # use clear_cascade::{Loader, MemoryLoader, Study};
    /// # use std::sync::Mutex;
    /// struct Told(MemoryLoader, Mutex<Vec<String>>);
    ///
    /// impl Loader for Told {
    ///     fn load(&self, url: &Url) -> Result<Loaded, LoadError> {
    ///         self.0.load(url)
    ///     }
    ///
    ///     fn prepare(&self, urls: &[Url]) {
    ///         self.1.lock().unwrap().extend(urls.iter().map(|url| url.path().to_owned()));
    ///     }
    /// }
    /// let page = "<link rel=stylesheet href=a.css><link rel=icon href=i.png><link rel=stylesheet href=b.css>";
    /// let files = MemoryLoader::default().with("index.html", page).with("a.css", "@import 'c.css'; @import 'd.css';");
    /// let told = Told(files, Mutex::default());
    /// Study::open(&told, "index.html")?;
    /// assert_eq!(*told.1.lock().unwrap(), ["/a.css", "/b.css", "/c.css", "/d.css"]);
    /// # Ok::<(), clear_cascade::Error>(())
    /// ```
    fn prepare(&self, _urls: &[Url]) {}

    /// The URL at which what was loaded by another was found in the end, after redirects: URLs in it are relative to this one
    /// (Fetch Standard, "response URL"). The same unless a loader says otherwise.
    ///
    /// ```
    /// use clear_cascade::{MemoryLoader, source::{Loader, SITE, Url}};
    /// let url = Url::parse(SITE)?.join("a.css")?;
    /// assert_eq!(MemoryLoader::default().found_at(&url), url);
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    fn found_at(&self, url: &Url) -> Url {
        url.clone()
    }

    /// The URL at which the site starts; [`SITE`](crate::source::SITE) unless a loader knows better.
    ///
    /// ```
    /// use clear_cascade::{MemoryLoader, source::Loader};
    /// assert_eq!(MemoryLoader::default().site().as_str(), clear_cascade::source::SITE);
    /// ```
    fn site(&self) -> Url {
        crate::source::site()
    }
}

/// Files below a root folder.
///
/// ```
/// use clear_cascade::{FileLoader, Study};
/// # let demo = concat!(env!("CARGO_MANIFEST_DIR"), "/../../demo");
/// let files = FileLoader::new(demo);
/// let page = Study::open(&files, "index.html")?;
/// let (_, source) = page.sources().iter().next().unwrap();
/// assert!(source.name.ends_with("index.html"));
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Debug)]
pub struct FileLoader {
    /// The folder that `/` stands for.
    root: PathBuf,
}

impl FileLoader {
    /// Files below `root`.
    #[must_use]
    pub fn new(root: impl Into<PathBuf>) -> Self {
        Self { root: root.into() }
    }

    /// Files of the site that a page is taken to be on: those below `here`, the working directory say, where the page is below it,
    /// else those below the page's folder.
    ///
    /// ```
    /// use clear_cascade::source::FileLoader;
    /// use std::path::Path;
    /// // The folder one stands in, where the page is below it; else the page's own.
    /// let files = FileLoader::around(Path::new("src/answer/mod.rs"), Path::new("."));
    /// assert_eq!(files.root(), Path::new("."));
    /// ```
    #[must_use]
    pub fn around(page: &Path, here: &Path) -> Self {
        match (fs::canonicalize(here), fs::canonicalize(page)) {
            (Ok(full), Ok(page)) if page.starts_with(&full) => Self::new(here),
            _ => Self::new(page.parent().filter(|p| !p.as_os_str().is_empty()).unwrap_or(Path::new("."))),
        }
    }

    /// The folder that `/` stands for.
    ///
    /// ```
    /// use clear_cascade::source::FileLoader;
    /// assert_eq!(FileLoader::new("site").root(), std::path::Path::new("site"));
    /// ```
    #[must_use]
    pub fn root(&self) -> &Path {
        &self.root
    }

    /// The path of a file from the top of the site, as [`Study::open`](crate::Study::open) takes it, or nothing where it is not below
    /// the root.
    ///
    /// ```
    /// use clear_cascade::source::FileLoader;
    /// use std::path::Path;
    /// let files = FileLoader::new("src");
    /// assert_eq!(files.path_of(Path::new("src/answer/mod.rs")).as_deref(), Some("/answer/mod.rs"));
    /// assert_eq!(files.path_of(Path::new("Cargo.toml")), None);
    /// ```
    #[must_use]
    pub fn path_of(&self, file: &Path) -> Option<String> {
        self.url_of(file).map(|url| url.path().to_owned())
    }

    /// The URL of a file below the root, or nothing where it is not below it.
    ///
    /// ```
    /// use clear_cascade::source::FileLoader;
    /// use std::path::Path;
    /// let url = FileLoader::new("src").url_of(Path::new("src/answer/mod.rs"));
    /// assert!(url.unwrap().as_str().ends_with("/answer/mod.rs"));
    /// ```
    #[must_use]
    pub fn url_of(&self, file: &Path) -> Option<Url> {
        let root = fs::canonicalize(&self.root).ok()?;
        let full = fs::canonicalize(file).ok()?;
        let below = full.strip_prefix(&root).ok()?;
        let mut url = self.site();
        url.path_segments_mut()
            .ok()?
            .pop_if_empty()
            .extend(below.components().map(|c| c.as_os_str().to_string_lossy().into_owned()));
        Some(url)
    }

    /// A file below the root whose path is near one that there is nothing at, part by part.
    fn near(root: &Path, path: &Path) -> Option<String> {
        let there = path.ancestors().skip(1).find(|folder| folder.is_dir())?;
        let wanted: Vec<_> = path.strip_prefix(there).ok()?.iter().map(|part| part.to_string_lossy()).collect();
        let mut at = fs::canonicalize(there).ok()?;
        let mut found = Vec::new();
        for part in &wanted {
            let names = fs::read_dir(&at).ok()?.flatten();
            let names: Vec<String> = names.map(|e| e.file_name().to_string_lossy().into_owned()).collect();
            let other_case = names.iter().find(|name| name.eq_ignore_ascii_case(part)).map(String::as_str);
            let name = other_case.or_else(|| crate::near::nearest(part, names.iter().map(String::as_str)))?;
            // Of what a link leads to outside, nothing is told.
            at = fs::canonicalize(at.join(name)).ok().filter(|at| at.starts_with(root))?;
            found.push(name.to_owned());
        }
        let (wanted, found) = (wanted.join("/"), found.join("/"));
        let only_case = if wanted.eq_ignore_ascii_case(&found) { ": only the case of letters differs" } else { "" };
        at.is_file().then(|| format!(", but there is `{found}`{only_case}"))
    }
}

impl FileLoader {
    /// The bytes of a file of the site, whatever they are: an image, say. Nothing outside the root is read.
    ///
    /// ```
    /// use clear_cascade::source::{FileLoader, LoadError, SITE, Url};
    /// let files = FileLoader::new("no-such-folder");
    /// let url = Url::parse(SITE)?.join("a.css")?;
    /// assert!(matches!(files.bytes(&url), Err(LoadError::Missing { .. })));
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    ///
    /// # Errors
    /// Where there is no such file, it is too large, or the system refuses.
    pub fn bytes(&self, url: &Url) -> Result<Loaded, LoadError> {
        if url.origin() != self.site().origin() {
            return Err(LoadError::Remote);
        }
        let mut path = self.root.clone();
        path.extend(url.path().split('/').filter(|s| !s.is_empty()).map(decode));
        let shown = path.strip_prefix(".").unwrap_or(&path).display().to_string();
        let system = |e: std::io::Error| LoadError::System { path: shown.clone(), reason: e.to_string() };
        let missing = |hint: String| LoadError::Missing { path: shown.clone(), hint };
        // A link may lead outside: of what is there, nothing is told, not even whether it is there.
        let Ok(root) = fs::canonicalize(&self.root) else { return Err(missing(String::new())) };
        let near = path.ancestors().find_map(|folder| fs::canonicalize(folder).ok());
        if !near.is_some_and(|near| near.starts_with(&root)) {
            return Err(LoadError::Outside(shown));
        }
        let full = fs::canonicalize(&path).map_err(|e| match e.kind() {
            std::io::ErrorKind::NotFound | std::io::ErrorKind::NotADirectory => {
                missing(Self::near(&root, &path).unwrap_or_default())
            }
            _ => system(e),
        })?;
        let meta = fs::metadata(&full).map_err(system)?;
        if meta.is_dir() {
            return Err(LoadError::Folder(shown));
        }
        if !meta.is_file() {
            return Err(LoadError::System { path: shown, reason: "not a regular file".to_owned() });
        }
        if meta.len() > LARGEST_FILE {
            return Err(LoadError::TooLarge(shown));
        }
        let bytes = fs::read(&full).map_err(system)?;
        Ok(Loaded::new(shown, bytes))
    }
}

impl Loader for FileLoader {
    fn load(&self, url: &Url) -> Result<Loaded, LoadError> {
        let loaded = self.bytes(url)?;
        if encoding_rs::Encoding::for_bom(&loaded.bytes).is_none() && is_binary(&loaded.bytes) {
            return Err(LoadError::NotText(loaded.name));
        }
        Ok(loaded)
    }
}

/// Whether bytes are no text, as those of an image: in text, a byte such as NUL is a slip, which parsers replace (MIME Sniffing,
/// §3 "binary data byte").
fn is_binary(bytes: &[u8]) -> bool {
    let start = &bytes[..bytes.len().min(4096)];
    let of_data = start.iter().filter(|b| matches!(b, 0..=8 | 0x0B | 0x0E..=0x1A | 0x1C..=0x1F)).count();
    start.contains(&0) && of_data > 3 && of_data * 16 > start.len()
}

/// Texts in memory, by path from the top of the site, such as `index.html` or `css/site.css`.
///
/// ```
/// use clear_cascade::{MemoryLoader, Study};
/// let files = MemoryLoader::default()
///     .with("index.html", "<link rel=stylesheet href=site.css><p>Hello")
///     .with_bytes("site.css", b"p::before { content: '\xE9' }", "text/css; charset=windows-1252");
/// let page = Study::open(&files, "index.html")?;
/// let (_, values) = &page.generated(page.select("p").unwrap()[0]).unwrap()[0];
/// assert!(values.contains(&("content".to_owned(), "\"é\"".to_owned())));
/// # Ok::<(), clear_cascade::Error>(())
/// ```
#[derive(Clone, Debug, Default)]
pub struct MemoryLoader {
    /// What there is by path, without a leading slash.
    files: HashMap<String, Loaded>,
}

impl MemoryLoader {
    /// Takes a text in under a path; gives itself back, so that calls chain.
    #[must_use]
    pub fn with(mut self, path: &str, text: &str) -> Self {
        self.insert(path, Loaded::new("", text));
        self
    }

    /// Takes bytes in under a path, with the `Content-Type` header that they come with; empty for none.
    #[must_use]
    pub fn with_bytes(mut self, path: &str, bytes: impl Into<Vec<u8>>, content_type: &str) -> Self {
        self.insert(path, Loaded::new("", bytes).content_type(content_type));
        self
    }

    /// Takes something in, shown by its path.
    fn insert(&mut self, path: &str, loaded: Loaded) {
        let name = path.trim_start_matches('/').to_owned();
        self.files.insert(name.clone(), Loaded { name, ..loaded });
    }
}

impl Loader for MemoryLoader {
    fn load(&self, url: &Url) -> Result<Loaded, LoadError> {
        if url.origin() != self.site().origin() {
            return Err(LoadError::Remote);
        }
        let path = decode(url.path().trim_start_matches('/'));
        let missing = || LoadError::missing(path.clone(), self.files.keys().map(String::as_str));
        self.files.get(&path).cloned().ok_or_else(missing)
    }
}

/// Decodes `%20` and the like (URL Standard, "percent-decode").
fn decode(text: &str) -> String {
    percent_encoding::percent_decode_str(text).decode_utf8_lossy().into_owned()
}
