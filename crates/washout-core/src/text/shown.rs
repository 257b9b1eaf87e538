//! Text drawn so that people see every character of it.

/// `text` with what cannot be seen or would change the line spelled out as `\n`, `\u{200b}`.
pub(crate) fn visible(text: &str) -> String {
    let mut shown = String::with_capacity(text.len());
    for character in text.chars() {
        match character {
            '"' | '\'' | '\\' => shown.push(character),
            _ => shown.extend(character.escape_debug()),
        }
    }
    shown
}

/// `text` in quotation marks, drawn by [`visible`].
pub(crate) fn quoted(text: &str) -> String {
    format!("“{}”", visible(text))
}
