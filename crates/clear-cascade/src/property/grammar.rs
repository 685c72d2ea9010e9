//! Values matched against grammars.
//!
//! The engine tries alternatives in the order the grammar gives them and goes back where a choice leads nowhere. How
//! many steps it may take grows with the length of the value only, so that no text can hold it up; how much stack it
//! needs, with the nesting of functions only.

use smallvec::SmallVec;

use super::mismatch::Wanted;
use super::syntax::{Builtin, Node, Repeat, named_type};
use super::{Mismatch, PropertyId, areas, id};
use crate::document::Name;
use crate::limits::{DEEPEST_FUNCTION, DEEPEST_TYPE, STEPS, STEPS_PER_TOKEN};
use crate::source::offset;
use crate::syntax::{Kind, Slice};
use crate::value::{self, Value};

/// One component of a matched value and the longhand it is for.
#[derive(Clone, Debug)]
pub(super) struct Item {
    /// The component.
    pub(super) value: Value,
    /// The property whose part it is, in a shorthand.
    pub(super) label: Option<PropertyId>,
}

/// Matches a value against what a property takes.
pub(super) fn match_value(property: PropertyId, slice: Slice<'_>) -> Result<Value, Mismatch> {
    let value = match_shorthand(property, slice).map(join)?;
    if property == id::GRID_TEMPLATE_AREAS {
        areas::check(&value, slice.range())?;
    }
    Ok(value)
}

/// Matches a value against a grammar.
pub(super) fn match_node(node: &Node, slice: Slice<'_>) -> Option<Value> {
    let mut run = Run::of(slice, false);
    run.all(node).then(|| join(run.out))
}

/// Matches the value of a shorthand.
pub(super) fn match_shorthand(property: PropertyId, slice: Slice<'_>) -> Result<Vec<Item>, Mismatch> {
    match_items(property.grammar(), slice).map_err(|run| run.mismatch(property))
}

/// Matches a run against a named type, as the layers of `background` are.
pub(super) fn match_type(name: &str, slice: Slice<'_>, property: PropertyId) -> Result<Vec<Item>, Mismatch> {
    let node = named_type(name).unwrap_or(&Node::Nothing);
    match_items(node, slice).map_err(|run| run.mismatch(property))
}

/// One value of some components.
pub(super) fn join(mut items: Vec<Item>) -> Value {
    if items.len() == 1
        && let Some(item) = items.pop()
    {
        return item.value;
    }
    Value::sequence(items.into_iter().map(|i| i.value).collect())
}

/// Matches all of a run. What does not match is matched once more, to tell what would have done.
fn match_items<'m>(node: &'m Node, slice: Slice<'m>) -> Result<Vec<Item>, Box<Run<'m>>> {
    let mut run = Run::of(slice, false);
    if run.all(node) {
        return Ok(run.out);
    }
    let mut run = Run::of(slice, true);
    run.all(node);
    Err(Box::new(run))
}

/// Something to match or to do, at a token.
#[derive(Clone, Copy)]
enum Step<'m> {
    /// A grammar.
    Node(&'m Node),
    /// The rest of a sequence.
    Rest(&'m [Node]),
    /// The rest of some alternatives.
    One(&'m [Node]),
    /// One more time, after so many; the last began at the token.
    Again(&'m Repeat, u32, u32),
    /// A time that ends here, of which nothing need be tried again: so many choices were open before it.
    Settled(&'m Repeat, u32, u32),
    /// More of some parts in any order.
    Parts(Parts<'m>),
    /// The part with this number is done; it began at the token.
    Part(Parts<'m>, u32, u32),
    /// What came since so many components is a property's.
    Label(PropertyId, u32),
    /// Something must have matched since the token.
    Required(u32),
}

/// Parts in any order, some of which have matched.
#[derive(Clone, Copy)]
struct Parts<'m> {
    /// The parts.
    list: &'m [Node],
    /// How many must match.
    least: usize,
    /// The first that is to be tried next.
    from: u32,
    /// Those that have matched, as bits.
    mask: u64,
    /// The last of them, in [`Run::used`].
    used: Option<u32>,
}

/// A part that has matched: its number, where its components begin, and the one before it.
#[derive(Clone, Copy)]
struct Used {
    /// Its number in the grammar.
    part: u32,
    /// Where its components begin.
    begin: u32,
    /// The one before it.
    before: Option<u32>,
}

/// What is to be done after a step, and then.
#[derive(Clone, Copy)]
struct Frame<'m> {
    /// The step.
    step: Step<'m>,
    /// What is to be done after it.
    next: Option<u32>,
    /// How deep in types it is.
    depth: u16,
}

/// What is done next: a step at a token, and what comes after.
#[derive(Clone, Copy)]
struct Go<'m> {
    /// The step.
    frame: Frame<'m>,
    /// The token.
    at: u32,
}

/// A choice that was left open: what else to do, and what there was at the time.
struct Choice<'m> {
    /// What else to do.
    go: Go<'m>,
    /// How many components.
    out: usize,
    /// How many marks.
    marks: usize,
    /// How many frames.
    frames: usize,
    /// How many parts.
    used: usize,
}

/// What is to be said about components once all has matched.
enum Mark {
    /// From one to another they are a property's.
    Label(PropertyId, u32, u32),
    /// They are parts that are put in the order of the grammar, up to the last.
    Order(u32, u32),
}

/// What came of a step.
enum Flow<'m> {
    /// Something comes next.
    Go(Go<'m>),
    /// It does not match.
    Missed,
    /// All has matched.
    Done,
}

/// One attempt to match. What follows a step is a list on the heap, and so are the choices that are left open: a value may
/// be as long as it likes without needing more stack.
struct Run<'m> {
    /// The tokens to match.
    slice: Slice<'m>,
    /// What has matched so far.
    out: Vec<Item>,
    /// What is to be said about that.
    marks: SmallVec<[Mark; 2]>,
    /// What follows.
    frames: SmallVec<[Frame<'m>; 8]>,
    /// Parts in any order that have matched.
    used: SmallVec<[Used; 4]>,
    /// Choices that are left open.
    choices: SmallVec<[Choice<'m>; 2]>,
    /// Steps left.
    steps: u32,
    /// Inside how many functions it is.
    depth: u32,
    /// Whether it is remembered what would have done; otherwise, what cannot match is passed over.
    explains: bool,
    /// The furthest token that was tried.
    furthest: u32,
    /// What would have done there.
    wanted: Wanted,
}

impl<'m> Run<'m> {
    /// An attempt on all of a value, white space around it left out.
    fn of(slice: Slice<'m>, explains: bool) -> Self {
        let slice = slice.trim();
        Self::new(slice, STEPS + (slice.to - slice.from) * STEPS_PER_TOKEN, 0, explains)
    }

    /// Whether a grammar matches all of it, and something is there.
    fn all(&mut self, node: &'m Node) -> bool {
        self.matches(node) && !self.out.is_empty()
    }

    /// An attempt that has matched nothing.
    fn new(slice: Slice<'m>, steps: u32, depth: u32, explains: bool) -> Self {
        Self {
            slice,
            out: Vec::new(),
            marks: SmallVec::new(),
            frames: SmallVec::new(),
            used: SmallVec::new(),
            choices: SmallVec::new(),
            steps,
            depth,
            explains,
            furthest: slice.from,
            wanted: Wanted::default(),
        }
    }

    /// Says why the value does not match.
    fn mismatch(&self, property: PropertyId) -> Mismatch {
        let at = self.from(self.skip(self.furthest));
        if self.slice.nesting() > DEEPEST_FUNCTION {
            let message = format!(
                "functions nest more than {DEEPEST_FUNCTION} deep in the value of `{}`; it was cut off there",
                property.name()
            );
            return Mismatch { message, hint: None, range: at.range() };
        }
        self.wanted.explain(property.name(), at)
    }

    /// The index of the next token that is no white space.
    fn skip(&self, mut at: u32) -> u32 {
        while at < self.slice.to && matches!(self.slice.tokens.list[at as usize].kind, Kind::Space) {
            at += 1;
        }
        at
    }

    /// The run from a token on.
    fn from(&self, at: u32) -> Slice<'m> {
        Slice { from: at, ..self.slice }
    }

    /// Whether all tokens are used, and none was a comma with nothing behind it.
    fn finished(&mut self, at: u32) -> bool {
        let at = self.skip(at);
        if at < self.slice.to {
            self.tried(at);
            return false;
        }
        !self.comma_before(at)
    }

    /// Whether the token before is a comma.
    fn comma_before(&self, mut at: u32) -> bool {
        while at > self.slice.from {
            at -= 1;
            match self.slice.tokens.list[at as usize].kind {
                Kind::Space => {}
                kind => return kind == Kind::Comma,
            }
        }
        false
    }

    /// Remembers how far a match got.
    fn tried(&mut self, at: u32) -> bool {
        if at > self.furthest {
            self.furthest = at;
            self.wanted.clear();
        }
        at == self.furthest && self.explains
    }

    /// Whether a grammar may match at a token that is no white space; it may say so of one that does not.
    fn may_match(&self, node: &Node, at: u32) -> bool {
        let here = self.from(at);
        match node {
            _ if self.explains => true,
            Node::Keyword(name) => here.is_ident(name),
            Node::Word(_) => here.kind() == Some(Kind::Ident),
            Node::Function(name, _) => here.is_function(name),
            Node::Square(_) => matches!(here.kind(), Some(Kind::Square(_))),
            Node::Builtin(builtin, ..) => builtin.may_start(here.kind()),
            Node::Label(inner, _) => self.may_match(inner, at),
            Node::Type(_, starts) | Node::Property(_, starts) => starts.get_or_init(|| node.starts(0)).fit(here),
            // What may match nothing may match anywhere.
            Node::Sequence(list) => list.first().is_some_and(|first| self.may_match(first, at)),
            Node::One(list) | Node::Some(list) | Node::All(list) => list.iter().any(|one| self.may_match(one, at)),
            Node::Repeat(repeat) if repeat.min > 0 => self.may_match(&repeat.inner, at),
            _ => true,
        }
    }

    /// Matches a grammar to the end of the run.
    fn matches(&mut self, node: &'m Node) -> bool {
        let mut go = Go { frame: Frame { step: Step::Node(node), next: None, depth: 0 }, at: self.slice.from };
        loop {
            match self.step(go) {
                Flow::Go(next) => go = next,
                Flow::Done => break,
                Flow::Missed => match self.choices.pop().filter(|_| self.steps > 0) {
                    Some(choice) => {
                        self.out.truncate(choice.out);
                        self.marks.truncate(choice.marks);
                        self.frames.truncate(choice.frames);
                        self.used.truncate(choice.used);
                        go = choice.go;
                    }
                    None => return false,
                },
            }
        }
        for mark in std::mem::take(&mut self.marks) {
            match mark {
                Mark::Label(property, from, to) => {
                    self.out[from as usize..to as usize].iter_mut().for_each(|item| item.label = Some(property));
                }
                Mark::Order(last, to) => self.put_in_order(last, to),
            }
        }
        true
    }

    /// Puts parts into the order of the grammar, whatever the written order was.
    fn put_in_order(&mut self, last: u32, to: u32) {
        let used = |at: Option<u32>| at.map(|u| self.used[u as usize]);
        let mut parts: Vec<Used> = std::iter::successors(used(Some(last)), |u| used(u.before)).collect();
        parts.reverse();
        let Some(start) = parts.first().map(|p| p.begin) else { return };
        let written = self.out[start as usize..to as usize].to_vec();
        let mut ranges: Vec<(u32, std::ops::Range<usize>)> = Vec::with_capacity(parts.len());
        for (i, part) in parts.iter().enumerate() {
            let end = parts.get(i + 1).map_or(to, |next| next.begin);
            ranges.push((part.part, (part.begin - start) as usize..(end - start) as usize));
        }
        ranges.sort_by_key(|(part, _)| *part);
        let ordered = ranges.into_iter().flat_map(|(_, range)| written[range].iter().cloned());
        self.out.splice(start as usize..to as usize, ordered);
    }

    /// What comes after a step that has matched up to a token.
    fn then(&mut self, next: Option<u32>, at: u32) -> Flow<'m> {
        match next {
            Some(next) => Flow::Go(Go { frame: self.frames[next as usize], at }),
            None if self.finished(at) => Flow::Done,
            None => Flow::Missed,
        }
    }

    /// Takes a component in and goes on.
    fn push(&mut self, value: Value, after: u32, next: Option<u32>) -> Flow<'m> {
        self.out.push(Item { value, label: None });
        self.then(next, after)
    }

    /// Leaves a choice open.
    fn or(&mut self, frame: Frame<'m>, at: u32) {
        let (out, marks) = (self.out.len(), self.marks.len());
        let (frames, used) = (self.frames.len(), self.used.len());
        self.choices.push(Choice { go: Go { frame, at }, out, marks, frames, used });
    }

    /// Goes on with a grammar, and with another step after it.
    fn first(&mut self, node: &'m Node, then: Step<'m>, after: Frame<'m>, at: u32) -> Flow<'m> {
        let next = Some(offset(self.frames.len()));
        self.frames.push(Frame { step: then, ..after });
        Flow::Go(Go { frame: Frame { step: Step::Node(node), next, depth: after.depth }, at })
    }

    /// Does one step.
    fn step(&mut self, Go { frame, at }: Go<'m>) -> Flow<'m> {
        match frame.step {
            Step::Node(node) => self.node(node, frame, at),
            Step::Rest(list) => match list.split_first() {
                None => self.then(frame.next, at),
                Some((one, rest)) => self.first(one, Step::Rest(rest), frame, at),
            },
            Step::One(list) => {
                let at = self.skip(at);
                let Some(first) = list.iter().position(|one| self.may_match(one, at)) else { return Flow::Missed };
                if let rest @ [_, ..] = &list[first + 1..] {
                    self.or(Frame { step: Step::One(rest), ..frame }, at);
                }
                Flow::Go(Go { frame: Frame { step: Step::Node(&list[first]), ..frame }, at })
            }
            Step::Again(repeat, count, from) => {
                if count > 0 && at <= from {
                    Flow::Missed
                } else {
                    self.again(repeat, count, frame, at)
                }
            }
            Step::Settled(repeat, count, from) => {
                let (choices, began) = (count, from);
                self.settled(repeat, choices, began, frame, at)
            }
            Step::Parts(parts) => self.parts(parts, frame, at),
            Step::Part(parts, part, from) => {
                // A part that matches nothing counts only where all are needed.
                if at == from && parts.least < parts.list.len() {
                    return Flow::Missed;
                }
                let parts = Parts { from: 0, mask: parts.mask | (1 << part), ..parts };
                self.parts(parts, frame, at)
            }
            Step::Label(property, begin) => {
                self.marks.push(Mark::Label(property, begin, offset(self.out.len())));
                self.then(frame.next, at)
            }
            Step::Required(from) => {
                if at > from {
                    self.then(frame.next, at)
                } else {
                    Flow::Missed
                }
            }
        }
    }

    /// Matches a grammar from a token on.
    fn node(&mut self, node: &'m Node, frame: Frame<'m>, at: u32) -> Flow<'m> {
        if self.steps == 0 || frame.depth > DEEPEST_TYPE {
            return Flow::Missed;
        }
        self.steps -= 1;
        let at = self.skip(at);
        let next = frame.next;
        let begin = offset(self.out.len());
        match node {
            Node::Keyword(name) => self.keyword(name, at, next),
            Node::Word(word) => {
                let here = self.from(at);
                match here.peek().filter(|t| matches!(t.kind, Kind::Ident) && *here.name(*t) == **word) {
                    Some(_) => self.push(Value::Ident(word.clone()), at + 1, next),
                    None => Flow::Missed,
                }
            }
            Node::Builtin(builtin, low, high) => self.builtin(*builtin, (*low, *high), at, next),
            Node::NameOtherThan(kind, names) => {
                let ident = self.from(at).ident();
                if ident.is_some_and(|ident| names.iter().any(|name| **name == *ident)) {
                    return Flow::Missed;
                }
                self.builtin(*kind, (0.0, 0.0), at, next)
            }
            Node::Type(name, _) => {
                let Some(inner) = named_type(name) else {
                    return Flow::Missed;
                };
                if self.tried(at) {
                    self.wanted.a_type(name);
                }
                Flow::Go(Go { frame: Frame { step: Step::Node(inner), next, depth: frame.depth + 1 }, at })
            }
            Node::Property(property, _) => {
                let inside = Frame { depth: frame.depth + 1, ..frame };
                self.first(property.grammar(), Step::Label(*property, begin), inside, at)
            }
            Node::Label(inner, property) => self.first(inner, Step::Label(*property, begin), frame, at),
            Node::Function(name, inner) => self.function(name, inner, at, next),
            Node::Square(inner) => self.square(inner, at, next),
            Node::Comma => self.comma(at, next),
            Node::Literal(character) => {
                let fits = match self.from(at).kind() {
                    Some(Kind::Delim(c)) => c == *character,
                    Some(Kind::Colon) => *character == ':',
                    Some(Kind::Semicolon) => *character == ';',
                    _ => false,
                };
                if fits {
                    return self.push(Value::Delim(*character), at + 1, next);
                }
                self.tried(at);
                Flow::Missed
            }
            Node::Sequence(list) => Flow::Go(Go { frame: Frame { step: Step::Rest(list), ..frame }, at }),
            Node::One(list) => Flow::Go(Go { frame: Frame { step: Step::One(list), ..frame }, at }),
            Node::All(list) | Node::Some(list) => {
                let least = if matches!(node, Node::All(_)) { list.len() } else { 1 };
                self.parts(Parts { list, least, from: 0, mask: 0, used: None }, frame, at)
            }
            Node::Repeat(repeat) => self.again(repeat, 0, frame, at),
            Node::Required(inner) => self.first(inner, Step::Required(at), frame, at),
            Node::Nothing => Flow::Missed,
        }
    }

    /// A keyword.
    fn keyword(&mut self, name: &Name, at: u32, next: Option<u32>) -> Flow<'m> {
        let here = self.from(at);
        if here.is_ident(name) {
            return self.push(Value::Keyword(name.clone()), at + 1, next);
        }
        if self.tried(at) {
            self.wanted.keyword(name);
        }
        Flow::Missed
    }

    /// A comma; it may be left out where nothing is before it or behind it (CSS Values 4, §2.1).
    fn comma(&mut self, at: u32, next: Option<u32>) -> Flow<'m> {
        let first = self.skip(self.slice.from) == at;
        if self.from(at).kind() == Some(Kind::Comma) {
            if first || self.comma_before(at) {
                return Flow::Missed;
            }
            return self.push(Value::Delim(','), at + 1, next);
        }
        if first || at >= self.slice.to || self.comma_before(at) { self.then(next, at) } else { Flow::Missed }
    }

    /// Parts in any order, of which some have matched: one more, or no more.
    fn parts(&mut self, parts: Parts<'m>, frame: Frame<'m>, at: u32) -> Flow<'m> {
        let here = self.skip(at);
        let free = |i: &u32| parts.mask & (1 << i) == 0 && self.may_match(&parts.list[*i as usize], here);
        let count = offset(parts.list.len().min(64));
        if let Some(part) = (parts.from..count).find(free) {
            self.or(Frame { step: Step::Parts(Parts { from: part + 1, ..parts }), ..frame }, at);
            let begin = offset(self.out.len());
            let used = Some(offset(self.used.len()));
            self.used.push(Used { part, begin, before: parts.used });
            let then = Step::Part(Parts { used, ..parts }, part, at);
            return self.first(&parts.list[part as usize], then, frame, at);
        }
        if (parts.mask.count_ones() as usize) < parts.least {
            return Flow::Missed;
        }
        if let Some(last) = parts.used {
            self.marks.push(Mark::Order(last, offset(self.out.len())));
        }
        self.then(frame.next, at)
    }

    /// A part once more, or no more.
    fn again(&mut self, repeat: &'m Repeat, count: u32, frame: Frame<'m>, at: u32) -> Flow<'m> {
        let mut from = at;
        let mut comma = false;
        if repeat.commas && count > 0 && count < repeat.max {
            from = self.skip(at);
            comma = self.from(from).kind() == Some(Kind::Comma);
            from += 1;
        }
        if count >= repeat.max || (repeat.commas && count > 0 && !comma) {
            return if count >= repeat.min { self.then(frame.next, at) } else { Flow::Missed };
        }
        let settles = repeat.ends_at_comma();
        if count >= repeat.min {
            // `self.then`, once this is given up.
            self.or(Frame { step: Step::Rest(&[]), ..frame }, at);
        }
        if comma {
            self.out.push(Item { value: Value::Delim(','), label: None });
        }
        let again = Step::Again(repeat, count + 1, from);
        if settles {
            let next = Some(offset(self.frames.len()));
            self.frames.push(Frame { step: again, ..frame });
            let settled = Step::Settled(repeat, offset(self.choices.len()), from);
            return self.first(&repeat.inner, settled, Frame { next, ..frame }, from);
        }
        self.first(&repeat.inner, again, frame, from)
    }

    /// Where one of several parts with commas between ends at a comma or at the end, no other way to match it can end
    /// anywhere else.
    fn settled(&mut self, repeat: &'m Repeat, choices: u32, from: u32, frame: Frame<'m>, at: u32) -> Flow<'m> {
        let end = self.skip(at);
        if repeat.commas && at > from && (end >= self.slice.to || self.from(end).kind() == Some(Kind::Comma)) {
            self.choices.truncate(choices as usize);
        }
        self.then(frame.next, at)
    }

    /// A function by name, its arguments by a grammar.
    fn function(&mut self, name: &Name, inner: &'m Node, at: u32, next: Option<u32>) -> Flow<'m> {
        let here = self.from(at);
        if !here.is_function(name) {
            if self.tried(at) {
                self.wanted.function(name);
            }
            return Flow::Missed;
        }
        match self.inside(inner, at) {
            Some((arguments, after)) => self.push(Value::function(name.clone(), arguments), after, next),
            None => Flow::Missed,
        }
    }

    /// A block in square brackets.
    fn square(&mut self, inner: &'m Node, at: u32, next: Option<u32>) -> Flow<'m> {
        if !matches!(self.from(at).kind(), Some(Kind::Square(_))) {
            self.tried(at);
            return Flow::Missed;
        }
        match self.inside(inner, at) {
            Some((items, after)) => self.push(Value::function(Name::from("["), items), after, next),
            None => Flow::Missed,
        }
    }

    /// Matches the inside of a block by itself; gives its components and the token after the block.
    fn inside(&mut self, inner: &'m Node, at: u32) -> Option<(Vec<Value>, u32)> {
        let block = self.from(at);
        let mut after = block;
        after.next();
        if self.depth >= DEEPEST_FUNCTION {
            return None;
        }
        let mut run = Run::new(block.inside().trim(), self.steps, self.depth + 1, self.explains);
        let matched = run.matches(inner);
        self.steps = run.steps;
        if !matched {
            if run.furthest >= self.furthest {
                self.furthest = run.furthest;
                self.wanted = run.wanted;
            }
            return None;
        }
        Some((run.out.into_iter().map(|i| i.value).collect(), after.from))
    }

    /// A type that the engine knows by itself.
    fn builtin(&mut self, builtin: Builtin, range: (f64, f64), at: u32, next: Option<u32>) -> Flow<'m> {
        let here = self.from(at);
        if here.is_empty() {
            self.tried(at);
            return Flow::Missed;
        }
        if builtin == Builtin::Anything {
            let value = Value::raw(here.text().trim());
            return self.push(value, self.slice.to, next);
        }
        if builtin == Builtin::SizeCalculation {
            return match value::size_calculation(here) {
                Some(math) => self.push(Value::Math(std::sync::Arc::new(math)), self.slice.to, next),
                None => Flow::Missed,
            };
        }
        match component(builtin, range, here) {
            Some((value, after)) => self.push(value, after, next),
            None => {
                if self.tried(at) {
                    self.wanted.a_type(type_name(builtin));
                    let number =
                        matches!(here.kind(), Some(Kind::Number(..) | Kind::Dimension(..) | Kind::Percentage(_)));
                    let anywhere = (f64::NEG_INFINITY, f64::INFINITY);
                    if number && component(builtin, anywhere, here).is_some() {
                        self.wanted.within(range);
                    }
                }
                Flow::Missed
            }
        }
    }
}

/// The name of a type the engine knows by itself.
fn type_name(builtin: Builtin) -> &'static str {
    match builtin {
        Builtin::Length => "length",
        Builtin::Percentage => "percentage",
        Builtin::LengthPercentage => "length-percentage",
        Builtin::Number | Builtin::NumberWithin => "number",
        Builtin::Integer => "integer",
        Builtin::Angle | Builtin::AnglePercentage => "angle",
        Builtin::Time => "time",
        Builtin::Resolution => "resolution",
        Builtin::Flex => "flex",
        Builtin::Color => "color",
        Builtin::Str | Builtin::NameString => "string",
        Builtin::Url => "url",
        _ => "",
    }
}

/// Reads one component of a type; gives it and the token after it.
fn component(builtin: Builtin, range: (f64, f64), here: Slice<'_>) -> Option<(Value, u32)> {
    let token = here.peek()?;
    let mut rest = here;
    rest.next();
    let after = rest.from;
    let name = || here.name(token);
    let found = match builtin {
        Builtin::Color => {
            let color = value::color::parse(Slice { to: after, ..here }).filter(value::color::is_sound)?;
            Value::Color(std::sync::Arc::new(color))
        }
        Builtin::Str => (token.kind == Kind::Str).then(|| Value::string(name()))?,
        Builtin::Tag => {
            let tag = (token.kind == Kind::Str).then(name)?;
            let fits = tag.len() == 4 && tag.bytes().all(|b| matches!(b, 0x20..=0x7E));
            fits.then(|| Value::string(tag))?
        }
        Builtin::Language => {
            let tag = (token.kind == Kind::Str).then(name)?;
            let tag = tag.trim_end_matches(' ');
            let fits = (1..=4).contains(&tag.len()) && tag.bytes().all(|b| matches!(b, 0x20..=0x7E));
            fits.then(|| Value::string(tag))?
        }
        Builtin::NameString => (token.kind == Kind::Str).then(name).filter(|n| !n.is_empty()).map(Value::string)?,
        Builtin::PathData => {
            let path = (token.kind == Kind::Str).then(|| super::path::read(&name()))?;
            (path.whole && !path.text.is_empty()).then(|| Value::string(path.text))?
        }
        Builtin::Url => return value::url(here).map(|u| (u, after)),
        Builtin::Ident => (token.kind == Kind::Ident).then(|| Value::Ident(Name::from(&*name())))?,
        Builtin::CustomIdent => {
            let name = (token.kind == Kind::Ident).then(name)?;
            let reserved = value::Wide::named(&name).is_some() || name.eq_ignore_ascii_case("default");
            (!reserved).then(|| Value::Ident(Name::from(&*name)))?
        }
        Builtin::DashedIdent => {
            let name = (token.kind == Kind::Ident).then(name)?;
            name.starts_with("--").then(|| Value::Ident(Name::from(&*name)))?
        }
        Builtin::Hash => matches!(token.kind, Kind::Hash(_)).then(|| Value::raw(format!("#{}", name())))?,
        Builtin::Zero => matches!(token.kind, Kind::Number(0.0, _)).then_some(Value::Number(0.0))?,
        // Where a range leaves out what is between, no calculation is there.
        Builtin::Integer if range.0 > range.1 && matches!(token.kind, Kind::Function(_)) => {
            let alone = Slice { to: after, ..here };
            let value = value::numeric(value::NumericClass::Integer, range, alone)?;
            let everything = (f64::NEG_INFINITY, f64::INFINITY);
            let known =
                value::numeric(value::NumericClass::Integer, everything, alone)?.absolute(&value::Context::default());
            let needs_element = matches!(&value, Value::Math(math) if math.math.needs_element());
            let between = matches!(known, Value::Number(n) if n < range.0 && n > range.1);
            (needs_element || !between).then_some(value)?
        }
        Builtin::NumberWithin => {
            let everything = (f64::NEG_INFINITY, f64::INFINITY);
            let value = value::numeric(value::NumericClass::Number, everything, Slice { to: after, ..here })?;
            let known = match &value {
                Value::Math(math) => math.resolve(&value::Context::default()),
                other => other.clone(),
            };
            let fits = matches!(known, Value::Number(n) if n >= range.0 && n <= range.1);
            fits.then_some(value)?
        }
        Builtin::Anything | Builtin::SizeCalculation => return None,
        numeric => {
            return value::numeric(class_of(numeric), range, Slice { to: after, ..here }).map(|v| (v, after));
        }
    };
    Some((found, after))
}

/// The class of numbers that a numeric type takes.
fn class_of(builtin: Builtin) -> value::NumericClass {
    use value::NumericClass as Class;
    match builtin {
        Builtin::Length => Class::Length,
        Builtin::Percentage => Class::Percentage,
        Builtin::LengthPercentage => Class::LengthPercentage,
        Builtin::Integer => Class::Integer,
        Builtin::Angle => Class::Angle,
        Builtin::AnglePercentage => Class::AnglePercentage,
        Builtin::Time => Class::Time,
        Builtin::Frequency => Class::Frequency,
        Builtin::Resolution => Class::Resolution,
        Builtin::Flex => Class::Flex,
        _ => Class::Number,
    }
}

#[cfg(test)]
mod tests {
    use std::collections::HashSet;

    use super::*;
    use crate::syntax::Tokens;

    /// The nodes inside a node, those of the types it names included.
    fn inside(node: &'static Node) -> Vec<&'static Node> {
        match node {
            Node::Type(name, _) => named_type(name).into_iter().collect(),
            Node::Property(property, _) => vec![property.grammar()],
            Node::Function(_, inner) | Node::Square(inner) | Node::Required(inner) | Node::Label(inner, _) => {
                vec![inner]
            }
            Node::Repeat(repeat) => vec![&repeat.inner],
            Node::Sequence(list) | Node::All(list) | Node::Some(list) | Node::One(list) => list.iter().collect(),
            _ => Vec::new(),
        }
    }

    /// The ways from a node to all multipliers without an end; each type is gone into once.
    fn multipliers(
        node: &'static Node,
        way: &mut Vec<usize>,
        seen: &mut HashSet<&'static str>,
        out: &mut Vec<Vec<usize>>,
    ) {
        if matches!(node, Node::Repeat(repeat) if repeat.max == u32::MAX) {
            out.push(way.clone());
        }
        let named = match node {
            Node::Type(name, _) => Some(*name),
            Node::Property(property, _) => Some(property.name()),
            _ => None,
        };
        if named.is_some_and(|name| !seen.insert(name)) {
            return;
        }
        for (i, inner) in inside(node).into_iter().enumerate() {
            way.push(i);
            multipliers(inner, way, seen, out);
            way.pop();
        }
    }

    /// A text that fits a node: `count` times what is at the end of the way, the rest as short as can be.
    fn sample(node: &'static Node, way: Option<&[usize]>, count: usize, depth: u32) -> Option<String> {
        let nodes = inside(node);
        let along = way.and_then(|way| way.split_first());
        let of = |i: usize| match along {
            Some((first, rest)) if *first == i => sample(nodes[i], Some(rest), count, depth),
            _ => sample(nodes[i], None, count, depth.checked_sub(1)?),
        };
        let all = || (0..nodes.len()).map(of).collect::<Option<Vec<_>>>().map(|texts| texts.join(" "));
        Some(match node {
            Node::Repeat(repeat) => {
                let times = match way {
                    Some([]) => count,
                    _ => repeat.min.max(u32::from(along.is_some())) as usize,
                };
                if times == 0 {
                    return Some(String::new());
                }
                vec![of(0)?; times].join(if repeat.commas { ", " } else { " " })
            }
            Node::Required(_) => of(0).filter(|t| !t.is_empty()).or_else(|| {
                let one = |inner: &&'static Node| matches!(inner, Node::Repeat(_)).then(|| inside(inner)[0]);
                inside(nodes[0]).iter().find_map(one).and_then(|n| sample(n, None, count, depth))
            })?,
            Node::Some(_) | Node::One(_) => match along {
                Some((first, _)) => of(*first)?,
                None => (0..nodes.len()).find_map(|i| of(i).filter(|t| !t.is_empty()))?,
            },
            Node::Type(..) | Node::Property(..) | Node::Label(..) => of(0)?,
            Node::Sequence(_) | Node::All(_) => all()?,
            Node::Function(name, _) => format!("{}({})", &**name, of(0)?),
            Node::Square(_) => format!("[{}]", of(0)?),
            Node::Keyword(name) | Node::Word(name) => name.to_string(),
            Node::Literal(character) => character.to_string(),
            Node::Comma => ",".to_owned(),
            Node::NameOtherThan(..) => "aa".to_owned(),
            Node::Builtin(builtin, low, high) => {
                let number = 1f64.clamp(*low, *high);
                match builtin {
                    Builtin::Length | Builtin::LengthPercentage | Builtin::SizeCalculation => format!("{number}px"),
                    Builtin::Percentage => format!("{number}%"),
                    Builtin::Number | Builtin::NumberWithin | Builtin::Integer => number.to_string(),
                    Builtin::Angle | Builtin::AnglePercentage => format!("{number}deg"),
                    Builtin::Time => format!("{number}s"),
                    Builtin::Frequency => format!("{number}hz"),
                    Builtin::Resolution => format!("{number}dppx"),
                    Builtin::Flex => format!("{number}fr"),
                    Builtin::Zero => "0".to_owned(),
                    Builtin::Color => "red".to_owned(),
                    Builtin::Str | Builtin::NameString | Builtin::Language => "\"a\"".to_owned(),
                    Builtin::PathData => "\"M 1 2\"".to_owned(),
                    Builtin::Tag => "\"smcp\"".to_owned(),
                    Builtin::Url => "url(a)".to_owned(),
                    Builtin::DashedIdent => "--aa".to_owned(),
                    Builtin::Hash => "#aa".to_owned(),
                    Builtin::CustomIdent | Builtin::Ident | Builtin::Anything => "aa".to_owned(),
                }
            }
            Node::Nothing => return None,
        })
    }

    /// A text without the commas that have nothing before or behind them (CSS Values 4, §2.1).
    fn tidy(text: &str) -> String {
        let mut out = String::new();
        for word in text.replace(',', " , ").replace('(', "( ").replace([')'], " )").split_whitespace() {
            let open = out.is_empty() || out.ends_with([',', '(', '[']);
            match word {
                "," if open => {}
                ")" if out.ends_with(',') => {
                    out.pop();
                    out.push(')');
                }
                "," | ")" => out.push_str(word),
                _ => {
                    out.push_str(if open && !out.ends_with(',') { "" } else { " " });
                    out.push_str(word);
                }
            }
        }
        out.trim_end_matches(',').to_owned()
    }

    /// How many components a value has, those in functions included.
    fn components(value: &Value) -> usize {
        match value {
            Value::Sequence(parts) => parts.iter().map(components).sum(),
            Value::Function(function) => 1 + function.1.iter().map(components).sum::<usize>(),
            Value::Delim(_) => 0,
            Value::Raw(text) => text.split([' ', ',']).filter(|t| !t.is_empty()).count(),
            _ => 1,
        }
    }

    /// For every `#`, `+` and `*` of every grammar: 2, 3, 100 and 5,000 items match as that many, with little stack.
    #[test]
    fn multipliers_have_no_end() {
        let check = || {
            let (mut seen, mut tried, mut wrong) = (HashSet::new(), 0, Vec::new());
            for property in super::super::all_known() {
                let mut ways = Vec::new();
                multipliers(property.grammar(), &mut Vec::new(), &mut seen, &mut ways);
                for way in ways {
                    tried += 1;
                    let matched = |count: usize| {
                        let text = tidy(&sample(property.grammar(), Some(&way), count, 12)?);
                        let tokens = Tokens::read(&text);
                        let items = match_items(property.grammar(), tokens.all()).ok();
                        let found = items.map(|items| items.iter().map(|i| components(&i.value)).sum::<usize>());
                        found.or_else(|| {
                            wrong.push(format!(
                                "{}: {count} times in {}",
                                property.name(),
                                &text[..text.len().min(120)]
                            ));
                            None
                        })
                    };
                    let found: Vec<_> = [2, 3, 100, 5_000].into_iter().map(matched).collect();
                    let [Some(two), Some(three), Some(hundred), Some(most)] = found[..] else {
                        wrong.push(format!("{}: {found:?}", property.name()));
                        continue;
                    };
                    let each = three - two;
                    if each == 0 || hundred != two + 98 * each || most != two + 4_998 * each {
                        wrong.push(format!("{}: {found:?} components at {way:?}", property.name()));
                    }
                }
            }
            assert!(tried > 100, "only {tried} multipliers");
            assert!(wrong.is_empty(), "{} of {tried}:\n{}", wrong.len(), wrong.join("\n"));
        };
        std::thread::Builder::new().stack_size(512 << 10).spawn(check).unwrap().join().unwrap();
    }
}
