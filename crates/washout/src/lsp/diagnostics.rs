//! What is underlined in the editor.

use std::path::Path;

use super::document::Document;
use super::projects::Projects;
use super::protocol::{NoAnswer, diagnostic, is_rule_set};
use super::rule_set;
use super::text_file::{Changes, PlacedEdit};
use super::types::{Diagnostic, Range, Severity};
use crate::project;

/// More places than this are counted in one more diagnostic.
const MOST_DIAGNOSTICS: usize = 10_000;

/// What is wrong with a rule set or a project file, or what rules would change in any other text; `None`: that is not wanted any more.
pub(super) fn diagnostics(
    path: &Path,
    document: &Document,
    changes: &mut Changes,
    projects: &mut Projects,
    is_wanted: &dyn Fn() -> bool,
) -> Option<Vec<Diagnostic>> {
    let said = |place, message, severity| diagnostic(document.range(place), message, severity, None);
    if is_rule_set(path) {
        let findings = rule_set::findings(path, document).into_iter();
        return Some(findings.map(|finding| said(finding.place, finding.message, finding.severity)).collect());
    }
    if path.file_name().is_some_and(|name| name == project::FILE_NAME) {
        let mistakes = project::mistakes(path.parent().unwrap_or(path), &document.text).into_iter();
        return Some(mistakes.map(|(place, message)| said(place, plain(&message), Severity::ERROR)).collect());
    }
    text_diagnostics(path, document, changes, projects, is_wanted)
}

/// A message without colours.
fn plain(message: &str) -> String {
    anstream::adapter::strip_str(message).to_string()
}

/// A diagnostic for each place that rules would change.
fn text_diagnostics(
    path: &Path,
    document: &Document,
    changes: &mut Changes,
    projects: &mut Projects,
    is_wanted: &dyn Fn() -> bool,
) -> Option<Vec<Diagnostic>> {
    let warning = Severity::WARNING;
    let at_start = |message| Some(vec![diagnostic(Range::default(), message, warning, None)]);
    let rules = match projects.rules_for(path) {
        Ok(Some(rules)) => rules,
        Ok(None) => return Some(Vec::new()),
        Err(why) => return at_start(format!("the project has a mistake: {why}")),
    };
    let edits = match changes.of(document, &rules, is_wanted) {
        Ok(edits) => edits,
        Err(NoAnswer::Unwanted) => return None,
        Err(NoAnswer::Failed(why)) => return at_start(why),
    };
    let one = |edit: &PlacedEdit| {
        let name = &rules.program.names()[edit.rule.0];
        diagnostic(document.range(edit.place.clone()), name.caption.clone(), Severity::INFORMATION, Some(&name.number))
    };
    let mut diagnostics: Vec<Diagnostic> = edits.iter().take(MOST_DIAGNOSTICS).map(one).collect();
    if let Some(next) = edits.get(MOST_DIAGNOSTICS) {
        let more = format!("{} more places would change from here on", edits.len() - MOST_DIAGNOSTICS);
        diagnostics.push(diagnostic(document.range(next.place.clone()), more, Severity::INFORMATION, None));
    }
    Some(diagnostics)
}
