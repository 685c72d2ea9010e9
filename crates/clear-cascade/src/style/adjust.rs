//! What the values of one element mean for each other, and what browsers force on some elements.

use super::compute::initial;
use super::entry::{Entry, Subject, Target};
use super::{Inside, Style};
use crate::cascade::Origin;
use crate::document::{Element, Namespace};
use crate::property::{PropertyId, id};
use crate::value::Value;

/// Whether a dark colour scheme is used (CSS Color Adjust 1, §2.2).
pub(super) fn is_dark(scheme: &Value, subject: &Subject<'_>) -> bool {
    let prefers = subject.page.viewing.prefers_dark();
    let words: Vec<String> = scheme.parts().iter().map(|p| p.text().to_ascii_lowercase()).collect();
    let words = if words == ["normal"] { subject.page.schemes.clone() } else { words };
    let has = |w: &str| words.iter().any(|x| x == w);
    has("dark") && (prefers || !has("light"))
}

/// Draws the consequences that values of one element have for each other.
pub(super) fn adjust(style: &mut Style, subject: &Subject<'_>, parent: Option<&Style>, entries: &[Entry<'_>]) {
    display(style, subject, parent);
    overflow(style);
    alignment(style, subject, parent);
    layers(style);
    drawn_by_the_platform(style, subject, entries);
    mathematics(style, subject);
    inside(style, parent);
    remembered_size(style);
    contents(style, subject);
    anchors(style, subject);
}

/// What becomes of `anchor()` and `anchor-size()` where no anchor can be found, whatever the layout: what they fall back to, or the
/// initial value (CSS Anchor Positioning 1, §3.2 and §5.1). Others wait for layout.
fn anchors(style: &mut Style, subject: &Subject<'_>) {
    let by_anchor = |value: &Value| matches!(value, Value::Function(f) if f.0.starts_with("anchor"));
    let found: Vec<PropertyId> = style.reset.iter().filter(|(_, value)| by_anchor(value)).map(|(p, _)| *p).collect();
    for property in found {
        let Value::Function(function) = style.get(property) else { continue };
        let (arguments, fallback) = match function.1.iter().position(|part| *part == Value::Delim(',')) {
            Some(comma) => (&function.1[..comma], function.1.get(comma + 1)),
            None if &*function.0 == "anchor-size" => match function.1.as_slice() {
                [only] if !matches!(only, Value::Keyword(_) | Value::Ident(_)) => (&[][..], Some(only)),
                all => (all, None),
            },
            None => (&function.1[..], None),
        };
        let moved = matches!(keyword(style, id::POSITION), "absolute" | "fixed");
        let named = arguments.iter().any(|part| matches!(part, Value::Ident(_)))
            || matches!(style.get(id::POSITION_ANCHOR), Value::Ident(_));
        let element = subject.page.document.node(subject.element);
        let may_be_given_one = subject.pseudo.is_some() || element.attribute("popover").is_some();
        let other_axis: &[&str] = match property {
            id::TOP | id::BOTTOM => &["left", "right"],
            id::LEFT | id::RIGHT => &["top", "bottom"],
            _ => &[],
        };
        let across = arguments.iter().any(|part| other_axis.iter().any(|side| part.is(side)));
        if !moved || across || !(named || may_be_given_one) {
            let value = fallback.cloned().unwrap_or_else(|| initial(property));
            style.set(property, value);
        }
    }
}

/// The keyword that a longhand has; an empty name where it has none.
fn keyword(style: &Style, property: PropertyId) -> &str {
    style.get(property).as_keyword().unwrap_or_default()
}

/// What `position`, `float` and the element around make of `display`, and of `float`.
fn display(style: &mut Style, subject: &Subject<'_>, parent: Option<&Style>) {
    let positioned = matches!(keyword(style, id::POSITION), "absolute" | "fixed");
    if positioned && !style.is_initial(id::FLOAT) {
        style.set(id::FLOAT, Value::keyword("none"));
    }
    let in_ruby = parent.is_some_and(|p| p.inside.inlinifies) && !positioned;
    let floats = !style.is_initial(id::FLOAT);
    if in_ruby {
        style.set(id::FLOAT, Value::keyword("none"));
    }
    let in_flex = parent.is_some_and(|p| p.inside.blockifies);
    unusual_displays(style, subject);
    // CSS Writing Modes 4, §3.1: an inline box that runs another way than its parent is an `inline-block`.
    if style.get(id::DISPLAY).is("inline")
        && parent.is_some_and(|p| p.get(id::WRITING_MODE) != style.get(id::WRITING_MODE))
    {
        style.set(id::DISPLAY, Value::keyword("inline-block"));
    }
    // CSS Display 3, §2.7 "Automatic Box Type Transformations"; of a legend, HTML Standard, "The fieldset and legend elements".
    let legend = subject.pseudo.is_none() && subject.page.document.node(subject.element).is_html("legend");
    if (positioned || floats || parent.is_none() || in_flex || legend)
        && let Some(blockified) = blockified(keyword(style, id::DISPLAY), parent.is_none())
    {
        style.set(id::DISPLAY, Value::keyword(blockified));
    }
    // CSS Ruby 1, §2.2: what is inside of ruby is on its line.
    let inlinified = match keyword(style, id::DISPLAY) {
        "block" | "flow-root" => Some("inline-block"),
        "flex" => Some("inline-flex"),
        "grid" => Some("inline-grid"),
        "table" => Some("inline-table"),
        "list-item" => Some("inline list-item"),
        "block ruby" => Some("ruby"),
        "block math" => Some("inline math"),
        _ => None,
    };
    // Text of a picture and what is foreign to it are blocks wherever it stands.
    let node = subject.page.document.node(subject.element);
    let block_in_picture = node.namespace == Namespace::Svg && matches!(&*node.name, "text" | "foreignObject");
    if let Some(inlinified) = inlinified.filter(|_| in_ruby && !block_in_picture) {
        style.set(id::DISPLAY, Value::keyword(inlinified));
    }
    // A box that is cut after so many lines is a block container (CSS Overflow 4, §5.3).
    let clamped = match keyword(style, id::DISPLAY) {
        "-webkit-box" => Some("flow-root"),
        "-webkit-inline-box" => Some("inline-block"),
        _ => None,
    };
    if let Some(clamped) = clamped.filter(|_| style.get(id::WEBKIT_BOX_ORIENT).is("vertical"))
        && PropertyId::named("-webkit-line-clamp").is_some_and(|lines| !style.get(lines).is("none"))
    {
        style.set(id::DISPLAY, Value::keyword(clamped));
    }
}

/// The block-level display type for an inline-level one (CSS Display 3, §2.7).
pub(crate) fn blockified(display: &str, is_root: bool) -> Option<&'static str> {
    match display {
        "inline" | "inline-block" | "table-row-group" | "table-header-group" | "table-footer-group" | "table-row"
        | "table-cell" | "table-column" | "table-column-group" | "table-caption" | "ruby-base" | "ruby-text" => {
            Some("block")
        }
        "inline-flex" => Some("flex"),
        "inline-grid" => Some("grid"),
        "inline-table" => Some("table"),
        "inline list-item" => Some("list-item"),
        "inline flow-root list-item" => Some("flow-root list-item"),
        "-webkit-inline-box" => Some("-webkit-box"),
        "inline math" => Some("block math"),
        "ruby" => Some("block ruby"),
        "contents" if is_root => Some("block"),
        _ => None,
    }
}

/// What one axis of `overflow` makes of the other, and a table of both.
fn overflow(style: &mut Style) {
    // Nearly no element sets either.
    if style.is_initial(id::OVERFLOW_X) && style.is_initial(id::OVERFLOW_Y) {
        return;
    }
    // CSS Overflow 3, §3.1: `visible` goes only with itself and `clip`. Differs from the draft, where `clip` beside a
    // scrolling axis becomes `hidden`: browsers keep it.
    let (x, y) = (keyword(style, id::OVERFLOW_X), keyword(style, id::OVERFLOW_Y));
    let open = |k: &str| matches!(k, "visible" | "clip");
    let disagree = x != y && !(open(x) && open(y));
    if open(x) != open(y) {
        for property in [id::OVERFLOW_X, id::OVERFLOW_Y] {
            if style.get(property).is("visible") {
                style.set(property, Value::keyword("auto"));
            }
        }
    }
    // Scrolling does not apply to tables (CSS 2, §17.4); axes that disagree cut nothing there, as browsers have it.
    if matches!(keyword(style, id::DISPLAY), "table" | "inline-table") {
        for property in [id::OVERFLOW_X, id::OVERFLOW_Y] {
            if disagree || matches!(keyword(style, property), "auto" | "scroll") {
                style.set(property, Value::keyword("visible"));
            }
        }
    }
}

/// How boxes are aligned that the element around aligns.
fn alignment(style: &mut Style, subject: &Subject<'_>, parent: Option<&Style>) {
    // `legacy`, the initial value, takes what is around it if that is `legacy` too (CSS Box Alignment 3, §6.1).
    let outer = parent.filter(|p| !p.is_initial(id::JUSTIFY_ITEMS)).map(|p| p.get(id::JUSTIFY_ITEMS));
    style.asks_parent |= outer.is_some();
    if style.is_initial(id::JUSTIFY_ITEMS)
        && let Some(outer) = outer
        && outer.parts().iter().any(|p| p.is("legacy"))
    {
        style.set(id::JUSTIFY_ITEMS, outer.clone());
    }
    // Boxes are aligned in what has the alignment, and not in tables inside of it (HTML Standard, "Tables").
    let table = subject.pseudo.is_none() && subject.page.document.node(subject.element).is_html("table");
    if table && keyword(style, id::TEXT_ALIGN).starts_with("-webkit-") {
        style.set(id::TEXT_ALIGN, Value::keyword("start"));
    }
}

/// Layout of mathematics is for MathML (MathML Core, §4.1).
fn mathematics(style: &mut Style, subject: &Subject<'_>) {
    let mathematical = subject.page.document.node(subject.element).namespace == Namespace::MathMl;
    match keyword(style, id::DISPLAY) {
        "inline math" if mathematical => style.set(id::DISPLAY, Value::keyword("math")),
        "inline math" | "math" if !mathematical => style.set(id::DISPLAY, Value::keyword("inline")),
        "block math" if !mathematical => style.set(id::DISPLAY, Value::keyword("block")),
        _ => {}
    }
}

/// What the element does to the boxes of its children.
fn inside(style: &mut Style, parent: Option<&Style>) {
    // Boxes in `display: contents` are in the box around it (CSS Display 3, §2.5).
    let blockifies = match keyword(style, id::DISPLAY) {
        "contents" => parent.is_some_and(|p| p.inside.blockifies),
        "flex" | "inline-flex" | "grid" | "inline-grid" | "math" | "block math" => true,
        _ => false,
    };
    let inlinifies = match keyword(style, id::DISPLAY) {
        // What is in an inline box must not break the line open that the box is in (CSS Display 3, §2.7).
        "contents" | "inline" => parent.is_some_and(|p| p.inside.inlinifies),
        "ruby" | "block ruby" | "ruby-text" => true,
        _ => false,
    };
    style.inside = Inside { blockifies, inlinifies };
}

/// What may be left out of the layout remembers its size (CSS Contain 2, §4.2).
fn remembered_size(style: &mut Style) {
    if style.get(id::CONTENT_VISIBILITY).is("auto") {
        for property in [id::CONTAIN_INTRINSIC_WIDTH, id::CONTAIN_INTRINSIC_HEIGHT] {
            let size = style.get(property).parts();
            if !size.iter().any(|p| p.is("auto")) {
                let remembered = std::iter::once(Value::keyword("auto")).chain(size.iter().cloned()).collect();
                style.set(property, Value::sequence(remembered));
            }
        }
    }
}

/// What `content` comes to where nothing is generated.
fn contents(style: &mut Style, subject: &Subject<'_>) {
    // Elements always have contents; boxes of their own only where they are asked for (CSS Content 3, §2).
    if subject.pseudo.is_none() && style.get(id::CONTENT).is("none") {
        style.set(id::CONTENT, Value::keyword("normal"));
    }
    if let Some(pseudo) = subject.pseudo
        && matches!(&*pseudo.name, "before" | "after")
        && style.get(id::CONTENT).is("normal")
    {
        style.set(id::CONTENT, Value::keyword("none"));
    }
}

/// Elements for which `display: contents` is `none` (CSS Display 3, Appendix B).
const NO_CONTENTS: &[&str] = &[
    "br", "wbr", "meter", "progress", "canvas", "embed", "object", "audio", "iframe", "img", "video", "frame",
    "frameset", "input", "textarea", "select",
];

/// Whether an element is a picture that has no source, but a text that stands for it.
fn is_text_of_picture(element: &Element) -> bool {
    let lacks = |name: &str| element.attribute(name).is_none_or(str::is_empty);
    element.is_html("img") && lacks("src") && lacks("srcset") && !lacks("alt")
}

/// What says how text is set in columns, which SVG text is not.
const COLUMNS: [PropertyId; 8] = [
    id::COLUMN_COUNT,
    id::COLUMN_FILL,
    id::COLUMN_GAP,
    id::COLUMN_RULE_COLOR,
    id::COLUMN_RULE_STYLE,
    id::COLUMN_RULE_WIDTH,
    id::COLUMN_SPAN,
    id::COLUMN_WIDTH,
];

/// What `display`, `position` and columns come to on replaced elements, form controls and parts of SVG.
fn unusual_displays(style: &mut Style, subject: &Subject<'_>) {
    let element = subject.page.document.node(subject.element);
    if subject.pseudo.is_some() {
        return;
    }
    let parent = element.parent.map(|p| subject.page.document.node(p).namespace);
    match element.namespace {
        // A picture without a source is its text, which has no size of its own (HTML Standard, "Images").
        Namespace::Html if is_text_of_picture(element) && style.get(id::DISPLAY).is("inline") => {
            for property in [id::WIDTH, id::HEIGHT, id::ASPECT_RATIO] {
                style.set(property, Value::keyword("auto"));
            }
        }
        Namespace::Html if style.get(id::DISPLAY).is("contents") && NO_CONTENTS.contains(&&*element.name) => {
            style.set(id::DISPLAY, Value::keyword("none"));
        }
        // CSS Basic User Interface 4: a text area always scrolls what does not fit.
        Namespace::Html if element.is_html("textarea") && !style.get(id::DISPLAY).is("none") => {
            for property in [id::OVERFLOW_X, id::OVERFLOW_Y] {
                if style.get(property).is("visible") {
                    style.set(property, Value::keyword("auto"));
                }
            }
        }
        Namespace::Svg => {
            // CSS positions only the outermost `<svg>` (SVG 2, §7.2).
            if parent == Some(Namespace::Svg) || &*element.name != "svg" {
                style.set(id::POSITION, Value::keyword("static"));
            }
            let unboxed =
                parent == Some(Namespace::Svg) && matches!(&*element.name, "svg" | "g" | "use" | "tspan" | "a");
            if style.get(id::DISPLAY).is("contents") && !unboxed {
                style.set(id::DISPLAY, Value::keyword("none"));
            }
            let inline = style.get(id::DISPLAY).as_keyword().is_some_and(|k| k.starts_with("inline"));
            if matches!(&*element.name, "text" | "foreignObject") && inline {
                style.set(id::DISPLAY, Value::keyword("block"));
            }
            if &*element.name == "text" {
                for property in COLUMNS {
                    style.set(property, initial(property));
                }
            }
        }
        Namespace::MathMl if style.get(id::DISPLAY).is("contents") => {
            style.set(id::DISPLAY, Value::keyword("none"));
        }
        _ => {}
    }
}

/// Gives the lists of `background-*` and `mask-*` as many parts as there are images (CSS Backgrounds 3, §2.1).
fn layers(style: &mut Style) {
    // Nearly all elements have one layer throughout.
    if style.reset.iter().all(|(_, value)| value.layer_count() == 1) {
        return;
    }
    let lists = [
        (
            id::BACKGROUND_IMAGE,
            &[
                id::BACKGROUND_POSITION_X,
                id::BACKGROUND_POSITION_Y,
                id::BACKGROUND_SIZE,
                id::BACKGROUND_REPEAT,
                id::BACKGROUND_ATTACHMENT,
                id::BACKGROUND_ORIGIN,
                id::BACKGROUND_CLIP,
                id::BACKGROUND_BLEND_MODE,
            ][..],
        ),
        (
            id::MASK_IMAGE,
            &[
                id::MASK_POSITION,
                id::MASK_SIZE,
                id::MASK_REPEAT,
                id::MASK_ORIGIN,
                id::MASK_CLIP,
                id::MASK_MODE,
                id::MASK_COMPOSITE,
            ][..],
        ),
    ];
    for (images, others) in lists {
        let count = style.get(images).layer_count();
        for property in others {
            if style.get(*property).layer_count() != count {
                let have = style.get(*property).layers();
                let parts = (0..count).map(|i| Value::sequence(have[i % have.len()].clone())).collect();
                style.set(*property, Value::comma_list(parts));
            }
        }
    }
}

/// What browsers force on an element that the platform draws (CSS Basic User Interface 4, §7.2 leaves it to them).
fn drawn_by_the_platform(style: &mut Style, subject: &Subject<'_>, entries: &[Entry<'_>]) {
    if subject.pseudo.is_some() || style.is_initial(id::APPEARANCE) {
        return;
    }
    // With an `appearance`, any element is a box of its own.
    match style.get(id::DISPLAY).as_keyword() {
        Some("list-item" | "table") => style.set(id::DISPLAY, Value::keyword("block")),
        Some(display) if display == "inline" || display == "inline-table" || display.starts_with("table-") => {
            style.set(id::DISPLAY, Value::keyword("inline-block"));
        }
        _ => {}
    }
    controls(style, subject, entries);
}

/// What browsers force on form controls.
fn controls(style: &mut Style, subject: &Subject<'_>, entries: &[Entry<'_>]) {
    let element = subject.page.document.node(subject.element);
    let name = &*element.name;
    if element.namespace != Namespace::Html
        || !matches!(name, "input" | "select" | "button" | "textarea" | "meter" | "progress")
    {
        return;
    }
    let kind = element.attribute("type").unwrap_or_default().to_ascii_lowercase();
    let drop_down = name == "select"
        && style.get(id::APPEARANCE).is("auto")
        && element.attribute("multiple").is_none()
        && element.attribute("size").is_none();
    let push_button =
        name == "input" && matches!(&*kind, "button" | "submit" | "reset") && style.get(id::APPEARANCE).is("auto");
    if drop_down || (push_button && !is_redrawn(entries)) {
        style.set(id::LINE_HEIGHT, Value::keyword("normal"));
    }
    if matches!(&*kind, "date" | "datetime-local" | "month" | "time" | "week") {
        style.set(id::DIRECTION, Value::keyword("ltr"));
    }
    if name == "input" && matches!(&*kind, "checkbox" | "radio") {
        for property in [id::PADDING_TOP, id::PADDING_RIGHT, id::PADDING_BOTTOM, id::PADDING_LEFT] {
            style.set(property, Value::px(0.0));
        }
        let radius = if kind == "radio" { Value::Percentage(50.0) } else { Value::px(0.0) };
        for side in ["top", "right", "bottom", "left"] {
            for part in ["style", "width", "color"] {
                if let Some(property) = PropertyId::named(&format!("border-{side}-{part}")) {
                    style.set(property, initial(property));
                }
            }
        }
        for corner in [
            id::BORDER_TOP_LEFT_RADIUS,
            id::BORDER_TOP_RIGHT_RADIUS,
            id::BORDER_BOTTOM_LEFT_RADIUS,
            id::BORDER_BOTTOM_RIGHT_RADIUS,
        ] {
            style.set(corner, radius.clone());
        }
        for side in [id::BORDER_TOP_WIDTH, id::BORDER_RIGHT_WIDTH, id::BORDER_BOTTOM_WIDTH, id::BORDER_LEFT_WIDTH] {
            style.set(side, Value::px(0.0));
        }
    }
}

/// Whether the page gives an element a background or border, so that the platform no longer draws it as a control.
fn is_redrawn(entries: &[Entry<'_>]) -> bool {
    let looks = |e: &Entry<'_>| match e.property {
        Target::Longhand(p) => p.name().starts_with("background-") || p.name().starts_with("border-"),
        Target::Custom(_) => false,
    };
    entries.iter().any(|e| e.origin() == Origin::Author && looks(e))
}
