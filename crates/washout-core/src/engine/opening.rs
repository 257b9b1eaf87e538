//! What is known of a text from its start: whether it has a byte order mark, and what its first line end is.

use crate::text::{BOM, LineEnd};

/// Whether the text opens with a byte order mark.
#[derive(Debug)]
pub(super) enum Opening {
    /// The bytes so far could be the start of one.
    Maybe(Vec<u8>),
    Passed,
}

/// What the first bytes of a text turn out to be.
pub(super) enum TextOpening {
    NotYet,
    /// This is the text so far; there was no mark.
    Text(Vec<u8>),
    /// This is the text so far, without the mark.
    Marked(Vec<u8>),
}

impl Opening {
    /// Whether a text that goes on with this piece, as it is, is known to have no mark.
    pub(super) fn is_behind(&self, piece: &[u8]) -> bool {
        match self {
            Self::Maybe(start) => start.is_empty() && piece.len() >= BOM.len() && !piece.starts_with(BOM),
            Self::Passed => true,
        }
    }

    pub(super) fn open(&mut self, start: Vec<u8>) -> TextOpening {
        if let Some(text) = start.strip_prefix(BOM) {
            TextOpening::Marked(text.to_vec())
        } else if BOM.starts_with(&start) {
            *self = Self::Maybe(start);
            TextOpening::NotYet
        } else {
            TextOpening::Text(start)
        }
    }
}

#[derive(Clone, Copy, Debug)]
pub(super) enum FirstLineEnd {
    None,
    /// A CR at the end of a piece: LF may follow.
    Undecided,
    Found(LineEnd),
    /// Seen before this text.
    Known(Option<LineEnd>),
}

impl FirstLineEnd {
    pub(super) fn look(&mut self, piece: &[u8]) {
        *self = match self {
            Self::Found(_) | Self::Known(_) => return,
            Self::Undecided if piece[0] == b'\n' => Self::Found(LineEnd::CrLf),
            Self::Undecided => Self::Found(LineEnd::Cr),
            Self::None => match LineEnd::first_in(piece) {
                Some(LineEnd::Cr) if memchr::memchr(b'\r', piece) == Some(piece.len() - 1) => Self::Undecided,
                Some(end) => Self::Found(end),
                None => Self::None,
            },
        };
    }

    /// The text is over.
    pub(super) fn close(&mut self) {
        if let Self::Undecided = self {
            *self = Self::Found(LineEnd::Cr);
        }
    }

    pub(super) fn known(self) -> Option<LineEnd> {
        match self {
            Self::Found(end) => Some(end),
            Self::Known(end) => end,
            Self::None | Self::Undecided => None,
        }
    }
}
