//! `washout names`, `history` and `undo` on real folders.

mod support;

use std::ffi::OsStr;
use std::fs;
use std::os::unix::ffi::OsStrExt;
use std::os::unix::fs::PermissionsExt;

use support::TestDir;

/// A desk with empty files of these names.
fn desk(names: &[&str]) -> TestDir {
    let files: Vec<(&str, &str)> = names.iter().map(|name| (*name, *name)).collect();
    TestDir::with(&files)
}

/// What each file was called at first, with its name now: every file holds its first name.
fn now(desk: &TestDir, first: &[&str]) -> Vec<String> {
    let mut files = desk.files();
    files.retain(|path| !path.contains('\u{FFFD}'));
    let find = |name: &&str| files.iter().find(|path| desk.read(path) == **name).cloned();
    first.iter().map(|name| find(name).unwrap_or_else(|| panic!("{name} is lost, there are {files:?}"))).collect()
}

const UNDERSCORES: [&str; 2] = ["--rule", "replace = { chars = '_', with = ' ' }"];

#[test]
fn a_preview_changes_nothing_and_a_run_can_be_put_back() {
    let names = ["scans/lamp_room.tif", "scans/oil_house.tif", "scans/lens.tif", "scans/sub/a_b"];
    let desk = desk(&names);
    let args = |more: &[&'static str]| [&["names"], &UNDERSCORES[..], &["scans"], more].concat();
    desk.run(&args(&[])).status(0).silent_err().says(&[
        "scans/  2 of 3 names change",
        "lamp_room.tif  → lamp·room.tif\n      ×                ^",
        "scans/sub/  1 of 1 name changes",
        "3 names would change, 1 unchanged",
        "Nothing was renamed. To rename:",
        "scans --write",
    ]);
    assert_eq!(now(&desk, &names), names);
    desk.run(&["undo"]).status(2).warns(&["there is no run to undo"]);
    desk.run(&args(&["--write"])).status(0).says(&["3 renamed, 1 unchanged", "To undo:       ", "undo 1"]);
    let renamed = ["scans/lamp room.tif", "scans/oil house.tif", "scans/lens.tif", "scans/sub/a b"];
    assert_eq!(now(&desk, &names), renamed);
    desk.run(&["history"]).status(0).says(&["1   2", "names by --rule"]);
    desk.run(&["history", "1"]).status(0).says(&["lamp_room.tif → lamp room.tif", "3 names changed", "undo 1"]);
    desk.run(&["history", "7"]).status(2).warns(&["there is no run 7"]);
    desk.run(&["undo", "--preview"]).status(0).says(&["Run 1: 3 names would be restored"]);
    assert_eq!(now(&desk, &names), renamed, "a preview of undo");
    desk.run(&["undo", "--only", "scans/sub"]).status(0).says(&["Run 1: 1 name restored"]);
    assert_eq!(now(&desk, &names)[3], names[3]);
    desk.run(&["history"]).status(0).says(&["undone in part\n"]);
    desk.run(&["undo"]).status(0).silent_err().says(&["Run 1: 2 names restored\n"]);
    assert_eq!(now(&desk, &names), names);
    // What undo did can be undone by its number, and then the run stands again.
    desk.run(&["undo", "3"]).status(0).says(&["Run 3: 2 names restored"]);
    assert_eq!(now(&desk, &names)[..3], renamed[..3]);
}

#[test]
fn names_that_cannot_be_are_left_alone_with_the_reason() {
    let names =
        ["[a].txt", "log_1.txt", "log 1.txt", "fog_horn", "fog__horn", "LAMP_", "lamp", "é", "e\u{301}_", "OIL", "oil"];
    let desk = desk(&names);
    let rules = ["--rule", "remove = { between = ['[', ']'] }", "--rule", "replace = { chars = '_', with = ' ' }"];
    let more = ["--rule", "collapse = { class = 'blank', with = ' ' }", "--rule", "trim = {}", "."];
    let args = [&["names"], &rules[..], &more].concat();
    desk.run(&args).status(0).says(&[
        "[a].txt\n      nothing would be left of the name",
        "log_1.txt → log 1.txt\n      `log 1.txt` is there already",
        "fog_horn → fog horn\n      `fog__horn` would have the same name",
        "fog__horn → fog horn\n      `fog_horn` would have the same name",
        "LAMP_ → LAMP\n      it would differ from `lamp` only in letter case or Unicode form",
        "e\u{301}_ → e\u{301}\n      it would differ from `é` only in letter case or Unicode form",
        "0 names would change, 6 left alone (named above), 5 unchanged",
    ]);
    desk.run(&[&args[..], &["--on-clash", "number", "--write"]].concat()).status(3).says(&["5 renamed, 1 left alone"]);
    assert_eq!(
        now(&desk, &names),
        [
            "[a].txt",
            "log 1 (2).txt",
            "log 1.txt",
            "fog horn (2)",
            "fog horn",
            "LAMP (2)",
            "lamp",
            "é",
            "e\u{301} (2)",
            "OIL",
            "oil"
        ]
    );
}

#[test]
fn names_as_they_come() {
    let long = "x".repeat(251) + "_.md";
    let names = ["-rf_x", ".hid_den", "..two_", "a_\nb\u{1b}[31m", "Å\u{30A}_", &long];
    let desk = desk(&names);
    let broken = OsStr::from_bytes(b"caf\xE9_.txt");
    fs::write(desk.path(".").join(broken), "broken").unwrap();
    let args = ["names", "--rule", "replace = { chars = '_', with = '--' }", ".", "--with-hidden"];
    let ran = desk.run(&args).status(0);
    assert!(!ran.out().contains('\u{1b}'), "what a name holds never reaches the terminal: {ran}");
    ran.says(&["a_␊b␛[31m", "caf⟨xE9⟩_.txt", "it would have 256 bytes, and a name has 255 at most"]);
    desk.run(&[&args[..], &["--write"]].concat()).status(3).says(&["6 renamed, 1 left alone"]);
    assert_eq!(now(&desk, &names), ["-rf--x", ".hid--den", "..two--", "a--\nb\u{1b}[31m", "Å\u{30A}--", &long]);
    assert_eq!(fs::read_to_string(desk.path(".").join(OsStr::from_bytes(b"caf\xE9--.txt"))).unwrap(), "broken");
    desk.run(&["undo"]).status(0);
    assert_eq!(now(&desk, &names), names);
    let forbidden = ["names", "--rule", "replace = { chars = '_', with = '?' }", ".", "--portable"];
    desk.run(&forbidden).status(0).says(&["0 names would change", "other systems forbid < > : \" \\ | ? *"]);
}

#[test]
fn a_table_is_written_edited_and_carried_out_whole() {
    // A swap, a cycle of three, and a chain.
    let names = ["a", "b", "c", "d", "e", "f g", "h, \"i\"", "%41\n"];
    let desk = desk(&names);
    desk.run(&["names", UNDERSCORES[0], UNDERSCORES[1], ".", "--map", "/dev/full"]).status(2);
    // A spreadsheet is given no formulas.
    desk.write("odd/=HYPERLINK(x)", b"");
    desk.write("odd/＋1+a_b", b"");
    desk.run(&["names", UNDERSCORES[0], UNDERSCORES[1], "odd", "--map", "odd.csv"]).status(0);
    let rows = "odd,%3DHYPERLINK(x),%3DHYPERLINK(x)\nodd,%EF%BC%8B1+a_b,%EF%BC%8B1+a b\n";
    assert_eq!(desk.read("odd.csv"), format!("folder,old,new\n{rows}"));
    desk.run(&["names", "--from-map", "odd.csv", "--write"]).status(0).says(&["1 renamed"]);
    assert!(desk.path("odd/＋1+a b").exists());
    fs::remove_dir_all(desk.path("odd")).and_then(|()| fs::remove_file(desk.path("odd.csv"))).unwrap();
    desk.run(&["names", UNDERSCORES[0], UNDERSCORES[1], ".", "--map", "map.csv"])
        .status(0)
        .says(&["--from-map map.csv"]);
    let table = desk.read("map.csv");
    assert!(table.starts_with("folder,old,new\n.,%2541%0A,%2541%0A\n.,a,a\n"), "{table}");
    let wanted = [("a", "b"), ("b", "a"), ("c", "d"), ("d", "e"), ("e", "c"), ("f g", "h, i"), ("%2541%0A", "f g")];
    let rows = wanted.iter().fold(String::new(), |rows, (old, new)| rows + &format!(".,{old},\"{new}\"\n"));
    desk.write("map.csv", format!("\u{FEFF}folder,old,new\r\n{rows}").as_bytes());
    desk.run(&["names", "--from-map", "map.csv"]).status(0).says(&["7 names would change"]);
    assert_eq!(now(&desk, &names), names);
    desk.run(&["names", "--from-map", "map.csv", "--write"]).status(0).says(&["7 renamed"]);
    assert_eq!(now(&desk, &names), ["b", "a", "d", "e", "c", "h, i", "h, \"i\"", "f g"]);
    desk.run(&["undo"]).status(0);
    assert_eq!(now(&desk, &names), names);

    desk.write("sub/x", b"");
    let bad = "folder,old,new\n.,gone,x\n.,a,b\n.,a,z\n.,c,../c\n/,etc,x\n.,sub/x,y\n.,d,\n.,e\n";
    desk.write("map.csv", bad.as_bytes());
    desk.run(&["names", "--from-map", "map.csv", "--write"]).status(2).warns(&[
        "the table map.csv cannot be carried out:",
        "line 2: gone is not there",
        "line 3: `b` cannot be the new name: `b` is there already",
        "line 4: a stands on line 3 already",
        "line 5: `../c` cannot be the new name: a `/` parts folders",
        "line 6: /etc is out of the folders that were named",
        "line 7: `sub/x` is not a name of one entry of a folder",
        "line 8: `` cannot be the new name: nothing would be left of the name",
        "line 9: it has 2 columns, not folder, old, new",
        "Nothing was renamed.",
    ]);
    assert_eq!(now(&desk, &names), names);
    desk.write("map.csv", b"old,new\na,b\n");
    desk.run(&["names", "--from-map", "map.csv"])
        .status(2)
        .warns(&["line 1: the first line has to be: folder,old,new"]);
    desk.write("map.csv", b"\nfolder;old;new\n.;a;b\n");
    let ran = desk.run(&["names", "--from-map", "map.csv"]).status(2);
    ran.warns(&["line 2: between the columns stand semicolons; they have to be commas\nNothing"]);
    // Lines are those of the file: empty ones count, and so do those within a row.
    desk.write("map.csv", b"folder,old,new\n\n\n.,\"a\nb\",x\r\n\r\n.,none,x\n");
    let ran = desk.run(&["names", "--from-map", "map.csv"]).status(2);
    ran.warns(&["line 4: ", "line 7: none is not there"]);
}

#[test]
fn folders_are_renamed_after_what_is_in_them() {
    let names = ["top_1/in_2/deep_3/a_b", "top_1/x_y", "plain/a"];
    let desk = desk(&names);
    let args = [&["names"], &UNDERSCORES[..], &[".", "--folders", "--write"]].concat();
    desk.run(&args).status(0).says(&["5 renamed, 2 unchanged"]);
    assert_eq!(now(&desk, &names), ["top 1/in 2/deep 3/a b", "top 1/x y", "plain/a"]);
    desk.run(&["undo", "--preview"]).status(0).says(&["5 names would be restored"]);
    desk.run(&["undo"]).status(0).says(&["5 names restored"]);
    assert_eq!(now(&desk, &names), names);
    desk.run(&["undo", "2"]).status(0);
    assert_eq!(now(&desk, &names)[0], "top 1/in 2/deep 3/a b");
    desk.run(&[&["names"], &UNDERSCORES[..], &["plain/a", "--folders"]].concat())
        .status(0)
        .says(&["0 names would change"]);
}

#[test]
fn each_rename_is_asked_about() {
    let names = ["a_1", "b_1", "c_1", "d_1"];
    let desk = desk(&names);
    let args = [&["names"], &UNDERSCORES[..], &[".", "--write", "--ask"]].concat();
    let ran = desk.run_with(&args, b"take\n?\nleave\nt\nstop\n").status(0);
    ran.says(&["a_1\n     ×\n  → a·1\n     ^\n", "2 renamed, 2 left as you said"]);
    assert_eq!(now(&desk, &names), ["a 1", "b_1", "c 1", "d_1"]);
    desk.run_with(&args, b"take rest\n").status(0).says(&["2 renamed, 2 unchanged"]);
    // Whoever wants a name that is not given up after all is told.
    desk.write("map.csv", b"folder,old,new\n.,a 1,b 1\n.,b 1,x\n");
    let ran = desk.run_with(&["names", "--from-map", "map.csv", "--write", "--ask"], b"t\nl\n").status(3);
    ran.says(&["0 renamed, 1 left alone", "1 left as you said"]);
    desk.run(&["names", UNDERSCORES[0], UNDERSCORES[1], ".", "--ask"]).status(2).warns(&["--ask needs --write"]);
}

#[test]
fn nothing_is_renamed_where_that_could_not_be_put_back_or_is_not_expected() {
    let names = ["a_1", "b_1"];
    let desk = desk(&names);
    desk.write("once.wash.toml", b"[[rule]]\nexpect = 1\nremove = { chars = '_' }\n");
    let ran = desk.run(&["names", "-r", "once.wash.toml", "a_1", "b_1", "--write"]).status(4);
    ran.warns(&["expects 1 change, and makes 2\n  a_1\n  b_1\n"]);
    let args = [&["names"], &UNDERSCORES[..], &["a_1", "b_1", "--write"]].concat();
    let mut broken = desk.command();
    broken.env("WASHOUT_STATE", desk.path("once.wash.toml")).args(&args);
    let output = broken.output().unwrap();
    assert_eq!(output.status.code(), Some(3), "{output:?}");
    assert!(String::from_utf8_lossy(&output.stderr).contains("once.wash.toml cannot be used"), "{output:?}");
    assert_eq!(now(&desk, &names), names);
    desk.run(&[&args[..], &["--no-history"]].concat()).status(0).says(&["2 renamed"]);
    desk.run(&["history"]).status(0).says(&["No run has changed anything yet."]);
    desk.run(&["names", UNDERSCORES[0], UNDERSCORES[1]]).status(2).warns(&["whose names are to be changed?"]);
}

#[test]
fn a_folder_that_may_not_be_written_to_is_said_and_the_others_are_done() {
    let names = ["free/a_1", "shut/b_1"];
    let desk = desk(&names);
    let mode = |mode| fs::set_permissions(desk.path("shut"), fs::Permissions::from_mode(mode)).unwrap();
    mode(0o555);
    let ran = desk.run_bound(&[&["names"], &UNDERSCORES[..], &["free", "shut", "--write"]].concat());
    mode(0o755);
    ran.status(3)
        .warns(&["shut/b_1: the system refuses: permission denied"])
        .says(&["1 renamed, 1 failed (named above)"]);
    assert_eq!(now(&desk, &names), ["free/a 1", "shut/b_1"]);
}

#[test]
fn numbers_order_and_parts_of_names() {
    let names = ["scan 10.TIF", "scan 9.TIF", "scan 1.TIF"];
    let desk = desk(&names);
    let number = ["names", "--rule", "number = { width = 2, joined_with = ' - ' }", "."];
    desk.run(&[&number[..], &["--write"]].concat()).status(0);
    assert_eq!(now(&desk, &names), ["03 - scan 10.TIF", "02 - scan 9.TIF", "01 - scan 1.TIF"]);
    desk.run(&["undo"]).status(0);
    for (seconds, name) in names.iter().enumerate() {
        let time = std::time::UNIX_EPOCH + std::time::Duration::from_secs(1000 + seconds as u64);
        fs::File::options().write(true).open(desk.path(name)).unwrap().set_modified(time).unwrap();
    }
    desk.run(&[&number[..], &["--order", "modified", "--write"]].concat()).status(0);
    assert_eq!(now(&desk, &names)[0], "01 - scan 10.TIF");
    desk.run(&["undo"]).status(0);
    let lower = ["names", "--rule", "recase = { to = 'lower' }", "--part", "extension", ".", "--write"];
    desk.run(&lower).status(0).says(&["3 renamed"]);
    assert_eq!(now(&desk, &names)[0], "scan 10.tif");
    // A list of files, and a link that leads nowhere, which has a name too.
    std::os::unix::fs::symlink("nowhere", desk.path("link_1")).unwrap();
    let listed = [&["names"], &UNDERSCORES[..], &["--files-from", "-", "--write"]].concat();
    desk.run_with(&listed, b"link_1\nscan 9.tif\n").status(0).says(&["1 renamed, 1 unchanged"]);
    assert!(fs::symlink_metadata(desk.path("link 1")).unwrap().is_symlink());
}

#[test]
fn reports_hold_every_name_that_changes_or_cannot() {
    let desk = desk(&["s/a_<b>.txt", "s/c_.txt", "s/c .txt", "s/d"]);
    let args = [&["names"], &UNDERSCORES[..], &["s", "--report", "n.html", "--report", "n.jsonl"]].concat();
    desk.run(&args).status(0).says(&["The report is in n.jsonl", "The report is in n.html"]);
    assert_eq!(
        desk.read("n.jsonl"),
        "{\"folder\":\"s\",\"old\":\"a_<b>.txt\",\"new\":\"a <b>.txt\",\"state\":\"would change\",\"why\":null,\"rules\":[\"1\"]}\n\
         {\"folder\":\"s\",\"old\":\"c_.txt\",\"new\":\"c .txt\",\"state\":\"left\",\"why\":\"`c .txt` is there already\",\
         \"rules\":[\"1\"]}\n"
    );
    let page = desk.read("n.html");
    for part in [
        "1 name would change, 1 left alone, 2 unchanged",
        "<pre>a<del>_</del>&lt;b&gt;.txt</pre><pre>a<ins>·</ins>&lt;b&gt;.txt</pre>",
        "left alone: `c .txt` is there already",
    ] {
        assert!(page.contains(part), "no {part} in {page}");
    }
    assert!(
        !page.contains("<script") && !page.contains("http:") && !page.contains("https:"),
        "nothing runs and nothing is loaded"
    );
}
