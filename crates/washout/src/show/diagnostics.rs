//! Rule errors drawn with the lines they are about.

use std::fmt;

use miette::{Diagnostic, GraphicalReportHandler, GraphicalTheme, LabeledSpan, NamedSource, SourceCode, ThemeStyles};
use washout_core::{Problem, RuleError};

use super::number::counted;
use super::screen::Screen;
use super::visible::shown;

/// Every problem of these rule sets, in order.
pub(crate) fn draw(errors: &[RuleError]) -> String {
    let mut theme = GraphicalTheme::unicode();
    theme.styles = ThemeStyles::ansi();
    let handler = GraphicalReportHandler::new_themed(theme)
        .with_width(Screen::of_stdout().columns)
        .with_context_lines(1)
        .with_links(false);
    let mut drawn = String::new();
    let mut problems = 0;
    for error in errors.iter().flat_map(with_included) {
        let source = NamedSource::new(shown(error.name()), drawable(error.source_text()));
        for problem in error.problems() {
            problems += 1;
            let start = drawn.len();
            let report = Report { problem, source: &source };
            if handler.render_report(&mut drawn, &report).is_err() {
                drawn.truncate(start);
                drawn.push_str(&shown(&error.to_string()));
            }
            drawn.push('\n');
        }
    }
    drawn + &format!("washout: {} in the rules; nothing was opened", counted(problems, "problem"))
}

/// A set's own problems, then those of the sets it includes.
fn with_included(error: &RuleError) -> Vec<&RuleError> {
    std::iter::once(error).chain(error.included().iter().flat_map(with_included)).collect()
}

struct Report<'r> {
    problem: &'r Problem,
    source: &'r NamedSource<String>,
}

impl fmt::Display for Report<'_> {
    fn fmt(&self, formatter: &mut fmt::Formatter<'_>) -> fmt::Result {
        formatter.write_str(&shown(&self.problem.message))
    }
}

impl fmt::Debug for Report<'_> {
    fn fmt(&self, formatter: &mut fmt::Formatter<'_>) -> fmt::Result {
        fmt::Display::fmt(self, formatter)
    }
}

impl std::error::Error for Report<'_> {}

impl Diagnostic for Report<'_> {
    fn source_code(&self) -> Option<&dyn SourceCode> {
        Some(self.source)
    }

    fn labels(&self) -> Option<Box<dyn Iterator<Item = LabeledSpan> + '_>> {
        let label = LabeledSpan::new_with_span(Some(shown(&self.problem.label)), first_line(self));
        Some(Box::new(std::iter::once(label)))
    }

    fn help<'a>(&'a self) -> Option<Box<dyn fmt::Display + 'a>> {
        self.problem.help.as_ref().map(|help| Box::new(shown(help)) as Box<dyn fmt::Display>)
    }
}

/// A problem of a whole rule is shown at its first line.
fn first_line(report: &Report<'_>) -> std::ops::Range<usize> {
    let place = report.problem.place.clone();
    let text = &report.source.inner()[place.clone()];
    let len = text.find('\n').filter(|len| *len > 0).unwrap_or(text.len());
    place.start..place.start + len
}

/// The source with everything that could drive the terminal replaced by signs of the same length in bytes, so that
/// places still fit.
fn drawable(source: &str) -> String {
    let safe = |character: char| {
        matches!(character, '\n' | '\t') || shown(character.encode_utf8(&mut [0; 4])).chars().eq([character])
    };
    source
        .chars()
        .map(|character| match character.len_utf8() {
            _ if safe(character) => character,
            1 => '?',
            2 => '¿',
            3 => '\u{FFFD}',
            _ => '𝄽',
        })
        .collect()
}
