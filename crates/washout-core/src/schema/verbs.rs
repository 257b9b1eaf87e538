//! The tables of the verbs.

use schemars::JsonSchema;

use super::target::{Case, Strings, Which, searching};

macro_rules! choices {
    ($($name:ident { $($choice:ident $(= $written:literal)?),+ })+) => {
        $(
            #[derive(JsonSchema)]
            #[schemars(rename_all = "kebab-case")]
            #[expect(dead_code, reason = "only its shape is asked for")]
            pub(super) enum $name {
                $($(#[schemars(rename = $written)])? $choice,)+
            }
        )+
    };
}

choices! {
    Gap { Leave, Close, Mend }
    Unmatched { Empty, Leave, Drop }
    TrimAt { Start, End, Edges }
    BlankClass { Blank, Whitespace }
    LetterCase { Lower, Upper, Title, Sentence }
    RestOfLetters { Lower, Keep }
    Unclosed { Leave, Take, Refuse }
    Form { Nfc = "NFC", Nfd = "NFD", Nfkc = "NFKC", Nfkd = "NFKD" }
    Encoded { HtmlEntities, Percent, DoubleUtf8 = "double-utf8", Digits }
    EmptyLines { All, Extra }
    RepeatScope { Neighbours, File }
    Paragraphs { Keep, Join }
    Hyphens { Leave, Rejoin }
    BreakPlace { After, Before }
    NumberPlace { Start, End }
    LineEnd { Lf, Crlf }
    FinalLineEnd { One, None }
    Bom { Drop }
    TabsTo { Spaces }
}

searching! {
    /// Deletes each match.
    Remove as "remove" {
        /// Which of a line's matches.
        which: Option<Which>,
        /// What becomes of the blanks around what was removed.
        gap: Option<Gap>,
    }
}

searching! {
    /// Puts `with` in place of each match, or what a table of pairs says.
    Replace as "replace" {
        /// Which of a line's matches.
        which: Option<Which>,
        /// What takes the place of a match; with `pattern` also $1, ${name}, and $$ for a dollar sign.
        with: Option<String>,
        /// Instead of a target and `with`: pairs of what is looked for and what takes its place.
        pairs: Option<Vec<[String; 2]>>,
        /// Files of pairs: two columns, CSV or parted by tabs.
        pairs_from: Option<Strings>,
        /// Pairs are looked for as whole words.
        whole_words: Option<bool>,
        /// What a pair puts takes over capitals from what it replaces.
        follow_case: Option<bool>,
    }
}

searching! {
    /// Deletes all of each line but the matches.
    Keep as "keep" {
        /// Which of a line's matches.
        which: Option<Which>,
        /// What stands between two that stay.
        joined_with: Option<String>,
        /// The group of the pattern that stays.
        group: Option<Group>,
        /// What becomes of a line without a match.
        unmatched: Option<Unmatched>,
    }
}

/// A group of a pattern, by number or name.
#[derive(JsonSchema)]
#[schemars(untagged)]
#[expect(dead_code, reason = "only its shape is asked for")]
pub(super) enum Group {
    Number(usize),
    Name(String),
}

searching! {
    /// Makes one of a run of neighbouring matches.
    Collapse as "collapse" {
        /// Which of a line's runs.
        which: Option<Which>,
        /// What each run becomes; without it, one of a row of the same stays.
        with: Option<String>,
    }
}

/// Removes blanks at the edges of each line.
#[derive(JsonSchema)]
#[schemars(deny_unknown_fields, rename = "trim")]
#[expect(dead_code, reason = "only its shape is asked for")]
pub(super) struct Trim {
    /// At which edges.
    at: Option<TrimAt>,
    /// What counts as blank.
    class: Option<BlankClass>,
}

searching! {
    /// Puts letters in another case.
    Recase as "recase" {
        /// To which case.
        to: LetterCase,
        /// What becomes of the letters that `title` and `sentence` do not raise.
        rest: Option<RestOfLetters>,
        /// Which of a line's matches.
        which: Option<Which>,
    }
}

/// Puts text in a Unicode normalization form.
#[derive(JsonSchema)]
#[schemars(deny_unknown_fields, rename = "normalize")]
#[expect(dead_code, reason = "only its shape is asked for")]
pub(super) struct Normalize {
    /// Which form.
    form: Form,
}

/// Latin letters without their marks.
#[derive(JsonSchema)]
#[schemars(deny_unknown_fields, rename = "plain_letters")]
pub(super) struct PlainLetters {}

/// Writes plainly what was written in another way.
#[derive(JsonSchema)]
#[schemars(deny_unknown_fields, rename = "decode")]
#[expect(dead_code, reason = "only its shape is asked for")]
pub(super) struct Decode {
    /// In which way.
    what: Encoded,
}

searching! {
    /// Drops whole lines that hold a match; without a target, those of the section.
    DropLines as "drop_lines" {
        /// Instead of a target: lines of nothing but blanks.
        empty: Option<EmptyLines>,
    }
}

searching! {
    /// Drops all lines that hold no match; without a target, those outside the section.
    KeepLines as "keep_lines" {}
}

/// Drops lines that were there before; the first stays.
#[derive(JsonSchema)]
#[schemars(deny_unknown_fields, rename = "drop_repeats")]
#[expect(dead_code, reason = "only its shape is asked for")]
pub(super) struct DropRepeats {
    /// Right after its like, or anywhere after it.
    scope: Option<RepeatScope>,
    /// Whether letter case counts.
    case: Option<Case>,
    /// Blanks at the edges do not count.
    ignore_edges: Option<bool>,
}

/// Drops records of a table; the rule's `fields` are those they are judged by.
#[derive(JsonSchema)]
#[schemars(deny_unknown_fields, rename = "drop_records")]
#[expect(dead_code, reason = "only its shape is asked for")]
pub(super) struct DropRecords {
    /// Those of which all or any of these fields are empty.
    empty: Option<EmptyFields>,
    /// Those in which all of these fields are as in an earlier record; the first stays.
    repeated: Option<RepeatScope>,
    /// Whether letter case counts.
    case: Option<Case>,
    /// Blanks at the edges do not count.
    ignore_edges: Option<bool>,
}

#[derive(JsonSchema)]
#[schemars(rename_all = "kebab-case")]
#[expect(dead_code, reason = "only its shape is asked for")]
pub(super) enum EmptyFields {
    All,
    Any,
}

/// Makes one line of several.
#[derive(JsonSchema)]
#[schemars(deny_unknown_fields, rename = "join_lines")]
#[expect(dead_code, reason = "only its shape is asked for")]
pub(super) struct JoinLines {
    /// What stands between two lines that were joined; one space if it is left out.
    with: Option<String>,
    /// Whether empty lines part what is joined.
    paragraphs: Option<Paragraphs>,
    /// What becomes of a word that a hyphen breaks over two lines.
    hyphens: Option<Hyphens>,
}

searching! {
    /// Breaks the line beside each match, which stays.
    BreakLines as "break_lines" {
        /// Which of a line's matches.
        which: Option<Which>,
        /// On which side of the match.
        place: Option<BreakPlace>,
        /// Also where no blank stands on that side.
        tight: Option<bool>,
    }
}

/// Makes all line ends alike, and closes the text as it should be.
#[derive(JsonSchema)]
#[schemars(deny_unknown_fields, rename = "line_ends")]
#[expect(dead_code, reason = "only its shape is asked for")]
pub(super) struct LineEnds {
    /// What every line end becomes.
    to: Option<LineEnd>,
    /// How the text closes.
    #[schemars(rename = "final")]
    at_end: Option<FinalLineEnd>,
    /// What becomes of a byte order mark.
    bom: Option<Bom>,
}

searching! {
    /// Writes zeros before numbers, so that they sort: every number, or those in the target.
    Pad as "pad" {
        /// How many digits a number has at least.
        #[schemars(range(min = 1, max = 20))]
        width: usize,
        /// Which of a line's matches; without a target, which of its numbers.
        which: Option<Which>,
    }
}

searching! {
    /// Writes numbers that go up: on each line (of each name in a folder), or in place of the target.
    Number as "number" {
        /// The first number; 1 if it is left out.
        #[schemars(range(min = 0, max = 1_000_000_000))]
        start: Option<u64>,
        /// From one number to the next; 1 if it is left out.
        #[schemars(range(min = 1, max = 1_000_000_000))]
        step: Option<u64>,
        /// How many digits a number has at least.
        #[schemars(range(min = 1, max = 20))]
        width: Option<usize>,
        /// Where on the line, without a target.
        place: Option<NumberPlace>,
        /// What stands between the number and the line; one space if it is left out.
        joined_with: Option<String>,
        /// Which of a line's matches.
        which: Option<Which>,
    }
}

/// Replaces tabs by spaces, up to the next tab stop.
#[derive(JsonSchema)]
#[schemars(deny_unknown_fields, rename = "tabs")]
#[expect(dead_code, reason = "only its shape is asked for")]
pub(super) struct Tabs {
    /// What takes the place of tabs.
    to: Option<TabsTo>,
    /// Columns from one tab stop to the next.
    #[schemars(range(min = 1, max = 64))]
    width: usize,
}
