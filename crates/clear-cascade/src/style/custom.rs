//! Custom properties: their values on one element (CSS Variables 2, §2 and §3; CSS Properties and Values API 1).

use std::sync::Arc;

use rustc_hash::{FxBuildHasher, FxHashMap, FxHashSet};
use smallvec::SmallVec;

use super::cascaded::{Cascaded, Said, cascaded};
use super::customs::Customs;
use super::entry::{Entry, Subject, Target};
use super::typed::{names_in, read_as, typed};
use super::{Style, function, query};
use crate::document::Name;
use crate::limits::DEEPEST_CUSTOM;
use crate::page::Page;
use crate::style::substitution::{self, Failure, Limit};
use crate::stylesheet::CustomDeclared;
use crate::syntax::Slice;
use crate::value::{CustomText, CustomValue, Wide};

/// The initial values of registered custom properties.
fn initial_values(page: &Page, style: &Style) -> Arc<Customs> {
    let registered = page.registrations.iter().filter_map(|(name, registration)| {
        let text = registration.initial.as_deref()?;
        let read = read_as(&registration.syntax, style, text);
        Some((Name::from(name.as_str()), Some(CustomText::new(read.as_deref().unwrap_or(text)))))
    });
    Customs::bottom(registered.collect())
}

/// The custom properties of an element.
pub(super) fn resolve(
    subject: &Subject<'_>,
    entries: &[Entry<'_>],
    parent: Option<&Style>,
    style: &Style,
) -> Arc<Customs> {
    let page = subject.page;
    let inherited = parent.map_or_else(|| initial_values(page, style), |p| p.custom.clone());
    if let Some(own) = plain(page, entries, &inherited) {
        return if own.is_empty() { inherited } else { Customs::over(&inherited, own, Vec::new()) };
    }
    let (mut names, by_name) = names_of(entries);
    let mut resolver = Resolver::new(subject, entries, by_name, &inherited, style);
    let mut own = FxHashMap::with_capacity_and_hasher(names.len(), FxBuildHasher);
    let mut kept_back = Vec::new();
    names.extend(inherited.kept_back.iter().filter(|name| !resolver.by_name.contains_key(name)).collect::<Vec<_>>());
    for name in names {
        let value = resolver.ready_value(name);
        if !resolver.inherits(name) && value.as_ref() != inherited.initial(name) {
            kept_back.push(name.clone());
        }
        if value.as_ref() != inherited.get(name) {
            own.insert(name.clone(), value);
        }
    }
    if own.is_empty() && kept_back == inherited.kept_back {
        inherited
    } else {
        Customs::over(&inherited, own, kept_back)
    }
}

/// What an element changes whose declarations say nothing for custom properties but texts of no type, or what those have anyway;
/// nothing where more is to be done.
fn plain(page: &Page, entries: &[Entry<'_>], inherited: &Customs) -> Option<FxHashMap<Name, Option<CustomValue>>> {
    if !inherited.kept_back.is_empty() {
        return None;
    }
    let mut said: SmallVec<[(&Name, Option<&CustomValue>); 16]> = SmallVec::new();
    for entry in entries {
        if let Target::Custom(name) = entry.property {
            if page.registrations.contains_key(&**name) {
                return None;
            }
            let value = match entry.declaration.custom(&page.sheets[entry.sheet() as usize].sheet) {
                CustomDeclared::Text(value) => Some(value),
                CustomDeclared::Wide(Wide::Initial) => inherited.initial(name),
                CustomDeclared::Wide(Wide::Inherit | Wide::Unset) => inherited.get(name),
                _ => return None,
            };
            said.push((name, value));
        }
    }
    if said.iter().all(|(name, value)| *value == inherited.get(name)) {
        return Some(FxHashMap::default());
    }
    let mut own = FxHashMap::with_capacity_and_hasher(said.len(), FxBuildHasher);
    own.extend(said.into_iter().map(|(name, value)| (name.clone(), value.cloned())));
    own.retain(|name, value| value.as_ref() != inherited.get(name));
    Some(own)
}

/// One custom property of an element whose style is known.
pub(crate) fn resolve_one(
    subject: &Subject<'_>,
    entries: &[Entry<'_>],
    parent: Option<&Style>,
    style: &Style,
    name: &Name,
) -> Option<CustomValue> {
    let inherited = parent.map_or_else(|| initial_values(subject.page, style), |p| p.custom.clone());
    let (_, by_name) = names_of(entries);
    Resolver::new(subject, entries, by_name, &inherited, style).ready_value(name)
}

/// Places in a list of declarations; mostly one is enough.
type Places = SmallVec<[u32; 2]>;

/// The custom properties that declarations set, in the order in which they are met, and where each is.
fn names_of<'s>(entries: &[Entry<'s>]) -> (Vec<&'s Name>, FxHashMap<&'s Name, Places>) {
    let declared = entries.iter().filter(|e| matches!(e.property, Target::Custom(_))).count();
    let mut names: Vec<&Name> = Vec::with_capacity(declared);
    let mut by_name: FxHashMap<&Name, Places> = FxHashMap::with_capacity_and_hasher(declared, FxBuildHasher);
    for (i, entry) in entries.iter().enumerate() {
        if let Target::Custom(name) = entry.property {
            let of_name = by_name.entry(name).or_default();
            if of_name.is_empty() {
                names.push(name);
            }
            of_name.push(crate::source::offset(i));
        }
    }
    (names, by_name)
}

/// Works the values out, each when it is first needed.
struct Resolver<'r, 's> {
    /// The element.
    subject: &'r Subject<'s>,
    /// The declarations, weakest first.
    entries: &'r [Entry<'s>],
    /// Those of each custom property.
    by_name: FxHashMap<&'s Name, Places>,
    /// The parent's values.
    inherited: &'r Customs,
    /// The element's style as far as it is known: what units are relative to.
    style: &'r Style,
    /// Values that are known.
    done: FxHashMap<Name, Option<CustomValue>>,
    /// Properties being worked out.
    open: Vec<Name>,
    /// The calls of custom functions that the innermost of these makes.
    calls: substitution::Calls,
    /// Properties found to depend on themselves, each with the outermost one of its cycle that was being worked out.
    cyclic: FxHashMap<Name, Name>,
    /// Properties whose value went beyond a limit.
    cut_off: Vec<(Name, Limit)>,
}

impl<'r, 's> Resolver<'r, 's> {
    /// Nothing worked out yet.
    fn new(
        subject: &'r Subject<'s>,
        entries: &'r [Entry<'s>],
        by_name: FxHashMap<&'s Name, Places>,
        inherited: &'r Customs,
        style: &'r Style,
    ) -> Self {
        Self {
            subject,
            entries,
            by_name,
            inherited,
            style,
            done: FxHashMap::default(),
            open: Vec::new(),
            calls: substitution::Calls::default(),
            cyclic: FxHashMap::default(),
            cut_off: Vec::new(),
        }
    }

    /// The value of a property, with all that it needs worked out before.
    fn ready_value(&mut self, name: &Name) -> Option<CustomValue> {
        self.plain(name).unwrap_or_else(|| {
            if self.may_need_others(name) {
                self.prepare(name);
            } else if self.by_name.contains_key(name) && !self.done.contains_key(name) {
                // All that it needs is there, so that it is in no cycle.
                let calls = std::mem::take(&mut self.calls);
                let value = self.declared(name);
                self.calls = calls;
                self.keep(name, value.as_ref());
                return value;
            }
            self.value(name)
        })
    }

    /// The value of a property that is declared once, as a text of no type: nothing needs to be worked out.
    fn plain(&self, name: &Name) -> Option<Option<CustomValue>> {
        let [only] = self.by_name.get(name)?.as_slice() else { return None };
        let entry = &self.entries[*only as usize];
        let page = self.subject.page;
        match entry.declaration.custom(&page.sheets[entry.sheet() as usize].sheet) {
            CustomDeclared::Text(value) if page.custom_syntax(name).is_none() => Some(Some(value.clone())),
            _ => None,
        }
    }

    /// Whether a property may need others that are declared here and not worked out.
    fn may_need_others(&self, name: &Name) -> bool {
        self.by_name.get(name).into_iter().flatten().any(|at| {
            let entry = &self.entries[*at as usize];
            let sheet = &self.subject.page.sheets[entry.sheet() as usize].sheet;
            if !matches!(entry.declaration.custom(sheet), CustomDeclared::Substitute(_)) {
                return false;
            }
            let mut needs = false;
            let mut need = |name: &Name| needs |= self.by_name.contains_key(name) && !self.done.contains_key(name);
            match entry.declaration.pieces(sheet) {
                Some(pieces) => pieces.iter().for_each(|piece| piece.each_name(&mut need)),
                None => return true,
            }
            needs
        })
    }

    /// Works out what a property needs, and what that needs, so that chains of `var()` may be as long as they like.
    fn prepare(&mut self, name: &Name) {
        // What is not declared here needs nothing.
        if !self.by_name.contains_key(name) {
            return;
        }
        let mut met: FxHashSet<Name> = FxHashSet::default();
        let mut open = vec![(name.clone(), false)];
        while let Some((name, ready)) = open.pop() {
            if ready {
                self.value(&name);
            } else if !self.done.contains_key(&name) && met.insert(name.clone()) {
                let needs = self.references(&name);
                open.push((name, true));
                open.extend(needs.into_iter().map(|n| (n, false)));
            }
        }
    }

    /// The custom properties that the declarations of one name.
    fn references(&self, name: &Name) -> Vec<Name> {
        let mut found = Vec::new();
        for at in self.by_name.get(name).into_iter().flatten() {
            let entry = &self.entries[*at as usize];
            let sheet = &self.subject.page.sheets[entry.sheet() as usize].sheet;
            if !matches!(entry.declaration.custom(sheet), CustomDeclared::Substitute(_)) {
                continue;
            }
            match entry.declaration.pieces(sheet) {
                Some(pieces) => pieces.iter().for_each(|piece| piece.each_name(&mut |name| found.push(name.clone()))),
                None => found.extend(names_in(sheet.value(entry.declaration))),
            }
        }
        found
    }

    /// The value of a custom property; nothing where it is guaranteed-invalid.
    fn value(&mut self, name: &Name) -> Option<CustomValue> {
        if !self.by_name.contains_key(name) {
            return self.unset(name);
        }
        if let Some(done) = self.done.get(name) {
            let done = done.clone();
            // What needs one that needs itself by way of one that is still being worked out is in the same cycle.
            if let Some(at) = self.cyclic.get(name).and_then(|root| self.open.iter().position(|o| o == root)) {
                self.close(at);
            }
            return done;
        }
        if let Some(at) = self.open.iter().position(|o| o == name) {
            self.close(at);
            return None;
        }
        if self.open.len() > DEEPEST_CUSTOM {
            // What is needed was worked out before, so that this deep there is a cycle.
            self.close(0);
            return None;
        }
        self.open.push(name.clone());
        let calls = std::mem::take(&mut self.calls);
        let mut value = self.declared(name);
        self.calls = calls;
        self.open.pop();
        if self.cyclic.contains_key(name) {
            value = self.invalid(name);
        }
        self.keep(name, value.as_ref());
        value
    }

    /// Takes down a value that is known.
    fn keep(&mut self, name: &Name, value: Option<&CustomValue>) {
        if self.done.is_empty() {
            // Room for the few that most elements work out, so that the table is not moved for each.
            self.done.reserve(14);
        }
        self.done.insert(name.clone(), value.cloned());
    }

    /// All that is being worked out from a place on is in a cycle, and invalid.
    fn close(&mut self, at: usize) {
        let place = |name: &Name| self.open.iter().position(|o| o == name);
        for name in &self.open[at..] {
            let outer = self.cyclic.get(name).and_then(place).map_or(at, |before| before.min(at));
            self.cyclic.insert(name.clone(), self.open[outer].clone());
        }
    }

    /// Whether a property inherits.
    fn inherits(&self, name: &Name) -> bool {
        self.subject.page.registrations.get(&**name).is_none_or(|r| r.inherits)
    }

    /// The value of a property that is not set here.
    fn unset(&self, name: &Name) -> Option<CustomValue> {
        let value = if self.inherits(name) { self.inherited.get(name) } else { self.inherited.initial(name) };
        value.cloned()
    }

    /// The value of a property whose declaration is invalid at computed-value time.
    fn invalid(&self, name: &Name) -> Option<CustomValue> {
        match self.subject.page.registrations.get(&**name) {
            Some(r) if r.syntax != "*" => self.unset(name),
            _ => None,
        }
    }

    /// The value that declarations give.
    fn declared(&mut self, name: &Name) -> Option<CustomValue> {
        let (page, style, entries) = (self.subject.page, self.style, self.entries);
        let own = self.by_name.get(name).cloned().unwrap_or_default();
        let mut cut_off = None;
        let own = own.into_iter().rev().map(|i| &entries[i as usize]);
        let mut failed = |failure| {
            if let Failure::CutOff(limit) = failure {
                cut_off = Some(limit);
            }
        };
        let (cascaded, _) = cascaded(own, |entry| said(page, entry, style, self, &mut failed));
        if let Some(limit) = cut_off {
            self.cut_off.push((name.clone(), limit));
        }
        match cascaded {
            Cascaded::Value(value) => value,
            Cascaded::Initial => self.inherited.initial(name).cloned(),
            Cascaded::Inherit => self.inherited.get(name).cloned(),
            Cascaded::Unset => self.unset(name),
        }
    }
}

/// What a declaration says for a custom property; a value of none is the guaranteed-invalid one. `failed` is told where
/// something cannot be put in.
pub(super) fn said(
    page: &Page,
    entry: &Entry<'_>,
    style: &Style,
    lookup: &mut dyn substitution::Lookup,
    failed: &mut dyn FnMut(Failure),
) -> Said<Option<CustomValue>> {
    let Target::Custom(name) = entry.property else {
        return Said::Nothing;
    };
    // What is invalid at computed-value time is as good as not declared where there is a type (CSS Properties and Values
    // API 1, §2.3).
    let invalid = || match page.custom_syntax(name) {
        Some(_) => Said::Wide(Wide::Unset),
        None => Said::Value(None),
    };
    let sheet = &page.sheets[entry.sheet() as usize].sheet;
    let text = match entry.declaration.custom(sheet) {
        CustomDeclared::Broken => return Said::Nothing,
        CustomDeclared::Wide(wide) => return Said::Wide(*wide),
        CustomDeclared::Text(value) if page.custom_syntax(name).is_none() => return Said::Value(Some(value.clone())),
        CustomDeclared::Text(value) => Ok(value.clone().into()),
        CustomDeclared::Substitute(_) => substitution::substitute_in(entry.declaration, sheet, lookup),
    };
    let text = match text {
        Ok(text) => text,
        Err(failure) => {
            failed(failure);
            return invalid();
        }
    };
    match Wide::in_text(&text) {
        Some(wide) => Said::Wide(wide),
        None => typed(page, style, name, text).map_or_else(invalid, |value| Said::Value(Some(value))),
    }
}

impl substitution::Lookup for Resolver<'_, '_> {
    fn custom(&mut self, name: &Name) -> Result<CustomValue, Failure> {
        match self.value(name) {
            Some(value) => Ok(value),
            None => {
                let limit = self.cut_off.iter().find(|(of, _)| of == name).map(|(_, limit)| *limit);
                Err(limit.map_or(Failure::Nothing, Failure::CutOff))
            }
        }
    }

    fn call(&mut self, name: &str, arguments: &[Option<String>]) -> Result<String, Failure> {
        function::call(self.subject.page, self.style, self, name, arguments)
    }

    fn calls(&mut self) -> &mut substitution::Calls {
        &mut self.calls
    }

    fn needs_itself(&self) -> bool {
        self.open.last().is_some_and(|name| self.cyclic.contains_key(name))
    }

    fn test(&mut self, function: Slice<'_>, on: Option<&Style>) -> Option<bool> {
        if let Some(style) = on {
            return query::test(self.subject.page, function, (style, query::Asker::If), &mut self.calls);
        }
        // Custom properties that a test asks about are worked out first, so that cycles are found.
        let known = names_in(function).into_iter().map(|name| (name.clone(), self.value(&name))).collect();
        let under = Arc::new(Customs::default());
        let style = self.style.with_custom(Customs::over(&under, known, Vec::new()));
        query::test(self.subject.page, function, (&style, query::Asker::If), &mut self.calls)
    }

    fn attribute(&self, name: &str) -> Option<String> {
        self.subject.page.document.node(self.subject.element).attribute(name).map(str::to_owned)
    }
}
