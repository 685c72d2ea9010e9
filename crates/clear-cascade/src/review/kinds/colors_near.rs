//! Colours that are nearly the same.

use std::collections::BTreeMap;

use super::{Example, Finding, Kind, Level, Site};
use crate::source::Place;

/// A colour that cannot be told from another by eye.
pub(super) const KIND: Kind = Kind {
    code: "colors-near",
    level: Level::Advice,
    meaning: "Two colours of the site, written in hexadecimal, differ by 2 of 255 at most in each channel.",
    matters: "Nobody sees the difference, and who changes one of them forgets the other.",
    accept: "Where the steps of a scale are as small as this.",
    example: Example {
        with: "<style>p { color: #336699 } b { color: #34669a }</style><p><b>1</b>",
        without: "<style>p { color: #336699 } b { color: #369; background: #3c6ea0; outline: 1px solid #33669980 }</style><p><b>1</b>",
    },
    find,
};

/// Looks for them.
fn find(site: &Site<'_>) -> Vec<Finding> {
    let mut seen: BTreeMap<[u8; 4], (&str, Place, usize, &str)> = BTreeMap::new();
    for (at, rule) in site.facts.rules.iter().filter(|(at, _)| site.is_own(&at.file)) {
        for declaration in rule.declarations.iter().filter(|d| !d.dropped) {
            for text in hexes(&declaration.text) {
                let Some(color) = channels(text) else { continue };
                let place = || Place::line(at.file.clone(), declaration.at.0).with_column(declaration.at.1);
                seen.entry(color).or_insert_with(|| (text, place(), 0, &rule.page)).2 += 1;
            }
        }
    }
    let mut found = Vec::new();
    for (color, (text, place, uses, page)) in &seen {
        let near = |(other, (_, _, more, _)): &(&[u8; 4], &(&str, Place, usize, &str))| {
            // The rarer one is told; of two as rare, the later.
            let rarer = (*more, std::cmp::Reverse(*other)) > (*uses, std::cmp::Reverse(color));
            rarer && color[3] == other[3] && color.iter().zip(*other).all(|(a, b)| a.abs_diff(*b) <= 2)
        };
        let around = [color[0].saturating_sub(2), 0, 0, 0]..=[color[0].saturating_add(2), 255, 255, 255];
        let Some((_, (other, there, ..))) = seen.range(around).filter(near).max_by_key(|(_, (.., n, _))| *n) else {
            continue;
        };
        let mut finding =
            KIND.finding(place.clone(), page, format!("`{text}` is nearly `{other}` of {}:{}", there.file, there.line));
        finding.advice = Some("take one of the two, or a custom property for both".to_owned());
        found.push(finding);
    }
    found
}

/// The hexadecimal colours in a text.
fn hexes(text: &str) -> impl Iterator<Item = &str> {
    let value = text.split_once(':').map_or("", |(_, value)| value);
    value.match_indices('#').map(|(at, _)| {
        let end = value[at + 1..].find(|c: char| !c.is_ascii_alphanumeric()).map_or(value.len(), |n| at + 1 + n);
        &value[at..end]
    })
}

/// The channels of a hexadecimal colour (CSS Color 4, §5.2).
fn channels(text: &str) -> Option<[u8; 4]> {
    let digits: Vec<u8> =
        text.chars().skip(1).map(|c| c.to_digit(16).and_then(|d| u8::try_from(d).ok())).collect::<Option<_>>()?;
    let full: Vec<u8> = match digits.len() {
        3 | 4 => digits.iter().map(|d| d * 17).collect(),
        6 | 8 => digits.chunks(2).map(|pair| pair[0] * 16 + pair[1]).collect(),
        _ => return None,
    };
    Some([full[0], full[1], full[2], full.get(3).copied().unwrap_or(255)])
}
