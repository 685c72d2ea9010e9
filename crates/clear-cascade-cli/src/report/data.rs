//! What a report holds: elements, answers, declarations and sheets, each once and named by its number.

use std::collections::BTreeMap;

use clear_cascade::answer::{Contender, Outcome, Tally, ValueFrom, Why};
use clear_cascade::cascade::{Origin, Stage};
use clear_cascade::document::{ElementId, ElementRef};
use clear_cascade::property::PropertyId;
use clear_cascade::review::{Facts, Level, Review};
use clear_cascade::selector::PseudoElement;
use clear_cascade::source::{Place, SourceKind};
use clear_cascade::{Medium, States, Study, Viewing};
use rayon::prelude::*;
use serde::Serialize;
use serde_tuple::Serialize_tuple;

use super::pool::Pool;
use super::{Subject, frame};
use crate::commands::check;

/// The number of a text.
type Text = u32;

/// How many elements get all their answers; of pages with more, elements behind these get those that the page itself gives.
const MOST_ELEMENTS: usize = 1500;
/// How many elements get answers at all.
const MOST_ANSWERED: usize = 5000;
/// How many elements are asked about before their answers are put together.
const AT_ONCE: usize = 500;
/// How many links are looked at in all their states; of large pages fewer.
const MOST_LINKS: usize = 40;
/// The same of pages with more than 300 elements.
const MOST_LINKS_OF_LARGE: usize = 10;

/// A report.
#[derive(Serialize)]
pub(crate) struct Data {
    /// What made it.
    made: &'static str,
    /// The stages in the standard's order: a name, and what is compared.
    stages: Vec<[&'static str; 2]>,
    /// All texts.
    texts: Pool<String>,
    /// All declarations.
    declarations: Pool<Declaration>,
    /// All answers; many elements share one.
    answers: Pool<Answer>,
    /// The pages.
    pages: Vec<Page>,
    /// The sheets, pages with styles of their own among them.
    sheets: Vec<Sheet>,
    /// What `check` finds on the pages, the worst first.
    findings: Vec<Told>,
    /// By property, the part of the standards that it is in.
    groups: BTreeMap<Text, Text>,
    /// What is shown first: page, element, property.
    first: (usize, u32, Text),
}

/// A declaration where it is written.
#[derive(Clone, PartialEq, Eq, Hash, Serialize_tuple)]
struct Declaration {
    /// The property.
    property: Text,
    /// The value.
    value: Text,
    /// Whether it is important.
    important: bool,
    /// The place.
    at: Text,
    /// Whose it is.
    origin: Text,
    /// The selector that takes the element.
    selector: Option<Text>,
    /// Its weight.
    weight: Option<[u32; 3]>,
    /// Its layer.
    layer: Option<Text>,
    /// The conditions around it.
    conditions: Vec<Text>,
}

/// Why a property has its value, as far as elements share it.
#[derive(Clone, PartialEq, Eq, Hash, Serialize_tuple)]
struct Answer {
    /// The sentence.
    sentence: Text,
    /// The belief that is in play.
    belief: Option<Text>,
    /// What is seen instead.
    seen: Vec<Text>,
    /// The contenders, strongest first: declaration, stage, reason, what it computes to.
    contest: Vec<(u32, Option<u8>, Text, Text)>,
    /// What there would be without all of them.
    otherwise: Text,
    /// Whom that would be inherited from.
    otherwise_by: Option<Text>,
    /// The steps to the value.
    steps: Vec<Text>,
    /// What was dropped.
    dropped: Vec<Text>,
    /// What is off: the declaration, where, why, and its selector.
    off: Vec<(Text, Text, Text, Option<Text>)>,
    /// What else to know.
    notes: Vec<Text>,
    /// Where the value comes from: 0 declared, 1 inherited, 2 initial.
    from: u8,
}

/// A value of an element: property, value, answer, and the element that it comes from where that is another.
type Row = (Text, Text, u32, Option<u32>);

/// A page.
#[derive(Serialize)]
struct Page {
    /// The page as it is named in commands.
    name: String,
    /// Its elements in document order.
    elements: Vec<Element>,
    /// The page for its frame.
    frame: String,
    /// The page for a frame without its own styles.
    plain: String,
    /// What a trial makes of it.
    #[serde(skip_serializing_if = "Option::is_none")]
    trial: Option<Trial>,
    /// The viewport that it is seen with, in CSS px.
    viewport: (f64, f64),
    /// Its layers, the weakest first.
    layers: Vec<String>,
    /// Whether it is seen with a preference for a dark colour scheme.
    #[serde(skip_serializing_if = "std::ops::Not::not")]
    dark: bool,
    /// How it is seen, beyond the size of the viewport.
    #[serde(skip_serializing_if = "Option::is_none")]
    seen: Option<String>,
    /// By which rule not all of it is here.
    #[serde(skip_serializing_if = "Option::is_none")]
    cut: Option<String>,
    /// The number of elements, from the first, that have answers, where others have none.
    #[serde(skip_serializing_if = "Option::is_none")]
    answered: Option<usize>,
}

/// An element.
#[derive(Serialize_tuple)]
struct Element {
    /// Its label.
    label: Text,
    /// Its first words.
    words: Text,
    /// Where it is written.
    at: Text,
    /// The element around it, as inheritance has it.
    parent: Option<u32>,
    /// Its values that someone set or that are not the initial ones.
    rows: Vec<Row>,
    /// Its edges in px or as written: margin, border, padding, each from the top on.
    edges: [[Text; 4]; 3],
    /// What is set and does nothing: property, value, place, why.
    idle: Vec<(Text, Text, Text, Text)>,
    /// Its pseudo-elements with their values.
    pseudos: Vec<(Text, Vec<Row>)>,
    /// Of a link: what is different in each state, as state, property, value.
    states: Vec<(Text, Text, Text)>,
    /// What the parser made of it.
    parsed: Option<Text>,
}

/// A trial of a page.
#[derive(Serialize)]
struct Trial {
    /// The page as it would be.
    frame: String,
    /// The answer.
    sentence: String,
    /// Where nothing changes, why.
    because: Vec<String>,
    /// What changes: the element, a pseudo-element of it, property, before, after, by what.
    changes: Vec<(u32, Option<Text>, Text, Text, Text, Text)>,
    /// By element of the page as it is, the one it would be.
    pairs: Vec<Option<u32>>,
}

/// A finding.
#[derive(Serialize_tuple)]
struct Told {
    /// Its code.
    code: Text,
    /// How bad it is.
    level: Text,
    /// Its place.
    at: Text,
    /// Its sheet, where it is in one, and the line.
    sheet: Option<(usize, u32)>,
    /// The page and element that show it, where there is one.
    element: Option<(usize, u32)>,
    /// What is wrong.
    what: Text,
    /// What that does.
    effect: Option<Text>,
    /// What to do.
    advice: Option<Text>,
}

/// A sheet.
#[derive(Serialize)]
struct Sheet {
    /// Its file.
    file: String,
    /// Its text.
    text: Text,
    /// Whether it is a page, of which only the lines with styles are shown.
    page: bool,
    /// Its declarations: line, the text, what became of it on each page.
    declarations: Vec<InSheet>,
    /// Its rules: line, selectors, the heaviest weight, why it is off.
    rules: Vec<(u32, Text, [u32; 3], Option<Text>)>,
    /// What was noted: line, message with what was probably meant.
    notes: Vec<(u32, Text)>,
}

/// A declaration in a sheet.
#[derive(Serialize_tuple)]
struct InSheet {
    /// Its line.
    line: u32,
    /// Its place.
    at: Text,
    /// The declaration.
    text: Text,
    /// By page: how often it wins, loses, wins in part, is off; nothing where it hits nothing on any page.
    counts: Vec<[usize; 4]>,
    /// What it loses to, and why it is off.
    reasons: Vec<Text>,
    /// Why it was dropped.
    dropped: Option<Text>,
    /// By page, elements that it wins on; nothing where it wins nowhere.
    wins: Vec<Vec<u32>>,
}

/// What each stage compares.
fn about(stage: Stage) -> &'static str {
    match stage {
        Stage::Origin => {
            "Whose style sheet it is in, and whether it is important. Important declarations come first, and among them the order of origins is turned round."
        }
        Stage::Context => "Which tree it is in, on pages with shadow trees.",
        Stage::StyleAttribute => "A style attribute comes before all selectors.",
        Stage::Layer => {
            "Later layers come before earlier ones, and styles outside layers before all layers; among important ones it is the other way round."
        }
        Stage::Specificity => {
            "The weight of the selector in three columns: ids; classes, attributes and pseudo-classes; types and pseudo-elements. Columns never carry over."
        }
        Stage::Proximity => "In @scope: how near the scoping root is.",
        Stage::Order => "The one that comes later.",
    }
}

impl Data {
    /// Gathers all that is to be seen of some pages.
    pub(crate) fn of(subjects: &[Subject]) -> Self {
        let mut data = Self {
            made: concat!("clear-cascade ", env!("CARGO_PKG_VERSION")),
            stages: Stage::ALL.iter().map(|s| [s.name(), about(*s)]).collect(),
            texts: Pool::default(),
            declarations: Pool::default(),
            answers: Pool::default(),
            pages: Vec::new(),
            sheets: Vec::new(),
            findings: Vec::new(),
            groups: BTreeMap::new(),
            first: (0, 0, 0),
        };
        for subject in subjects {
            let page = data.page(subject);
            data.pages.push(page);
        }
        data.sheets(subjects);
        data.findings(subjects);
        data.groups();
        data.first = data.most_telling();
        data
    }

    /// What `check` finds on all pages together.
    fn findings(&mut self, subjects: &[Subject]) {
        let mut facts = Facts::default();
        for subject in subjects {
            check::with_scripts(&subject.name, &subject.study, &subject.loader, &mut facts);
        }
        for finding in Review::of(&facts).findings.into_iter().filter(|f| f.level < Level::Advice) {
            let at = self.place(&finding.at);
            let element = self.pages.iter().enumerate().find_map(|(page, p)| {
                let element = p.elements.iter().position(|e| e.at == at)?;
                Some((page, u32::try_from(element).ok()?))
            });
            let told = Told {
                code: self.text(&finding.code),
                level: self.text(finding.level.name()),
                at,
                sheet: self.sheets.iter().position(|s| s.file == finding.at.file).map(|s| (s, finding.at.line)),
                element,
                what: self.text(&finding.what),
                effect: finding.effect.as_ref().map(|t| self.text(t)),
                advice: finding.advice.as_ref().map(|t| self.text(t)),
            };
            self.findings.push(told);
        }
    }

    /// By which rule not all answers are here, page by page.
    pub(crate) fn cuts(&self) -> Vec<String> {
        self.pages.iter().filter_map(|page| Some(format!("{}: {}", page.name, page.cut.as_ref()?))).collect()
    }

    /// What the report is of.
    pub(crate) fn title(&self) -> String {
        let names: Vec<&str> = self.pages.iter().map(|p| p.name.as_str()).collect();
        match names.as_slice() {
            [one] => format!("Why {one} looks as it does"),
            several => format!("Why {} look as they do", several.join(", ")),
        }
    }

    /// The number of a text.
    fn text(&mut self, text: impl AsRef<str>) -> Text {
        self.texts.add(text.as_ref().to_owned())
    }

    /// The number of a place.
    fn place(&mut self, place: &Place) -> Text {
        self.text(place.to_string())
    }

    /// One page.
    fn page(&mut self, subject: &Subject) -> Page {
        let study = &subject.study;
        study.resolve_all();
        let all: Vec<ElementRef<'_>> = study.document().all_elements().collect();
        let states = states(study, &all);
        let mut elements = Vec::with_capacity(all.len());
        for some in all.chunks(AT_ONCE) {
            let asked: Vec<Asked> = some.par_iter().map(|e| Asked::of(study, e.id())).collect();
            for (element, asked) in some.iter().zip(asked) {
                let own = states.iter().filter(|(id, ..)| *id == element.id());
                let own: Vec<_> = own.map(|(_, state, p, v)| (self.text(state), self.text(p), self.text(v))).collect();
                elements.push(self.element(study, *element, asked, own));
            }
        }
        let trial = subject.trial.as_ref().map(|trial| self.trial(subject, trial));
        let answered = (all.len() > MOST_ANSWERED).then_some(MOST_ANSWERED);
        let cut = (all.len() > MOST_ELEMENTS).then(|| {
            let none = answered.map(|n| format!(" up to the {n}th; those behind it have none")).unwrap_or_default();
            format!(
                "Of {} elements, the first {MOST_ELEMENTS} have all their answers; the others have those that the page itself gives{none}.",
                all.len()
            )
        });
        Page {
            name: subject.name.clone(),
            elements,
            frame: self.frame(study, subject, frame::Styles::All),
            plain: self.frame(study, subject, frame::Styles::None),
            trial,
            viewport: (study.viewing().width, study.viewing().height),
            layers: study.layers(),
            dark: study.viewing().prefers_dark(),
            seen: seen(study.viewing()),
            cut,
            answered,
        }
    }

    /// One element.
    fn element(
        &mut self,
        study: &Study,
        element: ElementRef<'_>,
        asked: Asked,
        states: Vec<(Text, Text, Text)>,
    ) -> Element {
        let id = element.id();
        let edge = |data: &mut Self, pattern: &str| {
            ["top", "right", "bottom", "left"].map(|side| {
                let value = study.value(id, &pattern.replace('*', side)).unwrap_or_default();
                data.text(value)
            })
        };
        let edges = ["margin-*", "border-*-width", "padding-*"].map(|pattern| edge(self, pattern));
        let at = study.sources().place(element.span()).map(|p| p.to_string()).unwrap_or_default();
        let idle = asked
            .idle
            .into_iter()
            .map(|n| (self.text(n.property), self.text(n.value), self.place(&n.at), self.text(n.reason)))
            .collect();
        let pseudos = asked.pseudos.into_iter().map(|(name, whys)| (self.text(name), self.rows(id, &whys))).collect();
        Element {
            label: self.text(element.label()),
            words: self.text(study.words(id).unwrap_or_default()),
            at: self.text(at),
            parent: element.flat_parent().map(|p| p.id().number()),
            rows: self.rows(id, &asked.whys),
            edges,
            idle,
            pseudos,
            states,
            parsed: study.how_parsed(id).ok().flatten().map(|t| self.text(t)),
        }
    }

    /// Answers as rows.
    fn rows(&mut self, id: ElementId, whys: &[Why]) -> Vec<Row> {
        whys.iter()
            .map(|why| {
                let giver = why.decided_by.as_ref().map(|d| d.element).filter(|e| *e != id).map(ElementId::number);
                (self.text(&why.property), self.text(&why.value), self.answer(why), giver)
            })
            .collect()
    }

    /// The number of an answer.
    fn answer(&mut self, why: &Why) -> u32 {
        let texts = |data: &mut Self, list: &[String]| list.iter().map(|t| data.text(t)).collect::<Vec<_>>();
        let contest = why
            .contenders
            .iter()
            .map(|c| {
                let stage = c.stage.and_then(|stage| Stage::ALL.iter().position(|s| *s == stage));
                let stage = stage.and_then(|s| u8::try_from(s).ok()).filter(|_| c.outcome == Outcome::Out);
                (self.declaration(c), stage, self.text(&c.reason), self.text(&c.computes_to))
            })
            .collect();
        let off = why
            .off
            .iter()
            .map(|o| {
                let selector = o.selector.as_ref().map(|s| self.text(s));
                (self.text(format!("{}: {}", o.property, o.value)), self.place(&o.at), self.text(&o.reason), selector)
            })
            .collect();
        let answer = Answer {
            sentence: self.text(&why.sentence),
            belief: why.belief.as_ref().map(|b| self.text(b)),
            seen: texts(self, &why.seen),
            contest,
            otherwise: self.text(&why.otherwise),
            otherwise_by: why.otherwise_by.as_ref().map(|b| self.text(b)),
            steps: texts(self, &why.derivation),
            dropped: texts(self, &why.dropped),
            off,
            notes: texts(self, &why.notes),
            from: match why.from {
                ValueFrom::Declared => 0,
                ValueFrom::Inherited => 1,
                _ => 2,
            },
        };
        self.answers.add(answer)
    }

    /// The number of a declaration.
    fn declaration(&mut self, c: &Contender) -> u32 {
        let declaration = Declaration {
            property: self.text(&c.property),
            value: self.text(&c.value),
            important: c.important,
            at: self.place(&c.at),
            origin: self.text(c.origin.name()),
            selector: c.selector.as_ref().map(|s| self.text(s)),
            weight: c.specificity.map(|s| s.columns()),
            layer: c.layer.as_ref().map(|l| self.text(l)),
            conditions: c.conditions.iter().map(|t| self.text(t)).collect(),
        };
        self.declarations.add(declaration)
    }

    /// A page for a frame: texts of sheets are put in where it is shown.
    fn frame(&mut self, study: &Study, subject: &Subject, styles: frame::Styles) -> String {
        let put = &mut |sheet: String| self.texts.add(sheet);
        frame::text(study, &subject.loader, styles, put)
    }

    /// What a trial makes of a page.
    fn trial(&mut self, subject: &Subject, trial: &clear_cascade::Trial) -> Trial {
        let study = &subject.study;
        let tried = study.compare_trial(trial).ok();
        let changes = tried
            .iter()
            .flat_map(|t| &t.changes)
            .filter(|c| !c.echo)
            .map(|c| {
                let pseudo = c.pseudo.as_ref().map(|p| self.text(p));
                (
                    c.element.number(),
                    pseudo,
                    self.text(&c.property),
                    self.text(&c.before),
                    self.text(&c.after),
                    self.text(&c.by),
                )
            })
            .collect();
        Trial {
            frame: self.frame(&trial.study, subject, frame::Styles::All),
            sentence: tried.as_ref().map(|t| t.sentence.clone()).unwrap_or_default(),
            because: tried.map(|t| t.because).unwrap_or_default(),
            changes,
            pairs: study.document().all_ids().map(|id| trial.element(id).map(ElementId::number)).collect(),
        }
    }

    /// The sheets of all pages.
    fn sheets(&mut self, subjects: &[Subject]) {
        let mut sheets: BTreeMap<String, Sheet> = BTreeMap::new();
        let mut order: Vec<String> = Vec::new();
        let mut index: BTreeMap<(String, u32, Option<u32>), usize> = BTreeMap::new();
        for (page, subject) in subjects.iter().enumerate() {
            let study = &subject.study;
            for (_, source) in study.sources().iter() {
                if matches!(source.kind, SourceKind::Page | SourceKind::Sheet | SourceKind::User)
                    && !sheets.contains_key(&source.name)
                {
                    order.push(source.name.clone());
                    sheets.insert(
                        source.name.clone(),
                        Sheet {
                            file: source.name.clone(),
                            text: self.texts.add(source.text.to_string()),
                            page: source.kind == SourceKind::Page,
                            declarations: Vec::new(),
                            rules: Vec::new(),
                            notes: Vec::new(),
                        },
                    );
                }
            }
            for tally in study.tallies() {
                self.tally(subjects.len(), page, &tally, &mut sheets, &mut index);
            }
            for rule in study.rules().iter().filter(|r| r.origin == Origin::Author && !r.selectors.is_empty()) {
                let names: Vec<&str> = rule.selectors.iter().map(|s| s.selector.as_str()).collect();
                let heaviest = rule.selectors.iter().map(|s| s.specificity).max().unwrap_or_default();
                let told = (
                    rule.at.line,
                    self.text(names.join(", ")),
                    heaviest.columns(),
                    rule.off.as_ref().map(|o| self.text(o)),
                );
                let Some(sheet) = sheets.get_mut(&rule.at.file) else { continue };
                match sheet.rules.iter_mut().find(|r| (r.0, r.1) == (told.0, told.1)) {
                    // It is off only where it is off on all pages.
                    Some(known) => known.3 = known.3.and(told.3),
                    None => sheet.rules.push(told),
                }
            }
            for note in study.notes() {
                let Some(place) = study.sources().place(note.span) else { continue };
                let hint = note.hint.as_ref().map(|h| format!("; {h}")).unwrap_or_default();
                let told = (place.line, self.text(format!("{}{hint}", note.message)));
                if let Some(sheet) = sheets.get_mut(&place.file).filter(|s| !s.notes.contains(&told)) {
                    sheet.notes.push(told);
                }
            }
            self.winners(page, subjects.len(), &mut sheets, &index);
        }
        let kept = |s: &Sheet| !s.page || !s.declarations.is_empty() || !s.notes.is_empty();
        self.sheets = order.iter().filter_map(|name| sheets.remove(name)).filter(kept).collect();
    }

    /// What became of a declaration on one page.
    fn tally(
        &mut self,
        pages: usize,
        page: usize,
        tally: &Tally,
        sheets: &mut BTreeMap<String, Sheet>,
        index: &mut BTreeMap<(String, u32, Option<u32>), usize>,
    ) {
        let (at, text) = (self.place(&tally.at), self.text(&tally.declaration));
        let reasons: Vec<Text> = tally.to.iter().chain(&tally.because).map(|t| self.text(t)).collect();
        // What applies to nothing that its rule takes is as if it were not there.
        let idle = tally.idle > 0 && tally.wins + tally.loses + tally.off == 0;
        let dropped = tally.dropped.as_ref().or(tally.because.first().filter(|_| idle)).map(|d| self.text(d));
        let Some(sheet) = sheets.get_mut(&tally.at.file) else { return };
        let key = (tally.at.file.clone(), tally.at.line, tally.at.column);
        let place = *index.entry(key).or_insert_with(|| {
            sheet.declarations.push(InSheet {
                line: tally.at.line,
                at,
                text,
                counts: Vec::new(),
                reasons: Vec::new(),
                dropped,
                wins: Vec::new(),
            });
            sheet.declarations.len() - 1
        });
        let one = &mut sheet.declarations[place];
        let counts = [tally.wins, tally.loses, tally.partly, tally.off];
        if counts != [0; 4] {
            one.counts.resize(pages, [0; 4]);
            one.counts[page] = counts;
        }
        one.reasons.extend(reasons.iter().filter(|r| !one.reasons.contains(r)).copied().collect::<Vec<_>>());
    }

    /// The elements on which declarations win: those whose own contests they won.
    fn winners(
        &self,
        page: usize,
        pages: usize,
        sheets: &mut BTreeMap<String, Sheet>,
        index: &BTreeMap<(String, u32, Option<u32>), usize>,
    ) {
        let mut by_place: BTreeMap<Text, Vec<u32>> = BTreeMap::new();
        for (number, element) in self.pages[page].elements.iter().enumerate() {
            let rows = element.rows.iter().chain(element.pseudos.iter().flat_map(|(_, rows)| rows));
            for (_, _, answer, _) in rows {
                let Some(answer) = self.answers.get(*answer) else { continue };
                let Some((winner, None, ..)) = answer.contest.first().copied() else { continue };
                let Some(declaration) = self.declarations.get(winner) else { continue };
                let list = by_place.entry(declaration.at).or_default();
                let number = u32::try_from(number).unwrap_or(u32::MAX);
                if list.last() != Some(&number) {
                    list.push(number);
                }
            }
        }
        for (key, place) in index {
            if let Some(one) = sheets.get_mut(&key.0).and_then(|s| s.declarations.get_mut(*place))
                && let Some(wins) = by_place.remove(&one.at)
            {
                one.wins.resize(pages, Vec::new());
                one.wins[page] = wins;
            }
        }
    }

    /// The parts of the standards that properties are in, by the names of the documents: `css-color-4` is Color.
    fn groups(&mut self) {
        let rows = self.pages.iter().flat_map(|p| &p.elements);
        let rows = rows.flat_map(|e| e.rows.iter().chain(e.pseudos.iter().flat_map(|(_, rows)| rows)));
        let mut properties: Vec<Text> = rows.map(|row| row.0).collect();
        properties.sort_unstable();
        properties.dedup();
        for property in properties {
            let Some(id) = self.texts.get(property).and_then(|name| PropertyId::named(name)) else { continue };
            let document = id.standard().split('#').next().unwrap_or_default().trim_end_matches('/');
            let name = document
                .rsplit('/')
                .next()
                .unwrap_or_default()
                .trim_end_matches(|c: char| c.is_ascii_digit() || c == '-');
            let words = name.trim_start_matches("css-").replace('-', " ");
            let mut letters = words.chars();
            let title: String = letters.next().into_iter().flat_map(char::to_uppercase).chain(letters).collect();
            let title = self.text(title);
            self.groups.insert(property, title);
        }
    }

    /// The contest that shows most at a glance: several contenders of the page's own that go out at different stages.
    fn most_telling(&self) -> (usize, u32, Text) {
        let color = self.texts.position("color");
        let hidden = self.texts.position("display").zip(self.texts.position("none"));
        let mut best = (0, (0, 0, 0));
        for (p, page) in self.pages.iter().enumerate() {
            for (e, element) in page.elements.iter().enumerate() {
                // What is not shown is not what one came to look at.
                if hidden.is_some_and(|(display, none)| element.rows.iter().any(|r| (r.0, r.1) == (display, none))) {
                    continue;
                }
                for (property, _, answer, _) in &element.rows {
                    let Some(answer) = self.answers.get(*answer) else { continue };
                    let mut stages: Vec<u8> = answer.contest.iter().filter_map(|c| c.1).collect();
                    stages.sort_unstable();
                    stages.dedup();
                    let words = usize::from(self.texts.get(element.words).is_some_and(|w| !w.is_empty()));
                    let seen = usize::from(Some(*property) == color);
                    let score = stages.len() * 4
                        + answer.contest.len().min(8)
                        + words * 4
                        + seen * 6
                        + usize::from(answer.belief.is_some()) * 3;
                    if score > best.0 {
                        best = (score, (p, u32::try_from(e).unwrap_or(0), *property));
                    }
                }
            }
        }
        best.1
    }
}

impl Pool<String> {
    /// The number of a text that is there.
    fn position(&self, text: &str) -> Option<u32> {
        (0..).map_while(|n| self.get(n).map(|t| (n, t))).find(|(_, t)| *t == text).map(|(n, _)| n)
    }
}

/// What was asked about an element.
#[derive(Default)]
struct Asked {
    /// Why its values are what they are.
    whys: Vec<Why>,
    /// What does nothing.
    idle: Vec<clear_cascade::answer::NoEffect>,
    /// The same for its pseudo-elements.
    pseudos: Vec<(String, Vec<Why>)>,
}

impl Asked {
    /// Asks about an element; far behind, only about what the page itself gives, or nothing.
    fn of(study: &Study, id: ElementId) -> Self {
        let number = id.number() as usize;
        if number >= MOST_ANSWERED {
            return Self::default();
        }
        let briefly = number >= MOST_ELEMENTS;
        let readings = study.read(id).unwrap_or_default();
        let echo = |p: &str| PropertyId::named(p).is_some_and(PropertyId::is_flow_relative);
        let own = readings.iter().filter(|r| !echo(&r.property)).filter(|r| {
            let custom = r.property.starts_with("--");
            (!custom && !briefly) || r.from == ValueFrom::Declared && r.origin == Some(Origin::Author)
        });
        let own: Vec<&str> = own.map(|r| r.property.as_str()).collect();
        let whys = study.why_each(id, None, &own).unwrap_or_default();
        let idle = study.without_effect(id).unwrap_or_default();
        let pseudos = study.generated(id).unwrap_or_default().into_iter().filter_map(|(name, values)| {
            let pseudo: PseudoElement = name.parse().ok()?;
            let differs = |(property, value): &(String, String)| {
                !echo(property) && study.value(id, property).as_ref() != Some(value) && !property.starts_with("--")
            };
            let asked: Vec<&str> =
                values.iter().filter(|v| differs(v)).map(|(property, _)| property.as_str()).collect();
            let whys = study.why_each(id, Some(&pseudo), &asked).unwrap_or_default();
            Some((name, whys.into_iter().filter(|w| w.from == ValueFrom::Declared).collect()))
        });
        Self { whys, idle, pseudos: pseudos.collect() }
    }
}

/// How a page is seen, beyond the size of the viewport, and what of that its frame does not show.
fn seen(viewing: &Viewing) -> Option<String> {
    let mut told: Vec<String> = Vec::new();
    if viewing.medium == Medium::Print {
        told.push("in print".to_owned());
    }
    told.extend(viewing.preferences.iter().map(|(feature, value)| format!("with {feature} {value}")));
    if viewing.states != States::default() {
        told.push("the answers are for the states that were asked for, which the picture does not show".to_owned());
    }
    (!told.is_empty()).then(|| told.join(", "))
}

/// How a viewing comes to one in which an element is in a state.
type Way = fn(Viewing, ElementId) -> Viewing;

/// What is different of links in their states: the element, the state, the property, its value there.
fn states(study: &Study, all: &[ElementRef<'_>]) -> Vec<(ElementId, &'static str, String, String)> {
    let links: Vec<ElementId> =
        all.iter().filter(|e| e.is_html("a") && e.attribute("href").is_some()).map(|e| e.id()).collect();
    let ways: [(&str, Way); 3] = [
        ("visited", |v, e| v.visited([e])),
        ("hovered", |v, e| v.hover([e])),
        ("active", |v, e| v.hover([e]).active([e])),
    ];
    let most = if all.len() > 300 { MOST_LINKS_OF_LARGE } else { MOST_LINKS };
    let asked: Vec<(ElementId, usize)> =
        links.into_iter().take(most).flat_map(|e| (0..ways.len()).map(move |w| (e, w))).collect();
    let one = |(element, way): &(ElementId, usize)| {
        let (name, set) = ways[*way];
        let seen = study.seen_with(set(study.viewing().clone(), *element)).ok();
        let compared = seen.and_then(|seen| study.compare_views((*element, None), &seen).ok());
        let changes = compared.into_iter().flat_map(|c| c.changes).filter(|c| !c.echo && c.pseudo.is_none());
        changes.map(|c| (*element, name, c.property, c.after)).collect::<Vec<_>>()
    };
    asked.par_iter().flat_map_iter(one).collect()
}
