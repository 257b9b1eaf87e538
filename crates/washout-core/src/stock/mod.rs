//! Ready-made patterns: what they take and leave, and how each is found.

mod around;
mod cue;
mod examples;
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

use regex_automata::hybrid::dfa::Cache;

use crate::text::pool::{Pool, PoolGuard};

/// A ready-made pattern that rules can name.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
#[expect(missing_docs, reason = "`Stock::takes` says what each is")]
pub enum Stock {
    Timestamp,
    Date,
    DateTime,
    CueRange,
    LineNumber,
    Speaker,
    Bracketed,
    AnsiEscape,
    Tag,
    Url,
    Email,
    Hashtag,
    Mention,
    Initial,
    NameTitle,
    NameSuffix,
    SentenceEnd,
    PageNumber,
    CopySuffix,
    PictureSize,
    Uuid,
    BlankRun,
}

/// Memory for finding a shape.
pub(crate) type ShapeCache = Option<PoolGuard<Cache, &'static Pool<Cache>>>;

impl Stock {
    /// Every stock pattern, in the order they are listed to people.
    pub const ALL: &[Self] = &[
        Self::Timestamp,
        Self::Date,
        Self::DateTime,
        Self::CueRange,
        Self::LineNumber,
        Self::Speaker,
        Self::Bracketed,
        Self::AnsiEscape,
        Self::Tag,
        Self::Url,
        Self::Email,
        Self::Hashtag,
        Self::Mention,
        Self::Initial,
        Self::NameTitle,
        Self::NameSuffix,
        Self::SentenceEnd,
        Self::PageNumber,
        Self::CopySuffix,
        Self::PictureSize,
        Self::Uuid,
        Self::BlankRun,
    ];

    /// The name as rules write it.
    pub fn name(self) -> &'static str {
        match self {
            Self::Timestamp => "timestamp",
            Self::Date => "date",
            Self::DateTime => "date-time",
            Self::CueRange => "cue-range",
            Self::LineNumber => "line-number",
            Self::Speaker => "speaker",
            Self::Bracketed => "bracketed",
            Self::AnsiEscape => "ansi-escape",
            Self::Tag => "tag",
            Self::Url => "url",
            Self::Email => "email",
            Self::Hashtag => "hashtag",
            Self::Mention => "mention",
            Self::Initial => "initial",
            Self::NameTitle => "name-title",
            Self::NameSuffix => "name-suffix",
            Self::SentenceEnd => "sentence-end",
            Self::PageNumber => "page-number",
            Self::CopySuffix => "copy-suffix",
            Self::PictureSize => "picture-size",
            Self::Uuid => "uuid",
            Self::BlankRun => "blank-run",
        }
    }

    /// The pattern of that name.
    pub fn find(name: &str) -> Option<Self> {
        Self::ALL.iter().copied().find(|stock| stock.name() == name)
    }

    /// What it takes, in a sentence without its full stop.
    pub fn takes(self) -> &'static str {
        match self {
            Self::Timestamp => {
                "times of day and time codes: m:ss to hh:mm:ss, with a fraction after `.` or `,`, with am or pm, and with \
                 the brackets or parentheses around them"
            }
            Self::Date => {
                "days with their year: 1936-11-05, 1936/11/05, 5.11.1936, 05/11/36, 11/05/1936, 5 Nov 1936, 5th of \
                 November 1936, November 5, 1936, with a day of the week before"
            }
            Self::DateTime => {
                "a date with its time: ISO 8601 and RFC 3339 (with offsets and fractions, down to the hour, basic and extended \
                 forms mixed), RFC 2822, and the usual forms \
                 of logs, with the brackets around them"
            }
            Self::CueRange => {
                "the times of a caption, with their settings: 00:01:02,000 --> 00:01:04,000; with `number = true` the \
                 number or identifier on the line before too, as one change"
            }
            Self::LineNumber => {
                "the number of a line: at its start `12`, `12.`, `12:`, `12)`, `[12]`, `0012`, also before `|`, with the \
                 blanks before and one blank or tab after; at its end `12`, `[12]`, `0012` with the blanks before; with \
                 `rising = true` only numbers that go up from line to line"
            }
            Self::Speaker => {
                "who speaks: at the start of a line up to four words with capitals, or a name in brackets, and a colon; \
                 `>>` before and a remark in parentheses go with it"
            }
            Self::Bracketed => "what stands in ( ), [ ] or { } on one line, nested ones included, with the brackets",
            Self::AnsiEscape => "escape sequences of terminals: colours, cursor moves, titles, links (ECMA-48)",
            Self::Tag => {
                "tags, comments and instructions of HTML and XML that begin and end on one line; tags of captions"
            }
            Self::Url => {
                "web addresses with http, https, ftp or file before them, or that begin with www.; not the full stop or \
                 bracket that closes a sentence behind them"
            }
            Self::Email => "mail addresses",
            Self::Hashtag => "words marked with #, with at least one letter",
            Self::Mention => "names marked with @",
            Self::Initial => {
                "an initial between names, with its point if it has one: the M. of Edith M. Harrow, of Edith M. de la \
                 Croix, the C.G. of Zoë C.G. Harrow, each letter by itself"
            }
            Self::NameTitle => {
                "titles before a name: Mr, Mrs, Ms, Mx, Miss, Dr, Prof, Professor, Rev, Reverend, Fr, Hon, Sir, Dame, \
                 and ranks from Cpl to Adm, with or without a point"
            }
            Self::NameSuffix => {
                "what follows a name and belongs to it, with the comma and blanks before it: Jr., Sr., Esq., II to VIII, \
                 degrees and honours from BA and M.D. to PhD and OBE, several in a row"
            }
            Self::SentenceEnd => {
                "the mark that ends a sentence (. ! ? … and rows of them, also of other scripts), with the quotation marks and \
                 brackets that close after it"
            }
            Self::PageNumber => {
                "the number of a page alone on its line: 12, xii, - 12 -, [12], 12/30, Page 12, page 12 of 30, p. 12"
            }
            Self::CopySuffix => "what copying adds to the name of a file: -copy, _copy2, ` - Copy (3)`, ` (2)`",
            Self::PictureSize => "sizes of pictures and films: 1920x1080, 640×480, 720p, 1080i, 1080p60",
            Self::Uuid => "universally unique identifiers (RFC 9562), with the braces around them",
            Self::BlankRun => "two or more blanks (spaces and tabs) in a row",
        }
    }

    /// What looks alike and is left.
    pub fn leaves(self) -> &'static str {
        match self {
            Self::Timestamp => {
                "ratios (1:2), addresses, versions, dates with times, anything inside a word or a longer number"
            }
            Self::Date => {
                "days without a year, times, versions, telephone numbers, dates inside longer numbers or with a time glued to them"
            }
            Self::DateTime => "a date or a time alone",
            Self::CueRange => "one time alone, ranges with another arrow",
            Self::LineNumber => "numbers in the middle, 12.5 m, 14:05, and `in 1912.` at the end of a line",
            Self::Speaker => {
                "words with small letters before a colon, times, addresses, a colon without a blank behind it"
            }
            Self::Bracketed => "brackets without a partner on the same line",
            Self::AnsiEscape => "brackets and letters without the escape character",
            Self::Tag => "`a < b`, `<3`, addresses in angle brackets, a tag that goes on on the next line",
            Self::Url => "names of sites without http or www., mail addresses",
            Self::Email => "@ without a name or a domain, names marked with @",
            Self::Hashtag => "numbers (#3), entities (&#8217;), parts of addresses, letters before the #",
            Self::Mention => "mail addresses, a lone @, times (@ 5)",
            Self::Initial => "an initial before the first name or after the last, letters in a list",
            Self::NameTitle => "the same words without a name behind them",
            Self::NameSuffix => {
                "numbers of things and of kings (Chapter III, Henry VIII), the same letters without a name before them"
            }
            Self::SentenceEnd => {
                "points of abbreviations (Mr., e.g., `no. 12`, `p. 12`, Nov. 5), of initials, in numbers, in names of files, of \
                 numbers that open a line; what trails off… and goes on in small letters"
            }
            Self::PageNumber => {
                "numbers with words beside them, years (1936), times, roman numbers that are none (ill)"
            }
            Self::CopySuffix => "the word copy elsewhere, years in parentheses, numbers in parentheses in a sentence",
            Self::PictureSize => "other numbers with p or x: 12p, 5x5, page numbers",
            Self::Uuid => "shorter and longer rows of hexadecimal digits",
            Self::BlankRun => "single blanks, line ends, no-break and other odd spaces",
        }
    }

    /// Lines in which it finds what stands between « and ».
    pub fn matching_lines(self) -> &'static [&'static str] {
        examples::of(self).0
    }

    /// Lines in which it finds nothing.
    pub fn near_misses(self) -> &'static [&'static str] {
        examples::of(self).1
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
