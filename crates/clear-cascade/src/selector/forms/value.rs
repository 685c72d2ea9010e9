//! Values of form controls as the page loads: what the `value` attribute comes to, and the number behind it.
//!
//! HTML Standard, "The input element" (value sanitization algorithms; the `min`, `max` and `step` attributes) and "Dates
//! and times". Numbers are milliseconds for dates and times, months for months.

use crate::document::{Document, Element, ElementId};

/// The type of an `<input>`.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[allow(missing_docs, clippy::missing_docs_in_private_items)]
pub(super) enum InputType {
    Text,
    Hidden,
    Search,
    Tel,
    Url,
    Email,
    Password,
    Date,
    Month,
    Week,
    Time,
    DateTimeLocal,
    Number,
    Range,
    Color,
    Checkbox,
    Radio,
    File,
    Submit,
    Image,
    Reset,
    Button,
}

/// The types by their keywords.
const TYPES: &[(&str, InputType)] = &[
    ("button", InputType::Button),
    ("checkbox", InputType::Checkbox),
    ("color", InputType::Color),
    ("date", InputType::Date),
    ("datetime-local", InputType::DateTimeLocal),
    ("email", InputType::Email),
    ("file", InputType::File),
    ("hidden", InputType::Hidden),
    ("image", InputType::Image),
    ("month", InputType::Month),
    ("number", InputType::Number),
    ("password", InputType::Password),
    ("radio", InputType::Radio),
    ("range", InputType::Range),
    ("reset", InputType::Reset),
    ("search", InputType::Search),
    ("submit", InputType::Submit),
    ("tel", InputType::Tel),
    ("time", InputType::Time),
    ("url", InputType::Url),
    ("week", InputType::Week),
];

impl InputType {
    /// The type of an `<input>`, with unknown ones as text; nothing for other elements.
    pub(super) fn of(element: &Element) -> Option<Self> {
        let written = element.attribute("type").unwrap_or_default();
        let named = TYPES.iter().find(|(name, _)| name.eq_ignore_ascii_case(written));
        element.is_html("input").then(|| named.map_or(Self::Text, |(_, kind)| *kind))
    }

    /// Whether text is typed into it, on one line.
    pub(super) fn is_textual(self) -> bool {
        matches!(self, Self::Text | Self::Search | Self::Tel | Self::Url | Self::Email | Self::Password)
    }

    /// Whether it is a date or time.
    pub(super) fn is_temporal(self) -> bool {
        matches!(self, Self::Date | Self::Month | Self::Week | Self::Time | Self::DateTimeLocal)
    }

    /// Whether `readonly` applies, so that users can change the value.
    pub(super) fn is_editable(self) -> bool {
        self.is_textual() || self.is_temporal() || self == Self::Number
    }

    /// Whether `required` applies.
    pub(super) fn may_be_required(self) -> bool {
        self.is_editable() || matches!(self, Self::Checkbox | Self::Radio | Self::File)
    }

    /// Whether `placeholder` applies.
    pub(super) fn has_placeholder(self) -> bool {
        self.is_textual() || self == Self::Number
    }

    /// Whether `min`, `max` and `step` apply.
    pub(super) fn has_range(self) -> bool {
        self.is_temporal() || matches!(self, Self::Number | Self::Range)
    }
}

/// The value of an `<input>` as the page loads (HTML Standard, "value sanitization algorithm").
pub(super) fn value(element: &Element, kind: InputType) -> String {
    let written = element.attribute("value").unwrap_or_default();
    let one_line = || written.replace(['\n', '\r'], "");
    let white: &[char] = &[' ', '\t', '\n', '\x0C', '\r'];
    match kind {
        InputType::Text | InputType::Search | InputType::Tel | InputType::Password => one_line(),
        InputType::Url => one_line().trim_matches(white).to_owned(),
        InputType::Email if element.attribute("multiple").is_some() => {
            let parts: Vec<&str> = written.split(',').map(|p| p.trim_matches(white)).collect();
            parts.join(",")
        }
        InputType::Email => one_line().trim_matches(white).to_owned(),
        _ if kind.has_range() => number(kind, written).map(|_| written.to_owned()).unwrap_or_default(),
        _ => written.to_owned(),
    }
}

/// The text in a `<textarea>`, line breaks as line feeds.
pub(super) fn textarea(document: &Document, id: ElementId) -> String {
    document.text(id).replace("\r\n", "\n").replace('\r', "\n")
}

/// The number behind a text; nothing where the text is none of that type.
pub(super) fn number(kind: InputType, text: &str) -> Option<f64> {
    match kind {
        InputType::Number | InputType::Range => float(text),
        InputType::Date => date(text).filter(|ms| *ms <= LAST_INSTANT),
        InputType::Month => {
            let (year, month) = year_month(text)?;
            Some((year - 1970.0) * 12.0 + month - 1.0).filter(|m| *m <= LAST_MONTH)
        }
        InputType::Week => week(text).filter(|ms| *ms <= LAST_INSTANT),
        InputType::Time => time(text),
        InputType::DateTimeLocal => {
            let (day, clock) = text.split_once(['T', ' '])?;
            Some(date(day)? + time(clock)?).filter(|ms| *ms <= LAST_INSTANT)
        }
        _ => None,
    }
}

/// The last instant that dates go to: the 13th of September 275760 (ECMAScript, "Time Values and Time Range").
const LAST_INSTANT: f64 = 8.64e15;
/// The last month, counted from January 1970.
const LAST_MONTH: f64 = (275_760.0 - 1970.0) * 12.0 + 8.0;
/// A day.
const DAY: f64 = 86_400_000.0;

/// A valid floating-point number.
fn float(text: &str) -> Option<f64> {
    let digits = |s: &str| !s.is_empty() && s.bytes().all(|b| b.is_ascii_digit());
    let unsigned = text.strip_prefix('-').unwrap_or(text);
    let (mantissa, exponent) = match unsigned.split_once(['e', 'E']) {
        Some((mantissa, exponent)) => (mantissa, Some(exponent)),
        None => (unsigned, None),
    };
    let whole = match mantissa.split_once('.') {
        Some((whole, fraction)) => digits(fraction) && (whole.is_empty() || digits(whole)),
        None => digits(mantissa),
    };
    let power = exponent.is_none_or(|e| digits(e.strip_prefix(['+', '-']).unwrap_or(e)));
    text.parse().ok().filter(|n: &f64| whole && power && n.is_finite())
}

/// A run of digits and nothing else, of a length in a range.
fn whole(text: &str, length: std::ops::RangeInclusive<usize>) -> Option<f64> {
    let fits = length.contains(&text.len()) && text.bytes().all(|b| b.is_ascii_digit());
    text.parse().ok().filter(|_| fits)
}

/// A year of at least four digits, from 1 to 275760.
fn year(text: &str) -> Option<f64> {
    whole(text, 4..=usize::MAX).filter(|y| (1.0..=275_760.0).contains(y))
}

/// `YYYY-MM`
fn year_month(text: &str) -> Option<(f64, f64)> {
    let (y, m) = text.split_once('-')?;
    Some((year(y)?, whole(m, 2..=2).filter(|m| (1.0..=12.0).contains(m))?))
}

/// `YYYY-MM-DD`, in milliseconds from the start of 1970.
fn date(text: &str) -> Option<f64> {
    let (month_text, day) = text.rsplit_once('-')?;
    let (year, month) = year_month(month_text)?;
    let leap = year % 4.0 == 0.0 && (year % 100.0 != 0.0 || year % 400.0 == 0.0);
    let length = match month as u8 {
        2 if leap => 29.0,
        2 => 28.0,
        4 | 6 | 9 | 11 => 30.0,
        _ => 31.0,
    };
    let day = whole(day, 2..=2).filter(|d| (1.0..=length).contains(d))?;
    Some(days(year, month, day) * DAY)
}

/// The days from the start of 1970 to a date of the proleptic Gregorian calendar.
fn days(year: f64, month: f64, day: f64) -> f64 {
    // Years begin in March here, so that leap days come last.
    let y = if month <= 2.0 { year - 1.0 } else { year };
    let of_year = ((153.0 * ((month + 9.0) % 12.0) + 2.0) / 5.0).floor() + day - 1.0;
    y * 365.0 + (y / 4.0).floor() - (y / 100.0).floor() + (y / 400.0).floor() + of_year - 719_468.0
}

/// `YYYY-Www`: the Monday of the week, in milliseconds from the start of 1970.
fn week(text: &str) -> Option<f64> {
    let (y, w) = text.split_once("-W")?;
    let (year, week) = (year(y)?, whole(w, 2..=2)?);
    // The week with the year's fourth of January is its first.
    let first = |year: f64| {
        let fourth = days(year, 1.0, 4.0);
        fourth - (fourth + 3.0).rem_euclid(7.0)
    };
    let count = (first(year + 1.0) - first(year)) / 7.0;
    (1.0..=count).contains(&week).then(|| (first(year) + (week - 1.0) * 7.0) * DAY)
}

/// `HH:MM`, `HH:MM:SS` or `HH:MM:SS.s`, in milliseconds from midnight.
fn time(text: &str) -> Option<f64> {
    let mut parts = text.split(':');
    let hour = whole(parts.next()?, 2..=2).filter(|h| *h < 24.0)?;
    let minute = whole(parts.next()?, 2..=2).filter(|m| *m < 60.0)?;
    let (mut second, mut thousandth) = (0.0, 0.0);
    if let Some(last) = parts.next() {
        let (s, fraction) = last.split_once('.').map_or((last, None), |(s, f)| (s, Some(f)));
        second = whole(s, 2..=2).filter(|s| *s < 60.0)?;
        if let Some(fraction) = fraction {
            thousandth = whole(fraction, 1..=3)? * 10f64.powi(3 - fraction.len() as i32);
        }
    }
    parts.next().is_none().then_some(((hour * 60.0 + minute) * 60.0 + second) * 1000.0 + thousandth)
}

/// The limits of a control.
pub(super) struct Range {
    /// The least value.
    pub(super) min: Option<f64>,
    /// The greatest.
    pub(super) max: Option<f64>,
}

impl Range {
    /// The limits that `min` and `max` give.
    pub(super) fn of(element: &Element, kind: InputType) -> Self {
        let read = |name: &str| element.attribute(name).and_then(|text| number(kind, text));
        let (min, max) = (read("min"), read("max"));
        if kind != InputType::Range {
            return Self { min, max };
        }
        let min = min.unwrap_or(0.0);
        Self { min: Some(min), max: Some(max.unwrap_or(100.0)) }
    }

    /// Whether a value is within. Of times, an end before the start means the hours around midnight.
    pub(super) fn holds(&self, kind: InputType, value: f64) -> bool {
        match (self.min, self.max) {
            (Some(min), Some(max)) if kind == InputType::Time && max < min => value <= max || value >= min,
            (min, max) => min.is_none_or(|m| value >= m) && max.is_none_or(|m| value <= m),
        }
    }
}

/// Whether a value lies between two steps of its control (HTML Standard, "The step attribute").
pub(super) fn is_off_step(element: &Element, kind: InputType, value: f64) -> bool {
    let (scale, default) = match kind {
        InputType::Date => (DAY, 1.0),
        InputType::Week => (7.0 * DAY, 1.0),
        InputType::Time | InputType::DateTimeLocal => (1000.0, 60.0),
        _ => (1.0, 1.0),
    };
    let written = element.attribute("step");
    if written.is_some_and(|s| s.eq_ignore_ascii_case("any")) {
        return false;
    }
    let mut step = written.and_then(float).filter(|s| *s > 0.0).unwrap_or(default);
    if matches!(kind, InputType::Date | InputType::Week | InputType::Month) {
        // There is nothing between two days, weeks or months.
        step = step.round().max(1.0);
    }
    let step = step * scale;
    let read = |name: &str| element.attribute(name).and_then(|text| number(kind, text));
    // Weeks start on Mondays; the first of 1970 was a Thursday.
    let origin = if kind == InputType::Week { -3.0 * DAY } else { 0.0 };
    let base = read("min").or_else(|| read("value")).unwrap_or(origin);
    let rest = (value - base).abs() % step;
    // Numbers with fractions are not exact: what is less than a ten-millionth of a step off is on it, and so is what is
    // off by no more than the number itself is exact.
    let slack = step / f64::from(1 << 24) + value.abs().max(base.abs()) * f64::EPSILON;
    rest > slack && rest < step - slack
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn numbers_of_dates_and_times() {
        let t = |kind: InputType, text: &str, expected: Option<f64>| assert_eq!(number(kind, text), expected, "{text}");
        use InputType::{Date, DateTimeLocal, Month, Number, Time, Week};
        t(Date, "1970-01-01", Some(0.0));
        t(Date, "2000-02-29", Some(951_782_400_000.0));
        t(Date, "0001-01-01", Some(-62_135_596_800_000.0));
        t(Date, "275760-09-13", Some(8.64e15));
        for bad in [
            "1900-02-29",
            "2001-02-29",
            "2000-04-31",
            "0000-01-01",
            "275760-09-14",
            "999-01-01",
            "2000-1-01",
            " 2000-01-01",
            "+2000-01-01",
            "2000-01-01x",
        ] {
            t(Date, bad, None);
        }
        t(Month, "1969-12", Some(-1.0));
        t(Month, "275760-09", Some(3_285_488.0));
        t(Month, "275760-10", None);
        t(Week, "1970-W01", Some(-259_200_000.0));
        t(Week, "2020-W53", Some(1_609_113_600_000.0));
        t(Week, "2021-W53", None);
        t(Week, "2020-w01", None);
        t(Week, "2020-W1", None);
        t(Time, "23:59:59.999", Some(86_399_999.0));
        t(Time, "10:00:00.5", Some(36_000_500.0));
        for bad in ["24:00", "1:00", "10:60", "10:00:60", "10:00:00.", "10:00:00.1234", "10", "10:00 "] {
            t(Time, bad, None);
        }
        t(DateTimeLocal, "1970-01-01T00:01", Some(60_000.0));
        t(DateTimeLocal, "1970-01-01 00:01", Some(60_000.0));
        t(DateTimeLocal, "1970-01-01t00:01", None);
        t(Number, "-.5e1", Some(-5.0));
        for bad in ["+1", "1.", ".", "1e", "e1", "- 1", " 1", "1 ", "0x1", "1e999", "Infinity", "NaN", "--1", ""] {
            t(Number, bad, None);
        }
    }
}
