//! What a selector hits.

use serde::Serialize;

use super::locate::LocateError;
use super::rules::Named;
use super::why_not::Fate;
use crate::document::ElementId;
use crate::page::FlatRule;
use crate::selector::{SelectorList, Specificity};
use crate::source::Place;
use crate::study::Study;

/// What a selector hits on a page.
#[derive(Clone, Debug, Serialize)]
#[non_exhaustive]
pub struct Reach {
    /// The selector as given.
    pub selector: String,
    /// Its weight; of a list, the heaviest.
    pub specificity: [u32; 3],
    /// What it says in plain words.
    pub reading: String,
    /// What each part adds to the weight.
    pub parts: Vec<Part>,
    /// The elements it takes, in document order.
    pub elements: Vec<Hit>,
    /// States in the selector that are off as the page is seen.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub notes: Vec<String>,
    /// Of a rule: for each of its declarations, on how many of these elements it wins.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub declarations: Vec<Tally>,
    /// Where it takes nothing: what may be meant.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub hint: Option<String>,
}

/// A part of a selector and what it adds to the weight.
#[derive(Clone, Debug, Serialize)]
pub struct Part {
    /// The part as written.
    pub text: String,
    /// What it adds.
    pub specificity: [u32; 3],
}

/// On how many elements a declaration wins, and what it loses to.
#[derive(Clone, Debug, Serialize)]
pub struct Tally {
    /// The declaration as written.
    pub declaration: String,
    /// Where it is written.
    #[serde(serialize_with = "as_text")]
    pub at: Place,
    /// On how many elements it wins for every longhand that it sets.
    pub wins: usize,
    /// On how many it loses for at least one.
    pub loses: usize,
    /// What it loses to, each once.
    pub to: Vec<String>,
}

/// An element that a selector takes.
#[derive(Clone, Debug, Serialize)]
pub struct Hit {
    /// Its number.
    pub element: u32,
    /// Its label.
    pub label: String,
    /// Where it is written.
    #[serde(serialize_with = "as_text")]
    pub at: Place,
}

/// A place as `FILE:LINE:COLUMN`.
fn as_text<S: serde::Serializer>(place: &Place, serializer: S) -> Result<S::Ok, S::Error> {
    serializer.collect_str(place)
}

impl Study {
    /// What a selector hits, or the rule at `FILE:LINE`; where that is nothing, the answer is empty and has a hint.
    ///
    /// # Errors
    /// Where the text is no selector, or no rule is written there.
    pub fn reach(&self, text: &str) -> Result<Reach, LocateError> {
        let named = self.named_rule(text)?;
        let (list, question) = match &named {
            Named::Selector(list) => (list, Some(text)),
            Named::Rule(rule) => (&*self.page.style_rule(rule).selectors, None),
        };
        let matcher = self.page.matcher();
        let taken: Vec<ElementId> = match &named {
            Named::Rule(rule) => self.page.document.all_ids().filter(|e| self.rule_takes(&matcher, rule, *e)).collect(),
            Named::Selector(_) => self.page.document.ids().filter(|e| matcher.finds(list, *e)).collect(),
        };
        let hit = |e: &ElementId| Hit {
            element: e.number(),
            label: self.page.document.label(*e),
            at: self.sources.place(self.page.document.span(*e)),
        };
        let heaviest = list.selectors.iter().map(|s| s.specificity).max().unwrap_or_default();
        let parts = list.selectors.iter().flat_map(|s| &s.compounds).flat_map(|c| &c.parts);
        let written = |span: crate::source::Span| self.text_of(question, span).to_owned();
        let parts =
            parts.map(|p| Part { text: written(p.span), specificity: Specificity::columns(p.simple.specificity()) });
        Ok(Reach {
            selector: match question {
                Some(text) => text.trim().to_owned(),
                None => list.selectors.iter().map(|s| written(s.span)).collect::<Vec<_>>().join(", "),
            },
            specificity: heaviest.columns(),
            reading: Self::aloud(list),
            parts: parts.filter(|p| !p.text.is_empty()).collect(),
            hint: if taken.is_empty() { self.nearest_name(list) } else { None },
            notes: self.off_states(list),
            declarations: match &named {
                Named::Rule(rule) => self.tallies(rule, &taken),
                Named::Selector(_) => Vec::new(),
            },
            elements: taken.iter().map(hit).collect(),
        })
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

    /// On how many elements the declarations of a rule win.
    fn tallies(&self, rule: &FlatRule, elements: &[ElementId]) -> Vec<Tally> {
        let mut tallies: Vec<Tally> = Vec::new();
        for element in elements {
            for (i, fate) in self.fates(*element, rule).into_iter().enumerate() {
                if tallies.len() <= i {
                    let Fate { declaration, at, .. } = fate.clone();
                    tallies.push(Tally { declaration, at, wins: 0, loses: 0, to: Vec::new() });
                }
                let tally = &mut tallies[i];
                if fate.loses.is_empty() {
                    tally.wins += 1;
                } else {
                    tally.loses += 1;
                }
                for (_, to) in fate.loses {
                    if !tally.to.contains(&to) {
                        tally.to.push(to);
                    }
                }
            }
        }
        tallies
    }
}
