//! Texts as lists of units.

use washout_core::text::LineEnd;

/// The smallest thing rules can tell apart.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Unit {
    Char(char),
    End(LineEnd),
    Broken(u8),
}

pub type Units = [Unit];

impl Unit {
    pub fn character(self) -> Option<char> {
        match self {
            Unit::Char(character) => Some(character),
            _ => None,
        }
    }

    pub fn line_end(self) -> Option<LineEnd> {
        match self {
            Unit::End(end) => Some(end),
            _ => None,
        }
    }

    pub fn is_blank(self) -> bool {
        matches!(self, Unit::Char(' ' | '\t'))
    }
}

pub fn to_units(text: &[u8]) -> Vec<Unit> {
    let mut units = Vec::new();
    for chunk in text.utf8_chunks() {
        let mut chars = chunk.valid().chars().peekable();
        while let Some(character) = chars.next() {
            units.push(match character {
                '\n' => Unit::End(LineEnd::Lf),
                '\r' if chars.next_if_eq(&'\n').is_some() => Unit::End(LineEnd::CrLf),
                '\r' => Unit::End(LineEnd::Cr),
                _ => Unit::Char(character),
            });
        }
        units.extend(chunk.invalid().iter().map(|byte| Unit::Broken(*byte)));
    }
    units
}

pub fn to_bytes(units: &Units) -> Vec<u8> {
    let mut bytes = Vec::new();
    for unit in units {
        match unit {
            Unit::Char(character) => bytes.extend(character.encode_utf8(&mut [0; 4]).as_bytes()),
            Unit::End(end) => bytes.extend(end.as_bytes()),
            Unit::Broken(byte) => bytes.push(*byte),
        }
    }
    bytes
}

/// Start and end of each line, its line end included.
pub fn lines(units: &Units) -> Vec<(usize, usize)> {
    let mut lines = Vec::new();
    let mut start = 0;
    for line in units.split_inclusive(|unit| unit.line_end().is_some()) {
        lines.push((start, start + line.len()));
        start += line.len();
    }
    lines
}
