//! Pseudo-classes without arguments that stand for a state of an element.
//!
//! HTML Standard, "Pseudo-classes". Some follow from the markup alone; some come true only when a question asks for
//! them (`:hover`); of these the page as loaded has none.

use crate::viewing::States;

/// A state an element may be in.
///
/// ```
/// use clear_cascade::selector::{PseudoClass, SelectorList, Simple, State};
/// let list: SelectorList = "a:hover".parse()?;
/// let part = &list.selectors[0].subject().parts[1];
/// assert!(matches!(part.simple, Simple::PseudoClass(PseudoClass::State(State::Hover))));
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
#[allow(missing_docs, clippy::missing_docs_in_private_items)]
pub enum State {
    // Links.
    AnyLink,
    Link,
    Visited,
    LocalLink,
    Target,
    TargetWithin,
    // The pointer and the keyboard.
    Hover,
    Active,
    Focus,
    FocusVisible,
    FocusWithin,
    // Forms.
    Enabled,
    Disabled,
    Checked,
    Unchecked,
    Default,
    Indeterminate,
    Required,
    Optional,
    ReadOnly,
    ReadWrite,
    PlaceholderShown,
    InRange,
    OutOfRange,
    Valid,
    Invalid,
    // Elements that open, media, the rest.
    Open,
    Muted,
    Paused,
    HasSlotted,
    Defined,
}

/// The states by name.
const STATES: &[(&str, State)] = &[
    ("active", State::Active),
    ("any-link", State::AnyLink),
    ("-webkit-any-link", State::AnyLink),
    ("checked", State::Checked),
    ("default", State::Default),
    ("defined", State::Defined),
    ("disabled", State::Disabled),
    ("enabled", State::Enabled),
    ("focus", State::Focus),
    ("focus-visible", State::FocusVisible),
    ("focus-within", State::FocusWithin),
    ("hover", State::Hover),
    ("in-range", State::InRange),
    ("indeterminate", State::Indeterminate),
    ("invalid", State::Invalid),
    ("link", State::Link),
    ("local-link", State::LocalLink),
    ("muted", State::Muted),
    ("open", State::Open),
    ("optional", State::Optional),
    ("has-slotted", State::HasSlotted),
    ("paused", State::Paused),
    ("out-of-range", State::OutOfRange),
    ("placeholder-shown", State::PlaceholderShown),
    ("read-only", State::ReadOnly),
    ("read-write", State::ReadWrite),
    ("required", State::Required),
    ("target", State::Target),
    ("target-within", State::TargetWithin),
    ("unchecked", State::Unchecked),
    ("valid", State::Valid),
    ("visited", State::Visited),
];

/// Standard pseudo-classes that no element of a page as loaded, unscripted and untouched, is in.
pub(super) const NEVER: &[&str] = &[
    "active-view-transition",
    "animated-image",
    "autofill",
    "-webkit-autofill",
    "buffering",
    "current",
    "fullscreen",
    "-webkit-full-screen",
    "future",
    "interest-source",
    "interest-target",
    "modal",
    "past",
    "picture-in-picture",
    "playing",
    "popover-open",
    "seeking",
    "stalled",
    "target-after",
    "target-before",
    "target-current",
    "user-invalid",
    "user-valid",
    "volume-locked",
    "xr-overlay",
    "-webkit-drag",
    "-webkit-full-page-media",
    "window-inactive",
];

impl State {
    /// The state with this name, in lower case.
    pub(super) fn named(name: &str) -> Option<Self> {
        Self::at(Self::place(name)?)
    }

    /// The place of a name among those of states.
    pub(super) fn place(name: &str) -> Option<u8> {
        STATES.iter().position(|(n, _)| *n == name).and_then(|place| u8::try_from(place).ok())
    }

    /// The state in a place.
    pub(super) fn at(place: u8) -> Option<Self> {
        STATES.get(usize::from(place)).map(|(_, state)| *state)
    }

    /// Why no element is in the state as long as a question does not ask for it; nothing where the markup decides.
    pub(super) fn off_reason(self) -> Option<&'static str> {
        Some(match self {
            Self::Visited => "no link counts as visited",
            Self::Target | Self::TargetWithin => "no element is the target of the page's address",
            Self::Hover => "the pointer is on no element",
            Self::Active => "no element is being pressed",
            Self::Focus | Self::FocusVisible | Self::FocusWithin => "no element has the focus",
            _ => return None,
        })
    }

    /// Whether some element may be in the state where these are asked for.
    pub(crate) fn may_be_on(self, states: &States) -> bool {
        match self {
            Self::Visited => !states.visited.is_empty(),
            Self::Target | Self::TargetWithin => !states.target.is_empty(),
            Self::Hover => !states.hover.is_empty(),
            Self::Active => !states.active.is_empty(),
            Self::Focus | Self::FocusVisible | Self::FocusWithin => !states.focus.is_empty(),
            _ => true,
        }
    }

    /// The name it is written with.
    ///
    /// ```
    /// use clear_cascade::selector::State;
    /// assert_eq!(State::FocusWithin.name(), "focus-within");
    /// ```
    #[must_use]
    pub fn name(self) -> &'static str {
        STATES.iter().find(|(_, s)| *s == self).map_or("", |(n, _)| n)
    }
}

/// The names of all states and of those never true, for finding the one that was meant.
pub(super) fn names() -> impl Iterator<Item = &'static str> {
    STATES.iter().map(|(n, _)| *n).chain(NEVER.iter().copied()).filter(|n| !n.starts_with('-'))
}
