//! Where the defaults for `appearance: base-select` hold.
//!
//! HTML Standard, "The select element": a select with base appearance has styles of its own, and so has what is in it.

use std::borrow::Cow;

use super::entry::{Entry, Subject, Target};
use super::winners::compute_style;
use super::{Style, Styles};
use crate::document::{Document, ElementId};
use crate::page::Page;
use crate::property::Declared;
use crate::property::id;
use crate::selector::PseudoElement;

/// Whether a pseudo-element is that box.
pub(super) fn is_picker(name: &PseudoElement) -> bool {
    &*name.name == "picker" && name.argument.as_deref() == Some("select")
}

/// How the options of a select are shown.
enum Shown {
    /// In a list box.
    Listed,
    /// In a box that drops down.
    Dropped,
    /// In one of several choices that drops down, which browsers always draw with base appearance.
    DroppedMultiple,
}

/// How the options of a select are shown (HTML Standard, "The select element", in "Rendering").
fn shown(document: &Document, select: ElementId) -> Shown {
    let element = document.node(select);
    match (element.display_size(), element.attribute("multiple")) {
        (1, Some(_)) => Shown::DroppedMultiple,
        (1, None) => Shown::Dropped,
        _ => Shown::Listed,
    }
}

/// The box of a select that drops down that a child of it is in: the button that opens it is not in it.
pub(super) fn box_in_select(document: &Document, select: ElementId, child: ElementId) -> Option<PseudoElement> {
    let first = document.node(select).child_elements().next();
    let opens = document.node(child).is_html("button") && first == Some(child);
    let drops = !matches!(shown(document, select), Shown::Listed);
    (drops && !opens).then(picker)
}

/// The box that holds the options of a select that drops down.
fn picker() -> PseudoElement {
    PseudoElement { argument: Some("select".into()), ..PseudoElement::named("picker") }
}

/// Whether the defaults for base appearance hold for an element or one of its pseudo-elements, which has these
/// declarations, weakest first, besides them.
pub(super) fn is_base_select(
    page: &Page,
    styles: &Styles,
    element: ElementId,
    pseudo: Option<&PseudoElement>,
    entries: &[Entry<'_>],
) -> bool {
    let document = &page.document;
    let is_base = |style: &Style| style.get(id::APPEARANCE).is("base-select");
    if document.node(element).is_html("select") {
        if matches!(shown(document, element), Shown::DroppedMultiple) {
            return false;
        }
        if pseudo.is_some_and(|p| !is_picker(p)) {
            return styles.get(element).is_some_and(|s| is_base(s));
        }
        // Mostly it is simply said.
        let strongest = entries.iter().rev().find(|e| e.property == Target::Longhand(id::APPEARANCE));
        return match strongest.and_then(|e| e.declared) {
            None => false,
            Some(Declared::Value(value)) => value.is("base-select"),
            Some(_) => {
                let subject = Subject { page, readings: &styles.readings, element, pseudo, custom: None };
                let own = styles.get(element).filter(|_| pseudo.is_some()).map(|s| Cow::Borrowed(&**s));
                let parent = own.or_else(|| styles.inherits_from(page, element));
                is_base(&compute_style(
                    &subject,
                    entries,
                    (parent.as_deref(), None),
                    styles.get(subject.page.document.root()).map(|r| &**r),
                ))
            }
        };
    }
    let Some(select) = document.flat_lineage(element).find(|e| document.node(*e).is_html("select")) else {
        return false;
    };
    match shown(document, select) {
        Shown::DroppedMultiple => true,
        Shown::Listed => styles.get(select).is_some_and(|s| is_base(s)),
        Shown::Dropped => styles.of(select, Some(&picker())).is_some_and(|s| is_base(s)),
    }
}
