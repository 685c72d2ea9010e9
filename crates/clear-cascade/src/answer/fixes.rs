//! What would make a losing declaration win: the lightest change first, each tried before it is offered.

use serde::{Deserialize, Serialize};

use super::why::{Contender, Outcome, Why};
use crate::cascade::{Origin, Stage};
use crate::document::ElementId;
use crate::page::FlatRule;
use crate::selector::Simple;
use crate::source::Place;
use crate::study::{Change, RulePlace, Study};
use crate::stylesheet::Declaration;
use crate::syntax::serialize_identifier;

/// A change that makes a declaration win.
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
/// let fix = &page.why_not(one, "p")?.fixes[0];
/// let trial = page.attempt(&fix.changes)?;
/// assert_eq!(trial.study.value(trial.element(one).unwrap(), "color").as_deref(), Some("rgb(0, 0, 128)"));
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Debug, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct Fix {
    /// What to do, as one clause.
    pub what: String,
    /// How many other elements it changes as well.
    pub others: usize,
    /// What speaks against it.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub cost: Option<String>,
    /// The change itself, which can be tried and made permanent.
    pub changes: Vec<Change>,
}

/// How many changes are offered at the most.
const MOST: usize = 5;

/// A losing declaration.
struct Loser<'s> {
    /// The study.
    study: &'s Study,
    /// The element.
    element: ElementId,
    /// The rule it is in.
    rule: &'s FlatRule,
    /// The declaration.
    declaration: &'s Declaration,
    /// A longhand for which it loses.
    longhand: String,
    /// The contest for that longhand.
    why: Why,
}

impl Study {
    /// What would make a declaration of a rule win for a longhand on an element, from the lightest change to the heaviest.
    pub(super) fn fixes(
        &self,
        element: ElementId,
        rule: &FlatRule,
        declaration: &Declaration,
        longhand: &str,
    ) -> Vec<Fix> {
        let Ok(why) = self.why(element, longhand) else { return Vec::new() };
        Loser { study: self, element, rule, declaration, longhand: longhand.to_owned(), why }.fixes()
    }
}

impl Loser<'_> {
    /// The changes that win, lightest first.
    fn fixes(&self) -> Vec<Fix> {
        let place = self.study.sources.placed(self.declaration.span);
        let here = |c: &&Contender| c.at == place;
        let Some(own) = self.why.contenders.iter().find(here) else { return Vec::new() };
        let (Some(winner), Some(stage)) = (self.why.contenders.first(), own.stage) else { return Vec::new() };
        if own.outcome == Outcome::Won {
            return Vec::new();
        }
        let mut fixes: Vec<Fix> = Vec::new();
        for (what, changes) in self.candidates(own, winner, stage) {
            if fixes.len() == MOST {
                break;
            }
            if let Some(others) = self.wins(own, &changes) {
                fixes.push(Fix { what, others, cost: None, changes });
            }
        }
        if fixes.is_empty() && !own.important {
            let said = format!("{}: {}", own.property, own.value);
            let attached = Change::Attach { elements: vec![self.element], declarations: format!("{said} !important") };
            let last = [
                (format!("write `!important` behind `{said}`"), Change::Important { at: place, on: true }),
                (format!("write `{said} !important` into the element's own `style` attribute"), attached),
            ];
            for (what, change) in last {
                let changes = vec![change];
                if let Some(others) = self.wins(own, &changes).filter(|_| fixes.is_empty()) {
                    let cost = "only another `!important` can win over it later, so it is hard to take back".to_owned();
                    fixes.push(Fix { what, others, cost: Some(cost), changes });
                }
            }
        }
        fixes
    }

    /// Whether the declaration wins with some changes; how many other elements change too.
    fn wins(&self, own: &Contender, changes: &[Change]) -> Option<usize> {
        let trial = self.study.attempt(changes).ok()?;
        let then = trial.element(self.element)?;
        let why = trial.study.why(then, &self.longhand).ok()?;
        let first = why.contenders.first()?;
        if (&first.property, &first.value) != (&own.property, &own.value) {
            return None;
        }
        let mut changed: Vec<ElementId> = self.study.tried(&trial).changes.into_iter().map(|c| c.element).collect();
        changed.dedup();
        Some(changed.into_iter().filter(|e| *e != self.element).count())
    }

    /// Changes that may win, lightest first.
    fn candidates(&self, own: &Contender, winner: &Contender, stage: Stage) -> Vec<(String, Vec<Change>)> {
        let mut out = Vec::new();
        let written = winner.origin == Origin::Author;
        let prelude = self.study.sources.placed(self.study.page.prelude(self.rule));
        if stage == Stage::Order && written && winner.selector.is_some() && self.rule.within.scopes.is_empty() {
            let to = Place::line(winner.at.file.clone(), self.last_line_of_rule(winner));
            let what = format!("move the rule below {}:{}", winner.at.file, winner.at.line);
            out.push((what, vec![Change::Move { from: prelude.clone(), to }]));
        }
        if matches!(stage, Stage::Order | Stage::Specificity) && own.selector.is_some() {
            for (selector, told) in self.heavier_selectors(own) {
                let by = self.with_selector(own, &selector);
                let what = format!("write `{selector}`: {told}");
                out.push((what, vec![Change::Selectors { at: prelude.clone(), by }]));
            }
        }
        if let (Stage::Layer, Some(layer), false) = (stage, &own.layer, own.important) {
            let rule = format!("{} {{ {}: {} }}", own.selector.as_deref().unwrap_or("*"), own.property, own.value);
            let cut = Change::Cut { at: own.at.clone() };
            let add = Change::Rule { text: rule, to: RulePlace::EndOf(own.at.file.clone()) };
            out.push((format!("take it out of layer `{layer}`, to the end of {}", own.at.file), vec![cut, add]));
        }
        let at = winner.at.clone();
        if winner.important && written {
            let what = format!("take `!important` off {at}");
            out.push((what, vec![Change::Important { at: at.clone(), on: false }]));
        }
        if written {
            let name = winner.selector.as_deref().map_or("the `style` attribute".to_owned(), |s| format!("`{s}`"));
            let what = format!("cut `{}: {}` of {name} at {at}", winner.property, winner.value);
            out.push((what, vec![Change::Cut { at }]));
        }
        let is_own = |c: &&Contender| c.at == own.at;
        let rivals: Vec<&Contender> = self.why.contenders.iter().take_while(|c| !is_own(c)).collect();
        if rivals.len() > 1 && rivals.iter().all(|c| c.origin == Origin::Author) {
            let cut = |c: &&Contender| Change::Cut { at: c.at.clone() };
            let places: Vec<String> = rivals.iter().map(|c| c.at.to_string()).collect();
            out.push((format!("cut all that outranks it: {}", places.join(", ")), rivals.iter().map(cut).collect()));
        }
        if own.selector.is_some() && !own.important {
            let declarations = format!("{}: {}", own.property, own.value);
            let what = format!("write `{declarations}` into the element's own `style` attribute");
            out.push((what, vec![Change::Attach { elements: vec![self.element], declarations }]));
        }
        out
    }

    /// The line behind the rule that a contender is in.
    fn last_line_of_rule(&self, contender: &Contender) -> u32 {
        let study = self.study;
        let written = study.written_at(&contender.at).ok();
        let last = written.and_then(|w| study.page.declarations(w.rules.first()?).last());
        let last = last.map(|d| study.sources.at(d.span.source).line_column(d.span.end).0);
        let last = last.unwrap_or(contender.at.line);
        // The closing bracket may stand on a line of its own.
        let source = study.file_named(&contender.at.file).ok().map(|s| study.sources.at(s));
        let closes = |line: u32| {
            let range = source.and_then(|s| s.line_range(line).map(|(a, b)| &s.text[a as usize..b as usize]));
            range.is_some_and(|text| text.trim_start().starts_with('}'))
        };
        if closes(last + 1) { last + 2 } else { last + 1 }
    }

    /// The selector that takes the element made heavier by what the element and those around it have, lightest first.
    fn heavier_selectors(&self, own: &Contender) -> Vec<(String, String)> {
        let study = self.study;
        let Some(selector) = own.selector.as_deref().filter(|s| !s.contains("::")) else { return Vec::new() };
        let element = study.page.document.node(self.element);
        let Ok(list) = study.parse_selector(selector) else { return Vec::new() };
        let used = |test: &dyn Fn(&Simple) -> bool| {
            list.selectors.iter().flat_map(|s| &s.compounds).flat_map(|c| &c.parts).any(|p| test(&p.simple))
        };
        let mut out = Vec::new();
        let fresh: Vec<String> = element
            .classes
            .iter()
            .filter(|c| !used(&|s| matches!(s, Simple::Class(n) if n == *c)))
            .map(|c| serialize_identifier(c))
            .collect();
        for class in &fresh {
            out.push((format!("{selector}.{class}"), format!("with the class `{class}`, which the element has")));
        }
        for ancestor in study.page.document.lineage(self.element).skip(1).take(6) {
            let outer = study.page.document.node(ancestor);
            for class in &outer.classes {
                let class = serialize_identifier(class);
                if !used(&|s| matches!(s, Simple::Class(n) if **n == *class)) {
                    let told = |outer: &str| format!("inside `{outer}`, where the element is");
                    out.push((format!(".{class} {selector}"), told(&format!(".{class}"))));
                    let typed = format!("{}.{class}", serialize_identifier(&outer.name));
                    out.push((format!("{typed} {selector}"), told(&typed)));
                }
            }
        }
        if let (Some(a), Some(b)) = (fresh.first(), fresh.get(1)) {
            out.push((
                format!("{selector}.{a}.{b}"),
                format!("with the classes `{a}` and `{b}`, which the element has"),
            ));
        }
        if out.is_empty() {
            for ancestor in study.page.document.lineage(self.element).skip(1).take(3) {
                let name = &study.page.document.node(ancestor).name;
                out.push((format!("{name} {selector}"), format!("inside `{name}`, where the element is")));
            }
        }
        if let Some(id) = &element.id {
            let id = serialize_identifier(id);
            out.push((format!("{selector}#{id}"), "with the id of the element".to_owned()));
        }
        out
    }

    /// The selectors of the rule with the one that takes the element replaced.
    fn with_selector(&self, own: &Contender, by: &str) -> String {
        let study = self.study;
        let list = &study.page.selectors(self.rule).selectors;
        let texts = list.iter().map(|s| study.sources.written(s.span).trim().to_owned());
        let own = own.selector.as_deref().unwrap_or_default();
        texts.map(|t| if t == own { by.to_owned() } else { t }).collect::<Vec<_>>().join(", ")
    }
}
