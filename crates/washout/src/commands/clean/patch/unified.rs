//! Hunks of a unified diff, written as the lines of two texts are gone through.

use std::collections::VecDeque;
use std::io::{self, Seek, Write};
use std::path::Path;

use tempfile::SpooledTempFile;

use super::write_name;

/// Unchanged lines around changes.
const CONTEXT: usize = 3;

/// What is kept in memory of a hunk or a file, in bytes; more goes to a temporary file.
const SPOOLED: usize = 4 << 20;

/// The hunks of one file. Lines end at LF and nothing else, as patch programs know them.
pub(super) struct FilePatch {
    hunks: SpooledTempFile,
    open: Option<OpenPatchHunk>,
    /// The last unchanged lines, which become the context of the next hunk.
    before: VecDeque<Vec<u8>>,
    /// Lines of the two texts that have been gone through.
    old: u64,
    new: u64,
    is_empty: bool,
}

/// A hunk that may go on.
struct OpenPatchHunk {
    body: SpooledTempFile,
    /// The lines before it, in the two texts.
    old_before: u64,
    new_before: u64,
    old_lines: u64,
    new_lines: u64,
    /// Unchanged lines since its last change.
    since: Vec<Vec<u8>>,
}

impl Default for FilePatch {
    fn default() -> Self {
        Self {
            hunks: SpooledTempFile::new(SPOOLED),
            open: None,
            before: VecDeque::new(),
            old: 0,
            new: 0,
            is_empty: true,
        }
    }
}

impl FilePatch {
    /// The next line is the same in both texts.
    pub(super) fn same(&mut self, line: &[u8]) -> io::Result<()> {
        (self.old, self.new) = (self.old + 1, self.new + 1);
        if let Some(hunk) = &mut self.open {
            hunk.since.push(line.to_vec());
            if hunk.since.len() <= 2 * CONTEXT {
                return Ok(());
            }
            return self.close();
        }
        // The memory of the line that goes is that of the one that comes.
        let mut kept = if self.before.len() < CONTEXT { None } else { self.before.pop_front() }.unwrap_or_default();
        kept.clear();
        kept.extend_from_slice(line);
        self.before.push_back(kept);
        Ok(())
    }

    /// The next lines differ: those of the old text, and those of the new one in their place.
    pub(super) fn differ(&mut self, old: &[u8], new: &[u8]) -> io::Result<()> {
        if old == new {
            return lines(old).try_for_each(|line| self.same(line));
        }
        if self.open.is_none() {
            self.open = Some(self.begin()?);
        }
        let Some(hunk) = &mut self.open else { return Ok(()) };
        for line in std::mem::take(&mut hunk.since) {
            hunk.line(b' ', &line)?;
        }
        for line in lines(old) {
            self.old += 1;
            hunk.line(b'-', line)?;
        }
        for line in lines(new) {
            self.new += 1;
            hunk.line(b'+', line)?;
        }
        Ok(())
    }

    fn begin(&mut self) -> io::Result<OpenPatchHunk> {
        let context = self.before.len() as u64;
        let mut hunk = OpenPatchHunk {
            body: SpooledTempFile::new(SPOOLED),
            old_before: self.old - context,
            new_before: self.new - context,
            old_lines: 0,
            new_lines: 0,
            since: Vec::new(),
        };
        self.before.drain(..).try_for_each(|line| hunk.line(b' ', &line))?;
        Ok(hunk)
    }

    /// Writes the open hunk, whose lines are known now.
    fn close(&mut self) -> io::Result<()> {
        let Some(mut hunk) = self.open.take() else { return Ok(()) };
        let since = std::mem::take(&mut hunk.since);
        since.iter().take(CONTEXT).try_for_each(|line| hunk.line(b' ', line))?;
        let start = since.len().saturating_sub(CONTEXT).max(since.len().min(CONTEXT));
        self.before = since.into_iter().skip(start).collect();
        let range = |before: u64, lines: u64| match lines {
            // A side without lines is placed after the line before it.
            0 => format!("{before},0"),
            1 => format!("{}", before + 1),
            _ => format!("{},{lines}", before + 1),
        };
        let (old, new) = (range(hunk.old_before, hunk.old_lines), range(hunk.new_before, hunk.new_lines));
        writeln!(self.hunks, "@@ -{old} +{new} @@")?;
        hunk.body.rewind()?;
        io::copy(&mut hunk.body, &mut self.hunks)?;
        self.is_empty = false;
        Ok(())
    }

    /// Both texts are over.
    pub(super) fn finish(&mut self) -> io::Result<()> {
        self.close()
    }

    /// Writes the patch of the file at this path, if there is anything in it.
    pub(super) fn write(mut self, path: &Path, out: &mut impl Write) -> io::Result<()> {
        if self.is_empty {
            return Ok(());
        }
        out.write_all(b"--- ")?;
        write_name("a", path, out)?;
        out.write_all(b"+++ ")?;
        write_name("b", path, out)?;
        self.hunks.rewind()?;
        io::copy(&mut self.hunks, out).map(drop)
    }
}

impl OpenPatchHunk {
    fn line(&mut self, sign: u8, line: &[u8]) -> io::Result<()> {
        self.old_lines += u64::from(sign != b'+');
        self.new_lines += u64::from(sign != b'-');
        self.body.write_all(&[sign])?;
        self.body.write_all(line)?;
        if line.ends_with(b"\n") { Ok(()) } else { self.body.write_all(b"\n\\ No newline at end of file\n") }
    }
}

fn lines(text: &[u8]) -> impl Iterator<Item = &[u8]> {
    text.split_inclusive(|byte| *byte == b'\n')
}
