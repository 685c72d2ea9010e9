//! What the cascade gives a property: the one walk over what is declared for it, which values and explanations share.
//!
//! What comes in: the declarations of a property, strongest first, and what each says. What goes out: what the property
//! gets, and the declaration that settles it. CSS Cascade 5, §4.2 "Cascaded Values", §7.3 "Explicit Defaulting".

use std::cmp::Reverse;

use super::entry::Entry;
use crate::cascade::{Origin, Precedence};
use crate::value::Wide;

/// What a declaration says for a property.
pub(crate) enum Said<T> {
    /// A value.
    Value(T),
    /// A CSS-wide keyword; `unset` too where it is invalid at computed-value time (CSS Variables 2, §3.1).
    Wide(Wide),
    /// Nothing: it is as if it were not there.
    Nothing,
}

impl<T> Said<T> {
    /// The same where it does not matter which value it is.
    pub(crate) fn without_value(&self) -> Said<()> {
        match self {
            Self::Value(_) => Said::Value(()),
            Self::Wide(wide) => Said::Wide(*wide),
            Self::Nothing => Said::Nothing,
        }
    }
}

/// What a property gets.
pub(crate) enum Cascaded<T> {
    /// A value.
    Value(T),
    /// The initial value.
    Initial,
    /// The parent's value.
    Inherit,
    /// The parent's value where the property inherits, else the initial one.
    Unset,
}

/// What a property gets from its declarations, strongest first, and which of them settles it: none does where nothing is
/// declared, or nothing is left of it after `revert` and its kin.
pub(crate) fn cascaded<'e, 's: 'e, T>(
    entries: impl Iterator<Item = &'e Entry<'s>>,
    mut said: impl FnMut(&'e Entry<'s>) -> Said<T>,
) -> (Cascaded<T>, Option<&'e Entry<'s>>) {
    let mut rolled: Vec<(&Entry<'_>, Wide)> = Vec::new();
    for entry in entries {
        if rolled.iter().any(|(from, how)| leaves_out(from, *how, entry)) {
            continue;
        }
        let cascaded = match said(entry) {
            Said::Nothing => continue,
            Said::Value(value) => Cascaded::Value(value),
            Said::Wide(Wide::Initial) => Cascaded::Initial,
            Said::Wide(Wide::Inherit) => Cascaded::Inherit,
            Said::Wide(Wide::Unset) => Cascaded::Unset,
            Said::Wide(how @ (Wide::Revert | Wide::RevertLayer | Wide::RevertRule)) => {
                rolled.push((entry, how));
                continue;
            }
        };
        return (cascaded, Some(entry));
    }
    (Cascaded::Unset, None)
}

/// Whether a declaration that rolls back leaves another one out.
fn leaves_out(from: &Entry<'_>, how: Wide, entry: &Entry<'_>) -> bool {
    let author = |o: Origin| matches!(o, Origin::Author | Origin::PresentationalHint);
    let (a, b) = (&entry.precedence(), &from.precedence());
    match how {
        // The origin and all above it (CSS Cascade 5, §7.3.4).
        Wide::Revert => match b.origin {
            Origin::Author | Origin::PresentationalHint => author(a.origin),
            Origin::User => author(a.origin) || a.origin == Origin::User,
            Origin::Defaults => true,
        },
        // The rule (CSS Cascade 5, §7.3.6).
        Wide::RevertRule => entry.rule() == from.rule(),
        // The layer and all that outranks it among normal declarations, where the tree comes first and the `style`
        // attribute is the last layer (CSS Cascade 5, §7.3.5).
        _ => {
            let place = |p: &Precedence| (p.origin, Reverse(p.context), p.attached, p.layer);
            place(a) >= place(b)
        }
    }
}
