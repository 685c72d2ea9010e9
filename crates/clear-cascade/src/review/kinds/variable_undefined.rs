//! `var()` of a custom property that nobody declares.

use super::{Example, Finding, Kind, Level, Site, count};
use crate::near;
use crate::source::Place;
use crate::study::Change;
use crate::syntax::{self, Tokens};

/// `var()` without a definition.
pub(super) const KIND: Kind = Kind {
    code: "variable-undefined",
    level: Level::Wrong,
    meaning: "A value reads a custom property that no sheet, attribute or script declares, and has no fallback.",
    matters: "The declaration is invalid once its value is computed: the property is inherited or initial, and no other declaration \
              takes its place.",
    accept: "Where a program declares it.",
    example: Example {
        with: "<style>p { color: var(--ink) }</style><p>1",
        without: "<style>p { color: var(--ink, black) }</style><p>1",
    },
    find,
};

/// Looks for them.
fn find(site: &Site<'_>) -> Vec<Finding> {
    let mut found = Vec::new();
    for (at, rule) in &site.facts.rules {
        for declaration in rule.declarations.iter().filter(|d| !d.dropped) {
            for name in &declaration.reads {
                let bare = name.trim_start_matches('-');
                if site.facts.defined.contains(name)
                    || site.facts.words.contains(name)
                    || site.facts.words.contains(bare)
                {
                    continue;
                }
                let place = Place::line(at.file.clone(), declaration.at.0).with_column(declaration.at.1);
                let mut finding = KIND.finding(place, &rule.page, format!("`{name}` is declared nowhere"));
                // Sheets for many sites leave some of theirs to be declared.
                if !site.is_own(&at.file) {
                    finding.level = Level::Advice;
                }
                let on = if rule.hits > 0 { format!(" on {}", count(rule.hits, "element")) } else { String::new() };
                finding.effect = Some(format!("`{}` has no value{on}", declaration.shown()));
                if let Some(near) = near::nearest(name, site.facts.defined.iter().map(String::as_str)) {
                    finding.advice = Some(format!("did you mean `{near}`?"));
                    let value = declaration.text.split_once(':').map_or("", |(_, value)| value.trim());
                    finding.fix = vec![Change::Value { at: finding.at.clone(), by: renamed(value, name, near) }];
                }
                finding.elements = rule.hits;
                finding.labels = rule.labels.iter().cloned().collect();
                found.push(finding);
            }
        }
    }
    found
}

/// A value that reads another custom property in the place of one; longer names that begin as it does stay.
fn renamed(value: &str, from: &str, to: &str) -> String {
    let tokens = Tokens::read(value);
    let all = tokens.all();
    let (mut out, mut at) = (String::new(), 0);
    for token in tokens.list.iter().filter(|t| t.kind == syntax::Kind::Ident && all.name(**t) == from) {
        out.push_str(&value[at..token.start as usize]);
        out.push_str(to);
        at = token.end as usize;
    }
    out + &value[at..]
}
