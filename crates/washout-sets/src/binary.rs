//! Telling binary files from texts with a few stray control characters.

use infer::MatcherType;

/// How much of a file is looked at, in bytes.
const PROBE: usize = 8 << 10;

/// Whether a file that starts like this looks binary.
///
/// One NUL does not make a text binary: to remove control characters is what people clean texts for. A file looks binary
/// if NUL is among its bytes and either
/// 1. more than 4 of its bytes, and one of 20, are control characters that texts do not have (among random bytes, as in
///    compressed data, it is about one of 10), or
/// 2. one of 100 is, and it begins with the signature of a known binary format.
pub fn looks_binary(start: &[u8]) -> bool {
    let probe = &start[..start.len().min(PROBE)];
    if memchr::memchr(0, probe).is_none() {
        return false;
    }
    let controls = probe.iter().filter(|byte| is_control(**byte)).count();
    let is_known = || infer::get(probe).is_some_and(|kind| kind.matcher_type() != MatcherType::Text);
    (controls > 4 && controls * 20 > probe.len()) || (controls * 100 > probe.len() && is_known())
}

/// Control characters, except those of lines and tabs, overstrikes and escape sequences.
fn is_control(byte: u8) -> bool {
    byte.is_ascii_control() && !matches!(byte, b'\t' | b'\n' | b'\r' | b'\x08' | b'\x0C' | b'\x1B')
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_stray_nul_does_not_make_a_text_binary_and_no_picture_or_archive_is_a_text() {
        let log = b"Lamp lit at dusk. Fog from the east, horn every 3 minutes.\n".repeat(100);
        let with = |start: &[u8]| [start, &log].concat();
        let random: Vec<u8> =
            (0..4_000_u32).map(|at| (at.wrapping_mul(2_654_435_761) >> 13).to_le_bytes()[0]).collect();
        for (text, binary) in [
            (&b"fog\0horn\n"[..], false),
            (b"\0", false),
            (b"\0\0\0\0", false),
            (&with(b"\0\0\x07"), false),
            (&with(b"BM is not a picture \0\n"), false),
            (&with(b"PK\n"), false),
            (&b"name\0a name\0another name\0one more name\0the last name\0".repeat(9), true),
            (&random, true),
            (&with(b"\x89PNG\r\n\x1A\n\0\0\0\rIHDR"), false), // what follows decides
            (b"\x89PNG\r\n\x1A\n\0\0\0\rIHDR\0\0\x02\0", true),
            (b"\x7FELF\x02\x01\x01\0\0\0\0\0\0\0\0\0", true),
            (b"f\0o\0g\0 \0h\0o\0r\0n\0", true),
        ] {
            assert_eq!(looks_binary(text), binary, "{:?}", String::from_utf8_lossy(&text[..text.len().min(40)]));
        }
    }
}
