//! Cells one below the other, as the lines of one text.

/// Sets values one below the other, each as a line, in place of what is in `stack`.
pub(super) fn set_below<'v>(values: impl Iterator<Item = &'v [u8]>, stack: &mut Vec<u8>) {
    stack.clear();
    for value in values {
        stack.extend_from_slice(value);
        stack.push(b'\n');
    }
}

pub(super) fn line_feeds(text: &[u8]) -> usize {
    bytecount::count(text, b'\n')
}

pub(super) fn holds_line_ends(value: &[u8]) -> bool {
    memchr::memchr2(b'\n', b'\r', value).is_some()
}

/// The first line, without its line end.
pub(super) fn first_line(text: &[u8]) -> &[u8] {
    &text[..memchr::memchr(b'\n', text).unwrap_or(text.len())]
}

/// How much of two texts is the same from the start on: in bytes of whole lines, and in lines.
pub(super) fn same_lines(one: &[u8], other: &[u8]) -> (usize, usize) {
    const STEP: usize = 256;
    const WORD: usize = 8;
    let same_of = |one: &[u8], other: &[u8], step: usize| {
        one.chunks_exact(step).zip(other.chunks_exact(step)).take_while(|(one, other)| one == other).count() * step
    };
    let mut from = same_of(one, other, STEP);
    from += same_of(&one[from..], &other[from..], WORD);
    let rest = one[from..].iter().zip(&other[from..]).take_while(|(one, other)| one == other).count();
    let same = memchr::memrchr(b'\n', &one[..from + rest]).map_or(0, |end| end + 1);
    (same, memchr::memchr_iter(b'\n', &one[..same]).count())
}
