//! Arguments for files that are tables.

use clap::{Args, ValueEnum};
use washout_core::rules::Field;
use washout_core::table::{Ragged, TableFormat, TableSettings};

/// How tables are written.
#[derive(Args, Debug)]
#[command(next_help_heading = "Tables")]
pub(crate) struct TableFormArgs {
    /// Read files as tables of this kind [default: by their extension]
    #[arg(long, value_enum, value_name = "KIND")]
    pub(crate) table: Option<TableKind>,

    /// Field delimiter, such as `;` or `\t`
    #[arg(long, value_name = "CHAR", value_parser = delimiter)]
    pub(crate) delimiter: Option<u8>,

    /// The first record is data; name fields by number
    #[arg(long)]
    pub(crate) no_header: bool,
}

/// Kinds of tables.
#[derive(Clone, Copy, Debug, PartialEq, Eq, ValueEnum)]
pub(crate) enum TableKind {
    /// Comma-separated values
    Csv,
    /// Tab-separated values
    Tsv,
    /// JSON Lines: an object on each line
    Jsonl,
    /// JSON: an array of objects
    Json,
    /// Plain text, whatever the extension
    Text,
}

/// What of tables rules see.
#[derive(Args, Debug)]
#[command(next_help_heading = "Tables")]
pub(crate) struct TableArgs {
    #[command(flatten)]
    pub(crate) form: TableFormArgs,

    /// Clean only these fields, by name or number; repeatable
    #[arg(long, value_name = "FIELD", value_delimiter = ',')]
    pub(crate) fields: Vec<String>,

    /// What to do with records that have too few or too many fields, or cannot be read
    #[arg(long, value_enum, value_name = "WAY", default_value_t = RaggedArg::Refuse)]
    pub(crate) ragged: RaggedArg,

    /// Warn of cells that a spreadsheet would run as formulas: those that start with = + - @
    #[arg(long)]
    pub(crate) guard_formulas: bool,
}

/// What happens to records that are no good.
#[derive(Clone, Copy, Debug, PartialEq, Eq, ValueEnum)]
pub(crate) enum RaggedArg {
    /// Report the record, and leave the file as it is
    Refuse,
    /// Pass such records through unchanged
    Keep,
}

fn delimiter(written: &str) -> Result<u8, String> {
    TableSettings::delimiter_of(written)
        .ok_or_else(|| "it must be one ASCII character, and not a quotation mark, letter or digit".to_owned())
}

impl TableFormArgs {
    pub(crate) fn settings(&self) -> TableSettings {
        let format = self.table.map(|kind| match kind {
            TableKind::Csv => TableFormat::Csv,
            TableKind::Tsv => TableFormat::Tsv,
            TableKind::Jsonl => TableFormat::JsonLines,
            TableKind::Json => TableFormat::Json,
            TableKind::Text => TableFormat::Text,
        });
        let header = self.no_header.then_some(false);
        TableSettings { format, header, delimiter: self.delimiter, ..TableSettings::default() }
    }
}

impl TableArgs {
    pub(crate) fn settings(&self) -> TableSettings {
        let only = self.fields.iter().map(|field| Field::Name(field.clone()));
        TableSettings {
            only: (!self.fields.is_empty()).then(|| only.collect()),
            ragged: (self.ragged == RaggedArg::Keep).then_some(Ragged::Keep),
            guards_formulas: self.guard_formulas,
            ..self.form.settings()
        }
    }
}
