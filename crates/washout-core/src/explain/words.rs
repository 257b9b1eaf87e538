//! Sentences about rules.

use super::tables;
use crate::class::NamedClass;
use crate::rules::{
    BreakPlace, Case, CharsTarget, DropLines, EmptyLines, Encoded, FinalLineEnd, Gap, HyphenAtLineEnd, LetterCase,
    LineEnds, LinePlace, LineRange, Marks, NumberPlace, Paragraphs, PositionsTarget, RepeatScope, Replacement, Rule,
    Scope, Search, StockTarget, Target, TrimAt, TrimClass, Unclosed, Unmatched, Verb, Which, WordsTarget,
};
use crate::text::shown::quoted;
use crate::text::{At, LineEnd};
use crate::words::Hyphen;

/// Entries of a list that are named before the others are only counted.
const NAMED: usize = 5;

/// What the verb does, in a sentence or two.
pub(super) fn verb(verb: &Verb) -> String {
    match verb {
        Verb::Remove(remove) => {
            let what = chosen(&remove.search, remove.which);
            let after = match (remove.search.at, remove.gap) {
                (At::WholeLine, _) => " The line goes with it, and its line end.",
                (_, Gap::Leave) => "",
                (_, Gap::Close) => " The gap it leaves between blanks is closed.",
                (_, Gap::Mend) => " The gap it leaves is closed, and a comma that has nothing left to part goes too.",
            };
            format!("Removes {what}.{after}")
        }
        Verb::Replace(replace) => {
            let what = chosen(&replace.search, replace.which);
            match &replace.with {
                Replacement::Template(with) if with.source().is_empty() => format!("Puts nothing in place of {what}."),
                Replacement::Template(with) => format!("Puts {} in place of {what}.", quoted(with.source())),
                Replacement::Pairs(pairs) => {
                    let first: Vec<String> = pairs
                        .list
                        .iter()
                        .take(NAMED)
                        .map(|(from, to)| format!("{} becomes {}", quoted(from), quoted(to)))
                        .collect();
                    let more = match pairs.list.len().saturating_sub(NAMED) {
                        0 => String::new(),
                        1 => ", and one more pair".to_owned(),
                        more => format!(", and {more} more pairs"),
                    };
                    let words = if pairs.whole_words { " Whole words only." } else { "" };
                    let any_case = if replace.search.case == Case::Ignore { " In any letter case." } else { "" };
                    let case = if pairs.follow_case { " Capitals go over to what is put." } else { "" };
                    format!(
                        "{}{more}: in one pass, the longest first; what was put is not looked at again.{words}{any_case}{case}",
                        capital(&first.join(", "))
                    )
                }
            }
        }
        Verb::Keep(keep) => {
            let group = if keep.group > 0 { format!("group {} of ", keep.group) } else { String::new() };
            let joined = if keep.joined_with.is_empty() {
                String::new()
            } else {
                format!(" Between two that stay it puts {}.", quoted(&keep.joined_with))
            };
            let unmatched = match keep.unmatched {
                Unmatched::Empty => "becomes empty",
                Unmatched::Leave => "stays as it is",
                Unmatched::Drop => "goes, with its line end",
            };
            let which = match keep.which {
                Which::All => String::new(),
                Which::First => "the first of ".to_owned(),
                Which::Last => "the last of ".to_owned(),
                Which::Nth(nth) => format!("number {nth} of "),
            };
            format!(
                "Of each line, keeps only {group}{which}{} and removes the rest.{joined} A line without one {unmatched}.",
                found(&keep.search)
            )
        }
        Verb::Collapse(collapse) => {
            let what = chosen(&collapse.search, collapse.which);
            match &collapse.with {
                None => format!("Where one and the same of these stands several times in a row, keeps one: {what}."),
                Some(with) => format!("Makes each unbroken row of these one {}: {what}.", quoted(with)),
            }
        }
        Verb::Trim(trim) => {
            let what = match trim.class {
                TrimClass::Blank => "spaces and tabs",
                TrimClass::Whitespace => "all white space, odd spaces included,",
            };
            let edges = match trim.at {
                TrimAt::Start => "at the start of each line",
                TrimAt::End => "at the end of each line",
                TrimAt::Edges => "at both edges of each line",
            };
            format!("Removes {what} {edges}.")
        }
        Verb::Recase(recase) => {
            let where_ = recase
                .within
                .as_ref()
                .map_or_else(|| "everywhere".to_owned(), |(search, which)| format!("in {}", chosen(search, *which)));
            let rest = if recase.keeps_rest { "leaves the others as they are" } else { "makes the others small" };
            match recase.to {
                LetterCase::Lower => format!("Makes all letters small, {where_}."),
                LetterCase::Upper => format!("Makes all letters capital, {where_}."),
                LetterCase::Title => {
                    format!("Makes the first letter of each word capital and {rest}, {where_}.")
                }
                LetterCase::Sentence => {
                    format!("Makes the first letter of each line and of each sentence capital and {rest}, {where_}.")
                }
            }
        }
        Verb::Normalize(normalize) => {
            format!("Puts characters in the Unicode normalization form {}.", normalize.form.name())
        }
        Verb::PlainLetters => "Takes the marks off Latin letters, and writes ø ł ß æ and their kin plainly.".to_owned(),
        Verb::Decode(decode) => match decode.what {
            Encoded::HtmlEntities => {
                "Writes character references of HTML (&amp;eacute; &amp;#233;) as their characters."
                    .replace("&amp;", "&")
            }
            Encoded::Percent => "Writes percent-encoded characters (%C3%A9) plainly.".to_owned(),
            Encoded::DoubleUtf8 => "Mends UTF-8 that was once read as windows-1252 (â€™ becomes ’).".to_owned(),
            Encoded::Digits => "Writes decimal digits of other scripts as 0 to 9.".to_owned(),
        },
        Verb::DropLines(DropLines::Holding(search)) => format!("Drops every line that holds {}.", found(search)),
        Verb::DropLines(DropLines::Empty(EmptyLines::All)) => {
            "Drops every line that holds nothing but blanks.".to_owned()
        }
        Verb::DropLines(DropLines::Empty(EmptyLines::Extra)) => {
            "Of several empty lines in a row, keeps the first.".to_owned()
        }
        Verb::DropLines(DropLines::Scope) => "Drops lines.".to_owned(),
        Verb::KeepLines(keep) => keep.search.as_ref().map_or_else(
            || "Drops all other lines.".to_owned(),
            |search| format!("Drops every line that does not hold {}.", found(search)),
        ),
        Verb::DropRepeats(repeats) => {
            let after = match repeats.scope {
                RepeatScope::Neighbours => "right after its like",
                RepeatScope::File => "anywhere after its like",
            };
            let case = if repeats.case == Case::Ignore { " Letter case does not count." } else { "" };
            let edges = if repeats.ignore_edges { " Blanks at the edges do not count." } else { "" };
            format!("Drops a line that stands {after}; the first stays.{case}{edges}")
        }
        Verb::JoinLines(join) => {
            let lines = match join.paragraphs {
                Paragraphs::Keep => "Makes one line of each paragraph; empty lines stay",
                Paragraphs::Join => "Makes one line of the whole text",
            };
            let hyphens = match join.hyphens {
                HyphenAtLineEnd::Leave => "",
                HyphenAtLineEnd::Rejoin => " A word that a hyphen breaks over two lines becomes one word again.",
            };
            let with = if join.with.is_empty() { "nothing".to_owned() } else { quoted(&join.with) };
            format!("{lines}. Between two lines it puts {with}.{hyphens}")
        }
        Verb::BreakLines(breaks) => {
            let side = match breaks.place {
                BreakPlace::After => "after",
                BreakPlace::Before => "before",
            };
            let tight = if breaks.tight { "" } else { " Only where a blank stands there." };
            format!("Breaks the line {side} {}, which stays.{tight}", chosen(&breaks.search, breaks.which))
        }
        Verb::WrapLines(wrap) => format!(
            "Breaks each line that is wider than {}, at blanks. A wider word stays whole, on a line of its own.",
            columns(wrap.width.get())
        ),
        Verb::LineEnds(ends) => line_ends(*ends),
        Verb::Tabs(tabs) => {
            format!("Replaces tabs by spaces, up to the next tab stop; they are {} apart.", columns(tabs.width))
        }
        Verb::Pad(pad) => {
            let what = match (&pad.within, pad.which) {
                (Some(search), which) => format!("the numbers in {}", chosen(search, which)),
                (None, Which::All) => "numbers".to_owned(),
                (None, Which::First) => "the first number of each line".to_owned(),
                (None, Which::Last) => "the last number of each line".to_owned(),
                (None, Which::Nth(nth)) => format!("number {nth} of the numbers of each line"),
            };
            format!("Writes zeros before {what}, up to {} digits.", pad.width)
        }
        Verb::Number(number) => {
            let step = if number.step == 1 { String::new() } else { format!(" in steps of {}", number.step) };
            let counts = format!("{:0width$} on{step}", number.start, width = number.width);
            match (&number.instead_of, number.place) {
                (Some((search, which)), _) => {
                    format!("Writes numbers from {counts} in place of {}.", chosen(search, *which))
                }
                (None, NumberPlace::Start) => format!(
                    "Writes a number before each line, from {counts}, and {} after it.",
                    quoted(&number.joined_with)
                ),
                (None, NumberPlace::End) => {
                    format!("Writes {} and a number after each line, from {counts}.", quoted(&number.joined_with))
                }
            }
        }
        Verb::DropRecords(_) | Verb::DropFields(_) | Verb::RenameFields(_) => tables::on_table(verb),
        Verb::Include(include) => format!("Runs the rules of {}.", include.path),
    }
}

fn line_ends(ends: LineEnds) -> String {
    let to = ends.to.map(|to| match to {
        LineEnd::Lf => "Makes every line end LF.",
        LineEnd::CrLf => "Makes every line end CRLF.",
        LineEnd::Cr => "Makes every line end CR.",
    });
    let at_end = ends.at_end.map(|at_end| match at_end {
        FinalLineEnd::One => "Closes the text with exactly one line end.",
        FinalLineEnd::None => "Closes the text with no line end.",
    });
    let bom = ends.drops_bom.then_some("Drops a byte order mark.");
    to.into_iter().chain(at_end).chain(bom).collect::<Vec<_>>().join(" ")
}

/// Where the rule may act, a sentence for each key.
pub(super) fn scope(scope: &Scope) -> Vec<String> {
    let mut said = Vec::new();
    said.extend(scope.lines.map(line_range));
    said.extend(scope.only_lines.as_ref().map(|search| format!("Only on lines that hold {}.", found(search))));
    said.extend(scope.skip_lines.as_ref().map(|search| format!("Not on lines that hold {}.", found(search))));
    match (&scope.from_line, &scope.to_line) {
        (Some(from), Some(to)) => said.push(format!(
            "Only from a line that holds {} to the next later line that holds {}, both included, each time again.",
            found(from),
            found(to)
        )),
        (Some(from), None) => said.push(format!("Only from the first line that holds {} to the end.", found(from))),
        (None, Some(to)) => said.push(format!("Only from the start to the first line that holds {}.", found(to))),
        (None, None) => {}
    }
    if scope.to_line.is_some() {
        said.push(match scope.unclosed {
            Unclosed::Take => "Where that line is missing, to the end of the text.".to_owned(),
            Unclosed::Leave => "Where that line is missing, not at all.".to_owned(),
            Unclosed::Refuse => "Where that line is missing, it is an error.".to_owned(),
        });
    }
    if !scope.spare.is_empty() {
        let spared: Vec<String> = scope.spare.iter().map(found).collect();
        said.push(format!("Leaves alone what shares a byte with {}.", spared.join("; ")));
    }
    said
}

fn line_range(lines: LineRange) -> String {
    let place = |place: LinePlace| match place {
        LinePlace::FromStart(number) => format!("line {number}"),
        LinePlace::FromEnd(1) => "the last line".to_owned(),
        LinePlace::FromEnd(number) => format!("line {number} from the end"),
    };
    if lines.first == lines.last {
        format!("Only on {}.", place(lines.first))
    } else {
        format!("Only from {} to {}.", place(lines.first), place(lines.last))
    }
}

/// What it is to change, a sentence for each key.
pub(super) fn expectations(rule: &Rule) -> Vec<String> {
    let said = [
        rule.expect.map(|count| format!("Expects {} over the whole run", count.of("change"))),
        rule.expect_each.map(|count| format!("Expects {} in each file", count.of("change"))),
        rule.expect_sections.map(|count| format!("Expects {} over the whole run", count.of("section"))),
    ];
    said.into_iter().flatten().map(|said| format!("{said}; else nothing is written.")).collect()
}

fn chosen(search: &Search, which: Which) -> String {
    match which {
        Which::All => found(search),
        Which::First => format!("the first on each line of {}", found(search)),
        Which::Last => format!("the last on each line of {}", found(search)),
        Which::Nth(nth) => format!("number {nth} on each line of {}", found(search)),
    }
}

/// What is looked for, where, in which case, and what is spared.
pub(super) fn found(search: &Search) -> String {
    let place = match search.at {
        At::Anywhere => "",
        At::Start => " at the start of a line",
        At::End => " at the end of a line",
        At::Edges => " at either edge of a line",
        At::WholeLine => " where it stands alone on a line",
    };
    let case = if search.case == Case::Ignore { ", in any letter case" } else { "" };
    let mut spared = Vec::new();
    if search.except.chars != CharsTarget::default() {
        spared.push(characters(&search.except.chars));
    }
    spared.extend(search.except.words.iter().chain(&search.except.text).map(|entry| quoted(entry)));
    let except = if spared.is_empty() { String::new() } else { format!(", but not {}", spared.join(", ")) };
    format!("{}{place}{case}{except}", target(&search.target))
}

fn target(target: &Target) -> String {
    match target {
        Target::Chars(chars) => characters(chars),
        Target::Text(entries) => format!("the text {}", listed(entries)),
        Target::Words(words) => words_of(words),
        Target::Pattern(pattern) if pattern.across_lines() => {
            format!("what the pattern {} finds in the whole text", pattern.source())
        }
        Target::Pattern(pattern) => format!("what the pattern {} finds on a line", pattern.source()),
        Target::Stock(StockTarget { stock, rising, number }) => {
            let option = match (rising, number) {
                (true, _) => ", only where they go up from line to line",
                (_, true) => ", with the number or identifier on the line before",
                _ => "",
            };
            format!("what the stock pattern {} takes ({}){option}", stock.name(), stock.takes())
        }
        Target::Between(between) => {
            let marks = if between.marks == Marks::Take { "with the marks" } else { "without the marks" };
            format!("what stands from {} to {}, {marks}", quoted(&between.open), quoted(&between.close))
        }
        Target::Positions(PositionsTarget { first, last: None }) => {
            format!("the characters of a line from number {first} to its end")
        }
        Target::Positions(PositionsTarget { first, last: Some(last) }) if first == last => {
            format!("character {first} of a line")
        }
        Target::Positions(PositionsTarget { first, last: Some(last) }) => {
            format!("the characters {first} to {last} of a line")
        }
    }
}

fn words_of(words: &WordsTarget) -> String {
    let mut parts = Vec::new();
    if words.written > 0 {
        let kind = if words.written == 1 { "the whole word" } else { "any of the whole words" };
        parts.push(format!("{kind} {}", listed(&words.entries[..words.written])));
    }
    parts.extend(words.files.iter().map(|file| format!("any of the words of {file}")));
    if !words.stopwords.is_empty() {
        parts.push(format!("any of the stop words of {}", words.stopwords.join(", ")));
    }
    let hyphen = if words.hyphen == Hyphen::Joins { " (a hyphen makes one word of two)" } else { "" };
    format!("{}{hyphen}", parts.join(" or "))
}

fn characters(target: &CharsTarget) -> String {
    let mut parts = Vec::new();
    if !target.chars.is_empty() {
        let mut each: Vec<String> = Vec::new();
        for character in target.chars.chars().map(|character| quoted(&character.to_string())) {
            if !each.contains(&character) {
                each.push(character);
            }
        }
        let many = if each.len() == 1 { "the character" } else { "each of the characters" };
        parts.push(format!("{many} {}", each.join(" ")));
    }
    for class in &target.classes {
        let members = NamedClass::find(class).map_or_else(String::new, |class| format!(" ({})", class.members));
        parts.push(format!("characters of the class {class}{members}"));
    }
    parts.join(" and ")
}

fn listed(entries: &[String]) -> String {
    let named: Vec<String> = entries.iter().take(NAMED).map(|entry| quoted(entry)).collect();
    match entries.len().saturating_sub(NAMED) {
        0 => named.join(", "),
        more => format!("{} and {more} more", named.join(", ")),
    }
}

fn columns(width: usize) -> String {
    if width == 1 { "1 column".to_owned() } else { format!("{width} columns") }
}

fn capital(text: &str) -> String {
    let mut letters = text.chars();
    letters.next().map_or_else(String::new, |first| first.to_uppercase().chain(letters).collect())
}
