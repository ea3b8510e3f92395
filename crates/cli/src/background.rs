//! What goes on beside a command's own work until that is done, and is never needed for it.

use std::sync::mpsc::{Receiver, RecvTimeoutError, Sender, channel};
use std::thread::{Builder, JoinHandle};
use std::time::Duration;

/// A thread that is told to end when this is dropped.
pub struct Background {
    done: Option<Sender<()>>,
    thread: Option<JoinHandle<()>>,
}

/// Tells such a thread when it is to end.
pub struct Until(Receiver<()>);

impl Background {
    /// Begins `work`; where the system has no thread for it, it is left out.
    pub fn begin(name: &str, work: impl FnOnce(&Until) + Send + 'static) -> Self {
        let (done, wait) = channel();
        let thread = Builder::new().name(name.to_owned()).spawn(move || work(&Until(wait)));
        Self { done: Some(done), thread: thread.ok() }
    }

    /// Returns whether the system had a thread for it.
    pub fn is_running(&self) -> bool {
        self.thread.is_some()
    }
}

impl Until {
    /// Waits for `span`, and returns whether the work is to go on then.
    pub fn goes_on_after(&self, span: Duration) -> bool {
        self.0.recv_timeout(span) == Err(RecvTimeoutError::Timeout)
    }
}

impl Drop for Background {
    fn drop(&mut self) {
        drop(self.done.take());
        // It only waits for this.
        let _ = self.thread.take().map(JoinHandle::join);
    }
}
