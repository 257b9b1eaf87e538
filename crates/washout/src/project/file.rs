//! Reading `washout.toml`.

use std::ops::Range;
use std::path::Path;

use serde::Deserialize;
use toml::Spanned;
use washout_files::{ChooseError, Globs};
use washout_sets::{SetError, read_source};

use crate::exit::Trouble;
use crate::show::diagnostics;
use crate::show::visible::shown_path;

/// What a project file is called.
pub(crate) const FILE_NAME: &str = "washout.toml";

/// What a project file says.
#[derive(Debug, Deserialize)]
#[serde(deny_unknown_fields)]
pub(crate) struct ProjectFile {
    /// Which rules are for which files. A file that several entries are for goes through the rules of each, in their order.
    pub(crate) apply: Vec<Entry>,
}

/// Some files, and the rules for them.
#[derive(Debug, Deserialize)]
#[serde(deny_unknown_fields)]
pub(crate) struct Entry {
    /// Rule sets, from the folder of the project, `ready:NAME` or `my:NAME`.
    pub(crate) rules: Vec<Spanned<String>>,
    /// Globs of files that are taken; none: all.
    #[serde(default)]
    only: Vec<Spanned<String>>,
    /// Globs of files that are not.
    #[serde(default)]
    except: Vec<Spanned<String>>,
}

impl Entry {
    /// The files that are meant.
    pub(super) fn globs(&self) -> Result<Globs, ChooseError> {
        let plain = |globs: &[Spanned<String>]| globs.iter().map(|glob| glob.get_ref().clone()).collect::<Vec<_>>();
        Globs::new(&plain(&self.only), &plain(&self.except))
    }

    /// Globs that mean nothing: where they stand, and why.
    pub(super) fn mistakes_in_globs(&self) -> impl Iterator<Item = (Range<usize>, String)> {
        let why = |glob: &Spanned<String>| Globs::new(std::slice::from_ref(glob.get_ref()), &[]).err();
        let globs = self.only.iter().chain(&self.except);
        globs.filter_map(move |glob| Some((glob.span(), why(glob)?.to_string())))
    }
}

impl ProjectFile {
    /// The text of the project file.
    pub(super) fn source(path: &Path) -> Result<String, Trouble> {
        let unreadable =
            |reason| Trouble::Usage(format!("the project file {} cannot be read: {reason}", shown_path(path)));
        // A pipe would be waited for without end.
        if let Ok(kind) = std::fs::metadata(path)
            && !kind.is_file()
        {
            return Err(unreadable(format!("it is {}, not a file", washout_sets::what_it_is(&kind))));
        }
        read_source(path).map_err(|error| match error {
            SetError::Unreadable(reason) => unreadable(reason),
            other => unreadable(other.to_string()),
        })
    }

    pub(super) fn read(path: &Path, source: &str) -> Result<Self, Trouble> {
        let file: Self = toml::from_str(source).map_err(|error| {
            let place = error.span().unwrap_or(0..0);
            let help = "a project file has [[apply]] with rules = [\"FILE\"], and only = [\"GLOB\"], except = [\"GLOB\"] if wanted";
            Trouble::Drawn(diagnostics::draw_one(&shown_path(path), source, place, error.message(), help))
        })?;
        if file.apply.is_empty() {
            return Err(Trouble::Usage(format!("{} applies no rules: it has no [[apply]]", shown_path(path))));
        }
        if let Some(number) = file.apply.iter().position(|entry| entry.rules.is_empty()) {
            let message = format!("in {}, [[apply]] number {} names no rules", shown_path(path), number + 1);
            return Err(Trouble::Usage(message));
        }
        Ok(file)
    }
}
