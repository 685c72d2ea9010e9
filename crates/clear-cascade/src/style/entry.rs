//! What one declaration says for one property of an element, and what it is said for.

use std::rc::Rc;
use std::sync::Arc;

use rustc_hash::FxHashMap;

use crate::cascade::{Origin, Precedence};
use crate::document::{ElementId, Name};
use crate::page::Page;
use crate::property::{Declared, Flow, PropertyId};
use crate::selector::PseudoElement;
use crate::stylesheet::{CustomDeclared, Declaration};
use crate::value::Wide;

use super::customs::Customs;
use super::reading::Readings;

/// One longhand or custom property that a declaration sets.
#[derive(Clone, Debug)]
pub(crate) struct Entry<'s> {
    /// What is set; a longhand or custom property.
    pub(crate) property: Target<'s>,
    /// What is said for it.
    pub(crate) declared: Option<&'s Declared>,
    /// The declaration.
    pub(crate) declaration: &'s Declaration,
    /// Its place in its rule.
    pub(super) place: u32,
    /// How the rule takes the element.
    pub(super) by: Rc<By>,
}

/// How a rule takes an element.
#[derive(Debug)]
pub(super) struct By {
    /// The rule's number, by its place in the page.
    pub(super) rule: u32,
    /// The stylesheet it is in.
    pub(super) sheet: u32,
    /// Which selector of the rule took the element.
    pub(super) selector: Option<u32>,
    /// What decides about its declarations, their places in the rule aside.
    pub(super) precedence: Precedence,
}

/// What a declaration comes to, as far as that is seen without working anything out.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Outright {
    /// A value of its own.
    Value,
    /// What a CSS-wide keyword means.
    Wide(Wide),
    /// It depends on what is put in, or on a type.
    Open,
}

impl Entry<'_> {
    /// The stylesheet it is in.
    pub(crate) fn sheet(&self) -> u32 {
        self.by.sheet
    }

    /// The rule's number, by its place in the page.
    pub(crate) fn rule(&self) -> u32 {
        self.by.rule
    }

    /// Which selector of the rule took the element.
    pub(crate) fn selector(&self) -> Option<u32> {
        self.by.selector
    }

    /// Whose it is.
    pub(crate) fn origin(&self) -> Origin {
        self.by.precedence.origin
    }

    /// What decides about it.
    pub(crate) fn precedence(&self) -> Precedence {
        Precedence { order: (self.by.precedence.order.0, self.place), ..self.by.precedence }
    }

    /// What it comes to, where its own text tells.
    pub(crate) fn outright(&self, page: &Page) -> Outright {
        match (self.property, self.declared) {
            (_, Some(Declared::Value(_))) => Outright::Value,
            (_, Some(Declared::Wide(wide))) => Outright::Wide(*wide),
            (Target::Custom(name), None) => match self.declaration.custom(&page.sheets[self.by.sheet as usize].sheet) {
                CustomDeclared::Text(_) if page.custom_syntax(name).is_none() => Outright::Value,
                CustomDeclared::Wide(wide) => Outright::Wide(*wide),
                _ => Outright::Open,
            },
            _ => Outright::Open,
        }
    }
}

/// What the strongest declaration for each property on an element comes to.
#[derive(Debug, Default)]
pub(crate) struct Strongest {
    /// For longhands, by the physical one that they mean as text flows there.
    longhands: FxHashMap<PropertyId, Outright>,
    /// For custom properties.
    custom: FxHashMap<Name, Outright>,
}

impl Strongest {
    /// That of what is declared, weakest first.
    pub(crate) fn of(page: &Page, flow: Flow, entries: &[Entry<'_>]) -> Self {
        let mut strongest = Self::default();
        for entry in entries {
            let outright = entry.outright(page);
            match entry.property {
                Target::Longhand(p) => strongest.longhands.insert(flow.physical(p), outright),
                Target::Custom(name) => strongest.custom.insert(name.clone(), outright),
            };
        }
        strongest
    }

    /// That for a physical longhand; none where nothing is declared.
    pub(crate) fn longhand(&self, property: PropertyId) -> Option<Outright> {
        self.longhands.get(&property).copied()
    }

    /// That for a custom property.
    pub(crate) fn custom(&self, name: &Name) -> Option<Outright> {
        self.custom.get(name).copied()
    }
}

/// What a declaration sets.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub(crate) enum Target<'s> {
    /// A longhand.
    Longhand(PropertyId),
    /// A custom property.
    Custom(&'s Name),
}

/// What values are computed for.
pub(crate) struct Subject<'s> {
    /// The page.
    pub(crate) page: &'s Page,
    /// What declarations with `var()` came to.
    pub(crate) readings: &'s Readings,
    /// The element, or the one that the pseudo-element is of.
    pub(crate) element: ElementId,
    /// The pseudo-element.
    pub(crate) pseudo: Option<&'s PseudoElement>,
    /// Its custom properties, where they are known already.
    pub(crate) custom: Option<&'s Arc<Customs>>,
}
