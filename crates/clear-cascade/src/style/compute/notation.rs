//! Functions as computed values write them: the shortest way that says the same (CSSOM 1, §6.7.2).

use std::sync::Arc;

use super::position::{at_position, axis, position, whole_minus};
use crate::document::Name;
use crate::value::color::ColorValue;
use crate::value::{Unit, Value};

/// The parts between commas.
fn groups(parts: &[Value]) -> Vec<Vec<Value>> {
    parts.split(|v| matches!(v, Value::Delim(','))).map(<[Value]>::to_vec).collect()
}

/// Groups with commas between.
fn joined(groups: Vec<Vec<Value>>) -> Vec<Value> {
    groups.into_iter().filter(|g| !g.is_empty()).collect::<Vec<_>>().join(&Value::Delim(','))
}

/// A function with computed arguments, as it is written.
pub(super) fn function(name: Name, parts: Vec<Value>) -> Value {
    let parts = match &*name {
        "counter" | "counters" => counter(&parts),
        "linear" => easing_points(&parts),
        "steps" => without(parts, &["end", "jump-end"]),
        "blur" | "brightness" | "contrast" | "grayscale" | "hue-rotate" | "invert" | "opacity" | "saturate"
        | "sepia" => filter(&name, parts),
        "drop-shadow" => drop_shadow(&parts),
        "image-set" | "-webkit-image-set" => {
            return Value::function(Name::from("image-set"), image_set(&parts));
        }
        "circle" => circle(parts),
        "ellipse" => ellipse(parts),
        "polygon" | "path" => without(parts, &["nonzero"]),
        "shape" => joined(groups(&parts).into_iter().map(|group| shape_command(&group)).collect()),
        "ray" => at_position(without(parts, &["closest-side"])),
        "scroll" => without(parts, &["nearest", "block"]),
        "view" => timeline_insets(parts),
        "symbols" => without(parts, &["symbolic"]),
        "inset" => inset(&parts),
        "minmax" => match parts.as_slice() {
            [least, _, flex @ Value::Dimension(_, Unit::Fr)] if least.is("auto") => return flex.clone(),
            _ => parts,
        },
        // In a subgrid names stand for lines, and so count even where there are none.
        "repeat" if !parts.iter().skip(2).all(is_names) => without_empty_names(parts),
        "calc-size" => parts.into_iter().map(calculation).collect(),
        "palette-mix" => palette_mix(parts),
        "dynamic-range-limit-mix" => match limits(&parts) {
            Some(mix) => return mix,
            None => parts,
        },
        "color-stop" => return color_stop(parts.into_iter().map(share).collect()),
        "-webkit-cross-fade" => parts.into_iter().map(share).collect(),
        gradient if gradient.ends_with("gradient") => self::gradient(gradient, &parts),
        _ => parts,
    };
    Value::function(name, parts)
}

/// A command of `shape()`, or how it starts: places as two offsets, without what goes without saying (CSS Shapes 2, §2.4).
fn shape_command(parts: &[Value]) -> Vec<Value> {
    const AFTER_A_PLACE: [&str; 8] = ["with", "from", "of", "cw", "ccw", "large", "small", "rotate"];
    let along_one_axis = parts.first().is_some_and(|p| p.is("hline") || p.is("vline"));
    // What a control point is relative to where nothing is said.
    let usual = if parts.iter().any(|p| p.is("by")) { "start" } else { "origin" };
    let (mut out, mut controlled): (Vec<Value>, bool) = (Vec::new(), false);
    let mut rest = parts;
    while let [first, tail @ ..] = rest {
        rest = tail;
        controlled |= first.is("with");
        match tail {
            _ if ["nonzero", "ccw", "small"].iter().any(|k| first.is(k)) => {}
            [Value::Dimension(0.0, _), after @ ..] if first.is("rotate") => rest = after,
            [point, after @ ..] if first.is("from") && controlled => {
                if !point.is(usual) {
                    out.extend([first.clone(), point.clone()]);
                }
                rest = after;
            }
            _ if ["from", "to", "with"].iter().any(|k| first.is(k)) || *first == Value::Delim('/') => {
                let ends = |p: &Value| *p == Value::Delim('/') || AFTER_A_PLACE.iter().any(|k| p.is(k));
                let (place, after) = tail.split_at(tail.iter().position(ends).unwrap_or(tail.len()));
                let place = if along_one_axis { axis(place) } else { position(place.to_vec()) };
                out.push(first.clone());
                out.extend(place.parts().iter().cloned());
                rest = after;
            }
            _ => out.push(first.clone()),
        }
    }
    out
}

/// `palette-mix()`: of two shares that make a whole one says the other.
fn palette_mix(parts: Vec<Value>) -> Vec<Value> {
    let mut groups = groups(&parts);
    match groups.as_mut_slice() {
        [_, a, b] => match (a.as_slice(), b.as_slice()) {
            ([_, Value::Percentage(n)], [_]) => b.push(Value::Percentage(100.0 - n)),
            ([_], [_, Value::Percentage(n)]) => a.push(Value::Percentage(100.0 - n)),
            _ => return parts,
        },
        _ => return parts,
    }
    joined(groups)
}

/// `dynamic-range-limit-mix()`: the shares of the three limits, which make a whole (CSS Color HDR 1, §2.2); nothing where there are none.
fn limits(parts: &[Value]) -> Option<Value> {
    const LIMITS: [&str; 3] = ["standard", "constrained", "no-limit"];
    let mut shares = [0.0; LIMITS.len()];
    for group in groups(parts) {
        let [limit, Value::Percentage(share)] = group.as_slice() else { return None };
        let inner = match limit {
            // A mix inside is worked out by now.
            Value::Function(mix) => self::groups(&mix.1),
            limit => vec![vec![limit.clone(), Value::Percentage(100.0)]],
        };
        for one in inner {
            let [limit, Value::Percentage(part)] = one.as_slice() else { return None };
            let i = LIMITS.iter().position(|l| limit.is(l))?;
            shares[i] += share * part / 100.0;
        }
    }
    let whole: f64 = shares.iter().sum();
    let named = || LIMITS.iter().zip(shares).filter(|(_, share)| *share > 0.0);
    match named().count() {
        0 => None,
        1 => named().next().map(|(limit, _)| Value::keyword(limit)),
        _ => {
            let of_whole = |share: f64| Value::Percentage(share * 100.0 / whole);
            let mix = joined(named().map(|(limit, share)| vec![Value::keyword(limit), of_whole(share)]).collect());
            Some(Value::function(Name::from("dynamic-range-limit-mix"), mix))
        }
    }
}

/// Without keywords that say what holds anyway, and the comma after them.
fn without(mut parts: Vec<Value>, keywords: &[&str]) -> Vec<Value> {
    parts.retain(|p| !keywords.iter().any(|k| p.is(k)));
    joined(groups(&parts))
}

/// Whether it is a list of names of grid lines.
fn is_names(value: &Value) -> bool {
    matches!(value, Value::Function(f) if &*f.0 == "[")
}

/// Names of grid lines that name nothing are left out.
pub(super) fn without_empty_names(mut parts: Vec<Value>) -> Vec<Value> {
    parts.retain(|p| !matches!(p, Value::Function(f) if &*f.0 == "[" && f.1.is_empty()));
    parts
}

/// `counter()` and `counters()`: decimal is the style where none is given.
fn counter(parts: &[Value]) -> Vec<Value> {
    let mut groups = groups(parts);
    if let [first, .., style] = groups.as_mut_slice()
        && !first.is_empty()
    {
        *style = style.drain(..).map(counter_style).collect();
    }
    if groups.last().is_some_and(|g| matches!(g.as_slice(), [style] if style.text() == "decimal")) {
        groups.pop();
    }
    joined(groups)
}

/// The points of `linear()`, each with its place (CSS Easing 2, §2.2.1 "create a linear easing function").
fn easing_points(parts: &[Value]) -> Vec<Value> {
    let mut points: Vec<(f64, Option<f64>)> = Vec::new();
    for group in groups(parts) {
        let output = group.iter().find_map(|v| if let Value::Number(n) = v { Some(*n) } else { None });
        let places: Vec<f64> =
            group.iter().filter_map(|v| if let Value::Percentage(n) = v { Some(*n) } else { None }).collect();
        let Some(output) = output.filter(|_| group.len() == places.len() + 1) else { return parts.to_vec() };
        if places.is_empty() {
            points.push((output, None));
        }
        points.extend(places.into_iter().map(|p| (output, Some(p))));
    }
    let mut largest = f64::NEG_INFINITY;
    let last = points.len() - 1;
    for (i, (_, place)) in points.iter_mut().enumerate() {
        let default = if i == 0 {
            Some(0.0)
        } else if i == last {
            Some(100.0)
        } else {
            None
        };
        *place = place.or(default).map(|p| p.max(largest));
        largest = place.unwrap_or(largest);
    }
    let mut i = 0;
    while i < points.len() {
        let run = points[i..].iter().take_while(|p| p.1.is_none()).count();
        if run > 0
            && let (Some(before), Some(after)) = (points[i - 1].1, points.get(i + run).and_then(|p| p.1))
        {
            for k in 0..run {
                points[i + k].1 = Some(before + (after - before) * (k + 1) as f64 / (run + 1) as f64);
            }
        }
        i += run.max(1);
    }
    let written = points
        .into_iter()
        .map(|(output, place)| std::iter::once(Value::Number(output)).chain(place.map(Value::Percentage)).collect());
    joined(written.collect())
}

/// A filter function with its amount written out, as a number, and no more than it takes (Filter Effects 1, §6.1).
fn filter(name: &str, parts: Vec<Value>) -> Vec<Value> {
    let number = |n: f64| {
        let most = if matches!(name, "grayscale" | "invert" | "opacity" | "sepia") { 1.0 } else { f64::INFINITY };
        vec![Value::Number(n.clamp(0.0, most))]
    };
    match parts.as_slice() {
        [] => match name {
            "blur" => vec![Value::px(0.0)],
            "hue-rotate" => vec![Value::Dimension(0.0, Unit::Deg)],
            _ => vec![Value::Number(1.0)],
        },
        [Value::Number(0.0)] if name == "hue-rotate" => vec![Value::Dimension(0.0, Unit::Deg)],
        [Value::Number(n)] => number(*n),
        [Value::Percentage(n)] => number(*n / 100.0),
        _ => parts,
    }
}

/// `drop-shadow()` with its colour first and its blur written out.
fn drop_shadow(parts: &[Value]) -> Vec<Value> {
    let (colors, mut lengths): (Vec<Value>, Vec<Value>) =
        parts.iter().cloned().partition(|p| matches!(p, Value::Color(_)));
    if lengths.len() == 2 {
        lengths.push(Value::px(0.0));
    }
    let color = colors.into_iter().next().unwrap_or_else(|| Value::Color(Arc::new(ColorValue::Current)));
    std::iter::once(color).chain(lengths).collect()
}

/// The options of `image-set()` with their resolution, before their type.
fn image_set(parts: &[Value]) -> Vec<Value> {
    let option = |group: Vec<Value>| {
        let (mut types, mut rest): (Vec<Value>, Vec<Value>) =
            group.into_iter().partition(|p| matches!(p, Value::Function(f) if &*f.0 == "type"));
        if rest.len() == 1 {
            rest.push(Value::Dimension(1.0, Unit::Dppx));
        }
        rest.append(&mut types);
        rest
    };
    joined(groups(parts).into_iter().map(option).collect())
}

/// `circle()`
fn circle(parts: Vec<Value>) -> Vec<Value> {
    at_position(without(parts, &["closest-side"]))
}

/// `ellipse()`
fn ellipse(parts: Vec<Value>) -> Vec<Value> {
    at_position(match parts.as_slice() {
        [x, y, rest @ ..] if x.is("closest-side") && y.is("closest-side") => rest.to_vec(),
        _ => parts,
    })
}

/// `view()`: the inset twice is once.
fn timeline_insets(parts: Vec<Value>) -> Vec<Value> {
    let mut parts = without(parts, &["block"]);
    if let [.., a, b] = parts.as_slice()
        && a == b
    {
        parts.pop();
    }
    parts
}

/// `inset()`: sides and radii as few as they can be.
fn inset(parts: &[Value]) -> Vec<Value> {
    let (sides, radii) = match parts.iter().position(|p| p.is("round")) {
        Some(i) => (&parts[..i], &parts[i + 1..]),
        None => (parts, &parts[..0]),
    };
    let fold = |list: &[Value]| fold_sides(&Value::Sequence(Arc::new(list.to_vec()))).parts().to_vec();
    let mut out = fold(sides);
    let zero = |v: &Value| *v == Value::px(0.0) || matches!(v, Value::Delim(_));
    if radii.iter().all(zero) {
        return out;
    }
    out.push(Value::keyword("round"));
    match radii.iter().position(|p| matches!(p, Value::Delim('/'))) {
        Some(i) => {
            let (across, down) = (fold(&radii[..i]), fold(&radii[i + 1..]));
            out.extend(across.iter().cloned());
            if across != down {
                out.push(Value::Delim('/'));
                out.extend(down);
            }
        }
        None => out.extend(fold(radii)),
    }
    out
}

/// `rect()` and `xywh()` among shapes as the `inset()` they are (CSS Shapes 1, §3.1 "computed value").
pub(super) fn as_inset(value: &Value) -> Value {
    let Value::Function(f) = value else { return value.clone() };
    let (sides, round) = match f.1.iter().position(|p| p.is("round")) {
        Some(i) => f.1.split_at(i),
        None => (&f.1[..], &f.1[..0]),
    };
    let insets = match (&*f.0, sides) {
        ("rect", [top, right, bottom, left]) => {
            let near = |v: &Value| if v.is("auto") { Value::Percentage(0.0) } else { v.clone() };
            let far = |v: &Value| if v.is("auto") { Value::Percentage(0.0) } else { whole_minus(&[v]) };
            [near(top), far(right), far(bottom), near(left)]
        }
        ("xywh", [x, y, width, height]) => [y.clone(), whole_minus(&[x, width]), whole_minus(&[y, height]), x.clone()],
        _ => return value.clone(),
    };
    function(Name::from("inset"), insets.into_iter().chain(round.iter().cloned()).collect())
}

/// A gradient: what holds anyway is left out, and a stop at two places is two stops (CSS Images 4, §3.1 to §3.5).
fn gradient(name: &str, parts: &[Value]) -> Vec<Value> {
    let mut groups = groups(parts);
    if name.ends_with("conic-gradient") {
        // A zero without a unit is an angle here.
        let zeros = groups.iter_mut().flatten().filter(|v| **v == Value::Number(0.0));
        zeros.for_each(|v| *v = Value::Dimension(0.0, Unit::Deg));
    }
    let is_stop = |g: &[Value]| g.iter().any(|v| matches!(v, Value::Color(_)));
    let all_legacy = groups.iter().flatten().all(|v| !matches!(v, Value::Color(c) if !c.is_legacy()));
    let head = if groups.first().is_some_and(|g| !is_stop(g) && !g.is_empty()) { groups.remove(0) } else { Vec::new() };
    let mut out = if name == "-webkit-gradient" {
        groups.splice(..0, [head]);
        return joined(groups.into_iter().map(|g| g.into_iter().map(side_as_share).collect()).collect());
    } else if name.starts_with('-') {
        prefixed_line(name, head, &mut groups)
    } else {
        vec![gradient_line(name, head, all_legacy)]
    };
    for group in groups {
        match group.as_slice() {
            [color @ Value::Color(_), first, second] => {
                out.push(vec![color.clone(), first.clone()]);
                out.push(vec![color.clone(), second.clone()]);
            }
            _ => out.push(group),
        }
    }
    joined(out)
}

/// A calculation as an argument.
fn calculation(value: Value) -> Value {
    if let Value::Math(math) = value { Value::raw(math.math.bare_text()) } else { value }
}

/// A percentage as a number.
fn share(value: Value) -> Value {
    if let Value::Percentage(n) = value { Value::Number(n / 100.0) } else { value }
}

/// A stop of `-webkit-gradient()`; those at the ends have names of their own.
fn color_stop(parts: Vec<Value>) -> Value {
    match parts.as_slice() {
        [Value::Number(0.0), _, color] => Value::function(Name::from("from"), vec![color.clone()]),
        [Value::Number(1.0), _, color] => Value::function(Name::from("to"), vec![color.clone()]),
        _ => Value::function(Name::from("color-stop"), parts),
    }
}

/// A side as how far it is from the left or the top.
fn side_as_share(value: Value) -> Value {
    Value::Percentage(match value.as_keyword() {
        Some("left" | "top") => 0.0,
        Some("center") => 50.0,
        Some("right" | "bottom") => 100.0,
        _ => return value,
    })
}

/// What stands before the stops of a gradient with a prefix: where it begins, and what shape it has
/// (Compatibility Standard, §3.2).
fn prefixed_line(name: &str, head: Vec<Value>, groups: &mut Vec<Vec<Value>>) -> Vec<Vec<Value>> {
    if name.ends_with("linear-gradient") {
        return vec![match head.as_slice() {
            [] => vec![Value::keyword("top")],
            [Value::Number(n)] => vec![Value::Dimension(*n, Unit::Deg)],
            _ => head,
        }];
    }
    let is_shape = |group: &[Value]| {
        group.iter().any(|v| {
            v.as_keyword().is_some_and(|k| k.contains("side") || k.contains("corner"))
                || ["circle", "ellipse", "cover", "contain"].iter().any(|k| v.is(k))
        })
    };
    let (place, mut shape) = if is_shape(&head) {
        (Vec::new(), head)
    } else if groups.first().is_some_and(|g| is_shape(g)) {
        (head, groups.remove(0))
    } else {
        (head, Vec::new())
    };
    match shape.as_slice() {
        [one] if one.is("circle") || one.is("ellipse") => shape.push(Value::keyword("cover")),
        [_] => shape.insert(0, Value::keyword("ellipse")),
        _ => {}
    }
    let place = if place.is_empty() { vec![Value::keyword("center")] } else { position(place).parts().to_vec() };
    vec![place, shape]
}

/// What stands before the stops of a gradient.
fn gradient_line(name: &str, head: Vec<Value>, all_legacy: bool) -> Vec<Value> {
    let space = head.iter().position(|p| p.is("in")).unwrap_or(head.len());
    let after_space = head[space..].iter().position(|p| p.is("to") || p.is("from") || p.is("at") || is_measure(p));
    let (shape, method) = match after_space {
        // The method stands last.
        Some(n) => {
            let method = head[space..space + n].to_vec();
            let mut shape = head;
            shape.drain(space..space + n);
            (shape, method)
        }
        None => (head[..space].to_vec(), head[space..].to_vec()),
    };
    let mut shape = at_position(shape);
    if let [.., at, x, y] = shape.as_slice()
        && at.is("at")
        && [x, y].iter().all(|v| **v == Value::Percentage(50.0))
    {
        shape.truncate(shape.len() - 3);
    }
    if name.ends_with("linear-gradient") {
        let down = match shape.as_slice() {
            [Value::Dimension(n, Unit::Deg)] if *n == 180.0 => true,
            [to, bottom] => to.is("to") && bottom.is("bottom"),
            _ => false,
        };
        if down {
            shape.clear();
        }
        if let [to, y, x] = shape.as_slice()
            && (y.is("top") || y.is("bottom"))
        {
            shape = vec![to.clone(), x.clone(), y.clone()];
        }
    } else if name.ends_with("radial-gradient") {
        let sized = shape.iter().take_while(|v| !v.is("at")).any(is_measure);
        let always = |v: &Value| v.is("farthest-corner") || v.is("ellipse") || (sized && v.is("circle"));
        shape.retain(|v| !always(v));
    } else if let [from, Value::Dimension(0.0, Unit::Deg), ..] = shape.as_slice()
        && from.is("from")
    {
        shape.drain(..2);
    }
    shape.extend(color_method(method, all_legacy));
    shape
}

/// Whether it is a number with or without a unit.
fn is_measure(value: &Value) -> bool {
    matches!(value, Value::Dimension(..) | Value::Percentage(_) | Value::Math(_) | Value::Number(_))
}

/// How colours are joined, where that is not as always: Oklab, or sRGB where all colours are of old notations
/// (CSS Color 4, §12.1).
fn color_method(mut method: Vec<Value>, all_legacy: bool) -> Vec<Value> {
    method.retain(|v| !v.is("shorter"));
    if matches!(method.as_slice(), [.., hue] if hue.is("hue")) && method.len() == 3 {
        method.pop();
    }
    let default = if all_legacy { "srgb" } else { "oklab" };
    if matches!(method.as_slice(), [_, space] if space.is(default)) {
        method.clear();
    }
    method
}

/// Four sides written as few as they can be.
pub(super) fn fold_sides(value: &Value) -> Value {
    let Value::Sequence(_) = value else { return value.clone() };
    let mut parts = value.parts().to_vec();
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

/// Counter styles that are there from the start (CSS Counter Styles 3, §6 and §7).
const COUNTER_STYLES: &[&str] = &[
    "arabic-indic",
    "armenian",
    "bengali",
    "cambodian",
    "circle",
    "cjk-decimal",
    "cjk-earthly-branch",
    "cjk-heavenly-stem",
    "cjk-ideographic",
    "decimal",
    "decimal-leading-zero",
    "devanagari",
    "disc",
    "disclosure-closed",
    "disclosure-open",
    "ethiopic-numeric",
    "georgian",
    "gujarati",
    "gurmukhi",
    "hebrew",
    "hiragana",
    "hiragana-iroha",
    "japanese-formal",
    "japanese-informal",
    "kannada",
    "katakana",
    "katakana-iroha",
    "khmer",
    "korean-hangul-formal",
    "korean-hanja-formal",
    "korean-hanja-informal",
    "lao",
    "lower-alpha",
    "lower-armenian",
    "lower-greek",
    "lower-latin",
    "lower-roman",
    "malayalam",
    "mongolian",
    "myanmar",
    "oriya",
    "persian",
    "simp-chinese-formal",
    "simp-chinese-informal",
    "square",
    "tamil",
    "telugu",
    "thai",
    "tibetan",
    "trad-chinese-formal",
    "trad-chinese-informal",
    "upper-alpha",
    "upper-armenian",
    "upper-latin",
    "upper-roman",
];

/// The name of a counter style: of those that are there from the start, case does not count (CSS Counter Styles 3, §3.1).
pub(super) fn counter_style(value: Value) -> Value {
    match &value {
        Value::Ident(name) => {
            let lower = name.to_ascii_lowercase();
            if COUNTER_STYLES.contains(&&*lower) { Value::Ident(Name::from(lower)) } else { value }
        }
        _ => value,
    }
}
