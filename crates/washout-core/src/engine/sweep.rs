//! Whole lines on their way through the rules of a stage, most of which some rule acts on.
//!
//! One rule after the other goes over all of them, finds the places where it may act, and is shown these lines; what it
//! makes of them is the text for the next. Where a rule has much to do that is less work than keeping account of what
//! becomes of each line, and what comes next is easier to foresee for the processor.

use std::ops::Range;

use memchr::{memchr, memrchr};

use super::rule_runner::{Failure, RuleRunner, lines_counted};
use crate::observe::Observer;
use crate::operations::BlockContext;
use crate::prefilter::Sifting;
use crate::program::Stage;
use crate::text::copy::append;
use crate::text::edit::Edits;
use crate::text::lines::line_ends;

/// The text between two rules; kept for its memory from text to text.
#[derive(Debug, Default)]
pub(super) struct Sweep {
    /// What the rules so far have made, if they have changed anything: that many bytes of it. It never gets shorter, so that
    /// what is put there need not be made room for.
    now: Vec<u8>,
    changed: Option<usize>,
    next: Vec<u8>,
    /// Where a rule may act.
    places: Vec<usize>,
    /// How many such places all rules together had in the last text.
    spotted: usize,
    shown: Shown,
}

/// What happened to lines.
#[derive(Clone, Copy, Debug)]
pub(super) enum SweepResult {
    Same,
    Written,
    /// What they have become has to be fed to this runner: the last line has no certain end any more, since what it is hangs
    /// on what follows.
    LeftTo(usize),
}

/// The lines that a rule is shown, one after the other.
#[derive(Debug, Default)]
struct Shown {
    lines: Vec<u8>,
    /// For each row of lines that stand together in the text: where it starts there and here.
    rows: Vec<ShownRow>,
}

#[derive(Clone, Copy, Debug)]
struct ShownRow {
    in_text: usize,
    here: usize,
}

impl Sweep {
    /// Sends whole lines through the runners of a stage that waits for nothing, and appends what they have become to `out`.
    /// Runners that they are left to have not seen any of them.
    ///
    /// # Errors
    /// A rule that cannot go on.
    pub(super) fn work(
        &mut self,
        stage: &Stage,
        runners: &mut [RuleRunner<'_>],
        lines: &[u8],
        context: BlockContext,
        out: &mut Vec<u8>,
        observer: &mut impl Observer,
    ) -> Result<SweepResult, Failure> {
        self.changed = None;
        self.spotted = 0;
        runners.iter_mut().for_each(RuleRunner::forget_edits);
        let count = lines_counted(runners, lines);
        // The changes of merged rules are not kept apart, which an observer wants.
        let (mut rule, mut one_by_one) = (0, observer.is_active());
        while rule < runners.len() {
            let next_rule = rule + if one_by_one { 1 } else { stage.merged(rule) };
            let text = self.changed.map_or(lines, |len| &self.now[..len]);
            if text.is_empty() {
                runners[rule..].iter_mut().for_each(|runner| runner.pass_over(0, count, observer));
                break;
            }
            if !text.ends_with(b"\n") {
                return Ok(SweepResult::LeftTo(rule));
            }
            let candidate_finder = stage.candidate_finder(rule, runners[rule..next_rule].iter().map(RuleRunner::op));
            match candidate_finder.places(text, &mut self.places) {
                Sifting::Marked if self.places.is_empty() => {
                    runners[rule..next_rule]
                        .iter_mut()
                        .for_each(|runner| runner.pass_over(text.len(), count, observer));
                    rule = next_rule;
                    continue;
                }
                Sifting::Marked => {}
                Sifting::LoneCr | Sifting::Crowded => return Ok(SweepResult::LeftTo(rule)),
            }
            self.spotted += self.places.len();
            let Some(any) = act(&mut runners[rule..next_rule], text, &self.places, &mut self.shown, context) else {
                one_by_one = true;
                continue;
            };
            let any = any.map_err(|at| {
                let at = runners[..rule].iter().rev().fold(at, |at, runner| runner.edits().before(at));
                runners[rule].failure(runners[rule].counts.lines + line_ends(&lines[..at]) + 1)
            })?;
            runners[rule].report_edits(text, observer);
            runners[rule..next_rule].iter_mut().for_each(|runner| runner.pass_over(text.len(), count, observer));
            if any && next_rule == runners.len() {
                runners[rule].edits().apply_into(text, 0..text.len(), out);
                return Ok(SweepResult::Written);
            }
            if any {
                self.changed = Some(runners[rule].edits().apply_over(text, &mut self.next));
                std::mem::swap(&mut self.now, &mut self.next);
            }
            rule = next_rule;
        }
        let Some(changed) = self.changed() else { return Ok(SweepResult::Same) };
        out.extend_from_slice(changed);
        Ok(SweepResult::Written)
    }

    /// How many places there were, in all lines, where some rule might have acted.
    pub(super) fn spotted(&self) -> usize {
        self.spotted
    }

    /// What the lines had become when they were left to a runner; `None`: they were as they are.
    pub(super) fn changed(&self) -> Option<&[u8]> {
        self.changed.map(|len| &self.now[..len])
    }
}

/// Works out the changes of one rule, or of several that are merged, to lines that hold such places; they are left in the
/// first runner. Whether there are any, or where the rule cannot go on; `None`: on this text they cannot be merged.
fn act(
    runners: &mut [RuleRunner<'_>],
    text: &[u8],
    places: &[usize],
    shown: &mut Shown,
    context: BlockContext,
) -> Option<Result<bool, usize>> {
    let [runner] = runners else { return RuleRunner::change_merged(runners, text, places, context).map(Ok) };
    if runner.op().looks_near() {
        return Some(runner.change_near(text, places, context));
    }
    shown.gather(text, places);
    let any = runner.change_lines(&shown.lines, context);
    shown.take_back(runner.edits_mut());
    Some(any.map_err(|at| shown.place_of(at)))
}

impl Shown {
    /// Takes the lines that hold any of these places, which are in order.
    fn gather(&mut self, text: &[u8], places: &[usize]) {
        self.lines.clear();
        self.rows.clear();
        let mut row = 0..0;
        for place in places {
            if *place < row.end {
                continue;
            }
            let start = memrchr(b'\n', &text[row.end..*place]).map(|found| row.end + found + 1);
            if let Some(start) = start {
                self.take(text, row);
                row = start..start;
            }
            row.end = memchr(b'\n', &text[*place..]).map_or(text.len(), |found| place + found + 1);
        }
        self.take(text, row);
    }

    fn take(&mut self, text: &[u8], row: Range<usize>) {
        if !row.is_empty() {
            self.rows.push(ShownRow { in_text: row.start, here: self.lines.len() });
            append(&mut self.lines, text, row);
        }
    }

    /// Where in the text a place among the shown lines is.
    fn place_of(&self, at: usize) -> usize {
        let row = self.rows.partition_point(|row| row.here <= at).checked_sub(1).map(|row| self.rows[row]);
        row.map_or(at, |row| at - row.here + row.in_text)
    }

    /// Moves changes of shown lines to where these are in the text.
    fn take_back(&self, edits: &mut Edits) {
        let mut rows = self.rows.iter().peekable();
        let mut by = 0;
        edits.move_each(|start| {
            while let Some(row) = rows.next_if(|row| row.here <= start) {
                by = row.in_text - row.here;
            }
            by
        });
    }
}
