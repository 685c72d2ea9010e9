//! Tells why an HTML element looks as it does.
//!
//! The way through the crate is the way of a page from bytes to an answer: texts and places in [`source`], the tree in
//! [`document`], what a value is in `value`, what properties take in [`property`], who is hit in [`selector`], rules in
//! [`stylesheet`], who wins in [`cascade`], the rules of a page in order in `page`, what comes of them in `style`, all of it
//! together in [`Study`], and the answers in [`answer`]. A stage looks only at stages before it.
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
#![warn(clippy::print_stdout, clippy::print_stderr)]

// Names that are near each other.
mod near;
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

pub use source::{FileLoader, Loader, MemoryLoader, SITE};
pub use study::{Change, Edit, Error, Options, PlaceError, RulePlace, Study, Trial, TrialError};
pub use viewing::{Medium, States, Viewing, ViewingError};
