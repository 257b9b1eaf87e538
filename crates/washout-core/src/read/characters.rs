//! `chars` and `class`: sets of characters.

use super::fields::{Fields, Placed};
use super::nearest::did_you_mean;
use super::problem::{Problem, Problems};
use crate::class::{CharSet, ClassError, NamedClass, class_item, class_names};
use crate::rules::CharsTarget;

/// `chars` and `class`. `None` if one of them is there and means nothing.
pub(super) fn characters(fields: &mut Fields<'_>, problems: &mut Problems) -> Option<CharsTarget> {
    let mut target = CharsTarget::default();
    let mut good = true;
    if let Some(chars) = fields.string_at("chars", problems) {
        good &= single_characters(&chars, problems);
        target.set.add(&CharSet::of_chars(chars.value.chars()));
        target.chars = chars.value;
    } else {
        good &= fields.place_of("chars").is_none();
    }
    for item in fields.strings("class", problems).unwrap_or_default() {
        match class_item(&item.value) {
            Ok(set) => target.set.add(&set),
            Err(error) => {
                problems.push(class_problem(&item, error));
                good = false;
            }
        }
        target.classes.push(item.value);
    }
    good.then_some(target)
}

/// Whether every character of `chars` stands for itself, as the writer saw it.
fn single_characters(chars: &Placed<String>, problems: &mut Problems) -> bool {
    if NamedClass::find(&chars.value).is_some() {
        let message = format!("`{}` is a class, and `chars` takes single characters", chars.value);
        let help = format!(
            "write class = \"{}\"; for the letters themselves, write each once and in another order",
            chars.value
        );
        problems.add_helped(chars.place.clone(), message, "the name of a class", help);
        return false;
    }
    let marks = NamedClass::find("mark").map(NamedClass::set).unwrap_or_default();
    let is_mark = |character: char| marks.contains(character);
    let pairs = chars.value.chars().zip(chars.value.chars().skip(1));
    if let Some((base, mark)) = pairs.into_iter().find(|(base, mark)| is_mark(*mark) && !is_mark(*base)) {
        let message =
            format!("“{base}{mark}” is two characters: a letter and a mark of its own (U+{:04X})", u32::from(mark));
        let help = format!("to find the two together, write text = \"{base}{mark}\"");
        problems.add_helped(chars.place.clone(), message, "a letter with a separate mark", help);
        return false;
    }
    true
}

fn class_problem(item: &Placed<String>, error: ClassError) -> Problem {
    let written = &item.value;
    let (message, help) = match error {
        ClassError::Unknown => {
            (format!("no class `{written}`{}", did_you_mean(written, class_names())), Some(letters_help(written)))
        }
        ClassError::NoCodePoint(part) => (
            format!("`{part}` is not a code point"),
            Some(
                "code points are written U+0000 to U+10FFFF (but not U+D800 to U+DFFF), ranges U+2000..U+200A"
                    .to_owned(),
            ),
        ),
        ClassError::Swapped => {
            let (first, last) = written.split_once("..").unwrap_or((written, written));
            (format!("the range `{written}` ends before it begins"), Some(format!("write {last}..{first}")))
        }
        ClassError::OnlyLineEnds => (
            format!("`{written}` is a line end, which code points leave alone"),
            Some("write class = \"line-end\", or chars = \"\\n\"".to_owned()),
        ),
    };
    Problem { message, place: item.place.clone(), label: "names no characters".to_owned(), help }
}

fn letters_help(written: &str) -> String {
    let mut letters: Vec<String> = written.chars().take(3).map(String::from).collect();
    if written.chars().count() > 3 {
        letters.push("…".to_owned());
    }
    format!("for the single characters {} use `chars`", letters.join(", "))
}
