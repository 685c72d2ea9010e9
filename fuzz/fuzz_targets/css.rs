//! Any text as a sheet: it is read to the end, what is dropped has a place, and the index of its rules agrees with trying them all.
#![no_main]

use clear_cascade::{MemoryLoader, Study};

const PAGE: &str = "<!DOCTYPE html><link rel=stylesheet href=a.css><body class=a id=b><p class='a b' title=x>x<b>y</b></p>
<ul><li>1<li class=a>2</ul><a href=#>z</a><input type=checkbox checked><div><template shadowrootmode=open><slot></slot></template><i>s</i></div>";

libfuzzer_sys::fuzz_target!(|bytes: &[u8]| {
    let files = MemoryLoader::default().with("a.html", PAGE).with_bytes("a.css", bytes, "text/css");
    let page = Study::open(&files, "a.html").expect("the page itself is a good one");
    page.resolve_all();
    assert!(page.index_agrees());
    for note in page.notes() {
        assert!(page.sources().place(note.span).is_some(), "{}", note.message);
    }
    for id in page.document().ids() {
        assert!(page.agrees(id, "color") && page.agrees(id, "margin-top"));
    }
});
