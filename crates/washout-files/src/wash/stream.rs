//! Reading, washing and giving away, block by block.

use std::io::{self, Read, Write};

use washout_core::{AboutTable, AnyWasher, Form, Observer, Program, SizeCounter, TextSize, WashError};

use crate::charset::{self, Charsets, EncodingWriter};

use super::chunks::{AllRead, Chunks, Read1, reading_ahead};

/// How much is read at once, in bytes.
pub(crate) const CHUNK: usize = 256 << 10;

/// How much goes through the washer at once for each thread that works, in bytes.
const TURN: usize = 512 << 10;

/// What became of one text.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Washed {
    /// Changes of each rule, in the order of the program's names.
    pub changes: Vec<u64>,
    /// The text before.
    pub before: TextSize,
    /// The text after.
    pub after: TextSize,
    /// The encoding it looks like, if it was taken for UTF-8 and is none.
    pub looks_like: Option<&'static str>,
    /// What is to be said of a table; `None`: it is none.
    pub table: Option<AboutTable>,
}

impl Washed {
    /// For a whole text that no rule changes.
    pub(crate) fn unchanged(program: &Program, text: &[u8]) -> Self {
        let mut size = SizeCounter::default();
        size.add(text);
        let size = size.size();
        Self { changes: vec![0; program.names().len()], before: size, after: size, ..Self::default() }
    }

    /// Whether any rule made any change.
    pub fn any_change(&self) -> bool {
        self.changes.iter().any(|count| *count > 0)
    }
}

/// Which part of the work failed.
#[derive(Debug)]
pub(crate) enum Failed<E> {
    Read(io::Error),
    Rule(WashError),
    Give(E),
}

/// Where a result goes.
pub(crate) trait Sink: Send {
    type Error: Send;

    /// Takes the next bytes of the result. `changed`: whether any rule has made a change so far; while it has not, the
    /// result is what was read.
    fn give(&mut self, bytes: &[u8], changed: bool) -> Result<(), Self::Error>;
}

/// Washes everything `input` holds, on as many threads as there are in the pool. `start` is what has been read from it
/// already: all of it, if that is less than a chunk.
pub(crate) fn wash<O: Observer + Send, S: Sink>(
    washer: AnyWasher<'_, O>,
    start: Vec<u8>,
    input: &mut (impl Read + Send),
    sink: &mut S,
) -> Result<(Washed, O), Failed<S::Error>> {
    let threads = rayon::current_num_threads();
    if start.len() < CHUNK {
        return Work::new(washer, sink, CHUNK).run(start, &mut AllRead);
    }
    if threads == 1 {
        return Work::new(washer, sink, CHUNK).run(start, &mut Read1(ChunkReader::new(input)));
    }
    let work = Work::new(washer.with_threads(threads), sink, threads * TURN);
    std::thread::scope(|scope| {
        let (mut chunks, reader) = reading_ahead(input);
        scope.spawn(move || reader.run());
        let done = work.run(start, &mut chunks);
        drop(chunks); // a reader that waits for room gives up
        done
    })
}

/// Reading, washing and giving away at the same time.
struct Work<'w, 's, O, S> {
    washer: AnyWasher<'w, O>,
    sink: &'s mut S,
    /// How much goes through the washer at once, in bytes.
    turn: usize,
    before: SizeCounter,
    after: SizeCounter,
}

impl<'w, 's, O: Observer + Send, S: Sink> Work<'w, 's, O, S> {
    fn new(washer: AnyWasher<'w, O>, sink: &'s mut S, turn: usize) -> Self {
        Self { washer, sink, turn, before: SizeCounter::default(), after: SizeCounter::default() }
    }

    fn run(mut self, start: Vec<u8>, chunks: &mut impl Chunks) -> Result<(Washed, O), Failed<S::Error>> {
        let (mut text, mut result, mut ready) = (start, Vec::new(), Vec::new());
        let mut changed = false;
        while !text.is_empty() {
            while text.len() < self.turn && chunks.at_hand(&mut text).map_err(Failed::Read)? {}
            let Self { washer, sink, before, after, .. } = &mut self;
            // What the last turn gave goes out while this one is worked on.
            let (given, washed) = rayon::join(
                || give(*sink, &mut ready, changed, after),
                || rayon::join(|| washer.push(&text, &mut result), || before.add(&text)).0,
            );
            given.map_err(Failed::Give)?;
            washed.map_err(Failed::Rule)?;
            changed = self.washer.any_change();
            std::mem::swap(&mut ready, &mut result);
            text.clear();
            if self.washer.is_done() {
                give(self.sink, &mut ready, changed, &mut self.after).map_err(Failed::Give)?;
                break;
            }
            // What is certain goes out before anything is waited for: a slow source is followed line by line.
            if !chunks.at_hand(&mut text).map_err(Failed::Read)? {
                give(self.sink, &mut ready, changed, &mut self.after).map_err(Failed::Give)?;
                chunks.wait(&mut text).map_err(Failed::Read)?;
            }
        }
        self.washer.finish(&mut ready).map_err(Failed::Rule)?;
        changed = self.washer.any_change();
        give(self.sink, &mut ready, changed, &mut self.after).map_err(Failed::Give)?;
        let changes = self.washer.changes().to_vec();
        let table = self.washer.about_table();
        let washed = Washed { changes, before: self.before.size(), after: self.after.size(), table, looks_like: None };
        Ok((washed, self.washer.into_observer()))
    }
}

fn give<S: Sink>(sink: &mut S, result: &mut Vec<u8>, changed: bool, after: &mut SizeCounter) -> Result<(), S::Error> {
    after.add(result);
    if !result.is_empty() {
        sink.give(result, changed)?;
    }
    result.clear();
    Ok(())
}

/// Reads chunk by chunk.
pub(crate) struct ChunkReader<R> {
    input: R,
    /// What is read into: clearing it for every chunk would take as long as reading.
    buffer: Vec<u8>,
}

impl<R: Read> ChunkReader<R> {
    pub(crate) fn new(input: R) -> Self {
        Self { input, buffer: Vec::new() }
    }

    /// Puts the next chunk in place of what is in `chunk`; nothing at the end.
    pub(crate) fn read(&mut self, chunk: &mut Vec<u8>) -> io::Result<()> {
        self.buffer.resize(CHUNK, 0);
        let read = loop {
            match self.input.read(&mut self.buffer) {
                Err(error) if error.kind() == io::ErrorKind::Interrupted => {}
                read => break read?,
            }
        };
        chunk.clear();
        chunk.extend_from_slice(&self.buffer[..read]);
        Ok(())
    }
}

/// Reads the first chunk of a file of this length, in bytes; all of it if it is short.
pub(crate) fn first_chunk(input: impl Read, len: u64) -> io::Result<Vec<u8>> {
    let len = usize::try_from(len).unwrap_or(CHUNK).min(CHUNK);
    // One more, to see that it is over.
    let mut chunk = Vec::with_capacity(len + 1);
    input.take(CHUNK as u64).read_to_end(&mut chunk)?;
    Ok(chunk)
}

struct Stream<'w, W>(&'w mut W);

impl<W: Write + Send> Sink for Stream<'_, W> {
    type Error = io::Error;

    fn give(&mut self, bytes: &[u8], _changed: bool) -> io::Result<()> {
        self.0.write_all(bytes)?;
        self.0.flush()
    }
}

/// Washes a stream into another: a filter. The input is read on a thread of its own, which may outlive the call if
/// washing or writing fails while it waits. `form`: what it is; `most_records`: of a table, no more than that.
///
/// # Errors
/// The first error of reading, of a rule or of writing, and which of them it is.
pub fn wash_stream(
    program: &Program,
    form: Form,
    most_records: Option<u64>,
    charsets: Charsets,
    input: impl Read + Send + 'static,
    output: &mut (impl Write + Send),
) -> Result<Washed, StreamError> {
    let threads = rayon::current_num_threads();
    let (input, ways) = charset::stream(charsets, input).map_err(StreamError::Read)?;
    let mut output = EncodingWriter::new(output, ways);
    let (mut chunks, reader) = reading_ahead(input);
    std::thread::spawn(move || reader.run());
    let mut start = Vec::new();
    chunks.wait(&mut start).map_err(StreamError::Read)?;
    let washer = program.washer_of(form, washout_core::NoObserver).map_err(|error| StreamError::Rule(error.into()))?;
    let washer = washer.with_most_records(most_records).with_threads(threads);
    let washed = Work::new(washer, &mut Stream(&mut output), threads * TURN).run(start, &mut chunks);
    match washed {
        Ok((washed, _)) => output.finish().map(|()| washed).map_err(StreamError::Write),
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
    Rule(#[source] WashError),
    /// Writing did.
    #[error("the result cannot be written: {}", crate::error::reason(.0))]
    Write(#[source] io::Error),
}
