//! Tests that drive the library as its users do: pages in memory, questions, answers.

mod agree;
mod cascade;
mod corpora;
mod documents;
mod examples;
mod face;
mod limits;
mod oracle;
mod reading;
mod review;
mod rewrites;
mod selectors;
mod shadows;
mod sheets;
mod stages;
mod substitution;
mod trials;
mod values;
mod why;

use clear_cascade::{MemoryLoader, Options, Study};

/// A study of one page without other files.
fn page(html: &str) -> Study {
    files(&[("index.html", html)])
}

/// A study of `index.html` among some files.
fn files(list: &[(&str, &str)]) -> Study {
    with_options(list, &Options::default())
}

/// A study of `index.html` among some files, with options.
fn with_options(list: &[(&str, &str)], options: &Options) -> Study {
    let loader = list.iter().fold(MemoryLoader::default(), |l, (name, text)| l.with(name, text));
    Study::open_with(&loader, "index.html", options).expect("the page opens")
}

/// The value of a property on the first element that a selector takes.
#[track_caller]
fn value(study: &Study, selector: &str, property: &str) -> String {
    let element = study.select(selector).expect("the selector takes an element")[0];
    study.value(element, property).expect("there is such a longhand")
}

/// The pages of the sample site.
fn demo(name: &str) -> Study {
    let root = concat!(env!("CARGO_MANIFEST_DIR"), "/../../demo");
    Study::open(&clear_cascade::FileLoader::new(root), name).expect("the page opens")
}
