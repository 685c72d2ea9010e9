//! A page as plain data that styles are worked out from: its elements, and its rules in order.
//!
//! What comes in: a parsed document and a loader. What goes out: a [`Page`] with all sheets loaded, conditions decided, layers
//! in order, and rules found by what they ask for. HTML Standard, "Links", "The style element"; CSS Cascade 6, §2 to §6.

mod collect;
mod hints;
mod index;

pub(crate) use collect::{FlatRule, Noted, OfSite, Off, Parsed, Read, SheetEntry, links, titles, unknown_encoding};
pub(crate) use index::{Indexed, RuleIndex};

use std::sync::{Arc, OnceLock};

use rustc_hash::FxHashMap;
use url::Url;

use crate::cascade::{Layers, Origin};
use crate::document::{Document, ElementId};
use crate::property::id;
use crate::selector::{Matcher, SelectorList};
use crate::source::{Loader, Sources, Span};
use crate::stylesheet::{Declaration, Property, Registration, StyleRule, Stylesheet, function::CustomFunction};
use crate::viewing::Viewing;

/// What a study is made with, page and files aside.
///
/// ```
/// # use clear_cascade::{MemoryLoader, Study};
/// # let files = MemoryLoader::default().with(
/// #     "a.html",
/// #     "<!DOCTYPE html><style>p { color: navy; margin: 1px } .lead { color: gold } p::before { content: '*' } b { widht: 2px; width: 3px }
/// #     @media print { p { color: black } }</style><body><p id=one class=lead>Hello <b>you</b></p><p id=two>Bye</p></body>",
/// # );
/// # let page = Study::open(&files, "a.html")?;
/// use clear_cascade::Options;
/// let options = Options::default().user_sheet("mine.css", "p { color: teal }");
/// let mine = Study::open_with(&files, "a.html", &options)?;
/// assert_eq!(mine.sources().iter().filter(|(_, source)| source.name == "mine.css").count(), 1);
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
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

impl Options {
    /// With the page seen so.
    ///
    /// ```
    /// use clear_cascade::{MemoryLoader, Options, Study, Viewing};
    /// let files = MemoryLoader::default().with("a.html", "<p>Hello");
    /// let options = Options::default().viewing(Viewing::print()).user_sheet("mine.css", "p { color: navy }");
    /// let page = Study::open_with(&files, "a.html", &options)?;
    /// assert_eq!(page.value(page.select("p").unwrap()[0], "color").unwrap(), "rgb(0, 0, 128)");
    /// # Ok::<(), clear_cascade::Error>(())
    /// ```
    #[must_use]
    pub fn viewing(self, viewing: Viewing) -> Self {
        Self { viewing, ..self }
    }

    /// Without browser defaults.
    ///
    /// ```
    /// # use clear_cascade::{MemoryLoader, Study};
    /// # let files = MemoryLoader::default().with(
    /// #     "a.html",
    /// #     "<!DOCTYPE html><style>p { color: navy; margin: 1px } .lead { color: gold } p::before { content: '*' } b { widht: 2px; width: 3px }
    /// #     @media print { p { color: black } }</style><body><p id=one class=lead>Hello <b>you</b></p><p id=two>Bye</p></body>",
    /// # );
    /// # let page = Study::open(&files, "a.html")?;
    /// let bare = Study::open_with(&files, "a.html", &clear_cascade::Options::default().without_defaults())?;
    /// assert_eq!(bare.value(bare.select("p")?[0], "display").as_deref(), Some("inline"));
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    #[must_use]
    pub fn without_defaults(self) -> Self {
        Self { defaults: false, ..self }
    }

    /// Without the page's own styles.
    ///
    /// ```
    /// # use clear_cascade::{MemoryLoader, Study};
    /// # let files = MemoryLoader::default().with(
    /// #     "a.html",
    /// #     "<!DOCTYPE html><style>p { color: navy; margin: 1px } .lead { color: gold } p::before { content: '*' } b { widht: 2px; width: 3px }
    /// #     @media print { p { color: black } }</style><body><p id=one class=lead>Hello <b>you</b></p><p id=two>Bye</p></body>",
    /// # );
    /// # let page = Study::open(&files, "a.html")?;
    /// let plain = Study::open_with(&files, "a.html", &clear_cascade::Options::default().without_author())?;
    /// assert_eq!(plain.value(plain.select("p")?[0], "color").as_deref(), Some("rgb(0, 0, 0)"));
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    #[must_use]
    pub fn without_author(self) -> Self {
        Self { author: false, ..self }
    }

    /// With one more stylesheet of the user, after those before, and the name it is shown by.
    ///
    /// ```
    /// # use clear_cascade::{MemoryLoader, Study};
    /// # let files = MemoryLoader::default().with(
    /// #     "a.html",
    /// #     "<!DOCTYPE html><style>p { color: navy; margin: 1px } .lead { color: gold } p::before { content: '*' } b { widht: 2px; width: 3px }
    /// #     @media print { p { color: black } }</style><body><p id=one class=lead>Hello <b>you</b></p><p id=two>Bye</p></body>",
    /// # );
    /// # let page = Study::open(&files, "a.html")?;
    /// let options = clear_cascade::Options::default().user_sheet("mine.css", "p { color: teal !important }");
    /// let mine = Study::open_with(&files, "a.html", &options)?;
    /// assert_eq!(mine.value(mine.select("p")?[0], "color").as_deref(), Some("rgb(0, 128, 128)"));
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    #[must_use]
    pub fn user_sheet(mut self, name: impl Into<String>, text: impl Into<String>) -> Self {
        self.user_sheets.push((name.into(), text.into()));
        self
    }

    /// With the set of alternate stylesheets of this title.
    ///
    /// ```
    /// use clear_cascade::{MemoryLoader, Study};
    /// let files = MemoryLoader::default().with("a.html", r#"<!DOCTYPE html><style title=Light>p { color: black }</style><link rel="alternate stylesheet" title=Dark href="data:text/css,p{color:white}"><p>"#);
    /// let page = Study::open(&files, "a.html")?;
    /// let dark = Study::open_with(&files, "a.html", &clear_cascade::Options::default().alternate("Dark"))?;
    /// assert_eq!(dark.value(dark.select("p")?[0], "color").as_deref(), Some("rgb(255, 255, 255)"));
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    #[must_use]
    pub fn alternate(self, title: impl Into<String>) -> Self {
        Self { alternate: Some(title.into()), ..self }
    }
}

/// A page with all its rules.
#[derive(Debug)]
pub(crate) struct Page {
    /// The elements.
    pub(crate) document: Arc<Document>,
    /// What it is seen with.
    pub(crate) viewing: Viewing,
    /// All stylesheets, in order of appearance; `style` attributes and presentational hints among them.
    pub(crate) sheets: Vec<SheetEntry>,
    /// All style rules that conditions let through, weakest origin first, in order of appearance.
    pub(crate) rules: Vec<FlatRule>,
    /// Rules whose conditions are off.
    pub(crate) off_rules: Vec<FlatRule>,
    /// Rules of single elements: presentational hints and `style` attributes.
    pub(crate) own_rules: FxHashMap<ElementId, Vec<u32>>,
    /// The colour schemes that the page itself supports, by `<meta name=color-scheme>`.
    pub(crate) schemes: Vec<String>,
    /// Rules by their rightmost compound.
    index: RuleIndex,
    /// Rules that are off by theirs, once somebody asked for them, and those of them that reach elements of other trees.
    off_index: OnceLock<(RuleIndex, Vec<u32>)>,
    /// Layers of the page's own styles, then of those of each shadow tree.
    pub(crate) layers: Vec<Layers>,
    /// By tree, the rules in it that reach elements of other trees: by `:host`, `::slotted()` or `::part()`.
    pub(crate) tree_rules: Vec<Vec<u32>>,
    /// Registered custom properties.
    pub(crate) registrations: FxHashMap<String, Registration>,
    /// Custom functions by name: the number of the sheet and that of the rule in it.
    pub(crate) functions: FxHashMap<String, (u32, u32)>,
    /// The sheet of defaults that holds only where the computed `appearance` is `base-select`.
    pub(crate) base_select: Option<u32>,
    /// Whether values may go by the place of an element among its siblings.
    pub(crate) counts_siblings: bool,
}

impl Page {
    /// Gathers the rules of a document; stylesheets that are in `parsed` are not read again. Gives what was dropped, and all
    /// that was read.
    pub(crate) fn gather(
        sources: &mut Sources,
        document: Arc<Document>,
        loader: &dyn Loader,
        url: &Url,
        options: &Options,
        parsed: &Parsed,
    ) -> (Self, Vec<Noted>, Parsed) {
        let (collected, parsed) = collect::collect(sources, &document, loader, url, options, parsed);
        let mut page = Self {
            index: RuleIndex::new(&collected.rules, &collected.sheets, &document, &options.viewing.states),
            schemes: page_schemes(&document),
            off_index: OnceLock::new(),
            counts_siblings: collected.sheets.iter().any(|e| e.sheet.tokens.counts_siblings),
            document,
            viewing: options.viewing.clone(),
            sheets: collected.sheets,
            rules: collected.rules,
            off_rules: collected.off_rules,
            own_rules: collected.own_rules,
            base_select: collected.base_select,
            layers: collected.layers,
            tree_rules: Vec::new(),
            registrations: collected.registrations,
            functions: collected.functions,
        };
        page.tree_rules = page.rules_across_trees();
        (page, collected.notes, parsed)
    }

    /// Whether custom properties are texts alone: none is registered, and no function has types.
    pub(crate) fn is_untyped(&self) -> bool {
        self.registrations.is_empty() && self.functions.is_empty()
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

    /// The selectors of a rule.
    pub(crate) fn selectors(&self, rule: &FlatRule) -> &Arc<SelectorList> {
        let sheet = &self.sheets[rule.sheet as usize].sheet;
        sheet.selectors(&sheet.rules[rule.rule as usize])
    }

    /// The declarations of a rule, in written order.
    pub(crate) fn declarations(&self, rule: &FlatRule) -> &[Declaration] {
        let sheet = &self.sheets[rule.sheet as usize].sheet;
        sheet.declarations(&sheet.rules[rule.rule as usize])
    }

    /// Reads what a rule says, by its number.
    pub(crate) fn read_ahead(&self, rule: u32) {
        let rule = &self.rules[rule as usize];
        let sheet = &self.sheets[rule.sheet as usize].sheet;
        sheet.read_ahead(&sheet.rules[rule.rule as usize]);
    }

    /// The style rule behind a rule's place in the cascade.
    pub(crate) fn style_rule(&self, rule: &FlatRule) -> &StyleRule {
        &self.sheets[rule.sheet as usize].sheet.rules[rule.rule as usize]
    }

    /// Where the selectors of a rule are written.
    pub(crate) fn prelude(&self, rule: &FlatRule) -> Span {
        self.sheets[rule.sheet as usize].sheet.prelude(self.style_rule(rule))
    }

    /// Where the block of a rule ends, as a byte of its source.
    pub(crate) fn end_of(&self, rule: &FlatRule) -> u32 {
        self.sheets[rule.sheet as usize].sheet.end_of(self.style_rule(rule))
    }

    /// Whether a rule may give a pseudo-element content.
    pub(crate) fn gives_content(&self, rule: u32) -> bool {
        let about_content = |d: &Declaration| matches!(d.property, Property::Known(id::CONTENT | id::ALL));
        self.declarations(&self.rules[rule as usize]).iter().any(about_content)
    }

    /// Its rules by what their selectors ask for.
    pub(crate) fn index(&self) -> &RuleIndex {
        &self.index
    }

    /// Calls `f` with the selectors that may take an element: those of its tree, and those for all trees. One may come
    /// several times.
    pub(crate) fn candidates(&self, id: ElementId, f: &mut impl FnMut(&Indexed)) {
        let tree = self.document.node(id).tree;
        let one_tree = self.document.shadow_count() == 0;
        self.candidates_in(&self.index, id, &mut |found| {
            if one_tree || self.rules[found.rule as usize].within.tree.is_none_or(|t| t == tree) {
                f(found);
            }
        });
    }

    /// The rules that are off and may take an element, in their order.
    pub(crate) fn off_candidates(&self, id: ElementId) -> Vec<&FlatRule> {
        let (index, crossing) = self.off_index.get_or_init(|| {
            let index = RuleIndex::new(&self.off_rules, &self.sheets, &self.document, &self.viewing.states);
            let places = (0..crate::source::offset(self.off_rules.len()))
                .filter(|i| self.document.shadow_count() > 0 && self.crosses(&self.off_rules[*i as usize]));
            (index, places.collect())
        });
        let mut found = crossing.clone();
        self.candidates_in(index, id, &mut |c| found.push(c.rule));
        found.sort_unstable();
        found.dedup();
        found.into_iter().map(|rule| &self.off_rules[rule as usize]).collect()
    }

    /// Calls `f` with those selectors of an index that may take an element, whatever their tree.
    pub(crate) fn candidates_in(&self, index: &RuleIndex, id: ElementId, f: &mut impl FnMut(&Indexed)) {
        index.candidates(&self.document, id, f);
    }

    /// Whether a rule may reach elements of other trees.
    fn crosses(&self, rule: &FlatRule) -> bool {
        let list = self.selectors(rule);
        // The host may be a scoping root.
        crate::selector::aims_at_host(list)
            || !rule.within.scopes.is_empty()
            || list.selectors.iter().any(|s| s.slotted.is_some() || !s.parts.is_empty())
    }

    /// By tree, the rules that reach elements of other trees.
    fn rules_across_trees(&self) -> Vec<Vec<u32>> {
        let mut found = vec![Vec::new(); self.document.shadow_count() + 1];
        if found.len() == 1 {
            return found;
        }
        for (i, rule) in self.rules.iter().enumerate() {
            if let Some(tree) = rule.within.tree.filter(|_| self.crosses(rule)) {
                found[tree as usize].push(crate::source::offset(i));
            }
        }
        found
    }

    /// A matcher for the page as it is seen, for the page's own rules.
    pub(crate) fn rule_matcher(&self) -> Matcher<'_> {
        self.matcher().keeping()
    }

    /// A matcher for the page as it is seen.
    pub(crate) fn matcher(&self) -> Matcher<'_> {
        Matcher::new(&self.document, &self.viewing.states)
    }

    /// The name of the layer of a rule.
    pub(crate) fn layer_name(&self, rule: &FlatRule) -> Option<&str> {
        let layers = self.layers.get(rule.within.tree.unwrap_or(0) as usize)?;
        (rule.within.layer != 0 && rule.within.origin == Origin::Author)
            .then(|| layers.name(rule.within.layer))
            .flatten()
    }
}

/// The colour schemes of `<meta name=color-scheme>` (HTML Standard, "Standard metadata names").
fn page_schemes(document: &Document) -> Vec<String> {
    let meta = document.light().iter().filter(|e| e.is_html("meta"));
    let mut meta = meta.filter(|e| e.attribute("name").is_some_and(|n| n.eq_ignore_ascii_case("color-scheme")));
    let content = meta.find_map(|e| e.attribute("content")).unwrap_or("normal");
    content.split_whitespace().map(str::to_ascii_lowercase).collect()
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::document::Element;

    #[test]
    fn what_pages_have_many_of_stays_small() {
        let sizes = [size_of::<StyleRule>(), size_of::<FlatRule>(), size_of::<Element>(), size_of::<Declaration>()];
        assert_eq!(sizes, [56, 24, 120, 120]);
    }
}
