//! The declarations that want to set something on an element.

use super::Styles;
use super::query::containers_hold;
use crate::cascade::{Origin, Precedence};
use crate::document::ElementId;
use crate::property::{self, PropertyId};
use crate::selector::{Matcher, PseudoElement, Selector, Specificity};
use crate::study::{FlatRule, Study};
use crate::stylesheet::{Declaration, GroupKind, Property, Scope, Stylesheet};
use crate::value::Declared;

/// A rule that takes an element.
#[derive(Clone, Debug)]
pub(crate) struct Matched {
    /// The rule, by its place in the study.
    pub(crate) rule: u32,
    /// The weight of the heaviest of its selectors that take the element.
    pub(crate) specificity: Specificity,
    /// Steps up to the scoping root.
    pub(crate) proximity: Option<u32>,
    /// The pseudo-element that the selector aims at.
    pub(crate) pseudo: Option<PseudoElement>,
    /// Which of the rule's selectors it was; none for rules without selectors.
    pub(crate) selector: Option<u32>,
}

/// One longhand or custom property that a declaration sets.
#[derive(Clone, Debug)]
pub(crate) struct Entry<'s> {
    /// What is set; a longhand or custom property.
    pub(crate) property: Target<'s>,
    /// What is said for it.
    pub(crate) declared: Option<&'s Declared>,
    /// The declaration.
    pub(crate) declaration: &'s Declaration,
    /// The stylesheet it is in.
    pub(crate) sheet: u32,
    /// What decides about it.
    pub(crate) precedence: Precedence,
    /// The rule's number, by its place in the study.
    pub(crate) rule: u32,
    /// Which selector of the rule took the element.
    pub(crate) selector: Option<u32>,
}

/// What a declaration sets.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(crate) enum Target<'s> {
    /// A longhand.
    Longhand(PropertyId),
    /// A custom property.
    Custom(&'s crate::document::Name),
}

/// The rules that take an element or its pseudo-elements, unordered; rules of the element itself included.
pub(crate) fn matched_rules(study: &Study, matcher: &Matcher<'_>, id: ElementId) -> Vec<Matched> {
    let mut matched = Vec::new();
    for number in study.candidates(id) {
        let rule = &study.rules[number as usize];
        matched_in_scope(study, matcher, rule, number, id, &mut matched);
    }
    if study.document.shadow_count() > 0 {
        across_trees(study, matcher, id, &mut matched);
    }
    for number in study.own_rules.get(&id).into_iter().flatten() {
        matched.push(Matched {
            rule: *number,
            specificity: Specificity::default(),
            proximity: None,
            pseudo: None,
            selector: None,
        });
    }
    matched
}

/// Adds the rules of other trees that reach an element: of the tree behind it by `:host`, of trees whose slots it is in
/// by `::slotted()`, and of trees further out by `::part()` (CSS Scoping 1, §3; CSS Shadow Parts 1).
fn across_trees(study: &Study, matcher: &Matcher<'_>, id: ElementId, matched: &mut Vec<Matched>) {
    let document = &study.document;
    let element = document.element(id);
    let rules_of = |tree: u32| study.tree_rules.get(tree as usize).into_iter().flatten();
    let list_of = |number: u32| {
        let rule = &study.rules[number as usize];
        &study.sheets[rule.sheet as usize].sheet.rules[rule.rule as usize].selectors
    };
    if element.shadow != 0 {
        let inside = matcher.with_tree(element.shadow);
        for number in rules_of(element.shadow) {
            let takes = |s: &Selector| s.slotted.is_none() && s.parts.is_empty() && inside.takes(s, id);
            collect(list_of(*number), *number, None, takes, matched);
        }
    }
    let mut slotted = document.slot_of(id);
    while let Some(slot) = slotted {
        let inside = matcher.with_tree(document.element(slot).tree);
        for number in rules_of(document.element(slot).tree) {
            let takes = |s: &Selector| s.slotted.is_some() && inside.takes_slotted(s, slot, id);
            collect(list_of(*number), *number, None, takes, matched);
        }
        slotted = document.slot_of(slot);
    }
    let mut names: Vec<String> =
        element.attribute("part").unwrap_or_default().split_ascii_whitespace().map(str::to_owned).collect();
    let mut tree = element.tree;
    while let Some(host) = document.host(tree).filter(|_| !names.is_empty()) {
        tree = document.element(host).tree;
        let outside = matcher.with_tree(tree);
        for number in rules_of(tree) {
            let takes = |s: &Selector| {
                !s.parts.is_empty()
                    && s.parts.iter().all(|p| names.iter().any(|n| **n == **p))
                    && outside.takes(s, host)
                    && matcher.fits_behind(s, id)
            };
            collect(list_of(*number), *number, None, takes, matched);
        }
        names = exported(document.element(host).attribute("exportparts").unwrap_or_default(), &names);
    }
}

/// The names under which a host shows parts of its tree to the tree around it (CSS Shadow Parts 1, §5).
fn exported(attribute: &str, names: &[String]) -> Vec<String> {
    let pairs = attribute.split(',').map(|p| p.split_once(':').unwrap_or((p, p)));
    pairs
        .filter(|(inner, _)| names.iter().any(|n| n == inner.trim()))
        .map(|(_, outer)| outer.trim().to_owned())
        .collect()
}

/// Adds a rule to the matched ones, once for each pseudo-element it aims at.
pub(crate) fn matched_in_scope(
    study: &Study,
    matcher: &Matcher<'_>,
    rule: &FlatRule,
    number: u32,
    id: ElementId,
    matched: &mut Vec<Matched>,
) {
    let sheet = &study.sheets[rule.sheet as usize];
    let list = &sheet.sheet.rules[rule.rule as usize].selectors;
    let of_tree = rule.tree.filter(|t| *t > 0).map(|t| matcher.with_tree(t));
    let matcher = of_tree.as_ref().unwrap_or(matcher);
    let plain = |s: &Selector| s.slotted.is_none() && s.parts.is_empty();
    if rule.scopes.is_empty() {
        collect(list, number, None, |s| plain(s) && matcher.takes(s, id), matched);
        return;
    }
    for (root, steps) in scoping_roots(matcher, &sheet.sheet, &rule.scopes, sheet.owner, id) {
        let before = matched.len();
        let scoped = matcher.with_scope(root);
        collect(list, number, Some(steps), |s| plain(s) && scoped.takes(s, id), matched);
        if matched.len() > before {
            return;
        }
    }
}

/// Adds the heaviest selector of a list that takes the element, once for each pseudo-element.
fn collect(
    list: &crate::selector::SelectorList,
    number: u32,
    proximity: Option<u32>,
    takes: impl Fn(&Selector) -> bool,
    matched: &mut Vec<Matched>,
) {
    let start = matched.len();
    for (i, selector) in list.selectors.iter().enumerate() {
        // States of pseudo-elements, and pseudo-elements of pseudo-elements, have no boxes here.
        if selector.pseudo.as_ref().is_some_and(|p| p.then.is_some()) || !takes(selector) {
            continue;
        }
        let index = Some(crate::source::offset(i));
        match matched[start..].iter_mut().find(|m| m.pseudo == selector.pseudo) {
            Some(found) if found.specificity < selector.specificity => {
                found.specificity = selector.specificity;
                found.selector = index;
            }
            Some(_) => {}
            None => matched.push(Matched {
                rule: number,
                specificity: selector.specificity,
                proximity,
                pseudo: selector.pseudo.clone(),
                selector: index,
            }),
        }
    }
}

/// The scoping roots in whose scope an element is, nearest first, with the steps up to each (CSS Cascade 6, §2.5).
fn scoping_roots(
    matcher: &Matcher<'_>,
    sheet: &Stylesheet,
    scopes: &[u32],
    owner: Option<ElementId>,
    id: ElementId,
) -> Vec<(ElementId, u32)> {
    let Some((first, outer)) = scopes.split_first() else {
        return Vec::new();
    };
    let GroupKind::Scope(scope) = &sheet.groups[*first as usize].kind else {
        return Vec::new();
    };
    let document = matcher.document;
    let mut found = Vec::new();
    for (steps, root) in document.lineage(id).enumerate() {
        // The root must itself be in the scopes around, and their roots are what `:scope` means in its selector.
        let fits = if outer.is_empty() {
            is_root(matcher, scope, owner, root)
        } else {
            let around = scoping_roots(matcher, sheet, outer, owner, root);
            around.iter().any(|(around, _)| is_root(&matcher.with_scope(*around), scope, owner, root))
        };
        if !fits {
            continue;
        }
        let inner = matcher.with_scope(root);
        let limited = scope
            .limits
            .as_ref()
            .is_some_and(|limits| document.lineage(id).take(steps + 1).any(|e| inner.any(limits, e)));
        if !limited {
            found.push((root, crate::source::offset(steps)));
        }
    }
    found
}

/// Whether an element is a scoping root; without selectors the element around the `<style>` is (CSS Cascade 6, §2.5.1).
fn is_root(matcher: &Matcher<'_>, scope: &Scope, owner: Option<ElementId>, id: ElementId) -> bool {
    match &scope.roots {
        Some(roots) => matcher.any(roots, id),
        None => {
            let outer = |o: ElementId| {
                matcher.document.element(o).parent.or_else(|| matcher.document.host(matcher.document.element(o).tree))
            };
            let around = owner.and_then(outer);
            let in_head = around.is_some_and(|a| matcher.document.element(a).is_html("head"));
            match around {
                Some(around) if !in_head => around == id,
                _ => matcher.document.element(id).parent.is_none(),
            }
        }
    }
}

/// What the matched rules say for an element or one of its pseudo-elements, weakest first.
pub(crate) fn entries_of<'s>(
    study: &'s Study,
    styles: &Styles,
    id: ElementId,
    matched: &[Matched],
    pseudo: Option<&PseudoElement>,
) -> Vec<Entry<'s>> {
    let mut entries = Vec::new();
    for m in matched.iter().filter(|m| m.pseudo.as_ref() == pseudo) {
        let rule = &study.rules[m.rule as usize];
        if !containers_hold(study, styles, rule, id, pseudo) {
            continue;
        }
        add_entries(study, rule, m, &mut entries);
    }
    entries.sort_by_key(|e| e.precedence);
    entries
}

/// Adds what one rule says.
pub(crate) fn add_entries<'s>(study: &'s Study, rule: &FlatRule, m: &Matched, entries: &mut Vec<Entry<'s>>) {
    let sheet = &study.sheets[rule.sheet as usize].sheet;
    for (i, declaration) in sheet.rules[rule.rule as usize].declarations.iter().enumerate() {
        let precedence = Precedence {
            origin: rule.origin,
            // A presentational hint is never important.
            important: declaration.important && rule.origin != Origin::PresentationalHint,
            context: study.document.tree_depth(rule.tree.unwrap_or(0)),
            attached: rule.attached,
            layer: rule.layer,
            specificity: m.specificity,
            proximity: m.proximity,
            order: (rule.order, crate::source::offset(i)),
        };
        let entry = |property, declared| Entry {
            property,
            declared,
            declaration,
            sheet: rule.sheet,
            precedence,
            rule: m.rule,
            selector: m.selector,
        };
        match &declaration.property {
            Property::Custom(name) => entries.push(entry(Target::Custom(name), None)),
            Property::Known(_) => {
                if let Ok(values) = declared_values(sheet, declaration) {
                    entries.extend(values.iter().map(|(p, d)| entry(Target::Longhand(*p), Some(d))));
                }
            }
        }
    }
}

/// What a declaration says for each longhand; read when first asked for, then kept.
pub(crate) fn declared_values<'s>(
    sheet: &'s Stylesheet,
    declaration: &'s Declaration,
) -> Result<&'s [(PropertyId, Declared)], &'s property::Mismatch> {
    let read = || match &declaration.property {
        Property::Known(id) => property::parse(*id, sheet.value(declaration)),
        Property::Custom(_) => Ok(Vec::new()),
    };
    declaration.declared.get_or_init(read).as_ref().map(Vec::as_slice)
}
