//! Every stock pattern finds what its lines say, nothing in its near misses, and what the reference finds, however a
//! text comes in.

mod reference;
mod support;

use proptest::collection::vec;
use proptest::prelude::*;
use proptest::sample::select;
use washout_core::stock::Stock;
use washout_core::{Program, RuleSet};

/// A rule that marks what the pattern finds.
fn marking(stock: Stock) -> RuleSet {
    let rule = format!("replace = {{ stock = '{}', with = '«»' }}", stock.name());
    RuleSet::read_one_rule(stock.name(), &rule).expect("a good rule")
}

fn washed(rules: &RuleSet, text: &str) -> String {
    let outcome = Program::compile([rules]).apply(text.as_bytes()).expect("no pattern that looks around");
    String::from_utf8_lossy(outcome.text()).into_owned()
}

/// `marked` with what stands between « and » left out.
fn emptied(marked: &str) -> String {
    let mut parts = marked.split('«');
    let first = parts.next().unwrap_or_default().to_owned();
    parts.fold(first, |text, part| text + "«»" + part.split_once('»').expect("a closing mark").1)
}

#[test]
fn every_pattern_takes_and_leaves_what_its_lines_say() {
    let mut failed = Vec::new();
    for stock in Stock::ALL {
        let rules = marking(*stock);
        for marked in stock.matching_lines() {
            let got = washed(&rules, &marked.replace(['«', '»'], ""));
            if got != emptied(marked) {
                failed.push(format!("{}: {marked:?} gives {got:?}", stock.name()));
            }
        }
        for line in stock.near_misses() {
            let got = washed(&rules, line);
            if got != *line {
                failed.push(format!("{}: {line:?} gives {got:?}", stock.name()));
            }
        }
        let counts = (stock.matching_lines().len(), stock.near_misses().len());
        assert!(counts.0 >= 6 && counts.1 >= 6, "{} has {counts:?} lines", stock.name());
    }
    assert!(failed.is_empty(), "{}", failed.join("\n"));
}

const PIECES: &[&str] = &[
    "12",
    "1936",
    "-",
    "/",
    ".",
    ":",
    ",",
    "05",
    "Nov",
    " ",
    " ",
    "  ",
    "\n",
    "\r\n",
    "\n\n",
    "\r",
    "T",
    "Z",
    "[",
    "]",
    "(",
    ")",
    "{",
    "00:01:02,000 --> 00:01:04,000",
    "cue",
    "7",
    "Keeper",
    "Mr",
    "M.",
    "Harrow",
    "fog",
    "<",
    ">",
    "b",
    "\"",
    "http://a.example",
    "www.a.example",
    "@",
    "#",
    "&",
    "x",
    "720p",
    "copy",
    "_",
    "-copy",
    "(2)",
    "1 ",
    "2 ",
    "3 ",
    "9 ",
    "\u{1B}[0m",
    "é",
    "\u{9B}",
    "page",
    "xii",
    "123e4567-e89b-12d3-a456-426614174000",
    "14:05",
    "am",
    "C",
    "de ",
    "d’",
    ", Jr",
    "PhD",
    " III",
    "Chapter",
    "!",
    "…",
    "”",
    "etc",
    "no",
    "p.m",
    "I",
];

fn rule() -> impl Strategy<Value = String> {
    let names: Vec<&str> = Stock::ALL.iter().map(|stock| stock.name()).collect();
    let at = select(vec!["anywhere", "start", "end", "edges", "whole-line"]);
    (select(names), at, any::<bool>(), any::<bool>(), select(vec!["all", "last"])).prop_map(
        |(name, at, option, removes, which)| {
            let option = match name {
                "line-number" if option => ", rising = true",
                "cue-range" if option => ", number = true",
                _ => "",
            };
            let target = format!("stock = '{name}', at = '{at}', which = '{which}'{option}");
            if removes { format!("remove = {{ {target} }}") } else { format!("replace = {{ {target}, with = 'X' }}") }
        },
    )
}

/// Brackets of several kinds, and what follows the text from line to line, the reference does not know.
fn has_reference(rule: &str) -> bool {
    !["bracketed", "rising", "number = true"].iter().any(|beyond| rule.contains(beyond))
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 1500, ..ProptestConfig::default() })]

    #[test]
    fn a_stock_pattern_is_found_as_the_reference_finds_it_however_the_text_comes_in(rule in rule(), text in vec(select(PIECES), 0..40)) {
        let rules = RuleSet::read("random", &format!("[[rule]]\n{rule}\n")).map_err(|error| TestCaseError::fail(error.to_string()))?;
        let text = text.concat();
        let (want, changes) = if has_reference(&rule) {
            reference::apply(&rules, text.as_bytes())
        } else {
            let whole = Program::compile([&rules]).apply(text.as_bytes()).expect("no pattern that looks around");
            (whole.text().to_vec(), whole.changes().to_vec())
        };
        support::check_all_ways(&rules, text.as_bytes(), &want, &changes).map_err(TestCaseError::fail)?;
    }
}
