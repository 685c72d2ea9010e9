//! A condition of any kind: it holds or not, and never both it and its opposite.
#![no_main]

use clear_cascade::{MemoryLoader, Study};

libfuzzer_sys::fuzz_target!(|input: (u8, &str)| {
    let (kind, text) = input;
    // Parentheses that match, and nothing that ends the condition or hides what comes after it.
    let depths = text.bytes().scan(0_i32, |depth, byte| {
        *depth += i32::from(byte == b'(') - i32::from(byte == b')');
        Some(*depth)
    });
    let depths: Vec<i32> = depths.collect();
    if depths.iter().any(|depth| *depth < 0) || depths.last().is_some_and(|depth| *depth != 0) {
        return;
    }
    if text.contains(['{', '}', '[', ']', ';', '<', '"', '\'', '\\']) || text.contains("/*") || text.contains("url") {
        return;
    }
    let kind = ["@media", "@supports", "@container"][usize::from(kind) % 3];
    let html = format!(
        "<!DOCTYPE html><style>{kind} ({text}) {{ p {{ color: red }} }} {kind} not ({text}) {{ p {{ width: 1px }} }}
        p {{ height: if(media({text}): 1px; else: 2px) }}</style><p>x"
    );
    let Ok(page) = Study::open(&MemoryLoader::default().with("a.html", &html), "a.html") else { return };
    let Ok(elements) = page.select("p") else { return };
    let value = |property| page.value(elements[0], property);
    let (holds, not) = (value("color").as_deref() == Some("rgb(255, 0, 0)"), value("width").as_deref() == Some("1px"));
    assert!(!(holds && not), "{kind} ({text})");
    assert!(value("height").is_some());
});
