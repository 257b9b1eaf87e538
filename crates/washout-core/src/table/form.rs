//! What a file is to rules: a text, or a table.

use super::error::TableError;
use super::formulas::Formulas;
use super::washer::TableWasher;
use crate::engine::Outcome;
use crate::engine::{OutputChunks, RunError, Washer};
use crate::observe::{NoObserver, Observer};
use crate::program::{Program, ShortTextMemory};
use crate::rules::{RuleName, TableFormat};
use crate::text::LineEnd;

/// What rules take a file for.
///
/// ```
/// use washout_core::{Program, RuleSet};
///
/// let rules = RuleSet::read_one_rule("rule", "{ fields = 'Keeper', trim = {} }")?;
/// let program = Program::compile([&rules]);
/// let form = program.form(Some("csv"));
/// assert_eq!(program.apply_as(form, b"Keeper,Note\n Wren , calm \n")?, b"Keeper,Note\nWren, calm \n");
/// assert!(program.apply(b" Wren ").is_err(), "a text has no fields");
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub enum Form {
    /// They see its whole text.
    Text,
    /// They see its cells, one at a time.
    Table(TableFormat),
}

/// A text or a table on its way through a program.
#[derive(Debug)]
pub enum AnyWasher<'p, O> {
    /// A text.
    Text(Box<Washer<'p, O>>),
    /// A table.
    Table(Box<TableWasher<'p, O>>),
}

/// Why a text or a table cannot be washed.
#[derive(Clone, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub enum WashError {
    /// A rule cannot go on.
    Rule(RunError),
    /// There is something wrong with the table, or the rules are not for it.
    Table(TableError),
}

impl WashError {
    /// The line of the text where a rule cannot go on, from 1, if it is known.
    pub fn line(&self) -> Option<u64> {
        match self {
            Self::Rule(error) => error.line(),
            Self::Table(_) => None,
        }
    }
}

impl From<RunError> for WashError {
    fn from(error: RunError) -> Self {
        Self::Rule(error)
    }
}

impl From<TableError> for WashError {
    fn from(error: TableError) -> Self {
        Self::Table(error)
    }
}

impl std::fmt::Display for WashError {
    fn fmt(&self, formatter: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        match self {
            Self::Rule(error) => error.fmt(formatter),
            Self::Table(error) => error.fmt(formatter),
        }
    }
}

impl std::error::Error for WashError {}

impl Program {
    /// What the rules take a file for that has this extension, or a stream that has none.
    pub fn form(&self, extension: Option<&str>) -> Form {
        let by_extension = || extension.and_then(TableFormat::of_extension);
        match self.table().format.or_else(by_extension) {
            None | Some(TableFormat::Text) => Form::Text,
            Some(format) => Form::Table(format),
        }
    }

    /// Whether the rules can only mean something in a table.
    pub fn is_for_tables(&self) -> bool {
        self.table().only.is_some() || self.rule_for_tables().is_some()
    }

    /// The first rule that can only mean something in a table.
    pub fn rule_for_tables(&self) -> Option<&RuleName> {
        let rule = self.cell_rules().iter().position(|rule| rule.is_about_tables)?;
        self.names().get(rule)
    }

    /// What the examples of a rule set are: tables, if the set is about them.
    pub(crate) fn form_of_examples(&self) -> Form {
        let is_table = self.table().said || self.is_for_tables();
        match self.form(None) {
            Form::Text if is_table && self.table().format.is_none() => Form::Table(TableFormat::Csv),
            form => form,
        }
    }

    /// Applies the rules to a whole text that is in memory.
    ///
    /// # Errors
    /// - A rule cannot go on, since its pattern takes too much work.
    /// - A rule is for fields of a table (`fields`, `rows`, `to_field`), and a text has none: see
    ///   [`apply_as`](Self::apply_as).
    pub fn apply<'t>(&self, text: &'t [u8]) -> Result<Outcome<'t>, WashError> {
        self.refuse_table_rules()?;
        if self.surely_leaves(text) {
            return Ok(Outcome::same(text, self.names().len()));
        }
        if self.takes_as_short(text) {
            let mut memory = self.memory_for_short_text(|| ShortTextMemory::new(self.names().len()));
            self.wash_short(text, LineEnd::first_in(text), &mut memory)?;
            return Ok(Outcome::new(text, &memory.washed[..], &memory.changes));
        }
        let mut washer = self.washer(NoObserver);
        let mut washed = Vec::with_capacity(text.len());
        washer.push(text, &mut washed)?;
        washer.finish(&mut washed)?;
        Ok(Outcome::new(text, washed, washer.changes()))
    }

    /// Applies the rules to a whole text or table that is in memory.
    ///
    /// # Errors
    /// As [`AnyWasher::push`], and rules that do not go with this form.
    pub fn apply_as(&self, form: Form, text: &[u8]) -> Result<Vec<u8>, WashError> {
        let mut washer = self.washer_of(form, NoObserver)?;
        let mut washed = Vec::with_capacity(text.len());
        washer.push(text, &mut washed)?;
        washer.finish(&mut washed)?;
        Ok(washed)
    }

    /// Starts on a file of this form that comes in pieces.
    ///
    /// # Errors
    /// Rules about lines cannot act on a table, nor rules about fields on a text.
    pub fn washer_of<O: Observer>(&self, form: Form, observer: O) -> Result<AnyWasher<'_, O>, TableError> {
        let format = match form {
            Form::Table(format) if format != TableFormat::Text => format,
            Form::Table(_) | Form::Text => {
                self.refuse_table_rules()?;
                return Ok(AnyWasher::Text(Box::new(self.washer(observer))));
            }
        };
        self.refuse_line_rules()?;
        Ok(AnyWasher::Table(Box::new(TableWasher::new(self, format, observer))))
    }

    /// A rule about fields cannot act on a text, which has none.
    fn refuse_table_rules(&self) -> Result<(), TableError> {
        if self.is_for_tables() { Err(TableError::no_table(self.rule_for_tables().cloned())) } else { Ok(()) }
    }

    /// A rule about lines cannot act on cells, unless it says that it means the lines of a cell.
    pub(super) fn refuse_line_rules(&self) -> Result<(), TableError> {
        let about_lines = |rule: &crate::program::CellRule| rule.line_word.filter(|_| !rule.cell_lines);
        let line_rule =
            self.cell_rules().iter().zip(self.names()).find_map(|(rule, name)| Some((name, about_lines(rule)?)));
        line_rule.map_or(Ok(()), |(name, word)| Err(TableError::line_rule(name.clone(), word)))
    }
}

impl<O: Observer> AnyWasher<'_, O> {
    /// Lets that many threads of the current thread pool work at the same time; results do not depend on it.
    #[must_use]
    pub fn with_threads(self, threads: usize) -> Self {
        match self {
            Self::Text(washer) => Self::Text(Box::new(washer.with_threads(threads))),
            Self::Table(washer) => Self::Table(Box::new(washer.with_threads(threads))),
        }
    }

    /// Of a table, takes no more than that many records, and passes over what is after them.
    #[must_use]
    pub fn with_most_records(self, records: Option<u64>) -> Self {
        match self {
            Self::Text(washer) => Self::Text(washer),
            Self::Table(washer) => Self::Table(Box::new(washer.with_most_records(records))),
        }
    }

    /// Whether what comes now is passed over.
    pub fn is_done(&self) -> bool {
        self.is_given_up() || matches!(self, Self::Table(washer) if washer.is_done())
    }

    /// Whether its observer is done, so that the text need not be washed to its end.
    pub fn is_given_up(&self) -> bool {
        match self {
            Self::Text(washer) => washer.observer_ref().is_done(),
            Self::Table(washer) => washer.observer_ref().is_done(),
        }
    }

    /// Takes the next piece and appends all of the result that is certain to `out`.
    ///
    /// # Errors
    /// As [`Washer::push`] and [`TableWasher::push`].
    pub fn push(&mut self, piece: &[u8], out: &mut Vec<u8>) -> Result<(), WashError> {
        match self {
            Self::Text(washer) => washer.push(piece, out).map_err(WashError::Rule),
            Self::Table(washer) => washer.push(piece, out).map_err(WashError::Table),
        }
    }

    /// As [`push`](Self::push), but gives what is certain without copying it; what was given before is forgotten.
    ///
    /// # Errors
    /// As [`push`](Self::push).
    pub fn push_uncopied(&mut self, piece: &[u8], given: &mut OutputChunks) -> Result<(), WashError> {
        match self {
            Self::Text(washer) => washer.push_uncopied(piece, given).map_err(WashError::Rule),
            Self::Table(washer) => washer.push_uncopied(piece, given).map_err(WashError::Table),
        }
    }

    /// Closes the text or table and appends the rest of the result to `out`.
    ///
    /// # Errors
    /// As [`push`](Self::push).
    pub fn finish(&mut self, out: &mut Vec<u8>) -> Result<(), WashError> {
        match self {
            Self::Text(washer) => washer.finish(out).map_err(WashError::Rule),
            Self::Table(washer) => washer.finish(out).map_err(WashError::Table),
        }
    }

    /// How much of the received text has been worked on, in bytes from the start, if a table is washed up to some record and
    /// that has been reached.
    pub fn taken(&self) -> Option<u64> {
        match self {
            Self::Text(_) => None,
            Self::Table(washer) => washer.is_done().then(|| washer.taken()),
        }
    }

    /// On how many sections each rule has acted so far, in the order of [`Program::names`]; nothing of a table.
    pub fn sections(&self) -> Vec<u64> {
        match self {
            Self::Text(washer) => washer.sections(),
            Self::Table(_) => Vec::new(),
        }
    }

    /// How many changes each rule has made so far, in the order of [`Program::names`].
    pub fn changes(&self) -> &[u64] {
        match self {
            Self::Text(washer) => washer.changes(),
            Self::Table(washer) => washer.changes(),
        }
    }

    /// Whether the result so far may differ from what came in.
    pub fn any_change(&self) -> bool {
        match self {
            Self::Text(washer) => washer.changes().iter().any(|count| *count > 0),
            Self::Table(washer) => washer.any_change(),
        }
    }

    /// Of a table: how many records there were, and what is to be said of it.
    pub fn about_table(&self) -> Option<AboutTable> {
        match self {
            Self::Text(_) => None,
            Self::Table(washer) => Some(AboutTable {
                records: washer.records(),
                near_fields: washer.near_fields().to_vec(),
                replaced_fields: washer.replaced_fields(),
                fields_without_text: washer.fields_without_text(),
                formulas: washer.formulas().clone(),
            }),
        }
    }

    /// Ends the work and gives the observer back.
    pub fn into_observer(self) -> O {
        match self {
            Self::Text(washer) => washer.into_observer(),
            Self::Table(washer) => washer.into_observer(),
        }
    }
}

/// What is to be said of a table.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct AboutTable {
    /// Its records, without the header.
    pub records: u64,
    /// Fields that were found only by looking past letter case and blanks: as named, and as the table has them.
    pub near_fields: Vec<(String, String)>,
    /// Fields that a rule puts its result in and that the table comes with: what was in them is replaced.
    pub replaced_fields: Vec<String>,
    /// Fields that rules name and that hold no text at all: numbers, `true`, `null` or objects, which are left alone.
    pub fields_without_text: Vec<String>,
    /// Cells that a spreadsheet would take for a formula, if they are looked for.
    pub formulas: Formulas,
}
