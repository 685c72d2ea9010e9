//! Trials: a page as it would be after some changes, without writing a file.
//!
//! What comes in: a study and a list of [`Change`]s. What goes out: a [`Trial`], with a study of its own that shares all
//! that did not change, and the [`Edit`]s of the texts that make the changes permanent. Each change is an edit of a text, so
//! that a trial is what the page would be with the edited files, by the way it is made.

mod edits;
mod patch;
mod reach;

use std::collections::HashMap;
use std::ops::Range;
use std::sync::Arc;

use bytestring::ByteString;

use url::Url;

use self::edits::Edits;
use self::patch::reread;
use super::{PlaceError, Study};
use serde::{Deserialize, Serialize};

use crate::document::{Document, ElementId, ForeignElement};
use crate::source::{LoadError, Loaded, Loader, Place, Source, Span, offset};

/// A change that is tried. Files are named as questions name them, and places are those that answers give.
///
/// In JSON a change is an object whose key `change` says which it is, as in `{"change": "cut", "at": "theme.css:31:3"}`.
///
/// ```
/// use clear_cascade::{MemoryLoader, Study};
/// let files = MemoryLoader::default().with("a.html", "<!DOCTYPE html><style>p { color: navy } #x { top: 1px }</style><p id=x class='a b' title=hi>Hello <b>you</b>");
/// let page = Study::open(&files, "a.html").unwrap();
///
/// use clear_cascade::{Change, RulePlace};
/// let p = page.select("p")?;
/// let changes = [
///     Change::Rule { text: "b { color: red }".to_owned(), to: RulePlace::AfterAll },
///     Change::Attach { elements: p.clone(), declarations: "margin: 0".to_owned() },
///     Change::Class { elements: p.clone(), class: "a".to_owned(), on: false },
///     Change::Value { at: "a.html:1:27".parse()?, by: "gold".to_owned() },
/// ];
/// let trial = page.attempt(&changes)?;
/// assert_eq!(trial.study.value(trial.element(p[0]).unwrap(), "color").as_deref(), Some("rgb(255, 215, 0)"));
/// assert_eq!(serde_json::to_string(&changes[3])?, r#"{"change":"value","at":"a.html:1:27","by":"gold"}"#);
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(tag = "change", rename_all = "kebab-case")]
#[non_exhaustive]
pub enum Change {
    /// A rule put in.
    Rule {
        /// The rule: `.menu a { color: gold }`.
        text: String,
        /// Where it is put.
        to: RulePlace,
    },
    /// Declarations put at the end of the `style` attribute of elements.
    Attach {
        /// The elements.
        elements: Vec<ElementId>,
        /// The declarations: `color: gold; margin: 0`.
        declarations: String,
    },
    /// A class put on elements or taken off.
    Class {
        /// The elements.
        elements: Vec<ElementId>,
        /// The class.
        class: String,
        /// Whether it is put on.
        on: bool,
    },
    /// All classes of elements set, in their order.
    Classes {
        /// The elements.
        elements: Vec<ElementId>,
        /// The classes, with spaces between them.
        classes: String,
    },
    /// An attribute of elements set, or taken off.
    Attribute {
        /// The elements.
        elements: Vec<ElementId>,
        /// The name of the attribute.
        name: String,
        /// Its value; nothing where it is taken off.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        value: Option<String>,
    },
    /// The text of elements that hold nothing but text.
    Text {
        /// The elements.
        elements: Vec<ElementId>,
        /// The text, not as HTML.
        text: String,
    },
    /// Another value in a declaration.
    Value {
        /// A place in the declaration.
        at: Place,
        /// The value, with `!important` or without.
        by: String,
    },
    /// Another property for the value of a declaration.
    Property {
        /// A place in the declaration.
        at: Place,
        /// The property.
        by: String,
    },
    /// A declaration cut out, or a rule.
    Cut {
        /// A place in the declaration, or in the selectors of the rule.
        at: Place,
    },
    /// The selectors of a rule replaced.
    Selectors {
        /// A place in the selectors.
        at: Place,
        /// The new selectors.
        by: String,
    },
    /// A declaration made important, or made so no more.
    Important {
        /// A place in the declaration.
        at: Place,
        /// Whether it is made important.
        on: bool,
    },
    /// A stylesheet left out: its `<link>`, `<style>` or `@import` is cut out.
    WithoutSheet {
        /// The file of the sheet.
        file: String,
    },
    /// The page's own styles left out.
    WithoutAuthor,
    /// Browser defaults left out.
    WithoutDefaults,
    /// Another stylesheet in the place of one.
    Replace {
        /// The file that is replaced.
        file: String,
        /// The path of the other from the top of the site.
        by: String,
    },
    /// A stylesheet moved before another one of the page: what brings the one is put before what brings the other.
    MoveSheet {
        /// The file that is moved.
        file: String,
        /// The file that it is moved before.
        before: String,
    },
    /// A rule moved before another one, of the same or another file; past the last line, to the end.
    Move {
        /// A place in the rule.
        from: Place,
        /// A place in the rule that it is moved before.
        to: Place,
    },
}

impl Change {
    /// The same change with the ids of a page, where they may be of it.
    fn on_page(&self, document: &Document) -> Result<Self, ForeignElement> {
        let mut change = self.clone();
        match &mut change {
            Self::Attach { elements, .. }
            | Self::Class { elements, .. }
            | Self::Classes { elements, .. }
            | Self::Attribute { elements, .. }
            | Self::Text { elements, .. } => {
                for element in elements {
                    *element = document.own(*element)?;
                }
            }
            _ => {}
        }
        Ok(change)
    }
}

/// Where a rule is put.
///
/// ```
/// use clear_cascade::{MemoryLoader, Study};
/// let files = MemoryLoader::default().with("a.html", "<!DOCTYPE html><style>p { color: navy }</style><p>a</p><p>b</p>");
/// let page = Study::open(&files, "a.html")?;
/// use clear_cascade::{Change, RulePlace};
/// let rule = Change::Rule { text: "p { top: 1px }".to_owned(), to: RulePlace::EndOf("a.html".to_owned()) };
/// let trial = page.attempt(&[rule])?;
/// assert!(trial.edits[0].after.contains("p { top: 1px }"));
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(rename_all = "kebab-case")]
#[non_exhaustive]
pub enum RulePlace {
    /// After all sheets of the page.
    #[default]
    AfterAll,
    /// At the end of a file.
    EndOf(String),
    /// Before the rule at a place; at the end of the file where no rule is there.
    Before(Place),
}

/// Why a change cannot be tried.
///
/// ```
/// # use clear_cascade::{MemoryLoader, Study};
/// # let files = MemoryLoader::default().with(
/// #     "a.html",
/// #     "<!DOCTYPE html><style>p { color: navy; margin: 1px } .lead { color: gold } p::before { content: '*' } b { widht: 2px; width: 3px }
/// #     @media print { p { color: black } }</style><body><p id=one class=lead>Hello <b>you</b></p><p id=two>Bye</p></body>",
/// # );
/// # let page = Study::open(&files, "a.html")?;
/// use clear_cascade::{Change, TrialError};
/// let cut = Change::Cut { at: "a.html:99".parse()? };
/// let error = page.attempt(&[cut]).unwrap_err();
/// assert!(matches!(error, TrialError::Nothing { line: 99, .. } | TrialError::Place(_)));
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
#[non_exhaustive]
pub enum TrialError {
    /// No text of the page has this name, or several may be meant.
    #[error(transparent)]
    Place(#[from] PlaceError),
    /// Nothing that can be cut or moved is written there.
    #[error("no {what} is written at {file}:{line}")]
    Nothing {
        /// What was looked for.
        what: &'static str,
        /// The file.
        file: String,
        /// The line.
        line: u32,
    },
    /// Several declarations are on a line.
    #[error("{count} declarations start at {file}:{line}; add a column: {}", columns.join(", "))]
    Several {
        /// How many.
        count: usize,
        /// The file.
        file: String,
        /// The line.
        line: u32,
        /// The columns at which they start.
        columns: Vec<String>,
    },
    /// The text of a rule or of declarations is none.
    #[error("{0}")]
    Text(String),
    /// The file of a change cannot be edited.
    #[error("{0} cannot be edited: {1}")]
    Fixed(String, &'static str),
    /// Two changes are about the same text.
    #[error("two changes are about the same text at {0}")]
    Overlap(Place),
    /// The other sheet cannot be had.
    #[error("{0}")]
    Load(#[from] LoadError),
    /// An element is of another page.
    #[error(transparent)]
    Foreign(#[from] ForeignElement),
}

/// A text as it was and as it would be.
///
/// ```
/// use clear_cascade::{MemoryLoader, Study};
/// let files = MemoryLoader::default().with("a.html", "<!DOCTYPE html><style>p { color: navy }</style><p>a</p><p>b</p>");
/// let page = Study::open(&files, "a.html")?;
/// use clear_cascade::Change;
/// let paint = [Change::Value { at: "a.html:1:27".parse()?, by: "teal".to_owned() }];
/// let edit = page.attempt(&paint)?.edits.remove(0);
/// assert_eq!(edit.file, "a.html");
/// assert!(edit.after.contains("teal") && !edit.before.contains("teal"));
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Debug)]
pub struct Edit {
    /// The name of the text.
    pub file: String,
    /// The text as it is, without a byte order mark.
    pub before: ByteString,
    /// The text as it would be.
    pub after: String,
    /// What is replaced, in order, and what is put there.
    parts: Vec<(Range<u32>, String)>,
    /// Both texts with the lines in them.
    sources: [Source; 2],
}

/// A page as it would be.
///
/// ```
/// use clear_cascade::{MemoryLoader, Study};
/// let files = MemoryLoader::default().with("a.html", "<!DOCTYPE html><style>p { color: navy } #x { top: 1px }</style><p id=x class='a b' title=hi>Hello <b>you</b>");
/// let page = Study::open(&files, "a.html").unwrap();
///
/// use clear_cascade::Change;
/// let trial = page.attempt(&[Change::Cut { at: "a.html:1:27".parse()? }])?;
/// let p = page.select("p")?[0];
/// assert_eq!(trial.study.value(trial.element(p).unwrap(), "color").as_deref(), Some("rgb(0, 0, 0)"));
/// assert_eq!((trial.edits.len(), trial.changes().len()), (1, 1));
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Debug)]
pub struct Trial {
    /// The page with the changes.
    pub study: Study,
    /// The texts that change.
    pub edits: Vec<Edit>,
    /// The changes that were made.
    changes: Vec<Change>,
    /// The page as it is: its elements.
    before: Arc<Document>,
    /// By element of the page as it is, the same one in the page as it would be.
    paired: Vec<Option<ElementId>>,
}

impl Trial {
    /// The element that an element of the page as it is would be; nothing where it would be gone.
    #[must_use]
    pub fn element(&self, id: ElementId) -> Option<ElementId> {
        self.paired.get(self.before.own(id).ok()?.index()).copied().flatten()
    }

    /// Whether it was made of a page with these elements.
    pub(crate) fn is_of(&self, document: &Document) -> bool {
        document.own(self.before.root()).is_ok() && document.count() == self.before.count()
    }

    /// The changes that were made, in their order.
    #[must_use]
    pub fn changes(&self) -> &[Change] {
        &self.changes
    }

    /// Where what stands at a place of a file stands in the file as it would be; nothing where it would be gone, or the file is
    /// none that changes. Places that answers about a trial give are those of the file as it is.
    ///
    /// ```
    /// use clear_cascade::source::Place;
    /// use clear_cascade::{Change, MemoryLoader, Study};
    /// let files = MemoryLoader::default()
    ///     .with("a.html", "<link rel=stylesheet href=a.css><p>Hello")
    ///     .with("a.css", "p { margin: 0 }\np { color: navy }\n");
    /// let page = Study::open(&files, "a.html").unwrap();
    /// let trial = page.attempt(&[Change::Cut { at: Place::line("a.css", 1).with_column(1) }]).unwrap();
    /// let color = Place::line("a.css", 2).with_column(5);
    /// assert_eq!(trial.moved_to(&color).unwrap().to_string(), "a.css:1:5");
    /// ```
    #[must_use]
    pub fn moved_to(&self, place: &Place) -> Option<Place> {
        let edit = self.edits.iter().find(|e| e.file == place.file)?;
        let [before, after] = &edit.sources;
        let byte = before.byte_at(place.line, place.column.unwrap_or(1))?;
        let mut shift = i64::from(byte);
        for (range, put_in) in &edit.parts {
            if range.contains(&byte) {
                return None;
            }
            if range.end <= byte {
                shift += i64::from(offset(put_in.len())) - i64::from(range.end - range.start);
            }
        }
        let (line, column) = after.line_column(u32::try_from(shift).ok()?);
        Some(Place { file: place.file.clone(), line, column: place.column.map(|_| column) })
    }

    /// Makes the study of the edited texts.
    fn of(mut edited: Edits<'_>, loader: &dyn Loader, changes: Vec<Change>) -> Result<Self, TrialError> {
        let study = edited.study;
        let mut sources = study.sources.clone();
        let mut parsed = study.parsed.clone();
        let mut options = study.options.clone();
        options.author &= edited.author;
        options.defaults &= edited.defaults;
        let mut edits = Vec::new();
        let mut document = study.page.document.clone();
        let mut moved: Vec<(Range<u32>, String)> = Vec::new();
        for (id, list) in &mut edited.list {
            list.sort_by_key(|(range, _)| (range.start, range.end));
            // What is cut side by side may share the white space between.
            list.dedup_by(|(next, put_in), (range, before)| {
                let both_cut = put_in.is_empty() && before.is_empty() && next.start < range.end;
                if both_cut {
                    range.end = range.end.max(next.end);
                }
                both_cut
            });
            let overlap = list.windows(2).find(|w| w[1].0.start < w[0].0.end);
            if let Some([(range, _), _]) = overlap {
                let span = Span { source: *id, start: range.start, end: range.end };
                return Err(TrialError::Overlap(study.sources.placed(span)));
            }
            let source = study.sources.at(*id);
            let edited = source.with_edits(list);
            let after = edited.text.to_string();
            let both = [source.clone(), edited.clone()];
            let new = sources.add(edited);
            if *id == study.page.document.source {
                document = Arc::new(crate::document::parse(new, &after));
                parsed.inside.clear();
                parsed.styled = None;
                moved.clone_from(list);
            } else {
                reread(&mut parsed, (*id, new), &source.text, (&after, list), study.page.document.quirks);
            }
            let parts = list.clone();
            edits.push(Edit { file: source.name.clone(), before: source.text.clone(), after, parts, sources: both });
        }
        let same_page = Arc::ptr_eq(&document, &study.page.document);
        let paired = if same_page {
            study.page.document.all_ids().map(Some).collect()
        } else {
            pair(&study.page.document, &document, &moved)
        };
        // States are of elements, which may have other numbers now.
        for list in options.viewing.states.lists() {
            *list = list.iter().filter_map(|e| paired[e.index()]).collect();
        }
        let mut then = Study::assemble(sources, document, loader, study.url.clone(), options, &parsed);
        if same_page {
            reach::take_over(study, &mut then);
        }
        let before = study.page.document.clone();
        Ok(Self { study: then, edits, changes, before, paired })
    }
}

/// Loads nothing: what a trial needs has been loaded.
pub(super) struct Nowhere;

impl Loader for Nowhere {
    fn load(&self, _: &Url) -> Result<Loaded, LoadError> {
        Err(LoadError::Network("it was not loaded with the page".to_owned()))
    }
}

impl Study {
    /// The page as it would be after some changes. A sheet that the page does not have yet comes from `loader`.
    ///
    /// ```
    /// use clear_cascade::{MemoryLoader, Study};
    /// # let files = MemoryLoader::default().with(
    /// #     "a.html",
    /// #     "<!DOCTYPE html><style>p { color: navy; margin: 1px } .lead { color: gold } p::before { content: '*' } b { widht: 2px; width: 3px }
    /// #     @media print { p { color: black } }</style><body><p id=one class=lead>Hello <b>you</b></p><p id=two>Bye</p></body>",
    /// # );
    /// let page = Study::open(&files, "a.html").unwrap();
    /// use clear_cascade::Change;
    /// let files = MemoryLoader::default()
    ///     .with("b.html", "<link rel=stylesheet href=day.css><p>")
    ///     .with("day.css", "p { color: navy }")
    ///     .with("night.css", "p { color: gold }");
    /// let page = Study::open(&files, "b.html")?;
    /// let change = Change::Replace { file: "day.css".to_owned(), by: "night.css".to_owned() };
    /// let trial = page.attempt_with(&files, &[change])?;
    /// assert_eq!(trial.study.value(trial.study.select("p")?[0], "color").as_deref(), Some("rgb(255, 215, 0)"));
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    ///
    /// # Errors
    /// Where a change names nothing that is there, or its text is none.
    pub fn attempt_with(&self, loader: &dyn Loader, changes: &[Change]) -> Result<Trial, TrialError> {
        // Where a part of a sheet was read anew, its places are in another text than those of the rest.
        let whole = self.parsed.is_patched().then(|| self.read_whole());
        let study = whole.as_ref().unwrap_or(self);
        let changes: Vec<Change> = changes.iter().map(|c| c.on_page(&study.page.document)).collect::<Result<_, _>>()?;
        let mut edits = Edits::new(study);
        changes.iter().try_for_each(|change| edits.change(change))?;
        edits.write_attributes()?;
        Trial::of(edits, loader, changes)
    }

    /// The same where no new sheet is asked for.
    ///
    /// ```
    /// # use clear_cascade::{MemoryLoader, Study};
    /// # let files = MemoryLoader::default().with(
    /// #     "a.html",
    /// #     "<!DOCTYPE html><style>p { color: navy; margin: 1px } .lead { color: gold } p::before { content: '*' } b { widht: 2px; width: 3px }
    /// #     @media print { p { color: black } }</style><body><p id=one class=lead>Hello <b>you</b></p><p id=two>Bye</p></body>",
    /// # );
    /// # let page = Study::open(&files, "a.html").unwrap();
    /// use clear_cascade::{Change, RulePlace};
    /// let change = Change::Rule { text: "b { color: red }".to_owned(), to: RulePlace::AfterAll };
    /// let trial = page.attempt(&[change])?;
    /// let b = trial.element(page.select("b")?[0]).unwrap();
    /// assert_eq!(trial.study.value(b, "color").as_deref(), Some("rgb(255, 0, 0)"));
    /// assert!(trial.edits[0].after.contains("b { color: red }")); // What makes it permanent.
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    ///
    /// # Errors
    /// Where a change names nothing that is there, or its text is none.
    pub fn attempt(&self, changes: &[Change]) -> Result<Trial, TrialError> {
        self.attempt_with(&Nowhere, changes)
    }

    /// The same page with all sheets read from their whole texts.
    fn read_whole(&self) -> Self {
        let mut parsed = self.parsed.clone();
        parsed.read_whole(&self.sources, self.page.document.quirks);
        let (sources, document, options) = (self.sources.clone(), self.page.document.clone(), self.options.clone());
        Self::assemble(sources, document, &Nowhere, self.url.clone(), options, &parsed)
    }
}

/// Pairs the elements of a page with those of the edited page: by where their tags stand; those that the parser implied,
/// by their parent and name.
fn pair(old: &Document, new: &Document, edits: &[(Range<u32>, String)]) -> Vec<Option<ElementId>> {
    let shifted = |at: u32| -> Option<u32> {
        let mut shift: i64 = 0;
        for (range, text) in edits {
            if range.start <= at && at < range.end {
                return None;
            }
            if range.end <= at && range.start < at.max(1) {
                shift += i64::from(offset(text.len())) - i64::from(range.end - range.start);
            }
        }
        u32::try_from(i64::from(at) + shift).ok()
    };
    let mut by_tag: HashMap<(u32, &str), Vec<ElementId>> = HashMap::new();
    for id in new.all_ids() {
        let element = new.node(id);
        if let Some(tag) = element.tag {
            by_tag.entry((tag.start, &element.name)).or_default().push(id);
        }
    }
    let mut paired: Vec<Option<ElementId>> = Vec::with_capacity(old.count());
    let mut used = vec![false; new.count()];
    for id in old.all_ids() {
        let element = old.node(id);
        let found = match element.tag {
            Some(tag) => shifted(tag.start)
                .and_then(|at| by_tag.get(&(at, &*element.name)))
                .and_then(|list| list.iter().copied().find(|e| !used[e.index()])),
            None => {
                let parent = element.parent.and_then(|p| paired.get(p.index()).copied().flatten());
                let fits = |e: &ElementId| {
                    let other = new.node(*e);
                    other.tag.is_none() && other.name == element.name && other.parent == parent && !used[e.index()]
                };
                new.all_ids().find(fits)
            }
        };
        if let Some(found) = found {
            used[found.index()] = true;
        }
        paired.push(found);
    }
    paired
}
