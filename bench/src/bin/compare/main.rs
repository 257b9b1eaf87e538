//! Washout, plain loops and mere copying, side by side in one run: `bench/compare`.
//!
//! Every time is that of a whole process, from its start to its end, the best of a few rounds in turn. Results that differ
//! from those of the plain loop make the run fail.

mod goals;
mod keeping;
mod looking;
mod machine;
mod plain;
mod process;
mod shapes;
mod workload;

use std::error::Error;
use std::path::{Path, PathBuf};

use goals::Goal;
use machine::Host;
use process::Ways;
use washout_bench::TWELVE_PATTERNS;

fn main() -> Result<(), Box<dyn Error>> {
    let args: Vec<String> = std::env::args().skip(1).collect();
    match args.iter().map(String::as_str).collect::<Vec<_>>()[..] {
        ["plain", from, to] => Ok(plain::plain_loop(TWELVE_PATTERNS, from.as_ref(), to.as_ref())?),
        ["plain-line", from, to] => Ok(plain::plain_loop(plain::LINE_PATTERNS, from.as_ref(), to.as_ref())?),
        ["plain-files", folder] => Ok(plain::plain_files(folder.as_ref())?),
        ["copy", from, to] => Ok(plain::copy(from.as_ref(), to.as_ref())?),
        ["plain-table", from, to] => plain::plain_table(from.as_ref(), to.as_ref()),
        ["count", path] => Ok(looking::count(path.as_ref())?),
        ["read", folder] => Ok(plain::read_all(folder.as_ref())?),
        ["text", to, what, bytes, dirt] => Ok(workload::write_text(to.as_ref(), what, bytes.parse()?, dirt)?),
        ["hello"] => {
            println!("washout");
            Ok(())
        }
        [washout] => compare(washout, 1 << 30),
        [washout, "--tables"] => in_memory(washout, workload::tables),
        [washout, "--dirt"] => in_memory(washout, |ways, goals| {
            workload::dirt(ways, goals)?;
            workload::threads(ways, goals)
        }),
        [washout, "--looking"] => in_memory(washout, looking::looking),
        [washout, "--keeping"] => in_folder(washout, &tempfile::tempdir()?, keeping::keeping),
        [washout, "--linear"] => in_memory(washout, |ways, _| {
            workload::linear(ways)?;
            shapes::linear(ways)
        }),
        [washout, "--full"] => {
            compare(washout, 10 << 30)?;
            in_memory(washout, looking::looking)?;
            in_folder(washout, &tempfile::tempdir()?, keeping::keeping)
        }
        _ => Err("bench/compare [--full | --tables | --dirt | --linear | --looking | --keeping]".into()),
    }
}

fn compare(washout: &str, large: u64) -> Result<(), Box<dyn Error>> {
    in_memory(washout, |ways, goals| {
        workload::dirt(ways, goals)?;
        workload::threads(ways, goals)?;
        workload::tables(ways, goals)?;
        workload::long_line(ways)?;
        workload::linear(ways)?;
        shapes::linear(ways)?;
        workload::lists(ways, goals)?;
        workload::small_files(ways, goals)?;
        workload::start(ways)?;
        workload::memory(ways, large, goals)
    })
}

fn in_memory(
    washout: &str,
    work: impl FnOnce(&Ways, &mut Vec<Goal>) -> Result<(), Box<dyn Error>>,
) -> Result<(), Box<dyn Error>> {
    // In memory where there is such a place: a disk that is busy with what was written before tells nothing.
    let memory = Path::new("/dev/shm");
    let folder = if memory.is_dir() { tempfile::tempdir_in(memory)? } else { tempfile::tempdir()? };
    in_folder(washout, &folder, work)
}

fn in_folder(
    washout: &str,
    folder: &tempfile::TempDir,
    work: impl FnOnce(&Ways, &mut Vec<Goal>) -> Result<(), Box<dyn Error>>,
) -> Result<(), Box<dyn Error>> {
    let ways = Ways::new(PathBuf::from(washout), folder.path())?;
    let mut goals = Vec::new();
    let host = Host::now();
    work(&ways, &mut goals)?;
    goals::print(&goals);
    host.tell();
    Ok(())
}
