//! Files that are left out of a run, and why.

use std::fmt;

/// Why a file is left out.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub enum Skip {
    /// It has NUL bytes, so it is no text.
    Binary,
    /// A link below a folder.
    Link,
    /// A pipe, a device or a socket.
    NoFile,
}

impl fmt::Display for Skip {
    fn fmt(&self, formatter: &mut fmt::Formatter<'_>) -> fmt::Result {
        formatter.write_str(match self {
            Self::Binary => "binary",
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
        memchr::memchr(0, probe).map(|_| Self::Binary)
    }
}
