//! Holds a menu to its look, as a test of a site would: `cargo run --example look -p clear-cascade -- demo index.html`.

use clear_cascade::{FileLoader, Study, Viewing};

/// What goes wrong is told as it is.
type Result<T> = std::result::Result<T, Box<dyn std::error::Error>>;

/// What the menu is to look like: an element, a property, a value.
const LOOK: &[(&str, &str, &str)] = &[
    (".menu", "list-style-type", "none"),
    (".menu a", "text-decoration-line", "underline"),
    (".menu a", "color", "rgb(135, 206, 250)"),
];

fn main() -> Result<()> {
    let args: Vec<String> = std::env::args().skip(1).collect();
    let word = |i: usize, default: &str| args.get(i).cloned().unwrap_or_else(|| default.to_owned());
    print!("{}", answer(&word(0, "demo"), &word(1, "index.html"))?);
    Ok(())
}

/// Whether the menu looks so on a large and a small screen and in print; where it does not, who is to blame.
pub fn answer(root: &str, page: &str) -> Result<String> {
    let study = Study::open(&FileLoader::new(root), page)?;
    let mut out = String::new();
    let views = [("large", Viewing::default()), ("small", Viewing::screen(360.0, 640.0)), ("print", Viewing::print())];
    for (name, viewing) in views {
        let seen = study.seen_with(viewing)?;
        let mut wrong = 0;
        for (selector, property, value) in LOOK {
            for element in seen.select(selector)? {
                if seen.value(element, property).as_deref() != Some(value) {
                    wrong += 1;
                    out.push_str(&format!("{name}: {selector}: {}\n", seen.why(element, property)?.sentence));
                }
            }
        }
        out.push_str(&format!("{name}: {wrong} of the values differ\n"));
    }
    Ok(out)
}
