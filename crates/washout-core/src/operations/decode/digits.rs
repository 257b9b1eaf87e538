//! Decimal digits of other scripts (general category Nd) as 0 to 9.

use std::sync::LazyLock;

use crate::class::{CharSet, unicode_class};
use crate::operations::RuleState;
use crate::text::chars::char_at;

static DIGITS: LazyLock<CharSet> = LazyLock::new(|| unicode_class(r"[\p{Nd}]").unwrap_or_default());

pub(super) fn run(text: &[u8], state: &mut RuleState) {
    let mut at = 0;
    while let Some(found) = text[at..].iter().position(|byte| *byte >= 0xC2) {
        at += found;
        let Some((character, len)) = char_at(text, at) else {
            at += 1;
            continue;
        };
        if let Some(value) = value(character) {
            state.push(text, at..at + len, &[b'0' + value], 1);
        }
        at += len;
    }
}

/// Digits stand in rows of ten, from 0 to 9 (a stability policy of Unicode).
fn value(character: char) -> Option<u8> {
    let (first, _) = DIGITS.ranges().find(|(first, last)| (*first..=*last).contains(&character))?;
    u8::try_from((u32::from(character) - u32::from(first)) % 10).ok()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn every_row_of_digits_begins_with_its_zero() {
        for (first, last) in DIGITS.ranges() {
            assert_eq!((u32::from(last) - u32::from(first) + 1) % 10, 0, "{first:?}..{last:?}");
        }
        for (digit, want) in [('٣', 3), ('७', 7), ('９', 9), ('𝟘', 0), ('𝟿', 9), ('𞥕', 5)] {
            assert_eq!(value(digit), Some(want), "{digit}");
        }
        assert_eq!((value('²'), value('Ⅳ'), value('一')), (None, None, None));
    }
}
