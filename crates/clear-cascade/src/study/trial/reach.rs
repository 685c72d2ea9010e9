//! What the edits of a trial reach: the rest is taken over from the page as it is.
//!
//! What comes in: two studies of one page, of which the second has other rules in places. What goes out: for the second, which
//! elements are taken by a rule that only one of the two has. All others have the values that they had, unless what they inherit
//! from has not.

use std::ops::Range;
use std::sync::Arc;

use crate::document::{Document, ElementId};
use crate::page::{FlatRule, RuleIndex};
use crate::source::offset;
use crate::study::Study;
use crate::style::{Before, Reached};

/// Lets a study take over what is known of the elements of another that the differences between their rules do not reach.
/// Nothing is taken over where more than these rules may make a difference.
pub(super) fn take_over(before: &Study, after: &mut Study) {
    if !only_rules_differ(before, after) {
        return;
    }
    let (old, new) = differing(before, after);
    let plain = |study: &Study, range: &Range<usize>| {
        let mut rules = study.page.rules[range.clone()].iter();
        rules.all(|rule| rule.within.tree == Some(0) && !study.page.style_rule(rule).is_attribute())
    };
    if !plain(before, &old) || !plain(after, &new) {
        return;
    }
    let mut reached = vec![false; before.page.document.count()];
    mark(before, old, &mut reached);
    mark(after, new, &mut reached);
    mark_in_selects(&before.page.document, &mut reached);
    after.styles_mut().take_over(Before { styles: before.styles().clone(), reached });
}

/// Whether two studies of one page are alike in all but their rules.
fn only_rules_differ(before: &Study, after: &Study) -> bool {
    let same_function = |name: &str| match (before.page.function(name), after.page.function(name)) {
        (Some((a, _)), Some((b, _))) => std::ptr::eq(a, b),
        _ => false,
    };
    let defaults =
        |study: &Study| study.page.base_select.map(|number| Arc::as_ptr(&study.page.sheets[number as usize].sheet));
    // What a container query asks about may be far outside.
    let asks_around = |study: &Study| study.page.rules.iter().any(|r| !r.within.containers.is_empty());
    Arc::ptr_eq(&before.page.document, &after.page.document)
        && before.page.document.shadow_count() == 0
        && before.page.viewing == after.page.viewing
        && before.page.registrations == after.page.registrations
        && before.page.functions.len() == after.page.functions.len()
        && before.page.functions.keys().all(|name| same_function(name))
        && defaults(before) == defaults(after)
        && !asks_around(before)
        && !asks_around(after)
}

/// The rules of two studies that only one of them has: all between those that both start with and those that both end with.
fn differing(before: &Study, after: &Study) -> (Range<usize>, Range<usize>) {
    let of = |rule: &FlatRule| (rule.within.origin, rule.within.attached, rule.within.tree);
    let same = |(a, b): (&FlatRule, &FlatRule)| {
        let (of_a, of_b) = (&before.page.sheets[a.sheet as usize], &after.page.sheets[b.sheet as usize]);
        Arc::ptr_eq(&of_a.sheet, &of_b.sheet)
            && a.rule == b.rule
            && a.layer == b.layer
            && of(a) == of(b)
            && of_a.owner == of_b.owner
            && of_a.base == of_b.base
    };
    let (a, b) = (&before.page.rules, &after.page.rules);
    let start = a.iter().zip(b).take_while(|pair| same(*pair)).count();
    let end = a[start..].iter().rev().zip(b[start..].iter().rev()).take_while(|pair| same(*pair)).count();
    (start..a.len() - end, start..b.len() - end)
}

/// Marks the elements that some rules of a study take.
fn mark(study: &Study, rules: Range<usize>, reached: &mut [bool]) {
    if rules.is_empty() {
        return;
    }
    let page = &study.page;
    let index = RuleIndex::new(&page.rules[rules.clone()], &page.sheets, &page.document, &page.viewing.states);
    let matcher = study.page.matcher();
    for id in study.page.document.all_ids() {
        let place = &mut reached[id.index()];
        if *place || !index.may_take(&page.document, id) {
            continue;
        }
        let mut found = Vec::new();
        study.page.candidates_in(&index, id, &mut |candidate| found.push(candidate.rule as usize + rules.start));
        if found.is_empty() {
            continue;
        }
        found.dedup();
        let around = Reached::new(&study.page, &matcher, id);
        *place = found.into_iter().any(|number| {
            let mut matched = Vec::new();
            around.by(&study.page.rules[number], offset(number), &mut matched);
            !matched.is_empty()
        });
    }
}

/// Marks what is in a `select`, which has defaults by the values of the select (see `style/appearance.rs`).
fn mark_in_selects(document: &Document, reached: &mut [bool]) {
    let mut inside = vec![false; document.count()];
    for id in document.all_ids() {
        let around = document.flat_parent(id);
        let within = |e: ElementId| inside[e.index()] || document.node(e).is_html("select");
        inside[id.index()] = around.is_some_and(within);
        reached[id.index()] |= inside[id.index()];
    }
}
