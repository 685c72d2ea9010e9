//! Whether functions that stand for tokens to be put in are well formed (CSS Variables 2, §3; CSS Values 5, §6, §7 and §9; CSS
//! Functions and Mixins 1, §2.5).

use super::registered;
use crate::syntax::condition;
use crate::syntax::substitution;
use crate::syntax::{Kind, Slice};

/// Whether a value has something to replace.
///
/// # Errors
/// Where such a function is broken, which makes the declaration invalid: what is wrong, and where in the text.
pub(crate) fn needed(slice: Slice<'_>) -> Result<bool, (String, (u32, u32))> {
    let mut found = false;
    for i in slice.from..slice.to {
        let here = Slice { from: i, ..slice };
        let Some(token) = here.peek().filter(|t| matches!(t.kind, Kind::Function(_))) else {
            continue;
        };
        let name = here.name(token);
        if !substitution::is_replaced(&name) {
            continue;
        }
        found = true;
        let is = |function: &str| name.eq_ignore_ascii_case(function);
        let arguments = here.inside().trim();
        if name.starts_with("--") && !arguments.is_empty() {
            let lacks = |a: &Slice<'_>| {
                let a = a.trim();
                a.is_empty() || (matches!(a.kind(), Some(Kind::Curly(_))) && a.inside().trim().is_empty())
            };
            if arguments.commas().iter().any(lacks) {
                return Err((format!("an argument of `{}()` is empty", here.name(token)), here.inside().range()));
            }
        }
        if is("env") && !names_environment(arguments) {
            let message = "`env()` takes a name, whole numbers from 0 on, and a fallback after a comma".to_owned();
            return Err((message, here.inside().range()));
        }
        if is("attr") && !names_attribute(arguments) {
            let message = "`attr()` takes the name of an attribute, a unit, `%`, `number`, `raw-string` or `type()` with a \
                           syntax, and a fallback after a comma";
            return Err((message.to_owned(), here.inside().range()));
        }
        if is("if") && !has_branches(arguments) {
            let message = "`if()` takes conditions and values, as in `if(style(--a: b): 1px; else: 2px)`".to_owned();
            return Err((message, here.inside().range()));
        }
        if is("var") {
            let inside = here.inside().trim();
            let name = inside.peek().filter(|t| t.kind == Kind::Ident).map(|t| inside.name(t));
            let custom = name.is_some_and(|n| n.starts_with("--") && n.len() > 2);
            let rest = Slice { from: (inside.from + 1).min(inside.to), ..inside }.trim();
            if !custom || !(rest.is_empty() || rest.kind() == Some(Kind::Comma)) {
                let mut whole = here;
                whole.next();
                let range = Slice { to: whole.from, ..here }.range();
                return Err((
                    "`var()` takes the name of a custom property, with two hyphens, and a fallback after a comma"
                        .to_owned(),
                    range,
                ));
            }
        }
    }
    match substitution::unfit(slice).filter(|_| found) {
        Some(bad) => {
            let what = match bad.kind() {
                Some(Kind::Close(..)) => format!("this `{}` closes nothing", bad.text()),
                _ => "this cannot stand in a value".to_owned(),
            };
            Err((what + "; the declaration is dropped", bad.range()))
        }
        None => Ok(found),
    }
}

/// Whether the inside of an `env()` is a name, whole numbers and perhaps a fallback (CSS Environment Variables 1, §3).
fn names_environment(inside: Slice<'_>) -> bool {
    let (head, _) = inside.split_at(|t| t.kind == Kind::Comma);
    let head = head.trim();
    let numbers = Slice { from: (head.from + 1).min(head.to), ..head };
    let fits = |i: u32| match numbers.tokens.list[i as usize].kind {
        Kind::Space => true,
        Kind::Number(n, whole) => whole && n >= 0.0,
        _ => false,
    };
    head.kind() == Some(Kind::Ident) && (numbers.from..numbers.to).all(fits)
}

/// Whether the inside of an `attr()` is a name, perhaps what its text is read as, and perhaps a fallback (CSS Values 5, §7.7): names
/// are without a namespace, and no text becomes a URL, as in browsers.
fn names_attribute(inside: Slice<'_>) -> bool {
    let (head, _) = inside.split_at(|t| t.kind == Kind::Comma);
    let head = head.trim();
    let kind = Slice { from: (head.from + 1).min(head.to), ..head }.trim();
    let mut after = kind;
    after.next();
    let fits = match kind.kind() {
        None | Some(Kind::Ident | Kind::Delim('%')) => true,
        Some(Kind::Function(_)) if kind.is_function("type") => {
            let syntax = kind.inside().text();
            registered::is_syntax(syntax) && !syntax.contains("<url>")
        }
        _ => false,
    };
    head.kind() == Some(Kind::Ident) && fits && after.is_empty()
}

/// Whether the inside of an `if()` is made of branches, each a condition, a colon and a value (CSS Values 5, §6.2).
fn has_branches(inside: Slice<'_>) -> bool {
    let mut rest = inside;
    while !rest.is_empty() {
        let (one, after) = rest.split_at(|t| t.kind == Kind::Semicolon);
        let (condition, value) = one.split_at(|t| t.kind == Kind::Colon);
        let condition = condition.trim();
        // Which tests hold does not matter here: those that nobody knows are conditions, too.
        let sound = condition.lone_ident().is_some_and(|word| word == "else")
            || condition::evaluate(condition, &mut |_| Some(None)).is_some();
        if !sound || value.is_empty() {
            return false;
        }
        rest = Slice { from: (after.from + 1).min(after.to), ..after }.trim();
    }
    !inside.is_empty()
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::syntax::Tokens;

    #[test]
    fn functions_to_be_replaced_are_well_formed_or_tell_what_they_take() {
        let sound = [
            "var(--a)",
            "var( --a , )",
            "1px VAR(--a, var(--b))",
            "env(a 1 2, 3px)",
            "attr(a)",
            "attr( a , )",
            "attr(a px, 5px)",
            "attr(a unheard-of, 5px)",
            "attr(a %)",
            "attr(a raw-string, \"b\")",
            "attr(a type(*))",
            "attr(a type(<length>+ | auto), 1px)",
            "if(else: 1px)",
            "if(media(width > 1px): 1px; else: 2px;)",
            "if(not (style(--a) or supports(b: c)): 1px)",
            "if(unheard(of) and (anything goes): 1px)",
            "--f(a, b)",
        ];
        let broken = [
            "var(a)",
            "var(--)",
            "var(--a b)",
            "var()",
            "env()",
            "env(1)",
            "env(a b)",
            "env(a -1)",
            "attr()",
            "attr(, b)",
            "attr(1px)",
            "attr(\"a\")",
            "attr(a px b)",
            "attr(a|b)",
            "attr(|b)",
            "attr(a type())",
            "attr(a type(b c))",
            "attr(a type(<unheard-of>))",
            "attr(a type(<url>))",
            "attr(a type(*) b)",
            "if()",
            "if(else)",
            "if(style(--a) else: 1px)",
            "if(style(--a) or b: 1px)",
            "if(style(--a) and not style(--b): 1px)",
            "if(style(--a), style(--b): 1px)",
            "if(style(--a) and style(--b) or style(--c): 1px)",
            "--f(a,)",
            "--f({})",
            "var(--a) !",
        ];
        for value in sound {
            assert_eq!(needed(Tokens::read(value).all()), Ok(true), "{value}");
        }
        for value in broken {
            assert!(needed(Tokens::read(value).all()).is_err(), "{value}");
        }
        assert_eq!(needed(Tokens::read("calc(1px + 2px)").all()), Ok(false));
    }
}
