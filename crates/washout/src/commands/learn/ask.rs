//! Asking what is meant where readings differ.

use std::io::Write;

use washout_core::learn::{Learnt, Pair};

use super::notes::rules_of;
use crate::answer::typed;
use crate::exit::Trouble;
use crate::show::style::{QUIET, STRONG};
use crate::show::visible::drawn;

/// What was answered.
pub(super) enum Answered {
    /// A line with what it should become.
    Pair(Pair),
    /// The likeliest reading is meant, or the input is over.
    First,
}

/// Asks what a line should become on which readings differ.
pub(super) fn question(learnt: &Learnt) -> Result<Answered, Trouble> {
    let Some(differs) = learnt.readings.get(1).and_then(|reading| reading.differs.as_ref()) else {
        return Ok(Answered::First);
    };
    // Each different result once, with the rules of the likeliest reading that makes it.
    let mut results: Vec<(&str, String)> = vec![(&differs.first, rules_of(&learnt.readings[0]))];
    for reading in &learnt.readings[1..] {
        if let Some(own) = reading.differs.as_ref().filter(|own| own.line == differs.line)
            && results.iter().all(|(result, _)| *result != own.this)
        {
            results.push((&own.this, rules_of(reading)));
        }
    }
    let mut out = anstream::stderr().lock();
    writeln!(out, "{STRONG}What should become of “{}”?{STRONG:#}", drawn(differs.line.as_bytes()))?;
    for (number, (result, rules)) in results.iter().enumerate() {
        writeln!(out, "  {}  “{}”  {QUIET}{rules}{QUIET:#}", number + 1, drawn(result.as_bytes()))?;
    }
    loop {
        let question = "A number, = and another text, or Enter for 1 without more questions: ";
        let typed = typed(question, &mut out)?.unwrap_or_default();
        let typed = typed.trim_end_matches(['\n', '\r']);
        let number = typed.trim().parse::<usize>().ok().and_then(|number| number.checked_sub(1));
        let pair = |after: &str| Ok(Answered::Pair(Pair::new(&differs.line, after)));
        if typed.trim().is_empty() {
            return Ok(Answered::First);
        } else if let Some(text) = typed.strip_prefix('=') {
            return pair(text);
        } else if let Some((result, _)) = number.and_then(|number| results.get(number)) {
            return pair(result);
        }
        writeln!(out, "There is no such number.")?;
    }
}
