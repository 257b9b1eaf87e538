//! Text on its way from one rule to the next, or from one group of rules to the next.

use super::node::{Failure, Output};

/// Texts between links, kept for their memory.
#[derive(Debug, Default)]
pub(super) struct Between {
    text: Vec<u8>,
    next: Vec<u8>,
}

/// Sends a piece through all links, each of which sees what the one before gives.
pub(super) fn pass<L>(
    links: &mut [L],
    piece: &[u8],
    between: &mut Between,
    out: &mut Vec<u8>,
    mut feed: impl FnMut(&mut L, &[u8], &mut Vec<u8>) -> Result<Output, Failure>,
) -> Result<Output, Failure> {
    let Between { text, next } = between;
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
    if let Some(piece) = unchanged {
        return Ok(Output::Same(piece.len()));
    }
    out.extend_from_slice(text);
    Ok(Output::Written)
}
