//! `reach`: which elements a rule or selector takes.

use std::io::Write;
use std::path::Path;

use crate::args::{self, Format};
use crate::failure::{Failure, Refusal};
use crate::pages::json;
use crate::paint::{STAGE, paint};
use crate::{open, render};

/// `reach`
pub(super) fn reach(args: &args::Reach, out: &mut dyn Write, width: usize) -> Result<(), Failure> {
    let Some((selector, pages)) = args.words.split_last().filter(|(_, pages)| !pages.is_empty()) else {
        return Err(Refusal {
            hint: Some("for example `clear-cascade reach index.html '.menu a'`".to_owned()),
            ..Refusal::new("`reach` needs a page and a selector, or the place of a rule")
        }
        .into());
    };
    if let Some(other) = pages.iter().skip(1).find(|page| !open::is_page(page)) {
        return Err(Refusal {
            hint: Some(format!("to ask for two selectors at once, write them as one: '{other}, {selector}'")),
            ..Refusal::new(format!("there is no page `{other}`: all but the last are pages"))
        }
        .into());
    }
    let mut answers = Vec::new();
    for page in pages {
        let study = open::study(Path::new(page), &args.seen)?;
        let answer = study.reach(selector)?;
        if args.format == Format::Text {
            if pages.len() > 1 {
                writeln!(out, "{}{}", if answers.is_empty() { "" } else { "\n" }, paint(STAGE, page))?;
            }
            out.write_all(render::reach(&study, &answer, width).as_bytes())?;
        }
        answers.push(answer);
    }
    match (args.format, answers.as_slice()) {
        (Format::Json, [one]) => json(one, out),
        (Format::Json, all) => json(&all, out),
        (Format::Text, _) => Ok(()),
    }
}
