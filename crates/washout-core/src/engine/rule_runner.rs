//! One rule at work on its own input.

use std::ops::{AddAssign, SubAssign};
use std::sync::Arc;

use crate::observe::{Change, Observer};
use crate::operations::{BlockContext, CharRule, CompiledRule, Progress, RuleState, change_merged};
use crate::pattern::SharedBudget;
use crate::rules::RuleId;
use crate::text::edit::{Edit, Edits};
use crate::text::lines::line_ends;

/// One rule at work. It shares no cache line with another, nor the pair of lines that processors fetch together: what one
/// thread writes here would else slow down the thread that works with the one beside it.
#[derive(Debug)]
#[repr(align(128))]
pub(super) struct RuleRunner<'p> {
    op: &'p CompiledRule,
    pub(super) rule: RuleId,
    state: RuleState,
    /// What has been received and has to be looked at again.
    held: Vec<u8>,
    /// How much of that has been judged already: the start of a line that is judged in parts.
    context: usize,
    /// How much of the input has been judged, in bytes from the start of the text.
    judged: u64,
    pub(super) counts: Counts,
}

/// What is counted on the way.
#[derive(Clone, Copy, Debug, Default)]
pub(super) struct Counts {
    pub(super) changes: u64,
    /// Lines before what has been judged, where a search may fail and has to say where.
    pub(super) lines: u64,
}

impl AddAssign for Counts {
    fn add_assign(&mut self, more: Self) {
        self.changes += more.changes;
        self.lines += more.lines;
    }
}

impl SubAssign for Counts {
    fn sub_assign(&mut self, fewer: Self) {
        self.changes -= fewer.changes;
        self.lines -= fewer.lines;
    }
}

/// A rule that cannot go on.
#[derive(Clone, Copy, Debug)]
pub(super) struct Failure {
    pub(super) rule: RuleId,
    /// The line of the text it sees, from 1.
    pub(super) line: u64,
    pub(super) why: StopReason,
}

/// Why a rule cannot go on.
#[derive(Clone, Copy, Debug)]
pub(super) enum StopReason {
    /// Its searches take more work than they may.
    TooMuchWork,
    /// It makes the text longer than it may become.
    TooLong,
    /// A section does not close that has to.
    Unclosed,
}

/// What a runner made of a piece of its input.
#[derive(Clone, Copy, Debug)]
pub(super) enum Output {
    /// The first that many bytes of the piece, unchanged.
    Same(usize),
    /// Bytes that were appended to the runner's output.
    Written,
}

impl<'p> RuleRunner<'p> {
    pub(super) fn new(op: &'p CompiledRule, rule: RuleId) -> Self {
        Self {
            op,
            rule,
            state: RuleState::default(),
            held: Vec::new(),
            context: 0,
            judged: 0,
            counts: Counts::default(),
        }
    }

    /// Whether it waits for nothing: what it does to the text from here on does not depend on what came before, if its
    /// rule acts line by line.
    pub(super) fn has_no_pending(&self) -> bool {
        self.held.is_empty()
    }

    /// Forgets the text so far, as if it began here; what was counted stays.
    pub(super) fn start_anew(&mut self) {
        *self = Self { counts: self.counts, ..Self::new(self.op, self.rule) };
    }

    /// For one of several texts that have one budget; the text has not begun.
    pub(super) fn share(&mut self, budget: &Arc<SharedBudget>) {
        self.state = RuleState::sharing(budget);
    }

    /// Lets it go on numbering where others left off.
    pub(super) fn count_from(&mut self, numbered: u64) {
        self.state.numbered = numbered;
    }

    /// How many numbers it has given.
    pub(super) fn numbered(&self) -> u64 {
        self.state.numbered
    }

    /// On how many sections it has acted.
    pub(super) fn sections(&self) -> u64 {
        self.state.sections()
    }

    /// What it holds, in bytes.
    pub(super) fn memory(&self) -> u64 {
        self.held.capacity() as u64 + self.state.memory()
    }

    /// Whether its rule can take more work than it may.
    pub(super) fn may_fail(&self) -> bool {
        self.op.may_fail()
    }

    /// Passes over whole lines, to a runner at rest: the rule has no more changes to make to them. `bytes` is their length,
    /// `lines` their number as [`lines_counted`] gives it.
    pub(super) fn pass_over(&mut self, bytes: usize, lines: u64, observer: &mut impl Observer) {
        self.judged += bytes as u64;
        self.counts.lines += lines;
        if observer.is_active() {
            observer.judged(self.rule, self.judged);
        }
    }

    /// Takes whole lines that end in LF, at rest. Whether there are any changes to make to them,
    /// which are then in `edits`; or where its rule cannot go on.
    pub(super) fn change_lines(&mut self, text: &[u8], context: BlockContext) -> Result<bool, usize> {
        self.grant(text, context);
        self.op.run_on_whole_lines(text, context, &mut self.state);
        self.any_change()
    }

    /// The same for a rule that looks only near places, which are in order, and other lines hold nothing it acts on.
    pub(super) fn change_near(&mut self, text: &[u8], places: &[usize], context: BlockContext) -> Result<bool, usize> {
        self.grant(text, context);
        self.op.run_near(text, places, context, &mut self.state);
        self.any_change()
    }

    /// The same for rules that are merged; the changes of all of them are then in `edits` of the first. `None`: on this text
    /// they cannot be merged.
    pub(super) fn change_merged(
        runners: &mut [Self],
        text: &[u8],
        places: &[usize],
        context: BlockContext,
    ) -> Option<bool> {
        let rules: Vec<CharRule<'p>> = runners.iter().map(|runner| runner.op.char_rule()).collect::<Option<_>>()?;
        let mut changes = vec![0; runners.len()];
        let first = runners.first_mut()?;
        first.grant(text, context);
        let edits = &mut first.state.edits;
        edits.clear();
        change_merged(&rules, text, places, edits, |rule| changes[rule] += 1)?;
        if edits.is_over() {
            return None;
        }
        let any = !edits.is_empty();
        runners.iter_mut().zip(changes).for_each(|(runner, changes)| runner.counts.changes += changes);
        Some(any)
    }

    /// A row of rules in which each makes the text longer soon has more of it than any memory holds: a rule may put no more in
    /// place than the text may become longer.
    fn grant(&mut self, text: &[u8], context: BlockContext) {
        let room = context.most.saturating_sub(self.judged + text.len() as u64);
        self.state.edits.grant(usize::try_from(room).unwrap_or(usize::MAX));
    }

    /// Where and why its rule cannot go on: at a line from 1.
    pub(super) fn failure(&self, line: u64) -> Failure {
        let why = if self.state.edits.is_over() { StopReason::TooLong } else { StopReason::TooMuchWork };
        Failure { rule: self.rule, line, why }
    }

    fn any_change(&mut self) -> Result<bool, usize> {
        if let Some(at) = CompiledRule::failed_at(&self.state) {
            return Err(at);
        }
        if self.state.edits.is_over() {
            return Err(0);
        }
        self.counts.changes += self.state.edits.matches();
        Ok(!self.state.edits.is_empty())
    }

    /// The changes worked out last.
    pub(super) fn edits(&self) -> &Edits {
        &self.state.edits
    }

    pub(super) fn edits_mut(&mut self) -> &mut Edits {
        &mut self.state.edits
    }

    pub(super) fn forget_edits(&mut self) {
        self.state.edits.clear();
    }

    pub(super) fn op(&self) -> &'p CompiledRule {
        self.op
    }

    /// Takes the next piece of the input and gives all output that is certain.
    pub(super) fn feed(
        &mut self,
        piece: &[u8],
        context: BlockContext,
        out: &mut Vec<u8>,
        observer: &mut impl Observer,
    ) -> Result<Output, Failure> {
        // The end of a text matters to a rule that has seen some of it, even if nothing is left to judge.
        let nothing_more = piece.is_empty() && (!context.last || (self.held.is_empty() && self.judged == 0));
        if nothing_more {
            return Ok(Output::Same(0));
        }
        if self.held.is_empty() {
            let Progress { to, keep_from } = self.judge(piece, context, observer)?;
            self.held.extend_from_slice(&piece[keep_from..]);
            self.context = to - keep_from;
            if self.state.edits.is_empty() {
                return Ok(Output::Same(to));
            }
            self.state.edits.apply_into(piece, 0..to, out);
            return Ok(Output::Written);
        }
        // Looking again at a line that goes on and on would take quadratic time.
        let waits = !context.last && !self.held.ends_with(b"\r");
        if waits
            && self.op.waits_for_line_ends(self.held.len() + piece.len(), &self.state)
            && memchr::memchr2(b'\n', b'\r', piece).is_none()
        {
            self.held.extend_from_slice(piece);
            return Ok(Output::Written);
        }
        let mut text = std::mem::take(&mut self.held);
        text.extend_from_slice(piece);
        let from = self.context;
        let Progress { to, keep_from } = self.judge(&text, context, observer)?;
        self.state.edits.apply_into(&text, from..to, out);
        text.drain(..keep_from);
        self.context = to - keep_from;
        self.held = text;
        Ok(Output::Written)
    }

    fn judge(&mut self, text: &[u8], context: BlockContext, observer: &mut impl Observer) -> Result<Progress, Failure> {
        self.grant(text, context);
        let judged = self.op.run(text, self.context, context, &mut self.state);
        if let Some(at) = CompiledRule::failed_at(&self.state) {
            return Err(self.failure(self.counts.lines + line_ends(&text[self.context.min(at)..at]) + 1));
        }
        if self.state.edits.is_over() {
            return Err(self.failure(0));
        }
        if let Some(line) = self.state.refused_section() {
            return Err(Failure { rule: self.rule, line, why: StopReason::Unclosed });
        }
        if self.op.may_fail() {
            self.counts.lines += line_ends(&text[self.context..judged.to]);
        }
        self.counts.changes += self.state.edits.matches();
        self.report_edits_from(text, self.context, observer);
        self.judged += (judged.to - self.context) as u64;
        if observer.is_active() {
            observer.judged(self.rule, self.judged);
        }
        Ok(judged)
    }

    /// Tells an observer of the changes worked out last, to a text of which nothing has been judged.
    pub(super) fn report_edits(&self, text: &[u8], observer: &mut impl Observer) {
        self.report_edits_from(text, 0, observer);
    }

    /// The same for a text that has been judged up to there.
    fn report_edits_from(&self, text: &[u8], context: usize, observer: &mut impl Observer) {
        if observer.is_active() {
            self.state.edits.iter().for_each(|edit| self.report(edit, edit.place.start - context, text, observer));
        }
    }

    /// Tells an observer of a change worked out last, which is `at` bytes after what has been judged.
    pub(super) fn report(&self, edit: &Edit, at: usize, text: &[u8], observer: &mut impl Observer) {
        observer.change(&Change {
            rule: self.rule,
            at: self.judged + at as u64,
            before: edit.place.of(text),
            after: self.state.edits.put(edit),
            matches: edit.matches,
        });
    }
}

/// How many lines end in a text; 0 where no rule has to say where it failed.
pub(super) fn lines_counted(runners: &[RuleRunner<'_>], lines: &[u8]) -> u64 {
    if runners.iter().any(RuleRunner::may_fail) { line_ends(lines) } else { 0 }
}
