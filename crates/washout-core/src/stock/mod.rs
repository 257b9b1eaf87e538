//! Ready-made patterns: what they take and leave, and how each is found.

mod around;
mod cue;
mod line_number;
mod person;
mod rising;
mod sentence;
mod shape;
mod shapes;
mod timestamp;

pub(crate) use cue::{is_empty as is_empty_line, with_number};
pub(crate) use line_number::LineNumber;
pub(crate) use rising::{LINES_AHEAD as RISING_LINES_AHEAD, Rising};
pub(crate) use sentence::{closing_end, ends_sentence, is_end_mark, marks_start};
pub(crate) use shape::Shape;
pub(crate) use timestamp::Timestamp;

use std::collections::HashMap;
use std::sync::LazyLock;

use regex_automata::hybrid::dfa::Cache;
use serde::Deserialize;

use crate::text::pool::{Pool, PoolGuard};

/// Declares the patterns, in the order they are listed to people, each with its name.
macro_rules! stock {
    ($($variant:ident $name:literal)+) => {
        /// A ready-made pattern that rules can name.
        ///
        /// ```
        /// let stock = washout_core::stock::Stock::find("uuid").expect("a stock pattern");
        /// assert!(stock.takes().starts_with("universally unique identifiers"));
        /// ```
        #[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
        #[expect(missing_docs, reason = "`Stock::takes` says what each is")]
        pub enum Stock {
            $($variant,)+
        }

        impl Stock {
            /// Every stock pattern, in the order they are listed to people.
            pub const ALL: &[Self] = &[$(Self::$variant,)+];

            /// The name as rules write it.
            pub fn name(self) -> &'static str {
                match self {
                    $(Self::$variant => $name,)+
                }
            }
        }
    };
}

stock! {
    Timestamp "timestamp"
    Date "date"
    DateTime "date-time"
    CueRange "cue-range"
    LineNumber "line-number"
    Speaker "speaker"
    Bracketed "bracketed"
    AnsiEscape "ansi-escape"
    Tag "tag"
    Url "url"
    Email "email"
    Hashtag "hashtag"
    Mention "mention"
    Initial "initial"
    NameTitle "name-title"
    NameSuffix "name-suffix"
    SentenceEnd "sentence-end"
    PageNumber "page-number"
    CopySuffix "copy-suffix"
    PictureSize "picture-size"
    Uuid "uuid"
    BlankRun "blank-run"
}

/// The description of a pattern, and lines that show it.
#[derive(Deserialize)]
struct Description {
    takes: String,
    leaves: String,
    finds: Vec<String>,
    misses: Vec<String>,
}

static DESCRIPTIONS: LazyLock<HashMap<String, Description>> =
    LazyLock::new(|| toml::from_str(include_str!("patterns.toml")).expect("OK because a test reads it"));

/// Memory for finding a shape.
pub(crate) type ShapeCache = Option<PoolGuard<Cache, &'static Pool<Cache>>>;

impl Stock {
    /// The pattern of that name.
    pub fn find(name: &str) -> Option<Self> {
        Self::ALL.iter().copied().find(|stock| stock.name() == name)
    }

    fn description(self) -> &'static Description {
        &DESCRIPTIONS[self.name()]
    }

    /// What it takes, in a sentence without its full stop.
    pub fn takes(self) -> &'static str {
        &self.description().takes
    }

    /// What looks similar and is left, in a sentence without its full stop.
    pub fn leaves(self) -> &'static str {
        &self.description().leaves
    }

    /// Lines in which it finds what stands between « and ».
    pub fn matching_lines(self) -> &'static [String] {
        &self.description().finds
    }

    /// Lines in which it finds nothing.
    pub fn near_misses(self) -> &'static [String] {
        &self.description().misses
    }

    /// The options it has: keys beside `stock`, each `true` or `false`.
    pub fn options(self) -> &'static [&'static str] {
        match self {
            Self::CueRange => &["number"],
            Self::LineNumber => &["rising"],
            _ => &[],
        }
    }

    /// The stretches it looks at, as a regular expression in the syntax of the `regex` crate; what may stand before and
    /// after one, it judges besides. `None`: it is not found by an expression.
    pub fn expression(self) -> Option<&'static str> {
        self.shape().map(|shape| shape.expression)
    }

    /// The shape it is found by, if it is found by one.
    pub(crate) fn shape(self) -> Option<&'static Shape> {
        use shapes::{
            ANSI_ESCAPE, BLANK_RUN, COPY_SUFFIX, CUE_RANGE, DATE, DATE_TIME, EMAIL, HASHTAG, INITIAL, MENTION,
            NAME_SUFFIX, NAME_TITLE, PAGE_NUMBER, PICTURE_SIZE, SENTENCE_END, SPEAKER, TAG, URL, UUID,
        };
        Some(match self {
            Self::Timestamp | Self::LineNumber | Self::Bracketed => return None,
            Self::Date => &DATE,
            Self::DateTime => &DATE_TIME,
            Self::CueRange => &CUE_RANGE,
            Self::Speaker => &SPEAKER,
            Self::AnsiEscape => &ANSI_ESCAPE,
            Self::Tag => &TAG,
            Self::Url => &URL,
            Self::Email => &EMAIL,
            Self::Hashtag => &HASHTAG,
            Self::Mention => &MENTION,
            Self::Initial => &INITIAL,
            Self::NameTitle => &NAME_TITLE,
            Self::NameSuffix => &NAME_SUFFIX,
            Self::SentenceEnd => &SENTENCE_END,
            Self::PageNumber => &PAGE_NUMBER,
            Self::CopySuffix => &COPY_SUFFIX,
            Self::PictureSize => &PICTURE_SIZE,
            Self::Uuid => &UUID,
            Self::BlankRun => &BLANK_RUN,
        })
    }

    /// Whether a removal leaves the blanks around it as they are.
    pub(crate) fn leaves_gap(self) -> bool {
        matches!(self, Self::AnsiEscape | Self::Tag | Self::BlankRun | Self::LineNumber | Self::SentenceEnd)
    }
}
