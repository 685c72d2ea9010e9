//! `An+B`, the position of `:nth-child()` and its kin (CSS Syntax 3, §6 "The An+B microsyntax").

use super::Nth;
use crate::syntax::{Kind, Slice};

/// Reads a run of tokens that is a position and nothing else; numbers too large are held at the largest.
pub(super) fn parse(mut rest: Slice<'_>) -> Option<Nth> {
    let one = rest.from + 1 == rest.to;
    match rest.ident().as_deref() {
        Some("odd") if one => return Some(Nth { a: 2, b: 1 }),
        Some("even") if one => return Some(Nth { a: 2, b: 0 }),
        _ => {}
    }
    // A `+` before a name is a token of its own, and nothing may part the two.
    let plus = rest.kind() == Some(Kind::Delim('+'));
    if plus {
        rest.from += 1;
    }
    let token = rest.peek()?;
    let (a, tail) = match token.kind {
        Kind::Number(b, true) if one => return Some(Nth { a: 0, b: clamp(b) }),
        Kind::Dimension(a, unit) if !plus => {
            let number = &rest.tokens.text[token.start as usize..unit as usize];
            let whole = !number.contains(['.', 'e', 'E']);
            (clamp(Some(a).filter(|_| whole)?), rest.name(token).to_ascii_lowercase())
        }
        Kind::Ident => {
            let name = rest.ident()?;
            match name.strip_prefix('-').filter(|_| !plus) {
                Some(tail) => (-1, tail.to_owned()),
                None => (1, name),
            }
        }
        _ => return None,
    };
    rest.from += 1;
    let tail = tail.strip_prefix('n')?;
    if let Some(digits) = tail.strip_prefix('-').filter(|d| !d.is_empty()) {
        // `n-1` is one name.
        let fits = rest.is_empty() && digits.bytes().all(|b| b.is_ascii_digit());
        return fits.then(|| Nth { a, b: clamp(-digits.parse::<f64>().unwrap_or(0.0)) });
    }
    let mut sign = match tail {
        "" => None,
        "-" => Some(-1.0),
        _ => return None,
    };
    rest.skip_space();
    if rest.is_empty() {
        return sign.is_none().then_some(Nth { a, b: 0 });
    }
    if let (None, Some(Kind::Delim(c @ ('+' | '-')))) = (sign, rest.kind()) {
        sign = Some(if c == '-' { -1.0 } else { 1.0 });
        rest.from += 1;
        rest.skip_space();
    }
    let Some(Kind::Number(b, true)) = rest.kind().filter(|_| rest.from + 1 == rest.to) else {
        return None;
    };
    // With a sign of its own the number has none; without, it must have one.
    let signed = rest.text().starts_with(['+', '-']);
    (signed == sign.is_none()).then(|| Nth { a, b: clamp(b * sign.unwrap_or(1.0)) })
}

/// A whole number within what an `i32` holds.
fn clamp(n: f64) -> i32 {
    n.clamp(f64::from(-i32::MAX), f64::from(i32::MAX)) as i32
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::syntax::Tokens;

    #[test]
    fn formulas() {
        let t = |text: &str, expected: Option<(i32, i32)>| {
            let found = parse(Tokens::read(text).all().trim()).map(|n| (n.a, n.b));
            assert_eq!(found, expected, "{text}");
        };
        for (text, a, b) in [
            ("odd", 2, 1),
            ("EVEN", 2, 0),
            (r"e\76 en", 2, 0),
            ("5", 0, 5),
            ("+5", 0, 5),
            ("-5", 0, -5),
            ("n", 1, 0),
            ("+n", 1, 0),
            ("-n+3", -1, 3),
            ("2N - 1", 2, -1),
            ("+3n + 2", 3, 2),
            ("n- 1", 1, -1),
            ("2n-1", 2, -1),
            ("-n-1", -1, -1),
            ("2n- 1", 2, -1),
            ("-2n -1", -2, -1),
            ("n/**/-1", 1, -1),
            ("2n/**/+1", 2, 1),
            (r"n\2d 1", 1, -1),
            (r"-\6e+2", -1, 2),
            ("003n+002", 3, 2),
            ("99999999999n-99999999999", i32::MAX, -i32::MAX),
        ] {
            t(text, Some((a, b)));
        }
        for text in [
            "", "2n+ -1", "n2", "2 n", "+ 5", "+ n", "+even", "2n+even", "1.0", "2.0n", "1e1", "1e0n", "2/**/n",
            "-/**/n", "2n+1.0", "--1", "+-1", "3%", "3px", "n n", "n-", "n +", "n 1", "2n- -1", "2n-1 1", "odd even",
            "calc(1)", r"\32 n",
        ] {
            t(text, None);
        }
    }
}
