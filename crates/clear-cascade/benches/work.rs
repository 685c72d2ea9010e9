//! Pieces of work by name and size, for counting instructions: `work NAME… SIZE…` does each at each size, `work` lists the names.
//!
//! Each kind makes a page that grows in one way, opens it, resolves it, and asks what the kind is about. Twice the size must
//! not cost much more than twice the instructions.

use clear_cascade::review::{Facts, Review};
use clear_cascade::{Change, MemoryLoader, RulePlace, Study};

/// A page that grows, and what is asked about it.
struct Kind {
    /// Its name.
    name: &'static str,
    /// The page and its sheet, of a size.
    page: fn(usize) -> (String, String),
    /// What is asked when all is resolved.
    ask: fn(&Study),
}

/// Nothing more is asked.
fn nothing(_: &Study) {}

/// Why the first paragraph has its colour.
fn why(study: &Study) {
    let p = study.select("p").expect("a selector")[0];
    study.why(p, "color").expect("a property");
}

/// What comes of it that all declarations are cut.
fn cut_all(study: &Study) {
    let cuts: Vec<Change> = study.declarations().into_iter().map(|d| Change::Cut { at: d.at }).collect();
    let trial = study.attempt(&cuts).expect("declarations that are there");
    let _ = study.compare_trial(&trial);
}

/// What is wrong with the page.
fn check(study: &Study) {
    let _ = Review::of(&Facts::of("index.html", study));
}

/// Some text, again and again.
fn times(n: usize, make: impl Fn(usize) -> String) -> String {
    (0..n).map(make).collect()
}

/// So many paragraphs.
fn paragraphs(n: usize) -> String {
    times(n, |i| format!("<p class='a c{}'>x</p>\n", i % 50))
}

/// A page of one paragraph with a sheet.
fn one(sheet: String) -> (String, String) {
    ("<p class=a>x".to_owned(), sheet)
}

/// The kinds.
const KINDS: &[Kind] = &[
    Kind {
        name: "ordinary",
        page: |n| (paragraphs(n), times(n, |i| format!(".c{i} {{ color: red; margin: {i}px 0 }}\n"))),
        ask: why,
    },
    Kind { name: "elements", page: |n| (paragraphs(n), ".a { color: red } * { margin: 0 }".to_owned()), ask: why },
    Kind { name: "rules", page: |n| one(times(n, |i| format!(".c{i} {{ color: red }}\n"))), ask: why },
    Kind { name: "empty-rules", page: |n| one("p{}".repeat(n)), ask: why },
    Kind {
        name: "contenders",
        page: |n| one(times(n, |i| format!("p {{ color: rgb({} 0 0) }}\n", i % 256))),
        ask: why,
    },
    Kind {
        name: "reached",
        page: |n| (paragraphs(n), "* { color: red; margin: 0 }".to_owned()),
        ask: |study| {
            study.reach("*").expect("a selector");
        },
    },
    Kind {
        name: "reached-rule",
        page: |n| (paragraphs(n), "p { color: red; margin: 0; top: 0; left: 1px }".to_owned()),
        ask: |study| {
            study.reach("site.css:1").expect("a place");
        },
    },
    Kind {
        name: "tried",
        page: |n| (paragraphs(n), times(n, |i| format!(".c{i} {{ color: red }}\n"))),
        ask: |study| {
            let change = [Change::Rule { text: "p { left: 1px }".to_owned(), to: RulePlace::AfterAll }];
            let _ = study.compare_trial(&study.attempt(&change).expect("a rule"));
        },
    },
    Kind {
        name: "nesting",
        page: |n| one(format!("p {{ {} color: red {}", "& & {".repeat(n / 40), "}".repeat(n / 40 + 1))),
        ask: why,
    },
    Kind {
        name: "nesting-is",
        page: |n| one(format!("p {{ {} color: red {}", "&:is(&) {".repeat(n / 40), "}".repeat(n / 40 + 1))),
        ask: why,
    },
    Kind {
        name: "nested-lists",
        page: |n| one(format!("p, em {{ {} color: red {}", ".a &, & {".repeat(n / 40), "}".repeat(n / 40 + 1))),
        ask: why,
    },
    Kind {
        name: "long-list",
        page: |n| one(format!("{} p {{ color: red }}", times(n, |i| format!(".b{i},")))),
        ask: why,
    },
    Kind {
        name: "names-in-lists",
        page: |n| {
            let names = times(n, |i| format!("{}.k{i}", if i > 0 { "," } else { "" }));
            let sheet =
                format!(":is({names}) {{ color: red }} p:not({names}) {{ top: 0 }} :where({names}) + p {{ left: 0 }}");
            (times(n, |i| format!("<p class=k{i}>x</p>\n")), sheet)
        },
        ask: why,
    },
    Kind {
        name: "unknown-properties",
        page: |n| one(format!("p {{ {} }}", times(n, |i| format!("colr{i:04}: red;")))),
        ask: nothing,
    },
    Kind { name: "unknown-long", page: |n| one(format!("p {{ {}: red }}", "colour".repeat(n))), ask: nothing },
    Kind {
        name: "unknown-values",
        page: |n| one(format!("p {{ {} }}", times(n, |i| format!("color: rde{i:04};")))),
        ask: why,
    },
    Kind {
        name: "variables",
        page: |n| (paragraphs(n), format!(":root {{ {} }} .a {{ --x: 1 }}", times(n, |i| format!("--v{i}: {i};")))),
        ask: why,
    },
    Kind {
        name: "variables-by-rule",
        page: |n| one(times(n, |i| format!("p {{ --v{i}: {i}; color: var(--v{i}) }}\n"))),
        ask: why,
    },
    Kind {
        name: "variable-chain",
        page: |n| {
            one(format!(
                "p {{ --v0: red; {} color: var(--v{n}) }}",
                times(n, |i| format!("--v{}: var(--v{i});", i + 1))
            ))
        },
        ask: why,
    },
    Kind {
        name: "variable-used",
        page: |n| one(format!("p {{ --big: {}; {} }}", "x ".repeat(100), times(n, |i| format!("--v{i}: var(--big);")))),
        ask: nothing,
    },
    Kind {
        name: "transitions",
        page: |n| one(format!("p {{ transition: {} top 1s }}", times(n, |i| format!("--v{i} {i}ms ease,")))),
        ask: nothing,
    },
    Kind {
        name: "shadows",
        page: |n| one(format!("p {{ box-shadow: {} 0 0 red }}", times(n, |i| format!("{i}px 0 1em red,")))),
        ask: nothing,
    },
    Kind {
        name: "gradient",
        page: |n| one(format!("p {{ background: linear-gradient({} red) }}", times(n, |i| format!("red {i}px,")))),
        ask: nothing,
    },
    Kind {
        name: "calculation",
        page: |n| one(format!("p {{ width: calc({} 1px) }}", times(n, |i| format!("{i}em + ")))),
        ask: nothing,
    },
    Kind {
        name: "classes",
        page: |n| {
            (
                format!("<p class='{}'>x", times(n, |i| format!("c{i} "))),
                times(n, |i| format!(".c{i} {{ color: red }}\n")),
            )
        },
        ask: why,
    },
    Kind {
        name: "attributes",
        page: |n| {
            (format!("<p {}>x", times(n, |i| format!("a{i}=1 "))), times(n, |i| format!("[a{i}] {{ color: red }}\n")))
        },
        ask: why,
    },
    Kind {
        name: "siblings",
        page: |n| {
            (format!("<p>x<div>{}</div>", "<i></i>".repeat(n)), "b ~ i { color: red } i + i { top: 0 }".to_owned())
        },
        ask: nothing,
    },
    Kind {
        name: "has-siblings",
        page: |n| {
            (
                format!("<p>x<div>{}</div>", "<i></i>".repeat(n)),
                "i:has(~ b) { color: red } i:has(+ b) { top: 0 }".to_owned(),
            )
        },
        ask: nothing,
    },
    Kind {
        name: "has-inside",
        page: |n| {
            (
                format!("<p>x{}", "<div><i></i>".repeat(n / 4)),
                "div:has(b) { color: red } div:has(> b) { top: 0 }".to_owned(),
            )
        },
        ask: nothing,
    },
    Kind {
        name: "nth-of",
        page: |n| {
            (
                format!("<p>x<div>{}</div>", "<i class=a></i>".repeat(n)),
                "i:nth-child(2n of .a) { color: red } i:nth-last-of-type(3n) { top: 0 }".to_owned(),
            )
        },
        ask: nothing,
    },
    Kind {
        name: "deep",
        page: |n| {
            (format!("<p>x{}", "<div>".repeat(n / 8)), "div div div { color: red } div > div { top: 0 }".to_owned())
        },
        ask: nothing,
    },
    Kind {
        name: "options",
        page: |n| {
            (
                format!("<p>x<select>{}</select>", "<option>a</option>".repeat(n)),
                "option:checked { color: red } select:required { top: 0 }".to_owned(),
            )
        },
        ask: nothing,
    },
    Kind {
        name: "radios",
        page: |n| {
            (
                format!("<p>x<form>{}</form>", "<input type=radio name=a required>".repeat(n)),
                "input:indeterminate { color: red } input:invalid { top: 0 } form:invalid { left: 0 }".to_owned(),
            )
        },
        ask: nothing,
    },
    Kind {
        name: "scopes",
        page: |n| (paragraphs(n), times(20, |_| "@scope (body) { p { color: red } }\n".to_owned())),
        ask: why,
    },
    Kind {
        name: "scope-rules",
        page: |n| one(format!("@scope (p) {{ {} }}", times(n, |_| ":scope { color: red }".to_owned()))),
        ask: why,
    },
    Kind {
        name: "media",
        page: |n| one(times(n, |i| format!("@media (min-width: {i}px) {{ p {{ color: red }} }}\n"))),
        ask: why,
    },
    Kind { name: "layers", page: |n| one(times(n, |i| format!("@layer l{i} {{ p {{ color: red }} }}\n"))), ask: why },
    Kind {
        name: "linked",
        page: |n| {
            (
                format!("{}<p>x", "<link rel=stylesheet href=site.css>".repeat(n.min(2000))),
                "p { color: red }".to_owned(),
            )
        },
        ask: why,
    },
    Kind {
        name: "imported",
        page: |n| {
            (format!("<style>{}</style><p>x", "@import 'site.css';".repeat(n.min(2000))), "p { color: red }".to_owned())
        },
        ask: why,
    },
    Kind {
        name: "style-attributes",
        page: |n| ("<p style='color: red; margin: 1px'>x</p>".repeat(n), String::new()),
        ask: why,
    },
    Kind {
        name: "escaped-attributes",
        page: |n| ("<p style='background: url(&quot;a&quot;)'>x</p>".repeat(n), String::new()),
        ask: why,
    },
    Kind { name: "escapes", page: |n| one(format!("p {{ content: \"{}\" }}", "\\41 ".repeat(n))), ask: nothing },
    Kind { name: "notes", page: |n| one("p { color }\n".repeat(n)), ask: nothing },
    Kind {
        name: "points",
        page: |n| one(format!("p {{ clip-path: polygon({} 0 0) }}", times(n, |i| format!("{i}px 1em,")))),
        ask: nothing,
    },
    Kind {
        name: "areas",
        page: |n| one(format!("p {{ grid-template-areas: {} }}", times(n, |i| format!("'a{i} b{i}' ")))),
        ask: nothing,
    },
    Kind {
        name: "names",
        page: |n| {
            one(format!(
                "p {{ font-family: {} serif; counter-set: {} }}",
                times(n, |i| format!("f{i},")),
                "a 1 ".repeat(n)
            ))
        },
        ask: nothing,
    },
    Kind { name: "checked", page: |n| (paragraphs(n), times(n, |i| format!(".c{i} {{ color: red }}\n"))), ask: check },
    Kind {
        name: "checked-declarations",
        page: |n| one(format!("p {{ {} }}", times(n, |i| format!("--v{i}: {i}; color: red; top: {i}px; ")))),
        ask: check,
    },
    Kind {
        name: "checked-chain",
        page: |n| one(format!("p {{ {} --v{n}: 1 }}", times(n, |i| format!("--v{i}: var(--v{});", i + 1)))),
        ask: check,
    },
    Kind {
        name: "cuts",
        page: |n| one(format!("p {{ {} }}", times(n, |i| format!("color: rgb({} 0 0); ", i % 256)))),
        ask: cut_all,
    },
    Kind {
        name: "checked-dead",
        page: |n| {
            one(format!(
                "{}{}",
                times(n, |i| format!("p {{ color: {i} }} ")),
                times(n, |i| format!("p {{ top: {i}px }} "))
            ))
        },
        ask: check,
    },
];

/// Opens a page, resolves it, and asks what its kind is about: this is what is counted.
#[inline(never)]
fn counted(kind: &Kind, files: &MemoryLoader) -> Study {
    let study = Study::open(files, "index.html").expect("a page");
    study.resolve_all();
    (kind.ask)(&study);
    study
}

fn main() {
    let args: Vec<String> = std::env::args().skip(1).filter(|a| !a.starts_with("--")).collect();
    let (sizes, names): (Vec<_>, Vec<_>) = args.iter().partition(|arg| arg.parse::<usize>().is_ok());
    let sizes: Vec<usize> = sizes.into_iter().filter_map(|n| n.parse().ok()).collect();
    if names.is_empty() || sizes.is_empty() {
        KINDS.iter().for_each(|kind| println!("{}", kind.name));
        return;
    }
    for name in names {
        let Some(kind) = KINDS.iter().find(|kind| kind.name == name) else {
            eprintln!("there is no `{name}`");
            std::process::exit(2);
        };
        for size in &sizes {
            let (page, sheet) = (kind.page)(*size);
            let html = format!("<!DOCTYPE html><link rel=stylesheet href=site.css>{page}");
            let files = MemoryLoader::default().with("index.html", &html).with("site.css", &sheet);
            let study = counted(kind, &files);
            println!("{} bytes, {} elements", html.len() + sheet.len(), study.document().ids().count());
            // What it takes to drop all that is no part of the work.
            std::mem::forget(study);
        }
    }
}
