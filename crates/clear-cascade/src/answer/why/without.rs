//! The values that an element would have without some declarations.

use std::borrow::Cow;
use std::sync::Arc;

use rustc_hash::{FxHashMap, FxHashSet};
use smallvec::SmallVec;

use super::super::asked::{About, Asked};
use super::super::ground::Ground;
use crate::document::{ElementId, Name};
use crate::property::{Declared, Longhands, PropertyId, id};
use crate::source::Span;
use crate::style::{self, Customs, Entry, Outright, Said, Style, Styles, Target, Wanted};
use crate::value::{Value, Wide};

/// An element with declarations cut out of their files, one after the other.
pub(super) struct Without<'s> {
    /// The element.
    about: About<'s>,
    /// What is declared for it; nothing where what is cut may also change what it inherits.
    alone: Option<Alone<'s>>,
    /// Whether nothing that may be cut changes custom properties, here or around.
    customs_stay: bool,
    /// What is cut.
    cut: FxHashSet<Span>,
}

/// What is declared for an element whose surroundings stay as they are.
struct Alone<'s> {
    /// What is declared, weakest first.
    entries: Vec<Entry<'s>>,
    /// Which of that is cut.
    gone: Vec<bool>,
    /// The places of what is declared for each property, those with the same logical property group together, weakest first,
    /// and how many properties that are; those at the end are left out that are cut.
    by_group: Vec<(usize, Vec<usize>)>,
    /// Where declarations are in the list.
    places: FxHashMap<Span, SmallVec<[usize; 4]>>,
    /// The custom properties, where nothing that may be cut changes them.
    custom: Option<Arc<Customs>>,
    /// Whether custom properties can be worked out on the values as they are.
    on_known: bool,
}

impl<'s> Without<'s> {
    /// The element with nothing cut yet; `all` is what may be cut, and whether only a custom property is asked about.
    pub(super) fn new(ground: &Ground<'s>, all: &[Entry<'s>], of_custom: bool) -> Self {
        let about = ground.about;
        if all.is_empty() {
            return Self { about, alone: None, customs_stay: true, cut: FxHashSet::default() };
        }
        let (study, contenders) = (about.study, all);
        let page = &study.page;
        let all: FxHashSet<Span> = all.iter().map(|e| e.declaration.span).collect();
        let mut entries = ground.entries().to_vec();
        let is_cut = |e: &&Entry<'_>| all.contains(&e.declaration.span);
        let cut: Vec<Target<'_>> = entries.iter().filter(is_cut).map(|e| e.property).collect();
        // Of what is around, and of the element that a pseudo-element is of, nothing may be cut that shows in here; and whether
        // a select has base appearance may depend on what is.
        let of_base_select =
            || ground.matched().iter().any(|m| page.base_select == Some(page.rules[m.rule as usize].sheet));
        let has_custom = cut.iter().any(|p| matches!(p, Target::Custom(_)));
        let types_stay = page.is_untyped() || !cut.iter().any(style::types_go_by);
        let customs_stay = types_stay && !has_custom;
        let style = study.style_of(about.element, about.pseudo);
        let said = |e: &Entry<'_>| style::said(&about.computed(), e, &style, &style::Last::default());
        let alone = !of_base_select() && (stays_inside(&cut, &entries, &said) || !ground.is_around(contenders));
        let alone = alone.then(|| {
            let is_custom = |e: &Entry<'_>| matches!(e.property, Target::Custom(_));
            let on_known = page.is_untyped() || (types_stay && !style::types_depend(&entries));
            let custom = (customs_stay && on_known).then(|| style.custom.clone());
            entries.retain(|e| custom.is_none() || !is_custom(e));
            let mut places: FxHashMap<Span, SmallVec<[usize; 4]>> = FxHashMap::default();
            for (i, entry) in entries.iter().enumerate().filter(|(_, e)| all.contains(&e.declaration.span)) {
                places.entry(entry.declaration.span).or_default().push(i);
            }
            let mut by_group: FxHashMap<Target<'_>, Vec<usize>> = FxHashMap::default();
            // A custom property is worked out on all others as they are, where it can be.
            for (i, entry) in entries.iter().enumerate().filter(|_| !(of_custom && on_known)) {
                let first = |p: PropertyId| p.relatives().iter().next().unwrap_or(p);
                let group = match entry.property {
                    Target::Longhand(longhand) => Target::Longhand(first(longhand)),
                    custom @ Target::Custom(_) => custom,
                };
                by_group.entry(group).or_default().push(i);
            }
            let properties = |list: &[usize]| list.iter().map(|i| entries[*i].property).collect::<FxHashSet<_>>().len();
            let by_group = by_group.into_values().map(|list| (properties(&list), list)).collect();
            Alone { gone: vec![false; entries.len()], by_group, entries, places, custom, on_known }
        });
        Self { about, alone, customs_stay, cut: FxHashSet::default() }
    }

    /// Cuts a declaration.
    pub(super) fn cut(&mut self, declaration: Span) {
        self.cut.insert(declaration);
        if let Some(alone) = &mut self.alone {
            alone.places.get(&declaration).into_iter().flatten().for_each(|i| alone.gone[*i] = true);
            for (_, list) in &mut alone.by_group {
                while list.pop_if(|i| alone.gone[*i]).is_some() {}
            }
        }
    }

    /// The value of a property without what is cut.
    pub(super) fn value(&self, asked: &Asked) -> String {
        let study = self.about.study;
        if let (None, Some(alone)) = (asked.longhand, &self.alone)
            && alone.on_known
            && !self.cut.is_empty()
        {
            return self.custom(alone, asked);
        }
        let style = match &self.alone {
            _ if self.cut.is_empty() => study.style_of(self.about.element, self.about.pseudo),
            Some(alone) => Cow::Owned(self.among(alone)),
            None => Cow::Owned(self.anew()),
        };
        study.asked_value(&style, asked)
    }

    /// A custom property, where all that it may go by besides custom properties stays as it is.
    fn custom(&self, alone: &Alone<'s>, asked: &Asked) -> String {
        let study = self.about.study;
        let name = Name::from(asked.name.as_str());
        let entries = alone.entries.iter().zip(&alone.gone);
        let left = entries.filter(|(e, gone)| matches!(e.property, Target::Custom(_)) && !**gone).map(|(e, _)| e);
        let own = left.clone().filter(|e| e.property == Target::Custom(&name));
        // What its own text tells goes by no others.
        let left: Vec<Entry<'s>> = match own.clone().all(|e| e.outright(&study.page) != Outright::Open) {
            true => own.cloned().collect(),
            false => left.cloned().collect(),
        };
        let style = study.style_of(self.about.element, self.about.pseudo);
        let value = study.styles().custom_from(&self.about.computed(), &left, &style, &name);
        value.map(|v| v.shown().to_owned()).unwrap_or_default()
    }

    /// The values, where those of the elements around stay as they are.
    fn among(&self, alone: &Alone<'s>) -> Style {
        let About { study, element, pseudo } = self.about;
        let mut places: Vec<usize> = Vec::new();
        for group in &alone.by_group {
            self.effective(alone, group, &mut places);
        }
        places.sort_unstable();
        let left: Vec<Entry<'s>> = places.into_iter().map(|i| alone.entries[i].clone()).collect();
        study.styles().compute_from(&study.page, element, pseudo, &left, alone.custom.as_ref())
    }

    /// Of the declarations of a group, the strongest for each property; and all that is weaker than one that may roll back.
    fn effective(&self, alone: &Alone<'s>, (properties, list): &(usize, Vec<usize>), places: &mut Vec<usize>) {
        let (mut settled, mut open) = (FxHashSet::default(), false);
        for place in list.iter().rev().filter(|i| !alone.gone[**i]) {
            let entry = &alone.entries[*place];
            if settled.contains(&entry.property) {
                continue;
            }
            places.push(*place);
            open |= !(style::is_final(&self.about.study.page, entry) || self.settles(alone, entry));
            if !open {
                settled.insert(entry.property);
                if settled.len() == *properties {
                    return;
                }
            }
        }
    }

    /// Whether a declaration does not roll back once something is put in it, where that is known: it depends on custom
    /// properties alone.
    fn settles(&self, alone: &Alone<'s>, entry: &Entry<'s>) -> bool {
        let About { study, element, pseudo } = self.about;
        if alone.custom.is_none() || !matches!(entry.property, Target::Longhand(_)) {
            return false;
        }
        let style = study.style_of(element, pseudo);
        match style::said(&self.about.computed(), entry, &style, &style::Last::default()) {
            Said::Value(_) => true,
            Said::Wide(wide) => matches!(wide, Wide::Initial | Wide::Inherit | Wide::Unset),
            Said::Nothing => false,
        }
    }

    /// The values, with those of the elements around as far as something is cut there.
    fn anew(&self) -> Style {
        let About { study, element, pseudo } = self.about;
        let page = &study.page;
        let keep = |e: &Entry<'_>| !self.cut.contains(&e.declaration.span);
        let mut styles = Styles::unknown(page.document.count(), study.styles().readings.clone());
        let matcher = page.rule_matcher();
        study.style(element);
        let mut lineage: Vec<ElementId> = page.document.flat_lineage(element).collect();
        if self.customs_stay {
            styles = styles.with_customs(&lineage, study.styles());
        }
        // As far in as nothing is cut, values are as they were.
        let is_cut = |id: &ElementId| {
            let matched = style::matched_rules(page, &matcher, *id);
            let mut rules = matched.iter().map(|m| page.declarations(&page.rules[m.rule as usize]));
            rules.any(|declarations| declarations.iter().any(|d| self.cut.contains(&d.span)))
        };
        while let Some(outer) = lineage.pop().filter(|id| !is_cut(id)) {
            styles.adopt(outer, study.styles());
        }
        let wanted = Wanted::EffectiveOf(&keep);
        styles.ensure(page, &matcher, element, wanted);
        match pseudo {
            Some(name) => styles.of_pseudo(page, element, name, wanted),
            None => styles.get(element).map_or_else(Style::initial, |s| (**s).clone()),
        }
    }
}

/// Whether no element inside can tell that some of what sets these properties is gone.
fn stays_inside(cut: &[Target<'_>], entries: &[Entry<'_>], said: &dyn Fn(&Entry<'_>) -> Said<Value>) -> bool {
    /// Longhands that do not inherit, and by which elements inside go all the same.
    const CROSSING: [PropertyId; 4] = [id::DISPLAY, id::JUSTIFY_ITEMS, id::APPEARANCE, id::CONTAINER_NAME];
    let mut set = Longhands::default();
    for target in cut {
        match target {
            Target::Longhand(p) if !p.inherits() && !CROSSING.contains(p) => set.add_all(&p.relatives()),
            _ => return false,
        }
    }
    // Nor does this one take them from around it.
    let takes = |e: &Entry<'_>| match e.declared {
        Some(Declared::Wide(wide)) => *wide == Wide::Inherit,
        Some(Declared::Substitute(_)) => matches!(said(e), Said::Wide(Wide::Inherit)),
        _ => false,
    };
    !entries.iter().any(|e| matches!(e.property, Target::Longhand(p) if set.has(p)) && takes(e))
}
