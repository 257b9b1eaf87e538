//! Opening files that have to be regular ones, without waiting for what is not.

use std::fs::{File, Metadata, OpenOptions};
use std::io;
use std::os::unix::fs::{FileTypeExt, OpenOptionsExt};
use std::path::Path;

use rustix::fs::OFlags;

/// Opens whatever is at the path, for reading: a pipe without waiting for a writer.
///
/// # Errors
/// It cannot be opened.
pub fn open_without_waiting(path: &Path) -> io::Result<(File, Metadata)> {
    let flags = (OFlags::NONBLOCK | OFlags::NOCTTY).bits().cast_signed();
    let file = OpenOptions::new().read(true).custom_flags(flags).open(path)?;
    let metadata = file.metadata()?;
    Ok((file, metadata))
}

/// Opens a regular file, for reading.
///
/// # Errors
/// It cannot be opened, or is a folder, a pipe, a socket or a device.
pub fn open_regular(path: &Path) -> io::Result<File> {
    let (file, metadata) = open_without_waiting(path)?;
    refuse_irregular(&metadata).map(|()| file)
}

/// Refuses what is not a regular file.
///
/// # Errors
/// It is a folder, a pipe, a socket or a device.
pub fn refuse_irregular(metadata: &Metadata) -> io::Result<()> {
    if metadata.is_file() {
        return Ok(());
    }
    Err(io::Error::other(format!("it is {}, not a file", what_it_is(metadata))))
}

/// What is not a regular file, in words.
pub fn what_it_is(kind: &Metadata) -> &'static str {
    let kind = kind.file_type();
    match () {
        () if kind.is_dir() => "a folder",
        () if kind.is_fifo() => "a pipe",
        () if kind.is_socket() => "a socket",
        () if kind.is_char_device() || kind.is_block_device() => "a device",
        () => "something special",
    }
}

/// What the system said, without the number it adds.
pub fn reason(error: &io::Error) -> String {
    let text = error.to_string();
    let text = text.split(" (os error").next().unwrap_or(&text);
    let mut letters = text.chars();
    // `I/O error` and the like stay.
    let is_word = letters.clone().nth(1).is_some_and(char::is_lowercase);
    match letters.next().filter(|_| is_word) {
        Some(first) => first.to_lowercase().chain(letters).collect(),
        None => text.to_owned(),
    }
}
