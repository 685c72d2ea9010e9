//! Texts and places in them.
//!
//! What comes in: bytes of pages and stylesheets. What goes out: decoded text in a table of [`Sources`], [`Span`]s into
//! it, and, at the edge only, [`Place`]s with line and column. Nothing here knows HTML or CSS.

mod loader;
mod place;

/// Bytes that many share: the type of the crate `bytes`.
pub use bytes::Bytes;
/// A text that many share: the type of the crate `bytestring`.
pub use bytestring::ByteString;
/// An absolute URL, as loaders are asked for: the type of the crate `url`.
pub use url::Url;

pub use loader::{FileLoader, LoadError, Loaded, Loader, MemoryLoader};
pub(crate) use place::keys;
pub use place::{NoPlace, Place};

use std::num::NonZero;
use std::sync::{Arc, LazyLock, OnceLock};

/// The address that a page's site is taken to have, for URLs that are made absolute.
pub const SITE: &str = "http://site.test/";

/// [`SITE`] as a URL.
pub(crate) fn site() -> url::Url {
    match url::Url::parse(SITE) {
        Ok(url) => url,
        Err(_) => unreachable!("the address of the site is a URL"),
    }
}

/// Which text of which page: ids come from the [`Sources`] of a study, and those of another page are refused, but for texts that
/// both pages have, such as browser defaults and the sheets of a [`Site`](crate::Site).
///
/// ```
/// # use clear_cascade::{MemoryLoader, Study};
/// # let files = MemoryLoader::default().with(
/// #     "a.html",
/// #     "<!DOCTYPE html><style>p { color: navy; margin: 1px } .lead { color: gold } p::before { content: '*' } b { widht: 2px; width: 3px }
/// #     @media print { p { color: black } }</style><body><p id=one class=lead>Hello <b>you</b></p><p id=two>Bye</p></body>",
/// # );
/// # let page = Study::open(&files, "a.html")?;
/// let id = page.document().source();
/// assert_eq!(page.sources().get(id).map(|source| source.name.as_str()), Some("a.html"));
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct SourceId(NonZero<u32>);

impl SourceId {
    /// The bits that tell the tables apart; those above are the number of the text, so that texts are in order though they be of
    /// several tables.
    const MARK: u32 = 12;

    /// The id of the text at an index of the table with a mark.
    fn of(index: usize, mark: u32) -> Self {
        let most = (1 << (u32::BITS - Self::MARK)) - 1;
        Self(NonZero::<u32>::MIN.saturating_add(offset(index).min(most) << Self::MARK | mark))
    }

    /// The id of a text that came with a question, as a selector does: it is in no table, and spans in it are offsets in that text.
    pub const QUESTION: Self = Self(NonZero::<u32>::MAX);

    /// The index in its table.
    fn index(self) -> usize {
        ((self.0.get() - 1) >> Self::MARK) as usize
    }
}

/// A range of a source: bytes of the decoded text, from 0, end excluded.
///
/// ```
/// # use clear_cascade::{MemoryLoader, Study};
/// # let files = MemoryLoader::default().with(
/// #     "a.html",
/// #     "<!DOCTYPE html><style>p { color: navy; margin: 1px } .lead { color: gold } p::before { content: '*' } b { widht: 2px; width: 3px }
/// #     @media print { p { color: black } }</style><body><p id=one class=lead>Hello <b>you</b></p><p id=two>Bye</p></body>",
/// # );
/// # let page = Study::open(&files, "a.html")?;
/// let p = page.select("#two")?[0];
/// let span = page.document().element(p)?.span();
/// assert_eq!(page.sources().text(span), Some("<p id=two>"));
/// assert_eq!((span.end - span.start), 10); // Bytes.
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub struct Span {
    /// The text it is a part of.
    pub source: SourceId,
    /// First byte.
    pub start: u32,
    /// The byte after the last.
    pub end: u32,
}

/// What a source is to the page.
///
/// ```
/// # use clear_cascade::{MemoryLoader, Study};
/// # let files = MemoryLoader::default().with(
/// #     "a.html",
/// #     "<!DOCTYPE html><style>p { color: navy; margin: 1px } .lead { color: gold } p::before { content: '*' } b { widht: 2px; width: 3px }
/// #     @media print { p { color: black } }</style><body><p id=one class=lead>Hello <b>you</b></p><p id=two>Bye</p></body>",
/// # );
/// # let page = Study::open(&files, "a.html")?;
/// use clear_cascade::source::SourceKind;
/// let kinds: Vec<_> = page.sources().iter().map(|(_, source)| source.kind).collect();
/// assert!(kinds.contains(&SourceKind::Page) && kinds.contains(&SourceKind::Defaults));
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub enum SourceKind {
    /// The HTML page itself.
    Page,
    /// A stylesheet that the page names.
    Sheet,
    /// The stylesheet of browser defaults.
    Defaults,
    /// A stylesheet of the user.
    User,
    /// Text given with the question: a selector or a declaration.
    Question,
}

/// One text with its name.
///
/// ```
/// # use clear_cascade::{MemoryLoader, Study};
/// # let files = MemoryLoader::default().with(
/// #     "a.html",
/// #     "<!DOCTYPE html><style>p { color: navy; margin: 1px } .lead { color: gold } p::before { content: '*' } b { widht: 2px; width: 3px }
/// #     @media print { p { color: black } }</style><body><p id=one class=lead>Hello <b>you</b></p><p id=two>Bye</p></body>",
/// # );
/// # let page = Study::open(&files, "a.html")?;
/// let source = page.sources().get(page.document().source()).unwrap();
/// assert_eq!(source.name, "a.html");
/// assert!(source.text.starts_with("<!DOCTYPE html>"));
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Debug)]
#[non_exhaustive]
pub struct Source {
    /// The path or URL it is shown by.
    pub name: String,
    /// Its decoded text, without a byte order mark. Where it was UTF-8, these are the bytes that were loaded.
    pub text: ByteString,
    /// What it is to the page.
    pub kind: SourceKind,
    /// The encoding its bytes were in.
    encoding: &'static encoding_rs::Encoding,
    /// Bytes of the byte order mark that was taken off.
    mark: u32,
    /// Byte offsets at which lines start, once someone asked for them.
    lines: OnceLock<Arc<[u32]>>,
    /// How many characters there are before every so many bytes, once someone asked for them.
    characters: OnceLock<Arc<[u32]>>,
    /// The text that it was made from, where it is an edited one.
    was: Option<Arc<Edited>>,
}

/// How many characters start in some bytes of a text.
fn characters(bytes: &[u8]) -> u32 {
    // Sums of a byte are what processors add up many of at once.
    let few = |bytes: &[u8]| bytes.iter().map(|byte| u8::from(*byte & 0xC0 != 0x80)).sum::<u8>();
    bytes.chunks(usize::from(u8::MAX)).map(|bytes| u32::from(few(bytes))).sum()
}

/// After how many bytes it is known how many characters came before.
const CHARACTERS_EVERY: usize = 1024;

/// The text that an edited one was made from, and the edits in order: what was replaced, and how long what stands there is.
#[derive(Debug)]
struct Edited {
    /// The text before.
    source: Source,
    /// The edits.
    edits: Vec<(std::ops::Range<u32>, u32)>,
}

impl Edited {
    /// The byte of the text before that a byte of the edited one is; of what was put in, where it was put.
    fn before(&self, at: u32) -> u32 {
        let (mut old, mut new) = (0, 0);
        for (range, length) in &self.edits {
            let untouched = range.start - old;
            if at < new + untouched {
                break;
            }
            new += untouched;
            if at < new + length {
                return range.start;
            }
            (old, new) = (range.end, new + length);
        }
        old + (at - new)
    }
}

impl Source {
    /// Takes decoded text in. Line ends are LF, CRLF, CR and form feed, as CSS Syntax and HTML have them.
    pub(crate) fn new(name: impl Into<String>, text: &str, kind: SourceKind) -> Self {
        Self::decoded(name.into(), text.into(), kind, encoding_rs::UTF_8, 0)
    }

    /// Takes decoded text in and remembers how its bytes were encoded.
    fn decoded(
        name: String,
        text: ByteString,
        kind: SourceKind,
        encoding: &'static encoding_rs::Encoding,
        mark: u32,
    ) -> Self {
        Self { name, text, kind, encoding, mark, lines: OnceLock::new(), characters: OnceLock::new(), was: None }
    }

    /// Byte offsets at which lines start.
    fn lines(&self) -> &[u32] {
        self.lines.get_or_init(|| {
            let bytes = self.text.as_bytes();
            let ends = |i: &usize| bytes[*i] == b'\n' || bytes.get(i + 1) != Some(&b'\n');
            let after = memchr::memchr2_iter(b'\n', b'\r', bytes).filter(ends).map(|i| offset(i + 1));
            std::iter::once(0).chain(after).collect()
        })
    }

    /// How many characters start before every so many bytes: a line may be as long as the text.
    fn character_sums(&self) -> &[u32] {
        self.characters.get_or_init(|| {
            let mut sums = vec![0];
            for chunk in self.text.as_bytes().chunks(CHARACTERS_EVERY) {
                sums.push(sums[sums.len() - 1] + characters(chunk));
            }
            sums.into()
        })
    }

    /// How many characters start before a byte.
    fn characters_before(&self, at: u32) -> u32 {
        let (bytes, sums) = (self.text.as_bytes(), self.character_sums());
        let chunk = at as usize / CHARACTERS_EVERY;
        sums[chunk] + characters(&bytes[chunk * CHARACTERS_EVERY..at as usize])
    }

    /// The same source with another text.
    fn edited(&self, text: String) -> Self {
        Self::decoded(self.name.clone(), text.into(), self.kind, self.encoding, self.mark)
    }

    /// The same source with ranges replaced, which must be in order and apart. Places in it are those of the text as it was.
    pub(crate) fn with_edits(&self, edits: &[(std::ops::Range<u32>, String)]) -> Self {
        let mut after = String::with_capacity(self.text.len());
        let mut at = 0;
        for (range, text) in edits {
            after.push_str(&self.text[at..range.start as usize]);
            after.push_str(text);
            at = range.end as usize;
        }
        after.push_str(&self.text[at..]);
        let edits = edits.iter().map(|(range, text)| (range.clone(), offset(text.len()))).collect();
        Self { was: Some(Arc::new(Edited { source: self.clone(), edits })), ..self.edited(after) }
    }

    /// Line and column, both from 1, of a byte of the text; of an edited text, those in the text as it was.
    fn place(&self, at: u32) -> (u32, u32) {
        match &self.was {
            Some(was) => was.source.place(was.before(at)),
            None => self.line_column(at),
        }
    }

    /// Decodes bytes: a byte order mark decides, then `hint`, then UTF-8 (Encoding Standard, "decode").
    pub(crate) fn decode(
        name: impl Into<String>,
        bytes: &Bytes,
        kind: SourceKind,
        hint: Option<&'static encoding_rs::Encoding>,
    ) -> Self {
        let (encoding, mark) = encoding_rs::Encoding::for_bom(bytes).unwrap_or((hint.unwrap_or(encoding_rs::UTF_8), 0));
        let bytes = bytes.slice(mark..);
        let as_is = if encoding == encoding_rs::UTF_8 { ByteString::try_from(bytes.clone()).ok() } else { None };
        let text = as_is.unwrap_or_else(|| encoding.decode_without_bom_handling(&bytes).0.into_owned().into());
        Self::decoded(name.into(), text, kind, encoding, offset(mark))
    }

    /// Line and column, both from 1, of a byte of the text; a byte past the end counts as the end.
    ///
    /// ```
    /// use clear_cascade::{MemoryLoader, Study};
    /// let files = MemoryLoader::default().with("a.html", "<p>\n<b>é!</b>");
    /// let page = Study::open(&files, "a.html")?;
    /// let source = page.sources().get(page.document().source()).unwrap();
    /// assert_eq!(source.line_column(4), (2, 1));
    /// assert_eq!(source.line_column(9), (2, 5)); // A column is a character, not a byte.
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    #[must_use]
    pub fn line_column(&self, at: u32) -> (u32, u32) {
        let at = at.min(offset(self.text.len()));
        let line = self.lines().partition_point(|start| *start <= at).max(1);
        let start = self.lines()[line - 1];
        let column = match self.text.as_bytes().get(start as usize..at as usize) {
            Some(near) if near.len() <= CHARACTERS_EVERY => characters(near),
            _ => self.characters_before(at) - self.characters_before(start),
        };
        (offset(line), column + 1)
    }

    /// The byte of the text at which a line starts and the one at which it ends, its line end excluded.
    ///
    /// ```
    /// use clear_cascade::{MemoryLoader, Study};
    /// let files = MemoryLoader::default().with("a.html", "<p>\n<b>é!</b>");
    /// let page = Study::open(&files, "a.html")?;
    /// let source = page.sources().get(page.document().source()).unwrap();
    /// assert_eq!(source.line_range(1), Some((0, 3)));
    /// assert_eq!(source.line_range(9), None);
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    #[must_use]
    pub fn line_range(&self, line: u32) -> Option<(u32, u32)> {
        let index = (line as usize).checked_sub(1)?;
        let start = *self.lines().get(index)?;
        let end = self.lines().get(index + 1).copied().unwrap_or(offset(self.text.len()));
        let text = &self.text[start as usize..end as usize];
        Some((start, start + offset(text.trim_end_matches(['\n', '\r']).len())))
    }

    /// The byte at a line and column, both from 1; past the end of the line its end. Nothing where there is no such line.
    ///
    /// ```
    /// use clear_cascade::{MemoryLoader, Study};
    /// let files = MemoryLoader::default().with("a.html", "<p>\n<b>é!</b>");
    /// let page = Study::open(&files, "a.html")?;
    /// let source = page.sources().get(page.document().source()).unwrap();
    /// assert_eq!(source.byte_at(2, 5), Some(9));
    /// assert_eq!(source.byte_at(9, 1), None);
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    #[must_use]
    pub fn byte_at(&self, line: u32, column: u32) -> Option<u32> {
        let (mut start, end) = self.line_range(line)?;
        let mut left = column.saturating_sub(1);
        // Of a long line, the part before is known by its number of characters.
        if (end - start) as usize > CHARACTERS_EVERY {
            let before = self.characters_before(start);
            let chunk = self.character_sums().partition_point(|sum| *sum <= before.saturating_add(left)) - 1;
            let from = offset(chunk * CHARACTERS_EVERY);
            if (start..end).contains(&from) {
                left -= self.character_sums()[chunk] - before;
                start = from;
            }
        }
        let starts = |at: &u32| self.text.is_char_boundary(*at as usize);
        Some((start..end).filter(starts).nth(left as usize).unwrap_or(end))
    }

    /// How many lines there are.
    ///
    /// ```
    /// use clear_cascade::{MemoryLoader, Study};
    /// let files = MemoryLoader::default().with("a.html", "<p>\n<b>é!</b>");
    /// let page = Study::open(&files, "a.html")?;
    /// let source = page.sources().get(page.document().source()).unwrap();
    /// assert_eq!(source.line_count(), 2);
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    #[must_use]
    pub fn line_count(&self) -> u32 {
        offset(self.lines().len())
    }

    /// Where in the file a byte of the text is: they differ by a byte order mark, and in other encodings than UTF-8.
    ///
    /// ```
    /// use clear_cascade::{MemoryLoader, Study};
    /// let files = MemoryLoader::default().with("a.html", "<p>\n<b>é!</b>");
    /// let page = Study::open(&files, "a.html")?;
    /// let source = page.sources().get(page.document().source()).unwrap();
    /// assert_eq!(source.file_offset(4), 4); // This one is UTF-8 and was not edited.
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    #[must_use]
    pub fn file_offset(&self, at: u32) -> u32 {
        if self.encoding == encoding_rs::UTF_8 {
            return at + self.mark;
        }
        let before = self.text.get(..at as usize).unwrap_or(&self.text);
        let length = if self.encoding == encoding_rs::UTF_16LE || self.encoding == encoding_rs::UTF_16BE {
            before.encode_utf16().count() * 2
        } else {
            self.encoding.encode(before).0.len()
        };
        self.mark + offset(length)
    }

    /// The name of the encoding the bytes were in, such as `UTF-8` (Encoding Standard, "Names and labels").
    ///
    /// ```
    /// use clear_cascade::{MemoryLoader, Study};
    /// let files = MemoryLoader::default().with("a.html", "<p>\n<b>é!</b>");
    /// let page = Study::open(&files, "a.html")?;
    /// let source = page.sources().get(page.document().source()).unwrap();
    /// assert_eq!(source.encoding(), "UTF-8");
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    #[must_use]
    pub fn encoding(&self) -> &'static str {
        self.encoding.name()
    }

    /// The encoding itself.
    pub(crate) fn decoder(&self) -> &'static encoding_rs::Encoding {
        self.encoding
    }
}

/// A length or index of a text as an offset; texts over 4 GiB are cut by the loader, so this saturates only there.
pub(crate) fn offset(n: usize) -> u32 {
    u32::try_from(n).unwrap_or(u32::MAX)
}

/// All texts of one study: the page, its stylesheets, browser defaults.
///
/// Ids and spans hold for the study they come from and for trials made of it.
///
/// ```
/// use clear_cascade::{MemoryLoader, Study};
/// let files = MemoryLoader::default().with("a.html", "<!DOCTYPE html><style>p { color: navy } #x { top: 1px }</style><p id=x class='a b' title=hi>Hello <b>you</b>");
/// let page = Study::open(&files, "a.html").unwrap();
///
/// let note = page.document().element(page.select("#x")?[0])?.span();
/// assert_eq!(page.sources().text(note).unwrap(), "<p id=x class='a b' title=hi>");
/// let place = page.sources().place(note).unwrap();
/// assert_eq!(place.to_string(), "a.html:1:64");
/// let source = page.sources().get(note.source).unwrap();
/// assert_eq!((source.encoding(), source.line_count(), source.line_column(note.start)), ("UTF-8", 1, (1, 64)));
/// assert_eq!(source.byte_at(1, 64), Some(note.start));
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Debug, Default)]
pub struct Sources {
    /// The texts in the order of their numbers, with their ids: a text that pages share has one for all of them.
    list: Vec<(SourceId, Arc<Source>)>,
    /// What tells this table's ids from those of others.
    mark: u32,
}

impl Sources {
    /// Takes a source in and gives it its id. The first one tells this table's ids from those of others.
    pub(crate) fn add(&mut self, source: Source) -> SourceId {
        if self.list.is_empty() {
            self.mark = crate::text::mark(&source.text) >> (u32::BITS - SourceId::MARK);
        }
        let id = SourceId::of(self.list.len(), self.mark);
        self.list.push((id, Arc::new(source)));
        id
    }

    /// Takes in a source of another table with the id that it has there, so that what was read of it holds here, too; not where
    /// its number would be another one here.
    pub(crate) fn share(&mut self, id: SourceId, source: &Arc<Source>) -> bool {
        let fits = !self.list.is_empty() && id.index() == self.list.len();
        if fits {
            self.list.push((id, source.clone()));
        }
        fits
    }

    /// The source with an id of this table, to be shared.
    pub(crate) fn shared(&self, id: SourceId) -> Option<Arc<Source>> {
        self.list.get(id.index()).filter(|(own, _)| *own == id).map(|(_, source)| source.clone())
    }

    /// The source with this id; nothing where the id is of another page.
    #[must_use]
    pub fn get(&self, id: SourceId) -> Option<&Source> {
        let (own, found) = self.list.get(id.index())?;
        (*own == id).then_some(found)
    }

    /// All sources with their ids.
    ///
    /// ```
    /// # use clear_cascade::{MemoryLoader, Study};
    /// # let files = MemoryLoader::default().with(
    /// #     "a.html",
    /// #     "<!DOCTYPE html><style>p { color: navy; margin: 1px } .lead { color: gold } p::before { content: '*' } b { widht: 2px; width: 3px }
    /// #     @media print { p { color: black } }</style><body><p id=one class=lead>Hello <b>you</b></p><p id=two>Bye</p></body>",
    /// # );
    /// # let page = Study::open(&files, "a.html")?;
    /// let names: Vec<&str> = page.sources().iter().map(|(_, source)| source.name.as_str()).collect();
    /// assert!(names.contains(&"a.html"));
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    pub fn iter(&self) -> impl Iterator<Item = (SourceId, &Source)> {
        self.list.iter().map(|(id, source)| (*id, &**source))
    }

    /// The text of a span; nothing where the span is of another page.
    #[must_use]
    pub fn text(&self, span: Span) -> Option<&str> {
        self.get(span.source)?.text.get(span.start as usize..span.end as usize)
    }

    /// The place at which a span starts; in a text that a trial edited, the place in the text as it was. Nothing where the span is
    /// of another page.
    #[must_use]
    pub fn place(&self, span: Span) -> Option<Place> {
        self.get(span.source).map(|_| self.placed(span))
    }

    /// The source with an id of this table; an empty one for the text of a question.
    pub(crate) fn at(&self, id: SourceId) -> &Source {
        /// What has no text here.
        static NOTHING: LazyLock<Source> = LazyLock::new(|| Source::new("", "", SourceKind::Question));
        self.list.get(id.index()).map_or(&*NOTHING, |(_, source)| &**source)
    }

    /// The text of a span of this table; empty where the span does not fit.
    pub(crate) fn written(&self, span: Span) -> &str {
        self.at(span.source).text.get(span.start as usize..span.end as usize).unwrap_or_default()
    }

    /// The line in which a span of this table ends.
    pub(crate) fn last_line(&self, span: Span) -> u32 {
        self.at(span.source).place(span.end.saturating_sub(1).max(span.start)).0
    }

    /// The place at which a span of this table starts.
    pub(crate) fn placed(&self, span: Span) -> Place {
        let source = self.at(span.source);
        let (line, column) = source.place(span.start);
        Place { file: source.name.clone(), line, column: Some(column) }
    }
}

/// How offsets of a text that was cut out of a source lead back into it.
///
/// The contents of `<style>` are a plain slice; the value of a `style` attribute may hold character references, so that
/// decoded and written offsets part.
#[derive(Clone, Debug)]
pub(crate) struct OffsetMap {
    /// The source that the text was cut out of.
    pub(crate) source: SourceId,
    /// Pairs of (offset in the text, offset in the source), ascending; between two pairs offsets run in step.
    steps: Vec<(u32, u32)>,
}

impl OffsetMap {
    /// The map of a plain slice that starts at `base`.
    pub(crate) fn slice(source: SourceId, base: u32) -> Self {
        Self { source, steps: vec![(0, base)] }
    }

    /// The map with the given steps; they must ascend and start at 0.
    pub(crate) fn steps(source: SourceId, steps: Vec<(u32, u32)>) -> Self {
        Self { source, steps }
    }

    /// The offset in the source of an offset in the text.
    pub(crate) fn at(&self, offset: u32) -> u32 {
        let i = self.steps.partition_point(|(from, _)| *from <= offset).max(1) - 1;
        let (from, to) = self.steps.get(i).copied().unwrap_or((0, 0));
        to.saturating_add(offset - from)
    }

    /// The span in the source of a range of the text.
    pub(crate) fn span(&self, start: u32, end: u32) -> Span {
        Span { source: self.source, start: self.at(start), end: self.at(end) }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn lines_and_columns_of_mixed_text() {
        let s = Source::new("t", "a\tä𝄞b\r\nc\rd\n", SourceKind::Sheet);
        let at = |c: char| s.line_column(offset(s.text.find(c).unwrap()));
        assert_eq!((at('ä'), at('b'), at('c'), at('d')), ((1, 3), (1, 5), (2, 1), (3, 1)));
        assert_eq!(s.line_count(), 4);
        assert_eq!(s.line_range(1).map(|(a, b)| &s.text[a as usize..b as usize]), Some("a\tä𝄞b"));
        assert_eq!(s.line_column(9999), (4, 1));
        assert_eq!(s.line_range(9), None);
        let long = Source::new("t", &format!("é\n{}\né", "aä𝄞".repeat(1000)), SourceKind::Sheet);
        let mut characters = long.text.char_indices().skip(2).take(3000).zip(1..);
        let there_and_back = |((at, _), column): ((usize, char), u32)| {
            long.line_column(offset(at)) == (2, column) && long.byte_at(2, column) == Some(offset(at))
        };
        assert!(characters.all(there_and_back));
        assert_eq!(
            (long.line_column(7003), long.byte_at(2, 3001), long.byte_at(2, 9999)),
            ((2, 3001), Some(7003), Some(7003))
        );
    }

    #[test]
    fn file_offsets_know_marks_and_encodings() {
        let utf8 = Source::decode("t", &Bytes::from_static(b"\xEF\xBB\xBFa{}"), SourceKind::Sheet, None);
        assert_eq!((&*utf8.text, utf8.file_offset(1)), ("a{}", 4));
        let latin =
            Source::decode("t", &Bytes::from_static(b"\xE9x"), SourceKind::Sheet, Some(encoding_rs::WINDOWS_1252));
        assert_eq!((&*latin.text, latin.file_offset(2)), ("éx", 1));
        let wide = Source::decode("t", &Bytes::from_static(b"\xFF\xFEa\0b\0"), SourceKind::Sheet, None);
        assert_eq!((&*wide.text, wide.file_offset(1)), ("ab", 4));
    }

    #[test]
    fn what_was_loaded_as_utf8_is_not_copied() {
        // Bytes, where the text starts in them, and what it is; nothing where it is made anew.
        let cases: [(&[u8], Option<usize>, &str); 5] = [
            (b"a{}", Some(0), "a{}"),
            ("é{}".as_bytes(), Some(0), "é{}"),
            (b"\xEF\xBB\xBFa{}", Some(3), "a{}"),
            (b"a\xE9{}", None, "a\u{FFFD}{}"),
            (b"\xFF\xFEa\0", None, "a"),
        ];
        for (bytes, start, text) in cases {
            let bytes = Bytes::copy_from_slice(bytes);
            let source = Source::decode("t", &bytes, SourceKind::Sheet, None);
            let there = bytes.as_ptr_range().contains(&source.text.as_ptr());
            let found = there.then(|| source.text.as_ptr().addr() - bytes.as_ptr().addr());
            assert_eq!((&*source.text, found), (text, start));
        }
    }

    #[test]
    fn places_in_edited_texts_are_those_before() {
        let was = Source::new("t", "one\ntwo\nthree", SourceKind::Sheet);
        let edited = was.with_edits(&[(0..4, String::new()), (4..4, "new\nnew\n".to_owned()), (8..9, "T".to_owned())]);
        let twice = edited.with_edits(&[(0..8, String::new())]);
        assert_eq!((&*edited.text, &*twice.text), ("new\nnew\ntwo\nThree", "two\nThree"));
        let at = |s: &Source, t: &str| s.place(offset(s.text.find(t).unwrap()));
        for source in [&edited, &twice] {
            assert_eq!((at(source, "two"), at(source, "Th"), at(source, "ree")), ((2, 1), (3, 1), (3, 3)));
        }
        assert_eq!(at(&edited, "new"), (2, 1));
    }

    #[test]
    fn spans_stay_small() {
        assert_eq!((size_of::<Span>(), size_of::<Option<Span>>()), (12, 12));
    }
}
