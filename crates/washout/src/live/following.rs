//! What the view shows is read again once it is saved.

use std::sync::Arc;

use washout_core::Program;
use washout_files::{Chosen, Stamp};

use super::app::App;
use super::draw;
use super::subject::{NameSample, Subject};
use crate::exit::Trouble;
use crate::read_files::ReadFiles;

impl App<'_> {
    /// Reads again what has been saved. Whether anything was.
    pub(super) fn look_at_files(&mut self) -> bool {
        let rules = !self.rule_files.are_current();
        let subject = self.path().and_then(Stamp::of_path) != self.subject_stamp;
        if !rules && !subject {
            return false;
        }
        if rules {
            self.read_rules();
        }
        if subject {
            self.read_subject();
        }
        self.order();
        true
    }

    /// Reads the rules for the file that is shown. Those that were read last stay where there is an error.
    pub(super) fn try_read_rules(&mut self) -> Result<(), Trouble> {
        self.rule_files = ReadFiles::now(self.source.named_files().into_iter().chain(self.read.files.iter().cloned()));
        self.read = self.source.read(self.path())?;
        self.rule_files.add(self.read.files.iter().cloned());
        self.rule_trouble = None;
        // They have been saved once.
        self.source.args.save_rules = None;
        Ok(())
    }

    /// The same; an error is shown in place of the rules.
    pub(super) fn read_rules(&mut self) {
        if let Err(error) = self.try_read_rules() {
            self.rule_trouble = Some(draw::without_styles(&error));
        }
    }

    pub(super) fn read_subject(&mut self) {
        self.subject_stamp = self.path().and_then(Stamp::of_path);
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
        self.read_subject();
        self.order();
    }
}

fn copied(chosen: &Chosen) -> Chosen {
    Chosen { files: chosen.files.clone(), folders: chosen.folders.clone(), ..Chosen::default() }
}
