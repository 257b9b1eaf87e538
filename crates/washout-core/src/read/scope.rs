//! The keys that say where a rule may act: lines, sections, what is spared.

use toml::de::DeValue;

use super::fields::Fields;
use super::problem::Problems;
use super::search::{refuse_following, search};
use crate::rules::{LinePlace, LineRange, Scope, Search, Unclosed};

/// The keys any rule may have for this.
pub(super) const SCOPE_KEYS: &[&str] =
    &["only_lines", "skip_lines", "lines", "from_line", "to_line", "unclosed", "spare"];

/// More lines than that are never held back to see how many follow.
const MOST_LINES_FROM_END: u64 = 1_000_000;

pub(super) fn scope(fields: &mut Fields<'_>, problems: &mut Problems) -> Scope {
    let opens = fields.place_of("from_line").is_some();
    let closes = fields.place_of("to_line").is_some();
    Scope {
        only_lines: line_search("only_lines", fields, problems),
        skip_lines: line_search("skip_lines", fields, problems),
        lines: line_range(fields, problems),
        from_line: line_search("from_line", fields, problems),
        to_line: line_search("to_line", fields, problems),
        unclosed: unclosed(opens, closes, fields, problems),
        spare: searches("spare", fields, problems),
    }
}

/// What happens to sections that do not close. By default, those of which both ends are named are left alone.
fn unclosed(opens: bool, closes: bool, fields: &mut Fields<'_>, problems: &mut Problems) -> Unclosed {
    let place = fields.place_of("unclosed");
    let said = fields.choice("unclosed", Unclosed::NAMED, problems);
    if let Some(place) = place.filter(|_| !closes) {
        let help = "it goes with `to_line`, the line with which a section closes";
        problems.add_helped(place, "`unclosed` is about sections that should close", "means nothing", help);
    }
    said.unwrap_or(if opens && closes { Unclosed::Leave } else { Unclosed::Take })
}

/// A target that picks out lines.
fn line_search(key: &'static str, fields: &mut Fields<'_>, problems: &mut Problems) -> Option<Search> {
    let table = fields.table(key, &format!(r#"{key} = {{ text = "lamp" }}"#), problems)?;
    line_search_in(key, table, problems)
}

/// The same for a table of which other keys have been read.
pub(super) fn line_search_in(key: &str, mut table: Fields<'_>, problems: &mut Problems) -> Option<Search> {
    let place = table.place();
    let found = search(&mut table, problems);
    table.refuse_rest(problems, |_| None);
    let found = found?;
    refuse_following(&found, place.clone(), problems);
    if found.reaches_over_lines() {
        let help = "line by line, `\\n` and `line-end` are never found; leave them out";
        problems.add_helped(place, format!("`{key}` looks at each line by itself"), "takes line ends", help);
        return None;
    }
    Some(found)
}

/// A list of targets, as `spare` and `protect` take it. A single table is a list of one.
pub(super) fn searches(key: &'static str, fields: &mut Fields<'_>, problems: &mut Problems) -> Vec<Search> {
    let Some((_, value)) = fields.take(key) else { return Vec::new() };
    let items = match value.get_ref() {
        DeValue::Array(items) => items.iter().collect(),
        _ => vec![value],
    };
    let mut found = Vec::with_capacity(items.len());
    for item in items {
        let DeValue::Table(table) = item.get_ref() else {
            let help = format!(r#"write {key} = [{{ text = "lamp" }}]"#);
            problems.add_helped(item.span(), format!("`{key}` is a list of targets"), "no target", help);
            continue;
        };
        let mut target = Fields::of(format!("`{key}`"), table, item.span());
        let one = search(&mut target, problems);
        one.iter().for_each(|one| refuse_following(one, item.span(), problems));
        found.extend(one);
        target.refuse_rest(problems, |_| None);
    }
    found
}

/// `"1..5"`, `"3"`, `"5.."`, `"-3.."`, `"2..-2"`.
fn line_range(fields: &mut Fields<'_>, problems: &mut Problems) -> Option<LineRange> {
    let written = fields.string_at("lines", problems)?;
    let (first, last) = written.value.split_once("..").unwrap_or((&written.value, &written.value));
    let place = |text: &str, open: LinePlace| {
        if text.is_empty() {
            return Some(open);
        }
        let back = text.strip_prefix('-');
        let number = back.unwrap_or(text).parse::<u64>().ok().filter(|number| *number > 0)?;
        match back {
            Some(_) => (number <= MOST_LINES_FROM_END).then_some(LinePlace::FromEnd(number)),
            None => Some(LinePlace::FromStart(number)),
        }
    };
    let ends = (place(first, LinePlace::FromStart(1)), place(last, LinePlace::FromEnd(1)));
    let (Some(first), Some(last), false) = (ends.0, ends.1, first.is_empty() && last.is_empty()) else {
        let help = "lines are written \"3\", \"1..5\", \"5..\", or from the end \"-3..\"; they are counted from 1";
        let message = format!("`{}` is not a range of lines", written.value);
        problems.add_helped(written.place, message, "cannot be read", help);
        return None;
    };
    let swapped = match (first, last) {
        (LinePlace::FromStart(first), LinePlace::FromStart(last)) => first > last,
        (LinePlace::FromEnd(first), LinePlace::FromEnd(last)) => first < last,
        _ => false,
    };
    if swapped {
        let (one, other) = written.value.split_once("..").unwrap_or_default();
        let message = format!("the range `{}` ends before it begins", written.value);
        problems.add_helped(written.place, message, "swapped", format!("write \"{other}..{one}\""));
        return None;
    }
    Some(LineRange { first, last })
}
