//! Custom properties that need themselves (CSS Variables 2, §2.3 "Resolving Dependency Cycles").

use std::collections::BTreeMap;

use rustc_hash::{FxHashMap, FxHashSet};

use crate::document::{ElementId, Name};
use crate::source::Place;
use crate::study::Study;
use crate::style::{Entry, Target, Wanted, names_in};
use crate::stylesheet::Property;

/// Names, each with those that it needs.
type Needs = BTreeMap<Name, FxHashSet<Name>>;

/// The circles of a page: the place of the first property of each, their names in the order in which they need each other, and an
/// element that they are on.
pub(super) fn of(study: &Study) -> Vec<(Place, Vec<String>, ElementId)> {
    let mut found = Vec::new();
    let all = without_ends(declared(study));
    for element in study.page.document.all_ids().filter(|_| !all.is_empty()) {
        // What has a value needs itself nowhere.
        let style = study.style(element);
        let open: FxHashSet<&Name> = all.keys().filter(|name| style.custom.get(name).is_none()).collect();
        if open.is_empty() {
            continue;
        }
        let (_, entries) = study.entries_wanted(element, None, Wanted::Customs(&|name| open.contains(name)));
        // They come weakest first.
        let winners: BTreeMap<&Name, &Entry<'_>> = entries
            .iter()
            .filter_map(|e| if let Target::Custom(name) = e.property { Some((name, e)) } else { None })
            .collect();
        let names = |e: &Entry<'_>| names_in(study.page.sheets[e.sheet() as usize].sheet.value(e.declaration));
        let needs = winners.iter().map(|(name, e)| ((*name).clone(), names(e).into_iter().collect()));
        let mut needs = without_ends(needs.collect());
        while let Some(first) = needs.keys().next().cloned() {
            let mut way = vec![first];
            // Every way comes to a circle, or to one that was found before.
            while let Some(next) =
                way.last().and_then(|name| needs.get(name)?.iter().filter(|n| needs.contains_key(*n)).min())
            {
                if let Some(from) = way.iter().position(|name| name == next) {
                    let names = way[from..].iter().map(ToString::to_string).collect();
                    found.push((study.sources.placed(winners[&way[from]].declaration.span), names, element));
                    break;
                }
                way.push(next.clone());
            }
            needs.retain(|name, _| !way.contains(name));
        }
    }
    found
}

/// What the custom properties of a page need, wherever they are declared.
fn declared(study: &Study) -> Needs {
    let mut needs = Needs::new();
    for rule in &study.page.rules {
        let sheet = &study.page.sheets[rule.sheet as usize].sheet;
        for declaration in study.page.declarations(rule) {
            let value = sheet.value(declaration);
            if let Property::Custom(name) = &declaration.property
                && value.text().contains('(')
            {
                needs.entry(name.clone()).or_default().extend(names_in(value));
            }
        }
    }
    needs
}

/// Without names that need none of the others, and then without those that need only such: they are in no circle.
fn without_ends(mut needs: Needs) -> Needs {
    let mut left: FxHashMap<&Name, usize> = FxHashMap::default();
    let mut readers: FxHashMap<&Name, Vec<&Name>> = FxHashMap::default();
    for (name, reads) in &needs {
        let known = reads.iter().filter(|read| needs.contains_key(*read));
        left.insert(name, known.clone().count());
        known.for_each(|read| readers.entry(read).or_default().push(name));
    }
    let mut ends: Vec<&Name> = left.iter().filter(|(_, count)| **count == 0).map(|(name, _)| *name).collect();
    let mut out: FxHashSet<Name> = FxHashSet::default();
    while let Some(name) = ends.pop() {
        out.insert(name.clone());
        for reader in readers.get(name).into_iter().flatten() {
            if let Some(count) = left.get_mut(reader) {
                *count -= 1;
                ends.extend((*count == 0).then_some(*reader));
            }
        }
    }
    needs.retain(|name, _| !out.contains(name));
    needs
}
