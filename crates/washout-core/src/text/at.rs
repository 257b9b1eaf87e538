//! Where on a line something stands.

/// Where on the line a match must stand. Blanks may stand between it and the edge.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum At {
    /// Anywhere.
    Anywhere,
    /// At the start of the line.
    Start,
    /// At its end.
    End,
    /// At either.
    Edges,
    /// With nothing but blanks beside it.
    WholeLine,
}
