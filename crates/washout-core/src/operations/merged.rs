//! Neighbouring rules that each put something in place of single characters, merged into one pass over the text.

use super::compiled_rule::CompiledRule;
use crate::class::CharTable;
use crate::text::edit::Edits;

/// What such a rule does, wherever one of its characters stands.
#[derive(Clone, Copy, Debug)]
pub(crate) struct CharRule<'p> {
    pub(super) set: &'p CharTable,
    pub(super) put: &'p [u8],
}

/// How many of these rules, from the first on, give the same in one pass as one after the other; at least one.
pub(crate) fn mergeable(rules: &[CompiledRule]) -> usize {
    let mut merged: Vec<CharRule<'_>> = Vec::new();
    for rule in rules.iter().map_while(CompiledRule::char_rule) {
        // A later rule would act on what this one puts in place.
        if merged.iter().any(|before| before.puts_any_of(rule.set)) {
            break;
        }
        merged.push(rule);
    }
    merged.len().max(1)
}

impl CharRule<'_> {
    fn puts_any_of(&self, set: &CharTable) -> bool {
        std::str::from_utf8(self.put).map_or(true, |put| put.chars().any(|one| set.set().contains(one)))
    }
}

/// Works out the changes of merged rules, given the only places where any of them may act, in order. Calls `changed` for
/// each change with the rule that makes it, from 0. `None`: a removal joins bytes to a character, which the next rule would
/// see.
pub(crate) fn change_merged(
    rules: &[CharRule<'_>],
    text: &[u8],
    places: &[usize],
    edits: &mut Edits,
    mut changed: impl FnMut(usize),
) -> Option<()> {
    let mut from = 0;
    for start in places.iter().copied() {
        if start < from {
            continue;
        }
        let lens = rules.iter().map(|rule| rule.set.match_len(text, start));
        let Some((rule, len)) = lens.enumerate().find(|(_, len)| *len > 0) else { continue };
        let (end, put) = (start + len, rules[rule].put);
        if put.is_empty() && text.get(end).is_some_and(|next| (0x80..0xC0).contains(next)) {
            return None;
        }
        if text[start..end] != *put {
            edits.push(text, start..end, put, 1);
            changed(rule);
        }
        from = end;
    }
    Some(())
}
