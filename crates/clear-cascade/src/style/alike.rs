//! What is alike is computed once: elements that inherit the same values and that the same rules take share their own.

use std::hash::{Hash, Hasher};
use std::sync::atomic::{AtomicU32, Ordering};
use std::sync::{Arc, Mutex, MutexGuard, PoisonError};

use rustc_hash::{FxHashMap, FxHasher};

use super::entry::{Entry, Target};
use super::matched::Matched;
use super::{Customs, Heritage, Inside, Style};
use crate::document::{ElementId, Name, Namespace};
use crate::page::Page;
use crate::property::{self, Declared};
use crate::selector::PseudoElement;
use crate::stylesheet::CustomDeclared;

/// How many values are kept to be shared: what is alike mostly stands together, lists of thousands have few kinds of items, and more than
/// a processor keeps at hand would cost pages without anything alike.
const KEPT: usize = 1024;

/// Whether values go by an attribute besides rules, on form controls and pictures.
fn is_telling(attribute: &str) -> bool {
    matches!(attribute, "type" | "multiple" | "size" | "src" | "srcset" | "alt")
}

/// All that the values of an element or pseudo-element go by.
#[derive(Clone, Copy)]
pub(super) struct Key<'k> {
    /// What is the same for all its rules.
    of: Of<'k>,
    /// The rules that take it.
    matched: &'k [Matched<'k>],
    /// The hash of these.
    of_rules: u64,
    /// The hash of all.
    hash: u64,
}

/// What values go by, rules aside.
#[derive(Clone, Copy, PartialEq, Eq, Hash)]
struct Of<'k> {
    /// Where the values are that it inherits: they stay where they are as long as keys to them. Of the parent's other values nothing
    /// counts but what it does to the boxes inside.
    heritage: usize,
    /// That.
    around: Inside,
    /// Where the same highlight around it is, if it is one.
    highlight: usize,
    /// The pseudo-element.
    pseudo: Option<&'k PseudoElement>,
    /// The name of the element.
    name: &'k Name,
    /// Its namespace, and that of its parent.
    namespaces: (Namespace, Option<Namespace>),
}

/// A rule that takes an element: its number, that of the selector, and the steps up to the scoping root.
type Ruled = (u32, Option<u32>, Option<u32>);

impl<'k> Key<'k> {
    /// That of an element or a pseudo-element of it which these rules take; nothing where it may go by what no other has. It inherits
    /// from a parent that stays where it is, a highlight from the element that it is over, and from the same highlight around.
    pub(super) fn of(
        page: &'k Page,
        (id, pseudo): (ElementId, Option<&'k PseudoElement>),
        matched: &'k [Matched<'k>],
        (parent, highlight): (&Style, Option<&Arc<Style>>),
    ) -> Option<Self> {
        if page.counts_siblings {
            return None;
        }
        let element = page.document.node(id);
        if element.attributes.iter().any(|a| is_telling(&a.name)) {
            return None;
        }
        // What is not initial there may be taken over (CSS Box Alignment 3, §6.1).
        if !parent.is_initial(property::id::JUSTIFY_ITEMS) {
            return None;
        }
        let around = element.parent.map(|p| page.document.node(p).namespace);
        let of = Of {
            heritage: Arc::as_ptr(&parent.heritage).addr(),
            around: parent.inside,
            highlight: highlight.map_or(0, |style| Arc::as_ptr(style).addr()),
            pseudo,
            name: &element.name,
            namespaces: (element.namespace, around),
        };
        let mut hasher = FxHasher::default();
        for m in matched {
            let rule = &page.rules[m.rule as usize];
            // What is around it, and `appearance`, may say that a rule does not count; rules of its own have no selectors.
            if !rule.within.containers.is_empty() || page.base_select == Some(rule.sheet) || m.selector.is_none() {
                return None;
            }
            (m.rule, m.selector).hash(&mut hasher);
        }
        let of_rules = hasher.finish();
        of.hash(&mut hasher);
        Some(Self { of, matched, of_rules, hash: hasher.finish() })
    }

    /// Whether it is for the same values as another.
    pub(super) fn is(&self, other: &Self) -> bool {
        self.hash == other.hash && self.of == other.of && self.rules().eq(other.rules())
    }

    /// Whether the same rules say the same.
    pub(super) fn is_said_as(&self, other: &Self) -> bool {
        self.of_rules == other.of_rules && self.of.pseudo == other.of.pseudo && self.rules().eq(other.rules())
    }

    /// The rules.
    fn rules(&self) -> impl Iterator<Item = Ruled> {
        self.matched.iter().map(|m| (m.rule, m.selector, m.proximity))
    }
}

/// Whether some of these declarations may go by attributes: by `attr()`, or by custom functions that have it in them.
pub(super) fn go_by_attributes(page: &Page, entries: &[Entry<'_>]) -> bool {
    entries.iter().any(|entry| {
        let sheet = &page.sheets[entry.sheet() as usize].sheet;
        let replaced = || match entry.property {
            Target::Longhand(_) => matches!(entry.declared, Some(Declared::Substitute(_))),
            Target::Custom(_) => matches!(entry.declaration.custom(sheet), CustomDeclared::Substitute(_)),
        };
        entry.declaration.goes_by_attributes && replaced()
    })
}

/// Values, and all that they go by.
#[derive(Debug)]
struct Kept {
    /// The hash of what follows.
    hash: u64,
    /// Where the inherited values are, what is done to boxes, and where the same highlight is.
    inherits: (usize, Inside, usize),
    /// The pseudo-element.
    pseudo: Option<PseudoElement>,
    /// The name of the element.
    name: Name,
    /// Its namespace, and that of its parent.
    namespaces: (Namespace, Option<Namespace>),
    /// The rules.
    rules: Box<[Ruled]>,
    /// The values.
    style: Arc<Style>,
}

impl Kept {
    /// Whether they are for a key.
    fn is_for(&self, key: &Key<'_>) -> bool {
        let of = &key.of;
        self.hash == key.hash
            && self.inherits == (of.heritage, of.around, of.highlight)
            && self.pseudo.as_ref() == of.pseudo
            && self.name == *of.name
            && self.namespaces == of.namespaces
            && key.rules().eq(self.rules.iter().copied())
    }
}

/// In how many parts things are kept, each with a lock of its own: so threads hardly ever wait for each other.
const PARTS: usize = 16;

/// Things by their hashes.
type ByHash<T> = [Mutex<FxHashMap<u64, Arc<T>>>; PARTS];

/// Values of some elements, by all that they go by.
#[derive(Debug, Default)]
pub(super) struct Alike {
    /// The values.
    kept: [Mutex<Vec<Option<Kept>>>; PARTS],
    /// Custom properties that some elements pass on.
    customs: ByHash<Customs>,
    /// All that some elements pass on.
    heritages: ByHash<Heritage>,
    /// How often values were looked for.
    asked: AtomicU32,
    /// How often some were found.
    found: AtomicU32,
}

/// Takes what is kept in the place of what is the same, or keeps it.
fn share<T>(new: &mut Arc<T>, kept: &ByHash<T>, hash: u64, same: impl Fn(&Arc<T>, &Arc<T>) -> bool) {
    let (part, _) = place_of(hash);
    let known = lock(&kept[part]).get(&hash).cloned();
    if let Some(known) = known.filter(|known| same(known, new)) {
        *new = known;
        return;
    }
    let mut kept = lock(&kept[part]);
    let full = if kept.len() == KEPT / PARTS { std::mem::take(&mut *kept) } else { FxHashMap::default() };
    kept.insert(hash, new.clone());
    // What is dropped need not keep others waiting.
    drop(kept);
    drop(full);
}

/// A lock, whatever became of who had it.
fn lock<T>(part: &Mutex<T>) -> MutexGuard<'_, T> {
    part.lock().unwrap_or_else(PoisonError::into_inner)
}

/// How often values are looked for before it is judged whether a page has much that is alike.
const TRIALS: u32 = 1000;

/// How seldom values are found where it is not: once in so many times.
const SELDOM: u32 = 32;

/// Where what has a hash is kept: the part, and the place in it.
fn place_of(hash: u64) -> (usize, usize) {
    let place = usize::try_from(hash >> 40).unwrap_or_default() % KEPT;
    (place % PARTS, place / PARTS)
}

impl Alike {
    /// Whether it is worth while to look: a page with next to nothing alike in it need not pay for it.
    pub(super) fn pays(&self) -> bool {
        let asked = self.asked.load(Ordering::Relaxed);
        asked < TRIALS || self.found.load(Ordering::Relaxed) > asked / SELDOM
    }

    /// The values for a key, if they are kept.
    pub(super) fn get(&self, key: &Key<'_>) -> Option<Arc<Style>> {
        self.asked.fetch_add(1, Ordering::Relaxed);
        let (part, place) = place_of(key.hash);
        let kept = lock(&self.kept[part]);
        let found = kept.get(place)?.as_ref().filter(|found| found.is_for(key))?;
        self.found.fetch_add(1, Ordering::Relaxed);
        Some(found.style.clone())
    }

    /// Puts what others pass on in the place of what is the same, so that those inside of both are alike; what is the parent's is
    /// so already.
    pub(super) fn share(&self, heritage: &mut Arc<Heritage>, parent: &Arc<Heritage>) {
        if Arc::ptr_eq(parent, heritage) {
            return;
        }
        if !Arc::ptr_eq(&parent.custom, &heritage.custom) {
            let customs = &mut Arc::make_mut(heritage).custom;
            let hash = customs.hash();
            share(customs, &self.customs, hash, Customs::is);
        }
        let hash = heritage.hash();
        share(heritage, &self.heritages, hash, |a, b| a.is(b));
    }

    /// Keeps values for a key, in the place of others where they are in its way.
    pub(super) fn keep(&self, key: &Key<'_>, style: Arc<Style>) {
        let of = &key.of;
        let new = Kept {
            hash: key.hash,
            inherits: (of.heritage, of.around, of.highlight),
            pseudo: of.pseudo.cloned(),
            name: of.name.clone(),
            namespaces: of.namespaces,
            rules: key.rules().collect(),
            style,
        };
        let (part, place) = place_of(key.hash);
        let mut kept = lock(&self.kept[part]);
        if kept.is_empty() {
            kept.resize_with(KEPT / PARTS, || None);
        }
        let old = kept[place].replace(new);
        drop(kept);
        drop(old);
    }
}

impl Clone for Alike {
    /// Nothing kept: the values that keys lead to are of one table.
    fn clone(&self) -> Self {
        Self::default()
    }
}
