//! The rules that take an element: from its own tree and over the borders of others, in their scopes.

use std::cell::RefCell;

use rustc_hash::FxHashMap;

use crate::document::ElementId;
use crate::page::{FlatRule, Page};
use crate::selector::{Matcher, PseudoElement, Selector, Specificity, There};
use crate::stylesheet::{GroupKind, Scope, Stylesheet};

/// A rule that takes an element.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Matched<'s> {
    /// The rule, by its place in the page.
    pub(crate) rule: u32,
    /// The weight of the heaviest of its selectors that take the element.
    pub(crate) specificity: Specificity,
    /// Steps up to the scoping root.
    pub(crate) proximity: Option<u32>,
    /// The pseudo-element that the selector aims at.
    pub(crate) pseudo: Option<&'s PseudoElement>,
    /// Which of the rule's selectors it was; none for rules without selectors.
    pub(crate) selector: Option<u32>,
}

/// The rules that take elements, those of each together.
#[derive(Default)]
pub(super) struct Found<'s> {
    /// All of them.
    pub(super) all: Vec<Matched<'s>>,
    /// Those by which the element at hand may be taken, some of which may be of one rule.
    met: Vec<Matched<'s>>,
    /// Those that take pseudo-elements of it.
    aimed: Vec<Matched<'s>>,
}

impl<'s> Found<'s> {
    /// Adds the rules that take an element, then those that take pseudo-elements of it, both unordered and rules of the element itself
    /// included; but for rules for pseudo-elements that need not be looked at. Gives where both start, and where they end.
    pub(super) fn add(
        &mut self,
        page: &'s Page,
        matcher: &Matcher<'_>,
        id: ElementId,
        wanted: impl Fn(There) -> bool,
    ) -> [usize; 3] {
        let (start, met) = (self.all.len(), &mut self.met);
        let reached = Reached::new(page, matcher, id);
        page.candidates(id, &mut |candidate| {
            let (number, index) = (candidate.rule, candidate.selector);
            if !candidate.alone {
                let mut add = |_, s, proximity| met.push(Matched::new(number, index as usize, s, proximity));
                return reached.own(&page.rules[number as usize], index as usize, &mut add);
            }
            if page.index().there(candidate).is_some_and(|there| !wanted(there)) {
                return;
            }
            // Nothing but the selector need be looked at, which is what nearly all the time goes into.
            if page.index().takes(candidate, matcher, id) {
                let (pseudo, specificity) = (page.index().pseudo(candidate), candidate.specificity);
                met.push(Matched { rule: number, specificity, proximity: None, pseudo, selector: Some(index) });
            }
        });
        met.sort_unstable_by_key(|m| (m.rule, m.selector));
        for (tree, _) in &reached.across {
            for number in page.tree_rules.get(*tree as usize).into_iter().flatten() {
                reached.by(&page.rules[*number as usize], *number, met);
            }
        }
        for new in met.drain(..) {
            let (list, floor) = if new.pseudo.is_none() { (&mut self.all, start) } else { (&mut self.aimed, 0) };
            let of_rule = list[floor..].iter().rev().take_while(|m| m.rule == new.rule).count();
            let from = list.len() - of_rule;
            add_heaviest(list, from, new);
        }
        let own = page.own_rules.get(&id).into_iter().flatten().map(|number| Matched::own(*number));
        self.all.extend(own);
        let aimed = self.all.len();
        self.all.append(&mut self.aimed);
        [start, aimed, self.all.len()]
    }
}

/// The rules that take an element or its pseudo-elements, unordered; rules of the element itself included.
pub(crate) fn matched_rules<'s>(page: &'s Page, matcher: &Matcher<'_>, id: ElementId) -> Vec<Matched<'s>> {
    let mut found = Found::default();
    found.add(page, matcher, id, |_| true);
    found.all
}

impl<'s> Matched<'s> {
    /// A rule of a single element.
    pub(crate) fn own(rule: u32) -> Self {
        Self { rule, specificity: Specificity::default(), proximity: None, pseudo: None, selector: None }
    }

    /// A rule that takes an element by one of its selectors.
    fn new(rule: u32, index: usize, selector: &'s Selector, proximity: Option<u32>) -> Self {
        let (specificity, pseudo) = (selector.specificity, selector.pseudo.as_ref());
        Self { rule, specificity, proximity, pseudo, selector: Some(crate::source::offset(index)) }
    }
}

/// Adds how a rule takes an element to how it was found to from `start` on: for each pseudo-element with the heaviest of its
/// selectors, and of several as heavy with the nearest scoping root (CSS Cascade 6, §3.1: specificity comes before
/// proximity).
#[inline(always)]
fn add_heaviest<'s>(matched: &mut Vec<Matched<'s>>, start: usize, new: Matched<'s>) {
    let weight = |m: &Matched<'_>| (m.specificity, std::cmp::Reverse(m.proximity));
    match matched[start..].iter_mut().find(|m| m.pseudo == new.pseudo) {
        Some(found) if weight(found) < weight(&new) => *found = new,
        Some(_) => {}
        None => matched.push(new),
    }
}

/// How a rule of another tree reaches an element.
pub(crate) enum Across {
    /// From the tree behind it, by `:host` (CSS Scoping 1, §3.2.1).
    Host,
    /// From the tree of a slot that it is in, by `::slotted()` (CSS Scoping 1, §3.2.4).
    Slotted(ElementId),
    /// From the tree of a host further out, by `::part()`: the host, and the names it knows the element by (CSS Shadow
    /// Parts 1, §3).
    Part(ElementId, Vec<String>),
}

/// An element as rules reach it: the one place that says whether a rule takes an element, its scopes and its tree looked
/// at.
pub(crate) struct Reached<'s, 'r, 'd> {
    /// The page.
    page: &'s Page,
    /// A matcher for the page.
    matcher: &'r Matcher<'d>,
    /// The element.
    id: ElementId,
    /// The trees other than its own whose rules may reach it, and how.
    across: Vec<(u32, Across)>,
    /// Scoping roots with the steps up to them, by sheet, innermost scope, and what they are around.
    roots: RefCell<FxHashMap<(u32, u32, ElementId), Roots<'d>>>,
}

/// Scoping roots, each as what `:scope` stands for, with the steps up to it.
type Roots<'d> = Vec<(Matcher<'d>, u32)>;

impl<'s, 'r, 'd> Reached<'s, 'r, 'd> {
    /// Finds out from where an element can be reached.
    pub(crate) fn new(page: &'s Page, matcher: &'r Matcher<'d>, id: ElementId) -> Self {
        let across = if page.document.shadow_count() > 0 { across(page, id) } else { Vec::new() };
        Self { page, matcher, id, across, roots: RefCell::default() }
    }

    /// Adds a rule to the matched ones where it takes the element, once for each pseudo-element that it aims at.
    pub(crate) fn by(&self, rule: &'s FlatRule, number: u32, matched: &mut Vec<Matched<'s>>) {
        let start = matched.len();
        self.each(rule, &mut |index, selector, proximity| {
            add_heaviest(matched, start, Matched::new(number, index, selector, proximity));
        });
    }

    /// The selectors of a rule that take the element, by their places in its list, with the steps up to the nearest
    /// scoping root that they do it from.
    pub(crate) fn each(&self, rule: &'s FlatRule, f: &mut dyn FnMut(usize, &'s Selector, Option<u32>)) {
        let (document, id) = (&self.page.document, self.id);
        for index in 0..self.page.selectors(rule).selectors.len() {
            if rule.within.tree.is_none_or(|t| t == document.node(id).tree) {
                self.own(rule, index, f);
                continue;
            }
            for way in self.ways(rule) {
                match way {
                    Across::Host => self.own(rule, index, f),
                    Across::Slotted(slot) => {
                        let takes =
                            |m: &Matcher<'_>, s: &Selector| s.slotted.is_some() && m.takes_slotted(s, *slot, id);
                        self.scoped(rule, index, *slot, &takes, f);
                    }
                    Across::Part(host, names) => {
                        let takes = |m: &Matcher<'_>, s: &Selector| {
                            !s.parts.is_empty()
                                && s.parts.iter().all(|p| names.iter().any(|n| **n == **p))
                                && m.takes(s, *host)
                                && self.matcher.fits_behind(s, id)
                        };
                        self.scoped(rule, index, *host, &takes, f);
                    }
                }
            }
        }
    }

    /// Calls `f` where a selector of a rule takes the element as one of the rule's own tree, or as the host of it.
    fn own(&self, rule: &'s FlatRule, index: usize, f: &mut dyn FnMut(usize, &'s Selector, Option<u32>)) {
        let id = self.id;
        let takes = |m: &Matcher<'_>, s: &Selector| s.slotted.is_none() && s.parts.is_empty() && m.takes(s, id);
        self.scoped(rule, index, id, &takes, f);
    }

    /// How rules of the tree of a rule reach the element over the border of its own.
    pub(crate) fn ways(&self, rule: &FlatRule) -> impl Iterator<Item = &Across> {
        let tree = rule.within.tree.unwrap_or(0);
        self.across.iter().filter(move |(t, _)| *t == tree).map(|(_, way)| way)
    }

    /// A matcher for the selectors of a rule, where it is in a shadow tree.
    pub(crate) fn in_tree_of(&self, rule: &FlatRule) -> Option<Matcher<'d>> {
        rule.within.tree.filter(|t| *t > 0).map(|t| self.matcher.with_tree(t))
    }

    /// Calls `f` where a selector takes the element, from one of the scoping roots around `inside` where there are scopes.
    fn scoped(
        &self,
        rule: &'s FlatRule,
        index: usize,
        inside: ElementId,
        takes: &dyn Fn(&Matcher<'_>, &Selector) -> bool,
        f: &mut dyn FnMut(usize, &'s Selector, Option<u32>),
    ) {
        let selector = &self.page.selectors(rule).selectors[index];
        // States of pseudo-elements, and pseudo-elements of pseudo-elements, have no boxes here.
        if selector.pseudo.as_ref().is_some_and(|p| p.then.is_some()) {
            return;
        }
        let of_tree = self.in_tree_of(rule);
        let matcher = of_tree.as_ref().unwrap_or(self.matcher);
        let Some(scope) = rule.within.scopes.first() else {
            if takes(matcher, selector) {
                f(index, selector, None);
            }
            return;
        };
        let mut known = self.roots.borrow_mut();
        let key = (rule.sheet, *scope, inside);
        let roots = known.entry(key).or_insert_with(|| {
            let sheet = &self.page.sheets[rule.sheet as usize];
            let roots = scoping_roots(matcher, &sheet.sheet, &rule.within.scopes, sheet.owner, inside);
            let within = roots.into_iter().filter(|r| r.limit.is_none());
            within.map(|r| (matcher.with_scope(r.root), r.steps)).collect()
        });
        if let Some((_, steps)) = roots.iter().find(|(m, _)| takes(m, selector)) {
            f(index, selector, Some(*steps));
        }
    }
}

/// The trees other than its own from which an element can be reached.
fn across(page: &Page, id: ElementId) -> Vec<(u32, Across)> {
    let document = &page.document;
    let element = document.node(id);
    let mut found = Vec::new();
    if element.shadow != 0 {
        found.push((element.shadow, Across::Host));
    }
    let slots = std::iter::successors(document.slot_of(id), |slot| document.slot_of(*slot));
    found.extend(slots.map(|slot| (document.node(slot).tree, Across::Slotted(slot))));
    let mut names: Vec<String> =
        element.attribute("part").unwrap_or_default().split_ascii_whitespace().map(str::to_owned).collect();
    let mut tree = element.tree;
    while let Some(host) = document.host(tree).filter(|_| !names.is_empty()) {
        tree = document.node(host).tree;
        let outer = exported(document.node(host).attribute("exportparts").unwrap_or_default(), &names);
        found.push((tree, Across::Part(host, names)));
        names = outer;
    }
    found
}

/// The names under which a host shows parts of its tree to the tree around it (CSS Shadow Parts 1, §5).
fn exported(attribute: &str, names: &[String]) -> Vec<String> {
    let pairs = attribute.split(',').map(|p| p.split_once(':').unwrap_or((p, p)));
    pairs
        .filter(|(inner, _)| names.iter().any(|n| n == inner.trim()))
        .map(|(_, outer)| outer.trim().to_owned())
        .collect()
}

/// An element around another that is a scoping root.
pub(crate) struct ScopingRoot {
    /// The root.
    pub(crate) root: ElementId,
    /// The steps up to it.
    pub(crate) steps: u32,
    /// The scoping limit between them, where there is one: what is in it is out of scope.
    pub(crate) limit: Option<ElementId>,
}

/// The scoping roots around an element, itself included, nearest first (CSS Cascade 6, §2.5).
pub(crate) fn scoping_roots(
    matcher: &Matcher<'_>,
    sheet: &Stylesheet,
    scopes: &[u32],
    owner: Option<ElementId>,
    id: ElementId,
) -> Vec<ScopingRoot> {
    let Some((first, outer)) = scopes.split_first() else {
        return Vec::new();
    };
    let GroupKind::Scope(scope) = &sheet.groups[*first as usize].kind else {
        return Vec::new();
    };
    let lineage: Vec<ElementId> = std::iter::successors(Some(id), |e| matcher.up(*e)).collect();
    let mut found = Vec::new();
    for (steps, root) in lineage.iter().copied().enumerate() {
        // The root must itself be in the scopes around, and their roots are what `:scope` means in its selector.
        let fits = if outer.is_empty() {
            is_root(matcher, scope, owner, root)
        } else {
            let around = scoping_roots(matcher, sheet, outer, owner, root);
            let mut within = around.iter().filter(|r| r.limit.is_none());
            within.any(|r| is_root(&matcher.with_scope(r.root), scope, owner, root))
        };
        if !fits {
            continue;
        }
        let inner = matcher.with_scope(root);
        let is_limit = |e: &ElementId| scope.limits.as_ref().is_some_and(|limits| inner.any(limits, *e));
        let limit = lineage[..=steps].iter().copied().find(is_limit);
        found.push(ScopingRoot { root, steps: crate::source::offset(steps), limit });
    }
    found
}

/// Whether an element is a scoping root; without selectors the element around the `<style>` or `<link>` is, the `head`
/// too (CSS Cascade 6, §2.5.2).
fn is_root(matcher: &Matcher<'_>, scope: &Scope, owner: Option<ElementId>, id: ElementId) -> bool {
    match &scope.roots {
        Some(roots) => matcher.any(roots, id),
        None => {
            let element = |e: ElementId| matcher.document.node(e);
            let around = owner.and_then(|o| element(o).parent.or_else(|| matcher.document.host(element(o).tree)));
            around.map_or_else(|| element(id).parent.is_none(), |around| around == id)
        }
    }
}
