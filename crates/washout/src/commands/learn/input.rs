//! The pairs that rules are learnt from, and the lines that they are shown on.

use std::fs;
use std::path::Path;

use washout_core::learn::Pair;
use washout_core::text::BOM;
use washout_files::{Choice, ChooseError, Globs, Take, choose};

use crate::args::LearnArgs;
use crate::exit::Trouble;
use crate::show::visible::{shown, shown_path};

/// The most lines that rules are shown on, and the longest one, in bytes.
const MOST_LINES: usize = 20_000;
const LONGEST_LINE: usize = 4096;

/// The longest text that is learnt from as a whole, in bytes.
const LONGEST_TEXT: usize = 64 << 10;

/// Lines of which it is not known what they should become.
#[derive(Default)]
pub(super) struct OtherLines {
    pub(super) lines: Vec<String>,
    /// There were more lines than are looked at.
    pub(super) is_cut: bool,
}

/// All pairs that are given.
pub(super) fn pairs(args: &LearnArgs) -> Result<Vec<Pair>, Trouble> {
    let mut pairs: Vec<Pair> = args.pair.chunks(2).map(|pair| Pair::new(&pair[0], &pair[1])).collect();
    match &args.files[..] {
        [] => {}
        [table] => pairs.extend(of_table(table)?),
        [before, after, ..] => pairs.extend(of_texts(before, after)?),
    }
    if pairs.is_empty() {
        let help = "give --pair 'as it is' 'as it should be', a table of two columns, or two texts";
        return Err(Trouble::Usage(format!("there is no pair to learn from: {help}")));
    }
    if args.names {
        let is_name = |name: &str| !name.is_empty() && !name.contains(['/', '\0', '\n']);
        if let Some(pair) = pairs.iter().find(|pair| !is_name(&pair.before) || !is_name(&pair.after)) {
            let texts = format!("“{}”, “{}”", shown(&pair.before), shown(&pair.after));
            return Err(Trouble::Usage(format!(
                "{texts}: with --names, both are names of files, without their folders"
            )));
        }
    }
    if let Some(pair) = pairs.iter().find(|pair| pair.before.len().max(pair.after.len()) > LONGEST_TEXT) {
        let start: String = pair.before.chars().take(40).collect();
        let help = "give a part of it that shows what should change";
        return Err(Trouble::Usage(format!(
            "the text that starts with “{}” has more than 64 KiB: {help}",
            shown(&start)
        )));
    }
    Ok(pairs)
}

fn of_table(path: &Path) -> Result<Vec<Pair>, Trouble> {
    let bytes = read(path)?;
    let is_tsv = path
        .extension()
        .is_some_and(|extension| extension.eq_ignore_ascii_case("tsv") || extension.eq_ignore_ascii_case("tab"));
    let pairs = Pair::read_table(&bytes, if is_tsv { b'\t' } else { b',' });
    pairs.map_err(|why| Trouble::Usage(format!("{}: {}", shown_path(path), shown(&why))))
}

fn read(path: &Path) -> Result<Vec<u8>, Trouble> {
    let not_there = |cause| Trouble::Choose(ChooseError::NotThere { path: path.to_owned(), cause });
    fs::read(path).map_err(not_there)
}

fn of_texts(before: &Path, after: &Path) -> Result<Vec<Pair>, Trouble> {
    let (before, after) = (text(before)?, text(after)?);
    Ok(Pair::of_texts(&before, &after))
}

fn text(path: &Path) -> Result<String, Trouble> {
    let bytes = read(path)?;
    let bytes = bytes.strip_prefix(BOM).unwrap_or(&bytes);
    let text = String::from_utf8(bytes.to_vec());
    text.map_err(|_| Trouble::Usage(format!("{} is not UTF-8: rules are learnt from UTF-8 texts", shown_path(path))))
}

/// Each different line of the files, or name in the folders, that rules are shown on.
pub(super) fn others(args: &LearnArgs) -> Result<OtherLines, Trouble> {
    let mut others = OtherLines::default();
    if args.others.is_empty() {
        return Ok(others);
    }
    let take = if args.names { Take::Names } else { Take::Contents };
    let choice = Choice { paths: args.others.clone(), globs: Globs::new(&[], &[])?, take, ..Choice::default() };
    let chosen = choose(&choice)?;
    let mut seen = std::collections::HashSet::new();
    for path in chosen.files.iter().map(|file| &file.path) {
        let lines = if args.names { name_of(path).into_iter().collect() } else { lines_of(path)? };
        for line in lines {
            if others.lines.len() == MOST_LINES || line.len() > LONGEST_LINE {
                others.is_cut = true;
            } else if seen.insert(line.clone()) {
                others.lines.push(line);
            }
        }
    }
    Ok(others)
}

fn name_of(path: &Path) -> Option<String> {
    path.file_name()?.to_str().map(str::to_owned)
}

/// The lines of a file that are UTF-8.
fn lines_of(path: &Path) -> Result<Vec<String>, Trouble> {
    let bytes = read(path)?;
    let bytes = bytes.strip_prefix(BOM).unwrap_or(&bytes);
    let lines = bytes.split(|byte| *byte == b'\n').map(|line| line.strip_suffix(b"\r").unwrap_or(line));
    Ok(lines
        .filter(|line| !line.is_empty())
        .filter_map(|line| std::str::from_utf8(line).ok())
        .map(str::to_owned)
        .collect())
}
