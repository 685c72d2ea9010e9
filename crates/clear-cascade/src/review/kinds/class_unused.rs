//! A class of elements that no sheet names.

use super::{Example, Finding, Kind, Level, Site, class_unknown, count};

/// A class without a style.
pub(super) const KIND: Kind = Kind {
    code: "class-unstyled",
    level: Level::Advice,
    meaning: "Elements have a class that no sheet and no script in the pages names.",
    matters: "It may be left over, or its sheet is not there.",
    accept: "Where it is there for people, tests or programs.",
    example: Example {
        with: "<style>.a { top: 0 }</style><p class='a picture'>1",
        without: "<style>.a { top: 0 }</style><p class='a shown'>1<script>x.classList.add('shown')</script>",
    },
    find,
};

/// Looks for them.
fn find(site: &Site<'_>) -> Vec<Finding> {
    let (named, slips) = (class_unknown::named(site), class_unknown::slips(site));
    let bare = site.facts.classes.iter().filter(|(class, used)| {
        let told = slips.contains_key(class.as_str());
        !told
            && !class_unknown::is_named(class, used, &named)
            && !site.facts.words.contains(*class)
            && !site.facts.lost.contains(*class)
    });
    bare.map(|(class, used)| {
        let mut finding =
            KIND.finding(used.first.0.clone(), &used.first.0.file, format!("the class `{class}` is in no stylesheet"));
        finding.effect = Some(format!("it does nothing on {}", count(used.count, "element")));
        finding.elements = used.count;
        finding.labels = vec![used.first.1.clone()];
        finding
    })
    .collect()
}
