//! A row of the table as it is written.

use super::{PropertyId, Rule};

/// All that is known about a property, as the table writes it.
#[derive(Clone, Copy)]
pub(super) struct Written {
    /// Its name.
    pub(super) name: &'static str,
    /// What it takes, in the value definition syntax.
    pub(super) syntax: &'static str,
    /// Its initial value.
    pub(super) initial: &'static str,
    /// The longhands it sets, in canonical order; none for a longhand.
    pub(super) longhands: &'static [PropertyId],
    /// The longhands it only resets.
    pub(super) resets: &'static [PropertyId],
    /// The logical property group (CSS Logical 1, §4).
    pub(super) group: &'static str,
    /// The property this is another name of.
    pub(super) alias: Option<PropertyId>,
    /// The "Computed value" line of the standard.
    pub(super) computed: &'static str,
    /// The same as a rule.
    pub(super) rule: Rule,
    /// Old keywords and what they compute to.
    pub(super) renamed: &'static [(&'static str, &'static str)],
    /// Where the standard defines it.
    pub(super) href: &'static str,
    /// Whether browsers have it.
    pub(super) ships: bool,
}
