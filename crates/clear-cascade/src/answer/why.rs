//! Why a property has the value it has on an element: the contest, the lineage and the derivation.

mod aside;
mod lineage;
mod together;
mod without;
mod words;

pub(super) use lineage::{cause_of, value_and_cause};
pub use together::{Group, Member, Together};

use std::borrow::Cow;
use std::rc::Rc;

use rustc_hash::FxHashSet;
use serde::{Deserialize, Serialize};

use self::without::Without;
use super::asked::{About, Asked};
use super::beliefs;
use super::ground::Ground;
use crate::cascade::{self, Origin, Precedence, Stage};
use crate::document::{ElementId, ForeignElement, Name};
use crate::property::PropertyId;
use crate::selector::{PseudoElement, Specificity};
use crate::source::{Place, Span};
use crate::study::Study;
use crate::style::{self, Around, Cascaded, Entry, Said, Style, Target};
use crate::stylesheet::Property;
use crate::value::Wide;

/// Why a property has the value it has.
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
/// let why = page.why(one, "color")?;
/// assert_eq!(why.value, "rgb(255, 215, 0)");
/// assert!(why.sentence.contains("`.lead`"));
/// assert_eq!(why.winner().map(|winner| winner.value.as_str()), Some("gold"));
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Debug, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct Why {
    /// The number of the element.
    pub element: ElementId,
    /// The element as people write it: `h1#top.night`.
    pub label: String,
    /// The first words of the text in it.
    pub words: String,
    /// Where its start tag is written.
    pub at: Place,
    /// The pseudo-element asked about.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub pseudo: Option<String>,
    /// The property.
    pub property: String,
    /// Its computed value; empty for a custom property without one.
    pub value: String,
    /// Where the value comes from.
    pub from: ValueFrom,
    /// The answer in one plain sentence.
    pub sentence: String,
    /// What happens where people often believe something else, in one sentence.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub belief: Option<String>,
    /// Why the value is not what one sees, or does nothing, where it is so: each as one clause.
    pub seen: Vec<String>,
    /// Declarations for the property in rules that take the element, which were dropped, and why.
    pub dropped: Vec<String>,
    /// The element and its ancestors as far as inheritance leads.
    pub lineage: Vec<Ancestor>,
    /// Everything that wants to set the property here, strongest first.
    pub contenders: Vec<Contender>,
    /// What the element would get without any contender.
    pub otherwise: String,
    /// Where that would come from, in words, where it would be inherited.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub otherwise_by: Option<String>,
    /// The declaration that decides: of the contenders here, or on the element that the value is inherited from; nothing where
    /// nobody sets it.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub decided_by: Option<Decider>,
    /// The steps from what was written to the computed value.
    pub derivation: Vec<String>,
    /// Declarations in rules that would take the element if a condition held.
    pub off: Vec<OffContender>,
    /// What the answer depends on and what was dropped on the way.
    pub notes: Vec<String>,
}

impl Why {
    /// The contender that won the contest here; nothing where there is no contest. Where the value is inherited, or the winner says
    /// `revert`, [`decided_by`](Self::decided_by) is another declaration.
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
    /// let why = page.why(one, "color")?;
    /// assert_eq!(why.winner().map(|winner| winner.at.to_string()).as_deref(), Some("a.html:1:62"));
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    #[must_use]
    pub fn winner(&self) -> Option<&Contender> {
        self.contenders.iter().find(|c| c.outcome == Outcome::Won)
    }
}

/// The declaration that decides about a value, and the element that it is on.
///
/// ```
/// # use clear_cascade::{MemoryLoader, Study};
/// # let files = MemoryLoader::default().with(
/// #     "a.html",
/// #     "<!DOCTYPE html><style>p { color: navy; margin: 1px } .lead { color: gold } p::before { content: '*' } b { widht: 2px; width: 3px }
/// #     @media print { p { color: black } }</style><body><p id=one class=lead>Hello <b>you</b></p><p id=two>Bye</p></body>",
/// # );
/// # let page = Study::open(&files, "a.html")?;
/// let why = page.why(page.select("b")?[0], "color")?;
/// let decider = why.decided_by.unwrap(); // On the element that the value is inherited from.
/// assert_eq!((decider.label.as_str(), decider.contender.value.as_str()), ("p#one.lead", "gold"));
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Debug, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct Decider {
    /// The element that it is declared on: the one asked about, or the one that the value is inherited from.
    pub element: ElementId,
    /// That element as people write it.
    pub label: String,
    /// The pseudo-element of it, where it is declared on one.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub pseudo: Option<String>,
    /// The cause in words, as in "set by `h1` in site.css:1:6".
    pub cause: String,
    /// The declaration, as the contest there has it.
    pub contender: Contender,
}

/// Where a value comes from.
///
/// ```
/// # use clear_cascade::{MemoryLoader, Study};
/// # let files = MemoryLoader::default().with(
/// #     "a.html",
/// #     "<!DOCTYPE html><style>p { color: navy; margin: 1px } .lead { color: gold } p::before { content: '*' } b { widht: 2px; width: 3px }
/// #     @media print { p { color: black } }</style><body><p id=one class=lead>Hello <b>you</b></p><p id=two>Bye</p></body>",
/// # );
/// # let page = Study::open(&files, "a.html")?;
/// use clear_cascade::answer::ValueFrom;
/// let why = page.why(page.select("b")?[0], "color")?;
/// assert_eq!(why.from, ValueFrom::Inherited);
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(rename_all = "kebab-case")]
pub enum ValueFrom {
    /// A declaration gives the value.
    Declared,
    /// The parent gives it.
    Inherited,
    /// It is the initial value.
    Initial,
}

/// One element of the lineage of a value.
///
/// ```
/// # use clear_cascade::{MemoryLoader, Study};
/// # let files = MemoryLoader::default().with(
/// #     "a.html",
/// #     "<!DOCTYPE html><style>p { color: navy; margin: 1px } .lead { color: gold } p::before { content: '*' } b { widht: 2px; width: 3px }
/// #     @media print { p { color: black } }</style><body><p id=one class=lead>Hello <b>you</b></p><p id=two>Bye</p></body>",
/// # );
/// # let page = Study::open(&files, "a.html")?;
/// let why = page.why(page.select("b")?[0], "color")?;
/// let steps: Vec<_> = why.lineage.iter().map(|step| step.label.as_str()).collect();
/// assert_eq!(steps, ["b", "p#one.lead"]); // Outwards, as far as the value comes from.
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Debug, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct Ancestor {
    /// Its number.
    pub element: ElementId,
    /// Its label.
    pub label: String,
    /// The pseudo-element of it that is meant, where one is.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub pseudo: Option<String>,
    /// Where it is written.
    pub at: Place,
    /// Its value of the property.
    pub value: String,
    /// Where that comes from.
    pub from: ValueFrom,
    /// Where the declaration is written that gives or hands on the value, where there is one.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub declaration: Option<Place>,
}

impl Ancestor {
    /// The element, or the pseudo-element of it, as people write it.
    ///
    /// ```
    /// # use clear_cascade::{MemoryLoader, Study};
    /// # let files = MemoryLoader::default().with(
    /// #     "a.html",
    /// #     "<!DOCTYPE html><style>p { color: navy; margin: 1px } .lead { color: gold } p::before { content: '*' } b { widht: 2px; width: 3px }
    /// #     @media print { p { color: black } }</style><body><p id=one class=lead>Hello <b>you</b></p><p id=two>Bye</p></body>",
    /// # );
    /// # let page = Study::open(&files, "a.html")?;
    /// let why = page.why(page.select("b")?[0], "color")?;
    /// assert_eq!(why.lineage[0].name(), "b");
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    #[must_use]
    pub fn name(&self) -> String {
        format!("{}{}", self.label, self.pseudo.as_deref().unwrap_or_default())
    }
}

/// The lineage of a value, and who gives it where the last step declares it.
struct Lineage {
    /// The element first.
    steps: Vec<Ancestor>,
    /// The declaration at the last step, in words, and where it is.
    given: Option<(String, Span)>,
}

/// Whether a contender won.
///
/// ```
/// # use clear_cascade::{MemoryLoader, Study};
/// # let files = MemoryLoader::default().with(
/// #     "a.html",
/// #     "<!DOCTYPE html><style>p { color: navy; margin: 1px } .lead { color: gold } p::before { content: '*' } b { widht: 2px; width: 3px }
/// #     @media print { p { color: black } }</style><body><p id=one class=lead>Hello <b>you</b></p><p id=two>Bye</p></body>",
/// # );
/// # let page = Study::open(&files, "a.html")?;
/// use clear_cascade::answer::Outcome;
/// let one = page.select("#one")?[0];
/// let why = page.why(one, "color")?;
/// assert_eq!(why.contenders[1].outcome, Outcome::Out);
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(rename_all = "kebab-case")]
pub enum Outcome {
    /// It sets the value.
    Won,
    /// It went out.
    Out,
}

/// A declaration that wants to set the property.
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
/// let why = page.why(one, "color")?;
/// let texts: Vec<_> = why.contenders.iter().map(|c| (c.value.as_str(), c.selector.as_deref())).collect();
/// assert_eq!(texts, [("gold", Some(".lead")), ("navy", Some("p"))]); // Strongest first.
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Debug, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct Contender {
    /// Whether it won.
    pub outcome: Outcome,
    /// The stage it went out at; for the winner, the stage that settled the contest.
    pub stage: Option<Stage>,
    /// The property as written, which may be a shorthand.
    pub property: String,
    /// The value as written.
    pub value: String,
    /// What the element would get if all stronger contenders were cut.
    pub computes_to: String,
    /// Where it is written; in JSON the keys `file`, `line` and `column`.
    #[serde(flatten, with = "crate::source::keys")]
    #[cfg_attr(feature = "schema", schemars(with = "crate::source::keys::Keys"))]
    pub at: Place,
    /// Its first byte in the file.
    pub start: u32,
    /// The byte after its last in the file.
    pub end: u32,
    /// Whose stylesheet it is in.
    pub origin: Origin,
    /// Whether it is important.
    pub important: bool,
    /// The layer it is in.
    pub layer: Option<String>,
    /// The conditions and scopes around its rule, from the outside in, each with its place.
    pub conditions: Vec<String>,
    /// The weight of the selector; of a `style` attribute, nothing.
    pub specificity: Option<Specificity>,
    /// The selector that takes the element; none for `style` and other attributes.
    pub selector: Option<String>,
    /// Why it won or went out, in plain words.
    pub reason: String,
}

/// A declaration in a rule whose condition is off.
///
/// ```
/// use clear_cascade::{MemoryLoader, Study};
/// let files = MemoryLoader::default().with("a.html", "<!DOCTYPE html><style>@media print { p { color: navy; border-color: navy } }</style><p>a</p><p>b</p>");
/// let page = Study::open(&files, "a.html")?;
/// let why = page.why(page.select("p")?[0], "color")?;
/// assert_eq!(why.off[0].value, "navy");
/// assert!(why.off[0].reason.contains("print"));
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Debug, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct OffContender {
    /// The property as written.
    pub property: String,
    /// The value as written.
    pub value: String,
    /// Where it is written.
    pub at: Place,
    /// The selector.
    pub selector: Option<String>,
    /// Why it is off.
    pub reason: String,
}

/// Why a question has no answer.
///
/// ```
/// # use clear_cascade::{MemoryLoader, Study};
/// # let files = MemoryLoader::default().with(
/// #     "a.html",
/// #     "<!DOCTYPE html><style>p { color: navy; margin: 1px } .lead { color: gold } p::before { content: '*' } b { widht: 2px; width: 3px }
/// #     @media print { p { color: black } }</style><body><p id=one class=lead>Hello <b>you</b></p><p id=two>Bye</p></body>",
/// # );
/// # let page = Study::open(&files, "a.html")?;
/// use clear_cascade::answer::WhyError;
/// let one = page.select("#one")?[0];
/// assert!(matches!(page.why(one, "colr"), Err(WhyError::Property { hint: Some(_), .. })));
/// assert!(matches!(page.why(one, "margin"), Err(WhyError::Shorthand { longhands, .. }) if longhands.len() == 4));
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
#[non_exhaustive]
pub enum WhyError {
    /// There is no such property.
    #[error("there is no property `{name}`{}", hint.as_ref().map(|h| format!("; {h}")).unwrap_or_default())]
    Property {
        /// The name as given.
        name: String,
        /// What was probably meant.
        hint: Option<String>,
    },
    /// The property is a shorthand, which has no computed value of its own.
    #[error("`{name}` is a shorthand; ask about {}", longhands.join(", "))]
    Shorthand {
        /// The shorthand.
        name: String,
        /// What it sets.
        longhands: Vec<String>,
    },
    /// The element is of another page.
    #[error(transparent)]
    Foreign(#[from] ForeignElement),
}

impl Study {
    /// Why a longhand or custom property has the value it has on an element.
    ///
    /// ```
    /// # use clear_cascade::{MemoryLoader, Study};
    /// # let files = MemoryLoader::default().with(
    /// #     "a.html",
    /// #     "<!DOCTYPE html><style>p { color: navy; margin: 1px } .lead { color: gold } p::before { content: '*' } b { widht: 2px; width: 3px }
    /// #     @media print { p { color: black } }</style><body><p id=one class=lead>Hello <b>you</b></p><p id=two>Bye</p></body>",
    /// # );
    /// # let page = Study::open(&files, "a.html").unwrap();
    /// let why = page.why(page.select("b")?[0], "color")?;
    /// assert_eq!(why.sentence, "`color` is rgb(255, 215, 0), inherited from `p#one.lead` (a.html:2:54), where it is set by `.lead` in a.html:1:62.");
    /// assert_eq!(why.decided_by.unwrap().contender.at.to_string(), "a.html:1:62");
    /// let p = page.why(page.select("#one")?[0], "color")?;
    /// assert_eq!((p.winner().unwrap().value.as_str(), p.contenders.len()), ("gold", 2)); // Strongest first.
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    ///
    /// # Errors
    /// Where there is no such property, it is a shorthand, or the element is of another page.
    pub fn why(&self, element: ElementId, property: &str) -> Result<Why, WhyError> {
        self.why_of(element, None, property)
    }

    /// The same for a pseudo-element, such as `::before`.
    ///
    /// ```
    /// # use clear_cascade::{MemoryLoader, Study};
    /// # let files = MemoryLoader::default().with(
    /// #     "a.html",
    /// #     "<!DOCTYPE html><style>p { color: navy; margin: 1px } .lead { color: gold } p::before { content: '*' } b { widht: 2px; width: 3px }
    /// #     @media print { p { color: black } }</style><body><p id=one class=lead>Hello <b>you</b></p><p id=two>Bye</p></body>",
    /// # );
    /// # let page = Study::open(&files, "a.html").unwrap();
    /// let before = "::before".parse()?;
    /// let why = page.why_of(page.select("#two")?[0], Some(&before), "content")?;
    /// assert_eq!(why.value, "\"*\"");
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    ///
    /// # Errors
    /// Where there is no such property, it is a shorthand, or the element is of another page.
    pub fn why_of(&self, element: ElementId, pseudo: Option<&PseudoElement>, property: &str) -> Result<Why, WhyError> {
        let element = self.page.document.own(element)?;
        let asked = self.asked(element, pseudo, property)?;
        Ok(Contest::new(self, element, pseudo, &asked).answer())
    }

    /// The same for several properties at once, each a longhand or custom property, in the order in which they are asked for: faster
    /// than one by one.
    ///
    /// ```
    /// use clear_cascade::{MemoryLoader, Study};
    /// let page = Study::open(&MemoryLoader::default().with("a.html", "<p>Hello"), "a.html").unwrap();
    /// let p = page.select("p").unwrap()[0];
    /// let whys = page.why_each(p, None, &["color", "margin-top"])?;
    /// assert_eq!((whys.len(), whys[1].value.as_str()), (2, "16px"));
    /// # Ok::<(), clear_cascade::answer::WhyError>(())
    /// ```
    ///
    /// # Errors
    /// Where one of them does not exist, is a shorthand, or the element is of another page.
    pub fn why_each(
        &self,
        element: ElementId,
        pseudo: Option<&PseudoElement>,
        properties: &[&str],
    ) -> Result<Vec<Why>, WhyError> {
        let element = self.page.document.own(element)?;
        let (matched, entries) = self.entries(element, pseudo);
        let ground = Rc::new(Ground::new(About { study: self, element, pseudo }, matched).with(entries));
        // Where much is asked, what is around is met again and again.
        for around in self.page.document.flat_lineage(element).skip(usize::from(pseudo.is_none())) {
            self.strongest(around);
        }
        let one = |property: &&str| Ok(Contest::on(&ground, &self.asked(element, pseudo, property)?).answer());
        properties.iter().map(one).collect()
    }

    /// The longhands that a property name stands for: those of a shorthand, or itself.
    ///
    /// ```
    /// # use clear_cascade::{MemoryLoader, Study};
    /// # let files = MemoryLoader::default().with(
    /// #     "a.html",
    /// #     "<!DOCTYPE html><style>p { color: navy; margin: 1px } .lead { color: gold } p::before { content: '*' } b { widht: 2px; width: 3px }
    /// #     @media print { p { color: black } }</style><body><p id=one class=lead>Hello <b>you</b></p><p id=two>Bye</p></body>",
    /// # );
    /// # let page = Study::open(&files, "a.html").unwrap();
    /// assert_eq!(page.longhands("overflow")?, ["overflow-x", "overflow-y"]);
    /// assert_eq!(page.longhands("color")?, ["color"]);
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    ///
    /// # Errors
    /// Where there is no such property.
    pub fn longhands(&self, property: &str) -> Result<Vec<String>, WhyError> {
        let lower = property.to_ascii_lowercase();
        match Property::named(if property.starts_with("--") { property } else { &lower }) {
            Some(Property::Custom(name)) => Ok(vec![name.to_string()]),
            Some(Property::Known(id)) => Ok(id.longhands_of().into_iter().map(|p| p.name().to_owned()).collect()),
            None => Err(WhyError::Property {
                name: property.to_owned(),
                hint: crate::stylesheet::unknown_property_hint(&lower),
            }),
        }
    }

    /// Reads the name of a property that is asked about.
    pub(crate) fn asked(
        &self,
        element: ElementId,
        pseudo: Option<&PseudoElement>,
        name: &str,
    ) -> Result<Asked, WhyError> {
        let longhands = self.longhands(name)?;
        if longhands.len() != 1 {
            return Err(WhyError::Shorthand { name: name.to_owned(), longhands });
        }
        let name = longhands.into_iter().next().unwrap_or_default();
        let flow = self.style_of(element, pseudo).flow;
        Ok(Asked { longhand: PropertyId::named(&name).map(|p| flow.physical(p)), name })
    }

    /// The value of what is asked about in a style.
    pub(crate) fn asked_value(&self, style: &Style, asked: &Asked) -> String {
        match asked.longhand {
            Some(id) => style.text(id),
            None => style
                .custom
                .get(&crate::document::Name::from(asked.name.as_str()))
                .map(|v| v.shown().to_owned())
                .unwrap_or_default(),
        }
    }

    /// The selector of a rule that took an element, as written.
    pub(crate) fn selector_text(&self, entry: &Entry<'_>) -> Option<String> {
        let rule = &self.page.rules.get(entry.rule() as usize)?;
        let selector = self.page.selectors(rule).selectors.get(entry.selector()? as usize)?;
        Some(crate::text::shorten(self.sources.written(selector.span), 200))
    }
}

/// Whether what is set is what is asked about on an element with this flow.
fn sets(target: Target<'_>, asked: &Asked, style: &Style) -> bool {
    match (target, asked.longhand) {
        (Target::Longhand(p), Some(id)) => style.flow.physical(p) == id,
        (Target::Custom(name), None) => **name == *asked.name,
        _ => false,
    }
}

/// What became of one declaration in a contest.
pub(super) enum Standing<'c, 's> {
    /// It won.
    Won,
    /// It went out.
    Out {
        /// The winner.
        winner: &'c Entry<'s>,
        /// Where.
        stage: Stage,
        /// Why, as a clause.
        reason: String,
    },
}

/// The contest for one property of one element.
#[derive(Clone)]
pub(super) struct Contest<'s> {
    /// The study.
    study: &'s Study,
    /// The element.
    element: ElementId,
    /// The pseudo-element.
    pseudo: Option<&'s PseudoElement>,
    /// What is asked about.
    asked: Asked,
    /// The values of the element.
    style: Cow<'s, Style>,
    /// The declarations that want to set it, strongest first.
    contenders: Vec<Entry<'s>>,
    /// What it goes by besides.
    ground: Rc<Ground<'s>>,
}

impl<'s> Contest<'s> {
    /// Gathers the contenders.
    fn new(study: &'s Study, element: ElementId, pseudo: Option<&'s PseudoElement>, asked: &Asked) -> Self {
        let style = study.style_of(element, pseudo);
        let names = asked.longhand.map(|longhand| style.flow.names(longhand));
        let is_asked = |name: &Name| **name == *asked.name;
        let wanted = names.as_ref().map_or(style::Wanted::Customs(&is_asked), style::Wanted::Longhands);
        let (matched, entries) = study.entries_wanted(element, pseudo, wanted);
        let ground = Rc::new(Ground::new(About { study, element, pseudo }, matched));
        Self::of_style(&ground, asked, entries.iter().rev(), style)
    }

    /// The contest for the same on another element. Where that is known to have none, nothing is gathered.
    fn beside<'b>(&self, element: ElementId, pseudo: Option<&'b PseudoElement>) -> Contest<'b>
    where
        's: 'b,
    {
        let (study, asked): (&'b Study, _) = (self.study, &self.asked);
        let known = if pseudo.is_none() { study.known_strongest(element) } else { None };
        let nothing = known.is_some_and(|strongest| match asked.longhand {
            Some(longhand) => strongest.longhand(longhand).is_none(),
            None => strongest.custom(&asked.name.as_str().into()).is_none(),
        });
        if nothing {
            let ground = Rc::new(Ground::new(About { study, element, pseudo }, Vec::new()));
            return Contest::of_style(&ground, asked, [], study.style_of(element, pseudo));
        }
        Contest::new(study, element, pseudo, asked)
    }

    /// Finds the contenders among all that is declared.
    fn on(ground: &Rc<Ground<'s>>, asked: &Asked) -> Self {
        let About { study, element, pseudo } = ground.about;
        let style = study.style_of(element, pseudo);
        let own: Vec<&Entry<'s>> = ground.entries().iter().rev().filter(|e| sets(e.property, asked, &style)).collect();
        Self::of_style(ground, asked, own, style)
    }

    /// That of declarations of what is asked about, strongest first, with the style that is known.
    pub(super) fn of_style<'e>(
        ground: &Rc<Ground<'s>>,
        asked: &Asked,
        own: impl IntoIterator<Item = &'e Entry<'s>>,
        style: Cow<'s, Style>,
    ) -> Self
    where
        's: 'e,
    {
        // A declaration such as `margin` may set a longhand through its physical and its flow-relative name.
        let mut contenders: Vec<Entry<'s>> = own.into_iter().cloned().collect();
        if contenders.len() > 1 {
            let mut seen = FxHashSet::default();
            contenders.retain(|e| seen.insert(e.declaration.span));
        }
        let About { study, element, pseudo } = ground.about;
        Self { study, element, pseudo, asked: asked.clone(), style, contenders, ground: ground.clone() }
    }

    /// The declarations that take part, strongest first.
    pub(super) fn contenders(&self) -> &[Entry<'s>] {
        &self.contenders
    }

    /// What became of a contender.
    pub(super) fn standing(&self, one: &Entry<'s>) -> Standing<'_, 's> {
        let winner = &self.contenders[0];
        let Some(stage) = cascade::out_at(&one.precedence(), &winner.precedence()) else { return Standing::Won };
        Standing::Out { winner, stage, reason: self.lost_reason(one, winner, stage) }
    }

    /// The whole answer.
    fn answer(&self) -> Why {
        let study = self.study;
        let value = study.asked_value(&self.style, &self.asked);
        let (from, source) = self.source();
        let (contenders, otherwise) = self.explained();
        let lineage = self.lineage(from, source);
        let cause = self.cause(&value, from, source, &lineage, false);
        let sentence = self.sentence(&value, &cause);
        let giver = self.giver_at_the_end(&lineage);
        Why {
            decided_by: giver.as_ref().and_then(|giver| self.decider(cause, giver)),
            element: self.element,
            label: study.page.document.label(self.element),
            words: study.words_of(self.element),
            at: study.sources.placed(study.page.document.span(self.element)),
            pseudo: self.pseudo.map(ToString::to_string),
            property: self.asked.name.clone(),
            derivation: self.derivation_to_the_end((from, source), giver.as_ref(), &value),
            belief: self.belief(from),
            seen: self.asked.longhand.map_or_else(Vec::new, |longhand| {
                study.seen_instead(self.element, self.pseudo, longhand, (&self.style, self.contenders.first()))
            }),
            dropped: self.dropped_here(),
            value,
            from,
            sentence,
            lineage: lineage.steps,
            otherwise_by: self.otherwise_by(&otherwise).filter(|_| !contenders.is_empty()),
            contenders,
            otherwise,
            off: self.off(),
            notes: self.notes(),
        }
    }

    /// What happens here where people often believe something else.
    fn belief(&self, from: ValueFrom) -> Option<String> {
        let study = self.study;
        let inherits = self.asked.longhand.is_some_and(PropertyId::inherits);
        if from == ValueFrom::Inherited {
            let along = || self.along_highlights().and_then(|_| self.giver());
            if let (Some(pseudo), true, Some(_)) = (self.pseudo, self.contenders.is_empty(), along()) {
                return Some(format!("Where nothing sets it, `{pseudo}` has what the `{pseudo}` of the parent has."));
            }
            let keyword = self.contenders.first().is_some_and(|e| self.wide(e) == Some(Wide::Inherit));
            let cut_off = self.pseudo.is_none() && Around::of(&study.page, self.element).is_plain();
            return (keyword && !inherits && !cut_off && self.asked.longhand.is_some()).then(|| {
                format!("`{}` does not inherit by itself; it does here since `inherit` is written.", self.asked.name)
            });
        }
        let precedences: Vec<Precedence> = self.contenders.iter().map(|e| e.precedence()).collect();
        let parent = study.page.document.flat_parent(self.element).filter(|_| self.pseudo.is_none() && inherits);
        let around = parent.map(|p| self.beside(p, None));
        let differs = parent.is_some_and(|p| {
            study.asked_value(study.style(p), &self.asked) != study.asked_value(&self.style, &self.asked)
        });
        beliefs::Settled {
            study,
            element: self.element,
            property: &self.asked.name,
            inherits,
            contenders: &self.contenders,
            stages: &cascade::run(&precedences),
            around: around.as_ref().map_or(&[], |c| &c.contenders),
            parent_differs: differs,
            ground: &self.ground,
        }
        .belief()
    }

    /// Where the value comes from, and the declaration that gives it; `revert` and its kin lead on to a weaker one.
    pub(super) fn source(&self) -> (ValueFrom, Option<&Entry<'s>>) {
        let inherits = self.inherits();
        let (cascaded, by) = style::cascaded(self.contenders.iter(), |entry| self.said(entry));
        let from = match cascaded {
            Cascaded::Value(()) => ValueFrom::Declared,
            Cascaded::Initial => ValueFrom::Initial,
            Cascaded::Inherit => ValueFrom::Inherited,
            Cascaded::Unset => {
                if inherits {
                    ValueFrom::Inherited
                } else {
                    ValueFrom::Initial
                }
            }
        };
        (from, by)
    }

    /// Whether a custom property inherits.
    fn registered_inherits(&self) -> bool {
        self.study.page.registrations.get(&self.asked.name).is_none_or(|r| r.inherits)
    }

    /// What a contender says.
    fn said(&self, entry: &Entry<'s>) -> Said<()> {
        let subject = About { study: self.study, element: self.element, pseudo: self.pseudo };
        match entry.property {
            Target::Longhand(_) => {
                style::said(&subject.computed(), entry, &self.style, &style::Last::default()).without_value()
            }
            Target::Custom(_) => style::said_for_custom(&subject.computed(), entry, &self.style).without_value(),
        }
    }

    /// The CSS-wide keyword that a contender comes to; `unset` where it is invalid at computed-value time.
    fn wide(&self, entry: &Entry<'s>) -> Option<Wide> {
        match self.said(entry) {
            Said::Wide(wide) => Some(wide),
            Said::Value(()) | Said::Nothing => None,
        }
    }

    /// The contenders with what became of each, and what the value would be without all of them.
    fn explained(&self) -> (Vec<Contender>, String) {
        let precedences: Vec<Precedence> = self.contenders.iter().map(|e| e.precedence()).collect();
        let stages = cascade::run(&precedences);
        let settled = stages.iter().flatten().max().copied();
        let mut without = self.without();
        let mut out = Vec::with_capacity(self.contenders.len());
        for (entry, stage) in self.contenders.iter().zip(&stages) {
            let won = stage.is_none();
            let computes_to = without.value(&self.asked);
            let reason = match stage {
                None => self.won_reason(entry, settled),
                Some(stage) => self.lost_reason(entry, &self.contenders[0], *stage),
            };
            out.push(self.contender(entry, won, if won { settled } else { *stage }, computes_to, reason));
            without.cut(entry.declaration.span);
        }
        (out, without.value(&self.asked))
    }

    /// The declaration that decides, here or where the value is inherited from.
    fn decider(&self, cause: String, (contest, given): &(Contest<'s>, Entry<'s>)) -> Option<Decider> {
        let precedences: Vec<Precedence> = contest.contenders.iter().map(|e| e.precedence()).collect();
        let stages = cascade::run(&precedences);
        let at = contest.contenders.iter().position(|e| e.declaration.span == given.declaration.span)?;
        let settled = stages.iter().flatten().max().copied();
        let (stage, reason) = match stages[at] {
            None => (settled, contest.won_reason(given, settled)),
            Some(stage) => (Some(stage), contest.lost_reason(given, &contest.contenders[0], stage)),
        };
        let value = self.study.asked_value(&contest.style, &self.asked);
        Some(Decider {
            element: contest.element,
            label: self.study.page.document.label(contest.element),
            pseudo: contest.pseudo.map(ToString::to_string),
            cause,
            contender: contest.contender(given, stages[at].is_none(), stage, value, reason),
        })
    }

    /// The element with contenders cut out.
    fn without(&self) -> Without<'s> {
        Without::new(&self.ground, &self.contenders, self.asked.longhand.is_none())
    }

    /// One contender.
    fn contender(
        &self,
        entry: &Entry<'s>,
        won: bool,
        stage: Option<Stage>,
        computes_to: String,
        reason: String,
    ) -> Contender {
        let study = self.study;
        let sheet = &study.page.sheets[entry.sheet() as usize].sheet;
        let span = entry.declaration.span;
        let source = study.sources.at(span.source);
        let hint = entry.origin() == Origin::PresentationalHint;
        Contender {
            outcome: if won { Outcome::Won } else { Outcome::Out },
            stage,
            property: entry.declaration.name().to_owned(),
            value: sheet.value(entry.declaration).text().to_owned(),
            computes_to,
            at: study.sources.placed(span),
            start: source.file_offset(span.start),
            end: source.file_offset(span.end),
            origin: entry.origin(),
            important: entry.precedence().important,
            layer: study
                .page
                .rules
                .get(entry.rule() as usize)
                .and_then(|r| study.page.layer_name(r))
                .map(str::to_owned),
            conditions: self.conditions(entry),
            specificity: (!entry.precedence().attached && !hint).then_some(entry.precedence().specificity),
            selector: study.selector_text(entry),
            reason,
        }
    }
}

impl Study {
    /// Whether the fast path and the contest name the same winner for a longhand: for tests that hold them together.
    #[doc(hidden)]
    #[must_use]
    pub fn agrees(&self, element: ElementId, property: &str) -> bool {
        let Ok(asked) = self.asked(element, None, property) else {
            return false;
        };
        let contest = Contest::new(self, element, None, &asked);
        let precedences: Vec<Precedence> = contest.contenders.iter().map(|e| e.precedence()).collect();
        let stages = cascade::run(&precedences);
        let one_winner =
            stages.iter().filter(|s| s.is_none()).count() <= 1 && stages.first().is_none_or(Option::is_none);
        // The winner of the contest alone gives the value that the whole tree's resolution gave.
        let losers: FxHashSet<Span> = contest.contenders.iter().skip(1).map(|e| e.declaration.span).collect();
        let rolls = contest
            .contenders
            .first()
            .is_some_and(|e| matches!(contest.wide(e), Some(Wide::Revert | Wide::RevertLayer | Wide::RevertRule)));
        let alone = || {
            let (_, mut entries) = self.entries(element, None);
            entries.retain(|e| !(sets(e.property, &asked, &contest.style) && losers.contains(&e.declaration.span)));
            self.asked_value(&self.styles().compute_from(&self.page, element, None, &entries, None), &asked)
        };
        one_winner && (losers.is_empty() || rolls || alone() == self.asked_value(&contest.style, &asked))
    }
}
