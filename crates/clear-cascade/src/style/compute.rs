//! From specified to computed values: the "Computed value" line of each property.

use std::sync::Arc;

use url::Url;

use super::Style;
use crate::document::Name;
use crate::property::{PropertyId, Row, Rule, id};
use crate::syntax::serialize_identifier;
use crate::value::color::ColorValue;
use crate::value::{Context, Math, MathValue, Unit, Value, held};

mod notation;
mod position;
mod rules;

/// What a value is computed against.
pub(super) struct Env<'e> {
    /// The element's values so far.
    pub(super) style: &'e Style,
    /// The parent's values.
    pub(super) parent: Option<&'e Style>,
    /// The root's values; nothing on the root itself.
    pub(super) root: Option<&'e Style>,
    /// What URLs are relative to.
    pub(super) base: Option<&'e Url>,
}

/// The initial value of a longhand, computed against nothing in particular.
pub(super) fn initial(property: PropertyId) -> Value {
    let style = Style::bare();
    compute(property, &property.initial(), &Env { style: &style, parent: None, root: None, base: None })
}

/// The computed value of a specified one.
pub(super) fn compute(property: PropertyId, value: &Value, env: &Env<'_>) -> Value {
    let (row, rule) = (property.row(), property.row().rule);
    if rule == Rule::AsSpecified && !row.renames() && is_settled(value) {
        return value.clone();
    }
    // Other values depend on these, so that something must be taken for what `random()` draws.
    if let (Rule::FontSize | Rule::FontWeight | Rule::LineHeight | Rule::MathDepth, Value::Math(math)) = (rule, value) {
        let middle = math.in_the_middle();
        if middle != **math {
            return compute(property, &Value::Math(Arc::new(middle)), env);
        }
    }
    match rule {
        Rule::FontSize => return font_size(value, env),
        Rule::FontWeight => return font_weight(value, env),
        Rule::LineHeight => return line_height(value, env),
        Rule::Color => return color(value, env),
        Rule::FontFamily => return font_family(value),
        Rule::MathDepth => return math_depth(value, env),
        _ => {}
    }
    let value = match value {
        settled if is_settled(settled) => settled.clone(),
        Value::Dimension(..) => value.absolute(&env.style.context),
        _ if takes_numbers_as_lengths(rule) && property != id::PERSPECTIVE => {
            with_calculated_px(value, &env.style.context)
        }
        _ => settled(value, env),
    };
    if rule == Rule::AsSpecified && !row.renames() {
        return value;
    }
    let value = if row.renames() { renamed(value, row) } else { value };
    rules::apply(property, value, env)
}

/// Whether a number is a length in px, as in SVG.
fn takes_numbers_as_lengths(rule: Rule) -> bool {
    matches!(rule, Rule::SvgLength | Rule::SvgLengths | Rule::BaselineShift)
}

/// A value of SVG with lengths absolute: a calculation that gives a number stays one, and leaves the range if it does.
fn with_calculated_px(value: &Value, context: &Context) -> Value {
    match value {
        Value::Math(math) => match math.number(context) {
            None => value.absolute(context),
            Some(0.0) => Value::Percentage(0.0),
            Some(n) => Value::Math(Arc::new(MathValue::length_percentage(Math::Dimension(n, Unit::Px)))),
        },
        Value::Sequence(parts) => {
            Value::Sequence(Arc::new(parts.iter().map(|p| with_calculated_px(p, context)).collect()))
        }
        other => other.absolute(context),
    }
}

/// Whether a value is what it is on every element.
fn is_settled(value: &Value) -> bool {
    match value {
        Value::Keyword(_) | Value::Ident(_) | Value::Str(_) | Value::Number(_) | Value::Percentage(_) => true,
        Value::Delim(_) | Value::Raw(_) => true,
        Value::Dimension(n, unit) => unit.is_canonical() && held(*n, *unit) == *n,
        Value::Color(color) => color.is_settled(),
        Value::Sequence(parts) => parts.iter().all(is_settled),
        Value::Url(_) | Value::Math(_) | Value::Function(_) => false,
    }
}

/// Keywords in the place of old ones.
fn renamed(value: Value, row: &Row) -> Value {
    match &value {
        Value::Keyword(k) => {
            row.renamed().find(|(old, _)| *old == &**k).map_or(value.clone(), |(_, new)| Value::keyword(new))
        }
        Value::Sequence(parts) => Value::Sequence(Arc::new(parts.iter().map(|p| renamed(p.clone(), row)).collect())),
        _ => value,
    }
}

/// Colours and URLs, wherever they stand in a value.
fn generic(value: &Value, env: &Env<'_>) -> Value {
    match value {
        Value::Color(color) if color.is_settled() => value.clone(),
        Value::Color(color) => Value::Color(color.shared(env.style.dark, &env.style.context)),
        Value::Url(url) => Value::Url(absolute_url(url, env.base)),
        Value::Function(f) => {
            let is_set = f.0.ends_with("image-set");
            let part = |v: &Value| match v {
                Value::Str(url) if is_set => Value::Url(absolute_url(url, env.base)),
                other => generic(other, env),
            };
            notation::function(f.0.clone(), f.1.iter().map(part).collect())
        }
        Value::Sequence(parts) => Value::Sequence(Arc::new(parts.iter().map(|v| generic(v, env)).collect())),
        other => other.clone(),
    }
}

/// A value whose parts are absolute, and as [`generic`] has them.
fn settled(value: &Value, env: &Env<'_>) -> Value {
    match value {
        Value::Sequence(parts) => Value::Sequence(Arc::new(parts.iter().map(|part| settled(part, env)).collect())),
        other => generic(&other.absolute(&env.style.context), env),
    }
}

/// A URL made absolute; one that names a part of the page stays as it is (CSS Values 4, §4.5.1).
fn absolute_url(url: &Arc<String>, base: Option<&Url>) -> Arc<String> {
    // The path of a `data:` URL, which may be long, stays as it is; its query does not.
    if url.starts_with('#') || url.is_empty() || (url.starts_with("data:") && !url.contains('?')) {
        return url.clone();
    }
    base.and_then(|b| b.join(url).ok()).map_or_else(|| url.clone(), |u| Arc::new(u.into()))
}

/// The colour of an element: `currentcolor` is the parent's.
fn color(value: &Value, env: &Env<'_>) -> Value {
    let inherited = env.parent.map_or(crate::value::color::Color::rgb(0.0, 0.0, 0.0, 1.0), Style::color);
    match value {
        Value::Color(color) => {
            if matches!(&**color, ColorValue::Absolute(own) if own.as_computed() == *own) {
                return value.clone();
            }
            let color =
                color.computed(env.style.dark, &env.style.context).resolve(Some(inherited)).unwrap_or(inherited);
            Value::Color(Arc::new(ColorValue::Absolute(color.as_computed())))
        }
        other => other.clone(),
    }
}

/// The sizes of font-size keywords where `medium` is 16px (CSS Fonts 4, §2.5.1).
const SIZES: &[(&str, f64)] = &[
    ("xx-small", 9.0),
    ("x-small", 10.0),
    ("small", 13.0),
    ("medium", 16.0),
    ("large", 18.0),
    ("x-large", 24.0),
    ("xx-large", 32.0),
    ("xxx-large", 48.0),
];

/// The same where the only family is `monospace` and `medium` is 13px.
const MONOSPACE_SIZES: [f64; 8] = [9.0, 10.0, 12.0, 13.0, 16.0, 20.0, 26.0, 39.0];

/// The same in quirks mode.
const QUIRKY_MONOSPACE_SIZES: [f64; 8] = [9.0, 9.0, 10.0, 13.0, 16.0, 20.0, 26.0, 40.0];

/// The index of a keyword for a size; the largest has an old name too.
fn size_keyword(word: &str) -> Option<usize> {
    let word = word.strip_prefix("-webkit-").unwrap_or(word);
    SIZES.iter().position(|(name, _)| *name == word)
}

/// The size of the keyword with this index, in px.
fn size_of_keyword(i: usize, monospace: bool, quirks: bool) -> f64 {
    match (monospace, quirks) {
        (false, _) => SIZES[i].1,
        (true, false) => MONOSPACE_SIZES[i],
        (true, true) => QUIRKY_MONOSPACE_SIZES[i],
    }
}

/// Whether the only family is `monospace`.
fn is_monospace(style: &Style) -> bool {
    !style.inherited.is_empty() && style.get(id::FONT_FAMILY).is("monospace")
}

/// `font-size`
fn font_size(value: &Value, env: &Env<'_>) -> Value {
    let parent = env.parent.map_or(16.0, |p| p.context.font_size);
    let context = crate::value::Context {
        font_size: parent,
        root_font_size: env.root.map_or(16.0, |r| r.context.font_size),
        ..env.style.context.clone()
    };
    let size = match value {
        Value::Keyword(k) => match &**k {
            "larger" => parent * 1.2,
            "smaller" => parent / 1.2,
            "math" => parent * math_scale(env),
            other => {
                size_keyword(other).map_or(parent, |i| size_of_keyword(i, is_monospace(env.style), context.quirks))
            }
        },
        Value::Percentage(n) => parent * n / 100.0,
        Value::Math(math) => {
            let Value::Math(math) = math.resolve(&context) else {
                return font_size(&math.resolve(&context), env);
            };
            with_percentages(&math.math, parent).unwrap_or(parent)
        }
        other => other.absolute(&context).as_px().unwrap_or(parent),
    };
    // No font is larger in a browser.
    Value::px(size.clamp(0.0, 10_000.0))
}

/// How much `font-size: math` makes smaller (MathML Core, §4.4).
fn math_scale(env: &Env<'_>) -> f64 {
    let depth = |s: &Style| {
        if let Value::Number(n) = s.get(id::MATH_DEPTH) { *n } else { 0.0 }
    };
    let steps = depth(env.style) - env.parent.map_or(0.0, depth);
    0.71_f64.powf(steps)
}

/// An expression with percentages of a length.
fn with_percentages(math: &Math, whole: f64) -> Option<f64> {
    fn put(math: &Math, whole: f64) -> Option<Math> {
        match math {
            Math::Percentage(n) => Some(Math::Dimension(n / 100.0 * whole, Unit::Px)),
            other => other.on_operands(|m| put(m, whole)),
        }
    }
    match put(math, whole)?.simplify(&crate::value::Context::default(), false) {
        Math::Dimension(n, Unit::Px) => Some(n),
        _ => None,
    }
}

/// What is remembered of how a font size came to be, since a lone `monospace` has defaults of its own.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(crate) struct FontMemory {
    /// The keyword that the size is, from 0 as in [`SIZES`].
    keyword: Option<usize>,
    /// Whether a length that no font decides is behind it.
    absolute: bool,
}

impl Default for FontMemory {
    fn default() -> Self {
        Self { keyword: Some(3), absolute: false }
    }
}

impl FontMemory {
    /// What is remembered of a specified size.
    pub(super) fn of(value: &Value, parent: Self) -> Self {
        let relative = Self { keyword: None, absolute: parent.absolute };
        match value {
            Value::Keyword(k) => match size_keyword(k) {
                Some(i) => Self { keyword: Some(i), absolute: false },
                None => relative,
            },
            Value::Dimension(_, Unit::Em | Unit::Ex | Unit::Ch | Unit::Cap | Unit::Ic | Unit::Lh) => relative,
            // Arithmetic counts as a length of its own, also where it has a font-relative part.
            Value::Dimension(..) => Self { keyword: None, absolute: true },
            Value::Math(math) if math.math.has_dimensions() => Self { keyword: None, absolute: true },
            _ => relative,
        }
    }
}

/// A font size as browsers have it: none but one that comes of a length is smaller than 6px. Relative units go by the size
/// as it would be.
pub(super) fn legible(size: f64, memory: FontMemory) -> f64 {
    if size > 0.0 && !memory.absolute { size.max(6.0) } else { size }
}

/// The size where the family changes between a lone `monospace` and others: as browsers do, the default behind the size
/// is exchanged.
pub(super) fn font_size_for_family(style: &Style, parent: Option<&Style>) -> Option<f64> {
    let own = is_monospace(style);
    if own == parent.is_some_and(is_monospace) || style.font.absolute {
        return None;
    }
    let size = style.context.font_size;
    Some(match style.font.keyword {
        Some(i) => size_of_keyword(i, own, style.context.quirks),
        None if own => size * 13.0 / 16.0,
        None => size * 16.0 / 13.0,
    })
}

/// `font-weight`
fn font_weight(value: &Value, env: &Env<'_>) -> Value {
    let parent = env.parent.map_or(400.0, |p| if let Value::Number(n) = p.get(id::FONT_WEIGHT) { *n } else { 400.0 });
    Value::Number(match value {
        Value::Keyword(k) => match &**k {
            "normal" => 400.0,
            "bold" => 700.0,
            // CSS Fonts 4, §2.2.1 "Relative Weights".
            "bolder" if parent < 350.0 => 400.0,
            "bolder" if parent < 550.0 => 700.0,
            "bolder" => parent.max(900.0),
            _ if parent < 100.0 => parent,
            _ if parent < 550.0 => 100.0,
            _ if parent < 750.0 => 400.0,
            _ => 700.0,
        },
        other => match other.absolute(&env.style.context) {
            Value::Number(n) => rules::quarters(n).clamp(1.0, 1000.0),
            _ => 400.0,
        },
    })
}

/// `line-height`
fn line_height(value: &Value, env: &Env<'_>) -> Value {
    let style = env.style;
    let context = crate::value::Context {
        // `lh` in `line-height` itself is the parent's (CSS Values 4, §6.1.1).
        line_height: env.parent.map_or(style.context.line_height, |p| p.context.line_height),
        ..style.context.clone()
    };
    match value.absolute(&context) {
        // Browsers take whole percents only.
        Value::Percentage(n) => Value::px(style.context.font_size * n.trunc() / 100.0),
        // Where percentages are mixed in, lines are whole 64ths of a pixel.
        Value::Math(math) => {
            let px = with_percentages(&math.math, style.context.font_size).unwrap_or(0.0);
            Value::px((px.max(0.0) * 64.0).floor() / 64.0)
        }
        other => other,
    }
}

/// The line height in px, for `lh`; `normal` is taken as 1.2.
pub(super) fn used_line_height(style: &Style) -> f64 {
    let size = style.context.font_size;
    match style.get(id::LINE_HEIGHT) {
        // Browsers take the size and the product in whole 64ths of a pixel.
        Value::Number(n) => ((size * 64.0).floor() * n).floor() / 64.0,
        Value::Dimension(n, _) => *n,
        _ => size * 1.2,
    }
}

/// `math-depth`
fn math_depth(value: &Value, env: &Env<'_>) -> Value {
    let inherited = env.parent.map_or(0.0, |p| if let Value::Number(n) = p.get(id::MATH_DEPTH) { *n } else { 0.0 });
    let held = |n: f64| Value::Number(n.clamp(f64::from(i16::MIN), f64::from(i16::MAX)));
    match value {
        Value::Keyword(_) => {
            let compact = env.parent.is_some_and(|p| p.get(id::MATH_STYLE).is("compact"));
            Value::Number(inherited + if compact { 1.0 } else { 0.0 })
        }
        Value::Function(f) => match f.1.first() {
            Some(more) => match more.absolute(&env.style.context) {
                Value::Number(n) => held(inherited + n),
                _ => Value::Number(inherited),
            },
            None => Value::Number(inherited),
        },
        other => match other.absolute(&env.style.context) {
            Value::Number(n) => held(n),
            other => other,
        },
    }
}

/// `font-family`: names of several words are one name, quoted where they need to be.
fn font_family(value: &Value) -> Value {
    let word = |part: &Value| match part {
        Value::Ident(name) | Value::Keyword(name) => Some(name.to_string()),
        _ => None,
    };
    let family = |parts: &[Value]| match parts {
        [Value::Keyword(name)] => Value::Keyword(name.clone()),
        [one @ Value::Ident(name)] if generic_family(name).is_none() && is_plain_family(name) => one.clone(),
        [one @ Value::Str(name)] if generic_family(name).is_some() || !is_plain_family(name) => one.clone(),
        [Value::Str(name)] => family_name(name),
        _ => match parts.iter().map(word).collect::<Option<Vec<_>>>() {
            Some(words) => family_name(&words.join(" ")),
            None => Value::sequence(parts.to_vec()),
        },
    };
    Value::comma_list(value.parts().split(|part| matches!(part, Value::Delim(','))).map(family).collect())
}

/// A family name: an identifier where it is one and no generic family, a string otherwise.
fn family_name(name: &str) -> Value {
    match generic_family(name) {
        Some(generic) => Value::keyword(generic),
        None if is_plain_family(name) => Value::Ident(Name::from(name)),
        None => Value::string(name),
    }
}

/// The generic family that a name stands for where it is not quoted (CSS Fonts 4, §2.1.1).
fn generic_family(name: &str) -> Option<&'static str> {
    const GENERIC: [&str; 9] =
        ["serif", "sans-serif", "cursive", "fantasy", "monospace", "system-ui", "math", "emoji", "fangsong"];
    GENERIC.into_iter().find(|generic| generic.eq_ignore_ascii_case(name))
}

/// Whether a family name is written without quotes.
fn is_plain_family(name: &str) -> bool {
    !name.is_empty() && !name.starts_with("--") && !name.contains(' ') && serialize_identifier(name) == name
}

/// A computed value as it is given out: colours worked out against the element's colour.
pub(super) fn output(style: &Style, property: PropertyId, value: &Value) -> Value {
    match property {
        id::CARET_COLOR | id::OUTLINE_COLOR if value.is("auto") => current(style),
        // The colour of the ring around what has the focus is the platform's.
        id::OUTLINE_COLOR if value.is("-webkit-focus-ring-color") => {
            let ring = crate::value::color::Color::rgb(16.0, 16.0, 16.0, 1.0);
            Value::Color(Arc::new(ColorValue::Absolute(ring)))
        }
        // The width is inherited as it is, and shown as nothing where there is no line (CSS Backgrounds 3, §4.3).
        _ if has_no_line(style, property) => Value::px(0.0),
        _ if WHOLE.contains(&property) => in_full(value),
        _ => as_written(property, value).unwrap_or_else(|| resolve_colors(style, value)),
    }
}

/// Whether what `getComputedStyle()` gives is what layout made of the value (CSSOM 1, §9): a lone calculation is given out as
/// `computedStyleMap()` has it.
fn resolves_to_used(property: PropertyId) -> bool {
    const SIZES: [PropertyId; 8] = [
        id::WIDTH,
        id::HEIGHT,
        id::MIN_WIDTH,
        id::MIN_HEIGHT,
        id::MAX_WIDTH,
        id::MAX_HEIGHT,
        id::ROW_GAP,
        id::COLUMN_GAP,
    ];
    const EDGES: [PropertyId; 12] = [
        id::TOP,
        id::RIGHT,
        id::BOTTOM,
        id::LEFT,
        id::MARGIN_TOP,
        id::MARGIN_RIGHT,
        id::MARGIN_BOTTOM,
        id::MARGIN_LEFT,
        id::PADDING_TOP,
        id::PADDING_RIGHT,
        id::PADDING_BOTTOM,
        id::PADDING_LEFT,
    ];
    SIZES.contains(&property) || EDGES.contains(&property) || matches!(property, id::TEXT_INDENT | id::LINE_HEIGHT)
}

/// A lone calculation with its terms in the order they are written in; nothing where a value is none.
fn as_written(property: PropertyId, value: &Value) -> Option<Value> {
    match value {
        Value::Math(math) if resolves_to_used(property) => math.as_written().map(|math| Value::Math(Arc::new(math))),
        _ => None,
    }
}

/// Properties whose integers are given out in full, as CSSOM 1, §6.7.2 has it; those of others have six digits as all numbers do.
const WHOLE: [PropertyId; 4] = [id::Z_INDEX, id::COUNTER_RESET, id::COUNTER_SET, id::COUNTER_INCREMENT];

/// A value whose integers are written in full.
fn in_full(value: &Value) -> Value {
    match value {
        Value::Number(n) => Value::Keyword(Name::from(format!("{:.0}", n + 0.0))),
        Value::Sequence(parts) => Value::Sequence(Arc::new(parts.iter().map(in_full).collect())),
        _ => value.clone(),
    }
}

/// The widths of borders, and the styles of the lines.
pub(super) const LINES: [(PropertyId, PropertyId); 4] = [
    (id::BORDER_TOP_WIDTH, id::BORDER_TOP_STYLE),
    (id::BORDER_RIGHT_WIDTH, id::BORDER_RIGHT_STYLE),
    (id::BORDER_BOTTOM_WIDTH, id::BORDER_BOTTOM_STYLE),
    (id::BORDER_LEFT_WIDTH, id::BORDER_LEFT_STYLE),
];

/// Whether a property is the width of a border that has no line.
fn has_no_line(style: &Style, width: PropertyId) -> bool {
    let line = LINES.iter().find(|(w, _)| *w == width).map(|(_, line)| style.get(*line));
    line.is_some_and(|line| line.is("none") || line.is("hidden"))
}

/// Whether a computed value is given out as it is, whatever element has it.
pub(super) fn is_plain(property: PropertyId, value: &Value) -> bool {
    match value {
        Value::Dimension(..) => !LINES.iter().any(|(width, _)| *width == property),
        Value::Color(color) => matches!(**color, ColorValue::Absolute(_)),
        Value::Function(f) => f.1.iter().all(|v| is_plain(property, v)),
        Value::Sequence(parts) => parts.iter().all(|v| is_plain(property, v)),
        Value::Number(n) => n.abs() < 1e6 || !WHOLE.contains(&property),
        Value::Keyword(_) => !matches!(property, id::CARET_COLOR | id::OUTLINE_COLOR),
        _ => true,
    }
}

/// The text of a computed value where it is the same on every element that has it.
pub(super) fn plain_text(property: PropertyId, value: &Value) -> Option<String> {
    is_plain(property, value).then(|| as_written(property, value).map_or_else(|| value.text(), |value| value.text()))
}

/// The element's colour as a value.
fn current(style: &Style) -> Value {
    Value::Color(Arc::new(ColorValue::Absolute(style.color())))
}

/// A value with `currentcolor` worked out wherever it stands.
fn resolve_colors(style: &Style, value: &Value) -> Value {
    match value {
        Value::Color(color) => match &**color {
            ColorValue::Absolute(_) => value.clone(),
            open => match open.resolve(Some(style.color())) {
                Some(found) => Value::Color(Arc::new(ColorValue::Absolute(found))),
                None => value.clone(),
            },
        },
        Value::Function(f) => Value::function(f.0.clone(), f.1.iter().map(|v| resolve_colors(style, v)).collect()),
        Value::Sequence(parts) => Value::Sequence(Arc::new(parts.iter().map(|v| resolve_colors(style, v)).collect())),
        other => other.clone(),
    }
}
