//! The examples do on the sample site what they say.

#[allow(dead_code, reason = "an example has a `main`")]
#[path = "../../examples/classes.rs"]
mod classes;
#[allow(dead_code, reason = "an example has a `main`")]
#[path = "../../examples/headings.rs"]
mod headings;
#[allow(dead_code, reason = "an example has a `main`")]
#[path = "../../examples/lightest.rs"]
mod lightest;
#[allow(dead_code, reason = "an example has a `main`")]
#[path = "../../examples/loaders.rs"]
mod loaders;
#[allow(dead_code, reason = "an example has a `main`")]
#[path = "../../examples/look.rs"]
mod look;
#[allow(dead_code, reason = "an example has a `main`")]
#[path = "../../examples/read_back.rs"]
mod read_back;
#[allow(dead_code, reason = "an example has a `main`")]
#[path = "../../examples/tallies.rs"]
mod tallies;
#[allow(dead_code, reason = "an example has a `main`")]
#[path = "../../examples/watch.rs"]
mod watch;

/// The sample site.
const DEMO: &str = concat!(env!("CARGO_MANIFEST_DIR"), "/../../demo");

#[test]
fn examples_answer_about_the_sample_site() {
    let page = "index.html";
    let pages = [page, "programme.html", "visit.html"].map(str::to_owned);
    let told = [
        ("headings", headings::answer(DEMO, page)),
        ("tallies", tallies::answer(DEMO, "css/theme.css", &pages)),
        ("loaders", loaders::answer(DEMO, page, "css/theme.css")),
        ("look", look::answer(DEMO, page)),
        ("lightest", lightest::answer(DEMO, page, ".menu a", "color: gold")),
        ("classes", classes::answer(DEMO, page)),
        ("read_back", read_back::answer(DEMO, page, "h1")),
    ];
    let told = told.map(|(name, answer)| format!("# {name}\n{}", answer.unwrap_or_else(|e| panic!("{name}: {e}"))));
    insta::assert_snapshot!("examples", told.join("\n").replace(&format!("{DEMO}/"), ""));
}

#[test]
fn the_watching_example_tells_of_a_change() {
    let folder = std::env::temp_dir().join(format!("clear-cascade-watch-{}", std::process::id()));
    std::fs::create_dir_all(&folder).unwrap();
    let write = |text: &str| {
        // Whole at once, as editors write.
        std::fs::write(folder.join("new"), text).unwrap();
        std::fs::rename(folder.join("new"), folder.join("index.html")).unwrap();
    };
    write("<style>p { color: red }</style><p>1");
    let mut out = Vec::new();
    std::thread::scope(|scope| {
        scope.spawn(|| {
            std::thread::sleep(std::time::Duration::from_millis(400));
            write("<style>p { color: green }</style><p>1");
        });
        watch::watch(folder.to_str().unwrap(), "index.html", 1, &mut out).unwrap();
    });
    std::fs::remove_dir_all(&folder).unwrap();
    let told = String::from_utf8(out).unwrap();
    assert!(told.contains("1 of 5 elements looks different"), "{told}");
    assert!(told.contains("p color: rgb(255, 0, 0) -> rgb(0, 128, 0)"), "{told}");
}
