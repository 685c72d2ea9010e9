//! Sets of longhands.

use super::PropertyId;

/// How many words hold a bit for each longhand.
const WORDS: usize = PropertyId::COUNT.div_ceil(64);

/// A set of longhands, a bit each.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub(crate) struct Longhands([u64; WORDS]);

impl Longhands {
    /// The word and the bit of a longhand.
    fn bit(property: PropertyId) -> (usize, u64) {
        (property.index() / 64, 1 << (property.index() % 64))
    }

    /// Whether a longhand is in it.
    pub(crate) fn has(&self, property: PropertyId) -> bool {
        let (word, bit) = Self::bit(property);
        self.0[word] & bit != 0
    }

    /// Adds a longhand.
    pub(crate) fn add(&mut self, property: PropertyId) {
        let (word, bit) = Self::bit(property);
        self.0[word] |= bit;
    }

    /// Takes a longhand out.
    pub(crate) fn remove(&mut self, property: PropertyId) {
        let (word, bit) = Self::bit(property);
        self.0[word] &= !bit;
    }

    /// Whether all of some longhands are in it.
    pub(crate) fn has_all(&self, others: &[PropertyId]) -> bool {
        others.iter().all(|p| self.has(*p))
    }

    /// All in it, in the order of the table.
    pub(crate) fn iter(&self) -> impl Iterator<Item = PropertyId> + '_ {
        self.0.iter().enumerate().flat_map(|(word, bits)| {
            let rests = std::iter::successors(Some(*bits), |rest| Some(rest & rest.wrapping_sub(1)));
            rests
                .take_while(|rest| *rest != 0)
                .filter_map(move |rest| u16::try_from(word * 64 + rest.trailing_zeros() as usize).ok().map(PropertyId))
        })
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_set_gives_back_what_was_put_in() {
        let some: Vec<PropertyId> = PropertyId::longhands().filter(|p| p.index() % 5 == 3 || p.index() > 590).collect();
        let mut set = Longhands::default();
        some.iter().rev().for_each(|p| set.add(*p));
        assert_eq!(set.iter().collect::<Vec<_>>(), some);
        assert!(set.has_all(&some) && !set.has_all(&[some[0], PropertyId(0)]));
        some.iter().skip(1).for_each(|p| set.remove(*p));
        assert_eq!(set.iter().collect::<Vec<_>>(), some[..1]);
    }
}
