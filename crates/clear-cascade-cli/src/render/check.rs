//! Findings as text, and as a SARIF log.

use std::collections::BTreeMap;
use std::fmt::Write;

use clear_cascade::review::{Finding, Kind, Level, Review};
use serde_json::{Value, json};

use super::excerpt::Excerpts;
use crate::paint::{ANSWER, NOTE, QUIET, STAGE, WON, paint, wrap};

/// How findings are shown.
pub(crate) struct Shown<'s> {
    /// Whether only what is new is told.
    pub(crate) since: bool,
    /// What was there before.
    pub(crate) gone: &'s [Finding],
    /// Whether the lines around are shown.
    pub(crate) lines: bool,
}

/// A review for the terminal.
pub(crate) fn review(review: &Review, shown: &Shown<'_>, width: usize) -> String {
    let mut out = String::new();
    let _ = writeln!(out, "{}", paint(ANSWER, wrap(&headline(review, shown), width, 0)));
    let (mut file, mut excerpts) = ("", Excerpts::default());
    for finding in &review.findings {
        if finding.at.file != file {
            file = &finding.at.file;
            let _ = writeln!(out, "\n{}", paint(STAGE, crate::paint::clean(file)));
        }
        one(&mut out, finding, width);
        if shown.lines {
            excerpt(&mut out, finding, &mut excerpts, width);
        }
    }
    if !shown.gone.is_empty() {
        let _ = writeln!(out, "\n{}", paint(WON, "Gone"));
        for finding in shown.gone {
            let _ = writeln!(out, "{}", wrap(&format!("{}  {}", finding.at, finding.what), width, 2));
        }
    }
    in_use(&mut out, review, width);
    out
}

/// What there is in one sentence.
fn headline(review: &Review, shown: &Shown<'_>) -> String {
    let some = |n: usize, one: &str| if n == 1 { format!("1 {one}") } else { format!("{n} {one}s") };
    let on = format!("{} with {}", some(review.pages, "page"), some(review.elements, "element"));
    let new = if shown.since { " that is new" } else { "" };
    if review.findings.is_empty() {
        return format!("Nothing{new} is found on {on}.");
    }
    let levels = [Level::Wrong, Level::Dead, Level::Advice];
    let count = |level: Level| review.findings.iter().filter(|f| f.level == level).count();
    let told: Vec<String> = levels
        .into_iter()
        .filter(|l| count(*l) > 0)
        .map(|level| match level {
            Level::Wrong => format!("{} wrong", count(level)),
            Level::Dead => format!("{} without any effect", count(level)),
            _ => format!("{} to think about", count(level)),
        })
        .collect();
    let new = if shown.since { "new " } else { "" };
    let things = some(review.findings.len(), &format!("{new}finding"));
    format!("{things} on {on}: {}.", told.join(", "))
}

/// One finding.
fn one(out: &mut String, finding: &Finding, width: usize) {
    let style = match finding.level {
        Level::Wrong => NOTE,
        _ => ANSWER,
    };
    let _ = writeln!(out, "{}", paint(style, wrap(&format!("{}.", first_upper(&finding.what)), width, 2)));
    for more in finding.effect.iter().chain(&finding.advice) {
        let stop = if more.ends_with(['?', '.']) { "" } else { "." };
        let _ = writeln!(out, "{}", wrap(&format!("{}{stop}", first_upper(more)), width, 4));
    }
    let on = if finding.labels.is_empty() { String::new() } else { format!(" on {}", labels(finding)) };
    let last = format!("{} ({}: {}){on}", finding.at, finding.level.name(), finding.code);
    let _ = writeln!(out, "{}", paint(QUIET, wrap(&last, width, 4)));
}

/// The elements that a finding is about, the first of them by name.
fn labels(finding: &Finding) -> String {
    let rest = finding.elements.saturating_sub(finding.labels.len());
    let more = if rest > 0 { format!(" and {rest} more") } else { String::new() };
    format!("{}{more}", finding.labels.join(", "))
}

/// A sentence begins with a capital, but where it begins with code.
fn first_upper(text: &str) -> String {
    let mut letters = text.chars();
    letters.next().into_iter().flat_map(char::to_uppercase).chain(letters).collect()
}

/// The lines around a finding, its own marked.
fn excerpt(out: &mut String, finding: &Finding, excerpts: &mut Excerpts, width: usize) {
    for (number, shown) in excerpts.around(&finding.at, width.saturating_sub(12)) {
        let marked = if number == finding.at.line as usize {
            paint(ANSWER, format!("{number:>6} > {shown}"))
        } else {
            paint(QUIET, format!("{number:>6}   {shown}"))
        };
        let _ = writeln!(out, "  {marked}");
    }
}

/// How much of each sheet is in use.
fn in_use(out: &mut String, review: &Review, width: usize) {
    if review.sheets.is_empty() {
        return;
    }
    let _ = writeln!(out, "\n{}", paint(ANSWER, "In use"));
    let longest = review.sheets.iter().map(|s| s.file.chars().count()).max().unwrap_or(0).min(width / 2);
    for sheet in &review.sheets {
        let rules = if sheet.rules == 1 { "rule" } else { "rules" };
        let used = match sheet.rules {
            0 => "all of it waits for another medium, width or state".to_owned(),
            all => format!("{} of {all} {rules}", sheet.used),
        };
        let part = if sheet.own || sheet.rules == 0 { "" } else { "; what it has besides is told with --advice" };
        let _ = writeln!(
            out,
            "  {}  {used}{part}",
            crate::paint::pad(&crate::paint::cut(&sheet.file, width / 2), longest),
        );
    }
    if !review.accepted.is_empty() {
        let _ = writeln!(out, "\n{}", paint(ANSWER, "Accepted"));
        for (finding, reason) in &review.accepted {
            let _ = writeln!(out, "{}", wrap(&format!("{}  {}: {reason}", finding.at, finding.code), width, 2));
        }
    }
}

/// A review as a log in SARIF 2.1.0 (OASIS Static Analysis Results Interchange Format).
pub(crate) fn sarif(review: &Review) -> Value {
    let used: BTreeMap<&str, &Kind> = review
        .findings
        .iter()
        .map(|f| &f.code)
        .chain(review.accepted.iter().map(|(f, _)| &f.code))
        .filter_map(|code| Kind::named(code).map(|kind| (kind.code, kind)))
        .collect();
    let rules: Vec<Value> = used
        .values()
        .map(|kind| {
            json!({
                "id": kind.code,
                "shortDescription": { "text": kind.meaning },
                "fullDescription": { "text": kind.matters },
                "defaultConfiguration": { "level": level(kind.level) },
            })
        })
        .collect();
    let mut results: Vec<Value> = review.findings.iter().map(result).collect();
    results.extend(review.accepted.iter().map(|(finding, reason)| {
        let mut one = result(finding);
        one["suppressions"] = json!([{ "kind": "external", "status": "accepted", "justification": reason }]);
        one
    }));
    json!({
        "$schema": "https://json.schemastore.org/sarif-2.1.0.json",
        "version": "2.1.0",
        "runs": [{
            "tool": { "driver": { "name": "Clear Cascade", "version": env!("CARGO_PKG_VERSION"), "rules": rules } },
            "columnKind": "unicodeCodePoints",
            "results": results,
        }],
    })
}

/// A level in SARIF's words.
fn level(level: Level) -> &'static str {
    match level {
        Level::Wrong => "error",
        Level::Dead => "warning",
        _ => "note",
    }
}

/// A finding as a result.
fn result(finding: &Finding) -> Value {
    let parts = [Some(&finding.what), finding.effect.as_ref(), finding.advice.as_ref()];
    let text: Vec<String> = parts.into_iter().flatten().map(|t| first_upper(t)).collect();
    let uri: String = finding.at.file.split('/').map(encoded).collect::<Vec<_>>().join("/");
    json!({
        "ruleId": finding.code,
        "level": level(finding.level),
        "message": { "text": text.join(". ") },
        "locations": [{
            "physicalLocation": {
                "artifactLocation": { "uri": uri },
                "region": { "startLine": finding.at.line, "startColumn": finding.at.column.unwrap_or(1) },
            },
        }],
    })
}

/// A part of a path as a URI has it.
fn encoded(part: &str) -> String {
    let plain = |b: u8| b.is_ascii_alphanumeric() || b"-._~!$&'()*+,;=@".contains(&b);
    part.bytes().fold(String::new(), |mut out, b| {
        let _ = if plain(b) { write!(out, "{}", char::from(b)) } else { write!(out, "%{b:02X}") };
        out
    })
}
