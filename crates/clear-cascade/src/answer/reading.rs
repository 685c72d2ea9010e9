//! Reading one element: every value that is not the initial one, and who gave it.

use rustc_hash::FxHashMap;
use serde::{Deserialize, Serialize};

use super::why::ValueFrom;
use crate::cascade::Origin;
use crate::document::{ElementId, ForeignElement, Name};
use crate::property::Declared;
use crate::property::PropertyId;
use crate::selector::PseudoElement;
use crate::source::Place;
use crate::study::Study;
use crate::style::{self, Outright, Target};
use crate::value::Wide;

/// A value and who gave it.
///
/// ```
/// # use clear_cascade::{MemoryLoader, Study};
/// # let files = MemoryLoader::default().with(
/// #     "a.html",
/// #     "<!DOCTYPE html><style>p { color: navy; margin: 1px } .lead { color: gold } p::before { content: '*' } b { widht: 2px; width: 3px }
/// #     @media print { p { color: black } }</style><body><p id=one class=lead>Hello <b>you</b></p><p id=two>Bye</p></body>",
/// # );
/// # let page = Study::open(&files, "a.html")?;
/// let one = page.select("#one")?[0];
/// let readings = page.read(one)?;
/// let color = readings.iter().find(|reading| reading.property == "color").unwrap();
/// assert_eq!(color.value, "rgb(255, 215, 0)");
/// assert!(color.by.contains(".lead"));
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Debug, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct Reading {
    /// The property.
    pub property: String,
    /// Its computed value.
    pub value: String,
    /// Where the value comes from.
    pub from: ValueFrom,
    /// Whose declaration gives it; nothing where it is inherited or initial.
    pub origin: Option<Origin>,
    /// What gives it, in a few words: a selector, or the ancestor it is inherited from.
    pub by: String,
    /// Where that is written.
    pub at: Option<Place>,
}

impl Study {
    /// The values of an element that are not initial ones, or that the page made initial, in the order of their names, custom
    /// properties last.
    ///
    /// ```
    /// # use clear_cascade::{MemoryLoader, Study};
    /// # let files = MemoryLoader::default().with(
    /// #     "a.html",
    /// #     "<!DOCTYPE html><style>p { color: navy; margin: 1px } .lead { color: gold } p::before { content: '*' } b { widht: 2px; width: 3px }
    /// #     @media print { p { color: black } }</style><body><p id=one class=lead>Hello <b>you</b></p><p id=two>Bye</p></body>",
    /// # );
    /// # let page = Study::open(&files, "a.html").unwrap();
    /// let readings = page.read(page.select("#two")?[0])?;
    /// let color = readings.iter().find(|r| r.property == "color").unwrap();
    /// assert_eq!((color.value.as_str(), color.by.as_str()), ("rgb(0, 0, 128)", "p"));
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    ///
    /// # Errors
    /// Where the element is of another page.
    pub fn read(&self, element: ElementId) -> Result<Vec<Reading>, ForeignElement> {
        self.read_of(element, None)
    }

    /// The same for a pseudo-element, whether it is there or not.
    ///
    /// ```
    /// # use clear_cascade::{MemoryLoader, Study};
    /// # let files = MemoryLoader::default().with(
    /// #     "a.html",
    /// #     "<!DOCTYPE html><style>p { color: navy; margin: 1px } .lead { color: gold } p::before { content: '*' } b { widht: 2px; width: 3px }
    /// #     @media print { p { color: black } }</style><body><p id=one class=lead>Hello <b>you</b></p><p id=two>Bye</p></body>",
    /// # );
    /// # let page = Study::open(&files, "a.html").unwrap();
    /// let readings = page.read_of(page.select("#two")?[0], Some(&"::before".parse()?))?;
    /// let color = readings.iter().find(|r| r.property == "color").unwrap();
    /// assert_eq!((color.value.as_str(), color.by.as_str()), ("rgb(0, 0, 128)", "p#two"));
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    ///
    /// # Errors
    /// Where the element is of another page.
    pub fn read_of(&self, element: ElementId, pseudo: Option<&PseudoElement>) -> Result<Vec<Reading>, ForeignElement> {
        Ok(self.readings(self.page.document.own(element)?, pseudo))
    }

    /// The same for an element of this page.
    fn readings(&self, element: ElementId, pseudo: Option<&PseudoElement>) -> Vec<Reading> {
        let style = self.style_of(element, pseudo);
        let (_, entries) = self.entries(element, pseudo);
        let parent = self.page.document.flat_lineage(element).nth(usize::from(pseudo.is_none())).map(|p| self.style(p));
        let mut readings = Vec::new();
        let mut longhands: Vec<PropertyId> =
            PropertyId::longhands().filter(|p| style.flow.physical(*p) == *p).collect();
        longhands.sort_by_key(|p| p.name());
        for property in longhands {
            let value = style.text(property);
            let sets = |target: Target<'_>| matches!(target, Target::Longhand(p) if style.flow.physical(p) == property);
            let winner = entries.iter().rev().find(|e| sets(e.property));
            // A shorthand resets much that nobody meant to say: worth a line is what a longhand says outright, and what
            // would be another value but for the page.
            let told = winner.filter(|w| w.origin() != Origin::Defaults).is_some_and(|w| {
                let named = matches!(&w.declaration.property, crate::stylesheet::Property::Known(p) if p.is_longhand());
                let changes = |e: &style::Entry<'_>| {
                    sets(e.property)
                        && e.origin() == Origin::Defaults
                        && !matches!(e.declared, Some(Declared::Value(v)) if *v == property.initial())
                };
                let by_default = || entries.iter().any(changes);
                let inherited = || parent.is_some_and(|p| property.inherits() && p.text(property) != value);
                named || by_default() || inherited()
            });
            if style.is_initial(property) && !told {
                continue;
            }
            readings.push(self.reading((element, pseudo), property.name(), value, winner, property.inherits()));
        }
        let custom = entries.iter().filter_map(|e| match e.property {
            Target::Custom(name) => Some((name, e)),
            Target::Longhand(_) => None,
        });
        // Of several the last is the strongest.
        let custom: FxHashMap<&Name, &style::Entry<'_>> = custom.collect();
        for (name, value) in style.custom.all() {
            let winner = custom.get(name).copied();
            let inherits = self.page.registrations.get(&**name).is_none_or(|r| r.inherits);
            readings.push(self.reading((element, pseudo), name, value.shown().to_owned(), winner, inherits));
        }
        readings
    }

    /// One value with who gave it.
    fn reading<'s>(
        &'s self,
        (element, pseudo): (ElementId, Option<&'s PseudoElement>),
        property: &str,
        value: String,
        winner: Option<&style::Entry<'s>>,
        inherits: bool,
    ) -> Reading {
        let unset = if inherits { ValueFrom::Inherited } else { ValueFrom::Initial };
        let highlight = pseudo.filter(|name| name.is_highlight());
        let (from, given) = match winner.map(|w| w.outright(&self.page)) {
            None if highlight.is_none() => (unset, None),
            Some(Outright::Wide(Wide::Inherit)) => (ValueFrom::Inherited, None),
            Some(Outright::Wide(Wide::Initial)) => (ValueFrom::Initial, None),
            Some(Outright::Wide(Wide::Unset)) if highlight.is_none() => (unset, None),
            Some(Outright::Value) => (ValueFrom::Declared, winner.cloned()),
            _ => self.given(element, pseudo, property).unwrap_or((unset, None)),
        };
        let (origin, by, at) = match (given, from) {
            (Some(w), ValueFrom::Declared) => {
                let by = match w.origin() {
                    Origin::PresentationalHint => "an HTML attribute".to_owned(),
                    _ => self.selector_text(&w).unwrap_or_else(|| "the style attribute".to_owned()),
                };
                (Some(w.origin()), by, Some(self.sources.placed(w.declaration.span)))
            }
            (_, ValueFrom::Inherited) => {
                let outer = pseudo.map_or_else(|| self.page.document.flat_parent(element), |_| Some(element));
                let giver = match highlight.is_some() || !inherits {
                    true => self.giver_along(element, pseudo, property).filter(|giver| *giver != (element, pseudo)),
                    false => self.giver(outer, property).map(|giver| (giver, None)),
                };
                match giver {
                    Some((giver, pseudo)) => {
                        let at = self.sources.placed(self.page.document.span(giver));
                        let of = pseudo.map(ToString::to_string).unwrap_or_default();
                        (None, format!("{}{of}", self.page.document.label(giver)), Some(at))
                    }
                    None => (None, String::new(), None),
                }
            }
            _ => (None, String::new(), None),
        };
        Reading { property: property.to_owned(), value, from, origin, by, at }
    }
}
