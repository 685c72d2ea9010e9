//! A sheet that a page brings again.

use super::{Example, Finding, Kind, Level, Site};
use crate::review::markup::Oddity;

/// The same sheet twice on one page.
pub(super) const KIND: Kind = Kind {
    code: "sheet-twice",
    level: Level::Wrong,
    meaning: "Two links of one page bring the same style sheet for the same media.",
    matters: "Its rules count twice: those of the second outrank all sheets between the two.",
    accept: "Never: one of the links can go.",
    example: Example {
        with: "<link rel=stylesheet href='data:text/css,p{top:0}'><link rel=stylesheet href='data:text/css,p{top:0}'><p>1",
        without: "<link rel=stylesheet href='data:text/css,p{top:0}'><link rel=stylesheet href='data:text/css,p{top:1px}'><p>1",
    },
    find,
};

/// Looks for them.
fn find(site: &Site<'_>) -> Vec<Finding> {
    site.oddities(&KIND, |oddity| match oddity {
        Oddity::SheetAgain { href, line } => {
            Some((format!("`{href}` is linked already, in line {line}"), "take one of the two links away".to_owned()))
        }
        _ => None,
    })
}
