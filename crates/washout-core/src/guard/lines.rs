//! Which lines a rule may act on.

use std::sync::Arc;

use super::SpanSet;
use crate::matching::{Finder, FinderScratch};
use crate::pattern::SharedBudget;
use crate::rules::{LineRange, Scope, Search, Unclosed, Which};
use crate::text::lines::Lines;
use crate::text::matches::{Span, holds_line};

/// The lines one scope picks out.
#[derive(Clone, Debug)]
pub(super) struct LineScope {
    only: Option<Finder>,
    skip: Option<Finder>,
    from: Option<Finder>,
    to: Option<Finder>,
    unclosed: Unclosed,
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

/// What is known at the start of a line.
#[derive(Clone, Copy, Debug, Default)]
struct Known {
    section: Section,
    /// How many sections there were before.
    sections: u64,
    /// The line that opened the section it is in, from 1.
    opened: u64,
    /// That section does not close, and is left alone.
    is_left: bool,
}

#[derive(Debug, Default)]
pub(super) struct LineScopeState {
    /// Lines before the window.
    lines_before: u64,
    known: Known,
    /// Where each line of the window starts, and what is known there.
    starts: Vec<(usize, Known)>,
    /// Sections of the window that do not close, and are left alone.
    pub(super) left: Vec<Span>,
    /// Where in the window a section starts of which it is not certain yet whether it closes.
    pub(super) open_from: Option<usize>,
    /// The line with which a section opens that does not close, and has to.
    pub(super) refused: Option<u64>,
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
            unclosed: scope.unclosed,
            lines: scope.lines,
        }
    }

    /// Whether a section has to be seen to its end before anything is done to it.
    pub(super) fn waits_for_ends(&self) -> bool {
        self.to.is_some() && self.unclosed == Unclosed::Leave
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
        state.left.clear();
        let mut known = state.known;
        // Of a section that was open before the window, it is known whether it closes.
        let mut open_from = known.is_left.then_some(0);
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
            state.starts.push((line.start, known));
            // Each is asked about every line, since it goes through its matches line by line.
            let holds = |spans: &mut Option<_>| spans.as_mut().map(|spans| holds_line(line, spans));
            let (only, skip, from, to) = (holds(&mut only), holds(&mut skip), holds(&mut from), holds(&mut to));
            let number = state.lines_before + index + 1;
            let before = known.section;
            let opens_anew = before == Section::Inside && from == Some(true) && to == Some(false);
            if opens_anew && self.unclosed == Unclosed::Leave {
                // What was open until here does not close.
                if let Some(start) = open_from {
                    state.left.push(Span::new(start, line.start));
                    let within = state.starts.iter_mut().rev().take_while(|(line, _)| *line > start);
                    within.for_each(|(_, known)| known.is_left = true);
                }
                known.is_left = false;
                open_from = Some(line.start);
            }
            if opens_anew && self.unclosed == Unclosed::Refuse {
                state.refused.get_or_insert(known.opened);
            }
            let in_section = step(&mut known.section, from, to);
            if in_section && before != Section::Inside {
                known.opened = number;
                open_from = Some(line.start);
            }
            let is_open = known.section == Section::Inside;
            // One that may be left alone counts once it has closed.
            let counts = if self.unclosed == Unclosed::Leave { !is_open } else { before != Section::Inside };
            if in_section && counts {
                known.sections += 1;
            }
            if !is_open {
                open_from = None;
                known.is_left = false;
            }
            // Until the text has ended, what the window holds is far enough from its end.
            let from_end = if last { total.saturating_sub(index) } else { u64::MAX };
            let numbered = self.lines.is_none_or(|lines| lines.contains(number, from_end.max(1)));
            if in_section && numbered && only.unwrap_or(true) && !skip.unwrap_or(false) {
                regions.extend(Span::new(line.start, line.end));
            }
        }
        state.starts.push((text.len(), known));
        state.open_from = None;
        if known.section == Section::Inside && self.to.is_some() {
            match self.unclosed {
                Unclosed::Leave if last => state.left.extend(open_from.map(|start| Span::new(start, text.len()))),
                Unclosed::Leave => state.open_from = open_from,
                Unclosed::Refuse if last => {
                    state.refused.get_or_insert(known.opened);
                }
                Unclosed::Take | Unclosed::Refuse => {}
            }
        }
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

    /// How many sections there were before the window.
    pub(super) fn sections(&self) -> u64 {
        self.known.sections
    }

    /// The next window starts here, at the start of a line.
    pub(super) fn advance(&mut self, to: usize) {
        if let Ok(index) = self.starts.binary_search_by_key(&to, |(start, _)| *start) {
            self.lines_before += index as u64;
            self.known = self.starts[index].1;
        }
    }
}
