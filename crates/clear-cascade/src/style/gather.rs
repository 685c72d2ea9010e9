//! The declarations that want to set something on an element.

use rustc_hash::FxHashMap;
use smallvec::SmallVec;

use super::entry::{By, Entry, Target};
use super::matched::Matched;
use super::query::containers_hold;
use super::{Styles, appearance, applying_to};
use crate::cascade::Origin;
use crate::document::{ElementId, Name};
use crate::page::{FlatRule, Page};
use crate::property::Declared;
use crate::property::{self, Longhands};
use crate::selector::PseudoElement;
use crate::stylesheet::{CustomDeclared, Declaration, Property, Stylesheet};
use crate::value::Wide;

/// What the matched rules say for an element or one of its pseudo-elements, weakest first, as far as `wanted` asks for it.
pub(crate) fn entries_of<'s>(
    page: &'s Page,
    styles: &Styles,
    id: ElementId,
    matched: &[Matched<'_>],
    pseudo: Option<&PseudoElement>,
    wanted: Wanted<'_>,
) -> Vec<Entry<'s>> {
    let mut gathered = Gathered::with_room_for(64);
    gathered.add(page, styles, (id, pseudo), matched, wanted);
    gathered.entries
}

/// What rules say for several elements, those for each together.
pub(super) struct Gathered<'s> {
    /// All of it.
    pub(super) entries: Vec<Entry<'s>>,
    /// What is decided for the one at hand.
    decided: Decided<'s>,
}

impl<'s> Gathered<'s> {
    /// Nothing yet, with room for so many.
    pub(super) fn with_room_for(count: usize) -> Self {
        Self { entries: Vec::with_capacity(count), decided: Decided::default() }
    }

    /// Adds what the matched rules say for an element or one of its pseudo-elements, weakest first, as far as `wanted` asks for it.
    pub(super) fn add(
        &mut self,
        page: &'s Page,
        styles: &Styles,
        (id, pseudo): (ElementId, Option<&PseudoElement>),
        matched: &[Matched<'_>],
        wanted: Wanted<'_>,
    ) {
        let applying = pseudo.and_then(applying_to);
        let mut on: SmallVec<[&Matched<'_>; 16]> = SmallVec::new();
        let mut of_base_select: SmallVec<[&Matched<'_>; 1]> = SmallVec::new();
        for m in matched.iter().filter(|m| m.pseudo == pseudo) {
            let rule = &page.rules[m.rule as usize];
            if page.base_select == Some(rule.sheet) {
                of_base_select.push(m);
            } else if containers_hold(page, styles, rule, id, pseudo) {
                on.push(m);
            }
        }
        if of_base_select.is_empty() {
            return self.add_in_order(page, &on, wanted, applying);
        }
        // Whether its rules count is a matter of `appearance`, whatever is asked for.
        let look = if wanted.is_for_some() { Wanted::All } else { wanted };
        let start = self.entries.len();
        self.add_in_order(page, &on, look, applying);
        if appearance::is_base_select(page, styles, id, pseudo, &self.entries[start..]) {
            on.extend(of_base_select);
        } else if !wanted.is_for_some() {
            return;
        }
        self.entries.truncate(start);
        self.add_in_order(page, &on, wanted, applying);
    }

    /// Adds what rules say, weakest first, as far as `wanted` asks for it: normal declarations in the order of their rules, then
    /// important ones in theirs. Where only some longhands apply, what a page says of others is left out.
    fn add_in_order(
        &mut self,
        page: &'s Page,
        matched: &[&Matched<'_>],
        wanted: Wanted<'_>,
        applying: Option<&Longhands>,
    ) {
        let mut rules: SmallVec<[Ruled<'_, 's>; 16]> = matched.iter().map(|m| Ruled::of(page, m)).collect();
        if wanted.is_for_some() {
            // Mostly few rules say something of what is asked about.
            rules.retain(|r| r.declarations.iter().any(|d| !wanted.leaves_out(&d.property)));
        }
        let Self { entries, decided } = self;
        let start = entries.len();
        decided.clear();
        for important in [true, false] {
            let some = rules.iter().filter(|r| !important || r.important);
            let number = |r: &Ruled<'_, '_>| (r.by(page, important).precedence(0).number(), r.rule.order);
            let mut sorted: SmallVec<[_; 16]> = some.map(|r| (number(r), r)).collect();
            sorted.sort_by_key(|(number, _)| *number);
            for (_, ruled) in sorted.into_iter().rev() {
                let (by, sheet) = (ruled.by(page, important), ruled.sheet);
                let applying = applying.filter(|_| ruled.rule.within.origin != Origin::Defaults);
                for (i, declaration) in ruled.declarations(important) {
                    if decided.beats_all(declaration) || wanted.leaves_out(&declaration.property) {
                        continue;
                    }
                    each_target(sheet, declaration, &mut |target, declared| {
                        if matches!((target, applying), (Target::Longhand(p), Some(some)) if !some.has(p)) {
                            return;
                        }
                        let entry = || Entry::new(by, (i, declaration), (target, declared));
                        let wanted = match wanted {
                            Wanted::All => true,
                            Wanted::Longhands(_) | Wanted::Customs(_) => !wanted.leaves_out_target(target),
                            Wanted::Effective => !decided.beats((target, declared), declaration, sheet),
                            Wanted::EffectiveOf(keep) => {
                                keep(&entry()) && !decided.beats((target, declared), declaration, sheet)
                            }
                        };
                        if wanted {
                            entries.push(entry());
                        }
                    });
                }
            }
        }
        // They came the strongest first.
        entries[start..].reverse();
    }
}

/// Which declarations are asked for.
#[derive(Clone, Copy)]
pub(crate) enum Wanted<'k> {
    /// All.
    All,
    /// All for some longhands.
    Longhands(&'k Longhands),
    /// All for custom properties that a test lets through.
    Customs(&'k dyn Fn(&Name) -> bool),
    /// All that can make a difference to values: of two for one property the weaker one only where the stronger may roll
    /// back to it.
    Effective,
    /// The same of those that a test lets through.
    EffectiveOf(&'k dyn Fn(&Entry<'_>) -> bool),
}

impl Wanted<'_> {
    /// Whether only some properties are asked for.
    fn is_for_some(self) -> bool {
        matches!(self, Self::Longhands(_) | Self::Customs(_))
    }

    /// Whether nothing is asked for that a declaration of a property sets.
    #[inline(always)]
    fn leaves_out(self, property: &Property) -> bool {
        match (self, property) {
            (Self::Longhands(_), Property::Known(property::id::ALL)) => false,
            (Self::Longhands(some), Property::Known(id)) => match id.all_set() {
                Some(all) => !some.has_some(all),
                None => !some.has(*id),
            },
            (Self::Customs(test), Property::Custom(name)) => !test(name),
            (Self::Longhands(_), Property::Custom(_)) | (Self::Customs(_), Property::Known(_)) => true,
            _ => false,
        }
    }

    /// The same of one of the properties that it sets.
    fn leaves_out_target(self, target: Target<'_>) -> bool {
        match (self, target) {
            (Self::Longhands(some), Target::Longhand(longhand)) => !some.has(longhand),
            (Self::Longhands(_), Target::Custom(_)) | (Self::Customs(_), Target::Longhand(_)) => true,
            // Those were tested as declarations.
            _ => false,
        }
    }
}

/// What stronger declarations have decided already.
#[derive(Default)]
struct Decided<'s> {
    /// Longhands for which nothing weaker counts.
    settled: Longhands,
    /// Longhands for which a declaration may roll back, so that all that is weaker may count.
    open: Longhands,
    /// Custom properties, with whether they are settled.
    custom: FxHashMap<&'s Name, bool>,
}

impl<'s> Decided<'s> {
    /// Forgets all of it.
    fn clear(&mut self) {
        (self.settled, self.open) = (Longhands::default(), Longhands::default());
        self.custom.clear();
    }

    /// Whether all that a declaration sets is settled, so that its value need not be looked at.
    #[inline(always)]
    fn beats_all(&self, declaration: &Declaration) -> bool {
        match &declaration.property {
            Property::Known(id) if id.is_longhand() => self.settled.has(*id),
            Property::Known(property::id::ALL) => false,
            Property::Known(id) => id.all_set().is_some_and(|all| self.settled.has_all(all)),
            Property::Custom(name) => self.custom.get(name).is_some_and(|settled| *settled),
        }
    }

    /// Whether what a declaration says for one property comes too late; what it decides is remembered.
    #[inline(always)]
    fn beats(
        &mut self,
        (target, declared): (Target<'s>, Option<&Declared>),
        declaration: &Declaration,
        sheet: &Stylesheet,
    ) -> bool {
        let settles = || settles((target, declared), declaration, sheet);
        match target {
            Target::Longhand(property) => {
                if self.settled.has(property) {
                    return true;
                }
                if !settles() {
                    // What it rolls back to may be declared by another name of the same side.
                    self.open.add_all(&property.relatives());
                } else if !self.open.has(property) {
                    self.settled.add(property);
                }
                false
            }
            Target::Custom(name) => match self.custom.get(name) {
                Some(settled) => *settled,
                None => {
                    if self.custom.is_empty() {
                        // Room for the few that most elements set, so that the table is not moved for each.
                        self.custom.reserve(14);
                    }
                    self.custom.insert(name, settles());
                    false
                }
            },
        }
    }
}

/// Whether nothing weaker counts for a property beside what a declaration says for it: it can be seen not to roll back.
fn settles((target, declared): (Target<'_>, Option<&Declared>), declaration: &Declaration, sheet: &Stylesheet) -> bool {
    let rolls_back = |wide: &Wide| matches!(wide, Wide::Revert | Wide::RevertLayer | Wide::RevertRule);
    match target {
        Target::Longhand(_) => match declared {
            Some(Declared::Value(_)) => true,
            Some(Declared::Wide(wide)) => !rolls_back(wide),
            Some(Declared::Substitute(_)) | None => false,
        },
        Target::Custom(_) => match declaration.custom(sheet) {
            CustomDeclared::Text(_) => true,
            CustomDeclared::Wide(wide) => !rolls_back(wide),
            CustomDeclared::Substitute(_) | CustomDeclared::Broken => false,
        },
    }
}

/// Whether nothing weaker counts for the property of an entry.
pub(crate) fn is_final(page: &Page, entry: &Entry<'_>) -> bool {
    settles((entry.property, entry.declared), entry.declaration, &page.sheets[entry.sheet() as usize].sheet)
}

/// A rule that takes an element, with what is looked at of it. Where that is kept is found for all rules before anything is read of one:
/// so a processor need not wait for each by itself.
struct Ruled<'m, 's> {
    /// How it takes the element.
    matched: &'m Matched<'m>,
    /// The rule.
    rule: &'s FlatRule,
    /// Its sheet.
    sheet: &'s Stylesheet,
    /// Its declarations.
    declarations: &'s [Declaration],
    /// Whether some of them may be important.
    important: bool,
}

impl<'m, 's> Ruled<'m, 's> {
    /// A rule that is on.
    fn of(page: &'s Page, matched: &'m Matched<'m>) -> Self {
        Self::of_rule(page, &page.rules[matched.rule as usize], matched)
    }

    /// A rule of a page.
    fn of_rule(page: &'s Page, rule: &'s FlatRule, matched: &'m Matched<'m>) -> Self {
        let sheet = &*page.sheets[rule.sheet as usize].sheet;
        let style_rule = &sheet.rules[rule.rule as usize];
        // A presentational hint is never important.
        let important = style_rule.important && rule.within.origin != Origin::PresentationalHint;
        Self { matched, rule, sheet, declarations: sheet.declarations(style_rule), important }
    }

    /// Its declarations that are important, or those that are not, with their places in it, the last one first.
    #[inline(always)]
    fn declarations(&self, important: bool) -> impl Iterator<Item = (u32, &'s Declaration)> + use<'s> {
        let some = self.important;
        let all = self.declarations.iter().enumerate().rev();
        all.filter(move |(_, d)| important == (d.important && some)).map(|(i, d)| (crate::source::offset(i), d))
    }

    /// How it takes the element, for its declarations that are important, or for those that are not.
    #[inline(always)]
    fn by(&self, page: &Page, important: bool) -> By<'s> {
        let Matched { rule: number, selector, specificity, proximity, .. } = *self.matched;
        let context = page.document.tree_place(self.rule.within.tree.unwrap_or(0));
        By { rule: self.rule, number, selector, specificity, proximity, context, important }
    }
}

/// Adds what one rule says, in written order.
pub(crate) fn add_entries<'s>(page: &'s Page, rule: &'s FlatRule, m: &Matched<'_>, entries: &mut Vec<Entry<'s>>) {
    let ruled = Ruled::of_rule(page, rule, m);
    for important in [false, true] {
        let by = ruled.by(page, important);
        let start = entries.len();
        for (i, declaration) in ruled.declarations(important) {
            each_target(ruled.sheet, declaration, &mut |target, declared| {
                entries.push(Entry::new(by, (i, declaration), (target, declared)));
            });
        }
        entries[start..].reverse();
    }
}

/// Calls `f` with each property that a declaration sets and what it says for it, the last one first.
fn each_target<'s>(
    sheet: &'s Stylesheet,
    declaration: &'s Declaration,
    f: &mut impl FnMut(Target<'s>, Option<&'s Declared>),
) {
    match &declaration.property {
        Property::Custom(name) => f(Target::Custom(name), None),
        Property::Known(_) => {
            if let Ok(values) = declaration.longhands(sheet) {
                values.iter().rev().for_each(|(p, d)| f(Target::Longhand(*p), Some(d)));
            }
        }
    }
}

impl<'s> Entry<'s> {
    /// What a declaration of a rule says for one property; the declaration comes with its place in the rule.
    fn new(
        by: By<'s>,
        (place, declaration): (u32, &'s Declaration),
        (property, declared): (Target<'s>, Option<&'s Declared>),
    ) -> Self {
        Self { property, declared, declaration, place, by }
    }
}
