//! Text drawn so that nothing of it is hidden and nothing of it can drive the terminal.

use std::path::Path;
use std::sync::LazyLock;

use smol_str::SmolStr;
use unicode_segmentation::UnicodeSegmentation;
use unicode_width::{UnicodeWidthChar, UnicodeWidthStr};
use washout_core::class::{CharSet, NamedClass};
use washout_core::observe::CellPlace;

/// A cell in words: its record, or `header`, and its field, or `whole record`.
pub(crate) fn shown_cell(place: &CellPlace, between: &str) -> String {
    let record = if place.record == 0 { "header".to_owned() } else { place.record.to_string() };
    format!("{record}{between}{}", place.field.as_deref().map_or_else(|| "whole record".to_owned(), shown))
}

/// One drawn sign: what stands for a character, or for a few that are seen as one.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(crate) struct Glyph {
    pub(crate) text: SmolStr,
    /// In columns of the terminal; at least 1.
    pub(crate) width: usize,
}

impl Glyph {
    /// A visible ASCII character or a space.
    fn of_ascii(byte: u8) -> Self {
        Self { text: SmolStr::new_inline(char::from(byte).encode_utf8(&mut [0; 4])), width: 1 }
    }
}

/// How closely a stretch is looked at.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum GlyphLook {
    /// As text: what belongs together is drawn together, spaces are spaces.
    Text,
    /// Character by character, every one of them visible.
    Close,
}

/// Characters that are never sent to the terminal as they are.
static HIDDEN: LazyLock<CharSet> = LazyLock::new(|| {
    let mut hidden = CharSet::default();
    for name in ["control", "invisible", "odd-space", "private", "unassigned"] {
        if let Some(class) = NamedClass::find(name) {
            hidden.add(&class.set());
        }
    }
    hidden
});

static JOINERS: LazyLock<CharSet> =
    LazyLock::new(|| NamedClass::find("joiner").map(NamedClass::set).unwrap_or_default());

/// Takes drawn signs one after the other.
pub(crate) trait GlyphSink {
    /// Visible ASCII characters and spaces: a sign each, one column wide.
    fn ascii(&mut self, text: &str);

    /// One sign, of this width in columns.
    fn glyph(&mut self, text: &str, width: usize);
}

impl GlyphSink for Vec<Glyph> {
    fn ascii(&mut self, text: &str) {
        self.extend(text.bytes().map(Glyph::of_ascii));
    }

    fn glyph(&mut self, text: &str, width: usize) {
        self.push(Glyph { text: SmolStr::new(text), width });
    }
}

/// Draws bytes; line ends too, if any are in them, stay on the line.
pub(crate) fn glyphs(bytes: &[u8], look: GlyphLook) -> Vec<Glyph> {
    let mut glyphs = Vec::with_capacity(bytes.len());
    draw_glyphs(bytes, look, &mut glyphs);
    glyphs
}

/// The same, one by one.
pub(crate) fn draw_glyphs(bytes: &[u8], look: GlyphLook, sink: &mut impl GlyphSink) {
    for chunk in bytes.utf8_chunks() {
        let mut rest = chunk.valid();
        while let Some(first) = rest.bytes().next() {
            let is_plain = |byte: &u8| matches!(byte, b'!'..=b'~') || (*byte == b' ' && look == GlyphLook::Text);
            let plain = rest.bytes().take_while(is_plain).count();
            // What is ASCII stands by itself, except for the last character before another: that may belong to it.
            let is_alone = |len: usize| rest.as_bytes().get(len).is_none_or(u8::is_ascii);
            let alone = if is_alone(plain) { plain } else { plain.saturating_sub(1) };
            if alone > 0 {
                sink.ascii(&rest[..alone]);
                rest = &rest[alone..];
                continue;
            }
            if first.is_ascii() && is_alone(1) {
                draw_char(char::from(first), look, sink);
                rest = &rest[1..];
                continue;
            }
            let Some(cluster) = rest.graphemes(true).next() else { break };
            rest = &rest[cluster.len()..];
            // A mark with nothing before it would be drawn over what is left of the text.
            let width = if cluster == "\t" { 0 } else { cluster.width() };
            let plain = look == GlyphLook::Text && !cluster.chars().any(is_hidden) && !hides_any(cluster);
            if plain && width > 0 {
                sink.glyph(cluster, width);
            } else {
                cluster.chars().for_each(|character| draw_char(character, look, sink));
            }
        }
        chunk.invalid().iter().for_each(|byte| draw_code(&format!("⟨x{byte:02X}⟩"), sink));
    }
}

/// What signs look like one after the other.
pub(crate) fn text_of<'g>(glyphs: impl IntoIterator<Item = &'g Glyph>) -> String {
    glyphs.into_iter().map(|glyph| glyph.text.as_str()).collect()
}

/// Whether it is not seen, or drives a terminal.
pub(crate) fn is_hidden(character: char) -> bool {
    let plain = character.is_ascii_graphic() || character == ' ';
    // Line ends are in no class but their own.
    !plain && (matches!(character, '\n' | '\r') || HIDDEN.contains(character))
}

/// Whether a cluster holds tags or variation selectors that change nothing of how it looks: texts can be hidden in them.
fn hides_any(cluster: &str) -> bool {
    let mut before = None;
    cluster.chars().any(|character| {
        let base = before.replace(character);
        match character {
            // The flags of regions are a black flag and tags.
            '\u{E0020}'..='\u{E007F}' => !cluster.starts_with('\u{1F3F4}'),
            '\u{180B}'..='\u{180F}' | '\u{FE00}'..='\u{FE0F}' | '\u{E0100}'..='\u{E01EF}' => {
                let is_key = cluster.ends_with('\u{20E3}') && base.is_some_and(|base| base.is_ascii());
                let has_variants = base.is_some_and(|base| !base.is_ascii() && !JOINERS.contains(base));
                !is_key && !has_variants
            }
            _ => false,
        }
    })
}

fn draw_char(character: char, look: GlyphLook, sink: &mut impl GlyphSink) {
    match character {
        ' ' if look == GlyphLook::Close => sink.glyph("·", 1),
        '\t' => sink.glyph("→", 1),
        '\u{0}'..='\u{1F}' => draw_plain(char::from_u32(0x2400 + u32::from(character)).unwrap_or('␀'), sink),
        '\u{7F}' => sink.glyph("␡", 1),
        _ if is_hidden(character) || JOINERS.contains(character) || character.width() == Some(0) => {
            draw_code(&format!("⟨U+{:04X}⟩", u32::from(character)), sink);
        }
        _ => draw_plain(character, sink),
    }
}

/// A character that is as it seems.
fn draw_plain(character: char, sink: &mut impl GlyphSink) {
    sink.glyph(character.encode_utf8(&mut [0; 4]), character.width().unwrap_or(1).max(1));
}

/// What stands for a character that is not shown.
fn draw_code(code: &str, sink: &mut impl GlyphSink) {
    sink.glyph(code, code.width());
}

/// What is drawn for a line end: a sign for each of its bytes, one column wide.
pub(crate) fn line_end_sign(end: &[u8]) -> &'static str {
    match end {
        b"\r\n" => "␍↵",
        b"\r" => "␍",
        _ => "↵",
    }
}

/// A text of one line for messages: paths, labels, what was typed.
pub(crate) fn shown(text: &str) -> String {
    text.split('\n').map(|line| drawn(line.as_bytes())).collect::<Vec<_>>().join("\n")
}

/// A path for messages, on one line whatever is in it.
pub(crate) fn shown_path(path: &Path) -> String {
    drawn(path.to_string_lossy().as_bytes())
}

/// Bytes on one line.
pub(crate) fn drawn(bytes: &[u8]) -> String {
    if bytes.iter().all(|byte| byte.is_ascii_graphic() || *byte == b' ') {
        return bytes.iter().map(|byte| char::from(*byte)).collect();
    }
    text_of(&glyphs(bytes, GlyphLook::Text))
}

/// The same, cut with an ellipsis where it is wider than that many columns.
pub(crate) fn drawn_within(bytes: &[u8], columns: usize) -> String {
    let glyphs = glyphs(bytes, GlyphLook::Text);
    if glyphs.iter().map(|glyph| glyph.width).sum::<usize>() <= columns {
        return text_of(&glyphs);
    }
    let mut used = 1;
    let fits = |glyph: &&Glyph| {
        used += glyph.width;
        used <= columns
    };
    text_of(glyphs.iter().take_while(fits)) + "…"
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;

    proptest! {
        #![proptest_config(ProptestConfig { cases: 2000, ..ProptestConfig::default() })]

        /// Any bytes: every sign is seen and as wide as it says, nothing drives the terminal, and cut text fits.
        #[test]
        fn signs_are_seen_and_as_wide_as_they_say(
            bytes in prop_oneof![
                proptest::collection::vec(any::<u8>(), 0..40),
                proptest::collection::vec(any::<char>(), 0..20).prop_map(|text| String::from_iter(text).into_bytes()),
                "[a \u{301}\u{200d}\u{fe0f}\u{1f469}\u{1f692}\u{e0041}\u{6f22}\t\u{1b}]{0,20}".prop_map(String::into_bytes),
            ],
            close: bool,
            columns in 1..60_usize,
        ) {
            let drawn = glyphs(&bytes, if close { GlyphLook::Close } else { GlyphLook::Text });
            for glyph in &drawn {
                prop_assert!(glyph.width > 0 && glyph.width == glyph.text.width(), "{:?}", glyph);
                prop_assert!(!glyph.text.chars().any(is_hidden), "{:?}", glyph);
                prop_assert!(!close || glyph.text.chars().all(|character| character.width() > Some(0)), "{:?}", glyph);
            }
            prop_assert!(drawn_within(&bytes, columns).width() <= columns);
        }
    }

    fn drawn_as(bytes: &[u8], look: GlyphLook) -> String {
        text_of(&glyphs(bytes, look))
    }

    #[test]
    fn nothing_that_drives_a_terminal_or_hides_gets_through() {
        for (text, want) in [
            (&b"a\x1b[31m\x07\x7f"[..], "a␛[31m␇␡"),
            ("x\u{9b}2J".as_bytes(), "x⟨U+009B⟩2J"),
            ("a\u{202E}b\u{2066}".as_bytes(), "a⟨U+202E⟩b⟨U+2066⟩"),
            ("a\u{200B}\u{A0}\tb".as_bytes(), "a⟨U+200B⟩⟨U+00A0⟩→b"),
            (b"caf\xE9", "caf⟨xE9⟩"),
            ("\u{301}a\n\u{200D}".as_bytes(), "⟨U+0301⟩a␊⟨U+200D⟩"),
            ("a\u{FE0F}b🚒\u{FE0F}\u{E0101}".as_bytes(), "a⟨U+FE0F⟩b🚒⟨U+FE0F⟩⟨U+E0101⟩"),
            ("🚒\u{E0041}\u{E0042}".as_bytes(), "🚒⟨U+E0041⟩⟨U+E0042⟩"),
            ("❤\u{FE0F} 1\u{FE0F}\u{20E3} 葛\u{E0100}".as_bytes(), "❤\u{FE0F} 1\u{FE0F}\u{20E3} 葛\u{E0100}"),
            ("👩\u{200D}🚒 e\u{301} می\u{200C}خواهم".as_bytes(), "👩\u{200D}🚒 e\u{301} می\u{200C}خواهم"),
        ] {
            assert_eq!(drawn_as(text, GlyphLook::Text), want);
        }
        assert_eq!(drawn_as("a b\u{200D}e\u{301}".as_bytes(), GlyphLook::Close), "a·b⟨U+200D⟩e⟨U+0301⟩");
    }
}
