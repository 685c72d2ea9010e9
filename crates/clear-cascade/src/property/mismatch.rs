//! Why a value is none that a property takes: what was met, what would have done there, and what was probably meant.

use std::collections::BTreeSet;

use crate::document::Name;
use crate::limits::DEEPEST_COLOR;
use crate::near::nearest;
use crate::property::PropertyId;
use crate::syntax::{Kind, Slice};
use crate::value::{Unit, color, math_functions};

/// Why a value is none that a property takes.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(crate) struct Mismatch {
    /// What was met and what would do, as one clause.
    pub(crate) message: String,
    /// What was probably meant.
    pub(crate) hint: Option<String>,
    /// The tokens that were met, as bytes of the text they were read from.
    pub(crate) range: (u32, u32),
}

/// What would have done at one place of a value.
#[derive(Default)]
pub(super) struct Wanted {
    /// Keywords.
    keywords: Vec<Name>,
    /// Types by their names in the standards.
    types: Vec<&'static str>,
    /// Functions.
    functions: Vec<Name>,
    /// The least and the greatest number that would have done where one was met.
    range: Option<(f64, f64)>,
}

/// Types that people know by name.
const TYPES: &[&str] = &[
    "length",
    "percentage",
    "length-percentage",
    "number",
    "integer",
    "angle",
    "time",
    "color",
    "string",
    "url",
    "image",
    "flex",
    "resolution",
    "family-name",
];

/// How many keywords are remembered at the most.
const MOST_KEYWORDS: usize = 400;

/// How many ways to go on are named at the most.
const MOST_NAMED: usize = 8;

impl Wanted {
    /// Forgets everything: the match got further.
    pub(super) fn clear(&mut self) {
        self.keywords.clear();
        self.types.clear();
        self.functions.clear();
        self.range = None;
    }

    /// A number like the one that was met would have done within a range.
    pub(super) fn within(&mut self, range: (f64, f64)) {
        // What only leaves out what is between has no bounds.
        let (low, high) = if range.0 <= range.1 { range } else { (f64::NEG_INFINITY, f64::INFINITY) };
        let (least, greatest) = self.range.unwrap_or((low, high));
        self.range = Some((least.min(low), greatest.max(high)));
    }

    /// What a number is, where it is none within the range.
    fn out_of_range(&self, met: Slice<'_>) -> Option<String> {
        let (low, high) = self.range?;
        let (number, unit) = match met.kind()? {
            Kind::Number(number, _) => (number, ""),
            Kind::Percentage(number) => (number, "%"),
            Kind::Dimension(number, _) => (number, if low.is_finite() && high.is_finite() { "deg" } else { "" }),
            _ => return None,
        };
        let bound = |bound: f64| if bound == 0.0 { "0".to_owned() } else { format!("{bound}{unit}") };
        if low == 0.0 && number < 0.0 {
            Some("is negative: nothing below 0".to_owned())
        } else if low.is_finite() && (number < low || number < 0.0) {
            Some(format!("is too small: nothing below {}", bound(low)))
        } else {
            high.is_finite().then(|| format!("is too large: nothing above {}", bound(high)))
        }
    }

    /// A keyword would have done.
    pub(super) fn keyword(&mut self, name: &Name) {
        if self.keywords.len() < MOST_KEYWORDS {
            self.keywords.push(name.clone());
        }
    }

    /// A type would have done.
    pub(super) fn a_type(&mut self, name: &'static str) {
        if !self.types.contains(&name) {
            self.types.push(name);
        }
    }

    /// A function would have done.
    pub(super) fn function(&mut self, name: &Name) {
        if self.functions.len() < MOST_KEYWORDS && !self.functions.contains(name) {
            self.functions.push(name.clone());
        }
    }

    /// Says why the value of a property does not match from a token on.
    pub(super) fn explain(&self, property: &str, here: Slice<'_>) -> Mismatch {
        let mut one = here;
        one.next();
        let met = Slice { to: one.from, ..here };
        let words = self.expected();
        let message = if here.is_empty() {
            let missing = if words.is_empty() { String::new() } else { format!(": {words} is missing at the end") };
            format!("the value of `{property}` is not complete{missing}")
        } else {
            let text = crate::text::shorten(met.text(), 40);
            if let Some(what) = self.out_of_range(met) {
                let message = format!("`{text}` {what} can stand here in the value of `{property}`");
                return Mismatch { message, hint: None, range: met.range() };
            }
            match &*words {
                "" => format!("`{text}` is too much in the value of `{property}`"),
                words => format!("`{text}` cannot stand here in the value of `{property}`: {words} can"),
            }
        };
        Mismatch { message, hint: self.hint(met, one), range: met.range() }
    }

    /// What would have done, in words.
    fn expected(&self) -> String {
        let types = self.types.iter().filter(|t| TYPES.contains(t)).map(|t| format!("<{t}>"));
        // Keywords before functions, and old names behind both.
        let old = |name: &Name| name.starts_with('-');
        let keywords = self.keywords.iter().map(|n| (old(n), false, format!("`{n}`")));
        let functions = self.functions.iter().map(|n| (old(n), true, format!("`{n}()`")));
        let words: BTreeSet<_> = keywords.chain(functions).collect();
        let mut all: Vec<String> = types.chain(words.into_iter().map(|(.., word)| word)).collect();
        let count = all.len();
        if count > MOST_NAMED {
            all.truncate(MOST_NAMED - 1);
            all.push(format!("one of {} more", count + 1 - MOST_NAMED));
        }
        match all.as_slice() {
            [] => String::new(),
            [one] => one.clone(),
            [start @ .., last] => format!("{} or {last}", start.join(", ")),
        }
    }

    /// Whether numbers of some kind would have done.
    fn takes_numbers(&self) -> bool {
        let numeric = ["length", "percentage", "number", "integer", "angle", "time"];
        self.types.iter().any(|t| numeric.iter().any(|n| t.contains(n)))
    }

    /// What would have done with a unit, and the unit that most have.
    fn unit(&self) -> Option<(&'static str, &'static str)> {
        let kinds = [("length", "a length", "px"), ("time", "a time", "s"), ("angle", "an angle", "deg")];
        let (_, what, unit) = kinds.into_iter().find(|(kind, ..)| self.types.iter().any(|t| t.contains(kind)))?;
        Some((what, unit))
    }

    /// Whether colours would have done.
    fn takes_colors(&self) -> bool {
        self.types.contains(&"color")
    }

    /// What was probably meant by a component, with what stands after it.
    fn hint(&self, met: Slice<'_>, after: Slice<'_>) -> Option<String> {
        let text = met.text();
        let hex = |text: &str| !text.is_empty() && text.bytes().all(|b| b.is_ascii_hexdigit());
        let hash_is_missing = self.takes_colors() && matches!(text.len(), 3 | 4 | 6 | 8) && hex(text);
        let colon = Slice { from: after.from, ..after }.trim().kind() == Some(Kind::Colon);
        match met.kind()? {
            // What would be the next declaration.
            Kind::Ident if colon && PropertyId::named(&text.to_ascii_lowercase()).is_some() => {
                Some(format!("a `;` is missing before `{text}`"))
            }
            Kind::Number(n, _) if n != 0.0 && !hash_is_missing && self.unit().is_some() => {
                let (what, unit) = self.unit()?;
                let next = Slice { from: after.from, ..after }.trim().ident().filter(|u| Unit::named(u).is_some());
                Some(match next {
                    Some(unit) => format!("no white space between a number and its unit: `{text}{unit}`?"),
                    None => format!("{what} needs a unit: `{text}{unit}`?"),
                })
            }
            Kind::Ident | Kind::Number(..) | Kind::Dimension(..) if hash_is_missing => {
                Some(format!("a hex colour starts with `#`: `#{text}`?"))
            }
            Kind::Dimension(_, unit) => {
                let written = &met.tokens.text[unit as usize..met.range().1 as usize];
                self.unit_hint(text.strip_suffix(written)?, written)
            }
            Kind::Hash(_) if self.takes_colors() => Some(match hex(&text[1..]) {
                true => "a hex colour has 3, 4, 6 or 8 digits".to_owned(),
                false => "the digits of a hex colour are 0 to 9 and a to f".to_owned(),
            }),
            Kind::Ident => {
                let colors = color::all_names().filter(|_| self.takes_colors()).map(|n| -> &str { n });
                let names: Vec<&str> = self.keywords.iter().map(|n| &**n).chain(colors).collect();
                nearest(text, names.into_iter()).map(|near| format!("did you mean `{near}`?"))
            }
            Kind::Function(_) => self.function_hint(met),
            _ => None,
        }
    }

    /// What was meant by a number with a unit that does not do.
    fn unit_hint(&self, number: &str, unit: &str) -> Option<String> {
        if !self.takes_numbers() {
            return None;
        }
        if Unit::named(unit).is_some() {
            let plain = self.unit().is_none();
            return plain.then(|| format!("a number has no unit here: `{number}`?"));
        }
        // `10px-5px` is one number with an odd unit.
        if unit.contains('-') {
            return Some("`-` between two values needs white space on both sides, inside `calc()`".to_owned());
        }
        let near = nearest(unit, Unit::names()).map(|near| format!("; did you mean `{number}{near}`?"));
        Some(format!("there is no unit `{unit}`{}", near.unwrap_or_default()))
    }

    /// What was meant by a function that does not do.
    fn function_hint(&self, met: Slice<'_>) -> Option<String> {
        let name = met.name(met.peek()?).to_ascii_lowercase();
        if let Some(example) = color::example(&name).filter(|_| self.takes_colors()) {
            if met.nesting() > DEEPEST_COLOR {
                return Some(format!("colours may nest {DEEPEST_COLOR} deep here, and not more"));
            }
            return Some(format!("what is inside `{name}()` makes no colour; it is written like `{example}`"));
        }
        if self.takes_numbers() && math_functions().any(|f| f == name) {
            return Some(match lacks_space(met.inside()) {
                true => "`+` and `-` need white space on both sides".to_owned(),
                false => format!("what is inside `{name}()` does not come to one value of a kind that can stand here"),
            });
        }
        let colors = color::functions().filter(|_| self.takes_colors());
        let numbers = math_functions().filter(|_| self.takes_numbers());
        let standard = colors.chain(numbers).map(|n| -> &str { n });
        let names: Vec<&str> = self.functions.iter().map(|n| &**n).chain(standard).collect();
        nearest(&name, names.into_iter()).map(|near| format!("did you mean `{near}()`?"))
    }
}

/// Whether a sign in a calculation has become part of the number behind it, as in `1px +2px`, or of the unit before it, as
/// in `1px-2px` (CSS Values 4, §10.8).
fn lacks_space(calculation: Slice<'_>) -> bool {
    let tokens = (calculation.from..calculation.to).map(|i| Slice { from: i, to: i + 1, ..calculation });
    let mut ends_a_value = false;
    for one in tokens {
        match one.kind() {
            Some(kind @ (Kind::Number(..) | Kind::Percentage(_) | Kind::Dimension(..))) => {
                let in_unit = |unit: u32| one.tokens.text[unit as usize..one.range().1 as usize].contains('-');
                if (ends_a_value && one.text().starts_with(['+', '-']))
                    || matches!(kind, Kind::Dimension(_, unit) if in_unit(unit))
                {
                    return true;
                }
                ends_a_value = true;
            }
            Some(Kind::Space) => {}
            Some(Kind::Delim('+' | '-')) if ends_a_value => {
                let space = |i: u32| {
                    let kind = calculation.tokens.list.get(i as usize).map(|t| t.kind);
                    kind == Some(Kind::Space)
                };
                if !space(one.from - 1) || !space(one.from + 1) {
                    return true;
                }
                ends_a_value = false;
            }
            Some(Kind::Close(..)) => ends_a_value = true,
            _ => ends_a_value = false,
        }
    }
    false
}
