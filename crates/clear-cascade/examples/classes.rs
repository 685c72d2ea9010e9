//! Classes that a page uses and no sheet styles, and the reverse: `cargo run --example classes -p clear-cascade -- demo index.html`.

use std::collections::BTreeSet;

use clear_cascade::cascade::Origin;
use clear_cascade::selector::{SelectorList, Simple};
use clear_cascade::{FileLoader, Study};

/// What goes wrong is told as it is.
type Result<T> = std::result::Result<T, Box<dyn std::error::Error>>;

fn main() -> Result<()> {
    let args: Vec<String> = std::env::args().skip(1).collect();
    let word = |i: usize, default: &str| args.get(i).cloned().unwrap_or_else(|| default.to_owned());
    print!("{}", answer(&word(0, "demo"), &word(1, "index.html"))?);
    Ok(())
}

/// The classes that are only on the page, and those that are only in its own sheets.
pub fn answer(root: &str, page: &str) -> Result<String> {
    let study = Study::open(&FileLoader::new(root), page)?;
    let elements = study.document().all_elements();
    let used: BTreeSet<String> =
        elements.flat_map(|e| e.classes.iter().map(ToString::to_string).collect::<Vec<_>>()).collect();
    let mut styled = BTreeSet::new();
    for rule in study.rules().into_iter().filter(|r| r.origin == Origin::Author) {
        for aimed in rule.selectors {
            // Nested selectors start with a combinator at times; what is around them does not matter here.
            let Ok(list) = aimed.selector.trim_start_matches(['>', '+', '~', ' ']).parse::<SelectorList>() else {
                continue;
            };
            styled.extend(list.parts().filter_map(|part| match &part.simple {
                Simple::Class(name) => Some(name.to_string()),
                _ => None,
            }));
        }
    }
    let told = |a: &BTreeSet<String>, b: &BTreeSet<String>| a.difference(b).cloned().collect::<Vec<_>>().join(" ");
    Ok(format!("used, not styled: {}\nstyled, not used: {}\n", told(&used, &styled), told(&styled, &used)))
}
