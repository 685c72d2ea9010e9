//! How the values of elements come into being: of one that is asked for, with those around it, or of many together.

use std::borrow::Cow;
use std::ops::Range;
use std::sync::Arc;

use smallvec::SmallVec;

use super::Style;
use super::alike::{self, Key};
use super::around::may_be_there;
use super::entry::{Entry, Subject};
use super::gather::{Gathered, Wanted, entries_of};
use super::matched::{Found, Matched};
use super::styled::{OfPseudo, Styled};
use super::styles::Styles;
use crate::cascade::Origin;
use crate::document::ElementId;
use crate::page::Page;
use crate::selector::{Matcher, PseudoElement};

/// An element, or a pseudo-element of one, and the rules that take it.
#[derive(Clone, Copy)]
struct Unit<'m> {
    /// The element.
    id: ElementId,
    /// The pseudo-element.
    pseudo: Option<&'m PseudoElement>,
    /// The rules.
    matched: &'m [Matched<'m>],
}

/// What is known of a unit before its declarations are looked at.
enum Start<'m, 's> {
    /// Its values, which are those of another one.
    Known(Arc<Style>),
    /// What they are to be made from.
    Open(Open<'m, 's>),
}

/// What the values of a unit are made from, declarations aside.
struct Open<'m, 's> {
    /// All that they go by, where others may share them.
    key: Option<Key<'m>>,
    /// What is inherited, but for highlights.
    parent: Option<Cow<'s, Style>>,
    /// The same highlight around, if it is one.
    highlight: Option<&'s Arc<Style>>,
    /// Whether others may share what it passes on.
    shares: bool,
}

/// An element, and where the rules that take it and its pseudo-elements are among those that were found.
#[derive(Clone, Copy)]
struct Reached {
    /// The element.
    id: ElementId,
    /// Where those that take it start, where those that take its pseudo-elements start, and where these end.
    among: [usize; 3],
}

impl Reached {
    /// An element of a page: most rules for pseudo-elements are for such that are never there, or not on elements of this kind, and
    /// are left out.
    fn of<'p>(page: &'p Page, matcher: &Matcher<'_>, id: ElementId, found: &mut Found<'p>) -> Self {
        let element = page.document.node(id);
        Self { id, among: found.add(page, matcher, id, |there| there.may_be_on(element)) }
    }

    /// The element itself.
    fn unit<'m>(&self, found: &'m Found<'_>) -> Unit<'m> {
        Unit { id: self.id, pseudo: None, matched: &found.all[self.among[0]..self.among[1]] }
    }

    /// The pseudo-elements that may be there to be styled, in order.
    fn pseudos<'p>(&self, page: &'p Page, own: &Style, found: &Found<'p>) -> SmallVec<[&'p PseudoElement; 8]> {
        let element = page.document.node(self.id);
        let aimed = &found.all[self.among[1]..self.among[2]];
        // Few are there, each of which many rules may aim at; and whether a rule does by which it is told.
        let mut names: SmallVec<[(&PseudoElement, bool); 8]> = SmallVec::new();
        for m in aimed {
            let Some(name) = m.pseudo else { continue };
            let place = names.iter().position(|(known, _)| std::ptr::eq(*known, name)).unwrap_or_else(|| {
                names.push((name, !name.there().waits() || name.is_highlight()));
                names.len() - 1
            });
            let told = &mut names[place].1;
            *told = *told || page.rules[m.rule as usize].within.origin != Origin::Defaults;
        }
        let gives_content = |name: &PseudoElement| {
            aimed.iter().any(|m| m.pseudo.is_some_and(|aim| aim == name) && page.gives_content(m.rule))
        };
        let may_be = |name: &PseudoElement| may_be_there(name.there(), own, element, &|| gives_content(name));
        let names = names.into_iter().filter(|(name, told)| *told && may_be(name)).map(|(name, _)| name);
        let mut names: SmallVec<[&PseudoElement; 8]> = names.collect();
        names.sort_unstable();
        names.dedup();
        names
    }

    /// The rules that take a pseudo-element.
    fn taking<'p>(&self, name: &PseudoElement, found: &Found<'p>) -> impl Iterator<Item = Matched<'p>> {
        found.all[self.among[1]..self.among[2]].iter().filter(move |m| m.pseudo == Some(name)).copied()
    }
}

/// The work on many elements of a page, run by run. What is to be done for each is done for as many of them as can be before the next
/// is begun: a processor has the code for the one at hand, or for the other, and not for all in turn.
pub(crate) struct InRuns<'p, 'm> {
    /// The values.
    styles: &'p Styles,
    /// The page.
    page: &'p Page,
    /// A matcher for it.
    matcher: &'m Matcher<'m>,
    /// The rules that take the elements at hand.
    found: Found<'p>,
    /// What these say.
    gathered: Gathered<'p>,
}

impl<'p, 'm> InRuns<'p, 'm> {
    /// Before the first run.
    pub(crate) fn new(styles: &'p Styles, page: &'p Page, matcher: &'m Matcher<'m>) -> Self {
        // Room for what some tens of elements set, so that it need not be moved.
        let gathered = Gathered::with_room_for(1024);
        Self { styles, page, matcher, found: Found::default(), gathered }
    }

    /// Sees to it that an element is known.
    fn ensure(&self, id: ElementId) {
        self.styles.ensure(self.page, self.matcher, id, Wanted::Effective);
    }

    /// Sees to it that some elements are known, best such as stand together.
    pub(crate) fn ensure_all(&mut self, ids: impl Iterator<Item = ElementId>) {
        let Self { styles, page, .. } = *self;
        // Of a trial few are computed, and which of them is told one by one.
        if styles.before.is_some() {
            return ids.for_each(|id| self.ensure(id));
        }
        self.ensure(page.document.root());
        self.found.all.clear();
        let unknown = ids.filter(|id| styles.elements.lack(*id));
        let reached = unknown.map(|id| Reached::of(page, self.matcher, id, &mut self.found));
        let mut waiting: SmallVec<[Reached; 64]> = reached.collect();
        let mut ready: SmallVec<[Reached; 64]> = SmallVec::new();
        self.found.all.iter().for_each(|matched| page.read_ahead(matched.rule));
        let among: Vec<ElementId> = waiting.iter().map(|reached| reached.id).collect();
        let elsewhere = among.iter().filter_map(|id| page.document.flat_parent(*id));
        elsewhere.filter(|parent| among.binary_search(parent).is_err()).for_each(|parent| self.ensure(parent));
        while !waiting.is_empty() {
            let is_known =
                |id: ElementId| page.document.flat_parent(id).is_none_or(|parent| !styles.elements.lack(parent));
            let left = waiting.len();
            ready.clear();
            waiting.retain(|reached| {
                let is_ready = is_known(reached.id);
                // Another thread may have needed some of them.
                if is_ready && styles.elements.lack(reached.id) {
                    ready.push(*reached);
                }
                !is_ready
            });
            if waiting.len() == left {
                // None of them has a parent that is known: they wait for each other.
                return among.into_iter().for_each(|id| self.ensure(id));
            }
            self.compute(&ready);
        }
    }

    /// Computes elements whose parents are known, and those of their pseudo-elements that may be there to be styled.
    fn compute(&mut self, ready: &[Reached]) {
        let Self { styles, page, found, gathered, .. } = self;
        let units: Vec<Unit<'_>> = ready.iter().map(|reached| reached.unit(found)).collect();
        for (unit, style) in units.iter().zip(styles.of_all(page, &units, gathered)) {
            if let Some(place) = styles.elements.place(unit.id) {
                // Another thread may have been first, with the same.
                let _ = place.own.set(style);
            }
        }
        let mut taking = Vec::new();
        let mut aims = Vec::new();
        let mut counts = Vec::with_capacity(ready.len());
        for reached in ready {
            let names = styles.get(reached.id).map(|own| reached.pseudos(page, own, found)).unwrap_or_default();
            counts.push(names.len());
            for name in names {
                let start = taking.len();
                taking.extend(reached.taking(name, found));
                aims.push((reached.id, name, start..taking.len()));
            }
        }
        let units: Vec<Unit<'_>> = aims
            .iter()
            .map(|(id, name, rules)| Unit { id: *id, pseudo: Some(*name), matched: &taking[rules.clone()] })
            .collect();
        let all = styles.of_all(page, &units, gathered);
        let mut styled = aims.iter().zip(all).map(|((_, name, _), style)| ((*name).clone(), style));
        for (reached, count) in ready.iter().zip(counts) {
            let pseudos: SmallVec<[OfPseudo; 8]> = styled.by_ref().take(count).collect();
            if let Some(place) = styles.elements.place(reached.id) {
                place.set_pseudos(&pseudos, styles.around(page, reached.id));
            }
        }
    }
}

impl Styles {
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
                self.compute(page, matcher, next, wanted);
            }
        }
    }

    /// Computes an element, whose parent is known, and those of its pseudo-elements that may be there to be styled.
    fn compute(&self, page: &Page, matcher: &Matcher<'_>, id: ElementId, wanted: Wanted<'_>) {
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
        let mut found = Found::default();
        let reached = Reached::of(page, matcher, id, &mut found);
        let was = known.and_then(|k| k.own.get());
        let own = place.own.get_or_init(|| shared(self.of_one(page, reached.unit(&found), wanted), was));
        let pseudos = reached.pseudos(page, own, &found).into_iter().map(|name| {
            let was = known.and_then(|k| k.pseudos().iter().find(|(n, _)| n == name)).map(|(_, s)| s);
            let taking: SmallVec<[Matched<'_>; 8]> = reached.taking(name, &found).collect();
            let unit = Unit { id, pseudo: Some(name), matched: &taking };
            (name.clone(), shared(self.of_one(page, unit, wanted), was))
        });
        let pseudos: SmallVec<[OfPseudo; 8]> = pseudos.collect();
        place.set_pseudos(&pseudos, self.around(page, id));
    }

    /// What is known of the element around one.
    fn around(&self, page: &Page, id: ElementId) -> Option<&Styled> {
        self.elements.get(page.document.flat_parent(id)?)
    }

    /// The values of units of which what they inherit from is known, from the rules that take them and no other.
    fn of_all<'p>(&self, page: &'p Page, units: &[Unit<'_>], gathered: &mut Gathered<'p>) -> Vec<Arc<Style>> {
        let wanted = Wanted::Effective;
        let mut found: Vec<Option<Arc<Style>>> = vec![None; units.len()];
        let mut all_open: Vec<(usize, Open<'_, '_>)> = Vec::with_capacity(units.len());
        for (i, unit) in units.iter().enumerate() {
            match self.start(page, *unit, wanted) {
                Start::Known(style) => found[i] = Some(style),
                Start::Open(open) => {
                    let is_for =
                        |key: &Key<'_>| all_open.iter().any(|(_, o)| o.key.as_ref().is_some_and(|k| k.is(key)));
                    // What is alike waits for the first of its kind.
                    if !open.key.as_ref().is_some_and(is_for) {
                        all_open.push((i, open));
                    }
                }
            }
        }
        gathered.entries.clear();
        let mut places: SmallVec<[Range<usize>; 64]> = SmallVec::new();
        for (i, open) in &all_open {
            let key = open.key.as_ref();
            let is_said =
                |(_, other): &(_, Open<'_, '_>)| other.key.as_ref().zip(key).is_some_and(|(a, b)| a.is_said_as(b));
            let said = all_open[..places.len()].iter().position(is_said).map(|before| places[before].clone());
            places.push(said.unwrap_or_else(|| {
                let Unit { id, pseudo, matched } = units[*i];
                let start = gathered.entries.len();
                gathered.add(page, self, (id, pseudo), matched, wanted);
                start..gathered.entries.len()
            }));
        }
        let entries_of = |place: usize| &gathered.entries[places[place].clone()];
        let made = all_open.iter().enumerate();
        let made: Vec<Style> =
            made.map(|(place, (i, open))| self.made(page, units[*i], open, entries_of(place))).collect();
        for ((place, (i, open)), style) in all_open.iter().enumerate().zip(made) {
            found[*i] = Some(self.finished(page, open, entries_of(place), style));
        }
        let rest =
            |(unit, style): (&Unit<'_>, Option<Arc<Style>>)| style.unwrap_or_else(|| self.of_one(page, *unit, wanted));
        units.iter().zip(found).map(rest).collect()
    }

    /// The same of one.
    fn of_one(&self, page: &Page, unit: Unit<'_>, wanted: Wanted<'_>) -> Arc<Style> {
        match self.start(page, unit, wanted) {
            Start::Known(style) => style,
            Start::Open(open) => {
                let entries = entries_of(page, self, unit.id, unit.matched, unit.pseudo, wanted);
                let style = self.made(page, unit, &open, &entries);
                self.finished(page, &open, &entries, style)
            }
        }
    }

    /// What is known of a unit before its declarations are looked at.
    fn start<'m>(&self, page: &'m Page, unit: Unit<'m>, wanted: Wanted<'_>) -> Start<'m, '_> {
        let Unit { id, pseudo, matched } = unit;
        let name = pseudo.filter(|name| name.is_highlight());
        let highlight = name.and_then(|name| self.highlight_around(page, id, name));
        let parent = if name.is_none() { self.parent_of(page, id, pseudo) } else { None };
        let shares = matches!(wanted, Wanted::Effective) && self.custom_of(unit).is_none() && self.alike.pays();
        let kept = match (&parent, name) {
            _ if !shares => None,
            (_, Some(_)) => self.get(id).map(|own| &**own),
            (Some(Cow::Borrowed(parent)), None) => Some(*parent),
            (Some(Cow::Owned(_)) | None, None) => None,
        };
        let key = kept.and_then(|kept| Key::of(page, (id, pseudo), matched, (kept, highlight)));
        match key.as_ref().and_then(|key| self.alike.get(key)) {
            Some(style) => Start::Known(style),
            None => Start::Open(Open { key, parent, highlight, shares }),
        }
    }

    /// The custom properties of a unit, where they are known before the rest.
    fn custom_of(&self, unit: Unit<'_>) -> Option<&Arc<super::Customs>> {
        self.customs.get(&unit.id).filter(|_| unit.pseudo.is_none())
    }

    /// The values of a unit from its declarations.
    fn made(&self, page: &Page, unit: Unit<'_>, open: &Open<'_, '_>, entries: &[Entry<'_>]) -> Style {
        let Unit { id, pseudo, .. } = unit;
        let subject = Subject { page, readings: &self.readings, element: id, pseudo, custom: self.custom_of(unit) };
        match pseudo.filter(|name| name.is_highlight()) {
            Some(name) => {
                let parent = self.highlighted(page, id, name, open.highlight);
                self.compute_below(&subject, parent.as_ref(), entries)
            }
            None => self.compute_below(&subject, open.parent.as_deref(), entries),
        }
    }

    /// Values as they are kept: shared with others that are alike.
    fn finished(&self, page: &Page, open: &Open<'_, '_>, entries: &[Entry<'_>], mut style: Style) -> Arc<Style> {
        if let (true, Some(Cow::Borrowed(parent))) = (open.shares, &open.parent) {
            self.alike.share(&mut style.heritage, &parent.heritage);
        }
        // A highlight is mostly the one around it: being that very one, it is so for those inside as well.
        let style = open.highlight.filter(|around| around.is(&style)).cloned().unwrap_or_else(|| Arc::new(style));
        if let Some(key) = open.key.as_ref().filter(|_| !style.asks_parent && !alike::go_by_attributes(page, entries)) {
            self.alike.keep(key, style.clone());
        }
        style
    }
}
