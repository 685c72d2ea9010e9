//! Computed-value rules: what a property makes of a value whose parts are computed.

use std::sync::Arc;

use super::Env;
use super::notation::{self, counter_style, fold_sides};
use super::position::{axis, position};
use crate::document::Name;
use crate::property::{PropertyId, Rule, id};
use crate::value::color::ColorValue;
use crate::value::{Unit, Value, held};

/// What the rule of a property makes of a value whose parts are computed.
pub(super) fn apply(property: PropertyId, value: Value, env: &Env<'_>) -> Value {
    let rule = property.row().rule;
    if let Some(of_layer) = of_layer(rule, property) {
        return each_layer(&value, of_layer);
    }
    if let Some(of_whole) = of_whole(rule) {
        return of_whole(&value);
    }
    match rule {
        Rule::LineWidth => line_width(value),
        Rule::LetterSpacing if value == Value::px(0.0) => Value::keyword("normal"),
        Rule::LetterSpacing => value,
        Rule::WordSpacing if value.is("normal") => Value::px(0.0),
        Rule::WordSpacing => value,
        Rule::Opacity => opacity(value),
        Rule::Zoom => zoom(value),
        Rule::AlikePair => match value.parts() {
            [a, b] if a == b => a.clone(),
            _ => value,
        },
        Rule::Pair => match value.parts() {
            [one] => Value::sequence(vec![one.clone(), one.clone()]),
            _ => value,
        },
        Rule::Clip => clip(value),
        Rule::Display => display(value),
        Rule::Counters => counters(&value, property == id::COUNTER_INCREMENT),
        Rule::FontWidth => font_width(value),
        Rule::FontStyle => font_style(value),
        Rule::GridTracks => grid_tracks(value),
        Rule::GridLine => grid_line(&value),
        Rule::Count => count(property, value),
        Rule::TextFit => without_keyword(&value, "consistent"),
        Rule::JustifyItems if value.is("legacy") => Value::keyword("normal"),
        Rule::TextEmphasisStyle => emphasis(value, env),
        Rule::Shape => shape(property, &value),
        Rule::Shapes => Value::sequence(value.parts().iter().map(notation::as_inset).collect()),
        Rule::FontFeatureSettings => settings(&value, true),
        Rule::FontVariationSettings => settings(&value, false),
        Rule::TimelineRanges => timeline_ranges(property, &value),
        Rule::OutlineOffset => match value {
            Value::Dimension(n, Unit::Px) if n != 0.0 => Value::px(n.abs().max(1.0).floor().copysign(n)),
            other => other,
        },
        Rule::CounterStyle => counter_style(value),
        Rule::FontSizeAdjust => match value.parts() {
            [metric, number] if metric.is("ex-height") => number.clone(),
            _ => value,
        },
        Rule::OverflowClipMargin => overflow_clip_margin(value),
        Rule::ScrollMarkerGroup => match value.as_keyword() {
            Some("before" | "after") => Value::sequence(vec![value, Value::keyword("links")]),
            _ => value,
        },
        Rule::ScrollSnapType => match value.parts() {
            [a, b] if b.is("proximity") => a.clone(),
            _ => value,
        },
        Rule::OffsetRotate => offset_rotate(value),
        Rule::BaselineShift if value.is("baseline") => Value::px(0.0),
        Rule::BaselineShift => number_as_px(value),
        Rule::SvgLength => number_as_px(value),
        Rule::CornerShape => corner(value),
        Rule::TextAlign => text_align(value, env),
        _ => in_short(rule, value),
    }
}

/// What a rule makes of a value as a whole, where nothing else counts.
fn of_whole(rule: Rule) -> Option<fn(&Value) -> Value> {
    Some(match rule {
        Rule::TransformOrigin => transform_origin,
        Rule::Transform => transform,
        Rule::AspectRatio => aspect_ratio,
        Rule::GridAreas => areas,
        Rule::FontVariantAlternates => alternates,
        Rule::PaintOrder => paint_order,
        Rule::Scale => scale,
        Rule::Translate => translate,
        Rule::Rotate => rotate,
        Rule::HyphenateLimitChars => hyphenate_limit_chars,
        Rule::Cursor => whole_numbers,
        Rule::Content => content,
        Rule::ColorScheme => color_scheme,
        Rule::BorderImageSlice => border_image_slice,
        Rule::Sides => fold_sides,
        Rule::SvgLengths => numbers_as_px,
        _ => return None,
    })
}

/// What a rule makes of each layer of a value, where it is about layers.
fn of_layer(rule: Rule, property: PropertyId) -> Option<fn(Vec<Value>) -> Value> {
    match rule {
        Rule::LineWidths => Some(|parts| line_width(Value::sequence(parts))),
        Rule::AxisPositions => Some(|parts| axis(&parts)),
        Rule::Positions => Some(position),
        Rule::LayerSizes => Some(layer_size),
        Rule::LayerRepeats => Some(repeat),
        Rule::Shadows => {
            Some(if property == id::BOX_SHADOW { |parts| shadow(&parts, true) } else { |parts| shadow(&parts, false) })
        }
        Rule::Durations => Some(|parts| match parts.as_slice() {
            [one] if one.is("auto") => Value::Dimension(0.0, Unit::S),
            _ => Value::sequence(parts),
        }),
        Rule::AnimationNames => Some(|parts| match parts.as_slice() {
            [Value::Str(name)] if name.as_str() != "none" => Value::Ident(Name::from(name.as_str())),
            _ => Value::sequence(parts),
        }),
        Rule::TimingFunctions => Some(timing_function),
        Rule::AlikePairs => Some(|parts| match parts.as_slice() {
            [a, b] if a == b => a.clone(),
            _ => Value::sequence(parts),
        }),
        Rule::PropertyNames => Some(|parts| match parts.as_slice() {
            [Value::Ident(name)] => Value::Ident(known_in_lower_case(name)),
            _ => Value::sequence(parts),
        }),
        _ => None,
    }
}

/// What a rule leaves out or has one word for.
fn in_short(rule: Rule, value: Value) -> Value {
    match rule {
        Rule::GridAutoFlow => shorter(value, &["row", "dense"], "dense"),
        Rule::FlexWrap => shorter(value, &["wrap", "balance"], "balance"),
        Rule::Contain => shorter(
            shorter(value, &["size", "layout", "style", "paint"], "strict"),
            &["layout", "style", "paint"],
            "content",
        ),
        Rule::TouchAction => shorter(value, &["pan-x", "pan-y", "pinch-zoom"], "manipulation"),
        Rule::FontVariantLigatures => shorter(
            value,
            &["no-common-ligatures", "no-discretionary-ligatures", "no-historical-ligatures", "no-contextual"],
            "none",
        ),
        // How it overflows does not count where an anchor is the middle.
        Rule::Baseline if value.parts().last().is_some_and(|p| p.is("anchor-center")) => {
            Value::keyword("anchor-center")
        }
        Rule::Baseline => shorter(value, &["first", "baseline"], "baseline"),
        Rule::JustifyItems => shorter(value, &["first", "baseline"], "baseline"),
        Rule::TextEmphasisPosition => shorter(shorter(value, &["over", "right"], "over"), &["under", "right"], "under"),
        _ => value,
    }
}

/// An opacity as a number from 0 to 1.
fn opacity(value: Value) -> Value {
    match value {
        Value::Percentage(n) => Value::Number((n / 100.0).clamp(0.0, 1.0)),
        Value::Number(n) => Value::Number(n.clamp(0.0, 1.0)),
        other => other,
    }
}

/// `zoom` as a number.
fn zoom(value: Value) -> Value {
    match value {
        Value::Percentage(n) => Value::Number(n / 100.0),
        Value::Keyword(_) => Value::Number(1.0),
        other => other,
    }
}

/// The size of an image: two sides, or one word for both.
fn layer_size(parts: Vec<Value>) -> Value {
    match parts.as_slice() {
        [a, b] if a.is("auto") && b.is("auto") => Value::keyword("auto"),
        [a] if !a.is("cover") && !a.is("contain") && !a.is("auto") => {
            Value::sequence(vec![a.clone(), Value::keyword("auto")])
        }
        _ => Value::sequence(parts),
    }
}

/// `font-width` in percent (CSS Fonts 4, §2.3).
fn font_width(value: Value) -> Value {
    match value.as_keyword() {
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
    }
}

/// `font-style`: `oblique` with its angle, where that is not the usual one.
fn font_style(value: Value) -> Value {
    match value.parts() {
        [oblique, Value::Dimension(n, _)] => match quarters(*n) {
            0.0 => Value::keyword("normal"),
            14.0 => Value::keyword("oblique"),
            n => Value::sequence(vec![oblique.clone(), Value::Dimension(n, Unit::Deg)]),
        },
        _ => value,
    }
}

/// A line of a grid: a span of one name goes without its number, and no line is further out than browsers make them.
fn grid_line(value: &Value) -> Value {
    const FURTHEST: f64 = 1e7;
    let near =
        |p: &Value| if let Value::Number(n) = p { Value::Number(n.clamp(-FURTHEST, FURTHEST)) } else { p.clone() };
    match value.parts() {
        [span, Value::Number(1.0), name @ Value::Ident(_)] => Value::sequence(vec![span.clone(), name.clone()]),
        parts => Value::sequence(parts.iter().map(near).collect()),
    }
}

/// A whole number as large as it is held.
fn count(property: PropertyId, value: Value) -> Value {
    let most = f64::from(if matches!(property, id::ORPHANS | id::WIDOWS) { i16::MAX as u16 } else { u16::MAX });
    if let Value::Number(n) = value { Value::Number(n.min(most)) } else { value }
}

/// A value without a keyword that says what holds anyway.
fn without_keyword(value: &Value, keyword: &str) -> Value {
    Value::sequence(value.parts().iter().filter(|p| !p.is(keyword)).cloned().collect())
}

/// Tracks without empty lists of names, which mean something in `subgrid` only.
fn grid_tracks(value: Value) -> Value {
    let parts = value.parts();
    let keeps_names = parts.first().is_some_and(|p| p.is("subgrid"));
    if keeps_names { value } else { Value::sequence(notation::without_empty_names(parts.to_vec())) }
}

/// `hyphenate-limit-chars` without what goes without saying at its end.
fn hyphenate_limit_chars(value: &Value) -> Value {
    let mut parts = value.parts().to_vec();
    while parts.len() > 1 && parts.last().is_some_and(|p| p.is("auto")) {
        parts.pop();
    }
    let most = |v: Value| if let Value::Number(n) = v { Value::Number(n.min(255.0)) } else { v };
    Value::sequence(parts.into_iter().map(most).collect())
}

/// Words for steps as the functions that they stand for.
fn timing_function(parts: Vec<Value>) -> Value {
    let steps = |more: Option<Value>| {
        let arguments = std::iter::once(Value::Number(1.0)).chain(more);
        Value::function(Name::from("steps"), Value::comma_list(arguments.collect()).parts().to_vec())
    };
    match parts.as_slice() {
        [one] if one.is("step-end") => steps(None),
        [one] if one.is("step-start") => steps(Some(Value::keyword("start"))),
        _ => Value::sequence(parts),
    }
}

/// Ranges of timelines, without the offset that a start or an end has anyway.
fn timeline_ranges(property: PropertyId, value: &Value) -> Value {
    let whole = if property.name().ends_with("start") { 0.0 } else { 100.0 };
    each_layer(value, |parts| match parts.as_slice() {
        [name, Value::Percentage(n)] if *n == whole => name.clone(),
        _ => Value::sequence(parts),
    })
}

/// `color-scheme` with `only` at its end.
fn color_scheme(value: &Value) -> Value {
    let (only, mut names): (Vec<Value>, Vec<Value>) = value.parts().iter().cloned().partition(|p| p.text() == "only");
    names.extend(only);
    Value::sequence(names)
}

/// `overflow-clip-margin` without the usual box.
fn overflow_clip_margin(value: Value) -> Value {
    match value.parts() {
        [one] if one.is("padding-box") => Value::px(0.0),
        [edge, length] if edge.is("padding-box") => length.clone(),
        _ => value,
    }
}

/// `border-image-slice` in whole numbers.
fn border_image_slice(value: &Value) -> Value {
    let whole = |p: Value| if let Value::Number(n) = p { Value::Number((n + 0.5).floor()) } else { p };
    fold_sides(&Value::sequence(value.parts().iter().cloned().map(whole).collect()))
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
    if !matches!(value, Value::Sequence(_)) {
        return f(vec![value.clone()]);
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
    // In single precision, as browsers have lengths, so that what is a hair under a whole pixel is one.
    let px = f64::from(px as f32);
    Value::px(if px > 0.0 && px < 1.0 { 1.0 } else { px.floor() })
}

/// `transform-origin`: two offsets, and a third where it is not 0.
fn transform_origin(value: &Value) -> Value {
    let mut parts = value.parts().to_vec();
    let depth = if parts.len() == 3 { parts.pop() } else { None };
    let flat = position(parts);
    match depth.filter(|d| *d != Value::px(0.0)) {
        Some(depth) => Value::sequence(flat.parts().iter().cloned().chain([depth]).collect()),
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
    let parts = value.parts().iter().cloned().map(|part| {
        let Value::Function(f) = &part else {
            return part;
        };
        let arguments: Vec<Value> = f.1.iter().filter(|v| !matches!(v, Value::Delim(','))).cloned().collect();
        let make = |name: &str, values: Vec<Value>| {
            Value::function(Name::from(name), Value::comma_list(values).parts().to_vec())
        };
        match (&*f.0, arguments.as_slice()) {
            ("translate", [x]) | ("translatex", [x]) => make("translate", vec![x.clone(), zero()]),
            ("translatey", [y]) => make("translate", vec![zero(), y.clone()]),
            ("translatez", [z]) => make("translate3d", vec![zero(), zero(), z.clone()]),
            ("scale", [s]) => make("scale", vec![number(s), number(s)]),
            ("scale" | "scale3d", all) => make(&f.0, all.iter().map(number).collect()),
            ("scalex", [x]) => make("scale", vec![number(x), one()]),
            ("scaley", [y]) => make("scale", vec![one(), number(y)]),
            ("scalez", [z]) => make("scale3d", vec![one(), one(), number(z)]),
            ("rotate3d", [x, y, z, a]) => make("rotate3d", vec![x.clone(), y.clone(), z.clone(), degrees(a)]),
            ("rotatex", [a]) => make("rotate3d", vec![one(), Value::Number(0.0), Value::Number(0.0), degrees(a)]),
            ("rotatey", [a]) => make("rotate3d", vec![Value::Number(0.0), one(), Value::Number(0.0), degrees(a)]),
            ("rotatez", [a]) => make("rotate3d", vec![Value::Number(0.0), Value::Number(0.0), one(), degrees(a)]),
            ("rotate", [a]) => make("rotate", vec![degrees(a)]),
            ("skewx", [a]) => make("skewX", vec![degrees(a)]),
            ("skewy", [a]) => make("skewY", vec![degrees(a)]),
            ("skew", [a]) => make("skew", vec![degrees(a)]),
            ("skew", [a, b]) => match degrees(b) {
                Value::Dimension(0.0, _) => make("skew", vec![degrees(a)]),
                b => make("skew", vec![degrees(a), b]),
            },
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
    if let Some(word) = value.as_keyword() {
        return if word == "flow" { Value::keyword("block") } else { value };
    }
    let words: Vec<String> = value.parts().iter().map(Value::text).collect();
    let mut sorted: Vec<&str> = words.iter().map(String::as_str).collect();
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
        ["inline", "math"] | ["math", "inline"] => "inline math",
        ["block", "math"] | ["math", "block"] => "block math",
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
            return part.clone();
        }
        if !matches!(part, Value::Number(_)) {
            if open {
                out.push(default.clone());
            }
            open = true;
        } else {
            open = false;
        }
        out.push(part.clone());
    }
    if open {
        out.push(default);
    }
    Value::sequence(out)
}

/// Numbers in a list as lengths in px.
fn numbers_as_px(value: &Value) -> Value {
    let parts = value.parts().iter().filter(|p| !matches!(p, Value::Delim(','))).cloned();
    Value::comma_list(parts.map(number_as_px).collect())
}

/// A number as a length.
fn number_as_px(value: Value) -> Value {
    if let Value::Number(n) = value { Value::px(held(n, Unit::Px)) } else { value }
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

/// A word for several keywords, where a value is just these.
fn shorter(value: Value, long: &[&str], short: &str) -> Value {
    let parts = value.parts();
    let same = parts.len() == long.len() && parts.iter().zip(long).all(|(p, l)| p.is(l));
    if same { Value::keyword(short) } else { value }
}

/// The edges of `clip` with commas between them, however they are written.
fn clip(value: Value) -> Value {
    let Value::Function(f) = &value else { return value };
    let edges = f.1.iter().flat_map(Value::parts).filter(|p| !matches!(p, Value::Delim(_)));
    let mut parts = Vec::with_capacity(7);
    for edge in edges {
        if !parts.is_empty() {
            parts.push(Value::Delim(','));
        }
        parts.push(edge.clone());
    }
    Value::Function(Arc::new((f.0.clone(), vec![Value::sequence(parts)])))
}

/// A number in whole quarters, towards zero, as fonts have them.
pub(super) fn quarters(n: f64) -> f64 {
    (n * 4.0).trunc() / 4.0
}

/// A name in lower case where it is one of a property, or of what `will-change` knows besides.
fn known_in_lower_case(name: &Name) -> Name {
    let lower = name.to_ascii_lowercase();
    let known = PropertyId::named(&lower).is_some() || matches!(&*lower, "contents" | "scroll-position");
    if known { Name::from(lower) } else { name.clone() }
}

/// Numbers without their fractions.
fn whole_numbers(value: &Value) -> Value {
    let whole = |p: Value| if let Value::Number(n) = p { Value::Number(n.trunc()) } else { p };
    Value::sequence(value.parts().iter().cloned().map(whole).collect())
}

/// The rows of `grid-template-areas` with one space between cells and one dot for an empty one (CSS Grid 2, §7.3).
fn areas(value: &Value) -> Value {
    let row = |part: Value| match part {
        Value::Str(text) => {
            let cells = crate::property::area_cells(&text).unwrap_or_default();
            let cells: Vec<&str> = cells.into_iter().map(|cell| cell.unwrap_or(".")).collect();
            Value::string(cells.join(" "))
        }
        other => other,
    };
    Value::sequence(value.parts().iter().cloned().map(row).collect())
}

/// `content`: strings next to each other are one, but in the text that stands for it.
fn content(value: &Value) -> Value {
    let mut out: Vec<Value> = Vec::new();
    let mut described = false;
    for part in value.parts() {
        described |= *part == Value::Delim('/');
        match (out.last_mut().filter(|_| !described), part) {
            (Some(Value::Str(before)), Value::Str(more)) => *before = Arc::new(format!("{before}{more}")),
            _ => out.push(part.clone()),
        }
    }
    Value::sequence(out)
}

/// `font-variant-alternates` in the order that browsers keep.
fn alternates(value: &Value) -> Value {
    const ORDER: &[&str] =
        &["stylistic", "historical-forms", "swash", "ornaments", "annotation", "styleset", "character-variant"];
    let mut parts = value.parts().to_vec();
    parts.sort_by_key(|part| match part {
        Value::Function(f) => ORDER.iter().position(|o| **o == *f.0),
        other => other.as_keyword().and_then(|k| ORDER.iter().position(|o| *o == k)),
    });
    Value::sequence(parts)
}

/// `text-emphasis-style`: marks are filled where nothing else is said, and their shape follows the lines
/// (CSS Text Decoration 4, §4.1).
fn emphasis(value: Value, env: &Env<'_>) -> Value {
    let mut parts = value.parts().to_vec();
    if !parts.iter().any(|p| p.is("filled") || p.is("open")) {
        return value;
    }
    if parts.len() == 1 {
        parts.push(Value::keyword(if env.style.context.vertical { "sesame" } else { "dot" }));
    }
    parts.retain(|p| !p.is("filled"));
    parts.sort_by_key(|p| !p.is("open"));
    Value::sequence(parts)
}

/// `paint-order`: no more than is needed to tell the order.
fn paint_order(value: &Value) -> Value {
    const ALL: [&str; 3] = ["fill", "stroke", "markers"];
    let given: Vec<String> = value.parts().iter().map(Value::text).collect();
    let whole = |given: &[String]| {
        let rest = ALL.iter().filter(|a| !given.iter().any(|g| g == *a)).map(|a| (*a).to_owned());
        given.iter().cloned().chain(rest).collect::<Vec<_>>()
    };
    let least = (1..=given.len()).find(|n| whole(&given[..*n]) == whole(&given)).unwrap_or(given.len());
    Value::sequence(value.parts().iter().take(least).cloned().collect())
}

/// `scale`: factors as numbers, and no more of them than are needed.
fn scale(value: &Value) -> Value {
    let number = |p: Value| if let Value::Percentage(n) = p { Value::Number(n / 100.0) } else { p };
    let mut parts: Vec<Value> = value.parts().iter().cloned().map(number).collect();
    if parts.len() == 3 && parts[2] == Value::Number(1.0) {
        parts.pop();
    }
    match parts.as_slice() {
        [x, y] if x == y => x.clone(),
        _ => Value::sequence(parts),
    }
}

/// `translate`: no more offsets than are needed.
fn translate(value: &Value) -> Value {
    let mut parts = value.parts().to_vec();
    while parts.len() > 1 && parts.last() == Some(&Value::px(0.0)) {
        parts.pop();
    }
    Value::sequence(parts)
}

/// `rotate`: an axis by its letter, and none where it is the one that points at the reader (CSS Transforms 2, §5.1).
fn rotate(value: &Value) -> Value {
    let parts = value.parts();
    let Some(Value::Dimension(angle, _)) = parts.iter().find(|p| matches!(p, Value::Dimension(..))) else {
        return value.clone();
    };
    let numbers: Vec<f64> =
        parts.iter().filter_map(|p| if let Value::Number(n) = p { Some(*n) } else { None }).collect();
    let angle = |sign: f64| Value::Dimension(angle * sign, Unit::Deg);
    let letter = parts.iter().find_map(Value::as_keyword);
    match (letter, numbers.as_slice()) {
        (Some("z") | None, []) => angle(1.0),
        (None, [0.0, 0.0, z]) if *z != 0.0 => angle(z.signum()),
        (Some(axis), _) => Value::sequence(vec![Value::keyword(axis), angle(1.0)]),
        (None, [x, 0.0, 0.0]) if *x > 0.0 => Value::sequence(vec![Value::keyword("x"), angle(1.0)]),
        (None, [0.0, y, 0.0]) if *y > 0.0 => Value::sequence(vec![Value::keyword("y"), angle(1.0)]),
        _ => value.clone(),
    }
}

/// `offset-rotate`: backwards is half a turn more.
fn offset_rotate(value: Value) -> Value {
    let parts = value.parts();
    let back = parts.iter().any(|p| p.is("reverse"));
    if !back && !parts.iter().any(|p| p.is("auto")) {
        return value;
    }
    let angle = parts.iter().find_map(|p| if let Value::Dimension(n, _) = p { Some(*n) } else { None });
    let angle = angle.unwrap_or(0.0) + if back { 180.0 } else { 0.0 };
    Value::sequence(vec![Value::keyword("auto"), Value::Dimension(angle, Unit::Deg)])
}

/// Features or axes of a font by their tags, the last where one is named twice.
fn settings(value: &Value, switches: bool) -> Value {
    let mut found: Vec<Vec<Value>> = Vec::new();
    for setting in value.layers() {
        let setting = match setting.as_slice() {
            [tag, on] if switches && (on.is("on") || *on == Value::Number(1.0)) => vec![tag.clone()],
            [tag, off] if off.is("off") => vec![tag.clone(), Value::Number(0.0)],
            _ => setting,
        };
        found.retain(|f| f.first() != setting.first());
        found.push(setting);
    }
    found.sort_by_key(|setting| setting.first().map(Value::text));
    Value::comma_list(found.into_iter().map(Value::sequence).collect())
}

/// A shape with the box it refers to, where that is not the one it always has.
fn shape(property: PropertyId, value: &Value) -> Value {
    let always = match property {
        id::SHAPE_OUTSIDE => "margin-box",
        _ => "border-box",
    };
    let parts: Vec<Value> = value.parts().iter().map(notation::as_inset).collect();
    let (boxes, mut shapes): (Vec<Value>, Vec<Value>) = parts.into_iter().partition(|p| matches!(p, Value::Keyword(_)));
    if shapes.is_empty() {
        return value.clone();
    }
    shapes.extend(boxes.into_iter().filter(|b| !b.is(always)));
    Value::sequence(shapes)
}
