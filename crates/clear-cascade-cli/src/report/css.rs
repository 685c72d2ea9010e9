//! Addresses in CSS.

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

/// A text with addresses replaced by those that `to` gives for them; nothing where all stay as they are.
pub(super) fn with_addresses(text: &str, to: &mut dyn FnMut(Address<'_>) -> Option<String>) -> Option<String> {
    let (mut out, mut copied) = (String::new(), 0);
    let (mut base, mut before) = (0, Before::Other);
    'text: loop {
        // A parser skips a block that nobody enters; a fresh one starts inside it.
        let mut parser = Parser::new(&text[base..]);
        loop {
            let start = base + parser.position().byte_index();
            let Ok(token) = parser.next_including_whitespace_and_comments().cloned() else { break 'text };
            let end = base + parser.position().byte_index();
            let was = before;
            before = match &token {
                Token::WhiteSpace(_) | Token::Comment(_) => was,
                Token::AtKeyword(name) if name.eq_ignore_ascii_case("import") => Before::Import,
                Token::Function(name) if ["url", "src"].iter().any(|url| name.eq_ignore_ascii_case(url)) => {
                    Before::Url(was == Before::Import)
                }
                _ => Before::Other,
            };
            let found = match (&token, was) {
                (Token::UnquotedUrl(address), _) => Some((address, was == Before::Import, true)),
                (Token::QuotedString(address), Before::Import) => Some((address, true, false)),
                (Token::QuotedString(address), Before::Url(import)) => Some((address, import, false)),
                _ => None,
            };
            if let Some((address, import, bare)) = found
                && let Some(other) = to(if import { Address::Import(address) } else { Address::Other(address) })
            {
                out.push_str(&text[copied..start]);
                out.push_str(&if bare { format!("url(\"{other}\")") } else { format!("\"{other}\"") });
                copied = end;
            }
            if matches!(
                token,
                Token::Function(_) | Token::ParenthesisBlock | Token::SquareBracketBlock | Token::CurlyBracketBlock
            ) {
                base = end;
                continue 'text;
            }
        }
    }
    (copied > 0).then(|| out + &text[copied..])
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
            ("@IMPORT/**/url(a.css) print", "@IMPORT/**/url(\"<a.css>\") print"),
            ("@import url( \"a.css\" );", "@import url( \"<a.css>\" );"),
            ("/* url(x) */ a{content:'url(y)'}", ""),
            ("a{b:image-set('x' 1x, url(y) 2x)}", "a{b:image-set('x' 1x, url(\"Y\") 2x)}"),
            ("a{b:url(x", "a{b:url(\"X\")"),
            ("a{b:url(a\\29 b)} [c='url(d)'] ( { url(e)", "a{b:url(\"A)B\")} [c='url(d)'] ( { url(\"E\")"),
        ];
        for (text, expected) in cases {
            let found = with_addresses(text, &mut |address| match address {
                Address::Import(href) => Some(format!("<{href}>")),
                Address::Other(href) => Some(href.to_uppercase()),
            });
            assert_eq!(found.unwrap_or_default(), expected, "{text}");
        }
    }
}
