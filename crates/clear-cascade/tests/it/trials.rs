//! Trials against the plain way: the same changes made in the files, and the page opened anew.

use std::collections::HashMap;
use std::path::{Path, PathBuf};

use clear_cascade::document::ElementId;
use clear_cascade::source::{LoadError, Loaded};
use clear_cascade::{Change, FileLoader, Loader, Study};

use crate::page;

/// Files with some of their texts edited.
pub(crate) struct Edited {
    /// The files as they are.
    pub(crate) files: FileLoader,
    /// Edited bytes by the name of the file.
    pub(crate) bytes: HashMap<String, Vec<u8>>,
}

impl Loader for Edited {
    fn load(&self, url: &url::Url) -> Result<Loaded, LoadError> {
        let mut loaded = self.files.load(url)?;
        if let Some(bytes) = self.bytes.get(&loaded.name) {
            loaded.bytes.clone_from(bytes);
        }
        Ok(loaded)
    }
}

/// Element, pseudo-element, property, value before and value after.
type Bare = (u32, Option<String>, String, String, String);

/// Changes without what brings them about.
fn plain(changes: Vec<clear_cascade::answer::Changed>) -> Vec<Bare> {
    changes.into_iter().map(|c| (c.element, c.pseudo, c.property, c.before, c.after)).collect()
}

/// Cuts declarations out of their files and opens the page anew; gives how many trials said something else.
fn wrong_cuts(root: &Path, path: &str, pick: impl Fn(usize) -> bool) -> (usize, Vec<String>) {
    let files = FileLoader::new(root);
    let study = Study::open(&files, path).expect("the page opens");
    let mut wrong = Vec::new();
    let mut tried = 0;
    for (_, written) in study.declarations().into_iter().enumerate().filter(|(i, _)| pick(*i)) {
        tried += 1;
        let (file, line, column) = (written.file, written.line, written.column);
        let range = written.start as usize..written.end as usize;
        let changes = [Change::Cut { file: file.clone(), line, column: Some(column) }];
        let trial = study.attempt(&changes).expect("a declaration that is there can be cut");
        let mut bytes = std::fs::read(&file).expect("the file is there");
        bytes.drain(range);
        let edited = Edited { files: files.clone(), bytes: HashMap::from([(file.clone(), bytes)]) };
        let fresh = Study::open(&edited, path).expect("the page opens");
        let predicted = plain(study.compare_trial(&trial, &changes).changes);
        if predicted != plain(study.compare(&fresh).changes) {
            wrong.push(format!("{file}:{line}:{column}"));
        }
    }
    (tried, wrong)
}

#[test]
fn cutting_a_declaration_is_predicted() {
    let demo = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../demo");
    let mut tried = 0;
    for name in ["index.html", "programme.html", "visit.html"] {
        let (count, wrong) = wrong_cuts(&demo, name, |_| true);
        tried += count;
        assert!(wrong.is_empty(), "{name}: {wrong:?}");
    }
    assert!(tried > 150, "only {tried} declarations were cut");
}

#[test]
#[ignore = "needs pages that are not part of the project, in the folder that CLEAR_CASCADE_PAGES names"]
fn cutting_declarations_of_other_pages_is_predicted() {
    // A share of the declarations is cut.
    let pages = std::env::var_os("CLEAR_CASCADE_PAGES").map(PathBuf::from).expect("CLEAR_CASCADE_PAGES names a folder");
    let mut tried = 0;
    let mut folders: Vec<PathBuf> = std::fs::read_dir(&pages).unwrap().map(|e| e.unwrap().path()).collect();
    folders.sort();
    for (n, folder) in folders.iter().enumerate().filter(|(_, f)| f.join("index.html").is_file()) {
        let random = folder.file_name().is_some_and(|f| f.to_string_lossy().starts_with("gen-"));
        let every = if random { 9 } else { 900 };
        let (count, wrong) = wrong_cuts(folder, "index.html", |i| i % every == n % every);
        tried += count;
        assert!(wrong.is_empty(), "{}: {wrong:?}", folder.display());
    }
    assert!(tried >= 300, "only {tried} declarations were cut");
}

#[test]
fn the_element_is_known_in_the_changed_page() {
    let study = page("<style>p { color: red }</style><body><p>a<p class=x>b");
    let x = study.select(".x").unwrap()[0];
    let change = Change::Attach { elements: vec![x], declarations: "color: \"&\"; margin: 0".to_owned() };
    let trial = study.attempt(&[change]).unwrap();
    let then: ElementId = trial.element(x).unwrap();
    assert_eq!(trial.study.value(then, "margin-top").unwrap(), "0px");
    assert_eq!(
        trial.edits[0].after,
        trial.edits[0].before.replace("<p class", "<p style=\"color: &quot;&amp;&quot;; margin: 0\" class")
    );
}
