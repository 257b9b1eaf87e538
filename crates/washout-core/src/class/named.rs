//! The named classes and their exact members.

use regex_syntax::hir::{Class, HirKind};

use super::CharSet;

/// The version of the Unicode Character Database the classes are made from (that of the `regex-syntax` tables).
pub const UNICODE_VERSION: &str = "16.0.0";

/// A class of characters that rules can name.
#[derive(Debug)]
pub struct NamedClass {
    /// The name as rules write it.
    pub name: &'static str,
    /// Its members in a sentence.
    pub members: &'static str,
    definition: Definition,
}

#[derive(Debug)]
enum Definition {
    /// A bracketed class in the syntax of Unicode Technical Standard #18, as `regex-syntax` reads it.
    Unicode(&'static str),
    LineEnds,
    Broken,
}

impl NamedClass {
    /// The class of that name.
    pub fn find(name: &str) -> Option<&'static Self> {
        NAMED_CLASSES.iter().find(|class| class.name == name)
    }

    /// The members.
    #[expect(clippy::missing_panics_doc, reason = "a test builds every named class")]
    pub fn set(&self) -> CharSet {
        match self.definition {
            Definition::Unicode(class) => unicode_class(class).expect("OK because a test builds every named class"),
            Definition::LineEnds => CharSet::line_ends(),
            Definition::Broken => CharSet::broken(),
        }
    }
}

/// The set of a class in regular-expression syntax, such as `\p{Zs}`; `None` where the syntax knows no such class.
pub(crate) fn unicode_class(class: &str) -> Option<CharSet> {
    let hir = regex_syntax::parse(class).ok()?;
    match hir.into_kind() {
        HirKind::Class(Class::Unicode(class)) => Some(CharSet::of_class(class)),
        // A class of one character is simplified to that character.
        HirKind::Literal(literal) => std::str::from_utf8(&literal.0).ok().map(|text| CharSet::of_chars(text.chars())),
        _ => None,
    }
}

const fn class(name: &'static str, members: &'static str, unicode: &'static str) -> NamedClass {
    NamedClass { name, members, definition: Definition::Unicode(unicode) }
}

/// Every named class, in the order they are listed to people.
pub const NAMED_CLASSES: &[NamedClass] = &[
    class("control", "control characters (Cc) but tab and line ends", r"[\p{Cc}--\t]"),
    class(
        "invisible",
        "characters drawn as nothing: Default_Ignorable_Code_Point and the interlinear marks U+FFF9..U+FFFB, without \
         `joiner`; the whole of `bidi` is in it",
        r"[[\p{Default_Ignorable_Code_Point}\x{FFF9}-\x{FFFB}]--[\x{200C}\x{200D}\x{34F}\p{Variation_Selector}\x{E0020}-\x{E007F}]]",
    ),
    class(
        "joiner",
        "invisible characters that scripts and emoji need: ZWNJ, ZWJ, the combining grapheme joiner, variation \
         selectors, tags",
        r"[\x{200C}\x{200D}\x{34F}\p{Variation_Selector}\x{E0020}-\x{E007F}]",
    ),
    class("bidi", "controls of writing direction (Bidi_Control), also in `invisible`", r"[\p{Bidi_Control}]"),
    class("blank", "space and tab", r"[ \t]"),
    class("space", "the ordinary space U+0020", r"[ ]"),
    class(
        "odd-space",
        "White_Space but space, tab and line ends: form feeds, no-break and thin spaces, U+2028 and the like",
        r"[\p{White_Space}--[ \t]]",
    ),
    class("whitespace", "White_Space but line ends: `blank` and `odd-space`", r"[\p{White_Space}]"),
    NamedClass {
        name: "line-end",
        members: "line ends: LF, CRLF (as one) and lone CR",
        definition: Definition::LineEnds,
    },
    class("digit", "decimal digits of every script (Nd)", r"[\p{Nd}]"),
    class("letter", "letters (L)", r"[\p{L}]"),
    class("upper", "upper-case letters (Lu)", r"[\p{Lu}]"),
    class("lower", "lower-case letters (Ll)", r"[\p{Ll}]"),
    class("punctuation", "punctuation (P)", r"[\p{P}]"),
    class("symbol", "symbols (S)", r"[\p{S}]"),
    class(
        "quote",
        "quotation marks (Quotation_Mark): `double-quote`, `single-quote` and the corner brackets",
        r"[\p{Quotation_Mark}]",
    ),
    class(
        "double-quote",
        "double quotation marks of every shape, the guillemets included",
        "[\"\u{AB}\u{BB}\u{201C}-\u{201F}\u{2E42}\u{301D}-\u{301F}\u{FF02}]",
    ),
    class(
        "single-quote",
        "single quotation marks of every shape, the apostrophe included",
        "['\u{2018}-\u{201B}\u{2039}\u{203A}\u{FF07}]",
    ),
    class("dash", "hyphens and dashes (Dash), the hyphen-minus and the minus sign included", r"[\p{Dash}]"),
    class(
        "bullet",
        "marks that open list items: • ‣ ⁃ ∙ · ◦ ● ○ ▪ ▫ ■ □ ▶ ► ➢ ➤ ❖ and their kin",
        "[\u{B7}\u{2022}\u{2023}\u{2043}\u{204C}\u{204D}\u{2219}\u{25A0}\u{25A1}\u{25AA}\u{25AB}\u{25B6}\u{25BA}\
         \u{25CB}\u{25CF}\u{25D8}\u{25E6}\u{2619}\u{2756}\u{2765}\u{2767}\u{27A2}\u{27A4}\u{29BE}\u{29BF}]",
    ),
    class(
        "emoji",
        "Emoji but ASCII, © ® ‼ ⁉ ™ ℹ and the plain arrows",
        r"[\p{Emoji}--[\x00-\x7F©®‼⁉™ℹ\x{2190}-\x{21FF}]]",
    ),
    class("mark", "combining marks (M)", r"[\p{M}]"),
    class("private", "private-use characters (Co)", r"[\p{Co}]"),
    class("unassigned", "code points without a character (Cn)", r"[\p{Cn}]"),
    class("replacement", "the replacement character U+FFFD", r"[\x{FFFD}]"),
    NamedClass { name: "broken", members: "bytes that are not valid UTF-8", definition: Definition::Broken },
    class("ascii", "U+0000 to U+007F but line ends", r"[\x00-\x7F]"),
    class("non-ascii", "every character from U+0080 on", r"[^\x00-\x7F]"),
];

#[cfg(test)]
mod tests {
    use super::*;

    /// Counted from the Unicode 16.0 data files; a new version of the tables changes some of these knowingly.
    const SIZES: &[(&str, usize)] = &[
        ("control", 62),
        ("invisible", 3_818),
        ("joiner", 359),
        ("bidi", 12),
        ("blank", 2),
        ("space", 1),
        ("odd-space", 21),
        ("whitespace", 23),
        ("line-end", 0),
        ("digit", 760),
        ("letter", 141_028),
        ("upper", 1_858),
        ("lower", 2_258),
        ("punctuation", 855),
        ("symbol", 8_514),
        ("quote", 30),
        ("double-quote", 12),
        ("single-quote", 8),
        ("dash", 31),
        ("bullet", 25),
        ("emoji", 1_405),
        ("mark", 2_501),
        ("private", 137_468),
        ("unassigned", 819_533),
        ("replacement", 1),
        ("broken", 0),
        ("ascii", 126),
        ("non-ascii", 1_113_984),
    ];

    #[test]
    fn every_class_has_the_members_it_says() {
        for named in NAMED_CLASSES {
            let set = named.set();
            assert!(!set.is_empty(), "{} is empty", named.name);
            assert!(!set.contains('\n') && !set.contains('\r'), "{} holds a line end as a character", named.name);
            assert_eq!(set.has_line_ends(), named.name == "line-end");
        }
        let sizes: Vec<(&str, usize)> = NAMED_CLASSES.iter().map(|class| (class.name, class.set().len())).collect();
        assert_eq!(sizes, SIZES);
    }

    #[test]
    fn telling_members_are_in_their_classes_alone() {
        let classes_of = |character: char| -> Vec<&str> {
            NAMED_CLASSES.iter().filter(|class| class.set().contains(character)).map(|class| class.name).collect()
        };
        assert_eq!(classes_of('\u{200B}'), ["invisible", "non-ascii"]);
        assert_eq!(classes_of(' '), ["blank", "space", "whitespace", "ascii"]);
        assert_eq!(classes_of('\t'), ["blank", "whitespace", "ascii"]);
        assert_eq!(classes_of('\u{C}'), ["control", "odd-space", "whitespace", "ascii"]);
        assert_eq!(classes_of('\u{A0}'), ["odd-space", "whitespace", "non-ascii"]);
        assert_eq!(classes_of('\u{200D}'), ["joiner", "non-ascii"]);
        assert_eq!(classes_of('\u{FE0F}'), ["joiner", "mark", "non-ascii"]);
        assert_eq!(classes_of('\u{202E}'), ["invisible", "bidi", "non-ascii"]);
        assert_eq!(classes_of('©'), ["symbol", "non-ascii"]);
        assert_eq!(classes_of('’'), ["punctuation", "quote", "single-quote", "non-ascii"]);
    }
}
