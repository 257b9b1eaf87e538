//! What learnt rules make of other lines, and which of that is doubtful.

use super::runner::Runner;
use super::seen::Seen;
use super::{Learnt, Reading};

/// A line, and what the rules make of it.
#[derive(Clone, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub struct OnLine {
    /// As it is; of names, the whole name.
    pub line: String,
    /// What the likeliest reading makes of it.
    pub becomes: String,
    /// Why it should be looked at.
    pub doubt: Option<Doubt>,
}

/// Why what becomes of a line may not be what is meant.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub enum Doubt {
    /// Nothing is left of it.
    Emptied,
    /// Another reading of the pairs makes something else of it.
    Open,
    /// Digits go, and of the pairs none lost any.
    LosesDigits,
}

impl Doubt {
    /// Its name for programs.
    pub fn name(self) -> &'static str {
        match self {
            Self::Emptied => "emptied",
            Self::Open => "open",
            Self::LosesDigits => "loses-digits",
        }
    }
}

impl Learnt {
    /// What the likeliest reading makes of these lines, in their order. A line on which it cannot run stays.
    ///
    /// ```
    /// use washout_core::learn::{Lesson, Pair, learn};
    ///
    /// let pairs = [Pair::new("lamp_room", "lamp room")];
    /// let learnt = learn(&Lesson::new(&pairs), &|| true)?;
    /// assert_eq!(learnt.on(&["oil_can".to_owned()])[0].becomes, "oil can");
    /// # Ok::<(), washout_core::learn::LearnError>(())
    /// ```
    pub fn on(&self, lines: &[String]) -> Vec<OnLine> {
        let mut runner = Runner::default();
        let keeps_digits = self.examples.iter().all(|pair| digits(&pair.after) >= digits(&pair.before));
        let mut on = |line: &String| {
            let seen = Seen::of(line, self.readings[0].part);
            let mut become_of =
                |reading: &Reading| runner.run_all(reading.rules.iter().map(|rule| &rule[..]), &seen.text);
            let text = become_of(&self.readings[0]);
            let is_open = self.readings[1..].iter().any(|reading| become_of(reading) != text);
            let text = text.unwrap_or_else(|| seen.text.clone());
            let doubt = if text.is_empty() && !seen.text.is_empty() {
                Some(Doubt::Emptied)
            } else if is_open {
                Some(Doubt::Open)
            } else if keeps_digits && digits(&text) < digits(&seen.text) {
                Some(Doubt::LosesDigits)
            } else {
                None
            };
            OnLine { line: line.clone(), becomes: seen.whole(&text), doubt }
        };
        lines.iter().map(&mut on).collect()
    }
}

pub(super) fn digits(text: &str) -> usize {
    text.chars().filter(char::is_ascii_digit).count()
}
