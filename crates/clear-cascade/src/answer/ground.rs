//! What all contests of one element or pseudo-element go by: each thing is found when it is first asked for, once for all of them.

use std::cell::OnceCell;

use rustc_hash::{FxHashMap, FxHashSet};
use smallvec::SmallVec;

use super::asked::About;
use crate::cascade::Origin;
use crate::page::FlatRule;
use crate::source::Span;
use crate::style::{self, Entry, Matched, Target, Wanted};

/// A declaration of a rule, by what it sets, and the stronger one of another rule that sets the same.
type Rivalry<'s> = (Target<'s>, Entry<'s>);

/// What the contests of an element or a pseudo-element of it go by.
pub(super) struct Ground<'s> {
    /// The element.
    pub(super) about: About<'s>,
    /// The rules that take it.
    matched: Vec<Matched<'s>>,
    /// All that is declared for it, weakest first.
    entries: OnceCell<Vec<Entry<'s>>>,
    /// The rules that take an element around it, by their preludes.
    around: OnceCell<FxHashSet<Span>>,
    /// The rules that would take it and are off, and why.
    off: OnceCell<Vec<(&'s FlatRule, Matched<'s>, String)>>,
    /// For each rule, the first two properties in which a heavier rule of the page overrides it.
    rivals: OnceCell<FxHashMap<u32, SmallVec<[Rivalry<'s>; 2]>>>,
}

impl<'s> Ground<'s> {
    /// That of an element which some rules take.
    pub(super) fn new(about: About<'s>, matched: Vec<Matched<'s>>) -> Self {
        Self {
            about,
            matched,
            entries: OnceCell::new(),
            around: OnceCell::new(),
            off: OnceCell::new(),
            rivals: OnceCell::new(),
        }
    }

    /// The same with all that is declared, weakest first, where that is known.
    pub(super) fn with(self, entries: Vec<Entry<'s>>) -> Self {
        Self { entries: OnceCell::from(entries), ..self }
    }

    /// The rules that take the element or a pseudo-element of it.
    pub(super) fn matched(&self) -> &[Matched<'s>] {
        &self.matched
    }

    /// All that is declared, weakest first.
    pub(super) fn entries(&self) -> &[Entry<'s>] {
        let About { study, element, pseudo } = self.about;
        let gather = || style::entries_of(&study.page, study.styles(), element, &self.matched, pseudo, Wanted::All);
        self.entries.get_or_init(gather)
    }

    /// The prelude of a rule that took something.
    fn prelude(&self, rule: u32) -> Option<Span> {
        let page = &self.about.study.page;
        Some(page.prelude(page.rules.get(rule as usize)?))
    }

    /// Whether one of these declarations stands in a rule that takes an element around this one, too, or the element that this
    /// pseudo-element is of.
    pub(super) fn is_around(&self, declarations: &[Entry<'_>]) -> bool {
        let About { study, element, pseudo } = self.about;
        let around = self.around.get_or_init(|| {
            let matcher = study.page.rule_matcher();
            let around = study.page.document.flat_lineage(element).skip(1);
            let outer = around.flat_map(|e| style::matched_rules(&study.page, &matcher, e));
            let own = self.matched.iter().filter(|m| pseudo.is_some() && m.pseudo.is_none()).copied();
            outer.chain(own).filter_map(|m| self.prelude(m.rule)).collect()
        });
        declarations.iter().any(|e| self.prelude(e.rule()).is_some_and(|prelude| around.contains(&prelude)))
    }

    /// The rules that would take it, each with the reason for which it is off: those that are off on the whole page first.
    pub(super) fn off(&self) -> &[(&'s FlatRule, Matched<'s>, String)] {
        let About { study, element, pseudo } = self.about;
        self.off.get_or_init(|| {
            let matcher = study.page.matcher();
            let reached = style::Reached::new(&study.page, &matcher, element);
            let mut found: Vec<(&FlatRule, Matched<'_>)> = Vec::new();
            let may_take = study.page.off_candidates(element).into_iter();
            for rule in may_take.filter(|r| r.within.origin == Origin::Author) {
                let mut matched = Vec::new();
                reached.by(rule, u32::MAX, &mut matched);
                found.extend(matched.into_iter().map(|m| (rule, m)));
            }
            found.extend(self.matched.iter().map(|m| (&study.page.rules[m.rule as usize], *m)));
            let here = found.into_iter().filter(|(_, m)| m.pseudo == pseudo);
            here.filter_map(|(rule, m)| Some((rule, m, study.why_off(rule, element, pseudo)?))).collect()
        })
    }

    /// A heavier rule of the page's own that overrides another declaration than this one of the same rule.
    pub(super) fn rival(&self, winner: &Entry<'_>) -> Option<&Entry<'s>> {
        let rivals = self.rivals.get_or_init(|| {
            let strongest: FxHashMap<Target<'_>, &Entry<'s>> = self.entries().iter().map(|e| (e.property, e)).collect();
            let mut rivals: FxHashMap<u32, SmallVec<[Rivalry<'s>; 2]>> = FxHashMap::default();
            for own in self.entries() {
                let rival = strongest[&own.property];
                let heavier =
                    rival.rule() != own.rule() && rival.origin() == Origin::Author && rival.selector().is_some();
                if heavier {
                    let found = rivals.entry(own.rule()).or_default();
                    if found.len() < 2 && found.iter().all(|(property, _)| *property != own.property) {
                        found.push((own.property, rival.clone()));
                    }
                }
            }
            rivals
        });
        rivals.get(&winner.rule())?.iter().find(|(property, _)| *property != winner.property).map(|(_, rival)| rival)
    }
}
