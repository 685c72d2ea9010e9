//! Whether selectors are supported, as `@supports selector(…)` asks (CSS Conditional 4, §2): also what is valid may not be.

use super::{SelectorList, Simple};

/// The pseudo-elements that start with `-webkit-` and are there; others are valid all the same (Selectors 4, §3.7 "Legacy
/// pseudo-elements").
#[rustfmt::skip]
const PREFIXED: &[&str] = &[
    "calendar-picker-indicator", "color-swatch", "color-swatch-wrapper", "date-and-time-value", "datetime-edit",
    "datetime-edit-ampm-field", "datetime-edit-day-field", "datetime-edit-fields-wrapper", "datetime-edit-hour-field",
    "datetime-edit-millisecond-field", "datetime-edit-minute-field", "datetime-edit-month-field", "datetime-edit-second-field",
    "datetime-edit-text", "datetime-edit-week-field", "datetime-edit-year-field", "inner-spin-button", "media-controls",
    "media-controls-current-time-display", "media-controls-enclosure", "media-controls-fullscreen-button", "media-controls-mute-button",
    "media-controls-overlay-enclosure", "media-controls-overlay-play-button", "media-controls-panel", "media-controls-play-button",
    "media-controls-time-remaining-display", "media-controls-timeline", "media-controls-timeline-container",
    "media-controls-toggle-closed-captions-button", "media-controls-volume-slider", "media-slider-container", "media-slider-thumb",
    "media-text-track-container", "media-text-track-display", "media-text-track-region", "media-text-track-region-container",
    "meter-bar", "meter-even-less-good-value", "meter-inner-element", "meter-optimum-value", "meter-suboptimum-value",
    "progress-bar", "progress-inner-element", "progress-value", "resizer", "scrollbar", "scrollbar-button", "scrollbar-corner",
    "scrollbar-thumb", "scrollbar-track", "scrollbar-track-piece", "search-cancel-button", "slider-container",
    "slider-runnable-track", "slider-thumb", "textfield-decoration-container",
];

impl SelectorList {
    /// Whether it is one selector of which all is there, also where a list forgives what is not.
    pub(crate) fn is_supported(&self) -> bool {
        let is_there = |simple: &Simple| match simple {
            Simple::PseudoElement(element) => {
                element.name.strip_prefix("-webkit-").is_none_or(|name| PREFIXED.binary_search(&name).is_ok())
            }
            Simple::PseudoClass(class) => class.list().is_none_or(|list| !list.selectors.is_empty()),
            _ => true,
        };
        self.selectors.len() == 1 && self.forgiven().is_empty() && self.parts().all(|part| is_there(&part.simple))
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_is_valid_may_not_be_supported() {
        assert!(PREFIXED.is_sorted());
        let is = |selector: &str| selector.parse::<SelectorList>().is_ok_and(|list| list.is_supported());
        for there in
            ["p", "a > b:is(c)", "::-webkit-scrollbar", "::-webkit-input-placeholder", "p::before", ":not(a, b)"]
        {
            assert!(is(there), "{there}");
        }
        for not in ["a, b", "::-webkit-foo", "p:is()", ":has(:where())", ":is(:foo)", ":not(:is(a, :foo))", "::foo"] {
            assert!(!is(not), "{not}");
        }
    }
}
