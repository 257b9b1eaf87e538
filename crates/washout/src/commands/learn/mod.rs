//! `washout learn`

mod ask;
mod input;
mod notes;

use std::io::{self, Write};
use std::time::{Duration, Instant};

use washout_core::learn::{LearnError, Learnt, Lesson, Pair, learn};

use crate::args::ChoiceArgs;
use crate::args::LearnArgs;
use crate::exit::{Exit, Trouble};
use crate::interrupt;
use crate::json;
use crate::out::{buffered_stdout, print_warning};
use crate::outputs::{self, Inputs, write_whole};
use input::OtherLines;

/// Runs the command.
pub(crate) fn run(args: &LearnArgs) -> Result<Exit, Trouble> {
    let mut pairs = input::pairs(args)?;
    let others = input::others(args)?;
    // Report a file that cannot be written before anybody waits or answers.
    let file = match &args.save {
        Some(path) => {
            let inputs = args
                .files
                .iter()
                .chain(&args.others)
                .fold(Inputs::of(&[], &ChoiceArgs::default()), |inputs, file| inputs.with(file));
            outputs::start(&[path.as_path()], &inputs, args.overwrite)?.pop()
        }
        None => None,
    };
    let stop = interrupt::watch();
    loop {
        let end = Instant::now() + Duration::from_secs(args.seconds);
        let mut lesson = Lesson::new(&pairs);
        lesson.others = &others.lines;
        lesson.names = args.names;
        lesson.literal = args.literal;
        let learnt = learn(&lesson, &|| Instant::now() < end && !stop.is_requested());
        if stop.is_requested() {
            return Ok(Exit::Interrupted);
        }
        let learnt = match learnt {
            Ok(learnt) => learnt,
            Err(error) => return refused(args, &error, &pairs),
        };
        if args.ask && learnt.readings.len() > 1 {
            match ask::question(&learnt)? {
                ask::Answered::Pair(pair) => {
                    pairs.push(pair);
                    continue;
                }
                ask::Answered::First => {}
            }
        }
        if args.json {
            json::write(&json::learn::learnt(&learnt, &others.lines))?;
        }
        let text = learnt.readings[0].rule_set(&learnt.examples);
        match file {
            Some(file) => {
                let path = write_whole(file, &text)?;
                if !args.json {
                    let mut out = buffered_stdout();
                    notes::saved(&path, &mut out)?;
                    all_notes(args, &learnt, &pairs, &others, &mut out)?;
                    notes::next(args, &path, &mut out)?;
                    out.flush()?;
                }
            }
            None if args.json => {}
            // The set alone is on standard output, so that it can be sent to a file.
            None => {
                let mut out = buffered_stdout();
                out.write_all(text.as_bytes())?;
                out.flush()?;
                let mut out = io::BufWriter::new(anstream::stderr());
                writeln!(out)?;
                all_notes(args, &learnt, &pairs, &others, &mut out)?;
                out.flush()?;
            }
        }
        return Ok(Exit::Done);
    }
}

fn all_notes(
    args: &LearnArgs,
    learnt: &Learnt,
    pairs: &[Pair],
    others: &OtherLines,
    out: &mut impl Write,
) -> io::Result<()> {
    notes::found(learnt, pairs, out)?;
    notes::open(args, learnt, out)?;
    notes::others(args, learnt, others, out)
}

/// Says why there are no rules, with the pair that is in the way.
fn refused(args: &LearnArgs, error: &LearnError, pairs: &[Pair]) -> Result<Exit, Trouble> {
    if args.json {
        json::write(&json::learn::refused(error, pairs))?;
    } else {
        print_warning(&notes::refusal(error, pairs))?;
    }
    Ok(Exit::Found)
}
