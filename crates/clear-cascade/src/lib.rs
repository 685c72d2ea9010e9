//! Tells why an HTML element looks as it does.
//!
//! A [`Loader`] gets the page and its stylesheets, a [`Study`] is the page with all its styles, and everything is asked of it:
//!
//! ```
//! use clear_cascade::{MemoryLoader, Study};
//! let files = MemoryLoader::default()
//!     .with("index.html", "<link rel=stylesheet href=site.css><h1>Tonight</h1>")
//!     .with("site.css", "h1 { color: navy }");
//! let study = Study::open(&files, "index.html").unwrap();
//! let h1 = study.select("h1").unwrap()[0];
//! let why = study.why(h1, "color").unwrap();
//! assert_eq!(why.sentence, "`color` is rgb(0, 0, 128), set by `h1` in site.css:1:6.");
//! ```
//!
//! | one wants to know | one calls |
//! |---|---|
//! | which elements there are, and one by its name | [`Study::document`], [`Study::select`], [`Study::locate`] |
//! | a value, all values | [`Study::value`], [`Study::values`], [`Study::generated`] |
//! | why it is so, and who decides | [`Study::why`], [`Why::decided_by`](answer::Why::decided_by) |
//! | why a rule does nothing here | [`Study::why_not`], with changes that help |
//! | what a selector or rule takes, and how often its declarations win | [`Study::reach`], [`Study::tallies`] |
//! | what the sheets hold, and what was dropped | [`Study::rules`], [`Study::declarations`], [`Study::notes`] |
//! | what is wrong with a page or a site | [`Site`], [`review::Facts`], [`review::Review`] |
//! | a selector for these elements and no others | [`Study::aim`] |
//! | what would be if | [`Study::attempt`], [`Study::compare_trial`] |
//! | how two elements, pages or views differ | [`Study::compare_elements`], [`Study::compare`], [`Study::compare_views`] |
//! | the page in print, on a small screen, hovered, in the dark | [`Study::seen_with`] and a [`Viewing`] |
//!
//! [`guide`] has more: what comes from which command of the program, and where the library departs from browsers.
//!
//! # The page of the examples
//! Where an example says `page` and does not show what it is, it is this one, `a.html`:
//!
//! ```html
//! <!DOCTYPE html><style>p { color: navy; margin: 1px } .lead { color: gold } p::before { content: '*' } b { widht: 2px; width: 3px }
//!     @media print { p { color: black } }</style><body><p id=one class=lead>Hello <b>you</b></p><p id=two>Bye</p></body>
//! ```
//!
//! # Ids, places, orders
//! An [`ElementId`](document::ElementId) knows its page; other pages refuse it. A [`Place`](source::Place) is `FILE:LINE:COLUMN`, as answers
//! print it and questions take it; a file may be named by the end of its path, where that fits one file only. Lines and columns
//! count from 1, columns in characters; offsets are bytes of the decoded text from 0. Lengths are CSS px. Elements come in
//! document order, contenders strongest first, a lineage outwards from the element. A contender without a
//! [`Stage`](cascade::Stage) was alone in its contest.
//!
//! # Errors and panics
//! Whatever is wrong in a page or a sheet is a [`Note`](stylesheet::Note), and the rest counts. A question that cannot be answered is
//! an error that says why in one clause, often with what was probably meant. The library never panics, prints or exits, and reads
//! no file but through a loader.
//!
//! # How it is built
//! The way through the crate is the way of a page from bytes to an answer: texts and places in [`source`], the tree in
//! [`document`], what properties take in [`property`], who is hit in [`selector`], rules in [`stylesheet`], who wins in [`cascade`],
//! all of it together in [`Study`], the answers in [`answer`], and what is wrong with all of it in [`review`]. A stage looks only at
//! stages before it; a few between them are the crate's own, and ARCHITECTURE.md names them.
#![warn(clippy::print_stdout, clippy::print_stderr)]

// Names that are near each other.
mod near;
// How far the library goes.
mod limits;
// Texts cut short.
mod text;
// Texts and places.
pub mod source;
// Text -> elements with places.
pub mod document;
// Text -> tokens with matched brackets.
mod syntax;
// What a page is seen with.
pub mod viewing;
// Tokens -> values; specified -> computed.
mod value;
// The table of properties, and what each takes.
pub mod property;
// Tokens -> selectors; whether one takes an element.
pub mod selector;
// Text -> rules, conditions and declarations with places.
pub mod stylesheet;
// The stages, and what decides about a declaration.
pub mod cascade;
// The sheets of browser defaults.
mod defaults;
// A document and its sheets -> rules in order.
mod page;
// Rules and elements -> computed values.
mod style;
// A page with all its styles.
mod study;
// Questions -> structured answers.
pub mod answer;
// Facts of pages -> findings.
pub mod review;

/// More to read.
pub mod guide {
    /// From the commands of the program to calls of the library.
    #[doc = include_str!("../docs/from_the_program.md")]
    pub mod from_the_program {}

    #[doc = include_str!("../docs/guide.md")]
    pub mod work {}

    #[doc = include_str!("../docs/departures.md")]
    pub mod departures {}
}

#[cfg(doctest)]
#[doc = include_str!("../README.md")]
mod readme {}

pub use source::{FileLoader, Loader, MemoryLoader, SITE};
pub use study::{Change, Edit, Error, Options, PlaceError, RulePlace, Site, Study, Trial, TrialError};
pub use viewing::{Medium, States, Viewing, ViewingError};
