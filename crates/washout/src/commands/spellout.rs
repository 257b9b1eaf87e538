//! `washout spellout`

use crate::spelled::Spelled;
use crate::spelled::class;
use crate::spelled::code;
use crate::spelled::differences;
use crate::spelled::made_same_by;
use crate::spelled::name;
use crate::spelled::spelled;
use std::io::{self, Write};

use clap::ArgMatches;
use comfy_table::Cell;
use washout_core::explain::Sample;
use washout_core::observe::{Detail, Lineage, Side};
use washout_core::survey::Surveyed;
use washout_core::text::{Lines, start_of_text};
use washout_core::{Program, RuleId, RuleName};

use crate::args::SpelloutArgs;
use crate::exit::{Exit, Trouble};
use crate::json;
use crate::out::buffered_stdout;
use crate::rules;
use crate::sample;
use crate::show::number::counted;
use crate::show::screen::Screen;
use crate::show::style::{FILE, QUIET, STRONG};
use crate::show::table::{NARROW, hide_if_narrow, keep_whole, right, table, trimmed};
use crate::show::visible::{GlyphLook, glyphs, shown, text_of};

/// Runs the command.
pub(crate) fn run(args: &SpelloutArgs, given: &ArgMatches) -> Result<Exit, Trouble> {
    let program = if args.rules.is_empty() { None } else { Some(rules::program(&args.rules, given)?.0) };
    let settings = args.sample.table.settings();
    let of_cells = program.clone().unwrap_or_default().with_table(settings);
    let (sample, program) = match sample::cell(args.sample.place.as_deref(), &of_cells)? {
        Some(cell) => (cell.sample, program.map(|_| cell.program)),
        None => (sample::named(&args.sample)?, program),
    };
    let mut out = buffered_stdout();
    if let Some(other) = &args.against {
        let other = other_text(other, &of_cells)?;
        if args.json {
            json::write(&json::spellout::difference(&sample, &other))?;
        } else {
            compare(&sample, &other, &mut out)?;
        }
    } else {
        let takers = match &program {
            Some(program) => Some(takers(program, &sample.text)?),
            None => None,
        };
        let names = program.as_ref().map(Program::names).unwrap_or_default();
        if args.json {
            json::write(&json::spellout::value(&sample, takers.as_deref(), names))?;
        } else {
            draw(&sample, takers.as_deref(), names, args.all, &mut out)?;
        }
    }
    out.flush()?;
    Ok(Exit::Done)
}

/// A text to compare with: a place in a file if there is such a file, else the text itself.
fn other_text(text: &str, of_cells: &Program) -> Result<Sample, Trouble> {
    if let Some(cell) = sample::cell(Some(text), of_cells)? {
        return Ok(cell.sample);
    }
    let file = text.rsplit_once(':').map_or(text, |(file, _)| file);
    if std::path::Path::new(file).is_file() || std::path::Path::new(text).is_file() {
        return sample::at_place(text);
    }
    Ok(Sample { name: "the other text".to_owned(), text: text.as_bytes().to_vec() })
}

/// By byte of the text: the rule that takes it.
fn takers(program: &Program, text: &[u8]) -> Result<Vec<Option<RuleId>>, Trouble> {
    let mut washer = program.washer(Lineage::new(program.names().len(), Detail::All));
    let mut result = Vec::new();
    let washed = washer.push(text, &mut result).and_then(|()| washer.finish(&mut result));
    washed.map_err(|error| Trouble::Usage(error.to_string()))?;
    let mark = start_of_text(text);
    let starts: Vec<usize> = Lines::of(&text[mark..]).map(|line| mark + line.start).collect();
    let mut takers = vec![None; text.len()];
    for hunk in washer.into_observer().finish() {
        let line = usize::try_from(hunk.first_line - 1).unwrap_or(usize::MAX);
        let mut at = starts.get(line).copied().unwrap_or(text.len());
        for piece in hunk.pieces().filter(|piece| !matches!(piece.side, Side::Put(_))) {
            let end = at + piece.bytes.len();
            takers.get_mut(at..end).into_iter().flatten().for_each(|taker| *taker = piece.side.rule());
            at = end;
        }
    }
    Ok(takers)
}

/// What is drawn for a character; nothing for one that has no picture.
fn picture(character: Surveyed) -> String {
    match character {
        Surveyed::Char(character) => {
            let mut bytes = [0; 4];
            let drawn = glyphs(character.encode_utf8(&mut bytes).as_bytes(), GlyphLook::Close).remove(0).text;
            if drawn.starts_with('⟨') { String::new() } else { drawn.to_string() }
        }
        Surveyed::Broken(_) => String::new(),
    }
}

fn hex(bytes: &[u8]) -> String {
    bytes.iter().map(|byte| format!("{byte:02X}")).collect::<Vec<_>>().join(" ")
}

/// Characters that are shown at first.
const MOST_ROWS: usize = 1_000;

/// What any table shows of a character in any table: code, picture, name, class and bytes.
fn cells(spelled: &Spelled) -> [Cell; 5] {
    let Spelled { character, bytes, .. } = spelled;
    [
        Cell::new(code(*character)),
        Cell::new(picture(*character)),
        Cell::new(name(*character)),
        Cell::new(class(*character)),
        Cell::new(hex(bytes)),
    ]
}

fn sizes(text: &[u8], spelled: &[Spelled]) -> String {
    let seen = spelled.iter().filter(|spelled| !spelled.joins).count();
    let plain = counted(spelled.len() as u64, "character");
    let bytes = counted(text.len() as u64, "byte");
    if seen == spelled.len() { format!("{plain}, {bytes}") } else { format!("{plain}, {bytes}; seen as {seen}") }
}

fn draw(
    sample: &Sample,
    takers: Option<&[Option<RuleId>]>,
    names: &[RuleName],
    shows_all: bool,
    out: &mut impl Write,
) -> io::Result<()> {
    let all = spelled(&sample.text);
    writeln!(out, "{FILE}{}{FILE:#}  {}\n", shown(&sample.name), sizes(&sample.text, &all))?;
    if all.is_empty() {
        return writeln!(out, "There is no character in it.");
    }
    let lines = all.last().is_some_and(|last| last.line > 1);
    let columns = Screen::of_stdout().columns;
    let mut table = table(columns.min(140));
    let mut header = vec![
        right("place"),
        Cell::new("code"),
        Cell::new(""),
        Cell::new("name"),
        Cell::new("class"),
        Cell::new("bytes"),
    ];
    header.extend(takers.map(|_| Cell::new("taken by")));
    table.set_header(header);
    let most = if shows_all { all.len() } else { MOST_ROWS };
    for spelled in all.iter().take(most) {
        let mark = if spelled.joins { "+" } else { "" };
        let place = if lines {
            format!("{mark}{}:{}", spelled.line, spelled.column)
        } else {
            format!("{mark}{}", spelled.column)
        };
        let mut row = vec![right(place)];
        row.extend(cells(spelled));
        row.extend(takers.map(|takers| {
            let taker = takers[spelled.at].map(|rule| &names[rule.0]);
            Cell::new(taker.map_or_else(String::new, |name| format!("rule {}", shown(&name.number))))
        }));
        table.add_row(row);
    }
    keep_whole(&mut table, &[0, 1, 4, 5]);
    hide_if_narrow(&mut table, columns, NARROW, &[4]);
    writeln!(out, "{}", trimmed(&table))?;
    if all.len() > most {
        let more = counted((all.len() - most) as u64, "more character");
        writeln!(out, "\n{QUIET}… and {more}; --all shows them{QUIET:#}")?;
    }
    let takes = |rule: usize| takers.is_some_and(|takers| takers.contains(&Some(RuleId(rule))));
    let busy: Vec<&RuleName> = (0..names.len()).filter(|rule| takes(*rule)).map(|rule| &names[rule]).collect();
    if !busy.is_empty() {
        writeln!(out)?;
    }
    for name in busy {
        writeln!(out, "{QUIET}rule {}{QUIET:#}  {}", shown(&name.number), shown(&name.caption))?;
    }
    if all.iter().any(|spelled| spelled.joins) {
        writeln!(out, "\n{QUIET}+ seen together with the character before it{QUIET:#}")?;
    }
    Ok(())
}

fn compare(one: &Sample, other: &Sample, out: &mut impl Write) -> io::Result<()> {
    let sides = [("one", one), ("two", other)];
    for (word, sample) in sides {
        let line: String = text_of(&glyphs(&sample.text, GlyphLook::Text));
        let sizes = sizes(&sample.text, &spelled(&sample.text));
        writeln!(out, "{STRONG}{word}{STRONG:#}  {line}{QUIET}  {}, {sizes}{QUIET:#}", shown(&sample.name))?;
    }
    let stretches = differences(&one.text, &other.text);
    if stretches.is_empty() {
        return writeln!(out, "\n{STRONG}The same, to the byte{STRONG:#}");
    }
    writeln!(out, "\n{STRONG}They differ in {}{STRONG:#}\n", counted(stretches.len() as u64, "place"))?;
    let mut table = table(Screen::of_stdout().columns.min(140));
    table.set_header([
        Cell::new("text"),
        right("place"),
        Cell::new("code"),
        Cell::new(""),
        Cell::new("name"),
        Cell::new("class"),
        Cell::new("bytes"),
    ]);
    for stretch in &stretches {
        for (word, side) in [("one", &stretch.one), ("two", &stretch.other)] {
            if side.is_empty() {
                table.add_row([Cell::new(word), right(""), Cell::new("—"), Cell::new(""), Cell::new("nothing there")]);
            }
            for spelled in side {
                let place = [Cell::new(word), right(spelled.column.to_string())];
                table.add_row(place.into_iter().chain(cells(spelled)));
            }
        }
    }
    writeln!(out, "{}", trimmed(&table))?;
    if let Some(rule) = made_same_by(&one.text, &other.text) {
        writeln!(out, "\nThis rule makes them the same:  {rule}")?;
    }
    Ok(())
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn places_count_characters_on_their_line_and_clusters_are_told() {
        let all = spelled(b"a\r\ne\xCC\x81\xFF\rb");
        let summary: Vec<(usize, usize, bool, usize)> =
            all.iter().map(|spelled| (spelled.line, spelled.column, spelled.joins, spelled.at)).collect();
        let want = [
            (1, 1, false, 0),
            (1, 2, false, 1),
            (1, 3, false, 2),
            (2, 1, false, 3),
            (2, 2, true, 4),
            (2, 3, false, 6),
            (2, 4, false, 7),
            (3, 1, false, 8),
        ];
        assert_eq!(summary, want);
    }
}
