//! The stylesheets of browser defaults.

/// Defaults for HTML.
const HTML: &str = include_str!("../data/defaults.css");
/// Defaults for SVG and MathML.
const SVG: &str = include_str!("../data/defaults-svg.css");
/// What HTML adds where the computed `appearance` is `base-select`.
const BASE_SELECT: &str = include_str!("../data/defaults-base-select.css");
/// What quirks mode adds.
const QUIRKS: &str = include_str!("../data/defaults-quirks.css");

/// Which of [`sheets`] holds only where the computed `appearance` is `base-select`.
pub(crate) const BASE_SELECT_SHEET: usize = 2;

/// The sheets of browser defaults with the names they are shown by.
pub(crate) fn sheets(quirks: bool) -> Vec<(&'static str, &'static str)> {
    let mut sheets = vec![
        ("browser-defaults.css", HTML),
        ("browser-defaults-svg.css", SVG),
        ("browser-defaults-base-select.css", BASE_SELECT),
    ];
    if quirks {
        sheets.push(("browser-defaults-quirks.css", QUIRKS));
    }
    sheets
}
