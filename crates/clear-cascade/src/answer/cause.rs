//! What gives each value of an element, in a few words.

use std::borrow::Cow;

use crate::document::ElementId;
use crate::property::PropertyId;
use crate::selector::PseudoElement;
use crate::study::Study;
use crate::style::{Entry, Style, Target};

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
    /// Whether it is a pseudo-element.
    pseudo: bool,
}

impl<'s> Causes<'s> {
    /// Gathers what is declared on an element.
    pub(crate) fn new(study: &'s Study, element: ElementId, pseudo: Option<&PseudoElement>) -> Self {
        let (_, entries) = study.entries(element, pseudo);
        let style = study.style_of(element, pseudo);
        Self { study, element, entries, style, pseudo: pseudo.is_some() }
    }

    /// The strongest declaration of a property.
    pub(crate) fn winner(&self, property: &str) -> Option<&Entry<'s>> {
        let id = PropertyId::named(property).map(|p| self.style.flow.physical(p));
        self.entries.iter().rev().find(|e| match e.property {
            Target::Longhand(p) => Some(self.style.flow.physical(p)) == id,
            Target::Custom(name) => **name == *property,
        })
    }

    /// A declaration in a few words: its selector and place.
    pub(crate) fn name(&self, entry: &Entry<'_>) -> String {
        let place = self.study.sources.place(entry.declaration.span);
        let name = self.study.selector_text(entry).map_or("style attribute".to_owned(), |s| format!("`{s}`"));
        format!("{name} {place}")
    }

    /// What gives a value, in a few words, and whether an ancestor brings it about.
    pub(crate) fn of(&self, property: &str) -> (String, bool) {
        if let Some(winner) = self.winner(property) {
            return (self.name(winner), false);
        }
        let inherits = property.starts_with("--") || PropertyId::named(property).is_some_and(PropertyId::inherits);
        let outer = if self.pseudo { Some(self.element) } else { self.study.page.document.flat_parent(self.element) };
        match outer.filter(|_| inherits) {
            Some(outer) => (format!("inherited from `{}`", self.study.page.document.label(outer)), true),
            None => ("not set: it follows from other values, or is the initial one".to_owned(), true),
        }
    }
}
