//! `@container` (CSS Conditional 5, §5 "Container Queries").
//!
//! Style queries are decided by the styles of containers; sizes and scrolling need layout, which is not done here, and
//! are unknown.

use crate::document::Name;
use crate::syntax::{Kind, Slice, Tokens};

/// What a container rule asks: one of several queries.
#[derive(Clone, Debug)]
pub(crate) struct Queries {
    /// As written.
    pub(crate) text: String,
    /// The queries between commas.
    pub(crate) list: Vec<Query>,
}

impl Queries {
    /// Whether one of them can be decided without layout.
    pub(crate) fn ask_for_styles(&self) -> bool {
        self.list.iter().any(Query::asks_for_styles)
    }
}

/// One query of a container.
#[derive(Clone, Debug)]
pub(crate) struct Query {
    /// The container's name, where one is asked for.
    pub(crate) name: Option<Name>,
    /// The condition; empty where only a name is asked for.
    pub(crate) condition: Tokens,
}

impl Query {
    /// Whether it can be decided without layout: it asks for styles, or for a name only.
    fn asks_for_styles(&self) -> bool {
        let all = self.condition.all();
        all.trim().is_empty() || (all.from..all.to).any(|i| Slice { from: i, ..all }.is_function("style"))
    }
}

/// Reads the prelude of `@container`.
pub(crate) fn parse(prelude: Slice<'_>) -> Queries {
    Queries { text: prelude.text().to_owned(), list: prelude.commas().into_iter().map(query).collect() }
}

/// Reads one query.
fn query(prelude: Slice<'_>) -> Query {
    let mut rest = prelude.trim();
    let named = rest.peek().filter(|t| t.kind == Kind::Ident && !rest.is_ident("not"));
    let name = named.map(|t| Name::from(&*rest.name(t)));
    if name.is_some() {
        rest.next();
    }
    Query { name, condition: Tokens::read(rest.trim().text()) }
}
