//! Flow-relative properties and the physical ones they stand for (CSS Logical 1, §4; CSS Writing Modes 4, §6).

use std::sync::OnceLock;

use super::{Longhands, PropertyId};

/// How text flows on an element: what start and end, block and inline are.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub(crate) struct Flow {
    /// Whether lines run from top to bottom.
    pub(crate) vertical: bool,
    /// Whether the block starts at the right (vertical) side.
    pub(crate) block_reversed: bool,
    /// Whether lines start at the right or bottom.
    pub(crate) inline_reversed: bool,
}

impl Flow {
    /// The flow of a writing mode and direction.
    pub(crate) fn new(writing_mode: &str, direction: &str) -> Self {
        let rtl = direction == "rtl";
        match writing_mode {
            "vertical-rl" | "sideways-rl" => Self { vertical: true, block_reversed: true, inline_reversed: rtl },
            "vertical-lr" => Self { vertical: true, block_reversed: false, inline_reversed: rtl },
            "sideways-lr" => Self { vertical: true, block_reversed: false, inline_reversed: !rtl },
            _ => Self { vertical: false, block_reversed: false, inline_reversed: rtl },
        }
    }

    /// The physical side of a flow-relative one.
    fn side(self, side: &str) -> &'static str {
        let (block, end) = (side.starts_with("block"), side.ends_with("end"));
        let reversed = if block { self.block_reversed } else { self.inline_reversed } != end;
        match (block == self.vertical, reversed) {
            (true, false) => "left",
            (true, true) => "right",
            (false, false) => "top",
            (false, true) => "bottom",
        }
    }

    /// As an index of eight.
    fn index(self) -> usize {
        usize::from(self.vertical) | usize::from(self.block_reversed) << 1 | usize::from(self.inline_reversed) << 2
    }

    /// The physical property that a flow-relative one stands for; any other property itself.
    pub(crate) fn physical(self, property: PropertyId) -> PropertyId {
        all_physical(self).get(property.index()).copied().unwrap_or(property)
    }

    /// A physical property and the flow-relative ones that stand for it.
    pub(crate) fn names(self, physical: PropertyId) -> Longhands {
        physical.relatives().iter().filter(|p| self.physical(*p) == physical).collect()
    }
}

/// Whether a longhand is flow-relative.
#[cfg(test)]
pub(crate) fn is_logical(property: PropertyId) -> bool {
    all_physical(Flow::default()).get(property.index()).is_some_and(|p| *p != property)
}

/// For each flow, the physical property of each longhand, worked out when first asked for.
static PHYSICAL: [OnceLock<Vec<PropertyId>>; 8] = [const { OnceLock::new() }; 8];

/// The physical properties of a flow.
fn all_physical(flow: Flow) -> &'static [PropertyId] {
    PHYSICAL[flow.index()].get_or_init(|| PropertyId::longhands().map(|p| physical(p, flow).unwrap_or(p)).collect())
}

/// Works out the physical property of a flow-relative longhand.
fn physical(property: PropertyId, flow: Flow) -> Option<PropertyId> {
    let name = property.name();
    let group = property.row().group();
    if group.is_empty() && !name.starts_with("corner-") {
        return None;
    }
    for (logical, other) in [("block-size", !flow.vertical), ("inline-size", flow.vertical)] {
        if let Some(start) = name.strip_suffix(logical) {
            return PropertyId::named(&format!("{start}{}", if other { "height" } else { "width" }));
        }
    }
    for block in ["block", "inline"] {
        if name == format!("overflow-{block}") || name == format!("overscroll-behavior-{block}") {
            let start = name.strip_suffix(block)?;
            let y = (block == "block") != flow.vertical;
            return PropertyId::named(&format!("{start}{}", if y { "y" } else { "x" }));
        }
    }
    for (a, b) in [("start", "start"), ("start", "end"), ("end", "start"), ("end", "end")] {
        let corner = format!("{a}-{b}");
        for (start, end) in [("border-", "-radius"), ("corner-", "-shape")] {
            if name == format!("{start}{corner}{end}") {
                let (block, inline) = (flow.side(&format!("block-{a}")), flow.side(&format!("inline-{b}")));
                let (y, x) = if flow.vertical { (inline, block) } else { (block, inline) };
                return PropertyId::named(&format!("{start}{y}-{x}{end}"));
            }
        }
    }
    for side in ["block-start", "block-end", "inline-start", "inline-end"] {
        if let Some((start, end)) = name.split_once(side) {
            let physical = flow.side(side);
            let full = format!("{start}{physical}{end}");
            return PropertyId::named(full.strip_prefix("inset-").unwrap_or(&full));
        }
    }
    None
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn sides_and_sizes() {
        let t = |name: &str, mode: &str, direction: &str| {
            Flow::new(mode, direction).physical(PropertyId::named(name).unwrap()).name()
        };
        assert_eq!(t("margin-inline-start", "horizontal-tb", "rtl"), "margin-right");
        assert_eq!(t("margin-block-start", "vertical-rl", "ltr"), "margin-right");
        assert_eq!(t("inset-inline-end", "vertical-lr", "ltr"), "bottom");
        assert_eq!(t("border-start-end-radius", "vertical-rl", "ltr"), "border-bottom-right-radius");
        assert_eq!(t("border-end-start-radius", "horizontal-tb", "ltr"), "border-bottom-left-radius");
        assert_eq!(t("min-inline-size", "vertical-lr", "ltr"), "min-height");
        assert_eq!(t("overflow-block", "horizontal-tb", "ltr"), "overflow-y");
        assert_eq!(t("border-inline-start-color", "sideways-lr", "ltr"), "border-bottom-color");
        for (mode, direction) in [("horizontal-tb", "ltr"), ("sideways-lr", "rtl"), ("vertical-rl", "ltr")] {
            let flow = Flow::new(mode, direction);
            for physical in PropertyId::longhands().map(|p| flow.physical(p)) {
                let all = PropertyId::longhands().filter(|p| flow.physical(*p) == physical);
                assert!(flow.names(physical).iter().eq(all), "{} in {mode}, {direction}", physical.name());
            }
        }
        assert!(
            is_logical(PropertyId::named("inline-size").unwrap()) && !is_logical(PropertyId::named("width").unwrap())
        );
    }
}
