//! A value of any property: what it computes to, set again, computes to the same.
#![no_main]

use clear_cascade::property::PropertyId;
use clear_cascade::{MemoryLoader, Study};

libfuzzer_sys::fuzz_target!(|input: (u16, &str)| {
    let (number, text) = input;
    let all: Vec<PropertyId> = PropertyId::longhands().collect();
    let name = all[usize::from(number) % all.len()].name();
    if text.contains([';', '{', '}', '<', '!', '\\']) || text.contains("--") {
        return;
    }
    let value = |text: &str| {
        let html = format!("<!DOCTYPE html><style>p {{ {name}: {text} }}</style><body><p>x");
        let page = Study::open(&MemoryLoader::default().with("a.html", &html), "a.html").ok()?;
        let p = *page.select("p").ok()?.first()?;
        page.value(p, name)
    };
    let Some(first) = value(text) else { return };
    let second = value(&first);
    // What only a computed value can be does not read back.
    if second.as_deref() != Some(&*first) {
        let initial = value("initial");
        let inherited = value("inherit");
        assert!(second == initial || second == inherited, "{name}: {text} is {first}, and that is {second:?}");
    }
});
