//! Places in files, as `file:line:column`.

use std::ops::Range;
use std::path::PathBuf;

use washout_core::survey::{Place, Sighting};

use super::style::GONE;
use super::visible::{Glyph, GlyphLook, glyphs, shown_path};

/// `notes.txt:12:5`, where text number `i` is `files[i]`.
pub(crate) fn place(place: Place, files: &[PathBuf]) -> String {
    let Place { text, line, column } = place;
    let path = files.get(text).map(|path| shown_path(path)).unwrap_or_default();
    format!("{path}:{line}:{column}")
}

/// The line of a sighting with what was found between ▸ and ◂, no wider than `columns`.
pub(crate) fn marked(sighting: &Sighting, columns: usize) -> String {
    let Sighting { excerpt, mark, .. } = sighting;
    marked_in(excerpt, mark.clone(), columns)
}

fn marked_in(excerpt: &[u8], mark: Range<usize>, columns: usize) -> String {
    let mut found = glyphs(&excerpt[mark.clone()], GlyphLook::Close);
    let before = glyphs(&excerpt[..mark.start], GlyphLook::Text);
    let after = glyphs(&excerpt[mark.end..], GlyphLook::Text);
    let mut line = String::new();
    let width = |glyphs: &[Glyph]| glyphs.iter().map(|glyph| glyph.width).sum::<usize>();
    if width(&found) + 4 > columns {
        let mut used = 0;
        let fits = |glyph: &&Glyph| {
            used += glyph.width;
            used + 5 <= columns
        };
        found.truncate(found.iter().take_while(fits).count());
        found.extend(glyphs("…".as_bytes(), GlyphLook::Text));
    }
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

#[cfg(test)]
mod tests {
    use proptest::prelude::*;
    use unicode_width::UnicodeWidthStr;

    use super::*;

    proptest! {
        /// Whatever the line and what is found in it: it fits, what was found is between its marks, and both texts around it are those
        /// of the line.
        #[test]
        fn a_marked_line_fits(
            parts in ["[a-z \u{6f22}\u{200b}]{0,60}", "[a-z \u{200b}\t]{1,30}", "[a-z \u{e9}]{0,60}"],
            columns in 40..120_usize,
        ) {
            let [before, found, after] = &parts;
            let mark = before.len()..before.len() + found.len();
            let line = marked_in(parts.concat().as_bytes(), mark, columns);
            let line = anstream::adapter::strip_str(&line).to_string();
            prop_assert!(line.width() <= columns, "{} columns of {}: {}", line.width(), columns, line);
            let (lead, rest) = line.split_once('▸').expect("its start");
            let (shown, tail) = rest.split_once('◂').expect("its end");
            let drawn = |text: &str, look| glyphs(text.as_bytes(), look).iter().map(|glyph| glyph.text.as_str()).collect::<String>();
            prop_assert!(drawn(before, GlyphLook::Text).ends_with(lead.trim_start_matches('…')), "{}", line);
            prop_assert!(drawn(found, GlyphLook::Close).starts_with(shown.trim_end_matches('…')), "{}", line);
            prop_assert!(drawn(after, GlyphLook::Text).starts_with(tail.trim_end_matches('…')), "{}", line);
        }
    }
}
