//! Rules by their rightmost compound, so that an element is tried against few of them.

use std::collections::HashMap;
use std::hash::{DefaultHasher, Hash, Hasher};

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

/// Rules by what their subject must have.
#[derive(Debug)]
pub(super) struct RuleIndex {
    /// Rules that need an id.
    ids: HashMap<Name, Vec<u32>>,
    /// Rules that need a class.
    classes: HashMap<Name, Vec<u32>>,
    /// Rules that need an element name.
    types: HashMap<Name, Vec<u32>>,
    /// All others.
    any: Vec<u32>,
    /// For each rule, what the ancestors of an element must have together, once for each selector.
    around: Vec<Vec<Names>>,
}

/// A set of names that may take in too many, but never too few: each name sets one of 512 bits.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub(crate) struct Names([u64; 8]);

impl Names {
    /// Adds a name; kinds of names are kept apart by a letter.
    fn add(&mut self, kind: char, name: &str) {
        let mut hasher = DefaultHasher::new();
        kind.hash(&mut hasher);
        name.bytes().for_each(|b| hasher.write_u8(b.to_ascii_lowercase()));
        let bit = hasher.finish() as usize % 512;
        self.0[bit / 64] |= 1 << (bit % 64);
    }

    /// Whether all names of another set may be in this one.
    fn holds(&self, other: &Self) -> bool {
        self.0.iter().zip(other.0).all(|(own, other)| own & other == other)
    }

    /// The names of an element added to those of the elements around it.
    pub(crate) fn with(mut self, element: &Element) -> Self {
        self.add('t', &element.name);
        element.id.iter().for_each(|id| self.add('i', id));
        element.classes.iter().for_each(|class| self.add('c', class));
        self
    }

    /// What a selector asks of the ancestors of its subject.
    fn asked_by(selector: &Selector) -> Self {
        let mut names = Self::default();
        let mut compounds = selector.compounds.iter().rev();
        let mut outwards = compounds.next().map(|c| c.combinator);
        for compound in compounds {
            // Past a sibling combinator, the elements further left are siblings; past the next, ancestors again.
            if matches!(outwards, Some(Combinator::Descendant | Combinator::Child)) {
                for part in &compound.parts {
                    match &part.simple {
                        Simple::Id(name) => names.add('i', name),
                        Simple::Class(name) => names.add('c', name),
                        Simple::Type(_, _, lower) => names.add('t', lower),
                        _ => {}
                    }
                }
            }
            outwards = Some(compound.combinator);
        }
        names
    }
}

impl RuleIndex {
    /// Sorts rules into the index; in quirks mode ids and classes count without case.
    pub(super) fn new(rules: &[FlatRule], sheets: &[SheetEntry], quirks: bool) -> Self {
        let mut index = Self {
            ids: HashMap::new(),
            classes: HashMap::new(),
            types: HashMap::new(),
            any: Vec::new(),
            around: Vec::with_capacity(rules.len()),
        };
        for (i, rule) in rules.iter().enumerate() {
            let number = crate::source::offset(i);
            let list = &sheets[rule.sheet as usize].sheet.rules[rule.rule as usize].selectors;
            index.around.push(list.selectors.iter().map(Names::asked_by).collect());
            for key in keys_of_list(list) {
                let fold = |n: Name| {
                    if quirks { Name::from(n.to_ascii_lowercase()) } else { n }
                };
                let bucket = match key {
                    Key::Id(name) => index.ids.entry(fold(name)).or_default(),
                    Key::Class(name) => index.classes.entry(fold(name)).or_default(),
                    Key::Type(name) => index.types.entry(name).or_default(),
                    Key::Any => &mut index.any,
                };
                if bucket.last() != Some(&number) {
                    bucket.push(number);
                }
            }
        }
        index
    }

    /// The rules that may take an element inside elements with some names, in order.
    pub(super) fn candidates(&self, element: &Element, around: &Names, quirks: bool) -> Vec<u32> {
        let fold = |n: &Name| {
            if quirks { Name::from(n.to_ascii_lowercase()) } else { n.clone() }
        };
        let mut found = self.any.clone();
        if let Some(id) = &element.id {
            found.extend(self.ids.get(&fold(id)).into_iter().flatten());
        }
        for class in &element.classes {
            found.extend(self.classes.get(&fold(class)).into_iter().flatten());
        }
        let lower = Name::from(element.name.to_ascii_lowercase());
        found.extend(self.types.get(&lower).into_iter().flatten());
        found.retain(|rule| self.around[*rule as usize].iter().any(|asked| around.holds(asked)));
        found.sort_unstable();
        found.dedup();
        found
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
