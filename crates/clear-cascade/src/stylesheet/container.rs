//! `@container` (CSS Conditional 5, §5 "Container Queries").
//!
//! Style queries are decided by the styles of containers; sizes and scrolling need layout, which is not done here, and
//! are unknown.

use crate::document::Name;
use crate::syntax::{Kind, Slice, Tokens};

/// What a container rule asks.
#[derive(Clone, Debug)]
pub(crate) struct Query {
    /// The condition as written, the name of the container included.
    pub(crate) text: String,
    /// The container's name, where one is asked for.
    pub(crate) name: Option<Name>,
    /// The condition; empty where only a name is asked for.
    pub(crate) condition: Tokens,
}

impl Query {
    /// Whether it can be decided without layout: it asks for styles, or for a name only.
    pub(crate) fn asks_for_styles(&self) -> bool {
        let all = self.condition.all();
        all.trim().is_empty() || (all.from..all.to).any(|i| Slice { from: i, ..all }.is_function("style"))
    }
}

/// Reads the prelude of `@container`.
pub(crate) fn parse(prelude: Slice<'_>) -> Query {
    let mut rest = prelude.trim();
    let named = rest.peek().filter(|t| t.kind == Kind::Ident && !rest.is_ident("not"));
    let name = named.map(|t| Name::from(&*rest.name(t)));
    if name.is_some() {
        rest.next();
    }
    Query { text: prelude.text().to_owned(), name, condition: Tokens::read(rest.trim().text()) }
}
