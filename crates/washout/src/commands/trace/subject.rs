//! What is traced: a text, records of a table, a cell of one, or the name of a file; and its steps.

use crate::traced::Traced;
use std::ffi::OsString;
use std::fs::File;
use std::io::Read;
use std::ops::RangeInclusive;
use std::os::unix::ffi::OsStringExt;
use std::path::Path;

use washout_core::Program;
use washout_core::explain::Sample;
use washout_core::names::{NameRequest, NameSettings, NameWasher};
use washout_core::table::{Form, TableFormat};
use washout_core::text::TextSize;

use crate::args::SampleArgs;
use crate::exit::Trouble;
use crate::sample::{self, NamedCell, TABLE, line_range};
use crate::show::visible::{shown, shown_path};

/// Records that are traced of a table of which only the file is named.
const RECORDS: u64 = 20;

/// What goes through the rules.
pub(super) struct Subject {
    pub(super) sample: Sample,
    kind: SubjectKind,
}

enum SubjectKind {
    Text,
    /// A small table; the number of its first record, from 1.
    Records {
        format: TableFormat,
        first: u64,
    },
    /// A cell of the first record of a small table.
    Cell {
        format: TableFormat,
        table: Vec<u8>,
        record: u64,
        field: String,
    },
    /// The name of a file or folder.
    Name {
        settings: NameSettings,
        is_folder: bool,
    },
}

impl Subject {
    /// The name that a command line means.
    pub(super) fn name(args: &SampleArgs, settings: NameSettings) -> Result<Self, Trouble> {
        let name = match (&args.text, &args.place) {
            (Some(text), _) => OsString::from(text),
            (None, Some(place)) => {
                let name = Path::new(place).file_name().map(ToOwned::to_owned);
                name.ok_or_else(|| Trouble::Usage(format!("{} has no name", shown(place))))?
            }
            (None, None) => {
                let message = "no name given\nName a file, or type its name: --names --text 'lamp_room (2).tiff'";
                return Err(Trouble::Usage(message.to_owned()));
            }
        };
        let is_folder = args.place.as_ref().is_some_and(|place| Path::new(place).is_dir());
        let sample = Sample { name: name.to_string_lossy().into_owned(), text: name.into_vec() };
        Ok(Self { sample, kind: SubjectKind::Name { settings, is_folder } })
    }

    /// The text, records or cell that a command line means.
    pub(super) fn text(args: &SampleArgs, program: &Program) -> Result<Self, Trouble> {
        if let Some(NamedCell { sample, program: _, path, format, record, field }) =
            sample::cell(args.place.as_deref(), program)?
        {
            let table = records(program, &path, format, &(record..=record))?;
            return Ok(Self { sample, kind: SubjectKind::Cell { format, table, record, field } });
        }
        let form = |path: &Path| program.form(path.extension().and_then(|extension| extension.to_str()));
        if let Some(place) = args.place.as_deref().filter(|place| *place != "-") {
            let (path, range) = match place.rsplit_once(':').and_then(|(file, range)| Some((file, line_range(range)?)))
            {
                Some((file, range)) if !Path::new(place).exists() => (Path::new(file), range),
                _ => (Path::new(place), 1..=RECORDS),
            };
            if let Form::Table(format) = form(path) {
                let text = records(program, path, format, &range)?;
                let sample = Sample { name: place.to_owned(), text };
                return Ok(Self { sample, kind: SubjectKind::Records { format, first: *range.start() } });
            }
        }
        let sample = sample::named(args)?;
        let kind = match form(Path::new("")) {
            Form::Table(format) if args.place.as_deref().is_none_or(|place| place == "-") => {
                SubjectKind::Records { format, first: 1 }
            }
            _ => SubjectKind::Text,
        };
        Ok(Self { sample, kind })
    }

    /// Sends it through the rules.
    pub(super) fn steps(&self, program: &Program) -> Traced {
        let done = match &self.kind {
            SubjectKind::Text => program.trace(&self.sample.text).map_err(|(steps, error)| (steps, error.to_string())),
            SubjectKind::Records { format, first } => program
                .trace_table(*format, &self.sample.text, *first)
                .map_err(|(steps, error)| (steps, error.to_string())),
            SubjectKind::Cell { format, table, record, field } => {
                return of_cell(program, *format, table, *record, field);
            }
            SubjectKind::Name { settings, is_folder } => {
                let mut washer = NameWasher::new(program, settings);
                let refused = match washer.wash(&self.sample.text, *is_folder).request {
                    NameRequest::Refused(_, refusal) => Some(*refusal),
                    NameRequest::Stay | NameRequest::Become(_) => None,
                };
                let done = washer.trace(&self.sample.text, *is_folder);
                let (steps, failed) =
                    done.map_or_else(|(steps, error)| (steps, Some(error.to_string())), |steps| (steps, None));
                return Traced { steps, failed, refused, ..Traced::default() };
            }
        };
        let (steps, failed) = done.map_or_else(|(steps, error)| (steps, Some(error)), |steps| (steps, None));
        Traced { steps, failed, ..Traced::default() }
    }
}

/// A small table of some records of a file.
fn records(
    program: &Program,
    path: &Path,
    format: TableFormat,
    wanted: &RangeInclusive<u64>,
) -> Result<Vec<u8>, Trouble> {
    let failed = |error| Trouble::Usage(format!("{} cannot be read: {error}", shown_path(path)));
    let mut table = Vec::new();
    File::open(path).and_then(|file| file.take(TABLE).read_to_end(&mut table)).map_err(failed)?;
    let (picked, count) = program
        .records(format, &table, wanted)
        .map_err(|error| Trouble::Usage(format!("{}: {}", shown_path(path), shown(&error.to_string()))))?;
    if count == 0 {
        return Err(Trouble::Usage(format!("{} has no record {}", shown_path(path), wanted.start())));
    }
    Ok(picked)
}

/// The steps of a cell: those of its record, as far as they are about it or about what rules make of it.
fn of_cell(program: &Program, format: TableFormat, table: &[u8], record: u64, field: &str) -> Traced {
    let value = |table: &[u8], field: &str| -> Option<Vec<u8>> {
        let bare = Program::default().with_table(program.table().clone());
        Some(bare.cell(format, table, 1, field).ok()??.text)
    };
    let rules = program.cell(format, table, 1, field).ok().flatten().map(|cell| cell.rules).unwrap_or_default();
    let done = program.clone().for_field(field).trace_table(format, table, record);
    let (mut steps, failed) =
        done.map_or_else(|(steps, error)| (steps, Some(error.to_string())), |steps| (steps, None));
    let last = steps.last().map(|step| step.text.clone()).unwrap_or_default();
    let mut made: Vec<String> = Vec::new();
    for place in steps.iter().flat_map(|step| &step.hunks).filter_map(|hunk| hunk.cell.as_ref()) {
        if let Some(other) =
            place.field.as_deref().filter(|other| *other != field && !made.iter().any(|made| made == other))
        {
            made.push(other.to_owned());
        }
    }
    let mut called = field.to_owned();
    let mut before = TextSize::of(&value(table, field).unwrap_or_default());
    for step in &mut steps {
        if let Some((_, new)) = program.renamed_fields(step.rule).iter().find(|(old, _)| *old == called) {
            called.clone_from(new);
        }
        step.text = value(&step.text, &called).unwrap_or_default();
        (step.before, step.after) = (before, TextSize::of(&step.text));
        before = step.after;
    }
    steps.retain(|step| step.changes > 0 || rules.contains(&step.rule));
    let made =
        made.into_iter().filter_map(|field| Some((value(&last, &field)?, field))).map(|(value, field)| (field, value));
    Traced { steps, failed, made: made.collect(), refused: None }
}
