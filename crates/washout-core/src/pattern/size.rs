//! How large a regular expression becomes at the most once it is compiled: told from what it asks for, without compiling it.

use regex_syntax::hir::{Class, ClassUnicodeRange, Hir, HirKind};

/// The most a state of an automaton takes, with what leads on from it, in bytes.
const STATE: u64 = 64;

/// More than its automaton takes in memory, forwards or backwards, in bytes.
pub(super) fn upper_bound(hir: &Hir) -> u64 {
    states(hir).saturating_mul(STATE)
}

/// At least as many states as it takes.
fn states(hir: &Hir) -> u64 {
    let sum = |parts: &[Hir]| parts.iter().map(|part| states(part).saturating_add(1)).fold(2, u64::saturating_add);
    match hir.kind() {
        HirKind::Empty | HirKind::Look(_) => 1,
        HirKind::Literal(literal) => literal.0.len() as u64 + 1,
        HirKind::Class(Class::Bytes(class)) => class.ranges().len() as u64 + 2,
        HirKind::Class(Class::Unicode(class)) => class.ranges().iter().copied().map(of_range).sum::<u64>() + 2,
        HirKind::Capture(capture) => states(&capture.sub).saturating_add(2),
        HirKind::Concat(parts) | HirKind::Alternation(parts) => sum(parts),
        HirKind::Repetition(repetition) => {
            let times = repetition.max.unwrap_or(repetition.min + 1).max(1);
            states(&repetition.sub).saturating_add(2).saturating_mul(u64::from(times)).saturating_add(2)
        }
    }
}

/// The states of a range of characters as sequences of ranges of bytes.
fn of_range(range: ClassUnicodeRange) -> u64 {
    let (start, end) = (u32::from(range.start()), u32::from(range.end()));
    // UTF-8 puts six bits into the last byte: where only they differ, it is one sequence.
    let last_byte_only = start >> 6 == end >> 6 && (start < 0x80) == (end < 0x80);
    let sequences = if last_byte_only {
        1
    } else {
        // One for one byte; for two, three and four bytes the whole ones between a start and an end that are not, for
        // each of the bytes; and one more where surrogates are left out.
        1 + 3 + (5 + 5) + 7
    };
    sequences * 5 // four bytes at the most, and the choice of the sequence
}

#[cfg(test)]
mod tests {
    use regex_automata::nfa::thompson::{Compiler, Config, WhichCaptures};

    use super::*;

    #[test]
    fn no_automaton_is_larger() {
        let patterns = [
            "",
            "fog",
            r"\d{2}\.\d{2}",
            r"\w+",
            r"(?i)\bstraße\b",
            r"(a|b|fog|lamp)*?[^\n]{3,7}",
            r"(?s).",
            r"[\x{0}-\x{10FFFF}]",
            r"[\x{7F}-\x{80}]|[\x{7FF}-\x{10000}]",
            r"(?-u:[\x00-\x7F])*(?:)",
            r"\p{Greek}{2,}|\P{L}{0,9}|(?:x{3}y?){4}",
            r"((((a?)b?)c?)d?){20}",
        ];
        for pattern in patterns {
            let hir = regex_syntax::parse(pattern).expect("a pattern");
            for (reverse, captures) in [(false, WhichCaptures::All), (true, WhichCaptures::None)] {
                let config = Config::new().reverse(reverse).which_captures(captures);
                let nfa = Compiler::new().configure(config).build_from_hir(&hir).expect("small");
                let (taken, bound) = (nfa.memory_usage() as u64, upper_bound(&hir) + 1_000);
                assert!(taken <= bound, "{pattern}: {taken} > {bound}");
            }
        }
        let huge = regex_syntax::parse(&format!("{}x{}", "(?:".repeat(9), "){1000}".repeat(9))).expect("a pattern");
        assert_eq!(upper_bound(&huge), u64::MAX, "what is too large to count is not small");
    }
}
