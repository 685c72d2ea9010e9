//! A class that is near one that some sheet knows.

use std::collections::{BTreeMap, BTreeSet};

use super::{Example, Finding, Kind, Level, Site, count};
use crate::near;
use crate::review::facts::Used;

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
    let one = |(class, near): (&str, &str)| {
        let used = &site.facts.classes[class];
        let what = format!("the class `{class}` is in no stylesheet");
        let mut finding = KIND.finding(used.first.0.clone(), &used.first.0.file, what);
        finding.advice = Some(format!("did you mean `{near}`?"));
        finding.effect = Some(format!("{} without the styles that are meant", count(used.count, "element")));
        finding.elements = used.count;
        finding.labels = vec![used.first.1.clone()];
        finding
    };
    slips(site).into_iter().map(one).collect()
}

/// Names that selectors of the site ask for.
pub(super) fn named<'f>(site: &Site<'f>) -> BTreeSet<&'f str> {
    site.facts.rules.values().flat_map(|r| r.names.iter().map(String::as_str)).collect()
}

/// Classes of elements that nothing names, each with the styled one that was probably meant.
pub(super) fn slips<'f>(site: &Site<'f>) -> BTreeMap<&'f str, &'f str> {
    let named = named(site);
    let styled = || named.iter().filter_map(|name| name.strip_prefix('.'));
    let unknown =
        site.facts.classes.iter().filter(|(c, used)| !is_named(c, used, &named) && !site.facts.words.contains(*c));
    let unknown = unknown.map(|(class, _)| class).filter(|class| !site.facts.lost.contains(*class));
    let near = |class: &'f String| near::nearest(class, styled()).filter(|near| is_slip(class, near));
    unknown.filter_map(|class| Some((class.as_str(), near(class)?))).collect()
}

/// Whether one of some names is that of a class, or of a part of it.
pub(super) fn is_named(class: &str, used: &Used, named: &BTreeSet<&str>) -> bool {
    let in_any_case = |name: &&str| name.strip_prefix('.').is_some_and(|name| name.eq_ignore_ascii_case(class));
    if used.quirks && named.iter().any(in_any_case) {
        return true;
    }
    let parts = named.range("*"..).take_while(|name| name.starts_with('*'));
    named.contains(format!(".{class}").as_str()) || parts.into_iter().any(|part| class.contains(&part[1..]))
}

/// Whether one name is likely to be a slip for another: one letter apart and not by a number or a plural.
pub(super) fn is_slip(one: &str, other: &str) -> bool {
    let (short, long) = if one.len() < other.len() { (one, other) } else { (other, one) };
    let plural = long.strip_suffix('s') == Some(short);
    let letters = |name: &str| name.chars().filter(|c| !c.is_ascii_digit()).collect::<String>();
    let numbers = letters(one) == letters(other);
    short.chars().count() >= 4 && !plural && !numbers && strsim::damerau_levenshtein(one, other) == 1
}
