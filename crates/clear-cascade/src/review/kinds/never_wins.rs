//! A declaration that always loses.

use super::{Example, Finding, Kind, Level, Site, count, next_like};
use crate::property::PropertyId;
use crate::source::Place;
use crate::study::Change;

/// A declaration that wins nowhere.
pub(super) const KIND: Kind = Kind {
    code: "never-wins",
    level: Level::Dead,
    meaning: "A declaration loses on every element that its rule takes, on all pages.",
    matters: "It looks as if it did something, and whoever changes it wonders why nothing happens.",
    accept: "Where it is for browsers that do not know what beats it, or for pages that were not looked at.",
    example: Example {
        with: "<style>p { color: navy } p.a { color: red }</style><p class=a>1",
        without: "<style>p { color: navy } p.a { color: red }</style><p class=a>1<p>2",
    },
    find,
};

/// Looks for them.
fn find(site: &Site<'_>) -> Vec<Finding> {
    let mut found = Vec::new();
    for (at, rule) in &site.facts.rules {
        let again = next_like(rule, |d| &d.text);
        // A value before a newer one of the same property is there for browsers that do not know the newer one.
        let newer = next_like(rule, |d| PropertyId::named(&d.property).ok_or(&d.property));
        for ((declaration, again), newer) in rule.declarations.iter().zip(again).zip(newer) {
            let always = declaration.loses > 0 && declaration.wins == 0 && declaration.off == 0;
            // What states that are off would change is not known.
            if !always || rule.states || declaration.dropped || again.is_some() {
                continue;
            }
            let place = Place::line(at.file.clone(), declaration.at.0).with_column(declaration.at.1);
            let mut finding = KIND.finding(
                place.clone(),
                &rule.page,
                format!("`{}` always loses, on {}", declaration.shown(), count(declaration.loses, "element")),
            );
            let older = newer.is_some() || declaration.property.starts_with("-webkit-");
            // What beats it may not be there at another width.
            let by_view = declaration.beaten_by.iter().any(|b| b.by_view);
            finding.level = if older || by_view { Level::Advice } else { site.dead(&at.file) };
            finding.effect = declaration.to.iter().next().map(|first| match declaration.to.len() {
                1 => format!("it loses {first}"),
                n => format!("it loses {first}; and to {}", count(n - 1, "other")),
            });
            finding.elements = declaration.loses;
            finding.labels = rule.labels.iter().cloned().collect();
            // A rule with nothing in it is no use either.
            let alone = rule.declarations.len() == 1;
            finding.fix = vec![Change::Cut { at: if alone { at.clone() } else { place } }];
            found.push(finding);
        }
    }
    found
}
