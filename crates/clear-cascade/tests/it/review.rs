//! Findings: each kind where it is and where it is not, and facts of pages that add up.

use clear_cascade::review::{Acceptance, Facts, Finding, Kind, Level, Review};
use clear_cascade::{Change, MemoryLoader, Site, Study};

/// A site of some files; those that end in `.html` are its pages.
fn site(files: &[(&str, &str)]) -> Vec<Facts> {
    let loader = files.iter().fold(MemoryLoader::default(), |loader, (name, text)| loader.with(name, text));
    let pages = files.iter().map(|(name, _)| *name).filter(|name| name.ends_with(".html"));
    pages
        .map(|name| match Study::open(&loader, name) {
            Ok(study) => Facts::of(name, &study),
            Err(error) => Facts::unreadable(name, &error.to_string()),
        })
        .collect()
}

/// The facts of all pages together.
fn together(facts: impl IntoIterator<Item = Facts>) -> Facts {
    facts.into_iter().fold(Facts::default(), |mut all, one| {
        all.add(one);
        all
    })
}

/// The findings of a site, as `code place`, advice left out.
fn found(files: &[(&str, &str)]) -> Vec<String> {
    let review = Review::of(&together(site(files)));
    // What `top` does without `position` is not what these pages are about.
    let findings = review.findings.iter().filter(|f| f.level < Level::Advice && f.code != "no-effect");
    findings.map(|f| format!("{} {}", f.code, f.at)).collect()
}

#[test]
fn each_kind_is_found_where_it_is_and_not_where_it_is_not() {
    for kind in Kind::ALL {
        let of = |page: &str| {
            // A page that is not there has no text to show.
            let facts = if page.is_empty() {
                Facts::unreadable("a.html", "no file")
            } else {
                let (first, second) = page.split_once("\n<!-- another page: -->\n").unwrap_or((page, ""));
                together(site(&[("a.html", first), ("b.html", second)][..if second.is_empty() { 1 } else { 2 }]))
            };
            let review = Review::of(&facts);
            review.findings.into_iter().filter(|f| f.code == kind.code).collect::<Vec<Finding>>()
        };
        let with = of(kind.example.with);
        assert_eq!(with.len(), 1, "{}: {with:?}", kind.code);
        assert!(with[0].level >= kind.level && !with[0].what.is_empty(), "{with:?}");
        assert_eq!(of(kind.example.without), [], "{}", kind.code);
    }
}

/// The files of a site, and what is found there.
type Case = (&'static [(&'static str, &'static str)], &'static [&'static str]);

#[test]
fn what_is_found_over_a_site() {
    let cases: &[Case] = &[
        // What one page does not use, another may.
        (
            &[
                ("a.html", "<link rel=stylesheet href=s.css><p class=a>1"),
                ("b.html", "<link rel=stylesheet href=s.css><p class=b>1"),
                ("s.css", ".a { top: 0 } .b { top: 0 } .c { top: 0 }"),
            ],
            &["rule-unused s.css:1:29"],
        ),
        // What loses on one page may win on another.
        (
            &[
                ("a.html", "<link rel=stylesheet href=s.css><p class=a>1"),
                ("b.html", "<link rel=stylesheet href=s.css><p>1"),
                ("s.css", "p { top: 0 } .a { top: 1px }"),
            ],
            &[],
        ),
        // Sheets that are mostly not in use are for many sites.
        (&[("a.html", "<style>p{top:0} .b{top:0} .c{top:0} .d{top:0}</style><p>1")], &[]),
        // States in a bad order, but not where the later rule is for the same state, says the same, or holds at times only.
        (
            &[(
                "a.html",
                "<style>a:hover { left: 0; top: 0 } a:LINK { left: 1px } a:active::before { top: 0 } a:hover::before { top: 1px }</style><a href=x>1",
            )],
            &["state-hidden a.html:1:18", "state-hidden a.html:1:76"],
        ),
        (
            &[(
                "a.html",
                "<style>a:hover { left: 0 } a:link, a:hover { left: 1px } a:active { top: 0 } a:hover { top: 0 } \
                 a:focus { right: 0 !important } a:link { right: 1px } @media (width > 1px) { a:link { left: 2px } }</style><a href=x>1",
            )],
            &[],
        ),
        // In quirks mode the case of classes does not matter; what a program is to put in is no class.
        (
            &[("a.html", "<style>.button { color: red }</style><p class=Button>1<p class='{{ buton }} <%buton%>'>2")],
            &[],
        ),
        (
            &[("a.html", "<!DOCTYPE html><style>.button { color: red }</style><p class=button>1<p class=Button>2")],
            &["class-misspelt a.html:1:70"],
        ),
        // What `&` stands for may be two things.
        (
            &[(
                "a.html",
                "<style>.a { &:hover { left: 0 } i:hover { left: 0 } } .b { &:link { left: 1px } i:link { left: 1px } }</style>
                 <a class=a href=x>1<i>2</i></a><a class=b href=x>1<i>2</i></a>",
            )],
            &["rule-unused a.html:1:81"],
        ),
        // Names in the markup.
        (
            &[(
                "a.html",
                "<body claas=a><tabel>1</tabel><a herf=x ref=y styles=z>1</a><foo>2</foo><p title=a hidde>3<p :class=a @style=b xlass-a x-href=z><x-y claas=z>",
            )],
            &[
                "markup-misspelt a.html:1:7",
                "markup-misspelt a.html:1:15",
                "markup-misspelt a.html:1:34",
                "markup-misspelt a.html:1:84",
            ],
        ),
        // CSS among text, and what only looks like it.
        (&[("a.html", "<p>Hello\n@media print { p { color: red } }\n<p>2")], &["css-as-text a.html:1:1"]),
        (
            &[(
                "a.html",
                "<p>f() { color: red }<p>{ color: red }<p>p { colr: red }<p>p { color: 1 }<p>p { --x: 1 }<pre>p { color: red }</pre>{{ color }}",
            )],
            &[],
        ),
        // A rule for an element that is none; the markup of SVG is another.
        (
            &[("a.html", "<style>sectoin { top: 0 } p { top: 0 } path { top: 0 } b { top: 0 }</style><b>2</b><p>1")],
            &["rule-misses a.html:1:8", "rule-unused a.html:1:40"],
        ),
        // The same sheet for other media is another.
        (
            &[
                (
                    "a.html",
                    "<link rel=stylesheet href=s.css><link rel='STYLESHEET preload' href=' s.css '><link rel=stylesheet href=s.css media=print><p>1",
                ),
                ("s.css", "p { top: 0 }"),
            ],
            &["sheet-twice a.html:1:33"],
        ),
        // States, other media, scripts and names in `:not()` are reasons to be quiet.
        (
            &[("a.html", "<style>p:hover { top: 0 } @media print { p { top: 0 } q { top: 0 } }</style><p>1")],
            &["rule-unused a.html:1:55"],
        ),
        (&[("a.html", "<style>p { top: 0 } .on { top: 0 }</style><p>1<script>p.className = 'on'</script>")], &[]),
        (&[("a.html", "<style>p { top: 0 } p:not(.on) { left: 0 }</style><p>1<p class=om>2")], &[]),
        (&[("a.html", "<style>p { top: 0 } p.column2 { left: 0 } </style><p class=column2>1<p class=column3>2")], &[]),
        // One that is dropped is told as that, and not as one that loses.
        (
            &[(
                "a.html",
                "<style>p { color: red; color: bleu; *zoom: 1; -moz-box: x } @media (min-width: 0\\0 ) { }</style><p>1",
            )],
            &["value-invalid a.html:1:24"],
        ),
        (&[("a.html", "<style>p { top: 0; top: 0; left: 0; left: 1px }</style><p>1")], &["declared-twice a.html:1:12"]),
        (
            &[("a.html", "<style>p { --a: 1px; top: var(--b); left: var( --a , 1px); right: var(--c,) }</style><p>1")],
            &["variable-undefined a.html:1:22"],
        ),
        (&[("a.html", "<style>@property --b { syntax: '*'; inherits: true } p { top: var(--b) }</style><p>1")], &[]),
        (
            &[("a.html", "<style>p { top: 0 }</style><p style='top: 1px'>1"), ("b.html", "<p>")],
            &["never-wins a.html:1:12"],
        ),
        (&[("a.html", "<style>#menu { top: 0 } p { left: 0 }</style><p class=menu>1")], &["rule-misses a.html:1:8"]),
        (&[("a.html", "<style>p { color: gold\n  margin-top: 1px }</style><p>1")], &["value-invalid a.html:1:12"]),
        // What beats it, or makes it another box, may not be there at another width.
        (&[("a.html", "<style>p { color: red } @media (min-width: 9px) { p { color: navy } }</style><p>1")], &[]),
        (&[("a.html", "<style>p { color: red } </style><style media=screen>p { color: navy }</style><p>1")], &[]),
        // An id is of one element of a tree, and a type is no class without its dot but where there is no such type.
        (
            &[(
                "a.html",
                "<i id=q>1</i><div><template shadowrootmode=open><b id=q>1</b><u id=r>2</u><u id=r>3</u></template></div>",
            )],
            &["id-twice a.html:1:75"],
        ),
        (
            &[(
                "a.html",
                "<style>p { top: 0 } i { top: 0 } b { left: 0 } q { top: 0 } lead { top: 0 }</style><p id=q class=lead>1<i>2<b>3",
            )],
            &["rule-misses a.html:1:61", "rule-unused a.html:1:48"],
        ),
        // What wins may roll back to what loses.
        (&[("a.html", "<style>@layer a { p { color: red } } p { color: revert-layer }</style><p>1")], &[]),
        // Older names and values before newer ones.
        (
            &[("a.html", "<style>p { -webkit-transition: 1s; transition: 1s; height: 1vh; height: 1dvh }</style><p>1")],
            &[],
        ),
        // By place or state, by a script on the root, by a part of the class.
        (
            &[(
                "a.html",
                "<style>b { top: 0 } i { top: 0 } section:last-child { top: 0 }</style><section><b>1<i>2</i></b></section><p>",
            )],
            &["rule-unused a.html:1:34"],
        ),
        (
            &[("a.html", "<style>b { top: 0 } i { top: 0 } html.dark { top: 0 }</style><b class=dark>1<i>2")],
            &["rule-unused a.html:1:34"],
        ),
        (&[("a.html", "<style>p { top: 0 } input:checked { top: 0 } dialog[open] { top: 0 }</style><p>1")], &[]),
        (
            &[(
                "a.html",
                "<style>.column-a { top: 0 } [class*=olumn-] { left: 0 }</style><p class=column-a>1<p class=column-b>1",
            )],
            &[],
        ),
        (&[("a.html", "<link rel=stylesheet href=https://other.test/a.css><p>1")], &[]),
        (&[("a.html", "<p id=x>1<p id=y>2<template><p id=x></template>")], &[]),
    ];
    let wrong = cases.iter().filter(|(files, expected)| found(files) != *expected);
    let wrong: Vec<String> = wrong.map(|(files, _)| format!("{files:?}\n  gives {:?}", found(files))).collect();
    assert!(wrong.is_empty(), "{}", wrong.join("\n"));
}

#[test]
fn what_has_no_effect_has_none_at_other_widths_and_when_shown() {
    let idle = |style: &str| {
        let page = format!("<!DOCTYPE html><style>{style}</style><p><b>1</b><table><tr><td>2</table>");
        let review = Review::of(&together(site(&[("a.html", &page)])));
        review.findings.iter().filter(|f| f.code == "no-effect" && f.level < Level::Advice).count()
    };
    let cases = [
        ("b { width: 1px }", 1),
        ("b { width: 1px } @media (width < 9px) { b { display: block } }", 0),
        ("b { width: 1px } @media (width > 9px) { p { display: flex } }", 0),
        ("b { width: 1px; display: none }", 0),
        ("b { align-self: end }", 1),
        ("table { display: block; border-spacing: 0 }", 0),
        ("b { border-spacing: 0 }", 1),
        ("b { margin: 1px }", 0),
        ("b { outline-offset: -2px }", 0),
    ];
    let wrong: Vec<_> = cases.iter().filter(|(style, n)| idle(style) != *n).collect();
    assert!(wrong.is_empty(), "{wrong:?}");
}

#[test]
fn a_fix_renames_one_custom_property_and_no_longer_one() {
    let page = "<style>p { --accent: 1px; --acent-2: 2px; margin: var(--acent) var(--acent-2) }</style><p>1";
    let review = Review::of(&together(site(&[("a.html", page)])));
    let fix = review.findings.iter().find(|f| f.code == "variable-undefined").map(|f| f.fix.clone()).unwrap();
    let by = "var(--accent) var(--acent-2)".to_owned();
    assert_eq!(fix, [clear_cascade::Change::Value { at: "a.html:1:43".parse().unwrap(), by }]);
    // Custom properties are no older names of each other.
    let page = "<style>p { --a: 1px; --b: 2px; top: var(--a) var(--b) } p { --a: 3px }</style><p>1";
    assert!(found(&[("a.html", page)]).contains(&"never-wins a.html:1:12".to_owned()));
}

/// Pages that share a sheet: as the first of theirs, as the second, in quirks mode, by an import.
const SHARING: &[(&str, &str)] = &[
    ("a.html", "<link rel=stylesheet href=s.css><p class=a id=x>1<b>2</b>"),
    ("b.html", "<link rel=stylesheet href=t.css><link rel=stylesheet href=s.css><p class=b id=x>1<p id=x>2"),
    ("c.html", "<!DOCTYPE html><link rel=stylesheet href=s.css><p class=be style='top: 0'>1"),
    ("d.html", "<!DOCTYPE html><style>@import 's.css'; q { top: 0 }</style><p class=ab>1<ul><li>2</ul>"),
    (
        "e.html",
        "<!DOCTYPE html><link rel=stylesheet href=s.css><link rel=stylesheet href=gone.css><ul><li class=a>2</ul>",
    ),
    (
        "s.css",
        "/* accept id-twice: ours */ .a { top: 0; width: 3 } p { top: 1px; colr: red; font-size: 80% } b { width: 1px; font-size: 80% } \
         .b { left: var(--x) } ul .li { left: 0 } li.a { --y: 1 } @media print { .a { top: 3px } } a:hover, .c { top: 0 }",
    ),
    ("t.css", "b { top: 0 }"),
];

#[test]
fn pages_of_a_site_are_what_they_are_alone() {
    let loader = SHARING.iter().fold(MemoryLoader::default(), |loader, (name, text)| loader.with(name, text));
    let shared = Site::new(loader.clone());
    let names = ["a.html", "b.html", "c.html", "d.html", "e.html", "a.html", "c.html"];
    let mut taken = Facts::default();
    for name in names {
        let (alone, beside) = (Study::open(&loader, name).unwrap(), shared.page(name).unwrap());
        assert_eq!(Facts::of(name, &beside), Facts::of(name, &alone), "{name}");
        assert!(alone.compare(&beside).is_same() && alone.notes().len() == beside.notes().len(), "{name}");
        for (rule, other) in alone.rules().iter().zip(beside.rules()) {
            assert_eq!((&rule.at, &rule.declarations), (&other.at, &other.declarations), "{name}");
        }
        let cut = [Change::Cut { at: "s.css:1:34".parse().unwrap() }];
        let tried = [&alone, &beside].map(|page| page.compare_trial(&page.attempt(&cut).unwrap()).unwrap().sentence);
        assert_eq!(tried[0], tried[1], "{name}");
        taken.take(name, &beside);
    }
    assert_eq!(taken, together(site(SHARING)));
}

#[test]
fn facts_add_up_in_any_order_and_through_json() {
    let facts = site(SHARING);
    let whole = together(facts.clone());
    let turned = together(facts.iter().rev().cloned());
    let (ab, rest) = (together(facts[..2].to_vec()), together(facts[2..].to_vec()));
    assert_eq!(turned, whole);
    assert_eq!(together([whole.clone(), facts[1].clone()]), whole, "a page counts once");
    assert_eq!(together([rest, ab]), whole);
    let kept: Vec<Facts> =
        facts.iter().map(|f| serde_json::from_str(&serde_json::to_string(f).unwrap()).unwrap()).collect();
    assert_eq!(together(kept), whole);
    assert!(Review::of(&whole).findings.len() > 4);
}

#[test]
fn findings_are_accepted_with_a_reason() {
    let left = |page: &str, also: &str| {
        let also = Acceptance::read("accepted.txt", also).unwrap();
        let review = Review::accepting(&together(site(&[("a.html", page)])), &also);
        let told: Vec<String> = review.findings.iter().map(|f| format!("{} {}", f.code, f.at)).collect();
        (told, review.accepted.len())
    };
    let page = |comment: &str| format!("<style>{comment} p {{ colour: red }}</style><p>1");
    let gone = (Vec::<String>::new(), 1);
    assert_eq!(left(&page("/* accept property-unknown: a program reads it */"), ""), gone);
    assert_eq!(left(&page("/* accept property-unknown: a program\nreads it */"), ""), gone);
    assert_eq!(left(&page(""), "property-unknown a.html:1 a program reads it"), gone);
    assert_eq!(left(&page(""), "property-unknown a.html a program reads it"), gone);
    let (told, accepted) = left(&page("/* accept property-unknown: */"), "");
    assert_eq!((told.len(), accepted), (1, 0), "without a reason it is none");
    let (told, _) = left(&page("/* accept id-twice: for now */"), "never-wins b.html later");
    assert_eq!(
        told,
        ["property-unknown a.html:1:43", "acceptance-unused a.html:1", "acceptance-unused accepted.txt:1"]
    );
    for wrong in ["id-twice", "id-twice a.html", "id-twice a.html:3"] {
        assert!(Acceptance::read("x", wrong).unwrap_err().starts_with("x:1: "));
    }
}

/// Pages that are not part of the project, each in a folder of its own.
#[test]
#[ignore = "needs pages in the folder that CLEAR_CASCADE_PAGES names"]
fn what_is_dead_on_other_pages_can_be_cut_and_nothing_changes() {
    let folder = std::env::var("CLEAR_CASCADE_PAGES").unwrap();
    let (mut cut, mut wrong) = (0, Vec::new());
    for page in std::fs::read_dir(&folder).unwrap().flatten().filter(|e| e.path().join("index.html").is_file()) {
        let Ok(study) = Study::open(&clear_cascade::FileLoader::new(page.path()), "index.html") else { continue };
        let review = Review::of(&Facts::of("index.html", &study));
        let dead = |f: &&Finding| matches!(f.code.as_str(), "never-wins" | "declared-twice" | "rule-unused");
        let (told, advice): (Vec<_>, Vec<_>) =
            review.findings.iter().filter(dead).partition(|f| f.level < Level::Advice);
        // Of what is only advice, some.
        for finding in told.into_iter().chain(advice.into_iter().step_by(40)) {
            let change = clear_cascade::Change::Cut { at: finding.at.clone() };
            let Ok(trial) = study.attempt(&[change]) else { continue };
            cut += 1;
            let tried = study.compare_trial(&trial).unwrap();
            if !tried.changes.is_empty() {
                wrong.push(format!("{}: {} {}: {}", page.path().display(), finding.code, finding.at, tried.sentence));
            }
        }
    }
    assert!(wrong.is_empty() && cut > 200, "of {cut}:\n{}", wrong.join("\n"));
}
