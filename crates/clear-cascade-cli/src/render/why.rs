//! `why`: the answer, then the contest stage by stage, then how the value comes about.

use std::fmt::Write as _;

use clear_cascade::answer::{Contender, Group, Member, OffContender, Outcome, Said, Together, ValueFrom, Why};
use clear_cascade::cascade::{Origin, Stage};
use unicode_width::UnicodeWidthStr;

use crate::paint::{self, ANSWER, NOTE, QUIET, STAGE, WON, capital, clean, cut, paint, wrap};

/// The answer to one question.
pub(crate) fn why(why: &Why, subject: &str, notes: bool, width: usize) -> String {
    let mut out = short(why, subject, width);
    lineage(why, width, &mut out);
    contest(why, width, &mut out);
    derivation(why, width, &mut out);
    off(&why.off, width, &mut out);
    out.push_str(&super::notes(&why.notes, notes, width));
    out
}

/// The answer alone, with what is seen instead and what is often believed.
pub(crate) fn short(why: &Why, subject: &str, width: usize) -> String {
    let mut out = String::new();
    let _ = writeln!(out, "{}{}", paint(ANSWER, wrap(&why.sentence, width, 0)), paint::and_swatch(&why.value));
    out.push_str(subject);
    let dropped = why.dropped.iter().map(|d| format!("But a declaration for it was dropped: {d}"));
    for line in why.seen.iter().map(|s| format!("But {s}.")).chain(dropped) {
        let _ = writeln!(out, "{}", paint(NOTE, wrap(&line, width, 0)));
    }
    if let Some(belief) = &why.belief {
        let _ = writeln!(out, "{}", paint(NOTE, wrap(belief, width, 0)));
    }
    out
}

/// The answers for the longhands of a shorthand or for several properties, grouped by what gives the values.
pub(crate) fn together(together: &Together, subject: &str, all_notes: bool, width: usize) -> String {
    let mut out = String::new();
    let _ = writeln!(out, "{}", paint(ANSWER, wrap(&together.sentence, width, 0)));
    out.push_str(subject);
    for group in &together.groups {
        let cause = if together.groups.len() > 1 { capital(&group.cause) } else { "Their values".to_owned() };
        let _ = writeln!(out, "\n{}", paint(STAGE, wrap(&cause, width, 0)));
        one_cause(group, width, &mut out);
    }
    let answers: Vec<&Why> = together.groups.iter().flat_map(|g| &g.members).map(|m| &m.why).collect();
    but(&answers, width, &mut out);
    off(answers.iter().flat_map(|a| &a.off), width, &mut out);
    let mut notes: Vec<String> = Vec::new();
    for note in answers.iter().flat_map(|a| &a.notes) {
        if !notes.contains(note) {
            notes.push(note.clone());
        }
    }
    out.push_str(&super::notes(&notes, all_notes, width));
    let _ = writeln!(out, "\n{}", paint(QUIET, "Ask about one of them to see its contest in full."));
    out
}

/// What is not seen so, or was dropped, each once with the properties that it is about.
fn but(answers: &[&Why], width: usize, out: &mut String) {
    let mut told: Vec<(String, Vec<&str>)> = Vec::new();
    for why in answers {
        let dropped = why.dropped.iter().map(|d| format!("a declaration was dropped: {d}"));
        for line in why.seen.iter().cloned().chain(dropped) {
            match told.iter_mut().find(|(l, _)| *l == line) {
                Some((_, of)) => of.push(&why.property),
                None => told.push((line, vec![&why.property])),
            }
        }
    }
    if !told.is_empty() {
        let _ = writeln!(out, "\n{}", paint(NOTE, "But"));
    }
    for (line, of) in told {
        let of = if of.len() == answers.len() { String::new() } else { format!("{}: ", of.join(", ")) };
        let _ = writeln!(out, "{}", wrap(&format!("{of}{line}"), width, 2));
    }
}

/// How many initial values are listed at the most.
const MANY: usize = 40;

/// Properties that one declaration sets, or that have their values from one ancestor, or from nobody.
fn one_cause(group: &Group, width: usize, out: &mut String) {
    if let Some(winner) = group.members[0].why.contenders.first() {
        // The cause names the place, unless `revert` or its kin lead on to another declaration.
        let elsewhere =
            if group.cause.contains(&place(winner)) { String::new() } else { format!("  {}", place(winner)) };
        let _ = writeln!(out, "  {}{}", paint(WON, said(winner, width)), paint(QUIET, clean(&elsewhere)));
    }
    for step in &group.put_in {
        let _ = writeln!(out, "{}", wrap(step, width, 2));
    }
    if group.members[0].why.contenders.is_empty() && group.members.len() > MANY {
        let text = format!("{} of them: `values --all` lists all values", group.members.len());
        let _ = writeln!(out, "{}", wrap(&text, width, 4));
        return;
    }
    let column = group.members.iter().map(|m| m.why.property.width()).max().unwrap_or_default();
    let mut told: &[String] = &[];
    for Member { why, said, steps, .. } in &group.members {
        let no_value = "no value".to_owned();
        let value = if why.value.is_empty() { &no_value } else { &why.value };
        let aside = match said {
            Said::Written => "",
            Said::Meant => "  (not written, but meant)",
            Said::LeftOut => "  (not written, so initial)",
        };
        // What is written word for word is not said twice.
        let as_written = |w: &Contender| (&w.property, &w.value, w.important) == (&why.property, value, false);
        if group.members.len() > 1 || !why.contenders.first().is_some_and(as_written) {
            let line = format!("{}  {value}{aside}", paint::pad(&why.property, column));
            let _ = writeln!(out, "{}{}", wrap(&line, width, 4), paint::and_swatch(value));
        }
        // One colour for four edges is explained once.
        if *said != Said::LeftOut && steps != told {
            for step in steps {
                let _ = writeln!(out, "{}", paint(QUIET, wrap(step, width, 6)));
            }
            told = steps;
        }
    }
    losers(group, width, out);
}

/// Who went out, and for which of the properties where it is not for all.
fn losers(group: &Group, width: usize, out: &mut String) {
    let mut losers: Vec<(&Contender, Vec<&str>)> = Vec::new();
    for Member { why, .. } in &group.members {
        for loser in why.contenders.iter().filter(|c| c.outcome == Outcome::Out) {
            let same = |l: &Contender| (&l.at.file, l.start, l.stage) == (&loser.at.file, loser.start, loser.stage);
            match losers.iter_mut().find(|(l, _)| same(l)) {
                Some((_, of)) => of.push(&why.property),
                None => losers.push((loser, vec![&why.property])),
            }
        }
    }
    for (loser, of) in losers {
        let only = if of.len() < group.members.len() { format!(", for {}", of.join(", ")) } else { String::new() };
        let stage = loser.stage.map_or("", Stage::name);
        let text = format!("out at {stage}: {} of {}, {}{only}", said(loser, width), name(loser), place(loser));
        let _ = writeln!(out, "{}", paint(QUIET, wrap(&text, width, 2)));
    }
}

/// Whom an inherited value comes from, outwards.
fn lineage(why: &Why, width: usize, out: &mut String) {
    if why.lineage.len() < 2 || why.from != ValueFrom::Inherited {
        return;
    }
    let _ = writeln!(out, "\n{}", paint(STAGE, "Where inheritance starts"));
    let mut depth = 2;
    for (i, step) in why.lineage.iter().enumerate().rev() {
        let what = match step.from {
            ValueFrom::Declared => "sets it",
            ValueFrom::Initial => "starts with the initial value",
            ValueFrom::Inherited if i == 0 => "inherits it",
            ValueFrom::Inherited => "hands it on",
        };
        let line = format!("{}{}", " ".repeat(depth), cut(&step.name(), width / 2));
        let _ = writeln!(
            out,
            "{}  {}",
            paint::pad(&line, 34),
            paint(QUIET, format!("{what}, {}, {}", step.element, step.at))
        );
        depth = (depth + 2).min(width / 3);
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
    let said = said(contender, width);
    let said = if won { paint(WON, said) } else { said };
    let colour = paint::and_swatch(&contender.computes_to);
    let _ = writeln!(out, "    {said}{colour}  {}", paint(QUIET, clean(&place(contender))));
    let reason = if won { String::new() } else { format!(": {}", contender.reason) };
    let outcome = if won { won_text(contender) } else { format!("out{reason}") };
    let text = format!("{} — {outcome}", name(contender));
    let _ = writeln!(out, "{}", wrap(&text, width, 6));
}

/// The declaration as it was written.
fn said(contender: &Contender, width: usize) -> String {
    let important = if contender.important { " !important" } else { "" };
    cut(&format!("{}: {}{important}", contender.property, contender.value), width / 2)
}

/// Where it is written.
fn place(contender: &Contender) -> String {
    contender.at.to_string()
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
    for condition in &contender.conditions {
        let _ = write!(text, " in {condition}");
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
        let by = why.otherwise_by.as_ref().map(|by| format!(", {by}")).unwrap_or_default();
        let text = wrap(&format!("{what}: {otherwise}{by}"), width, 0);
        let _ = writeln!(out, "\n{text}{}", paint::and_swatch(otherwise));
    }
}

/// Rules that would want a say if a condition held; each declaration once.
fn off<'w>(all: impl IntoIterator<Item = &'w OffContender>, width: usize, out: &mut String) {
    let mut lines: Vec<String> = Vec::new();
    for one in all {
        let selector = one.selector.as_ref().map(|s| format!(" of `{s}`")).unwrap_or_default();
        let text = format!("`{}: {}`{selector}, {}: {}", one.property, one.value, one.at, one.reason);
        let line = wrap(&text, width, 2);
        if !lines.contains(&line) {
            lines.push(line);
        }
    }
    if !lines.is_empty() {
        let _ = writeln!(out, "\n{}\n{}", paint(STAGE, "Not in the contest"), lines.join("\n"));
    }
}
