//! Types of registered custom properties: syntax strings (CSS Properties and Values API 1, §5).
//!
//! What comes in: the text of a syntax string. What goes out: whether it is one.

use crate::syntax::{Kind, Tokens};
use crate::value::Wide;

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
}
