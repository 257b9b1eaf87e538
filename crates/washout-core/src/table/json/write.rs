//! Writing strings and fields.

use super::super::error::Broken;
use super::Json;

impl Json {
    /// Writes a cell that has changed.
    pub(in super::super) fn write(value: &[u8], out: &mut Vec<u8>) -> Result<(), Broken> {
        let text = std::str::from_utf8(value).map_err(|_| Broken::NoUtf8)?;
        let start = out.len();
        if serde_json::to_writer(&mut *out, text).is_err() {
            out.truncate(start);
        }
        Ok(())
    }

    /// Writes a field that was not there after the text so far, spaced as that is. `lead`: white space before it, if it is
    /// to stand on a line of its own.
    pub(in super::super) fn write_new(
        name: &str,
        value: &[u8],
        (spaced, lead): (bool, &[u8]),
        out: &mut Vec<u8>,
    ) -> Result<(), Broken> {
        if !is_opening(out) {
            out.push(b',');
            out.extend_from_slice(match lead {
                [] if spaced => b" ",
                _ => lead,
            });
        }
        Self::write(last_key(name).as_bytes(), out)?;
        out.extend_from_slice(if spaced { b": " } else { b":" });
        Self::write(value, out)
    }
}

/// The key of a field that is named with those it stands within.
pub(super) fn last_key(name: &str) -> &str {
    name.rsplit_once('.').map_or(name, |(_, key)| key)
}

/// Whether a text ends where an object has just been opened.
pub(in super::super) fn is_opening(text: &[u8]) -> bool {
    text.trim_ascii_end().last() == Some(&b'{')
}
