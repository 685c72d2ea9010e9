//! Grammars in the value definition syntax, compiled (CSS Values 4, §2).
//!
//! Two notations of ours on top: `<type>@property` says that what matches there is the part of a shorthand that sets
//! `property`, and `<custom-ident except a b>`, or `<ident except a b>`, leaves names out.

use std::sync::{LazyLock, OnceLock};

use rustc_hash::FxHashMap;

use super::starts::Starts;
use super::{PropertyId, packed};
use crate::document::Name;
use crate::limits::DEEPEST_TYPE;
use crate::syntax::{Kind, Tokens};

/// A grammar.
#[derive(Debug)]
pub(super) enum Node {
    /// A keyword, in lower case.
    Keyword(Name),
    /// An identifier just as it is written.
    Word(Name),
    /// A type that the engine knows by itself, with its range.
    Builtin(Builtin, f64, f64),
    /// `<custom-ident>`, or any identifier, without some names in lower case.
    NameOtherThan(Builtin, Vec<Name>),
    /// A named type that a grammar defines; what it may start with, once that was asked.
    Type(&'static str, OnceLock<Starts>),
    /// `<'property'>`; the same of its grammar.
    Property(PropertyId, OnceLock<Starts>),
    /// `name( … )`
    Function(Name, Box<Node>),
    /// `'[' … ']'`
    Square(Box<Node>),
    /// A comma.
    Comma,
    /// Another character.
    Literal(char),
    /// One after the other.
    Sequence(Vec<Node>),
    /// `&&`: all, in any order.
    All(Vec<Node>),
    /// `||`: one or more, in any order.
    Some(Vec<Node>),
    /// `|`: one.
    One(Vec<Node>),
    /// Several times.
    Repeat(Box<Repeat>),
    /// `!`: something must match inside.
    Required(Box<Node>),
    /// `@property`: what matches is that property's.
    Label(Box<Node>, PropertyId),
    /// A grammar that nothing fits.
    Nothing,
}

/// A grammar that matches several times.
#[derive(Debug)]
pub(super) struct Repeat {
    /// What matches each time.
    pub(super) inner: Node,
    /// How often at the least.
    pub(super) min: u32,
    /// How often at the most.
    pub(super) max: u32,
    /// Whether commas stand between.
    pub(super) commas: bool,
    /// Whether what matches once may have commas of its own, once that was asked.
    pub(super) inner_commas: OnceLock<bool>,
}

impl Repeat {
    /// Whether one time ends where the next comma is.
    pub(super) fn ends_at_comma(&self) -> bool {
        self.commas && !self.inner_commas.get_or_init(|| self.inner.may_have_commas(0))
    }
}

impl Node {
    /// A grammar several times.
    fn repeat(self, min: u32, max: u32, commas: bool) -> Self {
        Self::Repeat(Box::new(Repeat { inner: self, min, max, commas, inner_commas: OnceLock::new() }))
    }

    /// What a grammar inside of so many types may start with.
    pub(super) fn starts(&self, depth: u16) -> Starts {
        if depth > DEEPEST_TYPE {
            return Starts::ALL;
        }
        match self {
            Self::Keyword(name) => Starts::keyword(name),
            Self::Function(name, _) => Starts::function(name),
            Self::NameOtherThan(..) | Self::Word(_) => Starts::kind(Kind::Ident),
            Self::Square(_) => Starts::kind(Kind::Square(0)),
            Self::Literal(_) => Starts::kind(Kind::Delim(' ')),
            Self::Builtin(Builtin::Anything | Builtin::SizeCalculation, ..) => Starts::ALL,
            Self::Builtin(builtin, ..) => Starts::kinds(|kind| builtin.may_start(Some(kind))),
            Self::Type(name, _) => named_type(name).map_or(Starts::default(), |inner| inner.starts(depth + 1)),
            Self::Property(property, _) => property.grammar().starts(depth + 1),
            Self::Label(inner, _) => inner.starts(depth),
            Self::Required(inner) => inner.starts(depth).needed(),
            // A comma may be left out.
            Self::Comma => Starts::ALL,
            Self::Repeat(repeat) if repeat.min == 0 => repeat.inner.starts(depth) | Starts::NOTHING,
            Self::Repeat(repeat) => repeat.inner.starts(depth),
            Self::Sequence(list) => {
                let mut all = Starts::default();
                for node in list {
                    let starts = node.starts(depth);
                    all = all | starts.needed();
                    if !starts.may_be_nothing() {
                        return all;
                    }
                }
                all | Starts::NOTHING
            }
            Self::All(list) | Self::Some(list) | Self::One(list) => {
                list.iter().fold(Starts::default(), |all, node| all | node.starts(depth))
            }
            Self::Nothing => Starts::default(),
        }
    }

    /// Whether what matches may have a comma outside of blocks.
    fn may_have_commas(&self, depth: u32) -> bool {
        match self {
            // Far deeper than any type is defined.
            _ if depth > 32 => true,
            Self::Comma | Self::Builtin(Builtin::Anything, ..) => true,
            Self::Type(name, _) => named_type(name).is_none_or(|node| node.may_have_commas(depth + 1)),
            Self::Property(property, _) => property.grammar().may_have_commas(depth + 1),
            Self::Repeat(repeat) => repeat.commas || repeat.inner.may_have_commas(depth),
            Self::Required(inner) | Self::Label(inner, _) => inner.may_have_commas(depth),
            Self::Sequence(list) | Self::All(list) | Self::Some(list) | Self::One(list) => {
                list.iter().any(|node| node.may_have_commas(depth))
            }
            _ => false,
        }
    }
}

/// Types that the engine knows by itself.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(super) enum Builtin {
    /// `<length>`
    Length,
    /// `<percentage>`
    Percentage,
    /// `<length-percentage>`
    LengthPercentage,
    /// `<number>`
    Number,
    /// `<number-within>`: a number whose range no calculation may leave.
    NumberWithin,
    /// `<integer>`
    Integer,
    /// `<angle>`
    Angle,
    /// `<angle-percentage>`
    AnglePercentage,
    /// `<time>`
    Time,
    /// `<frequency>`
    Frequency,
    /// `<resolution>`
    Resolution,
    /// `<flex>`
    Flex,
    /// `<zero>`: the number 0.
    Zero,
    /// `<color>`
    Color,
    /// `<string>`
    Str,
    /// `<opentype-tag>`: a string of four printable ASCII characters (CSS Fonts 4, §6.12).
    Tag,
    /// `<opentype-language>`: a string of up to four printable ASCII characters; spaces at its end do not count (CSS Fonts 4, §6.13).
    Language,
    /// `<name-string>`: a string that is not empty.
    NameString,
    /// `<path-data>`: a string of commands of a path (SVG 2, §9.3).
    PathData,
    /// `<url>`
    Url,
    /// `<custom-ident>`
    CustomIdent,
    /// `<dashed-ident>`
    DashedIdent,
    /// `<ident>`: any identifier.
    Ident,
    /// Anything at all.
    Anything,
    /// The calculation of `calc-size()`.
    SizeCalculation,
    /// An id selector.
    Hash,
}

impl Builtin {
    /// Whether a component of the type may start with a token.
    pub(super) fn may_start(self, kind: Option<Kind>) -> bool {
        let Some(kind) = kind else { return false };
        match self {
            Self::Anything | Self::SizeCalculation => true,
            Self::Str | Self::Tag | Self::Language | Self::NameString | Self::PathData => kind == Kind::Str,
            Self::Url => matches!(kind, Kind::Url | Kind::Function(_)),
            Self::CustomIdent | Self::DashedIdent | Self::Ident => kind == Kind::Ident,
            Self::Hash => matches!(kind, Kind::Hash(_)),
            Self::Color => matches!(kind, Kind::Hash(_) | Kind::Ident | Kind::Function(_)),
            _ => matches!(kind, Kind::Number(..) | Kind::Percentage(_) | Kind::Dimension(..) | Kind::Function(_)),
        }
    }
}

/// A named type: its grammar as text, and compiled once someone asked for it.
type NamedType = (&'static str, OnceLock<Node>);

/// The named types.
static TYPES: LazyLock<FxHashMap<&'static str, NamedType>> =
    LazyLock::new(|| packed::types().map(|(n, s)| (n, (s, OnceLock::new()))).collect());

/// The grammar of a named type.
pub(super) fn named_type(name: &str) -> Option<&'static Node> {
    TYPES.get(name).map(|(syntax, node)| node.get_or_init(|| compile(syntax)))
}

/// A type that the engine knows by itself.
fn builtin(name: &str) -> Option<Builtin> {
    Some(match name {
        "length" => Builtin::Length,
        "percentage" => Builtin::Percentage,
        "length-percentage" => Builtin::LengthPercentage,
        "number" | "number-token" => Builtin::Number,
        "number-within" => Builtin::NumberWithin,
        "integer" => Builtin::Integer,
        "angle" => Builtin::Angle,
        "angle-percentage" => Builtin::AnglePercentage,
        "time" => Builtin::Time,
        "frequency" => Builtin::Frequency,
        "resolution" => Builtin::Resolution,
        "flex" => Builtin::Flex,
        "zero" => Builtin::Zero,
        "color" => Builtin::Color,
        "string" | "string-token" => Builtin::Str,
        "opentype-tag" => Builtin::Tag,
        "opentype-language" => Builtin::Language,
        "name-string" => Builtin::NameString,
        "path-data" => Builtin::PathData,
        "url" | "url()" | "url-token" | "src()" => Builtin::Url,
        "custom-ident" => Builtin::CustomIdent,
        "dashed-ident" | "custom-property-name" => Builtin::DashedIdent,
        "ident" | "ident-token" => Builtin::Ident,
        "declaration-value" | "any-value" | "whole-value" | "calc-sum" => Builtin::Anything,
        "calc-size-sum" => Builtin::SizeCalculation,
        "id-selector" | "hash-token" => Builtin::Hash,
        _ => return None,
    })
}

/// Compiles a grammar.
pub(super) fn compile(syntax: &str) -> Node {
    Reader { rest: syntax.trim(), exact: false }.whole()
}

/// A syntax string of an author, compiled (CSS Properties and Values API 1, §5): its words count as they are written.
pub(super) fn compile_words(syntax: &str) -> Node {
    Reader { rest: syntax.trim(), exact: true }.whole()
}

/// Named types that a grammar asks for and nothing defines.
#[cfg(test)]
pub(super) fn unknown_types(node: &Node) -> Vec<String> {
    match node {
        Node::Type(name, _) if TYPES.contains_key(name) => Vec::new(),
        Node::Type(name, _) => vec![(*name).to_owned()],
        Node::Function(_, inner) | Node::Square(inner) | Node::Required(inner) | Node::Label(inner, _) => {
            unknown_types(inner)
        }
        Node::Repeat(repeat) => unknown_types(&repeat.inner),
        Node::Sequence(list) | Node::All(list) | Node::Some(list) | Node::One(list) => {
            list.iter().flat_map(unknown_types).collect()
        }
        _ => Vec::new(),
    }
}

/// Reads a grammar from its text.
struct Reader<'s> {
    /// What is left.
    rest: &'s str,
    /// Whether words are identifiers that count as written, as in syntax strings of authors.
    exact: bool,
}

impl<'s> Reader<'s> {
    /// The whole.
    fn whole(mut self) -> Node {
        if self.rest.is_empty() { Node::Nothing } else { self.alternatives() }
    }

    /// Skips white space.
    fn space(&mut self) {
        self.rest = self.rest.trim_start();
    }

    /// Takes a text off the start, if it is there.
    fn take(&mut self, text: &str) -> bool {
        match self.rest.strip_prefix(text) {
            Some(rest) => {
                self.rest = rest;
                true
            }
            None => false,
        }
    }

    /// Whether nothing more belongs to the group.
    fn at_end(&self) -> bool {
        self.rest.is_empty() || self.rest.starts_with([']', ')']) || self.rest.starts_with("']'")
    }

    /// `a | b`
    fn alternatives(&mut self) -> Node {
        let mut list = vec![self.somes()];
        loop {
            self.space();
            if self.rest.starts_with("||") || !self.take("|") {
                break;
            }
            list.push(self.somes());
        }
        // A name that is also a keyword here is the keyword (CSS Values 4, §4.2).
        list.sort_by_key(|node| !matches!(node, Node::Keyword(_)));
        single(list, Node::One)
    }

    /// `a || b`
    fn somes(&mut self) -> Node {
        let mut list = vec![self.alls()];
        loop {
            self.space();
            if !self.take("||") {
                break;
            }
            list.push(self.alls());
        }
        single(list, Node::Some)
    }

    /// `a && b`
    fn alls(&mut self) -> Node {
        let mut list = vec![self.sequence()];
        loop {
            self.space();
            if !self.take("&&") {
                break;
            }
            list.push(self.sequence());
        }
        single(list, Node::All)
    }

    /// `a b`
    fn sequence(&mut self) -> Node {
        let mut list = Vec::new();
        loop {
            self.space();
            if self.at_end() || self.rest.starts_with('|') || self.rest.starts_with("&&") {
                break;
            }
            match self.term() {
                Some(node) => list.push(node),
                None => return Node::Nothing,
            }
        }
        single(list, Node::Sequence)
    }

    /// One term with its multipliers.
    fn term(&mut self) -> Option<Node> {
        let mut node = self.atom()?;
        loop {
            node = if self.take("*") {
                node.repeat(0, u32::MAX, false)
            } else if self.take("+") {
                node.repeat(1, u32::MAX, false)
            } else if self.take("?") {
                node.repeat(0, 1, false)
            } else if self.take("!") {
                Node::Required(Box::new(node))
            } else if self.take("#") {
                let (min, max) = if self.rest.starts_with('{') { self.counts()? } else { (1, u32::MAX) };
                node.repeat(min, max, true)
            } else if self.rest.starts_with('{') {
                let (min, max) = self.counts()?;
                node.repeat(min, max, false)
            } else if self.take("@") {
                let name = self.word();
                Node::Label(Box::new(node), PropertyId::named(name)?)
            } else {
                return Some(node);
            };
        }
    }

    /// `{a,b}`
    fn counts(&mut self) -> Option<(u32, u32)> {
        let (inner, rest) = self.rest[1..].split_once('}')?;
        self.rest = rest;
        match inner.split_once(',') {
            None => inner.trim().parse().ok().map(|n| (n, n)),
            Some((min, max)) => Some((min.trim().parse().ok()?, max.trim().parse().unwrap_or(u32::MAX))),
        }
    }

    /// A name.
    fn word(&mut self) -> &'s str {
        let fits = |c: char| c.is_alphanumeric() || matches!(c, '-' | '_');
        let length = self.rest.find(|c| !fits(c)).unwrap_or(self.rest.len());
        let (word, rest) = self.rest.split_at(length);
        self.rest = rest;
        word
    }

    /// One thing without multipliers.
    fn atom(&mut self) -> Option<Node> {
        if self.take("[") {
            let node = self.alternatives();
            self.space();
            return self.take("]").then_some(node);
        }
        if self.take("'['") {
            let node = self.alternatives();
            self.space();
            return self.take("']'").then(|| Node::Square(Box::new(node)));
        }
        if self.take(",") {
            return Some(Node::Comma);
        }
        if self.rest.starts_with('\'') {
            let character = self.rest.chars().nth(1)?;
            self.rest = self.rest.get(1 + character.len_utf8()..)?;
            return self.take("'").then_some(Node::Literal(character));
        }
        if self.rest.starts_with('<') {
            let (inner, rest) = self.rest[1..].split_once('>')?;
            self.rest = rest;
            return reference(inner);
        }
        if self.exact {
            let (word, rest) =
                self.rest.split_at(self.rest.find([' ', '\t', '\n', '|', '+', '#']).unwrap_or(self.rest.len()));
            self.rest = rest;
            let tokens = Tokens::read(word);
            let token = tokens.all().peek().filter(|token| token.kind == Kind::Ident)?;
            return Some(Node::Word(Name::from(&*tokens.all().name(token))));
        }
        let word = self.word();
        if word.is_empty() {
            let character = self.rest.chars().next()?;
            self.rest = &self.rest[character.len_utf8()..];
            return matches!(character, '/' | ':' | ';' | '=' | '<' | '>' | '+').then_some(Node::Literal(character));
        }
        if self.take("(") {
            let node = if self.at_end() { Node::Sequence(Vec::new()) } else { self.alternatives() };
            self.space();
            return self.take(")").then(|| Node::Function(Name::from(word.to_ascii_lowercase()), Box::new(node)));
        }
        Some(Node::Keyword(Name::from(word.to_ascii_lowercase())))
    }
}

/// What stands between `<` and `>`.
fn reference(inner: &str) -> Option<Node> {
    if let Some(property) = inner.strip_prefix('\'') {
        let name = property.split('\'').next()?;
        return Some(PropertyId::named(name).map_or(Node::Nothing, |id| Node::Property(id, OnceLock::new())));
    }
    for (start, kind) in [("custom-ident except ", Builtin::CustomIdent), ("ident except ", Builtin::Ident)] {
        if let Some(names) = inner.strip_prefix(start) {
            return Some(Node::NameOtherThan(kind, names.split_whitespace().map(Name::from).collect()));
        }
    }
    let (name, range) = inner.split_once('[').unwrap_or((inner, ""));
    let name = name.trim();
    let mut bounds = range.trim_end_matches(']').split(',').map(|b| {
        let b = b.trim();
        let number = b.trim_end_matches(|c: char| c.is_alphabetic() || c == '%');
        match b {
            "∞" => f64::INFINITY,
            "-∞" | "−∞" => f64::NEG_INFINITY,
            _ => number.parse().unwrap_or(f64::NAN),
        }
    });
    let low = bounds.next().filter(|b| !b.is_nan()).unwrap_or(f64::NEG_INFINITY);
    let high = bounds.next().filter(|b| !b.is_nan()).unwrap_or(f64::INFINITY);
    if let Some(builtin) = builtin(name) {
        // There is no negative resolution (CSS Values 4, §7.4).
        let low = if matches!(builtin, Builtin::Resolution) { low.max(0.0) } else { low };
        return Some(Node::Builtin(builtin, low, high));
    }
    let known = TYPES.get_key_value(name);
    Some(known.map_or(Node::Nothing, |(known, _)| Node::Type(known, OnceLock::new())))
}

/// The one node of a list, or the list as a group.
fn single(mut list: Vec<Node>, group: fn(Vec<Node>) -> Node) -> Node {
    if list.len() == 1 { list.pop().unwrap_or(Node::Nothing) } else { group(list) }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::syntax::Tokens;

    #[test]
    fn what_a_grammar_may_start_with() {
        let cases = [
            ("none | <length> <color>?", "NONE 1px calc(1px) n\\6fne", "auto # 'a' [ , /"),
            ("<integer>? a", "1 a b( calc(", "b 'a' #a"),
            ("[ a? b? ]!", "a b", "1 'a' c"),
            ("a? , b", "a b c 1 , [", ""),
            ("[ a || <string> ] && f( c )", "a 'x' f( F(", "c g( 1"),
            ("'[' a ']' | / b", "[ / :", "a b 1"),
        ];
        for (syntax, yes, no) in cases {
            let node = compile(syntax);
            let starts = node.starts(0);
            for (texts, expected) in [(yes, true), (no, false)] {
                for text in texts.split_whitespace() {
                    let fits = starts.fit(Tokens::read(text).all());
                    // A name may be taken for another one.
                    assert!(
                        fits == expected || (fits && text.starts_with(|c: char| c.is_alphabetic())),
                        "{syntax}: {text}"
                    );
                }
            }
        }
    }
}
