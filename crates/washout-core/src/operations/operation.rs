//! What all operations have in common.

use std::fmt::Debug;

use super::compiled_rule::{BlockContext, RuleState};
use super::merged::CharRule;
use crate::matching::Finder;
use crate::text::haystack::Haystack;
use crate::text::stand_ins::StandIns;

/// What a verb does to a text. Each verb has a file with one of these.
///
/// An operation sees blocks of whole lines and says which changes it makes there. It knows nothing of scopes, of files or of
/// other rules; a [`CompiledRule`](super::CompiledRule) takes care of these.
pub(crate) trait Operation: CloneOperation + Debug + Send + Sync {
    /// How it uses lines.
    fn line_use(&self) -> LineUse;

    /// Works out the changes to a block of whole lines, and leaves them in `state.edits`.
    fn run(&self, block: Haystack<'_>, context: BlockContext, state: &mut RuleState);

    /// What finds its matches, if its verb has a target.
    fn finder(&self) -> Option<&Finder> {
        None
    }

    /// The same, to be changed.
    fn finder_mut(&mut self) -> Option<&mut Finder> {
        None
    }

    /// From now on these count as blanks.
    fn count_as_blanks(&mut self, blanks: StandIns) {
        if let Some(finder) = self.finder_mut() {
            finder.count_as_blanks(blanks);
        }
    }

    /// Whether it looks only where the requirements of its rule are met, if it is told these places.
    fn looks_near(&self) -> bool {
        false
    }

    /// What it does, if that is to put something in place of single characters, wherever they stand.
    fn char_rule(&self) -> Option<CharRule<'_>> {
        None
    }

    /// The longest match, in characters, if a line can be judged in parts given that much text after each part.
    fn longest_match(&self) -> Option<usize> {
        None
    }

    /// Judges lines from `from` to `limit`, which is the end of a whole line or of the text. Gives up to where it has judged.
    fn judge(&self, text: &[u8], from: usize, limit: usize, context: BlockContext, state: &mut RuleState) -> usize {
        if limit > 0 {
            self.run(text[..limit].into(), context, state);
            state.edits.retain_within(from..limit);
        }
        state.retry_at = 0;
        limit
    }

    /// Judges as much of a text as it can, the last line included if that goes on. `None`: it needs whole lines.
    fn judge_open_line(&self, _text: &[u8], _from: usize, _last: bool, _state: &mut RuleState) -> Option<usize> {
        None
    }

    /// From now on a text is one line, line ends included. Whether that makes a difference.
    fn take_text_as_line(&mut self) -> bool {
        false
    }

    /// From now on a change of a whole line leaves its line end.
    fn spare_line_ends(&mut self) {}

    /// Whether it gives numbers that go on from text to text.
    fn is_numbering(&self) -> bool {
        false
    }

    /// Whether it remembers all lines of a text.
    fn remembers_text(&self) -> bool {
        false
    }

    /// What it has to see, in words. `lines`: what its searches have to see.
    fn needs(&self, lines: String) -> String {
        lines
    }
}

/// How an operation uses lines.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum LineUse {
    /// What it does to a line depends on that line alone. `keeps_number`: it makes no line of two, nor two of one; a line
    /// can only go as a whole.
    Alone { keeps_number: bool },
    /// What it does to a line depends on other lines.
    WithOthers,
    /// It acts on line ends, and needs to see no line whole.
    LineEnds,
}

impl LineUse {
    pub(super) const KEEPS_NUMBER: Self = Self::Alone { keeps_number: true };
    pub(super) const CHANGES_NUMBER: Self = Self::Alone { keeps_number: false };

    /// For an operation that puts this text in place, which may hold line ends.
    pub(super) fn of_put(put: impl AsRef<[u8]>) -> Self {
        Self::Alone { keeps_number: memchr::memchr2(b'\n', b'\r', put.as_ref()).is_none() }
    }
}

/// A copy of an operation whose type is not known: [`Clone`] itself cannot be asked of a trait object.
pub(crate) trait CloneOperation {
    fn clone_box(&self) -> Box<dyn Operation>;
}

impl<T: Operation + Clone + 'static> CloneOperation for T {
    fn clone_box(&self) -> Box<dyn Operation> {
        Box::new(self.clone())
    }
}

impl Clone for Box<dyn Operation> {
    fn clone(&self) -> Self {
        self.as_ref().clone_box()
    }
}
