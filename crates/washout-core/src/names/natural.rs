//! The order in which people read names: `scan 9` before `scan 10`.

use std::cmp::Ordering;

/// Compares two names: numbers by their value, all else byte by byte. Names of equal value (`scan 07`, `scan 7`) are in
/// the order of their bytes.
pub fn natural_order(one: &[u8], other: &[u8]) -> Ordering {
    // What both begin with says nothing, but a number counts as a whole.
    let mut same = one.iter().zip(other).take_while(|(mine, theirs)| mine == theirs).count();
    while same > 0 && one[same - 1].is_ascii_digit() {
        same -= 1;
    }
    let (mut left, mut right) = (&one[same..], &other[same..]);
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
    use proptest::prelude::*;

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

    /// The pieces of a name: a number without leading zeros, by its length first, or a byte.
    fn pieces(name: &[u8]) -> Vec<(bool, u8, usize, Vec<u8>)> {
        let together = |one: &u8, next: &u8| one.is_ascii_digit() && next.is_ascii_digit();
        let piece = |piece: &[u8]| {
            let first = piece[0];
            let zeros = piece.iter().take_while(|byte| **byte == b'0').count();
            let digits = if first.is_ascii_digit() { piece[zeros..].to_vec() } else { Vec::new() };
            (first >= b'0', if first.is_ascii_digit() { b'0' } else { first }, digits.len(), digits)
        };
        name.chunk_by(together).map(piece).collect()
    }

    proptest! {
        #[test]
        fn the_order_is_that_of_the_pieces(one in "[a0-2 z]{0,7}", other in "[a0-2 z]{0,7}") {
            let (one, other) = (one.as_bytes(), other.as_bytes());
            let want = pieces(one).cmp(&pieces(other)).then_with(|| one.cmp(other));
            prop_assert_eq!(natural_order(one, other), want);
        }
    }
}
