//! The history of the user who runs the program.

use std::io::{self, Write};
use std::path::Path;

use bytesize::ByteSize;
use washout_files::{About, History, HistoryLimits, Pruned, state_folder};

use crate::exit::Trouble;
use crate::kept_rules::KeptRules;
use crate::out::print_warning;
use crate::show::command_line::{program_name, quoted};
use crate::show::moment::local;
use crate::show::number::counted;
use crate::show::visible::shown;

/// Opens it.
pub(crate) fn open_history() -> Result<History, Trouble> {
    Ok(History::open(&state_folder(std::env::var_os("WASHOUT_STATE"))?)?)
}

/// What it describes this run.
pub(crate) fn about(rules: Vec<String>, kept: &KeptRules) -> About {
    let command = std::env::args_os().map(|word| word.to_string_lossy().into_owned()).collect();
    let place = std::env::current_dir().unwrap_or_default();
    About { place, command, rules, rule_text: kept.to_text(), ..About::default() }
}

/// What the rules of a run are called on a command line: `run:12`.
pub(crate) const OF_RUN: &str = "run:";

/// The run whose rules are meant by a path.
pub(crate) fn run_of(path: &Path) -> Option<i64> {
    path.to_str()?.strip_prefix(OF_RUN)?.parse().ok()
}

/// The rules of a run, as they were then.
pub(crate) fn rules_of_run(run: i64) -> Result<KeptRules, Trouble> {
    let history = open_history()?;
    let about = history.run(run)?.about;
    if let Some(undone) = about.undoes {
        return Err(Trouble::Usage(format!("run {run} has no rules: it undid run {undone}")));
    }
    let text = history.rule_text(run)?;
    text.and_then(|text| KeptRules::of_text(&text, &about.place)).ok_or_else(|| {
        let program = program_name();
        Trouble::Usage(format!(
            "the rules of run {run} are not kept: it had none, or an earlier version of {program} made it\n\
             {program} history lists all runs"
        ))
    })
}

/// Tells, once, of runs that did not finish: how to undo them, and how to finish them.
pub(crate) fn print_interrupted() -> io::Result<()> {
    let Ok(folder) = state_folder(std::env::var_os("WASHOUT_STATE")) else { return Ok(()) };
    // A history that cannot be read is reported where it is needed.
    for run in History::newly_interrupted(&folder).unwrap_or_default() {
        let (id, when) = (run.id, local(run.started));
        let words: Vec<String> = run.about.command.iter().map(|word| quoted(word)).collect();
        print_warning(&format!("run {id}, begun {when}, did not finish"))?;
        let mut err = anstream::stderr();
        writeln!(err, "  to undo it:    {} undo {id}", program_name())?;
        writeln!(err, "  to finish it:  {}", shown(&words.join(" ")))?;
    }
    Ok(())
}

/// Forgets what is older or larger than the limits, and says so.
pub(crate) fn prune_by_default() -> io::Result<()> {
    let Ok(mut history) = open_history() else { return Ok(()) };
    // Another run may be at work: the next one prunes.
    let Ok(pruned) = history.prune(HistoryLimits::default()) else { return Ok(()) };
    if pruned.runs.is_empty() {
        Ok(())
    } else {
        print_warning(&format!("{}; `history prune` has other limits", summary(&pruned)))
    }
}

/// What was forgotten, in words.
pub(crate) fn summary(pruned: &Pruned) -> String {
    let runs = counted(pruned.runs.len() as u64, "run");
    let bytes = ByteSize(pruned.bytes).display().iec();
    format!("forgotten: {runs}, from {} to {}; {bytes} freed", pruned.runs[0], pruned.runs[pruned.runs.len() - 1])
}
