//! What others build with: ids and places that are checked, answers that go into JSON and back, rules and changes as data.

use std::collections::BTreeSet;

use clear_cascade::answer::{
    Aim, Comparison, NoEffect, Reach, Reading, Rule, Target, Texts, Tried, Twins, Why, WhyNot, Written,
};
use clear_cascade::cascade::Origin;
use clear_cascade::document::ElementId;
use clear_cascade::selector::{PseudoElement, SelectorList, Specificity};
use clear_cascade::source::{Place, SourceId};
use clear_cascade::stylesheet::NoteKind;
use clear_cascade::viewing::PREFERENCES;
use clear_cascade::{Change, MemoryLoader, Options, RulePlace, Study, Viewing, ViewingError};
use serde::Serialize;
use serde::de::DeserializeOwned;

use crate::{demo, files, page};

/// Pieces that texts of questions are put together from.
const PIECES: &[&str] = &[
    "p",
    "::before",
    ":",
    "@",
    "0",
    "7",
    "99999999999",
    ".x",
    "#",
    "[a",
    "=",
    "\"",
    "'",
    "]",
    "(",
    ")",
    "{",
    "}",
    "/*",
    "*/",
    "\\",
    "\0",
    "\u{1F680}",
    "ä",
    " ",
    "\n",
    ",",
    ">",
    "&",
    "!important",
    "index.html",
    ":1",
    ":1:9",
    "--x",
    "margin",
    "var(",
    ";",
    "<",
    "e\u{301}",
    "\u{200F}",
    "-",
    "nth-child(",
    "2n",
    "revert",
    "\t",
];

proptest::proptest! {
    #![proptest_config(proptest::prelude::ProptestConfig { failure_persistence: None, cases: 400, ..Default::default() })]
    #[test]
    fn no_text_makes_a_question_panic(pieces in proptest::collection::vec(proptest::sample::select(PIECES), 0..7), number in proptest::num::u32::ANY) {
        let study = page("<style>p { color: red; margin: var(--x) } p::before { content: 'x' }</style><p class=x style='top: 1px'>1<p>2");
        let text = pieces.concat();
        let p = study.select("p").unwrap();
        let _ = (study.locate(&text), study.select(&text), study.reach(&text), study.longhands(&text), study.names_several(&text));
        let _ = (study.why(p[0], &text), study.why_not(p[1], &text), study.why_together(p[0], None, &[&text]), study.described(p[0], &text));
        let _ = (study.value(p[0], &text), text.parse::<SelectorList>().map(|l| (l.to_string(), l.undecided(), l.parts().count())));
        let _ = (text.parse::<PseudoElement>(), text.parse::<Place>(), text.parse::<ElementId>());
        let at = Place { file: "index.html".to_owned(), line: number % 4, column: Some(number % 90) };
        let (elements, by) = (p, text.clone());
        let changes = [
            Change::Rule { text: text.clone(), to: RulePlace::Before(at.clone()) },
            Change::Rule { text: text.clone(), to: RulePlace::EndOf(text.clone()) },
            Change::Attach { elements: elements.clone(), declarations: text.clone() },
            Change::Class { elements: elements.clone(), class: text.clone(), on: number % 2 == 0 },
            Change::Classes { elements: elements.clone(), classes: text.clone() },
            Change::Attribute { elements: elements.clone(), name: text.clone(), value: Some(text.clone()) },
            Change::Text { elements, text: text.clone() },
            Change::Value { at: at.clone(), by: by.clone() },
            Change::Selectors { at: at.clone(), by: by.clone() },
            Change::Cut { at: at.clone() },
            Change::Important { at: at.clone(), on: true },
            Change::Move { from: at.clone(), to: Place::line(text.clone(), number) },
            Change::Replace { file: text.clone(), by },
            Change::WithoutSheet { file: text.clone() },
            Change::MoveSheet { file: "index.html".to_owned(), before: text },
        ];
        for change in changes {
            if let Ok(trial) = study.attempt(std::slice::from_ref(&change)) {
                study.compare_trial(&trial).unwrap();
                let _ = trial.moved_to(&at);
            }
        }
    }
}

/// Every question about an element; gives whether it was refused.
type Ask = fn(&Study, &Study, ElementId) -> bool;

/// All of them by name.
const QUESTIONS: &[(&str, Ask)] = &[
    ("get", |s, _, e| s.document().get(e).is_none()),
    ("element", |s, _, e| s.document().element(e).is_err()),
    ("value", |s, _, e| s.value(e, "color").is_none()),
    ("values", |s, _, e| s.values(e).is_err()),
    ("generated", |s, _, e| s.generated(e).is_err()),
    ("texts", |s, _, e| Texts::of(|_, _, _| ()).values(s, e, &mut String::new()).is_err()),
    ("generated texts", |s, _, e| {
        Texts::of(|_, _, _| ()).generated(s, e, &mut String::new(), &|_, _| (), &|_| ()).is_err()
    }),
    ("why", |s, _, e| s.why(e, "color").is_err()),
    ("why_of", |s, _, e| s.why_of(e, "::before".parse().ok().as_ref(), "color").is_err()),
    ("why_each", |s, _, e| s.why_each(e, None, &["color", "top"]).is_err()),
    ("why_together", |s, _, e| s.why_together(e, None, &["margin"]).is_err()),
    ("why_not", |s, _, e| s.why_not(e, "p").is_err()),
    ("why_not_of", |s, _, e| s.why_not_of(e, "::after".parse().ok().as_ref(), "p").is_err()),
    ("read", |s, _, e| s.read(e).is_err()),
    ("without_effect", |s, _, e| s.without_effect(e).is_err()),
    ("described", |s, _, e| s.described(e, "p").is_err()),
    ("how_parsed", |s, _, e| s.how_parsed(e).is_err()),
    ("words", |s, _, e| s.words(e).is_err()),
    ("aim", |s, _, e| s.aim(e, &[], &[]).is_err()),
    ("aim at others", |s, _, e| s.aim(s.document().id(0).unwrap(), &[e], &[e]).is_err()),
    ("aim_on", |s, _, e| Study::aim_on(&[Target { study: s, take: vec![], leave: vec![e] }]).is_err()),
    ("compare_elements", |s, o, e| s.compare_elements(e, o, o.document().id(0).unwrap()).is_err()),
    ("compare_elements, right", |s, o, e| o.compare_elements(o.document().id(0).unwrap(), s, e).is_err()),
    ("compare_views", |s, _, e| s.compare_views((e, None), s).is_err()),
    ("attach", |s, _, e| {
        s.attempt(&[Change::Attach { elements: vec![e], declarations: "top: 0".to_owned() }]).is_err()
    }),
    ("class", |s, _, e| s.attempt(&[Change::Class { elements: vec![e], class: "x".to_owned(), on: true }]).is_err()),
    ("trial", |s, _, e| s.attempt(&[]).unwrap().element(e).is_none()),
    ("seen_with", |s, _, e| s.seen_with(Viewing::default().hover([e])).is_err()),
    ("target", |s, _, e| s.seen_with(Viewing::default().target([e])).is_err()),
];

#[test]
fn ids_of_other_pages_are_refused_by_every_question() {
    let html = |text: &str| {
        format!("<!DOCTYPE html><style>p {{ color: navy }} p::before {{ content: 'x' }}</style><p>{text}<p>2<p>3")
    };
    let (a, again, b) = (page(&html("1")), page(&html("1")), page(&(html("one") + "<p>4")));
    let ids: Vec<ElementId> = a.document().ids().filter(|e| a.document().get(*e).unwrap().is_html("p")).collect();
    let beyond = b.document().ids().next_back().unwrap();
    for (name, ask) in QUESTIONS {
        for id in &ids {
            assert!(!ask(&a, &a, *id) && !ask(&again, &b, *id), "{name} refuses {id} of its own page");
            assert!(ask(&b, &b, *id), "{name} takes {id} of another page");
            // What is read from a text is of whatever page it is asked about.
            let read: ElementId = id.to_string().parse().unwrap();
            assert!(!ask(&a, &a, read) && !ask(&b, &b, read), "{name} refuses {read}");
        }
        assert!(ask(&a, &a, beyond) && ask(&a, &a, "@999999".parse().unwrap()), "{name} takes what is not there");
    }
    let foreign = b.why(ids[0], "color").unwrap_err().to_string();
    assert_eq!(foreign, format!("the element {} is of another page", ids[0]));
    assert!(a.compare_trial(&b.attempt(&[]).unwrap()).is_err());
    let options = Options::default().viewing(Viewing::default().focus([ids[0]]));
    assert!(Study::open_with(&MemoryLoader::default().with("b.html", "<p>"), "b.html", &options).is_err());
}

#[test]
fn spans_of_other_pages_are_refused() {
    let (a, b) =
        (files(&[("index.html", "<style>p { colr: red }</style><p>1")]), page("<style>p { colr: red } </style><p>1"));
    let span = a.notes()[0].span;
    assert_eq!((a.sources().text(span), b.sources().text(span)), (Some("colr"), None));
    assert!(b.sources().place(span).is_none() && b.sources().get(span.source).is_none());
    // The text of a question is no text of the page.
    let error = "p:hoover".parse::<SelectorList>().unwrap_err();
    assert_eq!((error.span.source, error.span.start), (SourceId::QUESTION, 1));
    assert!(a.sources().get(error.span.source).is_none() && a.sources().place(error.span).is_none());
    let trial = a.attempt(&[Change::WithoutAuthor]).unwrap();
    assert_eq!(trial.study.sources().text(span), Some("colr"));
}

/// An answer goes into JSON and comes back as it was.
fn kept<T: Serialize + DeserializeOwned>(answer: &T) {
    let json = serde_json::to_value(answer).unwrap();
    let back: T = serde_json::from_value(json.clone()).unwrap_or_else(|e| panic!("{e}: {json}"));
    assert_eq!(serde_json::to_value(back).unwrap(), json);
}

#[test]
fn answers_go_into_json_and_back() {
    let study = demo("programme.html");
    let mut words = BTreeSet::new();
    for id in study.document().ids() {
        for property in ["color", "margin-top", "--accent", "font-size"] {
            let why: Why = study.why(id, property).unwrap();
            kept(&why);
            words.extend(why.contenders.iter().filter_map(|c| c.stage));
            let winner = why.winner().map(|w| &w.at);
            assert_eq!(winner, why.contenders.first().map(|c| &c.at));
            // Who decides is on the element itself, or on the last of those that the value came from.
            if let Some(by) = &why.decided_by {
                let last = why.lineage.last().unwrap();
                assert_eq!((by.element, Some(&by.contender.at)), (last.element, last.declaration.as_ref()));
                assert!(why.sentence.contains(&by.cause), "{} {}", why.sentence, by.cause);
            } else {
                assert!(why.lineage.last().unwrap().declaration.is_none(), "{}", why.sentence);
            }
        }
        kept::<Vec<Reading>>(&study.read(id).unwrap());
        kept::<Vec<NoEffect>>(&study.without_effect(id).unwrap());
        kept::<WhyNot>(&study.why_not(id, "article > h2").unwrap());
        kept::<Vec<Aim>>(&study.aim(id, &[], &[]).unwrap());
        kept::<Twins>(&study.compare_elements(id, &study, study.document().id(0).unwrap()).unwrap());
    }
    assert!(words.len() > 1, "{words:?}");
    kept::<Vec<Rule>>(&study.rules());
    kept::<Vec<Written>>(&study.declarations());
    kept::<Reach>(&study.reach("css/base.css:19").unwrap());
    kept::<Comparison>(&study.compare(&demo("index.html")));
    let fixes = study.why_not(study.select("article h2").unwrap()[0], "css/programme.css:13").unwrap().fixes;
    assert!(!fixes.is_empty());
    for fix in fixes {
        // A change that was read back can be tried.
        let read: Vec<Change> = serde_json::from_value(serde_json::to_value(&fix.changes).unwrap()).unwrap();
        let (one, other) = (study.attempt(&fix.changes).unwrap(), study.attempt(&read).unwrap());
        let tried: Tried = study.compare_trial(&one).unwrap();
        kept(&tried);
        assert!(!tried.changes.is_empty() && one.edits[0].after == other.edits[0].after, "{}", fix.what);
    }
    let heavy = Specificity::new(u32::MAX, 1, 2) + Specificity::new(1, u32::MAX, 3);
    assert_eq!(serde_json::to_string(&heavy).unwrap(), format!("[{0},{0},5]", u32::MAX));
}

#[test]
fn rules_are_told_with_all_that_is_in_them() {
    let study = files(&[
        (
            "index.html",
            "<!DOCTYPE html><link rel=stylesheet href=a.css><style>@layer base { p { color: red } }</style><p id=x style='top: 1px' bgcolor=red>1",
        ),
        (
            "a.css",
            "@media print {\n  p, .x > i { top: 2px !important; colr: red; left: 2 }\n}\n@scope (main) { p { & b { left: 3px } right: 0 } }\ni { }",
        ),
    ]);
    let own: Vec<Rule> = study.rules().into_iter().filter(|r| r.origin == Origin::Author).collect();
    let told = |r: &Rule| {
        let selectors: Vec<&str> = r.selectors.iter().map(|s| s.selector.as_str()).collect();
        let declared: Vec<String> = r
            .declarations
            .iter()
            .map(|d| {
                let (important, dropped) =
                    (if d.important { "!" } else { "" }, if d.dropped.is_some() { "?" } else { "" });
                format!("{}: {}{important}{dropped}", d.property, d.value)
            })
            .collect();
        let off = if r.off.is_some() { " off" } else { "" };
        let layer = r.layer.as_ref().map(|l| format!(" in {l}")).unwrap_or_default();
        format!("{} {} {{ {} }}{off}{layer} {}", r.at, selectors.join(" | "), declared.join("; "), r.conditions.len())
    };
    let told: Vec<String> = own.iter().map(told).collect();
    assert_eq!(
        told,
        [
            "index.html:1:69 p { color: red } in base 0",
            "index.html:1:110  { top: 1px } 0",
            "a.css:2:3 p | .x > i { top: 2px!; colr: red?; left: 2? } off 1",
            "a.css:4:17 p { right: 0 } 1",
            "a.css:4:21 & b { left: 3px } 1",
            "a.css:5:1 i {  } 0",
        ]
    );
    assert_eq!(own[1].element, study.select("#x").ok().map(|e| e[0]));
    assert_eq!(own[2].selectors[1].specificity, Specificity::new(0, 1, 1));
    assert!(study.rules().iter().any(|r| r.origin == Origin::Defaults && r.selectors[0].selector == "html"));
    // Each place leads back, with the same declarations.
    for rule in study.rules().iter().filter(|r| r.origin == Origin::Author) {
        let reach = study.reach(&rule.at.to_string()).unwrap();
        assert_eq!(reach.declarations.len(), rule.declarations.len(), "{}", rule.at);
        for written in &rule.declarations {
            assert_eq!(study.reach(&written.at.to_string()).unwrap().declarations[0].at, written.at);
        }
    }
    assert_eq!(study.tallies().len(), study.declarations().len());
    let kinds: Vec<NoteKind> = study.notes().iter().map(|n| n.kind).collect();
    assert_eq!(kinds, [NoteKind::Property, NoteKind::Value]);
}

#[test]
fn changes_are_checked_and_escaped() {
    let study = files(&[
        ("index.html", "<link rel=stylesheet href=css/a.css><link rel=stylesheet href=more/a.css><p>1"),
        ("css/a.css", "p { color: red }"),
        ("more/a.css", "p { top: 0 }"),
    ]);
    let p = study.select("p").unwrap();
    let (at, elements) = (|place: &str| place.parse::<Place>().unwrap(), || p.clone());
    let refused = |change: Change| match study.attempt(&[change]) {
        Ok(trial) => format!("taken: {}", trial.edits.first().map(|e| e.after.clone()).unwrap_or_default()),
        Err(error) => error.to_string(),
    };
    let class = |class: &str| Change::Class { elements: elements(), class: class.to_owned(), on: true };
    let attach = |text: &str| Change::Attach { elements: elements(), declarations: text.to_owned() };
    let selectors = |by: &str| Change::Selectors { at: at("css/a.css:1:1"), by: by.to_owned() };
    let rule = |text: &str| Change::Rule { text: text.to_owned(), to: RulePlace::AfterAll };
    let cases: &[(Change, &str)] = &[
        (class("a b"), "`a b` is no class"),
        (class(""), "`` is no class"),
        (class("a\"b"), "<p class=\"a&quot;b\">"),
        (attach("top: 0 } p { left: 0"), "is no declaration"),
        (attach("top: \"x"), "is no declaration"),
        (attach("top: 0 /* x"), "is no declaration"),
        (attach("top: 0 \\"), "is no declaration"),
        (attach("content: \"}\""), "style=\"content: &quot;}&quot;\""),
        (selectors("p {"), "`p {` is no selector"),
        (selectors("p } q"), "is no selector"),
        (selectors("p:is(.a, .b)"), "p:is(.a, .b) {"),
        (rule("p { top: 0 } q"), "is no rule: this is no rule"),
        (rule("p:hoover { top: 0 }"), "did you mean `:hover`?"),
        (Change::Cut { at: at("a.css:1:5") }, "`a.css` may be css/a.css or more/a.css"),
        (Change::Important { at: at("a.css:1:5"), on: true }, "`a.css` may be css/a.css or more/a.css"),
        (Change::Important { at: at("/css/a.css:1:5"), on: true }, "color: red !important"),
        (Change::WithoutSheet { file: "a.css".to_owned() }, "`a.css` may be css/a.css or more/a.css"),
        (Change::Rule { text: "p {}".to_owned(), to: RulePlace::EndOf("a.css".to_owned()) }, "`a.css` may be"),
        (Change::Important { at: at("css/a.css:1:9"), on: true }, "color: red !important"),
        (Change::Important { at: at("css/a.css:1:1"), on: true }, "no declaration is written"),
    ];
    for (change, expected) in cases {
        let told = refused(change.clone());
        assert!(told.contains(expected), "{change:?}: {told}");
    }
    // What would end the `<style>` that it is put into is refused.
    let styled = page("<style>p { color: red }</style><p>1");
    let inside = [
        rule("p { content: '</STYLE>' }"),
        Change::Value { at: at("index.html:1:14"), by: "'</style>'".to_owned() },
        Change::Selectors { at: at("index.html:1:8"), by: "[a='</style']".to_owned() },
    ];
    for change in inside {
        let told = styled.attempt(&[change]).unwrap_err().to_string();
        assert!(told.contains("would end the `<style>`"), "{told}");
    }
    assert!(study.reach("a.css:1").unwrap_err().to_string().contains("`a.css` may be css/a.css or more/a.css"));
}

#[test]
fn a_trial_knows_where_a_declaration_has_moved_to() {
    let study = demo("index.html");
    let all: Vec<Written> = study.declarations().into_iter().filter(|w| w.at.file.ends_with("base.css")).collect();
    let trial = study.attempt(&[Change::Cut { at: all[3].at.clone() }]).unwrap();
    assert_eq!(trial.changes(), [Change::Cut { at: all[3].at.clone() }]);
    let lines: Vec<&str> = trial.edits[0].after.lines().collect();
    for written in &all {
        let found = trial.moved_to(&written.at);
        assert_eq!(found.is_none(), written.at == all[3].at, "{}", written.at);
        let Some(then) = found else { continue };
        let rest: String = lines[then.line as usize - 1].chars().skip(then.column.unwrap() as usize - 1).collect();
        assert!(rest.starts_with(&written.property), "{} is at {then}: {rest}", written.at);
    }
    assert!(trial.moved_to(&Place::line("nope.css", 1)).is_none());
}

#[test]
fn a_page_is_seen_in_another_way_without_being_read_again() {
    let text = "<link rel=stylesheet href=a.css media=print><style>@import 'b.css' (width < 400px); p { color: red }
        @media (prefers-color-scheme: dark) { p { color: white } } p:target { color: blue }</style><p id=x>1";
    let list = [("index.html", text), ("a.css", "p { color: black }"), ("b.css", "p { top: 7px }")];
    let study = files(&list);
    let x = study.select("#x").unwrap()[0];
    let mut both = vec![Viewing::default(), Viewing::print(), Viewing::screen(300.0, 0.0)];
    both.extend([Viewing::default().prefer("prefers-color-scheme", "dark"), Viewing::default().target([x])]);
    for viewing in both {
        let loader = list.iter().fold(MemoryLoader::default(), |l, (name, text)| l.with(name, text));
        let anew = Study::open_with(&loader, "index.html", &Options::default().viewing(viewing.clone())).unwrap();
        let seen = study.seen_with(viewing.clone()).unwrap();
        assert!(anew.compare(&seen).is_same(), "{viewing:?}");
        assert_eq!(seen.viewing(), &viewing);
    }
    for (width, height) in [(f64::NAN, 1.0), (-1.0, 1.0), (1.0, f64::INFINITY)] {
        assert!(matches!(study.seen_with(Viewing::screen(width, height)), Err(ViewingError::Size { .. })));
    }
}

#[test]
fn what_is_asked_for_and_not_there_is_a_note() {
    let loader = MemoryLoader::default()
        .with_bytes("index.html", "<link rel=stylesheet href=a.css>", "text/html;charset=\"nope 1\"")
        .with_bytes("a.css", "p {}", "Text/CSS ; charset=klingon");
    let viewing = Viewing::default().prefer("colour", "dark").prefer("contrast", "some").prefer("hover", "none");
    let study =
        Study::open_with(&loader, "index.html", &Options::default().viewing(viewing).alternate("Night")).unwrap();
    let notes: Vec<&str> = study.notes().iter().map(|n| n.message.as_str()).collect();
    let expected = ["`nope 1`", "`klingon`", "no preference `colour`", "never `some`", "title `Night`"];
    for word in expected {
        assert!(notes.iter().any(|n| n.contains(word)), "{word}: {notes:?}");
    }
    assert_eq!(notes.len(), expected.len(), "{notes:?}");
    // Each preference that there is can be asked for on a page.
    for (feature, values) in PREFERENCES {
        let study = page("<p>").seen_with(values.iter().fold(Viewing::default(), |v, one| v.prefer(*feature, *one)));
        assert!(study.unwrap().notes().is_empty(), "{feature}");
    }
}

#[test]
fn pseudo_elements_are_read_and_refused() {
    let study = page("<style>p::before { content: 'x' }</style><p>1");
    for text in
        ["before", "::part(a b)", ":: before", "p::before", "::befor", "::before, ::after", "", "::before:hover p"]
    {
        assert!(text.parse::<PseudoElement>().is_err(), "{text}");
    }
    for text in ["::before", ":after", "::-webkit-scrollbar", "::highlight(x)"] {
        assert!(text.parse::<PseudoElement>().is_ok(), "{text}");
    }
    let refused = study.select("p::before").unwrap_err().to_string();
    assert_eq!(refused, "`p::before` names the pseudo-element `::before`; elements are named without it");
    assert_eq!(study.locate("p::before").unwrap().pseudo.map(|p| p.to_string()).as_deref(), Some("::before"));
}
