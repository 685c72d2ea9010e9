//! SVG path data with absolute commands (SVG 2, §9.3 "Path data").

use crate::syntax::number_text;

/// Path data as computed values write it; nothing where it is no path data.
pub(in crate::style) fn normal(data: &str) -> Option<String> {
    let mut reader = Reader { rest: data };
    let mut out: Vec<String> = Vec::new();
    let (mut at, mut start) = ((0.0, 0.0), (0.0, 0.0));
    let mut command = None;
    loop {
        reader.space();
        let Some(next) = reader.rest.chars().next() else {
            break;
        };
        if next.is_ascii_alphabetic() {
            reader.rest = &reader.rest[1..];
            command = Some(next);
        } else if matches!(command, Some('Z' | 'z') | None) {
            return None;
        }
        let letter = command?;
        let relative = letter.is_ascii_lowercase();
        let upper = letter.to_ascii_uppercase();
        let (dx, dy) = if relative { at } else { (0.0, 0.0) };
        let n = reader.numbers(upper)?;
        let mut text = vec![upper.to_string()];
        match upper {
            'Z' => at = start,
            'H' => {
                at.0 = n[0] + dx;
                text.push(number_text(at.0));
            }
            'V' => {
                at.1 = n[0] + dy;
                text.push(number_text(at.1));
            }
            'A' => {
                at = (n[5] + dx, n[6] + dy);
                text.extend(n[..5].iter().chain(&[at.0, at.1]).map(|v| number_text(*v)));
            }
            _ => {
                let points: Vec<f64> =
                    n.iter().enumerate().map(|(i, v)| v + if i % 2 == 0 { dx } else { dy }).collect();
                at = (points[points.len() - 2], points[points.len() - 1]);
                text.extend(points.iter().map(|v| number_text(*v)));
            }
        }
        if upper == 'M' {
            start = at;
            // Further pairs after a move are lines.
            command = Some(if relative { 'l' } else { 'L' });
        }
        out.push(text.join(" "));
    }
    Some(out.join(" "))
}

/// Reads numbers and flags.
struct Reader<'d> {
    /// What is left.
    rest: &'d str,
}

impl Reader<'_> {
    /// Skips white space and commas.
    fn space(&mut self) {
        self.rest = self.rest.trim_start_matches(|c: char| c.is_ascii_whitespace() || c == ',');
    }

    /// The numbers that a command takes.
    fn numbers(&mut self, command: char) -> Option<Vec<f64>> {
        let count = match command {
            'Z' => 0,
            'H' | 'V' => 1,
            'M' | 'L' | 'T' => 2,
            'S' | 'Q' => 4,
            'C' => 6,
            'A' => 7,
            _ => return None,
        };
        (0..count).map(|i| if command == 'A' && (i == 3 || i == 4) { self.flag() } else { self.number() }).collect()
    }

    /// A flag: one digit.
    fn flag(&mut self) -> Option<f64> {
        self.space();
        let (first, rest) = self.rest.split_at_checked(1)?;
        self.rest = rest;
        match first {
            "0" => Some(0.0),
            "1" => Some(1.0),
            _ => None,
        }
    }

    /// A number.
    fn number(&mut self) -> Option<f64> {
        self.space();
        let bytes = self.rest.as_bytes();
        let mut end = usize::from(matches!(bytes.first(), Some(b'+' | b'-')));
        let mut dot = false;
        while let Some(b) = bytes.get(end) {
            match b {
                b'0'..=b'9' => {}
                b'.' if !dot => dot = true,
                b'e' | b'E' if bytes.get(end + 1).is_some_and(|b| b.is_ascii_digit() || *b == b'-' || *b == b'+') => {
                    end += 1;
                }
                _ => break,
            }
            end += 1;
        }
        let (text, rest) = self.rest.split_at(end);
        self.rest = rest;
        text.parse().ok()
    }
}
