//! A page with all its styles, resolved: the front door of the library.

mod known;
mod places;
mod site;
mod trial;

pub use crate::page::Options;
pub(crate) use known::StepOfSize;
pub use places::PlaceError;
pub(crate) use places::WrittenAt;
pub use site::Site;
pub use trial::{Change, Edit, RulePlace, Trial, TrialError};

use std::borrow::Cow;
use std::num::NonZero;
use std::sync::atomic::{AtomicUsize, Ordering};
use std::sync::{Arc, LazyLock, OnceLock};

use url::Url;

use self::known::{Known, Taken};
use crate::cascade::Origin;
use crate::document::{Document, ElementId};
use crate::page::{FlatRule, Noted, Page, Parsed, titles, unknown_encoding};
use crate::selector::PseudoElement;
use crate::source::{LoadError, Loader, Source, SourceKind, Sources, Span};
use crate::style::{self, Entry, InRuns, Matched, Strongest, Style, Styles, Subject, Wanted};
use crate::stylesheet::{Note, NoteKind};
use crate::viewing::{Viewing, ViewingError};

/// Why a page cannot be studied at all.
///
/// ```
/// use clear_cascade::{Error, MemoryLoader, Study};
/// assert!(matches!(Study::open(&MemoryLoader::default(), "none.html"), Err(Error::Page(_))));
/// ```
#[derive(Clone, Debug, PartialEq, thiserror::Error)]
#[non_exhaustive]
pub enum Error {
    /// The page could not be loaded.
    #[error("the page cannot be opened: {0}")]
    Page(#[from] LoadError),
    /// The address is no URL on the site.
    #[error("`{0}` is no address of a page")]
    Address(String),
    /// The page cannot be seen so.
    #[error(transparent)]
    Viewing(#[from] ViewingError),
    /// The page has no elements, which only a text that is no page can bring about.
    #[error("`{0}` holds no page")]
    Empty(String),
}

/// How many elements are computed at once, and by one thread.
const RUN: usize = 64;

/// A page with all its styles. It never changes: values are worked out when somebody first asks for them, and kept. It can be
/// shared between threads.
///
/// ```
/// use clear_cascade::{MemoryLoader, Study};
/// let files = MemoryLoader::default().with("index.html", "<style>p { color: green }</style><p>Hello");
/// let study = Study::open(&files, "index.html").unwrap();
/// let p = study.select("p").unwrap()[0];
/// assert_eq!(study.value(p, "color").unwrap(), "rgb(0, 128, 0)");
/// ```
#[derive(Debug)]
pub struct Study {
    /// All texts.
    pub(crate) sources: Sources,
    /// Its address.
    pub(crate) url: Url,
    /// What it was made with.
    options: Options,
    /// Parsed stylesheets that another study of the same texts can share.
    parsed: Parsed,
    /// The page.
    pub(crate) page: Page,
    /// Computed values by element.
    styles: Arc<Styles>,
    /// Everything that was dropped or could not be had, values aside.
    notes: Vec<Noted>,
    /// The same with the values that properties do not take, once someone asked for them.
    all_notes: OnceLock<Vec<Note>>,
    /// What was found out about elements when someone asked.
    pub(crate) known: Known,
}

impl Study {
    /// Opens a page at a path from the top of the site, with a screen of 1280 by 800 px.
    ///
    /// # Errors
    /// Where the page itself cannot be had; a stylesheet that cannot is a note.
    pub fn open(loader: &dyn Loader, path: &str) -> Result<Self, Error> {
        Self::open_with(loader, path, &Options::default())
    }

    /// Opens a page with options.
    ///
    /// ```
    /// use clear_cascade::{MemoryLoader, Options, Study, Viewing};
    /// let files = MemoryLoader::default().with("a.html", "<style>p { color: navy }</style><p>Hello");
    /// let bare = Study::open_with(&files, "a.html", &Options::default().without_author().viewing(Viewing::print()))?;
    /// assert_eq!(bare.value(bare.select("p").unwrap()[0], "color").as_deref(), Some("rgb(0, 0, 0)"));
    /// # Ok::<(), clear_cascade::Error>(())
    /// ```
    ///
    /// # Errors
    /// Where the page itself cannot be had; a stylesheet that cannot is a note.
    pub fn open_with(loader: &dyn Loader, path: &str, options: &Options) -> Result<Self, Error> {
        Self::open_beside(loader, path, options, &Parsed::default())
    }

    /// Opens a page beside others of its site.
    fn open_beside(loader: &dyn Loader, path: &str, options: &Options, known: &Parsed) -> Result<Self, Error> {
        let url = loader.site().join(path).map_err(|_| Error::Address(path.to_owned()))?;
        let loaded = loader.load(&url)?;
        let url = loader.found_at(&url);
        let hint = loaded.charset.as_deref().and_then(|c| encoding_rs::Encoding::for_label(c.as_bytes()));
        let unknown = loaded.charset.as_deref().filter(|_| hint.is_none()).map(|l| unknown_encoding(&loaded.name, l));
        let hint = hint.or_else(|| declared_encoding(&loaded.bytes));
        let source = Source::decode(loaded.name, &loaded.bytes, SourceKind::Page, hint);
        let name = source.name.clone();
        let mut sources = Sources::default();
        let page = sources.add(source);
        let text = sources.at(page).text.clone();
        let document = crate::document::parse(page, &text);
        if document.light().is_empty() {
            return Err(Error::Empty(name));
        }
        let mut options = options.clone();
        options.viewing = options.viewing.clone().on_page(&document)?;
        let mut study = Self::assemble(sources, Arc::new(document), loader, url, options, known);
        study.notes.extend(unknown.map(|message| Noted::Note(study.note_of_page(message))));
        Ok(study)
    }

    /// A note about the page as a whole.
    fn note_of_page(&self, message: String) -> Note {
        let span = Span { source: self.page.document.source, start: 0, end: 0 };
        Note { kind: NoteKind::Request, span, message, hint: None, damage: None }
    }

    /// The same page seen in another way, such as in print or with an element hovered. Nothing is loaded or parsed again.
    ///
    /// ```
    /// use clear_cascade::{MemoryLoader, Study, Viewing};
    /// let files = MemoryLoader::default()
    ///     .with("a.html", "<style>a:hover { color: red } @media print { a { color: black } }</style><a href=x>Here");
    /// let page = Study::open(&files, "a.html")?;
    /// let a = page.select("a").unwrap()[0];
    /// assert_eq!(page.value(a, "color").unwrap(), "rgb(0, 0, 238)");
    /// let hovered = page.seen_with(Viewing::screen(1280.0, 800.0).hover([a]))?;
    /// assert_eq!(hovered.value(a, "color").unwrap(), "rgb(255, 0, 0)");
    /// let printed = page.seen_with(Viewing::print())?;
    /// assert_eq!(printed.value(a, "color").unwrap(), "rgb(0, 0, 0)");
    /// # Ok::<(), clear_cascade::Error>(())
    /// ```
    ///
    /// # Errors
    /// Where a state is asked for on an element of another page, or the viewport has no size.
    pub fn seen_with(&self, viewing: Viewing) -> Result<Self, ViewingError> {
        let viewing = viewing.on_page(&self.page.document)?;
        let options = Options { viewing, ..self.options.clone() };
        let (sources, document) = (self.sources.clone(), self.page.document.clone());
        let url = self.url.clone();
        Ok(Self::assemble(sources, document, &trial::Nowhere, url, options, &self.parsed))
    }

    /// Makes a study of a parsed page; stylesheets that are in `parsed` are not read again.
    fn assemble(
        mut sources: Sources,
        document: Arc<Document>,
        loader: &dyn Loader,
        url: Url,
        options: Options,
        parsed: &Parsed,
    ) -> Self {
        let (page, notes, parsed) = Page::gather(&mut sources, document, loader, &url, &options, parsed);
        let styles = Arc::new(Styles::unknown(page.document.count(), Arc::default()));
        let mut study = Self {
            sources,
            url,
            options,
            parsed,
            page,
            styles,
            notes,
            all_notes: OnceLock::new(),
            known: Known::default(),
        };
        let alternate = study.options.alternate.as_ref().filter(|title| !study.alternates().contains(title));
        let alternate = alternate.map(|title| format!("there is no set of styles with the title `{title}`"));
        let asked = study.page.viewing.unknown().into_iter().chain(alternate);
        let asked: Vec<Noted> = asked.map(|m| Noted::Note(study.note_of_page(m))).collect();
        study.notes.extend(asked);
        study
    }

    /// Computes the values of all elements at once; without it, those of an element are when they are first asked for.
    ///
    /// ```
    /// # use clear_cascade::{MemoryLoader, Study};
    /// # let files = MemoryLoader::default().with(
    /// #     "a.html",
    /// #     "<!DOCTYPE html><style>p { color: navy; margin: 1px } .lead { color: gold } p::before { content: '*' } b { widht: 2px; width: 3px }
    /// #     @media print { p { color: black } }</style><body><p id=one class=lead>Hello <b>you</b></p><p id=two>Bye</p></body>",
    /// # );
    /// # let page = Study::open(&files, "a.html").unwrap();
    /// page.resolve_all(); // Values are there now; without it they come when they are asked for.
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    pub fn resolve_all(&self) {
        let (matcher, count) = (self.page.rule_matcher(), self.page.document.count());
        let mut together = InRuns::new(&self.styles, &self.page, &matcher);
        (0..count.div_ceil(RUN)).for_each(|run| self.resolve_run(&mut together, run));
    }

    /// The same on up to so many threads, which end before it returns. The values are the same as on one.
    ///
    /// ```
    /// # use clear_cascade::{MemoryLoader, Study};
    /// # let files = MemoryLoader::default().with(
    /// #     "a.html",
    /// #     "<!DOCTYPE html><style>p { color: navy; margin: 1px } .lead { color: gold } p::before { content: '*' } b { widht: 2px; width: 3px }
    /// #     @media print { p { color: black } }</style><body><p id=one class=lead>Hello <b>you</b></p><p id=two>Bye</p></body>",
    /// # );
    /// # let page = Study::open(&files, "a.html").unwrap();
    /// let threads = std::thread::available_parallelism()?;
    /// page.resolve_all_on(threads);
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    pub fn resolve_all_on(&self, threads: NonZero<usize>) {
        let count = self.page.document.count();
        let runs = count.div_ceil(RUN);
        if threads.get() == 1 || runs < 2 {
            return self.resolve_all();
        }
        let next = AtomicUsize::new(0);
        // Elements near each other have most of what is around them in common, which is best not made on two threads at once.
        let some = (runs / (4 * threads.get())).clamp(1, 8);
        let work = || {
            let matcher = self.page.rule_matcher();
            let mut together = InRuns::new(&self.styles, &self.page, &matcher);
            while let Some(first) = Some(next.fetch_add(some, Ordering::Relaxed)).filter(|first| *first < runs) {
                (first..runs.min(first + some)).for_each(|run| self.resolve_run(&mut together, run));
            }
        };
        std::thread::scope(|scope| {
            for _ in 1..threads.get().min(runs) {
                scope.spawn(work);
            }
            work();
        });
    }

    /// Computes the values of a run of elements.
    fn resolve_run(&self, together: &mut InRuns<'_, '_>, run: usize) {
        together.ensure_all(self.page.document.ids_among(run * RUN..(run + 1) * RUN));
    }

    /// The page as a tree.
    ///
    /// ```
    /// # use clear_cascade::{MemoryLoader, Study};
    /// # let files = MemoryLoader::default().with(
    /// #     "a.html",
    /// #     "<!DOCTYPE html><style>p { color: navy; margin: 1px } .lead { color: gold } p::before { content: '*' } b { widht: 2px; width: 3px }
    /// #     @media print { p { color: black } }</style><body><p id=one class=lead>Hello <b>you</b></p><p id=two>Bye</p></body>",
    /// # );
    /// # let page = Study::open(&files, "a.html").unwrap();
    /// let p = page.document().elements().find(|e| e.is_html("p")).unwrap();
    /// assert_eq!(p.label(), "p#one.lead");
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    #[must_use]
    pub fn document(&self) -> &Document {
        &self.page.document
    }

    /// All texts that the page is made of.
    ///
    /// ```
    /// # use clear_cascade::{MemoryLoader, Study};
    /// # let files = MemoryLoader::default().with(
    /// #     "a.html",
    /// #     "<!DOCTYPE html><style>p { color: navy; margin: 1px } .lead { color: gold } p::before { content: '*' } b { widht: 2px; width: 3px }
    /// #     @media print { p { color: black } }</style><body><p id=one class=lead>Hello <b>you</b></p><p id=two>Bye</p></body>",
    /// # );
    /// # let page = Study::open(&files, "a.html").unwrap();
    /// let names: Vec<&str> = page.sources().iter().map(|(_, source)| source.name.as_str()).collect();
    /// assert!(names.contains(&"a.html"));
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    #[must_use]
    pub fn sources(&self) -> &Sources {
        &self.sources
    }

    /// The titles of the page's sets of styles, the preferred one first (CSSOM 1, §6.3 "Style Sheet Collections").
    ///
    /// ```
    /// # use clear_cascade::{MemoryLoader, Study};
    /// # let files = MemoryLoader::default().with(
    /// #     "a.html",
    /// #     "<!DOCTYPE html><style>p { color: navy; margin: 1px } .lead { color: gold } p::before { content: '*' } b { widht: 2px; width: 3px }
    /// #     @media print { p { color: black } }</style><body><p id=one class=lead>Hello <b>you</b></p><p id=two>Bye</p></body>",
    /// # );
    /// # let page = Study::open(&files, "a.html").unwrap();
    /// assert!(page.alternates().is_empty()); // No `<link title=…>` on this page.
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    #[must_use]
    pub fn alternates(&self) -> Vec<String> {
        titles(&self.page.document)
    }

    /// What the page is seen with.
    ///
    /// ```
    /// # use clear_cascade::{MemoryLoader, Study};
    /// # let files = MemoryLoader::default().with(
    /// #     "a.html",
    /// #     "<!DOCTYPE html><style>p { color: navy; margin: 1px } .lead { color: gold } p::before { content: '*' } b { widht: 2px; width: 3px }
    /// #     @media print { p { color: black } }</style><body><p id=one class=lead>Hello <b>you</b></p><p id=two>Bye</p></body>",
    /// # );
    /// # let page = Study::open(&files, "a.html").unwrap();
    /// assert_eq!(page.viewing().width, 1280.0);
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    #[must_use]
    pub fn viewing(&self) -> &Viewing {
        &self.page.viewing
    }

    /// Everything that was dropped, could not be loaded or could not be decided, browser defaults aside.
    ///
    /// ```
    /// # use clear_cascade::{MemoryLoader, Study};
    /// # let files = MemoryLoader::default().with(
    /// #     "a.html",
    /// #     "<!DOCTYPE html><style>p { color: navy; margin: 1px } .lead { color: gold } p::before { content: '*' } b { widht: 2px; width: 3px }
    /// #     @media print { p { color: black } }</style><body><p id=one class=lead>Hello <b>you</b></p><p id=two>Bye</p></body>",
    /// # );
    /// # let page = Study::open(&files, "a.html").unwrap();
    /// let note = &page.notes()[0];
    /// assert_eq!(note.hint.as_deref(), Some("did you mean `width`?"));
    /// assert_eq!(page.sources().place(note.span).unwrap().to_string(), "a.html:1:107");
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    #[must_use]
    pub fn notes(&self) -> &[Note] {
        self.all_notes.get_or_init(|| {
            let mut notes: Vec<Note> = self.notes.iter().flat_map(Noted::all).cloned().collect();
            let own = |r: &&FlatRule| !matches!(r.within.origin, Origin::Defaults | Origin::PresentationalHint);
            for rule in self.page.rules.iter().chain(&self.page.off_rules).filter(own) {
                let sheet = &self.page.sheets[rule.sheet as usize].sheet;
                for declaration in self.page.declarations(rule) {
                    let Err(mismatch) = declaration.longhands(sheet) else { continue };
                    // A bracket that is never closed is told by itself.
                    let value = sheet.value(declaration);
                    if value.tokens.unclosed.iter().any(|at| (value.from..value.to).contains(at)) {
                        continue;
                    }
                    let (message, hint) = (mismatch.message.clone(), mismatch.hint.clone());
                    let message = format!("{message}; the declaration is dropped");
                    notes.push(Note { kind: NoteKind::Value, span: declaration.span, message, hint, damage: None });
                }
            }
            notes.sort_by_key(|n| (n.span.source, n.span.start, n.span.end));
            notes.dedup();
            notes
        })
    }

    /// What is noted of the page and of which sheets it has, whatever is in them.
    pub(crate) fn noted(&self) -> impl Iterator<Item = &Note> {
        self.notes.iter().filter_map(|noted| match noted {
            Noted::Note(note) => Some(note),
            Noted::In(..) => None,
        })
    }

    /// The computed values of elements, as far as they are known.
    pub(crate) fn styles(&self) -> &Arc<Styles> {
        &self.styles
    }

    /// The same, to be changed as long as nothing is known.
    fn styles_mut(&mut self) -> &mut Styles {
        Arc::make_mut(&mut self.styles)
    }

    /// The computed values of an element.
    pub(crate) fn style(&self, id: ElementId) -> &Style {
        /// What elements of another study have here.
        static NOTHING: LazyLock<Style> = LazyLock::new(Style::initial);
        self.styles.ensure(&self.page, &self.page.rule_matcher(), id, Wanted::Effective);
        self.styles.get(id).map_or(&NOTHING, |s| s)
    }

    /// The computed values of an element or pseudo-element.
    pub(crate) fn style_of(&self, id: ElementId, pseudo: Option<&PseudoElement>) -> Cow<'_, Style> {
        let own = self.style(id);
        match (pseudo, self.styles.of(id, pseudo)) {
            (None, _) => Cow::Borrowed(own),
            (_, Some(style)) => Cow::Borrowed(&**style),
            (Some(name), None) => Cow::Owned(self.styles.of_pseudo(&self.page, id, name, Wanted::Effective)),
        }
    }

    /// The same of which all that is declared is known, weakest first.
    pub(crate) fn style_among(
        &self,
        id: ElementId,
        pseudo: Option<&PseudoElement>,
        entries: &[Entry<'_>],
    ) -> Cow<'_, Style> {
        let own = self.style(id);
        match (pseudo, self.styles.of(id, pseudo)) {
            (None, _) => Cow::Borrowed(own),
            (_, Some(style)) => Cow::Borrowed(&**style),
            (Some(_), None) => Cow::Owned(self.styles.compute_from(&self.page, id, pseudo, entries, None)),
        }
    }

    /// The rules that take an element or its pseudo-elements, and what they say for it or one of those, weakest first.
    pub(crate) fn entries(&self, id: ElementId, pseudo: Option<&PseudoElement>) -> (Vec<Matched<'_>>, Vec<Entry<'_>>) {
        self.entries_wanted(id, pseudo, Wanted::All)
    }

    /// The same of some of what they say.
    pub(crate) fn entries_wanted(
        &self,
        id: ElementId,
        pseudo: Option<&PseudoElement>,
        wanted: Wanted<'_>,
    ) -> (Vec<Matched<'_>>, Vec<Entry<'_>>) {
        self.style(id);
        let matched = self.matched(id);
        let entries = style::entries_of(&self.page, &self.styles, id, &matched, pseudo, wanted);
        (matched, entries)
    }

    /// The rules that take an element or its pseudo-elements. Who asks about one property mostly asks about more.
    pub(crate) fn matched(&self, id: ElementId) -> Vec<Matched<'_>> {
        if let Some(known) = self.known.taken.read().ok().and_then(|taken| taken.of(id)) {
            return known.iter().map(|taken| taken.matched(&self.page)).collect();
        }
        let matched = style::matched_rules(&self.page, &self.page.rule_matcher(), id);
        if let Ok(mut taken) = self.known.taken.write() {
            taken.keep(id, matched.iter().map(Taken::of).collect());
        }
        matched
    }

    /// What the strongest declarations on an element come to.
    pub(crate) fn strongest(&self, id: ElementId) -> Arc<Strongest> {
        self.known.strongest.get_or(id, || {
            let (_, entries) = self.entries(id, None);
            Arc::new(Strongest::of(&self.page, self.style(id).flow, &entries))
        })
    }

    /// The same where someone asked before.
    pub(crate) fn known_strongest(&self, id: ElementId) -> Option<Arc<Strongest>> {
        self.known.strongest.get(&id)
    }

    /// What values are computed for: an element, or a pseudo-element of it.
    pub(crate) fn subject<'s>(&'s self, element: ElementId, pseudo: Option<&'s PseudoElement>) -> Subject<'s> {
        Subject { page: &self.page, readings: &self.styles.readings, element, pseudo, custom: None }
    }
}

/// The encoding that a page names in its first 1024 bytes (HTML Standard, "prescan a byte stream").
fn declared_encoding(bytes: &[u8]) -> Option<&'static encoding_rs::Encoding> {
    let start = String::from_utf8_lossy(&bytes[..bytes.len().min(1024)]).to_ascii_lowercase();
    let meta = start.match_indices("<meta").find_map(|(at, _)| {
        let tag = &start[at..at + start[at..].find('>').unwrap_or(start.len() - at)];
        let value = tag.split_once("charset")?.1.trim_start().strip_prefix('=')?.trim_start();
        let value = value.trim_start_matches(['"', '\'']);
        Some(value.split(['"', '\'', ' ', ';', '/', '>']).next().unwrap_or_default().to_owned())
    })?;
    let found = encoding_rs::Encoding::for_label(meta.as_bytes())?;
    // A page that says UTF-16 in ASCII bytes is UTF-8.
    Some(if found == encoding_rs::UTF_16LE || found == encoding_rs::UTF_16BE { encoding_rs::UTF_8 } else { found })
}
