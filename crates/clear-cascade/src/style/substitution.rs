//! `var()`, `env()`, `attr()`, `if()` and calls of custom functions: replaced before a value is read (CSS Variables 2, §3;
//! CSS Values 5, §6, §7 and §9; CSS Functions and Mixins 1, §2.5).

use super::Style;
use crate::document::Name;
use crate::limits::{DEEPEST_SUBSTITUTION, LONGEST_VALUE, MOST_CALLS, MOST_TESTS};
use crate::stylesheet::{Declaration, Stylesheet};
use crate::syntax::substitution::{Piece, is_replaced};
use crate::syntax::{Kind, Slice, Tokens, condition, separate, serialize_string};
use crate::value::{CustomText, CustomValue, Unit};

/// Why nothing can be put in.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Failure {
    /// Something has no value, and no fallback.
    Nothing,
    /// What is put in goes beyond a limit.
    CutOff(Limit),
    /// Something needs itself: a custom property, or a custom function that calls itself.
    Cycle,
}

/// What is put in goes beyond it.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Limit {
    /// [`LONGEST_VALUE`]
    Length,
    /// [`DEEPEST_SUBSTITUTION`]
    Depth,
    /// [`MOST_CALLS`]
    Calls,
}

impl std::fmt::Display for Limit {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        match self {
            Self::Length => write!(f, "grows beyond {LONGEST_VALUE} bytes"),
            Self::Depth => write!(f, "nests more than {DEEPEST_SUBSTITUTION} deep"),
            Self::Calls => write!(f, "makes more than {MOST_CALLS} calls"),
        }
    }
}

/// The calls of custom functions that one value makes.
#[derive(Debug, Default)]
pub(crate) struct Calls {
    /// The functions whose calls are being worked out, arguments included.
    open: Vec<Name>,
    /// How many calls there were.
    made: u32,
    /// How many tests of `if()` are inside each other.
    tests: u32,
    /// Whether some were left out for that.
    pub(super) tests_left_out: bool,
}

impl Calls {
    /// Runs a test of `if()` or of a query; nothing where too many are inside each other.
    pub(crate) fn testing<T>(&mut self, test: impl FnOnce(&mut Self) -> Option<T>) -> Option<T> {
        if self.tests >= MOST_TESTS {
            self.tests_left_out = true;
            return None;
        }
        self.tests += 1;
        let found = test(self);
        self.tests -= 1;
        found
    }
}

/// Where the replaced tokens come from.
pub(crate) trait Lookup {
    /// Whether a test in `if()` holds: `style()` or `media()`, the function first in the run; on the element, or on a style that
    /// stands for it.
    fn test(&mut self, function: Slice<'_>, on: Option<&Style>) -> Option<bool>;
    /// The value of a custom property; an error where it is guaranteed-invalid.
    fn custom(&mut self, name: &Name) -> Result<CustomValue, Failure>;
    /// What a call of a custom function comes to; an argument may come to nothing.
    fn call(&mut self, name: &str, arguments: &[Option<String>]) -> Result<String, Failure>;
    /// The calls of custom functions.
    fn calls(&mut self) -> &mut Calls;
    /// Whether what is worked out was found to need itself.
    fn needs_itself(&self) -> bool {
        false
    }
    /// The value of an attribute.
    fn attribute(&self, name: &str) -> Option<String>;
}

/// Replaces all that is to be replaced in the value of a declaration.
///
/// # Errors
/// Where that is impossible and there is no fallback.
pub(crate) fn substitute_in(
    declaration: &Declaration,
    sheet: &Stylesheet,
    lookup: &mut dyn Lookup,
) -> Result<Replaced, Failure> {
    let text = sheet.text_around(declaration);
    match declaration.pieces(sheet) {
        Some([Piece::Custom(name, fallback)]) => {
            let found = in_place_of(name, fallback.as_deref(), text, lookup)?;
            if found.len() > LONGEST_VALUE {
                return Err(Failure::CutOff(Limit::Length));
            }
            Ok(match found {
                Replaced::Made(text) if text.trim().len() < text.len() => Replaced::Made(text.trim().to_owned()),
                found => found,
            })
        }
        Some(pieces) => put_together(pieces, text, lookup).map(Replaced::Made),
        None => substitute(sheet.value(declaration), lookup).map(Replaced::Made),
    }
}

/// A text in which all is replaced.
pub(crate) enum Replaced {
    /// The value of a custom property.
    Whole(CustomValue),
    /// What was put together.
    Made(String),
}

impl std::ops::Deref for Replaced {
    type Target = str;

    fn deref(&self) -> &str {
        match self {
            Self::Whole(value) => &value.written,
            Self::Made(text) => text,
        }
    }
}

impl From<CustomValue> for Replaced {
    fn from(value: CustomValue) -> Self {
        Self::Whole(value)
    }
}

impl From<Replaced> for CustomValue {
    fn from(replaced: Replaced) -> Self {
        match replaced {
            Replaced::Whole(value) => value,
            Replaced::Made(text) => CustomText::new(&text),
        }
    }
}

/// What is put in for a custom property, or for what it falls back to, which is a part of the text.
fn in_place_of(
    name: &Name,
    fallback: Option<&[Piece]>,
    text: &str,
    lookup: &mut dyn Lookup,
) -> Result<Replaced, Failure> {
    match (lookup.custom(name), fallback) {
        (Ok(value), _) => Ok(Replaced::Whole(value)),
        (Err(failure @ Failure::CutOff(_)), None) => Err(failure),
        // What needs itself is invalid, whatever it would fall back to.
        (Err(_), _) if lookup.needs_itself() => Err(Failure::Cycle),
        (Err(_), None) => Err(Failure::Nothing),
        (Err(_), Some(fallback)) => put_together(fallback, text, lookup).map(Replaced::Made),
    }
}

/// What [`write()`] does for a value that is taken apart.
fn put_together(pieces: &[Piece], text: &str, lookup: &mut dyn Lookup) -> Result<String, Failure> {
    // Room for what mostly comes of it, so that it need not be moved.
    let (mut out, mut failed) = (String::with_capacity(128), None);
    for piece in pieces {
        match piece {
            Piece::Text(from, to) => {
                let text = &text[*from as usize..*to as usize];
                separate(&mut out, text);
                out.push_str(text);
            }
            Piece::Custom(name, fallback) => {
                let found = in_place_of(name, fallback.as_deref(), text, lookup);
                if let Some(text) = going_on(found, &mut failed)? {
                    separate(&mut out, &text);
                    out.push_str(text.trim());
                }
            }
        }
        if out.len() > LONGEST_VALUE {
            return Err(Failure::CutOff(Limit::Length));
        }
    }
    failed.map_or(Ok(out), Err)
}

/// Replaces all that is to be replaced.
///
/// # Errors
/// Where that is impossible and there is no fallback.
pub(crate) fn substitute(slice: Slice<'_>, lookup: &mut dyn Lookup) -> Result<String, Failure> {
    let mut out = String::new();
    write(slice, lookup, &mut out, 0)?;
    Ok(out)
}

/// Writes a run with its functions replaced. Where one comes to nothing, the others are looked at all the same: what needs itself
/// there is invalid, too (CSS Variables 2, §2.3).
fn write(slice: Slice<'_>, lookup: &mut dyn Lookup, out: &mut String, depth: u32) -> Result<(), Failure> {
    if depth > DEEPEST_SUBSTITUTION {
        return Err(Failure::CutOff(Limit::Depth));
    }
    let mut rest = slice;
    let mut failed = None;
    while let Some(token) = rest.peek() {
        let here = rest;
        rest.next();
        let whole = Slice { to: rest.from, ..here };
        match token.kind {
            Kind::Function(_) => {
                let name = here.name(token).to_ascii_lowercase();
                if is_replaced(&name) {
                    let inside = here.inside().trim();
                    let text = if name.starts_with("--") {
                        called(&here.name(token), inside, lookup, depth).map(Replaced::Made)
                    } else {
                        replaced(&name, inside, lookup, depth)
                    };
                    if let Some(text) = going_on(text, &mut failed)? {
                        separate(out, &text);
                        out.push_str(text.trim());
                    }
                } else {
                    going_on(block(whole, lookup, out, depth), &mut failed)?;
                }
            }
            Kind::Paren(_) | Kind::Square(_) | Kind::Curly(_) => {
                going_on(block(whole, lookup, out, depth), &mut failed)?;
            }
            _ => {
                let text = whole.text();
                separate(out, text);
                out.push_str(text);
            }
        }
        if out.len() > LONGEST_VALUE {
            return Err(Failure::CutOff(Limit::Length));
        }
    }
    failed.map_or(Ok(()), Err)
}

/// What something came to, where it came to anything; otherwise the first failure is kept. What is cut off ends it all.
fn going_on<T>(found: Result<T, Failure>, failed: &mut Option<Failure>) -> Result<Option<T>, Failure> {
    match found {
        Ok(found) => Ok(Some(found)),
        Err(failure @ Failure::CutOff(_)) => Err(failure),
        Err(failure) => {
            failed.get_or_insert(failure);
            Ok(None)
        }
    }
}

/// Writes a block with the functions inside replaced.
fn block(whole: Slice<'_>, lookup: &mut dyn Lookup, out: &mut String, depth: u32) -> Result<(), Failure> {
    let inside = whole.inside();
    let open = Slice { to: whole.from + 1, ..whole }.text();
    separate(out, open);
    out.push_str(open);
    write(inside, lookup, out, depth + 1)?;
    out.push(match open.chars().last() {
        Some('[') => ']',
        Some('{') => '}',
        _ => ')',
    });
    Ok(())
}

/// What one function stands for.
fn replaced(name: &str, inside: Slice<'_>, lookup: &mut dyn Lookup, depth: u32) -> Result<Replaced, Failure> {
    if name == "if" {
        return branch(inside, lookup, depth).map(Replaced::Made);
    }
    let (head, rest) = inside.split_at(|t| t.kind == Kind::Comma);
    let fallback = (!rest.is_empty()).then(|| Slice { from: rest.from + 1, ..rest });
    let head = head.trim();
    let first = head.peek().ok_or(Failure::Nothing)?;
    let found = match name {
        "var" => match lookup.custom(&Name::from(head.name(first))) {
            Err(failure @ Failure::CutOff(_)) if fallback.is_none() => return Err(failure),
            // What needs itself is invalid, whatever it would fall back to.
            Err(_) if lookup.needs_itself() => return Err(Failure::Cycle),
            found => found.ok().map(Replaced::Whole),
        },
        "env" => {
            environment(&head.name(first)).filter(|_| head.from + 1 == head.to).map(|text| Replaced::Made(text.into()))
        }
        _ => attribute(head, lookup).map(Replaced::Made),
    };
    match (found, fallback) {
        (Some(text), _) => Ok(text),
        (None, Some(fallback)) => {
            let mut out = String::new();
            write(fallback.trim(), lookup, &mut out, depth + 1)?;
            Ok(Replaced::Made(out))
        }
        // Without a fallback an attribute that is missing is an empty string, where a string is asked for.
        (None, None) if name == "attr" && head.from + 1 == head.to => Ok(Replaced::Made("\"\"".to_owned())),
        (None, None) => Err(Failure::Nothing),
    }
}

/// What a call of a custom function comes to. One inside another of the same, arguments included, is a cycle.
fn called(name: &str, inside: Slice<'_>, lookup: &mut dyn Lookup, depth: u32) -> Result<String, Failure> {
    let key = Name::from(name);
    let calls = lookup.calls();
    if calls.open.contains(&key) {
        return Err(Failure::Cycle);
    }
    calls.made += 1;
    if calls.made > MOST_CALLS {
        return Err(Failure::CutOff(Limit::Calls));
    }
    calls.open.push(key);
    let written = if inside.is_empty() { Vec::new() } else { inside.commas() };
    let arguments = written.into_iter().map(|argument| {
        let mut argument = argument.trim();
        if matches!(argument.kind(), Some(Kind::Curly(_))) {
            argument = argument.inside().trim();
        }
        let mut out = String::new();
        match write(argument, lookup, &mut out, depth + 1) {
            Ok(()) => Ok(Some(out)),
            Err(Failure::Nothing) => Ok(None),
            Err(failure) => Err(failure),
        }
    });
    let arguments: Result<Vec<_>, _> = arguments.collect();
    let found = arguments.and_then(|arguments| lookup.call(name, &arguments));
    lookup.calls().open.pop();
    found
}

/// What the branch of `if()` comes to that is taken; none of them is nothing at all (CSS Values 5, §6.2).
fn branch(inside: Slice<'_>, lookup: &mut dyn Lookup, depth: u32) -> Result<String, Failure> {
    let (_, value) = chosen(inside, lookup).ok_or(Failure::Nothing)?;
    let mut out = String::new();
    write(value, lookup, &mut out, depth + 1)?;
    Ok(out)
}

/// The condition and the value of the first branch of `if()` whose condition holds.
pub(crate) fn chosen<'t>(inside: Slice<'t>, lookup: &mut dyn Lookup) -> Option<(Slice<'t>, Slice<'t>)> {
    branches(inside).find(|(condition, _)| {
        let mut test = |test: Slice<'_>| {
            if test.is_function("supports") {
                return Some(Some(crate::stylesheet::supports::holds_import(test.inside())));
            }
            Some(lookup.test(test, None))
        };
        is_else(*condition) || condition::evaluate(*condition, &mut test).flatten() == Some(true)
    })
}

/// The branches of an `if()`, each with its condition and its value.
pub(crate) fn branches(inside: Slice<'_>) -> impl Iterator<Item = (Slice<'_>, Slice<'_>)> {
    let mut rest = inside;
    let parts = std::iter::from_fn(move || {
        let (one, after) = (!rest.is_empty()).then(|| rest.split_at(|t| t.kind == Kind::Semicolon))?;
        rest = Slice { from: (after.from + 1).min(after.to), ..after };
        Some(one.trim().split_at(|t| t.kind == Kind::Colon))
    });
    let with_value = parts.filter(|(_, value)| !value.is_empty());
    with_value.map(|(condition, value)| (condition.trim(), Slice { from: value.from + 1, ..value }.trim()))
}

/// Whether a condition of `if()` is `else`.
pub(crate) fn is_else(condition: Slice<'_>) -> bool {
    condition.is_ident("else") && condition.from + 1 == condition.to
}

/// Environment variables that a window on a desktop has (CSS Environment Variables 1, §2).
pub(crate) fn environment(name: &str) -> Option<&'static str> {
    let known = matches!(
        name,
        "safe-area-inset-top"
            | "safe-area-inset-right"
            | "safe-area-inset-bottom"
            | "safe-area-inset-left"
            | "safe-area-max-inset-bottom"
            | "keyboard-inset-top"
            | "keyboard-inset-right"
            | "keyboard-inset-bottom"
            | "keyboard-inset-left"
            | "keyboard-inset-width"
            | "keyboard-inset-height"
    );
    // Nobody has asked for larger text.
    if name == "preferred-text-scale" { Some("1") } else { known.then_some("0px") }
}

/// `attr(name type?)`
fn attribute(head: Slice<'_>, lookup: &dyn Lookup) -> Option<String> {
    let token = head.peek().filter(|t| t.kind == Kind::Ident)?;
    let value = lookup.attribute(&head.name(token))?;
    let kind = Slice { from: head.from + 1, ..head }.trim();
    if kind.is_empty() || kind.is_ident("raw-string") {
        return Some(serialize_string(&value));
    }
    let tokens = Tokens::read(value.trim());
    if kind.is_ident("number") {
        return crate::property::match_syntax("<number>", tokens.all()).map(|v| v.text());
    }
    if kind.is_function("type") {
        let inside = kind.inside().trim();
        let fits = inside.text() == "*" || crate::property::match_syntax(inside.text(), tokens.all()).is_some();
        return fits.then(|| value.trim().to_owned());
    }
    // A unit: the value is a number of it.
    let unit = match kind.kind()? {
        Kind::Delim('%') => "%".to_owned(),
        Kind::Ident => kind.ident().filter(|u| Unit::named(u).is_some())?,
        _ => return None,
    };
    crate::property::match_syntax("<number>", tokens.all()).map(|v| format!("{}{unit}", v.text()))
}
