//! The name someone may have meant: one that exists and is a letter or two away.

/// The nearest of `names` to `wanted`, where one is near enough to be a slip: a third of its letters at most, compared
/// without regard to case. Of several as near, the one that shares more of its letters in their order, from its start on.
pub(crate) fn nearest<'a>(wanted: &str, names: impl Iterator<Item = &'a str>) -> Option<&'a str> {
    let low = wanted.to_lowercase();
    let length = wanted.chars().count();
    let most = (length / 3).clamp(1, 3);
    let letters = letters_of(&low);
    let mut found: Vec<(usize, &str)> = Vec::new();
    for name in names {
        // A slip adds a letter, leaves one out, or puts one in the place of another: most names are out at a glance.
        let ascii = name.is_ascii();
        let other = if ascii { name.len() } else { name.chars().count() };
        if length.abs_diff(other) > most || name == wanted {
            continue;
        }
        if ascii && low.is_ascii() && (letters ^ letters_of(name)).count_ones() as usize > 2 * most {
            continue;
        }
        let distance = strsim::damerau_levenshtein(&low, &name.to_lowercase());
        if distance <= most && distance < other {
            found.push((distance, name));
        }
    }
    let least = found.iter().map(|(distance, _)| *distance).min()?;
    let likeness = |name: &str| strsim::jaro_winkler(&low, &name.to_lowercase());
    let nearest = found.iter().filter(|(distance, _)| *distance == least).map(|(_, n)| (likeness(n), *n));
    nearest.min_by(|(a, n), (b, m)| b.total_cmp(a).then(n.cmp(m))).map(|(_, n)| n)
}

/// The letters that a name has, a bit each; several may have one bit.
fn letters_of(name: &str) -> u64 {
    name.bytes().fold(0, |letters, b| letters | 1 << (b.to_ascii_lowercase() % 64))
}
