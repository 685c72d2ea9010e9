//! Reading, comparing and fixing: what is in play, what does nothing, what would win.

use clear_cascade::answer::Outcome;
use clear_cascade::cascade::Origin;
use clear_cascade::{Change, FileLoader, RulePlace, Study};

use crate::trials::Edited;
use crate::{demo, page};

#[test]
fn beliefs_that_are_in_play() {
    let rows = [
        (
            "<link rel=stylesheet href='data:text/css,p{color:red}'><style>p { color: blue }</style><p>",
            "p",
            "color",
            None,
        ),
        (
            "<style>p { color: blue }</style><link rel=stylesheet href='data:text/css,p{color:red}'><p>",
            "p",
            "color",
            Some("both rank by where they stand in the page"),
        ),
        (
            "<style>#x { color: red } .a.b.c.d.e { color: blue }</style><p id=x class='a b c d e'>",
            "p",
            "color",
            Some("5 classes, attributes or pseudo-classes do not add up to one id"),
        ),
        (
            "<style>p { color: red !important } #x { color: blue }</style><p id=x>",
            "p",
            "color",
            Some("`!important` is no weight"),
        ),
        (
            "<style>@layer a { p { color: red !important } } p { color: blue !important }</style><p>",
            "p",
            "color",
            Some("turns the order of layers round"),
        ),
        (
            "<style>@layer a { #x { color: red } } p { color: blue }</style><p id=x>",
            "p",
            "color",
            Some("settled before selectors are weighed"),
        ),
        (
            "<style>.near p { color: red } .far p { color: blue }</style><body class=far><main class=near><p>",
            "p",
            "color",
            Some("nearness decides nothing"),
        ),
        ("<style>p { color: red }</style><body><p><a href=#>x", "a", "color", Some("Links do inherit colour")),
        (
            "<style>#x { color: red !important } * { color: blue }</style><body><p id=x><b>x",
            "b",
            "color",
            Some("However heavy the rule"),
        ),
        (
            "<style>b { border: inherit }</style><body style='border: 1px solid'><b>x",
            "b",
            "border-top-width",
            Some("does not inherit by itself"),
        ),
        (
            "<style>p { background-color: red; border: 1px solid } .a { border: none }</style><p class=a>",
            "p",
            "background-color",
            Some("what is not declared again stays"),
        ),
    ];
    for (html, element, property, expected) in rows {
        let study = page(html);
        let why = study.why(study.select(element).unwrap()[0], property).unwrap();
        match expected {
            None => assert_eq!(why.belief, None, "{html}"),
            Some(text) => assert!(why.belief.as_deref().unwrap_or_default().contains(text), "{html}: {:?}", why.belief),
        }
    }
}

#[test]
fn each_fix_that_is_offered_wins() {
    let root = concat!(env!("CARGO_MANIFEST_DIR"), "/../../demo");
    let (mut losing, mut offered, mut important) = (0, 0, 0);
    for path in ["index.html", "programme.html", "visit.html"] {
        let study = Study::open(&FileLoader::new(root), path).unwrap();
        for written in study.declarations().into_iter().filter(|w| !w.property.starts_with("--") && w.dropped.is_none())
        {
            let rule = written.at.to_string();
            let Ok(reach) = study.reach(&rule) else { continue };
            for hit in reach.elements.iter().take(8) {
                let element = hit.element;
                let answer = study.why_not(element, &rule).unwrap();
                let Some(fate) = answer.declarations.iter().find(|d| !d.loses.is_empty()) else { continue };
                losing += 1;
                let (longhand, _) = &fate.loses[0];
                for fix in &answer.fixes {
                    offered += 1;
                    important += usize::from(fix.cost.is_some());
                    // The edited files opened anew, not the trial itself.
                    let trial = study.attempt(&fix.changes).unwrap();
                    let bytes = trial.edits.iter().map(|e| (e.file.clone(), e.after.clone().into_bytes())).collect();
                    let fresh = Study::open(&Edited { files: FileLoader::new(root), bytes }, path).unwrap();
                    let why = fresh.why(trial.element(element).unwrap(), longhand).unwrap();
                    let first = &why.contenders[0];
                    assert_eq!(first.outcome, Outcome::Won);
                    let said = format!("{}: {}", first.property, first.value);
                    assert_eq!(
                        said,
                        fate.declaration.trim_end_matches(" !important"),
                        "{path} {rule} {}: {}",
                        hit.label,
                        fix.what
                    );
                    assert!(fix.cost.is_none() || answer.fixes.len() == 1, "`!important` is a last resort");
                }
            }
        }
    }
    assert!(losing >= 18 && offered > 40, "{losing} lose, {offered} fixes, {important} of them important");
}

#[test]
fn what_has_no_effect_is_told() {
    let study = page(
        "<style>b { width: 3em; z-index: 2; margin-top: 1px } p { top: 3px; flex-grow: 1; text-overflow: ellipsis; vertical-align: middle }
        td { margin: 3px } hr { line-height: 3 } main { display: flex; justify-content: center } main i { float: left; flex-grow: 2; z-index: 3 } ul { list-style: square }
        div { gap: 3px; grid-template-columns: 1fr; object-fit: cover; border-spacing: 3px; list-style: square; position: sticky }</style>
        <p>a <b>b</b><table><tr><td>c</table><hr><main><i>d</i></main><ul><li>x</ul><div>x</div><img style='width: 3px; line-height: 2'>",
    );
    let of = |name: &str| {
        let found = study.without_effect(study.select(name).unwrap()[0]).unwrap();
        found.into_iter().map(|e| e.property).collect::<Vec<_>>().join(" ")
    };
    assert_eq!(of("b"), "margin-top width z-index");
    assert_eq!(of("p"), "flex-grow text-overflow top vertical-align");
    assert_eq!(of("td"), "margin-bottom margin-left margin-right margin-top");
    assert_eq!(of("hr"), "line-height");
    assert_eq!(of("main"), "");
    assert_eq!(of("i"), "float");
    assert_eq!(of("ul"), "");
    assert_eq!(
        of("div"),
        "border-spacing list-style-type column-gap grid-template-columns object-fit position row-gap"
    );
    assert_eq!(of("img"), "line-height");
}

#[test]
fn what_a_shorthand_takes_back_is_read() {
    let study = page(
        "<style>h1 { margin: 0 } a { text-decoration: none } i { font: 10px x } b { padding: 0 }</style>
        <h1>x</h1><p style='font-weight: bold'><a href=x>y</a><i>z</i><b>w</b>",
    );
    let of = |name: &str| {
        let read = study.read(study.select(name).unwrap()[0]).unwrap();
        let author = read.into_iter().filter(|r| r.origin == Some(Origin::Author));
        author.map(|r| format!("{}: {}", r.property, r.value)).collect::<Vec<_>>().join("; ")
    };
    assert_eq!(of("h1"), "margin-bottom: 0px; margin-top: 0px");
    assert_eq!(of("a"), "text-decoration-line: none");
    assert_eq!(of("i"), "font-family: x; font-size: 10px; font-style: normal; font-weight: 400");
    assert_eq!(of("b"), "");
}

#[test]
fn pages_and_elements_are_compared() {
    let (index, visit) = (demo("index.html"), demo("visit.html"));
    let planets = index.select(".planet").unwrap();
    let twins = index.compare_elements(planets[0], &index, planets[1]).unwrap();
    assert_eq!(twins.parted_at.as_deref(), Some("ul.objects"));
    let differ: Vec<&str> = twins.differences.iter().map(|d| d.property.as_str()).collect();
    assert_eq!(differ, ["opacity", "margin-top", "margin-block-start"]);
    assert!(index.compare(&demo("index.html")).is_same());
    let pages = index.compare(&visit);
    assert!(pages.paired.contains("by their id") && pages.only_left.iter().any(|l| l.label == "p.lead"));
    // Elements are the same ones although another stands before them now.
    let (a, b) = (page("<body><p>one<p id=x>two"), page("<body><h1>new</h1><p>one<p id=x style='color: red'>two"));
    let changed = a.compare(&b).changes;
    assert!(changed.iter().all(|c| c.label == "p#x" && (c.property.ends_with("color"))), "{changed:?}");
    assert_eq!(changed[0].property, "color");
}

#[test]
fn a_trial_that_changes_nothing_says_why() {
    let study = demo("index.html");
    let because = |change: Change| {
        let trial = study.attempt(std::slice::from_ref(&change)).unwrap();
        let tried = study.compare_trial(&trial).unwrap();
        assert_eq!(tried.sentence, "Nothing changes.");
        tried.because.join("; ")
    };
    let at = |place: &str| place.parse().unwrap();
    let rule = |text: &str| because(Change::Rule { text: text.to_owned(), to: RulePlace::AfterAll });
    insta::assert_snapshot!(
        "nothing_changes",
        [
            rule("h1 { color: gold }"),
            rule(".lede { color: gold }"),
            rule("h1 { color: lavender }"),
            because(Change::Cut { at: at("index.html:12:17") }),
            because(Change::Class { elements: study.select(".lead").unwrap(), class: "lead".to_owned(), on: true }),
            because(Change::Class { elements: study.select("h1").unwrap(), class: "butto".to_owned(), on: true }),
            because(Change::Class { elements: study.select("h1").unwrap(), class: "far".to_owned(), on: true }),
            because(Change::Attribute { elements: study.select("h1").unwrap(), name: "id".to_owned(), value: None }),
            because(Change::Classes { elements: study.select(".lead").unwrap(), classes: " lead ".to_owned() }),
            because(Change::Text { elements: study.select("h1").unwrap(), text: "x".to_owned() }),
            because(Change::Value { at: at("css/base.css:18:25"), by: "red".to_owned() }),
            because(Change::Value { at: at("css/base.css:18:6"), by: "39.6px".to_owned() }),
            because(Change::MoveSheet { file: "css/theme.css".to_owned(), before: "css/base.css".to_owned() }),
            because(Change::WithoutSheet { file: "css/print.css".to_owned() }),
            because(Change::Attach {
                elements: study.select("h1").unwrap(),
                declarations: "display: block; colr: red".to_owned()
            }),
            rule("h1 { display: block; colr: red }"),
            rule("@media print { h1 { color: red } }"),
            rule("h1 {}"),
        ]
        .join("\n")
        .replace(concat!(env!("CARGO_MANIFEST_DIR"), "/../../demo/"), "")
    );
    let missing = study.attempt(&[Change::WithoutSheet { file: "nope.css".to_owned() }]).unwrap_err().to_string();
    assert!(missing.starts_with("`nope.css` is no file of the page; its files are"), "{missing}");
}
