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

use url::Url;

use self::edits::Edits;
use self::patch::reread;
use super::{PlaceError, Study};
use crate::document::{Document, ElementId};
use crate::source::{LoadError, Loaded, Loader, Place, Span, offset};

/// A change that is tried.
#[derive(Clone, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub enum Change {
    /// A rule put after all sheets of the page, or into a file, at its end or before the rule at a line.
    Rule {
        /// The rule: `.menu a { color: gold }`.
        text: String,
        /// Where it is put: a file of the page, and a line there, from 1.
        into: Option<(String, Option<u32>)>,
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
        value: Option<String>,
    },
    /// The text of elements that hold nothing but text.
    Text {
        /// The elements.
        elements: Vec<ElementId>,
        /// The text, not as HTML.
        text: String,
    },
    /// Another value in the declaration at a line and column from 1.
    Value {
        /// The file.
        file: String,
        /// The line.
        line: u32,
        /// The column.
        column: Option<u32>,
        /// The value, with `!important` or without.
        by: String,
    },
    /// A declaration cut out, or a rule, at a line and column from 1.
    Cut {
        /// The file.
        file: String,
        /// The line.
        line: u32,
        /// The column.
        column: Option<u32>,
    },
    /// The selectors of the rule at a line and column replaced.
    Selectors {
        /// The file.
        file: String,
        /// The line.
        line: u32,
        /// The column of the rule's selectors.
        column: u32,
        /// The new selectors.
        by: String,
    },
    /// The declaration at a line and column made important, or made so no more.
    Important {
        /// The file.
        file: String,
        /// The line.
        line: u32,
        /// The column of the declaration.
        column: u32,
        /// Whether it is made important.
        on: bool,
    },
    /// A stylesheet left out, by its file: its `<link>`, `<style>` or `@import` is cut out.
    WithoutSheet(String),
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
    /// A rule moved before the rule at another line, of the same or another file; past the last line, to the end.
    Move {
        /// The file and line of the rule.
        from: (String, u32),
        /// The file and line it is moved to.
        to: (String, u32),
    },
}

/// Why a change cannot be tried.
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
}

/// A text as it was and as it would be.
#[derive(Clone, Debug)]
pub struct Edit {
    /// The name of the text.
    pub file: String,
    /// The text as it is, without a byte order mark.
    pub before: Arc<str>,
    /// The text as it would be.
    pub after: String,
}

/// A page as it would be.
#[derive(Debug)]
pub struct Trial {
    /// The page with the changes.
    pub study: Study,
    /// The texts that change.
    pub edits: Vec<Edit>,
    /// By element of the page as it is, the same one in the page as it would be.
    paired: Vec<Option<ElementId>>,
}

impl Trial {
    /// The element that an element of the page as it is would be; nothing where it would be gone.
    #[must_use]
    pub fn element(&self, id: ElementId) -> Option<ElementId> {
        self.paired.get(id.index()).copied().flatten()
    }

    /// Makes the study of the edited texts.
    fn of(mut edited: Edits<'_>, loader: &dyn Loader) -> Result<Self, TrialError> {
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
            let overlap = list.windows(2).find(|w| w[1].0.start < w[0].0.end);
            if let Some([(range, _), _]) = overlap {
                let span = Span { source: *id, start: range.start, end: range.end };
                return Err(TrialError::Overlap(study.sources.place(span)));
            }
            let source = study.sources.get(*id);
            let edited = source.with_edits(list);
            let after = edited.text.to_string();
            let new = sources.add(edited);
            if *id == study.page.document.source {
                document = Arc::new(crate::document::parse(new, &after));
                parsed.inside.clear();
                moved.clone_from(list);
            } else {
                reread(&mut parsed, (*id, new), &source.text, (&after, list), study.page.document.quirks);
            }
            edits.push(Edit { file: source.name.clone(), before: source.text.clone(), after });
        }
        let same_page = Arc::ptr_eq(&document, &study.page.document);
        let paired = if same_page {
            study.page.document.all_ids().map(Some).collect()
        } else {
            pair(&study.page.document, &document, &moved)
        };
        // States are of elements, which may have other numbers now.
        let states = &mut options.viewing.states;
        for list in [&mut states.hover, &mut states.active, &mut states.focus, &mut states.visited, &mut states.target]
        {
            *list = list.iter().filter_map(|e| paired[e.index()]).collect();
        }
        let mut then = Study::assemble(sources, document, loader, study.url.clone(), options, &parsed);
        if same_page {
            reach::take_over(study, &mut then);
        }
        Ok(Self { study: then, edits, paired })
    }
}

/// Loads nothing: what a trial needs has been loaded.
struct Nowhere;

impl Loader for Nowhere {
    fn load(&self, _: &Url) -> Result<Loaded, LoadError> {
        Err(LoadError::Network("it was not loaded with the page".to_owned()))
    }
}

impl Study {
    /// The page as it would be after some changes. A sheet that the page does not have yet comes from `loader`.
    ///
    /// # Errors
    /// Where a change names nothing that is there, or its text is none.
    pub fn attempt_with(&self, loader: &dyn Loader, changes: &[Change]) -> Result<Trial, TrialError> {
        // Where a part of a sheet was read anew, its places are in another text than those of the rest.
        let whole = self.parsed.is_patched().then(|| self.read_whole());
        let study = whole.as_ref().unwrap_or(self);
        let mut edits = Edits::new(study);
        for change in changes {
            edits.change(change)?;
        }
        edits.write_attributes()?;
        Trial::of(edits, loader)
    }

    /// The same where no new sheet is asked for.
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
        let element = new.element(id);
        if let Some(tag) = element.tag {
            by_tag.entry((tag.start, &element.name)).or_default().push(id);
        }
    }
    let mut paired: Vec<Option<ElementId>> = Vec::with_capacity(old.count());
    let mut used = vec![false; new.count()];
    for id in old.all_ids() {
        let element = old.element(id);
        let found = match element.tag {
            Some(tag) => shifted(tag.start)
                .and_then(|at| by_tag.get(&(at, &*element.name)))
                .and_then(|list| list.iter().copied().find(|e| !used[e.index()])),
            None => {
                let parent = element.parent.and_then(|p| paired.get(p.index()).copied().flatten());
                let fits = |e: &ElementId| {
                    let other = new.element(*e);
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
