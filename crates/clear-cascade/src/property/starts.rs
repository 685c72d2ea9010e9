//! What a component that a grammar takes may start with, so that alternatives are passed over that cannot match.

use std::ops::BitOr;

use super::syntax::{Builtin, Node, named_type};
use crate::limits::DEEPEST_TYPE;
use crate::syntax::{Kind, Slice};

/// What something may start with. It may take in too much, but never too little.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub(super) struct Starts {
    /// A bit for each kind of token, and one where nothing at all may match.
    kinds: u16,
    /// A bit for keywords, each of which stands for many.
    keywords: u64,
    /// The same for functions.
    functions: u64,
}

/// Where nothing at all may match.
const EMPTY: u16 = 1 << 15;

/// One of each kind of token; of identifiers and functions all are meant.
const KINDS: [Kind; 10] = [
    Kind::Ident,
    Kind::Function(0),
    Kind::Number(0.0, true),
    Kind::Percentage(0.0),
    Kind::Dimension(0.0, 0),
    Kind::Hash(true),
    Kind::Str,
    Kind::Url,
    Kind::Square(0),
    Kind::Comma,
];

/// The bit of a kind of token; all that has none of its own shares one.
fn bit(kind: Kind) -> u16 {
    let same = |of: &Kind| std::mem::discriminant(of) == std::mem::discriminant(&kind);
    1 << KINDS.iter().position(same).unwrap_or(KINDS.len() - 1)
}

/// The bit of a name, whose case does not count.
fn name_bit(name: &str) -> u64 {
    let fold = |byte: Option<&u8>| byte.map_or(0, |byte| usize::from(byte | 0x20));
    let bytes = name.as_bytes();
    1 << ((bytes.len() * 7 + fold(bytes.first()) * 31 + fold(bytes.last()) * 17) % 64)
}

impl BitOr for Starts {
    type Output = Self;

    fn bitor(self, other: Self) -> Self {
        Self {
            kinds: self.kinds | other.kinds,
            keywords: self.keywords | other.keywords,
            functions: self.functions | other.functions,
        }
    }
}

impl Starts {
    /// Anything, or nothing at all.
    const ALL: Self = Self { kinds: u16::MAX, keywords: 0, functions: 0 };

    /// What a grammar inside of so many types may start with.
    pub(super) fn of(node: &Node, depth: u16) -> Self {
        if depth > DEEPEST_TYPE {
            return Self::ALL;
        }
        let kind = |kind| Self { kinds: bit(kind), ..Self::default() };
        match node {
            Node::Keyword(name) => Self { keywords: name_bit(name), ..Self::default() },
            Node::Function(name, _) => Self { functions: name_bit(name), ..Self::default() },
            Node::NameOtherThan(_) => kind(Kind::Ident),
            Node::Square(_) => kind(Kind::Square(0)),
            Node::Literal(_) => kind(Kind::Delim(' ')),
            Node::Builtin(Builtin::Anything | Builtin::SizeCalculation, ..) => Self::ALL,
            Node::Builtin(builtin, ..) => {
                let starts = KINDS.into_iter().filter(|kind| builtin.may_start(Some(*kind)));
                starts.fold(Self::default(), |all, of| all | kind(of))
            }
            Node::Type(name, _) => named_type(name).map_or(Self::default(), |inner| Self::of(inner, depth + 1)),
            Node::Property(property, _) => Self::of(property.grammar(), depth + 1),
            Node::Label(inner, _) => Self::of(inner, depth),
            Node::Required(inner) => Self::of(inner, depth).needed(),
            // A comma may be left out.
            Node::Comma => Self::ALL,
            Node::Repeat(repeat) if repeat.min == 0 => {
                Self::of(&repeat.inner, depth) | Self { kinds: EMPTY, ..Self::default() }
            }
            Node::Repeat(repeat) => Self::of(&repeat.inner, depth),
            Node::Sequence(list) => {
                let mut all = Self::default();
                for node in list {
                    let starts = Self::of(node, depth);
                    all = all | starts.needed();
                    if starts.kinds & EMPTY == 0 {
                        return all;
                    }
                }
                all | Self { kinds: EMPTY, ..Self::default() }
            }
            Node::All(list) | Node::Some(list) | Node::One(list) => {
                list.iter().fold(Self::default(), |all, node| all | Self::of(node, depth))
            }
            Node::Nothing => Self::default(),
        }
    }

    /// The same where something must match.
    fn needed(self) -> Self {
        Self { kinds: self.kinds & !EMPTY, ..self }
    }

    /// Whether the first token of a run may be one of these.
    pub(super) fn fit(self, here: Slice<'_>) -> bool {
        let Some(token) = here.peek() else { return self.kinds & EMPTY != 0 };
        if self.kinds & (EMPTY | bit(token.kind)) != 0 {
            return true;
        }
        let (names, behind) = match token.kind {
            Kind::Ident => (self.keywords, 0),
            Kind::Function(_) => (self.functions, 1),
            _ => return false,
        };
        let written = &here.tokens.text[token.start as usize..token.end as usize - behind];
        // What has escapes or a NUL in it may be any name.
        names & name_bit(written) != 0 || memchr::memchr2(b'\\', 0, written.as_bytes()).is_some()
    }
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
            let node = super::super::syntax::compile(syntax);
            let starts = Starts::of(&node, 0);
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
