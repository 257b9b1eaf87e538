//! Reports of a run: a page for people, or a line for each change for audits.

mod html;
mod jsonl;
pub(crate) mod names;
mod page;
mod rules;
pub(crate) mod survey;

pub(crate) use jsonl::ChangeJson;

use std::io::{self, Write};
use std::path::{Path, PathBuf};

use washout_core::RuleName;
use washout_files::{Excerpt, OutputFile, Washed};

use crate::exit::Trouble;
use crate::outputs::{self, Inputs, write_whole};
use crate::record::copy_record;
use crate::show::summary::Summary;
use crate::show::visible::shown_path;

/// The files of the reports that were requested.
#[derive(Default)]
pub(crate) struct ReportFiles {
    pages: Vec<OutputFile>,
    lines: Vec<OutputFile>,
}

/// The reports of a run over contents.
#[derive(Default)]
pub(crate) struct Reports {
    files: ReportFiles,
    changes: html::Changes,
}

/// What a report is, by its file's name.
pub(crate) enum ReportKind {
    Html,
    Jsonl,
}

impl ReportKind {
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

impl ReportFiles {
    /// Starts them. Nothing has been done before that.
    pub(crate) fn start(paths: &[PathBuf], inputs: &Inputs<'_>, overwrite: bool) -> Result<Self, Trouble> {
        let kinds = paths.iter().map(|path| ReportKind::of(path)).collect::<Result<Vec<_>, _>>()?;
        let started = outputs::start(&paths.iter().map(PathBuf::as_path).collect::<Vec<_>>(), inputs, overwrite)?;
        let mut files = Self::default();
        for (kind, file) in kinds.into_iter().zip(started) {
            match kind {
                ReportKind::Html => files.pages.push(file),
                ReportKind::Jsonl => files.lines.push(file),
            }
        }
        Ok(files)
    }

    /// All of them.
    pub(crate) fn iter(&self) -> impl Iterator<Item = &OutputFile> {
        self.pages.iter().chain(&self.lines)
    }

    /// Writes the page to each file that is one, and puts all files in their places; gives where those are.
    fn finish(self, page: impl FnOnce() -> String) -> Result<Vec<PathBuf>, Trouble> {
        let page = if self.pages.is_empty() { String::new() } else { page() };
        let lines = self.lines.into_iter().map(|file| Ok(file.finish()?));
        let pages = self.pages.into_iter().map(|file| write_whole(file, &page));
        lines.chain(pages).collect()
    }
}

impl Reports {
    /// Reports to these files.
    pub(crate) fn new(files: ReportFiles) -> Self {
        Self { files, changes: html::Changes::default() }
    }

    /// How many hunks of a file the page wants.
    pub(crate) fn hunks(&self) -> usize {
        if self.files.pages.is_empty() { 0 } else { html::MOST_HUNKS }
    }

    /// Whether each change is to be written down, as [`ChangeJson`].
    pub(crate) fn want_lines(&self) -> bool {
        !self.files.lines.is_empty()
    }

    /// Takes what was kept of a file, and its changes one by one if they were written down.
    pub(crate) fn add(
        &mut self,
        path: &Path,
        washed: &Washed,
        excerpt: &Excerpt,
        lines: Option<impl io::Read>,
    ) -> io::Result<()> {
        if let Some(lines) = lines {
            copy_record(lines, &mut ToAll(&mut self.files.lines))?;
        }
        if !self.files.pages.is_empty() {
            self.changes.add(path, washed, excerpt);
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
        let Self { files, changes } = self;
        files.finish(|| changes.page(names, summary, is_preview))
    }
}

/// Writes the same to several files.
struct ToAll<'f>(&'f mut [OutputFile]);

impl Write for ToAll<'_> {
    fn write(&mut self, bytes: &[u8]) -> io::Result<usize> {
        self.0.iter_mut().try_for_each(|file| file.write_all(bytes)).map(|()| bytes.len())
    }

    fn flush(&mut self) -> io::Result<()> {
        Ok(())
    }
}
