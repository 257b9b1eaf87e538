//! What a character is called.

use std::sync::LazyLock;

use crate::class::{CharSet, NAMED_CLASSES, NamedClass, unicode_class};

/// The name of a character: its Unicode name, for a control character the name of the control function (Unicode's
/// formal aliases), and for one without a name what it is.
///
/// ```
/// # #[cfg(feature = "character-names")]
/// assert_eq!(washout_core::spell::describe('\u{A0}'), "NO-BREAK SPACE");
/// ```
pub fn describe(character: char) -> String {
    if let Some(name) = unicode_name(character) {
        return name;
    }
    let code = u32::from(character);
    match code {
        0..=0x1F => CONTROLS[code as usize].to_owned(),
        0x7F => "DELETE".to_owned(),
        0x85 => "NEXT LINE".to_owned(),
        0x80..=0x9F => "control character (C1)".to_owned(),
        0xFDD0..=0xFDEF => "noncharacter".to_owned(),
        _ if code & 0xFFFE == 0xFFFE => "noncharacter".to_owned(),
        0xE000..=0xF8FF | 0xF_0000.. => "private use".to_owned(),
        _ if cfg!(feature = "character-names") => "unassigned".to_owned(),
        _ => format!("U+{code:04X}"),
    }
}

#[cfg(feature = "character-names")]
fn unicode_name(character: char) -> Option<String> {
    unicode_names2::name(character).map(|name| name.to_string())
}

/// Without names a character is called by its code point.
#[cfg(not(feature = "character-names"))]
fn unicode_name(_character: char) -> Option<String> {
    None
}

/// The formal aliases of U+0000 to U+001F (`NameAliases.txt`, type control).
const CONTROLS: [&str; 32] = [
    "NULL",
    "START OF HEADING",
    "START OF TEXT",
    "END OF TEXT",
    "END OF TRANSMISSION",
    "ENQUIRY",
    "ACKNOWLEDGE",
    "ALERT",
    "BACKSPACE",
    "CHARACTER TABULATION",
    "LINE FEED",
    "LINE TABULATION",
    "FORM FEED",
    "CARRIAGE RETURN",
    "SHIFT OUT",
    "SHIFT IN",
    "DATA LINK ESCAPE",
    "DEVICE CONTROL ONE",
    "DEVICE CONTROL TWO",
    "DEVICE CONTROL THREE",
    "DEVICE CONTROL FOUR",
    "NEGATIVE ACKNOWLEDGE",
    "SYNCHRONOUS IDLE",
    "END OF TRANSMISSION BLOCK",
    "CANCEL",
    "END OF MEDIUM",
    "SUBSTITUTE",
    "ESCAPE",
    "INFORMATION SEPARATOR FOUR",
    "INFORMATION SEPARATOR THREE",
    "INFORMATION SEPARATOR TWO",
    "INFORMATION SEPARATOR ONE",
];

/// Classes that say what a character is, the narrowest first.
const TELLING: &[&str] = &[
    "bidi",
    "control",
    "invisible",
    "joiner",
    "space",
    "blank",
    "odd-space",
    "replacement",
    "private",
    "unassigned",
    "double-quote",
    "single-quote",
    "quote",
    "dash",
    "bullet",
    "emoji",
    "digit",
    "upper",
    "lower",
    "letter",
    "mark",
    "punctuation",
    "symbol",
];

static SETS: LazyLock<Vec<(&'static str, CharSet)>> = LazyLock::new(|| {
    let set = |name: &&'static str| NamedClass::find(name).map(|class| (class.name, class.set()));
    let mut sets: Vec<_> = TELLING.iter().filter_map(set).collect();
    sets.extend(unicode_class(r"\p{N}").map(|numbers| ("number", numbers)));
    sets
});

/// The named class that says most about a character; `number` for numbers that are not digits, `line-end` for LF and CR.
pub fn class_of(character: char) -> &'static str {
    if matches!(character, '\n' | '\r') {
        return "line-end";
    }
    SETS.iter().find(|(_, set)| set.contains(character)).map_or("other", |(name, _)| name)
}

/// Every named class a character is in, in the order classes are listed.
pub fn classes_of(character: char) -> Vec<&'static str> {
    if matches!(character, '\n' | '\r') {
        return vec!["line-end"];
    }
    NAMED_CLASSES.iter().filter(|class| class.set().contains(character)).map(|class| class.name).collect()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn characters_have_a_name_and_a_class() {
        for (character, name, class) in [
            ('a', "LATIN SMALL LETTER A", "lower"),
            ('\t', "CHARACTER TABULATION", "blank"),
            ('\u{1F}', "INFORMATION SEPARATOR ONE", "control"),
            ('\n', "LINE FEED", "line-end"),
            ('\u{85}', "NEXT LINE", "control"),
            ('\u{200B}', "ZERO WIDTH SPACE", "invisible"),
            ('\u{202E}', "RIGHT-TO-LEFT OVERRIDE", "bidi"),
            ('\u{A0}', "NO-BREAK SPACE", "odd-space"),
            ('½', "VULGAR FRACTION ONE HALF", "number"),
            ('한', "HANGUL SYLLABLE HAN", "letter"),
            ('灯', "CJK UNIFIED IDEOGRAPH-706F", "letter"),
            ('\u{FFFE}', "noncharacter", "unassigned"),
            ('\u{E000}', "private use", "private"),
            ('\u{378}', "unassigned", "unassigned"),
            ('“', "LEFT DOUBLE QUOTATION MARK", "double-quote"),
        ] {
            assert_eq!((describe(character).as_str(), class_of(character)), (name, class), "{character:?}");
        }
        assert_eq!(classes_of('“'), ["punctuation", "quote", "double-quote", "non-ascii"]);
    }
}
