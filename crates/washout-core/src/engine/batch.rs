//! The marked lines of a text on their way through the rules of a stage.
//!
//! Each rule is shown all lines it may act on at once, one after the other: a line alone is so short that getting to
//! work on it would take longer than the work.

use std::ops::Range;

use super::rule_runner::{Failure, RuleRunner, lines_counted};
use crate::observe::Observer;
use crate::operations::BlockContext;
use crate::prefilter::{BEHIND, Marked, MarkedLine, Prefilter};
use crate::text::copy::append;
use crate::text::edit::Edits;
use crate::text::lines::line_ends;

/// The marked lines of one text; kept for its memory from text to text.
#[derive(Debug, Default)]
pub(super) struct MarkedBatch {
    pub(super) marked: Marked,
    /// What happened to each marked line: where in `changed` it is, if it has changed.
    now: Vec<Option<Range<usize>>>,
    /// All that lines have become, one after the other, with one LF before each and [`BEHIND`] behind; the one before is
    /// the last of the line before.
    changed: Vec<u8>,
    /// The lines that one rule is shown.
    shown: Vec<u8>,
    /// Which they are, and where each starts in `shown`.
    shown_lines: Vec<(usize, usize)>,
    /// Where a line has been put, in bytes of it.
    places: Vec<Range<usize>>,
    cuts: Vec<Unfinished>,
    /// By how many bytes the lines that are not cut off have become longer.
    longer: isize,
}

/// A line has no certain end any more: what it is depends on the line after it. From this one on, lines have been
/// through the runners before `runner` only, and have to go on as pieces.
#[derive(Clone, Copy, Debug)]
struct Unfinished {
    line: usize,
    runner: usize,
}

impl MarkedBatch {
    /// Sends the marked lines of `text` through the runners whose rules may act on them.
    ///
    /// # Errors
    /// A rule that cannot go on.
    pub(super) fn work(
        &mut self,
        runners: &mut [RuleRunner<'_>],
        prefilter: &Prefilter,
        text: &[u8],
        context: BlockContext,
        observer: &mut impl Observer,
    ) -> Result<(), Failure> {
        self.now.clear();
        self.now.resize(self.marked.lines().len(), None);
        self.changed.clear();
        self.changed.push(b'\n');
        self.cuts.clear();
        self.longer = 0;
        let mut limit = text.len();
        let mut count = lines_counted(runners, text);
        for (rule, runner) in runners.iter_mut().enumerate() {
            let seen = limit.strict_add_signed(self.longer);
            self.show(rule, text);
            if self.shown_lines.is_empty() {
                runner.pass_over(seen, count, observer);
                continue;
            }
            let any = runner.change_lines(&self.shown, context).map_err(|at| {
                let line = self.shown_lines.partition_point(|(_, start)| *start <= at).saturating_sub(1);
                let start = self.marked.lines()[self.shown_lines[line].0].start;
                runner.counts.lines + line_ends(&text[..start]) + 1
            });
            let any = any.map_err(|line| runner.failure(line))?;
            if any && observer.is_active() {
                self.report(runner, observer);
            }
            runner.pass_over(seen, count, observer);
            if any && self.take(runner.edits(), prefilter, rule) {
                limit = self.cuts.last().map_or(limit, |cut| self.start_of(cut));
                count = if count > 0 { line_ends(&text[..limit]) } else { 0 };
                self.longer = self.longer_within(0..self.limit());
            }
        }
        Ok(())
    }

    /// Tells an observer of the changes that a runner makes to the lines it was shown.
    fn report(&self, runner: &RuleRunner<'_>, observer: &mut impl Observer) {
        let mut lines = self.shown_lines.iter().peekable();
        // How far a shown line is from its place in the text the rule sees, in bytes, and up to which marked line that is known.
        let (mut by, mut known, mut longer) = (0, 0, 0);
        for edit in runner.edits().iter() {
            while let Some((index, start)) = lines.next_if(|(_, start)| *start <= edit.place.start) {
                longer += self.longer_within(known..*index);
                known = *index;
                by = self.marked.lines()[*index].start.strict_add_signed(longer) - start;
            }
            runner.report(edit, edit.place.start + by, &self.shown, observer);
        }
    }

    /// By how many bytes these marked lines have become longer.
    fn longer_within(&self, lines: Range<usize>) -> isize {
        let longer = |(line, now): (&MarkedLine, &Option<Range<usize>>)| match now {
            Some(now) => now.len().cast_signed() - (line.end - line.start).cast_signed(),
            None => 0,
        };
        self.marked.lines()[lines.clone()].iter().zip(&self.now[lines]).map(longer).sum()
    }

    /// The lines that go on as pieces start with this one.
    fn limit(&self) -> usize {
        self.cuts.last().map_or(self.marked.lines().len(), |cut| cut.line)
    }

    /// Gathers the lines this rule may act on.
    fn show(&mut self, rule: usize, text: &[u8]) {
        let limit = self.limit();
        let Self { marked, now, changed, shown, shown_lines, .. } = self;
        shown.clear();
        shown_lines.clear();
        for index in marked.waiting_for(rule).take_while(|index| *index < limit) {
            match &now[index] {
                Some(now) if now.is_empty() => {} // a line that has gone waits for nothing
                Some(now) => {
                    shown_lines.push((index, shown.len()));
                    append(shown, changed, now.clone());
                }
                None => {
                    let MarkedLine { start, end } = marked.lines()[index];
                    shown_lines.push((index, shown.len()));
                    append(shown, text, start..end);
                }
            }
        }
    }

    /// Takes over the changes a rule has made to the lines it was shown, and works out which rules after it may act on
    /// the outcome. Gives whether lines are cut off that have to go on as pieces.
    fn take(&mut self, edits: &Edits, prefilter: &Prefilter, rule: usize) -> bool {
        let Self { marked, now, changed, shown, shown_lines, places, longer, .. } = self;
        let mut left = edits.list();
        let mut lines =
            shown_lines.iter().copied().zip(shown_lines[1..].iter().map(|(_, next)| *next).chain([shown.len()]));
        let mut cut = None;
        while let Some(first) = left.first() {
            let Some(((index, start), end)) = lines.find(|(_, end)| first.place.start < *end) else { break };
            let frame_start = changed.len() - 1;
            let new_start = frame_start + 1;
            let mut copied = start;
            places.clear();
            while let Some((edit, rest)) = left.split_first().filter(|(edit, _)| edit.place.start < end) {
                append(changed, shown, copied..edit.place.start);
                let put_at = changed.len() - new_start;
                let put_len = edits.append_put(edit, changed);
                places.push(put_at..put_at + put_len);
                copied = edit.place.end;
                left = rest;
            }
            append(changed, shown, copied..end);
            let new_end = changed.len();
            changed.extend_from_slice(&[b'\n'; BEHIND]);
            match changed[new_start..new_end].last() {
                None => {}
                Some(b'\n') => {
                    prefilter.rules_after(rule, &changed[frame_start..], places, |rule| marked.add_rule(index, rule));
                }
                Some(_) => drop(cut.get_or_insert(index)),
            }
            now[index] = Some(new_start..new_end);
            *longer += (new_end - new_start).cast_signed() - (end - start).cast_signed();
        }
        self.cuts.extend(cut.map(|line| Unfinished { line, runner: rule + 1 }));
        cut.is_some()
    }

    /// Whether any line has changed.
    pub(super) fn any_change(&self) -> bool {
        self.now.iter().any(Option::is_some)
    }

    /// Appends the text to `out` as it has become, up to the first line that has to go on as a piece.
    pub(super) fn write_certain(&self, text: &[u8], out: &mut Vec<u8>) {
        out.reserve(text.len());
        let end = self.cuts.last().map_or(text.len(), |cut| self.start_of(cut));
        self.write(text, 0..end, out);
    }

    /// The pieces after that, in order, and the runner each has to go on with.
    pub(super) fn pieces<'b>(&'b self, text: &'b [u8]) -> impl Iterator<Item = (usize, Vec<u8>)> + 'b {
        let ends = self.cuts.iter().rev().skip(1).map(|cut| self.start_of(cut)).chain([text.len()]);
        self.cuts.iter().rev().zip(ends).map(|(cut, end)| {
            let mut piece = Vec::new();
            self.write(text, self.start_of(cut)..end, &mut piece);
            (cut.runner, piece)
        })
    }

    fn start_of(&self, cut: &Unfinished) -> usize {
        self.marked.lines()[cut.line].start
    }

    /// Appends a stretch of whole lines as they have become.
    fn write(&self, text: &[u8], stretch: Range<usize>, out: &mut Vec<u8>) {
        let mut copied = stretch.start;
        let marked = self.marked.lines();
        let first = marked.partition_point(|line| line.start < stretch.start);
        let lines = marked.iter().zip(&self.now).skip(first).take_while(|(line, _)| line.start < stretch.end);
        for (line, now) in lines {
            if let Some(now) = now {
                append(out, text, copied..line.start);
                append(out, &self.changed, now.clone());
                copied = line.end;
            }
        }
        out.extend_from_slice(&text[copied..stretch.end]);
    }
}
