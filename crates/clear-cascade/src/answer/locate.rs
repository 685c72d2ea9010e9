//! Finding the element that a question is about.

use std::collections::HashSet;

use crate::document::{ElementId, ForeignElement, Name};
use crate::near;
use crate::selector::{PseudoElement, SelectorError, SelectorList, Simple};
use crate::source::Place;
use crate::study::{PlaceError, Study};

/// Why no element can be named.
///
/// ```
/// # use clear_cascade::{MemoryLoader, Study};
/// # let files = MemoryLoader::default().with(
/// #     "a.html",
/// #     "<!DOCTYPE html><style>p { color: navy; margin: 1px } .lead { color: gold } p::before { content: '*' } b { widht: 2px; width: 3px }
/// #     @media print { p { color: black } }</style><body><p id=one class=lead>Hello <b>you</b></p><p id=two>Bye</p></body>",
/// # );
/// # let page = Study::open(&files, "a.html")?;
/// use clear_cascade::answer::LocateError;
/// assert!(matches!(page.locate(".led"), Err(LocateError::Nothing { hint: Some(_), .. })));
/// assert!(matches!(page.locate("@99"), Err(LocateError::Number { last: 6, .. })));
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
#[non_exhaustive]
pub enum LocateError {
    /// The text is no selector.
    #[error("{}", .error.message)]
    Selector {
        /// What is wrong, with its place in `text`.
        error: SelectorError,
        /// The selector as given.
        text: String,
    },
    /// The selector takes no element.
    #[error("`{selector}` takes no element of the page{}", hint.as_ref().map(|h| format!("; {h}")).unwrap_or_default())]
    Nothing {
        /// The selector as given.
        selector: String,
        /// The nearest name on the page.
        hint: Option<String>,
    },
    /// Some of the selectors name an element, others a pseudo-element or another one.
    #[error("`{name}` names elements and pseudo-elements, or several kinds of them; ask about one kind")]
    Mixed {
        /// The name as given.
        name: String,
    },
    /// The selector names a pseudo-element where elements are asked for.
    #[error("`{name}` names the pseudo-element `{pseudo}`; elements are named without it")]
    Pseudo {
        /// The name as given.
        name: String,
        /// The pseudo-element.
        pseudo: String,
    },
    /// `::slotted()` and `::part()` name elements of another tree than the one they are written in.
    #[error("`{name}` names an element of another tree; name the element by itself")]
    OtherTree {
        /// The name as given.
        name: String,
    },
    /// No element has this text in it.
    #[error("no element of the page has the text \"{text}\" in it")]
    Text {
        /// The text as given, without its quotes.
        text: String,
    },
    /// There is no element with this number.
    #[error("there is no element @{number}; those of the page are @0 to @{last}")]
    Number {
        /// What stands behind the `@`.
        number: String,
        /// The number of the last element.
        last: u32,
    },
    /// The text is a place but for its line.
    #[error("`{given}` is no place: lines and columns are numbers from 1 to {}", u32::MAX)]
    Line {
        /// The text as given.
        given: String,
    },
    /// No element starts at this place of the page.
    #[error("no element is written at line {line} of the page, which has {lines} lines")]
    Place {
        /// The line asked for.
        line: u32,
        /// How many lines the page has.
        lines: u32,
    },
    /// Nothing that a rule could be named by is written at this place.
    #[error(transparent)]
    Rule(#[from] PlaceError),
    /// The element is of another page.
    #[error(transparent)]
    Foreign(#[from] ForeignElement),
    /// Places are those of the page.
    #[error("`{given}` is not the page; an element is named by a place in {page}")]
    OtherFile {
        /// The file as given.
        given: String,
        /// The page.
        page: String,
    },
}

/// What a name of an element stands for.
///
/// ```
/// # use clear_cascade::{MemoryLoader, Study};
/// # let files = MemoryLoader::default().with(
/// #     "a.html",
/// #     "<!DOCTYPE html><style>p { color: navy; margin: 1px } .lead { color: gold } p::before { content: '*' } b { widht: 2px; width: 3px }
/// #     @media print { p { color: black } }</style><body><p id=one class=lead>Hello <b>you</b></p><p id=two>Bye</p></body>",
/// # );
/// # let page = Study::open(&files, "a.html")?;
/// let located = page.locate("#one::before")?;
/// assert_eq!(located.elements, page.select("#one")?);
/// assert_eq!(located.pseudo.map(|p| p.to_string()).as_deref(), Some("::before"));
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Located {
    /// The elements, in document order; at least one.
    pub elements: Vec<ElementId>,
    /// The pseudo-element, where one is named.
    pub pseudo: Option<PseudoElement>,
}

impl Study {
    /// The elements that a selector takes, in document order; at least one.
    ///
    /// ```
    /// # use clear_cascade::{MemoryLoader, Study};
    /// # let files = MemoryLoader::default().with(
    /// #     "a.html",
    /// #     "<!DOCTYPE html><style>p { color: navy; margin: 1px } .lead { color: gold } p::before { content: '*' } b { widht: 2px; width: 3px }
    /// #     @media print { p { color: black } }</style><body><p id=one class=lead>Hello <b>you</b></p><p id=two>Bye</p></body>",
    /// # );
    /// # let page = Study::open(&files, "a.html").unwrap();
    /// assert_eq!(page.select("p")?.len(), 2);
    /// let error = page.select(".laed").unwrap_err().to_string();
    /// assert!(error.ends_with("no class `laed` is on the page; the nearest is `.lead`"));
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    ///
    /// # Errors
    /// Where the text is no selector, names a pseudo-element, or takes no element.
    pub fn select(&self, selector: &str) -> Result<Vec<ElementId>, LocateError> {
        let list = self.parse_selector(selector)?;
        if let Some(pseudo) = list.selectors.iter().find_map(|s| s.pseudo.as_ref()) {
            return Err(LocateError::Pseudo { name: selector.trim().to_owned(), pseudo: pseudo.to_string() });
        }
        self.selected(selector, &list)
    }

    /// The elements that a selector takes, or has pseudo-elements of.
    fn selected(&self, selector: &str, list: &SelectorList) -> Result<Vec<ElementId>, LocateError> {
        if list.selectors.iter().any(|s| s.slotted.is_some() || !s.parts.is_empty()) {
            return Err(LocateError::OtherTree { name: selector.trim().to_owned() });
        }
        let matcher = self.page.matcher();
        let mut found: Vec<ElementId> = self.page.document.ids().filter(|e| matcher.finds(list, *e)).collect();
        if found.is_empty() {
            // What is nowhere on the page may be in a shadow tree.
            let inside = self.page.document.all_ids().skip(self.page.document.light().len());
            let tree = |e: ElementId| self.page.document.node(e).tree;
            found = inside.filter(|e| matcher.with_tree(tree(*e)).finds(list, *e)).collect();
        }
        if found.is_empty() {
            return Err(LocateError::Nothing { selector: selector.trim().to_owned(), hint: self.nearest_name(list) });
        }
        Ok(found)
    }

    /// Parses a selector that comes with a question.
    pub(crate) fn parse_selector(&self, text: &str) -> Result<SelectorList, LocateError> {
        // No selector has a number behind its last colon.
        let number = |text: &str| !text.is_empty() && text.bytes().all(|b| b.is_ascii_digit());
        let place = text.trim().rsplit_once(':').is_some_and(|(_, line)| number(line));
        text.parse().map_err(|error| match place {
            true => LocateError::Line { given: text.trim().to_owned() },
            false => LocateError::Selector { error, text: text.to_owned() },
        })
    }

    /// What a name stands for: `@N`, `FILE:LINE[:COL]`, a text in quotes or a selector, with a pseudo-element at its end or
    /// not.
    ///
    /// ```
    /// # use clear_cascade::{MemoryLoader, Study};
    /// # let files = MemoryLoader::default().with(
    /// #     "a.html",
    /// #     "<!DOCTYPE html><style>p { color: navy; margin: 1px } .lead { color: gold } p::before { content: '*' } b { widht: 2px; width: 3px }
    /// #     @media print { p { color: black } }</style><body><p id=one class=lead>Hello <b>you</b></p><p id=two>Bye</p></body>",
    /// # );
    /// # let page = Study::open(&files, "a.html").unwrap();
    /// let located = page.locate("\"Bye\"::before")?;
    /// assert_eq!(page.document().element(located.elements[0])?.label(), "p#two");
    /// assert_eq!(located.pseudo.unwrap().to_string(), "::before");
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    ///
    /// # Errors
    /// Where the name stands for nothing on the page.
    pub fn locate(&self, name: &str) -> Result<Located, LocateError> {
        let name = name.trim();
        let (plain, pseudo) = match name.rsplit_once("::") {
            Some((plain, _)) if plain.starts_with('@') || plain.parse::<Place>().is_ok() || quoted(plain).is_some() => {
                let list = self.parse_selector(&name[plain.len()..])?;
                (plain, list.selectors.into_iter().find_map(|s| s.pseudo))
            }
            _ => (name, None),
        };
        if let Some(number) = plain.strip_prefix('@') {
            let last = crate::source::offset(self.page.document.count()) - 1;
            let element = number.parse().ok().and_then(|n| self.page.document.id(n));
            let element = element.ok_or_else(|| LocateError::Number { number: number.to_owned(), last })?;
            return Ok(Located { elements: vec![element], pseudo });
        }
        if let Some(text) = quoted(plain) {
            return Ok(Located { elements: self.with_text(text)?, pseudo });
        }
        if let Ok(place) = plain.parse::<Place>() {
            return Ok(Located { elements: self.at_place(&place)?, pseudo });
        }
        let list = self.parse_selector(name)?;
        let mut pseudos = list.selectors.iter().map(|s| s.pseudo.clone());
        let pseudo = pseudos.next().flatten();
        if pseudos.any(|other| other != pseudo) {
            return Err(LocateError::Mixed { name: name.to_owned() });
        }
        Ok(Located { elements: self.selected(name, &list)?, pseudo })
    }

    /// Whether a name is several selectors with commas between them.
    ///
    /// ```
    /// # use clear_cascade::{MemoryLoader, Study};
    /// # let files = MemoryLoader::default().with(
    /// #     "a.html",
    /// #     "<!DOCTYPE html><style>p { color: navy; margin: 1px } .lead { color: gold } p::before { content: '*' } b { widht: 2px; width: 3px }
    /// #     @media print { p { color: black } }</style><body><p id=one class=lead>Hello <b>you</b></p><p id=two>Bye</p></body>",
    /// # );
    /// # let page = Study::open(&files, "a.html").unwrap();
    /// assert!(page.names_several("#one, b") && !page.names_several("p"));
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    #[must_use]
    pub fn names_several(&self, name: &str) -> bool {
        let plain = quoted(name).is_none() && name.parse::<Place>().is_err() && !name.starts_with('@');
        plain && self.parse_selector(name).is_ok_and(|list| list.selectors.len() > 1)
    }

    /// The innermost elements that a text is in: those that have nothing else in them, where there are such.
    fn with_text(&self, text: &str) -> Result<Vec<ElementId>, LocateError> {
        let document = &self.page.document;
        let wanted = squeezed(text);
        let all = document.all_ids().filter(|e| document.lineage(*e).all(|e| self.parted(e).is_some()));
        let text_of = |e: ElementId| squeezed(&document.text_in(e, &|e| self.parted(e), usize::MAX));
        let texts: Vec<(ElementId, String)> = all.map(|e| (e, text_of(e))).collect();
        let find = |fits: &dyn Fn(&str) -> bool| {
            let mut found: Vec<ElementId> = texts.iter().filter(|(_, t)| fits(t)).map(|(e, _)| *e).collect();
            let outer: HashSet<ElementId> = found.iter().flat_map(|e| document.lineage(*e).skip(1)).collect();
            found.retain(|e| !outer.contains(e));
            found
        };
        let lower = wanted.to_lowercase();
        let ways: [&dyn Fn(&str) -> bool; 3] =
            [&|t| t == wanted, &|t| t.contains(&wanted), &|t| t.to_lowercase().contains(&lower)];
        let found = ways.into_iter().map(find).find(|found| !found.is_empty()).filter(|_| !wanted.is_empty());
        found.ok_or_else(|| LocateError::Text { text: text.to_owned() })
    }

    /// An element as people find it again: its label, the first words of its text, and the attributes that `asked` asks for,
    /// where that is a selector.
    ///
    /// ```
    /// # use clear_cascade::{MemoryLoader, Study};
    /// # let files = MemoryLoader::default().with(
    /// #     "a.html",
    /// #     "<!DOCTYPE html><style>p { color: navy; margin: 1px } .lead { color: gold } p::before { content: '*' } b { widht: 2px; width: 3px }
    /// #     @media print { p { color: black } }</style><body><p id=one class=lead>Hello <b>you</b></p><p id=two>Bye</p></body>",
    /// # );
    /// # let page = Study::open(&files, "a.html").unwrap();
    /// assert_eq!(page.described(page.select("p")?[1], "p")?, "p#two \"Bye\"");
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    ///
    /// # Errors
    /// Where the element is of another page.
    pub fn described(&self, element: ElementId, asked: &str) -> Result<String, ForeignElement> {
        let document = &self.page.document;
        let element = document.own(element)?;
        let mut told = document.label(element);
        let words = self.words_of(element);
        if !words.is_empty() {
            told.push_str(&format!(" \"{words}\""));
        }
        let mut names: Vec<Name> = Vec::new();
        if asked.parse::<Place>().is_err() && quoted(asked).is_none() {
            self.parse_selector(asked).iter().for_each(|list| attributes_in(list, &mut names));
        }
        for name in names {
            match document.node(element).attribute(&name) {
                Some(value) => told.push_str(&format!(" {name}=\"{}\"", crate::text::shorten(value, 40))),
                None => told.push_str(&format!(", which has no `{name}`")),
            }
        }
        Ok(told)
    }

    /// Where an element, or the nearest one around it of which that is so, is written inside of another than it is in: what the
    /// parser made of the page, as one sentence.
    ///
    /// ```
    /// # use clear_cascade::{MemoryLoader, Study};
    /// # let files = MemoryLoader::default().with(
    /// #     "a.html",
    /// #     "<!DOCTYPE html><style>p { color: navy; margin: 1px } .lead { color: gold } p::before { content: '*' } b { widht: 2px; width: 3px }
    /// #     @media print { p { color: black } }</style><body><p id=one class=lead>Hello <b>you</b></p><p id=two>Bye</p></body>",
    /// # );
    /// # let page = Study::open(&files, "a.html").unwrap();
    /// assert_eq!(page.how_parsed(page.select("b")?[0])?, None); // It is where it is written.
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    ///
    /// # Errors
    /// Where the element is of another page.
    pub fn how_parsed(&self, element: ElementId) -> Result<Option<String>, ForeignElement> {
        Ok(self.parsed_otherwise(self.page.document.own(element)?))
    }

    /// The same for an element of this page.
    pub(crate) fn parsed_otherwise(&self, element: ElementId) -> Option<String> {
        let document = &self.page.document;
        let (moved, written) = document.lineage(element).find_map(|e| Some((e, document.written_in(e)?)))?;
        let (label, outer) = (document.label(moved), document.label(written));
        let place = |e: ElementId| self.sources.placed(document.span(e));
        let why = if moved < written {
            format!("HTML moves it out, before the `{outer}`")
        } else {
            format!("HTML has closed that before it: `{outer}` cannot hold it there")
        };
        Some(format!("`{label}` in {} is written inside `{outer}` ({}), but {why}", place(moved), place(written)))
    }

    /// What parts the text of an element from that beside it: nothing where it is on the same line. None for elements whose text
    /// is none of the page's.
    fn parted(&self, element: ElementId) -> Option<&'static str> {
        let name = &*self.page.document.node(element).name;
        (!UNSEEN.contains(&name)).then(|| if INLINE.contains(&name) { "" } else { " " })
    }

    /// The first words of the text in an element; empty where it has none, or holds the whole page.
    ///
    /// ```
    /// # use clear_cascade::{MemoryLoader, Study};
    /// # let files = MemoryLoader::default().with(
    /// #     "a.html",
    /// #     "<!DOCTYPE html><style>p { color: navy; margin: 1px } .lead { color: gold } p::before { content: '*' } b { widht: 2px; width: 3px }
    /// #     @media print { p { color: black } }</style><body><p id=one class=lead>Hello <b>you</b></p><p id=two>Bye</p></body>",
    /// # );
    /// # let page = Study::open(&files, "a.html").unwrap();
    /// assert_eq!(page.words(page.select("#one")?[0])?, "Hello you");
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    ///
    /// # Errors
    /// Where the element is of another page.
    pub fn words(&self, element: ElementId) -> Result<String, ForeignElement> {
        Ok(self.words_of(self.page.document.own(element)?))
    }

    /// The same for an element of this page.
    pub(crate) fn words_of(&self, element: ElementId) -> String {
        let document = &self.page.document;
        let node = document.node(element);
        if node.parent.is_none() || node.is_html("body") || node.is_html("head") {
            return String::new();
        }
        // The first words of a large part of the page are near its start.
        let text = document.text_in(element, &|e| self.parted(e), MOST_NODES);
        crate::text::shorten(&text.chars().take(MOST_LETTERS).collect::<String>(), 32)
    }

    /// The element written at a place: the one whose start tag is there, else the innermost around it.
    fn at_place(&self, place: &Place) -> Result<Vec<ElementId>, LocateError> {
        let Place { file, line, column } = place;
        let (line, column) = (*line, *column);
        let page = self.sources.at(self.page.document.source);
        if !page.name.ends_with(file.trim_start_matches("./")) && !file.ends_with(&*page.name) {
            return Err(LocateError::OtherFile { given: file.clone(), page: page.name.clone() });
        }
        let nothing = LocateError::Place { line, lines: page.line_count() };
        let Some((start, end)) = page.line_range(line) else {
            return Err(nothing);
        };
        let written = |e: &ElementId| self.page.document.node(*e).tag;
        let tagged = || self.page.document.all_ids().filter_map(|e| written(&e).map(|t| (e, t)));
        if let Some(column) = column {
            let at = page.byte_at(line, column).unwrap_or(end);
            if let Some((found, _)) = tagged().find(|(_, t)| t.start <= at && at < t.end) {
                return Ok(vec![found]);
            }
            return tagged().rfind(|(_, t)| t.start <= at).map(|(e, _)| vec![e]).ok_or(nothing);
        }
        let here: Vec<ElementId> =
            tagged().filter(|(_, t)| t.start >= start && t.start <= end).map(|(e, _)| e).collect();
        if !here.is_empty() {
            return Ok(here);
        }
        tagged().rfind(|(_, t)| t.start <= start).map(|(e, _)| vec![e]).ok_or(nothing)
    }

    /// The name on the page that is nearest to one in a selector that takes nothing.
    pub(crate) fn nearest_name(&self, list: &SelectorList) -> Option<String> {
        let elements = self.page.document.light();
        for part in list.selectors.iter().flat_map(|s| &s.compounds).flat_map(|c| &c.parts) {
            let (kind, dot, name, known): (_, _, _, Vec<&str>) = match &part.simple {
                Simple::Class(n) => {
                    ("class", ".", n, elements.iter().flat_map(|e| e.classes.iter().map(|c| &**c)).collect())
                }
                Simple::Id(n) => ("id", "#", n, elements.iter().filter_map(|e| e.id.as_deref()).collect()),
                Simple::Type(_, n, _) => ("element", "", n, elements.iter().map(|e| &*e.name).collect()),
                _ => continue,
            };
            if known.contains(&&**name) {
                continue;
            }
            let found = near::nearest(name, known.into_iter());
            return Some(match found {
                Some(n) => format!("no {kind} `{name}` is on the page; the nearest is `{dot}{n}`"),
                None => format!("no {kind} `{name}` is on the page"),
            });
        }
        None
    }
}

/// How many nodes the first words of an element are looked for in.
const MOST_NODES: usize = 64;
/// How many characters they are taken from.
const MOST_LETTERS: usize = 1024;

/// Elements whose text goes on in the line around it, as browsers show them without styles.
const INLINE: &[&str] = &[
    "a", "abbr", "b", "bdi", "bdo", "big", "cite", "code", "data", "del", "dfn", "em", "font", "i", "ins", "kbd",
    "label", "mark", "q", "s", "samp", "small", "span", "strike", "strong", "sub", "sup", "time", "tt", "u", "var",
];

/// Elements whose text is none of the page's.
const UNSEEN: &[&str] = &["script", "style", "template", "noscript", "head", "title"];

/// A text in quotes, without them.
fn quoted(name: &str) -> Option<&str> {
    ['"', '\''].into_iter().find_map(|q| name.strip_prefix(q)?.strip_suffix(q))
}

/// A text with its white space as browsers show it.
fn squeezed(text: &str) -> String {
    text.split_whitespace().collect::<Vec<_>>().join(" ")
}

/// The attributes that selectors ask for, each once.
fn attributes_in(list: &SelectorList, names: &mut Vec<Name>) {
    for part in list.selectors.iter().flat_map(|s| &s.compounds).flat_map(|c| &c.parts) {
        match &part.simple {
            Simple::Attribute(test) if !names.contains(&test.lower) => names.push(test.lower.clone()),
            Simple::PseudoClass(pseudo) => pseudo.list().into_iter().for_each(|l| attributes_in(l, names)),
            _ => {}
        }
    }
}
