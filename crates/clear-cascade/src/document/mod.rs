//! A page as a tree of elements that know where they stand.
//!
//! What comes in: the text of an HTML page. What goes out: a [`Document`], its elements numbered in document order from
//! the root, `0`, without the contents of `<template>`; each with its attributes and their places. Scripts never run.
//! HTML Standard, "Parsing HTML documents"; the tree building itself is html5ever's.

mod builder;
mod controls;
mod element_ref;
mod name;
mod nesting;
mod numbers;
mod positions;

pub(crate) use builder::parse;
pub use element_ref::{ElementRef, ForeignElement};
pub use name::Name;
pub(crate) use numbers::{Bit, NameOf, NameSet, Numbers, sketch};
/// A text that is short nearly always: the type of the crate `smol_str`.
pub use smol_str::SmolStr;

use std::collections::HashMap;
use std::hash::Hash;
use std::num::NonZero;
use std::ops::Range;
use std::sync::OnceLock;

use rustc_hash::FxHashMap;
use smallvec::SmallVec;

use crate::source::{OffsetMap, SourceId, Span};

/// Which element of which page: its number in document order, the root being 0, and the page it was counted in.
///
/// An id holds for every [`Document`] that was parsed from the same text, so also for the page opened again, seen otherwise, or
/// with other stylesheets; everything else refuses it with [`ForeignElement`]. One that is read from a text or from JSON, where it
/// is its number, is of no page yet and holds for any that has such a number.
///
/// ```
/// use clear_cascade::{MemoryLoader, Study};
/// let files = MemoryLoader::default().with("a.html", "<!DOCTYPE html><style>p { color: navy } #x { top: 1px }</style><p id=x class='a b' title=hi>Hello <b>you</b>");
/// let page = Study::open(&files, "a.html").unwrap();
///
/// let p = page.select("p")?[0];
/// assert_eq!((p.number(), p.to_string().as_str()), (4, "@4"));
/// let other = Study::open(&files.with("b.html", "<p>Bye"), "b.html")?;
/// assert!(other.value(p, "color").is_none() && other.why(p, "color").is_err());
/// let read: clear_cascade::document::ElementId = "@2".parse()?; // Of no page yet.
/// assert!(page.value(read, "color").is_some() && other.value(read, "color").is_some());
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct ElementId {
    /// The number.
    number: u32,
    /// The text that it was counted in.
    page: Mark,
}

impl ElementId {
    /// The number itself, which is what answers print behind `@`.
    #[must_use]
    pub fn number(self) -> u32 {
        self.number
    }

    /// As an index of side tables.
    pub(crate) fn index(self) -> usize {
        self.number as usize
    }
}

impl std::str::FromStr for ElementId {
    type Err = std::num::ParseIntError;

    /// Reads `@7` or `7`.
    fn from_str(text: &str) -> Result<Self, Self::Err> {
        text.strip_prefix('@').unwrap_or(text).parse().map(|number| Self { number, page: Mark::ANY })
    }
}

impl serde::Serialize for ElementId {
    fn serialize<S: serde::Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        serializer.serialize_u32(self.number)
    }
}

impl<'de> serde::Deserialize<'de> for ElementId {
    fn deserialize<D: serde::Deserializer<'de>>(deserializer: D) -> Result<Self, D::Error> {
        u32::deserialize(deserializer).map(|number| Self { number, page: Mark::ANY })
    }
}

#[cfg(feature = "schema")]
impl schemars::JsonSchema for ElementId {
    fn schema_name() -> std::borrow::Cow<'static, str> {
        "ElementId".into()
    }

    fn json_schema(_: &mut schemars::SchemaGenerator) -> schemars::Schema {
        schemars::json_schema!({
            "description": "The number of an element in document order; the root is 0.",
            "type": "integer",
            "minimum": 0
        })
    }
}

impl std::fmt::Display for ElementId {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        write!(f, "@{}", self.number)
    }
}

/// What tells one page's text from another's: a hash of it.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub(crate) struct Mark(NonZero<u32>);

impl Mark {
    /// That of no page yet.
    const ANY: Self = Self(NonZero::<u32>::MAX);

    /// The mark of a text.
    pub(crate) fn of(text: &str) -> Self {
        Self(NonZero::new(crate::text::mark(text)).filter(|m| *m != NonZero::<u32>::MAX).unwrap_or(NonZero::<u32>::MIN))
    }

    /// The element at an index of the page that this is the mark of.
    fn at(self, index: usize) -> ElementId {
        ElementId { number: crate::source::offset(index), page: self }
    }
}

/// The namespace of an element.
///
/// ```
/// use clear_cascade::{MemoryLoader, Study};
/// let files = MemoryLoader::default().with("a.html", "<svg><circle r=1 /></svg>");
/// let page = Study::open(&files, "a.html")?;
/// use clear_cascade::document::Namespace;
/// let element = page.document().element(page.select("circle")?[0])?;
/// assert_eq!(element.namespace, Namespace::Svg);
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
#[non_exhaustive]
pub enum Namespace {
    /// HTML elements.
    Html,
    /// SVG elements.
    Svg,
    /// MathML elements.
    MathMl,
    /// Anything else.
    Other,
}

impl Namespace {
    /// The namespace of a URL.
    pub(crate) fn of(url: &str) -> Self {
        match url {
            "http://www.w3.org/1999/xhtml" => Self::Html,
            "http://www.w3.org/2000/svg" => Self::Svg,
            "http://www.w3.org/1998/Math/MathML" => Self::MathMl,
            _ => Self::Other,
        }
    }
}

/// An attribute with its places.
///
/// ```
/// use clear_cascade::{MemoryLoader, Study};
/// let files = MemoryLoader::default().with("a.html", "<p class='lead big'>");
/// let page = Study::open(&files, "a.html")?;
/// let p = page.document().element(page.select("p")?[0])?;
/// let class = &p.attributes[0];
/// assert_eq!((class.name.as_str(), &*class.value), ("class", "lead big"));
/// assert_eq!(page.sources().text(class.value_span), Some("lead big"));
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Debug)]
pub struct Attribute {
    /// Its name, in lower case on HTML elements.
    pub name: Name,
    /// The namespace URL of its name; empty for nearly all.
    pub namespace: Box<str>,
    /// Its value, character references decoded.
    pub value: SmolStr,
    /// Where the name is written.
    pub name_span: Span,
    /// Where the value is written, quotes excluded; the end of the name where there is no value.
    pub value_span: Span,
}

/// A child node; comments are left out.
///
/// ```
/// # use clear_cascade::{MemoryLoader, Study};
/// # let files = MemoryLoader::default().with(
/// #     "a.html",
/// #     "<!DOCTYPE html><style>p { color: navy; margin: 1px } .lead { color: gold } p::before { content: '*' } b { widht: 2px; width: 3px }
/// #     @media print { p { color: black } }</style><body><p id=one class=lead>Hello <b>you</b></p><p id=two>Bye</p></body>",
/// # );
/// # let page = Study::open(&files, "a.html")?;
/// use clear_cascade::document::Child;
/// let p = page.document().element(page.select("#one")?[0])?;
/// assert!(matches!(&p.children[0], Child::Text(text) if &**text == "Hello "));
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Debug)]
pub enum Child {
    /// An element.
    Element(ElementId),
    /// A run of text.
    Text(SmolStr),
}

/// An element.
///
/// ```
/// use clear_cascade::{MemoryLoader, Study};
/// let files = MemoryLoader::default().with("a.html", "<!DOCTYPE html><style>p { color: navy } #x { top: 1px }</style><p id=x class='a b' title=hi>Hello <b>you</b>");
/// let page = Study::open(&files, "a.html").unwrap();
///
/// let p = page.document().element(page.select("p")?[0])?;
/// assert_eq!((p.name.as_str(), p.attribute("title"), p.own_text().as_str()), ("p", Some("hi"), "Hello "));
/// assert!(p.is_html("p") && p.classes.iter().any(|class| *class == "b"));
/// let title = p.attribute_entry("title").unwrap();
/// assert_eq!(page.sources().text(title.value_span), Some("hi"));
/// assert_eq!(p.child_elements().count(), 1);
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Debug)]
pub struct Element {
    /// Its local name, such as `h1`.
    pub name: Name,
    /// The namespace of the name.
    pub namespace: Namespace,
    /// Its attributes in written order; of two with one name the first.
    pub attributes: Box<[Attribute]>,
    /// Its id, where it has a non-empty one.
    pub id: Option<Name>,
    /// Its classes in written order.
    pub classes: Box<[Name]>,
    /// The start tag; none where the parser implied the element.
    pub tag: Option<Span>,
    /// The element around it.
    pub parent: Option<ElementId>,
    /// The element before it among its siblings.
    pub previous: Option<ElementId>,
    /// The element after it among its siblings.
    pub next: Option<ElementId>,
    /// Its place among its sibling elements, from 1.
    pub position: u32,
    /// Its child nodes, comments left out.
    pub children: Box<[Child]>,
    /// How many elements of its tree are around it.
    pub(crate) depth: u32,
    /// The tree it is in: 0 for the page, else the number of a shadow tree.
    pub(crate) tree: u32,
    /// The shadow tree it is the host of; 0 for none.
    pub(crate) shadow: u32,
}

impl Element {
    /// Whether it is a link that brings a style sheet (HTML Standard, "Link type stylesheet").
    pub(crate) fn brings_sheet(&self) -> bool {
        let rel = self.attribute("rel").unwrap_or_default();
        self.is_html("link") && rel.split_ascii_whitespace().any(|word| word.eq_ignore_ascii_case("stylesheet"))
    }

    /// The value of an attribute without a namespace.
    #[must_use]
    pub fn attribute(&self, name: &str) -> Option<&str> {
        self.attribute_entry(name).map(|a| &*a.value)
    }

    /// An attribute without a namespace, with its places.
    #[must_use]
    pub fn attribute_entry(&self, name: &str) -> Option<&Attribute> {
        self.attributes.iter().find(|a| &*a.name == name && a.namespace.is_empty())
    }

    /// Whether it is an HTML element with this name.
    #[must_use]
    pub fn is_html(&self, name: &str) -> bool {
        self.namespace == Namespace::Html && &*self.name == name
    }

    /// The element children.
    pub fn child_elements(&self) -> impl DoubleEndedIterator<Item = ElementId> + '_ {
        self.children.iter().filter_map(|c| match c {
            Child::Element(id) => Some(*id),
            Child::Text(_) => None,
        })
    }

    /// The text directly inside, without that of elements inside.
    #[must_use]
    pub fn own_text(&self) -> String {
        self.children.iter().filter_map(|c| if let Child::Text(t) = c { Some(&**t) } else { None }).collect()
    }
}

/// A tree behind an element, from `<template shadowrootmode>` (HTML Standard, "The template element").
#[derive(Clone, Debug)]
pub(crate) struct ShadowTree {
    /// The element it is behind.
    pub(crate) host: ElementId,
    /// The elements at its top.
    pub(crate) tops: Vec<ElementId>,
    /// Its place among all trees in shadow-including tree order, from 1; the page comes first (DOM Standard).
    pub(crate) place: u32,
}

/// A parsed page.
///
/// ```
/// use clear_cascade::{MemoryLoader, Study};
/// let files = MemoryLoader::default().with("a.html", "<!DOCTYPE html><style>p { color: navy } #x { top: 1px }</style><p id=x class='a b' title=hi>Hello <b>you</b>");
/// let page = Study::open(&files, "a.html").unwrap();
///
/// let document = page.document();
/// assert!(!document.quirks() && document.elements().len() == 6);
/// let p = document.id(4).unwrap();
/// assert_eq!(document.get(p).unwrap().label(), "p#x.a.b");
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Debug)]
pub struct Document {
    /// The page's text.
    pub(crate) source: SourceId,
    /// What its elements are known by.
    mark: Mark,
    /// The elements in document order; those of shadow trees follow, tree by tree.
    elements: Vec<Element>,
    /// How many elements the page itself has.
    light: u32,
    /// The shadow trees; the tree with number `n` is at `n - 1`.
    shadows: Vec<ShadowTree>,
    /// The slots that children of hosts are assigned to (DOM Standard, "Finding slots and slottables").
    assigned: HashMap<ElementId, ElementId>,
    /// Whether the page is in quirks mode.
    pub(crate) quirks: bool,
    /// Offsets of the text of each `<style>`, and of values with character references, by element.
    pub(crate) texts: Vec<(ElementId, OffsetMap, Box<str>)>,
    /// The end tags of elements that have no start tag but were made by one.
    end_tags: HashMap<ElementId, Span>,
    /// Elements that are written inside another than they are in, in document order, with that one.
    misplaced: Vec<(ElementId, ElementId)>,
    /// `<details>` that are closed since one with their name is open before them, in document order, with that one.
    closed: Vec<(ElementId, ElementId)>,
    /// The attributes, by name, of elements that have a great many, once someone asked for them.
    crowded: OnceLock<Crowded>,
    /// Its names as numbers, once someone asked for them.
    numbers: OnceLock<Box<Numbers>>,
    /// What form controls are to each other, once someone asked for it.
    controls: OnceLock<Box<controls::Controls>>,
}

/// Places of attributes by element and name in lower case.
type Crowded = FxHashMap<(ElementId, Name), SmallVec<[u32; 1]>>;

/// How many attributes or classes of an element are looked through one by one.
const FEW: usize = 32;

impl Document {
    /// Its names as numbers; made when first asked for.
    pub(crate) fn numbers(&self) -> &Numbers {
        self.numbers.get_or_init(|| Box::new(Numbers::of(self)))
    }

    /// The attributes of an element among which those with a name are, given in lower case: all of few, and of many only those
    /// that have it in some case.
    pub(crate) fn attributes_for<'d>(&'d self, id: ElementId, lower: &Name) -> impl Iterator<Item = &'d Attribute> {
        let all = &self.node(id).attributes;
        let many = all.len() > FEW;
        let places = if many { self.crowded().get(&(id, lower.clone())) } else { None };
        let few = if many { &[] } else { &all[..] };
        few.iter().chain(places.into_iter().flatten().map(|i| &all[*i as usize]))
    }

    /// The attributes, by name, of elements that have a great many.
    fn crowded(&self) -> &Crowded {
        self.crowded.get_or_init(|| {
            let mut crowded = Crowded::default();
            for id in self.all_ids().filter(|id| self.node(*id).attributes.len() > FEW) {
                for (i, attribute) in self.node(id).attributes.iter().enumerate() {
                    let lower = Name::from(attribute.name.to_ascii_lowercase());
                    crowded.entry((id, lower)).or_default().push(crate::source::offset(i));
                }
            }
            crowded
        })
    }

    /// Whether an element has a class; in quirks mode ASCII case does not count (Selectors 4, §6.6).
    pub(crate) fn has_class(&self, id: ElementId, name: &Name) -> bool {
        let classes = &self.node(id).classes;
        if classes.len() <= FEW {
            return classes.iter().any(|class| self.same_name(class, name));
        }
        let numbers = self.numbers();
        numbers.get(NameOf::Class, name).is_some_and(|class| numbers.has_class(id.number, class))
    }

    /// Whether two class names or ids are the same; in quirks mode ASCII case does not count.
    pub(crate) fn same_name(&self, a: &Name, b: &Name) -> bool {
        a == b || (self.quirks && a.eq_ignore_ascii_case(b))
    }

    /// The page's text, in [`Study::sources`](crate::Study::sources).
    ///
    /// ```
    /// # use clear_cascade::{MemoryLoader, Study};
    /// # let files = MemoryLoader::default().with(
    /// #     "a.html",
    /// #     "<!DOCTYPE html><style>p { color: navy; margin: 1px } .lead { color: gold } p::before { content: '*' } b { widht: 2px; width: 3px }
    /// #     @media print { p { color: black } }</style><body><p id=one class=lead>Hello <b>you</b></p><p id=two>Bye</p></body>",
    /// # );
    /// # let page = Study::open(&files, "a.html")?;
    /// assert!(page.sources().get(page.document().source()).is_some());
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    #[must_use]
    pub fn source(&self) -> SourceId {
        self.source
    }

    /// Whether the page is in quirks mode, as without `<!DOCTYPE html>` (DOM Standard, "quirks mode").
    #[must_use]
    pub fn quirks(&self) -> bool {
        self.quirks
    }

    /// The elements of the page in document order, the root first; those of shadow trees are left out.
    ///
    /// ```
    /// use clear_cascade::{MemoryLoader, Study};
    /// let page = Study::open(&MemoryLoader::default().with("a.html", "<p id=top>Hello"), "a.html")?;
    /// let labels: Vec<String> = page.document().elements().map(|e| e.label()).collect();
    /// assert_eq!(labels, ["html", "head", "body", "p#top"]);
    /// # Ok::<(), clear_cascade::Error>(())
    /// ```
    pub fn elements(&self) -> impl DoubleEndedIterator<Item = ElementRef<'_>> + ExactSizeIterator {
        self.ids().map(|id| ElementRef::new(self, id))
    }

    /// The same, those of shadow trees behind them, tree by tree.
    ///
    /// ```
    /// use clear_cascade::{MemoryLoader, Study};
    /// let files = MemoryLoader::default().with("a.html", "<!DOCTYPE html><div id=host><template shadowrootmode=open><slot></slot></template><p>in the slot</p></div>");
    /// let page = Study::open(&files, "a.html")?;
    /// assert_eq!(page.document().elements().count() + 1, page.document().all_elements().count()); // The slot.
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    pub fn all_elements(&self) -> impl DoubleEndedIterator<Item = ElementRef<'_>> + ExactSizeIterator {
        self.all_ids().map(|id| ElementRef::new(self, id))
    }

    /// The element with this id; nothing where the id is of another page.
    #[must_use]
    pub fn get(&self, id: ElementId) -> Option<ElementRef<'_>> {
        self.own(id).ok().map(|id| ElementRef::new(self, id))
    }

    /// The same, for use with `?`.
    ///
    /// ```
    /// # use clear_cascade::{MemoryLoader, Study};
    /// # let files = MemoryLoader::default().with(
    /// #     "a.html",
    /// #     "<!DOCTYPE html><style>p { color: navy; margin: 1px } .lead { color: gold } p::before { content: '*' } b { widht: 2px; width: 3px }
    /// #     @media print { p { color: black } }</style><body><p id=one class=lead>Hello <b>you</b></p><p id=two>Bye</p></body>",
    /// # );
    /// # let page = Study::open(&files, "a.html")?;
    /// let id = page.select("b")?[0];
    /// assert_eq!(page.document().element(id)?.label(), "b");
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    ///
    /// # Errors
    /// Where the id is of another page.
    pub fn element(&self, id: ElementId) -> Result<ElementRef<'_>, ForeignElement> {
        self.own(id).map(|id| ElementRef::new(self, id))
    }

    /// An id as one of this page, where it may be one.
    pub(crate) fn own(&self, id: ElementId) -> Result<ElementId, ForeignElement> {
        let fits = id.page == self.mark || id.page == Mark::ANY;
        self.id(id.number).filter(|_| fits).ok_or(ForeignElement { element: id })
    }

    /// The element with this number, where there is one; those of shadow trees come after the page's.
    #[must_use]
    pub fn id(&self, number: u32) -> Option<ElementId> {
        ((number as usize) < self.elements.len()).then_some(ElementId { number, page: self.mark })
    }

    /// The root element, `<html>`.
    pub(crate) fn root(&self) -> ElementId {
        ElementId { number: 0, page: self.mark }
    }

    /// The elements of the page, those of shadow trees left out.
    pub(crate) fn light(&self) -> &[Element] {
        &self.elements[..self.light as usize]
    }

    /// How many elements there are, those of shadow trees included.
    pub(crate) fn count(&self) -> usize {
        self.elements.len()
    }

    /// The element with an id of this document.
    #[inline(always)]
    pub(crate) fn node(&self, id: ElementId) -> &Element {
        &self.elements[id.index()]
    }

    /// The ids of the page's elements in document order, those of shadow trees left out.
    ///
    /// ```
    /// # use clear_cascade::{MemoryLoader, Study};
    /// # let files = MemoryLoader::default().with(
    /// #     "a.html",
    /// #     "<!DOCTYPE html><style>p { color: navy; margin: 1px } .lead { color: gold } p::before { content: '*' } b { widht: 2px; width: 3px }
    /// #     @media print { p { color: black } }</style><body><p id=one class=lead>Hello <b>you</b></p><p id=two>Bye</p></body>",
    /// # );
    /// # let page = Study::open(&files, "a.html")?;
    /// assert!(page.document().ids().eq(page.document().elements().map(|element| element.id())));
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    pub fn ids(&self) -> impl DoubleEndedIterator<Item = ElementId> + ExactSizeIterator + use<> {
        let page = self.mark;
        (0..self.light).map(move |number| ElementId { number, page })
    }

    /// The ids of all elements: the page's, then those of shadow trees.
    ///
    /// ```
    /// use clear_cascade::{MemoryLoader, Study};
    /// let files = MemoryLoader::default().with("a.html", "<!DOCTYPE html><div id=host><template shadowrootmode=open><slot></slot></template><p>in the slot</p></div>");
    /// let page = Study::open(&files, "a.html")?;
    /// assert!(page.document().all_ids().count() > page.document().ids().count());
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    pub fn all_ids(&self) -> impl DoubleEndedIterator<Item = ElementId> + ExactSizeIterator + use<> {
        self.ids_among(0..self.elements.len())
    }

    /// The ids of those elements whose numbers are in a range, as far as there are so many.
    pub(crate) fn ids_among(
        &self,
        numbers: Range<usize>,
    ) -> impl DoubleEndedIterator<Item = ElementId> + ExactSizeIterator + use<> {
        let number = |n: usize| crate::source::offset(n.min(self.elements.len()));
        let page = self.mark;
        (number(numbers.start)..number(numbers.end)).map(move |number| ElementId { number, page })
    }

    /// The shadow tree with a number; nothing for the page, 0.
    pub(crate) fn shadow_tree(&self, tree: u32) -> Option<&ShadowTree> {
        self.shadows.get((tree as usize).checked_sub(1)?)
    }

    /// How many shadow trees there are.
    pub(crate) fn shadow_count(&self) -> usize {
        self.shadows.len()
    }

    /// The place of a tree among all in shadow-including tree order: 0 for the page.
    pub(crate) fn tree_place(&self, tree: u32) -> u32 {
        self.shadow_tree(tree).map_or(0, |t| t.place)
    }

    /// The element behind which a tree is.
    pub(crate) fn host(&self, tree: u32) -> Option<ElementId> {
        self.shadow_tree(tree).map(|t| t.host)
    }

    /// The slot that a child of a host is assigned to.
    pub(crate) fn slot_of(&self, id: ElementId) -> Option<ElementId> {
        self.assigned.get(&id).copied()
    }

    /// The element around an element in the flattened tree, from which it inherits (CSS Scoping 1, §3.2). A child of a
    /// host without a slot is shown nowhere; its parent stands in.
    #[inline(always)]
    pub(crate) fn flat_parent(&self, id: ElementId) -> Option<ElementId> {
        let element = self.node(id);
        self.slot_of(id).or(element.parent).or_else(|| self.host(element.tree))
    }

    /// The element itself and those around it in the flattened tree, outwards.
    pub(crate) fn flat_lineage(&self, id: ElementId) -> impl Iterator<Item = ElementId> + '_ {
        std::iter::successors(Some(id), |e| self.flat_parent(*e))
    }

    /// The siblings of an element in its tree, itself included.
    pub(crate) fn siblings(&self, id: ElementId) -> Vec<ElementId> {
        let element = self.node(id);
        match (element.parent, self.shadow_tree(element.tree)) {
            (Some(parent), _) => self.node(parent).child_elements().collect(),
            (None, Some(tree)) => tree.tops.clone(),
            (None, None) => vec![id],
        }
    }

    /// The element itself and its ancestors, outwards; out of a shadow tree it goes on with the host.
    pub(crate) fn lineage(&self, id: ElementId) -> impl Iterator<Item = ElementId> + '_ {
        std::iter::successors(Some(id), |e| {
            let element = self.node(*e);
            element.parent.or_else(|| self.host(element.tree))
        })
    }

    /// The place of an element among its siblings, from 1, and how many they are.
    pub(crate) fn place_among_siblings(&self, id: ElementId) -> (f64, f64) {
        let element = self.node(id);
        let last = match (element.parent, self.shadow_tree(element.tree)) {
            (Some(parent), _) => self.node(parent).child_elements().next_back(),
            (None, tree) => tree.and_then(|t| t.tops.last().copied()),
        };
        let count = last.map_or(1, |l| self.node(l).position);
        (f64::from(element.position), f64::from(count))
    }

    /// A short name as people write it: `h1#top.night`.
    pub(crate) fn label(&self, id: ElementId) -> String {
        let element = self.node(id);
        let mut label = element.name.to_string();
        if let Some(id) = &element.id {
            label.push('#');
            label.push_str(id);
        }
        for class in &element.classes {
            label.push('.');
            label.push_str(class);
        }
        label
    }

    /// The element inside of which an element is written, where the parser closed that before it or moved it out of it (HTML
    /// Standard, "Tree construction").
    pub(crate) fn written_in(&self, id: ElementId) -> Option<ElementId> {
        let at = self.misplaced.binary_search_by_key(&id, |(element, _)| *element).ok()?;
        Some(self.misplaced[at].1)
    }

    /// The open `<details>` that closed one with its name behind it (HTML Standard, "ensure details exclusivity").
    pub(crate) fn closed_by(&self, id: ElementId) -> Option<ElementId> {
        let at = self.closed.binary_search_by_key(&id, |(element, _)| *element).ok()?;
        Some(self.closed[at].1)
    }

    /// Where an element's start tag is, or the end tag that made it; the tag of the nearest written ancestor or the start of
    /// the page where the parser implied the element.
    pub(crate) fn span(&self, id: ElementId) -> Span {
        if let Some(tag) = self.end_tags.get(&id) {
            return *tag;
        }
        self.lineage(id).find_map(|e| self.node(e).tag).unwrap_or(Span { source: self.source, start: 0, end: 0 })
    }

    /// All text inside an element, that of elements inside included.
    pub(crate) fn text(&self, id: ElementId) -> String {
        self.text_in(id, &|_| Some(""), usize::MAX)
    }

    /// The same of so many nodes at the most; `parted` says what stands before and behind the text of an element inside, or
    /// that it does not count.
    pub(crate) fn text_in(
        &self,
        id: ElementId,
        parted: &dyn Fn(ElementId) -> Option<&'static str>,
        most: usize,
    ) -> String {
        let mut out = String::new();
        let mut open = vec![(self.node(id).children.iter(), "")];
        let mut left = most;
        while let Some((top, by)) = open.last_mut().filter(|_| left > 0) {
            left -= 1;
            match top.next() {
                Some(Child::Text(t)) => out.push_str(t),
                Some(Child::Element(e)) => {
                    if let Some(by) = parted(*e) {
                        out.push_str(by);
                        open.push((self.node(*e).children.iter(), by));
                    }
                }
                None => {
                    out.push_str(by);
                    open.pop();
                }
            }
        }
        out
    }
}
