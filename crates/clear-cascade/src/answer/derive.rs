//! The steps from what was written to the computed value, with their inputs.

mod put_in;

use super::asked::{About, Asked};
use crate::document::ElementId;
use crate::property::Declared;
use crate::property::{self, PropertyId, id};
use crate::selector::PseudoElement;
use crate::study::Study;
use crate::style::substitution::{Failure, Limit};
use crate::style::{self, Entry, Style, Target, substituted_text};
use crate::syntax::{Kind, Slice, Token, Tokens, number_text};
use crate::value::{Context, Unit, Value, Wide, any_numeric, color};

/// What is said of a value in which more is put in than there may be.
pub(super) fn cut_off(limit: Limit) -> String {
    format!(
        "what is put into it {limit}; it was cut off there, so the declaration is invalid here and counts as `unset`"
    )
}

/// What a declaration says of a longhand.
///
/// ```
/// # use clear_cascade::{MemoryLoader, Study};
/// # let files = MemoryLoader::default().with(
/// #     "a.html",
/// #     "<!DOCTYPE html><style>p { color: navy; margin: 1px } .lead { color: gold } p::before { content: '*' } b { widht: 2px; width: 3px }
/// #     @media print { p { color: black } }</style><body><p id=one class=lead>Hello <b>you</b></p><p id=two>Bye</p></body>",
/// # );
/// # let page = Study::open(&files, "a.html")?;
/// use clear_cascade::answer::Said;
/// let together = page.why_together(page.select("#one")?[0], None, &["color"])?;
/// assert_eq!(together.groups[0].members[0].said, Said::Written);
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, serde::Serialize, serde::Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(rename_all = "kebab-case")]
pub enum Said {
    /// Its value is written.
    #[default]
    Written,
    /// It is not written, and what is written stands for a value of it: `flex: 1` for `flex-basis: 0%`.
    Meant,
    /// It is left out of a shorthand, which sets the initial value then.
    LeftOut,
}

/// The steps from a declaration to the value of one longhand or custom property.
#[derive(Default)]
pub(super) struct Steps {
    /// What is put in for `var()` and calls of functions: the same for all longhands of a shorthand.
    pub(super) put_in: Vec<String>,
    /// Which part of a shorthand is taken.
    pub(super) part: Option<String>,
    /// Whether that part is written.
    pub(super) said: Said,
    /// What the part comes to.
    pub(super) result: Vec<String>,
}

impl Steps {
    /// All of them, in their order.
    pub(super) fn all(self) -> Vec<String> {
        self.put_in.into_iter().chain(self.part).chain(self.result).collect()
    }
}

/// The steps for the declaration that gives the value.
pub(super) fn steps(subject: &About<'_>, entry: &Entry<'_>, asked: &Asked, style: &Style, value: &str) -> Steps {
    let written = subject.study.page.sheets[entry.sheet() as usize].sheet.value(entry.declaration);
    let mut all = Steps::default();
    let steps = &mut all.put_in;
    let mut text = written.text().to_owned();
    if let Some(Declared::Substitute(_)) = entry.declared {
        match substitution_steps(subject, entry, style, steps) {
            Some(found) => text = found,
            None => return all,
        }
    } else if entry.declared.is_none() {
        all.put_in = custom_steps(subject, entry, asked, style, value);
        return all;
    }
    let Target::Longhand(longhand) = entry.property else {
        return all;
    };
    let written_property = match &entry.declaration.property {
        crate::stylesheet::Property::Known(id) => *id,
        crate::stylesheet::Property::Custom(_) => return all,
    };
    if matches!(entry.declared, Some(Declared::Wide(_))) {
        return all;
    }
    let plain = property::parse_longhands(written_property, Tokens::read(&text).all().trim(), false);
    let quirks = plain.is_err() && subject.study.page.sheets[entry.sheet() as usize].sheet.quirks;
    if quirks && let Some(meant) = property::meant(written_property, Tokens::read(&text).all().trim()) {
        steps.push(format!(
            "`{}` stands for `{}`: the page is in quirks mode, where the unit of a length or the `#` of a colour may be missing",
            crate::text::shorten(text.trim(), 80),
            crate::text::shorten(meant.trim(), 80)
        ));
        text = meant;
    }
    let Ok(parts) = property::parse_longhands(written_property, Tokens::read(&text).all().trim(), false) else {
        steps.push(format!(
            "`{}` is nothing that `{}` takes: the declaration is invalid here and counts as `unset`",
            crate::text::shorten(&text, 80),
            written_property.name()
        ));
        return all;
    };
    let Some((_, part)) = parts.into_iter().find(|(p, _)| *p == longhand) else {
        return all;
    };
    // A longhand as it was written; a part of a shorthand as it was understood.
    let part = if written_property == longhand { text.trim().to_owned() } else { part.text() };
    if written_property != longhand {
        all.said = said_of(&part, &text, longhand);
        let how = match all.said {
            Said::Written => "the part for",
            Said::Meant => "what that means for",
            Said::LeftOut => "no part for it is written, so it sets the initial value of",
        };
        all.part = Some(format!(
            "`{}: {}` → {how} `{}`: {part}",
            entry.declaration.name(),
            crate::text::shorten(&text, 60),
            longhand.name()
        ));
    }
    let steps = &mut all.result;
    if longhand.name() != asked.name && asked.longhand == Some(style.flow.physical(longhand)) {
        let physical = style.flow.physical(longhand);
        let flow = format!("{}, {}", style.text(id::WRITING_MODE), style.text(id::DIRECTION));
        if physical != longhand {
            steps.push(format!("`{}` is `{}` where text runs {flow}", longhand.name(), physical.name()));
        }
    }
    arithmetic(subject, longhand, &part, style, value, steps);
    if text.to_ascii_lowercase().replace("random(fixed", "").contains("random(") {
        let taken = if value.contains("random(") { "" } else { "; the middle of its range is taken here" };
        steps.push(format!(
            "`random()` draws its number when the page is opened, so which one it is cannot be told{taken}"
        ));
    }
    all
}

/// How a part of a shorthand for a longhand is said in its text.
fn said_of(part: &str, text: &str, longhand: PropertyId) -> Said {
    let is_initial = consists_of(part, &longhand.initial().text());
    let is_color = color::parse(Tokens::read(part).all()).is_some();
    match mentions(text, part) {
        true => Said::Written,
        false if is_initial => Said::LeftOut,
        false if is_color => Said::Written,
        false => Said::Meant,
    }
}

/// What is put in for the functions of a value; gives the value with that, where there is something to put in.
fn substitution_steps(
    subject: &About<'_>,
    entry: &Entry<'_>,
    style: &Style,
    steps: &mut Vec<String>,
) -> Option<String> {
    let written = subject.study.page.sheets[entry.sheet() as usize].sheet.value(entry.declaration);
    put_in::variables(subject, written, steps);
    put_in::calls(subject, written, style, steps);
    match substituted_text(&subject.computed(), entry, style) {
        Ok(found) => {
            if found.trim() != written.text() {
                steps.push(format!("put in: `{}`", crate::text::shorten(&found, 120)));
            }
            return Some(found);
        }
        Err(Failure::Nothing | Failure::Cycle) => {
            let what = if put_in::has_calls(written) { "what is to be put in" } else { "a `var()`" };
            steps.push(format!(
                "{what} comes to nothing and has no fallback: the declaration is invalid here and counts as `unset`"
            ));
        }
        Err(Failure::CutOff(limit)) => steps.push(cut_off(limit)),
    }
    None
}

/// The steps for a custom property: what is put in, and what `@property` makes of it.
fn custom_steps(subject: &About<'_>, entry: &Entry<'_>, asked: &Asked, style: &Style, value: &str) -> Vec<String> {
    let study = subject.study;
    let written = study.page.sheets[entry.sheet() as usize].sheet.value(entry.declaration);
    let mut steps = Vec::new();
    put_in::variables(subject, written, &mut steps);
    put_in::calls(subject, written, style, &mut steps);
    let found = substituted_text(&subject.computed(), entry, style);
    if let Err(Failure::CutOff(limit)) = found {
        steps.push(cut_off(limit));
    }
    if let (Some(syntax), Ok(found)) = (study.page.custom_syntax(&asked.name), found)
        && Wide::of(Tokens::read(&found).all()).is_none()
    {
        let found = found.trim();
        let fits = crate::property::match_syntax(syntax, Tokens::read(found).all()).is_some();
        let found = crate::text::shorten(found, 80);
        if !fits {
            steps.push(format!("`{found}` is no `{syntax}`, which `@property` asks for, and counts as `unset`"));
        } else if found != value {
            steps.push(format!("`@property` makes it a `{syntax}`: `{found}` is {value}"));
        }
    }
    steps
}

/// Whether something of a part of a shorthand stands in what was written, word for word.
fn mentions(text: &str, part: &str) -> bool {
    let (text, part) = (Tokens::read(text), Tokens::read(part));
    let word = |tokens: &Tokens, token: &Token| {
        Some(match token.kind {
            Kind::Number(n, _) | Kind::Dimension(n, _) if n == 0.0 => "0".to_owned(),
            Kind::Number(n, _) => number_text(n),
            Kind::Url => "url(".to_owned(),
            Kind::Comma | Kind::Space => return None,
            _ => tokens.text[token.start as usize..token.end as usize].to_ascii_lowercase(),
        })
    };
    let words = |tokens: &Tokens| tokens.list.iter().filter_map(|t| word(tokens, t)).collect::<Vec<_>>();
    let written = words(&text);
    words(&part).iter().any(|w| written.contains(w))
}

/// Whether a list is one value over and over.
fn consists_of(list: &str, value: &str) -> bool {
    list == value || list.split(", ").all(|part| part == value)
}

/// The element that values are inherited from.
fn parent_of(subject: &About<'_>) -> Option<ElementId> {
    if subject.pseudo.is_some() {
        Some(subject.element)
    } else {
        subject.study.page.document.flat_parent(subject.element)
    }
}

/// Whose value of a property something is relative to, the parent's or the initial one, and where that is set.
fn parents(subject: &About<'_>, property: PropertyId) -> String {
    let (study, name) = (subject.study, property.name());
    match parent_of(subject) {
        Some(parent) => {
            let set = set_at(study, parent, property);
            format!("{name} of the parent, `{}`{set}", study.page.document.label(parent))
        }
        None => format!("the initial {name}, as there is no parent"),
    }
}

/// The element whose font size steps of an element or pseudo-element are relative to, where they are to one.
pub(super) fn font_size_of_whom(
    study: &Study,
    (element, pseudo): (ElementId, Option<&PseudoElement>),
    steps: &[String],
) -> Option<ElementId> {
    let has = |words: &str| steps.iter().any(|s| s.contains(words));
    let about = About { study, element, pseudo };
    if has("(font-size of the parent, ") {
        return parent_of(&about);
    }
    let document = &study.page.document;
    if has("(font-size of the root") {
        return document.flat_lineage(element).last();
    }
    has(&format!("(font-size of `{}`", document.label(element))).then_some(element).filter(|_| pseudo.is_none())
}

/// What comes of the initial value of a longhand, where that is another value.
pub(super) fn of_initial(subject: &About<'_>, longhand: PropertyId, style: &Style, value: &str) -> Option<String> {
    let initial = longhand.initial().text();
    let because =
        || altered(subject, longhand, &initial, style, value).map(|why| format!(": {why}")).unwrap_or_default();
    (!style.is_initial(longhand)).then(|| format!("`{initial}` comes to {value}{}", because()))
}

/// Why a value is not the one that is written, where another property of the element or of its parent is the cause.
fn altered(subject: &About<'_>, property: PropertyId, part: &str, style: &Style, value: &str) -> Option<String> {
    let other = match property {
        id::DISPLAY if style::blockified(part, parent_of(subject).is_none()) == Some(value) => {
            return other_box(subject, style);
        }
        id::OVERFLOW_X => id::OVERFLOW_Y,
        id::OVERFLOW_Y => id::OVERFLOW_X,
        _ => return None,
    };
    // CSS Overflow 3, §3.1.
    let scrolls = matches!(style.get(other).as_keyword(), Some("hidden" | "scroll" | "auto")) && value == "auto";
    scrolls.then(|| {
        let cause = super::why::value_and_cause(subject.study, subject.element, subject.pseudo, other);
        format!("what scrolls in one direction does so in both: {cause}")
    })
}

/// Why a kind of box is not the one that is written (CSS Display 3, §2.7 "Automatic Box Type Transformations").
fn other_box(subject: &About<'_>, style: &Style) -> Option<String> {
    let study = subject.study;
    let cause = |property: PropertyId, element: ElementId, pseudo: Option<&PseudoElement>| {
        super::why::value_and_cause(study, element, pseudo, property)
    };
    if matches!(style.get(id::POSITION).as_keyword(), Some("absolute" | "fixed")) {
        return Some(format!(
            "what is positioned so is a block: {}",
            cause(id::POSITION, subject.element, subject.pseudo)
        ));
    }
    if !style.get(id::FLOAT).is("none") {
        return Some(format!("what floats is a block: {}", cause(id::FLOAT, subject.element, subject.pseudo)));
    }
    let Some(mut parent) = parent_of(subject) else { return Some("the root is a block".to_owned()) };
    while study.style(parent).get(id::DISPLAY).is("contents") {
        parent = study.page.document.flat_parent(parent)?;
    }
    let layout = study.style(parent).text(id::DISPLAY);
    matches!(&*layout, "flex" | "inline-flex" | "grid" | "inline-grid").then(|| {
        let label = study.page.document.label(parent);
        format!(
            "items of a {} container are blocks: of `{label}`, {}",
            layout.trim_start_matches("inline-"),
            cause(id::DISPLAY, parent, None)
        )
    })
}

/// The font size of an element in px; the initial one of none.
fn font_size_of(study: &Study, element: Option<ElementId>) -> f64 {
    element.map_or(16.0, |e| study.style(e).context.font_size)
}

/// What the units in a property's value are relative to.
fn context_of(subject: &About<'_>, property: PropertyId, style: &Style) -> Context {
    let font_size = match property {
        id::FONT_SIZE => font_size_of(subject.study, parent_of(subject)),
        _ => style.context.font_size,
    };
    Context { font_size, ..style.context.clone() }
}

/// A number of a unit in the unit that values are computed in, and as a product with whose size it is, where it is relative
/// to one.
fn conversion(
    subject: &About<'_>,
    property: PropertyId,
    style: &Style,
    n: f64,
    unit: Unit,
) -> (Option<String>, String) {
    let (one, base) = unit.canonical(1.0, &context_of(subject, property, style));
    let whose = unit.relative_to().map(|to| match (unit, property) {
        (Unit::Em, id::FONT_SIZE) => parents(subject, id::FONT_SIZE),
        (Unit::Rem, id::FONT_SIZE) if parent_of(subject).is_none() => parents(subject, id::FONT_SIZE),
        (Unit::Em, _) => {
            let (whose, set) = own_font_size(subject);
            format!("{whose}{set}")
        }
        _ => to.to_owned(),
    });
    let product =
        whose.map(|whose| format!("{}{} × {}{} ({whose})", number_text(n), unit.name(), number_text(one), base.name()));
    (product, format!("{}{}", number_text(n * one), base.name()))
}

/// The arithmetic from a specified to a computed value.
fn arithmetic(
    subject: &About<'_>,
    property: PropertyId,
    part: &str,
    style: &Style,
    value: &str,
    steps: &mut Vec<String>,
) {
    let tokens = Tokens::read(part);
    let all = tokens.all().trim();
    if let Some(found) = one_component(subject, property, all, style, value) {
        return steps.extend(found);
    }
    if matches!(all.kind(), Some(Kind::Function(_))) && any_numeric(all, &style.context).is_some() {
        return calculation(subject, property, part, style, value, steps);
    }
    steps.extend(products(subject, property, part, style).into_iter().map(|p| p.step));
    let inputs: [(bool, &dyn Fn() -> String); 2] = [
        (mentions(part, "light-dark("), &|| {
            let (scheme, which) = if style.dark { ("dark", "second") } else { ("light", "first") };
            format!("the colour scheme is {scheme} here, so the {which} colour of `light-dark()` is taken")
        }),
        (mentions(part, "currentcolor"), &|| {
            format!("`currentcolor` is {}, the element's `color`", style.text(id::COLOR))
        }),
    ];
    steps.extend(inputs.into_iter().filter(|(is_used, _)| *is_used).map(|(_, step)| step()));
    if let Some(notations) = notations(all, part, value) {
        steps.push(notations);
    } else if part != value && !part.eq_ignore_ascii_case(value) {
        let altered = || altered(subject, property, part, style, value);
        let why = match unseen_line(property, style, value).or_else(altered) {
            Some(why) => format!(": {why}"),
            None if value.contains(crate::source::SITE) && !part.contains(crate::source::SITE) => {
                format!("; {} stands for the top folder of the site", crate::source::SITE)
            }
            None => String::new(),
        };
        steps.push(format!("`{}` comes to {value}{why}", crate::text::shorten(part, 80)));
    }
}

/// The steps for a value of one number or keyword that means something of its own; nothing for others.
fn one_component(
    subject: &About<'_>,
    property: PropertyId,
    all: Slice<'_>,
    style: &Style,
    value: &str,
) -> Option<Vec<String>> {
    let token = all.peek().filter(|_| all.from + 1 == all.to)?;
    let part = all.text();
    let (study, parent) = (subject.study, parent_of(subject));
    let own_size = || format!("{}px ({})", number_text(style.context.font_size), own_font_size(subject).0);
    let size_of_parent =
        || format!("{}px ({})", number_text(font_size_of(study, parent)), parents(subject, id::FONT_SIZE));
    let step = match token.kind {
        Kind::Dimension(n, _) => {
            let (product, exact) = conversion(subject, property, style, n, Unit::named(&all.name(token))?);
            let result = settled(property, style, &exact, value);
            match product {
                Some(product) => format!("{product} = {result}"),
                None if exact == part && exact == value => return Some(Vec::new()),
                None if exact == part => result,
                None => format!("{part} = {result}"),
            }
        }
        Kind::Percentage(n) if property == id::FONT_SIZE => {
            format!("{}% × {} = {value}", number_text(n), size_of_parent())
        }
        Kind::Percentage(n) if property == id::LINE_HEIGHT => {
            let whole = number_text(n.trunc());
            let product = format!("{whole}% × {} = {value}", own_size());
            if n.fract() != 0.0 {
                let cut = format!("{part} counts as {whole}%: browsers take whole percents here");
                return Some(vec![cut, product]);
            }
            product
        }
        Kind::Number(n, _) if property == id::LINE_HEIGHT => {
            let px = number_text(n * style.context.font_size);
            format!(
                "{} × {} makes lines of {px}px; the number itself is what children inherit",
                number_text(n),
                own_size()
            )
        }
        Kind::Ident if property == id::FONT_SIZE && all.is_ident("larger") => {
            format!("`{part}`: {} × 1.2 = {value}", size_of_parent())
        }
        Kind::Ident if property == id::FONT_SIZE && all.is_ident("smaller") => {
            format!("`{part}`: {} ÷ 1.2 = {value}", size_of_parent())
        }
        Kind::Ident if all.is_ident("bolder") || all.is_ident("lighter") => {
            let weight = parent.and_then(|p| study.value(p, "font-weight")).unwrap_or_else(|| "400".to_owned());
            format!("`{part}` than {weight} ({}) = {value}", parents(subject, id::FONT_WEIGHT))
        }
        Kind::Ident if all.is_ident("currentcolor") => format!("`currentcolor` is the element's `color`: {value}"),
        _ => return None,
    };
    Some(vec![step])
}

/// What a number with a relative unit comes to.
struct Product<'p> {
    /// The number as it is written.
    written: &'p str,
    /// The product: `2em × 16px (…) = 32px`.
    step: String,
    /// The number in the unit that values are computed in.
    total: String,
}

/// What each number with a relative unit in a value comes to, each once.
fn products<'p>(subject: &About<'_>, property: PropertyId, part: &'p str, style: &Style) -> Vec<Product<'p>> {
    let tokens = Tokens::read(part);
    let mut found: Vec<Product<'p>> = Vec::new();
    for token in &tokens.list {
        let Kind::Dimension(n, _) = token.kind else { continue };
        let written = &part[token.start as usize..token.end as usize];
        let Some(unit) = Unit::named(&tokens.all().name(*token)) else { continue };
        if let (Some(product), total) = conversion(subject, property, style, n, unit)
            && found.iter().all(|p| p.written != written)
        {
            found.push(Product { written, step: format!("{product} = {total}"), total });
        }
    }
    found
}

/// The steps of an expression: what each relative unit comes to, what each function inside does, and what is left.
fn calculation(
    subject: &About<'_>,
    property: PropertyId,
    part: &str,
    style: &Style,
    value: &str,
    steps: &mut Vec<String>,
) {
    let context = context_of(subject, property, style);
    let mut text = part.to_owned();
    for Product { written, step, total } in products(subject, property, part, style) {
        steps.push(step);
        text = replace_token(&text, written, &total);
    }
    // Then functions inside, from the inside out.
    for _ in 0..MOST_CALLS {
        let tokens = Tokens::read(&text);
        let inner = tokens.all().trim();
        let calls = (inner.from + 1..inner.to).map(|i| Slice { from: i, ..inner });
        let innermost = calls.rev().find(|c| matches!(c.kind(), Some(Kind::Function(_) | Kind::Paren(_))));
        let Some(call) = innermost else { break };
        let mut after = call;
        after.next();
        let call = Slice { to: after.from, ..call };
        let written = call.text();
        let function = if written.starts_with('(') { format!("calc{written}") } else { written.to_owned() };
        let read = Tokens::read(&function);
        let found = any_numeric(read.all(), &context).filter(|v| !matches!(v, Value::Math(_)));
        let Some(found) = found else { break };
        steps.push(format!("{written} = {}", found.text()));
        let (start, end) = call.range();
        text.replace_range(start as usize..end as usize, &found.text());
    }
    let spaceless = |text: &str| text.replace(' ', "");
    if text != part || spaceless(&text) != spaceless(value) {
        let waits = if value.contains('%') { "; percentages wait for layout" } else { "" };
        let tokens = Tokens::read(&text);
        let exact = any_numeric(tokens.all(), &context).filter(|v| !matches!(v, Value::Math(_)));
        let result = match exact.map(|v| v.text()) {
            _ if text == value => String::new(),
            Some(exact) if exact == text => format!(": {}", settled(property, style, &exact, value)),
            Some(exact) => format!(" = {}", settled(property, style, &exact, value)),
            None => format!(" = {value}"),
        };
        steps.push(format!("{}{result}{waits}", crate::text::shorten(&text, 100)));
    }
}

/// A result, and what the property makes of it where that is something else.
fn settled(property: PropertyId, style: &Style, exact: &str, value: &str) -> String {
    if exact == value {
        return value.to_owned();
    }
    match (unseen_line(property, style, value), line_style(property)) {
        (Some(why), _) => format!("{exact}, and so {value}: {why}"),
        (None, None) if property != id::OUTLINE_OFFSET => format!("{exact}, and so {value}"),
        _ => format!("{exact}, and so {value}: lines are whole pixels of the screen"),
    }
}

/// The style of the line that a property gives the width of.
fn line_style(property: PropertyId) -> Option<PropertyId> {
    property.name().strip_suffix("-width").and_then(|line| PropertyId::named(&format!("{line}-style")))
}

/// Why a line has no width, where its style says so.
fn unseen_line(property: PropertyId, style: &Style, value: &str) -> Option<String> {
    let none = |line: &PropertyId| matches!(style.get(*line).as_keyword(), Some("none" | "hidden"));
    let line = line_style(property).filter(|line| value == "0px" && none(line))?;
    Some(format!("`{}` is {}", line.name(), style.text(line)))
}

/// How many functions of an expression are shown at the most.
const MOST_CALLS: usize = 12;

/// A text with a token replaced wherever it stands by itself.
fn replace_token(text: &str, token: &str, by: &str) -> String {
    let tokens = Tokens::read(text);
    let pieces = tokens.list.iter().map(|t| &text[t.start as usize..t.end as usize]);
    pieces.map(|p| if p == token { by } else { p }).collect()
}

/// A colour in the notations people know it by.
fn notations(slice: Slice<'_>, part: &str, value: &str) -> Option<String> {
    color::parse(slice)?;
    let tokens = Tokens::read(value);
    let found = color::parse(tokens.all())?.resolve(None)?;
    let [r, g, b] = found.to_rgb();
    let hex = format!("#{r:02x}{g:02x}{b:02x}");
    let name = color::name_of([r, g, b]).filter(|_| found.alpha >= 1.0);
    let mut list = vec![value.to_owned()];
    if found.alpha >= 1.0 {
        list.push(hex);
    }
    list.extend(name.map(str::to_owned));
    list.retain(|n| !n.eq_ignore_ascii_case(part));
    list.dedup();
    (!list.is_empty()).then(|| format!("{part} = {}", list.join(" = ")))
}

/// Whose font size lengths in `em` are relative to, and where that is set: highlights have that of the element that they are over.
fn own_font_size(subject: &About<'_>) -> (String, String) {
    let About { study, element, pseudo } = *subject;
    let pseudo = pseudo.filter(|name| !name.is_highlight());
    let own = pseudo.and_then(|_| study.given(element, pseudo, id::FONT_SIZE.name())?.1);
    let set = match own {
        Some(entry) => format!(", set at {}", study.sources.placed(entry.declaration.span)),
        None => set_at(study, element, id::FONT_SIZE),
    };
    let of = pseudo.map(ToString::to_string).unwrap_or_default();
    (format!("font-size of `{}{of}`", study.page.document.label(element)), set)
}

/// Where a property of an element is set, here or further out, as a part of a sentence.
fn set_at(study: &Study, element: ElementId, property: PropertyId) -> String {
    let place = study.given_at(element, property);
    place.map_or_else(String::new, |p| format!(", set at {p}"))
}
