//! Arithmetic in values (CSS Values 4, §10 "Mathematical Expressions").

use super::unit::{Context, Dimension, Unit};
use super::{NumericClass, Value};
use crate::limits::DEEPEST_EXPRESSION;
use crate::syntax::{Kind, Slice};

/// An expression.
#[derive(Clone, Debug, PartialEq)]
pub(crate) enum Math {
    /// A number.
    Number(f64),
    /// A percentage.
    Percentage(f64),
    /// A number with a unit.
    Dimension(f64, Unit),
    /// A channel of a colour, in relative colours.
    Channel(crate::document::Name),
    /// `a + b`
    Sum(Vec<Math>),
    /// `- a`, as a term that is taken away.
    Negate(Box<Math>),
    /// `a * b`
    Product(Vec<Math>),
    /// `1 / a`
    Invert(Box<Math>),
    /// Any other function.
    Call(Function, Vec<Math>),
}

/// A function of arithmetic.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[allow(missing_docs, clippy::missing_docs_in_private_items)]
pub(crate) enum Function {
    Min,
    Max,
    Clamp,
    Nearest,
    Up,
    Down,
    ToZero,
    Mod,
    Rem,
    Sin,
    Cos,
    Tan,
    Asin,
    Acos,
    Atan,
    Atan2,
    Pow,
    Sqrt,
    Hypot,
    Log,
    Exp,
    Abs,
    Sign,
    Progress,
    SiblingIndex,
    SiblingCount,
    /// `random()` with a number that is drawn when a page is opened.
    Random,
    /// `random(fixed …)`, whose first argument is the number that would be drawn.
    RandomFixed,
}

/// Functions by name.
const FUNCTIONS: &[(&str, Function)] = &[
    ("min", Function::Min),
    ("max", Function::Max),
    ("clamp", Function::Clamp),
    ("mod", Function::Mod),
    ("rem", Function::Rem),
    ("sin", Function::Sin),
    ("cos", Function::Cos),
    ("tan", Function::Tan),
    ("asin", Function::Asin),
    ("acos", Function::Acos),
    ("atan", Function::Atan),
    ("atan2", Function::Atan2),
    ("pow", Function::Pow),
    ("sqrt", Function::Sqrt),
    ("hypot", Function::Hypot),
    ("log", Function::Log),
    ("exp", Function::Exp),
    ("abs", Function::Abs),
    ("sign", Function::Sign),
    ("round", Function::Nearest),
    ("progress", Function::Progress),
    ("random", Function::Random),
    ("sibling-index", Function::SiblingIndex),
    ("sibling-count", Function::SiblingCount),
];

/// The functions of calculations (CSS Values 4, §10).
pub(crate) fn math_functions() -> impl Iterator<Item = &'static str> {
    ["calc"].into_iter().chain(FUNCTIONS.iter().map(|(name, _)| *name))
}

/// What an expression measures: the power of each dimension, percentages last.
type Powers = [i32; 7];

/// Plain numbers.
const NUMBER: Powers = [0; 7];

/// An expression where a value is wanted.
#[derive(Clone, Debug, PartialEq)]
pub(crate) struct MathValue {
    /// The expression.
    pub(crate) math: Math,
    /// What it must measure.
    class: NumericClass,
    /// The range it is clamped to.
    range: (f64, f64),
    /// Whether it is told with its terms as they were written (see [`MathValue::as_written`]).
    pub(super) as_written: bool,
}

impl MathValue {
    /// An expression that gives a length or a share of one.
    pub(crate) fn length_percentage(math: Math) -> Self {
        let range = (f64::NEG_INFINITY, f64::INFINITY);
        Self { math, class: NumericClass::LengthPercentage, range, as_written: false }
    }

    /// The same, told as CSS Typed OM 1, §6 does, which has objects for `min()`, `max()` and `clamp()` only, and leaves terms where
    /// they are; nothing where it has another function, and is told as everywhere.
    pub(crate) fn as_written(&self) -> Option<Self> {
        let has_object = |f: &Function| matches!(f, Function::Min | Function::Max | Function::Clamp);
        let others = |m: &Math| matches!(m, Math::Call(function, _) if !has_object(function));
        (!self.math.any(others)).then(|| Self { as_written: true, ..self.clone() })
    }

    /// The same with what `random()` draws taken as the middle.
    pub(crate) fn in_the_middle(&self) -> Self {
        Self { math: self.math.in_the_middle(), ..self.clone() }
    }

    /// Reads an expression that gives a value of a class; nothing where it does not.
    pub(crate) fn parse(class: NumericClass, range: (f64, f64), slice: Slice<'_>) -> Option<Self> {
        let math = function(slice, 0, false)?;
        let powers = math.powers(class)?;
        let wanted = match class.dimension() {
            Some(dimension) => one_of(dimension),
            None if class == NumericClass::Percentage => {
                let mut powers = NUMBER;
                powers[6] = 1;
                powers
            }
            None => NUMBER,
        };
        (powers == wanted).then_some(Self { math, class, range, as_written: false })
    }

    /// The number it is, whatever range there is; nothing where it is of another class.
    pub(crate) fn number(&self, context: &Context) -> Option<f64> {
        match (self.class, self.math.simplify(context, false)) {
            (NumericClass::Number, Math::Number(n)) => Some(n),
            _ => None,
        }
    }

    /// The value once lengths are absolute: a plain one where nothing waits for layout.
    pub(crate) fn resolve(&self, context: &Context) -> Value {
        // Of percentages alone more can be said than of those beside lengths.
        let mixed = matches!(self.class, NumericClass::LengthPercentage | NumericClass::AnglePercentage);
        let keep = mixed && self.math.has_dimensions();
        let math = self.math.simplify(context, keep);
        let clamp = |n: f64| {
            let n = if n.is_nan() { 0.0 } else { n };
            let n = match self.range {
                (low, high) if low <= high => n.max(low).min(high),
                (low, high) if n > high && n < low => low,
                _ => n,
            };
            if self.class == NumericClass::Integer { super::whole((n + 0.5).floor()) } else { n }
        };
        let single = f64::from(f32::MAX);
        match math {
            Math::Number(n) => Value::Number(clamp(n).clamp(-single, single)),
            Math::Percentage(n) => Value::Percentage(clamp(n).clamp(-single, single)),
            // Of functions of lengths and 0% a calculation remains, but for nothing.
            Math::Dimension(n, Unit::Px) if keep && self.math.any(|m| matches!(m, Math::Percentage(_))) => {
                match held(clamp(n), Unit::Px) {
                    0.0 => Value::Percentage(0.0),
                    n => Value::Math(std::sync::Arc::new(Self { math: Math::Dimension(n, Unit::Px), ..self.clone() })),
                }
            }
            Math::Dimension(n, unit) => Value::Dimension(held(clamp(n), unit), unit),
            // Nothing added to a percentage leaves the percentage.
            Math::Sum(terms)
                if matches!(
                    terms.as_slice(),
                    [Math::Percentage(_), Math::Dimension(0.0, _)] | [Math::Dimension(0.0, _), Math::Percentage(_)]
                ) =>
            {
                let n = terms.iter().find_map(|t| if let Math::Percentage(n) = t { Some(*n) } else { None });
                Value::Percentage(clamp(n.unwrap_or(0.0)))
            }
            math => Value::Math(std::sync::Arc::new(Self { math, ..self.clone() })),
        }
    }
}

/// A number of some unit as large as browsers hold it.
pub(crate) fn held(n: f64, unit: Unit) -> f64 {
    let largest = match unit.dimension() {
        Dimension::Length => 33_554_432.0,
        Dimension::Angle => 2.867_080_569_611_330_3e15,
        _ => f64::MAX,
    };
    n.clamp(-largest, largest)
}

/// The powers of one dimension.
fn one_of(dimension: Dimension) -> Powers {
    let mut powers = NUMBER;
    powers[dimension as usize] = 1;
    powers
}

/// What a calculation of `calc-size()` calls the size.
const SIZE: &str = "size";

/// Reads the calculation of `calc-size()`, in which `size` stands for the size that comes first (CSS Values 5, §11.1).
pub(crate) fn size_calculation(slice: Slice<'_>) -> Option<MathValue> {
    let math = sum(slice.trim(), 0, true)?;
    let strange = |m: &Math| matches!(m, Math::Channel(name) if &**name != SIZE);
    let is_size = math.powers(NumericClass::LengthPercentage)? == one_of(Dimension::Length);
    (is_size && !math.any(strange)).then(|| MathValue::length_percentage(math))
}

/// Reads a math function.
pub(super) fn function(slice: Slice<'_>, depth: u32, channels: bool) -> Option<Math> {
    let token = slice.peek().filter(|t| matches!(t.kind, Kind::Function(_)))?;
    if depth > DEEPEST_EXPRESSION {
        return None;
    }
    let name = slice.name(token).to_ascii_lowercase();
    let inside = slice.inside().trim();
    if name == "calc" || name == "-webkit-calc" {
        return sum(inside, depth + 1, channels);
    }
    let (_, mut function) = *FUNCTIONS.iter().find(|(n, _)| *n == name)?;
    let siblings = matches!(function, Function::SiblingIndex | Function::SiblingCount);
    if siblings {
        return inside.is_empty().then(|| Math::Call(function, Vec::new()));
    }
    let mut parts = inside.commas();
    if function == Function::Nearest
        && let Some(strategy) = parts.first().and_then(|p| p.lone_ident())
        && let Some(found) = match &*strategy {
            "nearest" => Some(Function::Nearest),
            "up" => Some(Function::Up),
            "down" => Some(Function::Down),
            "to-zero" => Some(Function::ToZero),
            _ => None,
        }
    {
        function = found;
        parts.remove(0);
    }
    let mut arguments = Vec::with_capacity(parts.len());
    if function == Function::Random
        && let Some(base) = random_base(parts.first()?.trim(), depth, channels)?
    {
        parts.remove(0);
        if let Base::Fixed(base) = base {
            function = Function::RandomFixed;
            arguments.push(base);
        }
    }
    for (i, part) in parts.iter().enumerate() {
        let none = function == Function::Clamp && i != 1 && part.lone_ident().is_some_and(|word| word == "none");
        arguments.push(if none {
            Math::Number(if i == 0 { f64::NEG_INFINITY } else { f64::INFINITY })
        } else {
            sum(*part, depth + 1, channels)?
        });
    }
    if function == Function::Clamp
        && let Some(simpler) = clamp_on_one_side(&arguments)
    {
        return Some(simpler);
    }
    let rounding = matches!(function, Function::Nearest | Function::Up | Function::Down | Function::ToZero);
    if rounding && arguments.len() == 1 {
        arguments.push(Math::Number(1.0));
    }
    let count = arguments.len();
    let fits = match function {
        Function::Min | Function::Max | Function::Hypot => count >= 1,
        Function::Clamp | Function::Progress => count == 3,
        Function::Mod | Function::Rem | Function::Atan2 | Function::Pow => count == 2,
        Function::Log => count == 1 || count == 2,
        Function::Random => count == 2 || count == 3,
        Function::RandomFixed => count == 3 || count == 4,
        _ if rounding => count == 2,
        _ => count == 1,
    };
    fits.then_some(Math::Call(function, arguments))
}

/// `clamp(none, …)` as `min()` or `max()`, so that units need not fit infinity.
fn clamp_on_one_side(arguments: &[Math]) -> Option<Math> {
    let [low, value, high] = arguments else { return None };
    match (low, high) {
        (Math::Number(n), Math::Number(m)) if n.is_infinite() && m.is_infinite() => Some(value.clone()),
        (Math::Number(n), _) if n.is_infinite() => Some(Math::Call(Function::Min, vec![value.clone(), high.clone()])),
        (_, Math::Number(m)) if m.is_infinite() => Some(Math::Call(Function::Max, vec![low.clone(), value.clone()])),
        _ => None,
    }
}

/// Where the number of `random()` comes from, as its first argument may say.
enum Base {
    /// It is drawn; what shares the draw does not matter to us.
    Drawn,
    /// It is given.
    Fixed(Math),
}

/// Reads what `random()` may begin with: `fixed` with a number, or with whom it shares what is drawn (CSS Values 5, §9.3).
/// An inner nothing where it begins otherwise.
fn random_base(slice: Slice<'_>, depth: u32, channels: bool) -> Option<Option<Base>> {
    if slice.is_ident("fixed") {
        let base = sum(Slice { from: slice.from + 1, ..slice }, depth + 1, channels)?;
        let fits = !matches!(base, Math::Number(n) if !(0.0..=1.0).contains(&n));
        return fits.then_some(Some(Base::Fixed(base)));
    }
    let mut rest = slice;
    while let Some(word) = rest.ident() {
        if !matches!(&*word, "auto" | "element-scoped" | "property-scoped") && !word.starts_with("--") {
            break;
        }
        rest.next();
        rest.skip_space();
    }
    if rest.is_empty() { Some(Some(Base::Drawn)) } else { Some(None) }
}

/// `a + b - c`
pub(super) fn sum(slice: Slice<'_>, depth: u32, channels: bool) -> Option<Math> {
    if depth > DEEPEST_EXPRESSION {
        return None;
    }
    let mut rest = slice.trim();
    let mut terms = vec![product(&mut rest, depth, channels)?];
    loop {
        let spaced = rest.skip_space();
        if rest.is_empty() {
            return Some(if terms.len() == 1 { terms.pop()? } else { Math::Sum(terms) });
        }
        let minus = match rest.kind()? {
            Kind::Delim('+') => false,
            Kind::Delim('-') => true,
            _ => return None,
        };
        rest.next();
        // White space must be on both sides of the sign.
        if !spaced || !rest.skip_space() {
            return None;
        }
        let term = product(&mut rest, depth, channels)?;
        terms.push(if minus { Math::Negate(Box::new(term)) } else { term });
    }
}

/// `a * b / c`
fn product(rest: &mut Slice<'_>, depth: u32, channels: bool) -> Option<Math> {
    let mut factors = vec![leaf(rest, depth, channels)?];
    loop {
        let mut look = *rest;
        look.skip_space();
        let divide = match look.kind() {
            Some(Kind::Delim('*')) => false,
            Some(Kind::Delim('/')) => true,
            _ => {
                return Some(if factors.len() == 1 { factors.pop()? } else { Math::Product(factors) });
            }
        };
        look.next();
        look.skip_space();
        let factor = leaf(&mut look, depth, channels)?;
        factors.push(if divide { Math::Invert(Box::new(factor)) } else { factor });
        *rest = look;
    }
}

/// A number, a constant, a function or an expression in parentheses.
fn leaf(rest: &mut Slice<'_>, depth: u32, channels: bool) -> Option<Math> {
    let here = *rest;
    let token = rest.next()?;
    match token.kind {
        Kind::Number(n, _) => Some(Math::Number(n)),
        Kind::Percentage(n) => Some(Math::Percentage(n)),
        Kind::Dimension(n, _) => Unit::named(&here.name(token)).map(|u| Math::Dimension(n, u)),
        Kind::Paren(_) => sum(here.inside(), depth + 1, channels),
        Kind::Function(_) => function(Slice { to: rest.from, ..here }, depth + 1, channels),
        Kind::Ident => {
            let name = here.name(token).to_ascii_lowercase();
            Some(match &*name {
                "e" => Math::Number(std::f64::consts::E),
                "pi" => Math::Number(std::f64::consts::PI),
                "infinity" => Math::Number(f64::INFINITY),
                "-infinity" => Math::Number(f64::NEG_INFINITY),
                "nan" => Math::Number(f64::NAN),
                _ if channels && name != "none" => Math::Channel(crate::document::Name::from(name)),
                _ => return None,
            })
        }
        _ => None,
    }
}

impl Math {
    /// Whether some part of it passes a test.
    pub(crate) fn any(&self, test: impl Fn(&Self) -> bool + Copy) -> bool {
        test(self)
            || match self {
                Self::Number(_) | Self::Percentage(_) | Self::Channel(_) | Self::Dimension(..) => false,
                Self::Sum(list) | Self::Product(list) | Self::Call(_, list) => list.iter().any(|m| m.any(test)),
                Self::Negate(inner) | Self::Invert(inner) => inner.any(test),
            }
    }

    /// The same operation on what is put in the place of each operand; a leaf as it is. Nothing where nothing can be put there.
    pub(crate) fn on_operands(&self, mut put: impl FnMut(&Self) -> Option<Self>) -> Option<Self> {
        let mut all = |list: &[Self]| list.iter().map(&mut put).collect::<Option<Vec<_>>>();
        Some(match self {
            Self::Sum(terms) => Self::Sum(all(terms)?),
            Self::Product(factors) => Self::Product(all(factors)?),
            Self::Call(function, arguments) => Self::Call(*function, all(arguments)?),
            Self::Negate(inner) => Self::Negate(Box::new(put(inner)?)),
            Self::Invert(inner) => Self::Invert(Box::new(put(inner)?)),
            leaf => leaf.clone(),
        })
    }

    /// Whether some part of it has a unit.
    pub(crate) fn has_dimensions(&self) -> bool {
        self.any(|m| matches!(m, Self::Dimension(..)))
    }

    /// Whether it has a number that only the element gives, such as one in `em` or `sibling-index()`.
    pub(crate) fn needs_element(&self) -> bool {
        self.any(|m| match m {
            Self::Dimension(_, unit) => !unit.is_absolute(),
            Self::Call(function, _) => matches!(function, Function::SiblingIndex | Function::SiblingCount),
            _ => false,
        })
    }

    /// The expression with what `random()` draws taken as the middle, where other values depend on it.
    pub(crate) fn in_the_middle(&self) -> Self {
        if let Self::Call(Function::Random, arguments) = self {
            let base = std::iter::once(Self::Number(0.5));
            return Self::Call(Function::RandomFixed, base.chain(arguments.iter().map(Self::in_the_middle)).collect());
        }
        self.on_operands(|m| Some(m.in_the_middle())).unwrap_or_else(|| self.clone())
    }

    /// What the expression measures; nothing where its parts do not fit.
    fn powers(&self, class: NumericClass) -> Option<Powers> {
        let same = |list: &[Math]| -> Option<Powers> {
            let mut all = list.iter().map(|m| m.powers(class));
            let first = all.next()??;
            all.all(|p| p == Some(first)).then_some(first)
        };
        match self {
            Self::Channel(name) if &**name == SIZE => Some(one_of(Dimension::Length)),
            Self::Number(_) | Self::Channel(_) => Some(NUMBER),
            Self::Percentage(_) => {
                let mut powers = NUMBER;
                match class {
                    NumericClass::LengthPercentage => powers[Dimension::Length as usize] = 1,
                    NumericClass::AnglePercentage => powers[Dimension::Angle as usize] = 1,
                    _ => powers[6] = 1,
                }
                Some(powers)
            }
            Self::Dimension(_, unit) => Some(one_of(unit.dimension())),
            Self::Sum(terms) => same(terms),
            Self::Negate(inner) => inner.powers(class),
            Self::Product(factors) => factors.iter().try_fold(NUMBER, |mut sum, factor| {
                let powers = factor.powers(class)?;
                sum.iter_mut().zip(powers).for_each(|(s, p)| *s += p);
                Some(sum)
            }),
            Self::Invert(inner) => inner.powers(class).map(|p| p.map(|n| -n)),
            Self::Call(Function::SiblingIndex | Function::SiblingCount, _) => Some(NUMBER),
            Self::Call(function, arguments) => {
                let powers = match function {
                    Function::RandomFixed => {
                        let (base, rest) = arguments.split_first()?;
                        (base.powers(class)? == NUMBER).then(|| same(rest))??
                    }
                    Function::Log | Function::Pow => (same(arguments)? == NUMBER).then_some(NUMBER)?,
                    _ => same(arguments)?,
                };
                let angle = one_of(Dimension::Angle);
                match function {
                    Function::Sin | Function::Cos | Function::Tan => {
                        (powers == NUMBER || powers == angle).then_some(NUMBER)
                    }
                    Function::Asin | Function::Acos | Function::Atan => (powers == NUMBER).then_some(angle),
                    Function::Atan2 => Some(angle),
                    Function::Sqrt | Function::Exp => (powers == NUMBER).then_some(NUMBER),
                    Function::Sign | Function::Progress => Some(NUMBER),
                    _ => Some(powers),
                }
            }
        }
    }

    /// The expression with units canonical and everything worked out that can be (CSS Values 4, §10.10.1 "Simplification").
    /// With `keep`, percentages wait for layout, so that functions of them stay: which of two is the smaller depends on whether what
    /// they are of is negative.
    pub(crate) fn simplify(&self, context: &Context, keep: bool) -> Self {
        match self {
            Self::Number(_) | Self::Percentage(_) | Self::Channel(_) => self.clone(),
            Self::Dimension(n, unit) => {
                let (n, unit) = unit.canonical(*n, context);
                Self::Dimension(n, unit)
            }
            Self::Sum(terms) => add(terms.iter().map(|t| t.simplify(context, keep)).collect()),
            Self::Negate(inner) => negate(inner.simplify(context, keep)),
            Self::Product(factors) => multiply(factors.iter().map(|f| f.simplify(context, keep)).collect()),
            Self::Invert(inner) => match inner.simplify(context, keep) {
                Self::Number(n) => Self::Number(1.0 / n),
                other => Self::Invert(Box::new(other)),
            },
            Self::Call(Function::SiblingIndex, _) => Self::Number(context.sibling.0),
            Self::Call(Function::SiblingCount, _) => Self::Number(context.sibling.1),
            Self::Call(function, arguments) => {
                let arguments: Vec<Self> = arguments.iter().map(|a| a.simplify(context, keep)).collect();
                let zeros = if keep { with_zero_lengths(&arguments) } else { None };
                call(*function, zeros.as_deref().unwrap_or(&arguments), keep).unwrap_or_else(|| {
                    match (function, arguments.as_slice()) {
                        (Function::Min | Function::Max, [one]) => one.clone(),
                        _ => Self::Call(*function, arguments),
                    }
                })
            }
        }
    }

    /// The number and unit of a leaf: 0 for numbers, 1 for percentages, the unit otherwise.
    fn leaf(&self) -> Option<(f64, Option<Unit>, bool)> {
        match self {
            Self::Number(n) => Some((*n, None, false)),
            Self::Percentage(n) => Some((*n, None, true)),
            Self::Dimension(n, unit) => Some((*n, Some(*unit), false)),
            _ => None,
        }
    }

    /// A leaf with another number.
    fn with(&self, n: f64) -> Self {
        match self {
            Self::Percentage(_) => Self::Percentage(n),
            Self::Dimension(_, unit) => Self::Dimension(n, *unit),
            _ => Self::Number(n),
        }
    }
}

/// Takes away what it is given, each term of a sum by itself.
fn negate(math: Math) -> Math {
    match math {
        Math::Sum(terms) => Math::Sum(terms.into_iter().map(negate).collect()),
        Math::Negate(inner) => *inner,
        one => match one.leaf() {
            Some((n, ..)) => one.with(-n),
            None => Math::Negate(Box::new(one)),
        },
    }
}

/// Adds terms: those of one unit become one.
fn add(terms: Vec<Math>) -> Math {
    let mut out: Vec<Math> = Vec::new();
    let mut open: Vec<Math> = terms;
    open.reverse();
    while let Some(term) = open.pop() {
        if let Math::Sum(inner) = term {
            open.extend(inner.into_iter().rev());
            continue;
        }
        let found = term.leaf().and_then(|(n, unit, percent)| {
            let same = out.iter_mut().find(|o| o.leaf().is_some_and(|(_, u, p)| u == unit && p == percent))?;
            let old = same.leaf()?.0;
            *same = same.with(old + n);
            Some(())
        });
        if found.is_none() {
            out.push(term);
        }
    }
    match out.len() {
        1 => out.pop().unwrap_or(Math::Number(0.0)),
        _ => Math::Sum(out),
    }
}

/// Multiplies factors: numbers go into the one other factor.
fn multiply(factors: Vec<Math>) -> Math {
    let mut number = 1.0;
    let mut rest: Vec<Math> = Vec::new();
    let mut open: Vec<Math> = factors;
    open.reverse();
    while let Some(factor) = open.pop() {
        match factor {
            Math::Product(inner) => open.extend(inner.into_iter().rev()),
            Math::Number(n) => number *= n,
            Math::Invert(inner) => match inner.leaf() {
                // A unit divided by itself is a number.
                Some((n, unit, percent)) => {
                    let same = rest.iter().position(|r| r.leaf().is_some_and(|(_, u, p)| u == unit && p == percent));
                    match same {
                        Some(i) => number *= rest.remove(i).leaf().map_or(1.0, |l| l.0) / n,
                        None => rest.push(Math::Invert(inner)),
                    }
                }
                None => rest.push(Math::Invert(inner)),
            },
            other => {
                let inverse = other.leaf().and_then(|(n, unit, percent)| {
                    let at = rest.iter().position(
                        |r| matches!(r, Math::Invert(i) if i.leaf().is_some_and(|(_, u, p)| u == unit && p == percent)),
                    )?;
                    let Math::Invert(divisor) = rest.remove(at) else { return None };
                    Some(n / divisor.leaf()?.0)
                });
                match inverse {
                    Some(n) => number *= n,
                    None => rest.push(other),
                }
            }
        }
    }
    match rest.len() {
        0 => Math::Number(number),
        1 => match rest.pop().unwrap_or(Math::Number(0.0)) {
            Math::Sum(terms) if terms.iter().all(|t| t.leaf().is_some()) => {
                add(terms.into_iter().map(|t| multiply(vec![Math::Number(number), t])).collect())
            }
            one => match one.leaf() {
                Some((n, ..)) => one.with(n * number),
                None if number == 1.0 => one,
                None => Math::Product(vec![Math::Number(number), one]),
            },
        },
        _ => {
            // Numbers, percentages and lengths first (CSS Values 4, §10.13 "sort a calculation's children").
            rest.sort_by_key(|r| match r {
                Math::Percentage(_) => (0, ""),
                Math::Dimension(_, unit) => (1, unit.name()),
                _ => (2, ""),
            });
            if number != 1.0 {
                rest.insert(0, Math::Number(number));
            }
            Math::Product(rest)
        }
    }
}

/// Arguments with a length of nothing in the place of a share of nothing, where lengths are all the rest.
fn with_zero_lengths(arguments: &[Math]) -> Option<Vec<Math>> {
    let zero = |m: &Math| matches!(m, Math::Percentage(0.0));
    let length = |m: &Math| matches!(m, Math::Dimension(_, Unit::Px));
    let fits = arguments.iter().any(zero) && arguments.iter().any(length);
    (fits && arguments.iter().all(|m| zero(m) || length(m)))
        .then(|| arguments.iter().map(|m| if zero(m) { Math::Dimension(0.0, Unit::Px) } else { m.clone() }).collect())
}

/// Works a function out, where all arguments are numbers of one unit.
fn call(function: Function, arguments: &[Math], keep: bool) -> Option<Math> {
    if let (Function::RandomFixed, [Math::Number(base), range @ ..]) = (function, arguments) {
        return between(*base, range);
    }
    let leaves: Vec<(f64, Option<Unit>, bool)> = arguments.iter().map(Math::leaf).collect::<Option<_>>()?;
    let (first, unit, percent) = *leaves.first()?;
    if !leaves.iter().all(|(_, u, p)| *u == unit && *p == percent) || (percent && keep) {
        return None;
    }
    let n: Vec<f64> = leaves.iter().map(|l| l.0).collect();
    let like = |n: f64| Some(arguments[0].with(n));
    let number = |n: f64| Some(Math::Number(n));
    let angle = |radians: f64| Some(Math::Dimension(radians.to_degrees(), Unit::Deg));
    let radians = if unit.is_some() { first.to_radians() } else { first };
    let fold = |pick: fn(f64, f64) -> f64| {
        n.iter().copied().reduce(|a, b| if a.is_nan() || b.is_nan() { f64::NAN } else { pick(a, b) })
    };
    match function {
        Function::Min => like(fold(f64::min)?),
        Function::Max => like(fold(f64::max)?),
        Function::Clamp => like(if n.iter().any(|n| n.is_nan()) { f64::NAN } else { n[0].max(n[1].min(n[2])) }),
        Function::Nearest | Function::Up | Function::Down | Function::ToZero => like(round(function, n[0], n[1])),
        Function::Mod => like(if n[1].is_infinite() && n[0].is_finite() {
            if (n[0] < 0.0) == (n[1] < 0.0) || n[0] == 0.0 { n[0] } else { f64::NAN }
        } else {
            let rest = n[0] % n[1];
            if rest != 0.0 && (rest < 0.0) != (n[1] < 0.0) { rest + n[1] } else { rest }
        }),
        Function::Rem => like(n[0] % n[1]),
        Function::Sin => number(exact(radians.sin())),
        Function::Cos => number(exact(radians.cos())),
        Function::Tan => number(exact_tan(radians)),
        Function::Asin => angle(n[0].asin()),
        Function::Acos => angle(n[0].acos()),
        Function::Atan => angle(n[0].atan()),
        Function::Atan2 => angle(n[0].atan2(n[1])),
        Function::Pow => number(n[0].powf(n[1])),
        Function::Sqrt => number(n[0].sqrt()),
        Function::Hypot => like(if n.len() == 1 { n[0].abs() } else { n.iter().fold(0.0_f64, |a, b| a.hypot(*b)) }),
        Function::Log => number(n.get(1).map_or_else(|| n[0].ln(), |base| n[0].ln() / base.ln())),
        Function::Exp => number(n[0].exp()),
        Function::Abs => like(n[0].abs()),
        // CSS Values 5, §10.9: how far the value is on the way from one end to the other.
        Function::Progress => {
            let way = (n[0] - n[1]) / (n[2] - n[1]);
            number(if way.is_nan() { 0.0 } else { way.clamp(0.0, 1.0) })
        }
        Function::SiblingIndex | Function::SiblingCount | Function::Random | Function::RandomFixed => None,
        Function::Sign => number(if n[0] == 0.0 || n[0].is_nan() { n[0] } else { n[0].signum() }),
    }
}

/// The value that `random()` has for a number from 0 to 1: between two ends, in steps where there is a third argument.
fn between(base: f64, range: &[Math]) -> Option<Math> {
    let leaves: Vec<(f64, Option<Unit>, bool)> = range.iter().map(Math::leaf).collect::<Option<_>>()?;
    let (low, unit, percent) = *leaves.first()?;
    let high = leaves.get(1)?.0.max(low);
    if !leaves.iter().all(|(_, u, p)| *u == unit && *p == percent) {
        return None;
    }
    let base = base.clamp(0.0, 1.0);
    let n = match leaves.get(2).map(|l| l.0).filter(|step| *step > 0.0) {
        None => low + base * (high - low),
        Some(step) => {
            let most = ((high - low) / step).floor();
            low + (base * (most + 1.0)).floor().min(most) * step
        }
    };
    Some(range[0].with(n))
}

/// Takes the noise of floating point off results that are 0 or 1 in truth.
fn exact(n: f64) -> f64 {
    if (n - n.round()).abs() < 1e-15 { n.round() } else { n }
}

/// The tangent, infinite where it has no value.
fn exact_tan(radians: f64) -> f64 {
    if exact(radians.cos()) == 0.0 { radians.sin().signum() * f64::INFINITY } else { exact(radians.tan()) }
}

/// `round()` (CSS Values 4, §10.3).
fn round(function: Function, a: f64, b: f64) -> f64 {
    if b == 0.0 || (a.is_infinite() && b.is_infinite()) || a.is_nan() || b.is_nan() {
        return f64::NAN;
    }
    if a.is_infinite() {
        return a;
    }
    if b.is_infinite() {
        return match function {
            Function::Up if a > 0.0 => f64::INFINITY,
            Function::Down if a < 0.0 => f64::NEG_INFINITY,
            _ => 0.0_f64.copysign(a),
        };
    }
    let b = b.abs();
    let (low, high) = ((a / b).floor() * b, (a / b).ceil() * b);
    match function {
        Function::Up => high,
        Function::Down => low,
        Function::ToZero => {
            if a < 0.0 {
                high
            } else {
                low
            }
        }
        _ => {
            if a - low < high - a {
                low
            } else {
                high
            }
        }
    }
}

impl Function {
    /// The name it is written with, and the words before its first argument.
    pub(super) fn names(self) -> (&'static str, &'static str) {
        match self {
            Self::Up => ("round", "up, "),
            Self::Down => ("round", "down, "),
            Self::ToZero => ("round", "to-zero, "),
            Self::RandomFixed => ("random", "fixed "),
            _ => (FUNCTIONS.iter().find(|(_, f)| *f == self).map_or("", |(n, _)| n), ""),
        }
    }
}
