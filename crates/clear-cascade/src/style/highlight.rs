//! What highlight pseudo-elements inherit (CSS Pseudo 4, §3.5): of a property that applies to them what the same highlight of the
//! parent has, whether the property inherits elsewhere or not; fonts and custom properties of the element that they are over, and
//! its colour where no highlight says another.

use std::sync::{Arc, LazyLock};

use super::{CHUNK, INITIAL_INHERITED, Style, Styles, applying_to};
use crate::document::ElementId;
use crate::page::Page;
use crate::property::{PropertyId, id};
use crate::selector::PseudoElement;

/// The inherited longhands that text keeps under a highlight: those on which its size and its place depend.
static KEPT: LazyLock<Vec<PropertyId>> = LazyLock::new(|| {
    let names = "font font-kerning font-optical-sizing font-palette font-size-adjust font-synthesis font-variant font-variant-emoji \
        font-feature-settings font-variation-settings font-language-override line-height letter-spacing word-spacing writing-mode text-rendering \
        -webkit-font-smoothing forced-color-adjust color";
    let all = names.split_whitespace().filter_map(PropertyId::named).flat_map(PropertyId::longhands_of);
    all.filter(|longhand| longhand.inherits()).collect()
});

/// Whether a highlight has a longhand, which does not apply to it, from the element that it is over.
pub(crate) fn is_kept_under_highlights(longhand: PropertyId) -> bool {
    KEPT.contains(&longhand)
}

impl Styles {
    /// The same highlight of the nearest element around one which rules aim at.
    pub(super) fn highlight_around(&self, page: &Page, id: ElementId, name: &PseudoElement) -> Option<&Arc<Style>> {
        page.document.flat_lineage(id).skip(1).find_map(|around| self.of(around, Some(name)))
    }

    /// What a highlight of an element that is known inherits, with the same highlight around.
    pub(super) fn highlighted(
        &self,
        page: &Page,
        id: ElementId,
        name: &PseudoElement,
        around: Option<&Arc<Style>>,
    ) -> Option<Style> {
        let parent = page.document.flat_parent(id).filter(|parent| self.of(*parent, Some(name)).is_some());
        let parent = parent.and_then(|parent| self.get(parent)).map(|p| &**p);
        self.get(id).map(|own| own.highlighted(name, around.map(|around| &**around), parent))
    }

    /// Whether the highlights of an element which others have for it inherit the same there.
    pub(super) fn highlights_as(&self, others: &Self, page: &Page, id: ElementId) -> bool {
        others.pseudos(id).iter().filter(|(name, _)| name.is_highlight()).all(|(name, _)| {
            match (self.highlight_around(page, id, name), others.highlight_around(page, id, name)) {
                (Some(own), Some(other)) => Arc::ptr_eq(own, other) || own.is(other),
                (own, other) => own.is_none() && other.is_none(),
            }
        })
    }
}

impl Style {
    /// What a highlight over an element starts from, with the same highlight around. What the element has as its parent, of which
    /// that highlight is, the highlight has as well.
    pub(super) fn highlighted(&self, name: &PseudoElement, around: Option<&Self>, parent: Option<&Self>) -> Self {
        let mut style = self.boxed();
        style.inside = Default::default();
        style.keeps_color = around.is_none_or(|around| around.keeps_color);
        let (Some(around), Some(some)) = (around, applying_to(name)) else {
            style.change().inherited = INITIAL_INHERITED.clone();
            KEPT.iter().for_each(|longhand| style.set(*longhand, self.get(*longhand).clone()));
            return style;
        };
        style.reset = around.reset.iter().filter(|(longhand, _)| some.has(*longhand)).cloned().collect();
        style.present = around.present;
        style.change().inherited = around.inherited.clone();
        let keeps_color = style.keeps_color;
        let kept = KEPT.iter().copied().filter(|longhand| *longhand != id::COLOR || keeps_color);
        for longhand in kept.filter(|longhand| !parent.is_some_and(|parent| self.shares(parent, *longhand))) {
            style.set(longhand, self.get(longhand).clone());
        }
        style
    }

    /// Whether an inherited longhand is kept in the very place where another style has it.
    fn shares(&self, other: &Self, longhand: PropertyId) -> bool {
        let chunk = longhand.index() / CHUNK;
        Arc::ptr_eq(&self.inherited[chunk], &other.inherited[chunk])
    }
}
