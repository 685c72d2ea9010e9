//! Whether the values of controls and forms suit them as the page loads (HTML Standard, "Form control infrastructure",
//! "Constraints"). What only a user's edits bring about, such as a text that is too long, is not there yet.

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
    typed
        && element.attribute("pattern").and_then(compiled).is_none_or(|pattern| {
            // One that takes too long to tell does not count either.
            parts.iter().all(|p| pattern.is_match(p).unwrap_or(true))
        })
}

/// A `pattern`, which the whole value has to match; nothing where it is no regular expression, and then it does not
/// count (HTML Standard, "compiled pattern regular expression").
fn compiled(pattern: &str) -> Option<fancy_regex::Regex> {
    regress::Regex::with_flags(pattern, "v").ok()?;
    let mut plain = String::with_capacity(pattern.len());
    let mut chars = pattern.chars();
    let mut classes = 0u32;
    while let Some(c) = chars.next() {
        match c {
            '[' => classes += 1,
            ']' => classes = classes.saturating_sub(1),
            _ => {}
        }
        let escaped = if c == '\\' { chars.next() } else { None };
        // `\d` and `\w` stand for ASCII there.
        match escaped {
            Some('d') if classes > 0 => plain.push_str("0-9"),
            Some('d') => plain.push_str("[0-9]"),
            Some('D') => plain.push_str("[^0-9]"),
            Some('w') if classes > 0 => plain.push_str("A-Za-z0-9_"),
            Some('w') => plain.push_str("[A-Za-z0-9_]"),
            Some('W') => plain.push_str("[^A-Za-z0-9_]"),
            Some(escaped) => plain.extend([c, escaped]),
            None => plain.push(c),
        }
    }
    fancy_regex::Regex::new(&format!("^(?:{plain})$")).ok()
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
