//! What was kept of pages: what this program fetched, and pages saved in one file (MHTML, RFC 2557; HTTP Archive 1.2).

use std::collections::HashSet;
use std::fs;
use std::path::{Path, PathBuf};
use std::sync::atomic::{AtomicBool, Ordering};
use std::sync::{Mutex, PoisonError};

use base64::Engine as _;
use clear_cascade::source::Loaded;
use mail_parser::{MessageParser, MimeHeaders as _, PartType};
use serde::{Deserialize, Serialize};
use sha2::{Digest as _, Sha256};
use url::Url;

use crate::failure::Refusal;
use crate::files;

/// The file that tells which URL each kept file was at.
const LIST: &str = "fetched.json";
/// The scheme of what is relative to nothing but the message that it is in (RFC 2557, §5).
const NOWHERE: &str = "thismessage";
/// How long the name of a kept file may be.
const LONGEST_NAME: usize = 80;

/// A file that was fetched and kept.
#[derive(Clone, Serialize, Deserialize)]
struct Kept {
    /// Where it was.
    url: Url,
    /// Where it is in the folder.
    file: String,
    /// The `Content-Type` header that came with it.
    content_type: String,
}

/// A folder in which what is fetched is kept.
pub(crate) struct Store {
    /// The folder.
    folder: PathBuf,
    /// What is in it, the page first.
    list: Mutex<Vec<Kept>>,
    /// Whether something was kept since it was opened.
    begun: AtomicBool,
}

impl Store {
    /// A folder, with what it keeps already.
    pub(crate) fn new(folder: &Path) -> Result<Self, Refusal> {
        let refused = |e: std::io::Error| Refusal::new(format!("`{}` cannot be made: {e}", folder.display()));
        fs::create_dir_all(folder).map_err(refused)?;
        let list = if folder.join(LIST).is_file() { listed(folder)? } else { Vec::new() };
        Ok(Self { folder: folder.to_owned(), list: Mutex::new(list), begun: AtomicBool::new(false) })
    }

    /// Keeps what was loaded from a URL, which from then on is shown by its file.
    pub(crate) fn keep_loaded(&self, url: &Url, loaded: &mut Loaded) -> Result<(), Refusal> {
        let charset = loaded.charset.as_ref().map(|charset| format!("; charset={charset}")).unwrap_or_default();
        let kind = format!("{}{charset}", loaded.media_type.as_deref().unwrap_or_default());
        loaded.name = self.keep(url, &kind, &loaded.bytes).map_err(Refusal::new)?;
        Ok(())
    }

    /// Keeps what is at a URL; gives the path of the file, or why it cannot be kept.
    pub(crate) fn keep(&self, url: &Url, content_type: &str, bytes: &[u8]) -> Result<String, String> {
        let mut list = self.list.lock().unwrap_or_else(PoisonError::into_inner);
        let mut file = file_name(url);
        if list.iter().any(|kept| kept.file == file && kept.url != *url) {
            file = format!("{file}_{}", digest(url.as_str()));
        }
        let path = self.folder.join(&file);
        let folder = path.parent().unwrap_or(&self.folder);
        let unkept = |why: String| format!("it cannot be kept: {why}");
        fs::create_dir_all(folder).map_err(|e| unkept(e.to_string()))?;
        files::write(&path, bytes).map_err(|refusal| unkept(refusal.message))?;
        let kept = Kept { url: url.clone(), file, content_type: content_type.to_owned() };
        list.retain(|known| known.url != kept.url);
        // What is fetched first is the page that is asked about.
        let place = if self.begun.swap(true, Ordering::Relaxed) { list.len() } else { 0 };
        list.insert(place, kept);
        let text = serde_json::to_string_pretty(&*list).unwrap_or_default();
        files::write(&self.folder.join(LIST), format!("{text}\n").as_bytes()).map_err(|r| unkept(r.message))?;
        Ok(path.display().to_string())
    }
}

/// Whether a media type is one of pages.
pub(crate) fn is_page(content_type: &str) -> bool {
    let kind = content_type.split(';').next().unwrap_or_default().trim().to_ascii_lowercase();
    matches!(&*kind, "text/html" | "application/xhtml+xml")
}

/// A few letters that tell a text from others.
fn digest(text: &str) -> String {
    Sha256::digest(text).iter().take(4).map(|byte| format!("{byte:02x}")).collect()
}

/// Where what is at a URL is kept: by its host, then by its path.
fn file_name(url: &Url) -> String {
    let plain = |part: &str| {
        let decoded = percent_encoding::percent_decode_str(part).decode_utf8_lossy().into_owned();
        let keep = |c: char| if c.is_alphanumeric() || "._-~".contains(c) { c } else { '_' };
        let mut name: String = decoded.chars().map(keep).collect();
        if name.starts_with('.') {
            name.insert(0, '_');
        }
        if name.len() > LONGEST_NAME {
            let start: String = name.chars().take(LONGEST_NAME / 4).collect();
            name = format!("{start}_{}", digest(&name));
        }
        name
    };
    let host = url.host_str().unwrap_or("page");
    let host = plain(&url.port().map_or_else(|| host.to_owned(), |port| format!("{host}_{port}")));
    let mut parts = vec![host];
    parts.extend(url.path().split('/').filter(|part| !part.is_empty()).map(plain));
    if url.path().ends_with('/') {
        parts.push("index.html".to_owned());
    }
    let name = parts.join("/");
    match url.query() {
        Some(query) => format!("{name}_{}", plain(query)),
        None => name,
    }
}

/// A page that was kept, with what belongs to it.
pub(crate) struct Saved {
    /// Where the page was.
    pub(crate) page: Url,
    /// What is there, by URL.
    pub(crate) parts: Vec<(Url, Loaded)>,
}

/// The kept page that a path names; nothing where it is a plain file or folder.
pub(crate) fn of(path: &Path) -> Result<Option<Saved>, Refusal> {
    if path.is_dir() {
        return if path.join(LIST).is_file() { in_folder(path, None).map(Some) } else { Ok(None) };
    }
    let end = path.extension().map(|e| e.to_string_lossy().to_ascii_lowercase());
    match end.as_deref() {
        Some("mhtml" | "mht") => mhtml(path).map(Some),
        Some("har") => archive(path).map(Some),
        _ => {
            // One of the files of a folder with a list.
            let top = path.ancestors().skip(1).find(|folder| folder.join(LIST).is_file());
            let Some(top) = top else { return Ok(None) };
            let of_list = path.strip_prefix(top).ok().map(|file| file.to_string_lossy().replace('\\', "/"));
            let named = of_list.filter(|file| listed(top).is_ok_and(|list| list.iter().any(|k| k.file == *file)));
            named.map(|file| in_folder(top, Some(&file))).transpose()
        }
    }
}

/// What the list of a folder says.
fn listed(folder: &Path) -> Result<Vec<Kept>, Refusal> {
    let file = folder.join(LIST);
    let bytes = files::bytes(&file)?;
    let broken =
        |e: serde_json::Error| Refusal::new(format!("`{}` is no list of what was fetched: {e}", file.display()));
    serde_json::from_slice(&bytes).map_err(broken)
}

/// A page of a folder with a list: the first, or the one in a file.
fn in_folder(folder: &Path, page: Option<&str>) -> Result<Saved, Refusal> {
    let list = listed(folder)?;
    let first = list.iter().find(|kept| page.is_none_or(|file| kept.file == file));
    let Some(first) = first else {
        return Err(Refusal::new(format!("`{}` lists no page", folder.join(LIST).display())));
    };
    let top = fs::canonicalize(folder).unwrap_or_else(|_| folder.to_owned());
    let inside = |kept: &&Kept| fs::canonicalize(folder.join(&kept.file)).is_ok_and(|full| full.starts_with(&top));
    let mut parts = Vec::new();
    for kept in list.iter().filter(inside) {
        let file = folder.join(&kept.file);
        let loaded = Loaded::new(file.display().to_string(), files::bytes(&file)?);
        parts.push((kept.url.clone(), loaded.content_type(&kept.content_type)));
    }
    Ok(Saved { page: first.url.clone(), parts })
}

/// What a part of a file is shown by: the file, then its path on the site of the page.
fn part_name(file: &Path, page: &Url, url: &Url) -> String {
    let shown = file.display();
    let path = percent_encoding::percent_decode_str(url.path()).decode_utf8_lossy();
    let query = url.query().map(|q| format!("?{q}")).unwrap_or_default();
    let name = match url.host_str() {
        Some(host) if url.origin() != page.origin() => format!("{shown}/{host}{path}{query}"),
        Some(_) => format!("{shown}{path}{query}"),
        None if url.scheme() == NOWHERE => format!("{shown}{path}"),
        None => format!("{shown}/{url}"),
    };
    name.trim_end_matches('/').to_owned()
}

/// A page saved as MHTML (RFC 2557): the first HTML part, and the others by their `Content-Location` and `Content-ID`.
fn mhtml(file: &Path) -> Result<Saved, Refusal> {
    let bytes = files::bytes(file)?;
    let refused = |why: &str| Refusal::new(format!("`{}` is no saved page: {why}", file.display()));
    let message = MessageParser::default().parse(&bytes).ok_or_else(|| refused("it has no MIME headers (RFC 2557)"))?;
    // Relative locations are relative to this where there is no other base (RFC 2557, §5).
    let nowhere = Url::parse(&format!("{NOWHERE}:/")).map_err(|_| refused("it is nowhere"))?;
    let base = message.content_location().and_then(|l| nowhere.join(l).ok()).unwrap_or(nowhere);
    let mut page = None;
    let mut found: Vec<(Url, String, Vec<u8>)> = Vec::new();
    for part in &message.parts {
        let (bytes, decoded) = match &part.body {
            PartType::Text(text) | PartType::Html(text) => (text.as_bytes().to_vec(), true),
            PartType::Binary(bytes) | PartType::InlineBinary(bytes) => (bytes.to_vec(), false),
            PartType::Message(_) | PartType::Multipart(_) => continue,
        };
        let kind = part.content_type().map(|kind| match kind.subtype() {
            Some(subtype) => format!("{}/{subtype}", kind.ctype()),
            None => kind.ctype().to_owned(),
        });
        let kind = kind.unwrap_or_else(|| "text/plain".to_owned());
        let charset = if decoded { "; charset=utf-8" } else { "" };
        let location = part.content_location().and_then(|location| base.join(location).ok());
        let id = part.content_id().and_then(|id| Url::parse(&format!("cid:{id}")).ok());
        let is_first = page.is_none() && is_page(&kind);
        if is_first {
            page = Some(location.clone().or_else(|| id.clone()).unwrap_or_else(|| base.clone()));
        }
        let urls: HashSet<Url> = location.into_iter().chain(id).chain(page.clone().filter(|_| is_first)).collect();
        found.extend(urls.into_iter().map(|url| (url, format!("{kind}{charset}"), bytes.clone())));
    }
    let page = page.ok_or_else(|| refused("none of its parts is `text/html`"))?;
    let named = |(url, kind, bytes): (Url, String, Vec<u8>)| {
        let loaded = Loaded::new(part_name(file, &page, &url), bytes).content_type(&kind);
        (url, loaded)
    };
    Ok(Saved { parts: found.into_iter().map(named).collect(), page })
}

/// An HTTP Archive 1.2, as far as it is needed.
#[derive(Deserialize)]
struct Archive {
    /// All of it.
    log: Log,
}

/// What was exchanged.
#[derive(Deserialize)]
struct Log {
    /// In the order of time.
    #[serde(default)]
    entries: Vec<Exchange>,
}

/// A request and its response.
#[derive(Deserialize)]
struct Exchange {
    /// What was asked for.
    request: Request,
    /// What came.
    response: Response,
}

/// What was asked for.
#[derive(Deserialize)]
struct Request {
    /// The URL.
    url: String,
}

/// What came.
#[derive(Deserialize)]
#[serde(rename_all = "camelCase")]
struct Response {
    /// The status.
    status: u16,
    /// The body.
    #[serde(default)]
    content: Content,
}

/// A body.
#[derive(Default, Deserialize)]
#[serde(rename_all = "camelCase")]
struct Content {
    /// The `Content-Type` header.
    #[serde(default)]
    mime_type: String,
    /// The text.
    #[serde(default)]
    text: Option<String>,
    /// `base64` where the text is bytes in that encoding.
    #[serde(default)]
    encoding: Option<String>,
}

/// A page out of an HTTP Archive: the first HTML page that came.
fn archive(file: &Path) -> Result<Saved, Refusal> {
    let bytes = files::bytes(file)?;
    let bytes = bytes.strip_prefix(b"\xef\xbb\xbf").unwrap_or(&bytes);
    let refused = |why: String| Refusal::new(format!("`{}` is no HTTP Archive: {why}", file.display()));
    let archive: Archive = serde_json::from_slice(bytes).map_err(|e| refused(e.to_string()))?;
    let mut found: Vec<(Url, String, Vec<u8>)> = Vec::new();
    for Exchange { request, response } in archive.log.entries {
        let Some(text) = response.content.text.filter(|_| (200..300).contains(&response.status)) else { continue };
        let kind = response.content.mime_type;
        let (kind, bytes) = match response.content.encoding.as_deref() {
            Some("base64") => match base64::engine::general_purpose::STANDARD.decode(text.trim()) {
                Ok(bytes) => (kind, bytes),
                Err(_) => continue,
            },
            // The text is decoded already, whatever it was encoded in before.
            _ => (format!("{}; charset=utf-8", kind.split(';').next().unwrap_or_default()), text.into_bytes()),
        };
        let Ok(mut url) = Url::parse(&request.url) else { continue };
        url.set_fragment(None);
        found.push((url, kind, bytes));
    }
    let page = found.iter().find(|(_, kind, _)| is_page(kind)).map(|(url, ..)| url.clone());
    let page = page.ok_or_else(|| {
        Refusal::new(format!("no HTML page is in `{}`: archives can be saved without the contents", file.display()))
    })?;
    let named = |(url, kind, bytes): (Url, String, Vec<u8>)| {
        let loaded = Loaded::new(part_name(file, &page, &url), bytes).content_type(&kind);
        (url, loaded)
    };
    Ok(Saved { parts: found.into_iter().map(named).collect(), page })
}
