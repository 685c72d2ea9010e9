//! The computed values of the elements of a page, as far as they are known.

use std::borrow::Cow;
use std::sync::Arc;

use rustc_hash::FxHashMap;

use super::alike::Alike;
use super::around::Around;
use super::custom;
use super::entry::{Entry, Subject};
use super::gather::{Wanted, entries_of};
use super::matched::matched_rules;
use super::reading::Readings;
use super::styled::{OfPseudo, Styled, StyledElements};
use super::winners::compute_style;
use super::{Customs, Inside, Style};
use crate::document::{ElementId, Name};
use crate::page::Page;
use crate::property::id;
use crate::selector::PseudoElement;
use crate::value::CustomValue;

/// The computed values of elements, as far as they are known: they come into being when they are first asked for (`making.rs`).
#[derive(Clone, Debug, Default)]
pub(crate) struct Styles {
    /// By element.
    pub(super) elements: StyledElements,
    /// What was known before a trial.
    pub(super) before: Option<Before>,
    /// The custom properties of elements where they are known before the rest.
    pub(super) customs: FxHashMap<ElementId, Arc<Customs>>,
    /// What declarations with `var()` came to.
    pub(crate) readings: Arc<Readings>,
    /// Values that others may share.
    pub(super) alike: Alike,
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
    pub(super) fn taken_over(&self, page: &Page, id: ElementId) -> bool {
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
        self.elements.get(id).map_or(&[], Styled::pseudos)
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
        self.compute_below(&subject, self.parent_of(page, id, pseudo).as_deref(), entries)
    }

    /// The same from the values that are inherited.
    pub(super) fn compute_below(&self, subject: &Subject<'_>, parent: Option<&Style>, entries: &[Entry<'_>]) -> Style {
        let root = parent.and(self.get(subject.page.document.root()));
        let under = self.get(subject.element).filter(|_| subject.pseudo.is_some_and(PseudoElement::is_highlight));
        compute_style(subject, entries, (parent, under.map(|u| &**u)), root.map(|r| &**r))
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
    pub(super) fn parent_of(
        &self,
        page: &Page,
        id: ElementId,
        pseudo: Option<&PseudoElement>,
    ) -> Option<Cow<'_, Style>> {
        match pseudo {
            Some(name) if name.is_highlight() => {
                self.highlighted(page, id, name, self.highlight_around(page, id, name)).map(Cow::Owned)
            }
            Some(_) => self.get(id).map(|own| Cow::Borrowed(&**own)),
            None => self.inherits_from(page, id),
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
