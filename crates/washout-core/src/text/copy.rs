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
}
