//! Names of elements, attributes, classes and ids.

use std::borrow::Cow;
use std::hash::BuildHasher;
use std::ops::Deref;

use html5ever::LocalName;
use rustc_hash::{FxBuildHasher, FxHashMap};

/// A name of an element, attribute, class or id: a text, of which two are compared as one compares numbers.
///
/// ```
/// use clear_cascade::document::Name;
/// let name = Name::from("night");
/// assert_eq!(name, *"night");
/// assert!(name.starts_with("ni"));
/// ```
#[derive(Clone, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct Name(LocalName);

impl Name {
    /// The name that the HTML parser gives.
    pub(super) fn parsed(name: LocalName) -> Self {
        Self(name)
    }

    /// The text.
    ///
    /// ```
    /// use clear_cascade::document::Name;
    /// assert_eq!(Name::from("--brand").as_str(), "--brand");
    /// ```
    #[must_use]
    pub fn as_str(&self) -> &str {
        &self.0
    }
}

/// Names by hashes of their texts: most classes of a page are written again and again.
pub(super) struct Names(FxHashMap<u64, Name>);

impl Names {
    /// None yet, with room for so many.
    pub(super) fn with_capacity(count: usize) -> Self {
        Self(FxHashMap::with_capacity_and_hasher(count, FxBuildHasher))
    }

    /// The name that a text is.
    pub(super) fn of(&mut self, text: &str) -> Name {
        let known = self.0.entry(FxBuildHasher.hash_one(text)).or_insert_with(|| Name::from(text));
        if *known == *text { known.clone() } else { Name::from(text) }
    }
}

impl Deref for Name {
    type Target = str;

    fn deref(&self) -> &str {
        &self.0
    }
}

impl AsRef<str> for Name {
    fn as_ref(&self) -> &str {
        &self.0
    }
}

impl std::fmt::Display for Name {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.pad(self)
    }
}

impl std::fmt::Debug for Name {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        std::fmt::Debug::fmt(&**self, f)
    }
}

impl From<&str> for Name {
    fn from(text: &str) -> Self {
        Self(LocalName::from(text))
    }
}

impl From<String> for Name {
    fn from(text: String) -> Self {
        Self(LocalName::from(text))
    }
}

impl From<Cow<'_, str>> for Name {
    fn from(text: Cow<'_, str>) -> Self {
        Self(LocalName::from(text))
    }
}

impl PartialEq<str> for Name {
    fn eq(&self, other: &str) -> bool {
        **self == *other
    }
}

impl PartialEq<&str> for Name {
    fn eq(&self, other: &&str) -> bool {
        **self == **other
    }
}

impl serde::Serialize for Name {
    fn serialize<S: serde::Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        serializer.serialize_str(self)
    }
}

impl<'de> serde::Deserialize<'de> for Name {
    fn deserialize<D: serde::Deserializer<'de>>(deserializer: D) -> Result<Self, D::Error> {
        Cow::<'de, str>::deserialize(deserializer).map(Self::from)
    }
}
