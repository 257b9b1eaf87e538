//! Two options at a time, in both orders: the same answer, a refusal names what it refuses, a preview changes nothing, and what
//! is written is what the rules make.

mod support;

use std::collections::{BTreeMap, BTreeSet};
use std::sync::Mutex;
use std::sync::atomic::{AtomicUsize, Ordering};

use serde_json::Value;
use support::{Ran, TestDir};

/// The files of a folder: path and bytes.
type Files = BTreeMap<String, Vec<u8>>;

/// A command at work on a folder.
struct Scenario {
    command: &'static str,
    /// What it is always given: the rules, and what to look at.
    always: &'static [&'static str],
    options: &'static [&'static [&'static str]],
    /// Options that let it change files that are there.
    changing: &'static [&'static str],
    /// Runs that come before.
    before: &'static [&'static [&'static str]],
}

const RULES: &[&str] = &["--rules", "a.wash.toml"];
const OF_FILES: &[&[&str]] = &[
    &["--only", "*.txt"],
    &["--except", "*.csv"],
    &["--with-hidden"],
    &["--with-ignored"],
    &["--with-binary"],
    &["--files-from", "list"],
    &["--nul"],
    &["--jobs", "1"],
    &["--color", "never"],
];
const OF_RULES: &[&[&str]] =
    &[&["--rule", "remove.chars = '!'"], &["--save-rules", "saved.wash.toml"], &["--max-memory", "64M"]];
const OF_TABLES: &[&[&str]] = &[
    &["--table", "csv"],
    &["--table", "text"],
    &["--delimiter", ","],
    &["--no-header"],
    &["--fields", "Item"],
    &["--ragged", "keep"],
    &["--guard-formulas"],
    &["--encoding", "utf-8"],
];

const SCENARIOS: &[Scenario] = &[
    Scenario {
        command: "clean",
        always: &["."],
        options: &[
            &["--only-rule", "1"],
            &["--up-to-rule", "1"],
            &["--write"],
            &["--into", "out"],
            &["--overwrite"],
            &["--no-history"],
            &["--history-limit", "10M"],
            &["--keep-times"],
            &["--follow"],
            &["--break-links"],
            &["--stdout"],
            &["--spool"],
            &["--patch"],
            &["--report", "report.html"],
            &["--report", "report.jsonl"],
            &["--all"],
            &["--json"],
            &["--first", "2"],
            &["--to-encoding", "utf-16le"],
            &["--no-project"],
        ],
        changing: &["--write"],
        before: &[],
    },
    Scenario {
        command: "check",
        always: &["."],
        options: &[
            &["--format", "text"],
            &["--format", "sarif"],
            &["--json"],
            &["--list", "all"],
            &["--list", "first"],
            &["--list", "count"],
            &["--staged"],
            &["--no-project"],
        ],
        changing: &[],
        before: &[],
    },
    Scenario {
        command: "names",
        always: &["."],
        options: &[
            &["--only-rule", "1"],
            &["--up-to-rule", "1"],
            &["--write"],
            &["--map", "map.csv"],
            &["--from-map", "given.csv"],
            &["--report", "report.html"],
            &["--overwrite"],
            &["--all"],
            &["--json"],
            &["--no-history"],
            &["--part", "whole"],
            &["--on-clash", "number"],
            &["--order", "modified"],
            &["--portable"],
            &["--folders"],
        ],
        changing: &["--write"],
        before: &[],
    },
    Scenario {
        command: "survey",
        always: &["."],
        options: &[&["--json"], &["--report", "report.html"], &["--overwrite"], &["--no-project"]],
        changing: &[],
        before: &[],
    },
    Scenario {
        command: "undo",
        always: &[],
        options: &[
            &["--only", "log.txt"],
            &["--preview"],
            &["--force"],
            &["--all"],
            &["--json"],
            &["--color", "never"],
        ],
        changing: &[""],
        before: &[&["clean", "--rules", "a.wash.toml", "--write", "."]],
    },
    Scenario {
        command: "history",
        always: &["1"],
        options: &[&["--json"], &["--all"], &["--rules"], &["--color", "never"]],
        changing: &[],
        before: &[&["clean", "--rules", "a.wash.toml", "--write", "."]],
    },
];

impl Scenario {
    /// All options of the command that are tried: those of its help, most of them.
    fn all(&self) -> Vec<&'static [&'static str]> {
        let shared: &[&[&[&str]]] = match self.command {
            "clean" | "check" => &[OF_FILES, OF_RULES, OF_TABLES],
            "names" => &[OF_FILES, OF_RULES],
            "survey" => &[OF_FILES, OF_TABLES],
            _ => &[],
        };
        self.options.iter().chain(shared.iter().copied().flatten()).copied().collect()
    }

    fn folder(&self) -> TestDir {
        let desk = TestDir::with(&[
            ("a.wash.toml", "[[rule]]\nremove.chars = '#'\n[[rule]]\ntrim.at = 'end'\n"),
            ("log.txt", "# fog \n"),
            ("late #.txt", "lamp lit\nlamp# out  \n"),
            ("stores.csv", "Item,Keeper\noil #,\"Vey, #\"\n"),
            ("list", "log.txt\nstores.csv\n"),
            ("given.csv", "from,to\nlog.txt,early.txt\n"),
            (".hidden.txt", "#\n"),
        ]);
        for run in self.before {
            desk.run(run).status(0);
        }
        desk
    }

    fn run(&self, desk: &TestDir, options: [&[&str]; 2]) -> Ran {
        let rules = if ["clean", "check", "names"].contains(&self.command) { RULES } else { &[] };
        let args = [[self.command].as_slice(), rules, options[0], options[1], self.always].concat();
        desk.run(&args)
    }

    /// Whether these options let it change files.
    fn may_change(&self, options: [&[&str]; 2]) -> bool {
        let named = |changing: &&str| changing.is_empty() || options.iter().any(|option| option.contains(changing));
        self.changing.iter().any(named) && !options.iter().any(|option| option.contains(&"--preview"))
    }
}

fn files(desk: &TestDir) -> Files {
    let read = |path: String| (path.clone(), std::fs::read(desk.path(&path)).expect("a file"));
    desk.files().into_iter().map(read).collect()
}

/// What the two rules, or the first of them, make of a text.
fn cleaned(text: &[u8]) -> BTreeSet<Vec<u8>> {
    let text = String::from_utf8(text.to_vec()).expect("UTF-8");
    let without = |marks: &[char]| text.replace(marks, "");
    let trimmed = |text: String| text.lines().flat_map(|line| [line.trim_end(), "\n"]).collect::<String>();
    let only_cells = text.replace("oil #", "oil ").replace("oil  ", "oil ");
    let forms = [without(&['#']), trimmed(without(&['#'])), trimmed(only_cells), "oil,\"Vey, \"".to_owned()];
    let utf16 = |text: &String| text.encode_utf16().flat_map(u16::to_le_bytes).collect::<Vec<u8>>();
    let given = forms.iter().flat_map(|form| [form.clone().into_bytes(), utf16(form)]);
    given.chain([utf16(&text)]).collect()
}

/// How a run with these options ends and, if it is not as it should be, what is wrong.
fn judge(scenario: &Scenario, options: [&[&str]; 2]) -> (i32, Option<String>) {
    let desk = scenario.folder();
    let before = files(&desk);
    let ran = scenario.run(&desk, options);
    let after = files(&desk);
    let wrong = what_is_wrong(scenario, options, &ran, &before, &after);
    (ran.status, wrong.map(|wrong| format!("{wrong}\n{ran}")))
}

fn what_is_wrong(
    scenario: &Scenario,
    options: [&[&str]; 2],
    ran: &Ran,
    before: &Files,
    after: &Files,
) -> Option<String> {
    if !(0..=3).contains(&ran.status) || ran.err.contains("panicked") {
        return Some("no ordinary end".to_owned());
    }
    if ran.status == 2 {
        let is_named = options.iter().any(|option| ran.err.contains(option[0]));
        // Rules are read, and saved, before any file is looked at.
        let mut after = after.clone();
        after.remove("saved.wash.toml");
        return match (is_named, *before == after) {
            (false, _) => Some("the refusal names no option".to_owned()),
            (_, false) => Some("refused, and yet it did something".to_owned()),
            _ => None,
        };
    }
    if !scenario.may_change(options) {
        let asked = |path: &str| options.iter().any(|option| option.len() == 2 && path.starts_with(option[1]));
        let is_good = |(path, bytes): (&String, &Vec<u8>)| before.get(path).map_or(asked(path), |old| old == bytes);
        if !after.iter().all(is_good) || !before.keys().all(|path| after.contains_key(path)) {
            return Some("it changes or makes a file that nobody named".to_owned());
        }
    } else if scenario.command == "clean" {
        let is_good = |(path, bytes): (&String, &Vec<u8>)| {
            let now = after.get(path);
            now == Some(bytes) || now.is_some_and(|now| path == "stores.csv" || cleaned(bytes).contains(now))
        };
        if let Some((path, _)) = before.iter().find(|file| !is_good(*file)) {
            return Some(format!("{path}: {:?}", after.get(path).map(|bytes| String::from_utf8_lossy(bytes))));
        }
    } else if scenario.command == "names" {
        let texts = |files: &Files| files.values().cloned().collect::<BTreeSet<_>>();
        if !texts(before).is_subset(&texts(after)) {
            return Some("a text is gone".to_owned());
        }
    }
    let is_json = options.iter().any(|option| option[0] == "--json" || option.last() == Some(&"sarif"));
    let value: Result<Value, _> = serde_json::from_slice(&ran.out);
    (is_json && value.is_err()).then(|| "no JSON".to_owned())
}

#[test]
fn two_options_give_the_same_in_both_orders_and_do_what_they_say() {
    let mut pairs: Vec<(&Scenario, [&[&str]; 2])> = Vec::new();
    for scenario in SCENARIOS {
        let options = scenario.all();
        for (at, first) in options.iter().enumerate() {
            let others = options[at + 1..].iter().filter(|second| second[0] != first[0]);
            pairs.extend(others.map(|second| (scenario, [*first, *second])));
        }
    }
    assert!(pairs.len() > 1500, "{}", pairs.len());
    let (next, wrong) = (AtomicUsize::new(0), Mutex::new(Vec::new()));
    let work = || {
        while let Some((scenario, [first, second])) = pairs.get(next.fetch_add(1, Ordering::Relaxed)) {
            let (one, other) = (judge(scenario, [first, second]), judge(scenario, [second, first]));
            let order = (one.0 != other.0).then(|| format!("the order counts: {first:?} {second:?}"));
            wrong.lock().expect("no panic").extend(one.1.into_iter().chain(other.1).chain(order));
        }
    };
    std::thread::scope(|scope| (0..4).for_each(|_| drop(scope.spawn(work))));
    let wrong = wrong.into_inner().expect("no panic");
    assert!(wrong.is_empty(), "{} of {} are wrong:\n{}", wrong.len(), 2 * pairs.len(), wrong.join("\n"));
}
