//! Old and new names as a table, to be looked at or edited elsewhere: CSV (RFC 4180) with the columns `folder`, `old`,
//! `new`.

use std::collections::HashMap;
use std::io::{self, Write};
use std::os::unix::ffi::{OsStrExt, OsStringExt};
use std::path::{Component, Path, PathBuf};

use percent_encoding::{AsciiSet, CONTROLS, NON_ALPHANUMERIC, percent_decode, percent_encode};
use washout_core::names::{NameOutcome, NameRequest, Planner};
use washout_core::table::is_formula;
use washout_core::text::BOM;

use super::Plans;
use crate::choose::{Chosen, ChosenFile};

/// The header of the table.
const HEADER: [&str; 3] = ["folder", "old", "new"];

/// What is wrong with another first line.
const WRONG_HEADER: &str = "the first line has to be: folder,old,new";

/// New names for entries, as a table gives them.
#[derive(Debug, Default)]
pub struct NameMap {
    /// For each folder, absolute: old names with new ones.
    requests: HashMap<PathBuf, HashMap<Vec<u8>, Vec<u8>>>,
    /// The entries it names.
    chosen: Chosen,
}

/// What is wrong with a table, each with its line, from 1. Nothing was renamed.
#[derive(Debug, thiserror::Error)]
#[error("{}", .0.iter().map(|(line, why)| format!("line {line}: {why}")).collect::<Vec<_>>().join("\n"))]
pub struct MapError(pub Vec<(u64, String)>);

/// What spreadsheets put between columns where they take no comma.
const OTHER_DELIMITERS: [(u8, &str); 3] = [(b';', "semicolons"), (b'\t', "tabs"), (b'|', "bars")];

/// Bytes a table cannot hold or a spreadsheet would spoil are written as in a URL: control characters, `%` itself, bytes
/// that are not UTF-8, and the sign at the start of what a spreadsheet would take for a formula.
const WRITTEN: &AsciiSet = &CONTROLS.add(b'%');

fn written(name: &[u8]) -> String {
    let mut text = String::with_capacity(name.len());
    let mut name = name;
    if is_formula(name) {
        let sign = name.utf8_chunks().next().and_then(|chunk| chunk.valid().chars().next()).map_or(0, char::len_utf8);
        text.extend(percent_encode(&name[..sign], NON_ALPHANUMERIC));
        name = &name[sign..];
    }
    for chunk in name.utf8_chunks() {
        for character in chunk.valid().chars() {
            if character.is_ascii() {
                text.extend(percent_encode(&[character as u8], WRITTEN));
            } else {
                text.push(character);
            }
        }
        text.extend(percent_encode(chunk.invalid(), WRITTEN));
    }
    text
}

/// The line of the file at which a row starts, from 1. Empty lines are no rows; what is before the row may have stood there.
fn line_of(text: &[u8], position: Option<&csv::Position>) -> u64 {
    let at = position.map_or(0, |position| usize::try_from(position.byte()).unwrap_or(usize::MAX)).min(text.len());
    let blank = text[at..].iter().take_while(|byte| matches!(byte, b'\n' | b'\r')).count();
    washout_core::text::TextSize::of(&text[..at + blank]).lines + 1
}

fn read(cell: &str) -> Vec<u8> {
    percent_decode(cell.as_bytes()).collect()
}

/// Writes the planned renames, and with them every name that was asked about and stays: it can be given a name by hand.
///
/// # Errors
/// The table cannot be written.
pub fn write_map(plans: &Plans, out: impl Write) -> io::Result<()> {
    let mut table = csv::Writer::from_writer(out);
    table.write_record(HEADER)?;
    for folder in &plans.folders {
        let path = written(folder.shown.as_os_str().as_bytes());
        for name in folder.names() {
            let new = if let NameOutcome::Becomes(new) = name.outcome { new } else { name.name };
            table.write_record([path.as_str(), &written(name.name), &written(new)])?;
        }
    }
    table.flush()
}

impl NameMap {
    /// Reads a table, and checks every line of it against what is there. `below`: the folders that it may name entries
    /// of, at any depth.
    ///
    /// # Errors
    /// Everything that is wrong: columns, names that are not there, names that are there twice, entries out of these folders, names
    /// that cannot be, and new names that would clash.
    pub fn read(text: &[u8], below: &[PathBuf], planner: Planner) -> Result<Self, MapError> {
        let below = below.iter().filter_map(|path| path.canonicalize().ok()).collect();
        let mut reading = MapReading { below, ..MapReading::default() };
        let text = text.strip_prefix(BOM).unwrap_or(text);
        let mut table = csv::ReaderBuilder::new().flexible(true).has_headers(false).from_reader(text);
        for (index, row) in table.byte_records().enumerate() {
            match row {
                Ok(row) => reading.row(index, line_of(text, row.position()), &row),
                Err(error) => {
                    reading.problems.push((line_of(text, error.position()), error.to_string()));
                    break;
                }
            }
        }
        if text.trim_ascii().is_empty() {
            reading.problems.push((1, WRONG_HEADER.to_owned()));
        }
        reading.finish(planner)
    }

    /// The entries it names.
    pub fn chosen(&self) -> &Chosen {
        &self.chosen
    }

    /// The new name of an entry. `folder`: absolute.
    pub(crate) fn request(&self, folder: &Path, name: &[u8]) -> Option<&[u8]> {
        self.requests.get(folder)?.get(name).map(Vec::as_slice)
    }
}

#[derive(Default)]
struct MapReading {
    map: NameMap,
    problems: Vec<(u64, String)>,
    /// The line each entry is on.
    lines: HashMap<(PathBuf, Vec<u8>), u64>,
    below: Vec<PathBuf>,
    /// It is no such table: nothing is to be said of its rows.
    is_over: bool,
}

impl MapReading {
    fn row(&mut self, index: usize, line: u64, row: &csv::ByteRecord) {
        if self.is_over {
            return;
        }
        if index == 0 {
            if row.iter().ne(HEADER.iter().map(|name| name.as_bytes())) {
                let joined = row.iter().next().filter(|_| row.len() == 1).unwrap_or_default();
                let other = OTHER_DELIMITERS
                    .iter()
                    .find(|(mark, _)| joined.split(|byte| byte == mark).eq(HEADER.iter().map(|name| name.as_bytes())));
                let why = match other {
                    Some((_, mark)) => format!("between the columns stand {mark}; they have to be commas"),
                    None => WRONG_HEADER.to_owned(),
                };
                self.problems.push((line, why));
                self.is_over = true;
            }
            return;
        }
        let cells: Option<Vec<&str>> = row.iter().map(|cell| std::str::from_utf8(cell).ok()).collect();
        let Some(cells) = cells else {
            self.problems.push((line, "it is not UTF-8".to_owned()));
            return;
        };
        let [folder, old, new] = cells[..] else {
            self.problems.push((line, format!("it has {} columns, not folder, old, new", cells.len())));
            return;
        };
        if let Err(why) =
            self.entry(line, Path::new(&std::ffi::OsString::from_vec(read(folder))), &read(old), read(new))
        {
            self.problems.push((line, why));
        }
    }

    fn entry(&mut self, line: u64, folder: &Path, old: &[u8], new: Vec<u8>) -> Result<(), String> {
        let folder = if folder.as_os_str().is_empty() { Path::new(".") } else { folder };
        let old_path = Path::new(std::ffi::OsStr::from_bytes(old));
        let is_name = old_path.components().count() == 1
            && matches!(old_path.components().next(), Some(Component::Normal(part)) if part.as_bytes() == old);
        if !is_name {
            return Err(format!("`{}` is not a name of one entry of a folder", String::from_utf8_lossy(old)));
        }
        let shown = if folder == Path::new(".") { old_path.to_owned() } else { folder.join(old_path) };
        let absolute = folder.canonicalize().map_err(|_| format!("the folder {} is not there", folder.display()))?;
        if !self.below.iter().any(|folder| absolute.starts_with(folder)) {
            return Err(format!("{} is out of the folders that were named", shown.display()));
        }
        let about = std::fs::symlink_metadata(absolute.join(old_path));
        let about = about.map_err(|_| format!("{} is not there", shown.display()))?;
        let first = *self.lines.entry((absolute.clone(), old.to_vec())).or_insert(line);
        if first != line {
            return Err(format!("{} stands on line {first} already", shown.display()));
        }
        let Chosen { files, folders, .. } = &mut self.map.chosen;
        let list = if about.is_dir() { folders } else { files };
        list.push(ChosenFile { path: shown, found: 0, leading: 0, stamp: None, with_binary: true });
        self.map.requests.entry(absolute).or_default().insert(old.to_vec(), new);
        Ok(())
    }

    /// A plan with anything refused in it is not a plan someone has approved of.
    fn finish(mut self, planner: Planner) -> Result<NameMap, MapError> {
        let source = super::RequestSource::Map(&self.map);
        let plans = Plans::to_look_at(
            self.map.chosen.entries(),
            source,
            super::NameOrder::Name,
            planner,
            &crate::meter::Meter::default(),
        );
        for folder in &plans.folders {
            for name in folder.names() {
                if let Some(why) = name.refusal() {
                    let line = self.lines.get(&(folder.path.clone(), name.name.to_vec())).copied().unwrap_or(0);
                    let NameRequest::Become(new) = &folder.entries[name.index].2 else { continue };
                    let new = String::from_utf8_lossy(new);
                    self.problems.push((line, format!("`{new}` cannot be the new name: {why}")));
                }
            }
        }
        if self.problems.is_empty() {
            return Ok(self.map);
        }
        self.problems.sort();
        Err(MapError(self.problems))
    }
}
