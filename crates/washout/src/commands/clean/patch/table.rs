//! The patch of a table.
//!
//! Rules leave nearly every line of a table in its place, so the lines of both texts are compared from the top. Where they
//! part, the nearest lines that are the same again are looked for.

use std::io::{self, Read};

use washout_core::Program;
use washout_core::observe::NoObserver;
use washout_core::table::Form;
use washout_files::FileError;

use super::next_piece;
use super::unified::FilePatch;

/// How many lines ahead a line is looked for that is the same in both texts.
const AHEAD: usize = 16;

/// Washes a table, and reports to the patch what happens to each of its lines.
pub(super) fn compare(
    program: &Program,
    form: Form,
    reader: &mut dyn Read,
    patch: &mut FilePatch,
) -> Result<(), FileError> {
    let unsuited = |error: washout_core::table::TableError| FileError::Rule(error.into());
    let mut washer = program.washer_of(form, NoObserver).map_err(unsuited)?;
    let (mut piece, mut old, mut new) = (Vec::new(), Vec::new(), Vec::new());
    loop {
        next_piece(reader, &mut piece)?;
        if piece.is_empty() {
            break;
        }
        old.extend_from_slice(&piece);
        washer.push(&piece, &mut new).map_err(FileError::Rule)?;
        go_through(&mut old, &mut new, false, patch).map_err(FileError::Record)?;
    }
    washer.finish(&mut new).map_err(FileError::Rule)?;
    go_through(&mut old, &mut new, true, patch).map_err(FileError::Record)
}

/// Goes through the lines of both texts, as far as it is certain what belongs together, and removes them. `last`: no more
/// text follows.
fn go_through(old: &mut Vec<u8>, new: &mut Vec<u8>, last: bool, patch: &mut FilePatch) -> io::Result<()> {
    let whole = |text: &[u8]| if last { text.len() } else { last_line_end(text) };
    let lines = |text: &[u8]| -> Vec<(usize, usize)> {
        let ends = text[..whole(text)].split_inclusive(|byte| *byte == b'\n').scan(0, |start, line| {
            *start += line.len();
            Some((*start - line.len(), *start))
        });
        ends.collect()
    };
    // Without lines ahead no one can tell what belongs together.
    let ahead = if last { 0 } else { AHEAD };
    let news = lines(new);
    if news.len() <= ahead && !last {
        return Ok(()); // a long record is not over yet: the old text is not gone through for each of its pieces
    }
    let olds = lines(old);
    let one = |place: usize| olds.get(place).map(|(start, end)| &old[*start..*end]);
    let other = |place: usize| news.get(place).map(|(start, end)| &new[*start..*end]);
    let (mut at, mut to) = (0, 0);
    while at + ahead < olds.len() && to + ahead < news.len() {
        let (next, next_to) = same_again(at, to, &one, &other);
        if (next, next_to) == (at, to) {
            patch.same(&old[olds[at].0..olds[at].1])?;
            (at, to) = (at + 1, to + 1);
            continue;
        }
        let (end, end_to) = (next.min(olds.len()), next_to.min(news.len()));
        patch.differ(&old[olds[at].0..olds[end - 1].1], &new[news[to].0..news[end_to - 1].1])?;
        (at, to) = (end, end_to);
    }
    let start = |lines: &[(usize, usize)], at: usize, len: usize| lines.get(at).map_or(len, |(start, _)| *start);
    let (from, from_new) = (start(&olds, at, whole(old)), start(&news, to, whole(new)));
    if last {
        patch.differ(&old[from..], &new[from_new..])?;
    }
    old.drain(..from);
    new.drain(..from_new);
    Ok(())
}

/// The next lines of both texts that are the same; where there are none near, those after the next.
fn same_again<'t>(
    at: usize,
    to: usize,
    one: &impl Fn(usize) -> Option<&'t [u8]>,
    other: &impl Fn(usize) -> Option<&'t [u8]>,
) -> (usize, usize) {
    let is_same = |at: usize, to: usize| one(at).is_some_and(|line| other(to) == Some(line));
    // A line that became another is the usual case; after it, a cell that got more lines or fewer.
    let straight = (0..AHEAD).map(|step| (at + step, to + step)).find(|(at, to)| is_same(*at, *to));
    let mut pairs = (1..AHEAD).flat_map(|more| (1..AHEAD).map(move |less| (at + more, to + less)));
    let found = straight.or_else(|| pairs.find(|(at, to)| is_same(*at, *to)));
    found.unwrap_or((at + 1, to + 1))
}

/// Where the last whole line ends.
fn last_line_end(text: &[u8]) -> usize {
    text.iter().rposition(|byte| *byte == b'\n').map_or(0, |end| end + 1)
}
