//! Positions: keywords and offsets as two offsets from the left and the top (CSS Values 5, "Positions").

use crate::value::{Context, Math, MathValue, Value};

/// The whole less some offsets.
pub(super) fn whole_minus(offsets: &[&Value]) -> Value {
    let mut terms = vec![Math::Percentage(100.0)];
    for offset in offsets {
        let math = match offset {
            Value::Percentage(n) => Math::Percentage(*n),
            Value::Dimension(n, unit) => Math::Dimension(*n, *unit),
            Value::Math(value) => value.math.clone(),
            _ => continue,
        };
        terms.push(Math::Negate(Box::new(math)));
    }
    MathValue::length_percentage(Math::Sum(terms)).resolve(&Context::default())
}

/// One axis of a position: sides as percentages.
pub(super) fn axis(parts: &[Value]) -> Value {
    match parts {
        [side] => match side.as_keyword() {
            Some("left" | "top" | "x-start" | "y-start") => Value::Percentage(0.0),
            Some("center") => Value::Percentage(50.0),
            Some("right" | "bottom" | "x-end" | "y-end") => Value::Percentage(100.0),
            _ => side.clone(),
        },
        [side, offset] => match side.as_keyword() {
            Some("left" | "top") => offset.clone(),
            _ => whole_minus(&[offset]),
        },
        _ => Value::Percentage(50.0),
    }
}

/// Arguments with what stands after `at` as two offsets.
pub(super) fn at_position(mut parts: Vec<Value>) -> Vec<Value> {
    if let Some(i) = parts.iter().position(|p| p.is("at")) {
        let place = parts.split_off(i + 1);
        parts.extend(position(place).parts().iter().cloned());
    }
    parts
}

/// A position as two offsets.
pub(super) fn position(parts: Vec<Value>) -> Value {
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
