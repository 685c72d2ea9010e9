//! Conditions joined by `not`, `and` and `or` (CSS Conditional 5, §2; CSS Values 5, §6.1 "boolean expressions").

use super::{Kind, Slice};
use crate::limits::DEEPEST_CONDITION;

/// Whether a condition holds; nothing for unknown (Media Queries 4, §3.1 "Evaluating Media Queries").
pub(crate) type Truth = Option<bool>;

/// What a test in a condition comes to: its truth, or nothing where it is no test.
type Leaf<'l> = &'l mut dyn FnMut(Slice<'_>) -> Option<Truth>;

/// Evaluates a condition to the end of a run. `leaf` is asked about functions, with the function first in the run, and
/// about what stands in parentheses and is no condition itself. Nothing where the run is no condition.
pub(crate) fn evaluate(slice: Slice<'_>, leaf: Leaf<'_>) -> Option<Truth> {
    condition(slice, 0, leaf)
}

/// Whether conditions in a run are inside each other more often than they may be: parentheses, those inside of functions counted
/// only where the function takes conditions.
pub(crate) fn is_too_deep(slice: Slice<'_>) -> bool {
    let mut open: Vec<Option<u32>> = vec![Some(0)];
    (slice.from..slice.to).any(|i| {
        let here = Slice { from: i, ..slice };
        let inside = match here.kind() {
            Some(Kind::Paren(_)) => open.last().copied().flatten().map(|depth| depth + 1),
            Some(Kind::Function(_)) => {
                ["style", "supports", "scroll-state"].iter().any(|name| here.is_function(name)).then_some(0)
            }
            Some(Kind::Square(_) | Kind::Curly(_)) => None,
            Some(Kind::Close(_, true)) => {
                open.pop();
                return false;
            }
            _ => return false,
        };
        open.push(inside);
        inside.is_some_and(|depth| depth > DEEPEST_CONDITION)
    })
}

/// Parts joined by `and` or by `or`, or one after `not`.
fn condition(slice: Slice<'_>, depth: u32, leaf: Leaf<'_>) -> Option<Truth> {
    let mut rest = slice.trim();
    if depth > DEEPEST_CONDITION {
        return None;
    }
    if rest.is_ident("not") {
        rest.next();
        rest.skip_space();
        let (value, after) = part(rest, depth, leaf)?;
        return after.trim().is_empty().then_some(value.map(|v| !v));
    }
    let (mut value, mut after) = part(rest, depth, leaf)?;
    let mut joint: Option<String> = None;
    loop {
        after = after.trim();
        if after.is_empty() {
            return Some(value);
        }
        let word = after.ident().filter(|w| matches!(&**w, "and" | "or"))?;
        if joint.as_ref().is_some_and(|j| *j != word) {
            return None;
        }
        after.next();
        after.skip_space();
        let (next, rest) = part(after, depth, leaf)?;
        let settles = word == "or";
        value = match (value, next) {
            (Some(a), _) | (_, Some(a)) if a == settles => Some(a),
            (Some(_), Some(_)) => Some(!settles),
            _ => None,
        };
        joint = Some(word);
        after = rest;
    }
}

/// One part: a condition or test in parentheses, or a function.
fn part<'t>(slice: Slice<'t>, depth: u32, leaf: Leaf<'_>) -> Option<(Truth, Slice<'t>)> {
    let mut after = slice;
    let token = after.next()?;
    let value = match token.kind {
        Kind::Paren(_) => {
            let inside = slice.inside().trim();
            condition(inside, depth + 1, leaf).or_else(|| leaf(inside)).unwrap_or(None)
        }
        Kind::Function(_) => leaf(Slice { to: after.from, ..slice })?,
        _ => return None,
    };
    Some((value, after))
}
