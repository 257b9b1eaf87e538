//! Files whose new text is decided on in memory, change by change.

use std::io::{Cursor, Read};

use crate::charset::{Charsets, Transcoding};
use crate::choose::ChosenFile;
use crate::chunk::Sink;
use crate::encoding;
use crate::encoding::{EncodingSink, OpenedText};
use crate::error::FileError;
use crate::folder::Folders;
use crate::history::Keeper;
use crate::run::Aim;
use crate::skip::Skip;
use crate::write::{CopySink, InPlaceSink, OldFile, Replacing, SourceFile, Waiting, put_in_place};

/// What someone decided about a file.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Decision {
    /// This is its new text.
    Take(Vec<u8>),
    /// It stays as it is.
    Leave,
}

/// Gives `read` a file whose text is UTF-8, from its start. Gives why the file is left out, if it is.
///
/// # Errors
/// It cannot be opened, is in another encoding, or `read` fails.
pub fn read_through(
    file: &ChosenFile,
    read: impl FnOnce(&mut dyn Read) -> Result<(), FileError>,
) -> Result<Option<Skip>, FileError> {
    let source = SourceFile::open(file.location())?;
    let opened = encoding::open(Charsets::default(), file.with_binary, source.len(), source.reader());
    match opened.map_err(FileError::Read)? {
        Ok(OpenedText { ways: Transcoding { from: Some(charset), .. }, .. }) => Err(FileError::NoPatch(charset)),
        Ok(OpenedText { start, rest, .. }) => read(&mut Cursor::new(start).chain(rest)).map(|()| None),
        Err(skip) => Ok(Some(skip)),
    }
}

/// Gives `read` the text of a file from its start, as UTF-8 whatever its encoding. Gives why the file is left out, if it is.
///
/// # Errors
/// It cannot be opened or decoded, or `read` fails.
pub fn read_decoded(
    file: &ChosenFile,
    charsets: Charsets,
    read: impl FnOnce(&mut dyn Read) -> Result<(), FileError>,
) -> Result<Option<Skip>, FileError> {
    let source = SourceFile::open(file.location())?;
    match encoding::open(charsets, file.with_binary, source.len(), source.reader()).map_err(FileError::Read)? {
        Ok(OpenedText { start, rest, .. }) => read(&mut Cursor::new(start).chain(rest)).map(|()| None),
        Err(skip) => Ok(Some(skip)),
    }
}

fn text_of(
    file: &ChosenFile,
    source: &SourceFile,
    charsets: Charsets,
) -> Result<Result<(Vec<u8>, Transcoding), Skip>, FileError> {
    let opened = encoding::open(charsets, file.with_binary, source.len(), source.reader()).map_err(FileError::Read)?;
    let OpenedText { start: mut text, mut rest, ways, .. } = match opened {
        Ok(opened) => opened,
        Err(skip) => return Ok(Err(skip)),
    };
    rest.read_to_end(&mut text).map_err(FileError::Read)?;
    Ok(Ok((text, ways)))
}

/// Reads a file, asks what is to become of it, and does that: in place, or as a copy. A preview does nothing. Gives why
/// the file is left out, if it is. `keeper` keeps what was in it; without one there is no way back.
///
/// # Errors
/// The file is as it was: it cannot be read or written, or it changed while someone was deciding.
pub fn rewrite(
    file: &ChosenFile,
    aim: &Aim,
    charsets: Charsets,
    replacing: Replacing,
    keeper: Option<&Keeper>,
    decide: impl FnOnce(&[u8]) -> Decision,
) -> Result<Option<Skip>, FileError> {
    let folders = Folders::default();
    if let Aim::Write = aim {
        let old = OldFile::open(file.location(), replacing, &folders)?;
        let (text, ways) = match text_of(file, old.source(), charsets)? {
            Ok(text) => text,
            Err(skip) => return Ok(Some(skip)),
        };
        let Some(new) = new_text(decide(&text)).filter(|new| *new != text) else { return Ok(None) };
        let mut sink = EncodingSink::new(InPlaceSink::new(&old), ways);
        sink.give(&new, true)?;
        if let Some(replacement) = sink.finish()?.ready()? {
            let waiting = Waiting::new(keeper, old, replacement)?;
            put_in_place(keeper, vec![Some(waiting)]).into_iter().collect::<Result<(), FileError>>()?;
        }
        return Ok(None);
    }
    let source = SourceFile::open(file.location())?;
    let (text, ways) = match text_of(file, &source, charsets)? {
        Ok(text) => text,
        Err(skip) => return Ok(Some(skip)),
    };
    let new = new_text(decide(&text)).unwrap_or(text);
    if let Aim::Into { folder, overwrite } = aim {
        let copy = CopySink::new(&source, &file.path, folder, &file.below(), *overwrite, &folders)?;
        let mut sink = EncodingSink::new(copy, ways);
        sink.give(&new, true)?;
        sink.finish()?.commit()?;
    }
    Ok(None)
}

fn new_text(decision: Decision) -> Option<Vec<u8>> {
    if let Decision::Take(new) = decision { Some(new) } else { None }
}
