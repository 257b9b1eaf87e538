//! A line that is typed: its text, the cursor in it, and lines typed before.

use crossterm::event::{KeyCode, KeyEvent, KeyModifiers};
use unicode_segmentation::UnicodeSegmentation;

/// A line that is being typed.
#[derive(Debug, Default)]
pub(super) struct InputLine {
    pub(super) text: String,
    /// In bytes of the text.
    pub(super) cursor: usize,
    /// Lines typed before, the oldest first.
    earlier: Vec<String>,
    /// Which of them is shown.
    shown: Option<usize>,
    /// What was typed before one was recalled.
    typed: String,
}

impl InputLine {
    pub(super) fn with_earlier(earlier: Vec<String>) -> Self {
        Self { earlier, ..Self::default() }
    }

    pub(super) fn with_text(text: &str) -> Self {
        Self { text: text.to_owned(), cursor: text.len(), ..Self::default() }
    }

    /// Takes a key that edits the line. Whether it was one.
    pub(super) fn key(&mut self, key: KeyEvent) -> bool {
        let control = key.modifiers.contains(KeyModifiers::CONTROL);
        match key.code {
            KeyCode::Char('a') if control => self.cursor = 0,
            KeyCode::Char('e') if control => self.cursor = self.text.len(),
            KeyCode::Char('u') if control => {
                self.text.drain(..self.cursor);
                self.cursor = 0;
            }
            KeyCode::Char('w') if control => {
                let kept = self.text[..self.cursor].trim_end();
                let kept = kept.rfind(|character: char| character.is_whitespace()).map_or(0, |at| at + 1);
                self.text.drain(kept..self.cursor);
                self.cursor = kept;
            }
            KeyCode::Char(_) if control || key.modifiers.contains(KeyModifiers::ALT) => return false,
            KeyCode::Char(character) => self.insert(character.encode_utf8(&mut [0; 4])),
            KeyCode::Backspace => {
                let before = self.before();
                self.text.drain(before..self.cursor);
                self.cursor = before;
            }
            KeyCode::Delete => drop(self.text.drain(self.cursor..self.after())),
            KeyCode::Left => self.cursor = self.before(),
            KeyCode::Right => self.cursor = self.after(),
            KeyCode::Home => self.cursor = 0,
            KeyCode::End => self.cursor = self.text.len(),
            KeyCode::Up => self.recall(true),
            KeyCode::Down => self.recall(false),
            _ => return false,
        }
        true
    }

    /// Puts a text at the cursor. A line end in it is a blank here.
    pub(super) fn insert(&mut self, text: &str) {
        let line = text.replace(['\r', '\n'], " ");
        self.text.insert_str(self.cursor, &line);
        self.cursor += line.len();
        self.shown = None;
    }

    fn before(&self) -> usize {
        self.text[..self.cursor].grapheme_indices(true).next_back().map_or(0, |(at, _)| at)
    }

    fn after(&self) -> usize {
        self.cursor + self.text[self.cursor..].graphemes(true).next().map_or(0, str::len)
    }

    fn recall(&mut self, older: bool) {
        if self.shown.is_none() {
            self.typed.clone_from(&self.text);
        }
        let next = match (self.shown, older) {
            (None, true) => self.earlier.len().checked_sub(1),
            (Some(shown), true) => Some(shown.saturating_sub(1)),
            (Some(shown), false) => Some(shown + 1).filter(|next| *next < self.earlier.len()),
            (None, false) => None,
        };
        if next == self.shown {
            return;
        }
        self.text = next.and_then(|next| self.earlier.get(next)).unwrap_or(&self.typed).clone();
        self.cursor = self.text.len();
        self.shown = next;
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn keys_edit_by_what_is_seen_as_one_character_and_recall_earlier_lines() {
        let mut line = InputLine::with_earlier(vec!["trim = {}".to_owned(), "tabs = 8".to_owned()]);
        let mut press = |codes: &[KeyCode]| {
            codes.iter().for_each(|code| assert!(line.key((*code).into())));
            (line.text.clone(), line.cursor)
        };
        let typed = "ae\u{301}b".chars().map(KeyCode::Char).collect::<Vec<_>>();
        assert_eq!(press(&typed), ("ae\u{301}b".to_owned(), 5));
        assert_eq!(press(&[KeyCode::Left, KeyCode::Backspace]), ("ab".to_owned(), 1));
        assert_eq!(press(&[KeyCode::Up]).0, "tabs = 8");
        assert_eq!(press(&[KeyCode::Up, KeyCode::Up]).0, "trim = {}");
        assert_eq!(press(&[KeyCode::Down, KeyCode::Down]), ("ab".to_owned(), 2), "what was typed comes back");
        line.insert("x\ny");
        line.key(KeyEvent::new(KeyCode::Char('w'), KeyModifiers::CONTROL));
        assert_eq!(line.text, "abx ");
    }
}
