//! Reports of a run: a page for people, or a line for each change for audits.

mod html;
mod jsonl;
pub(crate) mod names;
mod page;
mod rules;
pub(crate) mod survey;

pub(crate) use jsonl::change_line;

use std::fs::Permissions;
use std::io::{self, Write};
use std::os::unix::fs::PermissionsExt;
use std::path::{Path, PathBuf};

use tempfile::NamedTempFile;
use washout_core::RuleName;
use washout_files::{FileReport, Recorder, State};

use crate::exit::Trouble;
use crate::show::summary::Summary;
use crate::show::visible::shown_path;

/// The reports that were asked for.
#[derive(Default)]
pub(crate) struct Reports {
    lines: Option<Target>,
    page: Option<(Target, html::Changes)>,
}

/// A report is written beside its place and put there when it is whole.
struct Target {
    path: PathBuf,
    file: NamedTempFile,
}

/// What a report is, by its file's name.
pub(crate) enum Kind {
    Html,
    Jsonl,
}

impl Kind {
    pub(crate) fn of(path: &Path) -> Result<Self, Trouble> {
        match path.extension().and_then(|extension| extension.to_str()) {
            Some("html" | "htm") => Ok(Self::Html),
            Some("jsonl") => Ok(Self::Jsonl),
            _ => Err(Trouble::Usage(format!(
                "{}: a report is a page, NAME.html, or a line for each change, NAME.jsonl",
                shown_path(path)
            ))),
        }
    }
}

impl Target {
    fn open(path: &Path) -> Result<Self, Trouble> {
        let folder = path.parent().filter(|folder| !folder.as_os_str().is_empty()).unwrap_or(Path::new("."));
        let failed = |error: io::Error| Trouble::Usage(format!("the report {}: {error}", shown_path(path)));
        // Temporary files are for their owner alone; a report is for whoever may read new files.
        let file = tempfile::Builder::new().permissions(Permissions::from_mode(0o666)).tempfile_in(folder);
        Ok(Self { path: path.to_owned(), file: file.map_err(failed)? })
    }

    fn finish(self) -> Result<PathBuf, Trouble> {
        let failed = |error| Trouble::File(shown_path(&self.path), error);
        self.file.as_file().sync_all().map_err(failed)?;
        self.file.persist(&self.path).map_err(|error| Trouble::File(shown_path(&self.path), error.error))?;
        Ok(self.path)
    }
}

/// Writes a whole report at once.
pub(crate) fn write_whole(path: &Path, text: &str) -> Result<PathBuf, Trouble> {
    let mut target = Target::open(path)?;
    target.file.write_all(text.as_bytes()).map_err(|error| Trouble::File(shown_path(path), error))?;
    target.finish()
}

impl Reports {
    /// Opens what is to be written, before any file is touched.
    pub(crate) fn open(paths: &[PathBuf]) -> Result<Self, Trouble> {
        let mut reports = Self::default();
        for path in paths {
            match Kind::of(path)? {
                Kind::Html => reports.page = Some((Target::open(path)?, html::Changes::default())),
                Kind::Jsonl => reports.lines = Some(Target::open(path)?),
            }
        }
        Ok(reports)
    }

    /// How many hunks of a file the page wants.
    pub(crate) fn hunks(&self) -> usize {
        if self.page.is_some() { html::MOST_HUNKS } else { 0 }
    }

    /// Writes each change down, if that is asked for.
    pub(crate) fn recorder<'n>(&self, names: &'n [RuleName]) -> Option<Box<Recorder<'n>>> {
        let record: Box<Recorder<'n>> = Box::new(move |file, change, out| change_line(names, file, change, out));
        self.lines.as_ref().map(|_| record)
    }

    pub(crate) fn add(&mut self, report: &mut FileReport) -> io::Result<()> {
        let State::Changed(washed, Some(followed)) = &mut report.state else { return Ok(()) };
        if let (Some(target), Some(mut record)) = (&mut self.lines, followed.record.take()) {
            io::copy(&mut record, &mut target.file)?;
        }
        if let Some((_, changes)) = &mut self.page {
            changes.add(&report.path, washed, &followed.excerpt);
        }
        Ok(())
    }

    /// Puts the reports in their places; gives where those are.
    pub(crate) fn finish(
        self,
        names: &[RuleName],
        summary: &Summary,
        is_preview: bool,
    ) -> Result<Vec<PathBuf>, Trouble> {
        let mut paths = Vec::new();
        if let Some(target) = self.lines {
            paths.push(target.finish()?);
        }
        if let Some((mut target, changes)) = self.page {
            let page = changes.page(names, summary, is_preview);
            let failed = |error| Trouble::File(shown_path(&target.path), error);
            target.file.write_all(page.as_bytes()).map_err(failed)?;
            paths.push(target.finish()?);
        }
        Ok(paths)
    }
}
