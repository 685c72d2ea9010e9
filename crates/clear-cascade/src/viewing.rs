//! What a page is seen with: medium, viewport, preferences, states.

use std::collections::BTreeMap;

use crate::document::{Document, ElementId, ForeignElement};

/// What a page is printed or shown on.
///
/// ```
/// use clear_cascade::{Viewing, viewing::Medium};
/// assert_eq!(Viewing::print().medium, Medium::Print);
/// ```
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub enum Medium {
    /// A screen.
    #[default]
    Screen,
    /// Paper.
    Print,
}

/// Why a page cannot be seen as was asked.
///
/// ```
/// # use clear_cascade::{MemoryLoader, Study};
/// # let files = MemoryLoader::default().with(
/// #     "a.html",
/// #     "<!DOCTYPE html><style>p { color: navy; margin: 1px } .lead { color: gold } p::before { content: '*' } b { widht: 2px; width: 3px }
/// #     @media print { p { color: black } }</style><body><p id=one class=lead>Hello <b>you</b></p><p id=two>Bye</p></body>",
/// # );
/// # let page = Study::open(&files, "a.html")?;
/// use clear_cascade::{Viewing, viewing::ViewingError};
/// assert!(matches!(page.seen_with(Viewing::screen(-1.0, 600.0)), Err(ViewingError::Size { .. })));
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Debug, PartialEq, thiserror::Error)]
#[non_exhaustive]
pub enum ViewingError {
    /// A state is asked for on an element of another page.
    #[error(transparent)]
    Foreign(#[from] ForeignElement),
    /// The viewport has no size.
    #[error("a viewport of {width} by {height} px is none: both must be numbers from 0 on")]
    Size {
        /// The width as given.
        width: f64,
        /// The height as given.
        height: f64,
    },
}

/// The states that a question asks for. All others are off, as on a page that nobody has touched.
///
/// ```
/// # use clear_cascade::{MemoryLoader, Study};
/// # let files = MemoryLoader::default().with(
/// #     "a.html",
/// #     "<!DOCTYPE html><style>p { color: navy; margin: 1px } .lead { color: gold } p::before { content: '*' } b { widht: 2px; width: 3px }
/// #     @media print { p { color: black } }</style><body><p id=one class=lead>Hello <b>you</b></p><p id=two>Bye</p></body>",
/// # );
/// # let page = Study::open(&files, "a.html")?;
/// use clear_cascade::Viewing;
/// let b = page.select("b")?[0];
/// let viewing = Viewing::default().hover([b]);
/// assert_eq!(viewing.states.hover, [b]);
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
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

impl States {
    /// The elements of each state.
    pub(crate) fn lists(&mut self) -> [&mut Vec<ElementId>; 5] {
        [&mut self.hover, &mut self.active, &mut self.focus, &mut self.visited, &mut self.target]
    }
}

/// What a page is seen with.
///
/// ```
/// use clear_cascade::{MemoryLoader, Study};
/// let files = MemoryLoader::default().with("a.html", "<!DOCTYPE html><style>p { color: navy } #x { top: 1px }</style><p id=x class='a b' title=hi>Hello <b>you</b>");
/// let page = Study::open(&files, "a.html").unwrap();
///
/// use clear_cascade::Viewing;
/// let b = page.select("b")?[0];
/// let viewing = Viewing::screen(360.0, 640.0).prefer("color-scheme", "dark").hover([b]).focus([b]);
/// assert!(viewing.prefers_dark() && viewing.states.hover == [b]);
/// assert_eq!(page.seen_with(viewing)?.viewing().width, 360.0);
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
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

/// The preferences that media queries can ask for, by the name of their feature without `prefers-`, and the values of each (Media
/// Queries 5, §12 "User Preference Media Features").
pub const PREFERENCES: &[(&str, &[&str])] = &[
    ("color-scheme", &["light", "dark"]),
    ("reduced-motion", &["no-preference", "reduce"]),
    ("reduced-transparency", &["no-preference", "reduce"]),
    ("reduced-data", &["no-preference", "reduce"]),
    ("contrast", &["no-preference", "more", "less", "custom"]),
    ("forced-colors", &["none", "active"]),
    ("inverted-colors", &["none", "inverted"]),
    ("hover", &["hover", "none"]),
    ("any-hover", &["hover", "none"]),
    ("pointer", &["fine", "coarse", "none"]),
    ("any-pointer", &["fine", "coarse", "none"]),
    ("scripting", &["enabled", "none", "initial-only"]),
];

impl Viewing {
    /// A screen with a viewport of so many CSS px.
    #[must_use]
    pub fn screen(width: f64, height: f64) -> Self {
        Self { width, height, ..Self::default() }
    }

    /// Paper, with the default viewport as its size.
    ///
    /// ```
    /// # use clear_cascade::{MemoryLoader, Study};
    /// # let files = MemoryLoader::default().with(
    /// #     "a.html",
    /// #     "<!DOCTYPE html><style>p { color: navy; margin: 1px } .lead { color: gold } p::before { content: '*' } b { widht: 2px; width: 3px }
    /// #     @media print { p { color: black } }</style><body><p id=one class=lead>Hello <b>you</b></p><p id=two>Bye</p></body>",
    /// # );
    /// # let page = Study::open(&files, "a.html")?;
    /// use clear_cascade::Viewing;
    /// let printed = page.seen_with(Viewing::print())?;
    /// assert_eq!(printed.viewing().medium, clear_cascade::viewing::Medium::Print);
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    #[must_use]
    pub fn print() -> Self {
        Self { medium: Medium::Print, ..Self::default() }
    }

    /// With a preference, by the name of its media feature, `prefers-` left out or not: `("color-scheme", "dark")`. One that is none
    /// of [`PREFERENCES`] is told in the notes of the study.
    ///
    /// ```
    /// use clear_cascade::Viewing;
    /// assert!(Viewing::default().prefer("color-scheme", "dark").prefers_dark());
    /// ```
    #[must_use]
    pub fn prefer(mut self, feature: impl Into<String>, value: impl Into<String>) -> Self {
        let feature: String = feature.into();
        let feature = feature.strip_prefix("prefers-").unwrap_or(&feature).to_owned();
        self.preferences.insert(feature, value.into());
        self
    }

    /// With elements under the pointer.
    #[must_use]
    pub fn hover(mut self, elements: impl IntoIterator<Item = ElementId>) -> Self {
        self.states.hover.extend(elements);
        self
    }

    /// With elements being pressed.
    ///
    /// ```
    /// use clear_cascade::{MemoryLoader, Study};
    /// let files = MemoryLoader::default().with("a.html", "<!DOCTYPE html><style>a:visited { color: purple } a:active { color: red } a:target { top: 1px }</style><a id=x href=#x>x</a>");
    /// let page = Study::open(&files, "a.html")?;
    /// use clear_cascade::Viewing;
    /// let a = page.select("a")?[0];
    /// let pressed = page.seen_with(Viewing::default().active([a]))?;
    /// assert_eq!(pressed.value(a, "color").as_deref(), Some("rgb(255, 0, 0)"));
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    #[must_use]
    pub fn active(mut self, elements: impl IntoIterator<Item = ElementId>) -> Self {
        self.states.active.extend(elements);
        self
    }

    /// With elements that have the focus.
    #[must_use]
    pub fn focus(mut self, elements: impl IntoIterator<Item = ElementId>) -> Self {
        self.states.focus.extend(elements);
        self
    }

    /// With links that have been visited.
    ///
    /// ```
    /// use clear_cascade::{MemoryLoader, Study};
    /// let files = MemoryLoader::default().with("a.html", "<!DOCTYPE html><style>a:visited { color: purple } a:active { color: red } a:target { top: 1px }</style><a id=x href=#x>x</a>");
    /// let page = Study::open(&files, "a.html")?;
    /// use clear_cascade::Viewing;
    /// let a = page.select("a")?[0];
    /// let after = page.seen_with(Viewing::default().visited([a]))?;
    /// assert_eq!(after.value(a, "color").as_deref(), Some("rgb(128, 0, 128)"));
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    #[must_use]
    pub fn visited(mut self, elements: impl IntoIterator<Item = ElementId>) -> Self {
        self.states.visited.extend(elements);
        self
    }

    /// With the element that the URL's fragment names.
    ///
    /// ```
    /// use clear_cascade::{MemoryLoader, Study};
    /// let files = MemoryLoader::default().with("a.html", "<!DOCTYPE html><style>a:visited { color: purple } a:active { color: red } a:target { top: 1px }</style><a id=x href=#x>x</a>");
    /// let page = Study::open(&files, "a.html")?;
    /// use clear_cascade::Viewing;
    /// let a = page.select("a")?[0];
    /// let after = page.seen_with(Viewing::default().target([a]))?;
    /// assert_eq!(after.value(a, "top").as_deref(), Some("1px"));
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    #[must_use]
    pub fn target(mut self, elements: impl IntoIterator<Item = ElementId>) -> Self {
        self.states.target.extend(elements);
        self
    }

    /// The same for a page, checked: the ids of elements as those of the page, and a viewport that has a size.
    pub(crate) fn on_page(mut self, document: &Document) -> Result<Self, ViewingError> {
        let size = |n: f64| n.is_finite() && n >= 0.0;
        if !size(self.width) || !size(self.height) {
            return Err(ViewingError::Size { width: self.width, height: self.height });
        }
        for element in self.states.lists().into_iter().flatten() {
            *element = document.own(*element)?;
        }
        Ok(self)
    }

    /// What is asked for that there is not: preferences without a feature of that name, or with a value that it does not have.
    pub(crate) fn unknown(&self) -> Vec<String> {
        let told = |(feature, value): (&String, &String)| match PREFERENCES.iter().find(|(f, _)| f == feature) {
            None => Some(format!("there is no preference `{feature}`; nothing on the page can ask for it")),
            Some((_, values)) if values.contains(&value.as_str()) => None,
            Some((_, values)) => {
                Some(format!("the preference `{feature}` is never `{value}`, but {}", values.join(", ")))
            }
        };
        self.preferences.iter().filter_map(told).collect()
    }

    /// Whether a dark colour scheme is preferred.
    #[must_use]
    pub fn prefers_dark(&self) -> bool {
        self.preferences.get("color-scheme").is_some_and(|v| v == "dark")
    }
}
