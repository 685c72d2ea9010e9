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
