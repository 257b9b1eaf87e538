//! The verbs, a type for each.

use std::num::NonZeroUsize;

use super::RuleSet;
use super::cells::Field;
use super::search::{Case, Search, Target, Which};
use super::template::Template;
use crate::choices::choices;
use crate::text::LineEnd;

/// The verbs: the variant of each, its data, and how rules write it.
macro_rules! verbs {
    ($($verb:ident $(($data:ident))? = $written:literal,)*) => {
        /// What a rule does.
        #[derive(Clone, Debug)]
        pub enum Verb {
            $(#[doc = concat!("`", $written, "`")] $verb $(($data))?,)*
        }

        impl Verb {
            /// Every verb as rules write it.
            pub const NAMES: &[&'static str] = &[$($written),*];

            /// This verb as rules write it.
            pub fn name(&self) -> &'static str {
                match self {
                    $(Self::$verb { .. } => $written,)*
                }
            }
        }
    };
}

verbs! {
    Remove(Remove) = "remove",
    Replace(Replace) = "replace",
    Keep(Keep) = "keep",
    Collapse(Collapse) = "collapse",
    Trim(Trim) = "trim",
    Recase(Recase) = "recase",
    Normalize(Normalize) = "normalize",
    PlainLetters = "plain_letters",
    Decode(Decode) = "decode",
    DropLines(DropLines) = "drop_lines",
    KeepLines(KeepLines) = "keep_lines",
    DropRepeats(DropRepeats) = "drop_repeats",
    JoinLines(JoinLines) = "join_lines",
    BreakLines(BreakLines) = "break_lines",
    WrapLines(WrapLines) = "wrap_lines",
    LineEnds(LineEnds) = "line_ends",
    Tabs(Tabs) = "tabs",
    Pad(Pad) = "pad",
    Number(Number) = "number",
    DropRecords(DropRecords) = "drop_records",
    DropFields(DropFields) = "drop_fields",
    RenameFields(RenameFields) = "rename_fields",
    Include(Include) = "include",
}

impl Verb {
    /// What it looks for in a text, if it looks for anything.
    pub(crate) fn search(&self) -> Option<&Search> {
        match self {
            Self::Remove(Remove { search, .. })
            | Self::Replace(Replace { search, .. })
            | Self::Keep(Keep { search, .. })
            | Self::Collapse(Collapse { search, .. })
            | Self::BreakLines(BreakLines { search, .. })
            | Self::DropLines(DropLines::Holding(search)) => Some(search),
            Self::KeepLines(KeepLines { search }) | Self::Pad(Pad { within: search, .. }) => search.as_ref(),
            Self::Recase(Recase { within: search, .. }) | Self::Number(Number { instead_of: search, .. }) => {
                search.as_ref().map(|(search, _)| search)
            }
            Self::Trim(_)
            | Self::Normalize(_)
            | Self::PlainLetters
            | Self::Decode(_)
            | Self::DropLines(DropLines::Empty(_) | DropLines::Scope)
            | Self::DropRepeats(_)
            | Self::JoinLines(_)
            | Self::WrapLines(_)
            | Self::LineEnds(_)
            | Self::Tabs(_)
            | Self::DropRecords(_)
            | Self::DropFields(_)
            | Self::RenameFields(_)
            | Self::Include(_) => None,
        }
    }

    /// Those that act on records or fields of a table.
    pub(crate) const ON_TABLES: [&'static str; 3] = ["drop_records", "drop_fields", "rename_fields"];

    /// Whether it acts on records or fields of a table, not on a text: it can mean something in a table only.
    pub fn is_about_tables(&self) -> bool {
        Self::ON_TABLES.contains(&self.name())
    }
}

/// Deletes each match; with [`At::WholeLine`](super::At::WholeLine), the line and its line end.
#[derive(Clone, Debug)]
pub struct Remove {
    /// What it looks for.
    pub search: Search,
    /// Which of a line's matches it takes.
    pub which: Which,
    /// What happens to the blanks around a removed stretch.
    pub gap: Gap,
}

choices! {
    /// What happens to the blanks (and commas) around a removed stretch.
    pub enum Gap {
        /// They stay as they are.
        Leave = "leave",
        /// One gap is left where there were two, and none before closing punctuation or at the edges of the line.
        Close = "close",
        /// As `Close`, and a comma or semicolon that has nothing left to part goes too.
        Mend = "mend",
    }
}

/// Puts something in place of each match.
#[derive(Clone, Debug)]
pub struct Replace {
    /// What it looks for.
    pub search: Search,
    /// Which of a line's matches it takes.
    pub which: Which,
    /// What it puts there.
    pub with: Replacement,
}

/// What [`Replace`] puts in place of a match.
#[derive(Clone, Debug)]
pub enum Replacement {
    /// The same for every match, or parts of the match.
    Template(Template),
    /// What the pair says that the match is the first of.
    Pairs(Pairs),
}

/// What is looked for, each with what takes its place.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Pairs {
    /// The pairs, in the order given.
    pub list: Vec<(String, String)>,
    /// Whether only whole words are looked for.
    pub whole_words: bool,
    /// Whether what is put takes over capitals from what was there.
    pub follow_case: bool,
    /// Files whose first row reads as a heading and is a pair all the same, since nothing says which it is.
    pub headings: Vec<PossibleHeading>,
}

/// A first row that reads as a heading.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct PossibleHeading {
    /// The file, as the rule names it.
    pub file: String,
    /// The two cells of the row.
    pub row: [String; 2],
}

/// Deletes all of each line but the matches. The line end stays.
#[derive(Clone, Debug)]
pub struct Keep {
    /// What stays.
    pub search: Search,
    /// Which of a line's matches stay.
    pub which: Which,
    /// What stands between two that stay.
    pub joined_with: String,
    /// Of a pattern's matches, the group that stays; 0 is the whole match.
    pub group: usize,
    /// What a line without a match becomes.
    pub unmatched: Unmatched,
}

choices! {
    /// What [`Keep`] does with a line in which nothing matches.
    pub enum Unmatched {
        /// It becomes empty.
        Empty = "empty",
        /// It stays as it is.
        Leave = "leave",
        /// It goes, with its line end.
        Drop = "drop",
    }
}

/// Makes one of many: neighbouring matches are a run.
#[derive(Clone, Debug)]
pub struct Collapse {
    /// What it looks for: characters or literal strings.
    pub search: Search,
    /// Which of a line's runs it takes.
    pub which: Which,
    /// What takes the place of each run. `None`: a run is of one same match, and one of them stays.
    pub with: Option<String>,
}

impl Collapse {
    /// Whether it puts the only character it looks for: that leaves one of many, as without `with`.
    pub(crate) fn leaves_one(&self) -> bool {
        let (Target::Chars(chars), Some(with)) = (&self.search.target, &self.with) else { return false };
        let set = &chars.set;
        let is_only = |character: char| set.len() == 1 && set.contains(character);
        let is_plain = !set.has_line_ends() && !set.has_broken() && self.search.case == Case::Exact;
        let mut letters = with.chars();
        letters.next().is_some_and(is_only) && letters.next().is_none() && is_plain
    }
}

/// Changes letter case by the full, language-neutral mappings of Unicode (`SpecialCasing.txt` without languages).
#[derive(Clone, Debug)]
pub struct Recase {
    /// To which case.
    pub to: LetterCase,
    /// Letters that are not raised stay as they are; of title and sentence case only.
    pub keeps_rest: bool,
    /// Only there; `None`: the whole of each line.
    pub within: Option<(Search, Which)>,
}

choices! {
    /// The cases [`Recase`] knows.
    pub enum LetterCase {
        /// All letters small.
        Lower = "lower",
        /// All letters capital.
        Upper = "upper",
        /// The first letter of each word capital, the others small.
        Title = "title",
        /// The first letter of each line, and of each sentence on it, capital; the others small.
        Sentence = "sentence",
    }
}

/// Removes blanks at the edges of each line.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Trim {
    /// At which edges.
    pub at: TrimAt,
    /// What counts as blank.
    pub class: TrimClass,
}

choices! {
    /// The edges [`Trim`] works at.
    #[expect(missing_docs, reason = "the names say it")]
    pub enum TrimAt {
        Start = "start",
        End = "end",
        Edges = "edges",
    }
}

choices! {
    /// What [`Trim`] takes.
    pub enum TrimClass {
        /// Space and tab.
        Blank = "blank",
        /// All of `White_Space` but line ends.
        Whitespace = "whitespace",
    }
}

/// Puts text in a normalization form (Unicode Standard Annex #15).
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Normalize {
    /// Which form.
    pub form: NormalForm,
}

choices! {
    /// The normalization forms.
    pub enum NormalForm {
        /// Canonical, composed: é is one character.
        Nfc = "NFC",
        /// Canonical, decomposed: é is a letter and a mark.
        Nfd = "NFD",
        /// Compatible, composed: ﬁ is two letters, ² is 2.
        Nfkc = "NFKC",
        /// Compatible, decomposed.
        Nfkd = "NFKD",
    }
}

/// Writes plainly what was written in another way.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Decode {
    /// In which way.
    pub what: Encoded,
}

choices! {
    /// Ways to write text that [`Decode`] undoes.
    pub enum Encoded {
        /// Character references of HTML: `&eacute;`, `&#233;`.
        HtmlEntities = "html-entities",
        /// Percent-encoding: `%C3%A9`.
        Percent = "percent",
        /// UTF-8 that was once read as windows-1252: `â€™`.
        DoubleUtf8 = "double-utf8",
        /// Decimal digits of other scripts.
        Digits = "digits",
    }
}

/// Drops whole lines, each with its own line end.
#[derive(Clone, Debug)]
#[expect(clippy::large_enum_variant, reason = "there are a handful of rules, not thousands")]
pub enum DropLines {
    /// Those that hold a match.
    Holding(Search),
    /// Those that hold nothing but blanks.
    Empty(EmptyLines),
    /// All that are in the rule's scope.
    Scope,
}

choices! {
    /// Which empty lines go.
    pub enum EmptyLines {
        /// All of them.
        All = "all",
        /// All except the first of each run.
        Extra = "extra",
    }
}

/// Drops every line that holds no match.
#[derive(Clone, Debug)]
pub struct KeepLines {
    /// What a line must hold to stay. `None`: lines in the rule's scope stay, and all others go.
    pub search: Option<Search>,
}

/// Drops lines that were there before, each with its own line end. The first of them stays.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct DropRepeats {
    /// Where a line counts as repeated.
    pub scope: RepeatScope,
    /// Whether letter case counts.
    pub case: Case,
    /// Whether blanks at the edges of the line are ignored.
    pub ignore_edges: bool,
}

choices! {
    /// Where [`DropRepeats`] counts a line as repeated.
    pub enum RepeatScope {
        /// Right after its like.
        Neighbours = "neighbours",
        /// Anywhere after its like.
        File = "file",
    }
}

/// Drops records of a table, each with its line end. The rule's `fields` are those they are judged by.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum DropRecords {
    /// Records of which all or any of these fields are empty.
    Empty(EmptyFields),
    /// Records in which all of these fields are as in an earlier record. Records in which all of them are empty stay.
    Repeated(DropRepeats),
    /// All records in the rule's `rows`.
    Rows,
}

choices! {
    /// How many fields of a record have to be empty for [`DropRecords::Empty`]. A field of nothing but blanks is empty, and so
    /// is one that is not there.
    pub enum EmptyFields {
        /// All of them.
        All = "all",
        /// One of them is enough.
        Any = "any",
    }
}

/// Drops fields of a table, in every record.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct DropFields {
    /// The fields.
    pub fields: Vec<Field>,
}

/// Renames fields of a table. Rules that come later call them by their new names.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct RenameFields {
    /// Old names, each with the new one.
    pub names: Vec<(String, String)>,
}

/// Makes all line ends alike, and the end of the text as it should be.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct LineEnds {
    /// What every line end becomes; `None`: they stay.
    pub to: Option<LineEnd>,
    /// What happens to the line ends the text closes with.
    pub at_end: Option<FinalLineEnd>,
    /// Whether a byte order mark goes.
    pub drops_bom: bool,
}

choices! {
    /// How a text closes.
    pub enum FinalLineEnd {
        /// With one line end; an empty text stays empty.
        One = "one",
        /// With none.
        None = "none",
    }
}

/// Replaces tabs by spaces, up to the next tab stop.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Tabs {
    /// Columns from one tab stop to the next; at least 1.
    pub width: usize,
}

/// Writes zeros before numbers, so that they sort.
#[derive(Clone, Debug)]
pub struct Pad {
    /// How many digits a number has at least; from 1 to [`MOST_DIGITS`].
    pub width: usize,
    /// Only numbers in these; `None`: every number.
    pub within: Option<Search>,
    /// Which of a line's matches; without a target, which of its numbers.
    pub which: Which,
}

/// The most digits a number is written with: more than any count needs.
pub const MOST_DIGITS: usize = 20;

/// Writes numbers that go up, from line to line of a text and from name to name of a folder.
#[derive(Clone, Debug)]
pub struct Number {
    /// The first number.
    pub start: u64,
    /// From one number to the next; at least 1.
    pub step: u64,
    /// How many digits a number has at least; from 1 to [`MOST_DIGITS`].
    pub width: usize,
    /// In place of these; `None`: each line gets one.
    pub instead_of: Option<(Search, Which)>,
    /// Where on the line, without a target.
    pub place: NumberPlace,
    /// What stands between the number and the line, without a target.
    pub joined_with: String,
}

choices! {
    /// Where [`Number`] writes on a line.
    #[expect(missing_docs, reason = "the names say it")]
    pub enum NumberPlace {
        Start = "start",
        End = "end",
    }
}

/// Makes one line of several.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct JoinLines {
    /// What stands between two lines that were joined.
    pub with: String,
    /// Whether empty lines part what is joined.
    pub paragraphs: Paragraphs,
    /// What happens to a hyphen at a line end.
    pub hyphens: HyphenAtLineEnd,
}

choices! {
    /// Whether empty lines part what [`JoinLines`] joins.
    pub enum Paragraphs {
        /// Empty lines stay, and each paragraph becomes one line.
        Keep = "keep",
        /// The whole text becomes one line.
        Join = "join",
    }
}

choices! {
    /// What [`JoinLines`] does with a letter, a hyphen, a line end and a lower-case letter.
    pub enum HyphenAtLineEnd {
        /// As with any other line end.
        Leave = "leave",
        /// The hyphen goes, and the two parts are one word again.
        Rejoin = "rejoin",
    }
}

/// Puts a line end beside each match. The match stays.
#[derive(Clone, Debug)]
pub struct BreakLines {
    /// What it looks for.
    pub search: Search,
    /// Which of a line's matches count.
    pub which: Which,
    /// On which side of the match.
    pub place: BreakPlace,
    /// Also where no blank stands on that side.
    pub tight: bool,
}

choices! {
    /// On which side of a match [`BreakLines`] breaks.
    #[expect(missing_docs, reason = "the names say it")]
    pub enum BreakPlace {
        After = "after",
        Before = "before",
    }
}

/// The rules of another set, in place.
#[derive(Clone, Debug)]
pub struct Include {
    /// The set as the rule names it.
    pub path: String,
    /// Its rules, and what it protects.
    pub set: RuleSet,
}

/// Breaks lines that are wider than a number of columns, at blanks.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct WrapLines {
    /// The most columns of a line; from 1 to [`MOST_LINE_COLUMNS`].
    pub width: NonZeroUsize,
}

/// The widest line that [`WrapLines`] can make, in columns.
pub const MOST_LINE_COLUMNS: usize = 1000;
