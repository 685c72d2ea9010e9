//! JSON Schemas of what the program prints, made from the types of the library's answers.

use std::collections::BTreeMap;
use std::fs;

use clear_cascade::answer::{Aim, Comparison, Reach, Tried, Twins, Why, WhyNot};
use clear_cascade::document::ElementId;
use clear_cascade::review::{Facts, Finding};
use clear_cascade::source::Place;
use schemars::generate::SchemaSettings;
use schemars::{JsonSchema, Schema};
use serde_json::Value;

/// Where the schemas live, from the root of the workspace.
const FOLDER: &str = "docs/schemas";

/// One answer, or an array of them.
#[derive(JsonSchema)]
#[schemars(untagged)]
#[expect(dead_code, reason = "only its schema is of use")]
enum OneOrMany<T> {
    /// One.
    One(T),
    /// An array.
    Many(Vec<T>),
}

/// What a trial changes, and the page where several are asked about.
#[derive(JsonSchema)]
#[expect(dead_code, reason = "only its schema is of use")]
struct OnPage {
    /// The page, where several were asked about.
    #[schemars(default, skip_serializing_if = "Option::is_none")]
    page: Option<String>,
    /// What changes.
    #[schemars(flatten)]
    tried: Tried,
}

/// How two pages of two folders differ.
#[derive(JsonSchema)]
#[expect(dead_code, reason = "only its schema is of use")]
struct OfPages {
    /// The page on the left.
    left: String,
    /// The page on the right.
    right: String,
    /// What differs.
    #[schemars(flatten)]
    comparison: Comparison,
}

/// What `compare` prints.
#[derive(JsonSchema)]
#[schemars(untagged)]
#[expect(dead_code, reason = "only its schema is of use")]
enum Compared {
    /// Two elements.
    Elements(Twins),
    /// Two pages, or a page seen in two ways.
    Pages(Comparison),
    /// The pages of two folders.
    Folders(Vec<OfPages>),
}

/// A line of `values --format ndjson`: an element, or a pseudo-element of the element before.
#[derive(JsonSchema)]
#[expect(dead_code, reason = "only its schema is of use")]
struct Line {
    /// The element.
    element: ElementId,
    /// Its name.
    tag: String,
    /// Where its start tag is written.
    at: Place,
    /// The pseudo-element, where the line stands for one.
    #[schemars(default, skip_serializing_if = "Option::is_none")]
    pseudo: Option<String>,
    /// Every longhand and custom property with its computed value.
    values: BTreeMap<String, String>,
}

/// The schema of a type, under a title.
fn schema<T: JsonSchema>(title: &str) -> Schema {
    let mut schema = SchemaSettings::draft2020_12().for_serialize().into_generator().into_root_schema_for::<T>();
    schema.insert("title".to_owned(), title.into());
    schema.as_object_mut().into_iter().flatten().for_each(|(_, value)| without_code(value));
    schema
}

/// Leaves the examples out of the descriptions: they are Rust.
fn without_code(value: &mut Value) {
    match value {
        Value::String(text) => {
            if let Some(at) = text.find("\n\n```") {
                text.truncate(at);
            }
        }
        Value::Array(list) => list.iter_mut().for_each(without_code),
        Value::Object(object) => object.values_mut().for_each(without_code),
        _ => {}
    }
}

/// The schemas by the names of the commands.
fn all() -> [(&'static str, Schema); 9] {
    [
        ("check", schema::<Finding>("A line of `check --format lines`: a finding; the last line is about the whole")),
        ("facts", schema::<Facts>("A line of `check --facts`: what a review needs to know of a page")),
        ("aim", schema::<Vec<Aim>>("Answer of `aim --format json`, from broad to narrow")),
        (
            "compare",
            schema::<Compared>(
                "Answer of `compare --format json`: of two elements, of two pages or views, or of the pages of two folders",
            ),
        ),
        (
            "reach",
            schema::<OneOrMany<Reach>>(
                "Answer of `reach --format json`: one object, or an array of them for several pages",
            ),
        ),
        (
            "try",
            schema::<OneOrMany<OnPage>>(
                "Answer of `try --format json`: one object, or an array of them for several pages",
            ),
        ),
        ("values", schema::<Line>("A line of `values --format ndjson`")),
        (
            "why",
            schema::<OneOrMany<Why>>(
                "Answer of `why --format json`: one object, or an array of them for several properties",
            ),
        ),
        (
            "why-not",
            schema::<OneOrMany<WhyNot>>(
                "Answer of `why-not --format json`: one object, or an array of them for several elements",
            ),
        ),
    ]
}

/// Writes the schemas, or only compares those that are there.
///
/// # Errors
/// Where a file cannot be written, or is another.
pub(crate) fn run(check: bool) -> Result<(), String> {
    for (name, schema) in all() {
        let path = format!("{FOLDER}/{name}.schema.json");
        let text = serde_json::to_string_pretty(&schema).map_err(|e| e.to_string())? + "\n";
        if !check {
            fs::write(&path, text).map_err(|e| format!("{path}: {e}"))?;
        } else if fs::read_to_string(&path).unwrap_or_default() != text {
            return Err(format!("{path} is not what the types give; run `cargo xtask schemas`"));
        }
    }
    Ok(())
}
