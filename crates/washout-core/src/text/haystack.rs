//! A text that is searched, and where in it there may be anything to find.

use super::lines::{Line, line_start, splits_crlf};

/// A block of whole lines to be searched.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Haystack<'t> {
    pub(crate) text: &'t [u8],
    /// Only lines that hold one of these places, which are in order, hold anything that is searched for; `None`: that is
    /// not known.
    pub(crate) places: Option<&'t [usize]>,
    /// They are besides the only places where anything starts that is searched for.
    pub(crate) are_starts: bool,
}

impl<'t> From<&'t [u8]> for Haystack<'t> {
    fn from(text: &'t [u8]) -> Self {
        Self { text, places: None, are_starts: false }
    }
}

impl<'t> Haystack<'t> {
    /// The only places where anything starts that is searched for, if they are known.
    pub(crate) fn starts(self) -> Option<&'t [usize]> {
        self.places.filter(|_| self.are_starts)
    }

    /// The lines to be searched, in order.
    pub(crate) fn lines(self) -> HaystackLines<'t> {
        HaystackLines { haystack: self, end: 0 }
    }

    /// Hands over each stretch of text to be searched as text up to its end, and its start: all of it, or line by line.
    pub(crate) fn each_stretch(self, mut search: impl FnMut(&'t [u8], usize)) {
        match self.places {
            None => search(self.text, 0),
            Some(_) => self.lines().for_each(|line| search(&self.text[..line.end], line.start)),
        }
    }

    /// Hands over each place where anything may start, to be told where what starts there ends; and each such start and
    /// end, none of which lies in another.
    pub(crate) fn each_start(
        places: &[usize],
        mut end_of: impl FnMut(usize) -> Option<usize>,
        mut found: impl FnMut(usize, usize),
    ) {
        let mut from = 0;
        for place in places {
            if *place >= from
                && let Some(end) = end_of(*place)
            {
                found(*place, end);
                from = end.max(place + 1);
            }
        }
    }
}

/// See [`Haystack::lines`].
pub(crate) struct HaystackLines<'t> {
    haystack: Haystack<'t>,
    /// The end of the last line.
    end: usize,
}

impl Iterator for HaystackLines<'_> {
    type Item = Line;

    fn next(&mut self) -> Option<Line> {
        let text = self.haystack.text;
        let line = match &mut self.haystack.places {
            None if self.end == text.len() => return None,
            None => Line::at(text, self.end),
            Some(places) => {
                let next = places.iter().position(|place| *place >= self.end)?;
                let place = places[next] - usize::from(splits_crlf(text, places[next]));
                *places = &places[next + 1..];
                Line { start: self.end + line_start(&text[self.end..], place - self.end), ..Line::at(text, place) }
            }
        };
        self.end = line.end;
        Some(line)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn only_lines_with_a_place_are_searched_and_each_of_them_once() {
        let text = b"fog\r\n\nrain\ngale";
        let lines = |places: Option<&[usize]>| {
            Haystack { text, places, are_starts: false }
                .lines()
                .map(|line| (line.start, line.content_end, line.end))
                .collect::<Vec<_>>()
        };
        assert_eq!(lines(None), [(0, 3, 5), (5, 5, 6), (6, 10, 11), (11, 15, 15)]);
        assert_eq!(lines(Some(&[1, 2, 7, 7, 9, 14])), [(0, 3, 5), (6, 10, 11), (11, 15, 15)]);
        assert_eq!(
            lines(Some(&[4, 5])),
            [(0, 3, 5), (5, 5, 6)],
            "a place at a line end is on the line that ends there"
        );
        assert_eq!(lines(Some(&[])), []);
    }
}
