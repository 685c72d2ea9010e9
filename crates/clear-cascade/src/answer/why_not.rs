//! Why a rule does not take an element, or does and still does not show.

use std::collections::HashSet;

use serde::Serialize;

use super::fixes::Fix;
use super::locate::LocateError;
use super::rules::Named;
use super::why::{Contest, Standing};
use crate::document::ElementId;
use crate::near;
use crate::page::FlatRule;
use crate::selector::{Combinator, Matcher, Selector, SelectorList, Simple};
use crate::source::{OffsetMap, Place, Span};
use crate::study::Study;
use crate::style::{self, Across, Reached};
use crate::syntax::Tokens;

/// Why a rule does not style an element.
#[derive(Clone, Debug, Serialize)]
#[non_exhaustive]
pub struct WhyNot {
    /// The number of the element.
    pub element: u32,
    /// Its label.
    pub label: String,
    /// Where it is written.
    pub at: Place,
    /// The rule as it was named.
    pub rule: String,
    /// Where the rule is written, if it is in a stylesheet.
    pub rule_at: Option<Place>,
    /// Whether one of the rule's selectors takes the element.
    pub takes: bool,
    /// The answer in one plain sentence.
    pub sentence: String,
    /// Each selector of the rule, and why it misses.
    pub selectors: Vec<Miss>,
    /// States in the selectors that are off as the page is seen.
    pub notes: Vec<String>,
    /// The declarations of a rule that does take the element, and what became of each.
    pub declarations: Vec<Fate>,
    /// What would make the first declaration that loses win, from the lightest change to the heaviest; each was tried.
    pub fixes: Vec<Fix>,
}

/// One selector and why it misses an element.
#[derive(Clone, Debug, Serialize)]
pub struct Miss {
    /// The selector as written.
    pub selector: String,
    /// Whether it takes the element after all.
    pub takes: bool,
    /// The first part that fails, and on which element it was tried.
    pub reason: Option<String>,
    /// How it would have to be written to take the element, nearest first.
    pub nearest: Vec<Nearest>,
}

/// A selector near the one written, which takes the element.
#[derive(Clone, Debug, Serialize)]
pub struct Nearest {
    /// The selector.
    pub selector: String,
    /// What is different, and why it is likely to be meant.
    pub difference: String,
}

/// What became of a declaration on an element.
#[derive(Clone, Debug, Serialize)]
pub struct Fate {
    /// The declaration as written.
    pub declaration: String,
    /// Where it is written.
    pub at: Place,
    /// The longhands for which it wins.
    pub wins: Vec<String>,
    /// For those for which it loses: the longhand, and to what and why.
    pub loses: Vec<(String, String)>,
}

impl Study {
    /// Why a rule, named by a selector or by `FILE:LINE`, does not take or does not style an element.
    ///
    /// # Errors
    /// Where there is no such rule, or the text is no selector.
    pub fn why_not(&self, element: ElementId, rule: &str) -> Result<WhyNot, LocateError> {
        let named = self.named_rule(rule)?;
        let (list, question, off) = match &named {
            Named::Selector(list) => (list, Some(rule), None),
            Named::Rule(r) => (&*self.page.style_rule(r).selectors, None, r.within.off.as_ref()),
        };
        let matcher = self.page.matcher();
        let label = self.page.document.label(element);
        let selectors: Vec<Miss> = match &named {
            Named::Rule(r) => self.misses(&matcher, r, element),
            Named::Selector(_) => list.selectors.iter().map(|s| self.miss(&matcher, s, element, question)).collect(),
        };
        let takes = selectors.iter().any(|m| m.takes);
        let declarations = match &named {
            Named::Rule(r) if takes && off.is_none() => self.fates(element, r),
            _ => Vec::new(),
        };
        let rule_at = match &named {
            Named::Rule(r) => Some(self.sources.place(self.page.style_rule(r).prelude)),
            Named::Selector(_) => None,
        };
        let written = selectors.iter().map(|m| m.selector.as_str()).collect::<Vec<_>>().join(", ");
        let written = crate::text::shorten(&written, 80);
        let sentence = if let (true, Some(off)) = (takes, off) {
            format!(
                "`{written}` would take `{label}`, but the rule is off: {} ({}).",
                off.reason,
                self.sources.place(off.span)
            )
        } else if takes {
            let losing = declarations.iter().filter(|d| !d.loses.is_empty()).count();
            match (declarations.len(), losing) {
                (0, _) => format!("`{written}` does take `{label}`."),
                (_, 0) => format!("`{written}` does take `{label}`, and all its declarations win."),
                (1, _) => format!("`{written}` does take `{label}`, but its declaration loses."),
                (all, some) => {
                    let lose = if some == 1 { "loses" } else { "lose" };
                    format!("`{written}` does take `{label}`, but {some} of its {all} declarations {lose}.")
                }
            }
        } else {
            let reason = selectors.iter().find_map(|m| m.reason.as_ref()).map(|r| format!(": {r}")).unwrap_or_default();
            format!("`{written}` does not take `{label}`{reason}.")
        };
        Ok(WhyNot {
            element: element.number(),
            label,
            at: self.sources.place(self.page.document.span(element)),
            rule: rule.to_owned(),
            rule_at,
            takes,
            sentence,
            selectors,
            notes: self.off_states(list),
            fixes: match &named {
                Named::Rule(r) if takes && off.is_none() => self.first_fixes(element, r, &declarations),
                _ => Vec::new(),
            },
            declarations,
        })
    }

    /// What would make the first declaration that loses win.
    fn first_fixes(&self, element: ElementId, rule: &FlatRule, fates: &[Fate]) -> Vec<Fix> {
        let declarations = &self.page.style_rule(rule).declarations;
        let lost = fates.iter().zip(declarations).find_map(|(fate, d)| fate.loses.first().map(|(l, _)| (d, l.clone())));
        lost.map(|(declaration, longhand)| self.fixes(element, rule, declaration, &longhand)).unwrap_or_default()
    }

    /// Why each selector of a rule misses, its scopes and its tree looked at.
    fn misses(&self, matcher: &Matcher<'_>, rule: &FlatRule, element: ElementId) -> Vec<Miss> {
        let reached = Reached::new(&self.page, matcher, element);
        let mut taken = HashSet::new();
        reached.each(rule, &mut |index, _, _| _ = taken.insert(index));
        let miss = |(index, selector): (usize, &Selector)| {
            let text = self.text_of(None, selector.span).to_owned();
            if taken.contains(&index) {
                return Miss { selector: text, takes: true, reason: None, nearest: Vec::new() };
            }
            let of_tree = reached.in_tree_of(rule);
            let inside = of_tree.as_ref().unwrap_or(matcher);
            let (reason, from) = match self.way_to(&reached, inside, rule, selector, element) {
                Err(barrier) => (Some(barrier), None),
                Ok((from, subject)) => {
                    let own = subject == element && from.takes(selector, element);
                    let last = selector.compounds.len() - 1;
                    let reason = (!own).then(|| self.first_failure(&from, selector, last, subject, None)).flatten();
                    (reason, (subject == element).then_some(from))
                }
            };
            let nearest = from.map(|from| self.nearest(&from, selector, element, None)).unwrap_or_default();
            Miss { selector: text, takes: false, reason, nearest }
        };
        self.page.style_rule(rule).selectors.selectors.iter().enumerate().map(miss).collect()
    }

    /// From where a rule looks at an element with a selector, and at which element: itself, the slot it is in, or the host
    /// that it is a part of. Where it cannot get there, why.
    fn way_to<'d>(
        &'d self,
        reached: &Reached<'_, '_, 'd>,
        matcher: &Matcher<'d>,
        rule: &FlatRule,
        selector: &Selector,
        element: ElementId,
    ) -> Result<(Matcher<'d>, ElementId), String> {
        let (document, label) = (&self.page.document, self.page.document.label(element));
        let subject = if rule.tree.is_none_or(|t| t == document.element(element).tree) {
            if selector.slotted.is_some() || !selector.parts.is_empty() {
                return Err(format!("`{label}` is in the tree of the rule itself, and that reaches into another"));
            }
            element
        } else {
            let way = reached.ways(rule).find(|way| match way {
                Across::Host => selector.is_plain() || selector.pseudo.is_some(),
                Across::Slotted(_) => selector.slotted.is_some(),
                Across::Part(..) => !selector.parts.is_empty(),
            });
            match way {
                Some(Across::Host) => element,
                Some(Across::Slotted(slot)) => {
                    let outer = matcher.with_tree(document.element(element).tree);
                    match selector.slotted.as_ref().filter(|s| !outer.takes(s, element)) {
                        Some(s) => return Err(format!("`{label}` is not `{}`", self.text_of(None, s.span))),
                        None => *slot,
                    }
                }
                Some(Across::Part(host, names)) => {
                    if let Some(part) = selector.parts.iter().find(|p| !names.iter().any(|n| **n == ***p)) {
                        return Err(format!("`{label}` is not the part `{part}` of `{}`", document.label(*host)));
                    }
                    *host
                }
                None => return Err(self.border(rule, element)),
            }
        };
        if rule.within.scopes.is_empty() {
            return Ok((matcher.with_tree(rule.tree.unwrap_or(0)), subject));
        }
        let sheet = &self.page.sheets[rule.sheet as usize];
        let roots = style::scoping_roots(matcher, &sheet.sheet, &rule.within.scopes, sheet.owner, subject);
        if let Some(near) = roots.iter().find(|r| r.limit.is_none()) {
            return Ok((matcher.with_scope(near.root), subject));
        }
        let scope = crate::text::shorten(
            self.text_of(None, sheet.sheet.groups[rule.within.scopes[0] as usize].span).trim(),
            80,
        );
        let label = document.label(subject);
        Err(match roots.iter().find_map(|r| r.limit) {
            Some(limit) if limit == subject => format!("`{label}` is a limit of `{scope}`, and so not in its scope"),
            Some(limit) => {
                format!(
                    "`{label}` is inside `{}`, a limit of `{scope}`, and so not in its scope",
                    document.label(limit)
                )
            }
            None => format!("`{label}` is not in the scope of `{scope}`"),
        })
    }

    /// That a rule is in another tree, and no way leads over the border.
    fn border(&self, rule: &FlatRule, element: ElementId) -> String {
        let document = &self.page.document;
        let label = document.label(element);
        let host = |tree: u32| document.host(tree).map(|h| document.label(h)).unwrap_or_default();
        let own = document.element(element).tree;
        match rule.tree.unwrap_or(0) {
            0 => format!("`{label}` is in the shadow tree of `{}`, and the rule is not", host(own)),
            tree => format!("`{label}` is not in the shadow tree of `{}`, and the rule is", host(tree)),
        }
    }

    /// Why one selector misses.
    fn miss(&self, matcher: &Matcher<'_>, selector: &Selector, element: ElementId, question: Option<&str>) -> Miss {
        let text = self.text_of(question, selector.span).to_owned();
        let takes = matcher.takes(selector, element);
        if takes {
            return Miss { selector: text, takes, reason: None, nearest: Vec::new() };
        }
        let last = selector.compounds.len() - 1;
        let reason = self.first_failure(matcher, selector, last, element, question);
        Miss { nearest: self.nearest(matcher, selector, element, question), selector: text, takes, reason }
    }

    /// The first condition that fails, from the subject outwards, with the element it was tried on.
    fn first_failure(
        &self,
        matcher: &Matcher<'_>,
        selector: &Selector,
        index: usize,
        element: ElementId,
        question: Option<&str>,
    ) -> Option<String> {
        let compound = &selector.compounds[index];
        let label = self.page.document.label(element);
        if !matcher.in_default_namespace(compound, element) {
            let url = compound.namespace.as_deref().unwrap_or_default();
            return Some(format!("`{label}` is not in the namespace `{url}`, the default one of the stylesheet"));
        }
        if let Some(part) = matcher.first_miss(compound, element) {
            return Some(format!("`{label}` {}", self.failure(&part.simple, self.text_of(question, part.span))));
        }
        let outer = &selector.compounds[index.checked_sub(1)?];
        let wanted = self.text_of(question, outer.span);
        if wanted.is_empty() {
            return Some(match outer.parts.first().map(|p| &p.simple) {
                Some(Simple::Nesting(Some(_))) => format!("`{label}` is not inside of what the rule around takes"),
                _ => format!("`{label}` is not inside of the scoping root; to take that itself, write `:scope`"),
            });
        }
        let document = &self.page.document;
        let fits = |e: &ElementId| matcher.compound(outer, *e);
        let ancestors: Vec<ElementId> = std::iter::successors(matcher.up(element), |e| matcher.up(*e)).collect();
        let before: Vec<ElementId> = std::iter::successors(matcher.before(element), |e| matcher.before(*e)).collect();
        let go_on = |e: &ElementId| self.first_failure(matcher, selector, index - 1, *e, question);
        match compound.combinator {
            Combinator::Descendant => match ancestors.iter().find(|e| fits(e)) {
                Some(found) => go_on(found),
                None => Some(format!("`{label}` is not inside any `{wanted}`")),
            },
            Combinator::Child => match (ancestors.first().filter(|e| fits(e)), ancestors.iter().position(&fits)) {
                (Some(found), _) => go_on(found),
                (None, Some(at)) => {
                    let between: Vec<String> =
                        ancestors[..at].iter().map(|e| format!("`{}`", document.label(*e))).collect();
                    let are = if between.len() == 1 { "is" } else { "are" };
                    Some(format!(
                        "`{label}` is inside `{wanted}`, but not directly: {} {are} between",
                        between.join(", ")
                    ))
                }
                (None, None) => Some(format!("`{label}` is not inside any `{wanted}`")),
            },
            Combinator::NextSibling => match (before.first().filter(|e| fits(e)), before.iter().position(&fits)) {
                (Some(found), _) => go_on(found),
                (None, Some(at)) => Some(format!(
                    "`{label}` comes after `{wanted}`, but not right after: `{}` is between",
                    document.label(before[at - 1])
                )),
                (None, None) => Some(format!("no `{wanted}` is right before `{label}`")),
            },
            Combinator::SubsequentSibling => match before.iter().find(|e| fits(e)) {
                Some(found) => go_on(found),
                None => Some(format!("no `{wanted}` is before `{label}` in the same parent")),
            },
        }
    }

    /// A condition that fails, in words that go on after the element's label.
    fn failure(&self, simple: &Simple, text: &str) -> String {
        match simple {
            Simple::Type(_, name, _) => format!("is no `{name}` element"),
            Simple::Class(name) => format!("has no class `{name}`"),
            Simple::Id(name) => format!("does not have the id `{name}`"),
            Simple::Attribute(test) if test.test.is_none() => format!("has no attribute `{}`", test.name),
            _ => format!("is not `{text}`"),
        }
    }

    /// Selectors near the one written that do take the element.
    fn nearest(
        &self,
        matcher: &Matcher<'_>,
        selector: &Selector,
        element: ElementId,
        question: Option<&str>,
    ) -> Vec<Nearest> {
        let text = self.text_of(question, selector.span);
        let base = selector.span.start;
        let mut found: Vec<Nearest> = Vec::new();
        for (variant, difference) in self.variants(selector, text, base, question) {
            let tokens = Tokens::read(&variant);
            let map = OffsetMap::slice(self.page.document.source, 0);
            let Ok(list) = crate::selector::parse_list(tokens.all(), &crate::selector::Context::plain(&map)) else {
                continue;
            };
            if matcher.finds(&list, element) && !found.iter().any(|n| n.selector == variant) {
                found.push(Nearest { selector: variant, difference });
            }
        }
        found.truncate(3);
        found
    }

    /// Small changes of a selector, with what each changes: slips that people make.
    fn variants(&self, selector: &Selector, text: &str, base: u32, question: Option<&str>) -> Vec<(String, String)> {
        let mut out = Vec::new();
        let range = |span: Span| (span.start - base) as usize..(span.end - base) as usize;
        let replaced = |span: Span, by: &str| {
            let range = range(span);
            format!("{}{by}{}", text.get(..range.start).unwrap_or_default(), text.get(range.end..).unwrap_or_default())
        };
        let inside =
            |span: Span| span.source == selector.span.source && span.start >= base && span.end <= selector.span.end;
        for (i, compound) in selector.compounds.iter().enumerate().filter(|(_, c)| inside(c.span)) {
            if let Some(before) = i.checked_sub(1).map(|b| &selector.compounds[b]).filter(|c| inside(c.span)) {
                let gap = Span { start: before.span.end, end: compound.span.start, ..compound.span };
                let typed = matches!(compound.parts[0].simple, Simple::Type(..) | Simple::Universal(_));
                let (left, right) = (self.text_of(question, before.span), self.text_of(question, compound.span));
                match compound.combinator {
                    Combinator::Descendant if !typed => out.push((
                        replaced(gap, ""),
                        format!(
                            "without the space: `{left}{right}` is one element, `{left} {right}` is one inside another"
                        ),
                    )),
                    Combinator::Child => out.push((
                        replaced(gap, " "),
                        "with a space for `>`: anywhere inside, not only directly".to_owned(),
                    )),
                    Combinator::NextSibling => out.push((
                        replaced(gap, " ~ "),
                        "with `~` for `+`: anywhere after, not only right after".to_owned(),
                    )),
                    _ => {}
                }
            }
            for (n, part) in compound.parts.iter().enumerate().filter(|(_, p)| inside(p.span)) {
                let written = self.text_of(question, part.span);
                if n > 0 {
                    let cut = Span { end: part.span.start, ..part.span };
                    out.push((
                        replaced(cut, " "),
                        format!("with a space before `{written}`: on an element inside, not on the same one"),
                    ));
                }
                self.renamed(&part.simple, &mut |by, difference| out.push((replaced(part.span, &by), difference)));
            }
        }
        out
    }

    /// Other names for a condition: near ones that the page has, and the same name as a class or id.
    fn renamed(&self, simple: &Simple, f: &mut dyn FnMut(String, String)) {
        let elements = self.page.document.elements();
        let classes = || elements.iter().flat_map(|e| e.classes.iter().map(|c| &**c));
        let ids = || elements.iter().filter_map(|e| e.id.as_deref());
        match simple {
            Simple::Class(name) => {
                if let Some(near) = near::nearest(name, classes()) {
                    f(format!(".{near}"), format!("with class `{near}`, which the page has, for `{name}`"));
                }
                f(format!("#{name}"), format!("with `#`: `{name}` is an id here, not a class"));
            }
            Simple::Id(name) => {
                if let Some(near) = near::nearest(name, ids()) {
                    f(format!("#{near}"), format!("with id `{near}`, which the page has, for `{name}`"));
                }
                f(format!(".{name}"), format!("with `.`: `{name}` is a class here, not an id"));
            }
            Simple::Type(_, name, _) => {
                f(format!(".{name}"), format!("with `.`: `{name}` is a class here, not an element"));
                f(format!("#{name}"), format!("with `#`: `{name}` is an id here, not an element"));
                if let Some(near) = near::nearest(name, elements.iter().map(|e| &*e.name)) {
                    f(near.to_owned(), format!("with `{near}`, which the page has, for `{name}`"));
                }
            }
            _ => {}
        }
    }

    /// What became of the declarations of a rule on an element.
    pub(super) fn fates(&self, element: ElementId, rule: &FlatRule) -> Vec<Fate> {
        let style_rule = self.page.style_rule(rule);
        let sheet = &self.page.sheets[rule.sheet as usize].sheet;
        let (matched, entries) = self.entries(element, None);
        let fate = |d: &crate::stylesheet::Declaration| {
            let mut fate = Fate {
                declaration: format!("{}: {}", d.name, sheet.value(d).text()),
                at: self.sources.place(d.span),
                wins: Vec::new(),
                loses: Vec::new(),
            };
            for longhand in self.longhands(d.property.name()).unwrap_or_default() {
                let Ok(asked) = self.asked(element, None, &longhand) else { continue };
                let contest = Contest::among(self, element, None, &asked, &entries, matched.clone());
                match contest.standing(d.span) {
                    None => fate
                        .loses
                        .push((longhand, "its value is none that the property takes, so it was dropped".to_owned())),
                    Some(Standing::Won) => fate.wins.push(longhand),
                    Some(Standing::Out { winner, stage, reason }) => {
                        let name =
                            self.selector_text(winner).map_or("a `style` attribute".to_owned(), |s| format!("`{s}`"));
                        let place = self.sources.place(winner.declaration.span);
                        fate.loses.push((longhand, format!("to {name} in {place} at {}: {reason}", stage.name())));
                    }
                }
            }
            fate
        };
        style_rule.declarations.iter().map(fate).collect()
    }

    /// A selector list read aloud.
    pub(crate) fn aloud(list: &SelectorList) -> String {
        list.selectors.iter().map(Selector::read_aloud).collect::<Vec<_>>().join(", or ")
    }
}
