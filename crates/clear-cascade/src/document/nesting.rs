//! How tags are nested as they are written, beside the tree that the parser makes of them.
//!
//! What comes in: the tags of a page in written order. What goes out: the elements that are written inside one that the
//! parser closed before them or moved them out of (HTML Standard, "Tree construction").

use std::collections::HashMap;

use rustc_hash::FxHashSet;

use super::{Element, ElementId, Name};

/// Elements without an end tag (HTML Standard, "Void elements").
const VOID: &[&str] =
    &["area", "base", "br", "col", "embed", "hr", "img", "input", "link", "meta", "param", "source", "track", "wbr"];

/// How far out an end tag is looked for among what is open, so that many that close nothing cost little.
const FAR: usize = 256;

/// Tags as they are written in one another.
#[derive(Default)]
pub(super) struct Nesting {
    /// The start tags that are open, each by its name and first byte.
    open: Vec<(Name, u32)>,
    /// For each start tag, where the one starts that it is written in.
    inside: Vec<(u32, u32)>,
    /// The start tags that have end tags.
    closed: FxHashSet<u32>,
}

impl Nesting {
    /// Takes a start tag in; some close themselves.
    pub(super) fn start(&mut self, name: &Name, at: u32, closes_itself: bool) {
        if let Some((_, outer)) = self.open.last() {
            self.inside.push((at, *outer));
        }
        if !closes_itself && !VOID.contains(&&**name) {
            self.open.push((name.clone(), at));
        }
    }

    /// Takes an end tag in.
    pub(super) fn end(&mut self, name: &Name) {
        let near = self.open.len().saturating_sub(FAR);
        if let Some(found) = self.open[near..].iter().rposition(|(n, _)| n == name) {
            self.closed.insert(self.open[near + found].1);
            self.open.truncate(near + found);
        }
    }

    /// The elements that are written inside another than they are in, with that one. What has no end tag of its own is ended
    /// by what follows, as everybody means it.
    pub(super) fn misplaced(self, elements: &[Element]) -> Vec<(ElementId, ElementId)> {
        let mut by_tag: HashMap<u32, ElementId> = HashMap::new();
        let id = |i: usize| ElementId(crate::source::offset(i));
        let mut found = Vec::new();
        if self.inside.is_empty() {
            return found;
        }
        let mut first: Vec<(usize, u32)> = Vec::new();
        for (i, element) in elements.iter().enumerate() {
            // Of elements that were opened again only the first is the tag's own.
            if let Some(tag) = element.tag.filter(|t| !by_tag.contains_key(&t.start)) {
                by_tag.insert(tag.start, id(i));
                first.push((i, tag.start));
            }
        }
        for (i, at) in first {
            let Ok(known) = self.inside.binary_search_by_key(&at, |(start, _)| *start) else { continue };
            let outer = self.inside[known].1;
            let Some(written) = by_tag.get(&outer).filter(|_| self.closed.contains(&outer)) else { continue };
            let mut around = std::iter::successors(elements[i].parent, |p| elements[p.index()].parent);
            let parent = around.find_map(|p| elements[p.index()].tag);
            if parent.is_none_or(|tag| tag.start != outer) && elements[i].tree == elements[written.index()].tree {
                found.push((id(i), *written));
            }
        }
        found
    }
}
