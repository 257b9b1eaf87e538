//! Regular expressions as rules write them.

use std::ops::Range;
use std::sync::Arc;

use regex_syntax::hir::{Hir, HirKind};

use crate::pattern::{CompiledPattern, LinePattern, WholeTextPattern};
use crate::text::At;

/// A regular expression that has been read and compiled: the syntax of the Rust `regex` crate, with Unicode on, and
/// look-around and back references besides.
#[derive(Clone, Debug)]
pub struct Pattern {
    source: String,
    /// The names of the groups; group 0 is the whole match.
    groups: Vec<Option<String>>,
    /// What it means; `None` if it looks around or refers back.
    hir: Option<Hir>,
    across_lines: bool,
    compiled: Arc<CompiledPattern>,
}

/// How a regular expression is to be found.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct PatternUse {
    /// Letter case does not count.
    pub ignore_case: bool,
    /// Where on the line.
    pub at: At,
    /// It sees the whole text, not one line.
    pub across_lines: bool,
}

/// Why a regular expression cannot be used.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct PatternError {
    /// What is wrong.
    pub message: String,
    /// The offending stretch of the expression, in bytes; `None` if it is the expression as a whole.
    pub place: Option<Range<usize>>,
    /// It would take too much memory.
    pub too_large: bool,
}

impl Pattern {
    /// Reads an expression that is to be found in this way.
    ///
    /// # Errors
    /// The first fault of its syntax; that it could match bytes that are not UTF-8; that it is too large.
    pub fn parse(source: &str, usage: PatternUse) -> Result<Self, PatternError> {
        let mut parser = regex_syntax::ParserBuilder::new()
            .case_insensitive(usage.ignore_case)
            .multi_line(usage.across_lines)
            .build();
        let hir = match parser.parse(source) {
            Ok(hir) => hir,
            Err(error) if looks_around(&error) => return Self::backtracking(source, usage),
            Err(error) => return Err(syntax_error(&error)),
        };
        let mut groups = vec![None];
        collect_groups(&hir, &mut groups);
        let too_large = |message| PatternError { message, place: None, too_large: true };
        let compiled = if usage.across_lines {
            WholeTextPattern::across_lines(&hir, groups.len(), usage.at).map(CompiledPattern::WholeText)
        } else {
            LinePattern::new(&hir, groups.len(), usage.at).map(CompiledPattern::Line)
        };
        let compiled = Arc::new(compiled.map_err(too_large)?);
        Ok(Self { source: source.to_owned(), groups, hir: Some(hir), across_lines: usage.across_lines, compiled })
    }

    fn backtracking(source: &str, usage: PatternUse) -> Result<Self, PatternError> {
        let backtracking = WholeTextPattern::backtracking(source, usage.ignore_case, usage.at, usage.across_lines);
        let (compiled, groups) = backtracking.map_err(|error| backtracking_error(source, &error))?;
        let compiled = Arc::new(CompiledPattern::WholeText(compiled));
        Ok(Self { source: source.to_owned(), groups, hir: None, across_lines: usage.across_lines, compiled })
    }

    /// Whether it looks around or refers back, and so runs on the bounded backtracking engine.
    pub fn looks_around(&self) -> bool {
        self.hir.is_none()
    }

    /// Whether it sees the whole text.
    pub fn across_lines(&self) -> bool {
        self.across_lines
    }

    /// What it means; `None` if it looks around or refers back.
    pub(crate) fn hir(&self) -> Option<&Hir> {
        self.hir.as_ref()
    }

    /// The expression as written.
    pub fn source(&self) -> &str {
        &self.source
    }

    /// The names of the groups, from group 0, which is the whole match and has none.
    pub fn groups(&self) -> &[Option<String>] {
        &self.groups
    }

    pub(crate) fn compiled(&self) -> Arc<CompiledPattern> {
        Arc::clone(&self.compiled)
    }
}

fn syntax_error(error: &regex_syntax::Error) -> PatternError {
    let (message, span) = match error {
        regex_syntax::Error::Parse(error) => (error.kind().to_string(), *error.span()),
        regex_syntax::Error::Translate(error) => (error.kind().to_string(), *error.span()),
        other => return PatternError { message: other.to_string(), place: None, too_large: false },
    };
    PatternError { message, place: Some(span.start.offset..span.end.offset), too_large: false }
}

/// Whether the only fault of an expression is that the plain engine cannot do it.
fn looks_around(error: &regex_syntax::Error) -> bool {
    use regex_syntax::ast::ErrorKind;
    let regex_syntax::Error::Parse(error) = error else { return false };
    matches!(error.kind(), ErrorKind::UnsupportedLookAround | ErrorKind::UnsupportedBackreference)
}

fn backtracking_error(source: &str, error: &fancy_regex::Error) -> PatternError {
    let lower = |text: &str| {
        let mut letters = text.chars();
        letters.next().map_or_else(String::new, |first| first.to_lowercase().chain(letters).collect())
    };
    match error {
        fancy_regex::Error::ParseError(at, error) => {
            let at = source.floor_char_boundary((*at).min(source.len()));
            let len = source[at..].chars().next().map_or(0, char::len_utf8);
            PatternError { message: lower(&error.to_string()), place: Some(at..at + len), too_large: false }
        }
        fancy_regex::Error::CompileError(error) => {
            PatternError { message: lower(&error.to_string()), place: None, too_large: false }
        }
        other => PatternError { message: lower(&other.to_string()), place: None, too_large: false },
    }
}

/// Groups are numbered by their opening parenthesis, which is the order this walk meets them in.
fn collect_groups(hir: &Hir, groups: &mut Vec<Option<String>>) {
    match hir.kind() {
        HirKind::Capture(capture) => {
            let index = capture.index as usize;
            if groups.len() <= index {
                groups.resize(index + 1, None);
            }
            groups[index] = capture.name.as_ref().map(ToString::to_string);
            collect_groups(&capture.sub, groups);
        }
        HirKind::Repetition(repetition) => collect_groups(&repetition.sub, groups),
        HirKind::Concat(parts) | HirKind::Alternation(parts) => {
            parts.iter().for_each(|part| collect_groups(part, groups));
        }
        HirKind::Empty | HirKind::Literal(_) | HirKind::Class(_) | HirKind::Look(_) => {}
    }
}
