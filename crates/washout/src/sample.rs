//! The start of a text, to look at what rules make of it.

use std::fs::File;
use std::io::{self, Read};
use std::path::Path;

use washout_core::Sample;

/// How much of a sample is looked at, in bytes.
const SAMPLE: u64 = 256 << 10;

/// The start of a text, whole lines of it.
pub(crate) fn sample(path: &Path) -> io::Result<Sample> {
    let mut text = Vec::new();
    File::open(path)?.take(SAMPLE).read_to_end(&mut text)?;
    if text.len() as u64 == SAMPLE {
        text.truncate(text.iter().rposition(|byte| *byte == b'\n').map_or(text.len(), |end| end + 1));
    }
    Ok(Sample { name: path.to_string_lossy().into_owned(), text })
}
