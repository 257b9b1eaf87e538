//! What is found, each kind with its rule.

use std::fmt::Write as _;

use super::kinds::{KindFindings, LitterKind};
use super::repeated::Repeat;
use super::{Sighting, Survey};

/// One kind of litter in the texts.
#[derive(Clone, Debug)]
#[non_exhaustive]
pub struct Litter {
    /// Which kind.
    pub kind: LitterKind,
    /// How often it occurs: how many changes its rule makes by itself. Odd spaces that are control characters too, and
    /// time codes that stand alone, are counted there and not again.
    pub count: u64,
    /// In how many texts.
    pub texts: usize,
    /// The first places, two at most.
    pub sightings: Vec<Sighting>,
    /// The rule that takes it: a line of TOML, as `--rule` and `[[rule]]` take it.
    pub rule: String,
    /// Why the rule may take more than litter; in a draft it is off then.
    pub doubt: Option<&'static str>,
}

/// Takes runs of blanks, but not the indentation.
const BLANK_RUNS_WITHIN: &str = r#"replace = { pattern = '(?<=[^ \t])[ \t]{2,}(?=[^ \t])', with = " " }"#;
/// The same where no line is indented: the stock pattern is quicker.
const BLANK_RUNS: &str = r#"replace = { stock = "blank-run", with = " " }"#;

pub(super) fn all(survey: &Survey) -> Vec<Litter> {
    let mut all = Vec::new();
    for kind in LitterKind::ALL {
        match kind {
            LitterKind::ByteOrderMark => all.extend(byte_order_mark(survey)),
            LitterKind::MixedLineEnds => all.extend(mixed_line_ends(survey)),
            LitterKind::CommonTails => all.extend(survey.tails.common().into_iter().map(common_tail)),
            LitterKind::PageNumbers if numbers_other_things(survey) => {}
            LitterKind::RepeatedLine => all.extend(survey.repeated.worth_a_rule().into_iter().map(repeated)),
            kind => all.extend(found(survey, kind)),
        }
    }
    all
}

fn found(survey: &Survey, kind: LitterKind) -> Option<Litter> {
    let KindFindings { count, texts, sightings } = survey.found.get(&kind)?.clone();
    let one_kind = match kind {
        LitterKind::MixedDoubleQuotes => !survey.quotes.double_are_mixed(),
        LitterKind::MixedSingleQuotes => !survey.quotes.single_are_mixed(),
        _ => false,
    };
    if one_kind {
        return None;
    }
    let rule = match kind {
        LitterKind::BlankRuns if survey.indented == 0 => BLANK_RUNS,
        LitterKind::BlankRuns => BLANK_RUNS_WITHIN,
        kind => kind.rule()?,
    };
    let doubt = match kind {
        LitterKind::LineNumbersAtStart | LitterKind::LineNumbersAtEnd if are_few(survey, count) => {
            Some("few lines have one, so they may not be line numbers")
        }
        kind => kind.doubt(),
    };
    Some(Litter { kind, count, texts, sightings, rule: rule.to_owned(), doubt })
}

/// Whether less than a sixth of the lines have it: some pages number every fifth line.
fn are_few(survey: &Survey, count: u64) -> bool {
    count * 6 < survey.size.lines - survey.lines.empty
}

fn byte_order_mark(survey: &Survey) -> Option<Litter> {
    let (kind, count) = (LitterKind::ByteOrderMark, survey.lines.texts_with_bom);
    let texts = usize::try_from(count).unwrap_or(usize::MAX);
    let rule = kind.rule()?.to_owned();
    (count > 0).then_some(Litter { kind, count, texts, sightings: Vec::new(), rule, doubt: None })
}

fn mixed_line_ends(survey: &Survey) -> Option<Litter> {
    let lines = &survey.lines;
    let crlf = lines.crlf > lines.lf;
    let (most, to) = if crlf { (lines.crlf, "crlf") } else { (lines.lf, "lf") };
    let count = lines.lf + lines.crlf + lines.cr - most;
    let texts: u64 = lines.texts_with.iter().sum::<u64>() - lines.texts_with[usize::from(crlf)];
    let texts = usize::try_from(texts).unwrap_or(usize::MAX);
    let rule = format!(r#"line_ends = {{ to = "{to}" }}"#);
    let mixed = lines.kinds() > 1 || (lines.kinds() == 1 && lines.cr > 0);
    // A text that keeps to another kind than most may be meant so: one for another system, among others.
    let others: u64 = (0..3).filter(|kind| *kind != usize::from(crlf)).map(|kind| lines.texts_only[kind]).sum();
    let doubt = (lines.kinds() > 1 && others > 0)
        .then_some("it also changes files whose line ends are all of one kind, which may be meant");
    mixed.then_some(Litter { kind: LitterKind::MixedLineEnds, count, texts, sightings: Vec::new(), rule, doubt })
}

fn repeated(repeat: &Repeat) -> Litter {
    let text = String::from_utf8_lossy(&repeat.text);
    let rule = if repeat.numbers_differ || repeat.has_controls_around || text.contains(is_hidden) {
        format!("drop_lines = {{ pattern = {} }}", toml_string(&pattern_of(&text, repeat.has_controls_around)))
    } else {
        format!("drop_lines = {{ text = {}, at = \"whole-line\" }}", toml_string(&text))
    };
    let is_heading = repeat.looks_like_heading() && repeat.is_on_each_page();
    Litter {
        kind: LitterKind::RepeatedLine,
        count: repeat.found.count,
        texts: repeat.found.texts,
        sightings: repeat.found.sightings.clone(),
        rule,
        doubt: (!is_heading).then_some("it drops lines that may not be headings or footers of pages"),
    }
}

/// Whether what stands alone on lines numbers captions, or empty lines among many numbered ones, and no pages.
fn numbers_other_things(survey: &Survey) -> bool {
    let count = |kind| survey.found.get(&kind).map_or(0, |found| found.count);
    let numbered = count(LitterKind::LineNumbersAtStart).max(count(LitterKind::LineNumbersAtEnd));
    count(LitterKind::CaptionTimes) > 0 || numbered > 2 * count(LitterKind::PageNumbers)
}

fn common_tail((tail, found): (&[u8], &KindFindings)) -> Litter {
    let kind = LitterKind::CommonTails;
    let KindFindings { count, texts, sightings } = found.clone();
    let rule = format!("remove = {{ text = {}, at = \"end\" }}", toml_string(&String::from_utf8_lossy(tail)));
    Litter { kind, count, texts, sightings, rule, doubt: kind.doubt() }
}

/// An expression for a whole line like this one, with any numbers in place of its own.
fn pattern_of(text: &str, has_controls_around: bool) -> String {
    let around = if has_controls_around { r"[\x00-\x20]*" } else { r"[ \t]*" };
    let mut pattern = format!("^{around}");
    let mut characters = text.chars().peekable();
    while let Some(character) = characters.next() {
        if character.is_ascii_digit() {
            while characters.next_if(char::is_ascii_digit).is_some() {}
            pattern.push_str(r"\d+");
        } else if character == ' ' && characters.peek() == Some(&' ') {
            while characters.next_if_eq(&' ').is_some() {}
            pattern.push_str(" +");
        } else if is_hidden(character) && character.is_whitespace() {
            // In a draft, earlier rules make plain spaces of odd ones, and take what is not seen.
            pattern.push_str(r"\s");
        } else if is_hidden(character) {
            let _ = write!(pattern, r"\x{{{:X}}}?", u32::from(character));
        } else {
            pattern.push_str(&regex_syntax::escape(character.encode_utf8(&mut [0; 4])));
        }
    }
    pattern + around + "$"
}

/// Whether it is drawn as another when it is shown: who copies the rule would copy that.
fn is_hidden(character: char) -> bool {
    character != '\'' && character != '"' && character != '\\' && !character.escape_debug().eq([character])
        || (character != ' ' && character.is_whitespace())
}

/// A TOML string on one line: without escapes where it can be.
fn toml_string(text: &str) -> String {
    if !text.contains('\'') && !text.contains(is_hidden) {
        return format!("'{text}'");
    }
    let mut quoted = String::from("\"");
    for character in text.chars() {
        match character {
            '"' | '\\' => quoted.extend(['\\', character]),
            character if is_hidden(character) => {
                let _ = write!(quoted, "\\U{:08X}", u32::from(character));
            }
            character => quoted.push(character),
        }
    }
    quoted + "\""
}
