//! Declared values by longhand: what a declaration of a property, longhand or shorthand, says for each longhand it sets.

use super::grammar::{self, Item};
use super::{Mismatch, PropertyId, id};
use crate::document::Name;
use crate::property::Declared;
use crate::syntax::{Kind, Slice, Tokens};
use crate::value::{Unit, Value, Wide};

/// What a value says for each longhand of a property, in a page in quirks mode or in another.
///
/// # Errors
/// Where the property does not take the value: what was met and what would do.
pub(crate) fn parse(
    property: PropertyId,
    slice: Slice<'_>,
    quirks: bool,
) -> Result<Vec<(PropertyId, Declared)>, Mismatch> {
    let slice = slice.trim();
    if !property.row().ships {
        let message = format!("most browsers do not have `{}` yet", property.name());
        return Err(Mismatch { message, hint: None, range: slice.range() });
    }
    if let Some(wide) = Wide::of(slice) {
        let set = all_longhands(property);
        return Ok(set.into_iter().map(|l| (l, Declared::Wide(wide))).collect());
    }
    match super::replaced::needed(slice) {
        Ok(false) => {}
        Ok(true) => return Ok(substituted(property)),
        Err((message, range)) => {
            return Err(Mismatch { message, hint: None, range });
        }
    }
    if property == id::ALL {
        let message =
            "`all` takes `initial`, `inherit`, `unset`, `revert`, `revert-layer` and `revert-rule` only".to_owned();
        return Err(Mismatch { message, hint: None, range: slice.range() });
    }
    Ok(parse_longhands(property, slice, quirks)?.into_iter().map(|(l, v)| (l, Declared::Value(v))).collect())
}

/// What a value says for each longhand in which something is to be replaced.
pub(crate) fn substituted(property: PropertyId) -> Vec<(PropertyId, Declared)> {
    all_longhands(property).into_iter().map(|l| (l, Declared::Substitute(property))).collect()
}

/// All longhands that a property sets or resets.
fn all_longhands(property: PropertyId) -> Vec<PropertyId> {
    let mut set = property.longhands_of();
    set.extend(property.row().resets());
    set
}

/// What a value without substitutions says for each longhand.
///
/// # Errors
/// Where the property does not take the value.
pub(crate) fn parse_longhands(
    property: PropertyId,
    slice: Slice<'_>,
    quirks: bool,
) -> Result<Vec<(PropertyId, Value)>, Mismatch> {
    let found = longhands(property, slice);
    if found.is_err()
        && let Some(meant) = quirks.then(|| super::quirks::meant(property, slice)).flatten()
        && let Ok(meant) = longhands(property, Tokens::read(&meant).all())
    {
        return Ok(meant);
    }
    found
}

/// The same by the grammar alone.
fn longhands(property: PropertyId, slice: Slice<'_>) -> Result<Vec<(PropertyId, Value)>, Mismatch> {
    if property.is_longhand() {
        return Ok(vec![(property, grammar::match_value(property, slice)?)]);
    }
    let mut found = match property {
        id::BACKGROUND => layers(property, slice, "bg-layer", "final-bg-layer")?,
        id::MASK => layers(property, slice, "mask-layer", "mask-layer")?,
        id::ANIMATION => layers(property, slice, "single-animation", "single-animation")?,
        id::TRANSITION => layers(property, slice, "single-transition", "single-transition")?,
        id::BACKGROUND_POSITION => positions(property, slice)?,
        id::FONT_VARIANT => font_variant(slice)?,
        id::FONT_SYNTHESIS => font_synthesis(slice)?,
        id::GRID | id::GRID_TEMPLATE => grid_template(property, slice)?,
        _ => {
            let items = grammar::match_shorthand(property, slice)?;
            from_items(property, items)
        }
    };
    for longhand in all_longhands(property) {
        if !found.iter().any(|(l, _)| *l == longhand) {
            found.push((longhand, longhand.initial()));
        }
    }
    Ok(found)
}

/// The parts of a shorthand whose components are labelled or stand in a fixed order.
fn from_items(property: PropertyId, items: Vec<Item>) -> Vec<(PropertyId, Value)> {
    let longhands = property.row().longhands();
    match property {
        id::FONT => font(items),
        id::FLEX => flex(items),
        id::LIST_STYLE => list_style(items),
        id::WHITE_SPACE => white_space(&items),
        id::GRID_AREA | id::GRID_ROW | id::GRID_COLUMN => grid_lines(property, &items),
        id::RULE_COLOR | id::RULE_STYLE | id::RULE_WIDTH => spread(longhands, &[grammar::join(items)]),
        id::RULE => lists(property, &items),
        id::TEXT_BOX => text_box(items),
        id::ANIMATION_RANGE | id::TIMELINE_TRIGGER_ACTIVATION_RANGE | id::TIMELINE_TRIGGER_ACTIVE_RANGE => {
            ranges(longhands, &items)
        }
        id::CONTAIN_INTRINSIC_SIZE => {
            let values = split_auto(items);
            spread(longhands, &values)
        }
        id::PAGE_BREAK_AFTER | id::PAGE_BREAK_BEFORE | id::PAGE_BREAK_INSIDE => {
            let value = grammar::join(items);
            let value = if value.is("always") { Value::keyword("page") } else { value };
            spread(longhands, &[value])
        }
        _ if property.name().starts_with("-webkit-") && longhands.len() == 1 => legacy(property, &items),
        // With the old name, two values are those across and down.
        _ if property.name() == "-webkit-border-radius" && items.len() == 2 => {
            let corner = Value::sequence(items.into_iter().map(|i| i.value).collect());
            spread(longhands, &[corner])
        }
        _ if property.name().ends_with("radius") => radius(longhands, &items),
        _ if is_border_side(property) => border(property, &items),
        _ if items.iter().any(|i| i.label.is_none() && matches!(i.value, Value::Delim(','))) => lists(property, &items),
        _ if items.iter().any(|i| i.label.is_some_and(|l| longhands.contains(&l) && !is_box(property))) => {
            labelled(property, items)
        }
        _ => {
            let values: Vec<Value> = items.into_iter().map(|i| i.value).collect();
            spread(longhands, &values)
        }
    }
}

/// An old name of a property with values of its own (CSS Cascade 5, §2 "legacy shorthand").
fn legacy(property: PropertyId, items: &[Item]) -> Vec<(PropertyId, Value)> {
    // One size is for both directions, unless there are sizes of several images.
    let sizes = property.name().ends_with("background-size") && items.len() == 1;
    let renewed = |item: &Item| match (&item.value, item.value.as_keyword()) {
        (Value::Number(n), _) => Value::Dimension(*n, Unit::Px),
        (_, Some("content")) => Value::keyword("content-box"),
        (_, Some("padding")) => Value::keyword("padding-box"),
        (_, Some("border")) => Value::keyword("border-box"),
        (_, Some("always")) => Value::keyword("column"),
        (value, _) => value.clone(),
    };
    let layers = items.split(|i| matches!(i.value, Value::Delim(','))).map(|layer| match layer {
        [one] if sizes && one.value.as_keyword().is_none() => Value::sequence(vec![one.value.clone(); 2]),
        layer => Value::sequence(layer.iter().map(renewed).collect()),
    });
    let value = Value::comma_list(layers.collect());
    property.row().longhands().iter().map(|l| (*l, value.clone())).collect()
}

/// Whether a shorthand takes one to four values for the four sides, or one or two for two ends.
fn is_box(property: PropertyId) -> bool {
    let syntax = property.row().syntax();
    syntax.ends_with("{1,4}") || syntax.ends_with("{1,2}")
}

/// Whether a shorthand sets width, style and colour of borders at once.
fn is_border_side(property: PropertyId) -> bool {
    property.row().syntax().starts_with("<'border-top-width'> ||")
}

/// Spreads one to four values over the longhands, the way `margin` does; of two, the way `gap` does.
fn spread(longhands: &[PropertyId], values: &[Value]) -> Vec<(PropertyId, Value)> {
    let pick = |i: usize| -> Option<Value> {
        let index = match (values.len(), longhands.len(), i) {
            (n, _, i) if i < n => i,
            (_, 4, 3) if values.len() > 1 => 1,
            (_, 4, 2) => 0,
            _ => 0,
        };
        values.get(index).cloned()
    };
    longhands.iter().enumerate().filter_map(|(i, l)| pick(i).map(|v| (*l, v))).collect()
}

/// `border` and its sides: width, style and colour for every side that the shorthand sets.
fn border(property: PropertyId, items: &[Item]) -> Vec<(PropertyId, Value)> {
    let of = |suffix: &str| {
        items.iter().find(|i| i.label.is_some_and(|l| l.name().ends_with(suffix))).map(|i| i.value.clone())
    };
    let mut found = Vec::new();
    for longhand in property.row().longhands() {
        let suffix = longhand.name().rsplit('-').next().unwrap_or_default();
        found.push((*longhand, of(suffix).unwrap_or_else(|| longhand.initial())));
    }
    found
}

/// Components that say themselves whose they are.
fn labelled(property: PropertyId, items: Vec<Item>) -> Vec<(PropertyId, Value)> {
    let mut found: Vec<(PropertyId, Vec<Item>)> = Vec::new();
    for item in items {
        let Some(label) = item.label else { continue };
        match found.iter_mut().find(|(l, _)| *l == label) {
            Some((_, list)) => list.push(item),
            None => found.push((label, vec![item])),
        }
    }
    let mut out = Vec::new();
    for (label, items) in found {
        if label.is_longhand() {
            out.push((label, grammar::join(items)));
        } else {
            out.extend(from_items(label, items));
        }
    }
    // `gap: 2px` and `place-items: center` say the second part with the first (CSS Align 3, §5.4, §8).
    if let ([first, second], true) = (property.row().longhands(), out.len() == 1)
        && is_pair(property)
    {
        let value = out[0].1.clone();
        let baseline = matches!(property, id::PLACE_CONTENT) && value.text().contains("baseline");
        let other = if out[0].0 == *first { *second } else { *first };
        out.push((other, if baseline { Value::keyword("start") } else { value }));
    }
    out
}

/// Comma-separated parts of labelled components, as of `scroll-timeline`: each longhand gets a list.
fn lists(property: PropertyId, items: &[Item]) -> Vec<(PropertyId, Value)> {
    let comma = |i: &Item| i.label.is_none() && matches!(i.value, Value::Delim(','));
    let parts: Vec<_> = items.split(comma).map(|part| labelled(property, part.to_vec())).collect();
    let column = |longhand: &PropertyId| {
        let of = |part: &Vec<(PropertyId, Value)>| {
            // `rule` says the same for rows as for columns.
            let column = if property == id::RULE { longhand.name().strip_prefix("row-") } else { None };
            let own = part.iter().find(|(l, _)| l == longhand || column.is_some_and(|c| l.name().ends_with(c)));
            own.map_or_else(|| longhand.initial(), |(_, value)| value.clone())
        };
        (*longhand, Value::comma_list(parts.iter().map(of).collect()))
    };
    property.row().longhands().iter().map(column).collect()
}

/// Whether a shorthand of two longhands copies the first part where the second is left out.
fn is_pair(property: PropertyId) -> bool {
    matches!(
        property,
        id::GAP
            | id::PLACE_CONTENT
            | id::PLACE_ITEMS
            | id::PLACE_SELF
            | id::MAX_SIZE
            | id::MIN_SIZE
            | id::CUE
            | id::PAUSE
            | id::REST
    )
}

/// `auto? <length>` once or twice.
fn split_auto(items: Vec<Item>) -> Vec<Value> {
    let mut out = Vec::new();
    let mut auto = None;
    for item in items {
        if item.value.is("auto") {
            auto = Some(item.value);
        } else if let Some(auto) = auto.take() {
            out.push(Value::sequence(vec![auto, item.value]));
        } else {
            out.push(item.value);
        }
    }
    out
}

/// Radii: horizontal ones, then vertical ones after a slash.
fn radius(longhands: &[PropertyId], items: &[Item]) -> Vec<(PropertyId, Value)> {
    let mut parts = items.split(|i| matches!(i.value, Value::Delim('/')));
    let values =
        |part: Option<&[Item]>| -> Vec<Value> { part.unwrap_or_default().iter().map(|i| i.value.clone()).collect() };
    let across = values(parts.next());
    let down = parts.next().map_or_else(|| across.clone(), |p| values(Some(p)));
    let (across, down) = (spread(longhands, &across), spread(longhands, &down));
    let both = across.into_iter().zip(down);
    both.map(|((l, x), (_, y))| (l, if x == y { x } else { Value::sequence(vec![x, y]) })).collect()
}

/// `font`
fn font(items: Vec<Item>) -> Vec<(PropertyId, Value)> {
    if items.len() == 1 && items[0].label.is_none() {
        // A system font (CSS Fonts 4, §2.8): what the platform has; here the recorded browser's.
        let small = ["caption", "icon", "menu", "message-box", "small-caption", "status-bar"];
        let known = small.iter().any(|s| items[0].value.is(s));
        return if known {
            vec![
                (id::FONT_FAMILY, Value::Ident(Name::from("Arial"))),
                (id::FONT_SIZE, Value::Dimension(16.0, Unit::Px)),
            ]
        } else {
            Vec::new()
        };
    }
    labelled(id::FONT, items)
}

/// `flex` (CSS Flexbox 1, §7.1.1).
fn flex(items: Vec<Item>) -> Vec<(PropertyId, Value)> {
    if items.len() == 1 && items[0].value.is("none") {
        return vec![
            (id::FLEX_GROW, Value::Number(0.0)),
            (id::FLEX_SHRINK, Value::Number(0.0)),
            (id::FLEX_BASIS, Value::keyword("auto")),
        ];
    }
    let mut found = labelled(id::FLEX, items);
    let has = |found: &[(PropertyId, Value)], p| found.iter().any(|(l, _)| *l == p);
    if !has(&found, id::FLEX_GROW) {
        found.push((id::FLEX_GROW, Value::Number(1.0)));
    }
    if !has(&found, id::FLEX_SHRINK) {
        found.push((id::FLEX_SHRINK, Value::Number(1.0)));
    }
    if !has(&found, id::FLEX_BASIS) {
        found.push((id::FLEX_BASIS, Value::Percentage(0.0)));
    }
    found
}

/// `text-box`: an edge by itself trims both ends (CSS Inline 3, §5.3).
fn text_box(items: Vec<Item>) -> Vec<(PropertyId, Value)> {
    let mut found = labelled(id::TEXT_BOX, items);
    if found.len() == 1 && found[0].0 == id::TEXT_BOX_EDGE {
        found.push((id::TEXT_BOX_TRIM, Value::keyword("trim-both")));
    }
    found
}

/// Ranges of a timeline, each a start and an end. An end left out is that of the range its start names
/// (Scroll-driven Animations 1, §4.2.1).
fn ranges(longhands: &[PropertyId], items: &[Item]) -> Vec<(PropertyId, Value)> {
    let mut edges = (Vec::new(), Vec::new());
    for range in items.split(|i| matches!(i.value, Value::Delim(','))) {
        let mut parts: Vec<Vec<Value>> = Vec::new();
        for item in range {
            let named = |p: &Vec<Value>| p.len() == 1 && !p[0].is("normal") && !p[0].is("auto");
            match parts.last_mut() {
                Some(last) if named(last) && last[0].as_keyword().is_some() && item.value.as_keyword().is_none() => {
                    last.push(item.value.clone());
                }
                _ => parts.push(vec![item.value.clone()]),
            }
        }
        let mut parts = parts.into_iter();
        let start = parts.next().unwrap_or_default();
        let end = parts.next().unwrap_or_else(|| match start.first() {
            Some(name @ Value::Keyword(_)) if !name.is("normal") && !name.is("auto") => vec![name.clone()],
            _ => longhands.get(1).map(|l| l.initial().parts().to_vec()).unwrap_or_default(),
        });
        edges.0.push(Value::sequence(start));
        edges.1.push(Value::sequence(end));
    }
    longhands.iter().copied().zip([Value::comma_list(edges.0), Value::comma_list(edges.1)]).collect()
}

/// `list-style`: a lone `none` is for whichever of type and image is not given (CSS Lists 3, §3.4).
fn list_style(items: Vec<Item>) -> Vec<(PropertyId, Value)> {
    let nones = items.iter().filter(|i| i.value.is("none")).count();
    let others: Vec<Item> = items.into_iter().filter(|i| !i.value.is("none")).collect();
    let mut found = labelled(id::LIST_STYLE, others);
    for property in [id::LIST_STYLE_TYPE, id::LIST_STYLE_IMAGE] {
        if nones > 0 && !found.iter().any(|(l, _)| *l == property) {
            found.push((property, Value::keyword("none")));
        }
    }
    found
}

/// `white-space` (CSS Text 4, §3.1).
fn white_space(items: &[Item]) -> Vec<(PropertyId, Value)> {
    let word = items.first().map(|i| i.value.text()).unwrap_or_default();
    let set = |collapse: &str, wrap: &str| {
        vec![(id::WHITE_SPACE_COLLAPSE, Value::keyword(collapse)), (id::TEXT_WRAP_MODE, Value::keyword(wrap))]
    };
    match &*word {
        "normal" if items.len() == 1 => set("collapse", "wrap"),
        "pre" => set("preserve", "nowrap"),
        "pre-wrap" => set("preserve", "wrap"),
        "pre-line" => set("preserve-breaks", "wrap"),
        "-webkit-nowrap" => set("collapse", "nowrap"),
        _ => labelled(id::WHITE_SPACE, items.iter().map(relabel_white_space).collect()),
    }
}

/// Gives the keywords of `white-space` to their longhands.
fn relabel_white_space(item: &Item) -> Item {
    let wrap = item.value.is("wrap") || item.value.is("nowrap");
    Item { value: item.value.clone(), label: Some(if wrap { id::TEXT_WRAP_MODE } else { id::WHITE_SPACE_COLLAPSE }) }
}

/// `grid-row`, `grid-column`, `grid-area`: lines with slashes between; what is left out follows a name or is `auto`
/// (CSS Grid 2, §8.4).
fn grid_lines(property: PropertyId, items: &[Item]) -> Vec<(PropertyId, Value)> {
    let parts: Vec<Value> = items
        .split(|i| matches!(i.value, Value::Delim('/')))
        .map(|p| Value::sequence(p.iter().map(|i| i.value.clone()).collect()))
        .collect();
    let auto = Value::keyword("auto");
    let named = |v: Option<&Value>| v.filter(|v| matches!(v, Value::Ident(_))).cloned();
    let at = |i: usize, like: usize| {
        parts.get(i).cloned().or_else(|| named(parts.get(like))).unwrap_or_else(|| auto.clone())
    };
    let longhands = property.row().longhands();
    if longhands.len() == 2 {
        return vec![(longhands[0], at(0, 0)), (longhands[1], at(1, 0))];
    }
    let column_start = at(1, 0);
    let column_end = parts.get(3).cloned().or_else(|| named(Some(&column_start))).unwrap_or_else(|| auto.clone());
    vec![(longhands[0], at(0, 0)), (longhands[1], column_start), (longhands[2], at(2, 0)), (longhands[3], column_end)]
}

/// Comma-separated layers: each longhand gets a list with a part a layer.
fn layers(
    property: PropertyId,
    slice: Slice<'_>,
    layer: &str,
    last: &str,
) -> Result<Vec<(PropertyId, Value)>, Mismatch> {
    let parts = slice.commas();
    let mut columns: Vec<(PropertyId, Vec<Value>)> =
        property.row().longhands().iter().map(|l| (*l, Vec::new())).collect();
    for (i, part) in parts.iter().enumerate() {
        let name = if i + 1 == parts.len() { last } else { layer };
        let items = grammar::match_type(name, *part, property)?;
        let found = layer_parts(property, items);
        if property == id::TRANSITION
            && parts.len() > 1
            && found.iter().any(|(l, v)| *l == id::TRANSITION_PROPERTY && v.is("none"))
        {
            let message = "`none` must be the only part of `transition`".to_owned();
            return Err(Mismatch { message, hint: None, range: part.range() });
        }
        for (longhand, column) in &mut columns {
            let value = found.iter().find(|(l, _)| l == longhand).map(|(_, v)| v.clone());
            column.push(value.unwrap_or_else(|| longhand.initial()));
        }
    }
    Ok(columns
        .into_iter()
        .map(|(longhand, mut column)| {
            let single = matches!(longhand, id::BACKGROUND_COLOR | id::ANIMATION_TIMELINE);
            let value =
                if single { column.pop().unwrap_or_else(|| longhand.initial()) } else { Value::comma_list(column) };
            (longhand, value)
        })
        .collect())
}

/// The longhand parts of one layer.
fn layer_parts(property: PropertyId, items: Vec<Item>) -> Vec<(PropertyId, Value)> {
    let mut found = labelled(property, items.into_iter().filter(|i| !matches!(i.value, Value::Delim('/'))).collect());
    if let Some(i) = found.iter().position(|(l, _)| *l == id::BACKGROUND_POSITION_X) {
        let (x, y) = axes(&found[i].1);
        found[i].1 = x;
        found.push((id::BACKGROUND_POSITION_Y, y));
    }
    let value_of =
        |found: &[(PropertyId, Value)], p: PropertyId| found.iter().find(|(l, _)| *l == p).map(|(_, v)| v.clone());
    // One box is for origin and clip; the first of two for the origin (CSS Backgrounds 3, §3.10; CSS Masking 1, §7.9).
    for (origin, clip) in [(id::BACKGROUND_ORIGIN, id::BACKGROUND_CLIP), (id::MASK_ORIGIN, id::MASK_CLIP)] {
        if let (Some(v), None) = (value_of(&found, origin), value_of(&found, clip)) {
            found.push((clip, v));
        }
    }
    found
}

/// `background-position` into its two axes.
fn positions(property: PropertyId, slice: Slice<'_>) -> Result<Vec<(PropertyId, Value)>, Mismatch> {
    let (mut xs, mut ys) = (Vec::new(), Vec::new());
    for part in slice.commas() {
        let (x, y) = axes(&grammar::join(grammar::match_type("bg-position", part, property)?));
        xs.push(x);
        ys.push(y);
    }
    Ok(vec![(id::BACKGROUND_POSITION_X, Value::comma_list(xs)), (id::BACKGROUND_POSITION_Y, Value::comma_list(ys))])
}

/// A position as one value an axis: a keyword, an offset, or a side with an offset.
fn axes(position: &Value) -> (Value, Value) {
    let parts = position.parts();
    let vertical = |v: &Value| v.is("top") || v.is("bottom");
    let horizontal = |v: &Value| v.is("left") || v.is("right");
    let center = || Value::keyword("center");
    match parts {
        [one] if vertical(one) => (center(), one.clone()),
        [one] => (one.clone(), center()),
        [a, b] if vertical(a) || horizontal(b) => (b.clone(), a.clone()),
        [a, b] => (a.clone(), b.clone()),
        _ => {
            let (mut x, mut y, mut last) = (Vec::new(), Vec::new(), None);
            let mut centers = 0;
            for part in parts {
                if horizontal(part) {
                    x.push(part.clone());
                    last = Some(true);
                } else if vertical(part) {
                    y.push(part.clone());
                    last = Some(false);
                } else if part.is("center") {
                    centers += 1;
                    last = None;
                } else if last == Some(true) {
                    x.push(part.clone());
                } else {
                    y.push(part.clone());
                }
            }
            if centers > 0 && x.is_empty() {
                x.push(center());
            }
            if y.is_empty() {
                y.push(center());
            }
            (Value::sequence(x), Value::sequence(y))
        }
    }
}

/// `font-variant`: each word belongs to the longhand that takes it.
fn font_variant(slice: Slice<'_>) -> Result<Vec<(PropertyId, Value)>, Mismatch> {
    let items = grammar::match_shorthand(id::FONT_VARIANT, slice)?;
    if let [one] = items.as_slice()
        && (one.value.is("normal") || one.value.is("none"))
    {
        return Ok(if one.value.is("none") {
            vec![(id::FONT_VARIANT_LIGATURES, one.value.clone())]
        } else {
            Vec::new()
        });
    }
    let mut found: Vec<(PropertyId, Vec<Value>)> = Vec::new();
    for item in items {
        let tokens = Tokens::read(&item.value.text());
        let taker = id::FONT_VARIANT.row().longhands().iter().find(|l| grammar::match_value(**l, tokens.all()).is_ok());
        let Some(taker) = taker else { continue };
        match found.iter_mut().find(|(l, _)| l == taker) {
            Some((_, values)) => values.push(item.value),
            None => found.push((*taker, vec![item.value])),
        }
    }
    Ok(found.into_iter().map(|(l, v)| (l, Value::sequence(v))).collect())
}

/// `font-synthesis`: what is named is `auto`, all else `none`.
fn font_synthesis(slice: Slice<'_>) -> Result<Vec<(PropertyId, Value)>, Mismatch> {
    let items = grammar::match_shorthand(id::FONT_SYNTHESIS, slice)?;
    let named = |l: &PropertyId| items.iter().any(|i| l.name().ends_with(&*i.value.text()));
    let longhands = id::FONT_SYNTHESIS.row().longhands();
    Ok(longhands.iter().map(|l| (*l, Value::keyword(if named(l) { "auto" } else { "none" }))).collect())
}

/// `grid` with `auto-flow` on one side of its slash; nothing where it has none (CSS Grid 2, §7.8).
fn grid_flow(before: Slice<'_>, behind: Slice<'_>) -> Result<Option<Vec<(PropertyId, Value)>>, Mismatch> {
    for (flow_part, other, name, autos, template) in [
        (before, behind, "row", id::GRID_AUTO_ROWS, id::GRID_TEMPLATE_COLUMNS),
        (behind, before, "column", id::GRID_AUTO_COLUMNS, id::GRID_TEMPLATE_ROWS),
    ] {
        let mut rest = flow_part;
        let (mut flows, mut dense) = (false, false);
        while rest.is_ident("auto-flow") || rest.is_ident("dense") {
            flows |= rest.is_ident("auto-flow");
            dense |= rest.is_ident("dense");
            rest.next();
            rest.skip_space();
        }
        if !flows {
            continue;
        }
        let mut flow = vec![Value::keyword(name)];
        if dense {
            flow.push(Value::keyword("dense"));
        }
        let mut found =
            vec![(id::GRID_AUTO_FLOW, Value::sequence(flow)), (template, grammar::match_value(template, other)?)];
        if !rest.is_empty() {
            found.push((autos, grammar::match_value(autos, rest)?));
        }
        return Ok(Some(found));
    }
    Ok(None)
}

/// `grid-template` and `grid` (CSS Grid 2, §7.4, §7.8).
fn grid_template(property: PropertyId, slice: Slice<'_>) -> Result<Vec<(PropertyId, Value)>, Mismatch> {
    grammar::match_shorthand(property, slice)?;
    if slice.is_ident("none") && slice.from + 1 == slice.to {
        return Ok(Vec::new());
    }
    let (before, after) = slice.split_at(|t| t.kind == Kind::Delim('/'));
    let (before, behind) = (before.trim(), Slice { from: (after.from + 1).min(after.to), ..after }.trim());
    if property == id::GRID
        && let Some(flows) = grid_flow(before, behind)?
    {
        return Ok(flows);
    }
    let has_strings = !before.split_at(|t| t.kind == Kind::Str).1.is_empty();
    if !has_strings {
        let rows = grammar::match_value(id::GRID_TEMPLATE_ROWS, before)?;
        return Ok(vec![
            (id::GRID_TEMPLATE_ROWS, rows),
            (id::GRID_TEMPLATE_COLUMNS, grammar::match_value(id::GRID_TEMPLATE_COLUMNS, behind)?),
        ]);
    }
    let mut areas = Vec::new();
    let mut rows: Vec<String> = Vec::new();
    let mut rest = before;
    let mut sized = true;
    while let Some(token) = rest.peek() {
        let one = rest;
        rest.next();
        let text = Slice { to: rest.from, ..one }.text();
        match token.kind {
            Kind::Space => {}
            Kind::Str => {
                if !sized {
                    rows.push("auto".to_owned());
                }
                sized = false;
                areas.push(Value::string(one.name(token)));
            }
            Kind::Square(_) => {
                if !sized && !areas.is_empty() {
                    rows.push("auto".to_owned());
                    sized = true;
                }
                // The names behind one row and those before the next are names of one line.
                match rows.last_mut().filter(|last| last.ends_with(']')) {
                    Some(last) => *last = format!("{} {}", last.trim_end_matches(']'), text.trim_start_matches('[')),
                    None => rows.push(text.to_owned()),
                }
            }
            _ => {
                rows.push(text.to_owned());
                sized = true;
            }
        }
    }
    if !sized {
        rows.push("auto".to_owned());
    }
    let tokens = Tokens::read(&rows.join(" "));
    let areas = Value::sequence(areas);
    super::areas::check(&areas, before.range())?;
    let mut found = vec![
        (id::GRID_TEMPLATE_AREAS, areas),
        (id::GRID_TEMPLATE_ROWS, grammar::match_value(id::GRID_TEMPLATE_ROWS, tokens.all())?),
    ];
    if !behind.is_empty() {
        found.push((id::GRID_TEMPLATE_COLUMNS, grammar::match_value(id::GRID_TEMPLATE_COLUMNS, behind)?));
    }
    Ok(found)
}
