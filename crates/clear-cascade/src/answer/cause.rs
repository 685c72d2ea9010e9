//! What gives each value of an element, in a few words.

use std::borrow::Cow;

use rustc_hash::{FxHashMap, FxHashSet};

use crate::document::{ElementId, Name};
use crate::property::{Longhands, PropertyId};
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
    pub(crate) fn of(&self, property: &str, givers: &mut Givers) -> (String, bool) {
        if let Some(winner) = self.winner(property) {
            return (self.name(winner), false);
        }
        let page = &self.study.page;
        let inherits = match PropertyId::named(property) {
            Some(known) => known.inherits(),
            None => page.registrations.get(property).is_none_or(|r| r.inherits),
        };
        if !inherits {
            return ("not set: it follows from other values, or is the initial one".to_owned(), true);
        }
        let mut outer = if self.pseudo { Some(self.element) } else { page.document.flat_parent(self.element) };
        while let Some(element) = outer {
            if givers.declares(self.study, element, property) {
                return (format!("inherited from `{}`", page.document.label(element)), true);
            }
            outer = page.document.flat_parent(element);
        }
        ("not set here or further out".to_owned(), true)
    }
}

/// Which elements of one page declare which properties, as far as somebody asked.
#[derive(Default)]
pub(crate) struct Givers {
    /// By element, the physical longhands and the custom properties that are declared on it.
    declared: FxHashMap<ElementId, (Longhands, FxHashSet<Name>)>,
}

impl Givers {
    /// Whether something is declared for a property on an element.
    fn declares(&mut self, study: &Study, element: ElementId, property: &str) -> bool {
        let flow = study.style(element).flow;
        let (longhands, customs) = self.declared.entry(element).or_insert_with(|| {
            let (mut longhands, mut customs) = (Longhands::default(), FxHashSet::default());
            for entry in study.entries(element, None).1 {
                match entry.property {
                    Target::Longhand(p) => longhands.add(flow.physical(p)),
                    Target::Custom(name) => _ = customs.insert(name.clone()),
                }
            }
            (longhands, customs)
        });
        match PropertyId::named(property) {
            Some(known) => longhands.has(flow.physical(known)),
            None => customs.contains(&Name::from(property)),
        }
    }
}
