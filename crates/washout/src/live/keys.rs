//! What keys and the mouse do.

use crossterm::event::{Event, KeyCode, KeyEvent, KeyEventKind, KeyModifiers, MouseEventKind};

use super::app::{App, Mode};
use super::draw;
use super::earlier_rules::earlier_rules;
use super::input_line::InputLine;
use super::subject::Subject;
use super::terminal::Screen;
use crate::exit::Trouble;

impl App<'_> {
    pub(super) fn event(&mut self, event: Event, screen: &mut Screen) -> Result<(), Trouble> {
        match event {
            Event::Key(key) if key.kind != KeyEventKind::Release => self.key(key, screen)?,
            Event::Mouse(mouse) => match mouse.kind {
                MouseEventKind::ScrollDown => self.scroll(3),
                MouseEventKind::ScrollUp => self.scroll(-3),
                _ => {}
            },
            Event::Paste(text) => {
                if let Mode::Rule(line) | Mode::SaveAs(line) = &mut self.mode {
                    line.insert(&text);
                    self.typed();
                }
            }
            Event::Key(_) | Event::Resize(..) | Event::FocusGained | Event::FocusLost => {}
        }
        Ok(())
    }

    pub(super) fn key(&mut self, key: KeyEvent, screen: &mut Screen) -> Result<(), Trouble> {
        let control = key.modifiers.contains(KeyModifiers::CONTROL);
        match key.code {
            KeyCode::Char('c') if control => {
                self.is_over = true;
                return Ok(());
            }
            KeyCode::Char('z') if control => return Ok(screen.suspend()?),
            KeyCode::Char('l') if control => return Ok(screen.take_again()?),
            _ => {}
        }
        self.message = None;
        match std::mem::replace(&mut self.mode, Mode::Look) {
            Mode::Look => return self.key_in_view(key, screen),
            Mode::Rule(line) => self.key_in_rule(key, line),
            Mode::SaveAs(line) => self.key_in_save_as(key, line),
            Mode::AskWrite => self.answer_write(key),
            Mode::Help => {}
            Mode::Characters { unit } => self.key_in_characters(key, unit),
        }
        Ok(())
    }

    pub(super) fn key_in_view(&mut self, key: KeyEvent, screen: &mut Screen) -> Result<(), Trouble> {
        let page = isize::try_from(self.page.saturating_sub(1).max(1)).unwrap_or(1);
        match key.code {
            KeyCode::Char('q') => self.is_over = true,
            KeyCode::Char('?') => self.mode = Mode::Help,
            KeyCode::Down => self.scroll(1),
            KeyCode::Up => self.scroll(-1),
            KeyCode::PageDown => self.scroll(page),
            KeyCode::PageUp => self.scroll(-page),
            KeyCode::Home => self.top = 0,
            KeyCode::End => self.top = self.row_count().saturating_sub(self.page),
            KeyCode::Right if !self.wraps => self.left += 8,
            KeyCode::Left => self.left = self.left.saturating_sub(8),
            KeyCode::Char('n') => self.go_to_change(true),
            KeyCode::Char('p') => self.go_to_change(false),
            KeyCode::Char('c') => self.show_only_changes(),
            KeyCode::Char('w') => {
                self.wraps = !self.wraps;
                self.left = 0;
            }
            KeyCode::Char('b') => self.is_stacked = Some(!self.is_stacked.unwrap_or(false)),
            KeyCode::Char('m') => self.marks = !self.marks,
            KeyCode::Tab => self.select(1),
            KeyCode::BackTab => self.select(-1),
            KeyCode::Char(' ') => self.turn_rule(),
            KeyCode::Char('u') => {
                self.up_to = if self.up_to.is_some() { None } else { Some(self.selected) };
                self.order();
            }
            KeyCode::Char('f') => self.show_file(1),
            KeyCode::Char('F') => self.show_file(-1),
            KeyCode::Char('l') => self.look_at_characters(),
            KeyCode::Char('a') | KeyCode::Enter => self.mode = Mode::Rule(InputLine::with_earlier(earlier_rules())),
            KeyCode::Char('s') => self.mode = Mode::SaveAs(InputLine::with_text("rules.wash.toml")),
            KeyCode::Char('e') => self.edit(screen)?,
            KeyCode::Char('W') => self.ask_write(),
            KeyCode::Char('U') => self.undo(),
            _ => {}
        }
        Ok(())
    }

    pub(super) fn select(&mut self, step: isize) {
        let rules = self.outcome.as_ref().map_or(0, |outcome| outcome.rules.len());
        self.selected = self.selected.saturating_add_signed(step).min(rules.saturating_sub(1));
        if self.up_to.is_some() {
            self.up_to = Some(self.selected);
            self.order();
        }
    }

    pub(super) fn turn_rule(&mut self) {
        let Some(name) = self.outcome.as_ref().and_then(|outcome| outcome.rules.get(self.selected)) else { return };
        let number = name.number.clone();
        if self.off.contains(&number) {
            self.off.retain(|off| *off != number);
        } else {
            self.off.push(number);
        }
        self.order();
    }

    pub(super) fn look_at_characters(&mut self) {
        if matches!(self.subject.as_deref(), Some(Subject::Text(_))) {
            self.mode = Mode::Characters { unit: 0 };
        } else {
            self.message =
                Some("characters can be looked at in texts; for cells and names: washout spellout".to_owned());
        }
    }

    pub(super) fn key_in_characters(&mut self, key: KeyEvent, unit: usize) {
        let units = self.line_bytes().map_or(0, draw::units);
        let mut unit = unit;
        match key.code {
            KeyCode::Esc | KeyCode::Char('l' | 'q') => return,
            KeyCode::Right => unit = (unit + 1).min(units.saturating_sub(1)),
            KeyCode::Left => unit = unit.saturating_sub(1),
            KeyCode::Home => unit = 0,
            KeyCode::End => unit = units.saturating_sub(1),
            KeyCode::Down => self.scroll(1),
            KeyCode::Up => self.scroll(-1),
            _ => {}
        }
        let units = self.line_bytes().map_or(0, draw::units);
        self.mode = Mode::Characters { unit: unit.min(units.saturating_sub(1)) };
    }
}
