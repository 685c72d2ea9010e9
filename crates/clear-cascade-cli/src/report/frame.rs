//! A page for a frame: as it is, with the stylesheets and small images that it has put into it, and nothing that loads or runs.

use base64::Engine as _;
use base64::engine::general_purpose::STANDARD;
use clear_cascade::Study;
use clear_cascade::source::{SourceKind, Url};

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
    let mut left = MOST_IMPORTS;
    let mut edits: Vec<(usize, usize, String)> = Vec::new();
    for element in document.all_elements() {
        let Some(tag) = element.tag.filter(|t| t.source == document.source()) else { continue };
        let name =
            source.text[tag.start as usize + 1..].find(|c: char| c.is_ascii_whitespace() || matches!(c, '>' | '/'));
        let after = tag.start as usize + 1 + name.unwrap_or_default();
        edits.push((after, after, format!(" data-element-number={}", element.id().number())));
        let sheet = element.is_html("link") && is_sheet(element.attribute("rel").unwrap_or_default());
        // Of two attributes with one name the first counts: what would load or run is told otherwise before it can.
        let first = match &*element.name {
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
        };
        edits.push((after, after, first.to_owned()));
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
                        format!("{SHEET}{}", keep(sheet_text((page, value), (study, loader), 0, &mut left)))
                    }
                    _ => "data:text/css,".to_owned(),
                }),
                "src" if element.is_html("img") => put(image(page.as_ref(), value, loader)),
                "srcset" if element.is_html("img") => put(String::new()),
                "media" if styles == Styles::None && element.is_html("style") => put("not all".to_owned()),
                "style" if styles == Styles::None => put(String::new()),
                name if name.starts_with("on") => put(String::new()),
                _ => {}
            }
        }
        if styles == Styles::None && element.is_html("style") && element.attribute("media").is_none() {
            edits.push((after, after, " media=\"not all\"".to_owned()));
        }
    }
    edits.sort_by_key(|(start, end, _)| (*start, *end));
    let mut out = String::with_capacity(source.text.len() * 2);
    let mut at = 0;
    for (start, end, text) in edits {
        if start < at {
            continue;
        }
        out.push_str(&source.text[at..start]);
        out.push_str(&text);
        at = end;
    }
    out.push_str(&source.text[at..]);
    out
}

/// Whether a link is one to a stylesheet.
fn is_sheet(rel: &str) -> bool {
    rel.split_ascii_whitespace().any(|word| word.eq_ignore_ascii_case("stylesheet"))
}

/// The largest image that is put into the page, in bytes.
const LARGEST_IMAGE: usize = 200_000;

/// An image as data: one that is data already, or a small one of the site; nothing of all others.
fn image(page: Option<&Url>, href: &str, loader: &Web) -> String {
    if href.starts_with("data:") {
        return href.replace('"', "%22").replace('\'', "%27");
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
    let Some(url) = page.and_then(|page| page.join(href).ok()) else { return String::new() };
    let end = url.path().rsplit('.').next().unwrap_or_default().to_ascii_lowercase();
    let Some((_, kind)) = kinds.iter().find(|(name, _)| *name == end) else { return String::new() };
    let bytes = loader.bytes(&url).filter(|bytes| bytes.len() <= LARGEST_IMAGE);
    bytes.map(|bytes| data_url(&format!("image/{kind}"), &bytes)).unwrap_or_default()
}

/// The text of a sheet with those that it imports put in as data, as many as are `left`.
fn sheet_text((base, href): (&Url, &str), (study, loader): (&Study, &Web), depth: usize, left: &mut usize) -> String {
    let Some(url) = base.join(href).ok().filter(|_| depth < DEEPEST) else { return String::new() };
    // A text that a trial edited is the newest of its name.
    let Some(name) = loader.name_of(&url) else { return String::new() };
    let sources = study.sources().iter().filter(|(_, s)| s.kind == SourceKind::Sheet && s.name == name);
    let Some((_, source)) = sources.last() else { return String::new() };
    let mut out = String::with_capacity(source.text.len());
    let mut rest = &*source.text;
    while let Some(at) = rest.find("@import") {
        let (before, after) = rest.split_at(at);
        out.push_str(before);
        let behind = after["@import".len()..].trim_start();
        let inner = behind.strip_prefix("url(").map_or(behind, str::trim_start);
        let quote = inner.chars().next().filter(|c| matches!(c, '"' | '\''));
        let target = match quote {
            Some(quote) => inner[1..].split(quote).next().unwrap_or_default(),
            None => inner.split([')', ';', ' ']).next().unwrap_or_default(),
        };
        let start = after.len() - inner.len() + usize::from(quote.is_some());
        let end = start + target.len();
        if target.is_empty() || *left == 0 {
            out.push_str("@import");
            rest = &after["@import".len()..];
            continue;
        }
        *left -= 1;
        let text = sheet_text((&url, target), (study, loader), depth + 1, left);
        out.push_str(&after[..start]);
        out.push_str(&data_url("text/css", text.as_bytes()));
        rest = &after[end..];
    }
    out.push_str(rest);
    out
}

/// Bytes as a URL.
fn data_url(kind: &str, bytes: &[u8]) -> String {
    format!("data:{kind};base64,{}", STANDARD.encode(bytes))
}
