//! The words of a contest: who gives the value, and why each contender won or went out.

use super::{Ancestor, Contest, Lineage, ValueFrom};
use crate::cascade::{Origin, Stage};
use crate::selector::Specificity;
use crate::style::Entry;
use crate::value::Wide;

impl<'s> Contest<'s> {
    /// The answer in one sentence.
    pub(super) fn sentence(&self, value: &str, cause: &str) -> String {
        let property = &self.asked.name;
        if value.is_empty() {
            format!("`{property}` has {cause}.")
        } else {
            format!("`{property}` is {value}, {cause}.")
        }
    }

    /// Where a value comes from, without the value: `set by …`; in words for `many` properties or for one.
    pub(super) fn cause(
        &self,
        value: &str,
        from: ValueFrom,
        source: Option<&Entry<'s>>,
        lineage: &Lineage,
        many: bool,
    ) -> String {
        let of_one = || match self.asked.longhand.filter(|longhand| !self.style.is_initial(*longhand)) {
            // Such as `display` of what floats.
            Some(longhand) if from == ValueFrom::Initial => {
                format!("made of its initial value, `{}`", longhand.initial().text())
            }
            _ => "its initial value".to_owned(),
        };
        let (sets_it, initial) =
            if many { ("sets them", "their initial values".to_owned()) } else { ("sets it", of_one()) };
        let (here, no_inheritance) = ("here or further out", if many { "they do" } else { "it does" });
        // Only `revert` and its kin lead on to nothing.
        let leaves_nothing = || {
            let entry = self.contenders.first().filter(|_| source.is_none())?;
            let keyword = self.wide(entry)?.name();
            Some(format!("{initial}: `{keyword}` of {} leaves nothing that {sets_it}", self.name(entry)))
        };
        match (from, source) {
            _ if value.is_empty() => match source {
                Some(entry) => format!("no value: {} comes to nothing", self.name(entry)),
                None if lineage.given.is_some() => {
                    let (giver, given) = (lineage.steps.last(), lineage.given.as_ref());
                    let name = given.map(|(name, _)| name.as_str()).unwrap_or_default();
                    let on = giver.map(Ancestor::name).unwrap_or_default();
                    format!("no value: {name} on `{on}` comes to nothing")
                }
                None => match lineage.steps.last().and_then(|step| Some((step.name(), step.declaration.as_ref()?))) {
                    Some((on, place)) => format!("no value: what is declared on `{on}` in {place} comes to nothing"),
                    None => format!("no value: nobody {sets_it} {here}"),
                },
            },
            (ValueFrom::Declared, Some(entry)) => format!("set by {}", self.name(entry)),
            (ValueFrom::Inherited, keyword) => {
                let by = keyword.map(|k| format!(" because of {}", self.name(k))).unwrap_or_default();
                let (Some(giver), Some((name, _))) = (lineage.steps.last(), &lineage.given) else {
                    if let Some(outer) = self.cut_off_from(lineage) {
                        let outer = self.study.page.document.label(outer);
                        return format!(
                            "{initial}{by}: a box of the browser's own, inside of `{outer}`, does not hand it on"
                        );
                    }
                    let where_none = if by.is_empty() { here } else { "further out" };
                    let text = || format!("{initial}{by}: nobody {sets_it} {where_none}");
                    return leaves_nothing().unwrap_or_else(text);
                };
                let it_is = if many { "they are" } else { "it is" };
                format!("inherited{by} from `{}` ({}), where {it_is} set by {name}", giver.name(), giver.at)
            }
            (ValueFrom::Initial, Some(entry)) => format!("{initial}, because of {}", self.name(entry)),
            _ => leaves_nothing()
                .unwrap_or_else(|| format!("{initial}: nobody {sets_it} here, and {no_inheritance} not inherit")),
        }
    }

    /// A declaration in a few words: what took the element, and where it is.
    pub(super) fn name(&self, entry: &Entry<'s>) -> String {
        let place = self.study.sources.placed(entry.declaration.span);
        match (entry.origin(), self.study.selector_text(entry)) {
            (Origin::PresentationalHint, _) => match self.hint_attribute(entry) {
                Some(name) => format!("the attribute `{name}` in {place}"),
                None => format!("an attribute in {place}"),
            },
            (_, None) => format!("the `style` attribute in {place}"),
            (Origin::Defaults, Some(selector)) => {
                format!("the browser default `{selector}` ({place})")
            }
            (Origin::User, Some(selector)) => {
                format!("`{selector}` in the user stylesheet {place}")
            }
            (_, Some(selector)) => format!("`{selector}` in {place}"),
        }
    }

    /// The attribute that a presentational hint comes from.
    fn hint_attribute(&self, entry: &Entry<'s>) -> Option<String> {
        let start = entry.declaration.span.start;
        let all = self.study.page.document.light().iter().flat_map(|e| &e.attributes);
        all.filter(|a| a.value_span.start <= start).max_by_key(|a| a.value_span.start).map(|a| a.name.to_string())
    }

    /// Why the winner won.
    pub(super) fn won_reason(&self, winner: &Entry<'s>, settled: Option<Stage>) -> String {
        let rolls = match self.wide(winner) {
            Some(wide @ (Wide::Revert | Wide::RevertLayer | Wide::RevertRule)) => {
                let what = match wide {
                    Wide::Revert => "origin",
                    Wide::RevertLayer => "layer",
                    _ => "rule",
                };
                match self.source().1 {
                    Some(to) => format!(
                        "; as `{}` it hands on to what weaker declarations outside its {what} say: {}",
                        wide.name(),
                        self.name(to)
                    ),
                    None => {
                        format!("; as `{}` it leaves its {what} out, and nothing else sets the property", wide.name())
                    }
                }
            }
            _ => String::new(),
        };
        match settled {
            None => format!("nothing else wants to set it{rolls}"),
            Some(stage) => format!("settled at {}{rolls}", stage.name()),
        }
    }

    /// Why a contender went out at a stage that the winner passed.
    pub(super) fn lost_reason(&self, entry: &Entry<'s>, winner: &Entry<'s>, stage: Stage) -> String {
        let (a, b) = (&entry.precedence(), &winner.precedence());
        match stage {
            Stage::Origin if b.important && !a.important => {
                "the winner is `!important`, and this one is not".to_owned()
            }
            Stage::Origin if a.important && b.important => {
                format!(
                    "where both are important, {} outrank {}: importance turns the order of origins round",
                    styles_of(b.origin),
                    styles_of(a.origin)
                )
            }
            Stage::Origin => format!("{} outrank {}", styles_of(b.origin), styles_of(a.origin)),
            Stage::Context if b.important => {
                "where both are important, the shadow tree outranks the tree around it: importance turns that order round".to_owned()
            }
            Stage::Context => "styles of the tree around a shadow tree outrank those inside it".to_owned(),
            Stage::StyleAttribute => "a `style` attribute outranks every selector".to_owned(),
            Stage::Layer => self.layer_reason(entry, winner),
            Stage::Specificity => specificity_reason(a.specificity, b.specificity),
            Stage::Proximity => match (a.proximity, b.proximity) {
                (Some(far), Some(near)) => {
                    format!("its scoping root is {far} steps up, the winner's only {near}")
                }
                _ => "the winner is in an `@scope`, and this one is not".to_owned(),
            },
            Stage::Order if a.origin == Origin::PresentationalHint => "the other attribute comes later".to_owned(),
            Stage::Order => "the same weight, and the winner comes later".to_owned(),
        }
    }

    /// Why a layer lost.
    fn layer_reason(&self, entry: &Entry<'s>, winner: &Entry<'s>) -> String {
        let name = |e: &Entry<'s>| {
            self.study.page.rules.get(e.rule() as usize).and_then(|r| self.study.page.layer_name(r)).map(str::to_owned)
        };
        let (own, other) = (name(entry), name(winner));
        match (own, other, winner.precedence().important) {
            (Some(own), None, false) => {
                format!("it is in layer `{own}`, and styles outside layers outrank every layer")
            }
            (None, Some(other), true) => {
                format!("among important declarations, layer `{other}` outranks styles outside layers")
            }
            (Some(own), Some(other), false) => format!("layer `{other}` comes after `{own}`"),
            (Some(own), Some(other), true) => {
                format!("among important declarations the order of layers turns round: `{other}` outranks `{own}`")
            }
            _ => "the winner's layer outranks this one's".to_owned(),
        }
    }
}

/// The styles of an origin in plain words.
fn styles_of(origin: Origin) -> &'static str {
    match origin {
        Origin::Defaults => "browser defaults",
        Origin::User => "the user's styles",
        Origin::Author => "the page's own styles",
        Origin::PresentationalHint => "HTML attributes",
    }
}

/// Why a lighter selector lost: the first column that differs.
fn specificity_reason(own: Specificity, other: Specificity) -> String {
    let names = ["ids", "classes, attributes and pseudo-classes", "types and pseudo-elements"];
    let differs = own.columns().iter().zip(other.columns()).position(|(a, b)| *a != b).unwrap_or(0);
    let (a, b) = (own.columns()[differs], other.columns()[differs]);
    format!("({own}) is lighter than ({other}): {a} against {b} in the column of {}", names[differs])
}
