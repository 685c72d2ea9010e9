//! A page for a frame: as it is, with the stylesheets and small images that it has put into it, and nothing that loads or runs.

use base64::Engine as _;
use base64::engine::general_purpose::STANDARD;
use clear_cascade::Study;
use clear_cascade::document::{ElementRef, Namespace};
use clear_cascade::source::{SourceKind, Url};

use super::css::{Address, Told, told};
use crate::web::Web;

/// Which of its own styles the page has in the frame.
#[derive(Clone, Copy, PartialEq, Eq)]
pub(super) enum Styles {
    /// All.
    All,
    /// None: neither sheets nor `style` attributes.
    None,
}

/// What stands in the page for a sheet, with the number of its text behind it: the script puts the text there.
const SHEET: &str = "report-sheet:";

/// How deeply imports are put into one another.
const DEEPEST: usize = 8;

/// How many imports are put in for a page: a sheet that imports itself several times has no end.
const MOST_IMPORTS: usize = 200;

/// How many bytes of images its styles may put into a page.
const MOST_IMAGE_BYTES: usize = 500_000;

/// What else may be put in for a page.
struct Room {
    /// How many imports.
    imports: usize,
    /// How many bytes of images.
    image_bytes: usize,
}

/// What is put in comes from here.
#[derive(Clone, Copy)]
struct From<'s> {
    /// The page.
    study: &'s Study,
    /// Its files.
    loader: &'s Web,
}

/// The text of the page for a frame; `keep` takes the text of a sheet and gives its number. Each tag that is written carries the number of its element, and links to stylesheets carry the
/// sheets; without styles, sheets and `style` attributes are taken off.
pub(super) fn text(study: &Study, loader: &Web, styles: Styles, keep: &mut dyn FnMut(String) -> u32) -> String {
    let document = study.document();
    let Some(source) = study.sources().get(document.source()) else { return String::new() };
    let page = loader.page_url(&source.name);
    // Addresses are relative to the first `<base>` that has one (HTML Standard, "document base URL").
    let based = document.elements().find(|e| e.is_html("base") && e.attribute("href").is_some());
    let based = based.and_then(|e| page.as_ref()?.join(e.attribute("href")?.trim()).ok());
    let page = based.or(page);
    let mut room = Room { imports: MOST_IMPORTS, image_bytes: MOST_IMAGE_BYTES };
    let from = From { study, loader };
    let mut edits: Vec<(usize, usize, String)> = Vec::new();
    for element in document.all_elements() {
        let Some(tag) = element.tag.filter(|t| t.source == document.source()) else { continue };
        let name =
            source.text[tag.start as usize + 1..].find(|c: char| c.is_ascii_whitespace() || matches!(c, '>' | '/'));
        let after = tag.start as usize + 1 + name.unwrap_or_default();
        edits.push((after, after, format!(" data-element-number={}", element.id().number())));
        let style = &*element.name == "style" && matches!(element.namespace, Namespace::Html | Namespace::Svg);
        let sheet = element.is_html("link") && is_sheet(element.attribute("rel").unwrap_or_default());
        edits.push((after, after, kept_quiet(element, sheet).to_owned()));
        for attribute in &element.attributes {
            let (start, end) = (attribute.value_span.start as usize, attribute.value_span.end as usize);
            if start == end {
                continue;
            }
            let quoted = source.text[..start].ends_with(['"', '\'']);
            let mut put = |text: String| edits.push((start, end, if quoted { text } else { format!("\"{text}\"") }));
            let value = attribute.value.trim();
            match &*attribute.name {
                "href" if sheet => put(match (styles, &page) {
                    (Styles::All, Some(page)) => {
                        format!("{SHEET}{}", keep(sheet_text((page, value), from, 0, &mut room)))
                    }
                    _ => "data:text/css,".to_owned(),
                }),
                "src" if element.is_html("img") => put(image(page.as_ref(), value, loader).unwrap_or_default()),
                "srcset" if element.is_html("img") => put(String::new()),
                "media" if sheet || style => {
                    let on = styles == Styles::All && study.viewing().matches_media(value);
                    put(if on { "all" } else { "not all" }.to_owned());
                }
                "style" if styles == Styles::None => put(String::new()),
                "style" => {
                    if let Some(page) = &page
                        && let Some(text) = carried(page, value, from, 0, &mut room)
                    {
                        put(text.replace('&', "&amp;").replace('"', "&quot;").replace('\'', "&#39;"));
                    }
                }
                name if name.starts_with("on") => put(String::new()),
                _ => {}
            }
        }
        if styles == Styles::None && style && element.attribute("media").is_none() {
            edits.push((after, after, " media=\"not all\"".to_owned()));
        }
        if style && styles == Styles::All {
            let start = tag.end as usize;
            // It ends at the first end tag (HTML Standard, "raw text").
            let inside = source.text[start..].find("</").map(|end| &source.text[start..start + end]);
            if let (Some(page), Some(inside)) = (&page, inside)
                && let Some(text) = carried(page, inside, from, 0, &mut room)
            {
                edits.push((start, start + inside.len(), text));
            }
        }
    }
    edits.sort_by_key(|(start, end, _)| (*start, *end));
    with_edits(&source.text, edits)
}

/// Attributes that keep an element from loading or running anything: of two with one name the first counts.
fn kept_quiet(element: ElementRef<'_>, sheet: bool) -> &'static str {
    match &*element.name {
        "script" => " type=\"text/plain\" src=\"\"",
        "link" if !sheet => " rel=\"\"",
        "base" => " href=\"\" target=\"\"",
        "meta" if element.attribute("http-equiv").is_some() => " http-equiv=\"\"",
        "iframe" | "frame" => " src=\"\" srcdoc=\"\"",
        "object" => " data=\"\"",
        // Without scripts a browser would show it.
        "noscript" => " hidden",
        "embed" | "video" | "audio" | "source" | "track" => " src=\"\" srcset=\"\" poster=\"\"",
        _ => "",
    }
}

/// A text with ranges replaced, which are in order; of those that overlap the first.
fn with_edits(text: &str, edits: Vec<(usize, usize, String)>) -> String {
    let mut out = String::with_capacity(text.len() * 2);
    let mut at = 0;
    for (start, end, put_in) in edits {
        if start < at {
            continue;
        }
        out.push_str(&text[at..start]);
        out.push_str(&put_in);
        at = end;
    }
    out.push_str(&text[at..]);
    out
}

/// Whether a link is one to a stylesheet.
fn is_sheet(rel: &str) -> bool {
    rel.split_ascii_whitespace().any(|word| word.eq_ignore_ascii_case("stylesheet"))
}

/// The largest image that is put into the page, in bytes.
const LARGEST_IMAGE: usize = 200_000;

/// In the place of an image that is not put in: nothing is asked for.
const NO_IMAGE: &str = "data:,";

/// An image as data: one that is data already, or a small one of the site; of others, one that shows nothing. Nothing where the
/// address is of no image.
fn image(page: Option<&Url>, href: &str, loader: &Web) -> Option<String> {
    if href.starts_with("data:") {
        return Some(href.replace('"', "%22").replace('\'', "%27"));
    }
    let kinds = [
        ("png", "png"),
        ("jpg", "jpeg"),
        ("jpeg", "jpeg"),
        ("gif", "gif"),
        ("webp", "webp"),
        ("svg", "svg+xml"),
        ("avif", "avif"),
    ];
    let url = page?.join(href).ok()?;
    let end = url.path().rsplit('.').next().unwrap_or_default().to_ascii_lowercase();
    let (_, kind) = kinds.iter().find(|(name, _)| *name == end)?;
    let bytes = loader.bytes(&url).filter(|bytes| bytes.len() <= LARGEST_IMAGE);
    Some(bytes.map_or_else(|| NO_IMAGE.to_owned(), |bytes| data_url(&format!("image/{kind}"), &bytes)))
}

/// The text of a sheet with what it imports and its images put in as data, as far as there is room.
fn sheet_text((base, href): (&Url, &str), from: From<'_>, depth: usize, room: &mut Room) -> String {
    let Some(url) = base.join(href).ok().filter(|_| depth < DEEPEST) else { return String::new() };
    // A text that a trial edited is the newest of its name.
    let Some(name) = from.loader.name_of(&url) else { return String::new() };
    let sources = from.study.sources().iter().filter(|(_, s)| s.kind == SourceKind::Sheet && s.name == name);
    let Some((_, source)) = sources.last() else { return String::new() };
    carried(&url, &source.text, from, depth, room).unwrap_or_else(|| source.text.to_string())
}

/// The same of CSS whose addresses are relative to `base`; nothing where it stays as it is.
fn carried(base: &Url, text: &str, from: From<'_>, depth: usize, room: &mut Room) -> Option<String> {
    let mut address = |address: Address<'_>| match address {
        Address::Import(_) if room.imports == 0 => None,
        Address::Import(href) => {
            room.imports -= 1;
            Some(data_url("text/css", sheet_text((base, href), from, depth + 1, room).as_bytes()))
        }
        Address::Other(href) if href.starts_with("data:") || href.starts_with('#') => None,
        Address::Other(href) => {
            let image = image(Some(base), href, from.loader)?;
            let image = if image.len() <= room.image_bytes { image } else { NO_IMAGE.to_owned() };
            room.image_bytes -= image.len().min(room.image_bytes);
            Some(image)
        }
    };
    // The frame has the medium and the preferences of whoever reads it: what is asked about them is told as it is for the answers.
    let viewing = from.study.viewing();
    told(text, &mut Told { address: &mut address, matches: &|list| viewing.matches_media(list) })
}

/// Bytes as a URL.
fn data_url(kind: &str, bytes: &[u8]) -> String {
    format!("data:{kind};base64,{}", STANDARD.encode(bytes))
}
