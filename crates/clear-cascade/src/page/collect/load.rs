//! From a URL to a parsed stylesheet.

use std::sync::Arc;

use bytes::Bytes;
use url::Url;

use super::{Collector, Fetched, Inside, Read};
use crate::limits::{DEEPEST_IMPORT, MOST_SHEETS};
use crate::source::{OffsetMap, Source, SourceKind, Span};
use crate::stylesheet::{self, NoteKind, Stylesheet};

impl Collector<'_> {
    /// Tells the loader of sheets that are loaded next.
    pub(super) fn prepare(&self, urls: impl Iterator<Item = Url>) {
        let urls: Vec<Url> = urls.collect();
        if urls.len() > 1 {
            self.loader.prepare(&urls);
        }
    }

    /// Loads a sheet by URL and takes it in. It is named at a place, and what it is named in has an encoding.
    pub(super) fn load(
        &mut self,
        href: &str,
        base: &Url,
        inside: &Inside,
        (place, encoding): (Span, &'static encoding_rs::Encoding),
    ) {
        let Ok(mut url) = base.join(href) else {
            return self.note(
                NoteKind::Sheet,
                place,
                format!("the sheet `{href}` could not be loaded: that is no URL"),
                None,
            );
        };
        url.set_fragment(None);
        if inside.chain.contains(&url) {
            return self.note(
                NoteKind::Sheet,
                place,
                format!("`{href}` imports itself in a circle; this import is dropped"),
                None,
            );
        }
        let too_many = if self.sheets.len() >= MOST_SHEETS {
            Some(format!("a page has at most {MOST_SHEETS} style sheets here"))
        } else {
            let deep = inside.chain.len() as u32 >= DEEPEST_IMPORT;
            deep.then(|| format!("imports nest more than {DEEPEST_IMPORT} deep here"))
        };
        if let Some(why) = too_many {
            return self.note(NoteKind::Sheet, place, format!("{why}; `{href}` is not loaded"), None);
        }
        let key = (url.clone(), encoding);
        let sheet = match self.parsed.linked.get(&key) {
            Some(found) => found.clone(),
            None => {
                let found = self.fetch(&url, (place, encoding));
                self.parsed.linked.insert(key, found.clone());
                found
            }
        };
        match sheet {
            Ok(sheet) => {
                let mut inside = inside.clone();
                inside.chain.push(url.clone());
                self.sheet(&sheet, &self.loader.found_at(&url), &inside);
            }
            Err(why) => {
                self.note(NoteKind::Sheet, place, format!("the sheet `{href}` could not be loaded: {why}"), None);
            }
        }
    }

    /// Reads a text of the page, or takes what was read of it before at the same place.
    pub(super) fn inside(
        &mut self,
        text: &str,
        map: OffsetMap,
        parse: fn(&stylesheet::Input) -> Stylesheet,
    ) -> Arc<Stylesheet> {
        let key = (map.at(0), Box::from(text));
        let sheet = match self.known.inside.get(&key) {
            Some(sheet) => sheet.clone(),
            None => Arc::new(parse(&stylesheet::Input { text: text.into(), map, quirks: self.quirks })),
        };
        self.parsed.inside.insert(key, sheet.clone());
        sheet
    }

    /// Gets the text behind a URL and parses it.
    fn fetch(&mut self, url: &Url, (place, encoding): (Span, &'static encoding_rs::Encoding)) -> Result<Read, String> {
        let key = ((url.clone(), encoding), self.quirks);
        let of_site = self.parsed.of_site.clone();
        let known = of_site.as_ref().and_then(|site| site.find(&key, self.sources));
        let (source, unknown) = match known {
            Some((fetched, true)) => {
                self.note_unknown(&fetched.source.name, fetched.unknown.as_deref(), place);
                return Ok(fetched.sheet.into());
            }
            Some((fetched, false)) => (Source::clone(&fetched.source), fetched.unknown),
            None => self.text_behind(url, encoding)?,
        };
        self.note_unknown(&source.name, unknown.as_deref(), place);
        let text = source.text.clone();
        let id = self.sources.add(source);
        let input = stylesheet::Input { text, map: OffsetMap::slice(id, 0), quirks: self.quirks };
        let sheet = Arc::new(stylesheet::parse(&input));
        if let (Some(site), Some(source)) = (of_site, self.sources.shared(id)) {
            site.keep(key, Fetched { source, sheet: sheet.clone(), unknown });
        }
        Ok(sheet.into())
    }

    /// Notes that a sheet came with an encoding that there is not.
    fn note_unknown(&mut self, name: &str, label: Option<&str>, place: Span) {
        if let Some(label) = label {
            self.note(NoteKind::Sheet, place, unknown_encoding(name, label), None);
        }
    }

    /// Gets the text behind a URL, and the encoding that it came with where there is no such encoding.
    fn text_behind(
        &self,
        url: &Url,
        encoding: &'static encoding_rs::Encoding,
    ) -> Result<(Source, Option<String>), String> {
        let (name, bytes, charset) = if url.scheme() == "data" {
            let (kind, bytes, charset) = data_url(url).ok_or("the data URL is broken")?;
            if !kind.to_ascii_lowercase().starts_with("text/css") {
                return Err(format!("its type `{kind}` is not `text/css`"));
            }
            (crate::text::shorten(url.as_str(), 40), bytes, charset)
        } else {
            let loaded = self.loader.load(url).map_err(|e| e.to_string())?;
            // In quirks mode a page's own site need not call a sheet one (HTML Standard, "Link type stylesheet").
            let own = self.quirks && url.origin() == self.site.origin();
            if let Some(kind) = &loaded.media_type
                && !kind.eq_ignore_ascii_case("text/css")
                && !own
            {
                return Err(format!("its type `{kind}` is not `text/css`"));
            }
            (loaded.name, loaded.bytes, loaded.charset)
        };
        let named = charset.as_deref().and_then(|c| encoding_rs::Encoding::for_label(c.as_bytes()));
        let hint = named.or_else(|| at_charset(&bytes));
        let source = Source::decode(name, &bytes, SourceKind::Sheet, hint.or(Some(encoding)));
        Ok((source, charset.filter(|_| named.is_none())))
    }
}

/// That an encoding is not known.
pub(crate) fn unknown_encoding(name: &str, label: &str) -> String {
    format!("`{name}` came with the encoding `{label}`, which does not exist; it was read as if none were named")
}

/// Media type, bytes and encoding of a data URL (Fetch Standard, "data: URL processor").
fn data_url(url: &Url) -> Option<(String, Bytes, Option<String>)> {
    let parsed = data_url::DataUrl::process(url.as_str()).ok()?;
    let kind = parsed.mime_type();
    let charset = kind.get_parameter("charset").map(str::to_owned);
    Some((format!("{}/{}", kind.type_, kind.subtype), parsed.decode_to_vec().ok()?.0.into(), charset))
}

/// The encoding of `@charset "…";` (CSS Syntax 3, §3.2): exactly these bytes at the very start.
fn at_charset(bytes: &[u8]) -> Option<&'static encoding_rs::Encoding> {
    let rest = bytes.strip_prefix(b"@charset \"")?;
    let end = rest.iter().take(1024).position(|b| *b == b'"')?;
    if rest.get(end + 1) != Some(&b';') {
        return None;
    }
    let found = encoding_rs::Encoding::for_label(&rest[..end])?;
    Some(if found == encoding_rs::UTF_16LE || found == encoding_rs::UTF_16BE { encoding_rs::UTF_8 } else { found })
}
