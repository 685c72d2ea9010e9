//! A rule that takes nothing, for a space, a dot or a letter.

use std::collections::BTreeSet;

use super::class_unknown::is_slip;
use super::{Example, Finding, Kind, Level, Site, count};
use crate::near;
use crate::review::markup;
use crate::study::Change;

/// A rule that is a slip away from taking something.
pub(super) const KIND: Kind = Kind {
    code: "rule-misses",
    level: Level::Wrong,
    meaning: "A rule takes nothing on any page, and would with a space more or less, a dot for a hash, or a letter changed.",
    matters: "Nothing that it says happens.",
    accept: "Where the elements are made by a script.",
    example: Example {
        with: "<style>p { top: 0 } nav.menu a { top: 0 }</style><nav><p class=menu><a>1</a></nav>",
        without: "<style>p { top: 0 } nav .menu a { top: 0 }</style><nav><p class=menu><a>1</a></nav>",
    },
    find,
};

/// Looks for them.
fn find(site: &Site<'_>) -> Vec<Finding> {
    let mut found = Vec::new();
    let classes: BTreeSet<&str> = site.facts.classes.keys().map(String::as_str).collect();
    let taking = site.facts.rules.values().filter(|rule| rule.hits > 0);
    let styled: BTreeSet<&str> = taking.flat_map(|rule| rule.names.iter().map(String::as_str)).collect();
    for (at, rule) in &site.facts.rules {
        if rule.selectors.is_empty() || rule.hits > 0 || rule.states || !site.is_own(&at.file) || site.is_lost(at) {
            continue;
        }
        let mut finding = KIND.finding(
            at.clone(),
            &rule.page,
            format!("`{}` takes nothing on {}", rule.selectors, pages(rule.pages)),
        );
        if let Some((selector, difference, takes)) = &rule.near {
            finding.advice = Some(format!("`{selector}` takes {}: {difference}", count(*takes, "element")));
            finding.elements = *takes;
            finding.fix = vec![Change::Selectors { at: at.clone(), by: selector.clone() }];
        } else if let Some(name) = rule.names.iter().find_map(|name| name.strip_prefix('<')) {
            let Some(near) = markup::near_element(name) else { continue };
            finding.advice = Some(format!("there is no element `{name}`; did you mean `{near}`?"));
        } else {
            let gone = |name: &&String| {
                name.strip_prefix('.')
                    .is_some_and(|class| !classes.contains(class) && !site.facts.words.contains(class))
            };
            let Some(class) = rule.names.iter().find(gone).and_then(|name| name.strip_prefix('.')) else { continue };
            let near = near::nearest(class, classes.iter().copied()).filter(|near| is_slip(class, near));
            // Where nothing styles the other class, that is told at the element.
            let styled = |name: &&str| styled.contains(format!(".{name}").as_str());
            let Some(near) = near.filter(styled) else { continue };
            finding.advice = Some(format!("no element has the class `{class}`; did you mean `{near}`?"));
        }
        found.push(finding);
    }
    found
}

/// Pages in words.
pub(super) fn pages(n: usize) -> String {
    if n == 1 { "its page".to_owned() } else { format!("any of its {n} pages") }
}
