//! What one declaration says for one property of an element, and what it is said for.

use std::sync::Arc;

use rustc_hash::FxHashMap;

use crate::cascade::{Origin, Precedence};
use crate::document::{ElementId, Name};
use crate::page::{FlatRule, Page};
use crate::property::{Declared, Flow, PropertyId};
use crate::selector::{PseudoElement, Specificity};
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
    pub(super) by: By<'s>,
}

/// How a rule takes an element.
#[derive(Clone, Copy, Debug)]
pub(super) struct By<'s> {
    /// The rule.
    pub(super) rule: &'s FlatRule,
    /// Its number, by its place in the page.
    pub(super) number: u32,
    /// Which of its selectors took the element.
    pub(super) selector: Option<u32>,
    /// What that weighs.
    pub(super) specificity: Specificity,
    /// Steps up to the scoping root.
    pub(super) proximity: Option<u32>,
    /// The tree that the rule is in, by its place among all.
    pub(super) context: u32,
    /// Whether this is about important declarations.
    pub(super) important: bool,
}

impl By<'_> {
    /// What decides about the declaration at a place in the rule.
    pub(super) fn precedence(&self, place: u32) -> Precedence {
        let FlatRule { layer, order, within, .. } = self.rule;
        Precedence {
            origin: within.origin,
            important: self.important,
            context: self.context,
            attached: within.attached,
            layer: *layer,
            specificity: self.specificity,
            proximity: self.proximity,
            order: (*order, place),
        }
    }
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
        self.by.rule.sheet
    }

    /// The rule's number, by its place in the page.
    pub(crate) fn rule(&self) -> u32 {
        self.by.number
    }

    /// Which selector of the rule took the element.
    pub(crate) fn selector(&self) -> Option<u32> {
        self.by.selector
    }

    /// Whose it is.
    pub(crate) fn origin(&self) -> Origin {
        self.by.rule.within.origin
    }

    /// What decides about it.
    pub(crate) fn precedence(&self) -> Precedence {
        self.by.precedence(self.place)
    }

    /// What it comes to, where its own text tells.
    pub(crate) fn outright(&self, page: &Page) -> Outright {
        match (self.property, self.declared) {
            (_, Some(Declared::Value(_))) => Outright::Value,
            (_, Some(Declared::Wide(wide))) => Outright::Wide(*wide),
            (Target::Custom(name), None) => match self.declaration.custom(&page.sheets[self.sheet() as usize].sheet) {
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
