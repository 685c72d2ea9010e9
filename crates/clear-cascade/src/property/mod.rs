//! The properties: one row each, and what they take.
//!
//! What comes in: the generated table and the tokens of a value. What goes out: [`PropertyId`]s with their initial
//! value, inheritance and grammar, and declared values by longhand. The grammars are written in the value definition
//! syntax (CSS Values 4, §2) and matched by one engine.

mod areas;
mod declared;
mod grammar;
pub(crate) mod independent;
mod logical;
mod longhands;
mod mismatch;
mod packed;
pub(crate) mod path;
mod quirks;
pub(crate) mod registered;
pub(crate) mod replaced;
mod row;
mod rule;
mod shorthand;
mod starts;
mod syntax;
#[rustfmt::skip]
mod table;

pub(crate) use areas::cells as area_cells;
pub(crate) use declared::Declared;
pub(crate) use logical::Flow;
pub(crate) use longhands::Longhands;
pub(crate) use mismatch::Mismatch;
use packed::ROWS;
pub(crate) use packed::Row;
pub(crate) use quirks::meant;
pub(crate) use rule::Rule;
pub(crate) use shorthand::{parse, parse_longhands, substituted};
pub use table::id;

use std::sync::{LazyLock, OnceLock};

use rustc_hash::FxHashMap;

use crate::near::Known;
use crate::syntax::Tokens;
use crate::value::Value;

/// A property by its row in the table.
///
/// ```
/// use clear_cascade::property::{PropertyId, id};
/// let margin = PropertyId::named("margin").unwrap();
/// assert!(margin == id::MARGIN && !margin.is_longhand() && !margin.inherits());
/// assert_eq!(margin.longhands_of()[0].name(), "margin-top");
/// assert_eq!((id::COLOR.initial_text(), id::COLOR.inherits()), ("canvastext", true));
/// assert!(id::MARGIN_INLINE_START.is_flow_relative() && PropertyId::longhands().count() > 300);
/// ```
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct PropertyId(pub(crate) u16);

/// Properties by name.
static NAMES: LazyLock<FxHashMap<&'static str, PropertyId>> = LazyLock::new(|| {
    let index = |i: usize| PropertyId(u16::try_from(i).unwrap_or(u16::MAX));
    ROWS.iter().enumerate().map(|(i, r)| (r.name(), r.alias.unwrap_or(index(i)))).collect()
});

/// The names of all properties, in the order of the table: an unknown name is compared with each.
static ALL_NAMES: LazyLock<Vec<Known<'static>>> =
    LazyLock::new(|| ROWS.iter().map(|row| Known::of(row.name())).collect());

/// Grammars by row, compiled when first asked for.
static GRAMMARS: LazyLock<Vec<OnceLock<syntax::Node>>> =
    LazyLock::new(|| ROWS.iter().map(|_| OnceLock::new()).collect());

/// Whether a word may be something else than a keyword in a grammar: a colour, or a name that the author chose.
fn names_more_than_keywords(syntax: &str) -> bool {
    ["color", "paint", "style", "ident", "name", "'"].iter().any(|part| syntax.contains(part))
}

/// Initial values by longhand, parsed when first asked for.
static INITIAL: LazyLock<Vec<Value>> = LazyLock::new(|| {
    PropertyId::longhands()
        .map(|p| {
            let row = p.row();
            // Most are a keyword: its grammar need not be compiled to know that.
            let word = row.initial().bytes().all(|b| b.is_ascii_lowercase() || b == b'-');
            if word && !names_more_than_keywords(row.syntax()) {
                return Value::keyword(row.initial());
            }
            let tokens = Tokens::read(row.initial());
            grammar::match_value(p, tokens.all()).unwrap_or_else(|_| Value::keyword(row.initial()))
        })
        .collect()
});

impl PropertyId {
    /// The property with this name, in lower case; another name of a property gives that property.
    #[must_use]
    pub fn named(name: &str) -> Option<Self> {
        NAMES.get(name).copied()
    }

    /// The row in the table.
    pub(crate) fn row(self) -> &'static Row {
        &ROWS[self.index()]
    }

    /// As an index.
    pub(crate) fn index(self) -> usize {
        usize::from(self.0)
    }

    /// Its name.
    #[must_use]
    pub fn name(self) -> &'static str {
        self.row().name()
    }

    /// Whether it inherits (CSS Cascade 6, §7.2). Shorthands do not count as inheriting.
    #[must_use]
    pub fn inherits(self) -> bool {
        self.index() < table::INHERITED
    }

    /// Whether it is a longhand.
    #[must_use]
    pub fn is_longhand(self) -> bool {
        self.index() < table::LONGHANDS
    }

    /// The longhands it sets: itself, for a longhand; of `all`, those that it stands for (CSS Cascade 5, §3.2).
    #[must_use]
    pub fn longhands_of(self) -> Vec<Self> {
        match self {
            id::ALL => Self::longhands().filter(|p| !matches!(*p, id::DIRECTION | id::UNICODE_BIDI)).collect(),
            _ if self.is_longhand() => vec![self],
            _ => self.row().longhands().to_vec(),
        }
    }

    /// Whether it is the flow-relative name of what another longhand sets too (CSS Logical 1, §4).
    #[must_use]
    pub fn is_flow_relative(self) -> bool {
        let flows = [Flow::default(), Flow::new("vertical-rl", "ltr")];
        self.is_longhand() && flows.iter().any(|f| f.physical(self) != self)
    }

    /// Its initial value as the standard writes it.
    #[must_use]
    pub fn initial_text(self) -> &'static str {
        self.row().initial()
    }

    /// Where the standard defines it.
    ///
    /// ```
    /// use clear_cascade::property::id;
    /// assert!(!id::COLOR.standard().is_empty());
    /// ```
    #[must_use]
    pub fn standard(self) -> &'static str {
        self.row().href()
    }

    /// What its computed value is, in the words of the standard.
    ///
    /// ```
    /// use clear_cascade::property::id;
    /// assert!(!id::WIDTH.computed_text().is_empty());
    /// ```
    #[must_use]
    pub fn computed_text(self) -> &'static str {
        self.row().computed()
    }

    /// Its initial value; for a shorthand, nothing stands for it.
    pub(crate) fn initial(self) -> Value {
        INITIAL.get(self.index()).cloned().unwrap_or_else(|| Value::keyword(""))
    }

    /// All longhands, those that inherit first.
    pub fn longhands() -> impl Iterator<Item = Self> {
        (0..table::LONGHANDS).filter_map(|i| u16::try_from(i).ok()).map(Self)
    }

    /// How many longhands there are.
    pub(crate) const COUNT: usize = table::LONGHANDS;
    /// How many of them inherit; they come first.
    pub(crate) const INHERITED: usize = table::INHERITED;

    /// The names of all properties, other names included.
    pub(crate) fn all_names() -> impl Iterator<Item = Known<'static>> {
        ALL_NAMES.iter().copied()
    }

    /// What it takes, compiled.
    fn grammar(self) -> &'static syntax::Node {
        GRAMMARS[self.index()].get_or_init(|| syntax::compile(self.row().syntax()))
    }
}

impl std::fmt::Display for PropertyId {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.write_str(self.name())
    }
}

/// All properties, longhands and shorthands.
#[cfg(test)]
pub(crate) fn all_known() -> impl Iterator<Item = PropertyId> {
    let all = (0..ROWS.len()).filter_map(|i| u16::try_from(i).ok()).map(PropertyId);
    all.filter(|p| p.row().alias.is_none())
}

/// Matches a run of tokens against a syntax string such as `<length>` (for `@property`).
pub(crate) fn match_syntax(syntax: &str, tokens: crate::syntax::Slice<'_>) -> Option<Value> {
    grammar::match_node(&syntax::compile_words(syntax), tokens)
}

#[cfg(test)]
mod tests {
    use super::*;

    /// Longhands of drafts whose initial value the extracts give in words.
    const IN_WORDS: &[&str] = &["quotes", "text-size-adjust"];

    #[test]
    fn the_table_is_sound() {
        let mut faults = Vec::new();
        for p in PropertyId::longhands() {
            let row = p.row();
            let tokens = Tokens::read(row.initial());
            if IN_WORDS.contains(&row.name()) {
                continue;
            }
            if let Ok(value) = grammar::match_value(p, tokens.all()) {
                if value != p.initial() {
                    faults.push(format!(
                        "{}: initial value `{}` is {value:?}, not {:?}",
                        row.name(),
                        row.initial(),
                        p.initial()
                    ));
                }
            } else if let Err(e) = grammar::match_value(p, tokens.all()) {
                faults.push(format!(
                    "{}: initial value `{}` does not fit `{}`: {}",
                    row.name(),
                    row.initial(),
                    row.syntax(),
                    e.message
                ));
            }
        }
        for p in PropertyId::longhands() {
            for (old, new) in p.row().renamed() {
                let takes = |name: &str| grammar::match_value(p, Tokens::read(name).all()).is_ok();
                if !takes(old) || !takes(new) {
                    faults.push(format!("{}: `{old}` is to compute to `{new}`, and not both can be written", p.name()));
                }
            }
        }
        for row in &ROWS {
            if !row.longhands().iter().chain(row.resets()).all(|l| l.is_longhand()) {
                faults.push(format!("{}: a longhand of it is none", row.name()));
            }
            for missing in syntax::unknown_types(&syntax::compile(row.syntax())) {
                faults.push(format!("{}: nothing defines <{missing}>", row.name()));
            }
        }
        assert!(faults.is_empty(), "{}", faults.join("\n"));
    }
}
