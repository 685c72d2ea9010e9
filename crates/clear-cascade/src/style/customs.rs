//! The custom properties of elements, as layers over each other.

use std::collections::BTreeMap;
use std::hash::BuildHasher as _;
use std::rc::Rc;
use std::sync::Arc;

use rustc_hash::{FxBuildHasher, FxHashMap};

use crate::document::Name;
use crate::value::CustomValue;

/// The custom properties of an element: those that it changes, over those of its parent. At the bottom are the initial
/// values of those that are registered.
#[derive(Debug, Default)]
pub(crate) struct Customs {
    /// What is changed here; nothing for the guaranteed-invalid value.
    own: FxHashMap<Name, Option<CustomValue>>,
    /// What that is over.
    under: Option<Arc<Customs>>,
    /// How many are under this one.
    depth: u32,
    /// Those with a value of their own that the children do not inherit.
    pub(super) kept_back: Vec<Name>,
}

/// How many layers there may be over each other before they are made one.
const MOST_LAYERS: u32 = 8;

impl Customs {
    /// Initial values, which all else is over.
    pub(super) fn bottom(own: FxHashMap<Name, Option<CustomValue>>) -> Arc<Self> {
        Arc::new(Self { own, ..Self::default() })
    }

    /// Values over others.
    pub(super) fn over(
        under: &Arc<Self>,
        own: FxHashMap<Name, Option<CustomValue>>,
        kept_back: Vec<Name>,
    ) -> Arc<Self> {
        if under.depth < MOST_LAYERS {
            return Arc::new(Self { own, under: Some(under.clone()), depth: under.depth + 1, kept_back });
        }
        // All but the initial values and those of the root, which are many and stay as they are.
        let mut merged = own;
        let mut rest = under;
        while let Some(next) = rest.under.as_ref().filter(|_| rest.depth > 1) {
            rest.own.iter().for_each(|(name, value)| {
                merged.entry(name.clone()).or_insert_with(|| value.clone());
            });
            rest = next;
        }
        Arc::new(Self { own: merged, under: Some(rest.clone()), depth: rest.depth + 1, kept_back })
    }

    /// The layers, the uppermost first.
    fn layers(&self) -> impl Iterator<Item = &Self> {
        std::iter::successors(Some(self), |layer| layer.under.as_deref())
    }

    /// The value of one.
    #[inline(always)]
    pub(crate) fn get(&self, name: &Name) -> Option<&CustomValue> {
        self.layers().find_map(|layer| layer.own.get(name))?.as_ref()
    }

    /// The initial value of one.
    pub(super) fn initial(&self, name: &Name) -> Option<&CustomValue> {
        self.layers().last()?.own.get(name)?.as_ref()
    }

    /// All that have a value, by name.
    pub(crate) fn all(&self) -> BTreeMap<&Name, &CustomValue> {
        let layers: Vec<&Self> = self.layers().collect();
        let mut all = BTreeMap::new();
        for (name, value) in layers.into_iter().rev().flat_map(|layer| &layer.own) {
            match value {
                Some(value) => all.insert(name, value),
                None => all.remove(name),
            };
        }
        all
    }

    /// Writes all that have a value, in the order of their names; `known` keeps the text of those that many elements share, which are
    /// the most.
    pub(crate) fn write<'c>(
        self: &'c Arc<Self>,
        known: &mut SharedTexts<'c>,
        form: &dyn Fn(&str, &CustomValue, &mut String),
        out: &mut String,
    ) {
        let mut changed: BTreeMap<&Name, Option<&CustomValue>> = BTreeMap::new();
        let mut shared = self;
        while let Some(under) = shared.under.as_ref().filter(|_| shared.depth > 1) {
            for (name, value) in &shared.own {
                changed.entry(name).or_insert(value.as_ref());
            }
            shared = under;
        }
        let shared = known.entry(Arc::as_ptr(shared)).or_insert_with(|| SharedText::of(shared, form));
        let mut done = 0;
        for (name, value) in changed {
            let place = shared.names.binary_search_by(|(other, _)| (*other).cmp(name));
            out.push_str(&shared.text[shared.start(done)..shared.start(place.unwrap_or_else(|next| next))]);
            done = place.map_or_else(|next| next, |at| at + 1);
            value.iter().for_each(|value| form(name, value, out));
        }
        out.push_str(&shared.text[shared.start(done)..]);
    }

    /// Those with another value than with another element, by name, with both values; `known` keeps what was found out.
    pub(super) fn differing<'c>(
        self: &'c Arc<Self>,
        other: &'c Arc<Self>,
        known: &mut Sameness,
    ) -> Vec<DifferingCustom<'c>> {
        let names = Self::differing_names(Some(self), Some(other), known);
        let of = |all: &'c Self, name: &Name| all.layers().find_map(|layer| layer.own.get_key_value(name));
        let both = names.iter().filter_map(|name| {
            let (a, b) = (of(self, name), of(other, name));
            let (name, _) = a.or(b)?;
            let value =
                |found: Option<(&'c Name, &'c Option<CustomValue>)>| found.and_then(|(_, value)| value.as_ref());
            Some((name, value(a), value(b)))
        });
        both.collect()
    }

    /// The names of those that differ: of what is declared in layers of one depth, and further down.
    fn differing_names<'l>(one: Option<&'l Arc<Self>>, two: Option<&'l Arc<Self>>, known: &mut Sameness) -> Rc<[Name]> {
        let pair = (one.map_or(std::ptr::null(), Arc::as_ptr), two.map_or(std::ptr::null(), Arc::as_ptr));
        if pair.0 == pair.1 {
            return Rc::default();
        }
        if let Some(names) = known.differing.get(&pair) {
            return names.clone();
        }
        let upper = one.map(|layer| layer.depth).max(two.map(|layer| layer.depth));
        let is_upper = |layer: &&'l Arc<Self>| Some(layer.depth) == upper;
        let below = |side: Option<&'l Arc<Self>>| match side.filter(is_upper) {
            Some(layer) => layer.under.as_ref(),
            None => side,
        };
        let mut names = Self::differing_names(below(one), below(two), known).to_vec();
        let here = [one, two].into_iter().flatten().filter(is_upper);
        names.extend(here.flat_map(|layer| layer.own.keys().cloned()));
        names.sort_unstable();
        names.dedup();
        names.retain(|name| one.and_then(|all| all.get(name)) != two.and_then(|all| all.get(name)));
        let names: Rc<[Name]> = names.into();
        known.differing.insert(pair, names.clone());
        names
    }

    /// Whether these are the same changes over the very same properties.
    pub(super) fn is(self: &Arc<Self>, other: &Arc<Self>) -> bool {
        let under = || match (&self.under, &other.under) {
            (Some(a), Some(b)) => Arc::ptr_eq(a, b),
            (None, None) => true,
            _ => false,
        };
        Arc::ptr_eq(self, other) || (under() && self.kept_back == other.kept_back && self.own == other.own)
    }

    /// A number that is the same for those that [are](Self::is) the same.
    pub(super) fn hash(&self) -> u64 {
        let text =
            |value: &Option<CustomValue>| value.as_ref().map_or(0, |value| FxBuildHasher.hash_one(&value.written));
        let own = self.own.values().fold(0_u64, |sum, value| sum.wrapping_add(text(value)));
        FxBuildHasher.hash_one((self.under.as_ref().map(Arc::as_ptr), own))
    }

    /// Whether all values are the same as those of another element; `known` keeps what was found out.
    pub(super) fn same_as(self: &Arc<Self>, other: &Arc<Self>, known: &mut Sameness) -> bool {
        if Arc::ptr_eq(self, other) {
            return true;
        }
        let pair = (Arc::as_ptr(self), Arc::as_ptr(other));
        if let Some(same) = known.same.get(&pair) {
            return *same;
        }
        let under = |known: &mut Sameness| match (&self.under, &other.under) {
            (Some(a), Some(b)) => a.same_as(b, known),
            (None, None) => true,
            _ => false,
        };
        let same = (self.own == other.own && under(known)) || self.all() == other.all();
        known.same.insert(pair, same);
        same
    }
}

/// A custom property with its values in two styles; none where it has none.
pub(crate) type DifferingCustom<'c> = (&'c Name, Option<&'c CustomValue>, Option<&'c CustomValue>);

/// Custom properties that elements share, written out.
pub(crate) type SharedTexts<'c> = FxHashMap<*const Customs, SharedText<'c>>;

/// The text of custom properties in the order of their names.
pub(crate) struct SharedText<'c> {
    /// The names, each with the place where its text starts.
    names: Vec<(&'c Name, usize)>,
    /// The texts, one after the other.
    text: String,
}

impl<'c> SharedText<'c> {
    /// That of all that have a value.
    fn of(customs: &'c Customs, form: &dyn Fn(&str, &CustomValue, &mut String)) -> Self {
        let (mut names, mut text) = (Vec::new(), String::new());
        for (name, value) in customs.all() {
            names.push((name, text.len()));
            form(name, value, &mut text);
        }
        Self { names, text }
    }

    /// Where the text of a name starts, by its place; past the last one, where all ends.
    fn start(&self, place: usize) -> usize {
        self.names.get(place).map_or(self.text.len(), |(_, start)| *start)
    }
}

/// Which custom properties of two pages are the same, as far as it is known. Both pages must stay as they are meanwhile.
#[derive(Default)]
pub(crate) struct Sameness {
    /// Whether all are.
    same: FxHashMap<Pair, bool>,
    /// Those that are not, by name.
    differing: FxHashMap<Pair, Rc<[Name]>>,
}

/// The custom properties of two elements.
type Pair = (*const Customs, *const Customs);
