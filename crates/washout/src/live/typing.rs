//! The line in which a rule is typed: it acts while it is typed, and Enter adds it.

use std::path::PathBuf;

use crossterm::event::{KeyCode, KeyEvent};

use super::app::{App, Mode};
use super::earlier_rules::remember_rule;
use super::input_line::InputLine;
use super::rule_source;
use crate::past::OF_RUN;
use crate::show::visible::{shown, shown_path};

impl App<'_> {
    pub(super) fn key_in_rule(&mut self, key: KeyEvent, mut line: InputLine) {
        match key.code {
            KeyCode::Esc => {
                self.drop_typed();
                self.order();
            }
            KeyCode::Enter => self.take_typed(line),
            _ => {
                let before = line.text.clone();
                line.key(key);
                let is_new = line.text != before;
                self.mode = Mode::Rule(line);
                if is_new {
                    self.typed();
                }
            }
        }
    }

    pub(super) fn drop_typed(&mut self) {
        self.typed = None;
        self.typed_trouble = None;
    }

    /// Something of the rule line has changed.
    pub(super) fn typed(&mut self) {
        let Mode::Rule(line) = &self.mode else { return };
        if line.text.trim().is_empty() {
            self.drop_typed();
            self.order();
            return;
        }
        match rule_source::one_rule(&line.text) {
            Ok(set) => {
                self.typed = Some(set);
                self.typed_trouble = None;
                self.order();
            }
            Err(error) => {
                let problem = error.problems().first();
                self.typed_trouble =
                    problem.map(|problem| (shown(&problem.message), problem.help.as_ref().map(|help| shown(help))));
            }
        }
    }

    /// The file a rule is appended to; `None`: what is shown are rules of a past run, or none in a file.
    pub(super) fn file_to_append(&self) -> Option<PathBuf> {
        let is_past = self.source.args.rules.iter().any(|set| set.to_string_lossy().starts_with(OF_RUN));
        rule_source::file_to_append(&self.read).filter(|_| !is_past)
    }

    pub(super) fn take_typed(&mut self, line: InputLine) {
        if line.text.trim().is_empty() {
            self.drop_typed();
            return;
        }
        if rule_source::one_rule(&line.text).is_err() {
            self.mode = Mode::Rule(line);
            return;
        }
        remember_rule(&line.text);
        if let Some(file) = self.file_to_append() {
            match rule_source::append(&file, &line.text) {
                Ok(()) => self.message = Some(format!("added to {}", shown_path(&file))),
                Err(error) => {
                    self.message = Some(format!("{} cannot be written: {error}", shown_path(&file)));
                    self.mode = Mode::Rule(line);
                    return;
                }
            }
        } else {
            self.source.added.push(line.text);
            self.message = Some("added to the rules of this view; s saves them in a file".to_owned());
        }
        self.drop_typed();
        self.read_rules();
        self.order();
    }
}
