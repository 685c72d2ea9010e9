//! `why`: the answer, then the contest stage by stage, then how the value comes about.

use std::fmt::Write as _;

use clear_cascade::answer::{Contender, From, Outcome, Why};
use clear_cascade::cascade::{Origin, Stage};

use crate::paint::{self, ANSWER, NOTE, QUIET, STAGE, WON, clean, cut, paint, wrap};

/// The answer to one question.
pub(crate) fn why(why: &Why, subject: &str, width: usize) -> String {
    let mut out = String::new();
    let _ = writeln!(out, "{}", paint(ANSWER, wrap(&why.sentence, width, 0)));
    out.push_str(subject);
    if let Some(belief) = &why.belief {
        let _ = writeln!(out, "{}", paint(NOTE, wrap(belief, width, 0)));
    }
    lineage(why, width, &mut out);
    contest(why, width, &mut out);
    derivation(why, width, &mut out);
    off(why, width, &mut out);
    out.push_str(&super::notes(&why.notes, width));
    out
}

/// The answers for the longhands of a shorthand or for several properties: one line each, folded where one declaration
/// set them all.
pub(crate) fn many(answers: &[Why], subject: &str, width: usize) -> String {
    let mut out = String::new();
    let mut groups: Vec<Vec<&Why>> = Vec::new();
    // What a sentence says after the value: where that is the same, one sentence does for all.
    let rest = |w: &Why| {
        let before = if w.value.is_empty() { "has no value" } else { &w.value };
        w.sentence.split_once(before).map_or(String::new(), |(_, rest)| rest.to_owned())
    };
    let cause = |w: &Why| {
        let winner = w.contenders.first();
        (w.from, w.value.is_empty(), winner.map(|c| (c.file.clone(), c.start)), rest(w))
    };
    for answer in answers {
        match groups.iter_mut().find(|g| cause(g[0]) == cause(answer)) {
            Some(group) => group.push(answer),
            None => groups.push(vec![answer]),
        }
    }
    for (i, group) in groups.iter().enumerate() {
        let names: Vec<&str> = group.iter().map(|w| w.property.as_str()).collect();
        let same_value = group.iter().all(|w| w.value == group[0].value);
        let head = if group.len() > 1 && group[0].value.is_empty() {
            format!("{} have no value{}", names.join(", "), rest(group[0]).replace("sets it", "sets them"))
        } else if group.len() == 1 {
            group[0].sentence.clone()
        } else {
            let rest = rest(group[0])
                .replace(", its initial value", ", their initial values")
                .replace("it does not inherit", "they do not inherit");
            let values = if same_value {
                format!("all {}", group[0].value)
            } else {
                group.iter().map(|w| w.value.clone()).collect::<Vec<_>>().join(", ")
            };
            format!("{} are {values}{rest}", names.join(", "))
        };
        let _ = writeln!(out, "{}", paint(ANSWER, wrap(&head, width, 0)));
        if i == 0 {
            out.push_str(subject);
        }
        for loser in group[0].contenders.iter().filter(|c| c.outcome == Outcome::Out) {
            let text = format!("out at {}: {}", loser.stage.map_or("", Stage::name), name(loser));
            let _ = writeln!(out, "{}", paint(QUIET, wrap(&text, width, 2)));
        }
    }
    let _ = writeln!(out, "{}", paint(QUIET, "Ask about one of them to see its contest in full."));
    out
}

/// Whom an inherited value comes from, outwards.
fn lineage(why: &Why, width: usize, out: &mut String) {
    if why.lineage.len() < 2 || why.from != From::Inherited {
        return;
    }
    let _ = writeln!(out, "\n{}", paint(STAGE, "Where inheritance starts"));
    let mut depth = 2;
    for step in why.lineage.iter().rev() {
        let what = match step.from {
            From::Declared => "sets it",
            From::Initial => "starts with the initial value",
            From::Inherited if step.element == why.element && why.pseudo.is_none() => "inherits it",
            From::Inherited => "hands it on",
        };
        let line = format!("{}{}", " ".repeat(depth), cut(&step.label, width / 2));
        let _ = writeln!(
            out,
            "{}  {}",
            paint::pad(&line, 34),
            paint(QUIET, format!("{what}, @{}, {}", step.element, step.at))
        );
        depth = (depth + 2).min(width / 3);
    }
    if let Some(pseudo) = &why.pseudo {
        let _ = writeln!(out, "{}{pseudo}", " ".repeat(depth));
    }
}

/// The contest through its stages: at each, how many go on, and who goes out.
fn contest(why: &Why, width: usize, out: &mut String) {
    let Some(winner) = why.contenders.first() else {
        return;
    };
    let count = why.contenders.len();
    if count == 1 {
        let _ = writeln!(out, "\n{} one declaration wants to set it here", paint(STAGE, "No contest:"));
        entry(winner, true, width, out);
        return;
    }
    let _ = writeln!(
        out,
        "\n{} {}",
        paint(STAGE, "The contest:"),
        format_args!("{count} declarations want to set it here")
    );
    let mut left = count;
    for stage in Stage::ALL {
        let losers: Vec<&Contender> =
            why.contenders.iter().filter(|c| c.outcome == Outcome::Out && c.stage == Some(stage)).collect();
        if losers.is_empty() {
            continue;
        }
        let before = left;
        left -= losers.len();
        let _ = writeln!(
            out,
            "\n  {}  {}",
            paint(STAGE, stage.name()),
            paint(QUIET, format!("{} → {}", dots(before), dots(left)))
        );
        for loser in losers {
            entry(loser, false, width, out);
        }
    }
    let _ = writeln!(out, "\n  {}", paint(WON, "the winner"));
    entry(winner, true, width, out);
}

/// So many contenders as dots, with a number where they are many.
fn dots(count: usize) -> String {
    if count > 12 { format!("{count}") } else { "•".repeat(count) }
}

/// One contender: what it says, where it is, and what became of it.
fn entry(contender: &Contender, won: bool, width: usize, out: &mut String) {
    let important = if contender.important { " !important" } else { "" };
    let said = cut(&format!("{}: {}{important}", contender.property, contender.value), width / 2);
    let place = format!("{}:{}:{}", contender.file, contender.line, contender.column);
    let said = if won { paint(WON, said) } else { said };
    let _ = writeln!(out, "    {said}  {}", paint(QUIET, clean(&place)));
    let reason = if won { String::new() } else { format!(": {}", contender.reason) };
    let outcome = if won { won_text(contender) } else { format!("out{reason}") };
    let text = format!("{} — {outcome}", name(contender));
    let _ = writeln!(out, "{}", wrap(&text, width, 6));
}

/// Why the winner won.
fn won_text(contender: &Contender) -> String {
    match contender.stage {
        None => contender.reason.clone(),
        Some(_) => format!("wins; {}", contender.reason),
    }
}

/// What takes the element: a selector with its weight and layer, an attribute, a default.
fn name(contender: &Contender) -> String {
    let mut text = match (contender.origin, &contender.selector) {
        (Origin::PresentationalHint, _) => "HTML attribute".to_owned(),
        (_, None) => "style attribute".to_owned(),
        (Origin::Defaults, Some(selector)) => format!("browser default `{selector}`"),
        (Origin::User, Some(selector)) => format!("user stylesheet `{selector}`"),
        (_, Some(selector)) => format!("`{selector}`"),
    };
    if let Some(weight) = contender.specificity {
        let _ = write!(text, " ({weight})");
    }
    if let Some(layer) = &contender.layer {
        let _ = write!(text, " in layer `{layer}`");
    }
    text
}

/// The steps from what was written to the value, and what there would be otherwise.
fn derivation(why: &Why, width: usize, out: &mut String) {
    if !why.derivation.is_empty() {
        let _ = writeln!(out, "\n{}", paint(STAGE, "How the value comes about"));
        for step in &why.derivation {
            let _ = writeln!(out, "{}", wrap(step, width, 2));
        }
    }
    if !why.contenders.is_empty() {
        let what = if why.contenders.len() == 1 { "Without it" } else { "Without all of them" };
        let otherwise = if why.otherwise.is_empty() { "no value" } else { &why.otherwise };
        let _ = writeln!(out, "\n{}", wrap(&format!("{what}: {otherwise}"), width, 0));
    }
}

/// Rules that would want a say if a condition held.
fn off(why: &Why, width: usize, out: &mut String) {
    if why.off.is_empty() {
        return;
    }
    let _ = writeln!(out, "\n{}", paint(STAGE, "Not in the contest"));
    for one in &why.off {
        let selector = one.selector.as_ref().map(|s| format!(" of `{s}`")).unwrap_or_default();
        let text = format!("`{}: {}`{selector}, {}: {}", one.property, one.value, one.at, one.reason);
        let _ = writeln!(out, "{}", wrap(&text, width, 2));
    }
}
