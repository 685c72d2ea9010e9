//! Selectors: parsed with a place for every part, weighed, and matched against a document.
//!
//! What comes in: tokens of a selector. What goes out: [`SelectorList`]s that know their specificity, and whether an
//! element is taken by one. Selectors Level 4 as browsers ship it, and CSS Nesting.

mod forms;
mod language;
mod matching;
mod nth;
mod parse;
mod plain;
mod print;
mod read_aloud;
mod state;
mod steps;
mod supported;
mod there;

pub(crate) use forms::has_idle_pattern;
pub(crate) use matching::{Matcher, aims_at_host};
pub use parse::SelectorError;
pub(crate) use parse::{Context, parse_list};
#[cfg(test)]
pub(crate) use plain::Plain;
pub(crate) use plain::PlainParts;
pub use state::State;
pub(crate) use steps::{Compiler, Key, Keys, MOST_KEYS, Steps, Way};
pub(crate) use there::There;

use std::sync::Arc;

use crate::document::Name;
use crate::source::Span;

/// The weight of a selector in three columns, compared left to right; a column never carries over into the next
/// (Selectors 4, §15 "Calculating a selector's specificity"). In JSON it is a list of the three. A sum stops at the largest number.
///
/// ```
/// use clear_cascade::selector::{SelectorList, Specificity};
/// let list: SelectorList = "#top .menu a".parse()?;
/// let weight = list.selectors[0].specificity;
/// assert_eq!((weight, weight.columns()), (Specificity::new(1, 1, 1), [1, 1, 1]));
/// assert!(Specificity::new(0, 10, 0) < Specificity::new(1, 0, 0)); // Columns never carry over.
/// # Ok::<(), clear_cascade::selector::SelectorError>(())
/// ```
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, PartialOrd, Ord, Hash, serde::Serialize, serde::Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[cfg_attr(
    feature = "schema",
    schemars(
        with = "[u32; 3]",
        description = "The weight of a selector in three columns: ids; classes, attributes and pseudo-classes; types and pseudo-elements."
    )
)]
#[serde(from = "[u32; 3]", into = "[u32; 3]")]
pub struct Specificity {
    /// Ids.
    pub ids: u32,
    /// Classes, attributes and pseudo-classes.
    pub classes: u32,
    /// Types and pseudo-elements.
    pub types: u32,
}

impl Specificity {
    /// A weight from its three columns.
    #[must_use]
    pub const fn new(ids: u32, classes: u32, types: u32) -> Self {
        Self { ids, classes, types }
    }

    /// The three columns.
    #[must_use]
    pub fn columns(self) -> [u32; 3] {
        [self.ids, self.classes, self.types]
    }
}

impl std::ops::Add for Specificity {
    type Output = Self;

    fn add(self, other: Self) -> Self {
        let add = u32::saturating_add;
        Self::new(add(self.ids, other.ids), add(self.classes, other.classes), add(self.types, other.types))
    }
}

impl std::fmt::Display for Specificity {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        write!(f, "{}, {}, {}", self.ids, self.classes, self.types)
    }
}

impl From<[u32; 3]> for Specificity {
    fn from([ids, classes, types]: [u32; 3]) -> Self {
        Self::new(ids, classes, types)
    }
}

impl From<Specificity> for [u32; 3] {
    fn from(weight: Specificity) -> Self {
        weight.columns()
    }
}

/// Selectors with commas between them.
///
/// ```
/// use clear_cascade::selector::SelectorList;
/// let list: SelectorList = "h1, .lead > b".parse()?;
/// assert_eq!(list.selectors.len(), 2);
/// assert_eq!(list.selectors[1].to_string(), ".lead > b");
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Debug)]
#[non_exhaustive]
pub struct SelectorList {
    /// The selectors in written order.
    pub selectors: Vec<Selector>,
    /// What was left out of a list that forgives what is no selector (Selectors 4, §18.1).
    pub(crate) dropped: Vec<SelectorError>,
}

/// A complex selector: compounds with combinators between them.
///
/// ```
/// use clear_cascade::selector::{Combinator, SelectorList};
/// let list: SelectorList = "nav > a:hover".parse()?;
/// let selector = &list.selectors[0];
/// assert_eq!((selector.compounds.len(), selector.subject().combinator), (2, Combinator::Child));
/// assert_eq!(selector.read_aloud(), "an `a` in state `:hover` directly inside a `nav`");
/// assert_eq!(list.undecided().len(), 1); // Whether something is hovered is a matter of the question.
/// # Ok::<(), clear_cascade::selector::SelectorError>(())
/// ```
#[derive(Clone, Debug)]
#[non_exhaustive]
pub struct Selector {
    /// The compounds from left to right; never empty.
    pub compounds: Vec<Compound>,
    /// What it weighs.
    pub specificity: Specificity,
    /// The pseudo-element it aims at, if any; `::slotted()` and `::part()` aim at elements and do not count.
    pub pseudo: Option<PseudoElement>,
    /// What `::slotted()` asks of the element in the slot.
    pub(crate) slotted: Option<Arc<Selector>>,
    /// The names that `::part()` asks for.
    pub(crate) parts: Vec<Name>,
    /// Where it is written.
    pub span: Span,
}

/// A compound: conditions on one element.
///
/// ```
/// use clear_cascade::selector::{Combinator, SelectorList};
/// let list: SelectorList = "ul > li.on".parse()?;
/// let subject = list.selectors[0].subject();
/// assert_eq!((subject.combinator, subject.parts.len()), (Combinator::Child, 2));
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Debug)]
#[non_exhaustive]
pub struct Compound {
    /// How the element relates to the one of the compound before. For the first compound of a selector it counts only
    /// in relative selectors, as in `:has(> a)`.
    pub combinator: Combinator,
    /// The conditions in written order.
    pub parts: Vec<Part>,
    /// The default namespace, where no type is written that would name another (Selectors 4, §5.3).
    pub(crate) namespace: Option<Arc<str>>,
    /// Where the conditions are written.
    pub span: Span,
}

/// How two elements of a selector relate.
///
/// ```
/// use clear_cascade::selector::{Combinator, SelectorList};
/// let list: SelectorList = "h1 + p".parse()?;
/// assert_eq!(list.selectors[0].subject().combinator, Combinator::NextSibling);
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub enum Combinator {
    /// White space: anywhere inside.
    Descendant,
    /// `>`: directly inside.
    Child,
    /// `+`: the next sibling.
    NextSibling,
    /// `~`: a later sibling.
    SubsequentSibling,
}

/// One condition and its place.
///
/// ```
/// use clear_cascade::selector::SelectorList;
/// let list: SelectorList = "p.lead".parse()?;
/// let part = &list.selectors[0].subject().parts[1];
/// assert_eq!((part.simple.to_string(), part.span.start, part.span.end), (".lead".to_owned(), 1, 6));
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Debug)]
#[non_exhaustive]
pub struct Part {
    /// The condition.
    pub simple: Simple,
    /// Where it is written.
    pub span: Span,
}

/// A namespace condition of a type or attribute selector.
///
/// ```
/// use clear_cascade::selector::{NamespaceTest, SelectorList, Simple};
/// let list: SelectorList = "*|p".parse()?;
/// assert!(matches!(&list.selectors[0].subject().parts[0].simple, Simple::Type(NamespaceTest::Any, ..)));
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum NamespaceTest {
    /// Any namespace.
    Any,
    /// This namespace URL; empty for none.
    Is(Arc<str>),
}

/// A simple selector.
///
/// ```
/// use clear_cascade::selector::{SelectorList, Simple};
/// let list: SelectorList = ":is(#top, .lead)".parse()?;
/// let classes = list.parts().filter(|part| matches!(part.simple, Simple::Class(_)));
/// assert_eq!(classes.count(), 1);
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Debug)]
#[non_exhaustive]
pub enum Simple {
    /// `*`
    Universal(NamespaceTest),
    /// `h1`: as written and in lower case; HTML elements compare in lower case.
    Type(NamespaceTest, Name, Name),
    /// `#top`
    Id(Name),
    /// `.night`
    Class(Name),
    /// `[href^="https:"]`
    Attribute(Box<AttributeTest>),
    /// `:hover` and the like.
    PseudoClass(PseudoClass),
    /// `::before` and the like.
    PseudoElement(PseudoElement),
    /// `&`: the selectors of the rule around, or the scoping root where there is none.
    Nesting(Option<Arc<SelectorList>>),
}

/// A condition on an attribute.
///
/// ```
/// use clear_cascade::selector::{SelectorList, Simple};
/// let list: SelectorList = "[lang|=en i]".parse()?;
/// let Simple::Attribute(test) = &list.selectors[0].subject().parts[0].simple else { unreachable!() };
/// assert_eq!((test.name.as_str(), test.case), ("lang", Some(true)));
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Debug)]
#[non_exhaustive]
pub struct AttributeTest {
    /// The namespace of the name.
    pub namespace: NamespaceTest,
    /// The name as written.
    pub name: Name,
    /// The name in lower case, for HTML elements.
    pub lower: Name,
    /// How its value is compared; nothing for mere presence.
    pub test: Option<(AttributeOperator, Box<str>)>,
    /// `i`, `s`, or nothing: then HTML's list of attributes decides.
    pub case: Option<bool>,
    /// Whether HTML compares the values of this attribute without case.
    pub(crate) caseless: bool,
    /// The pairs of bytes that must be in its value.
    pub(crate) sketch: u64,
}

/// How an attribute's value is compared.
///
/// ```
/// use clear_cascade::selector::{AttributeOperator, SelectorList, Simple};
/// let list: SelectorList = "[href$='.pdf']".parse()?;
/// let Simple::Attribute(test) = &list.selectors[0].subject().parts[0].simple else { unreachable!() };
/// assert_eq!(test.test, Some((AttributeOperator::Ends, ".pdf".into())));
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub enum AttributeOperator {
    /// `=`: the same.
    Equals,
    /// `~=`: one of its words.
    Word,
    /// `|=`: the same, or the start before a hyphen.
    Dash,
    /// `^=`: the start.
    Starts,
    /// `$=`: the end.
    Ends,
    /// `*=`: a part.
    Contains,
}

/// `An+B` of `:nth-child()` and its kin.
///
/// ```
/// use clear_cascade::selector::Nth;
/// let odd = Nth { a: 2, b: 1 };
/// assert!(odd.takes(1) && !odd.takes(2) && odd.takes(3));
/// ```
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Nth {
    /// The step.
    pub a: i32,
    /// The offset.
    pub b: i32,
}

impl Nth {
    /// Whether `An+B` gives `index` for some whole `n` from 0 on.
    #[must_use]
    pub fn takes(self, index: u32) -> bool {
        let rest = i64::from(index) - i64::from(self.b);
        match i64::from(self.a) {
            0 => rest == 0,
            a => rest % a == 0 && rest / a >= 0,
        }
    }
}

/// A pseudo-class.
///
/// ```
/// use clear_cascade::selector::{PseudoClass, SelectorList, Simple};
/// let list: SelectorList = "li:not(.on)".parse()?;
/// let Simple::PseudoClass(PseudoClass::Not(inner)) = &list.selectors[0].subject().parts[1].simple else { unreachable!() };
/// assert_eq!(inner.selectors[0].to_string(), ".on");
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Debug)]
#[non_exhaustive]
pub enum PseudoClass {
    /// `:is()`, and `:where()` where the flag is set, which weighs nothing.
    Is(Arc<SelectorList>, bool),
    /// `:-webkit-any()`: as `:is()`, but weighs as any pseudo-class, and each selector in it must be one.
    Any(Arc<SelectorList>),
    /// `:not()`
    Not(Arc<SelectorList>),
    /// `:has()`
    Has(Arc<SelectorList>),
    /// `:nth-child()` and `:nth-last-child()`: the step, from the end or not, and `of S`.
    NthChild(Nth, bool, Option<Arc<SelectorList>>),
    /// `:nth-of-type()` and `:nth-last-of-type()`.
    NthOfType(Nth, bool),
    /// `:only-child`
    OnlyChild,
    /// `:only-of-type`
    OnlyOfType,
    /// `:root`
    Root,
    /// `:empty`
    Empty,
    /// `:scope`
    Scope,
    /// `:lang()`
    Lang(Vec<Box<str>>),
    /// `:dir()`; true for `rtl`, nothing for a value that never fits.
    Dir(Option<bool>),
    /// `:host`, `:host()`
    Host(Option<Arc<SelectorList>>),
    /// `:host-context()`
    HostContext(Arc<SelectorList>),
    /// A state without arguments: from the markup, or asked for.
    State(state::State),
    /// `:heading` with its levels; all levels where there are none.
    Heading(Vec<i32>),
    /// A standard pseudo-class that nothing on an unscripted page fits: `:fullscreen`, `:state()` and so on.
    Never(Box<str>),
}

impl PseudoClass {
    /// One without arguments that follows from where an element stands.
    fn structural(name: &str) -> Option<Self> {
        let first = Nth { a: 0, b: 1 };
        Some(match name {
            "root" => Self::Root,
            "empty" => Self::Empty,
            "first-child" => Self::NthChild(first, false, None),
            "last-child" => Self::NthChild(first, true, None),
            "only-child" => Self::OnlyChild,
            "first-of-type" => Self::NthOfType(first, false),
            "last-of-type" => Self::NthOfType(first, true),
            "only-of-type" => Self::OnlyOfType,
            _ => return None,
        })
    }

    /// The selectors in its parentheses, where it takes some.
    pub(crate) fn list(&self) -> Option<&Arc<SelectorList>> {
        match self {
            Self::Is(list, _) | Self::Any(list) | Self::Not(list) | Self::Has(list) | Self::HostContext(list) => {
                Some(list)
            }
            Self::NthChild(_, _, list) | Self::Host(list) => list.as_ref(),
            _ => None,
        }
    }
}

/// A pseudo-element, as a text such as `::before` is read.
///
/// ```
/// use clear_cascade::selector::PseudoElement;
/// let before: PseudoElement = "::before".parse().unwrap();
/// assert_eq!((&*before.name, before.to_string().as_str()), ("before", "::before"));
/// assert!("::befor".parse::<PseudoElement>().unwrap_err().hint.unwrap().contains("::before"));
/// ```
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
#[non_exhaustive]
pub struct PseudoElement {
    /// Its name without colons, in lower case; `before` for `:before`.
    pub name: Name,
    /// Its argument, written anew, if it has one.
    pub argument: Option<Box<str>>,
    /// Pseudo-elements and states behind it, as in `::before::marker`; as written.
    pub then: Option<Box<str>>,
}

impl PseudoElement {
    /// A pseudo-element without an argument, whether there is one of that name or not.
    pub(crate) fn named(name: &str) -> Self {
        Self { name: Name::from(name), argument: None, then: None }
    }
}

impl std::str::FromStr for PseudoElement {
    type Err = SelectorError;

    /// Reads `::before`; one that does not exist is an error.
    fn from_str(text: &str) -> Result<Self, SelectorError> {
        let list: SelectorList = text.parse()?;
        let elements = list.selectors.iter().any(|s| s.slotted.is_some() || !s.parts.is_empty());
        let message = if elements {
            format!("`{text}` names elements, and no pseudo-element of one")
        } else {
            format!("`{text}` is no pseudo-element: write it alone and with two colons, as `::before`")
        };
        let span = Span { source: crate::source::SourceId::QUESTION, start: 0, end: crate::source::offset(text.len()) };
        let none = || SelectorError { message: message.clone(), hint: None, span };
        let alone = |s: &Selector| {
            s.compounds.len() == 1 && s.subject().parts.iter().all(|p| matches!(p.simple, Simple::PseudoElement(_)))
        };
        match list.selectors.as_slice() {
            [one] if alone(one) => one.pseudo.clone().ok_or_else(none),
            _ => Err(none()),
        }
    }
}

impl std::str::FromStr for SelectorList {
    type Err = SelectorError;

    /// Reads selectors with commas between them; their spans are offsets in the text.
    fn from_str(text: &str) -> Result<Self, SelectorError> {
        let tokens = crate::syntax::Tokens::read(text);
        let map = crate::source::OffsetMap::slice(crate::source::SourceId::QUESTION, 0);
        parse_list(tokens.all(), &Context::plain(&map))
    }
}

impl std::fmt::Display for PseudoElement {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        write!(f, "::{}", crate::syntax::serialize_identifier(&self.name))?;
        if let Some(argument) = &self.argument {
            write!(f, "({argument})")?;
        }
        write!(f, "{}", self.then.as_deref().unwrap_or_default())
    }
}

impl Selector {
    /// The compound whose element is taken.
    #[must_use]
    pub fn subject(&self) -> &Compound {
        &self.compounds[self.compounds.len() - 1]
    }

    /// Whether it aims at elements of its own tree and at no pseudo-element of theirs: what `&` can stand for, and what
    /// is looked for by `:is()` and the like (CSS Nesting 1, §3.2; Selectors 4, §4.2).
    pub(crate) fn is_plain(&self) -> bool {
        self.pseudo.is_none() && self.slotted.is_none() && self.parts.is_empty()
    }

    /// What it says in plain words, as in "an `h1` anywhere inside an element with class `night`".
    #[must_use]
    pub fn read_aloud(&self) -> String {
        read_aloud::selector(self)
    }
}

impl SelectorList {
    /// Every simple selector in written order, those in `:is()`, `:not()`, `:has()` and the like right behind the pseudo-class that
    /// they are in. What `&` stands for is left out.
    ///
    /// ```
    /// use clear_cascade::selector::{SelectorList, Simple};
    /// let list: SelectorList = "nav > .menu:not(#top .far), a:is(.night)".parse()?;
    /// let classes: Vec<&str> = list
    ///     .parts()
    ///     .filter_map(|part| if let Simple::Class(name) = &part.simple { Some(name.as_str()) } else { None })
    ///     .collect();
    /// assert_eq!(classes, ["menu", "far", "night"]);
    /// # Ok::<(), clear_cascade::selector::SelectorError>(())
    /// ```
    pub fn parts(&self) -> impl Iterator<Item = &Part> {
        let mut found = Vec::new();
        self.collect_parts(&mut found);
        found.into_iter()
    }

    /// Adds every simple selector to a list. Lists nest a limited number of times.
    fn collect_parts<'l>(&'l self, found: &mut Vec<&'l Part>) {
        for selector in &self.selectors {
            for part in selector.compounds.iter().flat_map(|c| &c.parts) {
                found.push(part);
                if let Simple::PseudoClass(pseudo) = &part.simple
                    && let Some(inner) = pseudo.list()
                {
                    inner.collect_parts(found);
                }
            }
            if let Some(slotted) = &selector.slotted {
                found.extend(slotted.compounds.iter().flat_map(|c| &c.parts));
            }
        }
    }

    /// What was left out of the lists inside that forgive, as that of `:is()`.
    pub(crate) fn forgiven(&self) -> Vec<&SelectorError> {
        let parts = self.selectors.iter().flat_map(|s| &s.compounds).flat_map(|c| &c.parts);
        let lists =
            parts.filter_map(|p| if let Simple::PseudoClass(pseudo) = &p.simple { pseudo.list() } else { None });
        self.dropped.iter().chain(lists.flat_map(|l| l.forgiven())).collect()
    }

    /// Gives all parts one place: that of the rule that they stand for where they are not written.
    pub(crate) fn placed(&mut self, span: Span) {
        for selector in &mut self.selectors {
            selector.span = span;
            for compound in &mut selector.compounds {
                compound.span = span;
                compound.parts.iter_mut().for_each(|p| p.span = span);
            }
        }
    }

    /// States in the selectors that no markup decides, with why each is off unless a question asks for it.
    ///
    /// ```
    /// use clear_cascade::selector::SelectorList;
    /// let list: SelectorList = "a:hover, b".parse()?;
    /// assert!(list.undecided()[0].starts_with("`:hover` is off: "));
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    #[must_use]
    pub fn undecided(&self) -> Vec<String> {
        let mut found = Vec::new();
        let parts = self.selectors.iter().flat_map(|s| &s.compounds).flat_map(|c| &c.parts);
        for part in parts {
            let Simple::PseudoClass(pseudo) = &part.simple else { continue };
            match pseudo {
                PseudoClass::State(state) => {
                    found.extend(state.off_reason().map(|why| format!("`:{}` is off: {why}", state.name())));
                }
                PseudoClass::Never(name) => {
                    let name = name.trim_start_matches(':');
                    found.push(format!("`:{name}` is off: only a script, a user or the browser can bring it about"));
                }
                other => found.extend(other.list().into_iter().flat_map(|l| l.undecided())),
            }
        }
        found.dedup();
        found
    }
}

/// The heaviest of some selectors.
fn heaviest(list: &SelectorList) -> Specificity {
    list.selectors.iter().map(|s| s.specificity).max().unwrap_or_default()
}

impl Simple {
    /// What the condition adds to the weight of its selector.
    ///
    /// ```
    /// use clear_cascade::selector::SelectorList;
    /// let list: SelectorList = "#top".parse()?;
    /// let part = &list.selectors[0].subject().parts[0];
    /// assert_eq!(part.simple.specificity().to_string(), "1, 0, 0");
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    #[must_use]
    pub fn specificity(&self) -> Specificity {
        let class = Specificity::new(0, 1, 0);
        match self {
            Self::Universal(_) => Specificity::default(),
            Self::Type(..) | Self::PseudoElement(_) => Specificity::new(0, 0, 1),
            Self::Id(_) => Specificity::new(1, 0, 0),
            Self::Class(_) | Self::Attribute(_) => class,
            Self::Nesting(parent) => parent.as_deref().map_or(Specificity::default(), heaviest),
            Self::PseudoClass(pseudo) => match pseudo {
                PseudoClass::Is(_, true) => Specificity::default(),
                PseudoClass::Is(list, false) | PseudoClass::Not(list) | PseudoClass::Has(list) => heaviest(list),
                PseudoClass::Any(_) => class,
                other => other.list().map_or(class, |list| class + heaviest(list)),
            },
        }
    }
}
