//! Files that were saved, through the rules.

use std::collections::{HashMap, HashSet};
use std::io::Write as _;
use std::path::{Path, PathBuf};

use clap::ArgMatches;
use washout_core::names::{NameOutcome, NameSettings, NameWasher, Planner};
use washout_core::{Program, RuleName};
use washout_files::{
    Aim, Charsets, Choice, Chosen, ChosenFile, FileError, FileReport, Globs, Keeper, Meter, NameOrder, Plans,
    RequestSource, Run, Stamp, State, Stop, Take, carry_out, choose, judge,
};

use super::absolute;
use crate::args::{RuleArgs, WatchArgs};
use crate::assigned::AssignedRules;
use crate::exit::Trouble;
use crate::files::start_threads_for;
use crate::out::{print_failed, print_warning};
use crate::past::{about, open_history, prune_by_default};
use crate::project::Part;
use crate::read_files::ReadFiles;
use crate::rules::name_settings;
use crate::show::command_line::program_name;
use crate::show::moment::clock;
use crate::show::names::drawn;
use crate::show::number::counted;
use crate::show::style::QUIET;
use crate::show::unmet;
use crate::show::visible::{shown, shown_path};

/// What is done with files, batch by batch.
pub(super) struct Batches<'a> {
    args: &'a WatchArgs,
    rule_args: RuleArgs,
    given: &'a ArgMatches,
    rules: AssignedRules,
    rule_files: ReadFiles,
    /// The rules were saved with a mistake: work waits until it is mended.
    are_wrong: bool,
    settings: NameSettings,
    /// The files and folders that are watched, as named.
    pub(super) roots: Vec<PathBuf>,
    /// Files of which this watch has written a copy.
    copied: HashSet<PathBuf>,
    /// Names that are left alone, and why: said once.
    refused: HashMap<PathBuf, String>,
}

impl<'a> Batches<'a> {
    pub(super) fn new(args: &'a WatchArgs, given: &'a ArgMatches) -> Result<Self, Trouble> {
        if !args.write && !args.names && args.into.is_none() {
            let message = "what is to be done with files that are saved?\n--write cleans them in place, --into DIR writes cleaned \
                           copies, --names renames them";
            return Err(Trouble::Usage(message.to_owned()));
        }
        let rules = read_rules(args, &args.rules, given)?;
        let roots = rules.paths(&args.paths, &args.choice);
        if roots.is_empty() || args.choice.files_from.is_some() {
            return Err(Trouble::Usage("name the files and folders to watch".to_owned()));
        }
        if let Some(gone) = roots.iter().find(|root| !root.exists()) {
            return Err(Trouble::Usage(format!("{}: no such file or directory", shown_path(gone))));
        }
        let settings = name_settings(None, rules.sets());
        let rule_files = ReadFiles::now(rules.files());
        Ok(Self {
            args,
            // They are saved once.
            rule_args: RuleArgs { save_rules: None, ..args.rules.clone() },
            given,
            rules,
            rule_files,
            are_wrong: false,
            settings,
            roots,
            copied: HashSet::new(),
            refused: HashMap::new(),
        })
    }

    /// Says what is watched.
    pub(super) fn greet(&self, files: usize) -> Result<(), Trouble> {
        let roots: Vec<String> = self.roots.iter().map(|root| shown_path(root)).collect();
        let sets: Vec<String> = match self.rules.project() {
            Some(project) => vec![shown_path(&project.file)],
            None => self.rules.sets().iter().map(|set| shown(&set.name)).collect(),
        };
        let mut out = anstream::stdout();
        let files = counted(files as u64, "file");
        writeln!(out, "watching {} ({files}) with {}; Ctrl-C ends", roots.join(", "), sets.join(", "))?;
        Ok(out.flush()?)
    }

    /// All files that may be worked on, by their absolute paths.
    pub(super) fn files(&self) -> Result<Vec<PathBuf>, Trouble> {
        Ok(self.chosen()?.files.iter().map(|file| absolute(&file.path)).collect())
    }

    fn chosen(&self) -> Result<Chosen, Trouble> {
        let choice = &self.args.choice;
        // One that is gone is waited for.
        let paths: Vec<PathBuf> = self.roots.iter().filter(|root| root.exists()).cloned().collect();
        if paths.is_empty() {
            return Ok(Chosen::default());
        }
        Ok(choose(&Choice {
            paths,
            globs: Globs::new(&choice.only, &choice.except)?,
            with_hidden: choice.with_hidden,
            with_ignored: choice.with_ignored,
            with_binary: choice.with_binary,
            take: if self.args.names { Take::Names } else { Take::Contents },
            avoid: self.args.into.clone(),
        })?)
    }

    /// Reads the rules again if they were saved. Whether there are any to work by.
    fn follow_rules(&mut self) -> Result<bool, Trouble> {
        if self.rule_files.are_current() {
            return Ok(!self.are_wrong);
        }
        let mut files = self.rule_files.again();
        match read_rules(self.args, &self.rule_args, self.given) {
            Ok(rules) => {
                files.add(rules.files());
                (self.settings, self.rules, self.are_wrong) = (name_settings(None, rules.sets()), rules, false);
                line(&format!("{QUIET}the rules were saved, and are read again{QUIET:#}"))?;
            }
            Err(error) => {
                self.are_wrong = true;
                let mut err = anstream::stderr();
                writeln!(err, "{}", error.message().unwrap_or_default())?;
                print_warning("the rules were saved with this mistake; files wait until it is mended")?;
            }
        }
        self.rule_files = files;
        Ok(!self.are_wrong)
    }

    /// Works on those of these files that are to be worked on; gives those that have to wait.
    pub(super) fn work(&mut self, ready: &HashSet<PathBuf>, stop: &Stop) -> Result<Vec<PathBuf>, Trouble> {
        if !self.follow_rules()? {
            return Ok(ready.iter().cloned().collect());
        }
        let mut chosen = self.chosen()?;
        chosen.files.retain(|file| ready.contains(&absolute(&file.path)));
        if chosen.files.is_empty() {
            return Ok(Vec::new());
        }
        if self.args.into.is_some() {
            self.copy(chosen, stop)?;
            return Ok(Vec::new());
        }
        let history = open_history()?;
        if history.is_at_work_now()? {
            // It may be putting these back, or be about to say that it has written them.
            return Ok(chosen.files.iter().map(|file| absolute(&file.path)).collect());
        }
        // Whatever another program does from now on is seen: these files have to be the same when they are opened.
        chosen.files.iter_mut().for_each(|file| file.stamp = Stamp::of_path(&file.path));
        let paths: Vec<PathBuf> = chosen.files.iter().map(|file| file.path.clone()).collect();
        let as_left = if self.args.names { history.names_are_as_left(&paths)? } else { history.are_as_left(&paths)? };
        drop(history);
        let mut as_left = as_left.into_iter();
        chosen.files.retain(|_| !as_left.next().unwrap_or(false));
        if chosen.files.is_empty() {
            return Ok(Vec::new());
        }
        if self.args.names {
            self.rename(&chosen, stop)?;
            return Ok(Vec::new());
        }
        self.clean(chosen, stop)
    }

    fn names(&self) -> Vec<String> {
        self.rules.sets().iter().map(|set| set.name.clone()).collect()
    }

    fn clean(&self, mut chosen: Chosen, stop: &Stop) -> Result<Vec<PathBuf>, Trouble> {
        let parts = self.parts(&mut chosen.files)?;
        let keeper = Keeper::new(open_history()?, about(self.names(), &self.rules.kept()))?;
        let Done { changed, changes, later } =
            self.wash(&parts, &mut chosen.files, &Aim::Write, Some(&keeper), stop)?;
        if let Some(run) = keeper.end(Some(changes), false)? {
            prune_by_default()?;
            let files = counted(changed, "file");
            line(&format!("{QUIET}run {run}: {files} changed; to undo: {} undo {run}{QUIET:#}", program_name()))?;
        }
        Ok(later)
    }

    fn copy(&mut self, chosen: Chosen, stop: &Stop) -> Result<(), Trouble> {
        let Some(folder) = &self.args.into else { return Ok(()) };
        let is_own = |file: &ChosenFile| self.args.overwrite || self.copied.contains(&file.path);
        let (own, new): (Vec<_>, Vec<_>) = chosen.files.into_iter().partition(is_own);
        for (mut files, overwrite) in [(own, true), (new, false)] {
            let aim = Aim::Into { folder: folder.clone(), overwrite };
            let was_there: HashSet<PathBuf> = files
                .iter()
                .filter(|file| !overwrite && folder.join(file.below()).exists())
                .map(|file| file.path.clone())
                .collect();
            let parts = self.parts(&mut files)?;
            self.wash(&parts, &mut files, &aim, None, stop)?;
            let is_copied = |file: &ChosenFile| !was_there.contains(&file.path) && folder.join(file.below()).exists();
            self.copied.extend(files.into_iter().filter(is_copied).map(|file| file.path));
        }
        Ok(())
    }

    /// Sorts files by the rules that are for them; none, if what was saved is nothing that rules are for.
    fn parts(&self, files: &mut Vec<ChosenFile>) -> Result<Vec<Part>, Trouble> {
        match self.rules.parts(&self.args.rules, files, |program| Ok(adapted(self.args, program))) {
            Err(_) if files.is_empty() => Ok(Vec::new()),
            parts => parts,
        }
    }

    /// Washes files and says what came of it.
    fn wash(
        &self,
        parts: &[Part],
        files: &mut [ChosenFile],
        aim: &Aim,
        keeper: Option<&Keeper>,
        stop: &Stop,
    ) -> Result<Done, Trouble> {
        let mut done = Done::default();
        if files.is_empty() {
            return Ok(done);
        }
        start_threads_for(self.args.choice.jobs, files.iter().map(|file| &file.path), true);
        let mut written = Ok(());
        for part in parts {
            let files = &mut files[part.files.clone()];
            if !part.program.expectations().is_empty() {
                let stamps: Vec<Option<Stamp>> = files.iter().map(|file| file.stamp).collect();
                let unmet = judge(&part.program, files, Charsets::default(), stop);
                // They have to be the files that were looked at before, which another program may have cleaned since.
                for (file, stamp) in files.iter_mut().zip(stamps) {
                    file.stamp = stamp.or(file.stamp);
                }
                if !unmet.is_empty() {
                    unmet::draw(&unmet, part.program.names(), &mut anstream::stderr())?;
                    continue;
                }
            }
            let meter = Meter::default();
            let run = Run { keeper, ..Run::new(&part.program, aim, stop, &meter) };
            run.wash_all(files, |report: FileReport| {
                let said = match report.state {
                    State::Changed(washed, _) => {
                        done.changed += 1;
                        done.changes += washed.changes.iter().sum::<u64>();
                        line(&format!(
                            "{}  {}",
                            shown_path(&report.path),
                            by_rule(part.program.names(), &washed.changes)
                        ))
                    }
                    State::Failed(FileError::ChangedMeanwhile) => {
                        done.later.push(absolute(&report.path));
                        Ok(())
                    }
                    State::Failed(error) => print_failed(&report.path, &error, &mut anstream::stdout()),
                    State::Unchanged(_) | State::Skipped(_) => Ok(()),
                };
                if written.is_ok() {
                    written = said;
                }
            });
        }
        written?;
        Ok(done)
    }

    fn rename(&mut self, chosen: &Chosen, stop: &Stop) -> Result<(), Trouble> {
        let program = &self.rules.program;
        let washer = NameWasher::new(program, &self.settings);
        let source = RequestSource::Rules(&washer);
        let plans = Plans::make(chosen.entries(), source, NameOrder::Name, Planner::default(), &Meter::default());
        let unmet = plans.unmet(program);
        if !unmet.is_empty() {
            return Ok(unmet::draw(&unmet, program.names(), &mut anstream::stderr())?);
        }
        for folder in &plans.folders {
            for name in folder.names() {
                if let NameOutcome::Refused(_, why) = name.outcome {
                    let (path, why) = (folder.path_of(name), shown(&why.to_string()));
                    if self.refused.get(&path) != Some(&why) {
                        print_warning(&format!("{}: left alone: {why}", shown_path(&path)))?;
                        self.refused.insert(path, why);
                    }
                }
            }
        }
        if plans.renames() == 0 {
            return Ok(());
        }
        let mut history = open_history()?;
        let mut renamed = Vec::new();
        let done = carry_out(
            &plans,
            Some(&mut history),
            &about(self.names(), &self.rules.kept()),
            stop,
            |folder: &Path, old, new| {
                renamed.push(format!("{} → {}", shown_path(&folder.join(path_of(old))), drawn(new)));
            },
        )?;
        renamed.iter().try_for_each(|renamed| line(renamed))?;
        for (path, error) in &done.failed {
            print_warning(&format!("{}: {}", shown_path(path), shown(&error.to_string())))?;
        }
        if let Some(run) = done.run.filter(|_| done.renamed > 0) {
            let names = counted(done.renamed, "name");
            line(&format!("{QUIET}run {run}: {names} changed; to undo: {} undo {run}{QUIET:#}", program_name()))?;
        }
        Ok(())
    }
}

/// What came of a batch.
#[derive(Default)]
struct Done {
    /// Files that changed.
    changed: u64,
    /// How many changes rules made.
    changes: u64,
    /// Files that were saved again meanwhile.
    later: Vec<PathBuf>,
}

fn read_rules(args: &WatchArgs, rules: &RuleArgs, given: &ArgMatches) -> Result<AssignedRules, Trouble> {
    if args.names && rules.is_empty() {
        return Err(Trouble::Usage(
            "names need rules of their own: -r FILE, or --rule\nThose of a project file are for what is in files"
                .to_owned(),
        ));
    }
    let rules = AssignedRules::of(rules, &args.project, given, |program| Ok(adapted(args, program)))?;
    if args.names && rules.program.is_for_tables() {
        return Err(Trouble::Usage("a rule is for fields of tables, and names have none".to_owned()));
    }
    Ok(rules)
}

fn adapted(args: &WatchArgs, program: Program) -> Program {
    program.with_table(args.table.settings())
}

fn path_of(name: &[u8]) -> PathBuf {
    use std::os::unix::ffi::OsStrExt;
    PathBuf::from(std::ffi::OsStr::from_bytes(name))
}

/// A line with the time before it.
fn line(text: &str) -> std::io::Result<()> {
    let mut out = anstream::stdout();
    writeln!(out, "{}  {text}", clock())?;
    out.flush()
}

/// `27 changes (rule 1: 3, rule 4: 24)`
fn by_rule(names: &[RuleName], changes: &[u64]) -> String {
    let made = names.iter().zip(changes).filter(|(_, changes)| **changes > 0);
    let rules: Vec<String> = made.map(|(name, changes)| format!("rule {}: {changes}", shown(&name.number))).collect();
    format!("{} ({})", counted(changes.iter().sum(), "change"), rules.join(", "))
}
