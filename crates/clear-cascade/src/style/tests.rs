//! Properties of computing values, over many values of every property.

use std::collections::BTreeMap;
use std::time::Instant;

use super::Style;
use super::compute::{Env, compute, output};
use crate::property::Declared;
use crate::property::{self, PropertyId, id};
use crate::syntax::Tokens;
use crate::{MemoryLoader, Study};

/// A page whose elements have many kinds of values, the sample site's sheets among them.
fn studies() -> Vec<Study> {
    let root = concat!(env!("CARGO_MANIFEST_DIR"), "/../../demo");
    let mut all: Vec<Study> = ["index.html", "programme.html", "visit.html"]
        .iter()
        .filter_map(|p| Study::open(&crate::FileLoader::new(root), p).ok())
        .collect();
    let values = [
        "background: url(a.png) right 10px top 20% / 2em auto no-repeat, linear-gradient(45deg, red 10%, #0003 calc(50% + 1em))",
        "transform: translate(1em, 10%) rotateX(20deg) scale(1.5) skew(10deg, 5deg) matrix(1, 0, 0, 1, 10, 20)",
        "grid-template: [a] \"x y\" 1fr [b] \"z .\" minmax(10px, auto) / repeat(2, 1fr) fit-content(3em); grid-area: x / 2 / span 2 / -1",
        "font: italic small-caps 650 1.3em/1.4 \"Foo Bar\", Baz Qux, serif; font-feature-settings: 'kern' 1; quotes: '«' '»'",
        "box-shadow: inset 1px 2px 3px red, 0 0 1em rgb(0 0 0 / .5); text-shadow: 1px 1px gold; filter: blur(2px) drop-shadow(1px 2px 3px teal)",
        "transition: opacity .2s ease-in 10ms, all 1s cubic-bezier(.1, .2, .3, .4); animation: foo 2s steps(3, end) infinite alternate both",
        "border: thick double oklch(60% .1 200); border-radius: 1em 10% / 2px; outline: 1px dashed; clip-path: polygon(0 0, 100% 0, 50% 100%)",
        "counter-reset: a 2 b; counter-increment: c; content: 'x' counter(a) attr(title); list-style: square inside; cursor: url(c.cur) 2 3, pointer",
        "width: min(10px, 50%); height: calc(100% - 2em); margin: auto 1rem -3px 5%; aspect-ratio: 16 / 9; object-position: right 10% top; inset: 1px auto",
        "color: color-mix(in oklab, red 30%, blue); accent-color: auto; caret-color: red; scrollbar-color: red blue; color-scheme: light dark; fill: url(#g) red",
        "mask: url(m.svg) center / contain no-repeat; offset: path('M 0 0 L 1 1') 20% auto; perspective-origin: left 3px; transform-origin: 1px 2px 3px",
        "text-decoration: underline wavy 2px red; text-emphasis: open dot; hyphenate-limit-chars: 6 3; text-indent: 2em hanging; tab-size: 3; zoom: 120%",
        "display: inline flex; place-content: space-between center; place-items: start end; gap: 1em 2%; flex: 2 1 10em; order: 3; columns: 2 10em",
        "scroll-snap-type: x mandatory; scroll-snap-align: start end; touch-action: pan-x pan-y; will-change: transform, opacity; contain: layout paint",
    ];
    let html: String = values.iter().map(|v| format!("<p style=\"{}\">x</p>", v.replace('"', "&quot;"))).collect();
    all.extend(Study::open(&MemoryLoader::default().with("index.html", &html), "index.html").ok());
    all
}

/// The value of a longhand read again from its text and computed again.
fn again(
    study: &Study,
    style: &Style,
    parent: Option<&Style>,
    property: PropertyId,
    text: &str,
) -> Result<String, String> {
    let tokens = Tokens::read(text);
    let values = property::parse(property, tokens.all(), false).map_err(|e| e.message)?;
    let Some((_, Declared::Value(value))) = values.into_iter().next() else { return Err("no value".to_owned()) };
    let env = Env { style, parent, root: Some(study.style(study.page.document.root())), base: None };
    Ok(output(style, property, &compute(property, &value, &env)).text())
}

#[test]
fn what_is_computed_reads_back_and_computes_to_itself() {
    let mut faults: BTreeMap<String, String> = BTreeMap::new();
    let mut seen = std::collections::HashSet::new();
    for study in studies() {
        for id in study.page.document.ids() {
            let style = study.style(id);
            study.style(id);
            let parent = study.styles().inherits_from(&study.page, id);
            for property in PropertyId::longhands().filter(|p| style.flow.physical(*p) == *p && *p != id::MATH_DEPTH) {
                let text = style.text(property);
                if !seen.insert((property, text.clone())) {
                    continue;
                }
                match again(&study, style, parent.as_deref(), property, &text) {
                    Ok(same) if same == text => {}
                    other => {
                        faults.entry(property.name().to_owned()).or_insert_with(|| format!("`{text}` gives {other:?}"));
                    }
                }
            }
        }
    }
    assert!(seen.len() > 900, "only {} values were seen", seen.len());
    assert!(faults.is_empty(), "{} properties: {faults:#?}", faults.len());
}

#[test]
fn no_text_holds_a_property_up() {
    let pieces = [
        "red",
        "1px",
        "calc(",
        ")",
        ",",
        "/",
        "\"a\"",
        "auto",
        "none",
        "url(",
        "[",
        "]",
        "var(--a)",
        "10%",
        "1fr",
        "repeat(2,",
        "a",
        "{",
        "}",
        "!",
        "#fff",
        "-1",
        "span",
        "linear-gradient(",
        "normal",
        "inset",
        "0",
        "min(",
        "\\",
        "@",
        "rgb(",
        "from",
    ];
    let mut soups: Vec<String> =
        vec!["red ".repeat(300), "1px, ".repeat(300), "a / ".repeat(300), "calc(1px + ".repeat(300)];
    let mut state: u64 = 42;
    for length in [3usize, 8, 20, 60] {
        for _ in 0..4 {
            let mut next = || {
                state = state.wrapping_mul(6_364_136_223_846_793_005).wrapping_add(1_442_695_040_888_963_407);
                pieces[(state >> 33) as usize % pieces.len()]
            };
            soups.push((0..length).map(|_| next()).collect::<Vec<_>>().join(" "));
        }
    }
    let all: Vec<PropertyId> = property::all_known().collect();
    for soup in &soups {
        let tokens = Tokens::read(soup);
        for property in &all {
            let start = Instant::now();
            let _ = property::parse(*property, tokens.all(), false);
            let took = start.elapsed().as_millis();
            assert!(took < 1500, "{property} took {took} ms for {soup:?}");
        }
    }
}

#[test]
fn the_table_and_the_defaults_load_at_once() {
    let start = Instant::now();
    let study = Study::open(&MemoryLoader::default().with("index.html", "<p>"), "index.html").unwrap();
    assert!(study.value(study.select("p").unwrap()[0], "display").is_some());
    // A generous bound: it is about the order of magnitude, on a machine that may be busy, in a debug build.
    assert!(start.elapsed().as_millis() < 1000, "{:?}", start.elapsed());
}

#[test]
fn a_study_can_be_shared_between_threads() {
    fn shared<T: Send + Sync>() {}
    shared::<crate::Study>();
    let files = crate::MemoryLoader::default()
        .with("a.html", "<style>p { color: red } i { color: var(--a, blue) }</style><p><i>x");
    let study = crate::Study::open(&files, "a.html").unwrap();
    let element = study.select("i").unwrap()[0];
    let ask = || study.value(element, "color");
    std::thread::scope(|s| {
        let asked: Vec<_> = (0..4).map(|_| s.spawn(ask)).collect();
        assert!(asked.into_iter().all(|a| a.join().unwrap().as_deref() == Some("rgb(0, 0, 255)")));
    });
}

/// The values of the paragraphs of a page.
fn paragraphs(html: &str) -> Vec<std::sync::Arc<Style>> {
    let study = Study::open(&MemoryLoader::default().with("a.html", html), "a.html").expect("a page");
    study.resolve_all();
    let document = &study.page.document;
    let all = document.ids().filter(|id| document.node(*id).is_html("p"));
    all.map(|id| study.styles().get(id).expect("resolved").clone()).collect()
}

#[test]
fn what_passes_on_the_same_is_one_thing_to_those_inside() {
    let [a, b, other] = &paragraphs(
        "<style>div { color: red; --x: 1; --y: var(--x) } .a { margin: 1px } .c { --x: 2 } p { width: calc(var(--y) * 1px) }</style>
         <div class=a><p></p></div><div><p></p></div><div class=c><p></p></div>",
    )[..] else {
        panic!("three paragraphs")
    };
    assert!(std::sync::Arc::ptr_eq(a, b) && !std::sync::Arc::ptr_eq(a, other));
    assert_eq!([a, b, other].map(|style| style.text(id::WIDTH)), ["1px", "1px", "2px"]);
}

#[test]
fn mixed_colours_go_by_the_scheme_and_by_the_colour_of_each_element() {
    let told = paragraphs(
        "<style>p { background-color: color-mix(in srgb, light-dark(red, blue), white 50%); border-top: 1px solid color-mix(in srgb, currentcolor, white) }
         .d { color-scheme: dark; color: red }</style><p></p><div class=d><p></p></div><p></p>",
    );
    let [light, dark, again] = [0, 1, 2].map(|i| [id::BACKGROUND_COLOR, id::BORDER_TOP_COLOR].map(|p| told[i].text(p)));
    assert_eq!(light, ["color(srgb 1 0.5 0.5)", "color(srgb 0.5 0.5 0.5)"]);
    assert_eq!(dark, ["color(srgb 0.5 0.5 1)", "color(srgb 1 0.5 0.5)"]);
    assert_eq!(again, light);
}
