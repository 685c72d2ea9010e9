//! The lines of a file around a place, as much of each as fits.

use std::collections::BTreeMap;

use clear_cascade::source::Place;

use crate::paint::cut;

/// Files that were read to show lines of them, each once.
#[derive(Default)]
pub(crate) struct Excerpts {
    /// By their names; nothing where one cannot be read.
    files: BTreeMap<String, Option<Lines>>,
}

/// A text and where its lines start.
struct Lines {
    /// The text.
    text: String,
    /// The bytes at which lines start.
    starts: Vec<usize>,
    /// Whether each character is a byte.
    plain: bool,
}

impl Lines {
    /// A text as lines; they end as the library counts them.
    fn new(text: String) -> Self {
        let bytes = text.as_bytes();
        let ends = |i: &usize| bytes[*i] == b'\n' || bytes[*i] == b'\r' && bytes.get(i + 1) != Some(&b'\n');
        let after = (0..bytes.len()).filter(ends).map(|i| i + 1).filter(|start| *start < bytes.len());
        let starts = std::iter::once(0).chain(after).collect();
        Self { starts, plain: text.is_ascii(), text }
    }

    /// A line, from 1.
    fn line(&self, number: usize) -> Option<&str> {
        let start = *self.starts.get(number.checked_sub(1)?)?;
        let end = self.starts.get(number).copied().unwrap_or(self.text.len());
        Some(self.text[start..end].trim_end_matches(['\n', '\r']))
    }

    /// As much of a line as fits, from its start, or from a little before a column that would not be seen.
    fn shown(&self, line: &str, column: Option<u32>, width: usize) -> String {
        let from = column.map_or(0, |column| column.saturating_sub(1) as usize);
        if from < width * 2 / 3 {
            return cut(line, width);
        }
        let from = from - width / 4;
        let at = if self.plain { Some(from) } else { line.char_indices().nth(from).map(|(at, _)| at) };
        let rest = at.and_then(|at| line.get(at..)).unwrap_or_default();
        format!("…{}", cut(rest, width.saturating_sub(1)))
    }
}

impl Excerpts {
    /// The line of a place, the one before and the one after, each with its number.
    pub(crate) fn around(&mut self, at: &Place, width: usize) -> Vec<(usize, String)> {
        if !self.files.contains_key(&at.file) {
            self.files.insert(at.file.clone(), std::fs::read_to_string(&at.file).ok().map(Lines::new));
        }
        let Some(Some(lines)) = self.files.get(&at.file) else { return Vec::new() };
        let own = at.line as usize;
        let column = |number: usize| at.column.filter(|_| number == own);
        let numbers = own.saturating_sub(1).max(1)..=own + 1;
        numbers.filter_map(|n| Some((n, lines.shown(lines.line(n)?, column(n), width)))).collect()
    }
}

#[cfg(test)]
mod tests {
    use super::Lines;

    #[test]
    fn a_long_line_is_shown_where_it_is_about() {
        let rules: String = (0..500).map(|i| format!(".é{i}{{}}")).collect();
        for (text, sought) in [(rules.replace('é', "e"), ".e300{}"), (rules.clone(), ".é300{}")] {
            let column = text.split(sought).next().map(|before| before.chars().count() + 1);
            let lines = Lines::new(format!("one\r\n{text}\rthree\nfour"));
            let line = lines.line(2).unwrap();
            assert_eq!(line, text);
            let shown = lines.shown(line, column.and_then(|c| u32::try_from(c).ok()), 60);
            assert!(shown.starts_with('…') && shown.contains(sought) && shown.ends_with('…'), "{shown}");
            assert!(shown.chars().count() <= 60 && lines.shown(line, Some(9), 60).starts_with('.'));
            assert_eq!(
                (lines.line(1), lines.line(3), lines.line(4), lines.line(5)),
                (Some("one"), Some("three"), Some("four"), None)
            );
        }
    }
}
