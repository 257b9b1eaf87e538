//! One check for every case: all ways through the engine against one wanted result.

#![allow(
    clippy::unwrap_used,
    unreachable_pub,
    reason = "a test that cannot go on fails, and this module is shared by tests"
)]

use washout_core::observe::{Change, Detail, Hunk, Lineage, NoObserver, Observer, Side};
use washout_core::{Program, RuleId, RuleSet};

/// Ways to cut a text: block sizes, and the sizes of the pieces it comes in.
const CUTS: &[(usize, usize)] = &[(1, 1), (1, 64), (2, 3), (3, 1), (5, 7), (16, 5), (1 << 16, 2)];

/// Threads, the least that is worth one, and the sizes of the pieces, in bytes.
const THREADS: &[(usize, usize, usize)] = &[(2, 1, 1 << 16), (3, 1, 11), (4, 4, 1 << 16)];

/// Block and piece sizes for all lines through one rule after the other.
const SWEEPS: &[(usize, usize)] = &[(1 << 16, 1 << 16), (16, 5)];

/// Washes at once, in pieces and observed, and says where a way differs from `want`.
pub fn check_all_ways(rules: &RuleSet, text: &[u8], want: &[u8], changes: &[u64]) -> Result<(), String> {
    let program = Program::compile([rules]);
    let differs = |way: &str, got: &[u8], got_changes: &[u64]| {
        if got == want && got_changes == changes {
            return Ok(());
        }
        let shown = |bytes: &[u8]| bytes.escape_ascii().to_string();
        Err(format!(
            "{way}\n  given [{}]\n  want  [{}] {changes:?}\n  got   [{}] {got_changes:?}",
            shown(text),
            shown(want),
            shown(got)
        ))
    };
    let outcome = program.apply(text).map_err(|error| error.to_string())?;
    differs("at once", outcome.text(), outcome.changes())?;
    for (block, piece) in CUTS {
        let mut washer = program.washer(NoObserver).with_block_size(*block);
        let mut washed = Vec::new();
        text.chunks(*piece).for_each(|piece| washer.push(piece, &mut washed).unwrap());
        washer.finish(&mut washed).unwrap();
        differs(&format!("in blocks of {block}, pieces of {piece}"), &washed, washer.changes())?;
    }
    for (threads, part, piece) in THREADS {
        let (mut washer, mut washed) = (program.washer(NoObserver), Vec::new());
        // The second piece is the first that others help with.
        for (number, piece) in text.chunks(*piece).enumerate() {
            if number == 1 || text.len() <= piece.len() {
                washer = washer.with_threads_on(*threads, *part);
            }
            washer.push(piece, &mut washed).unwrap();
        }
        washer.finish(&mut washed).unwrap();
        differs(&format!("on {threads} threads, parts of {part}, pieces of {piece}"), &washed, washer.changes())?;
    }
    for (block, piece) in SWEEPS {
        let mut washer = program.washer(NoObserver).with_block_size(*block).with_sweeps();
        let mut washed = Vec::new();
        text.chunks(*piece).for_each(|piece| washer.push(piece, &mut washed).unwrap());
        washer.finish(&mut washed).unwrap();
        differs(
            &format!("one rule after the other, in blocks of {block}, pieces of {piece}"),
            &washed,
            washer.changes(),
        )?;
    }
    let plain = program.clone().without_vectors();
    for (block, piece) in SWEEPS {
        let mut washer = plain.washer(NoObserver).with_block_size(*block).with_sweeps();
        let mut washed = Vec::new();
        text.chunks(*piece).for_each(|piece| washer.push(piece, &mut washed).unwrap());
        washer.finish(&mut washed).unwrap();
        differs(&format!("without vectors, in blocks of {block}"), &washed, washer.changes())?;
    }
    // A text that no rule may act on, line by line, is left by all of them.
    if program.surely_leaves(text) && (want != text || changes.iter().any(|changes| *changes > 0)) {
        return Err(format!("taken for one that no rule changes: [{}]", text.escape_ascii()));
    }
    for (block, sweeps) in [(1, false), (6, false), (1 << 16, false), (9, true), (1 << 16, true)] {
        let (hunks, washed, counted) = observed(&program, text, block, sweeps);
        differs(&format!("observed, in blocks of {block}"), &washed, &counted)?;
        check_hunks(&hunks, text, want).map_err(|error| format!("hunks, in blocks of {block}: {error}"))?;
        check_places(&hunks, text, want).map_err(|error| format!("places, in blocks of {block}: {error}"))?;
    }
    let steps = program.trace(text).map_err(|(_, error)| error.to_string())?;
    let counted: Vec<u64> = steps.iter().map(|step| step.changes).collect();
    differs("rule by rule", steps.last().map_or(text, |step| &step.text), &counted)
}

/// Changes made one by one where they say they are must give the text after.
fn check_places(hunks: &[Hunk], before: &[u8], after: &[u8]) -> Result<(), String> {
    // Characters are counted otherwise where bytes are broken.
    let Ok(before) = std::str::from_utf8(before) else { return Ok(()) };
    let after = after.strip_prefix(b"\xEF\xBB\xBF").unwrap_or(after);
    let before = before.strip_prefix('\u{FEFF}').unwrap_or(before);
    let lines = split_lines(before.as_bytes());
    let starts: Vec<usize> = lines
        .iter()
        .scan(0, |at, line| {
            *at += line.len();
            Some(*at - line.len())
        })
        .collect();
    let (mut rebuilt, mut done) = (Vec::new(), 0);
    for change in hunks.iter().flat_map(Hunk::changes) {
        let line = starts[usize::try_from(change.line).unwrap() - 1];
        let characters = before[line..].char_indices().map(|(at, _)| at).chain([before.len() - line]);
        let at =
            line + characters.into_iter().nth(usize::try_from(change.column).unwrap() - 1).ok_or("beyond the end")?;
        let fits = at >= done && before.as_bytes()[at..].starts_with(&change.before);
        if !fits {
            return Err(format!("{change:?} is not there"));
        }
        rebuilt.extend_from_slice(&before.as_bytes()[done..at]);
        rebuilt.extend_from_slice(&change.after);
        done = at + change.before.len();
    }
    rebuilt.extend_from_slice(&before.as_bytes()[done..]);
    if rebuilt == after { Ok(()) } else { Err(format!("changes give {}", rebuilt.escape_ascii())) }
}

/// Follows changes and counts them.
struct Both {
    lineage: Lineage,
    counted: Vec<u64>,
}

impl Observer for Both {
    fn input(&mut self, piece: &[u8]) {
        self.lineage.input(piece);
    }

    fn change(&mut self, change: &Change<'_>) {
        self.counted[change.rule.0] += change.matches;
        self.lineage.change(change);
    }

    fn byte_order_mark(&mut self, rule: RuleId) {
        self.counted[rule.0] += 1;
    }

    fn judged(&mut self, rule: RuleId, bytes: u64) {
        self.lineage.judged(rule, bytes);
    }
}

fn observed(program: &Program, text: &[u8], block: usize, sweeps: bool) -> (Vec<Hunk>, Vec<u8>, Vec<u64>) {
    let rules = program.names().len();
    let observer = Both { lineage: Lineage::new(rules, Detail::All), counted: vec![0; rules] };
    let mut washer = program.washer(observer).with_block_size(block);
    if sweeps {
        washer = washer.with_sweeps();
    }
    let mut washed = Vec::new();
    washer.push(text, &mut washed).unwrap();
    washer.finish(&mut washed).unwrap();
    let both = washer.into_observer();
    (both.lineage.finish(), washed, both.counted)
}

/// Hunks put into the lines that did not change must give both texts again.
fn check_hunks(hunks: &[Hunk], before: &[u8], after: &[u8]) -> Result<(), String> {
    let strip = |text: &[u8]| text.strip_prefix(b"\xEF\xBB\xBF").unwrap_or(text).to_vec();
    let (before, after) = (strip(before), strip(after));
    let lines = split_lines(&before);
    let (mut rebuilt, mut line) = (Vec::new(), 0);
    for hunk in hunks {
        let first = usize::try_from(hunk.first_line).unwrap() - 1;
        if first < line {
            return Err(format!("hunk at line {} comes after line {line}", hunk.first_line));
        }
        rebuilt.extend(lines[line..first].concat());
        line = first + usize::try_from(hunk.lines_before).unwrap();
        let side = |keep: fn(Side) -> bool| -> Vec<u8> {
            let pieces = hunk.pieces().filter(|piece| keep(piece.side));
            pieces.flat_map(|piece| piece.bytes.to_vec()).collect()
        };
        if side(|side| !matches!(side, Side::Put(_))) != lines[first..line].concat() {
            return Err(format!("hunk at line {} does not show its lines: {hunk:?}", hunk.first_line));
        }
        rebuilt.extend(side(|side| !matches!(side, Side::Removed(_))));
    }
    rebuilt.extend(lines[line..].concat());
    if rebuilt == after { Ok(()) } else { Err(format!("hunks give {}", rebuilt.escape_ascii())) }
}

fn split_lines(text: &[u8]) -> Vec<Vec<u8>> {
    let mut lines = vec![Vec::new()];
    for (at, byte) in text.iter().enumerate() {
        let last = lines.len() - 1;
        lines[last].push(*byte);
        if *byte == b'\n' || (*byte == b'\r' && text.get(at + 1) != Some(&b'\n')) {
            lines.push(Vec::new());
        }
    }
    lines
}
