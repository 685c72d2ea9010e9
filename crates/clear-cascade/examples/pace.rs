//! Measures the library on a page: everything resolved, one `why` on the open page, one trial, each a median.
//!
//! `cargo run --release --example pace -p clear-cascade -- demo/index.html --root demo --times 5` prints a line of JSON. With `--threads N` it tells what only the resolving takes on so many threads.

use std::collections::HashMap;
use std::path::Path;
use std::sync::{Mutex, PoisonError};
use std::time::Instant;

use clear_cascade::document::ElementId;
use clear_cascade::source::{LoadError, Loaded};
use clear_cascade::{Change, FileLoader, Loader, RulePlace, Study};
use url::Url;

/// As in the program: much of the work is to make and drop small values.
#[global_allocator]
static ALLOCATOR: mimalloc::MiMalloc = mimalloc::MiMalloc;

/// Properties of different kinds: inherited or not, with lengths, colours, shorthands and lists.
const PROPERTIES: [&str; 10] = [
    "color",
    "display",
    "margin-left",
    "font-size",
    "background-color",
    "padding-top",
    "width",
    "line-height",
    "border-top-width",
    "box-sizing",
];

fn main() -> Result<(), Box<dyn std::error::Error>> {
    let args: Vec<String> = std::env::args().skip(1).collect();
    let option = |name: &str| args.iter().position(|a| a == name).and_then(|i| args.get(i + 1));
    let page = args.first().ok_or("usage: pace PAGE --root DIR --times N")?;
    let root = option("--root").map_or_else(|| Path::new(page).parent().unwrap_or(Path::new(".")), Path::new);
    let times: usize = option("--times").map_or(Ok(5), |t| t.parse())?;

    let files = FileLoader::new(root);
    let url = files.url_of(Path::new(page)).ok_or("the page is not below the root")?;
    let path = url.path().trim_start_matches('/');
    let texts = Kept { files, known: Mutex::default() };
    Study::open(&texts, path)?;

    let resolve_ms = median(times, || {
        let study = Study::open(&texts, path).expect("opened before");
        study.resolve_all();
        study
    });
    if let Some(threads) = option("--threads").and_then(|t| t.parse().ok()) {
        // Opening takes one thread, whatever is allowed: it is left out.
        let mut opened: Vec<Study> = (0..times.max(1)).filter_map(|_| Study::open(&texts, path).ok()).collect();
        let ms = median(times, || opened.pop().inspect(|study| study.resolve_all_on(threads)));
        println!("{{\"threads\": {threads}, \"resolve_ms\": {ms:.3}}}");
        return Ok(());
    }
    let study = Study::open(&texts, path)?;
    study.resolve_all();
    let elements: Vec<ElementId> = study.document().ids().collect();
    let middle = elements[elements.len() / 2];
    let each = median(times, || PROPERTIES.map(|property| study.why(middle, property).is_ok()));
    let trial_ms = match class_near(&study, &elements, elements.len() / 2) {
        Some(class) => {
            let text = format!(".{class} {{ outline-offset: 3px }}");
            let change = [Change::Rule { text, to: RulePlace::AfterAll }];
            median(times, || study.compare_trial(&study.attempt(&change).expect("a rule")))
        }
        None => 0.0,
    };
    println!(
        "{{\"resolve_ms\": {resolve_ms:.3}, \"why_ms\": {:.4}, \"trial_ms\": {trial_ms:.3}, \"elements\": {}}}",
        each / 10.0,
        elements.len()
    );
    Ok(())
}

/// Files that are read from the disk once, so that reading them is not measured.
struct Kept {
    /// Where they come from.
    files: FileLoader,
    /// What was read.
    known: Mutex<HashMap<Url, Result<Loaded, LoadError>>>,
}

impl Loader for Kept {
    fn load(&self, url: &Url) -> Result<Loaded, LoadError> {
        let mut known = self.known.lock().unwrap_or_else(PoisonError::into_inner);
        known.entry(url.clone()).or_insert_with(|| self.files.load(url)).clone()
    }
}

/// A class of the first element from a place on that has one.
fn class_near(study: &Study, elements: &[ElementId], from: usize) -> Option<String> {
    let mut around = elements[from..].iter().chain(elements[..from].iter().rev());
    around.find_map(|e| study.document().get(*e)?.classes.first().map(ToString::to_string))
}

/// The median of so many runs, in milliseconds; what a run makes is dropped outside of it.
fn median<T>(times: usize, mut run: impl FnMut() -> T) -> f64 {
    let mut taken: Vec<f64> = (0..times.max(1))
        .map(|_| {
            let start = Instant::now();
            let made = run();
            let taken = start.elapsed().as_secs_f64() * 1e3;
            drop(made);
            taken
        })
        .collect();
    taken.sort_by(f64::total_cmp);
    taken[taken.len() / 2]
}
