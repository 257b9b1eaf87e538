//! A survey on the screen.

use std::io::{self, Write};

use comfy_table::Cell;
use washout_core::survey::{CharCount, Litter, Surveyed};
use washout_files::{Encoding, FilesSurvey};

use super::number::{counted, grouped};
use super::place::{marked, place};
use super::style::{QUIET, STRONG};
use super::table::{NARROW, hide_if_narrow, keep_whole, right, table, trimmed};
use super::table_survey;
use super::visible::{GlyphLook, glyphs, shown};
use super::wrap::write_wrapped;

/// Characters that are listed if every one is requested: more than most texts have, and a table is held whole.
const MOST_OF_ALL: usize = 10_000;

/// Columns of the table of characters, from 0.
const NAME: usize = 2;
const FILES: usize = 5;
const PLACE: usize = 6;

/// Nearly all words of names of characters, such as `LEFT-POINTING`, fit this many columns.
const NAME_WIDTH: u16 = 13;

/// Unusual characters that are listed unless every one is requested.
const MOST_CHARACTERS: usize = 20;

/// What a survey has to show.
pub(crate) struct SurveyPage<'s> {
    pub(crate) found: &'s FilesSurvey,
    pub(crate) every_character: bool,
    /// Not only the first ones of a list.
    pub(crate) shows_all: bool,
    pub(crate) columns: usize,
}

impl SurveyPage<'_> {
    pub(crate) fn draw(&self, out: &mut impl Write) -> io::Result<()> {
        if self.found.tables.is_empty() || self.found.survey.texts > 0 {
            self.draw_facts(out)?;
            self.draw_characters(out)?;
            self.draw_litter(out)?;
        } else {
            writeln!(out, "{STRONG}{}{STRONG:#}", counted(self.found.tables.len() as u64, "table"))?;
            self.draw_left_out(out)?;
            self.draw_encodings(out)?;
        }
        let tables = &self.found.tables;
        tables.iter().try_for_each(|(path, survey)| table_survey::draw(path, survey, self.columns, self.shows_all, out))
    }

    fn draw_facts(&self, out: &mut impl Write) -> io::Result<()> {
        let survey = &self.found.survey;
        let size = &survey.size;
        if self.found.of_names {
            let (names, chars) = (counted(survey.texts as u64, "name"), counted(size.chars, "character"));
            return writeln!(out, "{STRONG}{names}, {chars}{STRONG:#} ({})", counted(size.bytes, "byte"));
        }
        writeln!(
            out,
            "{STRONG}{}, {}, {}{STRONG:#} ({})",
            counted(survey.texts as u64, "file"),
            counted(size.lines, "line"),
            counted(size.chars, "character"),
            counted(size.bytes, "byte")
        )?;
        self.draw_left_out(out)?;
        self.draw_encodings(out)?;
        let lines = &survey.lines;
        let ends: Vec<String> = [("LF", lines.lf), ("CRLF", lines.crlf), ("CR", lines.cr)]
            .into_iter()
            .filter(|(_, count)| *count > 0)
            .map(|(name, count)| format!("{} {name}", grouped(count)))
            .collect();
        let without = match lines.texts_without_final {
            0 => String::new(),
            files => format!("; {} without one at the end", counted(files, "file")),
        };
        let ends = if ends.is_empty() { "none".to_owned() } else { ends.join(", ") };
        writeln!(out, "  line ends  {ends}{without}")?;
        if let Some((length, at)) = lines.longest {
            let at = place(at, &self.found.files);
            let at = at.strip_suffix(":1").unwrap_or(&at);
            writeln!(
                out,
                "  lines      the longest has {}, {at}; {} empty",
                counted(length, "character"),
                grouped(lines.empty)
            )?;
        }
        Ok(())
    }

    fn draw_encodings(&self, out: &mut impl Write) -> io::Result<()> {
        let encodings: Vec<String> = self
            .found
            .encodings
            .iter()
            .map(|(encoding, files)| format!("{} ({})", encoding_words(*encoding), counted(*files, "file")))
            .collect();
        if !encodings.is_empty() {
            writeln!(out, "  encoding   {}", encodings.join(", "))?;
        }
        for encoding in self.found.encodings.keys() {
            if let Encoding::LooksLike(label) = encoding {
                writeln!(out, "             to read those as that: --encoding {label}")?;
            }
        }
        Ok(())
    }

    fn draw_left_out(&self, out: &mut impl Write) -> io::Result<()> {
        let mut reasons: std::collections::BTreeMap<String, u64> = std::collections::BTreeMap::new();
        for (_, skip) in &self.found.skipped {
            *reasons.entry(skip.to_string()).or_default() += 1;
        }
        reasons.iter().try_for_each(|(why, files)| writeln!(out, "  left out   {} ({why})", counted(*files, "file")))
    }

    fn draw_characters(&self, out: &mut impl Write) -> io::Result<()> {
        let all = if self.every_character {
            self.found.survey.all_characters()
        } else {
            self.found.survey.unusual_characters()
        };
        if all.is_empty() {
            return writeln!(out, "\n{STRONG}No unusual characters{STRONG:#}");
        }
        let most = match (self.shows_all, self.every_character) {
            (true, _) => usize::MAX,
            (false, true) => MOST_OF_ALL,
            (false, false) => MOST_CHARACTERS,
        };
        let title = if self.every_character { "Characters" } else { "Unusual characters" };
        writeln!(out, "\n{STRONG}{title}{STRONG:#}\n")?;
        let mut table = table(self.columns.min(140));
        table.set_header([
            Cell::new("code"),
            Cell::new(""),
            Cell::new("name"),
            Cell::new("class"),
            right("count"),
            right("files"),
            Cell::new("first place"),
        ]);
        for count in all.iter().take(most) {
            table.add_row(self.character(count));
        }
        // Users copy places and classes. Names give way to them, as far as the words of a name stay whole.
        let widths = table.column_max_content_widths();
        let needed = widths.iter().enumerate().map(|(column, width)| match column {
            FILES if self.columns < 100 => 0,
            NAME => 3 + usize::from((*width).min(NAME_WIDTH)),
            _ => 3 + usize::from(*width),
        });
        let whole = [0, 3, 4, FILES, PLACE];
        let places_fit = needed.sum::<usize>() <= self.columns;
        keep_whole(&mut table, if places_fit { &whole } else { &whole[..4] });
        hide_if_narrow(&mut table, self.columns, 100, &[FILES]);
        hide_if_narrow(&mut table, self.columns, NARROW, &[NAME]);
        writeln!(out, "{}", trimmed(&table))?;
        if all.len() > most {
            let more = counted((all.len() - most) as u64, "more character");
            writeln!(out, "{QUIET} … and {more}; --all shows them{QUIET:#}")?;
        }
        Ok(())
    }

    fn character(&self, count: &CharCount) -> [Cell; 7] {
        let (code, drawn) = match count.character {
            Surveyed::Char(character) => {
                let drawn = glyphs(character.encode_utf8(&mut [0; 4]).as_bytes(), GlyphLook::Close).remove(0).text;
                // What has no picture of its own is named by its code already.
                let drawn = if drawn.starts_with('⟨') { String::new() } else { drawn.to_string() };
                (format!("U+{:04X}", u32::from(character)), drawn)
            }
            Surveyed::Broken(byte) => (format!("x{byte:02X}"), String::new()),
        };
        [
            Cell::new(code),
            Cell::new(drawn),
            Cell::new(&count.name),
            Cell::new(count.class),
            right(grouped(count.count)),
            right(grouped(count.texts as u64)),
            Cell::new(place(count.first, &self.found.files)),
        ]
    }

    fn draw_litter(&self, out: &mut impl Write) -> io::Result<()> {
        let all = self.found.litter();
        if all.is_empty() {
            return writeln!(out, "\n{STRONG}No litter found{STRONG:#}");
        }
        writeln!(
            out,
            "\n{STRONG}Litter, and the rule that takes it{STRONG:#}{QUIET}  (found: from ▸ to ◂){QUIET:#}\n"
        )?;
        for litter in &all {
            self.litter(litter, out)?;
        }
        Ok(())
    }

    fn litter(&self, litter: &Litter, out: &mut impl Write) -> io::Result<()> {
        writeln!(
            out,
            "{:>7}  {STRONG}{}{STRONG:#}{QUIET}  in {}{QUIET:#}",
            grouped(litter.count),
            litter.kind.caption(),
            counted(litter.texts as u64, "file")
        )?;
        for sighting in &litter.sightings {
            let at = place(sighting.place, &self.found.files);
            let line = marked(sighting, self.columns.saturating_sub(at.chars().count() + 11));
            writeln!(out, "         {QUIET}{at}{QUIET:#}  {line}")?;
        }
        writeln!(out, "         {}", shown(&litter.rule))?;
        if let Some(doubt) = litter.doubt {
            write_wrapped("         off in a draft: ", "         ", doubt, self.columns, out)?;
        }
        writeln!(out)
    }
}

pub(crate) fn encoding_words(encoding: Encoding) -> String {
    match encoding {
        Encoding::Ascii => "ASCII".to_owned(),
        Encoding::Utf8 => "UTF-8".to_owned(),
        Encoding::Utf8WithMark => "UTF-8 with a byte order mark".to_owned(),
        Encoding::Other(charset) => charset.to_string(),
        Encoding::LooksLike(label) => format!("not UTF-8, perhaps {label}"),
    }
}
