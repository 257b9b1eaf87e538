//! Other names for files and folders: planned whole, written down, then carried out without ever overwriting anything.

mod carry_out;
mod error;
mod map;
mod planned;
mod undo;

pub use carry_out::{CarriedOut, carry_out};
pub use error::RenameError;
pub use map::{MapError, NameMap, write_map};
pub use planned::{NameOrder, PlannedFolder, PlannedName, Plans, RequestSource};
pub use undo::{Undo, UndoRefusal, plan_undo};
