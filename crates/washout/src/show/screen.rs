//! How much room there is.

use anstream::{AutoStream, ColorChoice};
use terminal_size::{Height, Width, terminal_size_of};

/// The room for output, in columns and rows, and whether it is coloured.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Screen {
    pub(crate) columns: usize,
    pub(crate) rows: usize,
    pub(crate) has_colours: bool,
}

const COLUMNS: usize = 100;
const ROWS: usize = 40;
/// Narrower than this, lines are allowed to wrap.
const FEWEST_COLUMNS: usize = 40;

impl Screen {
    /// The terminal standard output is; if it is none, `COLUMNS` and `LINES`, or a size that suits most pages.
    pub(crate) fn of_stdout() -> Self {
        let number = |name| std::env::var(name).ok().and_then(|value| value.parse().ok());
        let (columns, rows) = match terminal_size_of(std::io::stdout()) {
            Some((Width(columns), Height(rows))) if columns > 0 => (usize::from(columns), usize::from(rows)),
            _ => (number("COLUMNS").unwrap_or(COLUMNS), number("LINES").unwrap_or(ROWS)),
        };
        let has_colours = AutoStream::choice(&std::io::stdout()) != ColorChoice::Never;
        Self { columns: columns.max(FEWEST_COLUMNS), rows, has_colours }
    }
}
