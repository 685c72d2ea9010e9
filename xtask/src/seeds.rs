//! What fuzzing starts from: the test data and the sample site as inputs of each target, and the words of the table of properties as
//! a dictionary. Both are made anew from what is in the repository and are no part of it.

use std::collections::BTreeSet;
use std::fs;
use std::path::Path;

use clear_cascade::property::PropertyId;
use clear_cascade::review::Kind;

/// Where the inputs go, a folder a target.
const CORPUS: &str = "fuzz/corpus";
/// Where the dictionary goes.
const DICTIONARY: &str = "fuzz/dictionary";
/// Where the test data is.
const DATA: &str = "crates/clear-cascade/tests/data";
/// The sample site.
const DEMO: &str = "demo";
/// Where commands stand as people write them.
const GUIDE: &str = "docs/guide.md";
/// Conditions of each kind, for which there is no test data.
const CONDITIONS: [&[&str]; 3] = [
    &[
        "width >= 600px",
        "400px < width <= 70em",
        "min-aspect-ratio: 16/9",
        "orientation: landscape",
        "prefers-color-scheme: dark",
        "(hover) and (pointer: fine)",
        "not (color)",
        "(monochrome) or (resolution > 1dppx)",
        "width: calc(10px + 2em)",
        "display-mode: standalone",
    ],
    &[
        "display: grid",
        "color: color-mix(in srgb, red, blue)",
        "--x: 1",
        "selector(:has(> a))",
        "(top: 0) and (not (left: x))",
        "font-tech(color-COLRv1)",
        "font-format(woff2)",
        "at-rule(@layer)",
    ],
    &[
        "inline-size > 40rem",
        "style(--x: 1px)",
        "style(--x)",
        "scroll-state(stuck: top)",
        "aspect-ratio > 1/2",
        "height",
    ],
];

/// A file of the repository.
fn read(path: &str) -> Result<String, String> {
    fs::read_to_string(path).map_err(|e| format!("{path}: {e}"))
}

/// The lines of a table in the test data, by columns.
fn rows(name: &str) -> Result<Vec<Vec<String>>, String> {
    let text = read(&format!("{DATA}/{name}"))?;
    let rows = text.lines().filter(|line| !line.starts_with("# "));
    Ok(rows.map(|line| line.split('\t').map(str::to_owned).collect()).collect())
}

/// The files below a folder that end in one of these.
fn below(folder: &Path, endings: &[&str], into: &mut Vec<Vec<u8>>) -> Result<(), String> {
    for entry in fs::read_dir(folder).map_err(|e| format!("{}: {e}", folder.display()))? {
        let path = entry.map_err(|e| e.to_string())?.path();
        if path.is_dir() {
            below(&path, endings, into)?;
        } else if path.extension().is_some_and(|e| endings.contains(&e.to_string_lossy().as_ref())) {
            into.push(fs::read(&path).map_err(|e| format!("{}: {e}", path.display()))?);
        }
    }
    Ok(())
}

/// The inputs of a target.
fn inputs(target: &str) -> Result<Vec<Vec<u8>>, String> {
    let first = |rows: Vec<Vec<String>>| rows.into_iter().map(|row| row[0].clone().into_bytes());
    let cases = rows("cases.tsv")?;
    let mut found = Vec::new();
    match target {
        "html" => {
            below(Path::new(DEMO), &["html"], &mut found)?;
            below(Path::new(DATA), &["html"], &mut found)?;
            for name in ["cases.tsv", "attributes.tsv", "states.tsv"] {
                found.extend(first(rows(name)?));
            }
            found.extend(Kind::ALL.iter().map(|kind| kind.example.with.as_bytes().to_vec()));
        }
        "css" => {
            below(Path::new(DEMO), &["css"], &mut found)?;
            below(Path::new(DATA), &["css"], &mut found)?;
            let inside = |page: &str| Some(page.split_once("<style>")?.1.split_once("</style>")?.0.as_bytes().to_vec());
            found.extend(cases.iter().filter_map(|row| inside(&row[0])));
            found.extend(Kind::ALL.iter().filter_map(|kind| inside(kind.example.with)));
        }
        "selector" => {
            found.extend(first(rows("selectors.tsv")?));
            found.extend(first(rows("parses.tsv")?));
        }
        "value" => {
            // Two bytes say which longhand, as the target reads them.
            let number =
                |name: &str| PropertyId::longhands().position(|p| p.name() == name).and_then(|n| u16::try_from(n).ok());
            let input = |name: &str, value: &str| Some([&number(name)?.to_le_bytes()[..], value.as_bytes()].concat());
            found.extend(rows("values.tsv")?.iter().filter_map(|row| input(&row[0], &row[1])));
            found.extend(rows("colors.tsv")?.iter().filter_map(|row| input("color", &row[0])));
        }
        "condition" => {
            let of =
                |(kind, texts): (u8, &[&str])| texts.iter().map(move |t| [&[kind], t.as_bytes()].concat()).collect();
            found.extend((0..).zip(CONDITIONS).flat_map(of as fn((u8, &[&str])) -> Vec<Vec<u8>>));
        }
        _ => {
            let guide = read(GUIDE)?;
            let commands =
                guide.lines().filter_map(|line| line.trim_start_matches("$ ").strip_prefix("clear-cascade "));
            found.extend(commands.map(|line| line.split_whitespace().collect::<Vec<_>>().join("\n").into_bytes()));
        }
    }
    Ok(found)
}

/// The words of a grammar: names, names with what opens a function, and names of properties.
fn words(table: &str) -> BTreeSet<&str> {
    let name = |c: char| c.is_ascii_alphanumeric() || matches!(c, '-' | '(' | '@' | ':');
    let texts = table.split('"').skip(1).step_by(2).filter(|text| !text.starts_with("http"));
    let words = texts.flat_map(|text| text.split(|c: char| !name(c))).map(|word| word.trim_start_matches('('));
    words.filter(|word| (2..=40).contains(&word.len()) && word.contains(|c: char| c.is_ascii_lowercase())).collect()
}

/// Writes inputs and dictionary.
///
/// # Errors
/// Where a file cannot be read or written.
pub(crate) fn run() -> Result<(), String> {
    for target in ["html", "css", "selector", "value", "condition", "arguments"] {
        let folder = format!("{CORPUS}/{target}");
        fs::create_dir_all(&folder).map_err(|e| format!("{folder}: {e}"))?;
        for (i, input) in inputs(target)?.into_iter().enumerate() {
            let path = format!("{folder}/seed-{i:04}");
            fs::write(&path, input).map_err(|e| format!("{path}: {e}"))?;
        }
    }
    let table = read(super::TABLE)?;
    let lines: String = words(&table).into_iter().map(|word| format!("\"{word}\"\n")).collect();
    fs::write(DICTIONARY, lines).map_err(|e| format!("{DICTIONARY}: {e}"))
}
