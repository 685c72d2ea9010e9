//! What one declaration says for one property of an element, and what it is said for.

use std::sync::Arc;

use crate::cascade::Precedence;
use crate::document::{ElementId, Name};
use crate::page::Page;
use crate::property::{Declared, PropertyId};
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
    /// The stylesheet it is in.
    pub(crate) sheet: u32,
    /// What decides about it.
    pub(crate) precedence: Precedence,
    /// The rule's number, by its place in the page.
    pub(crate) rule: u32,
    /// Which selector of the rule took the element.
    pub(crate) selector: Option<u32>,
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
    /// What it comes to, where its own text tells.
    pub(crate) fn outright(&self, page: &Page) -> Outright {
        match (self.property, self.declared) {
            (_, Some(Declared::Value(_))) => Outright::Value,
            (_, Some(Declared::Wide(wide))) => Outright::Wide(*wide),
            (Target::Custom(name), None) => match self.declaration.custom(&page.sheets[self.sheet as usize].sheet) {
                CustomDeclared::Text(_) if page.custom_syntax(name).is_none() => Outright::Value,
                CustomDeclared::Wide(wide) => Outright::Wide(*wide),
                _ => Outright::Open,
            },
            _ => Outright::Open,
        }
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
