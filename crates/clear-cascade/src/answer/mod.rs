//! Questions about a page and their answers.
//!
//! What comes in: a [`Study`] and a question. What goes out: structured answers that serialise, with plain sentences.

mod derive;
mod locate;
mod reach;
mod reading;
mod why;

pub use locate::{LocateError, Located};
pub use reach::{Hit, Part, Reach};
pub use reading::Reading;
pub use why::{Ancestor, Contender, From, OffContender, Outcome, Why, WhyError};

use crate::document::ElementId;
use crate::property::PropertyId;
use crate::study::Study;
use crate::style::is_generated;

impl Study {
    /// The computed value of a longhand or custom property, as `getComputedStyle()` would give it; nothing for an
    /// unknown property, a shorthand, or a custom property without a value.
    #[must_use]
    pub fn value(&self, element: ElementId, property: &str) -> Option<String> {
        let style = &self.styles[element.index()];
        if property.starts_with("--") {
            return style.custom.get(&crate::document::Name::from(property)).map(|v| v.to_string());
        }
        let property = PropertyId::named(&property.to_ascii_lowercase()).filter(|p| p.is_longhand())?;
        Some(style.text(property))
    }

    /// All longhands in the order of their names, then all custom properties, with their computed values.
    #[must_use]
    pub fn values(&self, element: ElementId) -> Vec<(String, String)> {
        all_values(&self.styles[element.index()])
    }

    /// The pseudo-elements that make boxes on an element, with their computed values.
    #[must_use]
    pub fn generated(&self, element: ElementId) -> Vec<(String, Vec<(String, String)>)> {
        let of = &self.styles[element.index()];
        let boxes = self.pseudos[element.index()].iter().filter(|(name, style)| is_generated(name, style, of));
        boxes.map(|(name, style)| (name.to_string(), all_values(style))).collect()
    }
}

/// All values of a style.
fn all_values(style: &crate::style::Style) -> Vec<(String, String)> {
    let mut values: Vec<(String, String)> =
        PropertyId::longhands().map(|p| (p.name().to_owned(), style.text(p))).collect();
    values.sort();
    values.extend(style.custom.iter().map(|(n, v)| (n.to_string(), v.to_string())));
    values
}
