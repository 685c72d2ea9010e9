//! Selectors that need not be read before a page has something that they may take, told by their bytes.
//!
//! Whatever would need more than bytes to be told is read at once: escapes with digits, namespaces, pseudo-classes with arguments other than
//! `:not()`, whatever may be no selector. What is told plain here is a list of selectors (Selectors 4, §17), so that nothing in it
//! will have to be dropped.

use std::borrow::Cow;

use super::{AttributeOperator, Combinator, PseudoClass, State};

/// What a plain selector is made of, in written order.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(crate) enum Plain<'t> {
    /// An id.
    Id(Written<'t>),
    /// A class.
    Class(Written<'t>),
    /// An element name.
    Type(Written<'t>),
    /// An attribute, with what its value is compared with.
    Attribute(Written<'t>, Option<(AttributeOperator, Written<'t>)>),
    /// A state.
    State(State),
    /// A pseudo-class that follows from where an element stands.
    Structural(&'t str),
    /// A pseudo-element.
    PseudoElement(&'t str),
    /// The compound ends, and how the next one relates to it.
    Combinator(Combinator),
    /// `:not()` starts, in which compounds stand.
    Not,
    /// A compound in `:not()` ends.
    Or,
    /// `:not()` ends, and the last compound in it.
    EndNot,
    /// The selector ends.
    End,
}

/// A name as it is written.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(crate) struct Written<'t> {
    /// The text.
    text: &'t str,
    /// Whether a backslash is in it; the character behind one is meant.
    escaped: bool,
}

impl<'t> Written<'t> {
    /// The name that is meant.
    pub(crate) fn name(self) -> Cow<'t, str> {
        if self.escaped { crate::syntax::unescaped(self.text) } else { Cow::Borrowed(self.text) }
    }
}

/// Pseudo-elements, and how many of them may be written with one colon.
const PSEUDO_ELEMENTS: ([&str; 8], usize) =
    (["before", "after", "first-line", "first-letter", "placeholder", "selection", "marker", "backdrop"], 4);

/// Goes over the selectors that stand before a block from a byte on, and calls `found` with what they are made of. Gives where the block
/// starts, or nothing where the selectors are not plain.
pub(crate) fn plain_list<'t>(text: &'t str, start: usize, found: impl FnMut(Plain<'t>)) -> Option<usize> {
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
struct Scan<'t, F> {
    /// The text.
    text: &'t str,
    /// The next byte.
    at: usize,
    /// Whether it is inside of `:not()`.
    inside: bool,
    /// Takes what is found.
    found: F,
}

impl<'t, F: FnMut(Plain<'t>)> Scan<'t, F> {
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
    fn name(&mut self) -> Option<Written<'t>> {
        let bytes = self.text.as_bytes();
        let mut escaped = false;
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
            escaped = true;
        }
        self.at = at;
        // The name goes on, or it is that of a function.
        let whole = bytes[at] < 128 && !matches!(bytes[at], b'(' | 0);
        whole.then(|| Written { text: &self.text[from..at], escaped })
    }

    /// Takes a complex selector, up to the comma or block behind it.
    fn selector(&mut self) -> Option<()> {
        loop {
            let ended = self.compound()?;
            let spaced = self.white();
            match self.peek() {
                b',' | b'{' => return Some(()),
                sign @ (b'>' | b'+' | b'~') if !ended => {
                    self.at += 1;
                    self.white();
                    (self.found)(Plain::Combinator(match sign {
                        b'>' => Combinator::Child,
                        b'+' => Combinator::NextSibling,
                        _ => Combinator::SubsequentSibling,
                    }));
                }
                _ if spaced && !ended => (self.found)(Plain::Combinator(Combinator::Descendant)),
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
            let name = self.name()?.text;
            (self.found)(Plain::PseudoElement(name));
            return names.contains(&name).then_some(true);
        }
        if !self.inside && self.text[self.at..].starts_with("not(") {
            self.at += 4;
            return self.not().map(|()| false);
        }
        let name = self.name()?.text;
        if let Some(state) = State::named(name) {
            (self.found)(Plain::State(state));
            return Some(false);
        }
        if names[..with_one_colon].contains(&name) {
            (self.found)(Plain::PseudoElement(name));
            return Some(true);
        }
        (self.found)(Plain::Structural(name));
        PseudoClass::structural(name).map(|_| false)
    }

    /// Takes the compounds inside of `:not()`, up to its closing bracket.
    fn not(&mut self) -> Option<()> {
        (self.found)(Plain::Not);
        self.inside = true;
        loop {
            self.white();
            if self.compound()? {
                return None;
            }
            self.white();
            if self.take(b')') {
                self.inside = false;
                (self.found)(Plain::EndNot);
                return Some(());
            }
            if !self.take(b',') {
                return None;
            }
            (self.found)(Plain::Or);
        }
    }

    /// Takes an attribute selector.
    fn attribute(&mut self) -> Option<()> {
        self.at += 1;
        let name = self.name()?;
        if self.take(b']') {
            (self.found)(Plain::Attribute(name, None));
            return Some(());
        }
        let operator = match self.peek() {
            b'~' => AttributeOperator::Word,
            b'|' => AttributeOperator::Dash,
            b'^' => AttributeOperator::Starts,
            b'$' => AttributeOperator::Ends,
            b'*' => AttributeOperator::Contains,
            _ => AttributeOperator::Equals,
        };
        self.at += usize::from(operator != AttributeOperator::Equals);
        if !self.take(b'=') {
            return None;
        }
        let value = match self.peek() {
            quote @ (b'"' | b'\'') => {
                self.at += 1;
                let from = self.at;
                while self.peek() != quote {
                    if matches!(self.peek(), b'\\' | b'\n' | b'\r' | b'\x0C' | 0) {
                        return None;
                    }
                    self.at += 1;
                }
                self.at += 1;
                Written { text: &self.text[from..self.at - 1], escaped: false }
            }
            _ => self.name()?,
        };
        (self.found)(Plain::Attribute(name, Some((operator, value))));
        self.take(b']').then_some(())
    }
}
