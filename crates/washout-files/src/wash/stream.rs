//! Reading, washing and giving away, block by block.

use std::io::{self, Read, Write};

use washout_core::{Observer, Program, RunError, SizeCounter, TextSize, Washer};

/// How much is read at once, in bytes.
const CHUNK: usize = 256 << 10;

/// What became of one text.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Washed {
    /// Changes of each rule, in the order of the program's names.
    pub changes: Vec<u64>,
    /// The text before.
    pub before: TextSize,
    /// The text after.
    pub after: TextSize,
}

impl Washed {
    /// Whether any rule made any change.
    pub fn any_change(&self) -> bool {
        self.changes.iter().any(|count| *count > 0)
    }
}

/// Which part of the work failed.
#[derive(Debug)]
pub(crate) enum Failed<E> {
    Read(io::Error),
    Rule(RunError),
    Give(E),
}

/// Where a result goes.
pub(crate) trait Sink {
    type Error;

    /// Takes the next bytes of the result. `changed`: whether any rule has made a change so far; while it has not, the
    /// result is what was read.
    fn give(&mut self, bytes: &[u8], changed: bool) -> Result<(), Self::Error>;
}

/// Washes everything `input` holds. `start` is what has been read from it already.
pub(crate) fn wash<O: Observer, S: Sink>(
    mut washer: Washer<'_, O>,
    start: Vec<u8>,
    input: &mut impl Read,
    sink: &mut S,
) -> Result<(Washed, O), Failed<S::Error>> {
    let (mut before, mut after) = (SizeCounter::default(), SizeCounter::default());
    let mut chunk = start;
    let mut result = Vec::new();
    while !chunk.is_empty() {
        before.add(&chunk);
        washer.push(&chunk, &mut result).map_err(Failed::Rule)?;
        give(&washer, &mut result, &mut after, sink)?;
        read_chunk(input, &mut chunk).map_err(Failed::Read)?;
    }
    washer.finish(&mut result).map_err(Failed::Rule)?;
    give(&washer, &mut result, &mut after, sink)?;
    let washed = Washed { changes: washer.changes().to_vec(), before: before.size(), after: after.size() };
    Ok((washed, washer.into_observer()))
}

fn give<O: Observer, S: Sink>(
    washer: &Washer<'_, O>,
    result: &mut Vec<u8>,
    after: &mut SizeCounter,
    sink: &mut S,
) -> Result<(), Failed<S::Error>> {
    after.add(result);
    let changed = washer.changes().iter().any(|count| *count > 0);
    sink.give(result, changed).map_err(Failed::Give)?;
    result.clear();
    Ok(())
}

/// Reads the next chunk; empty at the end.
pub(crate) fn read_chunk(input: &mut impl Read, chunk: &mut Vec<u8>) -> io::Result<()> {
    chunk.resize(CHUNK, 0);
    let read = loop {
        match input.read(chunk) {
            Err(error) if error.kind() == io::ErrorKind::Interrupted => {}
            read => break read?,
        }
    };
    chunk.truncate(read);
    Ok(())
}

struct Stream<'w, W>(&'w mut W);

impl<W: Write> Sink for Stream<'_, W> {
    type Error = io::Error;

    fn give(&mut self, bytes: &[u8], _changed: bool) -> io::Result<()> {
        // What is certain goes out at once, so that a slow source is followed line by line.
        self.0.write_all(bytes)?;
        self.0.flush()
    }
}

/// Washes a stream into another: a filter.
///
/// # Errors
/// The first error of reading, of a rule or of writing, and which of them it is.
pub fn wash_stream(program: &Program, input: &mut impl Read, output: &mut impl Write) -> Result<Washed, StreamError> {
    let mut start = Vec::new();
    read_chunk(input, &mut start).map_err(StreamError::Read)?;
    let washed = wash(program.washer(washout_core::NoObserver), start, input, &mut Stream(output));
    match washed {
        Ok((washed, _)) => Ok(washed),
        Err(Failed::Read(error)) => Err(StreamError::Read(error)),
        Err(Failed::Rule(error)) => Err(StreamError::Rule(error)),
        Err(Failed::Give(error)) => Err(StreamError::Write(error)),
    }
}

/// Which part of the work on a stream failed.
#[derive(Debug, thiserror::Error)]
pub enum StreamError {
    /// Reading did.
    #[error("the input cannot be read: {}", crate::error::reason(.0))]
    Read(#[source] io::Error),
    /// A rule cannot go on.
    #[error("{0}")]
    Rule(#[source] RunError),
    /// Writing did.
    #[error("the result cannot be written: {}", crate::error::reason(.0))]
    Write(#[source] io::Error),
}
