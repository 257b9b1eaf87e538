//! One text through a program, in a stream.

mod chunks;
mod excerpt;
mod follow;
mod piece;
mod stream;

pub use excerpt::Excerpt;
pub(crate) use follow::FollowObserver;
pub use follow::{Follow, Followed, Recorder};
pub(crate) use piece::TextPiece;
pub use stream::{Incoming, StreamError, Washed, is_one_piece, wash_stream};
pub(crate) use stream::{WashFailure, wash};
