//! One text through a program, in a stream.

mod chunks;
mod excerpt;
mod follow;
mod piece;
mod skip;
mod stream;

pub use excerpt::Excerpt;
pub(crate) use follow::FollowObserver;
pub use follow::{Follow, Followed, Recorder};
pub(crate) use piece::Piece;
pub use skip::Skip;
pub(crate) use stream::{CHUNK, Failed, Sink, first_chunk, wash};
pub use stream::{Incoming, StreamError, Washed, is_one_piece, wash_stream};
