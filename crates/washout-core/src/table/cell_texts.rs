//! The cells of a table as they are, to be shown beside what rules make of them.

use std::sync::Arc;

use super::error::TableError;
use super::grid::{Extent, Grid};
use super::header::Header;
use super::json::FoundFields;
use super::pass::Pass;
use super::plan::Plan;
use crate::program::Program;
use crate::rules::{Field, TableFormat};
use crate::text::BOM;
use crate::text::lines::line_ends;

/// The texts in the records of a table.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
#[non_exhaustive]
pub struct CellTexts {
    /// The fields: of CSV all, of JSON those that rules name.
    pub fields: Vec<Arc<str>>,
    /// How many rules are for each field.
    pub rules: Vec<usize>,
    /// For each record, the text in each field; `None`: the record has none there.
    pub records: Vec<Vec<Option<Vec<u8>>>>,
}

impl Program {
    /// The texts in this table, which is in memory.
    ///
    /// # Errors
    /// What is wrong with the table; a field that is not there.
    pub fn cell_texts(&self, format: TableFormat, table: &[u8]) -> Result<CellTexts, TableError> {
        let text = table.strip_prefix(BOM).unwrap_or(table);
        let Some(header) = Header::open(self, format, text, true)? else { return Ok(CellTexts::default()) };
        let mut start = header.end;
        let all: Vec<Field> =
            if format.is_json() { Vec::new() } else { (1..=header.names.len()).map(Field::Place).collect() };
        let plan = Plan::new(self, format, header, &all)?;
        let columns = plan.layout.originals;
        let rules_for = |column: usize| {
            let passes =
                plan.passes.iter().filter_map(|pass| if let Pass::Cells(pass) = pass { Some(pass) } else { None });
            passes.filter(|pass| pass.is_for(column)).map(|pass| pass.of.rules.len()).sum()
        };
        let mut texts = CellTexts {
            fields: plan.layout.names[..columns].to_vec(),
            rules: (0..columns).map(rules_for).collect(),
            records: Vec::new(),
        };
        let mut grid = Grid::default();
        while start < text.len() {
            let extent = Extent { bytes: 1 << 16, first: texts.records.is_empty(), ..Extent::whole(true) };
            let block = &text[start..];
            let read = plan.read(block, extent, &mut grid, &mut FoundFields::default());
            let before = texts.records.len() as u64;
            for record in 0..grid.records.len() {
                let mut cells = vec![None; columns];
                for cell in grid.cells_of(record).filter(|cell| grid.cells[*cell].is_text()) {
                    if let Some(place) = cells.get_mut(grid.cells[cell].column) {
                        *place = Some(grid.value(cell, block).to_vec());
                    }
                }
                texts.records.push(cells);
            }
            let broken = |(at, what)| TableError::broken(before, line_ends(&text[..start + at]) + 1, what);
            start += read.map_err(broken)?.max(1);
        }
        Ok(texts)
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::RuleSet;

    #[test]
    fn the_texts_of_all_formats_are_those_of_their_cells() {
        let set = RuleSet::read("rules", "[[rule]]\nfields = 'b'\ntrim = {}\n").expect("rules");
        let program = Program::compile([&set]);
        let of = |format, table: &str| {
            let texts = program.cell_texts(format, table.as_bytes()).expect("a table");
            let shown = |cell: &Option<Vec<u8>>| cell.as_ref().map(|cell| String::from_utf8_lossy(cell).into_owned());
            let records: Vec<Vec<_>> = texts.records.iter().map(|record| record.iter().map(shown).collect()).collect();
            (texts.fields.iter().map(ToString::to_string).collect::<Vec<_>>(), texts.rules, records)
        };
        let some = |text: &str| Some(text.to_owned());
        let csv = of(TableFormat::Csv, "a,b\n1,\" x\n\"\n\n,y");
        assert_eq!(csv.0, ["a", "b"]);
        assert_eq!(csv.1, [0, 1]);
        assert!(
            csv.2.contains(&vec![some("1"), some(" x\n")]) && csv.2.contains(&vec![some(""), some("y")]),
            "{csv:?}"
        );
        for (format, table) in [
            (TableFormat::JsonLines, "{\"a\":1,\"b\":\" x\"}\n{\"b\":2}\n{\"b\":\"\"}\n"),
            (TableFormat::Json, "[{\"a\":1,\"b\":\" x\"},\n {\"b\":2}, {\"b\":\"\"}]\n"),
        ] {
            let (fields, _, records) = of(format, table);
            assert_eq!(fields.last().map(String::as_str), Some("b"), "{format:?}");
            let last: Vec<_> = records.iter().filter_map(|record| record.last().cloned()).collect();
            assert_eq!(last, [some(" x"), None, some("")], "{format:?}");
        }
    }
}
