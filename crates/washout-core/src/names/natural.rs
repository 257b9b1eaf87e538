//! The order in which people read names: `scan 9` before `scan 10`.

use std::cmp::Ordering;

/// Compares two names: numbers by their value, all else byte by byte. Names of equal value (`scan 07`, `scan 7`) are in
/// the order of their bytes.
pub fn natural_order(one: &[u8], other: &[u8]) -> Ordering {
    let (mut left, mut right) = (one, other);
    loop {
        let (Some(first), Some(second)) = (left.first(), right.first()) else {
            return left.len().cmp(&right.len()).then_with(|| one.cmp(other));
        };
        let by_piece = if first.is_ascii_digit() && second.is_ascii_digit() {
            let (mine, theirs) = (take_number(&mut left), take_number(&mut right));
            mine.len().cmp(&theirs.len()).then_with(|| mine.cmp(theirs))
        } else {
            let by_byte = first.cmp(second);
            (left, right) = (&left[1..], &right[1..]);
            by_byte
        };
        if by_piece != Ordering::Equal {
            return by_piece;
        }
    }
}

/// Cuts the number off the start, and gives its digits without leading zeros.
fn take_number<'n>(name: &mut &'n [u8]) -> &'n [u8] {
    let zeros = name.iter().take_while(|byte| **byte == b'0').count();
    let digits = name[zeros..].iter().take_while(|byte| byte.is_ascii_digit()).count();
    let number = &name[zeros..zeros + digits];
    *name = &name[zeros + digits..];
    number
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn numbers_go_by_value() {
        let mut names =
            ["b", "scan 10", "scan 9.tif", "scan 07", "scan 7", "scan", "scan 9", "99999999999999999999999", "1"];
        names.sort_by(|one, other| natural_order(one.as_bytes(), other.as_bytes()));
        let want =
            ["1", "99999999999999999999999", "b", "scan", "scan 07", "scan 7", "scan 9", "scan 9.tif", "scan 10"];
        assert_eq!(names, want);
    }
}
