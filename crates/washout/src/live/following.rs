//! What the view shows is read again once it is saved.

use std::sync::Arc;

use washout_core::Program;
use washout_files::{Chosen, Stamp};

use super::app::App;
use super::draw;
use super::subject::{NameSample, Subject};

impl App<'_> {
    pub(super) fn remember_stamps(&mut self) {
        let mut files = self.read.files.clone();
        files.extend(self.source.named_files());
        files.sort();
        files.dedup();
        // The files of rules that are wrong now are those that were read last.
        if self.rule_trouble.is_some() {
            files.extend(self.stamps.iter().map(|(file, _)| file.clone()));
            files.sort();
            files.dedup();
        }
        self.stamps = files.into_iter().map(|file| (file.clone(), Stamp::of_path(&file))).collect();
        self.subject_stamp = self.path().and_then(Stamp::of_path);
    }

    /// Reads again what has been saved. Whether anything was.
    pub(super) fn look_at_files(&mut self) -> bool {
        let rules = self.stamps.iter().any(|(file, stamp)| Stamp::of_path(file) != *stamp);
        let subject = self.path().and_then(Stamp::of_path) != self.subject_stamp;
        if !rules && !subject {
            return false;
        }
        if rules {
            self.read_rules();
        }
        self.remember_stamps();
        if subject {
            self.read_subject();
        }
        self.order();
        true
    }

    pub(super) fn read_rules(&mut self) {
        match self.source.read(self.path()) {
            Ok(read) => {
                self.read = read;
                self.rule_trouble = None;
            }
            Err(error) => self.rule_trouble = Some(draw::without_styles(&error)),
        }
    }

    pub(super) fn read_subject(&mut self) {
        if let Some(names) = &self.names {
            let sample = NameSample { chosen: copied(&names.chosen), settings: names.settings.clone() };
            self.subject = Some(Arc::new(Subject::Names(sample)));
            return;
        }
        let Some(file) = self.files.get(self.file) else {
            self.trouble = Some("there is no file to show".to_owned());
            return;
        };
        let program = Program::compile(&self.read.sets).with_table(self.settings.clone());
        match Subject::read(file, &program, self.window) {
            Ok(subject) => {
                self.subject = Some(subject);
                self.trouble = None;
            }
            // What was there stays to be seen.
            Err(why) => self.trouble = Some(why),
        }
    }

    pub(super) fn show_file(&mut self, step: isize) {
        let files = self.files.len();
        if files < 2 {
            self.message = Some("there is only one file".to_owned());
            return;
        }
        self.file = (self.file + files).saturating_add_signed(step) % files;
        (self.top, self.left, self.window.line) = (0, 0, None);
        // Other files may have other rules.
        self.read_rules();
        self.remember_stamps();
        self.read_subject();
        self.order();
    }
}

fn copied(chosen: &Chosen) -> Chosen {
    Chosen { files: chosen.files.clone(), folders: chosen.folders.clone(), ..Chosen::default() }
}
