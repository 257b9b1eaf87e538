//! Texts and rules for benchmarks, made from a seed: the same on every machine.

use washout_core::{Program, RuleSet};

/// How many of a text's lines have something to clean.
#[derive(Clone, Copy, Debug)]
pub enum Dirt {
    /// None.
    None,
    /// One in a hundred.
    Little,
    /// One in ten.
    Tenth,
    /// Three in ten.
    Some,
    /// All.
    All,
}

impl Dirt {
    fn percent(self) -> u64 {
        match self {
            Self::None => 0,
            Self::Little => 1,
            Self::Tenth => 10,
            Self::Some => 30,
            Self::All => 100,
        }
    }
}

/// Twelve rules as a data preparer writes them: characters, words, lists, edges of lines and patterns.
pub const TWELVE_RULES: &str = r##"
[[rule]]
remove = { class = ["control", "invisible"] }
[[rule]]
replace = { class = "odd-space", with = " " }
[[rule]]
remove = { stock = "timestamp", at = "whole-line" }
[[rule]]
remove = { stock = "line-number", at = "start" }
[[rule]]
remove = { words = ["um", "uh", "er"], case = "ignore" }
[[rule]]
replace = { class = "double-quote", with = '"' }
[[rule]]
remove = { text = ["-copy", "(draft)", "[sic]"] }
[[rule]]
replace = { pattern = '(\d{2})\.(\d{2})\.(\d{4})', with = "$3-$2-$1" }
[[rule]]
replace = { pattern = ' {2,}', with = " " }
[[rule]]
drop_lines = { pattern = '^MARROW POINT LIGHT STATION .* page \d+$' }
[[rule]]
remove = { chars = "#*", at = "edges" }
[[rule]]
trim = { at = "end" }
"##;

/// The same twelve as patterns over a whole text, as near as patterns come: for the plain loop.
pub const TWELVE_PATTERNS: &[(&str, &str)] = &[
    (
        r"[\x00-\x08\x0B\x0C\x0E-\x1F\x7F\u{80}-\u{9F}\u{AD}\u{200B}\u{200E}\u{200F}\u{202A}-\u{202E}\u{2060}-\u{206F}\u{FEFF}]",
        "",
    ),
    (r"[\u{A0}\u{1680}\u{2000}-\u{200A}\u{2028}\u{2029}\u{202F}\u{205F}\u{3000}]", " "),
    (r"(?m)^[ \t]*[\[(]?\d{1,2}:[0-5]\d(?::[0-5]\d)?(?:[.,]\d{1,9})?[\])]?[ \t]*\n", ""),
    (r"(?m)^[ \t]*(?:\[\d{1,7}\]|\d{1,7}[.:)]?)(?:[ \t]*\|)?(?:[ \t]|$)", ""),
    (r"(?i) \b(?:um|uh|er)\b", ""),
    ("[\u{AB}\u{BB}\u{201C}-\u{201F}\u{2E42}\u{301D}-\u{301F}\u{FF02}]", "\""),
    (r"-copy|\(draft\)|\[sic\]", ""),
    (r"(\d{2})\.(\d{2})\.(\d{4})", "$3-$2-$1"),
    (r" {2,}", " "),
    (r"(?m)^MARROW POINT LIGHT STATION .* page \d+\n", ""),
    (r"(?m)^[ \t]*[#*]+|[#*]+[ \t]*$", ""),
    (r"(?m)[ \t]+$", ""),
];

/// [`TWELVE_RULES`], compiled.
#[expect(clippy::missing_panics_doc, reason = "the tests read the rules")]
pub fn twelve_rules() -> Program {
    let set = RuleSet::read("twelve rules", TWELVE_RULES).expect("OK because the tests read it");
    Program::compile([&set])
}

/// Rules for two of the seven fields of a table.
pub const TABLE_RULES: &str = r#"
[table]
fields = ["Keeper", "Remarks"]
[[rule]]
remove = { class = ["control", "invisible"] }
[[rule]]
replace = { class = "odd-space", with = " " }
[[rule]]
remove = { text = ["-copy", "(draft)", "[sic]"] }
[[rule]]
replace = { pattern = '(\d{2})\.(\d{2})\.(\d{4})', with = "$3-$2-$1" }
[[rule]]
remove = { chars = "*#" }
[[rule]]
collapse = { chars = " ", with = " " }
[[rule]]
remove = { pattern = ', (?:Jr|Asst|P\.K)\.$' }
[[rule]]
trim = {}
"#;

/// The same as patterns and replacements, for the fields number 5 and 7.
pub const TABLE_PATTERNS: &[(&str, &str)] = &[
    (TWELVE_PATTERNS[0].0, ""),
    (r"[\u{A0}\u{1680}\u{2000}-\u{200A}\u{2028}\u{2029}\u{202F}\u{205F}\u{3000}]", " "),
    (r"-copy|\(draft\)|\[sic\]", ""),
    (r"(\d{2})\.(\d{2})\.(\d{4})", "$3-$2-$1"),
    (r"[*#]", ""),
    (r" {2,}", " "),
    (r", (?:Jr|Asst|P\.K)\.$", ""),
    (r"^[ \t]+|[ \t]+$", ""),
];

/// The fields that [`TABLE_RULES`] are for, from 0.
pub const TABLE_FIELDS: [usize; 2] = [4, 6];

/// About that many bytes of a table of stores, with that many of its records dirty; quoted as a CSV writer does.
pub fn stores(bytes: usize, dirt: Dirt) -> Vec<u8> {
    let (words, keepers) = (Script::Ascii.words(), ["Josiah Hale", "Tamsin Vey", "Edwin Orrin", "old Pask"]);
    let mut random = Random(1936);
    let mut table = b"Date,Item,Quantity,Unit,Keeper,Boat,Remarks\n".to_vec();
    while table.len() < bytes {
        let (year, month, day) = (1900 + random.below(60), 1 + random.below(12), 1 + random.below(28));
        table.extend(format!("{year}-{month:02}-{day:02},\"Rope, {}\",", random.choice(&words)).bytes());
        let (keeper, boat) = (random.choice(&keepers), random.choice(&["Petrel", "Dunlin", "Grey Wether"]));
        let dirty = random.below(100) < dirt.percent();
        let (before, behind) = match random.below(4) {
            _ if !dirty => ("", ""),
            0 => ("\u{200B}", ""),
            1 => ("", "\u{A0}x"),
            2 => ("  ", ""),
            _ => ("", " #"),
        };
        table.extend(format!("{},fathom,{before}{keeper}{behind},{boat},", random.below(400)).bytes());
        for word in 0..4 + random.below(6) {
            table.extend(if word == 0 { "" } else { " " }.bytes());
            table.extend(random.choice(&words).bytes());
        }
        if dirty {
            table
                .extend(["  (draft)", " 05.11.1936", " *", " "][usize::try_from(random.below(4)).unwrap_or(0)].bytes());
        }
        table.push(b'\n');
    }
    table
}

/// The plain way with a table: a reader and a writer of CSV, and between them one `replace_all` for each rule on each cell.
///
/// # Errors
/// Reading or writing does not go on.
pub fn plain_table_loop(from: impl std::io::Read, to: impl std::io::Write) -> Result<(), Box<dyn std::error::Error>> {
    let rules: Vec<(regex::bytes::Regex, &str)> = TABLE_PATTERNS
        .iter()
        .map(|(pattern, with)| Ok((regex::bytes::Regex::new(pattern)?, *with)))
        .collect::<Result<_, regex::Error>>()?;
    let mut reader = csv::Reader::from_reader(from);
    let mut writer = csv::Writer::from_writer(to);
    writer.write_byte_record(reader.byte_headers()?)?;
    let mut record = csv::ByteRecord::new();
    while reader.read_byte_record(&mut record)? {
        for (place, field) in record.iter().enumerate() {
            if !TABLE_FIELDS.contains(&place) {
                writer.write_field(field)?;
                continue;
            }
            let mut cell = std::borrow::Cow::Borrowed(field);
            for (regex, with) in &rules {
                if let std::borrow::Cow::Owned(changed) = regex.replace_all(&cell, with.as_bytes()) {
                    cell = std::borrow::Cow::Owned(changed);
                }
            }
            writer.write_field(&cell)?;
        }
        writer.write_record(None::<&[u8]>)?;
    }
    writer.flush()?;
    Ok(())
}

/// What the lines of a text are written in.
#[derive(Clone, Copy, Debug)]
pub enum Script {
    /// English words, in ASCII except for what is to be cleaned.
    Ascii,
    /// Words of several scripts, of one, two and three bytes a letter.
    Mixed,
}

impl Script {
    fn words(self) -> Vec<&'static str> {
        let words = match self {
            Self::Ascii => ENGLISH,
            Self::Mixed => MIXED,
        };
        words.split(' ').collect()
    }
}

const ENGLISH: &str = "the lamp lit at dusk wind south-west force sea slight relief boat came in oil for wicks keeper on watch fog until dawn gulls below gallery glass falling landing closed";

const MIXED: &str = "lamp маяк φάρος 灯台 Öllampe ветер άνεμος 見張り café туман θάλασσα the relief лодка βάρκα 霧 Wächter рассвет αυγή 南西の風 gulls чайки γλάροι 夜明け";

/// About that many bytes of log lines in English, so much of them dirty.
pub fn log(bytes: usize, dirt: Dirt) -> Vec<u8> {
    log_in(Script::Ascii, bytes, dirt)
}

/// About that many bytes of log lines, so much of them dirty.
pub fn log_in(script: Script, bytes: usize, dirt: Dirt) -> Vec<u8> {
    let words = script.words();
    let mut random = Random(1936);
    let mut text = Vec::with_capacity(bytes + 256);
    while text.len() < bytes {
        let dirty = random.below(100) < dirt.percent();
        let start = text.len();
        let mut last = "";
        for index in 0..6 + random.below(8) {
            if index > 0 {
                text.push(b' ');
            }
            // No word twice in a row: that would be something to clean.
            let next = random.choice(&words);
            let next = if *next == *last { "lamp-room" } else { next };
            text.extend_from_slice(next.as_bytes());
            last = next;
        }
        text.push(b'.');
        if dirty {
            soil(&mut text, start, &mut random);
        }
        text.push(b'\n');
    }
    text
}

/// Puts one or two things to clean into the line that starts at `start`.
fn soil(text: &mut Vec<u8>, start: usize, random: &mut Random) {
    let middle = start + text[start..].iter().position(|byte| *byte == b' ').unwrap_or(0);
    let put = |text: &mut Vec<u8>, at: usize, what: &str| drop(text.splice(at..at, what.bytes()));
    match random.below(9) {
        0 => put(text, middle, "\u{200B}"),
        1 => put(text, middle, "\u{A0}"),
        2 => put(text, start, "00:14\n"),
        3 => put(text, start, "  12 "),
        4 => put(text, middle, " um"),
        5 => put(text, middle, " “old”"),
        6 => put(text, middle, " (draft)  05.11.1936"),
        7 => put(text, start, "## "),
        _ => put(text, middle, "  "),
    }
    if random.below(2) == 0 {
        text.extend_from_slice(b"   ");
    }
}

/// Words of four to nine letters, by a fixed rule.
pub fn made_up_words(count: usize) -> impl Iterator<Item = String> {
    let letter = |number: u64| char::from(b'a' + u8::try_from(number % 26).unwrap_or_default());
    (0..count as u64).map(move |word| {
        let mut state = word.wrapping_mul(0x9E37_79B9_7F4A_7C15) ^ 0x5DEE_CE66;
        let length = 4 + state % 6;
        let mut made = String::from("q");
        for _ in 1..length {
            state = state.wrapping_mul(6_364_136_223_846_793_005).wrapping_add(1_442_695_040_888_963_407);
            made.insert(0, letter(state >> 33));
        }
        made
    })
}

/// A small generator of numbers (Marsaglia, "Xorshift RNGs", 2003): texts must not change with a library.
struct Random(u64);

impl Random {
    fn choice<'w>(&mut self, words: &[&'w str]) -> &'w str {
        let index = self.below(words.len() as u64);
        words[usize::try_from(index).unwrap_or(0)]
    }

    fn below(&mut self, limit: u64) -> u64 {
        self.0 ^= self.0 << 13;
        self.0 ^= self.0 >> 7;
        self.0 ^= self.0 << 17;
        self.0 % limit
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use washout_core::table::{Form, TableFormat};

    #[test]
    fn the_plain_loop_over_tables_does_what_the_rules_do() {
        let table = stores(200_000, Dirt::All);
        let set = RuleSet::read("stores", TABLE_RULES).expect("good rules");
        let washed = Program::compile([&set]).apply_as(Form::Table(TableFormat::Csv), &table).expect("a good table");
        assert_ne!(washed, table);
        let mut plain = Vec::new();
        plain_table_loop(&table[..], &mut plain).expect("in memory");
        assert!(washed == plain, "the same table");
    }

    #[test]
    fn dirt_is_what_it_says() {
        let program = twelve_rules();
        assert!(
            program.apply(&log(100_000, Dirt::None)).expect("plain rules").changes().iter().all(|count| *count == 0)
        );
        let text = log(1_000_000, Dirt::All);
        let dirty = program.apply(&text).expect("plain rules");
        let idle: Vec<usize> = (0..12).filter(|rule| dirty.changes()[*rule] == 0).collect();
        assert_eq!(idle, [9], "all rules but that of the page headings have work");
    }
}
