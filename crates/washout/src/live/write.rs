//! What the view writes, once it has been asked to: cleaned files or new names, and the way back.

use washout_core::names::{NameWasher, Planner};
use washout_core::{Program, RuleSet};
use washout_files::{
    About, Aim, Charsets, ChosenFile, Keeper, Meter, NameOrder, Plans, RequestSource, Run, RunKind, State, Stop,
    carry_out, judge, plan_restore, plan_undo,
};

use super::subject::NameSample;
use crate::exit::Trouble;
use crate::kept_rules::KeptRules;
use crate::past::{about, open_history};
use crate::show::number::counted;
use crate::show::visible::{shown, shown_path};

/// What was written, in words, and the number of the run.
pub(super) type Written = (String, Option<i64>);

/// Cleans files in place, as `clean --write` does.
pub(super) fn files(
    program: &Program,
    (sets, kept): (&[RuleSet], &KeptRules),
    files: &[ChosenFile],
) -> Result<Written, Trouble> {
    let (stop, meter, mut files) = (Stop::new(), Meter::default(), files.to_vec());
    if !program.expectations().is_empty() {
        let unmet = judge(program, &mut files, Charsets::default(), &stop);
        if let Some(unmet) = unmet.first() {
            let name = &program.names()[unmet.rule.0];
            return Err(Trouble::Usage(format!(
                "rule {} is to make {}, and makes {}; nothing was written",
                shown(&name.number),
                unmet.wanted.of("change"),
                unmet.found
            )));
        }
    }
    let keeper = Keeper::new(open_history()?, about(names_of(sets), kept))?;
    let run = Run { keeper: Some(&keeper), ..Run::new(program, &Aim::Write, &stop, &meter) };
    let (mut changed, mut changes, mut failed) = (0, 0, None);
    run.wash_all(&files, |report| match report.state {
        State::Changed(washed, _) => {
            changed += 1;
            changes += washed.changes.iter().sum::<u64>();
        }
        State::Failed(error) => drop(failed.get_or_insert(format!("{}: {error}", shown_path(&report.path)))),
        State::Unchanged(_) | State::Skipped(_) => {}
    });
    let run = keeper.end(Some(changes), false)?;
    let failed = failed.map_or_else(String::new, |why| format!("; {}", shown(&why)));
    Ok((format!("{} changed{failed}", counted(changed, "file")), run))
}

/// Renames files, as `names --write` does.
pub(super) fn names(
    program: &Program,
    (sets, kept): (&[RuleSet], &KeptRules),
    sample: &NameSample,
) -> Result<Written, Trouble> {
    let settings = sets.iter().rev().fold(sample.settings.clone(), |settings, set| settings.or(set.names.clone()));
    let washer = NameWasher::new(program, &settings);
    let source = RequestSource::Rules(&washer);
    let plans = Plans::make(sample.chosen.entries(), source, NameOrder::Name, Planner::default(), &Meter::default());
    if !plans.unmet(program).is_empty() {
        return Err(Trouble::Usage("an expectation of a rule is not met; nothing was renamed".to_owned()));
    }
    let mut history = open_history()?;
    let done = carry_out(&plans, Some(&mut history), &about(names_of(sets), kept), &Stop::new(), |_, _, _| {})?;
    let failed = done.failed.first();
    let failed = failed.map_or_else(String::new, |(path, error)| format!("; {}: {error}", shown_path(path)));
    Ok((format!("{} renamed{}", counted(done.renamed, "name"), shown(&failed)), done.run))
}

/// Undoes a run.
pub(super) fn undo(run: i64) -> Result<Written, Trouble> {
    let mut history = open_history()?;
    if history.run(run)?.kind == RunKind::Names {
        let done = plan_undo(&history, run, &[], false)?.carry_out(
            &mut history,
            &about(Vec::new(), &KeptRules::NONE),
            &Stop::new(),
            |_, _, _| {},
        )?;
        return Ok((format!("{} restored", counted(done.renamed, "name")), done.run));
    }
    let plan = plan_restore(&history, run, &[], false)?;
    let left = plan.refused.first();
    let left =
        left.map_or_else(String::new, |(path, why)| format!("; {}: {}", shown_path(path), shown(&why.to_string())));
    let about = About {
        undoes: Some(run),
        part: plan.is_part || !plan.refused.is_empty(),
        ..about(Vec::new(), &KeptRules::NONE)
    };
    let files = plan.files.len() as u64;
    let keeper = Keeper::new(history, about)?;
    let (back, failed) = plan.carry_out(&keeper, &Stop::new(), &Meter::default());
    let failed = failed.first();
    let failed = failed
        .map_or_else(String::new, |(path, error)| format!("; {}: {}", shown_path(path), shown(&error.to_string())));
    let own = keeper.end(None, back < files)?;
    Ok((format!("{} restored{left}{failed}", counted(back, "file")), own))
}

fn names_of(sets: &[RuleSet]) -> Vec<String> {
    sets.iter().map(|set| set.name.clone()).collect()
}
