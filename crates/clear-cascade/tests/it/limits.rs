//! What goes beyond a limit is told: what was left out, how far it may go, and where. All on a small stack.

use clear_cascade::{MemoryLoader, Study};

/// One thing inside another, so many times.
fn nest(open: &str, inner: &str, close: &str, times: usize) -> String {
    open.repeat(times) + inner + &close.repeat(times)
}

/// All that is told of the page and of one property of `p`.
fn told(css: &str, property: &str) -> String {
    let mut files = MemoryLoader::default().with("index.html", &format!("<style>{css}</style><p>1"));
    for i in 0..40 {
        files = files.with(&format!("{i}.css"), &format!("@import '{}.css'; i {{ top: 0 }}", i + 1));
    }
    let study = Study::open(&files, "index.html").expect("the page opens");
    let why = study.why(study.select("p").unwrap()[0], property).unwrap();
    let notes = study.notes().iter();
    let places = notes.map(|n| {
        format!("{} {} {}", study.sources().place(n.span).unwrap(), n.message, n.hint.as_deref().unwrap_or_default())
    });
    places.chain(why.notes).chain(why.derivation).collect::<Vec<_>>().join("\n")
}

#[test]
fn what_is_beyond_a_limit_is_told() {
    let calls: String =
        (0..14).map(|i| format!("@function --f{i}() {{ result: --f{n}() --f{n}() }}", n = i + 1)).collect();
    let doubled: String = (1..24).map(|i| format!("--a{i}: var(--a{n}) var(--a{n});", n = i - 1)).collect();
    let condition = |test: &str| nest("(", test, ")", 70);
    let cases = [
        ("@import '0.css';".to_owned(), "top", "imports nest more than 32 deep here; `32.css` is not loaded"),
        (format!("p {{ {} }}", nest("& {", "top: 0", "}", 80)), "top", "rules nest more than 64 deep here; this one"),
        (nest("@media all {", "p { top: 0 }", "}", 80), "top", "rules nest more than 64 deep here; this one"),
        (format!("p{} {{ top: 0 }}", nest(":is(", "p", ")", 80)), "top", "selectors nest more than 64 deep here"),
        (
            format!("@media {} {{ p {{ top: 0 }} }}", condition("width > 1px")),
            "top",
            "conditions nest more than 64 deep here",
        ),
        (
            format!("@supports {} {{ p {{ top: 0 }} }}", condition("top: 0")),
            "top",
            "conditions nest more than 64 deep here",
        ),
        (
            format!("@container {} {{ p {{ top: 0 }} }}", condition("width > 1px")),
            "top",
            "conditions nest more than 64 deep",
        ),
        (
            format!("p {{ top: if({}: 1px; else: 2px) }}", condition("media(all)")),
            "top",
            "they nest more than 64 deep, and",
        ),
        (
            format!("p {{ top: {} }}", nest("if(style(--x: ", "1", "): 1; else: 2)", 20)),
            "top",
            "more than 16 count as unknown",
        ),
        (
            format!("p {{ top: {} }}", nest("min(", "1px", ")", 80)),
            "top",
            "functions nest more than 60 deep in the value of `top`",
        ),
        (
            format!("p {{ color: {} }}", nest("color-mix(in srgb, red, ", "blue", ")", 40)),
            "color",
            "colours may nest 32 deep here, and not more",
        ),
        (
            format!("p {{ top: {} }}", nest("var(--q, ", "1px", ")", 80)),
            "top",
            "nests more than 64 deep; it was cut off there",
        ),
        (format!("p {{ --a0: 0123456789; {doubled} top: var(--a23) }}"), "top", "comes to nothing and has no fallback"),
        (format!("p {{ --a0: 0123456789; {doubled} }}"), "--a13", "grows beyond 65536 bytes; it was cut off there"),
        (
            format!("{calls} @function --f14() {{ result: 1 }} p {{ top: --f0() }}"),
            "top",
            "makes more than 4096 calls; it was",
        ),
    ];
    let small = std::thread::Builder::new().stack_size(512 << 10);
    let run = move || {
        for (css, property, expected) in &cases {
            let told = told(css, property);
            assert!(told.contains(expected), "{expected}:\n{}", &told[..told.len().min(2000)]);
        }
    };
    small.spawn(run).unwrap().join().unwrap();
}

#[test]
fn what_is_within_its_limit_is_told_of_none() {
    let many: String = (0..20)
        .map(|i| format!("media(width > {i}px) and style(--x: if(style(--y: 1): 1; else: 2)): {i}px; "))
        .collect();
    let cases = [
        (format!("p {{ top: if({many} else: calc({})) }}", nest("(", "1px", ")", 40)), "top"),
        (format!("@supports (top: {}) {{ p {{ top: 0 }} }}", nest("calc(", "1px", ")", 55)), "top"),
        (format!("@supports {} {{ p {{ top: 0 }} }}", nest("(", "top: 0", ")", 64)), "top"),
        (format!("p {{ top: if({}: 1px; else: 2px) }}", nest("(", "media(print)", ")", 63)), "top"),
    ];
    for (css, property) in cases {
        let told = told(&css, property);
        let limit =
            ["nest more", "inside each other", "dropped", "cut off"].iter().find(|words| told.contains(**words));
        assert_eq!(limit, None, "{css}\n{told}");
    }
}
