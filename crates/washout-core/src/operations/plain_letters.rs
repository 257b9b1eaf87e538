//! `plain_letters`

use std::sync::LazyLock;

use unicode_normalization::char::decompose_canonical;

use super::compiled_rule::{BlockContext, RuleState};
use super::operation::{LineUse, Operation};
use crate::class::{CharTable, NamedClass, unicode_class};
use crate::text::chars::char_at;
use crate::text::haystack::Haystack;
use crate::text::lines::Lines;

/// Latin letters that are not letter with a mark, and what stands for them.
const TABLE: &[(char, &str)] = &[
    ('Æ', "AE"),
    ('æ', "ae"),
    ('Đ', "D"),
    ('đ', "d"),
    ('Ð', "D"),
    ('ð', "d"),
    ('Ħ', "H"),
    ('ħ', "h"),
    ('ı', "i"),
    ('Ł', "L"),
    ('ł', "l"),
    ('Ŋ', "N"),
    ('ŋ', "n"),
    ('Ø', "O"),
    ('ø', "o"),
    ('Œ', "OE"),
    ('œ', "oe"),
    ('ẞ', "SS"),
    ('ß', "ss"),
    ('ſ', "s"),
    ('Þ', "Th"),
    ('þ', "th"),
    ('Ŧ', "T"),
    ('ŧ', "t"),
];

static LATIN: LazyLock<CharTable> =
    LazyLock::new(|| CharTable::new(unicode_class(r"[\p{Latin}&&\p{L}]").unwrap_or_default()));
static MARKS: LazyLock<CharTable> =
    LazyLock::new(|| CharTable::new(NamedClass::find("mark").map(NamedClass::set).unwrap_or_default()));

/// Takes the marks off Latin letters, those composed with them and those that follow. Each character that changes or
/// goes is a change; neighbours are one.
#[derive(Clone, Copy, Debug)]
pub(super) struct PlainLetters;

impl Operation for PlainLetters {
    fn line_use(&self) -> LineUse {
        LineUse::KEEPS_NUMBER
    }

    fn run(&self, block: Haystack<'_>, _: BlockContext, state: &mut RuleState) {
        let text = block.text;
        for line in Lines::of(text) {
            if text[line.start..line.content_end].is_ascii() {
                continue;
            }
            let (mut at, mut after_latin) = (line.start, false);
            while at < line.content_end {
                let Some((character, len)) = char_at(text, at) else {
                    (at, after_latin) = (at + 1, false);
                    continue;
                };
                if after_latin && MARKS.contains(character) {
                    state.push(text, at..at + len, b"", 1);
                } else {
                    let base = base_of(character);
                    after_latin = LATIN.contains(base);
                    if after_latin && !character.is_ascii() {
                        push_plain(text, at, len, base, state);
                    }
                }
                at += len;
            }
        }
    }
}

fn base_of(character: char) -> char {
    let mut base = None;
    decompose_canonical(character, |part| base = base.or(Some(part)));
    base.unwrap_or(character)
}

fn push_plain(text: &[u8], at: usize, len: usize, base: char, state: &mut RuleState) {
    let listed = TABLE.iter().find(|(letter, _)| *letter == base).map(|(_, plain)| plain.as_bytes());
    let mut bytes = [0; 4];
    let plain = listed.unwrap_or_else(|| base.encode_utf8(&mut bytes).as_bytes());
    state.push(text, at..at + len, plain, 1);
}
