//! The patch of a text.

use std::io::Read;
use std::sync::mpsc::sync_channel;

use washout_core::Program;
use washout_core::observe::{Detail, Hunk, Lineage, Side};
use washout_core::table::WashError;
use washout_core::text::BOM;
use washout_files::{ChosenFile, FileError};

use super::lines::OldText;
use super::next_piece;
use super::unified::FilePatch;

/// Lists of hunks that may wait to be compared.
const MOST_WAITING: usize = 4;

/// What the comparison is told.
enum Told {
    /// Whether there is a byte order mark in the old text and in the new one.
    Marks(bool, bool),
    Hunks(Vec<Hunk>),
}

/// Washes a text, and reports to the patch what happens to each of its lines: on a thread of its own.
pub(super) fn compare(
    program: &Program,
    file: &ChosenFile,
    reader: &mut dyn Read,
    patch: &mut FilePatch,
) -> Result<(), FileError> {
    let mut comparison = Comparison { old: OldText::open(file)?, block: None, patch };
    std::thread::scope(|scope| {
        let (tell, told) = sync_channel(MOST_WAITING);
        let comparing = scope.spawn(move || {
            told.iter().try_for_each(|told| match told {
                Told::Marks(old, new) => comparison.mark(old, new),
                Told::Hunks(hunks) => hunks.iter().try_for_each(|hunk| comparison.hunk(hunk)),
            })?;
            // Where washing failed, what is left to compare has not come.
            Ok::<_, FileError>(comparison)
        });
        // Once the comparison has failed, no one listens.
        let washed = wash(program, reader, |told| tell.send(told).is_ok());
        drop(tell);
        let compared = comparing.join().unwrap_or_else(|panic| std::panic::resume_unwind(panic));
        washed.and_then(|()| compared?.finish())
    })
}

/// Washes a text; `tell` says whether anyone listens.
fn wash(program: &Program, reader: &mut dyn Read, tell: impl Fn(Told) -> bool) -> Result<(), FileError> {
    let failed = |error| FileError::Rule(WashError::Rule(error));
    let mut washer = program.washer(Lineage::new(program.names().len(), Detail::Parts));
    let (mut piece, mut washed) = (Vec::new(), Vec::new());
    let mut marks: Option<(bool, Option<bool>)> = None;
    loop {
        next_piece(reader, &mut piece)?;
        if piece.is_empty() {
            break;
        }
        let (old_mark, new_mark) = marks.get_or_insert_with(|| (piece.starts_with(BOM), None));
        washer.push(&piece, &mut washed).map_err(failed)?;
        // Whether the mark stays is certain with the first bytes of the result.
        if new_mark.is_none() && !washed.is_empty() {
            let is_kept = *new_mark.insert(washed.starts_with(BOM));
            tell(Told::Marks(*old_mark, is_kept));
        }
        washed.clear();
        if new_mark.is_some() && !tell(Told::Hunks(washer.observer().take_hunks())) {
            return Ok(());
        }
    }
    washer.finish(&mut washed).map_err(failed)?;
    if let Some((old_mark, None)) = marks {
        tell(Told::Marks(old_mark, washed.starts_with(BOM)));
    }
    tell(Told::Hunks(washer.into_observer().finish()));
    Ok(())
}

/// Old and new text, gone through together.
struct Comparison<'p> {
    old: OldText,
    /// Lines of the patch that differ, and are not whole yet.
    block: Option<Block>,
    patch: &'p mut FilePatch,
}

#[derive(Default)]
struct Block {
    old: Vec<u8>,
    new: Vec<u8>,
}

impl Comparison<'_> {
    /// At the start: the mark of the old text stays or goes.
    fn mark(&mut self, old: bool, new: bool) -> Result<(), FileError> {
        if !old {
            return Ok(());
        }
        self.old.pass_bytes(BOM)?;
        if !new {
            self.block = Some(Block { old: BOM.to_vec(), new: Vec::new() });
        }
        Ok(())
    }

    fn hunk(&mut self, hunk: &Hunk) -> Result<(), FileError> {
        self.close_before(hunk.first_line)?;
        let mut block = if let Some(block) = self.block.take() {
            block
        } else {
            self.old.pass_to(hunk.first_line, self.patch)?;
            Block { old: self.old.passed().to_vec(), new: self.old.passed().to_vec() }
        };
        let from = block.old.len();
        self.old.pass_within(hunk.first_line, &mut block.old);
        block.new.extend_from_slice(&block.old[from..]);
        for piece in hunk.pieces() {
            if !matches!(piece.side, Side::Put(_)) {
                self.old.pass_bytes(piece.bytes)?;
                block.old.extend_from_slice(piece.bytes);
            }
            if !matches!(piece.side, Side::Removed(_)) {
                block.new.extend_from_slice(piece.bytes);
            }
        }
        self.block = Some(block);
        Ok(())
    }

    /// Closes the open block, if it is whole before line `number`, as rules count them: both texts are at the start of a
    /// line of the patch there.
    fn close_before(&mut self, number: u64) -> Result<(), FileError> {
        let Some(mut block) = self.block.take() else { return Ok(()) };
        loop {
            let is_new_at_start = block.new.is_empty() || block.new.ends_with(b"\n");
            if self.old.is_over() || (self.old.is_at_line_start() && is_new_at_start) {
                return self.patch.differ(&block.old, &block.new).map_err(FileError::Record);
            }
            if self.old.reaches(number) {
                self.block = Some(block);
                return Ok(());
            }
            let from = block.old.len();
            self.old.finish_line(&mut block.old)?;
            block.new.extend_from_slice(&block.old[from..]);
        }
    }

    fn finish(mut self) -> Result<(), FileError> {
        self.close_before(u64::MAX)?;
        self.old.pass_rest(self.patch)
    }
}
