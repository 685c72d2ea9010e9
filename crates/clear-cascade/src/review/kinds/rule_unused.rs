//! A rule that takes nothing.

use std::collections::BTreeSet;

use super::class_unknown;
use super::rule_near::{self, pages};
use super::{Example, Finding, Kind, Level, Site};
use crate::source::Place;

/// A rule that takes nothing on any page.
pub(super) const KIND: Kind = Kind {
    code: "rule-unused",
    level: Level::Dead,
    meaning: "A rule takes no element on any of the pages that were looked at. Rules that wait for a state such as `:hover`, and \
              names that stand in a script, are not looked at.",
    matters: "It is read by everyone who works on the sheet, and loaded by everyone who visits.",
    accept: "Where it is for pages that were not looked at, or for elements that a script makes.",
    example: Example {
        with: "<style>p { top: 0 } .badge { top: 0 }</style><p>1",
        without: "<style>p { top: 0 } .badge { top: 0 }</style><p class=badge>1",
    },
    find,
};

/// Looks for them.
fn find(site: &Site<'_>) -> Vec<Finding> {
    let slips: BTreeSet<Place> = (rule_near::KIND.find)(site).into_iter().map(|slip| slip.at).collect();
    // Once a misspelt class is mended, rules for the other name may take something.
    let meant: BTreeSet<String> = class_unknown::slips(site).values().map(|near| format!(".{near}")).collect();
    let mut found = Vec::new();
    for (at, rule) in &site.facts.rules {
        let in_script = rule.names.iter().any(|name| site.facts.words.contains(&name[1..]));
        if rule.selectors.is_empty() || rule.hits > 0 || rule.states || in_script || slips.contains(at) {
            continue;
        }
        if rule.names.iter().any(|name| meant.contains(name)) || site.is_lost(at) {
            continue;
        }
        let there = |name: &&String| match name.strip_prefix('.') {
            Some(class) => site.facts.classes.contains_key(class),
            None => name.starts_with('*') || site.facts.ids.contains_key(&name[1..]),
        };
        let gone: Vec<String> =
            rule.names.iter().filter(|n| !there(n)).map(|n| format!("`{}`", n.trim_start_matches('<'))).collect();
        let because = if gone.is_empty() { String::new() } else { format!(": no element is {}", gone.join(" or ")) };
        let selectors = crate::text::shorten(&rule.selectors, 80);
        let mut finding = KIND.finding(
            at.clone(),
            &rule.page,
            format!("`{selectors}` takes nothing on {}{because}", pages(rule.pages)),
        );
        // A script that cannot be read may put there what the rule is for.
        finding.level = if site.facts.scripts_unread { Level::Advice } else { site.dead(&at.file) };
        found.push(finding);
    }
    found
}
