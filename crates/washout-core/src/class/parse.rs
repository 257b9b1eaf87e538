//! One entry of `class = […]`: a name, a code point, a range, a general category or a script.

use unicode_script::Script;

use super::named::unicode_class;
use super::{CharSet, NAMED_CLASSES, NamedClass};

/// General categories by their short names (Unicode Standard Annex #44, table 12).
const CATEGORIES: &[&str] = &[
    "L", "Lu", "Ll", "Lt", "LC", "Lm", "Lo", "M", "Mn", "Mc", "Me", "N", "Nd", "Nl", "No", "P", "Pc", "Pd", "Ps", "Pe",
    "Pi", "Pf", "Po", "S", "Sm", "Sc", "Sk", "So", "Z", "Zs", "Zl", "Zp", "C", "Cc", "Cf", "Co", "Cn",
];

/// Scripts that slips are compared with; every script of Unicode is known by its full name (Unicode Standard Annex #24).
const SCRIPTS: &[&str] = &[
    "Arabic",
    "Armenian",
    "Bengali",
    "Bopomofo",
    "Braille",
    "Cyrillic",
    "Devanagari",
    "Ethiopic",
    "Georgian",
    "Greek",
    "Gujarati",
    "Gurmukhi",
    "Han",
    "Hangul",
    "Hebrew",
    "Hiragana",
    "Kannada",
    "Katakana",
    "Khmer",
    "Lao",
    "Latin",
    "Malayalam",
    "Mongolian",
    "Myanmar",
    "Runic",
    "Sinhala",
    "Tamil",
    "Telugu",
    "Thai",
    "Tibetan",
];

/// Why an entry of `class` names no characters.
#[derive(Debug, PartialEq, Eq)]
pub(crate) enum ClassError {
    /// Neither a class, a code point, a range nor a category.
    Unknown,
    /// `U+…` that is not a code point, or that is a surrogate.
    NoCodePoint(String),
    /// A range whose first end is after its last.
    Swapped,
    /// Nothing but line ends: only `line-end` may take those.
    OnlyLineEnds,
}

/// The set an entry stands for.
pub(crate) fn class_item(item: &str) -> Result<CharSet, ClassError> {
    if let Some(named) = NamedClass::find(item) {
        return Ok(named.set());
    }
    if item.starts_with("U+") || item.starts_with("u+") {
        return code_points(item);
    }
    if CATEGORIES.contains(&item) {
        return unicode_class(&format!(r"[\p{{{item}}}]")).ok_or(ClassError::Unknown);
    }
    if Script::from_full_name(item).is_some() {
        return unicode_class(&format!(r"[\p{{Script={item}}}]")).ok_or(ClassError::Unknown);
    }
    Err(ClassError::Unknown)
}

/// Every name `class` knows, for finding the nearest one to a slip.
pub(crate) fn class_names() -> impl Iterator<Item = &'static str> {
    let scripts = SCRIPTS.iter().copied();
    NAMED_CLASSES.iter().map(|class| class.name).chain(CATEGORIES.iter().copied()).chain(scripts)
}

fn code_points(item: &str) -> Result<CharSet, ClassError> {
    let (first, last) = item.split_once("..").unwrap_or((item, item));
    let (first, last) = (code_point(first)?, code_point(last)?);
    if first > last {
        return Err(ClassError::Swapped);
    }
    let set = CharSet::of_range(first, last);
    if set.is_empty() { Err(ClassError::OnlyLineEnds) } else { Ok(set) }
}

fn code_point(text: &str) -> Result<char, ClassError> {
    let digits = text.strip_prefix("U+").or_else(|| text.strip_prefix("u+")).unwrap_or(text);
    let valid = !digits.is_empty() && digits.bytes().all(|byte| byte.is_ascii_hexdigit());
    let code = if valid { u32::from_str_radix(digits, 16).ok() } else { None };
    code.and_then(char::from_u32).ok_or_else(|| ClassError::NoCodePoint(text.to_owned()))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn entries_are_read_or_refused() {
        for category in CATEGORIES.iter().chain(SCRIPTS) {
            assert!(class_item(category).is_ok(), "{category}");
        }
        for (item, len) in [
            ("U+00A0", 1),
            ("U+2000..U+200A", 11),
            ("u+2000..200a", 11),
            ("Zs", 17),
            ("Greek", 518),
            ("Old_Italic", 39),
            ("U+000A..U+000E", 3),
        ] {
            assert_eq!(class_item(item).map(|set| set.len()), Ok(len), "{item}");
        }
        for (item, error) in [
            ("contrl", ClassError::Unknown),
            ("Xx", ClassError::Unknown),
            ("U+", ClassError::NoCodePoint("U+".into())),
            ("U+D800", ClassError::NoCodePoint("U+D800".into())),
            ("U+2000..U+11FFFF", ClassError::NoCodePoint("U+11FFFF".into())),
            ("U+200A..U+2000", ClassError::Swapped),
            ("U+000A", ClassError::OnlyLineEnds),
        ] {
            assert_eq!(class_item(item), Err(error), "{item}");
        }
    }
}
