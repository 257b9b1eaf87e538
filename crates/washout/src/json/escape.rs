//! JSON that cannot drive a terminal.

use std::fmt::{self, Write};

use serde_json::Value;

use super::text;
use crate::show::visible::is_hidden;

/// A value on one line. Control characters, directions of writing and others that are not seen are written as `\uXXXX`, which
/// means the same (RFC 8259, section 7).
pub(crate) struct Escaped<'v>(pub(crate) &'v Value);

impl fmt::Display for Escaped<'_> {
    fn fmt(&self, formatter: &mut fmt::Formatter<'_>) -> fmt::Result {
        formatter.write_str(&escaped(&self.0.to_string()))
    }
}

/// The same for text that is JSON: out of strings it is ASCII, and what is below U+0020 is escaped already.
pub(super) fn escaped(json: &str) -> String {
    let mut escaped = String::with_capacity(json.len());
    let mut rest = json;
    loop {
        // Most of it is plain.
        let is_written = |byte: u8| byte.is_ascii() && byte != 0x7F;
        let plain = rest.bytes().position(|byte| !is_written(byte)).unwrap_or(rest.len());
        let (written, others) = rest.split_at(plain);
        escaped.push_str(written);
        let mut others = others.chars();
        let Some(character) = others.next() else { return escaped };
        rest = others.as_str();
        // Tags are seen in flags only.
        let is_tag = matches!(character, '\u{E0020}'..='\u{E007F}');
        if !is_tag && !is_hidden(character) {
            escaped.push(character);
            continue;
        }
        for unit in character.encode_utf16(&mut [0; 2]) {
            // Writing to a string does not fail.
            let _ = write!(escaped, "\\u{unit:04x}");
        }
    }
}

/// Appends text of any bytes as a JSON string.
pub(crate) fn write_text(bytes: &[u8], out: &mut Vec<u8>) {
    let is_plain = |byte: &u8| matches!(byte, b' '..=b'~') && !matches!(byte, b'"' | b'\\');
    if bytes.iter().all(is_plain) {
        out.push(b'"');
        out.extend_from_slice(bytes);
        out.push(b'"');
    } else {
        out.extend_from_slice(Escaped(&text(bytes).into()).to_string().as_bytes());
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_is_not_seen_is_escaped_and_means_the_same() {
        let value = Value::from("\u{1b}[2J\u{7f}\u{9b}\u{202e}\u{200b}\u{e0041}é 🚒\n");
        let written = Escaped(&value).to_string();
        assert_eq!(written, r#""\u001b[2J\u007f\u009b\u202e\u200b\udb40\udc41é 🚒\n""#);
        assert_eq!(serde_json::from_str::<Value>(&written).expect("JSON"), value);
    }
}
