//! Commands to type next.

/// The name this program was called by.
pub(crate) fn program_name() -> String {
    std::env::args().next().filter(|name| !name.is_empty()).map_or_else(|| "washout".to_owned(), |name| quoted(&name))
}

/// The command that was typed, with more words behind it; without those words if it cannot be shown on a line.
pub(crate) fn typed_with(more: &str) -> String {
    let words: Option<Vec<String>> = std::env::args_os().skip(1).map(|word| word.into_string().ok()).collect();
    match words {
        Some(words) if !words.iter().any(|word| word.chars().any(char::is_control)) => {
            let words: Vec<String> = words.iter().map(|word| quoted(word)).collect();
            format!("{} {} {more}", program_name(), words.join(" "))
        }
        _ => format!("the same again with {more}"),
    }
}

/// A word as a shell has to be given it.
pub(crate) fn quoted(word: &str) -> String {
    shlex::try_quote(word).map_or_else(|_| word.to_owned(), Into::into)
}
