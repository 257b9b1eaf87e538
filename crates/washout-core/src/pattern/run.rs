//! Patterns that are a run of characters, which need no automaton.

use memchr::memmem;
use regex_syntax::hir::{Class, Hir, HirKind, Literal, Repetition};

use crate::class::{CharSet, CharTable};
use crate::text::chars::step;
use crate::text::haystack::Haystack;
use crate::text::matches::Span;

/// This many or more of these characters in a row.
#[derive(Debug)]
pub(super) struct CharRun {
    set: CharTable,
    least: usize,
    /// The shortest run as bytes, where there is only one.
    shortest: Option<memmem::Finder<'static>>,
    /// The character, if it is one of ASCII.
    only: Option<u8>,
}

impl CharRun {
    /// For a pattern like ` {2,}` or `\s+`, which needs no automaton.
    pub(super) fn of(hir: &Hir) -> Option<Self> {
        let HirKind::Repetition(Repetition { min: least @ 1.., max: None, greedy: true, sub }) = hir.kind() else {
            return None;
        };
        let least = usize::try_from(*least).ok()?;
        let (set, shortest, only) = match sub.kind() {
            HirKind::Class(Class::Unicode(class)) => (CharSet::of_class(class.clone()), None, None),
            HirKind::Literal(Literal(bytes)) => {
                let mut characters = std::str::from_utf8(bytes).ok()?.chars();
                let only = characters.next().filter(|_| characters.next().is_none() && least < 100)?;
                let shortest = memmem::Finder::new(&bytes.repeat(least)).into_owned();
                (CharSet::of_chars([only]), Some(shortest), u8::try_from(only).ok().filter(u8::is_ascii))
            }
            _ => return None,
        };
        Some(Self { set: CharTable::new(set), least, shortest, only })
    }

    /// Hands over each run.
    pub(super) fn each_in(&self, haystack: Haystack<'_>, mut found: impl FnMut(Span)) {
        let text = haystack.text;
        if let (Some(only), Some(starts)) = (self.only, haystack.starts()) {
            let end = |start| Some(end_of(text, start, only)).filter(|end| end - start >= self.least);
            return Haystack::each_start(starts, end, |start, end| found(Span::new(start, end)));
        }
        haystack.each_stretch(|text, from| self.each_from(text, from, &mut found));
    }

    fn each_from(&self, text: &[u8], from: usize, found: &mut impl FnMut(Span)) {
        let mut from = from;
        while let Some(start) = self.next_start(text, from) {
            let (end, count) = self.end(text, start);
            if count >= self.least {
                found(Span::new(start, end));
            }
            from = end.max(start + step(text, start));
        }
    }

    /// Where the run from `start` on ends, and how many characters it has.
    fn end(&self, text: &[u8], start: usize) -> (usize, usize) {
        if let Some(only) = self.only {
            let end = end_of(text, start, only);
            return (end, end - start);
        }
        let (mut end, mut count) = (start, 0);
        loop {
            match self.set.match_len(text, end) {
                0 => return (end, count),
                len => (end, count) = (end + len, count + 1),
            }
        }
    }

    fn next_start(&self, text: &[u8], from: usize) -> Option<usize> {
        match &self.shortest {
            Some(shortest) => shortest.find(text.get(from..)?).map(|found| from + found),
            None => self.set.next_candidate(text, from),
        }
    }
}

/// Where a run of one byte ends. Most are short, and how short is hard to predict, so that eight bytes are looked at at once.
#[inline]
fn end_of(text: &[u8], start: usize, byte: u8) -> usize {
    let mut at = start;
    while let Some(eight) = text[at..].first_chunk::<8>() {
        let others = u64::from_le_bytes(*eight) ^ u64::from_le_bytes([byte; 8]);
        if others != 0 {
            return at + others.trailing_zeros() as usize / 8;
        }
        at += 8;
    }
    at + text[at..].iter().take_while(|next| **next == byte).count()
}
