//! `try`: changes from arguments, tried on each page, told or printed as a patch.

use std::collections::{BTreeMap, BTreeSet};
use std::io::Write;
use std::path::{Path, PathBuf};

use clear_cascade::answer::Tried;
use clear_cascade::{Change, RulePlace, Study, Trial, TrialError};
use serde::Serialize;

use crate::args::{Changes, Format, Seen, Try};
use crate::failure::{Failure, Refusal};
use crate::open;
use crate::pages::{Pages, json};
use crate::paint::{STAGE, paint};
use crate::render;
use crate::web::Web;
use crate::witness::{self, Claim, Testimony};

impl From<TrialError> for Failure {
    fn from(error: TrialError) -> Self {
        Self::Refused(Refusal::new(error.to_string()))
    }
}

/// What a trial changes on one of several pages.
#[derive(Serialize)]
struct OnPage<'p> {
    /// The page.
    page: String,
    /// What changes there.
    #[serde(flatten)]
    tried: &'p Tried,
}

/// Carries `try` out; whether a browser that is asked computes something else, where that is to fail.
pub(super) fn run(args: &Try, out: &mut dyn Write, width: usize) -> Result<bool, Failure> {
    let mut differs = false;
    let mut patches: BTreeMap<String, (String, String)> = BTreeMap::new();
    let mut answers: Vec<(PathBuf, Tried)> = Vec::new();
    let mut missing: Option<Failure> = None;
    let many = args.pages.len() > 1;
    open::all_there(&args.pages)?;
    for page in Pages::of(&args.pages) {
        let (study, loader) = open::page_with_files(page, &args.seen)?;
        if args.changes.is_none() {
            return Err(Refusal {
                hint: Some("for example --set '.menu a { color: gold }'; --help lists all".to_owned()),
                ..Refusal::new("nothing to try: no change is given")
            }
            .into());
        }
        let tried = changes((&args.changes, &args.seen, &args.pages[0]), &study).and_then(|changes| {
            let trial = study.attempt_with(&loader, &changes)?;
            Ok((study.compare_trial(&trial)?, trial))
        });
        let (tried, trial) = match tried {
            Ok(tried) => tried,
            // A file that one page of several does not have, or an element, is no mistake.
            Err(failure) if many => {
                missing = Some(failure);
                continue;
            }
            Err(failure) => return Err(failure),
        };
        if args.patch {
            collect_patches(&trial, &mut patches)?;
        } else if args.format == Format::Text {
            if many {
                let gap = if answers.is_empty() { "" } else { "\n" };
                writeln!(out, "{gap}{}", paint(STAGE, page.display()))?;
            }
            let in_files = !trial.edits.is_empty() && trial.edits.iter().all(|edit| Path::new(&edit.file).is_file());
            out.write_all(render::tried(&tried, in_files, width).as_bytes())?;
            if let Some(driver) = &args.witness {
                let testimony = witnessed(driver, (&trial, &loader), &args.seen, &tried)?;
                out.write_all(testimony.told(&trial.study, width).as_bytes())?;
                differs |= testimony.differs() && args.fail_on_difference;
            }
        }
        answers.push((page.to_owned(), tried));
    }
    if answers.is_empty()
        && let Some(failure) = missing
    {
        return Err(failure);
    }
    if args.patch {
        for (file, (before, after)) in &patches {
            out.write_all(unified(file, before, after).as_bytes())?;
        }
        return Ok(false);
    }
    match (args.format, answers.as_slice()) {
        (Format::Json, [(_, one)]) if !many => json(one, out),
        (Format::Json, all) => {
            let all: Vec<OnPage<'_>> =
                all.iter().map(|(page, tried)| OnPage { page: page.display().to_string(), tried }).collect();
            json(&all, out)
        }
        (Format::Text, _) => Ok(()),
    }?;
    Ok(differs)
}

/// Asks a browser about the page as it would be: about all that changes, and the other values of the same elements.
fn witnessed(driver: &str, (trial, loader): (&Trial, &Web), seen: &Seen, tried: &Tried) -> Result<Testimony, Failure> {
    let no_edit = |change: &&Change| matches!(change, Change::WithoutDefaults | Change::WithoutAuthor);
    if trial.changes().iter().any(|change| no_edit(&change)) {
        return Err(
            Refusal::new("a browser cannot be shown the page without its defaults, or without all its styles").into()
        );
    }
    let mut claims = Vec::new();
    let mut met = BTreeSet::new();
    for changed in &tried.changes {
        let Some(element) = trial.element(changed.element).filter(|_| changed.pseudo.is_none()) else { continue };
        if met.insert(element.number()) {
            let values = trial.study.values(element)?.into_iter();
            claims.extend(values.map(|(property, value)| Claim {
                element: element.number(),
                pseudo: None,
                property,
                value,
            }));
        }
    }
    Ok(witness::ask(driver, (&trial.study, loader, &trial.edits), seen, claims)?)
}

/// The changes that the arguments ask for on a page; files are found from the first page.
pub(super) fn changes((args, seen, page): (&Changes, &Seen, &Path), study: &Study) -> Result<Vec<Change>, Failure> {
    let refuse = |what: &str, given: &str| Refusal::new(format!("`{given}` is no {what}"));
    let mut changes = Vec::new();
    let to = args.into.as_deref().map_or_else(RulePlace::default, |text| match text.parse() {
        Ok(place) => RulePlace::Before(place),
        Err(_) => RulePlace::EndOf(text.to_owned()),
    });
    for text in &args.set {
        changes.push(Change::Rule { text: text.clone(), to: to.clone() });
    }
    let pairs = |list: &[String]| -> Vec<(String, String)> {
        list.chunks(2).filter_map(|pair| Some((pair.first()?.clone(), pair.get(1)?.clone()))).collect()
    };
    // What sets a whole attribute comes before what adds to it.
    for (element, classes) in pairs(&args.classes) {
        changes.push(Change::Classes { elements: study.locate(&element)?.elements, classes });
    }
    for (element, text) in pairs(&args.attribute) {
        let (name, value) = text.split_once('=').unwrap_or((&text, ""));
        let elements = study.locate(&element)?.elements;
        changes.push(Change::Attribute { elements, name: name.to_owned(), value: Some(value.to_owned()) });
    }
    for (element, declarations) in pairs(&args.on) {
        changes.push(Change::Attach { elements: study.locate(&element)?.elements, declarations });
    }
    for (list, on) in [(&args.add_class, true), (&args.drop_class, false)] {
        for text in list {
            let (element, class) = text.rsplit_once('=').ok_or_else(|| refuse("ELEMENT=CLASS", text))?;
            let class = class.trim_start_matches('.');
            changes.push(Change::Class { elements: study.locate(element)?.elements, class: class.to_owned(), on });
        }
    }
    for (element, name) in pairs(&args.drop_attribute) {
        changes.push(Change::Attribute { elements: study.locate(&element)?.elements, name, value: None });
    }
    for (element, text) in pairs(&args.text) {
        changes.push(Change::Text { elements: study.locate(&element)?.elements, text });
    }
    for text in &args.value {
        let at = text.match_indices('=').find_map(|(i, _)| Some((text[..i].parse().ok()?, &text[i + 1..])));
        let (at, by) = at.ok_or_else(|| refuse("FILE:LINE[:COL]=VALUE", text))?;
        changes.push(Change::Value { at, by: by.to_owned() });
    }
    for text in &args.cut {
        let at = text.parse().map_err(|_| refuse("place FILE:LINE[:COL]", text))?;
        changes.push(Change::Cut { at });
    }
    for text in &args.without {
        changes.push(left_out(text));
    }
    for text in &args.replace {
        let (file, by) = text.split_once('=').ok_or_else(|| refuse("FILE=OTHER", text))?;
        let by = open::path_in_site(Path::new(by), page, seen)?;
        changes.push(Change::Replace { file: file.to_owned(), by });
    }
    for text in &args.moves {
        let (from, to) = text.split_once('=').ok_or_else(|| refuse("FILE[:LINE]=FILE[:LINE]", text))?;
        changes.push(match (from.parse(), to.parse()) {
            (Ok(from), Ok(to)) => Change::Move { from, to },
            (Err(_), Err(_)) => Change::MoveSheet { file: from.to_owned(), before: to.to_owned() },
            _ => return Err(refuse("pair of two rules, nor of two sheets", text).into()),
        });
    }
    Ok(changes)
}

/// The change that leaves a sheet out: all of the page's, all of the browser's, or one.
pub(super) fn left_out(name: &str) -> Change {
    match name {
        "author" => Change::WithoutAuthor,
        "defaults" => Change::WithoutDefaults,
        file => Change::WithoutSheet { file: file.to_owned() },
    }
}

/// Takes the edits of one page in; pages that share a file must agree on it.
pub(super) fn collect_patches(trial: &Trial, patches: &mut BTreeMap<String, (String, String)>) -> Result<(), Failure> {
    for edit in &trial.edits {
        let bytes = std::fs::read(&edit.file).map_err(|_| Refusal {
            hint: Some("a patch is for pages in files; of what is fetched, --save keeps some".to_owned()),
            ..Refusal::new(format!("`{}` is no file that a patch could change", edit.file))
        })?;
        let before = String::from_utf8(bytes)
            .map_err(|_| Refusal::new(format!("`{}` is not in UTF-8, which patches need", edit.file)))?;
        let mark = if before.starts_with('\u{FEFF}') { "\u{FEFF}" } else { "" };
        if before.trim_start_matches('\u{FEFF}') != &*edit.before {
            return Err(Refusal::new(format!("`{}` is not in UTF-8, which patches need", edit.file)).into());
        }
        let after = format!("{mark}{}", edit.after);
        // Where two pages ask for different edits of one file, both cannot be in one patch.
        if patches.get(&edit.file).is_some_and(|(_, other)| *other != after) {
            return Err(Refusal::new(format!(
                "the pages ask for different edits of `{}`; ask for one at a time",
                edit.file
            ))
            .into());
        }
        patches.insert(edit.file.clone(), (before, after));
    }
    Ok(())
}

/// A unified diff of one file, as `git apply` takes it.
pub(super) fn unified(file: &str, before: &str, after: &str) -> String {
    let here = std::env::current_dir().unwrap_or_default();
    let path = Path::new(file);
    let shown = path.strip_prefix(&here).unwrap_or(path).display().to_string().replace('\\', "/");
    let shown = shown.trim_start_matches("./");
    let diff = similar::TextDiff::from_lines(before, after);
    diff.unified_diff().context_radius(3).header(&format!("a/{shown}"), &format!("b/{shown}")).to_string()
}
