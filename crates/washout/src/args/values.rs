//! Values of options, with what to write where they cannot be read.

use std::num::NonZeroUsize;

use bytesize::ByteSize;

/// A number of bytes: `200MiB`, `1GB`.
pub(super) fn size(written: &str) -> Result<ByteSize, String> {
    written.parse().map_err(|_| "write a number and a unit, such as 200MiB or 1GB".to_owned())
}

/// How many of something, at least one.
pub(super) fn count(written: &str) -> Result<NonZeroUsize, String> {
    written.parse().map_err(|_| "write a whole number, at least 1".to_owned())
}

/// The same of lines or records.
pub(super) fn lines(written: &str) -> Result<u64, String> {
    count(written).map(|lines| lines.get() as u64)
}

/// The number of a run.
pub(super) fn run(written: &str) -> Result<i64, String> {
    let number = written.parse().ok().filter(|number| *number > 0);
    number.ok_or_else(|| "a run goes by its number, which `washout history` lists".to_owned())
}
