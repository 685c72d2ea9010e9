//! Who decides the colour of every heading: `cargo run --example headings -p clear-cascade -- demo index.html`.

use clear_cascade::{FileLoader, Study};

/// What goes wrong is told as it is.
type Result<T> = std::result::Result<T, Box<dyn std::error::Error>>;

fn main() -> Result<()> {
    let args: Vec<String> = std::env::args().skip(1).collect();
    let word = |i: usize, default: &str| args.get(i).cloned().unwrap_or_else(|| default.to_owned());
    print!("{}", answer(&word(0, "demo"), &word(1, "index.html"))?);
    Ok(())
}

/// Two lines for each heading: its words and its colour, and the declaration that decides, here or on an element around it.
pub fn answer(root: &str, page: &str) -> Result<String> {
    let study = Study::open(&FileLoader::new(root), page)?;
    let mut out = String::new();
    for heading in study.select("h1, h2, h3, h4, h5, h6")? {
        let why = study.why(heading, "color")?;
        out.push_str(&format!("{} \"{}\" is {}\n", why.label, why.words, why.value));
        match why.decided_by {
            Some(by) => {
                let said = by.contender;
                out.push_str(&format!("  `{}: {}` on {}, {}\n", said.property, said.value, by.label, said.at));
            }
            None => out.push_str("  nobody: it is the initial value\n"),
        }
    }
    Ok(out)
}
