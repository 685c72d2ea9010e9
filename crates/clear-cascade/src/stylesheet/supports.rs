//! `@supports` (CSS Conditional 4, §2): answered by our own grammars and selector parser.

use crate::property;
use crate::selector;
use crate::source::{OffsetMap, SourceId};
use crate::stylesheet::declaration::Property;
use crate::stylesheet::declaration::split_important;
use crate::syntax::substitution::unfit;
use crate::syntax::{Kind, Slice, condition};

/// Whether a condition holds; nothing for what is no condition.
pub(crate) fn condition(prelude: Slice<'_>) -> Option<bool> {
    condition::evaluate(prelude, &mut |part| Some(Some(test(part)))).map(|truth| truth.unwrap_or(false))
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

/// What is no condition itself: a declaration, or a function. What is neither is not supported.
fn test(part: Slice<'_>) -> bool {
    let Some(token) = part.peek().filter(|_| part.is_lone_function()) else {
        return declaration(part).unwrap_or(false);
    };
    let inside = part.inside().trim();
    let word = inside.lone_ident().unwrap_or_default();
    match &*part.name(token).to_ascii_lowercase() {
        "selector" => {
            let map = OffsetMap::slice(SourceId::QUESTION, 0);
            let list = selector::parse_list(inside, &selector::Context::plain(&map));
            list.is_ok_and(|list| list.is_supported())
        }
        "font-tech" => TECHS.contains(&&*word),
        "font-format" => FORMATS.contains(&&*word),
        "at-rule" => inside.peek().is_some_and(|t| {
            let alone = inside.from + 1 == inside.to && t.kind == Kind::AtKeyword;
            alone && AT_RULES.contains(&&*inside.name(t).to_ascii_lowercase())
        }),
        _ => false,
    }
}

/// What font technologies browsers have (CSS Fonts 4, §11.1).
const TECHS: &[&str] = &[
    "features-opentype",
    "features-aat",
    "variations",
    "color-colrv0",
    "color-colrv1",
    "color-sbix",
    "color-cbdt",
    "palettes",
];

/// What formats of fonts browsers have (CSS Fonts 4, §4.3.1).
const FORMATS: &[&str] = &["woff", "woff2", "opentype", "truetype", "collection"];

/// The at-rules that browsers have; `@charset` is none (CSS Conditional 5, §2).
#[rustfmt::skip]
const AT_RULES: &[&str] = &[
    "media", "supports", "layer", "scope", "container", "starting-style", "import", "namespace", "property", "keyframes",
    "-webkit-keyframes", "font-face", "font-feature-values", "font-palette-values", "counter-style", "page", "position-try",
    "view-transition", "function", "swash", "styleset", "stylistic", "ornaments", "annotation", "character-variant", "top-left-corner",
    "top-left", "top-center", "top-right", "top-right-corner", "bottom-left-corner", "bottom-left", "bottom-center", "bottom-right",
    "bottom-right-corner", "left-top", "left-middle", "left-bottom", "right-top", "right-middle", "right-bottom",
];

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
        Some(Property::Custom(_)) => unfit(value).is_none() && property::replaced::needed(value).is_ok(),
        Some(Property::Known(id)) => property::parse(id, value, false).is_ok(),
        None => false,
    })
}
