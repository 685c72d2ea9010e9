//! The values that an element would have without some declarations.

use std::borrow::Cow;
use std::collections::HashSet;

use super::super::asked::{About, Asked};
use crate::document::ElementId;
use crate::source::Span;
use crate::style::{self, Entry, Matched, Style, Styles, Wanted};

/// An element with declarations cut out of their files, one after the other.
pub(super) struct Without<'s> {
    /// The element.
    about: About<'s>,
    /// What is declared for it, weakest first; nothing where what is cut may also change what it inherits.
    entries: Option<Vec<Entry<'s>>>,
    /// What is cut.
    cut: HashSet<Span>,
}

impl<'s> Without<'s> {
    /// The element with nothing cut yet; `all` is what may be cut.
    pub(super) fn new(about: About<'s>, matched: &[Matched<'_>], all: &HashSet<Span>) -> Self {
        let (study, id) = (about.study, about.element);
        let page = &study.page;
        let matcher = page.rule_matcher();
        let cuttable = |m: &Matched<'_>| {
            let rule = page.style_rule(&page.rules[m.rule as usize]);
            rule.declarations.iter().any(|d| all.contains(&d.span))
        };
        // Of what is around, and of the element that a pseudo-element is of, nothing may be cut; and whether a select has
        // base appearance may depend on what is.
        let own = about.pseudo.is_some() && matched.iter().any(|m| m.pseudo.is_none() && cuttable(m));
        let of_base_select = matched.iter().any(|m| page.base_select == Some(page.rules[m.rule as usize].sheet));
        let mut around = page.document.flat_lineage(id).skip(1);
        let alone =
            !own && !of_base_select && !around.any(|e| style::matched_rules(page, &matcher, e).iter().any(cuttable));
        let entries = alone.then(|| style::entries_of(page, study.styles(), id, matched, about.pseudo, Wanted::All));
        Self { about, entries, cut: HashSet::new() }
    }

    /// Cuts a declaration.
    pub(super) fn cut(&mut self, declaration: Span) {
        self.cut.insert(declaration);
    }

    /// The value of a property without what is cut.
    pub(super) fn value(&self, asked: &Asked) -> String {
        let study = self.about.study;
        let style = match &self.entries {
            _ if self.cut.is_empty() => study.style_of(self.about.element, self.about.pseudo),
            Some(entries) => Cow::Owned(self.from_entries(entries)),
            None => Cow::Owned(self.anew()),
        };
        study.asked_value(&style, asked)
    }

    /// The values, where those of the elements around stay as they are.
    fn from_entries(&self, entries: &[Entry<'s>]) -> Style {
        let About { study, element, pseudo } = self.about;
        let left = style::effective(&study.page, entries, &|e| !self.cut.contains(&e.declaration.span));
        match pseudo {
            Some(name) => study.styles().compute_pseudo(&study.page, element, name, &left),
            None => study.styles().compute_own(&study.page, element, &left),
        }
    }

    /// The values, with those of the elements around as far as something is cut there.
    fn anew(&self) -> Style {
        let About { study, element, pseudo } = self.about;
        let page = &study.page;
        let keep = |e: &Entry<'_>| !self.cut.contains(&e.declaration.span);
        let styles = Styles::unknown(page.document.count(), study.styles().readings.clone());
        let matcher = page.rule_matcher();
        study.style(element);
        let mut lineage: Vec<ElementId> = page.document.flat_lineage(element).collect();
        // As far in as nothing is cut, values are as they were.
        let is_cut = |id: &ElementId| {
            let matched = style::matched_rules(page, &matcher, *id);
            let mut rules = matched.iter().map(|m| page.style_rule(&page.rules[m.rule as usize]));
            rules.any(|rule| rule.declarations.iter().any(|d| self.cut.contains(&d.span)))
        };
        while let Some(outer) = lineage.pop().filter(|id| !is_cut(id)) {
            styles.adopt(outer, study.styles());
        }
        let wanted = Wanted::EffectiveOf(&keep);
        styles.ensure(page, &matcher, element, wanted);
        match pseudo {
            Some(name) => styles.of_pseudo(page, element, name, wanted),
            None => styles.get(element).map_or_else(Style::initial, |s| (**s).clone()),
        }
    }
}
