//! Patterns that are a row of characters, each of a set, which need no automaton where their starts are known.

use regex_syntax::hir::{Capture, Class, ClassUnicode, ClassUnicodeRange, Hir, HirKind};

use crate::class::{CharSet, CharTable};
use crate::text::matches::Span;

/// More steps than this are left to an automaton.
const MOST_STEPS: usize = 32;

/// A pattern like `(\d{2})\.(\d{2})`: what matches has that many characters, and each group is always the same of them.
#[derive(Debug)]
pub(super) struct CharRow {
    steps: Vec<RowStep>,
    /// For each group from 1 on, the steps it goes over.
    groups: Vec<(usize, usize)>,
}

/// This many characters of a set.
#[derive(Debug)]
struct RowStep {
    /// A bit for each member of ASCII.
    ascii: u128,
    set: CharTable,
    times: u32,
}

/// Where one match starts and each step of it ends; kept for its memory from match to match.
#[derive(Debug, Default)]
pub(super) struct Matched(Vec<usize>);

impl CharRow {
    /// `None` for any other pattern. `groups`: how many the pattern has, group 0 included.
    pub(super) fn of(hir: &Hir, groups: usize) -> Option<Self> {
        let mut row = Self { steps: Vec::new(), groups: vec![(0, 0); groups.checked_sub(1)?] };
        row.add(hir)?;
        (1..=MOST_STEPS).contains(&row.steps.len()).then_some(row)
    }

    fn add(&mut self, hir: &Hir) -> Option<()> {
        match hir.kind() {
            HirKind::Empty => Some(()),
            HirKind::Literal(literal) => {
                let mut characters = std::str::from_utf8(&literal.0).ok()?.chars();
                characters.try_for_each(|one| self.add_class(&ClassUnicode::new([ClassUnicodeRange::new(one, one)]), 1))
            }
            HirKind::Class(Class::Unicode(class)) => self.add_class(class, 1),
            HirKind::Repetition(repetition) if repetition.max == Some(repetition.min) => match repetition.sub.kind() {
                HirKind::Class(Class::Unicode(class)) => self.add_class(class, repetition.min),
                HirKind::Literal(_) => (0..repetition.min).try_for_each(|_| self.add(&repetition.sub)),
                _ => None,
            },
            HirKind::Capture(Capture { index, sub, .. }) => {
                let first = self.steps.len();
                self.add(sub)?;
                *self.groups.get_mut(usize::try_from(*index).ok()?.checked_sub(1)?)? = (first, self.steps.len());
                Some(())
            }
            HirKind::Concat(parts) => parts.iter().try_for_each(|part| self.add(part)),
            _ => None,
        }
    }

    fn add_class(&mut self, class: &ClassUnicode, times: u32) -> Option<()> {
        if times == 0 || self.steps.len() == MOST_STEPS {
            return None;
        }
        let set = CharSet::of_class(class.clone());
        let ascii = (0..0x80).filter(|byte| set.contains(char::from(*byte))).fold(0, |bits, byte| bits | 1 << byte);
        self.steps.push(RowStep { ascii, set: CharTable::new(set), times });
        Some(())
    }

    /// Whether a match starts here.
    pub(super) fn matches_at(&self, text: &[u8], start: usize, matched: &mut Matched) -> bool {
        matched.0.clear();
        matched.0.push(start);
        let mut at = start;
        for step in &self.steps {
            for _ in 0..step.times {
                match step.member_len(text, at) {
                    Some(len) => at += len,
                    None => return false,
                }
            }
            matched.0.push(at);
        }
        true
    }

    /// All of a match.
    pub(super) fn span(&self, matched: &Matched) -> Span {
        Span::new(matched.0[0], matched.0[self.steps.len()])
    }

    /// What each group took, group 0 included.
    pub(super) fn groups(&self, matched: &Matched) -> impl Iterator<Item = Option<Span>> {
        let groups = self.groups.iter().map(|(first, end)| Span::new(matched.0[*first], matched.0[*end]));
        std::iter::once(self.span(matched)).chain(groups).map(Some)
    }
}

impl RowStep {
    #[inline]
    fn member_len(&self, text: &[u8], at: usize) -> Option<usize> {
        let byte = *text.get(at)?;
        if byte.is_ascii() {
            return (self.ascii >> byte & 1 == 1).then_some(1);
        }
        Some(self.set.match_len(text, at)).filter(|len| *len > 0)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_row_matches_where_the_expression_matches_with_the_same_groups() {
        let texts = ["05.11.1936", "a05.11.19", "٠٥.11", "é é", "é\u{301}é", "ab", "aab", "", "0", "\u{FFFD}b"];
        let mut rows = 0;
        for pattern in [
            r"(\d{2})\.(\d{2})\.(\d{4})",
            r"((\d)\d)\.",
            r"é(.)é",
            r"(?i)AB",
            r"()ab",
            r"[^a]b",
            r"a{2}b",
            r"(a)|b",
            r"a?b",
            r"(a){2}",
            r"^a",
            r"\d{40}",
            "",
        ] {
            let hir = regex_syntax::parse(pattern).expect("a pattern");
            let regex = regex::bytes::Regex::new(&format!("^(?:{pattern})")).expect("a pattern");
            let Some(row) = CharRow::of(&hir, regex.captures_len()) else { continue };
            rows += 1;
            for text in texts.map(str::as_bytes).into_iter().chain([&b"\xC3b"[..], b"0\xFF"]) {
                let want = regex.captures(text).map(|found| {
                    let span = |group: regex::bytes::Match<'_>| Span::new(group.start(), group.end());
                    found.iter().map(|group| group.map(span)).collect::<Vec<_>>()
                });
                let mut matched = Matched::default();
                let got = row.matches_at(text, 0, &mut matched).then(|| row.groups(&matched).collect::<Vec<_>>());
                assert_eq!(got, want, "{pattern} in {}", text.escape_ascii());
            }
        }
        assert_eq!(rows, 8, "the others are no rows");
    }
}
