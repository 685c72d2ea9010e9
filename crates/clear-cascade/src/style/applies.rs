//! Which properties apply to which pseudo-elements (CSS Pseudo 4, §2.1.2, §2.2.2, §3.4, §4.2): what a page says of others does not
//! count. The lists are those that browsers ship.

use std::sync::LazyLock;

use crate::property::{Longhands, PropertyId};
use crate::selector::PseudoElement;

/// Fonts, and how high lines are.
const FONTS: &str = "font font-kerning font-optical-sizing font-palette font-size-adjust font-synthesis font-variant \
    font-variant-emoji font-feature-settings font-variation-settings font-language-override line-height -webkit-font-smoothing";

/// What applies to the first line.
const FIRST_LINE: &str = "background background-blend-mode box-shadow color letter-spacing opacity ruby-position text-decoration \
    text-decoration-skip-ink text-justify text-shadow text-transform text-underline-offset text-underline-position \
    vertical-align visibility word-spacing";

/// What applies to the first letter besides.
const FIRST_LETTER: &str = "border border-block border-inline border-radius border-start-start-radius border-start-end-radius \
    border-end-start-radius border-end-end-radius corner-shape corner-start-start-shape corner-start-end-shape \
    corner-end-start-shape corner-end-end-shape float initial-letter margin margin-block margin-inline padding padding-block \
    padding-inline";

/// What applies to markers.
const MARKER: &str = "animation animation-composition animation-range animation-timeline color content cursor direction hyphens \
    letter-spacing line-break overflow-wrap tab-size text-combine-upright text-decoration-skip-ink text-emphasis \
    text-emphasis-position text-orientation text-shadow text-transform text-wrap-style transition unicode-bidi word-break \
    word-spacing";

/// What applies to highlights.
const HIGHLIGHT: &str = "background-color color fill stroke stroke-width text-decoration text-decoration-skip-ink \
    text-emphasis-color text-shadow text-underline-offset";

/// The longhands that lists of properties set.
fn of(lists: &[&str]) -> Longhands {
    let mut all = Longhands::default();
    let names = lists.iter().flat_map(|list| list.split_whitespace());
    names.filter_map(PropertyId::named).flat_map(PropertyId::longhands_of).for_each(|longhand| all.add(longhand));
    all
}

/// The longhands that apply to a pseudo-element; nothing where all of them do.
pub(crate) fn applying_to(pseudo: &PseudoElement) -> Option<&'static Longhands> {
    static TO_FIRST_LINE: LazyLock<Longhands> = LazyLock::new(|| of(&[FONTS, FIRST_LINE]));
    static TO_FIRST_LETTER: LazyLock<Longhands> = LazyLock::new(|| of(&[FONTS, FIRST_LINE, FIRST_LETTER]));
    static TO_MARKER: LazyLock<Longhands> = LazyLock::new(|| of(&[FONTS, MARKER]));
    static TO_HIGHLIGHT: LazyLock<Longhands> = LazyLock::new(|| of(&[HIGHLIGHT]));
    match &*pseudo.name {
        _ if pseudo.then.is_some() => None,
        "first-line" => Some(&TO_FIRST_LINE),
        "first-letter" => Some(&TO_FIRST_LETTER),
        "marker" => Some(&TO_MARKER),
        _ if pseudo.is_highlight() => Some(&TO_HIGHLIGHT),
        _ => None,
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn lists_name_properties() {
        for name in [FONTS, FIRST_LINE, FIRST_LETTER, MARKER, HIGHLIGHT].iter().flat_map(|list| list.split_whitespace())
        {
            assert!(PropertyId::named(name).is_some(), "{name}");
        }
    }
}
