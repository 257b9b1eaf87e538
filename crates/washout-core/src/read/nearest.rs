//! The known name a slip was probably meant to be.

/// The nearest of `known` to `written`, if any is near enough to be meant.
pub fn nearest<'k>(written: &str, known: impl IntoIterator<Item = &'k str>) -> Option<&'k str> {
    let plain = |name: &str| name.to_lowercase().replace(['_', ' '], "-");
    let written = plain(written);
    let known: Vec<&str> = known.into_iter().collect();
    let longer_form = |name: &&str| {
        written.len() > 2
            && (plain(name).starts_with(&written) || (written.starts_with(&plain(name)) && name.len() > 2))
    };
    if let Some(name) = known.iter().copied().find(longer_form) {
        return Some(name);
    }
    let scored = known.into_iter().map(|name| (strsim::damerau_levenshtein(&written, &plain(name)), name));
    let (distance, name) = scored.min_by_key(|(distance, _)| *distance)?;
    let allowed = match written.chars().count() {
        0..=2 => 0,
        3..=5 => 1,
        6..=8 => 2,
        _ => 3,
    };
    (distance <= allowed).then_some(name)
}

/// “; did you mean `x`?” or nothing.
pub(super) fn did_you_mean<'k>(written: &str, known: impl IntoIterator<Item = &'k str>) -> String {
    nearest(written, known).map_or_else(String::new, |name| format!("; did you mean `{name}`?"))
}

/// Names in backticks, with commas.
pub(super) fn list<'k>(names: impl IntoIterator<Item = &'k str>) -> String {
    names.into_iter().map(|name| format!("`{name}`")).collect::<Vec<_>>().join(", ")
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn only_near_names_are_proposed() {
        let known = ["control", "odd-space", "at", "which", "whitespace", "words"];
        for (written, want) in [
            ("contrl", Some("control")),
            ("odd_space", Some("odd-space")),
            ("Control", Some("control")),
            ("white", Some("whitespace")),
            ("word", Some("words")),
            ("hwich", Some("which")),
            ("xt", None),
            ("colour", None),
        ] {
            assert_eq!(nearest(written, known), want, "{written}");
        }
    }
}
