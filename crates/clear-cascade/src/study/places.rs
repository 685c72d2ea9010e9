//! What is written at a place of a stylesheet or of an attribute: the way back from the places that answers print.

use crate::page::FlatRule;
use crate::source::{Place, Source, SourceId, SourceKind, Span};
use crate::stylesheet::{Declaration, Note, NoteKind, StyleRule};

use super::Study;

/// Why nothing can be told to be written at a place.
///
/// ```
/// # use clear_cascade::{MemoryLoader, Study};
/// # let files = MemoryLoader::default().with(
/// #     "a.html",
/// #     "<!DOCTYPE html><style>p { color: navy; margin: 1px } .lead { color: gold } p::before { content: '*' } b { widht: 2px; width: 3px }
/// #     @media print { p { color: black } }</style><body><p id=one class=lead>Hello <b>you</b></p><p id=two>Bye</p></body>",
/// # );
/// # let page = Study::open(&files, "a.html")?;
/// use clear_cascade::{PlaceError, TrialError};
/// let cut = clear_cascade::Change::Cut { at: "b.css:1".parse()? };
/// assert!(matches!(page.attempt(&[cut]), Err(TrialError::Place(PlaceError::NoFile { .. }))));
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
#[non_exhaustive]
pub enum PlaceError {
    /// No text of the page has this name.
    #[error("`{file}` is no file of the page; its files are {}", known.join(", "))]
    NoFile {
        /// The name as given.
        file: String,
        /// The files that are.
        known: Vec<String>,
    },
    /// Several texts of the page have names with this end.
    #[error("`{file}` may be {}; write more of the path", files.join(" or "))]
    SeveralFiles {
        /// The name as given.
        file: String,
        /// The files that it fits.
        files: Vec<String>,
    },
    /// No style rule is written there.
    #[error("no style rule that is part of the page is written at {file}:{line}{}", next.as_ref().map(|n| format!("; the next one is {n}")).unwrap_or_default())]
    NoRule {
        /// The file as given.
        file: String,
        /// The line.
        line: u32,
        /// The next rule in the file, and where it is.
        next: Option<String>,
    },
    /// Several rules are written on a line.
    #[error("{} rules are written at {file}:{line}: {}; add the column of the one that is meant", rules.len(), some_of(rules))]
    SeveralRules {
        /// The file as given.
        file: String,
        /// The line.
        line: u32,
        /// The rules, each with where it is.
        rules: Vec<String>,
    },
}

/// The first of some texts, and how many more there are.
fn some_of(texts: &[String]) -> String {
    let more = texts.len().saturating_sub(4);
    let dots = if more > 0 { format!(" and {more} more") } else { String::new() };
    format!("{}{dots}", texts[..texts.len() - more].join(", "))
}

/// What is written at a place.
#[derive(Clone, Debug)]
pub(crate) struct WrittenAt<'s> {
    /// The rule as often as the page has it: those that are on first. Never empty.
    pub(crate) rules: Vec<&'s FlatRule>,
    /// The declaration in it that is meant, where one is; it may be one that was dropped.
    pub(crate) declaration: Option<Span>,
}

impl Study {
    /// The text that a file name stands for: the one with that name, else the one whose path ends in it.
    ///
    /// # Errors
    /// Where there is none, or several have paths that end so.
    pub(crate) fn file_named(&self, given: &str) -> Result<SourceId, PlaceError> {
        let file = given.trim_start_matches("./");
        let end = format!("/{file}");
        // `/css/a.css` is the path from the top of the site, which names are without.
        let top = file.strip_prefix('/').unwrap_or(file);
        // Of texts with one name, the last is the newest.
        if let Some((id, _)) = self.sources.iter().filter(|(_, s)| [given, file, top].contains(&s.name.as_str())).last()
        {
            return Ok(id);
        }
        let mut fits: Vec<(SourceId, &Source)> = self.sources.iter().filter(|(_, s)| s.name.ends_with(&end)).collect();
        fits.reverse();
        let mut files: Vec<String> = fits.iter().map(|(_, s)| s.name.clone()).collect();
        files.sort();
        files.dedup();
        match (fits.first(), files.len()) {
            (Some((id, _)), 1) => Ok(*id),
            (Some(_), _) => Err(PlaceError::SeveralFiles { file: given.to_owned(), files }),
            (None, _) => {
                let own = |s: &Source| matches!(s.kind, SourceKind::Page | SourceKind::Sheet | SourceKind::User);
                let known = self.sources.iter().filter(|(_, s)| own(s)).map(|(_, s)| s.name.clone()).collect();
                Err(PlaceError::NoFile { file: given.to_owned(), known })
            }
        }
    }

    /// What is written at a line of a file, or at a line and column, both from 1: of rules in one another the innermost.
    ///
    /// # Errors
    /// Where no rule is written there, or several are on the line and no column tells which.
    pub(crate) fn written_at(&self, place: &Place) -> Result<WrittenAt<'_>, PlaceError> {
        let Place { file, line, column } = place;
        let line = *line;
        let source = self.file_named(file)?;
        let text = self.sources.at(source);
        let mut all: Vec<&FlatRule> = self.page.rules.iter().chain(&self.page.off_rules).collect();
        all.retain(|r| self.page.prelude(r).source == source);
        let nothing = || {
            let after = text.line_range(line).map_or(0, |(start, _)| start);
            let next = all.iter().map(|r| self.page.prelude(r)).filter(|p| p.start >= after);
            let next = next.min_by_key(|p| p.start).map(|p| self.rule_and_place(p));
            PlaceError::NoRule { file: file.clone(), line, next }
        };
        let (start, end) = text.line_range(line).ok_or_else(nothing)?;
        match column {
            Some(column) => {
                let at = text.byte_at(line, *column).unwrap_or(end);
                self.innermost(&all, at).ok_or_else(nothing)
            }
            None => self.on_line(&all, (start, end)).map_err(|rules| match rules.as_slice() {
                [] => nothing(),
                _ => PlaceError::SeveralRules {
                    file: file.clone(),
                    line,
                    rules: rules.into_iter().map(|p| self.rule_and_place(p)).collect(),
                },
            }),
        }
    }

    /// The innermost of some rules that a byte is in, and the declaration.
    fn innermost<'s>(&'s self, all: &[&'s FlatRule], at: u32) -> Option<WrittenAt<'s>> {
        let inside = |r: &&&FlatRule| {
            let prelude = self.page.prelude(r);
            prelude.start <= at && at <= self.page.end_of(r).max(prelude.end)
        };
        // Where one ends right before the next begins, the byte is in the next.
        let found = all.iter().filter(inside).max_by_key(|r| self.page.prelude(r).start)?;
        let of = self.same_rule(all, self.page.prelude(found));
        let here = |d: &&Declaration| d.span.start <= at && at < d.span.end.max(d.span.start + 1);
        let mut declarations = of.iter().flat_map(|r| self.page.declarations(r));
        let dropped = || self.dropped_in(&of).find(|n| n.span.start <= at && at <= n.span.end).map(|n| n.span);
        let declaration = declarations.find(here).map(|d| d.span).or_else(dropped);
        Some(WrittenAt { rules: of, declaration })
    }

    /// The notes of what was dropped in the block of a rule, rules in it aside.
    pub(crate) fn dropped_in<'s>(&'s self, rules: &[&'s FlatRule]) -> impl Iterator<Item = &'s Note> {
        let first = rules.first().map(|r| (self.page.style_rule(r), &self.page.sheets[r.sheet as usize].sheet));
        let end = rules.iter().map(|r| self.page.end_of(r)).max();
        first.into_iter().flat_map(move |(rule, sheet)| {
            let (prelude, end) = (sheet.prelude(rule), end.unwrap_or_else(|| sheet.end_of(rule)));
            // An attribute is all block.
            let attribute = rule.is_attribute();
            let from = if attribute { prelude.start } else { prelude.end };
            let inside = move |at: u32| from <= at && (at < end || attribute && at == end);
            // A bracket or comment that is never closed is no declaration.
            let open =
                |text: &str| text == "/*" || text.ends_with(['{', '(', '[']) && !text.contains(char::is_whitespace);
            let about = move |n: &&Note| {
                let kind = matches!(n.kind, NoteKind::Property | NoteKind::Value | NoteKind::Syntax);
                kind && !open(self.sources.written(n.span))
            };
            let deeper = move |n: &Note| {
                let nested = |r: &&StyleRule| inside(sheet.prelude(r).start) && sheet.prelude(r) != prelude;
                let around = |r: &StyleRule| (sheet.prelude(r).start..=sheet.end_of(r)).contains(&n.span.start);
                sheet.rules.iter().filter(nested).any(around)
            };
            let notes = sheet.notes_about(rule);
            let first = notes.partition_point(|n| n.span.start < from);
            let here = notes[first..].iter().take_while(move |n| n.span.start <= end);
            here.filter(about).filter(move |n| inside(n.span.start) && !deeper(n))
        })
    }

    /// What is written on the bytes of a line: the rule whose selectors are there, else the declaration, else the rule around.
    /// Where several are, the places of their selectors; none where nothing is.
    fn on_line<'s>(&'s self, all: &[&'s FlatRule], (start, end): (u32, u32)) -> Result<WrittenAt<'s>, Vec<Span>> {
        let on_line = |span: Span| span.start <= end && span.end > start;
        let mut preludes: Vec<Span> = all.iter().map(|r| self.page.prelude(r)).collect();
        preludes.retain(|p| on_line(*p));
        preludes.sort_by_key(|p| (p.start, p.end));
        preludes.dedup();
        let whole = |prelude: Span| WrittenAt { rules: self.same_rule(all, prelude), declaration: None };
        match preludes.as_slice() {
            [one] => return Ok(whole(*one)),
            [] => {}
            _ => return Err(preludes),
        }
        let declared = |r: &&'s FlatRule| {
            let prelude = self.page.prelude(r);
            self.page.declarations(r).iter().filter(|d| on_line(d.span)).map(move |d| (prelude, d.span))
        };
        let mut declarations: Vec<(Span, Span)> = all.iter().flat_map(declared).collect();
        declarations.sort_by_key(|(p, d)| (p.start, d.start));
        declarations.dedup();
        match declarations.as_slice() {
            [] => {
                let around = self.innermost(all, end).or_else(|| self.innermost(all, start)).ok_or_else(Vec::new)?;
                let mut dropped = self.dropped_in(&around.rules).map(|n| n.span).filter(|n| on_line(*n));
                let declaration = dropped.next().filter(|_| dropped.next().is_none());
                Ok(WrittenAt { declaration, ..around.clone() })
            }
            [(prelude, one)] => Ok(WrittenAt { declaration: Some(*one), ..whole(*prelude) }),
            [(prelude, _), rest @ ..] if rest.iter().all(|(p, _)| p == prelude) => Ok(whole(*prelude)),
            several => {
                let mut preludes: Vec<Span> = several.iter().map(|(p, _)| *p).collect();
                preludes.dedup();
                Err(preludes)
            }
        }
    }

    /// All that the page has of the rule whose selectors are at a place: as often as its sheet is brought, with what follows
    /// a nested rule.
    fn same_rule<'s>(&'s self, all: &[&'s FlatRule], prelude: Span) -> Vec<&'s FlatRule> {
        all.iter().copied().filter(|r| self.page.prelude(r) == prelude).collect()
    }

    /// The selectors of a rule as written, and where.
    fn rule_and_place(&self, prelude: Span) -> String {
        let text = crate::text::shorten(self.sources.written(prelude), 40);
        format!("`{text}` {}", self.sources.placed(prelude))
    }
}
