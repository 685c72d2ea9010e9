//! Custom properties that need themselves.

use super::{Example, Finding, Kind, Level, Site, count};

/// A custom property that needs itself.
pub(super) const KIND: Kind = Kind {
    code: "variable-cycle",
    level: Level::Wrong,
    meaning: "The value of a custom property needs that of the same property on the same element, by itself or through others.",
    matters: "None of them has a value there: what reads them takes its fallback, or is inherited or initial. A property cannot be \
              worked out from what its parent has; that needs another name.",
    accept: "Where one of them is always set anew by a program.",
    example: Example {
        with: "<style>p { --gap: calc(var(--gap) * 2); margin: var(--gap) }</style><p>1",
        without: "<style>body { --gap: 1px } p { --wide: calc(var(--gap) * 2); margin: var(--wide) }</style><p>1",
    },
    find,
};

/// Looks for them.
fn find(site: &Site<'_>) -> Vec<Finding> {
    let cycles = site.facts.cycles.iter();
    cycles
        .map(|(at, cycle)| {
            let what = match cycle.what.names.as_slice() {
                [alone] => format!("`{alone}` needs itself"),
                [first, rest @ ..] => {
                    let rest: Vec<String> = rest.iter().map(|name| format!("needs `{name}`")).collect();
                    format!("`{first}` {}, which needs `{first}`", rest.join(", which "))
                }
                [] => String::new(),
            };
            let mut finding = KIND.finding(at.clone(), &cycle.page, what);
            let none = if cycle.what.names.len() == 1 { "it has no value" } else { "none of them has a value" };
            finding.effect = Some(format!("{none} on {}", count(cycle.count, "element")));
            finding.advice = Some("give what is worked out another name".to_owned());
            finding.elements = cycle.count;
            finding.labels = vec![cycle.label.clone()];
            finding
        })
        .collect()
}
