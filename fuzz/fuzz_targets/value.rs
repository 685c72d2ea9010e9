//! A value of any property: what it computes to, set again, computes to the same.
#![no_main]

use clear_cascade::property::PropertyId;
use clear_cascade::{MemoryLoader, Study};

libfuzzer_sys::fuzz_target!(|input: (u16, &str)| {
    let (number, text) = input;
    let all: Vec<PropertyId> = PropertyId::longhands().collect();
    let name = all[usize::from(number) % all.len()].name();
    if text.contains([';', '{', '}']) {
        return;
    }
    let value = |text: &str| {
        let files = MemoryLoader::default()
            .with("a.html", "<!DOCTYPE html><link rel=stylesheet href=a.css><body><p>x")
            .with("a.css", &format!(":root {{ --x: 1px; --y: a b }} p {{ {name}: {text} }}"));
        let page = Study::open(&files, "a.html").ok()?;
        let p = *page.select("p").ok()?.first()?;
        page.value(p, name)
    };
    let Some(first) = value(text) else { return };
    let second = value(&first);
    // Components beyond all numbers come to something else once they are read.
    if first.contains("NaN") || first.contains("infinity") {
        return;
    }
    // What is mixed may be lighter than what can be written (CSS Color 4, §9.3).
    let lightness = |text: &str| text.split_once(['.', ' '])?.0.parse::<u32>().ok();
    let lightest = [("oklab(", 1), ("oklch(", 1), ("lab(", 100), ("lch(", 100)];
    if lightest.iter().any(|(name, most)| first.split(name).skip(1).filter_map(lightness).any(|l| l >= *most)) {
        return;
    }
    // What only a computed value can be does not read back.
    if second.as_deref() != Some(&*first) {
        let initial = value("initial");
        let inherited = value("inherit");
        assert!(second == initial || second == inherited, "{name}: {text} is {first}, and that is {second:?}");
    }
});
