//! Ready-made stop words: a short list of words that only join others for some languages, and a long list for most.

/// Short lists, which leave every word with a meaning of its own, by the ISO 639-1 code of their language.
const SHORT: &[(&str, &str)] = &[
    ("da", include_str!("../../stopwords/da.txt")),
    ("de", include_str!("../../stopwords/de.txt")),
    ("en", include_str!("../../stopwords/en.txt")),
    ("es", include_str!("../../stopwords/es.txt")),
    ("fr", include_str!("../../stopwords/fr.txt")),
    ("it", include_str!("../../stopwords/it.txt")),
    ("nl", include_str!("../../stopwords/nl.txt")),
    ("no", include_str!("../../stopwords/no.txt")),
    ("pt", include_str!("../../stopwords/pt.txt")),
    ("sv", include_str!("../../stopwords/sv.txt")),
];

/// How the names of long lists end.
const LONG: &str = "-long";

/// The names of the lists there are: the ISO 639 codes of languages, and, where a language has a short list, its code with
/// `-long` for the long one.
pub fn stop_word_lists() -> impl Iterator<Item = String> {
    let long = languages().iter().flat_map(|code| {
        let long = short(code).map(|_| format!("{code}{LONG}"));
        [Some((*code).to_owned()), long].into_iter().flatten()
    });
    let only_short = SHORT.iter().map(|(code, _)| *code).filter(|code| !languages().contains(code));
    long.chain(only_short.map(str::to_owned))
}

/// The languages that have a long list.
#[cfg(feature = "stop-words")]
fn languages() -> &'static [&'static str] {
    stop_words::available_languages()
}

#[cfg(feature = "stop-words")]
fn long(code: &str) -> Option<&'static [&'static str]> {
    stop_words::lookup(code)
}

#[cfg(not(feature = "stop-words"))]
fn languages() -> &'static [&'static str] {
    &[]
}

#[cfg(not(feature = "stop-words"))]
fn long(_code: &str) -> Option<&'static [&'static str]> {
    None
}

/// The words of a list. The code of a language alone means its short list, if it has one, and else the long one.
///
/// ```
/// let words = washout_core::read::stop_words("en").unwrap_or_default();
/// assert!(words.contains(&"the") && !words.contains(&"fire"));
/// assert!(washout_core::read::stop_words("en-long").is_some_and(|long| long.contains(&"fire")));
/// ```
pub fn stop_words(name: &str) -> Option<Vec<&'static str>> {
    if let Some(words) = short(name) {
        return Some(words.lines().collect());
    }
    let entries = long(name.strip_suffix(LONG).unwrap_or(name))?;
    Some(entries.iter().map(|entry| entry.trim()).filter(|entry| !entry.is_empty()).collect())
}

fn short(code: &str) -> Option<&'static str> {
    SHORT.iter().find(|(short, _)| *short == code).map(|(_, words)| *words)
}
