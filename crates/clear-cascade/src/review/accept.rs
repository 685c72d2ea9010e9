//! Findings that someone accepted, with the reason: in a comment beside them, or in a file for the whole site.

use serde::{Deserialize, Serialize};

use super::Finding;
use crate::source::Place;

/// That a finding is accepted.
///
/// In a style sheet it is `/* accept CODE: reason */`, in a page `<!-- accept CODE: reason -->`, in the line of the finding or
/// right above it; in a file for the site, a line `CODE FILE:LINE reason` or `CODE FILE reason` for all in a file.
///
/// ```
/// use clear_cascade::review::Acceptance;
/// let list = Acceptance::read("accepted.txt", "# ours\nid-twice index.html:12 a script takes the second away\n").unwrap();
/// assert_eq!((list[0].code.as_str(), list[0].line), ("id-twice", Some(12)));
/// assert!(Acceptance::read("accepted.txt", "id-twice index.html").is_err()); // No reason.
/// ```
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct Acceptance {
    /// The code of the finding.
    pub code: String,
    /// The file that it is in.
    pub file: String,
    /// The line, where only one is meant.
    pub line: Option<u32>,
    /// Why it is accepted.
    pub reason: String,
    /// Where the acceptance is written.
    pub at: Place,
}

impl Acceptance {
    /// Reads a file for a site; empty lines and those that start with `#` are left out. The name is that of the file, for places.
    ///
    /// # Errors
    /// A line that is none, with what is wrong.
    pub fn read(name: &str, text: &str) -> Result<Vec<Self>, String> {
        let lines = (1..).zip(text.lines()).filter(|(_, l)| !l.trim().is_empty() && !l.trim_start().starts_with('#'));
        lines
            .map(|(number, line)| {
                let mut words = line.split_whitespace();
                let (code, place) = (words.next().unwrap_or_default(), words.next().unwrap_or_default());
                let reason = words.collect::<Vec<_>>().join(" ");
                if place.is_empty() || reason.is_empty() {
                    return Err(format!("{name}:{number}: write it as `CODE FILE:LINE reason`"));
                }
                let (file, line) = match place.parse::<Place>() {
                    Ok(place) => (place.file, Some(place.line)),
                    Err(_) => (place.to_owned(), None),
                };
                let at = Place::line(name, number);
                Ok(Self { code: code.to_owned(), file, line, reason, at })
            })
            .collect()
    }

    /// Those in the comments of a text.
    pub(crate) fn in_comments(file: &str, text: &str) -> Vec<Self> {
        let mut found = Vec::new();
        for (open, close) in [("/*", "*/"), ("<!--", "-->")] {
            for (at, _) in text.match_indices(open) {
                let inside = &text[at + open.len()..];
                let Some(inside) = inside.find(close).map(|end| inside[..end].trim()) else { continue };
                let Some((code, reason)) = inside.strip_prefix("accept ").and_then(|i| i.split_once(':')) else {
                    continue;
                };
                let line = 1 + u32::try_from(text[..at].matches('\n').count()).unwrap_or(u32::MAX - 1);
                found.push(Self {
                    code: code.trim().to_owned(),
                    file: file.to_owned(),
                    line: Some(line),
                    reason: reason.split_whitespace().collect::<Vec<_>>().join(" "),
                    at: Place::line(file, line),
                });
            }
        }
        found.retain(|a| !a.reason.is_empty());
        found
    }

    /// Whether it is about a finding: in a comment, in its line or right above it.
    pub(crate) fn is_of(&self, finding: &Finding) -> bool {
        let beside = self.at.file == self.file;
        let line = self.line.is_none_or(|l| finding.at.line == l || beside && finding.at.line == l + 1);
        let file = finding.at.file == self.file || finding.at.file.ends_with(&format!("/{}", self.file));
        self.code == finding.code && file && line
    }
}
