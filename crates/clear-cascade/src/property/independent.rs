//! Values that need no element (CSS Properties and Values API 1, §2.3 "computationally independent").

use super::{match_syntax, replaced};
use crate::syntax::substitution;
use crate::syntax::{Kind, Slice};
use crate::value::{Unit, Wide};

/// Whether a value can be the initial value of a custom property with a syntax: it fits, and needs nothing that only an
/// element can tell (§2.3).
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
    use crate::syntax::Tokens;

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
