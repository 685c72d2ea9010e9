//! A declaration: a property, a value, and whether it is important (CSS Syntax 3, §5.5.6).

use std::sync::OnceLock;

use crate::document::Name;
use crate::property::{self, PropertyId};
use crate::source::Span;
use crate::value::Declared;

/// The property a declaration sets.
#[derive(Clone, Debug, PartialEq, Eq, Hash)]
pub enum Property {
    /// A property of the standard, longhand or shorthand.
    Known(PropertyId),
    /// A custom property, with its two hyphens.
    Custom(Name),
}

impl Property {
    /// The property with this name; other names of a property give that property.
    #[must_use]
    pub fn named(name: &str) -> Option<Self> {
        if name.starts_with("--") && name.len() > 2 {
            return Some(Self::Custom(Name::from(name)));
        }
        PropertyId::named(name).map(Self::Known)
    }

    /// Its name.
    #[must_use]
    pub fn name(&self) -> &str {
        match self {
            Self::Known(id) => id.name(),
            Self::Custom(name) => name,
        }
    }
}

/// A declaration in a style rule or `style` attribute.
#[derive(Debug)]
pub struct Declaration {
    /// The property.
    pub property: Property,
    /// The property's name as written.
    pub name: Box<str>,
    /// Where the declaration is written, from its name to the end of its value or `!important`.
    pub span: Span,
    /// Whether it ends in `!important`.
    pub important: bool,
    /// The tokens of its value.
    pub(crate) value: (u32, u32),
    /// Its value, once someone asked for it.
    pub(crate) declared: OnceLock<Result<Vec<(PropertyId, Declared)>, property::Mismatch>>,
}
