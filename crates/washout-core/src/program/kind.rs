//! What operations there are, one for each verb.

use super::collapse::Collapser;
use super::decode::Decoder;
use super::joints::Joints;
use super::keep::Keeper;
use super::line_ends::Ender;
use super::lines::{DropExtraEmpty, EdgeTrim, LineFilter};
use super::normalize::Normalizer;
use super::number::Numberer;
use super::op::OpState;
use super::pad::Padder;
use super::plain_letters;
use super::recase::Recaser;
use super::repeats::Repeats;
use super::substitute::{Breaker, Substitution};
use super::tabs::Untabber;
use crate::matching::Finder;
use crate::model::{DropLines, EmptyLines, KeepLines, Search, Verb};
use crate::text::LineEnd;
use crate::text::haystack::Haystack;
use crate::text::stand_ins::StandIns;

/// What an operation does to a text.
#[derive(Clone, Debug)]
pub(super) enum Kind {
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
    Pad(Padder),
    Number(Box<Numberer>),
    Normalize(Normalizer),
    PlainLetters,
    Decode(Decoder),
    Nothing,
}

impl Kind {
    /// The operation of a verb, and what it searches for.
    pub(super) fn of(verb: &Verb) -> (Self, Option<&Search>) {
        match verb {
            Verb::Remove(remove) => (Self::Substitute(Substitution::removal(remove)), Some(&remove.search)),
            Verb::Replace(replace) => (Self::Substitute(Substitution::replacement(replace)), Some(&replace.search)),
            Verb::Keep(keep) => (Self::Keep(Keeper::new(keep)), Some(&keep.search)),
            Verb::Collapse(collapse) => (Self::Collapse(Collapser::new(collapse)), Some(&collapse.search)),
            Verb::Recase(recase) => {
                (Self::Recase(Recaser::new(recase)), recase.within.as_ref().map(|(search, _)| search))
            }
            // The rules of an included set are operations of their own, and what acts on records and fields of a table is none
            // on a text.
            Verb::Include(_) | Verb::DropRecords(_) | Verb::DropFields(_) | Verb::RenameFields(_) => {
                (Self::Nothing, None)
            }
            Verb::Trim(trim) => (Self::Trim(EdgeTrim::new(*trim)), None),
            Verb::DropLines(DropLines::Holding(search)) => (Self::Filter(LineFilter::dropping(search)), Some(search)),
            Verb::DropLines(DropLines::Empty(EmptyLines::All)) => (Self::Filter(LineFilter::dropping_empty()), None),
            Verb::DropLines(DropLines::Empty(EmptyLines::Extra)) => (Self::DropExtraEmpty(DropExtraEmpty), None),
            Verb::DropLines(DropLines::Scope) => (Self::Filter(LineFilter::of_scope(false)), None),
            Verb::KeepLines(KeepLines { search: Some(search) }) => {
                (Self::Filter(LineFilter::keeping(search)), Some(search))
            }
            Verb::KeepLines(KeepLines { search: None }) => (Self::Filter(LineFilter::of_scope(true)), None),
            Verb::DropRepeats(repeats) => (Self::DropRepeats(Repeats(*repeats)), None),
            Verb::LineEnds(ends) => (Self::LineEnds(Ender(*ends)), None),
            Verb::Normalize(normalize) => (Self::Normalize(Normalizer(*normalize)), None),
            Verb::PlainLetters => (Self::PlainLetters, None),
            Verb::Decode(decode) => (Self::Decode(Decoder(*decode)), None),
            Verb::Tabs(tabs) => (Self::Tabs(Untabber(*tabs)), None),
            Verb::Pad(pad) => (Self::Pad(Padder::new(pad)), pad.within.as_ref()),
            Verb::Number(number) => {
                let search = number.instead_of.as_ref().map(|(search, _)| search);
                (Self::Number(Box::new(Numberer::new(number))), search)
            }
            Verb::JoinLines(join) => (Self::Join(Joints::new(join)), None),
            Verb::BreakLines(breaks) => (Self::Break(Breaker::new(breaks)), Some(&breaks.search)),
        }
    }

    /// Whether what it does to a line depends on lines before it, or on whether any follow.
    pub(super) fn remembers_lines(&self) -> bool {
        matches!(
            self,
            Self::Join(_)
                | Self::DropExtraEmpty(_)
                | Self::DropRepeats(_)
                | Self::LineEnds(_)
                | Self::Number(_)
                | Self::Nothing
        )
    }

    /// From now on these count as blanks.
    pub(super) fn count_as_blanks(&mut self, blanks: StandIns) {
        match self {
            Self::Substitute(substitution) => substitution.count_as_blanks(blanks),
            Self::Trim(trim) => trim.count_as_blanks(blanks),
            Self::Break(breaker) => breaker.finder_mut().count_as_blanks(blanks),
            Self::Keep(keeper) => keeper.finder_mut().count_as_blanks(blanks),
            Self::Collapse(run) => run.finder_mut().count_as_blanks(blanks),
            Self::Filter(filter) => filter.finder_mut().into_iter().for_each(|finder| finder.count_as_blanks(blanks)),
            Self::Pad(padder) => padder.finder_mut().into_iter().for_each(|finder| finder.count_as_blanks(blanks)),
            Self::Number(number) => number.finder_mut().into_iter().for_each(|finder| finder.count_as_blanks(blanks)),
            Self::Recase(recaser) => recaser.finder_mut().into_iter().for_each(|finder| finder.count_as_blanks(blanks)),
            Self::DropExtraEmpty(_)
            | Self::Join(_)
            | Self::DropRepeats(_)
            | Self::LineEnds(_)
            | Self::Tabs(_)
            | Self::Normalize(_)
            | Self::PlainLetters
            | Self::Decode(_)
            | Self::Nothing => {}
        }
    }

    /// What finds the matches of a rule that acts on matches.
    pub(super) fn finder(&self) -> Option<&Finder> {
        match self {
            Self::Substitute(substitution) => Some(substitution.finder()),
            Self::Filter(filter) => filter.finder(),
            Self::Recase(recaser) => recaser.finder(),
            Self::Pad(padder) => padder.finder(),
            Self::Number(number) => number.finder(),
            _ => None,
        }
    }

    /// Whether it looks only where there may be anything to do, given that.
    pub(super) fn looks_near(&self) -> bool {
        match self {
            Self::Substitute(substitution) => substitution.finder().looks_near(),
            Self::Filter(filter) => filter.looks_near(),
            Self::Trim(_) => true,
            _ => false,
        }
    }

    /// Works out the changes to whole lines, and leaves them in `state.edits`. Line ends and joints are worked out elsewhere: they
    /// are judged in parts of lines.
    pub(super) fn run(&self, haystack: Haystack<'_>, first_line_end: Option<LineEnd>, state: &mut OpState) {
        let text = haystack.text;
        match self {
            Self::Substitute(substitution) => substitution.run(haystack, state),
            Self::Break(breaker) => breaker.run(text, first_line_end, state),
            Self::Filter(filter) => filter.run(haystack, state),
            Self::Trim(trim) => trim.run(haystack, state),
            Self::DropExtraEmpty(drop) => drop.run(text, state),
            Self::Keep(keeper) => keeper.run(text, state),
            Self::Collapse(collapser) => collapser.run(text, state),
            Self::Recase(recaser) => recaser.run(text, state),
            Self::DropRepeats(repeats) => repeats.run(text, state),
            Self::Normalize(normalizer) => normalizer.run(text, state),
            Self::PlainLetters => plain_letters::run(text, state),
            Self::Decode(decoder) => decoder.run(text, state),
            Self::Tabs(untabber) => untabber.run(text, state),
            Self::Pad(padder) => padder.run(text, state),
            Self::Number(number) => number.run(text, state),
            Self::LineEnds(_) | Self::Join(_) | Self::Nothing => {}
        }
    }
}
