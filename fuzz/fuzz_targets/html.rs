//! Any bytes as a page: elements have places in the text, parents come before children, and every value can be told.
#![no_main]

use clear_cascade::{MemoryLoader, Study};

libfuzzer_sys::fuzz_target!(|bytes: &[u8]| {
    let files = MemoryLoader::default().with_bytes("a.html", bytes, "");
    let Ok(page) = Study::open(&files, "a.html") else { return };
    page.resolve_all();
    for element in page.document().all_elements() {
        let span = element.span();
        assert!(span.start <= span.end && page.sources().place(span).is_some());
        assert!(element.parent().is_none_or(|parent| parent.id() != element.id()));
        assert!(page.values(element.id()).is_ok_and(|values| !values.is_empty()));
    }
});
