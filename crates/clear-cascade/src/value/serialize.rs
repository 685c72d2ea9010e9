//! Values as text, the way CSSOM writes computed values (CSSOM 1, §6.7.2 "Serializing CSS Values").

use super::math::Math;
use super::{MathValue, Value};
use crate::syntax::{serialize_identifier, serialize_string};

/// A number with six significant digits and without zeros at its end; from a million on and below a ten-thousandth with an
/// exponent.
pub(crate) fn number_text(n: f64) -> String {
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
pub(super) fn component_text(n: f64) -> String {
    match digits(n) {
        Digits::Word("0") => "0".to_owned(),
        Digits::Word(word) => format!("calc({word})"),
        Digits::Six(digits, exponent @ (..-6 | 6..)) => {
            format!("{digits}e{}{exponent}", if exponent > 0 { "+" } else { "" })
        }
        Digits::Six(_, exponent) => in_full(n, exponent),
    }
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

impl Value {
    /// The value as text.
    pub(crate) fn text(&self) -> String {
        let mut out = String::new();
        self.write(&mut out);
        out
    }

    /// Writes the value.
    fn write(&self, out: &mut String) {
        match self {
            Self::Keyword(name) => out.push_str(name),
            Self::Ident(name) => out.push_str(&serialize_identifier(name)),
            Self::Str(text) => out.push_str(&serialize_string(text)),
            Self::Url(url) => {
                out.push_str("url(");
                out.push_str(&serialize_string(url));
                out.push(')');
            }
            // An integer is written in full (CSSOM 1, §6.7.2).
            Self::Number(n) if n.fract() == 0.0 && n.abs() <= 2_147_483_648.0 => {
                out.push_str(&format!("{:.0}", n + 0.0))
            }
            Self::Number(n) => out.push_str(&number_text(*n)),
            Self::Percentage(n) => {
                out.push_str(&number_text(*n));
                out.push('%');
            }
            Self::Dimension(n, unit) => {
                out.push_str(&number_text(*n));
                out.push_str(unit.name());
            }
            Self::Color(color) => out.push_str(&color.text()),
            Self::Math(math) => out.push_str(&math.text()),
            Self::Function(f) if &*f.0 == "[" => {
                out.push('[');
                write_list(&f.1, out);
                out.push(']');
            }
            Self::Function(f) => {
                out.push_str(&f.0);
                out.push('(');
                write_list(&f.1, out);
                out.push(')');
            }
            Self::Sequence(parts) => write_list(parts, out),
            Self::Delim(c) => out.push(*c),
            Self::Raw(text) => out.push_str(text),
        }
    }
}

/// Writes components with spaces between them, but none before a comma.
fn write_list(parts: &[Value], out: &mut String) {
    for (i, part) in parts.iter().enumerate() {
        if i > 0 && !matches!(part, Value::Delim(',')) {
            out.push(' ');
        }
        part.write(out);
    }
}

impl MathValue {
    /// The expression as text: in `calc()`, unless it is a function itself.
    pub(crate) fn text(&self) -> String {
        match &self.math {
            open @ (Math::Call(..) | Math::Sum(_) | Math::Product(_) | Math::Invert(_)) => open.text(),
            leaf => format!("calc({})", term(leaf)),
        }
    }
}

impl Math {
    /// The expression as text, as it stands among the arguments of a function.
    pub(crate) fn bare_text(&self) -> String {
        bare(self)
    }

    /// The expression as text, in `calc()` where it needs one.
    pub(crate) fn text(&self) -> String {
        match self {
            Self::Sum(_) | Self::Product(_) | Self::Invert(_) => format!("calc({})", bare(self)),
            one => term(one),
        }
    }
}

/// A sum or product without parentheses.
fn bare(math: &Math) -> String {
    match math {
        Math::Sum(terms) => {
            let mut sorted: Vec<&Math> = terms.iter().collect();
            // Functions keep a sum in the order it is written in.
            let is_call = |m: &Math| matches!(m, Math::Call(..));
            if !math.any(is_call) {
                sorted.sort_by_key(|t| rank(t));
            }
            let mut out = String::new();
            for (i, one) in sorted.iter().enumerate() {
                // What is taken away from the rest of a sum.
                if let (Math::Product(factors), true) = (one, i > 0)
                    && let [Math::Number(-1.0), other] = factors.as_slice()
                {
                    out.push_str(&format!(" - {}", term(other)));
                    continue;
                }
                if let (Math::Product(factors), true) = (one, i > 0)
                    && let [Math::Number(n), other @ (Math::Call(..) | Math::Sum(_))] = factors.as_slice()
                    && *n < 0.0
                {
                    out.push_str(&format!(" - ({} * {})", term(other), number_text(-n)));
                    continue;
                }
                let negative = match one {
                    Math::Number(n) | Math::Percentage(n) | Math::Dimension(n, _) => *n < 0.0 && i > 0,
                    _ => false,
                };
                if i > 0 {
                    out.push_str(if negative { " - " } else { " + " });
                }
                let text = term(one);
                out.push_str(if negative { &text[1..] } else { &text });
            }
            out
        }
        Math::Product(factors) => {
            if let [Math::Number(n), other @ (Math::Call(..) | Math::Sum(_))] = factors.as_slice() {
                return format!("{} * {}", term(other), number_text(*n));
            }
            let mut out = String::new();
            for (i, one) in factors.iter().enumerate() {
                match one {
                    Math::Invert(inner) if i > 0 => out.push_str(&format!(" / {}", term(inner))),
                    _ if i > 0 => out.push_str(&format!(" * {}", term(one))),
                    _ => out.push_str(&term(one)),
                }
            }
            out
        }
        Math::Invert(inner) => format!("1 / {}", term(inner)),
        leaf => term(leaf),
    }
}

/// Numbers first, then percentages, then units, then the rest (CSS Values 4, §10.13 "sort a calculation's children").
fn rank(math: &Math) -> (u8, &'static str) {
    match math {
        Math::Number(_) => (0, ""),
        Math::Percentage(_) => (1, ""),
        Math::Dimension(_, unit) => (2, unit.name()),
        _ => (3, ""),
    }
}

/// A part of an expression.
fn term(math: &Math) -> String {
    match math {
        Math::Number(n) => number_text(*n),
        Math::Percentage(n) => format!("{}%", number_text(*n)),
        Math::Dimension(n, unit) => format!("{}{}", number_text(*n), unit.name()),
        Math::Channel(name) => name.to_string(),
        Math::Sum(_) | Math::Product(_) | Math::Invert(_) => format!("({})", bare(math)),
        Math::Call(function, arguments) => {
            let (name, lead) = function.names();
            let arguments: Vec<String> = arguments.iter().map(bare).collect();
            format!("{name}({lead}{})", arguments.join(", "))
        }
    }
}

#[cfg(test)]
mod tests {
    use super::number_text;

    #[test]
    fn numbers_have_six_digits() {
        let t = |n: f64| number_text(n);
        assert_eq!(
            [t(37.795_275_59), t(6.666_666_7), t(0.333_333_33), t(-0.5), t(100.0)],
            ["37.7953", "6.66667", "0.333333", "-0.5", "100"]
        );
        assert_eq!(
            [t(1_234_567.8), t(-33_554_432.0), t(0.000_123_456_7), t(0.0)],
            ["1.23457e+06", "-3.35544e+07", "0.000123457", "0"]
        );
    }
}
