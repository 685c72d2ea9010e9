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

/// Text from a page made safe for a terminal: what would act on it, or change the order of what is read, is shown, not sent.
pub(crate) fn clean(text: &str) -> String {
    if !text.contains(is_acting) {
        return text.to_owned();
    }
    text.chars().map(|c| visible(c).unwrap_or_else(|| c.to_string())).collect()
}

/// Whether a character acts where it is written: controls, those that change the direction of text (Unicode Bidirectional Algorithm,
/// §2), and those that end lines.
fn is_acting(c: char) -> bool {
    let direction =
        matches!(c, '\u{61C}' | '\u{200E}' | '\u{200F}' | '\u{202A}'..='\u{202E}' | '\u{2066}'..='\u{2069}');
    c.is_control() || direction || matches!(c, '\u{2028}' | '\u{2029}')
}

/// What is shown for a character that acts: the picture of a control of ASCII, the number of another.
pub(crate) fn visible(c: char) -> Option<String> {
    is_acting(c).then(|| match c {
        '\u{7F}' => '\u{2421}'.to_string(),
        c if c.is_ascii() => char::from_u32(0x2400 + c as u32).unwrap_or(char::REPLACEMENT_CHARACTER).to_string(),
        c => format!("<U+{:04X}>", c as u32),
    })
}

/// The escape for a character that acts, in a string of JSON; those of ASCII have theirs already.
pub(crate) fn in_json(c: char) -> Option<String> {
    (is_acting(c) && (!c.is_ascii() || c == '\u{7F}')).then(|| format!("\\u{:04x}", c as u32))
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
    // What is far beyond the width need not be looked at: a line may be as long as a file.
    let near = text.char_indices().nth(width * 4).map_or(text, |(end, _)| &text[..end]);
    let clean = clean(near);
    if near.len() == text.len() && clean.width() <= width {
        return clean;
    }
    let mut out = String::new();
    for c in clean.chars() {
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
