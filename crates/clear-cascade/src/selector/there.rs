//! When pseudo-elements are there to be styled (CSS Pseudo 4; HTML Standard, "Rendering").

use super::PseudoElement;
use crate::document::Element;

/// What decides whether a pseudo-element is there.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum There {
    /// Its own `content` (CSS Pseudo 4, §4.1).
    Content,
    /// Whether the element is a list item.
    ListItem,
    /// An attribute for the text that it shows.
    Placeholder,
    /// Whether the element is an upload control.
    FileButton,
    /// Whether the element is a `<details>`.
    Details,
    /// Whether the element may be on the top layer.
    Backdrop,
    /// Whether the element is a select that drops down: what is in it inherits from it.
    Picker,
    /// Nothing: each element may have it.
    Always,
    /// Nothing: none has it here.
    Never,
}

impl PseudoElement {
    /// What decides whether it is there.
    pub(crate) fn there(&self) -> There {
        match &*self.name {
            "before" | "after" => There::Content,
            "marker" => There::ListItem,
            "placeholder" => There::Placeholder,
            "file-selector-button" => There::FileButton,
            "details-content" => There::Details,
            "backdrop" => There::Backdrop,
            "first-line" | "first-letter" | "selection" | "target-text" => There::Always,
            "picker" if self.argument.as_deref() == Some("select") => There::Picker,
            _ => There::Never,
        }
    }
}

impl There {
    /// Whether an element may have it, as far as the element itself tells.
    pub(crate) fn may_be_on(self, element: &Element) -> bool {
        match self {
            Self::Content | Self::ListItem | Self::Picker | Self::Always => true,
            Self::Placeholder => element.attribute("placeholder").is_some(),
            Self::FileButton => element.attribute("type").is_some_and(|t| t.eq_ignore_ascii_case("file")),
            Self::Details => element.is_html("details"),
            Self::Backdrop => element.is_html("dialog") || element.attribute("popover").is_some(),
            Self::Never => false,
        }
    }
}
