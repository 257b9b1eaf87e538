//! What the editor has sent and was not taken yet.

use std::cell::RefCell;
use std::collections::VecDeque;

use lsp_server::{Message, RequestId};

use super::protocol::cancelled;

/// Messages in the order they came. What takes long asks in between whether it is still wanted.
pub(super) struct Messages<'c> {
    connection: &'c lsp_server::Connection,
    waiting: RefCell<VecDeque<Message>>,
}

impl<'c> Messages<'c> {
    pub(super) fn of(connection: &'c lsp_server::Connection) -> Self {
        Self { connection, waiting: RefCell::default() }
    }

    /// Takes the next message. Without `waits`, `None` means that there is none now; with it, that the editor is gone.
    pub(super) fn next(&self, waits: bool) -> Option<Message> {
        self.take_in();
        let next = self.waiting.borrow_mut().pop_front();
        if next.is_none() && waits { self.connection.receiver.recv().ok() } else { next }
    }

    /// Whether the editor has taken this request back.
    pub(super) fn is_cancelled(&self, id: &RequestId) -> bool {
        self.take_in();
        self.waiting.borrow().iter().filter_map(cancelled).any(|other| other == *id)
    }

    /// Whether a text is to be changed or closed: what is worked out of texts now would be of older ones.
    pub(super) fn change_texts(&self) -> bool {
        self.take_in();
        let changes = |message: &Message| {
            matches!(message, Message::Notification(told)
                if ["textDocument/didChange", "textDocument/didClose", "exit"].contains(&told.method.as_str()))
        };
        self.waiting.borrow().iter().any(changes)
    }

    fn take_in(&self) {
        self.waiting.borrow_mut().extend(self.connection.receiver.try_iter());
    }
}
