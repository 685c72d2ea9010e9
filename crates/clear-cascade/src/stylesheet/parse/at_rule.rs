//! At-rules: those around rules, those that say something for the whole sheet, and those that are passed over.
//!
//! CSS Syntax 3, §5; CSS Conditional 5; CSS Cascade 6; CSS Nesting 1, §4.1 "Nested group rules".

use std::sync::Arc;

use super::{Around, Parser};
use crate::limits::{DEEPEST_CONDITION, DEEPEST_RULE};
use crate::property::independent;
use crate::property::registered;
use crate::selector;
use crate::stylesheet::declaration::split_important;
use crate::stylesheet::function::CustomFunction;
use crate::stylesheet::lost;
use crate::stylesheet::{
    Group, GroupId, GroupKind, Import, Item, NoteKind, Registration, Scope, container, media, supports,
};
use crate::syntax::{Kind, Slice, Tokens, condition};
use crate::value::Wide;

/// At-rules that hold no style rules; they are taken as they are.
const QUIET: &[&str] = &[
    "font-face",
    "keyframes",
    "-webkit-keyframes",
    "page",
    "counter-style",
    "font-feature-values",
    "font-palette-values",
    "position-try",
    "view-transition",
    "color-profile",
    "charset",
    "-webkit-font-face",
];
/// At-rules that may stand in style rules, with a block.
const NESTS: &[&str] = &["media", "supports", "layer", "scope", "container", "starting-style"];
/// At-rules that are applied.
const APPLIED: &[&str] = &[
    "media",
    "supports",
    "layer",
    "scope",
    "container",
    "starting-style",
    "import",
    "namespace",
    "property",
    "function",
];

impl<'t> Parser<'t> {
    /// Reads an at-rule.
    pub(super) fn at_rule(&mut self, rest: &mut Slice<'t>, around: &Around) {
        let begin = *rest;
        let Some(token) = begin.peek() else { return };
        let name = begin.name(token).to_ascii_lowercase();
        rest.from += 1;
        let (prelude, after) = rest.split_at(|t| matches!(t.kind, Kind::Curly(_) | Kind::Semicolon));
        *rest = after;
        let block = matches!(after.kind(), Some(Kind::Curly(_))).then(|| after.inside());
        rest.next();
        let head = Slice { to: prelude.to, ..begin }.trim();
        let prelude = prelude.trim();
        let known = QUIET.contains(&&*name) || APPLIED.contains(&&*name);
        if known && around.parent.is_some() && !(block.is_some() && NESTS.contains(&&*name)) {
            // CSS Nesting 1, §4.1 "Nested group rules": conditions, layers and scopes, and no other.
            return self.note(
                NoteKind::AtRule,
                head,
                format!("`@{name}` cannot stand in a style rule; it is dropped"),
                None,
            );
        }
        let deep = matches!(&*name, "import" | "media" | "supports" | "container") && condition::is_too_deep(prelude);
        if deep {
            let message =
                format!("conditions nest more than {DEEPEST_CONDITION} deep here; what is inside counts as unknown");
            self.note(NoteKind::AtRule, head, message, None);
        }
        match (&*name, block) {
            ("import", None) => self.import(prelude, head, around),
            ("namespace", None) => self.namespace(prelude, head, around),
            ("layer", None) => self.layer_statement(prelude, head, around),
            ("charset", None) => {}
            ("property", Some(block)) => self.property(prelude, block, head, around),
            ("function", Some(block)) => self.function(prelude, block, head, around),
            ("media", Some(block)) => self.media((prelude, deep), block, head, around),
            ("supports", Some(block)) => match supports::condition(prelude) {
                Some(holds) => self.group(GroupKind::Supports(holds), block, head, around),
                None => self.note(
                    NoteKind::AtRule,
                    head,
                    "this is no condition for `@supports`; the block is dropped",
                    None,
                ),
            },
            ("layer", Some(block)) => match layer_names(prelude) {
                Some(mut names) if names.len() <= 1 => self.group(GroupKind::Layer(names.pop()), block, head, around),
                _ => self.note(
                    NoteKind::AtRule,
                    head,
                    "a layer with a block has one name at most, such as `theme.dark`; the block is dropped",
                    None,
                ),
            },
            ("scope", Some(block)) => self.scope(prelude, block, head, around),
            ("container", Some(_)) if prelude.is_empty() => {
                let message = "`@container` needs a name or a condition; the block is dropped";
                self.note(NoteKind::AtRule, head, message, None);
            }
            ("container", Some(block)) => {
                self.group(GroupKind::Container(container::parse(prelude)), block, head, around)
            }
            ("starting-style", Some(block)) => self.group(GroupKind::StartingStyle, block, head, around),
            (quiet, Some(_)) if QUIET.contains(&quiet) && quiet_prelude(quiet, prelude) => self.imports_over = true,
            (quiet, Some(_)) if QUIET.contains(&quiet) && quiet != "charset" => {
                let message = format!("`@{quiet}` has no such name or selector before its block; it is dropped");
                self.note(NoteKind::AtRule, head, message, None);
            }
            (known, _) if QUIET.contains(&known) || APPLIED.contains(&known) => {
                let what = if block.is_some() { "it takes no block" } else { "its block `{…}` is missing" };
                self.note(NoteKind::AtRule, head, format!("`@{known}` is broken: {what}; it is dropped"), None);
            }
            (unknown, _) => self.unknown_at_rule(unknown, head),
        }
    }

    /// Takes an `@media` rule; of a condition that is too deep, unknown parts are not told again.
    fn media(&mut self, (prelude, deep): (Slice<'t>, bool), block: Slice<'t>, head: Slice<'t>, around: &Around) {
        let list = media::parse(prelude);
        if let Some(lost) = lost::of_media(prelude, &list, block.range().1) {
            self.lost(NoteKind::Syntax, lost);
            // What is told of the block follows from it.
            let (noted, told) = (self.notes.len(), std::mem::replace(&mut self.told, false));
            self.group(GroupKind::Media(list), block, head, around);
            self.told = told;
            return self.notes.truncate(noted);
        }
        for (message, hint) in list.unknown().into_iter().filter(|_| !deep) {
            self.note(NoteKind::AtRule, head, message, hint);
        }
        self.group(GroupKind::Media(list), block, head, around);
    }

    /// Notes an at-rule that there is none of.
    fn unknown_at_rule(&mut self, name: &str, head: Slice<'t>) {
        let near = crate::near::nearest(name, QUIET.iter().chain(APPLIED).copied());
        let hint = near.map(|n| format!("did you mean `@{n}`?"));
        self.note(
            NoteKind::AtRule,
            head,
            format!("there is no at-rule `@{name}`; it is dropped with all inside"),
            hint,
        );
    }

    /// Reads a group and what is inside.
    fn group(&mut self, kind: GroupKind, block: Slice<'t>, head: Slice<'t>, around: &Around) {
        self.imports_over = true;
        if around.depth > DEEPEST_RULE {
            self.note(
                NoteKind::Syntax,
                head,
                format!("rules nest more than {DEEPEST_RULE} deep here; this one is dropped"),
                None,
            );
            return;
        }
        let scoped = matches!(kind, GroupKind::Scope(_));
        let id = GroupId::new(self.groups.len());
        let span = self.span(head);
        self.groups.push(Group { parent: around.group, kind, span });
        self.item(Item::Group(id));
        let mut inside = Around { group: Some(id), depth: around.depth + 1, ..around.clone() };
        if scoped {
            inside.scoped = true;
            inside.parent = None;
        }
        if inside.scoped && inside.parent.is_none() {
            // Declarations straight in `@scope` are about the scoping root and weigh nothing (CSS Cascade 6, §2.5).
            let context = selector::Context { nested: false, scoped: true, ..selector::Context::plain(self.map) };
            let tokens = Tokens::read(":where(:scope)");
            if let Ok(mut root) = selector::parse_list(tokens.all(), &context) {
                root.placed(span);
                let declarations = Around { parent: Some(Arc::new(root)), ..inside.clone() };
                self.scope_block(block, &inside, &declarations, head);
            }
            return;
        }
        if inside.parent.is_some() {
            self.block(block, &inside, head);
        } else {
            self.rules(block, &inside);
        }
    }

    /// Reads the inside of `@scope`, where declarations and rules have different parents.
    fn scope_block(&mut self, mut rest: Slice<'t>, inside: &Around, root: &Around, head: Slice<'t>) {
        let place = (head, rest.range().0..rest.behind());
        let mut declarations = Vec::new();
        while let Some(token) = rest.peek() {
            match token.kind {
                Kind::Space | Kind::Semicolon => rest.from += 1,
                Kind::AtKeyword => {
                    self.flush(&mut declarations, root, &place, &mut false);
                    self.at_rule(&mut rest, inside);
                }
                _ => match self.declaration(&mut rest) {
                    Some(declaration) => declarations.extend(declaration),
                    None if self.no_rule(&mut rest) => {}
                    None => {
                        self.flush(&mut declarations, root, &place, &mut false);
                        self.qualified_rule(&mut rest, inside);
                    }
                },
            }
        }
        self.flush(&mut declarations, root, &place, &mut false);
    }

    /// `@import URL layer supports() media;`
    fn import(&mut self, prelude: Slice<'t>, head: Slice<'t>, around: &Around) {
        if around.depth > 0 || self.imports_over {
            self.note(
                NoteKind::AtRule,
                head,
                "`@import` must come before all other rules, `@layer` before the first one aside; this one is dropped",
                None,
            );
            return;
        }
        let mut rest = prelude;
        let href = match rest.peek() {
            Some(t) if matches!(t.kind, Kind::Str | Kind::Url) => rest.name(t).into_owned(),
            Some(_) if rest.is_function("url") || rest.is_function("src") => {
                let inside = rest.inside().trim();
                inside.peek().filter(|t| t.kind == Kind::Str).map(|t| inside.name(t).into_owned()).unwrap_or_default()
            }
            _ => {
                self.note(NoteKind::AtRule, head, "`@import` needs a URL in quotes or `url(…)`; it is dropped", None);
                return;
            }
        };
        let from = rest.from;
        rest.next();
        let url = self.span(Slice { from, to: rest.from, ..prelude });
        rest.skip_space();
        let mut layer = None;
        if rest.is_ident("layer") {
            layer = Some(None);
            rest.next();
        } else if rest.is_function("layer")
            && let Some(mut names) = layer_names(rest.inside().trim())
            && names.len() == 1
        {
            layer = names.pop().map(Some);
            rest.next();
        }
        rest.skip_space();
        let mut holds = true;
        if rest.is_function("supports") {
            holds = supports::holds_import(rest.inside());
            rest.next();
            rest.skip_space();
        }
        self.imported = true;
        let import =
            Import { href, url, layer, supports: holds, media: media::parse(rest.trim()), span: self.span(head) };
        self.item(Item::Import(Box::new(import)));
    }

    /// `@namespace prefix url;`
    fn namespace(&mut self, prelude: Slice<'t>, head: Slice<'t>, around: &Around) {
        if around.depth > 0 || !self.rules.is_empty() {
            self.note(NoteKind::AtRule, head, "`@namespace` must come before all style rules; it is dropped", None);
            return;
        }
        let mut rest = prelude;
        let mut prefix = String::new();
        if let Some(token) = rest.peek().filter(|t| t.kind == Kind::Ident) {
            prefix = rest.name(token).into_owned();
            rest.next();
            rest.skip_space();
        }
        let url = match rest.peek() {
            Some(t) if matches!(t.kind, Kind::Str | Kind::Url) => Some(rest.name(t).into_owned()),
            Some(_) if rest.is_function("url") => {
                let inside = rest.inside().trim();
                inside.peek().filter(|t| t.kind == Kind::Str).map(|t| inside.name(t).into_owned())
            }
            _ => None,
        };
        match url {
            Some(url) => {
                self.imports_over = true;
                self.namespaces.insert(prefix, Arc::from(url));
            }
            None => self.note(NoteKind::AtRule, head, "`@namespace` needs a URL; it is dropped", None),
        }
    }

    /// `@layer a, b.c;`
    fn layer_statement(&mut self, prelude: Slice<'t>, head: Slice<'t>, around: &Around) {
        match layer_names(prelude).filter(|n| !n.is_empty()) {
            Some(names) => {
                self.imports_over |= self.imported;
                self.item(Item::Layers(names.into_boxed_slice(), around.group));
            }
            None if prelude.is_empty() => {
                let message = "`@layer` without a block needs names such as `base, theme`; it is dropped";
                self.note(NoteKind::AtRule, head, message, None);
            }
            None => {
                let message =
                    format!("`{}` are no names of layers such as `base, theme.dark`; it is dropped", prelude.text());
                self.note(NoteKind::AtRule, head, message, None);
            }
        }
    }

    /// `@scope (roots) to (limits)`
    fn scope(&mut self, prelude: Slice<'t>, block: Slice<'t>, head: Slice<'t>, around: &Around) {
        let mut rest = prelude;
        let mut roots = None;
        let mut limits = None;
        let context = self.context(around);
        let mut error = None;
        if matches!(rest.kind(), Some(Kind::Paren(_))) {
            match selector::parse_list(rest.inside(), &context) {
                Ok(list) => roots = Some(list),
                Err(e) => error = Some(e),
            }
            rest.next();
            rest.skip_space();
        }
        if rest.is_ident("to") {
            rest.next();
            rest.skip_space();
            let limit_context = selector::Context { parent: None, scoped: true, nested: true, ..context };
            match selector::parse_list(rest.inside(), &limit_context) {
                Ok(list) => limits = Some(list),
                Err(e) => error = Some(e),
            }
            rest.next();
            rest.skip_space();
        }
        if let Some(error) = error {
            self.dropped_rule(error, prelude);
        } else if rest.is_empty() {
            self.group(GroupKind::Scope(Box::new(Scope { roots, limits })), block, head, around);
        } else {
            self.note(
                NoteKind::AtRule,
                head,
                "`@scope` is written `@scope (selectors) to (selectors)`; it is dropped",
                None,
            );
        }
    }

    /// `@property --name { … }` (CSS Properties and Values API 1, §2). Of a descriptor that is written several times the last
    /// good one counts.
    fn property(&mut self, prelude: Slice<'t>, block: Slice<'t>, head: Slice<'t>, around: &Around) {
        let (mut syntax, mut inherits, mut initial) = (None, None, None);
        let mut rest = block;
        while let Some(token) = rest.peek() {
            if matches!(token.kind, Kind::Space | Kind::Semicolon) {
                rest.from += 1;
                continue;
            }
            let (one, after) = rest.split_at(|t| matches!(t.kind, Kind::Semicolon | Kind::Curly(_)));
            rest = after;
            rest.next();
            if matches!(after.kind(), Some(Kind::Curly(_))) && token.kind != Kind::Ident {
                continue;
            }
            let (name, value) = one.trim().split_at(|t| t.kind == Kind::Colon);
            let value = Slice { from: (value.from + 1).min(value.to), ..value }.trim();
            let single = value.from + 1 == value.to;
            match name.lone_ident().as_deref() {
                Some("syntax") if single && value.kind() == Some(Kind::Str) => {
                    syntax = value.peek().map(|t| value.name(t).into_owned());
                }
                Some("inherits") if single && value.is_ident("true") => inherits = Some(true),
                Some("inherits") if single && value.is_ident("false") => inherits = Some(false),
                Some("initial-value") if !split_important(value).1 => initial = Some(value),
                _ => {}
            }
        }
        let name = prelude.ident().filter(|_| prelude.from + 1 == prelude.to);
        let name = name.and(prelude.peek()).map(|t| prelude.name(t)).filter(|n| n.starts_with("--") && n.len() > 2);
        let fault = match (&name, &syntax, inherits, initial) {
            (None, ..) => {
                Some("it needs the name of a custom property, with two hyphens, and nothing else before its block")
            }
            (_, None, ..) => Some("it needs a `syntax` in quotes"),
            (_, Some(s), ..) if !registered::is_syntax(s) => Some("its `syntax` is none"),
            (_, _, None, _) => Some("it needs `inherits: true` or `inherits: false`"),
            (_, Some(s), _, None) if s.trim() != "*" => {
                Some("it needs an `initial-value`, since its syntax is not `*`")
            }
            (_, Some(s), _, Some(v)) if !independent::may_be_initial(s, v) => {
                Some("its `initial-value` does not fit its syntax, or depends on the element")
            }
            _ => None,
        };
        if let Some(fault) = fault {
            return self.note(NoteKind::AtRule, head, format!("this `@property` is dropped: {fault}"), None);
        }
        let (Some(name), Some(syntax), Some(inherits)) = (name, syntax, inherits) else { return };
        let initial = initial.map(|v| v.text().to_owned());
        self.imports_over = true;
        self.item(Item::Property(crate::source::offset(self.registrations.len()), around.group));
        self.registrations.push(Registration { name: name.into_owned(), syntax, inherits, initial });
    }

    /// `@function --name(…) { … }`
    fn function(&mut self, prelude: Slice<'t>, block: Slice<'t>, head: Slice<'t>, around: &Around) {
        let mut dropped = Vec::new();
        match CustomFunction::parse(prelude, block, self.span(head), &mut dropped) {
            Ok(function) => {
                self.imports_over = true;
                self.item(Item::Function(crate::source::offset(self.functions.len()), around.group));
                self.functions.push(function);
                for (at, message) in dropped {
                    self.note(NoteKind::AtRule, at, message, None);
                }
            }
            Err(message) => self.note(NoteKind::AtRule, head, message + "; it is dropped", None),
        }
    }
}

/// Names of layers with commas between them; nothing where something is no name.
fn layer_names(prelude: Slice<'_>) -> Option<Vec<Vec<String>>> {
    if prelude.trim().is_empty() {
        return Some(Vec::new());
    }
    prelude.commas().into_iter().map(|part| layer_name(part.trim())).collect()
}

/// `<layer-name>`: names with dots and no white space between them (CSS Cascade 5, §6.4.2). Differs from the standard,
/// which has CSS-wide keywords reserved: most browsers take them as names.
fn layer_name(part: Slice<'_>) -> Option<Vec<String>> {
    let mut names = Vec::new();
    for at in part.from..part.to {
        let here = Slice { from: at, to: at + 1, ..part };
        let token = here.peek()?;
        match token.kind {
            Kind::Ident if (at - part.from).is_multiple_of(2) => names.push(here.name(token).into_owned()),
            Kind::Delim('.') if (at - part.from) % 2 == 1 => {}
            _ => return None,
        }
    }
    ((part.to - part.from) % 2 == 1).then_some(names)
}

/// Whether what stands before the block of an at-rule without style rules is what the rule asks for.
fn quiet_prelude(rule: &str, prelude: Slice<'_>) -> bool {
    let one = prelude.peek().filter(|_| prelude.from + 1 == prelude.to);
    let name = one.filter(|t| t.kind == Kind::Ident).map(|t| prelude.name(t));
    let custom = || name.as_ref().is_some_and(|n| n.starts_with("--"));
    match rule {
        "font-face" | "-webkit-font-face" | "view-transition" => prelude.is_empty(),
        "keyframes" | "-webkit-keyframes" => match &name {
            Some(name) => Wide::named(name).is_none() && !name.eq_ignore_ascii_case("none"),
            None => one.is_some_and(|t| t.kind == Kind::Str),
        },
        "counter-style" => name.is_some_and(|n| Wide::named(&n).is_none() && !n.eq_ignore_ascii_case("none")),
        "font-palette-values" | "position-try" => custom(),
        "color-profile" => name.is_some(),
        "charset" => false,
        _ => true,
    }
}
