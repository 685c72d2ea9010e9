//! Custom properties: their values on one element (CSS Variables 2, §2 and §3; CSS Properties and Values API 1).

use std::collections::{BTreeMap, HashMap, HashSet};
use std::sync::Arc;

use super::cascaded::{Cascaded, Said, cascaded};
use super::gather::{Entry, Target};
use super::winners::Subject;
use super::{Style, function};
use crate::document::Name;
use crate::property;
use crate::study::Study;
use crate::stylesheet::Registration;
use crate::syntax::{Kind, Slice, Tokens};
use crate::value::{
    Value, Wide,
    substitution::{self, Failure},
};

/// The value of a custom property.
#[derive(Clone, Debug, PartialEq)]
pub(crate) struct CustomValue {
    /// As it was written, with what is put in: what `var()` stands for, and what `style()` asks about.
    pub(crate) written: Arc<str>,
    /// Its tokens written anew: what is shown, one line however it was written.
    pub(crate) shown: Arc<str>,
}

impl CustomValue {
    /// A value from its text.
    pub(super) fn new(text: &str) -> Self {
        let written: Arc<str> = Arc::from(text.trim());
        let shown = Tokens::read(&written).all().trim().serialized();
        let shown = if *shown == *written { written.clone() } else { Arc::from(shown) };
        Self { written, shown }
    }
}

/// The custom properties of an element.
pub(super) fn resolve(
    subject: &Subject<'_>,
    entries: &[Entry<'_>],
    parent: Option<&Style>,
    style: &Style,
) -> Arc<BTreeMap<Name, CustomValue>> {
    let registrations = &subject.study.registrations;
    let declares = entries.iter().any(|e| matches!(e.property, Target::Custom(_)));
    if !declares && registrations.is_empty() {
        return parent.map(|p| p.custom.clone()).unwrap_or_default();
    }
    let mut by_name: HashMap<&Name, Vec<usize>> = HashMap::new();
    for (i, entry) in entries.iter().enumerate() {
        if let Target::Custom(name) = entry.property {
            by_name.entry(name).or_default().push(i);
        }
    }
    let mut resolver = Resolver {
        subject,
        entries,
        by_name,
        parent,
        style,
        done: HashMap::new(),
        open: Vec::new(),
        calls: substitution::Calls::default(),
        cyclic: Vec::new(),
        cut_off: Vec::new(),
    };
    let mut names: Vec<Name> = parent.map(|p| p.custom.keys().cloned().collect()).unwrap_or_default();
    names.extend(
        entries.iter().filter_map(|e| if let Target::Custom(name) = e.property { Some(name.clone()) } else { None }),
    );
    names.extend(registrations.keys().map(|n| Name::from(n.as_str())));
    names.sort();
    names.dedup();
    let mut found = BTreeMap::new();
    for name in names {
        resolver.prepare(&name);
        if let Some(value) = resolver.value(&name) {
            found.insert(name, value);
        }
    }
    Arc::new(found)
}

/// Works the values out, each when it is first needed.
struct Resolver<'r, 's> {
    /// The element.
    subject: &'r Subject<'s>,
    /// The declarations, weakest first.
    entries: &'r [Entry<'s>],
    /// Those of each custom property.
    by_name: HashMap<&'s Name, Vec<usize>>,
    /// The parent's values.
    parent: Option<&'r Style>,
    /// The element's style as far as it is known: what units are relative to.
    style: &'r Style,
    /// Values that are known.
    done: HashMap<Name, Option<CustomValue>>,
    /// Properties being worked out.
    open: Vec<Name>,
    /// The calls of custom functions that the innermost of these makes.
    calls: substitution::Calls,
    /// Properties found to depend on themselves.
    cyclic: Vec<Name>,
    /// Properties whose value grew beyond all bounds.
    cut_off: Vec<Name>,
}

/// How many properties may be worked out inside one another: what they need is worked out before.
const DEEPEST: usize = 32;

impl Resolver<'_, '_> {
    /// Works out what a property needs, and what that needs, so that chains of `var()` may be as long as they like.
    fn prepare(&mut self, name: &Name) {
        // What is not declared here needs nothing.
        if !self.by_name.contains_key(name) {
            return;
        }
        let mut met: HashSet<Name> = HashSet::new();
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
            let entry = &self.entries[*at];
            found.extend(names_in(self.subject.study.sheets[entry.sheet as usize].sheet.value(entry.declaration)));
        }
        found
    }

    /// The value of a custom property; nothing where it is guaranteed-invalid.
    fn value(&mut self, name: &Name) -> Option<CustomValue> {
        if let Some(done) = self.done.get(name) {
            return done.clone();
        }
        if let Some(at) = self.open.iter().position(|o| o == name) {
            // All members of a cycle are invalid.
            let members: Vec<Name> = self.open[at..].to_vec();
            self.cyclic.extend(members);
            return None;
        }
        if self.open.len() > DEEPEST {
            // What is needed was worked out before, so that this deep there is a cycle.
            self.cyclic.extend(self.open.clone());
            return None;
        }
        self.open.push(name.clone());
        let calls = std::mem::take(&mut self.calls);
        let mut value = self.declared(name);
        self.calls = calls;
        self.open.pop();
        if self.cyclic.contains(name) {
            value = self.invalid(name);
        }
        self.done.insert(name.clone(), value.clone());
        value
    }

    /// The registration of a property.
    fn registration(&self, name: &Name) -> Option<&Registration> {
        self.subject.study.registrations.get(&**name).filter(|r| r.syntax != "*" || r.initial.is_some())
    }

    /// The inherited value.
    fn inherited(&self, name: &Name) -> Option<CustomValue> {
        match self.parent {
            Some(parent) => parent.custom.get(name).cloned(),
            None => self.initial(name),
        }
    }

    /// The initial value: that of its registration.
    fn initial(&self, name: &Name) -> Option<CustomValue> {
        let registration = self.registration(name)?;
        let text = registration.initial.as_deref()?;
        Some(CustomValue::new(&read_as(&registration.syntax, self.style, text).unwrap_or_else(|| text.to_owned())))
    }

    /// The value of a property that is not set here.
    fn unset(&self, name: &Name) -> Option<CustomValue> {
        match self.subject.study.registrations.get(&**name) {
            Some(r) if !r.inherits => self.initial(name),
            _ => self.inherited(name),
        }
    }

    /// The value of a property whose declaration is invalid at computed-value time.
    fn invalid(&self, name: &Name) -> Option<CustomValue> {
        match self.subject.study.registrations.get(&**name) {
            Some(r) if r.syntax != "*" => self.unset(name),
            _ => None,
        }
    }

    /// The value that declarations give.
    fn declared(&mut self, name: &Name) -> Option<CustomValue> {
        let (study, style, entries) = (self.subject.study, self.style, self.entries);
        let own = self.by_name.get(name).cloned().unwrap_or_default();
        let mut cut_off = false;
        let own = own.into_iter().rev().map(|i| &entries[i]);
        let (cascaded, _) =
            cascaded(own, |entry| said(study, entry, style, self, &mut |f| cut_off |= f == Failure::CutOff));
        if cut_off {
            self.cut_off.push(name.clone());
        }
        match cascaded {
            Cascaded::Value(value) => value,
            Cascaded::Initial => self.initial(name),
            Cascaded::Inherit => self.inherited(name),
            Cascaded::Unset => self.unset(name),
        }
    }
}

/// What a declaration says for a custom property; a value of none is the guaranteed-invalid one. `failed` is told where
/// something cannot be put in.
pub(super) fn said(
    study: &Study,
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
    let invalid = || match study.custom_syntax(name) {
        Some(_) => Said::Wide(Wide::Unset),
        None => Said::Value(None),
    };
    let slice = study.sheets[entry.sheet as usize].sheet.value(entry.declaration);
    let text = match substitution::needed(slice) {
        Ok(false) => slice.text().to_owned(),
        Ok(true) => match substitution::substitute(slice, lookup) {
            Ok(text) => text,
            Err(failure) => {
                failed(failure);
                return invalid();
            }
        },
        Err(_) => return Said::Nothing,
    };
    match Wide::of(Tokens::read(&text).all()) {
        Some(wide) => Said::Wide(wide),
        None => typed(study, style, name, text.trim()).map_or_else(invalid, |value| Said::Value(Some(value))),
    }
}

/// The value of a custom property in the type of its registration; nothing where the text is none.
pub(super) fn typed(study: &Study, style: &Style, name: &str, text: &str) -> Option<CustomValue> {
    match study.custom_syntax(name) {
        Some(syntax) => read_as(syntax, style, text).map(|text| CustomValue::new(&text)),
        None => Some(CustomValue::new(text)),
    }
}

/// A text read and computed as the type that a syntax string names.
pub(super) fn read_as(syntax: &str, style: &Style, text: &str) -> Option<String> {
    if syntax.trim() == "*" {
        return Some(text.to_owned());
    }
    let tokens = Tokens::read(text);
    let value = property::match_syntax(syntax, tokens.all())?;
    let value = match value.absolute(&style.context) {
        Value::Color(color) => Value::Color(Arc::new(color.computed(style.dark, &style.context))),
        other => other,
    };
    Some(value.text())
}

impl substitution::Lookup for Resolver<'_, '_> {
    fn custom(&mut self, name: &str) -> Result<String, Failure> {
        let name = Name::from(name);
        match self.value(&name) {
            Some(value) => Ok(value.written.to_string()),
            None if self.cut_off.contains(&name) => Err(Failure::CutOff),
            None => Err(Failure::Nothing),
        }
    }

    fn call(&mut self, name: &str, arguments: &[Option<String>]) -> Result<String, Failure> {
        function::call(self.subject.study, self.style, self, name, arguments)
    }

    fn calls(&mut self) -> &mut substitution::Calls {
        &mut self.calls
    }

    fn test(&mut self, function: Slice<'_>) -> Option<bool> {
        // Custom properties that a test asks about are worked out first, so that cycles are found.
        for name in names_in(function) {
            self.value(&name);
        }
        let known = self.done.iter().filter_map(|(n, v)| v.clone().map(|v| (n.clone(), v))).collect();
        let style = Style { custom: Arc::new(known), ..self.style.clone() };
        super::query::test(self.subject.study, function, &style, &mut self.calls)
    }

    fn attribute(&self, name: &str) -> Option<String> {
        self.subject.study.document.element(self.subject.element).attribute(name).map(str::to_owned)
    }
}

/// The custom properties that a value or test names.
pub(super) fn names_in(test: Slice<'_>) -> Vec<Name> {
    let names = (test.from..test.to).filter_map(|i| {
        let here = Slice { from: i, ..test };
        let token = here.peek().filter(|t| t.kind == Kind::Ident)?;
        Some(here.name(token)).filter(|n| n.starts_with("--")).map(|n| Name::from(&*n))
    });
    names.collect()
}
