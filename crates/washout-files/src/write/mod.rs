//! Writing results so that every file is wholly the old one or wholly the new one.

mod copy;
mod in_place;
mod kept;
mod output;
mod staged;
mod together;

pub(crate) use copy::CopySink;
pub use in_place::Replacing;
pub(crate) use in_place::{InPlaceSink, Source};
pub use kept::Stamp;
pub use output::{OutputError, OutputFile};
pub use staged::left_behind_below;
pub(crate) use staged::{folder_of, sweep};
pub(crate) use together::{Waiting, put_in_place};
