//! What a run over files did.

use serde_json::{Value, json};
use washout_core::RuleName;
use washout_files::{Chosen, FileReport, State, Washed};

use super::trace::sizes;
use super::{of_command, path};
use crate::show::summary::Summary;

/// The files of a run, as they are reported.
pub(crate) struct FilesJson {
    files: Vec<Value>,
}

impl FilesJson {
    pub(crate) fn new(chosen: &Chosen) -> Self {
        let skipped = chosen.skipped.iter().map(|(file, why)| left(&path(file), "skipped", &why.to_string()));
        let failed = chosen.failed.iter().map(|(file, why)| left(&path(file), "failed", &why.to_string()));
        Self { files: skipped.chain(failed).collect() }
    }

    pub(crate) fn add(&mut self, report: &FileReport) {
        let file = path(&report.path);
        self.files.push(match &report.state {
            State::Changed(washed, _) => done(&file, "changed", washed),
            State::Unchanged(washed) => done(&file, "unchanged", washed),
            State::Skipped(why) => left(&file, "skipped", &why.to_string()),
            State::Failed(why) => left(&file, "failed", &why.to_string()),
        });
    }

    pub(crate) fn value(self, names: &[RuleName], summary: &Summary, is_preview: bool, run: Option<i64>) -> Value {
        let rules = names.iter().zip(summary.rules());
        of_command(
            "clean",
            json!({
                "preview": is_preview,
                "run": run,
                "rules": rules.map(|(name, (changes, files))| {
                    json!({"rule": name.number, "label": name.caption, "changes": changes, "files": files})
                }).collect::<Vec<_>>(),
                "before": sizes(summary.before),
                "after": sizes(summary.after),
                "files": self.files,
            }),
        )
    }
}

fn left(file: &str, state: &str, why: &str) -> Value {
    json!({"file": file, "state": state, "why": why, "changes": null})
}

fn done(file: &str, state: &str, washed: &Washed) -> Value {
    json!({"file": file, "state": state, "why": null, "changes": washed.changes})
}
