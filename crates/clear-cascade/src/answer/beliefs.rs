//! Things that people believe about the cascade and that are not so, where one of them is in play on an answer.
//!
//! What comes in: a contest that is settled. What goes out: one plain sentence, or nothing.

use super::ground::Ground;
use crate::cascade::{Origin, Stage};
use crate::document::ElementId;
use crate::selector::{Combinator, Specificity};
use crate::study::Study;
use crate::style::Entry;

/// A contest as far as beliefs are about it.
pub(super) struct Settled<'c, 's> {
    /// The study.
    pub(super) study: &'s Study,
    /// The element.
    pub(super) element: ElementId,
    /// The property.
    pub(super) property: &'c str,
    /// Whether the property inherits.
    pub(super) inherits: bool,
    /// The contenders, strongest first.
    pub(super) contenders: &'c [Entry<'s>],
    /// The stage at which each went out.
    pub(super) stages: &'c [Option<Stage>],
    /// What gives the value that the parent has, strongest first.
    pub(super) around: &'c [Entry<'s>],
    /// Whether the parent has another value.
    pub(super) parent_differs: bool,
    /// What else is declared on the element.
    pub(super) ground: &'c Ground<'s>,
}

impl Settled<'_, '_> {
    /// The belief that is in play, as one sentence about what happens instead.
    pub(super) fn belief(&self) -> Option<String> {
        let winner = self.contenders.first()?;
        let losers = || self.contenders.iter().zip(self.stages).skip(1).filter_map(|(e, s)| s.map(|s| (e, s)));
        losers()
            .find_map(|(loser, stage)| self.between(winner, loser, stage))
            .or_else(|| self.against_the_parent(winner))
            .or_else(|| self.what_stays(winner))
    }

    /// A belief about the winner and one that lost to it.
    fn between(&self, winner: &Entry<'_>, loser: &Entry<'_>, stage: Stage) -> Option<String> {
        let (w, l) = (&winner.precedence(), &loser.precedence());
        if w.origin != Origin::Author || l.origin != Origin::Author {
            return None;
        }
        match stage {
            Stage::Origin if w.important && !l.important && (l.attached || l.specificity > w.specificity) => {
                let heavier = if l.attached { "a `style` attribute" } else { "a heavier selector" };
                Some(format!(
                    "`!important` is no weight: it is settled before weights are looked at, so it wins even over {heavier}."
                ))
            }
            Stage::Layer if w.important => Some(
                "Importance turns the order of layers round: among important declarations the earlier layer wins, and any layer wins over styles outside layers."
                    .to_owned(),
            ),
            Stage::Layer if l.specificity > w.specificity => Some(
                "Layers are settled before selectors are weighed, so the lighter selector in the later layer, or outside layers, wins."
                    .to_owned(),
            ),
            Stage::Specificity => carried_over(w.specificity, l.specificity).or_else(|| self.nearness(winner, loser)),
            Stage::Order => self.place_of_sheets(winner, loser).or_else(|| self.nearness(winner, loser)),
            _ => None,
        }
    }

    /// "External, then embedded, then inline is the order."
    fn place_of_sheets(&self, winner: &Entry<'_>, loser: &Entry<'_>) -> Option<String> {
        let page = self.study.page.document.source;
        let embedded = |e: &Entry<'_>| e.declaration.span.source == page;
        (embedded(loser) && !embedded(winner)).then(|| {
            format!(
                "A `<style>` is not stronger than a linked sheet: both rank by where they stand in the page, and the link to {} stands below it.",
                self.study.sources.at(winner.declaration.span.source).name
            )
        })
    }

    /// "The rule closer to the element wins."
    fn nearness(&self, winner: &Entry<'_>, loser: &Entry<'_>) -> Option<String> {
        let (near, far) = (self.steps_to_ancestor(loser)?, self.steps_to_ancestor(winner)?);
        (near < far).then(|| {
            "The ancestor that the losing selector names is nearer to the element, but nearness decides nothing between selectors (only in `@scope`)."
                .to_owned()
        })
    }

    /// How far the ancestor is that a selector names last before its subject.
    fn steps_to_ancestor(&self, entry: &Entry<'_>) -> Option<usize> {
        let study = self.study;
        let rule = study.page.rules.get(entry.rule() as usize)?;
        let selector = study.page.selectors(rule).selectors.get(entry.selector()? as usize)?;
        let [.., outer, subject] = selector.compounds.as_slice() else { return None };
        if !matches!(subject.combinator, Combinator::Descendant | Combinator::Child) {
            return None;
        }
        let matcher = study.page.matcher();
        study.page.document.lineage(self.element).skip(1).position(|e| matcher.compound(outer, e))
    }

    /// "Links do not inherit colour", and that a heavy rule on an ancestor should win over a light one here.
    fn against_the_parent(&self, winner: &Entry<'_>) -> Option<String> {
        let around = self.around.first()?;
        if !self.inherits || !self.parent_differs || around.origin() != Origin::Author {
            return None;
        }
        let parent = self.study.page.document.label(self.study.page.document.flat_parent(self.element)?);
        let property = self.property;
        let link = self.study.page.document.node(self.element).is_html("a") && property == "color";
        if winner.origin() == Origin::Defaults {
            return Some(if link {
                format!(
                    "Links do inherit colour, but a browser default declares one on the link itself, so what `{parent}` has stops there."
                )
            } else {
                format!(
                    "`{property}` is inherited only where nothing is declared on the element itself, and here a browser default is."
                )
            });
        }
        let heavy = around.precedence().important || around.precedence().specificity > winner.precedence().specificity;
        heavy.then(|| {
            format!("However heavy the rule that sets `{property}` on `{parent}` is: inside it is only inherited, and any declaration on the element itself wins over that.")
        })
    }

    /// "Overridden means deleted."
    fn what_stays(&self, winner: &Entry<'_>) -> Option<String> {
        if winner.origin() != Origin::Author || winner.selector().is_none() {
            return None;
        }
        // A heavier rule that takes another declaration of the winner's rule, but says nothing of this property.
        let rival = self.ground.rival(winner)?;
        let (own, other) = (self.study.selector_text(winner)?, self.study.selector_text(rival)?);
        Some(format!(
            "`{other}` overrides another declaration of `{own}` (`{}`), but does not set `{}`: what is not declared again stays.",
            rival.declaration.name(),
            self.property
        ))
    }
}

/// "Ten classes beat an id."
fn carried_over(winner: Specificity, loser: Specificity) -> Option<String> {
    let names = [("id", "ids"), ("class", "classes, attributes or pseudo-classes"), ("type", "types")];
    let (w, l) = (winner.columns(), loser.columns());
    let decided = w.iter().zip(l).position(|(a, b)| *a != b)?;
    if l.iter().sum::<u32>() <= w.iter().sum() {
        return None;
    }
    let more = (decided + 1..3).find(|i| l[*i] > w[*i])?;
    let one = if w[decided] == 1 {
        format!("one {}", names[decided].0)
    } else {
        format!("{} {}", w[decided], names[decided].1)
    };
    let fewer = if l[more] == 1 {
        format!("one {} does not make up for", names[more].0)
    } else {
        format!("{} {} do not add up to", l[more], names[more].1)
    };
    Some(format!("Columns never carry over: {fewer} {one}."))
}
