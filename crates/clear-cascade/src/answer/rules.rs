//! Rules as questions name them: a selector, or a place in a stylesheet.

use super::locate::{LocateError, as_place};
use crate::cascade::Origin;
use crate::document::ElementId;
use crate::page::FlatRule;
use crate::selector::{Matcher, SelectorList};
use crate::source::Span;
use crate::study::Study;

/// A rule that a question is about.
pub(crate) enum Named<'s> {
    /// A selector that comes with the question.
    Selector(SelectorList),
    /// A rule of a stylesheet.
    Rule(&'s FlatRule),
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
        let Some((file, line, column)) = as_place(name.trim()) else {
            return Ok(Named::Selector(self.parse_selector(name)?));
        };
        let nothing = || LocateError::NoRule { file: file.to_owned(), line };
        let inside = |rule: &&FlatRule| {
            let style_rule = self.page.style_rule(rule);
            let source = self.sources.get(style_rule.prelude.source);
            let same = source.name == file || source.name.ends_with(&format!("/{}", file.trim_start_matches("./")));
            let last = style_rule.declarations.last().map_or(style_rule.prelude, |d| d.span);
            let ((first, from), (last, _)) =
                (source.line_column(style_rule.prelude.start), source.line_column(last.end));
            same && (first..=last).contains(&line) && (line > first || column.is_none_or(|c| c >= from))
        };
        let all = || {
            self.page
                .rules
                .iter()
                .chain(&self.page.off_rules)
                .filter(|r| !self.page.style_rule(r).selectors.selectors.is_empty())
        };
        // Of rules on one line, the last that starts before the column; without a column the first that starts there.
        let found: Vec<&FlatRule> = all().filter(inside).collect();
        let starts = |r: &&&FlatRule| {
            let prelude = self.page.style_rule(r).prelude;
            self.sources.get(prelude.source).line_column(prelude.start).0 == line
        };
        let chosen = if column.is_some() { found.last() } else { found.iter().find(starts).or(found.last()) };
        chosen.copied().map(Named::Rule).ok_or_else(nothing)
    }

    /// A selector list as it is printed: for tests that read it back.
    ///
    /// # Errors
    /// Where the text is no selector.
    #[doc(hidden)]
    pub fn printed(&self, selector: &str) -> Result<String, LocateError> {
        Ok(self.parse_selector(selector)?.to_string())
    }

    /// Whether a rule takes an element or a pseudo-element of it, in its scopes and trees.
    pub(crate) fn rule_takes(&self, matcher: &Matcher<'_>, rule: &FlatRule, element: ElementId) -> bool {
        let mut matched = Vec::new();
        crate::style::Reached::new(&self.page, matcher, element).by(rule, u32::MAX, &mut matched);
        !matched.is_empty()
    }

    /// The text of a place in a question, or in a file.
    pub(crate) fn text_of<'t>(&'t self, question: Option<&'t str>, span: Span) -> &'t str {
        match question {
            Some(text) => text.get(span.start as usize..span.end as usize).unwrap_or_default(),
            None => self.sources.text(span),
        }
    }
}
