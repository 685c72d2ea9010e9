//! Values as text, the way CSSOM writes computed values (CSSOM 1, §6.7.2 "Serializing CSS Values").

use super::math::Math;
use super::{MathValue, Value};
use crate::syntax::{number_text, serialize_identifier, serialize_string};

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
        let order = if self.as_written { Order::Written } else { Order::Sorted };
        match &self.math {
            open @ (Math::Call(..) | Math::Sum(_) | Math::Product(_) | Math::Negate(_) | Math::Invert(_)) => {
                open.in_order(order)
            }
            leaf if self.as_written => term(leaf, order),
            leaf => format!("calc({})", term(leaf, order)),
        }
    }
}

/// What order the parts of an expression are told in.
#[derive(Clone, Copy, PartialEq)]
enum Order {
    /// Numbers first, then percentages, then units, then the rest (CSS Values 4, §10.13 "sort a calculation's children").
    Sorted,
    /// That in which sums with functions are written, as CSS Typed OM 1 has it.
    Written,
}

impl Math {
    /// The expression as text, as it stands among the arguments of a function.
    pub(crate) fn bare_text(&self) -> String {
        bare(self, Order::Sorted)
    }

    /// The expression as text, in `calc()` where it needs one.
    pub(crate) fn text(&self) -> String {
        self.in_order(Order::Sorted)
    }

    /// The expression as text, in `calc()` where it needs one.
    fn in_order(&self, order: Order) -> String {
        match self {
            Self::Sum(_) | Self::Product(_) | Self::Negate(_) | Self::Invert(_) => {
                format!("calc({})", bare(self, order))
            }
            one => term(one, order),
        }
    }
}

/// A sum or product without parentheses.
fn bare(math: &Math, order: Order) -> String {
    match math {
        Math::Sum(terms) => {
            let mut sorted: Vec<&Math> = terms.iter().collect();
            if order == Order::Sorted || !math.any(|m| matches!(m, Math::Call(..))) {
                sorted.sort_by_key(|t| rank(t));
            } else if let [Math::Dimension(..), Math::Percentage(_), ..] = sorted.as_slice() {
                // A length and a share of one are one thing where a sum begins with them.
                sorted.swap(0, 1);
            }
            let mut out = String::new();
            for (i, one) in sorted.iter().enumerate() {
                // What is taken away from the rest of a sum.
                if let (Math::Negate(inner), true) = (one, i > 0) {
                    out.push_str(&format!(" - {}", term(inner, order)));
                    continue;
                }
                let negative = match one {
                    Math::Number(n) | Math::Percentage(n) | Math::Dimension(n, _) => *n < 0.0 && i > 0,
                    _ => false,
                };
                if i > 0 {
                    out.push_str(if negative { " - " } else { " + " });
                }
                let text = term(one, order);
                out.push_str(if negative { &text[1..] } else { &text });
            }
            out
        }
        Math::Product(factors) => {
            if let ([Math::Number(n), other @ (Math::Call(..) | Math::Sum(_))], Order::Written) =
                (factors.as_slice(), order)
            {
                return format!("{} * {}", term(other, order), number_text(*n));
            }
            let mut out = String::new();
            for (i, one) in factors.iter().enumerate() {
                match one {
                    Math::Invert(inner) if i > 0 => out.push_str(&format!(" / {}", term(inner, order))),
                    _ if i > 0 => out.push_str(&format!(" * {}", term(one, order))),
                    _ => out.push_str(&term(one, order)),
                }
            }
            out
        }
        Math::Negate(inner) => format!("-1 * {}", term(inner, order)),
        Math::Invert(inner) => format!("1 / {}", term(inner, order)),
        leaf => term(leaf, order),
    }
}

/// A number with its unit; a unit cannot stand right behind `NaN` and `infinity` (CSS Values 4, §10.13).
fn with_unit(n: f64, unit: &str) -> String {
    let times = if n.is_finite() { "" } else { " * 1" };
    format!("{}{times}{unit}", number_text(n))
}

/// Where a part of a sum stands.
fn rank(math: &Math) -> (u8, &'static str) {
    match math {
        Math::Number(_) => (0, ""),
        Math::Percentage(_) => (1, ""),
        Math::Dimension(_, unit) => (2, unit.name()),
        _ => (3, ""),
    }
}

/// A part of an expression.
fn term(math: &Math, order: Order) -> String {
    match math {
        Math::Number(n) => number_text(*n),
        Math::Percentage(n) => with_unit(*n, "%"),
        Math::Dimension(n, unit) => with_unit(*n, unit.name()),
        Math::Channel(name) => name.to_string(),
        Math::Sum(_) | Math::Product(_) | Math::Negate(_) | Math::Invert(_) => format!("({})", bare(math, order)),
        Math::Call(function, arguments) => {
            let (name, lead) = function.names();
            let arguments: Vec<String> = arguments.iter().map(|a| bare(a, order)).collect();
            format!("{name}({lead}{})", arguments.join(", "))
        }
    }
}
