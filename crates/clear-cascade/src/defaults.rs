//! The stylesheets of browser defaults.

/// Defaults for HTML.
const HTML: &str = include_str!("../data/defaults.css");
/// Defaults for SVG and MathML.
const SVG: &str = include_str!("../data/defaults-svg.css");
/// What quirks mode adds.
const QUIRKS: &str = include_str!("../data/defaults-quirks.css");

/// The sheets of browser defaults with the names they are shown by.
pub(crate) fn sheets(quirks: bool) -> Vec<(&'static str, &'static str)> {
    let mut sheets = vec![("browser-defaults.css", HTML), ("browser-defaults-svg.css", SVG)];
    if quirks {
        sheets.push(("browser-defaults-quirks.css", QUIRKS));
    }
    sheets
}
