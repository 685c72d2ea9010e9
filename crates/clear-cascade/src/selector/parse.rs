//! Selectors from tokens (Selectors 4, §17 "Grammar"; CSS Nesting 1).

use std::cell::RefCell;
use std::collections::HashMap;
use std::sync::Arc;

use super::matching::is_caseless;
use super::nth;
use super::state::{self, State};
use super::{
    AttributeOperator, AttributeTest, Combinator, Compound, NamespaceTest, Nth, Part, PseudoClass, PseudoElement,
    Selector, SelectorList, Simple, Specificity,
};
use crate::document::{Name, sketch};
use crate::limits::DEEPEST_SELECTOR;
use crate::source::{OffsetMap, Span};
use crate::syntax::{Kind, Slice, Token, Tokens};
use crate::value::Wide;

/// Why something is no selector.
///
/// ```
/// use clear_cascade::selector::SelectorList;
/// let error = "p:hoverr".parse::<SelectorList>().unwrap_err();
/// assert!(error.hint.unwrap().contains("hover"));
/// assert_eq!((error.span.start, error.span.end), (1, 8)); // Bytes of the selector.
/// ```
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
#[error("{message}")]
pub struct SelectorError {
    /// What was met and what would do, as one clause.
    pub message: String,
    /// What was probably meant.
    pub hint: Option<String>,
    /// The place.
    pub span: Span,
}

/// What a selector is parsed with.
#[derive(Clone)]
pub(crate) struct Context<'c> {
    /// How offsets of the tokens lead into the file.
    pub(crate) map: &'c OffsetMap,
    /// Namespace prefixes and the default namespace, under the empty prefix.
    pub(crate) namespaces: Option<&'c HashMap<String, Arc<str>>>,
    /// The selectors that `&` stands for.
    pub(crate) parent: Option<Arc<SelectorList>>,
    /// Whether the selector is relative: it may start with a combinator, and without `&` it is inside the parent.
    pub(crate) nested: bool,
    /// Whether the list is in `@scope`, where `&` weighs nothing and stands for the scoping root.
    pub(crate) scoped: bool,
}

impl<'c> Context<'c> {
    /// A context without namespaces, nesting or scope.
    pub(crate) fn plain(map: &'c OffsetMap) -> Self {
        Self { map, namespaces: None, parent: None, nested: false, scoped: false }
    }
}

/// The parser and where it is in the recursion.
struct Parser<'c> {
    /// What the selector is parsed with.
    context: &'c Context<'c>,
    /// How many lists it is inside of.
    depth: u32,
    /// Whether it is inside `:has()`, which does not nest.
    in_has: bool,
    /// Whether it is inside a pseudo-class, where no pseudo-element may stand.
    inside: bool,
    /// The pseudo-element that the list around is about, where it is in a pseudo-class that follows one.
    behind: Option<Followers>,
    /// What the last `::slotted()` asks for, until its selector is done.
    slotted: RefCell<Option<Arc<Selector>>>,
}

/// Parses a selector list; one bad selector makes the whole list bad.
///
/// # Errors
/// The first thing that is no selector, with its place.
pub(crate) fn parse_list(tokens: Slice<'_>, context: &Context<'_>) -> Result<SelectorList, SelectorError> {
    let parser = Parser { context, depth: 0, in_has: false, inside: false, behind: None, slotted: RefCell::default() };
    parser.list(tokens, if context.nested { Relative::Nested } else { Relative::No })
}

/// How a value is compared by the token between an attribute's name and it.
fn operator(kind: Kind) -> Option<AttributeOperator> {
    Some(match kind {
        Kind::Delim('=') => AttributeOperator::Equals,
        Kind::Match('~') => AttributeOperator::Word,
        Kind::Match('|') => AttributeOperator::Dash,
        Kind::Match('^') => AttributeOperator::Starts,
        Kind::Match('$') => AttributeOperator::Ends,
        Kind::Match('*') => AttributeOperator::Contains,
        _ => return None,
    })
}

/// Whether a selector may start with a combinator.
#[derive(Clone, Copy, PartialEq)]
enum Relative {
    /// It may not.
    No,
    /// As in `:has()`: the anchor is no part of the selector.
    Has,
    /// As in a nested rule: `&` goes before where it is not written.
    Nested,
}

impl<'c> Parser<'c> {
    /// An error at a run of tokens.
    fn error<T>(&self, at: Slice<'_>, message: impl Into<String>, hint: Option<String>) -> Result<T, SelectorError> {
        let (start, end) = at.range();
        Err(SelectorError { message: message.into(), hint, span: self.context.map.span(start, end) })
    }

    /// The span of a run of tokens.
    fn span(&self, tokens: Slice<'_>) -> Span {
        let (start, end) = tokens.range();
        self.context.map.span(start, end)
    }

    /// The same parser one list deeper.
    fn deeper(&self) -> Self {
        Parser {
            context: self.context,
            depth: self.depth + 1,
            in_has: self.in_has,
            inside: true,
            behind: self.behind,
            slotted: RefCell::default(),
        }
    }

    /// A list in which every selector must be good.
    fn list(&self, tokens: Slice<'_>, relative: Relative) -> Result<SelectorList, SelectorError> {
        let parts = tokens.commas();
        // Collecting results would start with room for four; most lists have one.
        let mut selectors = Vec::with_capacity(parts.len());
        for part in parts {
            selectors.push(self.selector(part, relative)?);
        }
        Ok(SelectorList { selectors, dropped: Vec::new() })
    }

    /// A list from which bad selectors are left out (Selectors 4, §18.1 "forgiving selector parsing").
    fn forgiving(&self, tokens: Slice<'_>) -> SelectorList {
        let mut list = SelectorList { selectors: Vec::new(), dropped: Vec::new() };
        for part in tokens.commas() {
            match self.selector(part, Relative::No) {
                Ok(selector) => list.selectors.push(selector),
                // `:is()` with nothing in it takes nothing, and nobody meant anything else.
                Err(_) if tokens.trim().is_empty() => {}
                Err(error) => list.dropped.push(error),
            }
        }
        list
    }

    /// One compound and nothing else, as `:host()` and `::slotted()` take it.
    fn only_compound(&self, tokens: Slice<'_>) -> Result<Selector, SelectorError> {
        let selector = self.selector(tokens, Relative::No)?;
        if selector.compounds.len() > 1 {
            return self.error(
                tokens.trim(),
                "conditions on one element only can stand here, without spaces or combinators",
                None,
            );
        }
        Ok(selector)
    }

    /// The same as a list of one.
    fn one_compound(&self, tokens: Slice<'_>) -> Result<Arc<SelectorList>, SelectorError> {
        Ok(Arc::new(SelectorList { selectors: vec![self.only_compound(tokens)?], dropped: Vec::new() }))
    }

    /// One complex selector.
    fn selector(&self, tokens: Slice<'_>, relative: Relative) -> Result<Selector, SelectorError> {
        let tokens = tokens.trim();
        self.slotted.take();
        if tokens.is_empty() {
            return self.error(tokens, "a selector is missing here", None);
        }
        if self.depth > DEEPEST_SELECTOR {
            return self.error(tokens, format!("selectors nest more than {DEEPEST_SELECTOR} deep here"), None);
        }
        let mut rest = tokens;
        // Most have one or two; a list that grows by itself starts with four.
        let mut compounds: Vec<Compound> = Vec::with_capacity(2);
        let mut combinator = Combinator::Descendant;
        let leading = self.combinator(&mut rest)?;
        if let Some(leading) = leading {
            if relative == Relative::No {
                return self.error(
                    Slice { to: tokens.from + 1, ..tokens },
                    "a selector cannot start with a combinator here",
                    None,
                );
            }
            combinator = leading;
        }
        loop {
            let compound = self.compound(&mut rest, combinator)?;
            if compound.parts.is_empty() {
                return self.nothing_there(rest);
            }
            if compounds.last().is_some_and(|c| c.parts.iter().any(|p| matches!(p.simple, Simple::PseudoElement(_)))) {
                return self.error(tokens, "nothing can follow a pseudo-element but states", None);
            }
            compounds.push(compound);
            let spaced = rest.skip_space();
            if rest.is_empty() {
                break;
            }
            combinator = match self.combinator(&mut rest)? {
                Some(c) => c,
                None if spaced => Combinator::Descendant,
                None => return self.nothing_there(rest),
            };
            if rest.is_empty() {
                return self.error(
                    tokens,
                    "the selector ends with a combinator: an element is missing behind it",
                    None,
                );
            }
        }
        let pseudo = compounds.last().and_then(pseudo_of);
        let aims = |c: &Compound| c.parts.iter().any(|p| matches!(p.simple, Simple::PseudoElement(_)));
        if self.inside && compounds.iter().any(aims) {
            return self.error(tokens, "a pseudo-element cannot stand inside a pseudo-class", None);
        }
        if relative == Relative::Nested {
            self.prepend_nesting(&mut compounds, leading.is_some(), tokens);
        }
        let mut specificity =
            compounds.iter().flat_map(|c| &c.parts).fold(Specificity::default(), |sum, p| sum + p.simple.specificity());
        let slotted = self.slotted.borrow_mut().take();
        if let Some(slotted) = &slotted {
            specificity = specificity + slotted.specificity;
        }
        let parts = compounds.last().map(part_names).unwrap_or_default();
        Ok(Selector { compounds, specificity, pseudo, slotted, parts, span: self.span(tokens) })
    }

    /// Puts the parent's selectors before a nested selector that does not name them (CSS Nesting 1, §2.1).
    fn prepend_nesting(&self, compounds: &mut Vec<Compound>, led: bool, tokens: Slice<'_>) {
        let scoped = self.context.scoped;
        let names_it = |c: &Compound| c.parts.iter().any(|p| mentions_nesting(&p.simple, scoped));
        if led || !compounds.iter().any(names_it) {
            let span = Span { end: self.span(tokens).start, ..self.span(tokens) };
            let simple = if self.context.scoped {
                Simple::PseudoClass(PseudoClass::Is(Arc::new(scope_list(span)), true))
            } else {
                Simple::Nesting(self.context.parent.clone())
            };
            compounds.insert(
                0,
                Compound {
                    combinator: Combinator::Descendant,
                    parts: vec![Part { simple, span }],
                    namespace: None,
                    span,
                },
            );
        }
    }

    /// The error for a token that no selector goes on with.
    fn nothing_there<T>(&self, rest: Slice<'_>) -> Result<T, SelectorError> {
        let Some(token) = rest.peek() else {
            return self.error(rest, "a selector is missing here", None);
        };
        let one = Slice { to: rest.from + 1, ..rest };
        let text = one.text();
        match token.kind {
            Kind::Number(..) | Kind::Dimension(..) | Kind::Percentage(_) => {
                self.error(one, format!("`{text}` is no selector: a name cannot start with a digit"), None)
            }
            Kind::Hash(false) => {
                let hint = format!("write the first digit as an escape: `#\\{:x} {}`", text.as_bytes()[1], &text[2..]);
                self.error(
                    one,
                    format!("`{text}` is no id selector: an id in a selector cannot start with a digit"),
                    Some(hint),
                )
            }
            Kind::Curly(_) => {
                self.error(Slice { to: rest.from + 1, ..rest }, "a block `{…}` cannot stand inside a selector", None)
            }
            Kind::Semicolon => self.error(one, "`;` cannot stand inside a selector", None),
            _ => self.error(one, format!("`{text}` cannot stand here in a selector"), None),
        }
    }

    /// A combinator, if one is written; white space around it is taken.
    fn combinator(&self, rest: &mut Slice<'_>) -> Result<Option<Combinator>, SelectorError> {
        let mut look = *rest;
        look.skip_space();
        let combinator = match look.kind() {
            Some(Kind::Delim('>')) => Combinator::Child,
            Some(Kind::Delim('+')) => Combinator::NextSibling,
            Some(Kind::Delim('~')) => Combinator::SubsequentSibling,
            _ => return Ok(None),
        };
        look.next();
        look.skip_space();
        *rest = look;
        Ok(Some(combinator))
    }

    /// One compound: an optional type, then conditions without white space between them.
    fn compound(&self, rest: &mut Slice<'_>, combinator: Combinator) -> Result<Compound, SelectorError> {
        let begin = *rest;
        let mut parts: Vec<Part> = Vec::with_capacity(2);
        loop {
            let from = *rest;
            let Some(simple) = self.simple(rest, &parts)? else {
                break;
            };
            parts.push(Part { simple, span: self.span(Slice { to: rest.from, ..from }) });
        }
        let other = |p: &Part| match &p.simple {
            Simple::Type(..) | Simple::Universal(_) | Simple::Nesting(_) => true,
            Simple::PseudoClass(class) => matches!(class, PseudoClass::Host(_) | PseudoClass::HostContext(_)),
            _ => false,
        };
        let implied = !self.inside && !parts.iter().any(other);
        let namespace = self.context.namespaces.filter(|_| implied).and_then(|n| n.get("")).cloned();
        Ok(Compound { combinator, parts, namespace, span: self.span(Slice { to: rest.from, ..begin }) })
    }

    /// One condition, or nothing where none is written.
    fn simple(&self, rest: &mut Slice<'_>, before: &[Part]) -> Result<Option<Simple>, SelectorError> {
        let Some(token) = rest.peek() else {
            return Ok(None);
        };
        let here = Slice { to: rest.from + 1, ..*rest };
        let behind = self.behind.is_some() || before.iter().any(|p| matches!(p.simple, Simple::PseudoElement(_)));
        if behind && !matches!(token.kind, Kind::Colon | Kind::Space | Kind::Delim('>' | '+' | '~')) {
            return self.error(here, "a pseudo-element has states and nothing else", None);
        }
        match token.kind {
            Kind::Ident | Kind::Delim('*' | '|') => self.type_selector(rest, before),
            Kind::Hash(true) => {
                rest.next();
                Ok(Some(Simple::Id(Name::from(&*here.name(token)))))
            }
            Kind::Delim('.') => {
                let mut look = *rest;
                look.next();
                match look.peek() {
                    Some(t) if t.kind == Kind::Ident => {
                        look.next();
                        *rest = look;
                        Ok(Some(Simple::Class(Name::from(&*here.name(t)))))
                    }
                    _ => self.error(here, "a class name must follow the `.`", None),
                }
            }
            Kind::Number(..) | Kind::Dimension(..) if here.text().starts_with('.') => {
                let digit = here.text().as_bytes().get(1).copied().unwrap_or_default();
                let hint = format!(
                    "write the first digit as an escape: `.\\{digit:x} {}`",
                    here.text().get(2..).unwrap_or_default()
                );
                let message =
                    format!("`{}` is no class selector: a class in a selector cannot start with a digit", here.text());
                self.error(here, message, Some(hint))
            }
            Kind::Square(_) => {
                let block = *rest;
                rest.next();
                self.attribute(block).map(Some)
            }
            Kind::Delim('&') => {
                rest.next();
                let span = self.span(here);
                if self.context.scoped {
                    return Ok(Some(Simple::PseudoClass(PseudoClass::Is(Arc::new(scope_list(span)), true))));
                }
                Ok(Some(Simple::Nesting(self.context.parent.clone())))
            }
            Kind::Colon => self.pseudo(rest, before).map(Some),
            _ => Ok(None),
        }
    }

    /// The namespace of a prefix.
    fn namespace(&self, prefix: Option<&str>, at: Slice<'_>) -> Result<NamespaceTest, SelectorError> {
        let Some(prefix) = prefix else {
            let default = self.context.namespaces.and_then(|n| n.get(""));
            return Ok(default.map_or(NamespaceTest::Any, |url| NamespaceTest::Is(url.clone())));
        };
        match prefix {
            "*" => Ok(NamespaceTest::Any),
            "" => Ok(NamespaceTest::Is(Arc::from(""))),
            _ => match self.context.namespaces.and_then(|n| n.get(prefix)) {
                Some(url) => Ok(NamespaceTest::Is(url.clone())),
                None => self.error(
                    at,
                    format!("the namespace prefix `{prefix}` is not declared by an `@namespace` rule"),
                    None,
                ),
            },
        }
    }

    /// A type selector with its namespace, if any.
    fn type_selector(&self, rest: &mut Slice<'_>, before: &[Part]) -> Result<Option<Simple>, SelectorError> {
        let begin = *rest;
        let mut look = *rest;
        let named = |s: Slice<'_>| -> Option<String> {
            match s.peek()? {
                Token { kind: Kind::Ident, .. } => s.peek().map(|t| s.name(t).into_owned()),
                Token { kind: Kind::Delim('*'), .. } => Some("*".to_owned()),
                _ => None,
            }
        };
        let mut first = named(look);
        let mut prefix = None;
        if first.is_some() {
            look.next();
        }
        if look.kind() == Some(Kind::Delim('|')) {
            let mut after = look;
            after.next();
            if let Some(second) = named(after) {
                after.next();
                prefix = Some(first.unwrap_or_default());
                first = Some(second);
                look = after;
            } else if first.is_none() {
                return self.nothing_there(begin);
            }
        }
        let Some(name) = first else { return Ok(None) };
        if !before.is_empty() {
            let whole = Slice { to: look.from, ..begin };
            let hint = (name != "*").then(|| format!("put the type first, or a space before `{name}` if it is inside"));
            return self.error(
                whole,
                format!("a type selector such as `{name}` must come first among the conditions on one element"),
                hint,
            );
        }
        let namespace = self.namespace(prefix.as_deref(), begin)?;
        *rest = look;
        Ok(Some(if name == "*" {
            Simple::Universal(namespace)
        } else {
            let lower = Name::from(name.to_ascii_lowercase());
            Simple::Type(namespace, Name::from(name), lower)
        }))
    }

    /// `[…]`
    fn attribute(&self, block: Slice<'_>) -> Result<Simple, SelectorError> {
        let whole = Slice { to: block.after_component(), ..block };
        let mut rest = block.inside().trim();
        let mut name = None;
        let mut prefix = None;
        loop {
            match rest.peek() {
                Some(t) if t.kind == Kind::Ident && name.is_none() => name = Some(rest.name(t).into_owned()),
                Some(t) if t.kind == Kind::Delim('*') && name.is_none() && prefix.is_none() => {
                    name = Some("*".to_owned())
                }
                Some(t) if t.kind == Kind::Delim('|') && prefix.is_none() => {
                    prefix = Some(name.take().unwrap_or_default())
                }
                _ => break,
            }
            rest.next();
        }
        let Some(name) = name.filter(|n| n != "*") else {
            return self.error(whole, "an attribute name is missing between `[` and `]`", None);
        };
        let namespace = match prefix.as_deref() {
            None | Some("") => NamespaceTest::Is(Arc::from("")),
            Some(prefix) => self.namespace(Some(prefix), block)?,
        };
        rest.skip_space();
        let lower = Name::from(name.to_ascii_lowercase());
        let name = Name::from(name);
        let caseless = is_caseless(&lower);
        let mut test = AttributeTest { namespace, name, lower, test: None, case: None, caseless, sketch: 0 };
        if rest.is_empty() {
            return Ok(Simple::Attribute(Box::new(test)));
        }
        let Some(operator) = rest.kind().and_then(operator) else {
            return self.error(
                whole,
                "one of `=`, `~=`, `|=`, `^=`, `$=`, `*=` or `]` must follow the attribute name",
                None,
            );
        };
        rest.next();
        rest.skip_space();
        let value = match rest.peek() {
            Some(t) if matches!(t.kind, Kind::Ident | Kind::Str) => rest.name(t).into_owned(),
            _ => {
                let written = rest.text().trim();
                let hint = (!written.is_empty()).then(|| format!("put it in quotes: `\"{written}\"`"));
                return self.error(whole, "the value to compare with must be a name or a string in quotes", hint);
            }
        };
        rest.next();
        rest.skip_space();
        test.sketch = sketch(&value);
        test.test = Some((operator, value.into_boxed_str()));
        if let Some(flag) = rest.ident() {
            test.case = match &*flag {
                "i" => Some(true),
                "s" => Some(false),
                _ => {
                    return self.error(
                        whole,
                        format!("`{flag}` is no case flag: `i` ignores case, `s` does not"),
                        None,
                    );
                }
            };
            rest.next();
            rest.skip_space();
        }
        if !rest.is_empty() {
            return self.error(
                whole,
                format!("`{}` cannot stand here: the `]` is missing before it", rest.text()),
                None,
            );
        }
        Ok(Simple::Attribute(Box::new(test)))
    }

    /// A pseudo-class or pseudo-element, from its first colon on.
    fn pseudo(&self, rest: &mut Slice<'_>, before: &[Part]) -> Result<Simple, SelectorError> {
        let begin = *rest;
        rest.next();
        let double = rest.kind() == Some(Kind::Colon);
        if double {
            rest.next();
        }
        let unnamed = if double {
            "the name of a pseudo-element must follow the `::`"
        } else {
            "the name of a pseudo-class must follow the `:`"
        };
        let Some(token) = rest.peek() else {
            return self.error(begin, unnamed, None);
        };
        let name = rest.name(token).to_ascii_lowercase();
        let arguments = matches!(token.kind, Kind::Function(_)).then(|| rest.inside());
        if !matches!(token.kind, Kind::Ident | Kind::Function(_)) {
            return self.error(Slice { to: rest.from, ..begin }, unnamed, None);
        }
        rest.next();
        let whole = Slice { to: rest.from, ..begin };
        let element = before.iter().rev().find_map(|p| match &p.simple {
            Simple::PseudoElement(e) => Some(&*e.name),
            _ => None,
        });
        let legacy = matches!(&*name, "before" | "after" | "first-line" | "first-letter") && arguments.is_none();
        if double || legacy {
            return self.pseudo_element(&name, arguments, whole, element);
        }
        let Some(followers) = element.map(Followers::of).or(self.behind) else {
            return Ok(Simple::PseudoClass(self.pseudo_class(&name, arguments, whole)?));
        };
        if followers == Followers::Scrollbar && arguments.is_none() && SCROLLBAR_CLASSES.contains(&&*name) {
            return Ok(Simple::PseudoClass(PseudoClass::Never(Box::from(&*name))));
        }
        let parser = Parser { behind: Some(followers), slotted: RefCell::default(), ..*self };
        let pseudo = parser.pseudo_class(&name, arguments, whole)?;
        if !followers.take(&pseudo) {
            return self.error(whole, format!("`{}` cannot follow a pseudo-element", whole.text()), None);
        }
        Ok(Simple::PseudoClass(pseudo))
    }

    /// A pseudo-element by name.
    fn pseudo_element(
        &self,
        name: &str,
        arguments: Option<Slice<'_>>,
        whole: Slice<'_>,
        after: Option<&str>,
    ) -> Result<Simple, SelectorError> {
        let name = match name {
            "-webkit-input-placeholder" => "placeholder",
            "-webkit-file-upload-button" => "file-selector-button",
            "-webkit-details-marker" => "-webkit-details-marker",
            other => other,
        };
        let functional = FUNCTIONAL_ELEMENTS.contains(&name) && arguments.is_some();
        let plain = PLAIN_ELEMENTS.contains(&name) && arguments.is_none();
        // All `::-webkit-` pseudo-elements are taken as valid (Selectors 4, §3.7 "Legacy pseudo-elements").
        let prefixed = name.starts_with("-webkit-") && arguments.is_none();
        if after.is_some_and(|outer| !has_element(outer, name)) {
            return self.error(whole, format!("`{}` cannot follow another pseudo-element", whole.text()), None);
        }
        if functional || plain || prefixed {
            if let Some(inner) = arguments.map(Slice::trim)
                && !takes_argument(name, inner)
            {
                let text = if inner.is_empty() { whole.text() } else { inner.text() };
                return self.error(inner, format!("`{text}` is nothing that `::{name}()` can be given"), None);
            }
            let argument = match (name, arguments) {
                (_, None) => None,
                ("slotted", Some(inner)) => {
                    let slotted = self.deeper().only_compound(inner)?;
                    let text = slotted.to_string();
                    *self.slotted.borrow_mut() = Some(Arc::new(slotted));
                    Some(text)
                }
                ("cue", Some(inner)) => {
                    let each = inner.commas().into_iter().map(|one| Ok(self.deeper().only_compound(one)?.to_string()));
                    Some(each.collect::<Result<Vec<_>, _>>()?.join(", "))
                }
                (_, Some(inner)) => Some(inner.trim().serialized()),
            };
            let argument = argument.map(String::into_boxed_str);
            return Ok(Simple::PseudoElement(PseudoElement { name: Name::from(name), argument, then: None }));
        }
        let all = PLAIN_ELEMENTS.iter().chain(FUNCTIONAL_ELEMENTS).copied();
        let hint = crate::near::nearest(name, all).map(|n| format!("did you mean `::{n}`?"));
        let hint = hint.or_else(|| State::named(name).map(|_| format!("`:{name}` with one colon is a pseudo-class")));
        self.error(whole, format!("there is no pseudo-element `{}`", whole.text()), hint)
    }

    /// A pseudo-class by name.
    fn pseudo_class(
        &self,
        name: &str,
        arguments: Option<Slice<'_>>,
        whole: Slice<'_>,
    ) -> Result<PseudoClass, SelectorError> {
        let Some(inner) = arguments else {
            if let Some(structural) = PseudoClass::structural(name) {
                return Ok(structural);
            }
            return Ok(match name {
                "scope" => PseudoClass::Scope,
                "host" => PseudoClass::Host(None),
                "heading" => PseudoClass::Heading(Vec::new()),
                _ if state::NEVER.contains(&name) => PseudoClass::Never(Box::from(name)),
                _ => match State::named(name) {
                    Some(state) => PseudoClass::State(state),
                    None => return self.unknown_class(name, whole),
                },
            });
        };
        Ok(match name {
            "is" | "where" => PseudoClass::Is(Arc::new(self.deeper().forgiving(inner)), name == "where"),
            "-webkit-any" => PseudoClass::Any(Arc::new(self.deeper().list(inner, Relative::No)?)),
            "not" => PseudoClass::Not(Arc::new(self.deeper().list(inner, Relative::No)?)),
            "has" if self.in_has => {
                return self.error(whole, "`:has()` cannot stand inside `:has()`", None);
            }
            "has" => {
                let mut parser = self.deeper();
                parser.in_has = true;
                PseudoClass::Has(Arc::new(parser.list(inner, Relative::Has)?))
            }
            "nth-child" | "nth-last-child" => {
                let (nth, of) = self.nth(inner, true, whole)?;
                PseudoClass::NthChild(nth, name == "nth-last-child", of)
            }
            "nth-of-type" | "nth-last-of-type" => {
                PseudoClass::NthOfType(self.nth(inner, false, whole)?.0, name == "nth-last-of-type")
            }
            "lang" => PseudoClass::Lang(self.languages(inner, whole)?),
            "dir" => {
                let inner = inner.trim();
                let Some(way) = inner.ident().filter(|_| inner.from + 1 == inner.to) else {
                    return self.error(whole, "`:dir()` takes `ltr` or `rtl`", None);
                };
                PseudoClass::Dir(match &*way {
                    "rtl" => Some(true),
                    "ltr" => Some(false),
                    _ => None,
                })
            }
            "host" => PseudoClass::Host(Some(self.deeper().one_compound(inner)?)),
            "host-context" => PseudoClass::HostContext(self.deeper().one_compound(inner)?),
            "heading" => PseudoClass::Heading(self.levels(inner, whole)?),
            "state" if !is_one(inner) => return self.error(whole, "`:state()` takes one name", None),
            "active-view-transition-type" if !inner.commas().into_iter().all(is_one) => {
                return self.error(
                    whole,
                    "`:active-view-transition-type()` takes names with commas between them",
                    None,
                );
            }
            "current" => {
                let list = self.deeper().list(inner, Relative::No)?;
                PseudoClass::Never(format!("current({list})").into_boxed_str())
            }
            "state" | "active-view-transition-type" => PseudoClass::Never(whole.serialized().into_boxed_str()),
            _ => return self.unknown_class(name, whole),
        })
    }

    /// The error for a pseudo-class that the standard does not have.
    fn unknown_class<T>(&self, name: &str, whole: Slice<'_>) -> Result<T, SelectorError> {
        let functional = whole.text().ends_with(')');
        let known = PLAIN_CLASSES.iter().copied().chain(state::names());
        let hint = if functional {
            crate::near::nearest(name, FUNCTIONAL_CLASSES.iter().copied()).map(|n| format!("did you mean `:{n}()`?"))
        } else if FUNCTIONAL_CLASSES.contains(&name) {
            Some(format!("it takes an argument: `:{name}(…)`"))
        } else if PLAIN_ELEMENTS.contains(&name) {
            Some(format!("`::{name}` is a pseudo-element and has two colons"))
        } else {
            crate::near::nearest(name, known).map(|n| format!("did you mean `:{n}`?"))
        };
        self.error(whole, format!("there is no pseudo-class `{}`", whole.text()), hint)
    }

    /// `An+B`, and `of S` where it may stand.
    fn nth(
        &self,
        inner: Slice<'_>,
        may_of: bool,
        whole: Slice<'_>,
    ) -> Result<(Nth, Option<Arc<SelectorList>>), SelectorError> {
        let inner = inner.trim();
        let (formula, rest) = inner.split_at(|t| t.kind == Kind::Ident && inner.name(t).eq_ignore_ascii_case("of"));
        let Some(nth) = nth::parse(formula.trim()) else {
            let message = format!(
                "`{}` is no position: write `odd`, `even`, a number or a formula such as `2n+1`",
                formula.trim().text()
            );
            return self.error(whole, message, None);
        };
        if rest.is_empty() {
            return Ok((nth, None));
        }
        if !may_of {
            return self.error(whole, "`of` can stand in `:nth-child()` and `:nth-last-child()` only", None);
        }
        let list = self.deeper().list(Slice { from: rest.from + 1, ..rest }, Relative::No)?;
        Ok((nth, Some(Arc::new(list))))
    }

    /// The ranges of `:lang()`.
    fn languages(&self, inner: Slice<'_>, whole: Slice<'_>) -> Result<Vec<Box<str>>, SelectorError> {
        inner
            .commas()
            .into_iter()
            .map(|part| {
                let part = part.trim();
                match part.peek() {
                    Some(t) if matches!(t.kind, Kind::Ident | Kind::Str) && part.from + 1 == part.to => {
                        Ok(Box::from(&*part.name(t)))
                    }
                    Some(_) if part.text().starts_with('*') && !part.text().contains(' ') => {
                        Ok(Box::from(part.text().replace('\\', "").as_str()))
                    }
                    _ => self.error(whole, "`:lang()` takes language tags such as `de` or `\"*-CH\"`", None),
                }
            })
            .collect()
    }

    /// The levels of `:heading()`.
    fn levels(&self, inner: Slice<'_>, whole: Slice<'_>) -> Result<Vec<i32>, SelectorError> {
        let levels =
            inner.commas().into_iter().map(|p| p.trim().text().parse::<i32>().ok()).collect::<Option<Vec<_>>>();
        levels.map_or_else(|| self.error(whole, "`:heading()` takes levels such as `1, 2`", None), Ok)
    }
}

/// The pseudo-element that a compound aims at, states and further pseudo-elements behind it included.
fn pseudo_of(compound: &Compound) -> Option<PseudoElement> {
    let aims_elsewhere =
        |p: &&Part| matches!(&p.simple, Simple::PseudoElement(e) if matches!(&*e.name, "part" | "slotted"));
    let mut parts = compound.parts.iter().filter(|p| !aims_elsewhere(p));
    let mut found =
        parts.find_map(|p| if let Simple::PseudoElement(e) = &p.simple { Some(e.clone()) } else { None })?;
    let then: String = parts
        .map(|p| match &p.simple {
            Simple::PseudoElement(e) => e.to_string(),
            Simple::PseudoClass(PseudoClass::State(s)) => format!(":{}", s.name()),
            _ => ":".to_owned(),
        })
        .collect();
    if !then.is_empty() {
        found.then = Some(then.into_boxed_str());
    }
    Some(found)
}

/// The names in the `::part()` of a compound.
fn part_names(compound: &Compound) -> Vec<Name> {
    let argument = compound.parts.iter().find_map(|p| match &p.simple {
        Simple::PseudoElement(e) if &*e.name == "part" => e.argument.as_deref(),
        _ => None,
    });
    let Some(argument) = argument else { return Vec::new() };
    let tokens = Tokens::read(argument);
    let idents = tokens.list.iter().filter(|token| token.kind == Kind::Ident);
    idents.map(|token| Name::from(&*tokens.all().name(*token))).collect()
}

/// `:scope` as a list.
fn scope_list(span: Span) -> SelectorList {
    let part = Part { simple: Simple::PseudoClass(PseudoClass::Scope), span };
    let compound = Compound { combinator: Combinator::Descendant, parts: vec![part], namespace: None, span };
    let specificity = Specificity::new(0, 1, 0);
    let selector =
        Selector { compounds: vec![compound], specificity, pseudo: None, slotted: None, parts: Vec::new(), span };
    SelectorList { selectors: vec![selector], dropped: Vec::new() }
}

/// Whether `&` is written anywhere in a condition; in `@scope`, `:scope` does as well.
fn mentions_nesting(simple: &Simple, scoped: bool) -> bool {
    let in_list = |list: &SelectorList| {
        let parts = list.selectors.iter().flat_map(|s| &s.compounds).flat_map(|c| &c.parts);
        parts.into_iter().any(|p| mentions_nesting(&p.simple, scoped))
    };
    match simple {
        Simple::Nesting(_) => true,
        Simple::PseudoClass(PseudoClass::Scope) => scoped,
        Simple::PseudoClass(pseudo) => pseudo.list().is_some_and(|list| in_list(list)),
        _ => false,
    }
}

/// What may follow a pseudo-element (Selectors 4, §3.6.4, as far as browsers have it; CSS Pseudo-Elements 4, §4.4
/// "Element-backed Pseudo-Elements"; CSS Shadow Parts 1, §4).
#[derive(Clone, Copy, PartialEq)]
enum Followers {
    /// No pseudo-class.
    Nothing,
    /// Pseudo-classes for what a user does.
    Actions,
    /// Those, and which marker is at its target (CSS Overflow 5, §4.3).
    ScrollMarker,
    /// Those of the parts of a scroll bar.
    Scrollbar,
    /// `:window-inactive`.
    Selection,
    /// Those of a button that scrolls.
    Button,
    /// `:hover` and `:focus-within`.
    Group,
    /// All states, but nothing about the place in the tree.
    States,
    /// `:only-child`.
    OnlyChild,
}

impl Followers {
    /// What may follow the pseudo-element with a name.
    fn of(element: &str) -> Self {
        match element {
            "details-content" | "part" | "picker" => Self::States,
            "scroll-marker" => Self::ScrollMarker,
            "selection" => Self::Selection,
            "scroll-button" => Self::Button,
            "scroll-marker-group" => Self::Group,
            "cue" | "file-selector-button" => Self::Actions,
            _ if element.starts_with("view-transition-") => Self::OnlyChild,
            _ if element.starts_with("-webkit-scrollbar") || element == "-webkit-resizer" => Self::Scrollbar,
            _ if element.starts_with("-webkit-") => Self::Actions,
            _ => Self::Nothing,
        }
    }

    /// Whether a pseudo-class may follow. What is in `:is()` is forgiven, and in `:not()` it was looked at before.
    fn take(self, pseudo: &PseudoClass) -> bool {
        use State::{Active, Disabled, Enabled, Focus, FocusVisible, FocusWithin, Hover};
        let inactive = |name: &str| name == "window-inactive";
        match pseudo {
            PseudoClass::Is(..) => true,
            PseudoClass::Not(_) => self != Self::Nothing,
            PseudoClass::State(state) => match self {
                Self::States => true,
                Self::Actions | Self::ScrollMarker => {
                    matches!(state, Hover | Active | Focus | FocusVisible | FocusWithin)
                }
                Self::Button => {
                    matches!(state, Hover | Active | Focus | FocusVisible | FocusWithin | Enabled | Disabled)
                }
                Self::Group => matches!(state, Hover | FocusWithin),
                Self::Scrollbar => matches!(state, Hover | Active | Enabled | Disabled),
                _ => false,
            },
            PseudoClass::Never(name) => match self {
                Self::States => true,
                Self::Selection | Self::Scrollbar => inactive(name),
                Self::ScrollMarker => name.starts_with("target-"),
                _ => false,
            },
            PseudoClass::OnlyChild => self == Self::OnlyChild,
            PseudoClass::Lang(_) | PseudoClass::Dir(_) => self == Self::States,
            _ => false,
        }
    }
}

/// Whether a run is one identifier.
fn is_one(inner: Slice<'_>) -> bool {
    let inner = inner.trim();
    inner.ident().is_some() && inner.from + 1 == inner.to
}

/// Whether a pseudo-element can have an argument: CSS Shadow Parts 1, §4 `<ident>+`; CSS Custom Highlight API 1, §3; CSS
/// View Transitions 2, §3.1; CSS Overflow 5, §4.2. What a cue or a slot takes is a selector, and read as one.
fn takes_argument(name: &str, inner: Slice<'_>) -> bool {
    let kinds = || (inner.from..inner.to).map(|i| inner.tokens.list[i as usize].kind);
    match name {
        "part" => !inner.is_empty() && kinds().all(|kind| matches!(kind, Kind::Ident | Kind::Space)),
        "highlight" => is_one(inner),
        "picker" => is_one(inner) && inner.is_ident("select"),
        "scroll-button" => match inner.ident() {
            Some(side) => is_one(inner) && SIDES.contains(&&*side.to_ascii_lowercase()),
            None => kinds().eq([Kind::Delim('*')]),
        },
        "cue" | "slotted" => !inner.is_empty(),
        // A name or any, and classes, with nothing between.
        _ => {
            let mut rest = kinds().peekable();
            let named = rest.next_if(|kind| matches!(kind, Kind::Ident | Kind::Delim('*'))).is_some();
            let reserved = inner.ident().is_some_and(|name| Wide::named(&name).is_some());
            let rest: Vec<Kind> = rest.collect();
            let classes = rest.chunks(2).all(|pair| matches!(pair, [Kind::Delim('.'), Kind::Ident]));
            classes && !reserved && (named || !rest.is_empty())
        }
    }
}

/// Where the buttons are that scroll (CSS Overflow 5, §4.2).
const SIDES: [&str; 8] = ["up", "down", "left", "right", "block-start", "block-end", "inline-start", "inline-end"];

/// Whether a pseudo-element may have another (CSS Pseudo-Elements 4, §4; CSS Scoping 1, §3.2.4; CSS Shadow Parts 1, §4).
fn has_element(outer: &str, inner: &str) -> bool {
    let own = ["before", "after", "marker"].contains(&inner);
    match outer {
        "before" | "after" => inner == "marker",
        // Those that are elements of their own kind (CSS Pseudo-Elements 4, §4.2 "Element-Backed Pseudo-Elements").
        "details-content" | "part" | "picker" => !matches!(inner, "part" | "slotted"),
        // Those that are in the tree (§4.1).
        "slotted" => own || IN_THE_TREE.contains(&inner) || inner.starts_with("view-transition"),
        "column" => inner == "scroll-marker",
        _ => false,
    }
}

/// Pseudo-elements in the tree besides those with content of their own (CSS Pseudo-Elements 4, §4.1; HTML, "The select element").
const IN_THE_TREE: [&str; 7] =
    ["placeholder", "file-selector-button", "details-content", "picker", "picker-icon", "checkmark", "backdrop"];

/// Pseudo-classes of the parts of a scroll bar.
const SCROLLBAR_CLASSES: &[&str] = &[
    "horizontal",
    "vertical",
    "decrement",
    "increment",
    "start",
    "end",
    "double-button",
    "single-button",
    "no-button",
    "corner-present",
    "window-inactive",
];

/// Pseudo-elements without an argument.
const PLAIN_ELEMENTS: &[&str] = &[
    "after",
    "backdrop",
    "before",
    "checkmark",
    "column",
    "cue",
    "details-content",
    "file-selector-button",
    "first-letter",
    "first-line",
    "grammar-error",
    "marker",
    "picker-icon",
    "placeholder",
    "scroll-marker",
    "scroll-marker-group",
    "search-text",
    "selection",
    "spelling-error",
    "target-text",
    "view-transition",
];
/// Pseudo-elements with an argument.
const FUNCTIONAL_ELEMENTS: &[&str] = &[
    "cue",
    "highlight",
    "part",
    "picker",
    "scroll-button",
    "slotted",
    "view-transition-group",
    "view-transition-image-pair",
    "view-transition-new",
    "view-transition-old",
];
/// Pseudo-classes without an argument that are no states.
const PLAIN_CLASSES: &[&str] = &[
    "empty",
    "first-child",
    "first-of-type",
    "heading",
    "host",
    "last-child",
    "last-of-type",
    "only-child",
    "only-of-type",
    "root",
    "scope",
];
/// Pseudo-classes with an argument.
const FUNCTIONAL_CLASSES: &[&str] = &[
    "active-view-transition-type",
    "dir",
    "has",
    "heading",
    "host",
    "host-context",
    "is",
    "lang",
    "not",
    "nth-child",
    "nth-last-child",
    "nth-last-of-type",
    "nth-of-type",
    "state",
    "where",
];
