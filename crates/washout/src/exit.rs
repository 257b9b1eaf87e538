//! How a run ends.

use std::io;
use std::process::ExitCode;

use washout_core::RuleError;
use washout_files::{ChooseError, HistoryError, StreamError};
use washout_sets::reason;

use crate::show::{
    diagnostics,
    visible::{shown, shown_path},
};

/// The exit status. The numbers are part of the interface.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Exit {
    /// 0: done.
    Done,
    /// 1: an example fails, or nothing could be learnt.
    Found,
    /// 2: the command line or a rule set is wrong; nothing was opened.
    WrongUsage,
    /// 3: some files could not be done; the others were.
    SomeFailed,
    /// 4: a rule made more or fewer changes than it expects; nothing was written.
    NotAsExpected,
    /// 130: interrupted; what was finished stays.
    Interrupted,
}

impl From<Exit> for ExitCode {
    fn from(exit: Exit) -> Self {
        Self::from(match exit {
            Exit::Done => 0,
            Exit::Found => 1,
            Exit::WrongUsage => 2,
            Exit::SomeFailed => 3,
            Exit::NotAsExpected => 4,
            Exit::Interrupted => 130,
        })
    }
}

/// What ends a run early.
#[derive(Debug)]
pub(crate) enum Trouble {
    /// The command line makes no sense; the message says what to do instead.
    Usage(String),
    /// The same, drawn with the lines it is about.
    Drawn(String),
    /// Rule sets that mean nothing.
    Rules(Vec<RuleError>),
    /// The paths make no list of files.
    Choose(ChooseError),
    /// The history cannot be read or written, so nothing was changed.
    History(HistoryError),
    /// A stream failed.
    Stream(StreamError),
    /// A file or folder of the run itself failed, not one of those to be cleaned.
    File(String, io::Error),
    /// What the run has to print cannot be written.
    Output(io::Error),
}

impl Trouble {
    pub(crate) fn exit(&self) -> Exit {
        match self {
            _ if self.is_closed_pipe() => Exit::Done,
            Self::Usage(_)
            | Self::Drawn(_)
            | Self::Rules(_)
            | Self::Choose(_)
            | Self::History(
                HistoryError::NoRun(_)
                | HistoryError::UnderWay(_)
                | HistoryError::HalfPutBack { .. }
                | HistoryError::Busy,
            ) => Exit::WrongUsage,
            Self::History(_) | Self::Stream(_) | Self::File(..) | Self::Output(_) => Exit::SomeFailed,
        }
    }

    /// What to tell the person; `None` if there is nothing to tell.
    pub(crate) fn message(&self) -> Option<String> {
        Some(match self {
            // Whoever reads has read enough: `washout … | head`.
            _ if self.is_closed_pipe() => return None,
            Self::Usage(message) => format!("washout: {message}"),
            Self::Drawn(message) => message.clone(),
            Self::Rules(errors) => diagnostics::draw(errors),
            Self::Choose(ChooseError::NotThere { path, cause }) => {
                format!("washout: {}: {}\nNothing was opened.", shown_path(path), reason(cause))
            }
            Self::Choose(error) => format!("washout: {}\nNothing was opened.", shown(&error.to_string())),
            Self::History(error) => format!("washout: {}", shown(&error.to_string())),
            Self::Stream(error) => format!("washout: {}", shown(&error.to_string())),
            Self::File(path, error) => format!("washout: {}: {}", shown(path), reason(error)),
            Self::Output(error) => format!("washout: the output cannot be written: {}", reason(error)),
        })
    }

    fn is_closed_pipe(&self) -> bool {
        let closed = |error: &io::Error| error.kind() == io::ErrorKind::BrokenPipe;
        match self {
            Self::Stream(StreamError::Write(error)) | Self::Output(error) => closed(error),
            _ => false,
        }
    }
}

impl From<io::Error> for Trouble {
    fn from(error: io::Error) -> Self {
        Self::Output(error)
    }
}

impl From<HistoryError> for Trouble {
    fn from(error: HistoryError) -> Self {
        Self::History(error)
    }
}

impl From<ChooseError> for Trouble {
    fn from(error: ChooseError) -> Self {
        Self::Choose(error)
    }
}
