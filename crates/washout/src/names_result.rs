//! The result of a run over names: counts, and what failed.

use std::collections::HashMap;
use std::io::{self, Write};
use std::path::Path;

use washout_files::{CarriedOut, Plans, RenameError};

use crate::exit::Exit;
use crate::out;
use crate::show::number::{counted, grouped};
use crate::show::style::STRONG;
use crate::show::visible::{shown, shown_path};

/// The counts of a run, and what failed in it.
pub(crate) struct RenameSummary<'c> {
    /// What was done, if anything was to be.
    pub(crate) carried: Option<&'c CarriedOut>,
    /// Names that are planned to change.
    pub(crate) renames: u64,
    /// Names that are left alone for a reason.
    pub(crate) refused: u64,
    /// Names no rule changes.
    pub(crate) same: u64,
    /// Names that someone said to leave.
    pub(crate) left_by_hand: u64,
    /// Entries and folders that could not be looked at.
    unseen: u64,
    failures: HashMap<&'c Path, &'c RenameError>,
}

impl<'c> RenameSummary<'c> {
    pub(crate) fn of(plans: &Plans, carried: Option<&'c CarriedOut>, left_by_hand: u64) -> Self {
        let names = || plans.folders.iter().flat_map(washout_files::PlannedFolder::names);
        let refused = names().filter(|name| name.refusal().is_some()).count() as u64;
        let (all, renames) = (names().count() as u64, plans.renames());
        let failures = carried.into_iter().flat_map(|carried| &carried.failed);
        Self {
            carried,
            renames,
            refused,
            same: (all - refused - renames).saturating_sub(left_by_hand),
            left_by_hand,
            unseen: plans.failed.len() as u64,
            failures: failures.map(|(path, error)| (path.as_path(), error)).collect(),
        }
    }

    /// Why the rename of this entry was not done.
    pub(crate) fn failure(&self, path: &Path) -> Option<&RenameError> {
        self.failures.get(path).copied()
    }

    pub(crate) fn failed(&self) -> u64 {
        self.failures.len() as u64 + self.unseen
    }

    pub(crate) fn exit(&self, interrupted: bool) -> Exit {
        let unrecorded = self.carried.is_some_and(|carried| carried.unrecorded.is_some());
        match () {
            () if interrupted => Exit::Interrupted,
            () if self.failed() > 0 || unrecorded || (self.carried.is_some() && self.refused > 0) => Exit::SomeFailed,
            () => Exit::Done,
        }
    }

    /// Names what could not be renamed, on standard error.
    pub(crate) fn draw_failures(&self, out: &mut impl Write) -> io::Result<()> {
        let Some(carried) = self.carried else { return Ok(()) };
        out.flush()?;
        for (path, error) in &carried.failed {
            out::print_warning(&format!("{}: {}", shown_path(path), shown(&error.to_string())))?;
        }
        if let Some(error) = &carried.unrecorded {
            out::print_warning(&format!(
                "the names were changed, but the history does not say so: {}",
                shown(&error.to_string())
            ))?;
        }
        Ok(())
    }

    /// The closing line.
    pub(crate) fn draw_counts(&self, out: &mut impl Write) -> io::Result<()> {
        writeln!(out, "{STRONG}{}{STRONG:#}", self.counts(" (named above)"))
    }

    /// `47 names would change, 3 left alone (named above), 2 unchanged`.
    /// `where_`: where the names are listed that are not as they should be.
    pub(crate) fn counts(&self, where_: &str) -> String {
        let mut parts = match self.carried {
            None => vec![format!("{} would change", counted(self.renames, "name"))],
            Some(carried) => vec![format!("{} renamed", grouped(carried.renamed))],
        };
        let mut add = |count: u64, words: &str| {
            if count > 0 {
                parts.push(format!("{} {words}", grouped(count)));
            }
        };
        add(self.refused, &format!("left alone{where_}"));
        add(self.left_by_hand, "left as you said");
        add(self.same, "unchanged");
        add(self.carried.map_or(0, |carried| carried.not_begun), "not begun, as you asked to stop");
        add(self.failed(), &format!("failed{where_}"));
        parts.join(", ")
    }
}
