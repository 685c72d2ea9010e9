//! What is put in for `var()`, `attr()`, `env()`, `if()` and calls of custom functions, and where it comes from.

use crate::answer::asked::About;
use crate::document::Name;
use crate::limits::{DEEPEST_CONDITION, MOST_TESTS};
use crate::style::substitution::{Failure, Limit, branches, environment, is_else};
use crate::style::{Style, Wanted, chosen_branch, substituted_slice, substituted_text};
use crate::stylesheet::function::CustomFunction;
use crate::syntax::{Kind, Slice, Tokens, condition};

/// How many variables of a value are followed at the most.
const MOST_VARIABLES: usize = 16;

/// Where each `var()` in a value gets its text from, and what stands behind that in turn.
pub(super) fn variables(subject: &About<'_>, value: Slice<'_>, steps: &mut Vec<String>) {
    let study = subject.study;
    let style = study.style_of(subject.element, subject.pseudo);
    let mut open = named_in(value);
    let mut seen: Vec<String> = Vec::new();
    while let Some((name, falls_back)) = open.pop().filter(|_| seen.len() < MOST_VARIABLES) {
        if seen.contains(&name) {
            continue;
        }
        seen.push(name.clone());
        let setter = setter_of(subject, &name);
        if let Some(setter) = &setter {
            open.extend(named_in(setter.value));
        }
        let known = style.custom.get(&Name::from(name.as_str())).map(|v| v.shown()).filter(|v| !v.is_empty());
        steps.push(match (known, setter) {
            (Some(value), Some(setter)) => {
                format!("`var({name})` is `{}` (set by {})", crate::text::shorten(value, 80), setter.by)
            }
            (Some(value), None) => {
                format!(
                    "`var({name})` is `{}`, the initial value that `@property` gives it",
                    crate::text::shorten(value, 80)
                )
            }
            (None, setter) => {
                let then = if falls_back { ", so its fallback is taken" } else { "" };
                let why = match setter {
                    None => format!("nobody sets `{name}` on this element or further out"),
                    Some(Setter { by, cut_off: Some(limit), .. }) => {
                        format!("what is put into what is declared for it by {by} {limit} and was cut off")
                    }
                    Some(Setter { by, .. }) => format!("what is declared for it by {by} comes to nothing"),
                };
                format!("`var({name})` has no value here: {why}{then}")
            }
        });
    }
    if let Some((name, _)) = open.pop().filter(|(name, _)| !seen.contains(name)) {
        steps.push(format!("`var({name})` and what is behind it is left out here: ask for `{name}` to see it"));
    }
}

/// Whether a value has functions, other than `var()`, that stand for something to put in.
pub(super) fn has_calls(value: Slice<'_>) -> bool {
    (value.from..value.to).any(|i| called(Slice { from: i, ..value }).is_some())
}

/// The function at the beginning of a run that stands for something to put in, but `var()`: those of the standard in lower
/// case.
fn called(here: Slice<'_>) -> Option<String> {
    let token = here.peek().filter(|t| matches!(t.kind, Kind::Function(_)))?;
    let name = here.name(token);
    let lower = name.to_ascii_lowercase();
    if matches!(&*lower, "attr" | "env" | "if") { Some(lower) } else { Some(name.into_owned()) }
        .filter(|n| n.starts_with("--") || matches!(&**n, "attr" | "env" | "if"))
}

/// What each of these functions in a value comes to, and why.
pub(super) fn calls(subject: &About<'_>, value: Slice<'_>, style: &Style, steps: &mut Vec<String>) {
    let mut i = value.from;
    while i < value.to {
        let here = Slice { from: i, ..value };
        let Some(name) = called(here) else {
            i += 1;
            continue;
        };
        let mut after = here;
        after.next();
        let call = Slice { to: after.from, ..here };
        i = after.from;
        let (result, why) = match &*name {
            "attr" => attribute(subject, call, style),
            "env" => environment_variable(subject, call, style),
            "if" => branch(subject, call, style),
            _ => function(subject, &name, call, style),
        };
        steps.push(format!("`{}` {result}{why}", crate::text::shorten(call.text(), 80)));
    }
}

/// What a run comes to, in words.
fn comes_to(found: Result<String, Failure>) -> String {
    match found {
        Ok(text) => format!("is `{}`", crate::text::shorten(&text, 80)),
        Err(Failure::CutOff(limit)) => format!("{limit} and was cut off"),
        Err(Failure::Nothing | Failure::Cycle) => "comes to nothing".to_owned(),
    }
}

/// What an `attr()` comes to, and where the attribute is.
fn attribute(subject: &About<'_>, call: Slice<'_>, style: &Style) -> (String, String) {
    let study = subject.study;
    let element = study.page.document.node(subject.element);
    let head = call.inside().trim();
    let name = head.ident().unwrap_or_default();
    let result = comes_to(substituted_slice(&subject.computed(), call, style));
    let without = head.split_at(|t| t.kind == Kind::Comma).0;
    let fallback = if without.to < head.to { ", so its fallback is taken" } else { "" };
    let why = match element.attribute_entry(&name) {
        None => format!(": `{}` has no attribute `{name}`{fallback}", study.page.document.label(subject.element)),
        Some(attribute) => {
            let written = crate::text::shorten(&attribute.value, 40);
            let place = study.sources.placed(attribute.value_span);
            let without = Tokens::read(&format!("attr({})", without.text()));
            match substituted_slice(&subject.computed(), without.all(), style).is_ok() {
                true => format!(": the attribute `{name}` in {place}"),
                false => format!(": the attribute `{name}` in {place} is `{written}`, which does not fit{fallback}"),
            }
        }
    };
    (result, why)
}

/// What an `env()` comes to, and whether browsers have such a variable.
fn environment_variable(subject: &About<'_>, call: Slice<'_>, style: &Style) -> (String, String) {
    let head = call.inside().trim();
    let name = head.ident().unwrap_or_default();
    let fallback = !head.split_at(|t| t.kind == Kind::Comma).1.is_empty();
    let why = match (environment(&name.to_ascii_lowercase()), fallback) {
        (Some(_), _) => ", as in a window on a desktop".to_owned(),
        (None, true) => format!(": browsers have no `{name}`, so its fallback is taken"),
        (None, false) => format!(": browsers have no `{name}`"),
    };
    (comes_to(substituted_slice(&subject.computed(), call, style)), why)
}

/// What an `if()` comes to, and which condition decides.
fn branch(subject: &About<'_>, call: Slice<'_>, style: &Style) -> (String, String) {
    let inside = call.inside().trim();
    let (chosen, tests_left_out) = chosen_branch(&subject.computed(), inside, style);
    let too_deep = branches(inside).any(|(condition, _)| condition::is_too_deep(condition));
    let beyond = match (too_deep, tests_left_out) {
        (true, _) => format!("; they nest more than {DEEPEST_CONDITION} deep, and what is inside counts as unknown"),
        (false, true) => format!("; of tests inside each other, more than {MOST_TESTS} count as unknown"),
        (false, false) => String::new(),
    };
    let why = match chosen {
        Some((condition, _)) if is_else(condition) => format!(": no condition before `else` holds{beyond}"),
        Some((condition, _)) => format!(": `{}` holds", crate::text::shorten(condition.text(), 80)),
        None => format!(": none of its conditions holds{beyond}"),
    };
    (comes_to(substituted_slice(&subject.computed(), call, style)), why)
}

/// What a call of a custom function comes to, and where the function is.
fn function(subject: &About<'_>, name: &str, call: Slice<'_>, style: &Style) -> (String, String) {
    let study = subject.study;
    let Some((function, _)) = study.page.function(name) else {
        let near = crate::near::nearest(name, study.page.functions.keys().map(String::as_str));
        let hint = near.map_or_else(String::new, |n| format!("; did you mean `{n}()`?"));
        return ("comes to nothing".to_owned(), format!(": there is no `@function {name}()`{hint}"));
    };
    let found = substituted_slice(&subject.computed(), call, style);
    let reason = match &found {
        Err(Failure::Cycle) => format!(": `{name}()` is called while it is worked out"),
        Err(Failure::Nothing) => format!(": {}", misfit(subject, function, call, style)),
        _ => String::new(),
    };
    (comes_to(found), format!("{reason} (`@function` in {})", study.sources.placed(function.span)))
}

/// Why a call of a custom function comes to nothing.
fn misfit(subject: &About<'_>, function: &CustomFunction, call: Slice<'_>, style: &Style) -> String {
    let name = &function.name;
    let inside = call.inside().trim();
    let given = if inside.is_empty() { Vec::new() } else { inside.commas() };
    let least = function.parameters.iter().rposition(|p| p.default.is_none()).map_or(0, |p| p + 1);
    let most = function.parameters.len();
    if !(least..=most).contains(&given.len()) {
        let takes = if least == most { most.to_string() } else { format!("{least} to {most}") };
        let s = if most == 1 { "" } else { "s" };
        return format!("`{name}()` takes {takes} argument{s} and is given {}", given.len());
    }
    for (argument, parameter) in given.into_iter().zip(&function.parameters) {
        let Some(syntax) = &parameter.syntax else { continue };
        let text = substituted_slice(&subject.computed(), argument.trim(), style).unwrap_or_default();
        if crate::property::match_syntax(syntax, Tokens::read(&text).all()).is_none() {
            return format!("`{}` is of type `{syntax}`, and `{text}` is not", parameter.name);
        }
    }
    let typed = function.returns.as_ref().map_or_else(String::new, |r| format!(" of type `{r}`"));
    format!("`{name}()` has no `result`{typed} for this")
}

/// The custom properties that a value asks for, the last first, each with whether a fallback is written.
fn named_in(value: Slice<'_>) -> Vec<(String, bool)> {
    let mut found = Vec::new();
    for i in (value.from..value.to).rev() {
        let here = Slice { from: i, ..value };
        let inside = here.inside().trim();
        if here.is_function("var")
            && let Some(token) = inside.peek().filter(|t| t.kind == Kind::Ident)
        {
            let falls_back = !inside.split_at(|t| t.kind == Kind::Comma).1.is_empty();
            found.push((inside.name(token).into_owned(), falls_back));
        }
    }
    found
}

/// What sets a custom property.
struct Setter<'s> {
    /// What is declared.
    value: Slice<'s>,
    /// The limit that what it puts in goes beyond.
    cut_off: Option<Limit>,
    /// The selector and its place.
    by: String,
}

/// What sets a custom property on an element, or on the nearest one further out.
fn setter_of<'s>(subject: &About<'s>, name: &str) -> Option<Setter<'s>> {
    let study = subject.study;
    let outwards = study.page.document.flat_lineage(subject.element).map(|e| (e, None));
    let own = subject.pseudo.map(|p| (subject.element, Some(p)));
    let name = Name::from(name);
    own.into_iter().chain(outwards).find_map(|(element, pseudo)| {
        let known = if pseudo.is_none() { study.known_strongest(element) } else { None };
        if known.is_some_and(|strongest| strongest.custom(&name).is_none()) {
            return None;
        }
        let (_, entries) = study.entries_wanted(element, pseudo, Wanted::Customs(&|other| *other == name));
        let winner = entries.last()?;
        let style = study.style_of(element, pseudo);
        let text = substituted_text(&study.subject(element, pseudo), winner, &style);
        let place = study.sources.placed(winner.declaration.span);
        let selector = study.declared_in(winner);
        Some(Setter {
            value: study.page.sheets[winner.sheet() as usize].sheet.value(winner.declaration),
            cut_off: if let Err(Failure::CutOff(limit)) = text { Some(limit) } else { None },
            by: format!("{selector} in {place}"),
        })
    })
}
