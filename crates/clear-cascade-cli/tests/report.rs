//! The report: what is in it, and what a browser makes of it over the WebDriver protocol.

use std::collections::BTreeSet;
use std::path::{Path, PathBuf};
use std::process::Command;

use base64::Engine as _;
use clear_cascade::answer::Outcome;
use clear_cascade::cascade::Stage;
use clear_cascade::{FileLoader, MemoryLoader, Study};
use serde_json::{Value, json};

/// The sample site.
fn site() -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join("../../demo").canonicalize().unwrap()
}

/// The text of the report that a command writes in a folder.
fn report(folder: &Path, args: &[&str]) -> (tempfile::TempDir, PathBuf, String) {
    let to = tempfile::tempdir().unwrap();
    let file = to.path().join("report.html");
    let output = Command::new(env!("CARGO_BIN_EXE_clear-cascade"))
        .arg("report")
        .args(args)
        .arg("-o")
        .arg(&file)
        .current_dir(folder)
        .output()
        .unwrap();
    assert!(output.status.success(), "{}", String::from_utf8_lossy(&output.stderr));
    let text = std::fs::read_to_string(&file).unwrap();
    (to, file, text)
}

/// The data in a report, which is as its schema has it.
fn data(text: &str) -> Value {
    let start = text.find("type=\"application/gzip\">").unwrap() + "type=\"application/gzip\">".len();
    let end = start + text[start..].find("</script>").unwrap();
    let packed = base64::engine::general_purpose::STANDARD.decode(&text[start..end]).unwrap();
    let data = serde_json::from_reader(flate2::read::GzDecoder::new(&*packed)).unwrap();
    let schema = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../docs/schemas/report.schema.json");
    let (mut compiler, mut schemas) = (boon::Compiler::new(), boon::Schemas::new());
    let schema = serde_json::from_str(&std::fs::read_to_string(schema).unwrap()).unwrap();
    compiler.add_resource("report.json", schema).unwrap();
    let compiled = compiler.compile("report.json", &mut schemas).unwrap();
    if let Err(error) = schemas.validate(&data, compiled) {
        panic!("{error:#}");
    }
    data
}

#[test]
fn every_answer_in_it_is_that_of_why() {
    let pages = ["index.html", "programme.html", "visit.html"];
    let (_folder, _, text) = report(&site(), &pages);
    let data = data(&text);
    let read = |n: &Value| n.as_u64().map_or("", |n| data["texts"][n as usize].as_str().unwrap()).to_owned();
    let list = |l: &Value| l.as_array().into_iter().flatten().map(read).collect::<Vec<String>>();
    let mut asked = 0;
    for (number, name) in pages.iter().enumerate() {
        let study = Study::open(&FileLoader::new(site()), name).unwrap();
        let short = |text: String| text.replace(&format!("{}/", site().display()), "");
        let elements = data["pages"][number]["elements"].as_array().unwrap();
        assert_eq!(elements.len(), study.document().all_ids().len());
        for (id, element) in study.document().all_ids().zip(elements) {
            let told: BTreeSet<String> = element[4].as_array().unwrap().iter().map(|row| read(&row[0])).collect();
            for reading in study.read(id).unwrap().iter().filter(|r| r.origin.is_some_and(|o| o.name() == "author")) {
                let flow = ["inline-", "block-", "block-size"].iter().any(|w| reading.property.contains(w))
                    || reading.property == "inline-size";
                assert!(flow || told.contains(&reading.property), "{name} {id}: {} is missing", reading.property);
            }
            for row in element[4].as_array().unwrap() {
                asked += 1;
                let why = study.why(id, &read(&row[0])).unwrap();
                let answer = &data["answers"][row[2].as_u64().unwrap() as usize];
                assert_eq!((read(&row[1]), read(&answer[0])), (why.value.clone(), short(why.sentence.clone())));
                let giver = why.decided_by.as_ref().map(|d| d.element).filter(|e| *e != id);
                assert_eq!(row[3].as_u64(), giver.map(|e| u64::from(e.number())));
                let contest = answer[3].as_array().unwrap();
                assert_eq!(contest.len(), why.contenders.len());
                for (line, contender) in contest.iter().zip(&why.contenders) {
                    let declaration = &data["declarations"][line[0].as_u64().unwrap() as usize];
                    let selector = contender.selector.clone().unwrap_or_default();
                    assert_eq!(
                        [&declaration[0], &declaration[1], &declaration[3], &declaration[5]].map(read),
                        [
                            contender.property.clone(),
                            contender.value.clone(),
                            short(contender.at.to_string()),
                            selector
                        ]
                    );
                    let weight = contender.specificity.map(|s| json!(s.columns())).unwrap_or_default();
                    assert_eq!((&declaration[6], &declaration[2]), (&weight, &json!(contender.important)));
                    let stage = contender.stage.filter(|_| contender.outcome == Outcome::Out);
                    let stage = stage.and_then(|s| Stage::ALL.iter().position(|one| *one == s));
                    assert_eq!(line[1].as_u64(), stage.map(|s| s as u64));
                    assert_eq!(
                        [read(&line[2]), read(&line[3])],
                        [short(contender.reason.clone()), contender.computes_to.clone()]
                    );
                }
                assert_eq!(read(&answer[4]), why.otherwise);
                assert_eq!(list(&answer[6]), why.derivation.into_iter().map(short).collect::<Vec<_>>());
            }
        }
    }
    assert!(asked > 1200, "only {asked} answers");
    // What becomes of declarations is what `reach` says of them.
    let study = Study::open(&FileLoader::new(site()), "index.html").unwrap();
    let mut counted = 0;
    for sheet in data["sheets"].as_array().unwrap() {
        for one in sheet["declarations"].as_array().unwrap() {
            let Ok(reach) = study.reach(&read(&one[1])) else { continue };
            let tally = &reach.declarations[0];
            counted += 1;
            assert_eq!(
                one[3].get(0).cloned().unwrap_or_else(|| json!([0, 0, 0, 0])),
                json!([tally.wins, tally.loses, tally.partly, tally.off]),
                "{}",
                read(&one[1])
            );
        }
    }
    assert!(counted > 60, "only {counted} declarations");
}

#[test]
fn changes_that_are_tried_are_shown_before_and_after() {
    let (_folder, _, text) = report(&site(), &["index.html", "--set", ".menu a { color: gold }"]);
    let data = data(&text);
    let trial = &data["pages"][0]["trial"];
    assert_eq!(trial["sentence"], "`color` changes on 3 elements.");
    assert_eq!(
        trial["changes"].as_array().unwrap().len(),
        3 + trial["changes"]
            .as_array()
            .unwrap()
            .iter()
            .filter(|c| data["texts"][c[2].as_u64().unwrap() as usize] != "color")
            .count()
    );
    assert!(trial["frame"].as_str().unwrap().len() > 1000);
    // A report is written over, and nothing else.
    let folder = tempfile::tempdir().unwrap();
    let page = site().join("index.html");
    let write = || {
        Command::new(env!("CARGO_BIN_EXE_clear-cascade"))
            .arg("report")
            .arg(&page)
            .current_dir(folder.path())
            .output()
            .unwrap()
    };
    assert!(write().status.success() && write().status.success());
    std::fs::write(folder.path().join("report.html"), "<p>The report of the year").unwrap();
    assert!(String::from_utf8_lossy(&write().stderr).contains("is there and is no report"));
    assert_eq!(std::fs::read_to_string(folder.path().join("report.html")).unwrap(), "<p>The report of the year");
    let refused = Command::new(env!("CARGO_BIN_EXE_clear-cascade"))
        .args(["report", "nope.html"])
        .current_dir(site())
        .output()
        .unwrap();
    assert_eq!(refused.status.code(), Some(2));
}

#[test]
fn imports_are_put_in_and_come_to_an_end() {
    let folder = tempfile::tempdir().unwrap();
    let write = |name: &str, text: &str| std::fs::write(folder.path().join(name), text).unwrap();
    write("a.html", "<!DOCTYPE html><link rel=stylesheet href=i><link rel=stylesheet href=self.css><p>1");
    write("i", "@import \"port\"; @import url(port) print;\np { top: 1px }");
    write("port", "p { left: 2px }");
    write("self.css", &"@import 'self.css';".repeat(12));
    let (_to, _, text) = report(folder.path(), &["a.html"]);
    let all = data(&text).to_string();
    assert!(all.len() < 2_000_000, "{}", all.len());
    let import = "@import \\\"data:text/css;base64,cCB7IGxlZnQ6IDJweCB9\\\"; @import url(\\\"data:text/css;base64,cCB7IGxlZnQ6IDJweCB9\\\") not all;";
    assert!(all.contains(import));
}

#[test]
fn what_is_shown_first_is_something_that_one_sees() {
    let folder = tempfile::tempdir().unwrap();
    std::fs::write(folder.path().join("a.html"), "<!DOCTYPE html><style>i { top: 0 }</style><p>1<b>2</b>").unwrap();
    let (_to, _, text) = report(folder.path(), &["a.html"]);
    let data = data(&text);
    let first = &data["pages"][0]["elements"][data["first"][1].as_u64().unwrap() as usize];
    assert_eq!(data["texts"][first[0].as_u64().unwrap() as usize], "p");
}

#[test]
fn of_a_large_page_what_is_left_out_is_told() {
    let folder = tempfile::tempdir().unwrap();
    let page =
        format!("<!DOCTYPE html><style>b {{ color: red }} html {{ color: navy }}</style>{}", "<b>1</b>".repeat(5010));
    std::fs::write(folder.path().join("a.html"), page).unwrap();
    let (_to, _, text) = report(folder.path(), &["a.html"]);
    let data = data(&text);
    let page = &data["pages"][0];
    let rows = |n: usize| page["elements"][n][4].as_array().unwrap().len();
    assert!(
        rows(1000) > rows(4999) && rows(4999) == 1 && rows(5000) == 0,
        "{} {} {}",
        rows(1000),
        rows(4999),
        rows(5000)
    );
    assert_eq!(page["answered"], 5000);
    assert!(page["cut"].as_str().unwrap().contains("up to the 5000th"), "{}", page["cut"]);
}

#[test]
fn images_of_styles_are_put_in_as_far_as_they_are_there() {
    let folder = tempfile::tempdir().unwrap();
    std::fs::create_dir(folder.path().join("css")).unwrap();
    let write = |name: &str, text: &str| std::fs::write(folder.path().join(name), text).unwrap();
    let page = "<!DOCTYPE html><link rel=stylesheet href=css/a.css><style>@import 'b.css'; i { background: url(dot.svg) }</style>
        <p style=\"background: url('dot.svg'); content: 'a&amp;b'\">1";
    write("a.html", page);
    write("b.css", "b { color: red }");
    write("dot.svg", "<svg/>");
    write("css/a.css", "@namespace url(x); p { background: url(../dot.svg), url('none.png') } q { mask: url(#m) }");
    let (_to, _, text) = report(folder.path(), &["a.html"]);
    let data = data(&text);
    let texts: Vec<&str> = data["texts"].as_array().unwrap().iter().filter_map(Value::as_str).collect();
    let sheet = "@namespace url(x); p { background: url(\"data:image/svg+xml;base64,PHN2Zy8+\"), url(\"data:,\") } q { mask: url(#m) }";
    assert!(texts.contains(&sheet), "{texts:?}");
    let frame = data["pages"][0]["frame"].as_str().unwrap();
    for part in [
        "<style data-element-number=3>@import \"data:text/css;base64,YiB7IGNvbG9yOiByZWQgfQ==\"; i { background: url(\"data:image/svg+xml;base64,PHN2Zy8+\") }</style>",
        "style=\"background: url(&quot;data:image/svg+xml;base64,PHN2Zy8+&quot;); content: &#39;a&amp;b&#39;\"",
    ] {
        assert!(frame.contains(part), "{frame}");
    }
}

/// Things that a page may try.
const TRICKS: &str = r#"<!DOCTYPE html><html><head><title></title><script>document.title='ran'</script> & "q"</title><base href="https://evil.test/" target=_top>
<meta http-equiv="refresh" content="0;url=https://evil.test/"><link rel=stylesheet href="javascript:alert(1)"><link rel=stylesheet href="https://evil.test/a.css"><link rel=preload href=https://evil.test/x as=script><link rel=icon href=https://evil.test/i>
<script>document.title='ran';parent.document.title='ran'</script><script src=https://evil.test/x.js></script><script type=module>parent.document.title='ran'</script>
<style>/* </script><script>parent.document.title='ran'</script> */ @import url(https://evil.test/b.css); p::before{content:"</script><img src=x onerror=alert(3)>"} .a\3c script\3e { color:red } p{background:url(https://evil.test/bg.png);--x:"<!--<script>"} @font-face{font-family:z;src:url(https://evil.test/f.woff)} p{font-family:z}</style></head>
<body onload="document.title='ran'" onclick="parent.document.title='ran'"><p class="<script>alert(5)</script>" id="`${alert(6)}`" style="color:red;background:url('javascript:alert(7)')" title='"><script>alert(8)</script>'>&lt;script&gt;alert(9)&lt;/script&gt; &#x202e;evil &#0; <img src=x onerror="parent.document.title='ran'"> <img src=https://evil.test/i.png srcset="https://evil.test/2.png 2x"><svg onload="parent.document.title='ran'"><script>parent.document.title='ran'</script><a xlink:href="javascript:alert(12)"><text>x</text></a><use href="https://evil.test/s.svg#a"/></svg>
<a href="javascript:parent.document.title='ran'" ping=https://evil.test/p>js</a><iframe src="javascript:parent.document.title='ran'"></iframe><iframe srcdoc="<script>parent.parent.document.title='ran'</script>"></iframe><object data="javascript:alert(14)"></object><embed src=https://evil.test/e><form action="https://evil.test/f"><button formaction="javascript:alert(16)">b</button><input autofocus onfocus="parent.document.title='ran'"><input type=image src=https://evil.test/in></form><video src=https://evil.test/v poster=https://evil.test/p autoplay onerror="parent.document.title='ran'"></video><audio src=https://evil.test/a autoplay></audio><details open ontoggle="parent.document.title='ran'"></details><marquee onstart="parent.document.title='ran'">m</marquee><math><mtext><script>parent.document.title='ran'</script></mtext></math><noscript><p title="</noscript><img src=x onerror=parent.document.title='ran'>"></noscript><template><script>parent.document.title='ran'</script></template><div><template shadowrootmode=open><script>parent.document.title='ran'</script><style>b{color:red}</style><b onclick=alert(25)>s</b></template></div><x-y __proto__=1 constructor=2 class="__proto__ constructor toString">proto</x-y><table background=https://evil.test/t><tr><td>c</table><textarea></textarea><script>parent.document.title='ran'</script></textarea><plaintext></body></html><script>alert(28)</script>"#;

#[test]
fn what_a_page_says_is_text() {
    let folder = tempfile::tempdir().unwrap();
    let name = "a'\"<img src=x onerror=alert(1)>&.html";
    std::fs::write(folder.path().join(name), TRICKS).unwrap();
    let (_to, _, text) = report(folder.path(), &[name]);
    // Read by the HTML parser, it has its own two scripts and nothing of the page's.
    let study = Study::open(&MemoryLoader::default().with("r.html", &text), "r.html").unwrap();
    let named = |name: &str| study.document().elements().filter(|e| e.is_html(name)).count();
    assert_eq!((named("script"), named("img"), named("iframe"), named("style")), (2, 0, 0, 1));
    assert!(study.document().elements().all(|e| e.attributes.iter().all(|a| !a.name.starts_with("on"))));
    let policy = study.document().elements().find(|e| e.attribute("http-equiv").is_some()).unwrap();
    let policy = policy.attribute("content").unwrap();
    assert!(policy.starts_with("default-src 'none'; script-src 'sha256-") && !policy.contains("http"), "{policy}");
    let data = data(&text);
    let labels: Vec<&str> = data["texts"].as_array().unwrap().iter().filter_map(Value::as_str).collect();
    assert!(labels.contains(&"p#`${alert(6)}`.<script>alert(5)</script>"));
}

/// A browser over the WebDriver protocol (W3C WebDriver).
struct Browser {
    /// The driver.
    driver: std::process::Child,
    /// The address of the session.
    session: String,
}

impl Browser {
    /// Starts one; its window is as large as asked.
    fn start(width: u32, height: u32) -> Self {
        Self::with(&[&format!("--window-size={width},{height}")])
    }

    /// Starts one with these arguments.
    fn with(args: &[&str]) -> Self {
        let port = std::net::TcpListener::bind("127.0.0.1:0").unwrap().local_addr().unwrap().port();
        let driver =
            Command::new("chromedriver").arg(format!("--port={port}")).stdout(std::process::Stdio::null()).spawn();
        let driver = driver.expect("chromedriver is there");
        let base = format!("http://127.0.0.1:{port}/session");
        let args = [&["--headless=new", "--no-sandbox", "--disable-gpu"], args].concat();
        let options = json!({ "args": args });
        let wanted = json!({ "capabilities": { "alwaysMatch": { "goog:chromeOptions": options, "goog:loggingPrefs": { "browser": "ALL" } } } });
        let session = (0..100).find_map(|_| {
            std::thread::sleep(std::time::Duration::from_millis(100));
            ureq::post(&base).send(wanted.to_string()).ok()
        });
        let answer: Value = serde_json::from_str(&session.unwrap().body_mut().read_to_string().unwrap()).unwrap();
        Self { driver, session: format!("{base}/{}", answer["value"]["sessionId"].as_str().unwrap()) }
    }

    /// Asks for something.
    fn ask(&self, path: &str, body: &Value) -> Value {
        let mut answer = ureq::post(format!("{}/{path}", self.session))
            .send(body.to_string())
            .unwrap_or_else(|e| panic!("{path}: {e}"));
        serde_json::from_str::<Value>(&answer.body_mut().with_config().limit(64 << 20).read_to_string().unwrap())
            .unwrap()["value"]
            .take()
    }

    /// Goes to an address.
    fn go(&self, url: &str) {
        self.ask("url", &json!({ "url": url }));
    }

    /// What a script gives.
    fn run(&self, script: &str) -> Value {
        self.ask("execute/sync", &json!({ "script": script, "args": [] }))
    }

    /// What a script gives that calls its last argument.
    fn wait(&self, script: &str) -> Value {
        self.ask("execute/async", &json!({ "script": script, "args": [] }))
    }

    /// Presses keys.
    fn keys(&self, keys: &str) {
        let actions: Vec<Value> = keys
            .chars()
            .flat_map(|k| ["keyDown", "keyUp"].map(|t| json!({ "type": t, "value": k.to_string() })))
            .collect();
        self.ask("actions", &json!({ "actions": [{ "type": "key", "id": "keys", "actions": actions }] }));
    }

    /// The heading of what is shown, once the frame is there.
    fn heading(&self) -> String {
        let script = "const done = arguments[0], until = performance.now() + 8000;
            const there = (f) => f.contentDocument?.URL === 'about:srcdoc' && f.contentDocument.readyState === 'complete';
            const look = () => document.querySelector('h1') && [...document.querySelectorAll('iframe')].every(there) || performance.now() > until
                ? setTimeout(() => done(document.querySelector('h1').textContent), 150) : setTimeout(look, 50);
            setTimeout(look, 100)";
        self.wait(script).as_str().unwrap().to_owned()
    }

    /// What is wrong on the console.
    fn console(&self) -> Vec<String> {
        let log = self.ask("se/log", &json!({ "type": "browser" }));
        let bad = log.as_array().unwrap().iter().filter(|l| l["level"] == "SEVERE");
        bad.map(|l| l["message"].as_str().unwrap_or_default().to_owned()).collect()
    }
}

impl Drop for Browser {
    fn drop(&mut self) {
        let _ = ureq::delete(&self.session).call();
        let _ = self.driver.kill();
        let _ = self.driver.wait();
    }
}

#[test]
#[ignore = "needs chromium and chromedriver"]
fn one_finds_ones_way_in_a_browser() {
    let (_folder, file, _) =
        report(&site(), &["index.html", "programme.html", "visit.html", "--set", ".menu a { color: gold }"]);
    let browser = Browser::start(1280, 900);
    let at = |hash: &str| format!("file://{}{hash}", file.display());
    browser.go(&at(""));
    assert_eq!(browser.heading(), "color is rgb(230, 230, 250), set by h1 in css/theme.css:3:8.");
    // Pointing at an element in the frame chooses it.
    let point = "const inside = document.querySelector('iframe').contentDocument; inside.querySelector('.lead').dispatchEvent(new MouseEvent('click', { bubbles: true, cancelable: true, composed: true }))";
    browser.run(point);
    let lead = browser.heading();
    assert!(lead.starts_with("color is ") && lead.contains(".lead"), "{lead}");
    // The frame computes what the report says, where no layout is needed.
    for page in 0..3 {
        browser.run(&format!("location.hash = '#{page}/21/color'"));
        browser.heading();
        browser.wait("const done = arguments[0]; setTimeout(() => done(1), 300)");
        let differs = browser.run(
        "const page = data.pages[shown.page], inside = document.querySelector('iframe').contentDocument, found = numbered(inside, page), wrong = []; let asked = 0;
         // Browsers write `border-spacing` in one of two ways.
         const layout = /^(border-spacing|width|height|inline-size|block-size|top|left|right|bottom|margin|padding|inset|line-height|transform-origin|perspective-origin|grid-template|list-style-type|font-family|font-size)/;
         page.elements.forEach((e, n) => { const one = found.get(n); if (!one || !one.checkVisibility?.()) return; const style = getComputedStyle(one);
           for (const [p, v] of e.rows) { const name = text(p); if (layout.test(name)) continue; asked += 1; const theirs = style.getPropertyValue(name); if (theirs !== text(v)) wrong.push(`${text(e.label)} ${name}: ${theirs}, not ${text(v)}`); } });
         return asked < 100 ? [`only ${asked}`] : wrong",
    );
        assert_eq!(differs, json!([]), "page {page}");
    }
    // From a contender to its line, and back.
    browser.run("location.hash = '#0/21/color'");
    browser.heading();
    browser.run("document.querySelector('.who.won a').click()");
    assert_eq!(browser.heading(), "css/theme.css");
    assert_eq!(browser.run("return document.querySelector('li.here').id"), "L3");
    browser.run("document.querySelector('#L3 details').open = true; document.querySelector('#L3 details a').click()");
    assert!(browser.heading().starts_with("color is rgb(230, 230, 250)"));
    browser.run("history.go(-2)");
    assert!(browser.heading().starts_with("color is rgb(230, 230, 250)"));
    // An element far down is brought into sight in its frame, and the page around stays where it is.
    browser.go("about:blank");
    browser.go(&at("#1/43/color"));
    browser.heading();
    assert_eq!(
        browser.run("return [scrollY, document.querySelector('iframe').contentWindow.scrollY > 0]"),
        json!([0, true])
    );
    // What is off stands above the contest, and does not reach it.
    let off = "const number = data.pages[0].elements.findIndex((e) => e.rows.some((r) => data.answers[r[2]].off.length === 1));
        const row = data.pages[0].elements[number].rows.find((r) => data.answers[r[2]].off.length === 1);
        location.hash = address(0, number, '', text(row[0])); return text(data.answers[row[2]].off[0][2])";
    let why = browser.run(off);
    browser.heading();
    let told = browser.run("return [...document.querySelectorAll('.reason.asleep')].map((r) => r.textContent)");
    assert_eq!(told, json!([format!("off: {}", why.as_str().unwrap().replace('`', ""))]));
    browser.run("location.hash = '#0/21/color'");
    browser.heading();
    // Step by step, and guessed.
    browser.run("document.getElementById('step').click()");
    assert_eq!(browser.run("return document.querySelectorAll('.drop').length"), 3);
    assert_eq!(browser.run("return document.querySelectorAll('.pool').length"), 0);
    browser.run("document.getElementById('step-next').click()");
    assert_eq!(browser.run("return document.querySelectorAll('.pool').length"), 1);
    browser.run("document.getElementById('step-next').click(); [...document.querySelectorAll('button')].find((b) => b.textContent === 'Guess first').click(); document.querySelector('.guess button').click()");
    assert!(
        browser.run("return document.querySelector('.verdict').textContent").as_str().unwrap().contains("goes out at")
    );
    // Found by words, by selector, by place.
    for (wanted, expected) in [
        ("rings lean", "p.lead"),
        ("main > h1", "h1#headline"),
        ("theme.css:12", "css/theme.css:12"),
        ("lavender", "color: lavender !important"),
    ] {
        browser.run(&format!("find.value = {}; find.dispatchEvent(new Event('input'))", json!(wanted)));
        let hits = browser.run("return [...document.querySelectorAll('#found code')].map((c) => c.textContent)");
        assert!(hits.as_array().unwrap().iter().any(|h| h == expected), "{wanted}: {hits}");
    }
    // By keyboard alone: to the buttons below the page, and out to the parent.
    browser.run("location.hash = '#0/21/color'");
    browser.heading();
    browser.run("document.querySelector('.walk button').focus()");
    browser.keys("\u{E007}");
    assert!(
        browser.run("return location.hash").as_str().unwrap().starts_with("#0/20/"),
        "{}",
        browser.run("return location.hash")
    );
    let before = browser.heading();
    browser.run("document.querySelector('.skip').focus()");
    browser.keys("\u{E007}");
    assert_eq!((browser.heading(), browser.run("return document.activeElement.id")), (before, json!("main")));
    // Before and after.
    assert_eq!(browser.run("return document.querySelectorAll('iframe').length"), 2);
    let both = browser.wait("const done = arguments[0]; setTimeout(() => done([...document.querySelectorAll('iframe')].map((f) => getComputedStyle(f.contentDocument.querySelector('.menu a')).color)), 300)");
    assert_eq!(both, json!(["rgb(135, 206, 250)", "rgb(255, 215, 0)"]));
    for hash in [
        "#1/30/color",
        "#2/12/color",
        "#sheets",
        "#sheets/1",
        "#site",
        "#0/99999/color",
        "#nonsense",
        "#sheets/99/x",
        "#0/%zz/%",
    ] {
        browser.run(&format!("location.hash = {}", json!(hash)));
        browser.heading();
    }
    assert_eq!(browser.console(), Vec::<String>::new());
    let asked = browser.run(
        "return performance.getEntriesByType('resource').map((e) => e.name).filter((n) => !n.startsWith('data:'))",
    );
    assert_eq!(asked, json!([]));
}

/// What asks for the medium and for preferences, in each way that a page can.
const PREFERRING: &str = "<!DOCTYPE html><link rel=stylesheet href=a.css><link rel=stylesheet href=b.css media='print and (width > 1px)'>
    <style>:root { color-scheme: light dark } @import 'no.css' print; p { color: light-dark(red, lime); @media (prefers-color-scheme: dark) { text-indent: 1px } }
    @media not print { p { letter-spacing: 2px } }</style><style media=\"(prefers-reduced-motion), (prefers-color-scheme: light)\">p { word-spacing: 3px }</style>
    <svg><style media=print>p { outline-offset: 4px }</style></svg><p style='orphans: if(media(prefers-color-scheme: dark): 5; else: 6); widows: if(media(print): 5; else: 6)'>x";

#[test]
#[ignore = "needs chromium and chromedriver"]
fn the_page_is_drawn_as_it_is_answered_for_whatever_the_reader_prefers() {
    let folder = tempfile::tempdir().unwrap();
    std::fs::write(folder.path().join("a.html"), PREFERRING).unwrap();
    std::fs::write(folder.path().join("a.css"), "@import url(b.css) (prefers-color-scheme: dark);").unwrap();
    std::fs::write(folder.path().join("b.css"), "p { margin-top: 7px }").unwrap();
    for scheme in ["0", "1"] {
        let browser = Browser::with(&[&format!("--blink-settings=preferredColorScheme={scheme}")]);
        let mut seen = std::collections::BTreeSet::new();
        for how in [&[][..], &["--media", "print"], &["--prefer", "color-scheme=dark"]] {
            let (_to, file, text) = report(folder.path(), &[&["a.html"], how].concat());
            browser.go(&format!("file://{}", file.display()));
            browser.heading();
            assert_eq!(browser.run("return matchMedia('(prefers-color-scheme: dark)').matches"), scheme == "0");
            let data = data(&text);
            let words = |n: &Value| data["texts"][n.as_u64().unwrap() as usize].as_str().unwrap().to_owned();
            let elements = data["pages"][0]["elements"].as_array().unwrap();
            let p = elements.iter().find(|e| words(&e[0]).starts_with('p')).unwrap();
            let rows = p[4].as_array().unwrap();
            for name in [
                "color",
                "text-indent",
                "letter-spacing",
                "word-spacing",
                "outline-offset",
                "orphans",
                "widows",
                "margin-top",
            ] {
                let drawn = browser.run(&format!(
                    "return getComputedStyle(document.querySelector('iframe').contentDocument.querySelector('p')).getPropertyValue('{name}')"
                ));
                let row = rows.iter().find(|row| words(&row[0]) == name);
                assert_eq!(
                    drawn,
                    row.map_or(drawn.as_str().unwrap().to_owned(), |row| words(&row[1])),
                    "{scheme} {how:?} {name}"
                );
                seen.insert(format!("{name} {drawn}"));
            }
        }
        assert_eq!(seen.len(), 15, "{seen:?}");
    }
}

#[test]
#[ignore = "needs chromium and chromedriver"]
fn nothing_of_a_hostile_page_runs() {
    // What the page would load, it would load from here.
    let host = std::net::TcpListener::bind("127.0.0.1:0").unwrap();
    host.set_nonblocking(true).unwrap();
    let tricks = TRICKS.replace("https://evil.test", &format!("http://{}", host.local_addr().unwrap()));
    let folder = tempfile::tempdir().unwrap();
    std::fs::write(folder.path().join("a.html"), tricks).unwrap();
    let (_to, file, _) = report(folder.path(), &["a.html", "--set", "p { color: gold }"]);
    let browser = Browser::start(1280, 900);
    browser.go(&format!("file://{}", file.display()));
    browser.heading();
    browser.run(
        "for (const frame of document.querySelectorAll('iframe')) for (const one of frame.contentDocument.querySelectorAll('*')) {
            one.dispatchEvent(new MouseEvent('click', { bubbles: true, cancelable: true })); one.focus?.(); }",
    );
    for number in 0..40 {
        browser.run(&format!("location.hash = '#0/{number}/color'"));
    }
    browser.heading();
    assert_eq!(browser.run("return document.title"), "Why a.html looks as it does");
    assert_eq!(browser.run("return document.querySelectorAll('main img, main iframe iframe, main script').length"), 0);
    assert!(host.accept().is_err(), "something was loaded");
    // That something asks there would be seen.
    browser.go("about:blank");
    browser.run(&format!("fetch('http://{}/', {{ mode: 'no-cors' }}).catch(() => 0)", host.local_addr().unwrap()));
    let asked = (0..50).any(|_| {
        std::thread::sleep(std::time::Duration::from_millis(100));
        host.accept().is_ok()
    });
    assert!(asked, "the test would not notice");
}

#[test]
#[ignore = "needs chromium, chromedriver, and the accessibility engine in the file that CLEAR_CASCADE_AXE names"]
fn an_accessibility_engine_finds_nothing() {
    let engine = std::env::var_os("CLEAR_CASCADE_AXE").expect("CLEAR_CASCADE_AXE names the file");
    let engine = std::fs::read_to_string(engine).unwrap();
    let (_folder, file, _) = report(&site(), &["index.html", "programme.html", "--set", ".menu a { color: gold }"]);
    for (width, dark) in [(1280, false), (1280, true), (400, false)] {
        let browser = Browser::start(width, 900);
        for hash in ["", "#0/21/color", "#1/30/font-size", "#0/12/color", "#sheets", "#sheets/2", "#site"] {
            browser.go(&format!("file://{}{hash}", file.display()));
            browser.run(&format!(
                "document.documentElement.style.colorScheme = '{}'; render()",
                if dark { "dark" } else { "light" }
            ));
            browser.heading();
            let check = format!(
                "const done = arguments[0]; {engine}; axe.run({{ iframes: false, exclude: ['iframe'] }}).then((r) => done(r.violations.map((v) => v.id + ': ' + v.nodes.map((n) => n.html + ' ' + n.failureSummary).slice(0, 3).join(' | '))), (e) => done([String(e)]))"
            );
            assert_eq!(browser.wait(&check), json!([]), "{width} {dark} {hash}");
        }
    }
}
