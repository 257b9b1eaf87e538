//! Writing results so that every file is wholly the old one or wholly the new one.

mod compared;
mod copy;
mod in_place;
mod kept;
mod output;
mod staged;
mod together;

pub(crate) use compared::ComparedSink;
pub(crate) use copy::CopySink;
pub use in_place::Replacing;
pub(crate) use in_place::{InPlaceSink, OldFile, SourceFile};
pub use output::{OutputError, OutputFile};
pub(crate) use together::{Waiting, batches_to_replace, put_in_place};
