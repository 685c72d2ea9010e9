//! A page with sheets: `why`, `values` and trials never contradict each other.
#![no_main]

use arbitrary::Arbitrary;
use clear_cascade::{Change, MemoryLoader, Study};

/// A rule made of pieces.
#[derive(Arbitrary, Debug)]
struct Rule {
    selector: u8,
    other: u8,
    joint: u8,
    around: u8,
    declarations: Vec<(u8, u8, bool)>,
}

/// A page made of pieces.
#[derive(Arbitrary, Debug)]
struct Input {
    elements: Vec<(u8, u8, u8)>,
    rules: Vec<Rule>,
    element: u8,
    property: u8,
}

const TAGS: [&str; 8] = ["div", "p", "a href=#", "span", "ul", "li", "h1", "td"];
const CLASSES: [&str; 5] = ["a", "b", "c", "a b", ""];
const SELECTORS: [&str; 14] = [
    "*",
    "div",
    "p",
    ".a",
    ".b",
    ".a.b",
    "#i",
    ":root",
    "a:hover",
    ":is(.a, p)",
    ":not(.b)",
    ":nth-child(2)",
    "li",
    ":where(.c)",
];
const JOINTS: [&str; 6] = ["", " ", " > ", " + ", " ~ ", ", "];
const AROUND: [(&str, &str); 8] = [
    ("", ""),
    ("@layer x {", "}"),
    ("@layer y {", "}"),
    ("@media screen {", "}"),
    ("@media print {", "}"),
    ("@scope (.a) {", "}"),
    (".a { &", "}"),
    ("@supports (color: red) {", "}"),
];
const PROPERTIES: [&str; 10] = [
    "color",
    "margin-top",
    "font-size",
    "display",
    "--x",
    "line-height",
    "border",
    "width",
    "inset-inline-start",
    "font",
];
const VALUES: [&str; 16] = [
    "red",
    "1em",
    "2px",
    "inherit",
    "initial",
    "unset",
    "revert",
    "revert-layer",
    "var(--x)",
    "var(--y, 3px)",
    "20px/2 serif",
    "1px solid",
    "50%",
    "calc(1px + 1em)",
    "block",
    "currentcolor",
];

libfuzzer_sys::fuzz_target!(|input: Input| {
    if input.elements.is_empty() || input.elements.len() > 40 || input.rules.len() > 20 {
        return;
    }
    let pick = |list: &[&'static str], i: u8| list[usize::from(i) % list.len()];
    let mut html = String::from("<!DOCTYPE html><link rel=stylesheet href=a.css><body>");
    for (tag, class, close) in &input.elements {
        let id = if close % 7 == 0 { " id=i" } else { "" };
        html += &format!("<{} class='{}'{id}>x", pick(&TAGS, *tag), pick(&CLASSES, *class));
        if close % 3 == 0 {
            html += &format!("</{}>", pick(&TAGS, *tag).split(' ').next().unwrap_or_default());
        }
    }
    let mut css = String::new();
    for rule in &input.rules {
        let (open, end) = AROUND[usize::from(rule.around) % AROUND.len()];
        let second = if rule.joint % 6 == 0 { "" } else { pick(&SELECTORS, rule.other) };
        css += &format!("{open}{}{}{second} {{ ", pick(&SELECTORS, rule.selector), pick(&JOINTS, rule.joint));
        for (property, value, important) in rule.declarations.iter().take(6) {
            css += &format!(
                "{}: {}{}; ",
                pick(&PROPERTIES, *property),
                pick(&VALUES, *value),
                if *important { " !important" } else { "" }
            );
        }
        css += &format!("}}{end}\n");
    }
    let files = MemoryLoader::default().with("a.html", &html).with("a.css", &css);
    let Ok(page) = Study::open(&files, "a.html") else { return };
    assert!(page.index_agrees(), "{css}");
    let ids: Vec<_> = page.document().ids().collect();
    let id = ids[usize::from(input.element) % ids.len()];
    let property =
        ["color", "margin-top", "font-size", "display", "--x", "line-height", "width"][usize::from(input.property) % 7];
    let why = page.why(id, property).expect("it is a longhand or custom property");
    assert_eq!(why.value, page.value(id, property).unwrap_or_default(), "{property}\n{html}\n{css}");
    // Without the strongest contender the value is what the next one is said to come to.
    if let Some(first) =
        why.contenders.first().filter(|first| first.at.file.ends_with(".css") && first.at.file == "a.css")
    {
        let next = why.contenders.get(1).map_or(&why.otherwise, |next| &next.computes_to);
        let trial = page.attempt(&[Change::Cut { at: first.at.clone() }]).expect("a declaration can be cut");
        let there = trial.element(id).expect("the element stays");
        assert_eq!(
            *next,
            trial.study.value(there, property).unwrap_or_default(),
            "{property} without {}\n{html}\n{css}",
            first.at
        );
        // And the trial is what the edited files are.
        let mut edited = MemoryLoader::default().with("a.html", &html).with("a.css", &css);
        for edit in &trial.edits {
            edited = edited.with(&edit.file, &edit.after);
        }
        let opened = Study::open(&edited, "a.html").expect("it opened before");
        assert_eq!(
            opened.values(opened.document().ids().nth(there.number() as usize).expect("the same elements")).ok(),
            trial.study.values(there).ok()
        );
    }
});
