//! What a declaration says for one longhand.

use super::PropertyId;
use crate::value::{Value, Wide};

/// What a declaration says for a longhand.
#[derive(Clone, Debug, PartialEq)]
pub(crate) enum Declared {
    /// A value.
    Value(Value),
    /// A CSS-wide keyword.
    Wide(Wide),
    /// Known only once `var()` and its kin are replaced; the property as written, for shorthands.
    Substitute(PropertyId),
}
