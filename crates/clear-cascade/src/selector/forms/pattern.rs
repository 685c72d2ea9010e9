//! The `pattern` of a text control (HTML Standard, "The `pattern` attribute").
//!
//! What comes in: a regular expression of ECMAScript, read with `v`. What goes out: whether a whole value matches it, within
//! bounded work. One engine knows that language, and another bounds its work: so what the one takes is told to the other
//! in its words.

use std::collections::BTreeSet;
use std::fmt::Write as _;

/// A pattern that a whole value has to match.
pub(super) struct Pattern(fancy_regex::Regex);

impl Pattern {
    /// Reads one; nothing where it is no regular expression, and then it does not count ("compiled pattern regular expression").
    pub(super) fn read(text: &str) -> Option<Self> {
        if !Self::is_one(text) {
            return None;
        }
        let told = Teller::new(text).told()?;
        fancy_regex::Regex::new(&format!("^(?:{told})$")).ok().map(Self)
    }

    /// Whether a text is a regular expression at all.
    pub(super) fn is_one(text: &str) -> bool {
        regress::Regex::with_flags(text, FLAGS).is_ok()
    }

    /// Whether it matches the whole of a value. One that takes too long to tell does not count either.
    pub(super) fn takes(&self, value: &str) -> bool {
        self.0.is_match(value).unwrap_or(true)
    }
}

/// Together the flags have the grammar read strictly, as `v` alone does in ECMAScript.
const FLAGS: &str = "uv";
/// What ends a line.
const LINE_ENDS: &str = r"\n\r\x{2028}\x{2029}";
/// White space and what ends a line (`\s`).
const SPACES: &str = r"\t\n\x{B}\f\r \x{A0}\x{1680}\x{2000}-\x{200A}\x{2028}\x{2029}\x{202F}\x{205F}\x{3000}\x{FEFF}";
/// The characters of words (`\w`), which are ASCII.
const WORD: &str = "A-Za-z0-9_";

/// A class that takes nothing.
const NOTHING: &str = r"[^\s\S]";
/// What takes the empty text.
const EMPTY: &str = r"[^\s\S]{0}";

/// The flags that a group may change.
#[derive(Clone, Copy, Default)]
struct Flags {
    /// `^` and `$` are at the ends of lines too.
    multiline: bool,
    /// `.` takes what ends a line too.
    dot_all: bool,
}

/// Tells an expression that is known to be one.
struct Teller {
    /// The expression.
    text: Vec<char>,
    /// The next character.
    at: usize,
    /// The capturing groups in order: their names, and whether they have been closed.
    groups: Vec<(String, bool)>,
    /// The groups that are open: which one, if it captures, the flags around it, and where what is in it is told.
    open: Vec<(Option<usize>, Flags, usize)>,
    /// The flags here.
    flags: Flags,
    /// What was told so far.
    told: String,
}

/// What a class takes: single characters, told as the inside of a class, and texts of none or several (`\q{…}`).
#[derive(Default)]
struct Class {
    /// The characters.
    characters: String,
    /// The texts.
    texts: BTreeSet<String>,
}

impl Teller {
    /// An expression, of which nothing was told yet.
    fn new(text: &str) -> Self {
        Self {
            text: text.chars().collect(),
            at: 0,
            groups: Vec::new(),
            open: Vec::new(),
            flags: Flags::default(),
            told: String::new(),
        }
    }

    /// The next character, which is passed.
    fn next(&mut self) -> Option<char> {
        let next = self.text.get(self.at).copied();
        self.at += usize::from(next.is_some());
        next
    }

    /// Passes a text if it is next.
    fn takes(&mut self, text: &str) -> bool {
        let is = text.chars().enumerate().all(|(i, c)| self.text.get(self.at + i) == Some(&c));
        if is {
            self.at += text.chars().count();
        }
        is
    }

    /// Whether what was just passed is repeated.
    fn is_repeated(&self) -> bool {
        matches!(self.text.get(self.at), Some('*' | '+' | '?' | '{'))
    }

    /// What comes before a character, which is passed too.
    fn up_to(&mut self, end: char) -> String {
        let rest = &self.text[self.at..];
        let part: String = rest.iter().take_while(|c| **c != end).collect();
        self.at = (self.at + part.chars().count() + 1).min(self.text.len());
        part
    }

    /// The whole; nothing where it cannot be told.
    fn told(mut self) -> Option<String> {
        while let Some(c) = self.next() {
            match c {
                '\\' => self.escape()?,
                '[' => {
                    let class = self.class()?;
                    self.told.push_str(&class.alternatives());
                }
                '(' => self.group(),
                ')' => {
                    let (group, flags, inside) = self.open.pop()?;
                    if let Some(group) = group.and_then(|g| self.groups.get_mut(g)) {
                        group.1 = true;
                    }
                    self.flags = flags;
                    // The other engine repeats no group in which nothing is but an assertion.
                    if self.is_repeated() && (self.told.len() == inside || self.told[inside..].starts_with("(?")) {
                        self.told.insert_str(inside, EMPTY);
                    }
                    self.told.push(')');
                }
                '.' if self.flags.dot_all => self.told.push_str(r"[\s\S]"),
                '.' => _ = write!(self.told, "[^{LINE_ENDS}]"),
                '^' if self.flags.multiline => _ = write!(self.told, "(?:^|(?<=[{LINE_ENDS}]))"),
                '$' if self.flags.multiline => _ = write!(self.told, "(?:$|(?=[{LINE_ENDS}]))"),
                '^' | '$' | '*' | '+' | '?' | '{' | '}' | ',' | '|' => self.told.push(c),
                _ => self.told.push_str(&literal(c)),
            }
        }
        Some(self.told)
    }

    /// The start of a group, whose bracket was passed.
    fn group(&mut self) {
        let around = self.flags;
        let mut captured = None;
        if let Some(looks) = ["?=", "?!", "?<=", "?<!", "?:"].into_iter().find(|looks| self.takes(looks)) {
            let _ = write!(self.told, "({looks}");
        } else if self.takes("?<") {
            captured = Some(self.up_to('>'));
        } else if self.takes("?") {
            let changed = self.up_to(':');
            let (on, off) = changed.split_once('-').unwrap_or((&changed, ""));
            let now = |flag, before| (before || on.contains(flag)) && !off.contains(flag);
            self.flags = Flags { multiline: now('m', around.multiline), dot_all: now('s', around.dot_all) };
            let case = if on.contains('i') {
                "i"
            } else if off.contains('i') {
                "-i"
            } else {
                ""
            };
            let _ = write!(self.told, "(?{case}:");
        } else {
            captured = Some(String::new());
        }
        let captured = captured.map(|name| {
            self.told.push('(');
            self.groups.push((name, false));
            self.groups.len() - 1
        });
        self.open.push((captured, around, self.told.len()));
    }

    /// An escape outside of classes, whose backslash was passed.
    fn escape(&mut self) -> Option<()> {
        let word = format!("[{WORD}]");
        let (digit, name) = match self.text.get(self.at).copied()? {
            edge @ ('b' | 'B') => {
                self.at += 1;
                let (inside, outside) = if edge == 'b' { ('!', '=') } else { ('=', '!') };
                let _ = write!(self.told, "(?:(?<={word})(?{inside}{word})|(?<!{word})(?{outside}{word}))");
                // An assertion that is repeated is no regular expression, which the engine does not tell of these.
                return (!self.is_repeated()).then_some(());
            }
            'k' => {
                self.at += 2;
                (None, Some(self.up_to('>')))
            }
            '1'..='9' => {
                let digits: String = self.text[self.at..].iter().take_while(|c| c.is_ascii_digit()).collect();
                self.at += digits.len();
                (Some(digits), None)
            }
            _ => (None, None),
        };
        if let Some(name) = name {
            let group = self.groups.iter().position(|(n, _)| *n == name);
            self.back_reference(group);
        } else if let Some(digits) = digit {
            self.back_reference(digits.parse::<usize>().ok().map(|n| n - 1));
        } else if let Some(set) = self.set_escape() {
            let _ = write!(self.told, "[{set}]");
        } else {
            let character = self.character_escape()?;
            self.told.push_str(&character.map_or_else(|| NOTHING.to_owned(), literal));
        }
        Some(())
    }

    /// What a group took: nothing while it is open, and where it took no part.
    fn back_reference(&mut self, group: Option<usize>) {
        let closed = group.filter(|g| self.groups.get(*g).is_some_and(|(_, closed)| *closed));
        match closed {
            Some(group) => _ = write!(self.told, "(?({0})\\{0})", group + 1),
            None => _ = write!(self.told, "(?:{EMPTY})"),
        }
    }

    /// An escape that stands for several characters, as the inside of a class.
    fn set_escape(&mut self) -> Option<String> {
        let kind = *self.text.get(self.at)?;
        let set = match kind {
            'd' => "0-9".to_owned(),
            'D' => "[^0-9]".to_owned(),
            'w' => WORD.to_owned(),
            'W' => format!("[^{WORD}]"),
            's' => SPACES.to_owned(),
            'S' => format!("[^{SPACES}]"),
            'p' | 'P' => {
                self.at += 2;
                return Some(format!("\\{kind}{{{}}}", self.up_to('}')));
            }
            _ => return None,
        };
        self.at += 1;
        Some(set)
    }

    /// An escape that stands for one character; `None` inside for half a surrogate pair, which no text has.
    fn character_escape(&mut self) -> Option<Option<char>> {
        Some(match self.next()? {
            't' => Some('\t'),
            'n' => Some('\n'),
            'v' => Some('\u{B}'),
            'f' => Some('\u{C}'),
            'r' => Some('\r'),
            'b' => Some('\u{8}'),
            '0' => Some('\0'),
            'c' => char::from_u32(u32::from(self.next()?) % 32),
            'x' => char::from_u32(self.hexadecimal(2)?),
            'u' if self.takes("{") => {
                let digits = self.up_to('}');
                char::from_u32(u32::from_str_radix(&digits, 16).ok()?)
            }
            'u' => {
                let unit = self.hexadecimal(4)?;
                let before = self.at;
                let low = (0xD800..0xDC00).contains(&unit) && self.takes("\\u") && !self.takes("{");
                match low.then(|| self.hexadecimal(4)).flatten().filter(|low| (0xDC00..0xE000).contains(low)) {
                    Some(low) => char::from_u32(0x1_0000 + ((unit - 0xD800) << 10) + (low - 0xDC00)),
                    None => {
                        self.at = before;
                        char::from_u32(unit)
                    }
                }
            }
            other => Some(other),
        })
    }

    /// A number of so many hexadecimal digits.
    fn hexadecimal(&mut self, digits: usize) -> Option<u32> {
        let text: String = self.text.get(self.at..self.at + digits)?.iter().collect();
        self.at += digits;
        u32::from_str_radix(&text, 16).ok()
    }

    /// A class, whose bracket was passed.
    fn class(&mut self) -> Option<Class> {
        let negated = self.takes("^");
        let mut class = Class::default();
        loop {
            if self.takes("]") {
                break;
            }
            let subtracts = self.takes("--");
            let intersects = !subtracts && self.takes("&&");
            let operand = self.operand()?;
            if subtracts {
                class.texts.retain(|t| !operand.texts.contains(t));
                class.characters = format!("[{}--{}]", class.bracketed(), operand.bracketed());
            } else if intersects {
                class.texts.retain(|t| operand.texts.contains(t));
                class.characters = format!("[{}&&{}]", class.bracketed(), operand.bracketed());
            } else {
                class.texts.extend(operand.texts);
                class.characters.push_str(&operand.characters);
            }
        }
        if negated {
            // It takes single characters only: what else could be in it is no regular expression.
            class.characters = format!("[^{}]", class.bracketed());
        }
        Some(class)
    }

    /// What stands in a class: a character, a range, an escape, texts, a class.
    fn operand(&mut self) -> Option<Class> {
        if self.takes("[") {
            return self.class();
        }
        if self.takes("\\q{") {
            let mut class = Class::default();
            for text in self.texts()? {
                let mut characters = text.chars();
                match (characters.next(), characters.next()) {
                    (Some(one), None) => class.characters.push_str(&literal(one)),
                    _ => _ = class.texts.insert(text),
                }
            }
            return Some(class);
        }
        if self.text.get(self.at) == Some(&'\\') {
            self.at += 1;
            if let Some(characters) = self.set_escape() {
                return Some(Class { characters, texts: BTreeSet::new() });
            }
            self.at -= 1;
        }
        let first = self.class_character()?;
        let is_range = self.text.get(self.at) == Some(&'-') && self.text.get(self.at + 1) != Some(&'-');
        let last = if is_range {
            self.at += 1;
            self.class_character()?
        } else {
            first
        };
        let characters = match (first, last) {
            (Some(first), Some(last)) if first != last => format!("{}-{}", literal(first), literal(last)),
            (Some(first), Some(_)) => literal(first),
            (None, None) => String::new(),
            // Half a surrogate pair ends the range: it takes what texts have of it.
            (Some(first), None) => format!("{}-\\x{{D7FF}}", literal(first)),
            (None, Some(last)) => format!("\\x{{E000}}-{}", literal(last)),
        };
        Some(Class { characters, texts: BTreeSet::new() })
    }

    /// A single character in a class.
    fn class_character(&mut self) -> Option<Option<char>> {
        match self.next()? {
            '\\' => self.character_escape(),
            other => Some(Some(other)),
        }
    }

    /// The alternatives of `\q{…}`, whose start was passed.
    fn texts(&mut self) -> Option<Vec<String>> {
        let mut texts = vec![String::new()];
        loop {
            match self.next()? {
                '}' => return Some(texts),
                '|' => texts.push(String::new()),
                '\\' => texts.last_mut()?.extend(self.character_escape()?),
                other => texts.last_mut()?.push(other),
            }
        }
    }
}

impl Class {
    /// Its characters as a class.
    fn bracketed(&self) -> String {
        if self.characters.is_empty() { NOTHING.to_owned() } else { format!("[{}]", self.characters) }
    }

    /// The whole: the longest text first.
    fn alternatives(&self) -> String {
        if self.texts.is_empty() {
            return self.bracketed();
        }
        let mut texts: Vec<&String> = self.texts.iter().filter(|t| !t.is_empty()).collect();
        texts.sort_by_key(|t| std::cmp::Reverse(t.chars().count()));
        let mut parts: Vec<String> = texts.into_iter().map(|t| t.chars().map(literal).collect()).collect();
        parts.push(self.bracketed());
        parts.extend(self.texts.contains("").then(String::new));
        format!("(?:{})", parts.join("|"))
    }
}

/// A character that stands for itself, in a class or outside.
fn literal(c: char) -> String {
    if c.is_ascii_alphanumeric() { c.to_string() } else { format!("\\x{{{:X}}}", u32::from(c)) }
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;

    /// Parts of patterns, some of which are none.
    #[rustfmt::skip]
    const PARTS: &[&str] = &[
        "a", "b", "é", ".", "^", "$", "|", "-", "*", "+?", "?", "{2}", "{0,1}", "(", "(?:", "(?=", "(?!", "(?<=", "(?<!", "(?<n>", "(?s-i:",
        "(?im:", ")", ")", ")", r"\b", r"\B", r"\d", r"\W", r"\s", r"\S", r"\-", r"\.", r"\1", r"\k<n>", r"\u{61}", r"\uD83D\uDE00", r"\cJ", "[",
        "[^", "]", "]", "&&", "--", r"[\q{ab|c}a]", "[a-c]", "[]", "[^]", r"\p{Lu}", r"\P{L}",
    ];

    proptest! {
        #![proptest_config(ProptestConfig { cases: 3000, failure_persistence: None, ..ProptestConfig::default() })]

        #[test]
        fn what_is_told_takes_what_the_pattern_takes(
            parts in prop::collection::vec(prop::sample::select(PARTS), 1..7),
            value in "[abcAé1\n \u{2028}😀-]{0,4}",
        ) {
            let text = parts.concat();
            let whole = format!("^(?:{text})$");
            if let (Some(pattern), Ok(as_written)) = (Pattern::read(&text), regress::Regex::with_flags(&whole, FLAGS)) {
                prop_assert_eq!(pattern.takes(&value), as_written.find(&value).is_some(), "{} as {} on {:?}", text, pattern.0, value);
            }
        }
    }

    #[test]
    fn no_pattern_takes_long_or_much() {
        let deep =
            |open: &str, close: &str| Pattern::read(&(open.repeat(50_000) + "a" + &close.repeat(50_000))).is_some();
        assert!(!deep("(", ")") && !deep("[", "]") && !deep("(?=", ")"));
        // What was not told within the work that is allowed does not count.
        assert!(Pattern::read(r"(a*)*\1b").is_some_and(|p| p.takes(&"a".repeat(200))));
        assert!(Pattern::read("(?:a{1000}){1000}").is_none() && Pattern::read("(?:a{100}){100}").is_some());
    }
}
