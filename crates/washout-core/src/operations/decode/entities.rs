//! Character references of HTML, named and numeric (HTML Standard, section 13.2.5.72). Only those with their `;`.

use crate::operations::RuleState;

/// The longest name has 31 letters.
const LONGEST: usize = 40;

pub(super) fn run(text: &[u8], state: &mut RuleState) {
    for at in memchr::memchr_iter(b'&', text) {
        let rest = &text[at..text.len().min(at + LONGEST)];
        let Some(end) = memchr::memchr(b';', rest) else { continue };
        let Ok(reference) = std::str::from_utf8(&rest[..=end]) else { continue };
        let mut bytes = [0; 4];
        if let Some(number) = reference.strip_prefix("&#") {
            if let Some(character) = numeric(&number[..number.len() - 1]) {
                state.push(text, at..at + end + 1, character.encode_utf8(&mut bytes).as_bytes(), 1);
            }
            continue;
        }
        let named = reference[1..end].bytes().all(|byte| byte.is_ascii_alphanumeric());
        let decoded = html_escape::decode_html_entities(reference);
        if named && !decoded.ends_with(';') {
            state.push(text, at..at + end + 1, decoded.as_bytes(), 1);
        }
    }
}

/// The character of `8217` or `x2019`. Numbers 128 to 159 mean windows-1252, as the standard has it.
fn numeric(number: &str) -> Option<char> {
    let code = match number.strip_prefix(['x', 'X']) {
        Some(hex) if hex.bytes().all(|byte| byte.is_ascii_hexdigit()) => u32::from_str_radix(hex, 16).ok()?,
        None if number.bytes().all(|byte| byte.is_ascii_digit()) => number.parse().ok()?,
        _ => return None,
    };
    match u8::try_from(code) {
        Ok(0) => None,
        Ok(byte @ 0x80..=0x9F) => encoding_rs::WINDOWS_1252.decode_without_bom_handling(&[byte]).0.chars().next(),
        _ => char::from_u32(code),
    }
}
