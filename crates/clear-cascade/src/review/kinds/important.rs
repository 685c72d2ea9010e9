//! An important declaration that silences others.

use std::collections::{BTreeMap, BTreeSet};

use super::{Example, Finding, Kind, Level, Site, count};
use crate::review::facts::DeclarationFacts;
use crate::source::Place;

/// An important declaration for which others never win.
pub(super) const KIND: Kind = Kind {
    code: "important-silences",
    level: Level::Wrong,
    meaning: "Declarations never win, only because this one is `!important`.",
    matters: "Whoever changes one of them sees nothing happen, and the next `!important` is near.",
    accept: "Where it is meant to have the last word.",
    example: Example {
        with: "<style>p { color: navy !important } .a { color: red } #b { color: gold }</style><p class=a id=b>1",
        without: "<style>p { color: navy !important } .a { top: 0 }</style><p class=a>1",
    },
    find,
};

/// Looks for them.
fn find(site: &Site<'_>) -> Vec<Finding> {
    // By what they lose to alone, how many declarations never win.
    let mut silenced: BTreeMap<&Place, usize> = BTreeMap::new();
    for (_, rule) in site.facts.rules.iter().filter(|(at, _)| site.is_own(&at.file)) {
        let always = |d: &&DeclarationFacts| d.loses > 0 && d.wins == 0 && d.off == 0 && !d.dropped;
        for one in rule.declarations.iter().filter(always) {
            let places: BTreeSet<&Place> = one.beaten_by.iter().map(|b| &b.at).collect();
            if let (1, Some(by)) = (places.len(), one.beaten_by.iter().find(|b| b.important)) {
                *silenced.entry(&by.at).or_default() += 1;
            }
        }
    }
    let mut found = Vec::new();
    for (at, rule) in site.facts.rules.iter().filter(|(at, _)| site.is_own(&at.file)) {
        for declaration in rule.declarations.iter().filter(|d| d.wins > 0) {
            let place = Place::line(at.file.clone(), declaration.at.0).with_column(declaration.at.1);
            let others = silenced.get(&place).copied().unwrap_or_default();
            // One is told as what it is: a declaration that never wins.
            if others < 2 {
                continue;
            }
            let mut finding = KIND.finding(
                place,
                &rule.page,
                format!("`{}` silences {}", declaration.shown(), count(others, "other declaration")),
            );
            finding.effect = Some("none of them ever wins, whatever its selector weighs".to_owned());
            finding.advice = Some("without `!important`, the cascade decides between them".to_owned());
            finding.elements = rule.hits;
            finding.labels = rule.labels.iter().cloned().collect();
            found.push(finding);
        }
    }
    found
}
