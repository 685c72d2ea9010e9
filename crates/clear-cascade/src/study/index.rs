//! Rules by their rightmost compound, so that an element is tried against few of them.

use std::borrow::Cow;

use rustc_hash::FxHashMap;

use super::collect::{FlatRule, SheetEntry};
use crate::document::{Element, Name};
use crate::selector::{Combinator, PseudoClass, Selector, SelectorList, Simple};

/// What a rule's subject must have.
#[derive(Clone, PartialEq, Eq, Hash)]
enum Key {
    /// An id.
    Id(Name),
    /// A class.
    Class(Name),
    /// An element name, in lower case.
    Type(Name),
    /// Nothing in particular.
    Any,
}

/// A selector of a rule, with what it asks of the ancestors of its subject.
#[derive(Clone, Copy, Debug)]
struct Indexed {
    /// The rule.
    rule: u32,
    /// Which of its selectors.
    selector: u32,
    /// Names that some ancestor must have.
    around: [u16; NEEDED],
}

/// How many names of ancestors are looked at before a selector is tried.
const NEEDED: usize = 4;

/// Selectors by what their subject must have.
#[derive(Debug, Default)]
pub(super) struct RuleIndex {
    /// Those that need an id.
    ids: FxHashMap<Name, Vec<Indexed>>,
    /// Those that need a class.
    classes: FxHashMap<Name, Vec<Indexed>>,
    /// Those that need an element name.
    types: FxHashMap<Name, Vec<Indexed>>,
    /// All others.
    any: Vec<Indexed>,
}

/// A set of names that may take in too many, but never too few: each name sets one of 512 bits.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub(crate) struct Names([u64; 8]);

/// No name.
const NONE: u16 = u16::MAX;

/// The bit of a name; kinds of names are kept apart.
fn bit(kind: u64, name: &Name) -> u16 {
    let spread = (name.get_hash() + kind).wrapping_mul(0x9e37_79b9_7f4a_7c15);
    u16::try_from(spread >> (64 - 9)).unwrap_or(0)
}

/// A name without case, where case does not count.
fn folded(name: &Name, fold: bool) -> Cow<'_, Name> {
    let upper = fold && name.bytes().any(|b| b.is_ascii_uppercase());
    if upper { Cow::Owned(Name::from(name.to_ascii_lowercase())) } else { Cow::Borrowed(name) }
}

impl Names {
    /// Adds a name.
    fn add(&mut self, bit: u16) {
        self.0[usize::from(bit / 64)] |= 1 << (bit % 64);
    }

    /// Whether all of some names may be in it.
    fn holds(&self, names: &[u16]) -> bool {
        names.iter().all(|bit| *bit == NONE || self.0[usize::from(*bit / 64)] & (1 << (*bit % 64)) != 0)
    }

    /// The names of an element added to those of the elements around it; in quirks mode ids and classes count without case.
    pub(crate) fn with(mut self, element: &Element, quirks: bool) -> Self {
        self.add(bit(1, &folded(&element.name, true)));
        element.id.iter().for_each(|id| self.add(bit(2, &folded(id, quirks))));
        element.classes.iter().for_each(|class| self.add(bit(3, &folded(class, quirks))));
        self
    }
}

/// What a selector asks of the ancestors of its subject, the nearest first.
fn asked_around(selector: &Selector, quirks: bool) -> [u16; NEEDED] {
    let mut asked = [NONE; NEEDED];
    let mut free = asked.iter_mut();
    let mut compounds = selector.compounds.iter().rev();
    let mut outwards = compounds.next().map(|c| c.combinator);
    for compound in compounds {
        // Past a sibling combinator, the elements further left are siblings; past the next, ancestors again.
        if matches!(outwards, Some(Combinator::Descendant | Combinator::Child)) {
            for part in &compound.parts {
                let bit = match &part.simple {
                    Simple::Id(name) => bit(2, &folded(name, quirks)),
                    Simple::Class(name) => bit(3, &folded(name, quirks)),
                    Simple::Type(_, _, lower) => bit(1, lower),
                    _ => continue,
                };
                match free.next() {
                    Some(place) => *place = bit,
                    None => return asked,
                }
            }
        }
        outwards = Some(compound.combinator);
    }
    asked
}

impl RuleIndex {
    /// Sorts the selectors of rules into the index; in quirks mode ids and classes count without case.
    pub(super) fn new(rules: &[FlatRule], sheets: &[SheetEntry], quirks: bool) -> Self {
        let mut index = Self::default();
        for (i, rule) in rules.iter().enumerate() {
            let list = &sheets[rule.sheet as usize].sheet.rules[rule.rule as usize].selectors;
            for (n, selector) in list.selectors.iter().enumerate() {
                let (rule, number) = (crate::source::offset(i), crate::source::offset(n));
                let indexed = Indexed { rule, selector: number, around: asked_around(selector, quirks) };
                for key in keys_of(&selector.subject().parts) {
                    let bucket = match key {
                        Key::Id(name) => index.ids.entry(folded(&name, quirks).into_owned()).or_default(),
                        Key::Class(name) => index.classes.entry(folded(&name, quirks).into_owned()).or_default(),
                        Key::Type(name) => index.types.entry(name).or_default(),
                        Key::Any => &mut index.any,
                    };
                    bucket.push(indexed);
                }
            }
        }
        index
    }

    /// Calls `f` with the selectors that may take an element inside elements with some names: the rule, and which of its
    /// selectors. One may come several times.
    pub(super) fn candidates(&self, element: &Element, around: &Names, quirks: bool, f: &mut dyn FnMut(u32, u32)) {
        let mut each = |bucket: &Vec<Indexed>| {
            for indexed in bucket.iter().filter(|i| around.holds(&i.around)) {
                f(indexed.rule, indexed.selector);
            }
        };
        each(&self.any);
        element.id.iter().filter_map(|id| self.ids.get(&*folded(id, quirks))).for_each(&mut each);
        element.classes.iter().filter_map(|class| self.classes.get(&*folded(class, quirks))).for_each(&mut each);
        self.types.get(&*folded(&element.name, true)).into_iter().for_each(&mut each);
    }
}

/// What the subjects of a list must have: one key a selector.
fn keys_of_list(list: &SelectorList) -> Vec<Key> {
    list.selectors.iter().flat_map(|s| keys_of(&s.subject().parts)).collect()
}

/// What a subject must have: an id, else a class, else what a list in it asks for, else an element name.
fn keys_of(parts: &[crate::selector::Part]) -> Vec<Key> {
    let mut best = vec![Key::Any];
    let mut rank = 0;
    for part in parts {
        let (found, of) = match &part.simple {
            Simple::Id(name) => (vec![Key::Id(name.clone())], 4),
            Simple::Class(name) => (vec![Key::Class(name.clone())], 3),
            Simple::Type(_, _, lower) => (vec![Key::Type(lower.clone())], 2),
            Simple::PseudoClass(PseudoClass::Is(list, _) | PseudoClass::Any(list)) => (keys_of_list(list), 1),
            Simple::Nesting(Some(list)) => (keys_of_list(list), 1),
            // What follows is about the pseudo-element.
            Simple::PseudoElement(_) => break,
            _ => continue,
        };
        if of > rank && !found.contains(&Key::Any) {
            best = found;
            rank = of;
        }
    }
    best
}
