//! Rules from tokens.

use std::ops::Range;
use std::sync::{Arc, OnceLock};

use super::declaration::{Declaration, Property, split_important};
use super::{
    Body, Contents, Group, GroupId, GroupKind, Import, Item, Namespaces, Note, NoteKind, Registration, Scope,
    StyleRule, Stylesheet, Unread, container,
    function::CustomFunction,
    lost::{self, Behind, Lost},
    media,
    outline::Outline,
    supports,
};
use crate::limits::{DEEPEST_CONDITION, DEEPEST_RULE};
use crate::property::{PropertyId, registered};
use crate::selector::{self, SelectorError, SelectorList};
use crate::source::{OffsetMap, Span};
use crate::syntax::{Kind, Slice, Token, Tokens};
use crate::syntax::{condition, substitution};
use crate::value::Wide;

/// A text to parse and where it comes from.
pub(crate) struct Input<'t> {
    /// The text.
    pub(crate) text: &'t str,
    /// How its offsets lead into a source.
    pub(crate) map: OffsetMap,
    /// Whether the page it is for is in quirks mode.
    pub(crate) quirks: bool,
}

/// At-rules that hold no style rules; they are taken as they are.
const QUIET: &[&str] = &[
    "font-face",
    "keyframes",
    "-webkit-keyframes",
    "page",
    "counter-style",
    "font-feature-values",
    "font-palette-values",
    "position-try",
    "view-transition",
    "color-profile",
    "charset",
    "-webkit-font-face",
];
/// At-rules that may stand in style rules, with a block.
const NESTS: &[&str] = &["media", "supports", "layer", "scope", "container", "starting-style"];
/// At-rules that are applied.
const APPLIED: &[&str] = &[
    "media",
    "supports",
    "layer",
    "scope",
    "container",
    "starting-style",
    "import",
    "namespace",
    "property",
    "function",
];

/// Parses a stylesheet. Never fails: what is no CSS becomes a note.
pub(crate) fn parse(input: &Input<'_>) -> Stylesheet {
    let mut tokens = Tokens::outline(input.text, &mut Outline::default());
    if !tokens.unclosed.is_empty() || !tokens.odd_comments.is_empty() {
        // Where an end was lost is told by all that stands behind it.
        tokens = Tokens::read(input.text);
    }
    sheet(input, tokens)
}

/// The sheet that the tokens of a text are.
pub(super) fn sheet(input: &Input<'_>, tokens: Tokens) -> Stylesheet {
    let mut parser = Parser::new(&input.map, 0);
    let left_out = tokens.list.iter().filter(|t| matches!(t.kind, Kind::Rule(_))).count();
    parser.rules.reserve(left_out);
    parser.items.reserve(left_out);
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
pub(crate) fn parse_style_attribute(input: &Input<'_>) -> Stylesheet {
    let tokens = Tokens::read(input.text);
    let mut parser = Parser::new(&input.map, 0);
    parser.attribute(tokens.all());
    parser.found().sheet(input, tokens)
}

/// Reads selectors that were left unread.
pub(super) fn selectors(map: &OffsetMap, tokens: &Tokens) -> SelectorList {
    let read = selector::parse_list(tokens.all(), &selector::Context::plain(map));
    read.unwrap_or_else(|_| SelectorList { selectors: Vec::new(), dropped: Vec::new() })
}

/// Reads the block of the style rule with a number, in which nothing but declarations is.
pub(super) fn contents(map: &OffsetMap, tokens: Tokens, rule: u32) -> Contents {
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
    Contents { tokens, declarations, notes }
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
    /// Groups.
    groups: Vec<Group>,
    /// All in order.
    items: Vec<(u32, Item)>,
    /// Custom properties that are registered.
    registrations: Vec<Registration>,
    /// Custom functions.
    functions: Vec<CustomFunction>,
    /// What was dropped.
    notes: Vec<Note>,
}

impl Found {
    /// The sheet with all of it.
    fn sheet(mut self, input: &Input<'_>, tokens: Tokens) -> Stylesheet {
        self.notes.sort_by_key(|n| n.span.start);
        Stylesheet {
            source: input.map.source,
            map: input.map.clone(),
            rules: self.rules,
            groups: self.groups,
            items: self.items,
            registrations: self.registrations,
            functions: self.functions,
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
    /// Style rules.
    rules: Vec<StyleRule>,
    /// Groups.
    groups: Vec<Group>,
    /// All in order, each with where the statement at the top of the sheet starts that it is in.
    items: Vec<(u32, Item)>,
    /// Where that statement starts.
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
        let Self { rules, groups, items, registrations, functions, notes, .. } = self;
        Found { rules, groups, items, registrations, functions, notes }
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

    /// Where a block ends whose inside this is: at its closing bracket, or at the end of the text.
    fn end_of(&self, inside: Slice<'_>) -> u32 {
        self.map.at(inside.behind())
    }

    /// Adds an item.
    fn item(&mut self, item: Item) {
        self.items.push((self.statement, item));
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
        let prelude = self.map.span(start, end);
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
        self.item(Item::Rule(0));
        let important = declarations.iter().any(|d| d.important);
        let (selectors, body) = (OnceLock::from(selectors), Body::Read(declarations));
        let rule = StyleRule { selectors, head: start..end, prelude, end: prelude.end, body, important, group: None };
        self.rules.push(rule);
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
        let (message, hint) = if colon.is_empty() {
            ("this is no declaration: a `:` is missing after the property", None)
        } else if first == Kind::Ident {
            ("this declaration is broken: a block `{…}` cannot stand in its value", None)
        } else {
            ("this is no declaration: it must start with the name of a property", None)
        };
        self.note(NoteKind::Syntax, at, message, hint);
    }

    /// Reads a style rule from its selectors and what starts with its block.
    fn style_rule(&mut self, prelude: Slice<'t>, after: Slice<'t>, around: &Around) {
        let block = after.inside();
        let context = selector::Context {
            map: self.map,
            namespaces: Some(&self.namespaces),
            parent: around.parent.clone(),
            nested: around.parent.is_some() || around.scoped,
            scoped: around.scoped,
        };
        let parsed = selector::parse_list(prelude, &context);
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
                        let selectors = inside.parent.map(OnceLock::from).unwrap_or_default();
                        self.unread(after.tokens, (prelude.range(), selectors), part, around.group);
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
        let place = (prelude, self.end_of(rest));
        let mut declarations = Vec::new();
        let mut first = true;
        while let Some(token) = rest.peek() {
            match token.kind {
                Kind::Space | Kind::Semicolon => rest.from += 1,
                Kind::AtKeyword => {
                    self.flush(&mut declarations, around, place, &mut first);
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
                    self.flush(&mut declarations, around, place, &mut first);
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
            self.flush(&mut declarations, around, place, &mut first);
        }
    }

    /// Makes a rule of the declarations read so far; those after a nested rule make a rule of their own
    /// (CSS Nesting 1, "nested declarations rule").
    fn flush(
        &mut self,
        declarations: &mut Vec<Declaration>,
        around: &Around,
        place: (Slice<'t>, u32),
        first: &mut bool,
    ) {
        if declarations.is_empty() && !*first {
            return;
        }
        *first = false;
        let Some(selectors) = around.parent.clone() else {
            return;
        };
        self.item(Item::Rule(crate::source::offset(self.rules.len())));
        declarations.shrink_to_fit();
        let (start, end) = place.0.range();
        self.rules.push(StyleRule {
            selectors: OnceLock::from(selectors),
            head: start..end,
            prelude: self.map.span(start, end),
            end: place.1,
            important: declarations.iter().any(|d| d.important),
            body: Body::Read(std::mem::take(declarations)),
            group: around.group,
        });
    }

    /// Makes a rule whose selectors and block are read when someone asks for them.
    fn left_out(&mut self, tokens: &Tokens, rule: Token, open: u32, group: Option<GroupId>) {
        self.imports_over = true;
        let written = tokens.text[rule.start as usize..open as usize].trim_ascii_end();
        let head = (rule.start, rule.start + crate::source::offset(written.len()));
        self.unread(tokens, (head, OnceLock::new()), open + 1..rule.end - 1, group);
    }

    /// Makes a rule whose block is read when someone asks for it, of the bytes of its selectors, the selectors themselves if they
    /// were read, and the bytes in its block.
    fn unread(
        &mut self,
        tokens: &Tokens,
        ((start, to), selectors): ((u32, u32), OnceLock<Arc<SelectorList>>),
        part: Range<u32>,
        group: Option<GroupId>,
    ) {
        let rule = self.number();
        self.item(Item::Rule(rule));
        let (prelude, end) = (self.map.span(start, to), self.map.at(part.end));
        let written = &tokens.text[part.start as usize..part.end as usize];
        let important = written.contains('!');
        let body = match written.trim_ascii().is_empty() {
            true => Body::Read(Vec::new()),
            false => Body::Unread(Unread { rule, part, told: self.told, contents: OnceLock::new() }),
        };
        self.rules.push(StyleRule { selectors, head: start..to, prelude, end, body, important, group });
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
            property,
            name: Box::from(&*name),
            span,
            important,
            rule: self.number(),
            value: (value.from, value.to),
            goes_by_attributes: goes_by_attributes(value),
            meaning: OnceLock::new(),
            pieces: OnceLock::new(),
        }))
    }

    /// Reads an at-rule.
    fn at_rule(&mut self, rest: &mut Slice<'t>, around: &Around) {
        let begin = *rest;
        let Some(token) = begin.peek() else { return };
        let name = begin.name(token).to_ascii_lowercase();
        rest.from += 1;
        let (prelude, after) = rest.split_at(|t| matches!(t.kind, Kind::Curly(_) | Kind::Semicolon));
        *rest = after;
        let block = matches!(after.kind(), Some(Kind::Curly(_))).then(|| after.inside());
        rest.next();
        let head = Slice { to: prelude.to, ..begin }.trim();
        let prelude = prelude.trim();
        let known = QUIET.contains(&&*name) || APPLIED.contains(&&*name);
        if known && around.parent.is_some() && !(block.is_some() && NESTS.contains(&&*name)) {
            // CSS Nesting 1, §4.1 "Nested group rules": conditions, layers and scopes, and no other.
            return self.note(
                NoteKind::AtRule,
                head,
                format!("`@{name}` cannot stand in a style rule; it is dropped"),
                None,
            );
        }
        let deep = matches!(&*name, "import" | "media" | "supports" | "container") && condition::is_too_deep(prelude);
        if deep {
            let message =
                format!("conditions nest more than {DEEPEST_CONDITION} deep here; what is inside counts as unknown");
            self.note(NoteKind::AtRule, head, message, None);
        }
        match (&*name, block) {
            ("import", None) => self.import(prelude, head, around),
            ("namespace", None) => self.namespace(prelude, head, around),
            ("layer", None) => self.layer_statement(prelude, head, around),
            ("charset", None) => {}
            ("property", Some(block)) => self.property(prelude, block, head, around),
            ("function", Some(block)) => self.function(prelude, block, head, around),
            ("media", Some(block)) => {
                let list = media::parse(prelude);
                if let Some(lost) = lost::of_media(prelude, &list, block.range().1) {
                    self.lost(NoteKind::Syntax, lost);
                    // What is told of the block follows from it.
                    let (noted, told) = (self.notes.len(), std::mem::replace(&mut self.told, false));
                    self.group(GroupKind::Media(list), block, head, around);
                    self.told = told;
                    return self.notes.truncate(noted);
                }
                for (message, hint) in list.unknown().into_iter().filter(|_| !deep) {
                    self.note(NoteKind::AtRule, head, message, hint);
                }
                self.group(GroupKind::Media(list), block, head, around);
            }
            ("supports", Some(block)) => match supports::condition(prelude) {
                Some(holds) => self.group(GroupKind::Supports(holds), block, head, around),
                None => self.note(
                    NoteKind::AtRule,
                    head,
                    "this is no condition for `@supports`; the block is dropped",
                    None,
                ),
            },
            ("layer", Some(block)) => match layer_names(prelude) {
                Some(mut names) if names.len() <= 1 => self.group(GroupKind::Layer(names.pop()), block, head, around),
                _ => self.note(
                    NoteKind::AtRule,
                    head,
                    "a layer with a block has one name at most, such as `theme.dark`; the block is dropped",
                    None,
                ),
            },
            ("scope", Some(block)) => self.scope(prelude, block, head, around),
            ("container", Some(_)) if prelude.is_empty() => {
                let message = "`@container` needs a name or a condition; the block is dropped";
                self.note(NoteKind::AtRule, head, message, None);
            }
            ("container", Some(block)) => {
                self.group(GroupKind::Container(container::parse(prelude)), block, head, around)
            }
            ("starting-style", Some(block)) => self.group(GroupKind::StartingStyle, block, head, around),
            (quiet, Some(_)) if QUIET.contains(&quiet) && quiet_prelude(quiet, prelude) => self.imports_over = true,
            (quiet, Some(_)) if QUIET.contains(&quiet) && quiet != "charset" => {
                let message = format!("`@{quiet}` has no such name or selector before its block; it is dropped");
                self.note(NoteKind::AtRule, head, message, None);
            }
            (known, _) if QUIET.contains(&known) || APPLIED.contains(&known) => {
                let what = if block.is_some() { "it takes no block" } else { "its block `{…}` is missing" };
                self.note(NoteKind::AtRule, head, format!("`@{known}` is broken: {what}; it is dropped"), None);
            }
            (unknown, _) => self.unknown_at_rule(unknown, head),
        }
    }

    /// Notes an at-rule that there is none of.
    fn unknown_at_rule(&mut self, name: &str, head: Slice<'t>) {
        let near = crate::near::nearest(name, QUIET.iter().chain(APPLIED).copied());
        let hint = near.map(|n| format!("did you mean `@{n}`?"));
        self.note(
            NoteKind::AtRule,
            head,
            format!("there is no at-rule `@{name}`; it is dropped with all inside"),
            hint,
        );
    }

    /// Reads a group and what is inside.
    fn group(&mut self, kind: GroupKind, block: Slice<'t>, head: Slice<'t>, around: &Around) {
        self.imports_over = true;
        if around.depth > DEEPEST_RULE {
            self.note(
                NoteKind::Syntax,
                head,
                format!("rules nest more than {DEEPEST_RULE} deep here; this one is dropped"),
                None,
            );
            return;
        }
        let scoped = matches!(kind, GroupKind::Scope(_));
        let id = GroupId(crate::source::offset(self.groups.len()));
        let span = self.span(head);
        self.groups.push(Group { parent: around.group, kind, span });
        self.item(Item::Group(id));
        let mut inside = Around { group: Some(id), depth: around.depth + 1, ..around.clone() };
        if scoped {
            inside.scoped = true;
            inside.parent = None;
        }
        if inside.scoped && inside.parent.is_none() {
            // Declarations straight in `@scope` are about the scoping root and weigh nothing (CSS Cascade 6, §2.5).
            let context = selector::Context { nested: false, scoped: true, ..selector::Context::plain(self.map) };
            let tokens = Tokens::read(":where(:scope)");
            if let Ok(mut root) = selector::parse_list(tokens.all(), &context) {
                root.placed(span);
                let declarations = Around { parent: Some(Arc::new(root)), ..inside.clone() };
                self.scope_block(block, &inside, &declarations, head);
            }
            return;
        }
        if inside.parent.is_some() {
            self.block(block, &inside, head);
        } else {
            self.rules(block, &inside);
        }
    }

    /// Reads the inside of `@scope`, where declarations and rules have different parents.
    fn scope_block(&mut self, mut rest: Slice<'t>, inside: &Around, root: &Around, head: Slice<'t>) {
        let place = (head, self.end_of(rest));
        let mut declarations = Vec::new();
        while let Some(token) = rest.peek() {
            match token.kind {
                Kind::Space | Kind::Semicolon => rest.from += 1,
                Kind::AtKeyword => {
                    self.flush(&mut declarations, root, place, &mut false);
                    self.at_rule(&mut rest, inside);
                }
                _ => match self.declaration(&mut rest) {
                    Some(declaration) => declarations.extend(declaration),
                    None if self.no_rule(&mut rest) => {}
                    None => {
                        self.flush(&mut declarations, root, place, &mut false);
                        self.qualified_rule(&mut rest, inside);
                    }
                },
            }
        }
        self.flush(&mut declarations, root, place, &mut false);
    }

    /// `@import URL layer supports() media;`
    fn import(&mut self, prelude: Slice<'t>, head: Slice<'t>, around: &Around) {
        if around.depth > 0 || self.imports_over {
            self.note(
                NoteKind::AtRule,
                head,
                "`@import` must come before all other rules, `@layer` before the first one aside; this one is dropped",
                None,
            );
            return;
        }
        let mut rest = prelude;
        let href = match rest.peek() {
            Some(t) if matches!(t.kind, Kind::Str | Kind::Url) => rest.name(t).into_owned(),
            Some(_) if rest.is_function("url") || rest.is_function("src") => {
                let inside = rest.inside().trim();
                inside.peek().filter(|t| t.kind == Kind::Str).map(|t| inside.name(t).into_owned()).unwrap_or_default()
            }
            _ => {
                self.note(NoteKind::AtRule, head, "`@import` needs a URL in quotes or `url(…)`; it is dropped", None);
                return;
            }
        };
        let from = rest.from;
        rest.next();
        let url = self.span(Slice { from, to: rest.from, ..prelude });
        rest.skip_space();
        let mut layer = None;
        if rest.is_ident("layer") {
            layer = Some(None);
            rest.next();
        } else if rest.is_function("layer")
            && let Some(mut names) = layer_names(rest.inside().trim())
            && names.len() == 1
        {
            layer = names.pop().map(Some);
            rest.next();
        }
        rest.skip_space();
        let mut holds = true;
        if rest.is_function("supports") {
            holds = supports::holds_import(rest.inside());
            rest.next();
            rest.skip_space();
        }
        self.imported = true;
        let import =
            Import { href, url, layer, supports: holds, media: media::parse(rest.trim()), span: self.span(head) };
        self.item(Item::Import(Box::new(import)));
    }

    /// `@namespace prefix url;`
    fn namespace(&mut self, prelude: Slice<'t>, head: Slice<'t>, around: &Around) {
        if around.depth > 0 || !self.rules.is_empty() {
            self.note(NoteKind::AtRule, head, "`@namespace` must come before all style rules; it is dropped", None);
            return;
        }
        let mut rest = prelude;
        let mut prefix = String::new();
        if let Some(token) = rest.peek().filter(|t| t.kind == Kind::Ident) {
            prefix = rest.name(token).into_owned();
            rest.next();
            rest.skip_space();
        }
        let url = match rest.peek() {
            Some(t) if matches!(t.kind, Kind::Str | Kind::Url) => Some(rest.name(t).into_owned()),
            Some(_) if rest.is_function("url") => {
                let inside = rest.inside().trim();
                inside.peek().filter(|t| t.kind == Kind::Str).map(|t| inside.name(t).into_owned())
            }
            _ => None,
        };
        match url {
            Some(url) => {
                self.imports_over = true;
                self.namespaces.insert(prefix, Arc::from(url));
            }
            None => self.note(NoteKind::AtRule, head, "`@namespace` needs a URL; it is dropped", None),
        }
    }

    /// `@layer a, b.c;`
    fn layer_statement(&mut self, prelude: Slice<'t>, head: Slice<'t>, around: &Around) {
        match layer_names(prelude).filter(|n| !n.is_empty()) {
            Some(names) => {
                self.imports_over |= self.imported;
                self.item(Item::Layers(names, around.group));
            }
            None if prelude.is_empty() => {
                let message = "`@layer` without a block needs names such as `base, theme`; it is dropped";
                self.note(NoteKind::AtRule, head, message, None);
            }
            None => {
                let message =
                    format!("`{}` are no names of layers such as `base, theme.dark`; it is dropped", prelude.text());
                self.note(NoteKind::AtRule, head, message, None);
            }
        }
    }

    /// `@scope (roots) to (limits)`
    fn scope(&mut self, prelude: Slice<'t>, block: Slice<'t>, head: Slice<'t>, around: &Around) {
        let mut rest = prelude;
        let mut roots = None;
        let mut limits = None;
        let context = selector::Context {
            map: self.map,
            namespaces: Some(&self.namespaces),
            parent: around.parent.clone(),
            // Roots in an outer scope or style rule are inside of that (CSS Cascade 6, §2.5.1).
            nested: around.parent.is_some() || around.scoped,
            scoped: around.scoped,
        };
        let mut error = None;
        if matches!(rest.kind(), Some(Kind::Paren(_))) {
            match selector::parse_list(rest.inside(), &context) {
                Ok(list) => roots = Some(list),
                Err(e) => error = Some(e),
            }
            rest.next();
            rest.skip_space();
        }
        if rest.is_ident("to") {
            rest.next();
            rest.skip_space();
            let limit_context = selector::Context { parent: None, scoped: true, nested: true, ..context };
            match selector::parse_list(rest.inside(), &limit_context) {
                Ok(list) => limits = Some(list),
                Err(e) => error = Some(e),
            }
            rest.next();
            rest.skip_space();
        }
        if let Some(error) = error {
            self.dropped_rule(error, prelude);
        } else if rest.is_empty() {
            self.group(GroupKind::Scope(Box::new(Scope { roots, limits })), block, head, around);
        } else {
            self.note(
                NoteKind::AtRule,
                head,
                "`@scope` is written `@scope (selectors) to (selectors)`; it is dropped",
                None,
            );
        }
    }

    /// `@property --name { … }` (CSS Properties and Values API 1, §2). Of a descriptor that is written several times the last
    /// good one counts.
    fn property(&mut self, prelude: Slice<'t>, block: Slice<'t>, head: Slice<'t>, around: &Around) {
        let (mut syntax, mut inherits, mut initial) = (None, None, None);
        let mut rest = block;
        while let Some(token) = rest.peek() {
            if matches!(token.kind, Kind::Space | Kind::Semicolon) {
                rest.from += 1;
                continue;
            }
            let (one, after) = rest.split_at(|t| matches!(t.kind, Kind::Semicolon | Kind::Curly(_)));
            rest = after;
            rest.next();
            if matches!(after.kind(), Some(Kind::Curly(_))) && token.kind != Kind::Ident {
                continue;
            }
            let (name, value) = one.trim().split_at(|t| t.kind == Kind::Colon);
            let value = Slice { from: (value.from + 1).min(value.to), ..value }.trim();
            let single = value.from + 1 == value.to;
            match name.trim().ident().as_deref() {
                Some("syntax") if single && value.kind() == Some(Kind::Str) => {
                    syntax = value.peek().map(|t| value.name(t).into_owned());
                }
                Some("inherits") if single && value.is_ident("true") => inherits = Some(true),
                Some("inherits") if single && value.is_ident("false") => inherits = Some(false),
                Some("initial-value") if !split_important(value).1 => initial = Some(value),
                _ => {}
            }
        }
        let name = prelude.ident().filter(|_| prelude.from + 1 == prelude.to);
        let name = name.and(prelude.peek()).map(|t| prelude.name(t)).filter(|n| n.starts_with("--") && n.len() > 2);
        let fault = match (&name, &syntax, inherits, initial) {
            (None, ..) => {
                Some("it needs the name of a custom property, with two hyphens, and nothing else before its block")
            }
            (_, None, ..) => Some("it needs a `syntax` in quotes"),
            (_, Some(s), ..) if !registered::is_syntax(s) => Some("its `syntax` is none"),
            (_, _, None, _) => Some("it needs `inherits: true` or `inherits: false`"),
            (_, Some(s), _, None) if s.trim() != "*" => {
                Some("it needs an `initial-value`, since its syntax is not `*`")
            }
            (_, Some(s), _, Some(v)) if !registered::may_be_initial(s, v) => {
                Some("its `initial-value` does not fit its syntax, or depends on the element")
            }
            _ => None,
        };
        if let Some(fault) = fault {
            return self.note(NoteKind::AtRule, head, format!("this `@property` is dropped: {fault}"), None);
        }
        let (Some(name), Some(syntax), Some(inherits)) = (name, syntax, inherits) else { return };
        let initial = initial.map(|v| v.text().to_owned());
        self.imports_over = true;
        self.item(Item::Property(crate::source::offset(self.registrations.len()), around.group));
        self.registrations.push(Registration { name: name.into_owned(), syntax, inherits, initial });
    }

    /// `@function --name(…) { … }`
    fn function(&mut self, prelude: Slice<'t>, block: Slice<'t>, head: Slice<'t>, around: &Around) {
        let mut dropped = Vec::new();
        match CustomFunction::parse(prelude, block, self.span(head), &mut dropped) {
            Ok(function) => {
                self.imports_over = true;
                self.item(Item::Function(crate::source::offset(self.functions.len()), around.group));
                self.functions.push(function);
                for (at, message) in dropped {
                    self.note(NoteKind::AtRule, at, message, None);
                }
            }
            Err(message) => self.note(NoteKind::AtRule, head, message + "; it is dropped", None),
        }
    }
}

/// Names of layers with commas between them; nothing where something is no name.
fn layer_names(prelude: Slice<'_>) -> Option<Vec<Vec<String>>> {
    if prelude.trim().is_empty() {
        return Some(Vec::new());
    }
    prelude.commas().into_iter().map(|part| layer_name(part.trim())).collect()
}

/// `<layer-name>`: names with dots and no white space between them (CSS Cascade 5, §6.4.2). Differs from the standard,
/// which has CSS-wide keywords reserved: most browsers take them as names.
fn layer_name(part: Slice<'_>) -> Option<Vec<String>> {
    let mut names = Vec::new();
    for at in part.from..part.to {
        let here = Slice { from: at, to: at + 1, ..part };
        let token = here.peek()?;
        match token.kind {
            Kind::Ident if (at - part.from).is_multiple_of(2) => names.push(here.name(token).into_owned()),
            Kind::Delim('.') if (at - part.from) % 2 == 1 => {}
            _ => return None,
        }
    }
    ((part.to - part.from) % 2 == 1).then_some(names)
}

/// Whether what stands before the block of an at-rule without style rules is what the rule asks for.
fn quiet_prelude(rule: &str, prelude: Slice<'_>) -> bool {
    let one = prelude.peek().filter(|_| prelude.from + 1 == prelude.to);
    let name = one.filter(|t| t.kind == Kind::Ident).map(|t| prelude.name(t));
    let custom = || name.as_ref().is_some_and(|n| n.starts_with("--"));
    match rule {
        "font-face" | "-webkit-font-face" | "view-transition" => prelude.is_empty(),
        "keyframes" | "-webkit-keyframes" => match &name {
            Some(name) => Wide::named(name).is_none() && !name.eq_ignore_ascii_case("none"),
            None => one.is_some_and(|t| t.kind == Kind::Str),
        },
        "counter-style" => name.is_some_and(|n| Wide::named(&n).is_none() && !n.eq_ignore_ascii_case("none")),
        "font-palette-values" | "position-try" => custom(),
        "color-profile" => name.is_some(),
        "charset" => false,
        _ => true,
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
    crate::near::nearest(name, PropertyId::all_names()).map(|n| format!("did you mean `{n}`?"))
}
