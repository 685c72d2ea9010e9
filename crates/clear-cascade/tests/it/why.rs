//! Answers as their readers meet them: sentences, reasons, lineages, derivations.

use clear_cascade::answer::ValueFrom;

use crate::{demo, files, page};

/// The sentence, the reasons and the steps of one answer.
fn told(study: &clear_cascade::Study, name: &str, property: &str) -> String {
    let located = study.locate(name).unwrap();
    let why = study.why_of(located.elements[0], located.pseudo.as_ref(), property).unwrap();
    let mut out = vec![why.sentence];
    out.extend(
        why.contenders.iter().map(|c| format!("- {}: {} → {}: {}", c.property, c.value, c.computes_to, c.reason)),
    );
    out.extend(why.derivation.iter().map(|d| format!("= {d}")));
    out.extend(why.off.iter().map(|o| format!("(off) {}: {}: {}", o.property, o.value, o.reason)));
    out.extend(why.seen.iter().map(|s| format!("but {s}")));
    out.extend(why.dropped.iter().map(|d| format!("dropped: {d}")));
    out.extend(why.notes.iter().map(|n| format!("! {n}")));
    out.join("\n")
}

#[test]
fn answers_about_the_sample_site() {
    let (index, programme, visit) = (demo("index.html"), demo("programme.html"), demo("visit.html"));
    let all = [
        told(&index, "h1", "color"),
        told(&index, ".planet.faint", "color"),
        told(&index, ".teaser", "border-left-color"),
        told(&programme, ".fineprint em", "font-size"),
        told(&programme, ".more", "color"),
        told(&visit, ".hours td", "color"),
        told(&visit, "td", "float"),
        told(&visit, "#count", "background-color"),
    ];
    let root = concat!(env!("CARGO_MANIFEST_DIR"), "/../../demo/");
    insta::assert_snapshot!("sample_site", all.join("\n\n").replace(root, ""));
}

#[test]
fn answers_name_every_kind_of_cause() {
    let html = "<style>p::before { content: 'x'; color: red } b { color: inherit } i { all: unset } u { color: var(--no) } s { font: bold 2em serif } a { color: revert }</style>
        <body style='color: teal'><p>a<b>b</b><i>c</i><u>d</u><s>e</s><a href=#>f</a><font color=gold>g</font><br>";
    let study = page(html);
    let names = ["p::before", "b", "i", "u", "a", "font", "body", "html"];
    let mut all: Vec<String> = names.iter().map(|n| format!("{n}: {}", told(&study, n, "color"))).collect();
    all.push(told(&study, "s", "font-size"));
    all.push(told(&study, "s", "line-height"));
    insta::assert_snapshot!("causes", all.join("\n\n"));
}

#[test]
fn several_properties_are_grouped_by_what_gives_their_values() {
    let css = ":root { --line: 2px; --gold: #d4af37 } div { border: 1px dashed red; padding-left: 9px; font: italic 1.2em/1.5 serif }
        .card { border: var(--line) solid var(--gold); border-top-color: teal; margin: 8 em; padding: 1em 5%; flex: 1 }
        @media print { .card { padding: 0 } } p { margin: revert; font: inherit; color: inherit }";
    let study = files(&[("index.html", "<link rel=stylesheet href=a.css><div class=card>x<p>y"), ("a.css", css)]);
    let told = |name: &str, properties: &[&str]| {
        let element = study.select(name).unwrap()[0];
        let together = study.why_together(element, None, properties).unwrap();
        let mut out = vec![format!("{name} {}: {}", properties.join(" "), together.sentence)];
        for group in &together.groups {
            out.push(format!("{} {:?}", group.cause, group.put_in));
            out.extend(
                group
                    .members
                    .iter()
                    .map(|m| format!("- {} {} ({:?}) {:?}", m.why.property, m.why.value, m.said, m.steps)),
            );
        }
        out.join("\n")
    };
    let all = [
        told(".card", &["border-top", "border-left"]),
        told(".card", &["padding"]),
        told(".card", &["flex"]),
        told(".card", &["margin"]),
        told("p", &["margin"]),
        told("p", &["font-size", "line-height", "color", "color"]),
        told("p", &["--gold", "--silver", "display", "order"]),
    ];
    insta::assert_snapshot!("together", all.join("\n\n"));
    let everything = study.why_together(study.select("p").unwrap()[0], None, &["all"]).unwrap();
    assert!(everything.groups.iter().map(|g| g.members.len()).sum::<usize>() > 350, "{}", everything.sentence);
}

#[test]
fn variables_are_followed_to_where_they_are_set() {
    let css =
        ":root { --a: var(--b); --b: gold } p { border: var(--a) 2px solid; width: calc(100% - var(--gap, 1em)) }";
    let study = files(&[("index.html", "<!DOCTYPE html><link rel=stylesheet href=a.css><p>"), ("a.css", css)]);
    insta::assert_snapshot!(
        "variables",
        format!("{}\n\n{}", told(&study, "p", "border-top-color"), told(&study, "p", "width"))
    );
}

#[test]
fn inputs_of_a_value_are_told() {
    let css = ":root { color-scheme: light dark; --mode: night } p { font-size: 20px; color: light-dark(navy, gold);
        width: attr(data-w type(<length>), 3px); height: attr(data-h type(<length>), 4px); top: attr(data-no px, 5px);
        left: env(safe-area-inset-left); right: env(nope, 2em); bottom: env(nope);
        border-top: if(style(--mode: night): 3px; else: 1px) none; order: if(style(--mode: day): 2; else: 4);
        opacity: if(style(--mode: day): 2); outline-color: color-mix(in srgb, currentcolor, white); outline: medium;
        translate: 1em 10%; grid-template-columns: 2em 1fr 2em 1vw; margin: 1em auto; background-image: url(a.png);
        line-height: 150%; font-weight: bolder; letter-spacing: calc(1em / 8 - 1px); column-rule: 1.5px solid }";
    let html = "<link rel=stylesheet href=a.css><p data-w=30px data-h=tall>";
    let study = files(&[("index.html", html), ("a.css", css)]);
    let asked = [
        "color",
        "width",
        "height",
        "top",
        "left",
        "right",
        "bottom",
        "border-top-width",
        "order",
        "opacity",
        "outline-color",
        "outline-width",
        "translate",
        "grid-template-columns",
        "margin-left",
        "background-image",
        "line-height",
        "font-weight",
        "letter-spacing",
        "column-rule-width",
    ];
    let p = study.select("p").unwrap()[0];
    let steps = |property: &&str| {
        let why = study.why(p, property).unwrap();
        format!("{property}: {}\n{}", why.value, why.derivation.iter().map(|d| format!("= {d}\n")).collect::<String>())
    };
    insta::assert_snapshot!("inputs", asked.iter().map(steps).collect::<String>());
}

#[test]
fn slips_in_values_are_told_with_what_was_meant() {
    let slips = [
        ("color", "rde"),
        ("color", "rgb(1 2)"),
        ("color", "hls(1 2% 3%)"),
        ("color", "#12345"),
        ("color", "#gg0"),
        ("color", "ff0000"),
        ("border", "1px sold red"),
        ("display", "inlin"),
        ("width", "12 px"),
        ("width", "12"),
        ("width", "12pxx"),
        ("width", "cacl(1px + 2px)"),
        ("width", "calc(100% -10px)"),
        ("width", "calc(10px-3px + 1px)"),
        ("width", "calc(1px + 2s)"),
        ("width", "calc(1e-2px + 2s)"),
        ("right", "10px-5px"),
        ("filter", "blr(2px)"),
        ("transform", "rotat(3deg)"),
        ("transform", "rotate(45)"),
        ("transition", "opacity 1"),
        ("grid-template-columns", "repet(3, 1fr)"),
        ("mask-image", "linear-gradient(red, blu)"),
        ("opacity", "5px"),
        ("z-index", "1.5"),
        ("z-index", "auto auto"),
        ("flex-flow", "row column"),
        ("margin", "1px /"),
        ("font", "bold 12px"),
        ("padding", "1px -5px"),
        ("font-weight", "2000"),
        ("column-count", "0"),
        ("grid-row", "0"),
        ("font-style", "oblique 91deg"),
        ("filter", "brightness(-10%)"),
        ("columns", "-1px"),
    ];
    let css: String = slips.iter().map(|(property, value)| format!("p {{ {property}: {value} }}\n")).collect();
    let study = files(&[("index.html", "<!DOCTYPE html><link rel=stylesheet href=a.css><p>"), ("a.css", &css)]);
    let p = study.select("p").unwrap()[0];
    let told = slips.iter().enumerate().map(|(i, (property, value))| {
        let longhand = study.longhands(property).unwrap()[0].clone();
        let start = format!("`{property}: {value}` in a.css:{}:5: ", i + 1);
        let all = study.why(p, &longhand).unwrap().dropped;
        let told = all.iter().find_map(|n| n.strip_prefix(&start));
        told.unwrap_or_else(|| panic!("`{property}: {value}` is dropped: {all:?}")).to_owned() + "\n"
    });
    insta::assert_snapshot!("slips", told.collect::<String>());
}

#[test]
fn calls_and_types_are_told() {
    let css = "@function --fluid(--min <length>, --max <length>: 3rem) returns <length> { result: clamp(var(--min), 2vw, var(--max)) }
        @function --tint(--c) { result: color-mix(in srgb, var(--c), white) } @function --none() { --result: 1px }
        @function --odd() returns <length> { result: red } @function twice() { result: 1px }
        @function --strange(--a) maybe { } @function --notes() { color: red; @page { } result: 1px; }
        @property --size { syntax: '<length>'; inherits: true; initial-value: 0px }
        p { font-size: --fluid(1rem); width: --fluid(1px, 2px, 3px); height: --flud(1px); margin: --fluid(red);
            color: --tint(--tint(red)); top: --none(); left: --odd(); --size: 2em; line-height: random(1px, 2px);
            right: random(1px, 2px) }
        b { --size: red }";
    let study = files(&[("index.html", "<link rel=stylesheet href=a.css><p><b>"), ("a.css", css)]);
    let asked =
        ["font-size", "width", "height", "margin-top", "color", "top", "left", "line-height", "right", "--size"];
    let mut all: Vec<String> = asked.iter().map(|p| told(&study, "p", p)).collect();
    all.push(told(&study, "b", "--size"));
    all.extend(study.notes().iter().map(|n| format!("! {}: {}", study.sources().place(n.span).unwrap(), n.message)));
    insta::assert_snapshot!("calls", all.join("\n\n"));
}

#[test]
fn json_has_the_fixed_members() {
    let study = page("<style>p { color: gold } .a { color: red }</style><p class=a>");
    let why = study.why(study.select("p").unwrap()[0], "color").unwrap();
    let json = serde_json::to_value(&why).unwrap();
    let has = |v: &serde_json::Value, names: &[&str]| names.iter().all(|n| v.get(n).is_some());
    assert!(has(
        &json,
        &["element", "property", "value", "from", "lineage", "contenders", "derivation", "notes", "otherwise"]
    ));
    let contender = &json["contenders"][1];
    assert!(has(
        contender,
        &[
            "outcome",
            "stage",
            "property",
            "value",
            "computes_to",
            "file",
            "line",
            "column",
            "start",
            "end",
            "origin",
            "important",
            "layer",
            "specificity",
            "reason"
        ]
    ));
    assert_eq!(
        (&contender["outcome"], &contender["stage"], &contender["origin"]),
        (&"out".into(), &"specificity".into(), &"author".into())
    );
    assert_eq!(contender["specificity"], serde_json::json!([0, 0, 1]));
}

#[test]
fn unknown_properties_are_refused_with_the_nearest_name() {
    let study = page("<p>");
    let p = study.select("p").unwrap()[0];
    assert_eq!(study.why(p, "colour").unwrap_err().to_string(), "there is no property `colour`; did you mean `color`?");
    assert!(study.why(p, "margin").unwrap_err().to_string().contains("margin-top, margin-right"));
}

#[test]
fn what_is_seen_instead_is_told() {
    let html = "<!DOCTYPE html><style>body { background: pink } .card { float: left; display: inline-block; width: 3px }
        h2 { -webkit-text-fill-color: gold; visibility: hidden } .gone { display: none } u { text-decoration: none; width: 3px }
        .grad { background: linear-gradient(red, blue); background-clip: text; color: transparent }
        .fade { opacity: 0 } .half { opacity: .5; color: red } a { pointer-events: none; text-decoration: underline }
        @layer l { @media screen { @supports (color: red) { i { color: red; colour: blue; color: rde } } } }</style>
        <div class=card>x</div><h2>h</h2><p class=gone><b>g</b></p><h3 class=grad>t</h3><p class=fade><em>f</em></p>
        <p class=half>h</p><a href=x><u>l</u></a><i>i</i>";
    let study = crate::with_options(&[("index.html", html)], &{
        let mut options = clear_cascade::Options::default();
        options.viewing.states.hover = vec![page(html).select("a").unwrap()[0]];
        options
    });
    let asked = [
        (".card", "display"),
        ("h2", "color"),
        ("h2", "visibility"),
        ("b", "color"),
        (".gone", "display"),
        (".gone", "width"),
        (".grad", "color"),
        (".grad", "background-color"),
        ("em", "color"),
        (".half", "color"),
        (".half", "width"),
        ("u", "width"),
        ("u", "text-decoration-line"),
        ("html", "background-color"),
        ("body", "background-color"),
        ("a", "color"),
        ("a", "pointer-events"),
        ("i", "color"),
        ("h3::before", "color"),
        ("h3::marker", "color"),
        (".card", "color"),
    ];
    let rows: Vec<String> = asked
        .iter()
        .map(|(name, property)| {
            let located = study.locate(name).unwrap();
            let why = study.why_of(located.elements[0], located.pseudo.as_ref(), property).unwrap();
            let conditions = why.contenders.iter().flat_map(|c| &c.conditions).map(|c| format!("\n  in {c}"));
            let dropped = why.dropped.iter().map(|d| format!("\n  dropped: {d}"));
            let made = why.derivation.iter().filter(|d| d.contains("comes to block")).map(|d| format!("\n  {d}"));
            let seen = why.seen.iter().map(|s| format!("\n  but {s}"));
            format!("{name} {property}{}", seen.chain(made).chain(conditions).chain(dropped).collect::<String>())
        })
        .collect();
    insta::assert_snapshot!("seen", rows.join("\n"));
}

/// What is told of an element or a pseudo-element that nothing sets outright, and of what does not apply to it.
#[test]
fn what_nobody_sets_is_told_as_what_it_comes_from() {
    let html = "<style>b { float: left } p { display: flex; overflow-x: hidden } u { position: absolute; display: inline } q::before { content: 'x'; font-size: 2em; margin-left: 1em; float: left }
        li::marker { padding: 3px; color: red } body::selection { background: gold } p::first-letter { padding-inline-start: 2px; margin: 1em; width: 3px }
        em::selection { color: inherit; font-size: 9px } @media print { li::marker { margin: 1px } }</style>
        <p><b>1</b><i>2</i><u>3</u><em>4</em></p><q>5</q><ul><li>6</ul><details style='z-index: 7'><summary style='z-index: inherit'>7</summary></details>";
    let study = page(html);
    for (name, property, told) in [
        ("b", "display", "is block, made of its initial value, `inline`: nobody sets it here"),
        ("b", "display", "what floats is a block: `float` is left, set by `b`"),
        ("i", "display", "items of a flex container are blocks: of `p`, `display` is flex"),
        ("u", "display", "`inline` comes to block: what is positioned so is a block"),
        (
            "p",
            "overflow-y",
            "`visible` comes to auto: what scrolls in one direction does so in both: `overflow-x` is hidden",
        ),
        ("i", "overflow-y", "is visible, its initial value: nobody sets it here"),
        ("q::before", "display", "`float` is left, set by `q::before`"),
        ("q::before", "margin-left", "1em × 32px (font-size of `q::before`, set at"),
        ("li::marker", "padding-top", "`padding: 3px` in index.html:2:22: `padding-top` does not apply to `::marker`"),
        ("li::marker", "white-space-collapse", "set by the browser default `::marker`"),
        ("li::marker", "margin-top", "; besides, `margin-top` does not apply to `::marker`"),
        ("p::first-letter", "padding-left", "set by `p::first-letter`"),
        ("p::first-letter", "width", "`width` does not apply to `::first-letter`"),
        ("i::selection", "background-color", "inherited from `body::selection`"),
        (
            "i::selection",
            "background-color",
            "Where nothing sets it, `::selection` has what the `::selection` of the parent has.",
        ),
        ("i::selection", "color", "its initial value: nobody sets it here or further out"),
        ("em::selection", "color", "because of `em::selection`"),
        (
            "summary",
            "z-index",
            "because of the `style` attribute in index.html:4:116: a box of the browser's own, inside of `details`, does not hand it on",
        ),
        ("em::selection", "font-size", "`font-size` does not apply to `::selection`"),
    ] {
        let located = study.locate(name).unwrap();
        let (element, pseudo) = (located.elements[0], located.pseudo.as_ref());
        let why = study.why_of(element, pseudo, property).unwrap();
        let off = why.off.iter().map(|off| off.reason.clone());
        let all: Vec<String> = [why.sentence.clone()]
            .into_iter()
            .chain(why.belief)
            .chain(why.derivation)
            .chain(why.dropped)
            .chain(off)
            .collect();
        assert!(all.iter().any(|line| line.contains(told)), "{name} {property}: {told}\n{all:#?}");
    }
    // The rule tells the same of its declarations, and so does a review.
    let (marker, pseudo) = (study.locate("li::marker").unwrap(), "::marker".parse().unwrap());
    let not = study.why_not_of(marker.elements[0], Some(&pseudo), "li::marker").unwrap();
    assert!(not.sentence.contains("1 of its 2 declarations does nothing"), "{}", not.sentence);
    assert_eq!(not.declarations[0].idle.as_deref(), Some("`padding` does not apply to `::marker`"));
    let reach = study.reach("li::marker").unwrap();
    assert_eq!(reach.elements.len(), 1);
    let tally = study.tallies().into_iter().find(|t| t.declaration == "padding: 3px").unwrap();
    assert_eq!((tally.wins, tally.idle), (0, 1));
    // What is read of a pseudo-element is its own.
    let read = study.read_of(study.locate("i").unwrap().elements[0], Some(&"::selection".parse().unwrap())).unwrap();
    let by: Vec<(&str, &str)> = read.iter().map(|r| (r.property.as_str(), r.by.as_str())).collect();
    assert_eq!(by, [("background-color", "body::selection"), ("font-style", "i")]);
    let unset = page("<style>p::selection { background: gold } b::selection { all: unset }</style><p><b>1</b>");
    let read = unset.read_of(unset.select("b").unwrap()[0], Some(&"::selection".parse().unwrap())).unwrap();
    let by: Vec<(&str, &str, ValueFrom)> = read
        .iter()
        .map(|r| (r.property.as_str(), r.by.as_str(), r.from))
        .filter(|r| r.0 == "background-color")
        .collect();
    assert_eq!(by, [("background-color", "p::selection", ValueFrom::Inherited)]);
}
