//! Values matched against grammars.
//!
//! The engine tries alternatives in the order the grammar gives them and goes back where a choice leads nowhere. How
//! many steps it may take grows with the length of the value only, so that no text can hold it up.

use super::mismatch::Wanted;
use super::syntax::{Builtin, Node, named_type};
use super::{Mismatch, PropertyId};
use crate::document::Name;
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
    let items = match_items(&property.grammar(), slice).map_err(|run| run.mismatch(property))?;
    Ok(join(items))
}

/// Matches a value against a grammar.
pub(super) fn match_node(node: &Node, slice: Slice<'_>) -> Option<Value> {
    match_items(node, slice).ok().map(join)
}

/// Matches the value of a shorthand.
pub(super) fn match_shorthand(property: PropertyId, slice: Slice<'_>) -> Result<Vec<Item>, Mismatch> {
    match_items(&property.grammar(), slice).map_err(|run| run.mismatch(property))
}

/// Matches a run against a named type, as the layers of `background` are.
pub(super) fn match_type(name: &str, slice: Slice<'_>, property: PropertyId) -> Result<Vec<Item>, Mismatch> {
    let node = named_type(name).unwrap_or_else(|| std::sync::Arc::new(Node::Nothing));
    match_items(&node, slice).map_err(|run| run.mismatch(property))
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

/// Matches all of a run.
fn match_items<'t>(node: &Node, slice: Slice<'t>) -> Result<Vec<Item>, Box<Run<'t>>> {
    let slice = slice.trim();
    let mut run = Run::new(slice);
    let matched = run.node(node, slice.from, &mut |run, at| run.finished(at));
    if matched && !run.out.is_empty() { Ok(run.out) } else { Err(Box::new(run)) }
}

/// Steps the engine may take for each token, and for any value at all.
const STEPS_PER_TOKEN: u32 = 4_000;
/// Steps it may take for any value at all.
const STEPS: u32 = 40_000;
/// How deeply functions and types may nest.
const DEEPEST: u32 = 120;

/// What follows a match: whether the rest matches from a token on.
type Next<'n, 't> = &'n mut dyn FnMut(&mut Run<'t>, u32) -> bool;

/// One attempt to match.
struct Run<'t> {
    /// The tokens to match.
    slice: Slice<'t>,
    /// What has matched so far.
    out: Vec<Item>,
    /// Steps left.
    steps: u32,
    /// How deep the grammar is nested.
    depth: u32,
    /// Inside how many `<'property'>` it is.
    labels: u32,
    /// The furthest token that was tried.
    furthest: u32,
    /// What would have done there.
    wanted: Wanted,
}

impl<'t> Run<'t> {
    /// An attempt that has matched nothing.
    fn new(slice: Slice<'t>) -> Self {
        Self {
            slice,
            out: Vec::new(),
            steps: STEPS + (slice.to - slice.from) * STEPS_PER_TOKEN,
            depth: 0,
            labels: 0,
            furthest: slice.from,
            wanted: Wanted::default(),
        }
    }

    /// Says why the value does not match.
    fn mismatch(&self, property: PropertyId) -> Mismatch {
        let at = self.from(self.skip(self.furthest));
        // Half of the depth is for what the grammar nests.
        if self.slice.nesting() > DEEPEST / 2 {
            let message = format!(
                "functions nest more than {} deep in the value of `{}`; it was cut off there",
                DEEPEST / 2,
                property.name()
            );
            return Mismatch { message, hint: None, range: at.range() };
        }
        self.wanted.explain(property.name(), at)
    }

    /// The index of the next token that is no white space.
    fn skip(&self, mut at: u32) -> u32 {
        while at < self.slice.to && self.slice.tokens.list[at as usize].kind == Kind::Space {
            at += 1;
        }
        at
    }

    /// The run from a token on.
    fn from(&self, at: u32) -> Slice<'t> {
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
        at == self.furthest
    }

    /// Takes a component in and goes on; takes it back where the rest does not match.
    fn push(&mut self, value: Value, after: u32, next: Next<'_, 't>) -> bool {
        let length = self.out.len();
        self.out.push(Item { value, label: None });
        if next(self, after) {
            return true;
        }
        self.out.truncate(length);
        false
    }

    /// Matches a node from a token on.
    fn node(&mut self, node: &Node, at: u32, next: Next<'_, 't>) -> bool {
        if self.steps == 0 || self.depth > DEEPEST {
            return false;
        }
        self.steps -= 1;
        let at = self.skip(at);
        match node {
            Node::Keyword(name) => self.keyword(name, at, next),
            Node::Builtin(builtin, low, high) => self.builtin(*builtin, (*low, *high), at, next),
            Node::NameOtherThan(names) => {
                let here = Slice { from: at, ..self.slice };
                !here.ident().is_some_and(|ident| names.iter().any(|name| **name == *ident))
                    && self.builtin(Builtin::CustomIdent, (0.0, 0.0), at, next)
            }
            Node::Type(name) => {
                let Some(inner) = named_type(name) else {
                    return false;
                };
                if self.tried(at) {
                    self.wanted.a_type(name);
                }
                self.depth += 1;
                let matched = self.node(&inner, at, next);
                self.depth -= 1;
                matched
            }
            Node::Property(property) => self.label(&property.grammar(), *property, at, next),
            Node::Label(inner, property) => self.label(inner, *property, at, next),
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
                false
            }
            Node::Sequence(list) => self.sequence(list, at, next),
            Node::One(list) => list.iter().any(|one| self.node(one, at, next)),
            Node::All(list) => self.any_order(list, 0, list.len(), &[], at, next),
            Node::Some(list) => self.any_order(list, 0, 1, &[], at, next),
            Node::Repeat(inner, min, max, commas) => self.repeat(inner, (*min, *max, *commas), 0, at, next),
            Node::Required(inner) => {
                let start = at;
                self.node(inner, at, &mut |run, after| after > start && next(run, after))
            }
            Node::Nothing => false,
        }
    }

    /// A keyword.
    fn keyword(&mut self, name: &Name, at: u32, next: Next<'_, 't>) -> bool {
        let here = self.from(at);
        if here.is_ident(name) {
            return self.push(Value::Keyword(name.clone()), at + 1, next);
        }
        if self.tried(at) {
            self.wanted.keyword(name);
        }
        false
    }

    /// A comma; it may be left out where nothing is before it or behind it (CSS Values 4, §2.1).
    fn comma(&mut self, at: u32, next: Next<'_, 't>) -> bool {
        let first = self.skip(self.slice.from) == at;
        if self.from(at).kind() == Some(Kind::Comma) {
            return !first && !self.comma_before(at) && self.push(Value::Delim(','), at + 1, next);
        }
        (first || at >= self.slice.to || self.comma_before(at)) && next(self, at)
    }

    /// Parts one after the other.
    fn sequence(&mut self, list: &[Node], at: u32, next: Next<'_, 't>) -> bool {
        match list.split_first() {
            None => next(self, at),
            Some((one, rest)) => self.node(one, at, &mut |run, after| run.sequence(rest, after, next)),
        }
    }

    /// Parts in any order, at least `least` of them; `used` holds what matched: the part and where its components are.
    fn any_order(
        &mut self,
        list: &[Node],
        mask: u64,
        least: usize,
        used: &[(usize, usize)],
        at: u32,
        next: Next<'_, 't>,
    ) -> bool {
        let begin = self.out.len();
        if used.len() < list.len() {
            for (i, one) in list.iter().enumerate().take(64) {
                if mask & (1 << i) != 0 {
                    continue;
                }
                let matched = self.node(one, at, &mut |run, after| {
                    // A part that matches nothing counts only where all are needed.
                    if after == at && least < list.len() {
                        return false;
                    }
                    let mut used = used.to_vec();
                    used.push((i, begin));
                    run.any_order(list, mask | (1 << i), least, &used, after, next)
                });
                if matched {
                    return true;
                }
            }
        }
        if used.len() < least {
            return false;
        }
        // In the order of the grammar, whatever the written order was.
        let start = used.first().map_or(begin, |u| u.1);
        let written = self.out.split_off(start);
        let mut parts: Vec<(usize, &[Item])> = used
            .iter()
            .enumerate()
            .map(|(n, (i, from))| {
                let to = used.get(n + 1).map_or(begin, |u| u.1);
                (*i, &written[from - start..to - start])
            })
            .collect();
        parts.sort_by_key(|(i, _)| *i);
        let ordered: Vec<Item> = parts.into_iter().flat_map(|(_, items)| items.iter().cloned()).collect();
        self.out.extend(ordered);
        if next(self, at) {
            return true;
        }
        self.out.truncate(start);
        self.out.extend(written);
        false
    }

    /// A part several times.
    fn repeat(&mut self, inner: &Node, how: (u32, u32, bool), count: u32, at: u32, next: Next<'_, 't>) -> bool {
        let (min, max, commas) = how;
        if count < max {
            let mut from = at;
            let mut separator = false;
            if commas && count > 0 {
                if self.from(self.skip(at)).kind() != Some(Kind::Comma) {
                    return count >= min && next(self, at);
                }
                from = self.skip(at) + 1;
                separator = true;
                self.out.push(Item { value: Value::Delim(','), label: None });
            }
            let length = self.out.len();
            let matched = self
                .node(inner, from, &mut |run, after| after > from && run.repeat(inner, how, count + 1, after, next));
            if matched {
                return true;
            }
            self.out.truncate(length - usize::from(separator));
        }
        count >= min && next(self, at)
    }

    /// A part of a shorthand that belongs to a longhand.
    fn label(&mut self, inner: &Node, property: PropertyId, at: u32, next: Next<'_, 't>) -> bool {
        let begin = self.out.len();
        self.labels += 1;
        self.depth += 1;
        let matched = self.node(inner, at, &mut |run, after| {
            run.labels -= 1;
            if run.labels == 0 {
                for item in &mut run.out[begin..] {
                    item.label.get_or_insert(property);
                }
            }
            let matched = next(run, after);
            run.labels += 1;
            matched
        });
        self.depth -= 1;
        self.labels -= 1;
        matched
    }

    /// A function by name, its arguments by a grammar.
    fn function(&mut self, name: &Name, inner: &Node, at: u32, next: Next<'_, 't>) -> bool {
        let here = self.from(at);
        if !here.is_function(name) {
            if self.tried(at) {
                self.wanted.function(name);
            }
            return false;
        }
        match self.inside(inner, at) {
            Some((arguments, after)) => self.push(Value::function(name.clone(), arguments), after, next),
            None => false,
        }
    }

    /// A block in square brackets.
    fn square(&mut self, inner: &Node, at: u32, next: Next<'_, 't>) -> bool {
        if !matches!(self.from(at).kind(), Some(Kind::Square(_))) {
            self.tried(at);
            return false;
        }
        match self.inside(inner, at) {
            Some((items, after)) => self.push(Value::function(Name::from("["), items), after, next),
            None => false,
        }
    }

    /// Matches the inside of a block by itself; gives its components and the token after the block.
    fn inside(&mut self, inner: &Node, at: u32) -> Option<(Vec<Value>, u32)> {
        let block = self.from(at);
        let mut after = block;
        after.next();
        let inside = block.inside().trim();
        let mut run = Run { steps: self.steps, depth: self.depth + 1, ..Run::new(inside) };
        let matched = run.node(inner, inside.from, &mut |run, at| run.finished(at));
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
    fn builtin(&mut self, builtin: Builtin, range: (f64, f64), at: u32, next: Next<'_, 't>) -> bool {
        let here = self.from(at);
        if here.is_empty() {
            self.tried(at);
            return false;
        }
        if builtin == Builtin::Anything {
            let value = Value::Raw(std::sync::Arc::from(here.text().trim()));
            return self.push(value, self.slice.to, next);
        }
        if builtin == Builtin::SizeCalculation {
            return value::size_calculation(here)
                .is_some_and(|math| self.push(Value::Math(std::sync::Arc::new(math)), self.slice.to, next));
        }
        match component(builtin, range, here) {
            Some((value, after)) => self.push(value, after, next),
            None => {
                if self.tried(at) {
                    self.wanted.a_type(type_name(builtin));
                }
                false
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
        Builtin::Number => "number",
        Builtin::Integer => "integer",
        Builtin::Angle | Builtin::AnglePercentage => "angle",
        Builtin::Time => "time",
        Builtin::Resolution => "resolution",
        Builtin::Flex => "flex",
        Builtin::Color => "color",
        Builtin::Str => "string",
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
        Builtin::Str => (token.kind == Kind::Str).then(|| Value::Str(std::sync::Arc::from(&*name())))?,
        Builtin::Tag => {
            let tag = (token.kind == Kind::Str).then(name)?;
            let fits = tag.len() == 4 && tag.bytes().all(|b| matches!(b, 0x20..=0x7E));
            fits.then(|| Value::Str(std::sync::Arc::from(&*tag)))?
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
        Builtin::Hash => {
            matches!(token.kind, Kind::Hash(_)).then(|| Value::Raw(std::sync::Arc::from(format!("#{}", name()))))?
        }
        Builtin::Zero => matches!(token.kind, Kind::Number(0.0, _)).then_some(Value::Number(0.0))?,
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
