//! What the markup says about form controls (HTML Standard, "Pseudo-classes").

use super::super::state::State;
use crate::document::{Document, Element, ElementId, Namespace};

/// Input types to which text is typed.
const TEXTUAL: &[&str] = &["text", "search", "url", "tel", "email", "password", "number"];
/// Input types that `readonly` applies to.
const EDITABLE: &[&str] =
    &["text", "search", "url", "tel", "email", "password", "number", "date", "month", "week", "time", "datetime-local"];
/// Input types that `required` applies to.
const REQUIRABLE: &[&str] = &[
    "text",
    "search",
    "url",
    "tel",
    "email",
    "password",
    "number",
    "date",
    "month",
    "week",
    "time",
    "datetime-local",
    "checkbox",
    "radio",
    "file",
];
/// All input types other than `text`.
const TYPES: &[&str] = &[
    "hidden",
    "search",
    "tel",
    "url",
    "email",
    "password",
    "date",
    "month",
    "week",
    "time",
    "datetime-local",
    "number",
    "range",
    "color",
    "checkbox",
    "radio",
    "file",
    "submit",
    "image",
    "reset",
    "button",
];

/// The type of an `<input>`; unknown ones are `text`.
fn input_type(element: &Element) -> String {
    let written = element.attribute("type").unwrap_or_default().to_ascii_lowercase();
    if TYPES.contains(&&*written) { written } else { "text".to_owned() }
}

/// Whether an element is in a state of form controls.
pub(in crate::selector) fn state(document: &Document, state: State, id: ElementId) -> bool {
    let element = document.element(id);
    if element.namespace != Namespace::Html {
        return state == State::ReadOnly;
    }
    let name = &*element.name;
    let is = |names: &[&str]| names.contains(&name);
    let has = |attribute: &str| element.attribute(attribute).is_some();
    let typed = |types: &[&str]| name == "input" && types.contains(&&*input_type(element));
    match state {
        State::Enabled => is(DISABLEABLE) && !is_disabled(document, id),
        State::Disabled => is(DISABLEABLE) && is_disabled(document, id),
        State::Checked => {
            (typed(&["checkbox", "radio"]) && is_checked(document, id))
                || (name == "option" && is_selected(document, id))
        }
        State::Unchecked => {
            (typed(&["checkbox", "radio"]) && !is_checked(document, id))
                || (name == "option" && !is_selected(document, id))
        }
        State::Default => {
            (typed(&["checkbox", "radio"]) && has("checked"))
                || (name == "option" && has("selected"))
                || is_default_button(document, id)
        }
        State::Indeterminate => {
            (name == "progress" && !has("value"))
                || (typed(&["radio"]) && !group(document, id).iter().any(|e| checked_attribute(document, *e)))
        }
        State::Required => (typed(REQUIRABLE) || is(&["select", "textarea"])) && has("required"),
        State::Optional => {
            is(&["input", "select", "textarea"])
                && !((typed(REQUIRABLE) || is(&["select", "textarea"])) && has("required"))
        }
        State::ReadWrite => is_read_write(document, id),
        State::ReadOnly => !is_read_write(document, id),
        State::PlaceholderShown => {
            let value = if name == "textarea" {
                document.text(id)
            } else {
                element.attribute("value").unwrap_or_default().to_owned()
            };
            (typed(TEXTUAL) || name == "textarea") && has("placeholder") && value.is_empty()
        }
        State::InRange => range(document, id) == Some(true),
        State::OutOfRange => range(document, id) == Some(false),
        State::Valid => validity(document, id) == Some(true),
        State::Invalid => validity(document, id) == Some(false),
        _ => false,
    }
}

/// Elements that can be disabled.
const DISABLEABLE: &[&str] = &["button", "input", "select", "textarea", "optgroup", "option", "fieldset"];

/// Whether an element is actually disabled (HTML Standard, "actually disabled").
fn is_disabled(document: &Document, id: ElementId) -> bool {
    let element = document.element(id);
    let has = |e: ElementId| document.element(e).attribute("disabled").is_some();
    match &*element.name {
        "option" => {
            // Browsers take the options of a disabled `select` as disabled too.
            let select = document.lineage(id).skip(1).find(|e| document.element(*e).is_html("select"));
            has(id)
                || element.parent.is_some_and(|p| document.element(p).is_html("optgroup") && has(p))
                || select.is_some_and(|s| is_disabled(document, s))
        }
        "optgroup" => has(id),
        _ => has(id) || in_disabled_fieldset(document, id),
    }
}

/// Whether a disabled `<fieldset>` is around an element, other than through its first `<legend>`.
fn in_disabled_fieldset(document: &Document, id: ElementId) -> bool {
    let mut inside = id;
    document.lineage(id).skip(1).any(|ancestor| {
        let element = document.element(ancestor);
        let found = element.is_html("fieldset") && element.attribute("disabled").is_some() && {
            let legend = element.child_elements().find(|c| document.element(*c).is_html("legend"));
            legend != Some(inside)
        };
        inside = ancestor;
        found
    })
}

/// Whether the `checked` attribute is there.
fn checked_attribute(document: &Document, id: ElementId) -> bool {
    document.element(id).attribute("checked").is_some()
}

/// Whether a check box or radio button is checked as the page loads: of a group of radio buttons, the last written so.
fn is_checked(document: &Document, id: ElementId) -> bool {
    if !checked_attribute(document, id) {
        return false;
    }
    if input_type(document.element(id)) != "radio" {
        return true;
    }
    group(document, id).into_iter().rfind(|e| checked_attribute(document, *e)).unwrap_or(id) == id
}

/// The radio buttons of one group, in document order.
fn group(document: &Document, id: ElementId) -> Vec<ElementId> {
    let name = document.element(id).attribute("name").unwrap_or_default();
    if name.is_empty() {
        return vec![id];
    }
    let owner = form_owner(document, id);
    document
        .ids()
        .filter(|e| {
            let element = document.element(*e);
            element.is_html("input")
                && input_type(element) == "radio"
                && element.attribute("name") == Some(name)
                && form_owner(document, *e) == owner
        })
        .collect()
}

/// The form that a control belongs to.
fn form_owner(document: &Document, id: ElementId) -> Option<ElementId> {
    if let Some(form) = document.element(id).attribute("form") {
        return document
            .ids()
            .find(|e| document.element(*e).id.as_deref() == Some(form))
            .filter(|e| document.element(*e).is_html("form"));
    }
    document.lineage(id).skip(1).find(|e| document.element(*e).is_html("form"))
}

/// Whether an option is selected as the page loads.
fn is_selected(document: &Document, id: ElementId) -> bool {
    let select = document.lineage(id).skip(1).find(|e| document.element(*e).is_html("select"));
    let Some(select) = select else {
        return document.element(id).attribute("selected").is_some();
    };
    let element = document.element(select);
    let selected = |e: &ElementId| document.element(*e).attribute("selected").is_some();
    if element.attribute("multiple").is_some() {
        return selected(&id);
    }
    let depth = element.depth;
    let options: Vec<ElementId> = document
        .ids()
        .skip(select.index() + 1)
        .take_while(|e| document.element(*e).depth > depth)
        .filter(|e| document.element(*e).is_html("option"))
        .collect();
    let size = element.attribute("size").and_then(|s| s.trim().parse::<u32>().ok()).unwrap_or(1);
    let first = || options.iter().find(|e| !is_disabled(document, **e)).filter(|_| size <= 1);
    options.iter().rfind(|e| selected(e)).or_else(first) == Some(&id)
}

/// Whether an element is a button that submits.
fn submits(document: &Document, id: ElementId) -> bool {
    let element = document.element(id);
    match &*element.name {
        "input" => matches!(&*input_type(element), "submit" | "image"),
        "button" => {
            !matches!(element.attribute("type").map(str::to_ascii_lowercase).as_deref(), Some("button" | "reset"))
        }
        _ => false,
    }
}

/// Whether an element is the first button of its form that submits.
fn is_default_button(document: &Document, id: ElementId) -> bool {
    submits(document, id)
        && form_owner(document, id).is_some_and(|form| {
            document.ids().find(|e| submits(document, *e) && form_owner(document, *e) == Some(form)) == Some(id)
        })
}

/// Whether a user can change an element (HTML Standard, ":read-write").
fn is_read_write(document: &Document, id: ElementId) -> bool {
    let element = document.element(id);
    let editable = match &*element.name {
        "input" => EDITABLE.contains(&&*input_type(element)),
        "textarea" => true,
        _ => {
            return document
                .lineage(id)
                .find_map(|e| document.element(e).attribute("contenteditable").map(str::to_ascii_lowercase))
                .is_some_and(|v| matches!(&*v, "" | "true" | "plaintext-only"));
        }
    };
    editable && element.attribute("readonly").is_none() && !is_disabled(document, id)
}

/// Whether the value lies between `min` and `max`; nothing where the control has no range or no value.
fn range(document: &Document, id: ElementId) -> Option<bool> {
    let element = document.element(id);
    let kind = (&*element.name == "input").then(|| input_type(element))?;
    if !matches!(&*kind, "number" | "range" | "date" | "month" | "week" | "time" | "datetime-local")
        || is_barred(document, id)
    {
        return None;
    }
    let read = |name: &str| element.attribute(name).and_then(|v| number_of(&kind, v));
    let (min, max) = if kind == "range" {
        (read("min").or(Some(0.0)), read("max").or(Some(100.0)))
    } else {
        (read("min"), read("max"))
    };
    if min.is_none() && max.is_none() {
        return None;
    }
    let Some(value) = read("value").filter(|_| kind != "range") else {
        return Some(true);
    };
    Some(min.is_none_or(|m| value >= m) && max.is_none_or(|m| value <= m))
}

/// The number behind the text of a control; dates and times as something that orders as they do.
fn number_of(kind: &str, text: &str) -> Option<f64> {
    let text = text.trim();
    if matches!(kind, "number" | "range") {
        return text.parse().ok().filter(|n: &f64| n.is_finite());
    }
    let parts: Option<Vec<f64>> =
        text.split(['-', ':', 'T', ' ']).map(|p| p.trim_start_matches('W').parse().ok()).collect();
    let wanted = match kind {
        "date" => 3..=3,
        "month" | "week" => 2..=2,
        "time" => 2..=3,
        _ => 5..=6,
    };
    let parts = parts.filter(|p| wanted.contains(&p.len()))?;
    Some(parts.iter().chain(std::iter::repeat(&0.0)).take(6).fold(0.0, |sum, p| sum * 100.0 + p))
}

/// Whether a control takes no part in validation.
fn is_barred(document: &Document, id: ElementId) -> bool {
    let element = document.element(id);
    is_disabled(document, id)
        || element.attribute("readonly").is_some()
        || document.lineage(id).skip(1).any(|e| document.element(e).is_html("datalist"))
}

/// Whether a control or form is valid as the page loads; nothing for elements that are never validated.
fn validity(document: &Document, id: ElementId) -> Option<bool> {
    let element = document.element(id);
    match &*element.name {
        "form" => Some(!document.ids().any(|e| {
            is_control(document, e) && form_owner(document, e) == Some(id) && validity(document, e) == Some(false)
        })),
        "fieldset" => {
            let depth = element.depth;
            let mut inside = document.ids().skip(id.index() + 1).take_while(|e| document.element(*e).depth > depth);
            Some(!inside.any(|e| is_control(document, e) && validity(document, e) == Some(false)))
        }
        _ if !is_control(document, id) || is_barred(document, id) => None,
        "button" => submits(document, id).then_some(true),
        "output" | "object" => None,
        _ => Some(control_is_valid(document, id)),
    }
}

/// Whether an element is a control that can be validated.
fn is_control(document: &Document, id: ElementId) -> bool {
    let element = document.element(id);
    match &*element.name {
        "input" => !matches!(&*input_type(element), "hidden" | "reset" | "button"),
        "select" | "textarea" => true,
        "button" => submits(document, id),
        _ => false,
    }
}

/// Whether the value of a control suits it: required values, ranges, addresses and steps.
fn control_is_valid(document: &Document, id: ElementId) -> bool {
    let element = document.element(id);
    let required = element.attribute("required").is_some();
    let value = element.attribute("value").unwrap_or_default();
    match &*element.name {
        "textarea" => !(required && document.text(id).is_empty()),
        "select" => {
            // Nothing chosen, or only the placeholder: the first option, where its value is empty (HTML Standard,
            // "placeholder label option").
            let inside = document.ids().skip(id.index() + 1).take_while(|e| document.element(*e).depth > element.depth);
            let options: Vec<ElementId> = inside.filter(|e| document.element(*e).is_html("option")).collect();
            let chosen: Vec<ElementId> = options.iter().copied().filter(|e| is_selected(document, *e)).collect();
            let value = |e: ElementId| {
                let option = document.element(e);
                option.attribute("value").map_or_else(|| document.text(e).trim().to_owned(), str::to_owned)
            };
            let drop_down = element.attribute("multiple").is_none()
                && element.attribute("size").is_none_or(|s| s.trim() == "1" || s.trim() == "0");
            let placeholder = options
                .first()
                .filter(|o| drop_down && value(**o).is_empty() && document.element(**o).parent == Some(id));
            !(required && chosen.iter().all(|c| Some(c) == placeholder))
        }
        _ => {
            let kind = input_type(element);
            let missing = required
                && match &*kind {
                    "checkbox" => !checked_attribute(document, id),
                    "radio" => !group(document, id).iter().any(|e| checked_attribute(document, *e)),
                    "file" => true,
                    k if REQUIRABLE.contains(&k) => match k {
                        "number" | "date" | "month" | "week" | "time" | "datetime-local" => {
                            number_of(k, value).is_none()
                        }
                        _ => value.is_empty(),
                    },
                    _ => false,
                };
            let group_required = kind == "radio"
                && group(document, id).iter().any(|e| document.element(*e).attribute("required").is_some())
                && !group(document, id).iter().any(|e| checked_attribute(document, *e));
            let mistyped = !value.is_empty()
                && match &*kind {
                    "email" => !is_email(value.trim()),
                    "url" => url::Url::parse(value.trim()).is_err(),
                    _ => false,
                };
            !missing
                && !group_required
                && !mistyped
                && range(document, id) != Some(false)
                && !off_step(element, &kind, value)
        }
    }
}

/// Whether a number lies between two steps of its control.
fn off_step(element: &Element, kind: &str, value: &str) -> bool {
    if kind != "number" {
        return false;
    }
    let step = match element.attribute("step") {
        Some(s) if s.eq_ignore_ascii_case("any") => return false,
        Some(s) => s.parse::<f64>().ok().filter(|n| *n > 0.0).unwrap_or(1.0),
        None => 1.0,
    };
    let base = element
        .attribute("min")
        .or_else(|| element.attribute("value"))
        .and_then(|m| m.parse::<f64>().ok())
        .unwrap_or(0.0);
    let base = if element.attribute("min").is_some() {
        base
    } else {
        element.attribute("value").and_then(|m| m.parse().ok()).unwrap_or(base)
    };
    value.parse::<f64>().is_ok_and(|v| {
        let steps = (v - base) / step;
        (steps - steps.round()).abs() > 1e-9
    })
}

/// Whether a text is a valid e-mail address (HTML Standard, "valid email address").
fn is_email(text: &str) -> bool {
    let Some((local, domain)) = text.split_once('@') else {
        return false;
    };
    let local_fits = |c: char| c.is_ascii_alphanumeric() || ".!#$%&'*+/=?^_`{|}~-".contains(c);
    let label_fits = |l: &str| {
        !l.is_empty()
            && l.len() <= 63
            && !l.starts_with('-')
            && !l.ends_with('-')
            && l.chars().all(|c| c.is_ascii_alphanumeric() || c == '-')
    };
    !local.is_empty() && local.chars().all(local_fits) && domain.split('.').all(label_fits)
}
