//! Writes the texts of the benchmarks to files.
use washout_bench::{Dirt, log};
fn main() {
    for (name, dirt) in [("clean", Dirt::None), ("little", Dirt::Little), ("some", Dirt::Some), ("all", Dirt::All)] {
        std::fs::write(format!("/tmp/t_{name}.txt"), log(100_000_000, dirt)).unwrap();
    }
    std::fs::write("/tmp/twelve.wash.toml", washout_bench::TWELVE_RULES).unwrap();
}
