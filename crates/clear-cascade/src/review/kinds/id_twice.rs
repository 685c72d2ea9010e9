//! An id that several elements of a page have.

use super::{Example, Finding, Kind, Level, Site};

/// The same id twice.
pub(super) const KIND: Kind = Kind {
    code: "id-twice",
    level: Level::Wrong,
    meaning: "Several elements of one page have the same id.",
    matters: "Links, labels and scripts find only the first; a rule for the id takes all of them.",
    accept: "Never: HTML wants an id to be of one element.",
    example: Example { with: "<p id=a>1<p id=a>2", without: "<p id=a>1<p id=b>2" },
    find,
};

/// Looks for them.
fn find(site: &Site<'_>) -> Vec<Finding> {
    let mut found = Vec::new();
    for (id, pages) in &site.facts.ids {
        for (page, elements) in pages.iter().flat_map(|(page, trees)| trees.values().map(move |e| (page, e))) {
            let [first, second, ..] = elements.as_slice() else { continue };
            let mut finding = KIND.finding(
                second.0.clone(),
                page,
                format!("the id `{id}` is on `{}` already, at {}:{}", first.1, first.0.file, first.0.line),
            );
            finding.effect = Some("links and labels lead to the first only".to_owned());
            finding.advice = Some("give this one another id, or a class where it is for styles".to_owned());
            finding.elements = elements.len();
            finding.labels = elements.iter().take(3).map(|e| e.1.clone()).collect();
            found.push(finding);
        }
    }
    found
}
