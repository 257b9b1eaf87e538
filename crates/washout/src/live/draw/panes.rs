//! The two texts.

use ratatui_core::layout::{Constraint, Layout, Rect};
use ratatui_core::style::{Modifier, Style};
use ratatui_core::terminal::Frame;
use ratatui_core::text::{Line, Span, Text};
use washout_core::observe::Side;

use super::Looks;
use crate::live::app::{App, Mode};
use crate::live::rows::{PaneLine, Row, plain};
use crate::live::subject::Subject;
use crate::show::number::counted;
use crate::show::side_text::LineGlyph;
use crate::show::visible::{GlyphLook, drawn_within, glyphs, shown};

/// Narrower than this, one text stands above the other.
const BESIDE: u16 = 100;

pub(super) fn draw_panes(app: &mut App<'_>, frame: &mut Frame<'_>, area: Rect, looks: &Looks) {
    let is_stacked = app.is_stacked.unwrap_or(area.width < BESIDE);
    let (before, after) = if is_stacked {
        let [before, after] = Layout::vertical([Constraint::Fill(1), Constraint::Fill(1)]).areas(area);
        (before, after)
    } else {
        let [before, gap, after] =
            Layout::horizontal([Constraint::Fill(1), Constraint::Length(1), Constraint::Fill(1)]).areas(area);
        let bar: Vec<Line<'_>> = (0..gap.height).map(|_| Line::styled("│", looks.quiet)).collect();
        frame.render_widget(Text::from(bar), gap);
        (before, after)
    };
    if let Some(trouble) = app.trouble.clone().filter(|_| app.subject.is_none()) {
        frame.render_widget(Text::from(trouble), area);
        return;
    }
    let heading = app.rows().and_then(|rows| rows.heading.clone());
    let titles = 1 + u16::from(heading.is_some());
    let height = usize::from(before.height.min(after.height).saturating_sub(titles)).max(1);
    let is_old = app.rule_trouble.is_some() || app.typed_trouble.is_some() || app.failed.is_some();
    let mut panes = [Pane::new(before, height, number_width(app)), Pane::new(after, height, number_width(app))];
    let mut place = app.top;
    let mut seen = 0;
    while panes.iter().all(Pane::has_room) {
        let Some(row) = app.row_at(place).and_then(|row| Some(app.rows()?.row(row))) else { break };
        let close = matches!(app.mode, Mode::Characters { .. }) && place == app.top;
        let row = if close { closely(app, row) } else { row };
        let heights: Vec<usize> = panes
            .iter_mut()
            .zip([&row.before, &row.after])
            .map(|(pane, side)| pane.add(side.as_ref(), app, looks))
            .collect();
        let tallest = heights.iter().copied().max().unwrap_or(1);
        panes.iter_mut().zip(heights).for_each(|(pane, height)| pane.fill(tallest - height));
        place += 1;
        seen += 1;
    }
    app.page = seen.max(1);
    for ((pane, title), heading) in panes.iter_mut().zip(titles_of(app)).zip([
        heading.as_ref().and_then(|row| row.before.as_ref()),
        heading.as_ref().and_then(|row| row.after.as_ref()),
    ]) {
        let mut lines = vec![Line::styled(drawn_within(title.as_bytes(), usize::from(pane.area.width)), looks.quiet)];
        if let Some(heading) = heading {
            let mut above = Pane::new(pane.area, 1, pane.numbers);
            above.add(Some(heading), app, looks);
            lines.append(&mut above.lines);
        }
        lines.append(&mut pane.lines);
        let dimmed = if is_old { Style::new().add_modifier(Modifier::DIM) } else { Style::new() };
        frame.render_widget(Text::from(lines).style(dimmed), pane.area);
    }
}

fn titles_of(app: &App<'_>) -> [String; 2] {
    let sizes = app.sizes.as_ref().and_then(|sizes| Some((sizes.first()?.0, sizes.last()?.1)));
    let size = |size: washout_core::text::TextSize| {
        format!("  {}, {}", counted(size.lines, "line"), counted(size.chars, "character"))
    };
    let [before, after] = sizes.map_or_else(Default::default, |(before, after)| [size(before), size(after)]);
    let until = app.up_to.and_then(|rule| app.outcome.as_ref()?.rules.get(rule));
    let until = until.map_or_else(String::new, |name| format!(" rule {}", shown(&name.number)));
    [format!("before{before}"), format!("after{until}{after}")]
}

/// Columns for line numbers.
fn number_width(app: &App<'_>) -> usize {
    let last = match app.subject.as_deref() {
        Some(Subject::Text(text)) => text.first_line + text.starts.len() as u64,
        Some(Subject::Names(_)) => return 0,
        _ => app.rows().map_or(0, |rows| rows.len() as u64),
    };
    last.to_string().len().max(3)
}

/// The row with the cursor: every character of the line before by itself.
fn closely(app: &App<'_>, row: Row) -> Row {
    let Some(line) = app.line_bytes() else { return row };
    let glyphs = glyphs(line, GlyphLook::Close).into_iter();
    let glyphs = glyphs.map(|glyph| LineGlyph { glyph, side: Side::Kept }).collect();
    let before = row.before.map(|before| PaneLine { glyphs, ..before });
    Row { before, ..row }
}

/// One of the two texts, as far as it is drawn.
struct Pane {
    area: Rect,
    height: usize,
    /// Columns for numbers.
    numbers: usize,
    lines: Vec<Line<'static>>,
}

impl Pane {
    fn new(area: Rect, height: usize, numbers: usize) -> Self {
        Self { area, height, numbers, lines: Vec::new() }
    }

    fn has_room(&self) -> bool {
        self.lines.len() < self.height
    }

    fn fill(&mut self, lines: usize) {
        self.lines.extend(std::iter::repeat_n(Line::default(), lines));
    }

    /// Adds a line of the text; gives how many rows it takes.
    fn add(&mut self, line: Option<&PaneLine>, app: &App<'_>, looks: &Looks) -> usize {
        let Some(line) = line else {
            self.fill(1);
            return 1;
        };
        let sign = line.glyphs.iter().find_map(|glyph| match glyph.side {
            Side::Kept => None,
            Side::Removed(_) => Some(Span::styled("×", looks.gone)),
            Side::Put(_) => Some(Span::styled("^", looks.new)),
        });
        let margin = if self.numbers > 0 { self.numbers + 1 } else { 0 };
        let room = usize::from(self.area.width).saturating_sub(margin + 2).max(1);
        let cursor = match app.mode {
            Mode::Characters { unit } if line.glyphs.len() > unit && self.lines.is_empty() && !line.is_quiet => {
                Some(unit)
            }
            _ => None,
        };
        let rows = self.cut(line, room, cursor, app);
        let count = rows.len();
        let mut taken = 0;
        for (index, glyphs) in rows.into_iter().enumerate() {
            let number = if index == 0 { line.number.as_str() } else { "" };
            let number = if margin > 0 { format!("{number:>width$} ", width = self.numbers) } else { String::new() };
            let sign = sign.clone().filter(|_| index == 0).unwrap_or_else(|| Span::raw(" "));
            let mut spans = vec![Span::styled(number, looks.quiet), sign, Span::raw(" ")];
            spans.extend(spans_of(&glyphs, line.is_quiet, cursor.filter(|_| count == 1), looks));
            self.lines.push(Line::from(spans));
            taken += 1;
            if app.marks && glyphs.iter().any(|(_, glyph)| glyph.side != Side::Kept) {
                self.lines.push(marks(&glyphs, margin + 2, looks));
                taken += 1;
            }
        }
        taken
    }

    /// The rows of a line: as many as it takes if lines are wrapped, or else the part that is in view.
    fn cut(&self, line: &PaneLine, room: usize, cursor: Option<usize>, app: &App<'_>) -> Vec<Vec<(usize, LineGlyph)>> {
        let all = || line.glyphs.iter().cloned().enumerate();
        if app.wraps && cursor.is_none() {
            let (mut rows, mut used) = (vec![Vec::new()], 0);
            for (index, glyph) in all() {
                if used + glyph.glyph.width > room && used > 0 {
                    rows.push(Vec::new());
                    used = 0;
                    if rows.len() > self.height {
                        break;
                    }
                }
                used += glyph.glyph.width;
                if let Some(row) = rows.last_mut() {
                    row.push((index, glyph));
                }
            }
            return rows;
        }
        // The cursor stays in view.
        let before = |unit: usize| {
            line.glyphs[..unit.min(line.glyphs.len())].iter().map(|glyph| glyph.glyph.width).sum::<usize>()
        };
        let left = cursor.map_or(app.left, |unit| before(unit).saturating_sub(room / 2));
        let (mut column, mut used, mut row) = (0, 0, Vec::new());
        let ellipsis = |side| LineGlyph { side, ..plain("…").remove(0) };
        for (index, glyph) in all() {
            column += glyph.glyph.width;
            if column <= left {
                continue;
            }
            if row.is_empty() && left > 0 {
                row.push((usize::MAX, ellipsis(Side::Kept)));
                used = 1;
                continue;
            }
            if used + glyph.glyph.width > room {
                if let Some((_, last)) = row.pop() {
                    row.push((usize::MAX, ellipsis(last.side)));
                }
                break;
            }
            used += glyph.glyph.width;
            row.push((index, glyph));
        }
        vec![row]
    }
}

fn spans_of(glyphs: &[(usize, LineGlyph)], is_quiet: bool, cursor: Option<usize>, looks: &Looks) -> Vec<Span<'static>> {
    let is_cursor = |index: usize| cursor == Some(index);
    let together = |one: &(usize, LineGlyph), next: &(usize, LineGlyph)| {
        one.1.side == next.1.side && !is_cursor(one.0) && !is_cursor(next.0)
    };
    let stretches = glyphs.chunk_by(together).map(|stretch| {
        let text: String = stretch.iter().map(|(_, glyph)| glyph.glyph.text.as_str()).collect();
        let style = if is_quiet { looks.quiet } else { looks.of(stretch[0].1.side) };
        let style = if is_cursor(stretch[0].0) { style.add_modifier(Modifier::REVERSED) } else { style };
        Span::styled(text, style)
    });
    stretches.collect()
}

/// The row under a line: a sign for each column that changes.
fn marks(glyphs: &[(usize, LineGlyph)], margin: usize, looks: &Looks) -> Line<'static> {
    let stretches = glyphs.chunk_by(|one, next| one.1.side == next.1.side).map(|stretch| {
        let width: usize = stretch.iter().map(|(_, glyph)| glyph.glyph.width).sum();
        let (sign, style) = match stretch[0].1.side {
            Side::Kept => (" ", Style::new()),
            Side::Removed(_) => ("×", looks.gone),
            Side::Put(_) => ("^", looks.new),
        };
        Span::styled(sign.repeat(width), style)
    });
    Line::from(std::iter::once(Span::raw(" ".repeat(margin))).chain(stretches).collect::<Vec<_>>())
}
