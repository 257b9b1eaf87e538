//! How fast cells in memory are washed, by column and one by one.
//!
//! `cargo bench --profile dist -p washout-bench --bench columns`

use divan::Bencher;
use divan::counter::ItemsCount;
use washout_bench::{Dirt, TABLE_RULES, log};
use washout_core::{Program, RuleSet};

const CELLS: usize = 1_000_000;

fn main() {
    divan::main();
}

/// Ten rules for cells.
fn ten_rules() -> Program {
    let of_table = TABLE_RULES.split_once("[[rule]]").expect("rules").1;
    let more = r#"
        [[rule]]
        remove = { words = ["um", "uh", "er"], case = "ignore" }
        [[rule]]
        replace = { class = "double-quote", with = '"' }
        [[rule]]
    "#;
    let set = RuleSet::read("ten rules", &format!("{more}{of_table}")).expect("good rules");
    Program::compile([&set])
}

/// Lines, of which cells are the start.
fn cells(dirt: Dirt) -> Vec<u8> {
    log(CELLS * 90, dirt)
}

fn short(text: &[u8]) -> Vec<Option<&[u8]>> {
    text.split(|byte| *byte == b'\n').take(CELLS).map(|line| Some(&line[..line.len().min(24)])).collect()
}

/// One thread, all cells of a column.
#[divan::bench(args = [Dirt::None, Dirt::Some, Dirt::All], sample_count = 5)]
fn column(bencher: Bencher, dirt: Dirt) {
    let (text, program) = (cells(dirt), ten_rules());
    let cells = short(&text);
    let washer = program.column_washer().expect("rules for cells");
    bencher.counter(ItemsCount::new(cells.len())).bench_local(|| washer.wash(&cells[..], 0..cells.len()));
}

/// Each cell as a text of its own.
#[divan::bench(args = [Dirt::None, Dirt::Some, Dirt::All], sample_count = 5)]
fn one_by_one(bencher: Bencher, dirt: Dirt) {
    let (text, program) = (cells(dirt), ten_rules());
    let cells = &short(&text)[..20_000];
    let apply = |program: &Program, cell: Option<&[u8]>| program.apply(cell.unwrap_or_default()).map(drop);
    bencher
        .counter(ItemsCount::new(cells.len()))
        .bench_local(|| cells.iter().try_for_each(|cell| apply(&program, *cell)));
}
