//! `@supports` (CSS Conditional 4, §2): answered by our own grammars and selector parser.

use crate::property;
use crate::selector;
use crate::source::{OffsetMap, SourceId};
use crate::stylesheet::declaration::Property;
use crate::stylesheet::parse::split_important;
use crate::syntax::{Kind, Slice};

/// How deeply conditions may nest.
const DEEPEST: u32 = 64;

/// Whether a condition holds. What is no condition does not.
pub(crate) fn holds(prelude: Slice<'_>) -> bool {
    condition(prelude.trim(), 0).unwrap_or(false)
}

/// Whether the inside of `supports()` in `@import` holds: a condition or a bare declaration.
pub(crate) fn holds_import(inside: Slice<'_>) -> bool {
    let inside = inside.trim();
    declaration(inside).unwrap_or_else(|| holds(inside))
}

/// A condition: `not`, or parts joined by `and` or by `or`.
fn condition(slice: Slice<'_>, depth: u32) -> Option<bool> {
    let mut rest = slice.trim();
    if depth > DEEPEST {
        return None;
    }
    if rest.is_ident("not") {
        rest.next();
        rest.skip_space();
        let (value, after) = in_parens(rest, depth)?;
        return after.trim().is_empty().then_some(!value);
    }
    let (mut value, mut after) = in_parens(rest, depth)?;
    let mut joint: Option<String> = None;
    loop {
        after = after.trim();
        if after.is_empty() {
            return Some(value);
        }
        let word = after.ident().filter(|w| matches!(&**w, "and" | "or"))?;
        if joint.as_ref().is_some_and(|j| *j != word) {
            return None;
        }
        after.next();
        if !after.skip_space() {
            return None;
        }
        let (next, rest) = in_parens(after, depth)?;
        value = if word == "and" { value && next } else { value || next };
        joint = Some(word);
        after = rest;
    }
}

/// One part: a condition or declaration in parentheses, or a function.
fn in_parens(slice: Slice<'_>, depth: u32) -> Option<(bool, Slice<'_>)> {
    let mut after = slice;
    let token = after.next()?;
    let inside = slice.inside().trim();
    let value = match token.kind {
        Kind::Paren(_) => condition(inside, depth + 1).or_else(|| declaration(inside)).unwrap_or(false),
        Kind::Function(_) => match &*slice.name(token).to_ascii_lowercase() {
            "selector" => {
                let map = OffsetMap::slice(SourceId(0), 0);
                let list = selector::parse_list(inside, &selector::Context::plain(&map));
                list.is_ok_and(|l| l.selectors.len() == 1)
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
        },
        _ => return None,
    };
    Some((value, after))
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
        Some(Property::Known(id)) => property::parse(id, value).is_ok(),
        None => false,
    })
}
