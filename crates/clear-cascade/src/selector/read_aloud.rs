//! Selectors in plain words.

use super::{AttributeOperator, Combinator, Compound, Nth, PseudoClass, Selector, SelectorList, Simple};

/// A selector in words: "an `h1` anywhere inside an element with class `night`".
pub(super) fn selector(selector: &Selector) -> String {
    let mut words = String::new();
    let mut after: Option<Combinator> = None;
    for one in selector.compounds.iter().rev() {
        if let Some(combinator) = after {
            words.push_str(match combinator {
                Combinator::Descendant => " anywhere inside ",
                Combinator::Child => " directly inside ",
                Combinator::NextSibling => " right after ",
                Combinator::SubsequentSibling => " somewhere after its sibling, ",
            });
        }
        words.push_str(&compound(one));
        after = Some(one.combinator);
    }
    words
}

/// Several selectors in words.
fn list(list: &SelectorList) -> String {
    let words: Vec<String> = list.selectors.iter().map(selector).collect();
    if words.is_empty() { "nothing".to_owned() } else { words.join(", or ") }
}

/// The conditions on one element in words.
fn compound(compound: &Compound) -> String {
    let mut subject = "element".to_owned();
    let mut article = "an";
    let mut with = Vec::new();
    let mut lead = String::new();
    for part in &compound.parts {
        match &part.simple {
            Simple::Universal(_) => {}
            Simple::Type(_, name, _) => {
                subject = format!("`{name}`");
                article = if sounds_like_a_vowel(name) { "an" } else { "a" };
            }
            Simple::Id(id) => with.push(format!("with id `{id}`")),
            Simple::Class(class) => with.push(format!("with class `{class}`")),
            Simple::Attribute(test) => with.push(attribute(&test.name, test.test.as_ref().map(|(o, v)| (*o, &**v)))),
            Simple::PseudoElement(pseudo) => lead = format!("the `{pseudo}` of "),
            Simple::Nesting(Some(parent)) => with.push(format!("that is {}", list(parent))),
            Simple::Nesting(None) => with.push("that is the scoping root".to_owned()),
            Simple::PseudoClass(pseudo) => with.push(pseudo_class(pseudo)),
        }
    }
    if with.is_empty() {
        if subject == "element" {
            return format!("{lead}any element");
        }
        return format!("{lead}{article} {subject}");
    }
    // "an element that is an `h1`" is an `h1`.
    if let ([one], [part]) = (with.as_slice(), compound.parts.as_slice())
        && let Simple::Nesting(Some(_)) | Simple::PseudoClass(PseudoClass::Is(..) | PseudoClass::Any(_)) = part.simple
        && let Some(said) = one.strip_prefix("that is ")
    {
        return said.to_owned();
    }
    // "with class `a` with class `b`" reads better as "with class `a` and class `b`".
    let mut words = String::new();
    for (i, one) in with.iter().enumerate() {
        match one.strip_prefix("with ").filter(|_| i > 0 && with[i - 1].starts_with("with ")) {
            Some(rest) => words.push_str(&format!(" and {rest}")),
            None => words.push_str(&format!(" {one}")),
        }
    }
    format!("{lead}{article} {subject}{words}")
}

/// An attribute condition in words.
fn attribute(name: &str, test: Option<(AttributeOperator, &str)>) -> String {
    match test {
        None => format!("with attribute `{name}`"),
        Some((operator, value)) => {
            let how = match operator {
                AttributeOperator::Equals => "is",
                AttributeOperator::Word => "has the word",
                AttributeOperator::Dash => "is, or starts before a hyphen with,",
                AttributeOperator::Starts => "starts with",
                AttributeOperator::Ends => "ends with",
                AttributeOperator::Contains => "contains",
            };
            format!("whose `{name}` {how} \"{value}\"")
        }
    }
}

/// A pseudo-class in words.
fn pseudo_class(pseudo: &PseudoClass) -> String {
    match pseudo {
        PseudoClass::Is(l, _) | PseudoClass::Any(l) => format!("that is {}", list(l)),
        PseudoClass::Not(l) if l.selectors.len() > 1 => {
            let none: Vec<String> = l.selectors.iter().map(selector).collect();
            format!("that is neither {}", none.join(", nor "))
        }
        PseudoClass::Not(l) => format!("that is not {}", list(l)),
        PseudoClass::Has(l) => {
            let parts: Vec<String> = l.selectors.iter().map(relative).collect();
            format!("that has {}", parts.join(", or "))
        }
        PseudoClass::NthChild(nth, end, of) => {
            let among = of.as_ref().map_or("child".to_owned(), |l| format!("child among those that are {}", list(l)));
            format!("that is {} {among} of its parent", nth_words(*nth, *end))
        }
        PseudoClass::NthOfType(nth, end) => format!("that is {} of its type in its parent", nth_words(*nth, *end)),
        PseudoClass::OnlyChild => "that is the only child of its parent".to_owned(),
        PseudoClass::OnlyOfType => "that is the only one of its type in its parent".to_owned(),
        PseudoClass::Root => "that is the root of the page".to_owned(),
        PseudoClass::Empty => "with nothing inside".to_owned(),
        PseudoClass::Scope => "that is the scoping root".to_owned(),
        PseudoClass::Lang(ranges) => {
            let named = ranges.iter().map(|r| if r.is_empty() { "\"\"" } else { r });
            format!("in language {}", named.collect::<Vec<_>>().join(" or "))
        }
        PseudoClass::Dir(Some(true)) => "that runs from right to left".to_owned(),
        PseudoClass::Dir(_) => "that runs from left to right".to_owned(),
        PseudoClass::HostContext(_) => "that holds the shadow tree somewhere further out".to_owned(),
        PseudoClass::Host(_) => "that holds the shadow tree".to_owned(),
        PseudoClass::Heading(levels) if levels.is_empty() => "that is a heading".to_owned(),
        PseudoClass::Heading(levels) => {
            format!("that is a heading of level {}", levels.iter().map(i32::to_string).collect::<Vec<_>>().join(" or "))
        }
        PseudoClass::State(state) => format!("in state `:{}`", state.name()),
        PseudoClass::Never(name) => format!("in state `:{}`", name.trim_start_matches(':')),
    }
}

/// What `:has()` asks for, seen from the element that has it.
fn relative(one: &Selector) -> String {
    let words = selector(one);
    match one.compounds[0].combinator {
        Combinator::Descendant => format!("{words} inside it"),
        Combinator::Child => format!("{words} directly inside it"),
        Combinator::NextSibling => format!("{words} right after it"),
        Combinator::SubsequentSibling => format!("{words} somewhere after it"),
    }
}

/// A place among siblings in words.
fn nth_words(nth: Nth, from_end: bool) -> String {
    let end = if from_end { "last" } else { "" };
    match (nth.a, nth.b) {
        (0, 1) if from_end => "the last".to_owned(),
        (0, 1) => "the first".to_owned(),
        (0, b) if from_end => format!("number {b} from the end as a"),
        (0, b) => format!("number {b} as a"),
        (2, 1) => format!("an odd {end}").trim_end().to_owned(),
        (2, 0) => format!("an even {end}").trim_end().to_owned(),
        (a, b) => format!("at place {a}n{b:+}{} as a", if from_end { " from the end" } else { "" }),
    }
}

/// Whether a name read letter by letter or as a word starts with a vowel: "an `h1`", but "a `header`".
fn sounds_like_a_vowel(name: &str) -> bool {
    let letters = name.len() <= 2 || name.bytes().any(|b| b.is_ascii_digit()) || matches!(name, "html" | "svg");
    let first = name.chars().next().unwrap_or_default().to_ascii_lowercase();
    if letters { "aefhilmnorsx".contains(first) } else { "aeio".contains(first) }
}
