//! Files cleaned as they are saved.

mod support;

use std::collections::BTreeMap;
use std::fs;
use std::io::{BufRead, BufReader, Write as _};
use std::os::unix::fs::symlink;
use std::process::{Child, Stdio};
use std::sync::{Arc, Mutex};
use std::time::{Duration, Instant};

use proptest::collection::vec;
use proptest::prelude::*;
use proptest::strategy::ValueTree;
use proptest::test_runner::TestRunner;
use support::TestDir;

/// A watch that goes on while a test saves files.
struct Watch {
    child: Child,
    said: Arc<Mutex<String>>,
}

impl Watch {
    /// Starts it, and waits until it is told of changes.
    fn start(desk: &TestDir, args: &[&str]) -> Self {
        let mut command = desk.command();
        command.arg("watch").args(args).stdout(Stdio::piped()).stderr(Stdio::piped()).stdin(Stdio::null());
        let mut child = command.spawn().expect("the built program");
        let said = Arc::new(Mutex::new(String::new()));
        let streams: [Box<dyn std::io::Read + Send>; 2] =
            [Box::new(child.stdout.take().expect("a pipe")), Box::new(child.stderr.take().expect("a pipe"))];
        for stream in streams {
            let said = Arc::clone(&said);
            std::thread::spawn(move || {
                for line in BufReader::new(stream).lines().map_while(Result::ok) {
                    said.lock().expect("lines").push_str(&(line + "\n"));
                }
            });
        }
        let watch = Self { child, said };
        watch.says("Ctrl-C ends");
        watch
    }

    fn said(&self) -> String {
        self.said.lock().expect("lines").clone()
    }

    #[track_caller]
    fn says(&self, text: &str) {
        self.until(&format!("it says {text:?}"), || self.said().contains(text));
    }

    #[track_caller]
    fn until(&self, what: &str, is_so: impl Fn() -> bool) {
        let start = Instant::now();
        while !is_so() {
            assert!(start.elapsed() < Duration::from_secs(40), "never: {what}\n{}", self.said());
            std::thread::sleep(Duration::from_millis(20));
        }
    }

    /// Waits long enough for anything that is under way to be seen.
    fn settle() {
        std::thread::sleep(Duration::from_millis(1200));
    }

    /// Ends it as Ctrl-C does; gives what it said.
    fn end(mut self) -> String {
        let id = self.child.id().to_string();
        assert!(std::process::Command::new("kill").args(["-INT", &id]).status().expect("kill").success());
        let status = self.child.wait().expect("it ended");
        assert_eq!(status.code(), Some(130), "{}", self.said());
        self.said()
    }
}

impl Drop for Watch {
    fn drop(&mut self) {
        let _ = self.child.kill();
    }
}

/// Rules of which a second run changes the result again: whoever cleans a file twice is found out.
fn desk() -> TestDir {
    TestDir::with(&[
        ("twice.wash.toml", "[[rule]]\nreplace = { text = 'fog', with = 'fog!' }\n"),
        ("log/old.txt", "fog\n"),
    ])
}

#[test]
fn each_way_of_saving_is_seen_once_and_nothing_is_lost() {
    let desk = desk();
    let watch = Watch::start(&desk, &["-r", "twice.wash.toml", "log", "--write"]);
    // In place, renamed over, with a backup, in several writes.
    desk.write("log/a.txt", b"fog a\n");
    desk.write("log/.b.tmp", b"fog b\n");
    fs::rename(desk.path("log/.b.tmp"), desk.path("log/b.txt")).expect("a renamed file");
    desk.write("log/c.txt", b"lamp\n");
    fs::rename(desk.path("log/c.txt"), desk.path("log/c.txt~")).expect("a backup");
    desk.write("log/c.txt", b"fog c\n");
    let mut slow = fs::File::create(desk.path("log/d.txt")).expect("a file");
    for part in ["fo", "g d", "1 fog", " d2\n"] {
        slow.write_all(part.as_bytes()).expect("a part");
        std::thread::sleep(Duration::from_millis(400));
    }
    drop(slow);
    // Gone before it is looked at; and a folder with one in it, which came as a whole.
    desk.write("log/e.txt", b"fog\n");
    fs::remove_file(desk.path("log/e.txt")).expect("a file");
    desk.write("elsewhere/deep/f.txt", b"fog f\n");
    fs::rename(desk.path("elsewhere"), desk.path("log/new")).expect("a moved folder");
    let want = [
        ("a.txt", "fog! a\n"),
        ("b.txt", "fog! b\n"),
        ("c.txt", "fog! c\n"),
        ("d.txt", "fog! d1 fog! d2\n"),
        ("new/deep/f.txt", "fog! f\n"),
    ];
    for (file, text) in want {
        watch.until(file, || desk.read(&format!("log/{file}")) == text);
    }
    Watch::settle();
    for (file, text) in want {
        assert_eq!(desk.read(&format!("log/{file}")), text, "{file}, not twice");
    }
    assert_eq!(desk.read("log/old.txt"), "fog\n", "what was there stays as it is");
    assert_eq!(desk.read("log/c.txt~"), "lamp\n");
    let said = watch.end();
    assert!(said.contains("log/d.txt  2 changes (rule 1: 2)") && said.contains("to undo:"), "{said}");
}

/// Something that happens to files below `log`.
#[derive(Clone, Debug)]
enum Deed {
    /// A file is written where it is.
    Write(u8),
    /// A file is put in place of another.
    Replace(u8),
    Remove(u8),
    /// A folder comes as a whole, with a file in it.
    Folder(u8),
    RemoveFolder(u8),
    Pause(u64),
}

fn deed() -> impl Strategy<Value = Deed> {
    let file = || 0..5_u8;
    prop_oneof![
        4 => file().prop_map(Deed::Write),
        4 => file().prop_map(Deed::Replace),
        2 => file().prop_map(Deed::Remove),
        1 => file().prop_map(Deed::Folder),
        1 => file().prop_map(Deed::RemoveFolder),
        3 => (0..500_u64).prop_map(Deed::Pause),
    ]
}

#[test]
fn whatever_is_saved_in_whatever_order_is_cleaned_once() {
    let deeds = vec(deed(), 60).new_tree(&mut TestRunner::deterministic()).expect("deeds").current();
    let desk = desk();
    fs::remove_file(desk.path("log/old.txt")).expect("a file");
    let watch = Watch::start(&desk, &["-r", "twice.wash.toml", "log", "--write"]);
    let mut model: BTreeMap<String, String> = BTreeMap::new();
    for (number, deed) in deeds.iter().enumerate() {
        let text = format!("fog {number}\n");
        let file = |file: &u8| format!("log/{file}.txt");
        match deed {
            Deed::Write(at) => {
                desk.write(&file(at), text.as_bytes());
                model.insert(file(at), text);
            }
            Deed::Replace(at) => {
                desk.write("log/.new.tmp", text.as_bytes());
                fs::rename(desk.path("log/.new.tmp"), desk.path(&file(at))).expect("a renamed file");
                model.insert(file(at), text);
            }
            Deed::Remove(at) => {
                let _ = fs::remove_file(desk.path(&file(at)));
                model.remove(&file(at));
            }
            Deed::Folder(at) => {
                let folder = format!("log/deep{at}");
                if !desk.path(&folder).exists() {
                    desk.write("elsewhere/in/a.txt", text.as_bytes());
                    fs::rename(desk.path("elsewhere"), desk.path(&folder)).expect("a moved folder");
                    model.insert(format!("{folder}/in/a.txt"), text);
                }
            }
            Deed::RemoveFolder(at) => {
                let folder = format!("log/deep{at}");
                // What is being written there may keep it from going at first.
                while desk.path(&folder).exists() {
                    let _ = fs::remove_dir_all(desk.path(&folder));
                }
                model.remove(&format!("{folder}/in/a.txt"));
            }
            Deed::Pause(milliseconds) => std::thread::sleep(Duration::from_millis(*milliseconds)),
        }
    }
    let want: BTreeMap<String, String> =
        model.into_iter().map(|(file, text)| (file, text.replace("fog", "fog!"))).collect();
    let now = || -> BTreeMap<String, String> {
        let files = desk.files().into_iter().filter(|file| file.starts_with("log/"));
        files.map(|file| (file.clone(), fs::read_to_string(desk.path(&file)).unwrap_or_default())).collect()
    };
    watch.until(&format!("{want:?} after {deeds:?}, but {:?}", now()), || now() == want);
    Watch::settle();
    assert_eq!(now(), want, "{deeds:?}");
    watch.end();
}

#[test]
fn rules_that_are_saved_are_for_what_is_saved_after_them_and_a_mistake_in_them_is_waited_out() {
    let desk = desk();
    let watch = Watch::start(&desk, &["-r", "twice.wash.toml", "log", "--write", "--save-rules", "kept.wash.toml"]);
    desk.write("log/a.txt", b"fog\n");
    watch.until("cleaned by the first rules", || desk.read("log/a.txt") == "fog!\n");
    desk.write("twice.wash.toml", b"[[rule]]\nreplac = { text = 'fog', with = 'mist' }\n");
    desk.write("log/b.txt", b"fog\n");
    watch.says("did you mean `replace`?");
    watch.says("files wait until it is mended");
    Watch::settle();
    assert_eq!(desk.read("log/b.txt"), "fog\n", "old rules are not for it");
    desk.write("twice.wash.toml", b"[[rule]]\nreplace = { text = 'fog', with = 'mist' }\n");
    watch.until("cleaned by the new rules", || desk.read("log/b.txt") == "mist\n");
    assert_eq!(desk.read("log/a.txt"), "fog!\n", "what was cleaned before stays");
    let said = watch.end();
    assert_eq!((said.matches("did you mean").count(), said.matches("read again").count()), (1, 1), "{said}");
}

#[test]
fn what_undo_restores_stays_until_it_changes_again() {
    let desk = desk();
    let watch = Watch::start(&desk, &["-r", "twice.wash.toml", "log", "--write", "--now"]);
    watch.until("what is there is cleaned", || desk.read("log/old.txt") == "fog!\n");
    watch.says("run 1:");
    desk.run(&["undo"]).status(0);
    Watch::settle();
    assert_eq!(desk.read("log/old.txt"), "fog\n");
    desk.write("log/old.txt", b"more fog\n");
    watch.until("a new text", || desk.read("log/old.txt") == "more fog!\n");
    watch.end();
    desk.run(&["undo"]).status(0);
    assert_eq!(desk.read("log/old.txt"), "more fog\n");
}

#[test]
fn two_watches_on_one_folder_do_not_wake_each_other() {
    let desk = desk();
    let args = ["-r", "twice.wash.toml", "log", "--write"];
    let watches = [Watch::start(&desk, &args), Watch::start(&desk, &args)];
    for round in 0..5 {
        let text = format!("fog {round}\n");
        desk.write("log/a.txt", text.as_bytes());
        watches[0].until("clean", || desk.read("log/a.txt") == text.replace("fog", "fog!"));
        Watch::settle();
        assert_eq!(desk.read("log/a.txt"), text.replace("fog", "fog!"), "once, by one of them");
    }
    watches.into_iter().for_each(|watch| drop(watch.end()));
}

#[test]
fn many_files_at_once_and_a_folder_that_goes_away_and_comes_back() {
    let desk = desk();
    let watch = Watch::start(&desk, &["-r", "twice.wash.toml", "log", "--write"]);
    for file in 0..5000 {
        desk.write(&format!("log/many/{}/{file}.txt", file % 7), format!("fog {file}\n").as_bytes());
    }
    let is_clean = |file: i32| desk.read(&format!("log/many/{}/{file}.txt", file % 7)) == format!("fog! {file}\n");
    watch.until("all are clean", || (0..5000).all(is_clean));
    Watch::settle();
    assert!((0..5000).all(is_clean), "none of them twice");
    fs::rename(desk.path("log"), desk.path("away")).expect("a moved folder");
    watch.says("log is gone");
    desk.write("away/a.txt", b"fog\n");
    Watch::settle();
    assert_eq!(desk.read("away/a.txt"), "fog\n", "it is not in the folder that was named");
    desk.write("log/b.txt", b"fog\n");
    watch.until("another folder of this name", || desk.read("log/b.txt") == "fog!\n");
    watch.end();
}

#[test]
fn names_are_changed_as_they_come_and_copies_are_made_again() {
    let desk = TestDir::with(&[
        ("names.wash.toml", "[[rule]]\nreplace = { chars = '_', with = '__' }\n"),
        ("twice.wash.toml", "[[rule]]\nreplace = { text = 'fog', with = 'fog!' }\n"),
        ("scans/old_1.txt", ""),
        ("log/a.txt", "fog\n"),
        ("copies/log/a.txt", "mine\n"),
    ]);
    let watch = Watch::start(&desk, &["-r", "names.wash.toml", "scans", "--names"]);
    desk.write("scans/new_1.txt", b"");
    watch.until("a new name", || desk.path("scans/new__1.txt").exists());
    watch.says("run 1: 1 name changed");
    Watch::settle();
    assert_eq!(desk.files().iter().filter(|file| file.starts_with("scans/")).count(), 2, "{:?}", desk.files());
    desk.run(&["undo"]).status(0);
    Watch::settle();
    assert!(desk.path("scans/new_1.txt").exists(), "what was undone stays");
    watch.end();

    let watch = Watch::start(&desk, &["-r", "twice.wash.toml", "log", "--into", "copies", "--now"]);
    watch.says("is there already");
    desk.write("log/b.txt", b"fog\n");
    watch.until("a copy", || desk.path("copies/log/b.txt").exists() && desk.read("copies/log/b.txt") == "fog!\n");
    desk.write("log/b.txt", b"more fog\n");
    watch.until("the copy of this watch", || desk.read("copies/log/b.txt") == "more fog!\n");
    Watch::settle();
    assert_eq!((desk.read("copies/log/a.txt"), desk.read("log/a.txt")), ("mine\n".to_owned(), "fog\n".to_owned()));
    watch.end();
}

#[test]
fn globs_links_projects_and_polling_are_as_elsewhere() {
    let desk = desk();
    desk.write("washout.toml", b"[[apply]]\nrules = ['twice.wash.toml']\nonly = ['log/*.txt']\n");
    desk.write("other.txt", b"fog\n");
    symlink("../other.txt", desk.path("log/link.txt")).expect("a link");
    let watch = Watch::start(&desk, &["--write", "--poll", "1"]);
    std::thread::sleep(Duration::from_millis(1100));
    desk.write("log/a.txt", b"fog a\n");
    desk.write("log/a.md", b"fog a\n");
    desk.write("other.txt", b"fog, more\n");
    watch.until("a file of the project", || desk.read("log/a.txt") == "fog! a\n");
    Watch::settle();
    assert_eq!((desk.read("log/a.md"), desk.read("other.txt")), ("fog a\n".to_owned(), "fog, more\n".to_owned()));
    watch.end();
    desk.run(&["watch", "-r", "twice.wash.toml", "log"]).status(2).warns(&["--write"]);
    // What a project says is for what is in files.
    desk.run(&["watch", "log", "--names"]).status(2).warns(&["names need rules of their own"]);
    desk.run(&["watch", "-r", "twice.wash.toml", "gone", "--write"]).status(2).warns(&["no such file"]);
}
