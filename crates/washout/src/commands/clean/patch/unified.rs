//! Hunks of a unified diff, written as the lines of two texts are gone through.
//!
//! What is written of a hunk before its lines is known only after them: how many lines it has. So these heads are kept beside
//! the lines of all hunks, each with how many bytes its lines take.

use std::collections::VecDeque;
use std::io::{self, BufRead, BufReader, BufWriter, Read, Seek, Write};
use std::path::Path;

use tempfile::SpooledTempFile;

use super::write_name;

/// Unchanged lines around changes.
const CONTEXT: usize = 3;

/// What is kept in memory of a patch, in bytes; more goes to a temporary file.
const SPOOLED: usize = 4 << 20;

/// How much is written to it at once, in bytes.
const BUFFER: usize = 64 << 10;

/// Lines of hunks, or their heads.
type Spool = BufWriter<SpooledTempFile>;

/// The hunks of one file. Lines end at LF and nothing else, as patch programs know them.
pub(super) struct FilePatch {
    /// The lines of all hunks.
    lines: Spool,
    /// The head of each hunk that is closed, after the number of bytes of its lines.
    heads: Spool,
    open: Option<OpenPatchHunk>,
    /// The last unchanged lines, which become the context of the next hunk.
    before: VecDeque<Vec<u8>>,
    /// Lines of the two texts that have been gone through.
    old: u64,
    new: u64,
    is_empty: bool,
}

/// A hunk that may go on.
#[derive(Default)]
struct OpenPatchHunk {
    counts: Counts,
    /// The lines before it, in the two texts.
    old_before: u64,
    new_before: u64,
    /// Unchanged lines since its last change; at its start, those before its first.
    since: Vec<Vec<u8>>,
}

/// What is written of a hunk.
#[derive(Default)]
struct Counts {
    bytes: u64,
    old_lines: u64,
    new_lines: u64,
}

impl Default for FilePatch {
    fn default() -> Self {
        Self { lines: spool(), heads: spool(), open: None, before: VecDeque::new(), old: 0, new: 0, is_empty: true }
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
        let Self { lines: out, before, old: old_done, new: new_done, .. } = self;
        let hunk = self.open.get_or_insert_with(|| {
            let context = before.len() as u64;
            OpenPatchHunk {
                old_before: *old_done - context,
                new_before: *new_done - context,
                since: before.drain(..).collect(),
                ..OpenPatchHunk::default()
            }
        });
        for line in hunk.since.drain(..) {
            hunk.counts.line(b' ', &line, out)?;
        }
        for line in lines(old) {
            *old_done += 1;
            hunk.counts.line(b'-', line, out)?;
        }
        for line in lines(new) {
            *new_done += 1;
            hunk.counts.line(b'+', line, out)?;
        }
        Ok(())
    }

    /// Writes the open hunk, whose lines are known now.
    fn close(&mut self) -> io::Result<()> {
        let Some(mut hunk) = self.open.take() else { return Ok(()) };
        let since = std::mem::take(&mut hunk.since);
        since.iter().take(CONTEXT).try_for_each(|line| hunk.counts.line(b' ', line, &mut self.lines))?;
        let start = since.len().saturating_sub(CONTEXT).max(since.len().min(CONTEXT));
        self.before = since.into_iter().skip(start).collect();
        let range = |before: u64, lines: u64| match lines {
            // A side without lines is placed after the line before it.
            0 => format!("{before},0"),
            1 => format!("{}", before + 1),
            _ => format!("{},{lines}", before + 1),
        };
        let Counts { bytes, old_lines, new_lines } = hunk.counts;
        let (old, new) = (range(hunk.old_before, old_lines), range(hunk.new_before, new_lines));
        self.heads.write_all(&bytes.to_le_bytes())?;
        writeln!(self.heads, "@@ -{old} +{new} @@")?;
        self.is_empty = false;
        Ok(())
    }

    /// Both texts are over.
    pub(super) fn finish(&mut self) -> io::Result<()> {
        self.close()
    }

    /// Writes the patch of the file at this path, if there is anything in it.
    pub(super) fn write(self, path: &Path, out: &mut impl Write) -> io::Result<()> {
        if self.is_empty {
            return Ok(());
        }
        out.write_all(b"--- ")?;
        write_name("a", path, out)?;
        out.write_all(b"+++ ")?;
        write_name("b", path, out)?;
        let (mut heads, mut lines) = (reader(self.heads)?, reader(self.lines)?);
        let (mut bytes, mut head) = ([0; 8], Vec::new());
        while !heads.fill_buf()?.is_empty() {
            heads.read_exact(&mut bytes)?;
            heads.read_until(b'\n', &mut head)?;
            out.write_all(&head)?;
            head.clear();
            let mut left = u64::from_le_bytes(bytes);
            while left > 0 {
                let here = lines.fill_buf()?;
                let len = here.len().min(usize::try_from(left).unwrap_or(usize::MAX));
                out.write_all(&here[..len])?;
                lines.consume(len);
                left -= len as u64;
            }
        }
        Ok(())
    }
}

fn spool() -> Spool {
    BufWriter::with_capacity(BUFFER, SpooledTempFile::new(SPOOLED))
}

/// Reads what was written, from its start.
fn reader(spool: Spool) -> io::Result<BufReader<SpooledTempFile>> {
    let mut file = spool.into_inner().map_err(io::IntoInnerError::into_error)?;
    file.rewind()?;
    Ok(BufReader::with_capacity(BUFFER, file))
}

impl Counts {
    fn line(&mut self, sign: u8, line: &[u8], out: &mut Spool) -> io::Result<()> {
        const NO_LINE_END: &[u8] = b"\n\\ No newline at end of file\n";
        self.old_lines += u64::from(sign != b'+');
        self.new_lines += u64::from(sign != b'-');
        self.bytes += 1 + line.len() as u64;
        out.write_all(&[sign])?;
        out.write_all(line)?;
        if !line.ends_with(b"\n") {
            self.bytes += NO_LINE_END.len() as u64;
            out.write_all(NO_LINE_END)?;
        }
        Ok(())
    }
}

fn lines(text: &[u8]) -> impl Iterator<Item = &[u8]> {
    text.split_inclusive(|byte| *byte == b'\n')
}
