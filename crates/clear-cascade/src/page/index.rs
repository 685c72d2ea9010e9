//! Rules by their rightmost compound, so that an element is tried against few of them.

use std::borrow::Cow;
use std::sync::Arc;

use rustc_hash::FxHashMap;
use smallvec::{SmallVec, smallvec};

use super::collect::{FlatRule, SheetEntry};
use crate::document::{Document, Element, Name, NameOf};
use crate::selector::{Combinator, NamespaceTest, Plain, PseudoClass, Selector, SelectorList, Simple, Specificity};
use crate::stylesheet::{StyleRule, Stylesheet};
use crate::syntax::unescaped;
use crate::viewing::States;

/// What a rule's subject must have.
#[derive(Clone, PartialEq, Eq, Hash)]
enum Key {
    /// An id.
    Id(Name),
    /// A class.
    Class(Name),
    /// An element name, in lower case.
    Type(Name),
    /// An attribute, its name in lower case.
    Attribute(Name),
    /// To be the root of the page.
    Root,
    /// Nothing in particular.
    Any,
}

/// What several subjects must have; mostly it is one.
type Keys = SmallVec<[Key; 1]>;

/// A selector of a rule, with what it asks of the ancestors of its subject.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Indexed {
    /// The rule.
    pub(crate) rule: u32,
    /// Which of its selectors.
    pub(crate) selector: u32,
    /// Names that some ancestor must have.
    around: [u16; NEEDED],
    /// Whether the selector takes whatever it is found for, having nothing else to ask.
    pub(crate) takes_all: bool,
    /// Whether the selector alone says what it takes: no scope, no other tree, and nothing beside it.
    pub(crate) alone: bool,
    /// Whether it aims at a pseudo-element.
    pub(crate) aims_inside: bool,
    /// What it weighs.
    pub(crate) specificity: Specificity,
}

/// How many names of ancestors are looked at before a selector is tried.
const NEEDED: usize = 4;

/// Selectors by what their subject must have.
#[derive(Debug, Default)]
pub(crate) struct RuleIndex {
    /// The selectors of each rule, as long as some of them may take something.
    lists: Vec<Option<Arc<SelectorList>>>,
    /// Those that need an id.
    ids: FxHashMap<Name, Vec<Indexed>>,
    /// Those that need a class.
    classes: FxHashMap<Name, Vec<Indexed>>,
    /// Those that need an element name.
    types: FxHashMap<Name, Vec<Indexed>>,
    /// Those that need an attribute.
    attributes: FxHashMap<Name, Vec<Indexed>>,
    /// Those for the root of the page.
    root: Vec<Indexed>,
    /// All others, sorted by the first name that an ancestor must have.
    any: Vec<Indexed>,
    /// These names, each with the end of the part of `any` that asks for it.
    any_around: Vec<(u16, usize)>,
}

/// A set of names that may take in too many, but never too few: each name sets one of 512 bits.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub(crate) struct Names([u64; 8]);

/// No name.
const NONE: u16 = u16::MAX;

/// The bit of a name; kinds of names are kept apart.
fn bit(kind: u64, name: &Name) -> u16 {
    let spread = (name.number() + kind).wrapping_mul(0x9e37_79b9_7f4a_7c15);
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

/// Whether a rule may take some element of a document with elements in some states, as far as that is known without reading its
/// selectors.
fn may_be_taken(rule: &StyleRule, sheet: &Stylesheet, document: &Document, states: &States) -> bool {
    let (mut some, mut here) = (false, true);
    let unread = sheet.plain_selectors(rule, &mut |found| {
        let (of, name) = match found {
            Plain::Id(id) => (NameOf::Id, id),
            Plain::Class(class) => (NameOf::Class, class),
            Plain::Type(name) => (NameOf::Type, name),
            Plain::State(state) => return here &= state.may_be_on(states),
            Plain::End => {
                some |= here;
                return here = true;
            }
        };
        here = here && document.may_have(of, &unescaped(name));
    });
    some || !unread
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
    /// Sorts the selectors of rules into the index, those left out that ask for states that no element is in, and rules that are not
    /// read yet and name what the document does not have; in quirks mode ids and classes count without case.
    pub(crate) fn new(rules: &[FlatRule], sheets: &[SheetEntry], document: &Document, states: &States) -> Self {
        let (mut index, mut known) = (Self::default(), KnownKeys::default());
        let quirks = document.quirks;
        index.lists = vec![None; rules.len()];
        for (i, rule) in rules.iter().enumerate() {
            let sheet = &sheets[rule.sheet as usize].sheet;
            let style_rule = &sheet.rules[rule.rule as usize];
            if !may_be_taken(style_rule, sheet, document, states) {
                continue;
            }
            let list = sheet.selectors(style_rule);
            index.lists[i] = Some(list.clone());
            for (n, selector) in list.selectors.iter().enumerate() {
                if !may_take(selector, states) {
                    continue;
                }
                let of_page = rule.within.scopes.is_empty() && rule.tree.is_none_or(|t| t == 0);
                let plain = selector.slotted.is_none() && selector.parts.is_empty();
                let takes_all = of_page && takes_all(selector);
                let indexed = Indexed {
                    rule: crate::source::offset(i),
                    selector: crate::source::offset(n),
                    around: asked_around(selector, quirks),
                    takes_all,
                    alone: of_page && plain && selector.pseudo.as_ref().is_none_or(|p| p.then.is_none()),
                    aims_inside: selector.pseudo.is_some(),
                    specificity: selector.specificity,
                };
                for key in keys_of(&selector.subject().parts, &mut known) {
                    let bucket = match key {
                        Key::Id(name) => index.ids.entry(folded(&name, quirks).into_owned()).or_default(),
                        Key::Class(name) => index.classes.entry(folded(&name, quirks).into_owned()).or_default(),
                        Key::Type(name) => index.types.entry(name).or_default(),
                        Key::Attribute(name) => index.attributes.entry(name).or_default(),
                        Key::Root => &mut index.root,
                        Key::Any => &mut index.any,
                    };
                    bucket.push(indexed);
                }
            }
        }
        index.any.sort_by_key(|i| i.around[0]);
        let mut end = 0;
        for part in index.any.chunk_by(|a, b| a.around[0] == b.around[0]) {
            end += part.len();
            index.any_around.push((part[0].around[0], end));
        }
        index
    }

    /// One of its selectors.
    pub(super) fn selector(&self, indexed: &Indexed) -> Option<&Selector> {
        self.lists.get(indexed.rule as usize)?.as_ref()?.selectors.get(indexed.selector as usize)
    }

    /// Calls `f` with the selectors that may take an element inside elements with some names. One may come several times.
    pub(super) fn candidates(&self, element: &Element, around: &Names, quirks: bool, f: &mut impl FnMut(&Indexed)) {
        let mut each = |bucket: &[Indexed]| bucket.iter().filter(|i| around.holds(&i.around)).for_each(&mut *f);
        let mut from = 0;
        for (name, end) in &self.any_around {
            if around.holds(&[*name]) {
                each(&self.any[from..*end]);
            }
            from = *end;
        }
        if element.parent.is_none() && element.tree == 0 {
            each(&self.root);
        }
        element.id.iter().filter_map(|id| self.ids.get(&*folded(id, quirks))).for_each(|b| each(b));
        element.classes.iter().filter_map(|class| self.classes.get(&*folded(class, quirks))).for_each(|b| each(b));
        self.types.get(&*folded(&element.name, true)).into_iter().for_each(|b| each(b));
        if !self.attributes.is_empty() {
            let names = element.attributes.iter().map(|a| &a.name);
            names.filter_map(|name| self.attributes.get(&*folded(name, true))).for_each(|b| each(b));
        }
    }
}

/// Whether a selector takes every element that it is found for: one name, perhaps a pseudo-element, and nothing else.
fn takes_all(selector: &Selector) -> bool {
    let [compound] = &*selector.compounds else { return false };
    let any = |namespace: &NamespaceTest| *namespace == NamespaceTest::Any;
    let asks_no_more = |simple: &Simple| match simple {
        Simple::Id(_) | Simple::Class(_) | Simple::PseudoClass(PseudoClass::Root) => true,
        Simple::Type(namespace, ..) | Simple::Universal(namespace) => any(namespace),
        _ => false,
    };
    let pseudo = |simple: &Simple| match (simple, &selector.pseudo) {
        (Simple::PseudoElement(_), Some(aim)) => aim.then.is_none(),
        _ => false,
    };
    compound.namespace.is_none()
        && match &*compound.parts {
            [one] => asks_no_more(&one.simple) || pseudo(&one.simple),
            [one, two] => asks_no_more(&one.simple) && pseudo(&two.simple),
            _ => false,
        }
}

/// Whether a selector can take anything as long as elements are in no other states than these.
fn may_take(selector: &Selector, states: &States) -> bool {
    selector.compounds.iter().all(|compound| {
        let own = compound.parts.iter().take_while(|p| !matches!(p.simple, Simple::PseudoElement(_)));
        own.into_iter().all(|part| match &part.simple {
            Simple::PseudoClass(PseudoClass::State(state)) => state.may_be_on(states),
            Simple::PseudoClass(PseudoClass::Never(_)) => false,
            _ => true,
        })
    })
}

/// Keys of the selectors around nested rules, by the address of their list.
type KnownKeys = FxHashMap<*const SelectorList, Keys>;

/// What the subjects of a list must have: the keys of each selector, each once.
fn keys_of_list(list: &SelectorList, known: &mut KnownKeys) -> Keys {
    let mut keys = Keys::new();
    for selector in &list.selectors {
        for key in keys_of(&selector.subject().parts, known) {
            if keys.len() > MOST_KEYS {
                return smallvec![Key::Any];
            }
            if !keys.contains(&key) {
                keys.push(key);
            }
        }
    }
    keys
}

/// How many keys of one selector are looked up; one that has more is tried on every element.
const MOST_KEYS: usize = 256;

/// What a subject must have: to be the root, else an id, a class, an element name, an attribute, or what a list in it asks
/// for; nothing where it takes nothing.
fn keys_of(parts: &[crate::selector::Part], known: &mut KnownKeys) -> Keys {
    let mut best = smallvec![Key::Any];
    let mut rank = 0;
    for part in parts {
        let (found, of): (Keys, u32) = match &part.simple {
            Simple::Id(name) => (smallvec![Key::Id(name.clone())], 5),
            Simple::Class(name) => (smallvec![Key::Class(name.clone())], 4),
            Simple::Type(_, _, lower) => (smallvec![Key::Type(lower.clone())], 3),
            Simple::Attribute(test) => (smallvec![Key::Attribute(test.lower.clone())], 2),
            Simple::PseudoClass(PseudoClass::Root) => (smallvec![Key::Root], 6),
            // A host is found from the tree behind it.
            Simple::PseudoClass(PseudoClass::Host(_) | PseudoClass::HostContext(_)) => (Keys::new(), 6),
            Simple::PseudoClass(PseudoClass::Is(list, _) | PseudoClass::Any(list)) => (keys_of_list(list, known), 1),
            Simple::Nesting(Some(list)) => {
                let keys = known.get(&Arc::as_ptr(list)).cloned();
                let keys = keys.unwrap_or_else(|| {
                    let keys = keys_of_list(list, known);
                    known.insert(Arc::as_ptr(list), keys.clone());
                    keys
                });
                (keys, 1)
            }
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
