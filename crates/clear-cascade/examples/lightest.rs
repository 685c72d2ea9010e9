//! The lightest selector with which a declaration wins on an element:
//! `cargo run --example lightest -p clear-cascade -- demo index.html "h1" "color: gold"`.

use clear_cascade::{Change, FileLoader, RulePlace, Study};

/// What goes wrong is told as it is.
type Result<T> = std::result::Result<T, Box<dyn std::error::Error>>;

fn main() -> Result<()> {
    let args: Vec<String> = std::env::args().skip(1).collect();
    let word = |i: usize, default: &str| args.get(i).cloned().unwrap_or_else(|| default.to_owned());
    print!("{}", answer(&word(0, "demo"), &word(1, "index.html"), &word(2, ".menu a"), &word(3, "color: gold"))?);
    Ok(())
}

/// The selector with which the declaration, put after all sheets, wins on the first element of this name.
pub fn answer(root: &str, page: &str, name: &str, declaration: &str) -> Result<String> {
    let study = Study::open(&FileLoader::new(root), page)?;
    let element = study.locate(name)?.elements[0];
    let property = declaration.split(':').next().unwrap_or_default().trim();
    let longhand = &study.longhands(property)?[0];
    let mut aims = study.aim(element, &[], &[])?;
    aims.sort_by_key(|aim| (aim.specificity, aim.besides));
    for aim in aims {
        let text = format!("{} {{ {declaration} }}", aim.selector);
        let trial = study.attempt(&[Change::Rule { text: text.clone(), to: RulePlace::AfterAll }])?;
        let Some(then) = trial.element(element) else { continue };
        let why = trial.study.why(then, longhand)?;
        let won = why.winner().and_then(|w| w.selector.as_ref()).is_some_and(|s| *s == aim.selector);
        if won {
            let tried = study.compare_trial(&trial)?;
            return Ok(format!("{text}\nweighs ({}). {}\n", aim.specificity, tried.sentence));
        }
    }
    Ok("no selector is heavy enough\n".to_owned())
}
