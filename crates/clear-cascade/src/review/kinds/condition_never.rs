//! A condition that never holds.

use super::{Example, Finding, Kind, Level, Site};
use crate::review::markup::Oddity;

/// Styles for what never is.
pub(super) const KIND: Kind = Kind {
    code: "condition-never",
    level: Level::Wrong,
    meaning: "A media query asks for a medium that there is none of, or for what excludes itself: `(min-width: 600px) and \
              (max-width: 500px)`.",
    matters: "Nothing in it ever counts, at no width and on no device.",
    accept: "Never: it can be mended, or go.",
    example: Example {
        with: "<style>@media sreen { p { top: 0 } }</style><p>1",
        without: "<style>@media print, tv { p { top: 0 } }</style><p>1",
    },
    find,
};

/// Looks for them.
fn find(site: &Site<'_>) -> Vec<Finding> {
    let mut found = Vec::new();
    for (at, oddity) in &site.facts.odd {
        let Oddity::Never { condition, because, hint } = oddity else { continue };
        let page = site.page_of(&at.file);
        let mut finding = KIND.finding(at.clone(), page, format!("`{condition}` never holds: {because}"));
        finding.level = if hint.is_some() { Level::Wrong } else { site.dead(&at.file) };
        finding.advice.clone_from(hint);
        found.push(finding);
    }
    found
}
