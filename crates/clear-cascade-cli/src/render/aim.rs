//! `aim`: selectors that take what was asked for, from broad to narrow.

use std::fmt::Write as _;

use clear_cascade::answer::Aim;

use crate::paint::{ANSWER, QUIET, STAGE, cut, pad, paint, wrap};

/// The selectors that take what was asked for: so many elements on so many pages.
pub(crate) fn aim(aims: &[Aim], (wanted, pages): (usize, usize), subject: &str, width: usize) -> String {
    let mut out = String::new();
    let exact = aims.iter().filter(|a| a.besides == 0).min_by_key(|a| (a.specificity, a.selector.len()));
    let what = if wanted == 1 { "it".to_owned() } else { format!("these {wanted}") };
    let head = match (exact, aims.last()) {
        (Some(exact), _) => {
            let these = if pages == 1 { "this page".to_owned() } else { format!("these {pages} pages") };
            format!("`{}` takes {what} and nothing else on {these}.", exact.selector)
        }
        (None, Some(last)) => {
            format!("Nothing simple takes {what} alone; `{}` takes {} more.", last.selector, last.besides)
        }
        (None, None) if pages > 1 => "No selector takes it on all of these pages.".to_owned(),
        (None, None) => {
            "No selector takes the one and leaves the other: they are alike in all that selectors see.".to_owned()
        }
    };
    let _ = writeln!(out, "{}", paint(ANSWER, wrap(&head, width, 0)));
    out.push_str(subject);
    if !aims.is_empty() {
        let _ = writeln!(out, "\n{}", paint(STAGE, "From broad to narrow"));
        for aim in aims {
            let besides = match aim.besides {
                0 => "nothing besides".to_owned(),
                1 => "1 element besides".to_owned(),
                n => format!("{n} elements besides"),
            };
            let _ = writeln!(
                out,
                "  {}  {}",
                pad(&cut(&aim.selector, 44), 44),
                paint(QUIET, format!("({})  {besides}", aim.specificity))
            );
            let _ = writeln!(out, "{}", paint(QUIET, wrap(&aim.reading, width, 6)));
        }
    }
    out
}
