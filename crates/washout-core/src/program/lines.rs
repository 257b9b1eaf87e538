//! Operations on whole lines and their edges: `trim`, `drop_lines`, `keep_lines`.

use super::op::OpState;
use crate::class::{CharTable, NamedClass};
use crate::guard::GuardState;
use crate::matching::Finder;
use crate::model::{Search, Trim, TrimAt, Which};
use crate::text::chars::char_before;
use crate::text::edit::Edits;
use crate::text::haystack::Haystack;
use crate::text::lines::{Line, Lines, content_end, skip_blanks};
use crate::text::matches::holds_line;
use crate::text::stand_ins::StandIns;

/// `trim`.
#[derive(Clone, Debug)]
pub(super) struct EdgeTrim {
    at: TrimAt,
    set: CharTable,
    /// Characters that go as blanks do.
    blanks: StandIns,
}

impl EdgeTrim {
    pub(super) fn new(trim: Trim) -> Self {
        let class = NamedClass::find(trim.class.name()).expect("OK because both classes of `trim` are named ones");
        Self { at: trim.at, set: CharTable::new(class.set()), blanks: StandIns::default() }
    }

    /// From now on these count as blanks.
    pub(super) fn count_as_blanks(&mut self, blanks: StandIns) {
        self.blanks = blanks;
    }

    pub(super) fn run(&self, haystack: Haystack<'_>, state: &mut OpState) {
        let text: &[u8] = &self.blanks.as_blanks(haystack.text);
        if self.at == TrimAt::End
            && let Some(places) = haystack.places
        {
            // Each of them is the last blank before a line end.
            let mut from = 0;
            for place in places {
                let is_last = matches!(text.get(place + 1), Some(b'\n' | b'\r'));
                let end = if is_last { place + 1 } else { content_end(text, *place) };
                edit(text, self.skip_back(text, from, end), end, state);
                from = end;
            }
            return;
        }
        for line in (Haystack { text, ..haystack }).lines() {
            let start = if self.at == TrimAt::End { line.start } else { self.skip(text, line) };
            edit(text, line.start, start, state);
            if self.at != TrimAt::Start {
                edit(text, self.skip_back(text, start, line.content_end), line.content_end, state);
            }
        }
    }

    fn skip(&self, text: &[u8], line: Line) -> usize {
        let mut at = line.start;
        while at < line.content_end {
            match self.set.match_len(text, at) {
                0 => break,
                len => at += len,
            }
        }
        at
    }

    fn skip_back(&self, text: &[u8], from: usize, end: usize) -> usize {
        let mut at = end;
        while let Some(character) =
            char_before(&text[from..], at - from).filter(|character| self.set.contains(*character))
        {
            at -= character.len_utf8();
        }
        at
    }
}

fn edit(text: &[u8], start: usize, end: usize, state: &mut OpState) {
    if start < end {
        state.push(text, start..end, b"", 1);
    }
}

/// `drop_lines` and `keep_lines`.
#[derive(Clone, Debug)]
pub(super) struct LineFilter {
    judge: Judge,
    /// Whether the lines that are picked out are the ones that stay.
    keeps: bool,
}

#[derive(Clone, Debug)]
enum Judge {
    Holding(Box<Finder>),
    Empty,
    /// All lines in scope.
    Scope,
}

impl LineFilter {
    pub(super) fn finder(&self) -> Option<&Finder> {
        match &self.judge {
            Judge::Holding(finder) => Some(finder),
            Judge::Empty | Judge::Scope => None,
        }
    }

    pub(super) fn finder_mut(&mut self) -> Option<&mut Finder> {
        match &mut self.judge {
            Judge::Holding(finder) => Some(finder),
            Judge::Empty | Judge::Scope => None,
        }
    }

    pub(super) fn dropping(search: &Search) -> Self {
        Self { judge: Judge::holding(search), keeps: false }
    }

    pub(super) fn keeping(search: &Search) -> Self {
        Self { judge: Judge::holding(search), keeps: true }
    }

    pub(super) fn dropping_empty() -> Self {
        Self { judge: Judge::Empty, keeps: false }
    }

    /// Every line in scope goes, or every line out of it.
    pub(super) fn of_scope(keeps: bool) -> Self {
        Self { judge: Judge::Scope, keeps }
    }

    /// Whether it looks only where there may be anything to do, given that.
    pub(super) fn looks_near(&self) -> bool {
        !self.keeps
            && match &self.judge {
                Judge::Holding(finder) => finder.looks_near(),
                Judge::Empty => true,
                Judge::Scope => false,
            }
    }

    pub(super) fn run(&self, haystack: Haystack<'_>, state: &mut OpState) {
        let OpState { finder, edits, guard, .. } = state;
        let text = haystack.text;
        match &self.judge {
            Judge::Empty => drop_lines(haystack, guard, edits, |line| is_empty(text, line) != self.keeps),
            Judge::Holding(search) => {
                let mut spans = search.find(haystack, guard, finder).spans().iter().copied().peekable();
                if spans.peek().is_none() && !self.keeps {
                    return;
                }
                drop_lines(haystack, guard, edits, |line| holds_line(line, &mut spans) != self.keeps);
            }
            Judge::Scope if self.keeps => {
                for line in Lines::of(text) {
                    if !guard.in_scope(line.start, line.end) && !guard.has_core(line.start, line.end) {
                        edits.push(text, line.start..line.end, b"", 1);
                    }
                }
            }
            Judge::Scope => drop_lines(haystack, guard, edits, |_| true),
        }
    }
}

impl Judge {
    fn holding(search: &Search) -> Self {
        Self::Holding(Box::new(Finder::new(search, Which::All, false)))
    }
}

fn drop_lines(haystack: Haystack<'_>, guard: &GuardState, edits: &mut Edits, mut drops: impl FnMut(Line) -> bool) {
    for line in haystack.lines() {
        if drops(line) && guard.allows_line(line) {
            edits.push(haystack.text, line.start..line.end, b"", 1);
        }
    }
}

/// Whether a line holds nothing but blanks.
fn is_empty(text: &[u8], line: Line) -> bool {
    skip_blanks(text, line.start) == line.content_end
}

/// `drop_lines = { empty = "extra" }`.
#[derive(Clone, Copy, Debug)]
pub(super) struct DropExtraEmpty;

impl DropExtraEmpty {
    #[expect(clippy::unused_self, reason = "an operation like the others")]
    pub(super) fn run(self, text: &[u8], state: &mut OpState) {
        let after_empty = &mut state.after_empty_line;
        drop_lines(text.into(), &state.guard, &mut state.edits, |line| {
            let empty = is_empty(text, line);
            std::mem::replace(after_empty, empty) && empty
        });
    }
}
