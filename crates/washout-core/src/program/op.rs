//! One operation for each rule.

use super::collapse::Collapser;
use super::joints::Joints;
use super::keep::Keeper;
use super::line_ends::Ender;
use super::lines::{DropExtraEmpty, EdgeTrim, LineFilter};
use super::normalize::Normalizer;
use super::plain_letters;
use super::recase::Recaser;
use super::repeats::{Repeats, Seen};
use super::substitute::{Breaker, Substitution};
use super::tabs::Untabber;
use crate::edit::Edits;
use crate::matching::{Finder, FinderScratch};
use crate::model::{DropLines, EmptyLines, Search, Target, Verb};
use crate::text::LineEnd;
use crate::text::lines::{last_whole_line, line_start};

/// A compiled rule.
#[derive(Clone, Debug)]
pub(crate) struct Op {
    kind: Kind,
    reach: Reach,
}

#[derive(Clone, Debug)]
enum Kind {
    Substitute(Substitution),
    Break(Breaker),
    Filter(LineFilter),
    Trim(EdgeTrim),
    DropExtraEmpty(DropExtraEmpty),
    Join(Joints),
    Keep(Keeper),
    Collapse(Collapser),
    Recase(Recaser),
    DropRepeats(Repeats),
    LineEnds(Ender),
    Tabs(Untabber),
    Normalize(Normalizer),
    PlainLetters,
}

/// How much of the text an operation must see at once.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Reach {
    /// Whole lines, in blocks of any number.
    Lines,
    /// Whole lines that no match reaches out of; a match reaches over so many line ends at most.
    LinesAhead(usize),
    /// The whole text, since a match may reach over any number of line ends.
    Text,
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
    pub(crate) edits: Edits,
}

/// What an operation may know about its text beyond the block.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Surroundings {
    /// No more text follows the block.
    pub(crate) last: bool,
    /// The first line end of the text as it came in: what a break looks like on a line that has no line end itself.
    pub(crate) first_line_end: Option<LineEnd>,
}

impl Op {
    pub(crate) fn new(verb: &Verb) -> Self {
        let (kind, search) = match verb {
            Verb::Remove(remove) => (Kind::Substitute(Substitution::removal(remove)), Some(&remove.search)),
            Verb::Replace(replace) => (Kind::Substitute(Substitution::replacement(replace)), Some(&replace.search)),
            Verb::Keep(keep) => (Kind::Keep(Keeper::new(keep)), Some(&keep.search)),
            Verb::Collapse(collapse) => (Kind::Collapse(Collapser::new(collapse)), Some(&collapse.search)),
            Verb::Recase(recase) => {
                (Kind::Recase(Recaser::new(recase)), recase.within.as_ref().map(|(search, _)| search))
            }
            Verb::Trim(trim) => (Kind::Trim(EdgeTrim::new(*trim)), None),
            Verb::DropLines(DropLines::Holding(search)) => (Kind::Filter(LineFilter::dropping(search)), Some(search)),
            Verb::DropLines(DropLines::Empty(EmptyLines::All)) => (Kind::Filter(LineFilter::dropping_empty()), None),
            Verb::DropLines(DropLines::Empty(EmptyLines::Extra)) => (Kind::DropExtraEmpty(DropExtraEmpty), None),
            Verb::KeepLines(keep) => (Kind::Filter(LineFilter::keeping(&keep.search)), Some(&keep.search)),
            Verb::DropRepeats(repeats) => (Kind::DropRepeats(Repeats(*repeats)), None),
            Verb::LineEnds(ends) => (Kind::LineEnds(Ender(*ends)), None),
            Verb::Normalize(normalize) => (Kind::Normalize(Normalizer(*normalize)), None),
            Verb::PlainLetters => (Kind::PlainLetters, None),
            Verb::Tabs(tabs) => (Kind::Tabs(Untabber(*tabs)), None),
            Verb::JoinLines(join) => (Kind::Join(Joints::new(join)), None),
            Verb::BreakLines(breaks) => (Kind::Break(Breaker::new(breaks)), Some(&breaks.search)),
        };
        let reach = match verb {
            // A run of line ends may be as long as the text.
            Verb::Collapse(collapse) if collapse.search.takes_line_ends() => Reach::Text,
            _ => search.map_or(Reach::Lines, reach),
        };
        Self { kind, reach }
    }

    /// Works out the changes to `text`, which starts where the last call stopped, and leaves them in `state.edits`.
    /// Gives how many bytes it has judged; the others come again with the text that follows them.
    pub(crate) fn run(&self, text: &[u8], around: Surroundings, state: &mut OpState) -> usize {
        state.edits.clear();
        if let Kind::Join(joints) = &self.kind {
            return joints.run(text, around.last, state);
        }
        let judged = match (around.last, self.reach) {
            (true, _) => text.len(),
            (false, Reach::Text) => 0,
            (false, Reach::Lines) => last_whole_line(text),
            (false, Reach::LinesAhead(line_ends)) => self.lines_without_reach(text, line_ends, state),
        };
        if let Kind::LineEnds(ender) = &self.kind {
            return ender.run(text, judged, around, state);
        }
        if judged > 0 {
            self.run_on_lines(&text[..judged], around, state);
        }
        judged
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
        if let Some(finder) = self.finder() {
            let spans = finder.find_raw(&text[..last_whole_line(text)], &mut state.finder).spans();
            for span in spans.iter().rev() {
                if span.end <= cut {
                    break;
                }
                if span.start < cut {
                    cut = line_start(text, span.start);
                }
            }
        }
        // Where every line is reached into, looking again at each block would take quadratic time.
        state.retry_at = if cut == 0 { text.len() * 2 } else { 0 };
        cut
    }

    /// What finds the matches of a rule that acts on matches.
    fn finder(&self) -> Option<&Finder> {
        match &self.kind {
            Kind::Substitute(substitution) => Some(substitution.finder()),
            Kind::Filter(filter) => filter.finder(),
            Kind::Recase(recaser) => recaser.finder(),
            _ => None,
        }
    }

    fn run_on_lines(&self, text: &[u8], around: Surroundings, state: &mut OpState) {
        match &self.kind {
            Kind::Substitute(substitution) => substitution.run(text, state),
            Kind::Break(breaker) => breaker.run(text, around.first_line_end, state),
            Kind::Filter(filter) => filter.run(text, state),
            Kind::Trim(trim) => trim.run(text, state),
            Kind::DropExtraEmpty(drop) => drop.run(text, state),
            Kind::Keep(keeper) => keeper.run(text, state),
            Kind::Collapse(collapser) => collapser.run(text, state),
            Kind::Recase(recaser) => recaser.run(text, state),
            Kind::DropRepeats(repeats) => repeats.run(text, state),
            Kind::Normalize(normalizer) => normalizer.run(text, state),
            Kind::PlainLetters => plain_letters::run(text, state),
            Kind::Tabs(untabber) => untabber.run(text, state),
            Kind::LineEnds(_) | Kind::Join(_) => {}
        }
    }
}

fn reach(search: &Search) -> Reach {
    match &search.target {
        Target::Text(entries) if entries.iter().any(|entry| goes_on_after_line_end(entry)) => {
            let line_ends = |entry: &String| entry.matches(['\n', '\r']).count();
            Reach::LinesAhead(entries.iter().map(line_ends).max().unwrap_or(0))
        }
        // A run of members at an edge stays on its line, the line's own end included; the others take no line ends.
        _ => Reach::Lines,
    }
}

/// Whether anything stands after the entry's first line end.
fn goes_on_after_line_end(entry: &str) -> bool {
    let after = entry.find(['\n', '\r']).map(|at| &entry[at..]);
    after.is_some_and(|after| !matches!(after, "\n" | "\r" | "\r\n"))
}

/// The start of the line before the one that starts at `at`; 0 where there is none.
fn line_before(text: &[u8], at: usize) -> usize {
    let line_end = if text[..at].ends_with(b"\r\n") { 2 } else { usize::from(at > 0) };
    line_start(text, at - line_end)
}
