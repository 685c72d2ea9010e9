//! What becomes of the declarations of a rule on an element: each wins, loses, is off, or was dropped.

use std::borrow::Cow;
use std::collections::HashSet;
use std::rc::Rc;

use rustc_hash::FxHashMap;
use serde::{Deserialize, Serialize};

use super::asked::{About, Asked};
use super::ground::Ground;
use super::why::{Contest, Standing};
use crate::cascade::Precedence;
use crate::document::{ElementId, Name};
use crate::page::FlatRule;
use crate::property::PropertyId;
use crate::selector::PseudoElement;
use crate::source::{Place, Span};
use crate::study::{Study, WrittenAt};
use crate::style::{Entry, Style, Target};
use crate::stylesheet::{Declaration, Property, Stylesheet};
use crate::syntax::{Kind, Tokens};

/// What became of a declaration on an element.
///
/// ```
/// # use clear_cascade::{MemoryLoader, Study};
/// # let files = MemoryLoader::default().with(
/// #     "a.html",
/// #     "<!DOCTYPE html><style>p { color: navy; margin: 1px } .lead { color: gold } p::before { content: '*' } b { widht: 2px; width: 3px }
/// #     @media print { p { color: black } }</style><body><p id=one class=lead>Hello <b>you</b></p><p id=two>Bye</p></body>",
/// # );
/// # let page = Study::open(&files, "a.html")?;
/// let one = page.select("#one")?[0];
/// let fate = &page.why_not(one, "p")?.declarations[0];
/// assert_eq!(fate.declaration, "color: navy");
/// assert!(fate.wins.is_empty());
/// assert_eq!(fate.loses[0].0, "color");
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Debug, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct Fate {
    /// The declaration as written.
    pub declaration: String,
    /// Where it is written.
    pub at: Place,
    /// The longhands for which it wins.
    pub wins: Vec<String>,
    /// For those for which it loses: the longhand, and to what and why.
    pub loses: Vec<(String, String)>,
    /// Why it takes no part, where a condition keeps it off.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub off: Option<String>,
    /// Why it was dropped, where it was.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub dropped: Option<String>,
    /// Why it does not count, where it is set on a pseudo-element that its property does not apply to.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub idle: Option<String>,
    /// What it loses to.
    #[serde(skip)]
    pub(crate) beaten_by: Vec<Beaten>,
    /// Whether it decides though it loses: what wins rolls back to it.
    #[serde(skip)]
    pub(crate) decides: bool,
}

/// A declaration that another one loses to.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub(crate) struct Beaten {
    /// Where it is written.
    pub(crate) at: Place,
    /// Whether it counts only at some widths or in some media.
    pub(crate) by_view: bool,
    /// Whether it wins only for being important.
    pub(crate) important: bool,
}

/// The contests for properties of one element or pseudo-element.
pub(super) struct Contests<'s> {
    /// The element.
    ground: Rc<Ground<'s>>,
    /// Its style.
    style: &'s Style,
    /// All that is declared for it, by what it sets as physical properties, strongest first.
    declared: FxHashMap<Target<'s>, Vec<&'s Entry<'s>>>,
    /// Those that were asked for, by the names of their properties.
    held: FxHashMap<String, Held<'s>>,
}

/// A contest with where each of its contenders is.
struct Held<'s> {
    /// The contest.
    contest: Contest<'s>,
    /// The places of its contenders, where there are enough of them.
    places: FxHashMap<Span, usize>,
}

/// With how many contenders looking through all of them takes longer than looking one up.
const MANY: usize = 16;

impl<'s> Held<'s> {
    /// The contender that a declaration is.
    fn contender(&self, declaration: Span) -> Option<&Entry<'s>> {
        let all = self.contest.contenders();
        let at = match all.len() {
            0..MANY => all.iter().position(|e| e.declaration.span == declaration),
            _ => self.places.get(&declaration).copied(),
        };
        all.get(at?)
    }
}

impl<'s> Contests<'s> {
    /// Those among declarations, weakest first.
    pub(super) fn new(
        study: &'s Study,
        (element, pseudo): (ElementId, Option<&'s PseudoElement>),
        style: &'s Style,
        entries: &'s [Entry<'s>],
    ) -> Self {
        let mut declared: FxHashMap<Target<'s>, Vec<&'s Entry<'s>>> = FxHashMap::default();
        for entry in entries.iter().rev() {
            let target = match entry.property {
                Target::Longhand(p) => Target::Longhand(style.flow.physical(p)),
                custom @ Target::Custom(_) => custom,
            };
            declared.entry(target).or_default().push(entry);
        }
        let ground = Rc::new(Ground::new(About { study, element, pseudo }, Vec::new()));
        Self { ground, style, declared, held: FxHashMap::default() }
    }

    /// The one for a longhand or custom property.
    fn about(&mut self, name: &str) -> &Held<'s> {
        if !self.held.contains_key(name) {
            let longhand = PropertyId::named(name).map(|p| self.style.flow.physical(p));
            let custom = Name::from(name);
            let target = longhand.map_or(Target::Custom(&custom), Target::Longhand);
            let own = self.declared.get(&target).into_iter().flatten().copied();
            let asked = Asked { longhand, name: name.to_owned() };
            let contest = Contest::of_style(&self.ground, &asked, own, Cow::Borrowed(self.style));
            let many = contest.contenders().iter().enumerate().filter(|_| contest.contenders().len() >= MANY);
            let places = many.map(|(i, e)| (e.declaration.span, i)).collect();
            self.held.insert(name.to_owned(), Held { contest, places });
        }
        &self.held[name]
    }
}

/// A declaration of a rule, as far as it does not depend on an element.
pub(super) struct Said<'s> {
    /// The declaration; nothing where what is written is none.
    pub(super) declaration: Option<(&'s Declaration, &'s Stylesheet)>,
    /// Where it is written.
    pub(super) span: Span,
    /// Where it ends: a note may be about its name alone.
    pub(super) end: u32,
    /// What became of it before anything was asked.
    pub(super) fate: Fate,
}

impl Study {
    /// The declarations of a rule in written order, those that were dropped among them; only the one that is meant, where one
    /// is.
    pub(super) fn said_by<'s>(&'s self, written: &WrittenAt<'s>) -> Vec<Said<'s>> {
        let mut said: Vec<Said<'s>> = Vec::new();
        for rule in &written.rules {
            let sheet = &self.page.sheets[rule.sheet as usize].sheet;
            for d in self.page.declarations(rule) {
                let text =
                    format!("{}: {}{}", d.name(), sheet.value(d).text(), if d.important { " !important" } else { "" });
                let dropped = d.longhands(sheet).err().map(|m| told(&m.message, m.hint.as_deref()));
                said.push(Said {
                    declaration: Some((d, sheet)),
                    span: d.span,
                    end: d.span.end,
                    fate: self.untold(text, d.span, dropped),
                });
            }
        }
        let each = written.rules.chunk_by(|a, b| self.page.prelude(a) == self.page.prelude(b));
        let ends = |rules: &[&FlatRule]| rules.iter().map(|r| self.page.end_of(r)).max().unwrap_or_default();
        for (note, end) in each.flat_map(|rules| self.dropped_in(rules).map(move |n| (n, ends(rules)))) {
            let whole = self.declaration_from(note.span, end);
            let end = note.span.start + crate::source::offset(whole.len());
            let text = crate::text::shorten(&whole, 200);
            let dropped = Some(told(&note.message, note.hint.as_deref()));
            said.push(Said { declaration: None, span: note.span, end, fate: self.untold(text, note.span, dropped) });
        }
        said.sort_by_key(|s| (s.span.source, s.span.start, s.span.end));
        said.dedup_by_key(|s| s.span);
        said.retain(|s| written.declaration.is_none_or(|only| only == s.span));
        said
    }

    /// What is written from the start of a span to the end of its declaration, in a block that ends at a byte.
    pub(crate) fn declaration_from(&self, span: Span, end: u32) -> String {
        let block = self.sources.written(Span { end: end.max(span.end), ..span });
        Tokens::read(block).all().split_at(|t| t.kind == Kind::Semicolon).0.trim().text().to_owned()
    }

    /// A declaration of which nothing is known yet but whether it was dropped.
    fn untold(&self, declaration: String, span: Span, dropped: Option<String>) -> Fate {
        let at = self.sources.placed(span);
        Fate {
            declaration,
            at,
            wins: Vec::new(),
            loses: Vec::new(),
            off: None,
            dropped,
            idle: None,
            beaten_by: Vec::new(),
            decides: false,
        }
    }

    /// What became of the declarations of a rule on an element or a pseudo-element of it that the rule takes. The rule may
    /// be there several times: what is on somewhere takes part.
    pub(super) fn fates<'s>(
        &'s self,
        element: ElementId,
        pseudo: Option<&'s PseudoElement>,
        rules: &[&FlatRule],
        said: &[Said<'_>],
    ) -> Vec<Fate> {
        let (_, entries) = self.entries(element, pseudo);
        let style = self.style_of(element, pseudo);
        self.fates_among(rules, said, &mut Contests::new(self, (element, pseudo), &style, &entries))
    }

    /// The same for the element or pseudo-element that the contests are of.
    pub(super) fn fates_among(&self, rules: &[&FlatRule], said: &[Said<'_>], contests: &mut Contests<'_>) -> Vec<Fate> {
        let about = contests.ground.about;
        let About { element, pseudo, .. } = about;
        // Each with where its next declaration is looked for first: they are told in written order.
        let mut off: Vec<(&FlatRule, Option<String>, usize)> =
            rules.iter().map(|r| (*r, self.why_off(r, element, pseudo), 0)).collect();
        let mut tell = |one: &Said<'_>| {
            let mut fate = one.fate.clone();
            let Some((declaration, _)) = one.declaration.filter(|_| fate.dropped.is_none()) else { return fate };
            let mut within: Vec<Option<&String>> = Vec::new();
            for (rule, off, next) in &mut off {
                let (before, after) = self.page.declarations(rule).split_at(*next);
                if let Some(at) = after.iter().chain(before).position(|d| d.span == one.span) {
                    *next = (*next + at + 1) % (before.len() + after.len());
                    within.push(off.as_ref());
                }
            }
            if within.iter().all(Option::is_some) {
                fate.off = within.first().copied().flatten().cloned();
                return fate;
            }
            if let Property::Known(property) = declaration.property {
                fate.idle = about.applies_not(declaration.name(), &property.longhands_of());
            }
            for longhand in self.longhands(declaration.property.name()).unwrap_or_default() {
                let held = contests.about(&longhand);
                let Some(contender) = held.contender(declaration.span) else { continue };
                match held.contest.standing(contender) {
                    Standing::Won => fate.wins.push(longhand),
                    Standing::Out { winner, stage, reason } => {
                        let (name, place) = (self.declared_in(winner), self.sources.placed(winner.declaration.span));
                        let by_view = self.page.rules.get(winner.rule() as usize).is_some_and(|r| self.is_by_view(r));
                        // Whether it would lose were it not important.
                        let plain = Precedence { important: false, ..winner.precedence() };
                        let important = winner.precedence().important && contender.precedence() > plain;
                        fate.decides |= held.contest.source().1.is_some_and(|e| e.declaration.span == declaration.span);
                        fate.beaten_by.push(Beaten { at: place.clone(), by_view, important });
                        fate.loses.push((longhand, format!("to {name} in {place} at {}: {reason}", stage.name())));
                    }
                }
            }
            fate
        };
        said.iter().map(&mut tell).collect()
    }
}

/// A reason for which something is dropped and what was probably meant, as one clause.
fn told(message: &str, hint: Option<&str>) -> String {
    // That it is dropped is said already.
    let message = message.strip_suffix("; the declaration is dropped").unwrap_or(message);
    hint.map_or_else(|| message.to_owned(), |hint| format!("{message}; {hint}"))
}

/// The longhands of some losses that have the same reason, reason by reason.
#[must_use]
pub(super) fn reasons(fate: &Fate) -> Vec<String> {
    let mut seen = HashSet::new();
    fate.loses.iter().map(|(_, to)| to.clone()).filter(|to| seen.insert(to.clone())).collect()
}
