//! The kinds of litter, in the order in which rules should take them.

use super::{Place, Sighting};

/// A kind of litter.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
#[non_exhaustive]
pub enum LitterKind {
    /// A byte order mark.
    ByteOrderMark,
    /// Line ends of more than one kind.
    MixedLineEnds,
    /// UTF-8 that was once read as windows-1252.
    DoubleUtf8,
    /// Tags of HTML and XML; before entities, some of which stand for `<`.
    Tags,
    /// Characters written as HTML entities.
    HtmlEntities,
    /// Colours and cursor moves of terminals.
    AnsiEscapes,
    /// Control characters.
    Control,
    /// Blanks that are not ordinary space or tab.
    OddSpaces,
    /// Double quotation marks of more than one kind.
    MixedDoubleQuotes,
    /// Single quotation marks of more than one kind.
    MixedSingleQuotes,
    /// Headings and footers that come again and again.
    RepeatedLine,
    /// Numbers of pages, alone on their lines.
    PageNumbers,
    /// The times of captions.
    CaptionTimes,
    /// Time codes alone on a line.
    TimeCodesAlone,
    /// Time codes with text on the line.
    TimeCodesInline,
    /// Rising numbers at the start of lines.
    LineNumbersAtStart,
    /// Rising numbers at the end of lines.
    LineNumbersAtEnd,
    /// Words broken by a hyphen at a line's end.
    HyphenatedLineEnds,
    /// Characters that are not seen; after words broken by a soft hyphen, which is one of them.
    Invisible,
    /// Web addresses.
    Urls,
    /// Mail addresses.
    Emails,
    /// Groups in brackets.
    Brackets,
    /// Words that many names end in.
    CommonTails,
    /// The same word twice in a row.
    DoubledWords,
    /// Several blanks in a row, within a line.
    BlankRuns,
    /// Blanks at the end of lines.
    TrailingBlanks,
    /// More than one empty line in a row.
    ExtraEmptyLines,
}

impl LitterKind {
    /// All kinds.
    pub const ALL: [Self; 27] = [
        Self::ByteOrderMark,
        Self::MixedLineEnds,
        Self::DoubleUtf8,
        Self::Tags,
        Self::HtmlEntities,
        Self::AnsiEscapes,
        Self::Control,
        Self::OddSpaces,
        Self::MixedDoubleQuotes,
        Self::MixedSingleQuotes,
        Self::RepeatedLine,
        Self::PageNumbers,
        Self::CaptionTimes,
        Self::TimeCodesAlone,
        Self::TimeCodesInline,
        Self::LineNumbersAtStart,
        Self::LineNumbersAtEnd,
        Self::HyphenatedLineEnds,
        Self::Invisible,
        Self::Urls,
        Self::Emails,
        Self::Brackets,
        Self::CommonTails,
        Self::DoubledWords,
        Self::BlankRuns,
        Self::TrailingBlanks,
        Self::ExtraEmptyLines,
    ];

    /// What it is called, in a few words.
    pub fn caption(self) -> &'static str {
        match self {
            Self::ByteOrderMark => "byte order mark",
            Self::MixedLineEnds => "mixed line ends",
            Self::DoubleUtf8 => "wrongly read UTF-8",
            Self::Tags => "tags",
            Self::PageNumbers => "page numbers, alone on a line",
            Self::Urls => "web addresses",
            Self::Emails => "mail addresses",
            Self::CommonTails => "common tail",
            Self::HtmlEntities => "HTML entities",
            Self::AnsiEscapes => "terminal colours and moves",
            Self::Control => "control characters",
            Self::Invisible => "invisible characters",
            Self::OddSpaces => "odd spaces",
            Self::MixedDoubleQuotes => "mixed double quotes",
            Self::MixedSingleQuotes => "mixed single quotes",
            Self::RepeatedLine => "repeated line",
            Self::CaptionTimes => "caption times",
            Self::TimeCodesAlone => "time codes, alone on a line",
            Self::TimeCodesInline => "time codes, within lines",
            Self::LineNumbersAtStart => "line numbers, left edge",
            Self::LineNumbersAtEnd => "line numbers, right edge",
            Self::HyphenatedLineEnds => "hyphenated line ends",
            Self::Brackets => "bracketed groups",
            Self::DoubledWords => "doubled words",
            Self::BlankRuns => "blank runs within lines",
            Self::TrailingBlanks => "trailing blanks",
            Self::ExtraEmptyLines => "extra empty lines",
        }
    }

    /// The rule that takes it, where that is always the same.
    pub(super) fn rule(self) -> Option<&'static str> {
        Some(match self {
            Self::ByteOrderMark => r#"line_ends = { bom = "drop" }"#,
            Self::DoubleUtf8 => r#"decode = { what = "double-utf8" }"#,
            Self::HtmlEntities => r#"decode = { what = "html-entities" }"#,
            Self::Tags => r#"remove = { stock = "tag" }"#,
            Self::PageNumbers => r#"remove = { stock = "page-number", at = "whole-line" }"#,
            Self::Urls => r#"remove = { stock = "url" }"#,
            Self::Emails => r#"remove = { stock = "email" }"#,
            Self::AnsiEscapes => r#"remove = { stock = "ansi-escape" }"#,
            Self::Control => r#"remove = { class = "control" }"#,
            Self::Invisible => r#"remove = { class = "invisible" }"#,
            Self::OddSpaces => r#"replace = { class = "odd-space", with = " " }"#,
            Self::MixedDoubleQuotes => r#"replace = { class = "double-quote", with = '"' }"#,
            Self::MixedSingleQuotes => r#"replace = { class = "single-quote", with = "'" }"#,
            Self::CaptionTimes => r#"remove = { stock = "cue-range", number = true, at = "whole-line" }"#,
            Self::TimeCodesAlone => r#"remove = { stock = "timestamp", at = "whole-line" }"#,
            Self::TimeCodesInline => r#"remove = { stock = "timestamp" }"#,
            Self::LineNumbersAtStart => r#"remove = { stock = "line-number", at = "start", rising = true }"#,
            Self::LineNumbersAtEnd => r#"remove = { stock = "line-number", at = "end", rising = true }"#,
            Self::HyphenatedLineEnds => {
                r#"replace = { pattern = '(\p{L}\p{M}*)[-‐\xAD][ \t]*\n[ \t]*(\p{Ll})', with = "$1$2", across_lines = true }"#
            }
            Self::Brackets => r#"remove = { stock = "bracketed" }"#,
            Self::DoubledWords => r#"replace = { pattern = '(?i)\b(\p{L}+)[ \t]+\1\b', with = "$1" }"#,
            Self::TrailingBlanks => r#"trim = { at = "end" }"#,
            Self::ExtraEmptyLines => r#"drop_lines = { empty = "extra" }"#,
            Self::MixedLineEnds | Self::RepeatedLine | Self::CommonTails | Self::BlankRuns => return None,
        })
    }

    /// Whether it is about lines among others, and means nothing where each text is one name.
    pub fn is_among_lines(self) -> bool {
        matches!(
            self,
            Self::ByteOrderMark
                | Self::MixedLineEnds
                | Self::RepeatedLine
                | Self::PageNumbers
                | Self::LineNumbersAtStart
                | Self::LineNumbersAtEnd
                | Self::HyphenatedLineEnds
                | Self::ExtraEmptyLines
        )
    }

    /// Why the rule may take too much: in a draft it is off until someone has looked. Whatever drops lines or words is.
    pub(super) fn doubt(self) -> Option<&'static str> {
        Some(match self {
            Self::Brackets => "what stands in brackets may be wanted",
            Self::Tags => "what stands between < and > may be wanted",
            Self::PageNumbers => "it drops whole lines, and a number alone on one may be wanted",
            Self::Urls | Self::Emails => "addresses may be wanted",
            Self::CommonTails => "it may be a part of what the files are called",
            Self::DoubledWords => "“had had” and the like may be meant",
            Self::TimeCodesInline => "a time may be part of the sentence",
            Self::CaptionTimes | Self::TimeCodesAlone => "it drops whole lines, and their times may be wanted",
            _ => return None,
        })
    }
}

/// What is found of one kind.
#[derive(Clone, Debug, Default)]
pub(super) struct KindFindings {
    pub(super) count: u64,
    pub(super) texts: usize,
    pub(super) sightings: Vec<Sighting>,
}

/// Sightings that are kept of a kind.
pub(super) const SIGHTINGS: usize = 2;

impl KindFindings {
    /// Adds what was found in the same text by other means.
    pub(super) fn join(&mut self, other: Self) {
        self.count += other.count;
        self.texts = usize::from(self.count > 0);
        self.sightings.extend(other.sightings);
        self.sightings.sort_by_key(|sighting| sighting.place);
        self.sightings.truncate(SIGHTINGS);
    }

    pub(super) fn add(&mut self, later: Self, moved: impl Fn(Place) -> Place) {
        self.count += later.count;
        self.texts += later.texts;
        let room = SIGHTINGS.saturating_sub(self.sightings.len());
        let moved = |sighting: Sighting| Sighting { place: moved(sighting.place), ..sighting };
        self.sightings.extend(later.sightings.into_iter().take(room).map(moved));
    }
}
