//! The survey.

use std::path::Path;

use serde_json::{Value, json};

use washout_core::survey::{CharCount, Litter, Place, Sighting, Surveyed};
use washout_core::table::{Alike, CellCount, ColumnSurvey, Finding, TableSurvey};
use washout_files::FilesSurvey;

use super::{of_command, path, text};
use crate::show::survey::encoding_words;

pub(crate) fn value(found: &FilesSurvey, every_character: bool) -> Value {
    let survey = &found.survey;
    let characters = if every_character { survey.all_characters() } else { survey.unusual_characters() };
    let at = |at: Place| json!({"file": found.files.get(at.text).map(|file| path(file)), "line": at.line, "column": at.column});
    let lines = &survey.lines;
    of_command(
        "survey",
        json!({
            "files": survey.texts,
            "bytes": survey.size.bytes,
            "characters": survey.size.chars,
            "lines": survey.size.lines,
            "empty_lines": lines.empty,
            "line_ends": {"lf": lines.lf, "crlf": lines.crlf, "cr": lines.cr},
            "files_without_final_line_end": lines.texts_without_final,
            "files_with_byte_order_mark": lines.texts_with_bom,
            "longest_line": lines.longest.map(|(length, place)| json!({"characters": length, "place": at(place)})),
            "encodings": found.encodings.iter().map(|(encoding, files)| {
                json!({"encoding": encoding_words(*encoding), "files": files})
            }).collect::<Vec<_>>(),
            "unusual": characters.iter().map(|count| character(count, &at)).collect::<Vec<_>>(),
            "litter": found.litter().iter().map(|litter| one_kind(litter, &at)).collect::<Vec<_>>(),
            "tables": found.tables.iter().map(|(file, survey)| table(file, survey)).collect::<Vec<_>>(),
            "skipped": found.skipped.iter().map(|(file, why)| {
                json!({"file": path(file), "why": why.to_string()})
            }).collect::<Vec<_>>(),
            "failed": found.failed.iter().map(|(file, why)| {
                json!({"file": path(file), "why": why.to_string()})
            }).collect::<Vec<_>>(),
        }),
    )
}

fn table(file: &Path, survey: &TableSurvey) -> Value {
    json!({
        "file": path(file),
        "records": survey.records,
        "ragged": survey.ragged,
        "fields": survey.columns.iter().map(column).collect::<Vec<_>>(),
    })
}

fn column(column: &ColumnSurvey) -> Value {
    let range = |lengths: Option<(u64, u64)>| lengths.map(|(least, most)| json!({"shortest": least, "longest": most}));
    let alike = |group: &Alike| {
        let way = |(text_of_it, count): &(Vec<u8>, CellCount)| json!({"text": text(text_of_it), "cells": count.count, "first_record": count.first});
        json!({"differ": group.differ, "ways": group.ways.iter().map(way).collect::<Vec<_>>()})
    };
    let character = |(character, count): (&Surveyed, &CellCount)| {
        let (code, byte) = match character {
            Surveyed::Char(character) => (Some(format!("U+{:04X}", u32::from(*character))), None),
            Surveyed::Broken(byte) => (None, Some(*byte)),
        };
        json!({"code": code, "byte": byte, "count": count.count, "first_record": count.first})
    };
    let finding = |finding: &Finding| {
        let CellCount { count, first } = finding.cells;
        json!({"what": finding.what, "cells": count, "first_record": first, "rule": finding.rule})
    };
    json!({
        "name": column.name,
        "cells": column.cells,
        "empty": column.empty,
        "different": column.distinct_counted,
        "different_is_least": column.distinct.is_none(),
        "characters": range(column.lengths),
        "characters_trimmed": range(column.trimmed),
        "findings": column.findings().iter().map(finding).collect::<Vec<_>>(),
        "look_equal": column.alike.iter().map(alike).collect::<Vec<_>>(),
        "unusual": column.characters.iter().map(character).collect::<Vec<_>>(),
    })
}

fn character(count: &CharCount, at: &impl Fn(Place) -> Value) -> Value {
    let (code, byte) = match count.character {
        Surveyed::Char(character) => (Some(format!("U+{:04X}", u32::from(character))), None),
        Surveyed::Broken(byte) => (None, Some(byte)),
    };
    json!({
        "code": code,
        "byte": byte,
        "name": count.name,
        "class": count.class,
        "count": count.count,
        "files": count.texts,
        "first": at(count.first),
    })
}

fn one_kind(litter: &Litter, at: &impl Fn(Place) -> Value) -> Value {
    let seen = |sighting: &Sighting| {
        json!({
            "place": at(sighting.place),
            "before": text(&sighting.excerpt[..sighting.mark.start]),
            "found": text(&sighting.excerpt[sighting.mark.clone()]),
            "after": text(&sighting.excerpt[sighting.mark.end..]),
        })
    };
    json!({
        "kind": litter.kind.caption(),
        "count": litter.count,
        "files": litter.texts,
        "rule": litter.rule,
        "doubtful": litter.doubt.is_some(),
        "doubt": litter.doubt,
        "examples": litter.sightings.iter().map(seen).collect::<Vec<_>>(),
    })
}
