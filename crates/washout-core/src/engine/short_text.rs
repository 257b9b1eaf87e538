//! Short texts that are in memory.
//!
//! What a [`Washer`](super::Washer) needs to follow a text that comes in pieces takes longer to set up than a short text
//! takes to wash. A short text goes through one rule after the other as a whole, and the memory the rules work in serves the
//! next one.

use super::error::RunError;
use crate::operations::{BlockContext, CompiledRule};
use crate::program::{Program, ShortTextMemory};
use crate::rules::RuleId;
use crate::text::lines::line_ends;
use crate::text::{BOM, LineEnd};

/// The longest text that is short, in bytes.
const LONGEST: usize = 4 << 10;

/// Where rules may use less memory than this, it has to be watched, in bytes.
const LEAST_MEMORY: u64 = 1 << 20;

impl Program {
    /// Whether a text can be washed by [`wash_short`](Self::wash_short). A byte order mark is no part of what rules see.
    pub(crate) fn takes_as_short(&self, text: &[u8]) -> bool {
        text.len() <= LONGEST && !text.starts_with(BOM) && self.memory_limit() >= LEAST_MEMORY
    }

    /// Washes a short text. What has become of it is in the memory then, and how much each rule has changed; `false`: it is
    /// as it was.
    ///
    /// # Errors
    /// A rule that cannot go on.
    pub(crate) fn wash_short(
        &self,
        text: &[u8],
        first_line_end: Option<LineEnd>,
        memory: &mut ShortTextMemory,
    ) -> Result<bool, RunError> {
        let ShortTextMemory { states, changes, numbered, washed, next } = memory;
        let most = self.longest_result(text.len() as u64);
        let context = BlockContext { last: true, first_line_end, most, each_place: false };
        changes.fill(0);
        // All of them, also those that nothing comes to: how far they have numbered is asked of each.
        states.iter_mut().zip(&*numbered).for_each(|(state, numbered)| state.start_again(*numbered));
        let mut any = false;
        for (rule, (op, state)) in self.ops().iter().zip(states).enumerate() {
            let before = if any { &washed[..] } else { text };
            // A rule that is given nothing has nothing to do.
            if before.is_empty() {
                break;
            }
            let room = most.saturating_sub(before.len() as u64);
            state.edits.grant(usize::try_from(room).unwrap_or(usize::MAX));
            op.run(before, 0, context, state);
            let name = || self.names()[rule].clone();
            if let Some(at) = CompiledRule::failed_at(state) {
                return Err(RunError::too_much_work(RuleId(rule), name(), line_ends(&before[..at]) + 1));
            }
            if state.edits.is_over() {
                return Err(RunError::too_long(RuleId(rule), name(), most));
            }
            if let Some(line) = state.refused_section() {
                return Err(RunError::unclosed(RuleId(rule), name(), line));
            }
            changes[rule] = state.edits.matches();
            if !state.edits.is_empty() {
                next.clear();
                state.edits.apply_into(before, 0..before.len(), next);
                std::mem::swap(washed, next);
                any = true;
            }
        }
        Ok(any)
    }
}
