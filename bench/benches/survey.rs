//! How fast files are surveyed, against counting their bytes.
//!
//! `cargo bench --profile dist -p washout-bench --bench survey`

use std::fs::File;
use std::io::Read;

use divan::Bencher;
use divan::counter::BytesCount;
use washout_bench::{Dirt, log};
use washout_core::table::TableSettings;
use washout_files::{Charsets, Choice, Chosen, Meter, Stop, choose, survey_all};

const FILES: usize = 8;
const SIZE: usize = 8 << 20;

fn main() {
    divan::main();
}

/// A folder of files, and the list of them.
fn files(dirt: Dirt) -> (tempfile::TempDir, Chosen) {
    let folder = tempfile::tempdir().expect("a temporary folder");
    let text = log(SIZE, dirt);
    for number in 0..FILES {
        std::fs::write(folder.path().join(format!("{number}.txt")), &text).expect("a written file");
    }
    let chosen = choose(&Choice { paths: vec![folder.path().to_owned()], ..Choice::default() }).expect("a folder");
    (folder, chosen)
}

/// Every processor.
#[divan::bench(args = [Dirt::None, Dirt::Little, Dirt::Some, Dirt::All], sample_count = 5)]
fn survey_in_parallel(bencher: Bencher, dirt: Dirt) {
    let (_folder, chosen) = files(dirt);
    let count = BytesCount::new(FILES * SIZE);
    bencher.counter(count).bench_local(|| {
        survey_all(
            &chosen.files,
            false,
            &TableSettings::default(),
            Charsets::default(),
            &Stop::new(),
            &Meter::default(),
        )
    });
}

/// How often each byte occurs: one thread.
#[divan::bench(sample_count = 5)]
fn counting_bytes(bencher: Bencher) {
    let (_folder, chosen) = files(Dirt::None);
    let mut buffer = vec![0; 256 << 10];
    bencher.counter(BytesCount::new(FILES * SIZE)).bench_local(|| {
        let mut counts = [0_u64; 256];
        for file in &chosen.files {
            let mut file = File::open(&file.path).expect("a file");
            loop {
                let read = file.read(&mut buffer).expect("a readable file");
                if read == 0 {
                    break;
                }
                buffer[..read].iter().for_each(|byte| counts[usize::from(*byte)] += 1);
            }
        }
        counts
    });
}
