//! Types of registered custom properties: syntax strings (CSS Properties and Values API 1, §5).
//!
//! What comes in: the text of a syntax string, and a value. What goes out: whether the string is one, and whether the value
//! can be the initial value of a property with that syntax.

use super::{match_syntax, replaced};
use crate::syntax::substitution;
use crate::syntax::{Kind, Slice, Tokens};
use crate::value::{Unit, Wide};

/// The names of types that a syntax string may use (§5.1 "Supported Names"); case counts.
const TYPES: &[&str] = &[
    "angle",
    "color",
    "custom-ident",
    "image",
    "integer",
    "length",
    "length-percentage",
    "number",
    "percentage",
    "resolution",
    "string",
    "time",
    "transform-function",
    "transform-list",
    "url",
];

/// Whether a text is a syntax string: `*`, or types and words with bars between, each with `+` or `#` behind or not.
pub(crate) fn is_syntax(text: &str) -> bool {
    let text = text.trim_matches([' ', '\t', '\n', '\r', '\x0C']);
    text == "*" || (!text.is_empty() && text.split('|').all(is_component))
}

/// One component of a syntax string.
fn is_component(text: &str) -> bool {
    let text = text.trim_matches([' ', '\t', '\n', '\r', '\x0C']);
    let one = text.strip_suffix(['+', '#']).unwrap_or(text);
    if let Some(name) = one.strip_prefix('<').and_then(|t| t.strip_suffix('>')) {
        // A list cannot be a list of lists.
        return TYPES.contains(&name) && (name != "transform-list" || one.len() == text.len());
    }
    let tokens = Tokens::read(one);
    let [token] = tokens.list.as_slice() else { return false };
    let name = tokens.all().name(*token);
    token.kind == Kind::Ident && Wide::named(&name).is_none() && !name.eq_ignore_ascii_case("default")
}

/// Whether a value can be the initial value of a custom property with a syntax: it fits, and needs nothing that only an
/// element can tell (§2.3 "computationally independent").
pub(crate) fn may_be_initial(syntax: &str, value: Slice<'_>) -> bool {
    let value = value.trim();
    if Wide::of(value).is_some() || substitution::unfit(value).is_some() {
        return false;
    }
    if syntax.trim() == "*" {
        return replaced::needed(value) == Ok(false);
    }
    let relative = (value.from..value.to).any(|i| {
        let here = Slice { from: i, ..value };
        let unit =
            here.peek().filter(|t| matches!(t.kind, Kind::Dimension(..))).and_then(|t| Unit::named(&here.name(t)));
        unit.is_some_and(Unit::is_of_font)
    });
    !relative && replaced::needed(value) == Ok(false) && match_syntax(syntax, value).is_some()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn syntax_strings() {
        for good in [
            "*",
            " * ",
            "<length>",
            "<length>+",
            "<color>#",
            " <length> | auto ",
            "a|b",
            "<transform-list>",
            "small# | <url>+",
            r"\31 a",
        ] {
            assert!(is_syntax(good), "{good}");
        }
        for bad in [
            "",
            "  ",
            "<foo>",
            "<LENGTH>",
            "< length >",
            "<length>|",
            "|a",
            "<length> <color>",
            "* | a",
            "*+",
            "inherit",
            "a | Initial",
            "default",
            "<transform-list>+",
            "<length>++",
            "<length> +",
            "<length>+#",
            "<length",
            "a b",
            "1a",
            "\"a\"",
        ] {
            assert!(!is_syntax(bad), "{bad}");
        }
    }

    #[test]
    fn initial_values() {
        let t = |syntax: &str, value: &str| may_be_initial(syntax, Tokens::read(value).all());
        for (syntax, value) in [
            ("<length>", "1px"),
            ("<length>", "2vw"),
            ("<length>", "calc(1px + 2in)"),
            ("*", ""),
            ("*", "a b"),
            ("<color>", "currentcolor"),
            ("<length> | auto", "auto"),
            ("<transform-list>", "scale(1) rotate(2deg)"),
            ("<length>#", "1px, 2px"),
        ] {
            assert!(t(syntax, value), "{syntax}: {value}");
        }
        for (syntax, value) in [
            ("<length>", "1em"),
            ("<length>", "calc(1px + 1rlh)"),
            ("<length>", "5"),
            ("<length>", ""),
            ("<length>", "var(--x)"),
            ("*", "inherit"),
            ("*", "var(--x)"),
            ("<length>", "1px !important"),
            ("*", "a)"),
            ("<length>+", "1px, 2px"),
            ("<custom-ident>", "initial"),
        ] {
            assert!(!t(syntax, value), "{syntax}: {value}");
        }
    }
}
