//! Rules that made more or fewer changes than they are to make.

use std::io::{self, Write};

use washout_core::RuleName;
use washout_files::{Spot, Unmet};

use super::number::grouped;
use super::visible::{shown, shown_cell, shown_path};

/// Says what was expected, what was found, and where.
pub(crate) fn draw(unmet: &[Unmet], names: &[RuleName], out: &mut impl Write) -> io::Result<()> {
    for Unmet { rule, wanted, sections, found, file, places } in unmet {
        let RuleName { number, caption } = &names[rule.0];
        let file = file.as_ref().map_or_else(String::new, |path| format!(" in {}", shown_path(path)));
        let found = if *found == 0 { "none".to_owned() } else { grouped(*found) };
        writeln!(
            out,
            "washout: rule {} ({}) expects {}{}, and {} {found}{file}",
            shown(number),
            shown(caption),
            wanted.of(if *sections { "section" } else { "change" }),
            if file.is_empty() { "" } else { " in each file" },
            if *sections { "finds" } else { "makes" },
        )?;
        for (path, spot) in places {
            match spot {
                Spot::Name => writeln!(out, "  {}", shown_path(path))?,
                Spot::Line(line) => writeln!(out, "  {}:{line}", shown_path(path))?,
                Spot::Cell(cell) => writeln!(out, "  {}:{}", shown_path(path), shown_cell(cell, ":"))?,
            }
        }
    }
    writeln!(out, "Nothing was written. Change the rules, or what they expect.")
}
