//! Whether the values of controls and forms suit them as the page loads (HTML Standard, "Form control infrastructure",
//! "Constraints"). What only a user's edits bring about, such as a text that is too long, is not there yet.

use super::pattern::Pattern;
use super::value::{InputType, Range, is_off_step, number, textarea, value};
use super::{is_disabled, is_selected, submits};
use crate::document::{Document, ElementId};

/// Whether a control, form or field set is valid; nothing for what is never validated.
pub(super) fn validity(document: &Document, id: ElementId) -> Option<bool> {
    let element = document.node(id);
    match &*element.name {
        "form" => Some(!document.ids().any(|e| is_invalid(document, e) && document.form_owner(e) == Some(id))),
        "fieldset" => {
            let depth = element.depth;
            let mut inside = document.all_ids().skip(id.index() + 1).take_while(|e| document.node(*e).depth > depth);
            Some(!inside.any(|e| is_invalid(document, e)))
        }
        _ => is_candidate(document, id).then(|| is_valid(document, id)),
    }
}

/// Whether an element is a control whose value does not suit it.
fn is_invalid(document: &Document, id: ElementId) -> bool {
    is_candidate(document, id) && !is_valid(document, id)
}

/// Whether a control takes part in validation ("candidate for constraint validation").
pub(super) fn is_candidate(document: &Document, id: ElementId) -> bool {
    let element = document.node(id);
    let read_only = element.attribute("readonly").is_some();
    let control = match &*element.name {
        "input" => match InputType::of(element) {
            Some(InputType::Hidden | InputType::Reset | InputType::Button) | None => false,
            Some(_) => !read_only,
        },
        "textarea" => !read_only,
        "select" => true,
        "button" => submits(document, id),
        _ => false,
    };
    control
        && crate::document::Namespace::Html == element.namespace
        && !is_disabled(document, id)
        && !document.lineage(id).skip(1).any(|e| document.node(e).is_html("datalist"))
}

/// Whether the value of a control suits it.
fn is_valid(document: &Document, id: ElementId) -> bool {
    let element = document.node(id);
    let required = element.attribute("required").is_some();
    match &*element.name {
        "textarea" => !(required && textarea(document, id).is_empty()),
        "select" => !(required && nothing_chosen(document, id)),
        _ => InputType::of(element).is_none_or(|kind| input_is_valid(document, id, kind)),
    }
}

/// Whether a `<select>` has nothing chosen but what stands for nothing ("placeholder label option").
fn nothing_chosen(document: &Document, id: ElementId) -> bool {
    let element = document.node(id);
    let all = document.options(id);
    let value = |e: ElementId| {
        let words = || document.text(e).split_ascii_whitespace().collect::<Vec<_>>().join(" ");
        document.node(e).attribute("value").map_or_else(words, str::to_owned)
    };
    let drop_down = element.attribute("multiple").is_none() && element.display_size() == 1;
    let placeholder =
        all.first().filter(|o| drop_down && value(**o).is_empty() && document.node(**o).parent == Some(id));
    all.iter().filter(|o| is_selected(document, **o)).all(|chosen| Some(chosen) == placeholder)
}

/// Whether the value of an `<input>` suits it.
fn input_is_valid(document: &Document, id: ElementId, kind: InputType) -> bool {
    let element = document.node(id);
    let required = element.attribute("required").is_some();
    let checked = |e: &ElementId| super::checked_attribute(document, *e);
    let value = value(element, kind);
    let missing = match kind {
        InputType::Checkbox => required && !checked(&id),
        InputType::Radio => {
            let group = document.radio_group(id);
            group.required && group.checked.is_none()
        }
        InputType::File => required,
        _ => required && kind.may_be_required() && value.is_empty(),
    };
    if missing {
        return false;
    }
    if kind.has_range() {
        // A range control has a value in its range and on a step, whatever is written.
        let number = number(kind, &value).filter(|_| kind != InputType::Range);
        return number.is_none_or(|n| Range::of(element, kind).holds(kind, n) && !is_off_step(element, kind, n));
    }
    if value.is_empty() || !kind.is_textual() {
        return true;
    }
    let many = kind == InputType::Email && element.attribute("multiple").is_some();
    let parts: Vec<&str> = if many { value.split(',').collect() } else { vec![&value] };
    let typed = match kind {
        InputType::Url => url::Url::parse(&value).is_ok(),
        InputType::Email => parts.iter().all(|p| is_email(p)),
        _ => true,
    };
    typed && element.attribute("pattern").and_then(Pattern::read).is_none_or(|p| parts.iter().all(|part| p.takes(part)))
}

/// Whether a text is a valid e-mail address (HTML Standard, "valid email address").
fn is_email(text: &str) -> bool {
    let Some((local, written)) = text.split_once('@') else {
        return false;
    };
    // A name in other letters is looked at as it is sent (URL Standard, "domain to ASCII").
    let domain = match url::Host::parse(written) {
        Ok(url::Host::Domain(ascii)) if !written.is_ascii() => ascii,
        _ => written.to_owned(),
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
