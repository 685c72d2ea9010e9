//! From changes to edits of texts: where a rule is put, what is cut along with a declaration, how a new line is indented.

mod attributes;

use std::collections::BTreeMap;
use std::ops::Range;
use std::rc::Rc;

use rustc_hash::{FxHashMap, FxHashSet};
use url::Url;

use self::attributes::escaped;
use super::{Change, RulePlace, TrialError};
use crate::cascade::Origin;
use crate::document::{Element, ElementId};
use crate::page::{self, FlatRule, SheetEntry};
use crate::selector;
use crate::source::{OffsetMap, Place, Source, SourceId, SourceKind, Span, offset};
use crate::study::Study;
use crate::stylesheet::{self, Import, NoteKind};
use crate::syntax::{Kind, Token, Tokens};

/// The links and the imports that name a sheet, with what their URLs are relative to.
type Namers<'s> = (Vec<(&'s Element, Url)>, Vec<(&'s Import, &'s Url)>);

/// Edits of texts, while they are gathered.
pub(super) struct Edits<'s> {
    /// The page as it is.
    pub(super) study: &'s Study,
    /// By text, ranges and what is put in their place.
    pub(super) list: BTreeMap<SourceId, Vec<(Range<u32>, String)>>,
    /// Whether the page's own styles are applied.
    pub(super) author: bool,
    /// Whether browser defaults are.
    pub(super) defaults: bool,
    /// Values of attributes as they would be written between double quotes, by element and name; nothing for those that are
    /// taken off. Several changes of one attribute come to one edit.
    attributes: BTreeMap<(ElementId, String), Option<String>>,
    /// By text, what can be cut out of it, once something was.
    written: FxHashMap<SourceId, Rc<Written>>,
}

/// Where a rule is written.
#[derive(Clone, Copy)]
struct WrittenRule {
    /// Its selectors.
    prelude: Span,
    /// The end of its block.
    end: u32,
    /// Whether it is a `style` attribute.
    attribute: bool,
}

/// What is written in the sheets and `style` attributes of a text, in the order of the text.
struct Written {
    /// The declarations.
    declarations: Vec<Span>,
    /// The rules, by their selectors, which no others stand in: as often as their sheet is brought.
    rules: Vec<WrittenRule>,
}

impl Written {
    /// What a page has of a text.
    fn new(study: &Study, source: SourceId) -> Self {
        let hints = study.page.rules.iter().filter(|r| r.within.origin == Origin::PresentationalHint);
        let hints: FxHashSet<u32> = hints.map(|r| r.sheet).collect();
        let entries = study.page.sheets.iter().enumerate().filter(|(i, _)| !hints.contains(&offset(*i)));
        let entries = entries.filter(|(_, e)| e.sheet.source == source);
        let (mut rules, mut declarations): (Vec<WrittenRule>, Vec<Span>) = Default::default();
        for sheet in entries.map(|(_, e)| &e.sheet) {
            let written =
                |r| WrittenRule { prelude: sheet.prelude(r), end: sheet.end_of(r), attribute: r.is_attribute() };
            rules.extend(sheet.rules.iter().map(written));
            declarations.extend(sheet.rules.iter().flat_map(|r| sheet.declarations(r)).map(|d| d.span));
        }
        rules.sort_by_key(|r| (r.prelude.start, r.prelude.end));
        declarations.sort_by_key(|d| (d.start, d.end));
        declarations.dedup();
        Self { declarations, rules }
    }

    /// The declaration that a byte is in.
    fn declaration(&self, at: u32) -> Option<Span> {
        let after = self.declarations.partition_point(|d| d.start <= at);
        self.declarations[..after].last().copied().filter(|d| at < d.end.max(d.start + 1))
    }

    /// The declarations that start in a range.
    fn declarations(&self, (start, end): (u32, u32)) -> &[Span] {
        let from = self.declarations.partition_point(|d| d.start < start);
        let to = self.declarations.partition_point(|d| d.start <= end);
        &self.declarations[from..to.max(from)]
    }

    /// The rule whose selectors are the first in a range.
    fn rule(&self, (start, end): (u32, u32)) -> Option<WrittenRule> {
        let from = self.rules.partition_point(|r| r.prelude.end < start);
        self.rules.get(from).copied().filter(|r| r.prelude.start <= end)
    }
}

impl<'s> Edits<'s> {
    /// No edits yet.
    pub(super) fn new(study: &'s Study) -> Self {
        Self {
            study,
            list: BTreeMap::new(),
            author: true,
            defaults: true,
            attributes: BTreeMap::new(),
            written: FxHashMap::default(),
        }
    }
}

impl<'s> Edits<'s> {
    /// Takes one change in.
    pub(super) fn change(&mut self, change: &Change) -> Result<(), TrialError> {
        match change {
            Change::Rule { text, to } => self.rule(text, to),
            Change::Attach { elements, declarations } => self.attach(elements, declarations),
            Change::Class { elements, class, on } => elements.iter().try_for_each(|e| self.class(*e, class, *on)),
            Change::Classes { elements, classes } => {
                let classes = classes.split_ascii_whitespace().collect::<Vec<_>>().join(" ");
                let written = (!classes.is_empty()).then(|| escaped(&classes));
                elements.iter().try_for_each(|e| self.set_attribute(*e, "class", written.clone()))
            }
            Change::Attribute { elements, name, value } => {
                let fits = |c: char| !c.is_whitespace() && !matches!(c, '"' | '\'' | '>' | '/' | '=' | '<');
                if name.is_empty() || !name.chars().all(fits) {
                    return Err(TrialError::Text(format!("`{name}` is no name of an attribute")));
                }
                let name = name.to_ascii_lowercase();
                elements.iter().try_for_each(|e| self.set_attribute(*e, &name, value.as_deref().map(escaped)))
            }
            Change::Text { elements, text } => elements.iter().try_for_each(|e| self.text_of(*e, text)),
            Change::Value { at, by } => self.value(at, by),
            Change::Property { at, by } => self.property(at, by),
            Change::MoveSheet { file, before } => self.move_sheet(file, before),
            Change::Cut { at } => self.cut(at),
            Change::Selectors { at, by } => self.selectors(at, by),
            Change::Important { at, on } => self.important(at, *on),
            Change::WithoutSheet { file } => self.without(file),
            Change::WithoutAuthor => {
                self.author = false;
                Ok(())
            }
            Change::WithoutDefaults => {
                self.defaults = false;
                Ok(())
            }
            Change::Replace { file, by } => self.replace(file, by),
            Change::Move { from, to } => self.move_rule(from, to),
        }
    }

    /// Notes an edit of style sheets. In a `<style>` of the page, nothing may stand that HTML takes for its end.
    fn edit_sheet(&mut self, source: SourceId, range: Range<u32>, text: &str) -> Result<(), TrialError> {
        if source == self.study.page.document.source {
            fits_style_element(text)?;
        }
        self.edit(source, range, text);
        Ok(())
    }

    /// Notes an edit.
    fn edit(&mut self, source: SourceId, range: Range<u32>, text: impl Into<String>) {
        self.list.entry(source).or_default().push((range, text.into()));
    }

    /// The text of a source.
    fn text(&self, source: SourceId) -> &str {
        &self.study.sources.at(source).text
    }

    /// The source that a file name stands for.
    fn source(&self, file: &str) -> Result<SourceId, TrialError> {
        let source = self.study.file_named(file)?;
        if self.study.sources.at(source).kind == SourceKind::Defaults {
            return Err(TrialError::Fixed(file.to_owned(), "it is the browser's"));
        }
        Ok(source)
    }

    /// `--set`: a rule after all others, or in a file.
    fn rule(&mut self, text: &str, to: &RulePlace) -> Result<(), TrialError> {
        let rule = text.trim();
        let tokens = Tokens::read(rule);
        let (_, block) = tokens.all().split_at(|t| matches!(t.kind, Kind::Curly(_)));
        if let Some(what) = tokens.unfinished() {
            return Err(TrialError::Text(format!("`{rule}` is no rule: {what}")));
        }
        if block.is_empty() {
            return Err(TrialError::Text(format!("`{rule}` is no rule: write it as `selector {{ property: value }}`")));
        }
        let map = OffsetMap::slice(SourceId::QUESTION, 0);
        let read = stylesheet::parse(&stylesheet::Input { text: rule.into(), map, quirks: false });
        if let Some(note) = read.notes().iter().find(|n| matches!(n.kind, NoteKind::Syntax | NoteKind::Selector)) {
            let hint = note.hint.as_ref().map(|h| format!("; {h}")).unwrap_or_default();
            return Err(TrialError::Text(format!("`{rule}` is no rule: {}{hint}", note.message)));
        }
        let study = self.study;
        let (source, at) = match to {
            RulePlace::EndOf(file) => {
                let source = self.source(file)?;
                (source, self.end_of_sheet(source))
            }
            RulePlace::Before(place) => {
                let source = self.source(&place.file)?;
                (source, self.rule_start(source, place.line).unwrap_or_else(|| self.end_of_sheet(source)))
            }
            RulePlace::AfterAll => match self.last_sheet() {
                Some(found) => found,
                None => {
                    // A page without styles gets a sheet of its own.
                    let page = study.page.document.source;
                    let head = study.page.document.light().iter().find(|e| e.is_html("head") || e.is_html("html"));
                    let at = head.and_then(|h| h.tag).map_or(0, |t| t.end);
                    fits_style_element(rule)?;
                    self.edit(page, at..at, format!("<style>{rule}</style>"));
                    return Ok(());
                }
            },
        };
        let formatted = self.formatted(source, rule, at);
        self.edit_sheet(source, at..at, &formatted)
    }

    /// The end of the last sheet of the page that is on, outside all layers: what stands there comes after all else.
    fn last_sheet(&self) -> Option<(SourceId, u32)> {
        let study = self.study;
        let on = |number: u32| {
            let own = |r: &FlatRule| r.sheet == number;
            let rules =
                study.page.rules.iter().filter(|r| own(r) && r.within.origin == Origin::Author && !r.within.attached);
            let off = study.page.off_rules.iter().any(|r| own(r) && study.page.style_rule(r).group.is_none());
            let mut plain = rules.filter(|r| study.page.style_rule(r).group.is_none() && r.within.tree == Some(0));
            plain.next().is_some_and(|r| r.within.layer == 0) && !off
        };
        let imported = |e: &SheetEntry| {
            let owner = e.owner.map(|o| study.page.document.node(o));
            owner.is_none_or(|o| !o.is_html("style") && !o.is_html("link"))
        };
        let mut entries = study.page.sheets.iter().enumerate();
        let (_, entry) = entries.rfind(|(i, e)| !imported(e) && on(offset(*i)))?;
        let source = entry.sheet.source;
        if source == study.page.document.source {
            let owner = entry.owner?;
            let (_, map, text) = study.page.document.texts.iter().find(|(e, _, _)| *e == owner)?;
            return Some((source, map.at(offset(text.len()))));
        }
        Some((source, offset(self.text(source).len())))
    }

    /// Where a sheet ends: of a page, its last `<style>`.
    fn end_of_sheet(&self, source: SourceId) -> u32 {
        let study = self.study;
        if source != study.page.document.source {
            return offset(self.text(source).len());
        }
        let styles = study.page.document.texts.iter().filter(|(e, ..)| study.page.document.node(*e).is_html("style"));
        styles.into_iter().next_back().map_or(0, |(_, map, text)| map.at(offset(text.len())))
    }

    /// The start of the outermost rule that is written on a line.
    fn rule_start(&self, source: SourceId, line: u32) -> Option<u32> {
        self.rules_of(source).find(|whole| self.lines(*whole).contains(&line)).map(|whole| whole.start)
    }

    /// The lines that a span is on.
    fn lines(&self, span: Span) -> std::ops::RangeInclusive<u32> {
        let source = self.study.sources.at(span.source);
        source.line_column(span.start).0..=source.line_column(span.end.saturating_sub(1)).0
    }

    /// The rules and at-rules at the top of the sheets of a text: from the first byte to the closing bracket.
    fn rules_of(&self, source: SourceId) -> impl Iterator<Item = Span> + '_ {
        self.study.page.sheets.iter().filter(move |e| e.sheet.source == source).flat_map(move |e| {
            let base = self.base_of(e);
            e.sheet.statements().map(move |statement| {
                let (start, end) = statement.range();
                Span { source, start: base.at(start), end: base.at(end) }
            })
        })
    }

    /// How offsets of a sheet's tokens lead into its source.
    fn base_of(&self, entry: &SheetEntry) -> OffsetMap {
        let document = &self.study.page.document;
        let source = entry.sheet.source;
        let found = entry
            .owner
            .filter(|_| source == document.source)
            .and_then(|owner| document.texts.iter().find(|(e, ..)| *e == owner).map(|(_, map, _)| map.clone()));
        found.unwrap_or_else(|| OffsetMap::slice(source, 0))
    }

    /// A rule as the file around it writes rules: on lines of its own, with the line ends and indentation of the file.
    fn formatted(&self, source: SourceId, rule: &str, at: u32) -> String {
        let text = self.text(source);
        let newline = if text.contains("\r\n") { "\r\n" } else { "\n" };
        let (before, after) = text.split_at(at as usize);
        let inside_page = source == self.study.page.document.source;
        let indent = if inside_page { indent_of_last_line(before) } else { String::new() };
        let fresh_line = before.is_empty() || before.trim_end_matches([' ', '\t']).ends_with('\n');
        let mut out = String::new();
        if inside_page && fresh_line && after.trim_start_matches([' ', '\t']).starts_with("</") {
            // Before the end tag, which stands on its own line.
            let deep = indent_of_rules(before);
            let pad = deep.strip_prefix(&*trailing_blank(before)).unwrap_or(&deep);
            out.push_str(&format!("{pad}{rule}{newline}{}", trailing_blank(before)));
            return out;
        }
        if !fresh_line {
            out.push_str(newline);
            out.push_str(&indent);
        }
        out.push_str(rule);
        out.push_str(newline);
        if !after.is_empty() && !inside_page && !fresh_line {
            out.push_str(&indent);
        }
        out
    }

    /// `--value`: another value in a declaration.
    fn value(&mut self, place: &Place, by: &str) -> Result<(), TrialError> {
        let Place { file, line, .. } = place;
        let by = by.trim();
        let tokens = Tokens::read(by);
        let ends = |t: &Token| matches!(t.kind, Kind::Semicolon | Kind::Curly(_) | Kind::Close('}', _));
        if let Some(what) = tokens.unfinished() {
            return Err(TrialError::Text(format!("`{by}` is no value of a declaration: {what}")));
        }
        if by.is_empty() || tokens.list.iter().any(ends) {
            return Err(TrialError::Text(format!("`{by}` is no value of a declaration")));
        }
        let (span, attached) = self.declaration_at(place)?;
        let text = self.text(span.source);
        let whole = &text[span.start as usize..];
        let colon = whole.find(':').ok_or_else(|| TrialError::Nothing {
            what: "declaration with a value",
            file: file.to_owned(),
            line: *line,
        })?;
        let rest = &whole[colon + 1..];
        let start = span.start as usize + colon + 1 + (rest.len() - rest.trim_start().len());
        // A declaration of a property that does not exist is known by its name alone.
        let value = Tokens::read(&text[start..]);
        let end = match offset(start) < span.end {
            true => span.end as usize,
            false => start + value.all().split_at(|t| ends(&t)).0.trim().text().len(),
        };
        self.edit_declaration(span.source, offset(start)..offset(end), by, attached)
    }

    /// Another property for the value of a declaration.
    fn property(&mut self, place: &Place, by: &str) -> Result<(), TrialError> {
        let by = by.trim();
        let tokens = Tokens::read(by);
        if !matches!(tokens.list.as_slice(), [one] if one.kind == Kind::Ident) {
            return Err(TrialError::Text(format!("`{by}` is no name of a property")));
        }
        let (span, attached) = self.declaration_at(place)?;
        let name = Tokens::read(&self.text(span.source)[span.start as usize..]);
        let length = name.list.first().filter(|t| t.kind == Kind::Ident).map_or(0, |t| t.end);
        if length == 0 {
            let (file, line) = (place.file.clone(), place.line);
            return Err(TrialError::Nothing { what: "declaration", file, line });
        }
        self.edit_declaration(span.source, span.start..span.start + length, by, attached)
    }

    /// Notes an edit of a declaration in a sheet or an attribute.
    fn edit_declaration(
        &mut self,
        source: SourceId,
        range: Range<u32>,
        by: &str,
        attached: bool,
    ) -> Result<(), TrialError> {
        if source == self.study.page.document.source && attached {
            self.edit(source, range, escaped(by));
            return Ok(());
        }
        self.edit_sheet(source, range, by)
    }

    /// The declaration at a place, one that was dropped too, and whether it is attached to an element.
    fn declaration_at(&self, place: &Place) -> Result<(Span, bool), TrialError> {
        let Place { file, line, .. } = place;
        let line = *line;
        self.source(file)?;
        let written = self.study.written_at(place)?;
        let span = match written.declaration {
            Some(span) => span,
            None => {
                let all = written.rules.iter().flat_map(|r| self.study.page.declarations(r));
                let dropped = self.study.dropped_in(&written.rules).map(|n| n.span);
                let text = self.study.sources.at(self.study.page.prelude(written.rules[0]).source);
                let on_line = starts_on(text, line);
                let mut here: Vec<Span> = all.map(|d| d.span).chain(dropped).filter(|s| on_line(*s)).collect();
                here.sort_by_key(|s| s.start);
                here.dedup_by_key(|s| s.start);
                match here.as_slice() {
                    [one] => *one,
                    [] => return Err(TrialError::Nothing { what: "declaration", file: file.to_owned(), line }),
                    several => {
                        let columns = several.iter().map(|s| text.line_column(s.start).1.to_string()).collect();
                        return Err(TrialError::Several { count: several.len(), file: file.to_owned(), line, columns });
                    }
                }
            }
        };
        Ok((span, written.rules[0].within.attached))
    }

    /// `--move FILE=FILE`: what brings a sheet, before what brings another.
    fn move_sheet(&mut self, file: &str, before: &str) -> Result<(), TrialError> {
        let (from, to) = (self.bringers(file)?, self.bringers(before)?);
        let (Some((source, range)), Some((target, at))) = (from.first(), to.first()) else { return Ok(()) };
        if source != target {
            return Err(TrialError::Fixed(file.to_owned(), "it and the other sheet are brought by different files"));
        }
        let text = self.text(*source)[range.start as usize..range.end as usize].to_owned();
        self.edit(*source, range.clone(), "");
        self.edit(*target, at.start..at.start, text);
        Ok(())
    }

    /// `--cut`: the declaration that starts at a place, or the rule.
    fn cut(&mut self, place: &Place) -> Result<(), TrialError> {
        let Place { file, line, column } = place;
        let (line, column) = (*line, *column);
        let source = self.source(file)?;
        let study = self.study;
        let text = study.sources.at(source);
        let written = Rc::clone(self.written.entry(source).or_insert_with(|| Rc::new(Written::new(study, source))));
        let whole_rule = |rule: WrittenRule| self.whole_rule(source, rule);
        let whole = |declaration: Span| self.whole_declaration(declaration);
        let found = match (column, text.line_range(line)) {
            (_, None) => None,
            // The declaration that the column is in, else the rule whose selectors it is in.
            (Some(column), _) => text.byte_at(line, column).and_then(|at| {
                let rule = || written.rule((at, at)).map(whole_rule);
                written.declaration(at).map(whole).or_else(rule)
            }),
            (None, Some(range)) => match written.declarations(range) {
                [one] => Some(whole(*one)),
                [] => written.rule(range).map(whole_rule),
                several => {
                    let columns = several.iter().map(|s| text.line_column(s.start).1.to_string()).collect();
                    return Err(TrialError::Several { count: several.len(), file: file.to_owned(), line, columns });
                }
            },
        };
        let nothing = TrialError::Nothing { what: "declaration or rule", file: file.to_owned(), line };
        let range = found.or_else(|| self.dropped_at(place)).ok_or(nothing)?;
        self.edit(source, range, "");
        Ok(())
    }

    /// The bytes of the declaration at a place that was dropped, since it is none.
    fn dropped_at(&self, place: &Place) -> Option<Range<u32>> {
        let written = self.study.written_at(place).ok()?;
        let span = written.declaration?;
        let end = written.rules.iter().map(|r| self.study.page.end_of(r)).max()?;
        let whole = self.study.declaration_from(span, end);
        Some(self.whole_declaration(Span { end: span.start + offset(whole.len()), ..span }))
    }

    /// Replaces the selectors of a rule.
    fn selectors(&mut self, at: &Place, by: &str) -> Result<(), TrialError> {
        let Place { file, line, .. } = at;
        let source = self.source(file)?;
        let written = self.study.written_at(at)?;
        let prelude = self.study.page.prelude(written.rules[0]);
        if written.declaration.is_some() || written.rules[0].within.attached {
            return Err(TrialError::Nothing { what: "selector", file: file.clone(), line: *line });
        }
        let tokens = Tokens::read(by);
        let map = OffsetMap::slice(SourceId::QUESTION, 0);
        let context = selector::Context { nested: true, ..selector::Context::plain(&map) };
        if let Some(what) = tokens.unfinished() {
            return Err(TrialError::Text(format!("`{by}` is no selector: {what}")));
        }
        if let Err(error) = selector::parse_list(tokens.all(), &context) {
            return Err(TrialError::Text(format!("`{by}` is no selector: {}", error.message)));
        }
        self.edit_sheet(source, prelude.start..prelude.end, by)
    }

    /// Puts `!important` behind a declaration, or takes it off.
    fn important(&mut self, at: &Place, on: bool) -> Result<(), TrialError> {
        let source = self.source(&at.file)?;
        let written = self.study.written_at(at)?;
        let mut all = written.rules.iter().flat_map(|r| self.study.page.declarations(r));
        let found = all.find(|d| Some(d.span) == written.declaration);
        let nothing = || TrialError::Nothing { what: "declaration", file: at.file.clone(), line: at.line };
        let declaration = found.ok_or_else(nothing)?;
        let span = declaration.span;
        if on && !declaration.important {
            self.edit(source, span.end..span.end, " !important");
        } else if !on && declaration.important {
            let written = self.study.sources.written(span);
            let kept = written.rfind('!').map_or(written.len(), |i| written[..i].trim_end().len());
            self.edit(source, span.start + offset(kept)..span.end, "");
        }
        Ok(())
    }

    /// The bytes of a declaration with its semicolon, and the line where nothing else is on it.
    fn whole_declaration(&self, span: Span) -> Range<u32> {
        let text = self.text(span.source);
        let mut end = span.end as usize;
        let rest = &text[end..];
        let blank = rest.len() - rest.trim_start().len();
        if rest[blank..].starts_with(';') {
            end += blank + 1;
        }
        self.tidied(span.start as usize, end, text)
    }

    /// A range widened to the white space that goes with it: the whole line, or the spaces behind it.
    fn tidied(&self, start: usize, end: usize, text: &str) -> Range<u32> {
        let before = text[..start].trim_end_matches([' ', '\t']);
        let after = text[end..].trim_start_matches([' ', '\t']);
        let from_line = before.is_empty() || before.ends_with('\n');
        let newline = ["\r\n", "\n"].into_iter().find(|n| after.starts_with(n));
        if let (true, Some(newline)) = (from_line, newline) {
            return offset(before.len())..offset(text.len() - after.len() + newline.len());
        }
        if after.starts_with('}') && !from_line {
            return offset(before.len())..offset(end);
        }
        let behind = if after.starts_with(['\n', '\r', '}']) { end } else { text.len() - after.len() };
        offset(start)..offset(behind)
    }

    /// The bytes of a rule with its block.
    fn whole_rule(&self, source: SourceId, rule: WrittenRule) -> Range<u32> {
        let text = self.text(source);
        let end = rule.end as usize;
        let close = usize::from(text[end..].starts_with('}') && !rule.attribute);
        self.tidied(rule.prelude.start as usize, end + close, text)
    }

    /// `--without FILE`: what brings the sheet is cut out.
    fn without(&mut self, file: &str) -> Result<(), TrialError> {
        for (source, range) in self.bringers(file)? {
            self.edit(source, range, "");
        }
        Ok(())
    }

    /// The tags and at-rules that bring a sheet into the page.
    fn bringers(&self, file: &str) -> Result<Vec<(SourceId, Range<u32>)>, TrialError> {
        let study = self.study;
        let source = self.source(file)?;
        let mut found = Vec::new();
        for entry in study.page.sheets.iter().filter(|e| e.sheet.source == source) {
            let Some(owner) = entry.owner else { continue };
            let element = study.page.document.node(owner);
            let Some(tag) = element.tag else { continue };
            if element.is_html("style") && source == study.page.document.source {
                let text = study.page.document.texts.iter().find(|(e, ..)| *e == owner);
                let end = text.map_or(tag.end, |(_, map, t)| map.at(offset(t.len())));
                let close = self.text(source)[end as usize..].find('>').map_or(0, |n| n + 1);
                found.push((source, self.tidied(tag.start as usize, end as usize + close, self.text(source))));
            }
        }
        if found.is_empty() {
            let (links, imports) = self.namers(source);
            for (link, _) in links {
                let Some(tag) = link.tag else { continue };
                let range = self.tidied(tag.start as usize, tag.end as usize, self.text(tag.source));
                found.push((tag.source, range));
            }
            for (import, _) in imports {
                let (start, end) = (import.span.start as usize, import.span.end as usize);
                let text = self.text(import.span.source);
                let range = self.tidied(start, end + usize::from(text[end..].starts_with(';')), text);
                found.push((import.span.source, range));
            }
        }
        if found.is_empty() {
            return Err(TrialError::Fixed(file.to_owned(), "nothing in the page brings it"));
        }
        Ok(found)
    }

    /// The links and the imports that name a sheet, with what their URLs are relative to.
    fn namers(&self, source: SourceId) -> Namers<'s> {
        let (page, parsed) = (&self.study.page, &self.study.parsed);
        let found = parsed.linked.iter().find(|(_, s)| s.as_ref().is_ok_and(|s| s.sheet.source == source));
        let Some(((url, _), _)) = found else { return Default::default() };
        let links = page::links(&page.document, &self.study.url);
        let links = links.filter_map(|(link, base, address)| (address == *url).then_some((link, base))).collect();
        let mut imports: Vec<(&Import, &Url)> = Vec::new();
        for entry in &page.sheets {
            for import in entry.sheet.imports() {
                let known = imports.iter().any(|(other, _)| other.span == import.span);
                let address = entry.base.join(&import.href).map(|mut address| {
                    address.set_fragment(None);
                    address
                });
                if !known && address.is_ok_and(|address| address == *url) {
                    imports.push((import, &entry.base));
                }
            }
        }
        (links, imports)
    }

    /// `--replace FILE=OTHER`: the link or import names the other.
    fn replace(&mut self, file: &str, by: &str) -> Result<(), TrialError> {
        let target = self.study.url.join(&format!("/{}", by.trim_start_matches('/'))).ok();
        // A quote would end what the URL stands in.
        let relative = |base: &Url| {
            let relative = target.as_ref().and_then(|t| base.make_relative(t)).unwrap_or_else(|| by.to_owned());
            relative.replace('\'', "%27").replace('"', "%22")
        };
        let (links, imports) = self.namers(self.source(file)?);
        if links.is_empty() && imports.is_empty() {
            return Err(TrialError::Fixed(file.to_owned(), "no link or import names it"));
        }
        for (link, base) in links {
            let Some(href) = link.attribute_entry("href") else { continue };
            let (span, url) = (href.value_span, relative(&base).replace('&', "&amp;"));
            self.edit(span.source, span.start..span.end, url);
        }
        for (import, base) in imports {
            let url = format!("\"{}\"", relative(base));
            self.edit(import.url.source, import.url.start..import.url.end, url);
        }
        Ok(())
    }

    /// `--move`: a rule cut and put before the rule at another line.
    fn move_rule(&mut self, from: &Place, to: &Place) -> Result<(), TrialError> {
        let source = self.source(&from.file)?;
        let nothing = || TrialError::Nothing { what: "rule", file: from.file.clone(), line: from.line };
        let whole = self.rules_of(source).find(|s| self.lines(*s).contains(&from.line)).ok_or_else(nothing)?;
        let rule = self.study.sources.written(whole).to_owned();
        let range = self.tidied(whole.start as usize, whole.end as usize, self.text(source));
        let target = self.source(&to.file)?;
        let at = self.rule_start(target, to.line).unwrap_or_else(|| self.end_of_sheet(target));
        if target == source && (range.start..range.end).contains(&at) {
            return Ok(());
        }
        let formatted = self.formatted(target, &rule, at);
        self.edit(source, range, "");
        self.edit(target, at..at, formatted);
        Ok(())
    }
}

/// Whether what is written at a span starts on a line of its text.
fn starts_on(text: &Source, line: u32) -> impl Fn(Span) -> bool {
    let range = text.line_range(line);
    move |span| range.is_some_and(|(start, end)| (start..=end).contains(&span.start))
}

/// Refuses what HTML takes for the end of the `<style>` that it is put into.
fn fits_style_element(text: &str) -> Result<(), TrialError> {
    let ends = text.to_ascii_lowercase().contains("</style");
    let told = "`</style` would end the `<style>` of the page that it is put into; write `<\\/style` in a string";
    if ends { Err(TrialError::Text(told.to_owned())) } else { Ok(()) }
}

/// The white space at the end of a text, behind its last line end.
fn trailing_blank(text: &str) -> String {
    let line = text.rsplit('\n').next().unwrap_or_default();
    if line.trim().is_empty() { line.to_owned() } else { String::new() }
}

/// The white space that the last line of a text that has some starts with.
fn indent_of_last_line(text: &str) -> String {
    let line = text.lines().rev().find(|l| !l.trim().is_empty()).unwrap_or_default();
    line.chars().take_while(|c| matches!(c, ' ' | '\t')).collect()
}

/// The white space that the last rule of a text starts with: the last line that is less deep than a declaration.
fn indent_of_rules(text: &str) -> String {
    let line = text.lines().rev().find(|l| l.contains('{') || l.trim_start().starts_with('}')).unwrap_or_default();
    line.chars().take_while(|c| matches!(c, ' ' | '\t')).collect()
}
