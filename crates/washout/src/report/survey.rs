//! The page of a survey.

use std::path::{Path, PathBuf};

use maud::{Markup, html};
use washout_core::survey::{CharCount, Litter, Sighting, Surveyed};
use washout_core::table::{Alike, ColumnSurvey, TableSurvey};
use washout_files::FilesSurvey;

use super::page::{bar, drawn, page};
use crate::show::number::{counted, grouped};
use crate::show::place::place;
use crate::show::survey::encoding_words;
use crate::show::visible::{GlyphLook, shown, shown_path};

/// The whole page.
pub(crate) fn survey_page(found: &FilesSurvey, every_character: bool) -> String {
    let survey = &found.survey;
    let characters = if every_character { survey.all_characters() } else { survey.unusual_characters() };
    let litter = found.litter();
    let longest = litter.iter().map(|litter| litter.count).max().unwrap_or(0);
    let body = html! {
        main {
            h1 { "What is in these files" }
            (facts(found))
            @for (path, table) in &found.tables { (columns(path, table)) }
            @if survey.texts > 0 {
            h2 { (if every_character { "Characters" } else { "Unusual characters" }) }
            @if characters.is_empty() { p { "None." } } @else { (table(&characters, &found.files)) }
            h2 { "Litter, and the rule that takes it" }
            @if litter.is_empty() { p { "None." } } @else {
                table.chart {
                    thead { tr { th.number { "count" } th {} th.number { "files" } th { "what, where, and the rule" } } }
                    tbody { @for kind in &litter { (row(kind, longest, &found.files)) } }
                }
            }
            }
        }
    };
    page("Washout: survey", ".chart td.share { width: 18% }", &body)
}

/// What is in the columns of a table.
fn columns(path: &Path, survey: &TableSurvey) -> Markup {
    let range = |lengths: Option<(u64, u64)>| match lengths {
        None => String::new(),
        Some((least, most)) if least == most => grouped(least),
        Some((least, most)) => format!("{} to {}", grouped(least), grouped(most)),
    };
    html! {
        h2 { (shown_path(path)) span.quiet { "  " (counted(survey.records, "record")) } }
        @if survey.ragged > 0 {
            p { (counted(survey.ragged, "record")) " with too few or too many fields, or broken." }
        }
        table {
            thead {
                tr {
                    th { "field" } th.number { "cells" } th.number { "empty" } th.number { "different" }
                    th.number { "characters" } th.number { "trimmed" } th { "what breaks look-ups" }
                }
            }
            tbody {
                @for column in &survey.columns {
                    tr {
                        td { (shown(&column.name)) }
                        td.number { (grouped(column.cells)) }
                        td.number { (grouped(column.empty)) }
                        td.number { (column.distinct.map_or_else(|| "many".to_owned(), grouped)) }
                        td.number { (range(column.lengths)) }
                        td.number { (range(column.trimmed)) }
                        td { (findings(column)) }
                    }
                }
            }
        }
    }
}

/// Groups of cells that look equal which a page shows of a column.
const MOST_ALIKE: usize = 50;

fn findings(column: &ColumnSurvey) -> Markup {
    let ways = |group: &Alike| -> String {
        let ways = group.ways.iter().take(8);
        let each: Vec<String> =
            ways.map(|(way, count)| format!("{} × “{}”", grouped(count.count), drawn(way, GlyphLook::Close))).collect();
        each.join("  ")
    };
    html! {
        @for finding in column.findings() {
            p {
                (counted(finding.cells.count, "cell")) ": " (finding.what) ", first in record "
                (grouped(finding.cells.first)) " " code { (finding.rule) }
            }
        }
        @for group in column.alike.iter().take(MOST_ALIKE) {
            p { "Look equal, except for " (group.differ.join(", ")) ": " (ways(group)) }
        }
        @if column.alike.len() > MOST_ALIKE { p.quiet { "… and " (column.alike.len() - MOST_ALIKE) " more groups" } }
    }
}

fn facts(found: &FilesSurvey) -> Markup {
    let survey = &found.survey;
    let lines = &survey.lines;
    let encodings: Vec<String> = found
        .encodings
        .iter()
        .map(|(encoding, files)| format!("{} ({})", encoding_words(*encoding), counted(*files, "file")))
        .collect();
    html! {
        div.cards {
            @if !found.tables.is_empty() { div { b { (grouped(found.tables.len() as u64)) } "tables" } }
            @if survey.texts > 0 || found.tables.is_empty() {
            div { b { (grouped(survey.texts as u64)) } "files" }
            div { b { (grouped(survey.size.lines)) } "lines" }
            div { b { (grouped(survey.size.chars)) } "characters" }
            div { b { (grouped(survey.size.bytes)) } "bytes" }
            }
        }
        p { "Encodings: " (encodings.join(", ")) }
        @if survey.texts > 0 { p { "Line ends: " (grouped(lines.lf)) " LF, " (grouped(lines.crlf)) " CRLF, " (grouped(lines.cr)) " CR" } }
        @if let Some((length, at)) = lines.longest {
            p { "Longest line: " (counted(length, "character")) ", " (place(at, &found.files)) }
        }
    }
}

fn table(characters: &[CharCount], files: &[PathBuf]) -> Markup {
    html! {
        table {
            thead {
                tr { th { "code" } th { "name" } th { "class" } th.number { "count" } th.number { "files" } th { "first place" } }
            }
            tbody {
                @for count in characters {
                    tr {
                        td { code { (code_of(count.character)) } }
                        td { (count.name) }
                        td { (count.class) }
                        td.number { (grouped(count.count)) }
                        td.number { (grouped(count.texts as u64)) }
                        td { code { (place(count.first, files)) } }
                    }
                }
            }
        }
    }
}

fn code_of(character: Surveyed) -> String {
    match character {
        Surveyed::Char(character) => format!("U+{:04X}", u32::from(character)),
        Surveyed::Broken(byte) => format!("x{byte:02X}"),
    }
}

fn row(litter: &Litter, longest: u64, files: &[PathBuf]) -> Markup {
    html! {
        tr {
            td.number { (grouped(litter.count)) }
            td.share { (bar(litter.count, longest)) }
            td.number { (grouped(litter.texts as u64)) }
            td {
                b { (litter.kind.caption()) }
                @for sighting in &litter.sightings { (example(sighting, files)) }
                div { code { (shown(&litter.rule)) } }
                @if let Some(doubt) = litter.doubt { p.quiet { "Off in a draft: " (doubt) } }
            }
        }
    }
}

fn example(sighting: &Sighting, files: &[PathBuf]) -> Markup {
    let Sighting { excerpt, mark, .. } = sighting;
    html! {
        p.examples {
            span.quiet { (place(sighting.place, files)) "  " }
            code {
                (drawn(&excerpt[..mark.start], GlyphLook::Text))
                mark { (drawn(&excerpt[mark.clone()], GlyphLook::Close)) }
                (drawn(&excerpt[mark.end..], GlyphLook::Text))
            }
        }
    }
}
