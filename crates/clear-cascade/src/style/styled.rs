//! The computed values of elements side by side.

use std::sync::{Arc, OnceLock};

use super::Style;
use crate::document::ElementId;
use crate::selector::PseudoElement;

/// The computed values of a pseudo-element.
pub(super) type OfPseudo = (PseudoElement, Arc<Style>);

/// The computed values of an element and of its pseudo-elements.
#[derive(Clone, Debug, Default)]
pub(super) struct Styled {
    /// Its own.
    pub(super) own: OnceLock<Arc<Style>>,
    /// Those of the pseudo-elements that may be there to be styled, or that its children are in; nothing where there are none.
    pub(super) pseudos: OnceLock<Option<Arc<[OfPseudo]>>>,
}

impl Styled {
    /// Whether these are the very values of another one.
    pub(super) fn is(&self, other: &Self) -> bool {
        let own = self.own.get().zip(other.own.get()).is_some_and(|(a, b)| Arc::ptr_eq(a, b));
        own && self.pseudos.get().zip(other.pseudos.get()).is_some_and(|_| are_same(self.pseudos(), other.pseudos()))
    }

    /// Those of its pseudo-elements, as far as they are known.
    pub(super) fn pseudos(&self) -> &[OfPseudo] {
        self.pseudos.get().and_then(Option::as_deref).unwrap_or_default()
    }

    /// Keeps the values of its pseudo-elements, unless they are known; they are mostly the very ones of the element around it.
    pub(super) fn set_pseudos(&self, new: &[OfPseudo], around: Option<&Self>) {
        let around = around.and_then(|around| around.pseudos.get()?.as_ref()).filter(|known| are_same(known, new));
        let shared = || around.map_or_else(|| Arc::from(new), Arc::clone);
        // Another thread may have been first, with the same.
        let _ = self.pseudos.set((!new.is_empty()).then(shared));
    }
}

/// Whether pseudo-elements have the very same values.
fn are_same(some: &[OfPseudo], others: &[OfPseudo]) -> bool {
    let same = |((x, a), (y, b)): (&OfPseudo, &OfPseudo)| Arc::ptr_eq(a, b) && x == y;
    some.len() == others.len() && some.iter().zip(others).all(same)
}

/// The values of all elements of a page, in pieces that are there once one of their elements is asked for: most questions are about
/// few of them.
#[derive(Clone, Debug, Default)]
pub(super) struct StyledElements {
    /// The pieces.
    pieces: Vec<OnceLock<Box<[Styled]>>>,
    /// How many elements there are.
    count: usize,
}

/// How many elements are in a piece.
const PIECE: usize = 64;

impl StyledElements {
    /// So many elements of which nothing is known.
    pub(super) fn unknown(count: usize) -> Self {
        Self { pieces: vec![OnceLock::new(); count.div_ceil(PIECE)], count }
    }

    /// What is known of an element.
    pub(super) fn get(&self, id: ElementId) -> Option<&Styled> {
        self.pieces.get(id.index() / PIECE)?.get()?.get(id.index() % PIECE)
    }

    /// Where the values of an element belong; nothing for one that is not among them.
    pub(super) fn place(&self, id: ElementId) -> Option<&Styled> {
        let piece = self.pieces.get(id.index() / PIECE).filter(|_| id.index() < self.count)?;
        let fresh = || std::iter::repeat_with(Styled::default).take(PIECE).collect();
        piece.get_or_init(fresh).get(id.index() % PIECE)
    }

    /// Whether an element is among them of which not all is known.
    pub(super) fn lack(&self, id: ElementId) -> bool {
        id.index() < self.count && self.get(id).is_none_or(|known| known.pseudos.get().is_none())
    }
}
