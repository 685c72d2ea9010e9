//! `why-not`: the first condition that fails, what would take the element, or what its declarations lose to.

use std::fmt::Write as _;

use clear_cascade::answer::WhyNot;

use crate::paint::{ANSWER, QUIET, STAGE, WON, clean, cut, paint, wrap};

/// Why a rule does not take or does not style an element.
pub(crate) fn why_not(answer: &WhyNot, subject: &str, notes: bool, width: usize) -> String {
    let mut out = String::new();
    let _ = writeln!(out, "{}", paint(ANSWER, wrap(&answer.sentence, width, 0)));
    out.push_str(subject);
    if let Some(at) = &answer.rule_at {
        let _ = writeln!(out, "{}", paint(QUIET, format!("the rule is written at {at}")));
    }
    misses(answer, width, &mut out);
    fates(answer, width, &mut out);
    fixes(answer, width, &mut out);
    if !answer.takes {
        out.push_str(&super::notes(&answer.notes, notes, width));
    }
    out
}

/// What would win, lightest first.
fn fixes(answer: &WhyNot, width: usize, out: &mut String) {
    if answer.fixes.is_empty() {
        return;
    }
    let first = answer.declarations.iter().find(|d| !d.loses.is_empty()).map_or("", |d| &d.declaration);
    let head = format!("What would make `{}` win, the lightest change first", cut(first, width / 2));
    let _ = writeln!(out, "\n{}", paint(STAGE, head));
    for (i, fix) in answer.fixes.iter().enumerate() {
        let others = match fix.others {
            0 => "changes nothing else".to_owned(),
            1 => "changes 1 other element too".to_owned(),
            n => format!("changes {n} other elements too"),
        };
        let cost = fix.cost.as_ref().map(|c| format!("; {c}")).unwrap_or_default();
        let _ = writeln!(out, "{}", wrap(&format!("{}. {}", i + 1, fix.what), width, 2));
        let _ = writeln!(out, "{}", paint(QUIET, wrap(&format!("{others}{cost}"), width, 6)));
    }
}

/// Each selector that misses, and what would take the element instead.
fn misses(answer: &WhyNot, width: usize, out: &mut String) {
    let many = answer.selectors.len() > 1;
    if many {
        let _ = writeln!(out, "\n{}", paint(STAGE, "Each selector of the rule"));
        for miss in &answer.selectors {
            let why = miss.reason.as_deref().unwrap_or("takes the element");
            let _ = writeln!(out, "{}", wrap(&format!("`{}`: {why}", miss.selector), width, 2));
        }
    }
    let near: Vec<_> = answer.selectors.iter().flat_map(|m| &m.nearest).collect();
    if !answer.takes && !near.is_empty() {
        let _ = writeln!(out, "\n{}", paint(STAGE, "What would take it"));
        for one in near {
            let _ = writeln!(out, "  {}", paint(WON, cut(&one.selector, width - 4)));
            let _ = writeln!(out, "{}", wrap(&one.difference, width, 6));
        }
    }
}

/// The declarations of a rule that takes the element.
fn fates(answer: &WhyNot, width: usize, out: &mut String) {
    if answer.declarations.is_empty() {
        return;
    }
    let head = if answer.pseudo.is_some() {
        "Its declarations on this pseudo-element"
    } else {
        "Its declarations on this element"
    };
    let _ = writeln!(out, "\n{}", paint(STAGE, head));
    for fate in &answer.declarations {
        let _ = writeln!(out, "  {}  {}", cut(&fate.declaration, width / 2), paint(QUIET, clean(&fate.at.to_string())));
        if let Some(why) = fate
            .off
            .as_ref()
            .map(|o| format!("is off: {o}"))
            .or(fate.dropped.as_ref().map(|d| format!("was dropped: {d}")))
            .or(fate.idle.as_ref().map(|i| format!("does nothing: {i}")))
        {
            let _ = writeln!(out, "{}", wrap(&why, width, 6));
            continue;
        }
        if fate.loses.is_empty() {
            if !fate.wins.is_empty() {
                let _ = writeln!(out, "      {}", paint(WON, "wins"));
            }
            continue;
        }
        if !fate.wins.is_empty() {
            let _ = writeln!(out, "{}", wrap(&format!("wins for {}", fate.wins.join(", ")), width, 6));
        }
        let mut told: Vec<&str> = Vec::new();
        for (_, to) in &fate.loses {
            if told.contains(&to.as_str()) {
                continue;
            }
            told.push(to);
            let names: Vec<&str> = fate.loses.iter().filter(|(_, t)| t == to).map(|(n, _)| n.as_str()).collect();
            let whose = if names.len() == 1 && fate.wins.is_empty() && fate.loses.len() == 1 {
                String::new()
            } else {
                format!(" for {}", names.join(", "))
            };
            let _ = writeln!(out, "{}", wrap(&format!("loses{whose} {to}"), width, 6));
        }
    }
}
