//! Where a value comes from: whom it is inherited from, who gives it, and the steps that lead to it.

use super::{Ancestor, Contest, Lineage, ValueFrom};
use crate::answer::asked::About;
use crate::answer::derive;
use crate::document::ElementId;
use crate::property::{PropertyId, id};
use crate::selector::PseudoElement;
use crate::source::{Place, Span};
use crate::study::{StepOfSize, Study};
use crate::style::{self, Around, Entry};

/// How many font sizes of elements around are followed to where they are set.
const MOST_SIZES: usize = 12;

impl<'s> Contest<'s> {
    /// The element and its ancestors as far as inheritance leads, boxes of the browser's own among them; only itself where
    /// nothing is inherited.
    pub(super) fn lineage(&self, from: ValueFrom, source: Option<&Entry<'s>>) -> Lineage {
        let study = self.study;
        let (mut steps, mut given) = (Vec::new(), None);
        self.outwards(from, source, &mut |contest, from, source| {
            steps.push(Ancestor {
                element: contest.element,
                label: study.page.document.label(contest.element),
                pseudo: contest.pseudo.map(ToString::to_string),
                at: study.sources.placed(study.page.document.span(contest.element)),
                value: study.asked_value(&contest.style, &self.asked),
                from,
                declaration: source.map(|e| study.sources.placed(e.declaration.span)),
            });
            given = source
                .filter(|_| from == ValueFrom::Declared && steps.len() > 1)
                .map(|e| (contest.name(e), e.declaration.span));
        });
        Lineage { steps, given }
    }

    /// Calls `f` with the contests of that lineage, where each value comes from and the declaration that gives it.
    fn outwards(
        &self,
        mut from: ValueFrom,
        source: Option<&Entry<'s>>,
        f: &mut dyn for<'c> FnMut(&Contest<'c>, ValueFrom, Option<&Entry<'c>>),
    ) {
        let study = self.study;
        f(self, from, source);
        let (mut id, mut of_box) = (self.element, self.pseudo.is_some());
        let mut highlight = self.along_highlights();
        while from == ValueFrom::Inherited {
            if let Some(parent) = highlight {
                let Some(parent) = parent else { break };
                let contest = self.beside(parent, self.pseudo);
                let (from_here, source) = contest.source();
                (from, highlight) = (from_here, contest.along_highlights());
                f(&contest, from, source);
                continue;
            }
            let styles = study.styles();
            let around = if of_box { Around::Parent } else { Around::of(&study.page, id) };
            if !of_box && around.is_plain() && !self.inherits() {
                break;
            }
            if !of_box {
                let Some(parent) = study.page.document.flat_parent(id) else { break };
                id = parent;
            }
            // Boxes that no rule aims at only hand on what they get.
            let pseudo = around.pseudo().filter(|name| styles.of(id, Some(name)).is_some());
            of_box = pseudo.is_some();
            let contest = self.beside(id, pseudo);
            let (from_here, source) = contest.source();
            from = from_here;
            f(&contest, from, source);
        }
    }

    /// Where this is a highlight whose value is inherited from the same highlight of the parent (CSS Pseudo 4, §3.5): what that is of, if
    /// there is one. Custom properties are those of the element that a highlight is over, and so is the colour where no highlight says one.
    pub(super) fn along_highlights(&self) -> Option<Option<ElementId>> {
        let longhand = self.asked.longhand?;
        let applies = style::applying_to(self.pseudo.filter(|name| name.is_highlight())?)?.has(longhand);
        let keeps = longhand == id::COLOR && self.style.keeps_color();
        (applies && !keeps).then(|| self.study.page.document.flat_parent(self.element))
    }

    /// What is around the last element of a lineage, where a box of the browser's own is between the two that does not hand the property
    /// on.
    pub(super) fn cut_off_from(&self, lineage: &Lineage) -> Option<ElementId> {
        let page = &self.study.page;
        let last = lineage.steps.last().filter(|step| step.pseudo.is_none() && !self.inherits())?;
        page.document.flat_parent(last.element).filter(|_| Around::of(page, last.element).is_plain())
    }

    /// Whether the property inherits here.
    pub(super) fn inherits(&self) -> bool {
        match (self.asked.longhand, self.pseudo) {
            (None, _) => self.registered_inherits(),
            (Some(longhand), Some(pseudo)) if pseudo.is_highlight() => {
                self.along_highlights().is_some() || style::is_kept_under_highlights(longhand)
            }
            (Some(longhand), _) => longhand.inherits(),
        }
    }

    /// The steps from what was written to the computed value.
    pub(super) fn derivation(&self, source: Option<&Entry<'s>>, value: &str) -> derive::Steps {
        let Some(entry) = source else {
            return derive::Steps::default();
        };
        let subject = About { study: self.study, element: self.element, pseudo: self.pseudo };
        derive::steps(&subject, entry, &self.asked, &self.style, value)
    }

    /// The same to the end: an inherited value from who gives it, and font sizes that steps are relative to from where they
    /// are set.
    pub(super) fn derivation_to_the_end(
        &self,
        (from, source): (ValueFrom, Option<&Entry<'s>>),
        giver: Option<&(Contest<'s>, Entry<'s>)>,
        value: &str,
    ) -> Vec<String> {
        let mut steps = self.derivation(source, value).all();
        if let (ValueFrom::Initial, Some(longhand)) = (from, self.asked.longhand) {
            steps.extend(derive::of_initial(&self.ground.about, longhand, &self.style, value));
        }
        let mut of = (self.element, self.pseudo);
        if let Some((contest, given)) = giver.filter(|_| from == ValueFrom::Inherited) {
            let further = contest.derivation(Some(given), value).all();
            let label = format!("{}{}", self.study.page.document.label(contest.element), of_box(contest.pseudo));
            steps.extend(further.into_iter().map(|step| format!("on `{label}`: {step}")));
            of = (contest.element, contest.pseudo);
        }
        let mut from = derive::font_size_of_whom(self.study, of, &steps);
        for _ in 0..MOST_SIZES {
            let Some((step, further)) = from.and_then(|element| self.study.step_of_font_size(element)) else { break };
            steps.push(step);
            from = further;
        }
        steps
    }

    /// The contest that gives the value, here or where it is inherited from, and the declaration that does.
    pub(super) fn giver(&self) -> Option<(Contest<'s>, Entry<'s>)> {
        let (from, source) = self.source();
        let (mut last, mut steps) = ((self.element, false), 0);
        self.outwards(from, source, &mut |contest, _, _| {
            last = (contest.element, contest.pseudo.is_some());
            steps += 1;
        });
        self.giver_at(last, steps == 1)
    }

    /// The same where the way that inheritance leads is known.
    pub(super) fn giver_at_the_end(&self, lineage: &Lineage) -> Option<(Contest<'s>, Entry<'s>)> {
        let last = lineage.steps.last()?;
        self.giver_at((last.element, last.pseudo.is_some()), lineage.steps.len() == 1)
    }

    /// The same where the last element on that way is known, with whether a box of the browser's own on it is meant, and whether it is
    /// the first as well.
    fn giver_at(&self, (element, is_box): (ElementId, bool), own: bool) -> Option<(Contest<'s>, Entry<'s>)> {
        // Boxes of the browser's own are left out: nobody declares anything on them that is worth a step.
        let highlight = self.pseudo.filter(|_| is_box && self.along_highlights().is_some());
        if !own && is_box && highlight.is_none() {
            return None;
        }
        let contest = match own {
            true => self.clone(),
            false => self.beside(element, highlight),
        };
        let given = contest.source().1.cloned()?;
        Some((contest, given))
    }

    /// Whom the value without all contenders would be inherited from.
    pub(super) fn otherwise_by(&self, otherwise: &str) -> Option<String> {
        let (parent, highlight) = match (self.pseudo, self.along_highlights()) {
            (_, Some(around)) => (around, self.pseudo),
            (Some(_), None) => (Some(self.element), None),
            (None, None) => (self.study.page.document.flat_parent(self.element), None),
        };
        let around = self.beside(parent.filter(|_| self.inherits())?, highlight);
        if self.study.asked_value(&around.style, &self.asked) != otherwise {
            return None;
        }
        let (from, source) = around.source();
        let lineage = around.lineage(from, source);
        let giver = match from {
            ValueFrom::Declared => (
                format!("{}{}", around.study.page.document.label(around.element), of_box(around.pseudo)),
                around.name(source?),
            ),
            ValueFrom::Inherited => (lineage.steps.last()?.name(), lineage.given?.0),
            ValueFrom::Initial => return None,
        };
        Some(format!("inherited from `{}`, where it is set by {}", giver.0, giver.1))
    }
}

impl Study {
    /// Where a property of an element or pseudo-element has its value from, and the declaration that gives it: `revert` and
    /// its kin lead on, and what comes to nothing gives nothing.
    pub(in crate::answer) fn given<'s>(
        &'s self,
        element: ElementId,
        pseudo: Option<&'s PseudoElement>,
        property: &str,
    ) -> Option<(ValueFrom, Option<Entry<'s>>)> {
        Some(contest(self, element, pseudo, property)?.1)
    }

    /// The element or pseudo-element that gives a property its value, as inheritance leads.
    pub(in crate::answer) fn giver_along<'s>(
        &'s self,
        element: ElementId,
        pseudo: Option<&'s PseudoElement>,
        property: &str,
    ) -> Option<(ElementId, Option<&'s PseudoElement>)> {
        let (giver, _) = contest(self, element, pseudo, property)?.0.giver()?;
        Some((giver.element, giver.pseudo))
    }

    /// Where the font size of an element comes from, as a step, and whose font size that is relative to; nothing where there is no
    /// more to tell than its value.
    fn step_of_font_size(&self, element: ElementId) -> Option<StepOfSize> {
        let step = || {
            let size = self.asked(element, None, "font-size").ok()?;
            let (contest, given) = Contest::new(self, element, None, &size).giver()?;
            let value = self.asked_value(&contest.style, &size);
            let steps = contest.derivation(Some(&given), &value).all();
            if steps.is_empty() {
                return None;
            }
            let label = self.page.document.label(contest.element);
            let place = self.sources.placed(given.declaration.span);
            let further = derive::font_size_of_whom(self, (contest.element, None), &steps);
            Some((format!("font-size of `{label}`, set at {place}: {}", steps.join("; ")), further))
        };
        self.known.sizes.get_or(element, step)
    }

    /// Where the declaration is written that gives a longhand of an element its value, here or further out.
    pub(crate) fn given_at(&self, element: ElementId, property: PropertyId) -> Option<Place> {
        let given = self.known.given.get_or((element, property), || self.span_given(element, property.name()));
        given.map(|span| self.sources.placed(span))
    }

    /// The span of that declaration.
    fn span_given(&self, element: ElementId, property: &str) -> Option<Span> {
        let (contest, (from, source)) = contest(self, element, None, property)?;
        let mut last = None;
        contest.outwards(from, source.as_ref(), &mut |_, _, source| last = source.map(|e| e.declaration.span));
        last
    }
}

/// A pseudo-element behind the label of its element.
fn of_box(pseudo: Option<&PseudoElement>) -> String {
    pseudo.map(ToString::to_string).unwrap_or_default()
}

/// The contest for a property by its name, where the value comes from, and the declaration that gives it.
fn contest<'s>(
    study: &'s Study,
    element: ElementId,
    pseudo: Option<&'s PseudoElement>,
    property: &str,
) -> Option<(Contest<'s>, (ValueFrom, Option<Entry<'s>>))> {
    let asked = study.asked(element, pseudo, property).ok()?;
    let contest = Contest::new(study, element, pseudo, &asked);
    let (from, source) = contest.source();
    let source = source.cloned();
    Some((contest, (from, source)))
}
/// Where a value of an element comes from, in words that go on after it.
pub(in crate::answer) fn cause_of(
    study: &Study,
    element: ElementId,
    pseudo: Option<&PseudoElement>,
    property: &str,
) -> Option<String> {
    let (contest, (from, source)) = contest(study, element, pseudo, property)?;
    let value = study.asked_value(&contest.style, &contest.asked);
    let lineage = contest.lineage(from, source.as_ref());
    Some(contest.cause(&value, from, source.as_ref(), &lineage, false))
}

/// A value of an element with its cause: "`display` is none, set by …".
pub(in crate::answer) fn value_and_cause(
    study: &Study,
    element: ElementId,
    pseudo: Option<&PseudoElement>,
    property: PropertyId,
) -> String {
    let value = study.style_of(element, pseudo).text(property);
    let cause = cause_of(study, element, pseudo, property.name()).map(|c| format!(", {c}")).unwrap_or_default();
    format!("`{}` is {value}{cause}", property.name())
}
