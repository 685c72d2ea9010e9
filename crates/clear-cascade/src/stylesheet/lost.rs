//! Ends that were lost: of brackets, strings and comments. What comes in: the tokens of a sheet, or what stands before a block that
//! is no selector. What goes out: what is told of it in place of what follows from it. What such a text means is CSS Syntax 3, §5; what
//! was meant is only told where the text shows it.

use crate::property::PropertyId;
use crate::stylesheet::media::{self, MediaQueryList};
use crate::syntax::{Kind, Slice, Token, Tokens};
use crate::text::shorten;

/// An end that was lost, or something like it.
pub(super) struct Lost {
    /// Where it is seen: bytes of the text.
    pub(super) at: (u32, u32),
    /// Up to where the text counts for nothing, or for something else, because of it.
    pub(super) to: u32,
    /// What is wrong and what follows, as one clause.
    pub(super) message: String,
    /// What was probably meant.
    pub(super) hint: Option<String>,
    /// Whether what else is told of the text that it is in follows from it.
    pub(super) alone: bool,
}

/// How long a piece of text is that is shown.
const SHOWN: usize = 40;

/// A piece of text as it is shown.
fn shown(text: &str) -> String {
    shorten(&text.split_whitespace().collect::<Vec<_>>().join(" "), SHOWN)
}

/// What is lost in the text as a whole: brackets and a comment that only its end closes. Of brackets in one another the innermost
/// round or square one is told, since the others could not close for it; else each brace.
pub(super) fn of_text(tokens: &Tokens) -> Vec<Lost> {
    let end = crate::source::offset(tokens.text.len());
    let mut found: Vec<Lost> =
        tokens.odd_comments.iter().map(|(from, to, inner)| comment(tokens, (*from, *to, *inner))).collect();
    let curly = |at: &&u32| matches!(tokens.list[**at as usize].kind, Kind::Curly(_));
    // The end of the text closes a string and a URL, too.
    let open = |t: &&Token| {
        let written = &tokens.text[t.start as usize..t.end as usize];
        match t.kind {
            Kind::Url => !written.ends_with(')'),
            Kind::Str => written.len() < 2 || !written.ends_with(&written[..1]),
            _ => false,
        }
    };
    if let Some(last) = tokens.list.last().filter(open) {
        let at = (last.start, last.end);
        let written = shown(&tokens.text[at.0 as usize..at.1 as usize]);
        let message = format!("`{written}` is never closed; the end of the text closes it");
        let hint = if last.kind == Kind::Url { "a `)` is missing" } else { "the closing quote is missing" };
        found.push(Lost { at, to: at.1, message, hint: Some(hint.to_owned()), alone: true });
        return found;
    }
    let other = tokens.unclosed.iter().find(|at| !curly(at));
    if let Some(at) = other {
        let token = tokens.list[*at as usize];
        // A string without an end may have its closing bracket in it.
        let bad = |t: &Token| t.kind == Kind::Bad && t.start > token.start;
        if let Some(bad) = tokens.list.iter().position(bad) {
            let bad = crate::source::offset(bad);
            found.push(Lost { to: end, alone: true, ..broken(Slice { tokens, from: bad, to: bad + 1 }) });
            return found;
        }
        let opens = &tokens.text[token.start as usize..token.end as usize];
        let close = if matches!(token.kind, Kind::Square(_)) { ']' } else { ')' };
        let behind = tokens.text[token.end as usize..].contains(['{', '}', ';']);
        let message = match behind {
            true => format!("`{}` is never closed: all that follows counts as inside of it", shown(opens)),
            false => format!("`{}` is never closed; the end of the text closes it", shown(opens)),
        };
        let hint = behind.then(|| format!("a `{close}` is missing"));
        let to = if behind { end } else { token.end };
        found.push(Lost { at: (token.start, token.end), to, message, hint, alone: true });
        return found;
    }
    // A brace may stand in a string or comment that goes on over it.
    let over = |t: &Token| matches!(t.kind, Kind::Bad) && tokens.text[t.start as usize..t.end as usize].contains('}');
    let bad = tokens.list.iter().position(over).map(crate::source::offset);
    for at in &tokens.unclosed {
        let token = tokens.list[*at as usize];
        if let Some(bad) = bad.filter(|bad| bad > at) {
            found.push(Lost { to: end, alone: true, ..broken(Slice { tokens, from: bad, to: bad + 1 }) });
            break;
        }
        if tokens.odd_comments.iter().any(|(from, ..)| *from > token.start) {
            continue;
        }
        let all = tokens.all();
        let inside = Slice { from: at + 1, ..all };
        let follows = !inside.split_at(|t| matches!(t.kind, Kind::Curly(_))).1.is_empty();
        let owner = shown(prelude(tokens, *at).text());
        let message = match follows {
            true => format!("`{owner} {{` is never closed: all that follows counts as inside of it"),
            false => format!("`{owner} {{` is never closed; the end of the text closes it"),
        };
        let hint = (follows && found.len() < MOST_LOOKED_AT).then(|| where_lost(tokens, *at)).flatten();
        let to = if follows { end } else { token.end };
        found.push(Lost { at: (token.start, token.end), to, message, hint, alone: false });
        if found.len() > MOST {
            break;
        }
    }
    found
}

/// How many are told of one text.
const MOST: usize = 1000;

/// For how many it is looked where they were lost: each time the whole text is gone over.
const MOST_LOOKED_AT: usize = 5;

/// A comment that has no end, or goes on over the start of another.
fn comment(tokens: &Tokens, (from, to, inner): (u32, u32, Option<u32>)) -> Lost {
    let message = match inner {
        None => "this comment has no end: all that follows is a part of it".to_owned(),
        Some(inner) => format!(
            "this comment ends only where the next one does, `{}`: all in between is a part of it",
            shown(&tokens.text[inner as usize..to as usize])
        ),
    };
    Lost { at: (from, from + 2), to, message, hint: Some("a `*/` is missing".to_owned()), alone: false }
}

/// What stands before the block that a token opens.
fn prelude(tokens: &Tokens, at: u32) -> Slice<'_> {
    let ends = |t: &Token| matches!(t.kind, Kind::Semicolon | Kind::Curly(_) | Kind::Close('}', _) | Kind::Cdo);
    let from = tokens.list[..at as usize].iter().rposition(ends).map_or(0, |i| i + 1);
    Slice { tokens, from: crate::source::offset(from), to: at }.trim()
}

/// In which column of its line a token stands, where nothing but white space is before it there.
fn indent(tokens: &Tokens, at: u32) -> Option<usize> {
    let Some(before) = (at as usize).checked_sub(1).map(|i| tokens.list[i]) else { return Some(0) };
    let white = &tokens.text[before.start as usize..tokens.list[at as usize].start as usize];
    let (_, left) = white.rsplit_once('\n').filter(|_| before.kind == Kind::Space)?;
    left.chars().all(char::is_whitespace).then(|| left.chars().count())
}

/// Where the end of a block was probably lost, by how lines are indented: before the first rule in it that starts no further
/// right than the rule that it is in.
fn where_lost(tokens: &Tokens, at: u32) -> Option<String> {
    let mut around = vec![(at, indent(tokens, prelude(tokens, at).from))];
    for i in at as usize + 1..tokens.list.len() {
        match tokens.list[i].kind {
            Kind::Curly(_) => {
                let i = crate::source::offset(i);
                let rule = prelude(tokens, i);
                let column = indent(tokens, rule.from);
                let (outer, left) = *around.last()?;
                if let (Some(left), Some(column)) = (left, column)
                    && column <= left
                {
                    let (outer, rule) = (shown(prelude(tokens, outer).text()), shown(rule.text()));
                    return Some(format!("the `}}` of `{outer}` is probably missing before `{rule}`"));
                }
                around.push((i, column));
            }
            Kind::Close('}', true) => _ = around.pop(),
            _ => {}
        }
    }
    None
}

/// What stands behind a run of tokens that is no selector.
#[derive(Clone, Copy, PartialEq, Eq)]
pub(super) enum Behind {
    /// A block, at the top of the sheet or in a group.
    Rule,
    /// A block, in another rule.
    Nested,
    /// No block.
    Nothing,
}

/// What is lost in a run of tokens that should be a selector, with the block behind it up to `to`, or a declaration: strings without
/// an end, brackets that close nothing, declarations outside of rules.
pub(super) fn of_prelude(prelude: Slice<'_>, to: u32, behind: Behind) -> Option<Lost> {
    let tokens = prelude.tokens;
    let here = |i: u32| Slice { from: i, to: i + 1, ..prelude };
    let kind = |i: u32| tokens.list[i as usize].kind;
    let whole = prelude.range();
    if let Some(bad) = (prelude.from..prelude.to).find(|i| kind(*i) == Kind::Bad) {
        return Some(Lost { to, ..broken(here(bad)) });
    }
    let rest = |from: u32| shown(Slice { from, ..prelude }.trim().text());
    if let Some(close) = (prelude.from..prelude.to).rev().find(|i| matches!(kind(*i), Kind::Close('}', false))) {
        let dropped = rest(close + 1);
        let first = prelude.from == (prelude.from..prelude.to).find(|i| matches!(kind(*i), Kind::Close('}', false)))?;
        let (message, hint) = if first {
            (format!("this `}}` closes nothing; the rule behind it, `{dropped}`, is dropped with it"), None)
        } else {
            let start = shown(Slice { to: close, ..prelude }.trim().text());
            (
                format!("no `{{` opens the block of `{start}`; the rule behind it, `{dropped}`, is dropped with it"),
                Some("a `{` is missing".to_owned()),
            )
        };
        let at = if first { here(prelude.from).range() } else { whole };
        return Some(Lost { at, to, message, hint, alone: false });
    }
    let dropped = match behind {
        Behind::Nothing => "all up to the next `;`",
        Behind::Rule | Behind::Nested => "the rule behind it",
    };
    match (kind(prelude.from), prelude.from + 1 < prelude.to) {
        (Kind::Delim('/'), true) if kind(prelude.from + 1) == Kind::Delim('/') => Some(Lost {
            at: (whole.0, whole.0 + 2),
            to,
            message: format!("`//` starts no comment in CSS; {dropped} is dropped with it"),
            hint: Some("a comment is written `/* … */`".to_owned()),
            alone: false,
        }),
        (Kind::Delim('*'), true) if kind(prelude.from + 1) == Kind::Delim('/') => Some(Lost {
            at: (whole.0, whole.0 + 2),
            to,
            message: format!("this `*/` ends no comment; {dropped} is dropped with it"),
            hint: Some("take the `*/` away".to_owned()),
            alone: false,
        }),
        (Kind::Semicolon, true) if behind == Behind::Rule => Some(Lost {
            at: here(prelude.from).range(),
            to,
            message: format!(
                "no `;` stands between rules; the rule behind it, `{}`, is dropped with it",
                rest(prelude.from + 1)
            ),
            hint: Some("take the `;` away".to_owned()),
            alone: false,
        }),
        (Kind::Ident, true) => swallowed(prelude, to, behind),
        _ => None,
    }
}

/// What is lost between a list of media queries and the first rule in its block, which stand before a block up to `to`.
pub(super) fn of_media(prelude: Slice<'_>, list: &MediaQueryList, to: u32) -> Option<Lost> {
    let line = |t: Token| t.kind == Kind::Space && prelude.tokens.text[t.start as usize..t.end as usize].contains('\n');
    let (before, after) = prelude.split_at(line);
    if before.is_empty() || after.is_empty() || list.unknown().is_empty() || !media::parse(before).unknown().is_empty()
    {
        return None;
    }
    let (queries, rule) = (shown(before.text()), shown(after.trim().text()));
    let message = format!("no `{{` opens the block of `@media {queries}`, so that it is one with `{rule}`");
    Some(Lost { at: before.range(), to, message, hint: Some("a `{` is missing".to_owned()), alone: false })
}

/// A declaration without its end that goes on into the rule in the next line.
fn swallowed(prelude: Slice<'_>, to: u32, behind: Behind) -> Option<Lost> {
    let tokens = prelude.tokens;
    let mut look = prelude;
    let name = look.next().map(|t| prelude.name(t).to_ascii_lowercase())?;
    look.skip_space();
    if look.kind() != Some(Kind::Colon) || PropertyId::named(&name).is_none() {
        return None;
    }
    let line = |i: &u32| {
        let t = tokens.list[*i as usize];
        t.kind == Kind::Space && tokens.text[t.start as usize..t.end as usize].contains('\n')
    };
    let last = (look.from..prelude.to).rev().find(line)?;
    let said = shown(Slice { to: last, ..prelude }.trim().text());
    let rule = shown(Slice { from: last, ..prelude }.trim().text());
    let (message, hint) = if behind != Behind::Rule {
        (format!("`{said}` has no end, so that it is one with `{rule}`; both are dropped"), "a `;` or `}` is missing")
    } else {
        (
            format!("`{said}` stands in no rule; the rule behind it, `{rule}`, is dropped with it"),
            "a `{` is missing, or a `}` too many",
        )
    };
    Some(Lost {
        at: Slice { to: last, ..prelude }.trim().range(),
        to,
        message,
        hint: Some(hint.to_owned()),
        alone: false,
    })
}

/// A string or URL that is broken off.
pub(super) fn broken(bad: Slice<'_>) -> Lost {
    let (from, to) = bad.range();
    let written = bad.text();
    let url = !written.starts_with(['"', '\'']);
    let (message, hint) = if !url {
        (format!("the string `{}` has no end in its line", shown(written)), "the closing quote is missing")
    } else if written.contains([';', '{', '}', '\n']) {
        (
            format!(
                "this `url(` is not closed where it should be; all up to the next `)` is one with it: `{}`",
                shown(written)
            ),
            "a `)` is missing",
        )
    } else {
        (
            format!("`{}` is no URL: without quotes it has no space, quote or bracket in it", shown(written)),
            "write it in quotes",
        )
    };
    Lost { at: (from, to), to, message, hint: Some(hint.to_owned()), alone: false }
}

#[cfg(test)]
mod tests {
    use crate::source::{OffsetMap, SourceId};
    use crate::stylesheet::{Input, parse};

    /// What is told: what is written there, how the message starts, and with what the damage ends.
    type Told = (&'static str, &'static str, &'static str);

    /// A text, and what is told of it.
    const CASES: &[(&str, &[Told])] = &[
        ("p{color:red", &[("{", "`p {` is never closed; the end of the text closes it", "")]),
        (
            "a{top:0\nb{top:0}\nc{top:0}",
            &[
                ("{", "`a {` is never closed: all that", "c{top:0}"),
                ("top:0", "`top:0` has no end, so that it is one with `b`", "\nb{top:0"),
            ],
        ),
        (
            "@media print{\n p{top:0}\n\nb{top:0}",
            &[("{", "`@media print {` is never closed: all that follows", "b{top:0}")],
        ),
        (
            "a{top:calc(1px;left:0}b{top:0}",
            &[("calc(", "`calc(` is never closed: all that follows counts as inside of it", "b{top:0}")],
        ),
        ("a{width:calc(1px + 2px", &[("calc(", "`calc(` is never closed; the end of the text closes it", "")]),
        ("a[b='c]{top:0}\nd{top:0}", &[("'c]{top:0}", "the string `'c]{top:0}` has no end in its line", "d{top:0}")]),
        (
            "a{content:'x;top:0}\nb{top:0}c{top:0}",
            &[("'x;top:0}", "the string `'x;top:0}` has no end in its line", "c{top:0}")],
        ),
        (
            "a{--b:'c;top:0}\n;left:0}",
            &[("'c;top:0}", "the string `'c;top:0}` has no end in its line; the declaration is dropped", "")],
        ),
        (
            "a{background:url(x;top:0}b{c:url(d)}",
            &[("url(x;top:0}b{c:url(d)", "this `url(` is not closed where it should be", "")],
        ),
        ("a{background:url(x y)}", &[("url(x y)", "`url(x y)` is no URL: without quotes it has no space", "")]),
        ("a{background:url(x", &[("url(x", "`url(x` is never closed; the end of the text closes it", "")]),
        ("a{top:0}/*b{top:0}", &[("/*", "this comment has no end: all that follows is a part of it", "b{top:0}")]),
        ("a{top:0;/*}b{top:0}/*c*/}", &[("/*", "this comment ends only where the next one does, `/*c*/`", "/*c*/")]),
        ("/**//*a*//* /* */ /*}*/b{top:0}/***/", &[]),
        ("*/a{top:0}", &[("*/", "this `*/` ends no comment; the rule behind it is dropped", "a{top:0")]),
        ("a{top:0}}b{top:0}", &[("}", "this `}` closes nothing; the rule behind it, `b`, is dropped", "b{top:0")]),
        (
            "a top:0}b{top:0}",
            &[("a top:0}b", "no `{` opens the block of `a top:0`; the rule behind it, `b`,", "{top:0")],
        ),
        (
            "@media (width)\n a{top:0}\n}b{top:0}",
            &[
                ("(width)", "no `{` opens the block of `@media (width)`, so that it is one with `a`", "top:0"),
                ("}", "this `}` closes nothing; the rule behind it, `b`,", "top:0"),
            ],
        ),
        ("@media (width),\n (height){}", &[]),
        (";a{top:0}", &[(";", "no `;` stands between rules; the rule behind it, `a`,", "a{top:0")]),
        ("//a\nb{top:0}", &[("//", "`//` starts no comment in CSS; the rule behind it", "b{top:0")]),
        ("a{//b\ntop:0;left:0}", &[("//", "`//` starts no comment in CSS; all up to the next `;`", "top:0")]),
        ("top:0;\nb{top:0}", &[("top:0;", "`top:0;` stands in no rule; the rule behind it, `b`,", "b{top:0")]),
        ("a:hover\nb{top:0} c:is(d)\n{top:0}a{b:hover\n{top:0}}", &[]),
        ("a{top left:0;left:0}", &[("top left:0", "this is no declaration: a `:` is missing", "")]),
    ];

    #[test]
    fn what_is_lost_is_told_once_and_where() {
        for (text, expected) in CASES {
            let sheet =
                parse(&Input { text: (*text).into(), map: OffsetMap::slice(SourceId::QUESTION, 0), quirks: false });
            let mut notes = sheet.notes().to_vec();
            notes.sort_by_key(|n| n.span.start);
            assert_eq!(notes.len(), expected.len(), "{text}: {notes:?}");
            for (note, (written, message, end)) in notes.iter().zip(*expected) {
                assert_eq!(&text[note.span.start as usize..note.span.end as usize], *written, "{text}");
                assert!(note.message.starts_with(message), "{text}: {}", note.message);
                let damage = note.damage.map_or("", |d| &text[note.span.end as usize..d.end as usize]);
                assert!(damage.ends_with(end) && damage.is_empty() == end.is_empty(), "{text}: {damage}");
            }
        }
    }
}
