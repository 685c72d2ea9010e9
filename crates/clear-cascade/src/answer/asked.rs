//! What is asked about: an element or a pseudo-element of it, and a property.

use crate::document::ElementId;
use crate::property::PropertyId;
use crate::selector::PseudoElement;
use crate::study::Study;
use crate::style::{self, Subject};

/// What is asked about.
#[derive(Clone)]
pub(crate) struct Asked {
    /// The longhand, physical; nothing for a custom property.
    pub(crate) longhand: Option<PropertyId>,
    /// The name asked for.
    pub(crate) name: String,
}

/// What is told of: an element, or a pseudo-element of it.
#[derive(Clone, Copy)]
pub(super) struct About<'s> {
    /// The study.
    pub(super) study: &'s Study,
    /// The element.
    pub(super) element: ElementId,
    /// The pseudo-element.
    pub(super) pseudo: Option<&'s PseudoElement>,
}

impl<'s> About<'s> {
    /// The same as what values are computed for.
    pub(super) fn computed(&self) -> Subject<'s> {
        self.study.subject(self.element, self.pseudo)
    }

    /// That a property, which sets these longhands, does not apply, in one clause, where it is so.
    pub(super) fn applies_not(&self, name: &str, longhands: &[PropertyId]) -> Option<String> {
        let pseudo = self.pseudo?;
        let some = style::applying_to(pseudo)?;
        let none = !longhands.iter().any(|longhand| some.has(*longhand));
        none.then(|| format!("`{name}` does not apply to `{pseudo}`"))
    }
}
