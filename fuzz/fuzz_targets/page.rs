//! A page with sheets: `why`, `values`, `why-not`, `reach` and trials never contradict each other.
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

const TAGS: [&str; 12] = [
    "div",
    "p",
    "a href=#",
    "span",
    "ul",
    "li",
    "h1",
    "td",
    "input checked type=checkbox",
    "table",
    "div hidden style='--x: 2px; color: green !important'",
    "section",
];
/// What a `section` starts with: a shadow tree.
const SHADOW: &str = "<template shadowrootmode=open><style>:host { margin-top: 4px } ::slotted(.a) { color: blue }
p { width: var(--x, 1px) }</style><p class=a>s<slot></slot></template>";
const CLASSES: [&str; 5] = ["a", "b", "c", "a b", ""];
const SELECTORS: [&str; 22] = [
    "::before",
    ":has(> .b)",
    ":nth-child(odd of .a)",
    "[class~=a]",
    "input:checked",
    ":host",
    "p::part(x)",
    "\\61",
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
const AROUND: [(&str, &str); 14] = [
    ("@container (min-width: 1px) {", "}"),
    ("@container style(--x: 2px) {", "}"),
    ("@scope (.a) to (.b) {", "}"),
    ("@layer x.y {", "}"),
    ("@property --x { syntax: '<length>'; inherits: false; initial-value: 0px }", ""),
    (":is(.a, p) { &:not(.c) ", "}"),
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
const VALUES: [&str; 22] = [
    "if(style(--x: 2px): 3px; else: 4px)",
    "attr(class type(<custom-ident>), none)",
    "light-dark(red, blue)",
    "var(--x) var(--y,)",
    "revert-rule",
    "min(1em, 2px, 3%)",
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
        let tag_text = pick(&TAGS, *tag);
        let shadow = if tag_text == "section" { SHADOW } else { "" };
        html += &format!("<{tag_text} class='{}'{id}>{shadow}x", pick(&CLASSES, *class));
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
    let ids: Vec<_> = page.document().all_elements().map(|element| element.id()).collect();
    let id = ids[usize::from(input.element) % ids.len()];
    let property =
        ["color", "margin-top", "font-size", "display", "--x", "line-height", "width"][usize::from(input.property) % 7];
    let why = page.why(id, property).expect("it is a longhand or custom property");
    assert_eq!(why.value, page.value(id, property).unwrap_or_default(), "{property}\n{html}\n{css}");
    // Each rule says of its declarations what the contest says, and takes what it says that it takes.
    let names = page.longhands(property).expect("it is one");
    for rule in page.rules().iter().filter(|rule| rule.at.file == "a.css" && !rule.selectors.is_empty()) {
        let of_rule = page.why_not(id, &rule.at.to_string()).expect("there is a rule");
        let takes = page.reach(&rule.at.to_string()).expect("there is a rule");
        let reached = takes.elements.iter().any(|hit| hit.element == id && hit.pseudo.is_none());
        assert_eq!(of_rule.takes, reached, "{} {id:?}\n{html}\n{css}", rule.at);
        for fate in of_rule.declarations.iter().filter(|_| of_rule.takes) {
            let place = |at: &clear_cascade::source::Place| (at.line, at.column);
            let contender =
                why.contenders.iter().find(|c| place(&c.at) == place(&fate.at) && c.at.file == fate.at.file);
            let won = contender.map(|c| c.outcome == clear_cascade::answer::Outcome::Won);
            let told = if fate.wins.iter().any(|p| names.contains(p)) {
                Some(true)
            } else if fate.loses.iter().any(|(p, _)| names.contains(p)) {
                Some(false)
            } else {
                None
            };
            // A flow-relative longhand is another name for the one that is asked about.
            assert!(told.is_none() || told == won, "{} {told:?} {won:?}\n{html}\n{css}", fate.at);
        }
    }
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
        let same = opened.document().all_elements().nth(there.number() as usize).expect("the same elements").id();
        assert_eq!(opened.values(same).ok(), trial.study.values(there).ok());
    }
});
