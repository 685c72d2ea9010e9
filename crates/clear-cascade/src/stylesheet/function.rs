//! `@function` (CSS Functions and Mixins 1, §2 "Defining Custom Functions").

use super::{media, supports};
use crate::document::Name;
use crate::property;
use crate::source::Span;
use crate::syntax::substitution;
use crate::syntax::{Kind, Slice};

/// A custom function.
#[derive(Debug)]
pub(crate) struct CustomFunction {
    /// Its name, with the two hyphens.
    pub(crate) name: Name,
    /// Where its head is written, at-keyword included.
    pub(crate) span: Span,
    /// What it takes, in order.
    pub(crate) parameters: Vec<Parameter>,
    /// The syntax that its result must have, where one is named.
    pub(crate) returns: Option<String>,
    /// What stands in its block.
    body: Vec<Part>,
}

/// Something that a custom function takes.
#[derive(Debug)]
pub(crate) struct Parameter {
    /// Its name, with the two hyphens.
    pub(crate) name: Name,
    /// The syntax that its value must have, where one is named.
    pub(crate) syntax: Option<String>,
    /// The tokens of the value that it has where nothing is given.
    pub(crate) default: Option<(u32, u32)>,
}

/// Something in the block of a custom function.
#[derive(Debug)]
enum Part {
    /// A declaration of `result` or of a custom property for use inside: its name and the tokens of its value.
    Declaration(Name, (u32, u32)),
    /// A group with what is inside.
    Group(Condition, Vec<Part>),
}

/// When a group of declarations counts.
#[derive(Debug)]
pub(crate) enum Condition {
    /// `@media`
    Media(media::MediaQueryList),
    /// `@supports`: whether it holds.
    Supports(bool),
    /// `@container`, which is not looked at.
    Undecided,
}

/// Text that was dropped, and why.
pub(super) type Dropped<'t> = Vec<(Slice<'t>, String)>;

impl CustomFunction {
    /// Reads what stands before and in the block.
    ///
    /// # Errors
    /// Where the rule as a whole is dropped: what is wrong with it.
    pub(super) fn parse<'t>(
        prelude: Slice<'t>,
        block: Slice<'t>,
        span: Span,
        dropped: &mut Dropped<'t>,
    ) -> Result<Self, String> {
        let mut rest = prelude;
        let head = rest;
        let name = rest.next().filter(|t| matches!(t.kind, Kind::Function(_))).map(|t| prelude.name(t).into_owned());
        let name = name.filter(|n| n.starts_with("--") && n.len() > 2).ok_or(
            "`@function` needs a name with two hyphens and parentheses right behind it, as `@function --twice(--length)`",
        )?;
        let list = head.inside().trim();
        let parameters = if list.is_empty() { Vec::new() } else { list.commas() };
        let parameters = parameters.into_iter().map(Parameter::parse).collect::<Result<_, _>>()?;
        let rest = rest.trim();
        let returns = if rest.is_empty() {
            None
        } else if rest.is_ident("returns") {
            Some(syntax_of(Slice { from: rest.from + 1, ..rest })?)
        } else {
            return Err(format!("only `returns` and a type can follow the parameters, not `{}`", rest.text()));
        };
        Ok(Self { name: Name::from(name), span, parameters, returns, body: body(block, dropped) })
    }

    /// The tokens of the value that counts for `result` or a custom property inside: of those whose conditions hold, the
    /// last.
    pub(crate) fn last(&self, name: &str, holds: &dyn Fn(&Condition) -> bool) -> Option<(u32, u32)> {
        last(&self.body, name, holds)
    }
}

/// The last declaration with a name.
fn last(parts: &[Part], name: &str, holds: &dyn Fn(&Condition) -> bool) -> Option<(u32, u32)> {
    parts.iter().rev().find_map(|part| match part {
        Part::Declaration(n, value) => (**n == *name).then_some(*value),
        Part::Group(condition, inside) => holds(condition).then(|| last(inside, name, holds)).flatten(),
    })
}

impl Parameter {
    /// Reads `--name <type>: default`.
    fn parse(slice: Slice<'_>) -> Result<Self, String> {
        let (head, default) = slice.trim().split_at(|t| t.kind == Kind::Colon);
        let head = head.trim();
        let name = head.peek().filter(|t| t.kind == Kind::Ident).map(|t| head.name(t).into_owned());
        let name = name.filter(|n| n.starts_with("--")).ok_or_else(|| {
            format!("a parameter of `@function` is a name with two hyphens, not `{}`", slice.trim().text())
        })?;
        let kind = Slice { from: head.from + 1, ..head }.trim();
        let syntax = if kind.is_empty() { None } else { Some(syntax_of(kind)?) };
        let default = (!default.is_empty()).then(|| Slice { from: default.from + 1, ..default }.trim());
        // A default must be of the type itself (CSS Functions and Mixins 1, §2.1).
        let fits = |syntax: &str, value: Slice<'_>| {
            crate::property::replaced::needed(value) == Ok(true)
                || syntax.trim() == "*"
                || property::match_syntax(syntax, value).is_some()
        };
        if let (Some(syntax), Some(value)) = (&syntax, default)
            && !fits(syntax, value)
        {
            return Err(format!("the default of `{name}`, `{}`, is no `{syntax}`", value.text()));
        }
        Ok(Self { name: Name::from(name), syntax, default: default.map(|d| (d.from, d.to)) })
    }
}

/// The syntax that a type names: `<length>`, or anything inside `type()`.
fn syntax_of(kind: Slice<'_>) -> Result<String, String> {
    let kind = kind.trim();
    let syntax = if kind.is_function("type") { kind.inside().trim().text() } else { kind.text() };
    if (syntax == "*" || syntax.starts_with('<') || kind.is_function("type")) && property::registered::is_syntax(syntax)
    {
        Ok(syntax.to_owned())
    } else {
        Err(format!("`{syntax}` is no type; a type is written as `<length>` or `type(<length> | auto)`"))
    }
}

/// Reads a block.
fn body<'t>(mut rest: Slice<'t>, dropped: &mut Dropped<'t>) -> Vec<Part> {
    let mut parts = Vec::new();
    while let Some(token) = rest.peek() {
        if matches!(token.kind, Kind::Space | Kind::Semicolon) {
            rest.from += 1;
            continue;
        }
        let begin = rest;
        if token.kind == Kind::AtKeyword {
            let (head, after) = rest.split_at(|t| matches!(t.kind, Kind::Curly(_) | Kind::Semicolon));
            rest = after;
            rest.next();
            let inside = after.inside();
            let prelude = Slice { from: head.from + 1, ..head }.trim();
            let condition = match &*begin.name(token).to_ascii_lowercase() {
                "media" => Condition::Media(media::parse(prelude)),
                "supports" => Condition::Supports(supports::holds(prelude)),
                "container" => {
                    dropped
                        .push((head, "`@container` inside `@function` is not looked at: it counts as off".to_owned()));
                    Condition::Undecided
                }
                other => {
                    dropped.push((head, format!("`@{other}` cannot stand inside `@function`; it is dropped")));
                    continue;
                }
            };
            parts.push(Part::Group(condition, body(inside, dropped)));
            continue;
        }
        let (one, after) = rest.split_at(|t| t.kind == Kind::Semicolon);
        rest = after;
        let (name, value) = one.trim().split_at(|t| t.kind == Kind::Colon);
        let name = name.trim();
        let value = Slice { from: (value.from + 1).min(value.to), ..value }.trim();
        let word = name.peek().filter(|t| t.kind == Kind::Ident && name.from + 1 == name.to).map(|t| name.name(t));
        let word = word.map(|w| if w.starts_with("--") { w.into_owned() } else { w.to_ascii_lowercase() });
        match word {
            Some(word) if word == "result" || word.starts_with("--") => match substitution::unfit(value) {
                None => parts.push(Part::Declaration(Name::from(word), (value.from, value.to))),
                Some(bad) => {
                    dropped
                        .push((bad, format!("this cannot stand in the value of `{word}`; the declaration is dropped")));
                }
            },
            _ => dropped.push((
                one.trim(),
                "inside `@function` there are only `result` and custom properties; this is dropped".to_owned(),
            )),
        }
    }
    parts
}
