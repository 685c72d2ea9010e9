//! Computed values: every longhand of every element.
//!
//! What comes in: a page's rules and an element whose parent is done. What goes out: a [`Style`], which shares with its
//! parent and with the initial values all that the element does not set. CSS Cascade 5, §4 "Value Processing".

mod adjust;
mod alike;
mod appearance;
mod applies;
mod around;
mod cascaded;
mod compute;
mod custom;
mod customs;
mod entry;
mod function;
mod gather;
mod highlight;
mod making;
mod matched;
mod query;
mod reading;
mod styled;
mod styles;
pub(crate) mod substitution;
#[cfg(test)]
mod tests;
mod typed;
mod winners;

pub(crate) use adjust::blockified;
pub(crate) use applies::applying_to;
pub(crate) use around::{Around, is_generated};
pub(crate) use cascaded::{Cascaded, Said, cascaded};
pub(crate) use customs::{Customs, DifferingCustom, Sameness, SharedTexts};
pub(crate) use entry::{Entry, Outright, Strongest, Subject, Target};
pub(crate) use gather::{Wanted, add_entries, entries_of, is_final};
pub(crate) use highlight::is_kept_under_highlights;
pub(crate) use making::InRuns;
pub(crate) use matched::{Across, Matched, Reached, matched_rules, scoping_roots};
pub(crate) use query::containers_hold;
pub(crate) use reading::Last;
pub(crate) use styles::{Before, Styles};
pub(crate) use typed::names_in;
pub(crate) use winners::{
    chosen_branch, said, said_for_custom, substituted_slice, substituted_text, types_depend, types_go_by,
};

use std::hash::{Hash as _, Hasher as _};
use std::sync::{Arc, LazyLock, OnceLock};

use rustc_hash::FxHasher;

use crate::property::{Flow, Longhands, PropertyId, id};
use crate::value::{Context, Value, color::Color};

/// How many longhands share a chunk.
const CHUNK: usize = 16;

/// The values of some inherited longhands that stand together in the table.
#[derive(Debug)]
struct Chunk {
    /// The values.
    values: [Value; CHUNK],
    /// A number that is the same for the same values, once someone asked for it.
    hash: OnceLock<u64>,
}

impl Chunk {
    /// Some values.
    fn of(values: [Value; CHUNK]) -> Self {
        Self { values, hash: OnceLock::new() }
    }

    /// Sets one of them.
    fn set(&mut self, index: usize, value: Value) {
        self.values[index] = value;
        self.hash.take();
    }

    /// A number that is the same for the same values.
    fn hash(&self) -> u64 {
        *self.hash.get_or_init(|| {
            let mut hasher = FxHasher::default();
            self.values.iter().for_each(|value| value.stir(&mut hasher));
            hasher.finish()
        })
    }
}

impl Clone for Chunk {
    /// The same values, mostly to set one of them.
    fn clone(&self) -> Self {
        Self::of(self.values.clone())
    }
}

impl PartialEq for Chunk {
    fn eq(&self, other: &Self) -> bool {
        self.values == other.values
    }
}

/// The computed values of an element or pseudo-element.
#[derive(Clone, Debug)]
pub(crate) struct Style {
    /// What those have of it that inherit from it; that of the parent, as long as nothing in it is changed.
    heritage: Arc<Heritage>,
    /// Of the longhands that do not inherit those that differ from their initial value, in the order of the table.
    reset: Vec<(PropertyId, Value)>,
    /// Bits of all that are among them, each of which stands for several longhands.
    present: u64,
    /// How it treats the boxes of its children.
    inside: Inside,
    /// Whether it took something from its parent that is not passed on to all.
    asks_parent: bool,
    /// Whether it is a highlight under which text keeps its colour.
    keeps_color: bool,
}

/// What is passed on to all that inherit from an element, and to its pseudo-elements.
#[derive(Clone, Debug)]
pub(crate) struct Heritage {
    /// The inherited longhands; the list and its chunks are shared as long as nothing in them is set.
    inherited: Arc<Vec<Arc<Chunk>>>,
    /// Custom properties.
    pub(crate) custom: Arc<Customs>,
    /// What relative units are relative to.
    pub(crate) context: Context,
    /// How text flows.
    pub(crate) flow: Flow,
    /// Whether a dark colour scheme is used.
    pub(crate) dark: bool,
    /// How the font size came to be.
    font: compute::FontMemory,
    /// The colour of the page's `body`, inside of it in quirks mode: what tables have (Quirks Mode Standard, §3.8).
    body_color: Option<Value>,
}

/// What an element does to the boxes of its children.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash)]
struct Inside {
    /// Whether they are blockified, as in flex and grid containers.
    blockifies: bool,
    /// Whether they are inlinified, as in ruby.
    inlinifies: bool,
}

impl Heritage {
    /// Whether the same is passed on.
    fn is(&self, other: &Self) -> bool {
        let chunks = || self.inherited.iter().zip(&*other.inherited).all(|(a, b)| Arc::ptr_eq(a, b) || a == b);
        self.context == other.context
            && (self.flow, self.dark, self.font) == (other.flow, other.dark, other.font)
            && self.body_color == other.body_color
            && self.custom.is(&other.custom)
            && (Arc::ptr_eq(&self.inherited, &other.inherited) || chunks())
    }

    /// A number that is the same where the same is passed on.
    fn hash(&self) -> u64 {
        let mut hasher = FxHasher::default();
        self.inherited.iter().for_each(|chunk| chunk.hash().hash(&mut hasher));
        (self.context.font_size.to_bits(), self.context.line_height.to_bits()).hash(&mut hasher);
        Arc::as_ptr(&self.custom).hash(&mut hasher);
        hasher.finish()
    }
}

impl std::ops::Deref for Style {
    type Target = Heritage;

    fn deref(&self) -> &Heritage {
        &self.heritage
    }
}

/// The initial values, computed, by longhand.
static INITIAL: LazyLock<Vec<Value>> = LazyLock::new(|| PropertyId::longhands().map(compute::initial).collect());

/// The longhands that do not inherit and of which the initial value shows the element's colour.
static BY_COLOR: LazyLock<Vec<PropertyId>> = LazyLock::new(|| {
    let open = |p: &PropertyId| !p.inherits() && !compute::is_plain(*p, &INITIAL[p.index()]);
    PropertyId::longhands().filter(open).collect()
});

/// Those of the inherited longhands, as elements share them.
static INITIAL_INHERITED: LazyLock<Arc<Vec<Arc<Chunk>>>> = LazyLock::new(|| {
    let value = |i: usize| INITIAL[..PropertyId::INHERITED].get(i).cloned().unwrap_or(Value::Delim(' '));
    let chunks = 0..PropertyId::INHERITED.div_ceil(CHUNK);
    Arc::new(chunks.map(|chunk| Arc::new(Chunk::of(std::array::from_fn(|i| value(chunk * CHUNK + i))))).collect())
});

impl Style {
    /// Initial values throughout.
    pub(crate) fn initial() -> Self {
        Self::start(None)
    }

    /// Nothing but what is passed on.
    fn of(heritage: Arc<Heritage>) -> Self {
        Self {
            heritage,
            reset: Vec::new(),
            present: 0,
            inside: Inside::default(),
            asks_parent: false,
            keeps_color: false,
        }
    }

    /// What initial values are computed on: no values at all.
    fn bare() -> Self {
        Self::of(Arc::new(Heritage {
            inherited: Arc::default(),
            custom: Arc::default(),
            context: Context::default(),
            flow: Flow::default(),
            dark: false,
            font: compute::FontMemory::default(),
            body_color: None,
        }))
    }

    /// Where an element starts from: its parent's inherited values, initial values for the rest.
    fn start(parent: Option<&Style>) -> Self {
        if let Some(parent) = parent {
            return Self { inside: parent.inside, ..Self::of(parent.heritage.clone()) };
        }
        let mut style = Self::bare();
        style.change().inherited = INITIAL_INHERITED.clone();
        style
    }

    /// The style of a box that nothing is declared for and that is not there for layout (`display: contents`).
    fn boxed(&self) -> Self {
        Self::start(Some(self))
    }

    /// What is passed on, to be changed: from here on it is no longer the parent's.
    fn change(&mut self) -> &mut Heritage {
        Arc::make_mut(&mut self.heritage)
    }

    /// The same with other custom properties.
    fn with_custom(&self, custom: Arc<Customs>) -> Self {
        let mut style = self.clone();
        style.change().custom = custom;
        style
    }

    /// Whether it is a highlight under which text keeps its colour.
    pub(crate) fn keeps_color(&self) -> bool {
        self.keeps_color
    }

    /// The initial value of a longhand, computed.
    pub(crate) fn initial_of(property: PropertyId) -> &'static Value {
        &INITIAL[property.index()]
    }

    /// Whether every longhand has the value that it has in another.
    pub(crate) fn has_values_of(&self, other: &Self) -> bool {
        let inherited = || self.inherited.iter().zip(other.inherited.iter()).all(|(a, b)| Arc::ptr_eq(a, b) || a == b);
        self.reset == other.reset && (Arc::ptr_eq(&self.inherited, &other.inherited) || inherited())
    }

    /// The computed value of a longhand; colours may still be `currentcolor`.
    #[inline(always)]
    pub(crate) fn get(&self, property: PropertyId) -> &Value {
        let index = property.index();
        if property.inherits() {
            return &self.inherited[index / CHUNK].values[index % CHUNK];
        }
        if self.present & Self::bit(index) == 0 {
            return &INITIAL[index];
        }
        self.place(property).map_or_else(|_| &INITIAL[index], |at| &self.reset[at].1)
    }

    /// The bit that says whether a longhand may be among those that are not initial.
    fn bit(index: usize) -> u64 {
        1 << (index % 64)
    }

    /// The value of a longhand where it is the very one of many elements; nothing where only this one has it.
    pub(crate) fn shared(&self, property: PropertyId) -> Option<&Value> {
        (property.inherits() || self.place(property).is_err()).then(|| self.get(property))
    }

    /// Where a longhand that does not inherit is kept, or would be.
    #[inline(always)]
    fn place(&self, property: PropertyId) -> Result<usize, usize> {
        // They mostly come in order.
        match self.reset.last() {
            Some((last, _)) if *last < property => Err(self.reset.len()),
            _ => self.reset.binary_search_by_key(&property, |(p, _)| *p),
        }
    }

    /// Makes room for what is set.
    fn expect(&mut self, set: &Longhands) {
        self.reset.reserve_exact(set.reset_count());
    }

    /// Gives room back that nothing was set in.
    fn settle(&mut self) {
        if self.reset.capacity() > 2 * self.reset.len() {
            self.reset.shrink_to_fit();
        }
    }

    /// Sets a longhand.
    #[inline(always)]
    fn set(&mut self, property: PropertyId, value: Value) {
        let index = property.index();
        if property.inherits() {
            if self.inherited[index / CHUNK].values[index % CHUNK] != value {
                let chunk = &mut Arc::make_mut(&mut self.change().inherited)[index / CHUNK];
                Arc::make_mut(chunk).set(index % CHUNK, value);
            }
            return;
        }
        match (self.place(property), value == INITIAL[index]) {
            (Ok(at), false) => self.reset[at].1 = value,
            (Ok(at), true) => {
                self.reset.remove(at);
            }
            (Err(at), false) => {
                self.present |= Self::bit(index);
                self.reset.insert(at, (property, value));
            }
            (Err(_), true) => {}
        }
    }

    /// The physical longhands that may show another text than in another style.
    pub(crate) fn differing(&self, other: &Self) -> Longhands {
        let recolored = self.get(id::COLOR) != other.get(id::COLOR);
        let mut found = Longhands::default();
        let mut check = |p: PropertyId| {
            let value = self.get(p);
            if value != other.get(p) {
                found.add(p);
                // What is shown of a width depends on whether there is a line.
                compute::LINES.iter().filter(|(_, line)| *line == p).for_each(|(width, _)| found.add(*width));
            } else if recolored && !compute::is_plain(p, value) {
                found.add(p);
            }
        };
        for (chunk, (a, b)) in self.inherited.iter().zip(&*other.inherited).enumerate() {
            if recolored || !Arc::ptr_eq(a, b) {
                let all = PropertyId::longhands().skip(chunk * CHUNK).take(CHUNK);
                all.filter(|p| p.inherits()).for_each(&mut check);
            }
        }
        self.reset.iter().chain(&other.reset).for_each(|(p, _)| check(*p));
        if recolored {
            BY_COLOR.iter().copied().for_each(check);
        }
        found
    }

    /// The custom properties that differ from those of another style, by name, with both values.
    pub(crate) fn differing_customs<'c>(&'c self, other: &'c Self, known: &mut Sameness) -> Vec<DifferingCustom<'c>> {
        self.custom.differing(&other.custom, known)
    }

    /// Whether all values are the same as those of another style.
    pub(crate) fn same_as(&self, other: &Self, known: &mut Sameness) -> bool {
        let chunks = || self.inherited.iter().zip(&*other.inherited).all(|(a, b)| Arc::ptr_eq(a, b) || a == b);
        let inherited = || Arc::ptr_eq(&self.inherited, &other.inherited) || chunks();
        self.flow == other.flow
            && self.dark == other.dark
            && self.reset == other.reset
            && inherited()
            && self.custom.same_as(&other.custom, known)
    }

    /// Whether this and another style are the same to all that comes of them, what only elements inside go by included.
    fn is(&self, other: &Self) -> bool {
        self.reset == other.reset
            && (self.inside, self.keeps_color) == (other.inside, other.keeps_color)
            && self.heritage.is(&other.heritage)
    }

    /// Whether a longhand has its initial value.
    pub(crate) fn is_initial(&self, property: PropertyId) -> bool {
        let may_differ = property.inherits() || self.present & Self::bit(property.index()) != 0;
        !may_differ || *self.get(property) == INITIAL[property.index()]
    }

    /// The element's colour.
    pub(crate) fn color(&self) -> Color {
        match self.get(id::COLOR) {
            Value::Color(color) => color.resolve(None).unwrap_or(Color::rgb(0.0, 0.0, 0.0, 1.0)),
            _ => Color::rgb(0.0, 0.0, 0.0, 1.0),
        }
    }

    /// The value of a longhand as text, the way `getComputedStyle()` gives computed values: flow-relative longhands as
    /// the physical one they stand for, colours worked out.
    pub(crate) fn text(&self, property: PropertyId) -> String {
        let property = self.flow.physical(property);
        compute::output(self, property, self.get(property)).text()
    }

    /// The same text where it is the same on every element that shares the value; nothing where it depends on the element.
    pub(crate) fn plain_text(&self, property: PropertyId) -> Option<String> {
        compute::plain_text(property, self.get(property))
    }
}
