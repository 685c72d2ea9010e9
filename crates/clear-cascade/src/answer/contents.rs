//! What the stylesheets and attributes of a page hold: its rules, its declarations, and what becomes of each on the whole page.

use std::collections::{BTreeMap, BTreeSet};

use rustc_hash::{FxHashMap, FxHashSet};
use serde::{Deserialize, Serialize};

use super::asked::About;
use super::fates::{Contests, Said};
use super::reach::Tally;
use crate::cascade::Origin;
use crate::document::ElementId;
use crate::page::FlatRule;
use crate::property::PropertyId;
use crate::selector::{Matcher, PseudoElement, Specificity};
use crate::source::Place;
use crate::study::{Study, WrittenAt};
use crate::style;
use crate::stylesheet::GroupKind;

/// A style rule where it is written, or an attribute that is one: `style`, or an HTML attribute such as `bgcolor`.
///
/// ```
/// # use clear_cascade::{MemoryLoader, Study};
/// # let files = MemoryLoader::default().with(
/// #     "a.html",
/// #     "<!DOCTYPE html><style>p { color: navy; margin: 1px } .lead { color: gold } p::before { content: '*' } b { widht: 2px; width: 3px }
/// #     @media print { p { color: black } }</style><body><p id=one class=lead>Hello <b>you</b></p><p id=two>Bye</p></body>",
/// # );
/// # let page = Study::open(&files, "a.html")?;
/// let rules = page.rules();
/// let rule = rules.iter().find(|rule| rule.at.file == "a.html").unwrap();
/// assert_eq!(rule.at.to_string(), "a.html:1:23");
/// assert!(rule.off.is_none() && rule.conditions.is_empty());
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Debug, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct Rule {
    /// Where its selectors are written, or the value of the attribute.
    pub at: Place,
    /// Its selectors, those of the rules around it not put in; none of an attribute.
    pub selectors: Vec<Aimed>,
    /// The element whose attribute it is, where it is one.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub element: Option<ElementId>,
    /// Whose stylesheet it is in.
    pub origin: Origin,
    /// The layer it is in.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub layer: Option<String>,
    /// The conditions and scopes around it, from the outside in, each with its place.
    pub conditions: Vec<String>,
    /// Why it is off as the page is seen, where it is. Whether a style query holds is a matter of each element.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub off: Option<String>,
    /// Its declarations in written order, those that were dropped among them.
    pub declarations: Vec<Written>,
}

/// A selector of a rule.
///
/// ```
/// # use clear_cascade::{MemoryLoader, Study};
/// # let files = MemoryLoader::default().with(
/// #     "a.html",
/// #     "<!DOCTYPE html><style>p { color: navy; margin: 1px } .lead { color: gold } p::before { content: '*' } b { widht: 2px; width: 3px }
/// #     @media print { p { color: black } }</style><body><p id=one class=lead>Hello <b>you</b></p><p id=two>Bye</p></body>",
/// # );
/// # let page = Study::open(&files, "a.html")?;
/// let rules = page.rules();
/// let rule = rules.iter().find(|rule| rule.at.file == "a.html").unwrap();
/// assert_eq!((rule.selectors[0].selector.as_str(), rule.selectors[0].specificity.to_string()), ("p", "0, 0, 1".to_owned()));
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct Aimed {
    /// The selector as written.
    pub selector: String,
    /// What it weighs.
    pub specificity: Specificity,
}

/// A declaration where it is written.
///
/// ```
/// # use clear_cascade::{MemoryLoader, Study};
/// # let files = MemoryLoader::default().with(
/// #     "a.html",
/// #     "<!DOCTYPE html><style>p { color: navy; margin: 1px } .lead { color: gold } p::before { content: '*' } b { widht: 2px; width: 3px }
/// #     @media print { p { color: black } }</style><body><p id=one class=lead>Hello <b>you</b></p><p id=two>Bye</p></body>",
/// # );
/// # let page = Study::open(&files, "a.html")?;
/// let rules = page.rules();
/// let rule = rules.iter().find(|rule| rule.at.file == "a.html").unwrap();
/// let written = &rule.declarations[0];
/// assert_eq!((written.property.as_str(), written.value.as_str()), ("color", "navy"));
/// assert_eq!((written.important, &written.dropped), (false, &None));
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct Written {
    /// The property as written; empty where what is written is no declaration.
    pub property: String,
    /// The value as written, `!important` left out.
    pub value: String,
    /// Whether it is important.
    pub important: bool,
    /// Where it is written.
    pub at: Place,
    /// Its first byte in the file.
    pub start: u32,
    /// The byte after its last in the file.
    pub end: u32,
    /// Why it was dropped, where it was.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub dropped: Option<String>,
}

/// Whether something is known to be different without a declaration: the places of its rule and of itself.
pub(crate) type Needed<'n> = &'n dyn Fn(&Place, &Place) -> bool;

/// What becomes of all rules of a page.
pub(crate) struct AllTallied<'s> {
    /// The rules, text by text in written order.
    pub(crate) rules: Vec<Tallied<'s>>,
    /// The elements that rules take which count only at some widths or in some media.
    pub(crate) by_view: FxHashSet<ElementId>,
    /// For each element the rules that take it for what is around it, by their places; none where nobody asked.
    pub(crate) context: Vec<(ElementId, BTreeSet<Place>)>,
}

/// How many of the elements that a rule takes are kept.
const NAMED: usize = 3;

/// A rule, what it takes, and what becomes of its declarations there.
pub(crate) struct Tallied<'s> {
    /// The rule.
    pub(crate) written: WrittenAt<'s>,
    /// How many elements and pseudo-elements it takes.
    pub(crate) taken: usize,
    /// The first of these elements.
    pub(crate) some: Vec<ElementId>,
    /// Its declarations; nothing where it takes nothing.
    pub(crate) tallies: Option<Vec<Tally>>,
}

impl Study {
    /// Every rule of the page: of its own stylesheets and attributes, of user stylesheets, and of browser defaults, text by text in
    /// written order. A sheet that is brought twice counts once; a rule is off where it is off each time.
    ///
    /// ```
    /// use clear_cascade::{MemoryLoader, Study};
    /// use clear_cascade::cascade::Origin;
    /// let files = MemoryLoader::default()
    ///     .with("a.html", "<style>@media print { p { color: black; colr: red } }</style><p>Hello");
    /// let page = Study::open(&files, "a.html")?;
    /// let rules = page.rules();
    /// let own = rules.iter().find(|r| r.origin == Origin::Author).unwrap();
    /// assert_eq!((own.selectors[0].selector.as_str(), own.at.to_string().as_str()), ("p", "a.html:1:23"));
    /// assert!(own.off.is_some() && own.conditions[0].starts_with("`@media print`"));
    /// assert!(own.declarations[1].dropped.as_ref().unwrap().contains("`color`"));
    /// # Ok::<(), clear_cascade::Error>(())
    /// ```
    #[must_use]
    pub fn rules(&self) -> Vec<Rule> {
        self.written_rules(|_| true).iter().map(|written| self.rule_of(written)).collect()
    }

    /// The layers of the page's own stylesheets, the weakest first; what is in no layer comes after all of them. Among important
    /// declarations it is the other way round (CSS Cascade 5, §6.4.3).
    ///
    /// ```
    /// use clear_cascade::{MemoryLoader, Study};
    /// let files = MemoryLoader::default().with("a.html", "<style>@layer base, theme; @layer theme { @layer dark; }</style>");
    /// assert_eq!(Study::open(&files, "a.html")?.layers(), ["base", "theme.dark", "theme"]);
    /// # Ok::<(), clear_cascade::Error>(())
    /// ```
    #[must_use]
    pub fn layers(&self) -> Vec<String> {
        self.page
            .layers
            .first()
            .map(|layers| layers.names().into_iter().map(str::to_owned).collect())
            .unwrap_or_default()
    }

    /// Every declaration of the page's own stylesheets and `style` attributes, text by text in written order, those that were
    /// dropped among them.
    ///
    /// ```
    /// use clear_cascade::{MemoryLoader, Study};
    /// let files = MemoryLoader::default().with("a.html", "<!DOCTYPE html><style>p { color: navy } #x { top: 1px }</style><p id=x class='a b' title=hi>Hello <b>you</b>");
    /// let page = Study::open(&files, "a.html").unwrap();
    ///
    /// let told: Vec<String> = page.declarations().iter().map(|d| format!("{}: {} {}", d.property, d.value, d.at)).collect();
    /// assert_eq!(told, ["color: navy a.html:1:27", "top: 1px a.html:1:46"]);
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    #[must_use]
    pub fn declarations(&self) -> Vec<Written> {
        let written = self.written_rules(|origin| origin == Origin::Author);
        written.iter().flat_map(|written| self.written_in(written)).collect()
    }

    /// What becomes of every declaration of the page's own stylesheets and `style` attributes over all that its rule takes, as
    /// [`Study::reach`] tells it of one: those that hit nothing are there with zeros.
    ///
    /// ```
    /// use clear_cascade::{MemoryLoader, Study};
    /// let files = MemoryLoader::default()
    ///     .with("a.html", "<style>p { color: navy } .lead { color: gold } b { top: 0 }</style><p class=lead>1<p>2");
    /// let page = Study::open(&files, "a.html")?;
    /// let counts: Vec<_> = page.tallies().into_iter().map(|t| (t.declaration, t.wins, t.loses)).collect();
    /// let told = |text: &str, wins, loses| (text.to_owned(), wins, loses);
    /// assert_eq!(counts, [told("color: navy", 1, 1), told("color: gold", 1, 0), told("top: 0", 0, 0)]);
    /// # Ok::<(), clear_cascade::Error>(())
    /// ```
    #[must_use]
    pub fn tallies(&self) -> Vec<Tally> {
        let tallied = self.tallied(None).rules.into_iter();
        tallied.flat_map(|t| t.tallies.unwrap_or_else(|| self.tallies_of_none(&t.written))).collect()
    }

    /// The tallies of a rule that takes nothing.
    pub(crate) fn tallies_of_none(&self, written: &WrittenAt<'_>) -> Vec<Tally> {
        self.said_by(written).iter().map(Tally::of).collect()
    }

    /// The same rule by rule, with what each takes; and the elements that rules take which count only at some widths or in some
    /// media.
    pub(crate) fn tallied(&self, needed: Option<Needed<'_>>) -> AllTallied<'_> {
        let elsewhere = if needed.is_some() { self.said_elsewhere() } else { FxHashSet::default() };
        let written = self.written_rules(|origin| origin == Origin::Author);
        // Of most rules of a large sheet, nothing need be known: they take nothing here.
        let mut told: Vec<Option<(Vec<Said<'_>>, Vec<Tally>)>> = written.iter().map(|_| None).collect();
        let mut takes: Vec<(usize, Vec<ElementId>)> = vec![(0, Vec::new()); written.len()];
        let key = |rule: &FlatRule| {
            let prelude = self.page.prelude(rule);
            (prelude.source, prelude.start, prelude.end)
        };
        let place: FxHashMap<_, usize> = written.iter().enumerate().map(|(i, w)| (key(w.rules[0]), i)).collect();
        let mut by_view = FxHashSet::default();
        let mut context = Vec::new();
        let matcher = self.page.rule_matcher();
        for element in self.page.document.all_ids() {
            self.style(element);
            let matched = style::matched_rules(&self.page, &matcher, element);
            let mut taken = self.taken_among(&matcher, element, &matched, &|rule| place.get(&key(rule)).copied());
            if taken.iter().any(|(.., rule)| self.is_by_view(rule)) {
                by_view.insert(element);
            }
            if needed.is_some() {
                let of_context = matched.iter().filter(|m| m.pseudo.is_none() && self.is_of_context(m));
                let places =
                    of_context.map(|m| self.sources.placed(self.page.prelude(&self.page.rules[m.rule as usize])));
                context.push((element, places.collect()));
            }
            taken.sort_by(|a, b| (a.1, a.0).cmp(&(b.1, b.0)));
            // Of many pseudo-elements, each is looked at with the rules that aim at it.
            let mut matched = matched;
            matched.sort_by_key(|m| m.pseudo);
            for of_one in taken.chunk_by(|a, b| a.1 == b.1) {
                let pseudo = of_one[0].1;
                let own =
                    matched.partition_point(|m| m.pseudo < pseudo)..matched.partition_point(|m| m.pseudo <= pseudo);
                let own = &matched[own];
                let entries = style::entries_of(&self.page, self.styles(), element, own, pseudo, style::Wanted::All);
                let style = self.style_among(element, pseudo, &entries);
                let mut contests = Contests::new(self, (element, pseudo), &style, &entries);
                for by in of_one.chunk_by(|a, b| a.0 == b.0) {
                    let rules: Vec<&FlatRule> = by.iter().map(|(.., rule)| *rule).collect();
                    let at = by[0].0;
                    takes[at].0 += 1;
                    if takes[at].1.len() < NAMED {
                        takes[at].1.push(element);
                    }
                    let (said, tallies) = told[at].get_or_insert_with(|| self.nothing_yet(&written[at], needed));
                    let fates = self.fates_among(&rules, said, &mut contests);
                    for ((fate, said), tally) in fates.into_iter().zip(said.iter()).zip(tallies) {
                        if needed.is_some() && !fate.wins.is_empty() && tally.anyway != Some(None) {
                            let about = About { study: self, element, pseudo };
                            let known = |l: &String| PropertyId::named(l).is_some_and(|l| !elsewhere.contains(&l));
                            let anyway = || self.anyway(&about, (said.span, &fate.wins), &entries, &style);
                            let found = fate.wins.iter().all(known).then(anyway).flatten();
                            tally.anyway = Some(match tally.anyway.take().flatten() {
                                Some(before) => found.map(|found| found.with(&before)),
                                None => found,
                            });
                        }
                        tally.add(fate);
                    }
                }
            }
        }
        let told: Vec<_> = told.into_iter().map(|told| told.map(|(_, tallies)| tallies)).collect();
        let all = written.into_iter().zip(takes).zip(told);
        let rules = all.map(|((written, (taken, some)), tallies)| Tallied { written, taken, some, tallies }).collect();
        AllTallied { rules, by_view, context }
    }

    /// The rules of the page's own sheets that take an element or its pseudo-elements, those that are off among them, with their places.
    fn taken_among<'s>(
        &'s self,
        matcher: &Matcher<'_>,
        element: ElementId,
        matched: &[style::Matched<'s>],
        place: &dyn Fn(&FlatRule) -> Option<usize>,
    ) -> Vec<(usize, Option<&'s PseudoElement>, &'s FlatRule)> {
        let own = |rule: &&FlatRule| rule.within.origin == Origin::Author;
        let on = matched.iter().map(|m| (&self.page.rules[m.rule as usize], m.pseudo)).filter(|(rule, _)| own(rule));
        let mut taken: Vec<_> = on.filter_map(|(rule, pseudo)| Some((place(rule)?, pseudo, rule))).collect();
        for rule in self.page.off_candidates(element).into_iter().filter(own) {
            if let Some(at) = place(rule) {
                taken.extend(self.taken_by(matcher, rule, element).iter().map(|m| (at, m.pseudo, rule)));
            }
        }
        taken
    }

    /// The declarations of a rule with tallies that count nothing yet.
    fn nothing_yet<'s>(&'s self, written: &WrittenAt<'s>, needed: Option<Needed<'_>>) -> (Vec<Said<'s>>, Vec<Tally>) {
        let said = self.said_by(written);
        let mut tallies: Vec<Tally> = said.iter().map(Tally::of).collect();
        if let Some(needed) = needed {
            let at = self.sources.placed(self.page.prelude(written.rules[0]));
            tallies.iter_mut().for_each(|tally| tally.anyway = needed(&at, &tally.at).then_some(None));
        }
        (said, tallies)
    }

    /// Whether a rule of the page takes an element for what is around it.
    fn is_of_context(&self, matched: &style::Matched<'_>) -> bool {
        let rule = &self.page.rules[matched.rule as usize];
        let selector = matched.selector.and_then(|i| self.page.selectors(rule).selectors.get(i as usize));
        let around = selector.is_some_and(|s| s.compounds.len() > 1) || matched.proximity.is_some();
        rule.within.origin == Origin::Author && around
    }

    /// Whether a rule counts only at some widths or in some media.
    pub(super) fn is_by_view(&self, rule: &FlatRule) -> bool {
        let entry = &self.page.sheets[rule.sheet as usize];
        if entry.by_media {
            return true;
        }
        let mut group = entry.sheet.rules[rule.rule as usize].group;
        while let Some(one) = group.and_then(|g| entry.sheet.groups.get(g.index())) {
            if matches!(one.kind, GroupKind::Media(_) | GroupKind::Container(_)) {
                return true;
            }
            group = one.parent;
        }
        false
    }

    /// The rules of some origins as they are written, text by text in written order; each with as often as the page has it, those
    /// that are on first.
    fn written_rules(&self, of: impl Fn(Origin) -> bool) -> Vec<WrittenAt<'_>> {
        let mut found: BTreeMap<_, Vec<&FlatRule>> = BTreeMap::new();
        for rule in self.page.rules.iter().chain(&self.page.off_rules).filter(|r| of(r.within.origin)) {
            let prelude = self.page.prelude(rule);
            found.entry((prelude.source, prelude.start, prelude.end)).or_default().push(rule);
        }
        found.into_values().map(|rules| WrittenAt { rules, declaration: None }).collect()
    }

    /// A rule as it is told.
    fn rule_of(&self, written: &WrittenAt<'_>) -> Rule {
        let rule = written.rules[0];
        let style_rule = self.page.style_rule(rule);
        let attribute = style_rule.is_attribute();
        let text = |span| self.sources.written(span).trim().to_owned();
        let selectors = self.page.selectors(rule).selectors.iter();
        let selectors = selectors.map(|s| Aimed { selector: text(s.span), specificity: s.specificity }).collect();
        let off = written.rules.iter().all(|r| r.within.off.is_some());
        Rule {
            at: self.sources.placed(self.page.prelude(rule)),
            selectors,
            element: self.page.sheets[rule.sheet as usize].owner.filter(|_| attribute),
            origin: rule.within.origin,
            layer: self.page.layer_name(rule).map(str::to_owned),
            conditions: self.conditions_around(rule),
            off: rule.within.off.as_ref().filter(|_| off).map(|off| self.off_in_words(off)),
            declarations: self.written_in(written),
        }
    }

    /// The declarations of a rule as they are told.
    fn written_in(&self, written: &WrittenAt<'_>) -> Vec<Written> {
        let told = |one: Said<'_>| {
            let source = self.sources.at(one.span.source);
            let (property, value, important) = match one.declaration {
                Some((d, sheet)) => (d.name().to_owned(), sheet.value(d).text().to_owned(), d.important),
                None => match one.fate.declaration.split_once(':') {
                    Some((name, value)) => (name.trim().to_owned(), value.trim().to_owned(), false),
                    None => (String::new(), one.fate.declaration.clone(), false),
                },
            };
            let (at, dropped) = (one.fate.at, one.fate.dropped);
            let (start, end) = (source.file_offset(one.span.start), source.file_offset(one.end));
            Written { property, value, important, at, start, end, dropped }
        };
        self.said_by(written).into_iter().map(told).collect()
    }

    /// The conditions and scopes around a rule, from the outside in, each with its place; layers are told apart.
    pub(super) fn conditions_around(&self, rule: &FlatRule) -> Vec<String> {
        let sheet = &self.page.sheets[rule.sheet as usize].sheet;
        let mut group = sheet.rules[rule.rule as usize].group;
        let mut found = Vec::new();
        while let Some(one) = group.and_then(|g| sheet.groups.get(g.index())) {
            if !matches!(one.kind, GroupKind::Layer(_)) {
                let text = crate::text::shorten(self.sources.written(one.span), 80);
                found.push(format!("`{text}` ({})", self.sources.placed(one.span)));
            }
            group = one.parent;
        }
        found.reverse();
        found
    }
}
