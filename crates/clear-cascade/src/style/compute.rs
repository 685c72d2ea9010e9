//! From specified to computed values: the "Computed value" line of each property.

use std::sync::Arc;

use url::Url;

use super::Style;
use super::gather::{Entry, Target};
use super::winners::Subject;
use crate::cascade::Origin;
use crate::document::{Name, Namespace};
use crate::property::{PropertyId, id};
use crate::syntax::serialize_identifier;
use crate::value::color::ColorValue;
use crate::value::{Math, Unit, Value};

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
    let style = Style {
        chunks: Vec::new(),
        custom: Arc::default(),
        context: crate::value::Context::default(),
        flow: crate::property::Flow::default(),
        dark: false,
        font: FontMemory::default(),
        blockifies: false,
    };
    compute(property, &property.initial(), &Env { style: &style, parent: None, root: None, base: None })
}

/// The computed value of a specified one.
pub(super) fn compute(property: PropertyId, value: &Value, env: &Env<'_>) -> Value {
    match property {
        id::FONT_SIZE => return font_size(value, env),
        id::FONT_WEIGHT => return font_weight(value, env),
        id::LINE_HEIGHT => return line_height(value, env),
        id::COLOR => return color(value, env),
        id::FONT_FAMILY => return font_family(value),
        id::MATH_DEPTH => return math_depth(value, env),
        _ => {}
    }
    let value = generic(&value.absolute(&env.style.context), env);
    special(property, value, env)
}

/// Colours and URLs, wherever they stand in a value.
fn generic(value: &Value, env: &Env<'_>) -> Value {
    match value {
        Value::Color(color) => Value::Color(Arc::new(color.computed(env.style.dark, &env.style.context))),
        Value::Url(url) => Value::Url(absolute_url(url, env.base)),
        Value::Function(f) => {
            let mut parts: Vec<Value> = f.1.iter().map(|v| generic(v, env)).collect();
            // From top to bottom is what linear gradients do where no direction is given.
            if f.0.ends_with("linear-gradient") && !f.0.starts_with('-') {
                let down = match parts.as_slice() {
                    [Value::Dimension(n, Unit::Deg), Value::Delim(','), ..] if *n == 180.0 => 2,
                    [to, bottom, Value::Delim(','), ..] if to.is("to") && bottom.is("bottom") => 3,
                    _ => 0,
                };
                parts.drain(..down);
            }
            Value::function(f.0.clone(), parts)
        }
        Value::Sequence(parts) => Value::Sequence(Arc::new(parts.iter().map(|v| generic(v, env)).collect())),
        other => other.clone(),
    }
}

/// A URL made absolute; one that names a part of the page stays as it is (CSS Values 4, §4.5.1).
fn absolute_url(url: &Arc<str>, base: Option<&Url>) -> Arc<str> {
    if url.starts_with('#') || url.is_empty() || url.starts_with("data:") {
        return url.clone();
    }
    base.and_then(|b| b.join(url).ok()).map_or_else(|| url.clone(), |u| Arc::from(u.as_str()))
}

/// The colour of an element: `currentcolor` is the parent's.
fn color(value: &Value, env: &Env<'_>) -> Value {
    let inherited = env.parent.map_or(crate::value::color::Color::rgb(0.0, 0.0, 0.0, 1.0), Style::color);
    match value {
        Value::Color(color) => {
            let color =
                color.computed(env.style.dark, &env.style.context).resolve(Some(inherited)).unwrap_or(inherited);
            Value::Color(Arc::new(ColorValue::Absolute(color)))
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
    !style.chunks.is_empty() && style.get(id::FONT_FAMILY).is("monospace")
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
            other => SIZES
                .iter()
                .position(|(k, _)| *k == other)
                .map_or(parent, |i| size_of_keyword(i, is_monospace(env.style), context.quirks)),
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
    Value::px(size.max(0.0))
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
    fn put(math: &Math, whole: f64) -> Math {
        match math {
            Math::Percentage(n) => Math::Dimension(n / 100.0 * whole, Unit::Px),
            Math::Sum(list) => Math::Sum(list.iter().map(|m| put(m, whole)).collect()),
            Math::Product(list) => Math::Product(list.iter().map(|m| put(m, whole)).collect()),
            Math::Invert(inner) => Math::Invert(Box::new(put(inner, whole))),
            Math::Call(function, list) => Math::Call(*function, list.iter().map(|m| put(m, whole)).collect()),
            leaf => leaf.clone(),
        }
    }
    match put(math, whole).simplify(&crate::value::Context::default(), false) {
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
            Value::Keyword(k) => match SIZES.iter().position(|(name, _)| **k == **name) {
                Some(i) => Self { keyword: Some(i), absolute: false },
                None => relative,
            },
            Value::Dimension(_, Unit::Em | Unit::Ex | Unit::Ch | Unit::Cap | Unit::Ic | Unit::Lh) => relative,
            // Arithmetic counts as a length of its own, also where it has a font-relative part.
            Value::Dimension(..) => Self { keyword: None, absolute: true },
            Value::Math(math) if math.math.has_lengths() => Self { keyword: None, absolute: true },
            _ => relative,
        }
    }
}

/// The size where the family changes between a lone `monospace` and others: as browsers do, the default behind the size
/// is exchanged.
pub(super) fn font_size_for_family(style: &Style, parent: Option<&Style>) -> Option<f64> {
    let own = is_monospace(style);
    if own == parent.is_some_and(is_monospace) || style.font.absolute {
        return None;
    }
    let size = style.get(id::FONT_SIZE).as_px()?;
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
            Value::Number(n) => n.clamp(1.0, 1000.0),
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
        Value::Percentage(n) => Value::px(style.context.font_size * n / 100.0),
        Value::Math(math) => Value::px(with_percentages(&math.math, style.context.font_size).unwrap_or(0.0).max(0.0)),
        other => other,
    }
}

/// The line height in px, for `lh`; `normal` is taken as 1.2.
pub(super) fn used_line_height(style: &Style) -> f64 {
    let size = style.context.font_size;
    match style.get(id::LINE_HEIGHT) {
        Value::Number(n) => n * size,
        Value::Dimension(n, _) => *n,
        _ => size * 1.2,
    }
}

/// `math-depth`
fn math_depth(value: &Value, env: &Env<'_>) -> Value {
    let inherited = env.parent.map_or(0.0, |p| if let Value::Number(n) = p.get(id::MATH_DEPTH) { *n } else { 0.0 });
    match value {
        Value::Keyword(_) => {
            let compact = env.parent.is_some_and(|p| p.get(id::MATH_STYLE).is("compact"));
            Value::Number(inherited + if compact { 1.0 } else { 0.0 })
        }
        Value::Function(f) => match f.1.first() {
            Some(Value::Number(n)) => Value::Number(inherited + n),
            _ => Value::Number(inherited),
        },
        other => other.absolute(&env.style.context),
    }
}

/// `font-family`: names of several words are one name, quoted where they need to be.
fn font_family(value: &Value) -> Value {
    let families = value.layers().into_iter().map(|parts| {
        let words: Option<Vec<String>> = parts
            .iter()
            .map(|p| if let Value::Ident(n) | Value::Keyword(n) = p { Some(n.to_string()) } else { None })
            .collect();
        match (words, parts.as_slice()) {
            (_, [Value::Keyword(k)]) => Value::Keyword(k.clone()),
            (Some(words), _) => family_name(&words.join(" ")),
            (None, [Value::Str(name)]) => family_name(name),
            (None, _) => Value::sequence(parts.clone()),
        }
    });
    Value::comma_list(families.collect())
}

/// A family name: an identifier where it is one and no generic family, a string otherwise.
fn family_name(name: &str) -> Value {
    const GENERIC: &[&str] = &[
        "serif",
        "sans-serif",
        "cursive",
        "fantasy",
        "monospace",
        "system-ui",
        "ui-serif",
        "ui-sans-serif",
        "ui-monospace",
        "ui-rounded",
        "math",
        "emoji",
        "fangsong",
    ];
    let lower = name.to_ascii_lowercase();
    let plain = serialize_identifier(name) == name && !name.is_empty();
    if plain && !GENERIC.contains(&&*lower) {
        return Value::Ident(Name::from(name));
    }
    if GENERIC.contains(&&*lower) && plain {
        return Value::Keyword(Name::from(lower));
    }
    Value::Str(Arc::from(name))
}

/// Properties whose computed value is more than the specified one with its parts computed.
fn special(property: PropertyId, value: Value, env: &Env<'_>) -> Value {
    match property {
        id::BORDER_TOP_WIDTH
        | id::BORDER_RIGHT_WIDTH
        | id::BORDER_BOTTOM_WIDTH
        | id::BORDER_LEFT_WIDTH
        | id::OUTLINE_WIDTH
        | id::COLUMN_RULE_WIDTH
        | id::ROW_RULE_WIDTH
        | id::WEBKIT_TEXT_STROKE_WIDTH => line_width(value),
        id::LETTER_SPACING if value == Value::px(0.0) => Value::keyword("normal"),
        id::WORD_SPACING if value.is("normal") => Value::px(0.0),
        id::OPACITY
        | id::FILL_OPACITY
        | id::STROKE_OPACITY
        | id::STOP_OPACITY
        | id::FLOOD_OPACITY
        | id::SHAPE_IMAGE_THRESHOLD => match value {
            Value::Percentage(n) => Value::Number((n / 100.0).clamp(0.0, 1.0)),
            Value::Number(n) => Value::Number(n.clamp(0.0, 1.0)),
            other => other,
        },
        id::ZOOM => match value {
            Value::Percentage(n) => Value::Number(n / 100.0),
            other => other,
        },
        id::BACKGROUND_POSITION_X | id::BACKGROUND_POSITION_Y => each_layer(&value, |parts| axis(&parts)),
        id::OBJECT_POSITION | id::PERSPECTIVE_ORIGIN | id::OFFSET_ANCHOR | id::OFFSET_POSITION | id::MASK_POSITION => {
            each_layer(&value, position)
        }
        id::TRANSFORM_ORIGIN => transform_origin(&value),
        id::BACKGROUND_SIZE | id::MASK_SIZE => each_layer(&value, |parts| match parts.as_slice() {
            [a, b] if a.is("auto") && b.is("auto") => Value::keyword("auto"),
            [a] if !a.is("cover") && !a.is("contain") && !a.is("auto") => {
                Value::sequence(vec![a.clone(), Value::keyword("auto")])
            }
            _ => Value::sequence(parts),
        }),
        id::BACKGROUND_REPEAT | id::MASK_REPEAT => each_layer(&value, repeat),
        id::BOX_SHADOW | id::TEXT_SHADOW => each_layer(&value, |parts| shadow(&parts, property == id::BOX_SHADOW)),
        id::TRANSFORM => transform(&value),
        id::BACKGROUND_CLIP => each_layer(&value, |parts| match parts[0].as_keyword() {
            Some(k @ ("padding" | "border" | "content")) => Value::keyword(&format!("{k}-box")),
            Some("-webkit-text") => Value::keyword("text"),
            _ => Value::sequence(parts),
        }),
        id::BORDER_TOP_LEFT_RADIUS
        | id::BORDER_TOP_RIGHT_RADIUS
        | id::BORDER_BOTTOM_LEFT_RADIUS
        | id::BORDER_BOTTOM_RIGHT_RADIUS => match value.parts().as_slice() {
            [a, b] if a == b => a.clone(),
            _ => value,
        },
        id::BORDER_SPACING => match value.parts().as_slice() {
            [one] => Value::sequence(vec![one.clone(), one.clone()]),
            _ => value,
        },
        id::ASPECT_RATIO => aspect_ratio(&value),
        id::DISPLAY => display(value),
        id::POSITION if value.is("-webkit-sticky") => Value::keyword("sticky"),
        id::OVERFLOW_X | id::OVERFLOW_Y if value.is("overlay") => Value::keyword("auto"),
        id::WRITING_MODE => match value.as_keyword() {
            Some("lr" | "lr-tb" | "rl" | "rl-tb") => Value::keyword("horizontal-tb"),
            Some("tb" | "tb-rl") => Value::keyword("vertical-rl"),
            _ => value,
        },
        id::COUNTER_INCREMENT | id::COUNTER_RESET | id::COUNTER_SET => {
            counters(&value, property == id::COUNTER_INCREMENT)
        }
        id::WIDTH | id::HEIGHT | id::MIN_WIDTH | id::MIN_HEIGHT | id::MAX_WIDTH | id::MAX_HEIGHT => {
            match value.as_keyword() {
                Some("-webkit-fill-available") => Value::keyword("stretch"),
                Some("intrinsic") => Value::keyword("max-content"),
                Some("min-intrinsic") => Value::keyword("min-content"),
                _ => value,
            }
        }
        id::FONT_WIDTH => match value.as_keyword() {
            Some(k) => Value::Percentage(match k {
                "ultra-condensed" => 50.0,
                "extra-condensed" => 62.5,
                "condensed" => 75.0,
                "semi-condensed" => 87.5,
                "semi-expanded" => 112.5,
                "expanded" => 125.0,
                "extra-expanded" => 150.0,
                "ultra-expanded" => 200.0,
                _ => 100.0,
            }),
            None => value,
        },
        id::FONT_STYLE => match value.parts().as_slice() {
            [o, Value::Dimension(n, _)] if o.is("oblique") && *n == 0.0 => Value::keyword("normal"),
            [o, Value::Dimension(n, _)] if o.is("oblique") && *n == 14.0 => Value::keyword("oblique"),
            _ => value,
        },
        id::GRID_TEMPLATE_COLUMNS | id::GRID_TEMPLATE_ROWS | id::GRID_AUTO_COLUMNS | id::GRID_AUTO_ROWS => value,
        id::BORDER_IMAGE_SLICE | id::BORDER_IMAGE_WIDTH | id::BORDER_IMAGE_OUTSET | id::BORDER_IMAGE_REPEAT => {
            fold_sides(&value)
        }
        id::SCROLL_SNAP_ALIGN => match value.parts().as_slice() {
            [a, b] if a == b => a.clone(),
            _ => value,
        },
        id::SCROLL_SNAP_TYPE => match value.parts().as_slice() {
            [a, b] if b.is("proximity") => a.clone(),
            _ => value,
        },
        id::OFFSET_ROTATE => match value.parts().as_slice() {
            [one] if one.is("auto") || one.is("reverse") => {
                Value::sequence(vec![one.clone(), Value::Dimension(0.0, Unit::Deg)])
            }
            _ => value,
        },
        id::BASELINE_SHIFT if value.is("baseline") => Value::px(0.0),
        id::STROKE_WIDTH | id::STROKE_DASHOFFSET => match value {
            Value::Number(n) => Value::px(n),
            other => other,
        },
        id::STROKE_DASHARRAY => numbers_as_px(&value),
        id::CORNER_BOTTOM_LEFT_SHAPE
        | id::CORNER_BOTTOM_RIGHT_SHAPE
        | id::CORNER_TOP_LEFT_SHAPE
        | id::CORNER_TOP_RIGHT_SHAPE => corner(value),
        id::TRANSITION_PROPERTY => each_layer(&value, |parts| match parts.as_slice() {
            [Value::Ident(name)] => {
                let lower = name.to_ascii_lowercase();
                let known = PropertyId::named(&lower).is_some();
                Value::Ident(if known { Name::from(lower) } else { name.clone() })
            }
            _ => Value::sequence(parts),
        }),
        id::D => path(&value),
        id::TEXT_ALIGN => text_align(value, env),
        id::APPEARANCE => match value.as_keyword() {
            Some("push-button" | "square-button") => Value::keyword("button"),
            _ => value,
        },
        id::JUSTIFY_ITEMS if value.is("legacy") => Value::keyword("normal"),
        id::QUOTES if value.is("none") => value,
        id::OUTLINE_STYLE => value,
        _ => value,
    }
}

/// `text-align: match-parent` (CSS Text 4, §7.1), which ships under its old name only.
fn text_align(value: Value, env: &Env<'_>) -> Value {
    // The default of `<th>` (HTML Standard, "Tables"): centred unless some ancestor set an alignment.
    if value.is("-internal-center") {
        let set = env.parent.is_some_and(|p| !p.get(id::TEXT_ALIGN).is("start"));
        return if set {
            env.parent.map_or(value, |p| p.get(id::TEXT_ALIGN).clone())
        } else {
            Value::keyword("center")
        };
    }
    if !value.is("-webkit-match-parent") {
        return value;
    }
    let Some(parent) = env.parent else { return Value::keyword("start") };
    let rtl = parent.get(id::DIRECTION).is("rtl");
    match parent.get(id::TEXT_ALIGN).as_keyword() {
        Some("start") => Value::keyword(if rtl { "right" } else { "left" }),
        Some("end") => Value::keyword(if rtl { "left" } else { "right" }),
        _ => parent.get(id::TEXT_ALIGN).clone(),
    }
}

/// Applies a function to each part between commas.
fn each_layer(value: &Value, f: impl Fn(Vec<Value>) -> Value) -> Value {
    if value.as_keyword().is_some_and(|k| k == "none") {
        return value.clone();
    }
    Value::comma_list(value.layers().into_iter().map(f).collect())
}

/// Widths of lines: keywords, and whole device pixels (CSS Values 4, §5.2.3 "snap a length as a line width").
fn line_width(value: Value) -> Value {
    let px = match &value {
        Value::Keyword(k) => match &**k {
            "thin" => 1.0,
            "thick" => 5.0,
            _ => 3.0,
        },
        Value::Dimension(n, Unit::Px) => *n,
        _ => return value,
    };
    Value::px(if px > 0.0 && px < 1.0 { 1.0 } else { px.floor() })
}

/// One axis of a position: sides as percentages.
fn axis(parts: &[Value]) -> Value {
    match parts {
        [side] => match side.as_keyword() {
            Some("left" | "top" | "x-start" | "y-start") => Value::Percentage(0.0),
            Some("center") => Value::Percentage(50.0),
            Some("right" | "bottom" | "x-end" | "y-end") => Value::Percentage(100.0),
            _ => side.clone(),
        },
        [side, offset] => match side.as_keyword() {
            Some("left" | "top") => offset.clone(),
            _ => from_end(offset),
        },
        _ => Value::Percentage(50.0),
    }
}

/// An offset from the far side.
fn from_end(offset: &Value) -> Value {
    let minus = |m: Math| Math::Product(vec![Math::Number(-1.0), m]);
    let math = match offset {
        Value::Percentage(n) => return Value::Percentage(100.0 - n),
        Value::Dimension(n, unit) => minus(Math::Dimension(*n, *unit)),
        Value::Math(math) => minus(math.math.clone()),
        other => return other.clone(),
    };
    let text = "calc(100% + 0px)";
    let tokens = crate::syntax::Tokens::read(text);
    match crate::value::MathValue::parse(
        crate::value::NumericClass::LengthPercentage,
        (f64::NEG_INFINITY, f64::INFINITY),
        tokens.all(),
    ) {
        Some(mut whole) => {
            whole.math = Math::Sum(vec![Math::Percentage(100.0), math]);
            whole.resolve(&crate::value::Context::default())
        }
        None => offset.clone(),
    }
}

/// A position as two offsets.
fn position(parts: Vec<Value>) -> Value {
    let vertical = |v: &Value| v.is("top") || v.is("bottom");
    let horizontal = |v: &Value| v.is("left") || v.is("right");
    let center = Value::keyword("center");
    let (x, y): (Vec<Value>, Vec<Value>) = match parts.as_slice() {
        [one] if one.is("auto") || one.is("normal") => return one.clone(),
        [one] if vertical(one) => (vec![center], vec![one.clone()]),
        [one] => (vec![one.clone()], vec![center]),
        [a, b] if vertical(a) || horizontal(b) => (vec![b.clone()], vec![a.clone()]),
        [a, b] => (vec![a.clone()], vec![b.clone()]),
        [a, b, c, d] if vertical(a) => (vec![c.clone(), d.clone()], vec![a.clone(), b.clone()]),
        [a, b, c, d] => (vec![a.clone(), b.clone()], vec![c.clone(), d.clone()]),
        _ => return Value::sequence(parts),
    };
    Value::sequence(vec![axis(&x), axis(&y)])
}

/// `transform-origin`: two offsets, and a third where it is not 0.
fn transform_origin(value: &Value) -> Value {
    let mut parts = value.parts();
    let depth = if parts.len() == 3 { parts.pop() } else { None };
    let flat = position(parts);
    match depth.filter(|d| *d != Value::px(0.0)) {
        Some(depth) => Value::sequence(flat.parts().into_iter().chain([depth]).collect()),
        None => flat,
    }
}

/// Repetition in two directions as one word, where there is one.
fn repeat(parts: Vec<Value>) -> Value {
    match parts.as_slice() {
        [a, b] if a == b => a.clone(),
        [a, b] if a.is("repeat") && b.is("no-repeat") => Value::keyword("repeat-x"),
        [a, b] if a.is("no-repeat") && b.is("repeat") => Value::keyword("repeat-y"),
        _ => Value::sequence(parts),
    }
}

/// A shadow with all its parts: colour, offsets, blur and, for boxes, spread.
fn shadow(parts: &[Value], boxed: bool) -> Value {
    let color = parts
        .iter()
        .find(|p| matches!(p, Value::Color(_)))
        .cloned()
        .unwrap_or_else(|| Value::Color(Arc::new(ColorValue::Current)));
    let mut out = vec![color];
    let mut lengths: Vec<Value> =
        parts.iter().filter(|p| matches!(p, Value::Dimension(..) | Value::Math(_))).cloned().collect();
    lengths.resize(if boxed { 4 } else { 3 }, Value::px(0.0));
    out.extend(lengths);
    out.extend(parts.iter().find(|p| p.is("inset")).cloned());
    Value::sequence(out)
}

/// Transform functions along one axis as the ones for both (CSS Typed OM 1, §6.2).
fn transform(value: &Value) -> Value {
    let zero = || Value::px(0.0);
    let one = || Value::Number(1.0);
    let number = |v: &Value| match v {
        Value::Percentage(n) => Value::Number(n / 100.0),
        other => other.clone(),
    };
    let parts = value.parts().into_iter().map(|part| {
        let Value::Function(f) = &part else {
            return part;
        };
        let arguments: Vec<Value> = f.1.iter().filter(|v| !matches!(v, Value::Delim(','))).cloned().collect();
        let make =
            |name: &str, values: Vec<Value>| Value::function(Name::from(name), Value::comma_list(values).parts());
        match (&*f.0, arguments.as_slice()) {
            ("translate", [x]) | ("translatex", [x]) => make("translate", vec![x.clone(), zero()]),
            ("translatey", [y]) => make("translate", vec![zero(), y.clone()]),
            ("translatez", [z]) => make("translate3d", vec![zero(), zero(), z.clone()]),
            ("scale", [s]) => make("scale", vec![number(s), number(s)]),
            ("scale" | "scale3d", all) => make(&f.0, all.iter().map(number).collect()),
            ("scalex", [x]) => make("scale", vec![number(x), one()]),
            ("scaley", [y]) => make("scale", vec![one(), number(y)]),
            ("scalez", [z]) => make("scale3d", vec![one(), one(), number(z)]),
            ("rotatex", [a]) => make("rotate3d", vec![one(), Value::Number(0.0), Value::Number(0.0), degrees(a)]),
            ("rotatey", [a]) => make("rotate3d", vec![Value::Number(0.0), one(), Value::Number(0.0), degrees(a)]),
            ("rotatez", [a]) => make("rotate3d", vec![Value::Number(0.0), Value::Number(0.0), one(), degrees(a)]),
            ("rotate", [a]) => make("rotate", vec![degrees(a)]),
            ("skewx", [a]) => make("skewX", vec![degrees(a)]),
            ("skewy", [a]) => make("skewY", vec![degrees(a)]),
            ("skew", [a]) => make("skew", vec![degrees(a), Value::Dimension(0.0, Unit::Deg)]),
            _ => part,
        }
    });
    Value::sequence(parts.collect())
}

/// An angle; the number 0 is one where transforms take it.
fn degrees(value: &Value) -> Value {
    match value {
        Value::Number(n) => Value::Dimension(*n, Unit::Deg),
        other => other.clone(),
    }
}

/// `aspect-ratio`: both numbers written out.
fn aspect_ratio(value: &Value) -> Value {
    let parts = value.parts();
    let numbers: Vec<&Value> = parts.iter().filter(|p| matches!(p, Value::Number(_))).collect();
    let mut out: Vec<Value> = parts.iter().filter(|p| p.is("auto")).cloned().collect();
    match numbers.as_slice() {
        [] => {}
        [one] => out.extend([(*one).clone(), Value::Delim('/'), Value::Number(1.0)]),
        [a, b, ..] => out.extend([(*a).clone(), Value::Delim('/'), (*b).clone()]),
    }
    Value::sequence(out)
}

/// `display`: two words as the one that means the same (CSS Display 3, §2).
fn display(value: Value) -> Value {
    let words: Vec<String> = value.parts().iter().map(Value::text).collect();
    let mut sorted: Vec<&str> = words.iter().map(String::as_str).collect();
    if sorted.len() < 2 {
        return match sorted.first() {
            Some(&"flow") => Value::keyword("block"),
            Some(&"grid-lanes") => value,
            _ => value,
        };
    }
    let list_item = sorted.contains(&"list-item");
    sorted.retain(|w| *w != "list-item" && *w != "flow");
    let short = match sorted.as_slice() {
        [] => "block",
        ["block", inner @ ("flow-root" | "flex" | "grid" | "table")]
        | [inner @ ("flow-root" | "flex" | "grid" | "table"), "block"] => inner,
        ["inline", "flow-root"] | ["flow-root", "inline"] => "inline-block",
        ["inline", "flex"] | ["flex", "inline"] => "inline-flex",
        ["inline", "grid"] | ["grid", "inline"] => "inline-grid",
        ["inline", "table"] | ["table", "inline"] => "inline-table",
        ["inline", "ruby"] | ["ruby", "inline"] => "ruby",
        ["ruby", "block"] => "block ruby",
        [one] => one,
        _ => return Value::keyword(&sorted.join(" ")),
    };
    Value::keyword(match (list_item, short) {
        (false, _) => short,
        (true, "block") => "list-item",
        (true, "inline") => "inline list-item",
        (true, "flow-root") => "flow-root list-item",
        (true, "inline-block") => "inline flow-root list-item",
        (true, other) => other,
    })
}

/// Counters with their numbers written out.
fn counters(value: &Value, increment: bool) -> Value {
    let mut out: Vec<Value> = Vec::new();
    let default = Value::Number(if increment { 1.0 } else { 0.0 });
    let mut open = false;
    for part in value.parts() {
        if part.is("none") {
            return part;
        }
        if !matches!(part, Value::Number(_)) {
            if open {
                out.push(default.clone());
            }
            open = true;
        } else {
            open = false;
        }
        out.push(part);
    }
    if open {
        out.push(default);
    }
    Value::sequence(out)
}

/// Four sides written as few as they can be.
fn fold_sides(value: &Value) -> Value {
    let mut parts = value.parts();
    let fill = parts.iter().position(|p| p.is("fill")).map(|i| parts.remove(i));
    if parts.len() == 4 && parts[1] == parts[3] {
        parts.pop();
    }
    if parts.len() == 3 && parts[0] == parts[2] {
        parts.pop();
    }
    if parts.len() == 2 && parts[0] == parts[1] {
        parts.pop();
    }
    parts.extend(fill);
    Value::sequence(parts)
}

/// Numbers in a list as lengths in px.
fn numbers_as_px(value: &Value) -> Value {
    let parts = value.parts().into_iter().filter(|p| !matches!(p, Value::Delim(',')));
    Value::comma_list(parts.map(|p| if let Value::Number(n) = p { Value::px(n) } else { p }).collect())
}

/// Corner shapes by name as superellipses (CSS Borders 4, §3.4).
fn corner(value: Value) -> Value {
    let n = match value.as_keyword() {
        Some("round") => 1.0,
        Some("squircle") => 2.0,
        Some("bevel") => 0.0,
        Some("scoop") => -1.0,
        Some("square") => {
            return Value::function(Name::from("superellipse"), vec![Value::keyword("infinity")]);
        }
        Some("notch") => {
            return Value::function(Name::from("superellipse"), vec![Value::keyword("-infinity")]);
        }
        _ => return value,
    };
    Value::function(Name::from("superellipse"), vec![Value::Number(n)])
}

/// `d`: path data with absolute commands (SVG 2, §9.3).
fn path(value: &Value) -> Value {
    let Value::Function(f) = value else {
        return value.clone();
    };
    let [Value::Str(data)] = f.1.as_slice() else {
        return value.clone();
    };
    Value::function(
        f.0.clone(),
        vec![Value::Str(Arc::from(super::compute::path::normal(data).unwrap_or_else(|| data.to_string())))],
    )
}

pub(super) mod path;

/// Whether a dark colour scheme is used (CSS Color Adjust 1, §2.2).
pub(super) fn is_dark(scheme: &Value, subject: &Subject<'_>) -> bool {
    let prefers = subject.study.viewing.prefers_dark();
    let words: Vec<String> = scheme.parts().iter().map(|p| p.text().to_ascii_lowercase()).collect();
    let words = if words == ["normal"] { subject.study.page_schemes.clone() } else { words };
    let has = |w: &str| words.iter().any(|x| x == w);
    has("dark") && (prefers || !has("light"))
}

/// Draws the consequences that values of one element have for each other.
pub(super) fn adjust(style: &mut Style, subject: &Subject<'_>, parent: Option<&Style>, entries: &[Entry<'_>]) {
    let keyword = |style: &Style, p: PropertyId| style.get(p).as_keyword().unwrap_or_default().to_owned();
    let positioned = matches!(&*keyword(style, id::POSITION), "absolute" | "fixed");
    if positioned && !style.get(id::FLOAT).is("none") {
        style.set(id::FLOAT, Value::keyword("none"));
    }
    let floats = !style.get(id::FLOAT).is("none");
    let in_flex =
        parent.is_some_and(|p| matches!(&*keyword(p, id::DISPLAY), "flex" | "inline-flex" | "grid" | "inline-grid"));
    unusual_displays(style, subject);
    // CSS Writing Modes 4, §3.1: an inline box that runs another way than its parent is an `inline-block`.
    if style.get(id::DISPLAY).is("inline")
        && parent.is_some_and(|p| p.get(id::WRITING_MODE) != style.get(id::WRITING_MODE))
    {
        style.set(id::DISPLAY, Value::keyword("inline-block"));
    }
    // CSS Display 3, §2.7 "Automatic Box Type Transformations"; of a legend, HTML Standard, "The fieldset and legend elements".
    let legend = subject.pseudo.is_none() && subject.study.document.element(subject.element).is_html("legend");
    if positioned || floats || parent.is_none() || in_flex || legend {
        let blockified = match &*keyword(style, id::DISPLAY) {
            "inline" | "inline-block" | "table-row-group" | "table-header-group" | "table-footer-group"
            | "table-row" | "table-cell" | "table-column" | "table-column-group" | "table-caption" | "ruby-base"
            | "ruby-text" => Some("block"),
            "inline-flex" => Some("flex"),
            "inline-grid" => Some("grid"),
            "inline-table" => Some("table"),
            "inline list-item" => Some("list-item"),
            "inline flow-root list-item" => Some("flow-root list-item"),
            "-webkit-inline-box" => Some("-webkit-box"),
            "inline math" => Some("block math"),
            "ruby" => Some("block ruby"),
            "contents" if parent.is_none() => Some("block"),
            _ => None,
        };
        if let Some(blockified) = blockified {
            style.set(id::DISPLAY, Value::keyword(blockified));
        }
    }
    for (width, line) in [
        (id::BORDER_TOP_WIDTH, id::BORDER_TOP_STYLE),
        (id::BORDER_RIGHT_WIDTH, id::BORDER_RIGHT_STYLE),
        (id::BORDER_BOTTOM_WIDTH, id::BORDER_BOTTOM_STYLE),
        (id::BORDER_LEFT_WIDTH, id::BORDER_LEFT_STYLE),
    ] {
        if matches!(&*keyword(style, line), "none" | "hidden") {
            style.set(width, Value::px(0.0));
        }
    }
    // CSS Overflow 3, §3.1: `visible` goes only with itself and `clip`. Differs from the draft, where `clip` beside a
    // scrolling axis becomes `hidden`: browsers keep it.
    let (x, y) = (keyword(style, id::OVERFLOW_X), keyword(style, id::OVERFLOW_Y));
    let open = |k: &str| matches!(k, "visible" | "clip");
    if open(&x) != open(&y) {
        for property in [id::OVERFLOW_X, id::OVERFLOW_Y] {
            if style.get(property).is("visible") {
                style.set(property, Value::keyword("auto"));
            }
        }
    }
    // Scrolling does not apply to tables (CSS 2, §17.4).
    if matches!(&*keyword(style, id::DISPLAY), "table" | "inline-table") {
        for property in [id::OVERFLOW_X, id::OVERFLOW_Y] {
            if matches!(&*keyword(style, property), "auto" | "scroll") {
                style.set(property, Value::keyword("visible"));
            }
        }
    }
    // CSS Basic User Interface 4, §6.1: what a parent says about selecting holds inside.
    if style.get(id::USER_SELECT).is("auto")
        && let Some(outer) = parent.map(|p| p.get(id::USER_SELECT)).filter(|v| v.is("none") || v.is("all"))
    {
        style.set(id::USER_SELECT, outer.clone());
    }
    layers(style);
    controls(style, subject, entries);
    if style.get(id::DISPLAY).is("inline math") {
        style.set(id::DISPLAY, Value::keyword("math"));
    }
    // Boxes in `display: contents` are in the box around it (CSS Display 3, §2.5).
    style.blockifies = match &*keyword(style, id::DISPLAY) {
        "contents" => in_flex,
        "flex" | "inline-flex" | "grid" | "inline-grid" => true,
        _ => false,
    };
    if let Some(pseudo) = subject.pseudo
        && matches!(&*pseudo.name, "before" | "after")
        && style.get(id::CONTENT).is("normal")
    {
        style.set(id::CONTENT, Value::keyword("none"));
    }
}

/// Elements for which `display: contents` is `none` (CSS Display 3, Appendix B).
const NO_CONTENTS: &[&str] = &[
    "br", "wbr", "meter", "progress", "canvas", "embed", "object", "audio", "iframe", "img", "video", "frame",
    "frameset", "input", "textarea", "select",
];

/// What `display`, `position` and columns come to on replaced elements, form controls and parts of SVG.
fn unusual_displays(style: &mut Style, subject: &Subject<'_>) {
    let element = subject.study.document.element(subject.element);
    if subject.pseudo.is_some() {
        return;
    }
    let parent = element.parent.map(|p| subject.study.document.element(p).namespace);
    match element.namespace {
        Namespace::Html if NO_CONTENTS.contains(&&*element.name) => {
            if style.get(id::DISPLAY).is("contents") {
                style.set(id::DISPLAY, Value::keyword("none"));
            }
            // CSS Basic User Interface 4: a text area always scrolls what does not fit.
            if &*element.name == "textarea" && !style.get(id::DISPLAY).is("none") {
                for property in [id::OVERFLOW_X, id::OVERFLOW_Y] {
                    if style.get(property).is("visible") {
                        style.set(property, Value::keyword("auto"));
                    }
                }
            }
        }
        Namespace::Svg => {
            // CSS positions only the outermost `<svg>` (SVG 2, §7.2).
            if parent == Some(Namespace::Svg) || &*element.name != "svg" {
                style.set(id::POSITION, Value::keyword("static"));
            }
            let unboxed =
                parent == Some(Namespace::Svg) && matches!(&*element.name, "svg" | "g" | "use" | "tspan" | "a");
            if style.get(id::DISPLAY).is("contents") && !unboxed {
                style.set(id::DISPLAY, Value::keyword("none"));
            }
            let inline = style.get(id::DISPLAY).as_keyword().is_some_and(|k| k.starts_with("inline"));
            if matches!(&*element.name, "text" | "foreignObject") && inline {
                style.set(id::DISPLAY, Value::keyword("block"));
            }
            if &*element.name == "text" {
                style.set(id::COLUMN_COUNT, Value::keyword("auto"));
                style.set(id::COLUMN_WIDTH, Value::keyword("auto"));
            }
        }
        Namespace::MathMl if style.get(id::DISPLAY).is("contents") => {
            style.set(id::DISPLAY, Value::keyword("none"));
        }
        _ => {}
    }
}

/// Gives the lists of `background-*` and `mask-*` as many parts as there are images (CSS Backgrounds 3, §2.1).
fn layers(style: &mut Style) {
    let lists = [
        (
            id::BACKGROUND_IMAGE,
            &[
                id::BACKGROUND_POSITION_X,
                id::BACKGROUND_POSITION_Y,
                id::BACKGROUND_SIZE,
                id::BACKGROUND_REPEAT,
                id::BACKGROUND_ATTACHMENT,
                id::BACKGROUND_ORIGIN,
                id::BACKGROUND_CLIP,
                id::BACKGROUND_BLEND_MODE,
            ][..],
        ),
        (
            id::MASK_IMAGE,
            &[
                id::MASK_POSITION,
                id::MASK_SIZE,
                id::MASK_REPEAT,
                id::MASK_ORIGIN,
                id::MASK_CLIP,
                id::MASK_MODE,
                id::MASK_COMPOSITE,
            ][..],
        ),
    ];
    for (images, others) in lists {
        let count = style.get(images).layers().len();
        for property in others {
            let have = style.get(*property).layers();
            if have.len() != count && !have.is_empty() {
                let parts = (0..count).map(|i| Value::sequence(have[i % have.len()].clone())).collect();
                style.set(*property, Value::comma_list(parts));
            }
        }
    }
}

/// What browsers force on controls that are drawn by the platform (CSS Basic User Interface 4, §7.2 leaves it to them).
fn controls(style: &mut Style, subject: &Subject<'_>, entries: &[Entry<'_>]) {
    let element = subject.study.document.element(subject.element);
    if subject.pseudo.is_some() || element.namespace != Namespace::Html || style.get(id::APPEARANCE).is("none") {
        return;
    }
    let name = &*element.name;
    if !matches!(name, "input" | "select" | "button" | "textarea" | "meter" | "progress") {
        return;
    }
    match style.get(id::DISPLAY).as_keyword() {
        Some("inline" | "table-cell") => style.set(id::DISPLAY, Value::keyword("inline-block")),
        Some("list-item") => style.set(id::DISPLAY, Value::keyword("block")),
        _ => {}
    }
    let kind = element.attribute("type").unwrap_or_default().to_ascii_lowercase();
    let drop_down = name == "select"
        && style.get(id::APPEARANCE).is("auto")
        && element.attribute("multiple").is_none()
        && element.attribute("size").is_none();
    let push_button =
        name == "input" && matches!(&*kind, "button" | "submit" | "reset") && style.get(id::APPEARANCE).is("auto");
    if drop_down || (push_button && !is_redrawn(entries)) {
        style.set(id::LINE_HEIGHT, Value::keyword("normal"));
    }
    if matches!(&*kind, "date" | "datetime-local" | "month" | "time" | "week") {
        style.set(id::DIRECTION, Value::keyword("ltr"));
    }
    if name == "input" && matches!(&*kind, "checkbox" | "radio") {
        for property in [id::PADDING_TOP, id::PADDING_RIGHT, id::PADDING_BOTTOM, id::PADDING_LEFT] {
            style.set(property, Value::px(0.0));
        }
        let radius = if kind == "radio" { Value::Percentage(50.0) } else { Value::px(0.0) };
        for side in ["top", "right", "bottom", "left"] {
            for part in ["style", "width", "color"] {
                if let Some(property) = PropertyId::named(&format!("border-{side}-{part}")) {
                    style.set(property, initial(property));
                }
            }
        }
        for corner in [
            id::BORDER_TOP_LEFT_RADIUS,
            id::BORDER_TOP_RIGHT_RADIUS,
            id::BORDER_BOTTOM_LEFT_RADIUS,
            id::BORDER_BOTTOM_RIGHT_RADIUS,
        ] {
            style.set(corner, radius.clone());
        }
        for side in [id::BORDER_TOP_WIDTH, id::BORDER_RIGHT_WIDTH, id::BORDER_BOTTOM_WIDTH, id::BORDER_LEFT_WIDTH] {
            style.set(side, Value::px(0.0));
        }
    }
}

/// Whether the page gives an element a background or border, so that the platform no longer draws it as a control.
fn is_redrawn(entries: &[Entry<'_>]) -> bool {
    let looks = |e: &Entry<'_>| match e.property {
        Target::Longhand(p) => p.name().starts_with("background-") || p.name().starts_with("border-"),
        Target::Custom(_) => false,
    };
    entries.iter().any(|e| e.precedence.origin == Origin::Author && looks(e))
}

/// A computed value as it is given out: colours worked out against the element's colour.
pub(super) fn output(style: &Style, property: PropertyId, value: &Value) -> Value {
    match property {
        id::CARET_COLOR | id::OUTLINE_COLOR if value.is("auto") => current(style),
        _ => resolve_colors(style, value),
    }
}

/// Whether a computed value is given out as it is, whatever element has it.
pub(super) fn is_plain(property: PropertyId, value: &Value) -> bool {
    match value {
        Value::Color(color) => matches!(**color, ColorValue::Absolute(_)),
        Value::Function(f) => f.1.iter().all(|v| is_plain(property, v)),
        Value::Sequence(parts) => parts.iter().all(|v| is_plain(property, v)),
        Value::Keyword(_) => !matches!(property, id::CARET_COLOR | id::OUTLINE_COLOR),
        _ => true,
    }
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
