//! What a rule may not touch: lines outside its scope, and protected stretches.
//!
//! A guard looks at a window of whole lines and works out two things: the regions in which the rule may act, and the
//! stretches it must leave alone. What it has to remember from window to window are line numbers and open sections.

mod lines;
mod spans;

use crate::text::matches::Permission;
use std::sync::Arc;

use lines::{LineScope, LineScopeState};
pub(crate) use spans::SpanSet;

use crate::matching::{Finder, FinderScratch};
use crate::pattern::SharedBudget;
use crate::rules::{Scope, Search, Which};
use crate::text::At;
use crate::text::lines::{Line, line_before, line_start};
use crate::text::matches::Span;
use crate::text::stand_ins::StandIns;

/// The guard of one rule: its own scope and those of the rules that include it, its own spared stretches and those
/// its sets protect.
#[derive(Clone, Debug, Default)]
pub(crate) struct Guard {
    scopes: Vec<LineScope>,
    protects: Vec<Protect>,
    may_fail: bool,
}

#[derive(Clone, Debug)]
struct Protect {
    finder: Finder,
    /// Protected with their line ends, and the line end before.
    whole_lines: bool,
    line_ends: Option<usize>,
    /// It takes line ends, or looks at whole lines and so at the line end before.
    touches_line_ends: bool,
}

/// What a guard remembers from window to window, and what it has found in this one.
#[derive(Debug, Default)]
pub(crate) struct GuardState {
    /// The budget of its searches, if the text is one of several that have one.
    shared: Option<Arc<SharedBudget>>,
    scopes: Vec<LineScopeState>,
    finder: Vec<FinderScratch>,
    /// Where the rule may act; `None`: everywhere.
    regions: Option<SpanSet>,
    /// What no match may share a byte with.
    barred: SpanSet,
    /// The same without the line ends before whole lines: a line that is dropped takes its own, not its neighbour's.
    cores: SpanSet,
    /// The last byte before the window was barred: nothing may come between it and what is barred at the start.
    barred_before: bool,
    text_len: usize,
}

impl Guard {
    /// `protects`: the targets that all rules of the rule's sets spare.
    pub(crate) fn new(scopes: &[&Scope], protects: &[&Search]) -> Self {
        let searches = scopes.iter().flat_map(|scope| scope.searches_for_lines().chain(&scope.spare));
        let may_fail = searches.chain(protects.iter().copied()).any(Search::may_fail);
        let spared = scopes.iter().flat_map(|scope| &scope.spare);
        let protects = protects.iter().copied().chain(spared).map(Protect::new).collect();
        let scopes = scopes.iter().filter(|scope| scope.picks_lines()).map(|scope| LineScope::new(scope)).collect();
        Self { scopes, protects, may_fail }
    }

    /// From now on these count as blanks.
    pub(crate) fn count_as_blanks(&mut self, blanks: StandIns) {
        self.scopes.iter_mut().flat_map(LineScope::finders).for_each(|finder| finder.count_as_blanks(blanks));
        self.protects.iter_mut().for_each(|protect| protect.finder.count_as_blanks(blanks));
    }

    /// Whether a search of it can take more work than it may.
    pub(crate) fn may_fail(&self) -> bool {
        self.may_fail
    }

    /// Whether it lets everything pass.
    pub(crate) fn is_open(&self) -> bool {
        self.scopes.is_empty() && self.protects.is_empty()
    }

    /// Whether what it says of a line depends on that line alone.
    pub(crate) fn is_by_line(&self) -> bool {
        let scopes = self.scopes.iter().all(LineScope::is_by_line);
        scopes && self.protects.iter().all(|protect| !protect.touches_line_ends)
    }

    /// How many lines after a line have to be seen to judge it.
    pub(crate) fn lines_ahead(&self) -> usize {
        let scopes = self.scopes.iter().map(LineScope::lines_ahead);
        // Whether a line end may go is known once the line after it is.
        let protects = self.protects.iter().map(|protect| usize::from(protect.whole_lines).max(protect.line_ends()));
        scopes.chain(protects).max().unwrap_or(0)
    }

    /// Whether a protected stretch may reach over any number of lines.
    pub(crate) fn needs_text(&self) -> bool {
        self.protects.iter().any(|protect| protect.line_ends.is_none())
    }

    /// The finders of protected stretches that may reach over line ends.
    pub(crate) fn reaching(&self) -> impl Iterator<Item = &Finder> {
        self.protects.iter().filter(|protect| protect.line_ends() > 0).map(|protect| &protect.finder)
    }

    /// Whether it has to see a section to its end before anything is done to it.
    pub(crate) fn waits_for_section_ends(&self) -> bool {
        self.scopes.iter().any(LineScope::waits_for_ends)
    }

    /// Looks at `text`, whole lines from the start of one. `last`: no more follows.
    pub(crate) fn look(&self, text: &[u8], last: bool, state: &mut GuardState) {
        if self.is_open() {
            return;
        }
        state.text_len = text.len();
        let shared = state.shared.as_ref();
        state.scopes.resize_with(self.scopes.len(), || LineScopeState::sharing(shared));
        state.finder.resize_with(self.protects.len(), || FinderScratch::sharing(shared.cloned()));
        let mut regions: Option<SpanSet> = None;
        for (scope, state) in self.scopes.iter().zip(&mut state.scopes) {
            let found = scope.look(text, last, state);
            regions = Some(match regions {
                Some(before) => before.both(&found),
                None => found,
            });
        }
        state.regions = regions;
        let left: Vec<Span> = state.scopes.iter().flat_map(|scope| &scope.left).copied().collect();
        let (mut barred, mut cores) = (left.clone(), left);
        for (protect, scratch) in self.protects.iter().zip(&mut state.finder) {
            for span in protect.finder.find_all(text, scratch).spans().iter().filter(|span| span.start < span.end) {
                let (core, bar) = protect.stretch(text, *span);
                cores.push(core);
                barred.push(bar);
            }
        }
        state.barred = SpanSet::new(barred);
        state.cores = SpanSet::new(cores);
    }
}

impl Protect {
    fn new(search: &Search) -> Self {
        Self {
            finder: Finder::new(search, Which::All, false),
            whole_lines: search.at == At::WholeLine,
            line_ends: search.line_ends_reached_over(),
            touches_line_ends: search.at == At::WholeLine || search.reaches_over_lines(),
        }
    }

    fn line_ends(&self) -> usize {
        self.line_ends.unwrap_or(0)
    }

    /// A protected stretch, and the same with the line end before it.
    fn stretch(&self, text: &[u8], span: Span) -> (Span, Span) {
        if !self.whole_lines {
            return (span, span);
        }
        let first = line_start(text, span.start);
        let mut last = Line::at(text, first);
        while last.end < span.end {
            last = Line::at(text, last.end);
        }
        let core = Span::new(first, last.end);
        let before = line_before(text, first);
        let end_before = Line::at(text, before).content_end.min(first);
        (core, Span::new(end_before, core.end))
    }
}

impl Permission for GuardState {
    fn refuses_some(&self) -> bool {
        self.is_at_work()
    }

    fn permits(&self, start: usize, end: usize) -> bool {
        self.allows(start, end)
    }
}

impl GuardState {
    /// For one of several texts that have one budget.
    pub(crate) fn sharing(shared: Arc<SharedBudget>) -> Self {
        Self { shared: Some(shared), ..Self::default() }
    }

    /// Begins with another text. The budget of its searches stays if texts share one.
    pub(crate) fn start_again(&mut self) {
        self.scopes.clear();
        self.finder.clear();
        self.barred_before = false;
    }

    /// The next window starts at this line start of the one looked at.
    pub(crate) fn advance(&mut self, to: usize) {
        for scope in &mut self.scopes {
            scope.advance(to);
        }
        if to > 0 {
            self.barred_before = self.barred.touches(to - 1, to);
        }
    }

    /// Where in the window the first section starts of which it is not certain yet whether it closes.
    pub(crate) fn open_from(&self) -> Option<usize> {
        self.scopes.iter().filter_map(|scope| scope.open_from).min()
    }

    /// The line, from 1, with which a section opens that does not close, and has to.
    pub(crate) fn refused_section(&self) -> Option<u64> {
        self.scopes.iter().find_map(|scope| scope.refused)
    }

    /// On how many sections its own rule has acted.
    pub(crate) fn sections(&self) -> u64 {
        self.scopes.last().map_or(0, LineScopeState::sections)
    }

    /// Whether anything is out of scope or protected in this window.
    pub(crate) fn is_at_work(&self) -> bool {
        self.regions.is_some() || !self.barred.spans().is_empty()
    }

    /// Where a search took more work than it may.
    pub(crate) fn failed_at(&self) -> Option<usize> {
        let lines = self.scopes.iter().find_map(LineScopeState::failed_at);
        lines.or_else(|| self.finder.iter().find_map(|scratch| scratch.failed_at))
    }

    /// Whether a match may be acted on: every line it has bytes on is in scope, and nothing of it is protected.
    pub(crate) fn allows(&self, start: usize, end: usize) -> bool {
        self.in_scope(start, end) && self.is_free(start, end)
    }

    /// Whether the lines of this stretch are in scope.
    pub(crate) fn in_scope(&self, start: usize, end: usize) -> bool {
        let Some(regions) = &self.regions else { return true };
        // An empty stretch between two lines belongs to the second, at the end of the text to the last.
        let end = if start == end && start < self.text_len { end + 1 } else { end };
        regions.holds(start, end)
    }

    /// Whether nothing of this stretch is protected.
    pub(crate) fn is_free(&self, start: usize, end: usize) -> bool {
        let inside_from_before = end == 0 && self.barred_before && self.barred.touches(0, 1);
        !inside_from_before && !self.barred.touches(start, end)
    }

    /// Whether a whole line may go.
    pub(crate) fn allows_line(&self, line: Line) -> bool {
        self.in_scope(line.start, line.end) && !self.has_core(line.start, line.end)
    }

    /// Whether something of this stretch is protected for its own sake.
    pub(crate) fn has_core(&self, start: usize, end: usize) -> bool {
        self.cores.touches(start, end)
    }

    /// The protected stretches, in order.
    pub(crate) fn cores(&self) -> &[Span] {
        self.cores.spans()
    }

    /// `start..end` without what of `start..from` is protected: from the last protected byte before `from`.
    pub(crate) fn clip_start(&self, start: usize, from: usize) -> usize {
        self.barred.last_end_within(start, from).unwrap_or(start)
    }

    /// `to..end` cut at the first protected byte.
    pub(crate) fn clip_end(&self, to: usize, end: usize) -> usize {
        self.barred.first_start_within(to, end).unwrap_or(end)
    }
}
