//! Text on its way from one rule to the next, or from one group of rules to the next.

use super::rule_runner::{Failure, Output};

/// Texts between links, kept for their memory.
#[derive(Debug, Default)]
pub(super) struct ChainScratch {
    text: Vec<u8>,
    next: Vec<u8>,
}

/// What parts of a text, fed one after the other, give together: the text as it is as long as all of them do, which then
/// is not copied.
#[derive(Debug, Default)]
pub(super) struct JoinedOutput {
    same: usize,
    is_written: bool,
}

impl JoinedOutput {
    /// Adds what the part of `text` that starts at `part` gave. What it has appended to `out` starts there at `from`.
    pub(super) fn add(&mut self, text: &[u8], part: usize, output: Output, from: usize, out: &mut Vec<u8>) {
        match output {
            // Where the part before held something back, the start of the text ends there.
            Output::Same(len) if !self.is_written && (self.same == part || len == 0) => self.same += len,
            Output::Same(len) => {
                self.write(text, from, out);
                out.extend_from_slice(&text[part..part + len]);
            }
            Output::Written => self.write(text, from, out),
        }
    }

    /// From here on it is written: what was the same so far goes before what starts at `from`.
    fn write(&mut self, text: &[u8], from: usize, out: &mut Vec<u8>) {
        if !self.is_written {
            self.is_written = true;
            out.extend_from_slice(&text[..self.same]);
            out[from..].rotate_right(self.same);
        }
    }

    pub(super) fn output(&self) -> Output {
        if self.is_written { Output::Written } else { Output::Same(self.same) }
    }
}

/// What links made of a piece.
#[derive(Clone, Copy, Debug)]
pub(super) enum Passed<'t> {
    /// The start of the piece, unchanged.
    Same(&'t [u8]),
    Made(&'t [u8]),
}

/// Sends a piece through all links, each of which sees what the one before gives, and appends what the last one gives to
/// `out`, unless that is the start of the piece.
pub(super) fn pass<L>(
    links: &mut [L],
    piece: &[u8],
    between: &mut ChainScratch,
    out: &mut Vec<u8>,
    mut feed: impl FnMut(&mut L, &[u8], &mut Vec<u8>) -> Result<Output, Failure>,
) -> Result<Output, Failure> {
    let Some((last, before)) = links.split_last_mut() else { return Ok(Output::Same(piece.len())) };
    let passed = pass_between(before, piece, between, &mut feed)?;
    let (Passed::Same(text) | Passed::Made(text)) = passed;
    match (feed(last, text, out)?, passed) {
        (Output::Same(len), Passed::Same(_)) => return Ok(Output::Same(len)),
        (Output::Same(len), Passed::Made(text)) => out.extend_from_slice(&text[..len]),
        (Output::Written, _) => {}
    }
    Ok(Output::Written)
}

/// Sends a piece through links that others come after.
pub(super) fn pass_between<'t, L>(
    links: &mut [L],
    piece: &'t [u8],
    between: &'t mut ChainScratch,
    mut feed: impl FnMut(&mut L, &[u8], &mut Vec<u8>) -> Result<Output, Failure>,
) -> Result<Passed<'t>, Failure> {
    let ChainScratch { text, next } = between;
    // What the next link sees: a part of the piece until a link changes something, from then on `text`.
    let mut unchanged = Some(piece);
    for link in links {
        let input = unchanged.unwrap_or(text);
        next.clear();
        match feed(link, input, next)? {
            Output::Same(len) => match &mut unchanged {
                Some(piece) => *piece = &piece[..len],
                None => text.truncate(len),
            },
            Output::Written => {
                std::mem::swap(text, next);
                unchanged = None;
            }
        }
    }
    Ok(unchanged.map_or(Passed::Made(text), Passed::Same))
}
