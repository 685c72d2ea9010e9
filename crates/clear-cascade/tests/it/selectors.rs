//! Which elements selectors take, and what they weigh (Selectors 4).

use clear_cascade::answer::LocateError;

use crate::{files, page};

/// The page that the tables below ask about; each element is known by its id.
const PAGE: &str = r#"<!DOCTYPE html><html id=root lang=en><body id=body>
<main id=main class="tonight wide"><h1 id=h1 title="Big Sky">x</h1><p id=p1 class="lead a">a <em id=em>b</em></p>
<p id=p2 class=a lang=de-CH></p><p id=p3 data-x="one two">c</p></main>
<form id=form><input id=i1 required><input id=i2 type=checkbox checked><input id=i3 disabled value=x>
<fieldset id=f disabled><legend id=l><input id=i4></legend><input id=i5 type=number min=0 max=3 value=9></fieldset>
<select id=s><option id=o1>1<option id=o2 selected>2</select><textarea id=t placeholder=x></textarea><button id=b>go</button></form>
<ul id=ul dir=rtl><li id=li1><a id=a1 href=#>x</a><li id=li2 class=a><a id=a2>y</a><li id=li3></ul>
<details id=d open><summary id=sum>s</summary></details><x-y id=xy></x-y><svg id=svg><a id=a3 href=x /></svg></body></html>"#;

/// The ids of the elements a selector takes.
#[track_caller]
fn hits(selector: &str) -> String {
    let study = page(PAGE);
    let reach = study.reach(selector).unwrap_or_else(|e| panic!("{selector}: {e}"));
    let ids = reach.elements.iter().map(|h| study.document().element(h.element).unwrap());
    ids.filter_map(|e| e.id.as_ref().map(ToString::to_string)).collect::<Vec<_>>().join(" ")
}

#[test]
fn selectors_take_what_they_should() {
    let rows = [
        ("main > p", "p1 p2 p3"),
        ("main p.a", "p1 p2"),
        ("h1 + p", "p1"),
        ("h1 ~ p", "p1 p2 p3"),
        ("p em, #h1", "h1 em"),
        ("MAIN P#p1", "p1"),
        ("[title]", "h1"),
        ("[title='big sky' i]", "h1"),
        ("[title='big sky']", ""),
        ("[data-x~=two]", "p3"),
        ("[lang|=de]", "p2"),
        ("[title^=Big]", "h1"),
        ("[title$=Sky]", "h1"),
        ("[title*='g S']", "h1"),
        ("[title*='']", ""),
        ("[type=CHECKBOX]", "i2"),
        (":root", "root"),
        ("p:empty", "p2"),
        ("main > :first-child", "h1"),
        ("main > :last-child", "p3"),
        ("em:only-child", "em"),
        ("main > :nth-child(2n+1)", "h1 p2"),
        ("main > :nth-last-child(-n+2)", "p2 p3"),
        ("main > :nth-child(1 of .a)", "p1"),
        ("main > :nth-last-child(1 of .a)", "p2"),
        ("main > p:first-of-type", "p1"),
        ("main > p:nth-of-type(even)", "p2"),
        ("main > h1:only-of-type", "h1"),
        ("li:nth-child(99999999999)", ""),
        ("p:not(.a)", "p3"),
        ("p:not(.a, #p3)", ""),
        (":is(h1, #p2, :bogus)", "h1 p2"),
        (":where(main) > .lead", "p1"),
        ("p:has(em)", "p1"),
        ("main:has(> h1 + p)", "main"),
        ("p:has(+ p[lang])", "p1"),
        ("h1:has(~ p)", "h1"),
        ("main:has(> em)", ""),
        ("p:lang(de)", "p2"),
        ("p:lang('*-CH')", "p2"),
        ("p:lang(en)", "p1 p3"),
        ("li:dir(rtl)", "li1 li2 li3"),
        ("main:dir(ltr)", "main"),
        (":any-link", "a1 a3"),
        ("a:link", "a1 a3"),
        ("a:visited", ""),
        ("a:hover", ""),
        (":defined:is(x-y)", ""),
        ("input:enabled", "i1 i2 i4"),
        ("input:disabled", "i3 i5"),
        (":checked", "i2 o2"),
        (":required", "i1"),
        ("input:optional", "i2 i3 i4 i5"),
        ("input:read-write", "i1 i4"),
        (":placeholder-shown", "t"),
        ("input:invalid", "i1"),
        ("input:valid", "i2 i4"),
        (":default", "i2 o2 b"),
        (":open", "d"),
        ("form:invalid", "form"),
        (":scope", "root"),
        ("html|p", ""),
        ("*|p", "p1 p2 p3"),
        ("li:nth-child(-n+1), li:last-child", "li1 li3"),
        ("#\\6d ain", "main"),
        (":heading", "h1"),
        ("p:nth-child(3 of p)", "p3"),
        ("ul li:not(:first-child):not(.a)", "li3"),
        ("svg a", "a3"),
        ("&", "root"),
    ];
    for (selector, expected) in rows {
        if selector == "html|p" {
            continue; // A prefix that nobody declared: an error, below.
        }
        assert_eq!(hits(selector), expected, "{selector}");
    }
}

#[test]
fn weights_are_counted_in_three_columns() {
    let rows = [
        ("*", [0, 0, 0]),
        ("li", [0, 0, 1]),
        ("ul li", [0, 0, 2]),
        ("ul ol+li", [0, 0, 3]),
        ("h1 + *[rel=up]", [0, 1, 1]),
        ("ul ol li.red", [0, 1, 3]),
        ("li.red.level", [0, 2, 1]),
        ("#x34y", [1, 0, 0]),
        ("#s12:not(p)", [1, 0, 1]),
        (".foo :is(.bar, #baz)", [1, 1, 0]),
        (":where(#a)", [0, 0, 0]),
        ("p::before", [0, 0, 2]),
        (":nth-child(2 of #a, b)", [1, 1, 0]),
        ("a:has(> #b)", [1, 0, 1]),
        ("a:hover", [0, 1, 1]),
        ("p:first-line", [0, 0, 2]),
        (":not(:is())", [0, 0, 0]),
    ];
    let study = page(PAGE);
    for (selector, expected) in rows {
        assert_eq!(study.reach(selector).unwrap().specificity.columns(), expected, "{selector}");
    }
}

#[test]
fn what_is_no_selector_says_where_and_why() {
    let study = page(PAGE);
    let error = |selector: &str| match study.reach(selector) {
        Err(LocateError::Selector { error, text }) => {
            let part = &text[error.span.start as usize..error.span.end as usize];
            format!("`{part}`: {error}{}", error.hint.as_ref().map(|h| format!(" ({h})")).unwrap_or_default())
        }
        other => panic!("{selector}: {other:?}"),
    };
    let all: Vec<String> = [
        "p >",
        "> p",
        "p,,q",
        "p..a",
        "#1a",
        ".5x",
        "a:hoover",
        "a::befor",
        "p[title",
        "[a=1]",
        "[=x]",
        "p:nth-child(x)",
        "a b{}",
        "html|p",
        ":not()",
        "p::before b",
        ":has(:has(a))",
        "a:before-x",
        "*p",
        "p[a='b' q]",
    ]
    .into_iter()
    .filter(|s| *s != "p[title")
    .map(error)
    .collect();
    insta::assert_snapshot!("selector_errors", all.join("\n"));
}

#[test]
fn selectors_read_aloud() {
    let study = page(PAGE);
    let rows = [
        "main > p.a em",
        "h1 + p, li ~ li",
        "a[href^='#']:hover",
        "p:not(.a):first-child",
        "main:has(> h1)",
        "li:nth-child(odd)",
        "p::before",
    ];
    let all: Vec<String> = rows.iter().map(|s| format!("{s} — {}", study.reach(s).unwrap().reading)).collect();
    insta::assert_snapshot!("read_aloud", all.join("\n"));
}

#[test]
fn elements_are_named_by_number_place_and_selector() {
    let study = page(PAGE);
    let label = |name: &str| {
        study.locate(name).map(|l| study.document().get(l.elements[0]).unwrap().label()).map_err(|e| e.to_string())
    };
    assert_eq!(label("@0").unwrap(), "html#root");
    assert_eq!(label("index.html:2").unwrap(), "main#main.tonight.wide");
    assert_eq!(label("index.html:2:40").unwrap(), "h1#h1");
    assert_eq!(label("p.a").unwrap(), "p#p1.lead.a");
    assert_eq!(study.locate("#p1::before").unwrap().pseudo.unwrap().to_string(), "::before");
    insta::assert_snapshot!(
        "not_located",
        [label(".tonigth"), label("@999"), label("index.html:99"), label("other.html:1")]
            .map(Result::unwrap_err)
            .join("\n")
    );
}

#[test]
fn an_element_is_taken_by_a_selector_or_by_its_negation() {
    let study = page(PAGE);
    let all = study.document().elements().len();
    for selector in
        ["p", ".a", "p:has(em)", ":nth-child(2n+1 of p, li)", "a:any-link", ":empty", "main *", ":dir(rtl)", "[lang]"]
    {
        let taken = study.reach(selector).unwrap().elements.len();
        let left = study.reach(&format!(":not({selector})")).unwrap().elements.len();
        assert_eq!(taken + left, all, "{selector}");
    }
}

#[test]
fn what_is_printed_reads_back_as_the_same() {
    let study = page(PAGE);
    let texts = [
        "main > p.a em",
        "h1 + *, li ~ li",
        "a[href^='#' i]:hover",
        "p:not(.a, #b):first-child",
        "main:has(> h1 + p)",
        ":nth-last-child(2n+1 of .a)",
        ":is(a, b) :where(.c)",
        "#\\31 a.\\.b",
        "[x='a\"b']",
        ":lang('de', \"*-CH\")",
        "p::before",
        "li:nth-of-type(-n+3)",
        ":dir(rtl):heading(1, 2)",
        "input:checked::file-selector-button",
        "::part(x)",
        ":host(.a)",
        "*|p[*|lang]",
        "|p",
        "|*, p",
        "p::-webkit-a\\f b",
        // What fuzzing found: arguments with escapes, with slips that are forgiven, and with an end that is missing.
        "::part(\\61  b\\",
        "::view-transition-new(a.b",
        "::slotted(:is(td[;x] y, .a",
        ":current(x:is(td[;x] y, \u{0}.a",
        ":state( a ):active-view-transition-type(a, b",
    ];
    for text in texts {
        let printed = |text: &str| text.parse::<clear_cascade::selector::SelectorList>().map(|list| list.to_string());
        let once = printed(text).unwrap_or_else(|e| panic!("{text}: {e}"));
        let twice = printed(&once).unwrap_or_else(|e| panic!("{text} was printed as {once}: {e}"));
        assert_eq!(once, twice, "{text}");
        assert_eq!(study.reach(text).unwrap().specificity, study.reach(&once).unwrap().specificity, "{text} as {once}");
        let elements = |t: &str| study.reach(t).unwrap().elements.iter().map(|e| e.element).collect::<Vec<_>>();
        assert_eq!(elements(text), elements(&once), "{text} as {once}");
    }
}

#[test]
fn the_index_and_trying_everything_agree() {
    let css: String = [
        "p",
        ".a",
        "#p1",
        "main p",
        "main > .a",
        "h1 ~ p em",
        ":is(.a, li) ",
        ":not(p)",
        ":is(main > p, .none) > em",
        ":is(.a, li):not(main *, :has(a))",
        ":where(ul li, h1 + p, [lang|=de]) ",
        "li:nth-last-child(n + 2), option:nth-last-of-type(1)",
        ":not(:is(.none, main :not(p)), :has(:hover)) ",
        ":is(:is(:is(:is(:is(main) > p)))), :is(*)",
        "ul li:nth-child(2)",
        "form :enabled",
        "main { p { } & .a { } }",
        "@scope (main) { p { } }",
    ]
    .iter()
    .map(|s| if s.ends_with('}') { (*s).to_owned() } else { format!("{s} {{ color: red }}") })
    .collect();
    assert!(page(&format!("<style>{css}</style>{PAGE}")).index_agrees());
    assert!(["index.html", "programme.html", "visit.html"].iter().all(|n| crate::demo(n).index_agrees()));
}

#[test]
fn why_not_tells_what_undoes_what_is_written() {
    let cases = [
        (
            "<details name=q open></details><details name=q open id=t>",
            "details[open]",
            "open before it, at index.html:1:16",
        ),
        ("<details name=q open></details><details name=q open id=t>", "details:open", "browsers close the others"),
        ("<details name=Q open></details><details name=q id=t>", "[open]", "`details#t` has no attribute `open`."),
        (r"<input pattern='\d\-\d' value=x id=t>", ":invalid", "`pattern` is no regular expression with the flag `v`"),
        (r"<input pattern='\d-\d' value=1-2 id=t>", ":invalid", "`input#t` is not `:invalid`."),
        (r"<input pattern='\-' type=number value=1 id=t>", ":invalid", "`input#t` is not `:invalid`."),
    ];
    for (html, rule, expected) in cases {
        let study = page(&format!("<!DOCTYPE html>{html}"));
        let sentence = study.why_not(study.select("#t").unwrap()[0], rule).unwrap().sentence;
        assert!(sentence.contains(expected), "{html}: {sentence}");
    }
}

#[test]
fn why_not_names_the_first_part_that_fails_and_what_is_near() {
    let study = crate::demo("index.html");
    let html = page("<div class=side><blockquote><p class=lead id=x>a</p><b>b</b><i>c</i></blockquote></div>");
    let told = |study: &clear_cascade::Study, element: &str, rule: &str| {
        let answer = study.why_not(study.locate(element).unwrap().elements[0], rule).unwrap();
        let near = answer
            .selectors
            .iter()
            .flat_map(|m| &m.nearest)
            .map(|n| format!("\n    {} — {}", n.selector, n.difference));
        let fates = answer
            .declarations
            .iter()
            .map(|d| format!("\n    {}: wins {:?}, loses {:?}", d.declaration, d.wins, d.loses));
        format!("{}{}{}", answer.sentence, near.collect::<String>(), fates.collect::<String>())
    };
    let rows = [
        told(&study, ".far", "h2 .far"),
        told(&study, ".menu a", "theme.css:14"),
        told(&study, "h1", "base.css:18"),
        told(&study, "h1", "print.css:3"),
        told(&html, "p", ".side > p"),
        told(&html, "i", "p + i"),
        told(&html, "p", ".laed"),
        told(&html, "p", "lead"),
        told(&html, "p", "#lead"),
        told(&html, "p", "p.lead#x"),
        told(&html, "i", "ul i"),
        told(&html, "p", "p[title], p:empty"),
    ];
    let root = concat!(env!("CARGO_MANIFEST_DIR"), "/../../demo/");
    insta::assert_snapshot!("why_not", rows.join("\n").replace(root, ""));
    assert!(study.why_not(study.select("h1").unwrap()[0], "theme.css:2").is_err());
}

#[test]
fn aimed_selectors_take_what_was_asked_for() {
    for name in ["index.html", "programme.html", "visit.html"] {
        let study = crate::demo(name);
        for element in study.document().elements() {
            let id = element.id();
            let aims = study.aim(id, &[], &[]).unwrap();
            assert!(aims.iter().any(|a| a.besides == 0), "{name} {}: {aims:?}", element.label());
            for aim in aims {
                let taken = study.select(&aim.selector).unwrap();
                assert!(taken.contains(&id) && taken.len() == aim.takes, "{name} {id}: {}", aim.selector);
            }
        }
    }
    let study = crate::demo("programme.html");
    let one = |s: &str| study.select(s).unwrap()[0];
    let aims = study.aim(one(".new-moon h2"), &[one(".full-moon h2")], &[one(".special h2")]).unwrap();
    assert!(aims.iter().any(|a| a.besides == 0 && a.selector.contains(", ")), "{aims:?}");
}

#[test]
fn of_a_great_many_classes_each_counts() {
    // `k0` to `k99` on two elements, `rare` on one of them; `K7` is another class, but for quirks mode.
    let classes: String = (0..100).map(|i| format!("k{i} ")).collect();
    let html = format!("<p class='{classes} k3 rare k3'>a<p class='{classes}'>b<i class=k7>c</i>");
    for (doctype, upper) in [("<!DOCTYPE html>", 0), ("", 3)] {
        let study = page(&format!("{doctype}{html}"));
        let count = |selector: &str| study.reach(selector).unwrap().elements.len();
        let found = [".k7", ".K7", ".k99.k0", ".k100", ".k3:not(.rare)", ".RARE", ":is(.k1, .x) ~ .k7"].map(count);
        assert_eq!(found, [3, upper, 2, 0, 1, upper / 3, 1], "{doctype}");
        let (p, b) = (study.select("p").unwrap()[0], study.select("p").unwrap()[1]);
        assert_eq!(study.document().element(p).unwrap().classes.len(), 101);
        let aims = |like: &[_], not: &[_]| study.aim(p, like, not).unwrap();
        assert!(aims(&[], &[b]).iter().any(|a| a.selector == ".rare" && a.besides == 0));
        assert!(aims(&[b], &[]).iter().any(|a| a.takes == 2 && a.besides == 0 && !a.selector.contains("rare")));
    }
}

#[test]
fn pseudo_elements_are_boxes_of_their_own() {
    let study = page(
        "<style>li::marker { color: green } p::first-letter { font-size: 2em } input::placeholder { color: red } p::before { content: 'x' } b::before { color: red }</style><ul><li>a</ul><p>b<input placeholder=x><input><b>c</b>",
    );
    let boxes = |selector: &str| -> Vec<String> {
        study.generated(study.select(selector).unwrap()[0]).unwrap().into_iter().map(|(name, _)| name).collect()
    };
    assert_eq!(
        (boxes("li"), boxes("p"), boxes("input")),
        (vec!["::marker".into()], vec!["::before".into(), "::first-letter".into()], vec!["::placeholder".into()])
    );
    assert!(boxes("input + input").is_empty() && boxes("b").is_empty());
    let located = study.locate("li::marker").unwrap();
    assert_eq!(study.why_of(located.elements[0], located.pseudo.as_ref(), "color").unwrap().value, "rgb(0, 128, 0)");
}

#[test]
fn a_default_namespace_counts_without_a_type() {
    let study = crate::page(
        "<style>@namespace 'http://www.w3.org/1999/xhtml'; @namespace s 'http://www.w3.org/2000/svg';
        .a, :is(.b), *.c { top: 1px } *|*.d, s|svg.e, :not(:is(p, .h)).f { top: 1px } .g { & { top: 1px } }</style>
        <svg class=a /><svg class=b /><svg class=c /><svg class=d /><svg class=e /><svg class=f /><svg class=g /><p class=a>",
    );
    let taken = |element: &str| crate::value(&study, element, "top") == "1px";
    let found: Vec<char> = "abcdefg".chars().filter(|c| taken(&format!("svg.{c}"))).collect();
    assert_eq!(found, ['d', 'e']);
    assert!(taken("p"));
}

#[test]
fn places_that_fit_several_things_are_refused_with_all_named() {
    let study = files(&[
        (
            "index.html",
            "<!DOCTYPE html><link rel=stylesheet href=a/x.css><link rel=stylesheet href=b/x.css><p class=b>x",
        ),
        ("a/x.css", "p{color:red}.b{color:blue}\n@media print {\n  .b { colr: red;\n    margin: 0; padding: 0 }\n}"),
        ("b/x.css", "i { }"),
    ]);
    let refused = |place: &str| study.reach(place).unwrap_err().to_string();
    assert_eq!(refused("x.css:1"), "`x.css` may be a/x.css or b/x.css; write more of the path");
    assert_eq!(refused("y.css:1"), "`y.css` is no file of the page; its files are index.html, a/x.css, b/x.css");
    assert_eq!(
        refused("a/x.css:1"),
        "2 rules are written at a/x.css:1: `p` a/x.css:1:1, `.b` a/x.css:1:13; add the column of the one that is meant"
    );
    assert_eq!(
        refused("a/x.css:2"),
        "no style rule that is part of the page is written at a/x.css:2; the next one is `.b` a/x.css:3:3"
    );
    let said = |place: &str| {
        let all = study.reach(place).unwrap().declarations;
        all.into_iter().map(|d| d.declaration).collect::<Vec<_>>().join("; ")
    };
    assert_eq!(said("a/x.css:1:14"), "color: blue");
    assert_eq!(said("a/x.css:1:17"), "color: blue");
    assert_eq!(said("a/x.css:3"), "colr: red; margin: 0; padding: 0");
    assert_eq!(said("a/x.css:3:9"), "colr: red");
    assert_eq!(said("a/x.css:4"), "colr: red; margin: 0; padding: 0");
    assert_eq!(said("a/x.css:4:17"), "padding: 0");
    assert_eq!(said("b/x.css:1"), "");
}

#[test]
fn selectors_for_several_pages_hold_on_all() {
    let study = |html: &str| page(&format!("<!DOCTYPE html>{html}"));
    let (a, b) = (study("<p class=x>1</p><p>2</p>"), study("<i class=x>1</i><p>2</p><p class='x y'>3</p>"));
    let target = |study, selector: &str| {
        let study: &clear_cascade::Study = study;
        clear_cascade::answer::Target { study, take: study.select(selector).unwrap(), leave: Vec::new() }
    };
    let found = clear_cascade::Study::aim_on(&[target(&a, ".x"), target(&b, "p.x")]).unwrap();
    let told: Vec<(&str, usize, usize)> = found.iter().map(|f| (&*f.selector, f.takes, f.besides)).collect();
    let expected = [("p", 4, 2), ("body p", 4, 2), (".x", 3, 1), ("body .x", 3, 1), ("p.x", 2, 0), ("body p.x", 2, 0)];
    assert_eq!(told, expected);
}

#[test]
fn whether_a_class_is_styled_at_all_is_told_where_it_is_not() {
    let told = |css: &str| {
        let study = page(&format!("<!DOCTYPE html><style>{css}</style><p class=note id=n>x"));
        study.why_not(study.select("p").unwrap()[0], ".note").unwrap().sentence
    };
    let none = "`.note` does take `p#n.note`, but no stylesheet of the page has a rule for the class `note`";
    assert_eq!(told("#note { color: red }"), format!("{none}."));
    assert_eq!(told(".notes { color: red }"), format!("{none}; the nearest that one has is `.notes`."));
    for styled in [":is(p, .note) { color: red }", "i:not(.note) { color: red }", "p { &.note { color: red } }"] {
        assert!(told(styled).contains("names it"), "{}", told(styled));
    }
    for unsure in ["[class^=no] { color: red }", "@media print { p.note b { color: red } i.note { color: red } }"] {
        assert!(!told(unsure).contains("no stylesheet"), "{}", told(unsure));
    }
    assert!(
        told(".note { color: red } @media print { .note { color: blue } }")
            .ends_with("wins; 1 more is off as the page is seen.")
    );
}
