//! Why a request was not carried out, and how that is told.

use std::io;

use annotate_snippets::{AnnotationKind, Level, Renderer, Snippet};
use clear_cascade::answer::{LocateError, WhyError};

/// Why a request cannot be carried out: one message, with the text it is about where there is one.
#[derive(Debug)]
pub(crate) struct Refusal {
    /// What is wrong, as one clause.
    pub(crate) message: String,
    /// What was probably meant.
    pub(crate) hint: Option<String>,
    /// The text of the question, and the bytes of it that are wrong.
    pub(crate) part: Option<(String, std::ops::Range<usize>)>,
}

impl Refusal {
    /// A message alone.
    pub(crate) fn new(message: impl Into<String>) -> Self {
        Self { message: message.into(), hint: None, part: None }
    }
}

impl From<LocateError> for Refusal {
    fn from(error: LocateError) -> Self {
        match error {
            LocateError::Selector { error, text } => {
                let range = error.span.start as usize..error.span.end as usize;
                Self { message: error.message, hint: error.hint, part: Some((text, range)) }
            }
            LocateError::Nothing { selector, hint } => {
                Self { message: format!("`{selector}` takes no element of the page"), hint, part: None }
            }
            other => Self::new(other.to_string()),
        }
    }
}

/// Why a request was not carried out.
#[derive(Debug)]
pub(crate) enum Failure {
    /// It cannot be.
    Refused(Refusal),
    /// The answer could not be written.
    Output(io::Error),
}

impl From<Refusal> for Failure {
    fn from(refusal: Refusal) -> Self {
        Self::Refused(refusal)
    }
}

impl From<io::Error> for Failure {
    fn from(error: io::Error) -> Self {
        Self::Output(error)
    }
}

impl From<LocateError> for Failure {
    fn from(error: LocateError) -> Self {
        Self::Refused(error.into())
    }
}

impl From<clear_cascade::document::ForeignElement> for Failure {
    fn from(error: clear_cascade::document::ForeignElement) -> Self {
        Self::Refused(Refusal::new(error.to_string()))
    }
}

impl From<WhyError> for Failure {
    fn from(error: WhyError) -> Self {
        Self::Refused(match error {
            WhyError::Property { name, hint } => {
                Refusal { hint, ..Refusal::new(format!("there is no property `{name}`")) }
            }
            other => Refusal::new(other.to_string()),
        })
    }
}

/// What is told where an answer could not be written; nothing where its reader has gone, such as `head`: there is nobody to tell.
pub(crate) fn unwritten(error: &io::Error) -> Option<String> {
    let gone = error.kind() == io::ErrorKind::BrokenPipe;
    (!gone).then(|| explain(&Refusal::new(format!("the answer could not be written: {error}"))))
}

/// One message with the text it is about.
pub(crate) fn explain(refusal: &Refusal) -> String {
    let message = crate::paint::clean(&refusal.message);
    let title = Level::ERROR.primary_title(message.as_str());
    let hint = refusal.hint.as_deref().map(crate::paint::clean);
    let renderer = Renderer::styled();
    match &refusal.part {
        Some((text, range)) => {
            let end = range.end.max(range.start + 1).min(text.len().max(range.start));
            let snippet = Snippet::source(text.as_str()).annotation(AnnotationKind::Primary.span(range.start..end));
            let mut group = title.element(snippet);
            if let Some(hint) = &hint {
                group = group.element(Level::HELP.message(hint.as_str()));
            }
            renderer.render(&[group])
        }
        None => match &hint {
            Some(hint) => renderer.render(&[title.element(Level::HELP.message(hint.as_str()))]),
            None => renderer.render(&[annotate_snippets::Group::with_title(title)]),
        },
    }
}
