//! Two sheets that are nearly the same.

use std::collections::{BTreeMap, BTreeSet};

use super::{Example, Finding, Kind, Level, Site, count};
use crate::review::facts::RuleFacts;
use crate::source::Place;

/// A sheet that is another one but for a few rules.
pub(super) const KIND: Kind = Kind {
    code: "sheets-alike",
    level: Level::Advice,
    meaning: "Two style sheets of the site share nine of ten of their rules or more, and at least eight.",
    matters: "One of them is a copy: what is mended in one stays wrong in the other.",
    accept: "Where the copy is on purpose, as for an older version.",
    example: Example {
        with: "<link rel=stylesheet href='data:text/css,a{top:0}b{top:0}i{top:0}u{top:0}p{top:0}q{top:0}s{top:0}h1{top:0}'>\
               <link rel=stylesheet href='data:text/css,%20a{top:0}b{top:0}i{top:0}u{top:0}p{top:0}q{top:0}s{top:0}h1{top:0}'><p>1",
        without: "<link rel=stylesheet href='data:text/css,a{top:0}b{top:0}i{top:0}u{top:0}p{top:0}q{top:0}s{top:0}h1{top:0}'>\
                  <link rel=stylesheet href='data:text/css,%20a{top:1px}b{top:1px}i{top:0}u{top:0}p{top:0}q{top:0}s{top:0}h1{top:0}'><p>1",
    },
    find,
};

/// How many rules two sheets share at least.
const LEAST: usize = 8;

/// How many sheets with one rule are looked at: a rule that is in all says little.
const MOST: usize = 20;

/// What a rule says.
type Said<'f> = (&'f str, Option<u32>, Vec<&'f str>);

/// Looks for them.
fn find(site: &Site<'_>) -> Vec<Finding> {
    let sheets: BTreeSet<&str> = site.facts.pages.values().flat_map(|p| p.sheets.iter().map(String::as_str)).collect();
    let mut said: BTreeMap<&str, BTreeSet<Said<'_>>> = BTreeMap::new();
    for (at, rule) in site.facts.rules.iter().filter(|(at, _)| sheets.contains(at.file.as_str())) {
        said.entry(&at.file).or_default().insert(said_by(rule));
    }
    let mut with: BTreeMap<&Said<'_>, Vec<&str>> = BTreeMap::new();
    for (file, rules) in &said {
        rules.iter().for_each(|rule| with.entry(rule).or_default().push(file));
    }
    let mut found = Vec::new();
    let mut told: BTreeSet<&str> = BTreeSet::new();
    for (file, rules) in &said {
        let mut shared: BTreeMap<&str, usize> = BTreeMap::new();
        for rule in rules {
            for other in with[rule].iter().take(MOST).filter(|other| *other != file && !told.contains(*other)) {
                *shared.entry(other).or_default() += 1;
            }
        }
        let alike = |(other, n): &(&&str, &usize)| **n >= LEAST && **n * 10 >= rules.len().max(said[**other].len()) * 9;
        let Some((other, n)) = shared.iter().filter(alike).max_by_key(|(_, n)| **n) else { continue };
        // The one that fewer pages have is told.
        let pages = |file: &str| site.facts.pages.values().filter(|p| p.sheets.iter().any(|s| s == file)).count();
        let (copy, of) = if pages(file) < pages(other) { (*file, *other) } else { (*other, *file) };
        let unlike = said[copy].len() + said[of].len() - 2 * n;
        let what = match unlike {
            0 => format!("`{copy}` has the same rules as `{of}`"),
            _ => format!("`{copy}` is `{of}` but for {}", count(unlike, "rule")),
        };
        let at = Place::line(copy, 1);
        let mut finding = KIND.finding(at, site.page_of(copy), what);
        finding.effect = Some(format!("they share {}", count(*n, "rule")));
        finding.advice = Some(match unlike {
            0 => "link one of the two in both places".to_owned(),
            _ => format!("link `{of}`, and keep what is different in a sheet of its own"),
        });
        found.push(finding);
        told.insert(copy);
        told.insert(file);
    }
    found
}

/// What a rule says, wherever it stands.
fn said_by(rule: &RuleFacts) -> Said<'_> {
    (&rule.selectors, rule.group, rule.declarations.iter().map(|d| d.text.as_str()).collect())
}
