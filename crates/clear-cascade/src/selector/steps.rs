//! Plain selectors as steps that name the names of one document by number: what nearly all rules are matched by.
//!
//! What comes in: the bytes of plain selectors. What goes out: what the index asks, and steps from the subject outwards, which
//! take what the selectors take that are read of the same bytes ([`Matcher`]); a test compares them.

use std::hash::BuildHasher;

use rustc_hash::{FxBuildHasher, FxHashMap};
use smallvec::{SmallVec, smallvec};

use super::matching::{Matcher, Outcome, is_caseless};
use super::plain::{Functional, Plain, PlainParts, Written};
use super::{AttributeOperator, AttributeTest, Combinator, NamespaceTest, PseudoClass, Selector, Simple, Specificity};
use crate::document::{Name, NameOf, Numbers, sketch};
use crate::source::offset;
use crate::viewing::States;

/// What an element must have to be looked at for a selector.
#[derive(Clone, Debug, PartialEq, Eq, Hash)]
pub(crate) enum Key {
    /// The name of this number, of whatever kind.
    Name(u32),
    /// An attribute, its name in lower case, with what its value must have in it, as a sketch.
    Attribute(Name, u64),
    /// To be the root of the page.
    Root,
    /// Nothing in particular.
    Any,
}

/// Keys of which one is enough.
pub(crate) type Keys = SmallVec<[Key; 1]>;

/// How many keys of one selector are looked up; one that has more is tried on every element.
pub(crate) const MOST_KEYS: usize = 256;

/// How it is found out what a selector takes.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(crate) enum Way {
    /// It takes all that its key finds.
    All,
    /// By the steps from here on.
    Steps(u32),
    /// By the selector, which must be read for it.
    Selector,
}

/// What is known of a selector without reading it.
#[derive(Clone, Debug)]
pub(crate) struct Compiled<'t> {
    /// What its subject must have: one of these.
    pub(crate) keys: Keys,
    /// Names that ancestors of its subject must have, the nearest first: as many as are looked at.
    pub(crate) around: SmallVec<[u32; 4]>,
    /// How it is found out what it takes.
    pub(crate) way: Way,
    /// What it weighs, where it need not be read.
    pub(crate) specificity: Specificity,
    /// The pseudo-element it aims at.
    pub(crate) pseudo: Option<&'t str>,
}

/// A condition on an element, or a way to the next.
#[derive(Clone, Copy, Debug, PartialEq)]
enum Step {
    /// Its name has this number.
    Type(u32),
    /// One of its classes has.
    Class(u32),
    /// Its id has.
    Id(u32),
    /// It has one of the names in this place of the list of those.
    OneOf(u32),
    /// The condition in this place of the list of others.
    Other(u32),
    /// None of the selectors holds that stand in so many steps.
    Not(u32),
    /// One of them does.
    Is(u32),
    /// A selector starts that is one of those, and ends after so many steps.
    Alternative(u32),
    /// The compound ends; it relates so to the one before.
    Outwards(Combinator),
    /// The selector ends.
    End,
}

/// The steps of many selectors.
#[derive(Debug, Default)]
pub(crate) struct Steps {
    /// All of them.
    list: Vec<Step>,
    /// Conditions that are not about numbers.
    others: Vec<Simple>,
    /// Names of which one is enough, each list sorted.
    names: Vec<Box<[u32]>>,
    /// Those about attributes by a hash of what is written: most are written again and again.
    attributes: FxHashMap<u64, u32>,
}

/// How many names are looked for one by one.
const FEW: usize = 8;

/// How many compounds a selector may have that is matched by steps, each of which takes stack.
const MOST_COMPOUNDS: usize = 64;

impl Steps {
    /// Writes down the steps of a selector that was read. Nothing where it is matched as it is.
    pub(crate) fn of(&mut self, selector: &Selector, numbers: &Numbers) -> Option<Way> {
        let elsewhere = selector.slotted.is_some() || selector.compounds.iter().any(|c| c.namespace.is_some());
        if elsewhere || selector.compounds.len() > MOST_COMPOUNDS {
            return None;
        }
        let start = offset(self.list.len());
        for (i, compound) in selector.compounds.iter().enumerate().rev() {
            for part in &compound.parts {
                let step = match &part.simple {
                    Simple::PseudoElement(_) => break,
                    Simple::Universal(NamespaceTest::Any) => continue,
                    Simple::Type(NamespaceTest::Any, _, lower) => numbers.get(NameOf::Type, lower).map(Step::Type),
                    Simple::Class(name) => numbers.get(NameOf::Class, name).map(Step::Class),
                    Simple::Id(name) => numbers.get(NameOf::Id, name).map(Step::Id),
                    other => {
                        self.others.push(other.clone());
                        Some(Step::Other(offset(self.others.len() - 1)))
                    }
                };
                // Where nothing has a name, it does not matter how that is found out.
                self.list.push(step?);
            }
            self.list.push(if i == 0 { Step::End } else { Step::Outwards(compound.combinator) });
        }
        Some(Way::Steps(start))
    }

    /// Whether an element is taken by the selector whose steps start at a place.
    pub(crate) fn take(&self, start: u32, matcher: &Matcher<'_>, element: u32) -> bool {
        self.walk(start as usize, matcher, matcher.document.numbers(), element) == Outcome::Taken
    }

    /// Whether the conditions from a place on hold for an element, and those further out for the elements around and before it.
    fn walk(&self, start: usize, matcher: &Matcher<'_>, numbers: &Numbers, element: u32) -> Outcome {
        let mut at = start;
        let combinator = loop {
            match self.list[at] {
                Step::End => return Outcome::Taken,
                Step::Outwards(combinator) => break combinator,
                condition => {
                    let Some(next) = self.holds(condition, at, matcher, numbers, element) else {
                        return Outcome::MissedHere;
                    };
                    at = next;
                }
            }
        };
        if combinator == Combinator::SubsequentSibling
            && let Some(parent) = numbers.parent(element)
        {
            let first = self.first_child(at + 1, matcher, numbers, parent);
            let before = first.is_some_and(|place| place < numbers.position(element));
            return if before { Outcome::Taken } else { Outcome::MissedSiblings };
        }
        let outwards = matches!(combinator, Combinator::Descendant | Combinator::Child);
        let mut here = element;
        loop {
            let next = if outwards { numbers.parent(here) } else { numbers.previous(here) };
            let Some(next) = next else {
                return if outwards { Outcome::Missed } else { Outcome::MissedSiblings };
            };
            // Most elements on the way do not have the class that is asked for first.
            let outcome = match self.list[at + 1] {
                Step::Class(class) if !numbers.has_class(next, class) => Outcome::MissedHere,
                _ => self.walk(at + 1, matcher, numbers, next),
            };
            // As `Matcher::try_compound` goes on.
            match (outcome, combinator) {
                (outcome @ (Outcome::Taken | Outcome::Missed), _) => return outcome,
                (outcome @ Outcome::MissedSiblings, Combinator::SubsequentSibling) => return outcome,
                (outcome, Combinator::NextSibling) => return outcome,
                (_, Combinator::Child) => return Outcome::MissedSiblings,
                (_, Combinator::Descendant | Combinator::SubsequentSibling) => here = next,
            }
        }
    }

    /// The place of the first child of an element that the steps from a place on take: the same for all its siblings that look for one
    /// before them.
    fn first_child(&self, start: usize, matcher: &Matcher<'_>, numbers: &Numbers, parent: u32) -> Option<u32> {
        let key = (std::ptr::from_ref(&self.list[start]).addr(), parent);
        let known = matcher.first.borrow().get(&key).copied();
        let place = known.unwrap_or_else(|| {
            let parent = matcher.document.id(parent);
            let mut children = parent.into_iter().flat_map(|p| matcher.document.node(p).child_elements());
            let first = children.find(|c| self.walk(start, matcher, numbers, c.number()) == Outcome::Taken);
            let place = first.map_or(0, |first| numbers.position(first.number()));
            matcher.first.borrow_mut().insert(key, place);
            place
        });
        Some(place).filter(|place| *place > 0)
    }

    /// The step behind a condition, if that holds for an element.
    #[inline(always)]
    fn holds(
        &self,
        condition: Step,
        at: usize,
        matcher: &Matcher<'_>,
        numbers: &Numbers,
        element: u32,
    ) -> Option<usize> {
        let holds = match condition {
            Step::Type(name) => numbers.name(element) == name,
            Step::Class(class) => numbers.has_class(element, class),
            Step::Id(id) => numbers.id(element) == Some(id),
            Step::OneOf(place) => {
                let names = &self.names[place as usize];
                let has = |name: u32| names.binary_search(&name).is_ok();
                has(numbers.name(element))
                    || numbers.id(element).is_some_and(has)
                    || numbers.classes(element).iter().any(|class| has(*class))
            }
            Step::Other(place) => {
                let element = matcher.document.id(element);
                element.is_some_and(|e| matcher.simple(&self.others[place as usize], e))
            }
            Step::Not(length) | Step::Is(length) => {
                let (mut next, end) = (at + 1, at + 1 + length as usize);
                let mut taken = false;
                while let Step::Alternative(length) = self.list[next]
                    && !taken
                    && next < end
                {
                    taken = self.walk(next + 1, matcher, numbers, element) == Outcome::Taken;
                    next += 1 + length as usize;
                }
                return (taken == matches!(condition, Step::Is(_))).then_some(end);
            }
            Step::Alternative(_) | Step::Outwards(_) | Step::End => true,
        };
        holds.then_some(at + 1)
    }
}

/// Writes the steps of plain selectors down, one list after the other.
pub(crate) struct Compiler<'c, 't> {
    /// The steps so far.
    pub(crate) steps: Steps,
    /// The names that there are.
    numbers: &'c Numbers,
    /// The states that elements are in.
    states: &'c States,
    /// The conditions so far, in written order.
    conditions: SmallVec<[Step; 16]>,
    /// Where compounds start, and how each relates to the one before.
    compounds: SmallVec<[(usize, Combinator); 8]>,
    /// The selector at hand.
    selector: Unfinished,
    /// Those around it, the outermost first, each with the list in it that is open.
    around: SmallVec<[(Unfinished, OpenList); 2]>,
    /// The pseudo-element that is aimed at.
    pseudo: Option<&'t str>,
    /// The namespace of attributes, once one was met.
    no_namespace: Option<NamespaceTest>,
}

/// A selector while it is compiled: one of a rule, or one in a list inside of that.
struct Unfinished {
    /// Where its conditions start.
    conditions: usize,
    /// The place of its first compound among all.
    compounds: usize,
    /// Whether it may hold, as far as is known.
    possible: bool,
    /// Whether something is in it that must be read.
    unread: bool,
    /// What the compound at hand must have, and how telling that is.
    needs: (Needs, u32),
    /// What it weighs.
    specificity: Specificity,
}

impl Unfinished {
    /// A selector whose conditions start at one place and whose first compound is at another.
    fn new(conditions: usize, compounds: usize) -> Self {
        let specificity = Specificity::default();
        Self { conditions, compounds, possible: true, unread: false, needs: (Needs::Any, 0), specificity }
    }
}

/// What a compound must have, while it is compiled.
#[derive(Clone)]
enum Needs {
    /// The name of this number.
    Name(u32),
    /// The attribute that is tested in this place of the list of others.
    Attribute(u32),
    /// To be the root of the page.
    Root,
    /// What one of the selectors in a list asks for.
    OneOf(Keys),
    /// Nothing in particular.
    Any,
}

/// A pseudo-class with selectors in it, while these are compiled.
struct OpenList {
    /// What it asks of them.
    functional: Functional,
    /// Its own step.
    at: usize,
    /// What the heaviest one so far weighs.
    heaviest: Specificity,
    /// Whether one so far may hold.
    some: bool,
    /// Whether one so far takes every element.
    all: bool,
    /// Whether one so far must be read.
    unread: bool,
    /// What the subjects of those so far must have.
    keys: Keys,
}

impl<'c, 't> Compiler<'c, 't> {
    /// Before the first selector of so many rules, for a document with these names while elements are in such states.
    pub(crate) fn new(rules: usize, numbers: &'c Numbers, states: &'c States) -> Self {
        // Room for what mostly comes of them, so that it need not be moved.
        let steps =
            Steps { list: Vec::with_capacity(rules * 8), others: Vec::with_capacity(rules), ..Steps::default() };
        Self {
            steps,
            numbers,
            states,
            conditions: SmallVec::new(),
            compounds: smallvec![(0, Combinator::Descendant)],
            selector: Unfinished::new(0, 0),
            around: SmallVec::new(),
            pseudo: None,
            no_namespace: None,
        }
    }

    /// Compiles a list, of which the number of the first part is given and the text that it is written in, and calls `found` with
    /// those of its selectors that may take something, with their places in the list.
    pub(crate) fn compile(
        &mut self,
        (parts, start, text): (&PlainParts, u32, &'t str),
        mut found: impl FnMut(u32, Compiled<'t>),
    ) {
        let mut number = 0;
        parts.each(start, text, |part| {
            if !matches!(part, Plain::End) {
                return self.add(part);
            }
            if let Some(compiled) = self.end() {
                found(number, compiled);
            }
            number += 1;
        });
    }

    /// Adds a part.
    fn add(&mut self, part: Plain<'t>) {
        // What else is in it does not matter then; inside of a list it still weighs.
        if !self.selector.possible && self.around.is_empty() {
            return;
        }
        match part {
            Plain::Id(id) => self.name(NameOf::Id, id),
            Plain::Class(class) => self.name(NameOf::Class, class),
            Plain::Type(name) => self.name(NameOf::Type, name),
            Plain::Attribute(name, test) => self.attribute(name, test),
            Plain::State(state) => {
                self.condition(Simple::PseudoClass(PseudoClass::State(state)));
                self.selector.possible &= state.may_be_on(self.states);
            }
            Plain::Structural(name) => {
                if let Some(pseudo) = PseudoClass::structural(name) {
                    if matches!(pseudo, PseudoClass::Root) {
                        self.needs(Needs::Root, 6);
                    }
                    self.condition(Simple::PseudoClass(pseudo));
                }
            }
            Plain::Counted(counted) => match counted.pseudo_class() {
                Some(pseudo) => self.condition(Simple::PseudoClass(pseudo)),
                None => self.selector.unread = true,
            },
            Plain::PseudoElement(name) => {
                self.pseudo = Some(name);
                self.weighs(Specificity::new(0, 0, 1));
            }
            Plain::Combinator(combinator) => {
                self.compounds.push((self.conditions.len(), combinator));
                self.selector.needs = (Needs::Any, 0);
            }
            Plain::Open(functional) => self.open(functional),
            Plain::Or => {
                self.alternative();
                self.start();
            }
            Plain::Close => {
                self.alternative();
                self.close();
            }
            Plain::End => {}
        }
    }

    /// Opens a list in the selector at hand.
    fn open(&mut self, functional: Functional) {
        let list = OpenList {
            functional,
            at: self.conditions.len(),
            heaviest: Specificity::default(),
            some: false,
            all: false,
            unread: false,
            keys: Keys::new(),
        };
        self.conditions.push(Step::Is(0));
        let inner = Unfinished::new(0, self.compounds.len());
        self.around.push((std::mem::replace(&mut self.selector, inner), list));
        self.start();
    }

    /// Starts a selector in a list.
    fn start(&mut self) {
        self.conditions.push(Step::Alternative(0));
        self.compounds.truncate(self.selector.compounds);
        self.selector = Unfinished::new(self.conditions.len(), self.compounds.len());
        self.compounds.push((self.conditions.len(), Combinator::Descendant));
    }

    /// Ends a selector in a list.
    fn alternative(&mut self) {
        let Unfinished { conditions: from, compounds, possible, unread, specificity, .. } = self.selector;
        let keys = self.keys();
        let own = &self.compounds[compounds..];
        let takes_all = own.len() == 1 && self.conditions.len() == from && !unread;
        if possible && own.len() > 1 {
            // They are looked at from the subject outwards.
            let mut outwards: SmallVec<[Step; 16]> = SmallVec::new();
            let mut end = self.conditions.len();
            for (i, (start, combinator)) in own.iter().enumerate().rev() {
                outwards.extend_from_slice(&self.conditions[*start..end]);
                if i > 0 {
                    outwards.push(Step::Outwards(*combinator));
                }
                end = *start;
            }
            self.conditions.truncate(from);
            self.conditions.extend(outwards);
        }
        let Some((_, list)) = self.around.last_mut() else { return };
        list.heaviest = list.heaviest.max(specificity);
        if possible {
            list.some = true;
            list.all |= takes_all;
            list.unread |= unread || own.len() > MOST_COMPOUNDS;
            for key in keys {
                if list.keys.len() <= MOST_KEYS && !list.keys.contains(&key) {
                    list.keys.push(key);
                }
            }
        }
        if possible && !takes_all && list.functional != Functional::Has {
            self.conditions.push(Step::End);
            self.conditions[from - 1] = Step::Alternative(offset(self.conditions.len() - from));
        } else {
            self.conditions.truncate(from - 1);
        }
    }

    /// Ends a list, and goes on with the selector that it is in.
    fn close(&mut self) {
        self.compounds.truncate(self.selector.compounds);
        let Some((outer, list)) = self.around.pop() else { return };
        self.selector = outer;
        self.look_names_up(list.at + 1);
        if list.functional != Functional::Where {
            self.weighs(list.heaviest);
        }
        let length = offset(self.conditions.len() - list.at - 1);
        let takes_all = list.all && list.functional != Functional::Has;
        match list.functional {
            Functional::Not => {
                self.selector.possible &= !takes_all;
                self.conditions[list.at] = Step::Not(length);
            }
            Functional::Is | Functional::Where => {
                self.selector.possible &= list.some;
                self.conditions[list.at] = Step::Is(length);
                if !list.keys.contains(&Key::Any) && list.keys.len() <= MOST_KEYS {
                    self.needs(Needs::OneOf(list.keys), 1);
                }
            }
            Functional::Has => {
                self.selector.possible &= list.some;
                self.selector.unread = true;
            }
        }
        self.selector.unread |= list.unread && !takes_all;
        if length == 0 || takes_all {
            self.conditions.truncate(list.at);
        }
    }

    /// Has the names of a list looked up at once, where there are many selectors in it that ask for nothing else. They start at a place.
    fn look_names_up(&mut self, start: usize) {
        if self.conditions.len() - start <= FEW * 3 {
            return;
        }
        let (mut names, mut others) = (Vec::new(), Vec::new());
        let mut at = start;
        while let Some(Step::Alternative(length)) = self.conditions.get(at) {
            let end = at + 1 + *length as usize;
            match self.conditions[at + 1..end] {
                [Step::Type(name) | Step::Class(name) | Step::Id(name), Step::End] => names.push(name),
                _ => others.extend_from_slice(&self.conditions[at..end]),
            }
            at = end;
        }
        if names.len() > FEW {
            names.sort_unstable();
            self.conditions.truncate(start);
            self.conditions.extend(others);
            self.conditions.extend([Step::Alternative(2), Step::OneOf(offset(self.steps.names.len())), Step::End]);
            self.steps.names.push(names.into());
        }
    }

    /// Adds what a part weighs.
    fn weighs(&mut self, more: Specificity) {
        self.selector.specificity = self.selector.specificity + more;
    }

    /// Takes down what the compound at hand needs, if that tells more than what is known.
    fn needs(&mut self, needs: Needs, rank: u32) {
        if rank > self.selector.needs.1 {
            self.selector.needs = (needs, rank);
        }
    }

    /// Adds a name that an element must have.
    #[inline(always)]
    fn name(&mut self, of: NameOf, written: Written<'_>) {
        let (rank, specificity) = match of {
            NameOf::Id => (5, Specificity::new(1, 0, 0)),
            NameOf::Class => (4, Specificity::new(0, 1, 0)),
            NameOf::Type => (3, Specificity::new(0, 0, 1)),
        };
        self.weighs(specificity);
        let Some(number) = self.numbers.get(of, &written.name()) else {
            self.selector.possible = false;
            return;
        };
        self.needs(Needs::Name(number), rank);
        self.conditions.push(match of {
            NameOf::Id => Step::Id(number),
            NameOf::Class => Step::Class(number),
            NameOf::Type => Step::Type(number),
        });
    }

    /// Adds an attribute.
    fn attribute(&mut self, written: Written<'_>, test: Option<(AttributeOperator, Written<'_>)>) {
        self.weighs(Specificity::new(0, 1, 0));
        let (written, test) = (written.name(), test.map(|(operator, value)| (operator, value.name())));
        if !self.numbers.has_attribute(&written) {
            self.selector.possible = false;
            return;
        }
        let hash = FxBuildHasher.hash_one((&written, &test));
        let known = self.steps.attributes.get(&hash).copied().filter(|place| {
            let same = |known: &AttributeTest| {
                let known_test = known.test.as_ref().map(|(operator, value)| (*operator, &**value));
                *known.name == *written && known_test == test.as_ref().map(|(operator, value)| (*operator, &**value))
            };
            matches!(&self.steps.others[*place as usize], Simple::Attribute(known) if same(known))
        });
        let place = known.unwrap_or_else(|| {
            let place = offset(self.steps.others.len());
            self.steps.attributes.insert(hash, place);
            let lower = Name::from(crate::text::in_lower_case(&written));
            let test = test.map(|(operator, value)| (operator, Box::from(value)));
            let sketch = test.as_ref().map_or(0, |(_, value)| sketch(value));
            let namespace = self.no_namespace.get_or_insert_with(|| NamespaceTest::Is("".into())).clone();
            let name = if *lower == *written { lower.clone() } else { Name::from(&*written) };
            self.steps.others.push(Simple::Attribute(Box::new(AttributeTest {
                namespace,
                name,
                caseless: is_caseless(&lower),
                lower,
                sketch,
                test,
                case: None,
            })));
            place
        });
        self.needs(Needs::Attribute(place), 2);
        self.conditions.push(Step::Other(place));
    }

    /// Adds a condition that is not about a number.
    fn condition(&mut self, simple: Simple) {
        self.weighs(simple.specificity());
        self.conditions.push(Step::Other(offset(self.steps.others.len())));
        self.steps.others.push(simple);
    }

    /// Ends the selector and starts anew: what is known of it, if it may take something.
    fn end(&mut self) -> Option<Compiled<'t>> {
        let compiled = self.selector.possible.then(|| {
            let way = self.way();
            let specificity = self.selector.specificity;
            Compiled { keys: self.keys(), around: self.names_around(), way, specificity, pseudo: self.pseudo }
        });
        self.conditions.clear();
        self.compounds.truncate(1);
        self.around.clear();
        (self.selector, self.pseudo) = (Unfinished::new(0, 0), None);
        compiled
    }

    /// What the subject of the selector at hand must have.
    fn keys(&mut self) -> Keys {
        smallvec![match std::mem::replace(&mut self.selector.needs.0, Needs::Any) {
            Needs::Name(number) => Key::Name(number),
            Needs::Root => Key::Root,
            Needs::Attribute(place) => match &self.steps.others[place as usize] {
                Simple::Attribute(test) => Key::Attribute(test.lower.clone(), test.sketch),
                _ => Key::Any,
            },
            Needs::OneOf(keys) => return keys,
            Needs::Any => Key::Any,
        }]
    }

    /// Writes its steps down, where it has some.
    fn way(&mut self) -> Way {
        let asks_no_more = match &*self.conditions {
            [] => true,
            [_] => matches!(self.selector.needs.0, Needs::Name(_) | Needs::Root),
            _ => false,
        };
        if self.selector.unread || self.compounds.len() > MOST_COMPOUNDS {
            return Way::Selector;
        }
        if self.compounds.len() == 1 && asks_no_more {
            return Way::All;
        }
        let start = offset(self.steps.list.len());
        let mut end = self.conditions.len();
        for (i, (from, combinator)) in self.compounds.iter().enumerate().rev() {
            self.steps.list.extend_from_slice(&self.conditions[*from..end]);
            self.steps.list.push(if i == 0 { Step::End } else { Step::Outwards(*combinator) });
            end = *from;
        }
        Way::Steps(start)
    }

    /// Names that ancestors of the subject must have. Past a sibling combinator the elements further left are siblings; past the next,
    /// ancestors again.
    fn names_around(&self) -> SmallVec<[u32; 4]> {
        let mut names = SmallVec::new();
        for pair in self.compounds.windows(2).rev() {
            let ((from, _), (to, combinator)) = (pair[0], pair[1]);
            if !matches!(combinator, Combinator::Descendant | Combinator::Child) {
                continue;
            }
            let mut at = from;
            while at < to && names.len() < names.inline_size() {
                match self.conditions[at] {
                    Step::Type(name) | Step::Class(name) | Step::Id(name) => names.push(name),
                    Step::Not(length) | Step::Is(length) => at += length as usize,
                    _ => {}
                }
                at += 1;
            }
        }
        names
    }
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;
    use crate::document;
    use crate::selector::SelectorList;
    use crate::source::SourceId;

    /// What the steps of some selectors take of a document's elements, and what the selectors take as they are read.
    fn taken(page: &str, selectors: &str) -> (Vec<String>, Vec<String>) {
        let document = document::parse(SourceId::QUESTION, page);
        let (numbers, states) = (document.numbers(), States::default());
        let matcher = Matcher::new(&document, &states);
        let list: SelectorList = selectors.parse().unwrap_or_else(|e| panic!("{selectors}: {e}"));
        let text = format!("{selectors}{{}}");
        let (mut compiler, mut compiled) = (Compiler::new(1, numbers, &states), Vec::new());
        let mut parts = PlainParts::default();
        assert!(parts.read(&text, 0).is_some(), "{selectors}");
        compiler.compile((&parts, 0, &text), |number, one| compiled.push((number as usize, one)));
        let mut steps = compiler.steps;
        let mut all: Vec<(usize, Way, Keys)> = Vec::new();
        for (number, one) in &compiled {
            let read = &list.selectors[*number];
            assert!(one.way == Way::Selector || one.specificity == read.specificity, "{read}");
            assert_eq!(one.pseudo, read.pseudo.as_ref().map(|p| p.name.as_str()), "{read}");
            all.push((*number, one.way, one.keys.clone()));
            all.extend(steps.of(read, numbers).map(|way| (*number, way, smallvec![Key::Any])));
        }
        let found = |key: &Key, element: u32| match key {
            Key::Name(n) => {
                numbers.name(element) == *n || numbers.id(element) == Some(*n) || numbers.has_class(element, *n)
            }
            Key::Root => element == 0,
            Key::Attribute(_, sketch) => numbers.may_have_in_value(element, *sketch),
            Key::Any => true,
        };
        let (mut ours, mut theirs) = (Vec::new(), Vec::new());
        for id in document.all_ids() {
            for (number, way, keys) in &all {
                let takes = keys.iter().any(|key| found(key, id.number()))
                    && match way {
                        Way::All => true,
                        Way::Steps(start) => steps.take(*start, &matcher, id.number()),
                        Way::Selector => matcher.takes(&list.selectors[*number], id),
                    };
                ours.push(format!("{number} {id} {takes}"));
            }
            let known: Vec<usize> = all.iter().map(|(number, ..)| *number).collect();
            for (number, selector) in list.selectors.iter().enumerate() {
                let takes = matcher.takes(selector, id);
                let times = known.iter().filter(|n| **n == number).count();
                theirs.extend(std::iter::repeat_n(format!("{number} {id} {takes}"), times));
                assert!(times > 0 || !takes, "{selector} takes {id}");
            }
        }
        ours.sort();
        theirs.sort();
        (ours, theirs)
    }

    /// Elements with names, ids and classes that selectors may ask for.
    const PAGES: [&str; 2] = [
        "<!DOCTYPE html><div class='a b' id=x><p class=b title=xy>1<b class=A></b><i class='c a'></i></p><p id=X class=é></p></div><a href=#>2</a>",
        "<div class='A b' ID=x><svg><linearGradient class=b/></svg><p TITLE=XY data-q=en-US>1<b class=A></b></p><p class='c  a'></div>",
    ];

    /// Compounds and what stands between them.
    const PARTS: [&[&str]; 3] = [
        &["", "*", "p", "DIV", "b", "i", "none", "lineargradient"],
        &[
            "",
            ".a",
            ".b",
            ".c",
            ".none",
            "#x",
            "#X",
            "[title]",
            "[title=xy]",
            "[TITLE*=x]",
            "[class~=a]",
            "[data-q|=en]",
            ":first-child",
            ":empty",
            ":root",
            ":hover",
            ":link",
            ":not(.a)",
            ":not(.none)",
            ":not(*)",
            ":not(:hover)",
            ":not(.b, p.none, [title])",
            ":not(p:first-child)",
            ":is(.a, p b)",
            ":where(.none, :not(i))",
            ":has(> .b)",
            ":not(p > b)",
            ":nth-child(2n+1)",
            "[none]",
            ":not([none], .a)",
            ":is(.none *, #none, b[none])",
            ":has(> .none, [TITLE], :is(.none))",
            ":where(:not(.none) > .b, .none)",
            ":is(.a > .b, p b.none, div p)",
            ":not(:has(:focus-visible), .a b)",
            ":is(:is(.a b, .none, p) > b, .none:has(i))",
            ":where(.b ~ *, div + p, #x *)",
            ":not(:nth-last-child(n+2) > .b):nth-of-type(odd)",
            ":is(*, .a)",
            ":is(i:not(.a *, :has(.none)), [title])",
            ":has(:hover, .none)",
            ":not(:is(.a .b, :not(.b)), :where(.none))",
            ":is(.a, .b, .c, #x, #X, p, DIV, b, i, a, p.b, b b)",
        ],
        &[" ", " ", " > ", " + ", "~", ", "],
    ];

    proptest! {
        #![proptest_config(ProptestConfig { failure_persistence: None, cases: 1024, ..ProptestConfig::default() })]
        #[test]
        fn steps_take_what_selectors_take(
            parts in prop::collection::vec((0..8usize, 0..43usize, 0..43usize, 0..6usize), 1..6),
            pseudo in 0..4usize,
        ) {
            let mut text = String::new();
            for (i, (name, first, second, between)) in parts.iter().enumerate() {
                if i > 0 {
                    text.push_str(PARTS[2][*between]);
                }
                let compound = [PARTS[0][*name], PARTS[1][*first], PARTS[1][*second]].concat();
                text.push_str(if compound.is_empty() { "*" } else { &compound });
            }
            text.push_str(["", "", "::before", ":first-line"][pseudo]);
            for page in PAGES {
                let (ours, theirs) = taken(page, &text);
                prop_assert_eq!(ours, theirs, "{}", text);
            }
        }
    }
}
