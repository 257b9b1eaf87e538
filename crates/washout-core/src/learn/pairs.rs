//! Pairs from tables and from two texts.

use percent_encoding::percent_decode_str;

use super::Pair;
use crate::read::reads_as_heading;
use crate::text::csv::table_records;

impl Pair {
    /// The pairs of a table of two columns, as they are and as they should be: CSV (RFC 4180), or with another `delimiter`. A
    /// first row that reads as a heading (`before,after`) is none. A table of names, as `washout names --map` writes it, is one
    /// too.
    ///
    /// ```
    /// use washout_core::learn::Pair;
    ///
    /// let pairs = Pair::read_table(b"before,after\n\"Ferrow, Tom\",Tom Ferrow\n", b',')?;
    /// assert_eq!(pairs, [Pair::new("Ferrow, Tom", "Tom Ferrow")]);
    /// # Ok::<(), String>(())
    /// ```
    ///
    /// # Errors
    /// What is wrong, with its line: it is not a table, a row does not have two columns, or a cell is not UTF-8.
    pub fn read_table(text: &[u8], delimiter: u8) -> Result<Vec<Self>, String> {
        let text = text.strip_prefix(b"\xEF\xBB\xBF").unwrap_or(text);
        let mut pairs = Vec::new();
        let (mut is_first, mut is_of_names) = (true, false);
        for record in table_records(text, delimiter, |_| false) {
            let (line, cells) = record.map_err(|(line, why)| format!("line {line} {why}"))?;
            let cells: Vec<&str> = cells
                .iter()
                .map(|cell| std::str::from_utf8(cell))
                .collect::<Result<_, _>>()
                .map_err(|_| format!("line {line} is not UTF-8"))?;
            let is_first = std::mem::take(&mut is_first);
            match cells[..] {
                ["folder", "old", "new"] if is_first => is_of_names = true,
                [_, old, new] if is_of_names => {
                    let name = |written: &str| percent_decode_str(written).decode_utf8_lossy().into_owned();
                    pairs.push(Self::new(name(old), name(new)));
                }
                [before, after] if is_first && reads_as_heading(before, after) => {}
                [before, after] => pairs.push(Self::new(before, after)),
                _ => {
                    let columns = match cells.len() {
                        1 => "one column".to_owned(),
                        columns => format!("{columns} columns"),
                    };
                    return Err(format!(
                        "line {line} has {columns}, not two columns: a text as it is, and as it should be"
                    ));
                }
            }
        }
        Ok(pairs)
    }

    /// The pairs of two texts: their lines, if they have as many, and else the texts as a whole.
    ///
    /// ```
    /// use washout_core::learn::Pair;
    ///
    /// let pairs = Pair::of_texts("1 fog\n2 horn\n", "fog\nhorn\n");
    /// assert_eq!(pairs, [Pair::new("1 fog", "fog"), Pair::new("2 horn", "horn")]);
    /// ```
    pub fn of_texts(before: &str, after: &str) -> Vec<Self> {
        let (befores, afters): (Vec<&str>, Vec<&str>) = (before.lines().collect(), after.lines().collect());
        let ends_alike =
            before.contains('\r') == after.contains('\r') && before.ends_with('\n') == after.ends_with('\n');
        if befores.len() == afters.len() && ends_alike {
            befores.into_iter().zip(afters).map(|(before, after)| Self::new(before, after)).collect()
        } else {
            vec![Self::new(before, after)]
        }
    }
}
