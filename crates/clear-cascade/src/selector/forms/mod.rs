//! States of form controls as the page loads (HTML Standard, "Pseudo-classes").
//!
//! What comes in: an element. What goes out: whether its markup and that of its form put it into a state.

mod pattern;
mod validity;
mod value;

use self::value::{InputType, Range, number, textarea, value};
use super::state::State;
use crate::document::{Document, Element, ElementId, Namespace};

/// Whether a control has a value and a `pattern` for it that is no regular expression, and so does not count (HTML Standard,
/// "compiled pattern regular expression").
pub(crate) fn has_idle_pattern(document: &Document, id: ElementId) -> bool {
    let element = document.node(id);
    let takes_one = InputType::of(element).is_some_and(|kind| kind.is_textual() && !value(element, kind).is_empty());
    takes_one && element.attribute("pattern").is_some_and(|text| !pattern::Pattern::is_one(text))
}

/// Whether an element is a control with a placeholder (HTML Standard, "The placeholder attribute").
pub(super) fn has_placeholder(element: &Element) -> bool {
    let takes_one = InputType::of(element).map_or_else(|| element.is_html("textarea"), InputType::has_placeholder);
    takes_one && element.attribute("placeholder").is_some()
}

/// Whether an element is in a state of form controls.
pub(in crate::selector) fn state(document: &Document, state: State, id: ElementId) -> bool {
    let element = document.node(id);
    if element.namespace != Namespace::Html {
        // An SVG or MathML element is never read-only; one that users can edit may still be read-write.
        return state == State::ReadWrite && is_editable(document, id);
    }
    let name = &*element.name;
    let kind = InputType::of(element);
    let is = |names: &[&str]| names.contains(&name);
    let has = |attribute: &str| element.attribute(attribute).is_some();
    let ticked = matches!(kind, Some(InputType::Checkbox | InputType::Radio));
    let may_be_required = is(&["select", "textarea"]) || kind.is_some_and(InputType::may_be_required);
    match state {
        State::Enabled => is(DISABLEABLE) && !is_disabled(document, id),
        State::Disabled => is(DISABLEABLE) && is_disabled(document, id),
        State::Checked => (ticked && is_checked(document, id)) || (name == "option" && is_selected(document, id)),
        State::Unchecked => (ticked && !is_checked(document, id)) || (name == "option" && !is_selected(document, id)),
        State::Default => {
            (ticked && has("checked")) || (name == "option" && has("selected")) || is_default_button(document, id)
        }
        State::Indeterminate => match kind {
            Some(InputType::Radio) => document.radio_group(id).checked.is_none(),
            _ => name == "progress" && !has("value"),
        },
        State::Required => may_be_required && has("required"),
        State::Optional => is(&["input", "select", "textarea"]) && !(may_be_required && has("required")),
        State::ReadWrite => is_read_write(document, id),
        State::ReadOnly => !is_read_write(document, id),
        State::PlaceholderShown => {
            has_placeholder(element)
                && kind.map_or_else(|| textarea(document, id).is_empty(), |kind| value(element, kind).is_empty())
        }
        State::InRange => range(document, id) == Some(true),
        State::OutOfRange => range(document, id) == Some(false),
        State::Valid => validity::validity(document, id) == Some(true),
        State::Invalid => validity::validity(document, id) == Some(false),
        _ => false,
    }
}

/// Whether the value of a control lies within its limits; nothing where it has none.
fn range(document: &Document, id: ElementId) -> Option<bool> {
    let element = document.node(id);
    let kind = InputType::of(element).filter(|k| k.has_range() && validity::is_candidate(document, id))?;
    let range = Range::of(element, kind);
    (range.min.is_some() || range.max.is_some()).then(|| {
        let number = number(kind, &value(element, kind)).filter(|_| kind != InputType::Range);
        number.is_none_or(|n| range.holds(kind, n))
    })
}

/// Elements that can be disabled.
const DISABLEABLE: &[&str] = &["button", "input", "select", "textarea", "optgroup", "option", "fieldset"];

/// Whether an element is actually disabled (HTML Standard, "actually disabled").
fn is_disabled(document: &Document, id: ElementId) -> bool {
    let element = document.node(id);
    let has = |e: ElementId| document.node(e).attribute("disabled").is_some();
    match &*element.name {
        "option" => {
            // Browsers take the options of a disabled `select` as disabled too.
            let select = document.lineage(id).skip(1).find(|e| document.node(*e).is_html("select"));
            has(id)
                || element.parent.is_some_and(|p| document.node(p).is_html("optgroup") && has(p))
                || select.is_some_and(|s| is_disabled(document, s))
        }
        "optgroup" => {
            has(id)
                || document.lineage(id).skip(1).any(|e| document.node(e).is_html("select") && is_disabled(document, e))
        }
        _ => has(id) || in_disabled_fieldset(document, id),
    }
}

/// Whether a disabled `<fieldset>` is around an element, other than through its first `<legend>`.
fn in_disabled_fieldset(document: &Document, id: ElementId) -> bool {
    let mut inside = id;
    document.lineage(id).skip(1).any(|ancestor| {
        let element = document.node(ancestor);
        let found = element.is_html("fieldset") && element.attribute("disabled").is_some() && {
            let legend = element.child_elements().find(|c| document.node(*c).is_html("legend"));
            legend != Some(inside)
        };
        inside = ancestor;
        found
    })
}

/// Whether the `checked` attribute is there.
fn checked_attribute(document: &Document, id: ElementId) -> bool {
    document.node(id).attribute("checked").is_some()
}

/// Whether a check box or radio button is checked as the page loads: of a group of radio buttons, the last written so.
fn is_checked(document: &Document, id: ElementId) -> bool {
    if !checked_attribute(document, id) {
        return false;
    }
    if InputType::of(document.node(id)) != Some(InputType::Radio) {
        return true;
    }
    document.radio_group(id).checked.unwrap_or(id) == id
}

/// Whether an option is selected as the page loads (HTML Standard, "selectedness setting algorithm").
fn is_selected(document: &Document, id: ElementId) -> bool {
    let select = document.lineage(id).skip(1).find(|e| document.node(*e).is_html("select"));
    match select.filter(|s| document.node(*s).attribute("multiple").is_none()) {
        Some(select) => document.chosen_option(select) == Some(id),
        None => document.node(id).attribute("selected").is_some(),
    }
}

/// Whether an element is a button that submits.
fn submits(document: &Document, id: ElementId) -> bool {
    let element = document.node(id);
    match &*element.name {
        "input" => matches!(InputType::of(element), Some(InputType::Submit | InputType::Image)),
        "button" => {
            !matches!(element.attribute("type").map(str::to_ascii_lowercase).as_deref(), Some("button" | "reset"))
        }
        _ => false,
    }
}

/// Whether an element is the first button of its form that submits.
fn is_default_button(document: &Document, id: ElementId) -> bool {
    submits(document, id)
        && document.form_owner(id).is_some_and(|form| {
            document.ids().find(|e| submits(document, *e) && document.form_owner(*e) == Some(form)) == Some(id)
        })
}

/// Whether a user can change an element (HTML Standard, ":read-write").
fn is_read_write(document: &Document, id: ElementId) -> bool {
    let element = document.node(id);
    let control = match &*element.name {
        "input" => InputType::of(element).is_some_and(InputType::is_editable),
        "textarea" => true,
        _ => return is_editable(document, id),
    };
    control && element.attribute("readonly").is_none() && !is_disabled(document, id)
}

/// Whether an element is an editing host or inside of one (HTML Standard, "contenteditable"; execCommand, "editable"): a
/// value that is none leaves it to the parent, and inside `<svg>` and `<math>` nothing is edited.
fn is_editable(document: &Document, id: ElementId) -> bool {
    let mut foreign = false;
    for ancestor in document.lineage(id) {
        let element = document.node(ancestor);
        if element.namespace != Namespace::Html {
            if foreign || !matches!(&*element.name, "svg" | "math") {
                return false;
            }
            foreign = true;
            continue;
        }
        match element.attribute("contenteditable").map(str::to_ascii_lowercase).as_deref() {
            Some("" | "true" | "plaintext-only") => return true,
            Some("false") => return false,
            _ => {}
        }
    }
    false
}
