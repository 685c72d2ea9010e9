//! A declaration that gives what is there anyway.

use super::{Example, Finding, Kind, Level, Site};
use crate::answer::Anyway;
use crate::review::facts::{DeclarationFacts, RuleFacts};
use crate::source::Place;
use crate::study::Change;

/// A value that is set once more.
pub(super) const KIND: Kind = Kind {
    code: "there-anyway",
    level: Level::Advice,
    meaning: "A declaration wins, and without it everything would be the same: another declaration gives the same, the parent does, \
              the browser does, or it is the initial value. What states and other widths say something about is not looked at.",
    matters: "It is read as a decision, and stands in the way when the other is changed.",
    accept: "Where it is to stay when the other changes.",
    example: Example {
        with: "<style>p { color: navy } p.a { color: #000080 }</style><p>1<p class=a>2",
        without: "<style>p { color: navy } p.a { color: red } b { color: red }</style><p>1<p class=a>2<p><b>3</b>",
    },
    find,
};

/// Looks for them.
fn find(site: &Site<'_>) -> Vec<Finding> {
    let mut found = Vec::new();
    for (at, rule) in site.facts.rules.iter().filter(|(at, rule)| site.is_own(&at.file) && !rule.states) {
        let counts: Vec<&DeclarationFacts> = rule.declarations.iter().filter(|d| !d.dropped).collect();
        let all = counts.len() > 1 && !rule.selectors.is_empty() && counts.iter().all(|d| d.anyway.is_some());
        if all && let Some(by) = counts.iter().filter_map(|d| d.anyway.clone()).reduce(|all, one| all.with(&one)) {
            found.push(told(site, rule, at, (&rule.selectors, &by)));
            continue;
        }
        for (one, by) in counts.iter().filter_map(|d| Some((d, d.anyway.as_ref()?))) {
            let alone = rule.declarations.len() == 1 && !rule.selectors.is_empty();
            let place = Place::line(at.file.clone(), one.at.0).with_column(one.at.1);
            let mut finding = told(site, rule, &place, (&one.text, by));
            finding.fix = vec![Change::Cut { at: if alone { at.clone() } else { place } }];
            found.push(finding);
        }
    }
    found
}

/// The finding about a rule or declaration.
fn told(site: &Site<'_>, rule: &RuleFacts, at: &Place, (written, by): (&str, &Anyway)) -> Finding {
    let because = match by {
        Anyway::Declared(place) => match site.facts.said_at(place) {
            Some(text) => format!("`{text}` in {place} gives the same"),
            None => format!("what is said in {place} gives the same"),
        },
        Anyway::Inherited => "the parent hands on the same".to_owned(),
        Anyway::Initial => "it is the initial value".to_owned(),
        Anyway::Defaults => "it is the browser default".to_owned(),
        Anyway::Various => "all that it gives is there anyway".to_owned(),
    };
    let written = crate::text::shorten(written, 80);
    let mut finding = KIND.finding(at.clone(), &rule.page, format!("`{written}` changes nothing: {because}"));
    finding.advice = Some("take it away".to_owned());
    finding.elements = rule.hits;
    finding.labels = rule.labels.iter().cloned().collect();
    finding.fix = vec![Change::Cut { at: at.clone() }];
    finding
}
