//! Computed values (the "Computed value" lines of the property definitions).

use clear_cascade::answer::Texts;
use clear_cascade::selector::PseudoElement;

use crate::{page, value};

/// The computed value of one declaration on a `<p>` in a `<div>` with `font-size: 20px; color: teal`.
#[track_caller]
fn computed(declaration: &str, property: &str) -> String {
    let study = page(&format!(
        "<!DOCTYPE html><style>div {{ font-size: 20px; color: teal }} p {{ {declaration} }}</style><div><p id=x>"
    ));
    value(&study, "#x", property)
}

#[test]
fn declarations_compute() {
    let rows = [
        // As the `color` of an element, HSL and HWB made from another colour are sRGB.
        ("color: hsl(from red 120 0% 50%); fill: hsl(from currentcolor h 100% 50%)", "fill", "color(srgb 1 0 0)"),
        ("color: hsl(120 0% 50%); fill: hsl(from currentcolor h 100% 50%)", "fill", "color(srgb 0 1 0)"),
        (
            "color: hsl(from red 120 none 50%); fill: color-mix(in hsl, currentcolor, hsl(60 100% 50%))",
            "fill",
            "color(srgb 0.75 0.75 0.25)",
        ),
        // What is mixed may be lighter than white, which cannot be written.
        (
            "color: color-mix(in oklab, rgb(285 -10.9276 247.4), color(from hsl(from aliceblue 66.57 none h) srgb r g calc(b + .1) / .5))",
            "color",
            "oklab(1.05282 0.186249 -0.115237 / 0.75)",
        ),
        ("color: oklab(1.05282 0.186249 -0.115237 / 0.75)", "color", "oklab(1 0.186249 -0.115237 / 0.75)"),
        // Lengths and arithmetic.
        ("width: 2em", "width", "40px"),
        ("width: 1in", "width", "96px"),
        ("width: 2rem", "width", "32px"),
        ("width: 10vw", "width", "128px"),
        ("width: 40q", "width", "37.7953px"),
        ("width: calc(1em + 50%)", "width", "calc(50% + 20px)"),
        ("width: min(10px, 1em)", "width", "10px"),
        ("width: max(10px, 5%)", "width", "max(10px, 5%)"),
        ("width: clamp(1px, 5em, 50px)", "width", "50px"),
        ("width: calc(2 * (1px + 1em))", "width", "42px"),
        ("width: calc(100% / 3)", "width", "33.3333%"),
        ("width: round(up, 13px, 5px)", "width", "15px"),
        ("width: mod(18px, 5px)", "width", "3px"),
        ("width: hypot(3px, 4px)", "width", "5px"),
        ("width: calc(1px * sin(30deg))", "width", "0.5px"),
        ("width: abs(-3px)", "width", "3px"),
        ("color: red; color: var(--q, blue) bogus!", "color", "rgb(255, 0, 0)"),
        ("width: calc(1px / 0)", "width", "3.35544e+07px"),
        ("width: calc(NaN * 1px)", "width", "0px"),
        ("width: calc(10px - 20px)", "width", "0px"),
        ("margin-left: calc(10px - 20px)", "margin-left", "-10px"),
        ("width: calc(1em*2)", "width", "40px"),
        ("width: calc(1em+2px)", "width", "auto"),
        ("width: 5", "width", "auto"),
        ("width: -5px", "width", "auto"),
        ("z-index: calc(1.5)", "z-index", "2"),
        ("width: calc(-1 * -20px)", "width", "20px"),
        // Fonts.
        ("font-size: 150%", "font-size", "30px"),
        ("font-size: larger", "font-size", "24px"),
        ("font-size: x-large", "font-size", "24px"),
        ("font-size: smaller", "font-size", "16.6667px"),
        ("font-weight: bolder", "font-weight", "700"),
        ("font-weight: lighter", "font-weight", "100"),
        ("font-size: 2em; line-height: 150%", "line-height", "60px"),
        ("line-height: 1.5", "line-height", "1.5"),
        ("font: italic 10px/2 x, serif", "font-style", "italic"),
        ("font: bold 1.5em/1 'A B', serif", "font-family", "\"A B\", serif"),
        ("font: bold 1.5em/1 'A B', serif", "font-size", "30px"),
        ("font-family: Arial Black", "font-family", "\"Arial Black\""),
        (
            "font-family: 'Arial', Serif, 'Serif', A  b, '-x', '--x', '1a'",
            "font-family",
            "Arial, serif, \"Serif\", \"A b\", -x, \"--x\", \"1a\"",
        ),
        ("font-family: monospace; font-size: 1em", "font-size", "20px"),
        ("font: 10px", "font-size", "20px"),
        ("letter-spacing: 0", "letter-spacing", "normal"),
        // Colours.
        ("color: #abc", "color", "rgb(170, 187, 204)"),
        ("color: #12345678", "color", "rgba(18, 52, 86, 0.47)"),
        ("color: HSL(120 100% 25%)", "color", "rgb(0, 128, 0)"),
        ("color: hwb(90 10% 20%)", "color", "rgb(115, 204, 26)"),
        ("color: rgb(10% 20% 30% / 40%)", "color", "rgba(26, 51, 77, 0.4)"),
        ("color: lab(50% 20 -30)", "color", "lab(50 20 -30)"),
        ("color: oklch(0.5 0.1 400)", "color", "oklch(0.5 0.1 40)"),
        ("color: color(srgb 1 0 .5 / .5)", "color", "color(srgb 1 0 0.5 / 0.5)"),
        ("color: color-mix(in srgb, red, blue)", "color", "color(srgb 0.5 0 0.5)"),
        ("color: currentcolor", "color", "rgb(0, 128, 128)"),
        ("border-color: currentcolor", "border-top-color", "rgb(0, 128, 128)"),
        ("color: rgb(from red g r b)", "color", "color(srgb 0 1 0)"),
        ("color: rgb(none 10 20)", "color", "rgb(0, 10, 20)"),
        ("color: transparent", "color", "rgba(0, 0, 0, 0)"),
        ("color: light-dark(red, blue)", "color", "rgb(255, 0, 0)"),
        ("color: canvastext", "color", "rgb(0, 0, 0)"),
        ("color: rgb(1, 2, 3, 50%)", "color", "rgba(1, 2, 3, 0.5)"),
        ("color: rgb(1 2, 3)", "color", "rgb(0, 128, 128)"),
        ("color: ffcc00", "color", "rgb(0, 128, 128)"),
        ("color: color-mix(in hsl, red, blue)", "color", "color(srgb 1 0 1)"),
        // Shorthands: what is not written is reset.
        ("border: 2px solid", "border-left-width", "2px"),
        ("border: 2px", "border-top-width", "0px"),
        ("border-style: solid; border: none", "border-top-width", "0px"),
        ("border: medium dashed red", "border-bottom-color", "rgb(255, 0, 0)"),
        ("margin: 1px 2px 3px", "margin-left", "2px"),
        ("padding: 1px 2px 3px 4px", "padding-left", "4px"),
        ("border-radius: 1px 2px / 3px", "border-bottom-right-radius", "1px 3px"),
        ("flex: 1", "flex-basis", "0%"),
        ("flex: auto", "flex-grow", "1"),
        ("flex: none", "flex-shrink", "0"),
        ("background: url(a.png) right 10px top / cover no-repeat red", "background-position-x", "calc(100% - 10px)"),
        ("background: red", "background-color", "rgb(255, 0, 0)"),
        ("background: url(a.png)", "background-image", "url(\"http://site.test/a.png\")"),
        (
            "background: linear-gradient(to right, red 10%, blue)",
            "background-image",
            "linear-gradient(to right, rgb(255, 0, 0) 10%, rgb(0, 0, 255))",
        ),
        ("background: url(a), url(b) red", "background-repeat", "repeat, repeat"),
        ("list-style: none", "list-style-type", "none"),
        ("list-style: inside square", "list-style-position", "inside"),
        ("text-decoration: underline dotted red 2px", "text-decoration-thickness", "2px"),
        ("clip: rect(0, 0, 0, 0)", "clip", "rect(0px, 0px, 0px, 0px)"),
        ("clip: rect(1px auto 3px -2em)", "clip", "rect(1px, auto, 3px, -40px)"),
        ("clip: rect(1px, AUTO, calc(1px + 1em), 0) !important", "clip", "rect(1px, auto, 21px, 0px)"),
        ("clip: rect(1px 2px, 3px 4px)", "clip", "auto"),
        ("clip: rect(1px, 2px, 3px)", "clip", "auto"),
        ("clip: rect(1%, 2px, 3px, 4px)", "clip", "auto"),
        ("overflow: hidden scroll", "overflow-y", "scroll"),
        ("inset: 1px 2px", "left", "2px"),
        ("transition: opacity .2s ease-in, color 1s", "transition-property", "opacity, color"),
        ("animation: a 2s infinite", "animation-iteration-count", "infinite"),
        ("grid-area: 1 / 2 / 3", "grid-row-end", "3"),
        ("grid-column: a", "grid-column-end", "a"),
        ("columns: 3 10em", "column-width", "200px"),
        ("gap: 1px", "column-gap", "1px"),
        ("place-items: center", "justify-items", "center"),
        ("white-space: pre", "text-wrap-mode", "nowrap"),
        ("grid: auto-flow / 1fr", "grid-auto-flow", "row"),
        ("font-variant: small-caps tabular-nums", "font-variant-numeric", "tabular-nums"),
        ("outline: 1px solid", "outline-style", "solid"),
        // Values of one property that lean on another.
        ("float: left", "display", "block"),
        ("position: absolute; display: inline-flex", "display", "flex"),
        ("position: fixed; float: left", "float", "none"),
        ("overflow-x: hidden", "overflow-y", "auto"),
        ("display: inline flow-root", "display", "inline-block"),
        ("writing-mode: vertical-rl; margin-inline-start: 3px", "margin-top", "3px"),
        ("direction: rtl; padding-inline-end: 3px", "padding-left", "3px"),
        ("margin-left: 1px; margin-inline-start: 2px", "margin-left", "2px"),
        ("inline-size: 9px", "width", "9px"),
        ("margin-inline-start: 2px; margin-left: 1px", "margin-inline-start", "1px"),
        ("border-top: 0.4px solid", "border-top-width", "1px"),
        ("opacity: 150%", "opacity", "1"),
        ("transform: translateX(1em) rotateX(0)", "transform", "translate(20px, 0px) rotate3d(1, 0, 0, 0deg)"),
        ("object-position: bottom", "object-position", "50% 100%"),
        ("box-shadow: 1px 2px red", "box-shadow", "rgb(255, 0, 0) 1px 2px 0px 0px"),
        ("aspect-ratio: 2", "aspect-ratio", "2 / 1"),
        ("word-wrap: break-word", "overflow-wrap", "break-word"),
        ("-webkit-user-select: none", "user-select", "none"),
        ("visibility: bogus", "visibility", "visible"),
        ("content: 'a'", "content", "\"a\""),
    ];
    let failed: Vec<String> = rows
        .iter()
        .filter_map(|(declaration, property, expected)| {
            let got = computed(declaration, property);
            (got != *expected).then(|| format!("{declaration} → {property}: expected {expected}, got {got}"))
        })
        .collect();
    assert!(failed.is_empty(), "{}", failed.join("\n"));
}

/// What a browser's `getComputedStyle()` and `computedStyleMap()` gave: a declaration, a longhand and its value in each line.
const RECORDED: &str = include_str!("recorded.tsv");

#[test]
fn declarations_compute_as_in_a_browser() {
    let rows: Vec<Vec<&str>> = RECORDED.lines().map(|line| line.split('\t').collect()).collect();
    let in_attribute = |text: &str| text.replace('&', "&amp;").replace('"', "&quot;");
    let elements = rows.iter().map(|row| format!("<b data-w=7px style=\"{}\"></b>", in_attribute(row[0])));
    let study = page(&format!(
        "<!DOCTYPE html><style>html {{ --u: 1px; font-size: 16px; line-height: 20px }} b {{ display: block }}</style>{}",
        elements.collect::<String>()
    ));
    let failed: Vec<String> = study
        .select("b")
        .unwrap()
        .into_iter()
        .zip(&rows)
        .filter_map(|(element, row)| {
            let got = study.value(element, row[1]).unwrap();
            (got != row[2]).then(|| format!("{} → {}: expected {}, got {got}", row[0], row[1], row[2]))
        })
        .collect();
    assert!(rows.len() > 1000 && failed.is_empty(), "{} of {}:\n{}", failed.len(), rows.len(), failed.join("\n"));
}

#[test]
fn anchors_that_cannot_be_found_are_fallen_back_from() {
    let rows = [
        // An element that is moved out of the flow may have an anchor, which layout finds.
        ("position: absolute; top: anchor(--a top, 10px)", "top", "anchor(--a top, 10px)"),
        ("position: fixed; position-anchor: --a; top: anchor(top, 10px)", "top", "anchor(top, 10px)"),
        ("position: absolute; top: anchor(--a left, 10px)", "top", "10px"),
        ("position: absolute; top: anchor(top, 10px)", "top", "10px"),
        ("position: absolute; width: anchor-size(width)", "width", "auto"),
        ("position: sticky; top: anchor(--a top, 10px)", "top", "10px"),
        ("margin-left: anchor-size(--a width, 2em)", "margin-left", "40px"),
    ];
    for (declarations, property, expected) in rows {
        assert_eq!(computed(declarations, property), expected, "{declarations}");
    }
}

#[test]
fn custom_properties_are_put_in() {
    let rows = [
        ("--a: 3px; width: var(--a)", "3px"),
        ("width: var(--no, 4px)", "4px"),
        ("--a: var(--b); --b: var(--a); width: var(--a, 5px)", "5px"),
        ("--a: 1; width: calc(var(--a) * 2px)", "2px"),
        ("width: 9px; width: var(--no)", "auto"),
        ("--a: red; width: 9px; width: var(--a)", "auto"),
        ("--a: var(--c, 7px); width: var(--a)", "7px"),
        ("--a:; width: 3px var(--a)", "3px"),
        ("--a: initial; width: var(--a, 8px)", "8px"),
        ("--A: 1px; --a: 2px; width: var(--a)", "2px"),
        ("width: env(safe-area-inset-top, 5px)", "0px"),
        ("width: attr(data-w px, 6px)", "6px"),
    ];
    for (declaration, expected) in rows {
        assert_eq!(computed(declaration, "width"), expected, "{declaration}");
    }
    assert_eq!(computed("--pad: 1px 2px; padding: var(--pad)", "padding-left"), "2px");
    assert_eq!(computed("--a:  1px  ", "--a"), "1px");
}

#[test]
fn tests_that_ask_themselves_come_to_an_end() {
    let deep = format!("{}1{}", "if(style(--x: ".repeat(3000), "): 1px; else: 2px)".repeat(3000));
    let study = page(&format!(
        "<!DOCTYPE html><style>@function --f() {{ result: if(style(--x: --f()): 1px; else: 2px) }}
         @function --g() {{ result: if(style(--x > --g()): 1px; else: 2px) }}
         @container style(--x: --f()) {{ p {{ color: red }} }}
         p {{ --x: 1; width: --f(); height: --g(); top: {deep} }}</style><p>"
    ));
    let p = study.select("p").unwrap()[0];
    let values = ["width", "height", "color"].map(|property| study.value(p, property).unwrap());
    assert_eq!(values, ["2px", "2px", "rgb(0, 0, 0)"]);
    assert!(["2px", "auto"].contains(&&*study.value(p, "top").unwrap()));
}

#[test]
fn custom_properties_are_shown_as_tokens_written_anew() {
    let rows = [
        ("a   /* x */\n b,c( d )", "a b,c( d )"),
        (".5s -.50 +5 1e3 5.00 1E-7 1.50PX 50.0%", "0.5s -0.5 5 1000.0 5.0 1e-7 1.5PX 50%"),
        (r#"'it"s' \66oo a\.b #FFF url( x ) @\6d"#, r##""it\"s" foo a\.b #FFF url(x) @m"##),
        ("a/**/b 1/**/2 [/**/]", "a/**/b 1/**/2 []"),
        ("U+0-7F 1.50.5", "U+0-7F 1.5.5"),
    ];
    for (written, shown) in rows {
        assert_eq!(computed(&format!("--a: {written}"), "--a"), shown);
        assert_eq!(computed(&format!("--a: {shown}"), "--a"), shown, "once more");
        assert_eq!(computed(&format!("--b: {written}; --a: var(--b)"), "--a"), shown, "through a variable");
    }
}

#[test]
fn registered_properties_have_types() {
    let study = page(
        "<style>@property --size { syntax: '<length>+'; inherits: false; initial-value: 1px }
        @property --tone { syntax: '<color>'; inherits: false; initial-value: red }
        div { --size: 2em; --bad: x } p { width: var(--size) }
        b { font: 10px/3 x; color-scheme: dark; --size: 1em 2lh 1rem; --tone: light-dark(red, blue); color: var(--tone) }
        </style><div><p><b>",
    );
    let of = |element, property| value(&study, element, property);
    assert_eq!((&*of("div", "--size"), &*of("p", "--size"), &*of("p", "width")), ("32px", "1px", "1px"));
    // Sizes and schemes are the element's own, which stand before those that depend on types.
    assert_eq!((&*of("b", "--size"), &*of("b", "--tone")), ("10px 60px 16px", "rgb(0, 0, 255)"));
    assert_eq!(of("b", "color"), "rgb(0, 0, 255)");
}

#[test]
fn calls_that_double_with_each_step_are_cut_off() {
    let calls: String =
        (0..60).map(|i| format!("@function --a{i}() {{ result: --id(--a{0}() --a{0}()) }}", i + 1)).collect();
    let locals: String = (0..40).map(|i| format!("--l{i}: var(--l{0})var(--l{0});", i + 1)).collect();
    let study = page(&format!(
        "<!DOCTYPE html><style>{calls} @function --a60() {{ result: 1 }} @function --id(--x) {{ result: 1px }}
        @function --l() {{ {locals} --l40: ; result: 3px var(--l0) }}
        p {{ width: --a0(); height: --l(); --k: --a0() }}</style><p>"
    ));
    assert_eq!((&*value(&study, "p", "width"), &*value(&study, "p", "height")), ("auto", "3px"));
}

#[test]
fn defaults_style_a_bare_page() {
    let study = page(
        "<!DOCTYPE html><h1>a</h1><p>b <a href=#>c</a> <code>d</code><ul><li>e<ul><li id=in>f</ul></ul><table><th id=th>g</table>",
    );
    let rows = [
        ("body", "margin-top", "8px"),
        ("h1", "font-size", "32px"),
        ("h1", "font-weight", "700"),
        ("h1", "margin-bottom", "21.44px"),
        ("a", "color", "rgb(0, 0, 238)"),
        ("a", "text-decoration-line", "underline"),
        ("code", "font-size", "13px"),
        ("ul", "padding-left", "40px"),
        ("#in", "list-style-type", "circle"),
        ("#th", "text-align", "center"),
        ("head", "display", "none"),
        ("li", "display", "list-item"),
    ];
    for (selector, property, expected) in rows {
        assert_eq!(value(&study, selector, property), expected, "{selector} {property}");
    }
}

#[test]
fn defaults_and_what_is_forced_on_elements_in_odd_places() {
    let rows = [
        ("<center><rt id=x>", "text-align", "-webkit-center"),
        ("<center><ruby><rt id=x>", "text-align", "start"),
        ("<p style='text-indent: 5px; text-emphasis: dot'><ruby><rt id=x>", "text-emphasis-style", "none"),
        ("<p style='text-indent: 5px'><ruby id=x>", "text-indent", "0px"),
        ("<p style='white-space: pre'><optgroup id=x>", "white-space-collapse", "preserve"),
        (
            "<select><optgroup style='white-space: pre' label=a></optgroup><optgroup id=x>",
            "white-space-collapse",
            "collapse",
        ),
        ("<table><tr><form id=x></form><td>", "display", "none"),
        ("<table><form id=x style='display: block'></form>", "display", "none"),
        // What is in ruby, however deep in inline boxes, is on its line.
        ("<ruby><span><b><div id=x>", "display", "inline-block"),
        ("<ruby><span style='display: inline-block'><div id=x>", "display", "block"),
        ("<ruby><span><i id=x style='float: left'>", "display", "inline-block"),
        ("<ruby><span><i id=x style='float: left'>", "float", "none"),
        ("<ruby><svg><foreignObject id=x>", "display", "block"),
        // Axes that disagree cut nothing on a table.
        ("<table id=x style='overflow: hidden clip'>", "overflow-x", "visible"),
        ("<table id=x style='overflow: clip auto'>", "overflow-x", "visible"),
        ("<table id=x style='overflow: clip visible'>", "overflow-x", "clip"),
        ("<table id=x style='overflow: hidden'>", "overflow-y", "hidden"),
        ("<svg><text id=x style='text-emphasis: dot !important'>", "text-emphasis-style", "none"),
        ("<svg><text id=x style='text-underline-offset: 3px'>", "text-underline-offset", "auto"),
        ("<div style='math-depth: 3; font-size: 40px'><math id=x>", "font-size", "40px"),
        // Attributes of SVG.
        ("<svg id=x width=abc>", "width", "100%"),
        ("<svg id=x height=auto>", "height", "100%"),
        ("<svg id=x width='2em'>", "width", "32px"),
        ("<svg><rect id=x width=inherit>", "width", "0px"),
        ("<svg><g id=x transform='scale(2)'>", "transform", "scale(2, 2)"),
        ("<svg><marker id=x transform='scale(2)'>", "transform", "none"),
        ("<svg><rect id=x gradientTransform='scale(2)'>", "transform", "none"),
        ("<svg><path id=x d='M0 0 L5 5 L'>", "d", "path(\"M 0 0 L 5 5\")"),
        ("<svg><path id=x d='L5 5'>", "d", "none"),
        // A share of what is left is no width.
        ("<img id=x width='2*'>", "width", "auto"),
        ("<table><td id=x width='2*'>", "width", "auto"),
        ("<table><td id=x width='2 *'>", "width", "2px"),
    ];
    for (body, property, expected) in rows {
        assert_eq!(value(&page(&format!("<!DOCTYPE html>{body}")), "#x", property), expected, "{body} {property}");
    }
}

#[test]
fn style_queries_ask_for_anything_but_the_initial_value() {
    let tests = [
        // What is asked; whether it holds where the container sets nothing, the initial value, another.
        ("style(--c)", [false, false, true]),
        ("style(--x)", [false, false, true]),
        ("not style(--c)", [true, true, false]),
        ("style(--c: initial)", [true, true, false]),
        ("style(--c: red)", [true, true, false]),
        ("style(--x: initial)", [true, true, false]),
        ("style(--c: inherit)", [true, true, false]),
        ("style(--c: unset)", [true, true, false]),
        ("style(--x: inherit)", [true, true, false]),
    ];
    for (test, expected) in tests {
        let study = page(&format!(
            "<!DOCTYPE html><style>@property --c {{ syntax: '<color>'; inherits: true; initial-value: red }}
             @container {test} {{ p {{ width: 1px }} }}</style>
             <div><p></div><div style='--c: rgb(255 0 0); --x: initial'><p></div><div style='--c: blue; --x: 1'><p></div>"
        ));
        let found: Vec<bool> =
            study.select("p").unwrap().into_iter().map(|p| study.value(p, "width").unwrap() == "1px").collect();
        assert_eq!(found, expected, "{test}");
    }
}

#[test]
fn attributes_style_where_html_says_so() {
    let study = page(
        "<body bgcolor=#abc text=chucknorris><table border=2 cellpadding=4 width=50%><td align=center nowrap>x</table><font size=+2 color=teal>y</font><img width=40 height=30><ol type=A><li>z",
    );
    let rows = [
        ("body", "background-color", "rgb(170, 187, 204)"),
        ("body", "color", "rgb(192, 0, 0)"),
        ("table", "border-top-width", "2px"),
        ("table", "width", "50%"),
        ("td", "padding-left", "4px"),
        ("td", "text-align", "-webkit-center"),
        ("td", "border-top-style", "inset"),
        ("font", "font-size", "24px"),
        ("img", "aspect-ratio", "auto 40 / 30"),
        ("ol", "list-style-type", "upper-alpha"),
    ];
    for (selector, property, expected) in rows {
        assert_eq!(value(&study, selector, property), expected, "{selector} {property}");
    }
}

#[test]
fn bombs_are_cut_off() {
    let doubling: String = (1..60).map(|i| format!("--a{i}: var(--a{0}) var(--a{0});", i - 1)).collect();
    assert_eq!(computed(&format!("--a0: xxxxxxxxxx; {doubling} width: var(--a59, 3px)"), "width"), "3px");
    assert_eq!(computed(&format!("width: {}1px{}", "calc(".repeat(5000), ")".repeat(5000)), "width"), "auto");
    assert_eq!(
        computed(&format!("color: {}red{}", "color-mix(in srgb, red, ".repeat(3000), ")".repeat(3000)), "color"),
        "rgb(0, 128, 128)"
    );
}

#[test]
fn several_threads_come_to_the_same_values() {
    let list: String = (0..900).map(|i| format!("<div class='c{}'><p>a<em>b</em></p></div>", i % 7)).collect();
    let html = format!(
        "<style>{} :root {{ --a: 1em }} p {{ padding: var(--a) }} em:nth-child(odd)::before {{ content: 'x'; color: red }} \
         p:has(em) {{ line-height: 2 }} div ~ .c3 {{ font-size: 90% }}</style>{list}",
        (0..7).map(|i| format!(".c{i} {{ color: rgb({i} 0 0); font-size: {}% }}", 95 + i)).collect::<String>()
    );
    let one = page(&html);
    one.resolve_all();
    for threads in [1, 2, 7] {
        let several = page(&html);
        several.resolve_all_on(threads.try_into().unwrap());
        assert!(one.compare(&several).changes.is_empty(), "on {threads} threads");
    }
}

#[test]
fn many_together_come_to_what_each_comes_to_alone() {
    let sheet = "@property --typed { syntax: '<length>'; inherits: true; initial-value: 1px } .a { --typed: 2em; --x: var(--typed) } \
         .b { container-type: inline-size; width: 300px; color: teal } @container (width > 200px) { .c { margin: inherit; color: navy } } \
         .c::before, .d::after { content: attr(class); color: inherit } .d::selection { color: red } ::selection { background: gold } \
         .e { display: flex; justify-items: legacy left; font-size: 90% } li::marker, ::placeholder { color: var(--x, olive) } .f { all: unset } \
         .a .b { padding: var(--x) } .c > * { width: calc(sibling-index() * 1px) } details::details-content { color: lime } \
         select, ::picker(select) { appearance: base-select; color: brown } ::slotted(*) { top: 1px } :host { display: block }";
    let kinds = [
        "div", "p", "b", "details", "summary", "select", "option", "li", "input", "table", "svg", "textarea", "object",
    ];
    for seed in 1..6_u32 {
        let (mut state, mut html, mut open) = (seed, format!("<!DOCTYPE html><style>{sheet}</style>"), Vec::new());
        // Some have no style that counts siblings, which shares nothing.
        if seed > 2 {
            html = html.replace("sibling-index()", "2");
        }
        let mut next = |n: u32| {
            state = state.wrapping_mul(1_664_525).wrapping_add(1_013_904_223);
            (state >> 12) % n
        };
        for i in 0..400 {
            let (kind, classes) = (kinds[next(13) as usize], ["a", "b", "c", "d", "e f", "a c", ""]);
            let (class, hosted) = (classes[next(7) as usize], kind == "div" && next(9) == 0);
            html += &format!(
                "<{kind} class='{class}' {}>",
                if i % 37 == 0 { "style='--y: 3; color: var(--y, red)'" } else { "" }
            );
            if hosted {
                html += "<template shadowrootmode=open><style>:host { color: gray } ::slotted(.c) { left: 2px }</style><p><slot>x</slot></template>";
            }
            open.push(kind);
            while open.len() > 12 || (!open.is_empty() && next(2) == 0) {
                html += &format!("x</{}>", open.pop().unwrap());
            }
        }
        let together = page(&html);
        together.resolve_all();
        let alone = page(&html);
        let ids: Vec<_> = alone.document().ids().collect();
        assert!(ids.len() > 200, "{} elements", ids.len());
        ids.iter().rev().for_each(|id| assert!(alone.value(*id, "color").is_some()));
        let changes = together.compare(&alone).changes;
        assert!(changes.is_empty(), "seed {seed}: {:?}", changes.first());
    }
}

/// Selectors that ask for the same elements again and again, and what they take.
#[test]
fn what_is_kept_while_matching_does_not_change_what_is_taken() {
    let html = "<style>i ~ b { color: red } .x ~ :has(~ .y) { top: 1px } div:has(.z) { left: 1px } i:has(~ u, + b) { right: 1px } \
                .p { & & { bottom: 1px; & .z { width: 1px } } &:is(&, .q) > b { height: 1px } } \
                option:checked { order: 1 } input:indeterminate { order: 2 } input:checked { order: 3 } \
                [data-a1][data-a39] { order: 4 } input:invalid { order: 5 }</style>\
                <div class=p id=o><i></i><div class='p q'><b class=z></b><u></u></div><b></b><i class=x></i><b></b><i class=y></i></div>\
                <div id=n><b></b><i></i></div>\
                <select><option>1<option>2</select><select><option disabled>1<option>2<option selected>3<option>4</select>\
                <form><input type=radio name=a checked><input type=radio name=a checked></form>\
                <input type=radio name=a><input type=radio name=a required><p MANY>";
    let many: String = (0..40).map(|i| format!("Data-A{i}={i} ")).collect();
    let study = page(&html.replace("MANY", &many));
    study.resolve_all();
    let mut taken = 0;
    let sheet = html.split_once("</style>").unwrap().0;
    for rule in ["i ~ b", ".x ~ :has(~ .y)", "div:has(.z)", "i:has(~ u, + b)", "option:checked", "[data-a1][data-a39]"]
    {
        assert!(sheet.contains(rule), "{rule}");
        let property = sheet.split_once(rule).unwrap().1.trim_start_matches(" { ").split(':').next().unwrap();
        for id in study.document().ids() {
            // A study of its own for each question, so that nothing is kept.
            let alone = page(&html.replace("MANY", &many));
            let takes = alone.select(rule).unwrap().contains(&id);
            taken += usize::from(takes);
            let set = study.why(id, property).unwrap().contenders.iter().any(|c| c.selector.as_deref() == Some(rule));
            assert_eq!(set, takes, "{rule} on {}", study.document().get(id).unwrap().label());
        }
    }
    assert!(taken > 8, "only {taken}");
    let order = |selector: &str| {
        study.select(selector).unwrap().iter().map(|e| study.value(*e, "order").unwrap()).collect::<Vec<_>>().join(" ")
    };
    assert_eq!(order("option"), "1 0 0 0 1 0");
    assert_eq!(order("form > input"), "0 3");
    assert_eq!(order("body > input"), "5 5");
    let sizes = |selector: &str| study.value(study.select(selector).unwrap()[0], "bottom").unwrap();
    assert_eq!((sizes("#o"), sizes(".q")), ("auto".to_owned(), "1px".to_owned()));
}

#[test]
fn values_that_double_come_to_an_end() {
    // Nothing but what is put in, and the same beside something.
    for between in ["", " x "] {
        let doubled = |i: usize| format!("--a{}: var(--a{i}){between}var(--a{i});", i + 1);
        let all: String = (0..80).map(doubled).collect();
        let text = format!("<style>p {{ --a0: xxxxxxxxxx; {all} width: var(--a80) }}</style><p>1");
        let study = page(&text);
        let p = study.select("p").unwrap()[0];
        assert_eq!(study.value(p, "width").unwrap(), "auto");
        let why = format!("{:?}", study.why(p, "--a18").unwrap().derivation);
        assert!(why.contains("grows beyond 65536 bytes and was cut off"), "{why}");
    }
}

#[test]
fn elements_that_the_same_rules_take_are_told_apart_by_what_else_they_go_by() {
    for (sheet, body, property, expected) in [
        ("p { width: attr(w type(<length>)) }", "<p w=1px><p w=2px>", "width", ["1px", "2px"]),
        ("p { width: a\\74tr(w type(<length>)) }", "<p w=1px><p w=2px>", "width", ["1px", "2px"]),
        ("p { --w: attr(w type(<length>)); width: var(--w) }", "<p w=1px><p w=2px>", "width", ["1px", "2px"]),
        ("p { width: var(--no, attr(w px)) }", "<p w=1><p w=2>", "width", ["1px", "2px"]),
        ("@function --f() { result: attr(w px) } p { width: --f() }", "<p w=1><p w=2>", "width", ["1px", "2px"]),
        ("p { width: calc(sibling-index() * 1px) }", "<p><p>", "width", ["1px", "2px"]),
        ("p { width: calc(s\\69 bling-index() * 1px) }", "<p><p>", "width", ["1px", "2px"]),
        ("body { --i: sibling-index() } p { width: calc(var(--i) * 1px) }", "<p><p>", "width", ["1px", "2px"]),
        ("p { width: calc(Sibling-Count() * 1px) }", "<div><p></div><div><p><i>", "width", ["1px", "1px"]),
        ("p { width: 1px } p[style] { width: 2px }", "<p><p style='top: 0'>", "width", ["1px", "2px"]),
        ("p { top: 1px }", "<p style='width: 1px'><p style='width: 2px'>", "width", ["1px", "2px"]),
        (
            "p { width: 1em }",
            "<div style='font-size: 9px'><p></div><div style='font-size: 8px'><p>",
            "width",
            ["9px", "8px"],
        ),
        (
            "@scope (.a) { p { width: 1px } } @scope (.b) { p { width: 2px } }",
            "<div class=a><p></div><div class='a b'><p>",
            "width",
            ["1px", "2px"],
        ),
        (
            "@scope (.a) { p { width: 1px } } @scope (.b) { p { width: 2px } }",
            "<div class=b><div class=a><p></div></div><div class=a><div class=b><p></div></div>",
            "width",
            ["1px", "2px"],
        ),
        (
            "div { --d: 1 } .b { --d: 2 } @container style(--d: 2) { p { width: 2px } } p { width: 1px; } @container style(--d: 1) { p { height: 0 } }",
            "<div><p></div><div class=b><p>",
            "height",
            ["0px", "auto"],
        ),
        (
            "input, * { display: inline; appearance: auto }",
            "<input type=radio id=a><input type=text>",
            "padding-top",
            ["0px", "1px"],
        ),
        ("* { display: contents }", "<svg><svg></svg></svg>", "display", ["none", "contents"]),
    ] {
        let study = page(&format!("<!DOCTYPE html><style>{sheet}</style><body>{body}"));
        let asked = study.select(":is(p, input, svg)").unwrap();
        let found: Vec<String> = asked.iter().map(|e| study.value(*e, property).unwrap()).collect();
        assert_eq!(found, expected, "{sheet}");
    }
    let study = page("<!DOCTYPE html><style>p::before { content: attr(w) }</style><p w=1></p><p w=2></p>");
    let before = "::before".parse().unwrap();
    let texts =
        study.select("p").unwrap().into_iter().map(|e| study.why_of(e, Some(&before), "content").unwrap().value);
    assert_eq!(texts.collect::<Vec<_>>(), ["\"1\"", "\"2\""]);
}

/// What a property takes, and what it does not take for a reason that the standards give in words: a range, names that are taken,
/// how many there must be, or which go together.
const IN_WORDS: &[(&str, &[&str], &[&str])] = &[
    (
        "filter",
        &["brightness(0) opacity(200%)", "sepia(calc(-1))"],
        &["brightness(-1)", "opacity(-1%)", "invert(1) sepia(-.1)"],
    ),
    (
        "filter",
        &["drop-shadow(-1px -1px 0 red)", "drop-shadow(red 1px 1px)"],
        &["drop-shadow(1px 1px -1px)", "drop-shadow(1px 1px 1px 1px)", "blur(-1px)"],
    ),
    (
        "box-shadow",
        &["1px 1px 0 -1px", "inset -1px -1px red"],
        &["1px 1px -1px", "1px 1px -1px 1px", "red 1px 1px -1px inset"],
    ),
    ("text-shadow", &["-1px -1px 0 red"], &["1px 1px -1px", "1px 1px 1px 1px"]),
    (
        "grid-template-columns",
        &["[a b] 1px []", "repeat(auto-fill, minmax(1px, 1fr)) [c]", "[Auto-x] 1fr"],
        &["[span] 1px", "1px [a AUTO]", "repeat(auto-fit, 1fr)", "repeat(auto-fill, auto)", "[a] [b] 1px"],
    ),
    (
        "animation-timing-function",
        &["steps(1)", "steps(2, jump-none)"],
        &["steps(0)", "steps(-1, end)", "steps(1, jump-none)"],
    ),
    ("list-style-type", &["symbols('a')", "symbols(alphabetic 'a' 'b')"], &["symbols(numeric 'a')", "symbols()"]),
    (
        "background-image",
        &[
            "radial-gradient(circle 1px, red, blue)",
            "radial-gradient(1px 2% ellipse, red, blue)",
            "radial-gradient(1px, red, blue)",
        ],
        &[
            "radial-gradient(circle 1px 2px, red, blue)",
            "radial-gradient(1px ellipse, red, blue)",
            "radial-gradient(1%, red, blue)",
        ],
    ),
    ("background-image", &["image-set('a' 0x)", "image-set('a' 1dpi)"], &["image-set('a' -1x)", "image-set('a' 1px)"]),
    (
        "inset-block-start",
        &["anchor(--a top)", "anchor(top --a, 1px)", "anchor-size(width)"],
        &["anchor(--a)", "anchor(1px)"],
    ),
    ("flex-basis", &["content", "calc-size(auto, size)"], &["anchor-size(width)", "-1px"]),
    (
        "paint-order",
        &["stroke", "markers fill", "fill stroke markers"],
        &["fill fill", "fill stroke fill", "normal fill"],
    ),
];

#[test]
fn what_standards_say_in_words_counts() {
    for (property, taken, refused) in IN_WORDS {
        let blocks: Vec<String> = taken.iter().chain(*refused).map(|v| format!("p {{ {property}: {v} }}")).collect();
        let study = page(&format!("<!DOCTYPE html><style>{}</style><p>a", blocks.join("\n")));
        let dropped: Vec<bool> = study.declarations().iter().map(|d| d.dropped.is_some()).collect();
        let wanted: Vec<bool> = taken.iter().map(|_| false).chain(refused.iter().map(|_| true)).collect();
        assert_eq!(dropped, wanted, "{property}: {taken:?}, not {refused:?}");
    }
}

#[test]
fn what_is_written_at_once_are_the_values_of_each_element() {
    let study = page(
        "<style>html { --a: 1; --m: 2; --z: 3 } p { --b: x; --m: initial } b { --zz: 4; --a: 0; --M: 9 } u { --z: 7; top: 1px }
         p::before { content: '*'; --c: 5 } i { direction: rtl; writing-mode: vertical-rl; margin-block: 1px 2px }</style>
         <p>a<b>b<i>c</i></b></p><p>d<b><u>e</u></b><i>f</i><u>g</u>",
    );
    let told = |values: Vec<(String, String)>| values.iter().map(|(n, v)| format!("{n}: {v}\n")).collect::<String>();
    let mut texts = Texts::of(|name, value, out| out.push_str(&format!("{name}: {value}\n")));
    for id in study.document().ids() {
        let (mut own, mut boxes) = (String::new(), String::new());
        texts.values(&study, id, &mut own).unwrap();
        assert_eq!(own, told(study.values(id).unwrap()));
        let start = |pseudo: &PseudoElement, out: &mut String| out.push_str(&format!("{pseudo}\n"));
        texts.generated(&study, id, &mut boxes, &start, &|out| out.push_str("--\n")).unwrap();
        let each =
            study.generated(id).unwrap().into_iter().map(|(name, values)| format!("{name}\n{}--\n", told(values)));
        assert_eq!(boxes, each.collect::<String>());
    }
}
