//! `drop_lines` and `keep_lines`.

use super::compiled_rule::{BlockContext, RuleState};
use super::operation::{LineUse, Operation};
use crate::guard::GuardState;
use crate::matching::Finder;
use crate::rules::{Search, Which};
use crate::text::edit::Edits;
use crate::text::haystack::Haystack;
use crate::text::lines::{Line, Lines, skip_blanks};
use crate::text::matches::holds_line;

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
}

impl Operation for LineFilter {
    fn line_use(&self) -> LineUse {
        LineUse::CHANGES_NUMBER
    }

    fn run(&self, block: Haystack<'_>, _: BlockContext, state: &mut RuleState) {
        let RuleState { finder, edits, guard, .. } = state;
        let text = block.text;
        match &self.judge {
            Judge::Empty => drop_lines(block, guard, edits, |line| is_empty(text, line) != self.keeps),
            Judge::Holding(search) => {
                let mut spans = search.find(block, guard, finder).spans().iter().copied().peekable();
                if spans.peek().is_none() && !self.keeps {
                    return;
                }
                drop_lines(block, guard, edits, |line| holds_line(line, &mut spans) != self.keeps);
            }
            Judge::Scope if self.keeps => {
                for line in Lines::of(text) {
                    if !guard.in_scope(line.start, line.end) && !guard.has_core(line.start, line.end) {
                        edits.push(text, line.start..line.end, b"", 1);
                    }
                }
            }
            Judge::Scope => drop_lines(block, guard, edits, |_| true),
        }
    }

    fn finder(&self) -> Option<&Finder> {
        match &self.judge {
            Judge::Holding(finder) => Some(finder),
            Judge::Empty | Judge::Scope => None,
        }
    }

    fn finder_mut(&mut self) -> Option<&mut Finder> {
        match &mut self.judge {
            Judge::Holding(finder) => Some(finder),
            Judge::Empty | Judge::Scope => None,
        }
    }

    fn looks_near(&self) -> bool {
        !self.keeps
            && match &self.judge {
                Judge::Holding(finder) => finder.looks_near(),
                Judge::Empty => true,
                Judge::Scope => false,
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

impl Operation for DropExtraEmpty {
    fn line_use(&self) -> LineUse {
        LineUse::WithOthers
    }

    fn run(&self, block: Haystack<'_>, _: BlockContext, state: &mut RuleState) {
        let after_empty = &mut state.after_empty_line;
        drop_lines(block, &state.guard, &mut state.edits, |line| {
            let empty = is_empty(block.text, line);
            std::mem::replace(after_empty, empty) && empty
        });
    }

    fn needs(&self, lines: String) -> String {
        format!("{lines}, and whether the one before is empty")
    }
}
