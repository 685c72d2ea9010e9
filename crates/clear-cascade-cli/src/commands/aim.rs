//! `aim`: selectors that take an element and no others, on one page or on several.

use std::io::Write;
use std::path::{Path, PathBuf};

use clear_cascade::Study;
use clear_cascade::answer::{Located, Target};
use clear_cascade::document::ElementId;

use crate::args::{self, Format};
use crate::failure::Failure;
use crate::pages::{Pages, json};
use crate::{open, render};

/// `aim`
pub(super) fn aim(args: &args::Aim, out: &mut dyn Write, width: usize) -> Result<(), Failure> {
    let pages: Vec<PathBuf> = std::iter::once(&args.page.page).chain(&args.page.also).cloned().collect();
    let opened: Vec<Study> =
        Pages::of(&pages).map(|page: &Path| open::study(page, &args.page.seen)).collect::<Result<_, _>>()?;
    let all = |study: &Study, names: &[String]| -> Result<Vec<ElementId>, Failure> {
        let found: Result<Vec<_>, _> = names.iter().map(|n| study.locate(n)).collect();
        Ok(found?.into_iter().flat_map(|l| l.elements).collect())
    };
    let (mut targets, mut subjects): (Vec<Target<'_>>, Vec<Located>) = Default::default();
    for study in &opened {
        let located = study.locate(&args.element)?;
        let mut take = vec![located.elements[0]];
        take.extend(all(study, &args.like)?);
        targets.push(Target { study, take, leave: all(study, &args.not)? });
        subjects.push(located);
    }
    let answer = Study::aim_on(&targets)?;
    if args.format == Format::Json {
        return json(&answer, out);
    }
    let subject: Vec<String> =
        opened.iter().zip(&subjects).map(|(s, located)| render::subject(s, located, &args.element, width)).collect();
    let mut wanted: Vec<(usize, ElementId)> =
        targets.iter().enumerate().flat_map(|(i, t)| t.take.iter().map(move |e| (i, *e))).collect();
    wanted.sort_unstable();
    wanted.dedup();
    out.write_all(render::aim(&answer, (wanted.len(), pages.len()), &subject.concat(), width).as_bytes())?;
    Ok(())
}
