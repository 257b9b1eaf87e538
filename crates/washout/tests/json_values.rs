//! What `--json` says of a small folder, value by value.

mod support;

use serde_json::{Value, json};
use support::TestDir;

/// Runs that come first, a command line, its exit status and the value it prints, without `version` and `command`.
struct Case {
    before: &'static [&'static [&'static str]],
    args: &'static [&'static str],
    status: i32,
    value: fn() -> Value,
}

const CASES: &[Case] = &[
    Case {
        before: &[],
        args: &["clean", "-r", "a.wash.toml", "log.txt", "stores.csv", "b.bin", "--json"],
        status: 0,
        value: || {
            json!({
                "preview": true,
                "run": null,
                "rules": [
                    {"rule": "1", "label": "no signs", "changes": 3, "files": 3},
                    {"rule": "2", "label": "trim blank at both edges", "changes": 3, "files": 2}
                ],
                "before": {"bytes": 38, "characters": 38, "lines": 5},
                "after": {"bytes": 32, "characters": 32, "lines": 5},
                "files": [
                    {"file": "b.bin", "state": "changed", "why": null, "changes": [1, 0]},
                    {"file": "log.txt", "state": "changed", "why": null, "changes": [1, 2]},
                    {"file": "stores.csv", "state": "changed", "why": null, "changes": [1, 1]}
                ]
            })
        },
    },
    Case {
        before: &[],
        args: &["clean", "-r", "a.wash.toml", "log.txt", "--write", "--json"],
        status: 0,
        value: || {
            json!({
                "preview": false,
                "run": 1,
                "rules": [
                    {"rule": "1", "label": "no signs", "changes": 1, "files": 1},
                    {"rule": "2", "label": "trim blank at both edges", "changes": 2, "files": 1}
                ],
                "before": {"bytes": 13, "characters": 13, "lines": 2},
                "after": {"bytes": 10, "characters": 10, "lines": 2},
                "files": [{"file": "log.txt", "state": "changed", "why": null, "changes": [1, 2]}]
            })
        },
    },
    Case {
        before: &[],
        args: &["names", "-r", "a.wash.toml", ".", "--json"],
        status: 0,
        value: || {
            json!({
                "preview": true,
                "run": null,
                "names": [
                    {
                        "folder": ".",
                        "old": "late #.txt",
                        "new": "late.txt",
                        "state": "would change",
                        "why": null,
                        "rules": ["1", "2"]
                    }
                ],
                "rules": [
                    {"rule": "1", "label": "no signs", "changes": 1, "names": 1},
                    {"rule": "2", "label": "trim blank at both edges", "changes": 1, "names": 1}
                ],
                "unchanged": 4
            })
        },
    },
    Case {
        before: &[],
        args: &["check", "-r", "a.wash.toml", "log.txt", "stores.csv", "--json"],
        status: 1,
        value: || {
            json!({
                "found": [
                    {
                        "file": "log.txt",
                        "record": null,
                        "field": null,
                        "line": 1,
                        "column": 1,
                        "rule": "1",
                        "label": "no signs",
                        "before": "#",
                        "after": ""
                    },
                    {
                        "file": "log.txt",
                        "record": null,
                        "field": null,
                        "line": 1,
                        "column": 2,
                        "rule": "2",
                        "label": "trim blank at both edges",
                        "before": " ",
                        "after": ""
                    },
                    {
                        "file": "log.txt",
                        "record": null,
                        "field": null,
                        "line": 1,
                        "column": 6,
                        "rule": "2",
                        "label": "trim blank at both edges",
                        "before": " ",
                        "after": ""
                    },
                    {
                        "file": "stores.csv",
                        "record": 1,
                        "field": "Item",
                        "line": 1,
                        "column": 4,
                        "rule": "2",
                        "label": "trim blank at both edges",
                        "before": " ",
                        "after": ""
                    },
                    {
                        "file": "stores.csv",
                        "record": 1,
                        "field": "Item",
                        "line": 1,
                        "column": 5,
                        "rule": "1",
                        "label": "no signs",
                        "before": "#",
                        "after": ""
                    }
                ],
                "left_out": [],
                "files": {"changed": 2, "unchanged": 0, "skipped": 0, "failed": 0}
            })
        },
    },
    Case {
        before: &[],
        args: &["survey", "stores.csv", "--json"],
        status: 0,
        value: || {
            json!({
                "files": 0,
                "bytes": 0,
                "characters": 0,
                "lines": 0,
                "empty_lines": 0,
                "line_ends": {"lf": 0, "crlf": 0, "cr": 0},
                "files_without_final_line_end": 0,
                "files_with_byte_order_mark": 0,
                "longest_line": null,
                "encodings": [{"encoding": "ASCII", "files": 1}],
                "unusual": [],
                "litter": [],
                "tables": [
                    {
                        "file": "stores.csv",
                        "records": 1,
                        "ragged": 0,
                        "fields": [
                            {
                                "name": "Item",
                                "cells": 1,
                                "empty": 0,
                                "different": 1,
                                "different_is_least": false,
                                "characters": {"shortest": 5, "longest": 5},
                                "characters_trimmed": {"shortest": 5, "longest": 5},
                                "findings": [],
                                "look_equal": [],
                                "unusual": []
                            },
                            {
                                "name": "Keeper",
                                "cells": 1,
                                "empty": 0,
                                "different": 1,
                                "different_is_least": false,
                                "characters": {"shortest": 3, "longest": 3},
                                "characters_trimmed": {"shortest": 3, "longest": 3},
                                "findings": [],
                                "look_equal": [],
                                "unusual": []
                            }
                        ]
                    }
                ],
                "skipped": [],
                "failed": []
            })
        },
    },
    Case {
        before: &[],
        args: &["trace", "-r", "a.wash.toml", "log.txt", "--json"],
        status: 0,
        value: || {
            json!({
                "sample": "log.txt",
                "text": "# fog \nclear\n",
                "ways": [
                    {
                        "name": "first",
                        "steps": [
                            {
                                "rule": "1",
                                "label": "no signs",
                                "changes": 1,
                                "before": {"bytes": 13, "characters": 13, "lines": 2},
                                "after": {"bytes": 12, "characters": 12, "lines": 2},
                                "text": " fog \nclear\n"
                            },
                            {
                                "rule": "2",
                                "label": "trim blank at both edges",
                                "changes": 2,
                                "before": {"bytes": 12, "characters": 12, "lines": 2},
                                "after": {"bytes": 10, "characters": 10, "lines": 2},
                                "text": "fog\nclear\n"
                            }
                        ],
                        "result": "fog\nclear\n",
                        "made": [],
                        "left_alone": null
                    }
                ],
                "failed": null
            })
        },
    },
    Case {
        before: &[],
        args: &["explain", "-r", "a.wash.toml", "--json"],
        status: 0,
        value: || {
            json!({
                "rules": [
                    {
                        "rule": "1",
                        "label": "no signs",
                        "does": ["Removes the character “#”."],
                        "sees": "line by line",
                        "pattern": [],
                        "cautions": []
                    },
                    {
                        "rule": "2",
                        "label": "trim blank at both edges",
                        "does": ["Removes spaces and tabs at both edges of each line."],
                        "sees": "line by line",
                        "pattern": [],
                        "cautions": []
                    }
                ],
                "cautions": [],
                "cut": {
                    "between": "lines",
                    "because_of": null,
                    "means": "Parts of a text, cut between lines, can be cleaned apart from each other."
                }
            })
        },
    },
    Case {
        before: &[],
        args: &["test", "a.wash.toml", "--json"],
        status: 0,
        value: || {
            json!({
                "sets": [
                    {
                        "set": "a.wash.toml",
                        "examples": [
                            {
                                "example": 1,
                                "label": null,
                                "rule": null,
                                "holds": true,
                                "given": "# a",
                                "gives": "a",
                                "got": "a",
                                "failed": null
                            }
                        ]
                    }
                ]
            })
        },
    },
    Case {
        before: &[&["clean", "-r", "a.wash.toml", "log.txt", "--write"]],
        args: &["history", "--json"],
        status: 0,
        value: || {
            json!({
                "runs": [
                    {
                        "run": 1,
                        "started": "TIME",
                        "ended": "TIME",
                        "state": "ended",
                        "place": "DIR",
                        "command": ["washout", "clean", "-r", "a.wash.toml", "log.txt", "--write"],
                        "rules": ["a.wash.toml"],
                        "kind": "contents",
                        "renamed": 0,
                        "rewritten": 1,
                        "changes": 3,
                        "bytes_kept": 13,
                        "undoes": null,
                        "undone_by": null,
                        "partly_undone_by": null
                    }
                ]
            })
        },
    },
    Case {
        before: &[&["clean", "-r", "a.wash.toml", "log.txt", "--write"]],
        args: &["history", "1", "--json"],
        status: 0,
        value: || {
            json!({
                "runs": [
                    {
                        "run": 1,
                        "started": "TIME",
                        "ended": "TIME",
                        "state": "ended",
                        "place": "DIR",
                        "command": ["washout", "clean", "-r", "a.wash.toml", "log.txt", "--write"],
                        "rules": ["a.wash.toml"],
                        "kind": "contents",
                        "renamed": 0,
                        "rewritten": 1,
                        "changes": 3,
                        "bytes_kept": 13,
                        "undoes": null,
                        "undone_by": null,
                        "partly_undone_by": null,
                        "names": [],
                        "files": [{"file": "DIR/log.txt", "bytes": 13, "outcome": "written"}]
                    }
                ]
            })
        },
    },
    Case {
        before: &[&["clean", "-r", "a.wash.toml", "log.txt", "--write"]],
        args: &["undo", "--preview", "--json"],
        status: 0,
        value: || {
            json!({
                "preview": true,
                "undoes": 1,
                "run": null,
                "names": [],
                "files": [{"file": "DIR/log.txt", "state": "would change", "why": null}],
                "removed": []
            })
        },
    },
    Case {
        before: &[&["names", "-r", "a.wash.toml", ".", "--write"]],
        args: &["undo", "--json"],
        status: 0,
        value: || {
            json!({
                "preview": false,
                "undoes": 1,
                "run": 2,
                "names": [{"folder": "DIR", "old": "late.txt", "new": "late #.txt", "state": "renamed", "why": null}],
                "files": [],
                "removed": []
            })
        },
    },
    Case {
        before: &[],
        args: &["learn", "--pair", "# fog", "fog", "--pair", "a #b", "a b", "--json"],
        status: 0,
        value: || {
            json!({
                "set": "[[rule]]\nlabel = \"remove characters #\"\nremove = { chars = \"#\", gap = \"close\" }\n\n[[example]]\ngiven = \"# fog\"\ngives = \"fog\"\n\n[[example]]\ngiven = \"a #b\"\ngives = \"a b\"\n",
                "readings": [
                    {"rules": ["remove = { chars = \"#\", gap = \"close\" }"], "differs": null},
                    {
                        "rules": ["remove = { pattern = \"# *\" }"],
                        "differs": {"line": "a #", "first": "a", "this": "a "}
                    },
                    {
                        "rules": ["remove = { pattern = \"# ?\" }"],
                        "differs": {"line": "#  fog", "first": "fog", "this": " fog"}
                    }
                ],
                "others": []
            })
        },
    },
    Case {
        before: &[],
        args: &["history", "prune", "--json"],
        status: 0,
        value: || {
            json!({
                "runs": [],
                "bytes_freed": 0,
                "bytes_kept": 0
            })
        },
    },
];

const RULES: &str = r"title = 'Log'
[[rule]]
label = 'no signs'
remove.chars = '#'
[[rule]]
trim = {}
[[example]]
given = '# a'
gives = 'a'
";

/// Times, and paths of this machine, are left out.
fn redacted(value: Value, folder: &str) -> Value {
    match value {
        Value::Object(members) => {
            let member = |(key, value): (String, Value)| match (key.as_str(), value) {
                ("started" | "ended", Value::String(_)) => (key, json!("TIME")),
                (_, value) => (key, redacted(value, folder)),
            };
            Value::Object(members.into_iter().map(member).collect())
        }
        Value::Array(values) => values.into_iter().map(|value| redacted(value, folder)).collect(),
        Value::String(text) => json!(text.replace(folder, "DIR").replace(env!("CARGO_BIN_EXE_washout"), "washout")),
        other => other,
    }
}

#[test]
fn each_command_says_what_it_found_and_did() {
    for Case { before, args, status, value } in CASES {
        let desk = TestDir::with(&[
            ("a.wash.toml", RULES),
            ("log.txt", "# fog \nclear\n"),
            ("stores.csv", "Item,Keeper\noil #,Vey\n"),
            ("late #.txt", ""),
            ("b.bin", "a\0#"),
        ]);
        before.iter().for_each(|run| drop(desk.run(run).status(0)));
        let ran = desk.run(args).status(*status);
        let mut said: Value = serde_json::from_slice(&ran.out).unwrap_or_else(|error| panic!("{error}\n{ran}"));
        let members = said.as_object_mut().expect("an object");
        let (version, command) = (members.remove("version"), members.remove("command"));
        assert_eq!(
            (version, command.as_ref()),
            (Some(json!(1)), Some(&json!(if args.contains(&"prune") { "history prune" } else { args[0] }))),
            "{ran}"
        );
        let folder = desk.path("").canonicalize().expect("a folder");
        assert_eq!(redacted(said, &folder.to_string_lossy()), value(), "{ran}");
    }
}
