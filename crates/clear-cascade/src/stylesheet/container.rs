//! `@container` (CSS Conditional 5, §5 "Container Queries").
//!
//! Style queries are decided by the styles of containers; sizes and scrolling need layout, which is not done here, and
//! are unknown.

use super::media;
use crate::document::Name;
use crate::property::PropertyId;
use crate::syntax::{Kind, Slice, Tokens, condition};
use crate::value::math_functions;

/// What a container rule asks: one of several queries.
#[derive(Clone, Debug)]
pub(crate) struct Queries {
    /// As written.
    pub(crate) text: String,
    /// The queries between commas; none where something is no query.
    pub(crate) list: Vec<Query>,
}

impl Queries {
    /// Why none of them is ever true, where that is so, as a clause.
    pub(crate) fn fault(&self) -> Option<&'static str> {
        if self.list.is_empty() {
            return Some("that is no container query");
        }
        let unknown = self.list.iter().all(|query| query.needs.is_none());
        unknown.then_some("the query asks for something that no standard knows, and then no container is asked")
    }

    /// Whether one of them can be decided without layout.
    pub(crate) fn ask_for_styles(&self) -> bool {
        self.list.iter().any(Query::asks_for_styles)
    }
}

/// One query of a container.
#[derive(Clone, Debug)]
pub(crate) struct Query {
    /// The container's name, where one is asked for.
    pub(crate) name: Option<Name>,
    /// The condition; empty where only a name is asked for.
    pub(crate) condition: Tokens,
    /// What a container must have to be asked; nothing where no container can be, because something is not known.
    pub(crate) needs: Option<Needs>,
}

/// What a container must have so that it can be asked (CSS Conditional 5, §5.1 "Container Features").
#[derive(Clone, Copy, Debug, Default)]
pub(crate) struct Needs {
    /// A width, a height, an extent along its lines, one across them.
    pub(crate) sizes: [bool; 4],
    /// Whether it is to be scrolled.
    pub(crate) scroll: bool,
}

impl Query {
    /// Whether it can be decided without layout: it asks for styles, or for a name only.
    fn asks_for_styles(&self) -> bool {
        let all = self.condition.all();
        all.trim().is_empty() || (all.from..all.to).any(|i| Slice { from: i, ..all }.is_function("style"))
    }
}

/// Reads the prelude of `@container`.
pub(crate) fn parse(prelude: Slice<'_>) -> Queries {
    let list: Option<Vec<Query>> = prelude.commas().into_iter().map(query).collect();
    Queries { text: prelude.text().to_owned(), list: list.unwrap_or_default() }
}

/// Names that no container has (CSS Conditional 5, §5.2 "container-name").
const NO_NAMES: &[&str] =
    &["none", "and", "or", "not", "inherit", "initial", "unset", "revert", "revert-layer", "revert-rule", "default"];

/// Reads one query; nothing for what is none.
fn query(prelude: Slice<'_>) -> Option<Query> {
    let mut rest = prelude.trim();
    let named = rest.peek().filter(|t| t.kind == Kind::Ident && !rest.is_ident("not"));
    let name = named.map(|t| Name::from(&*rest.name(t)));
    if name.is_some() {
        rest.next();
    }
    let condition = rest.trim();
    let needs = match &name {
        Some(name) if NO_NAMES.contains(&&*name.to_ascii_lowercase()) => return None,
        Some(_) if condition.is_empty() => Some(Needs::default()),
        _ => needs(condition)?,
    };
    Some(Query { name, condition: Tokens::read(condition.text()), needs })
}

/// What a condition needs, if all that is in it is known; nothing where it is none.
fn needs(asked: Slice<'_>) -> Option<Option<Needs>> {
    let mut needs = Needs::default();
    let known = all_known(asked, &mut |part| needs.take(part).is_some())?;
    Some(known.then_some(needs))
}

/// Whether all that is asked in a condition is known; nothing where it is none. What begins with a calculation is no function
/// that asks, but a side of a comparison.
fn all_known(asked: Slice<'_>, is_known: &mut dyn FnMut(Slice<'_>) -> bool) -> Option<bool> {
    let mut known = true;
    condition::evaluate(asked, &mut |part| {
        if part.is_lone_function() && math_functions().any(|name| part.is_function(name)) {
            return None;
        }
        known &= is_known(part);
        Some(None)
    })?;
    Some(known)
}

impl Needs {
    /// Takes a feature in; nothing where it is not known.
    fn take(&mut self, part: Slice<'_>) -> Option<()> {
        if !part.is_lone_function() {
            match &*media::size_feature(part)? {
                "width" => self.sizes[0] = true,
                "height" => self.sizes[1] = true,
                "inline-size" => self.sizes[2] = true,
                "block-size" => self.sizes[3] = true,
                _ => self.sizes = [true; 4],
            }
            return Some(());
        }
        let mut is_known: fn(Slice<'_>) -> bool = is_style;
        if part.is_function("scroll-state") {
            self.scroll = true;
            is_known = is_scroll_state;
        } else if !part.is_function("style") {
            return None;
        }
        let inside = part.inside().trim();
        all_known(inside, &mut |part| is_known(part)).unwrap_or_else(|| is_known(inside)).then_some(())
    }
}

/// Whether there is such a style feature: a property that there is, alone or with a value, or a comparison.
fn is_style(part: Slice<'_>) -> bool {
    let (name, value) = part.split_at(|t| t.kind == Kind::Colon);
    if value.is_empty() && part.from + 1 != part.to {
        let (first, rest) = part.split_at(|t| matches!(t.kind, Kind::Delim('<' | '>' | '=')));
        return !first.trim().is_empty() && !rest.is_empty();
    }
    let name = name.trim();
    let is_there = |name: &str| match name.strip_prefix("--") {
        Some(rest) => !rest.is_empty(),
        None => PropertyId::named(&name.to_ascii_lowercase()).is_some(),
    };
    name.from + 1 == name.to && name.peek().is_some_and(|t| t.kind == Kind::Ident && is_there(&name.name(t)))
}

/// Whether there is such a feature of scrolling (CSS Conditional 5, §6.4 "Scroll State Container Features").
fn is_scroll_state(part: Slice<'_>) -> bool {
    let (name, value) = part.split_at(|t| t.kind == Kind::Colon);
    let alone = value.is_empty();
    let value = Slice { from: value.from + u32::from(!alone), ..value }.lone_ident();
    let is = |words: &[&str]| alone || value.is_some_and(|value| words.contains(&&*value));
    const SIDES: &[&str] = &[
        "none",
        "top",
        "right",
        "bottom",
        "left",
        "block-start",
        "inline-start",
        "block-end",
        "inline-end",
        "x",
        "y",
        "block",
        "inline",
    ];
    match name.lone_ident().as_deref() {
        Some("stuck") => is(&SIDES[..9]),
        Some("snapped") => is(&["none", "x", "y", "block", "inline", "both"]),
        Some("scrollable" | "scrolled") => is(SIDES),
        _ => false,
    }
}
