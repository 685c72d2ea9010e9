//! The kinds of findings, a file each; and the table of them.

mod acceptance_unused;
mod class_unknown;
mod class_unused;
mod colors_near;
mod condition_never;
mod css_as_text;
mod declared_twice;
mod id_twice;
mod id_weight;
mod important;
mod important_idle;
mod lengths_near;
mod looks_differ;
mod markup_misspelt;
mod never_wins;
mod no_effect;
mod notes;
mod page_unreadable;
mod rule_near;
mod rule_unused;
mod selector_wide;
mod semicolon_missing;
mod sheet_late;
mod sheet_twice;
mod sheet_unused;
mod sheets_alike;
mod shrinks;
mod state_hidden;
mod there_anyway;
mod variable_cycle;
mod variable_undefined;
mod variable_unread;

use std::hash::Hash;

use rustc_hash::FxHashMap;
use serde::{Deserialize, Serialize};

pub(super) use self::acceptance_unused::KIND as ACCEPTANCE_UNUSED;
use super::facts::{DeclarationFacts, RuleFacts};
use super::{Finding, Site};
use crate::source::Place;

/// How bad something is.
///
/// ```
/// use clear_cascade::review::Level;
/// assert!(Level::Wrong < Level::Advice); // The worst first.
/// ```
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(rename_all = "kebab-case")]
pub enum Level {
    /// It is not what anybody meant.
    Wrong,
    /// It does nothing on any of the pages.
    Dead,
    /// Something to think about.
    Advice,
}

impl Level {
    /// Its name, as it is printed.
    ///
    /// ```
    /// assert_eq!(clear_cascade::review::Level::Dead.name(), "dead");
    /// ```
    #[must_use]
    pub fn name(self) -> &'static str {
        match self {
            Self::Wrong => "wrong",
            Self::Dead => "dead",
            Self::Advice => "advice",
        }
    }
}

/// A small page with the finding, and one like it without; of what shows on two pages only, both, with a comment between them.
///
/// ```
/// let kind = &clear_cascade::review::Kind::ALL[0];
/// assert_ne!(kind.example.with, kind.example.without);
/// ```
#[derive(Clone, Copy, Debug)]
#[non_exhaustive]
pub struct Example {
    /// The page on which it is found.
    pub with: &'static str,
    /// The page on which it is not.
    pub without: &'static str,
}

/// A kind of finding.
///
/// ```
/// use clear_cascade::review::Kind;
/// let codes: Vec<&str> = Kind::ALL.iter().map(|kind| kind.code).collect();
/// assert!(codes.contains(&"id-twice"));
/// ```
#[derive(Clone, Copy, Debug)]
#[non_exhaustive]
pub struct Kind {
    /// Its stable name.
    pub code: &'static str,
    /// How bad it is at the worst.
    pub level: Level,
    /// What it means, in a sentence or two.
    pub meaning: &'static str,
    /// Why it matters.
    pub matters: &'static str,
    /// When it is all right to accept it.
    pub accept: &'static str,
    /// Pages with it and without.
    pub example: Example,
    /// Looks for it.
    pub(super) find: fn(&Site<'_>) -> Vec<Finding>,
}

impl Kind {
    /// All kinds, the worst first.
    pub const ALL: &'static [Self] = &[
        page_unreadable::KIND,
        notes::SHEET,
        notes::SYNTAX,
        semicolon_missing::KIND,
        notes::SELECTOR,
        notes::PROPERTY,
        notes::VALUE,
        notes::AT_RULE,
        class_unknown::KIND,
        markup_misspelt::KIND,
        css_as_text::KIND,
        sheet_twice::KIND,
        condition_never::KIND,
        id_twice::KIND,
        rule_near::KIND,
        variable_undefined::KIND,
        variable_cycle::KIND,
        state_hidden::KIND,
        important::KIND,
        never_wins::KIND,
        declared_twice::KIND,
        no_effect::KIND,
        rule_unused::KIND,
        sheet_unused::KIND,
        class_unused::KIND,
        variable_unread::KIND,
        selector_wide::KIND,
        id_weight::KIND,
        important_idle::KIND,
        there_anyway::KIND,
        colors_near::KIND,
        lengths_near::KIND,
        sheets_alike::KIND,
        sheet_late::KIND,
        looks_differ::KIND,
        shrinks::KIND,
        acceptance_unused::KIND,
    ];

    /// The kind with a code.
    ///
    /// ```
    /// use clear_cascade::review::Kind;
    /// assert!(Kind::named("id-twice").is_some() && Kind::named("id").is_none());
    /// ```
    #[must_use]
    pub fn named(code: &str) -> Option<&'static Self> {
        Self::ALL.iter().find(|kind| kind.code == code)
    }

    /// A finding of the kind, with nothing told but what is wrong.
    pub(super) fn finding(&self, at: Place, page: &str, what: impl Into<String>) -> Finding {
        Finding {
            code: self.code.to_owned(),
            level: self.level,
            at,
            what: what.into(),
            effect: None,
            advice: None,
            elements: 0,
            labels: Vec::new(),
            page: page.to_owned(),
            fix: Vec::new(),
        }
    }
}

/// For each declaration of a rule, the next one that is like it in some way and was not dropped.
fn next_like<'f, K: Eq + Hash>(
    rule: &'f RuleFacts,
    like: impl Fn(&'f DeclarationFacts) -> K,
) -> Vec<Option<&'f DeclarationFacts>> {
    let mut last: FxHashMap<K, &DeclarationFacts> = FxHashMap::default();
    let mut next: Vec<_> = Vec::with_capacity(rule.declarations.len());
    for declaration in rule.declarations.iter().rev() {
        let key = like(declaration);
        next.push(last.get(&key).copied());
        if !declaration.dropped {
            last.insert(key, declaration);
        }
    }
    next.reverse();
    next
}

/// How many there are of something, in words.
fn count(n: usize, one: &str) -> String {
    if n == 1 { format!("1 {one}") } else { format!("{n} {one}s") }
}
