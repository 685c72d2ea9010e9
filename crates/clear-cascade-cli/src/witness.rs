//! A browser as witness: whether the same page has the same values there.
//!
//! The page and its sheets, as they are or as a trial has them, are served on this machine with their scripts off, and shown
//! in a frame of the size of the viewport. What the browser says is asked by CSSOM and CSS Typed OM alone.

use std::collections::HashMap;
use std::fmt::Write as _;

use clear_cascade::viewing::PREFERENCES;
use clear_cascade::{Edit, Loader as _, Study};
use serde_json::{Value, json};
use tiny_http::{Header, Response, Server};
use url::Url;

use crate::args::{Medium, Seen};
use crate::driver::{Driver, query};
use crate::failure::Refusal;
use crate::paint::{ANSWER, QUIET, cut, paint, wrap};
use crate::web::Web;

/// The path of the page around the frame, which no site has.
const FRAME: &str = "/.clear-cascade-frame";
/// How many values that differ are listed.
const MOST: usize = 20;
/// What is known to differ, and why.
const DEPARTURES: &str = include_str!("../docs/departures.md");

/// A value that is to be compared.
pub(crate) struct Claim {
    /// The place of the element in document order.
    pub(crate) element: u32,
    /// The pseudo-element.
    pub(crate) pseudo: Option<String>,
    /// The property.
    pub(crate) property: String,
    /// The value that we give.
    pub(crate) value: String,
}

/// What a browser says to some values.
pub(crate) struct Testimony {
    /// The browser.
    browser: String,
    /// How many values were compared.
    compared: usize,
    /// How many were not: the browser does not know the property, or gives no computed value.
    unknown: usize,
    /// Those that differ, with what the browser has.
    differing: Vec<(Claim, String)>,
    /// What is taken to hold here and does not there, as preferences that would.
    unmet: Vec<String>,
}

/// A property, our value, and that of the browser.
type Difference<'t> = (&'t str, &'t str, &'t str);

/// Properties whose resolved value may be the used one (CSSOM 1, §9 "Resolved Values", and what refers to it): their
/// computed value comes from CSS Typed OM.
const USED: &str = "width height min-width min-height max-width max-height inline-size block-size min-inline-size \
    min-block-size max-inline-size max-block-size top right bottom left inset-block-start inset-block-end \
    inset-inline-start inset-inline-end margin-top margin-right margin-bottom margin-left margin-block-start \
    margin-block-end margin-inline-start margin-inline-end padding-top padding-right padding-bottom padding-left \
    padding-block-start padding-block-end padding-inline-start padding-inline-end line-height transform \
    transform-origin perspective-origin grid-template-columns grid-template-rows translate text-indent column-gap row-gap";

/// Asks for the values; answers with the names of all elements, whether preferences hold, and the values.
const SCRIPT: &str = r"
    const { asked, preferences, used } = arguments[0];
    const frame = document.querySelector('iframe').contentWindow;
    frame.document.getAnimations().forEach((animation) => animation.cancel());
    const elements = [...frame.document.querySelectorAll('*')];
    const values = asked.map(([element, pseudo, names]) => {
        const it = elements[element];
        // What is in shadow trees is not among them.
        if (!it) return names.map(() => null);
        const style = frame.getComputedStyle(it, pseudo);
        const typed = pseudo ? null : it.computedStyleMap?.();
        return names.map((name) => {
            if (!name.startsWith('--') && !frame.CSS.supports(name, 'initial')) return null;
            if (!used.includes(name) && !name.startsWith('--')) return style.getPropertyValue(name);
            if (!typed) return null;
            try { return typed.getAll(name).map(String).join(', ') || style.getPropertyValue(name); }
            catch { return style.getPropertyValue(name); }
        });
    });
    const holds = (query) => frame.matchMedia(query).matches;
    // Of a feature that there is, it holds or does not; of others neither.
    const knows = (query) => { const plain = query.replace(/:.*/, ')'); return holds(plain) || holds(`not ${plain}`); };
    const unmet = preferences.flatMap((query, i) => knows(query) && !holds(query) ? [i] : []);
    return { names: elements.map((element) => element.localName), unmet, values };
";

/// Asks a browser for the values of a page with edits.
pub(crate) fn ask(
    driver: &str,
    (study, loader, edits): (&Study, &Web, &[Edit]),
    seen: &Seen,
    claims: Vec<Claim>,
) -> Result<Testimony, Refusal> {
    cannot_be_told(seen)?;
    let source = study.sources().get(study.document().source());
    let page = source.and_then(|source| loader.page_url(&source.name));
    let page = page.ok_or_else(|| Refusal::new("the browser cannot be shown this page: it is at no address"))?;
    let mut styles_from = String::new();
    for (_, source) in study.sources().iter() {
        match loader.elsewhere(&source.name) {
            Some((url, true)) => styles_from += &format!(" {}", url.origin().ascii_serialization()),
            Some((_, false)) => {
                let name = &source.name;
                return Err(Refusal::new(format!(
                    "the browser cannot be shown this page: `{name}` is of another site"
                )));
            }
            None => {}
        }
    }
    let refused = |e: &dyn std::fmt::Display| Refusal::new(format!("the page cannot be served to the browser: {e}"));
    let server = Server::http("127.0.0.1:0").map_err(|e| refused(&e))?;
    let port = server.server_addr().to_ip().map(|address| address.port()).unwrap_or_default();
    let driver = Driver::start(driver)?;
    let preferences = preferences(seen);
    let shown = Shown { page: &page, loader, edits, viewport: seen.size(), styles_from };
    let answer = std::thread::scope(|scope| {
        scope.spawn(|| {
            for request in server.incoming_requests() {
                let response = shown.response(request.url());
                // A browser that no longer waits is no fault.
                let _ = request.respond(response);
            }
        });
        let answer = conversation(&driver, port, seen, (&claims, &preferences));
        server.unblock();
        answer
    })?;
    let names: Vec<&str> = answer["names"].as_array().into_iter().flatten().filter_map(Value::as_str).collect();
    let ours: Vec<String> = study.document().elements().map(|e| e.name.to_string()).collect();
    let numbers = answer["unmet"].as_array().into_iter().flatten().filter_map(Value::as_u64);
    let unmet: Vec<&Preference> = numbers.filter_map(|i| preferences.get(usize::try_from(i).ok()?)).collect();
    if let Some((feature, value, _)) = unmet.iter().find(|(.., given)| *given) {
        let query = query(feature, value);
        return Err(Refusal::new(format!("the browser cannot be asked: `{query}` does not hold there")));
    }
    let unmet = unmet.iter().map(|(feature, value, _)| query(feature, value)).collect();
    if names != ours {
        let (theirs, ours) = (names.len(), ours.len());
        return Err(Refusal::new(format!(
            "the browser cannot be compared with: it makes {theirs} elements of the page, and here there are {ours}"
        )));
    }
    // The page is at another address there.
    let served = format!("http://127.0.0.1:{port}/");
    let site = loader.site();
    let found = values_there(&answer, &claims, |value| value.replace(&served, site.as_str()));
    let (mut compared, mut unknown, mut differing) = (0, 0, Vec::new());
    for claim in claims {
        let key = (claim.element, claim.pseudo.clone(), claim.property.clone());
        let Some(theirs) = found.get(&key) else {
            unknown += 1;
            continue;
        };
        compared += 1;
        if !near(&claim.value, theirs) {
            differing.push((claim, theirs.clone()));
        }
    }
    Ok(Testimony { browser: driver.name.clone(), compared, unknown, differing, unmet })
}

/// The values that a browser gives in its answer to claims, by element, pseudo-element and property.
fn values_there(
    answer: &Value,
    claims: &[Claim],
    here: impl Fn(&str) -> String,
) -> HashMap<(u32, Option<String>, String), String> {
    let lists = answer["values"].as_array().into_iter().flatten();
    let each = asked(claims).into_iter().zip(lists).flat_map(|((element, pseudo, properties), values)| {
        let values = values.as_array().into_iter().flatten();
        properties.into_iter().zip(values).map(move |(property, value)| ((element, pseudo.clone(), property), value))
    });
    each.filter_map(|(key, value)| Some((key, here(value.as_str()?.trim())))).collect()
}

/// Refuses what a browser cannot be told by the protocol.
fn cannot_be_told(seen: &Seen) -> Result<(), Refusal> {
    let given = [
        ("--media print", seen.media == Medium::Print),
        ("--user-sheet", !seen.user_sheet.is_empty()),
        ("--alternate", seen.alternate.is_some()),
        ("--hover", !seen.hover.is_empty()),
        ("--active", !seen.active.is_empty()),
        ("--focus", !seen.focus.is_empty()),
        ("--visited", !seen.visited.is_empty()),
        ("--target", !seen.target.is_empty()),
    ];
    match given.iter().find(|(_, is_given)| *is_given) {
        Some((option, _)) => Err(Refusal::new(format!("`{option}` cannot be told to the browser of --witness"))),
        None => Ok(()),
    }
}

/// Claims by element: what is asked for in one go.
fn asked(claims: &[Claim]) -> Vec<(u32, Option<String>, Vec<String>)> {
    let mut asked: Vec<(u32, Option<String>, Vec<String>)> = Vec::new();
    for claim in claims {
        match asked.last_mut().filter(|(element, pseudo, _)| *element == claim.element && *pseudo == claim.pseudo) {
            Some((.., properties)) => properties.push(claim.property.clone()),
            None => asked.push((claim.element, claim.pseudo.clone(), vec![claim.property.clone()])),
        }
    }
    asked
}

/// A preference, its value, and whether it was asked for.
type Preference = (String, String, bool);

/// What the user is taken to prefer: what is asked for, and the usual for the rest.
fn preferences(seen: &Seen) -> Vec<Preference> {
    let all = PREFERENCES.iter().filter_map(|(feature, values)| {
        let given = seen.prefer.iter().rev().find(|(f, _)| f == feature).map(|(_, value)| value.as_str());
        let value = given.or_else(|| values.first().copied())?;
        Some(((*feature).to_owned(), value.to_owned(), given.is_some()))
    });
    all.collect()
}

/// Shows the page to the browser and asks it.
fn conversation(
    driver: &Driver,
    port: u16,
    seen: &Seen,
    (claims, preferences): (&[Claim], &[Preference]),
) -> Result<Value, Refusal> {
    let (width, height) = seen.size();
    driver.resize((width + 100.0, height + 200.0))?;
    driver.go(&format!("http://127.0.0.1:{port}{FRAME}"))?;
    let queries: Vec<String> = preferences.iter().map(|(feature, value, _)| query(feature, value)).collect();
    let used: Vec<&str> = USED.split_whitespace().collect();
    driver.run(SCRIPT, &json!({ "asked": asked(claims), "preferences": queries, "used": used }))
}

/// What the browser is shown.
struct Shown<'s> {
    /// The URL of the page on its own site.
    page: &'s Url,
    /// What its files come from.
    loader: &'s Web,
    /// Texts that are other ones in a trial.
    edits: &'s [Edit],
    /// The size of the viewport.
    viewport: (f64, f64),
    /// Other sites that sheets come from.
    styles_from: String,
}

impl Shown<'_> {
    /// What is at a path.
    fn response(&self, path: &str) -> Response<std::io::Cursor<Vec<u8>>> {
        let header = |name: &str, value: &str| Header::from_bytes(name, value).ok();
        let (bytes, kind) = match self.file(path) {
            Some(found) => found,
            None => return Response::from_data(Vec::new()).with_status_code(404),
        };
        let from = &self.styles_from;
        let policy =
            format!("default-src 'self' data:; script-src 'none'; style-src 'self' 'unsafe-inline' data:{from}");
        let headers = [
            header("content-type", &kind),
            header("cache-control", "no-store"),
            header("content-security-policy", &policy),
        ];
        headers.into_iter().flatten().fold(Response::from_data(bytes), Response::with_header)
    }

    /// The bytes at a path and their type.
    fn file(&self, path: &str) -> Option<(Vec<u8>, String)> {
        if path == FRAME {
            let (width, height) = self.viewport;
            let query = self.page.query().map(|query| format!("?{query}")).unwrap_or_default();
            let from = format!("{}{query}", self.page.path()).replace('&', "&amp;").replace('"', "&quot;");
            let page = format!(
                "<!DOCTYPE html><title>.</title><iframe src=\"{from}\" style=\"border: 0; width: {width}px; height: {height}px\"></iframe>"
            );
            return Some((page.into_bytes(), "text/html; charset=utf-8".to_owned()));
        }
        let url = self.loader.site().join(path).ok()?;
        let loaded = self.loader.load(&url).ok()?;
        let end = url.path().rsplit('.').next().unwrap_or_default().to_ascii_lowercase();
        let kind = loaded.media_type.clone().unwrap_or_else(|| {
            let is_page = url.path() == self.page.path();
            let known = match &*end {
                "css" => "text/css",
                "xhtml" if is_page => "text/html",
                "svg" => "image/svg+xml",
                "png" => "image/png",
                "jpg" | "jpeg" => "image/jpeg",
                _ if is_page => "text/html",
                _ => "application/octet-stream",
            };
            known.to_owned()
        });
        if let Some(edit) = self.edits.iter().find(|edit| edit.file == loaded.name) {
            return Some((edit.after.as_bytes().to_vec(), format!("{kind}; charset=utf-8")));
        }
        let charset = loaded.charset.map(|charset| format!("; charset={charset}")).unwrap_or_default();
        Some((loaded.bytes.into(), format!("{kind}{charset}")))
    }
}

/// Whether two values are the same but for how numbers are rounded.
fn near(ours: &str, theirs: &str) -> bool {
    let (ours, theirs) = (ours.trim(), theirs.trim());
    if ours == theirs {
        return true;
    }
    let (a, b) = (numbers(ours), numbers(theirs));
    let close = |(x, y): (&f64, &f64)| (x - y).abs() <= (y.abs() * 1e-4).max(0.006);
    a.0 == b.0 && a.1.len() == b.1.len() && a.1.iter().zip(&b.1).all(close)
}

/// A text without its numbers, and these.
fn numbers(text: &str) -> (String, Vec<f64>) {
    let (mut rest, mut found, mut open) = (String::new(), Vec::new(), String::new());
    let mut close = |open: &mut String, rest: &mut String| {
        match open.parse::<f64>() {
            Ok(number) => {
                found.push(number);
                rest.push('#');
            }
            Err(_) => rest.push_str(open),
        }
        open.clear();
    };
    for c in text.chars() {
        if c.is_ascii_digit() || c == '.' || (c == '-' && open.is_empty()) {
            open.push(c);
        } else {
            close(&mut open, &mut rest);
            rest.push(c);
        }
    }
    close(&mut open, &mut rest);
    (rest, found)
}

impl Testimony {
    /// Whether anything differs.
    pub(crate) fn differs(&self) -> bool {
        !self.differing.is_empty()
    }

    /// What differs, the same of several elements together, in the order in which it is met.
    fn groups(&self) -> Vec<(Difference<'_>, Vec<&Claim>)> {
        let mut groups: Vec<(Difference<'_>, Vec<&Claim>)> = Vec::new();
        let mut places: HashMap<Difference<'_>, usize> = HashMap::new();
        for (claim, theirs) in &self.differing {
            let key = (&*claim.property, &*claim.value, &**theirs);
            let place = *places.entry(key).or_insert(groups.len());
            match groups.get_mut(place) {
                Some((_, claims)) => claims.push(claim),
                None => groups.push((key, vec![claim])),
            }
        }
        groups
    }

    /// What the browser says, for people.
    pub(crate) fn told(&self, study: &Study, width: usize) -> String {
        let name = Some(&self.browser).filter(|name| !name.is_empty()).map(|name| format!(" ({name})"));
        let browser = format!("The browser{}", name.unwrap_or_default());
        let (compared, differing) = (self.compared, self.differing.len());
        let head = match (compared, differing) {
            (0, _) => format!("{browser} was asked, but gives no computed value for this."),
            (1, 0) => format!("{browser} agrees: it computes the same value."),
            (n, 0) => format!("{browser} agrees: it computes the same {n} values."),
            (1, _) => format!("{browser} differs."),
            (n, d) => format!("{browser} agrees on {} of {n} values and differs on {d}.", n - d),
        };
        let head = match self.unknown {
            0 => head,
            _ if compared == 0 => head,
            n => format!("{head} Of {n} more it gives no computed value, most of properties it does not know."),
        };
        let mut out = format!("\n{}\n", paint(ANSWER, wrap(&head, width, 0)));
        let groups = self.groups();
        for ((property, ours, theirs), claims) in groups.iter().take(MOST) {
            let first = claims[0];
            let element = study.document().id(first.element).and_then(|id| study.document().get(id));
            let label = element.map(|e| e.label()).unwrap_or_default();
            let pseudo = first.pseudo.as_deref().unwrap_or_default();
            let more = if claims.len() > 1 { format!(" and {} more", claims.len() - 1) } else { String::new() };
            let shown = |value: &str| if value.is_empty() { "no value".to_owned() } else { cut(value, 60) };
            let (ours, theirs) = (shown(ours), shown(theirs));
            let line =
                format!("`{property}` on `{label}{pseudo}` (@{}){more}: {ours} here, {theirs} there", first.element);
            let _ = writeln!(out, "{}", wrap(&line, width, 2));
            for row in departures(property) {
                let _ = writeln!(out, "{}", paint(QUIET, wrap(&format!("docs/departures.md: {row}"), width, 4)));
            }
        }
        if self.differs() && !self.unmet.is_empty() {
            let queries = self.unmet.iter().map(|query| format!("`{query}`")).collect::<Vec<_>>().join(", ");
            let line = format!("Taken to hold here, and not so there: {queries}; --prefer says otherwise.");
            let _ = writeln!(out, "{}", wrap(&line, width, 2));
        }
        if groups.len() > MOST {
            let _ = writeln!(out, "  and {} more differences", groups.len() - MOST);
        }
        out
    }
}

/// The known differences that name a property.
fn departures(property: &str) -> impl Iterator<Item = &'static str> {
    let named = [format!("`{property}`"), format!("`{property}:")];
    let rows = DEPARTURES.lines().filter_map(|line| line.strip_prefix("| ")?.split(" | ").next());
    rows.filter(move |row| named.iter().any(|name| row.contains(name)))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn values_are_the_same_but_for_rounding() {
        let cases = [
            ("1px", "1px", true),
            ("1.004px", "1px", true),
            ("rgb(1, 2, 3)", "rgb(1, 2, 3)", true),
            ("rgb(1, 2, 3)", "rgb(1, 2, 4)", false),
            ("1px", "1em", false),
            ("-0.5px -1px", "-0.5px 1px", false),
            ("33333.33px", "33333.4px", true),
            ("auto", "none", false),
            ("1px 2px", "1px", false),
        ];
        for (a, b, same) in cases {
            assert_eq!(near(a, b), same, "{a} and {b}");
        }
    }

    #[test]
    fn known_differences_are_found_by_property() {
        assert!(departures("user-select").count() >= 1 && departures("no-such-thing").count() == 0);
    }
}
