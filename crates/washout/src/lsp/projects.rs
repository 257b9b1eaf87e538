//! The projects of open files: which rules are for them, and which tables rule sets are for.

use std::collections::HashMap;
use std::fs::File;
use std::io::Read as _;
use std::iter;
use std::path::{Path, PathBuf};
use std::sync::Arc;

use serde_json::Value;
use washout_core::explain::Cut;
use washout_core::table::Form;
use washout_core::{Program, RuleSet};
use washout_files::ChosenFile;

use crate::project::{self, Project};
use crate::read_files::{ReadFiles, files_of};

/// Tables whose fields are offered, and how much of each is read for that, in bytes.
const MOST_TABLES: usize = 3;
const MOST_OF_TABLE: u64 = 1 << 16;

/// The rules for a file.
#[derive(Clone)]
pub(super) struct FileRules {
    pub(super) program: Arc<Program>,
    /// They act on each line alone.
    pub(super) by_line: bool,
}

impl FileRules {
    pub(super) fn new(program: Program) -> Self {
        Self { by_line: program.cut() == Cut::Lines, program: Arc::new(program) }
    }
}

/// The projects of open files, read again when a file of theirs is saved.
#[derive(Default)]
pub(super) struct Projects {
    known: HashMap<PathBuf, Known>,
}

struct Known {
    project: Result<Project, String>,
    files: ReadFiles,
    rules: HashMap<Vec<String>, FileRules>,
    /// Tables that each rule set is for.
    tables: HashMap<PathBuf, Vec<PathBuf>>,
}

impl Known {
    fn read(file: &Path) -> Self {
        let mut files = ReadFiles::now([file.to_owned()]);
        let project = Project::read(file).map_err(|error| {
            let message = error.message().unwrap_or_default();
            anstream::adapter::strip_str(&message).to_string()
        });
        if let Ok(project) = &project {
            files.add(files_of(&project.sets));
        }
        Self { project, files, rules: HashMap::new(), tables: HashMap::new() }
    }

    fn is_current(&self) -> bool {
        // One with a mistake names files that are not known.
        self.project.is_ok() && self.files.are_current()
    }
}

impl Projects {
    /// The project that a file is in, as it is saved now.
    fn project_of(&mut self, file: &Path) -> Option<&mut Known> {
        let project_file = project::find(file.parent()?)?;
        if !self.known.get(&project_file).is_some_and(Known::is_current) {
            self.known.insert(project_file.clone(), Known::read(&project_file));
        }
        self.known.get_mut(&project_file)
    }

    /// The fields of tables that a rule set is for: of the first few that its project has.
    pub(super) fn fields_for(&mut self, rule_set: &Path) -> Vec<String> {
        let Some(Known { project: Ok(project), tables, .. }) = self.project_of(rule_set) else { return Vec::new() };
        let set = project.sets.iter().find(|set| is_same_file(Path::new(&set.name), rule_set));
        let Some(set) = set else { return Vec::new() };
        let program = Program::compile(iter::empty::<&RuleSet>()).with_table(set.table.clone());
        let tables = tables.entry(rule_set.to_owned()).or_insert_with(|| {
            let files = project.files_for_set(set).into_iter();
            let is_table = |file: &ChosenFile| matches!(program.form(extension(&file.path)), Form::Table(_));
            files.filter(is_table).take(MOST_TABLES).map(|file| file.path).collect()
        });
        let mut fields: Vec<String> = Vec::new();
        for field in tables.iter().flat_map(|table| fields_of(&program, table).unwrap_or_default()) {
            if !fields.contains(&field) {
                fields.push(field);
            }
        }
        fields
    }

    /// The rules for this file; `None`: none are. The error: its project means nothing.
    pub(super) fn rules_for(&mut self, file: &Path) -> Result<Option<FileRules>, String> {
        let Some(known) = self.project_of(file) else { return Ok(None) };
        let project = known.project.as_ref().map_err(Clone::clone)?;
        let sets = project.sets_for_file(file);
        if sets.is_empty() {
            return Ok(None);
        }
        let names: Vec<String> = sets.iter().map(|set| set.name.clone()).collect();
        let rules = known.rules.entry(names).or_insert_with(|| FileRules::new(Program::compile(sets.iter().copied())));
        // Cells have places of their own, which no editor knows.
        Ok((rules.program.form(extension(file)) == Form::Text && !rules.program.is_for_tables()).then(|| rules.clone()))
    }
}

fn extension(path: &Path) -> Option<&str> {
    path.extension().and_then(|extension| extension.to_str())
}

fn is_same_file(one: &Path, other: &Path) -> bool {
    one == other || one.canonicalize().is_ok_and(|one| other.canonicalize().is_ok_and(|other| one == other))
}

/// The fields of a table, by its header or its first record; `None`: it cannot be read.
fn fields_of(program: &Program, table: &Path) -> Option<Vec<String>> {
    let Form::Table(format) = program.form(extension(table)) else { return None };
    let mut start = Vec::new();
    File::open(table).ok()?.take(MOST_OF_TABLE).read_to_end(&mut start).ok()?;
    let (first, _) = program.records(format, &start, &(1..=1)).ok()?;
    if format.is_json() {
        // An array of one, or the record itself.
        let record = match serde_json::from_slice(&first).ok()? {
            Value::Array(records) => records.into_iter().next()?,
            record => record,
        };
        return Some(record.as_object()?.keys().cloned().collect());
    }
    let texts = program.cell_texts(format, &first).ok()?;
    Some(texts.fields.iter().map(ToString::to_string).collect())
}
