//! An element together with the page it is in.

use std::ops::Deref;

use super::{Document, Element, ElementId};
use crate::source::Span;

/// An id was given to a page that it is not of.
///
/// ```
/// # use clear_cascade::{MemoryLoader, Study};
/// # let files = MemoryLoader::default().with(
/// #     "a.html",
/// #     "<!DOCTYPE html><style>p { color: navy; margin: 1px } .lead { color: gold } p::before { content: '*' } b { widht: 2px; width: 3px }
/// #     @media print { p { color: black } }</style><body><p id=one class=lead>Hello <b>you</b></p><p id=two>Bye</p></body>",
/// # );
/// # let page = Study::open(&files, "a.html")?;
/// let other = Study::open(&MemoryLoader::default().with("b.html", "<p>another page"), "b.html")?;
/// let foreign = other.select("p")?[0];
/// assert!(page.values(foreign).is_err());
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Copy, Debug, PartialEq, Eq, thiserror::Error)]
#[error("the element {element} is of another page")]
pub struct ForeignElement {
    /// The id.
    pub element: ElementId,
}

/// An element in its page: all that an [`Element`] has, and what takes the elements around it to tell.
///
/// ```
/// use clear_cascade::{MemoryLoader, Study};
/// let page = Study::open(&MemoryLoader::default().with("a.html", "<main><p class=lead>Hello <b>you</b>"), "a.html").unwrap();
/// let p = page.document().element(page.select("p").unwrap()[0])?;
/// assert_eq!((p.label(), p.text()), ("p.lead".to_owned(), "Hello you".to_owned()));
/// let outwards: Vec<String> = p.lineage().map(|e| e.label()).collect();
/// assert_eq!(outwards, ["p.lead", "main", "body", "html"]);
/// # Ok::<(), clear_cascade::document::ForeignElement>(())
/// ```
#[derive(Clone, Copy)]
pub struct ElementRef<'d> {
    /// The page.
    document: &'d Document,
    /// Which of its elements.
    id: ElementId,
}

impl<'d> ElementRef<'d> {
    /// An element of a document by an id of this document.
    pub(super) fn new(document: &'d Document, id: ElementId) -> Self {
        Self { document, id }
    }

    /// Its id.
    ///
    /// ```
    /// # use clear_cascade::{MemoryLoader, Study};
    /// # let files = MemoryLoader::default().with(
    /// #     "a.html",
    /// #     "<!DOCTYPE html><style>p { color: navy; margin: 1px } .lead { color: gold } p::before { content: '*' } b { widht: 2px; width: 3px }
    /// #     @media print { p { color: black } }</style><body><p id=one class=lead>Hello <b>you</b></p><p id=two>Bye</p></body>",
    /// # );
    /// # let page = Study::open(&files, "a.html")?;
    /// let p = page.document().element(page.select("#one")?[0])?;
    /// assert_eq!(p.id(), page.select(".lead")?[0]);
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    #[must_use]
    pub fn id(self) -> ElementId {
        self.id
    }

    /// A short name as people write it: `h1#top.night`.
    #[must_use]
    pub fn label(self) -> String {
        self.document.label(self.id)
    }

    /// Where its start tag is, or the end tag that made it; the tag of the nearest written ancestor or the start of the page where
    /// the parser implied the element.
    ///
    /// ```
    /// # use clear_cascade::{MemoryLoader, Study};
    /// # let files = MemoryLoader::default().with(
    /// #     "a.html",
    /// #     "<!DOCTYPE html><style>p { color: navy; margin: 1px } .lead { color: gold } p::before { content: '*' } b { widht: 2px; width: 3px }
    /// #     @media print { p { color: black } }</style><body><p id=one class=lead>Hello <b>you</b></p><p id=two>Bye</p></body>",
    /// # );
    /// # let page = Study::open(&files, "a.html")?;
    /// let p = page.document().element(page.select("#one")?[0])?;
    /// assert_eq!(page.sources().text(p.span()), Some("<p id=one class=lead>"));
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    #[must_use]
    pub fn span(self) -> Span {
        self.document.span(self.id)
    }

    /// All text inside, that of elements inside included.
    #[must_use]
    pub fn text(self) -> String {
        self.document.text(self.id)
    }

    /// The element around it; at the top of a shadow tree nothing.
    ///
    /// ```
    /// # use clear_cascade::{MemoryLoader, Study};
    /// # let files = MemoryLoader::default().with(
    /// #     "a.html",
    /// #     "<!DOCTYPE html><style>p { color: navy; margin: 1px } .lead { color: gold } p::before { content: '*' } b { widht: 2px; width: 3px }
    /// #     @media print { p { color: black } }</style><body><p id=one class=lead>Hello <b>you</b></p><p id=two>Bye</p></body>",
    /// # );
    /// # let page = Study::open(&files, "a.html")?;
    /// let p = page.document().element(page.select("#one")?[0])?;
    /// assert_eq!(p.parent().map(|body| body.label()).as_deref(), Some("body"));
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    #[must_use]
    pub fn parent(self) -> Option<Self> {
        let parent = self.document.node(self.id).parent;
        parent.map(|id| Self { id, ..self })
    }

    /// The elements directly inside, in document order.
    ///
    /// ```
    /// # use clear_cascade::{MemoryLoader, Study};
    /// # let files = MemoryLoader::default().with(
    /// #     "a.html",
    /// #     "<!DOCTYPE html><style>p { color: navy; margin: 1px } .lead { color: gold } p::before { content: '*' } b { widht: 2px; width: 3px }
    /// #     @media print { p { color: black } }</style><body><p id=one class=lead>Hello <b>you</b></p><p id=two>Bye</p></body>",
    /// # );
    /// # let page = Study::open(&files, "a.html")?;
    /// let p = page.document().element(page.select("#one")?[0])?;
    /// assert_eq!(p.child_elements().count(), 1); // The `b`; texts are not elements.
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    pub fn child_elements(self) -> impl DoubleEndedIterator<Item = Self> {
        self.document.node(self.id).child_elements().map(move |id| Self { id, ..self })
    }

    /// The element itself and its ancestors, outwards to the root; out of a shadow tree it goes on with the host.
    pub fn lineage(self) -> impl Iterator<Item = Self> {
        self.document.lineage(self.id).map(move |id| Self { id, ..self })
    }

    /// The element from which it inherits: the one around it in the flattened tree (CSS Scoping 1, §3.2). A child of a host without
    /// a slot is shown nowhere; its parent stands in.
    ///
    /// ```
    /// use clear_cascade::{MemoryLoader, Study};
    /// let files = MemoryLoader::default().with("a.html", "<!DOCTYPE html><div id=host><template shadowrootmode=open><slot></slot></template><p>in the slot</p></div>");
    /// let page = Study::open(&files, "a.html")?;
    /// let p = page.document().element(page.select("p")?[0])?;
    /// assert_eq!(p.parent().map(|e| e.label()).as_deref(), Some("div#host"));
    /// assert_eq!(p.flat_parent().map(|e| e.label()).as_deref(), Some("slot")); // It inherits from there.
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    #[must_use]
    pub fn flat_parent(self) -> Option<Self> {
        self.document.flat_parent(self.id).map(|id| Self { id, ..self })
    }

    /// The element itself and those that it inherits from, outwards to the root.
    ///
    /// ```
    /// use clear_cascade::{MemoryLoader, Study};
    /// let files = MemoryLoader::default().with("a.html", "<!DOCTYPE html><div id=host><template shadowrootmode=open><slot></slot></template><p>in the slot</p></div>");
    /// let page = Study::open(&files, "a.html")?;
    /// let p = page.document().element(page.select("p")?[0])?;
    /// let labels: Vec<_> = p.flat_lineage().map(|e| e.label()).collect();
    /// assert_eq!(labels.iter().filter(|l| *l == "slot").count(), 1);
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    pub fn flat_lineage(self) -> impl Iterator<Item = Self> {
        self.document.flat_lineage(self.id).map(move |id| Self { id, ..self })
    }

    /// The element inside of which it is written, where the parser closed that before it or moved it out of it (HTML Standard,
    /// "Tree construction").
    ///
    /// ```
    /// use clear_cascade::{MemoryLoader, Study};
    /// let files = MemoryLoader::default().with("a.html", "<!DOCTYPE html><p>A list inside:<ul></ul></p>");
    /// let page = Study::open(&files, "a.html")?;
    /// let list = page.document().element(page.select("ul")?[0])?;
    /// assert_eq!(list.parent().map(|e| e.label()).as_deref(), Some("body")); // A `p` ends where a list begins.
    /// assert_eq!(list.written_in().map(|e| e.label()).as_deref(), Some("p"));
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    #[must_use]
    pub fn written_in(self) -> Option<Self> {
        self.document.written_in(self.id).map(|id| Self { id, ..self })
    }
}

impl Deref for ElementRef<'_> {
    type Target = Element;

    fn deref(&self) -> &Element {
        self.document.node(self.id)
    }
}

impl std::fmt::Debug for ElementRef<'_> {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        write!(f, "{} {}", self.label(), self.id)
    }
}
