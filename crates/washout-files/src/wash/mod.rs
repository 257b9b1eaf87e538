//! One text through a program, in a stream.

mod chunks;
mod excerpt;
mod follow;
mod piece;
mod record;
mod stream;

pub use excerpt::{CONTEXT, Excerpt, Totals};
pub(crate) use follow::FollowObserver;
pub use follow::{Follow, Followed};
pub(crate) use piece::TextPiece;
pub use record::{FileRecorder, Recorder};
pub use stream::{Incoming, StreamError, Washed, is_one_piece, wash_stream};
pub(crate) use stream::{WashFailure, wash};
