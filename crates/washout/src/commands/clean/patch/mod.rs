//! `--patch`: a unified diff that patch programs apply.

use std::io::Write;
use std::ops::Range;
use std::path::Path;
use std::time::{Duration, Instant};

use similar::{Algorithm, DiffOp, capture_diff_slices_deadline, group_diff_ops};
use washout_core::{Detail, Form, Lineage, NoObserver, Program, Side, WashError};
use washout_files::{Chosen, FileError, Stop, read_text};

use super::ask::lines_len;
use crate::exit::{Exit, Trouble};
use crate::out::say_failed;

/// A difference that takes longer to be made small is left larger.
const LONGEST_DIFFERENCE: Duration = Duration::from_secs(2);
/// Unchanged lines around changes.
const CONTEXT: usize = 3;
/// A byte order mark, which is in no rule's text.
const MARK: &[u8] = b"\xEF\xBB\xBF";

/// Writes the difference of every file.
pub(super) fn run(program: &Program, chosen: &Chosen, stop: &Stop, out: &mut impl Write) -> Result<Exit, Trouble> {
    let mut failed = !chosen.failed.is_empty();
    for (path, error) in &chosen.failed {
        say_failed(path, error, out)?;
    }
    for file in &chosen.files {
        if stop.is_requested() {
            out.flush()?;
            return Ok(Exit::Interrupted);
        }
        let washed = read_text(&file.path).and_then(|text| {
            let Ok(before) = text else { return Ok(None) };
            wash(program, &file.path, before).map(Some).map_err(FileError::Rule)
        });
        match washed {
            Ok(Some(washed)) => write_patch(&file.path, &washed, out)?,
            Ok(None) => {}
            Err(error) => {
                failed = true;
                say_failed(&file.path, &error, out)?;
            }
        }
    }
    out.flush()?;
    Ok(if failed { Exit::SomeFailed } else { Exit::Done })
}

/// Lines as patch programs know them: they end at LF and nothing else.
fn lines(text: &[u8]) -> Vec<&[u8]> {
    text.split_inclusive(|byte| *byte == b'\n').collect()
}

fn write_patch(path: &Path, text: &Washed, out: &mut impl Write) -> Result<(), Trouble> {
    let Washed { before, after, stretches } = text;
    if before == after {
        return Ok(());
    }
    let (old, new) = (lines(before), lines(after));
    out.write_all(b"--- ")?;
    write_name("a", path, out)?;
    out.write_all(b"+++ ")?;
    write_name("b", path, out)?;
    for group in group_diff_ops(ops(before, after, stretches), CONTEXT) {
        write_hunk(&group, &old, &new, out)?;
    }
    Ok(())
}

/// A stretch that changed, in bytes of the text before and of the text after.
#[derive(Clone, Debug, PartialEq, Eq)]
struct Stretch {
    before: Range<usize>,
    after: Range<usize>,
}

struct Washed {
    before: Vec<u8>,
    after: Vec<u8>,
    stretches: Vec<Stretch>,
}

fn wash(program: &Program, path: &Path, before: Vec<u8>) -> Result<Washed, WashError> {
    let form = program.form(path.extension().and_then(|extension| extension.to_str()));
    if form != Form::Text || program.is_for_tables() {
        return wash_table(program, form, before);
    }
    let mut washer = program.washer(Lineage::new(program.names().len(), Detail::All));
    let mut after = Vec::new();
    washer.push(&before, &mut after)?;
    washer.finish(&mut after)?;
    let marks = |text: &[u8]| if text.starts_with(MARK) { MARK.len() } else { 0 };
    let (mut at, mut new_at) = (marks(&before), marks(&after));
    let mut stretches = Vec::new();
    if at != new_at {
        stretches.push(Stretch { before: 0..at, after: 0..new_at });
    }
    let mut line = 1;
    for hunk in washer.into_observer().finish() {
        let same = lines_len(&before[at..], hunk.first_line - line);
        (at, new_at) = (at + same, new_at + same);
        let len = |is_on: fn(Side) -> bool| -> usize {
            hunk.pieces.iter().filter(|piece| is_on(piece.side)).map(|piece| piece.bytes.len()).sum()
        };
        let (old_len, new_len) =
            (len(|side| !matches!(side, Side::Put(_))), len(|side| !matches!(side, Side::Removed(_))));
        stretches.push(Stretch { before: at..at + old_len, after: new_at..new_at + new_len });
        (at, new_at) = (at + old_len, new_at + new_len);
        line = hunk.first_line + hunk.lines_before;
    }
    let stretches = whole_lines(&before, &after, stretches);
    Ok(Washed { before, after, stretches })
}

/// Of a table: lines that differ from those in the same place, as long as no cell gets more lines or fewer.
fn wash_table(program: &Program, form: Form, before: Vec<u8>) -> Result<Washed, WashError> {
    let mut washer = program.washer_of(form, NoObserver)?;
    let mut after = Vec::new();
    washer.push(&before, &mut after)?;
    washer.finish(&mut after)?;
    let (old, new) = (lines(&before), lines(&after));
    let deadline = Some(Instant::now() + LONGEST_DIFFERENCE);
    let ops = if old.len() == new.len() {
        let differing = (0..old.len()).filter(|line| old[*line] != new[*line]);
        differing.map(|line| (line..line + 1, line..line + 1)).collect()
    } else {
        let ops = capture_diff_slices_deadline(Algorithm::Myers, &old, &new, deadline);
        let changed = ops.iter().filter(|op| !matches!(op, DiffOp::Equal { .. }));
        changed.map(|op| (op.old_range(), op.new_range())).collect::<Vec<_>>()
    };
    let starts = |lines: &[&[u8]]| -> Vec<usize> {
        let ends = lines.iter().scan(0, |end, line| {
            *end += line.len();
            Some(*end)
        });
        std::iter::once(0).chain(ends).collect()
    };
    let (old, new) = (starts(&old), starts(&new));
    let stretch = |(one, other): (Range<usize>, Range<usize>)| Stretch {
        before: old[one.start]..old[one.end],
        after: new[other.start]..new[other.end],
    };
    let stretches = whole_lines(&before, &after, ops.into_iter().map(stretch).collect());
    Ok(Washed { before, after, stretches })
}

/// The stretches made to start and end where lines do in both texts; those that meet are one.
fn whole_lines(before: &[u8], after: &[u8], stretches: Vec<Stretch>) -> Vec<Stretch> {
    let starts_line = |text: &[u8], at: usize| at == 0 || at == text.len() || text[at - 1] == b'\n';
    let at_lines = |old: usize, new: usize| starts_line(before, old) && starts_line(after, new);
    let mut whole: Vec<Stretch> = Vec::new();
    let mut stretches = stretches.into_iter().peekable();
    while let Some(mut stretch) = stretches.next() {
        let floor = whole.last().map_or(0, |last| last.before.end);
        // What is around a stretch is the same in both texts, so both edges move by as much.
        while stretch.before.start > floor && !at_lines(stretch.before.start, stretch.after.start) {
            stretch.before.start -= 1;
            stretch.after.start -= 1;
        }
        loop {
            let ceiling = stretches.peek().map_or(before.len(), |next| next.before.start);
            while stretch.before.end < ceiling && !at_lines(stretch.before.end, stretch.after.end) {
                stretch.before.end += 1;
                stretch.after.end += 1;
            }
            if at_lines(stretch.before.end, stretch.after.end) {
                break;
            }
            let Some(next) = stretches.next() else { break };
            (stretch.before.end, stretch.after.end) = (next.before.end, next.after.end);
        }
        whole.push(stretch);
    }
    whole
}

/// Stretches of bytes as stretches of lines, those that stayed between those that changed.
fn ops(before: &[u8], after: &[u8], stretches: &[Stretch]) -> Vec<DiffOp> {
    let line_count = |text: &[u8]| lines(text).len();
    let (mut ops, mut at) = (Vec::new(), Stretch { before: 0..0, after: 0..0 });
    let (mut old_index, mut new_index) = (0, 0);
    for stretch in stretches {
        let len = line_count(&before[at.before.end..stretch.before.start]);
        if len > 0 {
            ops.push(DiffOp::Equal { old_index, new_index, len });
        }
        (old_index, new_index) = (old_index + len, new_index + len);
        let (old_len, new_len) =
            (line_count(&before[stretch.before.clone()]), line_count(&after[stretch.after.clone()]));
        ops.push(DiffOp::Replace { old_index, old_len, new_index, new_len });
        (old_index, new_index) = (old_index + old_len, new_index + new_len);
        at = stretch.clone();
    }
    let len = line_count(&before[at.before.end..]);
    if len > 0 {
        ops.push(DiffOp::Equal { old_index, new_index, len });
    }
    ops
}
/// The name of one side: a path below `a/` or `b/`, in quotation marks where a patch program would misread it.
fn write_name(side: &str, path: &Path, out: &mut impl Write) -> Result<(), Trouble> {
    let bytes = path.as_os_str().as_encoded_bytes();
    let relative = bytes.strip_prefix(b"./").unwrap_or(bytes).strip_prefix(b"/").unwrap_or(bytes);
    let is_odd = |byte: &u8| byte.is_ascii_control() || matches!(byte, b'"' | b'\\');
    if !relative.iter().any(is_odd) {
        write!(out, "{side}/")?;
        out.write_all(relative)?;
        // A tab ends a name with blanks in it.
        out.write_all(if relative.contains(&b' ') { b"\t\n" } else { b"\n" })?;
        return Ok(());
    }
    write!(out, "\"{side}/")?;
    for byte in relative {
        match byte {
            b'"' | b'\\' => out.write_all(&[b'\\', *byte])?,
            byte if byte.is_ascii_control() => write!(out, "\\{byte:03o}")?,
            byte => out.write_all(&[*byte])?,
        }
    }
    Ok(out.write_all(b"\"\n")?)
}

fn write_hunk(group: &[DiffOp], old: &[&[u8]], new: &[&[u8]], out: &mut impl Write) -> Result<(), Trouble> {
    let (Some(first), Some(last)) = (group.first(), group.last()) else { return Ok(()) };
    let range = |start: usize, end: usize| match end - start {
        // A side without lines is placed behind the line before.
        0 => format!("{start},0"),
        1 => format!("{}", start + 1),
        len => format!("{},{len}", start + 1),
    };
    let old_range = range(first.old_range().start, last.old_range().end);
    let new_range = range(first.new_range().start, last.new_range().end);
    writeln!(out, "@@ -{old_range} +{new_range} @@")?;
    for op in group {
        let is_equal = matches!(op, DiffOp::Equal { .. });
        for line in &old[op.old_range()] {
            write_line(if is_equal { b" " } else { b"-" }, line, out)?;
        }
        for line in new[op.new_range()].iter().filter(|_| !is_equal) {
            write_line(b"+", line, out)?;
        }
    }
    Ok(())
}

fn write_line(sign: &[u8], line: &[u8], out: &mut impl Write) -> Result<(), Trouble> {
    out.write_all(sign)?;
    out.write_all(line)?;
    if !line.ends_with(b"\n") {
        out.write_all(b"\n\\ No newline at end of file\n")?;
    }
    Ok(())
}
