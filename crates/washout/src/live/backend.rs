//! Puts cells on the terminal: what [`ratatui_core`] has drawn, as the sequences of [`crossterm`].

use std::io::{self, Stdout, Write as _};

use crossterm::cursor::{Hide, MoveTo, Show, position};
use crossterm::style::{Attribute, Color, Print, SetAttribute, SetForegroundColor};
use crossterm::terminal::{Clear, ClearType, size};
use crossterm::{execute, queue};
use ratatui_core::backend::{self, Backend, WindowSize};
use ratatui_core::buffer::Cell;
use ratatui_core::layout::{Position, Size};
use ratatui_core::style::{self, Modifier};

/// The terminal on standard output.
pub(super) struct TerminalBackend(pub(super) Stdout);

/// The colours of the view, as the terminal calls them. There are no others.
fn colour(colour: style::Color) -> Color {
    match colour {
        style::Color::Yellow => Color::DarkYellow,
        style::Color::Cyan => Color::DarkCyan,
        _ => Color::Reset,
    }
}

const ATTRIBUTES: [(Modifier, Attribute); 3] =
    [(Modifier::BOLD, Attribute::Bold), (Modifier::DIM, Attribute::Dim), (Modifier::REVERSED, Attribute::Reverse)];

impl Backend for TerminalBackend {
    type Error = io::Error;

    fn draw<'a, I: Iterator<Item = (u16, u16, &'a Cell)>>(&mut self, cells: I) -> io::Result<()> {
        let mut look = (style::Color::Reset, Modifier::empty());
        let mut cursor = None;
        for (column, row, cell) in cells {
            if cursor != Some((column, row)) {
                queue!(self.0, MoveTo(column, row))?;
            }
            cursor = column.checked_add(1).map(|next| (next, row));
            if look != (cell.fg, cell.modifier) {
                look = (cell.fg, cell.modifier);
                // This ends the colour too.
                queue!(self.0, SetAttribute(Attribute::Reset))?;
                for (_, attribute) in ATTRIBUTES.iter().filter(|(modifier, _)| cell.modifier.contains(*modifier)) {
                    queue!(self.0, SetAttribute(*attribute))?;
                }
                if cell.fg != style::Color::Reset {
                    queue!(self.0, SetForegroundColor(colour(cell.fg)))?;
                }
            }
            queue!(self.0, Print(cell.symbol()))?;
        }
        queue!(self.0, SetAttribute(Attribute::Reset))
    }

    fn hide_cursor(&mut self) -> io::Result<()> {
        execute!(self.0, Hide)
    }

    fn show_cursor(&mut self) -> io::Result<()> {
        execute!(self.0, Show)
    }

    fn get_cursor_position(&mut self) -> io::Result<Position> {
        position().map(Position::from)
    }

    fn set_cursor_position<P: Into<Position>>(&mut self, position: P) -> io::Result<()> {
        let Position { x, y } = position.into();
        execute!(self.0, MoveTo(x, y))
    }

    fn clear(&mut self) -> io::Result<()> {
        self.clear_region(backend::ClearType::All)
    }

    fn clear_region(&mut self, region: backend::ClearType) -> io::Result<()> {
        let region = match region {
            backend::ClearType::All => ClearType::All,
            backend::ClearType::AfterCursor => ClearType::FromCursorDown,
            backend::ClearType::BeforeCursor => ClearType::FromCursorUp,
            backend::ClearType::CurrentLine => ClearType::CurrentLine,
            backend::ClearType::UntilNewLine => ClearType::UntilNewLine,
        };
        execute!(self.0, Clear(region))
    }

    fn size(&self) -> io::Result<Size> {
        size().map(Size::from)
    }

    /// Reports no size in pixels: nothing here needs it.
    fn window_size(&mut self) -> io::Result<WindowSize> {
        Ok(WindowSize { columns_rows: self.size()?, pixels: Size::ZERO })
    }

    fn flush(&mut self) -> io::Result<()> {
        self.0.flush()
    }
}
