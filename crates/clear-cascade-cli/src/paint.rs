//! Styles and wrapping of text for the terminal.
//!
//! Everything is written with styles; the stream that it goes to takes them off where they are not wanted.

use std::fmt::Display;

use anstyle::{AnsiColor, Style};
use unicode_width::UnicodeWidthStr;

/// What the answer is.
pub(crate) const ANSWER: Style = Style::new().bold();
/// The winner.
pub(crate) const WON: Style = AnsiColor::Green.on_default().bold();
/// A stage of the contest.
pub(crate) const STAGE: Style = AnsiColor::Cyan.on_default();
/// Side remarks: places, counts, reasons.
pub(crate) const QUIET: Style = Style::new().dimmed();
/// Something that may be wrong.
pub(crate) const NOTE: Style = AnsiColor::Yellow.on_default();

/// A text in a style.
pub(crate) fn paint(style: Style, text: impl Display) -> String {
    format!("{style}{text}{style:#}")
}

/// The three channels of `rgb(…)`.
fn channels(value: &str) -> Option<[u8; 3]> {
    let inside = value.strip_prefix("rgb(")?.strip_suffix(')')?;
    let list: Vec<u8> = inside.split(',').map(|n| n.trim().parse().ok()).collect::<Option<_>>()?;
    list.try_into().ok()
}

/// A little of a colour to look at, where the value is one; the stream leaves it out where colours are not wanted.
pub(crate) fn swatch(value: &str) -> Option<String> {
    let [r, g, b] = clear_cascade::answer::channels(value)?;
    let style = Style::new().bg_color(Some(anstyle::Color::Rgb(anstyle::RgbColor(r, g, b))));
    Some(format!("{style}  {style:#}"))
}

/// The same behind a space; nothing for other values.
pub(crate) fn and_swatch(value: &str) -> String {
    swatch(value).map_or_else(String::new, |s| format!(" {s}"))
}

/// The hexadecimal notation of a colour, behind a space.
pub(crate) fn notation(value: &str) -> String {
    channels(value).map_or_else(String::new, |[r, g, b]| format!(" #{r:02x}{g:02x}{b:02x}"))
}

/// Text from a page made safe for a terminal: control characters are shown, not sent.
pub(crate) fn clean(text: &str) -> String {
    text.chars()
        .map(|c| if c.is_control() { char::from_u32(0x2400 + (c as u32 & 0x1f)).unwrap_or('\u{FFFD}') } else { c })
        .collect()
}

/// Wraps a text to a width, each line behind an indent.
pub(crate) fn wrap(text: &str, width: usize, indent: usize) -> String {
    let pad = " ".repeat(indent);
    let options =
        textwrap::Options::new(width.max(indent + 20)).initial_indent(&pad).subsequent_indent(&pad).break_words(false);
    // Paths and values are not broken: only spaces part words.
    let options = options
        .word_separator(textwrap::WordSeparator::AsciiSpace)
        .word_splitter(textwrap::WordSplitter::NoHyphenation);
    textwrap::fill(&clean(text), options)
}

/// A text filled up with spaces to a width on the screen.
pub(crate) fn pad(text: &str, width: usize) -> String {
    format!("{text}{}", " ".repeat(width.saturating_sub(text.width())))
}

/// A text cut to a width on the screen.
pub(crate) fn cut(text: &str, width: usize) -> String {
    let text = clean(text);
    if text.width() <= width {
        return text;
    }
    let mut out = String::new();
    for c in text.chars() {
        if out.width() + c.to_string().width() + 1 > width {
            break;
        }
        out.push(c);
    }
    out.push('…');
    out
}

/// A text with a capital at its start.
pub(crate) fn capital(text: &str) -> String {
    let mut rest = text.chars();
    rest.next().map_or_else(String::new, |first| first.to_uppercase().chain(rest).collect())
}
