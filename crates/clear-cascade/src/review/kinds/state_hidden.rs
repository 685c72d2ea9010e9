//! States of links in an order in which one hides the other.

use std::collections::BTreeMap;

use rustc_hash::FxHashSet;

use super::{Example, Finding, Kind, Level, Site};
use crate::property::PropertyId;
use crate::review::facts::{DeclarationFacts, RuleFacts};
use crate::source::Place;

/// A rule for a state behind which one as heavy stands for a state that always goes with it.
pub(super) const KIND: Kind = Kind {
    code: "state-hidden",
    level: Level::Wrong,
    meaning: "A rule for `:hover`, `:focus` or `:active` stands before one as heavy for a state that the element is in as well.",
    matters: "The later one wins, so that nothing is seen of the first: `a:link` behind `a:hover`, or `a:hover` behind `a:active`.",
    accept: "Never: the order that works is link, visited, hover, focus, active.",
    example: Example {
        with: "<style>a:hover { color: red } a:link { color: navy }</style><a href=x>1</a>",
        without: "<style>a:link { color: navy } a:visited { color: teal } a:hover { color: red } a:active { top: 0 }</style><a href=x>1</a>",
    },
    find,
};

/// States, and those behind which nothing is seen of them.
const HIDES: &[(&str, &[&str])] = &[
    (":hover", &[":link", ":visited", ":any-link"]),
    (":focus", &[":link", ":visited", ":any-link"]),
    (":focus-visible", &[":link", ":visited", ":any-link", ":focus"]),
    (":active", &[":link", ":visited", ":any-link", ":hover"]),
];

/// A file, a group of conditions in it, and a selector without its state: what stands before that and behind.
type Without<'f> = (&'f str, Option<u32>, (&'f str, &'f str));

/// A rule and the state that one of its selectors ends with.
type Ended<'f> = (&'f Place, &'f RuleFacts, String);

/// Looks for them.
fn find(site: &Site<'_>) -> Vec<Finding> {
    let mut alike: BTreeMap<Without<'_>, Vec<Ended<'_>>> = BTreeMap::new();
    for (at, rule) in site.facts.rules.iter().filter(|(_, rule)| !rule.nested) {
        for selector in rule.selectors.split(", ").filter(|s| !s.contains('(')) {
            let (subject, pseudo) = selector.split_at(selector.find("::").unwrap_or(selector.len()));
            let Some(colon) = subject.rfind(':') else { continue };
            let (base, state) = subject.split_at(colon);
            let state = state.to_ascii_lowercase();
            alike.entry((&at.file, rule.group, (base, pseudo))).or_default().push((at, rule, state));
        }
    }
    let mut found: BTreeMap<Place, Finding> = BTreeMap::new();
    for ((file, _, (base, pseudo)), rules) in alike {
        let by_state: FxHashSet<(*const RuleFacts, &str)> =
            rules.iter().map(|(_, rule, state)| (std::ptr::from_ref(*rule), state.as_str())).collect();
        for (n, (at, rule, state)) in rules.iter().enumerate() {
            let hides = HIDES.iter().find(|(first, _)| first == state).map_or(&[][..], |(_, by)| *by);
            // What is for the same state, too, is meant to come after.
            let also = |later: &RuleFacts| by_state.contains(&(std::ptr::from_ref(later), state.as_str()));
            for declaration in rule.declarations.iter().filter(|d| !d.dropped) {
                let by = rules[n + 1..].iter().find(|(_, later, s)| {
                    hides.contains(&s.as_str())
                        && !also(later)
                        && later.declarations.iter().any(|other| undoes(other, declaration))
                });
                let Some((there, _, hiding)) = by else { continue };
                let place = Place::line(at.file.clone(), declaration.at.0).with_column(declaration.at.1);
                let what =
                    format!("`{}` is not seen where `{base}{hiding}{pseudo}` counts as well", declaration.shown());
                let mut finding = KIND.finding(place.clone(), &rule.page, what);
                finding.level = if site.is_own(file) { Level::Wrong } else { Level::Advice };
                finding.effect =
                    Some(format!("the rule for `{hiding}` in line {} comes later and weighs the same", there.line));
                finding.advice = Some(format!("put the rule for `{state}` behind it"));
                found.entry(place).or_insert(finding);
            }
        }
    }
    found.into_values().collect()
}

/// Whether a declaration sets all that another one sets, and comes before it in the cascade where it stands behind it.
fn undoes(one: &DeclarationFacts, other: &DeclarationFacts) -> bool {
    let important = |d: &DeclarationFacts| d.text.trim_end().to_ascii_lowercase().ends_with("important");
    if one.dropped || one.text == other.text || important(other) && !important(one) {
        return false;
    }
    match (PropertyId::named(&one.property), PropertyId::named(&other.property)) {
        (Some(a), Some(b)) => {
            let sets = a.longhands_of();
            b.longhands_of().iter().all(|longhand| sets.contains(longhand))
        }
        _ => one.property == other.property,
    }
}
