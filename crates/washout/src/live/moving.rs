//! Which rows are in view: scrolling, changes, lines.

use super::app::App;
use super::rows::Rows;
use super::subject::Subject;

impl App<'_> {
    pub(super) fn rows(&self) -> Option<&Rows> {
        self.outcome.as_ref().map(|outcome| &outcome.rows)
    }

    /// How many rows are shown.
    pub(super) fn row_count(&self) -> usize {
        self.rows().map_or(0, |rows| if self.only_changes { rows.changed().len() } else { rows.len() })
    }

    /// The row that is shown at this place.
    pub(super) fn row_at(&self, place: usize) -> Option<usize> {
        let rows = self.rows()?;
        if self.only_changes { rows.changed().get(place).copied() } else { Some(place).filter(|row| *row < rows.len()) }
    }

    pub(super) fn go_to_line(&mut self, line: u64) {
        let first = match self.subject.as_deref() {
            Some(Subject::Text(text)) => text.first_line,
            _ => 1,
        };
        // Rows before it may be more than lines, where rules add some.
        let at_least = usize::try_from(line.saturating_sub(first)).unwrap_or(0);
        let Some(rows) = self.rows() else { return };
        let wanted = line.to_string();
        let end = rows.len().min(at_least.saturating_mul(2).saturating_add(100));
        let found = (at_least..end).find(|row| rows.row(*row).before.is_some_and(|side| side.number == wanted));
        self.top = found.unwrap_or(at_least).saturating_sub(2);
    }

    pub(super) fn go_to_change(&mut self, is_next: bool) {
        if self.only_changes {
            let step = |top: usize| if is_next { top + 1 } else { top.saturating_sub(1) };
            self.top = step(self.top).min(self.row_count().saturating_sub(1));
            return;
        }
        let Some(rows) = self.rows() else { return };
        // The change that is looked at stands two rows below the edge.
        let at = self.top + 2.min(self.page.saturating_sub(1));
        let changed = rows.changed();
        let is_start = |place: &usize| *place == 0 || changed[*place - 1] + 1 < changed[*place];
        let found = if is_next {
            (changed.partition_point(|row| *row <= at)..changed.len()).find(is_start)
        } else {
            (0..changed.partition_point(|row| *row < at)).rev().find(is_start)
        };
        match found {
            Some(place) => self.top = changed[place].saturating_sub(2.min(self.page.saturating_sub(1))),
            None if changed.is_empty() => self.message = Some("nothing changes here".to_owned()),
            None => {
                self.message =
                    Some(format!("there is no change {}", if is_next { "after this" } else { "before this" }));
            }
        }
    }

    pub(super) fn scroll(&mut self, rows: isize) {
        self.top = self.top.saturating_add_signed(rows).min(self.row_count().saturating_sub(1));
    }

    pub(super) fn show_only_changes(&mut self) {
        let row = self.row_at(self.top);
        self.only_changes = !self.only_changes;
        let Some(rows) = self.rows() else { return };
        let row = row.unwrap_or(0);
        self.top = if self.only_changes { rows.changed().partition_point(|changed| *changed < row) } else { row };
        self.top = self.top.min(self.row_count().saturating_sub(1));
    }

    /// The line under the cursor, as it came.
    pub(super) fn line_bytes(&self) -> Option<&[u8]> {
        let Some(Subject::Text(text)) = self.subject.as_deref() else { return None };
        let number: u64 = self.rows()?.row(self.row_at(self.top)?).before?.number.parse().ok()?;
        let line = usize::try_from(number.checked_sub(text.first_line)?).ok()?;
        let end = text.starts.get(line + 1).copied().unwrap_or(text.bytes.len());
        text.bytes.get(*text.starts.get(line)?..end)
    }
}
