//! The name someone may have meant: one that exists and is a letter or two away.

/// The nearest of `names` to `wanted`, where one is near enough to be a slip: a third of its letters at most, compared
/// without regard to case. Of several as near, the one that shares more of its letters in their order, from its start on.
pub(crate) fn nearest<'a>(wanted: &str, names: impl Iterator<Item = &'a str>) -> Option<&'a str> {
    let low = wanted.to_lowercase();
    let most = (wanted.chars().count() / 3).clamp(1, 3);
    let near = |name: &str| {
        let name = name.to_lowercase();
        (strsim::damerau_levenshtein(&low, &name), strsim::jaro_winkler(&low, &name))
    };
    names
        .filter(|n| *n != wanted)
        .map(|n| (near(n), n))
        .filter(|((distance, _), n)| *distance <= most && *distance < n.chars().count())
        .min_by(|((d1, like1), n1), ((d2, like2), n2)| d1.cmp(d2).then(like2.total_cmp(like1)).then(n1.cmp(n2)))
        .map(|(_, n)| n)
}
