//! A sheet of which nothing is in use.

use std::collections::BTreeMap;

use super::{Example, Finding, Kind, Level, Site};
use crate::source::Place;

/// A sheet that is loaded and takes nothing.
pub(super) const KIND: Kind = Kind {
    code: "sheet-unused",
    level: Level::Dead,
    meaning: "Not one rule of a sheet takes an element on any of the pages that load it.",
    matters: "It is loaded for nothing.",
    accept: "Where it is for elements that a script makes.",
    example: Example {
        with: "<link rel=stylesheet href='data:text/css,.badge{top:0}'><p>1",
        without: "<link rel=stylesheet href='data:text/css,p{top:0}'><p>1",
    },
    find,
};

/// Looks for them.
fn find(site: &Site<'_>) -> Vec<Finding> {
    let mut by_file: BTreeMap<&str, (usize, bool, &str)> = BTreeMap::new();
    for (at, rule) in site.facts.rules.iter().filter(|(_, r)| !r.selectors.is_empty()) {
        let one = by_file.entry(&at.file).or_insert((rule.pages, false, &rule.page));
        // A rule that is a slip away from taking something is told as that.
        one.1 |= rule.hits > 0 || rule.states || rule.near.is_some();
    }
    let unused = by_file.into_iter().filter(|(file, (_, used, _))| !used && !site.facts.pages.contains_key(*file));
    unused
        .map(|(file, (pages, _, page))| {
            let on = if pages == 1 { "the page that loads".to_owned() } else { format!("the {pages} pages that load") };
            KIND.finding(Place::line(file, 1), page, format!("no rule of the sheet takes anything on {on} it"))
        })
        .collect()
}
