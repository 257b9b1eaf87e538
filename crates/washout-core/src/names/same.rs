//! When two names are one and the same.

use std::borrow::Cow;

use unicode_normalization::UnicodeNormalization;

use crate::words::fold;

/// The name as systems see it that ignore letter case and Unicode form: names with one key are one name to them.
///
/// Their tables differ in details; this is simple case folding (`CaseFolding.txt`, C and S) between canonical
/// decompositions. Bytes that are not UTF-8 count as they are.
pub(super) fn key(name: &[u8]) -> Cow<'_, [u8]> {
    if name.is_ascii() {
        if !name.iter().any(u8::is_ascii_uppercase) {
            return Cow::Borrowed(name);
        }
        return Cow::Owned(name.to_ascii_lowercase());
    }
    let mut key = Vec::with_capacity(name.len());
    for chunk in name.utf8_chunks() {
        let folded: String = chunk.valid().nfd().map(fold).nfd().collect();
        key.extend_from_slice(folded.as_bytes());
        key.extend_from_slice(chunk.invalid());
    }
    Cow::Owned(key)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn letter_case_and_unicode_form_are_looked_past_and_nothing_else() {
        for (one, other, same) in [
            ("Lamp.TXT", "lamp.txt", true),
            ("Å\u{301}.txt", "a\u{30A}\u{301}.TXT", true),
            ("\u{1E9E}", "ß", true),
            ("lamp", "lamp ", false),
            ("ı", "i", false),
            ("ﬁ", "fi", false),
        ] {
            assert_eq!(key(one.as_bytes()) == key(other.as_bytes()), same, "{one} {other}");
        }
        assert_ne!(key(b"caf\xE9"), key(b"caf\xC9"), "bytes are not letters");
    }
}
