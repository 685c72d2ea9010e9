//! Rules from tokens.

mod at_rule;

use std::ops::Range;
use std::sync::{Arc, OnceLock};

use bytestring::ByteString;
use once_cell::race::OnceBox;

use super::declaration::{Declaration, Meanings, Property, Written, split_important};
use super::function::CustomFunction;
use super::lost::{self, Behind, Lost};
use super::outline::Outline;
use super::parted;
use super::{
    BlockReading, Body, Contents, Group, GroupId, Item, NOT_PLAIN, Namespaces, Note, NoteKind, Registration, Standing,
    StyleRule, Stylesheet,
};
use crate::document::Name;
use crate::limits::DEEPEST_RULE;
use crate::property::PropertyId;
use crate::selector::{self, PlainParts, SelectorError, SelectorList};
use crate::source::{OffsetMap, Span};
use crate::syntax::substitution;
use crate::syntax::{Kind, Slice, Token, Tokens};

/// A text to parse and where it comes from.
pub(crate) struct Input {
    /// The text.
    pub(crate) text: ByteString,
    /// How its offsets lead into a source.
    pub(crate) map: OffsetMap,
    /// Whether the page it is for is in quirks mode.
    pub(crate) quirks: bool,
}

/// Parses a stylesheet. Never fails: what is no CSS becomes a note.
pub(crate) fn parse(input: &Input) -> Stylesheet {
    let mut outline = Outline::of(input.text.len());
    let mut tokens = Tokens::outline(input.text.clone(), &mut outline);
    if !tokens.unclosed.is_empty() || !tokens.odd_comments.is_empty() {
        // Where an end was lost is told by all that stands behind it.
        tokens = Tokens::outline(input.text.clone(), &mut ());
    }
    sheet(input, tokens, outline.parts)
}

/// The sheet that the tokens of a text are, with what the selectors of the rules that are left out among them are made of.
pub(super) fn sheet(input: &Input, tokens: Tokens, plain: PlainParts) -> Stylesheet {
    let mut parser = Parser { plain, ..Parser::new(&input.map, 0) };
    let blocks = tokens.list.iter().filter(|t| matches!(t.kind, Kind::Rule(_) | Kind::Curly(_))).count();
    parser.rules.reserve(blocks);
    parser.rules(tokens.all(), &Around { group: None, parent: None, depth: 0, scoped: false });
    for lost in lost::of_text(&tokens) {
        // What else is told of the text that it is in follows from it.
        let open = input.map.span(lost.at.0, lost.at.1);
        parser.notes.retain(|n| !lost.alone || n.span.start > open.start || n.span.end <= open.start);
        match parser.notes.iter_mut().find(|n| n.span == open) {
            Some(told) => told.damage = Some(input.map.span(lost.at.0, lost.to)),
            None => parser.lost(NoteKind::Syntax, lost),
        }
    }
    parser.found().sheet(input, tokens)
}

/// Parses the value of a `style` attribute into a stylesheet whose one rule has no selectors: declarations and nothing
/// else, since rules of any kind are no part of the attribute (CSS Style Attributes, §3).
pub(crate) fn parse_style_attribute(input: &Input) -> Stylesheet {
    let tokens = Tokens::outline(input.text.clone(), &mut ());
    let mut parser = Parser::new(&input.map, 0);
    parser.attribute(tokens.all());
    parser.found().sheet(input, tokens)
}

/// Reads selectors that were left unread.
pub(super) fn selectors(map: &OffsetMap, tokens: &Tokens) -> SelectorList {
    let read = selector::parse_list(tokens.all(), &selector::Context::plain(map));
    read.unwrap_or_else(|_| SelectorList { selectors: Vec::new(), dropped: Vec::new() })
}

/// Reads the block of the style rule with a number, in which nothing but declarations is: bytes of the text of a sheet.
pub(super) fn contents(map: &OffsetMap, sheet: &Tokens, block: Range<u32>, rule: u32) -> Contents {
    if let Some(declarations) = parted::parted(&sheet.text, block.start as usize..block.end as usize, map, rule) {
        return Contents { declarations, reading: None };
    }
    let tokens = sheet.left_out(block);
    let mut parser = Parser::new(map, rule);
    let (mut rest, mut declarations) = (tokens.all(), Vec::new());
    while let Some(token) = rest.peek() {
        match token.kind {
            Kind::Space | Kind::Semicolon => rest.from += 1,
            _ => match parser.declaration(&mut rest) {
                Some(declaration) => declarations.extend(declaration),
                None => _ = parser.no_rule(&mut rest),
            },
        }
    }
    declarations.shrink_to_fit();
    let notes = parser.notes;
    Contents { declarations, reading: Some(Box::new(BlockReading { tokens, notes })) }
}

/// What is around the rules being read.
#[derive(Clone)]
struct Around {
    /// The innermost group.
    group: Option<GroupId>,
    /// The selectors of the innermost style rule.
    parent: Option<Arc<SelectorList>>,
    /// How many blocks deep it is.
    depth: u32,
    /// Whether `@scope` is nearer than any style rule.
    scoped: bool,
}

/// What a parser has found.
struct Found {
    /// Style rules.
    rules: Vec<StyleRule>,
    /// What plain selectors are made of.
    plain: PlainParts,
    /// Groups.
    groups: Vec<Group>,
    /// All else in order.
    items: Vec<Standing>,
    /// Custom properties that are registered.
    registrations: Vec<Registration>,
    /// Custom functions.
    functions: Vec<CustomFunction>,
    /// What was dropped.
    notes: Vec<Note>,
}

impl Found {
    /// The sheet with all of it.
    fn sheet(mut self, input: &Input, tokens: Tokens) -> Stylesheet {
        self.notes.sort_by_key(|n| n.span.start);
        Stylesheet {
            source: input.map.source,
            map: input.map.clone(),
            rules: self.rules,
            plain: self.plain,
            groups: self.groups,
            items: self.items,
            registrations: self.registrations,
            functions: self.functions,
            meanings: Meanings::default(),
            outer_notes: self.notes,
            notes: OnceLock::new(),
            tokens,
            quirks: input.quirks,
        }
    }
}

/// The parser with what it has found.
struct Parser<'t> {
    /// How offsets lead into the source.
    map: &'t OffsetMap,
    /// How many rules of the sheet come before what it reads.
    before: u32,
    /// Whether what is dropped in blocks that are left unread is told.
    told: bool,
    /// What plain selectors are made of.
    plain: PlainParts,
    /// The number of the part behind those of the last rule that was left out.
    next_plain: u32,
    /// Style rules.
    rules: Vec<StyleRule>,
    /// Groups.
    groups: Vec<Group>,
    /// All else in order.
    items: Vec<Standing>,
    /// Where the statement at the top of the sheet starts that is being read.
    statement: u32,
    /// Custom properties that are registered.
    registrations: Vec<Registration>,
    /// Custom functions.
    functions: Vec<CustomFunction>,
    /// Namespace prefixes.
    namespaces: Namespaces,
    /// Whether a rule has come after which no `@import` may.
    imports_over: bool,
    /// Whether an `@import` has come: the first `@layer` after it ends them.
    imported: bool,
    /// What was dropped.
    notes: Vec<Note>,
}

impl<'t> Parser<'t> {
    /// A parser that has read nothing.
    fn new(map: &'t OffsetMap, before: u32) -> Self {
        Self {
            map,
            before,
            told: true,
            plain: PlainParts::default(),
            next_plain: 0,
            rules: Vec::new(),
            groups: Vec::new(),
            items: Vec::new(),
            statement: 0,
            registrations: Vec::new(),
            functions: Vec::new(),
            namespaces: Namespaces::new(),
            imports_over: false,
            imported: false,
            notes: Vec::new(),
        }
    }

    /// What it has found.
    fn found(self) -> Found {
        let Self { rules, plain, groups, items, registrations, functions, notes, .. } = self;
        Found { rules, plain, groups, items, registrations, functions, notes }
    }

    /// The number of the next rule.
    fn number(&self) -> u32 {
        self.before + crate::source::offset(self.rules.len())
    }

    /// The span of a run of tokens.
    fn span(&self, slice: Slice<'_>) -> Span {
        let (start, end) = slice.range();
        self.map.span(start, end)
    }

    /// Adds an item.
    fn item(&mut self, item: Item) {
        let (statement, rules) = (self.statement, self.number());
        self.items.push(Standing { statement, rules, item });
    }

    /// Adds a rule that was read: its selectors, the bytes at which they are written, and its declarations in these bytes.
    fn read(
        &mut self,
        (selectors, (start, to)): (Arc<SelectorList>, (u32, u32)),
        (mut declarations, block): (Vec<Declaration>, Range<u32>),
        group: Option<GroupId>,
    ) {
        declarations.shrink_to_fit();
        let important = declarations.iter().any(|d| d.important);
        self.rules.push(StyleRule {
            selectors: OnceBox::with_value(Box::new(selectors)),
            contents: OnceBox::with_value(Box::new(Contents { declarations, reading: None })),
            head: start..to,
            block,
            statement: self.statement,
            number: self.number(),
            group,
            plain: NOT_PLAIN,
            body: Body::Read,
            important,
        });
    }

    /// Takes a note.
    fn note(&mut self, kind: NoteKind, at: Slice<'_>, message: impl Into<String>, hint: Option<String>) {
        let span = self.span(at);
        self.notes.push(Note { kind, span, message: message.into(), hint, damage: None });
    }

    /// Takes a note of an end that was lost.
    fn lost(&mut self, kind: NoteKind, Lost { at, to, message, hint, .. }: Lost) {
        let damage = (to > at.1).then(|| self.map.span(at.0, to));
        self.notes.push(Note { kind, span: self.map.span(at.0, at.1), message, hint, damage });
    }

    /// Notes a declaration for the string or URL in it that is broken off.
    fn broken(&mut self, bad: Slice<'t>, declaration: Slice<'t>) {
        let broken = lost::broken(bad);
        let message = format!("{}; the declaration is dropped", broken.message);
        self.lost(NoteKind::Value, Lost { message, to: declaration.trim().range().1, ..broken });
    }

    /// Reads rules up to the end of a run (CSS Syntax 3, "consume a stylesheet's contents").
    fn rules(&mut self, mut rest: Slice<'t>, around: &Around) {
        while let Some(token) = rest.peek() {
            if around.depth == 0 {
                self.statement = token.start;
            }
            match token.kind {
                Kind::Space => rest.from += 1,
                Kind::Cdo if around.depth == 0 => rest.from += 1,
                Kind::AtKeyword => self.at_rule(&mut rest, around),
                Kind::Rule(open) => {
                    rest.from += 1;
                    self.left_out(rest.tokens, token, open, around.group);
                }
                _ => self.qualified_rule(&mut rest, around),
            }
        }
    }

    /// Reads a `style` attribute. What would be a rule in a stylesheet is dropped whole.
    fn attribute(&mut self, mut rest: Slice<'t>) {
        let (start, end) = rest.range();
        let mut declarations = Vec::new();
        while let Some(token) = rest.peek() {
            let begin = rest;
            if matches!(token.kind, Kind::Space | Kind::Semicolon) {
                rest.from += 1;
                continue;
            }
            if token.kind != Kind::AtKeyword
                && let Some(declaration) = self.declaration(&mut rest)
            {
                declarations.extend(declaration);
                continue;
            }
            let (head, after) = rest.split_at(|t| matches!(t.kind, Kind::Curly(_) | Kind::Semicolon));
            rest = after;
            if token.kind == Kind::AtKeyword || matches!(after.kind(), Some(Kind::Curly(_))) {
                rest.next();
                let message = "a `style` attribute has no rules in it, only declarations; this one is dropped";
                self.note(NoteKind::Syntax, Slice { to: rest.from, ..begin }.trim(), message, None);
            } else {
                self.bad_declaration(head.trim());
            }
        }
        let selectors = Arc::new(SelectorList { selectors: Vec::new(), dropped: Vec::new() });
        self.read((selectors, (start, end)), (declarations, start..end), None);
    }

    /// Reads one style rule.
    fn qualified_rule(&mut self, rest: &mut Slice<'t>, around: &Around) {
        let begin = *rest;
        let (prelude, after) = rest.split_at(|t| matches!(t.kind, Kind::Curly(_)));
        *rest = after;
        if after.is_empty() {
            let message = "this is no rule: no `{` follows, so all from here to the end is dropped";
            return self.note(NoteKind::Syntax, begin.trim(), message, None);
        }
        rest.next();
        self.style_rule(prelude.trim(), after, around);
    }

    /// Takes away what is no declaration of a block, up to its semicolon, if no rule stands there either: whether that was so.
    fn no_rule(&mut self, rest: &mut Slice<'t>) -> bool {
        let (head, after) = rest.split_at(|t| matches!(t.kind, Kind::Curly(_) | Kind::Semicolon));
        if matches!(after.kind(), Some(Kind::Curly(_))) {
            return false;
        }
        *rest = after;
        rest.next();
        self.bad_declaration(head.trim());
        true
    }

    /// Notes a declaration that is none.
    fn bad_declaration(&mut self, at: Slice<'t>) {
        if at.is_empty() {
            return;
        }
        if let Some(lost) = lost::of_prelude(at, at.range().1, Behind::Nothing) {
            return self.lost(NoteKind::Syntax, lost);
        }
        let colon = at.split_at(|t| t.kind == Kind::Colon).1;
        let first = at.peek().map_or(Kind::Space, |t| t.kind);
        let message = if colon.is_empty() || first == Kind::Ident {
            "this is no declaration: a `:` is missing after the property"
        } else {
            "this is no declaration: it must start with the name of a property"
        };
        self.note(NoteKind::Syntax, at, message, None);
    }

    /// What selectors are read with: those in another scope or style rule are inside of that (CSS Nesting 1, §2.1; CSS Cascade 6,
    /// §2.5.1).
    fn context(&self, around: &Around) -> selector::Context<'_> {
        selector::Context {
            map: self.map,
            namespaces: Some(&self.namespaces),
            parent: around.parent.clone(),
            nested: around.parent.is_some() || around.scoped,
            scoped: around.scoped,
        }
    }

    /// Reads a style rule from its selectors and what starts with its block.
    fn style_rule(&mut self, prelude: Slice<'t>, after: Slice<'t>, around: &Around) {
        let block = after.inside();
        let parsed = selector::parse_list(prelude, &self.context(around));
        match parsed {
            Ok(selectors) => {
                self.imports_over = true;
                for error in selectors.forgiven() {
                    self.notes.push(Note {
                        kind: NoteKind::Selector,
                        span: error.span,
                        message: format!("{}; this part of the list is dropped", error.message),
                        hint: error.hint.clone(),
                        damage: None,
                    });
                }
                let inside = Around {
                    parent: Some(Arc::new(selectors)),
                    depth: around.depth + 1,
                    group: around.group,
                    scoped: false,
                };
                match after.unread() {
                    Some(part) => {
                        let selectors =
                            inside.parent.map(|list| OnceBox::with_value(Box::new(list))).unwrap_or_default();
                        self.unread(after.tokens, (prelude.range(), NOT_PLAIN, selectors), part, around.group);
                    }
                    None => self.block(block, &inside, prelude),
                }
            }
            Err(error) => {
                let end = block.behind();
                let behind = if around.parent.is_some() { Behind::Nested } else { Behind::Rule };
                match lost::of_prelude(prelude, end, behind) {
                    Some(lost) => self.lost(NoteKind::Syntax, lost),
                    None => self.dropped_rule(error, prelude),
                }
            }
        }
    }

    /// Notes a rule whose selectors are bad.
    fn dropped_rule(&mut self, error: SelectorError, prelude: Slice<'t>) {
        let many = prelude.commas().len();
        let consequence = if many > 1 {
            format!("; the whole rule with its {many} selectors is dropped")
        } else {
            "; the rule is dropped".to_owned()
        };
        self.notes.push(Note {
            kind: NoteKind::Selector,
            span: error.span,
            message: error.message + &consequence,
            hint: error.hint,
            damage: Some(self.span(prelude)),
        });
    }

    /// Reads a block's contents: declarations and nested rules (CSS Syntax 3, "consume a block's contents").
    fn block(&mut self, mut rest: Slice<'t>, around: &Around, prelude: Slice<'t>) {
        let place = (prelude, rest.range().0..rest.behind());
        let mut declarations = Vec::new();
        let mut first = true;
        while let Some(token) = rest.peek() {
            match token.kind {
                Kind::Space | Kind::Semicolon => rest.from += 1,
                Kind::AtKeyword => {
                    self.flush(&mut declarations, around, &place, &mut first);
                    self.at_rule(&mut rest, around);
                }
                _ => {
                    if let Some(declaration) = self.declaration(&mut rest) {
                        declarations.extend(declaration);
                        continue;
                    }
                    if self.no_rule(&mut rest) {
                        continue;
                    }
                    self.flush(&mut declarations, around, &place, &mut first);
                    if around.depth > DEEPEST_RULE {
                        let (bad, after) = rest.split_at(|t| t.kind == Kind::Semicolon);
                        rest = after;
                        let message = format!("rules nest more than {DEEPEST_RULE} deep here; this one is dropped");
                        self.note(NoteKind::Syntax, bad, message, None);
                    } else {
                        self.qualified_rule(&mut rest, around);
                    }
                }
            }
        }
        if first || !declarations.is_empty() {
            first = true;
            self.flush(&mut declarations, around, &place, &mut first);
        }
    }

    /// Makes a rule of the declarations read so far; those after a nested rule make a rule of their own
    /// (CSS Nesting 1, "nested declarations rule").
    fn flush(
        &mut self,
        declarations: &mut Vec<Declaration>,
        around: &Around,
        (prelude, block): &(Slice<'t>, Range<u32>),
        first: &mut bool,
    ) {
        if declarations.is_empty() && !*first {
            return;
        }
        *first = false;
        let Some(selectors) = around.parent.clone() else {
            return;
        };
        let declared = (std::mem::take(declarations), block.clone());
        self.read((selectors, prelude.range()), declared, around.group);
    }

    /// Makes a rule whose selectors and block are read when someone asks for them.
    fn left_out(&mut self, tokens: &Tokens, rule: Token, open: u32, group: Option<GroupId>) {
        self.imports_over = true;
        let written = tokens.text[rule.start as usize..open as usize].trim_ascii_end();
        let head = (rule.start, rule.start + crate::source::offset(written.len()));
        // Those before may stand in what was dropped.
        let (plain, next) = self.plain.list_at(rule.start, self.next_plain);
        self.next_plain = next;
        self.unread(tokens, (head, plain, OnceBox::new()), open + 1..rule.end - 1, group);
    }

    /// Makes a rule whose block is read when someone asks for it, of the bytes of its selectors, the number of the first part of those
    /// if they are plain, the selectors themselves if they were read, and the bytes in its block.
    fn unread(
        &mut self,
        tokens: &Tokens,
        ((start, to), plain, selectors): ((u32, u32), u32, OnceBox<Arc<SelectorList>>),
        block: Range<u32>,
        group: Option<GroupId>,
    ) {
        let written = &tokens.text[block.start as usize..block.end as usize];
        self.rules.push(StyleRule {
            selectors,
            plain,
            contents: OnceBox::new(),
            head: start..to,
            statement: self.statement,
            number: self.number(),
            group,
            body: if written.trim_ascii().is_empty() { Body::Blank } else { Body::Unread { told: self.told } },
            important: memchr::memchr(b'!', written.as_bytes()).is_some(),
            block,
        });
    }

    /// Reads a declaration. Nothing where the text is none and may be a nested rule; an empty one where it was dropped.
    fn declaration(&mut self, rest: &mut Slice<'t>) -> Option<Option<Declaration>> {
        let begin = *rest;
        let token = begin.peek().filter(|t| t.kind == Kind::Ident)?;
        let mut look = begin;
        look.next();
        look.skip_space();
        if look.kind() != Some(Kind::Colon) {
            return None;
        }
        look.next();
        let (value, after) = look.split_at(|t| t.kind == Kind::Semicolon);
        let value = value.trim();
        let name = begin.name(token);
        let custom = name.starts_with("--");
        if !custom && has_curly(value) {
            return None;
        }
        *rest = after;
        let whole = Slice { from: begin.from, to: value.to.max(look.from), ..begin };
        let (value, important) = split_important(value);
        let span = self.span(whole.trim());
        if value.is_empty() && !custom {
            self.note(NoteKind::Value, whole, format!("`{name}` has no value"), None);
            return Some(None);
        }
        if custom && let Some(bad) = substitution::unfit(value) {
            if bad.kind() == Some(Kind::Bad) {
                self.broken(bad, whole);
                return Some(None);
            }
            let message = format!("this cannot stand in the value of `{name}`; the declaration is dropped");
            self.note(NoteKind::Value, bad, message, None);
            return Some(None);
        }
        let in_lower_case = || Property::named(&name.to_ascii_lowercase()).filter(|_| !custom);
        let Some(property) = Property::named(&name).or_else(in_lower_case) else {
            let hint = unknown_property_hint(&name.to_ascii_lowercase());
            self.note(
                NoteKind::Property,
                Slice { to: begin.from + 1, ..begin },
                format!("there is no property `{name}`; the declaration is dropped"),
                hint,
            );
            return Some(None);
        };
        if let Some(bad) = (value.from..value.to).find(|i| value.tokens.list[*i as usize].kind == Kind::Bad) {
            self.broken(Slice { from: bad, to: bad + 1, ..value }, whole);
            return Some(None);
        }
        Some(Some(Declaration {
            name: (*name != *property.name()).then(|| Name::from(&*name)),
            property,
            span,
            important,
            rule: self.number(),
            value: Written::Tokens(value.from..value.to),
            goes_by_attributes: goes_by_attributes(value),
            meaning: OnceLock::new(),
        }))
    }
}

/// Whether a function is in a value that goes by attributes, or may.
fn goes_by_attributes(value: Slice<'_>) -> bool {
    let functions = value.tokens.list[value.from as usize..value.to as usize].iter();
    functions.filter(|t| matches!(t.kind, Kind::Function(_))).any(|t| {
        let name = &value.tokens.text[t.start as usize..t.end as usize];
        name.starts_with("--") || name.contains('\\') || name.eq_ignore_ascii_case("attr(")
    })
}

/// Whether a value has a block at its top.
fn has_curly(value: Slice<'_>) -> bool {
    !value.split_at(|t| matches!(t.kind, Kind::Curly(_))).1.is_empty()
}

/// What someone may have meant by a property that does not exist.
pub(crate) fn unknown_property_hint(name: &str) -> Option<String> {
    for prefix in ["-moz-", "-ms-", "-o-", "-webkit-", "-khtml-"] {
        if let Some(plain) = name.strip_prefix(prefix) {
            let known = PropertyId::named(plain).is_some();
            return known.then(|| format!("`{plain}` without a prefix is the standard property"));
        }
    }
    crate::near::nearest_known(name, PropertyId::all_names()).map(|n| format!("did you mean `{n}`?"))
}
