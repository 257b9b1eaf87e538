//! Tables, texts and rule sets that make a naive program take quadratic time or memory, of n, 2n and 4n parts.

use std::error::Error;
use std::fs;

use crate::goals::table;
use crate::process::{Cost, Ways, best};

const ROUNDS: usize = 3;

/// Parts of the smallest.
const PARTS: usize = 100_000;

/// What it is; the name of the file; its content for a number of parts; the words of the command.
type HardLine = (&'static str, &'static str, fn(usize) -> String, &'static [&'static str]);

fn rule(rule: &str) -> String {
    format!("[[rule]]\n{rule}\n")
}

const TRIM: &[&str] = &["clean", "--rule", "trim = {}", "shape.csv"];
const SET: &[&str] = &["clean", "-r", "shape.toml", "fog.txt"];

const SHAPES: &[HardLine] = &[
    ("a header with an open quotation mark", "shape.csv", |n| format!("\"a{}", "b,c\n".repeat(n)), TRIM),
    (
        "a survey of an open record",
        "shape.csv",
        |n| format!("a,b\n1,\"2{}", "x,y\n".repeat(n)),
        &["survey", "shape.csv"],
    ),
    (
        "a survey of one long line of JSON",
        "shape.jsonl",
        |n| format!("{{\"a\":\"{}\"}}\n", "fog ".repeat(n)),
        &["survey", "shape.jsonl"],
    ),
    (
        "a survey of cells that look alike",
        "shape.csv",
        |n| (0..n).fold("a\n".to_owned(), |table, number| table + &format!("Fenn{}\u{200B}{number}\n", number % 7)),
        &["survey", "shape.csv"],
    ),
    (
        "a survey of cells that are all different",
        "shape.csv",
        |n| (0..n).fold("a\n".to_owned(), |table, number| table + &format!("{number}\n")),
        &["survey", "shape.csv"],
    ),
    (
        "a patch of one line",
        "shape.txt",
        |n| "um fog ".repeat(n / 4) + "\n",
        &["clean", "--rule", "remove.words = 'um'", "--patch", "shape.txt"],
    ),
    (
        "a survey of characters that come once, on one line",
        "shape.txt",
        |n| (0x80..0x80 + u32::try_from(n).unwrap_or(0)).filter_map(char::from_u32).collect(),
        &["survey", "shape.txt"],
    ),
    (
        "columns of one name",
        "shape.csv",
        |n| format!("{}\n{}\n", vec!["a"; n / 10].join(","), vec!["1"; n / 10].join(",")),
        TRIM,
    ),
    (
        "a rule for one of many columns of one name",
        "shape.csv",
        |n| format!("{}\n{}\n", vec!["a"; n / 10].join(","), vec!["1"; n / 10].join(",")),
        &["clean", "--rule", "{ fields = 'a', trim = {} }", "shape.csv"],
    ),
    ("a cell of quotation marks", "shape.csv", |n| format!("a,b\n\"{}\",x\n", "\"\"".repeat(n)), TRIM),
    (
        "a long text to look for",
        "shape.toml",
        |n| rule(&format!("replace = {{ text = \"{}\", with = \"x\" }}", "fog lamp ".repeat(n / 9))),
        SET,
    ),
    (
        "pairs",
        "pairs.csv",
        |n| {
            (0..n)
                .fold(String::new(), |table, number| table + &format!("word{},x{number}\n", number * 7919 % 1_000_003))
        },
        &["clean", "--rule", "replace.pairs_from = 'pairs.csv'", "fog.txt"],
    ),
    ("groups of a pattern", "shape.toml", |n| rule(&format!("remove.pattern = '{}'", "(a)".repeat(n / 20))), SET),
    (
        "ways of a pattern, explained",
        "shape.toml",
        |n| {
            let words: Vec<String> = (0..n / 20).map(|number| format!("w{number}")).collect();
            rule(&format!("remove.pattern = '{}'", words.join("|")))
        },
        &["explain", "-r", "shape.toml"],
    ),
];

/// Measures each at three sizes.
pub(crate) fn linear(ways: &Ways) -> Result<(), Box<dyn Error>> {
    let mut shown = table(&["what", "seconds, n", "2 n", "4 n", "MiB, n", "4 n"]);
    fs::write(ways.path("fog.txt"), "fog word5\n")?;
    for (what, file, make, words) in SHAPES {
        let mut costs: Vec<Cost> = Vec::new();
        for times in [1, 2, 4] {
            fs::write(ways.path(file), make(times * PARTS))?;
            let rounds = (0..ROUNDS).map(|_| ways.washout_says(words)).collect::<Result<Vec<_>, _>>()?;
            costs.extend(best(rounds));
        }
        let seconds: Vec<f64> = costs.iter().map(|cost| cost.time.as_secs_f64()).collect();
        let memory = |cost: &Cost| format!("{}", cost.memory.div_ceil(1 << 20));
        let [short, middle, long] = seconds[..] else { return Err("a size is missing".into()) };
        let times = [short, middle, long].map(|seconds| format!("{seconds:.3}"));
        shown.add_row(std::iter::once((*what).to_owned()).chain(times).chain([memory(&costs[0]), memory(&costs[2])]));
        if long > 10.0 * short && long > 0.5 {
            return Err(format!("{what} take more than linear time: {short:.3} s, {long:.3} s").into());
        }
    }
    println!("\n{shown}");
    Ok(())
}
