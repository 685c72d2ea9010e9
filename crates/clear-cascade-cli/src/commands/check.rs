//! `check`: what is wrong with pages or a site.

use std::collections::{BTreeMap, BTreeSet, HashSet};
use std::fs;
use std::io::{self, BufRead, BufReader, Write};
use std::path::{Path, PathBuf};

use clear_cascade::review::{Acceptance, Facts, Finding, Level, Review};
use clear_cascade::source::Place;
use clear_cascade::{Change, Study, Trial};
use rayon::prelude::*;

use super::trying;
use crate::args::{Check, CheckFormat, FailOn};
use crate::failure::{Failure, Refusal};
use crate::files;
use crate::open::{self, Sites};
use crate::render::check as render;
use crate::web::Web;

/// Carries `check` out; whether it failed as it was asked to.
pub(super) fn run(args: &Check, out: &mut dyn Write, width: usize) -> Result<bool, Failure> {
    let pages = pages(args)?;
    if args.facts {
        return facts_of_each(args, &pages, out).map(|()| false);
    }
    let facts = if args.merge.is_empty() { gathered(&Sites::new(&args.seen)?, &pages) } else { merged(&args.merge)? };
    let accepted = match &args.accept {
        None => Vec::new(),
        Some(file) => Acceptance::read(&file.display().to_string(), &files::read(file)?).map_err(Refusal::new)?,
    };
    let mut review = Review::accepting(&facts, &accepted);
    if !args.advice {
        review.findings.retain(|f| f.level < Level::Advice);
    }
    if let Some(which) = &args.patch {
        return patch(args, &review, which, out).map(|()| false);
    }
    let mut gone = Vec::new();
    if let Some(file) = &args.since {
        let before = earlier(file)?;
        gone = before.iter().filter(|b| !review.findings.iter().any(|f| is_same(f, b))).cloned().collect();
        review.findings.retain(|f| !before.iter().any(|b| is_same(f, b)));
    }
    match args.format {
        CheckFormat::Text => {
            let shown = render::Shown { since: args.since.is_some(), gone: &gone, lines: args.show };
            out.write_all(render::review(&review, &shown, width).as_bytes())?;
        }
        CheckFormat::Lines => lines(&review, &gone, out)?,
        CheckFormat::Sarif => {
            let log = serde_json::to_string_pretty(&render::sarif(&review)).map_err(io::Error::other)?;
            writeln!(out, "{log}")?;
        }
    }
    let limit = args.fail_on.map(|level| match level {
        FailOn::Wrong => Level::Wrong,
        FailOn::Dead => Level::Dead,
        FailOn::Advice => Level::Advice,
    });
    Ok(limit.is_some_and(|limit| review.findings.iter().any(|f| f.level <= limit)))
}

/// The lines of a file of the request, or of standard input.
fn each_line(file: &Path) -> Result<Box<dyn BufRead>, Refusal> {
    if file == Path::new("-") {
        return Ok(Box::new(BufReader::new(io::stdin())));
    }
    let opened = fs::File::open(file);
    let opened = opened.map_err(|e| Refusal::new(format!("`{}` cannot be read: {e}", file.display())))?;
    Ok(Box::new(BufReader::new(opened)))
}

/// The pages that are asked about: those named, and all in folders that are named.
fn pages(args: &Check) -> Result<Vec<PathBuf>, Refusal> {
    let mut found = Vec::new();
    for path in &args.paths {
        if path.is_dir() {
            let before = found.len();
            in_folder(path, &mut found);
            if found.len() == before {
                return Err(Refusal::new(format!("there is no HTML page in `{}`", path.display())));
            }
        } else {
            found.push(path.clone());
        }
    }
    if let Some(file) = &args.pages_from {
        for line in each_line(file)?.lines() {
            let line = line.map_err(|e| Refusal::new(format!("`{}` cannot be read: {e}", file.display())))?;
            found.extend(Some(line.trim()).filter(|l| !l.is_empty()).map(PathBuf::from));
        }
    }
    // `./a.html` is `a.html`: a page is told by one name.
    let plain = |page: PathBuf| page.strip_prefix(".").map(Path::to_path_buf).unwrap_or(page);
    let mut found: Vec<PathBuf> = found.into_iter().map(plain).collect();
    let mut seen = BTreeSet::new();
    found.retain(|page| seen.insert(page.clone()));
    Ok(found)
}

/// The pages in a folder and the folders in it, in the order of their names; what is hidden is left out.
fn in_folder(folder: &Path, found: &mut Vec<PathBuf>) {
    let entries = fs::read_dir(folder).into_iter().flatten().flatten();
    let mut entries: Vec<PathBuf> = entries.map(|e| e.path()).collect();
    entries.sort();
    for entry in entries {
        let hidden = entry.file_name().is_none_or(|n| n.to_string_lossy().starts_with('.') || n == "node_modules");
        let end = entry.extension().map(|e| e.to_string_lossy().to_ascii_lowercase());
        if hidden || entry.is_symlink() && entry.is_dir() {
            continue;
        }
        if entry.is_dir() {
            in_folder(&entry, found);
        } else if matches!(end.as_deref(), Some("html" | "htm" | "xhtml")) {
            found.push(entry);
        }
    }
}

/// The facts of one more page.
fn facts(sites: &Sites<'_>, page: &Path, facts: &mut Facts) {
    let name = page.display().to_string();
    match sites.page(page) {
        Ok((study, site)) => with_scripts(&name, &study, site.loader(), facts),
        Err(refusal) => facts.add(Facts::unreadable(&name, &refusal.message)),
    }
}

/// The facts of one more page that is open, the words of its scripts among them.
pub(crate) fn with_scripts(name: &str, study: &Study, files: &Web, facts: &mut Facts) {
    facts.take(name, study);
    let document = study.document();
    let page = study.sources().get(document.source()).and_then(|source| files.page_url(&source.name));
    for script in document.all_elements().filter(|e| e.is_html("script")) {
        let Some(src) = script.attribute("src") else { continue };
        let url = page.as_ref().and_then(|page| page.join(src).ok());
        match url.and_then(|url| files.bytes(&url)) {
            Some(bytes) => facts.script(&String::from_utf8_lossy(&bytes)),
            None => facts.script_unread(),
        }
    }
}

/// The facts of all pages together, of several at once.
fn gathered(sites: &Sites<'_>, pages: &[PathBuf]) -> Facts {
    let many = pages.len() >= 8;
    let bar = if many { indicatif::ProgressBar::new(pages.len() as u64) } else { indicatif::ProgressBar::hidden() };
    let facts = pages
        .par_iter()
        .fold(Facts::default, |mut some, page| {
            facts(sites, page, &mut some);
            bar.inc(1);
            some
        })
        .reduce(Facts::default, |mut all, some| {
            all.add(some);
            all
        });
    bar.finish_and_clear();
    facts
}

/// Prints the facts of each page as one line.
fn facts_of_each(args: &Check, pages: &[PathBuf], out: &mut dyn Write) -> Result<(), Failure> {
    let sites = Sites::new(&args.seen)?;
    // A few at once: what is done is written before more is begun.
    for some in pages.chunks(rayon::current_num_threads() * 4) {
        let line = |page: &PathBuf| {
            let mut one = Facts::default();
            facts(&sites, page, &mut one);
            serde_json::to_string(&one)
        };
        let lines: Vec<_> = some.par_iter().map(line).collect();
        for line in lines {
            writeln!(out, "{}", line.map_err(io::Error::other)?)?;
        }
    }
    Ok(())
}

/// The facts in files, put together.
fn merged(files: &[PathBuf]) -> Result<Facts, Refusal> {
    let mut all = Facts::default();
    for file in files {
        for (number, line) in (1..).zip(each_line(file)?.lines()) {
            let wrong = |e: &dyn std::fmt::Display| Refusal::new(format!("`{}:{number}`: {e}", file.display()));
            let line = line.map_err(|e| wrong(&e))?;
            if !line.trim().is_empty() {
                all.add(serde_json::from_str(&line).map_err(|e| wrong(&e))?);
            }
        }
    }
    Ok(all)
}

/// The findings that were printed before.
fn earlier(file: &Path) -> Result<Vec<Finding>, Refusal> {
    let mut found = Vec::new();
    for (number, line) in (1..).zip(files::read(file)?.lines()) {
        if line.contains("\"code\":") {
            let wrong = |e| Refusal::new(format!("`{}:{number}` is no finding: {e}", file.display()));
            found.push(serde_json::from_str(line).map_err(wrong)?);
        }
    }
    Ok(found)
}

/// Whether two findings are the same one, wherever its line has moved to.
fn is_same(one: &Finding, other: &Finding) -> bool {
    (&one.code, &one.at.file, &one.what) == (&other.code, &other.at.file, &other.what)
}

/// Findings as lines of JSON, those that are gone behind them, and a last line about the whole.
fn lines(review: &Review, gone: &[Finding], out: &mut dyn Write) -> Result<(), Failure> {
    let text = |value: &serde_json::Value| serde_json::to_string(value).map_err(io::Error::other);
    for finding in &review.findings {
        writeln!(out, "{}", text(&serde_json::to_value(finding).map_err(io::Error::other)?)?)?;
    }
    for finding in gone {
        writeln!(out, "{}", text(&serde_json::json!({ "gone": finding }))?)?;
    }
    let whole = serde_json::json!({
        "pages": review.pages, "elements": review.elements, "accepted": review.accepted.len(), "sheets": review.sheets,
    });
    writeln!(out, "{}", text(&whole)?)?;
    Ok(())
}

/// Prints the certain fixes as one patch. Each is tried first, and left out where the finding does not go.
fn patch(args: &Check, review: &Review, which: &str, out: &mut dyn Write) -> Result<(), Failure> {
    let asked = |f: &&Finding| {
        let place = |at: &str| at == f.at.to_string() || at == format!("{}:{}", f.at.file, f.at.line);
        which.is_empty() || which.split_once('@').is_some_and(|(code, at)| code == f.code && place(at))
    };
    let fixes: Vec<&Finding> = review.findings.iter().filter(asked).filter(|f| !f.fix.is_empty()).collect();
    if fixes.is_empty() {
        let hint = Some("`check` without --patch tells what there is; a fix is there where it is certain".to_owned());
        return Err(Refusal { hint, ..Refusal::new("there is nothing that a patch could mend") }.into());
    }
    // By file, since pages share sheets: each file is mended on one page that has it.
    let mut by_file: BTreeMap<&str, Vec<&Finding>> = BTreeMap::new();
    for finding in fixes {
        by_file.entry(&finding.at.file).or_default().push(finding);
    }
    let mut patches = BTreeMap::new();
    for findings in by_file.values() {
        let page = Path::new(&findings[0].page);
        let (study, files) = open::page_with_files(page, &args.seen)?;
        let of_page = findings.iter().copied().filter(|f| f.page == findings[0].page);
        // What is dead first: that nothing changes is seen where nothing else is mended yet.
        let (dead, others): (Vec<&Finding>, Vec<&Finding>) = of_page.partition(|f| f.level == Level::Dead);
        let mut changes = Vec::new();
        for list in [dead, others] {
            add_fixes(&list, &study, &files, &mut changes);
        }
        if !changes.is_empty() {
            trying::collect_patches(&study.attempt_with(&files, &changes)?, &mut patches)?;
        }
    }
    for (file, (before, after)) in &patches {
        out.write_all(trying::unified(file, before, after).as_bytes())?;
    }
    Ok(())
}

/// Adds the fixes of findings to changes that were tried: all at once where all do what they should, else half of them and then
/// the other half. What cannot be tried together with the others is left for the next patch.
fn add_fixes(findings: &[&Finding], study: &Study, files: &Web, changes: &mut Vec<Change>) {
    if findings.is_empty() {
        return;
    }
    let with: Vec<Change> = changes.iter().chain(findings.iter().flat_map(|f| &f.fix)).cloned().collect();
    if study.attempt_with(files, &with).is_ok_and(|trial| mends(findings, study, &trial, files)) {
        *changes = with;
    } else if findings.len() > 1 {
        let (first, second) = findings.split_at(findings.len() / 2);
        add_fixes(first, study, files, changes);
        add_fixes(second, study, files, changes);
    }
}

/// Whether findings are gone on their page once their fixes are made, and nothing else comes of it where nothing may.
fn mends(findings: &[&Finding], study: &Study, trial: &Trial, files: &Web) -> bool {
    if findings.iter().all(|f| f.level == Level::Dead) {
        return study.compare_trial(trial).is_ok_and(|tried| tried.changes.is_empty());
    }
    let mut facts = Facts::default();
    with_scripts(&findings[0].page, &trial.study, files, &mut facts);
    let after = Review::of(&facts);
    let left: HashSet<(&str, &Place)> = after.findings.iter().map(|f| (f.code.as_str(), &f.at)).collect();
    let is_edited = |at: &Place| trial.edits.iter().any(|e| e.file == at.file);
    let now = |at: &Place| if is_edited(at) { trial.moved_to(at) } else { Some(at.clone()) };
    !findings.iter().any(|f| now(&f.at).is_some_and(|at| left.contains(&(f.code.as_str(), &at))))
}
