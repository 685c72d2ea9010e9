//! States of links in an order in which one hides the other.

use std::collections::BTreeMap;

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

/// A rule and the state that one of its selectors ends with.
type Ended<'f> = (&'f Place, &'f RuleFacts, &'f str);

/// Looks for them.
fn find(site: &Site<'_>) -> Vec<Finding> {
    // By file, group of conditions and selector without its state.
    let mut alike: BTreeMap<(&str, Option<u32>, &str), Vec<Ended<'_>>> = BTreeMap::new();
    for (at, rule) in &site.facts.rules {
        for selector in rule.selectors.split(", ").filter(|s| !s.contains('(')) {
            let Some(colon) = selector.rfind(':').filter(|i| !selector[..*i].ends_with(':')) else { continue };
            alike.entry((&at.file, rule.group, &selector[..colon])).or_default().push((at, rule, &selector[colon..]));
        }
    }
    let mut found = Vec::new();
    for ((.., base), rules) in alike {
        for (n, (at, rule, state)) in rules.iter().enumerate() {
            let hides = HIDES.iter().find(|(first, _)| first == state).map_or(&[][..], |(_, by)| *by);
            for declaration in rule.declarations.iter().filter(|d| !d.dropped) {
                let by = rules[n + 1..].iter().find(|(_, later, s)| {
                    hides.contains(s) && later.declarations.iter().any(|other| undoes(other, declaration))
                });
                let Some((there, later, hiding)) = by else { continue };
                let place = Place::line(at.file.clone(), declaration.at.0).with_column(declaration.at.1);
                let what = format!("`{}` is not seen where `{base}{hiding}` is true as well", declaration.text);
                let mut finding = KIND.finding(place, &rule.page, what);
                finding.effect =
                    Some(format!("`{}` in line {} comes later and weighs the same", later.selectors, there.line));
                finding.advice = Some(format!("put the rule for `{state}` behind it"));
                found.push(finding);
            }
        }
    }
    found
}

/// Whether a declaration sets all that another one sets, and comes before it in the cascade where it stands behind it.
fn undoes(one: &DeclarationFacts, other: &DeclarationFacts) -> bool {
    let important = |d: &DeclarationFacts| d.text.trim_end().to_ascii_lowercase().ends_with("important");
    if one.dropped || important(other) && !important(one) {
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
