//! What is seen instead of a value: the element is not shown, something else is painted over it, or it makes no box.
//!
//! What comes in: an element and a property. What goes out: clauses, each with what decides and where that is set. Only what
//! computed values show is told; what needs layout is not.

use super::why::value_and_cause;
use crate::document::ElementId;
use crate::property::{PropertyId, id};
use crate::selector::PseudoElement;
use crate::study::Study;
use crate::style::{Entry, Style, is_generated};

/// An element or pseudo-element and a property of it.
struct Seen<'s> {
    /// The study.
    study: &'s Study,
    /// The element.
    element: ElementId,
    /// The pseudo-element.
    pseudo: Option<&'s PseudoElement>,
    /// The longhand, physical.
    property: PropertyId,
    /// The values.
    style: &'s Style,
    /// The declaration that wins.
    winner: Option<&'s Entry<'s>>,
}

impl Study {
    /// Why a value of an element or pseudo-element is not what one sees.
    pub(super) fn seen_instead(
        &self,
        element: ElementId,
        pseudo: Option<&PseudoElement>,
        property: PropertyId,
        (style, winner): (&Style, Option<&Entry<'_>>),
    ) -> Vec<String> {
        let seen = Seen { study: self, element, pseudo, property, style, winner };
        let mut told: Vec<String> = Vec::new();
        told.extend(seen.no_box());
        told.extend(seen.not_shown());
        told.extend(seen.invisible());
        told.extend(seen.faded());
        told.extend(seen.painted());
        told.extend(seen.background());
        told.extend(seen.decorated());
        told.extend(seen.not_hovered());
        told.extend(seen.without_effect());
        told
    }
}

impl Seen<'_> {
    /// A value with its cause: `display` is none, set by ….
    fn with_cause(&self, element: ElementId, pseudo: Option<&PseudoElement>, property: PropertyId) -> String {
        value_and_cause(self.study, element, pseudo, property)
    }

    /// The element, then those around it.
    fn lineage(&self) -> impl Iterator<Item = ElementId> + '_ {
        self.study.page.document.flat_lineage(self.element)
    }

    /// The name of an element as it is told from the one asked about.
    fn whose(&self, element: ElementId) -> String {
        if element == self.element && self.pseudo.is_none() {
            "it".to_owned()
        } else {
            format!("`{}`", self.study.page.document.label(element))
        }
    }

    /// A pseudo-element that makes no box.
    fn no_box(&self) -> Option<String> {
        let name = self.pseudo?;
        let document = &self.study.page.document;
        if self.property == id::CONTENT
            || is_generated(name, self.style, self.study.style(self.element), document.node(self.element))
        {
            return None;
        }
        let label = document.label(self.element);
        Some(match &*name.name {
            "before" | "after" => {
                format!("`{label}{name}` makes no box: {}", self.with_cause(self.element, self.pseudo, id::CONTENT))
            }
            "marker" => format!("`{label}` is no list item, so it has no `{name}`"),
            _ => format!("`{label}` has no `{name}`"),
        })
    }

    /// An element around it, or itself, that is not shown.
    fn not_shown(&self) -> Option<String> {
        let hidden = |e: &ElementId| self.study.style(*e).get(id::DISPLAY).is("none");
        let own = self.pseudo.is_none() && self.property == id::DISPLAY;
        let outermost = self.lineage().filter(hidden).last().filter(|e| !own || *e != self.element)?;
        let whose = self.whose(outermost);
        let cause = self.with_cause(outermost, None, id::DISPLAY);
        Some(if whose == "it" {
            format!("it is not shown at all: {cause}")
        } else {
            format!("it is not shown at all, as {whose} around it is not: {cause}")
        })
    }

    /// Whether it is hidden and keeps its room.
    fn invisible(&self) -> Option<String> {
        if self.property == id::VISIBILITY || self.style.get(id::VISIBILITY).is("visible") {
            return None;
        }
        Some(format!("it cannot be seen: {}", self.with_cause(self.element, self.pseudo, id::VISIBILITY)))
    }

    /// What is seen through.
    fn faded(&self) -> Option<String> {
        let opacity = |e: &ElementId| -> f64 {
            let style = self.study.style(*e);
            if style.is_initial(id::OPACITY) { 1.0 } else { style.text(id::OPACITY).parse().unwrap_or(1.0) }
        };
        let color = self.property.name().ends_with("color");
        let least = self.lineage().min_by(|a, b| opacity(a).total_cmp(&opacity(b)))?;
        if self.property == id::OPACITY && least == self.element {
            return None;
        }
        let whose = || self.whose(least).replace("it", "this element");
        let cause = || self.with_cause(least, None, id::OPACITY);
        match opacity(&least) {
            0.0 => Some(format!("nothing of {} can be seen: {}", whose(), cause())),
            n if n < 1.0 && color => Some(format!("what lies behind {} shows through: {}", whose(), cause())),
            _ => None,
        }
    }

    /// A colour of text that is not the one that text is painted in.
    fn painted(&self) -> Option<String> {
        if self.property != id::COLOR {
            return None;
        }
        let fill = PropertyId::named("-webkit-text-fill-color")?;
        let (color, painted) = (self.style.text(id::COLOR), self.style.text(fill));
        if self.style.text(id::BACKGROUND_CLIP).split(", ").any(|c| c == "text") && painted.ends_with(", 0)") {
            let clip = self.with_cause(self.element, self.pseudo, id::BACKGROUND_CLIP);
            return Some(format!(
                "the letters are transparent, and the background shows in their shape: {clip}; ask about `background-image` and `background-color`"
            ));
        }
        let cause = || self.with_cause(self.element, self.pseudo, fill);
        (color != painted).then(|| format!("letters are painted in another colour: {}", cause()))
    }

    /// Backgrounds that are painted elsewhere, or over which something is.
    fn background(&self) -> Option<String> {
        if !self.property.name().starts_with("background-") || self.pseudo.is_some() {
            return None;
        }
        let has = |e: ElementId| {
            let style = self.study.style(e);
            !style.get(id::BACKGROUND_IMAGE).is("none") || !style.text(id::BACKGROUND_COLOR).ends_with(", 0)")
        };
        let document = &self.study.page.document;
        let root = document.id(0).filter(|r| document.node(*r).is_html("html"))?;
        let body = document.node(root).child_elements().find(|e| document.node(*e).is_html("body"));
        if let Some(body) = body.filter(|b| !has(root) && has(*b)) {
            // CSS Backgrounds 3, §2.11.2 "The canvas background and the HTML <body> element".
            if self.element == root {
                let cause = self.with_cause(body, None, self.property);
                return Some(format!(
                    "the background of `body` covers the whole page, as `html` has none: its {cause}"
                ));
            }
            if self.element == body && has(body) {
                return Some("it covers the whole page, not only the box of `body`, as `html` has none".to_owned());
            }
        }
        let image = self.property == id::BACKGROUND_COLOR && !self.style.get(id::BACKGROUND_IMAGE).is("none");
        image.then(|| {
            let cause = self.with_cause(self.element, None, id::BACKGROUND_IMAGE);
            format!("an image is painted over it: {}", crate::text::shorten(&cause, 200))
        })
    }

    /// A line that an element around draws through its text (CSS Text Decoration 3, §2.1).
    fn decorated(&self) -> Option<String> {
        if self.property != id::TEXT_DECORATION_LINE || self.pseudo.is_some() {
            return None;
        }
        let document = &self.study.page.document;
        let mut inner = self.element;
        loop {
            let style = self.study.style(inner);
            let out_of_flow = !style.get(id::FLOAT).is("none")
                || matches!(style.get(id::POSITION).as_keyword(), Some("absolute" | "fixed"))
                || style.get(id::DISPLAY).as_keyword().is_some_and(|d| d.starts_with("inline-"));
            if out_of_flow {
                return None;
            }
            let outer = document.flat_parent(inner)?;
            if !self.study.style(outer).get(id::TEXT_DECORATION_LINE).is("none") {
                let cause = self.with_cause(outer, None, id::TEXT_DECORATION_LINE);
                return Some(format!(
                    "the line of `{}` around it goes on through its text, whatever is set here: its {cause}",
                    document.label(outer)
                ));
            }
            inner = outer;
        }
    }

    /// An element that the pointer does not reach, though it is asked for as hovered.
    fn not_hovered(&self) -> Option<String> {
        let hovered = self.study.page.viewing.states.hover.contains(&self.element);
        let through = self.style.get(id::POINTER_EVENTS).is("none") && self.property != id::POINTER_EVENTS;
        (hovered && through && self.pseudo.is_none()).then(|| {
            let cause = self.with_cause(self.element, None, id::POINTER_EVENTS);
            format!("the pointer never reaches it, so that it is hovered only because it was asked for: {cause}")
        })
    }

    /// What is set and does nothing on this kind of box.
    fn without_effect(&self) -> Option<String> {
        let winner = self.winner.filter(|_| self.pseudo.is_none() && !self.style.get(id::DISPLAY).is("none"))?;
        let (reason, passage) = self.study.no_effect(self.element, self.property, winner)?;
        Some(format!("it does nothing on this element: {reason} ({passage})"))
    }
}
