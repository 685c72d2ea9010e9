//! Larger sets of cases, made at random and answered by a browser through its scripting interfaces.

use clear_cascade::answer::ValueFrom;
use clear_cascade::selector::SelectorList;
use clear_cascade::{FileLoader, Study};

use crate::{page, value};

/// The lines of a data file, split at the tab.
fn rows(name: &str) -> Vec<(String, String)> {
    let path = format!("{}/tests/data/{name}", env!("CARGO_MANIFEST_DIR"));
    let text = std::fs::read_to_string(path).expect("the data is there");
    let lines = text.lines().filter(|l| !l.starts_with("# "));
    lines.filter_map(|l| l.split_once('\t')).map(|(a, b)| (a.to_owned(), b.to_owned())).collect()
}

/// Splits a text into what is no number, and its numbers.
fn numbers(text: &str) -> (String, Vec<f64>) {
    let mut words = String::new();
    let mut found = Vec::new();
    let mut rest = text;
    while let Some(first) = rest.chars().next() {
        let starts = first.is_ascii_digit()
            || (matches!(first, '-' | '.') && rest[1..].starts_with(|c: char| c.is_ascii_digit() || c == '.'));
        let named = words.ends_with(|c: char| c.is_ascii_alphabetic() || c == '-');
        if starts && !named {
            let sign = usize::from(first == '-');
            let length =
                sign + rest[sign..].find(|c: char| !(c.is_ascii_digit() || c == '.')).unwrap_or(rest.len() - sign);
            found.extend(rest[..length].parse::<f64>().ok());
            words.push('#');
            rest = &rest[length..];
        } else {
            words.push(first);
            rest = &rest[first.len_utf8()..];
        }
    }
    (words, found)
}

/// Whether two values are the same but for the last digits of their numbers.
fn near(a: &str, b: &str) -> bool {
    let ((words_a, a), (words_b, b)) = (numbers(a), numbers(b));
    words_a == words_b && a.iter().zip(&b).all(|(x, y)| (x - y).abs() <= 6e-4 * y.abs().max(1.0))
}

/// A text as it stands in an attribute.
fn quoted(text: &str) -> String {
    text.replace('&', "&amp;").replace('"', "&quot;")
}

#[test]
fn colours_compute_as_in_a_browser() {
    let rows = rows("colors.tsv");
    assert!(rows.len() >= 1900);
    let elements: String =
        rows.iter().map(|(c, _)| format!("<p style=\"color: {0}; background-color: {0}\">", quoted(c))).collect();
    let study = page(&format!("<!DOCTYPE html><style>body {{ color: rgb(12, 34, 56) }}</style><body>{elements}"));
    let paragraphs = study.select("p").unwrap();
    assert_eq!(paragraphs.len(), rows.len());
    let wrong: Vec<String> = rows
        .iter()
        .zip(paragraphs)
        .map(|((color, expected), p)| (color, expected, study.value(p, "background-color").unwrap()))
        .filter(|(_, expected, got)| !near(got, expected))
        .map(|(color, expected, got)| format!("{color}: expected {expected}, got {got}"))
        .collect();
    assert!(wrong.is_empty(), "{} of {}:\n{}", wrong.len(), rows.len(), wrong.join("\n"));
}

/// Declarations with what a browser computes for a longhand, and a page with a paragraph for each.
fn values() -> (Vec<[String; 4]>, Study) {
    let split = |(property, rest): (String, String)| {
        let rest: Vec<String> = rest.split('\t').map(str::to_owned).collect();
        let [value, longhand, computed] = rest.try_into().expect("four columns");
        [property, value, longhand, computed]
    };
    let rows: Vec<[String; 4]> = rows("values.tsv").into_iter().map(split).collect();
    assert!(rows.len() >= 1500);
    let elements: String = rows.iter().map(|r| format!("<p style=\"{}: {}\"></p>", r[0], quoted(&r[1]))).collect();
    let study = page(&format!(
        "<!DOCTYPE html><style>html {{ font-size: 10px }} body {{ font: 20px/30px Arial; color: rgb(12, 34, 56) }}</style>\
         <body>{elements}"
    ));
    (rows, study)
}

#[test]
fn derivations_come_to_the_value() {
    let (rows, study) = values();
    let mut wrong = Vec::new();
    let mut products = 0;
    for (row, p) in rows.iter().zip(study.select("p").unwrap()) {
        let why = study.why(p, &row[2]).unwrap();
        let Some(winner) = why.contenders.first().filter(|_| why.from == ValueFrom::Declared) else { continue };
        let as_written = winner.value.eq_ignore_ascii_case(&why.value);
        if !as_written && !why.derivation.iter().any(|step| step.contains(&why.value)) {
            wrong.push(format!("{}: {} -> {}: {:?}", row[0], row[1], why.value, why.derivation));
        }
        // A product that is shown is right: `2em × 20px (…) = 40px`.
        for step in &why.derivation {
            let Some(((left, right), (_, result))) = step.split_once(" × ").zip(step.rsplit_once(" = ")) else {
                continue;
            };
            let first = |text: &str| numbers(text).1.first().copied();
            if let (Some(a), Some(b), Some(c)) = (first(left), first(right), first(result)) {
                products += 1;
                let percent = if left.ends_with('%') { 0.01 } else { 1.0 };
                if (a * b * percent - c).abs() > 6e-3 * c.abs().max(1.0) {
                    wrong.push(format!("{}: {}: {step}", row[0], row[1]));
                }
            }
        }
    }
    assert!(wrong.is_empty() && products > 50, "{products} products; {}:\n{}", wrong.len(), wrong.join("\n"));
}

#[test]
fn values_compute_as_in_a_browser() {
    let (rows, study) = values();
    let wrong: Vec<String> = rows
        .iter()
        .zip(study.select("p").unwrap())
        .map(|(row, p)| (row, study.value(p, &row[2]).unwrap()))
        .filter(|(row, got)| !near(got, &row[3]))
        .map(|(row, got)| format!("{}: {} -> {}: expected {}, got {got}", row[0], row[1], row[2], row[3]))
        .collect();
    assert!(wrong.is_empty(), "{} of {}:\n{}", wrong.len(), rows.len(), wrong.join("\n"));
}

#[test]
fn attributes_style_as_in_a_browser() {
    let rows = rows("attributes.tsv");
    assert!(rows.len() >= 250);
    let sections: String = rows.iter().map(|(html, _)| format!("<section>{html}</section>\n")).collect();
    let study = page(&format!("<!doctype html><html><head></head><body>{sections}</body></html>"));
    let targets = study.select("[t]").unwrap();
    assert_eq!(targets.len(), rows.len());
    let mut wrong = Vec::new();
    for ((html, rest), target) in rows.iter().zip(targets) {
        let (property, expected) = rest.split_once('\t').unwrap();
        let got = study.value(target, property).unwrap();
        if !near(&got, expected) {
            wrong.push(format!("{html}: {property}: expected {expected}, got {got}"));
        }
    }
    assert!(wrong.is_empty(), "{} of {}:\n{}", wrong.len(), rows.len(), wrong.join("\n"));
}

#[test]
fn custom_functions_come_to_what_a_browser_makes_of_them() {
    let rows = rows("functions.tsv");
    assert!(rows.len() >= 80);
    let elements: String =
        rows.iter().map(|(w, _)| format!("<i data-w=6 style=\"width: {}\"></i>", quoted(w))).collect();
    let css = include_str!("../data/functions.css");
    let study = page(&format!("<!DOCTYPE html><style>{css}</style><body style=\"font-size: 20px\">{elements}"));
    let wrong: Vec<String> = rows
        .iter()
        .zip(study.select("i").unwrap())
        .map(|((call, expected), i)| (call, expected, study.value(i, "width").unwrap()))
        .filter(|(_, expected, got)| got != *expected)
        .map(|(call, expected, got)| format!("{call}: expected {expected}, got {got}"))
        .collect();
    assert!(wrong.is_empty(), "{} of {}:\n{}", wrong.len(), rows.len(), wrong.join("\n"));
}

#[test]
fn selectors_take_what_a_browser_takes() {
    let rows = rows("selectors.tsv");
    assert!(rows.len() >= 500);
    let loader = FileLoader::new(concat!(env!("CARGO_MANIFEST_DIR"), "/tests/data"));
    let study = Study::open(&loader, "selectors.html").unwrap();
    let mut wrong = Vec::new();
    for (selector, expected) in &rows {
        let taken = |text: &str| -> Vec<String> {
            study
                .reach(text)
                .unwrap_or_else(|e| panic!("{text}: {e}"))
                .elements
                .iter()
                .map(|e| e.element.number().to_string())
                .collect()
        };
        let got = taken(selector).join(" ");
        if got != *expected {
            wrong.push(format!("{selector}: expected {expected}, got {got}"));
        }
        // The same again from what is printed of it.
        let printed = selector.parse::<SelectorList>().unwrap().to_string();
        if taken(&printed).join(" ") != got {
            wrong.push(format!("{selector}: printed as {printed}, which takes others"));
        }
    }
    assert!(wrong.is_empty(), "{} of {}:\n{}", wrong.len(), rows.len(), wrong.join("\n"));
}

/// States that the markup decides.
const STATES: &[&str] = &[
    "enabled",
    "disabled",
    "checked",
    "default",
    "indeterminate",
    "required",
    "optional",
    "read-write",
    "read-only",
    "placeholder-shown",
    "in-range",
    "out-of-range",
    "valid",
    "invalid",
    "defined",
    "dir(rtl)",
    "lang(en)",
    "lang(fr)",
    "lang(de)",
    "lang(zh)",
];

#[test]
fn states_are_those_of_a_browser() {
    let rows = rows("states.tsv");
    assert!(rows.len() >= 700);
    let mut wrong = Vec::new();
    for (html, expected) in &rows {
        let study = page(&format!("<!DOCTYPE html><html><body>{html}</body></html>"));
        let is = |state: &&&str| study.select(&format!("[t]:{state}")).is_ok();
        let got: Vec<&str> = STATES.iter().filter(is).copied().collect();
        if got.join(" ") != *expected {
            wrong.push(format!("{html}: expected {expected}, got {}", got.join(" ")));
        }
    }
    assert!(wrong.is_empty(), "{} of {}:\n{}", wrong.len(), rows.len(), wrong.join("\n"));
}

#[test]
fn conditions_hold_where_they_do_in_a_browser() {
    let rows = rows("conditions.tsv");
    assert!(rows.len() >= 240);
    let (mut css, mut inside) = (String::new(), String::new());
    for (i, (condition, _)) in rows.iter().enumerate() {
        css += &format!("@{condition} {{ #t{i} {{ order: 1 }} }}\n");
        inside += &format!("<p id=t{i}></p>");
    }
    let containers = "<div style='container: n / size; --a: 1; --b: 2'><div style='container: m / inline-size'>";
    let study = page(&format!("<!DOCTYPE html><style>{css}</style>{containers}{inside}</div></div>"));
    let holds = |i: usize| value(&study, &format!("#t{i}"), "order") == "1";
    let wrong = rows.iter().enumerate().filter(|(i, (_, expected))| holds(*i) != (expected == "yes"));
    let wrong: Vec<&str> = wrong.map(|(_, (condition, _))| &**condition).collect();
    assert!(wrong.is_empty(), "{} of {}:\n{}", wrong.len(), rows.len(), wrong.join("\n"));
}

#[test]
fn selectors_are_valid_where_a_browser_takes_them() {
    let mut wrong = Vec::new();
    for (selector, expected) in rows("parses.tsv") {
        // Where the standard says otherwise, the row says so: docs/departures.md.
        let valid = expected.starts_with("yes") != expected.contains("by the standard");
        if selector.parse::<SelectorList>().is_ok() != valid {
            wrong.push(format!("{selector} is {}", if valid { "refused" } else { "taken" }));
        }
    }
    assert!(wrong.is_empty(), "{}", wrong.join("\n"));
}

#[test]
fn small_pages_compute_as_in_a_browser() {
    let mut wrong = Vec::new();
    for (html, rest) in rows("cases.tsv") {
        let (property, expected) = rest.split_once('\t').unwrap();
        let found = value(&page(&html), "#t", property);
        if !near(&found, expected) {
            wrong.push(format!("{html}: {property} is {found}, not {expected}"));
        }
    }
    assert!(wrong.is_empty(), "{}", wrong.join("\n"));
}

#[test]
fn pseudo_elements_compute_as_in_a_browser() {
    let mut wrong = Vec::new();
    for (html, rest) in rows("pseudos.tsv") {
        let [name, property, expected] = rest.split('\t').collect::<Vec<_>>()[..] else { panic!("{rest}") };
        let study = page(&format!("<!DOCTYPE html>{html}"));
        let located = study.locate(name).unwrap();
        let (element, pseudo) = (located.elements[0], located.pseudo.as_ref());
        let values = study.values_of(element, pseudo).unwrap();
        let found = values.iter().find(|(p, _)| p == property).map_or("", |(_, value)| value);
        let why = study.why_of(element, pseudo, property).unwrap();
        if !near(found, expected) {
            wrong.push(format!("{html}: {property} of {name} is {found}, not {expected}"));
        }
        // The answer must name the same value, and inheritance lead to where it comes from.
        let start = why.lineage.last().map_or("", |step| &step.value);
        if why.value != found || (why.from == ValueFrom::Inherited && why.decided_by.is_some() && start != found) {
            wrong.push(format!("{html}: {property} of {name} is {found}, told as {}, from {start}", why.value));
        }
    }
    assert!(wrong.is_empty(), "{}", wrong.join("\n"));
}

#[test]
fn numbers_are_compared_apart_from_words() {
    assert!(near("rgb(1, 2, 3)", "rgb(1, 2, 3)") && near("lab(50.001 20 -30)", "lab(50 20 -30)"));
    assert!(
        !near("rgb(1, 2, 3)", "rgb(1, 2, 4)")
            && !near("lab(50 20 -30)", "lch(50 20 -30)")
            && !near("color(xyz-d50 0 0 0)", "color(xyz-d65 0 0 0)")
    );
}
