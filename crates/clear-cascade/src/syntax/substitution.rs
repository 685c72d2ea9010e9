//! Which functions in a value stand for tokens that are put in before it is read (CSS Variables 2, §3; CSS Values 5, §6, §7 and §9;
//! CSS Functions and Mixins 1, §2.5).

use super::{Kind, Slice};
use crate::document::Name;
use crate::limits::DEEPEST_SUBSTITUTION;
use crate::source::offset;
use crate::text::{is_white, stands_in_names};

/// Functions that stand for tokens to be put in.
const FUNCTIONS: &[&str] = &["var", "env", "attr", "if"];

/// Whether a function stands for tokens to be put in.
pub(crate) fn is_replaced(name: &str) -> bool {
    FUNCTIONS.iter().any(|function| function.eq_ignore_ascii_case(name)) || name.starts_with("--")
}

/// A value in which nothing is replaced but `var()`, taken apart.
pub(crate) type Pieces = Box<[Piece]>;

/// A piece of a value.
#[derive(Clone, Debug, PartialEq)]
pub(crate) enum Piece {
    /// These bytes of the text.
    Text(u32, u32),
    /// A custom property, and what it falls back to.
    Custom(Name, Option<Pieces>),
}

impl Piece {
    /// Calls `f` with the custom properties that it names.
    pub(crate) fn each_name(&self, f: &mut dyn FnMut(&Name)) {
        if let Self::Custom(name, fallback) = self {
            f(name);
            fallback.iter().flatten().for_each(|piece| piece.each_name(f));
        }
    }
}

/// Takes a value apart; nothing where more is to be replaced than `var()`, or brackets stay open.
pub(crate) fn pieces(value: Slice<'_>) -> Option<Pieces> {
    pieces_in(value, 0)
}

/// The same of a value that is inside of so many brackets and fallbacks.
fn pieces_in(value: Slice<'_>, mut open: u32) -> Option<Pieces> {
    let mut pieces = Vec::new();
    let mut at = value.from;
    while at < value.to {
        let here = Slice { from: at, ..value };
        let token = here.peek()?;
        at += 1;
        match token.kind {
            Kind::Function(_) | Kind::Paren(_) | Kind::Square(_) | Kind::Curly(_) if !here.is_closed() => return None,
            Kind::Function(_) => {
                let name = here.name(token);
                if name.eq_ignore_ascii_case("var") {
                    let (head, rest) = here.inside().split_at(|t| t.kind == Kind::Comma);
                    let head = head.trim();
                    let custom = head.peek().filter(|t| t.kind == Kind::Ident && head.from + 1 == head.to)?;
                    let fallback = (!rest.is_empty()).then(|| Slice { from: rest.from + 1, ..rest }.trim());
                    let fallback = fallback.map(|f| pieces_in(f, open + 1));
                    if matches!(fallback, Some(None)) || open >= DEEPEST_SUBSTITUTION {
                        return None;
                    }
                    pieces.push(Piece::Custom(Name::from(head.name(custom)), fallback.flatten()));
                    at = here.after_component();
                    continue;
                }
                if is_replaced(&name) {
                    return None;
                }
                open += 1;
            }
            Kind::Paren(_) | Kind::Square(_) | Kind::Curly(_) => open += 1,
            Kind::Close(..) => open -= 1,
            _ => {}
        }
        if open >= DEEPEST_SUBSTITUTION {
            return None;
        }
        match pieces.last_mut() {
            // Where a comment stood, the next piece starts.
            Some(Piece::Text(_, end)) if *end == token.start => *end = token.end,
            _ => pieces.push(Piece::Text(token.start, token.end)),
        }
    }
    Some(pieces.into_boxed_slice())
}

/// The same of a value that starts at a byte of a text, told by its bytes; nothing, too, where they do not tell, or nothing is to be replaced.
pub(crate) fn plain_pieces(value: &str, start: u32) -> Option<Pieces> {
    if !value.as_bytes().contains(&b'(') {
        return None;
    }
    plain_pieces_in(value, start, 0)
}

/// How many brackets and fallbacks may be around what is taken apart by its bytes.
const FEW: u32 = 8;

/// The same of a value that is inside of so many fallbacks, in which there may be nothing to be replaced.
fn plain_pieces_in(value: &str, start: u32, around: u32) -> Option<Pieces> {
    if around > FEW {
        return None;
    }
    let bytes = value.as_bytes();
    let byte = |at: usize| bytes.get(at).copied().unwrap_or(0);
    let text = |from: usize, to: usize| (from < to).then(|| Piece::Text(start + offset(from), start + offset(to)));
    // Most have nothing but one `var()` in them.
    let room = if value.starts_with("var(") { 1 } else { 3 };
    let (mut pieces, mut from, mut open, mut at) = (Vec::new(), 0, around, 0);
    while at < bytes.len() {
        match bytes[at] {
            b'(' => {
                let name = at - bytes[..at].iter().rev().take_while(|b| stands_in_names(**b)).count();
                if &value[name..at] == "var" && !value[..name].ends_with(['#', '@']) {
                    if pieces.is_empty() {
                        pieces.reserve_exact(room);
                    }
                    pieces.extend(text(from, name));
                    let custom = at + 1 + white_in(bytes[at + 1..].iter());
                    let length = bytes[custom..].iter().take_while(|b| stands_in_names(**b)).count();
                    let named = &value[custom..custom + length];
                    at = custom + length + white_in(bytes[custom + length..].iter());
                    let fallback = if byte(at) == b',' {
                        let inside = at + 1 + white_in(bytes[at + 1..].iter());
                        at = closing(bytes, at + 1)?;
                        let end = at - white_in(bytes[inside.min(at)..at].iter().rev());
                        Some(plain_pieces_in(&value[inside.min(end)..end], start + offset(inside.min(end)), open + 1)?)
                    } else {
                        None
                    };
                    if byte(at) != b')' || !named.starts_with("--") || length == 2 {
                        return None;
                    }
                    pieces.push(Piece::Custom(Name::from(named), fallback));
                    from = at + 1;
                } else if is_replaced(&value[name..at]) || value[name..at].eq_ignore_ascii_case("url") || open >= FEW {
                    return None;
                } else {
                    open += 1;
                }
            }
            b')' => open = open.checked_sub(1).filter(|open| *open >= around)?,
            b'/' if byte(at + 1) == b'*' => return None,
            other if is_telling(other) => return None,
            _ => {}
        }
        at += 1;
    }
    if pieces.is_empty() && around == 0 {
        return None;
    }
    pieces.extend(text(from, at));
    (open == around).then(|| pieces.into_boxed_slice())
}

/// Whether a byte may mean more than bytes tell.
fn is_telling(byte: u8) -> bool {
    byte >= 128 || matches!(byte, b'"' | b'\'' | b'\\' | b'!' | b'{' | b'}' | b'[' | b']' | b';' | b'<' | b'>' | 0)
}

/// Where the bracket closes that was opened before a byte; nothing where bytes do not tell.
fn closing(bytes: &[u8], from: usize) -> Option<usize> {
    let mut open = 0;
    for (at, byte) in bytes.iter().enumerate().skip(from) {
        match byte {
            b'(' => open += 1,
            b')' if open == 0 => return Some(at),
            b')' => open -= 1,
            other if is_telling(*other) => return None,
            _ => {}
        }
    }
    None
}

/// How many bytes of white space come first.
fn white_in<'b>(bytes: impl Iterator<Item = &'b u8>) -> usize {
    bytes.take_while(|b| is_white(**b)).count()
}

/// What may stand in no custom property and beside no `var()`: broken strings and URLs, closing brackets without an opening
/// one, `!` at the top (CSS Variables 2, §2; CSS Syntax 3, `<declaration-value>`).
pub(crate) fn unfit(value: Slice<'_>) -> Option<Slice<'_>> {
    let broken = (value.from..value.to).find(|i| {
        let kind = value.tokens.list[*i as usize].kind;
        kind == Kind::Bad || matches!(kind, Kind::Close(_, false))
    });
    let mut rest = value;
    while broken.is_none() && rest.kind().is_some_and(|k| k != Kind::Delim('!')) {
        rest.next();
    }
    let at = broken.or_else(|| (!rest.is_empty()).then_some(rest.from))?;
    Some(Slice { from: at, to: at + 1, ..value })
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::syntax::Tokens;

    #[test]
    fn values_are_taken_apart_where_var_is_all_that_is_replaced() {
        let cases: [(&str, &[&str]); 16] = [
            ("1px", &["1px"]),
            ("var(--a)", &["(--a)"]),
            (" calc(VAR( --a )*2) v\\61r(--b)x", &[" calc(", "(--a)", "*2) ", "(--b)", "x"]),
            ("[a/**/b]{var(--c)}", &["[a", "b]{", "(--c)", "}"]),
            ("", &[]),
            ("var(--a, 1px )", &["(--a,[1px])"]),
            ("var(--a,)", &["(--a,[])"]),
            ("var( --a ,f(var(--b , c))d)e", &["(--a,[f( (--b,[c]) )d])", "e"]),
            ("var(--a,env(x))", &["not"]),
            ("calc(var(--a", &["not"]),
            ("(var(--a)", &["not"]),
            ("env(x)", &["not"]),
            ("--f()", &["not"]),
            ("a attr(b)", &["not"]),
            ("if(else:1)", &["not"]),
            ("f(var())", &["not"]),
        ];
        for (text, expected) in cases {
            fn tell(text: &str, pieces: &[Piece]) -> Vec<String> {
                let told = pieces.iter().map(|piece| match piece {
                    Piece::Text(from, to) => text[*from as usize..*to as usize].to_owned(),
                    Piece::Custom(name, None) => format!("({name})"),
                    Piece::Custom(name, Some(fallback)) => format!("({name},[{}])", tell(text, fallback).join(" ")),
                });
                told.collect()
            }
            let told = pieces(Tokens::read(text).all()).map_or(vec!["not".to_owned()], |pieces| tell(text, &pieces));
            assert_eq!(told, expected, "{text}");
        }
    }

    /// What values may be made of.
    const SOUP: [&str; 30] = [
        "var(--a)",
        "var( --b )",
        "VAR(--a)",
        "var(--a,",
        "var(--c , ",
        "var(",
        ")",
        ")",
        "(",
        "calc(",
        "#",
        "@",
        "2",
        "-",
        "--f(",
        "env(",
        "url(",
        " ",
        ",",
        "/",
        "*",
        "a",
        "--a",
        "é",
        "\\",
        "'",
        "!",
        "[",
        "]",
        "rgb(var(--a) / 1)",
    ];

    proptest::proptest! {
        #![proptest_config(proptest::prelude::ProptestConfig { failure_persistence: None, cases: 4096, ..Default::default() })]
        #[test]
        fn bytes_tell_what_tokens_tell(parts in proptest::collection::vec(0..30usize, 1..9)) {
            let text: String = parts.iter().map(|part| SOUP[*part]).collect();
            let text = text.trim();
            if let Some(told) = plain_pieces(text, 0) {
                let tokens = Tokens::read(text);
                proptest::prop_assert_eq!(pieces(tokens.all()), Some(told), "{}", text);
            }
        }
    }
}
