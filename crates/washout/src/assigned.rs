//! Rules, and the files they are for: those of the command line, or those of the project.

use std::path::{Path, PathBuf};

use clap::ArgMatches;
use washout_core::{Program, RuleSet};
use washout_files::ChosenFile;

use crate::args::{ChoiceArgs, ProjectArgs, RuleArgs};
use crate::exit::Trouble;
use crate::kept_rules::{KeptRules, RulePart};
use crate::project::{Part, Project, no_rules, nothing_for};
use crate::read_files::files_of;
use crate::rules::{limited, parts, program};
use crate::show::command_line::quoted;
use crate::show::visible::shown_path;

/// Rules, and the files they are for.
pub(crate) struct AssignedRules {
    /// All of them, adapted to the command line.
    pub(crate) program: Program,
    source: Source,
}

enum Source {
    /// All rules are for all files. `texts`: what the history keeps of them.
    Given {
        sets: Vec<RuleSet>,
        texts: Vec<RulePart>,
    },
    Project(Project),
}

impl AssignedRules {
    /// The rules that were given or else those of the project. `adapt`: what else the command line makes of a program.
    pub(crate) fn of(
        args: &RuleArgs,
        project: &ProjectArgs,
        given: &ArgMatches,
        adapt: impl Fn(Program) -> Result<Program, Trouble>,
    ) -> Result<Self, Trouble> {
        if !args.is_empty() {
            let (program, sets) = program(args, given)?;
            let texts = parts(args, given)?;
            return Ok(Self { program: adapt(program)?, source: Source::Given { sets, texts } });
        }
        let Some(project) = Project::of(project)? else { return Err(no_rules()) };
        let program = adapt(limited(project.program(), args)?)?;
        Ok(Self { program, source: Source::Project(project) })
    }

    pub(crate) fn sets(&self) -> &[RuleSet] {
        match &self.source {
            Source::Given { sets, .. } => sets,
            Source::Project(project) => &project.sets,
        }
    }

    /// The files that they come from.
    pub(crate) fn files(&self) -> Vec<PathBuf> {
        let project = self.project().map(|project| project.file.clone());
        project.into_iter().chain(files_of(self.sets())).collect()
    }

    /// The rules as the history keeps them.
    pub(crate) fn kept(&self) -> KeptRules {
        match &self.source {
            Source::Given { texts, .. } => KeptRules::Given(texts.clone()),
            Source::Project(project) => KeptRules::Project(project.kept().clone()),
        }
    }

    pub(crate) fn project(&self) -> Option<&Project> {
        match &self.source {
            Source::Given { .. } => None,
            Source::Project(project) => Some(project),
        }
    }

    /// These paths, or the working folder where a project says which of its files are meant.
    pub(crate) fn paths(&self, paths: &[PathBuf], choice: &ChoiceArgs) -> Vec<PathBuf> {
        let is_open = paths.is_empty() && choice.files_from.is_none() && self.project().is_some();
        if is_open { vec![PathBuf::from(".")] } else { paths.to_vec() }
    }

    /// Makes another folder the working folder, with files in it that stand for those of the repository.
    pub(crate) fn move_to(&mut self, folder: &Path) -> Result<(), Trouble> {
        if let Source::Project(project) = &mut self.source {
            project.take_files_from(folder)?;
        }
        std::env::set_current_dir(folder).map_err(|error| Trouble::File(shown_path(folder), error))
    }

    /// The options that say which rules, to be typed again after the name of a command.
    pub(crate) fn typed(args: &RuleArgs) -> String {
        let sets = args.rules.iter().map(|set| format!(" -r {}", quoted(&set.to_string_lossy())));
        sets.chain(args.rule.iter().map(|rule| format!(" --rule {}", quoted(rule)))).collect()
    }

    /// Sorts files by the rules that are for them, and leaves out those that none are for.
    pub(crate) fn parts(
        &self,
        args: &RuleArgs,
        files: &mut Vec<ChosenFile>,
        adapt: impl Fn(Program) -> Result<Program, Trouble>,
    ) -> Result<Vec<Part>, Trouble> {
        let project = match &self.source {
            Source::Project(project) => project,
            Source::Given { sets, .. } => {
                let is_on = vec![true; sets.len()];
                return Ok(vec![Part { program: self.program.clone(), is_on, files: 0..files.len() }]);
            }
        };
        let any = !files.is_empty();
        let parts = project.parts(files);
        if any && parts.is_empty() {
            return Err(nothing_for(project));
        }
        let adapted = |part: Part| Ok(Part { program: adapt(limited(part.program, args)?)?, ..part });
        parts.into_iter().map(adapted).collect()
    }
}
