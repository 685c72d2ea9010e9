//! Values with `var()` and its kin, read once what is put in is known: once for all longhands of a shorthand, and once for
//! all elements where the same comes of it (CSS Variables 2, §3.4 "Variables in Shorthand Properties").

use std::cell::RefCell;
use std::sync::{Arc, PoisonError, RwLock};

use rustc_hash::FxHashMap;

use crate::property::{self, PropertyId};
use crate::stylesheet::Declaration;
use crate::syntax::Tokens;
use crate::value::{Value, Wide};

/// What a declaration comes to.
#[derive(Debug)]
pub(super) enum Reading {
    /// A CSS-wide keyword.
    Wide(Wide),
    /// Values of longhands; none where the property does not take the text.
    Values(Vec<(PropertyId, Value)>),
}

impl Reading {
    /// Reads a text as the value of a property.
    fn of(property: PropertyId, text: &str, quirks: bool) -> Self {
        let tokens = Tokens::read(text);
        match Wide::of(tokens.all()) {
            Some(wide) => Self::Wide(wide),
            None => Self::Values(property::parse_longhands(property, tokens.all().trim(), quirks).unwrap_or_default()),
        }
    }
}

/// How many bytes of texts are kept, so that values that differ on every element do not fill the memory.
const MOST_BYTES: usize = 1 << 22;

/// What texts came to as values of properties.
#[derive(Debug, Default)]
pub(crate) struct Readings(RwLock<Known>);

/// What is known of texts.
#[derive(Debug, Default)]
struct Known {
    /// What each came to, by the property and whether the page is in quirks mode.
    texts: FxHashMap<(PropertyId, bool), FxHashMap<Box<str>, Arc<Reading>>>,
    /// How many bytes they have.
    bytes: usize,
}

impl Readings {
    /// What a text comes to as the value of a property.
    pub(super) fn of(&self, property: PropertyId, text: &str, quirks: bool) -> Arc<Reading> {
        let known = self.0.read().unwrap_or_else(PoisonError::into_inner);
        let found = known.texts.get(&(property, quirks)).and_then(|texts| texts.get(text).cloned());
        drop(known);
        found.unwrap_or_else(|| {
            let reading = Arc::new(Reading::of(property, text, quirks));
            let mut known = self.0.write().unwrap_or_else(PoisonError::into_inner);
            if known.bytes + text.len() <= MOST_BYTES {
                known.bytes += text.len();
                known.texts.entry((property, quirks)).or_default().insert(text.into(), reading.clone());
            }
            reading
        })
    }
}

/// What the last declaration of an element came to: its longhands ask for it one after the other.
#[derive(Default)]
pub(crate) struct Last(RefCell<Option<(usize, Option<Arc<Reading>>)>>);

impl Last {
    /// What a declaration comes to; nothing where something cannot be put in.
    pub(super) fn of(
        &self,
        declaration: &Declaration,
        read: impl FnOnce() -> Option<Arc<Reading>>,
    ) -> Option<Arc<Reading>> {
        let key = std::ptr::from_ref(declaration).addr();
        if let Some((_, known)) = self.0.borrow().as_ref().filter(|(last, _)| *last == key) {
            return known.clone();
        }
        let reading = read();
        self.0.replace(Some((key, reading.clone())));
        reading
    }

    /// Forgets it, where what is put in has changed.
    pub(super) fn forget(&self) {
        self.0.take();
    }
}
