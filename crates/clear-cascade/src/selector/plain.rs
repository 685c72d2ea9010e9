//! Selectors that need not be read before a page has something that they may take, told by their bytes.
//!
//! Whatever would need more than bytes to be told is read at once: escapes with digits, namespaces, pseudo-classes with arguments other than
//! `:not()`, whatever may be no selector. What is told plain here is a list of selectors (Selectors 4, §17), so that nothing in it
//! will have to be dropped.

use super::State;

/// A name in a plain selector that the elements it takes, or those around them, must have. It is told as written: where a backslash
/// is in it, the character behind that is meant.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(crate) enum Plain<'t> {
    /// This id.
    Id(&'t str),
    /// This class.
    Class(&'t str),
    /// This element name.
    Type(&'t str),
    /// None, but to be in this state.
    State(State),
    /// Here the selector ends.
    End,
}

/// Pseudo-classes that follow from where an element stands.
const STRUCTURAL: [&str; 8] =
    ["root", "empty", "first-child", "last-child", "only-child", "first-of-type", "last-of-type", "only-of-type"];

/// Pseudo-elements, and how many of them may be written with one colon.
const PSEUDO_ELEMENTS: ([&str; 8], usize) =
    (["before", "after", "first-line", "first-letter", "placeholder", "selection", "marker", "backdrop"], 4);

/// Goes over the selectors that stand before a block from a byte on, and calls `found` with what each needs. Gives where the block
/// starts, or nothing where the selectors are not plain.
pub(crate) fn plain_list<'t>(text: &'t str, start: usize, found: &mut dyn FnMut(Plain<'t>)) -> Option<usize> {
    let mut scan = Scan { text, at: start, inside: false, found };
    loop {
        scan.white();
        scan.selector()?;
        (scan.found)(Plain::End);
        match scan.peek() {
            b'{' => return Some(scan.at),
            _ => scan.at += 1,
        }
    }
}

/// Which bytes stand in names.
static IN_NAMES: [bool; 256] = {
    let (mut in_names, mut byte) = ([false; 256], 0u8);
    while byte < 128 {
        in_names[byte as usize] = byte.is_ascii_alphanumeric() || byte == b'-' || byte == b'_';
        byte += 1;
    }
    in_names
};

/// Where the scan is.
struct Scan<'t, 'f> {
    /// The text.
    text: &'t str,
    /// The next byte.
    at: usize,
    /// Whether it is inside of `:not()`.
    inside: bool,
    /// Takes what is found.
    found: &'f mut dyn FnMut(Plain<'t>),
}

impl<'t> Scan<'t, '_> {
    /// The next byte; NUL at the end of the text, which no plain selector has.
    fn peek(&self) -> u8 {
        self.text.as_bytes().get(self.at).copied().unwrap_or(0)
    }

    /// Takes a byte, if it is the next.
    fn take(&mut self, byte: u8) -> bool {
        let is_next = self.peek() == byte;
        self.at += usize::from(is_next);
        is_next
    }

    /// Takes white space; whether there was any.
    fn white(&mut self) -> bool {
        let from = self.at;
        while matches!(self.peek(), b' ' | b'\t' | b'\n' | b'\r' | b'\x0C') {
            self.at += 1;
        }
        self.at > from
    }

    /// Takes a name. One that starts with two hyphens is left out, since it may be the end of an HTML comment.
    fn name(&mut self) -> Option<&'t str> {
        let bytes = self.text.as_bytes();
        let (from, mut at) = (self.at, self.at + usize::from(self.peek() == b'-'));
        if !matches!(bytes.get(at)?, b'a'..=b'z' | b'A'..=b'Z' | b'_' | b'\\') {
            return None;
        }
        loop {
            at += bytes[at..].iter().position(|b| !IN_NAMES[usize::from(*b)])?;
            if bytes[at] != b'\\' {
                break;
            }
            let next = bytes.get(at + 1)?;
            if !next.is_ascii_graphic() || next.is_ascii_hexdigit() {
                return None;
            }
            at += 2;
        }
        self.at = at;
        // The name goes on, or it is that of a function.
        let whole = bytes[at] < 128 && !matches!(bytes[at], b'(' | 0);
        whole.then(|| &self.text[from..at])
    }

    /// Takes a complex selector, up to the comma or block behind it.
    fn selector(&mut self) -> Option<()> {
        loop {
            let ended = self.compound()?;
            let spaced = self.white();
            match self.peek() {
                b',' | b'{' => return Some(()),
                b'>' | b'+' | b'~' if !ended => {
                    self.at += 1;
                    self.white();
                }
                _ if spaced && !ended => {}
                _ => return None,
            }
        }
    }

    /// Takes a compound; whether a pseudo-element ends it.
    fn compound(&mut self) -> Option<bool> {
        let from = self.at;
        if self.take(b'*') {
        } else if self.peek().is_ascii_alphabetic() || matches!(self.peek(), b'-' | b'_') {
            let name = self.name()?;
            (self.found)(Plain::Type(name));
        }
        if self.peek() == b'|' {
            return None;
        }
        loop {
            match self.peek() {
                b'.' => {
                    self.at += 1;
                    let name = self.name()?;
                    (self.found)(Plain::Class(name));
                }
                b'#' => {
                    self.at += 1;
                    let name = self.name()?;
                    (self.found)(Plain::Id(name));
                }
                b'[' => self.attribute()?,
                b':' => {
                    if self.pseudo()? {
                        return Some(true);
                    }
                }
                _ => return (self.at > from).then_some(false),
            }
        }
    }

    /// Takes a pseudo-class or pseudo-element; whether it is the latter.
    fn pseudo(&mut self) -> Option<bool> {
        self.at += 1;
        let (names, with_one_colon) = PSEUDO_ELEMENTS;
        if self.take(b':') {
            let name = self.name()?;
            return names.contains(&name).then_some(true);
        }
        if !self.inside && self.text[self.at..].starts_with("not(") {
            self.at += 4;
            return self.not();
        }
        let name = self.name()?;
        if let Some(state) = State::named(name) {
            (self.found)(Plain::State(state));
            return Some(false);
        }
        let element = names[..with_one_colon].contains(&name);
        (element || STRUCTURAL.contains(&name)).then_some(element)
    }

    /// Takes the compounds inside of `:not()`; what they name is not needed.
    fn not(&mut self) -> Option<bool> {
        let mut inside = Scan { text: self.text, at: self.at, inside: true, found: &mut |_| {} };
        loop {
            inside.white();
            if inside.compound()? {
                return None;
            }
            inside.white();
            if inside.take(b')') {
                self.at = inside.at;
                return Some(false);
            }
            if !inside.take(b',') {
                return None;
            }
        }
    }

    /// Takes an attribute selector.
    fn attribute(&mut self) -> Option<()> {
        self.at += 1;
        self.name()?;
        if self.take(b']') {
            return Some(());
        }
        if matches!(self.peek(), b'~' | b'|' | b'^' | b'$' | b'*') {
            self.at += 1;
        }
        if !self.take(b'=') {
            return None;
        }
        match self.peek() {
            quote @ (b'"' | b'\'') => {
                self.at += 1;
                while self.peek() != quote {
                    if matches!(self.peek(), b'\\' | b'\n' | b'\r' | b'\x0C' | 0) {
                        return None;
                    }
                    self.at += 1;
                }
                self.at += 1;
            }
            _ => _ = self.name()?,
        }
        self.take(b']').then_some(())
    }
}
