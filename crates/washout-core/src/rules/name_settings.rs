//! What rules see of a name.

/// `[names]` of a rule set, and what a command line says instead. What is not said is `None`.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct NameSettings {
    /// The part that rules see.
    pub part: Option<NamePart>,
    /// The characters that count as blanks: ASCII, one byte each.
    pub blanks: Option<String>,
}

/// A part of a name.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub enum NamePart {
    /// All before the extension, without a leading dot.
    #[default]
    Stem,
    /// The extension, without its dot.
    Extension,
    /// All of it.
    Whole,
}

impl NameSettings {
    /// These settings, and where they say nothing, those of `other`.
    #[must_use]
    pub fn or(self, other: Self) -> Self {
        Self { part: self.part.or(other.part), blanks: self.blanks.or(other.blanks) }
    }

    /// The part that rules see. By default the stem: few want their extensions cleaned, and a lost one loses the program
    /// that opens the file.
    pub fn part(&self) -> NamePart {
        self.part.unwrap_or_default()
    }

    /// The characters that count as blanks. By default the underscore is one, which most names have in place of spaces.
    pub fn blanks(&self) -> &str {
        self.blanks.as_deref().unwrap_or(" _")
    }
}
