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
pub(crate) mod supports;

pub(crate) use declaration::{CustomDeclared, split_important};
pub(crate) use declaration::{Declaration, Property};
pub(crate) use parse::{Input, parse, parse_style_attribute, unknown_property_hint};

use std::collections::HashMap;
use std::ops::Range;
use std::sync::{Arc, OnceLock};

use crate::selector::SelectorList;
use crate::source::{OffsetMap, SourceId, Span};
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
    /// Rules, groups, imports and layer statements in order of appearance, each with where the statement at the top of the
    /// sheet starts that it is in, as a byte of the text that was read.
    pub(crate) items: Vec<(u32, Item)>,
    /// `@property` rules.
    pub(crate) registrations: Vec<Registration>,
    /// `@function` rules.
    pub(crate) functions: Vec<function::CustomFunction>,
    /// What was dropped outside of unread blocks, in written order.
    outer_notes: Vec<Note>,
    /// All that was dropped, once someone asked for it.
    notes: OnceLock<Vec<Note>>,
}

/// The index of a group in its stylesheet.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) struct GroupId(pub(crate) u32);

/// A style rule: selectors and declarations.
#[derive(Debug)]
pub(crate) struct StyleRule {
    /// The selectors that aim it, once they were read.
    selectors: OnceLock<Arc<SelectorList>>,
    /// The bytes of the text at which they are written.
    head: Range<u32>,
    /// Whether they are plain.
    plain: bool,
    /// Where that is in the source.
    pub(crate) prelude: Span,
    /// The byte of the text at which its block ends: that of the closing bracket.
    pub(crate) end: u32,
    /// The declarations.
    body: Body,
    /// Whether some of them may be important.
    pub(crate) important: bool,
    /// The innermost group around it.
    pub(crate) group: Option<GroupId>,
}

impl StyleRule {
    /// Whether it is what a `style` attribute or a presentational hint says, which has no selectors.
    pub(crate) fn is_attribute(&self) -> bool {
        self.selectors.get().is_some_and(|list| list.selectors.is_empty())
    }
}

/// The declarations of a style rule, in written order.
#[derive(Debug)]
enum Body {
    /// They were read with the sheet.
    Read(Vec<Declaration>),
    /// They are read when someone asks for them.
    Unread(Unread),
}

/// A block with nothing but declarations in it.
#[derive(Debug)]
struct Unread {
    /// The number of its rule.
    rule: u32,
    /// The bytes between its brackets.
    part: Range<u32>,
    /// Whether what is dropped in it is told.
    told: bool,
    /// What it says, once someone asked for it.
    contents: OnceLock<Box<Contents>>,
}

/// What a block says that was left unread at first.
#[derive(Debug)]
struct Contents {
    /// Its tokens.
    tokens: Tokens,
    /// Its declarations.
    declarations: Vec<Declaration>,
    /// What was dropped.
    notes: Vec<Note>,
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

/// Something at the top of a stylesheet or group, in order of appearance.
#[derive(Debug)]
pub(crate) enum Item {
    /// The style rule with this index.
    Rule(u32),
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

    /// The tokens of a declaration's value.
    pub(crate) fn value(&self, declaration: &Declaration) -> Slice<'_> {
        let contents = match &self.rules[declaration.rule as usize].body {
            Body::Unread(block) => block.contents.get(),
            Body::Read(_) => None,
        };
        let tokens = contents.map_or(&self.tokens, |c| &c.tokens);
        Slice { tokens, from: declaration.value.0, to: declaration.value.1 }
    }

    /// The selectors of one of its rules.
    pub(crate) fn selectors<'s>(&'s self, rule: &'s StyleRule) -> &'s Arc<SelectorList> {
        rule.selectors.get_or_init(|| Arc::new(parse::selectors(&self.map, &self.tokens.left_out(rule.head.clone()))))
    }

    /// The text and the byte at which the selectors of a rule are written, where they are plain.
    pub(crate) fn plain_selectors(&self, rule: &StyleRule) -> Option<(&str, u32)> {
        rule.plain.then(|| (&*self.tokens.text, rule.head.start))
    }

    /// The declarations of one of its rules.
    pub(crate) fn declarations<'s>(&'s self, rule: &'s StyleRule) -> &'s [Declaration] {
        match &rule.body {
            Body::Read(declarations) => declarations,
            Body::Unread(block) => &self.contents(block).declarations,
        }
    }

    /// What a block says that was left unread; read when first asked for, then kept.
    fn contents<'s>(&'s self, block: &'s Unread) -> &'s Contents {
        block
            .contents
            .get_or_init(|| Box::new(parse::contents(&self.map, self.tokens.left_out(block.part.clone()), block.rule)))
    }

    /// All that was dropped in the block of a rule, in written order, perhaps among what was dropped elsewhere.
    pub(crate) fn notes_about<'s>(&'s self, rule: &'s StyleRule) -> &'s [Note] {
        match &rule.body {
            // No block that is left unread is in one that is read.
            Body::Read(_) => &self.outer_notes,
            Body::Unread(block) if block.told => &self.contents(block).notes,
            Body::Unread(_) => &[],
        }
    }

    /// What was dropped, in written order.
    pub(crate) fn notes(&self) -> &[Note] {
        self.notes.get_or_init(|| {
            let unread = self.rules.iter().filter_map(|rule| match &rule.body {
                Body::Unread(block) if block.told => Some(&self.contents(block).notes),
                _ => None,
            });
            let mut notes: Vec<Note> = self.outer_notes.iter().chain(unread.flatten()).cloned().collect();
            notes.sort_by_key(|n| n.span.start);
            notes
        })
    }
}
