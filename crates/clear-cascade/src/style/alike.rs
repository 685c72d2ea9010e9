//! What is alike is computed once: elements that inherit the same values and that the same rules take share their own.

use std::hash::{Hash, Hasher};
use std::sync::{Arc, Mutex, PoisonError};

use rustc_hash::FxHasher;
use smallvec::SmallVec;

use super::entry::{Entry, Target};
use super::gather::Matched;
use super::{Style, Styles};
use crate::document::{ElementId, Name, Namespace};
use crate::page::Page;
use crate::property::Declared;
use crate::selector::PseudoElement;
use crate::stylesheet::CustomDeclared;

/// How many values are kept to be shared: what is alike mostly stands together, lists of thousands have few kinds of items, and more than
/// a processor keeps at hand would cost pages without anything alike.
const KEPT: usize = 256;

/// Attributes by which values go besides rules, on form controls and pictures.
const TELLING: [&str; 6] = ["type", "multiple", "size", "src", "srcset", "alt"];

/// All that the values of an element or pseudo-element go by.
#[derive(Clone, Debug, PartialEq, Eq, Hash)]
pub(super) struct Key {
    /// Where the values are that it inherits: they stay where they are as long as keys to them.
    parent: usize,
    /// The pseudo-element.
    pseudo: Option<PseudoElement>,
    /// The name of the element.
    name: Name,
    /// Its namespace, and that of its parent.
    namespaces: (Namespace, Option<Namespace>),
    /// The rules that take it, each with the selector and the steps up to the scoping root.
    rules: SmallVec<[(u32, u32, Option<u32>); 16]>,
}

impl Key {
    /// That of an element or a pseudo-element of it; nothing where it may go by what no other has.
    pub(super) fn of(
        styles: &Styles,
        page: &Page,
        (id, pseudo): (ElementId, Option<&PseudoElement>),
        matched: &[Matched<'_>],
    ) -> Option<Self> {
        if page.counts_siblings {
            return None;
        }
        let element = page.document.node(id);
        if element.attributes.iter().any(|a| TELLING.contains(&&*a.name)) {
            return None;
        }
        let mut rules = SmallVec::new();
        for m in matched.iter().filter(|m| m.pseudo == pseudo) {
            let rule = &page.rules[m.rule as usize];
            // What is around it, and `appearance`, may say that a rule does not count.
            if !rule.within.containers.is_empty() || page.base_select == Some(rule.sheet) {
                return None;
            }
            // Rules of its own have no selectors.
            rules.push((m.rule, m.selector?, m.proximity));
        }
        let parent = styles.kept_parent(page, id, pseudo)?;
        let around = element.parent.map(|p| page.document.node(p).namespace);
        Some(Self {
            parent: std::ptr::from_ref(parent).addr(),
            pseudo: pseudo.cloned(),
            name: element.name.clone(),
            namespaces: (element.namespace, around),
            rules,
        })
    }

    /// Where it is kept.
    fn place(&self) -> usize {
        let mut hasher = FxHasher::default();
        self.hash(&mut hasher);
        usize::try_from(hasher.finish() % KEPT as u64).unwrap_or_default()
    }
}

/// Whether some of these declarations may go by attributes: by `attr()`, or by custom functions that have it in them.
pub(super) fn go_by_attributes(page: &Page, entries: &[Entry<'_>]) -> bool {
    entries.iter().any(|entry| {
        let sheet = &page.sheets[entry.sheet as usize].sheet;
        let replaced = || match entry.property {
            Target::Longhand(_) => matches!(entry.declared, Some(Declared::Substitute(_))),
            Target::Custom(_) => matches!(entry.declaration.custom(sheet), CustomDeclared::Substitute),
        };
        entry.declaration.goes_by_attributes && replaced()
    })
}

/// What may be kept at a place.
type Kept = Option<(Key, Arc<Style>)>;

/// Values of some elements, by all that they go by.
#[derive(Debug, Default)]
pub(super) struct Alike(Mutex<Vec<Kept>>);

impl Alike {
    /// The values for a key, if they are kept.
    pub(super) fn get(&self, key: &Key) -> Option<Arc<Style>> {
        let kept = self.0.lock().unwrap_or_else(PoisonError::into_inner);
        let (other, style) = kept.get(key.place())?.as_ref()?;
        (other == key).then(|| style.clone())
    }

    /// Keeps values for a key, in the place of others where they are in its way.
    pub(super) fn keep(&self, key: Key, style: Arc<Style>) {
        let mut kept = self.0.lock().unwrap_or_else(PoisonError::into_inner);
        if kept.is_empty() {
            kept.resize_with(KEPT, || None);
        }
        let place = key.place();
        kept[place] = Some((key, style));
    }
}

impl Clone for Alike {
    /// Nothing kept: the values that keys lead to are of one table.
    fn clone(&self) -> Self {
        Self::default()
    }
}
