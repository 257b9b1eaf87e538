//! What the view saves when it is asked to: its rules in a file, cleaned files, new names.

use std::path::{Path, PathBuf};

use crossterm::event::{KeyCode, KeyEvent};
use washout_core::read::rule_lines;
use washout_core::{Program, RuleName};
use washout_files::Take;

use super::app::{App, Mode};
use super::draw;
use super::input_line::InputLine;
use super::terminal::Screen;
use super::write;
use crate::exit::Trouble;
use crate::files::chosen;
use crate::kept_rules::{KeptRules, KeptSet, RulePart};
use crate::outputs::{self, Inputs, write_whole};
use crate::rule_text::one_set;
use crate::rules::read_part;
use crate::show::number::counted;
use crate::show::visible::{shown, shown_path};

impl App<'_> {
    pub(super) fn key_in_save_as(&mut self, key: KeyEvent, mut line: InputLine) {
        match key.code {
            KeyCode::Esc => {}
            KeyCode::Enter if !line.text.trim().is_empty() => {
                self.message = Some(match self.save_rules(Path::new(line.text.trim())) {
                    Ok(path) => format!("the rules are in {}", shown_path(&path)),
                    Err(error) => draw::without_styles(&error).replace('\n', "; "),
                });
            }
            _ => {
                line.key(key);
                self.mode = Mode::SaveAs(line);
            }
        }
    }

    /// The rules of the view as texts; those that are off say so.
    pub(super) fn parts(&self) -> Result<Vec<RulePart>, Trouble> {
        let mut parts = self.source.parts(&self.read)?;
        let names = |part: &RulePart| read_part(part).map(|set| Program::compile([&set]).names().to_vec());
        let names: Vec<_> = parts.iter().map(names).collect::<Result<_, _>>().map_err(Trouble::Rules)?;
        let program = Program::compile(&self.read.sets);
        let known = program.names();
        if known.len() != names.iter().map(Vec::len).sum::<usize>() {
            return Err(Trouble::Usage(
                "the rules were saved this moment, and are not those that are seen; once more".to_owned(),
            ));
        }
        let is_off = |(index, name): (usize, &RuleName)| {
            self.up_to.is_some_and(|up_to| index > up_to) || self.off.contains(&name.number)
        };
        let mut are_off = known.iter().enumerate().map(is_off);
        for (part, names) in parts.iter_mut().zip(names) {
            let count = names.len();
            let off: Vec<String> = names
                .into_iter()
                .zip(&mut are_off)
                .filter(|(_, is_off)| *is_off)
                .map(|(name, _)| name.number)
                .collect();
            match part {
                RulePart::Set(set) => set.off = off,
                RulePart::Rule(_) if off.is_empty() => {}
                RulePart::Rule(rule) if off.len() == count => *rule = format!("off = true\n{}", rule_lines(rule)),
                // It includes a set, of which some rules are off.
                RulePart::Rule(rule) => {
                    let text = format!("[[rule]]\n{}", rule_lines(rule));
                    *part = RulePart::Set(KeptSet { name: "typed.wash.toml".to_owned(), text, off });
                }
            }
        }
        Ok(parts)
    }

    /// Writes the rules of the view as a set; gives where it is.
    pub(super) fn save_rules(&self, path: &Path) -> Result<PathBuf, Trouble> {
        let parts = self.parts()?;
        let text = one_set(&parts).map_err(|why| Trouble::Usage(shown(&why)))?;
        let choice = crate::args::ChoiceArgs::default();
        let files = outputs::start(
            &[path],
            &Inputs::of(&self.files, &choice).with_rules(&self.source.args, &self.read.sets),
            false,
        )?;
        files.into_iter().map(|file| write_whole(file, &text)).next().unwrap_or_else(|| Ok(path.to_owned()))
    }

    pub(super) fn edit(&mut self, screen: &mut Screen) -> Result<(), Trouble> {
        let Some(file) = self.file_to_append().or_else(|| self.source.named_files().pop()) else {
            self.message = Some("these rules are in no file yet; s saves them in one".to_owned());
            return Ok(());
        };
        let editor =
            ["VISUAL", "EDITOR"].iter().find_map(|name| std::env::var(name).ok().filter(|editor| !editor.is_empty()));
        let editor = editor.unwrap_or_else(|| "vi".to_owned());
        // As git and others have it: the variable is a command of the shell.
        let ended = screen.aside(|| {
            std::process::Command::new("sh").args(["-c", &format!("{editor} \"$1\""), "sh"]).arg(&file).status()
        })?;
        if !ended.is_ok_and(|status| status.success()) {
            self.message = Some(format!("the editor ({}) did not end well; EDITOR names another", shown(&editor)));
        }
        self.read_rules();
        self.order();
        Ok(())
    }

    pub(super) fn ask_write(&mut self) {
        if self.rule_trouble.is_some() || self.failed.is_some() || self.outcome.is_none() {
            self.message = Some("nothing can be written before the rules are right".to_owned());
            return;
        }
        if self.shown != self.ordered {
            self.message = Some("the rules are still at work; W once more".to_owned());
            return;
        }
        self.mode = Mode::AskWrite;
    }

    /// The question before anything is written.
    pub(super) fn question(&self) -> String {
        if self.is_names {
            return "rename the files as shown? y: yes, any other key: no".to_owned();
        }
        let off = self.outcome.as_ref().map_or(0, |outcome| {
            let is_off = |number: &String| self.off.contains(number);
            outcome.rules.iter().filter(|name| is_off(&name.number)).count()
        });
        let off = if off > 0 { format!(" ({} off)", counted(off as u64, "rule")) } else { String::new() };
        let all = if self.files.len() > 1 && self.source_is_given() {
            format!(", a: all {}", counted(self.files.len() as u64, "file"))
        } else {
            String::new()
        };
        format!("clean this file in place{off}? y: yes{all}, any other key: no")
    }

    /// Whether all files have the same rules.
    pub(super) fn source_is_given(&self) -> bool {
        !self.source.args.is_empty() || self.read.sets.is_empty() || !self.source.added.is_empty()
    }

    pub(super) fn answer_write(&mut self, key: KeyEvent) {
        let Some(outcome) = &self.outcome else { return };
        let files = match key.code {
            KeyCode::Char('y') => self.files.get(self.file..=self.file).unwrap_or_default(),
            KeyCode::Char('a') if self.files.len() > 1 && self.source_is_given() => &self.files[..],
            _ => {
                self.message = Some("nothing was written".to_owned());
                return;
            }
        };
        let kept = self.parts().map_or(KeptRules::NONE, KeptRules::Given);
        let written = match &self.names {
            Some(names) => write::names(&outcome.program, (&outcome.sets, &kept), names),
            None => write::files(&outcome.program, (&outcome.sets, &kept), files),
        };
        self.report(written, "U undoes it");
    }

    pub(super) fn undo(&mut self) {
        let Some(run) = self.last_run.take() else {
            self.message = Some("nothing was written in this view".to_owned());
            return;
        };
        let undone = write::undo(run);
        self.report(undone, "U undoes that again");
    }

    pub(super) fn report(&mut self, written: Result<write::Written, Trouble>, way_back: &str) {
        match written {
            Ok((what, run)) => {
                self.last_run = run;
                let run = run.map_or_else(String::new, |run| format!(" (run {run}; {way_back})"));
                self.message = Some(format!("{what}{run}"));
            }
            Err(error) => self.message = Some(draw::without_styles(&error).replace('\n', "; ")),
        }
        if let Some(names) = &mut self.names {
            // They are called otherwise now.
            let paths = names.chosen.files.iter().filter_map(|file| file.path.parent().map(Path::to_owned));
            let mut folders: Vec<PathBuf> = paths.collect();
            folders.sort();
            folders.dedup();
            folders
                .iter_mut()
                .filter(|folder| folder.as_os_str().is_empty())
                .for_each(|folder| *folder = PathBuf::from("."));
            let choice = crate::args::ChoiceArgs::default();
            if let Ok(chosen) = chosen(Take::Names, &folders, &choice, None, "show") {
                names.chosen = chosen;
            }
        }
        self.read_subject();
        self.order();
    }
}
