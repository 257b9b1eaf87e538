//! Reading, washing and passing on, block by block.

use crate::chunk::CHUNK;
use crate::chunk::Sink;
use crate::chunk::first_chunk;
use std::io::{self, Read, Write};

use washout_core::observe::Observer;
use washout_core::table::{AboutTable, AnyWasher, Form, WashError};
use washout_core::text::{Counted, SizeCounter, TextSize};
use washout_core::{OutputChunks, Program, bytes_at_once};

use crate::charset::Charsets;
use crate::encoding;
use crate::encoding::EncodingWriter;
use crate::threads::Threads;

use super::chunks::{AllRead, Chunks, ReadNow, ReadSize, StartOf, reading_ahead};
use super::piece::TextPiece;

/// Whether a text of that many bytes is read and washed at once, which is no work for several threads.
pub const fn is_one_piece(len: u64) -> bool {
    len < CHUNK as u64
}

/// What happened to one text.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Washed {
    /// Changes of each rule, in the order of the program's names.
    pub changes: Vec<u64>,
    /// On how many sections each rule acted; nothing of a table.
    pub sections: Vec<u64>,
    /// The text before.
    pub before: TextSize,
    /// The text after.
    pub after: TextSize,
    /// The encoding it looks like, if it was taken for UTF-8 and is none.
    pub looks_like: Option<&'static str>,
    /// Whether it looks binary. It was named, or such files were requested.
    pub looks_binary: bool,
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
pub(crate) enum WashFailure<E> {
    Read(io::Error),
    Rule(WashError),
    Give(E),
}

/// Washes everything `input` holds, on as many threads as there are in the pool. `start` is what has been read from it
/// already: all of it, if that is less than a chunk.
pub(crate) fn wash<O: Observer + Send, S: Sink>(
    washer: AnyWasher<'_, O>,
    start: Vec<u8>,
    input: &mut (impl Read + Send),
    sink: &mut S,
) -> Result<(Washed, O), WashFailure<S::Error>> {
    if start.len() < CHUNK {
        return WashLoop::alone(washer, sink, CHUNK).run(start.into(), &mut AllRead);
    }
    let threads = rayon::current_num_threads();
    if threads == 1 {
        return WashLoop::alone(washer, sink, CHUNK).run(start.into(), &mut ReadNow(input));
    }
    let work = WashLoop::alone(washer, sink, CHUNK).with_threads(threads);
    std::thread::scope(|scope| {
        let (mut chunks, reader) = reading_ahead(input, ReadSize::Lines(work.turn));
        scope.spawn(move || reader.run());
        let done = work.run(start.into(), &mut chunks);
        drop(chunks); // a reader that waits for room gives up
        done
    })
}

/// Reading, washing and passing on at the same time.
struct WashLoop<'w, 's, O, S> {
    washer: AnyWasher<'w, O>,
    sink: &'s mut S,
    /// How much goes through the washer at once, in bytes.
    turn: usize,
    /// No other thread is to work on it.
    is_alone: bool,
    before: SizeCounter,
    after: SizeCounter,
}

/// What goes through the washer at once, and what that gives.
#[derive(Default)]
struct Turn {
    text: TextPiece,
    counted: Counted,
    given: OutputChunks,
}

impl Turn {
    /// Washes the text, which is counted meanwhile.
    fn wash<O: Observer + Send>(
        &mut self,
        washer: &mut AnyWasher<'_, O>,
        before: &mut SizeCounter,
        is_alone: bool,
    ) -> Result<(), WashError> {
        let Self { text, counted, given } = self;
        let text = text.bytes();
        let mut counter = before.clone();
        let (washed, was_counted) = both(is_alone, || washer.push_uncopied(text, given), || counter.add(text));
        *counted = was_counted;
        match washer.taken() {
            // What comes after the last record that is requested is not part of it.
            Some(taken) => {
                let here = taken.saturating_sub(before.size().bytes);
                before.add(&text[..usize::try_from(here).unwrap_or(usize::MAX).min(text.len())]);
            }
            None => *before = counter,
        }
        washed
    }

    /// Gives the result away.
    fn give<S: Sink>(&mut self, sink: &mut S, changed: bool, after: &mut SizeCounter) -> Result<(), S::Error> {
        let text = self.text.bytes();
        let counted = std::mem::take(&mut self.counted);
        let is_counted = self.given.same_start() == Some(text.len()) && after.add_counted(counted);
        for stretch in self.given.stretches(text) {
            if !is_counted {
                after.add(stretch);
            }
            sink.give(stretch, changed)?;
        }
        self.given.clear();
        self.text.clear();
        Ok(())
    }
}

/// Does both, at the same time where another thread may help.
fn both<A: Send, B: Send>(is_alone: bool, one: impl FnOnce() -> A + Send, other: impl FnOnce() -> B + Send) -> (A, B) {
    if is_alone { (one(), other()) } else { rayon::join(one, other) }
}

impl<'w, 's, O: Observer + Send, S: Sink> WashLoop<'w, 's, O, S> {
    fn alone(washer: AnyWasher<'w, O>, sink: &'s mut S, turn: usize) -> Self {
        Self { washer, sink, turn, is_alone: true, before: SizeCounter::default(), after: SizeCounter::default() }
    }

    /// Lets others help from here on.
    fn with_threads(self, threads: usize) -> Self {
        Self { washer: self.washer.with_threads(threads), turn: bytes_at_once(threads), is_alone: false, ..self }
    }

    /// Works on all of a text that starts so.
    fn run(mut self, start: TextPiece, chunks: &mut impl Chunks) -> Result<(Washed, O), WashFailure<S::Error>> {
        self.work(start, chunks)?;
        self.finish()
    }

    /// Works on all of a text that others can read ahead of.
    fn run_all(
        mut self,
        mut input: impl Read + Send + 'static,
        threads: Threads,
        is_file: bool,
    ) -> Result<(Washed, O), WashFailure<S::Error>> {
        let mut start = TextPiece::default();
        if !is_file {
            let mut first = StartOf { input: &mut input, left: CHUNK, is_over: false };
            first.wait(&mut start).map_err(WashFailure::Read)?;
            self.work(std::mem::take(&mut start), &mut first)?;
            if first.is_over || self.washer.is_done() {
                return self.finish();
            }
        }
        threads.start();
        self = self.with_threads(threads.number());
        let (mut chunks, reader) =
            reading_ahead(input, if is_file { ReadSize::Lines(self.turn) } else { ReadSize::AsItComes });
        std::thread::spawn(move || reader.run());
        chunks.wait(&mut start).map_err(WashFailure::Read)?;
        // On a thread of the pool from here on: another would have to be woken at the end of each turn.
        rayon::scope(|_| self.run(start, &mut chunks))
    }

    /// Works on what there is, and gives all of the result that is certain.
    fn work(&mut self, start: TextPiece, chunks: &mut impl Chunks) -> Result<(), WashFailure<S::Error>> {
        let (mut now, mut last) = (Turn { text: start, ..Turn::default() }, Turn::default());
        let mut changed = false;
        while !now.text.is_empty() {
            while now.text.bytes().len() < self.turn && chunks.at_hand(&mut now.text).map_err(WashFailure::Read)? {}
            let Self { washer, sink, before, after, is_alone, .. } = &mut *self;
            // What the last turn gave goes out while this one is worked on.
            let (given, washed) =
                both(*is_alone, || last.give(*sink, changed, after), || now.wash(washer, before, *is_alone));
            given.map_err(WashFailure::Give)?;
            washed.map_err(WashFailure::Rule)?;
            changed = self.washer.any_change();
            std::mem::swap(&mut now, &mut last);
            if self.washer.is_done() {
                break;
            }
            // What is certain goes out before anything is waited for: a slow source is followed line by line.
            if !chunks.at_hand(&mut now.text).map_err(WashFailure::Read)? {
                last.give(self.sink, changed, &mut self.after).map_err(WashFailure::Give)?;
                chunks.wait(&mut now.text).map_err(WashFailure::Read)?;
            }
        }
        last.give(self.sink, changed, &mut self.after).map_err(WashFailure::Give)
    }

    fn finish(mut self) -> Result<(Washed, O), WashFailure<S::Error>> {
        let mut rest = Vec::new();
        if !self.washer.is_given_up() {
            self.washer.finish(&mut rest).map_err(WashFailure::Rule)?;
        }
        if !rest.is_empty() {
            self.after.add(&rest);
            self.sink.give(&rest, self.washer.any_change()).map_err(WashFailure::Give)?;
        }
        let (changes, sections) = (self.washer.changes().to_vec(), self.washer.sections());
        let table = self.washer.about_table();
        let washed = Washed {
            changes,
            sections,
            before: self.before.size(),
            after: self.after.size(),
            table,
            ..Washed::default()
        };
        Ok((washed, self.washer.into_observer()))
    }
}

struct Stream<'w, W>(&'w mut W);

impl<W: Write + Send> Sink for Stream<'_, W> {
    type Error = io::Error;

    fn give(&mut self, bytes: &[u8], _changed: bool) -> io::Result<()> {
        self.0.write_all(bytes)?;
        self.0.flush()
    }
}

/// What is known of a stream.
#[derive(Clone, Copy, Debug)]
pub struct Incoming {
    /// What rules take it for.
    pub form: Form,
    /// Of a table, no more records than these.
    pub most_records: Option<u64>,
    /// How it is encoded.
    pub charsets: Charsets,
    /// How many bytes it has, if all of it is there already, as of a file; otherwise what comes goes on before more is
    /// waited for.
    pub len: Option<u64>,
    /// The threads that may work on it. Others are started once it turns out to be long.
    pub threads: Threads,
}

/// Washes a stream into another: a filter. The input is read on a thread of its own, unless it is short; that thread may
/// outlive the call if washing or writing fails while it waits.
///
/// # Errors
/// The first error of reading, of a rule or of writing, and which of them it is.
pub fn wash_stream(
    program: &Program,
    Incoming { form, most_records, charsets, len, threads }: Incoming,
    input: impl Read + Send + 'static,
    output: &mut (impl Write + Send),
) -> Result<Washed, StreamError> {
    let (mut input, ways) = encoding::stream(charsets, input).map_err(StreamError::Read)?;
    let mut output = EncodingWriter::new(output, ways);
    let washer =
        program.washer_of(form, washout_core::observe::NoObserver).map_err(|error| StreamError::Rule(error.into()))?;
    let washer = washer.with_most_records(most_records);
    let sink = &mut Stream(&mut output);
    let washed = if let Some(len) = len.filter(|len| is_one_piece(*len)) {
        let start = first_chunk(&mut input, len).map_err(StreamError::Read)?;
        wash(washer, start, &mut input, sink)
    } else {
        WashLoop::alone(washer, sink, CHUNK).run_all(input, threads, len.is_some())
    };
    match washed {
        Ok((washed, _)) => output.finish().map(|()| washed).map_err(StreamError::Write),
        Err(WashFailure::Read(error)) => Err(StreamError::Read(error)),
        Err(WashFailure::Rule(error)) => Err(StreamError::Rule(error)),
        Err(WashFailure::Give(error)) => Err(StreamError::Write(error)),
    }
}

/// Which part of the work on a stream failed.
#[derive(Debug, thiserror::Error)]
pub enum StreamError {
    /// Reading failed.
    #[error("the input cannot be read: {}", washout_sets::reason(.0))]
    Read(#[source] io::Error),
    /// A rule cannot go on.
    #[error("{0}")]
    Rule(#[source] WashError),
    /// Writing failed.
    #[error("the result cannot be written: {}", washout_sets::reason(.0))]
    Write(#[source] io::Error),
}
