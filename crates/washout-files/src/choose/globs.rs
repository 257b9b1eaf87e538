//! `--only` and `--except`.

use std::path::Path;

use globset::{GlobBuilder, GlobSet, GlobSetBuilder};

use crate::error::ChooseError;

/// Which files below a folder are taken.
#[derive(Clone, Debug, Default)]
pub struct Globs {
    /// Empty: all.
    only: Option<GlobSet>,
    except: Option<GlobSet>,
}

impl Globs {
    /// Files that match one of `only` (all, if there is none) and none of `except`.
    ///
    /// A glob with a `/` in it is for the path below the named folder, one without for the file's name alone.
    ///
    /// # Errors
    /// A glob that cannot be read.
    pub fn new(only: &[String], except: &[String]) -> Result<Self, ChooseError> {
        Ok(Self { only: set(only)?, except: set(except)? })
    }

    /// Whether there are none, and so every path is taken.
    pub(super) fn take_all(&self) -> bool {
        self.only.is_none() && self.except.is_none()
    }

    /// Whether a file is taken. The path is below the folder that was named.
    pub fn take(&self, path: &Path) -> bool {
        let matches = |set: &GlobSet| {
            let name = path.file_name().map(Path::new);
            set.is_match(path) || name.is_some_and(|name| set.is_match(name))
        };
        self.only.as_ref().is_none_or(matches) && !self.except.as_ref().is_some_and(matches)
    }
}

fn set(globs: &[String]) -> Result<Option<GlobSet>, ChooseError> {
    if globs.is_empty() {
        return Ok(None);
    }
    let mut builder = GlobSetBuilder::new();
    for glob in globs {
        let bad = |error: &globset::Error| ChooseError::BadGlob { glob: glob.clone(), cause: error.kind().to_string() };
        builder.add(GlobBuilder::new(glob).literal_separator(true).build().map_err(|error| bad(&error))?);
    }
    let all = globs.join(", ");
    let set = builder.build().map_err(|error| ChooseError::BadGlob { glob: all, cause: error.to_string() })?;
    Ok(Some(set))
}
