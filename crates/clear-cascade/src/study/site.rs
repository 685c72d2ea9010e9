//! Pages that share their stylesheets.

use std::sync::Arc;

use super::{Error, Options, Study};
use crate::page::{OfSite, Parsed};
use crate::source::Loader;

/// A site: pages that share their stylesheets. A sheet that one page has brought is there for the next; it is read again only where
/// two pages are opened at the same moment, or where a page has more or fewer texts before it.
///
/// ```
/// use clear_cascade::{MemoryLoader, Site};
/// let files = MemoryLoader::default()
///     .with("a.html", "<link rel=stylesheet href=s.css><p>1")
///     .with("b.html", "<link rel=stylesheet href=s.css><p>2")
///     .with("s.css", "p { color: navy }");
/// let site = Site::new(files);
/// for path in ["a.html", "b.html"] {
///     let page = site.page(path)?;
///     assert_eq!(page.value(page.select("p").unwrap()[0], "color").as_deref(), Some("rgb(0, 0, 128)"));
/// }
/// # Ok::<(), clear_cascade::Error>(())
/// ```
#[derive(Debug)]
pub struct Site<L> {
    /// What the files come from.
    loader: L,
    /// What pages are opened with.
    options: Options,
    /// The sheets that pages have brought.
    sheets: Arc<OfSite>,
}

impl<L: Loader> Site<L> {
    /// A site whose files come from a loader.
    pub fn new(loader: L) -> Self {
        Self::with(loader, Options::default())
    }

    /// The same, with options for all its pages.
    ///
    /// ```
    /// use clear_cascade::{MemoryLoader, Options, Site, Viewing};
    /// let files = MemoryLoader::default().with("a.html", "<style>@media print { p { color: navy } }</style><p>1");
    /// let site = Site::with(files, Options::default().viewing(Viewing::print()));
    /// let page = site.page("a.html")?;
    /// assert_eq!(page.value(page.select("p").unwrap()[0], "color").as_deref(), Some("rgb(0, 0, 128)"));
    /// # Ok::<(), clear_cascade::Error>(())
    /// ```
    pub fn with(loader: L, options: Options) -> Self {
        Self { loader, options, sheets: Arc::default() }
    }

    /// What the files come from.
    ///
    /// ```
    /// use clear_cascade::{FileLoader, Site};
    /// assert_eq!(Site::new(FileLoader::new("site")).loader().root(), std::path::Path::new("site"));
    /// ```
    pub fn loader(&self) -> &L {
        &self.loader
    }

    /// Opens a page at a path from the top of the site.
    ///
    /// # Errors
    /// Where the page itself cannot be had; a stylesheet that cannot is a note.
    pub fn page(&self, path: &str) -> Result<Study, Error> {
        let known = Parsed { of_site: Some(self.sheets.clone()), ..Parsed::default() };
        Study::open_beside(&self.loader, path, &self.options, &known)
    }
}
