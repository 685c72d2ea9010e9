//! Selectors that need not be read before a page has something that they may take, told by their bytes.
//!
//! Whatever would need more than bytes to be told is read at once: escapes with digits, namespaces, most pseudo-elements, whatever may be no
//! selector. What is told plain here is a list of selectors (Selectors 4, §17), so that nothing in it will have to be dropped. Selectors
//! with `:has()` in them are read once an element has the names that stand in them.

use std::borrow::Cow;

use super::{AttributeOperator, Combinator, PseudoClass, State, nth};
use crate::source::offset;
use crate::syntax::Tokens;
use crate::text::stands_in_names;

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
    /// One that counts elements.
    Counted(Counted<'t>),
    /// A pseudo-element.
    PseudoElement(&'t str),
    /// The compound ends, and how the next one relates to it.
    Combinator(Combinator),
    /// A pseudo-class starts that has a list of selectors in it, without the combinators that they may start with.
    Open(Functional),
    /// One of these ends, and the next starts.
    Or,
    /// The last one ends, and the pseudo-class.
    Close,
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

/// A pseudo-class with a list of selectors in it.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(crate) enum Functional {
    /// `:not()`
    Not,
    /// `:is()`
    Is,
    /// `:where()`, which weighs nothing.
    Where,
    /// `:has()`
    Has,
}

/// A pseudo-class that counts elements.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(crate) struct Counted<'t> {
    /// `An+B`
    count: &'t str,
    /// What is counted.
    by: Count,
}

impl Counted<'_> {
    /// The pseudo-class that is meant.
    pub(crate) fn pseudo_class(self) -> Option<PseudoClass> {
        let count = nth::parse(Tokens::read(self.count).all().trim())?;
        let Count { of_type, from_end } = self.by;
        Some(if of_type {
            PseudoClass::NthOfType(count, from_end)
        } else {
            PseudoClass::NthChild(count, from_end, None)
        })
    }
}

/// Pseudo-elements, and how many of them may be written with one colon.
const PSEUDO_ELEMENTS: ([&str; 8], usize) =
    (["before", "after", "first-line", "first-letter", "placeholder", "selection", "marker", "backdrop"], 4);

/// What plain selectors of a text are made of, so that their bytes are gone over once, whatever is asked of them later.
#[derive(Debug, Default)]
pub(crate) struct PlainParts(Vec<Part>);

/// A part as it is kept.
#[derive(Clone, Copy, Debug, PartialEq)]
struct Part {
    /// The first byte of its name or value; of others the byte behind what is written for them.
    start: u32,
    /// How many bytes that has.
    length: u8,
    /// What it is.
    kind: Kind,
    /// Whether its name or value has a backslash in it, whether the selector ends behind it, and whether the list does.
    flags: u8,
}

/// What a part is.
#[derive(Clone, Copy, Debug, PartialEq)]
enum Kind {
    /// An id.
    Id,
    /// A class.
    Class,
    /// An element name.
    Type,
    /// Any element.
    Universal,
    /// The name of an attribute.
    Attribute,
    /// What its value is compared with, and how.
    Value(AttributeOperator),
    /// A state, by its place among the names of states.
    State(u8),
    /// A pseudo-class that follows from where an element stands.
    Structural,
    /// One that counts elements, by its place among the pseudo-classes with arguments.
    Counted(u8),
    /// A pseudo-element.
    PseudoElement,
    /// The end of a compound.
    Combinator(Combinator),
    /// The start of a pseudo-class with a list of selectors in it.
    Open(Functional),
    /// The end of one of these.
    Or,
    /// The end of the last one.
    Close,
}

/// There is a backslash in the name or value of a part.
const ESCAPED: u8 = 1;
/// A selector ends behind a part.
const END: u8 = 2;
/// A list ends behind a part.
const LAST: u8 = 4;

impl PlainParts {
    /// Room for so many parts.
    pub(crate) fn with_capacity(count: usize) -> Self {
        Self(Vec::with_capacity(count))
    }

    /// Reads the selectors that stand before a block from a byte on. Gives where the block starts, or nothing where they are not plain;
    /// then nothing of them is kept.
    pub(crate) fn read(&mut self, text: &str, start: usize) -> Option<usize> {
        let before = self.0.len();
        let mut scan = Scan { text, at: start, depth: 0, relative: false, parts: &mut self.0 };
        let block = scan.list();
        if block.is_none() {
            self.0.truncate(before);
        }
        block
    }

    /// How many parts there are.
    pub(crate) fn count(&self) -> u32 {
        offset(self.0.len())
    }

    /// Leaves out all parts from a number on.
    pub(crate) fn truncate(&mut self, count: u32) {
        self.0.truncate(count as usize);
    }

    /// The number of the first part of the list that is written at a byte, among the lists from one on; and that of the part behind it.
    pub(crate) fn list_at(&self, byte: u32, mut from: u32) -> (u32, u32) {
        while self.0.get(from as usize).is_some_and(|part| part.start < byte) {
            from = self.behind(from);
        }
        (from, self.behind(from))
    }

    /// The number of the part behind the list that starts with one.
    fn behind(&self, start: u32) -> u32 {
        let list = &self.0[start as usize..];
        start + offset(list.iter().position(|part| part.flags & LAST != 0).map_or(list.len(), |last| last + 1))
    }

    /// Calls `found` with what the selectors of a list are made of, by the number of its first part.
    pub(crate) fn each<'t>(&self, start: u32, text: &'t str, mut found: impl FnMut(Plain<'t>)) {
        let mut parts = self.0[start as usize..].iter();
        while let Some(part) = parts.next() {
            let written = part.written(text);
            let mut last = part;
            let plain = match part.kind {
                Kind::Id => Some(Plain::Id(written)),
                Kind::Class => Some(Plain::Class(written)),
                Kind::Type => Some(Plain::Type(written)),
                Kind::Universal | Kind::Value(_) => None,
                Kind::Attribute => {
                    let value = parts.as_slice().first().filter(|next| matches!(next.kind, Kind::Value(_)));
                    last = value.and_then(|_| parts.next()).unwrap_or(part);
                    Some(Plain::Attribute(written, value.and_then(|v| Some((v.operator()?, v.written(text))))))
                }
                Kind::State(place) => State::at(place).map(Plain::State),
                Kind::Structural => Some(Plain::Structural(written.text)),
                Kind::PseudoElement => Some(Plain::PseudoElement(written.text)),
                Kind::Combinator(combinator) => Some(Plain::Combinator(combinator)),
                Kind::Counted(place) => match ARGUMENTS.get(usize::from(place)) {
                    Some((_, Argument::Count(by))) => Some(Plain::Counted(Counted { count: written.text, by: *by })),
                    _ => None,
                },
                Kind::Open(functional) => Some(Plain::Open(functional)),
                Kind::Or => Some(Plain::Or),
                Kind::Close => Some(Plain::Close),
            };
            plain.into_iter().for_each(&mut found);
            if last.flags & END != 0 {
                found(Plain::End);
            }
            if last.flags & LAST != 0 {
                break;
            }
        }
    }
}

impl Part {
    /// Its name or value.
    #[inline(always)]
    fn written(self, text: &str) -> Written<'_> {
        let start = self.start as usize;
        Written { text: &text[start..start + usize::from(self.length)], escaped: self.flags & ESCAPED != 0 }
    }

    /// How a value is compared.
    fn operator(self) -> Option<AttributeOperator> {
        if let Kind::Value(operator) = self.kind { Some(operator) } else { None }
    }
}

/// What stands in a pseudo-class.
#[derive(Clone, Copy)]
enum Argument {
    /// Selectors.
    List(Functional),
    /// Which of several elements: `An+B`.
    Count(Count),
}

/// Which elements are counted, and from where.
#[derive(Clone, Copy, Debug, PartialEq)]
struct Count {
    /// Whether only those of one type are.
    of_type: bool,
    /// Whether the last one is the first.
    from_end: bool,
}

/// Pseudo-classes with arguments.
const ARGUMENTS: [(&str, Argument); 8] = [
    ("not(", Argument::List(Functional::Not)),
    ("is(", Argument::List(Functional::Is)),
    ("where(", Argument::List(Functional::Where)),
    ("has(", Argument::List(Functional::Has)),
    ("nth-child(", Argument::Count(Count { of_type: false, from_end: false })),
    ("nth-of-type(", Argument::Count(Count { of_type: true, from_end: false })),
    ("nth-last-child(", Argument::Count(Count { of_type: false, from_end: true })),
    ("nth-last-of-type(", Argument::Count(Count { of_type: true, from_end: true })),
];

/// How deep lists in selectors may nest.
const DEEPEST: u8 = 4;

/// Whether a text is `An+B` (CSS Syntax 3, §6) as it is mostly written.
fn is_count(text: &str) -> bool {
    let white = [' ', '\t', '\n', '\r', '\x0C'];
    let whole = |number: &str| (1..=9).contains(&number.len()) && number.bytes().all(|b| b.is_ascii_digit());
    let signed = |number: &str| whole(number.strip_prefix(['+', '-']).unwrap_or(number));
    let text = text.trim_matches(white);
    match text.split_once('n') {
        _ if matches!(text, "odd" | "even") => true,
        None => signed(text),
        Some((step, start)) => {
            let start = start.trim_start_matches(white);
            (matches!(step, "" | "-" | "+") || signed(step))
                && (start.is_empty()
                    || start.strip_prefix(['+', '-']).is_some_and(|start| whole(start.trim_start_matches(white))))
        }
    }
}

/// The next byte from one on that does not stand in names.
fn past_name(bytes: &[u8], mut at: usize) -> usize {
    let inside = |byte: &u8| stands_in_names(*byte);
    // Four at a time: most of a sheet's selectors are names.
    while bytes[at..].first_chunk::<4>().is_some_and(|[a, b, c, d]| inside(a) & inside(b) & inside(c) & inside(d)) {
        at += 4;
    }
    at + bytes[at..].iter().take_while(|byte| inside(byte)).count()
}

/// Where the scan is.
struct Scan<'t, 'p> {
    /// The text.
    text: &'t str,
    /// The next byte.
    at: usize,
    /// How many lists in selectors it is inside of.
    depth: u8,
    /// Whether selectors in one of these are relative.
    relative: bool,
    /// What was found.
    parts: &'p mut Vec<Part>,
}

impl Scan<'_, '_> {
    /// Takes a list of selectors; gives where the block behind it starts.
    fn list(&mut self) -> Option<usize> {
        loop {
            self.white();
            self.selector()?;
            let last = self.peek() == b'{';
            self.parts.last_mut()?.flags |= if last { END | LAST } else { END };
            if last {
                return Some(self.at);
            }
            self.at += 1;
        }
    }

    /// Keeps a part whose name or value is in some bytes.
    #[inline(always)]
    fn keep(&mut self, kind: Kind, (start, end, escaped): (usize, usize, bool)) -> Option<()> {
        // Longer names are hardly worth it.
        let length = u8::try_from(end - start).ok()?;
        self.parts.push(Part { start: offset(start), length, kind, flags: if escaped { ESCAPED } else { 0 } });
        Some(())
    }

    /// Keeps a part without either.
    fn sign(&mut self, kind: Kind) {
        self.parts.push(Part { start: offset(self.at), length: 0, kind, flags: 0 });
    }

    /// Takes a name and keeps it as a part.
    #[inline(always)]
    fn named(&mut self, kind: Kind) -> Option<()> {
        let name = self.name()?;
        self.keep(kind, name)
    }

    /// The next byte; NUL at the end of the text, which no plain selector has.
    #[inline(always)]
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

    /// Takes a name: where it starts and ends, and whether a backslash is in it. One that starts with two hyphens is left out, since it may be the end of an HTML comment.
    #[inline(always)]
    fn name(&mut self) -> Option<(usize, usize, bool)> {
        let bytes = self.text.as_bytes();
        let mut escaped = false;
        let (from, mut at) = (self.at, self.at + usize::from(self.peek() == b'-'));
        if !matches!(bytes.get(at)?, b'a'..=b'z' | b'A'..=b'Z' | b'_' | b'\\') {
            return None;
        }
        loop {
            at = past_name(bytes, at);
            if *bytes.get(at)? != b'\\' {
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
        whole.then_some((from, at, escaped))
    }

    /// Takes a complex selector, up to the comma, block or closing bracket behind it.
    fn selector(&mut self) -> Option<()> {
        let inside = self.depth > 0;
        loop {
            let ended = self.compound()?;
            // Inside of others, nothing aims at pseudo-elements.
            if ended && inside {
                return None;
            }
            let spaced = self.white();
            match self.peek() {
                b',' => return Some(()),
                b'{' if !inside => return Some(()),
                b')' if inside => return Some(()),
                sign @ (b'>' | b'+' | b'~') if !ended => {
                    self.at += 1;
                    self.white();
                    self.sign(Kind::Combinator(match sign {
                        b'>' => Combinator::Child,
                        b'+' => Combinator::NextSibling,
                        _ => Combinator::SubsequentSibling,
                    }));
                }
                _ if spaced && !ended => self.sign(Kind::Combinator(Combinator::Descendant)),
                _ => return None,
            }
        }
    }

    /// Takes a compound; whether a pseudo-element ends it.
    fn compound(&mut self) -> Option<bool> {
        let from = self.at;
        if self.take(b'*') {
            self.sign(Kind::Universal);
        } else if self.peek().is_ascii_alphabetic() || matches!(self.peek(), b'-' | b'_') {
            self.named(Kind::Type)?;
        }
        if self.peek() == b'|' {
            return None;
        }
        loop {
            match self.peek() {
                b'.' => {
                    self.at += 1;
                    self.named(Kind::Class)?;
                }
                b'#' => {
                    self.at += 1;
                    self.named(Kind::Id)?;
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
            let (start, end, _) = self.name()?;
            self.keep(Kind::PseudoElement, (start, end, false))?;
            return names.contains(&&self.text[start..end]).then_some(true);
        }
        let rest = &self.text.as_bytes()[self.at..];
        if let Some(place) = ARGUMENTS.iter().position(|(name, _)| rest.starts_with(name.as_bytes())) {
            let (name, argument) = ARGUMENTS[place];
            self.at += name.len();
            match argument {
                Argument::Count(_) => self.count(place)?,
                Argument::List(functional) => self.inner_list(functional)?,
            }
            return Some(false);
        }
        let (start, end, _) = self.name()?;
        let name = &self.text[start..end];
        if let Some(place) = State::place(name) {
            self.sign(Kind::State(place));
            return Some(false);
        }
        let is_element = names[..with_one_colon].contains(&name);
        if !is_element {
            PseudoClass::structural(name)?;
        }
        let kind = if is_element { Kind::PseudoElement } else { Kind::Structural };
        self.keep(kind, (start, end, false)).map(|()| is_element)
    }

    /// Takes the argument of a pseudo-class that counts, up to its closing bracket.
    fn count(&mut self, place: usize) -> Option<()> {
        let length = self.text[self.at..].bytes().position(|byte| byte == b')')?;
        let (from, to) = (self.at, self.at + length);
        self.at = to + 1;
        let kind = Kind::Counted(u8::try_from(place).ok()?);
        is_count(&self.text[from..to]).then(|| self.keep(kind, (from, to, false)))?
    }

    /// Takes the selectors in a pseudo-class, up to its closing bracket.
    fn inner_list(&mut self, functional: Functional) -> Option<()> {
        let relative = functional == Functional::Has;
        // There are no relative selectors in relative ones; how deep others may nest is told where they are read.
        if self.depth == DEEPEST || (relative && self.relative) {
            return None;
        }
        self.depth += 1;
        self.relative |= relative;
        self.sign(Kind::Open(functional));
        loop {
            self.white();
            if relative && matches!(self.peek(), b'>' | b'+' | b'~') {
                self.at += 1;
                self.white();
            }
            self.selector()?;
            let last = self.peek() == b')';
            self.at += 1;
            if last {
                self.depth -= 1;
                self.relative &= !relative;
                self.sign(Kind::Close);
                return Some(());
            }
            self.sign(Kind::Or);
        }
    }

    /// Takes an attribute selector.
    fn attribute(&mut self) -> Option<()> {
        self.at += 1;
        self.named(Kind::Attribute)?;
        if self.take(b']') {
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
                (from, self.at - 1, false)
            }
            _ => self.name()?,
        };
        self.keep(Kind::Value(operator), value)?;
        self.take(b']').then_some(())
    }
}
