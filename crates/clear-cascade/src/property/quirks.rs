//! What declarations of a page in quirks mode may leave out: the `px` of lengths and the `#` of colours.
//!
//! What comes in: a value that its property does not take. What goes out: the value as it is meant. Quirks Mode Standard,
//! §3.1 "The hashless hex color quirk" and §3.2 "The unitless length quirk"; neither counts in `@supports`.

use super::PropertyId;
use crate::syntax::{Kind, Slice, Token};

/// Properties whose lengths may go without a unit.
const LENGTHS: &[&str] = &[
    "background-position",
    "background-position-x",
    "background-position-y",
    "border-bottom-width",
    "border-left-width",
    "border-right-width",
    "border-spacing",
    "border-top-width",
    "border-width",
    "bottom",
    "clip",
    "font-size",
    "height",
    "left",
    "letter-spacing",
    "margin",
    "margin-bottom",
    "margin-left",
    "margin-right",
    "margin-top",
    "max-height",
    "max-width",
    "min-height",
    "min-width",
    "padding",
    "padding-bottom",
    "padding-left",
    "padding-right",
    "padding-top",
    "right",
    "text-indent",
    "top",
    "vertical-align",
    "width",
    "word-spacing",
];

/// Properties whose colours may go without their `#`.
const COLORS: &[&str] = &[
    "background-color",
    "border-bottom-color",
    "border-color",
    "border-left-color",
    "border-right-color",
    "border-top-color",
    "color",
];

/// The value as it is meant; nothing where the property has no quirks, or where nothing is left out.
pub(crate) fn meant(property: PropertyId, value: Slice<'_>) -> Option<String> {
    let name = property.name();
    let lengths = LENGTHS.contains(&name);
    if !lengths && !COLORS.contains(&name) {
        return None;
    }
    let mut out = String::new();
    let (mut changed, mut inside) = (false, value.from);
    for at in value.from..value.to {
        let here = Slice { from: at, to: at + 1, ..value };
        let token = here.peek()?;
        // Inside functions everything is as ever, but for `rect()`.
        match token.kind {
            Kind::Function(_) if here.is_function("rect") => {}
            Kind::Function(end) | Kind::Paren(end) => inside = inside.max(end),
            _ => {}
        }
        let added = if at < inside {
            None
        } else if lengths {
            length(token)
        } else {
            color(here, token)
        };
        match &added {
            Some((before, after)) => out.extend([before, here.text(), after]),
            None => out.push_str(here.text()),
        }
        changed |= added.is_some();
    }
    changed.then_some(out)
}

/// What is missing before and after a length.
fn length(token: Token) -> Option<(&'static str, &'static str)> {
    matches!(token.kind, Kind::Number(n, _) if n != 0.0).then_some(("", "px"))
}

/// What is missing before and after a colour: with the `#`, numbers lack the zeros in front.
fn color(here: Slice<'_>, token: Token) -> Option<(&'static str, &'static str)> {
    let text = here.text();
    let hex = text.bytes().all(|b| b.is_ascii_hexdigit());
    match (token.kind, text.len()) {
        (Kind::Ident, 3 | 6) if hex => Some(("#", "")),
        (Kind::Number(..) | Kind::Dimension(..), length @ 1..=6) if hex => {
            // An exponent makes a number that is no whole one.
            let whole = match token.kind {
                Kind::Dimension(_, unit) => {
                    here.tokens.text[token.start as usize..unit as usize].bytes().all(|b| b.is_ascii_digit())
                }
                kind => matches!(kind, Kind::Number(_, true)),
            };
            whole.then_some((["#00000", "#0000", "#000", "#00", "#0", "#"][length - 1], ""))
        }
        _ => None,
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::syntax::Tokens;

    #[test]
    fn what_is_meant() {
        let t = |property: &str, value: &str, expected: Option<&str>| {
            let found = PropertyId::named(property).and_then(|p| meant(p, Tokens::read(value).all()));
            assert_eq!(found.as_deref(), expected, "{property}: {value}");
        };
        t("margin", "1 2px 0 -3.5", Some("1px 2px 0 -3.5px"));
        t("clip", "rect(1, 2, 3px, auto)", Some("rect(1px, 2px, 3px, auto)"));
        t("width", "calc(5)", None);
        t("width", "10px", None);
        t("line-height", "3", None);
        t("margin-inline-start", "3", None);
        t("color", "ff0000", Some("#ff0000"));
        t("color", "abc", Some("#abc"));
        t("color", "123", Some("#000123"));
        t("color", "00f", Some("#00000f"));
        t("border-color", "12f 9 red", Some("#00012f #000009 red"));
        t("color", "1e3", None);
        t("color", "abcd", None);
        t("color", "1234567", None);
        t("outline-color", "abc", None);
    }
}
