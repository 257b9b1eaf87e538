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

/// The command that was typed, as another command and without these options; `None` if it cannot be shown on a line.
pub(crate) fn typed_with_instead(command: &str, other: &str, without: &[&str]) -> Option<String> {
    let words: Vec<String> = std::env::args_os().skip(1).map(|word| word.into_string().ok()).collect::<Option<_>>()?;
    if words.iter().any(|word| word.chars().any(char::is_control)) {
        return None;
    }
    let mut shown = vec![program_name()];
    let mut words = words.into_iter().peekable();
    while let Some(word) = words.next() {
        if word == command && shown.len() == 1 {
            shown.push(other.to_owned());
        } else if let Some(option) = without.iter().find(|option| word == **option) {
            // A format has a value; a flag has none.
            if *option == "--format" {
                words.next();
            }
        } else if !without.iter().any(|option| word.starts_with(&format!("{option}="))) {
            shown.push(quoted(&word));
        }
    }
    Some(shown.join(" "))
}

/// A word as a shell has to be given it.
pub(crate) fn quoted(word: &str) -> String {
    shlex::try_quote(word).map_or_else(|_| word.to_owned(), Into::into)
}
