//! A rule compiled: an operation, where it may act, and how much text it must see.

use std::ops::Range;
use std::sync::Arc;

use super::drop_repeats::Seen;
use super::lookahead::Lookahead;
use super::merged::CharRule;
use super::nothing::Nothing;
use super::operation::{LineUse, Operation};
use super::operation_of;
use super::parts::cut;
use crate::guard::{Guard, GuardState};
use crate::matching::FinderScratch;
use crate::pattern::SharedBudget;
use crate::prefilter::{Requirement, requirements_of};
use crate::rules::{Search, StockTarget, Target, Verb};
use crate::stock::{RISING_LINES_AHEAD, is_empty_line};
use crate::text::LineEnd;
use crate::text::edit::Edits;
use crate::text::haystack::Haystack;
use crate::text::lines::{is_line_start, last_whole_line, line_before, line_start};
use crate::text::stand_ins::StandIns;

/// A compiled rule.
#[derive(Clone, Debug)]
pub(crate) struct CompiledRule {
    operation: Box<dyn Operation>,
    lookahead: Lookahead,
    guard: Guard,
    may_fail: bool,
    context: CarriedContext,
    by_line: bool,
    requirements: Option<Vec<Requirement>>,
    /// It can judge a line in parts, given text beyond a part for that many characters.
    in_parts: Option<usize>,
}

/// What a search has to know of the text before the one it sees.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum CarriedContext {
    None,
    /// The line numbers.
    Numbers,
    /// Whether the last line is empty.
    EmptyLine,
}

/// What an operation remembers from block to block, and the memory it works in; one for each text and thread.
#[derive(Debug, Default)]
pub(crate) struct RuleState {
    pub(super) finder: FinderScratch,
    /// Something of the text has been judged.
    pub(super) started: bool,
    /// How long the text that is held has to be before it is looked at again.
    pub(super) retry_at: usize,
    /// The last line judged was empty.
    pub(super) after_empty_line: bool,
    pub(super) seen: Seen,
    /// How many numbers were given.
    pub(crate) numbered: u64,
    pub(super) guard: GuardState,
    pub(crate) edits: Edits,
}

/// How far an operation has judged its text.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Progress {
    /// What is before has been judged.
    pub(crate) to: usize,
    /// What is after has to come again: at most `to`, and before it where a line is judged in parts.
    pub(crate) keep_from: usize,
}

impl RuleState {
    /// For one of several texts that have one budget.
    pub(crate) fn sharing(shared: &Arc<SharedBudget>) -> Self {
        let guard = GuardState::sharing(Arc::clone(shared));
        Self { finder: FinderScratch::sharing(Some(Arc::clone(shared))), guard, ..Self::default() }
    }

    /// Begins with another text. The memory it works in stays, and its budget if texts share one. `numbered`: how many numbers
    /// were given before.
    pub(crate) fn start_again(&mut self, numbered: u64) {
        self.numbered = numbered;
        self.finder.start_again();
        self.started = false;
        self.retry_at = 0;
        self.after_empty_line = false;
        self.seen.forget();
        self.guard.start_again();
    }

    /// On how many sections the rule has acted.
    pub(crate) fn sections(&self) -> u64 {
        self.guard.sections()
    }

    /// The line, from 1, with which a section opens that does not close, and has to.
    pub(crate) fn refused_section(&self) -> Option<u64> {
        self.guard.refused_section()
    }

    /// What is remembered from block to block, in bytes.
    pub(crate) fn memory(&self) -> u64 {
        self.seen.memory()
    }

    /// Adds a change, unless it is out of the rule's scope or touches what is protected.
    pub(super) fn push(&mut self, text: &[u8], place: Range<usize>, put: &[u8], matches: u64) {
        if self.guard.allows(place.start, place.end) {
            self.edits.push(text, place, put, matches);
        }
    }
}

/// What an operation may know about its text beyond the block.
#[derive(Clone, Copy, Debug)]
pub(crate) struct BlockContext {
    /// No more text follows the block.
    pub(crate) last: bool,
    /// The first line end of the text as it came in: what a break looks like on a line that has no line end itself.
    pub(crate) first_line_end: Option<LineEnd>,
    /// How long the text may be that any rule makes, in bytes.
    pub(crate) most: u64,
    /// Where each change is matters. Else a change may take in bytes beside it, on the same line, that stay as they are.
    pub(crate) each_place: bool,
}

impl CompiledRule {
    pub(crate) fn new(verb: &Verb, guard: Guard) -> Self {
        let operation = operation_of(verb);
        let search = verb.search();
        debug_assert_eq!(
            search.is_some(),
            operation.finder().is_some(),
            "`{}`: which text it searches for",
            verb.name()
        );
        let line_use = operation.line_use();
        let lookahead = match verb {
            // A run of line ends may be as long as the text.
            Verb::Collapse(collapse) if collapse.search.takes_line_ends() => Lookahead::Text,
            _ => search.map_or(Lookahead::Lines, Lookahead::of),
        };
        let lookahead = match line_use {
            _ if guard.needs_text() => Lookahead::Text,
            // Line ends are judged in parts of lines, which protected stretches over lines do not allow.
            LineUse::LineEnds if guard.reaching().next().is_some() => Lookahead::Text,
            _ => lookahead.or_more_lines(guard.lines_ahead()),
        };
        let may_fail = guard.may_fail() || search.is_some_and(Search::may_fail);
        let context = match search.map(|search| &search.target) {
            Some(Target::Stock(StockTarget { rising: true, .. })) => CarriedContext::Numbers,
            Some(Target::Stock(StockTarget { number: true, .. })) => CarriedContext::EmptyLine,
            _ => CarriedContext::None,
        };
        let lookahead =
            if context == CarriedContext::Numbers { lookahead.or_more_lines(RISING_LINES_AHEAD) } else { lookahead };
        let by_line = matches!(line_use, LineUse::Alone { .. })
            && lookahead == Lookahead::Lines
            && context == CarriedContext::None
            && guard.is_by_line()
            && !search.is_some_and(Search::takes_line_ends);
        let requirements = if by_line { requirements_of(verb) } else { None };
        let in_parts = operation.longest_match().filter(|_| by_line && guard.is_open());
        Self { operation, lookahead, guard, may_fail, context, by_line, requirements, in_parts }
    }

    /// A rule that does nothing, and lets others run together as they do without it.
    pub(crate) fn off() -> Self {
        Self {
            operation: Box::new(Nothing),
            lookahead: Lookahead::Lines,
            guard: Guard::default(),
            may_fail: false,
            context: CarriedContext::None,
            by_line: true,
            // No line holds what it acts on.
            requirements: Some(Vec::new()),
            in_parts: Some(0),
        }
    }

    /// From now on these count as blanks. Its requirements know nothing of them, so it is shown every line.
    pub(crate) fn count_as_blanks(&mut self, blanks: StandIns) {
        self.requirements = None;
        self.in_parts = None;
        self.guard.count_as_blanks(blanks);
        let searches = self.operation.finder().is_some();
        debug_assert_eq!(searches, self.operation.finder_mut().is_some(), "{:?}: both finders", self.operation);
        self.operation.count_as_blanks(blanks);
    }

    /// The same for a cell of several lines, for which nothing else is set: `keep` keeps what matches in the cell.
    pub(crate) fn for_whole_cells(mut self) -> Self {
        if self.operation.take_text_as_line() {
            (self.lookahead, self.by_line, self.requirements, self.in_parts) = (Lookahead::Text, false, None, None);
        }
        self
    }

    /// The same for cells set one below the other: every line is a text of its own, and its line end none of it. `None`:
    /// lines would not keep their number.
    pub(crate) fn for_stacked_cells(&self) -> Option<Self> {
        let mut rule = self.clone();
        rule.operation.spare_line_ends();
        self.keeps_number_of_lines().then_some(rule)
    }

    /// Whether each line becomes a line, by itself.
    pub(crate) fn keeps_number_of_lines(&self) -> bool {
        self.by_line && self.operation.line_use() == LineUse::KEEPS_NUMBER
    }

    /// Whether what it does to a line depends on that line alone, and leaves its line end.
    pub(crate) fn is_by_line(&self) -> bool {
        self.by_line
    }

    /// Whether it numbers what it sees.
    pub(crate) fn is_numbering(&self) -> bool {
        self.operation.is_numbering()
    }

    /// What a line must hold for it to act there, if that is known.
    pub(crate) fn requirements(&self) -> Option<&[Requirement]> {
        self.requirements.as_deref()
    }

    /// What it has to see to do its work, in words.
    pub(crate) fn needs(&self) -> String {
        let lines = match self.lookahead {
            Lookahead::Text => return "the whole text at once".to_owned(),
            _ if self.guard.waits_for_section_ends() => "each section to its end".to_owned(),
            Lookahead::MoreLines(1) => "each line with the one after it".to_owned(),
            Lookahead::MoreLines(lines) => format!("each line with the {lines} after it"),
            Lookahead::Lines => "line by line".to_owned(),
        };
        self.operation.needs(lines)
    }

    /// Why it holds text, or remembers it.
    pub(crate) fn holds(&self) -> &'static str {
        match self.lookahead {
            _ if self.guard.waits_for_section_ends() => "it has to see a section to its end",
            Lookahead::Text => "it has to see the whole text at once",
            _ if self.operation.remembers_text() => "it remembers every line of the text",
            Lookahead::MoreLines(_) => "it has to see lines together with those after them",
            Lookahead::Lines => "it has to see a line whole",
        }
    }

    /// Whether it can judge nothing before another line has ended, given so much text.
    pub(crate) fn waits_for_line_ends(&self, len: usize, state: &RuleState) -> bool {
        self.operation.line_use() != LineUse::LineEnds && (self.in_parts.is_none() || len < state.retry_at)
    }

    /// Whether a search can take more work than it may.
    pub(crate) fn may_fail(&self) -> bool {
        self.may_fail
    }

    /// Where a search took more work than it may, in bytes of the text that was judged last. Nothing of what was found
    /// since then means anything.
    pub(crate) fn failed_at(state: &RuleState) -> Option<usize> {
        state.finder.failed_at.or_else(|| state.guard.failed_at())
    }

    /// Works out the changes to `text` from `from` on, and leaves them in `state.edits`. `text` starts where the last
    /// call said to keep it from, and has been judged up to `from`.
    pub(crate) fn run(&self, text: &[u8], from: usize, context: BlockContext, state: &mut RuleState) -> Progress {
        state.edits.clear();
        if self.guard.is_open()
            && let Some(to) = self.operation.judge_open_line(text, from, context.last, state)
        {
            return Progress { to, keep_from: to };
        }
        let limit = match (context.last, self.lookahead) {
            (true, _) => text.len(),
            (false, Lookahead::Text) => 0,
            (false, Lookahead::Lines) => last_whole_line(text),
            (false, Lookahead::MoreLines(line_ends)) => self.lines_without_reach(text, line_ends, state),
        };
        if limit <= from
            && !context.last
            && let Some(longest) = self.in_parts.filter(|_| text.len() >= state.retry_at)
        {
            return self.run_on_part(text, from, longest, context, state);
        }
        let waits_for_sections = !context.last && self.guard.waits_for_section_ends();
        if (limit <= from && !context.last) || (waits_for_sections && text.len() < state.retry_at) {
            return Progress { to: from, keep_from: 0 };
        }
        let window = if context.last { text.len() } else { last_whole_line(text) };
        self.guard.look(&text[..window], context.last, &mut state.guard);
        let limit = match state.guard.open_from() {
            Some(open) if open < limit && open <= from => {
                // Looking again at each block at a section that goes on and on would take quadratic time.
                state.retry_at = text.len() * 2;
                return Progress { to: from, keep_from: 0 };
            }
            Some(open) => limit.min(open),
            None => limit,
        };
        if waits_for_sections {
            state.retry_at = 0;
        }
        if self.context == CarriedContext::Numbers {
            state.finder.rising.look(&text[..window]);
        }
        let to = self.operation.judge(text, from, limit, context, state);
        let in_line = !context.last && !self.guard.is_open() && !is_line_start(text, to);
        let keep_from = if in_line { line_start(text, to) } else { to };
        state.guard.advance(keep_from);
        match self.context {
            CarriedContext::None => {}
            CarriedContext::Numbers => state.finder.rising.advance(keep_from),
            CarriedContext::EmptyLine => {
                state.finder.follows_text = to > 0 && !is_empty_line(text, line_before(text, to));
            }
        }
        Progress { to, keep_from }
    }

    /// The same for text within a line that goes on.
    fn run_on_part(
        &self,
        text: &[u8],
        from: usize,
        longest: usize,
        context: BlockContext,
        state: &mut RuleState,
    ) -> Progress {
        // A line is cut where nothing changes.
        self.run_on_lines(text, BlockContext { each_place: true, ..context }, state);
        let changed = state.edits.iter().map(|edit| edit.place.start..edit.place.end);
        let Some(cut) = cut(text, from, state.finder.matches.spans(), changed, longest) else {
            // Where there is no place to part it, looking again at each block would take quadratic time.
            state.edits.clear();
            state.retry_at = text.len() * 2;
            return Progress { to: from, keep_from: 0 };
        };
        state.edits.retain_within(from..cut.to);
        Progress { to: cut.to, keep_from: cut.keep_from }
    }

    /// What it does, if that is to put something in place of single characters, wherever they stand.
    pub(crate) fn char_rule(&self) -> Option<CharRule<'_>> {
        self.operation.char_rule().filter(|_| self.guard.is_open())
    }

    /// Whether it looks only where there may be anything to do, given that: see [`run_near`](Self::run_near).
    pub(crate) fn looks_near(&self) -> bool {
        self.guard.is_open() && self.operation.looks_near()
    }

    /// As [`run_on_whole_lines`](Self::run_on_whole_lines), but only on lines that hold one of these places, which are in
    /// order: others have nothing its [`requirements`](Self::requirements) ask for. It must be one that looks near.
    pub(crate) fn run_near(&self, lines: &[u8], places: &[usize], context: BlockContext, state: &mut RuleState) {
        debug_assert!(self.looks_near(), "a rule that looks everywhere");
        state.edits.clear();
        let are_starts =
            self.requirements().is_some_and(|requirements| requirements.iter().all(Requirement::knows_starts));
        self.run_in(Haystack { text: lines, places: Some(places), are_starts }, context, state);
    }

    /// The same for an operation that acts line by line, and whole lines with nothing before them.
    pub(crate) fn run_on_whole_lines(&self, lines: &[u8], context: BlockContext, state: &mut RuleState) {
        state.edits.clear();
        if self.guard.is_open() {
            return self.run_on_lines(lines, context, state);
        }
        self.guard.look(lines, false, &mut state.guard);
        self.run_on_lines(lines, context, state);
        state.guard.advance(lines.len());
    }

    /// The length of the longest row of whole lines that no match reaches out of, as far as that is certain: what
    /// starts in the last few lines may go on in lines that have not come in.
    fn lines_without_reach(&self, text: &[u8], line_ends: usize, state: &mut RuleState) -> usize {
        if text.len() < state.retry_at {
            return 0;
        }
        let mut cut = last_whole_line(text);
        for _ in 0..line_ends {
            cut = line_before(text, cut);
        }
        let window = &text[..last_whole_line(text)];
        let mut scratch = FinderScratch::default();
        scratch.follows_text = state.finder.follows_text;
        loop {
            let before = cut;
            for finder in self.operation.finder().into_iter().chain(self.guard.reaching()) {
                for span in finder.find_raw(window, &mut scratch).spans().iter().rev() {
                    if span.end <= cut {
                        break;
                    }
                    if span.start < cut {
                        cut = line_start(text, span.start);
                    }
                }
            }
            if cut == before {
                break;
            }
        }
        // Where every line is reached into, looking again at each block would take quadratic time.
        state.retry_at = if cut == 0 { text.len() * 2 } else { 0 };
        cut
    }

    fn run_on_lines(&self, text: &[u8], context: BlockContext, state: &mut RuleState) {
        self.run_in(text.into(), context, state);
    }

    fn run_in(&self, haystack: Haystack<'_>, context: BlockContext, state: &mut RuleState) {
        self.operation.run(haystack, context, state);
    }
}
