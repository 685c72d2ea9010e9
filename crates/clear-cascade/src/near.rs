//! The name someone may have meant: one that exists and is a letter or two away.

/// The nearest of `names` to `wanted`, where one is near enough to be a slip: a third of its letters at most, compared
/// without regard to case.
pub(crate) fn nearest<'a>(wanted: &str, names: impl Iterator<Item = &'a str>) -> Option<&'a str> {
    let low = wanted.to_lowercase();
    let most = (wanted.chars().count() / 3).clamp(1, 3);
    names
        .filter(|n| *n != wanted)
        .map(|n| (strsim::damerau_levenshtein(&low, &n.to_lowercase()), n))
        .filter(|(distance, n)| *distance <= most && *distance < n.chars().count())
        .min_by_key(|(distance, n)| (*distance, n.len(), *n))
        .map(|(_, n)| n)
}
