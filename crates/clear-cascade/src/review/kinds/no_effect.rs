//! A declaration that wins and does nothing.

use super::{Example, Finding, Kind, Level, Site, count};
use crate::property::PropertyId;
use crate::source::Place;

/// A declaration without effect on the boxes that it is set on.
pub(super) const KIND: Kind = Kind {
    code: "no-effect",
    level: Level::Dead,
    meaning: "A declaration wins, and does nothing on any element that it is set on: the property does not apply to such boxes or pseudo-elements.",
    matters: "It looks as if it did something.",
    accept: "Where the boxes become others at another width or by a script.",
    example: Example {
        with: "<style>b { width: 9px }</style><p><b>1</b>",
        without: "<style>b { width: 9px; display: block }</style><p><b>1</b>",
    },
    find,
};

/// Looks for them.
fn find(site: &Site<'_>) -> Vec<Finding> {
    let mut found = Vec::new();
    for (at, rule) in &site.facts.rules {
        for declaration in &rule.declarations {
            let longhand = || PropertyId::named(&declaration.property).is_some_and(PropertyId::is_longhand);
            let whole = declaration.applies_not || longhand();
            let nowhere = declaration.wins > 0 && declaration.idle >= declaration.wins && declaration.off == 0;
            let Some(why) = declaration.why_idle.as_ref().filter(|_| whole && nowhere) else { continue };
            let whom = if declaration.applies_not { "pseudo-element" } else { "element" };
            let place = Place::line(at.file.clone(), declaration.at.0).with_column(declaration.at.1);
            let mut finding = KIND.finding(
                place,
                &rule.page,
                format!("`{}` does nothing on {}", declaration.shown(), count(declaration.wins, whom)),
            );
            finding.level = site.dead(&at.file);
            finding.effect = Some(why.clone());
            finding.elements = declaration.wins;
            finding.labels = rule.labels.iter().cloned().collect();
            found.push(finding);
        }
    }
    found
}
