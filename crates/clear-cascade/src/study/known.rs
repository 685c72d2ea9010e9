//! What was found out about elements when someone asked: whoever asks about one property of an element mostly asks about more.

use std::hash::Hash;
use std::sync::{Arc, RwLock};

use rustc_hash::FxHashMap;

use crate::document::{ElementId, Name};
use crate::page::Page;
use crate::property::PropertyId;
use crate::selector::Specificity;
use crate::source::Span;
use crate::style::{Matched, Strongest};

/// What was found out, by what was asked.
#[derive(Debug)]
pub(crate) struct Memo<K, V>(RwLock<FxHashMap<K, V>>);

impl<K, V> Default for Memo<K, V> {
    fn default() -> Self {
        Self(RwLock::default())
    }
}

impl<K: Eq + Hash, V: Clone> Memo<K, V> {
    /// What is known already.
    pub(crate) fn get(&self, key: &K) -> Option<V> {
        self.0.read().ok()?.get(key).cloned()
    }

    /// What is known, or is found out now and kept.
    pub(crate) fn get_or(&self, key: K, find: impl FnOnce() -> V) -> V {
        self.get(&key).unwrap_or_else(|| {
            let found = find();
            if let Ok(mut known) = self.0.write() {
                known.insert(key, found.clone());
            }
            found
        })
    }
}

/// How a font size comes about, in words, and the element whose font size it is relative to.
pub(crate) type StepOfSize = (String, Option<ElementId>);

/// All that was found out about the elements of a page.
#[derive(Debug, Default)]
pub(crate) struct Known {
    /// Whether an element gives a property on to those inside it.
    pub(crate) gives: Memo<(ElementId, Name), bool>,
    /// Where the declaration is written that gives a longhand of an element its value.
    pub(crate) given: Memo<(ElementId, PropertyId), Option<Span>>,
    /// How font sizes come about; nothing where there is no more to tell than their value.
    pub(crate) sizes: Memo<ElementId, Option<StepOfSize>>,
    /// What the strongest declarations on an element come to.
    pub(super) strongest: Memo<ElementId, Arc<Strongest>>,
    /// The rules that take elements.
    pub(super) taken: RwLock<AllTaken>,
}

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
        // Two threads may have found the same.
        self.count -= self.of.insert(id, rules).map_or(0, |before| before.len());
    }
}
