//! Which lines a rule may act on.

use std::sync::Arc;

use super::SpanSet;
use crate::matching::{Finder, FinderScratch, SharedBudget, Span, holds_line};
use crate::model::{LineRange, Scope, Search, Which};
use crate::text::lines::Lines;

/// The lines one scope picks out.
#[derive(Clone, Debug)]
pub(super) struct LineScope {
    only: Option<Finder>,
    skip: Option<Finder>,
    from: Option<Finder>,
    to: Option<Finder>,
    lines: Option<LineRange>,
}

/// Whether a line stands in a section.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
enum Section {
    /// None has opened yet; without a line that opens one, the text opens one itself.
    #[default]
    Before,
    Inside,
    /// The last one has closed.
    After,
}

#[derive(Debug, Default)]
pub(super) struct LineScopeState {
    /// Lines before the window.
    lines_before: u64,
    section: Section,
    /// Where each line of the window starts, and the section as it is there.
    starts: Vec<(usize, Section)>,
    scratch: [FinderScratch; 4],
}

impl LineScope {
    pub(super) fn new(scope: &Scope) -> Self {
        let finder = |search: &Option<Search>| search.as_ref().map(|search| Finder::new(search, Which::All, false));
        Self {
            only: finder(&scope.only_lines),
            skip: finder(&scope.skip_lines),
            from: finder(&scope.from_line),
            to: finder(&scope.to_line),
            lines: scope.lines,
        }
    }

    pub(super) fn finders(&mut self) -> impl Iterator<Item = &mut Finder> {
        [&mut self.only, &mut self.skip, &mut self.from, &mut self.to].into_iter().flatten()
    }

    /// Whether it asks neither for the number of a line nor for what stands before it.
    pub(super) fn is_by_line(&self) -> bool {
        self.lines.is_none() && self.from.is_none() && self.to.is_none()
    }

    pub(super) fn lines_ahead(&self) -> usize {
        self.lines.map_or(0, |lines| usize::try_from(lines.looks_back()).unwrap_or(usize::MAX))
    }

    /// The lines of the window that are in scope.
    pub(super) fn look(&self, text: &[u8], last: bool, state: &mut LineScopeState) -> SpanSet {
        state.starts.clear();
        let mut section = state.section;
        let mut regions = SpanSet::default();
        let total = if self.lines_ahead() > 0 { Lines::of(text).count() as u64 } else { 0 };
        let [only, skip, from, to] = &mut state.scratch;
        let matches = |finder: &Option<Finder>, scratch| {
            let spans = finder.as_ref().map(|finder| finder.find_all(text, scratch).spans().to_vec());
            spans.map(|spans| spans.into_iter().peekable())
        };
        let (mut only, mut skip) = (matches(&self.only, only), matches(&self.skip, skip));
        let (mut from, mut to) = (matches(&self.from, from), matches(&self.to, to));
        for (index, line) in (0..).zip(Lines::of(text)) {
            state.starts.push((line.start, section));
            // Each is asked about every line, since it goes through its matches line by line.
            let holds = |spans: &mut Option<_>| spans.as_mut().map(|spans| holds_line(line, spans));
            let (only, skip, from, to) = (holds(&mut only), holds(&mut skip), holds(&mut from), holds(&mut to));
            let in_section = step(&mut section, from, to);
            // Until the text has ended, what the window holds is far enough from its end.
            let from_end = if last { total.saturating_sub(index) } else { u64::MAX };
            let numbered =
                self.lines.is_none_or(|lines| lines.contains(state.lines_before + index + 1, from_end.max(1)));
            if in_section && numbered && only.unwrap_or(true) && !skip.unwrap_or(false) {
                regions.extend(Span::new(line.start, line.end));
            }
        }
        state.starts.push((text.len(), section));
        regions
    }
}

/// Whether the line is in a section, given what it holds; `section` becomes that of the next line.
fn step(section: &mut Section, opens: Option<bool>, closes: Option<bool>) -> bool {
    if opens.is_none() && closes.is_none() {
        return true;
    }
    let inside = *section == Section::Inside || (*section == Section::Before && opens.is_none());
    if inside {
        // A section that opens by itself may close on its very first line; one that a line opens closes later.
        *section = if closes == Some(true) { Section::After } else { Section::Inside };
        return true;
    }
    let opens = opens == Some(true);
    if opens {
        *section = Section::Inside;
    }
    opens
}

impl LineScopeState {
    pub(super) fn sharing(shared: Option<&Arc<SharedBudget>>) -> Self {
        Self { scratch: std::array::from_fn(|_| FinderScratch::sharing(shared.cloned())), ..Self::default() }
    }

    pub(super) fn failed_at(&self) -> Option<usize> {
        self.scratch.iter().find_map(|scratch| scratch.failed_at)
    }

    /// The next window starts here, at the start of a line.
    pub(super) fn advance(&mut self, to: usize) {
        if let Ok(index) = self.starts.binary_search_by_key(&to, |(start, _)| *start) {
            self.lines_before += index as u64;
            self.section = self.starts[index].1;
        }
    }
}
