//! How often each declaration of a sheet wins on several pages:
//! `cargo run --example tallies -p clear-cascade -- demo css/theme.css index.html programme.html visit.html`.

use std::collections::BTreeMap;

use clear_cascade::{FileLoader, Study};

/// What goes wrong is told as it is.
type Result<T> = std::result::Result<T, Box<dyn std::error::Error>>;

fn main() -> Result<()> {
    let mut args = std::env::args().skip(1);
    let root = args.next().unwrap_or_else(|| "demo".to_owned());
    let sheet = args.next().unwrap_or_else(|| "css/theme.css".to_owned());
    let mut pages: Vec<String> = args.collect();
    if pages.is_empty() {
        pages = ["index.html", "programme.html", "visit.html"].map(str::to_owned).to_vec();
    }
    print!("{}", answer(&root, &sheet, &pages)?);
    Ok(())
}

/// A line for each declaration of the sheet: how often it wins and loses on all pages together, and where it is written.
pub fn answer(root: &str, sheet: &str, pages: &[String]) -> Result<String> {
    let files = FileLoader::new(root);
    let mut counts: BTreeMap<(u32, Option<u32>), (String, usize, usize)> = BTreeMap::new();
    for page in pages {
        let tallies = Study::open(&files, page)?.tallies();
        for tally in tallies.into_iter().filter(|t| t.at.file.ends_with(sheet)) {
            let said = tally.declaration.split_whitespace().collect::<Vec<_>>().join(" ");
            let start = (said, 0, 0);
            let count = counts.entry((tally.at.line, tally.at.column)).or_insert(start);
            count.1 += tally.wins + tally.partly;
            count.2 += tally.loses - tally.partly;
        }
    }
    let line = |((line, _), (said, wins, loses))| format!("wins {wins:3}, loses {loses:3}  `{said}` {sheet}:{line}\n");
    Ok(counts.into_iter().map(line).collect())
}
