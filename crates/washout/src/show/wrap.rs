//! Text broken into lines that fit the screen.

use std::borrow::Cow;
use std::io::{self, Write};

use textwrap::Options;

/// `text` in lines, with `first` before the first and `rest` before the others, `columns` wide at most.
pub(crate) fn wrapped(first: &str, rest: &str, text: &str, columns: usize) -> Vec<String> {
    let options = Options::new(columns.clamp(40, 110)).initial_indent(first).subsequent_indent(rest);
    textwrap::wrap(text, options).into_iter().map(Cow::into_owned).collect()
}

/// Writes [`wrapped`] text.
pub(crate) fn write_wrapped(
    first: &str,
    rest: &str,
    text: &str,
    columns: usize,
    out: &mut impl Write,
) -> io::Result<()> {
    wrapped(first, rest, text, columns).iter().try_for_each(|line| writeln!(out, "{line}"))
}
