//! Tests of an element's own styles: `style()` in `@container` and `if()`, and `media()` in `if()`.
//!
//! What comes in: a function and the style it asks about. What goes out: whether it holds. CSS Conditional 5, §6.3
//! "Style Container Features"; CSS Values 5, §6.2.

use super::{Style, Styles, custom};
use crate::document::ElementId;
use crate::selector::PseudoElement;
use crate::study::{FlatRule, Study};
use crate::stylesheet::{GroupKind, media};
use crate::syntax::{Kind, Slice, Tokens, condition};

/// Whether `style()` or `media()` holds; nothing for unknown.
pub(super) fn test(study: &Study, function: Slice<'_>, style: &Style) -> condition::Truth {
    let inside = function.inside().trim();
    if function.is_function("media") {
        // A feature alone may leave its parentheses out.
        let list = media::parse(inside);
        let bare = Tokens::read(&format!("({})", inside.text()));
        return Some(list.matches(&study.viewing) || media::parse(bare.all()).matches(&study.viewing));
    }
    if !function.is_function("style") {
        return None;
    }
    let mut leaf = |part: Slice<'_>| feature(study, part, style);
    condition::evaluate(inside, &mut leaf).or_else(|| feature(study, inside, style)).flatten()
}

/// Whether the `@container` groups of a rule hold for an element or one of its pseudo-elements: for each, the nearest
/// container that it asks for has the styles it asks for (CSS Conditional 5, §5.1). Sizes are unknown.
pub(crate) fn containers_hold(
    study: &Study,
    styles: &Styles,
    rule: &FlatRule,
    id: ElementId,
    pseudo: Option<&PseudoElement>,
) -> bool {
    rule.containers.iter().all(|group| {
        let sheet = &study.sheets[rule.sheet as usize].sheet;
        let GroupKind::Container(query) = &sheet.groups[*group as usize].kind else {
            return true;
        };
        let first = usize::from(pseudo.is_none());
        let named = |style: &Style| match &query.name {
            None => true,
            Some(name) => style.get(crate::property::id::CONTAINER_NAME).parts().iter().any(|p| p.text() == **name),
        };
        let mut around = study.document.flat_lineage(id).skip(first).filter_map(|e| styles.get(e));
        let Some(container) = around.find(|s| named(s)) else {
            return false;
        };
        let condition = query.condition.all().trim();
        condition.is_empty()
            || condition::evaluate(condition, &mut |part| Some(test(study, part, container))).flatten() == Some(true)
    })
}

/// Whether one style feature holds: a property by itself, with a value, or compared.
fn feature(study: &Study, part: Slice<'_>, style: &Style) -> Option<condition::Truth> {
    let part = part.trim();
    let token = part.peek().filter(|t| t.kind == Kind::Ident)?;
    let name = part.name(token);
    let (head, value) = part.split_at(|t| t.kind == Kind::Colon);
    let custom = name.starts_with("--");
    if value.is_empty() && head.trim().from + 1 != head.trim().to {
        return comparison(part, style).map(Some);
    }
    if !custom {
        return Some(None);
    }
    let own = style.custom.get(&crate::document::Name::from(&*name));
    if value.is_empty() {
        return Some(Some(own.is_some()));
    }
    let wanted = Slice { from: value.from + 1, ..value }.trim();
    let wanted = wanted_value(study, wanted, &name, style);
    Some(Some(match (own, wanted) {
        (Some(own), Some(wanted)) => **own == *wanted,
        (own, wanted) => own.is_none() && wanted.is_none(),
    }))
}

/// The value that a custom property is compared with.
fn wanted_value(study: &Study, wanted: Slice<'_>, name: &str, style: &Style) -> Option<std::sync::Arc<str>> {
    let mut text = wanted.text().to_owned();
    if wanted.is_ident("initial") && wanted.from + 1 == wanted.to {
        return study.registrations.get(name).and_then(|r| r.initial.as_deref()).map(std::sync::Arc::from);
    }
    // Variables in the value are those of the container.
    for (other, value) in style.custom.iter() {
        text = text.replace(&format!("var({other})"), value);
    }
    custom::typed(study, style, name, &text)
}

/// `--a > 5px` and the like.
fn comparison(part: Slice<'_>, style: &Style) -> Option<bool> {
    let (left, rest) = part.split_at(|t| matches!(t.kind, Kind::Delim('<' | '>' | '=')));
    let sign = rest.peek()?;
    let mut right = Slice { from: rest.from + 1, ..rest };
    let or_equal = right.kind() == Some(Kind::Delim('='));
    if or_equal {
        right.from += 1;
    }
    let number = |side: Slice<'_>| -> Option<f64> {
        let side = side.trim();
        let token = side.peek()?;
        let text = if token.kind == Kind::Ident {
            style.custom.get(&crate::document::Name::from(&*side.name(token)))?.to_string()
        } else {
            side.text().to_owned()
        };
        let tokens = Tokens::read(&text);
        let syntax = "<length> | <number> | <percentage> | <angle> | <time> | <resolution>";
        match crate::property::match_syntax(syntax, tokens.all())?.absolute(&style.context) {
            crate::value::Value::Number(n)
            | crate::value::Value::Percentage(n)
            | crate::value::Value::Dimension(n, _) => Some(n),
            _ => None,
        }
    };
    let (a, b) = (number(left)?, number(right)?);
    Some(match sign.kind {
        Kind::Delim('<') => a < b || (or_equal && a == b),
        Kind::Delim('>') => a > b || (or_equal && a == b),
        _ => a == b,
    })
}
