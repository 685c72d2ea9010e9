//! Small helpers for texts.

use std::borrow::Cow;

/// A number that tells a text from others: a hash of it.
pub(crate) fn mark(text: &str) -> u32 {
    use std::hash::{BuildHasher, BuildHasherDefault, DefaultHasher};
    let hash = BuildHasherDefault::<DefaultHasher>::default().hash_one(text);
    u32::try_from((hash >> 32) ^ (hash & 0xFFFF_FFFF)).unwrap_or(u32::MAX)
}

/// A text with its ASCII letters in lower case.
pub(crate) fn in_lower_case(text: &str) -> Cow<'_, str> {
    let upper = text.bytes().any(|b| b.is_ascii_uppercase());
    if upper { Cow::Owned(text.to_ascii_lowercase()) } else { Cow::Borrowed(text) }
}

/// Which bytes are letters of names in CSS, without escapes and beyond ASCII.
static IN_NAMES: [bool; 256] = {
    let (mut in_names, mut byte) = ([false; 256], 0u8);
    while byte < 128 {
        in_names[byte as usize] = byte.is_ascii_alphanumeric() || byte == b'-' || byte == b'_';
        byte += 1;
    }
    in_names
};

/// Whether a byte is a letter of a name in CSS (CSS Syntax 3, §4.2 "ident code point"), ASCII alone.
pub(crate) fn stands_in_names(byte: u8) -> bool {
    IN_NAMES[usize::from(byte)]
}

/// Whether a byte is white space in CSS (CSS Syntax 3, §4.2).
pub(crate) fn is_white(byte: u8) -> bool {
    matches!(byte, b' ' | b'\t' | b'\n' | b'\r' | b'\x0C')
}

/// The first byte from a place on that is in a set, eight at a time.
pub(crate) fn find_byte(bytes: &[u8], from: usize, set: &[bool; 256]) -> Option<usize> {
    let mut at = from;
    let is_in = |byte: &u8| set[usize::from(*byte)];
    let some = |[a, b, c, d, e, f, g, h]: &[u8; 8]| {
        is_in(a) | is_in(b) | is_in(c) | is_in(d) | is_in(e) | is_in(f) | is_in(g) | is_in(h)
    };
    while bytes.get(at..)?.first_chunk().is_some_and(|chunk| !some(chunk)) {
        at += 8;
    }
    bytes[at..].iter().position(is_in).map(|n| at + n)
}

/// A text on one line, cut at so many characters.
pub(crate) fn shorten(text: &str, most: usize) -> String {
    let line = text.split_whitespace().collect::<Vec<_>>().join(" ");
    if line.chars().count() <= most {
        return line;
    }
    let mut cut: String = line.chars().take(most.saturating_sub(1)).collect();
    cut.push('…');
    cut
}

/// A sentence with a capital letter at its start, where it starts with a word; what ends in a question needs no other end.
pub(crate) fn capital(text: &str) -> String {
    let text = text.strip_suffix("?.").map_or_else(|| text.to_owned(), |t| format!("{t}?"));
    let mut letters = text.chars();
    letters.next().map_or_else(String::new, |first| first.to_uppercase().chain(letters).collect())
}

/// A list in words: `a`, `a and b`, `a, b, and c`.
pub(crate) fn and(parts: &[String]) -> String {
    match parts {
        [] => String::new(),
        [one] => one.clone(),
        [one, two] => format!("{one} and {two}"),
        [start @ .., last] => format!("{}, and {last}", start.join(", ")),
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn bytes_are_found_wherever_they_are() {
        let mut set = [false; 256];
        set[usize::from(b'}')] = true;
        for length in 0..40 {
            for at in 0..length {
                let mut text = vec![b'a'; length];
                assert_eq!(find_byte(&text, at, &set), None, "{length} {at}");
                text[at] = b'}';
                let found = (0..=length + 1).map(|from| find_byte(&text, from, &set));
                assert!(found.enumerate().all(|(from, f)| f == (from <= at).then_some(at)), "{length} {at}");
            }
        }
    }
}
