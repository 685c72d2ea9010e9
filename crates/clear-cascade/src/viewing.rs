//! What a page is seen with: medium, viewport, preferences, states.

use std::collections::BTreeMap;

use crate::document::ElementId;

/// What a page is printed or shown on.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub enum Medium {
    /// A screen.
    #[default]
    Screen,
    /// Paper.
    Print,
}

/// The states that a question asks for. All others are off, as on a page that nobody has touched.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct States {
    /// Elements under the pointer; their ancestors are hovered too.
    pub hover: Vec<ElementId>,
    /// Elements being pressed; their ancestors are active too.
    pub active: Vec<ElementId>,
    /// Elements with the focus.
    pub focus: Vec<ElementId>,
    /// Links that have been visited.
    pub visited: Vec<ElementId>,
    /// The element that the URL's fragment names.
    pub target: Vec<ElementId>,
}

/// What a page is seen with.
#[derive(Clone, Debug, PartialEq)]
pub struct Viewing {
    /// Screen or print.
    pub medium: Medium,
    /// Width of the viewport in CSS px.
    pub width: f64,
    /// Height of the viewport in CSS px.
    pub height: f64,
    /// Preferences by the name of their media feature, such as `color-scheme` → `dark` for `prefers-color-scheme`.
    pub preferences: BTreeMap<String, String>,
    /// States of elements.
    pub states: States,
}

impl Default for Viewing {
    /// A screen of 1280 by 800 px without preferences.
    fn default() -> Self {
        Self {
            medium: Medium::Screen,
            width: 1280.0,
            height: 800.0,
            preferences: BTreeMap::new(),
            states: States::default(),
        }
    }
}

impl Viewing {
    /// Whether a dark colour scheme is preferred.
    #[must_use]
    pub fn prefers_dark(&self) -> bool {
        self.preferences.get("color-scheme").is_some_and(|v| v == "dark")
    }
}
