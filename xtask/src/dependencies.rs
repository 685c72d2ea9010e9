//! The page about what the program is built on: each crate that is asked for, with its licence and why it is there; how many come
//! with them; and what must hold for all.

use std::collections::{BTreeMap, BTreeSet};
use std::fmt::Write;
use std::fs;
use std::process::Command;

use serde_json::Value;

/// Where the page lives, from the root of the workspace.
const PAGE: &str = "docs/dependencies.md";

/// The platform that is looked at; others have others for their terminals and files.
const PLATFORM: &str = "x86_64-unknown-linux-gnu";

/// The one crate of the project's own that has a build script: Cargo lets nothing else say how the program is linked.
const LINKED_BY_SCRIPT: &str = "clear-cascade-cli";

/// Why each crate is there that is asked for.
const WHY: &[(&str, &str)] = &[
    ("annotate-snippets", "marked excerpts in messages and with `--show`"),
    ("anstream", "colours go where they are wanted, and nowhere else"),
    ("anstyle", "styles of text in a terminal"),
    ("base64", "what is packed into a report"),
    ("bytes", "what was loaded is shared and not copied"),
    ("bytestring", "the same of texts"),
    ("clap", "commands and options"),
    ("cssparser", "CSS text to tokens (CSS Syntax 3, §4)"),
    ("data-url", "sheets in `data:` addresses"),
    ("encoding_rs", "bytes to text (Encoding Standard)"),
    ("fancy-regex", "whether a value fits the `pattern` of a form control, within bounded work"),
    ("flate2", "the data of a report is packed"),
    ("html5ever", "HTML text to a tree (HTML Standard, \"Parsing HTML documents\")"),
    ("indicatif", "progress while many pages are checked"),
    ("maud", "the report's HTML, escaped by construction"),
    ("memchr", "letters are found fast"),
    ("mimalloc", "much of the work is to make and drop small values"),
    ("once_cell", "what is read when first asked for, in one word"),
    ("percent-encoding", "paths in addresses"),
    ("rayon", "several pages at once"),
    ("regress", "whether such a `pattern` is one (ECMAScript, regular expressions with `v`)"),
    ("rustc-hash", "tables of small keys"),
    ("serde", "answers as data"),
    ("serde_json", "answers as JSON"),
    ("serde_tuple", "the report's data, short"),
    ("sha2", "the report's Content-Security-Policy names its script by its hash"),
    ("similar", "`--patch`: unified diffs"),
    ("smallvec", "lists that are short nearly always"),
    ("smol_str", "texts between tags and of attributes, which are short nearly always"),
    ("strsim", "near misses of names"),
    ("tempfile", "files are written whole or not at all"),
    ("clap_complete", "completions for shells"),
    ("clap_mangen", "manual pages"),
    ("mail-parser", "pages saved as MHTML, which is MIME"),
    ("notify", "files are watched the way each system offers it"),
    ("tiny_http", "the page is served to a browser that bears witness"),
    ("terminal_size", "how wide lines may be"),
    ("textwrap", "lines end between words"),
    ("thiserror", "errors with their messages"),
    ("unicode-bidi", "`dir=auto` (Unicode Bidirectional Algorithm)"),
    ("unicode-width", "how wide a letter is in a terminal"),
    ("ureq", "sheets of other sites, where they are asked for"),
    ("url", "addresses (URL Standard)"),
];

/// Which licences are fine for all that is built in, for this and for `cargo deny`.
const POLICY: &str = "deny.toml";

/// A crate as it is built in.
struct Package<'m> {
    /// Its name and version.
    name: (&'m str, &'m str),
    /// Its licence.
    licence: &'m str,
    /// Whether it is the project's own.
    own: bool,
    /// Whether it runs a script when it is built.
    scripted: bool,
}

/// What is built into the program, each crate with those that it asks for.
struct Graph<'m> {
    /// The crates by their ids.
    packages: BTreeMap<&'m str, Package<'m>>,
    /// Those that the project asks for itself.
    direct: BTreeSet<&'m str>,
}

/// The text of a member.
fn text<'m>(value: &'m Value, member: &str) -> &'m str {
    value[member].as_str().unwrap_or_default()
}

/// The members of a list.
fn list<'m>(value: &'m Value, member: &str) -> impl Iterator<Item = &'m Value> {
    value[member].as_array().into_iter().flatten()
}

impl<'m> Graph<'m> {
    /// Reads what cargo tells.
    fn of(metadata: &'m Value) -> Self {
        let packages: BTreeMap<&str, &Value> = list(metadata, "packages").map(|p| (text(p, "id"), p)).collect();
        let nodes: BTreeMap<&str, &Value> = list(&metadata["resolve"], "nodes").map(|n| (text(n, "id"), n)).collect();
        let own: BTreeSet<&str> = list(metadata, "workspace_members").filter_map(Value::as_str).collect();
        let mut graph = Self { packages: BTreeMap::new(), direct: BTreeSet::new() };
        let mut open: Vec<&str> =
            own.iter().copied().filter(|id| text(packages[id], "name") == "clear-cascade-cli").collect();
        while let Some(id) = open.pop() {
            let package = packages[id];
            let scripted = list(package, "targets").any(|t| list(t, "kind").any(|k| k == "custom-build"));
            let known = Package {
                name: (text(package, "name"), text(package, "version")),
                licence: text(package, "license"),
                own: own.contains(id),
                scripted,
            };
            if graph.packages.insert(id, known).is_some() {
                continue;
            }
            // What is there for the schemas alone is not built in.
            let optional =
                |name: &str| list(package, "dependencies").any(|d| d["optional"] == true && text(d, "name") == name);
            let built_in = |dependency: &&Value| {
                let left_out = own.contains(id) && optional(text(dependency, "name"));
                !left_out && list(dependency, "dep_kinds").any(|kind| kind["kind"].is_null())
            };
            for dependency in list(nodes[id], "deps").filter(built_in) {
                let other = text(dependency, "pkg");
                if own.contains(id) && !own.contains(other) {
                    graph.direct.insert(other);
                }
                open.push(other);
            }
        }
        graph
    }

    /// What does not hold.
    fn faults(&self, fine: &[&str]) -> Vec<String> {
        let mut faults = Vec::new();
        for package in self.packages.values() {
            let (name, version) = package.name;
            if package.own && package.scripted && name != LINKED_BY_SCRIPT {
                faults.push(format!("{name} has a build script"));
            }
            if !package.own && !is_fine(package.licence, fine) {
                faults.push(format!("{name} {version} has the licence `{}`", package.licence));
            }
        }
        let asked: BTreeSet<&str> = self.direct.iter().map(|id| self.packages[id].name.0).collect();
        let reasons: BTreeSet<&str> = WHY.iter().map(|(name, _)| *name).collect();
        faults.extend(asked.difference(&reasons).map(|name| format!("nothing says why {name} is there")));
        faults.extend(reasons.difference(&asked).map(|name| format!("{name} is not asked for any more")));
        faults
    }

    /// The text of the page.
    fn page(&self) -> String {
        let others = || self.packages.values().filter(|p| !p.own);
        let mut versions: BTreeMap<&str, BTreeSet<&str>> = BTreeMap::new();
        others().for_each(|p| _ = versions.entry(p.name.0).or_default().insert(p.name.1));
        let several = versions.iter().filter(|(_, v)| v.len() > 1);
        let several: Vec<String> = several
            .map(|(name, v)| format!("{name} {}", v.iter().copied().collect::<Vec<_>>().join(" and ")))
            .collect();
        let mut out = format!(
            "# What it is built on\n\n{} crates are needed to build the program on Linux, {} of them asked for by its own two; the others \
             come with these. All have\nlicences that let anybody use and pass on the program. Of the project's own crates one runs a script \
             when it is built, which says how\nthe program is linked and nothing else (`build.rs` of the program); nothing is fetched then but the crates in `Cargo.lock`, each held by its checksum.{}\n\n`cargo xtask \
             dependencies` writes this page and says what does not hold; the checks compare it. What is known against a \
             version is in\na database that is fetched, so that no check here asks it: with a network, `cargo deny check advisories` does. \
             Licences, sources and\nwhat is built in twice hold to `deny.toml`, on other systems, too: `cargo deny \
             --exclude-unpublished check licenses bans sources`.\n\n| Crate | Licence | Why it is there \
             |\n|---|---|---|\n",
            others().count(),
            self.direct.len(),
            match several.as_slice() {
                [] => String::new(),
                some => format!(" Built in twice: {}.", some.join(", ")),
            },
        );
        for (name, why) in WHY {
            let licence =
                self.direct.iter().map(|id| &self.packages[id]).find(|p| p.name.0 == *name).map_or("", |p| p.licence);
            let _ = writeln!(out, "| {name} | {licence} | {why} |");
        }
        out
    }
}

/// The licences that a policy allows.
fn allowed(policy: &str) -> Vec<&str> {
    let list = policy.lines().find_map(|line| line.strip_prefix("allow = [")).unwrap_or_default();
    list.split('"').skip(1).step_by(2).collect()
}

/// Whether one of the licences between `OR`s is fine, each with all between its `AND`s.
fn is_fine(expression: &str, fine: &[&str]) -> bool {
    let plain = expression.replace(['(', ')'], "").replace('/', " OR ");
    plain.split(" OR ").any(|all| all.split(" AND ").all(|one| fine.contains(&one.trim())))
}

/// Writes the page, or only compares the one that is there; both say what does not hold.
///
/// # Errors
/// Where something does not hold, or the page is another.
pub(crate) fn run(check: bool) -> Result<(), String> {
    let args = ["metadata", "--format-version", "1", "--locked", "--filter-platform", PLATFORM];
    let told = Command::new("cargo").args(args).output().map_err(|e| format!("cargo: {e}"))?;
    let metadata: Value = serde_json::from_slice(&told.stdout).map_err(|e| format!("what cargo tells: {e}"))?;
    let graph = Graph::of(&metadata);
    let policy = fs::read_to_string(POLICY).map_err(|e| format!("{POLICY}: {e}"))?;
    let faults = graph.faults(&allowed(&policy));
    if !faults.is_empty() {
        return Err(faults.join("\n"));
    }
    let page = graph.page();
    if !check {
        return fs::write(PAGE, page).map_err(|e| format!("{PAGE}: {e}"));
    }
    match fs::read_to_string(PAGE).unwrap_or_default() == page {
        true => Ok(()),
        false => Err(format!("{PAGE} is not what Cargo.lock gives; run `cargo xtask dependencies`")),
    }
}
