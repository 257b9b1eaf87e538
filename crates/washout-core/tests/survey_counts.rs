//! Surveys against plain counts: of texts, and of the columns of tables.

use std::collections::{BTreeMap, BTreeSet};

use proptest::collection::vec;
use proptest::prelude::*;
use proptest::sample::select;
use washout_core::survey::{Detectors, Surveyed, Surveyor};
use washout_core::table::{ColumnSurvey, TableFormat, TableSettings, TableSurveyor};

const PIECES: &[&str] = &[
    "a", "A", "b", "Vey", "é", "e\u{301}", "灯", " ", " ", "  ", "\t", "\n", "\r\n", "\r", "\u{A0}", "\u{3000}",
    "\u{200B}", "\u{AD}", "\u{7}", "\u{FEFF}", "\u{2028}", "ß", "😀", "#", ",", "\"", "<b>", "&amp;",
];

fn text() -> impl Strategy<Value = String> {
    vec(select(PIECES), 0..30).prop_map(|pieces| pieces.concat())
}

/// The lines of a text, each with its line end; a byte order mark is no part of the first.
fn lines(text: &str) -> Vec<(&str, &str)> {
    let mut rest = text.strip_prefix('\u{FEFF}').unwrap_or(text);
    let mut lines = Vec::new();
    while !rest.is_empty() {
        let content = rest.find(['\n', '\r']).unwrap_or(rest.len());
        let end = match &rest[content..] {
            end if end.starts_with("\r\n") => 2,
            end => end.len().min(1),
        };
        lines.push((&rest[..content], &rest[content..content + end]));
        rest = &rest[content + end..];
    }
    lines
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 300, ..ProptestConfig::default() })]

    #[test]
    fn a_text_has_the_characters_and_lines_that_are_counted_plainly(text in text(), piece in 1..20_usize) {
        let detectors = Detectors::new();
        let mut surveyor = Surveyor::new(&detectors, true);
        text.as_bytes().chunks(piece).for_each(|piece| surveyor.push(piece));
        let survey = surveyor.finish();
        let lines = lines(&text);
        let ends = |end: &str| lines.iter().filter(|(_, found)| *found == end).count() as u64;
        prop_assert_eq!([survey.lines.lf, survey.lines.crlf, survey.lines.cr], [ends("\n"), ends("\r\n"), ends("\r")]);
        prop_assert_eq!(survey.lines.texts_without_final, ends(""));
        prop_assert_eq!(survey.lines.texts_with_bom, u64::from(text.starts_with('\u{FEFF}')));
        let is_empty = |line: &str| line.chars().all(|character| matches!(character, ' ' | '\t'));
        prop_assert_eq!(survey.lines.empty, lines.iter().filter(|(line, _)| is_empty(line)).count() as u64);
        let longest = lines.iter().map(|(line, _)| line.chars().count() as u64).max();
        prop_assert_eq!(survey.lines.longest.map(|(length, _)| length), longest);
        // A byte order mark alone is a line, though rules see none.
        let in_file = lines.len().max(usize::from(!text.is_empty())) as u64;
        prop_assert_eq!((survey.size.bytes, survey.size.lines), (text.len() as u64, in_file));

        let mut counts: BTreeMap<char, (u64, u64, u64)> = BTreeMap::new();
        for (line, (content, end)) in (1..).zip(&lines) {
            for (column, character) in (1..).zip(content.chars().chain(end.chars())) {
                counts.entry(character).or_insert((0, line, column)).0 += 1;
            }
        }
        let counted: BTreeMap<char, (u64, u64, u64)> = survey
            .all_characters()
            .iter()
            .filter_map(|counted| match counted.character {
                Surveyed::Char(character) => Some((character, (counted.count, counted.first.line, counted.first.column))),
                Surveyed::Broken(_) => None,
            })
            .collect();
        prop_assert_eq!(counted, counts);
    }
}

/// A cell that can stand in CSV when it is quoted.
fn cell() -> impl Strategy<Value = String> {
    prop_oneof![1 => Just(String::new()), 4 => vec(select(PIECES), 1..5).prop_map(|pieces| pieces.concat())]
}

fn is_unseen(character: char) -> bool {
    matches!(character, '\u{7}' | '\u{200B}' | '\u{AD}' | '\u{FEFF}')
}

fn is_odd_space(character: char) -> bool {
    matches!(character, '\u{A0}' | '\u{3000}' | '\u{2028}')
}

/// How many cells are so, and in which record the first of them is, from 1; 0 if there is none.
fn count(cells: &[&str], is_so: impl Fn(&str) -> bool) -> (u64, u64) {
    let mut records = (1..).zip(cells).filter(|(_, cell)| is_so(cell)).map(|(record, _)| record);
    let first = records.next();
    (records.count() as u64 + u64::from(first.is_some()), first.unwrap_or(0))
}

/// What a cell looks like: in small letters, without what no one sees, with one blank where there are several.
fn looks(cell: &str) -> String {
    let seen = cell.replace("e\u{301}", "é").replace(['\u{7}', '\u{200B}', '\u{AD}', '\u{FEFF}'], "").to_lowercase();
    let blank = |character: char| character.is_whitespace();
    seen.split(blank).filter(|word| !word.is_empty()).collect::<Vec<_>>().join(" ")
}

fn check(column: &ColumnSurvey, cells: &[&str]) -> Result<(), TestCaseError> {
    let filled: Vec<&str> = cells.iter().copied().filter(|cell| !cell.is_empty()).collect();
    let different: BTreeSet<&str> = filled.iter().copied().collect();
    prop_assert_eq!((column.cells, column.empty), (cells.len() as u64, (cells.len() - filled.len()) as u64));
    prop_assert_eq!(column.distinct, Some(different.len() as u64));
    let lengths = |of: fn(&str) -> &str| {
        let lengths: Vec<u64> = filled.iter().map(|cell| of(cell).chars().count() as u64).collect();
        lengths.iter().copied().min().zip(lengths.iter().copied().max())
    };
    prop_assert_eq!(column.lengths, lengths(|cell| cell));
    prop_assert_eq!(column.trimmed, lengths(str::trim));
    let has = |ends: &str| ends.contains(['\n', '\r']);
    let edges = |cell: &str| {
        let trimmed = cell.trim();
        let start = trimmed.as_ptr().addr() - cell.as_ptr().addr();
        (start > 0 || trimmed.len() < cell.len(), has(&cell[..start]) || has(&cell[start + trimmed.len()..]))
    };
    let pair = |count: washout_core::table::CellCount| (count.count, count.first);
    prop_assert_eq!(pair(column.edges), count(cells, |cell| edges(cell) == (true, false)));
    prop_assert_eq!(pair(column.edge_line_ends), count(cells, |cell| edges(cell) == (true, true)));
    prop_assert_eq!(pair(column.several_lines), count(cells, |cell| has(cell.trim())));
    prop_assert_eq!(pair(column.tabs), count(cells, |cell| cell.trim().contains('\t')));
    prop_assert_eq!(pair(column.tags), count(cells, |cell| cell.contains("<b>")));
    prop_assert_eq!(pair(column.entities), count(cells, |cell| cell.contains("&amp;")));
    prop_assert_eq!(pair(column.invisible), count(cells, |cell| cell.chars().any(is_unseen)));
    prop_assert_eq!(pair(column.odd_spaces), count(cells, |cell| cell.chars().any(is_odd_space)));

    let mut groups: BTreeMap<String, BTreeMap<&str, u64>> = BTreeMap::new();
    for cell in &filled {
        *groups.entry(looks(cell)).or_default().entry(cell).or_default() += 1;
    }
    let groups: BTreeSet<BTreeMap<Vec<u8>, u64>> = groups
        .into_values()
        .filter(|ways| ways.len() > 1)
        .map(|ways| ways.into_iter().map(|(way, count)| (way.as_bytes().to_vec(), count)).collect())
        .collect();
    let alike =
        |group: &washout_core::table::Alike| group.ways.iter().map(|(way, count)| (way.clone(), count.count)).collect();
    prop_assert_eq!(column.alike.iter().map(alike).collect::<BTreeSet<BTreeMap<Vec<u8>, u64>>>(), groups);
    Ok(())
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 300, ..ProptestConfig::default() })]

    #[test]
    fn a_column_has_the_cells_that_are_counted_plainly(records in vec([cell(), cell()], 0..12), piece in 1..40_usize) {
        let quoted = |cell: &String| format!("\"{}\"", cell.replace('"', "\"\""));
        let rows = records.iter().map(|[item, keeper]| format!("{},{}\n", quoted(item), quoted(keeper)));
        let csv = format!("Item,Keeper\n{}", rows.collect::<String>());
        let json = |cell: &String| serde_json::to_string(cell).expect("a string");
        let rows = records.iter().map(|[item, keeper]| format!("{{\"Item\":{},\"Keeper\":{}}}\n", json(item), json(keeper)));
        let json = rows.collect::<String>();
        for (format, table) in [(TableFormat::Csv, csv), (TableFormat::JsonLines, json)] {
            let mut surveyor = TableSurveyor::new(&TableSettings::default(), format);
            for piece in table.as_bytes().chunks(piece) {
                surveyor.push(piece).map_err(|error| TestCaseError::fail(error.to_string()))?;
            }
            let survey = surveyor.finish().map_err(|error| TestCaseError::fail(error.to_string()))?;
            prop_assert_eq!((survey.records, survey.ragged), (records.len() as u64, 0));
            for (place, column) in survey.columns.iter().enumerate() {
                check(column, &records.iter().map(|record| record[place].as_str()).collect::<Vec<_>>())?;
            }
        }
    }
}
