//! Places in files, as `file:line:column`.

use std::path::PathBuf;

use washout_core::survey::{Place, Sighting};

use super::style::GONE;
use super::visible::{GlyphLook, glyphs, shown_path};

/// `notes.txt:12:5`, where text number `i` is `files[i]`.
pub(crate) fn place(place: Place, files: &[PathBuf]) -> String {
    let Place { text, line, column } = place;
    let path = files.get(text).map(|path| shown_path(path)).unwrap_or_default();
    format!("{path}:{line}:{column}")
}

/// The line of a sighting with what was found between ▸ and ◂, no wider than `columns`.
pub(crate) fn marked(sighting: &Sighting, columns: usize) -> String {
    let Sighting { excerpt, mark, .. } = sighting;
    let draw = |bytes: &[u8], look| glyphs(bytes, look);
    let found = draw(&excerpt[mark.clone()], GlyphLook::Close);
    let (before, after) = (draw(&excerpt[..mark.start], GlyphLook::Text), draw(&excerpt[mark.end..], GlyphLook::Text));
    let mut line = String::new();
    let width = |glyphs: &[super::visible::Glyph]| glyphs.iter().map(|glyph| glyph.width).sum::<usize>();
    let mut room = columns.saturating_sub(width(&found) + 4);
    // What is before gives way first, then what is after.
    let lead = before.iter().rev().scan(0, |used, glyph| {
        *used += glyph.width;
        (*used <= room.min(40)).then_some(())
    });
    let kept = lead.count();
    if kept < before.len() {
        line.push('…');
    }
    before[before.len() - kept..].iter().for_each(|glyph| line.push_str(&glyph.text));
    room = room.saturating_sub(width(&before[before.len() - kept..]));
    let text: String = found.iter().map(|glyph| glyph.text.as_str()).collect();
    line.extend([&format!("{GONE}▸"), text.as_str(), &format!("◂{GONE:#}")]);
    for glyph in &after {
        if glyph.width + 1 > room {
            line.push('…');
            break;
        }
        room -= glyph.width;
        line.push_str(&glyph.text);
    }
    line
}
