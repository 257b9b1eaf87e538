//! UTF-8 that was once read as windows-1252 and written as UTF-8 again: `â€™` was `’`.

use crate::operations::RuleState;
use crate::text::chars::{char_at, step};

pub(super) fn run(text: &[u8], state: &mut RuleState) {
    let mut at = 0;
    while let Some(found) = text[at..].iter().position(|byte| *byte >= 0xC2) {
        at += found;
        match twice_encoded(text, at) {
            Some((character, end)) => {
                state.push(text, at..end, character.encode_utf8(&mut [0; 4]).as_bytes(), 1);
                at = end;
            }
            None => at += step(text, at),
        }
    }
}

/// The character whose bytes the characters from `at` on are, and where they end.
fn twice_encoded(text: &[u8], at: usize) -> Option<(char, usize)> {
    let (mut bytes, mut end) = (Vec::with_capacity(4), at);
    let (first, len) = char_at(text, end)?;
    let lead = windows_1252(first)?;
    let count = match lead {
        0xC2..=0xDF => 2,
        0xE0..=0xEF => 3,
        0xF0..=0xF4 => 4,
        _ => return None,
    };
    bytes.push(lead);
    end += len;
    while bytes.len() < count {
        let (next, len) = char_at(text, end)?;
        bytes.push(windows_1252(next).filter(|byte| (0x80..=0xBF).contains(byte))?);
        end += len;
    }
    std::str::from_utf8(&bytes).ok()?.chars().next().map(|character| (character, end))
}

/// The byte beyond ASCII that windows-1252 has for a character; its five holes stand for themselves, as in the
/// Encoding Standard.
fn windows_1252(character: char) -> Option<u8> {
    match u8::try_from(u32::from(character)) {
        Ok(byte @ (0xA0..=0xFF | 0x81 | 0x8D | 0x8F | 0x90 | 0x9D)) => Some(byte),
        _ if character.is_ascii() => None,
        _ => {
            let mut bytes = [0; 4];
            let (encoded, _, unmappable) = encoding_rs::WINDOWS_1252.encode(character.encode_utf8(&mut bytes));
            if unmappable { None } else { encoded.first().copied() }
        }
    }
}
