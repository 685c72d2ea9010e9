//! The cascade: which of several declarations wins, and at which stage that was settled.
//!
//! What comes in: what each declaration has to show at each stage. What goes out: their order. What resolves the whole page and
//! what explains one contest compare by the same key, so that they cannot disagree.
//! CSS Cascade 6, §3 "Cascading"; CSS Cascade 5, §6.1 "Cascade Sorting Order".

mod layers;

pub(crate) use layers::{LayerId, Layers};

use crate::selector::Specificity;

/// Whose stylesheet a declaration is in (CSS Cascade 5, §6.2).
///
/// ```
/// # use clear_cascade::{MemoryLoader, Study};
/// # let files = MemoryLoader::default().with(
/// #     "a.html",
/// #     "<!DOCTYPE html><style>p { color: navy; margin: 1px } .lead { color: gold } p::before { content: '*' } b { widht: 2px; width: 3px }
/// #     @media print { p { color: black } }</style><body><p id=one class=lead>Hello <b>you</b></p><p id=two>Bye</p></body>",
/// # );
/// # let page = Study::open(&files, "a.html")?;
/// use clear_cascade::cascade::Origin;
/// let b = page.select("b")?[0];
/// assert_eq!(page.why(b, "font-weight")?.winner().map(|w| w.origin), Some(Origin::Defaults));
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, serde::Serialize, serde::Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(rename_all = "kebab-case")]
#[non_exhaustive]
pub enum Origin {
    /// The browser's own defaults.
    Defaults,
    /// The user's stylesheet.
    User,
    /// An HTML attribute such as `bgcolor`: an author declaration that comes before all others (CSS Cascade 5, §6.2).
    PresentationalHint,
    /// The page's stylesheets.
    Author,
}

impl Origin {
    /// Its name in plain words.
    ///
    /// ```
    /// assert_eq!(clear_cascade::cascade::Origin::User.name(), "user stylesheet");
    /// ```
    #[must_use]
    pub fn name(self) -> &'static str {
        match self {
            Self::Defaults => "browser defaults",
            Self::User => "user stylesheet",
            Self::Author => "author",
            Self::PresentationalHint => "HTML attribute",
        }
    }
}

/// One criterion of the cascade, in the standard's order.
///
/// ```
/// use clear_cascade::cascade::{Origin, Stage};
/// assert!(Stage::Layer < Stage::Specificity); // In the standard's order.
/// assert_eq!((Stage::Order.name(), Origin::Defaults.name()), ("order of appearance", "browser defaults"));
/// assert_eq!(Stage::ALL.len(), 7);
/// ```
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, serde::Serialize, serde::Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(rename_all = "kebab-case")]
pub enum Stage {
    /// Origin and importance.
    Origin,
    /// Context: which tree of a page with shadow trees.
    Context,
    /// The `style` attribute before all selectors.
    StyleAttribute,
    /// Layers.
    Layer,
    /// Specificity of the selector.
    Specificity,
    /// Scoping proximity: how far the scoping root is.
    Proximity,
    /// Order of appearance.
    Order,
}

impl Stage {
    /// All stages in order.
    pub const ALL: [Self; 7] = [
        Self::Origin,
        Self::Context,
        Self::StyleAttribute,
        Self::Layer,
        Self::Specificity,
        Self::Proximity,
        Self::Order,
    ];

    /// Its name in plain words.
    #[must_use]
    pub fn name(self) -> &'static str {
        match self {
            Self::Origin => "origin and importance",
            Self::Context => "context",
            Self::StyleAttribute => "style attribute",
            Self::Layer => "layer",
            Self::Specificity => "specificity",
            Self::Proximity => "scoping proximity",
            Self::Order => "order of appearance",
        }
    }
}

/// What decides about a declaration.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) struct Precedence {
    /// Whose it is.
    pub(crate) origin: Origin,
    /// Whether it is important.
    pub(crate) important: bool,
    /// The tree it is in, by its place in shadow-including tree order: 0 for the page.
    pub(crate) context: u32,
    /// Whether it is in a `style` attribute.
    pub(crate) attached: bool,
    /// Its layer's place among the layers of its origin.
    pub(crate) layer: LayerId,
    /// The weight of its selector.
    pub(crate) specificity: Specificity,
    /// Steps from the element up to the scoping root; nothing outside `@scope`.
    pub(crate) proximity: Option<u32>,
    /// Its place in the page's stylesheets.
    pub(crate) order: (u32, u32),
}

impl Precedence {
    /// What a stage compares: the larger goes on.
    pub(crate) fn key(&self, stage: Stage) -> [u32; 3] {
        let flip = |n: u32| if self.important { u32::MAX - n } else { n };
        match stage {
            Stage::Origin => {
                let rank = match self.origin {
                    Origin::Defaults => 0,
                    Origin::User => 1,
                    Origin::PresentationalHint => 2,
                    Origin::Author => 3,
                };
                [if self.important { 8 - rank } else { rank }, 0, 0]
            }
            // Of normal declarations those of the earlier tree win, of important ones those of the later (CSS Cascade 5, §6.1).
            Stage::Context => [u32::MAX - flip(self.context), 0, 0],
            Stage::StyleAttribute => [u32::from(self.attached), 0, 0],
            Stage::Layer => [flip(self.layer.0), 0, 0],
            Stage::Specificity => self.specificity.columns(),
            Stage::Proximity => [self.proximity.map_or(0, |p| u32::MAX - p), 0, 0],
            Stage::Order => [self.order.0, self.order.1, 0],
        }
    }
}

impl Precedence {
    /// All that the stages compare as one number of 256 bits, its upper words first, which sorts as they do one after the
    /// other.
    pub(crate) fn number(&self) -> [u64; 4] {
        let column = |stage: Stage, i: usize| u64::from(self.key(stage)[i]);
        let word =
            |upper: (Stage, usize), lower: (Stage, usize)| column(upper.0, upper.1) << 32 | column(lower.0, lower.1);
        [
            word((Stage::Origin, 0), (Stage::Context, 0)),
            word((Stage::StyleAttribute, 0), (Stage::Layer, 0)),
            word((Stage::Specificity, 0), (Stage::Specificity, 1)),
            word((Stage::Specificity, 2), (Stage::Proximity, 0)),
        ]
    }
}

impl PartialOrd for Precedence {
    fn partial_cmp(&self, other: &Self) -> Option<std::cmp::Ordering> {
        Some(self.cmp(other))
    }
}

impl Ord for Precedence {
    fn cmp(&self, other: &Self) -> std::cmp::Ordering {
        (self.number(), self.order).cmp(&(other.number(), other.order))
    }
}

/// Runs contenders through the stages; gives for each the stage it went out at, and nothing for the winner.
pub(crate) fn run(contenders: &[Precedence]) -> Vec<Option<Stage>> {
    let best = contenders.iter().max();
    contenders.iter().map(|one| out_at(one, best?)).collect()
}

/// The stage at which a declaration goes out where another one wins; nothing where it does not.
pub(crate) fn out_at(one: &Precedence, winner: &Precedence) -> Option<Stage> {
    Stage::ALL.into_iter().find(|stage| one.key(*stage) < winner.key(*stage))
}

#[cfg(test)]
mod tests {
    use super::*;

    /// Numbers that are near each other, and at both ends.
    const SOME: [u32; 5] = [0, 1, 2, u32::MAX - 1, u32::MAX];

    #[test]
    fn the_number_sorts_as_the_stages_do() {
        let mut seed = 1_u64;
        let mut some = |n: usize| {
            seed = seed.wrapping_mul(6_364_136_223_846_793_005).wrapping_add(1_442_695_040_888_963_407);
            (seed >> 33) as usize % n
        };
        let origins = [Origin::Defaults, Origin::User, Origin::PresentationalHint, Origin::Author];
        let mut any = || Precedence {
            origin: origins[some(4)],
            important: some(2) == 0,
            context: some(3) as u32,
            attached: some(4) == 0,
            layer: LayerId([0, 1, 2, LayerId::UNLAYERED.0][some(4)]),
            specificity: Specificity { ids: SOME[some(5)], classes: SOME[some(5)], types: SOME[some(5)] },
            proximity: [None, Some(0), Some(1), Some(u32::MAX - 1)][some(4)],
            order: (SOME[some(5)], SOME[some(5)]),
        };
        for _ in 0..20_000 {
            let (a, b) = (any(), any());
            // The transcription: the first stage at which they differ decides.
            let stages = Stage::ALL.iter().map(|s| a.key(*s).cmp(&b.key(*s)));
            let by_stages = stages.fold(std::cmp::Ordering::Equal, std::cmp::Ordering::then);
            assert_eq!(a.cmp(&b), by_stages, "{a:?} {b:?}");
        }
    }
}
