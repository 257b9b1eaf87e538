//! One text through a program, in a stream.

mod excerpt;
mod skip;
mod stream;

pub use excerpt::Excerpt;
pub(crate) use excerpt::ExcerptObserver;
pub use skip::Skip;
pub(crate) use stream::{Failed, Sink, read_chunk, wash};
pub use stream::{StreamError, Washed, wash_stream};
