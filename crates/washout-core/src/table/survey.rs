//! What is in the columns of a table: characters, lengths, and cells that look equal but are not.

use std::collections::hash_map::Entry;
use std::collections::{BTreeMap, HashMap, HashSet};
use std::hash::{BuildHasher, Hasher};
use std::sync::LazyLock;

use unicode_normalization::UnicodeNormalization;

use super::block::field_of;
use super::csv::LONGEST_RECORD;
use super::error::{Broken, TableError};
use super::grid::{Extent, Grid};
use super::header::{Header, unnamed};
use super::held::Held;
use super::json_lines::Found;
use super::plan::Plan;
use super::settings::{Ragged, TableFormat, TableSettings};
use crate::class::{CharSet, NamedClass};
use crate::program::Program;
use crate::survey::Surveyed;
use crate::text::BOM;
use crate::text::chars::char_at;
use crate::text::lines::line_ends;

/// How much of a table is looked at at once, in bytes.
const BLOCK: usize = 256 << 10;

/// Of a cell so much is kept to be shown, in bytes.
const KEPT: usize = 120;

/// What is kept of the cells of all columns together, in bytes. Where it is not enough, the columns of which most is kept
/// are not searched for cells that look equal.
const MOST_KEPT: usize = 32 << 20;

/// What is kept of one cell at most, in bytes. A table of hashes has room for about twice what is in it while it grows.
const MOST_OF_A_CELL: usize = 2 * size_of::<(u128, Ways)>() + KEPT;

/// Columns that are told apart: in JSON Lines each record may have keys of its own. Others are one column, [`OTHERS`].
const MOST_COLUMNS: usize = 4096;

/// The name of the column that cells of further columns are counted in.
const OTHERS: &str = "(other fields)";

/// What is in a table, column by column.
#[derive(Clone, Debug, Default)]
pub struct TableSurvey {
    /// Its records, without the header.
    pub records: u64,
    /// Those with too few or too many fields, or that cannot be read.
    pub ragged: u64,
    /// Its columns, in order; in JSON Lines in the order in which they come first.
    pub columns: Vec<ColumnSurvey>,
}

/// What is in a column.
#[derive(Clone, Debug, Default)]
pub struct ColumnSurvey {
    /// Its name, or its place if it has none.
    pub name: String,
    /// Its cells.
    pub cells: u64,
    /// Those with nothing in them.
    pub empty: u64,
    /// How many different ones there are; `None`: more than are counted.
    pub distinct: Option<u64>,
    /// How many different ones were counted: there are that many at least.
    pub distinct_counted: u64,
    /// The shortest and the longest that is not empty, in characters.
    pub lengths: Option<(u64, u64)>,
    /// The same without the white space at their edges.
    pub trimmed: Option<(u64, u64)>,
    /// Cells with white space at an edge.
    pub edges: Count,
    /// Cells with several blanks in a row.
    pub blank_runs: Count,
    /// Cells of several lines.
    pub several_lines: Count,
    /// Cells with characters nobody sees.
    pub invisible: Count,
    /// Cells with white space that is no plain blank.
    pub odd_spaces: Count,
    /// Characters that are not printable ASCII: each with how often it occurs and in which record first.
    pub characters: BTreeMap<Surveyed, Count>,
    /// Cells that look equal but are not: the groups with the most cells first.
    pub alike: Vec<Alike>,
}

/// What breaks look-ups in a column.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Finding {
    /// What it is.
    pub what: &'static str,
    /// The rule that mends it.
    pub rule: &'static str,
    /// The cells that have it.
    pub cells: Count,
}

/// How many there are, and where the first is.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub struct Count {
    /// How many.
    pub count: u64,
    /// The record of the first, from 1.
    pub first: u64,
}

/// Different cells that people take for the same.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Alike {
    /// Each way it is written, as far as it is kept, the most frequent first.
    pub ways: Vec<(Vec<u8>, Count)>,
    /// In what they differ.
    pub differ: Vec<&'static str>,
}

impl Count {
    fn add(&mut self, record: u64) {
        self.count += 1;
        if self.first == 0 {
            self.first = record;
        }
    }
}

/// Follows one table that comes in pieces.
#[derive(Debug)]
pub struct TableSurveyor {
    program: Program,
    format: TableFormat,
    plan: Option<Plan>,
    held: Held,
    started: bool,
    /// The lines of the records so far, and of the header.
    lines: u64,
    survey: TableSurvey,
    /// The ways each column's cells are written, by what they look like.
    looks: Vec<Looks>,
    /// How much may still be kept of cells, in bytes.
    room: usize,
    by_name: HashMap<String, usize>,
    grid: Box<Grid>,
}

/// Cells of one column by what they look like.
#[derive(Debug, Default)]
struct Looks {
    /// By the hash of what they look like.
    ways: HashMap<u128, Ways>,
    distinct: usize,
    /// How much is kept, in bytes.
    kept: usize,
    /// Nothing more is counted or kept.
    is_dropped: bool,
}

/// The ways to write cells that look equal. Nearly always there is one.
#[derive(Debug)]
struct Ways {
    first: Way,
    others: Vec<Way>,
}

/// A way to write a cell.
#[derive(Debug)]
struct Way {
    hash: u128,
    /// Its start, as far as it is kept.
    start: Box<[u8]>,
    count: Count,
}

impl TableSurveyor {
    /// For a table like this.
    pub fn new(settings: &TableSettings, format: TableFormat) -> Self {
        let settings = TableSettings { ragged: Some(Ragged::Keep), only: None, fields: None, ..settings.clone() };
        Self {
            program: Program::default().with_table(settings),
            format,
            plan: None,
            held: Held::default(),
            started: false,
            lines: 0,
            survey: TableSurvey::default(),
            looks: Vec::new(),
            room: MOST_KEPT,
            by_name: HashMap::new(),
            grid: Box::default(),
        }
    }

    /// Takes the next piece of the table, cut anywhere.
    ///
    /// # Errors
    /// A header that cannot be read, or a record that is longer than 64 MiB.
    pub fn push(&mut self, piece: &[u8]) -> Result<(), TableError> {
        if self.held.take(piece) < BLOCK { Ok(()) } else { self.work_off(false) }
    }

    /// Closes the table.
    ///
    /// # Errors
    /// As [`push`](Self::push).
    pub fn finish(mut self) -> Result<TableSurvey, TableError> {
        self.work_off(true)?;
        for (column, looks) in self.survey.columns.iter_mut().zip(self.looks) {
            column.distinct = (!looks.is_dropped).then_some(looks.distinct as u64);
            column.distinct_counted = looks.distinct as u64;
            column.alike = alike(looks);
        }
        Ok(self.survey)
    }

    fn work_off(&mut self, last: bool) -> Result<(), TableError> {
        let Some(held) = self.held.worth_a_try(last) else { return Ok(()) };
        let mut from = if !self.started && held.starts_with(BOM) { BOM.len() } else { 0 };
        if self.plan.is_none() {
            let header = if self.format == TableFormat::JsonLines {
                Some(unnamed())
            } else {
                Header::read(&self.program, self.format, &held[from..], last)?
            };
            let Some(header) = header else {
                if held.len() > LONGEST_RECORD {
                    return Err(TableError::broken(0, 1, Broken::TooLong));
                }
                self.held.keep(held, 0);
                return Ok(());
            };
            self.lines += line_ends(&held[from..from + header.end]);
            from += header.end;
            if self.format != TableFormat::JsonLines {
                header.names.iter().for_each(|name| self.add_column(name));
            }
            let mut plan = Plan::new(&self.program, self.format, header, &[])?;
            plan.layout.seen.fill(true);
            self.plan = Some(plan);
        }
        self.started = true;
        let Some(plan) = self.plan.take() else { return Ok(()) };
        let mut text = &held[from..];
        while !text.is_empty() {
            let read = self.block(&plan, text, last);
            if read == 0 {
                break;
            }
            self.lines += line_ends(&text[..read]);
            text = &text[read..];
        }
        self.plan = Some(plan);
        if text.len() > LONGEST_RECORD {
            return Err(TableError::broken(self.survey.records + 1, self.lines + 1, Broken::TooLong));
        }
        let done = held.len() - text.len();
        self.held.keep(held, done);
        Ok(())
    }

    fn add_column(&mut self, name: &str) {
        self.by_name.entry(name.to_owned()).or_insert(self.survey.columns.len());
        self.survey.columns.push(ColumnSurvey { name: name.to_owned(), ..ColumnSurvey::default() });
        self.looks.push(Looks::default());
    }

    /// Drops what is kept of the cells of one column: of the one with the most, where cells that look equal mean least.
    fn make_room(&mut self) {
        if let Some(largest) = self.looks.iter_mut().max_by_key(|looks| looks.kept) {
            self.room += largest.stop();
        }
    }

    /// The column of this name; a new one, if there is none yet.
    fn column_of(&mut self, name: &str) -> usize {
        let name = if self.by_name.len() >= MOST_COLUMNS && !self.by_name.contains_key(name) { OTHERS } else { name };
        if !self.by_name.contains_key(name) {
            self.add_column(name);
        }
        self.by_name[name]
    }

    /// Looks at the next records; gives how much of the text they are.
    fn block(&mut self, plan: &Plan, text: &[u8], last: bool) -> usize {
        let mut grid = std::mem::take(&mut self.grid);
        let extent = Extent { bytes: BLOCK, ..Extent::whole(last) };
        // What is no good has no cells, and is counted.
        let read = plan.read(text, extent, &mut grid, &mut Found::default()).unwrap_or(text.len());
        for record in 0..grid.records.len() {
            self.survey.records += 1;
            let cells = grid.cells_of(record);
            let is_object = self.format == TableFormat::JsonLines;
            self.survey.ragged += u64::from(cells.is_empty() && !is_object);
            for cell in cells {
                let column = if is_object {
                    self.column_of(&field_of(&plan.layout, &grid, cell))
                } else {
                    grid.cells[cell].column
                };
                let number = self.survey.records;
                self.survey.columns[column].add(grid.value(cell, text), number);
                self.room -= self.looks[column].add(grid.value(cell, text), number);
                if self.room < MOST_OF_A_CELL {
                    self.make_room();
                }
            }
        }
        self.grid = grid;
        read
    }
}

impl ColumnSurvey {
    fn add(&mut self, value: &[u8], record: u64) {
        self.cells += 1;
        if value.is_empty() {
            self.empty += 1;
            return;
        }
        let trimmed = trim(value);
        widen(&mut self.lengths, bytecount::num_chars(value) as u64);
        widen(&mut self.trimmed, bytecount::num_chars(trimmed) as u64);
        if trimmed.len() < value.len() {
            self.edges.add(record);
        }
        if memchr::memchr2(b'\n', b'\r', value).is_some() {
            self.several_lines.add(record);
        }
        if memchr::memmem::find(trimmed, b"  ").is_some() {
            self.blank_runs.add(record);
        }
        if value.iter().all(|byte| matches!(byte, b' '..=b'~')) {
            return;
        }
        let (mut unseen, mut odd) = (false, false);
        let mut at = 0;
        while at < value.len() {
            let (surveyed, len) = match char_at(value, at) {
                Some((character, len)) => (Surveyed::Char(character), len),
                None => (Surveyed::Broken(value[at]), 1),
            };
            at += len;
            match surveyed {
                Surveyed::Char(' '..='~' | '\n' | '\r') => continue,
                Surveyed::Char(character) => match look(character) {
                    Look::Unseen => unseen = true,
                    Look::Space => odd = true,
                    Look::Seen => {}
                },
                Surveyed::Broken(_) => {}
            }
            self.characters.entry(surveyed).or_default().add(record);
        }
        if unseen {
            self.invisible.add(record);
        }
        if odd {
            self.odd_spaces.add(record);
        }
    }

    /// What breaks look-ups in this column, in the order in which rules should take it.
    pub fn findings(&self) -> Vec<Finding> {
        let finding = |cells, what, rule| Finding { what, rule, cells };
        let all = [
            finding(self.invisible, "characters nobody sees", "remove.class = [\"control\", \"invisible\"]"),
            finding(self.odd_spaces, "odd spaces", "replace = { class = \"odd-space\", with = \" \" }"),
            finding(self.blank_runs, "several blanks in a row", "collapse = { class = \"blank\", with = \" \" }"),
            finding(self.edges, "white space at an edge", "trim.class = \"whitespace\""),
        ];
        all.into_iter().filter(|finding| finding.cells.count > 0).collect()
    }
}

fn class(name: &str) -> CharSet {
    NamedClass::find(name).map(NamedClass::set).unwrap_or_default()
}

static ODD_SPACE: LazyLock<CharSet> = LazyLock::new(|| class("odd-space"));
static INVISIBLE: LazyLock<CharSet> = LazyLock::new(|| class("invisible"));

/// A rule set of what breaks look-ups in these tables, with a comment each. `names`: what they are called.
pub fn table_draft(tables: &[&TableSurvey], names: &[String]) -> String {
    let quoted = |text: &str| serde_json::Value::from(text).to_string();
    let mut rules: Vec<(Finding, Vec<&str>)> = Vec::new();
    for what in ["characters nobody sees", "odd spaces", "several blanks in a row", "white space at an edge"] {
        for column in tables.iter().flat_map(|table| &table.columns) {
            let Some(found) = column.findings().into_iter().find(|finding| finding.what == what) else { continue };
            match rules.iter_mut().find(|(finding, _)| finding.what == what) {
                Some((finding, fields)) => {
                    finding.cells.count += found.cells.count;
                    if !fields.contains(&column.name.as_str()) {
                        fields.push(&column.name);
                    }
                }
                None => rules.push((found, vec![&column.name])),
            }
        }
    }
    let mut draft = format!("title = {}\n\n[table]\n", quoted(&format!("Draft for {}", names.join(", "))));
    for (Finding { what, rule, cells }, fields) in rules {
        let fields: Vec<String> = fields.into_iter().map(quoted).collect();
        let fields = fields.join(", ");
        draft.extend([
            "\n# ",
            what,
            ": ",
            &cells.count.to_string(),
            " cells\n[[rule]]\nfields = [",
            &fields,
            "]\n",
            rule,
            "\n",
        ]);
    }
    draft
}

/// How a character looks.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Look {
    Seen,
    Unseen,
    Space,
}

fn look(character: char) -> Look {
    match character {
        ' '..='~' => Look::Seen,
        '\t' => Look::Space,
        _ if character.is_control() => Look::Unseen,
        _ if ODD_SPACE.contains(character) => Look::Space,
        _ if INVISIBLE.contains(character) => Look::Unseen,
        _ => Look::Seen,
    }
}

fn widen(range: &mut Option<(u64, u64)>, length: u64) {
    let (least, most) = range.unwrap_or((length, length));
    *range = Some((least.min(length), most.max(length)));
}

/// Without the white space at both edges.
fn trim(value: &[u8]) -> &[u8] {
    match std::str::from_utf8(value) {
        Ok(text) => text.trim().as_bytes(),
        Err(_) => value.trim_ascii(),
    }
}

/// What a cell looks like to people: without what nobody sees, in small letters, with plain blanks, one at a time.
fn looks_like(value: &[u8]) -> Vec<u8> {
    let Ok(text) = std::str::from_utf8(value) else { return value.to_vec() };
    if value.iter().all(|byte| matches!(byte, b'!'..=b'~')) {
        return value.to_ascii_lowercase();
    }
    let mut seen = String::with_capacity(text.len());
    for character in text.nfc().flat_map(char::to_lowercase) {
        match character {
            ' ' | '\n' | '\r' => blank(&mut seen),
            _ => match look(character) {
                Look::Unseen => {}
                Look::Space => blank(&mut seen),
                Look::Seen => seen.push(character),
            },
        }
    }
    seen.truncate(seen.trim_end().len());
    seen.into_bytes()
}

fn blank(seen: &mut String) {
    if !seen.is_empty() && !seen.ends_with(' ') {
        seen.push(' ');
    }
}

impl Looks {
    /// Counts a cell. Gives how much more is kept now, in bytes.
    fn add(&mut self, value: &[u8], record: u64) -> usize {
        if value.is_empty() || self.is_dropped {
            return 0;
        }
        let hash = hash(value);
        let looks = self::hash(&looks_like(value));
        if let Some(ways) = self.ways.get_mut(&looks)
            && let Some(way) = std::iter::once(&mut ways.first).chain(&mut ways.others).find(|way| way.hash == hash)
        {
            way.count.add(record);
            return 0;
        }
        let start: Box<[u8]> = value[..value.len().min(KEPT)].into();
        let cost = MOST_OF_A_CELL - KEPT + start.len();
        self.distinct += 1;
        self.kept += cost;
        let mut count = Count::default();
        count.add(record);
        let way = Way { hash, start, count };
        match self.ways.entry(looks) {
            Entry::Occupied(mut ways) => ways.get_mut().others.push(way),
            Entry::Vacant(free) => drop(free.insert(Ways { first: way, others: Vec::new() })),
        }
        cost
    }

    /// Forgets what is kept, and counts and keeps no more. Gives how much that was, in bytes.
    fn stop(&mut self) -> usize {
        let distinct = self.distinct;
        std::mem::replace(self, Self { distinct, is_dropped: true, ..Self::default() }).kept
    }
}

/// A hash of a cell that stands for the cell: among a million cells, two with one hash do not happen by chance.
fn hash(value: &[u8]) -> u128 {
    let half = |seed: u64| {
        let mut hasher = foldhash::quality::FixedState::with_seed(seed).build_hasher();
        hasher.write(value);
        hasher.finish()
    };
    u128::from(half(1)) << 64 | u128::from(half(2))
}

/// The groups of cells that look equal, the largest first.
fn alike(looks: Looks) -> Vec<Alike> {
    let mut groups: Vec<Alike> = looks
        .ways
        .into_values()
        .filter(|ways| !ways.others.is_empty())
        .map(|Ways { first, others }| {
            let ways = std::iter::once(first).chain(others);
            let mut ways: Vec<(Vec<u8>, Count)> = ways.map(|way| (way.start.into(), way.count)).collect();
            ways.sort_by_key(|(_, count)| (std::cmp::Reverse(count.count), count.first));
            Alike { differ: differences(&ways), ways }
        })
        .collect();
    groups.sort_by_key(|group| {
        let cells: u64 = group.ways.iter().map(|(_, count)| count.count).sum();
        (std::cmp::Reverse(cells), group.ways[0].1.first)
    });
    groups
}

/// In what the ways to write a cell differ.
fn differences(ways: &[(Vec<u8>, Count)]) -> Vec<&'static str> {
    type Step = fn(&str) -> String;
    let steps: [(&str, Step); 5] = [
        ("characters nobody sees", |text| text.chars().filter(|c| look(*c) != Look::Unseen).collect()),
        ("odd spaces", |text| text.chars().map(|c| if look(c) == Look::Space { ' ' } else { c }).collect()),
        ("blanks", |text| text.split_whitespace().collect::<Vec<_>>().join(" ")),
        ("Unicode form", |text| text.nfc().collect()),
        ("letter case", str::to_lowercase),
    ];
    let texts: Vec<_> = ways.iter().map(|(way, _)| String::from_utf8_lossy(way)).collect();
    // What still tells them apart when all else is made alike.
    let matters = |one: usize| {
        let others = || steps.iter().enumerate().filter(move |(step, _)| *step != one);
        let alike = |text: &str| others().fold(text.to_owned(), |text, (_, (_, step))| step(&text));
        texts.iter().map(|text| alike(text)).collect::<HashSet<_>>().len() > 1
    };
    steps.iter().enumerate().filter(|(step, _)| matters(*step)).map(|(_, (what, _))| *what).collect()
}
