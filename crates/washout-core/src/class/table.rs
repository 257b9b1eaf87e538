//! A set of characters made ready for fast look-up.

use std::sync::OnceLock;

use memchr::{memchr, memchr2, memchr3};

use super::CharSet;
use crate::text::chars::char_at;
use crate::text::lines::LineEnd;

const PAGE: usize = 256;
type BitPage = [u64; PAGE / 64];

/// A [`CharSet`] laid out for look-ups, which is done for the first of them.
#[derive(Clone, Debug)]
pub(crate) struct CharTable {
    set: CharSet,
    layout: OnceLock<BitPages>,
}

/// Bitmaps: one page per 256 code points, equal pages stored once.
#[derive(Clone, Debug)]
struct BitPages {
    page_of: Vec<u16>,
    pages: Vec<BitPage>,
    first_bytes: FirstBytes,
    line_feed: bool,
    carriage_return: bool,
    broken: bool,
}

/// The bytes a member of the set can begin with: the quick way to rule most of a text out.
#[derive(Clone, Debug)]
enum FirstBytes {
    One(u8),
    Two(u8, u8),
    Three(u8, u8, u8),
    Many(Box<[bool; 256]>),
}

impl CharTable {
    pub(crate) fn new(set: CharSet) -> Self {
        Self { set, layout: OnceLock::new() }
    }

    /// What it is made of.
    pub(crate) fn set(&self) -> &CharSet {
        &self.set
    }

    #[inline]
    fn layout(&self) -> &BitPages {
        self.layout.get_or_init(|| BitPages::new(&self.set))
    }

    /// The length in bytes of the member that starts at `at`, or 0 if none does.
    #[inline]
    pub(crate) fn match_len(&self, text: &[u8], at: usize) -> usize {
        self.layout().match_len(text, at)
    }

    /// Whether a character is in the set.
    #[inline]
    pub(crate) fn contains(&self, character: char) -> bool {
        self.layout().contains(character)
    }

    /// The first place at or after `from` where a member may start.
    #[inline]
    pub(crate) fn next_candidate(&self, text: &[u8], from: usize) -> Option<usize> {
        let rest = &text[from..];
        let found = match &self.layout().first_bytes {
            FirstBytes::One(a) => memchr(*a, rest),
            FirstBytes::Two(a, b) => memchr2(*a, *b, rest),
            FirstBytes::Three(a, b, c) => memchr3(*a, *b, *c, rest),
            FirstBytes::Many(set) => rest.iter().position(|byte| set[usize::from(*byte)]),
        };
        found.map(|found| from + found)
    }
}

impl BitPages {
    fn new(set: &CharSet) -> Self {
        let mut table = Self {
            page_of: Vec::new(),
            pages: vec![BitPage::default()],
            first_bytes: FirstBytes::Many(Box::new([false; 256])),
            line_feed: set.contains_line_end(b"\n"),
            carriage_return: set.contains_line_end(b"\r"),
            broken: set.has_broken(),
        };
        for (first, last) in set.ranges() {
            table.add_range(u32::from(first) as usize, u32::from(last) as usize);
        }
        table.share_equal_pages();
        table.first_bytes = first_bytes(set);
        table
    }

    /// While building, page `n + 1` is the page of code points `n * 256 ..`; page 0 is the empty one.
    fn add_range(&mut self, first: usize, last: usize) {
        let needed = last / PAGE + 2;
        if self.pages.len() < needed {
            self.pages.resize(needed, BitPage::default());
        }
        for word in first / 64..=last / 64 {
            let from = if word == first / 64 { u64::MAX << (first % 64) } else { u64::MAX };
            let to = if word == last / 64 { u64::MAX >> (63 - last % 64) } else { u64::MAX };
            self.pages[word * 64 / PAGE + 1][word % (PAGE / 64)] |= from & to;
        }
    }

    #[expect(clippy::cast_possible_truncation, reason = "there are 0x1100 pages of code points at most")]
    fn share_equal_pages(&mut self) {
        let mut shared: Vec<BitPage> = vec![BitPage::default()];
        let mut index = std::collections::HashMap::from([(BitPage::default(), 0_u16)]);
        for page in self.pages.drain(1..) {
            // Nearly all are empty, and to hash one takes longer than to look at it.
            if page == BitPage::default() {
                self.page_of.push(0);
                continue;
            }
            let number = *index.entry(page).or_insert_with(|| {
                shared.push(page);
                (shared.len() - 1) as u16
            });
            self.page_of.push(number);
        }
        self.pages = shared;
    }

    #[inline]
    fn contains(&self, character: char) -> bool {
        let code = character as usize;
        let Some(page) = self.page_of.get(code / PAGE) else { return false };
        self.pages[usize::from(*page)][code % PAGE / 64] >> (code % 64) & 1 == 1
    }

    #[inline]
    fn match_len(&self, text: &[u8], at: usize) -> usize {
        match char_at(text, at) {
            Some(('\n' | '\r', _)) => self.line_end_len(text, at),
            Some((character, len)) if self.contains(character) => len,
            Some(_) => 0,
            None => usize::from(self.broken && at < text.len()),
        }
    }

    fn line_end_len(&self, text: &[u8], at: usize) -> usize {
        match LineEnd::starting_at(text, at) {
            Some(LineEnd::Lf) if self.line_feed => 1,
            Some(LineEnd::Cr) if self.carriage_return => 1,
            Some(LineEnd::CrLf) if self.line_feed || self.carriage_return => 2,
            _ => 0,
        }
    }
}

fn first_bytes(set: &CharSet) -> FirstBytes {
    let mut can_start = Box::new([false; 256]);
    for (first, last) in set.ranges() {
        for byte in first_byte(first)..=first_byte(last) {
            can_start[usize::from(byte)] = true;
        }
    }
    for end in [b"\n", b"\r"].into_iter().filter(|end| set.contains_line_end(*end)) {
        can_start[usize::from(end[0])] = true;
    }
    if set.has_line_ends() {
        can_start[usize::from(b'\r')] = true; // a CRLF starts with CR even for a set that names LF alone
    }
    if set.has_broken() {
        can_start[0x80..].fill(true);
    }
    let bytes: Vec<u8> = (0..=255).filter(|byte| can_start[usize::from(*byte)]).collect();
    match bytes[..] {
        [a] => FirstBytes::One(a),
        [a, b] => FirstBytes::Two(a, b),
        [a, b, c] => FirstBytes::Three(a, b, c),
        _ => FirstBytes::Many(can_start),
    }
}

fn first_byte(character: char) -> u8 {
    character.encode_utf8(&mut [0; 4]).as_bytes()[0]
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::class::NAMED_CLASSES;

    #[test]
    fn tables_agree_with_their_sets_on_every_code_point() {
        for named in NAMED_CLASSES {
            let set = named.set();
            let table = CharTable::new(set.clone());
            for character in (0..=0x0010_FFFF).filter_map(char::from_u32).filter(|c| !matches!(c, '\n' | '\r')) {
                let mut bytes = [0; 4];
                let bytes = character.encode_utf8(&mut bytes).as_bytes();
                let want = if set.contains(character) { bytes.len() } else { 0 };
                assert_eq!(table.match_len(bytes, 0), want, "{} {character:?}", named.name);
                assert!(want == 0 || table.next_candidate(bytes, 0) == Some(0), "{} {character:?}", named.name);
            }
        }
    }

    #[test]
    fn a_crlf_is_one_member_for_either_of_its_halves() {
        for (chars, text, want) in
            [("\n", "\r\n", 2), ("\r", "\r\n", 2), ("\n", "\r", 0), ("\r", "\n", 0), ("\r", "\ra", 1)]
        {
            let table = CharTable::new(CharSet::of_chars(chars.chars()));
            assert_eq!(table.match_len(text.as_bytes(), 0), want, "{chars:?} in {text:?}");
        }
    }
}
