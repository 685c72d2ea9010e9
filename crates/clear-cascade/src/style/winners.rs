//! From declarations to the computed values of one element.

use std::sync::Arc;

use super::Style;
use super::adjust;
use super::cascaded::{Cascaded, Said, cascaded};
use super::compute::{self, Env};
use super::custom;
use super::entry::{Entry, Subject, Target};
use super::function;
use super::query;
use super::reading::{Last, Reading};
use crate::cascade::Origin;
use crate::document::Name;
use crate::property::Declared;
use crate::property::{Flow, Longhands, PropertyId, id};
use crate::style::substitution;
use crate::syntax::Slice;
use crate::value::{Context, CustomValue, Value, Wide};

/// Computes all longhands and custom properties from declarations, weakest first, from the values that are inherited; of a highlight
/// the values of the element that it is over come besides.
pub(crate) fn compute_style(
    subject: &Subject<'_>,
    entries: &[Entry<'_>],
    (parent, under): (Option<&Style>, Option<&Style>),
    root: Option<&Style>,
) -> Style {
    let viewing = &subject.page.viewing;
    let context = Context {
        viewport: (viewing.width, viewing.height),
        quirks: subject.page.document.quirks,
        sibling: match subject.page.counts_siblings {
            true => subject.page.document.place_among_siblings(subject.element),
            false => Context::default().sibling,
        },
        root_font_size: root.map_or(16.0, |r| r.context.font_size),
        root_line_height: root.map_or(19.2, |r| r.context.line_height),
        ..parent.map_or_else(Context::default, |p| p.context.clone())
    };
    let mut style = parent.filter(|_| under.is_some()).cloned().unwrap_or_else(|| Style::start(parent));
    if style.context != context {
        style.change().context = context;
    }
    let known = subject.custom.filter(|_| subject.page.is_untyped() || !types_depend(entries));
    let custom = known.cloned().unwrap_or_else(|| custom::resolve(subject, entries, parent, &style));
    if !Arc::ptr_eq(&style.custom, &custom) {
        style.change().custom = custom;
    }
    let known = (style.context.font_size, style.context.line_height, style.dark);
    let mut work = Work { subject, entries, parent, under, root, style, last: Last::default() };
    let mut slots = Slots { set: Longhands::default(), strongest: [0; PropertyId::COUNT] };
    work.flow(&mut slots);
    work.style.expect(&slots.set);
    for property in FIRST {
        if property == id::COLOR {
            work.type_custom(known);
        }
        work.apply_from(property, slots.strongest(property));
        // Whether colours are dark follows from what is inherited, where it is not set.
        if property != id::COLOR_SCHEME || slots.has(property) || work.parent.is_none() {
            work.settle(property);
        }
    }
    if parent.is_none() && !slots.has(id::COLOR) {
        let color = compute::compute(id::COLOR, &id::COLOR.initial(), &work.env(None));
        work.style.set(id::COLOR, color);
    }
    let mut others = slots.set;
    FIRST.iter().chain(&[id::WRITING_MODE, id::DIRECTION]).for_each(|p| others.remove(*p));
    for property in others.iter() {
        work.apply_from(property, slots.strongest(property));
    }
    let mut style = work.style;
    let document = &subject.page.document;
    if document.quirks && subject.pseudo.is_none() && document.node(subject.element).is_html("body") {
        style.change().body_color = Some(style.get(id::COLOR).clone());
    }
    adjust::adjust(&mut style, subject, parent, entries);
    style.settle();
    style
}

/// The longhands that others are computed against, in the order in which they depend on each other.
const FIRST: [PropertyId; 7] =
    [id::COLOR_SCHEME, id::MATH_STYLE, id::MATH_DEPTH, id::FONT_FAMILY, id::FONT_SIZE, id::LINE_HEIGHT, id::COLOR];

/// The longhands that the types of registered custom properties go by: what their lengths are relative to, and whether
/// colours are dark ones.
const TYPES_GO_BY: [PropertyId; 8] = [
    id::WRITING_MODE,
    id::DIRECTION,
    id::COLOR_SCHEME,
    id::MATH_STYLE,
    id::MATH_DEPTH,
    id::FONT_FAMILY,
    id::FONT_SIZE,
    id::LINE_HEIGHT,
];

/// Whether the types of registered custom properties go by what declarations set.
pub(crate) fn types_go_by(target: &Target<'_>) -> bool {
    matches!(target, Target::Longhand(property) if TYPES_GO_BY.contains(property))
}

/// Whether what the types of registered custom properties go by may itself depend on custom properties.
pub(crate) fn types_depend(entries: &[Entry<'_>]) -> bool {
    entries.iter().any(|e| matches!(e.declared, Some(Declared::Substitute(_))) && types_go_by(&e.property))
}

/// Which physical longhands declarations set.
struct Slots {
    /// Those that some declaration sets.
    set: Longhands,
    /// The strongest entry of each of them.
    strongest: [u32; PropertyId::COUNT],
}

impl Slots {
    /// Takes down those of declarations, weakest first, as text flows.
    fn fill(&mut self, entries: &[Entry<'_>], flow: Flow) {
        self.set = Longhands::default();
        for (i, entry) in entries.iter().enumerate() {
            if let Target::Longhand(property) = entry.property {
                let property = flow.physical(property);
                self.set.add(property);
                self.strongest[property.index()] = crate::source::offset(i);
            }
        }
    }

    /// Whether some declaration sets a longhand.
    fn has(&self, property: PropertyId) -> bool {
        self.set.has(property)
    }

    /// The strongest entry of a longhand.
    fn strongest(&self, property: PropertyId) -> Option<usize> {
        self.has(property).then(|| self.strongest[property.index()] as usize)
    }
}

/// The work on one element.
struct Work<'w, 's> {
    /// What for.
    subject: &'w Subject<'s>,
    /// The declarations, weakest first.
    entries: &'w [Entry<'s>],
    /// The parent's values.
    parent: Option<&'w Style>,
    /// Of a highlight, those of the element that it is over.
    under: Option<&'w Style>,
    /// The root's values.
    root: Option<&'w Style>,
    /// The values so far.
    style: Style,
    /// What the last declaration with `var()` came to.
    last: Last,
}

impl<'w, 's> Work<'w, 's> {
    /// Finds out how text flows, on which the meaning of flow-relative properties depends, and what is set as it flows.
    fn flow(&mut self, slots: &mut Slots) {
        let around = self.parent.map(|p| p.flow).unwrap_or_default();
        slots.fill(self.entries, around);
        for property in [id::WRITING_MODE, id::DIRECTION] {
            self.apply_from(property, slots.strongest(property));
        }
        let text = |p: PropertyId| self.style.get(p).as_keyword().unwrap_or_default();
        let flow = Flow::new(text(id::WRITING_MODE), text(id::DIRECTION));
        if (flow, flow.vertical) != (self.style.flow, self.style.context.vertical) {
            let heritage = self.style.change();
            (heritage.flow, heritage.context.vertical) = (flow, flow.vertical);
        }
        if flow != around {
            slots.fill(self.entries, flow);
        }
    }

    /// Sets a longhand from the declaration at a place, or one before it.
    fn apply_from(&mut self, property: PropertyId, strongest: Option<usize>) {
        let Some(strongest) = strongest else { return };
        let entry = &self.entries[strongest];
        if let (Some(Declared::Value(value)), false) = (entry.declared, property == id::FONT_SIZE) {
            // Nearly always it is simply said.
            self.note_color(property, Some(value));
            let value = compute::compute(property, value, &self.env(Some(entry)));
            return self.style.set(property, value);
        }
        let style = &self.style;
        let about = self.entries[..=strongest].iter().rev().filter(|e| match e.property {
            Target::Longhand(declared) => declared == property || style.flow.physical(declared) == property,
            Target::Custom(_) => false,
        });
        let (cascaded, by) = cascaded(about, |entry| said(self.subject, entry, style, &self.last));
        let inherits = match cascaded {
            Cascaded::Inherit => true,
            Cascaded::Unset => property.inherits() || self.under.is_some(),
            Cascaded::Value(_) | Cascaded::Initial => false,
        };
        let mut given = None;
        if let Cascaded::Value(value) = cascaded {
            given = Some(value);
        } else if !inherits && property == id::COLOR && by.is_some_and(|e| e.origin() == Origin::Defaults) {
            // The one colour that browser defaults reset is that of tables in quirks mode.
            given = style.body_color.clone();
        }
        if property == id::FONT_SIZE {
            let parent = self.parent.map(|p| p.font).unwrap_or_default();
            let font = match &given {
                Some(value) => compute::FontMemory::of(value, parent),
                None if inherits => parent,
                None => compute::FontMemory::default(),
            };
            if font != self.style.font {
                self.style.change().font = font;
            }
        }
        if !inherits {
            self.note_color(property, given.as_ref());
        }
        let mut value = match (given, self.parent.filter(|_| inherits)) {
            (Some(value), _) => compute::compute(property, &value, &self.env(by)),
            (None, Some(parent)) => {
                self.style.asks_parent |= !property.inherits() && self.under.is_none();
                parent.get(property).clone()
            }
            (None, None) => compute::compute(property, &property.initial(), &self.env(None)),
        };
        if property == id::FONT_SIZE {
            let parent = self.parent.filter(|_| inherits).map(|p| p.context.font_size);
            let size = parent.or(value.as_px()).unwrap_or(16.0);
            if size != self.style.context.font_size {
                self.style.change().context.font_size = size;
            }
            value = Value::px(compute::legible(size, self.style.font));
        }
        self.style.set(property, value);
    }

    /// Takes down whether text keeps its colour under a highlight, of which the colour is given, or is the initial one.
    #[inline(always)]
    fn note_color(&mut self, property: PropertyId, given: Option<&Value>) {
        if property == id::COLOR && self.under.is_some() {
            self.style.keeps_color = given.is_some_and(|value| value.text().eq_ignore_ascii_case("currentcolor"));
        }
    }

    /// Works custom properties out once more where their types make them depend on what was only the parent's before:
    /// sizes of the font and of lines, and whether colours are dark ones (CSS Properties and Values API 1, §2.4).
    fn type_custom(&mut self, known: (f64, f64, bool)) {
        let now = (self.style.context.font_size, self.style.context.line_height, self.style.dark);
        if now != known && !self.subject.page.is_untyped() {
            let resolve = || custom::resolve(self.subject, self.entries, self.parent, &self.style);
            let custom = self.subject.custom.cloned().unwrap_or_else(resolve);
            self.style.change().custom = custom;
            self.last.forget();
        }
    }

    /// What a value is computed against.
    fn env<'a>(&'a self, entry: Option<&Entry<'_>>) -> Env<'a> {
        Env {
            style: &self.style,
            parent: self.under.or(self.parent),
            root: self.root,
            base: entry.map(|e| &self.subject.page.sheets[e.sheet() as usize].base),
        }
    }

    /// Draws consequences of a longhand that others are computed against.
    fn settle(&mut self, property: PropertyId) {
        let style = &mut self.style;
        match property {
            id::COLOR_SCHEME => {
                let dark = adjust::is_dark(style.get(id::COLOR_SCHEME), self.subject);
                if dark != style.dark {
                    style.change().dark = dark;
                }
            }
            id::FONT_SIZE => {
                // A lone `monospace` has a smaller default, which shows where the size itself is inherited.
                let size = compute::font_size_for_family(style, self.parent);
                if let Some(size) = size {
                    style.set(id::FONT_SIZE, Value::px(compute::legible(size, style.font)));
                    style.change().context.font_size = size;
                }
                if self.root.is_none() {
                    style.change().context.root_font_size = style.context.font_size;
                }
            }
            id::LINE_HEIGHT => {
                let height = compute::used_line_height(style);
                if height != style.context.line_height {
                    style.change().context.line_height = height;
                }
                if self.root.is_none() {
                    style.change().context.root_line_height = height;
                }
            }
            _ => {}
        }
    }
}

/// What a declaration says for a longhand; `var()` and its kin are replaced first.
pub(crate) fn said(subject: &Subject<'_>, entry: &Entry<'_>, style: &Style, last: &Last) -> Said<Value> {
    let Target::Longhand(longhand) = entry.property else {
        return Said::Nothing;
    };
    let written = match entry.declared {
        None => return Said::Nothing,
        Some(Declared::Value(value)) => return Said::Value(value.clone()),
        Some(Declared::Wide(wide)) => return Said::Wide(*wide),
        Some(Declared::Substitute(written)) => *written,
    };
    let page = subject.page;
    let reading = last.of(entry.declaration, || {
        let text = replaced(subject, entry, style).ok()?;
        let quirks = page.sheets[entry.sheet() as usize].sheet.quirks;
        Some(subject.readings.of(written, &text, quirks))
    });
    match reading.as_deref() {
        Some(Reading::Wide(wide)) => Said::Wide(*wide),
        Some(Reading::Values(values)) => {
            let value = values.iter().find(|(p, _)| *p == longhand);
            value.map_or(Said::Wide(Wide::Unset), |(_, value)| Said::Value(value.clone()))
        }
        None => Said::Wide(Wide::Unset),
    }
}

/// What a declaration says for a custom property, once all of the style is known.
pub(crate) fn said_for_custom(subject: &Subject<'_>, entry: &Entry<'_>, style: &Style) -> Said<Option<CustomValue>> {
    let mut lookup = Finished { subject, style, calls: substitution::Calls::default() };
    custom::said(subject.page, entry, style, &mut lookup, &mut |_| {})
}

/// The text of a declaration's value with `var()` and its kin replaced.
///
/// # Errors
/// Where something has no value and no fallback, or grows beyond all bounds.
pub(crate) fn substituted_text(
    subject: &Subject<'_>,
    entry: &Entry<'_>,
    style: &Style,
) -> Result<String, substitution::Failure> {
    replaced(subject, entry, style).map(|text| text.to_string())
}

/// The same as it comes.
fn replaced(
    subject: &Subject<'_>,
    entry: &Entry<'_>,
    style: &Style,
) -> Result<substitution::Replaced, substitution::Failure> {
    let sheet = &subject.page.sheets[entry.sheet() as usize].sheet;
    let mut finished = Finished { subject, style, calls: substitution::Calls::default() };
    substitution::substitute_in(entry.declaration, sheet, &mut finished)
}

/// A run of a value with `var()` and its kin replaced.
///
/// # Errors
/// Where something has no value and no fallback, or grows beyond all bounds.
pub(crate) fn substituted_slice(
    subject: &Subject<'_>,
    slice: Slice<'_>,
    style: &Style,
) -> Result<String, substitution::Failure> {
    substitution::substitute(slice, &mut Finished { subject, style, calls: substitution::Calls::default() })
}

/// The condition and the value of the branch that is taken of the inside of an `if()`; and whether tests were left out that are inside
/// too many others.
pub(crate) fn chosen_branch<'t>(
    subject: &Subject<'_>,
    inside: Slice<'t>,
    style: &Style,
) -> (Option<(Slice<'t>, Slice<'t>)>, bool) {
    let mut finished = Finished { subject, style, calls: substitution::Calls::default() };
    let chosen = substitution::chosen(inside, &mut finished);
    (chosen, finished.calls.tests_left_out)
}

/// Looks custom properties up in a style that has them all.
struct Finished<'f, 's> {
    /// The element.
    subject: &'f Subject<'s>,
    /// Its style.
    style: &'f Style,
    /// The calls of custom functions that its value makes.
    calls: substitution::Calls,
}

impl substitution::Lookup for Finished<'_, '_> {
    fn call(&mut self, name: &str, arguments: &[Option<String>]) -> Result<String, substitution::Failure> {
        function::call(self.subject.page, self.style, self, name, arguments)
    }

    fn calls(&mut self) -> &mut substitution::Calls {
        &mut self.calls
    }

    fn custom(&mut self, name: &Name) -> Result<CustomValue, substitution::Failure> {
        let found = self.style.custom.get(name);
        found.cloned().ok_or(substitution::Failure::Nothing)
    }

    fn test(&mut self, function: Slice<'_>, on: Option<&Style>) -> Option<bool> {
        query::test(self.subject.page, function, (on.unwrap_or(self.style), query::Asker::If), &mut self.calls)
    }

    fn attribute(&self, name: &str) -> Option<String> {
        self.subject.page.document.node(self.subject.element).attribute(name).map(str::to_owned)
    }
}
