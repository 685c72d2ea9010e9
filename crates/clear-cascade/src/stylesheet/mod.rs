//! A stylesheet as rules, conditions and declarations with places.
//!
//! What comes in: the text of a stylesheet or `style` attribute. What goes out: flat lists of style
//! rules and of the groups (`@media`, `@layer`, …) around them, with a [`Note`] for everything that was dropped.
//! CSS Syntax 3, §5 "Parsing"; CSS Nesting 1; CSS Cascade 6. Plain selectors are not read before someone asks for them or a
//! page has what they name, blocks with nothing but declarations not before a rule is used, and values not before they count.

pub(crate) mod container;
pub(crate) mod declaration;
pub(crate) mod function;
mod lost;
pub(crate) mod media;
mod outline;
mod parse;
mod parted;
pub(crate) mod supports;

use declaration::Written;
pub(crate) use declaration::{CustomDeclared, split_important};
pub(crate) use declaration::{Declaration, Property};
pub(crate) use parse::{Input, parse, parse_style_attribute, unknown_property_hint};

use std::collections::HashMap;
use std::num::NonZero;
use std::ops::Range;
use std::sync::{Arc, OnceLock};

use once_cell::race::OnceBox;

use crate::selector::{PlainParts, SelectorList};
use crate::source::{OffsetMap, SourceId, Span, offset};
use crate::syntax::{Kind, Slice, Token, Tokens};

/// Something the standard says to drop, or that cannot be decided here: with its place and the reason.
///
/// ```
/// use clear_cascade::stylesheet::NoteKind;
/// use clear_cascade::{MemoryLoader, Study};
/// let files = MemoryLoader::default().with("a.html", "<style>p { colour: navy }</style><p>Hello");
/// let page = Study::open(&files, "a.html")?;
/// let note = &page.notes()[0];
/// assert_eq!((note.kind, page.sources().text(note.span)), (NoteKind::Property, Some("colour")));
/// assert_eq!(note.message, "there is no property `colour`; the declaration is dropped");
/// # Ok::<(), clear_cascade::Error>(())
/// ```
#[derive(Clone, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub struct Note {
    /// What kind of thing it is about.
    pub kind: NoteKind,
    /// The place.
    pub span: Span,
    /// What was met and what follows, as one clause.
    pub message: String,
    /// What was probably meant, or what to do.
    pub hint: Option<String>,
    /// How far it goes, where that is further than what is written: the text that counts for nothing, or for something else, because
    /// of it.
    pub damage: Option<Span>,
}

/// What a note is about.
///
/// ```
/// use clear_cascade::{MemoryLoader, Study};
/// let files = MemoryLoader::default().with("a.html", "<style>p { colour: red }</style><p>");
/// let page = Study::open(&files, "a.html")?;
/// use clear_cascade::stylesheet::NoteKind;
/// assert_eq!(page.notes()[0].kind, NoteKind::Property);
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, serde::Serialize, serde::Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(rename_all = "kebab-case")]
#[non_exhaustive]
pub enum NoteKind {
    /// A selector that is none: its rule is dropped.
    Selector,
    /// A property that does not exist: its declaration is dropped.
    Property,
    /// A value that the property does not take: its declaration is dropped.
    Value,
    /// Text that is no rule and no declaration.
    Syntax,
    /// An at-rule that is unknown, misplaced or not applied.
    AtRule,
    /// A stylesheet that could not be loaded or was not used.
    Sheet,
    /// A stylesheet that is left out on purpose: of a set that is not chosen, or disabled.
    Unchosen,
    /// Something that only layout or a script could decide.
    Undecided,
    /// Something that was asked for and that there is not: an encoding, a preference, a set of styles.
    Request,
}

/// A parsed stylesheet.
#[derive(Debug)]
pub(crate) struct Stylesheet {
    /// The text it was read from.
    pub(crate) source: SourceId,
    /// How offsets lead into that.
    map: OffsetMap,
    /// Its tokens, those of what was left unread left out.
    pub(crate) tokens: Tokens,
    /// Whether the page it is for is in quirks mode.
    pub(crate) quirks: bool,
    /// Its style rules in order of appearance.
    pub(crate) rules: Vec<StyleRule>,
    /// The groups around rules.
    pub(crate) groups: Vec<Group>,
    /// All else in order of appearance.
    items: Vec<Standing>,
    /// `@property` rules.
    pub(crate) registrations: Vec<Registration>,
    /// `@function` rules.
    pub(crate) functions: Vec<function::CustomFunction>,
    /// What plain selectors are made of.
    plain: PlainParts,
    /// What values say that were read.
    meanings: declaration::Meanings,
    /// What was dropped outside of unread blocks, in written order.
    outer_notes: Vec<Note>,
    /// All that was dropped, once someone asked for it.
    notes: OnceLock<Vec<Note>>,
}

/// The index of a group in its stylesheet.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) struct GroupId(NonZero<u32>);

impl GroupId {
    /// That of the group at an index.
    fn new(index: usize) -> Self {
        Self(NonZero::<u32>::MIN.saturating_add(offset(index)))
    }

    /// The index itself.
    pub(crate) fn index(self) -> usize {
        self.0.get() as usize - 1
    }
}

/// A style rule: selectors and declarations. Pages have tens of thousands of them, most of which are never asked for anything.
#[derive(Debug)]
pub(crate) struct StyleRule {
    /// The selectors that aim it, once they were read.
    selectors: OnceBox<Arc<SelectorList>>,
    /// The declarations, once they were read; nothing for a block without any that was left unread.
    contents: OnceBox<Contents>,
    /// The bytes of the text at which the selectors are written.
    head: Range<u32>,
    /// The bytes of the text between the brackets of its block, as far as the block is its own.
    block: Range<u32>,
    /// Where the statement at the top of the sheet starts that it is in, as a byte of the text.
    statement: u32,
    /// Its number in the sheet.
    number: u32,
    /// The number of the first part of its selectors among those of the sheet's plain ones; no number where they are not plain.
    plain: u32,
    /// The innermost group around it.
    pub(crate) group: Option<GroupId>,
    /// What of the block is read.
    body: Body,
    /// Whether some of the declarations may be important.
    pub(crate) important: bool,
}

/// That the selectors of a rule are not plain.
const NOT_PLAIN: u32 = u32::MAX;

impl StyleRule {
    /// Whether it is what a `style` attribute or a presentational hint says, which has no selectors.
    pub(crate) fn is_attribute(&self) -> bool {
        self.selectors.get().is_some_and(|list| list.selectors.is_empty())
    }
}

/// What of the block of a style rule is read with the sheet.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Body {
    /// All of it, and what is dropped in it is told with the sheet.
    Read,
    /// Nothing: there is nothing in it.
    Blank,
    /// Nothing before someone asks for it: there are only declarations in it.
    Unread {
        /// Whether what is dropped in it is told.
        told: bool,
    },
}

/// What a block says.
#[derive(Debug)]
struct Contents {
    /// Its declarations, in written order.
    declarations: Vec<Declaration>,
    /// How it was read; nothing where its tokens are among those of the sheet, or each value has its own.
    reading: Option<Box<BlockReading>>,
}

/// How a block was read by itself.
#[derive(Debug)]
struct BlockReading {
    /// Its tokens.
    tokens: Tokens,
    /// What was dropped.
    notes: Vec<Note>,
}

impl Contents {
    /// What was dropped, where that is not told with the sheet.
    fn notes(&self) -> &[Note] {
        self.reading.as_ref().map_or(&[], |reading| &reading.notes)
    }
}

/// An at-rule around rules.
#[derive(Debug)]
pub(crate) struct Group {
    /// The group around it.
    pub(crate) parent: Option<GroupId>,
    /// What it says.
    pub(crate) kind: GroupKind,
    /// Where its prelude is written, at-keyword included.
    pub(crate) span: Span,
}

/// What an at-rule around rules says.
#[derive(Debug)]
pub(crate) enum GroupKind {
    /// `@media`
    Media(media::MediaQueryList),
    /// `@supports`: whether it holds.
    Supports(bool),
    /// `@layer` with a block: its name, in parts; nothing for an anonymous layer.
    Layer(Option<Vec<String>>),
    /// `@scope`
    Scope(Box<Scope>),
    /// `@container`: why it is off, or what it asks.
    Container(container::Queries),
    /// `@starting-style`: for transitions only.
    StartingStyle,
}

/// `@scope (roots) to (limits)`
#[derive(Debug)]
pub(crate) struct Scope {
    /// The selectors of scoping roots; the element around the `<style>` where there are none.
    pub(crate) roots: Option<SelectorList>,
    /// The selectors of scoping limits.
    pub(crate) limits: Option<SelectorList>,
}

/// An item where it stands among the rules.
#[derive(Debug)]
struct Standing {
    /// Where the statement at the top of the sheet starts that it is in, as a byte of the text.
    statement: u32,
    /// How many rules come before it.
    rules: u32,
    /// What it is.
    item: Item,
}

/// Something that stands in a stylesheet, style rules among the rest.
pub(crate) enum Met<'s> {
    /// The style rule with this index.
    Rule(u32),
    /// Something else.
    Item(&'s Item),
}

/// Something at the top of a stylesheet or group that is no style rule.
#[derive(Debug)]
pub(crate) enum Item {
    /// A group begins.
    Group(GroupId),
    /// `@import`
    Import(Box<Import>),
    /// The `@property` rule with this index, in a group.
    Property(u32, Option<GroupId>),
    /// The `@function` rule with this index, in a group.
    Function(u32, Option<GroupId>),
    /// `@layer a, b.c;` in a group.
    Layers(Box<[Vec<String>]>, Option<GroupId>),
}

/// `@import`
#[derive(Debug)]
pub(crate) struct Import {
    /// The URL as written.
    pub(crate) href: String,
    /// Where that is written, with its quotes or `url()`.
    pub(crate) url: Span,
    /// The layer it is put in; an inner nothing for an anonymous one.
    pub(crate) layer: Option<Option<Vec<String>>>,
    /// Whether its `supports()` holds.
    pub(crate) supports: bool,
    /// Its media.
    pub(crate) media: media::MediaQueryList,
    /// Where the rule is written.
    pub(crate) span: Span,
}

/// `@property`
#[derive(Clone, Debug, PartialEq, Eq)]
pub(crate) struct Registration {
    /// The custom property, with its two hyphens.
    pub(crate) name: String,
    /// The syntax string.
    pub(crate) syntax: String,
    /// Whether it inherits.
    pub(crate) inherits: bool,
    /// The initial value, where there is one.
    pub(crate) initial: Option<String>,
}

/// What is known when a stylesheet is parsed: namespaces so far.
pub(crate) type Namespaces = HashMap<String, Arc<str>>;

impl Stylesheet {
    /// The statements at the top of the sheet: rules and at-rules, from the first token to the closing bracket or semicolon.
    /// What the end of the text breaks off is one too.
    pub(crate) fn statements(&self) -> impl Iterator<Item = Slice<'_>> {
        let mut rest = self.tokens.all();
        std::iter::from_fn(move || {
            rest.skip_space();
            let first = rest.peek()?;
            let begin = rest;
            let ends = |t: Token| match t.kind {
                Kind::Curly(_) | Kind::Rule(_) => true,
                Kind::Semicolon => first.kind == Kind::AtKeyword,
                _ => false,
            };
            rest = rest.split_at(ends).1;
            rest.next();
            Some(Slice { to: rest.from, ..begin })
        })
    }

    /// Rules, groups, imports and layer statements in order of appearance, each with where the statement at the top of the
    /// sheet starts that it is in, as a byte of the text that was read.
    pub(crate) fn in_order(&self) -> impl Iterator<Item = (u32, Met<'_>)> {
        let mut next = 0;
        self.items.iter().map(Some).chain([None]).flat_map(move |standing| {
            let end = standing.map_or(self.rules.len(), |s| s.rules as usize);
            let rules = &self.rules[std::mem::replace(&mut next, end)..end];
            let rules = rules.iter().map(|rule| (rule.statement, Met::Rule(rule.number)));
            rules.chain(standing.map(|s| (s.statement, Met::Item(&s.item))))
        })
    }

    /// What it imports, in order of appearance.
    pub(crate) fn imports(&self) -> impl Iterator<Item = &Import> {
        self.items.iter().filter_map(|s| match &s.item {
            Item::Import(import) => Some(&**import),
            _ => None,
        })
    }

    /// The tokens of a declaration's value.
    pub(crate) fn value<'s>(&'s self, declaration: &'s Declaration) -> Slice<'s> {
        match &declaration.value {
            Written::Bytes(part, tokens) => {
                tokens.get_or_init(|| Box::new(self.tokens.left_out(part.start..part.end))).all()
            }
            Written::Tokens(part) => {
                let contents = self.rules[declaration.rule as usize].contents.get();
                let reading = contents.and_then(|c| c.reading.as_deref());
                let tokens = reading.map_or(&self.tokens, |reading| &reading.tokens);
                Slice { tokens, from: part.start, to: part.end }
            }
        }
    }

    /// Reads the tokens of a declaration's value, which are kept only where someone asked for them before.
    fn read_value<T>(&self, declaration: &Declaration, read: impl FnOnce(Slice<'_>) -> T) -> T {
        match &declaration.value {
            Written::Bytes(part, tokens) if tokens.get().is_none() => read(self.tokens.left_out(part.clone()).all()),
            _ => read(self.value(declaration)),
        }
    }

    /// The text that a declaration is written in.
    pub(crate) fn text_around<'s>(&'s self, declaration: &'s Declaration) -> &'s str {
        match &declaration.value {
            Written::Bytes(..) => &self.tokens.text,
            Written::Tokens(_) => &self.value(declaration).tokens.text,
        }
    }

    /// The text of a declaration's value.
    #[inline(always)]
    fn text_of_value(&self, declaration: &Declaration) -> &str {
        let (start, end) = match &declaration.value {
            Written::Bytes(part, _) => (part.start, part.end),
            Written::Tokens(_) => self.value(declaration).range(),
        };
        &self.tokens.text[start as usize..end as usize]
    }

    /// The selectors of one of its rules.
    pub(crate) fn selectors<'s>(&'s self, rule: &'s StyleRule) -> &'s Arc<SelectorList> {
        rule.selectors
            .get_or_init(|| Box::new(Arc::new(parse::selectors(&self.map, &self.tokens.left_out(rule.head.clone())))))
    }

    /// The selectors of a rule, where they are plain: the parts of all of those, the number of the first, and the text.
    pub(crate) fn plain_selectors(&self, rule: &StyleRule) -> Option<(&PlainParts, u32, &str)> {
        (rule.plain != NOT_PLAIN).then_some((&self.plain, rule.plain, &self.tokens.text))
    }

    /// Where the selectors of one of its rules are written.
    pub(crate) fn prelude(&self, rule: &StyleRule) -> Span {
        self.map.span(rule.head.start, rule.head.end)
    }

    /// Where the block of one of its rules ends: at its closing bracket, as a byte of the source.
    pub(crate) fn end_of(&self, rule: &StyleRule) -> u32 {
        self.map.at(rule.block.end)
    }

    /// The declarations of one of its rules.
    #[inline(always)]
    pub(crate) fn declarations<'s>(&'s self, rule: &'s StyleRule) -> &'s [Declaration] {
        self.contents(rule).map_or(&[], |contents| &contents.declarations)
    }

    /// Reads the block of a rule and the values in it, unless it was read before.
    pub(crate) fn read_ahead(&self, rule: &StyleRule) {
        let read = || {
            let mut contents = self.read_contents(rule);
            // What needs the tokens of the block can be read once these are where they stay.
            if contents.reading.is_none() {
                contents.declarations.iter_mut().for_each(|declaration| declaration.read_now(self));
            }
            contents
        };
        if rule.body != Body::Blank {
            rule.contents.get_or_init(read);
        }
    }

    /// What the block of a rule says; read when first asked for, then kept.
    fn contents<'s>(&'s self, rule: &'s StyleRule) -> Option<&'s Contents> {
        (rule.body != Body::Blank).then(|| rule.contents.get_or_init(|| self.read_contents(rule)))
    }

    /// Reads what the block of a rule says.
    fn read_contents(&self, rule: &StyleRule) -> Box<Contents> {
        Box::new(parse::contents(&self.map, &self.tokens, rule.block.clone(), rule.number))
    }

    /// All that was dropped in the block of a rule, in written order, perhaps among what was dropped elsewhere.
    pub(crate) fn notes_about<'s>(&'s self, rule: &'s StyleRule) -> &'s [Note] {
        match rule.body {
            // No block that is left unread is in one that is read.
            Body::Read | Body::Blank => &self.outer_notes,
            Body::Unread { told: true } => self.contents(rule).map_or(&[], Contents::notes),
            Body::Unread { told: false } => &[],
        }
    }

    /// What was dropped, in written order.
    pub(crate) fn notes(&self) -> &[Note] {
        self.notes.get_or_init(|| {
            let told = self.rules.iter().filter(|rule| rule.body == Body::Unread { told: true });
            let unread = told.filter_map(|rule| self.contents(rule)).flat_map(Contents::notes);
            let mut notes: Vec<Note> = self.outer_notes.iter().chain(unread).cloned().collect();
            notes.sort_by_key(|n| n.span.start);
            notes
        })
    }
}
