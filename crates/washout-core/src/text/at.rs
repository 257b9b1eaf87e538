//! Where on a line something stands.

use crate::choices::choices;

choices! {
    /// Where on the line a match must stand. Blanks may stand between it and the edge.
    pub enum At {
        /// Anywhere.
        Anywhere = "anywhere",
        /// At the start of the line.
        Start = "start",
        /// At its end.
        End = "end",
        /// At either.
        Edges = "edges",
        /// With nothing but blanks beside it.
        WholeLine = "whole-line",
    }
}
