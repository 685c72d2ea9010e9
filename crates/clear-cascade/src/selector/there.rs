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
    /// Whether it stands for a part of the text that something marks, and inherits from the same around it (CSS Pseudo 4, §3; CSS Custom
    /// Highlight API 1, §3).
    pub(crate) fn is_highlight(&self) -> bool {
        let marks = matches!(
            &*self.name,
            "selection" | "target-text" | "highlight" | "search-text" | "spelling-error" | "grammar-error"
        );
        marks && self.then.is_none()
    }

    /// What decides whether it is there.
    pub(crate) fn there(&self) -> There {
        match &*self.name {
            "before" | "after" => There::Content,
            "marker" => There::ListItem,
            "placeholder" => There::Placeholder,
            "file-selector-button" => There::FileButton,
            "details-content" => There::Details,
            "backdrop" => There::Backdrop,
            "first-line" | "first-letter" => There::Always,
            _ if self.is_highlight() => There::Always,
            "picker" if self.argument.as_deref() == Some("select") => There::Picker,
            _ => There::Never,
        }
    }
}

impl There {
    /// Whether it is only told where a page aims at it: what browser defaults say for it is on very many elements.
    pub(crate) fn waits(self) -> bool {
        !matches!(self, Self::Content | Self::Details | Self::Picker)
    }

    /// Whether an element may have it, as far as the element itself tells.
    #[inline(always)]
    pub(crate) fn may_be_on(self, element: &Element) -> bool {
        match self {
            Self::Content | Self::ListItem | Self::Picker | Self::Always => true,
            Self::Placeholder => super::forms::has_placeholder(element),
            Self::FileButton => {
                let file = element.attribute("type").is_some_and(|t| t.eq_ignore_ascii_case("file"));
                file && element.is_html("input")
            }
            Self::Details => element.is_html("details"),
            Self::Backdrop => element.is_html("dialog") || element.attribute("popover").is_some(),
            Self::Never => false,
        }
    }
}
