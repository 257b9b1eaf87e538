//! What the view shows, and its loop: it waits for keys, for saved files and for what the worker has to say.

use std::path::{Path, PathBuf};
use std::sync::Arc;
use std::time::Duration;

use clap::ArgMatches;
use crossterm::event;
use washout_core::RuleSet;
use washout_core::rules::TableSettings;
use washout_files::{Chosen, ChosenFile, Stamp, Take};

use super::draw;
use super::input_line::InputLine;
use super::rule_source::{self, ReadRules, RuleSource};
use super::subject::{NameSample, Subject, Window, at_line};
use super::terminal::Screen;
use super::work::{Order, Outcome, Said, Sizes, Worker};
use crate::args::LiveArgs;
use crate::exit::{Exit, Trouble};
use crate::files::chosen;
use crate::read_files::ReadFiles;
use crate::rules::name_settings;

/// How long is waited for a key before files are looked at, and while work is under way.
const IDLE: Duration = Duration::from_millis(40);
const BUSY: Duration = Duration::from_millis(4);

/// How long is waited for more keys once there was one. (The library does not look at all without any time.)
const AT_ONCE: Duration = Duration::from_micros(500);

/// What keys mean now.
pub(super) enum Mode {
    Look,
    /// A rule is typed.
    Rule(InputLine),
    /// A file name is typed, for the rules of the view.
    SaveAs(InputLine),
    /// Whether to write is asked.
    AskWrite,
    Help,
    /// A cursor is moved over the characters of a line.
    Characters {
        unit: usize,
    },
}

/// Everything that is on the screen.
#[expect(clippy::struct_excessive_bools, reason = "each is a key of its own")]
pub(super) struct App<'a> {
    pub(super) source: RuleSource<'a>,
    pub(super) settings: TableSettings,
    pub(super) window: Window,
    pub(super) files: Vec<ChosenFile>,
    /// Which of them is shown.
    pub(super) file: usize,
    pub(super) is_names: bool,
    pub(super) subject: Option<Arc<Subject>>,
    /// Why there is nothing to show.
    pub(super) trouble: Option<String>,
    pub(super) read: ReadRules,
    /// What is wrong with the rules as they are saved, drawn in lines.
    pub(super) rule_trouble: Option<String>,
    /// What is wrong with the rule that is typed.
    pub(super) typed_trouble: Option<(String, Option<String>)>,
    pub(super) typed: Option<RuleSet>,
    pub(super) off: Vec<String>,
    /// No rule after the selected one runs.
    pub(super) up_to: Option<usize>,
    pub(super) selected: usize,
    pub(super) worker: Worker,
    pub(super) ordered: u64,
    pub(super) shown: u64,
    pub(super) outcome: Option<Box<Outcome>>,
    /// Why the last order came to nothing.
    pub(super) failed: Option<String>,
    pub(super) sizes: Option<Sizes>,
    pub(super) mode: Mode,
    pub(super) message: Option<String>,
    /// The first row that is seen, among those that are shown, and the first column.
    pub(super) top: usize,
    pub(super) left: usize,
    pub(super) only_changes: bool,
    pub(super) wraps: bool,
    /// One text above the other; `None`: as the width suggests.
    pub(super) is_stacked: Option<bool>,
    pub(super) marks: bool,
    /// Rows of text that a pane has, as it was drawn last.
    pub(super) page: usize,
    pub(super) rule_files: ReadFiles,
    pub(super) subject_stamp: Option<Stamp>,
    pub(super) last_run: Option<i64>,
    pub(super) place_line: Option<u64>,
    pub(super) is_over: bool,
    pub(super) names: Option<NameSample>,
}

/// Runs the command.
pub(crate) fn run(args: &LiveArgs, given: &ArgMatches) -> Result<Exit, Trouble> {
    let mut app = App::new(args, given)?;
    let mut screen = Screen::open()?;
    app.run(&mut screen)?;
    drop(screen);
    Ok(Exit::Done)
}

impl<'a> App<'a> {
    fn new(args: &'a LiveArgs, given: &'a ArgMatches) -> Result<Self, Trouble> {
        let (mut paths, mut line) = (Vec::new(), None);
        for path in &args.paths {
            let (file, at) = at_line(path);
            line = line.or(at);
            paths.push(file);
        }
        if paths.is_empty() && args.choice.files_from.is_none() {
            paths.push(PathBuf::from("."));
        }
        let take = if args.names { Take::Names } else { Take::Contents };
        let mut chosen: Chosen = chosen(take, &paths, &args.choice, None, "show")?;
        let names = args.names.then(|| {
            let chosen = std::mem::take(&mut chosen);
            NameSample { chosen, settings: name_settings(args.part, &[]) }
        });
        let project = (!args.names).then_some(&args.project);
        let source = RuleSource { args: args.rules.clone(), project, given, added: Vec::new() };
        let mut app = Self {
            source,
            settings: args.table.settings(),
            window: Window { line, first: args.first },
            files: chosen.files,
            file: 0,
            is_names: args.names,
            subject: None,
            trouble: None,
            read: ReadRules::default(),
            rule_trouble: None,
            typed_trouble: None,
            typed: None,
            off: Vec::new(),
            up_to: None,
            selected: 0,
            worker: Worker::start(),
            ordered: 0,
            shown: 0,
            outcome: None,
            failed: None,
            sizes: None,
            mode: Mode::Look,
            message: None,
            top: 0,
            left: 0,
            only_changes: false,
            wraps: false,
            is_stacked: None,
            marks: !draw::has_colour(),
            page: 1,
            rule_files: ReadFiles::default(),
            subject_stamp: None,
            last_run: None,
            place_line: line,
            is_over: false,
            names: None,
        };
        app.names = names;
        // A rule set that is not there is a slip of the command line; one with a mistake is what the view is for.
        match app.try_read_rules() {
            Ok(()) => {}
            Err(Trouble::Rules(errors)) => app.rule_trouble = Some(draw::without_styles(&Trouble::Rules(errors))),
            Err(error) => return Err(error),
        }
        app.read_subject();
        app.order();
        Ok(app)
    }

    fn run(&mut self, screen: &mut Screen) -> Result<(), Trouble> {
        let mut is_new = true;
        while !self.is_over && !screen.signals.end() {
            if screen.signals.stop() {
                screen.suspend()?;
                is_new = true;
            }
            if screen.signals.go_on() {
                screen.take_again()?;
                is_new = true;
            }
            is_new |= self.hear();
            if is_new {
                screen.terminal.draw(|frame| draw::draw(self, frame))?;
                is_new = false;
            }
            let wait = if self.shown < self.ordered { BUSY } else { IDLE };
            if event::poll(wait)? {
                // All keys that have come, before anything is drawn.
                self.event(event::read()?, screen)?;
                while event::poll(AT_ONCE)? {
                    self.event(event::read()?, screen)?;
                }
                is_new = true;
            } else if self.shown == self.ordered {
                is_new = self.look_at_files();
            }
        }
        Ok(())
    }

    pub(super) fn ordered_number(&self) -> u64 {
        self.ordered
    }

    /// The file that is shown.
    pub(super) fn path(&self) -> Option<&Path> {
        self.files.get(self.file).map(|file| file.path.as_path())
    }

    /// Has the sample sent through the rules as they are now.
    pub(super) fn order(&mut self) {
        let Some(subject) = &self.subject else { return };
        let mut sets = self.read.sets.clone();
        if let Some(typed) = &self.typed {
            rule_source::add(&mut sets, typed.clone());
        }
        let mut off = self.off.clone();
        if let (Some(up_to), Some(outcome)) = (self.up_to, &self.outcome) {
            off.extend(outcome.rules.iter().skip(up_to + 1).map(|name| name.number.clone()));
        }
        let memory = self.source.args.max_memory.map(|size| size.as_u64());
        let subject = Arc::clone(subject);
        self.ordered =
            self.worker.order(Order { sets: Arc::new(sets), off, settings: self.settings.clone(), memory, subject });
    }

    /// Takes what the worker has said. Whether it was anything.
    fn hear(&mut self) -> bool {
        let said: Vec<Said> = self.worker.heard().collect();
        for said in &said {
            if let Said::Done(number, _) | Said::Failed(number, _) = said
                && *number == self.ordered
            {
                self.shown = *number;
            }
        }
        let any = !said.is_empty();
        for said in said {
            match said {
                Said::Done(number, outcome) if number == self.ordered => {
                    self.failed = None;
                    self.sizes = None;
                    self.selected = self.selected.min(outcome.rules.len().saturating_sub(1));
                    self.outcome = Some(outcome);
                    if let Some(line) = self.place_line.take() {
                        self.go_to_line(line);
                    }
                    self.top = self.top.min(self.row_count().saturating_sub(1));
                }
                Said::Failed(number, why) if number == self.ordered => self.failed = Some(why),
                Said::Sizes(number, sizes) if number == self.shown => self.sizes = Some(sizes),
                Said::Done(..) | Said::Failed(..) | Said::Sizes(..) => {}
            }
        }
        any
    }
}
