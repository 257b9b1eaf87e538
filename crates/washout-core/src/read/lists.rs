//! Lists of words: written in the rule, in files, and ready-made.

use super::fields::{Fields, Placed};
use super::files::open_text;
use super::nearest::{did_you_mean, list};
use super::problem::Problems;
use super::stop_words::{stop_word_lists, stop_words};
use crate::rules::WordsTarget;
use crate::words::Hyphen;

/// The keys that give words; together they make one list.
pub(super) const WORD_KEYS: &[&str] = &["words", "words_from", "stopwords"];

/// `words`, `words_from` and `stopwords`, united.
pub(super) fn words(fields: &mut Fields<'_>, hyphen: Hyphen, problems: &mut Problems) -> Option<WordsTarget> {
    let mut target = WordsTarget { hyphen, ..WordsTarget::default() };
    if fields.place_of("words").is_some() {
        target.entries = word_entries(fields, "words", problems)?;
        target.written = target.entries.len();
    }
    if let Some(paths) = fields.strings("words_from", problems) {
        let form = ListForm::read(fields, problems);
        for path in paths {
            target.entries.extend(from_file(&path, &form, problems).unwrap_or_default());
            target.files.push(path.value);
        }
    }
    for code in fields.strings("stopwords", problems).unwrap_or_default() {
        target.entries.extend(stop_words_of(&code, problems).unwrap_or_default());
        target.stopwords.push(code.value);
    }
    Some(target)
}

/// Entries of `words`: each must hold more than blanks and stand on one line.
pub(super) fn word_entries(fields: &mut Fields<'_>, key: &'static str, problems: &mut Problems) -> Option<Vec<String>> {
    let entries = fields.strings(key, problems)?;
    for entry in &entries {
        check_word(entry, key, problems);
    }
    Some(entries.into_iter().map(|entry| entry.value).collect())
}

pub(super) fn check_word(entry: &Placed<String>, key: &str, problems: &mut Problems) {
    if entry.value.trim().is_empty() {
        problems.add(entry.place.clone(), format!("an entry of `{key}` is empty"), "no word");
    } else if entry.value.contains(['\n', '\r']) {
        let help = "to find text over line ends, use `text`";
        problems.add_helped(entry.place.clone(), "words do not reach over line ends", "holds a line end", help);
    } else if entry.value.starts_with([' ', '\t']) || entry.value.ends_with([' ', '\t']) {
        let message = format!("the entry “{}” begins or ends with a blank", entry.value);
        let help = "leave the blank out: words are found whole, and the gap they leave is closed";
        problems.add_helped(entry.place.clone(), message, "a blank at the edge", help);
    }
}

/// How the files of a list are written.
#[derive(Clone, Debug, Default)]
pub(super) struct ListForm {
    /// Whether the first row is a heading; `None`: that is not said.
    pub(super) heading: Option<bool>,
    /// What comment lines start with.
    pub(super) comments: Option<String>,
}

impl ListForm {
    /// Reads the keys `heading` and `comments`.
    pub(super) fn read(fields: &mut Fields<'_>, problems: &mut Problems) -> Self {
        let heading = fields.boolean("heading", problems);
        let comments = fields.string_at("comments", problems);
        if let Some(mark) = comments.as_ref().filter(|mark| mark.value.trim().is_empty() || mark.value.contains('\n')) {
            let help = r##"write the mark that comment lines start with, such as comments = "#""##;
            problems.add_helped(mark.place.clone(), "`comments` is a mark, not a blank", "no mark", help);
            return Self { heading, comments: None };
        }
        Self { heading, comments: comments.map(|mark| mark.value) }
    }

    /// Whether a line is a comment.
    pub(super) fn is_comment(&self, line: &[u8]) -> bool {
        self.comments.as_ref().is_some_and(|mark| line.trim_ascii_start().starts_with(mark.as_bytes()))
    }
}

/// One entry on each line; blanks at its edges, empty lines and comments do not count.
fn from_file(path: &Placed<String>, form: &ListForm, problems: &mut Problems) -> Option<Vec<String>> {
    let text = open_text(path, problems)?;
    let lines = text.split(['\n', '\r']).filter(|line| !form.is_comment(line.as_bytes())).map(str::trim);
    let entries = lines.filter(|entry| !entry.is_empty()).map(str::to_owned);
    let entries: Vec<String> = entries.skip(usize::from(form.heading == Some(true))).collect();
    if entries.is_empty() {
        let message = format!("`{}` holds no words", path.value);
        problems.add_helped(path.place.clone(), message, "empty", "write one word or phrase on each line");
    }
    Some(entries)
}

/// A ready-made list, by its name.
fn stop_words_of(code: &Placed<String>, problems: &mut Problems) -> Option<Vec<String>> {
    if let Some(entries) = stop_words(&code.value) {
        return Some(entries.into_iter().map(str::to_owned).collect());
    }
    let lists: Vec<String> = stop_word_lists().collect();
    let names = || lists.iter().map(String::as_str);
    let message = format!("no stop words for `{}`{}", code.value, did_you_mean(&code.value, names()));
    let help = format!("languages are written by their ISO 639 codes: {}", list(names()));
    problems.add_helped(code.place.clone(), message, "unknown", help);
    None
}
