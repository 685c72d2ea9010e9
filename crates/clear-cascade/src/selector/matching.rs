//! Whether an element is taken by a selector (Selectors 4, §19.1 "Match a selector against an element").

use std::cell::RefCell;
use std::sync::Arc;

use rustc_hash::{FxHashMap, FxHashSet};

use super::language;
use super::state::State;
use super::{
    AttributeOperator, AttributeTest, Combinator, Compound, NamespaceTest, PseudoClass, Selector, SelectorList, Simple,
};
use crate::document::{Attribute, Child, Document, Element, ElementId, Name, Namespace};
use crate::viewing::States;

/// Answers questions about one document; keeps what it found out, so that the same question is not worked out twice.
pub(crate) struct Matcher<'d> {
    /// The document.
    pub(crate) document: &'d Document,
    /// The states that the question asks for.
    states: &'d States,
    /// The element that `:scope` stands for; the root where there is none.
    scope: Option<ElementId>,
    /// The tree that the selectors are written in: 0 for the page. From a shadow tree its host can be seen.
    tree: u32,
    /// Places among siblings of the same type, from the start and from the end, by element.
    of_type: RefCell<FxHashMap<ElementId, (u32, u32)>>,
    /// The lists that answers are kept for: as long as they are here, no other list can have their address.
    lists: RefCell<FxHashMap<usize, Arc<SelectorList>>>,
    /// Answers of `:has()` by the address of its list and the element.
    has: RefCell<FxHashMap<(usize, ElementId), bool>>,
    /// Whether the selectors around a nested rule take an element, by the address of their list.
    nested: RefCell<FxHashMap<(usize, ElementId), bool>>,
    /// What came of looking for a compound among the siblings before an element, itself included, by the address of the
    /// selector; kept only where selectors stay where they are.
    looked: Option<RefCell<Looked>>,
    /// Climbs from one element to its ancestors that have failed for the anchor at hand: the compound and the ancestor.
    climbed: RefCell<FxHashSet<(usize, ElementId)>>,
    /// The place of the first sibling that the steps from an address on take, by that address and the element around; none is at 0.
    pub(super) first: RefCell<FxHashMap<(usize, u32), u32>>,
    /// Places among siblings that fit `of S`, by the address of S, the direction and the element.
    nth_of: RefCell<FxHashMap<(usize, bool, ElementId), u32>>,
}

/// What came of looking, by the address of the selector, the compound, and the element to start at.
type Looked = FxHashMap<(usize, usize, ElementId), Outcome>;

/// The outcome of trying one combinator, so that hopeless retries end early.
#[derive(Clone, Copy, PartialEq)]
pub(super) enum Outcome {
    /// All compounds fit.
    Taken,
    /// No; another sibling may fit.
    MissedHere,
    /// No; no sibling can help, but another ancestor may.
    MissedSiblings,
    /// No; nothing further out can help.
    Missed,
}

impl<'d> Matcher<'d> {
    /// A matcher for a document seen with these states.
    pub(crate) fn new(document: &'d Document, states: &'d States) -> Self {
        Self {
            document,
            states,
            scope: None,
            tree: 0,
            of_type: RefCell::default(),
            lists: RefCell::default(),
            has: RefCell::default(),
            nested: RefCell::default(),
            looked: None,
            climbed: RefCell::default(),
            first: RefCell::default(),
            nth_of: RefCell::default(),
        }
    }

    /// The same for selectors that stay where they are as long as the matcher is used.
    pub(crate) fn keeping(mut self) -> Self {
        self.looked = Some(RefCell::default());
        self
    }

    /// The same question with another `:scope`; nothing that depends on it is kept.
    pub(crate) fn with_scope(&self, scope: ElementId) -> Matcher<'d> {
        Matcher { scope: Some(scope), tree: self.tree, ..Matcher::new(self.document, self.states) }
    }

    /// The same question for selectors that are written in another tree.
    pub(crate) fn with_tree(&self, tree: u32) -> Matcher<'d> {
        Matcher { tree, ..Matcher::new(self.document, self.states) }
    }

    /// Whether the element in a slot is taken by a selector with `::slotted()`, the slot by what is before it.
    pub(crate) fn takes_slotted(&self, selector: &Selector, slot: ElementId, element: ElementId) -> bool {
        let outer = self.with_tree(self.document.node(element).tree);
        selector.slotted.as_ref().is_some_and(|s| outer.takes(s, element)) && self.takes(selector, slot)
    }

    /// Whether states behind `::part()` and the like fit the element that is aimed at.
    pub(crate) fn fits_behind(&self, selector: &Selector, element: ElementId) -> bool {
        let mut parts = selector.subject().parts.iter();
        parts.by_ref().find(|p| matches!(p.simple, Simple::PseudoElement(_)));
        let states = parts.take_while(|p| !matches!(p.simple, Simple::PseudoElement(_)));
        let own = self.with_tree(self.document.node(element).tree);
        states.into_iter().all(|p| own.simple(&p.simple, element))
    }

    /// The element around another, as selectors of the tree see it: around the top of a shadow tree is its host, and around
    /// that is nothing.
    pub(crate) fn up(&self, id: ElementId) -> Option<ElementId> {
        let element = self.document.node(id);
        if self.tree > 0 && element.tree != self.tree {
            return None;
        }
        element.parent.or_else(|| self.document.host(self.tree).filter(|_| element.tree == self.tree))
    }

    /// The sibling before an element, as selectors of the tree see it: a host has none, seen from inside.
    pub(crate) fn before(&self, id: ElementId) -> Option<ElementId> {
        let element = self.document.node(id);
        element.previous.filter(|_| self.tree == 0 || element.tree == self.tree)
    }

    /// Whether the element is taken; a pseudo-element that the selector aims at is not looked at.
    pub(crate) fn takes(&self, selector: &Selector, element: ElementId) -> bool {
        self.try_compound(selector, selector.compounds.len() - 1, element, None) == Outcome::Taken
    }

    /// Whether one of the selectors takes the element itself; one that aims at a pseudo-element of it does not.
    pub(crate) fn any(&self, list: &SelectorList, element: ElementId) -> bool {
        list.selectors.iter().any(|s| s.is_plain() && self.takes(s, element))
    }

    /// Whether one of the selectors takes the element or a pseudo-element of it.
    pub(crate) fn finds(&self, list: &SelectorList, element: ElementId) -> bool {
        list.selectors.iter().any(|s| self.finds_one(s, element))
    }

    /// Whether a selector takes the element or a pseudo-element of it.
    pub(crate) fn finds_one(&self, selector: &Selector, element: ElementId) -> bool {
        selector.slotted.is_none() && selector.parts.is_empty() && self.takes(selector, element)
    }

    /// Whether the compounds up to `index` fit with `element` as the subject of that one. With an `anchor`, the first
    /// compound's combinator leads from the anchor (relative selectors).
    fn try_compound(
        &self,
        selector: &Selector,
        index: usize,
        element: ElementId,
        anchor: Option<ElementId>,
    ) -> Outcome {
        let compound = &selector.compounds[index];
        if !self.compound(compound, element) {
            return Outcome::MissedHere;
        }
        if index == 0 {
            return match anchor {
                None => Outcome::Taken,
                Some(anchor) if self.related(compound.combinator, anchor, element) => Outcome::Taken,
                Some(_) => Outcome::MissedHere,
            };
        }
        if compound.combinator == Combinator::SubsequentSibling && anchor.is_none() {
            return self.try_before(selector, index, element);
        }
        let mut at = element;
        loop {
            let next = match compound.combinator {
                Combinator::Descendant | Combinator::Child => self.up(at),
                Combinator::NextSibling | Combinator::SubsequentSibling => self.before(at),
            };
            let Some(next) = next else {
                return match compound.combinator {
                    Combinator::Descendant | Combinator::Child => Outcome::Missed,
                    _ => Outcome::MissedSiblings,
                };
            };
            // In `:has()` nothing further out than the anchor counts, and a climb that failed once need not be made again.
            let climbs = anchor.is_some() && compound.combinator == Combinator::Descendant;
            if climbs && (anchor == Some(next) || !self.climbed.borrow_mut().insert((index - 1, next))) {
                return Outcome::Missed;
            }
            let outcome = self.try_compound(selector, index - 1, next, anchor);
            match (outcome, compound.combinator) {
                (Outcome::Taken | Outcome::Missed, _) => return outcome,
                // Where siblings further in could not help, another ancestor still may, reached over any combinator.
                (Outcome::MissedSiblings, Combinator::NextSibling | Combinator::SubsequentSibling) => return outcome,
                (_, Combinator::Child) => return Outcome::MissedSiblings,
                (_, Combinator::NextSibling) => return outcome,
                _ => at = next,
            }
        }
    }

    /// Whether the compounds before `index` fit with a sibling before `element` as the subject of the last of them.
    fn try_before(&self, selector: &Selector, index: usize, element: ElementId) -> Outcome {
        let key = |sibling: ElementId| (std::ptr::from_ref(selector) as usize, index, sibling);
        let mut tried = Vec::new();
        let mut next = self.before(element);
        let outcome = loop {
            let Some(sibling) = next else { break Outcome::MissedSiblings };
            if let Some(known) = self.looked.as_ref().and_then(|l| l.borrow().get(&key(sibling)).copied()) {
                break known;
            }
            tried.push(sibling);
            match self.try_compound(selector, index - 1, sibling, None) {
                Outcome::MissedHere => next = self.before(sibling),
                // Where siblings further in could not help, another ancestor still may, reached over any combinator.
                settled => break settled,
            }
        };
        if let Some(looked) = &self.looked {
            looked.borrow_mut().extend(tried.into_iter().map(|sibling| (key(sibling), outcome)));
        }
        outcome
    }

    /// Whether `element` stands to `anchor` as a combinator says.
    fn related(&self, combinator: Combinator, anchor: ElementId, element: ElementId) -> bool {
        let document = self.document;
        match combinator {
            Combinator::Descendant => document.lineage(element).skip(1).any(|e| e == anchor),
            Combinator::Child => document.node(element).parent == Some(anchor),
            Combinator::NextSibling => document.node(element).previous == Some(anchor),
            Combinator::SubsequentSibling => {
                let (a, e) = (document.node(anchor), document.node(element));
                a.parent == e.parent && a.position < e.position
            }
        }
    }

    /// Whether all conditions of a compound fit.
    pub(crate) fn compound(&self, compound: &Compound, element: ElementId) -> bool {
        // What follows a pseudo-element is about that, not about the element.
        let before_pseudo = |p: &&super::Part| !matches!(p.simple, Simple::PseudoElement(_));
        if self.document.host(self.tree) == Some(element) {
            let mut parts = compound.parts.iter().take_while(before_pseudo).peekable();
            return parts.peek().is_some() && parts.all(|p| self.featureless(&p.simple, element));
        }
        self.in_default_namespace(compound, element)
            && compound.parts.iter().take_while(before_pseudo).all(|p| self.simple(&p.simple, element))
    }

    /// The first condition of a compound that does not fit.
    pub(crate) fn first_miss<'c>(&self, compound: &'c Compound, element: ElementId) -> Option<&'c super::Part> {
        let host = self.document.host(self.tree) == Some(element);
        let fits = |s: &Simple| if host { self.featureless(s, element) } else { self.simple(s, element) };
        let mut parts = compound.parts.iter().take_while(|p| !matches!(p.simple, Simple::PseudoElement(_)));
        parts.find(|p| !fits(&p.simple))
    }

    /// Whether an element is in the namespace that a compound without a type selector has from its sheet.
    pub(crate) fn in_default_namespace(&self, compound: &Compound, element: ElementId) -> bool {
        compound.namespace.as_ref().is_none_or(|url| is_in(url, self.document.node(element)))
    }

    /// Whether one condition fits the host seen from inside, which has no features but being the host (CSS Scoping 1, §3.2.1).
    fn featureless(&self, simple: &Simple, host: ElementId) -> bool {
        let outside = || self.with_tree(self.document.node(host).tree);
        match simple {
            Simple::PseudoClass(PseudoClass::Host(None)) => true,
            Simple::PseudoClass(PseudoClass::Host(Some(list))) => outside().any(list, host),
            Simple::PseudoClass(PseudoClass::HostContext(list)) => {
                self.document.lineage(host).any(|e| self.with_tree(self.document.node(e).tree).any(list, e))
            }
            Simple::PseudoClass(PseudoClass::Is(list, _) | PseudoClass::Any(list)) => self.any(list, host),
            Simple::PseudoClass(PseudoClass::Not(list)) => aims_at_host(list) && !self.any(list, host),
            Simple::PseudoClass(PseudoClass::Scope) | Simple::Nesting(None) => self.scope == Some(host),
            Simple::Nesting(Some(parent)) => self.any(parent, host),
            _ => false,
        }
    }

    /// Whether one condition fits.
    pub(crate) fn simple(&self, simple: &Simple, id: ElementId) -> bool {
        let element = self.document.node(id);
        match simple {
            Simple::Universal(namespace) => namespace_fits(namespace, element),
            Simple::Type(namespace, name, lower) => {
                // Names of SVG and MathML keep their case. Differs from HTML, "Case-sensitivity of selectors": in a page in
                // HTML browsers find them without.
                let same = element.name == *lower
                    || (element.namespace != Namespace::Html && element.name.eq_ignore_ascii_case(name));
                same && namespace_fits(namespace, element)
            }
            Simple::Id(name) => element.id.as_ref().is_some_and(|id| self.document.same_name(id, name)),
            Simple::Class(name) => self.document.has_class(id, name),
            Simple::Attribute(test) => attribute_fits(test, self.document, id),
            Simple::PseudoClass(pseudo) => self.pseudo_class(pseudo, id),
            Simple::PseudoElement(_) => true,
            Simple::Nesting(Some(parent)) => self.nested(parent, id),
            Simple::Nesting(None) => self.is_scope(id),
        }
    }

    /// Whether the selectors around a nested rule take an element. Each of them may ask for those around it several times.
    fn nested(&self, parent: &Arc<SelectorList>, id: ElementId) -> bool {
        let parts = || parent.selectors.iter().flat_map(|s| &s.compounds).flat_map(|c| &c.parts);
        if parts().all(|p| matches!(p.simple, Simple::Class(_) | Simple::Type(..) | Simple::Id(_))) {
            return self.any(parent, id);
        }
        let key = (self.key(parent), id);
        if let Some(known) = self.nested.borrow().get(&key) {
            return *known;
        }
        let takes = self.any(parent, id);
        self.nested.borrow_mut().insert(key, takes);
        takes
    }

    /// Whether `:scope` fits.
    fn is_scope(&self, id: ElementId) -> bool {
        id == self.scope.unwrap_or(self.document.root())
    }

    /// Whether a pseudo-class fits.
    fn pseudo_class(&self, pseudo: &PseudoClass, id: ElementId) -> bool {
        let element = self.document.node(id);
        match pseudo {
            PseudoClass::Is(list, _) | PseudoClass::Any(list) => self.any(list, id),
            PseudoClass::Not(list) => !self.any(list, id),
            PseudoClass::Has(list) => self.has(list, id),
            PseudoClass::NthChild(nth, false, None) => nth.takes(element.position),
            PseudoClass::NthChild(nth, true, None) => nth.takes(self.place_from_end(element)),
            PseudoClass::NthChild(nth, from_end, Some(of)) => {
                self.any(of, id) && nth.takes(self.position_of(of, *from_end, id))
            }
            PseudoClass::NthOfType(nth, from_end) => {
                let (start, end) = self.position_of_type(id);
                nth.takes(if *from_end { end } else { start })
            }
            PseudoClass::OnlyChild => element.previous.is_none() && element.next.is_none(),
            PseudoClass::OnlyOfType => self.position_of_type(id) == (1, 1),
            PseudoClass::Root => element.parent.is_none() && element.tree == 0,
            PseudoClass::Empty => element.children.iter().all(|c| matches!(c, Child::Text(t) if t.is_empty())),
            PseudoClass::Scope => self.is_scope(id),
            PseudoClass::Lang(ranges) => {
                let language = language::of(self.document, id);
                language.is_some_and(|l| ranges.iter().any(|r| language::range_fits(r, &l)))
            }
            PseudoClass::Dir(rtl) => *rtl == Some(language::is_rtl(self.document, id)),
            PseudoClass::Heading(levels) => {
                heading_level(element).is_some_and(|l| levels.is_empty() || levels.contains(&l))
            }
            PseudoClass::State(state) => self.state(*state, id),
            PseudoClass::Host(_) | PseudoClass::HostContext(_) | PseudoClass::Never(_) => false,
        }
    }

    /// The place among all siblings, from the end.
    fn place_from_end(&self, element: &Element) -> u32 {
        let last = match (element.parent, self.document.shadow_tree(element.tree)) {
            (Some(parent), _) => self.document.node(parent).child_elements().next_back(),
            (None, tree) => tree.and_then(|t| t.tops.last().copied()),
        };
        last.map_or(1, |last| self.document.node(last).position - element.position + 1)
    }

    /// The places among siblings of the same type, from the start and from the end.
    fn position_of_type(&self, id: ElementId) -> (u32, u32) {
        if let Some(found) = self.of_type.borrow().get(&id) {
            return *found;
        }
        let siblings = self.document.siblings(id);
        let mut counts: FxHashMap<(Name, Namespace), u32> = FxHashMap::default();
        let mut starts = Vec::with_capacity(siblings.len());
        for sibling in &siblings {
            let e = self.document.node(*sibling);
            let count = counts.entry((e.name.clone(), e.namespace)).or_default();
            *count += 1;
            starts.push(*count);
        }
        let mut kept = self.of_type.borrow_mut();
        for (sibling, start) in siblings.iter().zip(starts) {
            let e = self.document.node(*sibling);
            let all = counts.get(&(e.name.clone(), e.namespace)).copied().unwrap_or(start);
            kept.insert(*sibling, (start, all - start + 1));
        }
        kept.get(&id).copied().unwrap_or((1, 1))
    }

    /// The place among siblings that fit a list.
    fn position_of(&self, list: &Arc<SelectorList>, from_end: bool, id: ElementId) -> u32 {
        let key = self.key(list);
        if let Some(found) = self.nth_of.borrow().get(&(key, from_end, id)) {
            return *found;
        }
        let mut siblings = self.document.siblings(id);
        if from_end {
            siblings.reverse();
        }
        let fitting: Vec<ElementId> = siblings.into_iter().filter(|s| self.any(list, *s)).collect();
        let mut kept = self.nth_of.borrow_mut();
        for (i, sibling) in fitting.iter().enumerate() {
            kept.insert((key, from_end, *sibling), crate::source::offset(i + 1));
        }
        kept.get(&(key, from_end, id)).copied().unwrap_or(0)
    }

    /// A key for answers about a list, which is kept with them.
    fn key(&self, list: &Arc<SelectorList>) -> usize {
        let key = Arc::as_ptr(list) as usize;
        self.lists.borrow_mut().entry(key).or_insert_with(|| list.clone());
        key
    }

    /// Whether `:has()` fits: some element stands to this one as a relative selector says.
    fn has(&self, list: &Arc<SelectorList>, anchor: ElementId) -> bool {
        let key = (self.key(list), anchor);
        if let Some(found) = self.has.borrow().get(&key) {
            return *found;
        }
        if let [only] = &*list.selectors
            && let [compound] = &*only.compounds
            && matches!(compound.combinator, Combinator::Descendant | Combinator::SubsequentSibling)
        {
            return self.has_compound(key.0, compound, anchor);
        }
        // A parent's selectors behind `&` may have a `:has()` of their own: its climbs are not this one's.
        let outer = self.climbed.take();
        let found = list.selectors.iter().any(|s| self.has_one(s, anchor));
        self.climbed.replace(outer);
        self.has.borrow_mut().insert(key, found);
        found
    }

    /// Whether a compound fits something inside an anchor, or a sibling after it. What is found out about those on the way is
    /// kept, so that anchors inside or after each other do not look at the same elements again.
    fn has_compound(&self, list: usize, compound: &Compound, anchor: ElementId) -> bool {
        let siblings = |from: ElementId| std::iter::successors(Some(from), |e| self.document.node(*e).next);
        let inside = compound.combinator == Combinator::Descendant;
        let fits = |e: &ElementId| self.compound(compound, *e);
        let found = if inside { self.subtree(anchor).skip(1).find(fits) } else { siblings(anchor).skip(1).find(fits) };
        let answer = |e: ElementId| ((list, e), found.is_some());
        let mut has = self.has.borrow_mut();
        match (found, inside) {
            (None, true) => has.extend(self.subtree(anchor).map(answer)),
            (None, false) => has.extend(siblings(anchor).map(answer)),
            (Some(found), true) => {
                has.extend(self.document.lineage(found).skip(1).take_while(|e| *e != anchor).map(answer));
                has.extend([answer(anchor)]);
            }
            (Some(found), false) => has.extend(siblings(anchor).take_while(|e| *e != found).map(answer)),
        }
        found.is_some()
    }

    /// Whether one relative selector fits from an anchor.
    fn has_one(&self, selector: &Selector, anchor: ElementId) -> bool {
        self.climbed.borrow_mut().clear();
        let last = selector.compounds.len() - 1;
        let fits = |e: ElementId| self.try_compound(selector, last, e, Some(anchor)) == Outcome::Taken;
        let first = selector.compounds[0].combinator;
        let down = matches!(first, Combinator::Descendant | Combinator::Child);
        let deep = selector
            .compounds
            .iter()
            .skip(1)
            .any(|c| matches!(c.combinator, Combinator::Descendant | Combinator::Child));
        if down {
            // Numbers run in document order, so a subtree is a range of them.
            if first == Combinator::Child && last == 0 {
                return self.document.node(anchor).child_elements().any(fits);
            }
            return self.subtree(anchor).skip(1).any(fits);
        }
        let mut sibling = self.document.node(anchor).next;
        while let Some(at) = sibling {
            if if deep { self.subtree(at).any(fits) } else { fits(at) } {
                return true;
            }
            if first == Combinator::NextSibling && last == 0 {
                return false;
            }
            sibling = self.document.node(at).next;
        }
        false
    }

    /// Whether a slot is given anything (CSS Scoping 1, §3.2.5): an element, or for a slot without a name text.
    fn has_slotted(&self, slot: ElementId) -> bool {
        let element = self.document.node(slot);
        let Some(host) = self.document.host(element.tree) else { return false };
        let unnamed = element.attribute("name").is_none_or(str::is_empty);
        self.document.node(host).children.iter().any(|child| match child {
            Child::Element(child) => self.document.slot_of(*child) == Some(slot),
            Child::Text(text) => unnamed && !text.is_empty(),
        })
    }

    /// An element and all inside it, in document order.
    pub(crate) fn subtree(&self, top: ElementId) -> impl Iterator<Item = ElementId> + '_ {
        let depth = self.document.node(top).depth;
        self.document
            .all_ids()
            .skip(top.index())
            .enumerate()
            .take_while(move |(i, e)| *i == 0 || self.document.node(*e).depth > depth)
            .map(|(_, e)| e)
    }

    /// Whether an element is in a state.
    fn state(&self, state: State, id: ElementId) -> bool {
        let element = self.document.node(id);
        let html = |names: &[&str]| element.namespace == Namespace::Html && names.contains(&&*element.name);
        let link = (html(&["a", "area"]) || (element.namespace == Namespace::Svg && &*element.name == "a"))
            && element.attributes.iter().any(|a| &*a.name == "href");
        let inside = |wanted: &[ElementId]| wanted.iter().any(|w| self.document.lineage(*w).any(|e| e == id));
        match state {
            State::AnyLink => link,
            State::Visited => link && self.states.visited.contains(&id),
            State::Link => link && !self.states.visited.contains(&id),
            State::LocalLink => link && element.attribute("href").is_some_and(|h| h.is_empty() || h.starts_with('#')),
            State::Target => self.states.target.contains(&id),
            State::TargetWithin => inside(&self.states.target),
            State::Hover => inside(&self.states.hover),
            State::Active => inside(&self.states.active),
            State::Focus | State::FocusVisible => self.states.focus.contains(&id),
            State::FocusWithin => inside(&self.states.focus),
            State::Defined => is_defined(element),
            State::Open => html(&["details", "dialog"]) && element.attribute("open").is_some(),
            State::Paused => html(&["audio", "video"]) && element.attribute("autoplay").is_none(),
            State::HasSlotted => html(&["slot"]) && self.has_slotted(id),
            State::Muted => html(&["audio", "video"]) && element.attribute("muted").is_some(),
            _ => super::forms::state(self.document, state, id),
        }
    }
}

/// Whether a list has `:host` in it, so that it can say something about a host.
pub(crate) fn aims_at_host(list: &SelectorList) -> bool {
    let mut met = FxHashSet::default();
    let mut open = vec![list];
    while let Some(list) = open.pop() {
        for part in list.selectors.iter().flat_map(|s| &s.compounds).flat_map(|c| &c.parts) {
            match &part.simple {
                Simple::PseudoClass(PseudoClass::Host(_) | PseudoClass::HostContext(_)) => return true,
                Simple::PseudoClass(PseudoClass::Is(list, _) | PseudoClass::Any(list) | PseudoClass::Not(list)) => {
                    open.push(list);
                }
                // Each rule inside another may name it several times.
                Simple::Nesting(Some(parent)) if met.insert(Arc::as_ptr(parent)) => open.push(parent),
                _ => {}
            }
        }
    }
    false
}

/// Whether a namespace condition fits an element.
fn namespace_fits(test: &NamespaceTest, element: &Element) -> bool {
    match test {
        NamespaceTest::Any => true,
        NamespaceTest::Is(url) => is_in(url, element),
    }
}

/// Whether an element is in a namespace.
fn is_in(url: &str, element: &Element) -> bool {
    Namespace::of(url) == element.namespace && element.namespace != Namespace::Other
}

/// Whether an element is one that the standards define, or a plain unknown one: no script defines custom elements, which
/// are those with a valid custom element name and those with `is` (DOM, "create an element"; HTML, "valid custom
/// element name").
fn is_defined(element: &Element) -> bool {
    /// Names with a hyphen that SVG and MathML have taken.
    const TAKEN: &[&str] = &[
        "annotation-xml",
        "color-profile",
        "font-face",
        "font-face-src",
        "font-face-uri",
        "font-face-format",
        "font-face-name",
        "missing-glyph",
    ];
    let name = &*element.name;
    let custom = name.contains('-')
        && name.starts_with(|c: char| c.is_ascii_lowercase())
        && !name.contains(|c: char| c.is_ascii_uppercase())
        && !TAKEN.contains(&name);
    element.namespace != Namespace::Html || !(custom || element.attribute("is").is_some())
}

/// The level of a heading element.
fn heading_level(element: &Element) -> Option<i32> {
    let name = element.name.strip_prefix('h').filter(|_| element.namespace == Namespace::Html)?;
    name.parse().ok().filter(|l| (1..=6).contains(l) && name.len() == 1)
}

/// Attributes whose values HTML compares without case, by name (HTML Standard, "Case-sensitivity of selectors").
const CASELESS: &[&str] = &[
    "accept",
    "accept-charset",
    "align",
    "alink",
    "axis",
    "bgcolor",
    "charset",
    "checked",
    "clear",
    "codetype",
    "color",
    "compact",
    "declare",
    "defer",
    "dir",
    "direction",
    "disabled",
    "enctype",
    "face",
    "frame",
    "hreflang",
    "http-equiv",
    "lang",
    "language",
    "link",
    "media",
    "method",
    "multiple",
    "nohref",
    "noresize",
    "noshade",
    "nowrap",
    "readonly",
    "rel",
    "rev",
    "rules",
    "scope",
    "scrolling",
    "selected",
    "shape",
    "target",
    "text",
    "type",
    "valign",
    "valuetype",
    "vlink",
];

/// Whether HTML compares the values of an attribute without case.
pub(super) fn is_caseless(attribute: &str) -> bool {
    CASELESS.binary_search(&attribute).is_ok()
}

/// Whether an attribute condition fits an element.
fn attribute_fits(test: &AttributeTest, document: &Document, id: ElementId) -> bool {
    if !document.numbers().may_have_in_value(id.number(), test.sketch) {
        return false;
    }
    let html = document.node(id).namespace == Namespace::Html;
    let named = |a: &Attribute| a.name == test.lower || (!html && a.name.eq_ignore_ascii_case(&test.name));
    document.attributes_for(id, &test.lower).filter(|a| named(a)).any(|attribute| {
        let namespace = match &test.namespace {
            NamespaceTest::Any => true,
            NamespaceTest::Is(url) => **url == *attribute.namespace,
        };
        let Some((operator, wanted)) = &test.test else {
            return namespace;
        };
        let caseless = test.case.unwrap_or(html && test.caseless);
        namespace && value_fits(*operator, &attribute.value, wanted, caseless)
    })
}

/// Whether a value compares as asked.
fn value_fits(operator: AttributeOperator, value: &str, wanted: &str, caseless: bool) -> bool {
    if caseless {
        return value_fits(operator, &value.to_ascii_lowercase(), &wanted.to_ascii_lowercase(), false);
    }
    match operator {
        AttributeOperator::Equals => value == wanted,
        AttributeOperator::Word => {
            !wanted.is_empty() && value.split([' ', '\t', '\n', '\r', '\x0C']).any(|w| w == wanted)
        }
        AttributeOperator::Dash => {
            value.strip_prefix(wanted).is_some_and(|rest| rest.is_empty() || rest.starts_with('-'))
        }
        AttributeOperator::Starts => !wanted.is_empty() && value.starts_with(wanted),
        AttributeOperator::Ends => !wanted.is_empty() && value.ends_with(wanted),
        AttributeOperator::Contains => {
            !wanted.is_empty() && memchr::memmem::find(value.as_bytes(), wanted.as_bytes()).is_some()
        }
    }
}
