//! What gives each value of an element, in a few words.

use std::borrow::Cow;

use super::why::{self, ValueFrom};
use crate::cascade::Origin;
use crate::document::{ElementId, Name};
use crate::property::{Longhands, PropertyId};
use crate::selector::PseudoElement;
use crate::study::Study;
use crate::style::{Entry, Outright, Style, Target};
use crate::value::Wide;

/// What gives each value of an element, without running each contest.
pub(crate) struct Causes<'s> {
    /// The study.
    study: &'s Study,
    /// The element.
    element: ElementId,
    /// What is declared on it, weakest first.
    entries: Vec<Entry<'s>>,
    /// Its values.
    style: Cow<'s, Style>,
    /// The pseudo-element, where it is one.
    pseudo: Option<PseudoElement>,
}

impl<'s> Causes<'s> {
    /// Gathers what is declared on an element.
    pub(crate) fn new(study: &'s Study, element: ElementId, pseudo: Option<&PseudoElement>) -> Self {
        let (_, entries) = study.entries(element, pseudo);
        let style = study.style_of(element, pseudo);
        Self { study, element, entries, style, pseudo: pseudo.cloned() }
    }

    /// The strongest declaration of a property.
    pub(crate) fn winner(&self, property: &str) -> Option<&Entry<'s>> {
        let id = PropertyId::named(property).map(|p| self.style.flow.physical(p));
        self.entries.iter().rev().find(|e| match e.property {
            Target::Longhand(p) => Some(self.style.flow.physical(p)) == id,
            Target::Custom(name) => **name == *property,
        })
    }

    /// The physical longhands that declarations of the page set.
    pub(crate) fn set_by_page(&self) -> Longhands {
        let mut set = Longhands::default();
        for entry in self.entries.iter().filter(|e| e.origin() == Origin::Author) {
            if let Target::Longhand(property) = entry.property {
                set.add(self.style.flow.physical(property));
            }
        }
        set
    }

    /// A declaration in a few words: its selector and place.
    pub(crate) fn name(&self, entry: &Entry<'_>) -> String {
        let place = self.study.sources.placed(entry.declaration.span);
        format!("{} {place}", self.study.declared_in(entry).trim_start_matches("a ").trim_start_matches("an "))
    }

    /// What gives a value, in a few words, and whether an ancestor brings it about.
    pub(crate) fn of(&self, property: &str) -> (String, bool) {
        let winner = self.winner(property);
        let outright =
            |e: &&Entry<'_>| matches!(e.outright(&self.study.page), Outright::Value | Outright::Wide(Wide::Initial));
        if let Some(winner) = winner.filter(outright) {
            return (self.name(winner), false);
        }
        let pseudo = self.pseudo.as_ref();
        // Highlights have ways of their own to inherit.
        if winner.is_some() || pseudo.is_some_and(PseudoElement::is_highlight) {
            let from = self.study.given(self.element, pseudo, property).map(|(from, _)| from);
            let cause = why::cause_of(self.study, self.element, pseudo, property);
            let cause = cause.or_else(|| winner.map(|winner| self.name(winner))).unwrap_or_default();
            return (cause, from == Some(ValueFrom::Inherited));
        }
        let page = &self.study.page;
        let inherits = match PropertyId::named(property) {
            Some(known) => known.inherits(),
            None => page.registrations.get(property).is_none_or(|r| r.inherits),
        };
        if !inherits {
            return ("not set: it follows from other values, or is the initial one".to_owned(), true);
        }
        let outer = if self.pseudo.is_some() { Some(self.element) } else { page.document.flat_parent(self.element) };
        match self.study.giver(outer, property) {
            Some(giver) => (format!("inherited from `{}`", page.document.label(giver)), true),
            None => ("not set here or further out".to_owned(), true),
        }
    }
}

impl Study {
    /// The nearest element from one on outwards that a property does not inherit on.
    pub(in crate::answer) fn giver(&self, from: Option<ElementId>, property: &str) -> Option<ElementId> {
        let known = PropertyId::named(property).ok_or_else(|| Name::from(property));
        let mut outer = from;
        while let Some(element) = outer.filter(|e| !self.gives(*e, property, &known)) {
            outer = self.page.document.flat_parent(element);
        }
        outer
    }

    /// Whether something declared for a property on an element does not come to inheritance.
    fn gives(&self, element: ElementId, property: &str, known: &Result<PropertyId, Name>) -> bool {
        let strongest = self.strongest(element);
        let outright = match known {
            Ok(longhand) => strongest.longhand(self.style(element).flow.physical(*longhand)),
            Err(name) => strongest.custom(name),
        };
        match outright {
            None => false,
            Some(Outright::Value | Outright::Wide(Wide::Initial)) => true,
            Some(Outright::Wide(Wide::Inherit | Wide::Unset)) => false,
            Some(_) => {
                let key = (element, Name::from(property));
                self.known.gives.get_or(key, || {
                    let given = self.given(element, None, property);
                    given.is_none_or(|(from, _)| from != ValueFrom::Inherited)
                })
            }
        }
    }
}
