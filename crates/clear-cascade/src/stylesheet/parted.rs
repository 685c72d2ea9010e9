//! Plain blocks parted into declarations by their bytes, so that values are not read whose like was read before.
//!
//! What comes in: the inside of a block in which nothing but declarations is ([`outline`](super::outline)). What goes out: where each
//! has its name and its value; or nothing, where the tokens must tell, as of what would be dropped (CSS Syntax 3, §5.5.6).

use std::ops::Range;
use std::sync::OnceLock;

use once_cell::race::OnceBox;

use super::declaration::{Declaration, Property, Written};
use super::outline::{after_comment, after_string, after_url, ends_with};
use crate::document::Name;
use crate::property::PropertyId;
use crate::source::{OffsetMap, offset};
use crate::text::{is_white, stands_in_names};

/// Whether a function may be in a value that goes by attributes: `attr()`, or a custom one.
fn goes_by_attributes(value: &[u8]) -> bool {
    let mut brackets = value.iter().enumerate().filter(|(_, byte)| **byte == b'(');
    brackets.any(|(at, _)| {
        let before = &value[..at];
        let name = before.len() - before.iter().rev().take_while(|b| stands_in_names(**b)).count();
        before[name..].starts_with(b"--") || ends_with(before, b"attr")
    })
}

/// The declarations in some bytes of a text, as those of the rule with a number.
pub(super) fn parted(text: &str, part: Range<usize>, map: &OffsetMap, rule: u32) -> Option<Vec<Declaration>> {
    let Range { start: mut at, end } = part;
    let block = &text.as_bytes()[..end];
    // Behind the last one, no semicolon is needed.
    let unended = block[at..].iter().rfind(|b| !is_white(**b)).is_some_and(|b| *b != b';');
    let ends = memchr::memchr_iter(b';', &block[at..]).count();
    let mut found = Vec::with_capacity(ends + usize::from(unended));
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
        found.push(Declaration {
            name: (*written != *property.name()).then(|| Name::from(written)),
            property,
            span: map.span(offset(name.0), offset(important.unwrap_or(value.1))),
            important: important.is_some(),
            rule,
            goes_by_attributes: goes_by_attributes(&block[value.0..value.1]),
            value: Written::Bytes(offset(value.0)..offset(value.1), OnceBox::new()),
            meaning: OnceLock::new(),
        });
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
