//! Why a rule does not take an element, or does and still does not show.

mod variants;

pub(crate) use variants::Known;

use std::collections::HashSet;

use serde::{Deserialize, Serialize};

use super::fates::Fate;
use super::fixes::Fix;
use super::locate::LocateError;
use super::rules::Named;
use crate::cascade::Origin;
use crate::document::{ElementId, Name};
use crate::near;
use crate::page::FlatRule;
use crate::selector::{
    Combinator, Matcher, PseudoClass, PseudoElement, Selector, SelectorList, Simple, State, has_idle_pattern,
};
use crate::source::Place;
use crate::study::{Study, WrittenAt};
use crate::style::{self, Across, Reached};

/// Why a rule does not style an element.
///
/// ```
/// # use clear_cascade::{MemoryLoader, Study};
/// # let files = MemoryLoader::default().with(
/// #     "a.html",
/// #     "<!DOCTYPE html><style>p { color: navy; margin: 1px } .lead { color: gold } p::before { content: '*' } b { widht: 2px; width: 3px }
/// #     @media print { p { color: black } }</style><body><p id=one class=lead>Hello <b>you</b></p><p id=two>Bye</p></body>",
/// # );
/// # let page = Study::open(&files, "a.html")?;
/// let two = page.select("#two")?[0];
/// let not = page.why_not(two, ".lead")?;
/// assert!(!not.takes);
/// assert!(not.sentence.contains("p#two"));
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Debug, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct WhyNot {
    /// The number of the element.
    pub element: ElementId,
    /// Its label, with the pseudo-element.
    pub label: String,
    /// The first words of the text in it.
    pub words: String,
    /// Where it is written.
    pub at: Place,
    /// The pseudo-element asked about.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub pseudo: Option<String>,
    /// The rule as it was named.
    pub rule: String,
    /// Where the rule is written, if it is in a stylesheet.
    pub rule_at: Option<Place>,
    /// Whether one of the rule's selectors takes the element.
    pub takes: bool,
    /// The answer in one plain sentence.
    pub sentence: String,
    /// Each selector of the rule, and why it misses.
    pub selectors: Vec<Miss>,
    /// States in the selectors that are off as the page is seen.
    pub notes: Vec<String>,
    /// The declarations of a rule that does take the element, and what became of each.
    pub declarations: Vec<Fate>,
    /// What would make the first declaration that loses win, from the lightest change to the heaviest; each was tried.
    pub fixes: Vec<Fix>,
}

/// One selector and why it misses an element.
///
/// ```
/// # use clear_cascade::{MemoryLoader, Study};
/// # let files = MemoryLoader::default().with(
/// #     "a.html",
/// #     "<!DOCTYPE html><style>p { color: navy; margin: 1px } .lead { color: gold } p::before { content: '*' } b { widht: 2px; width: 3px }
/// #     @media print { p { color: black } }</style><body><p id=one class=lead>Hello <b>you</b></p><p id=two>Bye</p></body>",
/// # );
/// # let page = Study::open(&files, "a.html")?;
/// let two = page.select("#two")?[0];
/// let not = page.why_not(two, ".lead")?;
/// assert!(!not.selectors[0].takes);
/// assert!(not.selectors[0].reason.as_deref().unwrap().contains("lead"));
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Debug, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct Miss {
    /// The selector as written.
    pub selector: String,
    /// Whether it is an attribute of an element, which has no selector.
    #[serde(skip)]
    pub(crate) is_attribute: bool,
    /// Whether it takes the element after all.
    pub takes: bool,
    /// The first part that fails, and on which element it was tried.
    pub reason: Option<String>,
    /// How it would have to be written to take the element, nearest first.
    pub nearest: Vec<Nearest>,
}

/// A selector near the one written, which takes the element.
///
/// ```
/// # use clear_cascade::{MemoryLoader, Study};
/// # let files = MemoryLoader::default().with(
/// #     "a.html",
/// #     "<!DOCTYPE html><style>p { color: navy; margin: 1px } .lead { color: gold } p::before { content: '*' } b { widht: 2px; width: 3px }
/// #     @media print { p { color: black } }</style><body><p id=one class=lead>Hello <b>you</b></p><p id=two>Bye</p></body>",
/// # );
/// # let page = Study::open(&files, "a.html")?;
/// let why_not = page.why_not(page.select("p")?[0], ".Lead")?;
/// assert_eq!(why_not.selectors[0].nearest[0].selector, ".lead");
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Debug, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct Nearest {
    /// The selector.
    pub selector: String,
    /// What is different, and why it is likely to be meant.
    pub difference: String,
}

/// What is asked about, and a matcher for its page.
struct Subject<'s, 'd> {
    /// The element.
    element: ElementId,
    /// The pseudo-element.
    pseudo: Option<&'s PseudoElement>,
    /// The matcher.
    matcher: &'s Matcher<'d>,
}

impl Subject<'_, '_> {
    /// A selector that fits the element: whether it aims at what is asked about, and not at another part of the element.
    fn aimed(&self, study: &Study, selector: &Selector, text: String) -> Miss {
        let takes = selector.pseudo.as_ref() == self.pseudo;
        let label = study.page.document.label(self.element);
        let part = |pseudo: Option<&PseudoElement>| {
            pseudo.map_or_else(|| "the element itself".to_owned(), |p| format!("its `{p}`"))
        };
        let reason = (!takes).then(|| {
            let (own, other) = (part(selector.pseudo.as_ref()), part(self.pseudo));
            format!("it fits `{label}`, but aims at {own}, and not at {other}")
        });
        Miss { selector: text, is_attribute: false, takes, reason, nearest: Vec::new() }
    }
}

/// A pseudo-element behind the label of its element.
fn shown(pseudo: Option<&PseudoElement>) -> String {
    pseudo.map(ToString::to_string).unwrap_or_default()
}

/// A name that selectors ask for: the sign before it, and the name.
type Asked<'s> = (char, &'s Name);

/// The classes and ids in some selectors, those inside of `:is()` and the like and of rules around among them; an attribute
/// that may ask for one is there as `[`.
fn names_in<'s>(list: &'s SelectorList, names: &mut Vec<Asked<'s>>) {
    for part in list.selectors.iter().flat_map(|s| &s.compounds).flat_map(|c| &c.parts) {
        match &part.simple {
            Simple::Class(name) => names.push(('.', name)),
            Simple::Id(name) => names.push(('#', name)),
            Simple::Attribute(test) if matches!(&*test.lower, "class" | "id") => names.push(('[', &test.lower)),
            Simple::PseudoClass(pseudo) => pseudo.list().into_iter().for_each(|l| names_in(l, names)),
            Simple::Nesting(Some(parent)) => names_in(parent, names),
            _ => {}
        }
    }
}

impl WhyNot {
    /// The selectors of the rule.
    fn written(&self) -> String {
        self.selectors.iter().map(|m| m.selector.as_str()).collect::<Vec<_>>().join(", ")
    }

    /// The sentence for what does not take the element.
    fn missed(&self, rule: &str) -> String {
        let reason = self.selectors.iter().find_map(|m| m.reason.as_ref());
        let reason = reason.map(|r| format!(": {r}")).unwrap_or_default();
        format!(
            "{} does not take `{}`{reason}.",
            if rule.is_empty() { self.rule_in_words() } else { format!("`{}`", rule.trim()) },
            self.label
        )
    }

    /// The rule as it stands in a sentence.
    fn rule_in_words(&self) -> String {
        let written = self.written();
        let name = crate::text::shorten(&written, 80);
        if self.selectors.iter().any(|m| m.is_attribute) { format!("the {name}") } else { format!("`{name}`") }
    }

    /// The sentence for a rule that takes the element, or for one declaration of it.
    fn told(&self, one: bool) -> String {
        let (rule, label) = (self.rule_in_words(), &self.label);
        let all = &self.declarations;
        if let (true, [fate]) = (one, all.as_slice()) {
            let said = crate::text::shorten(&fate.declaration, 80);
            return match (&fate.off, &fate.dropped, fate.loses.as_slice()) {
                (_, Some(why), _) => format!("`{said}` of {rule} was dropped: {why}."),
                (Some(why), ..) => format!("`{said}` of {rule} is off on `{label}`: {why}."),
                _ if fate.idle.is_some() => {
                    let why = fate.idle.as_deref().unwrap_or_default();
                    format!("`{said}` of {rule} does nothing on `{label}`: {why}.")
                }
                (_, _, [(_, to), rest @ ..]) if fate.wins.is_empty() && rest.iter().all(|(_, t)| t == to) => {
                    format!("`{said}` of {rule} loses on `{label}` {to}.")
                }
                (_, _, [_, ..]) if fate.wins.is_empty() => format!("`{said}` of {rule} loses on `{label}`."),
                (_, _, [_, ..]) => format!(
                    "`{said}` of {rule} wins on `{label}` for {} and loses for {}.",
                    names(&fate.wins),
                    names(&fate.loses.iter().map(|(n, _)| n.clone()).collect::<Vec<_>>())
                ),
                _ if fate.wins.is_empty() => format!("{rule} does take `{label}`."),
                _ => format!("`{said}` of {rule} wins on `{label}`."),
            };
        }
        let count = |test: &dyn Fn(&Fate) -> bool| all.iter().filter(|f| test(f)).count();
        let off = count(&|f| f.off.is_some());
        if let Some(why) =
            all.iter().find_map(|f| f.off.as_ref()).filter(|_| count(&|f| f.off.is_none() && f.dropped.is_none()) == 0)
        {
            return format!("{rule} would take `{label}`, but the rule is off: {why}.");
        }
        let lost = [
            (count(&|f| !f.loses.is_empty()), "loses", "lose"),
            (count(&|f| f.dropped.is_some()), "was dropped", "were dropped"),
            (count(&|f| f.idle.is_some()), "does nothing", "do nothing"),
        ];
        let lost: Vec<(usize, &str)> = lost
            .into_iter()
            .filter(|(n, ..)| *n > 0)
            .map(|(n, one, many)| (n, if n == 1 { one } else { many }))
            .collect();
        let fate = match (all.len() - off, lost.as_slice()) {
            (0, _) => return format!("{rule} does take `{label}`, but it has no declarations."),
            (1, []) => "and its declaration wins".to_owned(),
            (_, []) => "and all its declarations win".to_owned(),
            (1, [(_, does), ..]) => format!("but its declaration {does}"),
            (all, [(n, do_so)]) => format!("but {n} of its {all} declarations {do_so}"),
            (all, several) => {
                let several: Vec<String> = several.iter().map(|(n, do_so)| format!("{n} {do_so}")).collect();
                format!("but of its {all} declarations {}", several.join(" and "))
            }
        };
        let off = if off > 0 {
            format!("; {off} more {} off as the page is seen", if off == 1 { "is" } else { "are" })
        } else {
            String::new()
        };
        format!("{rule} does take `{label}`, {fate}{off}.")
    }
}

/// Some longhands in a sentence.
fn names(longhands: &[String]) -> String {
    let quoted: Vec<String> = longhands.iter().take(4).map(|l| format!("`{l}`")).collect();
    match longhands.len() {
        0..=4 => crate::text::and(&quoted),
        n => format!("{} and {} more", quoted[..3].join(", "), n - 3),
    }
}

impl Study {
    /// Why a rule, named by a selector or by `FILE:LINE`, does not take or does not style an element; at the line of a
    /// declaration, why that does not.
    ///
    /// ```
    /// # use clear_cascade::{MemoryLoader, Study};
    /// # let files = MemoryLoader::default().with(
    /// #     "a.html",
    /// #     "<!DOCTYPE html><style>p { color: navy; margin: 1px } .lead { color: gold } p::before { content: '*' } b { widht: 2px; width: 3px }
    /// #     @media print { p { color: black } }</style><body><p id=one class=lead>Hello <b>you</b></p><p id=two>Bye</p></body>",
    /// # );
    /// # let page = Study::open(&files, "a.html").unwrap();
    /// let answer = page.why_not(page.select("#two")?[0], ".lead")?;
    /// assert!(!answer.takes);
    /// assert!(answer.selectors[0].reason.as_ref().unwrap().contains("`lead`"));
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    ///
    /// # Errors
    /// Where there is no such rule, or the text is no selector.
    pub fn why_not(&self, element: ElementId, rule: &str) -> Result<WhyNot, LocateError> {
        self.why_not_of(element, None, rule)
    }

    /// The same for a pseudo-element, such as `::before`.
    ///
    /// ```
    /// # use clear_cascade::{MemoryLoader, Study};
    /// # let files = MemoryLoader::default().with(
    /// #     "a.html",
    /// #     "<!DOCTYPE html><style>p { color: navy; margin: 1px } .lead { color: gold } p::before { content: '*' } b { widht: 2px; width: 3px }
    /// #     @media print { p { color: black } }</style><body><p id=one class=lead>Hello <b>you</b></p><p id=two>Bye</p></body>",
    /// # );
    /// # let page = Study::open(&files, "a.html").unwrap();
    /// let before = "::before".parse()?;
    /// assert!(page.why_not_of(page.select("#two")?[0], Some(&before), "p::before")?.takes);
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    ///
    /// # Errors
    /// Where there is no such rule, or the text is no selector.
    pub fn why_not_of(
        &self,
        element: ElementId,
        pseudo: Option<&PseudoElement>,
        rule: &str,
    ) -> Result<WhyNot, LocateError> {
        let element = self.page.document.own(element)?;
        let named = self.named_rule(rule)?;
        let matcher = self.page.matcher();
        let asked = Subject { element, pseudo, matcher: &matcher };
        let label = format!("{}{}", self.page.document.label(element), shown(pseudo));
        let mut answer = WhyNot {
            element,
            words: self.words_of(element),
            at: self.sources.placed(self.page.document.span(element)),
            pseudo: pseudo.map(ToString::to_string),
            rule: rule.to_owned(),
            rule_at: None,
            takes: false,
            sentence: String::new(),
            selectors: Vec::new(),
            notes: Vec::new(),
            declarations: Vec::new(),
            fixes: Vec::new(),
            label,
        };
        match &named {
            Named::Rule(written) => self.why_not_rule(&asked, written, &mut answer),
            Named::Selector(list) => {
                let misses = list.selectors.iter().map(|s| self.miss(&asked, s, rule));
                answer.selectors = misses.collect();
                answer.takes = answer.selectors.iter().any(|m| m.takes);
                answer.notes = self.off_states(list);
                // What is written so in stylesheets is asked about.
                let rules = self.rules_written(list);
                if answer.takes && !rules.is_empty() {
                    self.why_not_rule(&asked, &WrittenAt { rules, declaration: None }, &mut answer);
                } else if answer.takes {
                    answer.sentence =
                        format!("`{}` does take `{}`{}.", rule.trim(), answer.label, self.written_where(list));
                } else {
                    answer.sentence = answer.missed(rule);
                }
            }
        }
        if !answer.takes {
            answer.notes.extend(self.parsed_otherwise(element));
        }
        Ok(answer)
    }

    /// The answer for a rule of a stylesheet or a `style` attribute.
    fn why_not_rule(&self, asked: &Subject<'_, '_>, written: &WrittenAt<'_>, answer: &mut WhyNot) {
        let takes =
            |r: &&&FlatRule| self.taken_by(asked.matcher, r, asked.element).iter().any(|m| m.pseudo == asked.pseudo);
        let taking: Vec<&FlatRule> = written.rules.iter().filter(takes).copied().collect();
        let rule = taking.first().copied().unwrap_or(written.rules[0]);
        let prelude = self.page.prelude(rule);
        let alone = written.rules.iter().all(|r| self.page.prelude(r) == prelude);
        answer.rule_at = alone.then(|| self.sources.placed(prelude));
        answer.takes = !taking.is_empty();
        answer.notes = self.off_states(self.page.selectors(rule));
        answer.selectors = if self.page.style_rule(rule).is_attribute() {
            let reason = (!answer.takes).then(|| "it is of another element".to_owned());
            vec![Miss {
                selector: self.attribute_named(rule),
                is_attribute: true,
                takes: answer.takes,
                reason,
                nearest: Vec::new(),
            }]
        } else {
            self.misses(asked, rule)
        };
        let said = self.said_by(written);
        if !answer.takes {
            answer.sentence = crate::text::capital(&answer.missed(""));
            // What is dropped does nothing, whatever its selectors take.
            let mut all = said.into_iter().map(|s| s.fate).filter(|f| f.dropped.is_some());
            answer.declarations = all.by_ref().filter(|_| written.declaration.is_some()).collect();
            return;
        }
        answer.declarations = self.fates(asked.element, asked.pseudo, &taking, &said);
        answer.sentence = crate::text::capital(&answer.told(written.declaration.is_some()));
        if asked.pseudo.is_none() {
            answer.fixes = self.first_fixes(asked.element, &taking, &answer.declarations);
        }
    }

    /// The rules of the page's own sheets that are written with these selectors.
    fn rules_written(&self, list: &SelectorList) -> Vec<&FlatRule> {
        let printed = list.to_string();
        let all = self
            .page
            .rules
            .iter()
            .chain(&self.page.off_rules)
            .filter(|r| r.within.origin == Origin::Author && !r.within.attached);
        let mut found: Vec<&FlatRule> = all.filter(|r| self.page.selectors(r).to_string() == printed).collect();
        found.sort_by_key(|r| (self.page.prelude(r).source, self.page.prelude(r).start));
        found
    }

    /// Whether a stylesheet has rules for what a selector names, as the end of a sentence.
    fn written_where(&self, list: &SelectorList) -> String {
        let mut names = Vec::new();
        names_in(list, &mut names);
        for (kind, name) in names.iter().filter(|(kind, _)| *kind != '[') {
            let (mut styled, mut rules, mut may_be_asked_for) = (Vec::new(), Vec::new(), false);
            let all = self.page.rules.iter().chain(&self.page.off_rules);
            for rule in all.filter(|r| r.within.origin != Origin::Defaults) {
                let mut others = Vec::new();
                names_in(self.page.selectors(rule), &mut others);
                for (k, other) in others {
                    // An attribute may ask for it by another name.
                    may_be_asked_for |= k == '[' && (&**other == "class") == (*kind == '.');
                    let here = k == *kind && other.eq_ignore_ascii_case(name);
                    if here && rules.last() != Some(&self.page.prelude(rule)) {
                        rules.push(self.page.prelude(rule));
                    }
                    if k == *kind {
                        styled.push(other);
                    }
                }
            }
            if rules.is_empty() && !may_be_asked_for {
                let what = if *kind == '.' { "class" } else { "id" };
                let near = near::nearest(name, styled.into_iter().map(|n| &**n));
                let near = near.map(|n| format!("; the nearest that one has is `{kind}{n}`")).unwrap_or_default();
                return format!(", but no stylesheet of the page has a rule for the {what} `{name}`{near}");
            }
            if let ([_], [one]) = (names.as_slice(), rules.as_slice()) {
                let text = crate::text::shorten(self.sources.written(*one), 60);
                return format!("; no rule is written so, but `{text}` in {} names it", self.sources.placed(*one));
            }
        }
        ", but no rule of the page is written so".to_owned()
    }

    /// What would make the first declaration that loses win.
    fn first_fixes(&self, element: ElementId, rules: &[&FlatRule], fates: &[Fate]) -> Vec<Fix> {
        let Some((at, longhand)) = fates.iter().find_map(|f| Some((&f.at, &f.loses.first()?.0))) else {
            return Vec::new();
        };
        let all = rules.iter().flat_map(|r| self.page.declarations(r).iter().map(move |d| (r, d)));
        let mut here = all.filter(|(_, d)| self.sources.placed(d.span) == *at);
        here.next().map(|(rule, d)| self.fixes(element, rule, d, longhand)).unwrap_or_default()
    }

    /// Why each selector of a rule misses, its scopes and its tree looked at.
    fn misses(&self, asked: &Subject<'_, '_>, rule: &FlatRule) -> Vec<Miss> {
        let (matcher, element) = (asked.matcher, asked.element);
        let reached = Reached::new(&self.page, matcher, element);
        let mut taken = HashSet::new();
        reached.each(rule, &mut |index, _, _| _ = taken.insert(index));
        let miss = |(index, selector): (usize, &Selector)| {
            let text = self.text_of(None, selector.span).to_owned();
            if taken.contains(&index) {
                return asked.aimed(self, selector, text);
            }
            let of_tree = reached.in_tree_of(rule);
            let inside = of_tree.as_ref().unwrap_or(matcher);
            let (reason, from) = match self.way_to(&reached, inside, rule, selector, element) {
                Err(barrier) => (Some(barrier), None),
                Ok((from, subject)) => {
                    let own = subject == element && from.takes(selector, element);
                    let last = selector.compounds.len() - 1;
                    let reason = (!own).then(|| self.first_failure(&from, selector, last, subject, None)).flatten();
                    (reason, (subject == element).then_some(from))
                }
            };
            let nearest = from.map(|from| self.nearest(&from, selector, element, None)).unwrap_or_default();
            Miss { selector: text, is_attribute: false, takes: false, reason, nearest }
        };
        self.page.selectors(rule).selectors.iter().enumerate().map(miss).collect()
    }

    /// From where a rule looks at an element with a selector, and at which element: itself, the slot it is in, or the host
    /// that it is a part of. Where it cannot get there, why.
    fn way_to<'d>(
        &'d self,
        reached: &Reached<'_, '_, 'd>,
        matcher: &Matcher<'d>,
        rule: &FlatRule,
        selector: &Selector,
        element: ElementId,
    ) -> Result<(Matcher<'d>, ElementId), String> {
        let (document, label) = (&self.page.document, self.page.document.label(element));
        let subject = if rule.within.tree.is_none_or(|t| t == document.node(element).tree) {
            if selector.slotted.is_some() || !selector.parts.is_empty() {
                return Err(format!("`{label}` is in the tree of the rule itself, and that reaches into another"));
            }
            element
        } else {
            let way = reached.ways(rule).find(|way| match way {
                Across::Host => selector.is_plain() || selector.pseudo.is_some(),
                Across::Slotted(_) => selector.slotted.is_some(),
                Across::Part(..) => !selector.parts.is_empty(),
            });
            match way {
                Some(Across::Host) => element,
                Some(Across::Slotted(slot)) => {
                    let outer = matcher.with_tree(document.node(element).tree);
                    match selector.slotted.as_ref().filter(|s| !outer.takes(s, element)) {
                        Some(s) => return Err(format!("`{label}` is not `{}`", self.text_of(None, s.span))),
                        None => *slot,
                    }
                }
                Some(Across::Part(host, names)) => {
                    if let Some(part) = selector.parts.iter().find(|p| !names.iter().any(|n| **n == ***p)) {
                        return Err(format!("`{label}` is not the part `{part}` of `{}`", document.label(*host)));
                    }
                    *host
                }
                None => return Err(self.border(rule, element)),
            }
        };
        if rule.within.scopes.is_empty() {
            return Ok((matcher.with_tree(rule.within.tree.unwrap_or(0)), subject));
        }
        let sheet = &self.page.sheets[rule.sheet as usize];
        let roots = style::scoping_roots(matcher, &sheet.sheet, &rule.within.scopes, sheet.owner, subject);
        if let Some(near) = roots.iter().find(|r| r.limit.is_none()) {
            return Ok((matcher.with_scope(near.root), subject));
        }
        let scope = crate::text::shorten(
            self.text_of(None, sheet.sheet.groups[rule.within.scopes[0] as usize].span).trim(),
            80,
        );
        let label = document.label(subject);
        Err(match roots.iter().find_map(|r| r.limit) {
            Some(limit) if limit == subject => format!("`{label}` is a limit of `{scope}`, and so not in its scope"),
            Some(limit) => {
                format!(
                    "`{label}` is inside `{}`, a limit of `{scope}`, and so not in its scope",
                    document.label(limit)
                )
            }
            None => format!("`{label}` is not in the scope of `{scope}`"),
        })
    }

    /// That a rule is in another tree, and no way leads over the border.
    fn border(&self, rule: &FlatRule, element: ElementId) -> String {
        let document = &self.page.document;
        let label = document.label(element);
        let host = |tree: u32| document.host(tree).map(|h| document.label(h)).unwrap_or_default();
        let own = document.node(element).tree;
        match rule.within.tree.unwrap_or(0) {
            0 => format!("`{label}` is in the shadow tree of `{}`, and the rule is not", host(own)),
            tree => format!("`{label}` is not in the shadow tree of `{}`, and the rule is", host(tree)),
        }
    }

    /// Why one selector misses.
    fn miss(&self, asked: &Subject<'_, '_>, selector: &Selector, question: &str) -> Miss {
        let (matcher, element) = (asked.matcher, asked.element);
        let text = self.text_of(Some(question), selector.span).to_owned();
        if matcher.takes(selector, element) {
            return asked.aimed(self, selector, text);
        }
        let last = selector.compounds.len() - 1;
        let reason = self.first_failure(matcher, selector, last, element, Some(question));
        let nearest = self.nearest(matcher, selector, element, Some(question));
        Miss { nearest, is_attribute: false, selector: text, takes: false, reason }
    }

    /// The first condition that fails, from the subject outwards, with the element it was tried on.
    fn first_failure(
        &self,
        matcher: &Matcher<'_>,
        selector: &Selector,
        index: usize,
        element: ElementId,
        question: Option<&str>,
    ) -> Option<String> {
        let compound = &selector.compounds[index];
        let label = self.page.document.label(element);
        if !matcher.in_default_namespace(compound, element) {
            let url = compound.namespace.as_deref().unwrap_or_default();
            return Some(format!("`{label}` is not in the namespace `{url}`, the default one of the stylesheet"));
        }
        if let Some(part) = matcher.first_miss(compound, element) {
            let failure = self.failure(&part.simple, self.text_of(question, part.span));
            let because = self.because(&part.simple, element).map(|why| format!(": {why}")).unwrap_or_default();
            return Some(format!("`{label}` {failure}{because}"));
        }
        let outer = &selector.compounds[index.checked_sub(1)?];
        let wanted = self.text_of(question, outer.span);
        if wanted.is_empty() {
            return Some(match outer.parts.first().map(|p| &p.simple) {
                Some(Simple::Nesting(Some(_))) => format!("`{label}` is not inside of what the rule around takes"),
                _ => format!("`{label}` is not inside of the scoping root; to take that itself, write `:scope`"),
            });
        }
        let document = &self.page.document;
        let fits = |e: &ElementId| matcher.compound(outer, *e);
        let ancestors: Vec<ElementId> = std::iter::successors(matcher.up(element), |e| matcher.up(*e)).collect();
        let before: Vec<ElementId> = std::iter::successors(matcher.before(element), |e| matcher.before(*e)).collect();
        let go_on = |e: &ElementId| self.first_failure(matcher, selector, index - 1, *e, question);
        match compound.combinator {
            Combinator::Descendant => match ancestors.iter().find(|e| fits(e)) {
                Some(found) => go_on(found),
                None => Some(format!("`{label}` is not inside any `{wanted}`")),
            },
            Combinator::Child => match (ancestors.first().filter(|e| fits(e)), ancestors.iter().position(&fits)) {
                (Some(found), _) => go_on(found),
                (None, Some(at)) => {
                    let between: Vec<String> =
                        ancestors[..at].iter().map(|e| format!("`{}`", document.label(*e))).collect();
                    let are = if between.len() == 1 { "is" } else { "are" };
                    Some(format!(
                        "`{label}` is inside `{wanted}`, but not directly: {} {are} between",
                        between.join(", ")
                    ))
                }
                (None, None) => Some(format!("`{label}` is not inside any `{wanted}`")),
            },
            Combinator::NextSibling => match (before.first().filter(|e| fits(e)), before.iter().position(&fits)) {
                (Some(found), _) => go_on(found),
                (None, Some(at)) => Some(format!(
                    "`{label}` comes after `{wanted}`, but not right after: `{}` is between",
                    document.label(before[at - 1])
                )),
                (None, None) => Some(format!("no `{wanted}` is right before `{label}`")),
            },
            Combinator::SubsequentSibling => match before.iter().find(|e| fits(e)) {
                Some(found) => go_on(found),
                None => Some(format!("no `{wanted}` is before `{label}` in the same parent")),
            },
        }
    }

    /// A condition that fails, in words that go on after the element's label.
    fn failure(&self, simple: &Simple, text: &str) -> String {
        match simple {
            Simple::Type(_, name, _) => format!("is no `{name}` element"),
            Simple::Class(name) => format!("has no class `{name}`"),
            Simple::Id(name) => format!("does not have the id `{name}`"),
            Simple::Attribute(test) if test.test.is_none() => format!("has no attribute `{}`", test.name),
            _ => format!("is not `{text}`"),
        }
    }

    /// Why a condition fails that seems to hold by what is written, as a clause.
    fn because(&self, simple: &Simple, element: ElementId) -> Option<String> {
        let document = &self.page.document;
        let asks_for_open = match simple {
            Simple::Attribute(test) => test.name.eq_ignore_ascii_case("open"),
            Simple::PseudoClass(PseudoClass::State(State::Open)) => true,
            _ => false,
        };
        if asks_for_open {
            let open = document.closed_by(element)?;
            let at = self.sources.placed(document.span(open));
            return Some(format!("one with its name is open before it, at {at}, and browsers close the others"));
        }
        let invalid = matches!(simple, Simple::PseudoClass(PseudoClass::State(State::Invalid)));
        let idle = invalid && has_idle_pattern(document, element);
        idle.then(|| "its `pattern` is no regular expression with the flag `v`, and does not count".to_owned())
    }

    /// A selector list read aloud.
    pub(crate) fn aloud(list: &SelectorList) -> String {
        list.selectors.iter().map(Selector::read_aloud).collect::<Vec<_>>().join(", or ")
    }
}
