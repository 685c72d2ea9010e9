//! Declarations without which everything would be the same: what they give is there anyway.
//!
//! What comes in: an element, all that is declared for it, and one declaration that wins there. What goes out: what gives the same.
//! Elements are looked at one by one with those around them as they are: where a declaration changes nothing on any element that it
//! takes, seen so, it changes nothing at all, since values start at the root.

use rustc_hash::FxHashSet;
use serde::{Deserialize, Serialize};

use super::asked::About;
use crate::cascade::Origin;
use crate::property::PropertyId;
use crate::selector::{PseudoClass, SelectorList, Simple, State};
use crate::source::{Place, Span};
use crate::study::Study;
use crate::style::{Entry, Style, Target};
use crate::stylesheet::Property;

/// What gives a value anyway.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(rename_all = "kebab-case")]
pub(crate) enum Anyway {
    /// Another declaration.
    Declared(Place),
    /// The parent.
    Inherited,
    /// The property itself: its initial value.
    Initial,
    /// The browser.
    Defaults,
    /// Now one, now another.
    Various,
}

impl Anyway {
    /// What both of two come to.
    pub(crate) fn with(self, other: &Self) -> Self {
        if self == *other { self } else { Self::Various }
    }
}

impl Study {
    /// The longhands that may be said otherwise for other states of elements, or in other media: whether something gives their value
    /// anyway is not known.
    pub(super) fn said_elsewhere(&self) -> FxHashSet<PropertyId> {
        let rules = self.page.rules.iter().chain(&self.page.off_rules).filter(|r| r.within.origin == Origin::Author);
        let mut found = FxHashSet::default();
        for rule in rules {
            if rule.within.off.is_none() && !self.is_by_view(rule) && !waits(self.page.selectors(rule)) {
                continue;
            }
            for declaration in self.page.declarations(rule) {
                if let Property::Known(property) = declaration.property {
                    found.extend(property.longhands_of().iter().copied());
                }
            }
        }
        found
    }

    /// What gives the same as a declaration that wins for some longhands of an element or pseudo-element, where it is the same
    /// without it.
    pub(super) fn anyway(
        &self,
        about: &About<'_>,
        (declaration, longhands): (Span, &[String]),
        entries: &[Entry<'_>],
        style: &Style,
    ) -> Option<Anyway> {
        let rule = entries.iter().find(|e| e.declaration.span == declaration)?.rule();
        let parent = match about.pseudo {
            Some(_) => Some(about.element),
            None => self.page.document.flat_parent(about.element),
        };
        let mut found: Option<Anyway> = None;
        for longhand in longhands {
            let longhand = style.flow.physical(PropertyId::named(longhand)?);
            let of_it = |e: &&Entry<'_>| match e.property {
                Target::Longhand(l) => style.flow.physical(l) == longhand,
                Target::Custom(_) => false,
            };
            let next = entries.iter().rev().filter(of_it).find(|e| e.declaration.span != declaration);
            let by = match next {
                // Who writes one value above another has browsers in mind that do not know the other.
                Some(next) if next.rule() == rule => return None,
                Some(next) => match next.origin() {
                    Origin::Defaults => Anyway::Defaults,
                    _ => Anyway::Declared(self.sources.placed(next.declaration.span)),
                },
                None => {
                    let parent = parent.filter(|_| longhand.inherits()).map(|p| self.style(p));
                    let value = parent.map_or_else(|| Style::initial_of(longhand), |parent| parent.get(longhand));
                    if value != style.get(longhand) {
                        return None;
                    }
                    if parent.is_some() { Anyway::Inherited } else { Anyway::Initial }
                }
            };
            found = Some(match found {
                None => by,
                Some(other) => other.with(&by),
            });
        }
        let left: Vec<Entry<'_>> = entries.iter().filter(|e| e.declaration.span != declaration).cloned().collect();
        let without = self.styles().compute_from(&self.page, about.element, about.pseudo, &left, Some(&style.custom));
        found.filter(|_| without.has_values_of(style))
    }
}

/// Whether a selector asks for a state that people or scripts change.
fn waits(list: &SelectorList) -> bool {
    let state = |simple: &Simple| match simple {
        Simple::PseudoClass(PseudoClass::State(state)) => !matches!(state, State::AnyLink | State::Link),
        Simple::PseudoClass(PseudoClass::Never(_)) => true,
        _ => false,
    };
    list.parts().any(|part| state(&part.simple))
}
