//! The rows of `grid-template-areas` (CSS Grid 2, §7.3).

use rustc_hash::FxHashMap;

use super::Mismatch;
use crate::value::Value;

/// The cells of a row: the name of the area that each is in, or nothing. None where something else is written there.
pub(crate) fn cells(row: &str) -> Option<Vec<Option<&str>>> {
    let is_name = |c: char| c.is_ascii_alphanumeric() || matches!(c, '-' | '_') || !c.is_ascii();
    let mut cells = Vec::new();
    let mut rest = row.trim_start_matches(WHITE);
    while let Some(first) = rest.chars().next() {
        let belongs = |c: char| if first == '.' { c == '.' } else { is_name(c) };
        let (cell, after) = rest.split_at(rest.find(|c| !belongs(c)).unwrap_or(rest.len()));
        if cell.is_empty() {
            return None;
        }
        cells.push((first != '.').then_some(cell));
        rest = after.trim_start_matches(WHITE);
    }
    Some(cells)
}

/// What parts cells.
const WHITE: [char; 5] = [' ', '\t', '\n', '\r', '\u{c}'];

/// Where cells of an area are: the first and the last row and column, and how many cells there are.
struct Extent {
    /// The first and the last row.
    rows: (usize, usize),
    /// The first and the last column.
    columns: (usize, usize),
    /// How many cells.
    count: usize,
}

/// Whether rows are as long as each other and each area is one rectangle. `range` is where they are written.
pub(super) fn check(value: &Value, range: (u32, u32)) -> Result<(), Mismatch> {
    let parts = value.parts();
    let rows = parts.iter().filter_map(|part| if let Value::Str(row) = part { Some(&**row) } else { None });
    let fault = |message: String| Err(Mismatch { message, hint: None, range });
    let mut areas: FxHashMap<&str, Extent> = FxHashMap::default();
    let mut width = None;
    for (y, row) in rows.enumerate() {
        let Some(cells) = cells(row).filter(|cells| !cells.is_empty()) else {
            let what = crate::text::shorten(row, 40);
            return fault(format!("a row of areas is names and dots, and `\"{what}\"` is not"));
        };
        let columns = *width.get_or_insert(cells.len());
        if columns != cells.len() {
            return fault(format!(
                "all rows of areas need as many cells: {columns} in the first, {} in row {}",
                cells.len(),
                y + 1
            ));
        }
        for (x, name) in cells.into_iter().enumerate() {
            let Some(name) = name else { continue };
            let area = areas.entry(name).or_insert(Extent { rows: (y, y), columns: (x, x), count: 0 });
            area.rows.1 = y;
            area.columns = (area.columns.0.min(x), area.columns.1.max(x));
            area.count += 1;
        }
    }
    let torn = |(_, area): &(&&str, &Extent)| {
        (area.rows.1 - area.rows.0 + 1) * (area.columns.1 - area.columns.0 + 1) != area.count
    };
    match areas.iter().filter(torn).map(|(name, area)| (area.rows.0, area.columns.0, name)).min() {
        Some((.., name)) => fault(format!("the cells of the area `{name}` are no rectangle")),
        None => Ok(()),
    }
}

#[cfg(test)]
mod tests {
    use crate::property::{PropertyId, grammar, id};
    use crate::syntax::Tokens;

    /// Values of `grid-template-areas`, and what is wrong with them.
    const ROWS: &[(&str, &str)] = &[
        ("'a'", ""),
        ("'a b' 'a c'", ""),
        ("'a a .' 'a a ...b'", "as many"),
        ("'a.b' '. . .'", ""),
        ("'a...b..' '. . . .'", ""),
        ("'\\e4 -1' '.'", ""),
        ("'é 1' 'é -x'", ""),
        ("'a a' 'a .'", "area `a`"),
        ("'a b' 'b a'", "area `a`"),
        ("'a . a'", "area `a`"),
        ("'a' 'b' 'a'", "area `a`"),
        ("'a a' 'b b' 'c a'", "area `a`"),
        ("''", "names and dots"),
        ("' ' 'a'", "names and dots"),
        ("'a!'", "names and dots"),
        ("'a' 'b c'", "1 in the first, 2 in row 2"),
    ];

    #[test]
    fn areas_are_rectangles() {
        for (written, fault) in ROWS {
            let said = |property: PropertyId, text: &str| {
                let tokens = Tokens::read(text);
                match property == id::GRID_TEMPLATE_AREAS {
                    true => grammar::match_value(property, tokens.all()).err(),
                    false => crate::property::parse_longhands(property, tokens.all(), false).err(),
                }
                .map_or_else(String::new, |e| e.message)
            };
            for property in [id::GRID_TEMPLATE_AREAS, id::GRID_TEMPLATE, id::GRID] {
                let message = said(property, written);
                assert!(message.contains(fault) && message.is_empty() == fault.is_empty(), "{written}: {message}");
            }
        }
    }
}
