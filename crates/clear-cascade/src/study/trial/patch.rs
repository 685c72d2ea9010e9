//! Reading edited sheets: only the statements that the edits touch are read anew.
//!
//! What comes in: a sheet as it was read and the edits of its text. What goes out: the same sheet with the statements left out
//! that the edits touch, and a small sheet that stands there instead. What is not touched keeps its places in the user's file.

use std::ops::Range;
use std::sync::Arc;

use crate::page::{Parsed, Read};
use crate::source::{OffsetMap, SourceId, Sources, offset};
use crate::stylesheet::{self, Stylesheet};
use crate::syntax::{Kind, Slice, Tokens};

/// Ranges of a text and what is put in their place, in order.
type Edits = [(Range<u32>, String)];

/// Reads an edited sheet in the place of the one it was: its source as it was and as it is, its text as it was, and its text as
/// it is with the edits that led there.
pub(super) fn reread(
    parsed: &mut Parsed,
    (old, new): (SourceId, SourceId),
    before: &str,
    (after, edits): (&str, &Edits),
    quirks: bool,
) {
    for read in reads(parsed).filter(|r| r.sheet.source == old) {
        *read = patched(read, (before, after), edits, new, quirks).unwrap_or_else(|| whole(after, new, quirks));
    }
}

/// All that was read from texts of their own.
fn reads(parsed: &mut Parsed) -> impl Iterator<Item = &mut Read> {
    parsed.linked.values_mut().flatten().chain(parsed.given.values_mut())
}

/// A sheet read from its whole text.
fn whole(text: &str, source: SourceId, quirks: bool) -> Read {
    let map = OffsetMap::slice(source, 0);
    Arc::new(stylesheet::parse(&stylesheet::Input { text: text.into(), map, quirks })).into()
}

impl Parsed {
    /// Whether parts of some sheet were read anew.
    pub(super) fn is_patched(&self) -> bool {
        self.linked.values().flatten().chain(self.given.values()).any(|r| r.patch.is_some())
    }

    /// Reads all sheets of which parts were read anew from their whole texts.
    pub(super) fn read_whole(&mut self, sources: &Sources, quirks: bool) {
        for read in reads(self) {
            if let Some((_, by)) = &read.patch {
                *read = whole(&sources.at(by.source).text, by.source, quirks);
            }
        }
    }
}

/// The sheet with only those statements read anew that the edits touch; nothing where what follows from an edit may go further
/// than the statements it is in.
fn patched(read: &Read, (before, after): (&str, &str), edits: &Edits, new: SourceId, quirks: bool) -> Option<Read> {
    let sheet = &read.sheet;
    let (first, last) = (&edits.first()?.0, &edits.last()?.0);
    if read.patch.is_some() {
        return None;
    }
    let (mut from, mut to) = (0, offset(before.len()));
    for statement in sheet.statements() {
        let (start, end) = statement.range();
        let orders = reorders(statement);
        if end < first.start {
            // Selectors after it go by the namespaces that it declares.
            if orders && keyword(statement) == "namespace" {
                return None;
            }
            from = end;
            continue;
        }
        // What it says may come to count, or no longer.
        if orders {
            return None;
        }
        if start > last.end {
            to = start.min(to);
        }
    }
    let grown = edits.iter().map(|(range, text)| i64::from(offset(text.len())) - i64::from(range.end - range.start));
    let end = u32::try_from(i64::from(to) + grown.sum::<i64>()).ok()?;
    let text = after.get(from as usize..end as usize)?;
    let map = OffsetMap::slice(new, from);
    let by = stylesheet::parse(&stylesheet::Input { text: text.into(), map, quirks });
    let closed = to == offset(before.len()) || is_closed(&by, text);
    let stays = closed && !by.statements().any(reorders);
    stays.then(|| Read { sheet: sheet.clone(), patch: Some((from..to, Arc::new(by))) })
}

/// The name of the at-rule that a statement is; of other statements nothing.
fn keyword(statement: Slice<'_>) -> String {
    let token = statement.peek().filter(|t| t.kind == Kind::AtKeyword);
    token.map(|t| statement.name(t).to_ascii_lowercase()).unwrap_or_default()
}

/// Whether it matters to a statement, or to others, what comes before it in the sheet.
fn reorders(statement: Slice<'_>) -> bool {
    matches!(&*keyword(statement), "import" | "namespace" | "charset")
}

/// Whether nothing in a text goes on behind its end: statements, brackets and comments are closed.
fn is_closed(sheet: &Stylesheet, text: &str) -> bool {
    let complete = |statement: Slice<'_>| {
        let tokens = &statement.tokens.list;
        let last = statement.to.checked_sub(1).and_then(|i| tokens.get(i as usize));
        match last.map(|t| t.kind) {
            Some(Kind::Close('}', _)) => statement.from + 1 < statement.to,
            Some(Kind::Semicolon) => statement.kind() == Some(Kind::AtKeyword),
            _ => false,
        }
    };
    // In an open comment or URL, what follows would be no token of its own.
    let probe = Tokens::read(&format!("{text}x"));
    let stands_alone = probe.list.last().is_some_and(|t| t.kind == Kind::Ident && t.start as usize == text.len());
    sheet.tokens.unclosed.is_empty() && stands_alone && sheet.statements().all(complete)
}
