//! Numbers as text: with the six significant digits of computed values, or with all that they have.
//!
//! CSSOM 1, §6.7.2 "Serializing CSS Values"; CSS Syntax 3, §9.

/// A number with six significant digits and without zeros at its end; from a million on and below a ten-thousandth with an
/// exponent.
pub(crate) fn number_text(n: f64) -> String {
    if is_short(n) {
        return n.to_string();
    }
    if let Some(text) = in_six_digits(n) {
        return text;
    }
    match digits(n) {
        Digits::Word(word) => word.to_owned(),
        Digits::Six(digits, exponent @ (..-4 | 6..)) => {
            let sign = if exponent < 0 { '-' } else { '+' };
            format!("{}e{sign}{:02}", without_zeros(&digits), exponent.abs())
        }
        Digits::Six(_, exponent) => in_full(n, exponent),
    }
}

/// A component of a colour with six significant digits: its exponent, where it has one, is written otherwise, and begins
/// below a millionth.
pub(crate) fn component_text(n: f64) -> String {
    if is_short(n) {
        return n.to_string();
    }
    if let Some(text) = in_six_digits(n) {
        return text;
    }
    match digits(n) {
        Digits::Word("0") => "0".to_owned(),
        Digits::Word(word) => format!("calc({word})"),
        Digits::Six(digits, exponent @ (..-6 | 6..)) => {
            format!("{digits}e{}{exponent}", if exponent > 0 { "+" } else { "" })
        }
        Digits::Six(_, exponent) => in_full(n, exponent),
    }
}

/// Whether a number is a whole one of six digits at the most, which most are; and not 0, which may have a sign.
fn is_short(n: f64) -> bool {
    n != 0.0 && n.abs() < 1e6 && n.fract() == 0.0
}

/// Powers of ten up to the ninth, which numbers of double precision have without a rest.
const TENS: [f64; 10] = [1e0, 1e1, 1e2, 1e3, 1e4, 1e5, 1e6, 1e7, 1e8, 1e9];

/// A number without an exponent, to its sixth digit, where rounding it is not in doubt: the quick way for nearly all.
fn in_six_digits(n: f64) -> Option<String> {
    let size = n.abs();
    if !(1e-4..1e5).contains(&size) {
        return None;
    }
    // The digits after the point that make six, zeros behind it aside.
    let places = 9 - [1e-3, 1e-2, 1e-1, 1e0, 1e1, 1e2, 1e3, 1e4].iter().filter(|power| size >= **power).count();
    let scaled = size * TENS[places];
    let rounded = scaled.round();
    // The product is off by less than a thousand-millionth; what then may be just in the middle is looked at in full.
    if (scaled - scaled.floor() - 0.5).abs() < 1e-6 || rounded >= 1e6 {
        return None;
    }
    let digits = format!("{:0width$}", rounded as u32, width = places + 1);
    let (whole, after) = digits.split_at(digits.len() - places);
    let after = after.trim_end_matches('0');
    let (sign, point) = (if n < 0.0 { "-" } else { "" }, if after.is_empty() { "" } else { "." });
    Some([sign, whole, point, after].concat())
}

/// A number as six digits.
enum Digits {
    /// 0, or what has no digits.
    Word(&'static str),
    /// Digits with the point after the first, and the power of ten that they are multiplied with.
    Six(String, i32),
}

/// The first six digits of a number.
fn digits(n: f64) -> Digits {
    if n == 0.0 {
        return Digits::Word("0");
    }
    if !n.is_finite() {
        return Digits::Word(if n.is_nan() {
            "NaN"
        } else if n > 0.0 {
            "infinity"
        } else {
            "-infinity"
        });
    }
    let text = format!("{n:.5e}");
    let (digits, exponent) = text.split_once('e').unwrap_or((&text, "0"));
    Digits::Six(digits.to_owned(), exponent.parse().unwrap_or(0))
}

/// A number without an exponent, to its sixth digit.
fn in_full(n: f64, exponent: i32) -> String {
    without_zeros(&format!("{n:.*}", usize::try_from(5 - exponent).unwrap_or(0))).to_owned()
}

/// A number's text without the zeros at its end.
fn without_zeros(text: &str) -> &str {
    if text.contains('.') { text.trim_end_matches('0').trim_end_matches('.') } else { text }
}

/// A number with as many digits as tell it from others, at the most as large as one of single precision; with an exponent
/// from 10²¹ on and below 10⁻⁶, as ECMAScript has it.
pub(super) fn number(n: f64) -> String {
    let n = n.clamp(f64::from(f32::MIN), f64::from(f32::MAX)) + 0.0;
    let text = format!("{n:e}");
    match text.split_once('e').map(|(digits, exponent)| (digits, exponent.parse::<i32>().unwrap_or(0))) {
        Some((digits, exponent @ (..-6 | 21..))) => {
            format!("{digits}e{}{exponent}", if exponent > 0 { "+" } else { "" })
        }
        _ => n.to_string(),
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn numbers_have_six_digits() {
        let t = |n: f64| number_text(n);
        assert_eq!(
            [t(37.795_275_59), t(6.666_666_7), t(0.333_333_33), t(-0.5), t(100.0)],
            ["37.7953", "6.66667", "0.333333", "-0.5", "100"]
        );
        assert_eq!(
            [t(999_999.0), t(-999_999.0), t(1e6), t(999_999.6), t(-0.0), t(-1.0)],
            ["999999", "-999999", "1e+06", "1e+06", "0", "-1"]
        );
        assert_eq!(
            [t(1_234_567.8), t(-33_554_432.0), t(0.000_123_456_7), t(0.0)],
            ["1.23457e+06", "-3.35544e+07", "0.000123457", "0"]
        );
    }

    #[test]
    fn the_quick_way_gives_what_the_slow_one_gives() {
        let near = |n: f64| [n, n.next_down(), n.next_up(), -n];
        let powers = (-5..7).map(|power| 10_f64.powi(power));
        let halves = (0..2000).flat_map(|i| (0..9).map(move |k| (f64::from(100_000 + i * 449) + 0.5) / 10_f64.powi(k)));
        let sevenths = (1..4000).flat_map(|i| (-5..6).map(move |power| f64::from(i) / 7.0 * 10_f64.powi(power)));
        let mut quick = 0;
        for n in powers.chain(halves).chain(sevenths).flat_map(near) {
            let (Some(text), Digits::Six(_, exponent)) = (in_six_digits(n), digits(n)) else { continue };
            quick += 1;
            assert_eq!(text, in_full(n, exponent), "{n:?}");
        }
        assert!(quick > 100_000, "{quick} of them went the quick way");
    }
}
