//! Names in the markup that are near ones that exist.

use super::{Example, Finding, Kind, Level, Site};
use crate::review::markup::Oddity;

/// An element or attribute that does not exist, near one that does.
pub(super) const KIND: Kind = Kind {
    code: "markup-misspelt",
    level: Level::Wrong,
    meaning: "An element, or an attribute that styles hang on, has a name that does not exist and is a letter away from one that does.",
    matters: "Rules for the element do not take it, browsers give it no styles of its own, and the attribute says nothing.",
    accept: "Where a program reads the name.",
    example: Example {
        with: "<sectoin>1</sectoin>",
        without: "<section clss-x=a>1</section><x-sectoin>2</x-sectoin><svg><sectoin/></svg>",
    },
    find,
};

/// Looks for them.
fn find(site: &Site<'_>) -> Vec<Finding> {
    let of = |oddity: &Oddity| match oddity {
        Oddity::Element { name, near } => Some((format!("there is no element `{name}`"), near.clone())),
        Oddity::Attribute { name, near } => Some((format!("there is no attribute `{name}`"), near.clone())),
        _ => None,
    };
    site.oddities(&KIND, |oddity| {
        let (what, near) = of(oddity)?;
        Some((what, format!("did you mean `{near}`?")))
    })
}
