//! The name someone may have meant: one that exists and is a letter or two away.

/// The nearest of `names` to `wanted`, where one is near enough to be a slip: a third of its letters at most, compared
/// without regard to case. Of several as near, the one that shares more of its letters in their order, from its start on.
pub(crate) fn nearest<'a>(wanted: &str, names: impl Iterator<Item = &'a str>) -> Option<&'a str> {
    let length = wanted.chars().count();
    // What is of another length need not be looked at letter by letter.
    let near = |name: &&str| length.abs_diff(length_of(name)) <= most_slips(length);
    nearest_known(wanted, names.filter(near).map(Known::of))
}

/// A name with what tells at a glance that another is not near it.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Known<'a> {
    /// The name.
    name: &'a str,
    /// How many letters it has.
    length: usize,
    /// Which letters; nothing where they are not all ASCII.
    letters: Option<u64>,
}

impl<'a> Known<'a> {
    /// That of a name.
    pub(crate) fn of(name: &'a str) -> Self {
        Self { name, length: length_of(name), letters: name.is_ascii().then(|| letters_of(name)) }
    }
}

/// The same among names that are asked for again and again.
pub(crate) fn nearest_known<'a>(wanted: &str, names: impl Iterator<Item = Known<'a>>) -> Option<&'a str> {
    let low = wanted.to_lowercase();
    let length = wanted.chars().count();
    let most = most_slips(length);
    let letters = low.is_ascii().then(|| letters_of(&low));
    let mut found: Vec<(usize, &str)> = Vec::new();
    for Known { name, length: other, letters: others } in names {
        // A slip adds a letter, leaves one out, or puts one in the place of another: most names are out at a glance.
        let longer = length.abs_diff(other);
        if longer > most || name == wanted {
            continue;
        }
        // Each letter that one has more is a slip that makes one letter differ; others make two differ at most.
        let differing = letters.zip(others).map_or(0, |(own, other)| (own ^ other).count_ones() as usize);
        if differing > 2 * most - longer {
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

/// How many letters of a name of some length may be slips.
fn most_slips(length: usize) -> usize {
    (length / 3).clamp(1, 3)
}

/// How many letters a name has.
fn length_of(name: &str) -> usize {
    if name.is_ascii() { name.len() } else { name.chars().count() }
}

/// The letters that a name has, a bit each; several may have one bit.
fn letters_of(name: &str) -> u64 {
    name.bytes().fold(0, |letters, b| letters | 1 << (b.to_ascii_lowercase() % 64))
}

#[cfg(test)]
mod tests {
    use super::*;

    /// The nearest name found by comparing with all of them in full.
    fn in_full<'a>(wanted: &str, names: &[&'a str]) -> Option<&'a str> {
        let low = wanted.to_lowercase();
        let most = (wanted.chars().count() / 3).clamp(1, 3);
        let near = |n: &str| strsim::damerau_levenshtein(&low, &n.to_lowercase());
        let like = |n: &str| strsim::jaro_winkler(&low, &n.to_lowercase());
        let mut found: Vec<&str> = names.iter().copied().filter(|n| *n != wanted && near(n) <= most).collect();
        found.retain(|n| near(n) < n.chars().count());
        found.into_iter().min_by(|a, b| near(a).cmp(&near(b)).then(like(b).total_cmp(&like(a))).then(a.cmp(b)))
    }

    #[test]
    fn what_is_left_out_at_a_glance_is_not_near() {
        let names =
            ["color", "colour", "margin", "margin-top", "Ärger", "ärmel", "a", "ab", "HOVER", "z-index", "zoom"];
        let letters = ["", "c", "o", "l", "r", "-", "t", "ä", "Ä", "M", "x", "ß"];
        let mut seed = 7_u32;
        for _ in 0..20_000 {
            // One of the names with some letters changed.
            seed = seed.wrapping_mul(1_664_525).wrapping_add(1_013_904_223);
            let mut word: Vec<char> = names[seed as usize / 64 % names.len()].chars().collect();
            for step in 0..seed / 4096 % 4 {
                let at = (seed as usize >> (step * 3)) % (word.len() + 1);
                let end = word.len().min(at + (seed as usize >> step) % 2);
                word.splice(at..end, letters[(seed as usize >> (step + 5)) % letters.len()].chars());
            }
            let word: String = word.into_iter().collect();
            assert_eq!(nearest(&word, names.into_iter()), in_full(&word, &names), "{word:?}");
        }
    }
}
