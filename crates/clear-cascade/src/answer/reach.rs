//! What a selector hits.

use serde::Serialize;

use super::locate::LocateError;
use crate::selector::Specificity;
use crate::source::Place;
use crate::study::Study;

/// What a selector hits on a page.
#[derive(Clone, Debug, Serialize)]
#[non_exhaustive]
pub struct Reach {
    /// The selector as given.
    pub selector: String,
    /// Its weight; of a list, the heaviest.
    pub specificity: [u32; 3],
    /// What it says in plain words.
    pub reading: String,
    /// What each part adds to the weight.
    pub parts: Vec<Part>,
    /// The elements it takes, in document order.
    pub elements: Vec<Hit>,
    /// Where it takes nothing: what may be meant.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub hint: Option<String>,
}

/// A part of a selector and what it adds to the weight.
#[derive(Clone, Debug, Serialize)]
pub struct Part {
    /// The part as written.
    pub text: String,
    /// What it adds.
    pub specificity: [u32; 3],
}

/// An element that a selector takes.
#[derive(Clone, Debug, Serialize)]
pub struct Hit {
    /// Its number.
    pub element: u32,
    /// Its label.
    pub label: String,
    /// Where it is written.
    #[serde(serialize_with = "as_text")]
    pub at: Place,
}

/// A place as `FILE:LINE:COLUMN`.
fn as_text<S: serde::Serializer>(place: &Place, serializer: S) -> Result<S::Ok, S::Error> {
    serializer.collect_str(place)
}

impl Study {
    /// What a selector hits; a selector that hits nothing has an empty answer with a hint.
    ///
    /// # Errors
    /// Where the text is no selector.
    pub fn reach(&self, text: &str) -> Result<Reach, LocateError> {
        let list = self.parse_selector(text)?;
        let matcher = self.matcher();
        let hit = |e| Hit {
            element: crate::document::ElementId::number(e),
            label: self.document.label(e),
            at: self.sources.place(self.document.span(e)),
        };
        let elements: Vec<Hit> = self.document.ids().filter(|e| matcher.any(&list, *e)).map(hit).collect();
        let heaviest = list.selectors.iter().map(|s| s.specificity).max().unwrap_or_default();
        let parts = list.selectors.iter().flat_map(|s| &s.compounds).flat_map(|c| &c.parts);
        let written =
            |span: crate::source::Span| text.get(span.start as usize..span.end as usize).unwrap_or_default().to_owned();
        let parts =
            parts.map(|p| Part { text: written(p.span), specificity: Specificity::columns(p.simple.specificity()) });
        Ok(Reach {
            selector: text.trim().to_owned(),
            specificity: heaviest.columns(),
            reading: list.selectors.iter().map(crate::selector::Selector::read_aloud).collect::<Vec<_>>().join(", or "),
            parts: parts.collect(),
            hint: if elements.is_empty() { self.nearest_name(&list) } else { None },
            elements,
        })
    }
}
