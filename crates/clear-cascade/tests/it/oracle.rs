//! Random pages answered a second time: the cascade's order, layers, scopes, trees and the matching of selectors written
//! down as the standards word them, as slowly as need be, and sharing nothing with the library.

use std::cmp::Ordering;
use std::fmt::Write as _;
use std::rc::Rc;

use clear_cascade::{MemoryLoader, Options, Study};

/// Random numbers that are the same each run.
pub(crate) struct Dice(pub(crate) u64);

impl Dice {
    /// A number below `n`.
    pub(crate) fn below(&mut self, n: usize) -> usize {
        self.0 ^= self.0 << 13;
        self.0 ^= self.0 >> 7;
        self.0 ^= self.0 << 17;
        usize::try_from(self.0 >> 11).unwrap() % n
    }

    /// Whether something happens that does so `percent` times of a hundred.
    pub(crate) fn chance(&mut self, percent: usize) -> bool {
        self.below(100) < percent
    }

    /// One of some.
    pub(crate) fn one<T: Copy>(&mut self, list: &[T]) -> T {
        list[self.below(list.len())]
    }
}

/// A simple selector.
enum Simple {
    Any,
    Tag(&'static str),
    Class(&'static str),
    Id(usize),
    First,
    Nth(i64, i64),
    Not(Vec<Complex>),
    Is(Vec<Complex>),
    Where(Vec<Complex>),
    Has(Vec<Complex>),
    Scope,
    Parent,
    Host(Option<&'static str>),
}

/// Compounds, each with what combines it with the one before; of a relative selector the first one's counts.
struct Complex {
    compounds: Vec<(char, Vec<Simple>)>,
    slotted: Option<&'static str>,
}

/// `(a, b, c)` of Selectors 4, §17.
type Weight = (usize, usize, usize);

/// Where a selector stands: its tree, the scoping root, and the rule around it.
#[derive(Clone)]
struct Context {
    tree: Option<usize>,
    scope: Option<usize>,
    around: Option<Rc<Vec<Complex>>>,
}

/// `@scope (roots) to (limits)`.
struct Scope {
    roots: Vec<Complex>,
    limits: Vec<Complex>,
}

/// `property: value`, on a line of its own.
struct Declaration {
    property: &'static str,
    value: String,
    important: bool,
    line: usize,
}

/// A rule that is on.
struct Rule {
    user: bool,
    tree: Option<usize>,
    layer: Vec<String>,
    scopes: Vec<Rc<Scope>>,
    list: Rc<Vec<Complex>>,
    around: Option<Rc<Vec<Complex>>>,
    declarations: Vec<Declaration>,
    line: usize,
}

/// An element; `parent` is in its own tree.
struct Element {
    tag: &'static str,
    classes: Vec<&'static str>,
    parent: Option<usize>,
    tree: usize,
    style: Vec<Declaration>,
}

/// A page, as text and as what it is meant to be.
#[derive(Default)]
struct Page {
    html: String,
    user: String,
    elements: Vec<Element>,
    hosts: Vec<usize>,
    rules: Vec<Rule>,
    /// Names of layers of an origin and tree in the order in which they first came up.
    layers: Vec<(bool, Option<usize>, Vec<String>)>,
    anonymous: usize,
    /// By rule and element: the specificity, and the steps to the scoping root, of a rule that takes the element.
    taken: Vec<Vec<Option<(Weight, usize)>>>,
}

/// What is around a rule that is being made.
#[derive(Clone, Default)]
struct Around {
    user: bool,
    tree: Option<usize>,
    layer: Vec<String>,
    scopes: Vec<Rc<Scope>>,
    off: bool,
}

const TAGS: &[&str] = &["div", "p", "b", "section"];
const CLASSES: &[&str] = &["a", "b", "c"];

impl std::fmt::Display for Simple {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        match self {
            Self::Any => f.write_str("*"),
            Self::Tag(name) => f.write_str(name),
            Self::Class(name) => write!(f, ".{name}"),
            Self::Id(n) => write!(f, "#e{n}"),
            Self::First => f.write_str(":first-child"),
            Self::Nth(a, b) => write!(f, ":nth-child({a}n{b:+})"),
            Self::Not(list) => write!(f, ":not({})", listed(list)),
            Self::Is(list) => write!(f, ":is({})", listed(list)),
            Self::Where(list) => write!(f, ":where({})", listed(list)),
            Self::Has(list) => write!(f, ":has({})", listed(list)),
            Self::Scope => f.write_str(":scope"),
            Self::Parent => f.write_str("&"),
            Self::Host(None) => f.write_str(":host"),
            Self::Host(Some(class)) => write!(f, ":host(.{class})"),
        }
    }
}

impl std::fmt::Display for Complex {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        for (i, (combinator, compound)) in self.compounds.iter().enumerate() {
            if i > 0 || *combinator != ' ' {
                write!(f, " {combinator} ")?;
            }
            compound.iter().try_for_each(|s| write!(f, "{s}"))?;
        }
        self.slotted.map_or(Ok(()), |class| write!(f, "::slotted(.{class})"))
    }
}

/// A selector list as text.
fn listed(list: &[Complex]) -> String {
    list.iter().map(|c| c.to_string().trim().to_owned()).collect::<Vec<_>>().join(", ")
}

/// Selectors 4, §17 "Calculating a selector's specificity"; CSS Nesting 1, §3.2; CSS Scoping 1, §3.2.
fn weight(complex: &Complex, around: Option<&Vec<Complex>>) -> Weight {
    let add = |a: Weight, b: Weight| (a.0 + b.0, a.1 + b.1, a.2 + b.2);
    let heaviest = |list: &[Complex]| list.iter().map(|c| weight(c, around)).max().unwrap_or_default();
    let simple = |s: &Simple| match s {
        Simple::Any | Simple::Where(_) => (0, 0, 0),
        Simple::Tag(_) => (0, 0, 1),
        Simple::Id(_) => (1, 0, 0),
        Simple::Class(_) | Simple::First | Simple::Nth(..) | Simple::Scope | Simple::Host(None) => (0, 1, 0),
        Simple::Host(Some(_)) => (0, 2, 0),
        Simple::Not(list) | Simple::Is(list) | Simple::Has(list) => heaviest(list),
        // In `@scope`, without a rule around, it is `:where(:scope)`.
        Simple::Parent => around.map_or((0, 0, 0), |list| list.iter().map(|c| weight(c, None)).max().unwrap()),
    };
    let own = complex.compounds.iter().flat_map(|(_, c)| c).map(simple).fold((0, 0, 0), add);
    if complex.slotted.is_some() { add(own, (0, 1, 1)) } else { own }
}

impl Page {
    /// The elements with the same parent, in order.
    fn siblings(&self, e: usize) -> Vec<usize> {
        let same = |o: &usize| {
            self.elements[*o].parent == self.elements[e].parent && self.elements[*o].tree == self.elements[e].tree
        };
        (0..self.elements.len()).filter(same).collect()
    }

    /// The element around another for selectors of a tree: around the top of a shadow tree is its host.
    fn up(&self, e: usize, context: &Context) -> Option<usize> {
        let element = &self.elements[e];
        let host = || (context.tree == Some(element.tree) && element.tree > 0).then(|| self.hosts[element.tree - 1]);
        element.parent.or_else(host)
    }

    /// The parent in the flat tree (CSS Scoping 1, §3.4).
    fn flat_parent(&self, e: usize) -> Option<usize> {
        let element = &self.elements[e];
        match element.parent {
            None if element.tree > 0 => Some(self.hosts[element.tree - 1]),
            None => None,
            Some(parent) => Some(self.slot_in(parent).unwrap_or(parent)),
        }
    }

    /// The slot in the shadow tree of a host.
    fn slot_in(&self, host: usize) -> Option<usize> {
        let tree = self.hosts.iter().position(|h| *h == host)? + 1;
        self.elements.iter().position(|e| e.tree == tree && e.tag == "slot")
    }

    /// Whether a simple selector represents an element.
    fn simple(&self, s: &Simple, e: usize, context: &Context) -> bool {
        let element = &self.elements[e];
        let is_host = context.tree.is_some_and(|t| t > 0 && self.hosts[t - 1] == e);
        if is_host {
            // CSS Scoping 1, §3.2.1: the host is featureless, seen from inside.
            return match s {
                Simple::Host(class) => class.is_none_or(|c| element.classes.contains(&c)),
                Simple::Scope => context.scope == Some(e),
                Simple::Parent => match &context.around {
                    Some(list) => self.any(list, e, &Context { around: None, ..context.clone() }),
                    None => context.scope == Some(e),
                },
                Simple::Is(list) | Simple::Where(list) => self.any(list, e, context),
                _ => false,
            };
        }
        let place = |e: usize| i64::try_from(self.siblings(e).iter().position(|o| *o == e).unwrap()).unwrap() + 1;
        match s {
            Simple::Any => true,
            Simple::Tag(name) => element.tag == *name,
            Simple::Class(name) => element.classes.contains(name),
            Simple::Id(n) => e == *n,
            Simple::First => place(e) == 1,
            Simple::Nth(a, b) => (0..100).any(|n| a * n + b == place(e)),
            Simple::Not(list) => !self.any(list, e, context),
            Simple::Is(list) | Simple::Where(list) => self.any(list, e, context),
            Simple::Has(list) => (0..self.elements.len())
                .any(|o| list.iter().any(|c| self.complex(c, c.compounds.len() - 1, o, Some(e), context))),
            Simple::Scope => context.scope == Some(e),
            Simple::Parent => match &context.around {
                Some(list) => self.any(list, e, &Context { around: None, ..context.clone() }),
                None => context.scope == Some(e),
            },
            Simple::Host(_) => false,
        }
    }

    /// Whether one of some selectors represents an element.
    fn any(&self, list: &[Complex], e: usize, context: &Context) -> bool {
        // `&` is no pseudo-element (CSS Nesting 1, §3.2).
        list.iter().any(|c| c.slotted.is_none() && self.complex(c, c.compounds.len() - 1, e, None, context))
    }

    /// Whether the compounds up to one represent an element, all ways tried.
    fn complex(&self, c: &Complex, last: usize, e: usize, anchor: Option<usize>, context: &Context) -> bool {
        let (combinator, compound) = &c.compounds[last];
        if self.elements[e].tree != context.tree.unwrap_or(self.elements[e].tree)
            && context.tree.is_none_or(|t| t == 0 || self.hosts[t - 1] != e)
        {
            return false;
        }
        if !compound.iter().all(|s| self.simple(s, e, context)) {
            return false;
        }
        let before = || self.siblings(e).into_iter().take_while(|o| *o != e).collect::<Vec<_>>();
        let ancestors = || std::iter::successors(self.up(e, context), |o| self.up(*o, context)).collect::<Vec<_>>();
        let related = match combinator {
            ' ' => ancestors(),
            '>' => ancestors().into_iter().take(1).collect(),
            '+' => before().into_iter().rev().take(1).collect(),
            _ => before(),
        };
        match (last, anchor) {
            (0, None) => true,
            (0, Some(anchor)) => related.contains(&anchor),
            _ => related.into_iter().any(|o| self.complex(c, last - 1, o, anchor, context)),
        }
    }

    /// The scoping roots in whose scope an element is, with the steps up to each (CSS Cascade 6, §2.5).
    fn roots(&self, scopes: &[Rc<Scope>], e: usize, tree: Option<usize>) -> Vec<(usize, usize)> {
        let Some((inner, outer)) = scopes.split_last() else { return Vec::new() };
        let context = |scope| Context { tree, scope, around: None };
        let lineage: Vec<usize> = std::iter::successors(Some(e), |o| self.up(*o, &context(None))).collect();
        let mut found = Vec::new();
        for (steps, root) in lineage.iter().enumerate() {
            let around = self.roots(outer, *root, tree);
            let is_root = match outer {
                [] => self.any(&inner.roots, *root, &context(None)),
                _ => around.iter().any(|(r, _)| self.any(&inner.roots, *root, &context(Some(*r)))),
            };
            let limited = lineage[..=steps].iter().any(|o| self.any(&inner.limits, *o, &context(Some(*root))));
            if is_root && !limited {
                found.push((*root, steps));
            }
        }
        found
    }

    /// How a rule takes an element: the specificity, and the steps to the scoping root.
    fn takes(&self, rule: &Rule, e: usize) -> Option<(Weight, usize)> {
        let element = &self.elements[e];
        let slot = element.parent.and_then(|p| self.slot_in(p));
        let subject = |c: &Complex| match c.slotted {
            Some(class) => {
                slot.filter(|s| Some(self.elements[*s].tree) == rule.tree && element.classes.contains(&class))
            }
            None => Some(e),
        };
        let mut best: Option<(Weight, usize)> = None;
        for complex in rule.list.iter() {
            let Some(subject) = subject(complex) else { continue };
            let last = complex.compounds.len() - 1;
            let fits = |scope| {
                let context = Context { tree: rule.tree, scope, around: rule.around.clone() };
                self.complex(complex, last, subject, None, &context)
            };
            let found = if rule.scopes.is_empty() {
                fits(None).then_some(usize::MAX)
            } else {
                let roots = self.roots(&rule.scopes, subject, rule.tree);
                roots.into_iter().filter(|(root, _)| fits(Some(*root))).map(|(_, steps)| steps).min()
            };
            let heavier = |w: Weight, steps: usize| best.is_none_or(|(b, s)| w > b || (w == b && steps < s));
            if let Some(steps) = found {
                let weight = weight(complex, rule.around.as_deref());
                if heavier(weight, steps) {
                    best = Some((weight, steps));
                }
            }
        }
        best
    }

    /// CSS Cascade 5, §6.4.2: layers in the order in which they first came up, and what is in none of the layers inside of
    /// one after those.
    fn compare_layers(&self, user: bool, tree: Option<usize>, a: &[String], b: &[String]) -> Ordering {
        let first = |path: &[String]| self.layers.iter().position(|(u, t, p)| *u == user && *t == tree && p == path);
        let same = a.iter().zip(b).take_while(|(x, y)| x == y).count();
        match (a.len() > same, b.len() > same) {
            (true, true) => first(&a[..=same]).cmp(&first(&b[..=same])),
            (a_inside, b_inside) => b_inside.cmp(&a_inside),
        }
    }

    /// What wants to set a property of an element, strongest first (CSS Cascade 6, §3.1).
    fn sorted(&self, e: usize, property: &str) -> Vec<Entry<'_>> {
        let mut entries = Vec::new();
        for (order, rule) in self.rules.iter().enumerate() {
            let Some((weight, steps)) = self.taken[order][e] else { continue };
            for (n, declaration) in rule.declarations.iter().enumerate().filter(|(_, d)| d.property == property) {
                let (tree, layer, user) = (rule.tree, &*rule.layer, rule.user);
                entries.push(Entry {
                    important: declaration.important,
                    declaration,
                    user,
                    tree,
                    attached: false,
                    layer,
                    weight,
                    steps,
                    order: (order, n),
                });
            }
        }
        for (n, declaration) in self.elements[e].style.iter().enumerate().filter(|(_, d)| d.property == property) {
            let tree = Some(self.elements[e].tree);
            let (user, layer, weight, steps, order) = (false, &[][..], (0, 0, 0), 0, (0, n));
            entries.push(Entry {
                declaration,
                important: declaration.important,
                user,
                tree,
                attached: true,
                layer,
                weight,
                steps,
                order,
            });
        }
        let finer = |x: &Entry<'_>, y: &Entry<'_>| {
            x.weight.cmp(&y.weight).then(y.steps.cmp(&x.steps)).then(x.order.cmp(&y.order))
        };
        entries.sort_by(|x, y| self.levels(x, y).then_with(|| finer(x, y)));
        entries.reverse();
        entries
    }

    /// Compares two declarations by origin and importance, tree, attachment and layer (CSS Cascade 6, §3.1).
    fn levels(&self, x: &Entry<'_>, y: &Entry<'_>) -> Ordering {
        let turned = |o: Ordering| if x.important { o.reverse() } else { o };
        let trees = || turned(y.tree.cmp(&x.tree));
        let attached = || x.attached.cmp(&y.attached);
        let layers = || turned(self.compare_layers(x.user, x.tree, x.layer, y.layer));
        x.origin().cmp(&y.origin()).then_with(trees).then_with(attached).then_with(layers)
    }

    /// The computed value (CSS Cascade 6, §4 and §7.3).
    fn value(&self, e: usize, property: &str) -> String {
        let (initial, inherits) = if property == "orphans" { ("2", true) } else { ("0", false) };
        let inherited = || self.flat_parent(e).map_or(initial.to_owned(), |p| self.value(p, property));
        let mut left = self.sorted(e, property);
        while let Some(first) = left.first().cloned() {
            match &*first.declaration.value {
                // All that outranks the origin, or the layer, among normal declarations goes as well: docs/departures.md.
                "revert" => left.retain(|x| x.normal().origin() < first.normal().origin()),
                "revert-layer" => left.retain(|x| self.levels(&x.normal(), &first.normal()) == Ordering::Less),
                "inherit" => return inherited(),
                "initial" => return initial.to_owned(),
                "unset" => break,
                value => return value.to_owned(),
            }
        }
        if inherits { inherited() } else { initial.to_owned() }
    }
}

/// A declaration that wants to set a property.
#[derive(Clone)]
struct Entry<'p> {
    declaration: &'p Declaration,
    important: bool,
    user: bool,
    tree: Option<usize>,
    attached: bool,
    layer: &'p [String],
    weight: Weight,
    steps: usize,
    order: (usize, usize),
}

impl Entry<'_> {
    /// The same without `!important`.
    fn normal(&self) -> Self {
        Self { important: false, ..self.clone() }
    }

    /// The place of its origin and importance.
    fn origin(&self) -> u8 {
        match (self.important, self.user) {
            (false, true) => 0,
            (false, false) => 1,
            (true, false) => 2,
            (true, true) => 3,
        }
    }
}

/// Makes pages.
struct Maker {
    dice: Dice,
    page: Page,
    text: String,
    line: usize,
}

impl Maker {
    /// A page.
    fn page(seed: u64) -> Page {
        let mut maker = Maker { dice: Dice(seed), page: Page::default(), text: String::new(), line: 1 };
        if maker.dice.chance(30) {
            maker.block(&Around { user: true, ..Around::default() }, 2);
            maker.page.user = std::mem::take(&mut maker.text);
            maker.line = 1;
        }
        let html = maker.element("html", None, 0);
        maker.write("<!DOCTYPE html><html id=e0><head id=e1>");
        let head = maker.element("head", Some(html), 0);
        for _ in 0..1 + maker.dice.below(2) {
            maker.sheet(Some(head), 0);
        }
        maker.write("</head>");
        maker.inside("body", Some(html), 0, 3);
        let mut page = maker.page;
        page.html = maker.text;
        let all = 0..page.elements.len();
        page.taken = page.rules.iter().map(|rule| all.clone().map(|e| page.takes(rule, e)).collect()).collect();
        page
    }

    /// A line of text.
    fn write(&mut self, text: &str) {
        writeln!(self.text, "{text}").unwrap();
        self.line += 1;
    }

    /// An element without text.
    fn element(&mut self, tag: &'static str, parent: Option<usize>, tree: usize) -> usize {
        self.page.elements.push(Element { tag, classes: Vec::new(), parent, tree, style: Vec::new() });
        self.page.elements.len() - 1
    }

    /// A `<style>`.
    fn sheet(&mut self, parent: Option<usize>, tree: usize) {
        let n = self.element("style", parent, tree);
        self.write(&format!("<style id=e{n}>"));
        self.block(&Around { tree: Some(tree), ..Around::default() }, 2);
        self.write("</style>");
    }

    /// An element with what is inside.
    fn inside(&mut self, tag: &'static str, parent: Option<usize>, tree: usize, depth: usize) {
        let n = self.element(tag, parent, tree);
        let classes: Vec<_> = CLASSES.iter().copied().filter(|_| self.dice.chance(40)).collect();
        self.write(&format!("<{tag} id=e{n} class=\"{}\" style=\"", classes.join(" ")));
        self.page.elements[n].style = if self.dice.chance(20) { self.declarations() } else { Vec::new() };
        self.page.elements[n].classes = classes;
        self.write("\">");
        if depth > 0 && tag != "slot" {
            if tag == "div" && tree < 2 && self.page.hosts.len() < 2 && self.dice.chance(35) {
                self.page.hosts.push(n);
                let tree = self.page.hosts.len();
                self.write("<template shadowrootmode=open>");
                self.sheet(None, tree);
                self.children(None, tree, 1);
                self.inside("slot", None, tree, 0);
                self.write("</template>");
            }
            self.children(Some(n), tree, depth - 1);
        }
        self.write(&format!("</{tag}>"));
    }

    /// Some elements.
    fn children(&mut self, parent: Option<usize>, tree: usize, depth: usize) {
        for _ in 0..self.dice.below(4) {
            // What HTML closes by itself must not hold blocks.
            let tag = self.dice.one(if depth == 0 { TAGS } else { &["div", "section"] });
            self.inside(tag, parent, tree, depth);
        }
    }

    /// Declarations, one a line.
    fn declarations(&mut self) -> Vec<Declaration> {
        let mut list = Vec::new();
        for _ in 0..1 + self.dice.below(2) {
            let property = self.dice.one(&["order", "orphans"]);
            let wide = &["inherit", "initial", "unset", "revert", "revert-layer"];
            let value = if self.dice.chance(25) { self.dice.one(wide).to_owned() } else { self.line.to_string() };
            let important = self.dice.chance(20);
            let line = self.line;
            self.write(&format!("{property}: {value}{};", if important { " !important" } else { "" }));
            list.push(Declaration { property, value, important, line });
        }
        list
    }

    /// What is in a sheet or a group.
    fn block(&mut self, around: &Around, depth: usize) {
        for _ in 0..1 + self.dice.below(4) {
            match self.dice.below(if depth == 0 { 4 } else { 9 }) {
                4 => {
                    let name = self.dice.one(&["x", "y", "x.z", "z"]);
                    self.write(&format!("@layer {name};"));
                    self.layered(around, name);
                }
                5 => {
                    let name = self.dice.one(&["x", "y", "x.z", ""]);
                    self.write(&format!("@layer {name} {{"));
                    let inner = self.layered(around, name);
                    self.block(&inner, depth - 1);
                    self.write("}");
                }
                6 => {
                    let off = self.dice.chance(40);
                    self.write(if off { "@media (max-width: 1px) {" } else { "@media (min-width: 1px) {" });
                    self.block(&Around { off: around.off || off, ..around.clone() }, depth - 1);
                    self.write("}");
                }
                7 => {
                    let nested = !around.scopes.is_empty();
                    let mut roots = self.list(around, nested, 1);
                    let mut limits = if self.dice.chance(40) { self.list(around, true, 1) } else { Vec::new() };
                    let to = if limits.is_empty() { String::new() } else { format!(" to ({})", listed(&limits)) };
                    self.write(&format!("@scope ({}){to} {{", listed(&roots)));
                    // Limits, and roots in an outer scope, are looked for inside of the root (CSS Cascade 6, §2.5.2).
                    let relative = limits.iter_mut().chain(roots.iter_mut().filter(|_| nested));
                    relative.filter(|c| !c.names(&|s| matches!(s, Simple::Scope))).for_each(|c| {
                        c.compounds.insert(0, (' ', vec![Simple::Where(vec![Complex::scope()])]));
                    });
                    let mut inner = around.clone();
                    inner.scopes.push(Rc::new(Scope { roots, limits }));
                    self.block(&inner, depth - 1);
                    self.write("}");
                }
                _ => self.rule(around, None),
            }
        }
    }

    /// What is around the contents of a layer; takes its name down where it counts.
    fn layered(&mut self, around: &Around, name: &str) -> Around {
        let mut inner = around.clone();
        self.page.anonymous += usize::from(name.is_empty());
        let name = if name.is_empty() { format!("#{}", self.page.anonymous) } else { name.to_owned() };
        for part in name.split('.') {
            inner.layer.push(part.to_owned());
            let entry = (around.user, around.tree, inner.layer.clone());
            if !around.off && !self.page.layers.contains(&entry) {
                self.page.layers.push(entry);
            }
        }
        inner
    }

    /// A style rule, with rules inside or not.
    fn rule(&mut self, around: &Around, parent: Option<&Rc<Vec<Complex>>>) {
        let mut list = self.list(around, !around.scopes.is_empty(), 2);
        if let Some(parent) = parent {
            for complex in &mut list {
                if parent.iter().all(|c| c.slotted.is_none()) && self.dice.chance(50) {
                    complex.compounds[0].1 = vec![Simple::Parent];
                }
            }
        }
        let line = self.line;
        self.write(&format!("{} {{", listed(&list)));
        // Without `&` or `:scope` a selector is inside of what the rule around takes, or of the scoping root (CSS Nesting 1,
        // §3.1; CSS Cascade 6, §2.5.1).
        for complex in &mut list {
            if parent.is_some() && !complex.names(&|s| matches!(s, Simple::Parent)) {
                complex.compounds.insert(0, (' ', vec![Simple::Parent]));
            } else if parent.is_none() && !around.scopes.is_empty() && !complex.names(&|s| matches!(s, Simple::Scope)) {
                complex.compounds.insert(0, (' ', vec![Simple::Where(vec![Complex::scope()])]));
            }
        }
        let declarations = self.declarations();
        let list = Rc::new(list);
        let rule = Rule {
            user: around.user,
            tree: around.tree,
            layer: around.layer.clone(),
            scopes: around.scopes.clone(),
            list: Rc::clone(&list),
            around: parent.cloned(),
            declarations,
            line,
        };
        if !around.off {
            self.page.rules.push(rule);
        }
        if parent.is_none() && self.dice.chance(25) {
            self.rule(around, Some(&list));
        }
        self.write("}");
    }

    /// Some selectors.
    fn list(&mut self, around: &Around, scoped: bool, depth: usize) -> Vec<Complex> {
        let count = 1 + self.dice.below(2);
        (0..count).map(|_| self.complex(around, scoped, depth)).collect()
    }

    /// One selector.
    fn complex(&mut self, around: &Around, scoped: bool, depth: usize) -> Complex {
        let mut compounds = Vec::new();
        for i in 0..1 + self.dice.below(3) {
            let combinator = if i == 0 { ' ' } else { self.dice.one(&[' ', ' ', '>', '+', '~']) };
            compounds.push((combinator, self.compound(scoped, depth)));
        }
        if depth > 0 && around.tree.is_some_and(|t| t > 0) && self.dice.chance(25) {
            compounds[0].1 = vec![Simple::Host(self.dice.chance(50).then(|| self.dice.one(CLASSES)))];
        }
        let slotted = depth > 1 && around.tree.is_some_and(|t| t > 0) && self.dice.chance(20);
        Complex { compounds, slotted: slotted.then(|| self.dice.one(CLASSES)) }
    }

    /// One compound.
    fn compound(&mut self, scoped: bool, depth: usize) -> Vec<Simple> {
        let mut list = match self.dice.below(6) {
            0 => vec![Simple::Any],
            1 | 2 => vec![Simple::Tag(self.dice.one(TAGS))],
            3 if scoped => vec![Simple::Scope],
            _ => Vec::new(),
        };
        while list.is_empty() || self.dice.chance(25) {
            let nowhere = Around::default();
            let kind = self.dice.below(if depth > 0 { 12 } else { 7 });
            let inner = |maker: &mut Self| maker.list(&nowhere, scoped, 0);
            list.push(match kind {
                5 => Simple::First,
                6 => Simple::Nth(self.dice.one(&[0, 1, 2, -1]), self.dice.one(&[1, 2, 3, 0])),
                7 => Simple::Not(inner(self)),
                8 => Simple::Is(inner(self)),
                9 => Simple::Where(inner(self)),
                10 => {
                    let mut list = self.list(&nowhere, false, 0);
                    list.iter_mut().for_each(|c| c.compounds[0].0 = self.dice.one(&[' ', '>', '+', '~']));
                    Simple::Has(list)
                }
                11 => Simple::Id(self.dice.below(20)),
                _ => Simple::Class(self.dice.one(CLASSES)),
            });
        }
        list
    }
}

impl Complex {
    /// `:scope`
    fn scope() -> Self {
        Self { compounds: vec![(' ', vec![Simple::Scope])], slotted: None }
    }

    /// Whether a simple selector of some kind is in it, however deep.
    fn names(&self, kind: &dyn Fn(&Simple) -> bool) -> bool {
        let inside = |s: &Simple| match s {
            Simple::Not(list) | Simple::Is(list) | Simple::Where(list) | Simple::Has(list) => {
                list.iter().any(|c| c.names(kind))
            }
            other => kind(other),
        };
        self.compounds.iter().any(|(_, c)| c.iter().any(inside))
    }
}

/// The texts of a random page: the page, and a user stylesheet.
pub(crate) fn random_page(seed: u64) -> (String, String) {
    let page = Maker::page((seed + 1).wrapping_mul(0x9E37_79B9_7F4A_7C15) | 1);
    (page.html, page.user)
}

/// Compares what the library says of a page with what was written down; gives the differences.
fn differences(page: &Page) -> Vec<String> {
    let loader = MemoryLoader::default().with("index.html", &page.html);
    let mut options = Options::default();
    if !page.user.is_empty() {
        options.user_sheets.push(("user.css".to_owned(), page.user.clone()));
    }
    let study = Study::open_with(&loader, "index.html", &options).unwrap();
    let ids: Vec<_> = (0..page.elements.len()).map(|n| study.select(&format!("#e{n}")).unwrap()[0]).collect();
    let mut wrong = Vec::new();
    let mut differs = |what: String, got: String, expected: String| {
        if got != expected {
            wrong.push(format!("{what}: {got}, not {expected}"));
        }
    };
    for (e, id) in ids.iter().enumerate() {
        for property in ["order", "orphans"] {
            let expected = page.value(e, property);
            differs(format!("#e{e} {property}"), study.value(*id, property).unwrap(), expected.clone());
            let why = study.why(*id, property).unwrap();
            differs(format!("why #e{e} {property}"), why.value, expected);
            let named = |user: bool, line: usize| format!("{}:{line}", if user { "user.css" } else { "index.html" });
            let mut told: Vec<_> = why.contenders.iter().map(|c| format!("{}:{}", c.at.file, c.at.line)).collect();
            let mut written: Vec<_> =
                page.sorted(e, property).iter().map(|x| named(x.user, x.declaration.line)).collect();
            told.sort();
            written.sort();
            differs(format!("contenders of #e{e} {property}"), format!("{told:?}"), format!("{written:?}"));
        }
    }
    for (rule, takes) in page.rules.iter().zip(&page.taken) {
        let name = format!("{}:{}", if rule.user { "user.css" } else { "index.html" }, rule.line);
        let taken: Vec<usize> = (0..ids.len()).filter(|e| takes[*e].is_some()).collect();
        let reached = study.reach(&name).unwrap().elements;
        let reached = (0..ids.len()).filter(|e| reached.iter().any(|h| h.element == ids[*e]));
        differs(format!("reach {name}"), format!("{:?}", reached.collect::<Vec<_>>()), format!("{taken:?}"));
        // To ask for all would take long: what would make a rule win is tried each time.
        for (e, id) in ids.iter().enumerate().filter(|(e, _)| (e + rule.line) % 12 == 0) {
            let answer = study.why_not(*id, &name).unwrap();
            differs(format!("why-not #e{e} {name}"), answer.takes.to_string(), taken.contains(&e).to_string());
            let silent = !answer.takes && answer.selectors.iter().any(|s| s.reason.is_none());
            differs(format!("reasons why not #e{e} {name}"), silent.to_string(), "false".to_owned());
        }
    }
    wrong
}

/// How many pages a run makes.
const PAGES: u64 = 2_400;

#[test]
fn random_pages_are_answered_as_the_standards_word_it() {
    const THREADS: u64 = 8;
    let check = |thread: u64| {
        let mut taken = 0;
        for seed in (thread..PAGES).step_by(usize::try_from(THREADS).unwrap()) {
            let page = Maker::page((seed + 1).wrapping_mul(0x9E37_79B9_7F4A_7C15) | 1);
            let wrong = differences(&page);
            assert!(wrong.is_empty(), "page {seed}:\n{}\n{}\n{}", wrong.join("\n"), page.user, page.html);
            taken += page.taken.iter().filter(|takes| takes.iter().any(Option::is_some)).count();
        }
        taken
    };
    let taken: usize = std::thread::scope(|scope| {
        let threads: Vec<_> = (0..THREADS).map(|thread| scope.spawn(move || check(thread))).collect();
        threads.into_iter().map(|thread| thread.join().unwrap()).sum()
    });
    assert!(taken > 2 * usize::try_from(PAGES).unwrap(), "the pages are too poor: {taken} rules take something");
}
