//! Ready-made patterns. Each is written by hand, since each asks for what stands around it.

mod line_number;
mod timestamp;

pub(crate) use line_number::LineNumber;
pub(crate) use timestamp::Timestamp;

/// A ready-made pattern that rules can name.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Stock {
    /// A time of day or a time code: `0:14`, `12:30:05.250`, `[01:02]`, `7:45 pm`.
    Timestamp,
    /// The number of a line at its start or end: `12`, `12.`, `[12]`, `0012 |`.
    LineNumber,
}

impl Stock {
    /// Every stock pattern, in the order they are listed to people.
    pub const ALL: &[Self] = &[Self::Timestamp, Self::LineNumber];

    /// The name as rules write it.
    pub fn name(self) -> &'static str {
        match self {
            Self::Timestamp => "timestamp",
            Self::LineNumber => "line-number",
        }
    }

    /// The pattern of that name.
    pub fn find(name: &str) -> Option<Self> {
        Self::ALL.iter().copied().find(|stock| stock.name() == name)
    }
}
