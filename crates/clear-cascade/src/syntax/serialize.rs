//! Tokens as text that reads back as the same tokens (CSS Syntax 3, §9 "Serialization"; CSSOM 1, §2.1).

use super::number::{number, number_text};
use super::{Kind, Slice};

/// Writes an identifier so that it reads back as itself (CSSOM 1, "serialize an identifier").
pub(crate) fn serialize_identifier(name: &str) -> String {
    // Nearly all are what they are.
    let start = name.bytes().next().is_some_and(|b| b.is_ascii_alphabetic() || b == b'_');
    if start && name.bytes().all(|b| b.is_ascii_alphanumeric() || matches!(b, b'-' | b'_')) {
        return name.to_owned();
    }
    let mut out = String::new();
    cssparser::serialize_identifier(name, &mut out).ok();
    out
}

/// Writes a string in double quotes (CSSOM 1, "serialize a string").
pub(crate) fn serialize_string(text: &str) -> String {
    let mut out = String::new();
    cssparser::serialize_string(text, &mut out).ok();
    out
}

/// Puts an empty comment between texts that would read as other tokens where they touch (CSS Syntax 3, §9, the table).
pub(crate) fn separate(out: &mut String, next: &str) {
    let (Some(last), Some(first)) = (out.chars().next_back(), next.chars().next()) else { return };
    if (sticks(last) && (sticks(first) || first == '(')) || (last == '/' && first == '*') {
        out.push_str("/**/");
    }
}

/// Whether a character may go on a token before it or be gone on with.
fn sticks(c: char) -> bool {
    c.is_alphanumeric() || matches!(c, '-' | '_' | '#' | '@' | '%' | '.' | '+') || !c.is_ascii()
}

impl Slice<'_> {
    /// The run written anew: white space as one space, comments left out, numbers and strings in their shortest form,
    /// percentages with six digits, names without needless escapes, brackets closed.
    pub(crate) fn serialized(self) -> String {
        let mut out = String::with_capacity(self.text().len());
        let mut open: Vec<char> = Vec::new();
        for (i, token) in (self.from..self.to).zip(&self.tokens.list[self.from as usize..]) {
            let here = Slice { from: i, to: i + 1, ..self };
            let written = here.text();
            // A comment stood here.
            if i > self.from && self.tokens.list[i as usize - 1].end < token.start {
                separate(&mut out, written);
            }
            let name = || serialize_identifier(&here.name(*token));
            let text = match token.kind {
                Kind::Space => " ".to_owned(),
                // Side by side with another token that it must not join, a number stays as it is.
                Kind::Number(..) | Kind::Percentage(_) | Kind::Dimension(..)
                    if out.chars().next_back().is_some_and(sticks) =>
                {
                    written.to_owned()
                }
                Kind::Number(n, true) => number(n),
                Kind::Number(n, false) => {
                    let text = number(n);
                    if text.contains(['.', 'e']) { text } else { format!("{text}.0") }
                }
                Kind::Percentage(n) => format!("{}%", number_text(n)),
                Kind::Dimension(n, unit) => {
                    let unit = &self.tokens.text[unit as usize..token.end as usize];
                    format!("{}{unit}", number(n))
                }
                Kind::Ident => name(),
                Kind::Url => {
                    let inside = written[4..].strip_suffix(')').unwrap_or(&written[4..]);
                    format!("url({})", inside.trim())
                }
                Kind::Str => serialize_string(&here.name(*token)),
                Kind::AtKeyword => format!("@{}", name()),
                Kind::Hash(true) => format!("#{}", name()),
                Kind::Function(_) => format!("{}(", name()),
                _ => written.to_owned(),
            };
            out.push_str(&text);
            match token.kind {
                Kind::Function(_) | Kind::Paren(_) => open.push(')'),
                Kind::Square(_) => open.push(']'),
                Kind::Curly(_) => open.push('}'),
                Kind::Close(_, true) => drop(open.pop()),
                _ => {}
            }
        }
        out.extend(open.iter().rev());
        out
    }
}
