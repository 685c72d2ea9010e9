//! What a component that a grammar takes may start with, so that alternatives are passed over that cannot match.

use std::ops::BitOr;

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
    pub(super) const ALL: Self = Self { kinds: u16::MAX, keywords: 0, functions: 0 };

    /// Nothing at all.
    pub(super) const NOTHING: Self = Self { kinds: EMPTY, keywords: 0, functions: 0 };

    /// A kind of token.
    pub(super) fn kind(kind: Kind) -> Self {
        Self { kinds: bit(kind), ..Self::default() }
    }

    /// The kinds of tokens that a test lets through.
    pub(super) fn kinds(test: impl Fn(Kind) -> bool) -> Self {
        KINDS.into_iter().filter(|kind| test(*kind)).fold(Self::default(), |all, kind| all | Self::kind(kind))
    }

    /// A keyword.
    pub(super) fn keyword(name: &str) -> Self {
        Self { keywords: name_bit(name), ..Self::default() }
    }

    /// A function.
    pub(super) fn function(name: &str) -> Self {
        Self { functions: name_bit(name), ..Self::default() }
    }

    /// Whether nothing at all may match.
    pub(super) fn may_be_nothing(self) -> bool {
        self.kinds & EMPTY != 0
    }

    /// The same where something must match.
    pub(super) fn needed(self) -> Self {
        Self { kinds: self.kinds & !EMPTY, ..self }
    }

    /// Whether the first token of a run may be one of these.
    pub(super) fn fit(self, here: Slice<'_>) -> bool {
        let Some(token) = here.peek() else { return self.may_be_nothing() };
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
