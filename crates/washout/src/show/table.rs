//! Tables: a line under the header and nothing else.

use comfy_table::{
    Cell, CellAlignment, ColumnConstraint, ContentArrangement, ContentLineStyle, LineStyle, Table, TableStyle,
};

const STYLE: TableStyle = TableStyle::new()
    .header_lines(ContentLineStyle::none().junction(' '))
    .header_separator(LineStyle::none().fill('─').junction('─'))
    .content_lines(ContentLineStyle::none().junction(' '));

/// A table that fits that many columns of the terminal.
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

/// Lets these columns be as wide as what is in them, on a narrow screen too: no number is split.
pub(crate) fn keep_whole(table: &mut Table, columns: &[usize]) {
    for column in columns {
        if let Some(column) = table.column_mut(*column) {
            column.set_constraint(ColumnConstraint::ContentWidth);
        }
    }
}

/// On a screen of fewer columns than this some columns of a table are left out.
pub(crate) const NARROW: usize = 60;

/// Leaves these columns out on a screen narrower than `least`, where others would be cut up for them.
pub(crate) fn hide_if_narrow(table: &mut Table, screen: usize, least: usize, columns: &[usize]) {
    for column in columns.iter().filter(|_| screen < least) {
        if let Some(column) = table.column_mut(*column) {
            column.set_constraint(ColumnConstraint::Hidden);
        }
    }
}

/// Tables pad their lines to the full width; blanks at line ends are not for this tool to leave.
pub(crate) fn trimmed(table: &Table) -> String {
    table.to_string().lines().map(str::trim_end).collect::<Vec<_>>().join("\n")
}
