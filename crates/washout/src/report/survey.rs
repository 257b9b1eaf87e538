//! The page of a survey.

use std::path::PathBuf;

use maud::{Markup, html};
use washout_core::{CharCount, Litter, Sighting, Surveyed};
use washout_files::FilesSurvey;

use super::page::{bar, drawn, page};
use crate::show::number::{counted, grouped};
use crate::show::place::place;
use crate::show::survey::encoding_words;
use crate::show::visible::{Look, shown};

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
    };
    page("Washout: survey", ".chart td.share { width: 18% }", &body)
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
            div { b { (grouped(survey.texts as u64)) } "files" }
            div { b { (grouped(survey.size.lines)) } "lines" }
            div { b { (grouped(survey.size.chars)) } "characters" }
            div { b { (grouped(survey.size.bytes)) } "bytes" }
        }
        p { "Encodings: " (encodings.join(", ")) }
        p { "Line ends: " (grouped(lines.lf)) " LF, " (grouped(lines.crlf)) " CRLF, " (grouped(lines.cr)) " CR" }
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
                (drawn(&excerpt[..mark.start], Look::Text))
                mark { (drawn(&excerpt[mark.clone()], Look::Close)) }
                (drawn(&excerpt[mark.end..], Look::Text))
            }
        }
    }
}
