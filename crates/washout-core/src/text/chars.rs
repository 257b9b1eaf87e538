//! Characters within bytes. A byte that is not part of valid UTF-8 stands alone and is no character.

/// Space or tab: the class `blank`.
pub(crate) fn is_blank_byte(byte: u8) -> bool {
    byte == b' ' || byte == b'\t'
}

/// The character that starts at `at` and its length in bytes; `None` at the end of the text or at a broken byte.
pub(crate) fn char_at(text: &[u8], at: usize) -> Option<(char, usize)> {
    let first = *text.get(at)?;
    if first < 0x80 {
        return Some((char::from(first), 1));
    }
    let (character, len) = bstr::decode_utf8(&text[at..]);
    character.map(|character| (character, len))
}

/// The character that ends at `at`; `None` at the start of the text or after a broken byte.
pub(crate) fn char_before(text: &[u8], at: usize) -> Option<char> {
    let last = *text[..at].last()?;
    if last < 0x80 {
        return Some(char::from(last));
    }
    bstr::decode_last_utf8(&text[..at]).0
}

/// Whether a mark closes what an earlier one opened; some quotation marks do either.
pub(crate) fn is_closing(mark: char) -> bool {
    matches!(mark, '"' | '\'' | '”' | '’' | '»' | '›' | '«' | '“' | ')' | ']' | '}')
}

/// The length in bytes of what stands at `at`: a whole character, or one broken byte. `at` must be inside the text.
pub(crate) fn step(text: &[u8], at: usize) -> usize {
    char_at(text, at).map_or(1, |(_, len)| len)
}

/// Whether `at` stands inside a valid character, so that nothing may be put there.
pub(crate) fn splits_char(text: &[u8], at: usize) -> bool {
    let is_continuation = |byte: u8| byte & 0xC0 == 0x80;
    if !text.get(at).is_some_and(|byte| is_continuation(*byte)) {
        return false;
    }
    // A character is at most four bytes long, so its first byte is at most three bytes back.
    (1..=3.min(at)).any(|back| char_at(text, at - back).is_some_and(|(_, len)| len > back))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn only_places_inside_valid_characters_split_one() {
        let text = b"a\xC3\xA9\xF0\x9F\x97\xBC\x9F\x97\xE2\x82";
        let inside: Vec<usize> = (0..=text.len()).filter(|at| splits_char(text, *at)).collect();
        assert_eq!(inside, [2, 4, 5, 6], "é and the lighthouse, but none of the broken bytes");
    }

    #[test]
    fn broken_bytes_are_no_characters_from_either_side() {
        let text = b"\xC3\xA9\xA9z";
        assert_eq!(char_at(text, 0), Some(('é', 2)));
        assert_eq!(char_at(text, 2), None);
        assert_eq!(char_before(text, 2), Some('é'));
        assert_eq!(char_before(text, 3), None);
        assert_eq!(step(text, 2), 1);
    }
}
