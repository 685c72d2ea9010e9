//! What becomes of the declarations of a rule on an element: each wins, loses, is off, or was dropped.

use std::borrow::Cow;
use std::collections::HashSet;

use rustc_hash::FxHashMap;
use serde::{Deserialize, Serialize};

use super::asked::Asked;
use super::why::{Contest, Standing};
use crate::cascade::Precedence;
use crate::document::ElementId;
use crate::page::FlatRule;
use crate::property::PropertyId;
use crate::selector::PseudoElement;
use crate::source::{Place, Span};
use crate::study::{Study, WrittenAt};
use crate::style::{Entry, Style};
use crate::stylesheet::{Declaration, Stylesheet};
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

/// The contests for properties of one element or pseudo-element, by their names.
pub(super) type Contests<'s> = FxHashMap<String, Contest<'s>>;

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
            for d in &self.page.style_rule(rule).declarations {
                let text =
                    format!("{}: {}{}", d.name, sheet.value(d).text(), if d.important { " !important" } else { "" });
                let dropped = d.longhands(sheet).err().map(|m| told(&m.message, m.hint.as_deref()));
                said.push(Said {
                    declaration: Some((d, sheet)),
                    span: d.span,
                    end: d.span.end,
                    fate: self.untold(text, d.span, dropped),
                });
            }
        }
        let each = written.rules.chunk_by(|a, b| self.page.style_rule(a).prelude == self.page.style_rule(b).prelude);
        let ends = |rules: &[&FlatRule]| rules.iter().map(|r| self.page.style_rule(r).end).max().unwrap_or_default();
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
        self.fates_among((element, pseudo), rules, said, (&style, &entries), &mut Contests::default())
    }

    /// The same among all that rules say for the element or its pseudo-element, which has a style.
    pub(super) fn fates_among<'s>(
        &'s self,
        (element, pseudo): (ElementId, Option<&'s PseudoElement>),
        rules: &[&FlatRule],
        said: &[Said<'_>],
        (style, entries): (&'s Cow<'_, Style>, &[Entry<'s>]),
        contests: &mut Contests<'s>,
    ) -> Vec<Fate> {
        let off: Vec<(&FlatRule, Option<String>)> =
            rules.iter().map(|r| (*r, self.why_off(r, element, pseudo))).collect();
        let mut tell = |one: &Said<'_>| {
            let mut fate = one.fate.clone();
            let Some((declaration, _)) = one.declaration.filter(|_| fate.dropped.is_none()) else { return fate };
            let has = |rule: &FlatRule| self.page.style_rule(rule).declarations.iter().any(|d| d.span == one.span);
            let mut within = off.iter().filter(|(rule, _)| has(rule)).map(|(_, off)| off);
            let first = within.clone().next().and_then(Option::as_ref);
            if within.all(Option::is_some) {
                fate.off = first.cloned();
                return fate;
            }
            for longhand in self.longhands(declaration.property.name()).unwrap_or_default() {
                let physical = PropertyId::named(&longhand).map(|p| style.flow.physical(p));
                let contest = contests.entry(longhand.clone()).or_insert_with(|| {
                    let asked = Asked { longhand: physical, name: longhand.clone() };
                    Contest::of_style(self, (element, pseudo), &asked, entries, Cow::Borrowed(&**style))
                });
                match contest.standing(declaration.span) {
                    None => {}
                    Some(Standing::Won) => fate.wins.push(longhand),
                    Some(Standing::Out { winner, stage, reason }) => {
                        let (name, place) = (self.declared_in(winner), self.sources.placed(winner.declaration.span));
                        let by_view = self.page.rules.get(winner.rule as usize).is_some_and(|r| self.is_by_view(r));
                        // Whether it would lose were it not important.
                        let own = entries.iter().find(|e| e.declaration.span == declaration.span).map(|e| e.precedence);
                        let plain = Precedence { important: false, ..winner.precedence };
                        let important = winner.precedence.important && own.is_some_and(|own| own > plain);
                        fate.decides |= contest.source().1.is_some_and(|e| e.declaration.span == declaration.span);
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
