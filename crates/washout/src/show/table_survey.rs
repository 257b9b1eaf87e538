//! What is in the columns of tables, on the screen.

use std::io::{self, Write};
use std::path::Path;

use comfy_table::Cell;
use washout_core::spell::{class_of, describe};
use washout_core::survey::Surveyed;
use washout_core::table::{Alike, ColumnSurvey, Finding, TableSurvey};

use super::number::{counted, grouped};
use super::style::{FILE, QUIET, STRONG};
use super::table::{NARROW, hide_if_narrow, keep_whole, right, table, trimmed};
use super::visible::{GlyphLook, glyphs, shown, shown_path, text_of};
use super::wrap::write_wrapped;

/// Groups of cells that look equal which are shown of a column.
const MOST_ALIKE: usize = 4;
/// Ways to write a cell that are shown of such a group.
const MOST_WAYS: usize = 5;
/// Characters that are shown of a column.
const MOST_CHARACTERS: usize = 6;

/// Draws one table.
pub(crate) fn draw(
    path: &Path,
    survey: &TableSurvey,
    columns: usize,
    all: bool,
    out: &mut impl Write,
) -> io::Result<()> {
    let (records, fields) = (counted(survey.records, "record"), counted(survey.columns.len() as u64, "field"));
    writeln!(out, "\n{FILE}{}{FILE:#}  {records}, {fields}", shown_path(path))?;
    if survey.ragged > 0 {
        let ragged = counted(survey.ragged, "record");
        writeln!(out, "  {ragged} with too few or too many fields, or broken; rules are not for them")?;
    }
    writeln!(out)?;
    let mut drawn = table(columns.min(120));
    drawn.set_header([
        Cell::new("field"),
        right("cells"),
        right("empty"),
        right("different"),
        right("look equal"),
        right("characters"),
        right("trimmed"),
    ]);
    for column in &survey.columns {
        drawn.add_row(row(column));
    }
    keep_whole(&mut drawn, &[1, 2, 3, 4, 5, 6]);
    hide_if_narrow(&mut drawn, columns, NARROW, &[4, 5, 6]);
    writeln!(out, "{}", trimmed(&drawn))?;
    survey.columns.iter().try_for_each(|column| draw_column(column, columns, all, out))
}

fn row(column: &ColumnSurvey) -> [Cell; 7] {
    let number = |number: u64| if number == 0 { "—".to_owned() } else { grouped(number) };
    let different = column.distinct.map_or_else(|| "many".to_owned(), grouped);
    let alike: u64 = column.alike.iter().map(|group| group.ways.len() as u64).sum();
    [
        Cell::new(shown(&column.name)),
        right(grouped(column.cells)),
        right(number(column.empty)),
        right(different),
        right(number(alike)),
        right(range(column.lengths)),
        right(range(column.trimmed)),
    ]
}

fn range(lengths: Option<(u64, u64)>) -> String {
    match lengths {
        None => String::new(),
        Some((least, most)) if least == most => grouped(least),
        Some((least, most)) => format!("{} to {}", grouped(least), grouped(most)),
    }
}

/// What breaks look-ups in a column, if anything does.
fn draw_column(column: &ColumnSurvey, columns: usize, all: bool, out: &mut impl Write) -> io::Result<()> {
    let findings = column.findings();
    if findings.is_empty() && column.alike.is_empty() && column.characters.is_empty() {
        return Ok(());
    }
    writeln!(out, "\n{STRONG}{}{STRONG:#}", shown(&column.name))?;
    for Finding { what, rule, cells, .. } in findings {
        let (count, first) = (grouped(cells.count), cells.first);
        writeln!(out, "{count:>7}  {what}{QUIET}  first in record {first}{QUIET:#}  {rule}")?;
    }
    let (most_alike, most_ways) = if all { (usize::MAX, usize::MAX) } else { (MOST_ALIKE, MOST_WAYS) };
    for Alike { ways, differ, .. } in column.alike.iter().take(most_alike) {
        let ways_shown = ways.iter().take(most_ways);
        let each: Vec<String> =
            ways_shown.map(|(way, count)| format!("{} × {}", grouped(count.count), quoted(way))).collect();
        let more = ways.len().saturating_sub(most_ways);
        let more = if more > 0 { format!("  … and {more} more") } else { String::new() };
        let differ = differ.join(", ");
        let text = format!("{}{more}  except for {differ}", each.join("  "));
        write_wrapped("  alike  ", "         ", &text, columns, out)?;
    }
    let more = column.alike.len().saturating_sub(most_alike);
    if more > 0 {
        writeln!(out, "{QUIET}         … and {}; --all shows them{QUIET:#}", counted(more as u64, "more group"))?;
    }
    draw_characters(column, all, out)
}

/// A cell in quotation marks, with everything in it visible, blanks at its edges too.
fn quoted(text: &[u8]) -> String {
    let edges = text.len() - text.trim_ascii_start().len();
    let end = text.trim_ascii_end().len().max(edges);
    let drawn = |part: &[u8], look| -> String { text_of(&glyphs(part, look)) };
    let (start, middle, end) = (&text[..edges], &text[edges..end], &text[end..]);
    format!("“{}{}{}”", drawn(start, GlyphLook::Close), drawn(middle, GlyphLook::Text), drawn(end, GlyphLook::Close))
}

fn draw_characters(column: &ColumnSurvey, shows_all: bool, out: &mut impl Write) -> io::Result<()> {
    let most = if shows_all { usize::MAX } else { MOST_CHARACTERS };
    let mut all: Vec<_> = column.characters.iter().collect();
    // What is not seen comes before letters with marks.
    let usual = |character: &Surveyed| character.unusual().map_or((true, None), |why| (false, Some(why)));
    all.sort_by_key(|(character, count)| (usual(character), std::cmp::Reverse(count.count)));
    for (character, count) in all.iter().take(most) {
        let summary = match character {
            Surveyed::Char(character) => {
                format!("U+{:04X}  {}, {}", u32::from(*character), describe(*character), class_of(*character))
            }
            Surveyed::Broken(byte) => format!("x{byte:02X}  no valid UTF-8"),
        };
        let number = grouped(count.count);
        writeln!(out, "{number:>7}  {summary}{QUIET}  first in record {}{QUIET:#}", count.first)?;
    }
    let more = all.len().saturating_sub(most);
    if more > 0 {
        writeln!(out, "{QUIET}         … and {}; --all shows them{QUIET:#}", counted(more as u64, "more character"))?;
    }
    Ok(())
}
