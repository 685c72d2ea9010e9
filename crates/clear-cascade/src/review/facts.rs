//! What a review needs to know of a page, and of several pages together.
//!
//! Facts of pages add up: those of a site are those of its pages, rule by rule and name by name, in any order and in any
//! grouping. They are plain data, so that pages can be looked at on many machines and added up on one.

use std::collections::btree_map::Entry;
use std::collections::{BTreeMap, BTreeSet};

use serde::{Deserialize, Serialize};

use super::accept::Acceptance;
use super::cycles;
use super::markup::{self, Oddity};
use rustc_hash::FxHashSet;

use crate::answer::{AllTallied, Anyway, Beaten, Known, Tallied};
use crate::cascade::Origin;
use crate::document::ElementId;
use crate::property::id::FONT_SIZE;
use crate::selector::{PseudoClass, SelectorList, Simple, Specificity, State};
use crate::source::{Place, SourceKind};
use crate::study::Study;
use crate::stylesheet::NoteKind;
use crate::syntax::{Kind, Slice, Tokens};

/// How many elements are named where something is on many.
const NAMED: usize = 3;

/// How long a label may be, in characters: an element can have thousands of classes.
const LONGEST: usize = 120;

/// Facts of one page or of several.
///
/// ```
/// use clear_cascade::review::{Facts, Review};
/// use clear_cascade::{MemoryLoader, Study};
/// let files = MemoryLoader::default()
///     .with("a.html", "<link rel=stylesheet href=s.css><p class=lead>1")
///     .with("b.html", "<link rel=stylesheet href=s.css><p class=laed>2")
///     .with("s.css", ".lead { color: gold } p { margin: 0 }");
/// let mut site = Facts::of("a.html", &Study::open(&files, "a.html")?);
/// site.add(Facts::of("b.html", &Study::open(&files, "b.html")?));
/// let review = Review::of(&site);
/// assert_eq!(review.findings[0].what, "the class `laed` is in no stylesheet");
/// # Ok::<(), clear_cascade::Error>(())
/// ```
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct Facts {
    /// The pages, by their names.
    pub pages: BTreeMap<String, PageFacts>,
    /// The rules of their own style sheets and attributes, by their places.
    pub(crate) rules: BTreeMap<Place, RuleFacts>,
    /// What was noted while reading, by place.
    pub(crate) notes: BTreeMap<Place, Vec<NoteFacts>>,
    /// Classes of elements.
    pub(crate) classes: BTreeMap<String, Used>,
    /// Ids of elements, by page, and by tree there: an id is of one element of a tree.
    pub(crate) ids: BTreeMap<String, BTreeMap<String, ByTree>>,
    /// Words in scripts: names that may be given or looked for there.
    pub(crate) words: BTreeSet<String>,
    /// Whether there are scripts that cannot be read: what they name is not known.
    #[serde(default, skip_serializing_if = "is_default")]
    pub(crate) scripts_unread: bool,
    /// Custom properties that someone declares or registers.
    pub(crate) defined: BTreeSet<String>,
    /// Custom properties that someone reads.
    pub(crate) read: BTreeSet<String>,
    /// Font sizes that are a part of a part, by the place of the inner one.
    pub(super) shrunk: Found<Shrunk>,
    /// Custom properties that need themselves, by the place of the first of them.
    #[serde(default, skip_serializing_if = "is_default")]
    pub(super) cycles: Found<Cycle>,
    /// Classes that only text names that counts for nothing.
    #[serde(default, skip_serializing_if = "is_default")]
    pub(super) lost: BTreeSet<String>,
    /// What is odd in the markup, by place.
    #[serde(default, skip_serializing_if = "is_default")]
    pub(super) odd: BTreeMap<Place, Oddity>,
    /// For elements of one name with the same classes, which rules take them for what is around them: nothing where that differs on
    /// one page.
    #[serde(default, skip_serializing_if = "is_default")]
    pub(super) looks: BTreeMap<String, Option<Vec<Look>>>,
    /// Findings that comments accept.
    pub(crate) acceptances: BTreeSet<Acceptance>,
}

/// The elements that have one id, by tree: their places and labels.
type ByTree = BTreeMap<u32, Vec<(Place, String)>>;

/// What is known of one page.
///
/// ```
/// let facts = clear_cascade::review::Facts::unreadable("gone.html", "there is no such file");
/// assert_eq!(facts.pages["gone.html"].elements, 0);
/// ```
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct PageFacts {
    /// How many elements it has.
    pub elements: usize,
    /// Why it cannot be read, where that is so.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub unreadable: Option<String>,
    /// The sheets that it has, in order.
    pub sheets: Vec<String>,
}

/// Something that elements have.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub(crate) struct Used {
    /// On how many elements.
    pub(crate) count: usize,
    /// The first of them.
    pub(crate) first: (Place, String),
    /// Whether it is on a page in quirks mode, where its case does not matter (Quirks Mode, §3.5).
    #[serde(default, skip_serializing_if = "is_default")]
    pub(crate) quirks: bool,
}

/// Which rules take an element for what is around it, and where that is so.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub(super) struct Look {
    /// The rules.
    pub(super) rules: BTreeSet<Place>,
    /// The first page.
    pub(super) page: String,
    /// An element there.
    pub(super) at: Place,
}

/// Something that is so on some elements, by the place where it is declared.
pub(super) type Found<T> = BTreeMap<Place, On<T>>;

/// Something, and the elements that it is so on.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema), schemars(rename = "{T}"))]
pub(super) struct On<T> {
    /// What is so.
    #[serde(flatten)]
    pub(super) what: T,
    /// On how many elements.
    pub(super) count: usize,
    /// The first of them.
    pub(super) label: String,
    /// A page that it is on.
    pub(super) page: String,
}

/// Adds something that is so on an element.
fn found_on<T>(found: &mut Found<T>, at: Place, what: T, (label, page): (String, &str)) {
    found.entry(at).or_insert_with(|| On { what, count: 0, label, page: page.to_owned() }).count += 1;
}

/// Adds what was found on other pages.
fn add_found<T>(found: &mut Found<T>, others: Found<T>) {
    for (at, one) in others {
        match found.entry(at) {
            Entry::Vacant(free) => _ = free.insert(one),
            Entry::Occupied(mut known) => {
                let count = known.get().count + one.count;
                if one.page < known.get().page {
                    known.insert(one);
                }
                known.get_mut().count = count;
            }
        }
    }
}

/// A font size that is a part of another.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub(super) struct Shrunk {
    /// Where the other is declared.
    pub(super) outer: Place,
    /// The size that comes out there.
    pub(super) size: String,
}

/// Custom properties each of which needs the next one, and the last one the first.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub(super) struct Cycle {
    /// Their names.
    pub(super) names: Vec<String>,
}

/// A note.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub(crate) struct NoteFacts {
    /// What it is about.
    pub(crate) kind: NoteKind,
    /// What was met and what follows.
    pub(crate) message: String,
    /// What was probably meant.
    pub(crate) hint: Option<String>,
    /// What is written there.
    pub(crate) written: String,
    /// The line to which it does its damage, where that is more than what is written.
    #[serde(default, skip_serializing_if = "is_default")]
    pub(crate) until: Option<u32>,
    /// A page that it is on.
    pub(crate) page: String,
}

/// What became of a rule.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub(crate) struct RuleFacts {
    /// Its selectors as written; empty for a `style` attribute.
    pub(crate) selectors: String,
    /// The heaviest of them.
    #[serde(default, skip_serializing_if = "is_default")]
    pub(crate) weight: Option<Specificity>,
    /// How many elements and pseudo-elements it takes.
    #[serde(default, skip_serializing_if = "is_default")]
    pub(crate) hits: usize,
    /// Some of them.
    #[serde(default, skip_serializing_if = "is_default")]
    pub(crate) labels: BTreeSet<String>,
    /// On how many pages it is.
    #[serde(default, skip_serializing_if = "is_default")]
    pub(crate) pages: usize,
    /// A page that it is on.
    #[serde(default, skip_serializing_if = "is_default")]
    pub(crate) page: String,
    /// Whether its condition holds nowhere.
    #[serde(default, skip_serializing_if = "is_default")]
    pub(crate) off: bool,
    /// Whether it is a matter of states that no markup decides.
    #[serde(default, skip_serializing_if = "is_default")]
    pub(crate) states: bool,
    /// Whether it is nested in another rule, so that its selectors as written are not the whole.
    #[serde(default, skip_serializing_if = "is_default")]
    pub(crate) nested: bool,
    /// The group of conditions in its sheet that it is in.
    #[serde(default, skip_serializing_if = "is_default")]
    pub(crate) group: Option<u32>,
    /// Names that it asks for: `.class`, `#id`, and `<element` where there is none such.
    #[serde(default, skip_serializing_if = "is_default")]
    pub(crate) names: BTreeSet<String>,
    /// Where it takes nothing: a selector near it that takes something, what is different, and how much that takes.
    #[serde(default, skip_serializing_if = "is_default")]
    pub(crate) near: Option<(String, String, usize)>,
    /// Its declarations.
    #[serde(default, skip_serializing_if = "is_default")]
    pub(crate) declarations: Vec<DeclarationFacts>,
}

/// What became of a declaration.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub(crate) struct DeclarationFacts {
    /// Where it is written.
    pub(crate) at: (u32, u32),
    /// As it is written.
    pub(crate) text: String,
    /// The property, folded to lower case where it is no custom property.
    #[serde(default, skip_serializing_if = "is_default")]
    pub(crate) property: String,
    /// On how many it wins for all that it sets or a part, or is what the winner rolls back to.
    #[serde(default, skip_serializing_if = "is_default")]
    pub(crate) wins: usize,
    /// On how many it loses for a part or all.
    #[serde(default, skip_serializing_if = "is_default")]
    pub(crate) loses: usize,
    /// On how many a condition keeps it off.
    #[serde(default, skip_serializing_if = "is_default")]
    pub(crate) off: usize,
    /// What it loses to, in words.
    #[serde(default, skip_serializing_if = "is_default")]
    pub(crate) to: BTreeSet<String>,
    /// The same as places.
    #[serde(default, skip_serializing_if = "is_default")]
    pub(crate) beaten_by: BTreeSet<Beaten>,
    /// Whether it was dropped on all pages: in quirks mode, less is.
    #[serde(default, skip_serializing_if = "is_default")]
    pub(crate) dropped: bool,
    /// On how many it does nothing though it wins, and why.
    #[serde(default, skip_serializing_if = "is_default")]
    pub(crate) idle: usize,
    /// Whether that is so for all that it sets, as nothing of it applies there.
    #[serde(default, skip_serializing_if = "is_default")]
    pub(crate) applies_not: bool,
    /// Why.
    #[serde(default, skip_serializing_if = "is_default")]
    pub(crate) why_idle: Option<String>,
    /// What gives the same on all elements that it wins on, where something does.
    #[serde(default, skip_serializing_if = "is_default")]
    pub(crate) anyway: Option<Anyway>,
    /// Custom properties that it reads without a fallback.
    #[serde(default, skip_serializing_if = "is_default")]
    pub(crate) reads: Vec<String>,
}

impl Facts {
    /// The facts of a page, under the name that it is to have.
    #[must_use]
    pub fn of(name: &str, study: &Study) -> Self {
        let mut facts = Self::default();
        facts.take(name, study);
        facts
    }

    /// Takes in the facts of one more page, under the name that it is to have; where a page of this name is known, nothing. The same
    /// as [`Facts::add`] with those of the page alone, but faster: of sheets that are known, only what is new is looked at.
    ///
    /// ```
    /// # use clear_cascade::{MemoryLoader, Study};
    /// # let files = MemoryLoader::default().with(
    /// #     "a.html",
    /// #     "<!DOCTYPE html><style>p { color: navy; margin: 1px } .lead { color: gold } p::before { content: '*' } b { widht: 2px; width: 3px }
    /// #     @media print { p { color: black } }</style><body><p id=one class=lead>Hello <b>you</b></p><p id=two>Bye</p></body>",
    /// # );
    /// # let page = Study::open(&files, "a.html")?;
    /// use clear_cascade::review::Facts;
    /// let mut site = Facts::default();
    /// site.take("a.html", &page);
    /// assert_eq!(site, Facts::of("a.html", &page));
    /// # Ok::<(), clear_cascade::Error>(())
    /// ```
    pub fn take(&mut self, name: &str, study: &Study) {
        if self.pages.contains_key(name) {
            return;
        }
        let document = &study.page.document;
        let mut facts = Self::default();
        let sheets = study.sources().iter().filter(|(_, s)| s.kind == SourceKind::Sheet);
        let page = PageFacts {
            elements: document.all_ids().len(),
            unreadable: None,
            sheets: sheets.map(|(_, s)| s.name.clone()).collect(),
        };
        facts.pages.insert(name.to_owned(), page);
        let known = Known::of(study);
        let AllTallied { rules, by_view, context } = study.tallied(Some(&|rule, at| {
            let known = self.rules.get(rule).into_iter().flat_map(|rule| &rule.declarations);
            let here = |d: &DeclarationFacts| Some(d.at.1) == at.column && d.at.0 == at.line;
            known.filter(|d| d.wins > 0 && d.anyway.is_none()).any(here)
        }));
        let idle = idle(study, &by_view);
        facts.looks_of(name, study, context);
        for tallied in rules {
            self.rule(name, study, tallied, (&known, &idle));
        }
        for note in study.notes() {
            let Some(at) = study.sources().place(note.span) else { continue };
            let written = crate::text::shorten(study.sources.written(note.span), 80);
            let told = NoteFacts {
                kind: note.kind,
                message: note.message.clone(),
                hint: note.hint.clone(),
                written,
                until: note.damage.map(|damage| study.sources.last_line(damage)).filter(|line| *line > at.line),
                page: name.to_owned(),
            };
            if let Some(damage) = note.damage {
                facts.lost_names(study.sources.written(damage));
            }
            facts.notes.entry(at).or_default().push(told);
        }
        facts.names_of(name, study);
        facts.odd = markup::oddities(study);
        facts.sizes_of(name, study);
        for (at, names, element) in cycles::of(study) {
            found_on(&mut facts.cycles, at, Cycle { names }, (document.label(element), name));
        }
        for (_, source) in study.sources().iter() {
            if matches!(source.kind, SourceKind::Page | SourceKind::Sheet) {
                facts.acceptances.extend(Acceptance::in_comments(&source.name, &source.text));
            }
        }
        facts.defined.extend(study.page.registrations.keys().cloned());
        self.add(facts);
    }

    /// Facts of a page that cannot be read.
    ///
    /// ```
    /// use clear_cascade::review::{Facts, Review};
    /// let review = Review::of(&Facts::unreadable("gone.html", "there is no such file"));
    /// assert_eq!(review.findings[0].code, "page-unreadable");
    /// ```
    #[must_use]
    pub fn unreadable(name: &str, why: &str) -> Self {
        let page = PageFacts { unreadable: Some(why.to_owned()), ..PageFacts::default() };
        Self { pages: BTreeMap::from([(name.to_owned(), page)]), ..Self::default() }
    }

    /// Takes in the words of a script that is not written in a page: names in it count as used.
    ///
    /// ```
    /// use clear_cascade::review::Facts;
    /// let mut facts = Facts::default();
    /// facts.script("menu.classList.add('open')");
    /// ```
    pub fn script(&mut self, text: &str) {
        let name = |c: char| c.is_alphanumeric() || matches!(c, '-' | '_');
        let words = text.split(|c| !name(c)).filter(|w| (1..=40).contains(&w.len()));
        self.words.extend(words.filter(|w| !w.starts_with(|c: char| c.is_ascii_digit())).map(str::to_owned));
    }

    /// Takes in that there is a script that cannot be read: rules that take nothing may be for what it makes.
    ///
    /// ```
    /// use clear_cascade::review::{Facts, Level, Review};
    /// # use clear_cascade::{MemoryLoader, Study};
    /// let files = MemoryLoader::default().with("a.html", "<style>p { top: 0 } b { top: 0 } .on { top: 0 }</style><p>1<b>2</b>");
    /// let mut facts = Facts::of("a.html", &Study::open(&files, "a.html")?);
    /// let level = |facts: &Facts| Review::of(facts).findings.iter().find(|f| f.code == "rule-unused").map(|f| f.level);
    /// assert_eq!(level(&facts), Some(Level::Dead));
    /// facts.script_unread();
    /// assert_eq!(level(&facts), Some(Level::Advice));
    /// # Ok::<(), clear_cascade::Error>(())
    /// ```
    pub fn script_unread(&mut self) {
        self.scripts_unread = true;
    }

    /// Takes in the classes that a text names which counts for nothing.
    fn lost_names(&mut self, text: &str) {
        let tokens = Tokens::read(text);
        for pair in tokens.list.windows(2).filter(|p| p[0].kind == Kind::Delim('.') && p[1].kind == Kind::Ident) {
            self.lost.insert(tokens.all().name(pair[1]).into_owned());
        }
    }

    /// One rule.
    fn rule(
        &mut self,
        page: &str,
        study: &Study,
        tallied: Tallied<'_>,
        (known, idle): (&Known<'_>, &BTreeMap<Place, (usize, String)>),
    ) {
        let rule = tallied.written.rules[0];
        let style_rule = study.page.style_rule(rule);
        let at = study.sources.placed(study.page.prelude(rule));
        let list = study.page.selectors(rule);
        let off = tallied.written.rules.iter().all(|r| r.within.off.is_some());
        let near = |facts: &RuleFacts| match list.selectors.as_slice() {
            [one] if tallied.taken == 0 && !facts.states => study.near_selector(one, known),
            _ => None,
        };
        // In quirks mode less is dropped than elsewhere; else there is nothing new to know of a rule that takes nothing.
        let known = self.rules.get_mut(&at).filter(|_| !study.page.document.quirks);
        if let (None, Some(facts)) = (&tallied.tallies, known) {
            let near = near(facts);
            facts.add(RuleFacts { pages: 1, page: page.to_owned(), off, near, ..RuleFacts::default() });
            return;
        }
        let written = |span| study.sources.written(span).split_whitespace().collect::<Vec<_>>().join(" ");
        let texts: Vec<String> = list.selectors.iter().map(|s| written(s.span)).collect();
        let mut facts = RuleFacts {
            selectors: texts.join(", "),
            weight: list.selectors.iter().map(|s| s.specificity).max(),
            hits: tallied.taken,
            labels: tallied.some.iter().map(|e| study.page.document.label(*e)).take(NAMED).collect(),
            pages: 1,
            page: page.to_owned(),
            off,
            states: list.parts().any(|part| is_state(&part.simple)),
            nested: list.parts().any(|part| matches!(part.simple, Simple::Nesting(Some(_)))),
            group: style_rule.group.map(|group| crate::source::offset(group.index())),
            names: names(list),
            near: None,
            declarations: Vec::new(),
        };
        facts.near = near(&facts);
        for tally in tallied.tallies.unwrap_or_else(|| study.tallies_of_none(&tallied.written)) {
            let (name, value) = tally.declaration.split_once(':').unwrap_or((&tally.declaration, ""));
            let property =
                if name.starts_with("--") { name.trim().to_owned() } else { name.trim().to_ascii_lowercase() };
            if property.starts_with("--") && tally.dropped.is_none() {
                self.defined.insert(property.clone());
            }
            let mut reads = Vec::new();
            self.variables(value, &mut reads);
            let idle = idle.get(&tally.at);
            facts.declarations.push(DeclarationFacts {
                at: (tally.at.line, tally.at.column.unwrap_or(1)),
                text: tally.declaration,
                property,
                wins: tally.wins + tally.partly + tally.decides + tally.idle,
                loses: tally.loses,
                off: tally.off,
                to: tally.to.into_iter().collect(),
                beaten_by: tally.beaten_by,
                dropped: tally.dropped.is_some(),
                idle: idle.map_or(0, |i| i.0) + tally.idle,
                applies_not: tally.idle > 0,
                why_idle: idle
                    .map(|i| i.1.clone())
                    .or_else(|| tally.because.into_iter().next().filter(|_| tally.idle > 0)),
                anyway: tally.anyway.flatten(),
                reads,
            });
        }
        if rule.within.origin == Origin::Author {
            match self.rules.entry(at) {
                Entry::Vacant(free) => _ = free.insert(facts),
                Entry::Occupied(mut known) => known.get_mut().add(facts),
            }
        }
    }

    /// The custom properties that a value reads; those without a fallback go into a list.
    fn variables(&mut self, value: &str, bare: &mut Vec<String>) {
        if !value.contains("--") {
            return;
        }
        let tokens = Tokens::read(value);
        for (at, token) in tokens.list.iter().enumerate() {
            let from = Slice {
                tokens: &tokens,
                from: crate::source::offset(at),
                to: crate::source::offset(tokens.list.len()),
            };
            if !matches!(token.kind, Kind::Function(_)) || !from.is_function("var") {
                continue;
            }
            let mut inside = from.inside().trim();
            let Some(name) = inside.next().filter(|t| t.kind == Kind::Ident).map(|t| from.name(t).into_owned()) else {
                continue;
            };
            inside.skip_space();
            if inside.is_empty() && !bare.contains(&name) {
                bare.push(name.clone());
            }
            self.read.insert(name);
        }
    }

    /// The names that elements have, and words in scripts.
    fn names_of(&mut self, page: &str, study: &Study) {
        for element in study.document().all_elements() {
            let at = study.sources().place(element.span()).unwrap_or_else(|| Place::line(page, 1));
            let label = crate::text::shorten(&element.label(), LONGEST);
            // Among what a program is to put in, names of classes cannot be told from others.
            let put_in = element.classes.iter().any(|c| c.contains(['{', '}', '<', '>', '%', '$']));
            for class in element.classes.iter().filter(|_| !put_in) {
                let used = self.classes.entry(class.to_string());
                let quirks = study.page.document.quirks;
                used.or_insert_with(|| Used { count: 0, first: (at.clone(), label.clone()), quirks }).count += 1;
            }
            if let Some(id) = &element.id {
                let on_page = self.ids.entry(id.to_string()).or_default().entry(page.to_owned()).or_default();
                on_page.entry(element.tree).or_default().push((at.clone(), label.clone()));
            }
            if element.is_html("script") {
                self.script(&element.text());
            }
            for attribute in
                element.attributes.iter().filter(|a| a.name.starts_with("on") || a.name.starts_with("data-"))
            {
                self.script(&attribute.value);
            }
        }
    }

    /// Which rules take elements of one name with the same classes for what is around them.
    fn looks_of(&mut self, page: &str, study: &Study, context: Vec<(ElementId, BTreeSet<Place>)>) {
        for (id, rules) in context {
            let element = study.page.document.node(id);
            let Some(at) = study.sources().place(study.page.document.span(id)).filter(|_| !element.classes.is_empty())
            else {
                continue;
            };
            let mut classes: Vec<&str> = element.classes.iter().map(|c| &**c).collect();
            classes.sort_unstable();
            classes.dedup();
            let key = format!("{}.{}", element.name, classes.join("."));
            match self.looks.entry(key) {
                Entry::Vacant(free) => _ = free.insert(Some(vec![Look { rules, page: page.to_owned(), at }])),
                Entry::Occupied(mut known) => {
                    if known.get().as_ref().is_some_and(|known| known[0].rules != rules) {
                        known.insert(None);
                    }
                }
            }
        }
    }

    /// Font sizes that are a part of a part.
    fn sizes_of(&mut self, page: &str, study: &Study) {
        let document = &study.page.document;
        let size = |e: ElementId| {
            let text = study.style(e).text(FONT_SIZE);
            text.strip_suffix("px").and_then(|px| px.parse::<f64>().ok()).unwrap_or(0.0)
        };
        for element in document.all_ids() {
            let Some(parent) = document.flat_parent(element) else { continue };
            let Some(around) = document.flat_parent(parent) else { continue };
            if size(element) >= size(parent) || size(parent) >= size(around) {
                continue;
            }
            let part = |e: ElementId| {
                let why = study.why(e, "font-size").ok()?;
                let winner = why.winner().filter(|w| w.origin == Origin::Author)?;
                let relative =
                    winner.value.ends_with('%') || winner.value.ends_with("em") && !winner.value.ends_with("rem");
                relative.then(|| (winner.at.clone(), why.value.clone()))
            };
            if let (Some((at, size)), Some((outer, _))) = (part(element), part(parent)) {
                found_on(&mut self.shrunk, at, Shrunk { outer, size }, (document.label(element), page));
            }
        }
    }

    /// What is declared at a place, as it is written.
    pub(super) fn said_at(&self, at: &Place) -> Option<&str> {
        let of_file = self.rules.range(Place::line(at.file.clone(), 0)..=at.clone());
        let at = (at.line, at.column?);
        let declared = |rule: &'_ RuleFacts| rule.declarations.iter().position(|d| d.at == at);
        of_file.rev().find_map(|(_, rule)| declared(rule).map(|i| rule.declarations[i].text.as_str()))
    }

    /// Adds the facts of other pages; those of pages that are known already are left out.
    pub fn add(&mut self, other: Self) {
        if !other.pages.is_empty() && other.pages.keys().all(|page| self.pages.contains_key(page)) {
            return;
        }
        self.pages.extend(other.pages);
        for (at, rule) in other.rules {
            match self.rules.entry(at) {
                Entry::Vacant(free) => _ = free.insert(rule),
                Entry::Occupied(mut known) => known.get_mut().add(rule),
            }
        }
        for (at, notes) in other.notes {
            let here = self.notes.entry(at).or_default();
            for note in notes {
                match here.iter_mut().find(|n| n.message == note.message) {
                    Some(known) if note.page < known.page => known.page = note.page,
                    Some(_) => {}
                    None => here.push(note),
                }
            }
            here.sort_by(|a, b| a.message.cmp(&b.message));
        }
        for (class, used) in other.classes {
            let known = self.classes.entry(class).or_insert_with(|| Used { count: 0, ..used.clone() });
            known.count += used.count;
            known.quirks |= used.quirks;
            if used.first < known.first {
                known.first = used.first;
            }
        }
        for (id, pages) in other.ids {
            self.ids.entry(id).or_default().extend(pages);
        }
        self.words.extend(other.words);
        self.scripts_unread |= other.scripts_unread;
        self.odd.extend(other.odd);
        self.defined.extend(other.defined);
        self.read.extend(other.read);
        self.lost.extend(other.lost);
        self.acceptances.extend(other.acceptances);
        for (key, looks) in other.looks {
            match self.looks.entry(key) {
                Entry::Vacant(free) => _ = free.insert(looks),
                Entry::Occupied(mut known) => match (known.get_mut(), looks) {
                    (Some(mine), Some(theirs)) => {
                        mine.extend(theirs);
                        // Of those with the same rules the first is kept.
                        mine.sort();
                        mine.dedup_by(|later, first| later.rules == first.rules);
                    }
                    (mine, _) => *mine = None,
                },
            }
        }
        add_found(&mut self.cycles, other.cycles);
        add_found(&mut self.shrunk, other.shrunk);
    }
}

impl DeclarationFacts {
    /// As it is written, cut short where it is long.
    pub(super) fn shown(&self) -> String {
        crate::text::shorten(&self.text, 120)
    }
}

impl RuleFacts {
    /// Adds what became of the same rule on other pages.
    fn add(&mut self, other: Self) {
        self.hits += other.hits;
        self.labels.extend(other.labels);
        while self.labels.len() > NAMED {
            self.labels.pop_last();
        }
        self.pages += other.pages;
        if other.page < self.page {
            self.page = other.page;
        }
        self.off &= other.off;
        self.near = match (self.near.take(), other.near) {
            (Some(mine), Some(theirs)) if mine.0 == theirs.0 => Some((mine.0, mine.1, mine.2 + theirs.2)),
            (mine, theirs) => mine.into_iter().chain(theirs).min(),
        };
        for (mine, theirs) in self.declarations.iter_mut().zip(other.declarations) {
            mine.anyway = match (mine.anyway.take(), theirs.anyway) {
                (Some(mine), Some(theirs)) => Some(mine.with(&theirs)),
                (one, other) if mine.wins == 0 || theirs.wins == 0 => one.or(other),
                _ => None,
            };
            mine.wins += theirs.wins;
            mine.loses += theirs.loses;
            mine.off += theirs.off;
            mine.dropped &= theirs.dropped;
            mine.to.extend(theirs.to);
            mine.beaten_by.extend(theirs.beaten_by);
            mine.idle += theirs.idle;
            mine.applies_not |= theirs.applies_not;
            mine.why_idle = mine.why_idle.take().into_iter().chain(theirs.why_idle).min();
        }
    }
}

/// What is set on elements and does nothing there, by the place of the declaration: on how many, and why.
fn idle(study: &Study, by_view: &FxHashSet<ElementId>) -> BTreeMap<Place, (usize, String)> {
    let mut found: BTreeMap<Place, (usize, String)> = BTreeMap::new();
    for element in study.document().all_ids() {
        let around = study.page.document.flat_parent(element);
        // What is not shown now may be shown later, and what is another box at another width may do something there.
        let hidden = study.value(element, "display").as_deref() == Some("none");
        if hidden || by_view.contains(&element) || around.is_some_and(|e| by_view.contains(&e)) {
            continue;
        }
        let mut here: BTreeMap<Place, String> = BTreeMap::new();
        let none = study.without_effect(element).unwrap_or_default();
        // Browsers draw an outline around what has the focus.
        for none in none.into_iter().filter(|n| !n.property.starts_with("outline")) {
            here.entry(none.at).or_insert(none.reason);
        }
        for (at, reason) in here {
            let one = found.entry(at).or_insert_with(|| (0, reason.clone()));
            one.0 += 1;
            one.1 = std::mem::take(&mut one.1).min(reason);
        }
    }
    found
}

/// For lines of JSON: what is nothing is left out.
fn is_default<T: Default + PartialEq>(value: &T) -> bool {
    *value == T::default()
}

/// Whether a condition is on a state that people or scripts change.
fn is_state(simple: &Simple) -> bool {
    matches!(simple, Simple::PseudoClass(PseudoClass::State(state)) if !matches!(state, State::AnyLink | State::Link))
        || matches!(simple, Simple::PseudoClass(PseudoClass::Never(_)))
        || matches!(simple, Simple::Attribute(test) if STATES.contains(&&*test.name))
}

/// Attributes that scripts or browsers change as people use a page.
const STATES: &[&str] = &["open", "hidden", "disabled", "checked", "selected"];

/// The classes and ids that selectors name, those in `:is()`, `:not()` and the like among them.
fn names(list: &SelectorList) -> BTreeSet<String> {
    let name = |simple: &Simple| match simple {
        Simple::Class(name) => Some(format!(".{name}")),
        Simple::Id(name) => Some(format!("#{name}")),
        Simple::Type(_, _, name) => {
            let none = !markup::is_element(name) && !name.contains('-');
            none.then(|| markup::near_element(name)).flatten().map(|_| format!("<{name}"))
        }
        // A part of a class, as in `[class*="col-"]`.
        Simple::Attribute(test) if &*test.name == "class" => test.test.as_ref().map(|(_, part)| format!("*{part}")),
        _ => None,
    };
    list.parts().filter_map(|part| name(&part.simple)).collect()
}
