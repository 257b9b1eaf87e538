//! Files that are left out of a run, and why.

use std::fmt;

/// Why a file is left out.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub enum Skip {
    /// It has NUL bytes, so it is no text.
    Binary,
    /// It is text in UTF-16, which this version does not read.
    Utf16,
    /// A link below a folder.
    Link,
    /// A pipe, a device or a socket.
    NoFile,
}

impl fmt::Display for Skip {
    fn fmt(&self, formatter: &mut fmt::Formatter<'_>) -> fmt::Result {
        formatter.write_str(match self {
            Self::Binary => "binary",
            Self::Utf16 => "UTF-16, which this version does not read",
            Self::Link => "link, not followed",
            Self::NoFile => "no regular file",
        })
    }
}

/// How much of a file is looked at before it is taken for text, in bytes.
const PROBE: usize = 8 << 10;

impl Skip {
    /// Why a file that starts like this is left out, if it is.
    pub(crate) fn for_start(start: &[u8]) -> Option<Self> {
        let probe = &start[..start.len().min(PROBE)];
        let utf16 = probe.starts_with(b"\xFF\xFE") || probe.starts_with(b"\xFE\xFF");
        if utf16 {
            return Some(Self::Utf16);
        }
        memchr::memchr(0, probe).map(|_| Self::Binary)
    }
}
