//! Values: from what is written to what is computed.
//!
//! What comes in: tokens that a grammar matched. What goes out: [`Value`]s that can be computed against a
//! [`Context`] and written out as CSSOM does. CSS Values 4, CSS Color 4 and 5.

pub(crate) mod color;
mod custom;
mod math;
mod serialize;
mod unit;

pub(crate) use custom::{CustomText, CustomValue};
pub(crate) use math::{Math, MathValue, held, math_functions, size_calculation};
pub(crate) use unit::{Context, Dimension, Unit};

use std::hash::{Hash as _, Hasher};
use std::sync::Arc;

use crate::document::Name;
use crate::syntax::{Kind, Slice, Tokens};

/// A value, specified or computed.
#[derive(Clone, Debug, PartialEq)]
pub(crate) enum Value {
    /// A keyword of the grammar, in lower case.
    Keyword(Name),
    /// A name that the author chose, as written.
    Ident(Name),
    /// A string.
    Str(Arc<String>),
    /// A URL, as written or absolute.
    Url(Arc<String>),
    /// A number.
    Number(f64),
    /// A percentage: 50 for `50%`.
    Percentage(f64),
    /// A number with a unit.
    Dimension(f64, Unit),
    /// A colour.
    Color(Arc<color::ColorValue>),
    /// Arithmetic that waits for its inputs, or for layout.
    Math(Arc<MathValue>),
    /// A function with its arguments; `[` for names of grid lines.
    Function(Arc<(Name, Vec<Value>)>),
    /// Components one after the other, commas and slashes among them.
    Sequence(Arc<Vec<Value>>),
    /// A comma or slash in a sequence.
    Delim(char),
    /// Text that is kept as written.
    Raw(Arc<String>),
}

/// The CSS-wide keywords (CSS Cascade 5, §7.3).
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub enum Wide {
    /// `initial`
    Initial,
    /// `inherit`
    Inherit,
    /// `unset`
    Unset,
    /// `revert`
    Revert,
    /// `revert-layer`
    RevertLayer,
    /// `revert-rule`
    RevertRule,
}

impl Wide {
    /// The keyword with this name, in any case.
    #[must_use]
    pub fn named(name: &str) -> Option<Self> {
        let all = [Self::Initial, Self::Inherit, Self::Unset, Self::Revert, Self::RevertLayer, Self::RevertRule];
        all.into_iter().find(|w| w.name().eq_ignore_ascii_case(name))
    }

    /// Its name.
    #[must_use]
    pub fn name(self) -> &'static str {
        match self {
            Self::Initial => "initial",
            Self::Inherit => "inherit",
            Self::Unset => "unset",
            Self::Revert => "revert",
            Self::RevertLayer => "revert-layer",
            Self::RevertRule => "revert-rule",
        }
    }

    /// The keyword that is all of a text.
    pub(crate) fn in_text(text: &str) -> Option<Self> {
        // Few texts are read for this: letters, hyphens, escapes and comments are all that such a one may have in it.
        let may_be = |b: u8| b.is_ascii_alphabetic() || b.is_ascii_whitespace() || b == b'-';
        let odd = || memchr::memchr3(b'\\', b'/', 0, text.as_bytes()).is_some();
        if text.bytes().all(may_be) || odd() { Self::of(Tokens::read(text).all()) } else { None }
    }

    /// The keyword that is all of a run.
    pub(crate) fn of(slice: Slice<'_>) -> Option<Self> {
        let slice = slice.trim();
        let token = slice.peek().filter(|t| t.kind == Kind::Ident && slice.from + 1 == slice.to)?;
        Self::named(&slice.name(token))
    }
}

impl Value {
    /// A string.
    pub(crate) fn string(text: impl Into<String>) -> Self {
        Self::Str(Arc::new(text.into()))
    }

    /// A URL.
    pub(crate) fn url(url: impl Into<String>) -> Self {
        Self::Url(Arc::new(url.into()))
    }

    /// Text as it is.
    pub(crate) fn raw(text: impl Into<String>) -> Self {
        Self::Raw(Arc::new(text.into()))
    }

    /// A keyword.
    pub(crate) fn keyword(name: &str) -> Self {
        Self::Keyword(Name::from(name))
    }

    /// A length in px.
    pub(crate) fn px(n: f64) -> Self {
        Self::Dimension(n, Unit::Px)
    }

    /// A function.
    pub(crate) fn function(name: Name, arguments: Vec<Value>) -> Self {
        Self::Function(Arc::new((name, arguments)))
    }

    /// Components one after the other; a single one is itself.
    pub(crate) fn sequence(mut values: Vec<Value>) -> Self {
        match (values.len(), values.pop()) {
            (1, Some(one)) => one,
            (_, last) => {
                values.extend(last);
                Self::Sequence(Arc::new(values))
            }
        }
    }

    /// Values with commas between.
    pub(crate) fn comma_list(values: Vec<Value>) -> Self {
        let mut out = Vec::with_capacity(values.len() * 2);
        for (i, value) in values.into_iter().enumerate() {
            if i > 0 {
                out.push(Self::Delim(','));
            }
            match value {
                Self::Sequence(parts) => out.extend(parts.iter().cloned()),
                other => out.push(other),
            }
        }
        Self::sequence(out)
    }

    /// Adds what is the same of equal values to a hash, as far as that is quick.
    pub(crate) fn stir(&self, hasher: &mut impl Hasher) {
        std::mem::discriminant(self).hash(hasher);
        match self {
            Self::Keyword(name) | Self::Ident(name) => name.hash(hasher),
            Self::Number(n) | Self::Percentage(n) | Self::Dimension(n, _) => n.to_bits().hash(hasher),
            Self::Color(color) => {
                if let color::ColorValue::Absolute(color) = &**color {
                    (color.c.map(f64::to_bits), color.alpha.to_bits()).hash(hasher);
                }
            }
            _ => {}
        }
    }

    /// The components of a sequence; a single value is its own.
    pub(crate) fn parts(&self) -> &[Value] {
        match self {
            Self::Sequence(parts) => parts,
            one => std::slice::from_ref(one),
        }
    }

    /// The parts between commas.
    pub(crate) fn layers(&self) -> Vec<Vec<Value>> {
        let parts = self.parts();
        parts.split(|v| matches!(v, Self::Delim(','))).map(<[Value]>::to_vec).collect()
    }

    /// How many parts there are between commas.
    pub(crate) fn layer_count(&self) -> usize {
        match self {
            Self::Sequence(parts) => 1 + parts.iter().filter(|v| matches!(v, Self::Delim(','))).count(),
            _ => 1,
        }
    }

    /// Whether it is this keyword.
    pub(crate) fn is(&self, keyword: &str) -> bool {
        matches!(self, Self::Keyword(k) if &**k == keyword)
    }

    /// The keyword it is, or nothing.
    pub(crate) fn as_keyword(&self) -> Option<&str> {
        match self {
            Self::Keyword(k) => Some(k),
            _ => None,
        }
    }

    /// The length in px it is.
    pub(crate) fn as_px(&self) -> Option<f64> {
        match self {
            Self::Dimension(n, Unit::Px) => Some(*n),
            _ => None,
        }
    }

    /// The value with every length absolute and all arithmetic done that can be, colours left as they are.
    pub(crate) fn absolute(&self, context: &Context) -> Self {
        match self {
            Self::Dimension(n, unit) => {
                let (n, unit) = unit.canonical(*n, context);
                Self::Dimension(math::held(n, unit), unit)
            }
            Self::Math(value) => value.resolve(context),
            Self::Function(f) => Self::function(f.0.clone(), f.1.iter().map(|v| v.absolute(context)).collect()),
            Self::Sequence(parts) => Self::Sequence(Arc::new(parts.iter().map(|v| v.absolute(context)).collect())),
            other => other.clone(),
        }
    }
}

/// The numeric types of CSS Values.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum NumericClass {
    /// `<length>`
    Length,
    /// `<percentage>`
    Percentage,
    /// `<length-percentage>`
    LengthPercentage,
    /// `<number>`
    Number,
    /// `<integer>`
    Integer,
    /// `<angle>`
    Angle,
    /// `<angle-percentage>`
    AnglePercentage,
    /// `<time>`
    Time,
    /// `<frequency>`
    Frequency,
    /// `<resolution>`
    Resolution,
    /// `<flex>`
    Flex,
}

impl NumericClass {
    /// The dimension that a unit must have.
    fn dimension(self) -> Option<Dimension> {
        Some(match self {
            Self::Length | Self::LengthPercentage => Dimension::Length,
            Self::Angle | Self::AnglePercentage => Dimension::Angle,
            Self::Time => Dimension::Time,
            Self::Frequency => Dimension::Frequency,
            Self::Resolution => Dimension::Resolution,
            Self::Flex => Dimension::Flex,
            Self::Percentage | Self::Number | Self::Integer => return None,
        })
    }

    /// Whether percentages are taken.
    fn takes_percentages(self) -> bool {
        matches!(self, Self::Percentage | Self::LengthPercentage | Self::AnglePercentage)
    }
}

/// An integer within what is held: 32 bits, as everywhere (CSS Values 4, §5.1 "Numeric Data Types").
fn whole(n: f64) -> f64 {
    n.clamp(f64::from(i32::MIN), f64::from(i32::MAX))
}

/// Reads a number of a class from the one component value in a run; literals outside the range are no match.
pub(crate) fn numeric(class: NumericClass, range: (f64, f64), slice: Slice<'_>) -> Option<Value> {
    let token = slice.peek()?;
    // A range that runs backwards leaves out what is between.
    let within = |n: f64| match range {
        (low, high) if low <= high => n >= low && n <= high,
        (low, high) => n >= low || n <= high,
    };
    match token.kind {
        Kind::Number(n, integer) => match class {
            NumericClass::Number if within(n) => Some(Value::Number(n)),
            NumericClass::Integer if integer && within(n) => Some(Value::Number(whole(n))),
            NumericClass::Length | NumericClass::LengthPercentage if n == 0.0 && within(n) => Some(Value::px(0.0)),
            _ => None,
        },
        Kind::Percentage(n) => (class.takes_percentages() && within(n)).then_some(Value::Percentage(n)),
        Kind::Dimension(n, _) => {
            let unit = Unit::named(&slice.name(token))?;
            let fits = class.dimension() == Some(unit.dimension());
            // Ranges are written without units or in the canonical one.
            let canonical =
                if unit.dimension() == Dimension::Length { n } else { unit.canonical(n, &Context::default()).0 };
            (fits && within(canonical)).then_some(Value::Dimension(n, unit))
        }
        Kind::Function(_) => MathValue::parse(class, range, slice).map(|m| Value::Math(Arc::new(m))),
        _ => None,
    }
}

/// Reads a URL.
pub(crate) fn url(slice: Slice<'_>) -> Option<Value> {
    let token = slice.peek()?;
    if token.kind == Kind::Url {
        return Some(Value::url(slice.name(token)));
    }
    if slice.is_function("url") || slice.is_function("src") {
        let inside = slice.inside().trim();
        let string = inside.peek().filter(|t| t.kind == Kind::Str)?;
        return Some(Value::url(inside.name(string)));
    }
    None
}

/// The factor of an absolute length unit to px.
pub(crate) fn absolute_length(name: &str) -> Option<f64> {
    let unit = Unit::named(name)?;
    (unit.is_absolute() && unit.dimension() == Dimension::Length).then(|| unit.canonical(1.0, &Context::default()).0)
}

/// The one number of any class in a run, worked out as far as it can be.
pub(crate) fn any_numeric(slice: Slice<'_>, context: &Context) -> Option<Value> {
    let classes = [
        NumericClass::LengthPercentage,
        NumericClass::Number,
        NumericClass::AnglePercentage,
        NumericClass::Time,
        NumericClass::Resolution,
        NumericClass::Percentage,
    ];
    let slice = slice.trim();
    classes.into_iter().find_map(|c| numeric(c, (f64::NEG_INFINITY, f64::INFINITY), slice)).map(|v| v.absolute(context))
}

/// The number that arithmetic gives where no element is around, in px and with 16px for `em`, and what it measures.
pub(crate) fn absolute_math(slice: Slice<'_>) -> Option<(f64, NumericClass)> {
    let classes = [NumericClass::Length, NumericClass::Number, NumericClass::Resolution];
    classes.into_iter().find_map(|class| {
        match numeric(class, (f64::NEG_INFINITY, f64::INFINITY), slice)?.absolute(&Context::default()) {
            Value::Number(n) | Value::Dimension(n, _) => Some((n, class)),
            _ => None,
        }
    })
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_value_takes_two_words() {
        // Pages have hundreds of thousands, side by side.
        assert_eq!(size_of::<Value>(), 16);
    }
}
