//! How fast texts go through twelve ordinary rules, and what each kind of rule costs.
//!
//! `cargo bench --profile dist -p washout-bench`

use divan::Bencher;
use divan::counter::BytesCount;
use regex::bytes::Regex;
use washout_bench::{
    Dirt, Script, TABLE_RULES, TWELVE_PATTERNS, log, log_in, made_up_words, plain_table_loop, stores, twelve_rules,
};
use washout_core::observe::{Detail, Lineage, NoObserver};
use washout_core::survey::{Detectors, Surveyor};
use washout_core::table::{Form, TableFormat};
use washout_core::{Program, RuleSet};

const SIZE: usize = 8 << 20;
const DIRT: &[Dirt] = &[Dirt::None, Dirt::Little, Dirt::Some, Dirt::All];

fn main() {
    divan::main();
}

/// One thread, in memory.
#[divan::bench(args = DIRT, sample_count = 10)]
fn twelve_rules_in_memory(bencher: Bencher, dirt: Dirt) {
    let (program, text) = (twelve_rules(), log(SIZE, dirt));
    bencher.counter(BytesCount::new(text.len())).bench_local(|| program.apply(divan::black_box(&text)));
}

/// The plain way: one `replace_all` per rule over the whole text.
#[divan::bench(args = DIRT, sample_count = 5)]
fn plain_loop_over_regex(bencher: Bencher, dirt: Dirt) {
    let rules: Vec<(Regex, &str)> =
        TWELVE_PATTERNS.iter().map(|(pattern, with)| (Regex::new(pattern).expect("a pattern"), *with)).collect();
    let text = log(SIZE, dirt);
    bencher.counter(BytesCount::new(text.len())).bench_local(|| {
        rules.iter().fold(text.clone(), |text, (regex, with)| regex.replace_all(&text, with.as_bytes()).into_owned())
    });
}

/// A table of which two fields of seven are cleaned, on one thread.
#[divan::bench(args = DIRT, sample_count = 10)]
fn table_passes(bencher: Bencher, dirt: Dirt) {
    let set = RuleSet::read("stores", TABLE_RULES).expect("rules");
    let (program, table) = (Program::compile([&set]), stores(SIZE, dirt));
    let form = Form::Table(TableFormat::Csv);
    bencher.counter(BytesCount::new(table.len())).bench_local(|| program.apply_as(form, divan::black_box(&table)));
}

/// The plain way with a table: a reader and a writer of CSV, and one `replace_all` per rule and cell.
#[divan::bench(args = DIRT, sample_count = 3)]
fn plain_loop_over_a_table(bencher: Bencher, dirt: Dirt) {
    let table = stores(SIZE, dirt);
    let bytes = BytesCount::new(table.len());
    bencher.counter(bytes).bench_local(|| plain_table_loop(&table[..], Vec::with_capacity(SIZE)).expect("in memory"));
}

/// With every change followed to where it came from, as a preview does.
#[divan::bench(args = DIRT, sample_count = 5)]
fn twelve_rules_observed(bencher: Bencher, dirt: Dirt) {
    let (program, text) = (twelve_rules(), log(SIZE, dirt));
    bencher.counter(BytesCount::new(text.len())).bench_local(|| {
        let mut washer = program.washer(Lineage::new(12, Detail::Around { context: 512 }));
        let (mut washed, mut hunks) = (Vec::new(), 0);
        for chunk in text.chunks(256 << 10) {
            washer.push(chunk, &mut washed).expect("plain rules");
            hunks += washer.observer().take_hunks().len();
            washed.clear();
        }
        washer.finish(&mut washed).expect("plain rules");
        hunks + washer.into_observer().finish().len()
    });
}

/// A survey of one text, one thread.
#[divan::bench(args = DIRT, sample_count = 10)]
fn survey(bencher: Bencher, dirt: Dirt) {
    let (detectors, text) = (Detectors::new(), log(SIZE, dirt));
    bencher.counter(BytesCount::new(text.len())).bench_local(|| {
        let mut surveyor = Surveyor::new(&detectors, false);
        text.chunks(256 << 10).for_each(|chunk| surveyor.push(chunk));
        surveyor.finish()
    });
}

/// What a survey is measured by: how often each byte occurs.
#[divan::bench(args = [Dirt::None, Dirt::All], sample_count = 10)]
fn counting_bytes(bencher: Bencher, dirt: Dirt) {
    let text = log(SIZE, dirt);
    bencher.counter(BytesCount::new(text.len())).bench_local(|| {
        let mut counts = [0_u64; 256];
        divan::black_box(&text).iter().for_each(|byte| counts[usize::from(*byte)] += 1);
        counts
    });
}

/// Each of the twelve rules by itself, on text in which three lines of ten are dirty.
#[divan::bench(args = 0..12, sample_count = 10)]
fn one_rule(bencher: Bencher, rule: usize) {
    let set = RuleSet::read("bench", washout_bench::TWELVE_RULES).expect("good rules");
    let set = RuleSet { rules: vec![set.rules[rule].clone()], ..set };
    let (program, text) = (Program::compile([&set]), log(SIZE, Dirt::Some));
    bencher.counter(BytesCount::new(text.len())).bench_local(|| program.apply(divan::black_box(&text)));
}

/// A rule of each kind by itself, on text in which three lines of ten are dirty.
const KINDS: &[(&str, &str)] = &[
    ("characters anywhere", "remove.class = ['control', 'invisible']"),
    ("characters at edges", "remove = { chars = '#*', at = 'edges' }"),
    ("one string", "replace = { text = '(draft)', with = '' }"),
    ("a pattern", "remove.pattern = '[a-z]+-[a-z]+'"),
    ("a pattern with groups", r"replace = { pattern = '(\d\d)\.(\d\d)', with = '$2-$1' }"),
    ("a pattern that looks around", "remove.pattern = '(?<=oil) for'"),
    ("a stock pattern", "remove.stock = 'timestamp'"),
    ("between marks", "remove.between = ['(', ')']"),
    ("positions", "remove.positions = '1..3'"),
    ("keep", "keep = { words = ['lamp', 'wind', 'fog'], joined_with = ' ' }"),
    ("collapse", "collapse.chars = ' '"),
    ("recase", "recase.to = 'upper'"),
    ("normalize", "normalize.form = 'NFC'"),
    ("drop lines", "drop_lines.text = 'fog'"),
    ("drop repeats", "drop_repeats.scope = 'file'"),
    ("join lines", "join_lines = { with = ' ', paragraphs = 'keep' }"),
    ("break lines", "break_lines.text = '.'"),
    ("line ends", "line_ends.to = 'crlf'"),
];

#[divan::bench(args = KINDS.iter().map(|(kind, _)| *kind), sample_count = 10)]
fn one_kind(bencher: Bencher, kind: &str) {
    let (_, rule) = KINDS.iter().find(|(other, _)| *other == kind).expect("one of them");
    let set = RuleSet::read_one_rule("bench", rule).expect("a good rule");
    let (program, text) = (Program::compile([&set]), log(SIZE, Dirt::Some));
    bencher.counter(BytesCount::new(text.len())).bench_local(|| program.apply(divan::black_box(&text)));
}

/// How much goes through all rules at once.
#[divan::bench(args = [4, 16, 64, 128, 256, 1_024, 8_192], sample_count = 10)]
fn blocks_of_kib(bencher: Bencher, kib: usize) {
    let (program, text) = (twelve_rules(), log(SIZE, Dirt::Some));
    bencher.counter(BytesCount::new(text.len())).bench_local(|| {
        let mut washer = program.washer(NoObserver).with_block_size(kib << 10);
        let mut washed = Vec::with_capacity(text.len());
        washer.push(divan::black_box(&text), &mut washed).expect("plain rules");
        washer.finish(&mut washed).expect("plain rules");
        washed
    });
}

/// The search for lines that any rule may act on, by itself: nothing is changed, and nothing copied.
#[divan::bench(args = [Script::Ascii, Script::Mixed], sample_count = 10)]
fn candidate_lines(bencher: Bencher, script: Script) {
    let (program, text) = (twelve_rules(), log_in(script, SIZE, Dirt::None));
    assert!(program.surely_leaves(&text), "no line is one");
    bencher.counter(BytesCount::new(text.len())).bench_local(|| program.surely_leaves(divan::black_box(&text)));
}

/// Word lists of ten to a hundred thousand made-up words of every initial, none of which is in the text.
#[divan::bench(args = [10, 100, 1_000, 10_000, 100_000], sample_count = 10)]
fn word_list(bencher: Bencher, entries: usize) {
    let words: Vec<String> = made_up_words(entries).map(|word| format!("\"{word}\"")).collect();
    let rule = format!("remove = {{ words = [{}] }}", words.join(","));
    let set = RuleSet::read_one_rule("bench", &rule).expect("a good rule");
    let (program, text) = (Program::compile([&set]), log(SIZE, Dirt::Some));
    bencher.counter(BytesCount::new(text.len())).bench_local(|| program.apply(divan::black_box(&text)));
}

/// The same with a replacement for each word.
#[divan::bench(args = [10, 10_000, 100_000], sample_count = 10)]
fn pairs_of_words(bencher: Bencher, entries: usize) {
    let pairs: Vec<String> = made_up_words(entries).map(|word| format!("[\"{word}\", \"x\"]")).collect();
    let rule = format!("replace = {{ pairs = [{}], whole_words = true }}", pairs.join(","));
    let set = RuleSet::read_one_rule("bench", &rule).expect("a good rule");
    let (program, text) = (Program::compile([&set]), log(SIZE, Dirt::Some));
    bencher.counter(BytesCount::new(text.len())).bench_local(|| program.apply(divan::black_box(&text)));
}
