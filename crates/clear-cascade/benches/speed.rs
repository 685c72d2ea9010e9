//! How long the parts of the work take, by the size of the page: opening, matching, resolving, one `why`, one trial.
//!
//! `cargo bench -p clear-cascade --bench speed`

use clear_cascade::{Change, MemoryLoader, RulePlace, Study};
use divan::Bencher;

fn main() {
    divan::main();
}

/// Sizes: elements, with half as many rules.
const SIZES: [usize; 3] = [250, 1000, 4000];

/// A page of a size: sections with cards, and a sheet with classes, descendants, variables and states.
fn files(size: usize) -> MemoryLoader {
    let card = |i: usize| {
        format!(
            "<div class='card c{}'><h2 class=title>x</h2><p class='text t{}'>x <a href=#>y</a></p></div>\n",
            i % 97,
            i % 31
        )
    };
    let sections =
        (0..size.div_ceil(4)).map(|i| if i % 20 == 19 { format!("{}</section><section>", card(i)) } else { card(i) });
    let html = format!("<!DOCTYPE html><link rel=stylesheet href=site.css><section>{}", sections.collect::<String>());
    let rule = |i: usize| match i % 4 {
        0 => format!(".c{i} {{ --w: {i}px; padding: var(--w) 1em }}\n"),
        1 => format!(".card .t{i} {{ color: rgb({} 0 9); margin: 0 {i}px }}\n", i % 256),
        2 => format!("section > .c{i} > h2 {{ font-size: {}% }}\n", 80 + i % 40),
        _ => format!(".c{i}:hover a {{ color: red }}\n"),
    };
    let sheet: String = (0..size / 2).map(rule).collect();
    MemoryLoader::default().with("index.html", &html).with("site.css", &sheet)
}

/// The page of a size, opened.
fn opened(size: usize) -> Study {
    Study::open(&files(size), "index.html").expect("a page")
}

/// From texts to a tree and rules in order.
#[divan::bench(args = SIZES)]
fn open(bencher: Bencher<'_, '_>, size: usize) {
    let files = files(size);
    bencher.bench(|| Study::open(&files, "index.html"));
}

/// One selector tried on all elements.
#[divan::bench(args = SIZES)]
fn select(bencher: Bencher<'_, '_>, size: usize) {
    let study = opened(size);
    bencher.bench(|| study.select("section > .card:not(.c3) p + :is(a, .text), .card a:link"));
}

/// Every longhand of every element.
#[divan::bench(args = SIZES)]
fn resolve(bencher: Bencher<'_, '_>, size: usize) {
    bencher.with_inputs(|| opened(size)).bench_refs(|study| study.resolve_all());
}

/// Why an element in the middle has its colour.
#[divan::bench(args = SIZES)]
fn why(bencher: Bencher<'_, '_>, size: usize) {
    let study = opened(size);
    study.resolve_all();
    let all = study.select("p").expect("a selector");
    bencher.bench(|| study.why(all[all.len() / 2], "color"));
}

/// A rule for one class, tried, and all values compared.
#[divan::bench(args = SIZES)]
fn trial(bencher: Bencher<'_, '_>, size: usize) {
    let study = opened(size);
    study.resolve_all();
    let change = [Change::Rule { text: ".c5 { outline-offset: 3px }".to_owned(), to: RulePlace::AfterAll }];
    bencher.bench(|| study.compare_trial(&study.attempt(&change).expect("a rule")));
}
