//! Plain blocks parted into declarations by their bytes, so that values are not read whose like was read before.
//!
//! What comes in: the inside of a block in which nothing but declarations is ([`outline`](super::outline)). What goes out: where each
//! has its name and its value; or nothing, where the tokens must tell, as of what would be dropped (CSS Syntax 3, §5.5.6).

use std::sync::OnceLock;

use smallvec::SmallVec;

use super::declaration::{Declaration, Property, Written};
use super::outline::{after_comment, after_string, after_url, ends_with};
use crate::property::PropertyId;
use crate::source::{OffsetMap, offset};
use crate::text::{is_white, stands_in_names};

/// A declaration by its bytes.
#[derive(Debug)]
pub(super) struct Parted {
    /// The property.
    pub(super) property: Property,
    /// Its name.
    pub(super) name: (usize, usize),
    /// Its value, neither white space nor `!important` at its end.
    pub(super) value: (usize, usize),
    /// Where it ends.
    pub(super) end: usize,
    /// Whether it is important.
    pub(super) important: bool,
}

impl Parted {
    /// The declaration in the rule with a number, of the text that it was parted from.
    pub(super) fn declaration(self, map: &OffsetMap, text: &str, rule: u32) -> Declaration {
        let (name, value) = (&text[self.name.0..self.name.1], &text[self.value.0..self.value.1]);
        Declaration {
            name: (*name != *self.property.name()).then(|| Box::from(name)),
            property: self.property,
            span: map.span(offset(self.name.0), offset(self.end)),
            important: self.important,
            rule,
            goes_by_attributes: goes_by_attributes(value),
            value: Written::Bytes(offset(self.value.0)..offset(self.value.1), OnceLock::new()),
            meaning: OnceLock::new(),
            pieces: OnceLock::new(),
        }
    }
}

/// Whether a function may be in a value that goes by attributes: `attr()`, or a custom one.
fn goes_by_attributes(value: &str) -> bool {
    value.match_indices('(').any(|(at, _)| {
        let before = &value.as_bytes()[..at];
        let name = before.len() - before.iter().rev().take_while(|b| stands_in_names(**b)).count();
        before[name..].starts_with(b"--") || ends_with(before, b"attr")
    })
}

/// The declarations between two bytes.
pub(super) fn parted(text: &str, (mut at, end): (usize, usize)) -> Option<SmallVec<[Parted; 8]>> {
    let block = &text.as_bytes()[..end];
    let mut found = SmallVec::new();
    loop {
        at = after_white(block, at)?;
        if at == end {
            return Some(found);
        }
        let name = (at, at + block[at..].iter().take_while(|b| stands_in_names(**b)).count());
        let colon = name.1 + block[name.1..].iter().take_while(|b| is_white(**b)).count();
        let written = &text[name.0..name.1];
        let property = Property::named(written).or_else(|| {
            let known = PropertyId::named(&written.to_ascii_lowercase());
            known.map(Property::Known)
        })?;
        if block.get(colon) != Some(&b':') {
            return None;
        }
        let (value, important, after) = value(block, colon + 1)?;
        let end = important.unwrap_or(value.1);
        found.push(Parted { property, name, value, end, important: important.is_some() });
        at = after;
    }
}

/// The byte after white space, semicolons and comments.
fn after_white(block: &[u8], mut at: usize) -> Option<usize> {
    loop {
        match block.get(at) {
            Some(b';') => at += 1,
            Some(byte) if is_white(*byte) => at += 1,
            Some(b'/') if block.get(at + 1) == Some(&b'*') => at = after_comment(block, at + 2)?,
            _ => return Some(at),
        }
    }
}

/// The value from a byte on; where `!important` ends, if it does in that; and the byte after the declaration.
fn value(block: &[u8], start: usize) -> Option<((usize, usize), Option<usize>, usize)> {
    let (mut at, mut open) = (start, 0_usize);
    let trimmed = |end: usize| {
        let from = start + block[start..end].iter().take_while(|b| is_white(**b)).count();
        let white = block[from..end].iter().rev().take_while(|b| is_white(**b)).count();
        // What has no value is told, but for custom properties.
        (from < end).then_some((from, end - white))
    };
    loop {
        let Some(byte) = block.get(at) else { return Some((trimmed(at)?, None, at)) };
        at += 1;
        match byte {
            b';' if open == 0 => return Some((trimmed(at - 1)?, None, at)),
            b'!' if open == 0 => {
                let word = at + block[at..].iter().take_while(|b| is_white(**b)).count();
                let behind = word + b"important".len();
                let after = behind + block.get(behind..)?.iter().take_while(|b| is_white(**b)).count();
                let ends = matches!(block.get(after), None | Some(b';'));
                let important = block.get(word..behind).filter(|w| w.eq_ignore_ascii_case(b"important") && ends);
                return important.and(Some((trimmed(at - 1)?, Some(behind), after)));
            }
            b'"' | b'\'' => at = after_string(block, at, *byte)?,
            b'(' if ends_with(&block[start..at - 1], b"url") => at = after_url(block, at)?,
            b'(' | b'[' => open += 1,
            b')' | b']' => open = open.checked_sub(1)?,
            b'!' => return None,
            b'/' if block.get(at) == Some(&b'*') => return None,
            _ => {}
        }
    }
}
