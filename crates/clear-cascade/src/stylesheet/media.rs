//! Media queries (Media Queries 4 and 5): parsed, and evaluated against a [`Viewing`].

mod never;

use crate::limits::DEEPEST_CONDITION;
use crate::syntax::{Kind, Slice, Tokens};
use crate::viewing::{Medium, PREFERENCES, Viewing};

/// A list of media queries; empty means all media.
#[derive(Clone, Debug, Default)]
pub(crate) struct MediaQueryList {
    /// The queries between commas.
    queries: Vec<Query>,
    /// The list as written.
    pub(crate) text: String,
}

/// One media query.
#[derive(Clone, Debug)]
enum Query {
    /// `not? screen and (…)`
    Typed {
        /// Whether `not` stands before the type.
        not: bool,
        /// The media type in lower case.
        medium: String,
        /// What follows `and`.
        condition: Option<Condition>,
    },
    /// A condition without a type.
    Condition(Condition),
    /// Not a media query: `not all`.
    Bad(String),
}

/// A condition on media features.
#[derive(Clone, Debug)]
enum Condition {
    /// `not (…)`
    Not(Box<Condition>),
    /// `(…) and (…)`
    All(Vec<Condition>),
    /// `(…) or (…)`
    Any(Vec<Condition>),
    /// A feature compared with values; nothing for mere presence.
    Feature(String, Vec<(Comparison, Value)>),
    /// Something that no standard knows yet: unknown (Media Queries 4, "general-enclosed").
    Unknown(String),
}

/// How a feature is compared with a value, seen from the feature.
#[derive(Clone, Copy, Debug, PartialEq)]
enum Comparison {
    /// `:` or `=`
    Equal,
    /// `<`
    Less,
    /// `<=`
    AtMost,
    /// `>`
    More,
    /// `>=`
    AtLeast,
}

/// The value a feature is compared with.
#[derive(Clone, Debug, PartialEq)]
enum Value {
    /// A number of some measure.
    Number(f64, Measure),
    /// A length that goes by the viewport, or by the initial font in a way that only is known with the rest of it.
    Relative(Box<crate::value::Value>),
    /// A keyword in lower case.
    Ident(String),
}

/// What a number in a query measures.
#[derive(Clone, Copy, Debug, PartialEq)]
enum Measure {
    /// Nothing: a number without a unit.
    Plain,
    /// The same, of a calculation.
    Calculated,
    /// A length, in px.
    Length,
    /// A resolution, in dppx.
    Resolution,
    /// A ratio, as one number.
    Ratio,
}

impl Viewing {
    /// Whether a list of media queries matches, as it stands behind `@media` or in a `media` attribute; an empty one does (Media
    /// Queries 4, §2 "Media Queries"). What is no media query matches nothing.
    ///
    /// ```
    /// use clear_cascade::Viewing;
    /// let phone = Viewing::screen(360.0, 640.0).prefer("color-scheme", "dark");
    /// assert!(phone.matches_media("print, (width < 600px) and (prefers-color-scheme: dark)"));
    /// assert!(!phone.matches_media("screen and (orientation: landscape)"));
    /// ```
    #[must_use]
    pub fn matches_media(&self, list: &str) -> bool {
        parse(Tokens::read(list).all()).matches(self)
    }
}

/// Reads a media query list.
pub(crate) fn parse(slice: Slice<'_>) -> MediaQueryList {
    let slice = slice.trim();
    if slice.is_empty() {
        return MediaQueryList::default();
    }
    let read = |part: Slice<'_>| query(part.trim()).unwrap_or_else(|| Query::Bad(part.trim().text().to_owned()));
    MediaQueryList { queries: slice.commas().into_iter().map(read).collect(), text: slice.text().to_owned() }
}

/// Whether a condition holds, or a feature without parentheses around it; nothing for unknown, and where it is neither.
pub(crate) fn condition_holds(slice: Slice<'_>, viewing: &Viewing) -> Option<bool> {
    condition(slice, 0, true).or_else(|| feature(slice.trim()))?.holds(viewing)
}

/// One query.
fn query(slice: Slice<'_>) -> Option<Query> {
    let mut rest = slice;
    let mut not = false;
    let mut look = rest;
    if let Some(word) = look.ident().filter(|w| matches!(&**w, "not" | "only")) {
        look.next();
        look.skip_space();
        if look.kind() == Some(Kind::Ident) {
            if look.is_ident("not") {
                return None;
            }
            not = word == "not";
            rest = look;
        }
    }
    if rest.kind() == Some(Kind::Ident) && !rest.is_ident("not") {
        let medium = rest.ident()?;
        if matches!(&*medium, "and" | "or" | "not" | "only" | "layer") {
            return None;
        }
        rest.next();
        rest.skip_space();
        if rest.is_empty() {
            return Some(Query::Typed { not, medium, condition: None });
        }
        if !rest.is_ident("and") {
            return None;
        }
        rest.next();
        // Without white space, `and(` would be a function.
        rest.skip_space();
        let condition = condition(rest, 0, false)?;
        return Some(Query::Typed { not, medium, condition: Some(condition) });
    }
    condition(rest, 0, true).map(Query::Condition)
}

/// A condition up to the end of the run.
fn condition(slice: Slice<'_>, depth: u32, or_allowed: bool) -> Option<Condition> {
    let mut rest = slice.trim();
    if depth > DEEPEST_CONDITION {
        return None;
    }
    if rest.is_ident("not") {
        rest.next();
        // Without white space, `and(` would be a function.
        rest.skip_space();
        let (one, after) = in_parens(rest, depth)?;
        return after.trim().is_empty().then(|| Condition::Not(Box::new(one)));
    }
    let (first, mut rest) = in_parens(rest, depth)?;
    let mut parts = vec![first];
    let mut joint: Option<String> = None;
    loop {
        rest = rest.trim();
        if rest.is_empty() {
            break;
        }
        let word = rest.ident().filter(|w| w == "and" || (or_allowed && w == "or"))?;
        if joint.as_ref().is_some_and(|j| *j != word) {
            return None;
        }
        rest.next();
        // Without white space, `and(` would be a function.
        rest.skip_space();
        let (next, after) = in_parens(rest, depth)?;
        parts.push(next);
        joint = Some(word);
        rest = after;
    }
    Some(match joint.as_deref() {
        None => parts.pop()?,
        Some("or") => Condition::Any(parts),
        Some(_) => Condition::All(parts),
    })
}

/// One part in parentheses.
fn in_parens(slice: Slice<'_>, depth: u32) -> Option<(Condition, Slice<'_>)> {
    let mut after = slice;
    let token = after.next()?;
    let whole = Slice { to: after.from, ..slice };
    let inside = slice.inside().trim();
    let found = match token.kind {
        Kind::Paren(_) => {
            let nested = matches!(inside.kind(), Some(Kind::Paren(_) | Kind::Function(_))) || inside.is_ident("not");
            let nested = if nested { condition(inside, depth + 1, true) } else { None };
            nested.or_else(|| feature(inside)).unwrap_or_else(|| Condition::Unknown(whole.text().to_owned()))
        }
        Kind::Function(_) => Condition::Unknown(whole.text().to_owned()),
        _ => return None,
    };
    Some((found, after))
}

/// A feature: by itself, with a colon, or in a range.
fn feature(inside: Slice<'_>) -> Option<Condition> {
    if let Some(name) = inside.ident().filter(|_| inside.from + 1 == inside.to) {
        return Some(Condition::Feature(name, Vec::new()));
    }
    let (left, right) = inside.split_at(|t| t.kind == Kind::Colon);
    if !right.is_empty() {
        let name = left.lone_ident()?;
        let value = value(Slice { from: right.from + 1, ..right })?;
        // The prefix of a browser stands before `min-` (Compatibility Standard, §3.1).
        let (prefix, bare) = name.strip_prefix("-webkit-").map_or(("", &*name), |bare| ("-webkit-", bare));
        let prefixed = |plain: &str| plain.starts_with("-webkit-");
        let ends = [("min-", Comparison::AtLeast), ("max-", Comparison::AtMost)];
        let range = ends.into_iter().find_map(|(end, comparison)| {
            let plain =
                bare.strip_prefix(end).filter(|plain| !prefixed(plain)).map(|plain| format!("{prefix}{plain}"))?;
            is_range(&plain).then_some((plain, comparison))
        });
        let (name, comparison) = range.unwrap_or((name, Comparison::Equal));
        let value = fitting(&name, value)?;
        return Some(Condition::Feature(name, vec![(comparison, value)]));
    }
    let mut parts = Vec::new();
    let mut signs = Vec::new();
    let mut rest = inside;
    loop {
        let (part, after) = rest.split_at(|t| matches!(t.kind, Kind::Delim('<' | '>' | '=')));
        parts.push(part.trim());
        let Some(token) = after.peek() else { break };
        rest = Slice { from: after.from + 1, ..after };
        let equal = rest.kind() == Some(Kind::Delim('='));
        signs.push(match token.kind {
            Kind::Delim('<') if equal => Comparison::AtMost,
            Kind::Delim('<') => Comparison::Less,
            Kind::Delim('>') if equal => Comparison::AtLeast,
            Kind::Delim('>') => Comparison::More,
            _ => Comparison::Equal,
        });
        if equal && token.kind != Kind::Delim('=') {
            rest.from += 1;
        }
    }
    let named = |part: Slice<'_>| part.lone_ident().filter(|n| is_range(n));
    match (parts.as_slice(), signs.as_slice()) {
        ([a, b], [sign]) => {
            let (name, sign, with) = match (named(*a), named(*b)) {
                (Some(name), _) => (name, *sign, *b),
                (None, Some(name)) => (name, flip(*sign), *a),
                _ => return None,
            };
            let value = fitting(&name, value(with)?)?;
            Some(Condition::Feature(name, vec![(sign, value)]))
        }
        ([a, name, b], [s, t]) => {
            let up = |c: &Comparison| matches!(c, Comparison::Less | Comparison::AtMost);
            let down = |c: &Comparison| matches!(c, Comparison::More | Comparison::AtLeast);
            if !((up(s) && up(t)) || (down(s) && down(t))) {
                return None;
            }
            let name = named(*name)?;
            let (low, high) = (fitting(&name, value(*a)?)?, fitting(&name, value(*b)?)?);
            Some(Condition::Feature(name, vec![(flip(*s), low), (*t, high)]))
        }
        _ => None,
    }
}

/// The size feature of a container that stands in parentheses, or without them (CSS Conditional 5, §6.1 "Size Container
/// Features"); nothing for what is none.
pub(crate) fn size_feature(inside: Slice<'_>) -> Option<String> {
    match feature(inside.trim())? {
        Condition::Feature(name, _) if SIZES.contains(&&*name) => Some(name),
        _ => None,
    }
}

/// The size features of containers.
const SIZES: &[&str] = &["width", "height", "inline-size", "block-size", "aspect-ratio", "orientation"];

/// The same comparison seen from the other side.
fn flip(comparison: Comparison) -> Comparison {
    match comparison {
        Comparison::Equal => Comparison::Equal,
        Comparison::Less => Comparison::More,
        Comparison::AtMost => Comparison::AtLeast,
        Comparison::More => Comparison::Less,
        Comparison::AtLeast => Comparison::AtMost,
    }
}

/// A value: a number, a length, a resolution, a ratio or a keyword.
fn value(slice: Slice<'_>) -> Option<Value> {
    let slice = slice.trim();
    if let Some(ident) = slice.lone_ident() {
        return Some(Value::Ident(ident));
    }
    let (left, right) = slice.split_at(|t| t.kind == Kind::Delim('/'));
    if !right.is_empty() {
        let right = Slice { from: right.from + 1, ..right };
        let plain = |part: Slice<'_>| number(part.trim()).filter(|n| n.1 == Measure::Plain && n.0 >= 0.0).map(|n| n.0);
        let (left, right) = (plain(left)?, plain(right)?);
        // Of nothing to nothing browsers make what is beyond all.
        let ratio = if right == 0.0 { f64::INFINITY } else { left / right };
        return Some(Value::Number(ratio, Measure::Ratio));
    }
    if let Some((n, measure)) = number(slice) {
        return Some(Value::Number(n, measure));
    }
    crate::property::match_syntax("<length>", slice).map(|value| Value::Relative(Box::new(value)))
}

/// A value as a feature takes it; nothing for one of another kind (Media Queries 5, the tables of features).
fn fitting(name: &str, value: Value) -> Option<Value> {
    let fits = match &value {
        Value::Ident(word) if is_range(name) => name == "resolution" && word == "infinite",
        Value::Ident(word) => keywords(name).is_none_or(|words| words.contains(&&**word)),
        Value::Relative(_) => is_length(name),
        Value::Number(n, measure) => match name {
            _ if is_length(name) => *measure == Measure::Length || (*measure == Measure::Plain && *n == 0.0),
            "aspect-ratio" | "device-aspect-ratio" => {
                matches!(measure, Measure::Ratio | Measure::Calculated) || (*measure == Measure::Plain && *n >= 0.0)
            }
            "resolution" => *measure == Measure::Resolution,
            "color" | "color-index" | "monochrome" | "horizontal-viewport-segments" | "vertical-viewport-segments" => {
                if *measure == Measure::Calculated {
                    return Some(Value::Number((n + 0.5).floor(), Measure::Plain));
                }
                *measure == Measure::Plain && n.fract() == 0.0
            }
            "grid" => matches!(measure, Measure::Plain | Measure::Calculated) && (*n == 0.0 || *n == 1.0),
            _ => matches!(measure, Measure::Plain | Measure::Calculated),
        },
    };
    fits.then_some(value)
}

/// A number with or without a unit, in px or dppx; relative units are those of the initial font.
fn number(slice: Slice<'_>) -> Option<(f64, Measure)> {
    let token = slice.peek()?;
    if slice.from + 1 == slice.to {
        return match token.kind {
            Kind::Number(n, _) => Some((n, Measure::Plain)),
            Kind::Dimension(n, _) => {
                let (per, measure) = match &*slice.name(token).to_ascii_lowercase() {
                    "em" | "rem" => (16.0, Measure::Length),
                    "ex" | "ch" => (8.0, Measure::Length),
                    "dpi" => (1.0 / 96.0, Measure::Resolution),
                    "dpcm" => (2.54 / 96.0, Measure::Resolution),
                    "dppx" | "x" => (1.0, Measure::Resolution),
                    unit => (crate::value::absolute_length(unit)?, Measure::Length),
                };
                // There is no negative resolution (CSS Values 4, §7.4).
                (measure != Measure::Resolution || n >= 0.0).then_some((n * per, measure))
            }
            _ => None,
        };
    }
    let found = matches!(token.kind, Kind::Function(_)).then(|| crate::value::absolute_math(slice)).flatten()?;
    Some(match found {
        (n, crate::value::NumericClass::Length) => (n, Measure::Length),
        (n, crate::value::NumericClass::Resolution) => (n, Measure::Resolution),
        (n, _) => (n, Measure::Calculated),
    })
}

/// Features that take a length, those of containers among them.
fn is_length(name: &str) -> bool {
    matches!(name, "width" | "height" | "device-width" | "device-height" | "inline-size" | "block-size")
}

/// Features that take a range of values.
fn is_range(name: &str) -> bool {
    is_length(name)
        || matches!(
            name,
            "aspect-ratio"
                | "device-aspect-ratio"
                | "resolution"
                | "-webkit-device-pixel-ratio"
                | "device-pixel-ratio"
                | "color"
                | "color-index"
                | "monochrome"
                | "horizontal-viewport-segments"
                | "vertical-viewport-segments"
        )
}

/// The features that browsers know (Media Queries 5, Appendix "Media Features").
const FEATURES: &[&str] = &[
    "width",
    "height",
    "device-width",
    "device-height",
    "aspect-ratio",
    "device-aspect-ratio",
    "resolution",
    "color",
    "color-index",
    "monochrome",
    "grid",
    "orientation",
    "update",
    "overflow-block",
    "overflow-inline",
    "color-gamut",
    "dynamic-range",
    "scan",
    "pointer",
    "any-pointer",
    "hover",
    "any-hover",
    "scripting",
    "display-mode",
    "forced-colors",
    "prefers-color-scheme",
    "prefers-reduced-motion",
    "prefers-reduced-transparency",
    "prefers-contrast",
];

/// Features of the standard that browsers do not ship: unknown there, and so here where nothing else is asked for.
const NOT_SHIPPED: &[&str] =
    &["environment-blending", "inverted-colors", "nav-controls", "prefers-reduced-data", "video-dynamic-range"];

/// The words that features take which are no preferences.
const KEYWORDS: &[(&str, &[&str])] = &[
    ("orientation", &["portrait", "landscape"]),
    ("update", &["none", "slow", "fast"]),
    ("overflow-block", &["none", "scroll", "paged"]),
    ("overflow-inline", &["none", "scroll"]),
    ("color-gamut", &["srgb", "p3", "rec2020"]),
    ("dynamic-range", &["standard", "high"]),
    ("scan", &["interlace", "progressive"]),
    ("display-mode", DISPLAY_MODES),
    ("device-posture", &["continuous", "folded"]),
];

/// How an application is shown (Media Queries 5, §13.2).
#[rustfmt::skip]
const DISPLAY_MODES: &[&str] = &[
    "fullscreen", "standalone", "minimal-ui", "browser", "picture-in-picture", "window-controls-overlay", "tabbed", "unframed",
];

/// The words that a feature takes; nothing for one that takes none, or that there is not.
fn keywords(feature: &str) -> Option<&'static [&'static str]> {
    let preference = feature.strip_prefix("prefers-").unwrap_or(feature);
    let words = |table: &[(&str, &'static [&'static str])], name: &str| {
        table.iter().find(|(known, _)| *known == name).map(|(_, words)| *words)
    };
    words(KEYWORDS, feature).or_else(|| words(PREFERENCES, preference))
}

/// What the viewing has for a feature.
enum Have {
    /// A number.
    Number(f64),
    /// A keyword, and whether the feature alone is true with it.
    Keyword(String, bool),
}

/// What the viewing has for a feature; nothing for a feature that no standard knows.
fn have(name: &str, viewing: &Viewing) -> Option<Have> {
    let screen = viewing.medium == Medium::Screen;
    // Media Queries 5, §2.4.2 "Evaluating Media Features in a Boolean Context".
    let keyword = |k: &str| Some(Have::Keyword(k.to_owned(), !matches!(k, "none" | "no-preference")));
    let preference = |name: &str, default: &str| keyword(viewing.preferences.get(name).map_or(default, String::as_str));
    Some(match name {
        "width" | "device-width" => Have::Number(viewing.width),
        "height" | "device-height" => Have::Number(viewing.height),
        "aspect-ratio" | "device-aspect-ratio" => Have::Number(viewing.width / viewing.height),
        "resolution" | "-webkit-device-pixel-ratio" => Have::Number(1.0),
        "color" => Have::Number(8.0),
        "color-index" | "monochrome" => Have::Number(0.0),
        "grid" => Have::Number(0.0),
        "-webkit-transform-3d" => Have::Number(1.0),
        "horizontal-viewport-segments" | "vertical-viewport-segments" => Have::Number(1.0),
        "orientation" => {
            return keyword(if viewing.height >= viewing.width { "portrait" } else { "landscape" });
        }
        "update" => return keyword(if screen { "fast" } else { "none" }),
        "overflow-block" => return keyword(if screen { "scroll" } else { "paged" }),
        "overflow-inline" => return keyword(if screen { "scroll" } else { "none" }),
        "color-gamut" => return keyword("srgb"),
        "dynamic-range" => return keyword("standard"),
        "device-posture" => return keyword("continuous"),
        // It has a value where pictures are drawn line by line, which no screen does.
        "scan" => return Some(Have::Keyword(String::new(), false)),
        "pointer" | "any-pointer" => return preference(name, "fine"),
        "hover" | "any-hover" => return preference(name, "hover"),
        "scripting" => return preference("scripting", "enabled"),
        "display-mode" => return keyword("browser"),
        "forced-colors" => return preference(name, "none"),
        "inverted-colors" | "prefers-reduced-data" => {
            return keyword(viewing.preferences.get(name.trim_start_matches("prefers-"))?);
        }
        "prefers-color-scheme" => return preference("color-scheme", "light"),
        "prefers-reduced-motion" => return preference("reduced-motion", "no-preference"),
        "prefers-reduced-transparency" => {
            return preference("reduced-transparency", "no-preference");
        }
        "prefers-contrast" => return preference("contrast", "no-preference"),
        _ => return None,
    })
}

impl MediaQueryList {
    /// Whether the list takes a viewing.
    pub(crate) fn matches(&self, viewing: &Viewing) -> bool {
        self.queries.is_empty() || self.queries.iter().any(|q| q.matches(viewing))
    }

    /// Whether it is for all media: empty, or `all`.
    pub(crate) fn is_all(&self) -> bool {
        let all =
            |query: &Query| matches!(query, Query::Typed { not: false, medium, condition: None } if medium == "all");
        self.queries.is_empty() || self.queries.iter().any(all)
    }

    /// Another way of seeing the page in which it would match, as a clause after "it would be on"; one change at the most.
    pub(crate) fn turned_on_by(&self, viewing: &Viewing) -> Option<String> {
        let other = match viewing.medium {
            Medium::Screen => (Medium::Print, "in print"),
            Medium::Print => (Medium::Screen, "on a screen"),
        };
        if self.matches(&Viewing { medium: other.0, ..viewing.clone() }) {
            return Some(other.1.to_owned());
        }
        let mut features = Vec::new();
        for query in &self.queries {
            match query {
                Query::Typed { condition: Some(c), .. } | Query::Condition(c) => c.features(&mut features),
                _ => {}
            }
        }
        for (name, value) in &features {
            let (change, how) = match value {
                Value::Number(..) if matches!(&**name, "width" | "height") => {
                    let with = |px: f64| match &**name {
                        "width" => Viewing { width: px, ..viewing.clone() },
                        _ => Viewing { height: px, ..viewing.clone() },
                    };
                    let limits = features.iter().filter(|(other, _)| other == name);
                    let limits = limits.filter_map(|(_, v)| if let Value::Number(n, _) = v { Some(*n) } else { None });
                    match sizes(limits.collect(), &|px| self.matches(&with(px))) {
                        Some((px, range)) => (with(px), format!("where the {name} of the viewport is {range}")),
                        None => continue,
                    }
                }
                Value::Ident(word) if name == "orientation" => {
                    let turned = Viewing { width: viewing.height, height: viewing.width, ..viewing.clone() };
                    (turned, format!("in {word} orientation"))
                }
                Value::Ident(word) => {
                    let mut changed = viewing.clone();
                    changed.preferences.insert(name.trim_start_matches("prefers-").to_owned(), word.clone());
                    (changed, format!("with `{name}: {word}`"))
                }
                Value::Number(..) | Value::Relative(_) => continue,
            };
            if self.matches(&change) {
                return Some(how);
            }
        }
        None
    }

    /// What is wrong with its queries, as clauses.
    pub(crate) fn unknown(&self) -> Vec<(String, Option<String>)> {
        let mut found = Vec::new();
        for query in &self.queries {
            match query {
                Query::Bad(text) => {
                    let glued =
                        ["and(", "or(", "not("].into_iter().find(|glued| text.to_ascii_lowercase().contains(glued));
                    let hint = glued.map(|glued| format!("a space is missing behind `{}`", &glued[..glued.len() - 1]));
                    found.push((format!("`{text}` is no media query and counts as `not all`"), hint));
                }
                Query::Typed { condition: Some(c), .. } | Query::Condition(c) => c.unknown(&mut found),
                Query::Typed { .. } => {}
            }
        }
        found
    }
}

/// A size at which something matches that changes at some limits only, and the range around it in words.
fn sizes(mut limits: Vec<f64>, matches: &dyn Fn(f64) -> bool) -> Option<(f64, String)> {
    limits.retain(|n| *n > 0.0 && n.is_finite());
    limits.sort_by(f64::total_cmp);
    limits.dedup();
    // Every limit, and one size between each two, below all, and above all.
    let mut sizes = vec![limits.first()? / 2.0];
    for (i, limit) in limits.iter().enumerate() {
        sizes.extend([*limit, limits.get(i + 1).map_or(limit * 2.0, |next| f64::midpoint(*limit, *next))]);
    }
    let start = sizes.iter().position(|px| matches(*px))?;
    let end = sizes[start..].iter().position(|px| !matches(*px)).map_or(sizes.len(), |n| start + n);
    let px = |i: usize| format!("{}px", crate::syntax::number_text(sizes[i]));
    // What stands at an odd place is a limit.
    let from = (start > 0).then(|| if start % 2 == 1 { (true, px(start)) } else { (false, px(start - 1)) });
    let to = (end < sizes.len()).then(|| if end % 2 == 0 { (true, px(end - 1)) } else { (false, px(end)) });
    let range = match (from, to) {
        (Some((true, a)), Some((true, b))) if a == b => a,
        (Some((true, a)), Some((true, b))) => format!("from {a} to {b}"),
        (from, to) => {
            let from = from.map(|(with, a)| format!("{} {a}", if with { "at least" } else { "more than" }));
            let to = to.map(|(with, b)| format!("{} {b}", if with { "at most" } else { "less than" }));
            [from, to].into_iter().flatten().collect::<Vec<_>>().join(" and ")
        }
    };
    let inside = sizes[start..end].iter().copied().find(|px| limits.contains(px)).unwrap_or(sizes[start]);
    (!range.is_empty()).then_some((inside, range))
}

impl Query {
    /// Whether the query takes a viewing; unknown counts as no (Media Queries 4, §3.1).
    fn matches(&self, viewing: &Viewing) -> bool {
        match self {
            Self::Bad(_) => false,
            Self::Condition(condition) => condition.holds(viewing) == Some(true),
            Self::Typed { not, medium, condition } => {
                let typed = match (&**medium, viewing.medium) {
                    ("all", _) | ("screen", Medium::Screen) | ("print", Medium::Print) => Some(true),
                    _ => Some(false),
                };
                let rest = condition.as_ref().map_or(Some(true), |c| c.holds(viewing));
                let both = match (typed, rest) {
                    (Some(false), _) | (_, Some(false)) => Some(false),
                    (Some(true), Some(true)) => Some(true),
                    _ => None,
                };
                both.map(|b| b != *not) == Some(true)
            }
        }
    }
}

impl Condition {
    /// Whether the condition holds; nothing for unknown.
    fn holds(&self, viewing: &Viewing) -> Option<bool> {
        match self {
            Self::Unknown(_) => None,
            Self::Not(inner) => inner.holds(viewing).map(|b| !b),
            Self::All(parts) => {
                let parts: Vec<_> = parts.iter().map(|p| p.holds(viewing)).collect();
                if parts.contains(&Some(false)) {
                    Some(false)
                } else {
                    parts.into_iter().collect::<Option<Vec<_>>>().map(|_| true)
                }
            }
            Self::Any(parts) => {
                let parts: Vec<_> = parts.iter().map(|p| p.holds(viewing)).collect();
                if parts.contains(&Some(true)) {
                    Some(true)
                } else {
                    parts.into_iter().collect::<Option<Vec<_>>>().map(|_| false)
                }
            }
            Self::Feature(name, tests) => {
                let have = have(name, viewing)?;
                if tests.is_empty() {
                    return Some(match have {
                        Have::Number(n) => n != 0.0,
                        Have::Keyword(_, on) => on,
                    });
                }
                tests
                    .iter()
                    .map(|(how, wanted)| compare(&have, *how, wanted, viewing))
                    .collect::<Option<Vec<_>>>()
                    .map(|all| all.into_iter().all(|b| b))
            }
        }
    }

    /// Collects the features that are compared with something.
    fn features(&self, found: &mut Vec<(String, Value)>) {
        match self {
            Self::Unknown(_) => {}
            Self::Not(inner) => inner.features(found),
            Self::All(parts) | Self::Any(parts) => parts.iter().for_each(|p| p.features(found)),
            Self::Feature(name, tests) => found.extend(tests.iter().map(|(_, v)| (name.clone(), v.clone()))),
        }
    }

    /// Collects what no standard knows.
    fn unknown(&self, found: &mut Vec<(String, Option<String>)>) {
        match self {
            Self::Unknown(text) => {
                found.push((format!("`{text}` is no known media condition and counts as unknown"), meant(text)));
            }
            Self::Not(inner) => inner.unknown(found),
            Self::All(parts) | Self::Any(parts) => parts.iter().for_each(|p| p.unknown(found)),
            Self::Feature(name, _) if NOT_SHIPPED.contains(&&**name) => {
                let message = format!("`{name}` is a media feature that browsers do not ship; it counts as unknown");
                found.push((message, None));
            }
            Self::Feature(name, _) if have(name, &Viewing::default()).is_none() => {
                found.push((format!("`{name}` is no known media feature and counts as unknown"), meant(name)));
            }
            Self::Feature(..) => {}
        }
    }
}

/// What was probably meant by a feature that there is none of, as it is written.
fn meant(text: &str) -> Option<String> {
    let name: &str = text.trim_start_matches('(').trim_start();
    let end = name.find(|c: char| !(c.is_ascii_alphanumeric() || c == '-')).unwrap_or(name.len());
    let name = name[..end].to_ascii_lowercase();
    if let Some(words) = keywords(&name) {
        let words: Vec<String> = words.iter().map(|word| format!("`{word}`")).collect();
        return Some(format!("`{name}` takes {}", words.join(" or ")));
    }
    let ends: Vec<String> =
        FEATURES.iter().filter(|f| is_range(f)).flat_map(|f| [format!("min-{f}"), format!("max-{f}")]).collect();
    let all = FEATURES.iter().copied().chain(ends.iter().map(String::as_str));
    crate::near::nearest(&name, all).map(|near| format!("did you mean `{near}`?"))
}

/// Compares what the viewing has with what is asked for.
fn compare(have: &Have, how: Comparison, wanted: &Value, viewing: &Viewing) -> Option<bool> {
    let context = || crate::value::Context { viewport: (viewing.width, viewing.height), ..Default::default() };
    match (have, wanted) {
        (Have::Number(_), Value::Relative(length)) => {
            let px = length.absolute(&context()).as_px()?;
            compare(have, how, &Value::Number(px, Measure::Length), viewing)
        }
        (Have::Number(have), Value::Number(wanted, _)) => Some(match how {
            Comparison::Equal => (have - wanted).abs() < 1e-6,
            Comparison::Less => have < wanted,
            Comparison::AtMost => *have <= wanted + 1e-9,
            Comparison::More => have > wanted,
            Comparison::AtLeast => *have >= wanted - 1e-9,
        }),
        (Have::Keyword(have, _), Value::Ident(wanted)) => Some(have == wanted),
        _ => None,
    }
}
