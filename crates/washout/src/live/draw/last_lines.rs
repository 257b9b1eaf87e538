//! The last lines: what is typed, asked or said.

use ratatui_core::layout::Rect;
use ratatui_core::text::{Line, Span};
use unicode_width::UnicodeWidthStr;
use washout_core::spell::{classes_of, describe};

use super::Looks;
use crate::live::app::{App, Mode};
use crate::live::input_line::InputLine;
use crate::live::rows::plain;
use crate::show::visible::drawn_within;

/// The last lines, and where the cursor is in them.
pub(super) fn bottom_lines(app: &App<'_>, area: Rect, looks: &Looks) -> (Vec<Line<'static>>, Option<(u16, u16)>) {
    let width = usize::from(area.width);
    let fit = |text: &str| drawn_within(text.as_bytes(), width);
    match &app.mode {
        Mode::Rule(line) => {
            let (prompt, column) = prompt("rule: ", line, width, looks);
            let mut lines = vec![prompt];
            let (message, help) = match &app.typed_trouble {
                Some((message, help)) => (message.clone(), help.clone()),
                None => (app.failed.clone().unwrap_or_default(), None),
            };
            let said = match help {
                Some(help) if area.height >= 16 => vec![message, help],
                _ => vec![message],
            };
            if said.iter().all(String::is_empty) {
                lines.push(Line::styled(fit("Enter adds it · Esc drops it · Up recalls earlier rules"), looks.quiet));
            } else {
                lines.extend(said.iter().map(|said| Line::raw(fit(said.lines().next().unwrap_or_default()))));
            }
            (lines, Some((column, 0)))
        }
        Mode::SaveAs(line) => {
            let (prompt, column) = prompt("save the rules as: ", line, width, looks);
            (vec![prompt], Some((column, 0)))
        }
        Mode::AskWrite => (vec![Line::styled(fit(&app.question()), looks.strong)], None),
        Mode::Characters { unit } => (vec![Line::raw(fit(&character(app, *unit)))], None),
        Mode::Look | Mode::Help => {
            let said = app.message.as_ref().or(app.failed.as_ref()).or(app.trouble.as_ref());
            let hints = "? keys · a type a rule · n p changes · c only changes · f next file · W write · q quit";
            let line = match said {
                Some(said) => Line::styled(fit(said.lines().next().unwrap_or_default()), looks.strong),
                None => Line::styled(fit(hints), looks.quiet),
            };
            (vec![line], None)
        }
    }
}

fn prompt(words: &str, line: &InputLine, width: usize, looks: &Looks) -> (Line<'static>, u16) {
    let room = width.saturating_sub(words.width() + 1).max(1);
    let before = plain(&line.text[..line.cursor]);
    let total: usize = before.iter().map(|glyph| glyph.glyph.width).sum();
    // The cursor stays in view.
    let mut hidden = total.saturating_sub(room.saturating_sub(1));
    let mut used = 0;
    let mut text = String::new();
    let mut cursor = 0;
    let behind = plain(&line.text[line.cursor..]);
    for (index, glyph) in before.iter().chain(&behind).enumerate() {
        if index == before.len() {
            cursor = used;
        }
        if hidden > 0 {
            hidden = hidden.saturating_sub(glyph.glyph.width);
            continue;
        }
        if used + glyph.glyph.width > room {
            break;
        }
        text += glyph.glyph.text.as_str();
        used += glyph.glyph.width;
    }
    if behind.is_empty() {
        cursor = used;
    }
    let column = u16::try_from(words.width() + cursor).unwrap_or(u16::MAX);
    (Line::from(vec![Span::styled(words.to_owned(), looks.strong), Span::raw(text)]), column)
}

/// What the character under the cursor is.
fn character(app: &App<'_>, unit: usize) -> String {
    let Some(line) = app.line_bytes() else { return "no line of the text before stands here".to_owned() };
    let mut index = 0;
    for chunk in line.utf8_chunks() {
        for character in chunk.valid().chars() {
            if index == unit {
                let bytes: Vec<String> = character.to_string().bytes().map(|byte| format!("{byte:02X}")).collect();
                let classes = classes_of(character).join(", ");
                let code = u32::from(character);
                return format!(
                    "U+{code:04X}  {}  ({classes})  bytes {}  column {}",
                    describe(character),
                    bytes.join(" "),
                    unit + 1
                );
            }
            index += 1;
        }
        for byte in chunk.invalid() {
            if index == unit {
                return format!("byte {byte:02X}, which is not UTF-8  column {}", unit + 1);
            }
            index += 1;
        }
    }
    "the end of the text".to_owned()
}
