//! CSS text as tokens with places and matched brackets.
//!
//! What comes in: the text of a stylesheet, a `style` attribute, a selector or a value. What goes out: [`Tokens`], a flat
//! list in which each opening bracket knows its closing one, so that a parser can look ahead, go back and skip blocks
//! in one step. The tokenizer is cssparser's (CSS Syntax 3, §4); the flat list is read without recursion, so that no
//! text can exhaust the stack here.

pub(crate) mod condition;
mod number;
mod serialize;
pub(crate) mod substitution;

use bytestring::ByteString;
use std::borrow::Cow;
use std::ops::Range;

use cssparser::{Parser, Token as Raw};

pub(crate) use self::number::{component_text, number_text};
pub(crate) use self::serialize::{separate, serialize_identifier, serialize_string};
use crate::source::offset;

/// What a token is. Names and numbers are read from the text when asked for.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(crate) enum Kind {
    /// An identifier.
    Ident,
    /// `@name`.
    AtKeyword,
    /// `#name`; whether it may be an id selector.
    Hash(bool),
    /// A quoted string.
    Str,
    /// `url(…)` without quotes.
    Url,
    /// A string or URL that is broken off.
    Bad,
    /// A number; whether it is written as an integer.
    Number(f64, bool),
    /// A percentage: the number before the sign.
    Percentage(f64),
    /// A number with a unit; where the unit starts.
    Dimension(f64, u32),
    /// `name(`; the index of the token after the closing bracket.
    Function(u32),
    /// `(`, with the index after its closing bracket.
    Paren(u32),
    /// `[`, with the index after its closing bracket.
    Square(u32),
    /// `{`, with the index after its closing bracket.
    Curly(u32),
    /// A closing bracket; whether it closes an open one.
    Close(char, bool),
    /// White space. Comments are no tokens: where one stood, a token starts later than the one before ends.
    Space,
    /// `:`
    Colon,
    /// `;`
    Semicolon,
    /// `,`
    Comma,
    /// `<!--` or `-->`
    Cdo,
    /// Any other character.
    Delim(char),
    /// `~=`, `|=`, `^=`, `$=`, `*=`: the first character.
    Match(char),
    /// A style rule that was left out, and where its block starts.
    Rule(u32),
}

/// A token and where it is in the text.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(crate) struct Token {
    /// What it is.
    pub(crate) kind: Kind,
    /// First byte.
    pub(crate) start: u32,
    /// The byte after the last.
    pub(crate) end: u32,
}

/// The tokens of a text.
#[derive(Clone, Debug)]
pub(crate) struct Tokens {
    /// The text.
    pub(crate) text: ByteString,
    /// The byte of the text at which what was read ends.
    pub(crate) end: u32,
    /// The tokens in order.
    pub(crate) list: Vec<Token>,
    /// Brackets that the end of the text closed: their tokens.
    pub(crate) unclosed: Vec<u32>,
    /// Comments without an end, and those that probably lost it: where they start and end, and where another starts in them.
    pub(crate) odd_comments: Vec<(u32, u32, Option<u32>)>,
    /// Whether `sibling-index()` or `sibling-count()` may be among them.
    pub(crate) counts_siblings: bool,
}

/// What of a text is not read.
pub(crate) trait LeaveOut {
    /// How many tokens are expected in so many bytes. Minified text has one for every three bytes or so.
    fn expected(&self, bytes: usize) -> usize {
        bytes / 3 + 4
    }

    /// Leaves out what stands at the start of the text; gives where to go on reading. What is left out may have tokens.
    fn start(&mut self, text: &str, list: &mut Vec<Token>) -> usize;

    /// The same behind a token that was read last, with how many brackets are open around it.
    fn after(&mut self, text: &str, token: Token, open: usize, list: &mut Vec<Token>) -> usize;
}

/// Nothing is left out.
impl LeaveOut for () {
    fn start(&mut self, _: &str, _: &mut Vec<Token>) -> usize {
        0
    }

    fn after(&mut self, _: &str, token: Token, _: usize, _: &mut Vec<Token>) -> usize {
        token.end as usize
    }
}

impl Tokens {
    /// Reads a text to its end.
    pub(crate) fn read(text: &str) -> Self {
        Self::outline(text.into(), &mut ())
    }

    /// Reads a text to its end, but for what is left out.
    pub(crate) fn outline(text: ByteString, leave_out: &mut impl LeaveOut) -> Self {
        let all = 0..text.len();
        Self::of(text, all, leave_out)
    }

    /// Reads a part of the text that was left out.
    pub(crate) fn left_out(&self, part: Range<u32>) -> Self {
        Self::of(self.text.clone(), part.start as usize..part.end as usize, &mut ())
    }

    /// Reads a part of a text.
    fn of(text: ByteString, part: Range<usize>, leave_out: &mut impl LeaveOut) -> Self {
        let mut list: Vec<Token> = Vec::with_capacity(leave_out.expected(part.len()));
        let mut open: Vec<u32> = Vec::new();
        let mut odd_comments = Vec::new();
        let mut counts_siblings = false;
        let mut base = part.start + leave_out.start(&text[part.clone()], &mut list);
        'text: loop {
            let mut parser = Parser::new(&text[base..part.end]);
            loop {
                let start = base + parser.position().byte_index();
                let Ok(kind) = parser.next_including_whitespace_and_comments().map(kind_of) else {
                    break 'text;
                };
                let end = base + parser.position().byte_index();
                // Comments part tokens and are none themselves (CSS Syntax 3, §4.3.1).
                let Some(kind) = kind else {
                    if let Some(inner) = odd_comment(&text[start..end]) {
                        odd_comments.push((offset(start), offset(end), inner.map(|i| offset(start + i))));
                    }
                    continue;
                };
                let kind = with_number(kind, || &text[start..end], start);
                counts_siblings |= matches!(kind, Kind::Function(_)) && may_count_siblings(&text[start..end]);
                let opens = matches!(kind, Kind::Function(_) | Kind::Paren(_) | Kind::Square(_) | Kind::Curly(_));
                let at = offset(list.len());
                let mut token = Token { kind, start: offset(start), end: offset(end) };
                if let Kind::Close(close, _) = kind {
                    token.kind = Kind::Close(close, close_block(&mut list, &mut open, close));
                }
                if matches!(kind, Kind::Space) && list.last().is_some_and(|t| matches!(t.kind, Kind::Space)) {
                    if let Some(last) = list.last_mut() {
                        last.end = token.end;
                    }
                    continue;
                }
                list.push(token);
                let next = leave_out.after(&text, token, open.len(), &mut list);
                if opens {
                    open.push(at);
                }
                // A parser skips a block that nobody enters; a fresh one starts inside it.
                if opens || next > end {
                    base = next;
                    continue 'text;
                }
            }
        }
        let beyond = offset(list.len()) + 1;
        for at in &open {
            set_end(&mut list[*at as usize].kind, beyond);
        }
        Self { text, end: offset(part.end), list, unclosed: open, odd_comments, counts_siblings }
    }

    /// What is open at the end or closes nothing, where something does, so that what is written behind it would not stay what
    /// it is: in words, with its place in characters.
    pub(crate) fn unfinished(&self) -> Option<String> {
        let at = |start: u32| self.text[..start as usize].chars().count() + 1;
        let written = |token: &Token| &self.text[token.start as usize..token.end as usize];
        if let Some(token) = self.list.iter().find(|t| matches!(t.kind, Kind::Close(_, false))) {
            return Some(format!("the `{}` at character {} closes nothing", written(token), at(token.start)));
        }
        if let Some(token) = self.list.iter().find(|t| t.kind == Kind::Bad) {
            let text = crate::text::shorten(written(token), 20);
            return Some(format!("`{text}` at character {} is broken off", at(token.start)));
        }
        // Only at the end can comments, strings and addresses be open.
        if let Some((start, ..)) = self.odd_comments.iter().find(|(_, _, other)| other.is_none()) {
            return Some(format!("the comment at character {} is never closed", at(*start)));
        }
        if let Some(token) = self.list.last().filter(|token| self.is_open(token)) {
            let opens = if token.kind == Kind::Url { "url(" } else { &written(token)[..1] };
            return Some(format!("the `{opens}` at character {} is never closed", at(token.start)));
        }
        if self.text.ends_with('\\') {
            return Some("nothing follows the `\\` at its end".to_owned());
        }
        let open = &self.list[*self.unclosed.last()? as usize];
        Some(format!("the `{}` at character {} is never closed", written(open), at(open.start)))
    }

    /// Whether a string or an address, the last token, has no end.
    fn is_open(&self, last: &Token) -> bool {
        let written = &self.text[last.start as usize..last.end as usize];
        let end = match last.kind {
            Kind::Str => &written[..1],
            Kind::Url => ")",
            _ => return false,
        };
        let inside = written.strip_suffix(end).filter(|inside| !inside.is_empty());
        inside.is_none_or(|inside| (inside.len() - inside.trim_end_matches('\\').len()) % 2 == 1)
    }

    /// All tokens.
    pub(crate) fn all(&self) -> Slice<'_> {
        Slice { tokens: self, from: 0, to: offset(self.list.len()) }
    }
}

/// Whether a comment has no end, or goes on from a block to the end of another comment; then where that starts.
fn odd_comment(written: &str) -> Option<Option<usize>> {
    if written.len() < 4 || !written.ends_with("*/") {
        return Some(None);
    }
    let inner = written[2..].find("/*")? + 2;
    written[..inner].contains('}').then_some(Some(inner))
}

/// Whether the name of a function, as written with its bracket, may be that of one that counts siblings.
fn may_count_siblings(name: &str) -> bool {
    name.contains('\\') || ["sibling-index(", "sibling-count("].iter().any(|n| n.eq_ignore_ascii_case(name))
}

/// The kind of one of cssparser's tokens, its number left out; nothing for comments.
fn kind_of(raw: &Raw<'_>) -> Option<Kind> {
    Some(match raw {
        Raw::Ident(_) => Kind::Ident,
        Raw::AtKeyword(_) => Kind::AtKeyword,
        Raw::Hash(_) => Kind::Hash(false),
        Raw::IDHash(_) => Kind::Hash(true),
        Raw::QuotedString(_) => Kind::Str,
        Raw::UnquotedUrl(_) => Kind::Url,
        Raw::Number { int_value, .. } => Kind::Number(0.0, int_value.is_some()),
        Raw::Percentage { .. } => Kind::Percentage(0.0),
        Raw::Dimension { .. } => Kind::Dimension(0.0, 0),
        Raw::Comment(_) => return None,
        Raw::WhiteSpace(_) => Kind::Space,
        Raw::Colon => Kind::Colon,
        Raw::Semicolon => Kind::Semicolon,
        Raw::Comma => Kind::Comma,
        Raw::Delim(c) => Kind::Delim(*c),
        Raw::IncludeMatch => Kind::Match('~'),
        Raw::DashMatch => Kind::Match('|'),
        Raw::PrefixMatch => Kind::Match('^'),
        Raw::SuffixMatch => Kind::Match('$'),
        Raw::SubstringMatch => Kind::Match('*'),
        Raw::CDO | Raw::CDC => Kind::Cdo,
        Raw::Function(_) => Kind::Function(0),
        Raw::ParenthesisBlock => Kind::Paren(0),
        Raw::SquareBracketBlock => Kind::Square(0),
        Raw::CurlyBracketBlock => Kind::Curly(0),
        Raw::CloseParenthesis => Kind::Close(')', false),
        Raw::CloseSquareBracket => Kind::Close(']', false),
        Raw::CloseCurlyBracket => Kind::Close('}', false),
        Raw::BadUrl(_) | Raw::BadString(_) => Kind::Bad,
    })
}

/// A kind with its number in double precision; `written` gives its text, which starts at `start`.
fn with_number<'t>(kind: Kind, written: impl FnOnce() -> &'t str, start: usize) -> Kind {
    let number = |text: &str| text.parse::<f64>().unwrap_or(0.0);
    match kind {
        Kind::Number(_, integer) => Kind::Number(number(written()), integer),
        Kind::Percentage(_) => Kind::Percentage(number(written().trim_end_matches('%'))),
        Kind::Dimension(..) => {
            let written = written();
            let length = number_length(written);
            Kind::Dimension(number(&written[..length]), offset(start + length))
        }
        other => other,
    }
}

/// How many bytes of a dimension are its number (CSS Syntax 3, "consume a number").
fn number_length(written: &str) -> usize {
    let b = written.as_bytes();
    let digits = |mut i: usize| {
        while b.get(i).is_some_and(u8::is_ascii_digit) {
            i += 1;
        }
        i
    };
    let mut i = digits(usize::from(matches!(b.first(), Some(b'+' | b'-'))));
    if b.get(i) == Some(&b'.') && b.get(i + 1).is_some_and(u8::is_ascii_digit) {
        i = digits(i + 1);
    }
    if matches!(b.get(i), Some(b'e' | b'E')) {
        let sign = usize::from(matches!(b.get(i + 1), Some(b'+' | b'-')));
        if b.get(i + 1 + sign).is_some_and(u8::is_ascii_digit) {
            i = digits(i + 1 + sign);
        }
    }
    i
}

/// Closes the innermost open bracket if `close` fits it; gives whether it did.
///
/// Inside `(` a `}` is no close of the block around it: the block ends only with its own bracket (CSS Syntax 3,
/// "consume a simple block").
fn close_block(list: &mut [Token], open: &mut Vec<u32>, close: char) -> bool {
    let Some(last) = open.last().copied() else {
        return false;
    };
    let fits = match list[last as usize].kind {
        Kind::Function(_) | Kind::Paren(_) => close == ')',
        Kind::Square(_) => close == ']',
        _ => close == '}',
    };
    if fits {
        open.pop();
        let after = offset(list.len()) + 1;
        set_end(&mut list[last as usize].kind, after);
    }
    fits
}

/// Writes the index after a block's closing bracket into its opening one.
fn set_end(kind: &mut Kind, after: u32) {
    match kind {
        Kind::Function(end) | Kind::Paren(end) | Kind::Square(end) | Kind::Curly(end) => *end = after,
        _ => {}
    }
}

/// A run of tokens; cheap to copy, so a parser can go back.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Slice<'t> {
    /// The tokens it is a part of.
    pub(crate) tokens: &'t Tokens,
    /// The first.
    pub(crate) from: u32,
    /// The one after the last.
    pub(crate) to: u32,
}

impl<'t> Slice<'t> {
    /// Whether no token is left.
    pub(crate) fn is_empty(self) -> bool {
        self.from >= self.to
    }

    /// The first token.
    pub(crate) fn peek(self) -> Option<Token> {
        (self.from < self.to).then(|| self.tokens.list[self.from as usize])
    }

    /// What the first token is.
    pub(crate) fn kind(self) -> Option<Kind> {
        self.peek().map(|t| t.kind)
    }

    /// The index after the component value that starts at `from`: after the block, where a block starts there.
    pub(crate) fn after_component(self) -> u32 {
        let next = match self.kind() {
            Some(Kind::Function(end) | Kind::Paren(end) | Kind::Square(end) | Kind::Curly(end)) => end,
            _ => self.from + 1,
        };
        next.min(self.to)
    }

    /// Takes the first component value: one token, or a whole block.
    pub(crate) fn next(&mut self) -> Option<Token> {
        let token = self.peek()?;
        self.from = self.after_component();
        Some(token)
    }

    /// The same run without white space at its ends.
    pub(crate) fn trim(mut self) -> Self {
        while self.kind() == Some(Kind::Space) {
            self.from += 1;
        }
        while self.to > self.from && matches!(self.tokens.list[self.to as usize - 1].kind, Kind::Space) {
            self.to -= 1;
        }
        self
    }

    /// Skips white space; whether there was any.
    pub(crate) fn skip_space(&mut self) -> bool {
        let had = self.kind() == Some(Kind::Space);
        if had {
            self.from += 1;
        }
        had
    }

    /// Whether the block that starts this run has its closing bracket in it.
    pub(crate) fn is_closed(self) -> bool {
        match self.kind() {
            Some(Kind::Function(end) | Kind::Paren(end) | Kind::Square(end) | Kind::Curly(end)) => end <= self.to,
            _ => false,
        }
    }

    /// The inside of the block that starts this run.
    pub(crate) fn inside(self) -> Self {
        let to = match self.kind() {
            Some(Kind::Function(end) | Kind::Paren(end) | Kind::Square(end) | Kind::Curly(end)) => end - 1,
            _ => self.from,
        };
        Self { tokens: self.tokens, from: (self.from + 1).min(self.to), to: to.min(self.to) }
    }

    /// The byte behind it: where the next token starts, or the end of what was read.
    pub(crate) fn behind(self) -> u32 {
        self.tokens.list.get(self.to as usize).map_or(self.tokens.end, |t| t.start)
    }

    /// The bytes inside of the block that starts this run, where it was left out.
    pub(crate) fn unread(self) -> Option<Range<u32>> {
        let open = self.peek().filter(|t| t.kind == Kind::Curly(self.from + 2))?;
        let close = self.tokens.list.get(self.from as usize + 1)?;
        (close.start > open.end).then_some(open.end..close.start)
    }

    /// Up to the first component value for which `stop` holds, and the rest from it on.
    pub(crate) fn split_at(self, stop: impl Fn(Token) -> bool) -> (Self, Self) {
        let mut rest = self;
        while let Some(token) = rest.peek() {
            if stop(token) {
                break;
            }
            rest.next();
        }
        (Self { to: rest.from, ..self }, rest)
    }

    /// How many brackets are open at once at the most.
    pub(crate) fn nesting(self) -> u32 {
        let (mut open, mut most) = (0u32, 0);
        for token in &self.tokens.list[self.from as usize..self.to as usize] {
            match token.kind {
                Kind::Function(_) | Kind::Paren(_) | Kind::Square(_) | Kind::Curly(_) => open += 1,
                Kind::Close(_, true) => open = open.saturating_sub(1),
                _ => {}
            }
            most = most.max(open);
        }
        most
    }

    /// The parts between commas at this level.
    pub(crate) fn commas(self) -> Vec<Self> {
        let mut parts = Vec::with_capacity(1);
        let mut rest = self;
        loop {
            let (part, after) = rest.split_at(|t| matches!(t.kind, Kind::Comma));
            parts.push(part);
            if after.is_empty() {
                return parts;
            }
            rest = after;
            rest.from += 1;
        }
    }

    /// The text of the run as written.
    pub(crate) fn text(self) -> &'t str {
        let (start, end) = self.range();
        &self.tokens.text[start as usize..end as usize]
    }

    /// First byte and the byte after the last.
    pub(crate) fn range(self) -> (u32, u32) {
        let list = &self.tokens.list;
        if self.is_empty() {
            let at = list.get(self.from as usize).map_or(self.tokens.end, |t| t.start);
            return (at, at);
        }
        let start = list[self.from as usize].start;
        (start, list[self.to as usize - 1].end)
    }

    /// The name of an identifier, function, hash or at-keyword, escapes decoded; the value of a string or URL.
    pub(crate) fn name(self, token: Token) -> Cow<'t, str> {
        let text = &self.tokens.text[token.start as usize..token.end as usize];
        match token.kind {
            Kind::Ident => unescaped(text),
            Kind::AtKeyword | Kind::Hash(_) => unescaped(&text[1..]),
            Kind::Function(_) => unescaped(&text[..text.len() - 1]),
            Kind::Dimension(_, unit) => unescaped(&text[(unit - token.start) as usize..]),
            Kind::Str | Kind::Url => {
                let mut parser = Parser::new(text);
                match parser.next() {
                    Ok(Raw::QuotedString(s) | Raw::UnquotedUrl(s)) => Cow::Owned(s.to_string()),
                    _ => Cow::Borrowed(""),
                }
            }
            _ => Cow::Borrowed(text),
        }
    }

    /// The first token's name in lower case, where it is an identifier.
    pub(crate) fn ident(self) -> Option<String> {
        let token = self.peek()?;
        matches!(token.kind, Kind::Ident).then(|| self.name(token).to_ascii_lowercase())
    }

    /// The name of the one token that there is, white space around it aside, in lower case, where it is an identifier.
    pub(crate) fn lone_ident(self) -> Option<String> {
        let alone = self.trim();
        (alone.from + 1 == alone.to).then(|| alone.ident())?
    }

    /// Whether the first token is this identifier, in any case.
    pub(crate) fn is_ident(self, name: &str) -> bool {
        self.peek().is_some_and(|t| matches!(t.kind, Kind::Ident) && self.is_named(t, 0, name))
    }

    /// Whether the first token is this function, in any case.
    pub(crate) fn is_function(self, name: &str) -> bool {
        self.peek().is_some_and(|t| matches!(t.kind, Kind::Function(_)) && self.is_named(t, 1, name))
    }

    /// Whether one function is all that there is.
    pub(crate) fn is_lone_function(mut self) -> bool {
        self.next().is_some_and(|t| matches!(t.kind, Kind::Function(_))) && self.is_empty()
    }

    /// Whether the name of a token, so many bytes before its end, is this one in any case.
    fn is_named(self, token: Token, behind: usize, name: &str) -> bool {
        let written = &self.tokens.text[token.start as usize..token.end as usize - behind];
        // What has no escapes and no NUL in it is what is meant.
        if written.len() == name.len() && written.eq_ignore_ascii_case(name) {
            return true;
        }
        written.len() != name.len()
            && memchr::memchr2(b'\\', 0, written.as_bytes()).is_some()
            && self.name(token).eq_ignore_ascii_case(name)
    }
}

/// Decodes escapes (CSS Syntax 3, "consume an escaped code point") and NUL.
pub(crate) fn unescaped(text: &str) -> Cow<'_, str> {
    if !text.bytes().any(|b| b == b'\\' || b == 0) {
        return Cow::Borrowed(text);
    }
    let mut out = String::with_capacity(text.len());
    let mut chars = text.chars().peekable();
    while let Some(c) = chars.next() {
        match c {
            '\0' => out.push('\u{FFFD}'),
            '\\' => {
                let mut hex = String::new();
                while hex.len() < 6 && chars.peek().is_some_and(char::is_ascii_hexdigit) {
                    hex.extend(chars.next());
                }
                if hex.is_empty() {
                    out.push(chars.next().filter(|c| *c != '\0').unwrap_or('\u{FFFD}'));
                    continue;
                }
                let code = u32::from_str_radix(&hex, 16).unwrap_or(0);
                out.push(char::from_u32(code).filter(|c| *c != '\0').unwrap_or('\u{FFFD}'));
                if chars.peek() == Some(&'\r') {
                    chars.next();
                    if chars.peek() == Some(&'\n') {
                        chars.next();
                    }
                } else if chars.peek().is_some_and(|c| matches!(c, ' ' | '\t' | '\n' | '\x0C')) {
                    chars.next();
                }
            }
            c => out.push(c),
        }
    }
    Cow::Owned(out)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn brackets_find_each_other() {
        let tokens = Tokens::read("a(b[c}d]e)f(g");
        assert_eq!(tokens.unclosed.len(), 1, "`}}` closes nothing inside `[`, and the last bracket stays open");
        let (_, last) = tokens.all().split_at(|t| matches!(t.kind, Kind::Function(_)) && t.start > 0);
        assert_eq!(last.inside().text(), "g");
        let tokens = Tokens::read("a { b: c; d: e(f) } g");
        let (before, block) = tokens.all().split_at(|t| matches!(t.kind, Kind::Curly(_)));
        assert_eq!((before.trim().text(), block.inside().trim().text()), ("a", "b: c; d: e(f)"));
    }

    #[test]
    fn what_is_unfinished_is_told_with_its_place() {
        let cases = [
            ("p { a: b }", None),
            (r#""a\\" url(x) /* é */ 'b'"#, None),
            ("é { a: b", Some("the `{` at character 3 is never closed")),
            ("a[b { c }", Some("the `[` at character 2 is never closed")),
            ("a }", Some("the `}` at character 3 closes nothing")),
            ("a: 'b", Some("the `'` at character 4 is never closed")),
            (r#""a\""#, Some("the `\"` at character 1 is never closed")),
            ("url(a", Some("the `url(` at character 1 is never closed")),
            (r"url(a\\)", None),
            (r"url(a\)", Some("the `url(` at character 1 is never closed")),
            ("a /*/", Some("the comment at character 3 is never closed")),
            ("'a\n", Some("`'a` at character 1 is broken off")),
            ("a\\", Some("nothing follows the `\\` at its end")),
        ];
        for (text, expected) in cases {
            assert_eq!(Tokens::read(text).unfinished().as_deref(), expected, "{text}");
        }
    }

    #[test]
    fn deep_nesting_needs_no_stack() {
        let text = "(".repeat(200_000);
        assert_eq!(Tokens::read(&text).unclosed.len(), 200_000);
    }

    #[test]
    fn names_lose_their_escapes() {
        let tokens = Tokens::read(r"\31 a\.b #\66oo 1.5e3px 10e");
        let all = tokens.all();
        let names: Vec<String> =
            tokens.list.iter().filter(|t| t.kind != Kind::Space).map(|t| all.name(*t).into_owned()).collect();
        assert_eq!(names, ["1a.b", "foo", "px", "e"]);
        assert!(matches!(tokens.list[4].kind, Kind::Dimension(n, _) if n == 1500.0));
    }
}
