//! A line on standard error while something takes long; nothing where it does not.

use anstream::stderr;
use honest_lap_core::record::plain_line;
use indicatif::{ProgressBar, ProgressStyle};
use std::io::{IsTerminal, Write, stderr as plain_stderr};
use std::sync::mpsc::{Receiver, RecvTimeoutError, Sender, channel};
use std::thread::JoinHandle;
use std::time::Duration;

/// What takes no longer than this is done before a line about it could be read.
const SHORT: Duration = Duration::from_secs(1);
const TICK: Duration = Duration::from_millis(200);

/// Says what is under way until it is dropped: at a terminal with the time that it took so far, elsewhere once.
pub struct Working {
    done: Option<Sender<()>>,
    line: Option<JoinHandle<()>>,
}

impl Working {
    /// Begins to say `what` is under way.
    pub fn on(what: &str) -> Self {
        let (done, wait) = channel();
        let what = plain_line(what).to_string();
        // Without a thread to say it there is no line, and the work goes on.
        let line = std::thread::Builder::new().name("working".into());
        let line = line.spawn(move || say(&what, &wait)).ok();
        Self { done: Some(done), line }
    }
}

impl Drop for Working {
    fn drop(&mut self) {
        drop(self.done.take());
        // It only waits for this.
        let _ = self.line.take().map(JoinHandle::join);
    }
}

fn say(what: &str, done: &Receiver<()>) {
    if done.recv_timeout(SHORT) != Err(RecvTimeoutError::Timeout) {
        return;
    }
    if !plain_stderr().is_terminal() {
        let _ = writeln!(stderr(), "{what} …");
        return;
    }
    let bar = ProgressBar::new_spinner().with_elapsed(SHORT).with_message(what.to_owned());
    let style = ProgressStyle::with_template("{msg} … {elapsed}");
    bar.set_style(style.expect("the template above is well formed"));
    bar.tick();
    while done.recv_timeout(TICK) == Err(RecvTimeoutError::Timeout) {
        bar.tick();
    }
    bar.finish_and_clear();
}
