//! Where a tag and its attributes are written.
//!
//! html5ever tells no offsets. The page is fed to it in pieces that end after each `>`, so that a tag token is known to
//! end with the piece just fed; its start and its attributes are found again here by the tokenizer's own rules
//! (HTML Standard, "Tokenization").

use std::borrow::Cow;

use rustc_hash::FxHashSet;
use smallvec::SmallVec;

use super::FEW;
use crate::source::offset;
use crate::text::in_lower_case;

/// Where an attribute of a tag is written, in bytes of the page.
#[derive(Clone, Debug)]
pub(super) struct AttributePlace {
    /// First byte of the name and the byte after it.
    pub(super) name: (u32, u32),
    /// First byte of the value and the byte after it, quotes excluded.
    pub(super) value: (u32, u32),
}

/// The places of the attributes of a tag: few nearly always.
pub(super) type AttributePlaces = SmallVec<[AttributePlace; 4]>;

/// Finds where the tag that ends at `end` starts. `after` is where the token before it ended, `name` the tag's name.
pub(super) fn tag_start(text: &str, after: usize, end: usize, name: &str, is_end_tag: bool, raw: bool) -> usize {
    let bytes = text.as_bytes();
    let names_it = |at: usize| {
        let rest = &bytes[at..end];
        rest.len() >= name.len() && rest[..name.len()].eq_ignore_ascii_case(name.as_bytes())
    };
    if raw {
        // In raw text only the matching end tag is a tag, and it is the last thing before `end`.
        let mut at = end;
        while let Some(found) = text[after..at].rfind("</") {
            if names_it(after + found + 2) {
                return after + found;
            }
            at = after + found;
        }
        return after;
    }
    let mut at = after;
    while let Some(found) = memchr::memchr(b'<', &bytes[at..end]) {
        let start = at + found;
        let next = bytes.get(start + 1).copied().unwrap_or_default();
        if text[start..end].starts_with("<![CDATA[") {
            at = text[start..end].find("]]>").map_or(end, |n| start + n + 3);
            continue;
        }
        let opens = if is_end_tag { next == b'/' } else { next.is_ascii_alphabetic() };
        if opens {
            return start;
        }
        at = start + 1;
    }
    after
}

/// Finds the attributes of a start tag that spans `start..end`, in written order, duplicates left out.
pub(super) fn attributes(text: &str, start: usize, end: usize) -> AttributePlaces {
    let bytes = &text.as_bytes()[..end.max(start)];
    let space = |i: usize| matches!(bytes.get(i), Some(b'\t' | b'\n' | b'\x0C' | b'\r' | b' '));
    let mut at = start + 1;
    while at < bytes.len() && !space(at) && !matches!(bytes[at], b'/' | b'>') {
        at += 1;
    }
    let mut found = AttributePlaces::new();
    let named = |p: &AttributePlace| &text[p.name.0 as usize..p.name.1 as usize];
    // The names so far, in lower case, once they are many.
    let mut known: FxHashSet<Cow<'_, str>> = FxHashSet::default();
    loop {
        while space(at) || bytes.get(at) == Some(&b'/') {
            at += 1;
        }
        if at >= bytes.len() || bytes[at] == b'>' {
            return found;
        }
        let name_start = at;
        at += 1; // An attribute name may start with `=`.
        while at < bytes.len() && !space(at) && !matches!(bytes[at], b'/' | b'>' | b'=') {
            at += 1;
        }
        let name_end = at;
        let mut value = (name_end, name_end);
        let mut look = at;
        while space(look) {
            look += 1;
        }
        if bytes.get(look) == Some(&b'=') {
            look += 1;
            while space(look) {
                look += 1;
            }
            at = look;
            match bytes.get(at) {
                Some(quote @ (b'"' | b'\'')) => {
                    let from = at + 1;
                    let length = memchr::memchr(*quote, &bytes[from..]).unwrap_or(bytes.len() - from);
                    value = (from, from + length);
                    at = (from + length + 1).min(bytes.len());
                }
                _ => {
                    let from = at;
                    while at < bytes.len() && !space(at) && bytes[at] != b'>' {
                        at += 1;
                    }
                    value = (from, at);
                }
            }
        }
        let name = &text[name_start..name_end];
        let is_new = if found.len() <= FEW {
            !found.iter().any(|p| named(p).eq_ignore_ascii_case(name))
        } else {
            if known.is_empty() {
                known.extend(found.iter().map(|p| in_lower_case(named(p))));
            }
            known.insert(in_lower_case(name))
        };
        if is_new {
            found.push(AttributePlace {
                name: (offset(name_start), offset(name_end)),
                value: (offset(value.0), offset(value.1)),
            });
        }
    }
}

/// Pairs of (offset in the decoded value, offset in the page) for an attribute value.
///
/// `raw` is the value as written from byte `base` on, `decoded` the value the tokenizer gave. Where they are the same,
/// one pair is enough; otherwise each character reference and line end adds one.
pub(super) fn decoded_steps(raw: &str, decoded: &str, base: u32) -> Vec<(u32, u32)> {
    let mut steps = vec![(0, base)];
    if raw == decoded {
        return steps;
    }
    let (mut r, mut d) = (0, 0);
    while r < raw.len() && d < decoded.len() {
        let (next_raw, next_decoded) = (raw[r..].chars().next(), decoded[d..].chars().next());
        let (Some(a), Some(b)) = (next_raw, next_decoded) else {
            break;
        };
        if a == b && a != '&' {
            r += a.len_utf8();
            d += b.len_utf8();
            continue;
        }
        // A reference or a line end: find the shortest written piece after which the rests run in step again.
        let rest = &decoded[d..];
        let step = (1..=raw.len() - r)
            .filter(|n| raw.is_char_boundary(r + n))
            .find_map(|n| (0..=2).find_map(|taken| step_fits(&raw[r + n..], rest, taken).map(|length| (n, length))));
        let Some((written, read)) = step else { break };
        r += written;
        d += read;
        steps.push((offset(d), base + offset(r)));
    }
    steps
}

/// Whether `raw` goes on as `decoded` does once `taken` characters of it are left out; gives the bytes left out.
fn step_fits(raw: &str, decoded: &str, taken: usize) -> Option<usize> {
    let length: usize = decoded.chars().take(taken).map(char::len_utf8).sum();
    let plain = raw.find(['&', '\r']).unwrap_or(raw.len()).min(12);
    let plain = (0..=plain).rev().find(|n| raw.is_char_boundary(*n)).unwrap_or(0);
    let fits =
        decoded[length..].starts_with(&raw[..plain]) && (plain > 0 || raw.is_empty() == decoded[length..].is_empty());
    (fits && taken > 0).then_some(length)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn attributes_are_found_as_the_tokenizer_finds_them() {
        let text = "<a  b=c d='e > f' G = \"h\" / i =j k b=again>";
        let found: Vec<(&str, &str)> = attributes(text, 0, text.len())
            .iter()
            .map(|p| (&text[p.name.0 as usize..p.name.1 as usize], &text[p.value.0 as usize..p.value.1 as usize]))
            .collect();
        assert_eq!(found, [("b", "c"), ("d", "e > f"), ("G", "h"), ("i", "j"), ("k", "")]);
        // Of many, too, each counts once, whatever its case.
        let many: String = (0..90).map(|i| format!(" Aa{}{i}", if i % 2 == 0 { "b" } else { "B" })).collect();
        let text = format!("<a{many}{}{many}>", many.to_uppercase());
        assert_eq!(attributes(&text, 0, text.len()).len(), 90);
    }

    #[test]
    fn decoded_values_lead_back() {
        let raw = "font-family: &quot;A B&quot;; color: red";
        let decoded = "font-family: \"A B\"; color: red";
        let map = crate::source::OffsetMap::steps(crate::source::SourceId::QUESTION, decoded_steps(raw, decoded, 100));
        let at = |what: &str| map.at(offset(decoded.find(what).unwrap())) - 100;
        assert_eq!(at("A B") as usize, raw.find("A B").unwrap());
        assert_eq!(at("color") as usize, raw.find("color").unwrap());
        assert_eq!(at("red") as usize, raw.find("red").unwrap());
    }
}
