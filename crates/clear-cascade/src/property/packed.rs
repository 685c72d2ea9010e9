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
    /// Old keywords and what they compute to.
    renamed: List,
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
        let start = usize::from(self.renamed.start);
        let pairs = RENAMED.get(start..start + usize::from(self.renamed.length)).unwrap_or_default();
        pairs.iter().map(|(old, new)| (old.get(), new.get()))
    }
}

/// A row about nothing.
const NO_ROW: Row = {
    let (text, list) = (Text { start: 0, length: 0 }, List { start: 0, length: 0 });
    let (name, syntax, initial, group, computed, href) = (text, text, text, text, text, text);
    let (longhands, resets, renamed) = (list, list, list);
    let (alias, rule, ships) = (None, Rule::AsSpecified, false);
    Row { name, syntax, initial, group, computed, href, longhands, resets, renamed, alias, rule, ships }
};

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
        IDS.get(start..start + usize::from(self.length)).unwrap_or_default()
    }
}

/// Every row, in the order of ids.
pub(super) static ROWS: [Row; WRITTEN.len()] = PACKED.rows;
/// The named types and functions of the value definition syntax: name and grammar.
static PACKED_TYPES: [(Text, Text); TYPES.len()] = PACKED.types;
/// The lists of all rows.
static IDS: [PropertyId; LENGTHS.1] = PACKED.ids;
/// The old keywords of all rows, and what they compute to.
static RENAMED: [(Text, Text); LENGTHS.2] = PACKED.renamed;
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
    /// All lists of properties.
    ids: [PropertyId; LENGTHS.1],
    /// All old keywords.
    renamed: [(Text, Text); LENGTHS.2],
    /// The rows.
    rows: [Row; WRITTEN.len()],
    /// The types.
    types: [(Text, Text); TYPES.len()],
}

/// How long all texts are, all lists of properties, and all of old keywords.
const LENGTHS: (usize, usize, usize) = {
    let (mut text, mut ids, mut renamed, mut i) = (0, 0, 0, 0);
    while i < WRITTEN.len() {
        let row = &WRITTEN[i];
        text += row.name.len() + row.syntax.len() + row.initial.len() + row.group.len();
        text += row.computed.len() + row.href.len();
        ids += row.longhands.len() + row.resets.len();
        renamed += row.renamed.len();
        let mut j = 0;
        while j < row.renamed.len() {
            text += row.renamed[j].0.len() + row.renamed[j].1.len();
            j += 1;
        }
        i += 1;
    }
    let mut i = 0;
    while i < TYPES.len() {
        text += TYPES[i].0.len() + TYPES[i].1.len();
        i += 1;
    }
    (text, ids, renamed)
};

/// Puts the table together.
const fn pack() -> Packed {
    let nothing = Text { start: 0, length: 0 };
    let mut ends = Ends { text: 0, ids: 0, renamed: 0 };
    let mut packed = Packed {
        text: [0; LENGTHS.0],
        ids: [PropertyId(0); LENGTHS.1],
        renamed: [(nothing, nothing); LENGTHS.2],
        rows: [NO_ROW; WRITTEN.len()],
        types: [(nothing, nothing); TYPES.len()],
    };
    let mut i = 0;
    while i < WRITTEN.len() {
        packed.rows[i] = packed.row(&WRITTEN[i], &mut ends);
        i += 1;
    }
    let mut i = 0;
    while i < TYPES.len() {
        let (name, syntax) = TYPES[i];
        packed.types[i] = (packed.text(name, &mut ends), packed.text(syntax, &mut ends));
        i += 1;
    }
    packed
}

/// Where what was put together so far ends.
struct Ends {
    /// In the text.
    text: usize,
    /// In the list of properties.
    ids: usize,
    /// In the list of old keywords.
    renamed: usize,
}

#[allow(clippy::cast_possible_truncation, reason = "checked, when this is compiled")]
impl Packed {
    /// Puts a row behind those before it.
    const fn row(&mut self, row: &Written, ends: &mut Ends) -> Row {
        Row {
            name: self.text(row.name, ends),
            syntax: self.text(row.syntax, ends),
            initial: self.text(row.initial, ends),
            group: self.text(row.group, ends),
            computed: self.text(row.computed, ends),
            href: self.text(row.href, ends),
            longhands: self.list(row.longhands, ends),
            resets: self.list(row.resets, ends),
            renamed: self.renamed(row.renamed, ends),
            alias: row.alias,
            rule: row.rule,
            ships: row.ships,
        }
    }

    /// Puts a text behind those before it.
    const fn text(&mut self, text: &str, ends: &mut Ends) -> Text {
        let start = ends.text;
        self.text.split_at_mut(start).1.split_at_mut(text.len()).0.copy_from_slice(text.as_bytes());
        ends.text += text.len();
        assert!(ends.text <= u32::MAX as usize && text.len() <= u16::MAX as usize, "too long");
        Text { start: start as u32, length: text.len() as u16 }
    }

    /// Puts a list behind those before it.
    const fn list(&mut self, list: &[PropertyId], ends: &mut Ends) -> List {
        let start = ends.ids;
        self.ids.split_at_mut(start).1.split_at_mut(list.len()).0.copy_from_slice(list);
        ends.ids += list.len();
        assert!(ends.ids <= u16::MAX as usize, "too long");
        List { start: start as u16, length: list.len() as u16 }
    }

    /// Puts old keywords behind those before them.
    const fn renamed(&mut self, pairs: &[(&str, &str)], ends: &mut Ends) -> List {
        let start = ends.renamed;
        let mut i = 0;
        while i < pairs.len() {
            let (old, new) = pairs[i];
            self.renamed[start + i] = (self.text(old, ends), self.text(new, ends));
            i += 1;
        }
        ends.renamed += pairs.len();
        assert!(ends.renamed <= u16::MAX as usize, "too long");
        List { start: start as u16, length: pairs.len() as u16 }
    }
}
