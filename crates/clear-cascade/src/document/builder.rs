//! html5ever's tree building into our own arena.

use std::borrow::Cow;
use std::cell::{Cell, RefCell};
use std::collections::HashMap;
use std::num::NonZero;
use std::rc::Rc;
use std::sync::OnceLock;

use html5ever::TokenizerResult;
use html5ever::interface::{ElementFlags, NodeOrText, QuirksMode, TreeSink};
use html5ever::tendril::StrTendril;
use html5ever::tokenizer::{BufferQueue, Token, TokenSink, TokenSinkResult, Tokenizer, TokenizerOpts, states};
use html5ever::tree_builder::{TreeBuilder, TreeBuilderOpts};
use html5ever::{ExpandedName, LocalName, QualName, local_name, ns};
use rustc_hash::{FxHashMap, FxHashSet};
use smallvec::SmallVec;
use smol_str::SmolStr;

use super::name::Names;
use super::nesting::Nesting;
use super::positions::AttributePlaces;
use super::{Attribute, Child, Document, Element, ElementId, FEW, Mark, Name, Namespace, ShadowTree, positions};
use crate::source::{OffsetMap, SourceId, Span, offset};

/// Parses the text of a page. Never fails: HTML gives every text a tree.
#[must_use]
pub(crate) fn parse(source: SourceId, text: &str) -> Document {
    let sink = Positioned::new(source, text);
    let tokenizer = Tokenizer::new(sink, TokenizerOpts { discard_bom: false, ..TokenizerOpts::default() });
    let queue = BufferQueue::default();
    let whole = StrTendril::from_slice(text);
    let mut from = 0;
    // Pieces end after each `>`, so that a tag token is known to end where its piece ends.
    while from < text.len() {
        let to = memchr::memchr(b'>', &text.as_bytes()[from..]).map_or(text.len(), |n| from + n + 1);
        tokenizer.sink.piece_end.set(to);
        queue.push_back(whole.subtendril(offset(from), offset(to - from)));
        while !matches!(tokenizer.feed(&queue), TokenizerResult::Done) {}
        from = to;
    }
    tokenizer.end();
    let tree = tokenizer.sink.builder.sink;
    tree.freeze(text)
}

/// A list with room for what is in it, and no more.
fn exact<T>(items: impl ExactSizeIterator<Item = T>) -> Box<[T]> {
    let mut list = Vec::with_capacity(items.len());
    list.extend(items);
    list.into_boxed_slice()
}

/// Elements that the parser closes and opens again on its own (HTML Standard, "The list of active formatting elements").
const FORMATTING: &[&str] =
    &["a", "b", "big", "code", "em", "font", "i", "nobr", "s", "small", "strike", "strong", "tt", "u"];

/// The tree builder behind a wrapper that finds out where each tag is written.
struct Positioned<'t> {
    /// html5ever's tree construction.
    builder: TreeBuilder<Handle, Tree>,
    /// The whole page.
    text: &'t str,
    /// Where the piece being fed ends.
    piece_end: Cell<usize>,
    /// Where the last token that was not text ended.
    after: Cell<usize>,
    /// Whether the tokenizer is in raw text, where only one end tag counts.
    raw: Cell<bool>,
}

impl<'t> Positioned<'t> {
    /// A fresh tree for the page.
    fn new(source: SourceId, text: &'t str) -> Self {
        let opts = TreeBuilderOpts { scripting_enabled: true, ..TreeBuilderOpts::default() };
        let builder = TreeBuilder::new(Tree::new(source, text), opts);
        Self { builder, text, piece_end: Cell::new(0), after: Cell::new(0), raw: Cell::new(false) }
    }
}

impl TokenSink for Positioned<'_> {
    type Handle = Handle;

    fn process_token(&self, token: Token, line: u64) -> TokenSinkResult<Handle> {
        let end = self.piece_end.get();
        match &token {
            Token::TagToken(tag) => {
                let is_end = tag.kind == html5ever::tokenizer::EndTag;
                let foreign = self.builder.adjusted_current_node_present_but_not_in_html_namespace()
                    || matches!(&*tag.name, "svg" | "math");
                let start = positions::tag_start(self.text, self.after.get(), end, &tag.name, is_end, self.raw.get());
                let mut nesting = self.builder.sink.nesting.borrow_mut();
                let number = match is_end {
                    true => nesting.end(&tag.name),
                    false => nesting.start(&tag.name, tag.self_closing && foreign),
                };
                let places = if is_end { SmallVec::new() } else { positions::attributes(self.text, start, end) };
                *self.builder.sink.tag.borrow_mut() = Some(CurrentTag {
                    name: tag.name.clone(),
                    is_end,
                    start: offset(start),
                    end: offset(end),
                    places,
                    number,
                    created: None,
                });
                self.after.set(end);
                self.raw.set(false);
            }
            Token::CommentToken(_) | Token::DoctypeToken(_) => self.after.set(end),
            _ => {}
        }
        let result = self.builder.process_token(token, line);
        if let TokenSinkResult::RawData(kind) = &result {
            self.raw.set(!matches!(kind, states::RawKind::ScriptDataEscaped(_)));
        }
        result
    }

    fn end(&self) {
        self.builder.end();
    }

    fn adjusted_current_node_present_but_not_in_html_namespace(&self) -> bool {
        self.builder.adjusted_current_node_present_but_not_in_html_namespace()
    }
}

/// The tag that the tree builder is working on.
struct CurrentTag {
    /// Its name.
    name: LocalName,
    /// Whether it is an end tag.
    is_end: bool,
    /// First byte.
    start: u32,
    /// The byte after its `>`.
    end: u32,
    /// Its attributes.
    places: AttributePlaces,
    /// Its number among the start tags.
    number: Option<u32>,
    /// The element last created for it.
    created: Option<u32>,
}

/// A node while the tree is built.
enum Node {
    /// The document, a fragment, or something that does not count (comments).
    Container,
    /// An element.
    Element(Box<OpenElement>),
    /// A run of text.
    Text(StrTendril),
    /// A comment or processing instruction.
    Comment,
}

/// An element while the tree is built.
struct OpenElement {
    /// Its name.
    name: Rc<QualName>,
    /// Its attributes.
    attributes: Vec<Attribute>,
    /// Its start tag.
    tag: Option<Span>,
    /// The fragment with the contents of a `<template>`.
    contents: Option<NonZero<u32>>,
    /// The number of its start tag, where that is its own.
    number: Option<u32>,
    /// The end tag that made it, which has no start tag.
    end_tag: Option<Span>,
    /// MathML `annotation-xml` that holds HTML.
    integration_point: bool,
}

/// A node with its links to others, by their places among all nodes.
struct Linked {
    /// What it is.
    node: Node,
    /// The node around it.
    parent: u32,
    /// The node before it among its siblings.
    previous: u32,
    /// The node after it among its siblings.
    next: u32,
    /// The first node inside.
    first: u32,
    /// The last node inside.
    last: u32,
    /// How many nodes are inside.
    inside: u32,
}

/// The place of no node.
const NONE: u32 = u32::MAX;

impl Linked {
    /// A node without links.
    fn new(node: Node) -> Self {
        Self { node, parent: NONE, previous: NONE, next: NONE, first: NONE, last: NONE, inside: 0 }
    }
}

/// The tree while it is built.
struct Tree {
    /// The page.
    source: SourceId,
    /// All nodes ever made; 0 is the document.
    nodes: RefCell<Vec<Linked>>,
    /// Whether the page is in quirks mode.
    quirks: Cell<bool>,
    /// The tag being worked on.
    tag: RefCell<Option<CurrentTag>>,
    /// How the tags are nested as they are written.
    nesting: RefCell<Nesting>,
    /// The names of elements so far.
    names: RefCell<FxHashSet<Rc<QualName>>>,
    /// The name of what is no element.
    nameless: Rc<QualName>,
}

/// What html5ever knows a node by. It asks for names far more often than for anything else: for each tag, those of all open elements.
#[derive(Clone)]
struct Handle {
    /// Its place among all nodes.
    node: u32,
    /// Its name; empty where it is no element.
    name: Rc<QualName>,
}

impl Tree {
    /// An empty document, with room for that of a text: mostly an element and what is between its tags and others are three nodes for two
    /// tags.
    fn new(source: SourceId, text: &str) -> Self {
        let mut nodes = Vec::with_capacity(memchr::memchr_iter(b'<', text.as_bytes()).count() * 3 / 2 + 4);
        nodes.push(Linked::new(Node::Container));
        Self {
            source,
            nodes: RefCell::new(nodes),
            quirks: Cell::new(false),
            tag: RefCell::default(),
            nesting: RefCell::default(),
            names: RefCell::default(),
            nameless: Rc::new(QualName::new(None, ns!(), local_name!(""))),
        }
    }

    /// The handle of what is no element.
    fn nameless(&self, node: u32) -> Handle {
        Handle { node, name: self.nameless.clone() }
    }

    /// Adds a node without links.
    fn add(&self, node: Node) -> u32 {
        let mut nodes = self.nodes.borrow_mut();
        nodes.push(Linked::new(node));
        offset(nodes.len() - 1)
    }

    /// The name of an element, shared by all that have it.
    fn name(&self, name: QualName) -> Rc<QualName> {
        let mut names = self.names.borrow_mut();
        let known = names.get(&name).cloned();
        known.unwrap_or_else(|| {
            let name = Rc::new(name);
            names.insert(name.clone());
            name
        })
    }

    /// Takes a node out of its parent.
    fn detach(&self, node: u32) {
        let nodes = &mut **self.nodes.borrow_mut();
        let Linked { parent, previous, next, .. } = nodes[node as usize];
        if parent == NONE {
            return;
        }
        match nodes.get_mut(previous as usize) {
            Some(previous) => previous.next = next,
            None => nodes[parent as usize].first = next,
        }
        match nodes.get_mut(next as usize) {
            Some(next) => next.previous = previous,
            None => nodes[parent as usize].last = previous,
        }
        nodes[parent as usize].inside -= 1;
        let linked = &mut nodes[node as usize];
        (linked.parent, linked.previous, linked.next) = (NONE, NONE, NONE);
    }

    /// Puts a node or text into a parent before one of its children, or at its end; text joins text beside it.
    fn insert(&self, parent: u32, before: u32, child: NodeOrText<Handle>) {
        let node = match child {
            NodeOrText::AppendNode(Handle { node, .. }) => {
                self.detach(node);
                node
            }
            NodeOrText::AppendText(text) => {
                {
                    let nodes = &mut **self.nodes.borrow_mut();
                    let last = nodes[parent as usize].last;
                    let beside = nodes.get(before as usize).map_or(last, |before| before.previous);
                    if let Some(Linked { node: Node::Text(run), .. }) = nodes.get_mut(beside as usize) {
                        run.push_tendril(&text);
                        return;
                    }
                }
                self.add(Node::Text(text))
            }
        };
        let nodes = &mut **self.nodes.borrow_mut();
        let previous = match nodes.get_mut(before as usize) {
            Some(next) => std::mem::replace(&mut next.previous, node),
            None => std::mem::replace(&mut nodes[parent as usize].last, node),
        };
        match nodes.get_mut(previous as usize) {
            Some(previous) => previous.next = node,
            None => nodes[parent as usize].first = node,
        }
        nodes[parent as usize].inside += 1;
        let linked = &mut nodes[node as usize];
        (linked.parent, linked.previous, linked.next) = (parent, previous, before);
    }

    /// The attributes of html5ever with the places of the tag being worked on, or those of `like`.
    fn attributes(&self, attrs: Vec<html5ever::Attribute>, places: &[positions::AttributePlace]) -> Vec<Attribute> {
        let source = self.source;
        let none = positions::AttributePlace { name: (0, 0), value: (0, 0) };
        attrs
            .into_iter()
            .enumerate()
            .map(|(i, a)| {
                let place = places.get(i).unwrap_or(&none);
                Attribute {
                    name: Name::parsed(a.name.local),
                    namespace: Box::from(&*a.name.ns),
                    value: SmolStr::new(&*a.value),
                    name_span: Span { source, start: place.name.0, end: place.name.1 },
                    value_span: Span { source, start: place.value.0, end: place.value.1 },
                }
            })
            .collect()
    }

    /// The element written earlier that a formatting element is opened again for.
    fn original(nodes: &[Linked], name: &QualName, values: &[Attribute]) -> Option<(Option<Span>, Vec<Attribute>)> {
        nodes.iter().rev().find_map(|n| match &n.node {
            Node::Element(e) if *e.name == *name && e.tag.is_some() => {
                let same = e.attributes.len() == values.len()
                    && e.attributes.iter().zip(values).all(|(a, b)| a.name == b.name && a.value == b.value);
                same.then(|| (e.tag, e.attributes.clone()))
            }
            _ => None,
        })
    }

    /// Numbers the elements in document order and drops what does not count.
    fn freeze(self, text: &str) -> Document {
        let quirks = self.quirks.get();
        let nodes = self.nodes.into_inner();
        let mark = Mark::of(text);
        let count = nodes.iter().filter(|n| matches!(n.node, Node::Element(_))).count();
        let mut frozen = Freezer {
            mark,
            nodes,
            elements: Vec::with_capacity(count),
            names: Names::with_capacity(count.min(512)),
            texts: Vec::new(),
            text,
            source: self.source,
            shadows: Vec::new(),
            contents: Vec::new(),
            end_tags: HashMap::new(),
            numbers: Vec::new(),
            opened: FxHashMap::default(),
            closed: Vec::new(),
            tree: 0,
        };
        frozen.take_all(0);
        let light = offset(frozen.elements.len());
        // Shadow trees may hold further hosts, which are found on the way.
        while (frozen.tree as usize) < frozen.shadows.len() {
            let contents = frozen.contents[frozen.tree as usize];
            frozen.tree += 1;
            frozen.take_all(contents);
        }
        let assigned = assign_slots(&frozen.elements, &frozen.shadows, mark);
        let Freezer { elements, texts, mut shadows, end_tags, numbers, closed, .. } = frozen;
        let misplaced = self.nesting.into_inner().misplaced(&elements, &numbers, mark);
        place_trees(&elements, &mut shadows);
        Document {
            source: self.source,
            mark,
            elements,
            light,
            shadows,
            assigned,
            quirks,
            texts,
            end_tags,
            misplaced,
            closed,
            crowded: OnceLock::new(),
            numbers: OnceLock::new(),
            controls: OnceLock::new(),
        }
    }
}

/// Elements besides custom ones that may have a shadow tree (DOM Standard, "valid shadow host name").
const HOSTS: &[&str] = &[
    "article",
    "aside",
    "blockquote",
    "body",
    "div",
    "footer",
    "h1",
    "h2",
    "h3",
    "h4",
    "h5",
    "h6",
    "header",
    "main",
    "nav",
    "p",
    "section",
    "span",
];

/// Gives shadow trees their places in shadow-including tree order: a tree comes right at its host, before what is inside
/// the host (DOM Standard, "shadow-including tree order").
fn place_trees(elements: &[Element], shadows: &mut [ShadowTree]) {
    let mut hosts: Vec<Vec<u32>> = vec![Vec::new(); shadows.len() + 1];
    for element in elements.iter().filter(|e| e.shadow != 0) {
        hosts[element.tree as usize].push(element.shadow);
    }
    hosts.iter_mut().for_each(|inside| inside.reverse());
    let mut open = hosts[0].clone();
    let mut place = 0;
    while let Some(tree) = open.pop() {
        place += 1;
        shadows[tree as usize - 1].place = place;
        open.extend(&hosts[tree as usize]);
    }
}

/// The slots of children of hosts (DOM Standard, "find a slot").
fn assign_slots(elements: &[Element], shadows: &[ShadowTree], mark: Mark) -> HashMap<ElementId, ElementId> {
    let mut assigned = HashMap::new();
    let name = |e: &Element, attribute: &str| e.attribute(attribute).unwrap_or_default().to_owned();
    for (i, shadow) in shadows.iter().enumerate() {
        let tree = offset(i + 1);
        let slots = elements.iter().enumerate().filter(|(_, e)| e.tree == tree && e.is_html("slot"));
        let slots: Vec<(String, ElementId)> = slots.map(|(n, e)| (name(e, "name"), mark.at(n))).collect();
        for child in elements[shadow.host.index()].child_elements() {
            let wanted = name(&elements[child.index()], "slot");
            if let Some((_, slot)) = slots.iter().find(|(name, _)| *name == wanted) {
                assigned.insert(child, *slot);
            }
        }
    }
    assigned
}

/// Turns the tree that was built into the arena of elements.
struct Freezer<'t> {
    /// The nodes that were built and are not yet taken.
    nodes: Vec<Linked>,
    /// The elements so far.
    elements: Vec<Element>,
    /// The names of their classes.
    names: Names,
    /// Texts of style sheets in the page.
    texts: Vec<(ElementId, OffsetMap, Box<str>)>,
    /// The page.
    text: &'t str,
    /// What its elements are known by.
    mark: Mark,
    /// The page's number.
    source: SourceId,
    /// Shadow trees so far.
    shadows: Vec<ShadowTree>,
    /// The contents of the template of each shadow tree.
    contents: Vec<u32>,
    /// End tags that made elements.
    end_tags: HashMap<ElementId, Span>,
    /// The numbers of the elements' own start tags.
    numbers: Vec<Option<u32>>,
    /// The open one of groups of `<details>`, by tree and name.
    opened: FxHashMap<(u32, Box<str>), ElementId>,
    /// Those that it closes, with the open one.
    closed: Vec<(ElementId, ElementId)>,
    /// The tree being taken: 0 for the page.
    tree: u32,
}

/// An element of which not all that is inside is taken.
struct Unfinished {
    /// The element.
    id: ElementId,
    /// The node inside that is taken next.
    next: u32,
    /// What was taken.
    children: Vec<Child>,
    /// The last element among that.
    last: Option<ElementId>,
}

impl Freezer<'_> {
    /// Takes all that is inside a node.
    fn take_all(&mut self, node: u32) {
        let mut next = self.nodes[node as usize].first;
        while next != NONE {
            self.take(next);
            next = self.nodes[next as usize].next;
        }
    }

    /// Makes a shadow tree of a `<template shadowrootmode>` in an element that may have one and has none yet.
    fn shadow(&mut self, element: &OpenElement, parent: Option<ElementId>) -> bool {
        let mode = element.attributes.iter().find(|a| &*a.name == "shadowrootmode" && a.namespace.is_empty());
        let (Some(contents), Some(mode), Some(host)) = (element.contents, mode, parent) else {
            return false;
        };
        let open = mode.value.eq_ignore_ascii_case("open") || mode.value.eq_ignore_ascii_case("closed");
        let outer = &mut self.elements[host.index()];
        let may = outer.namespace == Namespace::Html && (outer.name.contains('-') || HOSTS.contains(&&*outer.name));
        if !open || !may || outer.shadow != 0 {
            return false;
        }
        outer.shadow = offset(self.shadows.len() + 1);
        self.shadows.push(ShadowTree { host, tops: Vec::new(), place: 0 });
        self.contents.push(contents.get());
        true
    }

    /// Takes a node at the top of the document and all inside it, without recursion: pages may nest deeply.
    fn take(&mut self, top: u32) {
        let mut open: Vec<Unfinished> = Vec::new();
        let mut next = top;
        loop {
            if let Some(linked) = self.nodes.get_mut(next as usize) {
                let (first, inside) = (linked.first, linked.inside as usize);
                if let Some(around) = open.last_mut() {
                    around.next = linked.next;
                }
                match std::mem::replace(&mut linked.node, Node::Container) {
                    Node::Element(element) if self.shadow(&element, open.last().map(|around| around.id)) => {}
                    Node::Element(element) => {
                        let id = self.element(*element, open.last_mut());
                        open.push(Unfinished { id, next: first, children: Vec::with_capacity(inside), last: None });
                    }
                    Node::Text(run) => {
                        if let Some(around) = open.last_mut() {
                            around.children.push(Child::Text(SmolStr::new(&*run)));
                        }
                    }
                    Node::Container | Node::Comment => {}
                }
            }
            match open.last() {
                None => return,
                Some(around) if around.next != NONE => next = around.next,
                Some(_) => {
                    if let Some(Unfinished { id, children, .. }) = open.pop() {
                        self.elements[id.index()].children = children.into_boxed_slice();
                        self.style_text(id);
                    }
                    next = NONE;
                }
            }
        }
    }

    /// Adds one element to those of the element around it.
    fn element(&mut self, mut from: OpenElement, around: Option<&mut Unfinished>) -> ElementId {
        let id = self.mark.at(self.elements.len());
        if &*from.name.local == "details" && from.name.ns == ns!(html) {
            self.close_details(id, &mut from.attributes);
        }
        let value = |name: &str| from.attributes.iter().find(|a| &*a.name == name && a.namespace.is_empty());
        let parent = around.as_ref().map(|around| around.id);
        let tops = self.shadows.get_mut((self.tree as usize).wrapping_sub(1)).filter(|_| parent.is_none());
        let previous = match (around, tops) {
            (Some(around), _) => {
                around.children.push(Child::Element(id));
                around.last.replace(id)
            }
            (None, Some(tree)) => {
                tree.tops.push(id);
                tree.tops.len().checked_sub(2).map(|i| tree.tops[i])
            }
            (None, None) => None,
        };
        let position = previous.map_or(1, |p| self.elements[p.index()].position + 1);
        let depth = parent.map_or(0, |p| self.elements[p.index()].depth + 1);
        if let Some(previous) = previous {
            self.elements[previous.index()].next = Some(id);
        }
        let white = |c: char| matches!(c, '\t' | '\n' | '\x0C' | '\r' | ' ');
        let classes = value("class").into_iter().flat_map(|a| a.value.split(white)).filter(|c| !c.is_empty());
        let mut classes: SmallVec<[Name; 8]> = classes.map(|class| self.names.of(class)).collect();
        if classes.len() > FEW || classes.iter().enumerate().any(|(i, class)| classes[..i].contains(class)) {
            let mut seen = FxHashSet::default();
            classes.retain(|class| seen.insert(class.clone()));
        }
        let written_id = value("id").filter(|a| !a.value.is_empty()).map(|a| Name::from(&*a.value));
        if let Some(style) = value("style") {
            let raw = &self.text[style.value_span.start as usize..style.value_span.end as usize];
            let steps = positions::decoded_steps(raw, &style.value, style.value_span.start);
            if steps.len() > 1 {
                self.texts.push((id, OffsetMap::steps(self.source, steps), Box::from(&*style.value)));
            }
        }
        self.elements.push(Element {
            name: Name::parsed(from.name.local.clone()),
            namespace: Namespace::of(&from.name.ns),
            id: written_id,
            classes: exact(classes.into_iter()),
            attributes: from.attributes.into_boxed_slice(),
            tag: from.tag,
            parent,
            previous,
            next: None,
            position,
            children: Box::default(),
            depth,
            tree: self.tree,
            shadow: 0,
        });
        self.numbers.push(from.number);
        if let Some(tag) = from.end_tag {
            self.end_tags.insert(id, tag);
        }
        id
    }

    /// Closes a `<details>` if one with its name is open before it (HTML Standard, "ensure details exclusivity").
    fn close_details(&mut self, id: ElementId, attributes: &mut Vec<Attribute>) {
        let find = |name: &str| attributes.iter().position(|a| &*a.name == name && a.namespace.is_empty());
        let (Some(open), Some(name)) = (find("open"), find("name").map(|i| &*attributes[i].value)) else {
            return;
        };
        if !name.is_empty() {
            let first = *self.opened.entry((self.tree, Box::from(name))).or_insert(id);
            if first != id {
                self.closed.push((id, first));
                attributes.remove(open);
            }
        }
    }

    /// Keeps the text of a `<style>` element with its offsets: a plain slice of the page for HTML, where it is raw text.
    fn style_text(&mut self, id: ElementId) {
        let element = &self.elements[id.index()];
        if &*element.name != "style" || !matches!(element.namespace, Namespace::Html | Namespace::Svg) {
            return;
        }
        let Some(tag) = element.tag else { return };
        let from = tag.end as usize;
        let decoded = element.own_text();
        let written = self.text.get(from..from + decoded.len()).filter(|raw| **raw == *decoded);
        let (map, text) = match (element.namespace, written) {
            (Namespace::Html, _) => {
                let lower = self.text[from..].to_ascii_lowercase();
                let ends = |n: &usize| {
                    matches!(lower.as_bytes().get(n + 7), Some(b'\t' | b'\n' | b'\x0C' | b'\r' | b' ' | b'/' | b'>'))
                };
                let length = lower.match_indices("</style").map(|(n, _)| n).find(ends).unwrap_or(lower.len());
                (OffsetMap::slice(self.source, tag.end), &self.text[from..from + length])
            }
            (_, Some(raw)) => (OffsetMap::slice(self.source, tag.end), raw),
            _ => {
                // Character references or CDATA in SVG: the text starts where its first words are written.
                let first = decoded.trim_start().split('\n').next().unwrap_or_default();
                let skip = self.text[from..].find(first).unwrap_or(0);
                let lead = decoded.len() - decoded.trim_start().len();
                let base = (tag.end + offset(skip)).saturating_sub(offset(lead));
                self.texts.push((id, OffsetMap::slice(self.source, base), decoded.into_boxed_str()));
                return;
            }
        };
        self.texts.push((id, map, Box::from(text)));
    }
}

impl TreeSink for Tree {
    type Handle = Handle;
    type Output = Self;
    type ElemName<'a> = ExpandedName<'a>;

    fn finish(self) -> Self {
        self
    }

    fn parse_error(&self, _: Cow<'static, str>) {}

    fn get_document(&self) -> Handle {
        self.nameless(0)
    }

    fn elem_name<'a>(&'a self, target: &'a Handle) -> ExpandedName<'a> {
        target.name.expanded()
    }

    fn create_element(&self, name: QualName, attrs: Vec<html5ever::Attribute>, flags: ElementFlags) -> Handle {
        let contents = flags.template.then(|| self.add(Node::Container)).and_then(NonZero::new);
        let mut current = self.tag.borrow_mut();
        let source = self.source;
        let own = current.as_mut().filter(|t| {
            !t.is_end && (t.name.eq_ignore_ascii_case(&name.local) || (&*t.name == "image" && &*name.local == "img"))
        });
        let mut tag = None;
        let attributes;
        let mut reopened = None;
        if let Some(own) = own {
            // Of several elements with the tag's name, the last is the tag's own; those before were opened again.
            reopened = own.created.take();
            tag = Some(Span { source, start: own.start, end: own.end });
            attributes = self.attributes(attrs, &own.places);
        } else {
            let values = self.attributes(attrs, &[]);
            let formatting = FORMATTING.contains(&&*name.local);
            let original = formatting.then(|| Self::original(&self.nodes.borrow(), &name, &values)).flatten();
            if let Some((span, places)) = original {
                tag = span;
                attributes = places;
            } else {
                attributes = values;
            }
        }
        if let Some(reopened) = reopened {
            let mut nodes = self.nodes.borrow_mut();
            let (before, after) = nodes.split_at_mut(reopened as usize);
            if let Node::Element(e) = &mut after[0].node
                && let Some((span, places)) = Self::original(before, &e.name, &e.attributes)
            {
                e.tag = span;
                e.attributes = places;
                e.number = None;
            }
        }
        let is_own = tag.is_some_and(|t| current.as_ref().is_some_and(|c| !c.is_end && c.start == t.start));
        // `</p>` and `</br>` with nothing to close make elements (HTML Standard, "The "in body" insertion mode").
        let end_tag = current.as_ref().filter(|c| c.is_end && tag.is_none() && c.name == name.local);
        let end_tag = end_tag.map(|c| Span { source, start: c.start, end: c.end });
        let integration_point = flags.mathml_annotation_xml_integration_point;
        let name = self.name(name);
        let node = self.add(Node::Element(Box::new(OpenElement {
            name: name.clone(),
            attributes,
            tag,
            contents,
            number: current.as_ref().filter(|_| is_own).and_then(|c| c.number),
            end_tag,
            integration_point,
        })));
        if let Some(current) = current.as_mut().filter(|_| is_own) {
            current.created = Some(node);
        }
        Handle { node, name }
    }

    fn create_comment(&self, _: StrTendril) -> Handle {
        self.nameless(self.add(Node::Comment))
    }

    fn create_pi(&self, _: StrTendril, _: StrTendril) -> Handle {
        self.nameless(self.add(Node::Comment))
    }

    fn append(&self, parent: &Handle, child: NodeOrText<Handle>) {
        self.insert(parent.node, NONE, child);
    }

    fn append_based_on_parent_node(&self, element: &Handle, previous: &Handle, child: NodeOrText<Handle>) {
        if self.nodes.borrow()[element.node as usize].parent != NONE {
            self.append_before_sibling(element, child);
        } else {
            self.append(previous, child);
        }
    }

    fn append_doctype_to_document(&self, _: StrTendril, _: StrTendril, _: StrTendril) {}

    fn get_template_contents(&self, target: &Handle) -> Handle {
        match &self.nodes.borrow()[target.node as usize].node {
            Node::Element(e) => e.contents.map_or_else(|| target.clone(), |contents| self.nameless(contents.get())),
            _ => target.clone(),
        }
    }

    fn same_node(&self, x: &Handle, y: &Handle) -> bool {
        x.node == y.node
    }

    fn set_quirks_mode(&self, mode: QuirksMode) {
        self.quirks.set(mode == QuirksMode::Quirks);
    }

    fn append_before_sibling(&self, sibling: &Handle, child: NodeOrText<Handle>) {
        if let NodeOrText::AppendNode(node) = &child {
            self.detach(node.node);
        }
        let parent = self.nodes.borrow()[sibling.node as usize].parent;
        if parent != NONE {
            self.insert(parent, sibling.node, child);
        }
    }

    fn add_attrs_if_missing(&self, target: &Handle, attrs: Vec<html5ever::Attribute>) {
        let current = self.tag.borrow();
        let places = current.as_ref().map_or(&[][..], |t| &t.places);
        let new = self.attributes(attrs, places);
        if let Node::Element(e) = &mut self.nodes.borrow_mut()[target.node as usize].node {
            let known: FxHashSet<Name> = e.attributes.iter().map(|a| a.name.clone()).collect();
            e.attributes.extend(new.into_iter().filter(|a| !known.contains(&a.name)));
        }
    }

    fn remove_from_parent(&self, target: &Handle) {
        self.detach(target.node);
    }

    fn reparent_children(&self, node: &Handle, new_parent: &Handle) {
        loop {
            let first = self.nodes.borrow()[node.node as usize].first;
            if first == NONE {
                return;
            }
            self.insert(new_parent.node, NONE, NodeOrText::AppendNode(self.nameless(first)));
        }
    }

    fn is_mathml_annotation_xml_integration_point(&self, handle: &Handle) -> bool {
        matches!(&self.nodes.borrow()[handle.node as usize].node, Node::Element(e) if e.integration_point)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// The body of a page: each element with what is inside in brackets.
    fn tree(page: &str) -> String {
        let document = parse(SourceId::QUESTION, page);
        let mut text = String::new();
        let mut open = vec![(document.ids().find(|id| document.node(*id).is_html("body")).unwrap(), 0)];
        while let Some((id, at)) = open.pop() {
            let element = document.node(id);
            if at == 0 {
                text += &format!("{}(", element.name);
                let elements: Vec<ElementId> = element.child_elements().collect();
                for (i, child) in elements.iter().enumerate() {
                    let child = document.node(*child);
                    let before = i.checked_sub(1).map(|b| elements[b]);
                    let after = elements.get(i + 1).copied();
                    assert_eq!((child.parent, child.previous, child.next), (Some(id), before, after), "{page}");
                    assert_eq!((child.position as usize, child.depth), (i + 1, element.depth + 1), "{page}");
                }
            }
            match element.children.get(at) {
                None => text.push(')'),
                Some(child) => {
                    open.push((id, at + 1));
                    match child {
                        Child::Text(run) => text += &format!("{run:?} "),
                        Child::Element(inside) => open.push((*inside, 0)),
                    }
                }
            }
        }
        text
    }

    /// Pages and their bodies. The first five are worked through in the HTML Standard, §13.2.10 "An introduction to error handling and
    /// strange cases in the parser".
    const TREES: &[(&str, &str)] = &[
        ("<p>1<b>2<i>3</b>4</i>5</p>", r#"body(p("1" b("2" i("3" ))i("4" )"5" ))"#),
        ("<b>1<p>2</b>3</p>", r#"body(b("1" )p(b("2" )"3" ))"#),
        ("<table><b><tr><td>aaa</td></tr>bbb</table>ccc", r#"body(b()b("bbb" )table(tbody(tr(td("aaa" ))))b("ccc" ))"#),
        (
            "<p><b class=x><b class=x><b><b class=x><b class=x><b>X<p>X",
            r#"body(p(b(b(b(b(b(b("X" )))))))p(b(b(b(b(b("X" )))))))"#,
        ),
        (
            "<a href=a>a<a href=b>b<table><a href=c>c<tr><td>d</table>e",
            r#"body(a("a" )a("b" a("c" )table(tbody(tr(td("d" )))))a("e" ))"#,
        ),
        ("<table>x<tr>y<td>z", r#"body("xy" table(tbody(tr(td("z" )))))"#),
        ("a<!-- -->b<p>c<?d>e", r#"body("a" "b" p("c" "e" ))"#),
        ("<div><template><p>a</template>b", r#"body(div(template()"b" ))"#),
        ("<body>a</body>b<i>c", r#"body("ab" i("c" ))"#),
        ("<select><option>b<hr><optgroup>c", r#"body(select(option("b" )hr()optgroup("c" )))"#),
        ("<svg><p>a<svg><g>c<foreignObject><p>d", r#"body(svg()p("a" svg(g("c" foreignObject(p("d" ))))))"#),
    ];

    #[test]
    fn trees_are_those_of_the_standard() {
        for (page, expected) in TREES {
            assert_eq!(tree(page), *expected, "{page}");
        }
    }
}
