//! What a selector hits.

use std::collections::BTreeSet;

use serde::{Deserialize, Serialize};

use super::anyway::Anyway;
use super::fates::{self, Beaten, Fate};
use super::locate::LocateError;
use super::rules::Named;
use crate::document::{Attribute, ElementId};
use crate::page::FlatRule;
use crate::selector::{PseudoElement, SelectorList, Specificity};
use crate::source::Place;
use crate::study::{Study, WrittenAt};

/// What a selector hits on a page.
///
/// ```
/// use clear_cascade::{MemoryLoader, Study};
/// let files = MemoryLoader::default().with("a.html", "<!DOCTYPE html><style>p { color: navy }</style><p>a<p>b");
/// let page = Study::open(&files, "a.html")?;
/// let reach = page.reach("a.html:1")?; // A rule by its place, or any selector.
/// assert_eq!((reach.selector.as_str(), reach.elements.len()), ("p", 2));
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Debug, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct Reach {
    /// The selector as given.
    pub selector: String,
    /// Where the rule is written, where one was asked about.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub rule_at: Option<Place>,
    /// Why the rule is off, where it is.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub off: Option<String>,
    /// Its weight; of a list, the heaviest.
    pub specificity: Specificity,
    /// What it says in plain words.
    pub reading: String,
    /// What each part adds to the weight.
    pub parts: Vec<Part>,
    /// The elements it takes, in document order.
    pub elements: Vec<Hit>,
    /// States in the selector that are off as the page is seen.
    pub notes: Vec<String>,
    /// Of a rule: for each of its declarations, on how many of these elements it wins.
    pub declarations: Vec<Tally>,
    /// Where it takes nothing: what may be meant.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub hint: Option<String>,
}

/// A part of a selector and what it adds to the weight.
///
/// ```
/// # use clear_cascade::{MemoryLoader, Study};
/// # let files = MemoryLoader::default().with(
/// #     "a.html",
/// #     "<!DOCTYPE html><style>p { color: navy; margin: 1px } .lead { color: gold } p::before { content: '*' } b { widht: 2px; width: 3px }
/// #     @media print { p { color: black } }</style><body><p id=one class=lead>Hello <b>you</b></p><p id=two>Bye</p></body>",
/// # );
/// # let page = Study::open(&files, "a.html")?;
/// let reach = page.reach("p.lead")?;
/// let parts: Vec<_> = reach.parts.iter().map(|part| (part.text.as_str(), part.specificity.to_string())).collect();
/// assert_eq!(parts, [("p", "0, 0, 1".to_owned()), (".lead", "0, 1, 0".to_owned())]);
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Debug, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct Part {
    /// The part as written.
    pub text: String,
    /// What it adds.
    pub specificity: Specificity,
}

/// What becomes of a declaration over all that its rule takes.
///
/// ```
/// # use clear_cascade::{MemoryLoader, Study};
/// # let files = MemoryLoader::default().with(
/// #     "a.html",
/// #     "<!DOCTYPE html><style>p { color: navy; margin: 1px } .lead { color: gold } p::before { content: '*' } b { widht: 2px; width: 3px }
/// #     @media print { p { color: black } }</style><body><p id=one class=lead>Hello <b>you</b></p><p id=two>Bye</p></body>",
/// # );
/// # let page = Study::open(&files, "a.html")?;
/// let tally = &page.tallies()[0];
/// assert_eq!((tally.declaration.as_str(), tally.wins, tally.loses), ("color: navy", 1, 1));
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Debug, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct Tally {
    /// The declaration as written.
    pub declaration: String,
    /// Where it is written.
    pub at: Place,
    /// On how many elements and pseudo-elements it wins for every longhand that it sets.
    pub wins: usize,
    /// On how many it loses for at least one.
    pub loses: usize,
    /// Of these, on how many it wins for others.
    pub partly: usize,
    /// What it loses to, each once.
    pub to: Vec<String>,
    /// On how many a condition keeps it off.
    pub off: usize,
    /// On how many it does not count, as its property does not apply to such pseudo-elements.
    #[serde(default)]
    pub idle: usize,
    /// Why it is off or does not count, each once.
    pub because: Vec<String>,
    /// Why it was dropped, where it was: then it does nothing anywhere.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub dropped: Option<String>,
    /// The declarations that it loses to.
    #[serde(skip)]
    pub(crate) beaten_by: BTreeSet<Beaten>,
    /// On how many it decides though it loses: what wins rolls back to it.
    #[serde(skip)]
    pub(crate) decides: usize,
    /// What gives the same on all elements that it wins on; an inner nothing where something is different without it, and an outer one
    /// where that was not asked.
    #[serde(skip)]
    pub(crate) anyway: Option<Option<Anyway>>,
}

impl Tally {
    /// That of a declaration that is on nothing yet.
    pub(super) fn of(one: &fates::Said<'_>) -> Self {
        let Fate { declaration, at, dropped, .. } = one.fate.clone();
        let (to, because) = (Vec::new(), Vec::new());
        Self {
            declaration,
            at,
            wins: 0,
            loses: 0,
            partly: 0,
            to,
            off: 0,
            idle: 0,
            because,
            dropped,
            beaten_by: BTreeSet::new(),
            decides: 0,
            anyway: None,
        }
    }

    /// Counts what became of the declaration on one more element or pseudo-element.
    pub(super) fn add(&mut self, mut fate: Fate) {
        self.decides += usize::from(fate.decides);
        self.beaten_by.extend(fate.beaten_by.drain(..));
        self.loses += usize::from(!fate.loses.is_empty());
        self.partly += usize::from(!fate.loses.is_empty() && !fate.wins.is_empty());
        self.wins += usize::from(fate.loses.is_empty() && !fate.wins.is_empty());
        self.off += usize::from(fate.off.is_some());
        self.idle += usize::from(fate.idle.is_some());
        let to = fates::reasons(&fate).into_iter().map(|r| (r, false));
        for (reason, takes_no_part) in to.chain(fate.off.into_iter().chain(fate.idle).map(|why| (why, true))) {
            let list = if takes_no_part { &mut self.because } else { &mut self.to };
            if !list.contains(&reason) {
                list.push(reason);
            }
        }
    }
}

/// An element that a selector takes.
///
/// ```
/// # use clear_cascade::{MemoryLoader, Study};
/// # let files = MemoryLoader::default().with(
/// #     "a.html",
/// #     "<!DOCTYPE html><style>p { color: navy; margin: 1px } .lead { color: gold } p::before { content: '*' } b { widht: 2px; width: 3px }
/// #     @media print { p { color: black } }</style><body><p id=one class=lead>Hello <b>you</b></p><p id=two>Bye</p></body>",
/// # );
/// # let page = Study::open(&files, "a.html")?;
/// let reach = page.reach("p")?;
/// assert_eq!((reach.elements[0].label.as_str(), reach.elements[0].words.as_str()), ("p#one.lead", "Hello you"));
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Debug, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct Hit {
    /// Its number.
    pub element: ElementId,
    /// Its label.
    pub label: String,
    /// The first words of the text in it.
    pub words: String,
    /// The pseudo-element of it that is taken, where it is one.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub pseudo: Option<String>,
    /// Where it is written.
    pub at: Place,
}

impl Study {
    /// What a selector hits, or the rule at `FILE:LINE`; where that is nothing, the answer is empty and has a hint.
    ///
    /// ```
    /// # use clear_cascade::{MemoryLoader, Study};
    /// # let files = MemoryLoader::default().with(
    /// #     "a.html",
    /// #     "<!DOCTYPE html><style>p { color: navy; margin: 1px } .lead { color: gold } p::before { content: '*' } b { widht: 2px; width: 3px }
    /// #     @media print { p { color: black } }</style><body><p id=one class=lead>Hello <b>you</b></p><p id=two>Bye</p></body>",
    /// # );
    /// # let page = Study::open(&files, "a.html").unwrap();
    /// let rule = page.reach("a.html:1:55")?;
    /// assert_eq!((rule.selector.as_str(), rule.elements.len()), (".lead", 1));
    /// assert_eq!(rule.declarations[0].wins, 1);
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    ///
    /// # Errors
    /// Where the text is no selector, or no rule is written there.
    pub fn reach(&self, text: &str) -> Result<Reach, LocateError> {
        let named = self.named_rule(text)?;
        let (list, question) = match &named {
            Named::Selector(list) => (list, Some(text)),
            Named::Rule(written) => (&**self.page.selectors(written.rules[0]), None),
        };
        let taken = self.taken(&named);
        let heaviest = list.selectors.iter().map(|s| s.specificity).max().unwrap_or_default();
        let parts = list.selectors.iter().flat_map(|s| &s.compounds).flat_map(|c| &c.parts);
        let written = |span: crate::source::Span| self.text_of(question, span).to_owned();
        let parts = parts.map(|p| Part { text: written(p.span), specificity: p.simple.specificity() });
        Ok(Reach {
            selector: match (question, &named) {
                (Some(text), _) => text.trim().to_owned(),
                (None, Named::Rule(rule)) if list.selectors.is_empty() => self.attribute_named(rule.rules[0]),
                (None, _) => list.selectors.iter().map(|s| written(s.span)).collect::<Vec<_>>().join(", "),
            },
            rule_at: match &named {
                Named::Rule(w) => Some(self.sources.placed(self.page.prelude(w.rules[0]))),
                Named::Selector(_) => None,
            },
            off: match &named {
                Named::Rule(w) if w.rules.iter().all(|r| r.within.off.is_some()) => {
                    w.rules[0].within.off.as_ref().map(|off| self.off_in_words(off))
                }
                _ => None,
            },
            specificity: heaviest,
            reading: Self::aloud(list),
            parts: parts.filter(|p| !p.text.is_empty()).collect(),
            hint: if taken.is_empty() { self.nearest_name(list) } else { None },
            notes: self.off_states(list),
            declarations: match &named {
                Named::Rule(written) => self.tallies_of(written, &taken),
                Named::Selector(_) => Vec::new(),
            },
            elements: taken.iter().map(|(e, pseudo)| self.hit(*e, *pseudo)).collect(),
        })
    }

    /// What is taken, in document order: elements, and pseudo-elements of them behind them.
    pub(super) fn taken<'n>(&'n self, named: &'n Named<'n>) -> Vec<(ElementId, Option<&'n PseudoElement>)> {
        let matcher = self.page.matcher();
        let mut found: Vec<(ElementId, Option<&PseudoElement>)> = Vec::new();
        let mut add = |element: ElementId, pseudo: Option<&'n PseudoElement>| {
            if !found.iter().rev().take_while(|(e, _)| *e == element).any(|(_, p)| *p == pseudo) {
                found.push((element, pseudo));
            }
        };
        match named {
            Named::Rule(written) => {
                for element in self.page.document.all_ids() {
                    let all = written.rules.iter().flat_map(|r| self.taken_by(&matcher, r, element));
                    all.for_each(|m| add(element, m.pseudo));
                }
            }
            Named::Selector(list) => {
                // Each element once: itself, where it is taken, else a pseudo-element of it.
                for element in self.page.document.ids() {
                    let fits = list.selectors.iter().filter(|s| matcher.finds_one(s, element));
                    if let Some(first) = fits.min_by_key(|s| s.pseudo.is_some()) {
                        add(element, first.pseudo.as_ref());
                    }
                }
            }
        }
        found
    }

    /// The attribute that a rule without selectors is of, in words.
    pub(super) fn attribute_named(&self, rule: &FlatRule) -> String {
        let prelude = self.page.prelude(rule);
        let within = |a: &&Attribute| a.value_span.start <= prelude.start && prelude.start <= a.value_span.end;
        let found = self.page.document.all_ids().find_map(|e| {
            let attribute = self.page.document.node(e).attributes.iter().find(within)?;
            Some(format!("`{}` attribute of `{}`", attribute.name, self.page.document.label(e)))
        });
        found.unwrap_or_else(|| "attribute".to_owned())
    }

    /// States in selectors that are off as the page is seen.
    pub(super) fn off_states(&self, list: &SelectorList) -> Vec<String> {
        let states = &self.page.viewing.states;
        let asked = |note: &str| {
            let on = |name: &str, list: &[ElementId]| !list.is_empty() && note.starts_with(&format!("`:{name}"));
            on("hover", &states.hover)
                || on("active", &states.active)
                || on("focus", &states.focus)
                || on("visited", &states.visited)
                || on("target", &states.target)
        };
        list.undecided().into_iter().filter(|n| !asked(n)).collect()
    }

    /// What becomes of the declarations of a rule over all that it takes.
    pub(super) fn tallies_of(
        &self,
        written: &WrittenAt<'_>,
        taken: &[(ElementId, Option<&PseudoElement>)],
    ) -> Vec<Tally> {
        let said = self.said_by(written);
        let mut tallies: Vec<Tally> = said.iter().map(Tally::of).collect();
        let matcher = self.page.matcher();
        for (element, pseudo) in taken {
            let takes = |r: &&FlatRule| self.taken_by(&matcher, r, *element).iter().any(|m| m.pseudo == *pseudo);
            let rules: Vec<&FlatRule> = written.rules.iter().copied().filter(takes).collect();
            for (fate, tally) in self.fates(*element, *pseudo, &rules, &said).into_iter().zip(&mut tallies) {
                tally.add(fate);
            }
        }
        tallies
    }
}
