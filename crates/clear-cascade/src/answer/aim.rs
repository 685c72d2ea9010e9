//! Selectors that take one element, and those like it, and not others.

use std::collections::HashSet;

use rustc_hash::{FxHashMap, FxHashSet};
use serde::{Deserialize, Serialize};

use crate::document::{ElementId, ForeignElement, Name, Namespace};
use crate::selector::{SelectorList, Specificity};
use crate::study::Study;
use crate::syntax::serialize_identifier;

/// A selector that takes what was asked for.
///
/// ```
/// # use clear_cascade::{MemoryLoader, Study};
/// # let files = MemoryLoader::default().with(
/// #     "a.html",
/// #     "<!DOCTYPE html><style>p { color: navy; margin: 1px } .lead { color: gold } p::before { content: '*' } b { widht: 2px; width: 3px }
/// #     @media print { p { color: black } }</style><body><p id=one class=lead>Hello <b>you</b></p><p id=two>Bye</p></body>",
/// # );
/// # let page = Study::open(&files, "a.html")?;
/// let one = page.select("#one")?[0];
/// let aim = &page.aim(one, &[], &[])?[0];
/// assert_eq!((aim.selector.as_str(), aim.takes, aim.besides), ("p", 2, 1)); // One more than was asked for.
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Debug, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct Aim {
    /// The selector.
    pub selector: String,
    /// Its weight.
    pub specificity: Specificity,
    /// How many elements of the page, or of all pages, it takes, those asked for included.
    pub takes: usize,
    /// How many it takes besides those asked for.
    pub besides: usize,
    /// What it says in plain words.
    pub reading: String,
}

/// How many selectors are offered at the most.
const MOST: usize = 8;

/// How many classes of an element are tried at the most, those that the fewest elements have.
const MOST_CLASSES: usize = 32;

/// What is to be taken on one page, and what is not.
///
/// ```
/// # use clear_cascade::{MemoryLoader, Study};
/// # let files = MemoryLoader::default().with(
/// #     "a.html",
/// #     "<!DOCTYPE html><style>p { color: navy; margin: 1px } .lead { color: gold } p::before { content: '*' } b { widht: 2px; width: 3px }
/// #     @media print { p { color: black } }</style><body><p id=one class=lead>Hello <b>you</b></p><p id=two>Bye</p></body>",
/// # );
/// # let page = Study::open(&files, "a.html")?;
/// use clear_cascade::answer::Target;
/// let target = Target { study: &page, take: page.select("#one")?, leave: page.select("#two")? };
/// assert!(Study::aim_on(&[target])?.iter().any(|aim| aim.selector == ".lead"));
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Debug)]
pub struct Target<'s> {
    /// The page.
    pub study: &'s Study,
    /// The elements to be taken; what is named twice counts once.
    pub take: Vec<ElementId>,
    /// The elements not to be taken.
    pub leave: Vec<ElementId>,
}

impl Study {
    /// Selectors that take an element and all those it is to be like, and none of those it is not to be like, from broad
    /// to narrow. Ids that look made by a program, and places among siblings, are used only where nothing else works; of a great
    /// many classes of one element, those that the fewest elements have.
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
    /// let aims = page.aim(one, &[], &[two])?;
    /// assert!(aims.iter().any(|aim| aim.selector == ".lead" && aim.besides == 0));
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    ///
    /// # Errors
    /// Where the element is of another page.
    pub fn aim(&self, element: ElementId, like: &[ElementId], not: &[ElementId]) -> Result<Vec<Aim>, ForeignElement> {
        let take = std::iter::once(element).chain(like.iter().copied()).collect();
        Self::aim_on(&[Target { study: self, take, leave: not.to_vec() }])
    }

    /// The same over several pages: each selector takes what it is to take on all of them. The first element of the first
    /// page says what selectors can name.
    ///
    /// ```
    /// # use clear_cascade::{MemoryLoader, Study};
    /// # let files = MemoryLoader::default().with(
    /// #     "a.html",
    /// #     "<!DOCTYPE html><style>p { color: navy; margin: 1px } .lead { color: gold } p::before { content: '*' } b { widht: 2px; width: 3px }
    /// #     @media print { p { color: black } }</style><body><p id=one class=lead>Hello <b>you</b></p><p id=two>Bye</p></body>",
    /// # );
    /// # let page = Study::open(&files, "a.html").unwrap();
    /// use clear_cascade::answer::Target;
    /// let take = page.select("p")?;
    /// let aims = Study::aim_on(&[Target { study: &page, take, leave: Vec::new() }])?;
    /// assert_eq!((aims[0].selector.as_str(), aims[0].takes), ("p", 2)); // From broad to narrow.
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    ///
    /// # Errors
    /// Where an element is of another page than that of its target.
    pub fn aim_on(pages: &[Target<'_>]) -> Result<Vec<Aim>, ForeignElement> {
        let mut pages = pages.to_vec();
        for page in &mut pages {
            for element in page.take.iter_mut().chain(&mut page.leave) {
                *element = page.study.page.document.own(*element)?;
            }
        }
        Ok(Self::aimed(pages))
    }

    /// The same for elements of the pages that they are given with.
    fn aimed(mut pages: Vec<Target<'_>>) -> Vec<Aim> {
        for page in &mut pages {
            let mut seen = HashSet::new();
            page.take.retain(|e| seen.insert(*e));
        }
        let Some((study, element)) = pages.first().and_then(|p| Some((p.study, *p.take.first()?))) else {
            return Vec::new();
        };
        let everywhere: Vec<Vec<ElementId>> = pages.iter().map(|p| p.study.page.document.ids().collect()).collect();
        let fits = |text: String| fitting(text, &pages, &everywhere);
        let mut found = plain(element, false, &pages, &everywhere);
        let exact = |found: &[Aim]| found.iter().any(|a| a.besides == 0);
        if !exact(&found) {
            found.extend(plain(element, true, &pages, &everywhere));
        }
        if !exact(&found) {
            found.extend(study.positions(element).into_iter().filter_map(fits));
        }
        if let ([page], false) = (pages.as_slice(), exact(&found))
            && page.take.len() > 1
        {
            // Several selectors with commas between them, where no single one takes these and no others.
            let alone = |e: &ElementId| {
                let target = Target { study, take: vec![*e], leave: page.leave.clone() };
                let all = Self::aimed(vec![target]).into_iter().filter(|a| a.besides == 0);
                all.min_by_key(|a| (a.specificity, a.selector.len()))
            };
            let parts: Option<Vec<String>> = page.take.iter().map(|e| alone(e).map(|a| a.selector)).collect();
            found.extend(parts.and_then(|p| fits(p.join(", "))));
        }
        // Of selectors that take the same number, the lightest and shortest says it best.
        found.sort_by_key(|a| (std::cmp::Reverse(a.takes), a.specificity, a.selector.len()));
        // Of those that take as many, the first two at most, and of one weight one.
        let (mut alike, mut weights) = (FxHashMap::default(), FxHashSet::default());
        found.retain(|a| {
            let alike: &mut usize = alike.entry(a.takes).or_default();
            *alike += 1;
            *alike <= 2 && weights.insert((a.takes, a.specificity))
        });
        if found.len() > MOST {
            // Broad ones teach little: keep the narrow end, and one broad one to compare with.
            found.drain(1..found.len() + 1 - MOST);
        }
        found
    }

    /// The conditions that one element can be named by, of its classes those that fit.
    fn names(&self, id: ElementId, any_id: bool, fits: impl Fn(&Name) -> bool) -> Vec<String> {
        let element = self.page.document.node(id);
        let name = serialize_identifier(&element.name);
        let mut names = vec![name.clone()];
        let mut classes: Vec<&Name> = element.classes.iter().filter(|class| fits(class)).collect();
        if classes.len() > MOST_CLASSES {
            let mut counts: FxHashMap<&Name, usize> = FxHashMap::default();
            for class in self.page.document.light().iter().flat_map(|e| &e.classes) {
                *counts.entry(class).or_default() += 1;
            }
            classes.sort_by_key(|class| counts.get(class));
            classes.truncate(MOST_CLASSES);
        }
        for class in classes {
            let class = serialize_identifier(class);
            names.push(format!(".{class}"));
            names.push(format!("{name}.{class}"));
        }
        if let [a, b, ..] = &*element.classes {
            names.push(format!(".{}.{}", serialize_identifier(a), serialize_identifier(b)));
        }
        if let Some(own) = element.id.as_ref().filter(|i| any_id || !looks_made(i)) {
            names.push(format!("#{}", serialize_identifier(own)));
        }
        for attribute in &element.attributes {
            let telling = matches!(&*attribute.name, "type" | "name" | "role" | "rel" | "lang" | "href")
                || attribute.name.starts_with("data-");
            if telling && element.namespace == Namespace::Html && attribute.value.len() < 40 {
                let value = crate::syntax::serialize_string(&attribute.value);
                names.push(format!("{name}[{}={value}]", attribute.name));
            }
        }
        names
    }

    /// Candidates by place among siblings, from the nearest ancestor with a name of its own.
    fn positions(&self, id: ElementId) -> Vec<String> {
        let element = |e: ElementId| self.page.document.node(e);
        let step =
            |e: ElementId| format!("{}:nth-child({})", serialize_identifier(&element(e).name), element(e).position);
        let mut chain = step(id);
        let mut out = vec![chain.clone()];
        for ancestor in self.page.document.lineage(id).skip(1) {
            for name in self.names(ancestor, true, |_| true) {
                out.push(format!("{name} > {chain}"));
            }
            chain = format!("{} > {chain}", step(ancestor));
        }
        out.push(chain);
        out
    }
}

/// The selectors without places among siblings that fit: the names of an element of the first page, and those inside an ancestor
/// or after a sibling.
fn plain(element: ElementId, any_id: bool, pages: &[Target<'_>], everywhere: &[Vec<ElementId>]) -> Vec<Aim> {
    let Some(study) = pages.first().map(|p| p.study) else { return Vec::new() };
    let document = &study.page.document;
    let shared =
        |class: &Name| pages.iter().all(|page| page.take.iter().all(|e| page.study.page.document.has_class(*e, class)));
    // What is inside or after something is no more than it is alone.
    let alone = |name: String| {
        let read = takes_all(&name, pages)?;
        let taken = |(i, list): (usize, &SelectorList)| taken(list, &pages[i], &everywhere[i]);
        Some((name, read.iter().enumerate().map(taken).collect()))
    };
    let own: Vec<(String, Vec<Vec<ElementId>>)> =
        study.names(element, any_id, shared).into_iter().filter_map(alone).collect();
    let inside = |before: &str| -> Vec<Aim> {
        own.iter().filter_map(|(name, taken)| fitting(format!("{before}{name}"), pages, taken)).collect()
    };
    let mut out = inside("");
    for (i, ancestor) in document.lineage(element).skip(1).enumerate() {
        for outer in study.names(ancestor, any_id, |_| true) {
            out.extend(inside(&format!("{outer} ")));
            if i == 0 {
                out.extend(inside(&format!("{outer} > ")));
            }
        }
    }
    if let Some(previous) = document.node(element).previous {
        for before in study.names(previous, any_id, |_| true) {
            out.extend(inside(&format!("{before} + ")));
        }
    }
    out
}
/// A selector as each page reads it, where it takes all that it is to take.
fn takes_all(text: &str, pages: &[Target<'_>]) -> Option<Vec<SelectorList>> {
    let read = |page: &Target<'_>| {
        let list = page.study.parse_selector(text).ok()?;
        let matcher = page.study.page.matcher();
        page.take.iter().all(|e| matcher.finds(&list, *e)).then_some(list)
    };
    pages.iter().map(read).collect()
}

/// Those of some elements of a page that a selector takes.
fn taken(list: &SelectorList, page: &Target<'_>, among: &[ElementId]) -> Vec<ElementId> {
    let matcher = page.study.page.matcher();
    among.iter().copied().filter(|e| matcher.finds(list, *e)).collect()
}

/// A selector, where it fits what is asked for on all pages; none but the elements among some of each page can be taken by it.
fn fitting(selector: String, pages: &[Target<'_>], among: &[Vec<ElementId>]) -> Option<Aim> {
    let read = takes_all(&selector, pages)?;
    let leaves = |(page, list): (&Target<'_>, &SelectorList)| {
        let matcher = page.study.page.matcher();
        !page.leave.iter().any(|e| matcher.finds(list, *e))
    };
    if !pages.iter().zip(&read).all(leaves) {
        return None;
    }
    let (mut takes, mut besides) = (0, 0);
    for ((page, list), among) in pages.iter().zip(&read).zip(among) {
        let here = taken(list, page, among).len();
        takes += here;
        besides += here - page.take.len().min(here);
    }
    let first = read.first()?;
    let specificity = first.selectors.iter().map(|s| s.specificity).max().unwrap_or_default();
    let reading = Study::aloud(first);
    Some(Aim { selector, specificity, takes, besides, reading })
}

/// Whether an id looks as if a program had made it: long numbers, or letters and digits in turn.
fn looks_made(id: &str) -> bool {
    let digits = id.chars().filter(char::is_ascii_digit).count();
    let turns = id.as_bytes().windows(2).filter(|w| w[0].is_ascii_digit() != w[1].is_ascii_digit()).count();
    digits >= 4 || turns >= 4 || id.contains(':') || (id.len() > 20 && digits > 0)
}
