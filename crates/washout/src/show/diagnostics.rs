//! Rule errors drawn with the lines they are about.

use std::ops::Range;

use annotate_snippets::renderer::DecorStyle;
use annotate_snippets::{AnnotationKind, Level, Renderer, Snippet};
use washout_core::{Problem, RuleError};

use super::number::counted;
use super::screen::Screen;
use super::visible::shown;
use super::wrap::wrapped;

/// Problems that are drawn; a text that is no rule set has one on every line.
const MOST_PROBLEMS: usize = 20;

/// The problems of these rule sets, in order.
pub(crate) fn draw(errors: &[RuleError]) -> String {
    let columns = Screen::of_stdout().columns;
    let renderer = Renderer::styled().decor_style(DecorStyle::Unicode).term_width(columns);
    let mut drawn = String::new();
    let mut problems: u64 = 0;
    for error in errors.iter().flat_map(with_included) {
        let (name, source) = (shown(error.name()), drawable(error.source_text()));
        for problem in error.problems() {
            problems += 1;
            if problems > MOST_PROBLEMS as u64 {
                continue;
            }
            let words = |text: &str, before: &str| {
                wrapped("", "", &shown(text), columns.saturating_sub(before.len())).join("\n")
            };
            let marked = AnnotationKind::Primary.span(first_line(problem, &source)).label(shown(&problem.label));
            let snippet = Snippet::source(source.as_str()).path(name.as_str()).annotation(marked);
            let title = Level::ERROR.primary_title(words(&problem.message, "error: "));
            let help = problem.help.as_ref().map(|help| Level::HELP.message(words(help, "     = help: ")));
            let report = title.element(snippet).elements(help);
            drawn.push_str(&renderer.render(&[report]));
            drawn.push_str("\n\n");
        }
    }
    let shown =
        if problems > MOST_PROBLEMS as u64 { format!(" (the first {MOST_PROBLEMS} are shown)") } else { String::new() };
    drawn + &format!("washout: {} in the rules{shown}; nothing was opened", counted(problems, "problem"))
}

/// One problem of a file with settings.
pub(crate) fn draw_one(name: &str, source: &str, place: Range<usize>, message: &str, help: &str) -> String {
    let columns = Screen::of_stdout().columns;
    let renderer = Renderer::styled().decor_style(DecorStyle::Unicode).term_width(columns);
    let source = drawable(source);
    let end = place.end.min(source.len()).max(place.start);
    let snippet = Snippet::source(source.as_str()).path(name);
    let snippet = snippet.annotation(AnnotationKind::Primary.span(place.start.min(end)..end));
    let help = wrapped("", "", help, columns.saturating_sub("     = help: ".len())).join("\n");
    let title = Level::ERROR.primary_title(shown(message));
    let report = title.element(snippet).elements([Level::HELP.message(help)]);
    format!("{}\n\nwashout: nothing was opened", renderer.render(&[report]))
}

/// A set's own problems, then those of the sets it includes.
fn with_included(error: &RuleError) -> Vec<&RuleError> {
    std::iter::once(error).chain(error.included().iter().flat_map(with_included)).collect()
}

/// A problem of a whole rule is shown at its first line.
fn first_line(problem: &Problem, source: &str) -> Range<usize> {
    let Range { start, end } = problem.place.clone();
    let len = source[start..end].find('\n').filter(|len| *len > 0).unwrap_or(end - start);
    start..start + len
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
