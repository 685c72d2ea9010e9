//! Sets of longhands.

use std::sync::LazyLock;

use rustc_hash::FxHashMap;

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

    /// Adds all of another set.
    pub(crate) fn add_all(&mut self, others: &Self) {
        self.0.iter_mut().zip(others.0).for_each(|(word, other)| *word |= other);
    }

    /// Takes a longhand out.
    pub(crate) fn remove(&mut self, property: PropertyId) {
        let (word, bit) = Self::bit(property);
        self.0[word] &= !bit;
    }

    /// How many of its longhands do not inherit, which are the last in the table.
    pub(crate) fn reset_count(&self) -> usize {
        let (first, rest) = (PropertyId::INHERITED / 64, PropertyId::INHERITED % 64);
        let words = self.0[first + 1..].iter().map(|word| word.count_ones());
        ((self.0[first] >> rest).count_ones() + words.sum::<u32>()) as usize
    }

    /// Whether all of another set are in it.
    pub(crate) fn has_all(&self, others: &Self) -> bool {
        self.0.iter().zip(others.0).all(|(word, other)| other & !word == 0)
    }

    /// Whether some of another set are in it.
    pub(crate) fn has_some(&self, others: &Self) -> bool {
        self.0.iter().zip(others.0).any(|(word, other)| other & word != 0)
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

/// For each longhand, those of its logical property group; itself alone if it has none.
static RELATIVES: LazyLock<Vec<Longhands>> = LazyLock::new(|| {
    let mut groups: FxHashMap<&str, Longhands> = FxHashMap::default();
    for longhand in PropertyId::longhands() {
        groups.entry(longhand.row().group()).or_default().add(longhand);
    }
    let of = |longhand: PropertyId| match longhand.row().group() {
        "" => std::iter::once(longhand).collect(),
        group => groups.get(group).copied().unwrap_or_default(),
    };
    PropertyId::longhands().map(of).collect()
});

/// The longhands that each shorthand sets, in the order of the table, those included that it only resets.
static OF_SHORTHANDS: LazyLock<Vec<Longhands>> = LazyLock::new(|| {
    let rows = &super::ROWS[PropertyId::COUNT..];
    rows.iter().map(|row| row.longhands().iter().chain(row.resets()).copied().collect()).collect()
});

impl FromIterator<PropertyId> for Longhands {
    fn from_iter<I: IntoIterator<Item = PropertyId>>(properties: I) -> Self {
        let mut set = Self::default();
        properties.into_iter().for_each(|p| set.add(p));
        set
    }
}

impl PropertyId {
    /// The longhands that a shorthand sets, those included that it only resets; nothing for a longhand. Of `all` they are none: it has
    /// no longhands in the table.
    pub(crate) fn all_set(self) -> Option<&'static Longhands> {
        OF_SHORTHANDS.get(self.index().checked_sub(Self::COUNT)?)
    }

    /// The longhands that may set what a longhand sets, by its name or by a flow-relative or physical one: those of its logical
    /// property group (CSS Logical 1, §4).
    pub(crate) fn relatives(self) -> Longhands {
        RELATIVES.get(self.index()).copied().unwrap_or_default()
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_set_gives_back_what_was_put_in() {
        let some: Vec<PropertyId> = PropertyId::longhands().filter(|p| p.index() % 5 == 3 || p.index() > 590).collect();
        let mut set: Longhands = some.iter().rev().copied().collect();
        assert_eq!(set.iter().collect::<Vec<_>>(), some);
        let of = |list: &[PropertyId]| list.iter().copied().collect::<Longhands>();
        assert!(set.has_all(&of(&some[2..])) && !set.has_all(&of(&[some[0], PropertyId(0)])));
        assert!(set.has_some(&of(&[some[1], PropertyId(0)])) && !set.has_some(&of(&[PropertyId(0)])));
        assert_eq!(set.reset_count(), some.iter().filter(|p| !p.inherits()).count());
        set.remove(some[0]);
        assert_eq!(set.iter().collect::<Vec<_>>(), some[1..]);
    }
}
