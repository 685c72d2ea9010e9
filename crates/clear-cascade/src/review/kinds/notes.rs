//! What the parsers dropped, and sheets that could not be had.

use super::{Example, Finding, Kind, Level, Site};
use crate::study::Change;
use crate::stylesheet::NoteKind;

/// A sheet that is not there.
pub(super) const SHEET: Kind = Kind {
    code: "sheet-missing",
    level: Level::Wrong,
    meaning: "A style sheet that the page names cannot be loaded, or is not used as one.",
    matters: "None of its rules count, and browsers ask for it each time.",
    accept: "Where it is put there later, or comes from another site.",
    example: Example {
        with: "<link rel=stylesheet href=gone.css><p>1",
        without: "<link rel=stylesheet href='data:text/css,p{top:0}'><link rel='alternate stylesheet' title=dark href=gone.css>\
                  <link rel=stylesheet disabled href=gone.css><p>1",
    },
    find: |site| find(site, NoteKind::Sheet, &SHEET),
};

/// Text that is no CSS.
pub(super) const SYNTAX: Kind = Kind {
    code: "syntax",
    level: Level::Wrong,
    meaning: "What is written is no CSS, often for a missing semicolon, brace, colon or quote.",
    matters: "It is dropped, sometimes with what stands around it.",
    accept: "Never: what is dropped on purpose is better deleted.",
    example: Example {
        with: "<style>p { color red; top: 0 }</style><p>1",
        without: "<style>p { color: red; top: 0 }</style><p>1",
    },
    find: |site| find(site, NoteKind::Syntax, &SYNTAX),
};

/// A selector that is none.
pub(super) const SELECTOR: Kind = Kind {
    code: "selector-invalid",
    level: Level::Wrong,
    meaning: "A selector cannot be read, so that its whole rule is dropped.",
    matters: "All declarations of the rule do nothing, those for other selectors of its list too.",
    accept: "Where it is for one browser only, in a rule of its own.",
    example: Example {
        with: "<style>p:hoover { top: 0 }</style><p>1",
        without: "<style>p:hover { top: 0 }</style><p>1",
    },
    find: |site| find(site, NoteKind::Selector, &SELECTOR),
};

/// A property that does not exist.
pub(super) const PROPERTY: Kind = Kind {
    code: "property-unknown",
    level: Level::Wrong,
    meaning: "There is no such property; names with a prefix of one browser are not looked at.",
    matters: "The declaration is dropped.",
    accept: "Where a program reads it.",
    example: Example {
        with: "<style>p { colour: red }</style><p>1",
        without: "<style>p { color: red; -moz-x: 1 }</style><p>1",
    },
    find: |site| find(site, NoteKind::Property, &PROPERTY),
};

/// A value that a property does not take.
pub(super) const VALUE: Kind = Kind {
    code: "value-invalid",
    level: Level::Wrong,
    meaning: "The property does not take this value; values for one browser only are not looked at.",
    matters: "The declaration is dropped, and another one, or none, decides.",
    accept: "Where an older value stands before it for browsers that do not know the newer one.",
    example: Example {
        with: "<style>p { width: 8 em }</style><p>1",
        without: "<style>p { width: 8em; display: -ms-grid }</style><p>1",
    },
    find: |site| find(site, NoteKind::Value, &VALUE),
};

/// An at-rule that does not exist.
pub(super) const AT_RULE: Kind = Kind {
    code: "at-rule-unknown",
    level: Level::Wrong,
    meaning: "There is no such at-rule, it is in the wrong place, or what stands behind its name cannot be read.",
    matters: "It is dropped with all that is in it.",
    accept: "Where a program reads it before browsers do.",
    example: Example {
        with: "<style>@meda print { p { top: 0 } }</style><p>1",
        without: "<style>@media print { p { top: 0 } }</style><p>1",
    },
    find: |site| find(site, NoteKind::AtRule, &AT_RULE),
};

/// Looks for notes of one kind.
fn find(site: &Site<'_>, kind: NoteKind, as_kind: &Kind) -> Vec<Finding> {
    let mut found = Vec::new();
    for (at, notes) in &site.facts.notes {
        for note in notes.iter().filter(|n| n.kind == kind && !is_for_one_browser(&n.written)) {
            let what = note.message.strip_suffix("; the declaration is dropped").unwrap_or(&note.message);
            let mut finding = as_kind.finding(at.clone(), &note.page, what);
            finding.advice.clone_from(&note.hint);
            let spoils = matches!(kind, NoteKind::Syntax | NoteKind::Value);
            finding.effect = note.until.filter(|_| spoils).map(|line| format!("it does its damage up to line {line}"));
            // A sheet of another site may be there; it was not asked for.
            if what.contains("is on another site") {
                finding.level = Level::Advice;
            }
            let meant = note.hint.as_deref().and_then(|h| h.strip_prefix("did you mean `")?.strip_suffix("`?"));
            if let (NoteKind::Property, Some(meant)) = (kind, meant) {
                finding.fix = vec![Change::Property { at: at.clone(), by: meant.to_owned() }];
            }
            found.push(finding);
        }
    }
    found
}

/// Whether something is written for one browser: with its prefix, or in a way that only an old one reads.
fn is_for_one_browser(written: &str) -> bool {
    let low = written.to_ascii_lowercase();
    let prefixed = ["-webkit-", "-moz-", "-ms-", "-o-", "-khtml-"].iter().any(|prefix| {
        low.match_indices(prefix).any(|(at, _)| !low[..at].ends_with(|c: char| c.is_alphanumeric() || c == '-'))
    });
    prefixed
        || ["progid:", "expression(", "alpha(opacity", "\\9", "\\0"].iter().any(|hack| low.contains(hack))
        || low.starts_with(['*', '_'])
        || low.starts_with("filter:") && low.contains('=')
}
