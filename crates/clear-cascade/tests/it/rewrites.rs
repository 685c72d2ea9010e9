//! Pages that are written otherwise and mean the same: what they compute to must not differ.
//!
//! Each rewriting is a property that the standards promise of any sheet, so that it needs no recorded values, and works on the
//! text alone: nothing here is the library's own reading of CSS.

use clear_cascade::{MemoryLoader, Study};

use crate::agree::one_line;
use crate::oracle::random_page;

/// A page and its stylesheets, the page first.
type Files = Vec<(String, Vec<u8>)>;

/// Parts of a sheet: each a string, a comment, an unquoted URL, a run of blanks, a name or number with its escapes, or one other
/// character (CSS Syntax 3, §4).
fn parts(css: &str) -> Vec<&str> {
    let mut parts = Vec::new();
    let mut rest = css;
    while let Some(first) = rest.chars().next() {
        let up_to = |end: &str, from: usize| rest[from..].find(end).map_or(rest.len(), |n| from + n + end.len());
        let while_is = |is: fn(char) -> bool| {
            let mut escaped = false;
            let end = rest.char_indices().find(|(_, c)| {
                let inside = escaped || *c == '\\' || is(*c);
                escaped = !escaped && *c == '\\';
                !inside
            });
            end.map_or(rest.len(), |(at, _)| at)
        };
        let name = |c: char| c.is_ascii_alphanumeric() || matches!(c, '-' | '_') || !c.is_ascii();
        let length = match first {
            '"' | '\'' => up_to(&first.to_string(), 1),
            '/' if rest.starts_with("/*") => up_to("*/", 2),
            'u' if rest.starts_with("url(") && !rest[4..].trim_start().starts_with(['"', '\'']) => up_to(")", 4),
            c if c.is_whitespace() => while_is(char::is_whitespace),
            c if name(c) || c == '\\' => while_is(name),
            c => c.len_utf8(),
        };
        parts.push(&rest[..length]);
        rest = &rest[length..];
    }
    parts
}

/// A sheet with each part written anew: told the parts before it, and whether it stands in a block of declarations as far as one
/// can tell: behind the last `{` or `;`, up to `}`.
fn rewritten(css: &str, anew: impl Fn(&[&str], &str, &[&str]) -> String) -> String {
    let parts = parts(css);
    (0..parts.len()).map(|i| anew(&parts[..i], parts[i], &parts[i + 1..])).collect()
}

/// The last part that is neither blanks nor a comment.
fn last<'p>(before: &[&'p str]) -> &'p str {
    before.iter().rev().find(|p| !p.trim().is_empty() && !p.starts_with("/*")).copied().unwrap_or("")
}

/// Whether a part is where a selector or a condition stands: what comes first of `{`, `;` and `}` behind it is `{`.
fn in_prelude(after: &[&str]) -> bool {
    after.iter().find(|p| matches!(**p, "{" | ";" | "}")) == Some(&"{")
}

/// Whether a part is the name of a declaration.
fn is_property(before: &[&str], part: &str, after: &[&str]) -> bool {
    matches!(last(before), "{" | ";" | "}")
        && after.first() == Some(&":")
        && !part.starts_with("--")
        && !in_prelude(after)
}

/// Comments wherever there may be some without parting what belongs together.
fn with_comments(css: &str) -> String {
    rewritten(css, |_, part, _| match part {
        "{" | "}" | ";" | "," => format!("{part}/*;}}{{*/"),
        _ => part.to_owned(),
    })
}

/// Names of properties, at-rules and `!important` in capitals.
fn in_capitals(css: &str) -> String {
    rewritten(css, |before, part, after| {
        let keyword = matches!(before.last(), Some(&"@" | &"!"));
        if keyword || is_property(before, part, after) { part.to_ascii_uppercase() } else { part.to_owned() }
    })
}

/// The first letter of each class in a selector, and of each name of a property, as an escape (CSS Syntax 3, §4.3.7).
fn with_escapes(css: &str) -> String {
    rewritten(css, |before, part, after| {
        let class = before.last() == Some(&".") && in_prelude(after);
        let letter = part
            .chars()
            .next()
            .filter(|c| class && !c.is_ascii_digit() || is_property(before, part, after) && *c != '-');
        match letter.filter(|c| *c != '\\') {
            Some(letter) => format!("\\{:x} {}", u32::from(letter), &part[letter.len_utf8()..]),
            None => part.to_owned(),
        }
    })
}

/// Blanks of all kinds for blanks, and around what may have some.
fn with_blanks(css: &str) -> String {
    rewritten(css, |_, part, _| match part {
        "{" | "}" | ";" => format!("\t{part}\r\n\u{c}"),
        _ if part.trim().is_empty() => "\n \t".to_owned(),
        _ => part.to_owned(),
    })
}

/// Empty rules and unknown at-rules between rules.
fn with_nothing(css: &str) -> String {
    rewritten(css, |before, part, _| {
        let count = |what: &str| before.iter().filter(|p| **p == what).count();
        let between =
            if part == "}" && count("{") == count("}") + 1 { ".nowhere{}@nothing;@nothing{p{color:lime}}" } else { "" };
        format!("{part}{between}")
    })
}

/// A sheet written anew.
type Anew = fn(&str) -> String;

/// The rewritings of a sheet by name.
const OF_SHEETS: [(&str, Anew); 8] = [
    ("comments", with_comments),
    ("capitals", in_capitals),
    ("escapes", with_escapes),
    ("blanks", with_blanks),
    ("nothing between", with_nothing),
    ("twice", |css| format!("{css}\n{css}")),
    // Elements that are alike share values where nothing may go by their places.
    ("a rule that counts siblings", |css| format!("{css}\n.nowhere {{ width: calc(1px * sibling-index()) }}")),
    ("in groups that count", |css| format!("@media all{{@supports (color:red){{@media not print{{{css}}}}}}}")),
];

/// The sheets of a page written anew, those in `<style>` included.
fn sheets_anew(files: &Files, anew: &dyn Fn(&str) -> String) -> Files {
    let of_page = |html: &str| {
        let mut out = String::new();
        let mut rest = html;
        while let Some((before, after)) = rest.split_once("<style") {
            let (tag, after) = after.split_once('>').unwrap();
            let (css, after) = after.split_once("</style>").unwrap();
            out += &format!("{before}<style{tag}>{}</style>", anew(css));
            rest = after;
        }
        out + rest
    };
    let one = |(name, bytes): &(String, Vec<u8>)| {
        let text = std::str::from_utf8(bytes).unwrap();
        let anew = if name.ends_with(".css") { anew(text) } else { of_page(text) };
        (name.clone(), anew.into_bytes())
    };
    files.iter().map(one).collect()
}

/// Pages that mean the same as this one, each with what was done to it.
fn alike(files: &Files) -> Vec<(&'static str, Files)> {
    let mut pages: Vec<(&str, Files)> =
        OF_SHEETS.iter().map(|(name, anew)| (*name, sheets_anew(files, anew))).collect();
    let encoded = |to: fn(&str) -> Vec<u8>| {
        let one = |(name, bytes): &(String, Vec<u8>)| (name.clone(), to(std::str::from_utf8(bytes).unwrap()));
        files.iter().map(one).collect::<Files>()
    };
    pages.push(("a byte order mark", encoded(|text| format!("\u{feff}{text}").into_bytes())));
    pages.push((
        "UTF-16",
        encoded(|text| format!("\u{feff}{text}").encode_utf16().flat_map(u16::to_le_bytes).collect()),
    ));
    pages.push(("CR LF", encoded(|text| text.replace('\n', "\r\n").into_bytes())));
    // The first half of each linked sheet is imported by the second.
    let mut halves = files.clone();
    for (name, bytes) in halves.clone().iter().filter(|(name, _)| name.ends_with(".css")) {
        let css = std::str::from_utf8(bytes).unwrap();
        let (mut depth, mut at, mut ends) = (0_i32, 0, vec![0]);
        for part in parts(css) {
            at += part.len();
            depth += i32::from(part == "{") - i32::from(part == "}");
            ends.extend((part == "}" && depth == 0).then_some(at));
        }
        let (first, second) = css.split_at(ends[ends.len() / 2]);
        let place = halves.iter().position(|(n, _)| n == name).unwrap();
        halves[place].1 = format!("@import 'first-{name}';{second}").into_bytes();
        halves.push((format!("first-{name}"), first.as_bytes().to_vec()));
    }
    pages.push(("sheets in two", halves));
    pages
}

/// The page of some files.
fn open(files: &Files) -> Study {
    let mut loader = MemoryLoader::default();
    for (name, bytes) in files {
        loader = loader.with_bytes(name, bytes.clone(), if name.ends_with(".css") { "text/css" } else { "text/html" });
    }
    Study::open(&loader, &files[0].0).expect("the page opens")
}

/// The values of all elements, as far as they are not text of sheets.
fn values(study: &Study) -> Vec<Vec<(String, String)>> {
    study.document().all_elements().map(|e| study.values(e.id()).expect("the page's own")).collect()
}

#[test]
fn what_means_the_same_computes_to_the_same() {
    let mut compared = 0;
    for seed in 0..30 {
        let lines: Files =
            one_line(seed).into_iter().map(|(name, text)| (name.to_owned(), text.into_bytes())).collect();
        let nested: Files = vec![("index.html".to_owned(), random_page(seed).0.into_bytes())];
        for files in [lines, nested] {
            let before = values(&open(&files));
            for (what, other) in alike(&files) {
                let after = values(&open(&other));
                assert_eq!(before.len(), after.len(), "{what}");
                for (element, (before, after)) in before.iter().zip(&after).enumerate() {
                    let differs = before.iter().zip(after).find(|(a, b)| a != b);
                    let text = || {
                        other
                            .iter()
                            .map(|(n, b)| format!("--- {n}\n{}\n", String::from_utf8_lossy(b)))
                            .collect::<String>()
                    };
                    assert_eq!(differs, None, "{what}: element {element} of page {seed}\n{}", text());
                }
                compared += before.len();
            }
        }
    }
    assert!(compared > 5000, "{compared}");
}

#[test]
fn a_class_by_another_name_changes_names_only() {
    for seed in 0..20 {
        let html = random_page(seed).0;
        let open = |html: &str| open(&vec![("index.html".to_owned(), html.as_bytes().to_vec())]);
        // Names that begin alike, hold what must be escaped, and are folded otherwise in other scripts.
        let renamed = ["a", "b", "c"].iter().fold(html.clone(), |html, class| {
            let in_selectors = html.replace(&format!(".{class}"), &format!(".x\\:É-{class}"));
            let mut out = String::new();
            for (i, part) in in_selectors.split('"').enumerate() {
                let attribute = i % 2 == 1 && out.ends_with("class=\"");
                let classes = part.split(' ').map(|c| if c == *class { format!("x:É-{c}") } else { c.to_owned() });
                out += &if attribute { classes.collect::<Vec<_>>().join(" ") } else { part.to_owned() };
                out.push('"');
            }
            out.pop();
            out
        });
        assert!(renamed != html);
        assert_eq!(values(&open(&html)), values(&open(&renamed)), "{renamed}");
    }
}
