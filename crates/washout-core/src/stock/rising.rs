//! Line numbers that go up from line to line.

use super::LineNumber;
use crate::text::At;
use crate::text::lines::{Line, Lines};

/// How far ahead the next number is looked for, in lines.
pub(crate) const LINES_AHEAD: usize = 100;

/// The numbers at one edge of the lines that have been accepted.
#[derive(Debug, Default)]
struct NumberEdge {
    /// The last one accepted before the window.
    last: Option<u32>,
    /// Where each accepted number of the window starts, and what it is.
    accepted: Vec<(usize, u32)>,
}

/// Follows the numbers at both edges of the lines of a text, window by window.
#[derive(Debug, Default)]
pub(crate) struct Rising {
    start: NumberEdge,
    end: NumberEdge,
}

impl Rising {
    /// Begins with another text.
    pub(crate) fn start_again(&mut self) {
        self.start.last = None;
        self.end.last = None;
    }

    /// Looks at a window of whole lines and says which of its numbers go up.
    pub(crate) fn look(&mut self, text: &[u8]) {
        let lines: Vec<Line> = Lines::of(text).collect();
        let numbers = |find: &dyn Fn(Line) -> Option<std::ops::Range<usize>>| -> Vec<(usize, usize, u32)> {
            let found = lines.iter().enumerate().filter_map(|(index, line)| Some((index, find(*line)?)));
            found.map(|(index, span)| (index, span.start, value(&text[span]))).collect()
        };
        self.start.judge(&numbers(&|line| LineNumber::at_start(text, line)));
        self.end.judge(&numbers(&|line| LineNumber::at_end(text, line, line.start)));
    }

    /// Whether the number found there is one of those that go up, at an edge where numbers are looked for: a number
    /// alone on its line may go up with those at one edge and not with those at the other.
    pub(crate) fn accepts(&self, start: usize, at: At) -> bool {
        let has = |edge: &NumberEdge| edge.accepted.binary_search_by_key(&start, |(start, _)| *start).is_ok();
        match at {
            At::Start => has(&self.start),
            At::End => has(&self.end),
            At::Anywhere | At::Edges | At::WholeLine => has(&self.start) || has(&self.end),
        }
    }

    /// The next window starts here.
    pub(crate) fn advance(&mut self, to: usize) {
        for edge in [&mut self.start, &mut self.end] {
            let before = edge.accepted.iter().rev().find(|(start, _)| *start < to);
            edge.last = before.map(|(_, value)| *value).or(edge.last);
        }
    }
}

impl NumberEdge {
    /// `numbers`: line, place and value of each.
    ///
    /// A number is taken if it is larger than the one taken before it, unless the next would fit there instead and this
    /// one leaps over it; or if counting starts afresh with it. One that neither follows nor leads to another is none.
    fn judge(&mut self, numbers: &[(usize, usize, u32)]) {
        self.accepted.clear();
        let mut last = self.last;
        for (index, (line, start, value)) in numbers.iter().enumerate() {
            let next = numbers.get(index + 1).filter(|next| next.0 - line <= LINES_AHEAD).map(|next| next.2);
            let leads = next.is_some_and(|next| next > *value);
            let goes_up = match last {
                None => leads,
                Some(last) if *value > last => !next.is_some_and(|next| next < *value && next > last),
                Some(last) => leads && next.is_some_and(|next| next <= last),
            };
            if goes_up {
                self.accepted.push((*start, *value));
                last = Some(*value);
            }
        }
    }
}

fn value(number: &[u8]) -> u32 {
    let digits = number.iter().filter(|byte| byte.is_ascii_digit());
    digits.fold(0, |value, digit| value * 10 + u32::from(digit - b'0'))
}
