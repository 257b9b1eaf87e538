//! Project files: which rules are for which files.
//!
//! A project file is a `washout.toml`. It is found by walking up from the working folder; see `docs/projects.md`.

mod file;

use std::collections::BTreeMap;
use std::ops::Range;
use std::path::{Path, PathBuf};

use washout_core::{Program, RuleError, RuleSet};
use washout_files::{Choice, ChosenFile, Globs, choose};

use crate::args::ProjectArgs;
use crate::exit::Trouble;
use crate::git;
use crate::kept_rules::{KeptProject, KeptRules, KeptSet, RulePart};
use crate::past::{rules_of_run, run_of};
use crate::rules::{read_kept, read_set, read_set_and_text};
use crate::show::number::counted;
use crate::show::visible::shown_path;

pub(crate) use file::FILE_NAME;
use file::ProjectFile;

/// A project file that was read, with its rule sets.
#[derive(Debug)]
pub(crate) struct Project {
    /// Where it is.
    pub(crate) file: PathBuf,
    /// The folder it is in, absolute.
    folder: PathBuf,
    /// Where its files are taken from, if not from there, absolute.
    files_from: Option<PathBuf>,
    entries: Vec<ReadEntry>,
    /// The sets of all entries, in their order.
    pub(crate) sets: Vec<RuleSet>,
    /// What it was read from.
    kept: KeptProject,
}

/// Some files, and the rule sets for them.
#[derive(Debug)]
struct ReadEntry {
    globs: Globs,
    /// For each of its sets, where it stands among those of the project.
    sets: Vec<usize>,
}

/// A rule set, and what it was read from.
type ReadSet = Result<(RuleSet, KeptSet), RuleError>;

/// Files that the same rules are for.
#[derive(Debug)]
pub(crate) struct Part {
    /// All rules, of which those for other files are off.
    pub(crate) program: Program,
    /// Which of the sets are on.
    pub(crate) is_on: Vec<bool>,
    /// Where the files stand in their list.
    pub(crate) files: Range<usize>,
}

impl Project {
    /// The project of the command line: the file it names, or the one that is found from the working folder up.
    pub(crate) fn of(args: &ProjectArgs) -> Result<Option<Self>, Trouble> {
        if let Some(file) = &args.project {
            return match run_of(file) {
                Some(run) => Self::of_run(run).map(Some),
                None => Self::read(file).map(Some),
            };
        }
        if args.no_project {
            return Ok(None);
        }
        let Ok(here) = std::env::current_dir() else { return Ok(None) };
        find(&here).map(|file| Self::read(&file)).transpose()
    }

    /// Reads a project file, and the rule sets it names.
    pub(crate) fn read(file: &Path) -> Result<Self, Trouble> {
        let text = ProjectFile::source(file)?;
        let folder = folder_of(file);
        let set = |name: &str| read_set_and_text(&from_here(&folder, name));
        Self::from_texts(file, text, &set)
    }

    /// The project whose rules a run had, as they were then.
    fn of_run(run: i64) -> Result<Self, Trouble> {
        match rules_of_run(run)? {
            KeptRules::Project(kept) => Self::of_kept(&kept),
            KeptRules::Given(_) => Err(Trouble::Usage(format!(
                "the rules of run {run} are not those of a project file; name them with -r run:{run}"
            ))),
        }
    }

    /// A project as the history keeps it.
    pub(crate) fn of_kept(kept: &KeptProject) -> Result<Self, Trouble> {
        let set = |name: &str| {
            let kept = kept.sets.get(name).cloned().unwrap_or_default();
            Ok(read_kept(&kept).map(|set| (set, kept)))
        };
        Self::from_texts(&kept.file, kept.text.clone(), &set)
    }

    fn from_texts(
        file: &Path,
        text: String,
        read_set: &dyn Fn(&str) -> Result<ReadSet, Trouble>,
    ) -> Result<Self, Trouble> {
        let read = ProjectFile::read(file, &text)?;
        let mut kept = KeptProject { file: whole(file), text, sets: BTreeMap::new() };
        let (mut sets, mut entries): (Vec<RuleSet>, Vec<ReadEntry>) = Default::default();
        let mut errors: Vec<RuleError> = Vec::new();
        for entry in read.apply {
            let mut of_entry = Vec::new();
            for name in &entry.rules {
                // Two entries with one set have it once each: they may have it at different places of their order.
                match read_set(name.get_ref())? {
                    Ok((set, text)) => {
                        of_entry.push(sets.len());
                        sets.push(set);
                        kept.sets.insert(name.get_ref().clone(), text);
                    }
                    Err(error) => errors.push(error),
                }
            }
            entries.push(ReadEntry { globs: entry.globs()?, sets: of_entry });
        }
        if !errors.is_empty() {
            errors.dedup_by_key(|error| error.name().to_owned());
            return Err(Trouble::Rules(errors));
        }
        Ok(Self { file: file.to_owned(), folder: folder_of(file), files_from: None, entries, sets, kept })
    }

    /// Takes its files from another folder, which stands for the top of its repository.
    pub(crate) fn take_files_from(&mut self, top: &Path) -> Result<(), Trouble> {
        let repository = git::path(&["rev-parse", "--path-format=absolute", "--show-toplevel"])?;
        let below = self.folder.strip_prefix(&repository).unwrap_or(Path::new(""));
        let top = top.canonicalize().map_err(|error| Trouble::File(shown_path(top), error))?;
        self.files_from = Some(top.join(below));
        Ok(())
    }

    /// Its rules as the history keeps them.
    pub(crate) fn kept(&self) -> &KeptProject {
        &self.kept
    }

    /// All its rules, for any file.
    pub(crate) fn program(&self) -> Program {
        Program::compile(&self.sets)
    }

    /// Which of its sets are for this file; `None`: none is.
    fn sets_for(&self, file: &Path) -> Option<Vec<bool>> {
        let below = self.below(file)?;
        let mut is_on = vec![false; self.sets.len()];
        let mut names: Vec<&str> = Vec::new();
        for index in self.entries.iter().filter(|entry| entry.globs.take(&below)).flat_map(|entry| &entry.sets) {
            // What an entry before has done already is done.
            let name = self.sets[*index].name.as_str();
            if !names.contains(&name) {
                names.push(name);
                is_on[*index] = true;
            }
        }
        (!names.is_empty() && !self.is_own(&below)).then_some(is_on)
    }

    /// The sets for this file, in the order they run; none, if it is none of the project's.
    pub(crate) fn sets_for_file(&self, file: &Path) -> Vec<&RuleSet> {
        let is_on = self.sets_for(file).unwrap_or_default();
        self.sets.iter().zip(is_on).filter_map(|(set, is_on)| is_on.then_some(set)).collect()
    }

    /// The same as they were read.
    pub(crate) fn parts_for_file(&self, file: &Path) -> Vec<RulePart> {
        let sets = self.sets_for_file(file).into_iter();
        let kept = |set: &RuleSet| self.kept.sets.values().find(|kept| kept.name == set.name).cloned();
        sets.filter_map(kept).map(RulePart::Set).collect()
    }

    /// The files that a set of its own is for; none, where the folder cannot be read.
    pub(crate) fn files_for_set(&self, set: &RuleSet) -> Vec<ChosenFile> {
        let place = self.sets.iter().position(|known| known.name == set.name);
        let entry = self.entries.iter().find(|entry| place.is_some_and(|place| entry.sets.contains(&place)));
        let Some(entry) = entry else { return Vec::new() };
        let choice = Choice { paths: vec![self.folder.clone()], globs: entry.globs.clone(), ..Choice::default() };
        choose(&choice).map_or_else(|_| Vec::new(), |chosen| chosen.files)
    }

    fn some(&self, is_on: &[bool]) -> Program {
        Program::compile_some(self.sets.iter().zip(is_on.iter().copied()))
    }

    /// Sorts files by the rules that are for them, and leaves out those that none are for.
    pub(crate) fn parts(&self, files: &mut Vec<ChosenFile>) -> Vec<Part> {
        let mut groups: Vec<(Vec<bool>, Vec<ChosenFile>)> = Vec::new();
        for file in std::mem::take(files) {
            let Some(is_on) = self.sets_for(&file.path) else { continue };
            match groups.iter_mut().find(|(known, _)| *known == is_on) {
                Some((_, group)) => group.push(file),
                None => groups.push((is_on, vec![file])),
            }
        }
        let part = |(is_on, group): (Vec<bool>, Vec<ChosenFile>)| {
            let start = files.len();
            files.extend(group);
            Part { program: self.some(&is_on), is_on, files: start..files.len() }
        };
        groups.into_iter().map(part).collect()
    }

    /// A path below the folder of the project.
    fn below(&self, file: &Path) -> Option<PathBuf> {
        let absolute = std::path::absolute(file).ok()?;
        // What a link leads to is not of interest, but the way to a file may be a link, or go up and down.
        let folder = absolute.parent()?.canonicalize().ok()?;
        let top = self.files_from.as_ref().unwrap_or(&self.folder);
        Some(folder.join(absolute.file_name()?).strip_prefix(top).ok()?.to_owned())
    }

    /// Whether it is a file with rules: what rules look for stands in them.
    fn is_own(&self, below: &Path) -> bool {
        let name = below.file_name().unwrap_or_default().to_string_lossy();
        let is_named = |path: &String| Path::new(path) == below || Path::new(path) == self.folder.join(below);
        name == FILE_NAME
            || is_rule_set_name(&name)
            || self.sets.iter().any(|set| is_named(&set.name) || set.files.iter().any(is_named))
    }
}

/// The project file for what is in this folder: in it, or in one above, but not above the top of its repository.
pub(crate) fn find(folder: &Path) -> Option<PathBuf> {
    for folder in folder.ancestors() {
        let file = folder.join(FILE_NAME);
        if file.is_file() {
            return Some(file);
        }
        if folder.join(".git").exists() {
            return None;
        }
    }
    None
}

/// What is wrong with the text of a project file in this folder: where, in bytes, and what.
pub(crate) fn mistakes(folder: &Path, text: &str) -> Vec<(Range<usize>, String)> {
    let file: ProjectFile = match toml::from_str(text) {
        Ok(file) => file,
        Err(error) => return vec![(error.span().unwrap_or(0..0), error.message().to_owned())],
    };
    let wrong = |name: &str| match read_set(&from_here(folder, name)) {
        Ok(Ok(_)) => None,
        Ok(Err(error)) => Some(format!("this rule set has {}", counted(error.problems().len() as u64, "mistake"))),
        Err(error) => error.message(),
    };
    let mut mistakes = Vec::new();
    for entry in &file.apply {
        mistakes.extend(entry.rules.iter().filter_map(|name| Some((name.span(), wrong(name.get_ref())?))));
        mistakes.extend(entry.mistakes_in_globs());
    }
    mistakes
}

/// The absolute path of a file.
fn whole(file: &Path) -> PathBuf {
    std::path::absolute(file).unwrap_or_else(|_| file.to_owned())
}

/// The folder a file is in, absolute and without links.
fn folder_of(file: &Path) -> PathBuf {
    let folder = whole(file).parent().unwrap_or(Path::new("/")).to_owned();
    folder.canonicalize().unwrap_or(folder)
}

/// How a rule set that a project names is called from the working folder.
fn from_here(folder: &Path, name: &str) -> PathBuf {
    if name.starts_with("ready:") || name.starts_with("my:") {
        return PathBuf::from(name);
    }
    match std::env::current_dir() {
        Ok(here) if here == folder => PathBuf::from(name),
        _ => folder.join(name),
    }
}

/// Whether rule sets are called so.
pub(crate) fn is_rule_set_name(name: &str) -> bool {
    name.ends_with(".wash.toml")
}

/// Nothing was found for a command that needs rules.
pub(crate) fn no_rules() -> Trouble {
    Trouble::Usage(format!(
        "no rules given, and no {FILE_NAME} here or in a folder above\n\
         Name a rule set with -r FILE, or give a rule: --rule 'remove.chars = \"#-\"'\n\
         To write a project file, which says which rules are for which files: {} init",
        crate::show::command_line::program_name()
    ))
}

/// A stream has no path, by which a project says what is for it.
pub(crate) fn refuse_stream(project: &Project) -> Trouble {
    Trouble::Usage(format!(
        "{} says which rules are for which files, and a stream is none; name its rules with -r FILE",
        shown_path(&project.file)
    ))
}

/// None of the files is one that rules of the project are for.
pub(crate) fn nothing_for(project: &Project) -> Trouble {
    Trouble::Usage(format!(
        "no rules of {} are for any of these files\nIts `only` and `except` say which files rules are for, from its folder",
        shown_path(&project.file)
    ))
}
