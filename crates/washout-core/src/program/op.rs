//! One operation for each rule.

use std::ops::Range;
use std::sync::Arc;

use super::kind::Kind;
use super::parts::cut;
use super::reach::{Reach, keeps_lines};
use super::repeats::Seen;
use super::together::CharRule;
use crate::guard::{Guard, GuardState};
use crate::matching::FinderScratch;
use crate::model::{RepeatScope, Search, StockTarget, Target, Verb};
use crate::pattern::SharedBudget;
use crate::sieve::{Probe, probes_of};
use crate::stock::{RISING_LINES_AHEAD, is_empty_line};
use crate::text::LineEnd;
use crate::text::edit::Edits;
use crate::text::haystack::Haystack;
use crate::text::lines::{is_line_start, last_whole_line, line_before, line_start};
use crate::text::stand_ins::StandIns;

/// A compiled rule.
#[derive(Clone, Debug)]
pub(crate) struct Op {
    kind: Kind,
    reach: Reach,
    guard: Guard,
    may_fail: bool,
    follows: Follows,
    by_line: bool,
    /// It makes no line of two, nor two of one, but for taking whole ones.
    keeps_lines: bool,
    probes: Option<Vec<Probe>>,
    /// It can judge a line in parts, given text beyond a part for so many characters.
    in_parts: Option<usize>,
}

/// What a search has to know of the text before the one it sees.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Follows {
    Nothing,
    /// The line numbers.
    Numbers,
    /// Whether the last line is empty.
    EmptyLines,
}

/// What an operation remembers from block to block, and the memory it works in; one for each text and thread.
#[derive(Debug, Default)]
pub(crate) struct OpState {
    pub(super) finder: FinderScratch,
    /// Something of the text has been judged.
    pub(super) started: bool,
    /// How long the text that is held has to be before it is looked at again.
    retry_at: usize,
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
pub(crate) struct Judged {
    /// What is before has been judged.
    pub(crate) to: usize,
    /// What is behind has to come again: at most `to`, and before it where a line is judged in parts.
    pub(crate) keep_from: usize,
}

impl OpState {
    /// For one of several texts that have one budget.
    pub(crate) fn sharing(shared: &Arc<SharedBudget>) -> Self {
        let guard = GuardState::sharing(Arc::clone(shared));
        Self { finder: FinderScratch::sharing(Some(Arc::clone(shared))), guard, ..Self::default() }
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
pub(crate) struct Surroundings {
    /// No more text follows the block.
    pub(crate) last: bool,
    /// The first line end of the text as it came in: what a break looks like on a line that has no line end itself.
    pub(crate) first_line_end: Option<LineEnd>,
    /// How long the text may be that any rule makes, in bytes.
    pub(crate) most: u64,
}

impl Op {
    pub(crate) fn new(verb: &Verb, guard: Guard) -> Self {
        let (kind, search) = Kind::of(verb);
        let reach = match verb {
            // A run of line ends may be as long as the text.
            Verb::Collapse(collapse) if collapse.search.takes_line_ends() => Reach::Text,
            _ => search.map_or(Reach::Lines, Reach::of),
        };
        let reach = match (&kind, &guard) {
            (_, guard) if guard.needs_text() => Reach::Text,
            // Joints and line ends are judged in parts of lines, which protected stretches over lines do not allow.
            (Kind::Join(_) | Kind::LineEnds(_), guard) if guard.reaching().next().is_some() => Reach::Text,
            (_, guard) => reach.or_ahead(guard.lines_ahead()),
        };
        let may_fail = guard.may_fail() || search.is_some_and(Search::may_fail);
        let follows = match search.map(|search| &search.target) {
            Some(Target::Stock(StockTarget { rising: true, .. })) => Follows::Numbers,
            Some(Target::Stock(StockTarget { number: true, .. })) => Follows::EmptyLines,
            _ => Follows::Nothing,
        };
        let reach = if follows == Follows::Numbers { reach.or_ahead(RISING_LINES_AHEAD) } else { reach };
        let by_line = !kind.remembers_lines()
            && reach == Reach::Lines
            && follows == Follows::Nothing
            && guard.is_by_line()
            && !search.is_some_and(Search::takes_line_ends);
        let probes = if by_line { probes_of(verb) } else { None };
        let in_parts = match &kind {
            Kind::Substitute(substitution) if by_line && guard.is_open() => substitution.finder().longest_match(),
            _ => None,
        };
        let keeps_lines = keeps_lines(verb);
        Self { kind, reach, guard, may_fail, follows, by_line, keeps_lines, probes, in_parts }
    }

    /// From now on these count as blanks. Its probes know nothing of them, so it is shown every line.
    pub(super) fn count_as_blanks(&mut self, blanks: StandIns) {
        self.probes = None;
        self.in_parts = None;
        self.guard.count_as_blanks(blanks);
        self.kind.count_as_blanks(blanks);
    }

    /// The same for a cell of several lines, of which nothing is said: `keep` keeps what matches in the cell.
    pub(super) fn for_whole_cells(mut self) -> Self {
        if let Kind::Keep(keeper) = &mut self.kind {
            keeper.take_text_as_line();
            (self.reach, self.by_line, self.probes, self.in_parts) = (Reach::Text, false, None, None);
        }
        self
    }

    /// The same for cells set one below the other: every line is a text of its own, and its line end none of it. `None`:
    /// lines would not keep their number.
    pub(super) fn for_stacked_cells(&self) -> Option<Self> {
        let mut op = self.clone();
        if let Kind::Substitute(substitution) = &mut op.kind {
            substitution.spare_line_ends();
        }
        self.keeps_number_of_lines().then_some(op)
    }

    /// Whether each line becomes a line, by itself.
    pub(super) fn keeps_number_of_lines(&self) -> bool {
        self.by_line && self.keeps_lines
    }

    /// Whether what it does to a line hangs on that line alone, and leaves its line end.
    pub(crate) fn is_by_line(&self) -> bool {
        self.by_line
    }

    /// Whether it numbers what it sees.
    pub(crate) fn counts(&self) -> bool {
        matches!(self.kind, Kind::Number(_))
    }

    /// What a line must hold for it to act there, if that is known.
    pub(crate) fn probes(&self) -> Option<&[Probe]> {
        self.probes.as_deref()
    }

    /// What it has to see to do its work, in words.
    pub(crate) fn needs(&self) -> String {
        let lines = match self.reach {
            Reach::Text => return "the whole text at once".to_owned(),
            _ if self.guard.waits_for_section_ends() => "each section to its end".to_owned(),
            Reach::LinesAhead(1) => "each line with the one after it".to_owned(),
            Reach::LinesAhead(lines) => format!("each line with the {lines} after it"),
            Reach::Lines => "line by line".to_owned(),
        };
        match &self.kind {
            Kind::Join(_) => "neighbouring lines".to_owned(),
            Kind::DropExtraEmpty(_) => format!("{lines}, and whether the one before is empty"),
            Kind::DropRepeats(repeats) => match repeats.0.scope {
                RepeatScope::Neighbours => format!("{lines}, and the one before"),
                RepeatScope::File => format!("{lines}, and 20 to 40 bytes of memory for each different line"),
            },
            Kind::LineEnds(ender) if ender.0.at_end.is_some() => format!("{lines}, and the end of the text"),
            _ => lines,
        }
    }

    /// Why it holds text, or remembers it.
    pub(crate) fn holds(&self) -> &'static str {
        match (&self.kind, self.reach) {
            _ if self.guard.waits_for_section_ends() => "it has to see a section to its end",
            (_, Reach::Text) => "it has to see the whole text at once",
            (Kind::DropRepeats(_), _) => "it remembers every line of the text",
            (_, Reach::LinesAhead(_)) => "it has to see lines together with those behind them",
            (_, Reach::Lines) => "it has to see a line whole",
        }
    }

    /// Whether it can judge nothing before another line has ended, given so much text.
    pub(crate) fn waits_for_line_ends(&self, len: usize, state: &OpState) -> bool {
        let goes_on = matches!(self.kind, Kind::Join(_) | Kind::LineEnds(_));
        !goes_on && (self.in_parts.is_none() || len < state.retry_at)
    }

    /// Whether a search can take more work than it may.
    pub(crate) fn may_fail(&self) -> bool {
        self.may_fail
    }

    /// Where a search took more work than it may, in bytes of the text that was judged last. Nothing of what was found
    /// since then means anything.
    pub(crate) fn failed_at(state: &OpState) -> Option<usize> {
        state.finder.failed_at.or_else(|| state.guard.failed_at())
    }

    /// Works out the changes to `text` from `from` on, and leaves them in `state.edits`. `text` starts where the last
    /// call said to keep it from, and has been judged up to `from`.
    pub(crate) fn run(&self, text: &[u8], from: usize, around: Surroundings, state: &mut OpState) -> Judged {
        state.edits.clear();
        if self.guard.is_open()
            && let Kind::Join(joints) = &self.kind
        {
            let to = joints.run(text, from, around.last, state);
            return Judged { to, keep_from: to };
        }
        let limit = match (around.last, self.reach) {
            (true, _) => text.len(),
            (false, Reach::Text) => 0,
            (false, Reach::Lines) => last_whole_line(text),
            (false, Reach::LinesAhead(line_ends)) => self.lines_without_reach(text, line_ends, state),
        };
        if limit <= from
            && !around.last
            && let Some(longest) = self.in_parts.filter(|_| text.len() >= state.retry_at)
        {
            return self.run_on_part(text, from, longest, around, state);
        }
        let waits_for_sections = !around.last && self.guard.waits_for_section_ends();
        if (limit <= from && !around.last) || (waits_for_sections && text.len() < state.retry_at) {
            return Judged { to: from, keep_from: 0 };
        }
        let window = if around.last { text.len() } else { last_whole_line(text) };
        self.guard.look(&text[..window], around.last, &mut state.guard);
        let limit = match state.guard.open_from() {
            Some(open) if open < limit && open <= from => {
                // Looking again at each block at a section that goes on and on would take quadratic time.
                state.retry_at = text.len() * 2;
                return Judged { to: from, keep_from: 0 };
            }
            Some(open) => limit.min(open),
            None => limit,
        };
        if waits_for_sections {
            state.retry_at = 0;
        }
        if self.follows == Follows::Numbers {
            state.finder.rising.look(&text[..window]);
        }
        let to = match &self.kind {
            Kind::Join(joints) => joints.run(&text[..limit], from, around.last, state),
            Kind::LineEnds(ender) => ender.run(text, from, limit, around, state),
            _ => {
                if limit > 0 {
                    self.run_on_lines(&text[..limit], around, state);
                    state.edits.retain_within(from..limit);
                }
                state.retry_at = 0;
                limit
            }
        };
        let in_line = !around.last && !self.guard.is_open() && !is_line_start(text, to);
        let keep_from = if in_line { line_start(text, to) } else { to };
        state.guard.advance(keep_from);
        match self.follows {
            Follows::Nothing => {}
            Follows::Numbers => state.finder.rising.advance(keep_from),
            Follows::EmptyLines => state.finder.follows_text = to > 0 && !is_empty_line(text, line_before(text, to)),
        }
        Judged { to, keep_from }
    }

    /// The same for text within a line that goes on.
    fn run_on_part(
        &self,
        text: &[u8],
        from: usize,
        longest: usize,
        around: Surroundings,
        state: &mut OpState,
    ) -> Judged {
        self.run_on_lines(text, around, state);
        let changed = state.edits.iter().map(|edit| edit.place.start..edit.place.end);
        let Some(cut) = cut(text, from, state.finder.matches.spans(), changed, longest) else {
            // Where there is no place to part it, looking again at each block would take quadratic time.
            state.edits.clear();
            state.retry_at = text.len() * 2;
            return Judged { to: from, keep_from: 0 };
        };
        state.edits.retain_within(from..cut.to);
        Judged { to: cut.to, keep_from: cut.keep_from }
    }

    /// What it does, if that is to put something in place of single characters, wherever they stand.
    pub(crate) fn char_rule(&self) -> Option<CharRule<'_>> {
        match &self.kind {
            Kind::Substitute(substitution) if self.guard.is_open() => substitution.char_rule(),
            _ => None,
        }
    }

    /// Whether it looks only where there may be anything to do, given that: see [`run_near`](Self::run_near).
    pub(crate) fn looks_near(&self) -> bool {
        self.guard.is_open() && self.kind.looks_near()
    }

    /// As [`run_on_whole_lines`](Self::run_on_whole_lines), but only on lines that hold one of these places, which are in
    /// order: others have nothing its [`probes`](Self::probes) ask for. It must be one that looks near.
    pub(crate) fn run_near(&self, lines: &[u8], places: &[usize], around: Surroundings, state: &mut OpState) {
        debug_assert!(self.looks_near(), "a rule that looks everywhere");
        state.edits.clear();
        let are_starts = self.probes().is_some_and(|probes| probes.iter().all(Probe::knows_starts));
        self.run_in(Haystack { text: lines, places: Some(places), are_starts }, around, state);
    }

    /// The same for an operation that acts line by line, and whole lines with nothing before them.
    pub(crate) fn run_on_whole_lines(&self, lines: &[u8], around: Surroundings, state: &mut OpState) {
        state.edits.clear();
        if self.guard.is_open() {
            return self.run_on_lines(lines, around, state);
        }
        self.guard.look(lines, false, &mut state.guard);
        self.run_on_lines(lines, around, state);
        state.guard.advance(lines.len());
    }

    /// The length of the longest row of whole lines that no match reaches out of, as far as that is certain: what
    /// starts in the last few lines may go on in lines that have not come in.
    fn lines_without_reach(&self, text: &[u8], line_ends: usize, state: &mut OpState) -> usize {
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
            for finder in self.kind.finder().into_iter().chain(self.guard.reaching()) {
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

    fn run_on_lines(&self, text: &[u8], around: Surroundings, state: &mut OpState) {
        self.run_in(text.into(), around, state);
    }

    fn run_in(&self, haystack: Haystack<'_>, around: Surroundings, state: &mut OpState) {
        self.kind.run(haystack, around.first_line_end, state);
    }
}
