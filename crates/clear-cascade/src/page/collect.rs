//! Finding a page's stylesheets, loading them with what they import, and putting all rules in order.
//!
//! HTML Standard, "Links", "The style element"; CSS Cascade 5, §2 and §6.4.

mod elements;
mod load;

pub(crate) use load::unknown_encoding;

pub(crate) use elements::{links, titles};

use std::collections::HashMap;
use std::ops::Range;
use std::sync::{Arc, Mutex, OnceLock, PoisonError};

use rustc_hash::FxHashMap;
use url::Url;

use super::Options;
use crate::cascade::{LayerId, Layers, Origin};
use crate::document::{Document, ElementId};
use crate::source::{Loader, OffsetMap, Source, SourceKind, Sources, Span, offset};
use crate::stylesheet::{
    self, GroupId, GroupKind, Item, Met, Note, NoteKind, Registration, Stylesheet, media::MediaQueryList,
};
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
    /// Whether it, or a sheet that imports it, is for some media alone.
    pub(crate) by_media: bool,
}

/// A style rule where it stands in the cascade.
#[derive(Clone, Debug)]
pub(crate) struct FlatRule {
    /// Its stylesheet.
    pub(crate) sheet: u32,
    /// Its index there.
    pub(crate) rule: u32,
    /// The place of its layer.
    pub(crate) layer: LayerId,
    /// Its place among all rules.
    pub(crate) order: u32,
    /// What holds where it is written.
    pub(crate) within: Arc<Within>,
}

/// What holds for the rules in a group, or at the top of a sheet.
#[derive(Clone, Debug)]
pub(crate) struct Within {
    /// Whose they are.
    pub(crate) origin: Origin,
    /// Whether they are of a `style` attribute.
    pub(crate) attached: bool,
    /// The tree whose elements they are for: 0 for the page, else a shadow tree; nothing where they are for all.
    pub(crate) tree: Option<u32>,
    /// The layer, by its number among the origin's.
    pub(crate) layer: usize,
    /// Why rules are off, where they are.
    pub(crate) off: Option<Off>,
    /// The innermost `@scope` around, as a group of the sheet, with those further out behind it.
    pub(crate) scopes: Vec<u32>,
    /// The `@container` groups around that ask for styles, as groups of the sheet.
    pub(crate) containers: Vec<u32>,
}

/// Why a rule is off: a condition, and where it is written.
#[derive(Clone, Debug)]
pub(crate) struct Off {
    /// The condition in words, and what would turn it on.
    pub(crate) reason: Arc<str>,
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
    pub(super) own_rules: FxHashMap<ElementId, Vec<u32>>,
    /// The sheet of defaults that holds only for selects of base appearance.
    pub(super) base_select: Option<u32>,
    /// Layers of the page's styles, then of each shadow tree's.
    pub(super) layers: Vec<Layers>,
    /// Registered custom properties.
    pub(super) registrations: FxHashMap<String, Registration>,
    /// Custom functions by name: the number of the sheet and that of the rule in it.
    pub(super) functions: FxHashMap<String, (u32, u32)>,
    /// What was dropped.
    pub(super) notes: Vec<Noted>,
}

/// Something that was dropped, or all that was in a sheet.
#[derive(Clone, Debug)]
pub(crate) enum Noted {
    /// This.
    Note(Note),
    /// What was dropped in a sheet, these bytes of it left out.
    In(Arc<Stylesheet>, Range<u32>),
}

impl Noted {
    /// The notes that it comes to.
    pub(crate) fn all(&self) -> impl Iterator<Item = &Note> {
        let (one, sheet) = match self {
            Self::Note(note) => (Some(note), None),
            Self::In(sheet, out) => (None, Some(sheet.notes().iter().filter(move |n| !out.contains(&n.span.start)))),
        };
        one.into_iter().chain(sheet.into_iter().flatten())
    }
}

/// A linked sheet: its URL, and the encoding it is read in unless it says another itself.
pub(crate) type Linked = (Url, &'static encoding_rs::Encoding);

/// A sheet as it was read, and what is read in the place of a part of it.
#[derive(Clone, Debug)]
pub(crate) struct Read {
    /// The sheet.
    pub(crate) sheet: Arc<Stylesheet>,
    /// The bytes of whole statements at its top, and the sheet that stands there instead.
    pub(crate) patch: Option<(Range<u32>, Arc<Stylesheet>)>,
}

impl From<Arc<Stylesheet>> for Read {
    fn from(sheet: Arc<Stylesheet>) -> Self {
        Self { sheet, patch: None }
    }
}

/// Stylesheets that were read, for studies of the same texts to share.
#[derive(Clone, Debug, Default)]
pub(crate) struct Parsed {
    /// Linked sheets, and why those that are missing are.
    pub(crate) linked: HashMap<Linked, Result<Read, String>>,
    /// Sheets of browser defaults and users by origin and number.
    pub(crate) given: HashMap<(Origin, usize), Read>,
    /// Sheets of `<style>` elements, hints and `style` attributes, by their place in the page and by their text.
    pub(crate) inside: HashMap<(u32, Box<str>), Arc<Stylesheet>>,
    /// The elements of the page whose attributes say how they look.
    pub(crate) styled: Option<Arc<[elements::ByAttributes]>>,
    /// Linked sheets that other pages of the site have brought.
    pub(crate) of_site: Option<Arc<OfSite>>,
}

/// The linked sheets of a site, kept for its next pages: by what each is, and whether it is read for quirks mode. A sheet that stands at
/// another number on another page is there once for each.
#[derive(Debug, Default)]
pub(crate) struct OfSite(Mutex<HashMap<(Linked, bool), Vec<Fetched>>>);

/// A sheet that was fetched.
#[derive(Clone, Debug)]
struct Fetched {
    /// Its text.
    source: Arc<Source>,
    /// What was read of it.
    sheet: Arc<Stylesheet>,
    /// The encoding that it came with, where there is no such encoding.
    unknown: Option<String>,
}

impl OfSite {
    /// What is known of a sheet: as it stands at a number, else at another.
    fn find(&self, key: &(Linked, bool), sources: &mut Sources) -> Option<(Fetched, bool)> {
        let known = self.0.lock().unwrap_or_else(PoisonError::into_inner).get(key)?.clone();
        let same = known.iter().find(|fetched| sources.share(fetched.sheet.source, &fetched.source));
        same.map(|f| (f.clone(), true)).or_else(|| Some((known.into_iter().next()?, false)))
    }

    /// Keeps a sheet.
    fn keep(&self, key: (Linked, bool), fetched: Fetched) {
        self.0.lock().unwrap_or_else(PoisonError::into_inner).entry(key).or_default().push(fetched);
    }
}

/// The sheets of browser defaults, which are the same for all pages: read once. They know the number that their text has
/// among those of a page, which is nearly always the same too.
static DEFAULTS: [OnceLock<(Arc<Source>, Arc<Stylesheet>)>; 4] = [const { OnceLock::new() }; 4];

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
        quirks: document.quirks,
        site: url,
        sheets: Vec::new(),
        pending: Vec::new(),
        base_select: None,
        layers: Vec::new(),
        registrations: Vec::new(),
        functions: Vec::new(),
        notes: Vec::new(),
        media: FxHashMap::default(),
        parsed: Parsed { inside: HashMap::new(), ..known.clone() },
        known,
    };
    let site = url.clone();
    collector.layers.resize_with(3 + document.shadow_count(), Layers::default);
    if options.defaults {
        for (number, sheet) in crate::defaults::sheets(document.quirks).into_iter().enumerate() {
            if number == crate::defaults::BASE_SELECT_SHEET {
                collector.base_select = Some(offset(collector.sheets.len()));
            }
            collector.text(sheet, SourceKind::Defaults, (Origin::Defaults, number), &site);
        }
    }
    for (number, (name, text)) in options.user_sheets.iter().enumerate() {
        collector.text((name, text), SourceKind::User, (Origin::User, number), &site);
    }
    if options.author {
        collector.page(document, url);
    }
    let mut own: Vec<(ElementId, u32)> = Vec::new();
    if options.author {
        collector.own_styles(document, &elements::base_of(document, url), &mut own);
    }
    let (collected, parsed) = collector.finish(&own);
    // From here on, what the page has is all there is: a trial may get another text behind the same URL.
    (collected, Parsed { of_site: None, ..parsed })
}

/// The work in progress.
struct Collector<'c> {
    /// All texts.
    sources: &'c mut Sources,
    /// Where files come from.
    loader: &'c dyn Loader,
    /// What the page is seen with.
    viewing: &'c Viewing,
    /// Whether the page is in quirks mode.
    quirks: bool,
    /// The page's address.
    site: &'c Url,
    /// The set of alternate sheets that is chosen.
    alternate: Option<&'c str>,
    /// Stylesheets so far.
    sheets: Vec<SheetEntry>,
    /// Rules so far, before layers are in order.
    pending: Vec<FlatRule>,
    /// The sheet of defaults that holds only for selects of base appearance.
    base_select: Option<u32>,
    /// Layers of defaults, of the user, and of the author in each tree.
    layers: Vec<Layers>,
    /// Registered custom properties.
    registrations: Vec<Layered<Registration>>,
    /// Custom functions: the number of the sheet and that of the rule in it.
    functions: Vec<Layered<(u32, u32)>>,
    /// What was dropped.
    notes: Vec<Noted>,
    /// Why media are off, as far as they were met; nothing for those that are on.
    media: FxHashMap<String, Option<Arc<str>>>,
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
    /// Whether it is for some media alone.
    by_media: bool,
    /// URLs of the sheets it is imported by.
    chain: Vec<Url>,
    /// The tree it is for; nothing for all.
    tree: Option<u32>,
}

impl Inside {
    /// Which list of layers it has.
    fn layers(&self) -> usize {
        layers_of(self.origin, self.tree)
    }

    /// What is defined here for the whole page; nothing where a condition is off, or in a shadow tree, which defines nothing
    /// for others (CSS Properties and Values API 1, §2).
    fn defined<T>(&self, state: &Within, what: T) -> Option<Layered<T>> {
        let counts = state.off.is_none() && self.tree.is_none_or(|t| t == 0);
        counts.then(|| Layered { list: self.layers(), layer: state.layer, what })
    }
}

/// Which list of layers an origin and a tree have: those of defaults, the user's, or those of the tree.
fn layers_of(origin: Origin, tree: Option<u32>) -> usize {
    match (origin, tree) {
        (Origin::Defaults, _) => 0,
        (Origin::User, _) => 1,
        (_, tree) => 2 + tree.unwrap_or(0) as usize,
    }
}

/// What a name is defined as somewhere in the layers.
struct Layered<T> {
    /// The list of layers of its origin.
    list: usize,
    /// The layer there.
    layer: usize,
    /// The definition.
    what: T,
}

/// Definitions with those that count last: of two of one name the one in the later layer, then the later one.
fn in_order<T>(mut all: Vec<Layered<T>>, orders: &[Vec<LayerId>]) -> impl Iterator<Item = T> {
    all.sort_by_key(|d| (d.list, orders[d.list][d.layer]));
    all.into_iter().map(|d| d.what)
}

impl Collector<'_> {
    /// Takes a note.
    fn note(&mut self, kind: NoteKind, span: Span, message: String, hint: Option<String>) {
        self.notes.push(Noted::Note(Note { kind, span, message, hint, damage: None }));
    }

    /// Takes a sheet in that is given as text.
    fn text(&mut self, (name, text): (&str, &str), kind: SourceKind, key: (Origin, usize), base: &Url) {
        let sheet = match self.parsed.given.get(&key) {
            Some(sheet) => sheet.clone(),
            None => {
                let quirks = self.quirks && kind != SourceKind::Defaults;
                let kept = DEFAULTS.get(key.1).filter(|_| kind == SourceKind::Defaults);
                let known = kept.and_then(OnceLock::get).filter(|(s, sheet)| self.sources.share(sheet.source, s));
                if let Some((_, sheet)) = known {
                    sheet.clone().into()
                } else {
                    let source = Source::new(name, text, kind);
                    let text = source.text.clone();
                    let source = self.sources.add(source);
                    let map = OffsetMap::slice(source, 0);
                    let sheet = Arc::new(stylesheet::parse(&stylesheet::Input { text, map, quirks }));
                    if let (Some(kept), Some(source)) = (kept, self.sources.shared(source)) {
                        let _ = kept.set((source, sheet.clone()));
                    }
                    sheet.into()
                }
            }
        };
        self.parsed.given.insert(key, sheet.clone());
        let inside =
            Inside { origin: key.0, layer: 0, off: None, owner: None, by_media: false, chain: Vec::new(), tree: None };
        self.sheet(&sheet, base, &inside);
    }

    /// Why something for these media is off.
    fn off_for(&mut self, list: &MediaQueryList, span: Span) -> Option<Off> {
        let known = self.media.get(&list.text).cloned();
        let reason = known.unwrap_or_else(|| {
            let off = (!list.matches(self.viewing)).then(|| {
                let on = list.turned_on_by(self.viewing).map(|how| format!("; it would be on {how}"));
                let (seen, on) = (describe(self.viewing), on.unwrap_or_default());
                Arc::from(format!("it is for media `{}`, and the page is seen with {seen}{on}", list.text))
            });
            self.media.insert(list.text.clone(), off.clone());
            off
        });
        reason.map(|reason| Off { reason, span })
    }

    /// Takes a parsed sheet in: imports first, then its own rules, in order of appearance.
    fn sheet(&mut self, read: &Read, base: &Url, inside: &Inside) {
        let sheet = &read.sheet;
        let (left_out, mut patch) = read.patch.as_ref().map_or((0..0, None), |(range, by)| (range.clone(), Some(by)));
        if inside.origin == Origin::Author {
            self.notes.push(Noted::In(sheet.clone(), left_out.clone()));
        }
        self.prepare(sheet.imports().filter_map(|import| base.join(&import.href).ok()));
        let entry =
            || SheetEntry { sheet: sheet.clone(), base: base.clone(), owner: inside.owner, by_media: inside.by_media };
        // Imports come before all else, so that the sheet's number is known when something else comes.
        let mut number = None;
        self.pending.reserve(sheet.rules.len());
        let top = Arc::new(Within::of(inside));
        let mut states: Vec<Arc<Within>> = Vec::with_capacity(sheet.groups.len());
        for (statement, met) in sheet.in_order() {
            if !matches!(met, Met::Item(Item::Import(_))) {
                number = Some(number.unwrap_or_else(|| self.entered(entry())));
            }
            if statement >= left_out.start
                && let Some(by) = patch.take()
            {
                self.sheet(&by.clone().into(), base, inside);
            }
            if left_out.contains(&statement) {
                // Groups are found by their numbers.
                states.extend(matches!(met, Met::Item(Item::Group(_))).then(|| top.clone()));
                continue;
            }
            let state_in = |group: Option<GroupId>| group.map_or(&top, |g: GroupId| &states[g.index()]);
            let number = number.unwrap_or_default();
            let item = match met {
                Met::Item(item) => item,
                Met::Rule(index) => {
                    let within = state_in(sheet.rules[index as usize].group).clone();
                    self.rule((number, index), within);
                    continue;
                }
            };
            match item {
                Item::Group(id) => {
                    let around = state_in(sheet.groups[id.index()].parent);
                    let state = self.group(sheet, *id, around, inside);
                    states.push(Arc::new(state));
                }
                Item::Layers(names, group) => {
                    let state = state_in(*group).clone();
                    for name in names.iter().filter(|_| state.off.is_none()) {
                        self.layers[inside.layers()].enter(state.layer, name);
                    }
                }
                Item::Import(import) => self.import(import, base, inside),
                Item::Property(index, group) => {
                    let registration = sheet.registrations[*index as usize].clone();
                    self.registrations.extend(inside.defined(state_in(*group), registration));
                }
                Item::Function(index, group) => {
                    self.functions.extend(inside.defined(state_in(*group), (number, *index)));
                }
            }
        }
        number.unwrap_or_else(|| self.entered(entry()));
        if let Some(by) = patch {
            self.sheet(&by.clone().into(), base, inside);
        }
    }

    /// Adds a sheet to those of the page; gives its number.
    fn entered(&mut self, entry: SheetEntry) -> u32 {
        self.sheets.push(entry);
        offset(self.sheets.len() - 1)
    }

    /// Takes in what a sheet imports.
    fn import(&mut self, import: &stylesheet::Import, base: &Url, inside: &Inside) {
        let media = self.off_for(&import.media, import.span);
        let supports =
            (!import.supports).then(|| Off { reason: "its `supports()` does not hold".into(), span: import.span });
        let off = inside.off.clone().or(media).or(supports);
        let layers = &mut self.layers[inside.layers()];
        // Where a condition is off, the layer is not mentioned at all (CSS Cascade 5, §6.4.3).
        let layer = match &import.layer {
            Some(None) if off.is_none() => layers.enter_anonymous(inside.layer),
            Some(Some(names)) if off.is_none() => layers.enter(inside.layer, names),
            _ => inside.layer,
        };
        let by_media = inside.by_media || !import.media.is_all();
        let imported = Inside { layer, off, by_media, ..inside.clone() };
        let encoding = self.sources.at(import.span.source).decoder();
        self.load(&import.href, base, &imported, (import.span, encoding));
    }

    /// The state inside a group.
    fn group(&mut self, sheet: &Stylesheet, id: GroupId, around: &Within, inside: &Inside) -> Within {
        let group = &sheet.groups[id.index()];
        let mut state = around.clone();
        let off = |reason: &str| Some(Off { reason: reason.into(), span: group.span });
        match &group.kind {
            GroupKind::Media(list) => state.off = state.off.or_else(|| self.off_for(list, group.span)),
            GroupKind::Supports(false) => {
                state.off = state.off.or_else(|| off("its `@supports` condition does not hold"))
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
            GroupKind::Scope(_) => state.scopes.insert(0, offset(id.index())),
            GroupKind::Container(queries) => {
                let layout = "sizes of containers need layout, which is not done here";
                match queries.fault() {
                    None if queries.ask_for_styles() => state.containers.push(offset(id.index())),
                    fault => {
                        let kind = if fault.is_some() { NoteKind::AtRule } else { NoteKind::Undecided };
                        let why = fault.unwrap_or(layout);
                        let message = format!("the rules in `@container {}` are off: {why}", queries.text);
                        self.note(kind, group.span, message, None);
                        let reason = match fault {
                            Some(fault) => format!("its container query `{}` is never true: {fault}", queries.text),
                            None => {
                                format!("its container query `{}` needs layout, which is not done here", queries.text)
                            }
                        };
                        state.off = state.off.or_else(|| off(&reason));
                    }
                }
            }
            GroupKind::StartingStyle => {
                state.off = state.off.or_else(|| off("`@starting-style` counts only where a transition starts"))
            }
        }
        state
    }

    /// Takes a rule in.
    fn rule(&mut self, (sheet, rule): (u32, u32), within: Arc<Within>) {
        let order = offset(self.pending.len());
        self.pending.push(FlatRule { sheet, rule, layer: LayerId::UNLAYERED, order, within });
    }

    /// Puts layers in order and parts rules that are on from those that are off.
    fn finish(mut self, own: &[(ElementId, u32)]) -> (Collected, Parsed) {
        let orders: Vec<Vec<LayerId>> = self.layers.iter().map(Layers::order).collect();
        let (mut rules, mut off_rules) = (std::mem::take(&mut self.pending), Vec::new());
        rules.retain_mut(|rule| {
            rule.layer = orders[layers_of(rule.within.origin, rule.within.tree)][rule.within.layer];
            let on = rule.within.off.is_none();
            off_rules.extend((!on).then(|| rule.clone()));
            on
        });
        let registrations = in_order(std::mem::take(&mut self.registrations), &orders);
        let registrations = registrations.map(|r| (r.name.clone(), r)).collect();
        let name = |(sheet, function): (u32, u32)| {
            self.sheets[sheet as usize].sheet.functions[function as usize].name.to_string()
        };
        let functions = in_order(std::mem::take(&mut self.functions), &orders);
        let functions = functions.map(|place| (name(place), place)).collect();
        let mut own_rules: FxHashMap<ElementId, Vec<u32>> = FxHashMap::default();
        // Those of single elements are the last, and none of them is off.
        for (id, place) in own {
            own_rules.entry(*id).or_default().push(place - offset(off_rules.len()));
        }
        let layers = self.layers.split_off(2);
        let collected = Collected {
            sheets: self.sheets,
            rules,
            off_rules,
            own_rules,
            base_select: self.base_select,
            layers,
            registrations,
            functions,
            notes: self.notes,
        };
        (collected, self.parsed)
    }
}

impl Within {
    /// What holds at the top of a sheet.
    fn of(inside: &Inside) -> Self {
        let Inside { origin, tree, layer, off, .. } = inside;
        Self { layer: *layer, off: off.clone(), ..Self::new(*origin, *tree) }
    }

    /// What holds where nothing else is around.
    fn new(origin: Origin, tree: Option<u32>) -> Self {
        let (scopes, containers) = (Vec::new(), Vec::new());
        Self { origin, attached: false, tree, layer: 0, off: None, scopes, containers }
    }
}

/// What a page is seen with, in words.
fn describe(viewing: &Viewing) -> String {
    let medium = match viewing.medium {
        crate::viewing::Medium::Screen => "a screen",
        crate::viewing::Medium::Print => "print",
    };
    format!(
        "{medium} of {}×{}px",
        crate::syntax::number_text(viewing.width),
        crate::syntax::number_text(viewing.height)
    )
}
