//! A sheet that comes behind what it styles.

use super::{Example, Finding, Kind, Level, Site};
use crate::review::markup::Oddity;

/// A sheet that is linked behind what is drawn.
pub(super) const KIND: Kind = Kind {
    code: "sheet-late",
    level: Level::Advice,
    meaning: "A link to a style sheet stands in the body, behind elements that are drawn.",
    matters: "A browser may draw what stands before it without the sheet, and once more when it has come.",
    accept: "Where it styles only what stands behind it.",
    example: Example {
        with: "<p>1</p><link rel=stylesheet href='data:text/css,p{top:0}'>",
        without: "<link rel=stylesheet href='data:text/css,p{top:0}'><p>1",
    },
    find,
};

/// Looks for them.
fn find(site: &Site<'_>) -> Vec<Finding> {
    site.oddities(&KIND, |oddity| match oddity {
        Oddity::SheetLate { href, behind } => {
            Some((format!("`{href}` is linked behind `{behind}`"), "link it in the head".to_owned()))
        }
        _ => None,
    })
}
