//! Finding a page's stylesheets, loading them with what they import, and putting all rules in order.
//!
//! HTML Standard, "Links", "The style element"; CSS Cascade 5, §2 and §6.4.

use std::collections::HashMap;
use std::sync::Arc;

use url::Url;

use super::{Options, hints};
use crate::cascade::{LayerId, Layers, Origin};
use crate::document::{Document, ElementId, Namespace};
use crate::source::{Loader, OffsetMap, Source, SourceKind, Sources, Span, offset};
use crate::stylesheet::{self, GroupKind, Item, Note, NoteKind, Registration, Stylesheet, media::MediaQueryList};
use crate::viewing::Viewing;

/// A stylesheet and what it is to the page.
#[derive(Debug)]
pub(crate) struct SheetEntry {
    /// The stylesheet.
    pub(crate) sheet: Arc<Stylesheet>,
    /// What URLs in it are relative to.
    pub(crate) base: Url,
    /// The element that brings it: `<style>`, `<link>`, or the one with the `style` attribute.
    pub(crate) owner: Option<ElementId>,
}

/// A style rule where it stands in the cascade.
#[derive(Clone, Debug)]
pub(crate) struct FlatRule {
    /// Its stylesheet.
    pub(crate) sheet: u32,
    /// Its index there.
    pub(crate) rule: u32,
    /// Whose it is.
    pub(crate) origin: Origin,
    /// The place of its layer.
    pub(crate) layer: LayerId,
    /// The layer it is in, by its number among the origin's.
    pub(crate) layer_index: usize,
    /// Whether it is of a `style` attribute.
    pub(crate) attached: bool,
    /// The tree whose elements it is for: 0 for the page, else a shadow tree; nothing where it is for all.
    pub(crate) tree: Option<u32>,
    /// The `@container` groups around it that ask for styles, as groups of its sheet.
    pub(crate) containers: Vec<u32>,
    /// Its place among all rules.
    pub(crate) order: u32,
    /// The innermost `@scope` around it, as a group of its sheet, with those further out behind it.
    pub(crate) scopes: Vec<u32>,
    /// Why it is off, where it is.
    pub(crate) off: Option<Off>,
}

/// Why a rule is off: a condition, and where it is written.
#[derive(Clone, Debug)]
pub(crate) struct Off {
    /// The condition in words, and what would turn it on.
    pub(crate) reason: String,
    /// Where it is written.
    pub(crate) span: Span,
}

/// All that was found.
pub(super) struct Collected {
    /// Stylesheets.
    pub(super) sheets: Vec<SheetEntry>,
    /// Rules that are on.
    pub(super) rules: Vec<FlatRule>,
    /// Rules that are off.
    pub(super) off_rules: Vec<FlatRule>,
    /// Rules of single elements.
    pub(super) own_rules: HashMap<ElementId, Vec<u32>>,
    /// Layers of the page's styles, then of each shadow tree's.
    pub(super) layers: Vec<Layers>,
    /// Registered custom properties.
    pub(super) registrations: HashMap<String, Registration>,
    /// Custom functions by name: the number of the sheet and that of the rule in it.
    pub(super) functions: HashMap<String, (u32, u32)>,
    /// What was dropped.
    pub(super) notes: Vec<Note>,
}

/// Stylesheets that were read, for studies of the same texts to share.
#[derive(Clone, Debug, Default)]
pub(crate) struct Parsed {
    /// Sheets behind URLs, and why those that are missing are.
    pub(super) linked: HashMap<Url, Result<Arc<Stylesheet>, String>>,
    /// Sheets of browser defaults and users by name.
    pub(super) given: HashMap<String, Arc<Stylesheet>>,
    /// Sheets of `<style>` elements, hints and `style` attributes, by their place in the page and by their text.
    pub(super) inside: HashMap<(u32, Box<str>), Arc<Stylesheet>>,
}

/// How many sheets a page may bring in, imports counted: far beyond any site.
const MOST_SHEETS: usize = 4096;
/// How deeply imports may nest.
const DEEPEST_IMPORT: u32 = 32;

/// Finds, loads and orders everything. What `known` has is not read again; all that was read comes back with the rest.
pub(super) fn collect(
    sources: &mut Sources,
    document: &Document,
    loader: &dyn Loader,
    url: &Url,
    options: &Options,
    known: &Parsed,
) -> (Collected, Parsed) {
    let mut collector = Collector {
        sources,
        loader,
        viewing: &options.viewing,
        alternate: options.alternate.as_deref(),
        sheets: Vec::new(),
        pending: Vec::new(),
        layers: Vec::new(),
        registrations: Vec::new(),
        functions: Vec::new(),
        notes: Vec::new(),
        parsed: Parsed { inside: HashMap::new(), linked: known.linked.clone(), given: known.given.clone() },
        known,
    };
    let site = url.clone();
    collector.layers.resize_with(3 + document.shadow_count(), Layers::default);
    if options.defaults {
        for (name, text) in crate::defaults::sheets(document.quirks) {
            collector.text(name, text, SourceKind::Defaults, Origin::Defaults, &site);
        }
    }
    for (name, text) in &options.user_sheets {
        collector.text(name, text, SourceKind::User, Origin::User, &site);
    }
    if options.author {
        collector.page(document, url);
    }
    let mut own: Vec<(ElementId, u32, bool)> = Vec::new();
    if options.author {
        collector.own_styles(document, &base_of(document, url), &mut own);
    }
    collector.finish(&own)
}

/// What URLs of a page are relative to (HTML Standard, "document base URL").
fn base_of(document: &Document, url: &Url) -> Url {
    let base = document.elements().iter().filter(|e| e.is_html("base")).find_map(|e| e.attribute("href"));
    base.and_then(|b| url.join(b).ok()).unwrap_or_else(|| url.clone())
}

/// A rule before layers are in order.
struct Pending {
    /// The rule, without its layer.
    rule: FlatRule,
}

/// The work in progress.
struct Collector<'c> {
    /// All texts.
    sources: &'c mut Sources,
    /// Where files come from.
    loader: &'c dyn Loader,
    /// What the page is seen with.
    viewing: &'c Viewing,
    /// The set of alternate sheets that is chosen.
    alternate: Option<&'c str>,
    /// Stylesheets so far.
    sheets: Vec<SheetEntry>,
    /// Rules so far.
    pending: Vec<Pending>,
    /// Layers of defaults, of the user, and of the author in each tree.
    layers: Vec<Layers>,
    /// Registered custom properties, each with its origin's list of layers and its layer there.
    registrations: Vec<(usize, usize, Registration)>,
    /// Custom functions, each with its origin's list of layers, its layer there, its sheet and its number in that.
    functions: Vec<(usize, usize, (u32, u32))>,
    /// What was dropped.
    notes: Vec<Note>,
    /// What was read: a sheet linked twice is read once.
    parsed: Parsed,
    /// What was read before.
    known: &'c Parsed,
}

/// How the inside of a sheet is taken in.
#[derive(Clone)]
struct Inside {
    /// Whose it is.
    origin: Origin,
    /// The layer around all of it.
    layer: usize,
    /// Why all of it is off.
    off: Option<Off>,
    /// The element that brings it.
    owner: Option<ElementId>,
    /// URLs of the sheets it is imported by.
    chain: Vec<Url>,
    /// The tree it is for; nothing for all.
    tree: Option<u32>,
}

impl Inside {
    /// Which list of layers it has: those of defaults, the user's, or those of its tree.
    fn layers(&self) -> usize {
        match (self.origin, self.tree) {
            (Origin::Defaults, _) => 0,
            (Origin::User, _) => 1,
            (_, tree) => 2 + tree.unwrap_or(0) as usize,
        }
    }
}

impl Collector<'_> {
    /// Takes a note.
    fn note(&mut self, kind: NoteKind, span: Span, message: String, hint: Option<String>) {
        self.notes.push(Note { kind, span, message, hint });
    }

    /// Takes a sheet in that is given as text.
    fn text(&mut self, name: &str, text: &str, kind: SourceKind, origin: Origin, base: &Url) {
        let sheet = match self.parsed.given.get(name) {
            Some(sheet) => sheet.clone(),
            None => {
                let source = self.sources.add(Source::new(name, text, kind));
                Arc::new(stylesheet::parse(&stylesheet::Input { text, map: OffsetMap::slice(source, 0) }))
            }
        };
        self.parsed.given.insert(name.to_owned(), sheet.clone());
        let inside = Inside { origin, layer: 0, off: None, owner: None, chain: Vec::new(), tree: None };
        self.sheet(sheet, base, &inside);
    }

    /// Takes in the sheets that a page names, in document order.
    fn page(&mut self, document: &Document, url: &Url) {
        let base = base_of(document, url);
        for id in document.all_ids() {
            let element = document.element(id);
            let style = &*element.name == "style" && matches!(element.namespace, Namespace::Html | Namespace::Svg);
            if style {
                self.style_element(document, id, &base);
            } else if element.is_html("link") {
                self.link_element(document, id, &base);
            }
        }
    }

    /// Why a sheet with this `media` attribute is off.
    fn media_off(&self, document: &Document, id: ElementId) -> Option<Off> {
        let attribute = document.element(id).attribute_entry("media")?;
        let tokens = crate::syntax::Tokens::read(&attribute.value);
        let list = stylesheet::media::parse(tokens.all());
        self.off_for(&list, attribute.value_span)
    }

    /// Why something for these media is off.
    fn off_for(&self, list: &MediaQueryList, span: Span) -> Option<Off> {
        (!list.matches(self.viewing)).then(|| {
            let on = list.turned_on_by(self.viewing).map(|how| format!("; it would be on {how}")).unwrap_or_default();
            let seen = describe(self.viewing);
            Off { reason: format!("it is for media `{}`, and the page is seen with {seen}{on}", list.text), span }
        })
    }

    /// `<style>`
    fn style_element(&mut self, document: &Document, id: ElementId, base: &Url) {
        let element = document.element(id);
        let kind = element.attribute("type").unwrap_or_default();
        if !kind.is_empty() && !kind.eq_ignore_ascii_case("text/css") {
            let message = format!("this `<style>` is not used: its type `{kind}` is not `text/css`");
            return self.note(NoteKind::Sheet, document.span(id), message, Some("leave the type out".to_owned()));
        }
        if let Some(title) = self.unchosen_set(document, id) {
            let message =
                format!("this `<style>` is not used: it belongs to the set of styles \"{title}\", which is not chosen");
            return self.note(NoteKind::Sheet, document.span(id), message, None);
        }
        let Some((_, map, text)) = document.texts.iter().find(|(e, map, _)| *e == id && map.source == document.source)
        else {
            return;
        };
        let sheet = self.inside(text, map.clone(), stylesheet::parse);
        let inside = Inside {
            origin: Origin::Author,
            layer: 0,
            off: self.media_off(document, id),
            owner: Some(id),
            chain: Vec::new(),
            tree: Some(element.tree),
        };
        self.sheet(sheet, base, &inside);
    }

    /// `<link rel=stylesheet>`
    fn link_element(&mut self, document: &Document, id: ElementId, base: &Url) {
        let element = document.element(id);
        let rel = element.attribute("rel").unwrap_or_default().to_ascii_lowercase();
        let words: Vec<&str> = rel.split_ascii_whitespace().collect();
        let href = element.attribute("href").unwrap_or_default().trim();
        let span = document.span(id);
        if !words.contains(&"stylesheet") {
            let near = words.iter().any(|w| strsim::damerau_levenshtein(w, "stylesheet") <= 2);
            if near || (words.is_empty() && href.ends_with(".css")) {
                let message = format!("the sheet `{href}` is not used: `rel` is `{rel}`, not `stylesheet`");
                self.note(NoteKind::Sheet, span, message, Some("write rel=\"stylesheet\"".to_owned()));
            }
            return;
        }
        let kind = element.attribute("type").unwrap_or_default();
        let kind = kind.split(';').next().unwrap_or_default().trim();
        if !kind.is_empty() && !kind.eq_ignore_ascii_case("text/css") {
            let message = format!("the sheet `{href}` is not used: its type `{kind}` is not `text/css`");
            return self.note(NoteKind::Sheet, span, message, None);
        }
        if href.is_empty() {
            return self.note(
                NoteKind::Sheet,
                span,
                "this `<link>` loads nothing: its `href` is missing or empty".to_owned(),
                None,
            );
        }
        if element.attribute("disabled").is_some() {
            return self.note(
                NoteKind::Sheet,
                span,
                format!("the sheet `{href}` is not used: its `<link>` is `disabled`"),
                None,
            );
        }
        if let Some(title) = self.unchosen_set(document, id) {
            let message = format!(
                "the sheet `{href}` is not used: it belongs to the set of styles \"{title}\", which is not chosen"
            );
            return self.note(NoteKind::Sheet, span, message, None);
        }
        let inside = Inside {
            origin: Origin::Author,
            layer: 0,
            off: self.media_off(document, id),
            owner: Some(id),
            chain: Vec::new(),
            tree: Some(element.tree),
        };
        let place = element.attribute_entry("href").map_or(span, |a| a.value_span);
        self.load(href, base, &inside, place);
    }

    /// The title of the set that a sheet belongs to, where that set is not chosen (CSSOM 1, §6.3.1 "preferred CSS style
    /// sheet set").
    fn unchosen_set(&self, document: &Document, id: ElementId) -> Option<String> {
        let (title, _) = title_of(document, id)?;
        let chosen = match self.alternate {
            Some(chosen) => Some(chosen.to_owned()),
            None => document.ids().filter_map(|e| title_of(document, e)).find(|(_, a)| !a).map(|(t, _)| t),
        };
        (chosen.as_deref() != Some(&*title)).then_some(title)
    }

    /// Loads a sheet by URL and takes it in.
    fn load(&mut self, href: &str, base: &Url, inside: &Inside, place: Span) {
        let Ok(mut url) = base.join(href) else {
            return self.note(
                NoteKind::Sheet,
                place,
                format!("the sheet `{href}` could not be loaded: that is no URL"),
                None,
            );
        };
        url.set_fragment(None);
        if inside.chain.contains(&url) {
            return self.note(
                NoteKind::Sheet,
                place,
                format!("`{href}` imports itself in a circle; this import is dropped"),
                None,
            );
        }
        if self.sheets.len() >= MOST_SHEETS || inside.chain.len() as u32 >= DEEPEST_IMPORT {
            return self.note(
                NoteKind::Sheet,
                place,
                format!("`{href}` is one stylesheet too many; it is not loaded"),
                None,
            );
        }
        let sheet = match self.parsed.linked.get(&url) {
            Some(found) => found.clone(),
            None => {
                let found = self.fetch(&url);
                self.parsed.linked.insert(url.clone(), found.clone());
                found
            }
        };
        match sheet {
            Ok(sheet) => {
                let mut inside = inside.clone();
                inside.chain.push(url.clone());
                self.sheet(sheet, &url, &inside);
            }
            Err(why) => {
                self.note(NoteKind::Sheet, place, format!("the sheet `{href}` could not be loaded: {why}"), None);
            }
        }
    }

    /// Reads a text of the page, or takes what was read of it before at the same place.
    fn inside(
        &mut self,
        text: &str,
        map: OffsetMap,
        parse: fn(&stylesheet::Input<'_>) -> Stylesheet,
    ) -> Arc<Stylesheet> {
        let key = (map.at(0), Box::from(text));
        let sheet = match self.known.inside.get(&key) {
            Some(sheet) => sheet.clone(),
            None => Arc::new(parse(&stylesheet::Input { text, map })),
        };
        self.parsed.inside.insert(key, sheet.clone());
        sheet
    }

    /// Gets the text behind a URL and parses it.
    fn fetch(&mut self, url: &Url) -> Result<Arc<Stylesheet>, String> {
        let (name, bytes, charset) = if url.scheme() == "data" {
            let (kind, bytes) = data_url(url).ok_or("the data URL is broken")?;
            if !kind.to_ascii_lowercase().starts_with("text/css") {
                return Err(format!("its type `{kind}` is not `text/css`"));
            }
            (crate::text::shorten(url.as_str(), 40), bytes, None)
        } else {
            let loaded = self.loader.load(url).map_err(|e| e.to_string())?;
            if let Some(kind) = &loaded.media_type
                && !kind.eq_ignore_ascii_case("text/css")
            {
                return Err(format!("its type `{kind}` is not `text/css`"));
            }
            (loaded.name, loaded.bytes, loaded.charset)
        };
        let hint = charset
            .as_deref()
            .and_then(|c| encoding_rs::Encoding::for_label(c.as_bytes()))
            .or_else(|| at_charset(&bytes));
        let source = Source::decode(name, &bytes, SourceKind::Sheet, hint);
        let text = source.text.clone();
        let id = self.sources.add(source);
        let sheet = stylesheet::parse(&stylesheet::Input { text: &text, map: OffsetMap::slice(id, 0) });
        Ok(Arc::new(sheet))
    }

    /// Takes a parsed sheet in: imports first, then its own rules, in order of appearance.
    fn sheet(&mut self, sheet: Arc<Stylesheet>, base: &Url, inside: &Inside) {
        if inside.origin == Origin::Author {
            self.notes.extend(sheet.notes.iter().cloned());
        }
        let mut states: Vec<GroupState> = Vec::with_capacity(sheet.groups.len());
        for item in &sheet.items {
            match item {
                Item::Group(id) => {
                    let state = self.group(&sheet, id.0, &states, inside);
                    states.push(state);
                }
                Item::Layers(names, Some(group)) => {
                    let state = &states[group.0 as usize];
                    if state.off.is_none() {
                        for name in names {
                            self.layers[inside.layers()].enter(state.layer, name);
                        }
                    }
                }
                Item::Layers(names, None) => {
                    for name in names {
                        self.layers[inside.layers()].enter(inside.layer, name);
                    }
                }
                Item::Import(import) => self.import(import, base, inside),
                Item::Property(index, group) => {
                    let state = group.map_or_else(|| GroupState::of(inside), |g| states[g.0 as usize].clone());
                    // Shadow trees register nothing (CSS Properties and Values API 1, §2).
                    if state.off.is_none() && inside.tree.is_none_or(|t| t == 0) {
                        let registration = sheet.registrations[*index as usize].clone();
                        self.registrations.push((inside.layers(), state.layer, registration));
                    }
                }
                Item::Function(index, group) => {
                    let state = group.map_or_else(|| GroupState::of(inside), |g| states[g.0 as usize].clone());
                    if state.off.is_none() && inside.tree.is_none_or(|t| t == 0) {
                        let place = (offset(self.sheets.len()), *index);
                        self.functions.push((inside.layers(), state.layer, place));
                    }
                }
                Item::Rule(index) => {
                    // Imports come before all rules, so that the sheet's number is known by now.
                    let number = offset(self.sheets.len());
                    let group = sheet.rules[*index as usize].group;
                    let state = group.map_or_else(|| GroupState::of(inside), |g| states[g.0 as usize].clone());
                    self.rule(number, *index, inside.origin, inside.tree, state, false);
                }
            }
        }
        self.sheets.push(SheetEntry { sheet, base: base.clone(), owner: inside.owner });
    }

    /// Takes in what a sheet imports.
    fn import(&mut self, import: &stylesheet::Import, base: &Url, inside: &Inside) {
        let media = self.off_for(&import.media, import.span);
        let supports =
            (!import.supports).then(|| Off { reason: "its `supports()` does not hold".to_owned(), span: import.span });
        let off = inside.off.clone().or(media).or(supports);
        let layers = &mut self.layers[inside.layers()];
        let layer = match &import.layer {
            None => inside.layer,
            Some(None) => layers.enter_anonymous(inside.layer),
            Some(Some(names)) => layers.enter(inside.layer, names),
        };
        let imported = Inside { layer, off, ..inside.clone() };
        self.load(&import.href, base, &imported, import.span);
    }

    /// The state inside a group.
    fn group(&mut self, sheet: &Stylesheet, id: u32, states: &[GroupState], inside: &Inside) -> GroupState {
        let group = &sheet.groups[id as usize];
        let mut state = group.parent.map_or_else(|| GroupState::of(inside), |p| states[p.0 as usize].clone());
        let off = |reason: String| Some(Off { reason, span: group.span });
        match &group.kind {
            GroupKind::Media(list) => state.off = state.off.or_else(|| self.off_for(list, group.span)),
            GroupKind::Supports(false) => {
                state.off = state.off.or_else(|| off("its `@supports` condition does not hold".to_owned()))
            }
            GroupKind::Supports(true) => {}
            GroupKind::Layer(names) => {
                if state.off.is_none() {
                    let layers = &mut self.layers[inside.layers()];
                    state.layer = match names {
                        Some(names) => layers.enter(state.layer, names),
                        None => layers.enter_anonymous(state.layer),
                    };
                }
            }
            GroupKind::Scope(_) => state.scopes.insert(0, id),
            GroupKind::Container(query) if query.asks_for_styles() => state.containers.push(id),
            GroupKind::Container(query) => {
                let reason = format!("its container query `{}` needs layout, which is not done here", query.text);
                let message = format!(
                    "the rules in `@container {}` are off: sizes of containers need layout, which is not done here",
                    query.text
                );
                self.note(NoteKind::Undecided, group.span, message, None);
                state.off = state.off.or_else(|| off(reason));
            }
            GroupKind::StartingStyle => {
                state.off =
                    state.off.or_else(|| off("`@starting-style` counts only where a transition starts".to_owned()))
            }
        }
        state
    }

    /// Takes a rule in.
    fn rule(&mut self, sheet: u32, rule: u32, origin: Origin, tree: Option<u32>, state: GroupState, attached: bool) {
        let order = offset(self.pending.len());
        let rule = FlatRule {
            sheet,
            rule,
            origin,
            layer: LayerId::UNLAYERED,
            layer_index: state.layer,
            attached,
            tree,
            containers: state.containers,
            order,
            scopes: state.scopes,
            off: state.off,
        };
        self.pending.push(Pending { rule });
    }

    /// Takes in presentational hints and `style` attributes.
    fn own_styles(&mut self, document: &Document, base: &Url, own: &mut Vec<(ElementId, u32, bool)>) {
        for id in document.all_ids() {
            let element = document.element(id);
            for (text, span) in hints::of(document, id) {
                let map = OffsetMap::steps(document.source, vec![(0, span.start)]);
                self.own_sheet(&text, map, Origin::PresentationalHint, (id, element.tree), base, own);
            }
            if let Some(style) = element.attribute_entry("style") {
                let decoded = document.texts.iter().find(|(e, _, _)| *e == id && &*element.name != "style");
                let map = decoded.map_or_else(
                    || OffsetMap::slice(document.source, style.value_span.start),
                    |(_, map, _)| map.clone(),
                );
                self.own_sheet(&style.value, map, Origin::Author, (id, element.tree), base, own);
            }
        }
    }

    /// Takes in the declarations of one element.
    fn own_sheet(
        &mut self,
        text: &str,
        map: OffsetMap,
        origin: Origin,
        (id, tree): (ElementId, u32),
        base: &Url,
        own: &mut Vec<(ElementId, u32, bool)>,
    ) {
        let attached = origin == Origin::Author;
        let sheet = self.inside(text, map, stylesheet::parse_style_attribute);
        if attached {
            self.notes.extend(sheet.notes.iter().cloned());
        }
        let number = offset(self.sheets.len());
        for item in &sheet.items {
            if let Item::Rule(index) = item {
                own.push((id, offset(self.pending.len()), attached));
                self.rule(number, *index, origin, Some(tree), GroupState::default(), attached);
            }
        }
        self.sheets.push(SheetEntry { sheet, base: base.clone(), owner: Some(id) });
    }

    /// Puts layers in order and parts rules that are on from those that are off.
    fn finish(mut self, own: &[(ElementId, u32, bool)]) -> (Collected, Parsed) {
        let orders: Vec<Vec<LayerId>> = self.layers.iter().map(Layers::order).collect();
        let mut rules = Vec::with_capacity(self.pending.len());
        let mut off_rules = Vec::new();
        let mut places: HashMap<u32, u32> = HashMap::new();
        for (i, pending) in std::mem::take(&mut self.pending).into_iter().enumerate() {
            let mut rule = pending.rule;
            let list = match rule.origin {
                Origin::Defaults => 0,
                Origin::User => 1,
                _ => 2 + rule.tree.unwrap_or(0) as usize,
            };
            rule.layer = orders[list][rule.layer_index];
            if rule.off.is_some() {
                off_rules.push(rule);
            } else {
                places.insert(offset(i), offset(rules.len()));
                rules.push(rule);
            }
        }
        // Of two registrations of one name the one in the later layer counts, then the later one.
        let mut found = std::mem::take(&mut self.registrations);
        found.sort_by_key(|(origin, layer, _)| (*origin, orders[*origin][*layer]));
        let registrations = found.into_iter().map(|(_, _, r)| (r.name.clone(), r)).collect();
        // Functions likewise.
        let mut found = std::mem::take(&mut self.functions);
        found.sort_by_key(|(origin, layer, _)| (*origin, orders[*origin][*layer]));
        let named =
            |place: (u32, u32)| self.sheets[place.0 as usize].sheet.functions[place.1 as usize].name.to_string();
        let functions = found.into_iter().map(|(_, _, place)| (named(place), place)).collect();
        let mut own_rules: HashMap<ElementId, Vec<u32>> = HashMap::new();
        for (id, place, _) in own {
            if let Some(place) = places.get(place) {
                own_rules.entry(*id).or_default().push(*place);
            }
        }
        let layers = self.layers.split_off(2);
        let collected = Collected {
            sheets: self.sheets,
            rules,
            off_rules,
            own_rules,
            layers,
            registrations,
            functions,
            notes: self.notes,
        };
        (collected, self.parsed)
    }
}

/// The title of a sheet and whether it is an alternate one; nothing for sheets without a title, which always count.
fn title_of(document: &Document, id: ElementId) -> Option<(String, bool)> {
    let element = document.element(id);
    let rel = element.attribute("rel").unwrap_or_default().to_ascii_lowercase();
    let words: Vec<&str> = rel.split_ascii_whitespace().collect();
    let sheet = element.is_html("style") || (element.is_html("link") && words.contains(&"stylesheet"));
    let title = element.attribute("title").filter(|t| sheet && !t.is_empty() && element.tree == 0)?;
    Some((title.to_owned(), words.contains(&"alternate")))
}

/// The titles of a page's sets of styles, the preferred one first.
pub(super) fn titles(document: &Document) -> Vec<String> {
    let mut found: Vec<(String, bool)> = document.ids().filter_map(|e| title_of(document, e)).collect();
    found.sort_by_key(|(_, alternate)| *alternate);
    let mut titles: Vec<String> = found.into_iter().map(|(t, _)| t).collect();
    let mut seen = std::collections::HashSet::new();
    titles.retain(|t| seen.insert(t.clone()));
    titles
}

/// What holds inside a group.
#[derive(Clone, Default)]
struct GroupState {
    /// The layer.
    layer: usize,
    /// Why rules are off.
    off: Option<Off>,
    /// The `@scope` groups around, innermost first.
    scopes: Vec<u32>,
    /// The `@container` groups around that ask for styles.
    containers: Vec<u32>,
}

impl GroupState {
    /// What holds at the top of a sheet.
    fn of(inside: &Inside) -> Self {
        Self { layer: inside.layer, off: inside.off.clone(), ..Self::default() }
    }
}

/// What a page is seen with, in words.
fn describe(viewing: &Viewing) -> String {
    let medium = match viewing.medium {
        crate::viewing::Medium::Screen => "a screen",
        crate::viewing::Medium::Print => "print",
    };
    format!("{medium} of {}×{}px", crate::value::number_text(viewing.width), crate::value::number_text(viewing.height))
}

/// Media type and bytes of a data URL (Fetch Standard, "data: URL processor").
fn data_url(url: &Url) -> Option<(String, Vec<u8>)> {
    let parsed = data_url::DataUrl::process(url.as_str()).ok()?;
    let kind = parsed.mime_type();
    Some((format!("{}/{}", kind.type_, kind.subtype), parsed.decode_to_vec().ok()?.0))
}

/// The encoding of `@charset "…";` (CSS Syntax 3, §3.2): exactly these bytes at the very start.
fn at_charset(bytes: &[u8]) -> Option<&'static encoding_rs::Encoding> {
    let rest = bytes.strip_prefix(b"@charset \"")?;
    let end = rest.iter().take(1024).position(|b| *b == b'"')?;
    if rest.get(end + 1) != Some(&b';') {
        return None;
    }
    let found = encoding_rs::Encoding::for_label(&rest[..end])?;
    Some(if found == encoding_rs::UTF_16LE || found == encoding_rs::UTF_16BE { encoding_rs::UTF_8 } else { found })
}
