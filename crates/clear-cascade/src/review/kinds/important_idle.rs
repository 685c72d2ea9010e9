//! An important declaration that would win as it is.

use std::collections::BTreeSet;

use super::{Example, Finding, Kind, Level, Site};
use crate::property::PropertyId;
use crate::review::facts::DeclarationFacts;
use crate::source::Place;

/// `!important` that decides nothing.
pub(super) const KIND: Kind = Kind {
    code: "important-idle",
    level: Level::Advice,
    meaning: "A declaration is `!important` and would win without that wherever it wins.",
    matters: "Nothing is won by it, and whoever wants to outrank it needs another `!important`.",
    accept: "Where it is to win over what scripts or users set.",
    example: Example {
        with: "<style>p { color: navy } p { color: red !important }</style><p>1",
        without: "<style>p { color: red !important } p.a { color: navy }</style><p class=a>1",
    },
    find,
};

/// Looks for them.
fn find(site: &Site<'_>) -> Vec<Finding> {
    let needed: BTreeSet<&Place> = site
        .facts
        .rules
        .values()
        .flat_map(|rule| &rule.declarations)
        .flat_map(|d| &d.beaten_by)
        .filter(|by| by.important)
        .map(|by| &by.at)
        .collect();
    // What counts in states or at widths that were not looked at may be what it is for.
    let elsewhere: BTreeSet<PropertyId> = site
        .facts
        .rules
        .values()
        .filter(|rule| rule.states || rule.off || rule.hits == 0 || rule.selectors.is_empty())
        .flat_map(|rule| &rule.declarations)
        .filter_map(|d| PropertyId::named(&d.property))
        .flat_map(PropertyId::longhands_of)
        .collect();
    let mut found = Vec::new();
    for (at, rule) in
        site.facts.rules.iter().filter(|(at, r)| site.is_own(&at.file) && !r.states && !r.selectors.is_empty())
    {
        for declaration in rule.declarations.iter().filter(|d| is_important(d) && d.wins > 0 && d.loses == 0) {
            let place = Place::line(at.file.clone(), declaration.at.0).with_column(declaration.at.1);
            let known = PropertyId::named(&declaration.property);
            let open = known.is_none_or(|p| p.longhands_of().iter().any(|longhand| elsewhere.contains(longhand)));
            if needed.contains(&place) || open {
                continue;
            }
            let what = format!("`{}` would win without `!important`", declaration.shown());
            let mut finding = KIND.finding(place, &rule.page, what);
            finding.advice = Some("take `!important` away".to_owned());
            finding.elements = declaration.wins;
            finding.labels = rule.labels.iter().cloned().collect();
            found.push(finding);
        }
    }
    found
}

/// Whether a declaration is important and counts.
fn is_important(declaration: &DeclarationFacts) -> bool {
    !declaration.dropped && declaration.text.ends_with("!important")
}
