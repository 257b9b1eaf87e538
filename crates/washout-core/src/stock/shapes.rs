//! The shapes of stock patterns.

use std::sync::LazyLock;

use super::around::{
    any_end, anything, at_line_start, blank_after, line_end_after, name_ends_after, no_blank_after, no_blank_before,
    no_hyphen_after, no_hyphen_before, no_name_after, no_name_before, no_number_after, no_number_before, no_word_after,
    no_word_before,
};
use super::person::{ends_name, name_after, name_before, named_after, suffix_ends};
use super::sentence::{ends_sentence, no_mark_before};
use super::shape::{Shape, ShapeStart, dfa};
use crate::text::pool::Pool;

macro_rules! shape {
    ($(#[$doc:meta])* $name:ident, $expression:expr, $starts:expr, $before:expr, $after:expr) => {
        $(#[$doc])*
        pub(super) static $name: Shape = Shape {
            expression: $expression,
            starts: $starts,
            before: $before,
            after: $after,
            dfa: LazyLock::new(|| dfa($expression)),
            caches: Pool::new(),
        };
    };
}

macro_rules! year {
    () => {
        "[12][0-9]{3}"
    };
}
macro_rules! month {
    () => {
        "(?:0?[1-9]|1[0-2])"
    };
}
macro_rules! day {
    () => {
        "(?:0?[1-9]|[12][0-9]|3[01])"
    };
}
macro_rules! month_name {
    () => {
        r"(?:(?:Jan|Feb|Mar|Apr|Jun|Jul|Aug|Sept?|Oct|Nov|Dec)\.?|January|February|March|April|May|June|July|August|September|October|November|December)"
    };
}
macro_rules! month_short {
    () => {
        "(?:Jan|Feb|Mar|Apr|May|Jun|Jul|Aug|Sep|Oct|Nov|Dec)"
    };
}
macro_rules! weekday {
    () => {
        "(?:Mon|Tue|Wed|Thu|Fri|Sat|Sun)"
    };
}
macro_rules! clock {
    () => {
        r"(?:[01]?[0-9]|2[0-4]):[0-5][0-9](?::[0-6][0-9](?:[.,][0-9]{1,9})?)?"
    };
}
macro_rules! offset {
    () => {
        r"(?:[ \t]?(?:[Zz]|[+\-\x{2212}][0-2][0-9](?::?[0-5][0-9])?))"
    };
}

shape!(
    /// Days by number or by name, always with their year.
    DATE,
    concat!(
        "(?:", year!(), "(?:-", month!(), "-", day!(), "|/", month!(), "/", day!(), r"|\.", month!(), r"\.", day!(), ")",
        "|", day!(), r"(?:\.", month!(), r"\.|-", month!(), "-|/", month!(), "/)", year!(),
        "|", month!(), "/", day!(), "/(?:", year!(), "|[0-9]{2})",
        "|", day!(), "/", month!(), "/[0-9]{2}",
        "|(?:(?:Mon|Tues?|Wed(?:nes)?|Thu(?:rs)?|Fri|Sat(?:ur)?|Sun)(?:day)?,?[ \t])?",
        "(?:", day!(), r"(?:st|nd|rd|th|\.)?[ \t-](?:of[ \t])?", month_name!(), r",?[ \t-]", year!(),
        "|", month_name!(), "[ \t]", day!(), "(?:st|nd|rd|th)?,?[ \t]", year!(), "))"
    ),
    ShapeStart::AtDigit(b"JFMASONDTW"),
    no_number_before,
    no_number_after
);

shape!(
    /// A date with a time: ISO 8601 and RFC 3339, RFC 2822, and the usual forms of logs.
    DATE_TIME,
    concat!(
        r"(?:\[[ \t]?)?(?:",
        year!(), "-[01][0-9]-[0-3][0-9](?:[Tt]|[ \t]{1,2})", clock!(), offset!(), "?",
        "|", year!(), "(?:-[01][0-9]-[0-3][0-9]|[01][0-9][0-3][0-9])[Tt]",
        "(?:", clock!(), "|[0-2][0-9](?:[0-5][0-9](?:[0-6][0-9](?:[.,][0-9]{1,9})?)?)?)", offset!(), "?",
        "|", year!(), "[/.]", month!(), "[/.]", day!(), "[ \t]{1,2}", clock!(), offset!(), "?",
        "|", day!(), "[/.-]", month!(), "[/.-]", year!(), ",?[ \t]{1,2}", clock!(), offset!(), "?",
        "|(?:", weekday!(), ",?[ \t])?", day!(), "[ \t]", month_short!(), "[ \t]", year!(), "[ \t]", clock!(),
        "(?:[ \t](?:[+-][0-9]{4}|[A-Z]{2,4})(?:[ \t]\\([A-Z]{2,4}\\))?)?",
        "|[0-3][0-9]/", month_short!(), "/", year!(), ":[0-2][0-9]:[0-5][0-9]:[0-6][0-9](?:[ \t][+-][0-9]{4})?",
        "|(?:", weekday!(), "[ \t])?", month_short!(), "[ \t]{1,2}", day!(), "[ \t]", clock!(),
        "(?:[ \t](?:[A-Z]{2,4}[ \t])?", year!(), ")?",
        r")(?:[ \t]?\])?"
    ),
    ShapeStart::AtDigit(b"[JFMASONDTW"),
    no_number_before,
    brackets_match
);

/// A bracket is taken with what it encloses or not at all.
fn brackets_match(text: &[u8], start: usize, end: usize) -> bool {
    let (opens, closes) = (text[start] == b'[', text[end - 1] == b']');
    opens == closes && (closes || no_number_after(text, start, end))
}

shape!(
    /// The times of a caption.
    CUE_RANGE,
    concat!(
        r"(?:[0-9]{1,3}:)?[0-5][0-9]:[0-5][0-9][.,][0-9]{1,3}[ \t]*-->[ \t]*",
        r"(?:[0-9]{1,3}:)?[0-5][0-9]:[0-5][0-9][.,][0-9]{1,3}",
        r"(?:[ \t]+(?:align|line|position|size|vertical|region|[XY][12]):[^ \t\r\n]+)*"
    ),
    ShapeStart::AtDigit(b""),
    no_number_before,
    blank_after
);

shape!(
    /// Who speaks, at the start of a line.
    SPEAKER,
    concat!(
        r"(?:>>[ \t]?)?(?:\p{Lu}[\p{L}\p{M}\p{Nd}'’.-]*(?:[ \t](?:\p{Lu}[\p{L}\p{M}\p{Nd}'’.-]*|[0-9]{1,3})){0,3}",
        r"|\[\p{Lu}[^\[\]:]{0,40}\])(?:[ \t]\([^()]{1,30}\))?[ \t]?:"
    ),
    ShapeStart::AtUpper(b"[>"),
    at_line_start,
    blank_after
);

shape!(
    /// Escape sequences of terminals (ECMA-48).
    ANSI_ESCAPE,
    concat!(
        r"(?:\x1B\[|\x{9B})[0-?]*[ -/]*[@-~]|\x1B\][^\x07\x1B]*(?:\x07|\x1B\\)",
        r"|\x1B[PX^_][^\x1B]*\x1B\\|\x1B[ -/]*[0-OQ-WYZ\\`-~]"
    ),
    ShapeStart::At(b"\x1B\xC2"),
    anything,
    any_end
);

shape!(
    /// A tag, comment or instruction of HTML or XML, on one line.
    TAG,
    concat!(
        r#"</?[A-Za-z][A-Za-z0-9:._-]*(?:[ \t/](?:[^<>"']|"[^"]*"|'[^']*')*)?>"#,
        r"|<!--(?:[^-]|-[^-])*-->|<![A-Za-z][^<>]*>|<\?[A-Za-z](?:[^?]|\?[^>])*\?>",
        r"|<(?:[0-9]{2,3}:)?[0-5][0-9]:[0-5][0-9]\.[0-9]{3}>"
    ),
    ShapeStart::At(b"<"),
    anything,
    any_end
);

macro_rules! url_rest {
    () => {
        r#"(?:[^\s<>"“”«»()]|\([^\s<>"()]*\))*(?:[^\s<>"“”«»().,;:!?'’…\]}*]|\([^\s<>"()]*\))"#
    };
}

shape!(
    /// A web address.
    URL,
    concat!(
        "(?i:https?|ftps?|file)://", url_rest!(),
        r"|(?i:www)\.[\p{L}\p{Nd}-]+(?:\.[\p{L}\p{Nd}-]+)+(?:[/?#](?:", url_rest!(), ")?)?"
    ),
    ShapeStart::At(b"hHfFwW"),
    no_word_before,
    any_end
);

shape!(
    /// A mail address.
    EMAIL,
    concat!(
        r"[\p{L}\p{Nd}_+%-]+(?:\.[\p{L}\p{Nd}_+%-]+)*@",
        r"(?:[\p{L}\p{Nd}](?:[\p{L}\p{Nd}-]*[\p{L}\p{Nd}])?\.)+\p{L}[\p{L}\p{Nd}-]*[\p{L}\p{Nd}]"
    ),
    ShapeStart::RowBefore(b'@'),
    no_name_before,
    no_name_after
);

shape!(
    /// A word marked with `#`.
    HASHTAG,
    r"#[\p{L}\p{M}\p{Nd}_]*\p{L}[\p{L}\p{M}\p{Nd}_]*",
    ShapeStart::At(b"#"),
    no_name_before,
    no_word_after
);

shape!(
    /// A name marked with `@`.
    MENTION,
    r"@[A-Za-z_][A-Za-z0-9_]*(?:[.-][A-Za-z0-9_]+)*",
    ShapeStart::At(b"@"),
    no_name_before,
    no_name_after
);

shape!(
    /// One letter between names, and its point if it has one.
    INITIAL,
    r"\p{Lu}\.?",
    ShapeStart::AtUpper(b""),
    name_before,
    name_after
);

shape!(
    /// A title before a name.
    NAME_TITLE,
    concat!(
        r"(?:Mr|Mrs|Ms|Mx|Dr|Prof|Rev|Fr|Hon|Capt|Lt|Col|Maj|Sgt|Cpl|Cmdr|Adm)\.?",
        "|Miss|Professor|Reverend|Captain|Lieutenant|Colonel|Sergeant|Commander|Sir|Dame"
    ),
    ShapeStart::AtUpper(b""),
    no_word_before,
    named_after
);

macro_rules! suffix {
    () => {
        concat!(
            r"(?:(?:Jr|Sr|Jnr|Snr|Esq)\.?|II|III|IV|VI|VII|VIII|Ph\.?[ \t]?D\.?|D\.?Phil\.?|M\.?Phil\.?|Ed\.?D\.?|LL\.?[BDM]\.?",
            r"|[BM]\.A\.|BA|MA|[BM]\.?S\.?c\.?|[BM]\.?Ed\.?|[BM]\.?Eng\.?|MBA|M\.?D\.?|D\.?D\.?S\.?|D\.?V\.?M\.?|J\.D\.|JD|RN|CPA",
            r"|[OMCKD]\.?B\.?E\.?|F\.?R\.?S\.?|[KQ]\.?C\.?)"
        )
    };
}

shape!(
    /// What follows a name and belongs to it, with the comma and the blanks before it.
    NAME_SUFFIX,
    concat!("(?:,?[ \t]{1,2}", suffix!(), "){1,6}"),
    ShapeStart::At(b", \t"),
    ends_name,
    suffix_ends
);

shape!(
    /// A mark that ends a sentence, with the quotation marks and brackets that close after it.
    SENTENCE_END,
    r#"[.!?…‽؟۔।。｡！？]+["'”’»›«“)\]}]*"#,
    ShapeStart::At(b".!?\xE2\xE3\xEF\xD8\xDB\xE0"),
    no_mark_before,
    ends_sentence
);

shape!(
    /// The number of a page, alone on its line.
    PAGE_NUMBER,
    concat!(
        r"[0-9]{1,3}|[0-9]{1,4}[ \t]?/[ \t]?[0-9]{1,4}|[ivxl]{1,7}",
        r"|[\-–—][ \t]?(?:[0-9]{1,4}|[ivxl]{1,7})[ \t]?[\-–—]|\[[ \t]?[0-9]{1,4}[ \t]?\]",
        r"|(?:(?i:page)|[Pp]\.|[Pp]g\.?)[ \t]?[0-9]{1,4}(?:[ \t](?:of|/)[ \t][0-9]{1,4})?"
    ),
    ShapeStart::AtDigit(b"ivxlpP-[\xE2"),
    at_line_start,
    page_number_ends
);

/// Roman numbers are written one way only: `iiii` and `ill` are none.
fn page_number_ends(text: &[u8], start: usize, end: usize) -> bool {
    let letters: Vec<u8> = text[start..end].iter().copied().filter(u8::is_ascii_lowercase).collect();
    let is_roman = !letters.is_empty() && letters.iter().all(|letter| b"ivxl".contains(letter));
    line_end_after(text, start, end) && (!is_roman || is_roman_number(&letters))
}

fn is_roman_number(letters: &[u8]) -> bool {
    const PARTS: &[(&[u8], u32)] = &[(b"l", 50), (b"xl", 40), (b"x", 10), (b"ix", 9), (b"v", 5), (b"iv", 4), (b"i", 1)];
    let (mut rest, mut value) = (letters, 0);
    for (part, worth) in PARTS {
        while let Some(shorter) = rest.strip_prefix(*part) {
            (rest, value) = (shorter, value + worth);
        }
    }
    // Written back, it has to be the same.
    let mut written = Vec::new();
    for (part, worth) in PARTS {
        while value >= *worth {
            written.extend_from_slice(part);
            value -= worth;
        }
    }
    rest.is_empty() && written == letters
}

shape!(
    /// What copying adds to the name of a file.
    COPY_SUFFIX,
    r"(?:[ _-]{1,3}(?i:copy)(?:[ _-]?[0-9]{1,3}|[ _]?\([0-9]{1,3}\))?|[ _]?\([0-9]{1,3}\)){1,4}",
    ShapeStart::At(b" _-("),
    anything,
    name_ends_after
);

shape!(
    /// The size of a picture or film.
    PICTURE_SIZE,
    "[0-9]{3,5}[x×][0-9]{3,5}|(?:240|360|480|540|576|720|1080|1440|2160|4320)[pi](?:[2-6][0-9])?",
    ShapeStart::AtDigit(b""),
    no_number_before,
    no_number_after
);

shape!(
    /// A universally unique identifier (RFC 9562).
    UUID,
    concat!(
        r"(?i:[0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{12}",
        r"|\{[0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{12}\})"
    ),
    ShapeStart::AtDigit(b"abcdefABCDEF{"),
    no_hyphen_before,
    no_hyphen_after
);

shape!(
    /// Two or more blanks in a row.
    BLANK_RUN,
    "[ \t]{2,}",
    ShapeStart::At(b" \t"),
    no_blank_before,
    no_blank_after
);
