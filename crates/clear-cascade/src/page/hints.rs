//! Presentational hints: HTML attributes that style (HTML Standard, "Rendering").
//!
//! What comes in: an element. What goes out: declarations as CSS text, each with the place of the attribute it comes
//! from. They go into the cascade as author declarations before all others.

use crate::document::{Attribute, Document, Element, ElementId, Namespace};
use crate::source::Span;
use crate::syntax::Kind;

/// The declarations that an element's attributes stand for.
pub(super) fn of(document: &Document, id: ElementId) -> Vec<(String, Span)> {
    let element = document.node(id);
    let mut hints = Vec::new();
    match element.namespace {
        Namespace::Html => {
            for attribute in &element.attributes {
                let global = global(&attribute.name, &attribute.value).map(str::to_owned);
                if let Some(text) = global.or_else(|| html(document, element, attribute)) {
                    hints.push((text, attribute.value_span));
                }
            }
            table_hints(document, element, &mut hints);
        }
        Namespace::Svg => {
            for attribute in &element.attributes {
                if attribute.namespace.is_empty() && is_svg_presentation(&element.name, &attribute.name) {
                    let text = svg(document, element, attribute);
                    hints.extend(text.map(|text| (text, attribute.value_span)));
                }
            }
        }
        Namespace::MathMl => {
            for attribute in element.attributes.iter().filter(|a| a.namespace.is_empty()) {
                hints.extend(math(attribute).map(|text| (text, attribute.value_span)));
            }
        }
        Namespace::Other => {}
    }
    hints
}

/// The declaration of an attribute that any MathML element may have (MathML Core, §2.1.6 and §2.1.7).
fn math(attribute: &Attribute) -> Option<String> {
    let value = &*attribute.value;
    let lower = value.to_ascii_lowercase();
    match &*attribute.name {
        "dir" => matches!(&*lower, "ltr" | "rtl").then(|| format!("direction: {lower}")),
        "mathcolor" => declaration("color", value),
        "mathbackground" => declaration("background-color", value),
        "mathsize" => declaration("font-size", value),
        "displaystyle" if lower == "true" => Some("math-style: normal".to_owned()),
        "displaystyle" if lower == "false" => Some("math-style: compact".to_owned()),
        "scriptlevel" => {
            let digits = value.strip_prefix(['+', '-']).unwrap_or(value);
            let number = !digits.is_empty() && digits.bytes().all(|b| b.is_ascii_digit());
            match value.starts_with(['+', '-']) {
                _ if !number => None,
                true => Some(format!("math-depth: add({value})")),
                false => Some(format!("math-depth: {value}")),
            }
        }
        _ => None,
    }
}

/// The declarations of an attribute that any HTML element may have (HTML Standard, "The draggable attribute", and
/// "contenteditable" as browsers have it).
fn global(name: &str, value: &str) -> Option<&'static str> {
    match name {
        "draggable" if value.eq_ignore_ascii_case("true") => Some("user-select: none"),
        "contenteditable" if value.eq_ignore_ascii_case("plaintext-only") => Some("white-space-collapse: preserve"),
        _ => None,
    }
}

/// The declarations of one attribute of an HTML element.
fn html(document: &Document, element: &Element, attribute: &Attribute) -> Option<String> {
    let value = attribute.value.trim();
    // Keywords are compared as they are, white space and all (HTML Standard, "enumerated attributes").
    let lower = || attribute.value.to_ascii_lowercase();
    let is = |names: &[&str]| names.contains(&&*element.name);
    let table_part = || is(&["table", "thead", "tbody", "tfoot", "tr", "td", "th", "col", "colgroup"]);
    match &*attribute.name {
        "align" => align(element, &lower()),
        "bgcolor" if table_part() || is(&["body", "marquee"]) => color(value).map(|c| format!("background-color: {c}")),
        "background" if is(&["body", "table", "thead", "tbody", "tfoot", "tr", "td", "th"]) && !value.is_empty() => {
            Some(format!("background-image: url({})", crate::syntax::serialize_string(value)))
        }
        "text" if is(&["body"]) => color(value).map(|c| format!("color: {c}")),
        "color" if is(&["font"]) => color(value).map(|c| format!("color: {c}")),
        "color" if is(&["hr"]) => {
            color(value).map(|c| format!("border-style: solid; border-color: {c}; background-color: {c}"))
        }
        "face" if is(&["font"]) => {
            let tokens = crate::syntax::Tokens::read(value);
            let first = tokens.all().ident().unwrap_or_default();
            let families = crate::value::Wide::named(&first).is_none()
                && crate::property::replaced::needed(tokens.all()) == Ok(false);
            declaration("font-family", value).filter(|_| families)
        }
        "size" if is(&["font"]) => font_size(value).map(|s| format!("font-size: {s}")),
        "size" if is(&["hr"]) => number(value)
            .map(|n| if n > 1.0 { format!("height: {}px", n - 2.0) } else { "border-bottom-width: 0".to_owned() }),
        "noshade" if is(&["hr"]) => Some("border-style: solid; border-color: gray; background-color: gray".to_owned()),
        "width" | "height" => size(element, attribute),
        "hspace" if is(&["img", "input", "embed", "object", "marquee"]) => {
            dimension(value).map(|d| format!("margin-left: {d}; margin-right: {d}"))
        }
        "vspace" if is(&["img", "input", "embed", "object", "marquee"]) => {
            dimension(value).map(|d| format!("margin-top: {d}; margin-bottom: {d}"))
        }
        "border" if is(&["img", "object"]) || image_input(element) => {
            number(value).filter(|n| *n > 0.0).map(|n| format!("border: {n}px solid"))
        }
        "border" if is(&["table"]) => {
            let n = number(value).unwrap_or(1.0);
            (n > 0.0).then(|| format!("border-width: {n}px"))
        }
        "bordercolor" if is(&["table"]) => color(value).map(|c| format!("border-color: {c}")),
        "cellspacing" if is(&["table"]) => number(value).map(|n| format!("border-spacing: {n}px")),
        "frameborder" if is(&["iframe"]) => {
            number(value).is_none_or(|n| n == 0.0).then(|| "border-width: 0".to_owned())
        }
        "valign" if table_part() || is(&["img"]) => matches!(&*lower(), "top" | "middle" | "bottom" | "baseline")
            .then(|| format!("vertical-align: {}", lower())),
        "nowrap" if is(&["td", "th"]) => Some("white-space: nowrap".to_owned()),
        "clear" if is(&["br"]) => match &*lower() {
            "left" | "right" => Some(format!("clear: {}", lower())),
            "all" | "both" => Some("clear: both".to_owned()),
            _ => None,
        },
        "type" if is(&["ol", "ul", "li"]) => {
            list_type(element, &attribute.value).map(|t| format!("list-style-type: {t}"))
        }
        "marginwidth" if is(&["body"]) => number(value).map(|n| format!("margin-left: {n}px; margin-right: {n}px")),
        "marginheight" if is(&["body"]) => number(value).map(|n| format!("margin-top: {n}px; margin-bottom: {n}px")),
        // These count only where the two above are missing (HTML Standard, "The page").
        "leftmargin" | "rightmargin" | "topmargin" | "bottommargin" if is(&["body"]) => {
            let side = attribute.name.trim_end_matches("margin");
            let both = if matches!(side, "left" | "right") { "marginwidth" } else { "marginheight" };
            let counts = element.attribute(both).is_none();
            number(value).filter(|_| counts).map(|n| format!("margin-{side}: {n}px"))
        }
        "wrap" if is(&["textarea"]) => (lower() == "off").then(|| "white-space: pre; overflow-wrap: normal".to_owned()),
        "link" | "vlink" | "alink" if is(&["body"]) => None,
        "href" if is(&["a"]) => body_color(document, "link").map(|c| format!("color: {c}")),
        _ => None,
    }
}

/// What a `width` or `height` says (HTML Standard, "Dimension attributes", "Tables").
fn size(element: &Element, attribute: &Attribute) -> Option<String> {
    let value = attribute.value.trim();
    let is = |names: &[&str]| names.contains(&&*element.name);
    match &*attribute.name {
        "width"
            if is(&[
                "table", "td", "th", "col", "colgroup", "hr", "img", "iframe", "embed", "object", "video", "marquee",
            ]) || image_input(element) =>
        {
            dimension(value).filter(|d| !is(&["table", "td", "th"]) || is_something(d)).map(|d| {
                let ratio = ratio(element);
                format!("width: {d}{ratio}")
            })
        }
        "height"
            if is(&[
                "table", "thead", "tbody", "tfoot", "tr", "td", "th", "img", "iframe", "embed", "object", "video",
                "marquee",
            ]) || image_input(element) =>
        {
            dimension(value).filter(|d| !is(&["td", "th"]) || is_something(d)).map(|d| format!("height: {d}"))
        }
        "width" | "height" if is(&["canvas"]) => (&*attribute.name == "width" && element.attribute("height").is_some())
            .then(|| ratio(element).trim_start_matches("; ").to_owned()),
        _ => None,
    }
}

/// The colour that `<body link=…>` gives to links.
fn body_color(document: &Document, name: &str) -> Option<String> {
    let body = document.light().iter().find(|e| e.is_html("body"))?;
    color(body.attribute(name)?)
}

/// The declaration of a property with the value of an attribute, where that can be one: anything else in it, such as a
/// second declaration or `!important`, makes it none (SVG 2, §6.6: an attribute has the grammar of the property's value).
fn declaration(property: &str, value: &str) -> Option<String> {
    let tokens = crate::syntax::Tokens::read(value);
    let all = tokens.all();
    let ends = all.split_at(|t| matches!(t.kind, Kind::Semicolon | Kind::Curly(_))).1;
    (ends.is_empty() && crate::syntax::substitution::unfit(all).is_none()).then(|| format!("{property}: {value}"))
}

/// Whether it is an image button.
fn image_input(element: &Element) -> bool {
    element.is_html("input") && element.attribute("type").is_some_and(|t| t.eq_ignore_ascii_case("image"))
}

/// `align`
fn align(element: &Element, value: &str) -> Option<String> {
    let is = |names: &[&str]| names.contains(&&*element.name);
    if is(&["table"]) {
        return match value {
            "left" | "right" => Some(format!("float: {value}")),
            "center" => Some("margin-inline-start: auto; margin-inline-end: auto".to_owned()),
            _ => None,
        };
    }
    if is(&["hr"]) {
        return match value {
            "left" => Some("margin-left: 0; margin-right: auto".to_owned()),
            "right" => Some("margin-left: auto; margin-right: 0".to_owned()),
            "center" => Some("margin-left: auto; margin-right: auto".to_owned()),
            _ => None,
        };
    }
    if is(&["img", "iframe", "embed", "object"]) || image_input(element) {
        return match value {
            "left" | "right" => Some(format!("float: {value}; vertical-align: top")),
            "top" | "texttop" => Some(format!("vertical-align: {}", if value == "top" { "top" } else { "text-top" })),
            "middle" | "center" => Some("vertical-align: -webkit-baseline-middle".to_owned()),
            "absmiddle" | "abscenter" => Some("vertical-align: middle".to_owned()),
            "bottom" => Some("vertical-align: baseline".to_owned()),
            "absbottom" => Some("vertical-align: bottom".to_owned()),
            _ => None,
        };
    }
    if is(&["input", "button", "select", "textarea", "marquee"]) {
        return None;
    }
    if is(&["caption"]) {
        return (value == "bottom").then(|| "caption-side: bottom".to_owned());
    }
    if is(&["legend"]) {
        return match value {
            "left" | "center" | "right" => Some(format!("justify-self: {value}; text-align: {value}")),
            "middle" => Some("text-align: center".to_owned()),
            "justify" => Some("text-align: justify".to_owned()),
            _ => None,
        };
    }
    // Of what is a block to these, the boxes are aligned too; browsers let all elements have the attribute.
    let block = is(&["div", "p", "thead", "tbody", "tfoot", "tr", "td", "th", "col", "colgroup"]);
    let prefix = if block { "-webkit-" } else { "" };
    let table_part = is(&["thead", "tbody", "tfoot", "tr", "td", "th", "col", "colgroup"]);
    match value {
        "absmiddle" if table_part => Some("text-align: center".to_owned()),
        "center" | "middle" => Some(format!("text-align: {prefix}center")),
        "left" | "right" => Some(format!("text-align: {prefix}{value}")),
        "justify" => Some("text-align: justify".to_owned()),
        _ => None,
    }
}

/// What a table says about its cells.
fn table_hints(document: &Document, element: &Element, hints: &mut Vec<(String, Span)>) {
    if element.is_html("table") {
        let border = element.attribute_entry("border").filter(|a| number(&a.value).unwrap_or(1.0) > 0.0);
        let rules = element.attribute_entry("rules").filter(|a| is_rules(&a.value));
        let frame = element.attribute_entry("frame");
        if let Some(rules) = rules {
            hints.push(("border-collapse: collapse; border-style: hidden".to_owned(), rules.value_span));
        }
        // Differs from the standard, which has the lines `outset` whatever their colour is: browsers do not.
        let colored = element.attribute("bordercolor").is_some_and(|c| !c.is_empty());
        if let Some(border) = border {
            let style = if colored { "solid" } else { "outset" };
            hints.push((format!("border-style: {style}"), border.value_span));
        }
        if let Some(frame) = frame
            && let Some(styles) = frame_styles(&frame.value.to_ascii_lowercase())
        {
            hints.push((format!("border-style: {styles}; border-width: 1px"), frame.value_span));
        }
        return;
    }
    if ["colgroup", "thead", "tbody", "tfoot"].contains(&&*element.name) {
        let table = element.parent.map(|p| document.node(p)).filter(|p| p.is_html("table"));
        let rules = table.and_then(|t| t.attribute_entry("rules")).filter(|r| r.value.eq_ignore_ascii_case("groups"));
        if let Some(rules) = rules {
            let style = if &*element.name == "colgroup" { "none solid" } else { "solid none" };
            hints.push((format!("border-width: 1px; border-style: {style}"), rules.value_span));
        }
    }
    if !["td", "th"].contains(&&*element.name) {
        return;
    }
    let table = std::iter::successors(element.parent, |p| document.node(*p).parent)
        .find(|p| document.node(*p).is_html("table"));
    let Some(table) = table.map(|t| document.node(t)) else {
        return;
    };
    if let Some(padding) = table.attribute_entry("cellpadding")
        && let Some(n) = number(&padding.value)
    {
        hints.push((format!("padding: {n}px"), padding.value_span));
    }
    let rules = table.attribute_entry("rules").filter(|a| is_rules(&a.value));
    if let Some(rules) = rules {
        let text = match &*rules.value.to_ascii_lowercase() {
            "all" => "border-width: 1px; border-style: solid; border-color: inherit",
            "cols" => "border-width: 1px; border-style: none solid",
            "rows" => "border-width: 1px; border-style: solid none",
            "groups" | "none" => "border-width: 1px; border-style: none",
            _ => return,
        };
        hints.push((text.to_owned(), rules.value_span));
    } else if let Some(border) = table.attribute_entry("border")
        && number(&border.value).unwrap_or(1.0) > 0.0
    {
        let colored = table.attribute("bordercolor").is_some_and(|c| !c.is_empty());
        let style = if colored { "solid" } else { "inset" };
        hints.push((format!("border-width: 1px; border-style: {style}; border-color: inherit"), border.value_span));
    }
}

/// Whether a `rules` attribute is one that counts.
fn is_rules(value: &str) -> bool {
    matches!(&*value.to_ascii_lowercase(), "none" | "groups" | "rows" | "cols" | "all")
}

/// The border styles of a `frame` attribute. Differs from HTML, "Tables", which has `outset` for the lines.
fn frame_styles(value: &str) -> Option<&'static str> {
    Some(match value {
        "void" => "hidden",
        "above" => "solid hidden hidden hidden",
        "below" => "hidden hidden solid hidden",
        "hsides" => "solid hidden",
        "lhs" => "hidden hidden hidden solid",
        "rhs" => "hidden solid hidden hidden",
        "vsides" => "hidden solid",
        "box" | "border" => "solid",
        _ => return None,
    })
}

/// `; aspect-ratio: auto w / h` where both are given (HTML Standard, "Attributes for embedded content and images").
fn ratio(element: &Element) -> String {
    if !["img", "canvas", "video"].contains(&&*element.name) && !image_input(element) {
        return String::new();
    }
    // A canvas takes whole numbers and looks at no more; others take lengths, but no percentages.
    let canvas = &*element.name == "canvas";
    let read = |name: &str| element.attribute(name).filter(|v| canvas || !v.trim().ends_with('%')).and_then(number);
    match (read("width"), read("height")) {
        (Some(w), Some(h)) => format!("; aspect-ratio: auto {w} / {h}"),
        _ => String::new(),
    }
}

/// A number of at least 0 at the start of a text (HTML Standard, "rules for parsing non-negative integers").
fn number(text: &str) -> Option<f64> {
    let text = text.trim_start_matches([' ', '\t', '\n', '\x0C', '\r']);
    let unsigned = text.strip_prefix(['+', '-']).unwrap_or(text);
    let digits: String = unsigned.chars().take_while(char::is_ascii_digit).collect();
    digits.parse().ok().filter(|n| *n == 0.0 || !text.starts_with('-'))
}

/// Whether a length or percentage is more than nothing (HTML Standard, "rules for parsing nonzero dimension values").
fn is_something(dimension: &str) -> bool {
    !matches!(dimension, "0px" | "0%")
}

/// A length or percentage (HTML Standard, "rules for parsing dimension values").
fn dimension(text: &str) -> Option<String> {
    let text = text.trim_start_matches([' ', '\t', '\n', '\x0C', '\r']);
    let digits = |from: usize| from + text[from..].bytes().take_while(u8::is_ascii_digit).count();
    let mut end = digits(0);
    if end > 0 && text[end..].starts_with('.') {
        end = digits(end + 1);
    }
    let n: f64 = text[..end].parse().ok()?;
    // A share of what is left, as in framesets, says nothing elsewhere.
    if text[end..].starts_with('*') {
        return None;
    }
    Some(if text[end..].starts_with('%') { format!("{n}%") } else { format!("{n}px") })
}

/// `<font size>` (HTML Standard, "rules for parsing a legacy font size").
fn font_size(text: &str) -> Option<&'static str> {
    let text = text.trim();
    let n = number(text.trim_start_matches(['+', '-']))?;
    let size = match text.chars().next()? {
        '+' => 3.0 + n,
        '-' => 3.0 - n,
        _ => n,
    };
    Some(match size.clamp(1.0, 7.0) as u8 {
        1 => "x-small",
        2 => "small",
        3 => "medium",
        4 => "large",
        5 => "x-large",
        6 => "xx-large",
        _ => "xxx-large",
    })
}

/// `type` of lists.
fn list_type(element: &Element, value: &str) -> Option<&'static str> {
    let ordered = match value {
        "1" => Some("decimal"),
        "a" => Some("lower-alpha"),
        "A" => Some("upper-alpha"),
        "i" => Some("lower-roman"),
        "I" => Some("upper-roman"),
        _ => None,
    };
    let bullets = match &*value.to_ascii_lowercase() {
        "none" => Some("none"),
        "disc" => Some("disc"),
        "circle" => Some("circle"),
        "square" => Some("square"),
        _ => None,
    };
    match &*element.name {
        "ol" => ordered,
        "ul" => bullets,
        _ => ordered.or(bullets),
    }
}

/// A colour as HTML attributes write it (HTML Standard, "rules for parsing a legacy color value").
fn color(text: &str) -> Option<String> {
    let text = text.trim();
    if text.is_empty() || text.eq_ignore_ascii_case("transparent") {
        return None;
    }
    if crate::value::color::is_name(&text.to_ascii_lowercase()) {
        return Some(text.to_owned());
    }
    let digits = text.strip_prefix('#').unwrap_or(text);
    if text.starts_with('#') && digits.len() == 3 && digits.bytes().all(|b| b.is_ascii_hexdigit()) {
        return Some(text.to_owned());
    }
    let mut digits: Vec<char> = digits.chars().take(128).map(|c| if c.is_ascii_hexdigit() { c } else { '0' }).collect();
    while digits.is_empty() || !digits.len().is_multiple_of(3) {
        digits.push('0');
    }
    let length = digits.len() / 3;
    let mut parts: Vec<&[char]> = digits.chunks(length).collect();
    if length > 8 {
        parts = parts.iter().map(|p| &p[length - 8..]).collect();
    }
    while parts[0].len() > 2 && parts.iter().all(|p| p[0] == '0') {
        parts = parts.iter().map(|p| &p[1..]).collect();
    }
    let pair = |p: &[char]| -> String {
        let two: String = p.iter().take(2).collect();
        format!("{two:0>2}")
    };
    Some(format!("#{}{}{}", pair(parts[0]), pair(parts[1]), pair(parts[2])))
}

/// SVG attributes that are properties (SVG 2, §6.6 "Presentation attributes").
const SVG: &[&str] = &[
    "alignment-baseline",
    "baseline-shift",
    "clip-path",
    "clip-rule",
    "color",
    "color-interpolation",
    "color-interpolation-filters",
    "cursor",
    "direction",
    "display",
    "dominant-baseline",
    "fill",
    "fill-opacity",
    "fill-rule",
    "filter",
    "flood-color",
    "flood-opacity",
    "font-family",
    "font-size",
    "font-size-adjust",
    "font-stretch",
    "font-style",
    "font-variant",
    "font-weight",
    "image-rendering",
    "letter-spacing",
    "lighting-color",
    "marker-end",
    "marker-mid",
    "marker-start",
    "mask",
    "mask-type",
    "opacity",
    "overflow",
    "paint-order",
    "pointer-events",
    "shape-rendering",
    "stop-color",
    "stop-opacity",
    "stroke",
    "stroke-dasharray",
    "stroke-dashoffset",
    "stroke-linecap",
    "stroke-linejoin",
    "stroke-miterlimit",
    "stroke-opacity",
    "stroke-width",
    "text-anchor",
    "text-decoration",
    "text-overflow",
    "text-rendering",
    "transform-origin",
    "unicode-bidi",
    "vector-effect",
    "visibility",
    "white-space",
    "word-spacing",
    "writing-mode",
];

/// Elements of SVG that are drawn, or cut what is, and so have a `transform` (SVG 2, §8.5).
const TRANSFORMED: &[&str] = &[
    "a",
    "circle",
    "clipPath",
    "defs",
    "ellipse",
    "foreignObject",
    "g",
    "image",
    "line",
    "path",
    "polygon",
    "polyline",
    "rect",
    "svg",
    "switch",
    "symbol",
    "text",
    "textPath",
    "tspan",
    "use",
];

/// Whether an attribute of an SVG element is a property.
fn is_svg_presentation(element: &str, name: &str) -> bool {
    match name {
        "cx" | "cy" => matches!(element, "circle" | "ellipse"),
        "r" => element == "circle",
        "rx" | "ry" => matches!(element, "ellipse" | "rect"),
        "x" | "y" => matches!(element, "foreignObject" | "image" | "rect" | "svg" | "symbol" | "use"),
        "width" | "height" => matches!(element, "foreignObject" | "image" | "rect" | "svg" | "symbol" | "use"),
        "d" => element == "path",
        "gradientTransform" => matches!(element, "linearGradient" | "radialGradient"),
        "patternTransform" => element == "pattern",
        "transform" => TRANSFORMED.contains(&element),
        _ => SVG.contains(&name),
    }
}

/// The declaration of an SVG attribute; numbers without a unit are px there.
fn svg(document: &Document, element: &Element, attribute: &Attribute) -> Option<String> {
    let (name, value) = (&*attribute.name, &*attribute.value);
    let value = value.trim();
    let lengths = [
        "cx",
        "cy",
        "r",
        "rx",
        "ry",
        "x",
        "y",
        "width",
        "height",
        "font-size",
        "letter-spacing",
        "word-spacing",
        "baseline-shift",
        "stroke-dashoffset",
        "stroke-width",
    ];
    match name {
        // A path is drawn up to the first error in it.
        "d" => Some(match crate::property::path::read(value).text {
            none if none.is_empty() => "d: none".to_owned(),
            text => format!("d: path(\"{text}\")"),
        }),
        "transform" | "gradientTransform" | "patternTransform" => declaration("transform", &svg_transform(value)),
        _ if lengths.contains(&name) && value.parse::<f64>().is_ok() => Some(format!("{name}: {value}px")),
        // Of what is no length the attribute's own initial value remains (SVG 2, §8.9), which is not that of the property.
        "width" | "height" if !is_length(value) => {
            let outer = element.parent.is_none_or(|p| document.node(p).namespace != Namespace::Svg);
            match &*element.name {
                "svg" if outer => Some(format!("{name}: 100%")),
                "rect" | "image" | "foreignObject" => Some(format!("{name}: 0")),
                _ => None,
            }
        }
        _ => declaration(name, value),
    }
}

/// Whether a value is a length or percentage as CSS writes it, or a number.
fn is_length(value: &str) -> bool {
    let tokens = crate::syntax::Tokens::read(value.trim());
    crate::property::match_syntax("<length-percentage [0,∞]> | <number [0,∞]>", tokens.all()).is_some()
}

/// A transform as SVG writes it, in the notation of CSS.
fn svg_transform(value: &str) -> String {
    let mut out = String::new();
    for part in value.split(')').filter(|p| p.contains('(')) {
        let (name, arguments) = part.split_once('(').unwrap_or((part, ""));
        let name = name.trim().trim_start_matches(',').trim();
        let numbers: Vec<&str> = arguments.split([' ', ',', '\t', '\n']).filter(|n| !n.is_empty()).collect();
        let with = |unit: &str| numbers.iter().map(|n| format!("{n}{unit}")).collect::<Vec<_>>().join(", ");
        match (name, numbers.as_slice()) {
            ("translate", _) => out.push_str(&format!("translate({}) ", with("px"))),
            ("rotate", [angle, x, y]) => out.push_str(&format!(
                "translate({x}px, {y}px) rotate({angle}deg) translate(calc(-1 * {x}px), calc(-1 * {y}px)) "
            )),
            ("rotate" | "skewX" | "skewY", _) => out.push_str(&format!("{name}({}) ", with("deg"))),
            _ => out.push_str(&format!("{name}({}) ", with(""))),
        }
    }
    out
}
