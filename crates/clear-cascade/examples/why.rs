//! Asks why a property has its value: `cargo run --example why -p clear-cascade -- demo index.html h1 color`.

use clear_cascade::{FileLoader, Study};

fn main() -> Result<(), Box<dyn std::error::Error>> {
    let args: Vec<String> = std::env::args().skip(1).collect();
    let word = |i: usize, default: &str| args.get(i).cloned().unwrap_or_else(|| default.to_owned());
    let study = Study::open(&FileLoader::new(word(0, "demo")), &word(1, "index.html"))?;
    let element = study.locate(&word(2, "h1"))?.elements[0];
    let why = study.why(element, &word(3, "color"))?;
    println!("{}", why.sentence);
    for contender in &why.contenders {
        println!(
            "  {}:{}  {}: {} — {}",
            contender.at.file, contender.at.line, contender.property, contender.value, contender.reason
        );
    }
    Ok(())
}
