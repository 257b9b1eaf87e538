//! The old text of a file, line by line, read a second time beside the reading that is washed.

use std::fs::File;
use std::io::{BufRead, BufReader, Read};

use washout_files::{ChosenFile, FileError};

use super::unified::FilePatch;

/// The longest line that a patch can be made of, in bytes. Lines of a patch end at LF and nothing else.
const LONGEST_LINE: u64 = 64 << 20;

/// A place in the old text.
pub(super) struct OldText {
    reader: BufReader<File>,
    /// The line of the patch that the place is on, with its line end; empty at the end of the text.
    line: Vec<u8>,
    /// The place, in bytes of that line.
    at: usize,
    /// The number of the line as rules count them, from 1: such lines end at CR too.
    number: u64,
}

impl OldText {
    /// At the start of the file.
    pub(super) fn open(file: &ChosenFile) -> Result<Self, FileError> {
        let file = file.open().map_err(FileError::Read)?;
        let mut text = Self { reader: BufReader::with_capacity(256 << 10, file), line: Vec::new(), at: 0, number: 1 };
        text.read_line()?;
        Ok(text)
    }

    fn read_line(&mut self) -> Result<(), FileError> {
        self.line.clear();
        self.at = 0;
        let read = (&mut self.reader).take(LONGEST_LINE + 1).read_until(b'\n', &mut self.line);
        if read.map_err(FileError::Read)? as u64 > LONGEST_LINE {
            return Err(FileError::LongLine);
        }
        Ok(())
    }

    pub(super) fn is_over(&self) -> bool {
        self.line.is_empty()
    }

    /// Whether the place is at the start of a line of the patch.
    pub(super) fn is_at_line_start(&self) -> bool {
        self.at == 0
    }

    /// What of the line is before the place.
    pub(super) fn passed(&self) -> &[u8] {
        &self.line[..self.at]
    }

    /// Whether line `number`, as rules count them, begins on this line of the patch, at the place or after it.
    pub(super) fn reaches(&self, number: u64) -> bool {
        number == self.number || self.ends().take_while(|end| *end < self.line.len()).nth(self.ahead(number)).is_some()
    }

    /// How many line ends before the last one lead there.
    fn ahead(&self, number: u64) -> usize {
        usize::try_from(number - self.number).unwrap_or(usize::MAX) - 1
    }

    /// Where the lines that rules see end, from the place on.
    fn ends(&self) -> impl Iterator<Item = usize> + '_ {
        self.ends_up_to(self.line.len())
    }

    /// The same up to a place of the line, which may be long: the caller asks for each piece of it.
    fn ends_up_to(&self, to: usize) -> impl Iterator<Item = usize> + '_ {
        let (line, from) = (&self.line, self.at);
        let is_end = |at: &usize| line[*at] == b'\n' || (line[*at] == b'\r' && line.get(*at + 1) != Some(&b'\n'));
        memchr::memchr2_iter(b'\n', b'\r', &line[from..to]).map(move |at| from + at).filter(is_end).map(|at| at + 1)
    }

    /// Passes over the rest of the line of the patch, and gives it.
    pub(super) fn finish_line(&mut self, into: &mut Vec<u8>) -> Result<(), FileError> {
        into.extend_from_slice(&self.line[self.at..]);
        self.number += self.ends().count() as u64;
        self.read_line()
    }

    /// Passes over whole unchanged lines up to the one on which line `number` begins, and reports them to the patch.
    pub(super) fn pass_to(&mut self, number: u64, patch: &mut FilePatch) -> Result<(), FileError> {
        while !self.is_over() && !self.reaches(number) {
            patch.same(&self.line).map_err(FileError::Record)?;
            self.number += self.ends().count() as u64;
            self.read_line()?;
        }
        Ok(())
    }

    /// Passes over all lines that are left, and reports them to the patch.
    pub(super) fn pass_rest(&mut self, patch: &mut FilePatch) -> Result<(), FileError> {
        while !self.is_over() {
            patch.same(&self.line).map_err(FileError::Record)?;
            self.read_line()?;
        }
        Ok(())
    }

    /// Passes over what is before line `number` on this line of the patch, and gives it.
    pub(super) fn pass_within(&mut self, number: u64, into: &mut Vec<u8>) {
        if number > self.number {
            let end = self.ends().nth(self.ahead(number)).unwrap_or(self.line.len());
            into.extend_from_slice(&self.line[self.at..end]);
            (self.at, self.number) = (end, number);
        }
    }

    /// Passes over these bytes, which have to be there: the file must not have changed since it was read.
    pub(super) fn pass_bytes(&mut self, mut bytes: &[u8]) -> Result<(), FileError> {
        while !bytes.is_empty() {
            let here = &self.line[self.at..];
            let len = here.len().min(bytes.len());
            if len == 0 || here[..len] != bytes[..len] {
                return Err(FileError::ChangedMeanwhile);
            }
            self.number += self.ends_up_to(self.at + len).count() as u64;
            self.at += len;
            bytes = &bytes[len..];
            if self.at == self.line.len() {
                self.read_line()?;
            }
        }
        Ok(())
    }
}
