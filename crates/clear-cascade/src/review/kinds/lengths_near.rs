//! Lengths that are nearly the same.

use std::collections::BTreeMap;

use super::{Example, Finding, Kind, Level, Site, count};
use crate::source::Place;
use crate::syntax::number_text;

/// A length a pixel away from one that is used much more often.
pub(super) const KIND: Kind = Kind {
    code: "lengths-near",
    level: Level::Advice,
    meaning: "A length in px, of 8 px or more, is one px or less away from one that the same property has at least four times as often.",
    matters: "Edges that should meet miss each other by a pixel, and nobody knows which of the two was meant.",
    accept: "Where the pixel makes up for a border or the like.",
    example: Example {
        with: "<style>p { padding: 16px } b { padding: 16px } i { padding: 16px } u { padding: 16px } s { padding: 15px }</style><p>1<b>2</b><s>3</s><i>4</i><u>5</u>",
        without: "<style>p { padding: 16px } b { padding: 16px } i { padding: 16px } u { padding: 15px } s { padding: 15px }</style><p>1<b>2</b><s>3</s><i>4</i><u>5</u>",
    },
    find,
};

/// How many times as often the other must be used.
const TIMES: usize = 4;

/// A length of a property, and where it is used.
struct Length<'f> {
    /// In px.
    px: f64,
    /// The places, each with a page.
    places: Vec<(Place, &'f str)>,
}

/// Properties whose lengths make up a scale.
fn is_scaled(property: &str) -> bool {
    ["margin", "padding", "gap", "font-size", "border-radius", "column-gap", "row-gap"]
        .iter()
        .any(|name| property.strip_prefix(name).is_some_and(|rest| rest.is_empty() || rest.starts_with('-')))
}

/// Looks for them.
fn find(site: &Site<'_>) -> Vec<Finding> {
    let mut seen: BTreeMap<(&str, u64), Length<'_>> = BTreeMap::new();
    for (at, rule) in site.facts.rules.iter().filter(|(at, rule)| site.is_own(&at.file) && rule.hits > 0) {
        for declaration in rule.declarations.iter().filter(|d| !d.dropped && is_scaled(&d.property)) {
            let Some(px) = px(&declaration.text) else { continue };
            let place = Place::line(at.file.clone(), declaration.at.0).with_column(declaration.at.1);
            let one = seen.entry((&declaration.property, px.to_bits()));
            one.or_insert_with(|| Length { px, places: Vec::new() }).places.push((place, &rule.page));
        }
    }
    let mut found = Vec::new();
    for ((property, _), Length { px, places }) in &seen {
        // What is positive is in the order of its bits.
        let around = (*property, (px - 1.0).to_bits())..=(*property, (px + 1.0).to_bits());
        let of_property = seen.range(around).map(|(_, other)| other);
        let far = |other: &&Length<'_>| (other.px - px).abs() > 1.0 || other.places.len() < places.len() * TIMES;
        let Some(other) = of_property.filter(|other| !far(other)).max_by_key(|other| other.places.len()) else {
            continue;
        };
        for (place, page) in places {
            let (px, usual) = (number_text(*px), number_text(other.px));
            let often = count(other.places.len(), "place");
            let what = format!("`{property}` is {px}px here, and {usual}px in {often}");
            let mut finding = KIND.finding(place.clone(), page, what);
            finding.advice = Some(format!("`{usual}px`, or a custom property for both"));
            found.push(finding);
        }
    }
    found
}

/// The value of a declaration, where it is one length in px of a size at which a pixel is not much.
fn px(declaration: &str) -> Option<f64> {
    let (_, value) = declaration.split_once(':')?;
    let px = value.trim().strip_suffix("px")?.parse::<f64>().ok()?;
    (8.0..1e6).contains(&px).then_some(px)
}
