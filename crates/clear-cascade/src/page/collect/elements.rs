//! What the elements of a page bring: `<style>`, `<link>`, `style` attributes and attributes that style; which sets of
//! alternate sheets there are.
//!
//! HTML Standard, "Links", "The style element"; CSSOM 1, §6.3.1.

use std::sync::Arc;

use rustc_hash::FxHashMap;
use url::Url;

use super::{Collector, Inside, Noted, Off, SheetEntry, Within};
use crate::cascade::Origin;
use crate::document::{Document, Element, ElementId, Namespace};
use crate::page::hints;
use crate::source::{OffsetMap, Span, offset};
use crate::stylesheet::{self, NoteKind, media::MediaQueryList};
use crate::syntax::Tokens;

/// What URLs of a page are relative to (HTML Standard, "document base URL").
pub(super) fn base_of(document: &Document, url: &Url) -> Url {
    let base = document.ids().find(|e| is_base(document, *e));
    base.map_or_else(|| url.clone(), |base| based_on(document, base, url))
}

/// Whether an element says what URLs are relative to.
fn is_base(document: &Document, id: ElementId) -> bool {
    let element = document.node(id);
    element.is_html("base") && element.attribute("href").is_some()
}

/// What a `<base>` says that URLs are relative to.
fn based_on(document: &Document, base: ElementId, url: &Url) -> Url {
    url.join(document.node(base).attribute("href").unwrap_or_default()).unwrap_or_else(|_| url.clone())
}

/// The elements of a page, and whether a `<base>` is met by each: a link is followed as it is met, when one behind it is not yet
/// known.
fn met_with_base(document: &Document) -> impl Iterator<Item = (ElementId, bool)> {
    document.all_ids().scan(false, |met, id| {
        *met |= is_base(document, id);
        Some((id, *met))
    })
}

/// The `<link>`s of a page that have a `href`, with what that is relative to, and the two together.
pub(crate) fn links<'d>(document: &'d Document, url: &'d Url) -> impl Iterator<Item = (&'d Element, Url, Url)> {
    let base = base_of(document, url);
    met_with_base(document).filter_map(move |(id, met)| {
        let element = document.node(id);
        let href = element.attribute("href").filter(|_| element.is_html("link"))?;
        let base = if met { &base } else { url };
        let mut address = base.join(href.trim()).ok()?;
        // A sheet is a resource, whatever part of it a link names.
        address.set_fragment(None);
        Some((element, base.clone(), address))
    })
}

/// An element whose attributes say how it looks.
#[derive(Clone, Debug)]
pub(crate) struct ByAttributes {
    /// The element.
    id: ElementId,
    /// What attributes other than `style` stand for, and where they are written.
    hints: Vec<(String, Span)>,
}

/// The elements whose attributes say how they look.
fn styled(document: &Document) -> impl Iterator<Item = ByAttributes> {
    let all = document.all_ids().map(|id| ByAttributes { id, hints: hints::of(document, id) });
    all.filter(|ByAttributes { id, hints }| !hints.is_empty() || document.node(*id).attribute("style").is_some())
}

/// Whether a link brings a sheet, whatever set of styles is chosen.
fn is_for_all(link: &Element) -> bool {
    link.brings_sheet() && ["disabled", "title"].iter().all(|name| link.attribute(name).is_none())
}

impl Collector<'_> {
    /// Takes in the sheets that a page names, in document order.
    pub(super) fn page(&mut self, document: &Document, url: &Url) {
        let base = base_of(document, url);
        let sheets = links(document, url).filter(|(link, ..)| is_for_all(link)).map(|(_, _, address)| address);
        self.prepare(sheets);
        for (id, met) in met_with_base(document) {
            let element = document.node(id);
            let style = &*element.name == "style" && matches!(element.namespace, Namespace::Html | Namespace::Svg);
            if style {
                self.style_element(document, id, &base);
            } else if element.is_html("link") {
                self.link_element(document, id, if met { &base } else { url });
            }
        }
    }

    /// Why a sheet with this `media` attribute is off.
    fn media_off(&mut self, document: &Document, id: ElementId) -> Option<Off> {
        let attribute = document.node(id).attribute_entry("media")?;
        self.off_for(&media_list(&attribute.value), attribute.value_span)
    }

    /// How the sheet is taken in that an element brings.
    fn brought(&mut self, document: &Document, id: ElementId) -> Inside {
        Inside {
            origin: Origin::Author,
            layer: 0,
            off: self.media_off(document, id),
            owner: Some(id),
            by_media: document.node(id).attribute("media").is_some_and(|media| !media_list(media).is_all()),
            chain: Vec::new(),
            tree: Some(document.node(id).tree),
        }
    }

    /// `<style>`
    fn style_element(&mut self, document: &Document, id: ElementId, base: &Url) {
        let element = document.node(id);
        if let Some(kind) = other_type(element) {
            let message = format!("this `<style>` is not used: its type `{kind}` is not `text/css`");
            return self.note(NoteKind::Sheet, document.span(id), message, Some("leave the type out".to_owned()));
        }
        if let Some(title) = self.unchosen_set(document, id) {
            let message =
                format!("this `<style>` is not used: it belongs to the set of styles \"{title}\", which is not chosen");
            return self.note(NoteKind::Unchosen, document.span(id), message, None);
        }
        let Some((_, map, text)) = document.texts.iter().find(|(e, map, _)| *e == id && map.source == document.source)
        else {
            return;
        };
        let sheet = self.inside(text, map.clone(), stylesheet::parse);
        let inside = self.brought(document, id);
        self.sheet(&sheet.into(), base, &inside);
    }

    /// `<link rel=stylesheet>`
    fn link_element(&mut self, document: &Document, id: ElementId, base: &Url) {
        let element = document.node(id);
        let href = element.attribute("href").unwrap_or_default().trim();
        let span = document.span(id);
        if !element.brings_sheet() {
            let rel = element.attribute("rel").unwrap_or_default().to_ascii_lowercase();
            let words: Vec<&str> = rel.split_ascii_whitespace().collect();
            let near = words.iter().any(|w| strsim::damerau_levenshtein(w, "stylesheet") <= 2);
            if near || (words.is_empty() && href.ends_with(".css")) {
                let message = format!("the sheet `{href}` is not used: `rel` is `{rel}`, not `stylesheet`");
                self.note(NoteKind::Sheet, span, message, Some("write rel=\"stylesheet\"".to_owned()));
            }
            return;
        }
        if let Some(kind) = other_type(element) {
            let message = format!("the sheet `{href}` is not used: its type `{kind}` is not `text/css`");
            return self.note(NoteKind::Sheet, span, message, None);
        }
        if href.is_empty() {
            return self.note(
                NoteKind::Sheet,
                span,
                "this `<link>` loads nothing: its `href` is missing or empty".to_owned(),
                None,
            );
        }
        if element.attribute("disabled").is_some() {
            return self.note(
                NoteKind::Unchosen,
                span,
                format!("the sheet `{href}` is not used: its `<link>` is `disabled`"),
                None,
            );
        }
        if is_alternate(element) && element.attribute("title").is_none_or(str::is_empty) {
            let message = format!(
                "the sheet `{href}` is not used: an alternate sheet without a `title` belongs to no set of styles"
            );
            return self.note(NoteKind::Unchosen, span, message, Some("write a title".to_owned()));
        }
        if let Some(title) = self.unchosen_set(document, id) {
            let message = format!(
                "the sheet `{href}` is not used: it belongs to the set of styles \"{title}\", which is not chosen"
            );
            return self.note(NoteKind::Unchosen, span, message, None);
        }
        let inside = self.brought(document, id);
        let place = element.attribute_entry("href").map_or(span, |a| a.value_span);
        // A sheet that says nothing else is in the encoding of its link, else of the page (HTML Standard, "Link type
        // stylesheet").
        let charset = element.attribute("charset").and_then(|c| encoding_rs::Encoding::for_label(c.as_bytes()));
        let encoding = charset.unwrap_or_else(|| self.sources.at(document.source).decoder());
        self.load(href, base, &inside, (place, encoding));
    }

    /// The title of the set that a sheet belongs to, where that set is not chosen (CSSOM 1, §6.3.1 "preferred CSS style
    /// sheet set").
    fn unchosen_set(&self, document: &Document, id: ElementId) -> Option<String> {
        let (title, _) = title_of(document, id)?;
        let chosen = match self.alternate {
            Some(chosen) => Some(chosen.to_owned()),
            None => preferred(document),
        };
        (chosen.as_deref() != Some(&*title)).then_some(title)
    }

    /// Takes in presentational hints and `style` attributes.
    pub(super) fn own_styles(&mut self, document: &Document, base: &Url, own: &mut Vec<(ElementId, u32)>) {
        let styled = self.parsed.styled.clone().unwrap_or_else(|| styled(document).collect());
        self.parsed.styled = Some(styled.clone());
        let decoded = document.texts.iter().filter(|(id, ..)| &*document.node(*id).name != "style");
        let decoded: FxHashMap<ElementId, &OffsetMap> = decoded.map(|(id, map, _)| (*id, map)).collect();
        for ByAttributes { id, hints } in &*styled {
            let element = document.node(*id);
            for (text, span) in hints {
                let map = OffsetMap::steps(document.source, vec![(0, span.start)]);
                self.own_sheet(text, map, Origin::PresentationalHint, (*id, element.tree), base, own);
            }
            if let Some(style) = element.attribute_entry("style") {
                let plain = || OffsetMap::slice(document.source, style.value_span.start);
                let map = decoded.get(id).map_or_else(plain, |map| (*map).clone());
                self.own_sheet(&style.value, map, Origin::Author, (*id, element.tree), base, own);
            }
        }
    }

    /// Takes in the declarations of one element.
    fn own_sheet(
        &mut self,
        text: &str,
        map: OffsetMap,
        origin: Origin,
        (id, tree): (ElementId, u32),
        base: &Url,
        own: &mut Vec<(ElementId, u32)>,
    ) {
        let attached = origin == Origin::Author;
        let sheet = self.inside(text, map, stylesheet::parse_style_attribute);
        if attached {
            self.notes.push(Noted::In(sheet.clone(), 0..0));
        }
        let number = offset(self.sheets.len());
        let within = Arc::new(Within { attached, ..Within::new(origin, Some(tree)) });
        for index in 0..offset(sheet.rules.len()) {
            own.push((id, offset(self.pending.len())));
            self.rule((number, index), within.clone());
        }
        self.sheets.push(SheetEntry { sheet, base: base.clone(), owner: Some(id), by_media: false });
    }
}

/// The title of the set of sheets that counts unless another is chosen: the one that `<meta http-equiv=default-style>`
/// names, else that of the first sheet with a title that is no alternate one (HTML Standard, "Default style"; CSSOM 1, §6.3.1).
fn preferred(document: &Document) -> Option<String> {
    let meta = document.light().iter().filter(|e| e.is_html("meta"));
    let meta = meta.filter(|e| e.attribute("http-equiv").is_some_and(|h| h.eq_ignore_ascii_case("default-style")));
    let named = meta.filter_map(|e| e.attribute("content")).rfind(|c| !c.is_empty());
    let first = || document.ids().filter_map(|e| title_of(document, e)).find(|(_, a)| !a).map(|(t, _)| t);
    named.map(str::to_owned).or_else(first)
}

/// The title of a sheet and whether it is an alternate one; nothing for sheets without a title, which always count.
fn title_of(document: &Document, id: ElementId) -> Option<(String, bool)> {
    let element = document.node(id);
    let loads = || {
        element.attribute("disabled").is_none() && element.attribute("href").is_some_and(|href| !href.trim().is_empty())
    };
    let sheet = element.is_html("style") || (element.brings_sheet() && loads());
    let sheet = sheet && other_type(element).is_none();
    let title = element.attribute("title").filter(|t| sheet && !t.is_empty() && element.tree == 0)?;
    Some((title.to_owned(), is_alternate(element)))
}

/// Whether a link says that what it brings is an alternate sheet. Without a title browsers use none.
fn is_alternate(element: &Element) -> bool {
    let rel = element.attribute("rel").unwrap_or_default();
    element.is_html("link") && rel.split_ascii_whitespace().any(|word| word.eq_ignore_ascii_case("alternate"))
}

/// The type of a `<style>` or `<link>` that says it is no CSS (HTML Standard, "update a `style` block", "Link type stylesheet").
fn other_type(element: &Element) -> Option<&str> {
    let kind = element.attribute("type").unwrap_or_default();
    // Only that of a link may have parameters.
    let kind = match element.is_html("link") {
        true => kind.split(';').next().unwrap_or_default().trim(),
        false => kind,
    };
    Some(kind).filter(|kind| !kind.is_empty() && !kind.eq_ignore_ascii_case("text/css"))
}

/// The titles of a page's sets of styles, the preferred one first.
pub(crate) fn titles(document: &Document) -> Vec<String> {
    let mut found: Vec<(String, bool)> = document.ids().filter_map(|e| title_of(document, e)).collect();
    let preferred = preferred(document);
    found.sort_by_key(|(title, alternate)| (preferred.as_ref() != Some(title), *alternate));
    let mut titles: Vec<String> = found.into_iter().map(|(t, _)| t).collect();
    let mut seen = std::collections::HashSet::new();
    titles.retain(|t| seen.insert(t.clone()));
    titles
}

/// What a `media` attribute says.
fn media_list(value: &str) -> MediaQueryList {
    stylesheet::media::parse(Tokens::read(value).all())
}
