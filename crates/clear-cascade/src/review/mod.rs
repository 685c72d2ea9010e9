//! What is wrong with a page, or with all pages of a site together.
//!
//! What comes in: [`Facts`] of pages, which add up. What goes out: a [`Review`]: findings, each with its place, what is wrong,
//! what that does, and what to do; and how much of each sheet is in use. Each kind of finding is a file of its own in `kinds/`
//! and a row of [`Kind::ALL`], of which the documentation is made.

mod accept;
mod cycles;
mod facts;
mod kinds;
mod markup;

use std::collections::BTreeMap;

use serde::{Deserialize, Serialize};

pub use self::accept::Acceptance;
use self::facts::RuleFacts;
pub use self::facts::{Facts, PageFacts};
pub use self::kinds::{Example, Kind, Level};
use self::markup::Oddity;
use crate::source::Place;
use crate::study::Change;
use crate::stylesheet::NoteKind;

/// Something that is wrong, or may be.
///
/// ```
/// use clear_cascade::{MemoryLoader, Study, review::{Facts, Review, Level}};
/// let files = MemoryLoader::default().with("a.html", "<style>p { colour: red }</style><p>1");
/// let page = Study::open(&files, "a.html")?;
/// let finding = &Review::of(&Facts::of("a.html", &page)).findings[0];
/// assert_eq!((finding.code.as_str(), finding.level), ("property-unknown", Level::Wrong));
/// assert_eq!(finding.at.to_string(), "a.html:1:12");
/// assert!(finding.advice.as_deref().unwrap().contains("`color`"));
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct Finding {
    /// Which kind it is of: the same words at all times.
    pub code: String,
    /// How bad it is.
    pub level: Level,
    /// Where it is.
    pub at: Place,
    /// What is wrong, in one sentence without its stop.
    pub what: String,
    /// What it does to the pages.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub effect: Option<String>,
    /// What to do.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub advice: Option<String>,
    /// How many elements it is about.
    #[serde(default, skip_serializing_if = "is_zero")]
    pub elements: usize,
    /// The first of these, as people write them.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub labels: Vec<String>,
    /// A page that shows it.
    pub page: String,
    /// Changes that take it away, where they are certain.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub fix: Vec<Change>,
}

/// For lists in JSON: what is nothing is left out.
#[expect(clippy::trivially_copy_pass_by_ref, reason = "serde gives a reference")]
fn is_zero(n: &usize) -> bool {
    *n == 0
}

/// How much of a sheet is in use.
///
/// ```
/// use clear_cascade::{MemoryLoader, Study, review::{Facts, Review}};
/// let files = MemoryLoader::default().with("a.html", "<style>p { top: 0 } b { top: 0 }</style><p>1");
/// let page = Study::open(&files, "a.html")?;
/// let review = Review::of(&Facts::of("a.html", &page));
/// assert_eq!((review.sheets[0].used, review.sheets[0].rules), (1, 2));
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct SheetUse {
    /// Its file; a page where it has styles of its own.
    pub file: String,
    /// How many rules it has whose conditions hold and that do not wait for a state such as `:hover`.
    pub rules: usize,
    /// How many of them take an element on some page.
    pub used: usize,
    /// On how many pages it is.
    pub pages: usize,
    /// Whether it is taken as written for these pages: two thirds of its rules or more are in use. Of other sheets, such as those of
    /// frameworks, what is not used or never wins is no finding but in advice.
    pub own: bool,
}

/// What is wrong with some pages.
///
/// ```
/// use clear_cascade::{MemoryLoader, Study, review::{Facts, Review}};
/// let files = MemoryLoader::default().with("a.html", "<style>p { color: navy }</style><p>1");
/// let page = Study::open(&files, "a.html")?;
/// let review = Review::of(&Facts::of("a.html", &page));
/// assert!(review.findings.is_empty());
/// assert_eq!((review.pages, review.elements), (1, 5));
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct Review {
    /// How many pages there are.
    pub pages: usize,
    /// How many elements they have.
    pub elements: usize,
    /// What was found and not accepted: by file, the files with the worst first; in a file the worst first, then by place.
    pub findings: Vec<Finding>,
    /// What was accepted, with the reason.
    pub accepted: Vec<(Finding, String)>,
    /// How much of each sheet is in use.
    pub sheets: Vec<SheetUse>,
}

impl Review {
    /// Looks for all kinds of findings in the facts of a page or of a whole site.
    ///
    /// ```
    /// use clear_cascade::{MemoryLoader, Study, review::{Facts, Review}};
    /// let files = MemoryLoader::default().with("a.html", "<style>p { color: var(--ink) }</style><p>1");
    /// let page = Study::open(&files, "a.html")?;
    /// let review = Review::of(&Facts::of("a.html", &page));
    /// assert_eq!(review.findings[0].what, "`--ink` is declared nowhere");
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    #[must_use]
    pub fn of(facts: &Facts) -> Self {
        Self::accepting(facts, &[])
    }

    /// The same with acceptances that stand in no comment.
    ///
    /// ```
    /// use clear_cascade::{MemoryLoader, Study, review::{Acceptance, Facts, Review}};
    /// let files = MemoryLoader::default().with("a.html", "<style>p { colour: red }</style><p>1");
    /// let page = Study::open(&files, "a.html")?;
    /// let accepted = Acceptance::read("accepted.txt", "property-unknown a.html a program reads it")?;
    /// let review = Review::accepting(&Facts::of("a.html", &page), &accepted);
    /// assert_eq!((review.findings.len(), review.accepted[0].1.as_str()), (0, "a program reads it"));
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    #[must_use]
    pub fn accepting(facts: &Facts, also: &[Acceptance]) -> Self {
        let sheets = sheets(facts);
        let site = Site::new(facts, &sheets);
        let mut findings: Vec<Finding> = Kind::ALL.iter().flat_map(|kind| (kind.find)(&site)).collect();
        let acceptances: Vec<&Acceptance> = facts.acceptances.iter().chain(also).collect();
        let mut met = vec![false; acceptances.len()];
        let mut accepted = Vec::new();
        findings.retain(|finding| {
            let by = acceptances.iter().position(|a| a.is_of(finding));
            if let Some(by) = by {
                met[by] = true;
                accepted.push((finding.clone(), acceptances[by].reason.clone()));
            }
            by.is_none()
        });
        for (acceptance, _) in acceptances.iter().zip(&met).filter(|(_, met)| !**met) {
            let what = format!("`{}` is accepted here and not found", acceptance.code);
            findings.push(kinds::ACCEPTANCE_UNUSED.finding(acceptance.at.clone(), &acceptance.at.file, what));
        }
        let mut worst: BTreeMap<String, (Level, usize)> = BTreeMap::new();
        for finding in &findings {
            let one = worst.entry(finding.at.file.clone()).or_insert((Level::Advice, 0));
            one.0 = one.0.min(finding.level);
            one.1 += usize::from(finding.level == Level::Wrong);
        }
        let rank = |f: &Finding| worst.get(&f.at.file).map(|(level, count)| (*level, std::cmp::Reverse(*count)));
        findings.sort_by(|a, b| {
            let key = |f: &Finding| (rank(f), f.at.file.clone(), f.level, f.at.clone(), f.code.clone(), f.what.clone());
            key(a).cmp(&key(b))
        });
        Self {
            pages: facts.pages.len(),
            elements: facts.pages.values().map(|p| p.elements).sum(),
            findings,
            accepted,
            sheets,
        }
    }
}

/// Facts of a site as kinds of findings look at them.
struct Site<'f> {
    /// The facts.
    facts: &'f Facts,
    /// By file, whether it is written for these pages.
    own: BTreeMap<&'f str, bool>,
    /// By file, what counts for something else because of an end that was lost: from where, and up to which line all up to there goes.
    lost: BTreeMap<&'f str, Vec<(&'f Place, u32)>>,
}

impl<'f> Site<'f> {
    /// What the kinds look at.
    fn new(facts: &'f Facts, sheets: &'f [SheetUse]) -> Self {
        let mut lost: BTreeMap<&str, Vec<(&Place, u32)>> = BTreeMap::new();
        for (at, notes) in &facts.notes {
            let until = notes.iter().filter(|n| n.kind == NoteKind::Syntax).filter_map(|n| n.until).max();
            if let Some(until) = until {
                let here = lost.entry(&at.file).or_default();
                let before = here.last().map_or(0, |(_, until)| *until);
                here.push((at, until.max(before)));
            }
        }
        Self { facts, own: sheets.iter().map(|s| (s.file.as_str(), s.own)).collect(), lost }
    }

    /// Findings of a kind at the oddities of the markup that are of it: what is wrong, and what to do.
    fn oddities(&self, kind: &Kind, told: impl Fn(&Oddity) -> Option<(String, String)>) -> Vec<Finding> {
        let mut found = Vec::new();
        for (at, oddity) in &self.facts.odd {
            let Some((what, advice)) = told(oddity) else { continue };
            let mut finding = kind.finding(at.clone(), &at.file, what);
            (finding.advice, finding.elements) = (Some(advice), 1);
            found.push(finding);
        }
        found
    }

    /// Whether a place is in what counts for something else because of an end that was lost: what follows there is told with that.
    fn is_lost(&self, at: &Place) -> bool {
        let Some(here) = self.lost.get(at.file.as_str()) else { return false };
        let before = here.partition_point(|(from, _)| *from <= at);
        before.checked_sub(1).is_some_and(|last| here[last].1 >= at.line)
    }

    /// A page that a file is of.
    fn page_of<'p>(&'p self, file: &'p str) -> &'p str {
        let of = self.facts.pages.iter().find(|(_, page)| page.sheets.iter().any(|sheet| sheet == file));
        of.map_or(file, |(name, _)| name)
    }

    /// Whether what is in a file is written for these pages.
    fn is_own(&self, file: &str) -> bool {
        self.own.get(file).copied().unwrap_or(true)
    }

    /// The level of something dead in a file: of a sheet for many sites that is no news.
    fn dead(&self, file: &str) -> Level {
        if self.is_own(file) { Level::Dead } else { Level::Advice }
    }
}

/// How much of each sheet is in use.
fn sheets(facts: &Facts) -> Vec<SheetUse> {
    let mut found: BTreeMap<&str, SheetUse> = BTreeMap::new();
    for (at, rule) in facts.rules.iter().filter(|(_, r)| !r.selectors.is_empty()) {
        let sheet = found.entry(at.file.as_str()).or_insert_with(|| SheetUse {
            file: at.file.clone(),
            rules: 0,
            used: 0,
            pages: 0,
            own: true,
        });
        sheet.pages = sheet.pages.max(rule.pages);
        if !rule.off && (!rule.states || rule.hits > 0) {
            sheet.rules += 1;
            sheet.used += usize::from(rule.hits > 0);
        }
    }
    // A rule that is a slip away from taking something is meant to be in use.
    let is_slip = |r: &RuleFacts| r.near.is_some() || r.names.iter().any(|name| name.starts_with('<'));
    let mut slips: BTreeMap<&str, usize> = BTreeMap::new();
    for (at, _) in facts.rules.iter().filter(|(_, rule)| rule.hits == 0 && is_slip(rule)) {
        *slips.entry(&at.file).or_default() += 1;
    }
    for (file, sheet) in &mut found {
        sheet.own = (sheet.used + slips.get(file).copied().unwrap_or_default()) * 3 >= sheet.rules * 2;
    }
    found.into_values().collect()
}
