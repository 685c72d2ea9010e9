//! What a trial changes: every computed value, before and after, and what brings it about.

mod reasons;

use std::cell::LazyCell;
use std::collections::BTreeMap;

use rustc_hash::FxHashMap;
use serde::{Deserialize, Serialize};

use super::cause::Causes;
use super::reach::Hit;
use super::{BY_NAME, all_values};
use crate::document::{ElementId, ForeignElement};
use crate::property::{PropertyId, id};
use crate::selector::PseudoElement;
use crate::source::Place;
use crate::study::{Study, Trial};
use crate::style::{Sameness, Style};

/// What a trial changes on a page.
///
/// ```
/// use clear_cascade::{MemoryLoader, Study};
/// let files = MemoryLoader::default().with("a.html", "<!DOCTYPE html><style>p { color: navy }</style><p>a</p><p>b</p>");
/// let page = Study::open(&files, "a.html")?;
/// use clear_cascade::Change;
/// let paint = [Change::Value { at: "a.html:1:27".parse()?, by: "teal".to_owned() }];
/// let tried = page.compare_trial(&page.attempt(&paint)?)?;
/// assert!(tried.sentence.contains("2 elements"));
/// assert!(tried.because.is_empty()); // Reasons where nothing changes.
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Debug, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct Tried {
    /// The answer in one plain sentence.
    pub sentence: String,
    /// Every computed value that changes, element by element, the most visible properties first.
    pub changes: Vec<Changed>,
    /// Where nothing changes: why.
    pub because: Vec<String>,
}

/// A computed value that changes.
///
/// ```
/// use clear_cascade::{MemoryLoader, Study};
/// let files = MemoryLoader::default().with("a.html", "<!DOCTYPE html><style>p { color: navy }</style><p>a</p><p>b</p>");
/// let page = Study::open(&files, "a.html")?;
/// use clear_cascade::Change;
/// let paint = [Change::Value { at: "a.html:1:27".parse()?, by: "teal".to_owned() }];
/// let tried = page.compare_trial(&page.attempt(&paint)?)?;
/// let changed = &tried.changes[0];
/// assert_eq!((changed.before.as_str(), changed.after.as_str()), ("rgb(0, 0, 128)", "rgb(0, 128, 128)"));
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct Changed {
    /// The number of the element in the page as it is.
    pub element: ElementId,
    /// Its label.
    pub label: String,
    /// Where it is written.
    pub at: Place,
    /// The pseudo-element, if it is one.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub pseudo: Option<String>,
    /// The property.
    pub property: String,
    /// Its value as it is; empty where there is none.
    pub before: String,
    /// Its value as it would be; empty where there would be none.
    pub after: String,
    /// What gives the value then: a selector and its place, or where it is inherited from.
    pub by: String,
    /// Whether an ancestor brings it about, and not a declaration on the element.
    pub inherited: bool,
    /// Whether it only repeats another change: the flow-relative name of a property, or a colour that is the element's own.
    pub echo: bool,
}

/// Properties that show first, in the order in which one would look at them.
const FIRST: &[&str] = &[
    "display",
    "visibility",
    "opacity",
    "color",
    "background-color",
    "background-image",
    "font-size",
    "font-family",
    "font-weight",
    "font-style",
    "text-decoration-line",
    "text-transform",
    "text-align",
    "line-height",
    "letter-spacing",
    "position",
    "float",
    "width",
    "height",
    "max-width",
    "margin-top",
    "margin-right",
    "margin-bottom",
    "margin-left",
    "padding-top",
    "padding-right",
    "padding-bottom",
    "padding-left",
    "border-top-width",
    "border-right-width",
    "border-bottom-width",
    "border-left-width",
    "border-top-style",
    "border-right-style",
    "border-bottom-style",
    "border-left-style",
    "border-top-color",
    "border-right-color",
    "border-bottom-color",
    "border-left-color",
];

/// How visible a property is: smaller shows more.
pub(crate) fn rank(property: &str) -> usize {
    FIRST.iter().position(|p| *p == property).unwrap_or(if property.starts_with("--") { 999 } else { 500 })
}

impl Study {
    /// What a trial of this page changes, and why where nothing changes.
    ///
    /// ```
    /// # use clear_cascade::{MemoryLoader, Study};
    /// # let files = MemoryLoader::default().with(
    /// #     "a.html",
    /// #     "<!DOCTYPE html><style>p { color: navy; margin: 1px } .lead { color: gold } p::before { content: '*' } b { widht: 2px; width: 3px }
    /// #     @media print { p { color: black } }</style><body><p id=one class=lead>Hello <b>you</b></p><p id=two>Bye</p></body>",
    /// # );
    /// # let page = Study::open(&files, "a.html").unwrap();
    /// use clear_cascade::Change;
    /// let trial = page.attempt(&[Change::Cut { at: "a.html:1:62".parse()? }])?;
    /// let tried = page.compare_trial(&trial)?;
    /// assert_eq!(tried.sentence, "`color` changes on 2 elements.");
    /// assert_eq!((tried.changes[0].before.as_str(), tried.changes[0].after.as_str()), ("rgb(255, 215, 0)", "rgb(0, 0, 128)"));
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    ///
    /// # Errors
    /// Where the trial is of another page.
    pub fn compare_trial(&self, trial: &Trial) -> Result<Tried, ForeignElement> {
        if !trial.is_of(&self.page.document) {
            return Err(ForeignElement { element: trial.study.page.document.root() });
        }
        Ok(self.tried(trial))
    }

    /// The same of a trial that was made of this page.
    pub(crate) fn tried(&self, trial: &Trial) -> Tried {
        let (mut found, mut known) = (Vec::new(), Sameness::default());
        self.resolve_all();
        let after = &trial.study;
        // What is not reached, and inherits from what came out as it was, need not be looked at.
        let reached = after.styles().reached(self.styles());
        let mut same = vec![false; self.page.document.count()];
        for id in self.page.document.all_ids() {
            let Some(then) = trial.element(id) else { continue };
            let may_stay = || self.page.document.flat_parent(id).is_none_or(|parent| same[parent.index()]);
            let stays = reached.is_some_and(|reached| !reached[id.index()] && may_stay());
            if !stays {
                after.style(then);
                differences((self, id), (after, then), &mut known, &mut found);
            }
            same[id.index()] = stays || self.styles().are(id, after.styles(), then);
        }
        let because = if found.is_empty() { self.reasons(trial) } else { Vec::new() };
        Tried { sentence: sentence(&found), changes: found, because }
    }
}

/// Whether the changes of one element or pseudo-element are those of a box that comes, or goes.
fn comes_or_goes(run: &[&Changed]) -> Option<bool> {
    let pseudo = run.first().is_some_and(|c| c.pseudo.is_some());
    let all = |empty: fn(&Changed) -> &str| run.iter().all(|c| c.property.starts_with("--") || empty(c).is_empty());
    let comes = pseudo && all(|c| &c.before);
    (comes || (pseudo && all(|c| &c.after))).then_some(comes)
}

/// The answer in one sentence.
fn sentence(changes: &[Changed]) -> String {
    let all: Vec<&Changed> = changes.iter().collect();
    let runs = || all.chunk_by(|a, b| (a.element, &a.pseudo) == (b.element, &b.pseudo));
    let (mut elements, mut properties): (Vec<ElementId>, Vec<&str>) = (Vec::new(), Vec::new());
    let mut boxes: Vec<(&str, bool, usize)> = Vec::new();
    for run in runs() {
        if let (Some(comes), Some(name)) = (comes_or_goes(run), run[0].pseudo.as_deref()) {
            match boxes.iter_mut().find(|(n, c, _)| (*n, *c) == (name, comes)) {
                Some((.., count)) => *count += 1,
                None => boxes.push((name, comes, 1)),
            }
            continue;
        }
        elements.push(run[0].element);
        properties.extend(run.iter().filter(|c| !c.echo).map(|c| c.property.as_str()));
    }
    elements.dedup();
    properties.sort_by_key(|p| (rank(p), *p));
    properties.dedup();
    let count = |n: usize| if n == 1 { "1 element".to_owned() } else { format!("{n} elements") };
    let mut told: Vec<String> = Vec::new();
    match (elements.len(), properties.as_slice()) {
        (0, _) => {}
        (n, []) => told.push(format!("Colours change on {}.", count(n))),
        (n, [one]) => told.push(format!("`{one}` changes on {}.", count(n))),
        (n, all) => {
            let comma = if all.len() > 2 { "," } else { "" };
            told.push(format!("{}{comma} change on {}.", named(all), count(n)));
        }
    }
    told.extend(boxes.into_iter().map(|(name, comes, n)| {
        let what = if comes { "A new" } else { "No more" };
        format!("{what} `{name}` on {}.", count(n))
    }));
    if told.is_empty() { "Nothing changes.".to_owned() } else { told.join(" ") }
}

/// Properties in a sentence: both of two, and of more their number and the two that show most, which stand first.
pub(crate) fn named(properties: &[&str]) -> String {
    match properties {
        [] => "nothing".to_owned(),
        [one] => format!("`{one}`"),
        [one, two] => format!("`{one}` and `{two}`"),
        [one, two, ..] => format!("{} properties, among them `{one}` and `{two}`", properties.len()),
    }
}

/// Adds what differs between an element of one study and an element of another, pseudo-elements included.
pub(crate) fn differences(
    (a, id): (&Study, ElementId),
    (b, then): (&Study, ElementId),
    known: &mut Sameness,
    found: &mut Vec<Changed>,
) {
    let start = found.len();
    if a.styles().are(id, b.styles(), then) {
        return;
    }
    let (own, other) = (a.style(id), b.style(then));
    if !own.same_as(other, known) {
        between((a, id, Some(own)), None, (b, then, Some(other)), known, found);
    }
    let mut names: Vec<&PseudoElement> = a.boxes(id).chain(b.boxes(then)).map(|(n, _)| n).collect();
    names.sort_by_key(|n| n.to_string());
    names.dedup();
    for name in names {
        let of = |s: &'_ Study, e: ElementId| s.boxes(e).find(|(n, _)| n == name).map(|(_, s)| s.clone());
        let (own, other) = (of(a, id), of(b, then));
        let same = matches!((&own, &other), (Some(x), Some(y)) if x.same_as(y, known));
        if !same {
            let sides = ((a, id, own.as_deref()), (b, then, other.as_deref()));
            between(sides.0, Some(name), sides.1, known, found);
        }
    }
    found[start..]
        .sort_by(|x, y| (&x.pseudo, rank(&x.property), &x.property).cmp(&(&y.pseudo, rank(&y.property), &y.property)));
}

/// Values as texts, by the names of properties.
type Texts = BTreeMap<String, String>;

/// Adds what differs between two styles.
fn between(
    (a, id, own): (&Study, ElementId, Option<&Style>),
    pseudo: Option<&PseudoElement>,
    (b, then, other): (&Study, ElementId, Option<&Style>),
    known: &mut Sameness,
    found: &mut Vec<Changed>,
) {
    let (before, after) = differing(own, other, known);
    let causes = Causes::new(b, then, pseudo);
    let causes_before = LazyCell::new(|| Causes::new(a, id, pseudo));
    let color = |style: Option<&Style>| style.map(|s| s.text(id::COLOR));
    let colors = (color(own), color(other));
    let mut add = |property: &str, before: &str, after: &str| {
        if before == after {
            return;
        }
        let (mut by, mut inherited) = causes.of(property);
        let follows = colors.0.as_deref() == Some(before) && colors.1.as_deref() == Some(after);
        if inherited && follows && property != "color" {
            "follows `color`".clone_into(&mut by);
        } else if inherited && let Some(gone) = causes_before.winner(property) {
            // What was declared here is no more: that is no matter of ancestors.
            inherited = false;
            let told = format!("no longer set by {}", causes_before.name(gone));
            by = if by.starts_with("inherited") { format!("{by}, {told}") } else { told };
        }
        found.push(Changed {
            element: id,
            label: a.page.document.label(id),
            at: a.sources.placed(a.page.document.span(id)),
            pseudo: pseudo.map(ToString::to_string),
            property: property.to_owned(),
            before: before.to_owned(),
            after: after.to_owned(),
            by,
            inherited,
            echo: echoes(property) || (follows && property != "color" && property != "background-color"),
        });
    };
    let mut after = after;
    for (property, value) in &before {
        let then = after.remove(property).unwrap_or_default();
        add(property, value, &then);
    }
    for (property, value) in &after {
        add(property, "", value);
    }
}

/// The values of two styles, as texts by the names of properties, those left out that are seen to be the same.
fn differing(own: Option<&Style>, other: Option<&Style>, known: &mut Sameness) -> (Texts, Texts) {
    let (Some(own), Some(other)) = (own, other) else {
        let values = |style: Option<&Style>| style.map(all_values).unwrap_or_default().into_iter().collect();
        return (values(own), values(other));
    };
    let (mut before, mut after) = (Texts::new(), Texts::new());
    let some = own.differing(other);
    for property in BY_NAME.iter() {
        // As text flows, a name may be of another side then.
        let (physical, then) = (own.flow.physical(*property), other.flow.physical(*property));
        if physical != then || some.has(physical) {
            before.insert(property.name().to_owned(), own.text(*property));
            after.insert(property.name().to_owned(), other.text(*property));
        }
    }
    for (name, a, b) in own.differing_customs(other, known) {
        let values = [(a, &mut before), (b, &mut after)].into_iter();
        values.for_each(|(value, texts)| texts.extend(value.map(|v| (name.to_string(), v.shown().to_owned()))));
    }
    (before, after)
}

/// Whether a property is a flow-relative name of another one (CSS Logical 1, §4).
pub(crate) fn echoes(property: &str) -> bool {
    PropertyId::named(property).is_some_and(PropertyId::is_flow_relative)
}

/// Elements that change alike, so that they can be told together.
///
/// ```
/// use clear_cascade::{MemoryLoader, Study};
/// let files = MemoryLoader::default().with("a.html", "<!DOCTYPE html><style>p { color: navy }</style><p>a</p><p>b</p>");
/// let page = Study::open(&files, "a.html")?;
/// use clear_cascade::Change;
/// let paint = [Change::Value { at: "a.html:1:27".parse()?, by: "teal".to_owned() }];
/// let tried = page.compare_trial(&page.attempt(&paint)?)?;
/// let alike = tried.alike();
/// assert_eq!((alike.len(), alike[0].elements.len()), (1, 2));
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Debug)]
pub struct Alike<'t> {
    /// The elements and pseudo-elements.
    pub elements: Vec<Hit>,
    /// What changes on each of them.
    pub changes: Vec<&'t Changed>,
    /// Whether they are boxes that come, true, or go, false.
    pub comes: Option<bool>,
}

impl Tried {
    /// The changes with elements that change alike together, those whose changes are declared first.
    ///
    /// ```
    /// use clear_cascade::{MemoryLoader, Study};
    /// let files = MemoryLoader::default().with("a.html", "<!DOCTYPE html><style>p { color: navy }</style><p>a</p><p>b</p>");
    /// let page = Study::open(&files, "a.html")?;
    /// use clear_cascade::Change;
    /// let paint = [Change::Value { at: "a.html:1:27".parse()?, by: "teal".to_owned() }];
    /// let tried = page.compare_trial(&page.attempt(&paint)?)?;
    /// assert_eq!(tried.alike()[0].elements.len(), 2);
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    #[must_use]
    pub fn alike(&self) -> Vec<Alike<'_>> {
        alike(&self.changes)
    }
}

/// Puts elements with the same changes together.
pub(crate) fn alike(changes: &[Changed]) -> Vec<Alike<'_>> {
    let mut groups: Vec<Alike<'_>> = Vec::new();
    let mut known: FxHashMap<Vec<_>, usize> = FxHashMap::default();
    let one = |c: &Changed| (c.element, c.pseudo.clone());
    for run in changes.chunk_by(|a, b| one(a) == one(b)) {
        let Some(first) = run.first() else { continue };
        let hit = Hit {
            element: first.element,
            label: first.label.clone(),
            words: String::new(),
            pseudo: first.pseudo.clone(),
            at: first.at.clone(),
        };
        let told = run.iter().map(|c| (&c.property, &c.before, &c.after, c.inherited, &c.pseudo, &c.by));
        let number = *known.entry(told.collect()).or_insert(groups.len());
        match groups.get_mut(number) {
            Some(group) => group.elements.push(hit),
            None => {
                let changes: Vec<&Changed> = run.iter().collect();
                groups.push(Alike { elements: vec![hit], comes: comes_or_goes(&changes), changes });
            }
        }
    }
    groups.sort_by_key(|g| g.changes.iter().all(|c| c.inherited));
    groups
}
