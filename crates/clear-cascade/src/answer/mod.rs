//! Questions about a page and their answers.
//!
//! What comes in: a [`Study`] and a question. What goes out: structured answers that serialise, with plain sentences.
//!
//! | question | answer | made of |
//! |---|---|---|
//! | [`Study::why`], [`Study::why_of`], [`Study::why_each`] | [`Why`] | [`Contender`]s, [`OffContender`]s, the lineage of [`Ancestor`]s, the [`Decider`] |
//! | [`Study::why_together`] | [`Together`] | [`Group`]s of [`Member`]s |
//! | [`Study::why_not`], [`Study::why_not_of`] | [`WhyNot`] | a [`Miss`] for each selector with the [`Nearest`] that hit, a [`Fate`] for each declaration, [`Fix`]es |
//! | [`Study::reach`] | [`Reach`] | [`Hit`]s, [`Part`]s of the selector, a [`Tally`] for each declaration |
//! | [`Study::tallies`] | [`Tally`] | |
//! | [`Study::rules`], [`Study::declarations`] | [`Rule`], [`Written`] | [`Aimed`] |
//! | [`Study::read`], [`Study::without_effect`] | [`Reading`], [`NoEffect`] | |
//! | [`Study::compare_trial`] | [`Tried`] | [`Changed`] values, those of like elements together in [`Alike`] |
//! | [`Study::compare`], [`Study::compare_views`] | [`Comparison`] | [`Changed`] values, [`Hit`]s on one side only |
//! | [`Study::compare_elements`], [`Study::compare_parts`] | [`Twins`] | [`Difference`]s |
//! | [`Study::aim`], [`Study::aim_on`] | [`Aim`] | |
//! | [`Study::locate`] | [`Located`] | |

mod aim;
mod anyway;
mod asked;
mod beliefs;
mod cause;
mod compare;
mod contents;
mod derive;
mod effects;
mod fates;
mod fixes;
mod ground;
mod locate;
mod reach;
mod reading;
mod rules;
mod seen;
mod trying;
mod why;
mod why_not;

pub use aim::{Aim, Target};
pub(crate) use anyway::Anyway;
pub use compare::{Comparison, Difference, Side, Twins};
pub use contents::{Aimed, Rule, Written};
pub(crate) use contents::{AllTallied, Tallied};
pub use derive::Said;
pub use effects::NoEffect;
pub(crate) use fates::Beaten;
pub use fates::Fate;
pub use fixes::Fix;
pub use locate::{LocateError, Located};
pub use reach::{Hit, Part, Reach, Tally};
pub use reading::Reading;
pub use trying::{Alike, Changed, Tried};
pub use why::{Ancestor, Contender, Decider, Group, Member, OffContender, Outcome, Together, ValueFrom, Why, WhyError};
pub(crate) use why_not::Known;
pub use why_not::{Miss, Nearest, WhyNot};

use std::sync::{Arc, LazyLock};

use rustc_hash::FxHashMap;

use crate::document::{ElementId, ForeignElement};
use crate::property::PropertyId;
use crate::selector::PseudoElement;
use crate::study::Study;
use crate::style::{SharedTexts, Style, is_generated};
use crate::value::Value;

impl Study {
    /// The computed value of a longhand or custom property, as `getComputedStyle()` would give it; nothing for an
    /// unknown property, a shorthand, a custom property without a value, or an element of another page.
    ///
    /// ```
    /// # use clear_cascade::{MemoryLoader, Study};
    /// # let files = MemoryLoader::default().with(
    /// #     "a.html",
    /// #     "<!DOCTYPE html><style>p { color: navy; margin: 1px } .lead { color: gold } p::before { content: '*' } b { widht: 2px; width: 3px }
    /// #     @media print { p { color: black } }</style><body><p id=one class=lead>Hello <b>you</b></p><p id=two>Bye</p></body>",
    /// # );
    /// # let page = Study::open(&files, "a.html").unwrap();
    /// let p = page.select("#one")?[0];
    /// assert_eq!(page.value(p, "color").as_deref(), Some("rgb(255, 215, 0)"));
    /// assert_eq!(page.value(p, "margin"), None); // A shorthand has no computed value of its own.
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    #[must_use]
    pub fn value(&self, element: ElementId, property: &str) -> Option<String> {
        let style = self.style(self.page.document.own(element).ok()?);
        if property.starts_with("--") {
            return style.custom.get(&crate::document::Name::from(property)).map(|v| v.shown().to_owned());
        }
        let property = PropertyId::named(&property.to_ascii_lowercase()).filter(|p| p.is_longhand())?;
        Some(style.text(property))
    }

    /// All longhands in the order of their names, then all custom properties, with their computed values.
    ///
    /// ```
    /// # use clear_cascade::{MemoryLoader, Study};
    /// # let files = MemoryLoader::default().with(
    /// #     "a.html",
    /// #     "<!DOCTYPE html><style>p { color: navy; margin: 1px } .lead { color: gold } p::before { content: '*' } b { widht: 2px; width: 3px }
    /// #     @media print { p { color: black } }</style><body><p id=one class=lead>Hello <b>you</b></p><p id=two>Bye</p></body>",
    /// # );
    /// # let page = Study::open(&files, "a.html").unwrap();
    /// let values = page.values(page.select("#two")?[0])?;
    /// assert!(values.contains(&("margin-top".to_owned(), "1px".to_owned())));
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    ///
    /// # Errors
    /// Where the element is of another page.
    pub fn values(&self, element: ElementId) -> Result<Vec<(String, String)>, ForeignElement> {
        self.values_of(element, None)
    }

    /// The same for a pseudo-element, whether it is there or not.
    ///
    /// ```
    /// # use clear_cascade::{MemoryLoader, Study};
    /// # let files = MemoryLoader::default().with("a.html", "<!DOCTYPE html><style>p::before { content: '*' }</style><p>Hello");
    /// # let page = Study::open(&files, "a.html")?;
    /// let values = page.values_of(page.select("p")?[0], Some(&"::before".parse()?))?;
    /// assert!(values.contains(&("content".to_owned(), "\"*\"".to_owned())));
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    ///
    /// # Errors
    /// Where the element is of another page.
    pub fn values_of(
        &self,
        element: ElementId,
        pseudo: Option<&PseudoElement>,
    ) -> Result<Vec<(String, String)>, ForeignElement> {
        Ok(all_values(&self.style_of(self.page.document.own(element)?, pseudo)))
    }

    /// The pseudo-elements that make boxes on an element, with their computed values.
    ///
    /// ```
    /// # use clear_cascade::{MemoryLoader, Study};
    /// # let files = MemoryLoader::default().with(
    /// #     "a.html",
    /// #     "<!DOCTYPE html><style>p { color: navy; margin: 1px } .lead { color: gold } p::before { content: '*' } b { widht: 2px; width: 3px }
    /// #     @media print { p { color: black } }</style><body><p id=one class=lead>Hello <b>you</b></p><p id=two>Bye</p></body>",
    /// # );
    /// # let page = Study::open(&files, "a.html").unwrap();
    /// let boxes = page.generated(page.select("#two")?[0])?;
    /// assert_eq!(boxes[0].0, "::before");
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    ///
    /// # Errors
    /// Where the element is of another page.
    pub fn generated(&self, element: ElementId) -> Result<Vec<Generated>, ForeignElement> {
        let boxes = self.boxes(self.page.document.own(element)?);
        Ok(boxes.map(|(name, style)| (name.to_string(), all_values(style))).collect())
    }
}

/// A pseudo-element, such as `::before`, and its computed values by property.
///
/// ```
/// use clear_cascade::{MemoryLoader, Study};
/// let files = MemoryLoader::default().with("a.html", r#"<!DOCTYPE html><style>p::before { content: "*" }</style><p>"#);
/// let page = Study::open(&files, "a.html")?;
/// let boxes: Vec<clear_cascade::answer::Generated> = page.generated(page.select("p")?[0])?;
/// assert_eq!(boxes[0].0, "::before");
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
pub type Generated = (String, Vec<(String, String)>);

impl Study {
    /// The pseudo-elements of an element that are there to be styled.
    fn boxes(&self, element: ElementId) -> impl Iterator<Item = &(PseudoElement, Arc<Style>)> {
        let of = self.style(element);
        let node = self.page.document.node(element);
        self.styles().pseudos(element).iter().filter(move |(name, style)| is_generated(name, style, of, node))
    }

    /// Whether looking rules up in the index and trying every rule on every element give the same: for tests.
    #[doc(hidden)]
    #[must_use]
    pub fn index_agrees(&self) -> bool {
        let matcher = self.page.matcher();
        self.page.document.ids().all(|id| {
            let mut plain = Vec::new();
            let tree = self.page.document.node(id).tree;
            let here = |rule: &crate::page::FlatRule| rule.within.tree.is_none_or(|t| t == tree);
            let reached = crate::style::Reached::new(&self.page, &matcher, id);
            for (number, rule) in self.page.rules.iter().enumerate().filter(|(_, r)| here(r)) {
                reached.by(rule, crate::source::offset(number), &mut plain);
            }
            let own = |rule: &u32| self.page.own_rules.get(&id).is_some_and(|o| o.contains(rule));
            let mut fast = crate::style::matched_rules(&self.page, &matcher, id);
            fast.retain(|m| !own(&m.rule) && here(&self.page.rules[m.rule as usize]));
            let told = |all: Vec<crate::style::Matched<'_>>| {
                let mut all: Vec<_> =
                    all.iter().map(|m| (m.rule, m.pseudo.cloned(), m.selector, m.specificity, m.proximity)).collect();
                all.sort_unstable();
                all
            };
            told(fast) == told(plain)
        })
    }
}

/// The channels, from 0 to 255, of a computed value that is an opaque or translucent colour, as a screen shows it; nothing
/// for other values and for what is transparent.
///
/// ```
/// # use clear_cascade::{MemoryLoader, Study};
/// # let files = MemoryLoader::default().with(
/// #     "a.html",
/// #     "<!DOCTYPE html><style>p { color: navy; margin: 1px } .lead { color: gold } p::before { content: '*' } b { widht: 2px; width: 3px }
/// #     @media print { p { color: black } }</style><body><p id=one class=lead>Hello <b>you</b></p><p id=two>Bye</p></body>",
/// # );
/// # let page = Study::open(&files, "a.html").unwrap();
/// use clear_cascade::answer::channels;
/// assert_eq!(channels("rgb(255, 215, 0)"), Some([255, 215, 0]));
/// assert_eq!(channels("10px"), None);
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[must_use]
pub fn channels(value: &str) -> Option<[u8; 3]> {
    let tokens = crate::syntax::Tokens::read(value);
    let found = crate::value::color::parse(tokens.all())?.resolve(None)?;
    (found.alpha > 0.0).then(|| found.to_rgb())
}

/// All values of a style.
fn all_values(style: &Style) -> Vec<(String, String)> {
    let mut values = Vec::with_capacity(PropertyId::COUNT);
    values.extend(BY_NAME.iter().map(|p| (p.name().to_owned(), style.text(*p))));
    values.extend(style.custom.all().into_iter().map(|(name, value)| (name.to_string(), value.shown().to_owned())));
    values
}

/// All longhands in the order of their names.
static BY_NAME: LazyLock<Vec<PropertyId>> = LazyLock::new(|| {
    let mut all: Vec<PropertyId> = PropertyId::longhands().collect();
    all.sort_by_key(|p| p.name());
    all
});

/// Writes out the values of many elements, each in a form of one's own; what elements share is written once.
///
/// ```
/// use clear_cascade::{MemoryLoader, Study};
/// let files = MemoryLoader::default().with("a.html", "<!DOCTYPE html><style>p { color: navy } #x { top: 1px }</style><p id=x class='a b' title=hi>Hello <b>you</b>");
/// let page = Study::open(&files, "a.html").unwrap();
///
/// use clear_cascade::answer::Texts;
/// let mut texts = Texts::of(|name, value, out| out.push_str(&format!("{name}: {value}\n")));
/// let mut all = String::new();
/// for element in page.document().ids() {
///     texts.values(&page, element, &mut all)?;
/// }
/// assert!(all.contains("\ntop: 1px\n") && all.lines().count() > 6 * 300);
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
pub struct Texts<'s> {
    /// The form: a name and a value written to the end of a text.
    form: fn(&str, &str, &mut String),
    /// Values that depend on nothing around them, written, by the place that they are shared at, and the property.
    kept: FxHashMap<(*const Value, PropertyId), Option<Box<str>>>,
    /// Custom properties that elements share.
    shared: SharedTexts<'s>,
}

impl<'s> Texts<'s> {
    /// That with a form, which is given a name and a value and writes them to the end of a text.
    #[must_use]
    pub fn of(form: fn(&str, &str, &mut String)) -> Self {
        Self { form, kept: FxHashMap::default(), shared: SharedTexts::default() }
    }

    /// Writes the computed value of every longhand in the order of names, then of every custom property, to the end of a text.
    ///
    /// # Errors
    /// Where the element is of another page.
    pub fn values(&mut self, study: &'s Study, element: ElementId, out: &mut String) -> Result<(), ForeignElement> {
        self.write(study.style(study.page.document.own(element)?), out);
        Ok(())
    }

    /// The same for all pseudo-elements of an element that are there to be styled, one after the other: what `start` writes for each of
    /// them comes before its values, and what `end` writes behind them.
    ///
    /// ```
    /// use clear_cascade::{MemoryLoader, Study};
    /// let files = MemoryLoader::default().with("a.html", r#"<!DOCTYPE html><style>p::before { content: "*" }</style><p>"#);
    /// let page = Study::open(&files, "a.html")?;
    /// let mut texts = clear_cascade::answer::Texts::of(|name, value, out| out.push_str(&format!("{name}: {value}; ")));
    /// let mut all = String::new();
    /// let p = page.select("p")?[0];
    /// texts.generated(&page, p, &mut all, &|pseudo, out| out.push_str(&format!("p{pseudo} {{ ")), &|out| out.push('}'))?;
    /// assert!(all.starts_with("p::before { ") && all.contains("content: \"*\"; ") && all.ends_with('}'));
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    ///
    /// # Errors
    /// Where the element is of another page.
    pub fn generated(
        &mut self,
        study: &'s Study,
        element: ElementId,
        out: &mut String,
        start: &dyn Fn(&PseudoElement, &mut String),
        end: &dyn Fn(&mut String),
    ) -> Result<(), ForeignElement> {
        for (name, style) in study.boxes(study.page.document.own(element)?) {
            start(name, out);
            self.write(style, out);
            end(out);
        }
        Ok(())
    }

    /// Writes the values of one style.
    fn write(&mut self, style: &'s Style, out: &mut String) {
        let form = self.form;
        for property in BY_NAME.iter() {
            let physical = style.flow.physical(*property);
            let written = |value: &str| {
                let mut text = String::new();
                form(property.name(), value, &mut text);
                text.into_boxed_str()
            };
            let kept = style.shared(physical).and_then(|value| {
                let kept = || style.plain_text(physical).map(|value| written(&value));
                self.kept.entry((std::ptr::from_ref(value), *property)).or_insert_with(kept).as_deref()
            });
            match kept {
                Some(text) => out.push_str(text),
                None => form(property.name(), &style.text(physical), out),
            }
        }
        style.custom.write(&mut self.shared, &|name, value, out| form(name, value.shown(), out), out);
    }
}
