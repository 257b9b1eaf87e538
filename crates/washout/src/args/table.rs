//! Arguments for files that are tables.

use clap::{Args, ValueEnum};
use washout_core::{Field, Ragged, TableFormat, TableSettings};

/// How tables are written.
#[derive(Args, Debug)]
#[command(next_help_heading = "Tables")]
pub(crate) struct TableFormArgs {
    /// Take files for tables of this kind; by default their extension says so
    #[arg(long, value_enum, value_name = "KIND")]
    pub(crate) table: Option<TableKind>,

    /// What stands between fields, such as `;` or `\t`
    #[arg(long, value_name = "CHAR", value_parser = delimiter)]
    pub(crate) delimiter: Option<u8>,

    /// The first record is one like the others; fields go by their number
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
    /// No table, whatever the extension says
    Text,
}

/// What of tables rules see.
#[derive(Args, Debug)]
#[command(next_help_heading = "Tables")]
pub(crate) struct TableArgs {
    #[command(flatten)]
    pub(crate) form: TableFormArgs,

    /// Only these fields, by name or number; may be given several times
    #[arg(long, value_name = "FIELD", value_delimiter = ',')]
    pub(crate) fields: Vec<String>,

    /// What becomes of records with too few or too many fields, and of broken ones
    #[arg(long, value_enum, value_name = "WAY", default_value_t = RaggedArg::Refuse)]
    pub(crate) ragged: RaggedArg,

    /// Warn of cells that a spreadsheet would take for a formula: those that begin with = + - @
    #[arg(long)]
    pub(crate) guard_formulas: bool,
}

/// What becomes of records that are no good.
#[derive(Clone, Copy, Debug, PartialEq, Eq, ValueEnum)]
pub(crate) enum RaggedArg {
    /// The file is left as it is, and the record is named
    Refuse,
    /// They pass through as they are
    Keep,
}

fn delimiter(written: &str) -> Result<u8, String> {
    TableSettings::delimiter_of(written)
        .ok_or_else(|| "it is one ASCII character, and no quotation mark, letter or digit".to_owned())
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
