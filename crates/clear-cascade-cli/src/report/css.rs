//! Addresses and media conditions in CSS.

use cssparser::{Parser, Token};

/// An address, and what it is of.
pub(super) enum Address<'t> {
    /// Of a sheet that is imported.
    Import(&'t str),
    /// Of something else.
    Other(&'t str),
}

/// What stands before a token, white space and comments aside.
#[derive(Clone, Copy, PartialEq)]
enum Before {
    /// `@import`.
    Import,
    /// `url(` or `src(`, and whether `@import` stands before it.
    Url(bool),
    /// Anything else.
    Other,
}

/// A media condition that is being read, in brackets of its own.
struct Condition {
    /// Where it is asked.
    asked: Asked,
    /// Where its text starts.
    from: usize,
    /// How many brackets are open in it.
    depth: u32,
}

/// Where a media condition is asked.
#[derive(Clone, Copy, PartialEq)]
enum Asked {
    /// By `@media`: it goes on to the block.
    Block,
    /// By `@import`, and whether nothing has come yet but the address, `layer` and `supports()`: it goes on to the semicolon.
    Import(bool),
    /// By `media()`: it goes on to the closing parenthesis.
    Function,
}

/// What of a text of CSS is told otherwise.
pub(super) struct Told<'f> {
    /// The address in the place of one; nothing where it stays.
    pub(super) address: &'f mut dyn FnMut(Address<'_>) -> Option<String>,
    /// Whether a list of media queries matches: where it does, `all` stands in its place, else `not all`.
    pub(super) matches: &'f dyn Fn(&str) -> bool,
}

/// The text that is told so; nothing where all stays as it is.
pub(super) fn told(text: &str, by: &mut Told<'_>) -> Option<String> {
    let (mut out, mut copied) = (String::new(), 0);
    let mut put = |start: usize, end: usize, instead: &str| {
        out.push_str(&text[copied..start]);
        out.push_str(instead);
        copied = end;
    };
    let (mut base, mut before) = (0, Before::Other);
    let mut condition: Option<Condition> = None;
    'text: loop {
        // A parser skips a block that nobody enters; a fresh one starts inside it.
        let mut parser = Parser::new(&text[base..]);
        loop {
            let start = base + parser.position().byte_index();
            let token = parser.next_including_whitespace_and_comments().cloned().ok();
            let end = base + parser.position().byte_index();
            if let Some(open) = &mut condition
                && open.ends_before(token.as_ref(), end)
            {
                let asked = text[open.from..start].trim();
                match open.asked {
                    // A feature leaves its parentheses out. What is neither one nor a condition nobody knows, and it stays.
                    Asked::Function if (by.matches)(&format!("({asked})")) => put(open.from, start, "width >= 0px"),
                    Asked::Function if (by.matches)(&format!("not ({asked})")) => put(open.from, start, "width < 0px"),
                    Asked::Function => {}
                    Asked::Block | Asked::Import(_) if asked.is_empty() => {}
                    Asked::Block | Asked::Import(_) => {
                        put(open.from, start, if (by.matches)(asked) { " all" } else { " not all" });
                    }
                }
                condition = None;
            }
            let Some(token) = token else { break 'text };
            let was = before;
            before = match &token {
                Token::WhiteSpace(_) | Token::Comment(_) => was,
                Token::AtKeyword(name) if name.eq_ignore_ascii_case("import") => Before::Import,
                Token::Function(name) if ["url", "src"].iter().any(|url| name.eq_ignore_ascii_case(url)) => {
                    Before::Url(was == Before::Import)
                }
                _ => Before::Other,
            };
            if condition.is_none() {
                let asked = match &token {
                    Token::AtKeyword(name) if name.eq_ignore_ascii_case("media") => Some(Asked::Block),
                    Token::AtKeyword(name) if name.eq_ignore_ascii_case("import") => Some(Asked::Import(true)),
                    Token::Function(name) if name.eq_ignore_ascii_case("media") => Some(Asked::Function),
                    _ => None,
                };
                condition = asked.map(|asked| Condition { asked, from: end, depth: 0 });
            }
            let found = match (&token, was) {
                (Token::UnquotedUrl(address), _) => Some((address, was == Before::Import, true)),
                (Token::QuotedString(address), Before::Import) => Some((address, true, false)),
                (Token::QuotedString(address), Before::Url(import)) => Some((address, import, false)),
                _ => None,
            };
            if let Some((address, import, bare)) = found
                && let Some(other) =
                    (by.address)(if import { Address::Import(address) } else { Address::Other(address) })
            {
                put(start, end, &if bare { format!("url(\"{other}\")") } else { format!("\"{other}\"") });
            }
            if opens(&token) {
                base = end;
                continue 'text;
            }
        }
    }
    (copied > 0).then(|| out + &text[copied..])
}

/// Whether a token opens brackets.
fn opens(token: &Token<'_>) -> bool {
    matches!(token, Token::Function(_) | Token::ParenthesisBlock | Token::SquareBracketBlock | Token::CurlyBracketBlock)
}

impl Condition {
    /// Whether the condition is over where this token starts; else the token, which ends at `end`, is taken into account.
    fn ends_before(&mut self, token: Option<&Token<'_>>, end: usize) -> bool {
        let Some(token) = token else { return true };
        let closes = matches!(token, Token::CloseParenthesis | Token::CloseSquareBracket | Token::CloseCurlyBracket);
        if self.depth == 0 {
            let over = match self.asked {
                Asked::Function => closes,
                Asked::Block | Asked::Import(_) => {
                    closes || matches!(token, Token::Semicolon | Token::CurlyBracketBlock)
                }
            };
            if over {
                return true;
            }
        }
        let word = |name: &str, words: &[&str]| words.iter().any(|word| name.eq_ignore_ascii_case(word));
        self.depth = if opens(token) { self.depth + 1 } else { self.depth - u32::from(closes) };
        if let Asked::Import(true) = self.asked {
            match token {
                Token::WhiteSpace(_) | Token::Comment(_) => {}
                _ if closes && self.depth == 0 => self.from = end,
                Token::QuotedString(_) | Token::UnquotedUrl(_) if self.depth == 0 => self.from = end,
                Token::Ident(name) if self.depth == 0 && word(name, &["layer"]) => self.from = end,
                Token::Function(name) if self.depth == 1 && word(name, &["url", "src", "layer", "supports"]) => {}
                _ if self.depth > 0 && !(self.depth == 1 && opens(token)) => {}
                _ => self.asked = Asked::Import(false),
            }
        }
        false
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn addresses_are_found_where_they_are_addresses() {
        let cases = [
            ("a{b:url(x.png)}", "a{b:url(\"X.PNG\")}"),
            ("a{b:URL( 'x' ) url(\"y\")}", "a{b:URL( \"X\" ) url(\"Y\")}"),
            ("@import 'a.css' layer(x);", "@import \"<a.css>\" layer(x);"),
            ("@IMPORT/**/url(a.css) print", "@IMPORT/**/url(\"<a.css>\") all"),
            ("@import url( \"a.css\" );", "@import url( \"<a.css>\" );"),
            ("/* url(x) */ a{content:'url(y)'}", ""),
            ("a{b:image-set('x' 1x, url(y) 2x)}", "a{b:image-set('x' 1x, url(\"Y\") 2x)}"),
            ("a{b:url(x", "a{b:url(\"X\")"),
            ("a{b:url(a\\29 b)} [c='url(d)'] ( { url(e)", "a{b:url(\"A)B\")} [c='url(d)'] ( { url(\"E\")"),
        ];
        for (text, expected) in cases {
            let mut address = |address: Address<'_>| match address {
                Address::Import(href) => Some(format!("<{href}>")),
                Address::Other(href) => Some(href.to_uppercase()),
            };
            let found = told(text, &mut Told { address: &mut address, matches: &|_| true });
            assert_eq!(found.unwrap_or_default(), expected, "{text}");
        }
    }

    #[test]
    fn media_conditions_are_told_as_they_hold() {
        let cases = [
            ("@media print{a{b:c}}", "@media not all{a{b:c}}"),
            ("@MEDIA/**/(width > 1px) , not print {}", "@MEDIA all{}"),
            ("@media {} @media print;a{}", "@media {} @media not all;a{}"),
            (
                "@media screen { a { @media print { b:c } } @media print{} } d{}",
                "@media all{ a { @media not all{ b:c } } @media not all{} } d{}",
            ),
            ("@media (a:{b;c}) {} @media print", "@media all{} @media not all"),
            ("@import 'a';@import url(a) layer;", ""),
            ("@import 'a' print;", "@import 'a' not all;"),
            ("@import url('a')layer(x)/**/supports(a:b) print", "@import url('a')layer(x)/**/supports(a:b) not all"),
            ("@import url(a) layer (width > 1px) ; @media print{}", "@import url(a) layer all; @media not all{}"),
            ("@import src(\"a\") (print) layer(a);", "@import src(\"a\") not all;"),
            ("a{content:'@media print{'} /* @media print */ @medi print{}", ""),
        ];
        for (text, expected) in cases {
            let matches = |list: &str| !list.contains("print") || list.contains("not print");
            let found = told(text, &mut Told { address: &mut |_| None, matches: &matches });
            assert_eq!(found.unwrap_or_default(), expected, "{text}");
        }
        // In `if()` are conditions and features; media types are none, there, and known to nobody.
        let viewing = clear_cascade::Viewing::default();
        for (asked, expected) in [
            ("width > 1px", "width >= 0px"),
            ("width < 1px", "width < 0px"),
            ("(width > 1px) and (not (height < 1px))", "width >= 0px"),
            ("not (width > 1px)", "width < 0px"),
            ("print", "print"),
            ("screen and (width > 1px)", "screen and (width > 1px)"),
            ("unheard-of", "unheard-of"),
        ] {
            let text = |asked: &str| format!("a{{b:if(media({asked}): 1; else: media)}}");
            let by = &mut Told { address: &mut |_| None, matches: &|list| viewing.matches_media(list) };
            assert_eq!(told(&text(asked), by).unwrap_or_else(|| text(asked)), text(expected));
        }
    }
}
