//! Tables: a line under the header and nothing else.

use comfy_table::{Cell, CellAlignment, ContentArrangement, ContentLineStyle, LineStyle, Table, TableStyle};

const STYLE: TableStyle = TableStyle::new()
    .header_lines(ContentLineStyle::none().junction(' '))
    .header_separator(LineStyle::none().fill('─').junction('─'))
    .content_lines(ContentLineStyle::none().junction(' '));

/// A table that fits so many columns of the terminal.
pub(crate) fn table(columns: usize) -> Table {
    let mut table = Table::new();
    table.load_style(STYLE).set_content_arrangement(ContentArrangement::Dynamic);
    table.set_width(u16::try_from(columns).unwrap_or(100));
    table
}

/// A cell whose text stands at the right: a number.
pub(crate) fn right(text: impl Into<String>) -> Cell {
    Cell::new(text.into()).set_alignment(CellAlignment::Right)
}

/// Tables pad their lines to the full width; blanks at line ends are not for this tool to leave.
pub(crate) fn trimmed(table: &Table) -> String {
    table.to_string().lines().map(str::trim_end).collect::<Vec<_>>().join("\n")
}
