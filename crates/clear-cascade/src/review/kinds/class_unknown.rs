//! A class that is near one that some sheet knows.

use std::collections::BTreeSet;

use super::{Example, Finding, Kind, Level, Site, count};
use crate::near;

/// A class that no sheet names, near one that some does.
pub(super) const KIND: Kind = Kind {
    code: "class-misspelt",
    level: Level::Wrong,
    meaning: "Elements have a class that no sheet and no script names, and a class of nearly the same name is styled.",
    matters: "The elements do not get the styles that were meant for them.",
    accept: "Where the class is for a program that is not part of the page.",
    example: Example {
        with: "<style>.button { color: red }</style><p class=button>1<p class=buton>2",
        without: "<style>.button { color: red }</style><p class=button>1<p class=picture>2",
    },
    find,
};

/// Looks for them.
fn find(site: &Site<'_>) -> Vec<Finding> {
    let named: BTreeSet<&str> = site.facts.rules.values().flat_map(|r| r.names.iter().map(String::as_str)).collect();
    let classes: Vec<&str> = named.iter().filter_map(|n| n.strip_prefix('.')).collect();
    let mut found = Vec::new();
    for (class, used) in &site.facts.classes {
        if is_named(class, &named) || site.facts.words.contains(class) {
            continue;
        }
        let near = near::nearest(class, classes.iter().copied()).filter(|near| is_slip(class, near));
        let Some(near) = near else { continue };
        let mut finding = KIND.finding(used.first.0.clone(), &used.first.0.file, String::new());
        finding.advice = Some(format!("did you mean `{near}`?"));
        finding.what = format!("the class `{class}` is in no stylesheet");
        finding.effect = Some(format!("{} without the styles that are meant", count(used.count, "element")));
        finding.elements = used.count;
        finding.labels = vec![used.first.1.clone()];
        found.push(finding);
    }
    found
}

/// Whether one of some names is that of a class, or of a part of it.
pub(super) fn is_named(class: &str, named: &BTreeSet<&str>) -> bool {
    let parts = named.range("*"..).take_while(|name| name.starts_with('*'));
    named.contains(format!(".{class}").as_str()) || parts.into_iter().any(|part| class.contains(&part[1..]))
}

/// The class that was probably meant in such a finding, as a selector.
pub(super) fn meant(finding: &Finding) -> Option<String> {
    let name = finding.advice.as_deref()?.strip_prefix("did you mean `")?.strip_suffix("`?")?;
    Some(format!(".{name}"))
}

/// Whether one name is likely to be a slip for another: one letter apart and not by a number or a plural.
pub(super) fn is_slip(one: &str, other: &str) -> bool {
    let (short, long) = if one.len() < other.len() { (one, other) } else { (other, one) };
    let plural = long.strip_suffix('s') == Some(short);
    let letters = |name: &str| name.chars().filter(|c| !c.is_ascii_digit()).collect::<String>();
    let numbers = letters(one) == letters(other);
    short.chars().count() >= 4 && !plural && !numbers && strsim::damerau_levenshtein(one, other) == 1
}
