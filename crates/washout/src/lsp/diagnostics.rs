//! What is underlined in the editor.

use std::path::Path;

use super::document::Document;
use super::protocol::{diagnostic, is_rule_set};
use super::rule_set;
use super::text_file::{Changes, PlacedEdit, Projects};
use super::types::{Diagnostic, Range, Severity};

/// More places than this are counted in one more diagnostic.
const MOST_DIAGNOSTICS: usize = 10_000;

/// What is wrong with a rule set, or what rules would change in any other text.
pub(super) fn diagnostics(
    path: &Path,
    document: &Document,
    changes: &mut Changes,
    projects: &mut Projects,
) -> Vec<Diagnostic> {
    if !is_rule_set(path) {
        return text_diagnostics(path, document, changes, projects);
    }
    let findings = rule_set::findings(path, document).into_iter();
    findings.map(|finding| diagnostic(document.range(finding.place), finding.message, finding.severity, None)).collect()
}

/// A diagnostic for each place that rules would change.
fn text_diagnostics(
    path: &Path,
    document: &Document,
    changes: &mut Changes,
    projects: &mut Projects,
) -> Vec<Diagnostic> {
    let warning = Severity::WARNING;
    let at_start = |message| vec![diagnostic(Range::default(), message, warning, None)];
    let rules = match projects.rules_for(path) {
        Ok(Some(rules)) => rules,
        Ok(None) => return Vec::new(),
        Err(why) => return at_start(format!("the project has a mistake: {why}")),
    };
    let edits = match changes.of(document, &rules) {
        Ok(edits) => edits,
        Err(why) => return at_start(why),
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
    diagnostics
}
