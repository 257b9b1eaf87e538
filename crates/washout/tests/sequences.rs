//! Runs, undone runs and edits by hand in any order: after each, every file is what a plain model says.

mod support;

use std::collections::BTreeMap;
use std::fs;

use proptest::prelude::*;
use proptest::sample::select;
use serde_json::Value;
use support::TestDir;

/// The files: what each is called, and what is in it.
type Files = BTreeMap<String, String>;

/// Something that is done to the files.
#[derive(Clone, Debug)]
enum Deed {
    /// `clean --write`: this letter goes from all texts.
    Clean(char),
    /// `names --write`: this letter becomes `_` in all names.
    Rename(char),
    /// The same with one file only, by its place among all files.
    CleanOne(char, usize),
    /// `undo` of a run, by its place among all runs so far.
    Undo(usize),
    /// `undo --only` of a run, with a name that a file has or had.
    UndoOnly(usize, &'static str),
    /// Previews of all of this, which change nothing.
    Look(char, usize),
    /// Someone writes another text.
    Write(usize, String),
    /// Someone gives a file another name, in place of the file that has it.
    Move(usize, &'static str),
    /// Someone removes a file.
    Remove(usize),
}

/// What a run did: to the text of a file, or to its name.
#[derive(Clone, Debug)]
enum Change {
    Text { name: String, before: String, after: String },
    Name { before: String, after: String, file: usize },
}

/// A file: its text, and a number by which the system tells it from others.
#[derive(Clone)]
struct ModelFile {
    text: String,
    number: usize,
}

/// What is there by now.
#[derive(Default)]
struct Model {
    files: BTreeMap<String, ModelFile>,
    /// What each run did.
    runs: Vec<Vec<Change>>,
    /// The text that the newest run left at each path.
    left: Files,
    numbers: usize,
}

/// Names that files have at first, or get.
const NAMES: [&str; 7] = ["aa.txt", "ab.txt", "c b.txt", "x.txt", "__.txt", "_b.txt", "a_.txt"];

fn deed() -> impl Strategy<Value = Deed> {
    let letter = || select(&['a', 'b', 'c'][..]);
    prop_oneof![
        4 => letter().prop_map(Deed::Clean),
        2 => letter().prop_map(Deed::Rename),
        2 => (letter(), 0..4_usize).prop_map(|(letter, file)| Deed::CleanOne(letter, file)),
        4 => (0..6_usize).prop_map(Deed::Undo),
        2 => (0..6_usize, select(&NAMES[..])).prop_map(|(run, name)| Deed::UndoOnly(run, name)),
        1 => (letter(), 0..6_usize).prop_map(|(letter, run)| Deed::Look(letter, run)),
        1 => (0..4_usize, select(&NAMES[..])).prop_map(|(file, name)| Deed::Move(file, name)),
        1 => (0..4_usize, "[abc\n]{0,6}").prop_map(|(file, text)| Deed::Write(file, text)),
        1 => (0..4_usize).prop_map(Deed::Remove),
    ]
}

impl Model {
    fn run(&mut self, changes: Vec<Change>) {
        if !changes.is_empty() {
            self.runs.push(changes);
        }
    }

    /// A run puts a text in place of a file: that is another file to the system.
    fn replace(&mut self, name: &str, text: &str) {
        self.numbers += 1;
        self.files.insert(name.to_owned(), ModelFile { text: text.to_owned(), number: self.numbers });
        self.left.insert(name.to_owned(), text.to_owned());
    }

    /// Gives a file another name.
    fn move_file(&mut self, before: &str, after: &str) -> Change {
        let file = self.files.remove(before).expect("it is there");
        let number = file.number;
        self.files.insert(after.to_owned(), file);
        Change::Name { before: before.to_owned(), after: after.to_owned(), file: number }
    }

    /// All files, or only this one.
    fn clean(&mut self, letter: char, only: Option<&str>) {
        let mut changes = Vec::new();
        let is_named = |name: &str| only.is_none_or(|only| only == name);
        for (name, ModelFile { text, .. }) in self.files.clone().into_iter().filter(|(name, _)| is_named(name)) {
            let after = text.replace(letter, "");
            if after != text {
                self.replace(&name, &after);
                changes.push(Change::Text { name, before: text, after });
            }
        }
        self.run(changes);
    }

    /// A name that another file has, or that two would have, is not given.
    fn rename(&mut self, letter: char) {
        let new = self.files.keys().map(|name| (name.clone(), name.replace(letter, "_")));
        let wanted: Vec<(String, String)> = new.filter(|(name, after)| name != after).collect();
        let is_free = |after: &String| {
            !self.files.contains_key(after) && wanted.iter().filter(|(_, other)| other == after).count() == 1
        };
        let free: Vec<&(String, String)> = wanted.iter().filter(|(_, after)| is_free(after)).collect();
        let changes = free.into_iter().map(|(before, after)| self.move_file(before, after)).collect();
        self.run(changes);
    }

    /// What is as the run left it is put back, be it that the run was undone before and done again.
    /// `only`: what was done to the file that has or had this name.
    fn undo(&mut self, run: usize, only: Option<&str>) {
        let mut done = Vec::new();
        let is_named = |change: &Change| match change {
            Change::Text { name, .. } => only.is_none_or(|only| only == name),
            Change::Name { before, after, .. } => only.is_none_or(|only| only == before || only == after),
        };
        for change in self.runs.get(run).cloned().unwrap_or_default().into_iter().filter(is_named) {
            match change {
                Change::Text { name, before, after } => {
                    if self.files.get(&name).is_some_and(|file| file.text == after) {
                        self.replace(&name, &before);
                        done.push(Change::Text { name, before: after, after: before });
                    }
                }
                Change::Name { before, after, file } => {
                    // The same file, or one that a later run has cleaned.
                    let is_it = |there: &ModelFile| there.number == file || self.left.get(&after) == Some(&there.text);
                    if self.files.get(&after).is_some_and(is_it) && !self.files.contains_key(&before) {
                        done.push(self.move_file(&after, &before));
                    }
                }
            }
        }
        self.run(done);
    }

    fn texts(&self) -> Files {
        self.files.iter().map(|(name, file)| (name.clone(), file.text.clone())).collect()
    }
}

fn files_of(desk: &TestDir) -> Files {
    desk.files().into_iter().map(|file| (file.clone(), desk.read(&file))).collect()
}

/// How many runs the history has.
fn runs_of(desk: &TestDir) -> usize {
    let history: Value = serde_json::from_slice(&desk.run(&["history", "--json"]).out).expect("JSON");
    history["runs"].as_array().expect("a list").len()
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 40, max_shrink_iters: 200, ..ProptestConfig::default() })]

    #[test]
    fn any_order_of_runs_undone_runs_and_edits_is_as_a_model_has_it(
        texts in prop::collection::vec("[abcx\n]{0,8}", 1..4),
        deeds in prop::collection::vec(deed(), 1..12),
    ) {
        let desk = TestDir::new();
        let mut model = Model::default();
        for (number, text) in texts.into_iter().enumerate() {
            let name = NAMES[number].to_owned();
            desk.write(&name, text.as_bytes());
            model.numbers += 1;
            model.files.insert(name, ModelFile { text, number: model.numbers });
        }
        for deed in &deeds {
            match deed {
                Deed::Clean(letter) => {
                    let rule = format!("remove.chars = '{letter}'");
                    desk.run(&["clean", "--write", "--rule", &rule, "."]);
                    model.clean(*letter, None);
                }
                Deed::CleanOne(letter, file) => {
                    let Some(name) = model.files.keys().nth(*file).cloned() else { continue };
                    desk.run(&["clean", "--write", "--rule", &format!("remove.chars = '{letter}'"), &name]);
                    model.clean(*letter, Some(&name));
                }
                Deed::Rename(letter) => {
                    let rule = format!("replace = {{ chars = '{letter}', with = '_' }}");
                    desk.run(&["names", "--write", "--rule", &rule, "."]);
                    model.rename(*letter);
                }
                Deed::Undo(run) => {
                    desk.run(&["undo", &(run + 1).to_string()]);
                    model.undo(*run, None);
                }
                Deed::UndoOnly(run, name) => {
                    desk.run(&["undo", &(run + 1).to_string(), "--only", name]);
                    model.undo(*run, Some(name));
                }
                Deed::Look(letter, run) => {
                    desk.run(&["clean", "--rule", &format!("remove.chars = '{letter}'"), "."]);
                    desk.run(&["names", "--rule", &format!("remove.chars = '{letter}'"), "."]);
                    desk.run(&["undo", &(run + 1).to_string(), "--preview"]);
                    desk.run(&["undo", "--preview", "--force"]);
                }
                Deed::Move(file, name) => {
                    let Some(before) = model.files.keys().nth(*file).cloned() else { continue };
                    fs::rename(desk.path(&before), desk.path(name)).expect("a renamed file");
                    let file = model.files.remove(&before).expect("it is there");
                    model.files.insert((*name).to_owned(), file);
                }
                Deed::Write(file, text) => {
                    let Some(name) = model.files.keys().nth(*file).cloned() else { continue };
                    desk.write(&name, text.as_bytes());
                    // Into the file that is there.
                    model.files.get_mut(&name).expect("it is there").text.clone_from(text);
                }
                Deed::Remove(file) => {
                    let Some(name) = model.files.keys().nth(*file).cloned() else { continue };
                    fs::remove_file(desk.path(&name)).expect("it is there");
                    model.files.remove(&name);
                }
            }
            prop_assert_eq!(files_of(&desk), model.texts(), "after {:?}", deed);
            prop_assert_eq!(runs_of(&desk), model.runs.len(), "runs after {:?}", deed);
        }
    }
}
