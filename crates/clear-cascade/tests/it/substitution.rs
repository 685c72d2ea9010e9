//! `var()` against a literal reading of the standards that shares nothing with the library: CSS Variables 2, §2.3 and §3; CSS Values 5,
//! "Arbitrary Substitution Functions", whose fallbacks are looked at only where they are needed.

use crate::oracle::Dice;
use crate::page;

/// The custom properties of the pages.
const NAMES: [&str; 6] = ["--a", "--b", "--c", "--D", "--é", "--x-1"];

/// A part of a value.
#[derive(Clone, Debug)]
enum Part {
    /// Text.
    Text(String),
    /// `var()` of a property by its place among the names, and its fallback.
    Var(usize, Option<Vec<Part>>),
}

/// What an element declares: for each name the parts of its value, where it has one.
type Declared = [Option<Vec<Part>>; 6];

/// A random value.
fn value(dice: &mut Dice, depth: u64) -> Vec<Part> {
    let one = |dice: &mut Dice| match dice.below(if depth > 0 { 5 } else { 2 }) {
        0 => Part::Text(dice.below(90).to_string()),
        1 => Part::Text(dice.one(&["w", "( 1 )", "'s t'", "1px", "[ x ]", "#f0f", "calc( 2 )"]).to_owned()),
        2 => Part::Var(dice.below(6), None),
        3 => Part::Var(dice.below(6), Some(Vec::new())),
        _ => Part::Var(dice.below(6), Some(value(dice, depth - 1))),
    };
    (0..1 + dice.below(2)).map(|_| one(dice)).collect()
}

/// A value as it is written, in one of the ways in which it can be.
fn written(parts: &[Part], dice: &mut Dice) -> String {
    let mut one = |part: &Part| match part {
        Part::Text(text) => text.clone(),
        Part::Var(name, fallback) => {
            let open = dice.one(&["var(", "VAR(", "var(/**/ ", "v\\61r("]);
            let name = NAMES[*name].replace('a', dice.one(&["a", "\\61 "]));
            match fallback {
                None => format!("{open}{name} )"),
                Some(fallback) => format!("{open}{name},{})", written(fallback, dice)),
            }
        }
    };
    parts.iter().map(&mut one).collect::<Vec<_>>().join(" ")
}

/// The properties of an element as they are worked out.
struct Element<'d> {
    /// What it declares.
    declared: &'d Declared,
    /// What it inherits, each as its tokens.
    inherited: [Option<String>; 6],
}

impl Element<'_> {
    /// The value of a property, inside those that are being worked out; those that turn out to need themselves are added to `circle`.
    fn property(&self, name: usize, inside: &mut Vec<usize>, circle: &mut Vec<usize>) -> Option<String> {
        if let Some(from) = inside.iter().position(|n| *n == name) {
            circle.extend(&inside[from..]);
            return None;
        }
        let Some(parts) = &self.declared[name] else { return self.inherited[name].clone() };
        inside.push(name);
        let found = self.value(parts, inside, circle);
        inside.pop();
        found.filter(|_| !circle.contains(&name))
    }

    /// A value with everything put in; nothing where it is invalid.
    fn value(&self, parts: &[Part], inside: &mut Vec<usize>, circle: &mut Vec<usize>) -> Option<String> {
        let mut out = Some(Vec::new());
        // All parts are looked at, also where one is invalid already: what needs itself there is invalid, too.
        for part in parts {
            let found = match part {
                Part::Text(text) => Some(text.clone()),
                Part::Var(name, fallback) => match (self.property(*name, inside, circle), fallback) {
                    (Some(value), _) => Some(value),
                    // What needs itself is invalid, whatever it would fall back to.
                    (None, _) if inside.last().is_some_and(|name| circle.contains(name)) => None,
                    (None, Some(fallback)) => self.value(fallback, inside, circle),
                    (None, None) => None,
                },
            };
            out = out.zip(found).map(|(mut out, found): (Vec<String>, String)| {
                out.push(found);
                out
            });
        }
        out.map(|out| out.join(" "))
    }

    /// All properties.
    fn all(&self) -> [Option<String>; 6] {
        std::array::from_fn(|name| self.property(name, &mut Vec::new(), &mut Vec::new()))
    }
}

/// Text with one space for each run of white space, and none at the ends.
fn spaced(text: &str) -> String {
    text.split_whitespace().collect::<Vec<_>>().join(" ")
}

#[test]
fn what_is_put_in_is_what_the_standards_word() {
    let mut met = [0; 3];
    for seed in 1_u64..2500 {
        let mut dice = Dice(seed.wrapping_mul(0x9E37_79B9_7F4A_7C15) | 1);
        let mut declared =
            || -> Declared { std::array::from_fn(|_| if dice.chance(65) { Some(value(&mut dice, 2)) } else { None }) };
        let (outer, inner) = (declared(), declared());
        let order = value(&mut dice, 2);
        let mut block = |declared: &Declared| -> String {
            let all = NAMES.iter().zip(declared).filter_map(|(name, parts)| Some((name, parts.as_ref()?)));
            all.map(|(name, parts)| format!("{name}: {};\n", written(parts, &mut dice))).collect()
        };
        let css = format!("div {{ {} }} p {{ {} }}", block(&outer), block(&inner));
        let css = format!("{css} p {{ order: {} }}", written(&order, &mut dice));
        let study = page(&format!("<!DOCTYPE html><style>{css}</style><div><p>x</p></div>"));
        let outer = Element { declared: &outer, inherited: Default::default() };
        let inner = Element { declared: &inner, inherited: outer.all() };
        for (selector, element) in [("div", &outer), ("p", &inner)] {
            for (name, expected) in NAMES.iter().zip(element.all()) {
                let found = study.value(study.select(selector).unwrap()[0], name).unwrap_or_default();
                let expected = spaced(&expected.unwrap_or_default());
                let found = spaced(&found.replace('"', "'").replace("(1)", "( 1 )"));
                assert_eq!(found, expected, "{name} of {selector}, page {seed}\n{css}");
                met[usize::from(expected.is_empty())] += 1;
            }
        }
        // What is no integer, or none at all, counts as `unset`.
        let order = inner.value(&order, &mut Vec::new(), &mut Vec::new()).map(|text| spaced(&text));
        let order = order.map(|text| if text == "calc( 2 )" { "2".to_owned() } else { text });
        let order = order.filter(|text| text.parse::<u32>().is_ok()).unwrap_or_else(|| "0".to_owned());
        let found = study.value(study.select("p").unwrap()[0], "order").unwrap();
        assert_eq!(found, order, "order, page {seed}\n{css}");
        met[2] += usize::from(order != "0");
    }
    // Some have a value, some have none, and some numbers come out at the end.
    assert!(met.iter().all(|n| *n > 300), "{met:?}");
}
