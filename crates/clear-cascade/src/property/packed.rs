//! The rows of the table as they are held.
//!
//! What comes in: the generated table. What goes out: [`Row`]s. Their texts are in one long text and their lists in one
//! long list, put together when this is compiled: of a table full of addresses, the system fills in each one whenever
//! the program starts.

use super::row::Written;
use super::table::{TYPES, WRITTEN};
use super::{PropertyId, Rule};

/// All that is known about a property, as it is held.
#[derive(Clone, Copy)]
pub(crate) struct Row {
    /// Its name.
    name: Text,
    /// What it takes.
    syntax: Text,
    /// Its initial value.
    initial: Text,
    /// The logical property group.
    group: Text,
    /// The "Computed value" line.
    computed: Text,
    /// Old keywords.
    renamed: Text,
    /// Where the standard defines it.
    href: Text,
    /// The longhands it sets.
    longhands: List,
    /// The longhands it only resets.
    resets: List,
    /// The property this is another name of.
    pub(super) alias: Option<PropertyId>,
    /// What its computed value is.
    pub(crate) rule: Rule,
    /// Whether browsers have it.
    pub(crate) ships: bool,
}

/// What the table says of a property ([`Written`] tells of each what it is).
#[allow(clippy::missing_docs_in_private_items)]
impl Row {
    pub(super) fn name(&self) -> &'static str {
        self.name.get()
    }

    pub(super) fn syntax(&self) -> &'static str {
        self.syntax.get()
    }

    pub(super) fn initial(&self) -> &'static str {
        self.initial.get()
    }

    pub(super) fn group(&self) -> &'static str {
        self.group.get()
    }

    pub(super) fn computed(&self) -> &'static str {
        self.computed.get()
    }

    pub(super) fn href(&self) -> &'static str {
        self.href.get()
    }

    pub(super) fn longhands(&self) -> &'static [PropertyId] {
        self.longhands.get()
    }

    pub(super) fn resets(&self) -> &'static [PropertyId] {
        self.resets.get()
    }

    /// Whether it has old keywords that compute to others.
    pub(crate) fn renames(&self) -> bool {
        self.renamed.length > 0
    }

    /// Its old keywords and what they compute to.
    pub(crate) fn renamed(&self) -> impl Iterator<Item = (&'static str, &'static str)> {
        self.renamed.get().split(' ').filter_map(|pair| pair.split_once('='))
    }
}

/// A part of the text of all rows.
#[derive(Clone, Copy)]
struct Text {
    /// The first byte.
    start: u32,
    /// How many there are.
    length: u16,
}

impl Text {
    /// What is written there.
    fn get(self) -> &'static str {
        let start = self.start as usize;
        TEXT.get(start..start + usize::from(self.length)).unwrap_or_default()
    }
}

/// A part of the list of all rows.
#[derive(Clone, Copy)]
struct List {
    /// The first entry.
    start: u16,
    /// How many there are.
    length: u16,
}

impl List {
    /// The properties in it.
    fn get(self) -> &'static [PropertyId] {
        let start = usize::from(self.start);
        PACKED_IDS.get(start..start + usize::from(self.length)).unwrap_or_default()
    }
}

/// Every row, in the order of ids.
pub(super) static ROWS: [Row; WRITTEN.len()] = PACKED.rows;
/// The named types and functions of the value definition syntax: name and grammar.
static PACKED_TYPES: [(Text, Text); TYPES.len()] = PACKED.types;
/// The lists of all rows.
static PACKED_IDS: [PropertyId; LENGTHS.1] = PACKED.ids;
/// The text of all rows, as bytes.
static BYTES: [u8; LENGTHS.0] = PACKED.text;
/// The text of all rows.
static TEXT: &str = match std::str::from_utf8(&BYTES) {
    Ok(text) => text,
    Err(_) => panic!("texts were put together"),
};

/// The names of the types of the value definition syntax, sorted, and their grammars.
pub(super) fn types() -> impl Iterator<Item = (&'static str, &'static str)> {
    PACKED_TYPES.iter().map(|(name, syntax)| (name.get(), syntax.get()))
}

/// What is left of the table when it is put together.
const PACKED: Packed = pack();

/// The table, put together.
struct Packed {
    /// All texts.
    text: [u8; LENGTHS.0],
    /// All lists.
    ids: [PropertyId; LENGTHS.1],
    /// The rows.
    rows: [Row; WRITTEN.len()],
    /// The types.
    types: [(Text, Text); TYPES.len()],
}

/// How long all texts are, and all lists.
const LENGTHS: (usize, usize) = {
    let (mut text, mut ids, mut i) = (0, 0, 0);
    while i < WRITTEN.len() {
        let row = &WRITTEN[i];
        text += row.name.len() + row.syntax.len() + row.initial.len() + row.group.len();
        text += row.computed.len() + row.renamed.len() + row.href.len();
        ids += row.longhands.len() + row.resets.len();
        i += 1;
    }
    let mut i = 0;
    while i < TYPES.len() {
        text += TYPES[i].0.len() + TYPES[i].1.len();
        i += 1;
    }
    (text, ids)
};

/// Puts the table together.
const fn pack() -> Packed {
    let nothing = Text { start: 0, length: 0 };
    let (mut text, mut ids) = ([0; LENGTHS.0], [PropertyId(0); LENGTHS.1]);
    let (mut text_end, mut ids_end) = (0, 0);
    let first = pack_row(&WRITTEN[0], &mut text, &mut text_end, &mut ids, &mut ids_end);
    let mut rows = [first; WRITTEN.len()];
    let mut i = 1;
    while i < rows.len() {
        rows[i] = pack_row(&WRITTEN[i], &mut text, &mut text_end, &mut ids, &mut ids_end);
        i += 1;
    }
    let mut types = [(nothing, nothing); TYPES.len()];
    let mut i = 0;
    while i < types.len() {
        let (name, syntax) = TYPES[i];
        types[i] = (pack_text(name, &mut text, &mut text_end), pack_text(syntax, &mut text, &mut text_end));
        i += 1;
    }
    Packed { text, ids, rows, types }
}

/// Puts a row behind those before it.
const fn pack_row(
    row: &Written,
    text: &mut [u8],
    text_end: &mut usize,
    ids: &mut [PropertyId],
    ids_end: &mut usize,
) -> Row {
    Row {
        name: pack_text(row.name, text, text_end),
        syntax: pack_text(row.syntax, text, text_end),
        initial: pack_text(row.initial, text, text_end),
        group: pack_text(row.group, text, text_end),
        computed: pack_text(row.computed, text, text_end),
        renamed: pack_text(row.renamed, text, text_end),
        href: pack_text(row.href, text, text_end),
        longhands: pack_list(row.longhands, ids, ids_end),
        resets: pack_list(row.resets, ids, ids_end),
        alias: row.alias,
        rule: row.rule,
        ships: row.ships,
    }
}

/// Puts a text behind those before it.
#[allow(clippy::cast_possible_truncation, reason = "checked, when this is compiled")]
const fn pack_text(text: &str, into: &mut [u8], end: &mut usize) -> Text {
    let start = *end;
    into.split_at_mut(start).1.split_at_mut(text.len()).0.copy_from_slice(text.as_bytes());
    *end += text.len();
    assert!(*end <= u32::MAX as usize && text.len() <= u16::MAX as usize, "too long");
    Text { start: start as u32, length: text.len() as u16 }
}

/// Puts a list behind those before it.
#[allow(clippy::cast_possible_truncation, reason = "checked, when this is compiled")]
const fn pack_list(list: &[PropertyId], into: &mut [PropertyId], end: &mut usize) -> List {
    let start = *end;
    into.split_at_mut(start).1.split_at_mut(list.len()).0.copy_from_slice(list);
    *end += list.len();
    assert!(*end <= u16::MAX as usize, "too long");
    List { start: start as u16, length: list.len() as u16 }
}
