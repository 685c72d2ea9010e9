//! Plain selectors as steps that name the names of one document by number: what nearly all rules are matched by.
//!
//! What comes in: the bytes of plain selectors. What goes out: what the index asks, and steps from the subject outwards, which
//! take what the selectors take that are read of the same bytes ([`Matcher`]); a test compares them.

use std::hash::BuildHasher;

use rustc_hash::{FxBuildHasher, FxHashMap};
use smallvec::{SmallVec, smallvec};

use super::matching::{Matcher, Outcome, is_caseless};
use super::plain::{Plain, PlainParts, Written};
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
    /// What its subject must have.
    pub(crate) key: Key,
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
    /// The condition in this place of the list of others.
    Other(u32),
    /// None of the alternatives holds that stand in so many steps, each with [`Step::Or`] behind it.
    Not(u32),
    /// An alternative ends.
    Or,
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
    /// Those about attributes by a hash of what is written: most are written again and again.
    attributes: FxHashMap<u64, u32>,
}

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
                Step::End | Step::Or => return Outcome::Taken,
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
            Step::Other(place) => {
                let element = matcher.document.id(element);
                element.is_some_and(|e| matcher.simple(&self.others[place as usize], e))
            }
            Step::Not(length) => {
                let end = at + 1 + length as usize;
                let mut next = at + 1;
                while next < end {
                    if self.walk(next, matcher, numbers, element) == Outcome::Taken {
                        return None;
                    }
                    next += self.list[next..end].iter().position(|s| *s == Step::Or).map_or(end, |or| or + 1);
                }
                return Some(end);
            }
            Step::Or | Step::Outwards(_) | Step::End => true,
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
    /// Whether it may take something, as far as is known.
    possible: bool,
    /// What the compound at hand must have, and how telling that is.
    needs: (Needs, u32),
    /// What it weighs.
    specificity: Specificity,
    /// The pseudo-element it aims at.
    pseudo: Option<&'t str>,
    /// Whether something is in it that must be read.
    unread: bool,
    /// The `:not()` that is open.
    not: Option<OpenNot>,
    /// The list that is open of which one selector must hold.
    one_of: Option<OneOf>,
    /// The namespace of attributes, once one was met.
    no_namespace: Option<NamespaceTest>,
}

/// What a compound must have, while it is compiled.
#[derive(Clone, Copy)]
enum Needs {
    /// The name of this number.
    Name(u32),
    /// The attribute that is tested in this place of the list of others.
    Attribute(u32),
    /// To be the root of the page.
    Root,
    /// Nothing in particular.
    Any,
}

/// A `:not()` while it is compiled.
struct OpenNot {
    /// Its own step.
    at: usize,
    /// Where the alternative at hand starts.
    from: usize,
    /// Whether that may hold.
    possible: bool,
    /// What it weighs.
    specificity: Specificity,
    /// What the heaviest one before it weighs.
    heaviest: Specificity,
}

/// A list of which one selector must hold, while it is gone through.
struct OneOf {
    /// Whether the selector at hand may hold.
    possible: bool,
    /// Whether one before it may.
    some: bool,
}

impl OneOf {
    /// Adds a part of a selector: a name, or its end.
    fn add(&mut self, part: Plain<'_>, numbers: &Numbers) {
        self.possible &= match part {
            Plain::Id(name) => numbers.get(NameOf::Id, &name.name()).is_some(),
            Plain::Class(name) => numbers.get(NameOf::Class, &name.name()).is_some(),
            Plain::Type(name) => numbers.get(NameOf::Type, &name.name()).is_some(),
            Plain::Attribute(name, _) => numbers.has_attribute(&name.name()),
            Plain::Or => {
                self.some |= self.possible;
                self.possible = true;
                return;
            }
            _ => true,
        };
    }
}

impl<'c, 't> Compiler<'c, 't> {
    /// Before the first selector of so many rules, for a document with these names while elements are in such states.
    pub(crate) fn new(rules: usize, numbers: &'c Numbers, states: &'c States) -> Self {
        // Room for what mostly comes of them, so that it need not be moved.
        let steps =
            Steps { list: Vec::with_capacity(rules * 4), others: Vec::with_capacity(rules / 2), ..Steps::default() };
        Self {
            steps,
            numbers,
            states,
            conditions: SmallVec::new(),
            compounds: smallvec![(0, Combinator::Descendant)],
            possible: true,
            needs: (Needs::Any, 0),
            specificity: Specificity::default(),
            pseudo: None,
            unread: false,
            not: None,
            one_of: None,
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
        if !self.possible {
            return;
        }
        if let Some(list) = &mut self.one_of
            && !matches!(part, Plain::Unread)
        {
            return list.add(part, self.numbers);
        }
        match part {
            Plain::Id(id) => self.name(NameOf::Id, id),
            Plain::Class(class) => self.name(NameOf::Class, class),
            Plain::Type(name) => self.name(NameOf::Type, name),
            Plain::Attribute(name, test) => self.attribute(name, test),
            Plain::State(state) => {
                self.condition(Simple::PseudoClass(PseudoClass::State(state)));
                if !state.may_be_on(self.states) {
                    self.impossible();
                }
            }
            Plain::Structural(name) => {
                if let Some(pseudo) = PseudoClass::structural(name) {
                    if matches!(pseudo, PseudoClass::Root) {
                        self.needs(Needs::Root, 6);
                    }
                    self.condition(Simple::PseudoClass(pseudo));
                }
            }
            Plain::PseudoElement(name) => {
                self.pseudo = Some(name);
                self.weighs(Specificity::new(0, 0, 1));
            }
            Plain::Combinator(combinator) => {
                self.compounds.push((self.conditions.len(), combinator));
                self.needs = (Needs::Any, 0);
            }
            Plain::Not => {
                let at = self.conditions.len();
                let (specificity, heaviest) = (Specificity::default(), Specificity::default());
                self.conditions.push(Step::Not(0));
                self.not = Some(OpenNot { at, from: at + 1, possible: true, specificity, heaviest });
            }
            Plain::OneOf => self.one_of = Some(OneOf { possible: true, some: false }),
            Plain::Or => self.alternative(),
            Plain::EndNot => {
                self.alternative();
                let Some(not) = self.not.take() else { return };
                let length = self.conditions.len() - not.at - 1;
                if length == 0 {
                    self.conditions.pop();
                } else {
                    self.conditions[not.at] = Step::Not(offset(length));
                }
                self.weighs(not.heaviest);
            }
            Plain::Unread => {
                self.unread = true;
                if self.one_of.take().is_some_and(|list| !list.possible && !list.some) {
                    self.impossible();
                }
            }
            Plain::End => {}
        }
    }

    /// Adds what a part weighs.
    fn weighs(&mut self, more: Specificity) {
        let sum = self.not.as_mut().map_or(&mut self.specificity, |not| &mut not.specificity);
        *sum = *sum + more;
    }

    /// Takes down that nothing can be taken, or that an alternative cannot hold.
    fn impossible(&mut self) {
        *self.not.as_mut().map_or(&mut self.possible, |not| &mut not.possible) = false;
    }

    /// Takes down what the compound at hand needs, if that tells more than what is known.
    fn needs(&mut self, needs: Needs, rank: u32) {
        if self.not.is_none() && rank > self.needs.1 {
            self.needs = (needs, rank);
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
        let Some(number) = self.numbers.get(of, &written.name()) else { return self.impossible() };
        self.needs(Needs::Name(number), rank);
        self.conditions.push(match of {
            NameOf::Id => Step::Id(number),
            NameOf::Class => Step::Class(number),
            NameOf::Type => Step::Type(number),
        });
    }

    /// Adds an attribute.
    fn attribute(&mut self, written: Written<'_>, test: Option<(AttributeOperator, Written<'_>)>) {
        let (written, test) = (written.name(), test.map(|(operator, value)| (operator, value.name())));
        if !self.numbers.has_attribute(&written) {
            self.weighs(Specificity::new(0, 1, 0));
            return self.impossible();
        }
        let hash = FxBuildHasher.hash_one((&written, &test));
        let known = self.steps.attributes.get(&hash).copied().filter(|place| {
            let same = |known: &AttributeTest| {
                let known_test = known.test.as_ref().map(|(operator, value)| (*operator, &**value));
                *known.name == *written && known_test == test.as_ref().map(|(operator, value)| (*operator, &**value))
            };
            matches!(&self.steps.others[*place as usize], Simple::Attribute(known) if same(known))
        });
        if let Some(place) = known {
            self.needs(Needs::Attribute(place), 2);
            self.weighs(Specificity::new(0, 1, 0));
            return self.conditions.push(Step::Other(place));
        }
        self.steps.attributes.insert(hash, offset(self.steps.others.len()));
        let lower = Name::from(crate::text::in_lower_case(&written));
        let test = test.map(|(operator, value)| (operator, Box::from(value)));
        let sketch = test.as_ref().map_or(0, |(_, value)| sketch(value));
        self.needs(Needs::Attribute(offset(self.steps.others.len())), 2);
        let namespace = self.no_namespace.get_or_insert_with(|| NamespaceTest::Is("".into())).clone();
        let name = if *lower == *written { lower.clone() } else { Name::from(&*written) };
        self.condition(Simple::Attribute(Box::new(AttributeTest {
            namespace,
            name,
            caseless: is_caseless(&lower),
            lower,
            sketch,
            test,
            case: None,
        })));
    }

    /// Adds a condition that is not about a number.
    fn condition(&mut self, simple: Simple) {
        self.weighs(simple.specificity());
        self.conditions.push(Step::Other(offset(self.steps.others.len())));
        self.steps.others.push(simple);
    }

    /// Ends an alternative inside of `:not()`.
    fn alternative(&mut self) {
        let end = self.conditions.len();
        let Some(not) = &mut self.not else { return };
        not.heaviest = not.heaviest.max(not.specificity);
        not.specificity = Specificity::default();
        let holds_always = not.possible && end == not.from;
        if !not.possible {
            self.conditions.truncate(not.from);
        } else if !holds_always {
            self.conditions.push(Step::Or);
        }
        not.possible = true;
        not.from = self.conditions.len();
        if holds_always {
            // `:not(*)` fits nothing.
            self.possible = false;
        }
    }

    /// Ends the selector and starts anew: what is known of it, if it may take something.
    fn end(&mut self) -> Option<Compiled<'t>> {
        let compiled = self.possible.then(|| {
            let way = self.way();
            let around = self.around();
            Compiled { key: self.key(), around, way, specificity: self.specificity, pseudo: self.pseudo }
        });
        self.conditions.clear();
        self.compounds.truncate(1);
        self.needs = (Needs::Any, 0);
        self.specificity = Specificity::default();
        (self.possible, self.pseudo, self.unread, self.not, self.one_of) = (true, None, false, None, None);
        compiled
    }

    /// What its subject must have.
    fn key(&self) -> Key {
        match self.needs.0 {
            Needs::Name(number) => Key::Name(number),
            Needs::Root => Key::Root,
            Needs::Attribute(place) => match &self.steps.others[place as usize] {
                Simple::Attribute(test) => Key::Attribute(test.lower.clone(), test.sketch),
                _ => Key::Any,
            },
            Needs::Any => Key::Any,
        }
    }

    /// Writes its steps down, where it has some.
    fn way(&mut self) -> Way {
        let asks_no_more = match &*self.conditions {
            [] => true,
            [_] => matches!(self.needs.0, Needs::Name(_) | Needs::Root),
            _ => false,
        };
        if self.unread || self.compounds.len() > MOST_COMPOUNDS {
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
    fn around(&self) -> SmallVec<[u32; 4]> {
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
                    Step::Not(length) => at += length as usize,
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
        let mut all: Vec<(usize, Way, Key)> = Vec::new();
        for (number, one) in &compiled {
            let read = &list.selectors[*number];
            assert!(one.way == Way::Selector || one.specificity == read.specificity, "{read}");
            assert_eq!(one.pseudo, read.pseudo.as_ref().map(|p| p.name.as_str()), "{read}");
            all.push((*number, one.way, one.key.clone()));
            all.extend(steps.of(read, numbers).map(|way| (*number, way, Key::Any)));
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
            for (number, way, key) in &all {
                let takes = found(key, id.number())
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
        ],
        &[" ", " ", " > ", " + ", "~", ", "],
    ];

    proptest! {
        #![proptest_config(ProptestConfig { failure_persistence: None, cases: 1024, ..ProptestConfig::default() })]
        #[test]
        fn steps_take_what_selectors_take(
            parts in prop::collection::vec((0..8usize, 0..33usize, 0..33usize, 0..6usize), 1..6),
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
