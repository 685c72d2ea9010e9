//! The stages of the cascade, one by one and against each other (CSS Cascade 6, §3).

use clear_cascade::Options;
use clear_cascade::answer::{Outcome, Why};
use clear_cascade::cascade::Stage;

use crate::{demo, files, page, with_options};

/// Asks why `#x` has its colour; each row of the tables below has the winner's value in green.
#[track_caller]
fn ask(html: &str) -> Why {
    let study = page(html);
    let x = study.select("#x").expect("an element with id x")[0];
    study.why(x, "color").expect("color is a longhand")
}

#[test]
fn each_stage_settles_and_outranks_those_behind_it() {
    use Stage::{Context, Layer, Order, Origin, Proximity, Specificity, StyleAttribute};
    let rows: &[(Stage, &str)] = &[
        // Origin and importance: before the style attribute, layers, specificity, order.
        (Origin, "<style>p { color: green !important }</style><p id=x style='color: red'>"),
        (Origin, "<style>@layer a { p { color: green !important } } #x { color: red }</style><p id=x>"),
        (Origin, "<style>p { color: green !important } #x#x { color: red }</style><p id=x>"),
        (Origin, "<style>p { color: green !important } p { color: red }</style><p id=x>"),
        (Origin, "<style>* { color: green }</style><a href=# id=x>"),
        (Origin, "<style>* { color: green }</style><font color=red id=x>"),
        (Origin, "<style>@scope (p) { a { color: green !important } } #x { color: red }</style><p><a id=x>"),
        (Origin, "<body link=green><a href=# id=x>"),
        (
            Origin,
            "<style>#x { color: red }</style><div id=x><template shadowrootmode=open><style>:host { color: green !important }</style><slot></slot></template></div>",
        ),
        (
            Origin,
            "<style>p { color: green !important }</style><div><template shadowrootmode=open><style>::slotted(p) { color: red }</style><slot></slot></template><p id=x></div>",
        ),
        // The tree: before the style attribute, layers, specificity, order; turned round by importance.
        (
            Context,
            "<style>#x { color: green }</style><div id=x><template shadowrootmode=open><style>:host { color: red }</style><slot></slot></template></div>",
        ),
        (
            Context,
            "<style>div { color: green }</style><div id=x><template shadowrootmode=open><style>:host(#x) { color: red }</style><slot></slot></template></div>",
        ),
        (
            Context,
            "<style>@layer a { div { color: green } }</style><div id=x><template shadowrootmode=open><style>:host { color: red }</style><slot></slot></template></div>",
        ),
        (
            Context,
            "<div id=x style='color: green'><template shadowrootmode=open><style>:host { color: red }</style><slot></slot></template></div>",
        ),
        (
            Context,
            "<div id=x style='color: red !important'><template shadowrootmode=open><style>:host { color: green !important }</style><slot></slot></template></div>",
        ),
        (
            Context,
            "<style>#x { color: red !important }</style><div id=x><template shadowrootmode=open><style>:host { color: green !important }</style><slot></slot></template></div>",
        ),
        (
            Context,
            "<style>p { color: green }</style><div><template shadowrootmode=open><style>::slotted(#x) { color: red }</style><slot></slot></template><p id=x></div>",
        ),
        (
            Context,
            "<style>p { color: red !important }</style><div><template shadowrootmode=open><style>@layer a { ::slotted(p) { color: green !important } }</style><slot></slot></template><p id=x></div>",
        ),
        (
            Context,
            "<div><template shadowrootmode=open><style>::slotted(p) { color: red }</style><slot></slot></template><p id=x style='color: green'></div>",
        ),
        // The style attribute: before layers, specificity, proximity, order.
        (StyleAttribute, "<style>#x#x { color: red }</style><p id=x style='color: green'>"),
        (StyleAttribute, "<style>#x { color: red !important }</style><p id=x style='color: green !important'>"),
        (
            StyleAttribute,
            "<style>@layer a { #x { color: red !important } }</style><p id=x style='color: green !important'>",
        ),
        (StyleAttribute, "<style>@scope (p) { :scope { color: red } }</style><p id=x style='color: green'>"),
        // Layers: before specificity, proximity, order.
        (Layer, "<style>@layer a, b; @layer b { p { color: green } } @layer a { #x { color: red } }</style><p id=x>"),
        (Layer, "<style>p { color: green } @layer a { #x { color: red } }</style><p id=x>"),
        (
            Layer,
            "<style>@layer a { #x { color: green !important } } @layer b { #x#x { color: red !important } }</style><p id=x>",
        ),
        (Layer, "<style>@layer a { p { color: green !important } } #x { color: red !important }</style><p id=x>"),
        (Layer, "<style>@layer a { p { color: green } @layer b { #x { color: red } } }</style><p id=x>"),
        (Layer, "<style>@layer a.b { #x { color: red } } @layer a { p { color: green } }</style><p id=x>"),
        (Layer, "<style>@layer { #x { color: red } } @layer { p { color: green } }</style><p id=x>"),
        (
            Layer,
            "<style>@layer a { p { color: green } } @layer b { @scope (p) { :scope { color: red } } } @layer c { p { color: green } }</style><p id=x>",
        ),
        // Specificity: before proximity and order; its columns do not carry over.
        (Specificity, "<style>#x { color: green } p { color: red }</style><p id=x>"),
        (Specificity, "<style>#x { color: green } .a.a.a.a.a.a.a.a.a.a.a { color: red }</style><p id=x class=a>"),
        (Specificity, "<style>.a { color: green } body p { color: red }</style><p id=x class=a>"),
        (Specificity, "<style>:is(#no, p) { color: green } .a { color: red }</style><p id=x class=a>"),
        (Specificity, "<style>p { color: green } :where(#x) { color: red }</style><p id=x>"),
        (Specificity, "<style>p:not(#no) { color: green } .a { color: red }</style><p id=x class=a>"),
        (Specificity, "<style>#x { & { color: green } } p.a { color: red }</style><p id=x class=a>"),
        (
            Specificity,
            "<style>@scope (main) { p.a { color: green } } @scope (div) { p { color: red } }</style><main><div><p id=x class=a>",
        ),
        // Proximity: before order.
        (
            Proximity,
            "<style>@scope (div) { p { color: green } } @scope (main) { p { color: red } }</style><main><div><p id=x>",
        ),
        (Proximity, "<style>@scope (main) { p { color: green } } p { color: red }</style><main><p id=x>"),
        // Order of appearance.
        (Order, "<style>p { color: red } p { color: green }</style><p id=x>"),
        (Order, "<style>p { color: red; color: green }</style><p id=x>"),
        (Order, "<p id=x style='color: red; color: green'>"),
        (Order, "<style>p { color: red } @media all { p { color: green } }</style><p id=x>"),
        (Order, "<style>p { & { color: red } color: green }</style><p id=x>"),
        // And each stage once more against what comes behind it.
        (StyleAttribute, "<style>@layer a { p { color: red } }</style><p id=x style='color: green'>"),
        (
            StyleAttribute,
            "<style>@scope (p) { :scope { color: red !important } }</style><p id=x style='color: green !important'>",
        ),
        (Layer, "<style>@layer a { p { color: red } } @layer b { p { color: green } }</style><p id=x>"),
        (
            Layer,
            "<style>@layer b, a; @layer a { p { color: green } } @layer b { @scope (p) { :scope { color: red } } }</style><p id=x>",
        ),
        (
            Layer,
            "<style>@layer a { @layer b { p { color: green !important } } p.a { color: red !important } }</style><p id=x class=a>",
        ),
        (
            Layer,
            "<style>@layer a { p { color: green !important } } @layer b { p { color: red !important } }</style><p id=x>",
        ),
        (
            Layer,
            "<style>@layer a { p { color: red } } @supports (color: red) { p { color: green } } @layer a { #x { color: red } }</style><p id=x>",
        ),
        (Specificity, "<style>.a { color: green !important } p { color: red !important }</style><p id=x class=a>"),
        (Specificity, "<style>[id] { color: green } p { color: red }</style><p id=x>"),
        (Specificity, "<style>p:first-child { color: green } body p { color: red }</style><body><p id=x>"),
        (
            Specificity,
            "<style>:has(#y) > p { color: green } body p.a { color: red }</style><body><p id=x class=a><i id=y>",
        ),
        (
            Specificity,
            "<style>p:nth-child(1 of #x) { color: green } p.a.a { color: red }</style><body><p id=x class=a>",
        ),
        (
            Specificity,
            "<style>@scope (body) { :scope p { color: green } } @scope (main) { p { color: red } }</style><body><main><p id=x>",
        ),
        (Specificity, "<style>@layer a { .a { color: green } p { color: red } }</style><p id=x class=a>"),
        (
            Proximity,
            "<style>@scope (div) { p { color: green !important } } @scope (main) { p { color: red !important } }</style><main><div><p id=x>",
        ),
        (
            Proximity,
            "<style>@scope (div) { p { color: green } } p { color: red } p { color: red }</style><div><p id=x>",
        ),
        (
            Proximity,
            "<style>@layer a { @scope (div) { p { color: green } } @scope (main) { p { color: red } } }</style><main><div><p id=x>",
        ),
        (
            Proximity,
            "<style>@scope (main) { @scope (div) { p { color: green } } } @scope (main) { p { color: red } }</style><main><div><p id=x>",
        ),
        (Order, "<style>p { color: red !important } p { color: green !important }</style><p id=x>"),
        (Order, "<style>@layer a { p { color: red } } @layer a { p { color: green } }</style><p id=x>"),
        (Order, "<style>@scope (p) { :scope { color: red } :scope { color: green } }</style><p id=x>"),
        (Order, "<style>.a { color: red } .b { color: green }</style><p id=x class='b a'>"),
    ];
    assert!(rows.len() >= 60, "{} rows", rows.len());
    for (stage, html) in rows {
        let why = ask(html);
        assert_eq!(why.value, "rgb(0, 128, 0)", "{html}");
        assert_eq!(why.contenders[0].stage, Some(*stage), "{html}: {:#?}", why.contenders);
        assert_eq!(why.contenders[0].outcome, Outcome::Won);
        assert!(why.contenders[1..].iter().all(|c| c.outcome == Outcome::Out && c.stage.is_some()), "{html}");
    }
}

#[test]
fn importance_turns_the_order_of_origins_round() {
    let html = "<style>p { color: green !important }</style><p id=x>";
    let user = |text: &str| {
        let mut options = Options::default();
        options.user_sheets.push(("mine.css".to_owned(), text.to_owned()));
        let study = with_options(&[("index.html", html)], &options);
        study.value(study.select("p").unwrap()[0], "color").unwrap()
    };
    assert_eq!(user("p { color: red }"), "rgb(0, 128, 0)");
    assert_eq!(user("p { color: blue !important }"), "rgb(0, 0, 255)");
}

#[test]
fn rollback_leads_to_weaker_origins_and_layers() {
    let rows = [
        ("<style>a { color: red } a { color: revert }</style><a id=x href=#>", "rgb(0, 0, 238)"),
        ("<style>@layer a { p { color: green } } p { color: revert-layer }</style><p id=x>", "rgb(0, 128, 0)"),
        (
            "<style>@layer a { p { color: green } } @layer b { p { color: red } p { color: revert-layer } }</style><p id=x>",
            "rgb(0, 128, 0)",
        ),
        ("<style>p { color: green }</style><p id=x style='color: revert-layer'>", "rgb(0, 128, 0)"),
        ("<style>p { color: green } #x { color: red; color: revert-rule }</style><p id=x>", "rgb(0, 128, 0)"),
        ("<style>p { color: green } #x { color: revert-rule !important }</style><p id=x>", "rgb(0, 128, 0)"),
        ("<style>p { color: green }</style><p id=x style='color: revert-rule'>", "rgb(0, 128, 0)"),
        ("<style>div { color: green } p { color: red; color: unset }</style><div><p id=x>", "rgb(0, 128, 0)"),
        ("<style>div { color: green } p { all: initial }</style><div><p id=x>", "rgb(0, 0, 0)"),
        ("<style>p { color: revert }</style><p id=x><font color=red>", "rgb(0, 0, 0)"),
    ];
    for (html, expected) in rows {
        assert_eq!(ask(html).value, expected, "{html}");
    }
}

#[test]
fn the_fast_path_and_the_contest_agree() {
    let mut asked = 0;
    for name in ["index.html", "programme.html", "visit.html"] {
        let study = demo(name);
        for id in study.document().ids() {
            for (property, _) in study.values(id).unwrap() {
                asked += 1;
                assert!(study.agrees(id, &property), "{name} {id} {property}");
            }
        }
    }
    assert!(asked > 70_000, "only {asked} questions were asked");
}

#[test]
fn cutting_a_contender_gives_what_it_said() {
    let css = "* { color: gray } p { color: blue } .a { color: green; margin: 1em } #x { color: red }";
    let html = "<link rel=stylesheet href=a.css><body><p class=a id=x>";
    let study = files(&[("index.html", html), ("a.css", css)]);
    let why = study.why(study.select("#x").unwrap()[0], "color").unwrap();
    let mut text = css.to_owned();
    for (i, contender) in why.contenders.iter().enumerate() {
        let now = files(&[("index.html", html), ("a.css", &text)]);
        assert_eq!(contender.computes_to, crate::value(&now, "#x", "color"), "contender {i}");
        let (start, end) = (contender.start as usize, contender.end as usize);
        text.replace_range(start..end, &" ".repeat(end - start));
    }
    assert_eq!(why.otherwise, crate::value(&files(&[("index.html", html), ("a.css", &text)]), "#x", "color"));
}

#[test]
fn what_is_rolled_back_to_may_have_another_name() {
    let study = page(
        "<style>body { margin-left: 5px; margin-inline-start: revert } p { margin-block-start: 3px } p { margin-top: revert } \
         ul { padding-left: 2px; padding-inline-start: revert-layer } @layer q { ul { padding-left: 7px } } \
         h1 { margin-top: 1px } h1 { margin: 2px } h1.x { margin-block: revert } #y { margin-top: 4px } \
         a { color: red } a.x { color: var(--none, revert) } a.y { color: revert } a#z { color: lime }</style>\
         <p>a<ul><li>b</ul><h1 class=x id=y>c</h1><a href=# class='x y' id=z>d</a>",
    );
    let of = |selector: &str, property: &str| study.value(study.select(selector).unwrap()[0], property).unwrap();
    assert_eq!(of("body", "margin-left"), "8px");
    assert_eq!(of("p", "margin-top"), "16px");
    assert_eq!(of("ul", "padding-left"), "7px");
    // What would hold with the stronger contenders cut, one after the other.
    let without = |selector: &str, property: &str| -> Vec<String> {
        let why = study.why(study.select(selector).unwrap()[0], property).unwrap();
        why.contenders.into_iter().map(|c| c.computes_to).chain([why.otherwise]).collect()
    };
    assert_eq!(without("#y", "margin-top"), ["4px", "21.44px", "2px", "1px", "21.44px", "0px"]);
    let (lime, link, red, text) = ("rgb(0, 255, 0)", "rgb(0, 0, 238)", "rgb(255, 0, 0)", "rgb(0, 0, 0)");
    assert_eq!(without("#z", "color"), [lime, link, link, red, link, text]);
}
