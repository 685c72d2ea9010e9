//! Computed values: every longhand of every element.
//!
//! What comes in: a page's rules and an element whose parent is done. What goes out: a [`Style`], which shares with its
//! parent and with the initial values all that the element does not set. CSS Cascade 5, §4 "Value Processing".

mod adjust;
mod alike;
mod appearance;
mod applies;
mod cascaded;
mod compute;
mod custom;
mod customs;
mod entry;
mod function;
mod gather;
mod highlight;
mod matched;
mod query;
mod reading;
mod styled;
pub(crate) mod substitution;
#[cfg(test)]
mod tests;
mod typed;
mod winners;

pub(crate) use adjust::blockified;
pub(crate) use applies::applying_to;
pub(crate) use cascaded::{Cascaded, Said, cascaded};
pub(crate) use customs::{Customs, DifferingCustom, Sameness, SharedTexts};
pub(crate) use entry::{Entry, Outright, Strongest, Subject, Target};
pub(crate) use gather::{Wanted, add_entries, entries_of, is_final};
pub(crate) use highlight::is_kept_under_highlights;
pub(crate) use matched::{Across, Matched, Reached, matched_rules, scoping_roots};
pub(crate) use query::containers_hold;
pub(crate) use reading::{Last, Readings};
pub(crate) use typed::names_in;
pub(crate) use winners::{
    chosen_branch, compute_style, said, said_for_custom, substituted_slice, substituted_text, types_depend, types_go_by,
};

use std::borrow::Cow;
use std::hash::{Hash as _, Hasher as _};
use std::sync::{Arc, LazyLock};

use rustc_hash::{FxHashMap, FxHasher};
use smallvec::SmallVec;

use self::alike::{Alike, Key};
use self::matched::matched_rules_for;
use self::styled::{OfPseudo, StyledElements};
use crate::cascade::Origin;
use crate::document::{Element, ElementId, Name};
use crate::page::Page;
use crate::property::{Flow, Longhands, PropertyId, id};
use crate::selector::{Matcher, PseudoElement, There};
use crate::value::{Context, CustomValue, Value, color::Color};

/// How many longhands share a chunk.
const CHUNK: usize = 16;

/// The values of some inherited longhands that stand together in the table.
type Chunk = [Value; CHUNK];

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
        for (chunk, initial) in self.inherited.iter().zip(INITIAL_INHERITED.iter()) {
            match Arc::ptr_eq(chunk, initial) {
                true => 0_u8.hash(&mut hasher),
                false => chunk.iter().for_each(|value| value.stir(&mut hasher)),
            }
        }
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
    Arc::new(chunks.map(|chunk| Arc::new(std::array::from_fn(|i| value(chunk * CHUNK + i)))).collect())
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
    pub(crate) fn get(&self, property: PropertyId) -> &Value {
        let index = property.index();
        if property.inherits() {
            return &self.inherited[index / CHUNK][index % CHUNK];
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
    fn set(&mut self, property: PropertyId, value: Value) {
        let index = property.index();
        if property.inherits() {
            if self.inherited[index / CHUNK][index % CHUNK] != value {
                let chunk = &mut Arc::make_mut(&mut self.change().inherited)[index / CHUNK];
                Arc::make_mut(chunk)[index % CHUNK] = value;
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
        *self.get(property) == INITIAL[property.index()]
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

/// The computed values of elements, as far as they are known: they come into being when they are first asked for.
#[derive(Clone, Debug, Default)]
pub(crate) struct Styles {
    /// By element.
    elements: StyledElements,
    /// What was known before a trial.
    before: Option<Before>,
    /// The custom properties of elements where they are known before the rest.
    customs: FxHashMap<ElementId, Arc<Customs>>,
    /// What declarations with `var()` came to.
    pub(crate) readings: Arc<Readings>,
    /// Values that others may share.
    alike: Alike,
}

/// The computed values of the elements of a page before a trial that leaves the elements as they are.
#[derive(Clone, Debug)]
pub(crate) struct Before {
    /// The values, as far as they are known.
    pub(crate) styles: Arc<Styles>,
    /// By element, whether the trial changes what is declared for it, or may.
    pub(crate) reached: Vec<bool>,
}

impl Styles {
    /// Nothing known of so many elements, but what declarations came to.
    pub(crate) fn unknown(count: usize, readings: Arc<Readings>) -> Self {
        Self { elements: StyledElements::unknown(count), readings, ..Self::default() }
    }

    /// Takes the custom properties of some elements to be what they are in others.
    pub(crate) fn with_customs(mut self, elements: &[ElementId], others: &Self) -> Self {
        let known = elements.iter().filter_map(|id| Some((*id, others.get(*id)?.custom.clone())));
        self.customs.extend(known);
        self
    }

    /// Takes over, where elements are asked for, what was known of those that a trial does not reach.
    pub(crate) fn take_over(&mut self, before: Before) {
        self.before = Some(before);
    }

    /// By element, whether a trial reaches it; nothing where nothing is taken over from these values.
    pub(crate) fn reached(&self, from: &Arc<Self>) -> Option<&[bool]> {
        self.before.as_ref().filter(|before| Arc::ptr_eq(&before.styles, from)).map(|before| &*before.reached)
    }

    /// Takes an element over that a trial does not reach: whether that can be done.
    fn taken_over(&self, page: &Page, id: ElementId) -> bool {
        let Some(before) = self.before.as_ref().filter(|b| !b.reached[id.index()]) else { return false };
        let same = |e: ElementId| self.are(e, &before.styles, e) || self.passes_on_as(&before.styles, page, (e, id));
        if page.document.flat_parent(id).is_none_or(same) && self.highlights_as(&before.styles, page, id) {
            self.adopt(id, &before.styles);
        }
        !self.elements.lack(id)
    }

    /// Whether an element gives a child, which is declared the same in both, all that the child had from it in others: by what decides
    /// what is alike (see `alike.rs`).
    fn passes_on_as(&self, others: &Self, page: &Page, (parent, child): (ElementId, ElementId)) -> bool {
        let (Some(own), Some(other), Some(known)) = (self.get(parent), others.get(parent), others.get(child)) else {
            return false;
        };
        !known.asks_parent
            && own.inside == other.inside
            && own.get(id::JUSTIFY_ITEMS) == other.get(id::JUSTIFY_ITEMS)
            && own.heritage.is(&other.heritage)
            && matches!(Around::of(page, child), Around::Parent)
    }

    /// The values of an element.
    pub(crate) fn get(&self, id: ElementId) -> Option<&Arc<Style>> {
        self.elements.get(id)?.own.get()
    }

    /// The pseudo-elements that rules aim at on an element and that may be there to be styled.
    pub(crate) fn pseudos(&self, id: ElementId) -> &[OfPseudo] {
        self.elements.get(id).and_then(|s| s.pseudos.get()).map_or(&[], |s| s)
    }

    /// The values of an element or of a pseudo-element that may be there to be styled.
    pub(crate) fn of(&self, id: ElementId, pseudo: Option<&PseudoElement>) -> Option<&Arc<Style>> {
        match pseudo {
            None => self.get(id),
            Some(name) => self.pseudos(id).iter().find(|(n, _)| n == name).map(|(_, s)| s),
        }
    }

    /// Whether the values of an element, its pseudo-elements included, are the very ones of an element of another page.
    pub(crate) fn are(&self, id: ElementId, others: &Self, other: ElementId) -> bool {
        self.elements.get(id).zip(others.elements.get(other)).is_some_and(|(own, other)| own.is(other))
    }

    /// Takes over what others know of an element.
    pub(crate) fn adopt(&self, id: ElementId, others: &Self) {
        let (Some(place), Some(known)) = (self.elements.place(id), others.elements.get(id)) else { return };
        if let (Some(own), Some(pseudos)) = (known.own.get(), known.pseudos.get()) {
            place.own.get_or_init(|| own.clone());
            place.pseudos.get_or_init(|| pseudos.clone());
        }
    }

    /// Sees to it that an element is known, and all that it inherits from, from the declarations that are wanted.
    pub(crate) fn ensure(&self, page: &Page, matcher: &Matcher<'_>, id: ElementId, wanted: Wanted<'_>) {
        let unknown = |e: &ElementId| self.elements.lack(*e);
        if !unknown(&id) {
            return;
        }
        let around = page.document.flat_lineage(id).chain([page.document.root()]);
        let mut open: SmallVec<[ElementId; 4]> = around.take_while(unknown).collect();
        while let Some(next) = open.pop() {
            if unknown(&next) {
                self.compute(page, next, || reaching(page, matcher, next), wanted);
            }
        }
    }

    /// The same of many elements, best in the order of the page. The rules that take them are found for all of them before the first is
    /// computed: a processor has the code for the one at hand, or for the other, and not for both in turn.
    pub(crate) fn ensure_all(&self, page: &Page, matcher: &Matcher<'_>, ids: impl Iterator<Item = ElementId>) {
        let ensure = |id: ElementId| self.ensure(page, matcher, id, Wanted::Effective);
        // Of a trial few are computed, and which of them is told one by one.
        if self.before.is_some() {
            return ids.for_each(ensure);
        }
        ensure(page.document.root());
        let unknown = ids.filter(|id| self.elements.lack(*id));
        let all: Vec<_> = unknown.map(|id| (id, reaching(page, matcher, id))).collect();
        for (id, matched) in all {
            page.document.flat_parent(id).into_iter().for_each(ensure);
            if self.elements.lack(id) {
                self.compute(page, id, || matched, Wanted::Effective);
            }
        }
    }

    /// Computes an element, whose parent is known, and those pseudo-elements that may be there to be styled.
    fn compute<'p>(&self, page: &'p Page, id: ElementId, find: impl FnOnce() -> Vec<Matched<'p>>, wanted: Wanted<'_>) {
        let Some(place) = self.elements.place(id) else { return };
        if self.taken_over(page, id) {
            return;
        }
        // What comes out as it was is shared, so that those inside can be taken over.
        let known = self.before.as_ref().and_then(|b| b.styles.elements.get(id));
        let shared = |style: Arc<Style>, was: Option<&Arc<Style>>| match was {
            Some(was) if was.is(&style) => was.clone(),
            _ => style,
        };
        let element = page.document.node(id);
        let (matched, aimed): (Vec<_>, Vec<_>) = find().into_iter().partition(|m| m.pseudo.is_none());
        let was = known.and_then(|k| k.own.get());
        let own = place.own.get_or_init(|| shared(self.of_rules(page, (id, None), &matched, wanted), was));
        let may_be =
            |name: &PseudoElement, content: &dyn Fn() -> bool| may_be_there(name.there(), own, element, content);
        // Few are there, each of which many rules may aim at.
        let mut names: SmallVec<[&PseudoElement; 8]> = SmallVec::new();
        let is_told = |m: &Matched<'_>, name: &PseudoElement| {
            !name.there().waits()
                || name.is_highlight()
                || page.rules[m.rule as usize].within.origin != Origin::Defaults
        };
        for name in aimed.iter().filter_map(|m| m.pseudo.filter(|name| is_told(m, name))) {
            if !names.iter().any(|known| std::ptr::eq(*known, name)) && may_be(name, &|| true) {
                names.push(name);
            }
        }
        names.retain(|name| {
            may_be(name, &|| aimed.iter().any(|m| m.pseudo == Some(*name) && page.gives_content(m.rule)))
        });
        names.sort_unstable();
        names.dedup();
        let pseudos = names.into_iter().map(|name| {
            let was = known.and_then(|k| k.pseudos.get()?.iter().find(|(n, _)| n == name)).map(|(_, s)| s);
            let matched: SmallVec<[Matched<'_>; 8]> =
                aimed.iter().filter(|m| m.pseudo == Some(name)).copied().collect();
            (name.clone(), shared(self.of_rules(page, (id, Some(name)), &matched, wanted), was))
        });
        place.pseudos.get_or_init(|| pseudos.collect());
    }

    /// The values of an element whose parent is known, or of a pseudo-element of one that is known itself, from the rules that
    /// take it and no other; shared with others that are alike.
    fn of_rules<'p>(
        &self,
        page: &'p Page,
        (id, pseudo): (ElementId, Option<&'p PseudoElement>),
        matched: &'p [Matched<'p>],
        wanted: Wanted<'_>,
    ) -> Arc<Style> {
        let custom = self.customs.get(&id).filter(|_| pseudo.is_none());
        let plain = matches!(wanted, Wanted::Effective) && custom.is_none() && self.alike.pays();
        let key = if plain { Key::of(self, page, (id, pseudo), matched) } else { None };
        if let Some(style) = key.as_ref().and_then(|key| self.alike.get(key)) {
            return style;
        }
        let entries = entries_of(page, self, id, matched, pseudo, wanted);
        let mut style = self.compute_from(page, id, pseudo, &entries, custom);
        if plain {
            self.alike.share(&mut style.heritage, self.kept_parent(page, id, pseudo).map(|p| &p.heritage));
        }
        // A highlight is mostly the one around it: being that very one, it is so for those inside as well.
        let around = pseudo.filter(|name| name.is_highlight()).and_then(|name| self.highlight_around(page, id, name));
        let style = around.filter(|around| around.is(&style)).cloned().unwrap_or_else(|| Arc::new(style));
        if let Some(key) = key.filter(|_| !style.asks_parent && !alike::go_by_attributes(page, &entries)) {
            self.alike.keep(&key, style.clone());
        }
        style
    }

    /// The values of a pseudo-element of an element that is known, whether it is there or not.
    pub(crate) fn of_pseudo(&self, page: &Page, id: ElementId, pseudo: &PseudoElement, wanted: Wanted<'_>) -> Style {
        let matched = matched_rules(page, &page.matcher(), id);
        let entries = entries_of(page, self, id, &matched, Some(pseudo), wanted);
        self.compute_from(page, id, Some(pseudo), &entries, None)
    }

    /// The values of an element whose parent is known, or of a pseudo-element of one that is known itself, from its
    /// declarations; custom properties may be known already.
    pub(crate) fn compute_from(
        &self,
        page: &Page,
        id: ElementId,
        pseudo: Option<&PseudoElement>,
        entries: &[Entry<'_>],
        custom: Option<&Arc<Customs>>,
    ) -> Style {
        let subject = Subject { page, readings: &self.readings, element: id, pseudo, custom };
        let parent = self.parent_of(page, id, pseudo);
        let root = parent.as_ref().and(self.get(page.document.root()));
        let under = self.get(id).filter(|_| pseudo.is_some_and(PseudoElement::is_highlight));
        compute_style(&subject, entries, (parent.as_deref(), under.map(|u| &**u)), root.map(|r| &**r))
    }

    /// One custom property of an element or pseudo-element whose style is known, had it only these declarations.
    pub(crate) fn custom_from(
        &self,
        subject: &Subject<'_>,
        entries: &[Entry<'_>],
        style: &Style,
        name: &Name,
    ) -> Option<CustomValue> {
        let parent = self.parent_of(subject.page, subject.element, subject.pseudo);
        custom::resolve_one(subject, entries, parent.as_deref(), style, name)
    }

    /// The values that an element, or a pseudo-element of one that is known, inherits from.
    fn parent_of(&self, page: &Page, id: ElementId, pseudo: Option<&PseudoElement>) -> Option<Cow<'_, Style>> {
        match pseudo {
            Some(name) if name.is_highlight() => {
                let around = self.highlight_around(page, id, name).map(|a| &**a);
                let parent = page.document.flat_parent(id).filter(|parent| self.of(*parent, Some(name)).is_some());
                let parent = parent.and_then(|parent| self.get(parent)).map(|p| &**p);
                self.get(id).map(|own| Cow::Owned(own.highlighted(name, around, parent)))
            }
            Some(_) => self.get(id).map(|own| Cow::Borrowed(&**own)),
            None => self.inherits_from(page, id),
        }
    }

    /// The same where they are kept as long as this is.
    fn kept_parent(&self, page: &Page, id: ElementId, pseudo: Option<&PseudoElement>) -> Option<&Style> {
        match self.parent_of(page, id, pseudo)? {
            Cow::Borrowed(style) => Some(style),
            Cow::Owned(_) => None,
        }
    }

    /// The values that an element inherits from: those of its parent, or of a box of the browser's own between the two.
    pub(crate) fn inherits_from(&self, page: &Page, id: ElementId) -> Option<Cow<'_, Style>> {
        let outer = page.document.flat_parent(id)?;
        let style = self.get(outer)?;
        let around = Around::of(page, id);
        Some(match (&around, around.pseudo().and_then(|name| self.of(outer, Some(name)))) {
            (Around::Parent, _) => Cow::Borrowed(&**style),
            (_, Some(of_box)) => Cow::Borrowed(&**of_box),
            (Around::Solid, None) => Cow::Owned(Style { inside: Inside::default(), ..style.boxed() }),
            (_, None) => Cow::Owned(style.boxed()),
        })
    }
}

/// The rules that take an element, and those that take pseudo-elements of it which it may have: most of these are for such that are
/// never there, or not on elements of this kind.
fn reaching<'p>(page: &'p Page, matcher: &Matcher<'_>, id: ElementId) -> Vec<Matched<'p>> {
    let element = page.document.node(id);
    matched_rules_for(page, matcher, id, |there| there.may_be_on(element))
}

/// Elements whose contents browsers put into a box of their own, and whether that is there for layout.
const BOXING: [(&str, bool); 4] = [("optgroup", false), ("option", true), ("marquee", true), ("object", false)];

/// What is straight around an element.
pub(crate) enum Around {
    /// Its parent.
    Parent,
    /// A box of the browser's own that pages cannot reach.
    Plain,
    /// The same with a layout of its own.
    Solid,
    /// A pseudo-element of its parent.
    Pseudo(PseudoElement),
}

impl Around {
    /// What is around an element (HTML Standard, "The details and summary elements", "The select element"). What a page
    /// hides in a shadow tree of its own is told by that tree.
    pub(crate) fn of(page: &Page, id: ElementId) -> Self {
        let document = &page.document;
        let Some(outer) = document.flat_parent(id).filter(|p| document.node(*p).shadow == 0) else {
            return Self::Parent;
        };
        let parent = document.node(outer);
        if parent.is_html("details") {
            let first = parent.child_elements().find(|c| document.node(*c).is_html("summary"));
            let content = || Self::Pseudo(PseudoElement::named("details-content"));
            if first == Some(id) { Self::Plain } else { content() }
        } else if parent.is_html("select") {
            appearance::box_in_select(document, outer, id).map_or(Self::Plain, Self::Pseudo)
        } else {
            let boxing = BOXING.iter().find(|(name, _)| parent.is_html(name));
            boxing.map_or(Self::Parent, |(_, solid)| if *solid { Self::Solid } else { Self::Plain })
        }
    }

    /// Whether it hands on nothing but what inherits by itself.
    pub(crate) fn is_plain(&self) -> bool {
        matches!(self, Self::Plain | Self::Solid)
    }

    /// The pseudo-element that it is.
    pub(crate) fn pseudo(&self) -> Option<&PseudoElement> {
        if let Self::Pseudo(name) = self { Some(name) } else { None }
    }
}

/// Whether a pseudo-element is there to be styled: `::before` and `::after` with content (CSS Pseudo 4, §4.1), others
/// where the element is of a kind that has them. Whether a box comes of it depends on `display` as for any element.
pub(crate) fn is_generated(name: &PseudoElement, style: &Style, of: &Style, element: &Element) -> bool {
    let (content, there) = (style.get(id::CONTENT), name.there());
    there != There::Picker && may_be_there(there, of, element, &|| !content.is("none") && !content.is("normal"))
}

/// The same before the style of the pseudo-element is known; `content` says whether it may have content.
fn may_be_there(there: There, of: &Style, element: &Element, content: &dyn Fn() -> bool) -> bool {
    match there {
        There::Content => content(),
        There::ListItem => of.get(id::DISPLAY).as_keyword().is_some_and(|d| d.contains("list-item")),
        other => other.may_be_on(element),
    }
}
