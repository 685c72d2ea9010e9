//! The value of a custom property: text (CSS Variables 2, §2).

use std::sync::{Arc, OnceLock};

use bytestring::ByteString;

use crate::syntax::Tokens;

/// The value of a custom property.
pub(crate) type CustomValue = Arc<CustomText>;

/// The text of a custom property.
#[derive(Debug)]
pub(crate) struct CustomText {
    /// As it was written, with what is put in: what `var()` stands for, and what `style()` asks about.
    pub(crate) written: ByteString,
    /// Its tokens written anew, where that is another text.
    shown: OnceLock<Option<Box<str>>>,
}

impl CustomText {
    /// A value from its text.
    pub(crate) fn new(text: &str) -> CustomValue {
        Self::of(text.trim().into())
    }

    /// A value that is written in a text, of which it keeps hold.
    pub(crate) fn written_in(text: &ByteString, part: &str) -> CustomValue {
        Self::of(text.slice_ref(part.trim()))
    }

    /// A value from its text without white space around.
    fn of(written: ByteString) -> CustomValue {
        Arc::new(Self { written, shown: OnceLock::new() })
    }

    /// Its tokens written anew: what is shown, one line however it was written.
    pub(crate) fn shown(&self) -> &str {
        let anew = || {
            let shown = Tokens::read(&self.written).all().trim().serialized();
            (*shown != *self.written).then(|| Box::from(shown))
        };
        self.shown.get_or_init(anew).as_deref().unwrap_or(&self.written)
    }
}

impl PartialEq for CustomText {
    fn eq(&self, other: &Self) -> bool {
        std::ptr::eq(&*self.written, &*other.written) || self.written == other.written
    }
}
