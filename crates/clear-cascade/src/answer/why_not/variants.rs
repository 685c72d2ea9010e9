//! Selectors near one that misses an element, which take it: slips that people make.

use rustc_hash::FxHashSet;

use super::Nearest;
use crate::document::ElementId;
use crate::near;
use crate::selector::{Combinator, Matcher, Selector, Simple};
use crate::source::{OffsetMap, Span};
use crate::study::Study;
use crate::syntax::Tokens;

/// Which slips are looked for.
#[derive(Clone, Copy, PartialEq, Eq)]
enum Slips {
    /// All.
    All,
    /// Of spaces, dots and hashes.
    OfSigns,
}

/// The elements of HTML, those that are obsolete among them (HTML Standard, "Elements").
const HTML: &str = "\
    a abbr acronym address applet area article aside audio b base basefont bdi bdo bgsound big blink blockquote body \
    br button canvas caption center cite code col colgroup data datalist dd del details dfn dialog dir div dl dt em \
    embed fieldset figcaption figure font footer form frame frameset h1 h2 h3 h4 h5 h6 head header hgroup hr html i \
    iframe img input ins kbd keygen label legend li link main map mark marquee math menu menuitem meta meter nav \
    nobr noframes noscript object ol optgroup option output p param picture plaintext pre progress q rb rp rt rtc \
    ruby s samp script search section select selectedcontent slot small source span strike strong style sub summary \
    sup svg table tbody td template textarea tfoot th thead time title tr track tt u ul var video wbr xmp";

/// Whether HTML has an element of this name, in any case.
fn is_html(name: &str) -> bool {
    HTML.split(' ').any(|known| known.eq_ignore_ascii_case(name))
}

/// The names that are on a page.
pub(crate) struct Known<'s> {
    /// Types, folded to lower case.
    types: FxHashSet<String>,
    /// Classes.
    classes: FxHashSet<&'s str>,
    /// Ids.
    ids: FxHashSet<&'s str>,
}

impl<'s> Known<'s> {
    /// Those of a page.
    pub(crate) fn of(study: &'s Study) -> Self {
        let elements = study.page.document.light();
        Self {
            types: elements.iter().map(|e| e.name.to_ascii_lowercase()).collect(),
            classes: elements.iter().flat_map(|e| e.classes.iter().map(|c| &**c)).collect(),
            ids: elements.iter().filter_map(|e| e.id.as_deref()).collect(),
        }
    }

    /// Whether an element of the page may fit a condition, as far as its name goes.
    fn may_be(&self, simple: &Simple) -> bool {
        match simple {
            Simple::Type(_, name, _) => self.types.contains(&name.to_ascii_lowercase()),
            Simple::Class(name) => self.classes.contains(&**name),
            Simple::Id(name) => self.ids.contains(&**name),
            _ => true,
        }
    }

    /// Whether all names in a selector are on the page, be it as other names than the selector has it: slips of signs change none.
    fn has_names_of(&self, selector: &Selector) -> bool {
        let there = |name: &str| {
            self.classes.contains(name) || self.ids.contains(name) || self.types.contains(&name.to_ascii_lowercase())
        };
        selector.compounds.iter().flat_map(|compound| &compound.parts).all(|part| match &part.simple {
            Simple::Type(_, name, _) | Simple::Class(name) | Simple::Id(name) => there(name),
            _ => true,
        })
    }
}

impl Study {
    /// Selectors near the one written that do take the element.
    pub(super) fn nearest(
        &self,
        matcher: &Matcher<'_>,
        selector: &Selector,
        element: ElementId,
        question: Option<&str>,
    ) -> Vec<Nearest> {
        let text = self.text_of(question, selector.span);
        let base = selector.span.start;
        let mut found: Vec<Nearest> = Vec::new();
        for (variant, difference) in self.variants(selector, text, base, question, Slips::All) {
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

    /// A selector near one that takes nothing on the page, which takes something: a space too many or too few, or a dot for a hash;
    /// what is different, and how many elements it takes.
    pub(crate) fn near_selector(&self, selector: &Selector, known: &Known<'_>) -> Option<(String, String, usize)> {
        if !known.has_names_of(selector) {
            return None;
        }
        let text = self.text_of(None, selector.span);
        let variants = self.variants(selector, text, selector.span.start, None, Slips::OfSigns);
        let matcher = self.page.matcher();
        variants.into_iter().find_map(|(variant, difference)| {
            let tokens = Tokens::read(&variant);
            let map = OffsetMap::slice(self.page.document.source, 0);
            let list = crate::selector::parse_list(tokens.all(), &crate::selector::Context::plain(&map)).ok()?;
            // Most are out at a glance: what they name is not on the page.
            let there = list.parts().all(|part| known.may_be(&part.simple)) && list.undecided().is_empty();
            let count = self.page.document.ids().filter(|id| there && matcher.finds(&list, *id)).count();
            (count > 0).then_some((variant, difference, count))
        })
    }

    /// Small changes of a selector, with what each changes: slips that people make.
    fn variants(
        &self,
        selector: &Selector,
        text: &str,
        base: u32,
        question: Option<&str>,
        slips: Slips,
    ) -> Vec<(String, String)> {
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
                    Combinator::Child if slips == Slips::All => out.push((
                        replaced(gap, " "),
                        "with a space for `>`: anywhere inside, not only directly".to_owned(),
                    )),
                    Combinator::NextSibling if slips == Slips::All => out.push((
                        replaced(gap, " ~ "),
                        "with `~` for `+`: anywhere after, not only right after".to_owned(),
                    )),
                    _ => {}
                }
            }
            for (n, part) in compound.parts.iter().enumerate().filter(|(_, p)| inside(p.span)) {
                let written = self.text_of(question, part.span);
                // A class of the root is often put there by a script, and what is by place or state means its own element.
                let root = compound.parts.iter().any(|p| match &p.simple {
                    Simple::Type(_, name, _) => matches!(&*name.to_ascii_lowercase(), "html" | "body"),
                    Simple::PseudoClass(_) => true,
                    _ => false,
                });
                let named = matches!(part.simple, Simple::Class(_) | Simple::Id(_));
                if n > 0 && (slips == Slips::All || named && !root) {
                    let cut = Span { end: part.span.start, ..part.span };
                    out.push((
                        replaced(cut, " "),
                        format!("with a space before `{written}`: on an element inside, not on the same one"),
                    ));
                }
                self.renamed(&part.simple, slips, &mut |by, difference| {
                    out.push((replaced(part.span, &by), difference));
                });
            }
        }
        out
    }

    /// Other names for a condition: near ones that the page has, and the same name as a class or id.
    fn renamed<'s>(&'s self, simple: &Simple, slips: Slips, f: &mut dyn FnMut(String, String)) {
        let elements = self.page.document.light();
        let classes = || elements.iter().flat_map(|e| e.classes.iter().map(|c| &**c));
        let ids = || elements.iter().filter_map(|e| e.id.as_deref());
        let near = |name: &str, names: &mut dyn Iterator<Item = &'s str>| {
            (slips == Slips::All).then(|| near::nearest(name, names)).flatten()
        };
        match simple {
            Simple::Class(name) => {
                if let Some(near) = near(name, &mut classes()) {
                    f(format!(".{near}"), format!("with class `{near}`, which the page has, for `{name}`"));
                }
                f(format!("#{name}"), format!("with `#`: `{name}` is an id here, not a class"));
            }
            Simple::Id(name) => {
                if let Some(near) = near(name, &mut ids()) {
                    f(format!("#{near}"), format!("with id `{near}`, which the page has, for `{name}`"));
                }
                f(format!(".{name}"), format!("with `.`: `{name}` is a class here, not an id"));
            }
            Simple::Type(_, name, _) if slips == Slips::All || !is_html(name) => {
                f(format!(".{name}"), format!("with `.`: `{name}` is a class here, not an element"));
                f(format!("#{name}"), format!("with `#`: `{name}` is an id here, not an element"));
                if let Some(near) = near(name, &mut elements.iter().map(|e| &*e.name)) {
                    f(near.to_owned(), format!("with `{near}`, which the page has, for `{name}`"));
                }
            }
            _ => {}
        }
    }
}
