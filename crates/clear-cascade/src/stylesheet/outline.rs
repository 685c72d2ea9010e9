//! What of a sheet can be left unread until someone asks for it, told by its bytes: style rules with plain selectors, and of other
//! style rules the blocks in which declarations stand and nothing else.
//!
//! Whatever would need more than bytes to be told is read: escapes outside of strings, rules in a block, brackets and strings that do not end
//! in it (CSS Syntax 3, §4 and §5).

use smallvec::SmallVec;

use crate::selector::PlainParts;
use crate::source::offset;
use crate::syntax::{Kind, LeaveOut, Token};
use crate::text::{find_byte, is_white};

/// At-rules whose blocks hold rules and, outside of rules, nothing else.
const GROUPS: [&str; 4] = ["@media", "@supports", "@layer", "@container"];

/// Follows the tokens of a sheet to know where style rules stand.
#[derive(Default)]
pub(super) struct Outline {
    /// How many blocks of groups are open, with nothing but such blocks around them.
    groups: usize,
    /// How the statement starts that is being read.
    starts: Option<Start>,
    /// Whether selectors may have namespaces, which must be known to read them.
    namespaces: bool,
    /// What the selectors of the rules that are left out are made of, one list after the other.
    pub(super) parts: PlainParts,
}

/// How a statement starts.
#[derive(Clone, Copy, PartialEq)]
enum Start {
    /// With the name of a group.
    Group,
    /// With another at-keyword.
    AtRule,
    /// As a style rule may.
    Rule,
    /// With what may be the name of a custom property, which may have a block in its value.
    Property,
}

impl Outline {
    /// The start of a text of so many bytes. Sheets have a part of a selector for every sixteen bytes or so.
    pub(super) fn of(bytes: usize) -> Self {
        Self { parts: PlainParts::with_capacity(bytes / 16), ..Self::default() }
    }
}

impl LeaveOut for Outline {
    /// Nearly all is rules that are left out, and few have less than this.
    fn expected(&self, bytes: usize) -> usize {
        bytes / 48 + 4
    }

    fn start(&mut self, text: &str, list: &mut Vec<Token>) -> usize {
        self.rules(text, 0, list)
    }

    fn after(&mut self, text: &str, token: Token, open: usize, list: &mut Vec<Token>) -> usize {
        let end = token.end as usize;
        if matches!(token.kind, Kind::Close('}', true)) {
            self.groups = self.groups.min(open);
        }
        if open > self.groups {
            return end;
        }
        match (token.kind, self.starts) {
            (Kind::Curly(_), started) => {
                self.starts = None;
                match started {
                    Some(Start::Group) => self.groups += 1,
                    Some(Start::Rule) => return plain_block(text.as_bytes(), end).unwrap_or(end),
                    _ => return end,
                }
                self.rules(text, end, list)
            }
            (Kind::Close('}', true), _) | (Kind::Semicolon, Some(Start::Group | Start::AtRule)) => {
                self.starts = None;
                self.rules(text, end, list)
            }
            (_, Some(_)) | (Kind::Space, None) => end,
            (Kind::Cdo, None) if open == 0 => end,
            (kind, None) => {
                self.starts = Some(self.start_of(kind, &text[token.start as usize..end]));
                end
            }
        }
    }
}

impl Outline {
    /// How a statement starts whose first token this is.
    fn start_of(&mut self, kind: Kind, written: &str) -> Start {
        let is = |name: &&str| name.eq_ignore_ascii_case(written);
        self.namespaces |= matches!(kind, Kind::AtKeyword) && (is(&"@namespace") || written.contains('\\'));
        match kind {
            Kind::AtKeyword if GROUPS.iter().any(is) => Start::Group,
            Kind::AtKeyword => Start::AtRule,
            _ if written.starts_with("--") || written.starts_with('\\') => Start::Property,
            _ => Start::Rule,
        }
    }

    /// Leaves the style rules out that stand at a byte, as long as their selectors and blocks are plain; gives where they end.
    fn rules(&mut self, text: &str, start: usize, list: &mut Vec<Token>) -> usize {
        let bytes = text.as_bytes();
        let mut end = start;
        if self.namespaces {
            return end;
        }
        loop {
            let Some(rule) = after_white(bytes, end) else { return end };
            let before = self.parts.count();
            let Some(open) = self.parts.read(text, rule) else { return end };
            let Some(close) = plain_block(bytes, open + 1) else {
                self.parts.truncate(before);
                return end;
            };
            end = close + 1;
            list.push(Token { kind: Kind::Rule(offset(open)), start: offset(rule), end: offset(end) });
        }
    }
}

/// The byte after white space and comments.
fn after_white(text: &[u8], mut at: usize) -> Option<usize> {
    loop {
        match text.get(at)? {
            byte if is_white(*byte) => at += 1,
            b'/' if text.get(at + 1) == Some(&b'*') => at = after_comment(text, at + 2)?,
            _ => return Some(at),
        }
    }
}

/// Which bytes tell something about where a block ends.
static TELLING: [bool; 256] = {
    let (mut telling, mut at) = ([false; 256], 0);
    let bytes = b"{}()[]\\@\0\"'/";
    while at < bytes.len() {
        telling[bytes[at] as usize] = true;
        at += 1;
    }
    telling
};

/// Where the closing bracket of a block stands whose inside starts at a byte; nothing where more is in it than declarations, or
/// where its bytes alone do not tell.
#[inline(always)]
fn plain_block(text: &[u8], start: usize) -> Option<usize> {
    let mut open: SmallVec<[u8; 8]> = SmallVec::new();
    let mut at = start;
    loop {
        at = find_byte(text, at, &TELLING)?;
        let byte = text[at];
        at += 1;
        match byte {
            b'}' => return open.is_empty().then_some(at - 1),
            b'{' | b'\\' | b'@' | 0 => return None,
            b'"' | b'\'' => at = after_string(text, at, byte)?,
            b'(' if ends_with(&text[start..at - 1], b"url") => at = after_url(text, at)?,
            // Whether siblings are counted must be known beforehand.
            b'(' if [&b"sibling-index"[..], b"sibling-count"].iter().any(|n| ends_with(&text[start..at - 1], n)) => {
                return None;
            }
            b'(' => open.push(b')'),
            b'[' => open.push(b']'),
            b')' | b']' => _ = open.pop().filter(|close| *close == byte)?,
            b'/' if text.get(at) == Some(&b'*') => at = after_comment(text, at + 1)?,
            _ => {}
        }
    }
}

/// Whether some bytes end with others, whatever their case.
pub(super) fn ends_with(text: &[u8], end: &[u8]) -> bool {
    text.len().checked_sub(end.len()).is_some_and(|from| text[from..].eq_ignore_ascii_case(end))
}

/// The byte after a string whose inside starts at a byte.
pub(super) fn after_string(text: &[u8], mut at: usize, quote: u8) -> Option<usize> {
    loop {
        at += text[at..].iter().position(|b| *b == quote || matches!(b, b'\\' | b'\n' | b'\r' | b'\x0C' | 0))?;
        match (text[at], text.get(at + 1)?) {
            (b'\\', next) if !matches!(next, b'\n' | b'\r' | b'\x0C' | 0) => at += 2,
            (byte, _) => return (byte == quote).then_some(at + 1),
        }
    }
}

/// The byte after a comment whose inside starts at a byte; nothing where another may start in it.
pub(super) fn after_comment(text: &[u8], start: usize) -> Option<usize> {
    let end = start + text[start..].windows(2).position(|two| two == b"*/")?;
    let inner = text[start..end].windows(2).any(|two| two == b"/*");
    (!inner).then_some(end + 2)
}

/// The byte after a URL whose inside starts at a byte, or where to go on inside of one in quotes.
pub(super) fn after_url(text: &[u8], start: usize) -> Option<usize> {
    let white = |b: &u8| is_white(*b);
    let first = start + text[start..].iter().position(|b| !white(b))?;
    if let quote @ (b'"' | b'\'') = text[first] {
        let after = after_string(text, first + 1, quote)?;
        let close = after + text[after..].iter().position(|b| !white(b))?;
        return (text[close] == b')').then_some(close + 1);
    }
    let end =
        first + text[first..].iter().position(|b| matches!(b, b')' | b'"' | b'\'' | b'(' | b'\\' | 0..=32 | 127))?;
    let close = end + text[end..].iter().position(|b| !white(b))?;
    (text[close] == b')').then_some(close + 1)
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use crate::selector::{Plain, PlainParts};
    use crate::source::{OffsetMap, SourceId};
    use crate::stylesheet::{Input, Stylesheet, parse};
    use crate::syntax::{Kind, Tokens};

    /// All that a sheet says, however it was read.
    fn said(sheet: &Stylesheet) -> String {
        let declared = |rule| {
            let all = sheet.declarations(rule).iter();
            let told = all.map(|d| {
                (d.property.clone(), d.name(), d.important, sheet.value(d).text(), d.span, d.longhands(sheet))
            });
            told.map(|told| format!("{told:?}")).collect::<Vec<_>>()
        };
        let rules = sheet.rules.iter().map(|r| {
            format!(
                "{:?} {:?} {} {:?} {:?}",
                sheet.selectors(r),
                sheet.prelude(r),
                sheet.end_of(r),
                r.group,
                declared(r)
            )
        });
        let rules: Vec<String> = rules.collect();
        let statements: Vec<u32> = sheet.in_order().map(|(statement, _)| statement).collect();
        format!("{rules:#?} {:?} {statements:?} {:?} {:#?}", sheet.items, sheet.groups, sheet.notes())
    }

    /// How a text is read: how many of its rules are left out, and whether it says the same when nothing is.
    fn read(text: &str) -> (usize, String, String) {
        let input = Input { text: text.into(), map: OffsetMap::slice(SourceId::QUESTION, 0), quirks: false };
        let sheet = parse::parse(&input);
        for rule in &sheet.rules {
            let Some((parts, first, text)) = sheet.plain_selectors(rule) else { continue };
            let (mut ends, mut names) = (0, Vec::new());
            parts.each(first, text, |part| match part {
                Plain::Id(name) | Plain::Class(name) | Plain::Type(name) => names.push(name.name().into_owned()),
                other => ends += usize::from(other == Plain::End),
            });
            let read = sheet.selectors(rule);
            let printed = read.to_string();
            assert!(ends == read.selectors.len(), "{printed} in {text}");
            assert!(
                names.iter().all(|name| printed.replace('\\', "").contains(name)),
                "{names:?} in {printed} in {text}"
            );
        }
        let left_out = sheet.tokens.list.iter().filter(|t| matches!(t.kind, Kind::Rule(_))).count();
        (left_out, said(&sheet), said(&parse::sheet(&input, Tokens::read(text), PlainParts::default())))
    }

    /// Texts and how many of their rules are left out.
    const CASES: &[(&str, usize)] = &[
        ("a{}b{top:0}/* c */ .d , #e > f~g+h{top:0;left:0}", 3),
        ("a:hover,b::before , c:first-line{} d:not(.e,[f]):first-child{}", 2),
        ("[a] [b=c] [d~='e'] [f|=\"g}\"]{}", 1),
        ("a{b:url(c;d} e{f:url( 'g' )}h{i:url(\"}\")}j{k:url( l )}", 2),
        ("a{b:'}';c:\"\\\"}\\f1\"} d{e:(f;[g])}", 2),
        ("a{}b{c:'\\", 0),
        ("a{b:c\\9} .d\\@e\\:f:hover .\\/g{} .\\31 h{} .i\\{{}", 2),
        ("@media print{a{top:0}@supports (b:c){d{}}} @layer e{f{}}", 3),
        ("@font-face{a:b}@keyframes c{from{top:0}}d{}", 1),
        ("a{--b:{c:d}} e{--f:(g)}", 1),
        ("--a{b:c}\\61{} .\\31{} é{} .é{} a{}", 1),
        ("@namespace x 'y';a{}@charset 'z';b{}", 0),
        ("a;b{}c{}", 1),
        ("}a{}b{}", 1),
        ("//a{/*b*/}c{}/**/", 1),
        ("<!-- a{} --> b{}", 0),
        ("@media print{<!-- a{}b{}}", 1),
        ("a{b:c;@d e;}f{top:0;g{}}h{}", 1),
        ("a,,b{} a>{} >a{} a::before b{} a::before:hover{} a:nope{} :is(a|b){} a|b{} a||b{} *|a{}", 0),
        (":is(a, b > .c):where( [d] ~ e ):not(f g):not(:has(> h, + i j)):nth-child( -2n + 1 ):nth-of-type(odd){}", 1),
        (
            ":is(){} :is(a,){} :is(::before){} :is(a::before){} :has(:has(a)){} :has(){} :not(){} :nth-child(){} :nth-child(2){}",
            1,
        ),
        (
            ":nth-child(n2){} :nth-child(+ 2n){} :nth-child(2 n){} :nth-child(2n 1){} :nth-child(1.5n){} :nth-child(n of a){}",
            0,
        ),
        (
            ":nth-child(+n){} :nth-child(n- 2){} :nth-child(2n+1){} :nth-child(-n+ 3){} :nth-child(-7){} :nth-child(even){}",
            6,
        ),
        (":is(:is(:is(:is(a)))){} :is(:is(:is(:is(:is(a))))){} :not(:not(a)){} :Is(a){} :is(a;){} :is(a{}) b{}", 2),
        ("a{top:sibling-index()}b{top:calc(1px*sibling-count())}", 0),
        ("a{top:0", 0),
        ("a{}/*}/**/b{}", 0),
        ("@media (width){a{}", 0),
        ("@import 'a';b{};c{}@layer d;e{}", 2),
        ("@scope{a{top:0} top:0}b{}", 1),
        ("a{top:0;;left:;nope:1;b;c:d!important;e: f ! important}", 1),
        ("@media{a:b{}} @container (c){d{top:0}}", 1),
        ("a{} @layer b, c{d{} .e{}} f > g{} @container{*{} :is(h){}} @supports (i:j){.k{}} l{}", 8),
    ];

    #[test]
    fn what_is_left_out_says_what_it_would_have_said() {
        for (text, expected) in CASES {
            let (left_out, outlined, whole) = read(text);
            assert_eq!(outlined, whole, "{text}");
            assert_eq!(left_out, *expected, "{text}");
        }
        // A name may be so long that it is not kept in few bytes.
        for (length, expected) in [(255, 2), (256, 1)] {
            let (left_out, outlined, whole) = read(&format!(".{}{{top:0}}a{{}}", "b".repeat(length)));
            assert_eq!((outlined == whole, left_out), (true, expected), "{length}");
        }
    }

    /// Pieces of sheets, of which any may stand behind any.
    const PIECES: &str = "a b .c #d * : :: :hover :not( :is( :has( :where(b :nth-child(2n :nth-child(-n+3) ::before :first-line [e] [f= 'g' \"h\" ' \" ( ) [ ] { } {} ; , > + ~ | -- - \
        \\ \\61 \\@ .i\\:j '\\'' '\\ é ! !important @media @layer @import @scope @font-face @namespace @x print (width) top:0 left:1px; --v: --w:{ url( \
        url(x) /* */ /*i*/ <!-- --> 0 1px % var(--v) sibling-index() & // . # a{top:0} .c,b{left:0;top:0} {TOP:1px!IMPORTANT} {--v:initial;--w:'a;b'[c] \
        {color:rgb(1,2,3);all:unset} {--V:attr(x);font:var(--f)} {margin:0 @media{ {top:0}";

    proptest! {
        #![proptest_config(ProptestConfig { failure_persistence: None, cases: 4096, ..ProptestConfig::default() })]
        #[test]
        fn any_text_says_what_it_would_have_said(
            pieces in prop::collection::vec((0..PIECES.split(' ').count(), 0..4usize), 1..24)
        ) {
            let piece = |(i, space): &(usize, usize)| {
                PIECES.split(' ').nth(*i).unwrap_or_default().to_owned() + [" ", "", "", "\n"][*space]
            };
            let text: String = pieces.iter().map(piece).collect();
            let (_, outlined, whole) = read(&text);
            prop_assert_eq!(outlined, whole, "{}", text);
        }
    }
}
