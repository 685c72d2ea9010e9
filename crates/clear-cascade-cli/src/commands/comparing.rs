//! `compare`: which two sides are meant, and what differs between them.

use std::collections::BTreeSet;
use std::fs;
use std::io::Write;
use std::path::{Path, PathBuf};

use clear_cascade::Study;
use clear_cascade::answer::{Comparison, Located};
use serde::Serialize;

use super::trying::left_out;
use crate::args::{Compare, Format, Seen};
use crate::failure::{Failure, Refusal};
use crate::open;
use crate::pages::{Pages, json};
use crate::paint::{STAGE, paint};
use crate::render;

/// Two pages and what differs.
#[derive(Serialize)]
struct OfPages {
    /// The page on the left.
    left: String,
    /// The page on the right.
    right: String,
    /// What differs.
    #[serde(flatten)]
    comparison: Comparison,
}

/// Carries `compare` out; gives whether something differs.
pub(super) fn run(args: &Compare, out: &mut dyn Write, width: usize) -> Result<bool, Failure> {
    let (pages, elements) = sides(&args.words)?;
    let left = pages[0].as_path();
    let right = pages.get(1).map_or(left, PathBuf::as_path);
    let other = other_side(args);
    if left.is_dir() && right.is_dir() && pages.len() == 2 {
        return sites(left, right, &other, args, out, width);
    }
    let left_study = open::study(left, &args.seen)?;
    let right_study = side(right, &other, args)?;
    match elements {
        [] => told(&left_study.compare(&right_study), args, out, width),
        [one] if pages.len() == 1 => {
            let located = left_study.locate(one)?;
            let part = (located.elements[0], located.pseudo.as_ref());
            let comparison = left_study.compare_views(part, &right_study)?;
            if args.format == Format::Text {
                let more = located.elements.len() - 1;
                out.write_all(render::comparison(&comparison, width).as_bytes())?;
                if more > 0 {
                    out.write_all(render::subject(&left_study, &located, one, width).as_bytes())?;
                }
                return Ok(!comparison.is_same());
            }
            told(&comparison, args, out, width)
        }
        [one, rest @ ..] => {
            let (a, b) = (left_study.locate(one)?, right_study.locate(rest.first().unwrap_or(one))?);
            let part = |l: &'_ Located| (l.elements[0], l.pseudo.clone());
            let ((l, lp), (r, rp)) = (part(&a), part(&b));
            let twins = left_study.compare_parts((l, lp.as_ref()), &right_study, (r, rp.as_ref()))?;
            if args.format == Format::Json {
                json(&twins, out)?;
            } else {
                let second = rest.first().unwrap_or(one);
                let mut subjects = render::subject(&left_study, &a, one, width);
                subjects.push_str(&render::subject(&right_study, &b, second, width));
                out.write_all(render::twins(&twins, &subjects, args.all, width).as_bytes())?;
            }
            Ok(!twins.differences.is_empty())
        }
    }
}

/// The pages and the elements among the words: what is a file, a folder or a URL is a page, at most two of them.
fn sides(words: &[String]) -> Result<(Vec<PathBuf>, &[String]), Failure> {
    let count = words.iter().take(2).take_while(|w| open::is_page(w)).count();
    // A first word that is no file is told as such when it is opened.
    let count = count.max(1);
    let elements = &words[count..];
    if elements.len() > 2 {
        return Err(Refusal::new(format!("`{}` is one element too many: two can be compared", elements[2])).into());
    }
    Ok((words[..count].iter().map(PathBuf::from).collect(), elements))
}

/// What the right side is seen with.
fn other_side(args: &Compare) -> Seen {
    let mut seen = args.seen.clone();
    if let Some(viewport) = args.other_viewport {
        seen.viewport = Some(viewport);
    }
    if let Some(media) = args.other_media {
        seen.media = media;
    }
    seen.prefer.extend(args.other_prefer.iter().cloned());
    for (state, element) in &args.other_state {
        let list = match &**state {
            "hover" => &mut seen.hover,
            "active" => &mut seen.active,
            "focus" => &mut seen.focus,
            "visited" => &mut seen.visited,
            _ => &mut seen.target,
        };
        list.push(element.clone());
    }
    seen
}

/// The right side, with sheets left out where that is asked for.
fn side(page: &Path, seen: &Seen, args: &Compare) -> Result<Study, Failure> {
    let study = open::study(page, seen)?;
    if args.other_without.is_empty() {
        return Ok(study);
    }
    let changes: Vec<_> = args.other_without.iter().map(|file| left_out(file)).collect();
    Ok(study.attempt(&changes)?.study)
}

/// Two versions of a site: the pages that both have, by their paths.
fn sites(
    left: &Path,
    right: &Path,
    other: &Seen,
    args: &Compare,
    out: &mut dyn Write,
    width: usize,
) -> Result<bool, Failure> {
    let (ours, theirs) = (pages_below(left), pages_below(right));
    let both: Vec<PathBuf> = ours.intersection(&theirs).cloned().collect();
    if both.is_empty() {
        let message = format!("`{}` and `{}` have no page in common", left.display(), right.display());
        return Err(Refusal::new(message).into());
    }
    let mut answers = Vec::new();
    for page in Pages::of(&both) {
        let (a, b) = (left.join(page), right.join(page));
        let rooted = |folder: &Path, seen: &Seen| Seen { root: Some(folder.to_owned()), ..seen.clone() };
        let left_study = open::study(&a, &rooted(left, &args.seen))?;
        let right_study = side(&b, &rooted(right, other), args)?;
        let comparison = left_study.compare(&right_study);
        if args.format == Format::Text {
            let gap = if answers.is_empty() { "" } else { "\n" };
            writeln!(out, "{gap}{}", paint(STAGE, page.display()))?;
            out.write_all(render::comparison(&comparison, width).as_bytes())?;
        }
        answers.push(OfPages { left: a.display().to_string(), right: b.display().to_string(), comparison });
    }
    let differs = answers.iter().any(|a| !a.comparison.is_same()) || ours != theirs;
    if args.format == Format::Json {
        json(&answers, out)?;
        return Ok(differs);
    }
    for (only, side) in [(ours.difference(&theirs), left), (theirs.difference(&ours), right)] {
        for page in only {
            writeln!(out, "\n{} is only in {}", page.display(), side.display())?;
        }
    }
    Ok(differs)
}

/// The HTML files below a folder, by their paths in it.
fn pages_below(folder: &Path) -> BTreeSet<PathBuf> {
    let mut found = BTreeSet::new();
    let mut open = vec![folder.to_owned()];
    while let Some(at) = open.pop() {
        for entry in fs::read_dir(&at).into_iter().flatten().flatten() {
            let path = entry.path();
            if entry.file_type().is_ok_and(|t| t.is_dir()) {
                open.push(path);
            } else if path.extension().is_some_and(|e| e == "html" || e == "htm")
                && let Ok(below) = path.strip_prefix(folder)
            {
                found.insert(below.to_owned());
            }
        }
    }
    found
}

/// Prints a comparison of pages or views.
fn told(comparison: &Comparison, args: &Compare, out: &mut dyn Write, width: usize) -> Result<bool, Failure> {
    match args.format {
        Format::Json => json(comparison, out)?,
        Format::Text => out.write_all(render::comparison(comparison, width).as_bytes())?,
    }
    Ok(!comparison.is_same())
}
