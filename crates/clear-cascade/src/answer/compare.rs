//! Comparing: two elements, one element in two states or viewings, two pages, two versions of a site.

use std::collections::{BTreeMap, HashMap, HashSet};

use serde::{Deserialize, Serialize};

use super::all_values;
use super::cause::Causes;
use super::reach::Hit;
use super::trying::{Alike, Changed, alike, differences, echoes, named, rank};
use crate::document::{Child, ElementId, ForeignElement};
use crate::selector::PseudoElement;
use crate::study::Study;
use crate::style::Sameness;

/// How two elements differ.
///
/// ```
/// # use clear_cascade::{MemoryLoader, Study};
/// # let files = MemoryLoader::default().with(
/// #     "a.html",
/// #     "<!DOCTYPE html><style>p { color: navy; margin: 1px } .lead { color: gold } p::before { content: '*' } b { widht: 2px; width: 3px }
/// #     @media print { p { color: black } }</style><body><p id=one class=lead>Hello <b>you</b></p><p id=two>Bye</p></body>",
/// # );
/// # let page = Study::open(&files, "a.html")?;
/// let (one, two) = (page.select("#one")?[0], page.select("#two")?[0]);
/// let twins = page.compare_elements(one, &page, two)?;
/// assert_eq!((twins.left.label.as_str(), twins.right.label.as_str()), ("p#one.lead", "p#two"));
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Debug, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct Twins {
    /// The answer in one plain sentence.
    pub sentence: String,
    /// The one element.
    pub left: Hit,
    /// The other element.
    pub right: Hit,
    /// Where the ways to the two elements part: the innermost element that both are in.
    pub parted_at: Option<String>,
    /// The properties that differ, the most visible first.
    pub differences: Vec<Difference>,
}

/// A property that two elements have with different values.
///
/// ```
/// # use clear_cascade::{MemoryLoader, Study};
/// # let files = MemoryLoader::default().with(
/// #     "a.html",
/// #     "<!DOCTYPE html><style>p { color: navy; margin: 1px } .lead { color: gold } p::before { content: '*' } b { widht: 2px; width: 3px }
/// #     @media print { p { color: black } }</style><body><p id=one class=lead>Hello <b>you</b></p><p id=two>Bye</p></body>",
/// # );
/// # let page = Study::open(&files, "a.html")?;
/// let (one, two) = (page.select("#one")?[0], page.select("#two")?[0]);
/// let twins = page.compare_elements(one, &page, two)?;
/// let difference = &twins.differences[0];
/// assert_eq!(difference.property, "color");
/// assert_eq!((difference.left.as_str(), difference.right.as_str()), ("rgb(255, 215, 0)", "rgb(0, 0, 128)"));
/// assert!(difference.left_by.contains("`.lead`"));
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct Difference {
    /// The property.
    pub property: String,
    /// Its value on the one.
    pub left: String,
    /// Its value on the other.
    pub right: String,
    /// What gives the value on the one.
    pub left_by: String,
    /// What gives the value on the other.
    pub right_by: String,
    /// Whether it only repeats another difference: the flow-relative name of a property, or a colour that is the element's
    /// own. The sentence does not count it.
    pub echo: bool,
}

/// An element of a page, or a pseudo-element of it.
///
/// ```
/// # use clear_cascade::{MemoryLoader, Study};
/// # let files = MemoryLoader::default().with(
/// #     "a.html",
/// #     "<!DOCTYPE html><style>p { color: navy; margin: 1px } .lead { color: gold } p::before { content: '*' } b { widht: 2px; width: 3px }
/// #     @media print { p { color: black } }</style><body><p id=one class=lead>Hello <b>you</b></p><p id=two>Bye</p></body>",
/// # );
/// # let page = Study::open(&files, "a.html")?;
/// let p = page.select("p")?[0];
/// let before = "::before".parse()?;
/// let twins = page.compare_parts((p, None), &page, (p, Some(&before)))?;
/// assert_eq!(twins.right.pseudo.as_deref(), Some("::before"));
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
pub type Side<'p> = (ElementId, Option<&'p PseudoElement>);

/// How two pages differ, or one page seen in two ways.
///
/// ```
/// use clear_cascade::{MemoryLoader, Study};
/// let files = MemoryLoader::default().with("a.html", "<!DOCTYPE html><style>@media print { p { color: navy; border-color: navy } }</style><p>a</p><p>b</p>");
/// let page = Study::open(&files, "a.html")?;
/// let comparison = page.compare(&page.seen_with(clear_cascade::Viewing::print())?);
/// assert_eq!(comparison.changes[0].property, "color");
/// assert!(comparison.only_left.is_empty() && comparison.only_right.is_empty());
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Debug, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct Comparison {
    /// The answer in one plain sentence.
    pub sentence: String,
    /// How elements were paired, in words.
    pub paired: String,
    /// Elements that only the one page has.
    pub only_left: Vec<Hit>,
    /// Elements that only the other page has.
    pub only_right: Vec<Hit>,
    /// Every computed value that differs, by element of the one page.
    pub changes: Vec<Changed>,
}

impl Comparison {
    /// The differences with elements that differ alike together.
    ///
    /// ```
    /// use clear_cascade::{MemoryLoader, Study};
    /// let files = MemoryLoader::default().with("a.html", "<!DOCTYPE html><style>@media print { p { color: navy; border-color: navy } }</style><p>a</p><p>b</p>");
    /// let page = Study::open(&files, "a.html")?;
    /// let comparison = page.compare(&page.seen_with(clear_cascade::Viewing::print())?);
    /// assert_eq!(comparison.alike()[0].elements.len(), 2); // Both paragraphs change in the same way.
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    #[must_use]
    pub fn alike(&self) -> Vec<Alike<'_>> {
        alike(&self.changes)
    }

    /// Whether nothing differs.
    ///
    /// ```
    /// use clear_cascade::{MemoryLoader, Study};
    /// let files = MemoryLoader::default().with("a.html", "<!DOCTYPE html><style>@media print { p { color: navy; border-color: navy } }</style><p>a</p><p>b</p>");
    /// let page = Study::open(&files, "a.html")?;
    /// let comparison = page.compare(&page.seen_with(clear_cascade::Viewing::print())?);
    /// assert!(!comparison.is_same());
    /// assert!(page.compare(&page).is_same());
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    #[must_use]
    pub fn is_same(&self) -> bool {
        self.changes.is_empty() && self.only_left.is_empty() && self.only_right.is_empty()
    }
}

impl Study {
    /// How an element differs from another, of this page or of another page.
    ///
    /// ```
    /// # use clear_cascade::{MemoryLoader, Study};
    /// # let files = MemoryLoader::default().with(
    /// #     "a.html",
    /// #     "<!DOCTYPE html><style>p { color: navy; margin: 1px } .lead { color: gold } p::before { content: '*' } b { widht: 2px; width: 3px }
    /// #     @media print { p { color: black } }</style><body><p id=one class=lead>Hello <b>you</b></p><p id=two>Bye</p></body>",
    /// # );
    /// # let page = Study::open(&files, "a.html").unwrap();
    /// let (one, two) = (page.select("#one")?[0], page.select("#two")?[0]);
    /// let twins = page.compare_elements(one, &page, two)?;
    /// assert_eq!((twins.differences[0].left.as_str(), twins.differences[0].right.as_str()), ("rgb(255, 215, 0)", "rgb(0, 0, 128)"));
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    ///
    /// # Errors
    /// Where the element is of another page.
    pub fn compare_elements(&self, left: ElementId, other: &Study, right: ElementId) -> Result<Twins, ForeignElement> {
        self.compare_parts((left, None), other, (right, None))
    }

    /// The same for pseudo-elements.
    ///
    /// ```
    /// use clear_cascade::{MemoryLoader, Study};
    /// let files = MemoryLoader::default().with("a.html", "<!DOCTYPE html><style>p { color: navy } #x { top: 1px }</style><p id=x class='a b' title=hi>Hello <b>you</b>");
    /// let page = Study::open(&files, "a.html").unwrap();
    ///
    /// let p = page.select("p")?[0];
    /// let before = "::before".parse()?;
    /// let twins = page.compare_parts((p, None), &page, (p, Some(&before)))?;
    /// assert!(twins.differences.iter().any(|d| d.property == "display"));
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    ///
    /// # Errors
    /// Where the element is of another page.
    pub fn compare_parts(&self, left: Side<'_>, other: &Study, right: Side<'_>) -> Result<Twins, ForeignElement> {
        let left = (self.page.document.own(left.0)?, left.1);
        let right = (other.page.document.own(right.0)?, right.1);
        let map = |s: &Study, (e, pseudo): Side<'_>| -> BTreeMap<String, String> {
            all_values(&s.style_of(e, pseudo)).into_iter().collect()
        };
        let (a, b) = (map(self, left), map(other, right));
        let (left_causes, right_causes) = (Causes::new(self, left.0, left.1), Causes::new(other, right.0, right.1));
        let mut names: Vec<&String> = a.keys().chain(b.keys()).filter(|n| a.get(*n) != b.get(*n)).collect();
        names.sort_by_key(|n| (rank(n), *n));
        names.dedup();
        let colors = (a.get("color"), b.get("color"));
        let follows = |property: &str| {
            property != "color"
                && property.ends_with("color")
                && (a.get(property), b.get(property)) == colors
                && left_causes.winner(property).is_none()
                && right_causes.winner(property).is_none()
        };
        let differences: Vec<Difference> = names
            .into_iter()
            .map(|property| Difference {
                property: property.clone(),
                left: a.get(property).cloned().unwrap_or_default(),
                right: b.get(property).cloned().unwrap_or_default(),
                left_by: left_causes.of(property).0,
                right_by: right_causes.of(property).0,
                echo: echoes(property) || follows(property),
            })
            .collect();
        let parted = || {
            let outer: HashSet<ElementId> = self.page.document.flat_lineage(left.0).collect();
            self.page.document.flat_lineage(right.0).find(|e| outer.contains(e))
        };
        let parted = if self.url == other.url { parted() } else { None };
        let (l, r) = (self.hit(left.0, left.1), other.hit(right.0, right.1));
        let told: Vec<&str> = differences.iter().filter(|d| !d.echo).map(|d| d.property.as_str()).collect();
        let both = {
            let name = |h: &Hit| format!("`{}{}`", h.label, h.pseudo.as_deref().unwrap_or_default());
            let (a, b) = (name(&l), name(&r));
            if a != b {
                format!("{a} and {b}")
            } else if l.element != r.element {
                format!("{a} ({}) and {b} ({})", l.element, r.element)
            } else {
                format!("{a} on the left and on the right")
            }
        };
        let sentence = match told.as_slice() {
            [] => format!("{both} have the same values throughout."),
            [_] | [_, _] => format!("{both} differ in {} only.", named(&told)),
            all => format!("{both} differ in {}.", named(all)),
        };
        let parted_at = parted.map(|e| self.page.document.label(e));
        Ok(Twins { sentence, left: l, right: r, parted_at, differences })
    }

    /// An element or pseudo-element as it is told.
    pub(super) fn hit(&self, element: ElementId, pseudo: Option<&PseudoElement>) -> Hit {
        Hit {
            element,
            label: self.page.document.label(element),
            words: self.words_of(element),
            pseudo: pseudo.map(ToString::to_string),
            at: self.sources.placed(self.page.document.span(element)),
        }
    }

    /// How another page, or this one seen in another way, differs from this one; elements are paired by id, then by where
    /// they stand and what they hold.
    ///
    /// ```
    /// # use clear_cascade::{MemoryLoader, Study};
    /// # let files = MemoryLoader::default().with(
    /// #     "a.html",
    /// #     "<!DOCTYPE html><style>p { color: navy; margin: 1px } .lead { color: gold } p::before { content: '*' } b { widht: 2px; width: 3px }
    /// #     @media print { p { color: black } }</style><body><p id=one class=lead>Hello <b>you</b></p><p id=two>Bye</p></body>",
    /// # );
    /// # let page = Study::open(&files, "a.html").unwrap();
    /// let printed = page.seen_with(clear_cascade::Viewing::print())?;
    /// assert_eq!(page.compare(&printed).sentence, "1 of 7 elements looks different.");
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    #[must_use]
    pub fn compare(&self, other: &Study) -> Comparison {
        let pairs = Pairing::new(self, other);
        let (mut changes, mut known) = (Vec::new(), Sameness::default());
        self.resolve_all();
        other.resolve_all();
        for (left, right) in &pairs.found {
            differences((self, *left), (other, *right), &mut known, &mut changes);
        }
        let alone = |s: &Study, paired: &HashSet<ElementId>| -> Vec<Hit> {
            s.page.document.ids().filter(|e| !paired.contains(e)).map(|e| s.hit(e, None)).collect()
        };
        let (only_left, only_right) = (alone(self, &pairs.left), alone(other, &pairs.right));
        let mut elements: Vec<ElementId> = changes.iter().map(|c| c.element).collect();
        elements.dedup();
        let mut sentence = match elements.len() {
            0 => format!("All {} elements look the same.", pairs.found.len()),
            1 => format!("1 of {} elements looks different.", pairs.found.len()),
            n => format!("{n} of {} elements look different.", pairs.found.len()),
        };
        if !only_left.is_empty() || !only_right.is_empty() {
            let (l, r) = (only_left.len(), only_right.len());
            sentence.push_str(&format!(" {l} more are only on the left, {r} only on the right."));
        }
        Comparison { sentence, paired: pairs.told(), only_left, only_right, changes }
    }

    /// How one element of this page, or a pseudo-element of it, differs from itself in the page seen in another way.
    ///
    /// ```
    /// # use clear_cascade::{MemoryLoader, Study};
    /// # let files = MemoryLoader::default().with(
    /// #     "a.html",
    /// #     "<!DOCTYPE html><style>p { color: navy; margin: 1px } .lead { color: gold } p::before { content: '*' } b { widht: 2px; width: 3px }
    /// #     @media print { p { color: black } }</style><body><p id=one class=lead>Hello <b>you</b></p><p id=two>Bye</p></body>",
    /// # );
    /// # let page = Study::open(&files, "a.html").unwrap();
    /// let printed = page.seen_with(clear_cascade::Viewing::print())?;
    /// let seen = page.compare_views((page.select("#two")?[0], None), &printed)?;
    /// assert_eq!(seen.changes[0].after, "rgb(0, 0, 0)");
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    ///
    /// # Errors
    /// Where the element is of another page than one of the two.
    pub fn compare_views(&self, (element, pseudo): Side<'_>, other: &Study) -> Result<Comparison, ForeignElement> {
        let (element, then) = (self.page.document.own(element)?, other.page.document.own(element)?);
        let mut changes = Vec::new();
        differences((self, element), (other, then), &mut Sameness::default(), &mut changes);
        let shown = pseudo.map(ToString::to_string);
        changes.retain(|c| shown.is_none() || c.pseudo == shown);
        let label = format!("{}{}", self.page.document.label(element), shown.unwrap_or_default());
        let mut told: Vec<&str> = changes.iter().filter(|c| !c.echo).map(|c| c.property.as_str()).collect();
        told.sort_by_key(|p| (rank(p), *p));
        told.dedup();
        let sentence = match (changes.as_slice(), told.as_slice()) {
            ([], _) => format!("`{label}` looks the same."),
            (_, []) => format!("`{label}` looks different: colours."),
            (_, all) => format!("`{label}` looks different: {}.", named(all)),
        };
        let paired = "the element with itself".to_owned();
        Ok(Comparison { sentence, paired, only_left: Vec::new(), only_right: Vec::new(), changes })
    }
}

/// Which element of one page is which of the other.
#[derive(Default)]
struct Pairing {
    /// The pairs, in the order of the one page.
    found: Vec<(ElementId, ElementId)>,
    /// Paired elements of the one page.
    left: HashSet<ElementId>,
    /// Paired elements of the other page.
    right: HashSet<ElementId>,
    /// How many were paired one to one, by id, and by place and content.
    by: [usize; 3],
}

impl Pairing {
    /// Pairs the elements of two pages.
    fn new(a: &Study, b: &Study) -> Self {
        let mut pairing = Self::default();
        let (x, y) = (a.page.document.light(), b.page.document.light());
        let same = x.len() == y.len()
            && x.iter().zip(y).all(|(x, y)| {
                (&x.name, x.position, &x.id, &x.classes, x.parent) == (&y.name, y.position, &y.id, &y.classes, y.parent)
            });
        if same {
            a.page.document.ids().for_each(|id| pairing.pair(id, id, 0));
        } else {
            pairing.by_id(a, b);
            pairing.by_place(a, b);
        }
        pairing.found.sort_unstable();
        pairing
    }

    /// Notes a pair.
    fn pair(&mut self, x: ElementId, y: ElementId, how: usize) {
        if !self.left.contains(&x) && !self.right.contains(&y) {
            self.left.insert(x);
            self.right.insert(y);
            self.found.push((x, y));
            self.by[how] += 1;
        }
    }

    /// Pairs elements with an id that both pages have once.
    fn by_id(&mut self, a: &Study, b: &Study) {
        let once = |s: &Study| {
            let mut ids: BTreeMap<String, Vec<ElementId>> = BTreeMap::new();
            for id in s.page.document.ids() {
                if let Some(name) = &s.page.document.node(id).id {
                    ids.entry(name.to_string()).or_default().push(id);
                }
            }
            ids.retain(|_, list| list.len() == 1);
            ids
        };
        let others = once(b);
        for (name, list) in once(a) {
            if let Some(other) = others.get(&name).filter(|o| same_name(a, list[0], b, o[0])) {
                self.pair(list[0], other[0], 1);
            }
        }
    }

    /// Pairs the roots, then the children of pairs: those alike in classes and content first, then in their order.
    fn by_place(&mut self, a: &Study, b: &Study) {
        self.pair(a.page.document.root(), b.page.document.root(), 2);
        let mut open = self.found.clone();
        let mut done: HashSet<ElementId> = HashSet::new();
        while let Some((x, y)) = open.pop() {
            if !done.insert(x) {
                continue;
            }
            let theirs: Vec<ElementId> = b.page.document.node(y).child_elements().collect();
            for strict in [true, false] {
                let mut from = 0;
                for child in a.page.document.node(x).child_elements() {
                    let fits = |o: &ElementId| {
                        let alike = !strict || content(a, child) == content(b, *o);
                        !self.right.contains(o) && same_name(a, child, b, *o) && alike
                    };
                    if self.left.contains(&child) {
                        continue;
                    }
                    if let Some(at) = theirs.iter().skip(from).position(fits) {
                        self.pair(child, theirs[from + at], 2);
                        from += at + 1;
                    }
                }
            }
            let partner: HashMap<ElementId, ElementId> = self.found.iter().copied().collect();
            let children = a.page.document.node(x).child_elements();
            open.extend(children.filter_map(|c| partner.get(&c).map(|p| (c, *p))));
        }
    }

    /// How the elements were paired, in words.
    fn told(&self) -> String {
        match self.by {
            [n, 0, 0] => format!("{n} elements, one to one"),
            [_, ids, places] => format!("{ids} elements by their id, {places} by where they stand and what they hold"),
        }
    }
}

/// Whether two elements have the same name.
fn same_name(a: &Study, x: ElementId, b: &Study, y: ElementId) -> bool {
    a.page.document.node(x).name == b.page.document.node(y).name
}

/// What an element is told by: its classes and the text straight in it.
fn content(study: &Study, id: ElementId) -> (Vec<String>, String) {
    let element = study.page.document.node(id);
    let text = element.children.iter().filter_map(|c| if let Child::Text(t) = c { Some(t.trim()) } else { None });
    (element.classes.iter().map(ToString::to_string).collect(), text.collect())
}
