//! Rules by their rightmost compound, so that an element is tried against few of them.

use std::borrow::Cow;
use std::sync::Arc;

use rustc_hash::FxHashMap;
use smallvec::{SmallVec, smallvec};

use super::collect::{FlatRule, SheetEntry};
use crate::cascade::Origin;
use crate::document::{Bit, Document, Element, ElementId, Name, NameOf, NameSet, Numbers};
use crate::selector::{
    Combinator, Compiler, Key, Keys, MOST_KEYS, Matcher, NamespaceTest, PseudoClass, PseudoElement, Selector,
    SelectorList, Simple, Specificity, Steps, There, Way,
};
use crate::source::offset;
use crate::text::in_lower_case;
use crate::viewing::States;

/// A selector of a rule, with what it asks of the ancestors of its subject.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Indexed {
    /// The rule.
    pub(crate) rule: u32,
    /// Which of its selectors.
    pub(crate) selector: u32,
    /// Names that some ancestor must have.
    around: [Bit; NEEDED],
    /// How it is found out what it takes.
    way: Way,
    /// Whether the selector alone says what it takes: no scope, no other tree, and nothing beside it.
    pub(crate) alone: bool,
    /// The pseudo-element it aims at, by its number among those of the index.
    pseudo: Option<u32>,
    /// What it weighs.
    pub(crate) specificity: Specificity,
}

/// How many names of ancestors are looked at before a selector is tried.
const NEEDED: usize = 4;

/// Selectors by what their subject must have.
#[derive(Debug, Default)]
pub(crate) struct RuleIndex {
    /// The selectors of the rules of which some take what only they tell as they are read.
    lists: FxHashMap<u32, Arc<SelectorList>>,
    /// The steps of the others.
    steps: Steps,
    /// The pseudo-elements that selectors aim at.
    pseudos: Vec<Aimed>,
    /// Those that need a name, by its number.
    named: Vec<Indexed>,
    /// Where those of each number start in that list, and where the last of them end.
    starts: Vec<u32>,
    /// Those that need an attribute, by what must be in its value.
    attributes: FxHashMap<Name, Vec<(u64, Vec<Indexed>)>>,
    /// Those for the root of the page.
    root: Vec<Indexed>,
    /// All others, sorted by the first name that an ancestor must have; those that ask for none come last.
    any: Vec<Indexed>,
    /// These names.
    any_around: NameSet,
    /// Where those that ask for each of them start in that list, by the bit of the name, and where the last of them end.
    any_starts: Vec<u32>,
}

/// A pseudo-element that selectors aim at.
#[derive(Debug)]
struct Aimed {
    /// Its name.
    name: PseudoElement,
    /// What decides whether it is there; nothing does where only browser defaults aim at one that waits for a page's rules.
    there: There,
}

/// What a selector asks of the ancestors of its subject, the nearest first; nothing where it asks for a name that nothing has.
fn asked_around(selector: &Selector, numbers: &Numbers) -> Option<SmallVec<[u32; NEEDED]>> {
    let mut asked = SmallVec::new();
    let mut compounds = selector.compounds.iter().rev();
    let mut outwards = compounds.next().map(|c| c.combinator);
    for compound in compounds {
        for part in &compound.parts {
            let name = match &part.simple {
                Simple::Id(name) => numbers.get(NameOf::Id, name)?,
                Simple::Class(name) => numbers.get(NameOf::Class, name)?,
                Simple::Type(_, _, lower) => numbers.get(NameOf::Type, lower)?,
                _ => continue,
            };
            // Past a sibling combinator, the elements further left are siblings; past the next, ancestors again.
            if matches!(outwards, Some(Combinator::Descendant | Combinator::Child)) && asked.len() < NEEDED {
                asked.push(name);
            }
        }
        outwards = Some(compound.combinator);
    }
    Some(asked)
}

/// An index while it is made.
struct Making<'m> {
    /// What is there.
    index: RuleIndex,
    /// The selectors that need a name, with its number.
    named: Vec<(u32, Indexed)>,
    /// Where selectors are kept that need an attribute with something in its value.
    sketches: FxHashMap<(Name, u64), usize>,
    /// The numbers of the pseudo-elements.
    pseudos: FxHashMap<PseudoElement, u32>,
    /// The names of the document.
    numbers: &'m Numbers,
    /// The states that elements are in.
    states: &'m States,
}

impl Making<'_> {
    /// Adds a selector for each of its keys.
    fn add(&mut self, keys: impl IntoIterator<Item = Key>, indexed: Indexed) {
        for key in keys {
            match key {
                Key::Name(number) => self.named.push((number, indexed)),
                Key::Attribute(name, sketch) => {
                    let next = self.index.attributes.get(&name).map_or(0, Vec::len);
                    let place = *self.sketches.entry((name.clone(), sketch)).or_insert(next);
                    let all = self.index.attributes.entry(name).or_default();
                    if place == all.len() {
                        all.push((sketch, Vec::new()));
                    }
                    all[place].1.push(indexed);
                }
                Key::Root => self.index.root.push(indexed),
                Key::Any => self.index.any.push(indexed),
            }
        }
    }

    /// The number of a pseudo-element, at which a rule of an origin aims.
    fn pseudo(&mut self, pseudo: &PseudoElement, origin: Origin) -> u32 {
        let next = offset(self.index.pseudos.len());
        let number = *self.pseudos.entry(pseudo.clone()).or_insert(next);
        let there =
            || Some(pseudo.there()).filter(|t| origin != Origin::Defaults || !t.waits()).unwrap_or(There::Never);
        match self.index.pseudos.get_mut(number as usize) {
            None => self.index.pseudos.push(Aimed { name: pseudo.clone(), there: there() }),
            Some(known) if known.there == There::Never => known.there = there(),
            Some(_) => {}
        }
        number
    }

    /// Adds a selector of a rule that must be read to know what it takes.
    fn read(
        &mut self,
        (rule, origin): (u32, Origin),
        list: &Arc<SelectorList>,
        n: u32,
        of_page: bool,
        (steps, known): (&mut Steps, &mut KnownKeys),
    ) {
        let Some(selector) = list.selectors.get(n as usize).filter(|s| may_take(s, self.states)) else { return };
        let Some(around) = asked_around(selector, self.numbers) else { return };
        let plain = selector.slotted.is_none() && selector.parts.is_empty();
        let pseudo = selector.pseudo.as_ref().map(|p| self.pseudo(p, origin));
        let way = match takes_all(selector) {
            true => Way::All,
            false => steps.of(selector, self.numbers).unwrap_or(Way::Selector),
        };
        if way == Way::Selector {
            self.index.lists.entry(rule).or_insert_with(|| list.clone());
        }
        let indexed = Indexed {
            rule,
            selector: n,
            around: bits(&around),
            way,
            alone: of_page && plain && selector.pseudo.as_ref().is_none_or(|p| p.then.is_none()),
            pseudo,
            specificity: selector.specificity,
        };
        self.add(keys_of(&selector.subject().parts, self.numbers, known), indexed);
    }

    /// The index.
    fn done(mut self) -> RuleIndex {
        let index = &mut self.index;
        // By number, in the order they came in.
        index.starts = vec![0; self.numbers.count() + 1];
        self.named.iter().for_each(|(number, _)| index.starts[*number as usize + 1] += 1);
        (1..index.starts.len()).for_each(|i| index.starts[i] += index.starts[i - 1]);
        let mut next = index.starts.clone();
        index.named = self.named.iter().map(|(_, indexed)| *indexed).collect();
        for (number, indexed) in self.named {
            let next = &mut next[number as usize];
            index.named[*next as usize] = indexed;
            *next += 1;
        }
        index.any.sort_by_key(|i| i.around[0]);
        index.any_starts = vec![0; Bit::COUNT + 1];
        for place in index.any.iter().filter_map(|i| i.around[0].place()) {
            index.any_around.set(place);
            index.any_starts[place + 1] += 1;
        }
        (1..index.any_starts.len()).for_each(|i| index.any_starts[i] += index.any_starts[i - 1]);
        self.index
    }
}

/// The bits of some names.
fn bits(names: &[u32]) -> [Bit; NEEDED] {
    let mut bits = [Bit::NONE; NEEDED];
    bits.iter_mut().zip(names).for_each(|(place, name)| *place = Bit::of(*name));
    bits
}

impl RuleIndex {
    /// Sorts the selectors of rules into the index, those left out that ask for states that no element is in. Of rules with plain
    /// selectors those that name what the document does not have are left out too, and none is read.
    pub(crate) fn new(rules: &[FlatRule], sheets: &[SheetEntry], document: &Document, states: &States) -> Self {
        let numbers = document.numbers();
        let (index, mut known) = (Self::default(), KnownKeys::default());
        let named = Vec::with_capacity(rules.len() * 2);
        let mut making =
            Making { index, named, sketches: FxHashMap::default(), pseudos: FxHashMap::default(), numbers, states };
        let mut compiler = Compiler::new(rules.len(), numbers, states);
        // The selectors of a list that must be read.
        let mut unread: SmallVec<[u32; 8]> = SmallVec::new();
        // Plain selectors aim at few.
        let mut aims: SmallVec<[((&str, Origin), u32); 8]> = SmallVec::new();
        for (rule, flat) in rules.iter().enumerate() {
            let (rule, origin) = (offset(rule), flat.within.origin);
            let sheet = &sheets[flat.sheet as usize].sheet;
            let style_rule = &sheet.rules[flat.rule as usize];
            let alone = flat.within.scopes.is_empty() && flat.within.tree.is_none_or(|t| t == 0);
            let Some(written) = sheet.plain_selectors(style_rule) else {
                let list = sheet.selectors(style_rule);
                let mut read = |n| making.read((rule, origin), list, n, alone, (&mut compiler.steps, &mut known));
                (0..offset(list.selectors.len())).for_each(&mut read);
                continue;
            };
            unread.clear();
            compiler.compile(written, |selector, compiled| {
                if compiled.way == Way::Selector {
                    return unread.push(selector);
                }
                let pseudo = compiled.pseudo.map(|name| {
                    let known = aims.iter().find(|(n, _)| *n == (name, origin)).map(|(_, number)| *number);
                    known.unwrap_or_else(|| {
                        let number = making.pseudo(&PseudoElement::named(name), origin);
                        aims.push(((name, origin), number));
                        number
                    })
                });
                let (around, specificity) = (bits(&compiled.around), compiled.specificity);
                let indexed = Indexed { rule, selector, around, way: compiled.way, alone, pseudo, specificity };
                making.add(compiled.keys, indexed);
            });
            for n in &unread {
                let list = sheet.selectors(style_rule);
                making.read((rule, origin), list, *n, alone, (&mut compiler.steps, &mut known));
            }
        }
        making.index.steps = compiler.steps;
        making.done()
    }

    /// Whether some selector may take an element, as far as the names tell that it has itself.
    pub(crate) fn may_take(&self, document: &Document, id: ElementId) -> bool {
        let (numbers, number) = (document.numbers(), id.number());
        let for_name = |name: &u32| self.starts[*name as usize] < self.starts[*name as usize + 1];
        !(self.any.is_empty() && self.root.is_empty() && self.attributes.is_empty())
            || for_name(&numbers.name(number))
            || numbers.id(number).iter().chain(numbers.classes(number)).any(for_name)
    }

    /// Whether a selector takes an element, where it alone says so.
    pub(crate) fn takes(&self, indexed: &Indexed, matcher: &Matcher<'_>, id: ElementId) -> bool {
        match indexed.way {
            Way::All => true,
            Way::Steps(start) => self.steps.take(start, matcher, id.number()),
            Way::Selector => {
                let selector = self.lists.get(&indexed.rule).and_then(|l| l.selectors.get(indexed.selector as usize));
                selector.is_some_and(|s| matcher.takes(s, id))
            }
        }
    }

    /// The pseudo-element that it aims at.
    pub(crate) fn pseudo(&self, indexed: &Indexed) -> Option<&PseudoElement> {
        self.pseudos.get(indexed.pseudo? as usize).map(|aimed| &aimed.name)
    }

    /// What decides whether that is there.
    pub(crate) fn there(&self, indexed: &Indexed) -> Option<There> {
        self.pseudos.get(indexed.pseudo? as usize).map(|aimed| aimed.there)
    }

    /// Calls `f` with the selectors that may take an element. One may come several times.
    pub(super) fn candidates(&self, document: &Document, id: ElementId, f: &mut impl FnMut(&Indexed)) {
        let (element, numbers): (&Element, _) = (document.node(id), document.numbers());
        let around = numbers.around(id.number());
        let mut each = |bucket: &[Indexed]| bucket.iter().filter(|i| around.holds(&i.around)).for_each(&mut *f);
        let start = |place: usize| self.any_starts[place] as usize;
        for place in around.common(&self.any_around) {
            each(&self.any[start(place)..start(place + 1)]);
        }
        each(&self.any[start(Bit::COUNT)..]);
        if element.parent.is_none() && element.tree == 0 {
            each(&self.root);
        }
        let (number, classes) = (id.number(), numbers.classes(id.number()));
        for name in numbers.id(number).iter().chain(classes).chain([&numbers.name(number)]) {
            each(&self.named[self.starts[*name as usize] as usize..self.starts[*name as usize + 1] as usize]);
        }
        if !self.attributes.is_empty() {
            for (attribute, sketch) in element.attributes.iter().zip(numbers.sketches(number)) {
                let lower = in_lower_case(&attribute.name);
                let found = match lower {
                    Cow::Borrowed(_) => self.attributes.get(&attribute.name),
                    Cow::Owned(lower) => self.attributes.get(&Name::from(lower)),
                };
                let fits = found.into_iter().flatten().filter(|(wanted, _)| wanted & sketch == *wanted);
                fits.for_each(|(_, bucket)| each(bucket));
            }
        }
    }
}

/// Whether a selector takes every element that it is found for: one name, perhaps a pseudo-element, and nothing else.
fn takes_all(selector: &Selector) -> bool {
    let [compound] = &*selector.compounds else { return false };
    let any = |namespace: &NamespaceTest| *namespace == NamespaceTest::Any;
    let asks_no_more = |simple: &Simple| match simple {
        Simple::Id(_) | Simple::Class(_) | Simple::PseudoClass(PseudoClass::Root) => true,
        Simple::Type(namespace, ..) | Simple::Universal(namespace) => any(namespace),
        _ => false,
    };
    let pseudo = |simple: &Simple| match (simple, &selector.pseudo) {
        (Simple::PseudoElement(_), Some(aim)) => aim.then.is_none(),
        _ => false,
    };
    compound.namespace.is_none()
        && match &*compound.parts {
            [one] => asks_no_more(&one.simple) || pseudo(&one.simple),
            [one, two] => asks_no_more(&one.simple) && pseudo(&two.simple),
            _ => false,
        }
}

/// Whether a selector can take anything as long as elements are in no other states than these.
fn may_take(selector: &Selector, states: &States) -> bool {
    selector.compounds.iter().all(|compound| {
        let own = compound.parts.iter().take_while(|p| !matches!(p.simple, Simple::PseudoElement(_)));
        own.into_iter().all(|part| match &part.simple {
            Simple::PseudoClass(PseudoClass::State(state)) => state.may_be_on(states),
            Simple::PseudoClass(PseudoClass::Never(_)) => false,
            _ => true,
        })
    })
}

/// Keys of the selectors around nested rules, by the address of their list.
type KnownKeys = FxHashMap<*const SelectorList, Keys>;

/// What the subjects of a list must have: the keys of each selector, each once.
fn keys_of_list(list: &SelectorList, numbers: &Numbers, known: &mut KnownKeys) -> Keys {
    let mut keys = Keys::new();
    for selector in &list.selectors {
        for key in keys_of(&selector.subject().parts, numbers, known) {
            if keys.len() > MOST_KEYS {
                return smallvec![Key::Any];
            }
            if !keys.contains(&key) {
                keys.push(key);
            }
        }
    }
    keys
}

/// What a subject must have: to be the root, else an id, a class, an element name, an attribute, or what a list in it asks
/// for; nothing where it takes nothing.
fn keys_of(parts: &[crate::selector::Part], numbers: &Numbers, known: &mut KnownKeys) -> Keys {
    let named = |of, name: &str| numbers.get(of, name).map(Key::Name).into_iter().collect();
    let mut best = smallvec![Key::Any];
    let mut rank = 0;
    for part in parts {
        let (found, of): (Keys, u32) = match &part.simple {
            Simple::Id(name) => (named(NameOf::Id, name), 5),
            Simple::Class(name) => (named(NameOf::Class, name), 4),
            Simple::Type(_, _, lower) => (named(NameOf::Type, lower), 3),
            Simple::Attribute(test) => (smallvec![Key::Attribute(test.lower.clone(), test.sketch)], 2),
            Simple::PseudoClass(PseudoClass::Root) => (smallvec![Key::Root], 6),
            // A host is found from the tree behind it.
            Simple::PseudoClass(PseudoClass::Host(_) | PseudoClass::HostContext(_)) => (Keys::new(), 6),
            Simple::PseudoClass(PseudoClass::Is(list, _) | PseudoClass::Any(list)) => {
                (keys_of_list(list, numbers, known), 1)
            }
            Simple::Nesting(Some(list)) => {
                let keys = known.get(&Arc::as_ptr(list)).cloned();
                let keys = keys.unwrap_or_else(|| {
                    let keys = keys_of_list(list, numbers, known);
                    known.insert(Arc::as_ptr(list), keys.clone());
                    keys
                });
                (keys, 1)
            }
            // What follows is about the pseudo-element.
            Simple::PseudoElement(_) => break,
            _ => continue,
        };
        if of > rank && !found.contains(&Key::Any) {
            best = found;
            rank = of;
        }
    }
    best
}
