//! A declaration: a property, a value, and whether it is important (CSS Syntax 3, §5.5.6).

use std::hash::BuildHasher;
use std::ops::Range;
use std::sync::{Arc, Mutex, OnceLock, PoisonError};

use once_cell::race::OnceBox;
use rustc_hash::{FxBuildHasher, FxHashMap};

use super::Stylesheet;
use crate::document::Name;
use crate::property::Declared;
use crate::property::{self, Mismatch, PropertyId};
use crate::source::Span;
use crate::syntax::substitution::{self, Piece, Pieces};
use crate::syntax::{Kind, Slice, Tokens};
use crate::value::{CustomText, CustomValue, Wide};

/// The property a declaration sets.
#[derive(Clone, Debug, PartialEq, Eq, Hash)]
pub(crate) enum Property {
    /// A property of the standard, longhand or shorthand.
    Known(PropertyId),
    /// A custom property, with its two hyphens.
    Custom(Name),
}

impl Property {
    /// The property with this name; other names of a property give that property.
    pub(crate) fn named(name: &str) -> Option<Self> {
        if name.starts_with("--") && name.len() > 2 {
            return Some(Self::Custom(Name::from(name)));
        }
        PropertyId::named(name).map(Self::Known)
    }

    /// Its name.
    pub(crate) fn name(&self) -> &str {
        match self {
            Self::Known(id) => id.name(),
            Self::Custom(name) => name,
        }
    }
}

/// A declaration in a style rule or `style` attribute.
#[derive(Debug)]
pub(crate) struct Declaration {
    /// The property.
    pub(crate) property: Property,
    /// The property's name as written, where that is another than its own.
    pub(super) name: Option<Name>,
    /// Where the declaration is written, from its name to the end of its value or `!important`.
    pub(crate) span: Span,
    /// Whether it ends in `!important`.
    pub(crate) important: bool,
    /// The number of its rule in the sheet.
    pub(super) rule: u32,
    /// Its value.
    pub(super) value: Written,
    /// Whether a function is in its value that goes by attributes: `attr()`, or a custom one, which may have that in it.
    pub(crate) goes_by_attributes: bool,
    /// What its value says, once someone asked for it.
    pub(super) meaning: OnceLock<Meaning>,
}

/// Where a value is written.
#[derive(Debug)]
pub(super) enum Written {
    /// These tokens of the sheet, or of the block.
    Tokens(Range<u32>),
    /// These bytes of the text, with their tokens, once someone asked for them.
    Bytes(Range<u32>, OnceBox<Tokens>),
}

/// What a value says for longhands.
type Parts = Arc<[(PropertyId, Declared)]>;

/// What values of a sheet say for longhands: most are written more than once.
#[derive(Debug, Default)]
pub(super) struct Meanings(Mutex<KnownMeanings>);

/// What values say, as far as it is known.
#[derive(Debug, Default)]
struct KnownMeanings {
    /// By a hash of property and text, with both.
    texts: FxHashMap<u64, (PropertyId, Box<str>, Parts)>,
    /// By property, of those in which `var()` is to be replaced.
    open: FxHashMap<PropertyId, Parts>,
}

/// How long texts are, in bytes, that are remembered. Longer ones are hardly ever written twice.
const LONGEST_KEPT: usize = 64;

impl Meanings {
    /// What the value of a declaration in a sheet says for a property.
    fn of(&self, property: PropertyId, declaration: &Declaration, sheet: &Stylesheet) -> Meaning {
        let known = || self.0.lock().unwrap_or_else(PoisonError::into_inner);
        let text = sheet.text_of_value(declaration);
        if let Some(pieces) = declaration.plain_pieces(sheet).filter(|_| property.row().ships) {
            let mut known = known();
            let said = known.open.entry(property).or_insert_with(|| property::substituted(property).into());
            return Meaning::Open(said.clone(), pieces);
        }
        // A `style` attribute says nothing twice.
        let kept = text.len() <= LONGEST_KEPT && sheet.rules.len() > 1;
        let hash = if kept { FxBuildHasher.hash_one((property, text)) } else { 0 };
        let is_same = |(p, t, _): &&(PropertyId, Box<str>, Parts)| (*p, &**t) == (property, text);
        let said_before = || known().texts.get(&hash).filter(is_same).map(|(.., said)| said.clone());
        let read = || sheet.read_value(declaration, |value| property::parse(property, value, sheet.quirks));
        let said = match kept.then(said_before).flatten() {
            Some(said) => said,
            None => match read() {
                Err(mismatch) => return Meaning::Dropped(Box::new(mismatch)),
                Ok(said) => {
                    let said = Parts::from(said);
                    if kept {
                        known().texts.insert(hash, (property, text.into(), said.clone()));
                    }
                    said
                }
            },
        };
        let is_open = said.iter().any(|(_, declared)| matches!(declared, Declared::Substitute(_)));
        match is_open.then(|| sheet.read_value(declaration, substitution::pieces)).flatten() {
            Some(pieces) => Meaning::Open(said, pieces),
            None => Meaning::Longhands(said),
        }
    }
}

/// What the value of a declaration says.
#[derive(Debug)]
pub(super) enum Meaning {
    /// This for longhands.
    Longhands(Parts),
    /// The same, where nothing but plain `var()` is to be replaced in it, with the value taken apart.
    Open(Parts, Pieces),
    /// Nothing: why it is dropped.
    Dropped(Box<Mismatch>),
    /// This for a custom property.
    Custom(CustomDeclared),
}

/// What a declaration says for a custom property.
#[derive(Debug)]
pub(crate) enum CustomDeclared {
    /// A text.
    Text(CustomValue),
    /// A CSS-wide keyword.
    Wide(Wide),
    /// Known only once `var()` and its kin are replaced; taken apart, where that is nothing but plain `var()`.
    Substitute(Option<Pieces>),
    /// Nothing: a `var()` or the like is broken.
    Broken,
}

impl CustomDeclared {
    /// What a value says.
    fn of(value: Slice<'_>) -> Self {
        match (crate::property::replaced::needed(value), Wide::of(value)) {
            (Err(_), _) => Self::Broken,
            (Ok(true), _) => Self::Substitute(substitution::pieces(value)),
            (Ok(false), Some(wide)) => Self::Wide(wide),
            (Ok(false), None) => Self::Text(CustomText::written_in(&value.tokens.text, value.text())),
        }
    }
}

impl Declaration {
    /// The property's name as written.
    pub(crate) fn name(&self) -> &str {
        self.name.as_deref().unwrap_or_else(|| self.property.name())
    }

    /// What it says; read when first asked for, then kept.
    pub(super) fn meaning(&self, sheet: &Stylesheet) -> &Meaning {
        self.meaning.get_or_init(|| self.read(sheet))
    }

    /// Reads what it says, and keeps it.
    pub(super) fn read_now(&mut self, sheet: &Stylesheet) {
        self.meaning = self.read(sheet).into();
    }

    /// Reads what it says.
    fn read(&self, sheet: &Stylesheet) -> Meaning {
        match (&self.property, self.custom_text(sheet)) {
            (Property::Known(id), _) => sheet.meanings.of(*id, self, sheet),
            (Property::Custom(_), Some(text)) => Meaning::Custom(CustomDeclared::Text(text)),
            (Property::Custom(_), None) => Meaning::Custom(match self.plain_pieces(sheet) {
                Some(pieces) => CustomDeclared::Substitute(Some(pieces)),
                None => sheet.read_value(self, CustomDeclared::of),
            }),
        }
    }

    /// What it says for a custom property, where its bytes tell that this is a text: nothing is put in, and no keyword stands alone.
    fn custom_text(&self, sheet: &Stylesheet) -> Option<CustomValue> {
        let (Written::Bytes(..), Property::Custom(_)) = (&self.value, &self.property) else { return None };
        let text = sheet.text_of_value(self);
        (!text.as_bytes().contains(&b'(') && Wide::in_text(text).is_none())
            .then(|| CustomText::written_in(&sheet.tokens.text, text))
    }

    /// Its value taken apart, where nothing but plain `var()` is to be replaced in it.
    pub(crate) fn pieces(&self, sheet: &Stylesheet) -> Option<&[Piece]> {
        match self.meaning(sheet) {
            Meaning::Open(_, pieces) | Meaning::Custom(CustomDeclared::Substitute(Some(pieces))) => Some(pieces),
            _ => None,
        }
    }

    /// The same where its bytes tell that `var()`, and nothing else, is to be replaced in it.
    fn plain_pieces(&self, sheet: &Stylesheet) -> Option<Pieces> {
        let Written::Bytes(part, _) = &self.value else { return None };
        substitution::plain_pieces(sheet.text_of_value(self), part.start)
    }

    /// What it says for each longhand; nothing for a custom property.
    pub(crate) fn longhands(&self, sheet: &Stylesheet) -> Result<&[(PropertyId, Declared)], &Mismatch> {
        match self.meaning(sheet) {
            Meaning::Longhands(read) | Meaning::Open(read, _) => Ok(read),
            Meaning::Dropped(mismatch) => Err(mismatch),
            Meaning::Custom(_) => Ok(&[]),
        }
    }

    /// What it says for its custom property; for other properties nothing.
    pub(crate) fn custom(&self, sheet: &Stylesheet) -> &CustomDeclared {
        match self.meaning(sheet) {
            Meaning::Custom(said) => said,
            _ => &CustomDeclared::Broken,
        }
    }
}

/// Takes `!important` off the end of a value.
pub(crate) fn split_important(value: Slice<'_>) -> (Slice<'_>, bool) {
    let last = value.to.checked_sub(1).filter(|l| *l >= value.from);
    let Some(last) = last else {
        return (value, false);
    };
    let word = Slice { from: last, ..value };
    if !word.is_ident("important") {
        return (value, false);
    }
    let before = Slice { to: last, ..value }.trim();
    match before.to.checked_sub(1).filter(|l| *l >= before.from).map(|l| value.tokens.list[l as usize].kind) {
        Some(Kind::Delim('!')) => (Slice { to: before.to - 1, ..before }.trim(), true),
        _ => (value, false),
    }
}
