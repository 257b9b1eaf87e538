//! Washing files: choosing them, streaming them through a program, and writing results so that nothing is lost.
//!
//! [`choose`] turns the paths a person named into a list of files. [`Run::wash_all`] sends them through a program in
//! parallel and hands the results over in the order of the list. What becomes of a result is the [`Aim`]: nothing
//! (a preview), a copy in another folder, or the file itself.

mod charset;
mod choose;
mod chunk;
mod durable;
mod encoding;
mod error;
mod first_lines;
mod folder;
mod history;
mod identity;
mod judge;
mod meter;
mod rename;
mod restore;
mod rewrite;
mod run;
mod skip;
mod stamp;
mod stop;
mod survey;
mod threads;
mod wait;
mod wash;
mod write;

pub use charset::{Charset, Charsets, Label};
pub use choose::{Choice, Chosen, ChosenFile, Globs, Take, choose};
pub use error::{ChooseError, FileError};
pub use first_lines::first_lines;
pub use folder::{left_behind_below, remove_left_behind};
pub use history::{
    About, ContentRecord, History, HistoryError, HistoryLimits, Keeper, Pruned, RenameOutcome, RenameRecord, RunEntry,
    RunKind, RunState, state_folder,
};
pub use identity::Identity;
pub use judge::{Spot, Unmet, judge, wash_stream_judged};
pub use meter::Meter;
pub use rename::{
    CarriedOut, MapError, NameMap, NameOrder, PlannedFolder, PlannedName, Plans, RenameError, RequestSource, Undo,
    UndoRefusal, carry_out, plan_undo, write_map,
};
pub use restore::{Restoration, RestoreRefusal, plan_restore};
pub use rewrite::{Decision, read_decoded, read_through, rewrite};
pub use run::{Aim, FileReport, Run, State};
pub use skip::Skip;
pub use stamp::Stamp;
pub use stop::Stop;
pub use survey::{Encoding, FilesSurvey, survey_all, survey_stream};
pub use threads::Threads;
pub use wait::end_waits_at;
pub use wash::{
    CONTEXT, Excerpt, FileRecorder, Follow, Followed, Incoming, Recorder, StreamError, Totals, Washed, is_one_piece,
    wash_stream,
};
pub use write::{OutputError, OutputFile, Replacing};
