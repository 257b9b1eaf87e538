//! The rules, or what is wrong with them.

use ratatui_core::layout::Rect;
use ratatui_core::style::Style;
use ratatui_core::terminal::Frame;
use ratatui_core::text::{Line, Text};
use unicode_width::UnicodeWidthStr;

use super::Looks;
use crate::live::app::App;
use crate::live::subject::Subject;
use crate::show::number::grouped;
use crate::show::visible::{drawn_within, shown};

/// What is wrong with the rules as they are saved, in place of their list.
pub(super) fn trouble_lines(app: &App<'_>, area: Rect) -> Option<Vec<Line<'static>>> {
    let text = app.rule_trouble.as_ref()?;
    let lines = text.lines().map(|line| Line::raw(drawn_within(line.as_bytes(), usize::from(area.width))));
    Some(lines.collect())
}

pub(super) fn rule_lines(app: &App<'_>, area: Rect, looks: &Looks) -> Vec<Line<'static>> {
    let width = usize::from(area.width);
    let has_sizes = !matches!(app.subject.as_deref(), Some(Subject::Table(_) | Subject::Names(_)));
    let sizes_width = if has_sizes && width >= 80 { 24 } else { 0 };
    let room = width.saturating_sub(12 + sizes_width + 2);
    let outcome = app.outcome.as_ref();
    let rules = outcome.map_or(&[][..], |outcome| &outcome.rules);
    if rules.is_empty() {
        let hint = "no rule yet: press a and type one, such as  remove.chars = \"#\"";
        return vec![Line::styled(drawn_within(hint.as_bytes(), width), looks.quiet)];
    }
    let numbers = rules.iter().map(|name| name.number.width()).max().unwrap_or(1).min(16);
    let sizes_title = if sizes_width > 0 { "characters" } else { "" };
    let title = format!("{}{:>10}{sizes_title:>sizes_width$}", " ".repeat(room + 2), "changes");
    let mut lines = vec![Line::styled(title, looks.quiet)];
    for (index, name) in rules.iter().enumerate() {
        let is_off = app.off.contains(&name.number) || app.up_to.is_some_and(|last| index > last);
        let changes = outcome.and_then(|outcome| outcome.changes.get(index)).copied().unwrap_or(0);
        let size = app.sizes.as_ref().and_then(|sizes| sizes.get(index)).filter(|_| sizes_width > 0 && !is_off);
        let size = size.map_or_else(String::new, |(before, after)| {
            if before.chars == after.chars {
                grouped(after.chars)
            } else {
                format!("{} → {}", grouped(before.chars), grouped(after.chars))
            }
        });
        let changes = if is_off { "off".to_owned() } else { grouped(changes) };
        let caption = drawn_within(name.caption.as_bytes(), room.saturating_sub(numbers + 2));
        let gap = " ".repeat(room.saturating_sub(numbers + 2 + caption.width()));
        let sign = if index == app.selected { "›" } else { " " };
        let text = format!("{sign} {:>numbers$}  {caption}{gap}{changes:>10}{size:>sizes_width$}", shown(&name.number));
        let style = match () {
            () if index == app.selected => looks.strong,
            () if is_off || changes == "0" => looks.quiet,
            () => Style::new(),
        };
        lines.push(Line::styled(text, style));
    }
    lines
}

pub(super) fn draw_rules(app: &App<'_>, frame: &mut Frame<'_>, area: Rect, lines: &[Line<'static>]) {
    // The chosen rule stays in view; its title too, if there is room.
    let height = usize::from(area.height);
    let selected = app.selected + 1;
    let skipped =
        if app.rule_trouble.is_some() || lines.len() <= height { 0 } else { (selected + 1).saturating_sub(height) };
    let lines: Vec<Line<'static>> = if skipped > 0 && height > 1 {
        lines[..1].iter().chain(&lines[skipped + 1..]).cloned().collect()
    } else {
        lines[skipped.min(lines.len().saturating_sub(1))..].to_vec()
    };
    frame.render_widget(Text::from(lines), area);
}
