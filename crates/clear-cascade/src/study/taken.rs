//! Which rules take elements, as far as someone asked: whoever asks about one property of an element mostly asks about more.

use std::sync::Arc;

use rustc_hash::FxHashMap;

use crate::document::ElementId;
use crate::page::Page;
use crate::selector::Specificity;
use crate::style::Matched;

/// How many rules are kept at the most, by all elements together: what is asked about is mostly near what was asked about before.
const MOST: usize = 1 << 16;

/// A rule that takes an element, without what can be found in the page.
#[derive(Clone, Copy, Debug)]
pub(super) struct Taken {
    /// The rule.
    rule: u32,
    /// The weight of the selector.
    specificity: Specificity,
    /// Steps up to the scoping root.
    proximity: Option<u32>,
    /// The selector.
    selector: Option<u32>,
}

impl Taken {
    /// That of a rule that was found to take an element.
    pub(super) fn of(matched: &Matched<'_>) -> Self {
        let Matched { rule, specificity, proximity, selector, .. } = *matched;
        Self { rule, specificity, proximity, selector }
    }

    /// The rule as it was found.
    pub(super) fn matched(self, page: &Page) -> Matched<'_> {
        let Self { rule, specificity, proximity, selector } = self;
        let written = || page.selectors(page.rules.get(rule as usize)?).selectors.get(selector? as usize);
        Matched { rule, specificity, proximity, pseudo: written().and_then(|s| s.pseudo.as_ref()), selector }
    }
}

/// The rules that take some elements.
#[derive(Debug, Default)]
pub(super) struct AllTaken {
    /// By element.
    of: FxHashMap<ElementId, Arc<[Taken]>>,
    /// How many they are.
    count: usize,
}

impl AllTaken {
    /// The rules that take an element, where they are kept.
    pub(super) fn of(&self, id: ElementId) -> Option<Arc<[Taken]>> {
        self.of.get(&id).cloned()
    }

    /// Keeps the rules that take an element.
    pub(super) fn keep(&mut self, id: ElementId, rules: Arc<[Taken]>) {
        if self.count + rules.len() > MOST {
            *self = Self::default();
        }
        self.count += rules.len();
        self.of.insert(id, rules);
    }
}
