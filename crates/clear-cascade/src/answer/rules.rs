//! Rules as questions name them: a selector, or a place in a stylesheet.

use super::locate::{LocateError, as_place};
use crate::cascade::Origin;
use crate::document::ElementId;
use crate::page::{FlatRule, Off};
use crate::selector::{Matcher, PseudoElement, SelectorList};
use crate::source::Span;
use crate::study::{Study, WrittenAt};
use crate::style::{self, Entry, Matched};

/// A rule that a question is about.
pub(crate) enum Named<'s> {
    /// A selector that comes with the question.
    Selector(SelectorList),
    /// A rule of a stylesheet, a `style` attribute, or a declaration in one.
    Rule(WrittenAt<'s>),
}

/// A declaration where it is written.
#[derive(Clone, Debug, PartialEq, Eq, serde::Serialize)]
#[non_exhaustive]
pub struct Written {
    /// The property as written.
    pub property: String,
    /// The value as written.
    pub value: String,
    /// The file.
    pub file: String,
    /// The line, from 1.
    pub line: u32,
    /// The column in characters, from 1.
    pub column: u32,
    /// Its first byte in the file.
    pub start: u32,
    /// The byte after its last in the file.
    pub end: u32,
}

impl Study {
    /// All declarations of the page's own stylesheets and `style` attributes, file by file in written order; those that
    /// were dropped are left out.
    #[must_use]
    pub fn declarations(&self) -> Vec<Written> {
        let rules = self.page.rules.iter().chain(&self.page.off_rules).filter(|r| r.origin == Origin::Author);
        let all = rules.flat_map(|r| self.page.style_rule(r).declarations.iter().map(move |d| (r, d)));
        let mut found: Vec<Written> = all
            .map(|(rule, d)| {
                let (place, source) = (self.sources.place(d.span), self.sources.get(d.span.source));
                Written {
                    property: d.name.to_string(),
                    value: self.page.sheets[rule.sheet as usize].sheet.value(d).text().to_owned(),
                    file: place.file,
                    line: place.line,
                    column: place.column,
                    start: source.file_offset(d.span.start),
                    end: source.file_offset(d.span.end),
                }
            })
            .collect();
        found.sort_by(|a, b| (&a.file, a.start).cmp(&(&b.file, b.start)));
        found.dedup();
        found
    }

    /// The rule that a name stands for: `FILE:LINE[:COL]` in a stylesheet, or a selector.
    ///
    /// # Errors
    /// Where nothing is written there, or the text is no selector.
    pub(crate) fn named_rule(&self, name: &str) -> Result<Named<'_>, LocateError> {
        match as_place(name.trim()) {
            Some((file, line, column)) => Ok(Named::Rule(self.written_at(file, line, column)?)),
            None => Ok(Named::Selector(self.parse_selector(name)?)),
        }
    }

    /// A selector list as it is printed: for tests that read it back.
    ///
    /// # Errors
    /// Where the text is no selector.
    #[doc(hidden)]
    pub fn printed(&self, selector: &str) -> Result<String, LocateError> {
        Ok(self.parse_selector(selector)?.to_string())
    }

    /// What a rule takes of an element, in its scopes and trees: the element itself, pseudo-elements of it, or both.
    pub(crate) fn taken_by<'s>(
        &'s self,
        matcher: &Matcher<'_>,
        rule: &'s FlatRule,
        element: ElementId,
    ) -> Vec<Matched<'s>> {
        let mut matched = Vec::new();
        if rule.selectors.selectors.is_empty() {
            let own = self.page.own_rules.get(&element).into_iter().flatten();
            matched.extend(
                own.filter(|n| std::ptr::eq(&raw const self.page.rules[**n as usize], rule)).map(|n| Matched::own(*n)),
            );
        } else {
            style::Reached::new(&self.page, matcher, element).by(rule, u32::MAX, &mut matched);
        }
        matched
    }

    /// What a declaration is in: the selector of its rule in quotes, or an attribute.
    pub(crate) fn declared_in(&self, entry: &Entry<'_>) -> String {
        match self.selector_text(entry) {
            Some(selector) => format!("`{selector}`"),
            None if entry.precedence.origin == Origin::PresentationalHint => "an HTML attribute".to_owned(),
            None => "a `style` attribute".to_owned(),
        }
    }

    /// Why a rule that takes an element or a pseudo-element of it does not apply, where a condition keeps it off.
    pub(crate) fn why_off(
        &self,
        rule: &FlatRule,
        element: ElementId,
        pseudo: Option<&PseudoElement>,
    ) -> Option<String> {
        if let Some(off) = &rule.within.off {
            return Some(self.off_in_words(off));
        }
        self.style(element);
        if style::containers_hold(&self.page, self.styles(), rule, element, pseudo) {
            return None;
        }
        let groups = &self.page.sheets[rule.sheet as usize].sheet.groups;
        let group = groups[*rule.within.containers.last()? as usize].span;
        let written = crate::text::shorten(self.sources.text(group), 80);
        Some(format!("`{written}` does not hold here ({})", self.sources.place(group)))
    }

    /// Why a rule is off, and where that is written.
    pub(crate) fn off_in_words(&self, off: &Off) -> String {
        format!("{} ({})", off.reason, self.sources.place(off.span))
    }

    /// The text of a place in a question, or in a file.
    pub(crate) fn text_of<'t>(&'t self, question: Option<&'t str>, span: Span) -> &'t str {
        match question {
            Some(text) => text.get(span.start as usize..span.end as usize).unwrap_or_default(),
            None => self.sources.text(span),
        }
    }
}
