//! Files that are left out of a run, and why.

use std::fmt;

/// Why a file is left out.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub enum Skip {
    /// It looks binary, and was found in a folder.
    Binary,
    /// A link below a folder.
    Link,
    /// A pipe, a device or a socket.
    NoFile,
}

impl fmt::Display for Skip {
    fn fmt(&self, formatter: &mut fmt::Formatter<'_>) -> fmt::Result {
        formatter.write_str(match self {
            Self::Binary => "binary; --with-binary includes them",
            Self::Link => "link, not followed",
            Self::NoFile => "no regular file",
        })
    }
}
