//! What is straight around elements besides their parents: boxes that browsers put there, and pseudo-elements.

use super::Style;
use super::appearance;
use crate::document::{Element, ElementId};
use crate::page::Page;
use crate::property::id;
use crate::selector::{PseudoElement, There};

/// Elements whose contents browsers put into a box of their own, and whether that is there for layout.
const BOXING: [(&str, bool); 4] = [("optgroup", false), ("option", true), ("marquee", true), ("object", false)];

/// What is straight around an element.
pub(crate) enum Around {
    /// Its parent.
    Parent,
    /// A box of the browser's own that pages cannot reach.
    Plain,
    /// The same with a layout of its own.
    Solid,
    /// A pseudo-element of its parent.
    Pseudo(PseudoElement),
}

impl Around {
    /// What is around an element (HTML Standard, "The details and summary elements", "The select element"). What a page
    /// hides in a shadow tree of its own is told by that tree.
    pub(crate) fn of(page: &Page, id: ElementId) -> Self {
        let document = &page.document;
        let Some(outer) = document.flat_parent(id).filter(|p| document.node(*p).shadow == 0) else {
            return Self::Parent;
        };
        let parent = document.node(outer);
        if parent.is_html("details") {
            let first = parent.child_elements().find(|c| document.node(*c).is_html("summary"));
            let content = || Self::Pseudo(PseudoElement::named("details-content"));
            if first == Some(id) { Self::Plain } else { content() }
        } else if parent.is_html("select") {
            appearance::box_in_select(document, outer, id).map_or(Self::Plain, Self::Pseudo)
        } else {
            let boxing = BOXING.iter().find(|(name, _)| parent.is_html(name));
            boxing.map_or(Self::Parent, |(_, solid)| if *solid { Self::Solid } else { Self::Plain })
        }
    }

    /// Whether it hands on nothing but what inherits by itself.
    pub(crate) fn is_plain(&self) -> bool {
        matches!(self, Self::Plain | Self::Solid)
    }

    /// The pseudo-element that it is.
    pub(crate) fn pseudo(&self) -> Option<&PseudoElement> {
        if let Self::Pseudo(name) = self { Some(name) } else { None }
    }
}

/// Whether a pseudo-element is there to be styled: `::before` and `::after` with content (CSS Pseudo 4, §4.1), others
/// where the element is of a kind that has them. Whether a box comes of it depends on `display` as for any element.
pub(crate) fn is_generated(name: &PseudoElement, style: &Style, of: &Style, element: &Element) -> bool {
    let (content, there) = (style.get(id::CONTENT), name.there());
    there != There::Picker && may_be_there(there, of, element, &|| !content.is("none") && !content.is("normal"))
}

/// The same before the style of the pseudo-element is known; `content` says whether it may have content.
pub(super) fn may_be_there(there: There, of: &Style, element: &Element, content: &dyn Fn() -> bool) -> bool {
    match there {
        There::Content => content(),
        There::ListItem => of.get(id::DISPLAY).as_keyword().is_some_and(|d| d.contains("list-item")),
        other => other.may_be_on(element),
    }
}
