//! The same declaration twice in a rule.

use super::{Example, Finding, Kind, Level, Site, next_like};
use crate::source::Place;
use crate::study::Change;

/// The same declaration twice in one rule.
pub(super) const KIND: Kind = Kind {
    code: "declared-twice",
    level: Level::Dead,
    meaning: "A rule has the same declaration twice, letter for letter.",
    matters: "The first does nothing; whoever changes it wonders why.",
    accept: "Never: one of them can go.",
    example: Example {
        with: "<style>p { top: 0; left: 0; top: 0 }</style><p>1",
        without: "<style>p { top: 0; left: 0 }</style><p>1",
    },
    find,
};

/// Looks for them.
fn find(site: &Site<'_>) -> Vec<Finding> {
    let mut found = Vec::new();
    for (at, rule) in &site.facts.rules {
        let again = next_like(rule, |d| &d.text);
        for (declaration, again) in rule.declarations.iter().zip(again).filter(|(d, _)| !d.dropped) {
            let Some(again) = again else { continue };
            let place = Place::line(at.file.clone(), declaration.at.0).with_column(declaration.at.1);
            let mut finding = KIND.finding(
                place.clone(),
                &rule.page,
                format!("`{}` stands in the rule again, in line {}", declaration.shown(), again.at.0),
            );
            finding.level = site.dead(&at.file);
            finding.fix = vec![Change::Cut { at: place }];
            found.push(finding);
        }
    }
    found
}
