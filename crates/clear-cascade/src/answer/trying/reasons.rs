//! Why a trial changes nothing: what becomes of each declaration that was cut, set or moved, on what its rule takes, and
//! what decides instead.

use crate::answer::reach::Tally;
use crate::answer::rules::Named;
use crate::cascade::Origin;
use crate::document::ElementId;
use crate::page::FlatRule;
use crate::selector::{PseudoElement, SelectorList, Simple};
use crate::source::{Place, SourceId, Span};
use crate::study::{Change, Study, Trial, WrittenAt};
use crate::syntax::{Kind, Tokens};

/// How many declarations of a rule are told of.
const MOST: usize = 5;

/// For how many changes reasons are looked for: each may take as long as a rule is.
const MOST_CHANGES: usize = 20;

/// A page with what is asked about in it, and the page to compare it with.
struct Sides<'s> {
    /// The page that has the declarations.
    here: &'s Study,
    /// The page that does not, or has them elsewhere.
    there: &'s Study,
    /// The element there that an element here is.
    pair: &'s dyn Fn(ElementId) -> Option<ElementId>,
    /// How what decides there is led to: "without it, too," or "before, too,".
    too: &'static str,
}

impl Study {
    /// Why a trial that changes nothing does not.
    pub(super) fn reasons(&self, trial: &Trial) -> Vec<String> {
        let mut reasons: Vec<String> = Vec::new();
        let there = |e: ElementId| trial.element(e);
        let before = |e: ElementId| self.page.document.all_ids().find(|id| trial.element(*id) == Some(e));
        let cut = Sides { here: self, there: &trial.study, pair: &there, too: "without it, too," };
        let moved = Sides { too: "there, too,", ..cut };
        let valued = Sides { too: "with the other value, too,", ..cut };
        let set = Sides { here: &trial.study, there: self, pair: &before, too: "before, too," };
        for change in trial.changes().iter().take(MOST_CHANGES) {
            match change {
                Change::Rule { text, .. } => {
                    for rules in trial.rules_put_in(text) {
                        reasons.extend(set.of_rule(&WrittenAt { rules, declaration: None }));
                    }
                }
                Change::Cut { at } => {
                    reasons.extend(self.written_at(at).iter().flat_map(|w| cut.of_rule(w)));
                }
                Change::Move { from, .. } => {
                    let line = Place::line(from.file.clone(), from.line);
                    reasons.extend(self.written_at(&line).iter().flat_map(|w| moved.of_rule(w)));
                }
                Change::Attach { elements, declarations } => {
                    let first = elements.first().and_then(|e| trial.element(*e));
                    reasons.extend(first.into_iter().flat_map(|e| set.of_attribute(e, declarations)));
                }
                Change::Class { elements, class, on } => {
                    reasons.extend(self.of_class(trial, elements, class, *on));
                }
                Change::Value { at, .. } => {
                    reasons.extend(self.written_at(at).iter().flat_map(|w| valued.of_rule(w)));
                }
                Change::Classes { elements, classes } => {
                    let wanted: Vec<&str> = classes.split_ascii_whitespace().collect();
                    let had: Vec<String> = elements
                        .iter()
                        .flat_map(|e| self.page.document.node(*e).classes.iter().map(ToString::to_string))
                        .collect();
                    let new = wanted.iter().filter(|c| !had.iter().any(|h| h == *c));
                    reasons.extend(new.flat_map(|c| self.of_class(trial, elements, c, true)));
                    let gone = had.iter().filter(|h| !wanted.contains(&h.as_str()));
                    reasons.extend(gone.flat_map(|c| self.of_class(trial, elements, c, false)));
                    if reasons.is_empty() {
                        reasons.push("the classes are there already".to_owned());
                    }
                }
                Change::Attribute { elements, name, value } => {
                    let asks = |list: &SelectorList| asks_for_attribute(list, name);
                    let what = format!("the attribute `{name}`");
                    reasons.extend(self.of_asked(trial, elements, value.is_some(), (&what, &asks)));
                }
                Change::Text { .. } => reasons.push("no value of the page depends on this text".to_owned()),
                Change::MoveSheet { file, before } => {
                    reasons.push(format!("each value is the same with `{file}` before `{before}` as after it"));
                }
                Change::WithoutSheet { file } => reasons.extend(self.of_sheet(file)),
                _ => {}
            }
        }
        let mut told: Vec<String> = Vec::new();
        for reason in reasons {
            if !told.contains(&reason) {
                told.push(reason);
            }
        }
        if told.is_empty() {
            told.push("each value is the same with the changes as without".to_owned());
        }
        if let Some(more @ 1..) = trial.changes().len().checked_sub(MOST_CHANGES) {
            told.push(format!("so far the first {MOST_CHANGES} changes; the reasons of {more} more are left out"));
        }
        told
    }

    /// Why putting a class on elements, or taking it off, changes nothing.
    fn of_class(&self, trial: &Trial, elements: &[ElementId], class: &str, on: bool) -> Vec<String> {
        let has = |e: &ElementId| self.page.document.node(*e).classes.iter().any(|c| **c == *class);
        if on && elements.iter().all(has) {
            return vec![format!("the class `{class}` is there already")];
        }
        if !on && !elements.iter().any(has) {
            return vec![format!("the class `{class}` is not there")];
        }
        self.of_asked(trial, elements, on, (&format!("the class `{class}`"), &|list| asks_for(list, class)))
    }

    /// Why it changes nothing that elements have something that rules ask for, or have it no more.
    fn of_asked(
        &self,
        trial: &Trial,
        elements: &[ElementId],
        on: bool,
        (what, asks): (&str, &dyn Fn(&SelectorList) -> bool),
    ) -> Vec<String> {
        // The page in which the elements have it.
        let (there, before) = (
            |e: ElementId| trial.element(e),
            |e: ElementId| self.page.document.all_ids().find(|id| trial.element(*id) == Some(e)),
        );
        let sides = if on {
            Sides { here: &trial.study, there: self, pair: &before, too: "before, too," }
        } else {
            Sides { here: self, there: &trial.study, pair: &there, too: "without it, too," }
        };
        let page = &sides.here.page;
        let asked = |rule: &&FlatRule| rule.within.origin != Origin::Defaults && asks(page.selectors(rule));
        let mut rules: Vec<&FlatRule> = page.rules.iter().chain(&page.off_rules).filter(asked).collect();
        if rules.is_empty() {
            return vec![format!("no rule of the page asks for {what}")];
        }
        let all = rules.len();
        let touched: Vec<ElementId> =
            elements.iter().filter_map(|e| if on { trial.element(*e) } else { Some(*e) }).collect();
        let matcher = page.matcher();
        rules.retain(|r| touched.iter().any(|e| !sides.here.taken_by(&matcher, r, *e).is_empty()));
        if rules.is_empty() {
            let (verb, them) = if all == 1 { ("takes", "the rule that asks") } else { ("take", "the rules that ask") };
            return vec![format!("{them} for {what} {verb} none of these elements")];
        }
        rules.sort_by_key(|r| (page.prelude(r).source, page.prelude(r).start));
        let same = |a: &&FlatRule, b: &&FlatRule| page.prelude(a) == page.prelude(b);
        let written = rules.chunk_by(same).map(|c| WrittenAt { rules: c.to_vec(), declaration: None });
        written.flat_map(|w| sides.of_rule_on(&w, Some(&touched))).collect()
    }

    /// Why leaving a stylesheet out changes nothing.
    fn of_sheet(&self, file: &str) -> Option<String> {
        let source = self.file_named(file).ok()?;
        let of = |rule: &&FlatRule| self.page.prelude(rule).source == source;
        let on: Vec<&FlatRule> = self.page.rules.iter().filter(of).collect();
        if let (true, Some(off)) = (on.is_empty(), self.page.off_rules.iter().find(of)) {
            let reason = off.within.off.as_ref().map(|o| self.off_in_words(o))?;
            return Some(format!("no rule of it is on: {reason}"));
        }
        let matcher = self.page.matcher();
        let takes = |r: &&FlatRule| self.page.document.all_ids().any(|e| !self.taken_by(&matcher, r, e).is_empty());
        (!on.iter().any(takes)).then(|| "no rule of it takes an element of the page".to_owned())
    }
}

/// Whether a simple selector in some selectors fits, also inside of `:is()` and the like.
fn any_simple(list: &SelectorList, fits: &dyn Fn(&Simple) -> bool) -> bool {
    let mut parts = list.selectors.iter().flat_map(|s| &s.compounds).flat_map(|c| &c.parts);
    parts.any(|p| match &p.simple {
        Simple::PseudoClass(pseudo) => pseudo.list().is_some_and(|l| any_simple(l, fits)),
        Simple::Nesting(parent) => parent.as_ref().is_some_and(|l| any_simple(l, fits)),
        simple => fits(simple),
    })
}

/// Whether some selectors ask for a class.
fn asks_for(list: &SelectorList, class: &str) -> bool {
    any_simple(list, &|simple| matches!(simple, Simple::Class(name) if **name == *class))
}

/// Whether some selectors ask for an attribute, by its name or as a class or id.
fn asks_for_attribute(list: &SelectorList, name: &str) -> bool {
    any_simple(list, &|simple| match simple {
        Simple::Attribute(test) => (*test.lower).eq_ignore_ascii_case(name),
        Simple::Class(_) => name == "class",
        Simple::Id(_) => name == "id",
        _ => false,
    })
}

impl Trial {
    /// The rules that a text brought into the page, each as often as the page has it.
    fn rules_put_in(&self, text: &str) -> Vec<Vec<&FlatRule>> {
        let page = &self.study.page;
        let rule = text.trim();
        let ranges: Vec<Span> = self
            .edits
            .iter()
            .filter_map(|edit| {
                let start = crate::source::offset(edit.after.rfind(rule)?);
                let newest =
                    |(_, s): &(SourceId, &crate::source::Source)| s.name == edit.file && *s.text == *edit.after;
                let (source, _) = self.study.sources.iter().filter(newest).last()?;
                Some(Span { source, start, end: start + crate::source::offset(rule.len()) })
            })
            .collect();
        let inside = |r: &&FlatRule| {
            let at = page.prelude(r);
            ranges.iter().any(|range| range.source == at.source && range.start <= at.start && at.start < range.end)
        };
        let mut found: Vec<&FlatRule> = page.rules.iter().chain(&page.off_rules).filter(inside).collect();
        found.sort_by_key(|r| page.prelude(r).start);
        found.chunk_by(|a, b| page.prelude(a) == page.prelude(b)).map(<[_]>::to_vec).collect()
    }
}

impl Sides<'_> {
    /// What becomes of the declarations of a rule.
    fn of_rule(&self, written: &WrittenAt<'_>) -> Vec<String> {
        self.of_rule_on(written, None)
    }

    /// The same on some elements only.
    fn of_rule_on(&self, written: &WrittenAt<'_>, only: Option<&[ElementId]>) -> Vec<String> {
        let study = self.here;
        let named = Named::Rule(written.clone());
        let mut taken = study.taken(&named);
        taken.retain(|(e, _)| only.is_none_or(|only| only.contains(e)));
        let rule = written.rules[0];
        let text = crate::text::shorten(study.sources.written(study.page.prelude(rule)), 80);
        let said = study.said_by(written);
        if said.is_empty() {
            return vec![format!("`{text}` declares nothing")];
        }
        let attribute = study.page.style_rule(rule).is_attribute();
        if taken.is_empty() && !attribute && said.iter().any(|s| s.fate.dropped.is_none()) {
            let hint = study.nearest_name(study.page.selectors(rule)).map(|h| format!(": {h}")).unwrap_or_default();
            return vec![format!("`{text}` takes no element of the page{hint}")];
        }
        if let Some(off) = rule.within.off.as_ref().filter(|_| written.rules.iter().all(|r| r.within.off.is_some())) {
            return vec![format!("`{text}` is off: {}", study.off_in_words(off))];
        }
        let tallies = study.tallies_of(written, &taken);
        let mut told: Vec<String> = tallies.iter().map(|t| self.of_declaration(written, t, &taken)).collect();
        let more = told.len().saturating_sub(MOST);
        told.truncate(MOST);
        if more > 0 {
            told.push(format!("so it is with {more} more declarations of `{text}`"));
        }
        told
    }

    /// What becomes of one declaration.
    fn of_declaration(
        &self,
        written: &WrittenAt<'_>,
        tally: &Tally,
        taken: &[(ElementId, Option<&PseudoElement>)],
    ) -> String {
        let said = crate::text::shorten(&tally.declaration, 80);
        if let Some(why) = &tally.dropped {
            return format!("`{said}` was dropped: {why}");
        }
        let name = |(e, pseudo): &(ElementId, Option<&PseudoElement>)| {
            let label = self.here.page.document.label(*e);
            format!("`{label}{}`", pseudo.map(ToString::to_string).unwrap_or_default())
        };
        let on = |count: usize| match (count, taken) {
            (_, [one]) => name(one),
            (n, all) if n == all.len() => format!("all {n} elements it takes"),
            (n, all) => format!("{n} of {} elements it takes", all.len()),
        };
        let lost = tally.to.first().map(|to| {
            let others = if tally.to.len() > 1 { ", on others to others" } else { "" };
            let part = if tally.partly == tally.loses { " in part" } else { "" };
            format!("loses{part} on {} {to}{others}", on(tally.loses))
        });
        let off = tally.because.first().map(|why| match tally.off {
            0 => format!("does nothing on {}: {why}", on(tally.idle)),
            off => format!("is off on {}: {why}", on(off)),
        });
        let won = (tally.wins > 0).then(|| {
            let same = self.decided(written, tally, taken).map(|why| format!(", but {why}")).unwrap_or_default();
            format!("wins on {}{same}", on(tally.wins))
        });
        let all: Vec<String> = [won, lost, off].into_iter().flatten().collect();
        format!("`{said}` {}", if all.is_empty() { "takes no part".to_owned() } else { all.join("; it ") })
    }

    /// What gives the value on the other side, where a declaration wins on this one.
    fn decided(
        &self,
        written: &WrittenAt<'_>,
        tally: &Tally,
        taken: &[(ElementId, Option<&PseudoElement>)],
    ) -> Option<String> {
        let said = self.here.said_by(written);
        taken.iter().find_map(|(element, pseudo)| {
            let fates = self.here.fates(*element, *pseudo, &written.rules, &said);
            let fate = fates.into_iter().find(|f| f.at == tally.at && f.declaration == tally.declaration)?;
            let longhand = fate.wins.first().filter(|_| fate.loses.is_empty())?;
            let own = self.here.why_of(*element, *pseudo, longhand).ok()?;
            let other = self.there.why_of((self.pair)(*element)?, *pseudo, longhand).ok()?;
            let sentence = other.sentence.trim_end_matches('.');
            // What makes something else of what is declared, where that is what makes it the same.
            let made = own.derivation.last().filter(|step| step.contains(" comes to "));
            let made = made.map(|step| format!(" ({step})")).unwrap_or_default();
            Some(format!("{} {sentence}{made}", self.too))
        })
    }

    /// What becomes of declarations at the end of a `style` attribute.
    fn of_attribute(&self, element: ElementId, declarations: &str) -> Vec<String> {
        let study = self.here;
        let own = study.page.own_rules.get(&element).into_iter().flatten().map(|n| &study.page.rules[*n as usize]);
        let Some(rule) = own.into_iter().find(|r| r.within.attached) else { return Vec::new() };
        let written = WrittenAt { rules: vec![rule], declaration: None };
        let count = Tokens::read(declarations.trim().trim_end_matches(';'))
            .list
            .iter()
            .filter(|t| t.kind == Kind::Semicolon)
            .count()
            + 1;
        let spans: Vec<Span> = study.said_by(&written).into_iter().map(|s| s.span).collect();
        let last = &spans[spans.len().saturating_sub(count)..];
        last.iter().flat_map(|span| self.of_rule(&WrittenAt { declaration: Some(*span), ..written.clone() })).collect()
    }
}
