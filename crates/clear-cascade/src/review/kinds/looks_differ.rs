//! Elements with the same classes that look different on two pages.

use super::{Example, Finding, Kind, Level, Site};
use crate::review::facts::Look;
use crate::source::Place;

/// One name and the same classes, but other rules.
pub(super) const KIND: Kind = Kind {
    code: "looks-differ",
    level: Level::Advice,
    meaning: "Elements of one name with the same classes are alike on each page, but not on two pages: on one of them a rule takes \
              them for what is around them.",
    matters: "The same thing looks different from page to page, and who reads the markup does not see why.",
    accept: "Where the pages are meant to be different.",
    example: Example {
        with: "<link rel=stylesheet href='data:text/css,main .card{top:0}'><main><p class=card>1</main>\n\
               <!-- another page: -->\n\
               <link rel=stylesheet href='data:text/css,main .card{top:0}'><p class=card>2",
        without: "<link rel=stylesheet href='data:text/css,main .card{top:0}'><main><p class=card>1</main>\n\
                  <!-- another page: -->\n\
                  <link rel=stylesheet href='data:text/css,main .card{top:0}'><main><p class=card>2</main>",
    },
    find,
};

/// Looks for them.
fn find(site: &Site<'_>) -> Vec<Finding> {
    let mut found = Vec::new();
    for (key, looks) in &site.facts.looks {
        let mut looks: Vec<&Look> = looks.iter().flatten().collect();
        looks.sort_by_key(|look| (&look.page, &look.at));
        let [first, second, ..] = looks.as_slice() else { continue };
        // A rule that is on one of the two pages only says nothing about what is around the element.
        let both = |rule: &&Place| {
            let has = |page: &str| {
                site.facts.pages.get(page).is_some_and(|p| rule.file == page || p.sheets.contains(&rule.file))
            };
            has(&first.page) && has(&second.page)
        };
        let only = |one: &Look, other: &Look| one.rules.difference(&other.rules).find(both).cloned();
        let (rule, on) = match (only(first, second), only(second, first)) {
            (Some(rule), _) => (rule, &first.page),
            (None, Some(rule)) => (rule, &second.page),
            (None, None) => continue,
        };
        let Some(facts) = site.facts.rules.get(&rule) else { continue };
        let selectors = crate::text::shorten(&facts.selectors, 60);
        let what = format!("`{key}` looks different here and in {}", second.at);
        let mut finding = KIND.finding(first.at.clone(), &first.page, what);
        finding.effect = Some(format!("`{selectors}` in {rule} takes it on {on} alone, for what is around it"));
        found.push(finding);
    }
    found
}
