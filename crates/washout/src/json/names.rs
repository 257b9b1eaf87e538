//! Names, old and new; past runs; restored names.

use std::io;
use std::os::unix::ffi::OsStrExt;
use std::path::{Path, PathBuf};

use serde_json::{Value, json};
use washout_core::RuleName;
use washout_core::names::NameOutcome;
use washout_files::{
    CarriedOut, ContentRecord, FileError, PlannedFolder, PlannedName, Plans, Pruned, RenameOutcome, RenameRecord,
    Restoration, RunEntry, RunState, Undo,
};

use super::{of_command, path, text};
use crate::names_result::RenameSummary;
use crate::show::moment::rfc3339;

/// The value of `names`.
pub(crate) fn value(plans: &Plans, names: &[RuleName], summary: &RenameSummary<'_>) -> Value {
    let rules = names.iter().zip(plans.changes.iter().zip(&plans.touched));
    of_command(
        "names",
        json!({
            "preview": summary.carried.is_none(),
            "run": summary.carried.and_then(|carried| carried.run),
            "names": entries(plans, names, summary).collect::<Vec<_>>(),
            "rules": rules.map(|(name, (changes, touched))| {
                json!({"rule": name.number, "label": name.caption, "changes": changes, "names": touched})
            }).collect::<Vec<_>>(),
            "unchanged": summary.same,
        }),
    )
}

/// A value for each name that changes, or would if it could; what could not be looked at comes first.
pub(crate) fn entries<'p>(
    plans: &'p Plans,
    rules: &'p [RuleName],
    summary: &'p RenameSummary<'_>,
) -> impl Iterator<Item = Value> + 'p {
    let folders = plans.folders.iter();
    let unseen = plans.failed.iter().map(|(at, why)| {
        let old = text(at.file_name().unwrap_or_default().as_bytes());
        json!({
            "folder": at.parent().map(path),
            "old": old,
            "new": null,
            "state": "failed",
            "why": why.to_string(),
            "rules": [],
        })
    });
    let seen =
        folders.flat_map(move |folder| folder.names().filter_map(move |name| entry(folder, name, rules, summary)));
    unseen.chain(seen)
}

fn entry(
    folder: &PlannedFolder,
    name: PlannedName<'_>,
    rules: &[RuleName],
    summary: &RenameSummary<'_>,
) -> Option<Value> {
    let (new, state, why) = match name.outcome {
        NameOutcome::Stays => return None,
        NameOutcome::Refused(wanted, why) => (wanted.as_deref(), "left", Some(why.to_string())),
        NameOutcome::Becomes(new) => {
            let failure = summary.failure(&folder.path_of(name)).map(ToString::to_string);
            let state = match (&failure, summary.carried) {
                (Some(_), _) => "failed",
                (None, None) => "would change",
                (None, Some(_)) => "renamed",
            };
            (Some(new.as_slice()), state, failure)
        }
    };
    let by: Vec<&str> = name.rules.iter().map(|(rule, _)| rules[*rule].number.as_str()).collect();
    Some(json!({
        "folder": path(&folder.shown),
        "old": text(name.name),
        "new": new.map(text),
        "state": state,
        "why": why,
        "rules": by,
    }))
}

/// The value of `history`.
pub(crate) fn history(runs: &[RunEntry]) -> Value {
    of_command("history", json!({ "runs": runs.iter().map(run).collect::<Vec<_>>() }))
}

/// Writes the value of `history RUN`.
pub(crate) fn write_one_run(entry: &RunEntry, renames: &[RenameRecord], contents: &[ContentRecord]) -> io::Result<()> {
    let mut value = run(entry);
    let outcome = |outcome: Option<RenameOutcome>, done: &'static str| match outcome {
        None => "not known",
        Some(RenameOutcome::NotDone) => "not done",
        Some(RenameOutcome::Done) => done,
        Some(RenameOutcome::Stuck) => "at a temporary name",
    };
    let name = |record: &RenameRecord| {
        json!({
            "folder": path(&record.folder),
            "old": text(&record.old),
            "new": text(&record.new),
            "outcome": outcome(record.outcome, "renamed"),
        })
    };
    let content = |record: &ContentRecord| {
        json!({
            "file": path(&record.path),
            "bytes": record.len,
            "outcome": outcome(record.outcome, "written"),
        })
    };
    value["names"] = renames.iter().map(name).collect();
    value["files"] = contents.iter().map(content).collect();
    super::write(&of_command("history", json!({ "runs": [value] })))
}

fn run(entry: &RunEntry) -> Value {
    let state = match entry.state {
        RunState::Ended => "ended",
        RunState::UnderWay => "under way",
        RunState::Interrupted => "interrupted",
    };
    json!({
        "run": entry.id,
        "started": rfc3339(entry.started),
        "ended": entry.ended.map(rfc3339),
        "state": state,
        "place": path(&entry.about.place),
        "command": entry.about.command,
        "rules": entry.about.rules,
        "kind": entry.kind.word(),
        "renamed": entry.renamed,
        "rewritten": entry.rewritten,
        "changes": entry.changes,
        "bytes_kept": entry.kept,
        "undoes": entry.about.undoes,
        "undone_by": entry.undone_by,
        "partly_undone_by": entry.partly_undone_by,
    })
}

/// The value of `undo`.
pub(crate) fn undo(undo: &Undo, carried: Option<&CarriedOut>) -> Value {
    let failure = |at: &Path| carried?.failed.iter().find(|(path, _)| path == at).map(|(_, why)| why.to_string());
    let names = undo.folders.iter().flat_map(|folder| folder.names().map(move |name| (folder, name)));
    let back = names.filter_map(|(folder, name)| {
        let NameOutcome::Becomes(old) = name.outcome else { return None };
        let why = failure(&folder.path_of(name));
        let state = match (&why, carried) {
            (Some(_), _) => "failed",
            (None, None) => "would change",
            (None, Some(_)) => "renamed",
        };
        Some(json!({"folder": path(&folder.shown), "old": text(name.name), "new": text(old), "state": state, "why": why}))
    });
    let left = undo.refused.iter().map(|(at, old, why)| {
        let folder = at.parent().map(path);
        let now = text(at.file_name().unwrap_or_default().as_bytes());
        json!({"folder": folder, "old": now, "new": text(old), "state": "left", "why": why.to_string()})
    });
    of_command(
        "undo",
        json!({
            "preview": carried.is_none(),
            "undoes": undo.run,
            "run": carried.and_then(|carried| carried.run),
            "names": back.chain(left).collect::<Vec<_>>(),
            "files": [],
            "removed": [],
        }),
    )
}

/// Temporary files that were removed, or would be; no run was undone.
pub(crate) fn left_behind(removed: &[PathBuf], is_preview: bool) -> Value {
    let removed: Vec<String> = removed.iter().map(|file| path(file)).collect();
    of_command(
        "undo",
        json!({"preview": is_preview, "undoes": null, "run": null, "names": [], "files": [], "removed": removed}),
    )
}

/// The number of a run, and what failed in it.
type NamesDone<'d> = (Option<i64>, &'d [(PathBuf, FileError)]);

/// The value of `undo` for contents. `done`: the number of the run of its own, and what failed.
pub(crate) fn restore(run: i64, plan: &Restoration, done: Option<NamesDone<'_>>) -> Value {
    let failure = |file: &Path| done?.1.iter().find(|(path, _)| path == file).map(|(_, why)| why.to_string());
    let files = plan.files.iter().map(|record| {
        let why = failure(&record.path);
        let state = match (&why, done) {
            (Some(_), _) => "failed",
            (None, None) => "would change",
            (None, Some(_)) => "put back",
        };
        json!({"file": path(&record.path), "state": state, "why": why})
    });
    let left =
        plan.refused.iter().map(|(file, why)| json!({"file": path(file), "state": "left", "why": why.to_string()}));
    of_command(
        "undo",
        json!({
            "preview": done.is_none(),
            "undoes": run,
            "run": done.and_then(|(own, _)| own),
            "names": [],
            "files": files.chain(left).collect::<Vec<_>>(),
            "removed": [],
        }),
    )
}

/// What was forgotten of the history.
pub(crate) fn pruned(pruned: &Pruned, kept: u64) -> Value {
    of_command("history prune", json!({"runs": pruned.runs, "bytes_freed": pruned.bytes, "bytes_kept": kept}))
}
