//! What people get wrong, besides rules: tables of names, project files, pairs and command lines. Each mistake is named with its
//! place and what to do, and nothing changes.

mod support;

use support::{Ran, TestDir};

/// Tables of new names, and the messages about their lines.
const MAPS: &[(&str, &str)] = &[
    ("", "line 1: the first line has to be: folder,old,new"),
    ("old,new\na.txt,c.txt\n", "line 1: the first line has to be: folder,old,new"),
    ("folder,old\n.,a.txt\n", "line 1: the first line has to be: folder,old,new"),
    ("folder,old,new\n.,a.txt\n", "line 2: it has 2 columns, not folder, old, new"),
    ("folder,old,new\n.,a.txt,c.txt,d\n", "line 2: it has 4 columns, not folder, old, new"),
    ("folder,old,new\n.,a.txt,\n", "line 2: `` cannot be the new name: nothing would be left of the name"),
    (
        "folder,old,new\n.,a.txt,sub/c.txt\n",
        "line 2: `sub/c.txt` cannot be the new name: a `/` parts folders, and cannot stand in a name",
    ),
    ("folder,old,new\n.,a.txt,..\n", "line 2: `..` cannot be the new name: `.` and `..` stand for folders"),
    ("folder,old,new\n.,a.txt,.\n", "line 2: `.` cannot be the new name: `.` and `..` stand for folders"),
    ("folder,old,new\n.,gone.txt,c.txt\n", "line 2: gone.txt is not there"),
    (
        "folder,old,new\n.,a.txt,c.txt\n.,b.txt,c.txt\n",
        "line 2: `c.txt` cannot be the new name: `b.txt` would have the same name\nline 3: `c.txt` cannot be the new name: `a.txt` would have the same name",
    ),
    ("folder,old,new\n.,a.txt,c.txt\n.,a.txt,d.txt\n", "line 3: a.txt stands on line 2 already"),
    ("folder,old,new\n.,a.txt,b.txt\n", "line 2: `b.txt` cannot be the new name: `b.txt` is there already"),
    ("folder,old,new\nnowhere,a.txt,c.txt\n", "line 2: the folder nowhere is not there"),
    ("folder,old,new\n.,\"a.txt,c.txt\n", "line 2: it has 2 columns, not folder, old, new"),
    ("folder,old,new\n/etc,passwd,x\n", "line 2: /etc/passwd is out of the folders that were named"),
    ("folder,old,new\n..,a.txt,x\n", "line 2: ../a.txt is out of the folders that were named"),
    ("[[rule]]\ntrim = {}\n", "line 1: the first line has to be: folder,old,new"),
];

/// Project files, and the messages about them.
const PROJECTS: &[(&str, &str)] = &[
    (
        "",
        r#"
error: missing field `apply`
  ╭▸ DIR/washout.toml:1:1
  │
1 │
  │ ━
  │
  ╰ help: a project file has [[apply]] with rules = ["FILE"], and only = ["GLOB"], except =
          ["GLOB"] if wanted

washout: nothing was opened"#,
    ),
    (
        "x = 1\n",
        r#"
error: unknown field `x`, expected `apply`
  ╭▸ DIR/washout.toml:1:1
  │
1 │ x = 1
  │ ━
  │
  ╰ help: a project file has [[apply]] with rules = ["FILE"], and only = ["GLOB"], except =
          ["GLOB"] if wanted

washout: nothing was opened"#,
    ),
    (
        "[[apply]]\n",
        r#"
error: missing field `rules`
  ╭▸ DIR/washout.toml:1:1
  │
1 │ [[apply]]
  │ ━━━━━━━━━
  │
  ╰ help: a project file has [[apply]] with rules = ["FILE"], and only = ["GLOB"], except =
          ["GLOB"] if wanted

washout: nothing was opened"#,
    ),
    (
        "[[apply]]\nrules = 'a.wash.toml'\n",
        r#"
error: invalid type: string "a.wash.toml", expected a sequence
  ╭▸ DIR/washout.toml:2:9
  │
2 │ rules = 'a.wash.toml'
  │         ━━━━━━━━━━━━━
  │
  ╰ help: a project file has [[apply]] with rules = ["FILE"], and only = ["GLOB"], except =
          ["GLOB"] if wanted

washout: nothing was opened"#,
    ),
    (
        "[[apply]]\nrules = []\n",
        r"
washout: in DIR/washout.toml, [[apply]] number 1 names no rules",
    ),
    (
        "[[apply]]\nrules = ['gone.wash.toml']\n",
        r"
washout: the rule set gone.wash.toml cannot be read: no such file or directory",
    ),
    (
        "[[apply]]\nrules = ['a.wash.toml']\nonly = ['[']\n",
        r"
washout: the glob `[` cannot be read: unclosed character class; missing ']'
Nothing was opened.",
    ),
    (
        "[[apply]]\nrules = ['a.wash.toml']\nonly = ['*.md']\n",
        r"
washout: no rules of DIR/washout.toml are for any of these files
Its `only` and `except` say which files rules are for, from its folder",
    ),
    (
        "[[apply]]\nrules = ['../a.wash.toml']\n",
        r"
washout: the rule set ../a.wash.toml cannot be read: no such file or directory",
    ),
    (
        "[[apply]]\nrules = ['a.wash.toml']\nexept = ['x']\n",
        r#"
error: unknown field `exept`, expected one of `rules`, `only`, `except`
  ╭▸ DIR/washout.toml:3:1
  │
3 │ exept = ['x']
  │ ━━━━━
  │
  ╰ help: a project file has [[apply]] with rules = ["FILE"], and only = ["GLOB"], except =
          ["GLOB"] if wanted

washout: nothing was opened"#,
    ),
    (
        "[apply]\nrules = ['a.wash.toml']\n",
        r#"
error: invalid type: map, expected a sequence
  ╭▸ DIR/washout.toml:1:1
  │
1 │ [apply]
  │ ━━━━━━━
  │
  ╰ help: a project file has [[apply]] with rules = ["FILE"], and only = ["GLOB"], except =
          ["GLOB"] if wanted

washout: nothing was opened"#,
    ),
    (
        "[[apply]]\nrules = ['ready:nothing']\n",
        r"
washout: there is no ready set `nothing`; there are ready:transcript, ready:captions, ready:scanned-page, ready:prose, ready:source-code, ready:tokens, ready:people, ready:file-names, ready:armour",
    ),
    (
        "[[apply]]\nrules = ['my:nothing']\n",
        r"
washout: the rule set my:nothing cannot be read: /root/.config/washout/nothing.wash.toml: no such file or directory",
    ),
    (
        "[[apply]]\nrules = ['a.wash.toml', 3]\n",
        r#"
error: invalid type: integer `3`, expected a string
  ╭▸ DIR/washout.toml:2:25
  │
2 │ rules = ['a.wash.toml', 3]
  │                         ━
  │
  ╰ help: a project file has [[apply]] with rules = ["FILE"], and only = ["GLOB"], except =
          ["GLOB"] if wanted

washout: nothing was opened"#,
    ),
    (
        "[[apply]\n",
        r#"
error: unclosed array table, expected `]`
  ╭▸ DIR/washout.toml:1:9
  │
1 │ [[apply]
  │         ━
  │
  ╰ help: a project file has [[apply]] with rules = ["FILE"], and only = ["GLOB"], except =
          ["GLOB"] if wanted

washout: nothing was opened"#,
    ),
];

/// Command lines, with the exit status and the message of each.
const LINES: &[(&[&str], i32, &str)] = &[
    (
        &["learn"],
        2,
        r"
washout: there is no pair to learn from: give --pair 'as it is' 'as it should be', a table of two columns, or two texts",
    ),
    (
        &["learn", "log.txt"],
        2,
        r"
washout: log.txt: line 1 has one column, not two columns: a text as it is, and as it should be",
    ),
    (
        &["learn", "gone.csv"],
        2,
        r"
washout: gone.csv: no such file or directory
Nothing was opened.",
    ),
    (
        &["learn", "--pair", "a", "a"],
        1,
        r"
washout: each text is the same before and after, so there is nothing to learn",
    ),
    (
        &["learn", "empty.csv"],
        2,
        r"
washout: there is no pair to learn from: give --pair 'as it is' 'as it should be', a table of two columns, or two texts",
    ),
    (
        &["learn", "one.csv"],
        2,
        r"
washout: one.csv: line 1 has one column, not two columns: a text as it is, and as it should be",
    ),
    (
        &["learn", "--names", "--pair", "a/b", "c"],
        2,
        r"
washout: “a/b”, “c”: with --names, both are names of files, without their folders",
    ),
    (
        &["learn", "--pair", "fog", "lamp", "--pair", "fog", "light"],
        1,
        r"
washout: pairs 1 and 2 are the same before, and not the same after:
  “fog” → “lamp”
  “fog” → “light”
Take one of them out.",
    ),
    (
        &["learn", "--seconds", "0", "--pair", "a", "b"],
        1,
        r"
washout: the time was over before any rules were found: --seconds allows more",
    ),
    (
        &["learn", "log.txt", "log.txt"],
        1,
        r"
washout: each text is the same before and after, so there is nothing to learn",
    ),
    (
        &["learn", "--pair", "a#", "a", "--save", "log.txt"],
        2,
        r"
washout: log.txt exists; name another file, or replace it with --overwrite
Nothing was done.",
    ),
    (
        &["learn", "--pair", "a#", "a", "--for", "gone.txt"],
        2,
        r"
washout: gone.txt: no such file or directory
Nothing was opened.",
    ),
    (
        &["clean"],
        2,
        r##"
washout: no rules given, and no washout.toml here or in a folder above
Name a rule set with -r FILE, or give a rule: --rule 'remove.chars = "#-"'
To write a project file, which says which rules are for which files: washout init"##,
    ),
    (
        &["clean", "log.txt"],
        2,
        r##"
washout: no rules given, and no washout.toml here or in a folder above
Name a rule set with -r FILE, or give a rule: --rule 'remove.chars = "#-"'
To write a project file, which says which rules are for which files: washout init"##,
    ),
    (
        &["clean", "gone.txt", "-r", "a.wash.toml"],
        2,
        r"
washout: gone.txt: no such file or directory
Nothing was opened.",
    ),
    (
        &["clean", "log.txt", "-r", "gone.wash.toml"],
        2,
        r"
washout: the rule set gone.wash.toml cannot be read: no such file or directory",
    ),
    (
        &["clean", "log.txt", "b.txt", "-r", "a.wash.toml", "--stdout"],
        2,
        r"
washout: --stdout takes one file; --into writes copies of several",
    ),
    (
        &["clean", "log.txt", "-r", "a.wash.toml", "--only-rule", "7"],
        2,
        r"
washout: there is no rule `7`
Rules that are on: 1",
    ),
    (
        &["clean", "log.txt", "-r", "a.wash.toml", "--only-rule", "fog"],
        2,
        r"
washout: there is no rule `fog`
Rules that are on: 1",
    ),
    (
        &["clean", "log.txt", "-r", "a.wash.toml", "--report", "log.txt"],
        2,
        r"
washout: log.txt: a report is a page, NAME.html, or a line for each change, NAME.jsonl",
    ),
    (
        &["clean", "log.txt", "-r", "a.wash.toml", "--report", "r.pdf"],
        2,
        r"
washout: r.pdf: a report is a page, NAME.html, or a line for each change, NAME.jsonl",
    ),
    (
        &["clean", "log.txt", "-r", "a.wash.toml", "--report", "no/r.html"],
        2,
        r"
washout: no/r.html cannot be written: no such file or directory
Nothing was done.",
    ),
    (
        &["clean", "log.txt", "-r", "a.wash.toml", "--report", "b.txt", "--overwrite"],
        2,
        r"
washout: b.txt: a report is a page, NAME.html, or a line for each change, NAME.jsonl",
    ),
    (
        &["clean", "log.txt", "-r", "a.wash.toml", "--encoding", "klingon"],
        2,
        r"
error: invalid value 'klingon' for '--encoding <LABEL>': it is not a label of the WHATWG Encoding Standard, such as windows-1252, iso-8859-2, shift_jis, gb18030 or utf-16le

For more information, try '--help'.",
    ),
    (
        &["clean", "log.txt", "-r", "a.wash.toml", "--max-memory", "lots"],
        2,
        r"
error: invalid value 'lots' for '--max-memory <SIZE>': write a number and a unit, such as 200MiB or 1GB

For more information, try '--help'.",
    ),
    (
        &["clean", "log.txt", "-r", "a.wash.toml", "--delimiter", "ab"],
        2,
        r"
error: invalid value 'ab' for '--delimiter <CHAR>': it must be one ASCII character, and not a quotation mark, letter or digit

For more information, try '--help'.",
    ),
    (
        &["clean", "log.txt", "-r", "a.wash.toml", "--table", "xls"],
        2,
        r"
error: invalid value 'xls' for '--table <KIND>'
  [possible values: csv, tsv, jsonl, json, text]

For more information, try '--help'.",
    ),
    (
        &["clean", "log.txt", "-r", "a.wash.toml", "--jobs", "0"],
        2,
        r"
error: invalid value '0' for '--jobs <N>': write a whole number, at least 1

For more information, try '--help'.",
    ),
    (
        &["clean", "log.txt", "-r", "a.wash.toml", "--into", "log.txt"],
        2,
        r"
washout: log.txt is a file, and --into names a folder for the copies
Nothing was done.",
    ),
    (
        &["clean", "log.txt", "-r", "a.wash.toml", "--into", "."],
        3,
        r"
washout: log.txt: the copy would be the file itself; --write cleans files in place; left as it was",
    ),
    (
        &["clean", "log.txt", "-r", "a.wash.toml", "--write", "--into", "out"],
        2,
        r"
error: the argument '--write' cannot be used with '--into <DIR>'

Usage: washout clean --rules <FILE> --write <PATH>...

For more information, try '--help'.",
    ),
    (
        &["clean", "-r", "a.wash.toml", "--only", "[", "."],
        2,
        r"
washout: the glob `[` cannot be read: unclosed character class; missing ']'
Nothing was opened.",
    ),
    (
        &["clean", "-r", "a.wash.toml", "--only", "*.zip", "."],
        2,
        r"
washout: there is no file to clean
Hidden files and those that ignore files name are left out; --with-hidden and --with-ignored take them, and --only and --except leave out more",
    ),
    (
        &["clean", "-r", "run:7", "log.txt"],
        2,
        r"
washout: there is no run 7 in the history; `history` lists them",
    ),
    (
        &["clean", "-r", "my:gone", "log.txt"],
        2,
        r"
washout: the rule set my:gone cannot be read: /root/.config/washout/gone.wash.toml: no such file or directory",
    ),
    (
        &["clean", "-r", "ready:gone", "log.txt"],
        2,
        r"
washout: there is no ready set `gone`; there are ready:transcript, ready:captions, ready:scanned-page, ready:prose, ready:source-code, ready:tokens, ready:people, ready:file-names, ready:armour",
    ),
    (
        &["clean", "--rule", "remove", "log.txt"],
        2,
        r##"
error: a verb needs a table, even an empty one
  ╭▸ --rule:1:6
  │
1 │ remove
  │      ━ here
  │
  ╰ help: write remove = { chars = "#-" }

washout: 1 problem in the rules; nothing was opened"##,
    ),
    (
        &["clean", "--rule", "", "log.txt"],
        2,
        r"
error: this rule does nothing
  ╭▸ --rule:1:1
  │
1 │
  │ ━ no verb
  │
  ╰ help: a rule has one of `remove`, `replace`, `keep`, `collapse`, `trim`, `recase`,
          `normalize`, `plain_letters`, `decode`, `drop_lines`, `keep_lines`, `drop_repeats`,
          `join_lines`, `break_lines`, `wrap_lines`, `line_ends`, `tabs`, `pad`, `number`,
          `drop_records`, `drop_fields`, `rename_fields`, `include`

washout: 1 problem in the rules; nothing was opened",
    ),
    (
        &["clean", "-r", "log.txt", "log.txt"],
        2,
        r"
washout: there is no rule that is on
A rule starts with [[rule]] on a line of its own",
    ),
    (
        &["clean", "-r", ".", "log.txt"],
        2,
        r"
washout: the rule set . cannot be read: is a directory",
    ),
    (
        &["clean", "-r", "a.wash.toml", "--first", "0", "log.txt"],
        2,
        r"
error: invalid value '0' for '--first <N>': write a whole number, at least 1

For more information, try '--help'.",
    ),
    (
        &["clean", "-r", "a.wash.toml", "log.txt", "--fields", "Item"],
        3,
        r"
washout: log.txt: this is not a table, and only some fields of one were asked for; --table csv, tsv, jsonl or json says that it is a table all the same; left as it was",
    ),
    (
        &["undo"],
        2,
        r"
washout: there is no run to undo
washout history lists all runs; one that has been undone already can be named",
    ),
    (
        &["undo", "7"],
        2,
        r"
washout: there is no run 7 in the history; `history` lists them",
    ),
    (
        &["history", "7"],
        2,
        r"
washout: there is no run 7 in the history; `history` lists them",
    ),
    (
        &["again"],
        2,
        r"
washout: no run of rules in DIR or below
washout history lists all runs",
    ),
    (
        &["again", "7"],
        2,
        r"
washout: there is no run 7 in the history; `history` lists them",
    ),
    (
        &["check"],
        2,
        r##"
washout: no rules given, and no washout.toml here or in a folder above
Name a rule set with -r FILE, or give a rule: --rule 'remove.chars = "#-"'
To write a project file, which says which rules are for which files: washout init"##,
    ),
    (
        &["names"],
        2,
        r##"
washout: no rules given
Name a rule set with -r FILE, or give a rule: --rule 'remove.chars = "#-"'"##,
    ),
    (
        &["names", "."],
        2,
        r##"
washout: no rules given
Name a rule set with -r FILE, or give a rule: --rule 'remove.chars = "#-"'"##,
    ),
    (
        &["survey", "gone"],
        2,
        r"
washout: gone: no such file or directory
Nothing was opened.",
    ),
    (
        &["spellout", "gone"],
        2,
        r"
washout: gone cannot be read: no such file or directory",
    ),
    (
        &["explain"],
        2,
        r##"
washout: no rules given
Name a rule set with -r FILE, or give a rule: --rule 'remove.chars = "#-"'"##,
    ),
    (
        &["stock", "gone"],
        2,
        r"
washout: there is nothing called `gone` in stock
See what there is: washout stock",
    ),
    (
        &["stock", "timestmp"],
        2,
        r"
washout: there is nothing called `timestmp` in stock; did you mean `timestamp`?
See what there is: washout stock",
    ),
    (
        &["demo", "--into", "."],
        2,
        r"
washout: . is not empty, and the demo writes over nothing; name a new folder",
    ),
    (
        &["watch"],
        2,
        r"
washout: what is to be done with files that are saved?
--write cleans them in place, --into DIR writes cleaned copies, --names renames them",
    ),
    (
        &["watch", "-r", "a.wash.toml", "log.txt"],
        2,
        r"
washout: what is to be done with files that are saved?
--write cleans them in place, --into DIR writes cleaned copies, --names renames them",
    ),
    (
        &["cleann", "log.txt"],
        2,
        r"
error: unrecognized subcommand 'cleann'

  tip: some similar subcommands exist: 'learn', 'clean'

Usage: washout [OPTIONS] <COMMAND>

For more information, try '--help'.",
    ),
    (
        &["clean", "log.txt", "--wirte"],
        2,
        r"
error: unexpected argument '--wirte' found

  tip: a similar argument exists: '--write'

Usage: washout clean --write <PATH>...

For more information, try '--help'.",
    ),
    (
        &["wash", "log.txt"],
        2,
        r"
error: there is no command `wash` here: `washout clean -r RULES PATH...` shows what rules change; with --write it changes the files

Usage: washout [OPTIONS] <COMMAND>

For more information, try '--help'.",
    ),
    (
        &["clean", "log.txt", "-r", "a.wash.toml", "--patch", "--write"],
        2,
        r"
error: the argument '--patch' cannot be used with '--write'

Usage: washout clean --rules <FILE> --patch <PATH>...

For more information, try '--help'.",
    ),
];

/// What a run says that is refused, with the paths of this machine left out.
fn said(desk: &TestDir, ran: &Ran) -> String {
    let said = ran.err.replace(&*desk.path("").canonicalize().expect("a folder").to_string_lossy(), "DIR");
    said.replace(env!("CARGO_BIN_EXE_washout"), "washout").trim_end().to_owned()
}

fn desk(files: &[(&str, &str)]) -> TestDir {
    let desk = TestDir::with(files);
    desk.write("a.wash.toml", b"[[rule]]\nremove.chars = '#'\n");
    desk.write("log.txt", b"# fog\n");
    desk.write("b.txt", b"b\n");
    desk
}

#[test]
fn a_table_of_names_is_carried_out_whole_or_not_at_all() {
    let mut wrong = Vec::new();
    for (table, want) in MAPS {
        let desk = TestDir::with(&[("a.txt", ""), ("b.txt", ""), ("map.csv", table)]);
        let ran = desk.run(&["names", "--from-map", "map.csv", ".", "--write"]).status(2);
        let said = said(&desk, &ran);
        let lines: Vec<&str> = said.lines().map(str::trim).collect();
        assert_eq!(lines.last(), Some(&"Nothing was renamed."), "{table}\n{said}");
        assert_eq!(desk.files(), ["a.txt", "b.txt", "map.csv"], "{table}\n{said}");
        if lines[1..lines.len() - 1].join("\n") != *want {
            wrong.push(format!("{table}\n{said}"));
        }
    }
    assert!(wrong.is_empty(), "{}", wrong.join("\n"));
}

#[test]
fn a_project_file_that_means_nothing_is_shown_where_it_does() {
    let mut wrong = Vec::new();
    for (project, want) in PROJECTS {
        let desk = desk(&[("washout.toml", project)]);
        let ran = desk.run(&["clean", "--write"]).status(2);
        assert_eq!(desk.read("log.txt"), "# fog\n", "{project}");
        if said(&desk, &ran) != want.trim_start() {
            wrong.push(format!("{project}\n{}", said(&desk, &ran)));
        }
    }
    assert!(wrong.is_empty(), "{}", wrong.join("\n"));
}

#[test]
fn a_command_line_that_cannot_be_meant_is_answered_with_what_to_do() {
    let mut wrong = Vec::new();
    for (args, status, want) in LINES {
        let desk = desk(&[("one.csv", "before\nfog\n"), ("empty.csv", "")]);
        let before = desk.files();
        let ran = desk.run(args);
        assert_eq!((desk.files(), desk.read("log.txt")), (before, "# fog\n".to_owned()), "{args:?}");
        if said(&desk, &ran) != want.trim_start() || ran.status != *status {
            wrong.push(format!("{args:?} {}\n{}", ran.status, said(&desk, &ran)));
        }
    }
    assert!(wrong.is_empty(), "{}", wrong.join("\n"));
}
