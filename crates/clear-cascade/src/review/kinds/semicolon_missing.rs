//! A declaration that goes on over the next one.

use super::{Example, Finding, Kind, Level, Site};
use crate::property::PropertyId;
use crate::source::Place;
use crate::syntax::{Kind as Token, Slice, Tokens};

/// A semicolon that is missing where no parser can tell.
pub(super) const KIND: Kind = Kind {
    code: "semicolon-missing",
    level: Level::Wrong,
    meaning: "The value of a declaration goes on over the next line, where another declaration starts. In the value of a custom \
              property, and beside `var()`, anything may stand, so that nothing is dropped.",
    matters: "The second declaration does nothing, and the first has another value than it seems, or none.",
    accept: "Where the value of a custom property is meant to have a property and a colon in it.",
    example: Example {
        with: "<style>p { --a: 1px\n  color: red }</style><p style='top: var(--a)'>1",
        without: "<style>p { --a: 1px;\n  color: red }</style><p style='top: var(--a)'>1",
    },
    find,
};

/// Looks for them.
fn find(site: &Site<'_>) -> Vec<Finding> {
    let mut found = Vec::new();
    for (at, rule) in &site.facts.rules {
        for declaration in rule.declarations.iter().filter(|d| !d.dropped) {
            let Some((first, second)) = swallowed(&declaration.text) else { continue };
            let place = Place::line(at.file.clone(), declaration.at.0).with_column(declaration.at.1);
            let (first, second) = (crate::text::shorten(first, 40), crate::text::shorten(second, 40));
            let what = format!("`{first}` goes on over the next declaration, `{second}`");
            let mut finding = KIND.finding(place, &rule.page, what);
            finding.effect = Some(match declaration.property.starts_with("--") {
                true => format!("the value of `{}` is all of it, and the second does nothing", declaration.property),
                false => "neither does anything: together they are no value".to_owned(),
            });
            finding.advice = Some(format!("a `;` is missing before `{second}`"));
            finding.elements = rule.hits;
            finding.labels = rule.labels.iter().cloned().collect();
            found.push(finding);
        }
    }
    found
}

/// A declaration and the one that starts on a line of its own in its value.
fn swallowed(declaration: &str) -> Option<(&str, &str)> {
    if !declaration.contains('\n') {
        return None;
    }
    let tokens = Tokens::read(declaration);
    let (_, mut rest) = tokens.all().split_at(|t| t.kind == Token::Colon);
    rest.next();
    while !rest.is_empty() {
        let here = rest;
        let token = rest.next()?;
        let line = token.kind == Token::Space && declaration[token.start as usize..token.end as usize].contains('\n');
        let mut after = Slice { from: here.from + 2, ..here };
        after.skip_space();
        let name = Slice { from: here.from + 1, ..here }.ident();
        if line
            && after.kind() == Some(Token::Colon)
            && name.is_some_and(|name| name.starts_with("--") || PropertyId::named(&name).is_some())
        {
            let (start, end) = (token.start as usize, token.end as usize);
            return Some((declaration[..start].trim_end(), &declaration[end..]));
        }
    }
    None
}
