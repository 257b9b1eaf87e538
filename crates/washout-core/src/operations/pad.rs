//! `pad`

use super::compiled_rule::{BlockContext, RuleState};
use super::operation::{LineUse, Operation};
use crate::matching::{Finder, chosen};
use crate::rules::{Pad, Which};
use crate::text::haystack::Haystack;
use crate::text::lines::Lines;
use crate::text::matches::Span;

/// Writes zeros before numbers.
#[derive(Clone, Debug)]
pub(super) struct Padder {
    width: usize,
    /// Only there; else every number on a line is a match by itself.
    within: Option<Finder>,
    which: Which,
}

impl Padder {
    pub(super) fn new(pad: &Pad) -> Self {
        let within = pad.within.as_ref().map(|search| Finder::new(search, pad.which, false));
        Self { width: pad.width, within, which: pad.which }
    }

    fn padded(&self, text: &[u8], number: Span, put: &mut Vec<u8>) {
        let zeros = self.width.saturating_sub(number.end - number.start);
        put.resize(put.len() + zeros, b'0');
        put.extend_from_slice(number.of(text));
    }
}

impl Operation for Padder {
    fn line_use(&self) -> LineUse {
        LineUse::KEEPS_NUMBER
    }

    fn run(&self, block: Haystack<'_>, _: BlockContext, state: &mut RuleState) {
        let text = block.text;
        let RuleState { finder, edits, guard, .. } = state;
        let Some(search) = &self.within else {
            let lines = Lines::of(text);
            let numbers = lines.flat_map(|line| numbers(text, Span::new(line.start, line.content_end)));
            let allowed: Vec<Span> = numbers.filter(|span| guard.allows(span.start, span.end)).collect();
            let chosen = chosen(self.which, text, &allowed, false);
            for (index, span) in allowed.into_iter().enumerate() {
                if chosen.as_ref().is_none_or(|chosen| chosen[index]) {
                    edits.push_with(text, span.start..span.end, 1, |put| self.padded(text, span, put));
                }
            }
            return;
        };
        for span in search.find(text, guard, finder).spans() {
            // The whole of a match is one change.
            edits.push_with(text, span.start..span.end, 1, |put| {
                let mut from = span.start;
                for number in numbers(text, *span) {
                    put.extend_from_slice(&text[from..number.start]);
                    self.padded(text, number, put);
                    from = number.end;
                }
                put.extend_from_slice(&text[from..span.end]);
            });
        }
    }

    fn finder(&self) -> Option<&Finder> {
        self.within.as_ref()
    }

    fn finder_mut(&mut self) -> Option<&mut Finder> {
        self.within.as_mut()
    }
}

/// The numbers in a stretch: runs of the digits 0 to 9. What is after a decimal point or comma is part of the number
/// before it: 3.5 must not become 003.005.
fn numbers(text: &[u8], span: Span) -> impl Iterator<Item = Span> + '_ {
    let mut at = span.start;
    std::iter::from_fn(move || {
        loop {
            let start = at + text[at..span.end].iter().position(u8::is_ascii_digit)?;
            let len = text[start..span.end].iter().take_while(|byte| byte.is_ascii_digit()).count();
            at = start + len;
            if !is_fraction(text, start) {
                return Some(Span::new(start, at));
            }
        }
    })
}

fn is_fraction(text: &[u8], digits: usize) -> bool {
    digits >= 2 && matches!(text[digits - 1], b'.' | b',') && text[digits - 2].is_ascii_digit()
}
