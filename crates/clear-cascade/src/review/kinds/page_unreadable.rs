//! A page that cannot be read.

use super::{Example, Finding, Kind, Level, Site};
use crate::source::Place;

/// A page that cannot be read.
pub(super) const KIND: Kind = Kind {
    code: "page-unreadable",
    level: Level::Wrong,
    meaning: "The page is not there, or is no text.",
    matters: "Nothing on it could be looked at; all else was.",
    accept: "Where the page is made by something else later.",
    example: Example { with: "", without: "<p>1" },
    find,
};

/// Looks for them.
fn find(site: &Site<'_>) -> Vec<Finding> {
    let pages = site.facts.pages.iter().filter_map(|(name, page)| Some((name, page.unreadable.as_ref()?)));
    pages
        .map(|(name, why)| {
            KIND.finding(
                Place::line(name.clone(), 1),
                name,
                if why.starts_with("the page") { why.clone() } else { format!("the page cannot be read: {why}") },
            )
        })
        .collect()
}
