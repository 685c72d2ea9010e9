//! Answers to different questions about one page do not contradict each other, every place leads back to its thing, and
//! every count is the number of what it counts.

use std::collections::{BTreeSet, HashMap, HashSet};

use clear_cascade::answer::{Outcome, Tally, ValueFrom, Why};
use clear_cascade::document::ElementId;
use clear_cascade::source::Place;
use clear_cascade::{Change, Options, Study};

use crate::oracle::{Dice, random_page};
use crate::with_options;

/// Collects what does not agree.
struct Check<'s> {
    /// The page.
    study: &'s Study,
    /// What was found.
    wrong: Vec<String>,
    /// How many declarations won, lost, were off and were dropped somewhere.
    met: [usize; 4],
}

impl Check<'_> {
    /// Notes what is not so.
    fn holds(&mut self, so: bool, what: impl FnOnce() -> String) {
        if !so && self.wrong.len() < 20 {
            self.wrong.push(what());
        }
    }

    /// Asks about each declaration by its place: `reach`, `why-not`, `why` and a trial that cuts it.
    fn declarations(&mut self, cut_one_in: usize) {
        let study = self.study;
        let page: HashMap<Place, Tally> = study.tallies().into_iter().map(|t| (t.at.clone(), t)).collect();
        for (i, written) in study.declarations().into_iter().enumerate() {
            let place = written.at.to_string();
            let reach = match study.reach(&place) {
                Ok(reach) => reach,
                Err(e) => return self.wrong.push(format!("{place} leads nowhere: {e}")),
            };
            let [tally] = reach.declarations.as_slice() else {
                self.wrong.push(format!("{place} is not one declaration: {:?}", reach.declarations));
                continue;
            };
            let whole = page.get(&written.at).map(counted);
            self.holds(whole.as_ref() == Some(&counted(tally)), || {
                format!("{place}: the page's {whole:?}, reach {tally:?}")
            });
            self.holds(tally.at.to_string() == place, || format!("{place} leads to {}", tally.at));
            let rule_at = reach.rule_at.as_ref().map(ToString::to_string).unwrap_or_default();
            let back = study.reach(&rule_at).ok().and_then(|r| r.rule_at).map(|r| r.to_string());
            self.holds(back.as_deref() == Some(&*rule_at), || format!("the rule at {rule_at} leads to {back:?}"));
            let [mut wins, mut loses, mut off, mut partly] = [0; 4];
            for hit in &reach.elements {
                let element = hit.element;
                let name = format!("{}{}", hit.element, hit.pseudo.as_deref().unwrap_or_default());
                let located = study.locate(&name).unwrap();
                let pseudo = located.pseudo.as_ref();
                let answer = study.why_not_of(element, pseudo, &place).unwrap();
                self.holds(answer.takes, || format!("{place} hits {name}, and why-not: {}", answer.sentence));
                let Some(fate) = answer.declarations.first() else { continue };
                loses += usize::from(!fate.loses.is_empty());
                wins += usize::from(fate.loses.is_empty() && !fate.wins.is_empty());
                off += usize::from(fate.off.is_some());
                partly += usize::from(!fate.loses.is_empty() && !fate.wins.is_empty());
                let here = |at: &Place| *at == written.at;
                let lost: Vec<&String> = fate.loses.iter().map(|(l, _)| l).collect();
                for longhand in study.longhands(&written.property).unwrap_or_default() {
                    let why = study.why_of(element, pseudo, &longhand).unwrap();
                    let own = why.contenders.iter().find(|c| here(&c.at)).map(|c| c.outcome);
                    let said = match (fate.wins.contains(&longhand), lost.contains(&&longhand)) {
                        (true, false) => Some(Outcome::Won),
                        (false, true) => Some(Outcome::Out),
                        _ => None,
                    };
                    self.holds(own == said, || {
                        format!("{place} {longhand} on {name}: why has {own:?}, why-not {said:?}: {}", answer.sentence)
                    });
                    let aside = why.off.iter().any(|o| here(&o.at));
                    self.holds(aside == fate.off.is_some(), || {
                        format!("{place} {longhand} on {name} is off: why {aside}, why-not {:?}", fate.off)
                    });
                }
            }
            let counted = [tally.wins, tally.loses, tally.off, tally.partly];
            self.holds(counted == [wins, loses, off, partly], || {
                format!("{place}: reach counts {counted:?}, why-not {:?}", [wins, loses, off, partly])
            });
            let dropped = usize::from(tally.dropped.is_some());
            for (met, n) in self.met.iter_mut().zip([wins, loses, off, dropped]) {
                *met += n;
            }
            if i % cut_one_in == 0 {
                self.cut(&written, wins + partly);
            }
        }
    }

    /// What is cut changes something only where it wins, and where nothing changes the reason is about it.
    fn cut(&mut self, written: &clear_cascade::answer::Written, wins: usize) {
        let change = [Change::Cut { at: written.at.clone() }];
        let trial = self.study.attempt(&change).unwrap();
        let tried = self.study.compare_trial(&trial).unwrap();
        let place = written.at.to_string();
        let wide = written.value.contains("revert") || written.value.contains("var(") || written.property == "all";
        if wins == 0 && !wide && !written.property.starts_with("--") {
            self.holds(tried.changes.is_empty() || self.rolls_back(), || {
                format!("{place} wins nowhere, and cutting it: {}", tried.sentence)
            });
        }
        if tried.changes.is_empty() {
            let about = tried.because.iter().all(|b| {
                b.contains(&format!("`{}", written.property)) || b.contains("takes no element") || b.contains(" is off")
            });
            self.holds(about && !tried.because.is_empty(), || format!("{place}: because {:?}", tried.because));
        }
        for changed in tried.changes.iter().filter(|c| c.pseudo.is_none()) {
            let (element, property) = (changed.element, &changed.property);
            let now = self.study.value(element, property).unwrap_or_default();
            let then = trial.study.value(trial.element(element).unwrap(), property).unwrap_or_default();
            self.holds((&now, &then) == (&changed.before, &changed.after), || {
                format!("{place}: {property} of {} is {now} and {then}, not {changed:?}", changed.element)
            });
        }
    }

    /// Whether something on the page rolls back, so that what loses may count all the same.
    fn rolls_back(&self) -> bool {
        self.study.declarations().iter().any(|w| w.value.contains("revert"))
    }

    /// Asks about elements: `values`, `why`, `aim`, places and a comparison of two.
    fn elements(&mut self) {
        let study = self.study;
        let all: Vec<ElementId> = study.document().ids().collect();
        // One by one on a page of which nothing is known yet, and then all at once.
        let asked = ["color", "margin-top", "font-size", "border-top-color", "--a", "--b"];
        let told = |why: &Why| serde_json::to_string(why).unwrap();
        let one_by_one = |e: &ElementId| asked.map(|property| told(&study.why(*e, property).unwrap()));
        let alone: Vec<[String; 6]> = all.iter().map(one_by_one).collect();
        for (element, alone) in all.iter().zip(&alone) {
            let each = study.why_each(*element, None, &asked).unwrap();
            self.holds(each.iter().map(told).eq(alone.iter().cloned()), || format!("{element}: {each:?}, {alone:?}"));
        }
        for (i, element) in all.iter().enumerate() {
            let node = study.document().element(*element).unwrap();
            let at = study.sources().place(node.span()).unwrap().to_string();
            let back = study.locate(&at).map(|l| l.elements).unwrap_or_default();
            let tag = node.tag.is_some();
            self.holds(!tag || back.contains(element), || format!("{at} of {element} leads to {back:?}"));
            for reading in study.read(*element).unwrap() {
                let why = study.why(*element, &reading.property).unwrap();
                self.holds((reading.from, &reading.value) == (why.from, &why.value), || {
                    format!("{} of {element}: values {reading:?}, why {}", reading.property, why.sentence)
                });
                let place = reading.at.map(|at| at.to_string()).unwrap_or_default();
                let told = why.sentence.contains(&place) || why.from == ValueFrom::Initial;
                self.holds(told, || format!("{} of {element}: at {place}, why {}", reading.property, why.sentence));
            }
            for aim in study.aim(*element, &[*element], &[]).unwrap() {
                let hits = study.reach(&aim.selector).unwrap().elements;
                let takes = hits.iter().any(|h| h.element == *element);
                let counts = (hits.len(), hits.len() - 1) == (aim.takes, aim.besides);
                self.holds(takes && counts, || format!("aim at {element}: {aim:?}, reach {}", hits.len()));
            }
            let other = all[(i + 1) % all.len()];
            let twins = study.compare_elements(*element, study, other).unwrap();
            let told: HashSet<&str> = twins.differences.iter().map(|d| d.property.as_str()).collect();
            self.holds(told.len() == twins.differences.len(), || format!("{element} and {other}: doubled"));
            for (property, value) in study.values(*element).unwrap() {
                let differs = study.value(other, &property).unwrap_or_default() != value;
                self.holds(differs == told.contains(&*property), || format!("{property} of {element} and {other}"));
            }
            let count = twins.differences.iter().filter(|d| !d.echo).count();
            let said = count < 3 || twins.sentence.contains(&format!("in {count} properties"));
            self.holds(said, || format!("{count} differ: {}", twins.sentence));
        }
        self.holds(study.compare(study).is_same(), || "the page differs from itself".to_owned());
    }
}

/// What a tally counts, and its reasons in whatever order.
fn counted(tally: &Tally) -> ([usize; 4], BTreeSet<&String>, Option<&String>) {
    let counts = [tally.wins, tally.loses, tally.partly, tally.off];
    (counts, tally.to.iter().chain(&tally.because).collect(), tally.dropped.as_ref())
}

/// A page with sheets of one long line, pseudo-elements, conditions that are off, slips, and variables.
pub(crate) fn one_line(seed: u64) -> Vec<(&'static str, String)> {
    let mut dice = Dice((seed + 1).wrapping_mul(0x9E37_79B9_7F4A_7C15) | 1);
    let compounds = ["p", "em", ".a", ".b", "div", "p.a", "[title]", "*", ":not(.a, em)", "p:first-child"];
    let ends = ["", "", "", "::before", "::after", ":hover", "::marker", "::selection"];
    let said = [
        "color: red",
        "color: blue!important",
        "colour: red",
        "color: 3",
        "margin: 1em 2px",
        "margin-left: 0",
        "all: unset",
        "font: italic 2em serif",
        "font-size: larger",
        "--x: 1",
        "width: var(--x)",
        "color: inherit",
        "display: none",
        "content: \"é\"",
        "padding: calc(1em + 2px)",
        "margin-inline: 3px",
        "float: left",
        "border: solid",
        "color",
        "color: revert",
        "background: var(--y, red)",
    ];
    let around =
        ["", "", "", "@media print{", "@media (min-width:2000px){", "@layer l{", "@supports (x:y){", "@media screen{"];
    let sheet = |dice: &mut Dice| {
        let mut css = String::new();
        for _ in 0..dice.below(6) + 2 {
            let group = dice.one(&around);
            let selector = format!("{}{}{}", dice.one(&compounds), dice.one(&["", " em", ">p"]), dice.one(&ends));
            let block: Vec<&str> = (0..dice.below(3) + 1).map(|_| dice.one(&said)).collect();
            css.push_str(&format!(
                "{group}{selector}{{{}}}{}",
                block.join(";"),
                if group.is_empty() { "" } else { "}" }
            ));
        }
        css
    };
    let (a, b, c) = (sheet(&mut dice), sheet(&mut dice), sheet(&mut dice));
    let html = format!(
        "<!DOCTYPE html><link rel=stylesheet href=a.css><link rel=stylesheet href=b.css media='{}'><style>{c}</style><div class=a>é<p class='a b' title=x style='{}'>one <em>two</em></p><p class=b>three</p></div><ul><li><em>x</em></ul>",
        dice.one(&["all", "print"]),
        dice.one(&["", "color: teal; margin: 0", "--x: 2"]),
    );
    vec![("index.html", html), ("a.css", a), ("b.css", b)]
}

/// Checks one page; what does not agree fails the test with the page.
fn check(files: &[(&str, String)], options: &Options, cut_one_in: usize) -> [usize; 4] {
    let list: Vec<(&str, &str)> = files.iter().map(|(name, text)| (*name, text.as_str())).collect();
    let study = with_options(&list, options);
    let mut check = Check { study: &study, wrong: Vec::new(), met: [0; 4] };
    check.declarations(cut_one_in);
    check.elements();
    assert!(check.wrong.is_empty(), "{}\n{list:#?}", check.wrong.join("\n"));
    check.met
}

/// Checks so many pages of both kinds, from a number on, on a few threads.
fn check_pages(lines: std::ops::Range<u64>, nested: std::ops::Range<u64>) -> [usize; 4] {
    let user = |seed: u64| {
        let (html, user) = random_page(seed);
        let mut options = Options::default();
        options.user_sheets = vec![("user.css".to_owned(), user)];
        check(&[("index.html", html)], &options, 16)
    };
    let all: Vec<(bool, u64)> = lines.map(|n| (true, n)).chain(nested.map(|n| (false, n))).collect();
    let met: Vec<[usize; 4]> = std::thread::scope(|scope| {
        let threads: Vec<_> = (0..4)
            .map(|first| {
                let mine = all.iter().skip(first).step_by(4).copied();
                scope.spawn(move || {
                    let ask = |(line, n)| if line { check(&one_line(n), &Options::default(), 3) } else { user(n) };
                    mine.map(ask).collect::<Vec<_>>()
                })
            })
            .collect();
        threads.into_iter().flat_map(|t| t.join().unwrap()).collect()
    });
    met.into_iter().fold([0; 4], |sum, more| std::array::from_fn(|i| sum[i] + more[i]))
}

#[test]
fn answers_about_random_pages_agree() {
    let met = check_pages(0..40, 0..2);
    // The pages have something of each kind to disagree about.
    assert!(met.iter().all(|n| *n > 20), "{met:?}");
}

#[test]
fn what_counts_for_nothing_changes_nothing() {
    // Each goes to the start and to the end of the sheets, where it would come before or win over all else if it counted.
    let nothing = [
        ".nowhere, p > .nowhere em { all: initial !important; --x: 9 }",
        "@media print { * { all: initial !important } @layer zz { p { color: lime } } @property --x { syntax: '<color>'; inherits: false; initial-value: red } }",
        "@supports (x: y) { @layer l, zz; @media all { *, ::before { --x: 7 !important; color: lime !important } } }",
        "@media (min-width: 9999px) { @layer zz.l, l { * { all: revert !important } } }",
        "p:nowhere, em { all: initial !important } * { colour: lime !important; color: 3 !important }",
        "@scope (.nowhere) { :scope, * { all: initial !important } } @container nowhere { * { all: initial !important } }",
        "@starting-style { * { color: lime !important } } @keyframes k { to { color: lime } } @page { margin: 0 }",
    ];
    let mut same = 0;
    for seed in 0..12 {
        let lines = one_line(seed);
        let nested = vec![("index.html", random_page(seed).0)];
        for (files, text) in [nothing.map(|text| (&lines, text)), nothing.map(|text| (&nested, text))].concat() {
            let open = |at: [&str; 2]| {
                let put = |name: &str, text: &str| match name.ends_with(".css") {
                    true => format!("{}{text}{}", at[0], at[1]),
                    false => text
                        .replacen("<style>", &format!("<style>{}", at[0]), 1)
                        .replace("</style>", &format!("{}</style>", at[1])),
                };
                let files: Vec<(&str, String)> = files.iter().map(|(name, text)| (*name, put(name, text))).collect();
                let list: Vec<(&str, &str)> = files.iter().map(|(name, text)| (*name, text.as_str())).collect();
                with_options(&list, &Options::default())
            };
            let before = open(["", ""]);
            for at in [[text, ""], ["", text]] {
                let changes = before.compare(&open(at)).changes;
                assert!(changes.is_empty(), "page {seed}, {at:?}: {changes:#?}\n{files:#?}");
                same += 1;
            }
        }
    }
    assert_eq!(same, 12 * 2 * 7 * 2);
}

#[test]
#[ignore = "takes a while: the same on more pages"]
fn answers_about_many_random_pages_agree() {
    check_pages(1000..1040, 1000..1002);
}
