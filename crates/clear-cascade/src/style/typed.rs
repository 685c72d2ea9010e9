//! Texts read as the types of registered custom properties (CSS Properties and Values API 1, §2.4).

use std::sync::Arc;

use super::Style;
use super::substitution::Replaced;
use crate::document::Name;
use crate::page::Page;
use crate::property;
use crate::syntax::{Kind, Slice, Tokens};
use crate::value::{CustomText, CustomValue, Value};

/// The value of a custom property in the type of its registration; nothing where the text is none.
pub(super) fn typed(page: &Page, style: &Style, name: &str, text: Replaced) -> Option<CustomValue> {
    match page.custom_syntax(name) {
        Some(syntax) => read_as(syntax, style, text.trim()).map(|text| CustomText::new(&text)),
        None => Some(text.into()),
    }
}

/// A text read and computed as the type that a syntax string names.
pub(super) fn read_as(syntax: &str, style: &Style, text: &str) -> Option<String> {
    if syntax.trim() == "*" {
        return Some(text.to_owned());
    }
    let tokens = Tokens::read(text);
    let value = property::match_syntax(syntax, tokens.all())?;
    let value = match value.absolute(&style.context) {
        Value::Color(color) => Value::Color(Arc::new(color.computed(style.dark, &style.context))),
        other => other,
    };
    Some(value.text())
}

/// The custom properties that a value or test names.
pub(crate) fn names_in(test: Slice<'_>) -> Vec<Name> {
    let names = (test.from..test.to).filter_map(|i| {
        let here = Slice { from: i, ..test };
        let token = here.peek().filter(|t| t.kind == Kind::Ident)?;
        Some(here.name(token)).filter(|n| n.starts_with("--")).map(|n| Name::from(&*n))
    });
    names.collect()
}
