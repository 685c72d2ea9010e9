//! `@container` (CSS Conditional 5, §5 "Container Queries").
//!
//! Size queries need layout, which is not done here: they are off, and a note says so.

use crate::syntax::Slice;

/// What a container rule asks.
#[derive(Clone, Debug)]
pub(crate) struct Query {
    /// The condition as written.
    pub(crate) text: String,
}

/// Reads the prelude of `@container`.
pub(crate) fn parse(prelude: Slice<'_>) -> Query {
    Query { text: prelude.text().to_owned() }
}
