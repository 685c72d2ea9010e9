//! A custom property that nobody reads.

use rustc_hash::FxHashSet;

use super::{Example, Finding, Kind, Level, Site};
use crate::source::Place;

/// A custom property that nobody reads.
pub(super) const KIND: Kind = Kind {
    code: "variable-unread",
    level: Level::Advice,
    meaning: "A custom property is declared, and no value and no script in the pages reads it.",
    matters: "Whoever changes it wonders why nothing happens.",
    accept: "Where a program or another page reads it.",
    example: Example {
        with: "<style>p { --ink: black }</style><p>1",
        without: "<style>p { --ink: black; color: var(--ink) }</style><p>1",
    },
    find,
};

/// Looks for them.
fn find(site: &Site<'_>) -> Vec<Finding> {
    let mut found: Vec<Finding> = Vec::new();
    let mut told: FxHashSet<&str> = FxHashSet::default();
    for (at, rule) in &site.facts.rules {
        for declaration in rule.declarations.iter().filter(|d| d.property.starts_with("--")) {
            let name = &declaration.property;
            if site.facts.read.contains(name) || site.facts.words.contains(name) || !told.insert(name) {
                continue;
            }
            let what = format!("`{name}` is read nowhere");
            let place = Place::line(at.file.clone(), declaration.at.0).with_column(declaration.at.1);
            found.push(KIND.finding(place, &rule.page, what));
        }
    }
    found
}
