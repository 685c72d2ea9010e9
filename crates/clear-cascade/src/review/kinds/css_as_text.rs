//! CSS that is shown as text.

use super::{Example, Finding, Kind, Level, Site};
use crate::review::markup::Oddity;

/// CSS outside of a style element.
pub(super) const KIND: Kind = Kind {
    code: "css-as-text",
    level: Level::Wrong,
    meaning: "A rule stands among the text of the page, outside of any `<style>`.",
    matters: "It is shown to readers and styles nothing.",
    accept: "Where the page writes about CSS; `<code>` and `<pre>` are not looked at.",
    example: Example {
        with: "<p>1</p> .a { color: red } <p class=a>2",
        without: "<style>.a { color: red }</style><p class=a>2 {a: b}<code>p { color: red }</code>",
    },
    find,
};

/// Looks for them.
fn find(site: &Site<'_>) -> Vec<Finding> {
    site.oddities(&KIND, |oddity| match oddity {
        Oddity::Css { text } => {
            Some((format!("`{text}` is text of the page"), "put it into a `<style>` or a sheet".to_owned()))
        }
        _ => None,
    })
}
