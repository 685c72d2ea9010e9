//! What is beside a contest: the conditions around contenders, declarations that are off or were dropped, and remarks.

use rustc_hash::FxHashSet;

use super::{Contest, OffContender};
use crate::answer::asked::About;
use crate::answer::derive;
use crate::cascade::Origin;
use crate::page::FlatRule;
use crate::property::Declared;
use crate::style::substitution::Failure;
use crate::style::{self, Entry, Matched};
use crate::stylesheet::{Note, NoteKind, Property};

impl<'s> Contest<'s> {
    /// The conditions and scopes around a declaration, from the outside in.
    pub(super) fn conditions(&self, entry: &Entry<'s>) -> Vec<String> {
        let rule = self.study.page.rules.get(entry.rule() as usize);
        rule.map_or_else(Vec::new, |rule| self.study.conditions_around(rule))
    }

    /// Declarations for the property that were dropped in rules that take the element.
    pub(super) fn dropped_here(&self) -> Vec<String> {
        let mut found: Vec<String> = Vec::new();
        for m in self.ground.matched().iter().filter(|m| m.pseudo == self.pseudo) {
            let rule = &self.study.page.rules[m.rule as usize];
            let rules = [rule];
            let misspelt = self
                .study
                .dropped_in(&rules)
                .filter(|n| n.hint.as_ref().is_some_and(|h| h.contains(&format!("`{}`", self.asked.name))));
            let misspelt = misspelt.map(|n| {
                let hint = n.hint.as_deref().unwrap_or_default();
                let message = n.message.strip_suffix("; the declaration is dropped").unwrap_or(&n.message);
                let end = self.study.page.end_of(rule);
                let said = crate::text::shorten(&self.study.declaration_from(n.span, end), 80);
                format!("`{said}` in {}: {message}; {hint}", self.study.sources.placed(n.span))
            });
            found.extend(self.dropped(rule).into_iter().chain(misspelt));
        }
        found
    }

    /// Declarations for the property in rules that a condition keeps off.
    pub(super) fn off(&self) -> Vec<OffContender> {
        let off = self.ground.off().iter();
        off.flat_map(|(rule, m, why)| self.off_contenders(rule, m, why)).collect()
    }

    /// What a rule that is off would say for the property, the strongest first.
    fn off_contenders(&self, rule: &FlatRule, m: &Matched<'_>, reason: &str) -> Vec<OffContender> {
        let study = self.study;
        let mut entries = Vec::new();
        style::add_entries(&study.page, rule, m, &mut entries);
        let sheet = &study.page.sheets[rule.sheet as usize].sheet;
        let selector = m.selector.and_then(|i| study.page.selectors(rule).selectors.get(i as usize));
        let mut seen = FxHashSet::default();
        let idle = self.asked.longhand.and_then(|longhand| self.ground.about.applies_not(longhand.name(), &[longhand]));
        let reason = idle.map_or_else(|| reason.to_owned(), |idle| format!("{reason}; besides, {idle}"));
        let sets = entries.iter().rev().filter(|e| super::sets(e.property, &self.asked, &self.style));
        let told = sets.filter(|e| seen.insert(e.declaration.span)).map(|entry| OffContender {
            property: entry.declaration.name().to_owned(),
            value: sheet.value(entry.declaration).text().to_owned(),
            at: study.sources.placed(entry.declaration.span),
            selector: selector.map(|s| study.sources.written(s.span).to_owned()),
            reason: reason.clone(),
        });
        told.collect()
    }

    /// What the answer depends on: sheets that are missing, and declarations of the property that were dropped in rules
    /// that take the element.
    pub(super) fn notes(&self) -> Vec<String> {
        let study = self.study;
        let mut notes: Vec<String> = Vec::new();
        for entry in self.contenders.iter().filter(|e| matches!(e.declared, Some(Declared::Substitute(_)) | None)) {
            let subject = About { study, element: self.element, pseudo: self.pseudo };
            let cut = style::substituted_text(&subject.computed(), entry, &self.style);
            if let Err(Failure::CutOff(limit)) = cut {
                notes.push(format!("{}: {}", study.sources.placed(entry.declaration.span), derive::cut_off(limit)));
            }
        }
        if study.page.document.written_in(self.element).is_some() {
            notes.extend(study.parsed_otherwise(self.element));
        }
        let unsure = |n: &&Note| matches!(n.kind, NoteKind::Sheet | NoteKind::Unchosen | NoteKind::Undecided);
        for note in study.noted().filter(unsure) {
            let text = format!("{}: {}", study.sources.placed(note.span), note.message);
            if !notes.contains(&text) {
                notes.push(text);
            }
        }
        notes
    }

    /// Declarations of the property in a rule whose value the property does not take, or which does not apply here.
    fn dropped(&self, rule: &FlatRule) -> Vec<String> {
        let sheet = &self.study.page.sheets[rule.sheet as usize].sheet;
        let mut out = Vec::new();
        if rule.within.origin == Origin::Defaults {
            return out;
        }
        for declaration in sheet.declarations(&sheet.rules[rule.rule as usize]) {
            let Property::Known(id) = &declaration.property else {
                continue;
            };
            let about = id.longhands_of().into_iter().any(|l| Some(self.style.flow.physical(l)) == self.asked.longhand);
            let reason = match declaration.longhands(sheet) {
                Err(mismatch) => {
                    let hint = mismatch.hint.as_ref().map(|h| format!("; {h}")).unwrap_or_default();
                    Some(format!("{}{hint}", mismatch.message))
                }
                Ok(_) => {
                    self.asked.longhand.and_then(|longhand| self.ground.about.applies_not(longhand.name(), &[longhand]))
                }
            };
            if let Some(reason) = reason.filter(|_| about) {
                let (said, value) = (declaration.name(), sheet.value(declaration).text());
                let said = crate::text::shorten(&format!("{said}: {value}"), 80);
                let place = self.study.sources.placed(declaration.span);
                out.push(format!("`{said}` in {place}: {reason}"));
            }
        }
        out
    }
}
