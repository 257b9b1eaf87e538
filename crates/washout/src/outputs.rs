//! Files that a command writes besides its results: reports, drafts, tables of names.

use std::io::Write as _;
use std::path::{Path, PathBuf};

use washout_core::RuleSet;
use washout_files::{ChosenFile, OutputError, OutputFile};

use crate::args::{ChoiceArgs, RuleArgs};
use crate::exit::Trouble;
use crate::show::visible::{shown, shown_path};

/// The files that a run reads: no output may replace one of them.
pub(crate) struct Inputs<'f> {
    /// Those that are worked on. There may be a million of them.
    files: &'f [ChosenFile],
    others: Vec<PathBuf>,
}

impl<'f> Inputs<'f> {
    /// The files that are worked on, and the list they come from.
    pub(crate) fn of(files: &'f [ChosenFile], choice: &ChoiceArgs) -> Self {
        // Standard input may be a file too.
        Self { files, others: choice.files_from.iter().cloned().chain([PathBuf::from("/dev/stdin")]).collect() }
    }

    /// Also the rule sets, and the files they name.
    pub(crate) fn with_rules(mut self, args: &RuleArgs, sets: &[RuleSet]) -> Self {
        self.others.extend(args.rules.iter().filter_map(|path| washout_sets::resolved(path).ok()));
        self.others.extend(sets.iter().map(|set| PathBuf::from(&set.name)));
        self.others.extend(sets.iter().flat_map(|set| &set.files).map(PathBuf::from));
        self
    }

    /// Also this file.
    pub(crate) fn with(mut self, path: &Path) -> Self {
        self.others.push(path.to_owned());
        self
    }
}

/// Starts these outputs, after checking all of them.
pub(crate) fn start(paths: &[&Path], inputs: &Inputs<'_>, overwrite: bool) -> Result<Vec<OutputFile>, Trouble> {
    let files = inputs.files.iter().map(|file| &file.path).chain(&inputs.others);
    let started = OutputFile::start_all(paths, files.map(PathBuf::as_path), overwrite);
    started.map_err(|error| Trouble::Usage(format!("{}\nNothing was done.", shown(&error.to_string()))))
}

/// Writes a text to an output, and puts it in its place; gives where that is.
pub(crate) fn write_whole(mut file: OutputFile, text: &str) -> Result<PathBuf, Trouble> {
    file.write_all(text.as_bytes()).map_err(|error| Trouble::File(shown_path(file.path()), error))?;
    Ok(file.finish()?)
}

impl From<OutputError> for Trouble {
    fn from(error: OutputError) -> Self {
        match error {
            OutputError::Write { path, cause } => Self::File(path.to_string_lossy().into_owned(), cause),
            other => Self::Usage(shown(&other.to_string())),
        }
    }
}
