//! What is wrong with a rule set, and where.

use std::fmt;
use std::ops::Range;
use std::rc::Rc;

use super::budget::{MOST_BYTES, ReadBudget};
use super::files::{Files, NamedFile};

/// One thing that is wrong with a rule set.
#[derive(Clone, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub struct Problem {
    /// What is wrong, in a sentence without its full stop.
    pub message: String,
    /// The offending words, in bytes of the source.
    pub place: Range<usize>,
    /// A few words about just those words.
    pub label: String,
    /// What to write instead, if that can be said.
    pub help: Option<String>,
}

/// A rule set that cannot mean anything, with everything that is wrong with it.
///
/// ```
/// let error = washout_core::RuleSet::read("log", "[[rule]]\nremov = { chars = '#' }\n").expect_err("a slip");
/// assert_eq!(error.line_and_column(error.problems()[0].place.start), (2, 1));
/// assert!(error.to_string().contains("remove"), "the right word is proposed");
/// ```
#[derive(Clone, Debug)]
#[non_exhaustive]
pub struct RuleError {
    name: String,
    source: String,
    problems: Vec<Problem>,
    included: Vec<RuleError>,
}

impl RuleError {
    pub(crate) fn new(name: &str, source: &str, mut problems: Vec<Problem>) -> Self {
        for problem in &mut problems {
            problem.place = within(source, &problem.place);
        }
        problems.sort_by_key(|problem| (problem.place.start, problem.place.end));
        problems.dedup();
        Self { name: name.to_owned(), source: source.to_owned(), problems, included: Vec::new() }
    }

    /// What messages call the rule set.
    pub fn name(&self) -> &str {
        &self.name
    }

    /// The text of the rule set, as far as the problems' places refer to it.
    pub fn source_text(&self) -> &str {
        &self.source
    }

    /// Everything that is wrong, in the order it stands in the text; never empty.
    pub fn problems(&self) -> &[Problem] {
        &self.problems
    }

    /// What is wrong with the sets it includes.
    pub fn included(&self) -> &[RuleError] {
        &self.included
    }

    /// Line and column of a byte of the source, both from 1; columns count characters.
    pub fn line_and_column(&self, at: usize) -> (usize, usize) {
        let before = &self.source[..at.min(self.source.len())];
        let line_start = before.rfind('\n').map_or(0, |found| found + 1);
        (before.matches('\n').count() + 1, before[line_start..].chars().count() + 1)
    }
}

/// Keeps a place inside the source and off the middle of characters: messages must never fail to be drawn.
fn within(source: &str, place: &Range<usize>) -> Range<usize> {
    // At the end of the source the last character stands for what is missing after it.
    let last = source.len().saturating_sub(usize::from(!source.is_empty()));
    let start = source.floor_char_boundary(place.start.min(last));
    let end = source.ceil_char_boundary(place.end.clamp(start, source.len()));
    start..end
}

impl fmt::Display for RuleError {
    /// A line per problem: `NAME:LINE:COLUMN: MESSAGE (HELP)`.
    fn fmt(&self, formatter: &mut fmt::Formatter<'_>) -> fmt::Result {
        for (index, problem) in self.problems.iter().enumerate() {
            if index > 0 {
                writeln!(formatter)?;
            }
            let (line, column) = self.line_and_column(problem.place.start);
            write!(formatter, "{}:{line}:{column}: {}", self.name, problem.message)?;
            if let Some(help) = &problem.help {
                write!(formatter, " ({help})")?;
            }
        }
        self.included.iter().try_for_each(|error| write!(formatter, "\n{error}"))
    }
}

impl std::error::Error for RuleError {}

/// The rule set that is being read.
#[derive(Clone)]
pub(super) struct SetInProgress<'f> {
    files: &'f dyn Files,
    /// What messages call the set.
    pub(super) name: String,
    /// The sets that include it, the outermost first, and itself.
    open: Vec<String>,
    /// Whether the files it names have to be in its own folder or below.
    confined: bool,
    /// What it has taken, with all sets that are read with it.
    pub(super) budget: Rc<ReadBudget>,
}

impl<'f> SetInProgress<'f> {
    pub(super) fn of(name: &str, files: &'f dyn Files, confined: bool) -> Self {
        Self { files, name: name.to_owned(), open: vec![name.to_owned()], confined, budget: Rc::default() }
    }
}

/// Why a file cannot be had that is larger than what is left of [`MOST_BYTES`].
pub(crate) fn too_many_bytes() -> String {
    format!("the files that a rule set names may have {} MiB together", MOST_BYTES >> 20)
}

/// Gathers problems while reading goes on.
pub(super) struct Problems<'f> {
    reading: SetInProgress<'f>,
    /// The files that were opened, as messages call them.
    opened: Vec<String>,
    found: Vec<Problem>,
    included: Vec<RuleError>,
}

impl<'f> Problems<'f> {
    pub(super) fn of(reading: &SetInProgress<'f>) -> Self {
        Self { reading: reading.clone(), opened: Vec::new(), found: Vec::new(), included: Vec::new() }
    }

    /// Opens a file the set names.
    pub(super) fn open_file(&mut self, path: &str) -> Result<NamedFile, String> {
        let budget = &self.reading.budget;
        let file = self.reading.files.open(&self.reading.name, path, budget.bytes_left())?;
        if !budget.add_file(file.bytes.len()) {
            return Err(too_many_bytes());
        }
        self.opened.push(file.name.clone());
        Ok(file)
    }

    /// The files that were opened for the set, with those of the sets it includes.
    pub(super) fn take_opened(&mut self) -> Vec<String> {
        std::mem::take(&mut self.opened)
    }

    /// These files were opened for a set that this one includes.
    pub(super) fn add_opened(&mut self, files: &[String]) {
        self.opened.extend_from_slice(files);
    }

    /// Whether the files the set names have to be in its own folder or below.
    pub(super) fn is_confined(&self) -> bool {
        self.reading.confined
    }

    /// What the set has taken, with all sets that are read with it.
    pub(super) fn budget(&self) -> &ReadBudget {
        &self.reading.budget
    }

    /// How many sets include each other in a row, up to this one.
    pub(super) fn depth(&self) -> usize {
        self.reading.open.len()
    }

    /// How another set is to be read that this one includes; `None` if it is being read already.
    pub(super) fn reading_of(&self, name: &str) -> Option<SetInProgress<'f>> {
        if self.reading.open.iter().any(|open| open == name) {
            return None;
        }
        let mut open = self.reading.open.clone();
        open.push(name.to_owned());
        Some(SetInProgress { name: name.to_owned(), open, confined: true, ..self.reading.clone() })
    }

    /// The way from a set back to itself.
    pub(super) fn circle(&self, name: &str) -> String {
        let from = self.reading.open.iter().position(|open| open == name).unwrap_or(0);
        let names = self.reading.open[from..].iter().map(String::as_str).chain([name]);
        names.collect::<Vec<_>>().join(" → ")
    }

    /// What is wrong with a set that this one includes.
    pub(super) fn push_included(&mut self, error: RuleError) {
        self.included.push(error);
    }

    pub(super) fn push(&mut self, problem: Problem) {
        self.found.push(problem);
    }

    #[cold]
    pub(super) fn add(&mut self, place: Range<usize>, message: impl Into<String>, label: impl Into<String>) {
        self.push(Problem { message: message.into(), place, label: label.into(), help: None });
    }

    #[cold]
    pub(super) fn add_helped(
        &mut self,
        place: Range<usize>,
        message: impl Into<String>,
        label: impl Into<String>,
        help: impl Into<String>,
    ) {
        self.push(Problem { message: message.into(), place, label: label.into(), help: Some(help.into()) });
    }

    /// `value`, unless something was wrong.
    pub(super) fn none_or<T>(self, value: T, source: &str) -> Result<T, RuleError> {
        if self.found.is_empty() {
            return Ok(value);
        }
        Err(RuleError { included: self.included, ..RuleError::new(&self.reading.name, source, self.found) })
    }
}
