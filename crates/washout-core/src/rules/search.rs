//! What a rule looks for, and where.

use crate::choices::choices;
use crate::text::At;
use std::num::NonZeroUsize;

use crate::class::CharSet;
use crate::pattern::Pattern;
use crate::stock::Stock;
use crate::words::Hyphen;

/// What a rule looks for.
#[derive(Clone, Debug)]
pub struct Search {
    /// The things themselves.
    pub target: Target,
    /// Where on the line.
    pub at: At,
    /// Whether letter case counts.
    pub case: Case,
    /// Whether the rule says so itself.
    pub case_is_written: bool,
    /// What is spared.
    pub except: Except,
}

impl Search {
    /// Over how many line ends a match may reach and go on after them; `None`: any number.
    pub(crate) fn line_ends_reached_over(&self) -> Option<usize> {
        match &self.target {
            Target::Text(entries) if entries.iter().any(|entry| goes_on_after_line_end(entry)) => {
                entries.iter().map(|entry| entry.matches(['\n', '\r']).count()).max()
            }
            Target::Pattern(pattern) if pattern.across_lines() => None,
            Target::Stock(StockTarget { number: true, .. }) => Some(1),
            // A run of members at an edge stays on its line, the line's own end included; the others take no line ends.
            _ => Some(0),
        }
    }

    /// Whether finding it can take more work than it may.
    pub(crate) fn may_fail(&self) -> bool {
        matches!(&self.target, Target::Pattern(_))
    }

    /// Whether a match may hold a line end or reach over one.
    pub(crate) fn reaches_over_lines(&self) -> bool {
        self.takes_line_ends() || self.line_ends_reached_over() != Some(0)
    }

    /// Whether a match may hold a line end.
    pub(crate) fn takes_line_ends(&self) -> bool {
        match &self.target {
            Target::Chars(chars) => chars.set.has_line_ends(),
            Target::Text(entries) => entries.iter().any(|entry| entry.contains(['\n', '\r'])),
            Target::Pattern(pattern) => pattern.across_lines(),
            Target::Stock(target) => target.number,
            Target::Words(_) | Target::Between(_) | Target::Positions(_) => false,
        }
    }
}

/// Whether anything stands after the entry's first line end.
fn goes_on_after_line_end(entry: &str) -> bool {
    let after = entry.find(['\n', '\r']).map(|at| &entry[at..]);
    after.is_some_and(|after| !matches!(after, "\n" | "\r" | "\r\n"))
}

/// The things a rule acts on.
#[derive(Clone, Debug)]
pub enum Target {
    /// `chars` and `class`: single characters.
    Chars(CharsTarget),
    /// `text`: literal strings, leftmost then longest.
    Text(Vec<String>),
    /// `words`: whole words and phrases.
    Words(WordsTarget),
    /// `pattern`: a regular expression.
    Pattern(Pattern),
    /// `stock`: a ready-made pattern.
    Stock(StockTarget),
    /// `between`: from an opening mark to its closing mark.
    Between(BetweenTarget),
    /// `positions`: by place on the line.
    Positions(PositionsTarget),
}

/// Single characters: those of `chars`, and those of the classes.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct CharsTarget {
    /// `chars` as written.
    pub chars: String,
    /// The entries of `class` as written.
    pub classes: Vec<String>,
    /// The characters of both.
    pub set: CharSet,
}

/// Whole words and phrases.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct WordsTarget {
    /// All entries: those written in the rule first.
    pub entries: Vec<String>,
    /// How many of them are written in the rule.
    pub written: usize,
    /// The files the others come from.
    pub files: Vec<String>,
    /// The languages whose stop words are among them.
    pub stopwords: Vec<String>,
    /// What a hyphen does at a word's edge.
    pub hyphen: Hyphen,
}

/// A ready-made pattern with its options.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct StockTarget {
    /// Which one.
    pub stock: Stock,
    /// `rising`, for line numbers: only those that go up from line to line.
    pub rising: bool,
    /// `number`, for the times of captions: with the number or identifier on the line before.
    pub number: bool,
}

/// From an opening mark to the closing mark that belongs to it, on one line, those within them included.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct BetweenTarget {
    /// What opens.
    pub open: String,
    /// What closes. If it is what opens too, marks pair from left to right and nothing nests.
    pub close: String,
    /// Whether the marks are part of the match.
    pub marks: Marks,
}

choices! {
    /// Whether the marks around a stretch are part of the match.
    pub enum Marks {
        /// They are.
        Take = "take",
        /// They are spared.
        Keep = "keep",
    }
}

/// Characters by their place on the line, counted in code points from 1; a broken byte has a place and is spared.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct PositionsTarget {
    /// The first place.
    pub first: usize,
    /// The last place, included; `None`: to the end of the line.
    pub last: Option<usize>,
}

choices! {
    /// Whether letter case counts.
    pub enum Case {
        /// It does.
        Exact = "exact",
        /// It does not, by simple Unicode case folding.
        Ignore = "ignore",
    }
}

/// What is spared: taken out of sets and lists before anything is looked for, else a match is spared if the whole of
/// it is excepted.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Except {
    /// `chars` and `class`.
    pub chars: CharsTarget,
    /// `words`.
    pub words: Vec<String>,
    /// `text`.
    pub text: Vec<String>,
}

impl Except {
    /// Whether nothing is spared.
    pub fn is_empty(&self) -> bool {
        *self == Self::default()
    }
}

/// Which of the matches on one line are acted on.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Which {
    /// All of them.
    All,
    /// The first.
    First,
    /// The last.
    Last,
    /// The nth, from 1.
    Nth(NonZeroUsize),
}
