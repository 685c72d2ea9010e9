//! An element type alone that takes most of the page.

use super::{Example, Finding, Kind, Level, Site};

/// An element type alone that takes most elements.
pub(super) const KIND: Kind = Kind {
    code: "selector-wide",
    level: Level::Advice,
    meaning: "A rule whose selector is an element type alone takes more than half of all elements, and at least ten, of the pages that it is on.",
    matters: "It was probably meant for some of them. All others have what it sets too, until each of them undoes it.",
    accept: "Where all elements of the type are meant.",
    example: Example {
        with: "<style>div { margin: 0 }</style><div>1</div><div>2</div><div>3</div><div>4</div><div>5</div>\
               <div>6</div><div>7</div><div>8</div><div>9</div><div>10</div>",
        without: "<style>div.card { margin: 0 }</style><div class=card>1</div><div class=card>2</div><div>3</div>\
                  <div>4</div><div>5</div><div>6</div><div>7</div><div>8</div><div>9</div><div>10</div>",
    },
    find,
};

/// How many elements it must take.
const FEWEST: usize = 10;

/// Looks for them.
fn find(site: &Site<'_>) -> Vec<Finding> {
    let name = |c: char| c.is_alphanumeric() || c == '-';
    let wide = site.facts.rules.iter().filter_map(|(at, rule)| {
        let alone = rule.selectors.starts_with(|c: char| c.is_ascii_alphabetic()) && rule.selectors.chars().all(name);
        if !alone || rule.nested || rule.off || rule.hits < FEWEST || !site.is_own(&at.file) {
            return None;
        }
        let mut pages =
            site.facts.pages.iter().filter(|(name, page)| **name == at.file || page.sheets.contains(&at.file));
        let all: usize = pages.by_ref().map(|(_, page)| page.elements).sum();
        (rule.hits * 2 > all).then_some((at, rule, all))
    });
    wide.map(|(at, rule, all)| {
        let what = format!("`{}` alone takes {} of {all} elements", rule.selectors, rule.hits);
        let mut finding = KIND.finding(at.clone(), &rule.page, what);
        let undone = rule.declarations.iter().filter(|d| !d.dropped).max_by_key(|d| d.loses);
        finding.effect =
            undone.filter(|d| d.loses > 0).map(|d| format!("`{}` is undone on {} of them", d.shown(), d.loses));
        finding.advice = Some("a class says which of them are meant".to_owned());
        finding.elements = rule.hits;
        finding.labels = rule.labels.iter().cloned().collect();
        finding
    })
    .collect()
}
