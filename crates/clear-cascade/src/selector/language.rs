//! The language and direction of an element (HTML Standard, "The lang and xml:lang attributes", "The dir attribute").

use unicode_bidi::BidiClass;

use crate::document::{Child, Document, Element, ElementId, Namespace};

/// The language of an element: the nearest `xml:lang`, or `lang` of an HTML or SVG element; else what
/// `<meta http-equiv=content-language>` says, of several the last.
pub(super) fn of(document: &Document, id: ElementId) -> Option<String> {
    let written = document.lineage(id).find_map(|e| {
        let element = document.node(e);
        let xml = element
            .attributes
            .iter()
            .find(|a| &*a.name == "lang" && &*a.namespace == "http://www.w3.org/XML/1998/namespace");
        let plain = || matches!(element.namespace, Namespace::Html | Namespace::Svg).then(|| element.attribute("lang"));
        xml.map(|a| &*a.value).or_else(|| plain().flatten()).map(str::to_owned)
    });
    if written.is_some() {
        return written;
    }
    let meta = document.light().iter().filter(|e| e.is_html("meta"));
    let meta = meta.filter(|e| e.attribute("http-equiv").is_some_and(|h| h.eq_ignore_ascii_case("content-language")));
    let contents = meta.filter_map(|e| e.attribute("content")).filter(|c| !c.contains(','));
    contents.filter_map(|c| c.split_ascii_whitespace().next()).next_back().map(str::to_owned)
}

/// Whether a language range takes a language tag (RFC 4647, §3.3.2 "Extended Filtering", as Selectors 4 has it).
pub(super) fn range_fits(range: &str, tag: &str) -> bool {
    if range.is_empty() || tag.is_empty() {
        return range.is_empty() && tag.is_empty();
    }
    // What is no language tag is no language (RFC 5646, §2.1): subtags of one to eight letters and digits.
    let is_subtag = |s: &str| (1..=8).contains(&s.len()) && s.bytes().all(|b| b.is_ascii_alphanumeric());
    if !tag.split('-').all(is_subtag) {
        return false;
    }
    let mut wanted = range.split('-');
    let mut have = tag.split('-').peekable();
    let first = wanted.next().unwrap_or_default();
    if first != "*" && !have.peek().is_some_and(|h| h.eq_ignore_ascii_case(first)) {
        return false;
    }
    have.next();
    for part in wanted {
        if part == "*" {
            continue;
        }
        loop {
            match have.next() {
                None => return false,
                Some(h) if h.eq_ignore_ascii_case(part) => break,
                Some(h) if h.len() == 1 => return false,
                Some(_) => {}
            }
        }
    }
    true
}

/// Whether an element runs from right to left.
pub(super) fn is_rtl(document: &Document, id: ElementId) -> bool {
    for ancestor in document.lineage(id) {
        let element = document.node(ancestor);
        if element.namespace != Namespace::Html {
            continue;
        }
        match element.attribute("dir").map(str::to_ascii_lowercase).as_deref() {
            Some("rtl") => return true,
            Some("ltr") => return false,
            Some("auto") => return auto_is_rtl(document, ancestor).unwrap_or(false),
            _ => {}
        }
        if element.is_html("bdi") {
            return auto_is_rtl(document, ancestor).unwrap_or(false);
        }
        if element.is_html("input") && element.attribute("type").is_some_and(|t| t.eq_ignore_ascii_case("tel")) {
            return false;
        }
    }
    false
}

/// The direction of the first strong character inside; nothing where there is none.
fn auto_is_rtl(document: &Document, id: ElementId) -> Option<bool> {
    let element = document.node(id);
    // Controls go by their value; one that has no strong character runs from left to right.
    let value = match &*element.name {
        "input" if !is_valued(element) => return None,
        "input" => Some(element.attribute("value").unwrap_or_default().to_owned()),
        "textarea" => Some(document.text(id)),
        _ => None,
    };
    if let Some(value) = value.filter(|_| element.namespace == Namespace::Html) {
        return first_strong(&value);
    }
    let mut open = vec![element.children.iter()];
    while let Some(top) = open.last_mut() {
        match top.next() {
            None => {
                open.pop();
            }
            Some(Child::Text(text)) => {
                if let Some(found) = first_strong(text) {
                    return Some(found);
                }
            }
            Some(Child::Element(child)) => {
                let child = document.node(*child);
                let own =
                    child.attribute("dir").is_some_and(|d| matches!(&*d.to_ascii_lowercase(), "ltr" | "rtl" | "auto"));
                if !own && !["bdi", "script", "style", "textarea"].iter().any(|n| child.is_html(n)) {
                    open.push(child.children.iter());
                }
            }
        }
    }
    None
}

/// Whether an `<input>` shows its value as text ("auto-directionality form-associated element").
fn is_valued(element: &Element) -> bool {
    let kind = element.attribute("type").unwrap_or_default().to_ascii_lowercase();
    !matches!(
        &*kind,
        "checkbox"
            | "color"
            | "date"
            | "datetime-local"
            | "file"
            | "image"
            | "month"
            | "number"
            | "radio"
            | "range"
            | "time"
            | "week"
    )
}

/// Whether the first character with a strong direction runs from right to left (Unicode, Bidi_Class).
fn first_strong(text: &str) -> Option<bool> {
    text.chars().find_map(|c| match unicode_bidi::bidi_class(c) {
        BidiClass::L => Some(false),
        BidiClass::R | BidiClass::AL => Some(true),
        _ => None,
    })
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn ranges() {
        assert!(
            range_fits("de", "de-CH")
                && range_fits("de-DE", "de-Latn-DE")
                && range_fits("*-CH", "fr-CH")
                && range_fits("*", "x")
        );
        assert!(
            !range_fits("de-DE", "de")
                && !range_fits("de", "den")
                && !range_fits("de-DE", "de-x-DE")
                && !range_fits("*", "")
                && !range_fits("en", "en-")
                && !range_fits("en", "en--US")
                && !range_fits("en", "en_US")
        );
    }
}
