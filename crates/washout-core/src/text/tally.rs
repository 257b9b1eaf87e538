//! Bytes of a text counted by what they are.

/// How many bytes of a text are of each kind.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub(crate) struct ByteTally {
    /// Bytes that start a character, or are part of none.
    pub(crate) chars: u64,
    /// LF.
    pub(crate) line_feeds: u64,
    /// CR.
    pub(crate) returns: u64,
}

/// How much is counted at once, in bytes: three passes over it read memory once, and then the processor's nearest cache.
const AT_ONCE: usize = 8 << 10;

impl ByteTally {
    pub(crate) fn of(text: &[u8]) -> Self {
        let mut tally = Self::default();
        for part in text.chunks(AT_ONCE) {
            tally.chars += bytecount::num_chars(part) as u64;
            tally.line_feeds += bytecount::count(part, b'\n') as u64;
            tally.returns += memchr::memchr_iter(b'\r', part).count() as u64;
        }
        tally
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn it_counts_what_a_loop_counts() {
        let bytes: Vec<u8> = (0..=255).chain(*b"\r\n\r\n\n\xC3\xA9").cycle().step_by(7).take(700).collect();
        for (start, end) in (0..200).zip((0..=700).rev().step_by(3)) {
            let text = &bytes[start..end.max(start)];
            let count = |is: fn(u8) -> bool| text.iter().filter(|byte| is(**byte)).count() as u64;
            let want = ByteTally {
                chars: count(|byte| !(0x80..0xC0).contains(&byte)),
                line_feeds: count(|byte| byte == b'\n'),
                returns: count(|byte| byte == b'\r'),
            };
            assert_eq!(ByteTally::of(text), want, "{start}..{end}");
        }
    }
}
