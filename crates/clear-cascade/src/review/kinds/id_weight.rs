//! An id in a selector where a class would do.

use super::{Example, Finding, Kind, Level, Site};

/// An id selector where a class would do.
pub(super) const KIND: Kind = Kind {
    code: "id-for-style",
    level: Level::Advice,
    meaning: "A selector of a sheet written for these pages asks for an id.",
    matters: "An id outweighs any number of classes: what is to change such a look later needs an id too, or `!important`.",
    accept: "Where the sheet is for this one element.",
    example: Example {
        with: "<style>#a { top: 0 }</style><p id=a>1",
        without: "<style>.a { top: 0 }</style><p class=a>1",
    },
    find,
};

/// Looks for them.
fn find(site: &Site<'_>) -> Vec<Finding> {
    let heavy =
        site.facts.rules.iter().filter(|(at, rule)| {
            rule.hits > 0 && site.is_own(&at.file) && rule.weight.is_some_and(|w| w.columns()[0] > 0)
        });
    heavy
        .map(|(at, rule)| {
            let weight = rule.weight.unwrap_or_default();
            let selectors = crate::text::shorten(&rule.selectors, 80);
            let mut finding =
                KIND.finding(at.clone(), &rule.page, format!("`{selectors}` weighs ({weight}) for its id"));
            finding.advice = Some("a class would do: `.name` for `#name`, and `class` for `id` in the page".to_owned());
            finding.elements = rule.hits;
            finding.labels = rule.labels.iter().cloned().collect();
            finding
        })
        .collect()
}
