//! Rules as questions name them: a selector, or a place in a stylesheet.

use super::locate::LocateError;
use crate::cascade::Origin;
use crate::document::ElementId;
use crate::page::{FlatRule, Off};
use crate::selector::{Matcher, PseudoElement, SelectorList};
use crate::source::{Place, Span};
use crate::study::{Study, WrittenAt};
use crate::style::{self, Entry, Matched};

/// A rule that a question is about.
pub(crate) enum Named<'s> {
    /// A selector that comes with the question.
    Selector(SelectorList),
    /// A rule of a stylesheet, a `style` attribute, or a declaration in one.
    Rule(WrittenAt<'s>),
}

impl Study {
    /// The rule that a name stands for: `FILE:LINE[:COL]` in a stylesheet, or a selector.
    ///
    /// # Errors
    /// Where nothing is written there, or the text is no selector.
    pub(crate) fn named_rule(&self, name: &str) -> Result<Named<'_>, LocateError> {
        match name.parse::<Place>() {
            Ok(place) => Ok(Named::Rule(self.written_at(&place)?)),
            Err(_) => Ok(Named::Selector(self.parse_selector(name)?)),
        }
    }

    /// What a rule takes of an element, in its scopes and trees: the element itself, pseudo-elements of it, or both.
    pub(crate) fn taken_by<'s>(
        &'s self,
        matcher: &Matcher<'_>,
        rule: &'s FlatRule,
        element: ElementId,
    ) -> Vec<Matched<'s>> {
        let mut matched = Vec::new();
        if self.page.style_rule(rule).is_attribute() {
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
            None if entry.origin() == Origin::PresentationalHint => "an HTML attribute".to_owned(),
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
        let written = crate::text::shorten(self.sources.written(group), 80);
        Some(format!("`{written}` does not hold here ({})", self.sources.placed(group)))
    }

    /// Why a rule is off, and where that is written.
    pub(crate) fn off_in_words(&self, off: &Off) -> String {
        format!("{} ({})", off.reason, self.sources.placed(off.span))
    }

    /// The text of a place in a question, or in a file.
    pub(crate) fn text_of<'t>(&'t self, question: Option<&'t str>, span: Span) -> &'t str {
        match question {
            Some(text) => text.get(span.start as usize..span.end as usize).unwrap_or_default(),
            None => self.sources.written(span),
        }
    }
}
