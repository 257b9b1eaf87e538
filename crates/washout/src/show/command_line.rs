//! Commands to type next.

/// The name this program was called by.
pub(crate) fn program_name() -> String {
    std::env::args().next().filter(|name| !name.is_empty()).map_or_else(|| "washout".to_owned(), |name| quoted(&name))
}

/// The command that was typed, with more words after it; without those words if it cannot be shown on a line.
pub(crate) fn typed_with(more: &str) -> String {
    typed(None, &[]).map_or_else(|| format!("the same again with {more}"), |typed| format!("{typed} {more}"))
}

/// An option of the command line, and whether a value stands after it.
pub(crate) type Typed = (&'static str, bool);

/// The command that was typed, with the second of two commands in place of the first, and without these options; `None`
/// if it cannot be shown on a line.
pub(crate) fn typed(mut instead: Option<(&str, &str)>, without: &[Typed]) -> Option<String> {
    let words: Vec<String> = std::env::args_os().skip(1).map(|word| word.into_string().ok()).collect::<Option<_>>()?;
    if words.iter().any(|word| word.chars().any(char::is_control)) {
        return None;
    }
    let mut shown = vec![program_name()];
    let mut words = words.into_iter();
    while let Some(word) = words.next() {
        if let Some((_, other)) = instead.take_if(|(command, _)| word == *command) {
            shown.push(other.to_owned());
        } else if let Some((_, has_value)) = without.iter().find(|(option, _)| word == *option) {
            if *has_value {
                words.next();
            }
        } else if !without.iter().any(|(option, _)| word.starts_with(&format!("{option}="))) {
            shown.push(quoted(&word));
        }
    }
    Some(shown.join(" "))
}

/// A word as a shell has to be given it.
pub(crate) fn quoted(word: &str) -> String {
    shlex::try_quote(word).map_or_else(|_| word.to_owned(), Into::into)
}
