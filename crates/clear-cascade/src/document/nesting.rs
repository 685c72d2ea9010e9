//! How tags are nested as they are written, beside the tree that the parser makes of them.
//!
//! What comes in: the tags of a page in written order. What goes out: the elements that are written inside one that the
//! parser closed before them or moved them out of (HTML Standard, "Tree construction").

use html5ever::LocalName;

use super::{Element, ElementId, Mark};
use crate::source::offset;

/// Whether an element has no end tag (HTML Standard, "Void elements").
fn is_void(name: &str) -> bool {
    matches!(
        name,
        "area"
            | "base"
            | "br"
            | "col"
            | "embed"
            | "hr"
            | "img"
            | "input"
            | "link"
            | "meta"
            | "param"
            | "source"
            | "track"
            | "wbr"
    )
}

/// How far out an end tag is looked for among what is open, so that many that close nothing cost little.
const FAR: usize = 256;

/// Tags as they are written in one another; start tags have numbers in written order.
#[derive(Default)]
pub(super) struct Nesting {
    /// The start tags that are open, each by its name and number.
    open: Vec<(LocalName, u32)>,
    /// For each start tag, the number of the one that it is written in, where there is one.
    inside: Vec<Option<u32>>,
    /// For each start tag, whether it has an end tag.
    closed: Vec<bool>,
}

impl Nesting {
    /// Takes a start tag in, and gives its number; some close themselves.
    pub(super) fn start(&mut self, name: &LocalName, closes_itself: bool) -> Option<u32> {
        let number = offset(self.inside.len());
        self.inside.push(self.open.last().map(|(_, outer)| *outer));
        self.closed.push(false);
        if !closes_itself && !is_void(name) {
            self.open.push((name.clone(), number));
        }
        Some(number)
    }

    /// Takes an end tag in, which has no number.
    pub(super) fn end(&mut self, name: &LocalName) -> Option<u32> {
        let near = self.open.len().saturating_sub(FAR);
        let found = near + self.open[near..].iter().rposition(|(n, _)| n == name)?;
        self.closed[self.open[found].1 as usize] = true;
        self.open.truncate(found);
        None
    }

    /// The elements that are written inside another than they are in, with that one; `numbers` has those of the elements' own
    /// start tags. What has no end tag of its own is ended by what follows, as everybody means it.
    pub(super) fn misplaced(
        self,
        elements: &[Element],
        numbers: &[Option<u32>],
        mark: Mark,
    ) -> Vec<(ElementId, ElementId)> {
        let id = |i: usize| mark.at(i);
        let mut of_tag: Vec<Option<ElementId>> = vec![None; self.inside.len()];
        for (i, number) in numbers.iter().enumerate() {
            if let Some(number) = number {
                of_tag[*number as usize] = Some(id(i));
            }
        }
        let written = |(i, number): (usize, &Option<u32>)| {
            let outer = self.inside[(*number)? as usize].filter(|outer| self.closed[*outer as usize])?;
            let inside = of_tag[outer as usize]?;
            // The parser implies elements that nobody wrote.
            let mut around = std::iter::successors(elements[i].parent, |p| elements[p.index()].parent);
            let parent = around.find(|p| elements[p.index()].tag.is_some());
            let same_tag = parent.is_some_and(|p| elements[p.index()].tag == elements[inside.index()].tag);
            (!same_tag && elements[i].tree == elements[inside.index()].tree).then(|| (id(i), inside))
        };
        numbers.iter().enumerate().filter_map(written).collect()
    }
}
