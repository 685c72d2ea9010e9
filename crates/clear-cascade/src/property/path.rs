//! SVG path data, with absolute commands (SVG 2, §9.3 "Path data").

use crate::syntax::number_text;

/// Path data as far as it is sound.
pub(crate) struct Path {
    /// Its commands, as computed values write them.
    pub(crate) text: String,
    /// Whether that is all of it.
    pub(crate) whole: bool,
}

/// Reads path data up to the first error (SVG 2, §9.5.4 "Error handling in path data").
pub(crate) fn read(data: &str) -> Path {
    let mut commands = Vec::new();
    let whole = read_commands(data, &mut commands).is_some();
    Path { text: commands.join(" "), whole }
}

/// Reads commands until there are no more; nothing where there is an error before.
fn read_commands(data: &str, out: &mut Vec<String>) -> Option<()> {
    let mut reader = Reader { rest: data };
    let (mut at, mut start) = ((0.0, 0.0), (0.0, 0.0));
    let mut command = None;
    loop {
        reader.space();
        let Some(next) = reader.rest.chars().next() else {
            break;
        };
        if next.is_ascii_alphabetic() {
            reader.rest = &reader.rest[1..];
            // A path starts with a move.
            if command.is_none() && !matches!(next, 'M' | 'm') {
                return None;
            }
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
    Some(())
}

/// Reads numbers and flags.
struct Reader<'d> {
    /// What is left.
    rest: &'d str,
}

impl Reader<'_> {
    /// Skips white space.
    fn space(&mut self) {
        self.rest = self.rest.trim_start_matches(|c: char| c.is_ascii_whitespace());
    }

    /// Skips white space with a comma in it or not.
    fn separator(&mut self) {
        self.space();
        self.rest = self.rest.strip_prefix(',').unwrap_or(self.rest);
        self.space();
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
        let flag = match first {
            "0" => 0.0,
            "1" => 1.0,
            _ => return None,
        };
        self.rest = rest;
        self.separator();
        Some(flag)
    }

    /// A number, which ends in a digit.
    fn number(&mut self) -> Option<f64> {
        self.space();
        let bytes = self.rest.as_bytes();
        let digits = |from: usize| from + bytes[from..].iter().take_while(|b| b.is_ascii_digit()).count();
        let sign = |at: usize| at + usize::from(matches!(bytes.get(at), Some(b'+' | b'-')));
        let mut end = digits(sign(0));
        if bytes.get(end) == Some(&b'.') {
            end = Some(digits(end + 1)).filter(|after| *after > end + 1)?;
        }
        if matches!(bytes.get(end), Some(b'e' | b'E')) {
            let exponent = sign(end + 1);
            end = Some(digits(exponent)).filter(|after| *after > exponent)?;
        }
        let (text, rest) = self.rest.split_at(end);
        let number = text.parse().ok().filter(|n: &f64| n.is_finite())?;
        self.rest = rest;
        self.separator();
        Some(number)
    }
}

#[cfg(test)]
mod tests {
    use super::read;

    #[test]
    fn path_data_is_read_up_to_the_first_error() {
        let table = [
            // What is written; the commands; whether that is all.
            ("M0,0L10,10Z", "M 0 0 L 10 10 Z", true),
            ("m.5.5-1-1 2 0h5V.5", "M 0.5 0.5 L -0.5 -0.5 L 1.5 -0.5 H 6.5 V 0.5", true),
            (" M 0 0 , L 5 5 , ", "M 0 0 L 5 5", true),
            ("M1 1z m 2 2 z", "M 1 1 Z M 3 3 Z", true),
            ("M0 0a1 1 0 0110 10", "M 0 0 A 1 1 0 0 1 10 10", true),
            ("M1e1-1E0", "M 10 -1", true),
            ("", "", true),
            ("L0 0", "", false),
            ("foo", "", false),
            ("M0,,0", "", false),
            ("M,0 0", "", false),
            ("M0 0 L", "M 0 0", false),
            ("M0 0 5 5 x", "M 0 0 L 5 5", false),
            ("M0 0z5 5", "M 0 0 Z", false),
            ("M0 0 A 1 1 0 2 0 5 5", "M 0 0", false),
            ("M1. 0", "", false),
            ("M1e 0", "", false),
            ("M1e400 0", "", false),
            ("M\u{e9} 0", "", false),
        ];
        for (data, text, whole) in table {
            let path = read(data);
            assert_eq!((&*path.text, path.whole), (text, whole), "{data}");
        }
    }
}
