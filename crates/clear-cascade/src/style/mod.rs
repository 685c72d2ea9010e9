//! Computed values: every longhand of every element.
//!
//! What comes in: a study's rules and an element whose parent is done. What goes out: a [`Style`], which shares with its
//! parent and with the initial values all that the element does not set. CSS Cascade 5, §4 "Value Processing".

mod compute;
mod custom;
mod gather;
#[cfg(test)]
mod tests;
mod winners;

pub(crate) use gather::{
    Entry, Matched, Target, add_entries, declared_values, entries_of, matched_in_scope, matched_rules,
};
pub(crate) use winners::{Rollback, Subject, Substituted, compute_style, substituted, substituted_text};

use std::collections::BTreeMap;
use std::sync::{Arc, LazyLock};

use crate::document::{ElementId, Name};
use crate::property::{Flow, PropertyId, id};
use crate::selector::{Matcher, PseudoElement};
use crate::study::Study;
use crate::value::{Context, Value, color::Color};

/// How many longhands share a chunk.
const CHUNK: usize = 16;
/// How many chunks the inherited longhands take.
const INHERITED_CHUNKS: usize = PropertyId::INHERITED.div_ceil(CHUNK);
/// How many chunks there are.
const CHUNKS: usize = INHERITED_CHUNKS + (PropertyId::COUNT - PropertyId::INHERITED).div_ceil(CHUNK);

/// The values of some longhands that stand together in the table.
type Chunk = [Value; CHUNK];

/// The computed values of an element or pseudo-element.
#[derive(Clone, Debug)]
pub(crate) struct Style {
    /// The values of all longhands; chunks are shared as long as nothing in them is set.
    chunks: Vec<Arc<Chunk>>,
    /// Custom properties.
    pub(crate) custom: Arc<BTreeMap<Name, Arc<str>>>,
    /// What relative units are relative to.
    pub(crate) context: Context,
    /// How text flows.
    pub(crate) flow: Flow,
    /// Whether a dark colour scheme is used.
    pub(crate) dark: bool,
    /// How the font size came to be.
    font: compute::FontMemory,
}

/// The chunk of a longhand and its place there.
fn slot(property: PropertyId) -> (usize, usize) {
    let index = property.index();
    let at = if property.inherits() { index } else { index - PropertyId::INHERITED + INHERITED_CHUNKS * CHUNK };
    (at / CHUNK, at % CHUNK)
}

/// The initial values, computed.
static INITIAL: LazyLock<Vec<Arc<Chunk>>> = LazyLock::new(|| {
    let mut chunks: Vec<Chunk> = vec![std::array::from_fn(|_| Value::Delim(' ')); CHUNKS];
    for property in PropertyId::longhands() {
        let (chunk, place) = slot(property);
        chunks[chunk][place] = compute::initial(property);
    }
    chunks.into_iter().map(Arc::new).collect()
});

impl Style {
    /// Where an element starts from: its parent's inherited values, initial values for the rest.
    fn start(parent: Option<&Style>, context: Context) -> Self {
        let mut chunks = INITIAL.clone();
        if let Some(parent) = parent {
            chunks[..INHERITED_CHUNKS].clone_from_slice(&parent.chunks[..INHERITED_CHUNKS]);
        }
        Self {
            chunks,
            custom: Arc::default(),
            context,
            flow: Flow::default(),
            dark: parent.is_some_and(|p| p.dark),
            font: parent.map(|p| p.font).unwrap_or_default(),
        }
    }

    /// The computed value of a longhand; colours may still be `currentcolor`.
    pub(crate) fn get(&self, property: PropertyId) -> &Value {
        let (chunk, place) = slot(property);
        &self.chunks[chunk][place]
    }

    /// Sets a longhand.
    fn set(&mut self, property: PropertyId, value: Value) {
        let (chunk, place) = slot(property);
        if self.chunks[chunk][place] != value {
            Arc::make_mut(&mut self.chunks[chunk])[place] = value;
        }
    }

    /// The same text where it is the same on every element that shares the value; nothing where it depends on the element.
    pub(crate) fn plain_text(&self, property: PropertyId) -> Option<String> {
        let value = self.get(property);
        compute::is_plain(property, value).then(|| value.text())
    }

    /// Whether a longhand has its initial value.
    pub(crate) fn is_initial(&self, property: PropertyId) -> bool {
        let (chunk, place) = slot(property);
        self.chunks[chunk][place] == INITIAL[chunk][place]
    }

    /// The element's colour.
    pub(crate) fn color(&self) -> Color {
        match self.get(id::COLOR) {
            Value::Color(color) => color.resolve(None).unwrap_or(Color::rgb(0.0, 0.0, 0.0, 1.0)),
            _ => Color::rgb(0.0, 0.0, 0.0, 1.0),
        }
    }

    /// The value of a longhand as text, the way `getComputedStyle()` gives computed values: flow-relative longhands as
    /// the physical one they stand for, colours worked out.
    pub(crate) fn text(&self, property: PropertyId) -> String {
        let property = self.flow.physical(property);
        compute::output(self, property, self.get(property)).text()
    }
}

/// Computes an element and the pseudo-elements that are styled on it.
pub(crate) fn of_element(
    study: &Study,
    matcher: &Matcher<'_>,
    id: ElementId,
    parent: Option<&Arc<Style>>,
    root: Option<&Arc<Style>>,
) -> (Arc<Style>, Vec<(PseudoElement, Arc<Style>)>) {
    let matched = matched_rules(study, matcher, id);
    let own = entries_of(study, &matched, None);
    let subject = Subject { study, element: id, pseudo: None };
    let style = Arc::new(compute_style(&subject, &own, parent.map(|p| &**p), root.map(|r| &**r)));
    let mut names: Vec<&PseudoElement> = matched.iter().filter_map(|m| m.pseudo.as_ref()).collect();
    names.sort_by_key(|n| n.to_string());
    names.dedup();
    let root = root.map_or(&*style, |r| &**r);
    let pseudos = names
        .into_iter()
        .map(|name| {
            let entries = entries_of(study, &matched, Some(name));
            let subject = Subject { study, element: id, pseudo: Some(name) };
            (name.clone(), Arc::new(compute_style(&subject, &entries, Some(&style), Some(root))))
        })
        .collect();
    (style, pseudos)
}

/// Pseudo-elements that are boxes of their own where the page styles them (CSS Pseudo 4; HTML, "Rendering").
const STYLED: &[&str] = &[
    "marker",
    "placeholder",
    "first-line",
    "first-letter",
    "selection",
    "backdrop",
    "file-selector-button",
    "details-content",
    "target-text",
];

/// Whether a pseudo-element is there to be styled: `::before` and `::after` with content (CSS Pseudo 4, §4.1), others
/// where the element is of a kind that has them. Whether a box comes of it depends on `display` as for any element.
pub(crate) fn is_generated(
    name: &PseudoElement,
    style: &Style,
    of: &Style,
    element: &crate::document::Element,
) -> bool {
    let content = style.get(id::CONTENT);
    match &*name.name {
        "before" | "after" => !content.is("none") && !content.is("normal"),
        "marker" => of.get(id::DISPLAY).text().contains("list-item"),
        "placeholder" => element.attribute("placeholder").is_some(),
        "file-selector-button" => element.attribute("type").is_some_and(|t| t.eq_ignore_ascii_case("file")),
        "details-content" => element.is_html("details"),
        "backdrop" => element.is_html("dialog") || element.attribute("popover").is_some(),
        other => STYLED.contains(&other),
    }
}
