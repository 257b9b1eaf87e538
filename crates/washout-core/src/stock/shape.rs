//! Patterns given by a shape: an expression, and what may stand before and after it.
//!
//! The expression says which stretches are looked at, and from each place every end it can have is tried, the longest
//! first. What may stand around a stretch is said in code, since it looks farther than an expression can.

use std::cell::RefCell;
use std::sync::LazyLock;

use regex_automata::hybrid::dfa::{Cache, DFA, OverlappingState};
use regex_automata::{Anchored, Input, MatchKind};

use crate::text::chars::{char_before, step};
use crate::text::lines::content_end;
use crate::text::pool::{Pool, PoolGuard};
use crate::text::walk::Walk;

/// A match is at most so long, in bytes: else a line of nothing but openings would take quadratic time.
const LONGEST: usize = 4096;

/// What a stock pattern looks for.
pub(crate) struct Shape {
    /// In the syntax of the `regex` crate, for one line.
    pub(crate) expression: &'static str,
    /// How the places are found where a match may start.
    pub(super) starts: ShapeStart,
    /// Whether a match may start there.
    pub(super) before: fn(&[u8], usize) -> bool,
    /// Whether a match from the first place may end at the second.
    pub(super) after: fn(&[u8], usize, usize) -> bool,
    pub(super) dfa: LazyLock<DFA>,
    pub(super) caches: Pool<Cache>,
}

/// Where a match may start.
#[derive(Clone, Copy)]
pub(super) enum ShapeStart {
    /// At one of these bytes.
    At(&'static [u8]),
    /// At a digit or one of these bytes.
    AtDigit(&'static [u8]),
    /// At an upper-case letter or one of these bytes.
    AtUpper(&'static [u8]),
    /// At the start of the row of characters before this byte, which none of these bytes and no blank part.
    RowBefore(u8),
}

pub(super) fn dfa(expression: &str) -> DFA {
    let config = DFA::config().match_kind(MatchKind::All).cache_capacity(4 << 20);
    DFA::builder()
        .configure(config)
        .syntax(regex_automata::util::syntax::Config::new().utf8(false))
        .thompson(regex_automata::nfa::thompson::Config::new().utf8(false))
        .build(expression)
        .expect("OK because a test finds the examples of every stock pattern")
}

impl Shape {
    pub(crate) fn cache(&'static self) -> PoolGuard<Cache, &'static Pool<Cache>> {
        PoolGuard::new(&self.caches, || self.dfa.create_cache())
    }

    pub(crate) fn walk<'s>(&'s self, cache: &'s mut Cache) -> ShapeWalk<'s> {
        ShapeWalk { shape: self, cache: RefCell::new(cache) }
    }
}

impl std::fmt::Debug for Shape {
    fn fmt(&self, formatter: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        formatter.debug_tuple("Shape").field(&self.expression).finish()
    }
}

/// A shape being looked for.
pub(crate) struct ShapeWalk<'s> {
    shape: &'s Shape,
    cache: RefCell<&'s mut Cache>,
}

impl Walk for ShapeWalk<'_> {
    fn next_candidate(&self, text: &[u8], from: usize) -> Option<usize> {
        let find = |may_start: &dyn Fn(u8) -> bool| {
            text[from..].iter().position(|byte| may_start(*byte)).map(|found| from + found)
        };
        match self.shape.starts {
            ShapeStart::At([one]) => memchr::memchr(*one, &text[from..]).map(|found| from + found),
            ShapeStart::At([one, two]) => memchr::memchr2(*one, *two, &text[from..]).map(|found| from + found),
            ShapeStart::At(bytes) => find(&|byte| bytes.contains(&byte)),
            ShapeStart::AtDigit(bytes) => find(&|byte| byte.is_ascii_digit() || bytes.contains(&byte)),
            // A letter beyond ASCII may be a capital.
            ShapeStart::AtUpper(bytes) => {
                find(&|byte| byte.is_ascii_uppercase() || byte >= 0xC3 || bytes.contains(&byte))
            }
            ShapeStart::RowBefore(mark) => row_before(text, from, mark),
        }
    }

    fn after_failure(&self, text: &[u8], at: usize) -> usize {
        match self.shape.starts {
            // Nothing starts within a row.
            ShapeStart::RowBefore(mark) => memchr::memchr(mark, &text[at..]).map_or(text.len(), |found| at + found + 1),
            _ => at + step(text, at),
        }
    }

    fn match_at(&self, text: &[u8], at: usize, accept: impl Fn(usize) -> bool) -> Option<usize> {
        if !(self.shape.before)(text, at) {
            return None;
        }
        let end = content_end(&text[..text.len().min(at + LONGEST)], at);
        let input = Input::new(text).range(at..end).anchored(Anchored::Yes);
        let mut state = OverlappingState::start();
        let mut longest = None;
        let cache: &mut Cache = &mut self.cache.borrow_mut();
        // A search that gives up (it does so when its cache thrashes) finds nothing more.
        while self.shape.dfa.try_search_overlapping_fwd(cache, &input, &mut state).is_ok() {
            let Some(found) = state.get_match() else { break };
            let end = found.offset();
            if end > at && (self.shape.after)(text, at, end) && accept(end) {
                longest = Some(end);
            }
        }
        longest
    }
}

/// The start of the row of characters before the next `mark`, at or after `from`.
fn row_before(text: &[u8], from: usize, mark: u8) -> Option<usize> {
    let mut searched = from;
    while let Some(found) = memchr::memchr(mark, &text[searched..]) {
        let at = searched + found;
        let mut start = at;
        while let Some(before) = char_before(&text[from..], start - from).filter(|c| in_row(*c)) {
            start -= before.len_utf8();
        }
        if start < at {
            return Some(start);
        }
        searched = at + step(text, at);
    }
    None
}

fn in_row(character: char) -> bool {
    crate::words::is_word_char(character) || matches!(character, '.' | '_' | '+' | '%' | '-')
}
