//! What a table is like, and what of it rules see.

use crate::rules::Field;

/// `[table]` of a rule set, and what a command line says instead. What is not said is `None`.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct TableSettings {
    /// How tables are written; if it is not given, that is known by the extension of a file.
    pub format: Option<TableFormat>,
    /// The fields of rules that name none themselves.
    pub fields: Option<Vec<Field>>,
    /// Only these fields, whatever rules name.
    pub only: Option<Vec<Field>>,
    /// Rules that drop records act all the same, whatever they judge them by.
    pub drops_all: bool,
    /// Whether the first record names the fields.
    pub header: Option<bool>,
    /// What stands between fields: one byte of ASCII.
    pub delimiter: Option<u8>,
    /// What happens to records that are no good.
    pub ragged: Option<Ragged>,
    /// Cells that a spreadsheet would take for a formula are looked for.
    pub guards_formulas: bool,
    /// How much of its cells a survey keeps to find those that look equal, in bytes; 32 MiB if it is not said.
    pub survey_keeps: Option<u64>,
    /// The set says something of tables.
    pub said: bool,
}

/// How a table is written.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub enum TableFormat {
    /// Comma-separated values (RFC 4180).
    Csv,
    /// The same with tabs.
    Tsv,
    /// A JSON object on each line.
    JsonLines,
    /// An array of JSON objects.
    Json,
    /// It is not a table, whatever its extension says.
    Text,
}

/// What happens to records with too few or too many fields, and of those that cannot be read.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub enum Ragged {
    /// They are an error.
    #[default]
    Refuse,
    /// They pass through as they are.
    Keep,
}

impl TableFormat {
    /// All formats and their names.
    pub const NAMED: [(&'static str, Self); 5] = [
        ("csv", Self::Csv),
        ("tsv", Self::Tsv),
        ("jsonl", Self::JsonLines),
        ("json", Self::Json),
        ("text", Self::Text),
    ];

    /// Whether its records are JSON objects.
    pub fn is_json(self) -> bool {
        matches!(self, Self::JsonLines | Self::Json)
    }

    /// The format of files with this extension, in any case and without its dot. `json` is none: most files called so are
    /// no tables.
    pub fn of_extension(extension: &str) -> Option<Self> {
        match extension.to_ascii_lowercase().as_str() {
            "csv" => Some(Self::Csv),
            "tsv" | "tab" => Some(Self::Tsv),
            "jsonl" | "ndjson" => Some(Self::JsonLines),
            _ => None,
        }
    }
}

impl TableSettings {
    /// These settings, and where they say nothing, those of `other`.
    #[must_use]
    pub fn or(self, other: Self) -> Self {
        Self {
            format: self.format.or(other.format),
            fields: self.fields.or(other.fields),
            only: self.only.or(other.only),
            drops_all: self.drops_all || other.drops_all,
            header: self.header.or(other.header),
            delimiter: self.delimiter.or(other.delimiter),
            ragged: self.ragged.or(other.ragged),
            guards_formulas: self.guards_formulas || other.guards_formulas,
            survey_keeps: self.survey_keeps.or(other.survey_keeps),
            said: self.said || other.said,
        }
    }

    /// The delimiter that is written like this, if it can be one.
    pub fn delimiter_of(written: &str) -> Option<u8> {
        let byte = match written {
            "\\t" | "tab" => b'\t',
            _ => *written.as_bytes().first().filter(|_| written.len() == 1)?,
        };
        let is_fit = byte.is_ascii() && !byte.is_ascii_alphanumeric() && !matches!(byte, b'"' | b'\n' | b'\r' | 0);
        is_fit.then_some(byte)
    }

    /// Whether the first record names the fields. By default it does: nearly all tables that people keep have a header,
    /// and one that is cleaned by mistake breaks every look-up.
    pub(crate) fn has_header(&self) -> bool {
        self.header.unwrap_or(true)
    }

    /// What stands between fields.
    pub(crate) fn delimiter(&self, format: TableFormat) -> u8 {
        self.delimiter.unwrap_or(if format == TableFormat::Tsv { b'\t' } else { b',' })
    }

    pub(crate) fn keeps_ragged(&self) -> bool {
        self.ragged.unwrap_or_default() == Ragged::Keep
    }
}
