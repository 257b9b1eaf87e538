//! The view on the screen.

mod last_lines;
mod panes;
mod rule_list;

use ratatui_core::layout::{Constraint, Layout, Position, Rect};
use ratatui_core::style::{Color, Modifier, Style};
use ratatui_core::terminal::Frame;
use ratatui_core::text::{Line, Span, Text};
use unicode_width::UnicodeWidthStr;
use washout_core::observe::Side;

use super::app::{App, Mode};
use super::subject::Subject;
use crate::exit::Trouble;
use crate::show::number::{counted, grouped};
use crate::show::visible::{drawn_within, shown_path};
use last_lines::bottom_lines;
use panes::draw_panes;
use rule_list::{draw_rules, rule_lines, trouble_lines};

/// What the keys do, for the page of help.
const KEYS: &[(&str, &str)] = &[
    ("arrows, PageUp, PageDown", "scroll; Left and Right move sideways"),
    ("Home, End", "to the start, to the end"),
    ("n, p", "next change, change before"),
    ("c", "only lines that change, or all"),
    ("w", "wrap long lines"),
    ("b", "texts beside or below each other"),
    ("m", "a row of marks under changes"),
    ("f, F", "next file, file before"),
    ("Tab, Shift-Tab", "choose a rule"),
    ("Space", "turn the chosen rule off and on"),
    ("u", "run no rule after the chosen one"),
    ("a or Enter", "type a rule; Enter adds it, Esc drops it, Up recalls"),
    ("l", "look at characters; arrows move, Esc leaves"),
    ("s", "save the rules of this view in a file"),
    ("e", "open $EDITOR on the rule set"),
    ("W", "clean in place: asks, and U undoes it"),
    ("q, Ctrl-Z", "quit, suspend"),
];

/// Whether the terminal is to have colours.
pub(super) fn has_colour() -> bool {
    anstream::AutoStream::choice(&std::io::stdout()) != anstream::ColorChoice::Never
}

/// What a message says, without colours.
pub(super) fn without_styles(error: &Trouble) -> String {
    let message = error.message().unwrap_or_default();
    let plain = anstream::adapter::strip_str(&message).to_string();
    plain.strip_prefix("washout: ").map_or(plain.clone(), str::to_owned)
}

/// How many characters a line has, its end included; bytes that are none count too.
pub(super) fn units(line: &[u8]) -> usize {
    line.utf8_chunks().map(|chunk| chunk.valid().chars().count() + chunk.invalid().len()).sum()
}

/// The looks of things, with colours or without.
struct Looks {
    gone: Style,
    new: Style,
    quiet: Style,
    strong: Style,
}

impl Looks {
    fn of_terminal() -> Self {
        let (bold, plain) = (Style::new().add_modifier(Modifier::BOLD), Style::new());
        let quiet = plain.add_modifier(Modifier::DIM);
        if has_colour() {
            Self { gone: bold.fg(Color::Yellow), new: bold.fg(Color::Cyan), quiet, strong: bold }
        } else {
            Self { gone: bold, new: bold, quiet, strong: bold }
        }
    }

    fn of(&self, side: Side) -> Style {
        match side {
            Side::Kept => Style::new(),
            Side::Removed(_) => self.gone,
            Side::Put(_) => self.new,
        }
    }
}

/// Draws everything.
pub(super) fn draw(app: &mut App<'_>, frame: &mut Frame<'_>) {
    let looks = Looks::of_terminal();
    let area = frame.area();
    let bottom = bottom_lines(app, area, &looks);
    let below = trouble_lines(app, area).unwrap_or_else(|| rule_lines(app, area, &looks));
    let most_below = if area.height < 16 { area.height / 4 } else { area.height * 2 / 5 };
    let heights = [
        Constraint::Length(1),
        Constraint::Min(3),
        Constraint::Length(u16::try_from(below.len()).unwrap_or(u16::MAX).min(most_below.max(1))),
        Constraint::Length(u16::try_from(bottom.0.len()).unwrap_or(1)),
    ];
    let [top, panes, rules, last] = Layout::vertical(heights).areas(area);
    frame.render_widget(top_line(app, usize::from(area.width), &looks), top);
    draw_panes(app, frame, panes, &looks);
    draw_rules(app, frame, rules, &below);
    frame.render_widget(Text::from(bottom.0), last);
    if let Some((column, row)) = bottom.1 {
        frame.set_cursor_position(Position::new(last.x + column.min(last.width.saturating_sub(1)), last.y + row));
    }
    if let Mode::Help = app.mode {
        draw_help(frame, area, &looks);
    }
}

// ---- above

fn top_line(app: &App<'_>, width: usize, looks: &Looks) -> Line<'static> {
    let name = match app.path() {
        Some(path) => shown_path(path),
        None => "names of files".to_owned(),
    };
    let mut facts = Vec::new();
    if app.files.len() > 1 {
        facts.push(format!("{} of {}", app.file + 1, counted(app.files.len() as u64, "file")));
    }
    if let Some(part) = app.subject.as_ref().map(|subject| subject.part()).filter(|part| !part.is_empty()) {
        facts.push(part);
    }
    if let Some(rows) = app.rows() {
        let thing = match app.subject.as_deref() {
            Some(Subject::Table(_)) => "record",
            Some(Subject::Names(_)) => "name",
            _ => "line",
        };
        let (changed, all) = rows.counts;
        facts.push(format!("{} of {} change", grouped(changed as u64), counted(all as u64, thing)));
        let place = app.row_at(app.top).map(|row| rows.number(row)).filter(|number| !number.is_empty());
        facts.extend(place.map(|number| format!("at {number}")));
    }
    if app.only_changes {
        facts.push("changes only".to_owned());
    }
    if app.shown < app.ordered_number() {
        facts.push("…".to_owned());
    }
    // What does not fit beside the name is left out, the last first.
    while facts.len() > 1 && facts.join(" · ").width() + name.width() + 2 > width {
        facts.pop();
    }
    let facts = facts.join(" · ");
    let room = width.saturating_sub(facts.width() + 2).max(width / 3);
    let name = drawn_within(name.as_bytes(), room);
    let gap = width.saturating_sub(name.width() + facts.width()).max(1);
    Line::from(vec![Span::styled(name, looks.strong), Span::raw(" ".repeat(gap)), Span::styled(facts, looks.quiet)])
}

fn draw_help(frame: &mut Frame<'_>, area: Rect, looks: &Looks) {
    let keys = KEYS.iter().map(|(keys, _)| keys.width()).max().unwrap_or(0);
    let mut lines = vec![Line::styled("keys (any key closes this)", looks.strong)];
    lines.extend(
        KEYS.iter().map(|(key, does)| {
            Line::from(vec![Span::styled(format!("{key:<keys$}  "), looks.strong), Span::raw(*does)])
        }),
    );
    let (width, height) = (area.width.min(80), area.height.min(u16::try_from(lines.len()).unwrap_or(u16::MAX)));
    let area = Rect { x: (area.width - width) / 2, y: (area.height - height) / 2, width, height };
    area.positions().for_each(|place| frame.buffer_mut()[place].reset());
    frame.render_widget(Text::from(lines), area);
}
