//! Calls of custom functions (CSS Functions and Mixins 1, §2.5 "Evaluating Custom Functions").
//!
//! What comes in: a function's name and its arguments, with what they were called among. What goes out: the text that stands
//! in the place of the call.

use std::collections::HashMap;

use super::Style;
use super::customs::Customs;
use super::typed::{names_in, read_as};
use crate::document::Name;
use crate::page::Page;
use crate::style::substitution::{self, Failure, Lookup};
use crate::stylesheet::function::{Condition, CustomFunction};
use crate::syntax::{Slice, Tokens};
use crate::value::{CustomText, CustomValue, Wide};

/// What a call comes to.
///
/// # Errors
/// Where it comes to nothing: the function is unknown or missing an argument, or its result does not fit.
pub(super) fn call(
    page: &Page,
    style: &Style,
    outer: &mut dyn Lookup,
    name: &str,
    arguments: &[Option<String>],
) -> Result<String, Failure> {
    let (function, sheet) = page.function(name).ok_or(Failure::Nothing)?;
    if arguments.len() > function.parameters.len() {
        return Err(Failure::Nothing);
    }
    let mut frame = Frame {
        page,
        style,
        function,
        tokens: &sheet.tokens,
        outer,
        known: HashMap::new(),
        done: HashMap::new(),
        open: Vec::new(),
        cyclic: Vec::new(),
    };
    for (i, parameter) in function.parameters.iter().enumerate() {
        let syntax = parameter.syntax.as_deref();
        // A CSS-wide keyword stands for no value.
        let read = |text: &str| {
            let wide = Wide::of(Tokens::read(text).all()).is_some();
            if wide { None } else { read_as(syntax.unwrap_or("*"), style, text) }
        };
        let mut value = arguments.get(i).and_then(|a| read(a.as_deref()?));
        if value.is_none() {
            match parameter.default {
                Some(default) => value = frame.substituted(default).ok().and_then(|text| read(&text)),
                None if i >= arguments.len() => return Err(Failure::Nothing),
                None => {}
            }
        }
        frame.known.insert(parameter.name.clone(), value);
    }
    let result = function.last("result", &|c| frame.holds(c)).ok_or(Failure::Nothing)?;
    let text = frame.substituted(result)?;
    let fits = read_as(function.returns.as_deref().unwrap_or("*"), style, text.trim());
    fits.ok_or(Failure::Nothing)
}

/// The inside of a call.
struct Frame<'f> {
    /// The page.
    page: &'f Page,
    /// The style of the element.
    style: &'f Style,
    /// The function.
    function: &'f CustomFunction,
    /// The tokens of its sheet.
    tokens: &'f Tokens,
    /// What it is called among: what is not known inside is looked up there.
    outer: &'f mut dyn Lookup,
    /// Parameters.
    known: HashMap<Name, Option<String>>,
    /// Custom properties of the block that are worked out.
    done: HashMap<Name, Result<CustomValue, Failure>>,
    /// Custom properties of the block that are being worked out.
    open: Vec<Name>,
    /// Those found to depend on themselves.
    cyclic: Vec<Name>,
}

impl Frame<'_> {
    /// Tokens of the function's sheet with all replaced.
    fn substituted(&mut self, (from, to): (u32, u32)) -> Result<String, Failure> {
        let slice = Slice { tokens: self.tokens, from, to };
        substitution::substitute(slice, self)
    }

    /// Whether a condition around declarations holds.
    fn holds(&self, condition: &Condition) -> bool {
        match condition {
            Condition::Media(list) => list.matches(&self.page.viewing),
            Condition::Supports(holds) => *holds,
            Condition::Undecided => false,
        }
    }
}

impl Lookup for Frame<'_> {
    fn custom(&mut self, name: &Name) -> Result<CustomValue, Failure> {
        if let Some(at) = self.open.iter().position(|o| o == name) {
            self.cyclic.extend_from_slice(&self.open[at..]);
            return Err(Failure::Nothing);
        }
        let declared =
            self.function.last(name, &|c| self.holds(c)).map(|(from, to)| Slice { tokens: self.tokens, from, to });
        let Some(declared) = declared else {
            return match self.known.get(name) {
                Some(known) => known.as_deref().map(CustomText::new).ok_or(Failure::Nothing),
                None => self.outer.custom(name),
            };
        };
        match Wide::of(declared) {
            None => {}
            Some(Wide::Inherit | Wide::Unset) => return self.outer.custom(name),
            Some(_) => return Err(Failure::Nothing),
        }
        if let Some(done) = self.done.get(name) {
            return done.clone();
        }
        self.open.push(name.clone());
        let text = substitution::substitute(declared, self).map(|text| CustomText::new(&text));
        self.open.pop();
        let text = if self.cyclic.contains(name) { Err(Failure::Nothing) } else { text };
        self.done.insert(name.clone(), text.clone());
        text
    }

    fn call(&mut self, name: &str, arguments: &[Option<String>]) -> Result<String, Failure> {
        call(self.page, self.style, self, name, arguments)
    }

    fn calls(&mut self) -> &mut substitution::Calls {
        self.outer.calls()
    }

    fn test(&mut self, function: Slice<'_>, on: Option<&Style>) -> Option<bool> {
        let names = names_in(function).into_iter();
        let values = names.map(|name| (name.clone(), self.custom(&name).ok())).collect();
        let style = on.unwrap_or(self.style);
        let custom = Customs::over(&style.custom, values, Vec::new());
        let style = style.with_custom(custom);
        self.outer.test(function, Some(&style))
    }

    fn attribute(&self, name: &str) -> Option<String> {
        self.outer.attribute(name)
    }
}
