//! Text that gets smaller inside smaller text.

use super::{Example, Finding, Kind, Level, Site, count};

/// A relative size inside another.
pub(super) const KIND: Kind = Kind {
    code: "sizes-multiply",
    level: Level::Advice,
    meaning: "A font size that is a part of its parent's is set inside an element whose own is a part of its parent's.",
    matters: "They multiply: 80% of 85% is 68%, and smaller with each step.",
    accept: "Where it is meant, as in notes inside notes.",
    example: Example {
        with: "<style>p { font-size: 80% } b { font-size: 0.9em }</style><p><b>1</b>",
        without: "<style>p { font-size: 80% } b { font-size: 0.9rem }</style><p><b>1</b>",
    },
    find,
};

/// Looks for them.
fn find(site: &Site<'_>) -> Vec<Finding> {
    let shrunk = site.facts.shrunk.iter();
    shrunk
        .map(|(at, one)| {
            let mut finding = KIND.finding(
                at.clone(),
                &one.page,
                format!(
                    "this font size is a part of another part, set at {}:{}",
                    one.what.outer.file, one.what.outer.line
                ),
            );
            finding.effect = Some(format!("{} at {}", count(one.count, "element"), one.what.size));
            finding.advice = Some("in `rem`, sizes do not multiply".to_owned());
            finding.elements = one.count;
            finding.labels = vec![one.label.clone()];
            finding
        })
        .collect()
}
