//! Names of elements, ids and classes as numbers, side by side with what else selectors ask of elements again and again.

use rustc_hash::{FxHashMap, FxHashSet};

use super::{Document, ElementId, Name};
use crate::source::offset;
use crate::text::in_lower_case;

/// What a name is of, that a selector may ask for.
#[derive(Clone, Copy, Debug)]
pub(crate) enum NameOf {
    /// An element.
    Type,
    /// Its id.
    Id,
    /// One of its classes.
    Class,
}

/// The names of a document by number: the same number stands for what selectors take for the same name. Ids and classes in quirks mode, and
/// names of elements always, are told without case (Selectors 4, §6; HTML Standard, "Case-sensitivity of selectors").
#[derive(Clone, Debug)]
pub(crate) struct Numbers {
    /// The numbers of names by what they are of, in lower case where case does not count.
    names: [FxHashMap<Box<str>, u32>; 3],
    /// How many there are.
    count: u32,
    /// The names of all attributes, in lower case.
    attributes: FxHashSet<Box<str>>,
    /// By element.
    elements: Vec<Numbered>,
    /// The classes of all elements, each element's together; those of one that has many are sorted.
    classes: Vec<u32>,
    /// The values of all attributes as sketches, each element's together.
    sketches: Vec<u64>,
    /// Of each element that others are in, its names and those of the elements around it; the first is of none.
    inside: Vec<NameSet>,
    /// Whether ids and classes count without case.
    quirks: bool,
}

/// No element, or no name.
const NONE: u32 = u32::MAX;

/// What selectors ask of an element.
#[derive(Clone, Debug)]
struct Numbered {
    /// Its name.
    name: u32,
    /// Its id.
    id: u32,
    /// The element around it, in the same tree.
    parent: u32,
    /// The sibling before it.
    previous: u32,
    /// Its place among its siblings, from 1.
    position: u32,
    /// Which of the sets has the names of the elements around it.
    around: u32,
    /// Which of the sets has its own names too, once something is in it.
    inside: u32,
    /// Where its classes end; they start where those of the element before it end.
    classes: u32,
    /// Where its attributes end.
    sketches: u32,
}

/// The bit of a name in a [`NameSet`].
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub(crate) struct Bit(u16);

impl Bit {
    /// That of no name, which every set has.
    pub(crate) const NONE: Self = Self(u16::MAX);
    /// How many others there are.
    pub(crate) const COUNT: usize = 512;

    /// That of the name with a number.
    pub(crate) fn of(number: u32) -> Self {
        let spread = u64::from(number).wrapping_mul(0x9e37_79b9_7f4a_7c15);
        Self(u16::try_from(spread >> (64 - 9)).unwrap_or(0))
    }

    /// Its place among the bits of a set; nothing for that of no name.
    pub(crate) fn place(self) -> Option<usize> {
        (self != Self::NONE).then_some(usize::from(self.0))
    }
}

/// A set of names that may take in too many, but never too few: each name sets one of 512 bits.
#[derive(Clone, Copy, Debug, Default)]
pub(crate) struct NameSet([u64; Bit::COUNT / 64]);

impl NameSet {
    /// Adds the name with a number.
    fn add(&mut self, number: u32) {
        self.set(usize::from(Bit::of(number).0));
    }

    /// Sets the bit at a place.
    pub(crate) fn set(&mut self, bit: usize) {
        self.0[bit / 64] |= 1 << (bit % 64);
    }

    /// The places of the bits that are set in both.
    pub(crate) fn common(&self, other: &Self) -> impl Iterator<Item = usize> {
        self.0.iter().zip(&other.0).enumerate().flat_map(|(word, (a, b))| {
            let mut left = a & b;
            std::iter::from_fn(move || {
                let bit = (left != 0).then(|| word * 64 + left.trailing_zeros() as usize);
                left &= left.wrapping_sub(1);
                bit
            })
        })
    }

    /// Whether all of some names may be in it.
    pub(crate) fn holds(&self, names: &[Bit]) -> bool {
        names.iter().all(|name| *name == Bit::NONE || self.0[usize::from(name.0 / 64)] & (1 << (name.0 % 64)) != 0)
    }
}

/// A text as a set of pairs of bytes that stand beside each other, which may take in too many but never too few: no part of the text has
/// another pair. Case does not count.
pub(crate) fn sketch(text: &str) -> u64 {
    let fold = |byte: u8| u32::from(byte | 0x20);
    text.as_bytes().windows(2).fold(0, |set, pair| set | 1 << ((fold(pair[0]) * 31 + fold(pair[1])) % 64))
}

impl Numbers {
    /// Those of a document.
    pub(super) fn of(document: &Document) -> Self {
        let mut numbers = Self {
            names: Default::default(),
            count: 0,
            attributes: FxHashSet::default(),
            elements: Vec::with_capacity(document.count()),
            classes: Vec::with_capacity(document.count()),
            sketches: Vec::with_capacity(document.count()),
            inside: vec![NameSet::default()],
            quirks: document.quirks,
        };
        // Names that were met already are found by what they are, not by their letters.
        let mut met: [FxHashMap<&Name, u32>; 3] = Default::default();
        let mut met_on: FxHashSet<&Name> = FxHashSet::default();
        // Most pages have some hundred classes.
        let classes = document.count().min(512);
        numbers.names[NameOf::Class as usize].reserve(classes);
        met[NameOf::Class as usize].reserve(classes);
        let at = |id: Option<ElementId>| id.map_or(NONE, ElementId::number);
        for element in document.all_ids().map(|id| document.node(id)) {
            let classes = numbers.classes.len();
            let mut number = |numbers: &mut Self, of: NameOf, name| {
                *met[of as usize].entry(name).or_insert_with(|| numbers.add(of, name))
            };
            let name = number(&mut numbers, NameOf::Type, &element.name);
            let id = element.id.as_ref().map_or(NONE, |id| number(&mut numbers, NameOf::Id, id));
            for class in &element.classes {
                let class = number(&mut numbers, NameOf::Class, class);
                numbers.classes.push(class);
            }
            if element.classes.len() > super::FEW {
                numbers.classes[classes..].sort_unstable();
            }
            for attribute in &element.attributes {
                numbers.sketches.push(sketch(&attribute.value));
                if met_on.insert(&attribute.name) {
                    numbers.attributes.insert(Box::from(&*in_lower_case(&attribute.name)));
                }
            }
            let around = element.parent.map_or(0, |p| numbers.names_inside(p.number()));
            numbers.elements.push(Numbered {
                name,
                id,
                parent: at(element.parent),
                previous: at(element.previous),
                position: element.position,
                around,
                inside: 0,
                classes: offset(numbers.classes.len()),
                sketches: offset(numbers.sketches.len()),
            });
        }
        numbers
    }

    /// Which of the sets has the names of an element and of those around it; made where it is not there yet.
    fn names_inside(&mut self, element: u32) -> u32 {
        let of = &self.elements[element as usize];
        if of.inside == 0 {
            let mut names = self.inside[of.around as usize];
            names.add(of.name);
            self.id(element).iter().chain(self.classes(element)).for_each(|name| names.add(*name));
            self.elements[element as usize].inside = offset(self.inside.len());
            self.inside.push(names);
        }
        self.elements[element as usize].inside
    }

    /// The names of the elements around an element, in the same tree.
    pub(crate) fn around(&self, element: u32) -> &NameSet {
        &self.inside[self.elements[element as usize].around as usize]
    }

    /// Gives a name its number.
    fn add(&mut self, of: NameOf, name: &str) -> u32 {
        if let Some(known) = self.get(of, name) {
            return known;
        }
        let number = self.count;
        self.count += 1;
        self.names[of as usize].insert(Box::from(&*self.folded(of, name)), number);
        number
    }

    /// A name in lower case, where case does not count.
    #[inline(always)]
    fn folded<'n>(&self, of: NameOf, name: &'n str) -> std::borrow::Cow<'n, str> {
        if self.quirks || matches!(of, NameOf::Type) { in_lower_case(name) } else { name.into() }
    }

    /// The number of a name; nothing where no element has it.
    #[inline(always)]
    pub(crate) fn get(&self, of: NameOf, name: &str) -> Option<u32> {
        self.names[of as usize].get(&*self.folded(of, name)).copied()
    }

    /// Whether some element has an attribute of this name, in any case.
    pub(crate) fn has_attribute(&self, name: &str) -> bool {
        self.attributes.contains(&*in_lower_case(name))
    }

    /// How many numbers there are.
    pub(crate) fn count(&self) -> usize {
        self.count as usize
    }

    /// The number of an element's name.
    pub(crate) fn name(&self, element: u32) -> u32 {
        self.elements[element as usize].name
    }

    /// The number of its id.
    pub(crate) fn id(&self, element: u32) -> Option<u32> {
        Some(self.elements[element as usize].id).filter(|id| *id != NONE)
    }

    /// The numbers of its classes.
    #[inline(always)]
    pub(crate) fn classes(&self, element: u32) -> &[u32] {
        let (from, to) = self.range(element, |of| of.classes);
        &self.classes[from..to]
    }

    /// Whether it has a class.
    #[inline(always)]
    pub(crate) fn has_class(&self, element: u32, class: u32) -> bool {
        let classes = self.classes(element);
        if classes.len() > super::FEW { classes.binary_search(&class).is_ok() } else { classes.contains(&class) }
    }

    /// The element around it, in the same tree.
    pub(crate) fn parent(&self, element: u32) -> Option<u32> {
        Some(self.elements[element as usize].parent).filter(|parent| *parent != NONE)
    }

    /// The sibling before it.
    pub(crate) fn previous(&self, element: u32) -> Option<u32> {
        Some(self.elements[element as usize].previous).filter(|previous| *previous != NONE)
    }

    /// Its place among its siblings, from 1.
    pub(crate) fn position(&self, element: u32) -> u32 {
        self.elements[element as usize].position
    }

    /// Whether the value of one of its attributes may have a text in it.
    pub(crate) fn may_have_in_value(&self, element: u32, sketch: u64) -> bool {
        sketch == 0 || self.sketches(element).iter().any(|value| value & sketch == sketch)
    }

    /// The values of its attributes as sketches, in their order.
    pub(crate) fn sketches(&self, element: u32) -> &[u64] {
        let (from, to) = self.range(element, |of| of.sketches);
        &self.sketches[from..to]
    }

    /// Where something of an element starts and ends that each element has some of.
    #[inline(always)]
    fn range(&self, element: u32, end: impl Fn(&Numbered) -> u32) -> (usize, usize) {
        let element = element as usize;
        let from = element.checked_sub(1).map_or(0, |before| end(&self.elements[before]));
        (from as usize, end(&self.elements[element]) as usize)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn sets_tell_what_they_have_in_common() {
        let set = |step: u32| {
            let mut set = NameSet::default();
            (0..300).step_by(step as usize).for_each(|number| set.add(number));
            set
        };
        for (a, b) in [(set(1), set(2)), (set(7), set(3)), (set(300), set(299)), (NameSet::default(), set(1))] {
            let both = |place: &usize| {
                let bit = Bit(u16::try_from(*place).unwrap());
                a.holds(&[bit]) && b.holds(&[bit])
            };
            assert!(a.common(&b).eq((0..Bit::COUNT).filter(both)));
        }
    }
}
