//! What of the library is public, read from rustdoc's JSON: no type of a dependency may be in it but those that are meant to be,
//! no public type may be out of reach, none may be there that nothing gives, and each item has an example.

use std::collections::{BTreeMap, BTreeSet};
use std::ffi::OsStr;
use std::process::Command;
use std::{env, fs};

use serde_json::Value;

/// Types of dependencies that are in the interface on purpose; they are re-exported.
const MEANT: &[&str] = &["url::Url", "bytes::bytes::Bytes", "bytestring::ByteString", "smol_str::SmolStr"];
/// Types that one makes oneself, or comes to through `Deref`.
const MADE: &[&str] = &["FileLoader", "MemoryLoader", "Site", "NoPlace", "Texts", "Element", "Kind", "Review"];

/// The interface as it is read.
struct Api<'j> {
    /// Items by id.
    index: &'j Value,
    /// Paths by id.
    paths: &'j Value,
    /// Crates that belong to the language.
    language: BTreeSet<String>,
    /// Items that can be reached.
    reached: BTreeSet<String>,
    /// Types in public places, and where.
    named: BTreeMap<String, BTreeSet<String>>,
    /// Types, traits and functions that no example shows.
    bare: Vec<String>,
}

/// The code of the examples in a documentation.
fn code(docs: &Value) -> String {
    docs.as_str().unwrap_or_default().split("```").skip(1).step_by(2).collect()
}

/// Whether a name stands in code as a word.
fn names(code: &str, name: &str) -> bool {
    code.split(|c: char| !c.is_alphanumeric() && c != '_').any(|word| word == name)
}

/// An id as a key.
fn key(id: &Value) -> String {
    id.as_u64().map_or_else(|| id.as_str().unwrap_or_default().to_owned(), |n| n.to_string())
}

impl<'j> Api<'j> {
    /// Notes the types that stand in a signature.
    fn types(&mut self, value: &'j Value, at: &str) {
        match value {
            Value::Object(object) => {
                for (name, inner) in object {
                    let ignored =
                        matches!(name.as_str(), "docs" | "attrs" | "span" | "links" | "impls" | "implementations");
                    if matches!(name.as_str(), "resolved_path" | "trait") && inner.get("id").is_some() {
                        self.named.entry(key(&inner["id"])).or_default().insert(at.to_owned());
                    }
                    if !ignored {
                        self.types(inner, at);
                    }
                }
            }
            Value::Array(list) => list.iter().for_each(|v| self.types(v, at)),
            _ => {}
        }
    }

    /// Walks through an item and what is public in it. `above` is the code in the documentation of the type that it belongs to.
    fn walk(&mut self, id: &'j Value, path: &str, above: &str) {
        let item = &self.index[key(id)];
        let Some((kind, inner)) = item["inner"].as_object().and_then(|o| o.iter().next()) else { return };
        if kind == "use" {
            return self.walk(&inner["id"], path, above);
        }
        if !self.reached.insert(key(id)) {
            return;
        }
        let name = item["name"].as_str().unwrap_or_default();
        let path = format!("{path}::{name}");
        let own = code(&item["docs"]);
        if matches!(kind.as_str(), "struct" | "enum" | "trait" | "function" | "type_alias")
            && own.is_empty()
            && !names(above, name)
        {
            self.bare.push(path.clone());
        }
        let list = |value: &'j Value| value.as_array().into_iter().flatten();
        let index = self.index;
        let public = move |id: &&Value| index[key(id)]["visibility"] == "public";
        match kind.as_str() {
            "module" => list(&inner["items"]).filter(public).for_each(|i| self.walk(i, &path, &own)),
            "struct" | "enum" | "trait" => {
                let kind = &inner["kind"];
                let fields = list(&kind["plain"]["fields"]).chain(list(&kind["tuple"]));
                fields.filter(public).for_each(|f| self.types(&index[key(f)]["inner"], &path));
                for variant in list(&inner["variants"]) {
                    let kind = &index[key(variant)]["inner"]["variant"]["kind"];
                    let fields = list(&kind["struct"]["fields"]).chain(list(&kind["tuple"]));
                    fields.for_each(|f| self.types(&index[key(f)]["inner"], &path));
                }
                list(&inner["items"]).for_each(|i| self.walk(i, &path, &own));
                for one in list(&inner["impls"]).map(|i| &index[key(i)]["inner"]["impl"]) {
                    let ours = one["is_synthetic"] != true && one["blanket_impl"].is_null();
                    if one["trait"].is_null() {
                        list(&one["items"]).filter(public).for_each(|i| self.walk(i, &path, &own));
                    } else if ours {
                        self.types(&one["trait"]["args"], &path);
                    }
                }
            }
            _ => self.types(inner, &path),
        }
    }

    /// What is wrong with it.
    fn faults(&self) -> Vec<String> {
        let path = |id: &str| {
            let parts = self.paths[id]["path"].as_array().into_iter().flatten();
            parts.filter_map(Value::as_str).collect::<Vec<_>>().join("::")
        };
        let mut faults: Vec<_> = self.bare.iter().map(|path| format!("{path} has no example")).collect();
        for (id, places) in &self.named {
            let (name, at) = (path(id), places.iter().take(3).cloned().collect::<Vec<_>>().join(", "));
            let own = self.paths[id]["crate_id"] == 0;
            let known = self.language.contains(&self.paths[id]["crate_id"].to_string());
            if own && !self.reached.contains(id) {
                faults.push(format!("{name} cannot be named, and is in {at}"));
            } else if !own
                && !known
                && !name.is_empty()
                && !MEANT.contains(&name.as_str())
                && !name.starts_with("serde")
            {
                faults.push(format!("{name} is a dependency's, and is in {at}"));
            }
        }
        for id in self.reached.iter().filter(|id| !self.named.contains_key(*id)) {
            let kind = self.paths[id]["kind"].as_str().unwrap_or_default();
            let name = path(id);
            if matches!(kind, "struct" | "enum") && !MADE.iter().any(|m| name.ends_with(&format!("::{m}"))) {
                faults.push(format!("{name} is public, and nothing gives it"));
            }
        }
        faults
    }
}

/// Says which rustdoc this program stands in for, where cargo calls it as one.
pub(crate) const RUSTDOC: &str = "XTASK_RUSTDOC";

/// Runs rustdoc with what is not stable, and tells its status. Only rustdoc is to be told so: build scripts look at the variable, and
/// all that depends on them would be built anew.
pub(crate) fn rustdoc(program: &OsStr, args: &[String]) -> i32 {
    Command::new(program).args(args).env("RUSTC_BOOTSTRAP", "1").status().ok().and_then(|s| s.code()).unwrap_or(1)
}

/// Reads the interface and tells what is wrong with it.
///
/// # Errors
/// Where something is, or rustdoc fails.
pub(crate) fn run() -> Result<(), String> {
    let cargo = env::var_os("CARGO").unwrap_or_else(|| "cargo".into());
    let arguments = "rustdoc -p clear-cascade --lib --quiet -- -Z unstable-options --output-format json";
    // The JSON is not a stable format: what is read of it here is the same in all versions of it that the toolchains had.
    let status = Command::new(cargo)
        .args(arguments.split(' '))
        .env(RUSTDOC, env::var_os("RUSTDOC").unwrap_or_else(|| "rustdoc".into()))
        .env("RUSTDOC", env::current_exe().map_err(|e| e.to_string())?)
        .env_remove("RUSTDOCFLAGS")
        .status();
    if !status.map_err(|e| e.to_string())?.success() {
        return Err("rustdoc gives no JSON".to_owned());
    }
    let folder = env::var("CARGO_TARGET_DIR").unwrap_or_else(|_| "target".to_owned());
    let text = fs::read_to_string(format!("{folder}/doc/clear_cascade.json")).map_err(|e| e.to_string())?;
    let json: Value = serde_json::from_str(&text).map_err(|e| e.to_string())?;
    let crates = json["external_crates"].as_object().into_iter().flatten();
    let language = crates.filter(|(_, c)| matches!(c["name"].as_str(), Some("std" | "core" | "alloc")));
    let language = language.map(|(id, _)| id.clone()).collect();
    let (reached, named, bare) = Default::default();
    let mut api = Api { index: &json["index"], paths: &json["paths"], language, reached, named, bare };
    api.walk(&json["root"], "", "");
    if api.reached.len() < 200 {
        return Err(format!("only {} public items were found: the JSON is read wrongly", api.reached.len()));
    }
    let faults = api.faults();
    if faults.is_empty() { Ok(()) } else { Err(faults.join("\n")) }
}
