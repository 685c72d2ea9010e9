//! A page with all its styles, resolved: the front door of the library.

mod collect;
mod hints;
mod index;

mod trial;

pub(crate) use collect::{FlatRule, Parsed, SheetEntry};
use index::{Indexed, RuleIndex};
pub use trial::{Change, Edit, Trial, TrialError};

use std::borrow::Cow;
use std::collections::HashMap;
use std::num::NonZero;
use std::sync::atomic::{AtomicUsize, Ordering};
use std::sync::{Arc, LazyLock};

use url::Url;

use crate::cascade::{Layers, Origin};
use crate::document::{Document, ElementId};
use crate::property::id;
use crate::selector::{Matcher, PseudoElement};
use crate::source::{LoadError, Loader, Source, SourceKind, Sources};
use crate::style::{self, Entry, Matched, Style, Styles, Wanted};
use crate::stylesheet::{Declaration, Note, Property, Registration, Stylesheet, function::CustomFunction};
use crate::viewing::Viewing;

/// Why a page cannot be studied at all.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
#[non_exhaustive]
pub enum Error {
    /// The page could not be loaded.
    #[error("the page cannot be opened: {0}")]
    Page(#[from] LoadError),
    /// The address is no URL on the site.
    #[error("`{0}` is no address of a page")]
    Address(String),
    /// The page has no elements, which only a text that is no page can bring about.
    #[error("`{0}` holds no page")]
    Empty(String),
}

/// What a study is made with, page and files aside.
#[derive(Clone, Debug)]
#[non_exhaustive]
pub struct Options {
    /// What the page is seen with.
    pub viewing: Viewing,
    /// Whether browser defaults are applied.
    pub defaults: bool,
    /// Whether the page's own styles are applied.
    pub author: bool,
    /// Texts of user stylesheets with the names they are shown by.
    pub user_sheets: Vec<(String, String)>,
    /// The title of the set of alternate stylesheets that is chosen; without one, the page's preferred set.
    pub alternate: Option<String>,
}

impl Default for Options {
    fn default() -> Self {
        Self { viewing: Viewing::default(), defaults: true, author: true, user_sheets: Vec::new(), alternate: None }
    }
}

/// How many elements a thread takes at once.
const RUN: usize = 128;

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
    /// The page.
    pub(crate) document: Arc<Document>,
    /// Its address.
    pub(crate) url: Url,
    /// What it was made with.
    options: Options,
    /// Parsed stylesheets that another study of the same texts can share.
    parsed: Parsed,
    /// What it is seen with.
    pub(crate) viewing: Viewing,
    /// All stylesheets, in order of appearance; `style` attributes and presentational hints among them.
    pub(crate) sheets: Vec<SheetEntry>,
    /// All style rules that conditions let through, weakest origin first, in order of appearance.
    pub(crate) rules: Vec<FlatRule>,
    /// Rules whose conditions are off.
    pub(crate) off_rules: Vec<FlatRule>,
    /// Rules of single elements: presentational hints and `style` attributes.
    pub(crate) own_rules: HashMap<ElementId, Vec<u32>>,
    /// The colour schemes that the page itself supports, by `<meta name=color-scheme>`.
    pub(crate) page_schemes: Vec<String>,
    /// Rules by their rightmost compound.
    index: RuleIndex,
    /// For each element, its names and those of the elements around it.
    inside: Vec<index::Names>,
    /// Layers of the page's own styles, then of those of each shadow tree.
    pub(crate) layers: Vec<Layers>,
    /// By tree, the rules in it that reach elements of other trees: by `:host`, `::slotted()` or `::part()`.
    pub(crate) tree_rules: Vec<Vec<u32>>,
    /// Registered custom properties.
    pub(crate) registrations: HashMap<String, Registration>,
    /// Custom functions by name: the number of the sheet and that of the rule in it.
    pub(crate) functions: HashMap<String, (u32, u32)>,
    /// The sheet of defaults that holds only where the computed `appearance` is `base-select`.
    pub(crate) base_select: Option<u32>,
    /// Computed values by element.
    styles: Arc<Styles>,
    /// What declarations with `var()` came to.
    pub(crate) readings: style::Readings,
    /// Everything that was dropped or could not be had.
    notes: Vec<Note>,
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
    /// # Errors
    /// Where the page itself cannot be had; a stylesheet that cannot is a note.
    pub fn open_with(loader: &dyn Loader, path: &str, options: &Options) -> Result<Self, Error> {
        let url = loader.site().join(path).map_err(|_| Error::Address(path.to_owned()))?;
        let loaded = loader.load(&url)?;
        let hint = loaded.charset.as_deref().and_then(|c| encoding_rs::Encoding::for_label(c.as_bytes()));
        let hint = hint.or_else(|| declared_encoding(&loaded.bytes));
        let source = Source::decode(loaded.name, &loaded.bytes, SourceKind::Page, hint);
        let name = source.name.clone();
        let mut sources = Sources::default();
        let page = sources.add(source);
        let text = sources.get(page).text.clone();
        let document = crate::document::parse(page, &text);
        if document.elements().is_empty() {
            return Err(Error::Empty(name));
        }
        Ok(Self::assemble(sources, Arc::new(document), loader, url, options.clone(), &Parsed::default()))
    }

    /// The syntax that `@property` asks for in a custom property, where it asks for any.
    pub(crate) fn custom_syntax(&self, name: &str) -> Option<&str> {
        self.registrations.get(name).map(|r| r.syntax.trim()).filter(|s| *s != "*")
    }

    /// The custom function with a name, and its sheet.
    pub(crate) fn function(&self, name: &str) -> Option<(&CustomFunction, &Stylesheet)> {
        let (sheet, index) = self.functions.get(name)?;
        let sheet = &self.sheets[*sheet as usize].sheet;
        Some((&sheet.functions[*index as usize], sheet))
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
        let (collected, parsed) = collect::collect(&mut sources, &document, loader, &url, &options, parsed);
        let count = document.count();
        let mut study = Self {
            index: RuleIndex::new(&collected.rules, &options.viewing.states, document.quirks),
            page_schemes: page_schemes(&document),
            inside: names_inside(&document),
            sources,
            document,
            viewing: options.viewing.clone(),
            url,
            options,
            parsed,
            sheets: collected.sheets,
            rules: collected.rules,
            off_rules: collected.off_rules,
            own_rules: collected.own_rules,
            base_select: collected.base_select,
            layers: collected.layers,
            tree_rules: Vec::new(),
            registrations: collected.registrations,
            functions: collected.functions,
            styles: Arc::new(Styles::unknown(count)),
            readings: style::Readings::default(),
            notes: collected.notes,
        };
        study.tree_rules = study.rules_across_trees();
        study
    }

    /// Computes the values of all elements at once; without it, those of an element are when they are first asked for.
    pub fn resolve_all(&self) {
        let matcher = self.matcher();
        for id in self.document.all_ids() {
            self.styles.ensure(self, &matcher, id, Wanted::Effective);
        }
    }

    /// The same on up to so many threads, which end before it returns. The values are the same as on one.
    pub fn resolve_all_on(&self, threads: NonZero<usize>) {
        let count = self.document.count();
        let runs = count.div_ceil(RUN);
        if threads.get() == 1 || runs < 2 {
            return self.resolve_all();
        }
        let next = AtomicUsize::new(0);
        let work = || {
            let matcher = self.matcher();
            // Elements near each other have most of what is around them in common.
            while let Some(run) = Some(next.fetch_add(1, Ordering::Relaxed)).filter(|run| *run < runs) {
                for id in (run * RUN..count.min((run + 1) * RUN)).map(|i| ElementId(crate::source::offset(i))) {
                    self.styles.ensure(self, &matcher, id, Wanted::Effective);
                }
            }
        };
        std::thread::scope(|scope| {
            for _ in 1..threads.get().min(runs) {
                scope.spawn(work);
            }
            work();
        });
    }

    /// Whether a rule may give a pseudo-element content.
    pub(crate) fn gives_content(&self, rule: u32) -> bool {
        let about_content = |d: &Declaration| matches!(d.property, Property::Known(id::CONTENT | id::ALL));
        self.style_rule(&self.rules[rule as usize]).declarations.iter().any(about_content)
    }

    /// Calls `f` with the selectors that may take an element: those of its tree, and those for all trees. One may come
    /// several times.
    pub(crate) fn candidates(&self, id: ElementId, f: &mut impl FnMut(&Indexed)) {
        let tree = self.document.element(id).tree;
        let one_tree = self.document.shadow_count() == 0;
        self.candidates_in(&self.index, id, &mut |found| {
            if one_tree || self.rules[found.rule as usize].tree.is_none_or(|t| t == tree) {
                f(found);
            }
        });
    }

    /// Calls `f` with those selectors of an index that may take an element, whatever their tree.
    fn candidates_in(&self, index: &RuleIndex, id: ElementId, f: &mut impl FnMut(&Indexed)) {
        let element = self.document.element(id);
        let around = element.parent.map(|p| self.inside[p.index()]).unwrap_or_default();
        index.candidates(element, &around, self.document.quirks, f);
    }

    /// By tree, the rules that reach elements of other trees.
    fn rules_across_trees(&self) -> Vec<Vec<u32>> {
        let mut found = vec![Vec::new(); self.document.shadow_count() + 1];
        if found.len() == 1 {
            return found;
        }
        for (i, rule) in self.rules.iter().enumerate() {
            let list = &self.style_rule(rule).selectors;
            // The host may be a scoping root.
            let crosses = crate::selector::aims_at_host(list)
                || !rule.within.scopes.is_empty()
                || list.selectors.iter().any(|s| s.slotted.is_some() || !s.parts.is_empty());
            if let Some(tree) = rule.tree.filter(|_| crosses) {
                found[tree as usize].push(crate::source::offset(i));
            }
        }
        found
    }

    /// The page as a tree.
    #[must_use]
    pub fn document(&self) -> &Document {
        &self.document
    }

    /// All texts that the page is made of.
    #[must_use]
    pub fn sources(&self) -> &Sources {
        &self.sources
    }

    /// The titles of the page's sets of styles, the preferred one first (CSSOM 1, §6.3 "Style Sheet Collections").
    #[must_use]
    pub fn alternates(&self) -> Vec<String> {
        collect::titles(&self.document)
    }

    /// What the page is seen with.
    #[must_use]
    pub fn viewing(&self) -> &Viewing {
        &self.viewing
    }

    /// Everything that was dropped, could not be loaded or could not be decided, browser defaults aside.
    #[must_use]
    pub fn notes(&self) -> &[Note] {
        &self.notes
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
        self.styles.ensure(self, &self.matcher(), id, Wanted::Effective);
        self.styles.get(id).map_or(&NOTHING, |s| s)
    }

    /// The computed values of an element or pseudo-element.
    pub(crate) fn style_of(&self, id: ElementId, pseudo: Option<&PseudoElement>) -> Cow<'_, Style> {
        let own = self.style(id);
        match (pseudo, self.styles.of(id, pseudo)) {
            (None, _) => Cow::Borrowed(own),
            (_, Some(style)) => Cow::Borrowed(&**style),
            (Some(name), None) => Cow::Owned(self.styles.of_pseudo(self, id, name, Wanted::Effective)),
        }
    }

    /// The rules that take an element or its pseudo-elements, and what they say for it or one of those, weakest first.
    pub(crate) fn entries(&self, id: ElementId, pseudo: Option<&PseudoElement>) -> (Vec<Matched<'_>>, Vec<Entry<'_>>) {
        self.style(id);
        let matched = style::matched_rules(self, &self.matcher(), id);
        let entries = style::entries_of(self, &self.styles, id, &matched, pseudo, Wanted::All);
        (matched, entries)
    }

    /// A matcher for the page as it is seen.
    pub(crate) fn matcher(&self) -> Matcher<'_> {
        Matcher::new(&self.document, &self.viewing.states)
    }

    /// The name of the layer of a rule.
    pub(crate) fn layer_name(&self, rule: &FlatRule) -> Option<&str> {
        let layers = self.layers.get(rule.tree.unwrap_or(0) as usize)?;
        (rule.within.layer != 0 && rule.origin == Origin::Author).then(|| layers.name(rule.within.layer)).flatten()
    }
}

/// For each element, its names and those of the elements around it.
fn names_inside(document: &Document) -> Vec<index::Names> {
    let mut inside: Vec<index::Names> = Vec::with_capacity(document.count());
    for element in document.all_ids().map(|id| document.element(id)) {
        let around = element.parent.map(|p| inside[p.index()]).unwrap_or_default();
        inside.push(around.with(element, document.quirks));
    }
    inside
}

/// The colour schemes of `<meta name=color-scheme>` (HTML Standard, "Standard metadata names").
fn page_schemes(document: &Document) -> Vec<String> {
    let meta = document.elements().iter().filter(|e| e.is_html("meta"));
    let mut meta = meta.filter(|e| e.attribute("name").is_some_and(|n| n.eq_ignore_ascii_case("color-scheme")));
    let content = meta.find_map(|e| e.attribute("content")).unwrap_or("normal");
    content.split_whitespace().map(str::to_ascii_lowercase).collect()
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
