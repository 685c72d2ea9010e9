//! Media queries that match nothing, however the page is seen.

use std::collections::BTreeMap;

use super::{Comparison, Condition, MediaQueryList, Query, Value};
use crate::near;
use crate::syntax::number_text;

/// Why a list of media queries matches nothing.
#[derive(Debug, PartialEq, Eq)]
pub(crate) struct Never {
    /// The reason, as a clause.
    pub(crate) because: String,
    /// What was probably meant.
    pub(crate) hint: Option<String>,
}

/// Media that there are (Media Queries 4, §2.3 "Media Types").
const MEDIA: &[&str] = &["all", "screen", "print", "speech"];

/// Media that there were: queries for them are queries, but match nothing.
const GONE: &[&str] = &["tty", "tv", "projection", "handheld", "braille", "embossed", "aural"];

/// What a range can still be: the lower end, whether with it; the upper end, whether with it.
struct Range {
    /// From here on.
    from: (f64, bool),
    /// Up to here.
    to: (f64, bool),
}

impl MediaQueryList {
    /// Why it matches nothing, however the page is seen; nothing where it may match something, or is no list of media queries.
    pub(crate) fn never(&self) -> Option<Never> {
        let mut reasons = Vec::new();
        for query in &self.queries {
            match query {
                Query::Bad(_) => {}
                Query::Condition(condition) => reasons.push(contradiction(condition)?),
                Query::Typed { not: true, .. } => return None,
                Query::Typed { medium, .. } if !MEDIA.contains(&&**medium) => reasons.push(no_medium(medium)?),
                Query::Typed { condition, .. } => reasons.push(contradiction(condition.as_ref()?)?),
            }
        }
        reasons.into_iter().next()
    }
}

/// Why a medium matches nothing; nothing for a name that only one browser gives a meaning.
fn no_medium(medium: &str) -> Option<Never> {
    if GONE.contains(&medium) {
        let because = format!("browsers know no medium `{medium}` any more");
        return Some(Never { because, hint: None });
    }
    let plain = medium.bytes().all(|b| b.is_ascii_alphabetic());
    let hint = near::nearest(medium, MEDIA.iter().copied()).map(|near| format!("did you mean `{near}`?"));
    plain.then(|| Never { because: format!("there is no medium `{medium}`"), hint })
}

/// Why a condition is never true.
fn contradiction(condition: &Condition) -> Option<Never> {
    match condition {
        Condition::All(_) | Condition::Feature(..) => {
            let mut all = Vec::new();
            features(condition, &mut all)?;
            let because = between(&all).or_else(|| of_keywords(&all))?;
            Some(Never { because, hint: None })
        }
        Condition::Any(parts) => {
            let mut reasons: Vec<Never> = parts.iter().map(contradiction).collect::<Option<_>>()?;
            (!reasons.is_empty()).then(|| reasons.swap_remove(0))
        }
        Condition::Not(_) | Condition::Unknown(_) => None,
    }
}

/// The features that must all hold; nothing where something is unknown, and so told otherwise. What is not plain is left out.
fn features<'c>(condition: &'c Condition, into: &mut Vec<(&'c str, &'c [(Comparison, Value)])>) -> Option<()> {
    match condition {
        Condition::Feature(name, compared) => into.push((name, compared)),
        Condition::All(parts) => parts.iter().try_for_each(|part| features(part, into))?,
        Condition::Any(_) | Condition::Not(_) => {}
        Condition::Unknown(_) => return None,
    }
    Some(())
}

/// Ranges of one feature that have nothing in common.
fn between(all: &[(&str, &[(Comparison, Value)])]) -> Option<String> {
    let mut ranges: BTreeMap<&str, Range> = BTreeMap::new();
    for (name, compared) in all {
        for (how, value) in *compared {
            let Value::Number(n, _) = value else { continue };
            let range = ranges.entry(name).or_insert(Range { from: (0.0, true), to: (f64::INFINITY, true) });
            if matches!(how, Comparison::Equal | Comparison::AtLeast | Comparison::More) {
                let with = *how != Comparison::More;
                if *n > range.from.0 || *n == range.from.0 && !with {
                    range.from = (*n, with);
                }
            }
            if matches!(how, Comparison::Equal | Comparison::AtMost | Comparison::Less) {
                let with = *how != Comparison::Less;
                if *n < range.to.0 || *n == range.to.0 && !with {
                    range.to = (*n, with);
                }
            }
        }
    }
    ranges.into_iter().find_map(|(name, Range { from, to })| {
        let empty = from.0 > to.0 || from.0 == to.0 && !(from.1 && to.1);
        let unit = match name {
            "width" | "height" | "device-width" | "device-height" => "px",
            "resolution" => "dppx",
            _ => "",
        };
        let end = |(n, with): (f64, bool), words: (&str, &str)| {
            format!("{} {}{unit}", if with { words.0 } else { words.1 }, number_text(n))
        };
        empty.then(|| {
            let (from, to) = (end(from, ("at least", "more than")), end(to, ("at most", "less than")));
            format!("no `{name}` is {from} and {to}")
        })
    })
}

/// Keywords of one feature that exclude one another.
fn of_keywords(all: &[(&str, &[(Comparison, Value)])]) -> Option<String> {
    // An output device may have several ways to point, and what shows some colours shows fewer, too.
    let several =
        ["any-pointer", "any-hover", "color-gamut", "dynamic-range", "video-color-gamut", "video-dynamic-range"];
    let mut said: BTreeMap<&str, &str> = BTreeMap::new();
    for (name, compared) in all.iter().filter(|(name, _)| !several.contains(name)) {
        let [(Comparison::Equal, Value::Ident(word))] = compared else { continue };
        match said.insert(name, word) {
            Some(other) if other != word => return Some(format!("`{name}` is never both `{other}` and `{word}`")),
            _ => {}
        }
    }
    None
}

#[cfg(test)]
mod tests {
    use crate::stylesheet::media::parse;
    use crate::syntax::Tokens;

    /// A list, and why it matches nothing; empty where it may match something.
    const CASES: &[(&str, &str)] = &[
        ("", ""),
        ("all", ""),
        ("speech", ""),
        ("not tv", ""),
        ("handheld", "browsers know no medium `handheld` any more"),
        ("tv, only TTY and (color)", "browsers know no medium `tv` any more"),
        ("sreen", "there is no medium `sreen`"),
        ("sreen, print", ""),
        ("screen\\9", ""),
        ("(min-width: 600px) and (max-width: 500px)", "no `width` is at least 600px and at most 500px"),
        ("screen and (width > 40em) and (width <= 640px)", "no `width` is more than 640px and at most 640px"),
        ("(width >= 40em) and (width <= 640px)", ""),
        ("(600px < width < 37em)", "no `width` is more than 600px and less than 592px"),
        ("(width < 0px)", "no `width` is at least 0px and less than 0px"),
        ("(min-width: 2px) and (max-height: 1px)", ""),
        (
            "(orientation: portrait) and (orientation: landscape)",
            "`orientation` is never both `portrait` and `landscape`",
        ),
        ("(any-pointer: fine) and (any-pointer: coarse)", ""),
        ("((width < 1px) and (width > 2px)) or (width = -1px)", "no `width` is more than 2px and less than 1px"),
        ("((width < 1px) and (width > 2px)) or (height > 1px)", ""),
        ("not ((width < 1px) and (width > 2px))", ""),
        ("(width < 1px) and (width > 2px) and (a b)", ""),
        ("(min-resolution: 2dppx) and (max-resolution: 96dpi)", "no `resolution` is at least 2dppx and at most 1dppx"),
        ("x y z", ""),
    ];

    #[test]
    fn what_never_matches_is_known() {
        for (list, expected) in CASES {
            let never = parse(Tokens::read(list).all()).never();
            assert_eq!(never.map(|n| n.because).unwrap_or_default(), *expected, "{list}");
        }
    }
}
