//! Tests of an element's own styles: `style()` in `@container` and `if()`, and `media()` in `if()`.
//!
//! What comes in: a function and the style it asks about. What goes out: whether it holds. CSS Conditional 5, §6.3
//! "Style Container Features"; CSS Values 5, §6.2.

use std::cmp::Ordering;

use super::typed::typed;
use super::{Style, Styles, function};
use crate::document::{ElementId, Name};
use crate::page::{FlatRule, Page};
use crate::selector::PseudoElement;
use crate::style::substitution::{self, Calls, Failure, Replaced};
use crate::stylesheet::container::{Needs, Query};
use crate::stylesheet::{GroupKind, media};
use crate::syntax::{Kind, Slice, Token, Tokens, condition};
use crate::value::{CustomValue, Unit, Value, Wide};

/// Who asks about a style.
#[derive(Clone, Copy)]
pub(super) enum Asker<'s> {
    /// `@container`, about a container with these values around it.
    Container(Option<&'s Style>),
    /// `if()`, about the element itself.
    If,
}

/// Whether `style()` or `media()` holds; nothing for unknown.
pub(super) fn test(
    page: &Page,
    function: Slice<'_>,
    (style, asker): (&Style, Asker<'_>),
    calls: &mut Calls,
) -> condition::Truth {
    let inside = function.inside().trim();
    if !function.is_lone_function() {
        return None;
    }
    if function.is_function("media") {
        return media::condition_holds(inside, &page.viewing);
    }
    if !function.is_function("style") {
        return None;
    }
    calls.testing(|calls| {
        let mut container = Container { page, style, asker, calls };
        condition::evaluate(inside, &mut |part| container.feature(part)).or_else(|| container.feature(inside)).flatten()
    })
}

/// Whether the `@container` groups of a rule hold for an element or one of its pseudo-elements: for each, the nearest
/// container that it asks for has the styles it asks for (CSS Conditional 5, §5.1). Sizes are unknown.
pub(crate) fn containers_hold(
    page: &Page,
    styles: &Styles,
    rule: &FlatRule,
    id: ElementId,
    pseudo: Option<&PseudoElement>,
) -> bool {
    rule.within.containers.iter().all(|group| {
        let sheet = &page.sheets[rule.sheet as usize].sheet;
        let GroupKind::Container(queries) = &sheet.groups[*group as usize].kind else {
            return true;
        };
        // Of several with commas between, one is enough.
        queries.list.iter().any(|query| holds(page, styles, query, id, pseudo))
    })
}

/// Whether one query holds.
fn holds(page: &Page, styles: &Styles, query: &Query, id: ElementId, pseudo: Option<&PseudoElement>) -> bool {
    let first = usize::from(pseudo.is_none());
    let named = |style: &Style| match &query.name {
        None => true,
        Some(name) => style.get(crate::property::id::CONTAINER_NAME).parts().iter().any(|p| p.text() == **name),
    };
    let Some(needs) = query.needs else {
        return false;
    };
    let mut around = page.document.flat_lineage(id).skip(first).filter_map(|e| styles.get(e));
    let Some(container) = around.find(|s| named(s) && has(s, needs)) else {
        return false;
    };
    let condition = query.condition.all().trim();
    let asked = (&**container, Asker::Container(around.next().map(|style| &**style)));
    condition.is_empty()
        || condition::evaluate(condition, &mut |part| Some(test(page, part, asked, &mut Calls::default()))).flatten()
            == Some(true)
}

/// Whether a container has what it must have so that it can be asked.
fn has(style: &Style, needs: Needs) -> bool {
    let types = style.get(crate::property::id::CONTAINER_TYPE);
    let is = |name: &str| types.parts().iter().any(|part| part.text() == name);
    let along = |needed: bool| !needed || is("size") || is("inline-size");
    let across = |needed: bool| !needed || is("size");
    let [width, height, inline, block] = needs.sizes;
    let (lines, stack) = if style.flow.vertical { (height, width) } else { (width, height) };
    along(lines || inline) && across(stack || block) && (!needs.scroll || is("scroll-state"))
}

/// What a query asks, and what variables in it stand for.
struct Container<'c> {
    /// The page.
    page: &'c Page,
    /// The style that is asked about.
    style: &'c Style,
    /// Who asks.
    asker: Asker<'c>,
    /// The calls of custom functions, those around the query among them.
    calls: &'c mut Calls,
}

impl Container<'_> {
    /// Whether one style feature holds: a property by itself, with a value, or compared.
    fn feature(&mut self, part: Slice<'_>) -> Option<condition::Truth> {
        let part = part.trim();
        let (head, value) = part.split_at(|t| t.kind == Kind::Colon);
        if value.is_empty() && part.from + 1 != part.to {
            return self.range(part).map(Some);
        }
        let token = head.peek().filter(|t| t.kind == Kind::Ident)?;
        let name = part.name(token);
        if !name.starts_with("--") {
            return Some(None);
        }
        let own = self.style.custom.get(&Name::from(&*name));
        if value.is_empty() {
            // Alone it asks for anything but the initial value; in `if()`, as browsers have it, for any value.
            let initial = self.initial(&name).filter(|_| matches!(self.asker, Asker::Container(_)));
            return Some(Some(own.map(|own| &own.written) != initial.as_ref().map(|initial| &initial.written)));
        }
        let wanted = Slice { from: value.from + 1, ..value }.trim();
        let (wanted, _) = crate::stylesheet::split_important(wanted);
        let wanted = self.wanted_value(wanted, &name);
        Some(Some(match (own, wanted) {
            (Some(own), Some(wanted)) => own.written == wanted.written,
            (own, wanted) => own.is_none() && wanted.is_none(),
        }))
    }

    /// The value that a custom property is compared with.
    fn wanted_value(&mut self, wanted: Slice<'_>, name: &str) -> Option<CustomValue> {
        let outer = |asker| match asker {
            Asker::Container(around) => around?.custom.get(&Name::from(name)).cloned(),
            Asker::If => None,
        };
        match Wide::of(wanted) {
            Some(Wide::Initial) => return self.initial(name),
            Some(Wide::Inherit) => return outer(self.asker),
            Some(Wide::Unset) if self.page.registrations.get(name).is_none_or(|r| r.inherits) => {
                return outer(self.asker);
            }
            Some(Wide::Unset) => return self.initial(name),
            _ => {}
        }
        let text = substitution::substitute(wanted, self).ok()?;
        typed(self.page, self.style, name, Replaced::Made(text))
    }

    /// The value that a custom property has where nobody sets it; nothing where it is not registered with one.
    fn initial(&self, name: &str) -> Option<CustomValue> {
        let text = self.page.registrations.get(name)?.initial.as_deref()?;
        typed(self.page, self.style, name, Replaced::Made(text.to_owned()))
    }

    /// Two values compared, or three: `10px < --a <= 20px` (CSS Conditional 5, `<style-range>`); nothing where it is no
    /// comparison. What has no value or no order is not in any range.
    fn range(&mut self, part: Slice<'_>) -> Option<bool> {
        let is_sign = |t: Token| matches!(t.kind, Kind::Delim('<' | '>' | '='));
        let (first, mut rest) = part.split_at(is_sign);
        let mut left = self.quantity(first);
        let (mut holds, mut signs) = (true, Vec::new());
        while let Some(Kind::Delim(sign)) = rest.kind() {
            rest.from += 1;
            let or_equal = sign != '=' && rest.kind() == Some(Kind::Delim('='));
            rest.from += u32::from(or_equal);
            signs.push(sign);
            let (value, after) = rest.split_at(is_sign);
            let right = self.quantity(value);
            let order = left.zip(right.as_ref()).and_then(|(left, right)| order(&left, right));
            holds &= order.is_some_and(|order| match sign {
                '<' => order.is_lt() || (or_equal && order.is_eq()),
                '>' => order.is_gt() || (or_equal && order.is_eq()),
                _ => order.is_eq(),
            });
            (left, rest) = (right, after);
        }
        matches!(*signs, ['<' | '>' | '='] | ['<', '<'] | ['>', '>']).then_some(holds)
    }

    /// What a side of a comparison comes to.
    fn quantity(&mut self, side: Slice<'_>) -> Option<Value> {
        let side = side.trim();
        let name = side.peek().filter(|t| t.kind == Kind::Ident && side.from + 1 == side.to).map(|t| side.name(t));
        let text = match name {
            Some(name) => self.style.custom.get(&Name::from(&*name))?.written.to_string(),
            None => substitution::substitute(side, self).ok()?,
        };
        let syntax = "<number> | <length> | <percentage> | <angle> | <time> | <resolution>";
        Some(crate::property::match_syntax(syntax, Tokens::read(&text).all())?.absolute(&self.style.context))
    }
}

impl substitution::Lookup for Container<'_> {
    fn custom(&mut self, name: &Name) -> Result<CustomValue, Failure> {
        self.style.custom.get(name).cloned().ok_or(Failure::Nothing)
    }

    fn call(&mut self, name: &str, arguments: &[Option<String>]) -> Result<String, Failure> {
        function::call(self.page, self.style, self, name, arguments)
    }

    fn calls(&mut self) -> &mut Calls {
        self.calls
    }

    fn test(&mut self, function: Slice<'_>, on: Option<&Style>) -> Option<bool> {
        test(self.page, function, (on.unwrap_or(self.style), Asker::If), self.calls)
    }

    fn attribute(&self, _name: &str) -> Option<String> {
        None
    }
}

/// How two computed values stand to each other; nothing where they measure different things. A 0 may be a length.
fn order(left: &Value, right: &Value) -> Option<Ordering> {
    match (left, right) {
        (Value::Number(a), Value::Number(b)) | (Value::Percentage(a), Value::Percentage(b)) => a.partial_cmp(b),
        (Value::Dimension(a, unit), Value::Dimension(b, other)) if unit == other => a.partial_cmp(b),
        (Value::Number(a), Value::Dimension(b, Unit::Px)) if *a == 0.0 => a.partial_cmp(b),
        (Value::Dimension(a, Unit::Px), Value::Number(b)) if *b == 0.0 => a.partial_cmp(b),
        _ => None,
    }
}
