//! A million names: through rules, and planned.
//!
//! `cargo bench --profile dist -p washout-bench --bench names`

use divan::Bencher;
use divan::counter::ItemsCount;
use washout_core::names::{NameRequest, NameSettings, NameWasher, Planner};
use washout_core::{Program, RuleSet};

const NAMES: usize = 1_000_000;

fn main() {
    divan::main();
}

fn name(number: usize) -> String {
    format!("Marrow_Point - lamp_room_[site 4]_(scan {number}) FINAL.tif")
}

/// What a folder of names becomes, by how they stand in each other's way.
#[derive(Clone, Copy, Debug)]
enum NameShape {
    /// Every name becomes one that is free.
    Free,
    /// Every name becomes the next one: a single chain.
    Chain,
    /// Pairs swap their names.
    Swaps,
    /// One cycle through all of them.
    Cycle,
    /// All want one name.
    OneName,
}

/// Planning alone: names in, steps out.
#[divan::bench(args = [NameShape::Free, NameShape::Chain, NameShape::Swaps, NameShape::Cycle, NameShape::OneName], sample_count = 3)]
fn plan(bencher: Bencher, shape: NameShape) {
    let entries: Vec<(String, bool, NameRequest)> = (0..NAMES)
        .map(|number| {
            let new = match shape {
                NameShape::Free => format!("lamp room {number:07}.tif"),
                NameShape::Chain => name(number + 1),
                NameShape::Swaps => name(number ^ 1),
                NameShape::Cycle => name((number + 1) % NAMES),
                NameShape::OneName => "lamp room.tif".to_owned(),
            };
            (name(number), false, NameRequest::Become(new.into_bytes()))
        })
        .collect();
    bencher.counter(ItemsCount::new(NAMES)).bench_local(|| Planner::default().plan(&entries));
}

/// Every name through the rules of the demo, one thread.
#[divan::bench(sample_count = 3)]
fn wash(bencher: Bencher) {
    let set = RuleSet::read("scans", include_str!("../../demo/scans.wash.toml")).expect("rules of the demo");
    let washer = NameWasher::new(&Program::compile([&set]), &NameSettings::default());
    let names: Vec<String> = (0..NAMES).map(name).collect();
    bencher.counter(ItemsCount::new(NAMES)).bench_local(|| {
        let mut washer = washer.clone();
        names.iter().filter(|name| washer.wash(name.as_bytes(), false).request != NameRequest::Stay).count()
    });
}
