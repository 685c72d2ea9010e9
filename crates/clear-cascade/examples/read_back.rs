//! An answer kept as JSON, read back, and asked further: `cargo run --example read_back -p clear-cascade -- demo index.html h1`.

use clear_cascade::answer::Why;
use clear_cascade::{Change, FileLoader, Study};

/// What goes wrong is told as it is.
type Result<T> = std::result::Result<T, Box<dyn std::error::Error>>;

fn main() -> Result<()> {
    let args: Vec<String> = std::env::args().skip(1).collect();
    let word = |i: usize, default: &str| args.get(i).cloned().unwrap_or_else(|| default.to_owned());
    print!("{}", answer(&word(0, "demo"), &word(1, "index.html"), &word(2, "h1"))?);
    Ok(())
}

/// What the kept answer says, and what would be if its winner were cut out.
pub fn answer(root: &str, page: &str, name: &str) -> Result<String> {
    let study = Study::open(&FileLoader::new(root), page)?;
    let kept = serde_json::to_string(&study.why(study.locate(name)?.elements[0], "color")?)?;

    // Somewhere else, later: ids and places in the answer go back into questions.
    let why: Why = serde_json::from_str(&kept)?;
    let mut out = format!("{}\n", why.sentence);
    if let Some(by) = &why.decided_by {
        let change = [Change::Cut { at: by.contender.at.clone() }];
        let trial = study.attempt(&change)?;
        out.push_str(&format!("{}\n", serde_json::to_string(&change)?));
        out.push_str(&format!("{}\n", study.compare_trial(&trial)?.sentence));
        if let Some(then) = trial.element(why.element) {
            out.push_str(&format!("{}\n", trial.study.why(then, &why.property)?.sentence));
        }
    }
    Ok(out)
}
