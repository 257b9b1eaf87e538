//! What rules do to a text: a file for each verb, behind one trait, [`Operation`].
//!
//! [`CompiledRule`] runs an operation where the scope of its rule lets it act, on text that comes in pieces.

mod break_lines;
mod collapse;
mod compiled_rule;
mod decode;
mod drop_repeats;
mod filter_lines;
mod gap;
mod join_lines;
mod keep;
mod line_ends;
mod lookahead;
mod merged;
mod normalize;
mod nothing;
mod number;
mod operation;
mod pad;
mod pairs;
mod parts;
mod plain_letters;
mod recase;
mod substitute;
mod tabs;
mod trim;
mod wrap_lines;

pub(crate) use compiled_rule::{BlockContext, CompiledRule, Progress, RuleState};
pub(crate) use drop_repeats::Seen;
pub(crate) use merged::{CharRule, change_merged, mergeable};
pub(crate) use operation::Operation;

use crate::rules::{DropLines, EmptyLines, KeepLines, Verb};

/// The operation of a verb.
fn operation_of(verb: &Verb) -> Box<dyn Operation> {
    match verb {
        Verb::Remove(remove) => Box::new(substitute::Substitution::removal(remove)),
        Verb::Replace(replace) => Box::new(substitute::Substitution::replacement(replace)),
        Verb::Keep(keep) => Box::new(keep::MatchKeeper::new(keep)),
        Verb::Collapse(collapse) => Box::new(collapse::Collapser::new(collapse)),
        Verb::Trim(trim) => Box::new(trim::EdgeTrim::new(*trim)),
        Verb::Recase(recase) => Box::new(recase::Recaser::new(recase)),
        Verb::Normalize(normalize) => Box::new(normalize::Normalizer(*normalize)),
        Verb::PlainLetters => Box::new(plain_letters::PlainLetters),
        Verb::Decode(decode) => Box::new(decode::Decoder(*decode)),
        Verb::DropLines(DropLines::Holding(search)) => Box::new(filter_lines::LineFilter::dropping(search)),
        Verb::DropLines(DropLines::Empty(EmptyLines::All)) => Box::new(filter_lines::LineFilter::dropping_empty()),
        Verb::DropLines(DropLines::Empty(EmptyLines::Extra)) => Box::new(filter_lines::DropExtraEmpty),
        Verb::DropLines(DropLines::Scope) => Box::new(filter_lines::LineFilter::of_scope(false)),
        Verb::KeepLines(KeepLines { search: Some(search) }) => Box::new(filter_lines::LineFilter::keeping(search)),
        Verb::KeepLines(KeepLines { search: None }) => Box::new(filter_lines::LineFilter::of_scope(true)),
        Verb::DropRepeats(repeats) => Box::new(drop_repeats::Repeats(*repeats)),
        Verb::JoinLines(join) => Box::new(join_lines::LineJoiner::new(join)),
        Verb::BreakLines(breaks) => Box::new(break_lines::Breaker::new(breaks)),
        Verb::WrapLines(wrap) => Box::new(wrap_lines::Wrapper(*wrap)),
        Verb::LineEnds(ends) => Box::new(line_ends::LineEndSetter(*ends)),
        Verb::Tabs(tabs) => Box::new(tabs::TabExpander(*tabs)),
        Verb::Pad(pad) => Box::new(pad::Padder::new(pad)),
        Verb::Number(number) => Box::new(number::Numberer::new(number)),
        // The rules of an included set are compiled by themselves, and what acts on records and fields of a table does nothing
        // to a text.
        Verb::Include(_) | Verb::DropRecords(_) | Verb::DropFields(_) | Verb::RenameFields(_) => {
            Box::new(nothing::Nothing)
        }
    }
}
