//! What form controls are to each other: owners, groups of radio buttons, options of a `select` (HTML Standard, "Association of
//! controls and forms", "Radio Button", "The select element"). Found out once for all elements.

use rustc_hash::FxHashMap;

use super::{Document, Element, ElementId};

/// What is found out about the controls of a page.
#[derive(Clone, Debug, Default)]
pub(super) struct Controls {
    /// The first element with each id.
    by_id: FxHashMap<Box<str>, ElementId>,
    /// Radio buttons by their form and name.
    radios: FxHashMap<(Option<ElementId>, Box<str>), RadioGroup>,
    /// For each `select` of one choice, the option that is selected.
    chosen: FxHashMap<ElementId, ElementId>,
}

/// Radio buttons of which one can be checked.
#[derive(Clone, Copy, Debug, Default)]
pub(crate) struct RadioGroup {
    /// The one that is checked as the page loads: the last written so.
    pub(crate) checked: Option<ElementId>,
    /// Whether one of them must be.
    pub(crate) required: bool,
}

impl RadioGroup {
    /// Adds a radio button.
    fn add(&mut self, id: ElementId, element: &Element) {
        self.required |= element.attribute("required").is_some();
        if element.attribute("checked").is_some() {
            self.checked = Some(id);
        }
    }
}

/// Whether an element is a radio button.
fn is_radio(element: &Element) -> bool {
    element.is_html("input") && element.attribute("type").is_some_and(|t| t.eq_ignore_ascii_case("radio"))
}

impl Controls {
    /// Finds all out.
    fn of(document: &Document) -> Self {
        let mut controls = Self::default();
        for id in document.ids() {
            if let Some(name) = &document.node(id).id {
                controls.by_id.entry(Box::from(&**name)).or_insert(id);
            }
        }
        for id in document.ids() {
            let element = document.node(id);
            if is_radio(element) {
                let name = element.attribute("name").unwrap_or_default();
                let owner = controls.owner(document, id);
                controls.radios.entry((owner, Box::from(name))).or_default().add(id, element);
            }
        }
        for id in document.all_ids().filter(|id| document.node(*id).is_html("select")) {
            if document.node(id).attribute("multiple").is_none() {
                controls.chosen.extend(chosen(document, id).map(|option| (id, option)));
            }
        }
        controls
    }

    /// The form that a control belongs to.
    fn owner(&self, document: &Document, id: ElementId) -> Option<ElementId> {
        match document.node(id).attribute("form") {
            Some(form) => self.by_id.get(form).copied().filter(|e| document.node(*e).is_html("form")),
            None => document.lineage(id).skip(1).find(|e| document.node(*e).is_html("form")),
        }
    }
}

/// The option of a `select` of one choice that is selected as the page loads ("selectedness setting algorithm").
fn chosen(document: &Document, select: ElementId) -> Option<ElementId> {
    let options = document.options(select);
    let has = |e: &Element, name: &str| e.attribute(name).is_some();
    let disabled = |e: &ElementId| {
        let element = document.node(*e);
        let group = element.parent.map(|p| document.node(p)).filter(|p| p.is_html("optgroup"));
        has(element, "disabled") || group.is_some_and(|g| has(g, "disabled"))
    };
    let drops = document.node(select).display_size() == 1;
    let first = || options.iter().find(|e| drops && !disabled(e));
    options.iter().rfind(|e| has(document.node(**e), "selected")).or_else(first).copied()
}

impl Document {
    /// What is found out about its controls.
    fn controls(&self) -> &Controls {
        self.controls.get_or_init(|| Box::new(Controls::of(self)))
    }

    /// The form that a control belongs to.
    pub(crate) fn form_owner(&self, id: ElementId) -> Option<ElementId> {
        self.controls().owner(self, id)
    }

    /// The group of a radio button.
    pub(crate) fn radio_group(&self, id: ElementId) -> RadioGroup {
        let element = self.node(id);
        let name = element.attribute("name").unwrap_or_default();
        if name.is_empty() {
            let mut alone = RadioGroup::default();
            alone.add(id, element);
            return alone;
        }
        let key = (self.form_owner(id), Box::from(name));
        self.controls().radios.get(&key).copied().unwrap_or_default()
    }

    /// The option of a `select` of one choice that is selected as the page loads.
    pub(crate) fn chosen_option(&self, select: ElementId) -> Option<ElementId> {
        self.controls().chosen.get(&select).copied()
    }

    /// The options of a `select`, in tree order.
    pub(crate) fn options(&self, select: ElementId) -> Vec<ElementId> {
        let depth = self.node(select).depth;
        let inside = self.all_ids().skip(select.index() + 1).take_while(|e| self.node(*e).depth > depth);
        inside.filter(|e| self.node(*e).is_html("option")).collect()
    }
}

impl Element {
    /// How many rows a `select` shows ("display size").
    pub(crate) fn display_size(&self) -> u32 {
        let written = self.attribute("size").unwrap_or_default();
        let digits: String =
            written.trim_start().trim_start_matches('+').chars().take_while(char::is_ascii_digit).collect();
        let default = if self.attribute("multiple").is_some() { 4 } else { 1 };
        digits.parse().ok().filter(|n| *n > 0).unwrap_or(default)
    }
}
