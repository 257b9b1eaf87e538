//! Short stretches of bytes copied without a call.

use std::ops::Range;

/// As much is copied at once: most lines are no longer.
const CHUNK: usize = 96;

/// Appends a stretch of `text` to `out`.
///
/// A copy of unknown length is a call, which takes longer than copying a line. Where the text goes on far enough, a chunk
/// of fixed length is copied in its place, and what is too much forgotten.
#[inline]
pub(crate) fn append(out: &mut Vec<u8>, text: &[u8], stretch: Range<usize>) {
    let len = stretch.len();
    if len <= CHUNK
        && let Some(chunk) = text.get(stretch.start..).and_then(<[u8]>::first_chunk::<CHUNK>)
    {
        let end = out.len() + len;
        out.extend_from_slice(chunk);
        out.truncate(end);
    } else {
        append_long(out, text, stretch);
    }
}

/// Appends a stretch of `text` to `out` that most often is of a few bytes.
#[inline]
pub(crate) fn append_few(out: &mut Vec<u8>, text: &[u8], stretch: Range<usize>) {
    let len = stretch.len();
    match text.get(stretch.start..).and_then(<[u8]>::first_chunk::<FEW>) {
        Some(few) if len <= FEW => {
            let end = out.len() + len;
            out.extend_from_slice(few);
            out.truncate(end);
        }
        _ => out.extend_from_slice(&text[stretch]),
    }
}

/// A few bytes.
const FEW: usize = 16;

/// From here on a call takes less time.
const LONG: usize = 16 * CHUNK;

/// Not part of the caller, which would have to make ready for a call.
#[inline(never)]
fn append_long(out: &mut Vec<u8>, text: &[u8], stretch: Range<usize>) {
    let end = out.len() + stretch.len();
    if stretch.len() > LONG || text.len() < stretch.end + CHUNK {
        out.extend_from_slice(&text[stretch]);
        return;
    }
    // The branches of a copy of unknown length are as hard to predict as the length.
    out.reserve(stretch.len() + CHUNK);
    let (chunks, _) = text[stretch.start..stretch.end + CHUNK - 1].as_chunks::<CHUNK>();
    chunks.iter().for_each(|chunk| out.extend_from_slice(chunk));
    out.truncate(end);
}

/// How far beyond what is put down other bytes may be overwritten by [`put_over`] and [`put_few_over`].
pub(crate) const BEYOND: usize = 128;

/// Puts a stretch of `text` in the place of what is in `out` from `at` on; gives where it ends. What is after it in `out`
/// may be overwritten, for [`BEYOND`] bytes at most.
///
/// # Panics
/// If `out` does not reach as far.
#[expect(clippy::inline_always, reason = "part of code for vectors")]
#[inline(always)]
pub(crate) fn put_over(out: &mut [u8], at: usize, text: &[u8], stretch: Range<usize>) -> usize {
    let end = at + stretch.len();
    if text.len() - stretch.end < BEYOND {
        out[at..end].copy_from_slice(&text[stretch]);
        return end;
    }
    let (mut from, mut to) = (stretch.start, at);
    // Most stretches are short, and how often a loop goes round is hard to predict where that is once or twice.
    loop {
        out[to..to + BEYOND].copy_from_slice(&text[from..from + BEYOND]);
        (from, to) = (from + BEYOND, to + BEYOND);
        if to >= end {
            return end;
        }
    }
}

/// The same for a stretch that most often is of a few bytes.
#[expect(clippy::inline_always, reason = "part of code for vectors")]
#[inline(always)]
pub(crate) fn put_few_over(out: &mut [u8], at: usize, text: &[u8], stretch: Range<usize>) -> usize {
    let (end, len) = (at + stretch.len(), stretch.len());
    match text.get(stretch.start..stretch.start + FEW) {
        Some(few) if len <= FEW => out[at..at + FEW].copy_from_slice(few),
        _ => out[at..end].copy_from_slice(&text[stretch]),
    }
    end
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_is_appended_is_the_stretch() {
        let text: Vec<u8> = (0..=255).collect();
        for (start, end) in (0..=256).flat_map(|start| (start..=256).map(move |end| (start, end))).step_by(7) {
            let mut out = b"before".to_vec();
            append(&mut out, &text, start..end);
            assert_eq!(out, [b"before", &text[start..end]].concat(), "{start}..{end}");
            out.truncate(b"before".len());
            append_few(&mut out, &text, start..end);
            assert_eq!(out, [b"before", &text[start..end]].concat(), "a few, {start}..{end}");
        }
        let text = text.repeat(16);
        for len in [CHUNK, CHUNK + 1, 2 * CHUNK, LONG - 1, LONG, LONG + 1, text.len() - CHUNK, text.len()] {
            for start in [0, 7, CHUNK, text.len() - len].into_iter().filter(|start| start + len <= text.len()) {
                let mut out = b"before".to_vec();
                append(&mut out, &text, start..start + len);
                assert_eq!(out, [b"before", &text[start..start + len]].concat(), "{len} from {start}");
            }
        }
    }

    #[test]
    fn what_is_put_over_other_bytes_is_the_stretch_and_leaves_what_is_before_it() {
        let text: Vec<u8> = (0..=255).cycle().take(3 * BEYOND).collect();
        for start in [0, 1, BEYOND - 1, BEYOND, 2 * BEYOND, 3 * BEYOND - 1] {
            for end in (start..=text.len()).step_by(5).chain([text.len()]) {
                for put in [put_over, put_few_over] {
                    let mut out = vec![b'.'; 7 + text.len() + BEYOND];
                    let made = put(&mut out, 7, &text, start..end);
                    assert_eq!(out[..made], [b".......", &text[start..end]].concat(), "{start}..{end}");
                }
            }
        }
    }
}
