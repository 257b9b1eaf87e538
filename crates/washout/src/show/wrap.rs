//! Text broken into lines that fit the screen.

use std::io::{self, Write};

use textwrap::Options;

/// Writes `text` with `first` before its first line and `rest` before the others, `columns` wide at most.
pub(crate) fn write_wrapped(
    first: &str,
    rest: &str,
    text: &str,
    columns: usize,
    out: &mut impl Write,
) -> io::Result<()> {
    let options = Options::new(columns.clamp(40, 110)).initial_indent(first).subsequent_indent(rest);
    textwrap::wrap(text, options).iter().try_for_each(|line| writeln!(out, "{line}"))
}
