//! Regular expressions as rules write them.

use std::ops::Range;
use std::sync::Arc;

use regex_syntax::hir::{Hir, HirKind};

use super::search::At;
use crate::matching::LinePattern;

/// A regular expression that has been read and compiled: the syntax of the Rust `regex` crate, with Unicode on.
#[derive(Clone, Debug)]
pub struct Pattern {
    source: String,
    /// The names of the groups; group 0 is the whole match.
    groups: Vec<Option<String>>,
    compiled: Arc<LinePattern>,
}

/// Why a regular expression cannot be used.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct PatternError {
    /// What is wrong.
    pub message: String,
    /// The offending stretch of the expression, in bytes; `None` if it is too large as a whole.
    pub place: Option<Range<usize>>,
}

impl Pattern {
    /// Reads an expression that is to be found at this place of a line.
    ///
    /// # Errors
    /// The first fault of its syntax; that it could match bytes that are no UTF-8; that it is too large.
    pub fn parse(source: &str, ignore_case: bool, at: At) -> Result<Self, PatternError> {
        let mut parser = regex_syntax::ParserBuilder::new().case_insensitive(ignore_case).build();
        let hir = parser.parse(source).map_err(|error| syntax_error(&error))?;
        let mut groups = vec![None];
        collect_groups(&hir, &mut groups);
        let too_large = |message| PatternError { message, place: None };
        let compiled = LinePattern::new(&hir, groups.len(), at).map_err(too_large)?;
        Ok(Self { source: source.to_owned(), groups, compiled })
    }

    /// The expression as written.
    pub fn source(&self) -> &str {
        &self.source
    }

    /// The names of the groups, from group 0, which is the whole match and has none.
    pub fn groups(&self) -> &[Option<String>] {
        &self.groups
    }

    pub(crate) fn compiled(&self) -> Arc<LinePattern> {
        Arc::clone(&self.compiled)
    }
}

fn syntax_error(error: &regex_syntax::Error) -> PatternError {
    let (message, span) = match error {
        regex_syntax::Error::Parse(error) => (error.kind().to_string(), *error.span()),
        regex_syntax::Error::Translate(error) => (error.kind().to_string(), *error.span()),
        other => return PatternError { message: other.to_string(), place: None },
    };
    PatternError { message, place: Some(span.start.offset..span.end.offset) }
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
