//! Oddities of the markup, and of the conditions of sheets, that styles suffer from.

use std::collections::BTreeMap;

use serde::{Deserialize, Serialize};

use crate::document::{Child, ElementRef, Namespace};
use crate::near;
use crate::source::{OffsetMap, Place, Source, SourceId, SourceKind, Span};
use crate::study::Study;
use crate::stylesheet::{self, Declaration, GroupKind, Stylesheet, media::MediaQueryList};
use crate::syntax::Tokens;
use crate::text;

/// Something odd in a page.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(rename_all = "kebab-case", tag = "odd")]
pub(super) enum Oddity {
    /// An element that does not exist.
    Element {
        /// Its name.
        name: String,
        /// One that does exist.
        near: String,
    },
    /// An attribute that does not exist.
    Attribute {
        /// Its name.
        name: String,
        /// One that does exist.
        near: String,
    },
    /// CSS among the text.
    Css {
        /// The rule, cut short.
        text: String,
    },
    /// A condition that never holds.
    Never {
        /// The condition.
        condition: String,
        /// Why.
        because: String,
        /// What was probably meant.
        hint: Option<String>,
    },
    /// A link to a sheet behind what is drawn.
    SheetLate {
        /// What it links.
        href: String,
        /// What stands before it.
        behind: String,
    },
    /// A second link to the same sheet.
    SheetAgain {
        /// What it links.
        href: String,
        /// The line of the first.
        line: u32,
    },
}

/// All elements of HTML, those that are obsolete and those that browsers know besides among them (HTML Standard, "Index").
const ELEMENTS: &str = " a abbr acronym address applet area article aside audio b base basefont bdi bdo bgsound big blink blockquote \
    body br button canvas caption center cite code col colgroup data datalist dd del details dfn dialog dir div dl dt em embed \
    fieldset figcaption figure font footer form frame frameset h1 h2 h3 h4 h5 h6 head header hgroup hr html i iframe image img \
    input ins isindex kbd keygen label legend li link listing main map mark marquee math menu menuitem meta meter multicol nav \
    nextid nobr noembed noframes noscript object ol optgroup option output p param picture plaintext pre progress q rb rbc rp rt \
    rtc ruby s samp script search section select selectedcontent slot small source spacer span strike strong style sub summary \
    sup svg table tbody td template textarea tfoot th thead time title tr track tt u ul var video wbr xmp ";

/// Those of SVG 2 and MathML Core, in lower case.
const FOREIGN: &str = " animate animatemotion animatetransform circle clippath defs desc ellipse feblend fecolormatrix \
    fecomponenttransfer fecomposite feconvolvematrix fediffuselighting fedisplacementmap fedistantlight fedropshadow feflood fefunca \
    fefuncb fefuncg fefuncr fegaussianblur feimage femerge femergenode femorphology feoffset fepointlight fespecularlighting \
    fespotlight fetile feturbulence filter foreignobject g line lineargradient marker mask metadata mpath path pattern polygon \
    polyline radialgradient rect set stop switch symbol text textpath tspan use view annotation maction maligngroup malignmark \
    merror mfrac mi mmultiscripts mn mo mover mpadded mphantom mprescripts mroot mrow ms mspace msqrt mstyle msub msubsup msup \
    mtable mtd mtext mtr munder munderover none semantics ";

/// Attributes that styles hang on.
const ATTRIBUTES: &[&str] = &["class", "style", "href", "media", "hidden"];
/// Attributes of programs and of HTML that are a letter away from these.
const OTHERS: &[&str] = &["ref", "classes", "styles", "hrefs"];

/// Whether there is an element of a name, in lower case.
pub(super) fn is_element(name: &str) -> bool {
    let spaced = format!(" {name} ");
    ELEMENTS.contains(&spaced) || FOREIGN.contains(&spaced)
}

/// The element that was probably meant.
pub(super) fn near_element(name: &str) -> Option<&'static str> {
    let slip = |near: &&str| strsim::damerau_levenshtein(name, near) == 1 && near.len() >= 4;
    near::nearest(name, ELEMENTS.split_ascii_whitespace()).filter(slip)
}

/// What is odd in a page.
pub(super) fn oddities(study: &Study) -> BTreeMap<Place, Oddity> {
    let mut found = BTreeMap::new();
    let mut linked: BTreeMap<(String, String, String), u32> = BTreeMap::new();
    let document = study.document();
    for element in document.all_elements().filter(|e| e.namespace == Namespace::Html) {
        let Some(at) = study.sources().place(element.span()) else { continue };
        let name = &*element.name;
        if element.tag.is_some()
            && !is_element(name)
            && !name.contains(['-', ':'])
            && let Some(near) = near_element(name)
        {
            found.insert(at.clone(), Oddity::Element { name: name.to_owned(), near: near.to_owned() });
        }
        // Elements of programs have attributes of their own, and frameworks mark theirs with signs: `:class`.
        let plain = |name: &str| name.bytes().all(|b| b.is_ascii_lowercase());
        for attribute in element.attributes.iter().filter(|a| plain(&a.name) && !name.contains('-')) {
            let name = &*attribute.name;
            let slip = |near: &&&str| strsim::damerau_levenshtein(name, near) == 1;
            let near = ATTRIBUTES.iter().find(slip).filter(|_| !OTHERS.contains(&name));
            if let (Some(near), Some(at)) = (near, study.sources().place(attribute.name_span)) {
                found.insert(at, Oddity::Attribute { name: name.to_owned(), near: (*near).to_owned() });
            }
        }
        if element.is_html("link") {
            if element.brings_sheet() {
                let shown = element.lineage().any(|e| e.is_html("body")).then(|| before(&element)).flatten();
                if let Some(behind) = shown {
                    let href = text::shorten(element.attribute("href").unwrap_or_default().trim(), 80);
                    found.insert(at.clone(), Oddity::SheetLate { href, behind });
                }
                let said = |name: &str| element.attribute(name).unwrap_or_default().trim().to_owned();
                let key = (said("href"), said("media"), said("title"));
                match linked.get(&key) {
                    Some(line) if !key.0.is_empty() => {
                        let href = text::shorten(&key.0, 80);
                        found.insert(at, Oddity::SheetAgain { href, line: *line });
                    }
                    _ => _ = linked.insert(key, at.line),
                }
            }
            continue;
        }
        if !QUOTING.contains(&name)
            && !element.lineage().any(|e| QUOTING.contains(&&*e.name))
            && let Some(rule) = element.children.iter().find_map(|child| match child {
                Child::Text(text) => css_in(text),
                Child::Element(_) => None,
            })
        {
            found.insert(at, Oddity::Css { text: text::shorten(rule, 80) });
        }
    }
    never(study, &mut found);
    found
}

/// What is drawn right before an element: among its siblings, or the element that it is in, the body aside.
fn before(element: &ElementRef<'_>) -> Option<String> {
    let none = ["script", "style", "link", "meta", "template", "noscript", "title", "base"];
    let drawn = |e: &ElementRef<'_>| !none.contains(&&*e.name);
    let around = element.parent()?;
    let sibling = around.child_elements().take_while(|e| e.id() != element.id()).filter(drawn).last();
    sibling.or_else(|| Some(around).filter(|e| !e.is_html("body"))).map(|e| e.label())
}

/// Conditions of sheets, and in them, that never hold, however a page is seen.
fn never(study: &Study, found: &mut BTreeMap<Place, Oddity>) {
    let mut take = |list: &MediaQueryList, span: Span| {
        if let (Some(never), Some(at)) = (list.never(), study.sources().place(span)) {
            let condition = text::shorten(&list.text, 80);
            found.insert(at, Oddity::Never { condition, because: never.because, hint: never.hint });
        }
    };
    for entry in study.page.sheets.iter().filter(|e| study.sources().get(e.sheet.source).is_some_and(is_of_page)) {
        if let Some(media) = entry.owner.and_then(|e| study.page.document.node(e).attribute_entry("media")) {
            take(&stylesheet::media::parse(Tokens::read(&media.value).all()), media.value_span);
        }
        for group in &entry.sheet.groups {
            if let GroupKind::Media(list) = &group.kind {
                take(list, group.span);
            }
        }
        entry.sheet.imports().for_each(|import| take(&import.media, import.span));
    }
}

/// Whether a source is the page's or a sheet of its own.
fn is_of_page(source: &Source) -> bool {
    matches!(source.kind, SourceKind::Page | SourceKind::Sheet)
}

/// Elements whose text is not read as text of the page, or may well be about CSS.
const QUOTING: &[&str] =
    &["script", "style", "pre", "code", "kbd", "samp", "textarea", "template", "title", "xmp", "noscript", "option"];

/// A rule in a text, with a selector and a declaration that counts: as far as its first brace is closed.
fn css_in(text: &str) -> Option<&str> {
    let open = text.find('{')?;
    let close = open + text[open..].find('}')?;
    let start = text[..open].trim_end().rfind(['\n', '}', ';']).map_or(0, |i| i + 1);
    let rest = &text[start..];
    let sheet = stylesheet::parse(&stylesheet::Input {
        text: rest.into(),
        map: OffsetMap::slice(SourceId::QUESTION, 0),
        quirks: false,
    });
    let counts = sheet.rules.iter().any(|rule| sheet.declarations(rule).iter().any(|d| is_set(d, &sheet)));
    counts.then(|| text[start..=close].trim())
}

/// Whether a declaration sets something that is no custom property.
fn is_set(declaration: &Declaration, sheet: &Stylesheet) -> bool {
    declaration.longhands(sheet).is_ok() && !declaration.name().starts_with("--")
}
