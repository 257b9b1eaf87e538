//! Rules in a row that each put something in place of single characters, done in one go.

use super::op::Op;
use crate::class::CharTable;
use crate::text::edit::Edits;

/// What such a rule does, wherever one of its characters stands.
#[derive(Clone, Copy, Debug)]
pub(crate) struct CharRule<'p> {
    pub(super) set: &'p CharTable,
    pub(super) put: &'p [u8],
}

/// How many of these rules, from the first on, come to the same in one go as one after the other; at least one.
pub(super) fn together(ops: &[Op]) -> usize {
    let mut rules: Vec<CharRule<'_>> = Vec::new();
    for rule in ops.iter().map_while(Op::char_rule) {
        // What one puts in place is not for another to act on.
        if rules.iter().any(|before| before.puts_any_of(rule.set)) {
            break;
        }
        rules.push(rule);
    }
    rules.len().max(1)
}

impl CharRule<'_> {
    fn puts_any_of(&self, set: &CharTable) -> bool {
        std::str::from_utf8(self.put).map_or(true, |put| put.chars().any(|one| set.set().contains(one)))
    }
}

/// Works out the changes of rules that go together, given the only places where any of them may act, in order; and tells
/// for each change which of them makes it, from 0. `None`: what one removes parts the bytes of a character, which the next
/// would see.
pub(crate) fn change_together(
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

#[cfg(test)]
mod tests {
    use proptest::collection::vec;
    use proptest::prelude::*;

    use super::*;
    use crate::{NoObserver, Program, RuleSet};

    const RULES: &[&str] = &[
        "remove.class = ['control', 'invisible']",
        "replace = { class = 'odd-space', with = ' ' }",
        "replace = { chars = 'é', with = '~' }",
        "replace = { chars = '#é', with = '' }",
        "remove.chars = '~#'",
        "replace = { chars = '#', with = '·é' }",
        "remove.class = 'broken'",
    ];

    fn programs(rules: &[usize]) -> impl Iterator<Item = Program> {
        rules.iter().map(|rule| Program::compile([&RuleSet::read_one_rule("rule", RULES[*rule]).expect("a rule")]))
    }

    #[test]
    fn rules_go_together_unless_one_acts_on_what_another_puts() {
        for (rules, want) in
            [(&[0, 1, 2][..], 3), (&[1, 4], 2), (&[2, 4], 1), (&[3, 2, 4], 2), (&[5, 0, 2], 2), (&[6, 5], 2)]
        {
            let ops: Vec<Op> = programs(rules).flat_map(|program| program.ops).collect();
            assert_eq!(together(&ops), want, "{rules:?}");
        }
        let with = |rule: &str| {
            let program = Program::compile([&RuleSet::read_one_rule("rule", rule).expect("a rule")]);
            program.ops[0].char_rule().is_some()
        };
        for (rule, is_one) in [
            ("remove = { chars = '#', case = 'ignore' }", true),
            ("remove = { chars = '#', except = { chars = '#' } }", true),
            ("remove = { chars = '#', except = { text = ['##'] } }", false),
            ("remove = { chars = '#', which = 'first' }", false),
            ("remove = { chars = '#', at = 'edges' }", false),
            ("remove = { chars = '#', gap = 'close' }", false),
            ("remove.text = '#'", false),
            ("remove.chars = '#'\\nspare.text = 'a#'", false),
        ] {
            assert_eq!(with(&rule.replace("\\n", "\n")), is_one, "{rule}");
        }
    }

    fn bit() -> impl Strategy<Value = &'static [u8]> {
        let ascii = [&b"a"[..], b"~", b"x", b"#", b" ", b"\n", b"\x07", b"\r\n"];
        let parts = [&b"\xC3"[..], b"\xA9", b"\xE2", b"\x80", b"\x8B"];
        let whole = ["é", "\u{200B}", "\u{A0}", "\u{2003}"].map(str::as_bytes);
        proptest::sample::select([&ascii[..], &parts, &whole].concat())
    }

    proptest! {
        #[test]
        fn what_goes_together_comes_to_the_same_one_after_the_other(
            rules in vec(0..RULES.len(), 2..5), bits in vec(bit(), 0..60),
        ) {
            let mut text = bits.concat();
            text.push(b'\n');
            let set: Vec<RuleSet> =
                rules.iter().map(|rule| RuleSet::read_one_rule("rule", RULES[*rule]).expect("a rule")).collect();
            let program = Program::compile(&set);
            let mut washer = program.washer(NoObserver).with_sweeps();
            let mut washed = Vec::new();
            washer.push(&text, &mut washed).and_then(|()| washer.finish(&mut washed)).expect("no pattern");
            let mut changes = Vec::new();
            for one in programs(&rules) {
                let outcome = one.apply(&text).expect("no pattern");
                changes.extend_from_slice(outcome.changes());
                text = outcome.text().to_vec();
            }
            prop_assert_eq!(washed.escape_ascii().to_string(), text.escape_ascii().to_string());
            prop_assert_eq!(washer.changes(), &changes[..]);
        }
    }
}
