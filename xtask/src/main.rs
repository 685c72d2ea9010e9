//! Makes what is made from something else: the table of properties, the JSON Schemas; and looks at the library's interface.
//!
//! `cargo xtask schemas` makes the JSON Schemas from the types of the answers, with `--check` it only compares;
//! `cargo xtask api` says whether all that is public can be reached, is the library's own, and has an example.
//!
//! `cargo xtask findings` writes the page about what `check` finds, with `--check` it only compares; `cargo xtask dependencies` does
//! the same with the page about the crates that are built in.
//!
//! `cargo xtask seeds` writes what fuzzing starts from: inputs of each target, and a dictionary.
//!
//! The table of properties comes from the machine-readable extracts of the CSS specifications. What comes in: `css.json` of the npm package `@webref/css`, and `xtask/shipped.txt`, which says where browsers
//! ship something else than the newest draft. What goes out: `crates/clear-cascade/src/property/table.rs`.
//!
//! `cargo xtask table PATH/TO/css.json` writes the table; with `--check` it only compares and fails on a difference.

mod api;
mod dependencies;
mod findings;
mod schemas;
mod seeds;

use std::collections::{BTreeMap, HashMap};
use std::fmt::Write as _;
use std::{env, fs, process};

use serde_json::Value;

/// Where the generated table lives, from the root of the workspace.
const TABLE: &str = "crates/clear-cascade/src/property/table.rs";
/// Where browsers differ from the extracts.
const SHIPPED: &str = "xtask/shipped.txt";

/// One property as it goes into the table.
#[derive(Default, Clone)]
struct Property {
    /// Its name.
    name: String,
    /// Its grammar in the value definition syntax.
    syntax: String,
    /// Its initial value.
    initial: String,
    /// Whether it inherits.
    inherited: bool,
    /// The "Computed value" line.
    computed: String,
    /// Direct longhands, empty for a longhand.
    longhands: Vec<String>,
    /// Longhands that the shorthand only resets.
    resets: Vec<String>,
    /// Logical property group.
    group: String,
    /// The property this is another name of.
    alias: String,
    /// The computed-value rule, where there is one.
    rule: String,
    /// Old keywords and what they compute to.
    renamed: Vec<(String, String)>,
    /// Where the standard defines it.
    href: String,
    /// Whether browsers do not have it yet.
    draft: bool,
}

fn main() {
    let args: Vec<String> = env::args().skip(1).collect();
    if let Some(rustdoc) = env::var_os(api::RUSTDOC) {
        process::exit(api::rustdoc(&rustdoc, &args));
    }
    let result = match args.iter().map(String::as_str).collect::<Vec<_>>().as_slice() {
        ["table", path] => build(path).and_then(|text| fs::write(TABLE, text).map_err(|e| e.to_string())),
        ["table", path, "--check"] => build(path).and_then(|text| match fs::read_to_string(TABLE) {
            Ok(old) if old == text => Ok(()),
            _ => Err(format!("{TABLE} is not what the extracts give; run `cargo xtask table {path}`")),
        }),
        ["dependencies"] => dependencies::run(false),
        ["dependencies", "--check"] => dependencies::run(true),
        ["findings"] => findings::run(false),
        ["findings", "--check"] => findings::run(true),
        ["schemas"] => schemas::run(false),
        ["schemas", "--check"] => schemas::run(true),
        ["api"] => api::run(),
        ["seeds"] => seeds::run(),
        _ => Err("usage: cargo xtask table PATH/TO/css.json [--check] | schemas [--check] | findings [--check] | dependencies [--check] | api | seeds".to_owned()),
    };
    if let Err(message) = result {
        eprintln!("{message}");
        process::exit(2);
    }
}

/// The text of a member, or nothing.
fn text(value: &Value, key: &str) -> String {
    value[key].as_str().unwrap_or_default().split_whitespace().collect::<Vec<_>>().join(" ")
}

/// The strings of an array member.
fn list(value: &Value, key: &str) -> Vec<String> {
    value[key].as_array().into_iter().flatten().filter_map(|v| v.as_str().map(str::to_owned)).collect()
}

/// Builds the text of the table from the extracts at `path`.
fn build(path: &str) -> Result<String, String> {
    let data: Value = serde_json::from_str(&fs::read_to_string(path).map_err(|e| format!("{path}: {e}"))?)
        .map_err(|e| e.to_string())?;
    let mut properties: BTreeMap<String, Property> = BTreeMap::new();
    for p in data["properties"].as_array().ok_or("no properties")? {
        let name = text(p, "name");
        properties.insert(
            name.clone(),
            Property {
                name,
                syntax: text(p, "syntax"),
                initial: text(p, "initial"),
                inherited: text(p, "inherited").starts_with("yes"),
                computed: text(p, "computedValue"),
                longhands: list(p, "longhands"),
                resets: list(p, "resetLonghands"),
                group: text(p, "logicalPropertyGroup"),
                alias: text(p, "legacyAliasOf"),
                href: text(p, "href"),
                ..Property::default()
            },
        );
    }
    let mut types: BTreeMap<String, String> = BTreeMap::new();
    for t in data["types"].as_array().ok_or("no types")? {
        let syntax = text(t, "syntax");
        // Of several types with one name, the one that is for no property in particular.
        if !syntax.is_empty() && (t["for"].is_null() || !types.contains_key(&text(t, "name"))) {
            types.insert(text(t, "name"), syntax);
        }
    }
    for f in data["functions"].as_array().ok_or("no functions")? {
        let syntax = text(f, "syntax");
        let name = text(f, "name");
        if !syntax.is_empty() {
            let for_transform = list(f, "for").iter().any(|x| x == "transform");
            if for_transform || !types.contains_key(&name) {
                types.insert(name, syntax);
            }
        }
    }
    apply_shipped(&fs::read_to_string(SHIPPED).map_err(|e| format!("{SHIPPED}: {e}"))?, &mut properties, &mut types)?;
    render(&properties, &types)
}

/// Applies the lines of `shipped.txt`.
fn apply_shipped(
    shipped: &str,
    properties: &mut BTreeMap<String, Property>,
    types: &mut BTreeMap<String, String>,
) -> Result<(), String> {
    for (number, line) in shipped.lines().enumerate() {
        let line = line.split(" //").next().unwrap_or_default().trim();
        if line.is_empty() || line.starts_with('#') {
            continue;
        }
        let bad = || format!("{SHIPPED}:{}: cannot read `{line}`", number + 1);
        let (kind, rest) = line.split_once(' ').ok_or_else(bad)?;
        let (left, value) = rest.split_once(" = ").ok_or_else(bad)?;
        let mut words = left.split_whitespace();
        let name = words.next().ok_or_else(bad)?.to_owned();
        let value = value.trim().to_owned();
        match kind {
            "type" => {
                types.insert(name, value);
            }
            "alias" => {
                let target = properties.get(&value).ok_or_else(bad)?.clone();
                properties.insert(name.clone(), Property { name, alias: value, ..target });
            }
            "rule" => {
                for p in value.split_whitespace() {
                    properties.get_mut(p).ok_or_else(bad)?.rule.clone_from(&name);
                }
            }
            "renamed" => {
                let new = words.next().ok_or_else(bad)?.to_owned();
                for p in value.split_whitespace() {
                    properties.get_mut(p).ok_or_else(bad)?.renamed.push((name.clone(), new.clone()));
                }
            }
            "property" => {
                let property =
                    properties.entry(name.clone()).or_insert_with(|| Property { name, ..Property::default() });
                match words.next().ok_or_else(bad)? {
                    "syntax" => property.syntax = value,
                    "initial" => property.initial = value,
                    "inherited" => property.inherited = value == "yes",
                    "computed" => property.computed = value,
                    "href" => property.href = value,
                    "group" => property.group = value,
                    "alias" => property.alias = if value == "none" { String::new() } else { value },
                    "ships" => property.draft = value == "no",
                    "longhands" => {
                        property.longhands =
                            value.split_whitespace().filter(|w| *w != "none").map(str::to_owned).collect()
                    }
                    "resets" => {
                        property.resets = value.split_whitespace().filter(|w| *w != "none").map(str::to_owned).collect()
                    }
                    _ => return Err(bad()),
                }
            }
            _ => return Err(bad()),
        }
    }
    Ok(())
}

/// All longhands below a name, in canonical order.
fn leaves(name: &str, properties: &BTreeMap<String, Property>, out: &mut Vec<String>) {
    let Some(property) = properties.get(name) else {
        return;
    };
    if !property.alias.is_empty() {
        return leaves(&property.alias, properties, out);
    }
    if property.longhands.is_empty() {
        if !out.contains(&property.name) {
            out.push(property.name.clone());
        }
        return;
    }
    for longhand in &property.longhands {
        leaves(longhand, properties, out);
    }
}

/// The constant a property is known by in code.
fn constant(name: &str) -> String {
    name.trim_start_matches('-').replace('-', "_").to_uppercase()
}

/// The name of a rule in code.
fn camel_case(name: &str) -> String {
    let words = name.split('-').map(|w| w[..1].to_uppercase() + &w[1..]);
    words.collect()
}

/// Writes the table as Rust.
fn render(properties: &BTreeMap<String, Property>, types: &BTreeMap<String, String>) -> Result<String, String> {
    let is_longhand = |p: &Property| p.alias.is_empty() && p.longhands.is_empty() && p.name != "all";
    let mut order: Vec<Property> = Vec::new();
    order.extend(properties.values().filter(|p| is_longhand(p) && p.inherited).cloned());
    let inherited = order.len();
    order.extend(properties.values().filter(|p| is_longhand(p) && !p.inherited).cloned());
    let longhands = order.len();
    order.extend(properties.values().filter(|p| p.alias.is_empty() && !is_longhand(p)).cloned());
    let named = order.len();
    order.extend(properties.values().filter(|p| !p.alias.is_empty()).cloned());
    let index: HashMap<&str, usize> = order.iter().enumerate().map(|(i, p)| (p.name.as_str(), i)).collect();
    let id = |name: &str| index.get(name).copied().ok_or_else(|| format!("no property `{name}`"));
    let mut out = String::new();
    out.push_str("// Generated by `cargo xtask table` from the npm package @webref/css 8.7.5 and xtask/shipped.txt. Do not edit.\n");
    out.push_str("//! The table of properties: generated data, reached through [`super`] only.\n\n");
    out.push_str("use super::row::Written;\nuse super::{PropertyId, Rule};\n\n");
    let _ = writeln!(
        out,
        "/// How many longhands inherit; they come first.\npub(super) const INHERITED: usize = {inherited};"
    );
    let _ = writeln!(
        out,
        "/// How many longhands there are; shorthands follow.\npub(super) const LONGHANDS: usize = {longhands};"
    );
    out.push('\n');
    out.push_str("/// Every property, longhand or shorthand, by name.\n#[rustfmt::skip]\n#[allow(missing_docs, clippy::missing_docs_in_private_items)]\npub mod id {\n    use super::PropertyId;\n");
    for (i, p) in order[..named].iter().enumerate() {
        if p.name.starts_with('-') && index.contains_key(p.name.trim_start_matches("-webkit-")) {
            continue;
        }
        let _ = writeln!(out, "    pub const {}: PropertyId = PropertyId({i});", constant(&p.name));
    }
    out.push_str(
        "}\n\n/// A row a property, in the order of ids.\n#[rustfmt::skip]\npub(super) const WRITTEN: &[Written] = &[\n",
    );
    for p in &order {
        let mut below = Vec::new();
        let mut resets = Vec::new();
        if !p.longhands.is_empty() {
            leaves(&p.name, properties, &mut below);
            for r in &p.resets {
                leaves(r, properties, &mut resets);
            }
        }
        let ids = |names: &[String]| -> Result<String, String> {
            Ok(names
                .iter()
                .map(|n| id(n).map(|i| format!("PropertyId({i})")))
                .collect::<Result<Vec<_>, _>>()?
                .join(", "))
        };
        let alias = if p.alias.is_empty() { "None".to_owned() } else { format!("Some(PropertyId({}))", id(&p.alias)?) };
        let _ = writeln!(
            out,
            "    Written {{ name: {:?}, syntax: {:?}, initial: {:?}, longhands: &[{}], resets: &[{}], group: {:?}, alias: {alias}, computed: {:?}, rule: Rule::{}, renamed: &{:?}, href: {:?}, ships: {:?} }},",
            p.name,
            p.syntax,
            p.initial,
            ids(&below)?,
            ids(&resets)?,
            p.group,
            p.computed,
            camel_case(if p.rule.is_empty() { "as-specified" } else { &p.rule }),
            p.renamed,
            p.href,
            !p.draft
        );
    }
    out.push_str("];\n\n/// The named types and functions of the value definition syntax, sorted by name.\n#[rustfmt::skip]\npub(super) const TYPES: &[(&str, &str)] = &[\n");
    for (name, syntax) in types {
        let _ = writeln!(out, "    ({name:?}, {syntax:?}),");
    }
    out.push_str("];\n");
    Ok(out)
}
