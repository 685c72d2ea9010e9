//! A selector: what is printed reads back as the same, and takes the same elements.
#![no_main]

use std::sync::LazyLock;

use clear_cascade::selector::SelectorList;
use clear_cascade::{MemoryLoader, Study};

static PAGE: LazyLock<Study> = LazyLock::new(|| {
    let html = "<!DOCTYPE html><body class=a id=b><p class='a b' title=x lang=en>x<b>y</b></p><ul><li>1<li class=a>2<li id=c>3</ul>
<a href=#>z</a><form><input type=checkbox checked><input required value=1><select><option selected>o</select></form><svg><g class=a /></svg>";
    Study::open(&MemoryLoader::default().with("a.html", html), "a.html").expect("a good page")
});

libfuzzer_sys::fuzz_target!(|text: &str| {
    let Ok(list) = text.parse::<SelectorList>() else { return };
    let printed = list.to_string();
    let again = printed.parse::<SelectorList>().unwrap_or_else(|e| panic!("`{printed}` of `{text}`: {}", e.message));
    assert_eq!(printed, again.to_string(), "of `{text}`");
    let ids = |text: &str| PAGE.select(text).ok();
    if let (Some(a), Some(b)) = (ids(text), ids(&printed)) {
        assert_eq!(a, b, "`{text}` and `{printed}`");
    }
});
