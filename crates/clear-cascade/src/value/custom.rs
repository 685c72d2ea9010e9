//! The value of a custom property: text (CSS Variables 2, §2).

use std::sync::{Arc, OnceLock};

use crate::syntax::Tokens;

/// The value of a custom property.
pub(crate) type CustomValue = Arc<CustomText>;

/// The text of a custom property.
#[derive(Debug)]
pub(crate) struct CustomText {
    /// As it was written, with what is put in: what `var()` stands for, and what `style()` asks about.
    pub(crate) written: Arc<str>,
    /// Its tokens written anew, where that is another text.
    shown: OnceLock<Option<Box<str>>>,
}

impl CustomText {
    /// A value from its text.
    pub(crate) fn new(text: &str) -> CustomValue {
        Arc::new(Self { written: Arc::from(text.trim()), shown: OnceLock::new() })
    }

    /// Its tokens written anew: what is shown, one line however it was written.
    pub(crate) fn shown(&self) -> &str {
        let anew = || {
            let shown = Tokens::read(&self.written).all().trim().serialized();
            (shown != *self.written).then(|| Box::from(shown))
        };
        self.shown.get_or_init(anew).as_deref().unwrap_or(&self.written)
    }
}

impl PartialEq for CustomText {
    fn eq(&self, other: &Self) -> bool {
        Arc::ptr_eq(&self.written, &other.written) || self.written == other.written
    }
}
