//! Shadow trees, container queries, user sheets and sets of alternate sheets.

use clear_cascade::Options;

use crate::{files, page, value, with_options};

/// A card with slots, and a host inside of it.
const CARD: &str = "<!DOCTYPE html><style>
    body { color: navy } x-card { color: green; display: block } x-card::part(title) { padding: 1px } x-card::part(inner) { outline: 3px solid }
    x-card::part(title)::before { content: 'q' } .slotted { font-size: 30px } x-card p { margin: 0 }
    </style><body><x-card class=big><template shadowrootmode=open><style>
    @layer y, x; @layer x { h2 { letter-spacing: 3px } } @layer y { h2 { letter-spacing: 1px } }
    :host { color: orange; padding: 4px } :host(.big) { padding-left: 11px } :host(.small) { padding-left: 13px } :host-context(body) h3 { word-spacing: 2px }
    :host > h2 { text-indent: 5px } p { color: red } slot { text-transform: uppercase }
    ::slotted(p) { font-style: italic } ::slotted(.slotted) { font-size: 10px; line-height: 2 !important } slot[name=a]::slotted(*) { letter-spacing: 2px }
    :nth-child(2) { opacity: .5 } :last-child { opacity: .7 }
    </style><h2 part=title>T</h2><slot name=a>fallback</slot><slot></slot>
    <h3><x-in exportparts='pp: inner'><template shadowrootmode=closed><span part=pp>deep</span></template></x-in></h3></template>
    <p slot=a>A</p><p class=slotted style='line-height: 1'>B</p><p class=nowhere slot=nowhere>N</p></x-card><template shadowrootmode=nonsense><i>x</i></template>";

#[test]
fn styles_go_into_and_out_of_shadow_trees() {
    let study = page(CARD);
    let t = |selector: &str, property: &str, expected: &str| {
        assert_eq!(value(&study, selector, property), expected, "{selector} {property}");
    };
    t("x-card", "color", "rgb(0, 128, 0)");
    t("x-card", "padding-left", "11px");
    t("x-card", "padding-top", "4px");
    // Elements inside are found where the page itself has none of that name.
    t("h2", "letter-spacing", "3px");
    t("h2", "text-indent", "5px");
    t("h2", "padding-top", "1px");
    t("h2", "opacity", "0.5");
    t("h3", "opacity", "0.7");
    t("h3", "word-spacing", "2px");
    t("h3", "color", "rgb(0, 128, 0)");
    t("span", "outline-style", "solid");
    t("p[slot=a]", "font-style", "italic");
    t("p[slot=a]", "letter-spacing", "2px");
    t("p[slot=a]", "text-transform", "uppercase");
    t(".slotted", "font-size", "30px");
    t(".slotted", "line-height", "2");
    t(".nowhere", "color", "rgb(0, 128, 0)");
    t(".nowhere", "text-transform", "none");
    assert!(study.index_agrees());
    // The numbers of the page's own elements are as if there were no shadow trees.
    let tags: Vec<String> = study.document().elements().map(|e| e.name.to_string()).collect();
    assert_eq!(tags, ["html", "head", "style", "body", "x-card", "p", "p", "p", "template"]);
    let located = study.locate("h2::before").unwrap();
    assert_eq!(study.why_of(located.elements[0], located.pseudo.as_ref(), "content").unwrap().value, "\"q\"");
}

#[test]
fn style_queries_are_decided_and_sizes_are_not() {
    let study = page(
        "<style>section { container-name: sec; --mood: dark; --n: 5 }
        @container style(--mood: dark) { em { color: green } } @container sec style(--mood: light) { i { color: red } }
        @container sec (not style(--no)) and style(--n > 4) { b { color: green } } @container sec { u { color: green } }
        @container (width > 1px) { s { color: red } } @container other style(--mood: dark) { i { color: red } }
        i { width: if(style(--mood: dark): 3px; else: 4px) }</style>
        <section><p><em>a</em><i>b</i><b>c</b><u>d</u><s>e</s>",
    );
    for name in ["em", "b", "u"] {
        assert_eq!(value(&study, name, "color"), "rgb(0, 128, 0)", "{name}");
    }
    for name in ["i", "s"] {
        assert_eq!(value(&study, name, "color"), "rgb(0, 0, 0)", "{name}");
    }
    assert_eq!(value(&study, "i", "width"), "3px");
    let off = |name: &str| {
        let why = study.why(study.select(name).unwrap()[0], "color").unwrap();
        why.off.into_iter().map(|o| o.reason).collect::<Vec<_>>()
    };
    assert!(off("i")[0].contains("`@container sec style(--mood: light)` does not hold here"), "{:?}", off("i"));
    assert!(off("s")[0].contains("needs layout"), "{:?}", off("s"));
}

#[test]
fn what_is_off_says_what_would_turn_it_on() {
    let study = page(
        "<style>@media print { p { color: red } } @media (max-width: 700px) { p { color: blue } }
        @media (prefers-color-scheme: dark) { p { color: gold } } @media (min-width: 9000px) and (max-width: 10px) { p { color: teal } }</style><p>",
    );
    let why = study.why(study.select("p").unwrap()[0], "color").unwrap();
    let ends = ["on in print", "viewport is at most 700px", "with `prefers-color-scheme: dark`", "1280×800px"];
    assert_eq!(why.off.len(), ends.len());
    for (off, end) in why.off.iter().zip(ends) {
        assert!(off.reason.contains(end), "{} lacks {end}", off.reason);
    }
}

#[test]
fn what_is_off_is_found_in_every_tree() {
    let sheet = |rules: &str| format!("<style>@media print {{ {rules} }}</style>");
    let outside = sheet(
        "x-a { top: 1px } x-a::part(t) { top: 2px } b, .b:hover { top: 3px } * { top: 4px } @scope (x-a) { :scope { top: 5px } }",
    );
    let inside = sheet(":host { top: 6px } ::slotted(b) { top: 7px } i { top: 8px } @scope (:host) { i { top: 9px } }");
    let study = page(&format!(
        "<!DOCTYPE html>{outside}<x-a><template shadowrootmode=open>{inside}<i part=t>1</i><slot></slot></template><b class=b>2</b></x-a>"
    ));
    for (element, expected) in
        [("x-a", ["1px", "4px", "5px", "6px"].as_slice()), ("i", &["2px", "8px", "9px"]), ("b", &["3px", "4px", "7px"])]
    {
        let asked = study.select(element).unwrap()[0];
        let mut off: Vec<String> = study.why(asked, "top").unwrap().off.into_iter().map(|o| o.value).collect();
        off.sort();
        assert_eq!(off, expected, "{element}");
    }
}

#[test]
fn user_sheets_and_alternate_sheets() {
    let html = "<link rel=stylesheet href=a.css title=Day><link rel='alternate stylesheet' href=b.css title=Night><p>";
    let list = [("index.html", html), ("a.css", "p { color: red }"), ("b.css", "p { color: blue }")];
    let with = |change: &dyn Fn(&mut Options)| {
        let mut options = Options::default();
        change(&mut options);
        value(&with_options(&list, &options), "p", "color")
    };
    assert_eq!(files(&list).alternates(), ["Day", "Night"]);
    assert_eq!(with(&|_| ()), "rgb(255, 0, 0)");
    assert_eq!(with(&|o| o.alternate = Some("Night".to_owned())), "rgb(0, 0, 255)");
    let user = |text: &str| with(&|o| o.user_sheets.push(("mine.css".to_owned(), text.to_owned())));
    assert_eq!(user("p { color: teal }"), "rgb(255, 0, 0)");
    assert_eq!(user("p { color: teal !important }"), "rgb(0, 128, 128)");
}
