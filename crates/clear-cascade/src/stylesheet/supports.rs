//! `@supports` (CSS Conditional 4, §2): answered by our own grammars and selector parser.

use crate::property;
use crate::selector;
use crate::source::{OffsetMap, SourceId};
use crate::stylesheet::declaration::Property;
use crate::stylesheet::declaration::split_important;
use crate::syntax::{Kind, Slice, condition};

/// Whether a condition holds; nothing for what is no condition.
pub(crate) fn condition(prelude: Slice<'_>) -> Option<bool> {
    condition::evaluate(prelude, &mut |part| Some(Some(test(part)?))).map(|truth| truth.unwrap_or(false))
}

/// Whether a condition holds. What is no condition does not.
pub(crate) fn holds(prelude: Slice<'_>) -> bool {
    condition(prelude).unwrap_or(false)
}

/// Whether the inside of `supports()` in `@import` holds: a condition or a bare declaration.
pub(crate) fn holds_import(inside: Slice<'_>) -> bool {
    let inside = inside.trim();
    declaration(inside).unwrap_or_else(|| holds(inside))
}

/// What is no condition itself: a declaration, or a function.
fn test(part: Slice<'_>) -> Option<bool> {
    let token = part.peek()?;
    if !matches!(token.kind, Kind::Function(_)) {
        return Some(declaration(part).unwrap_or(false));
    }
    let inside = part.inside().trim();
    Some(match &*part.name(token).to_ascii_lowercase() {
        "selector" => {
            let map = OffsetMap::slice(SourceId::QUESTION, 0);
            let list = selector::parse_list(inside, &selector::Context::plain(&map));
            // All of it must be known, also where a list forgives (CSS Conditional 4, §2).
            list.is_ok_and(|l| l.selectors.len() == 1 && l.forgiven().is_empty())
        }
        "font-tech" => inside.ident().is_some_and(|i| {
            matches!(
                &*i,
                "features-opentype"
                    | "variations"
                    | "color-colrv0"
                    | "color-colrv1"
                    | "color-sbix"
                    | "color-cbdt"
                    | "palettes"
            )
        }),
        "font-format" => {
            inside.ident().is_some_and(|i| matches!(&*i, "woff" | "woff2" | "opentype" | "truetype" | "collection"))
        }
        "at-rule" => inside.peek().is_some_and(|t| {
            t.kind == Kind::AtKeyword
                && matches!(
                    &*inside.name(t).to_ascii_lowercase(),
                    "media"
                        | "supports"
                        | "layer"
                        | "scope"
                        | "container"
                        | "starting-style"
                        | "import"
                        | "property"
                        | "keyframes"
                        | "font-face"
                )
        }),
        _ => false,
    })
}

/// Whether a declaration is one that is taken; nothing where the text is no declaration.
fn declaration(inside: Slice<'_>) -> Option<bool> {
    let token = inside.peek().filter(|t| t.kind == Kind::Ident)?;
    let (name, value) = inside.split_at(|t| t.kind == Kind::Colon);
    if value.is_empty() || name.trim().from + 1 != name.trim().to {
        return None;
    }
    let (value, _) = split_important(Slice { from: value.from + 1, ..value }.trim());
    let name = inside.name(token);
    Some(match Property::named(&name.to_ascii_lowercase()) {
        Some(Property::Custom(_)) => true,
        Some(Property::Known(id)) => property::parse(id, value, false).is_ok(),
        None => false,
    })
}
