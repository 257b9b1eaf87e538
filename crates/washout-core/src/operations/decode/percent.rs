//! Percent-encoding (RFC 3986, section 2.1). A row of encoded bytes is one change; those that are not UTF-8 stay.

use percent_encoding::percent_decode;

use crate::operations::RuleState;

/// Bytes in one encoded byte.
const UNIT: usize = 3;

pub(super) fn run(text: &[u8], state: &mut RuleState) {
    let mut from = 0;
    while let Some(found) = memchr::memchr(b'%', &text[from..]) {
        let start = from + found;
        let mut end = start;
        while is_unit(&text[end..]) {
            end += UNIT;
        }
        if end > start {
            let decoded: Vec<u8> = percent_decode(&text[start..end]).collect();
            let put = only_valid(&text[start..end], &decoded);
            state.push(text, start..end, &put, 1);
        }
        from = end.max(start + 1);
    }
}

fn is_unit(text: &[u8]) -> bool {
    matches!(text, [b'%', high, low, ..] if high.is_ascii_hexdigit() && low.is_ascii_hexdigit())
}

/// The decoded bytes, those that are not UTF-8 as they were written.
fn only_valid(written: &[u8], decoded: &[u8]) -> Vec<u8> {
    let mut put = Vec::with_capacity(decoded.len());
    let mut at = 0;
    for chunk in decoded.utf8_chunks() {
        put.extend_from_slice(chunk.valid().as_bytes());
        at += chunk.valid().len();
        let end = at + chunk.invalid().len();
        put.extend_from_slice(&written[at * UNIT..end * UNIT]);
        at = end;
    }
    put
}
