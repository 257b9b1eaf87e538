//! `decode`: text that was written in another way, written plainly. One pass; what it gives is not looked at again.

mod digits;
mod double_utf8;
mod entities;
mod percent;

use super::op::OpState;
use crate::model::{Decode, Encoded};

/// Decodes.
#[derive(Clone, Copy, Debug)]
pub(super) struct Decoder(pub(super) Decode);

impl Decoder {
    pub(super) fn run(self, text: &[u8], state: &mut OpState) {
        match self.0.what {
            Encoded::HtmlEntities => entities::run(text, state),
            Encoded::Percent => percent::run(text, state),
            Encoded::DoubleUtf8 => double_utf8::run(text, state),
            Encoded::Digits => digits::run(text, state),
        }
    }
}
